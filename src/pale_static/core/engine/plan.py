"""From a document, a moment and a size to the steps that have to be computed, in order."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from ..document import Effect, Lane, Step, Tap
from ..faults import Fault, Missing
from ..footage import Materials
from ..picture import Channel, Size
from ..steps import MIX, Call, StepKind, step_kind
from ..timing import Moment
from .resolve import Resolver

Place = tuple[str, str]
"""Lane and step."""


@dataclass(frozen=True)
class Input:
    """One input of a node: which node, and how a matte is made of it."""

    name: str
    node: int
    channel: Channel = "luminance"
    invert: bool = False


@dataclass(frozen=True)
class Node:
    """One step at one moment, with its values resolved and a hash of all it depends on."""

    key: bytes
    place: Place
    who: str
    kind: StepKind
    values: Mapping[str, Any]
    mix: float
    moment: Moment
    main: int | None
    taps: tuple[Input, ...]
    previous: int | None = None
    series: tuple[int, ...] = ()
    eight: bool = False

    @property
    def inputs(self) -> list[int]:
        """Indices of the nodes this one takes in."""
        found = [] if self.main is None else [self.main]
        found += [tap.node for tap in self.taps]
        found += [index for index in self.series if index != self.main]
        return found if self.previous is None else [*found, self.previous]


@dataclass(frozen=True)
class Plan:
    """Nodes such that each stands after everything it takes in; the last is what was wanted."""

    nodes: tuple[Node, ...]
    size: Size
    materials: Materials
    backwards: bool = False

    @property
    def key(self) -> str:
        """A content hash of the wanted picture."""
        return self.nodes[-1].key.hex()


SERIES = "frames"
"""The inputs that are a step's main input at frames of its own choice."""
PREVIOUS = "previous frame"
"""The input that is a step's own result one frame earlier."""

Path = tuple[int] | tuple[int, int, int]
"""Which step of a lane; or which repeat, which pass, and which of its steps."""

_Ref = tuple[int, Path, int]
"""Lane index, path, frame."""

MOST_PASSED = 4000
"""Steps that a repeat may come to, all its passes together."""


class _Planner(Resolver):
    """Walks a document from what is wanted down to its sources."""

    def __init__(
        self,
        effect: Effect,
        moment: Moment,
        size: Size,
        settings: Mapping[str, Any] | None,
        materials: Materials,
    ) -> None:
        super().__init__(effect, size, settings)
        self.backwards = self.runs_backwards()
        # Inside, an effect only runs forwards: played backwards it is asked for its other end.
        self.moment = moment.at(moment.length - 1 - moment.frame) if self.backwards else moment
        crossed = self.backwards and effect.kind == "transition"
        self.materials = materials.crossed() if crossed else materials
        self.lanes = {lane.id: k for k, lane in enumerate(effect.lanes)}
        self.nodes: list[Node] = []
        self.done: dict[_Ref, int] = {}
        self.known: dict[bytes, int] = {}
        self.counts: dict[_Ref, int] = {}
        self.names: dict[tuple[int, tuple[int, ...]], str] = {}

    def step(self, ref: _Ref) -> Step:
        path = ref[1]
        outer = self.effect.lanes[ref[0]].steps[path[0]]
        return outer if len(path) == 1 else outer.steps[path[2]]

    def who(self, ref: _Ref) -> str:
        told = self.names.get(ref[:2])
        if told is None:
            step = self.step(ref)
            told = f"{self.effect.lanes[ref[0]].name} · {step.name or step_kind(step.kind).label}"
            if len(ref[1]) == 3:
                told += f", pass {ref[1][1] + 1}"
            self.names[ref[:2]] = told
        return told

    def above(self, ref: _Ref) -> _Ref | None:
        """What a step works on: the one before it, or the end of the pass before."""
        lane, path, frame = ref
        if len(path) == 3:
            index, turn, inner = path
            if inner:
                return lane, (index, turn, inner - 1), frame
            if turn:
                last = len(self.effect.lanes[lane].steps[index].steps) - 1
                return lane, (index, turn - 1, last), frame
        return (lane, (path[0] - 1,), frame) if path[0] else None

    def moment_of(self, ref: _Ref) -> Moment:
        """The moment a step is asked at, with its pass."""
        moment = self.moment.at(ref[2])
        if len(ref[1]) == 1:
            return moment
        return moment.inside(ref[1][1], self.count((ref[0], (ref[1][0],), ref[2])))

    def count(self, ref: _Ref) -> int:
        """How many passes a repeat has at a frame."""
        if ref not in self.counts:
            step, kind = self.step(ref), step_kind("repeat")
            (param,) = kind.params
            raw = step.values.get(param.name, param.default)
            found = int(self.resolve(raw, param, self.moment.at(ref[2]), self.who(ref)))
            if found * len(step.steps) > MOST_PASSED:
                raise Fault(
                    f"{self.who(ref)} comes to {found} × {len(step.steps)} steps. "
                    f"{MOST_PASSED} is the most; repeat it less often.",
                    self.where(ref),
                )
            self.counts[ref] = found
        return self.counts[ref]

    def run(self, target: _Ref) -> None:
        """Depth first, on a stack of its own: chains may be longer than Python's."""
        opened: dict[_Ref, tuple[Any, ...]] = {}
        stack = [target]
        while stack:
            ref = stack[-1]
            if ref in self.done:
                stack.pop()
                continue
            if ref not in opened:
                opened[ref] = self.open(ref)
                waiting = [other for other in opened[ref][-1] if other not in self.done]
                looped = [other for other in waiting if other in opened]
                if looped:
                    raise Fault(
                        f"{self.who(ref)} takes in {self.who(looped[0])}, which takes in "
                        f"{self.who(ref)}: a circle. Choose another source for one of them.",
                        self.where(ref),
                    )
                if waiting:
                    stack.extend(waiting)
                    continue
            self.close(ref, *opened[ref])
            stack.pop()

    @contextmanager
    def telling(self, ref: _Ref) -> Iterator[None]:
        """What a step's declaration finds wrong is told with the step's name."""
        try:
            yield
        except Fault as fault:
            raise type(fault)(f"{self.who(ref)}: {fault.sentence}", self.where(ref)) from None

    def call(self, values: Mapping[str, Any], moment: Moment) -> Call:
        """What a step's function would get, but for its inputs."""
        return Call(values, self.size, moment, materials=self.materials, backwards=self.backwards)

    def where(self, ref: _Ref) -> str:
        return f"{self.effect.lanes[ref[0]].id}.{self.step(ref).id}"

    def open(self, ref: _Ref) -> tuple[Any, ...]:
        """The step's values, and the refs it needs."""
        step, above = self.step(ref), self.above(ref)
        kind = step_kind(step.kind)
        if kind.main is None and above is not None:
            raise Fault(
                f"{self.who(ref)} starts a lane; it cannot follow another step. "
                "Move it to the top of a lane of its own.",
                self.where(ref),
            )
        if kind.main is not None and above is None:
            raise Fault(
                f"{self.who(ref)} needs a picture to work on, but stands first in its lane. "
                "Put a source above it.",
                self.where(ref),
            )
        if not step.on and above is not None:
            return kind, None, 0.0, [("main", above, None)], [above]
        moment, who = self.moment_of(ref), self.who(ref)
        mix = self.resolve(step.mix, MIX, moment, who) if kind.main else 1.0
        if mix == 0:
            return kind, None, 0.0, [("main", above, None)], [above]
        if step.kind == "repeat":
            return self.repeated(ref, kind, mix)
        given, settled = step.values, kind.settled
        values = {
            param.name: self.resolve(given[param.name], param, moment, who)
            if param.name in given
            else settled[param.name]
            for param in kind.params
        }
        return self.wanted(ref, kind, values, mix, moment)

    def repeated(self, ref: _Ref, kind: StepKind, mix: float) -> tuple[Any, ...]:
        """A repeat is what the last of its steps gives in the last pass."""
        above, turns = self.above(ref), self.count(ref)
        inside = self.step(ref).steps
        if not inside:
            return kind, None, 0.0, [("main", above, None)], [above]
        last: _Ref = (ref[0], (ref[1][0], turns - 1, len(inside) - 1), ref[2])
        if mix == 1:
            return kind, None, 0.0, [("main", last, None)], [last]
        inputs = [("main", above, None), (SERIES, last, None)]
        return kind, {"count": turns}, mix, inputs, [above, last]

    def wanted(
        self,
        ref: _Ref,
        kind: StepKind,
        values: Mapping[str, Any],
        mix: float,
        moment: Moment,
    ) -> tuple[Any, ...]:
        """The inputs of a step at these values."""
        lane_index, path, frame = ref
        step, above = self.step(ref), self.above(ref)
        who, call = self.who(ref), self.call(values, moment)
        with self.telling(ref):
            needed = kind.needs(values) if kind.needs else None
            frames = kind.frames(call) if kind.frames else ()
            goes_on = kind.goes_on is not None and kind.goes_on(call)
        inputs: list[tuple[str, _Ref, Tap | None]] = []
        if above is not None and (needed is None or "main" in needed or mix < 1):
            inputs.append(("main", above, None))
            if frames:
                read: list[_Ref] = [(*above[:2], at) for at in frames]
                inputs = [("main", above if mix < 1 else read[0], None)]
                inputs += [(SERIES, other, None) for other in read]
        for tap_kind in kind.taps:
            if needed is not None and tap_kind.name not in needed:
                continue
            tap = step.taps.get(tap_kind.name)
            if tap is None:
                if tap_kind.optional:
                    continue
                raise Fault(
                    f"{who} needs a source for “{tap_kind.title}”. Choose one on its card.",
                    f"{self.where(ref)}.{tap_kind.name}",
                )
            inputs.append((tap_kind.name, self.tapped(tap, ref), tap))
        if goes_on:
            inputs.append((PREVIOUS, (lane_index, path, frame - 1), None))
        return kind, values, mix, inputs, [other for _, other, _ in inputs]

    def tapped(self, tap: Tap, reader: _Ref) -> _Ref:
        """What a tap of a step names.

        From inside a repeat, another of its steps is meant in the same pass, and the repeat
        itself is what comes into this pass. From outside, its steps are meant in the last pass.
        """
        who, frame = self.who(reader), reader[2] + tap.offset
        index = self.lanes.get(tap.lane)
        if index is None:
            raise Missing(f"{who} reads a lane “{tap.lane}”, which is not there.", who)
        outer, inner = self.find(self.effect.lanes[index], tap.step, who)
        path = reader[1]
        if len(path) == 3 and (index, outer) == (reader[0], path[0]):
            if inner is not None:
                return index, (outer, path[1], inner), frame
            entry = self.above((index, (outer, path[1], 0), frame))
            assert entry is not None
            return entry
        return self.last_pass(index, outer, inner, frame)

    def last_pass(self, lane: int, outer: int, inner: int | None, frame: int) -> _Ref:
        """A step as it is seen from outside: inside a repeat, in its last pass."""
        if inner is None:
            return lane, (outer,), frame
        return lane, (outer, self.count((lane, (outer,), frame)) - 1, inner), frame

    @staticmethod
    def find(lane: Lane, step: str | None, who: str) -> tuple[int, int | None]:
        """Where a step is in its lane, and where in its repeat; the lane's end by default."""
        if not lane.steps:
            raise Fault(f"{who} reads the lane “{lane.name}”, which is empty. Add a step to it.")
        if step is None:
            return len(lane.steps) - 1, None
        for k, found in enumerate(lane.steps):
            if found.id == step:
                return k, None
            for inner, held in enumerate(found.steps):
                if held.id == step:
                    return k, inner
        raise Missing(f"{who} reads a step “{step}” of “{lane.name}”, which is not there.", who)

    def close(
        self,
        ref: _Ref,
        kind: StepKind,
        values: Mapping[str, Any] | None,
        mix: float,
        inputs: list[tuple[str, _Ref, Tap | None]],
        _: list[_Ref],
    ) -> None:
        """All inputs are there: hash the step and put it down, once."""
        if values is None:
            self.done[ref] = self.done[inputs[0][1]]
            return
        moment = self.moment_of(ref)
        main, taps, previous, series = None, [], None, []
        for name, other, tap in inputs:
            if name == PREVIOUS:
                previous = self.done[other]
            elif name == SERIES:
                series.append(self.done[other])
            elif tap is None:
                main = self.done[other]
            else:
                taps.append(Input(name, self.done[other], tap.channel, tap.invert))
        if kind.merge and main is not None and mix == 1 and kind.kind == self.nodes[main].kind.kind:
            over = self.nodes[main]
            both = kind.merge(over.values, values) if over.mix == 1 else None
            if both is not None:
                values, main = both, over.main
        reads = None
        if kind.reads:
            with self.telling(ref):
                reads = kind.reads(self.call(values, moment))
        said = (
            kind.kind, sorted(values.items()), mix, reads, self.size.width, self.size.height,
            main is not None and self.nodes[main].key,
            [(tap.name, self.nodes[tap.node].key, tap.channel, tap.invert) for tap in taps],
            previous is not None and self.nodes[previous].key,
            [self.nodes[index].key for index in series],
        )  # fmt: skip
        key = hashlib.blake2b(repr(said).encode(), digest_size=16).digest()
        if key not in self.known:
            place = (self.effect.lanes[ref[0]].id, self.step(ref).id)
            self.known[key] = len(self.nodes)
            self.nodes.append(
                Node(
                    key,
                    place,
                    self.who(ref),
                    kind,
                    values,
                    mix,
                    moment,
                    main,
                    tuple(taps),
                    previous,
                    tuple(series),
                )
            )
        self.done[ref] = self.known[key]


NO_MATERIALS = Materials()


def make_plan(
    effect: Effect,
    moment: Moment,
    size: Size,
    *,
    stage: Place | None = None,
    settings: Mapping[str, Any] | None = None,
    materials: Materials = NO_MATERIALS,
) -> Plan:
    """The steps to compute for the effect's output, or for one of its steps.

    Parameters
    ----------
    stage : (lane, step), optional
        Whose result is wanted; the output by default. A step of a repeat is seen in the last
        pass, or in the one its name ends with: ``blur@0`` is the first.
    settings : mapping, optional
        What controls are set to, by slug; their defaults otherwise.

    Raises
    ------
    Fault
        Naming lane, step and value, where something is missing, out of range or in a circle.
    """
    planner = _Planner(effect, moment, size, settings, materials)
    if stage is None:
        index = len(effect.lanes) - 1
        lane, step = effect.lanes[index], None
    else:
        if stage[0] not in planner.lanes:
            raise Missing(f"There is no lane “{stage[0]}” in {effect.name}.")
        index = planner.lanes[stage[0]]
        lane, step = effect.lanes[index], stage[1]
    name, _, turn = (step or "").partition("@")
    outer, inner = planner.find(lane, name or None, effect.name)
    target = planner.last_pass(index, outer, inner, planner.moment.frame)
    if turn and len(target[1]) == 3:
        last = target[1][1]
        asked = int(turn) if turn.isdecimal() and len(turn) < 6 else last
        target = (index, (outer, min(asked, last), target[1][2]), target[2])
    planner.run(target)
    last = planner.done[target]
    nodes = tuple(planner.nodes[: last + 1])
    return Plan(nodes, size, planner.materials, planner.backwards)
