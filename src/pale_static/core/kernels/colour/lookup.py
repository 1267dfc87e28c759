"""Colours by a table: curves of each channel, and cubes by tetrahedra."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..rows import compiled
from .alpha import THIN

F = np.float32
_ONE, _ZERO = F(1), F(0)


@compiled("out3 in3 in2 in1 in1 i", finite=True)
def _looked_up(first, last, out, picture, table, low, scale, side):
    """``table``: (side, 3) curves; or (side³, 3) corners where ``side`` is given below 0."""
    cube = side < 0
    count = -side if cube else side
    most = F(count - 1)
    for y in range(first, last):
        for x in range(out.shape[1]):
            alpha = picture[y, x, 3]
            over = _ONE / alpha if alpha > THIN else _ZERO
            r = min(max((picture[y, x, 0] * over - low[0]) * scale[0], _ZERO), most)
            g = min(max((picture[y, x, 1] * over - low[1]) * scale[1], _ZERO), most)
            b = min(max((picture[y, x, 2] * over - low[2]) * scale[2], _ZERO), most)
            i = np.int64(min(r, most - _ONE))
            j = np.int64(min(g, most - _ONE))
            k = np.int64(min(b, most - _ONE))
            u, v, w = r - F(i), g - F(j), b - F(k)
            if not cube:
                out[y, x, 0] = (table[i, 0] + u * (table[i + 1, 0] - table[i, 0])) * alpha
                out[y, x, 1] = (table[j, 1] + v * (table[j + 1, 1] - table[j, 1])) * alpha
                out[y, x, 2] = (table[k, 2] + w * (table[k + 1, 2] - table[k, 2])) * alpha
                out[y, x, 3] = alpha
                continue
            square = count * count
            at = i * square + j * count + k
            # From the near corner to the far one along the three axes, largest share first.
            if u >= v:
                if v >= w:
                    one, two, p, q, s = at + square, at + square + count, u, v, w
                elif u >= w:
                    one, two, p, q, s = at + square, at + square + 1, u, w, v
                else:
                    one, two, p, q, s = at + 1, at + square + 1, w, u, v
            elif u >= w:
                one, two, p, q, s = at + count, at + square + count, v, u, w
            elif v >= w:
                one, two, p, q, s = at + count, at + count + 1, v, w, u
            else:
                one, two, p, q, s = at + 1, at + count + 1, w, v, u
            far = at + square + count + 1
            for c in range(3):
                made = (_ONE - p) * table[at, c] + (p - q) * table[one, c]
                made += (q - s) * table[two, c] + s * table[far, c]
                out[y, x, c] = made * alpha
            out[y, x, 3] = alpha


def looked_up(
    picture: NDArray[np.float32],
    table: NDArray[np.float32],
    low: tuple[float, float, float],
    high: tuple[float, float, float],
) -> NDArray[np.float32]:
    """A picture by a table (N, 3) or (N, N, N, 3), red changing slowest, over low to high.

    References
    ----------
    Tetrahedral interpolation: Sakamoto & Itooka, US patent 4,275,413 (1981), expired.
    """
    side = len(table)
    start = np.array(low, F)
    span = np.array(high, np.float64) - np.array(low, np.float64)
    scale = ((side - 1) / span).astype(F)
    flat = np.ascontiguousarray(table.reshape(-1, 3), F)
    out = np.empty_like(picture, order="C")
    rows.over(
        _looked_up, len(out), out, np.ascontiguousarray(picture), flat, start, scale,
        -side if table.ndim == 4 else side,
    )  # fmt: skip
    return out
