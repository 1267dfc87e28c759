"""Font files: open them, read their facts, and draw a specimen."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

import numpy as np

from ..core import lettering
from ..core.faults import Missing, TooLarge, Unreadable
from ..core.footage import StillPicture
from ..core.lettering import Font, Setting
from .facts import Facts

MOST_BYTES = 32 << 20
_SPECIMENS = ("Lantern 0123", "Lantern", "Aa", "")
_WIDE, _HIGH = 512, 288


def read_font(path: Path, identity: str, name: str) -> tuple[Font, Facts]:
    """A font file, and its facts.

    Raises
    ------
    Unreadable, TooLarge
    """
    if path.stat().st_size > MOST_BYTES:
        raise TooLarge(f"{name} is larger than {MOST_BYTES >> 20} MB. No font needs that.")
    data = path.read_bytes()
    try:
        family, style, glyphs = lettering.told(data, name)
    except Unreadable:
        raise Unreadable(
            f"{name} is not a font that can be drawn. Bring in a TTF or OTF."
        ) from None
    font = Font(identity, f"{family} {style}", data, "bold" in style.lower())
    return font, Facts(kind="font", coding=f"{family} {style}", glyphs=glyphs)


@lru_cache(maxsize=24)
def shared_font(path: Path, identity: str) -> Font:
    """The font of a file; all callers share it."""
    if not path.is_file():
        raise Missing(f"The file of a font ({identity[:8]}…) is gone. Bring it in again.")
    return read_font(path, identity, path.name)[0]


def specimen(font: Font) -> StillPicture:
    """A card that shows the font, with words for which it has the characters."""
    for text in _SPECIMENS:
        try:
            layout = lettering.lay_out(font, "regular", text, Setting(100))
        except Missing:
            continue
        size = 100 * min(1.0, 0.85 * _WIDE / max(*layout.widths, 1.0))
        layout = lettering.lay_out(font, "regular", text, Setting(size, align="centre"))
        at = (_WIDE / 2, _HIGH / 2 - layout.middle)
        ink = lettering.outlined(font, "regular", layout, size, at, (_HIGH, _WIDE))
        break
    grey = (40 + 200 * ink + 0.5).astype(np.uint8)
    return StillPicture(f"specimen:{font.identity}", np.repeat(grey[..., None], 3, 2))
