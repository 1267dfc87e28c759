"""The facts that an edit list states of the materials of an edit."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from ...core.pictures.picture import Size
from ...core.time.timing import FrameRate
from ..facts import Facts


@dataclass(frozen=True)
class Media:
    """A material in an edit list: its file, its length and its size."""

    id: str
    name: str
    file: str
    seconds: Fraction | None = None
    rate: FrameRate | None = None
    size: Size | None = None
    sound: bool = False
    start: Fraction | None = None
    """The timecode of its first frame, as seconds."""


def media_of(id: str, name: str, extension: str, facts: Facts) -> Media:
    """The facts of a material for an edit list."""
    rate = FrameRate.of(facts.rate) if facts.rate else None
    start = None
    if facts.timecode and rate:
        import opentimelineio as otio  # slow to load, and rarely needed

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


def plain_media(media: Media) -> dict[str, Any]:
    """Media as plain JSON, for :func:`media_from`."""
    size = [media.size.width, media.size.height] if media.size else None
    return {
        "id": media.id, "name": media.name, "file": media.file, "sound": media.sound, "size": size,
        "seconds": None if media.seconds is None else str(media.seconds),
        "rate": str(media.rate) if media.rate else None,
        "start": None if media.start is None else str(media.start),
    }  # fmt: skip


def media_from(plain: Mapping[str, Any]) -> Media:
    """Media from the plain JSON of :func:`plain_media`."""

    def exact(name: str) -> Fraction | None:
        return None if plain[name] is None else Fraction(plain[name])

    return Media(
        plain["id"], plain["name"], plain["file"], exact("seconds"),
        FrameRate.of(plain["rate"]) if plain["rate"] else None,
        Size(*plain["size"]) if plain["size"] else None, plain["sound"], exact("start"),
    )  # fmt: skip
