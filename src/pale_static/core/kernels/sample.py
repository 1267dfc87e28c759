"""Reading a picture between and beyond its pixels: the one mechanism all of Space goes through.

OpenCV reads between pixels; what lies outside a picture is folded back into it first, so that
every edge rule costs much the same however far out a place lies.
"""

from __future__ import annotations

from typing import Any

import cv2
import numba
import numpy as np
from numpy.typing import NDArray

from . import rows
from .rows import compiled

F = np.float32
EDGES = ("clear", "clamp", "mirror", "repeat")
"""What lies outside a picture: nothing, its edge pixels, its reflection, or itself again."""
_BORDERS = {
    "clear": cv2.BORDER_CONSTANT,
    "clamp": cv2.BORDER_REPLICATE,
    "mirror": cv2.BORDER_REFLECT,
    "repeat": cv2.BORDER_WRAP,
}
_ROUND = ("mirror", "repeat")
"""Edges for which OpenCV goes round and round, so that far places are folded back first."""
_FAR = 1e6
"""Places further out than so many pixels, or that are no numbers, count as so far."""


@numba.njit("f8(f8,f8,i8)", cache=True, nogil=True, error_model="numpy", inline="always")
def _folded(at, count, edges):
    """A place along one axis, brought to where the picture has what lies there."""
    at = min(max(at, -_FAR), _FAR) if at == at else -_FAR
    if edges == 2:
        # The reflection turns about the outer edge of the last pixel, half a pixel on.
        turns = np.floor((at + 0.5) / count)
        rest = at + 0.5 - turns * count
        odd = turns - 2.0 * np.floor(turns * 0.5)
        return rest + odd * (count - 2.0 * rest) - 0.5
    if edges == 3:
        return at - count * np.floor(at / count)
    return at


@compiled("out3 in3 f f i")
def _fold(first, last, out, places, wide, high, edges):
    for y in range(first, last):
        for x in range(out.shape[1]):
            out[y, x, 0] = F(_folded(places[y, x, 0], wide, edges))
            out[y, x, 1] = F(_folded(places[y, x, 1], high, edges))


@compiled("index_out1 in3 f f f f")
def _beyond(first, last, out, places, left, right, top, bottom):
    for y in range(first, last):
        count = np.int32(0)
        for x in range(places.shape[1]):
            across, down = places[y, x, 0], places[y, x, 1]
            # Written so that what is no number counts as beyond.
            near = (left < across) & (across < right) & (top < down) & (down < bottom)
            count += np.int32(0) if near else np.int32(1)
        out[y] = count


def _all_within(places: NDArray[np.float32], *box: float) -> bool:
    """Whether all places are numbers between left and right, top and bottom."""
    counts = np.empty(len(places), np.int32)
    rows.over(_beyond, len(places), counts, places, *(F(side) for side in box))
    return not counts.any()


@compiled("out3 exact_in2 f f i")
def _fold_affine(first, last, out, matrix, wide, high, edges):
    for y in range(first, last):
        for x in range(out.shape[1]):
            across = matrix[0, 0] * x + matrix[0, 1] * y + matrix[0, 2]
            down = matrix[1, 0] * x + matrix[1, 1] * y + matrix[1, 2]
            out[y, x, 0] = F(_folded(across, wide, edges))
            out[y, x, 1] = F(_folded(down, high, edges))


def _read(plane: Any, places: Any, edges: str, nearest: bool) -> NDArray[np.float32]:
    """A picture at folded places."""
    border = cv2.BORDER_CONSTANT if edges == "clear" else cv2.BORDER_REPLICATE
    if edges == "repeat":
        # One row and column more, so that the seam is a place like any other.
        plane = cv2.copyMakeBorder(plane, 0, 1, 0, 1, cv2.BORDER_WRAP)
    how = cv2.INTER_NEAREST if nearest else cv2.INTER_LINEAR
    out: Any = cv2.remap(plane, places, None, how, borderMode=border)  # type: ignore[call-overload]
    return np.asarray(out, F)


def affine(
    plane: NDArray[np.float32],
    matrix: NDArray[np.float64],
    edges: str = "clear",
    nearest: bool = False,
) -> NDArray[np.float32]:
    """A picture or matte seen through an affine map.

    Parameters
    ----------
    matrix : (2, 3) float64
        From a pixel of the result to a place in the picture, in pixels; pixel (0, 0) has its
        centre at (0, 0).
    edges : {"clear", "clamp", "mirror", "repeat"}
    nearest : bool
        Take the nearest pixel instead of mixing four.
    """
    high, wide = plane.shape[:2]
    exact = np.ascontiguousarray(matrix, np.float64)
    source = np.ascontiguousarray(plane)
    how = (cv2.INTER_NEAREST if nearest else cv2.INTER_LINEAR) | cv2.WARP_INVERSE_MAP
    if edges in _ROUND and not _within(exact, wide, high, 1.0):
        places = np.empty((high, wide, 2), F)
        rows.over(_fold_affine, high, places, exact, F(wide), F(high), EDGES.index(edges))
        return _read(source, places, edges, nearest)
    border = _BORDERS[edges]
    out: Any = cv2.warpAffine(source, exact, (wide, high), flags=how, borderMode=border)
    return np.asarray(out, F)


def _within(matrix: NDArray[np.float64], wide: int, high: int, over: float) -> bool:
    """Whether the whole result lies inside the picture, or no more than so many of it outside."""
    corners = np.array([(x, y, 1.0) for x in (0, wide - 1) for y in (0, high - 1)])
    found = corners @ matrix.T
    far = over * np.array([wide, high])
    return bool((found >= -far).all() and (found <= np.add(far, (wide - 1, high - 1))).all())


def mapped(
    plane: NDArray[np.float32],
    places: NDArray[np.float32],
    edges: str = "clear",
    nearest: bool = False,
    finite: bool = False,
) -> NDArray[np.float32]:
    """A picture or matte read at a place of its own for every pixel.

    Parameters
    ----------
    places : (H, W, 2) float32
        x and y in pixels, as for :func:`affine`.
    finite : bool
        Promises that every place is a number within a million pixels.
    """
    high, wide = plane.shape[:2]
    source, held = np.ascontiguousarray(plane), np.ascontiguousarray(places, F)
    if edges in _ROUND:
        near = _all_within(held, -wide, 2 * wide - 1, -high, 2 * high - 1)
    else:
        near = finite or _all_within(held, -_FAR, _FAR, -_FAR, _FAR)
    if near:
        how = cv2.INTER_NEAREST if nearest else cv2.INTER_LINEAR
        out: Any = cv2.remap(source, held, None, how, borderMode=_BORDERS[edges])  # type: ignore[call-overload]
        return np.asarray(out, F)
    folded = np.empty(held.shape, F)
    rows.over(_fold, len(held), folded, held, F(wide), F(high), EDGES.index(edges))
    return _read(source, folded, edges, nearest)


@compiled("out3 in3 index_in1 index_in1", finite=True)
def _spread(first, last, out, small, lines, columns):
    wide, planes = out.shape[1], out.shape[2]
    for y in range(first, last):
        line = lines[y]
        if y > first and lines[y - 1] == line:
            # Most rows are the one above again.
            above, row = out[y - 1].reshape(wide * planes), out[y].reshape(wide * planes)
            for n in range(len(row)):
                row[n] = above[n]
            continue
        for x in range(wide):
            column = columns[x]
            for c in range(planes):
                out[y, x, c] = small[line, column, c]


@compiled("exact_out3 exact_in3 index_in1 index_in1")
def _spread_halves(first, last, out, small, lines, columns):
    for y in range(first, last):
        line = lines[y]
        if y > first and lines[y - 1] == line:
            for x in range(out.shape[1]):
                out[y, x, 0] = out[y - 1, x, 0]
                out[y, x, 1] = out[y - 1, x, 1]
            continue
        for x in range(out.shape[1]):
            column = np.uint32(columns[x])
            out[y, x, 0] = small[line, column, 0]
            out[y, x, 1] = small[line, column, 1]


@compiled("out3 in3 index_in1 index_in1 in3", finite=True)
def _spread_under(first, last, out, small, lines, columns, picture):
    for y in range(first, last):
        line = lines[y]
        for x in range(out.shape[1]):
            column, alpha = columns[x], picture[y, x, 3]
            for c in range(3):
                out[y, x, c] = small[line, column, c] * alpha
            out[y, x, 3] = alpha


def spread_under(
    small: NDArray[np.float32], lines: NDArray[np.int64], columns: NDArray[np.int64],
    picture: NDArray[np.float32],
) -> NDArray[np.float32]:  # fmt: skip
    """Every pixel its cell's straight colour, under a picture's alpha."""
    out = np.empty_like(picture, order="C")
    rows.over(
        _spread_under, len(out), out, np.ascontiguousarray(small), lines.astype(np.int32),
        columns.astype(np.int32), np.ascontiguousarray(picture),
    )  # fmt: skip
    return out


@compiled("out3 in3 index_in1 index_in1", finite=True)
def _summed_four(first, last, out, plane, starts, columns):
    # Row by row into a line, whose loop vectorises, and the line into its cells.
    wide = plane.shape[1]
    line = np.empty(4 * wide, F)
    for cell in range(first, last):
        for n in range(4 * wide):
            line[n] = F(0)
        for y in range(starts[cell], starts[cell + 1]):
            row = plane[y].reshape(4 * wide)
            for n in range(4 * wide):
                line[n] += row[n]
        for x in range(wide):
            column, at = np.uint32(columns[x]), np.uint64(4 * x)
            out[cell, column, 0] += line[at]
            out[cell, column, 1] += line[at + np.uint64(1)]
            out[cell, column, 2] += line[at + np.uint64(2)]
            out[cell, column, 3] += line[at + np.uint64(3)]


@compiled("out3 in3 index_in1 index_in1")
def _summed(first, last, out, plane, starts, columns):
    # Rows of cells: each has rows of pixels of its own.
    for cell in range(first, last):
        for y in range(starts[cell], starts[cell + 1]):
            for x in range(plane.shape[1]):
                column = columns[x]
                for c in range(plane.shape[2]):
                    out[cell, column, c] += plane[y, x, c]


def cells(
    plane: NDArray[np.float32], lines: NDArray[np.int64], columns: NDArray[np.int64]
) -> NDArray[np.float32]:
    """The mean of each cell, where ``lines`` and ``columns`` say which cell a pixel lies in."""
    held = np.ascontiguousarray(plane if plane.ndim == 3 else plane[..., None])
    down, across = int(lines[-1]) + 1, int(columns[-1]) + 1
    out = np.zeros((down, across, held.shape[2]), F)
    starts = np.searchsorted(lines, np.arange(down + 1)).astype(np.int32)
    run = _summed_four if held.shape[2] == 4 else _summed
    rows.over(run, down, out, held, starts, columns.astype(np.int32), least=1)
    counts = np.outer(np.bincount(lines), np.bincount(columns))
    out /= counts[..., None].astype(F)
    return out if plane.ndim == 3 else out[..., 0]


def spread(
    small: NDArray[np.float32], lines: NDArray[np.int64], columns: NDArray[np.int64]
) -> NDArray[np.float32]:
    """Every pixel its cell's value: the inverse of :func:`cells`."""
    held = np.ascontiguousarray(small if small.ndim == 3 else small[..., None])
    if held.shape[2] == 4:
        # Pixels of four floats travel as two doubles.
        whole = np.empty((len(lines), len(columns), 4), F)
        rows.over(
            _spread_halves, len(whole), whole.view(np.float64), held.view(np.float64),
            lines.astype(np.int32), columns.astype(np.int32),
        )  # fmt: skip
        return whole
    out = np.empty((len(lines), len(columns), held.shape[2]), F)
    rows.over(_spread, len(out), out, held, lines.astype(np.int32), columns.astype(np.int32))
    return out if small.ndim == 3 else out[..., 0]
