"""Compute a plan: take cached results, and wait for results that another thread is computing."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from threading import Event, Lock
from time import perf_counter
from typing import Any

import numpy as np

from ..cache import Budget, Cache
from ..document import Effect
from ..faults import Fault, NoRoom
from ..footage import Materials
from ..giving_up import check, given_up_when
from ..pictures.picture import Eight, Plane, Size, as_picture
from ..time.timing import Moment
from .nodes import Node, Place, Plan
from .passes import Pass, call_of, group, run_pass, weighed
from .plan import NO_MATERIALS, make_plan
from .states import States

DEFAULT_CACHE = 1 << 30
STATES_SHARE = 8
"""States of feedback steps may take this much more memory, as a share of the cache's size."""
MOST_MEASURED = 50_000
EIGHT = b"8"
"""Marks the key of a result that was computed straight to 8 bits."""


@dataclass(frozen=True)
class Cost:
    """The cost of one step in one evaluation; zero if its result was cached."""

    place: Place
    ms: float
    bytes: int
    cached: bool


@dataclass(frozen=True)
class Evaluation:
    """A result with its content hash and what it cost.

    ``held`` is the result as the engine holds it: a picture, a matte, or 8-bit RGB.
    """

    held: Plane | Eight
    key: str
    costs: tuple[Cost, ...]

    @property
    def plane(self) -> Plane:
        """The result as a picture (H, W, 4) or a matte (H, W)."""
        held: Any = self.held
        return as_picture(held) if held.dtype == np.uint8 else held

    @property
    def picture(self) -> Plane:
        """The result as a picture, (H, W, 4)."""
        return as_picture(self.held)

    @property
    def ms(self) -> float:
        """Milliseconds in all steps."""
        return sum(cost.ms for cost in self.costs)


class Engine:
    """Evaluates effects. One engine serves many threads and holds one cache.

    Parameters
    ----------
    cache_bytes : int
        How much memory finished results may take; 1 GiB by default.
    """

    def __init__(self, room: int | Budget = DEFAULT_CACHE) -> None:
        room = room if isinstance(room, Budget) else Budget(room)
        states = room.limit // STATES_SHARE
        room.give_up(states)
        self.cache: Cache[bytes, Plane] = Cache(room)
        self.states = States(states)
        self._under_way: dict[bytes, Event] = {}
        self._measured: OrderedDict[bytes, tuple[float, int]] = OrderedDict()
        self._lock = Lock()

    def evaluate(
        self,
        effect: Effect,
        moment: Moment,
        size: Size,
        *,
        step: Place | None = None,
        settings: Mapping[str, Any] | None = None,
        materials: Materials = NO_MATERIALS,
        cancelled: Callable[[], bool] | None = None,
        passing: bool = False,
    ) -> Evaluation:
        """The effect's output, or one step's result, at a moment and a size.

        The same document, settings, material, moment and size give the same pixels, whatever
        was computed before and however many threads are at work.

        Raises
        ------
        Fault
            If the effect cannot be computed; it names lane, step and value.
        Cancelled
            As soon as ``cancelled`` returns true; no partial result is kept.
        """
        with given_up_when(cancelled):
            plan = make_plan(
                effect, moment, size,
                step=step, settings=settings, materials=materials, states=self.states,
            )  # fmt: skip
            return self.compute(plan, passing=passing)

    def compute(
        self,
        plan: Plan,
        cancelled: Callable[[], bool] | None = None,
        eight: bool = False,
        passing: bool = False,
    ) -> Evaluation:
        """The result of a plan.

        With ``eight`` the caller needs only 8 bits. The result may be computed straight to them,
        within one code value of the full result.

        With ``cancelled`` the work stops as soon as that function returns true.

        With ``passing`` the frame is one of a film, and nobody looks at results between its steps.
        Neighbouring steps then run as one pass if their kinds allow it, and only results that an
        earlier frame used too are kept. The pixels are the same.
        """
        with given_up_when(cancelled):
            return self._computed(plan, eight, passing)

    def _computed(self, plan: Plan, eight: bool, passing: bool) -> Evaluation:
        nodes = list(plan.nodes)
        last = nodes[-1]
        if eight and last.kind.gives_eight and last.mix == 1:
            nodes[-1] = replace(last, key=last.key + EIGHT, eight=True)
        lines = {node.line for node in nodes if node.line is not None}
        have: dict[int, Any] = {}
        wanted: set[int] = set()
        costs: list[Cost] = []
        stack = [len(nodes) - 1]
        while stack:
            index = stack.pop()
            if index in wanted or index in have:
                continue
            given = nodes[index].given
            plane = self.cache.get(nodes[index].key) if given is None else given
            if plane is not None:
                have[index] = plane
                self._leave(nodes[index], plane, lines)
                costs.append(Cost(nodes[index].place, 0.0, plane.nbytes, True))
            else:
                wanted.add(index)
                stack.extend(nodes[index].sources)
        passes: dict[int, Pass] = {}
        if passing:
            passes = group(nodes, wanted, lambda node: node.key in self._measured)
        inside = {k for found in passes.values() for k in found.nodes[:-1]}
        needs = {k: passes[k].sources if k in passes else nodes[k].sources for k in wanted - inside}
        steps = in_order(needs, len(nodes) - 1)
        uses: dict[int, int] = {}
        for index in steps:
            for other in needs[index]:
                uses[other] = uses.get(other, 0) + 1
        for index in steps:
            check()
            work = _Work(nodes, index, passes.get(index), have, plan, passing)
            plane, spent = self._once(work)
            have[index] = plane
            self._leave(nodes[index], plane, lines)
            costs += work.costs(plane, spent)
            for other in needs[index]:
                uses[other] -= 1
                if not uses[other]:
                    del have[other]
        return Evaluation(have[len(nodes) - 1], plan.key, tuple(costs))

    def _leave(self, node: Node, plane: Plane, lines: Collection[bytes]) -> None:
        """Keep the result of a feedback step for the frames after it."""
        if node.line is not None and not node.eight:
            self.states.note(node.line, node.moment.frame, node.key, plane, lines)

    def _once(self, work: _Work) -> tuple[Plane, list[float]]:
        """Compute a node; if another thread is computing it already, wait for that result."""
        key = work.node.key
        while True:
            with self._lock:
                held = self.cache.get(key)
                if held is not None:
                    return held, []
                other = self._under_way.get(key)
                if other is None:
                    mine = self._under_way[key] = Event()
                    break
            # Look again: the result is cached now, or was too large to keep, or failed.
            while not other.wait(0.1):
                check()
        try:
            plane, spent = work.run()
            plane.setflags(write=False)
            if not work.passing or key in self._measured:
                self.cache.put(key, plane)
            self._note(work.keys, spent, plane.nbytes)
            return plane, spent
        finally:
            with self._lock:
                del self._under_way[key]
            mine.set()

    def _note(self, keys: list[bytes], spent: list[float], size: int) -> None:
        with self._lock:
            for key, ms in zip(keys, spent, strict=True):
                self._measured[key] = (ms, size if key == keys[-1] else 0)
            while len(self._measured) > MOST_MEASURED:
                self._measured.popitem(last=False)

    def measured(self, plan: Plan) -> dict[Place, Cost]:
        """The cost of each step of a plan when it was last computed, if it ever was."""
        with self._lock:
            costs: dict[Place, Cost] = {}
            for node in plan.nodes:
                for key in (node.key, node.key + EIGHT):
                    if key in self._measured:
                        ms, size = self._measured[key]
                        several = node.moment.turn or node.scope.nested or node.part[0]
                        if several and node.place in costs:
                            # A repeat's step costs all its passes, a nested effect all its steps,
                            # one that gathers frames all of them.
                            ms += costs[node.place].ms
                        costs[node.place] = Cost(node.place, ms, size, False)
            return costs


def in_order(needs: Mapping[int, Sequence[int]], last: int) -> list[int]:
    """The nodes that the last one needs, each after its own inputs, as late as possible.

    Each input is finished before the next one starts, so that few results are in memory at once.
    """
    order: list[int] = []
    seen: set[int] = set()
    stack = [(last, False)] if last in needs else []
    while stack:
        index, ready = stack.pop()
        if ready:
            order.append(index)
        elif index not in seen:
            seen.add(index)
            stack.append((index, True))
            stack += [(other, False) for other in reversed(needs[index]) if other in needs]
    return order


@dataclass(frozen=True)
class _Work:
    """A node to compute, or a pass of several that ends with it."""

    nodes: Sequence[Node]
    index: int
    joined: Pass | None
    have: Mapping[int, Plane]
    plan: Plan
    passing: bool

    @property
    def node(self) -> Node:
        return self.nodes[self.index]

    @property
    def members(self) -> tuple[int, ...]:
        return (self.index,) if self.joined is None else self.joined.nodes

    @property
    def keys(self) -> list[bytes]:
        return [self.nodes[k].key for k in self.members]

    def costs(self, plane: Plane, spent: list[float]) -> list[Cost]:
        """The cost of each step; only the last one's result stays in memory."""
        times = spent or [0.0] * len(self.members)
        return [
            Cost(self.nodes[k].place, ms, plane.nbytes if k == self.index else 0, not spent)
            for k, ms in zip(self.members, times, strict=True)
        ]

    def run(self) -> tuple[Plane, list[float]]:
        """The result, and the milliseconds each of :attr:`members` took.

        After a fault in a pass its steps run one by one, so that the fault names its step.
        """
        if self.joined is not None:
            try:
                return run_pass(self.joined, self.nodes, self.plan, self.have)
            except (Fault, MemoryError):
                return self._apart()
        plane, ms = self._one(self.node, self.have)
        return plane, [ms]

    def _apart(self) -> tuple[Plane, list[float]]:
        have, spent = dict(self.have), []
        for k in self.members:
            have[k], ms = self._one(self.nodes[k], have)
            spent.append(ms)
        return have[self.index], spent

    def _one(self, node: Node, have: Mapping[int, Plane]) -> tuple[Plane, float]:
        start = perf_counter()
        try:
            out = node.kind.compute(call_of(node, self.plan.size, have))
            out = weighed(node, None if node.main is None else have[node.main], out)
        except Fault as fault:
            told = fault.told_of(node.who, ".".join(node.place))
            told.use = node.scope.use
            raise told from None
        except MemoryError:
            size = self.plan.size
            raise NoRoom(
                f"{node.who} does not fit into memory at {size.width}×{size.height}. Choose a "
                f"smaller size.",
                ".".join(node.place),
            ) from None
        return out, (perf_counter() - start) * 1000
