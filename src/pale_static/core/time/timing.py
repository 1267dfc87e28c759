"""Frame rates as exact fractions, and moments of an effect."""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction
from math import ceil

from ..faults import Fault

_RATE = re.compile(r"\d{1,9}(\.\d{1,12})?(/\d{1,9})?")


@dataclass(frozen=True, order=True)
class FrameRate:
    """Frames per second as an exact fraction, such as 25 or 30000/1001.

    Raises
    ------
    Fault
        If the rate is not between 1 and 1000.
    """

    exact: Fraction

    def __post_init__(self) -> None:
        if not 1 <= self.exact <= 1000:
            raise Fault(
                f"A frame rate lies between 1 and 1000 a second. Got {float(self.exact):.6g}."
            )

    @classmethod
    def of(cls, value: FrameRate | Fraction | int | float | str) -> FrameRate:
        """Read a rate: ``25``, ``"29.97"``, ``"30000/1001"``.

        Decimals next to a 1000/1001 rate (23.976, 29.97, 59.94 …) mean that rate.
        """
        if isinstance(value, FrameRate):
            return value
        try:
            # The text has a length limit, because "1e999999999" as a fraction takes gigabytes.
            text = str(value) if isinstance(value, (str, float)) else None
            if text is not None and not _RATE.fullmatch(text.strip()):
                raise ValueError(text)
            exact = Fraction(value if text is None else text)
        except (ValueError, ZeroDivisionError):
            raise Fault(
                f"A frame rate is a number such as 25 or 30000/1001. Got “{str(value)[:40]}”."
            ) from None
        if exact.denominator not in (1, 1001):
            near = Fraction(ceil(exact) * 1000, 1001)
            if abs(near - exact) < Fraction(1, 100):
                exact = near
        return cls(exact)

    def __str__(self) -> str:
        return str(self.exact)

    def __float__(self) -> float:
        return float(self.exact)

    def frames(self, seconds: float | Fraction) -> int:
        """The number of frames nearest to a number of seconds, at least one."""
        exact = seconds if isinstance(seconds, Fraction) else exact_seconds(seconds)
        return max(1, nearest_frame(exact.numerator, exact.denominator, self.exact))


def nearest_frame(top: int, bottom: int, rate: Fraction) -> int:
    """floor(seconds · rate + ½) for top ÷ bottom seconds, in whole numbers: fractions take ten
    times as long."""
    whole = bottom * rate.denominator
    return (2 * top * rate.numerator + whole) // (2 * whole)


def whole_frames(seconds: Fraction, rate: Fraction) -> int:
    """floor(seconds · rate): the number of frames that have begun and ended by then."""
    return (seconds.numerator * rate.numerator) // (seconds.denominator * rate.denominator)


def exact_seconds(seconds: float) -> Fraction:
    """The exact time that a decimal number of seconds means.

    Times on screen and in documents are decimals of frame times, such as 0.12 or 0.166833; the
    nearest fraction with a denominator of up to a million is the frame's own time.
    """
    return Fraction(seconds).limit_denominator(10**6)


@dataclass(frozen=True)
class Moment:
    """Frame ``frame`` of an effect that is ``length`` frames long at ``rate``.

    ``progress`` is frame/(length − 1), and 0 for a length of one; ``seconds`` is frame/rate.
    Inside a repeat it is pass ``turn`` of ``turns``, from 0.
    """

    frame: int
    length: int
    rate: FrameRate
    turn: int = 0
    turns: int = 1

    def __post_init__(self) -> None:
        if self.length < 1:
            raise Fault(f"An effect is at least one frame long. Got {self.length}.")

    @property
    def progress(self) -> float:
        """The share of the effect before this frame, 0..1 within the effect."""
        return self.frame / (self.length - 1) if self.length > 1 else 0.0

    @property
    def seconds(self) -> float:
        """Seconds since the effect's first frame."""
        return float(self.frame / self.rate.exact)

    @property
    def span(self) -> float:
        """Seconds from the first frame to the last, to which shares of the length refer."""
        return float((self.length - 1) / self.rate.exact)

    def at(self, frame: int) -> Moment:
        """Another frame of the same effect."""
        return Moment(frame, self.length, self.rate)

    def inside(self, turn: int, turns: int) -> Moment:
        """The same frame, in a pass of a repeat."""
        return Moment(self.frame, self.length, self.rate, turn, turns)
