"""Grey dilation of mattes by squares and discs; erosion is dilation of the negative."""

from __future__ import annotations

from functools import lru_cache
from math import floor, sqrt

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..rows import compiled

F = np.float32
_LOWEST = F(-3e38)


@compiled("out2 in2 i", finite=True)
def _down(first, last, out, matte, r):
    """Largest of the 2r + 1 rows about each, by van Herk's two running largests.

    ``first`` and ``last`` are blocks of 2r + 1 rows; blocks do not depend on each other.
    """
    high, wide = matte.shape
    size = 2 * r + 1
    ahead = np.empty((size, wide), F)
    behind = np.empty((size, wide), F)
    for block in range(first, last):
        # Rows in which windows of this block begin, and rows in which they end.
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
    """Largest value within ``radius`` pixels across and down; the time does not depend on the
    radius.

    References
    ----------
    van Herk 1992, *A fast algorithm for local minimum and maximum filters*.
    """
    if radius < 1:
        return matte
    turned = np.ascontiguousarray(_columns(matte, radius).T)
    return np.ascontiguousarray(_columns(turned, radius).T)


@compiled("out2 out2 in2 index_in2 i f f", finite=True)
def _disc(first, last, out, more, matte, runs, r, share, sign):
    """The largest value over a disc, mixed by a share with that over a disc one pixel larger; with
    sign −1 the smallest.

    A run that widens by a pixel at a time is laid over rows at its heights: ``runs`` holds half a
    run's width, how many rows off it lies, and for which disc, by their widths.
    """
    high, wide = matte.shape
    # A pixel beside either end, which takes no part. Loops over plain places vectorise.
    run = np.full((2, wide + 2), _LOWEST, F)
    for y in range(first, last):
        for x in range(wide):
            out[y, x] = sign * matte[y, x]
            more[y, x] = sign * matte[y, x]
    for at in range(max(0, first - r), min(high, last + r)):
        now = np.uint64(0)
        for x in range(wide):
            run[0, x + 1] = sign * matte[at, x]
        width = 0
        for k in range(len(runs)):
            while width < runs[k, 0]:
                after = np.uint64(1) - now
                for x in range(wide):
                    widened = max(run[now, x], run[now, x + 2])
                    run[after, x + 1] = max(run[now, x + 1], widened)
                now = after
                width += 1
            for side in range(2):
                y = at - runs[k, 1] if side == 0 else at + runs[k, 1]
                if not first <= y < last or (side == 1 and runs[k, 1] == 0):
                    continue
                if runs[k, 2] == 0:
                    for x in range(wide):
                        out[y, x] = max(out[y, x], run[now, x + 1])
                else:
                    for x in range(wide):
                        more[y, x] = max(more[y, x], run[now, x + 1])
    for y in range(first, last):
        for x in range(wide):
            low = out[y, x]
            out[y, x] = sign * (low + share * (more[y, x] - low))


@lru_cache(maxsize=256)
def _runs(low: int, on: int) -> NDArray[np.int32]:
    """The runs of a disc, and of the one for a share on the way to it, by their widths."""
    offsets = [
        (floor(sqrt(radius * radius - d * d)), d, which)
        for which, radius in enumerate(dict.fromkeys((low, on)))
        for d in range(radius + 1)
    ]
    return np.array(sorted(offsets), np.int32)


def disc(matte: NDArray[np.float32], radius: float, smallest: bool = False) -> NDArray[np.float32]:
    """Largest (or smallest) value within ``radius`` pixels of each pixel's centre.

    Between two whole radii the result is mixed from both.
    """
    low = floor(radius)
    share = radius - low
    if radius < 1 and share <= 0:
        return matte
    out, more = np.empty_like(matte, order="C"), np.empty_like(matte, order="C")
    on = low + 1 if share > 0 else low
    rows.over(
        _disc, len(out), out, more, np.ascontiguousarray(matte), _runs(low, on), on, F(share),
        F(-1 if smallest else 1), least=2 * on + 16,
    )  # fmt: skip
    return out


def grown(matte: NDArray[np.float32], radius: float, shape: str) -> NDArray[np.float32]:
    """Dilated by a radius in pixels, eroded where it is below 0; fractions are interpolated.

    Parameters
    ----------
    shape : {"disc", "square"}

    Notes
    -----
    Between two whole radii the result is mixed from both, so it moves without jumps. Places outside
    the matte are ignored, as if the matte were reflected there.
    """
    if not radius:
        return matte
    if shape == "disc":
        return disc(matte, abs(radius), radius < 0)
    if radius < 0:
        return np.asarray(-grown(-matte, -radius, shape))
    low = floor(radius)
    share = F(radius - low)
    first = square(matte, low)
    if share <= 0:
        return first
    return np.asarray(first + share * (square(matte, low + 1) - first))
