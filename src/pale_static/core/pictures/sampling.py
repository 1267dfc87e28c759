"""Read a picture between and outside its pixels: one mechanism for all steps of Space.

OpenCV reads between pixels. Places outside a picture are folded back into it first, so that every
border rule costs about the same for places at any distance.
"""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from ..kernels import rows
from ..kernels.filters import folding
from .borders import BORDERS, RULES

F = np.float32
_ROUND = ("mirror", "repeat")
"""Rules for which OpenCV loops, once for each width of the picture; far places are folded back
first."""


def _all_within(places: NDArray[np.float32], *box: float) -> bool:
    """Whether all places are numbers between left and right, top and bottom."""
    counts = np.empty(len(places), np.int32)
    rows.over(folding.beyond, len(places), counts, places, *(F(side) for side in box))
    return not counts.any()


def _read(plane: Any, places: Any, outside: str, nearest: bool) -> NDArray[np.float32]:
    """A picture at folded places."""
    border = cv2.BORDER_CONSTANT if outside == "clear" else cv2.BORDER_REPLICATE
    if outside == "repeat":
        # One more row and column, so that the seam needs no special case.
        plane = cv2.copyMakeBorder(plane, 0, 1, 0, 1, cv2.BORDER_WRAP)
    how = cv2.INTER_NEAREST if nearest else cv2.INTER_LINEAR
    out: Any = cv2.remap(plane, places, None, how, borderMode=border)  # type: ignore[call-overload]
    return np.asarray(out, F)


def affine(
    plane: NDArray[np.float32],
    matrix: NDArray[np.float64],
    outside: str = "clear",
    nearest: bool = False,
) -> NDArray[np.float32]:
    """A picture or matte resampled by an affine map.

    Parameters
    ----------
    matrix : (2, 3) float64
        From a pixel of the result to a place in the picture, in pixels; pixel (0, 0) has its
        centre at (0, 0).
    outside : {"clear", "clamp", "mirror", "repeat"}
    nearest : bool
        Take the nearest pixel instead of mixing four.
    """
    high, wide = plane.shape[:2]
    exact = np.ascontiguousarray(matrix, np.float64)
    source = np.ascontiguousarray(plane)
    how = (cv2.INTER_NEAREST if nearest else cv2.INTER_LINEAR) | cv2.WARP_INVERSE_MAP
    if outside in _ROUND and not _within(exact, wide, high, 1.0):
        places = np.empty((high, wide, 2), F)
        rows.over(folding.fold_affine, high, places, exact, F(wide), F(high), RULES.index(outside))
        return _read(source, places, outside, nearest)
    border = BORDERS[outside]
    out: Any = cv2.warpAffine(source, exact, (wide, high), flags=how, borderMode=border)
    return np.asarray(out, F)


def _within(matrix: NDArray[np.float64], wide: int, high: int, over: float) -> bool:
    """Whether the whole result lies inside the picture, or outside it by no more than ``over`` of its size."""
    corners = np.array([(x, y, 1.0) for x in (0, wide - 1) for y in (0, high - 1)])
    turned = corners @ matrix.T
    far = over * np.array([wide, high])
    return bool((turned >= -far).all() and (turned <= np.add(far, (wide - 1, high - 1))).all())


def mapped(
    plane: NDArray[np.float32],
    places: NDArray[np.float32],
    outside: str = "clear",
    nearest: bool = False,
    finite: bool = False,
) -> NDArray[np.float32]:
    """A picture or matte resampled at a place for each pixel, of the frame or a part of it.

    Parameters
    ----------
    places : (h, w, 2) float32
        x and y in pixels of the whole picture, as for :func:`affine`.
    finite : bool
        Promises that every place is a number within a million pixels.
    """
    high, wide = plane.shape[:2]
    source, held = np.ascontiguousarray(plane), np.ascontiguousarray(places, F)
    if outside in _ROUND:
        near = _all_within(held, -wide, 2 * wide - 1, -high, 2 * high - 1)
    else:
        near = finite or _all_within(held, -folding.FAR, folding.FAR, -folding.FAR, folding.FAR)
    if near:
        how = cv2.INTER_NEAREST if nearest else cv2.INTER_LINEAR
        out: Any = cv2.remap(source, held, None, how, borderMode=BORDERS[outside])  # type: ignore[call-overload]
        return np.asarray(out, F)
    folded = np.empty(held.shape, F)
    rows.over(folding.fold, len(held), folded, held, F(wide), F(high), RULES.index(outside))
    return _read(source, folded, outside, nearest)
