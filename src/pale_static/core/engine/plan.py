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
from ..formula import evaluate, slug_matches, spelled
from ..params import Param, Toggle
from ..picture import Channel, Size
from ..steps import MIX, Call, StepKind, step_kind
from ..timing import FrameRate, Moment
from ..values import Formula, Keys, Link, value_of_keys, value_of_link

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


BACKWARDS = Toggle(name="backwards", label="play backwards")
SERIES = "frames"
"""The inputs that are a step's main input at frames of its own choice."""
PREVIOUS = "previous frame"
"""The input that is a step's own result one frame earlier."""

_Ref = tuple[int, int, int]
"""Lane index, step index, frame."""


class Resolver:
    """Values of an effect at a moment, with its controls set.

    Raises
    ------
    Fault
        Where a setting is out of range, or names a control that is not there.
    """

    def __init__(
        self, effect: Effect, size: Size, settings: Mapping[str, Any] | None = None
    ) -> None:
        self.effect = effect
        self.size = size
        self.controls: dict[str, tuple[Param, Any]] = {}
        self.computing: list[str] = []
        given = settings or {}
        for control in effect.controls:
            param = control.param()
            raw = given.get(control.slug, control.default)
            self.controls[control.slug] = (param, param.check(raw, f"“{control.label}”"))
        for slug in given:
            if slug not in self.controls:
                there = ", ".join(self.controls) or "none"
                raise Missing(f"The macro has no control “{slug}”. It has: {there}.", slug)

    def resolve(self, raw: Any, param: Param, moment: Moment, who: str) -> Any:
        """A value's constant at a moment, checked against the parameter."""
        name = f"{who}: {param.title}"
        if isinstance(raw, Keys):
            raw = value_of_keys(raw, param, moment)
        elif isinstance(raw, Link):
            if raw.control not in self.controls:
                raise Missing(f"{name} follows a control “{raw.control}”, which is not there.", who)
            control, setting = self.controls[raw.control]
            raw = value_of_link(raw, control, setting, param, moment)
        elif isinstance(raw, Formula):
            raw = self.compute(raw, moment, name)
        if getattr(param, "whole", False) and isinstance(raw, float):
            raw = round(raw)
        return param.check(raw, name)

    def runs_backwards(self) -> bool:
        """Which way the effect plays; that never moves."""
        start = Moment(0, 1, FrameRate.of(25))
        return bool(self.resolve(self.effect.backwards, BACKWARDS, start, self.effect.name))

    def compute(self, formula: Formula, moment: Moment, name: str) -> float:
        """What a formula comes to; what it reads is resolved at the same moment."""
        if name in self.computing:
            told = " → ".join([*self.computing[self.computing.index(name) :], name])
            raise Fault(f"A circle of formulas: {told}. Change one of them.", name)
        self.computing.append(name)
        try:
            return evaluate(
                formula.formula, moment, (self.size.width, self.size.height),
                lambda dotted: self.look(dotted, moment),
            )  # fmt: skip
        except Fault as fault:
            known = fault.where is not None
            raise type(fault)(
                fault.sentence if known else f"{name}: {fault.sentence}", fault.where or name
            ) from None
        finally:
            self.computing.pop()

    def look(self, dotted: str, moment: Moment) -> Any:
        """A control, or another step's value, by the name a formula has for it."""
        parts = dotted.split(".")
        if parts[0] == "control":
            for slug, (_, setting) in self.controls.items():
                if slug_matches(parts[1], slug):
                    return setting
            raise Missing(f"there is no control “{parts[1]}”.")
        lane, step = self._place(parts[0], parts[1], dotted)
        kind = step_kind(step.kind)
        for param in (MIX, *kind.params):
            if param.name == parts[2]:
                raw = step.mix if param is MIX else step.values.get(param.name, param.default)
                return self.resolve(raw, param, moment, f"{lane.name} · {step.name or kind.label}")
        there = ", ".join(param.name for param in kind.params)
        raise Missing(f"there is no value {dotted}. That step has: {there}.")

    def _place(self, lane_name: str, step_name: str, dotted: str) -> tuple[Lane, Step]:
        """The step a formula means, by what it is called inside, else by what is shown."""
        lanes = [lane for lane in self.effect.lanes if slug_matches(lane_name, lane.id)]
        lanes += [lane for lane in self.effect.lanes if spelled(lane.name) == lane_name.lower()]
        for lane in lanes:
            for step in lane.steps:
                if slug_matches(step_name, step.id):
                    return lane, step
            for step in lane.steps:
                if spelled(step.name or step_kind(step.kind).label) == step_name.lower():
                    return lane, step
        if lanes:
            there = ", ".join(spelled(step.id) for step in lanes[0].steps)
            raise Missing(f"there is no value {dotted}. “{lanes[0].name}” has the steps: {there}.")
        there = ", ".join(spelled(lane.name) for lane in self.effect.lanes)
        raise Missing(f"there is no value {dotted}. The lanes are: {there}.")


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

    def who(self, ref: _Ref) -> str:
        lane = self.effect.lanes[ref[0]]
        step = lane.steps[ref[1]]
        return f"{lane.name} · {step.name or step_kind(step.kind).label}"

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
        lane = self.effect.lanes[ref[0]]
        return f"{lane.id}.{lane.steps[ref[1]].id}"

    def open(self, ref: _Ref) -> tuple[Any, ...]:
        """The step's values, and the refs it needs."""
        lane_index, step_index, frame = ref
        lane = self.effect.lanes[lane_index]
        step = lane.steps[step_index]
        above = (lane_index, step_index - 1, frame) if step_index else None
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
        moment, who = self.moment.at(frame), self.who(ref)
        mix = self.resolve(step.mix, MIX, moment, who) if kind.main else 1.0
        if mix == 0:
            return kind, None, 0.0, [("main", above, None)], [above]
        values = {
            param.name: self.resolve(step.values.get(param.name, param.default), param, moment, who)
            for param in kind.params
        }
        return self.wanted(ref, kind, values, mix, moment)

    def wanted(
        self,
        ref: _Ref,
        kind: StepKind,
        values: Mapping[str, Any],
        mix: float,
        moment: Moment,
    ) -> tuple[Any, ...]:
        """The inputs of a step at these values."""
        lane_index, step_index, frame = ref
        step = self.effect.lanes[lane_index].steps[step_index]
        above = (lane_index, step_index - 1, frame) if step_index else None
        who, call = self.who(ref), self.call(values, moment)
        with self.telling(ref):
            needed = kind.needs(values) if kind.needs else None
            frames = kind.frames(call) if kind.frames else ()
            goes_on = kind.goes_on is not None and kind.goes_on(call)
        inputs: list[tuple[str, _Ref, Tap | None]] = []
        if above is not None and (needed is None or "main" in needed or mix < 1):
            inputs.append(("main", above, None))
            if frames:
                read = [(*above[:2], at) for at in frames]
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
                    f"{who} needs a source for “{tap_kind.name}”. Choose one on its card.",
                    f"{self.where(ref)}.{tap_kind.name}",
                )
            inputs.append((tap_kind.name, self.tapped(tap, frame, who), tap))
        if goes_on:
            inputs.append((PREVIOUS, (lane_index, step_index, frame - 1), None))
        return kind, values, mix, inputs, [other for _, other, _ in inputs]

    def tapped(self, tap: Tap, frame: int, who: str) -> _Ref:
        index = self.lanes.get(tap.lane)
        if index is None:
            raise Missing(f"{who} reads a lane “{tap.lane}”, which is not there.", who)
        lane = self.effect.lanes[index]
        return index, self.step_index(lane, tap.step, who), frame + tap.offset

    @staticmethod
    def step_index(lane: Lane, step: str | None, who: str) -> int:
        if not lane.steps:
            raise Fault(f"{who} reads the lane “{lane.name}”, which is empty. Add a step to it.")
        if step is None:
            return len(lane.steps) - 1
        for k, found in enumerate(lane.steps):
            if found.id == step:
                return k
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
        moment = self.moment.at(ref[2])
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
            step: Step = self.effect.lanes[ref[0]].steps[ref[1]]
            place = (self.effect.lanes[ref[0]].id, step.id)
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


def runs_backwards(effect: Effect, settings: Mapping[str, Any] | None = None) -> bool:
    """Whether an effect plays backwards, with its controls set so."""
    return Resolver(effect, Size(1, 1), settings).runs_backwards()


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
        Whose result is wanted; the output by default.
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
    target = (index, planner.step_index(lane, step, effect.name), planner.moment.frame)
    planner.run(target)
    last = planner.done[target]
    nodes = tuple(planner.nodes[: last + 1])
    return Plan(nodes, size, planner.materials, planner.backwards)
