"""Walk one document for one frame, from the wanted step to nodes in order."""

from __future__ import annotations

import hashlib
from collections.abc import Hashable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import replace
from typing import Any

from ..document import Effect, Input, Step
from ..documents.graph import Graph
from ..faults import Fault, Missing
from ..footage import Materials, Nested, Wired
from ..giving_up import check
from ..steps import MIX, Call, StepKind, kind_of
from ..time.timing import Moment
from ..values.params import FROM_THE_START
from .nodes import Node, NodeInput, Place, Scope, Shared, with_fallbacks
from .resolve import Resolver

SERIES = "frames"
"""The inputs that are a step's main input at frames of its own choice."""
PREVIOUS = "previous frame"
"""The input that is a step's own result one frame earlier."""

Path = tuple[int, ...]
"""The number of a step in its lane; or the numbers of a repeat, of a pass, and of a step in it. One
more number means the result of the effect that the step shows."""

Ref = tuple[int, Path, int]
"""Lane index, path, frame."""

Need = tuple["DocumentPlanner", Ref]
"""What a step reads: a step of the same effect, or of an effect within or around it."""

MOST_PASSED = 4000
"""The most steps that a repeat may run, all passes together."""


class DocumentPlanner(Resolver):
    """Walks a document from the wanted step down to its sources.

    :class:`.nesting.Planner` adds the effects and macros that steps show.
    """

    def __init__(
        self,
        effect: Effect,
        moment: Moment,
        settings: Mapping[str, Any] | None,
        materials: Materials,
        shared: Shared,
        within: str = "",
        use: str = "",
        nested: bool = False,
    ) -> None:
        super().__init__(effect, shared.size, settings)
        self.shared = shared
        self.nodes, self.known, self.states = shared.nodes, shared.known, shared.states
        self.within = within
        self.backwards = self.runs_backwards()
        # Inside, an effect only runs forwards. Played backwards, it is asked for the mirrored frame.
        self.moment = moment.at(moment.length - 1 - moment.frame) if self.backwards else moment
        crossed = self.backwards and effect.kind == "transition"
        materials = with_fallbacks(effect, materials)
        self.materials = materials.crossed() if crossed else materials
        self.lanes = {lane.id: k for k, lane in enumerate(effect.lanes)}
        self.places = {
            (lane.id, step.id): place
            for lane in effect.lanes
            for outer, holder in enumerate(lane.steps)
            for place, step in (
                ((outer, None), holder),
                *(((outer, inner), held) for inner, held in enumerate(holder.steps)),
            )
        }
        self.scope = Scope(self.materials, self.backwards, nested, use)
        self.done: dict[Ref, int] = {}
        self.elsewhere: dict[Ref, Need] = {}
        self.counts: dict[Ref, int] = {}
        self.names: dict[tuple[int, tuple[int, ...]], str] = {}
        self.lines: dict[tuple[int, Path], bytes] = {}

    def step(self, ref: Ref) -> Step:
        path = ref[1]
        outer = self.effect.lanes[ref[0]].steps[path[0]]
        return outer if len(path) == 1 else outer.steps[path[2]]

    def who(self, ref: Ref) -> str:
        told = self.names.get(ref[:2])
        if told is None:
            step = self.step(ref)
            lane = self.effect.lanes[ref[0]].name
            told = f"{self.within}{lane} · {step.name or kind_of(step).label}"
            if len(ref[1]) == 3:
                told += f", pass {ref[1][1] + 1}"
            self.names[ref[:2]] = told
        return told

    def above(self, ref: Ref) -> Ref | None:
        """The step that a step works on: the one above it, or the last one of the previous pass."""
        lane, path, frame = ref
        if len(path) == 3:
            index, turn, inner = path
            if inner:
                return lane, (index, turn, inner - 1), frame
            if turn:
                last = len(self.effect.lanes[lane].steps[index].steps) - 1
                return lane, (index, turn - 1, last), frame
        return (lane, (path[0] - 1,), frame) if path[0] else None

    def moment_of(self, ref: Ref) -> Moment:
        """The moment at which a step is wanted, with its pass."""
        moment = self.moment.at(ref[2])
        if len(ref[1]) == 1:
            return moment
        return moment.inside(ref[1][1], self.count((ref[0], (ref[1][0],), ref[2])))

    def count(self, ref: Ref) -> int:
        """How many passes a repeat has at a frame."""
        if ref not in self.counts:
            step = self.step(ref)
            kind = kind_of(step)
            param = kind.get(kind.holds)
            assert param is not None
            raw = step.values.get(param.name, param.default)
            moment, who = self.moment.at(ref[2]), self.who(ref)
            passes = int(self.resolve(raw, param, moment, who, self.where(ref)))
            if passes * len(step.steps) > MOST_PASSED:
                raise Fault(
                    f"{self.who(ref)} would run {passes} × {len(step.steps)} steps, more than "
                    f"{MOST_PASSED}. Repeat it less often.",
                    self.where(ref),
                )
            self.counts[ref] = passes
        return self.counts[ref]

    def line(self, ref: Ref) -> bytes:
        """Everything that the results of a feedback step depend on, except the frame."""
        lane, path, _ = ref
        if (lane, path) not in self.lines:
            reached = Graph(self.effect).reached((self.effect.lanes[lane].id, self.step(ref).id))
            told: list[Any] = [
                (one.id, outer.model_dump_json())
                for one in self.effect.lanes
                for outer in one.steps
                if any((one.id, step.id) in reached for step in (outer, *outer.steps))
            ]
            if any('"formula"' in text for _, text in told):
                told = [self.effect.model_dump_json()]  # a formula may read any step's values
            said = (
                told, lane, path, self.size, self.moment.at(0), self.backwards,
                [(slug, setting) for slug, (_, setting) in self.controls.items()],
                self.materials.identities, self.around(ref[2]),
            )  # fmt: skip
            digest = hashlib.blake2b(repr(said).encode(), digest_size=16).digest()
            self.lines[lane, path] = digest
        return self.lines[lane, path]

    def left(self, ref: Ref) -> bool:
        """Use the result of an earlier frame if there is one."""
        state = self.states and self.states.at(self.line(ref), ref[2])
        if not state:
            return False
        if state.key not in self.known:
            step = self.step(ref)
            self.known[state.key] = len(self.nodes)
            self.nodes.append(
                Node(
                    state.key,
                    self.scope,
                    self.place(ref),
                    self.who(ref),
                    kind_of(step),
                    {},
                    1.0,
                    self.moment_of(ref),
                    None,
                    (),
                    line=self.line(ref),
                    given=state.plane,
                )
            )
        self.done[ref] = self.known[state.key]
        return True

    def run(self, target: Ref) -> None:
        """Add the nodes of a step and of all that it reads, in this effect and in those within it.

        Depth first, on one stack for all effects: chains of steps and of macros may be longer than
        Python's own stack.
        """
        opened: dict[tuple[int, Ref], tuple[Any, ...]] = {}
        stack: list[Need] = [(self, target)]
        while stack:
            planner, ref = stack[-1]
            if ref in planner.done:
                stack.pop()
                continue
            name = id(planner), ref
            with planner.blaming():
                if name not in opened:
                    check()
                    opened[name] = planner.open(ref)
                    waiting = [
                        (other, at) for other, at in opened[name][-1] if at not in other.done
                    ]
                    looped = [(other, at) for other, at in waiting if (id(other), at) in opened]
                    if looped:
                        other, at = looped[0]
                        raise Fault(
                            f"{planner.who(ref)} reads {other.who(at)}, which reads "
                            f"{planner.who(ref)}: a loop. Choose another source for one of them.",
                            planner.where(ref),
                        )
                    if waiting:
                        stack.extend(waiting)
                        continue
                planner.close(ref, *opened[name])
            stack.pop()

    @contextmanager
    def blaming(self) -> Iterator[None]:
        """Inside the block a fault gets the name of the use of an effect that it happens in: the
        innermost named one."""
        try:
            yield
        except Fault as fault:
            fault.use = fault.use or self.scope.use
            raise

    @contextmanager
    def telling(self, ref: Ref) -> Iterator[None]:
        """Name the step in the faults that its declaration raises."""
        try:
            yield
        except Fault as fault:
            raise fault.told_of(self.who(ref), self.where(ref)) from None

    def call(self, values: Mapping[str, Any], moment: Moment) -> Call:
        """The call that a step's function would get, without its inputs."""
        return Call(values, self.size, moment, materials=self.materials, backwards=self.backwards)

    def where(self, ref: Ref) -> str:
        """The step's place in the document; for a nested effect, that of the step that shows it."""
        return ".".join(self.place(ref))

    def place(self, ref: Ref) -> Place:
        return self.effect.lanes[ref[0]].id, self.step(ref).id

    def output(self, frame: int) -> Need:
        """The step whose result the effect gives at a frame, counted forwards."""
        with self.blaming():
            last = len(self.effect.lanes) - 1
            outer, inner = self.find(last, None, self.effect.name)
            at = self.moment.length - 1 - frame if self.backwards else frame
            return self, self.last_pass(last, outer, inner, at)

    def own(self, *refs: Ref) -> list[Need]:
        """The steps that a step needs: of this effect, or of another effect in their place."""
        return [(self, ref) for ref in refs]

    def open(self, ref: Ref) -> tuple[Any, ...]:
        """The step's values, and the steps that it needs."""
        if ref in self.elsewhere:
            return None, None, 0.0, [], [self.elsewhere[ref]]
        step, above = self.step(ref), self.above(ref)
        kind = kind_of(step)
        wrong = kind.misplaced(first=above is None, who=self.who(ref))
        if wrong:
            raise Fault(wrong.sentence, self.where(ref))
        if not step.on and above is not None:
            return kind, None, 0.0, [("main", above, None)], self.own(above)
        moment, who = self.moment_of(ref), self.who(ref)
        place = self.where(ref)
        mix = self.resolve(step.mix, MIX, moment, who, place) if kind.main else 1.0
        if mix == 0:
            assert above is not None
            return kind, None, 0.0, [("main", above, None)], self.own(above)
        if kind.holds:
            return self.repeated(ref, kind, mix)
        if kind.runs is not None:
            return self.run_macro(ref, kind, mix)
        given, settled = step.values, kind.settled
        adds_up = given.get("moving_speed") != FROM_THE_START
        values = {
            param.name: settled[param.name]
            if param.name not in given
            else self.so_far(given[param.name], param, moment, who, place)
            if adds_up and getattr(param, "adds_up", False)
            else self.resolve(given[param.name], param, moment, who, place)
            for param in kind.params
        }
        return self.wanted(ref, kind, values, mix, moment)

    def repeated(self, ref: Ref, kind: StepKind, mix: float) -> tuple[Any, ...]:
        """The result of a repeat: that of its last step in the last pass."""
        above, turns = self.above(ref), self.count(ref)
        inside = self.step(ref).steps
        if not inside:
            assert above is not None
            return kind, None, 0.0, [("main", above, None)], self.own(above)
        last: Ref = (ref[0], (ref[1][0], turns - 1, len(inside) - 1), ref[2])
        if mix == 1:
            return kind, None, 0.0, [("main", last, None)], self.own(last)
        assert above is not None
        inputs = [("main", above, None), (SERIES, last, None)]
        return kind, {kind.holds: turns}, mix, inputs, self.own(above, last)

    def open_input(self, ref: Ref, name: str, title: str) -> Fault:
        return Fault(
            f"{self.who(ref)} needs a source for “{title}”. Choose one on its card.",
            f"{self.where(ref)}.{name}",
        )

    def wanted(
        self,
        ref: Ref,
        kind: StepKind,
        values: Mapping[str, Any],
        mix: float,
        moment: Moment,
    ) -> tuple[Any, ...]:
        """The inputs of a step at these values."""
        lane_index, path, frame = ref
        step, above = self.step(ref), self.above(ref)
        call = self.call(values, moment)
        with self.telling(ref):
            needed = kind.needs(values) if kind.needs else None
            frames = kind.frames(call) if kind.frames else ()
            goes_on = kind.goes_on is not None and kind.goes_on(call)
            shows = kind.shows(call) if kind.shows else None
        if shows is not None:
            result = self.nested(ref, *shows)
            return kind, None, 0.0, [("main", result, None)], self.own(result)
        inputs: list[tuple[str, Ref, Input | None]] = []
        if above is not None and (needed is None or "main" in needed or mix < 1):
            inputs.append(("main", above, None))
            if frames:
                read: list[Ref] = [(*above[:2], at) for at in frames]
                inputs = [("main", above if mix < 1 else read[0], None)]
                inputs += [(SERIES, other, None) for other in read]
        for input_kind in kind.inputs:
            if needed is not None and input_kind.name not in needed:
                continue
            source = step.inputs.get(input_kind.name)
            if source is None:
                if input_kind.optional:
                    continue
                raise self.open_input(ref, input_kind.name, input_kind.title)
            inputs.append((input_kind.name, self.named_by(source, ref), source))
        recent = self.shared.recent
        if goes_on and (recent is None or self.moment.frame - frame < recent):
            before = (lane_index, path, frame - 1)
            if before not in self.done:
                self.left(before)
            inputs.append((PREVIOUS, before, None))
        return kind, values, mix, inputs, self.own(*(other for _, other, _ in inputs))

    def named_by(self, source: Input, reader: Ref) -> Ref:
        """The step that an input names.

        From inside a repeat, the name of another of its steps means that step in the same pass, and
        the name of the repeat means the pass's input. From outside, the name of one of its steps
        means that step in the last pass.
        """
        who, frame = self.who(reader), reader[2] + source.offset
        index = self.lanes.get(source.lane)
        if index is None:
            raise Missing(f"{who} reads the lane “{source.lane}”, which does not exist.", who)
        outer, inner = self.find(index, source.step, who)
        path = reader[1]
        if len(path) == 3 and (index, outer) == (reader[0], path[0]):
            if inner is not None:
                return index, (outer, path[1], inner), frame
            entry = self.above((index, (outer, path[1], 0), frame))
            assert entry is not None
            return entry
        return self.last_pass(index, outer, inner, frame)

    def last_pass(self, lane: int, outer: int, inner: int | None, frame: int) -> Ref:
        """The step that others read: for a step inside a repeat, that of the last pass."""
        if inner is None:
            return lane, (outer,), frame
        return lane, (outer, self.count((lane, (outer,), frame)) - 1, inner), frame

    def find(self, index: int, step: str | None, who: str) -> tuple[int, int | None]:
        """The place of a step in its lane, and in its repeat; by default the last step of the
        lane."""
        lane = self.effect.lanes[index]
        if not lane.steps:
            raise Fault(f"{who} reads the lane “{lane.name}”, which is empty. Add a step to it.")
        if step is None:
            return len(lane.steps) - 1, None
        place = self.places.get((lane.id, step))
        if place is None:
            raise Missing(
                f"{who} reads the step “{step}” of “{lane.name}”, which does not exist.", who
            )
        return place

    def close(
        self,
        ref: Ref,
        kind: StepKind | None,
        values: Mapping[str, Any] | None,
        mix: float,
        wanted: list[tuple[str, Ref, Input | None]],
        needs: list[Need],
    ) -> None:
        """Hash a step whose inputs have nodes, and add its node once."""
        if kind is None:
            planner, at = needs[0]
            self.done[ref] = planner.done[at]
            return
        if values is None:
            self.done[ref] = self.done[wanted[0][1]]
            return
        moment = self.moment_of(ref)
        main, inputs, previous, series = None, [], None, []
        for name, other, source in wanted:
            if name == PREVIOUS:
                previous = self.done[other]
            elif name == SERIES:
                series.append(self.done[other])
            elif source is None:
                main = self.done[other]
            else:
                inputs.append(NodeInput(name, self.done[other], source.channel, source.invert))
        if kind.merge and main is not None and mix == 1 and kind.kind == self.nodes[main].kind.kind:
            over = self.nodes[main]
            both = kind.merge(over.values, values) if over.mix == 1 else None
            if both is not None:
                values, main = both, over.main
        reads = None
        if kind.reads:
            with self.telling(ref):
                reads = kind.reads(self.call(values, moment))
        node = Node(
            b"", self.scope, self.place(ref), self.who(ref), kind, values, mix, moment, main,
            tuple(inputs), previous, tuple(series),
            line=self.line(ref) if kind.goes_on and self.states else None,
        )  # fmt: skip
        if not kind.gathers:
            self.done[ref] = self.lay(node, reads)
            return
        # One node for each frame, so that only two frames are in memory at once.
        for k, frame in enumerate(series):
            last = k == len(series) - 1
            part = replace(
                node, main=main if last and mix < 1 else None, mix=mix if last else 1.0,
                series=(frame,), previous=previous, part=(k, len(series)),
            )  # fmt: skip
            previous = self.lay(part, reads)
        assert previous is not None
        self.done[ref] = previous

    def lay(self, node: Node, reads: Hashable) -> int:
        """Add a node under a hash of all that it depends on, once; its index."""
        previous = node.previous
        said = (
            node.kind.kind, sorted(node.values.items()), node.mix, reads,
            self.size.width, self.size.height,
            node.main is not None and self.nodes[node.main].key,
            [(source.name, self.nodes[source.node].key, source.channel, source.invert)
             for source in node.inputs],
            previous is not None and self.nodes[previous].key,
            [self.nodes[index].key for index in node.series],
            *((node.part,) if node.part[1] > 1 else ()),
        )  # fmt: skip
        key = hashlib.blake2b(repr(said).encode(), digest_size=16).digest()
        if key not in self.known:
            self.known[key] = len(self.nodes)
            self.nodes.append(replace(node, key=key))
        return self.known[key]

    def nested(self, ref: Ref, shown: Nested | Wired, frame: int) -> Ref:
        """The reference under which the planner keeps the result of the effect that a step
        shows."""
        raise NotImplementedError

    def run_macro(self, ref: Ref, kind: StepKind, mix: float) -> tuple[Any, ...]:
        """Plan a step that runs a macro: its result is the macro's result."""
        raise NotImplementedError

    def around(self, frame: int) -> bytes:
        """Everything that a macro depends on besides itself: the step that runs it."""
        return b""
