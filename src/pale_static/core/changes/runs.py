"""Steps moved, copied, removed and repeated, one or several at once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ..document import Effect, Input, Note, Step
from ..faults import Fault
from ..steps import kind_of, step_kinds
from .models import (
    CopySteps,
    MoveSteps,
    ReleaseSteps,
    RemoveSteps,
    RepeatSteps,
    StepPlace,
    TurnSteps,
)
from .places import (
    Place,
    lane_of,
    run_of,
    slug_of,
    step_of,
    still_read,
    title_of,
    told_apart,
    with_inputs,
    with_run,
    with_steps,
)


def meant(effect: Effect, places: Sequence[StepPlace]) -> dict[Place, Step]:
    """The named steps in document order, without steps inside a repeat that is named too."""
    asked = {(place.lane, place.step) for place in places}
    for place in places:
        step_of(effect, place.lane, place.step)
    steps_at: dict[Place, Step] = {}
    for lane in effect.lanes:
        for step in lane.steps:
            for one in [step] if (lane.id, step.id) in asked else step.steps:
                if (lane.id, one.id) in asked:
                    steps_at[lane.id, one.id] = one
    return steps_at


def _told(steps: dict[Place, Step]) -> str:
    names = [title_of(step) for step in steps.values()]
    return names[0] if len(names) == 1 else f"{len(names)} steps"


def put_in(effect: Effect, steps: Sequence[Step], lane: str, at: int, inside: str | None) -> Effect:
    """The effect with steps inserted in a lane or a repeat; a fault if they may not stand there."""
    if inside is not None:
        for step in steps:
            if kind_of(step).holds:
                raise Fault(f"{title_of(step)} cannot go into another repeat.", lane)
    run = list(run_of(effect, lane, inside))
    at = min(max(at, 0), len(run))
    run[at:at] = steps
    name = lane_of(effect, lane).name
    for k, step in enumerate(run):
        first = inside is None and not k
        wrong = kind_of(step).misplaced(first, f"{name} · {title_of(step)}")
        if wrong:
            raise Fault(wrong.sentence, lane)
    return with_run(effect, lane, inside, run)


def named(
    effect: Effect, steps: dict[Place, Step], to: str
) -> tuple[list[Step], dict[Place, Place]]:
    """The steps with identifiers that are free in a lane, and the new place of each."""
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


def input_at(source: Input, places: Mapping[Place, Place]) -> Input:
    """An input that follows the step it reads to its new place."""
    moved_to = places.get((source.lane, source.step or ""))
    return (
        source.model_copy(update={"lane": moved_to[0], "step": moved_to[1]}) if moved_to else source
    )


def move_steps(effect: Effect, change: MoveSteps) -> tuple[Effect, str]:
    """The effect with steps moved, in their order; inputs that read them follow."""
    steps = meant(effect, change.steps)
    if change.inside is not None and (change.to, change.inside) in steps:
        raise Fault("A repeat cannot go into itself.", change.to)
    rest = with_steps(effect, lambda at, step: None if at in steps else step)
    fresh, places = named(rest, steps, change.to)
    changed = put_in(rest, fresh, change.to, change.at, change.inside)
    changed = with_steps(
        changed, lambda _, step: with_inputs(step, lambda source: input_at(source, places))
    )
    notes = tuple(_pinned(note, places) for note in effect.notes)
    changed = changed.model_copy(update={"notes": notes})
    return still_read(effect, changed, places), f"{_told(steps)} moved"


def _pinned(note: Note, places: dict[Place, Place]) -> Note:
    moved_to = places.get((note.lane or "", note.step or ""))
    return note.model_copy(update={"lane": moved_to[0], "step": moved_to[1]}) if moved_to else note


def copy_steps(effect: Effect, change: CopySteps) -> tuple[Effect, str]:
    """The effect with copies of steps; inputs among the copies read copies."""
    steps = meant(effect, change.steps)
    fresh, places = named(effect, steps, change.to)
    copies = [_with_own(step, places) for step in fresh]
    changed = put_in(effect, copies, change.to, change.at, change.inside)
    return told_apart(changed, places), f"{_told(steps)} copied"


def _with_own(step: Step, places: dict[Place, Place]) -> Step:
    held = tuple(_with_own(inner, places) for inner in step.steps)
    return with_inputs(
        step.model_copy(update={"steps": held}), lambda source: input_at(source, places)
    )


def remove_steps(effect: Effect, change: RemoveSteps) -> tuple[Effect, str]:
    """The effect without steps, and without the inputs and notes that belong to them."""
    steps = meant(effect, change.steps)
    gone = {(lane, one.id) for (lane, _), step in steps.items() for one in (step, *step.steps)}
    changed = with_steps(effect, lambda at, step: None if at in gone else step)
    changed = with_steps(
        changed,
        lambda _, step: with_inputs(
            step, lambda source: None if (source.lane, source.step) in gone else source
        ),
    )
    notes = tuple(note for note in effect.notes if (note.lane, note.step) not in gone)
    return changed.model_copy(update={"notes": notes}), f"{_told(steps)} removed"


def turn_steps(effect: Effect, change: TurnSteps) -> tuple[Effect, str]:
    """The effect with steps turned on or off."""
    steps = meant(effect, change.steps)
    changed = with_steps(
        effect, lambda at, step: step.model_copy(update={"on": change.on}) if at in steps else step
    )
    return changed, f"{_told(steps)} {'on' if change.on else 'off'}"


def repeat_steps(effect: Effect, change: RepeatSteps) -> tuple[Effect, str]:
    """The effect with neighbouring steps held by a repeat."""
    lane = lane_of(effect, change.lane)
    order = [step.id for step in lane.steps]
    for name in change.steps:
        if name not in order:
            title = title_of(step_of(effect, lane.id, name))
            raise Fault(f"{title} is in a repeat already.", lane.id)
    places = sorted(order.index(name) for name in set(change.steps))
    first, last = places[0], places[-1]
    if last - first + 1 != len(places):
        raise Fault(
            "Only neighbours can be repeated together. Choose the steps between too.", lane.id
        )
    run = lane.steps[first : last + 1]
    if first == 0 and kind_of(run[0]).main is None:
        raise Fault(f"{title_of(run[0])} starts the lane, so it cannot be repeated.", lane.id)
    kind = next(one.kind for one in step_kinds() if one.holds)
    repeat = Step(id=slug_of(kind, [step.id for step in lane.every]), kind=kind)
    rest = with_run(effect, lane.id, None, (*lane.steps[:first], repeat, *lane.steps[last + 1 :]))
    return put_in(rest, run, lane.id, 0, repeat.id), f"{len(run)} steps repeated"


def release_steps(effect: Effect, change: ReleaseSteps) -> tuple[Effect, str]:
    """The effect with a repeat replaced by its steps; inputs that read the repeat read the last
    step."""
    repeat, lane = step_of(effect, change.lane, change.step), lane_of(effect, change.lane)
    at = [step.id for step in lane.steps].index(repeat.id)
    changed = with_run(
        effect, lane.id, None, (*lane.steps[:at], *repeat.steps, *lane.steps[at + 1 :])
    )
    above = lane.steps[at - 1].id
    inside = {(lane.id, step.id) for step in repeat.steps}
    last = repeat.steps[-1].id if repeat.steps else above

    def read(place: Place, source: Input) -> Input:
        if (source.lane, source.step) != (lane.id, repeat.id):
            return source
        return source.model_copy(update={"step": above if place in inside else last})

    changed = with_steps(
        changed, lambda place, step: with_inputs(step, lambda source: read(place, source))
    )
    return changed, f"{title_of(repeat)} taken away, its steps kept"
