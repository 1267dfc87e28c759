"""Eases: the way a value goes from one key to the next."""

from __future__ import annotations

from collections.abc import Callable
from math import asin, cos, pi, sin, sqrt
from typing import Annotated, Literal, Union

from pydantic import BaseModel, ConfigDict, Field

Family = Literal[
    "sine", "quad", "cubic", "quart", "quint", "expo", "circ", "back", "elastic", "bounce"
]


class Bezier(BaseModel):
    """A CSS cubic-bezier: two control points; their x within 0..1, their y free."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    bezier: tuple[
        Annotated[float, Field(ge=0, le=1)],
        Annotated[float, Field(ge=-20, le=20)],
        Annotated[float, Field(ge=0, le=1)],
        Annotated[float, Field(ge=-20, le=20)],
    ]


class Named(BaseModel):
    """A named family going in, a named family coming out, or both."""

    model_config = ConfigDict(frozen=True, extra="forbid", populate_by_name=True)
    into: Family | None = None
    out: Family | None = None


Ease = Union[Literal["linear", "hold", "jump"], Bezier, Named]


def bezier_at(x: float, x1: float, y1: float, x2: float, y2: float) -> float:
    """The y of a CSS cubic-bezier at ``x``.

    References
    ----------
    CSS Easing Functions Level 1, section 2.3.
    """
    if x <= 0 or x >= 1:
        return min(1.0, max(0.0, x))

    def along(t: float, a: float, b: float) -> float:
        return ((1 + 3 * a - 3 * b) * t + 3 * b - 6 * a) * t * t + 3 * a * t

    low, high, t = 0.0, 1.0, x
    for _ in range(60):
        gap = along(t, x1, x2) - x
        if abs(gap) < 1e-12:
            break
        if gap > 0:
            high = t
        else:
            low = t
        slope = 3 * (1 + 3 * x1 - 3 * x2) * t * t + 2 * (3 * x2 - 6 * x1) * t + 3 * x1
        t = t - gap / slope if slope > 1e-9 else (low + high) / 2
        if not low < t < high:
            t = (low + high) / 2
    return along(t, y1, y2)


def _bounce_out(t: float) -> float:
    # Four parabolas, ending at elevenths of the segment: (end, lowest point, lift).
    for end, low, lift in ((4, 0, 0.0), (8, 6, 0.75), (10, 9, 0.9375), (11, 10.5, 0.984375)):
        if t < end / 11:
            return 7.5625 * (t - low / 11) ** 2 + lift
    return 1.0


def _elastic(t: float) -> float:
    period = 0.3
    return -(2 ** (10 * (t - 1))) * sin((t - 1 - period / 2 / pi * asin(1)) * 2 * pi / period)


# Robert Penner's easing equations (2001), each going in; from memory.
_INTO: dict[str, Callable[[float], float]] = {
    "sine": lambda t: 1 - cos(t * pi / 2),
    "quad": lambda t: t**2,
    "cubic": lambda t: t**3,
    "quart": lambda t: t**4,
    "quint": lambda t: t**5,
    "expo": lambda t: 2 ** (10 * (t - 1)),
    "circ": lambda t: 1 - sqrt(max(0.0, 1 - t * t)),
    "back": lambda t: t * t * (2.70158 * t - 1.70158),
    "elastic": _elastic,
    "bounce": lambda t: 1 - _bounce_out(1 - t),
}


def ease_at(ease: Ease, t: float) -> float:
    """The value of an ease at share ``t`` of its segment.

    Exactly 0 at t ≤ 0 and exactly 1 at t ≥ 1 for every ease; *hold* is 0 until the end
    and *jump* is 1 from just after the beginning (CSS step-end and step-start).
    With a family on both sides, the first half goes in and the second half comes out.
    """
    if t <= 0:
        return 0.0
    if t >= 1:
        return 1.0
    if ease == "linear":
        return t
    if ease == "hold":
        return 0.0
    if ease == "jump":
        return 1.0
    if isinstance(ease, Bezier):
        return bezier_at(t, *ease.bezier)
    assert isinstance(ease, Named)
    if ease.into and ease.out:
        if t < 0.5:
            return _INTO[ease.into](2 * t) / 2
        return 1 - _INTO[ease.out](2 - 2 * t) / 2
    if ease.into:
        return _INTO[ease.into](t)
    return 1 - _INTO[ease.out](1 - t) if ease.out else t
