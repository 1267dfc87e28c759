"""Lanes and steps: adding, moving, naming, removing."""

from __future__ import annotations

import re
from collections.abc import Iterator
from itertools import count

from ..document import Control, Effect, Kind, Lane, Slot, Step, Tap
from ..faults import Fault, Missing
from ..steps import StepKind, step_kind
from ..values import Link
from .models import (
    AddLane,
    AddStep,
    MoveStep,
    RemoveLane,
    RemoveStep,
    SetHead,
    SetLane,
    SetNotes,
    SetSlot,
    SetStep,
)
from .places import lane_of, slug_of, step_of, title_of, with_lane, with_step


def new_effect(kind: Kind, name: str) -> Effect:
    """An empty effect of a kind, with its slots as lanes and an output to build on."""
    slots: list[Slot] = []
    if kind == "transition":
        slots = [
            Slot(id="from", name="From", help="The first clip."),
            Slot(id="to", name="To", help="The second clip."),
        ]
    elif kind == "look":
        slots = [Slot(id="clip", name="Clip", help="The clip it works on.")]
    lanes = [
        Lane(
            id=slot.id,
            name=slot.name,
            folded=True,
            steps=(Step(id="slot", kind="slot", values={"slot": slot.id}),),
        )
        for slot in slots
    ]
    first = Step(id="continue-from", kind="continue-from", taps={"from": Tap(lane="from")})
    controls: tuple[Control, ...] = ()
    if kind == "look":
        first = first.model_copy(update={"taps": {"from": Tap(lane="clip")}})
    if kind == "title":
        # The text is what every editor of a title changes, so it is a control from the start.
        text = Step(id="title", kind="title", values={"text": Link(control="text")})
        lanes.append(Lane(id="lettering", name="Lettering", steps=(text,)))
        controls = (Control(slug="text", label="Text", type="text", default="Lantern Line"),)
        first = first.model_copy(update={"taps": {"from": Tap(lane="lettering")}})
    if kind == "texture":
        first = Step(id="flat", kind="flat", values={"colour": "#000000"})
    lanes.append(Lane(id="out", name="Out", steps=(first,)))
    return Effect(name=name, kind=kind, slots=tuple(slots), lanes=tuple(lanes), controls=controls)


def set_head(effect: Effect, edit: SetHead) -> tuple[Effect, str]:
    """Name, sentence, tags or length."""
    update = edit.model_dump(mode="json", exclude={"do"}, exclude_none=True)
    changed = Effect.model_validate(effect.to_json() | update)
    if "seconds" in update:
        return changed, f"Length: {effect.seconds:g} s → {changed.seconds:g} s"
    if "name" in update:
        return changed, f"Named {changed.name}"
    if "backwards" in update:
        return changed, "Plays backwards" if changed.backwards else "Plays forwards"
    return changed, "Description changed"


def add_lane(effect: Effect, edit: AddLane) -> tuple[Effect, str]:
    """A new empty lane before the output."""
    lane = Lane(id=slug_of(edit.name, [lane.id for lane in effect.lanes]), name=edit.name)
    lanes = (*effect.lanes[:-1], lane, effect.lanes[-1])
    return effect.model_copy(update={"lanes": lanes}), f"Lane {edit.name} added"


def set_lane(effect: Effect, edit: SetLane) -> tuple[Effect, str]:
    """Name, fold or move a lane."""
    lane = lane_of(effect, edit.lane)
    update = edit.model_dump(include={"name", "folded"}, exclude_none=True)
    changed = with_lane(effect, lane.model_copy(update=update))
    if edit.at is not None:
        if lane.id == effect.lanes[-1].id:
            raise Fault(f"“{lane.name}” gives the picture; it stays at the right.", lane.id)
        rest = [other for other in changed.lanes if other.id != lane.id]
        at = min(max(edit.at, 0), len(rest) - 1)
        rest.insert(at, next(other for other in changed.lanes if other.id == lane.id))
        return changed.model_copy(update={"lanes": tuple(rest)}), f"Lane {lane.name} moved"
    if edit.name is not None:
        return changed, f"Lane {lane.name} named {edit.name}"
    return changed, f"Lane {lane.name} {'folded' if edit.folded else 'unfolded'}"


def remove_lane(effect: Effect, edit: RemoveLane) -> tuple[Effect, str]:
    """Without a lane, and without the inputs that read it."""
    lane = lane_of(effect, edit.lane)
    if lane.id == effect.lanes[-1].id:
        raise Fault(f"“{lane.name}” gives the picture; it cannot go.", lane.id)
    lanes = tuple(
        old.model_copy(update={"steps": tuple(_untapped(s, lane.id) for s in old.steps)})
        for old in effect.lanes
        if old.id != lane.id
    )
    notes = tuple(note for note in effect.notes if note.lane != lane.id)
    changed = effect.model_copy(update={"lanes": lanes, "notes": notes})
    return changed, f"Lane {lane.name} removed"


def _untapped(step: Step, lane: str, other: str | None = None) -> Step:
    """The step without inputs from a lane, or from one step of it."""
    taps = {
        name: tap
        for name, tap in step.taps.items()
        if tap.lane != lane or (other is not None and tap.step != other)
    }
    return step if len(taps) == len(step.taps) else step.model_copy(update={"taps": taps})


def gives_matte(effect: Effect, lane: Lane, depth: int = 0) -> bool:
    """Whether a lane ends in a matte, as far as its declarations tell."""
    for step in reversed(lane.steps):
        kind = step_kind(step.kind)
        if kind.matte_when is not None:
            return kind.matte_when(step.values)
        if kind.gives != "same":
            return kind.gives == "matte"
        if kind.main is None:
            tap = step.taps.get("from")
            other = effect.lane(tap.lane) if tap else None
            return other is not None and depth < 20 and gives_matte(effect, other, depth + 1)
    return False


def _reads(effect: Effect, lane: Lane) -> set[str]:
    """Every lane that this one takes in, directly or by others."""
    found: set[str] = set()
    waiting = [lane]
    while waiting:
        for step in waiting.pop().steps:
            for tap in step.taps.values():
                other = effect.lane(tap.lane)
                if other is not None and other.id not in found:
                    found.add(other.id)
                    waiting.append(other)
    return found


def _guess_taps(effect: Effect, lane: Lane, kind: StepKind) -> dict[str, Tap]:
    """Inputs for a new step: the incoming clip, and the nearest other lane, a matte for a matte.

    Only lanes that do not take this one in are considered, so nothing is guessed into a circle.
    """
    index = [other.id for other in effect.lanes].index(lane.id)
    free = [
        other
        for other in effect.lanes
        if other.steps and other.id != lane.id and lane.id not in _reads(effect, other)
    ]
    # The output is what others go into, not what they are made of.
    free = [other for other in free if other.id != effect.lanes[-1].id]
    order = [other.id for other in effect.lanes]
    before = sorted(free, key=lambda other: -abs(order.index(other.id) - index))
    taps: dict[str, Tap] = {}
    for tap in kind.taps:
        if tap.optional:
            continue
        slots = [o for o in before if o.steps[0].kind == "slot"]
        rest = [o for o in before if o not in slots]
        mattes = [o for o in rest if gives_matte(effect, o)]
        if tap.name == "incoming":
            pick = [o for o in slots if o.id == "to"] or slots
        elif tap.takes == "matte":
            pick = mattes or rest or slots[:1]
        else:
            pick = rest or slots[:1]
        if pick:
            taps[tap.name] = Tap(lane=pick[-1].id)
    return taps


def add_step(effect: Effect, edit: AddStep) -> tuple[Effect, str]:
    """With a new step, its inputs chosen where that is unambiguous."""
    lane, kind = lane_of(effect, edit.lane), step_kind(edit.kind)
    at = len(lane.steps) if edit.at is None else min(max(edit.at, 0), len(lane.steps))
    if kind.main is None and at > 0:
        raise Fault(
            f"{kind.label} starts a lane; it cannot follow another step. Add a lane for it.",
            lane.id,
        )
    if at == 0 and lane.steps and step_kind(lane.steps[0].kind).main is None:
        raise Fault(f"“{lane.name}” starts with {title_of(lane.steps[0])}; put it below.", lane.id)
    step = Step(
        id=slug_of(kind.kind, [old.id for old in lane.steps]),
        kind=kind.kind,
        values=dict(kind.fresh) | edit.values,
        taps=_guess_taps(effect, lane, kind),
    )
    steps = (*lane.steps[:at], step, *lane.steps[at:])
    name = lane.name
    if not lane.steps and re.fullmatch(r"Lane( \d+)?", name):
        # A lane without a name of its own is called after what it starts with.
        taken = {other.name for other in effect.lanes}
        name = next(n for n in _numbered(kind.label) if n not in taken)
    changed = lane.model_copy(update={"steps": steps, "name": name})
    return with_lane(effect, changed), f"{kind.label} added"


def _numbered(name: str) -> Iterator[str]:
    """A name, and then it with 2, 3, … after it."""
    yield name
    for number in count(2):
        yield f"{name} {number}"


def move_step(effect: Effect, edit: MoveStep) -> tuple[Effect, str]:
    """With a step elsewhere; what reads it still does."""
    step, source, target = (
        step_of(effect, edit.lane, edit.step),
        lane_of(effect, edit.lane),
        lane_of(effect, edit.to),
    )
    rest = tuple(old for old in source.steps if old.id != step.id)
    changed = with_lane(effect, source.model_copy(update={"steps": rest}))
    into = list(lane_of(changed, target.id).steps)
    identifier = step.id if source.id == target.id else slug_of(step.id, [s.id for s in into])
    at = min(max(edit.at, 0), len(into))
    into.insert(at, step.model_copy(update={"id": identifier}))
    if step_kind(into[0].kind).main is not None:
        raise Fault(f"{title_of(into[0])} cannot come first in “{target.name}”.", target.id)
    moved = target.model_copy(update={"steps": tuple(into)})
    changed = with_lane(changed, moved)
    if (source.id, step.id) != (target.id, identifier):
        lanes = tuple(
            lane.model_copy(
                update={"steps": tuple(_retapped(s, edit, identifier) for s in lane.steps)}
            )
            for lane in changed.lanes
        )
        changed = changed.model_copy(update={"lanes": lanes})
    return changed, f"{title_of(step)} moved"


def _retapped(step: Step, edit: MoveStep, identifier: str) -> Step:
    taps = {
        name: tap.model_copy(update={"lane": edit.to, "step": identifier})
        if (tap.lane, tap.step) == (edit.lane, edit.step)
        else tap
        for name, tap in step.taps.items()
    }
    return step.model_copy(update={"taps": taps})


def remove_step(effect: Effect, edit: RemoveStep) -> tuple[Effect, str]:
    """Without a step, and without the inputs that read it."""
    step, lane = step_of(effect, edit.lane, edit.step), lane_of(effect, edit.lane)
    rest = tuple(old for old in lane.steps if old.id != step.id)
    changed = with_lane(effect, lane.model_copy(update={"steps": rest}))
    lanes = tuple(
        old.model_copy(update={"steps": tuple(_untapped(s, lane.id, step.id) for s in old.steps)})
        for old in changed.lanes
    )
    return changed.model_copy(update={"lanes": lanes}), f"{title_of(step)} removed"


def set_step(effect: Effect, edit: SetStep) -> tuple[Effect, str]:
    """Name a step, or take it in or out."""
    step = step_of(effect, edit.lane, edit.step)
    update = edit.model_dump(include={"name", "on"}, exclude_none=True)
    changed = with_step(effect, edit.lane, step.model_copy(update=update))
    if edit.on is not None:
        return changed, f"{title_of(step)} {'on' if edit.on else 'off'}"
    return changed, f"{title_of(step)} named {edit.name or step_kind(step.kind).label}"


def set_slot(effect: Effect, edit: SetSlot) -> tuple[Effect, str]:
    """With another stand-in for a slot."""
    slot = effect.slot(edit.slot)
    if slot is None:
        raise Missing(f"There is no slot “{edit.slot}”.", edit.slot)
    new = slot.model_copy(update={"stand_in": edit.stand_in})
    slots = tuple(new if old.id == slot.id else old for old in effect.slots)
    return effect.model_copy(update={"slots": slots}), f"Stand-in for {slot.name} chosen"


def set_notes(effect: Effect, edit: SetNotes) -> tuple[Effect, str]:
    """With other notes."""
    return effect.model_copy(update={"notes": edit.notes}), "Notes changed"
