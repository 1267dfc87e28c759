"""Save passes: neighbouring steps that only look at their own row run as one pass over the pixels."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from threading import Lock
from time import perf_counter
from typing import Any

import numpy as np

from ..kernels import rows
from ..kernels.filters import mixing
from ..pictures.picture import Channel, Size, as_matte, as_picture, is_matte
from ..steps import Call, StepKind
from ..steps.declare import Takes
from .nodes import Node, Plan

BAND_BYTES = 1024 * 1024
"""A band of this size leaves room in a core's cache for the other arrays of a pass."""


@dataclass(frozen=True)
class Pass:
    """Steps that run together, in order; the pass gives the result of the last one."""

    nodes: tuple[int, ...]
    sources: tuple[int, ...]


def group(
    nodes: Sequence[Node], wanted: Collection[int], apart: Callable[[Node], bool]
) -> dict[int, Pass]:
    """Groups of nodes that run together, by their last node.

    A node joins the node that it feeds if both are computed row by row, nothing else reads it, and
    ``apart`` does not ask for its result by itself.
    """
    readers: dict[int, set[int]] = {}
    for index in wanted:
        for other in nodes[index].sources:
            readers.setdefault(other, set()).add(index)
    groups: dict[int, list[int]] = {}
    for index in sorted(wanted):
        if not nodes[index].kind.rowwise:
            continue
        members: list[int] = []
        for other in dict.fromkeys(nodes[index].sources):
            joins = other in groups and len(readers[other]) == 1 and not apart(nodes[other])
            if joins:
                members += groups.pop(other)
        groups[index] = [*members, index]
    passes = {}
    for index, members in groups.items():
        if len(members) > 1:
            order = tuple(sorted(members))
            inside = set(order)
            outside = dict.fromkeys(i for m in order for i in nodes[m].sources if i not in inside)
            passes[index] = Pass(order, tuple(outside))
    return passes


def suited(
    plane: Any,
    kind: StepKind,
    name: str,
    takes: Takes,
    channel: Channel = "luminance",
    invert: bool = False,
) -> Any:
    """An input in the form that a step takes."""
    if takes == "matte":
        return as_matte(as_picture(plane) if plane.ndim == 3 else plane, channel, invert)
    if plane.dtype == np.uint8:
        return plane if name in kind.takes_eight else as_picture(plane)
    return as_picture(plane) if takes == "picture" else plane


def call_of(node: Node, size: Size, have: Mapping[int, Any]) -> Call:
    """The call of a node's function, with its inputs from ``have``."""
    kind = node.kind
    given = None
    if node.main is not None:
        given = suited(have[node.main], kind, "main", kind.main or "either")
    if node.series:
        given = suited(have[node.series[0]], kind, "main", kind.main or "either")
    inputs: dict[str, Any] = {}
    for source in node.inputs:
        takes = kind.input(source.name)
        assert takes is not None
        inputs[source.name] = suited(
            have[source.node], kind, source.name, takes.takes, source.channel, source.invert
        )
    previous = None if node.previous is None else have[node.previous]
    series = tuple(suited(have[k], kind, "main", kind.main or "either") for k in node.series)
    return Call(
        node.values, size, node.moment, inputs=inputs, arriving=given, eight=node.eight,
        materials=node.scope.materials, previous=previous, series=series,
        backwards=node.scope.backwards, part=node.part,
    )  # fmt: skip


def weighed(node: Node, main: Any, out: Any) -> Any:
    """A step's result mixed with its input by the step's mix."""
    if node.mix == 1 or main is None:
        return out
    if is_matte(out) != is_matte(main) or out.dtype != main.dtype or out.dtype == np.uint8:
        out, main = as_picture(out), as_picture(main)
    return mixing.mix(main, out, node.mix)


class _Bands:
    """One pass under way: its results so far, and what each step has taken."""

    def __init__(self, found: Pass, nodes: Sequence[Node], plan: Plan, have: Mapping[int, Any]):
        self.found, self.nodes, self.plan, self.have = found, nodes, plan, have
        self.height = plan.size.height
        self.out: Any = None
        self.lock = Lock()
        self.spent = [0.0] * len(found.nodes)

    def run(self, first: int, last: int) -> None:
        part: dict[int, Any] = {i: self.have[i][first:last] for i in self.found.sources}
        spent = []
        for index in self.found.nodes:
            start = perf_counter()
            node = self.nodes[index]
            call = call_of(node, self.plan.size, part)
            made = node.kind.compute(call)
            part[index] = weighed(node, None if node.main is None else part[node.main], made)
            spent.append(perf_counter() - start)
        result = part[self.found.nodes[-1]]
        with self.lock:
            if self.out is None:
                self.out = np.empty((self.height, *result.shape[1:]), result.dtype)
            self.spent = [a + b for a, b in zip(self.spent, spent, strict=True)]
        self.out[first:last] = result


def run_pass(
    found: Pass, nodes: Sequence[Node], plan: Plan, have: Mapping[int, Any]
) -> tuple[Any, list[float]]:
    """The result of a pass, and the milliseconds of each of its steps.

    Every pixel is computed as it would be step by step: only the order of the work differs.
    """
    start = perf_counter()
    work = _Bands(found, nodes, plan, have)
    each = max(4, BAND_BYTES // (16 * plan.size.width))
    rows.in_bands(work.run, work.height, each)
    ms = (perf_counter() - start) * 1000
    total = sum(work.spent) or 1.0
    return work.out, [ms * part / total for part in work.spent]
