"""Grey dilation of mattes by squares and discs; erosion is dilation of the negative."""

from __future__ import annotations

from math import floor, sqrt

import numpy as np
from numpy.typing import NDArray

from . import rows
from .rows import compiled

F = np.float32


@compiled("out2 in2 i")
def _down(first, last, out, matte, r):
    """Largest of the 2r + 1 rows about each, by van Herk's two running largests.

    ``first`` and ``last`` are blocks of 2r + 1 rows; blocks do not depend on each other.
    """
    high, wide = matte.shape
    size = 2 * r + 1
    ahead = np.empty((size, wide), F)
    behind = np.empty((size, wide), F)
    for block in range(first, last):
        # Rows that a window of this block begins in, and those that it ends in.
        top = block * size - r
        for k in range(size - 1, -1, -1):
            y = min(max(top + k, 0), high - 1)
            for x in range(wide):
                ahead[k, x] = matte[y, x]
            if k < size - 1:
                for x in range(wide):
                    ahead[k, x] = max(ahead[k, x], ahead[k + 1, x])
        for k in range(size):
            y = min(max(top + size + k, 0), high - 1)
            for x in range(wide):
                behind[k, x] = matte[y, x]
            if k:
                for x in range(wide):
                    behind[k, x] = max(behind[k, x], behind[k - 1, x])
        for k in range(size):
            y = block * size + k
            if y >= high:
                break
            if k == 0:
                for x in range(wide):
                    out[y, x] = ahead[0, x]
            else:
                for x in range(wide):
                    out[y, x] = max(ahead[k, x], behind[k - 1, x])


def _columns(matte: NDArray[np.float32], radius: int) -> NDArray[np.float32]:
    out = np.empty_like(matte, order="C")
    blocks = -(-len(matte) // (2 * radius + 1))
    rows.over(_down, blocks, out, np.ascontiguousarray(matte), radius, least=1)
    return out


def square(matte: NDArray[np.float32], radius: int) -> NDArray[np.float32]:
    """Largest value within ``radius`` pixels across and down; the time does not grow with it.

    References
    ----------
    van Herk 1992, *A fast algorithm for local minimum and maximum filters*.
    """
    if radius < 1:
        return matte
    turned = np.ascontiguousarray(_columns(matte, radius).T)
    return np.ascontiguousarray(_columns(turned, radius).T)


@compiled("out2 in2 index_in1 i")
def _disc(first, last, out, matte, reach, r):
    """Largest over a disc: runs that widen by a pixel at a time, laid over rows at their height.

    ``reach[d]`` is half the disc's width d rows from its middle.
    """
    high, wide = matte.shape
    run = np.empty(wide, F)
    other = np.empty(wide, F)
    for y in range(first, last):
        for x in range(wide):
            out[y, x] = matte[y, x]
    for source in range(max(0, first - r), min(high, last + r)):
        for x in range(wide):
            run[x] = matte[source, x]
        width = 0
        for d in range(r, -1, -1):
            while width < reach[d]:
                if wide == 1:
                    width += 1
                    continue
                other[0] = max(run[0], run[1])
                other[wide - 1] = max(run[wide - 1], run[wide - 2])
                for x in range(1, wide - 1):
                    other[x] = max(run[x], max(run[x - 1], run[x + 1]))
                run, other = other, run
                width += 1
            y = source - d
            if first <= y < last:
                for x in range(wide):
                    out[y, x] = max(out[y, x], run[x])
            y = source + d
            if d and first <= y < last:
                for x in range(wide):
                    out[y, x] = max(out[y, x], run[x])


def disc(matte: NDArray[np.float32], radius: int) -> NDArray[np.float32]:
    """Largest value within ``radius`` pixels of each pixel's centre."""
    if radius < 1:
        return matte
    out = np.empty_like(matte, order="C")
    reach = [floor(sqrt(radius * radius - d * d)) for d in range(radius + 1)]
    run = np.ascontiguousarray(matte)
    rows.over(_disc, len(out), out, run, np.array(reach, np.int32), radius, least=2 * radius + 16)
    return out


def grown(matte: NDArray[np.float32], radius: float, shape: str) -> NDArray[np.float32]:
    """Dilated by a radius in pixels, eroded where it is below 0; fractions are interpolated.

    Parameters
    ----------
    shape : {"disc", "square"}

    Notes
    -----
    Between two whole radii the result is mixed from both, so it moves without jumps. What lies
    outside the matte takes no part, as if it were reflected.
    """
    if not radius:
        return matte
    if radius < 0:
        return np.asarray(-grown(-matte, -radius, shape))
    run = disc if shape == "disc" else square
    low = floor(radius)
    share = F(radius - low)
    first = run(matte, low)
    if share <= 0:
        return first
    return np.asarray(first + share * (run(matte, low + 1) - first))
