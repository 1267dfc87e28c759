"""Pictures that do not fill the frame, and steps that would mirror or repeat their borders."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..document import Effect, Step
from ..documents.graph import Graph, Place
from ..pictures.picture import Size
from ..steps import kind_of

NEAR = 0.005
"""The largest difference in width or height between a frame and a picture that nobody sees."""


@dataclass(frozen=True)
class Ghost:
    """A picture smaller than the frame whose border some step mirrors or repeats."""

    lane: str
    step: str
    sentence: str


def covers(picture: Size, frame: Size, how: str) -> bool:
    """Whether a picture fills a frame when it is fitted this way.

    Parameters
    ----------
    how : {"cover", "contain", "stretch", "actual"}
    """
    if how in ("cover", "stretch"):
        return True
    across, down = picture.width / frame.width, picture.height / frame.height
    if how == "contain":
        across, down = across / max(across, down), down / max(across, down)
    return min(across, down) >= 1 - NEAR


def ghosts(effect: Effect, sizes: Mapping[str, Size], frame: Size) -> list[Ghost]:
    """Pictures that do not fill the frame although a step mirrors or repeats their borders.

    Such a matte shows its shape again beside itself: unwanted ghosts. Either the picture mirrors
    its own border, or a later step reads outside the frame.

    Parameters
    ----------
    sizes : mapping
        Sizes of materials, by the name of the slot or of the still that shows them.
    frame : Size
        The size of the effect's frame.
    """
    graph, notes = Graph(effect), []
    for lane in effect.lanes:
        for step in lane.steps[:1]:
            size = sizes.get(_shown(step))
            how = str(step.values.get("fit", "cover"))
            if size is None or covers(size, frame, how):
                continue
            culprit = _mirrors(graph, (lane.id, step.id))
            if culprit:
                notes.append(
                    Ghost(
                        lane.id,
                        step.id,
                        f"“{lane.name}” is {size.width}×{size.height} and does not fill the frame "
                        f"(fit: {how}), and {culprit}: its shape will show again beside itself. "
                        "Fit it to cover the frame, or set outside to clear.",
                    )
                )
    return notes


def _shown(step: Step) -> str:
    """The slot or the still that a source shows; nothing for others."""
    if step.kind == "slot":
        return str(step.values.get("slot", "clip"))
    return str(step.values.get("asset", "")) if step.kind == "still" else ""


def _mirrors(graph: Graph, place: Place) -> str:
    """Which step after a source mirrors or repeats borders, in words; empty for none."""
    source = graph.stands[place].step
    if source.values.get("outside") in ("mirror", "repeat"):
        return f"it is set to {source.values['outside']} its borders"
    for stand in graph.downstream(place):
        step, kind = stand.step, kind_of(stand.step)
        param = kind.get("outside")
        rule = step.values.get("outside", param.default if param else "")
        if step.on and rule in ("mirror", "repeat"):
            return f"{step.name or kind.label} in “{stand.lane.name}” {rule}s its borders"
    return ""
