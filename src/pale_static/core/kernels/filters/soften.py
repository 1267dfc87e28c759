"""Filters that separate into rows and columns, run row by row while the rows are in cache."""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..rows import compiled, inner

F = np.float32


@compiled("out2 in2 in1 in1 i")
def _separable(first, last, out, plane, across, down, planes):
    high, long = plane.shape
    tall, wide = len(down) - 1, len(across) - 1
    pad = np.uint64(wide * planes)
    line = np.empty(long + 2 * wide * planes, F)
    for y in range(first, last):
        middle = line[pad : pad + np.uint64(long)]
        same = plane[y]
        for x in range(long):
            middle[x] = down[0] * same[x]
        # Two pairs of rows at a time, so that the sum is read and written half as often.
        k = 1
        while k < tall:
            a, b = plane[max(y - k, 0)], plane[min(y + k, high - 1)]
            c, d = plane[max(y - k - 1, 0)], plane[min(y + k + 1, high - 1)]
            one, two = down[k], down[k + 1]
            for x in range(long):
                middle[x] += one * (a[x] + b[x]) + two * (c[x] + d[x])
            k += 2
        if k == tall:
            a, b = plane[max(y - k, 0)], plane[min(y + k, high - 1)]
            one = down[k]
            for x in range(long):
                middle[x] += one * (a[x] + b[x])
        made = out[y]
        if wide == 0:
            for x in range(long):
                made[x] = middle[x]
            continue
        for x in range(wide * planes):
            line[x] = middle[x % planes]
            line[long + wide * planes + x] = middle[long - planes + x % planes]
        for x in range(long):
            made[x] = across[0] * middle[x]
        k = 1
        while k < wide:
            near, far = np.uint64(k * planes), np.uint64((k + 1) * planes)
            a, b = line[pad - near :], line[pad + near :]
            c, d = line[pad - far :], line[pad + far :]
            one, two = across[k], across[k + 1]
            for x in range(long):
                made[x] += one * (a[x] + b[x]) + two * (c[x] + d[x])
            k += 2
        if k == wide:
            near = np.uint64(k * planes)
            a, b = line[pad - near :], line[pad + near :]
            one = across[k]
            for x in range(long):
                made[x] += one * (a[x] + b[x])


@compiled("out2 in2 i f f i", finite=True)
def _box_across(first, last, out, plane, reach, inner, end, planes):
    long = plane.shape[1]
    wide = long // planes
    line = np.empty(long + 2 * reach * planes, F)
    sums = np.empty(long, F)
    aside = np.uint64(reach * planes)
    for y in range(first, last):
        for n in range(reach):
            for c in range(planes):
                line[n * planes + c] = plane[y, c]
                line[(wide + reach + n) * planes + c] = plane[y, long - planes + c]
        for x in range(long):
            line[aside + np.uint64(x)] = plane[y, x]
        # Summed in 64 bits, so that what is added and subtracted along a long row cancels out
        # exactly enough.
        if planes == 4:
            a = b = c = d = 0.0
            for k in range(1, 2 * reach):
                a += line[4 * k]
                b += line[4 * k + 1]
                c += line[4 * k + 2]
                d += line[4 * k + 3]
            gone, come = np.uint64(4), np.uint64(8 * reach)
            for x in range(wide):
                at = np.uint64(4 * x)
                sums[at], sums[at + np.uint64(1)] = F(a), F(b)
                sums[at + np.uint64(2)], sums[at + np.uint64(3)] = F(c), F(d)
                a += np.float64(line[at + come] - line[at + gone])
                b += np.float64(line[at + come + np.uint64(1)] - line[at + gone + np.uint64(1)])
                c += np.float64(line[at + come + np.uint64(2)] - line[at + gone + np.uint64(2)])
                d += np.float64(line[at + come + np.uint64(3)] - line[at + gone + np.uint64(3)])
        else:
            for c in range(planes):
                a = 0.0
                for k in range(1, 2 * reach):
                    a += line[planes * k + c]
                for x in range(wide):
                    sums[x * planes + c] = F(a)
                    a += np.float64(line[(x + 2 * reach) * planes + c])
                    a -= np.float64(line[(x + 1) * planes + c])
        far = np.uint64(2 * reach * planes)
        for x in range(np.uint64(long)):
            out[y, x] = sums[x] * inner + (line[x] + line[x + far]) * end


@compiled("out2 in2 i f f", finite=True)
def _box_down(first, last, out, plane, reach, inner, end):
    high, long = plane.shape
    total = np.zeros(long, np.float64)
    for k in range(first - reach + 1, first + reach):
        y = min(max(k, 0), high - 1)
        for x in range(long):
            total[x] += plane[y, x]
    for y in range(first, last):
        above, below = max(y - reach, 0), min(y + reach, high - 1)
        gone = max(y - reach + 1, 0)
        for x in range(long):
            before, after = plane[above, x], plane[below, x]
            out[y, x] = F(total[x]) * inner + (before + after) * end
            total[x] += np.float64(after) - np.float64(plane[gone, x])


def boxed(
    plane: NDArray[np.float32], reach: int, weights: tuple[float, float, float], upright: bool
) -> NDArray[np.float32]:
    """A running mean along rows or columns, in a time that does not depend on its width; edges
    held.

    Parameters
    ----------
    reach : int
        Pixels to either side, the two ends included; at least 1.
    weights : (middle, others, ends)
        Of each pixel; the middle and the others are alike unless the reach is 1.
    """
    middle, inner, end = weights
    held = np.ascontiguousarray(plane)
    planes = 1 if held.ndim == 2 else held.shape[2]
    out = np.empty_like(held)
    flat = (len(held), held.shape[1] * planes)
    two, one = out.reshape(flat), held.reshape(flat)
    weight = F(middle if reach == 1 else inner)
    if upright:
        rows.over(_box_down, len(held), two, one, reach, weight, F(end), least=reach + 16)
    else:
        rows.over(_box_across, len(held), two, one, reach, weight, F(end), planes)
    return out


def separable(
    plane: NDArray[np.float32], across: NDArray[np.float32], down: NDArray[np.float32]
) -> NDArray[np.float32]:
    """A symmetric filter along rows and one along columns; the edge pixels are held outside.

    Parameters
    ----------
    plane : (H, W) or (H, W, C) float32
    across, down : (n,) float32
        Half a filter each: the weight of the middle, of both neighbours, and so on.
    """
    held = np.ascontiguousarray(plane)
    planes = 1 if held.ndim == 2 else held.shape[2]
    out = np.empty_like(held)
    flat = (len(held), held.shape[1] * planes)
    rows.over(
        _separable, len(held), out.reshape(flat), held.reshape(flat), across, down, planes, least=4
    )
    return out


SMOOTHING = 1.5
"""Standard deviation of the smoothing before each halving, so that fine detail leaves no false
patterns."""
MARGIN = 4
"""Cells beside the halved picture: more than any that smoothing, or enlarging, reaches."""
_PAIRS = 7


@cache
def _pairs() -> NDArray[np.float32]:
    """Weights of the pixel pairs about a cell's middle: the Gaussian and the mean of each pair."""
    half = np.exp(-0.5 * (np.arange(_PAIRS) / SMOOTHING) ** 2)
    half /= 2 * half.sum() - half[0]
    return ((half + np.append(half[1:], 0)) / 2).astype(F)


@inner(fastmath={"contract", "nnan"})
def _row(plane, none, y, clear):
    """A row of a picture; outside it the nearest row, or zeros."""
    high = plane.shape[0]
    if clear and (y < 0 or y >= high):
        return none
    return plane[min(max(y, 0), high - 1)]


@compiled("out2 in2 in1 in1 i b b b", finite=True)
def _halved(first, last, out, plane, none, pairs, planes, across, down, clear):
    long = plane.shape[1]
    # Pairs reach this many cells to either side.
    reach = _PAIRS // 2 + 1
    pixels, cells = long // planes, out.shape[1] // planes + 2 * reach
    line = np.empty(long, F)
    even, odd = np.empty(cells * planes, F), np.empty(cells * planes, F)
    begin = min(MARGIN + reach, cells)
    end = min(begin + pixels // 2, cells)
    inside = np.uint64(end - begin)
    middle = np.uint64(reach * planes)
    for y in range(first, last):
        if down:
            at = 2 * (y - MARGIN)
            a, b = _row(plane, none, at, clear), _row(plane, none, at + 1, clear)
            w0 = pairs[0]
            for x in range(long):
                line[x] = w0 * (a[x] + b[x])
            for k in range(1, _PAIRS, 2):
                a, b = _row(plane, none, at - k, clear), _row(plane, none, at + 1 + k, clear)
                c, d = _row(plane, none, at - k - 1, clear), _row(plane, none, at + 2 + k, clear)
                w0, w1 = pairs[k], pairs[k + 1]
                for x in range(long):
                    line[x] += w0 * (a[x] + b[x]) + w1 * (c[x] + d[x])
        else:
            same = plane[y]
            for x in range(long):
                line[x] = same[x]
        made = out[y]
        if not across:
            for x in range(long):
                made[x] = line[x]
            continue
        # Even and odd pixels apart, so that the sum below runs along them.
        for j in range(cells):
            if begin <= j < end:
                continue
            s = 2 * (j - MARGIN - reach)
            left, right = (
                min(max(s, 0), pixels - 1) * planes,
                min(max(s + 1, 0), pixels - 1) * planes,
            )
            for k in range(planes):
                even[j * planes + k] = F(0) if clear and left != s * planes else line[left + k]
                odd[j * planes + k] = (
                    F(0) if clear and right != (s + 1) * planes else line[right + k]
                )
        if planes == 4:
            # Four floats in one.
            e4, o4 = even.view(np.complex128)[begin:], odd.view(np.complex128)[begin:]
            l4 = line.view(np.complex128)
            for j in range(inside):
                e4[j] = l4[np.uint64(2) * j]
                o4[j] = l4[np.uint64(2) * j + np.uint64(1)]
        elif planes == 3:
            e3, o3 = even[np.uint64(3 * begin) :], odd[np.uint64(3 * begin) :]
            for j in range(inside):
                s, t = np.uint64(6) * j, np.uint64(3) * j
                for k in range(np.uint64(3)):
                    e3[t + k] = line[s + k]
                    o3[t + k] = line[s + np.uint64(3) + k]
        else:
            e1, o1 = even[begin:], odd[begin:]
            for j in range(inside):
                e1[j] = line[np.uint64(2) * j]
                o1[j] = line[np.uint64(2) * j + np.uint64(1)]
        a, b = even[middle:], odd[middle:]
        w0 = pairs[0]
        for x in range(len(made)):
            made[x] = w0 * (a[x] + b[x])
        for k in range(1, _PAIRS, 2):
            # Pair k is k pixels before the left one of the cell and k after the right one.
            before, after = (
                middle - np.uint64((k + 1) // 2 * planes),
                np.uint64((k + 1) // 2 * planes),
            )
            a, b = odd[before:], even[middle + after :]
            c, d = even[before:], odd[middle + after :]
            w0, w1 = pairs[k], pairs[k + 1]
            for x in range(len(made)):
                made[x] += w0 * (a[x] + b[x]) + w1 * (c[x] + d[x])


def halved(
    plane: NDArray[np.float32], across: bool = True, down: bool = True, clear: bool = False
) -> NDArray[np.float32]:
    """A picture smoothed and halved along one axis or both, with :data:`MARGIN` cells beside it.

    Parameters
    ----------
    plane : (H, W) or (H, W, C) float32, C 3 or 4
    clear : whether nothing lies beyond the borders; otherwise the edge pixels are held

    Returns
    -------
    (⌈H / 2⌉ + 8, ⌈W / 2⌉ + 8) or one axis of it. Cell ``MARGIN + k`` lies between pixels 2k and
    2k + 1.
    """
    held = np.ascontiguousarray(plane)
    high, wide = held.shape[:2]
    planes = 1 if held.ndim == 2 else held.shape[2]
    rows_made = -(-high // 2) + 2 * MARGIN if down else high
    columns = -(-wide // 2) + 2 * MARGIN if across else wide
    out = np.empty((rows_made, columns, *held.shape[2:]), F)
    rows.over(
        _halved, rows_made, out.reshape(rows_made, -1), held.reshape(high, -1),
        np.zeros(wide * planes, F), _pairs(), planes, across, down, clear, least=8,
    )  # fmt: skip
    return out


@compiled("out2 in2 i i i i i", finite=True)
def _enlarged(first, last, out, small, planes, wide, tall, start_x, start_y):
    long, short, top = out.shape[1], small.shape[1], small.shape[0] - 1
    begin = start_x // wide
    count = np.uint64((start_x + long // planes - 1) // wide - begin + 1)
    line = np.empty(short + 2 * planes, F)
    phase = np.empty(count * np.uint64(planes), F)
    made = np.empty(count * np.uint64(planes * wide), F)
    step = np.uint64(wide)
    skipped = np.uint64((start_x - begin * wide) * planes)
    for y in range(first, last):
        i, p = (y + start_y) // tall, (y + start_y) % tall
        a, b = small[min(max(i, 0), top)], small[min(max(i + 1, 0), top)]
        w = (F(p) + F(0.5)) / F(tall) if tall > 1 else F(0)
        for x in range(short):
            line[x] = a[x] + w * (b[x] - a[x])
        row = out[y]
        a = line[np.uint64(begin * planes) :]
        if wide == 1:
            for x in range(long):
                row[x] = a[x]
            continue
        # All pixels at the same place between their cells, then the next.
        b = a[np.uint64(planes) :]
        for p in range(wide):
            w = (F(p) + F(0.5)) / F(wide)
            for x in range(len(phase)):
                phase[x] = a[x] + w * (b[x] - a[x])
            at = np.uint64(p)
            if planes == 4:
                m4, p4 = made.view(np.complex128), phase.view(np.complex128)
                for k in range(count):
                    m4[k * step + at] = p4[k]
            elif planes == 3:
                for k in range(count):
                    s, t = np.uint64(3) * (k * step + at), np.uint64(3) * k
                    for e in range(np.uint64(3)):
                        made[s + e] = phase[t + e]
            else:
                for k in range(count):
                    made[k * step + at] = phase[k]
        b = made[skipped:]
        for x in range(long):
            row[x] = b[x]


def enlarged(
    small: NDArray[np.float32],
    size: tuple[int, int],
    factors: tuple[int, int],
    beside: tuple[float, float],
) -> NDArray[np.float32]:
    """A picture from a smaller one by linear interpolation.

    Parameters
    ----------
    small : (h, w) or (h, w, C) float32, C 3 or 4
    size : height and width in pixels
    factors : pixels a cell, across and down; powers of two
    beside : cells of the smaller one left of the picture and above it, at least 1 where it grows
    """
    held = np.ascontiguousarray(small)
    planes = 1 if held.ndim == 2 else held.shape[2]
    out = np.empty((*size, *held.shape[2:]), F)
    start = [round(cells * f) - f // 2 for cells, f in zip(beside, factors, strict=True)]
    rows.over(
        _enlarged, size[0], out.reshape(size[0], -1), held.reshape(len(held), -1), planes,
        *factors, *start,
    )  # fmt: skip
    return out


@compiled("out2 in2 in2 f f i", finite=True)
def _sharpened(first, last, out, plane, soft, amount, threshold, planes):
    for y in range(first, last):
        if threshold <= F(0):
            for x in range(out.shape[1]):
                out[y, x] = plane[y, x] + amount * (plane[y, x] - soft[y, x])
        else:
            for x in range(out.shape[1]):
                detail = plane[y, x] - soft[y, x]
                size = max(abs(detail) - threshold, F(0))
                out[y, x] = plane[y, x] + amount * (size if detail > F(0) else -size)
        if planes == 4:
            for x in range(out.shape[1] // 4):
                out[y, 4 * x + 3] = plane[y, 4 * x + 3]


def sharpened(
    plane: NDArray[np.float32], soft: NDArray[np.float32], amount: float, threshold: float
) -> NDArray[np.float32]:
    """A plane plus ``amount`` times the detail that softening removed, minus a threshold; alpha
    stays."""
    held = np.ascontiguousarray(plane)
    out = np.empty_like(held)
    planes = 1 if held.ndim == 2 else held.shape[2]
    flat = (len(held), held.shape[1] * planes)
    rows.over(
        _sharpened, len(held), out.reshape(flat), held.reshape(flat),
        np.ascontiguousarray(soft).reshape(flat), F(amount), F(threshold), planes,
    )  # fmt: skip
    return out


@compiled("out2 in2 in2 i", finite=True)
def _opened(first, last, out, padded, runs, planes):
    """``runs``: the beginning and end of the opening on each of its rows, in pixels, and its
    scale."""
    long = out.shape[1]
    tall = len(runs) - 1
    scale = runs[tall, 0]
    line = np.zeros(padded.shape[1] + 2 * planes, F)
    total = np.empty(planes, np.float64)
    for y in range(first, last):
        for x in range(long):
            out[y, x] = F(0)
    for y in range(first, last + tall - 1):
        # The sums of this row up to each pixel; rows of the result below take differences of them.
        for c in range(planes):
            total[c] = 0.0
        for x in range(padded.shape[1] // planes):
            for c in range(planes):
                total[c] += padded[y, x * planes + c]
                line[(x + 1) * planes + c] = F(total[c])
        for k in range(tall):
            at = y - k
            if not first <= at < last or runs[k, 1] <= runs[k, 0]:
                continue
            made = out[at]
            a, b = np.int64(np.floor(runs[k, 0])), np.int64(np.floor(runs[k, 1]))
            fa, fb = runs[k, 0] - F(a), runs[k, 1] - F(b)
            ga, gb = F(1) - fa, F(1) - fb
            one, two = line[np.uint64(a * planes) :], line[np.uint64((a + 1) * planes) :]
            three, four = line[np.uint64(b * planes) :], line[np.uint64((b + 1) * planes) :]
            for x in range(long):
                made[x] += gb * three[x] + fb * four[x] - ga * one[x] - fa * two[x]
    for y in range(first, last):
        for x in range(long):
            out[y, x] *= scale


def opened(plane: NDArray[np.float32], kernel: NDArray[np.float32]) -> NDArray[np.float32]:
    """A plane convolved with a convex opening, row by row from running sums; the border is held.

    Parameters
    ----------
    plane : (H, W) or (H, W, C) float32
    kernel : (2r + 1, 2r + 1) of sum 1, one run on each row. Each row of it is taken as a run of
        even weight with the same sum and middle.
    """
    half = len(kernel) // 2
    turned = kernel[::-1, ::-1].astype(np.float64)
    full = turned.max()
    wide = turned.sum(1) / full
    middle = (turned * (np.arange(2 * half + 1) + 0.5)).sum(1) / np.maximum(turned.sum(1), 1e-30)
    runs = np.zeros((2 * half + 2, 2), F)
    runs[:-1, 0], runs[:-1, 1] = middle - wide / 2, middle + wide / 2
    runs[-1, 0] = full
    planes = 1 if plane.ndim == 2 else plane.shape[2]
    edges = ((half, half), (half, half), *(((0, 0),) if plane.ndim == 3 else ()))
    padded = np.ascontiguousarray(np.pad(plane, edges, "edge"))
    out = np.empty_like(plane, order="C")
    high = len(out)
    rows.over(
        _opened, high, out.reshape(high, -1), padded.reshape(len(padded), -1), runs, planes,
        least=2 * half + 16,
    )  # fmt: skip
    return out
