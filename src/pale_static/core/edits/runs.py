"""Steps moved, copied, removed and repeated, one or several at once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ..document import Effect, Note, Step, Tap
from ..faults import Fault
from ..steps import step_kind
from .models import (
    CopySteps,
    MoveStep,
    MoveSteps,
    ReleaseSteps,
    RemoveStep,
    RemoveSteps,
    RepeatSteps,
    StepPlace,
    TurnSteps,
)
from .places import (
    Place,
    lane_of,
    retapped,
    run_of,
    slug_of,
    step_of,
    still_read,
    title_of,
    told_apart,
    with_run,
    with_steps,
)


def meant(effect: Effect, places: Sequence[StepPlace]) -> dict[Place, Step]:
    """The steps named, in document order, without those that a named repeat holds anyway."""
    asked = {(place.lane, place.step) for place in places}
    for place in places:
        step_of(effect, place.lane, place.step)
    found: dict[Place, Step] = {}
    for lane in effect.lanes:
        for step in lane.steps:
            for one in [step] if (lane.id, step.id) in asked else step.steps:
                if (lane.id, one.id) in asked:
                    found[lane.id, one.id] = one
    return found


def _told(steps: dict[Place, Step]) -> str:
    names = [title_of(step) for step in steps.values()]
    return names[0] if len(names) == 1 else f"{len(names)} steps"


def put_in(effect: Effect, steps: Sequence[Step], lane: str, at: int, inside: str | None) -> Effect:
    """Steps at a place of a lane or a repeat; refused where they could not stand there."""
    if inside is not None:
        for step in steps:
            if step.kind == "repeat":
                raise Fault(f"{title_of(step)} cannot go into another repeat.", lane)
            if step_kind(step.kind).main is None:
                raise Fault(f"{title_of(step)} starts a lane; it cannot go into a repeat.", lane)
    run = list(run_of(effect, lane, inside))
    at = min(max(at, 0), len(run))
    run[at:at] = steps
    name = lane_of(effect, lane).name
    if inside is None and run and step_kind(run[0].kind).main is not None:
        raise Fault(
            f"{title_of(run[0])} cannot come first in “{name}”: it needs a picture to work on.",
            lane,
        )
    for step in run[1:] if inside is None else run:
        if step_kind(step.kind).main is None:
            raise Fault(
                f"{title_of(step)} starts a lane; it cannot follow another step in “{name}”.", lane
            )
    return with_run(effect, lane, inside, run)


def named(
    effect: Effect, steps: dict[Place, Step], to: str
) -> tuple[list[Step], dict[Place, Place]]:
    """The steps with identifiers that are free in a lane, and where each of them is then."""
    taken = [step.id for step in lane_of(effect, to).every]
    places: dict[Place, Place] = {}
    named = []
    for (lane, _), step in steps.items():
        held = []
        for one in (step, *step.steps):
            new = slug_of(one.id, taken) if one.id in taken else one.id
            taken.append(new)
            places[lane, one.id] = (to, new)
            held.append(one.model_copy(update={"id": new}))
        named.append(held[0].model_copy(update={"steps": tuple(held[1:])}))
    return named, places


def tap_at(tap: Tap, places: Mapping[Place, Place]) -> Tap:
    """A tap that follows the step it reads to its new place."""
    found = places.get((tap.lane, tap.step or ""))
    return tap.model_copy(update={"lane": found[0], "step": found[1]}) if found else tap


def move_steps(effect: Effect, edit: MoveSteps) -> tuple[Effect, str]:
    """With steps elsewhere, in the order they were in; what reads them still does."""
    steps = meant(effect, edit.steps)
    if edit.inside is not None and (edit.to, edit.inside) in steps:
        raise Fault("A repeat cannot go into itself.", edit.to)
    rest = with_steps(effect, lambda at, step: None if at in steps else step)
    fresh, places = named(rest, steps, edit.to)
    changed = put_in(rest, fresh, edit.to, edit.at, edit.inside)
    changed = with_steps(changed, lambda _, step: retapped(step, lambda tap: tap_at(tap, places)))
    notes = tuple(_pinned(note, places) for note in effect.notes)
    changed = changed.model_copy(update={"notes": notes})
    return still_read(effect, changed, places), f"{_told(steps)} moved"


def _pinned(note: Note, places: dict[Place, Place]) -> Note:
    found = places.get((note.lane or "", note.step or ""))
    return note.model_copy(update={"lane": found[0], "step": found[1]}) if found else note


def move_step(effect: Effect, edit: MoveStep) -> tuple[Effect, str]:
    """With a step elsewhere; what reads it still does."""
    place = StepPlace(lane=edit.lane, step=edit.step)
    return move_steps(effect, MoveSteps(steps=(place,), to=edit.to, at=edit.at))


def copy_steps(effect: Effect, edit: CopySteps) -> tuple[Effect, str]:
    """With steps once more; what they read of each other they read of the copies."""
    steps = meant(effect, edit.steps)
    fresh, places = named(effect, steps, edit.to)
    copies = [_with_own(step, places) for step in fresh]
    changed = put_in(effect, copies, edit.to, edit.at, edit.inside)
    return told_apart(changed, places), f"{_told(steps)} copied"


def _with_own(step: Step, places: dict[Place, Place]) -> Step:
    held = tuple(_with_own(inner, places) for inner in step.steps)
    return retapped(step.model_copy(update={"steps": held}), lambda tap: tap_at(tap, places))


def remove_steps(effect: Effect, edit: RemoveSteps) -> tuple[Effect, str]:
    """Without steps, and without the inputs and notes that belong to them."""
    steps = meant(effect, edit.steps)
    gone = {(lane, one.id) for (lane, _), step in steps.items() for one in (step, *step.steps)}
    changed = with_steps(effect, lambda at, step: None if at in gone else step)
    changed = with_steps(
        changed,
        lambda _, step: retapped(step, lambda tap: None if (tap.lane, tap.step) in gone else tap),
    )
    notes = tuple(note for note in effect.notes if (note.lane, note.step) not in gone)
    return changed.model_copy(update={"notes": notes}), f"{_told(steps)} removed"


def remove_step(effect: Effect, edit: RemoveStep) -> tuple[Effect, str]:
    """Without a step, and without the inputs that read it."""
    place = StepPlace(lane=edit.lane, step=edit.step)
    return remove_steps(effect, RemoveSteps(steps=(place,)))


def turn_steps(effect: Effect, edit: TurnSteps) -> tuple[Effect, str]:
    """With steps in or out."""
    steps = meant(effect, edit.steps)
    changed = with_steps(
        effect, lambda at, step: step.model_copy(update={"on": edit.on}) if at in steps else step
    )
    return changed, f"{_told(steps)} {'on' if edit.on else 'off'}"


def repeat_steps(effect: Effect, edit: RepeatSteps) -> tuple[Effect, str]:
    """With neighbouring steps held by a repeat."""
    lane = lane_of(effect, edit.lane)
    order = [step.id for step in lane.steps]
    for name in edit.steps:
        if name not in order:
            title = title_of(step_of(effect, lane.id, name))
            raise Fault(f"{title} is in a repeat already.", lane.id)
    places = sorted(order.index(name) for name in set(edit.steps))
    first, last = places[0], places[-1]
    if last - first + 1 != len(places):
        raise Fault(
            "Only neighbours can be repeated together. Choose the steps between too.", lane.id
        )
    run = lane.steps[first : last + 1]
    if first == 0 and step_kind(run[0].kind).main is None:
        raise Fault(f"{title_of(run[0])} starts the lane, so it cannot be repeated.", lane.id)
    repeat = Step(id=slug_of("repeat", [step.id for step in lane.every]), kind="repeat")
    rest = with_run(effect, lane.id, None, (*lane.steps[:first], repeat, *lane.steps[last + 1 :]))
    return put_in(rest, run, lane.id, 0, repeat.id), f"{len(run)} steps repeated"


def release_steps(effect: Effect, edit: ReleaseSteps) -> tuple[Effect, str]:
    """With a repeat's steps in its place; who read the repeat reads the last of them."""
    repeat, lane = step_of(effect, edit.lane, edit.step), lane_of(effect, edit.lane)
    at = [step.id for step in lane.steps].index(repeat.id)
    changed = with_run(
        effect, lane.id, None, (*lane.steps[:at], *repeat.steps, *lane.steps[at + 1 :])
    )
    above = lane.steps[at - 1].id
    inside = {(lane.id, step.id) for step in repeat.steps}
    last = repeat.steps[-1].id if repeat.steps else above

    def read(place: Place, tap: Tap) -> Tap:
        if (tap.lane, tap.step) != (lane.id, repeat.id):
            return tap
        return tap.model_copy(update={"step": above if place in inside else last})

    changed = with_steps(changed, lambda place, step: retapped(step, lambda tap: read(place, tap)))
    return changed, f"{title_of(repeat)} taken away, its steps kept"
