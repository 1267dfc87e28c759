"""Keeping steps as a part, and putting a part in."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from ..document import Control, Effect, Input, Lane, Note, Step
from ..documents.checking import follows
from ..documents.graph import place_named
from ..documents.part import RUN, OpenInput, Part
from ..faults import Fault
from ..steps import kind_of
from ..values.formula import slug_matches, spelled
from ..values.value import Link
from .models import InsertPart, StepPlace
from .places import (
    Place,
    called_after,
    lane_of,
    retold,
    run_of,
    slug_of,
    step_of,
    title_of,
    with_inputs,
)
from .runs import input_at, meant, named, put_in


def keep_part(
    effect: Effect,
    name: str,
    *,
    steps: Sequence[StepPlace] = (),
    lanes: Sequence[str] = (),
    notes: str = "",
    tags: Sequence[str] = (),
) -> Part:
    """Steps of one lane, or whole lanes, as a part.

    Inputs that read anything else become named inputs of the part; their sources are chosen where
    the part is inserted. Controls and slots that the steps use are kept with them.

    Raises
    ------
    Fault
        If the steps are in several lanes, or a formula reads a step that is not kept.
    """
    if lanes:
        kept = tuple(lane for lane in effect.lanes if lane.id in set(lanes))
        for identifier in lanes:
            lane_of(effect, identifier)
    else:
        kept = (_run(effect, steps),)
    inside: dict[Place, Place] = {}
    for lane in kept:
        source = lane.id if lanes else steps[0].lane
        inside |= {(source, step.id): (lane.id, step.id) for step in lane.every}
    opened: dict[tuple[str, str | None], OpenInput] = {}

    def read(source: Input, takes: Any) -> Input:
        if lanes and source.lane in lanes:
            return source
        if (source.lane, source.step or "") in inside:
            place = inside[source.lane, source.step or ""]
            return source.model_copy(update={"lane": place[0], "step": place[1]})
        key = (source.lane, source.step)
        if key not in opened:
            lane = lane_of(effect, source.lane)
            told = lane.name
            if source.step is not None:
                told = f"{lane.name}, {title_of(step_of(effect, lane.id, source.step))}"
            opened[key] = OpenInput(id=f"input-{len(opened) + 1}", name=told, takes=takes)
        return source.model_copy(update={"lane": opened[key].id, "step": None})

    def kept_step(step: Step) -> Step:
        kind = kind_of(step)
        inputs = {
            name: read(source, found.takes if (found := kind.input(name)) else "either")
            for name, source in step.inputs.items()
        }
        held = tuple(kept_step(inner) for inner in step.steps)
        changed = step.model_copy(update={"inputs": inputs, "steps": held})
        return retold(changed, lambda dotted: told(step, dotted))

    def told(step: Step, dotted: str) -> str:
        parts = dotted.split(".")
        if parts[0] == "control":
            return dotted
        found = place_named(effect, parts[0], parts[1])
        place = inside.get((found[0].id, found[1].id)) if found else None
        if place is None:
            raise Fault(
                f"{title_of(step)}: a formula reads {dotted}, which is not among what you keep. "
                "Keep that too, or change the formula.",
                step.id,
            )
        return f"{spelled(place[0])}.{spelled(place[1])}.{parts[2]}"

    done = tuple(
        lane.model_copy(update={"steps": tuple(kept_step(step) for step in lane.steps)})
        for lane in kept
    )
    every = [step for lane in done for step in lane.every]
    values = [value for step in every for value in (step.mix, *step.values.values())]
    controls = tuple(
        control for control in effect.controls
        if any(follows(value, control.slug) for value in values)
    )  # fmt: skip
    shown = {step.values.get("slot", "clip") for step in every if step.kind == "slot"}
    return Part(
        name=name, notes=notes, tags=tuple(tags), kind="lanes" if lanes else "run", lanes=done,
        inputs=tuple(opened.values()), controls=controls,
        slots=tuple(slot for slot in effect.slots if slot.id in shown),
    )  # fmt: skip


def _run(effect: Effect, places: Sequence[StepPlace]) -> Lane:
    if not places:
        raise Fault("Choose the steps or the lanes to keep first.")
    if len({place.lane for place in places}) > 1:
        raise Fault("These steps are of several lanes. Keep steps of one lane, or whole lanes.")
    lane = lane_of(effect, places[0].lane)
    steps = tuple(meant(effect, places).values())
    return Lane(id=RUN, name=lane.name, steps=steps)


def insert_part(effect: Effect, change: InsertPart) -> tuple[Effect, str]:
    """The effect with a part inserted. Its steps are as kept, with identifiers that are free
    here."""
    part = change.part
    for source in change.inputs.values():
        lane_of(effect, source.lane)
    effect, slugs = _with_controls(effect, part)
    there = {slot.id for slot in effect.slots}
    slots = (*effect.slots, *(slot for slot in part.slots if slot.id not in there))
    changed = effect.model_copy(update={"slots": slots})
    places: dict[Place, Place] = {}
    lane_ids: dict[str, str] = {}
    if part.kind == "lanes":
        taken = [lane.id for lane in effect.lanes]
        names = {lane.name for lane in effect.lanes}
        for lane in part.lanes:
            lane_ids[lane.id] = slug_of(lane.id, taken)
            taken.append(lane_ids[lane.id])
            for step in lane.every:
                places[lane.id, step.id] = (lane_ids[lane.id], step.id)
        new = []
        for lane in part.lanes:
            title = lane.name if lane.name not in names else f"{lane.name} ({part.name})"[:120]
            steps = tuple(_put(step, change, places, lane_ids, slugs) for step in lane.steps)
            new.append(
                lane.model_copy(update={"id": lane_ids[lane.id], "name": title, "steps": steps})
            )
        lanes = (*changed.lanes[:-1], *new, changed.lanes[-1])
        made, home = changed.model_copy(update={"lanes": lanes}), new[0].id
        return _noted(made, home, change.note), f"Part {part.name} inserted"
    if change.to is None:
        raise Fault("Choose the lane that this part goes into.")
    run = {(RUN, step.id): step for step in part.lanes[0].steps}
    fresh, places = named(changed, run, change.to)
    done = [_put(step, change, places, lane_ids, slugs) for step in fresh]
    at = min(max(change.at, 0), len(run_of(changed, change.to, change.inside)))
    made = put_in(changed, done, change.to, at, change.inside)
    if not lane_of(changed, change.to).steps:
        made = called_after(made, change.to, part.name)
    return _noted(made, change.to, change.note), f"Part {part.name} inserted"


def _noted(effect: Effect, lane: str, text: str) -> Effect:
    if not text:
        return effect
    return effect.model_copy(update={"notes": (*effect.notes, Note(text=text, lane=lane))})


def _with_controls(effect: Effect, part: Part) -> tuple[Effect, dict[str, str]]:
    """The effect with the part's controls, and their new slugs. An equal control is shared."""
    controls: list[Control] = list(effect.controls)
    slugs: dict[str, str] = {}
    for control in part.controls:
        same = effect.control(control.slug)
        if same is not None and same == control:
            slugs[control.slug] = control.slug
            continue
        slug = slug_of(control.slug, [one.slug for one in controls])
        slugs[control.slug] = slug
        controls.append(control.model_copy(update={"slug": slug}))
    return effect.model_copy(update={"controls": tuple(controls)}), slugs


def _put(
    step: Step,
    change: InsertPart,
    places: Mapping[Place, Place],
    lanes: Mapping[str, str],
    slugs: Mapping[str, str],
) -> Step:
    """A step of a part in the form that it has in the effect."""
    opened = {one.id for one in change.part.inputs}

    def read(source: Input) -> Input | None:
        if source.lane in opened:
            chosen = change.inputs.get(source.lane)
            if chosen is None:
                return None
            return source.model_copy(update={"lane": chosen.lane, "step": chosen.step})
        if source.step is None:
            return source.model_copy(update={"lane": lanes.get(source.lane, source.lane)})
        return input_at(source, places)

    def told(dotted: str) -> str:
        parts = dotted.split(".")
        if parts[0] == "control":
            slug = next((new for old, new in slugs.items() if slug_matches(parts[1], old)), None)
            return f"control.{spelled(slug)}" if slug else dotted
        for (lane, name), new in places.items():
            if slug_matches(parts[0], lane) and slug_matches(parts[1], name):
                return f"{spelled(new[0])}.{spelled(new[1])}.{parts[2]}"
        return dotted

    def linked(value: Any) -> Any:
        if isinstance(value, Link) and value.control in slugs:
            return value.model_copy(update={"control": slugs[value.control]})
        return value

    held = tuple(_put(inner, change, places, lanes, slugs) for inner in step.steps)
    values = {name: linked(value) for name, value in step.values.items()}
    changed = step.model_copy(update={"values": values, "mix": linked(step.mix), "steps": held})
    return retold(with_inputs(changed, read), told)
