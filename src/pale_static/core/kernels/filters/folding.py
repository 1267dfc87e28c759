"""Fold places outside a picture back into it, by each border rule.

Kernels know the rules by their places in :data:`RULES`.
"""

from __future__ import annotations

import numpy as np

from ..rows import compiled, inlined

F = np.float32
RULES = ("clear", "clamp", "mirror", "repeat")
"""The area outside a picture: clear, its border pixels, its reflection, or the picture again."""
FAR = 1e6
"""Places further out than this many pixels, and NaN, count as this far out."""


@inlined("f8(f8,f8,i8)")
def folded(at, count, rule):
    """Fold a place along one axis into the picture."""
    at = min(max(at, -FAR), FAR) if at == at else -FAR
    if rule == 2:
        # The reflection turns about the outer edge of the last pixel, half a pixel on.
        turns = np.floor((at + 0.5) / count)
        rest = at + 0.5 - turns * count
        odd = turns - 2.0 * np.floor(turns * 0.5)
        return rest + odd * (count - 2.0 * rest) - 0.5
    if rule == 3:
        return at - count * np.floor(at / count)
    return at


@compiled("out3 in3 f f i")
def fold(first, last, out, places, wide, high, rule):
    """Fold places into the picture."""
    for y in range(first, last):
        for x in range(out.shape[1]):
            out[y, x, 0] = F(folded(places[y, x, 0], wide, rule))
            out[y, x, 1] = F(folded(places[y, x, 1], high, rule))


@compiled("index_out1 in3 f f f f")
def beyond(first, last, out, places, left, right, top, bottom):
    """The number of places of a row that lie outside a box or are NaN."""
    for y in range(first, last):
        count = np.int32(0)
        for x in range(places.shape[1]):
            across, down = places[y, x, 0], places[y, x, 1]
            # Written so that NaN counts as outside.
            near = (left < across) & (across < right) & (top < down) & (down < bottom)
            count += np.int32(0) if near else np.int32(1)
        out[y] = count


@compiled("out3 exact_in2 f f i")
def fold_affine(first, last, out, matrix, wide, high, rule):
    """Places under an affine map, brought inside as by :func:`fold`."""
    for y in range(first, last):
        for x in range(out.shape[1]):
            across = matrix[0, 0] * x + matrix[0, 1] * y + matrix[0, 2]
            down = matrix[1, 0] * x + matrix[1, 1] * y + matrix[1, 2]
            out[y, x, 0] = F(folded(across, wide, rule))
            out[y, x, 1] = F(folded(down, high, rule))


@inlined("i8(i8,i8,i8)")
def folded_pixel(at, count, rule):
    """Fold a pixel's number into the picture; below 0 if the rule shows nothing there."""
    if 0 <= at < count:
        return at
    if rule == 0:
        return -1
    if rule == 1:
        return 0 if at < 0 else count - 1
    if rule == 3:
        return at - count * (at // count)
    at -= 2 * count * (at // (2 * count))
    return at if at < count else 2 * count - 1 - at
