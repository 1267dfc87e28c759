"""Pictures that do not fill the frame, and steps that would mirror or repeat their borders."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from .checking import chain
from .document import Effect, Lane, Step
from .picture import Size
from .steps import step_kind

NEAR = 0.005
"""A frame may be this much wider or higher than a picture before anybody sees it."""


@dataclass(frozen=True)
class Ghost:
    """A picture smaller than the frame whose border some step mirrors or repeats."""

    lane: str
    step: str
    sentence: str


def covers(picture: Size, frame: Size, how: str) -> bool:
    """Whether a picture fills a frame when it is fitted so.

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
    """Where a picture that does not fill the frame leads to mirrored or repeated borders.

    Such a matte shows the same shape again beside itself: ghosts that nobody asked for. The
    picture either mirrors its own border, or a later step reads beyond the frame's.

    Parameters
    ----------
    sizes : mapping
        Of the materials, by the name of the slot or of the still that shows them.
    frame : Size
        The frame that the effect is looked at in.
    """
    readers = _readers(effect)
    found = []
    for lane in effect.lanes:
        for step in lane.steps[:1]:
            size = sizes.get(_shown(step))
            how = str(step.values.get("fit", "cover"))
            if size is None or covers(size, frame, how):
                continue
            culprit = _mirrors(effect, step, lane, readers)
            if culprit:
                found.append(
                    Ghost(
                        lane.id,
                        step.id,
                        f"“{lane.name}” is {size.width}×{size.height} and does not fill the frame "
                        f"(fit: {how}), and {culprit}: its shape will show again beside itself. "
                        "Fit it to cover the frame, or choose clear edges.",
                    )
                )
    return found


def _shown(step: Step) -> str:
    """The slot or the still that a source shows; nothing for others."""
    if step.kind == "slot":
        return str(step.values.get("slot", "clip"))
    return str(step.values.get("asset", "")) if step.kind == "still" else ""


def _readers(effect: Effect) -> dict[tuple[str, str], list[tuple[Lane, Step]]]:
    """By lane and step: the steps that take it in directly."""
    found: dict[tuple[str, str], list[tuple[Lane, Step]]] = {}
    for lane in effect.lanes:
        for step, above, _ in chain(lane):
            if above is not None:
                found.setdefault((lane.id, above), []).append((lane, step))
            for tap in step.taps.values():
                other = effect.lane(tap.lane)
                last = other.steps[-1].id if other and other.steps else ""
                found.setdefault((tap.lane, tap.step or last), []).append((lane, step))
    return found


def _mirrors(
    effect: Effect,
    source: Step,
    lane: Lane,
    readers: Mapping[tuple[str, str], list[tuple[Lane, Step]]],
) -> str:
    """Which step after a source mirrors or repeats edges, in words; empty for none."""
    if source.values.get("edges") in ("mirror", "repeat"):
        return f"it is set to {source.values['edges']} its edges"
    waiting, seen = [(lane.id, source.id)], set()
    while waiting:
        place = waiting.pop()
        if place in seen:
            continue
        seen.add(place)
        for other, step in readers.get(place, []):
            kind = step_kind(step.kind)
            param = kind.get("edges")
            edges = step.values.get("edges", param.default if param else "")
            if step.on and edges in ("mirror", "repeat"):
                return f"{step.name or kind.label} in “{other.name}” {edges}s edges"
            waiting.append((other.id, step.id))
    return ""
