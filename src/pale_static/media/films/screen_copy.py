"""Copies of films for the screen: small, and every frame is a key frame. Renders never read them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path

from ...core.document import digest_of
from ...core.footage import Footage, Pixels
from ...core.pictures.picture import Size
from ...core.time.timing import FrameRate
from ..facts import Facts
from ..formats import Format, format_of
from ..opening import shared_footage
from ..reading import Reading

LINES = 540
"""Lines of a copy on its shorter side, unless a person chose another number."""
MOST_LINES = 1080
WIDEST = 16 / 9
"""The longer side of a copy against its shorter one, at most."""
_VERSION = 1
"""A part of a copy's name: another way of copying makes new copies."""
QUALITY = 16
"""The quality of x264 (its CRF). With it the noisiest clip of the demo has an SSIM above 0.97."""

_H264 = format_of("mp4")
OPAQUE = replace(
    _H264, slug="screen-copy", options={**_H264.options, "g": "1", "tune": "fastdecode"}
)
CLEAR: Format = format_of("ffv1")
"""The formats of copies. Only the lossless one keeps alpha exactly."""


def copied(facts: Facts) -> bool:
    """Whether a material is a film, of which a copy may be made."""
    return facts.kind == "video" and facts.width > 0 and facts.height > 0


def copy_size(size: Size, lines: int) -> Size:
    """The size of a copy: the film's own, or smaller within the lines; sides are even."""
    long, short = max(size.width, size.height), min(size.width, size.height)
    share = min(1.0, lines / short, lines * WIDEST / long)
    width, height = (max(2, round(side * share / 2) * 2) for side in (size.width, size.height))
    return Size(width, height)


def copy_name(identity: str, reading: Reading, lines: int) -> str:
    """Names the content of a copy."""
    return f"{identity}-{digest_of([_VERSION, lines, reading.model_dump(mode='json')])}"


def copy_format(facts: Facts) -> Format:
    """The format of a film's copy."""
    return CLEAR if facts.alpha else OPAQUE


@dataclass(frozen=True)
class ScreenCopy:
    """A film that shows its copy. It stands for the film at full size, which is not opened.

    Parameters
    ----------
    path : Path
        The file of the copy.
    """

    name: str
    path: Path
    facts: Facts

    @property
    def identity(self) -> str:
        return f"screen:{self.name}"

    @property
    def size(self) -> Size:
        return Size(self.facts.width, self.facts.height)

    @property
    def rate(self) -> FrameRate | None:
        return FrameRate.of(self.facts.rate) if self.facts.rate else None

    @property
    def length(self) -> int:
        return self.facts.frames

    @cached_property
    def _copy(self) -> Footage:
        return shared_footage(self.path, self.name)

    def pixels(self, index: int) -> Pixels:
        """Frame ``index`` of the copy: fewer pixels than :attr:`size`."""
        return self._copy.pixels(index)
