"""Gradient noise along the frame: Perlin's, summed over octaves, and its finish to 0..1."""

from __future__ import annotations

from functools import lru_cache
from math import floor

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..rows import compiled, inlined, inner

F = np.float32
_ONE, _HALF, _ZERO = F(1), F(0.5), F(0)

# Perlin 2002 takes the low four bits of the hash to one of twelve directions, four of them twice.
_DIRECTIONS = np.array(
    [
        (1, 1, 0), (-1, 1, 0), (1, -1, 0), (-1, -1, 0),
        (1, 0, 1), (-1, 0, 1), (1, 0, -1), (-1, 0, -1),
        (0, 1, 1), (0, -1, 1), (0, 1, -1), (0, -1, -1),
        (1, 1, 0), (0, -1, 1), (-1, 1, 0), (0, -1, -1),
    ],
    F,
)  # fmt: skip
_GX, _GY, _GZ = (np.ascontiguousarray(_DIRECTIONS[:, k]) for k in range(3))

REACH = 1.05
"""Raw noise lies within ±REACH (single-octave three-dimensional gradient noise: ±1.04)."""
LEVELS = 1024
"""Steps of a finishing table over the reach."""


@lru_cache(maxsize=64)
def permutation(seed: int) -> NDArray[np.int32]:
    """A permutation of 0..255 from a seed, twice over, by Fisher–Yates on splitmix64."""
    mask = (1 << 64) - 1
    state = (seed * 0x9E3779B97F4A7C15 + 0x1234567) & mask
    order = list(range(256))
    for last in range(255, 0, -1):
        state = (state + 0x9E3779B97F4A7C15) & mask
        mixed = state
        mixed = ((mixed ^ (mixed >> 30)) * 0xBF58476D1CE4E5B9) & mask
        mixed = ((mixed ^ (mixed >> 27)) * 0x94D049BB133111EB) & mask
        mixed ^= mixed >> 31
        other = mixed % (last + 1)
        order[last], order[other] = order[other], order[last]
    table = np.array(order * 2, np.int32)
    table.setflags(write=False)
    return table


@inlined("f4(f4)")
def _fade(t):
    return t * t * t * (t * (t * F(6) - F(15)) + F(10))


_RAW, _PLAIN, _EVEN = 0, 1, 2
_INDEX = F(LEVELS / (2 * REACH))
_LAST = F(LEVELS) - F(0.001)
_MASK = LEVELS - 1  # an index that cannot be negative needs no wrapping, so look-ups vectorise


@inner(
    "void(f4[::1],f4[::1],i4[::1],Array(f4,2,'C',readonly=True),f4,f4,i8)",
    error_model="numpy", fastmath={"contract", "nnan"},
)  # fmt: skip
def _finish(out, line, index, curve, gain, lift, mode):
    """Map one row of sums to 0..1 while it is in cache: linearly, or through a curve that evens out
    the values.

    ``curve`` holds, for each level, the offset and slope of its piece, gain and lift included.
    """
    if mode == _RAW:
        for x in range(len(line)):
            out[x] = line[x]
    elif mode == _PLAIN:
        half = _HALF * gain
        base = _HALF * gain + lift
        for x in range(len(line)):
            out[x] = min(max(line[x] * half + base, _ZERO), _ONE)
    else:
        for x in range(len(line)):
            at = min(max((line[x] + F(REACH)) * _INDEX, _ZERO), _LAST)
            index[x] = np.int32(at)
            line[x] = at
        for x in range(len(line)):
            k = np.int64(index[x]) & _MASK
            out[x] = min(max(curve[0, k] + line[x] * curve[1, k], _ZERO), _ONE)


def _pieces(table: NDArray[np.float32], gain: float, lift: float) -> NDArray[np.float32]:
    """A finishing table as linear pieces: value = offset[k] + place·slope[k]."""
    exact = table.astype(np.float64) * gain + lift
    slope = np.diff(exact)
    offset = exact[:-1] - slope * np.arange(LEVELS)
    return np.stack([offset, slope]).astype(F)


_BLOCK = 32
_NARROW = 10.0  # cells of fewer pixels are looked up pixel by pixel instead of walked


@compiled(
    "out2 exact_in2 in1 in2 in2 index_in2 index_in2 index_in1 index_in1 index_in1 in2 f f i",
    finite=True,
)
def _straight(
    first, last, out, place, weight, part, faded, starts, index, cell, cells, perm, curve, gain,
    lift, mode,
):  # fmt: skip
    """Rows of noise on an axis-aligned lattice.

    Along a row y and z are fixed, so at each lattice column the corner gradients, folded by
    their z weights once per row of cells and by their y weights once per row of pixels, are one
    affine form a·dx + b. Between two columns the noise is those two forms mixed by the fade of
    x, which no row changes. No pixel hashes anything.
    """
    wide, octaves = out.shape[1], len(weight)
    most = 0
    for o in range(octaves):
        most = max(most, cells[o] + 1)
    # Per octave and lattice column, for the upper and the lower corner: x and y gradients, and
    # what z adds.
    folded = np.empty((octaves, 6, most), F)
    held = np.full(octaves, -(2**62), np.int64)
    slope = np.empty(most, F)
    level = np.empty(most, F)
    slope_on = np.empty(most, F)
    level_on = np.empty(most, F)
    line = np.empty(wide, F)
    strip = np.empty(wide + _BLOCK, F)
    spot = np.empty(wide, np.int32)
    for y in range(first, last):
        line[:] = _ZERO
        for o in range(octaves):
            count = cells[o] + 1
            down = place[o, 0] + place[o, 1] * y
            row = np.floor(down)
            fy = F(down - row)
            v = _fade(fy)
            fold = folded[o]
            if np.int64(row) != held[o]:
                held[o] = np.int64(row)
                deep = np.floor(place[o, 2])
                fz = F(place[o, 2] - deep)
                w = _fade(fz)
                near, far = (_ONE - w), w
                gz = fz - _ONE
                iy = np.int64(row) & 255
                iz = np.int64(deep) & 255
                for k in range(count):
                    column = perm[(cell[o] + k) & 255] + iy
                    for corner in range(2):
                        at = perm[(column + corner) & 255] + iz
                        h0 = perm[at & 255] & 15
                        h1 = perm[(at + 1) & 255] & 15
                        fold[3 * corner, k] = near * _GX[h0] + far * _GX[h1]
                        fold[3 * corner + 1, k] = near * _GY[h0] + far * _GY[h1]
                        fold[3 * corner + 2, k] = near * _GZ[h0] * fz + far * _GZ[h1] * gz
            up = (_ONE - v) * weight[o]
            low = v * weight[o]
            gy = fy - _ONE
            for k in range(count):
                slope[k] = up * fold[0, k] + low * fold[3, k]
                above = up * (fold[1, k] * fy + fold[2, k])
                level[k] = above + low * (fold[4, k] * gy + fold[5, k])
            if cells[o] * _NARROW > wide:
                for k in range(count - 1):
                    slope_on[k] = slope[k + 1] - slope[k]
                    level_on[k] = level[k + 1] - slope[k + 1] - level[k]
                parts, fades, where = part[o], faded[o], index[o]
                for x in range(wide):
                    k = np.int64(where[x]) & 0xFFFF
                    dx = parts[x]
                    mixed = fades[x] * (slope_on[k] * dx + level_on[k])
                    line[x] += slope[k] * dx + level[k] + mixed
                continue
            fades, parts = faded[o], part[o]
            for k in range(count - 1):
                a0 = slope[k]
                b0 = level[k]
                a1 = slope[k + 1] - a0
                b1 = level[k + 1] - slope[k + 1] - b0
                # Whole blocks, running over into the next cell, which then writes over it:
                # loops of one length vectorise, and unsigned places need no wrapping.
                at = np.uint64(starts[o, k])
                for _ in range((starts[o, k + 1] - starts[o, k] + _BLOCK - 1) // _BLOCK):
                    for n in range(np.uint64(_BLOCK)):
                        x = at + n
                        dx = parts[x]
                        strip[x] = a0 * dx + b0 + fades[x] * (a1 * dx + b1)
                    at += np.uint64(_BLOCK)
            for x in range(wide):
                line[x] += strip[x]
        _finish(out[y], line, spot, curve, gain, lift, mode)


def point(x: float, y: float, z: float, perm: NDArray[np.int32]) -> float:
    """Perlin's improved noise at one point: the direct path, straight from its definition.

    Formulas ask for one point a frame. It is computed with NumPy: a compiled function would need
    Numba to be loaded first.
    """
    cx, cy, cz = floor(x), floor(y), floor(z)
    fx, fy, fz = F(x - cx), F(y - cy), F(z - cz)
    u, v, w = (t * t * t * (t * (t * F(6) - F(15)) + F(10)) for t in (fx, fy, fz))
    ix, iy, iz = cx & 255, cy & 255, cz & 255
    total = _ZERO
    for i in range(2):
        column = perm[(ix + i) & 255] + iy
        wx = u if i else _ONE - u
        for j in range(2):
            line = perm[(column + j) & 255] + iz
            wxy = wx * (v if j else _ONE - v)
            for k in range(2):
                h = perm[(line + k) & 255] & 15
                dot = _GX[h] * (fx - F(i)) + _GY[h] * (fy - F(j)) + _GZ[h] * (fz - F(k))
                total += wxy * (w if k else _ONE - w) * dot
    return float(total)


def straight(
    height: int,
    width: int,
    axes: NDArray[np.float64],
    weights: NDArray[np.float32],
    seed: int,
    table: NDArray[np.float32] | None = None,
    raw: bool = False,
    gain: float = 1.0,
    lift: float = 0.0,
) -> NDArray[np.float32]:
    """Gradient noise summed over octaves, at every pixel of a frame that lies along its lattice.

    Parameters
    ----------
    height, width : int
        Frame size in pixels.
    axes : (octaves, 7) float64
        Per octave: noise x at pixel (0, 0) and its change per pixel right and down; the same
        for noise y; and noise z. Here x grows to the right alone, and y changes downwards alone.
    weights : (octaves,) float32
        Amplitude of each octave.
    seed : int
        The number of the permutation.
    table : (LEVELS + 1,) float32, optional
        Maps a sum to 0..1; it spans ±REACH. Without it, a sum n becomes 0.5 + 0.5·n.
    raw : bool
        Return the sums themselves.
    gain, lift : float
        The finished value v becomes v·gain + lift, clamped to 0..1.

    Returns
    -------
    (height, width) float32

    References
    ----------
    Perlin, *Improving Noise*, SIGGRAPH 2002. Ebert et al., *Texturing & Modeling*, for the sum.
    """
    out = np.empty((height, width), F)
    perm = permutation(seed)
    mode = _RAW if raw else _PLAIN if table is None else _EVEN
    finish = np.zeros((2, 1), F) if table is None else _pieces(table, gain, lift)
    count = len(weights)
    along = axes[:, 0:1] + axes[:, 1:2] * np.arange(width)
    floor = np.floor(along)
    part = (along - floor).astype(F)
    part = np.ascontiguousarray(np.pad(part, ((0, 0), (0, _BLOCK))))
    faded = part * part * part * (part * (part * F(6) - F(15)) + F(10))
    cell = floor[:, 0].astype(np.int32)
    index = floor.astype(np.int32) - cell[:, None]
    cells = index[:, -1] + 1
    starts = np.zeros((count, int(cells.max()) + 1), np.int32)
    for o in range(count):
        starts[o, : cells[o] + 1] = np.searchsorted(index[o], np.arange(cells[o] + 1))
    place = np.ascontiguousarray(axes[:, [3, 5, 6]])
    rows.over(
        _straight, height, out, place, weights, part, faded, starts, index, cell,
        cells.astype(np.int32), perm, finish, F(gain), F(lift), mode,
    )  # fmt: skip
    return out
