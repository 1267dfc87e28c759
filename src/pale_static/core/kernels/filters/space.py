"""The place that each pixel of a bent picture reads: maps of places, in pixels."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..rows import compiled, inlined, inner

F = np.float32
_TURN = 2 * np.pi
_WAVE = 4095
"""Places of one turn of a ripple, less one."""


@inner("void(f4[:,:,::1],i8,f4[:,::1])")
def _lay(out, y, line):
    """A row of places from x and y computed separately, because such loops vectorise."""
    for x in range(out.shape[1]):
        out[y, x, 0] = line[0, x]
        out[y, x, 1] = line[1, x]


@compiled("out3 exact_in1", finite=True)
def _lens(first, last, out, n):
    cx, cy, unit, k1, k2, zoom = n[0], n[1], n[2], n[3], n[4], n[5]
    line = np.empty((2, out.shape[1]), F)
    for y in range(first, last):
        for x in range(out.shape[1]):
            dx, dy = (x - cx) * zoom, (y - cy) * zoom
            q = (dx * dx + dy * dy) * unit * unit
            f = 1 + q * (k1 + q * k2)
            line[0, x] = F(cx + dx * f)
            line[1, x] = F(cy + dy * f)
        _lay(out, y, line)


@compiled("out3 exact_in1 in1", finite=True)
def _ripple(first, last, out, n, wave):
    # ``wave`` holds the push over one turn, so that no pixel computes a sine.
    cx, cy, turns, phase = F(n[0]), F(n[1]), F(1 / n[2]), F(n[3])
    steps = len(wave) - 1
    line = np.empty((2, out.shape[1]), F)
    for y in range(first, last):
        dy = F(y) - cy
        for x in range(out.shape[1]):
            dx = F(np.int32(x)) - cx
            r = np.sqrt(dx * dx + dy * dy)
            t = r * turns - phase
            t = (t - np.floor(t)) * F(steps)
            k = min(np.int64(t), steps - 1) & _WAVE
            push = wave[k] + (t - F(k)) * (wave[k + 1] - wave[k])
            f = push / max(r, F(1e-6))
            line[0, x] = F(np.int32(x)) + dx * f
            line[1, x] = F(y) + dy * f
        _lay(out, y, line)


@compiled("out3 exact_in1")
def _twirl(first, last, out, n):
    cx, cy, reach, turn = n[0], n[1], n[2], n[3]
    for y in range(first, last):
        for x in range(out.shape[1]):
            dx, dy = x - cx, y - cy
            left = 1 - np.sqrt(dx * dx + dy * dy) / reach
            if left <= 0:
                out[y, x, 0] = F(x)
                out[y, x, 1] = F(y)
                continue
            angle = -turn * left * left
            c, s = np.cos(angle), np.sin(angle)
            out[y, x, 0] = F(cx + c * dx - s * dy)
            out[y, x, 1] = F(cy + s * dx + c * dy)


@inlined("f4(f4,f4)", finite=True)
def _turns(y, x):
    """atan2(y, x) in turns from 0 to 1, within 1e-7; without branches, so that loops vectorise.

    The arc tangent of the smaller over the larger is a polynomial in its square (fitted at the
    nodes of Chebyshev), brought to its octant by reflections.
    """
    ax, ay = abs(x), abs(y)
    t = min(ax, ay) / max(max(ax, ay), F(1e-20))
    q = t * t
    p = F(0.00384616852) - q * F(0.00074305835)
    p = F(0.0157660429) + q * (F(-0.00944856755) + q * p)
    p = F(0.0317820252) + q * (F(-0.0223080879) + q * p)
    p = t * (F(0.159154927) + q * (F(-0.0530494615) + q * p))
    p = F(0.25) - p if ay > ax else p
    p = F(0.5) - p if x < F(0) else p
    return F(1) - p if y < F(0) else p


@compiled("out3 exact_in1 exact_in2", finite=True)
def _polar(first, last, out, n, columns):
    # 0: the picture's x becomes the angle and its y the radius; 1: the other way.
    wide, high, way, turn = n[0], n[1], n[2], F(n[3])
    cx, cy, most = 0.5 * wide, 0.5 * high, 0.5 * np.sqrt(wide * wide + high * high)
    across, down = F(wide), F(high / most)
    line = np.empty((2, out.shape[1]), F)
    for y in range(first, last):
        if way < 0.5:
            dy = F(y + 0.5 - cy)
            for x in range(out.shape[1]):
                dx = F(np.int32(x)) + F(0.5 - cx)
                share = _turns(dy, dx) - turn
                share -= np.floor(share)
                line[0, x] = share * across - F(0.5)
                line[1, x] = np.sqrt(dx * dx + dy * dy) * down - F(0.5)
        else:
            r = (y + 0.5) / high * most
            for x in range(out.shape[1]):
                line[0, x] = F(cx + r * columns[0, x] - 0.5)
                line[1, x] = F(cy + r * columns[1, x] - 0.5)
        _lay(out, y, line)


@compiled("out3 in2 in2 exact_in1")
def _displaced(first, last, out, one, two, n):
    mode, ax, ay, zero = n[0], F(n[1]), F(n[2]), F(n[3])
    cx, cy, unit = F(n[4]), F(n[5]), F(n[6])
    high, wide = one.shape
    half, whole = F(0.5) * unit, F(1)
    line = np.empty((2, out.shape[1]), F)
    for y in range(first, last):
        if mode < 0.5:
            for x in range(wide):
                line[0, x] = F(np.int32(x)) + (one[y, x] - zero) * ax
                line[1, x] = F(y) + (two[y, x] - zero) * ay
        elif mode < 1.5:
            dy = F(y) - cy
            for x in range(wide):
                dx = F(np.int32(x)) - cx
                f = (one[y, x] - zero) / max(np.sqrt(dx * dx + dy * dy), F(1e-6))
                line[0, x] = F(np.int32(x)) + dx * f * ax
                line[1, x] = F(y) + dy * f * ay
        else:
            up, down = max(y - 1, 0), min(y + 1, high - 1)
            fall = unit / F(max(down - up, 1))
            for x in range(wide):
                line[1, x] = (one[down, x] - one[up, x]) * fall
            line[0, 0] = (one[y, min(1, wide - 1)] - one[y, 0]) * unit
            line[0, wide - 1] = (one[y, wide - 1] - one[y, max(wide - 2, 0)]) * unit
            for n in range(np.uint64(max(wide - 2, 0))):
                x = n + np.uint64(1)
                line[0, x] = (one[y, x + np.uint64(1)] - one[y, n]) * half
            for x in range(wide):
                gx, gy = line[0, x], line[1, x]
                f = whole / max(whole, np.sqrt(gx * gx + gy * gy))
                line[0, x] = F(np.int32(x)) + gx * f * ax
                line[1, x] = F(y) + gy * f * ay
        _lay(out, y, line)


@inlined("UniTuple(f8,3)(f8,f8,f8,f8,f8,f8,f8,f8,f8,f8)")
def _side(u, v, p0, p1, p2, p3, p4, p5, p6, p7):
    """One coordinate of a Coons patch with edges through three points each, and its slopes.

    Points from the top left clockwise; edges are the quadratics through them (Lagrange).
    """
    lu0, lu1, lu2 = (1 - u) * (1 - 2 * u), 4 * u * (1 - u), u * (2 * u - 1)
    lv0, lv1, lv2 = (1 - v) * (1 - 2 * v), 4 * v * (1 - v), v * (2 * v - 1)
    du0, du1, du2 = 4 * u - 3, 4 - 8 * u, 4 * u - 1
    dv0, dv1, dv2 = 4 * v - 3, 4 - 8 * v, 4 * v - 1
    top = lu0 * p0 + lu1 * p1 + lu2 * p2
    bottom = lu0 * p6 + lu1 * p5 + lu2 * p4
    left = lv0 * p0 + lv1 * p7 + lv2 * p6
    right = lv0 * p2 + lv1 * p3 + lv2 * p4
    upper = (1 - u) * p0 + u * p2
    lower = (1 - u) * p6 + u * p4
    place = (1 - v) * (top - upper) + v * (bottom - lower) + (1 - u) * left + u * right
    along = (1 - v) * (du0 * p0 + du1 * p1 + du2 * p2) + v * (du0 * p6 + du1 * p5 + du2 * p4)
    along += right - left - (1 - v) * (p2 - p0) - v * (p4 - p6)
    down = bottom - top - (lower - upper)
    down += (1 - u) * (dv0 * p0 + dv1 * p7 + dv2 * p6) + u * (dv0 * p2 + dv1 * p3 + dv2 * p4)
    return place, along, down


@inner(
    "UniTuple(f8,3)(f8,f8,f8,f8,Array(f8,2,'C',readonly=True))",
    error_model="numpy",
)  # fmt: skip
def _inverse(tx, ty, u, v, p):
    """The position of a place in a Coons patch, by Newton's method from a guess, and whether it
    lies inside."""
    for attempt in range(2):
        if attempt or not -0.5 < u < 1.5 or not -0.5 < v < 1.5:
            u, v = tx, ty
        for _ in range(24):
            sx, ux, vx = _side(
                u, v, p[0, 0], p[1, 0], p[2, 0], p[3, 0], p[4, 0], p[5, 0], p[6, 0], p[7, 0]
            )
            sy, uy, vy = _side(
                u, v, p[0, 1], p[1, 1], p[2, 1], p[3, 1], p[4, 1], p[5, 1], p[6, 1], p[7, 1]
            )
            ex, ey = sx - tx, sy - ty
            if abs(ex) + abs(ey) < 1e-7:
                return u, v, 1.0
            det = ux * vy - uy * vx
            if abs(det) < 1e-9:
                break
            du, dv = (ex * vy - ey * vx) / det, (ux * ey - uy * ex) / det
            u -= min(max(du, -0.5), 0.5)
            v -= min(max(dv, -0.5), 0.5)
    return 2.0, 2.0, 0.0


_CELL = 16
"""Pixels between the computed places of a patch; the places between them are interpolated."""


@compiled("out3 exact_in2 i i")
def _knots(first, last, out, p, wide, high):
    for j in range(first, last):
        u = v = 0.5
        for i in range(out.shape[1]):
            tx, ty = (i * _CELL + 0.5) / wide, (j * _CELL + 0.5) / high
            u, v, found = _inverse(tx, ty, u, v, p)
            out[j, i, 0] = F(u)
            out[j, i, 1] = F(v)
            out[j, i, 2] = F(found)


@compiled("out3 in3 exact_in2")
def _pulled(first, last, out, knots, p):
    high, wide = out.shape[0], out.shape[1]
    along, across = knots.shape[0], knots.shape[1]
    for y in range(first, last):
        j = y // _CELL
        t = F(y - j * _CELL) / F(_CELL)
        for i in range((wide + _CELL - 1) // _CELL):
            # A cell is interpolated if its corners lie on one sheet, that is, closer together than
            # across a fold.
            whole = (
                knots[j, i, 2] + knots[j, i + 1, 2] + knots[j + 1, i, 2] + knots[j + 1, i + 1, 2]
            ) > F(3.5)
            for c in range(2):
                a, b = knots[j, i, c], knots[j, i + 1, c]
                d, e = knots[j + 1, i, c], knots[j + 1, i + 1, c]
                # Eight times the error in the middle of a bent cell, in pixels; at the border the
                # bend is taken one knot further in.
                bend = abs(a - b - d + e)
                if across > 2 and along > 2:
                    k, m = min(max(i, 1), across - 2), min(max(j, 1), along - 2)
                    two = F(2)
                    over = knots[j, k - 1, c] - two * knots[j, k, c] + knots[j, k + 1, c]
                    down = knots[m - 1, i, c] - two * knots[m, i, c] + knots[m + 1, i, c]
                    bend = max(bend, max(abs(over), abs(down)))
                    whole = whole and bend * F(wide if c == 0 else high) < F(0.4)
                else:
                    whole = False
            start = np.uint64(i * _CELL)
            count = np.uint64(min(_CELL, wide - i * _CELL))
            if whole:
                left_x = knots[j, i, 0] + t * (knots[j + 1, i, 0] - knots[j, i, 0])
                right_x = knots[j, i + 1, 0] + t * (knots[j + 1, i + 1, 0] - knots[j, i + 1, 0])
                left_y = knots[j, i, 1] + t * (knots[j + 1, i, 1] - knots[j, i, 1])
                right_y = knots[j, i + 1, 1] + t * (knots[j + 1, i + 1, 1] - knots[j, i + 1, 1])
                step_x = (right_x - left_x) * F(wide / _CELL)
                step_y = (right_y - left_y) * F(high / _CELL)
                left_x, left_y = left_x * F(wide) - F(0.5), left_y * F(high) - F(0.5)
                for n in range(count):
                    s = F(np.int32(n))
                    out[y, start + n, 0] = left_x + s * step_x
                    out[y, start + n, 1] = left_y + s * step_y
                continue
            u, v = 0.5, 0.5
            for n in range(count):
                x = start + n
                u, v, found = _inverse((x + 0.5) / wide, (y + 0.5) / high, u, v, p)
                if found > 0.5:
                    out[y, x, 0] = F(u * wide - 0.5)
                    out[y, x, 1] = F(v * high - 0.5)
                else:
                    out[y, x, 0] = out[y, x, 1] = F(-1e6)


def _map(run: object, height: int, width: int, *arguments: object) -> NDArray[np.float32]:
    out = np.empty((height, width, 2), F)
    rows.over(run, height, out, *arguments, least=4)  # type: ignore[arg-type]
    return out


def lens(height: int, width: int, *numbers: float) -> NDArray[np.float32]:
    """Centre x, y; 1 / length of r = 1; k1; k2; zoom."""
    return _map(_lens, height, width, np.array(numbers))


def ripple(height: int, width: int, *numbers: float) -> NDArray[np.float32]:
    """Centre x, y; amount; wavelength; phase in turns."""
    cx, cy, amount, wave, phase = numbers
    push = amount * np.sin(np.linspace(0, _TURN, _WAVE + 2))
    return _map(_ripple, height, width, np.array([cx, cy, wave, phase % 1]), push.astype(F))


def twirl(height: int, width: int, *numbers: float) -> NDArray[np.float32]:
    """Centre x, y; reach; turn at the centre in radians."""
    return _map(_twirl, height, width, np.array(numbers))


def polar(height: int, width: int, back: bool, turn: float) -> NDArray[np.float32]:
    """Angle and radius as x and y, or the other way; ``turn`` in turns."""
    numbers = np.array([width, height, float(back), turn])
    angle = ((np.arange(width) + 0.5) / width + turn) * _TURN
    return _map(_polar, height, width, numbers, np.stack([np.cos(angle), np.sin(angle)]))


def displaced(
    one: NDArray[np.float32], two: NDArray[np.float32], *numbers: float
) -> NDArray[np.float32]:
    """Mode (axes, from a centre, along the slope); amounts x, y; zero; centre x, y; slope unit."""
    planes = (np.ascontiguousarray(one), np.ascontiguousarray(two))
    return _map(_displaced, *one.shape, *planes, np.array(numbers))


def pulled(height: int, width: int, points: NDArray[np.float64]) -> NDArray[np.float32]:
    """The inverse of a Coons patch through eight points, clockwise from the top left."""
    held = np.ascontiguousarray(points)
    knots = np.empty((height // _CELL + 2, width // _CELL + 2, 3), F)
    rows.over(_knots, len(knots), knots, held, width, height, least=2)
    return _map(_pulled, height, width, knots, held)
