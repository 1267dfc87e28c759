"""Pictures in cells: the mean of each cell, and pixels that all have their cell's value."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..rows import compiled

F = np.float32


@compiled("out3 in3 index_in1 index_in1", finite=True)
def _spread(first, last, out, small, lines, columns):
    wide, planes = out.shape[1], out.shape[2]
    for y in range(first, last):
        line = lines[y]
        if y > first and lines[y - 1] == line:
            # Most rows equal the row above.
            for x in range(wide):
                for c in range(planes):
                    out[y, x, c] = out[y - 1, x, c]
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
    """A picture in which every pixel has its cell's straight colour, under a picture's alpha."""
    out = np.empty_like(picture, order="C")
    rows.over(
        _spread_under, len(out), out, np.ascontiguousarray(small), lines.astype(np.int32),
        columns.astype(np.int32), np.ascontiguousarray(picture),
    )  # fmt: skip
    return out


@compiled("out3 in2 index_in1 index_in1", finite=True)
def _summed_four(first, last, out, plane, starts, columns):
    # Each row is summed into a line, in a loop that vectorises, and the line then into its cells.
    wide = len(columns)
    line = np.empty(4 * wide, F)
    for cell in range(first, last):
        for n in range(4 * wide):
            line[n] = F(0)
        for y in range(starts[cell], starts[cell + 1]):
            row = plane[y]
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
    # Rows of cells; each covers rows of pixels of its own.
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
    four = held.shape[2] == 4
    run, source = (_summed_four, held.reshape(len(held), -1)) if four else (_summed, held)
    rows.over(run, down, out, source, starts, columns.astype(np.int32), least=1)
    counts = np.outer(np.bincount(lines), np.bincount(columns))
    out /= counts[..., None].astype(F)
    return out if plane.ndim == 3 else out[..., 0]


def spread(
    small: NDArray[np.float32], lines: NDArray[np.int64], columns: NDArray[np.int64]
) -> NDArray[np.float32]:
    """A picture in which every pixel has its cell's value: the inverse of :func:`cells`."""
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
