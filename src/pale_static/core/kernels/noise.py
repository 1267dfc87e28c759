"""Gradient noise: Perlin's improved noise summed over octaves, and its finish to 0..1."""

from __future__ import annotations

from functools import lru_cache

import numba
import numpy as np
from numpy.typing import NDArray

from . import rows
from .rows import compiled

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


@numba.njit("f4(f4)", cache=True, nogil=True, inline="always")
def _fade(t):
    return t * t * t * (t * (t * F(6) - F(15)) + F(10))


_RAW, _PLAIN, _EVEN = 0, 1, 2
_INDEX = F(LEVELS / (2 * REACH))
_LAST = F(LEVELS) - F(0.001)


@numba.njit("void(f4[::1],f4[::1],Array(f4,1,'C',readonly=True),f4,f4,i8)", cache=True, nogil=True)
def _finish(out, line, table, gain, lift, mode):
    """One row of sums to 0..1, while it is in cache: plainly, or evened out by a table."""
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
            step = np.uint32(at)  # unsigned, so that the look-up vectorises
            low = table[step]
            even = low + (at - F(step)) * (table[step + np.uint32(1)] - low)
            out[x] = min(max(even * gain + lift, _ZERO), _ONE)


@compiled("out2 exact_in2 in1 in2 in2 index_in2 index_in1 index_in1 index_in1 in1 f f i")
def _straight(
    first, last, out, place, weight, part, faded, starts, cell, cells, perm, table, gain, lift, mode
):
    """Rows of noise on an axis-aligned lattice.

    Along a row y and z are fixed, so at each lattice column the four corner gradients, folded by
    their y and z weights, are one affine form a·dx + b. Between two columns the noise is those
    two forms mixed by the fade of x, which no row changes.
    """
    wide, octaves = out.shape[1], len(weight)
    most = 0
    for o in range(octaves):
        most = max(most, cells[o] + 1)
    slope = np.empty(most, F)
    level = np.empty(most, F)
    line = np.empty(wide, F)
    for y in range(first, last):
        line[:] = _ZERO
        for o in range(octaves):
            down = place[o, 0] + place[o, 1] * y
            row = np.floor(down)
            fy = F(down - row)
            v = _fade(fy)
            deep = np.floor(place[o, 2])
            fz = F(place[o, 2] - deep)
            w = _fade(fz)
            iy = np.int64(row) & 255
            iz = np.int64(deep) & 255
            amount = weight[o]
            w00 = (_ONE - v) * (_ONE - w) * amount
            w10 = v * (_ONE - w) * amount
            w01 = (_ONE - v) * w * amount
            w11 = v * w * amount
            gy = fy - _ONE
            gz = fz - _ONE
            for k in range(cells[o] + 1):
                column = perm[(cell[o] + k) & 255] + iy
                near = perm[column & 255] + iz
                far = perm[(column + 1) & 255] + iz
                h00 = perm[near & 255] & 15
                h10 = perm[far & 255] & 15
                h01 = perm[(near + 1) & 255] & 15
                h11 = perm[(far + 1) & 255] & 15
                slope[k] = w00 * _GX[h00] + w10 * _GX[h10] + w01 * _GX[h01] + w11 * _GX[h11]
                level[k] = (
                    w00 * (_GY[h00] * fy + _GZ[h00] * fz)
                    + w10 * (_GY[h10] * gy + _GZ[h10] * fz)
                    + w01 * (_GY[h01] * fy + _GZ[h01] * gz)
                    + w11 * (_GY[h11] * gy + _GZ[h11] * gz)
                )
            for k in range(cells[o]):
                a0 = slope[k]
                b0 = level[k]
                a1 = slope[k + 1] - a0
                b1 = level[k + 1] - slope[k + 1] - b0
                start = starts[o, k]
                end = starts[o, k + 1]
                # Slices begin at 0, so no index can be negative and the loop vectorises.
                sums = line[start:end]
                parts = part[o, start:end]
                fades = faded[o, start:end]
                for x in range(end - start):
                    dx = parts[x]
                    sums[x] += a0 * dx + b0 + fades[x] * (a1 * dx + b1)
        _finish(out[y], line, table, gain, lift, mode)


@numba.njit("f4(f8,f8,f8,Array(i4,1,'C',readonly=True))", cache=True, nogil=True)
def point(x, y, z, perm):
    """Perlin's improved noise at one point: the direct path, straight from its definition."""
    cx, cy, cz = np.floor(x), np.floor(y), np.floor(z)
    fx, fy, fz = F(x - cx), F(y - cy), F(z - cz)
    u, v, w = _fade(fx), _fade(fy), _fade(fz)
    ix, iy, iz = np.int64(cx) & 255, np.int64(cy) & 255, np.int64(cz) & 255
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
    return total


@compiled("out2 exact_in2 in1 index_in1 in1 f f i")
def _turned(first, last, out, place, weight, perm, table, gain, lift, mode):
    """Noise on a lattice at any angle: every pixel on its own."""
    wide = out.shape[1]
    line = np.empty(wide, F)
    for y in range(first, last):
        for x in range(wide):
            total = _ZERO
            for o in range(len(weight)):
                across = place[o, 0] + place[o, 1] * x + place[o, 2] * y
                down = place[o, 3] + place[o, 4] * x + place[o, 5] * y
                total += weight[o] * point(across, down, place[o, 6], perm)
            line[x] = total
        _finish(out[y], line, table, gain, lift, mode)


def octaves(
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
    """Gradient noise summed over octaves, at every pixel of a frame.

    Parameters
    ----------
    height, width : int
        Frame size in pixels.
    axes : (octaves, 7) float64
        Per octave: noise x at pixel (0, 0) and its change per pixel right and down; the same
        for noise y; and noise z.
    weights : (octaves,) float32
        Amplitude of each octave.
    seed : int
        Which permutation.
    table : (LEVELS + 1,) float32, optional
        Takes a sum to 0..1; it spans ±REACH. Without it, a sum n becomes 0.5 + 0.5·n.
    raw : bool
        Give the sums themselves.
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
    finish = np.zeros(1, F) if table is None else table
    # Rows walk their cells from left to right; a mirrored lattice is rare enough to go directly.
    if np.any(axes[:, 2]) or np.any(axes[:, 4]) or np.any(axes[:, 1] <= 0):
        place = np.ascontiguousarray(axes)
        rows.over(
            _turned, height, out, place, weights, perm, finish, F(gain), F(lift), mode, least=4
        )
        return out
    count = len(weights)
    along = axes[:, 0:1] + axes[:, 1:2] * np.arange(width)
    floor = np.floor(along)
    part = (along - floor).astype(F)
    faded = part * part * part * (part * (part * F(6) - F(15)) + F(10))
    cell = floor[:, 0].astype(np.int32)
    index = floor.astype(np.int32) - cell[:, None]
    cells = index[:, -1] + 1
    starts = np.zeros((count, int(cells.max()) + 1), np.int32)
    for o in range(count):
        starts[o, : cells[o] + 1] = np.searchsorted(index[o], np.arange(cells[o] + 1))
    place = np.ascontiguousarray(axes[:, [3, 5, 6]])
    rows.over(
        _straight, height, out, place, weights, part, faded, starts, cell,
        cells.astype(np.int32), perm, finish, F(gain), F(lift), mode,
    )  # fmt: skip
    return out
