"""Fonts: the built-in families, and font files of your own."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from functools import lru_cache
from importlib.resources import files
from threading import RLock
from typing import Any

import freetype
import uharfbuzz as hb

from ..faults import Unreadable

FAMILIES = {
    "Rubik": "rubik",
    "Oswald": "oswald",
    "Zilla Slab": "zilla-slab",
    "Playfair Display": "playfair-display",
    "Cinzel": "cinzel",
    "JetBrains Mono": "jetbrains-mono",
    "Silkscreen": "silkscreen",
    "Caveat": "caveat",
}
"""The built-in families, each regular and bold, all under the SIL Open Font License 1.1."""

WEIGHTS = {"regular": 400, "bold": 700}
_WGHT = "wght"

# Two threads cannot use a FreeType face at once. Setting a title takes far less time than a frame.
_lock = RLock()


@dataclass(frozen=True)
class Font:
    """The content of a font file. ``identity`` names it; equal identities mean equal fonts."""

    identity: str
    name: str
    data: bytes = field(repr=False, compare=False)
    bold: bool = False
    """Whether the file is a bold cut already."""


@lru_cache(maxsize=32)
def shipped(family: str, weight: str) -> Font:
    """A built-in family at a weight (regular, bold).

    Raises
    ------
    KeyError
        If it is none of :data:`FAMILIES`.
    """
    path = files(__package__) / "fonts" / FAMILIES[family] / f"{weight}.ttf"
    return Font(f"{family}/{weight}", family, path.read_bytes(), weight == "bold")


@dataclass
class Face:
    """A font opened for shaping and for drawing, at one weight."""

    font: Font
    shaper: Any
    drawer: Any
    em: int
    thicker: bool
    """Whether bold is made by thickening, because the file has no bold of its own."""


@contextmanager
def opened(font: Font, weight: str) -> Iterator[Face]:
    """The font's face, held by one thread at a time."""
    with _lock:
        yield _face(font.identity, font, weight)


@lru_cache(maxsize=12)
def _face(identity: str, font: Font, weight: str) -> Face:
    return _open(font, weight)


def _open(font: Font, weight: str) -> Face:
    try:
        shaper = hb.Font(hb.Face(font.data))
        drawer = freetype.Face.from_bytes(font.data)
    except Exception as fault:  # each library raises its own exceptions
        raise Unreadable(f"The font {font.name} cannot be read. Choose another.") from fault
    if not drawer.is_scalable or shaper.face.upem < 16:
        raise Unreadable(f"The font {font.name} has no outlines to draw. Choose another.")
    wanted = WEIGHTS[weight]
    axes = {axis.tag: axis for axis in shaper.face.axis_infos} if shaper.face.has_var_data else {}
    if _WGHT in axes:
        low, high = axes[_WGHT].min_value, axes[_WGHT].max_value
        at = min(max(wanted, low), high)
        shaper.set_variations({_WGHT: at})
        drawer.set_var_design_coords(
            [at if axis.tag == _WGHT else axis.default_value for axis in shaper.face.axis_infos]
        )
    em = shaper.face.upem
    shaper.scale = (em, em)
    return Face(font, shaper, drawer, em, weight == "bold" and not font.bold and _WGHT not in axes)


def told(data: bytes, name: str) -> tuple[str, str, int]:
    """A font file's family, style and number of glyphs.

    Raises
    ------
    Unreadable
        If it is not a font with outlines.
    """
    with _lock:
        # Not cached: most files are opened only to read their facts.
        drawer = _open(Font("", name, data), "regular").drawer
        family = (drawer.family_name or b"").decode("utf-8", "replace").strip() or name
        style = (drawer.style_name or b"").decode("utf-8", "replace").strip() or "Regular"
        return family[:120], style[:60], int(drawer.num_glyphs)
