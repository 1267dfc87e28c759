"""Signed distances to shapes, negative inside; and regular patterns, each pixel averaged."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..rows import compiled, inlined, inner

F = np.float32
_ONE, _ZERO = F(1), F(0)
SHAPES = ("rounded box", "ellipse", "polygon", "star", "ring", "line", "cross")
OUTLINED = ("polygon", "star", "cross")
"""Shapes with straight edges."""


@inner("f8(f8,f8,f8,f8)", error_model="numpy")
def _ellipse(x, y, a, b):
    """Distance to an ellipse.

    The nearest point is (r·x/(s + r), y/(s + 1)), r = (a/b)², at the one root s > −1 of a convex
    function, which Newton's method reaches from the left without overshooting.
    """
    x, y = abs(x), abs(y)
    if a < b:
        x, y, a, b = y, x, b, a
    if a - b < 1e-9 * a:
        return np.sqrt(x * x + y * y) - a
    p, q = x / a, max(y / b, 1e-12)
    inside = p * p + q * q < 1
    r = (a / b) ** 2
    s = q - 1
    for _ in range(60):
        one, two = r * p / (s + r), q / (s + 1)
        g = one * one + two * two - 1
        slope = -2 * (one * one / (s + r) + two * two / (s + 1))
        step = g / slope
        s -= step
        if abs(step) < 1e-11 * (1 + abs(s)):
            break
    dx, dy = x - r * x / (s + r), y - b * q / (s + 1)
    far = np.sqrt(dx * dx + dy * dy)
    return -far if inside else far


@inner("f8(f8,f8,f8,f8)")
def _box(x, y, a, b):
    dx, dy = abs(x) - a, abs(y) - b
    ox, oy = max(dx, 0.0), max(dy, 0.0)
    return np.sqrt(ox * ox + oy * oy) + min(max(dx, dy), 0.0)


@compiled("out2 exact_in1 exact_in2", finite=True)
def _outlined(first, last, out, n, points):
    """Distance to a closed outline of straight pieces, by even-odd winding; piece by piece, so that
    the pixels of a row are computed side by side."""
    cx, cy, c, s, corner = n[0], n[1], n[2], n[3], n[6]
    wide, count = out.shape[1], len(points)
    us, vs, near, sign = np.empty(wide), np.empty(wide), np.empty(wide), np.empty(wide)
    for y in range(first, last):
        dy = y + 0.5 - cy
        for x in range(wide):
            dx = np.float64(np.int32(x)) + 0.5 - cx
            us[x] = dx * c + dy * s
            vs[x] = dy * c - dx * s
            near[x] = 1e30
            sign[x] = 1.0
        j = count - 1
        for i in range(count):
            ax, ay, bx, by = points[j, 0], points[j, 1], points[i, 0], points[i, 1]
            ex, ey = bx - ax, by - ay
            size = ex * ex + ey * ey
            inverse = 1 / size if size > 0 else 0.0
            slope = ex / ey if ey != 0 else 0.0
            for x in range(wide):
                px, py = us[x] - ax, vs[x] - ay
                t = min(max((px * ex + py * ey) * inverse, 0.0), 1.0)
                qx, qy = px - t * ex, py - t * ey
                near[x] = min(near[x], qx * qx + qy * qy)
                crossed = ((ay > vs[x]) != (by > vs[x])) & (px < py * slope)
                sign[x] = -sign[x] if crossed else sign[x]
            j = i
        for x in range(wide):
            out[y, x] = F(np.sqrt(near[x]) * sign[x] - corner)


@compiled("out2 i exact_in1")
def _distance(first, last, out, shape, n):
    cx, cy, c, s, a, b, corner = n[0], n[1], n[2], n[3], n[4], n[5], n[6]
    for y in range(first, last):
        if shape == 0:
            r = min(corner, min(a, b))
            dy = y + 0.5 - cy
            for x in range(out.shape[1]):
                dx = x + 0.5 - cx
                out[y, x] = _box(dx * c + dy * s, dy * c - dx * s, a - r, b - r) - r
            continue
        for x in range(out.shape[1]):
            dx, dy = x + 0.5 - cx, y + 0.5 - cy
            u, v = dx * c + dy * s, dy * c - dx * s
            if shape == 1:
                d = _ellipse(u, v, a, b)
            elif shape == 4:
                d = abs(_ellipse(u, v, a, b)) - corner
            else:
                u = max(abs(u) - a, 0.0)
                d = np.sqrt(u * u + v * v) - b
            out[y, x] = d


def distance(
    height: int,
    width: int,
    shape: str,
    centre: tuple[float, float],
    turn: tuple[float, float],
    size: tuple[float, float],
    corner: float,
    points: NDArray[np.float64],
) -> NDArray[np.float32]:
    """Signed distance in pixels at every pixel centre, negative inside; (H, W).

    Parameters
    ----------
    turn : (cos, sin)
    size : half width and half height in pixels
    corner : radius of rounded corners; half the thickness of a ring
    points : (N, 2), for shapes with an outline of straight pieces
    """
    out = np.empty((height, width), F)
    numbers = np.array([*centre, *turn, *size, corner], np.float64)
    if shape in OUTLINED:
        rows.over(
            _outlined, height, out, numbers, np.ascontiguousarray(points, np.float64), least=4
        )
    else:
        rows.over(_distance, height, out, SHAPES.index(shape), numbers, least=4)
    return out


@compiled("out2 f f", finite=True)
def _edged(first, last, out, width, over):
    for y in range(first, last):
        if width < _ZERO:
            for x in range(out.shape[1]):
                out[y, x] = min(max(F(0.5) - out[y, x] / over, _ZERO), _ONE)
        else:
            for x in range(out.shape[1]):
                out[y, x] = min(max(F(0.5) - (abs(out[y, x]) - width) / over, _ZERO), _ONE)


def edged(
    distances: NDArray[np.float32], over: float, outline: float = -1.0
) -> NDArray[np.float32]:
    """clamp(0.5 − d / over) of signed distances, in place; (H, W).

    Parameters
    ----------
    outline : half the width of an outline in pixels, whose distance is |d| less that; the whole
        shape below 0
    """
    rows.over(_edged, len(distances), distances, F(outline), F(over))
    return distances


@inlined("f8(f8,f8)")
def _bars(at, duty):
    """The integral of bars: 1 over the first ``duty`` of every unit."""
    whole = np.floor(at)
    return whole * duty + min(at - whole, duty)


@compiled("out2 i exact_in1")
def _pattern(first, last, out, kind, n):
    ox, oy, c, s, unit, duty, soft = n[0], n[1], n[2], n[3], n[4], n[5], n[6]
    # The width over which an edge is averaged: a pixel, or the softness if that is more.
    half = 0.5 * max(unit, soft)
    radius = np.sqrt(duty / np.pi)
    for y in range(first, last):
        for x in range(out.shape[1]):
            dx, dy = x + 0.5 - ox, y + 0.5 - oy
            u, v = (dx * c + dy * s) * unit, (dy * c - dx * s) * unit
            if kind == 2:
                fu, fv = u - np.floor(u + 0.5), v - np.floor(v + 0.5)
                d = radius - np.sqrt(fu * fu + fv * fv)
                # Discs wider than half a cell overlap. The nearest centre decides, so that no disc
                # counts twice.
                out[y, x] = min(max(d / (2 * half) + 0.5, 0.0), 1.0)
                continue
            one = (_bars(u + half, duty) - _bars(u - half, duty)) / (2 * half)
            if kind == 0:
                out[y, x] = one
                continue
            two = (_bars(v + half, duty) - _bars(v - half, duty)) / (2 * half)
            out[y, x] = one + two - 2 * one * two


PATTERNS = ("stripes", "checks", "dots")


def pattern(
    height: int,
    width: int,
    kind: str,
    origin: tuple[float, float],
    turn: tuple[float, float],
    size: float,
    duty: float,
    softness: float,
) -> NDArray[np.float32]:
    """Bars, bars crossed with bars, or discs; ``size`` is their distance in pixels."""
    out = np.empty((height, width), F)
    numbers = np.array([*origin, *turn, 1 / size, duty, softness], np.float64)
    rows.over(_pattern, height, out, PATTERNS.index(kind), numbers, least=4)
    return out


@inner("void(f4[:,:,::1],i8,i8,f4,f4)", error_model="numpy")
def _laid(out, y, x, grey, weight):
    for c in range(3):
        out[y, x, c] += weight * (grey - out[y, x, c])
    out[y, x, 3] += weight * (_ONE - out[y, x, 3])


@compiled("out3 exact_out3 exact_in2 exact_in2")
def _rectangles(first, last, out, halves, table, packed):
    # ``halves`` is the same memory two floats at a time, and ``packed`` a grey's pixel so: a run
    # of whole pixels is written in half as many stores.
    wide = out.shape[1]
    for y in range(first, last):
        for x in range(wide):
            halves[y, x, 0] = 0.0
            halves[y, x, 1] = 0.0
        for k in range(len(table)):
            x0, y0, x1, y1 = table[k, 0], table[k, 1], table[k, 2], table[k, 3]
            tall = min(y + 1.0, y1) - max(float(y), y0)
            if tall <= 0:
                continue
            grey = F(table[k, 4])
            begin, end = max(0, int(np.floor(x0))), min(wide, int(np.ceil(x1)))
            whole, rest = max(0, int(np.ceil(x0))), min(wide, int(np.floor(x1)))
            for x in range(begin, min(whole, end)):
                _laid(out, y, x, grey, F((min(x + 1.0, x1) - max(float(x), x0)) * tall))
            if tall >= 1:
                # Whole pixels are simply written over.
                start, one, two = np.uint64(whole), packed[k, 0], packed[k, 1]
                for n in range(np.uint64(max(rest - whole, 0))):
                    halves[y, start + n, 0] = one
                    halves[y, start + n, 1] = two
            else:
                start, weight = np.uint64(whole), F(tall)
                for n in range(np.uint64(max(rest - whole, 0))):
                    x = start + n
                    out[y, x, 0] += weight * (grey - out[y, x, 0])
                    out[y, x, 1] += weight * (grey - out[y, x, 1])
                    out[y, x, 2] += weight * (grey - out[y, x, 2])
                    out[y, x, 3] += weight * (_ONE - out[y, x, 3])
            for x in range(max(rest, whole), end):
                _laid(out, y, x, grey, F((min(x + 1.0, x1) - max(float(x), x0)) * tall))


def rectangles(height: int, width: int, table: NDArray[np.float64]) -> NDArray[np.float32]:
    """Opaque grey rectangles, later over earlier, edges averaged; (H, W, 4).

    Parameters
    ----------
    table : (N, 5)
        Left, top, right, bottom in pixels, and the grey.
    """
    out = np.empty((height, width, 4), F)
    pixels = np.ones((len(table), 4), F)
    pixels[:, :3] = table[:, 4:]
    halves, packed = out.view(np.float64), pixels.view(np.float64)
    rows.over(_rectangles, height, out, halves, np.ascontiguousarray(table), packed, least=4)
    return out
