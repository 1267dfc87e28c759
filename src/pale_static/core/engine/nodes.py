"""The nodes of a plan: steps at a moment, in the order in which they are computed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from ..document import Effect
from ..footage import Materials
from ..pictures.picture import Channel, Plane, Size
from ..steps import StepKind
from ..steps.macro import MAIN
from ..time.timing import Moment
from .states import States

Place = tuple[str, str]
"""Lane and step."""


@dataclass(frozen=True)
class NodeInput:
    """One input of a node: the node that it reads, and how a matte is made from that picture."""

    name: str
    node: int
    channel: Channel = "luminance"
    invert: bool = False


@dataclass(frozen=True)
class Scope:
    """What the steps of one effect share: its materials, and which way it plays.

    ``nested`` says whether another effect shows it; ``use`` names that use.
    """

    materials: Materials
    backwards: bool = False
    nested: bool = False
    use: str = ""


@dataclass(frozen=True)
class Node:
    """One step at one moment, with its values resolved and a hash of all it depends on."""

    key: bytes
    scope: Scope
    place: Place
    who: str
    kind: StepKind
    values: Mapping[str, Any]
    mix: float
    moment: Moment
    main: int | None
    inputs: tuple[NodeInput, ...]
    previous: int | None = None
    series: tuple[int, ...] = ()
    part: tuple[int, int] = (0, 1)
    """For a step that gathers frames one by one: the number of this frame, and of all frames."""
    eight: bool = False
    line: bytes | None = None
    """For a feedback step: the line whose later frames continue from this result."""
    given: Plane | None = None
    """The result, if an earlier frame computed it."""

    @property
    def sources(self) -> list[int]:
        """Indices of this node's inputs; its own previous frame comes first."""
        sources = [] if self.previous is None else [self.previous]
        if self.main is not None:
            sources.append(self.main)
        sources += [source.node for source in self.inputs]
        return sources + [index for index in self.series if index != self.main]


@dataclass(frozen=True)
class Plan:
    """Nodes in order, each after its inputs; the last one is the wanted result."""

    nodes: tuple[Node, ...]
    size: Size

    @property
    def key(self) -> str:
        """A content hash of the wanted picture."""
        return self.nodes[-1].key.hex()

    @property
    def run_up(self) -> int:
        """Earlier frames of feedback steps that must be computed first."""
        return sum(
            node.kind.goes_on is not None and node.previous is not None for node in self.nodes
        )


@dataclass
class Shared:
    """The nodes so far, of an effect and of the effects within it."""

    size: Size
    states: States | None
    recent: int | None = None
    nodes: list[Node] = field(default_factory=list)
    known: dict[bytes, int] = field(default_factory=dict)


def with_fallbacks(effect: Effect, materials: Materials) -> Materials:
    """Materials in which the clip itself fills each empty slot that falls back on it."""
    clip = materials.slots.get(MAIN[effect.kind])
    empty = [slot.id for slot in effect.slots
             if slot.fallback == "clip" and slot.id not in materials.slots]  # fmt: skip
    if clip is None or not empty:
        return materials
    return replace(materials, slots={**dict.fromkeys(empty, clip), **materials.slots})
