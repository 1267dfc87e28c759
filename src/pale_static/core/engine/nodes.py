"""The nodes of a plan: steps at a moment, in the order in which they are computed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..footage import Materials
from ..pictures.picture import Channel, Plane, Size
from ..steps import StepKind
from ..time.timing import Moment

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

    ``nested`` says that another effect shows it, ``use`` which use of it this is.
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
    """Of a step that gathers frames one after the other: which of how many this one adds."""
    eight: bool = False
    line: bytes | None = None
    """Of a step that feeds back: the line whose later frames go on from this result."""
    given: Plane | None = None
    """The result, where an earlier frame has left it."""

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
