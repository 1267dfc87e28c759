"""Computing a plan: what is cached is taken, what is under way is waited for."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from threading import Event, Lock
from time import perf_counter
from typing import Any

import numpy as np

from ..document import Effect
from ..faults import Cancelled, Fault, NoRoom
from ..footage import Materials
from ..kernels import mixing
from ..picture import Channel, Eight, Plane, Size, as_matte, as_picture, is_matte
from ..steps import Call, StepKind
from ..steps.declare import Takes
from ..timing import Moment
from .cache import Cache
from .plan import NO_MATERIALS, Node, Place, Plan, make_plan

DEFAULT_CACHE = 1 << 30
MOST_MEASURED = 50_000
EIGHT = b"8"
"""Marks the key of a result that was computed straight to 8 bits."""


@dataclass(frozen=True)
class Cost:
    """What one step took in one evaluation; nothing, where its result was there already."""

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


def _suited(
    plane: Any,
    kind: StepKind,
    name: str,
    takes: Takes,
    channel: Channel = "luminance",
    invert: bool = False,
) -> Any:
    """An input in the form that a step takes it in."""
    if takes == "matte":
        return as_matte(as_picture(plane) if plane.ndim == 3 else plane, channel, invert)
    if plane.dtype == np.uint8:
        return plane if name in kind.takes_eight else as_picture(plane)
    return as_picture(plane) if takes == "picture" else plane


class Engine:
    """Evaluates effects. One engine serves many threads and holds one cache.

    Parameters
    ----------
    cache_bytes : int
        How much memory finished results may take; 1 GiB by default.
    """

    def __init__(self, cache_bytes: int = DEFAULT_CACHE) -> None:
        self.cache = Cache(cache_bytes)
        self._under_way: dict[bytes, Event] = {}
        self._measured: OrderedDict[bytes, float] = OrderedDict()
        self._lock = Lock()

    def evaluate(
        self,
        effect: Effect,
        moment: Moment,
        size: Size,
        *,
        stage: Place | None = None,
        settings: Mapping[str, Any] | None = None,
        materials: Materials = NO_MATERIALS,
        cancelled: Callable[[], bool] | None = None,
    ) -> Evaluation:
        """The effect's output, or one step's result, at a moment and a size.

        The same document, settings, material, moment and size give the same pixels, whatever
        was computed before and however many threads are at work.

        Raises
        ------
        Fault
            Naming lane, step and value, where the effect cannot be computed.
        Cancelled
            As soon as ``cancelled`` says so; nothing half-done is kept.
        """
        plan = make_plan(effect, moment, size, stage=stage, settings=settings, materials=materials)
        return self.compute(plan, cancelled)

    def compute(
        self, plan: Plan, cancelled: Callable[[], bool] | None = None, eight: bool = False
    ) -> Evaluation:
        """The result of a plan.

        With ``eight`` it is only looked at in 8 bits, and may be computed straight to them;
        it is then within one code value of the full result.
        """
        nodes = list(plan.nodes)
        last = nodes[-1]
        if eight and last.kind.gives_eight and last.mix == 1:
            nodes[-1] = replace(last, key=last.key + EIGHT, eight=True)
        have: dict[int, Any] = {}
        wanted: set[int] = set()
        costs: list[Cost] = []
        stack = [len(nodes) - 1]
        while stack:
            index = stack.pop()
            if index in wanted or index in have:
                continue
            plane = self.cache.get(nodes[index].key)
            if plane is not None:
                have[index] = plane
                costs.append(Cost(nodes[index].place, 0.0, plane.nbytes, True))
            else:
                wanted.add(index)
                stack.extend(nodes[index].inputs)
        uses: dict[int, int] = {}
        for index in wanted:
            for other in nodes[index].inputs:
                uses[other] = uses.get(other, 0) + 1
        for index in sorted(wanted):
            if cancelled and cancelled():
                raise Cancelled
            node = nodes[index]
            plane, ms = self._once(node, have, plan)
            have[index] = plane
            costs.append(Cost(node.place, ms, plane.nbytes, False))
            for other in node.inputs:
                uses[other] -= 1
                if not uses[other]:
                    del have[other]
        return Evaluation(have[len(nodes) - 1], plan.key, tuple(costs))

    def _once(self, node: Node, have: Mapping[int, Plane], plan: Plan) -> tuple[Plane, float]:
        """Compute a node, unless another thread is at it: then wait for what that one finds."""
        while True:
            with self._lock:
                found = self.cache.get(node.key)
                if found is not None:
                    return found, 0.0
                other = self._under_way.get(node.key)
                if other is None:
                    mine = self._under_way[node.key] = Event()
                    break
            # Look again then: it is there, or was too large to keep, or failed.
            other.wait()
        try:
            plane, ms = self._run(node, have, plan)
            self.cache.put(node.key, plane)
            self._note(node.key, ms)
            return plane, ms
        finally:
            with self._lock:
                del self._under_way[node.key]
            mine.set()

    def _note(self, key: bytes, ms: float) -> None:
        with self._lock:
            self._measured[key] = ms
            while len(self._measured) > MOST_MEASURED:
                self._measured.popitem(last=False)

    def measured(self, plan: Plan) -> dict[Place, float]:
        """Milliseconds each step of a plan took when it was last computed, where it ever was."""
        with self._lock:
            found = {}
            for node in plan.nodes:
                for key in (node.key, node.key + EIGHT):
                    if key in self._measured:
                        found[node.place] = self._measured[key]
            return found

    @staticmethod
    def _run(node: Node, have: Mapping[int, Plane], plan: Plan) -> tuple[Plane, float]:
        start = perf_counter()
        kind = node.kind
        main = None if node.main is None else have[node.main]
        given = None if main is None else _suited(main, kind, "main", kind.main or "either")
        taps: dict[str, Any] = {}
        for tap in node.taps:
            takes = kind.tap(tap.name)
            assert takes is not None
            taps[tap.name] = _suited(
                have[tap.node], kind, tap.name, takes.takes, tap.channel, tap.invert
            )
        call = Call(
            node.values, plan.size, node.moment, taps=taps, input=given, eight=node.eight,
            materials=plan.materials,
        )  # fmt: skip
        try:
            out = kind.compute(call)
            if node.mix < 1 and main is not None:
                if (
                    is_matte(out) != is_matte(main)
                    or out.dtype != main.dtype
                    or out.dtype == np.uint8
                ):
                    out, main = as_picture(out), as_picture(main)
                out = mixing.mix(main, out, node.mix)
        except Fault as fault:
            raise type(fault)(f"{node.who}: {fault.sentence}", ".".join(node.place)) from None
        except MemoryError:
            raise NoRoom(
                f"{node.who} needs more memory than there is at {plan.size.width}×"
                f"{plan.size.height}. Choose a smaller size.",
                ".".join(node.place),
            ) from None
        return out, (perf_counter() - start) * 1000
