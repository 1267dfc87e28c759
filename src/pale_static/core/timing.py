"""Frame rates as exact fractions, timecode, and the moment an effect is looked at."""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction
from math import ceil, floor

from .faults import Fault

_TIMECODE = re.compile(r"(\d{1,2}):(\d{2}):(\d{2})([:;])(\d{2,3})")


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
            raise Fault(f"A frame rate lies between 1 and 1000 a second. Got {self.exact}.")

    @classmethod
    def of(cls, value: FrameRate | Fraction | int | float | str) -> FrameRate:
        """Read a rate: ``25``, ``"29.97"``, ``"30000/1001"``.

        Decimals next to a 1000/1001 rate (23.976, 29.97, 59.94 …) mean that rate.
        """
        if isinstance(value, FrameRate):
            return value
        try:
            exact = Fraction(value) if not isinstance(value, float) else Fraction(str(value))
        except (ValueError, ZeroDivisionError):
            raise Fault(
                f"A frame rate is a number such as 25 or 30000/1001. Got “{value}”."
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

    @property
    def nominal(self) -> int:
        """The whole number that timecode counts in: 30 for 30000/1001."""
        return ceil(self.exact)

    @property
    def drops(self) -> bool:
        """Whether drop-frame timecode exists for this rate (29.97 and its multiples)."""
        return self.exact.denominator == 1001 and self.nominal % 30 == 0

    def frames(self, seconds: float | Fraction) -> int:
        """The number of frames nearest to so many seconds, at least one."""
        return max(
            1, floor(Fraction(seconds).limit_denominator(10**9) * self.exact + Fraction(1, 2))
        )

    def timecode(self, frame: int, drop: bool | None = None) -> str:
        """Frame count to ``HH:MM:SS:FF``, or ``HH:MM:SS;FF`` in drop-frame.

        Wraps after 24 hours. ``drop`` is by default whatever :attr:`drops` says.

        References
        ----------
        SMPTE ST 12-1:2014, section 5.2.2: two labels are left out each minute but every tenth.
        """
        use = self.drops if drop is None else drop and self.drops
        count, base = frame, self.nominal
        if use:
            left_out = base // 15
            minute, ten = base * 60 - left_out, base * 600 - 9 * left_out
            tens, rest = divmod(count, ten)
            count += 9 * left_out * tens
            if rest >= base * 60:
                count += left_out * (1 + (rest - base * 60) // minute)
        count %= base * 86400
        seconds, frames = divmod(count, base)
        mark = ";" if use else ":"
        width = 3 if base > 100 else 2
        clock = f"{seconds // 3600:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d}"
        return f"{clock}{mark}{frames:0{width}d}"

    def frame_of(self, timecode: str) -> int:
        """Timecode to frame count; ``;`` before the frames means drop-frame.

        Raises
        ------
        Fault
            If the text is no timecode, or names a label this rate does not have.
        """
        found = _TIMECODE.fullmatch(timecode.strip())
        if not found:
            raise Fault(f"A timecode is written 00:00:00:00. Got “{timecode[:40]}”.")
        hours, minutes, seconds, frames = (int(found[k]) for k in (1, 2, 3, 5))
        base = self.nominal
        if minutes > 59 or seconds > 59 or frames >= base:
            raise Fault(f"{timecode} is no timecode at {self} frames a second.")
        count = ((hours * 60 + minutes) * 60 + seconds) * base + frames
        if found[4] == ";" and self.drops:
            left_out = base // 15
            if seconds == 0 and frames < left_out and minutes % 10:
                raise Fault(f"{timecode} is a label that drop-frame timecode leaves out.")
            total = hours * 60 + minutes
            count -= left_out * (total - total // 10)
        return count


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
        """Share of the effect that lies behind this frame, 0..1 within the effect."""
        return self.frame / (self.length - 1) if self.length > 1 else 0.0

    @property
    def seconds(self) -> float:
        """Seconds since the effect's first frame."""
        return float(self.frame / self.rate.exact)

    @property
    def span(self) -> float:
        """Seconds from the first frame to the last: what shares of the length refer to."""
        return float((self.length - 1) / self.rate.exact)

    def at(self, frame: int) -> Moment:
        """Another frame of the same effect."""
        return Moment(frame, self.length, self.rate)

    def inside(self, turn: int, turns: int) -> Moment:
        """The same frame, in a pass of a repeat."""
        return Moment(self.frame, self.length, self.rate, turn, turns)
