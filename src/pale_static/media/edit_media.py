"""What an edit list states of the materials that an edit uses."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ..core.picture import Size
from ..core.timing import FrameRate
from .facts import Facts


@dataclass(frozen=True)
class Media:
    """What an edit list says of a material: its file, and how long and how large it is."""

    id: str
    name: str
    file: str
    seconds: Fraction | None = None
    rate: FrameRate | None = None
    size: Size | None = None
    sound: bool = False
    start: Fraction | None = None
    """The time that its own timecode gives its first frame."""


def media_of(id: str, name: str, extension: str, facts: Facts) -> Media:
    """What an edit list says of a material."""
    rate = FrameRate.of(facts.rate) if facts.rate else None
    start = None
    if facts.timecode and rate:
        import opentimelineio as otio  # it takes a while to load, and few materials need it

        near = otio.opentime.RationalTime.nearest_smpte_timecode_rate(float(rate))
        try:
            first = otio.opentime.from_timecode(facts.timecode, near)
            start = Fraction(round(first.value)) / rate.exact
        except ValueError:
            start = None
    return Media(
        id, name, f"{name}{extension}", Fraction(facts.frames) / rate.exact if rate else None, rate,
        Size(facts.width, facts.height) if facts.width else None, bool(facts.sound), start,
    )  # fmt: skip
