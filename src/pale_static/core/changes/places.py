"""Finding lanes and steps in an effect, and putting changed ones back."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from itertools import count
from typing import Any

from ..document import Effect, Input, Lane, Step
from ..documents.graph import place_named
from ..faults import Missing
from ..steps import kind_of
from ..values.formula import parse, spelled
from ..values.value import Formula

Place = tuple[str, str]
"""Lane and step."""


def slug_of(text: str, taken: Iterable[str]) -> str:
    """A short identifier from a name, unlike those taken."""
    base = re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-")[:40] or "x"
    used = taken if isinstance(taken, set | dict) else set(taken)
    slug, number = base, 1
    while slug in used:
        number += 1
        slug = f"{base}-{number}"
    return slug


def lane_of(effect: Effect, identifier: str) -> Lane:
    """A lane by its identifier; a fault if it is gone."""
    lane = effect.lane(identifier)
    if lane is None:
        raise Missing(f"There is no lane “{identifier}” any more.", identifier)
    return lane


def step_of(effect: Effect, lane: str, identifier: str) -> Step:
    """A step of a lane, inside a repeat or not; a fault if it is gone."""
    for step in lane_of(effect, lane).every:
        if step.id == identifier:
            return step
    raise Missing(f"There is no step “{identifier}” in “{lane}” any more.", lane)


def run_of(effect: Effect, lane: str, inside: str | None) -> tuple[Step, ...]:
    """The steps of a lane, or those that one of its repeats holds."""
    return lane_of(effect, lane).steps if inside is None else step_of(effect, lane, inside).steps


def with_run(effect: Effect, lane: str, inside: str | None, steps: Iterable[Step]) -> Effect:
    """The effect with other steps in a lane, or in one of its repeats."""
    if inside is None:
        holder = lane_of(effect, lane)
        return with_lane(effect, holder.model_copy(update={"steps": tuple(steps)}))
    repeat = step_of(effect, lane, inside)
    return with_step(effect, lane, repeat.model_copy(update={"steps": tuple(steps)}))


def with_lane(effect: Effect, lane: Lane) -> Effect:
    """The effect with a lane in place of the one of that identifier."""
    lanes = tuple(lane if old.id == lane.id else old for old in effect.lanes)
    return effect.model_copy(update={"lanes": lanes})


def free_name(effect: Effect, name: str) -> str:
    """A lane name that no other lane has: the given name, or that name with a number.

    Beside "Side" and "Side 2" the next is "Side 3". The number of "Platform 9" is a part of the
    name, unless there is a lane "Platform".
    """
    taken = {other.name for other in effect.lanes}
    if name not in taken:
        return name
    bare = re.sub(r" \d+$", "", name)
    base = (bare if bare in taken else name)[:110]
    return next(one for k in count(2) if (one := f"{base} {k}") not in taken)


def called_after(effect: Effect, identity: str, start: str) -> Effect:
    """Name a lane after what it starts with, if it has no name of its own yet."""
    lane = lane_of(effect, identity)
    if not re.fullmatch(r"Lane( \d+)?", lane.name):
        return effect
    return with_lane(effect, lane.model_copy(update={"name": free_name(effect, start)}))


def with_step(effect: Effect, lane: str, step: Step) -> Effect:
    """The effect with a step in place of the one of that identifier."""
    return with_steps(effect, lambda at, old: step if at == (lane, step.id) else old)


def with_steps(effect: Effect, change: Callable[[Place, Step], Step | None]) -> Effect:
    """The effect with every step changed, or removed if the change gives None."""

    def run(lane: Lane, steps: tuple[Step, ...]) -> tuple[Step, ...]:
        found = []
        for old in steps:
            held = run(lane, old.steps) if old.steps else old.steps
            kept = old if held is old.steps else old.model_copy(update={"steps": held})
            new = change((lane.id, old.id), kept)
            if new is not None:
                found.append(new)
        same = len(found) == len(steps) and all(a is b for a, b in zip(found, steps, strict=True))
        return steps if same else tuple(found)

    lanes = []
    for lane in effect.lanes:
        steps = run(lane, lane.steps)
        lanes.append(lane if steps is lane.steps else lane.model_copy(update={"steps": steps}))
    return effect.model_copy(update={"lanes": tuple(lanes)})


def title_of(step: Step) -> str:
    """A step's name on screen."""
    return step.name or kind_of(step).label


def with_inputs(step: Step, where: Callable[[Input], Input | None]) -> Step:
    """A step with each input changed, or removed if the change gives None."""
    inputs = {
        name: new for name, source in step.inputs.items() if (new := where(source)) is not None
    }
    return step if inputs == step.inputs else step.model_copy(update={"inputs": inputs})


def retold(step: Step, meant: Callable[[str], str]) -> Step:
    """A step with other dotted names in its formulas."""

    def read(value: Any) -> Any:
        if not isinstance(value, Formula):
            return value
        text = value.formula
        for dotted in parse(text)[1]:
            new = meant(dotted)
            if new != dotted:
                text = re.sub(rf"(?<![\w.]){re.escape(dotted)}(?![\w.])", new, text)
        return value if text == value.formula else Formula(formula=text)

    values = {name: read(value) for name, value in step.values.items()}
    mix = read(step.mix)
    if mix is step.mix and all(values[name] is step.values[name] for name in values):
        return step
    return step.model_copy(update={"values": values, "mix": mix})


def still_read(before: Effect, after: Effect, moved: Mapping[Place, Place] = {}) -> Effect:
    """The effect after a change, with formulas rewritten to read the same values as before.

    Parameters
    ----------
    moved : mapping
        New places of steps that have another lane or identifier now.
    """

    def meant(dotted: str) -> str:
        parts = dotted.split(".")
        if parts[0] == "control":
            return dotted
        found = place_named(before, parts[0], parts[1])
        if found is None:
            return dotted
        place = (found[0].id, found[1].id)
        place = moved.get(place, place)
        now = place_named(after, parts[0], parts[1])
        if now is not None and (now[0].id, now[1].id) == place:
            return dotted
        return f"{spelled(place[0])}.{spelled(place[1])}.{parts[2]}"

    return with_steps(after, lambda _, step: retold(step, meant))


def told_apart(effect: Effect, copies: Mapping[Place, Place]) -> Effect:
    """The effect in which formulas of copied steps read the copies instead of the originals."""
    new = set(copies.values())

    def meant(dotted: str) -> str:
        parts = dotted.split(".")
        place = None if parts[0] == "control" else place_named(effect, parts[0], parts[1])
        copy = copies.get((place[0].id, place[1].id)) if place else None
        return f"{spelled(copy[0])}.{spelled(copy[1])}.{parts[2]}" if copy else dotted

    return with_steps(effect, lambda at, step: retold(step, meant) if at in new else step)
