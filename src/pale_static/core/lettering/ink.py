"""The ink of set text: the share of each pixel that its glyphs cover."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from ctypes import byref
from functools import lru_cache
from math import floor
from typing import Any

import cv2
import freetype
import numpy as np
from freetype.raw import FT_Outline_Embolden
from numpy.typing import NDArray

from ..faults import TooLarge, Unreadable
from ..giving_up import check
from .faces import Face, Font, opened
from .layout import Layout

THICKER = 1 / 28
"""The share of the em by which a font without a bold of its own is thickened."""
LARGEST = 8192
"""Most pixels of an em with its outline. A glyph is drawn whole, even if the frame crops it."""
KEPT = 200
"""Most pixels of an em with its outline up to which drawn glyphs are kept."""
_FLAGS = freetype.FT_LOAD_NO_HINTING | freetype.FT_LOAD_NO_BITMAP
_SUB = 64  # FreeType counts in 64ths of a pixel


@lru_cache(maxsize=512)
def _kept(*glyph: Any) -> tuple[int, int, NDArray[np.uint8]] | None:
    return _drawn(*glyph)


def _drawn(
    font: Font, weight: str, number: int, size: float, right: int, down: int, around: float
) -> tuple[int, int, NDArray[np.uint8]] | None:
    """The cover of one glyph, 0 to 255, and its offset right and down from the glyph's origin.

    ``right`` and ``down`` shift it by 64ths of a pixel; ``around`` is the width of an outline drawn
    around it, which then belongs to the glyph.
    """
    try:
        with opened(font, weight) as face:
            glyph = _outline(face, number, size)
            if around > 0:
                stroker = freetype.Stroker()
                stroker.set(
                    round(around * _SUB), freetype.FT_STROKER_LINECAP_ROUND,
                    freetype.FT_STROKER_LINEJOIN_ROUND, 0,
                )  # fmt: skip
                glyph.stroke(stroker, True)
            drawn = glyph.to_bitmap(
                freetype.FT_RENDER_MODE_NORMAL, freetype.FT_Vector(right, -down), True
            )
            bitmap = drawn.bitmap
            if not bitmap.rows or not bitmap.width:
                return None
            # Read the bitmap in place: the wrapper's own copy is a list of Python numbers.
            raw = bitmap._FT_Bitmap
            cover = np.ctypeslib.as_array(raw.buffer, (raw.rows, abs(raw.pitch)))[:, : raw.width]
            left, top, cover = drawn.left, -drawn.top, cover.copy()
    except freetype.FT_Exception:
        raise Unreadable(
            f"Glyph {number} of the font is damaged and cannot be drawn. Choose another font, or "
            "take that letter out."
        ) from None
    # A stroke leaves the inside of thick letters open, so stroke and fill are combined.
    inner = _drawn(font, weight, number, size, right, down, 0.0) if around > 0 else None
    if inner is not None:
        y, x = inner[1] - top, inner[0] - left
        high, wide = inner[2].shape
        part = cover[max(y, 0) : y + high, max(x, 0) : x + wide]
        less = inner[2][max(-y, 0) :, max(-x, 0) :][: part.shape[0], : part.shape[1]]
        np.maximum(part, less, out=part)
    return left, top, cover


def drawn_glyph(
    font: Font, weight: str, number: int, size: float, right: int, down: int, around: float
) -> tuple[int, int, NDArray[np.uint8]] | None:
    """The cover of one glyph, and its offset right and down from the origin; small glyphs are
    kept."""
    draw = _kept if size + 2 * around <= KEPT else _drawn
    return draw(font, weight, number, size, right, down, around)


def _outline(face: Face, number: int, size: float) -> Any:
    drawer = face.drawer
    drawer.set_char_size(max(1, round(size * _SUB)), 0, 72, 72)
    drawer.load_glyph(number, _FLAGS)
    if face.thicker:
        outline = drawer.glyph.outline._FT_Outline
        FT_Outline_Embolden(byref(outline), round(size * THICKER * _SUB))
    return drawer.glyph.get_glyph()


def _pieces(
    font: Font, weight: str, layout: Layout, size: float, at: tuple[float, float],
    shape: tuple[int, int], around: float, only: Sequence[bool] | None = None,
) -> Iterator[tuple[int, slice, slice, NDArray[np.uint8]]]:  # fmt: skip
    """Each glyph's number in the layout, its place in the frame, and its cover there.

    ``only`` names the glyphs to draw; all by default.
    """
    if size + 2 * around > LARGEST:
        raise TooLarge(
            f"Letters of {size + 2 * around:.0f} pixels are larger than can be drawn ({LARGEST}). "
            "Take a smaller size or outline."
        )
    for index, glyph in enumerate(layout.glyphs):
        if only is not None and not only[index]:
            continue
        check()
        found = placed(
            font, weight, glyph.number, size, (at[0] + glyph.x, at[1] + glyph.y), shape, around
        )
        if found is not None:
            yield index, *found


def placed(
    font: Font, weight: str, number: int, size: float, at: tuple[float, float],
    shape: tuple[int, int], around: float,
) -> tuple[slice, slice, NDArray[np.uint8]] | None:  # fmt: skip
    """A glyph whose origin lies at any fraction of a pixel: its place in the frame, its cover there."""
    (x, y), (high, wide), reach = at, shape, 4 * size + around
    if not (-reach < x < wide + reach and -reach < y < high + reach):
        return None
    left, top = floor(x), floor(y)
    fraction = floor((x - left) * _SUB), floor((y - top) * _SUB)
    drawn = drawn_glyph(font, weight, number, size, *fraction, around)
    if drawn is None:
        return None
    left, top, cover = left + drawn[0], top + drawn[1], drawn[2]
    rows = slice(max(0, top), min(high, top + cover.shape[0]))
    columns = slice(max(0, left), min(wide, left + cover.shape[1]))
    if rows.start >= rows.stop or columns.start >= columns.stop:
        return None
    part = cover[rows.start - top : rows.stop - top, columns.start - left : columns.stop - left]
    return rows, columns, part


def outlined(
    font: Font, weight: str, layout: Layout, size: float, at: tuple[float, float],
    shape: tuple[int, int], around: float = 0.0, only: Sequence[bool] | None = None,
) -> NDArray[np.float32]:  # fmt: skip
    """The share of each pixel that the text covers, with an outline of ``around`` pixels.

    Parameters
    ----------
    size : float
        The em in pixels.
    at : (x, y)
        The place of the first baseline's anchor, in pixels; any fraction.
    shape : (rows, columns)

    Returns
    -------
    (H, W) matte, 0..1, with exact coverage to 1/256.
    """
    total = np.zeros(shape, np.float32)
    for _, rows, columns, cover in _pieces(font, weight, layout, size, at, shape, around, only):
        # Covers of neighbours in one pixel add up; overlaps are clamped to 1.
        np.add(total[rows, columns], cover * np.float32(1 / 255), out=total[rows, columns])
    return np.minimum(total, np.float32(1), out=total)


def nearest_unit(
    font: Font, weight: str, layout: Layout, size: float, at: tuple[float, float],
    shape: tuple[int, int], greys: NDArray[np.float32], by: str,
    pieces: Iterable[tuple[int, slice, slice, NDArray[Any]]] | None = None,
) -> NDArray[np.float32]:  # fmt: skip
    """The grey of the letter, word or line that lies nearest to each pixel.

    ``pieces`` are the covers of glyphs that are moved from their places in plain text.

    Parameters
    ----------
    greys : (units,) float32
        The grey of each letter, word or line.

    Returns
    -------
    (H, W) matte; all zeros if no ink is in the frame.
    """
    units, _ = layout.units(by)
    grey = np.zeros(shape, np.float32)
    if pieces is None:
        pieces = _pieces(font, weight, layout, size, at, shape, 0.0)
    most = np.zeros(shape, np.uint8)
    for index, rows, columns, part in pieces:
        cover = part if part.dtype == np.uint8 else (part * 255 + 0.5).astype(np.uint8)
        more = cover > most[rows, columns]
        grey[rows, columns][more] = greys[units[index]]
        np.maximum(most[rows, columns], cover, out=most[rows, columns])
    if not most.any():
        return grey
    empty = (most == 0).astype(np.uint8)
    _, labels = cv2.distanceTransformWithLabels(
        empty, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )
    table = np.zeros(int(labels.max()) + 1, np.float32)
    inked = most > 0
    table[labels[inked]] = grey[inked]
    return np.asarray(table[labels], np.float32)
