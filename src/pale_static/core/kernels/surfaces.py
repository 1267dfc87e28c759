"""Textures drawn from lists: refracted light, drops, dirt and lens flares."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from . import rows
from .rows import compiled

F = np.float32
_ONE, _ZERO, _HALF = F(1), F(0), F(0.5)


@compiled("out2 in2 in2 in2 in2", finite=True)
def _waves(first, last, out, cos_x, sin_x, cos_y, sin_y):
    """Σ cos_x·cos_y + sin_x·sin_y over waves, the amplitudes within the second pair."""
    wide = out.shape[1]
    for y in range(first, last):
        for x in range(wide):
            out[y, x] = _ZERO
        for k in range(cos_x.shape[0]):
            a, b = cos_y[k, y], sin_y[k, y]
            for x in range(wide):
                out[y, x] += a * cos_x[k, x] + b * sin_x[k, x]


def waves(
    across: NDArray[np.float64],
    down: NDArray[np.float64],
    weights: NDArray[np.float64],
    phases: NDArray[np.float64],
) -> NDArray[np.float32]:
    """Σ weight · cos(across[k, x] + down[k, y] + phase): a sum of plane waves, (H, W).

    Each is the sum of two products of a row and a column, so no cosine is taken per pixel.
    """
    out = np.empty((down.shape[1], across.shape[1]), F)
    turned = down + phases[:, None]
    cos_y = (np.cos(turned) * weights[:, None]).astype(F)
    sin_y = (-np.sin(turned) * weights[:, None]).astype(F)
    rows.over(
        _waves, len(out), out, np.cos(across).astype(F), np.sin(across).astype(F), cos_y, sin_y
    )
    return out


_BANDS = 4
"""Rays are gathered in so many bands, whatever the number of threads: sums keep their order."""


@compiled("out3 in2 in2", finite=True)
def _landed(first, last, out, right, down):
    high, wide = right.shape
    for band in range(first, last):
        made = out[band]
        for y in range(high):
            for x in range(wide):
                made[y, x] = _ZERO
        for y in range(high * band // _BANDS, high * (band + 1) // _BANDS):
            on = y + 1 if y + 1 < high else 0
            for x in range(wide):
                after = x + 1 if x + 1 < wide else 0
                # Two rays a pixel; the one between is displaced as its neighbours' mean.
                for k in range(2):
                    u = v = F(k) * _HALF
                    top = right[y, x] + u * (right[y, after] - right[y, x])
                    foot = right[on, x] + u * (right[on, after] - right[on, x])
                    px = F(np.int32(x)) + u + top + v * (foot - top)
                    top = down[y, x] + u * (down[y, after] - down[y, x])
                    foot = down[on, x] + u * (down[on, after] - down[on, x])
                    py = F(np.int32(y)) + v + top + v * (foot - top)
                    fx, fy = np.floor(px), np.floor(py)
                    ax, ay = px - fx, py - fy
                    ix, iy = np.int64(fx), np.int64(fy)
                    # Most land inside; only the others are taken round.
                    if ix < 0 or ix >= wide:
                        ix %= wide
                    if iy < 0 or iy >= high:
                        iy %= high
                    jx = ix + 1 if ix + 1 < wide else 0
                    jy = iy + 1 if iy + 1 < high else 0
                    made[iy, ix] += (_ONE - ax) * (_ONE - ay)
                    made[iy, jx] += ax * (_ONE - ay)
                    made[jy, ix] += (_ONE - ax) * ay
                    made[jy, jx] += ax * ay


def landed(right: NDArray[np.float32], down: NDArray[np.float32]) -> NDArray[np.float32]:
    """Light of two rays a pixel, each landing so many pixels aside, round the borders; mean 1."""
    parts = np.empty((_BANDS, *right.shape), F)
    rows.over(
        _landed, _BANDS, parts, np.ascontiguousarray(right), np.ascontiguousarray(down), least=1
    )
    total = parts[0] + parts[1] + parts[2] + parts[3]
    return np.asarray(total * _HALF)


@compiled("out2 exact_in2", finite=True)
def _drops(first, last, out, table):
    wide = out.shape[1]
    for y in range(first, last):
        for x in range(wide):
            out[y, x] = _ZERO
    for k in range(len(table)):
        cx, cy, rx, ry, tall = table[k, 0], table[k, 1], table[k, 2], table[k, 3], table[k, 4]
        top, foot = max(first, int(np.floor(cy - ry))), min(last, int(np.ceil(cy + ry)) + 1)
        left, right = max(0, int(np.floor(cx - rx))), min(wide, int(np.ceil(cx + rx)) + 1)
        scale, ix = F(tall), F(1 / rx)
        for y in range(top, foot):
            v = F((y + 0.5 - cy) / ry)
            rest = _ONE - v * v
            if rest <= _ZERO:
                continue
            begin = F(0.5 - cx) * ix
            for x in range(left, right):
                u = begin + F(np.int32(x)) * ix
                t = max(rest - u * u, _ZERO)
                # The cube of a cap's height √t · scale.
                out[y, x] += t * np.sqrt(t) * scale * scale * scale
    for y in range(first, last):
        for x in range(wide):
            out[y, x] = np.cbrt(out[y, x])


def drops(height: int, width: int, table: NDArray[np.float64]) -> NDArray[np.float32]:
    """Caps of drops as one height field: (Σ hᵢ³)^⅓, smooth where they meet, never below either.

    Parameters
    ----------
    table : (N, 5)
        Centre x, y and half axes x, y in pixels, and the height in the middle.
    """
    out = np.empty((height, width), F)
    rows.over(_drops, height, out, np.ascontiguousarray(table, np.float64), least=8)
    return out


@compiled("out2 exact_in2", finite=True)
def _strokes(first, last, out, table):
    wide = out.shape[1]
    for y in range(first, last):
        for x in range(wide):
            out[y, x] = _ZERO
    for k in range(len(table)):
        ax, ay, bx, by = table[k, 0], table[k, 1], table[k, 2], table[k, 3]
        r0, r1, value, soft = table[k, 4], table[k, 5], table[k, 6], table[k, 7]
        reach = max(r0, r1) + soft + 1
        top = max(first, int(np.floor(min(ay, by) - reach)))
        foot = min(last, int(np.ceil(max(ay, by) + reach)) + 1)
        left = max(0, int(np.floor(min(ax, bx) - reach)))
        right = min(wide, int(np.ceil(max(ax, bx) + reach)) + 1)
        ex, ey = bx - ax, by - ay
        size = ex * ex + ey * ey
        size = 1 / size if size > 1e-9 else 0.0
        edge = 1 / (1 + soft)
        for y in range(top, foot):
            py = y + 0.5 - ay
            for x in range(left, right):
                px = x + 0.5 - ax
                t = min(max((px * ex + py * ey) * size, 0.0), 1.0)
                qx, qy = px - t * ex, py - t * ey
                r = r0 + t * (r1 - r0)
                d = r - np.sqrt(qx * qx + qy * qy)
                cover = min(max(d * edge + 0.5, 0.0), 1.0)
                # What is thinner than a pixel covers only a part of it.
                cover *= min(2 * r, 1.0)
                out[y, x] = max(out[y, x], F(cover * value))


def strokes(height: int, width: int, table: NDArray[np.float64]) -> NDArray[np.float32]:
    """Round-ended strokes, the strongest of those that overlap; (H, W).

    Parameters
    ----------
    table : (N, 8)
        Ends x, y, x, y and the radius at each in pixels, the value, and the softness in pixels.
    """
    out = np.empty((height, width), F)
    rows.over(_strokes, height, out, np.ascontiguousarray(table, np.float64), least=8)
    return out


@compiled("out3 in2 in2 in1", finite=True)
def _flare(first, last, out, spots, colours, n):
    """``n``: lamp x, y; 1 / core; halo; 1 / halo's size; ring; its radius and 1 / width; streak;
    1 / its length and thickness, direction x, y; rays and their strength."""
    wide = out.shape[1]
    row = np.empty((3, wide), F)
    for y in range(first, last):
        dy = F(y) + _HALF - n[1]
        for x in range(wide):
            dx = F(np.int32(x)) + _HALF - n[0]
            r = np.sqrt(dx * dx + dy * dy)
            t = r * n[2]
            core = _ONE / (_ONE + t * t)
            core = core * core
            t = max(_ONE - r * n[4], _ZERO)
            halo = n[3] * t * t
            t = max(_ONE - abs(r - n[6]) * n[7], _ZERO)
            ring = n[5] * t * t * (F(3) - F(2) * t)
            along, across = dx * n[11] + dy * n[12], dy * n[11] - dx * n[12]
            t = max(_ONE - abs(along) * n[9], _ZERO)
            u = across * n[10]
            streak = n[8] * t * t * t / (_ONE + u * u)
            white = core + streak
            row[0, x] = colours[0, 0] * white + colours[1, 0] * halo + colours[2, 0] * ring
            row[1, x] = colours[0, 1] * white + colours[1, 1] * halo + colours[2, 1] * ring
            row[2, x] = colours[0, 2] * white + colours[1, 2] * halo + colours[2, 2] * ring
        for k in range(spots.shape[0]):
            cx, cy, radius, strength = spots[k, 0], spots[k, 1], spots[k, 2], spots[k, 3]
            gy = F(y) + _HALF - cy
            if abs(gy) > radius + F(2):
                continue
            edge = _ONE / max(radius * F(0.08), _ONE)
            for x in range(wide):
                gx = F(np.int32(x)) + _HALF - cx
                r = np.sqrt(gx * gx + gy * gy)
                t = min(max((radius - r) * edge, _ZERO), _ONE)
                # A little brighter towards its border, as the image of an opening is.
                t *= strength * (F(0.6) + F(0.4) * r / radius)
                row[0, x] += spots[k, 4] * t
                row[1, x] += spots[k, 5] * t
                row[2, x] += spots[k, 6] * t
        for x in range(wide):
            out[y, x, 0] = row[0, x]
            out[y, x, 1] = row[1, x]
            out[y, x, 2] = row[2, x]


def flare(
    height: int,
    width: int,
    numbers: tuple[float, ...],
    colours: NDArray[np.float32],
    spots: NDArray[np.float32],
) -> NDArray[np.float32]:
    """The light of a lamp in a lens, (H, W, 3).

    Parameters
    ----------
    spots : (N, 7)
        Ghosts: centre x, y, radius in pixels, strength, and colour.
    """
    out = np.empty((height, width, 3), F)
    rows.over(
        _flare, height, out, np.ascontiguousarray(spots, F), np.ascontiguousarray(colours, F),
        np.array(numbers, F),
    )  # fmt: skip
    return out
