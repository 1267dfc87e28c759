"""Rows and colours shifted by fractions of a pixel; the edge pixels are held outside."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..colour.luminance import BLUE, GREEN, RED
from ..rows import compiled
from .folding import FAR, RULES, folded_pixel

F = np.float32
_ONE, _THIRD = F(1), F(1 / 3)
_NONE = np.zeros((0, 0), F)
ALPHAS = ("full", "largest", "mean")
_FULL, _MEAN = 0, 2


@compiled("out2 in2 in1 i i", finite=True)
def _along(first, last, out, plane, shifts, rule, planes):
    wide = out.shape[1] // planes
    for y in range(first, last):
        far = np.floor(-shifts[y])
        part = F(-shifts[y] - far)
        start = np.int64(far)
        # The range in which both neighbours lie inside.
        begin = min(max(-start, 0), wide)
        end = max(min(wide - 1 - start, wide), begin)
        at = np.uint64(begin * planes)
        source = np.uint64((begin + start) * planes)
        if part == F(0):
            for n in range(np.uint64((end - begin) * planes)):
                out[y, at + n] = plane[y, source + n]
        else:
            on = source + np.uint64(planes)
            for n in range(np.uint64((end - begin) * planes)):
                low = plane[y, source + n]
                out[y, at + n] = low + part * (plane[y, on + n] - low)
        for side in range(2):
            for x in range(0 if side == 0 else end, begin if side == 0 else wide):
                a, b = folded_pixel(x + start, wide, rule), folded_pixel(x + start + 1, wide, rule)
                for c in range(planes):
                    low = plane[y, a * planes + c] if a >= 0 else F(0)
                    high = plane[y, b * planes + c] if b >= 0 else F(0)
                    out[y, x * planes + c] = low + part * (high - low)


def along(
    plane: NDArray[np.float32], shifts: NDArray[np.float32], rule: str = "clamp"
) -> NDArray[np.float32]:
    """Shift each row of a picture or matte to the right by its own number of pixels, fractions
    included."""
    held = np.ascontiguousarray(plane)
    planes = 1 if held.ndim == 2 else held.shape[2]
    out = np.empty_like(held)
    flat = (len(held), held.shape[1] * planes)
    by = np.clip(shifts, -FAR, FAR).astype(F)
    rows.over(
        _along, len(held), out.reshape(flat), held.reshape(flat), by, RULES.index(rule), planes
    )
    return out


def _axis(
    places: NDArray[np.float64], count: int, rule: str
) -> tuple[NDArray[np.int32], NDArray[np.float32]]:
    """The two pixels around each place along an axis, and the share of the way between them."""
    held = np.clip(places, -FAR, FAR)
    whole = np.floor(held)
    pair = np.stack([whole, whole + 1]).astype(np.int64)
    if rule == "mirror":
        pair = np.mod(pair, 2 * count)
        pair = np.where(pair < count, pair, 2 * count - 1 - pair)
    elif rule == "repeat":
        pair = np.mod(pair, count)
    else:
        pair = np.clip(pair, 0, count - 1)
    return pair.astype(np.int32), (held - whole).astype(F)


@compiled("index_out1 in2")
def _inked(first, last, out, picture):
    """1 for each row that is not all zeros, 0 for the others."""
    for y in range(first, last):
        some = np.int32(0)
        for x in range(picture.shape[1]):
            some |= np.int32(picture[y, x] != F(0))
        out[y] = some


@compiled("out3 in3 index_in3 in2 index_in3 in2 index_in2 in2 in2 index_in1 i", finite=True)
def _apart(
    first, last, out, picture, columns, across, lines, down, runs, beside, above, inked, alpha
):
    wide = out.shape[1]
    line, seen = np.empty(wide, F), np.empty(wide, F)
    made = np.empty((4, wide), F)
    for y in range(first, last):
        some = np.int32(0)
        for c in range(3):
            some |= inked[lines[c, 0, y]] | inked[lines[c, 1, y]]
        if not some:
            # Most rows of a title.
            for x in range(wide):
                for c in range(4):
                    out[y, x, c] = F(0)
            continue
        for x in range(wide):
            made[3, x] = _ONE if alpha == _FULL else F(0)
        for plane in range(3 if alpha == _FULL else 6):
            # The second three read alpha where the colours are read.
            c = plane % 3
            source = c if plane < 3 else 3
            top, under, v = lines[c, 0, y], lines[c, 1, y], down[c, y]
            for x in range(wide):
                high = picture[top, x, source]
                line[x] = high + v * (picture[under, x, source] - high)
            # If both neighbours lie side by side, no table is needed.
            begin, end, part = runs[c, 0], runs[c, 1], across[c, 0]
            to, at = np.uint64(begin), np.uint64(begin + runs[c, 2])
            for n in range(np.uint64(end - begin)):
                low = line[at + n]
                seen[to + n] = low + part * (line[at + n + np.uint64(1)] - low)
            for side in range(2):
                for x in range(0 if side == 0 else end, begin if side == 0 else wide):
                    low = line[np.uint32(columns[c, 0, x])]
                    seen[x] = low + across[c, x] * (line[np.uint32(columns[c, 1, x])] - low)
            if len(beside):
                inside = above[c, y]
                for x in range(wide):
                    seen[x] *= inside * beside[c, x]
            if source < 3:
                for x in range(wide):
                    made[source, x] = seen[x]
            elif alpha == _MEAN:
                for x in range(wide):
                    made[3, x] += _THIRD * seen[x]
            else:
                for x in range(wide):
                    made[3, x] = max(made[3, x], seen[x])
        for x in range(wide):
            out[y, x, 0] = made[0, x]
            out[y, x, 1] = made[1, x]
            out[y, x, 2] = made[2, x]
            out[y, x, 3] = made[3, x]


def _inside(places: NDArray[np.float64], count: int) -> NDArray[np.float32]:
    """The share of each place's neighbours along an axis that lies within the picture, 0..1."""
    held = np.clip(places, -FAR, FAR)
    low = np.floor(held)
    share = held - low
    return np.asarray(
        (1 - share) * ((low >= 0) & (low < count)) + share * ((low >= -1) & (low < count - 1)), F
    )


def apart(
    picture: NDArray[np.float32], matrices: list[NDArray[np.float64]], rule: str, alpha: str
) -> NDArray[np.float32]:
    """Red, green and blue each read through a map of its own.

    Parameters
    ----------
    matrices : three of (2, 3) float64
        As for :func:`sampling.affine`, that shift and scale only.
    rule : {"clamp", "mirror", "repeat", "clear"}
    alpha : {"full", "largest", "mean"}
        How to combine the alphas read at the three places; *full* promises that all are 1.
    """
    high, wide = picture.shape[:2]
    columns, across, lines, down, runs = [], [], [], [], []
    beside, above = [], []
    for matrix in matrices:
        start = int(np.floor(np.clip(matrix[0, 2], -FAR, FAR)))
        begin = min(max(-start, 0), wide)
        # Only shifted, from ``begin`` to the last whose neighbours both lie inside.
        end = max(min(wide - 1 - start, wide), begin) if matrix[0, 0] == 1 else begin
        runs.append((begin, end, start))
        places = matrix[0, 0] * np.arange(wide) + matrix[0, 2]
        beside.append(_inside(places, wide))
        pair, part = _axis(places, wide, rule)
        columns.append(pair)
        across.append(part)
        places = matrix[1, 1] * np.arange(high) + matrix[1, 2]
        above.append(_inside(places, high))
        pair, part = _axis(places, high, rule)
        lines.append(pair)
        down.append(part)
    out = np.empty_like(picture, order="C")
    source, inked = np.ascontiguousarray(picture), np.ones(high, np.int32)
    if alpha != "full":
        rows.over(_inked, high, inked, source.reshape(high, -1))
    rows.over(
        _apart, high, out, source, np.stack(columns), np.stack(across), np.stack(lines),
        np.stack(down), np.array(runs, np.int32),
        *([np.stack(beside), np.stack(above)] if rule == "clear" else [_NONE, _NONE]), inked, ALPHAS.index(alpha),
    )  # fmt: skip
    return out


@compiled("out3 in3 in3", finite=True)
def _bled(first, last, out, picture, soft):
    for y in range(first, last):
        for x in range(out.shape[1]):
            change = RED * (picture[y, x, 0] - soft[y, x, 0])
            change += GREEN * (picture[y, x, 1] - soft[y, x, 1])
            change += BLUE * (picture[y, x, 2] - soft[y, x, 2])
            for c in range(3):
                out[y, x, c] = soft[y, x, c] + change
            out[y, x, 3] = picture[y, x, 3]


def bled(picture: NDArray[np.float32], soft: NDArray[np.float32]) -> NDArray[np.float32]:
    """The brightness of one (Rec. 709) in the colours of another (H, W, 3), with its alpha."""
    out = np.empty_like(picture, order="C")
    planes = (np.ascontiguousarray(picture), np.ascontiguousarray(soft))
    rows.over(_bled, len(out), out, *planes)
    return out
