"""Where each pixel of a bent picture reads: maps of places, in pixels."""

from __future__ import annotations

import numba
import numpy as np
from numpy.typing import NDArray

from . import rows
from .rows import compiled

F = np.float32
_TURN = 2 * np.pi


@compiled("out3 exact_in1")
def _lens(first, last, out, n):
    cx, cy, unit, k1, k2, zoom = n[0], n[1], n[2], n[3], n[4], n[5]
    for y in range(first, last):
        for x in range(out.shape[1]):
            dx, dy = (x - cx) * zoom, (y - cy) * zoom
            q = (dx * dx + dy * dy) * unit * unit
            f = 1 + q * (k1 + q * k2)
            out[y, x, 0] = F(cx + dx * f)
            out[y, x, 1] = F(cy + dy * f)


@compiled("out3 exact_in1")
def _ripple(first, last, out, n):
    cx, cy, amount, wave, phase = n[0], n[1], n[2], n[3], n[4]
    for y in range(first, last):
        for x in range(out.shape[1]):
            dx, dy = x - cx, y - cy
            r = np.sqrt(dx * dx + dy * dy)
            push = amount * np.sin(_TURN * (r / wave - phase))
            f = push / r if r > 1e-6 else 0.0
            out[y, x, 0] = F(x + dx * f)
            out[y, x, 1] = F(y + dy * f)


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


@compiled("out3 exact_in1")
def _polar(first, last, out, n):
    # 0: the picture's x becomes the angle and its y the radius; 1: the other way.
    wide, high, way, turn = n[0], n[1], n[2], n[3]
    cx, cy, most = 0.5 * wide, 0.5 * high, 0.5 * np.sqrt(wide * wide + high * high)
    for y in range(first, last):
        for x in range(out.shape[1]):
            if way < 0.5:
                dx, dy = x + 0.5 - cx, y + 0.5 - cy
                share = np.arctan2(dy, dx) / _TURN - turn
                share -= np.floor(share)
                out[y, x, 0] = F(share * wide - 0.5)
                out[y, x, 1] = F(np.sqrt(dx * dx + dy * dy) / most * high - 0.5)
            else:
                angle = ((x + 0.5) / wide + turn) * _TURN
                r = (y + 0.5) / high * most
                out[y, x, 0] = F(cx + r * np.cos(angle) - 0.5)
                out[y, x, 1] = F(cy + r * np.sin(angle) - 0.5)


@compiled("out3 in2 in2 exact_in1")
def _displaced(first, last, out, one, two, n):
    mode, ax, ay, zero = n[0], F(n[1]), F(n[2]), F(n[3])
    cx, cy, unit = F(n[4]), F(n[5]), F(n[6])
    high, wide = one.shape
    half, whole = F(0.5) * unit, F(1)
    for y in range(first, last):
        if mode < 0.5:
            for x in range(wide):
                out[y, x, 0] = F(x) + (one[y, x] - zero) * ax
                out[y, x, 1] = F(y) + (two[y, x] - zero) * ay
        elif mode < 1.5:
            dy = F(y) - cy
            for x in range(wide):
                dx = F(x) - cx
                f = (one[y, x] - zero) / max(np.sqrt(dx * dx + dy * dy), F(1e-6))
                out[y, x, 0] = F(x) + dx * f * ax
                out[y, x, 1] = F(y) + dy * f * ay
        else:
            up, down = max(y - 1, 0), min(y + 1, high - 1)
            fall = unit / F(max(down - up, 1))
            for x in range(wide):
                gy = (one[down, x] - one[up, x]) * fall
                left, right = max(x - 1, 0), min(x + 1, wide - 1)
                run = half if 0 < x < wide - 1 else unit
                gx = (one[y, right] - one[y, left]) * run
                f = whole / max(whole, np.sqrt(gx * gx + gy * gy))
                out[y, x, 0] = F(x) + gx * f * ax
                out[y, x, 1] = F(y) + gy * f * ay


@numba.njit("UniTuple(f8,6)(f8,f8,Array(f8,2,'C',readonly=True))", cache=True, nogil=True)
def _patch(u, v, p):
    """A Coons patch with edges through three points each, and its slopes along u and v.

    ``p``: top left, top, top right, right, bottom right, bottom, bottom left, left.
    """
    found = np.empty(6)
    # Quadratics through the ends and the middle of an edge (Lagrange).
    lu0, lu1, lu2 = (1 - u) * (1 - 2 * u), 4 * u * (1 - u), u * (2 * u - 1)
    lv0, lv1, lv2 = (1 - v) * (1 - 2 * v), 4 * v * (1 - v), v * (2 * v - 1)
    du0, du1, du2 = 4 * u - 3, 4 - 8 * u, 4 * u - 1
    dv0, dv1, dv2 = 4 * v - 3, 4 - 8 * v, 4 * v - 1
    for a in range(2):
        top = lu0 * p[0, a] + lu1 * p[1, a] + lu2 * p[2, a]
        bottom = lu0 * p[6, a] + lu1 * p[5, a] + lu2 * p[4, a]
        left = lv0 * p[0, a] + lv1 * p[7, a] + lv2 * p[6, a]
        right = lv0 * p[2, a] + lv1 * p[3, a] + lv2 * p[4, a]
        dtop = du0 * p[0, a] + du1 * p[1, a] + du2 * p[2, a]
        dbottom = du0 * p[6, a] + du1 * p[5, a] + du2 * p[4, a]
        dleft = dv0 * p[0, a] + dv1 * p[7, a] + dv2 * p[6, a]
        dright = dv0 * p[2, a] + dv1 * p[3, a] + dv2 * p[4, a]
        upper = (1 - u) * p[0, a] + u * p[2, a]
        lower = (1 - u) * p[6, a] + u * p[4, a]
        found[a] = (1 - v) * top + v * bottom + (1 - u) * left + u * right
        found[a] -= (1 - v) * upper + v * lower
        found[2 + a] = (1 - v) * dtop + v * dbottom + right - left
        found[2 + a] -= (1 - v) * (p[2, a] - p[0, a]) + v * (p[4, a] - p[6, a])
        found[4 + a] = bottom - top + (1 - u) * dleft + u * dright - (lower - upper)
    return found[0], found[1], found[2], found[3], found[4], found[5]


@compiled("out3 exact_in2")
def _pulled(first, last, out, p):
    high, wide = out.shape[0], out.shape[1]
    for y in range(first, last):
        u = v = 0.5
        for x in range(wide):
            tx, ty = (x + 0.5) / wide, (y + 0.5) / high
            done = False
            for attempt in range(2):
                if attempt or not -0.5 < u < 1.5 or not -0.5 < v < 1.5:
                    u, v = tx, ty
                for _ in range(24):
                    sx, sy, ux, uy, vx, vy = _patch(u, v, p)
                    ex, ey = sx - tx, sy - ty
                    if abs(ex) + abs(ey) < 1e-7:
                        done = True
                        break
                    det = ux * vy - uy * vx
                    if abs(det) < 1e-9:
                        break
                    du, dv = (ex * vy - ey * vx) / det, (ux * ey - uy * ex) / det
                    u -= min(max(du, -0.5), 0.5)
                    v -= min(max(dv, -0.5), 0.5)
                if done:
                    break
            if done:
                out[y, x, 0] = F(u * wide - 0.5)
                out[y, x, 1] = F(v * high - 0.5)
            else:
                out[y, x, 0] = out[y, x, 1] = F(-1e6)
                u = v = 2.0


@compiled("out3 in1")
def _slid(first, last, out, shifts):
    for y in range(first, last):
        for x in range(out.shape[1]):
            out[y, x, 0] = F(x) - shifts[y]
            out[y, x, 1] = F(y)


def _map(run: object, height: int, width: int, *arguments: object) -> NDArray[np.float32]:
    out = np.empty((height, width, 2), F)
    rows.over(run, height, out, *arguments, least=4)  # type: ignore[arg-type]
    return out


def lens(height: int, width: int, *numbers: float) -> NDArray[np.float32]:
    """Centre x, y; 1 / length of r = 1; k1; k2; zoom."""
    return _map(_lens, height, width, np.array(numbers))


def ripple(height: int, width: int, *numbers: float) -> NDArray[np.float32]:
    """Centre x, y; amount; wavelength; phase in turns."""
    return _map(_ripple, height, width, np.array(numbers))


def twirl(height: int, width: int, *numbers: float) -> NDArray[np.float32]:
    """Centre x, y; reach; turn at the centre in radians."""
    return _map(_twirl, height, width, np.array(numbers))


def polar(height: int, width: int, back: bool, turn: float) -> NDArray[np.float32]:
    """Angle and radius as x and y, or the other way; ``turn`` in turns."""
    numbers = np.array([width, height, float(back), turn])
    return _map(_polar, height, width, numbers)


def displaced(
    one: NDArray[np.float32], two: NDArray[np.float32], *numbers: float
) -> NDArray[np.float32]:
    """Mode (axes, from a centre, along the slope); amounts x, y; zero; centre x, y; slope unit."""
    planes = (np.ascontiguousarray(one), np.ascontiguousarray(two))
    return _map(_displaced, *one.shape, *planes, np.array(numbers))


def pulled(height: int, width: int, points: NDArray[np.float64]) -> NDArray[np.float32]:
    """The inverse of a Coons patch through eight points, clockwise from the top left."""
    return _map(_pulled, height, width, np.ascontiguousarray(points))


def slid(width: int, shifts: NDArray[np.float32]) -> NDArray[np.float32]:
    """Rows moved right by so many pixels each."""
    return _map(_slid, len(shifts), width, shifts.astype(F))
