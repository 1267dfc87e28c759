"""Textures drawn from lists: refracted light, drops, dirt and lens flares."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..rows import compiled

F = np.float32
_ONE, _ZERO, _HALF = F(1), F(0), F(0.5)


@compiled("out2 out2 in2 in2 in3 in3", finite=True)
def _waves(first, last, one, two, cos_x, sin_x, cos_y, sin_y):
    """Σ cos_x·cos_y + sin_x·sin_y over waves, twice; the amplitudes are within the second pair."""
    wide = one.shape[1]
    for y in range(first, last):
        left, right = one[y], two[y]
        for x in range(wide):
            left[x] = right[x] = _ZERO
        for k in range(0, cos_x.shape[0], 2):
            # Two waves at a time, so that the sums are read and written half as often.
            a, b, c, d = cos_x[k], sin_x[k], cos_x[k + 1], sin_x[k + 1]
            a0, b0, c0, d0 = cos_y[0, k, y], sin_y[0, k, y], cos_y[0, k + 1, y], sin_y[0, k + 1, y]
            a1, b1, c1, d1 = cos_y[1, k, y], sin_y[1, k, y], cos_y[1, k + 1, y], sin_y[1, k + 1, y]
            for x in range(wide):
                left[x] += a0 * a[x] + b0 * b[x] + c0 * c[x] + d0 * d[x]
            for x in range(wide):
                right[x] += a1 * a[x] + b1 * b[x] + c1 * c[x] + d1 * d[x]


def _turns(counts: NDArray[np.float64], side: int) -> tuple[NDArray[Any], NDArray[Any]]:
    """Cosines and sines at pixel centres, (K, side): wave k has ``counts[k]`` periods along the side."""
    # Angles are whole numbers of half pixels, so that one table holds all of them.
    table = np.arange(2 * side) * (np.pi / side)
    places = np.outer(counts.astype(np.int64), 2 * np.arange(side) + 1) % (2 * side)
    return np.cos(table)[places], np.sin(table)[places]


def waves(
    across: NDArray[np.float64],
    down: NDArray[np.float64],
    weights: NDArray[np.float64],
    phases: NDArray[np.float64],
    size: tuple[int, int],
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Two sums of the same plane waves: Σ weights[s, k] · cos(2π(across·x + down·y) + phase).

    Each wave is the sum of two products of a row and a column, so no pixel needs a cosine of its
    own.

    Parameters
    ----------
    across, down : (K,) periods of each wave across the frame; whole numbers
    weights : (2, K)
    size : height and width

    Returns
    -------
    (H, W) for each row of the weights.
    """
    odd = len(phases) % 2
    across, down, phases = (np.pad(part, (0, odd)) for part in (across, down, phases))
    weight = np.pad(weights, ((0, 0), (0, odd)))[..., None]
    cos_x, sin_x = _turns(across, size[1])
    cos_y, sin_y = _turns(down, size[0])
    c, s = np.cos(phases)[:, None], np.sin(phases)[:, None]
    one, two = np.empty(size, F), np.empty(size, F)
    rows.over(
        _waves, size[0], one, two, cos_x.astype(F), sin_x.astype(F),
        ((cos_y * c - sin_y * s) * weight).astype(F),
        (-(sin_y * c + cos_y * s) * weight).astype(F),
    )  # fmt: skip
    return one, two


_BANDS = 4
"""Rays are gathered in this many bands for any number of threads, so sums keep their order."""


@compiled("out2 in2 in2", finite=True)
def _landed(first, last, out, right, down):
    high, wide = right.shape
    across, tall, row = F(1 / wide), F(1 / high), np.uint64(wide + 2)
    places = np.empty(2 * wide, np.int32)
    px, py = np.empty(2 * wide, F), np.empty(2 * wide, F)
    for band in range(first, last):
        made = out[band]
        for x in range(made.size):
            made[x] = _ZERO
        for y in range(high * band // _BANDS, high * (band + 1) // _BANDS):
            on = y + 1 if y + 1 < high else 0
            r0, r1, d0, d1 = right[y], right[on], down[y], down[on]
            # Two rays a pixel; the one between is displaced as its neighbours' mean.
            for x in range(wide):
                after = x + 1 if x + 1 < wide else 0
                top, foot = r0[x] + _HALF * (r0[after] - r0[x]), r1[x] + _HALF * (r1[after] - r1[x])
                at = F(np.int32(x))
                px[2 * x] = at + r0[x]
                px[2 * x + 1] = at + _HALF + top + _HALF * (foot - top)
                top, foot = d0[x] + _HALF * (d0[after] - d0[x]), d1[x] + _HALF * (d1[after] - d1[x])
                py[2 * x] = F(y) + d0[x]
                py[2 * x + 1] = F(y) + _HALF + top + _HALF * (foot - top)
            for k in range(2 * wide):
                # Wrapped at the borders; light on the last row or column is added to the first
                # afterwards. Clamped, because rounding may lead slightly past a border.
                x = min(max(px[k] - F(wide) * np.floor(px[k] * across), _ZERO), F(wide))
                y0 = min(max(py[k] - F(high) * np.floor(py[k] * tall), _ZERO), F(high))
                fx, fy = np.floor(x), np.floor(y0)
                px[k], py[k] = x - fx, y0 - fy
                places[k] = np.int32(fy) * np.int32(wide + 2) + np.int32(fx)
            for k in range(2 * wide):
                at = np.uint64(places[k])
                ax, ay = px[k], py[k]
                bx, by = _ONE - ax, _ONE - ay
                made[at] += bx * by
                made[at + np.uint64(1)] += ax * by
                made[at + row] += bx * ay
                made[at + row + np.uint64(1)] += ax * ay


@compiled("out2 in3 f", finite=True)
def _gathered(first, last, out, parts, level):
    high, wide = out.shape
    for y in range(first, last):
        for x in range(wide):
            out[y, x] = parts[0, y, x] + parts[1, y, x] + parts[2, y, x] + parts[3, y, x]
        for band in range(_BANDS):
            if y < 2:
                for x in range(wide):
                    out[y, x] += parts[band, high + y, x]
                out[y, 0] += parts[band, high + y, wide]
                out[y, 1] += parts[band, high + y, wide + 1]
            out[y, 0] += parts[band, y, wide]
            out[y, 1] += parts[band, y, wide + 1]
        for x in range(wide):
            out[y, x] *= level


def landed(
    right: NDArray[np.float32], down: NDArray[np.float32], level: float
) -> NDArray[np.float32]:
    """Light of two rays a pixel, each displaced by a number of pixels and wrapped at the borders.

    The mean is the level. At least two pixels high and wide.
    """
    high, wide = right.shape
    parts = np.empty((_BANDS, high + 2, wide + 2), F)
    out = np.empty_like(right, order="C")
    rows.over(
        _landed, _BANDS, parts.reshape(_BANDS, -1), np.ascontiguousarray(right),
        np.ascontiguousarray(down), least=1,
    )  # fmt: skip
    rows.over(_gathered, high, out, parts, F(level / 2))
    return out


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
    """Caps of drops as one height field: (Σ hᵢ³)^⅓, smooth where caps meet, and never below either
    of them.

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
                # A stroke thinner than a pixel covers only a part of it.
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
                # Slightly brighter towards its border, like the image of an aperture.
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
