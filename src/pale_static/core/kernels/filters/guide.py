"""The bilateral grid: a picture's sums for each grey of a guide, read back by the guide."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..rows import compiled

F = np.float32
_ONE, _ZERO = F(1), F(0)


FINE = 4096
"""Greys of the guide for which weights are tabulated; the error of a weight is at most a
thousandth."""


@compiled("out3 in3 in2 in2 i", finite=True)
def _weighed(first, last, out, picture, guide, shares, lanes):
    greys = out.shape[2] // lanes
    planes = picture.shape[2]
    for y in range(first, last):
        for x in range(out.shape[1]):
            grey = np.int64(min(max(guide[y, x], _ZERO), _ONE) * F(FINE) + F(0.5))
            for k in range(greys):
                share = shares[grey, k]
                for p in range(planes):
                    out[y, x, k * lanes + p] = picture[y, x, p] * share
                out[y, x, k * lanes + planes] = share
                for p in range(planes + 1, lanes):
                    out[y, x, k * lanes + p] = _ZERO


def weighed(
    picture: NDArray[np.float32], guide: NDArray[np.float32], greys: int, spread: float
) -> NDArray[np.float32]:
    """A picture (h, w, C) weighted by how near the guide is to each of ``greys`` greys from 0 to 1.

    Returns
    -------
    (h, w, greys · lanes): for each grey the C planes, their weight, and zeros up to the lanes,
    which are four or eight.
    """
    lanes = 4 if picture.shape[2] <= 3 else 8
    out = np.empty((*guide.shape, greys * lanes), F)
    planes = (np.ascontiguousarray(picture), np.ascontiguousarray(guide))
    far = (np.arange(FINE + 1)[:, None] / FINE - np.arange(greys) / (greys - 1)) / spread
    shares = np.exp(-0.5 * far * far).astype(F)
    rows.over(_weighed, len(out), out, *planes, shares, lanes, least=4)
    return out


@compiled("out3 in2 in2 index_in1 in1 i i i", finite=True)
def _read(first, last, out, sums, guide, columns, parts, greys, lanes, planes):
    tall, broad = guide.shape
    high, long = len(sums), greys * lanes
    wide = sums.shape[1] // long
    flat = np.empty((wide + 1) * long, F)
    for y in range(first, last):
        fy = min(max((y + F(0.5)) * high / tall - F(0.5), _ZERO), F(high - 1))
        y0 = min(np.int64(fy), max(high - 2, 0))
        v = F(fy - y0)
        above, below = sums[y0], sums[min(y0 + 1, high - 1)]
        for n in range(wide * long):
            flat[n] = above[n] + v * (below[n] - above[n])
        for n in range(long):
            flat[wide * long + n] = flat[(wide - 1) * long + n]
        for x in range(broad):
            u = parts[x]
            g = min(max(guide[y, x], _ZERO), _ONE) * F(greys - 1)
            k = min(np.int32(g), np.int32(greys - 2))
            w = g - F(k)
            # The four corners: left and right, this grey and the next.
            a = np.uint64(np.int64(columns[x]) * long + k * lanes)
            b, c = a + np.uint64(long), a + np.uint64(lanes)
            d = b + np.uint64(lanes)
            wd = u * w
            wb, wc = u - wd, w - wd
            wa = _ONE - u - wc
            m = np.uint64(planes)
            total = wa * flat[a + m] + wb * flat[b + m] + wc * flat[c + m] + wd * flat[d + m]
            share = _ONE / max(total, F(1e-9))
            wa, wb, wc, wd = wa * share, wb * share, wc * share, wd * share
            for p in range(m):
                out[y, x, p] = (
                    wa * flat[a + p] + wb * flat[b + p] + wc * flat[c + p] + wd * flat[d + p]
                )


@compiled("out3 in2 in2 index_in1 in1 i", finite=True)
def _read_opaque(first, last, out, sums, guide, columns, parts, greys):
    # As above for three colours and their weight, which is four floats side by side.
    tall, broad = guide.shape
    high, long = len(sums), 4 * greys
    wide = sums.shape[1] // long
    line = np.empty((wide + 1) * long, F)
    corners, between = np.empty(broad, np.int32), np.empty(broad, F)
    values = np.empty(4 * broad, F)
    for y in range(first, last):
        fy = min(max((y + F(0.5)) * high / tall - F(0.5), _ZERO), F(high - 1))
        y0 = min(np.int64(fy), max(high - 2, 0))
        v = F(fy - y0)
        above, below = sums[y0], sums[min(y0 + 1, high - 1)]
        for n in range(wide * long):
            line[n] = above[n] + v * (below[n] - above[n])
        for n in range(long):
            line[wide * long + n] = line[(wide - 1) * long + n]
        for x in range(broad):
            g = min(max(guide[y, x], _ZERO), _ONE) * F(greys - 1)
            k = min(np.int32(g), np.int32(greys - 2))
            between[x] = g - F(k)
            corners[x] = columns[x] * np.int32(long) + k * np.int32(4)
        for x in range(broad):
            u, w = parts[x], between[x]
            a = np.uint64(np.uint32(corners[x]))
            b, c = a + np.uint64(long), a + np.uint64(4)
            d, to = b + np.uint64(4), np.uint64(4 * x)
            wd = u * w
            wb, wc = u - wd, w - wd
            wa = _ONE - u - wc
            i, j, k = np.uint64(1), np.uint64(2), np.uint64(3)
            r0 = wa * line[a] + wb * line[b] + wc * line[c] + wd * line[d]
            r1 = wa * line[a + i] + wb * line[b + i] + wc * line[c + i] + wd * line[d + i]
            r2 = wa * line[a + j] + wb * line[b + j] + wc * line[c + j] + wd * line[d + j]
            r3 = wa * line[a + k] + wb * line[b + k] + wc * line[c + k] + wd * line[d + k]
            values[to] = r0
            values[to + i] = r1
            values[to + j] = r2
            values[to + k] = r3
        for x in range(broad):
            share = _ONE / max(values[4 * x + 3], F(1e-9))
            out[y, x, 0] = values[4 * x] * share
            out[y, x, 1] = values[4 * x + 1] * share
            out[y, x, 2] = values[4 * x + 2] * share
            out[y, x, 3] = _ONE


def read(
    sums: NDArray[np.float32], guide: NDArray[np.float32], planes: int, greys: int
) -> NDArray[np.float32]:
    """Interpolate the result of :func:`weighed`, after softening, between its pixels and greys, and
    divide by its weight.

    Returns
    -------
    (H, W, planes) of the guide's size; three planes get a fourth that is 1.
    """
    wide, long = sums.shape[1:]
    out = np.empty((*guide.shape, 4 if planes == 3 else planes), F)
    broad = guide.shape[1]
    place = np.clip((np.arange(broad) + 0.5) * wide / broad - 0.5, 0, wide - 1)
    columns = np.minimum(place.astype(np.int32), max(wide - 2, 0))
    parts = (place - columns).astype(F)
    flat = np.ascontiguousarray(sums).reshape(len(sums), -1)
    held = (flat, np.ascontiguousarray(guide))
    if planes == 3:
        rows.over(_read_opaque, len(out), out, *held, columns, parts, greys, least=4)
        return out
    rows.over(_read, len(out), out, *held, columns, parts, greys, long // greys, planes, least=4)
    return out
