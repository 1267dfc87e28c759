"""Which step reads which: the one graph that checking, planning, proof and the page use.

A step reads the step above it and whatever its inputs name. A step that holds others (see
:attr:`StepKind.holds`) reads the last of them; to them, the step that holds them is what comes into
the pass.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Protocol, TypeVar

from ..document import Effect, Input, Lane, Step
from ..faults import Missing
from ..steps import kind_of
from ..values.formula import slug_matches, spelled

Place = tuple[str, str]
"""Lane and step."""
T = TypeVar("T", bound=Hashable)


class HasLanes(Protocol):
    """An effect, or a part of one."""

    @property
    def lanes(self) -> tuple[Lane, ...]: ...


@dataclass(frozen=True)
class Stand:
    """The place of a step: the step above it, and the repeat it is in."""

    lane: Lane
    step: Step
    above: Step | None
    holder: Step | None

    @property
    def place(self) -> Place:
        """Lane and step."""
        return self.lane.id, self.step.id


@dataclass(frozen=True)
class Graph:
    """Steps of an effect, or of a part, and what each of them reads."""

    of: HasLanes

    @cached_property
    def stands(self) -> Mapping[Place, Stand]:
        """Every step by its place. The steps in a repeat come before the repeat itself."""
        return {stand.place: stand for lane in self.of.lanes for stand in _stands(lane)}

    @cached_property
    def lanes(self) -> Mapping[str, Lane]:
        """Lanes by identifier."""
        return {lane.id: lane for lane in self.of.lanes}

    def in_lane(self, lane: str) -> Iterator[Stand]:
        """The steps of a lane in order. The steps in a repeat come before the repeat itself."""
        return (stand for stand in self.stands.values() if stand.lane.id == lane)

    def entry(self, holder: Stand) -> Step | None:
        """The step that feeds the first pass of a step that holds others: the one above it."""
        at = next(k for k, one in enumerate(holder.lane.steps) if one.id == holder.step.id)
        return holder.lane.steps[at - 1] if at else None

    def resolve(self, reader: Stand, given: Input) -> Place | None:
        """The step that an input names; None if it is missing or its lane is empty.

        A step in a repeat that names this repeat reads what comes into the pass: the step above it.
        """
        lane = self.lanes.get(given.lane)
        if lane is None or not lane.steps:
            return None
        name = given.step if given.step is not None else lane.steps[-1].id
        holder = reader.holder
        if holder is not None and (lane.id, name) == (reader.lane.id, holder.id):
            above = self.entry(self.stands[lane.id, holder.id])
            return (lane.id, above.id) if above else None
        return (lane.id, name) if (lane.id, name) in self.stands else None

    @cached_property
    def reads(self) -> Mapping[Place, tuple[Place, ...]]:
        """What each step reads directly: the step above it first, then its inputs."""
        return {place: tuple(self._reads(stand)) for place, stand in self.stands.items()}

    def _reads(self, stand: Stand) -> Iterator[Place]:
        if stand.above is not None:
            yield stand.lane.id, stand.above.id
        for given in stand.step.inputs.values():
            place = self.resolve(stand, given)
            if place is not None:
                yield place

    @cached_property
    def readers(self) -> Mapping[Place, tuple[Place, ...]]:
        """Which steps read each step directly."""
        found: dict[Place, list[Place]] = {place: [] for place in self.stands}
        for reader, places in self.reads.items():
            for place in dict.fromkeys(places):
                found[place].append(reader)
        return {place: tuple(readers) for place, readers in found.items()}

    def downstream(self, place: Place) -> Iterator[Stand]:
        """Every step that reads a step, directly or through others, the nearest first."""
        waiting, seen = [place], {place}
        for one in waiting:
            for reader in self.readers[one]:
                if reader not in seen:
                    seen.add(reader)
                    waiting.append(reader)
                    yield self.stands[reader]

    def gives_matte(self, place: Place) -> bool:
        """Whether a step gives a matte, as far as the kinds and the set values tell."""
        at: Place | None = place
        seen = set[Place]()
        while at is not None and at not in seen:
            seen.add(at)
            stand = self.stands[at]
            try:
                kind = kind_of(stand.step)
            except Missing:
                return False
            if kind.matte_when is not None:
                return kind.matte_when(stand.step.values)
            if kind.gives != "same":
                return kind.gives == "matte"
            # It gives what it takes.
            taken = stand.step.inputs.get("from")
            if stand.above is not None:
                at = stand.lane.id, stand.above.id
            else:
                at = self.resolve(stand, taken) if taken is not None else None
        return False

    def lane_gives_matte(self, lane: str) -> bool:
        """Whether the last step of a lane gives a matte; an empty lane gives none."""
        steps = self.lanes[lane].steps
        return bool(steps) and self.gives_matte((lane, steps[-1].id))

    def lanes_read(self, lane: str) -> set[str]:
        """Every lane that a lane reads, directly or through others."""
        places = [place for place in self.stands if place[0] == lane]
        return {name for name, _ in self.reached(*places)} - {lane}

    def reached(self, *places: Place) -> set[Place]:
        """These steps, and every step they read, directly or through others."""
        waiting = list(places)
        seen = set(waiting)
        while waiting:
            for place in self.reads[waiting.pop()]:
                if place not in seen:
                    seen.add(place)
                    waiting.append(place)
        return seen

    def cycle(self) -> list[Place] | None:
        """A loop, as places that each feed the next, ending where it began; None without one."""
        return cycle_of(self.reads)


def _stands(lane: Lane) -> Iterator[Stand]:
    above: Step | None = None
    for step in lane.steps:
        inside = above
        for held in step.steps:
            yield Stand(lane, held, inside, step)
            inside = held
        yield Stand(lane, step, inside, None)
        above = step


def cycle_of(reads: Mapping[T, tuple[T, ...] | list[T]]) -> list[T] | None:
    """A loop in who reads whom, each feeding the next, ending where it began; None without one."""
    state: dict[T, int] = {}
    for root in reads:
        if root in state:
            continue
        path, stack = [root], [iter(reads[root])]
        state[root] = 1
        while stack:
            for other in stack[-1]:
                if state.get(other) == 1:
                    return [*path[path.index(other) :], other][::-1]
                if other not in state and other in reads:
                    state[other] = 1
                    path.append(other)
                    stack.append(iter(reads[other]))
                    break
            else:
                state[path.pop()] = 2
                stack.pop()
    return None


def place_named(effect: Effect, lane_name: str, step_name: str) -> tuple[Lane, Step] | None:
    """The step that a formula names: by its identifier, or else by its name on screen."""
    lanes = [lane for lane in effect.lanes if slug_matches(lane_name, lane.id)]
    lanes += [lane for lane in effect.lanes if spelled(lane.name) == lane_name.lower()]
    for lane in lanes:
        for step in lane.every:
            if slug_matches(step_name, step.id):
                return lane, step
        for step in lane.every:
            if spelled(step.name or kind_of(step).label) == step_name.lower():
                return lane, step
    return None
