"""Moving values of an effect: their curves over its length."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from ..document import Effect
from ..engine.resolve import Resolver
from ..faults import Fault
from ..pictures.picture import Size
from ..steps import MIX, kind_of
from ..time.timing import FrameRate, Moment
from ..values.params import Number, Param, Point
from ..values.value import Formula, Key, Keys, Link, placed


@dataclass(frozen=True)
class Line:
    """One moving value: samples from the first frame to the last, and its keys by their share of
    the length.

    A point is two lines, of the ``part`` x and of y. A value that is not a number, such as a colour
    or a choice, has the part "band": its samples are 0, and its ``runs`` hold the shares of the
    effect between which it stays, and its value there.
    """

    lane: str
    step: str
    value: str
    label: str
    samples: list[float]
    keys: list[tuple[float, Key]]
    squeezed: bool
    part: str = ""
    runs: tuple[tuple[float, float, Any], ...] = ()


def moving(effect: Effect, length: int, rate: FrameRate, points: int = 101) -> list[Line]:
    """All moving values of the effect, in document order.

    Parameters
    ----------
    length : int
        Frames of the effect.
    points : int
        How many samples, first and last frame included.
    """
    lines: list[Line] = []
    moments = [_between(k / (points - 1), length, rate) for k in range(points)]
    # A formula may count frames, so it is computed at whole frames and interpolated between them.
    places = [k / (points - 1) * (length - 1) for k in range(points)]
    frames = [Moment(round(place), length, rate) for place in places]
    few = length < points
    if few:
        frames = [Moment(frame, length, rate) for frame in range(length)]
    resolver = Resolver(effect, SHOWN)
    for lane in effect.lanes:
        for step in lane.every:
            kind = kind_of(step)
            for name, value in [("mix", step.mix), *step.values.items()]:
                param = MIX if name == "mix" else kind.get(name)
                if param is None or not _moves(effect, value):
                    continue
                who = f"{lane.name} · {step.name or kind.label}"
                try:
                    values = [
                        resolver.resolve(value, param, moment, who, f"{lane.id}.{step.id}")
                        for moment in (frames if isinstance(value, Formula) else moments)
                    ]
                except Fault:
                    continue  # the step's card shows the fault
                keys: list[tuple[float, Key]] = []
                squeezed = False
                if isinstance(value, Keys):
                    span = max(Moment(0, length, rate).span, 1e-9)
                    line, squeezed = placed(value, Moment(0, length, rate))
                    keys = [(time / span, key) for time, key in line]
                label = f"{step.name or kind.label}: {param.title}"
                if few and isinstance(value, Formula):
                    values = [_between_frames(param, values, place) for place in places]
                for part, title, samples in _parts(param, values):
                    lines.append(
                        Line(
                            lane.id, step.id, name, f"{label}{title}", samples, keys, squeezed,
                            part, _runs(values) if part == "band" else (),
                        )
                    )  # fmt: skip
    return lines


def _between_frames(param: Param, values: Sequence[Any], place: float) -> Any:
    """A value between whole frames: numbers on a straight line, others the nearest."""
    first = min(int(place), len(values) - 1)
    one, two = values[first], values[min(first + 1, len(values) - 1)]
    if not isinstance(param, Number):
        return values[round(place)]
    return one + (two - one) * (place - first)


def _parts(param: Param, values: Sequence[Any]) -> Iterator[tuple[str, str, list[float]]]:
    """The lines of a value: one of a number, two of a point."""
    if isinstance(param, Number):
        yield "", "", [float(value) for value in values]
    elif isinstance(param, Point):
        for k, axis in enumerate("xy"):
            yield axis, f" {axis}", [float(value[k]) for value in values]
    else:
        yield "band", "", [0.0] * len(values)


def _runs(values: Sequence[Any]) -> tuple[tuple[float, float, Any], ...]:
    """Neighbouring samples of one value as one run; each reaches halfway to the next."""
    last = max(1, len(values) - 1)
    edges = [0, *(k for k in range(1, len(values)) if values[k] != values[k - 1]), len(values)]
    return tuple(
        (max(0.0, (a - 0.5) / last), min(1.0, (b - 0.5) / last), values[a])
        for a, b in pairwise(edges)
    )


SHOWN = Size(1920, 1080)
"""The frame size that formulas see when only curves are wanted."""


def _moves(effect: Effect, value: object) -> bool:
    if isinstance(value, Link):
        control = effect.control(value.control)
        return control is not None and control.type == "ease"
    return isinstance(value, (Keys, Formula))


def _between(share: float, length: int, rate: FrameRate) -> Moment:
    """The moment at a share of the effect, to a sixteenth of a frame if the rate allows."""
    fine = 16 if rate.exact * 16 <= 1000 else 1
    whole = (length - 1) * fine + 1
    return Moment(round(share * (whole - 1)), whole, FrameRate(rate.exact * fine))
