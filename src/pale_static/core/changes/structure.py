"""Lanes and steps: adding, moving, naming, removing."""

from __future__ import annotations

from ..document import Control, Effect, Input, Kind, Lane, Slot, Step
from ..documents.graph import Graph
from ..faults import Fault, Missing
from ..steps import MACRO, StepKind, kind_of
from ..values.value import Link
from .macros import held
from .models import (
    AddLane,
    AddSlot,
    AddStep,
    CopyLane,
    NameStep,
    RemoveLane,
    RemoveSlot,
    SetHead,
    SetLane,
    SetNotes,
    SetSlot,
)
from .places import (
    called_after,
    free_name,
    lane_of,
    run_of,
    slug_of,
    step_of,
    still_read,
    title_of,
    told_apart,
    with_inputs,
    with_lane,
    with_run,
    with_step,
    with_steps,
)


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
    first = Step(id="continue-from", kind="continue-from", inputs={"from": Input(lane="from")})
    controls: tuple[Control, ...] = ()
    if kind == "look":
        first = first.model_copy(update={"inputs": {"from": Input(lane="clip")}})
    if kind == "title":
        # The text is what every editor of a title changes, so it is a control from the start.
        text = Step(id="title", kind="title", values={"text": Link(control="text")})
        lanes.append(Lane(id="lettering", name="Lettering", steps=(text,)))
        controls = (Control(slug="text", label="Text", type="text", default="Lantern Line"),)
        first = first.model_copy(update={"inputs": {"from": Input(lane="lettering")}})
    if kind == "texture":
        first = Step(id="flat", kind="flat", values={"colour": "#000000"})
    lanes.append(Lane(id="out", name="Out", steps=(first,)))
    return Effect(name=name, kind=kind, slots=tuple(slots), lanes=tuple(lanes), controls=controls)


def set_head(effect: Effect, change: SetHead) -> tuple[Effect, str]:
    """The effect with another name, sentence, tags or length."""
    update = change.model_dump(mode="json", exclude={"do"}, exclude_none=True)
    changed = Effect.model_validate(effect.to_json() | update)
    if "seconds" in update:
        return changed, f"Length: {effect.seconds:g} s → {changed.seconds:g} s"
    if "rate" in update:
        return (
            changed,
            f"Frame rate: {float(effect.frame_rate):.5g} → {float(changed.frame_rate):.5g}",
        )
    if "name" in update:
        return changed, f"Named {changed.name}"
    if "backwards" in update:
        return changed, "Plays backwards" if changed.backwards else "Plays forwards"
    return changed, "Description changed"


def add_lane(effect: Effect, change: AddLane) -> tuple[Effect, str]:
    """The effect with an empty lane before the output."""
    lane = Lane(id=slug_of(change.name, [lane.id for lane in effect.lanes]), name=change.name)
    lanes = (*effect.lanes[:-1], lane, effect.lanes[-1])
    return effect.model_copy(update={"lanes": lanes}), f"Lane {change.name} added"


def set_lane(effect: Effect, change: SetLane) -> tuple[Effect, str]:
    """The effect with a lane named, folded or moved."""
    lane = lane_of(effect, change.lane)
    update = change.model_dump(include={"name", "folded"}, exclude_none=True)
    changed = with_lane(effect, lane.model_copy(update=update))
    if change.at is not None:
        if lane.id == effect.lanes[-1].id:
            raise Fault(f"“{lane.name}” gives the picture; it stays at the right.", lane.id)
        rest = [other for other in changed.lanes if other.id != lane.id]
        at = min(max(change.at, 0), len(rest) - 1)
        rest.insert(at, next(other for other in changed.lanes if other.id == lane.id))
        return changed.model_copy(update={"lanes": tuple(rest)}), f"Lane {lane.name} moved"
    if change.name is not None:
        return still_read(effect, changed), f"Lane {lane.name} named {change.name}"
    return changed, f"Lane {lane.name} {'folded' if change.folded else 'unfolded'}"


def copy_lane(effect: Effect, change: CopyLane) -> tuple[Effect, str]:
    """The effect with a copy of a lane right after it."""
    lane = lane_of(effect, change.lane)
    name = free_name(effect, lane.name)
    copy = lane.model_copy(
        update={
            "id": slug_of(name, [old.id for old in effect.lanes]),
            "name": name,
        }
    )
    own = tuple(_own_inputs(step, lane.id, copy.id) for step in lane.steps)
    copy = copy.model_copy(update={"steps": own})
    index = effect.lanes.index(lane)
    # A copy of the output is a lane like others: what gives the picture stays last.
    at = index if index == len(effect.lanes) - 1 else index + 1
    lanes = (*effect.lanes[:at], copy, *effect.lanes[at:])
    moved = {(lane.id, step.id): (copy.id, step.id) for step in lane.every}
    changed = effect.model_copy(update={"lanes": lanes})
    return told_apart(changed, moved), f"Lane {lane.name} copied"


def _own_inputs(step: Step, lane: str, copy: str) -> Step:
    """The copied step. Where an input read the lane being copied, it reads the copy."""
    held = tuple(_own_inputs(inner, lane, copy) for inner in step.steps)
    changed = step if held == step.steps else step.model_copy(update={"steps": held})
    return with_inputs(
        changed,
        lambda source: source.model_copy(update={"lane": copy}) if source.lane == lane else source,
    )


def remove_lane(effect: Effect, change: RemoveLane) -> tuple[Effect, str]:
    """The effect without a lane, and without the inputs that read it."""
    lane = lane_of(effect, change.lane)
    if lane.id == effect.lanes[-1].id:
        raise Fault(f"“{lane.name}” gives the picture; it cannot go.", lane.id)
    notes = tuple(note for note in effect.notes if note.lane != lane.id)
    lanes = tuple(old for old in effect.lanes if old.id != lane.id)
    changed = effect.model_copy(update={"lanes": lanes, "notes": notes})
    changed = with_steps(
        changed,
        lambda _, step: with_inputs(
            step, lambda source: None if source.lane == lane.id else source
        ),
    )
    return changed, f"Lane {lane.name} removed"


def _guess_inputs(effect: Effect, lane: Lane, kind: StepKind) -> dict[str, Input]:
    """Inputs for a new step. The incoming clip comes first. Of the other lanes an unused one is
    preferred, then one of the right kind (a matte if the input takes mattes, else a picture), then
    the nearest. An unused clip counts as a lane. If an unused matte waits too, it limits the clip
    that is laid over.

    Only lanes that do not read this one are considered, so a guess never makes a loop.
    """
    graph = Graph(effect)
    order = [other.id for other in effect.lanes]
    index = order.index(lane.id)
    # Other lanes feed the output; it feeds none of them.
    free = [
        other
        for other in effect.lanes[:-1]
        if other.steps and other.id != lane.id and lane.id not in graph.lanes_read(other.id)
    ]
    free.sort(key=lambda other: -abs(order.index(other.id) - index))
    fed = {
        source.lane
        for other in effect.lanes
        for step in other.every
        for source in step.inputs.values()
    }
    slots = [o for o in free if o.steps[0].kind == "slot"]
    waiting = [o for o in slots if o.id not in fed]
    made = [o for o in free if o not in slots]
    inputs: dict[str, Input] = {}
    for source in kind.inputs:
        matte = source.takes == "matte"
        mattes = matte or graph.lane_gives_matte(lane.id)
        if source.optional:
            # Only if there is one candidate.
            laid = {other.lane for other in inputs.values()} & {o.id for o in waiting}
            pool = [o for o in made if o.id not in fed and graph.lane_gives_matte(o.id)]
            if not (matte and source.name == "matte" and laid and len(pool) == 1):
                continue
        elif source.name in ("incoming", "to"):
            pool = [o for o in slots if o.id == "to"] or slots
        else:
            pool = made if matte else made + waiting
            # The best comes last.
            pool.sort(key=lambda o: (o.id not in fed, graph.lane_gives_matte(o.id) == mattes))
            pool = pool or slots[:1]
        if pool:
            inputs[source.name] = Input(lane=pool[-1].id)
    return inputs


def add_step(effect: Effect, change: AddStep) -> tuple[Effect, str]:
    """The effect with a new step. Its inputs are chosen if only one choice makes sense."""
    if change.lane is None:
        effect, _ = add_lane(effect, AddLane())
        change = change.model_copy(update={"lane": effect.lanes[-2].id, "at": 0, "inside": None})
    assert change.lane is not None
    lane = lane_of(effect, change.lane)
    macro = held(change.macro) if change.macro else None
    bare = Step(id="new", kind=MACRO if macro else change.kind, macro=macro)
    kind = kind_of(bare)
    run = run_of(effect, change.lane, change.inside)
    at = len(run) if change.at is None else min(max(change.at, 0), len(run))
    wrong = kind.misplaced(first=at == 0 and change.inside is None, who=kind.label)
    if wrong and not wrong.open:
        raise Fault(wrong.sentence, lane.id)
    if change.inside is None and at == 0 and lane.steps and kind_of(lane.steps[0]).main is None:
        raise Fault(f"“{lane.name}” starts with {title_of(lane.steps[0])}; put it below.", lane.id)
    step = Step(
        id=slug_of(macro.slug if macro else kind.kind, [old.id for old in lane.every]),
        kind=kind.kind,
        macro=macro,
        values=dict(kind.fresh) | change.values,
        inputs=_guess_inputs(effect, lane, kind),
    )
    changed = with_run(effect, lane.id, change.inside, (*run[:at], step, *run[at:]))
    if not lane.steps:
        first = step.inputs.get("from") if kind.kind == "continue-from" else None
        start = lane_of(effect, first.lane).name if first else kind.label
        changed = called_after(changed, lane.id, start)
    return changed, f"{kind.label} added"


def name_step(effect: Effect, change: NameStep) -> tuple[Effect, str]:
    """The effect with another name for a step."""
    step = step_of(effect, change.lane, change.step)
    changed = with_step(effect, change.lane, step.model_copy(update={"name": change.name}))
    changed = still_read(effect, changed)
    return changed, f"{title_of(step)} named {change.name or kind_of(step).label}"


def set_slot(effect: Effect, change: SetSlot) -> tuple[Effect, str]:
    """The effect with another stand-in for a slot."""
    slot = effect.slot(change.slot)
    if slot is None:
        raise Missing(f"There is no slot “{change.slot}”.", change.slot)
    about = change.model_dump(include={"name", "help", "fallback"}, exclude_none=True)
    if change.fallback == "clip" and slot.id in ("from", "to", "clip"):
        raise Fault(f"“{slot.name}” is the clip itself. It needs nothing in its place.", slot.id)
    new = slot.model_copy(update=about or {"stand_in": change.stand_in})
    slots = tuple(new if old.id == slot.id else old for old in effect.slots)
    said = f"Slot {slot.name} described" if about else f"Stand-in for {slot.name} chosen"
    return effect.model_copy(update={"slots": slots}), said


def add_slot(effect: Effect, change: AddSlot) -> tuple[Effect, str]:
    """The effect with one more slot, and a lane that shows it."""
    taken = [*(slot.id for slot in effect.slots), *(lane.id for lane in effect.lanes)]
    slot = Slot(id=slug_of(change.name, taken), name=change.name, kind=change.kind)
    step = Step(id="slot", kind="slot", values={"slot": slot.id})
    lane = Lane(id=slot.id, name=change.name, steps=(step,))
    update = {
        "slots": (*effect.slots, slot),
        "lanes": (*effect.lanes[:-1], lane, effect.lanes[-1]),
    }
    return effect.model_copy(update=update), f"Slot {change.name} added"


def remove_slot(effect: Effect, change: RemoveSlot) -> tuple[Effect, str]:
    """The effect without a slot; a fault if a step shows it."""
    slot = effect.slot(change.slot)
    if slot is None:
        raise Missing(f"There is no slot “{change.slot}”.", change.slot)
    if len(effect.slots) <= {"transition": 2, "look": 1}.get(effect.kind, 0) and slot.id in (
        "from", "to", "clip",
    ):  # fmt: skip
        raise Fault(f"“{slot.name}” is what a {effect.kind} works on; it stays.", slot.id)
    for lane in effect.lanes:
        for step in lane.every:
            if step.kind == "slot" and step.values.get("slot", "clip") == slot.id:
                raise Fault(
                    f"“{slot.name}” is shown by {title_of(step)} in “{lane.name}”. Remove that "
                    f"first.",
                    lane.id,
                )
    slots = tuple(old for old in effect.slots if old.id != slot.id)
    return effect.model_copy(update={"slots": slots}), f"Slot {slot.name} removed"


def set_notes(effect: Effect, change: SetNotes) -> tuple[Effect, str]:
    """The effect with other notes."""
    return effect.model_copy(update={"notes": change.notes}), "Notes changed"
