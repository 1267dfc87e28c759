"""Finding lanes and steps in an effect, and putting changed ones back."""

from __future__ import annotations

import re
from collections.abc import Iterable

from ..document import Effect, Lane, Step
from ..faults import Missing
from ..steps import step_kind


def slug_of(text: str, taken: Iterable[str]) -> str:
    """A short identifier from a name, unlike those taken."""
    base = re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-")[:40] or "x"
    used, slug, number = set(taken), base, 1
    while slug in used:
        number += 1
        slug = f"{base}-{number}"
    return slug


def lane_of(effect: Effect, identifier: str) -> Lane:
    """A lane by its identifier, or a fault that says it is gone."""
    lane = effect.lane(identifier)
    if lane is None:
        raise Missing(f"There is no lane “{identifier}” any more.", identifier)
    return lane


def step_of(effect: Effect, lane: str, identifier: str) -> Step:
    """A step of a lane, or a fault that says it is gone."""
    for step in lane_of(effect, lane).steps:
        if step.id == identifier:
            return step
    raise Missing(f"There is no step “{identifier}” in “{lane}” any more.", lane)


def with_lane(effect: Effect, lane: Lane) -> Effect:
    """The effect with a lane in place of the one of that identifier."""
    lanes = tuple(lane if old.id == lane.id else old for old in effect.lanes)
    return effect.model_copy(update={"lanes": lanes})


def with_step(effect: Effect, lane: str, step: Step) -> Effect:
    """The effect with a step in place of the one of that identifier."""
    found = lane_of(effect, lane)
    steps = tuple(step if old.id == step.id else old for old in found.steps)
    return with_lane(effect, found.model_copy(update={"steps": steps}))


def title_of(step: Step) -> str:
    """A step's name on screen."""
    return step.name or step_kind(step.kind).label
