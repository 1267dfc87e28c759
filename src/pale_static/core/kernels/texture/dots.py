"""Halftones: dots whose area is the tone, and inks on paper.

The result is made row by row, from tones to inks, while a row is in cache.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..colour.alpha import THIN
from ..colour.luminance import BLUE, GREEN, RED
from ..rows import compiled, inner

F = np.float32
_ONE, _ZERO, _HALF = F(1), F(0), F(0.5)
DOTS = ("round", "ellipse", "square", "line", "cross")
TILE = 256
"""Places along a side of the threshold tile of one dot."""
FINEST = 4096
"""Tones for which the height of a wavy dot's edge is tabulated."""
_FINE = 4
"""Samples across and down in each pixel."""
_FINER = 5
"""The same for dots with straight sides, which may lie along the pixels."""
_WHOLE = 4294967296.0
"""A cell in the units of places: 32 bits, so that places repeat by overflow."""
_SOFT, _WAVY, _EDGED = range(3)

_inner = inner(error_model="numpy", fastmath={"contract", "nnan"})


def _height(dot: str, count: int) -> NDArray[np.float64]:
    at = (np.arange(count) + 0.5) / count - 0.5
    wave, far = np.cos(2 * np.pi * at), np.abs(at)
    across, down = np.meshgrid(far, far)
    return {
        "round": wave[None, :] + wave[:, None],
        "ellipse": wave[None, :] + 0.6 * wave[:, None],
        "square": -np.maximum(across, down) - 1e-3 * (across + down),
        "line": -down - 1e-6 * across,
        "cross": -np.minimum(across, down) - 1e-3 * (across + down),
    }[dot]


@lru_cache(maxsize=16)
def tile(dot: str) -> NDArray[np.float32]:
    """(TILE, TILE) thresholds of one cell, each value equally often, so that the inked area equals
    the tone."""
    order = np.argsort(-_height(dot, TILE).ravel(), kind="stable")
    out = np.empty(TILE * TILE, F)
    out[order] = (np.arange(TILE * TILE) + 0.5) / (TILE * TILE)
    return out.reshape(TILE, TILE)


@lru_cache(maxsize=16)
def _levels(dot: str) -> NDArray[np.float32]:
    """The height above which lies a share k / FINEST of a cell, for k from 0 to FINEST."""
    ranked = np.sort(_height(dot, 1024).ravel())[::-1]
    places = np.linspace(0, len(ranked) - 1, FINEST + 1)
    return np.interp(places, np.arange(len(ranked)), ranked).astype(F)


@_inner
def _soft_row(y, tone, out, table, n, soft, whole, real):
    """A row of dots with soft edges: 16 samples a pixel against the thresholds of a tile."""
    ox, oy, c, s, unit = n[0], n[1], n[2], n[3], n[4]
    slope = _ONE / max(soft, F(1e-4))
    us, vs, line = whole[0], whole[1], real[0]
    wide = len(out)
    for x in range(wide):
        dx, dy = x - ox, y - oy
        u, v = (dx * c + dy * s) * unit, (dy * c - dx * s) * unit
        us[x] = np.uint32(np.int64((u - np.floor(u)) * _WHOLE))
        vs[x] = np.uint32(np.int64((v - np.floor(v)) * _WHOLE))
        line[x] = tone[x] * slope + _HALF
        out[x] = _ZERO
    for j in range(_FINE):
        for i in range(_FINE):
            # Each sample in a row and a column of its own, so that upright lines and flat ones
            # are measured by sixteenths too.
            dx, dy = (i + (j + 0.5) / _FINE) / _FINE, (j + (i + 0.5) / _FINE) / _FINE
            u, v = (dx * c + dy * s) * unit, (dy * c - dx * s) * unit
            du = np.uint32(np.int64((u - np.floor(u)) * _WHOLE))
            dv = np.uint32(np.int64((v - np.floor(v)) * _WHOLE))
            for x in range(wide):
                row = np.int64(np.uint32(vs[x] + dv) >> np.uint32(24))
                column = np.int64(np.uint32(us[x] + du) >> np.uint32(24))
                at = (row * TILE + column) & (TILE * TILE - 1)
                out[x] += min(max(line[x] - table[at] * slope, _ZERO), _ONE)
    for x in range(wide):
        made = out[x] * F(1.0 / (_FINE * _FINE))
        out[x] = _ZERO if tone[x] <= _ZERO else (_ONE if tone[x] >= _ONE else made)


@_inner
def _wavy_row(y, tone, out, heights, n, upright, real, along, samples):
    """A row of hard round or elliptic dots: cos 2πu + upright·cos 2πv over the height that leaves
    the tone's share above it. A pixel's cosines come from those of its row and its column by the
    sum of angles, and a sample's from its pixel's, so no table is needed."""
    ox, oy, c, s, unit = n[0], n[1], n[2], n[3], n[4]
    cu, su, cv, sv, least = real[0], real[1], real[2], real[3], real[4]
    wide = len(out)
    turn = 2 * np.pi * unit
    u, v = turn * ((y - oy) * s - ox * c), turn * ((y - oy) * c + ox * s)
    a, b, d, e = F(np.cos(u)), F(np.sin(u)), F(np.cos(v)), F(np.sin(v))
    ca, sa, cb, sb = along[0], along[1], along[2], along[3]
    for x in range(wide):
        cu[x] = a * ca[x] - b * sa[x]
        su[x] = b * ca[x] + a * sa[x]
        cv[x] = d * cb[x] + e * sb[x]
        sv[x] = e * cb[x] - d * sb[x]
        out[x] = _ZERO
    for x in range(wide):
        t = min(max(tone[x], _ZERO), _ONE) * F(FINEST)
        k = min(np.int32(t), np.int32(FINEST - 1))
        # A dot's middle lies half a cell after the place where both cosines are highest.
        low, high = heights[np.uint32(k)], heights[np.uint32(k + np.int32(1))]
        least[x] = -(low + (t - F(k)) * (high - low))
    for j in range(_FINE):
        # Four samples at a time: values that they share are read once.
        p0, q0, r0, w0 = samples[0, j], samples[1, j], samples[2, j], samples[3, j]
        p1, q1, r1, w1 = samples[0, j + 4], samples[1, j + 4], samples[2, j + 4], samples[3, j + 4]
        p2, q2, r2, w2 = samples[0, j + 8], samples[1, j + 8], samples[2, j + 8], samples[3, j + 8]
        p3, q3, r3, w3 = (
            samples[0, j + 12], samples[1, j + 12], samples[2, j + 12], samples[3, j + 12]
        )  # fmt: skip
        for x in range(wide):
            f, g, h, m, edge = cu[x], su[x], cv[x], sv[x], least[x]
            one = _ONE if f * p0 - g * q0 + h * r0 - m * w0 < edge else _ZERO
            two = _ONE if f * p1 - g * q1 + h * r1 - m * w1 < edge else _ZERO
            three = _ONE if f * p2 - g * q2 + h * r2 - m * w2 < edge else _ZERO
            four = _ONE if f * p3 - g * q3 + h * r3 - m * w3 < edge else _ZERO
            out[x] += (one + two) + (three + four)
    for x in range(wide):
        made = out[x] * F(1.0 / (_FINE * _FINE))
        out[x] = _ZERO if tone[x] <= _ZERO else (_ONE if tone[x] >= _ONE else made)


@_inner
def _edged_row(y, tone, out, n, dot, signed):
    """A row of hard square dots, lines or crosses: a sample is inked where it lies nearer to the
    middle of its cell than the tone's edge. Places are counted in 32 bits."""
    ox, oy, c, s, unit = n[0], n[1], n[2], n[3], n[4]
    us, vs, edge, total = signed[0], signed[1], signed[2], signed[3]
    one, none, sign, half = np.int32(1), np.int32(0), np.int32(31), np.int32(-(2**31))
    wide = len(out)
    for x in range(wide):
        dx, dy = x - ox, y - oy
        u, v = (dx * c + dy * s) * unit, (dy * c - dx * s) * unit
        us[x] = np.int32(np.int64((u - np.floor(u) - 0.5) * _WHOLE))
        vs[x] = np.int32(np.int64((v - np.floor(v) - 0.5) * _WHOLE))
        t = min(max(np.float64(tone[x]), 0.0), 1.0)
        if dot == 0:
            t = np.sqrt(t)
        elif dot == 2:
            t = 1 - np.sqrt(1 - t)
        edge[x] = np.int32(np.int64(min(0.5 * t * _WHOLE, 0.5 * _WHOLE - 1)))
        total[x] = none
    for j in range(_FINER):
        for i in range(_FINER):
            dx, dy = (i + (j + 0.5) / _FINER) / _FINER, (j + (i + 0.5) / _FINER) / _FINER
            u, v = (dx * c + dy * s) * unit, (dy * c - dx * s) * unit
            du = np.int32(np.int64((u - np.floor(u) - 0.5) * _WHOLE))
            dv = np.int32(np.int64((v - np.floor(v) - 0.5) * _WHOLE))
            for x in range(wide):
                a = np.int32(np.int32(us[x] + du) + half)
                b = np.int32(np.int32(vs[x] + dv) + half)
                a, b = np.int32(a ^ (a >> sign)), np.int32(b ^ (b >> sign))
                far = b if dot == 1 else (max(a, b) if dot == 0 else min(a, b))
                total[x] += one if far < edge[x] else none
    for x in range(wide):
        made = F(total[x]) * F(1.0 / (_FINER * _FINER))
        out[x] = _ZERO if tone[x] <= _ZERO else (_ONE if tone[x] >= _ONE else made)


@_inner
def _row(y, tone, out, how, dot, table, n, amount, whole, real, along, samples):
    if how == _SOFT:
        _soft_row(y, tone, out, table, n, amount, whole, real)
    elif how == _WAVY:
        _wavy_row(y, tone, out, table, n, amount, real, along, samples)
    else:
        _edged_row(y, tone, out, n, dot, whole.view(np.int32))


@compiled("out2 in2 i i in1 exact_in1 f in3 in3")
def _screened(first, last, out, tone, how, dot, table, n, amount, along, samples):
    whole, real = np.empty((4, out.shape[1]), np.uint32), np.empty((5, out.shape[1]), F)
    for y in range(first, last):
        _row(
            y, tone[y], out[y], how, dot, table, n, amount, whole, real, along[0], samples[0]
        )  # fmt: skip


@_inner
def _tones_row(picture, out):
    """The amount of each ink for a row. One ink: darkness. Two: darkness, and twice its dark half.
    Four: cyan, magenta and yellow without their shared black, and that black."""
    inks = len(out)
    for x in range(len(picture)):
        alpha = picture[x, 3]
        scale = _ONE / alpha if alpha > THIN else _ZERO
        r = _ONE - min(max(picture[x, 0] * scale, _ZERO), _ONE)
        g = _ONE - min(max(picture[x, 1] * scale, _ZERO), _ONE)
        b = _ONE - min(max(picture[x, 2] * scale, _ZERO), _ONE)
        dark = RED * r + GREEN * g + BLUE * b
        if inks == 1:
            out[0, x] = dark
        elif inks == 2:
            out[0, x] = dark
            out[1, x] = max(F(2) * dark - _ONE, _ZERO)
        else:
            black = min(r, min(g, b))
            rest = _ONE / max(_ONE - black, F(1e-6))
            out[0, x] = (r - black) * rest
            out[1, x] = (g - black) * rest
            out[2, x] = (b - black) * rest
            out[3, x] = black


@_inner
def _printed_row(picture, covers, inks, paper, out, lines):
    """A row of inks on paper: one ink covers the paper fully, several multiply."""
    count, wide = len(inks), len(picture)
    for c in range(3):
        line = lines[c]
        for x in range(wide):
            line[x] = paper[c]
        for k in range(count):
            ink, cover = inks[k, c], covers[k]
            if count == 1:
                for x in range(wide):
                    line[x] += cover[x] * (ink - line[x])
            else:
                for x in range(wide):
                    line[x] *= _ONE - cover[x] * (_ONE - ink)
    for x in range(wide):
        alpha = picture[x, 3]
        out[x, 0] = lines[0, x] * alpha
        out[x, 1] = lines[1, x] * alpha
        out[x, 2] = lines[2, x] * alpha
        out[x, 3] = alpha


@compiled("out3 in3 i i in1 exact_in2 f in2 in1 in3 in3")
def _halftoned(
    first, last, out, picture, how, dot, table, screens, amount, inks, paper, along, samples
):
    wide, count = out.shape[1], len(inks)
    whole, real = np.empty((4, wide), np.uint32), np.empty((5, wide), F)
    wanted, covers = np.empty((count, wide), F), np.empty((count, wide), F)
    for y in range(first, last):
        _tones_row(picture[y], wanted)
        for k in range(count):
            n = screens[k]
            at = min(k, len(along) - 1)
            _row(
                y, wanted[k], covers[k], how, dot, table, n, amount, whole, real, along[at],
                samples[at],
            )  # fmt: skip
        _printed_row(picture[y], covers, inks, paper, out[y], real)


@compiled("out3 in3 in3 in2 in1")
def _printed(first, last, out, picture, covers, inks, paper):
    lines = np.empty((3, out.shape[1]), F)
    for y in range(first, last):
        _printed_row(picture[y], covers[:, y], inks, paper, out[y], lines)


Screen = tuple[float, float, float, float, float]
"""The centre of a screen (x, y), the cosine and sine of its turn, and cells a pixel."""


def _making(dot: str, softness: float) -> tuple[int, int, NDArray[np.float32], np.float32]:
    if softness > 0:
        return _SOFT, 0, tile(dot).ravel(), F(softness)
    if dot in ("round", "ellipse"):
        return _WAVY, 0, _levels(dot), F(0.6 if dot == "ellipse" else 1.0)
    return _EDGED, ("square", "line", "cross").index(dot), np.zeros(1, F), _ZERO


def _waves(
    how: int, wide: int, screens: Sequence[Screen], upright: np.float32
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """For wavy dots, for each screen: the cosines and sines along a row, in u and in v,
    (N, 4, W); and those from a pixel's corner to each of its samples, (N, 4, 16)."""
    if how != _WAVY:
        return np.zeros((1, 4, 1), F), np.zeros((1, 4, 16), F)
    x = np.arange(wide)
    j, i = np.divmod(np.arange(_FINE * _FINE), _FINE)
    # Each in a row and a column of its own, so that upright lines and flat ones are measured by
    # sixteenths too.
    dx, dy = (i + (j + 0.5) / _FINE) / _FINE, (j + (i + 0.5) / _FINE) / _FINE
    along, samples = [], []
    for _, _, c, s, unit in screens:
        turn = 2 * np.pi * unit
        u, v = turn * c * x, turn * s * x
        along.append([np.cos(u), np.sin(u), np.cos(v), np.sin(v)])
        u, v = turn * (dx * c + dy * s), turn * (dy * c - dx * s)
        samples.append([np.cos(u), np.sin(u), upright * np.cos(v), upright * np.sin(v)])
    return np.array(along, F), np.array(samples, F)


def screened(
    tone: NDArray[np.float32], dot: str, screen: Screen, softness: float = 0.0
) -> NDArray[np.float32]:
    """The inked share of each pixel for a tone 0..1, in dots of one size.

    A flat tone inks that share of the area (Murray & Davies 1936: the area of a dot is its tone).
    ``softness`` is the softness of a dot's edge, in tones.
    """
    out = np.empty_like(tone, order="C")
    how, which, table, amount = _making(dot, softness)
    held = np.ascontiguousarray(tone)
    rows.over(
        _screened, len(out), out, held, how, which, table, np.array(screen), amount,
        *_waves(how, tone.shape[1], [screen], amount), least=4,
    )  # fmt: skip
    return out


def halftoned(
    picture: NDArray[np.float32],
    dot: str,
    screens: Sequence[Screen],
    softness: float,
    inks: NDArray[np.float32],
    paper: NDArray[np.float32],
) -> NDArray[np.float32]:
    """A picture in dots of one, two or four inks on paper, with its alpha.

    One ink prints the darkness (Rec. 709). Of two inks the first prints the darkness and the second
    its dark half. Four print cyan, magenta and yellow without their shared black, and that black.
    """
    out = np.empty_like(picture, order="C")
    how, which, table, amount = _making(dot, softness)
    rows.over(
        _halftoned, len(out), out, np.ascontiguousarray(picture), how, which, table,
        np.array(screens), amount, inks.astype(F), paper.astype(F),
        *_waves(how, picture.shape[1], screens, amount), least=4,
    )  # fmt: skip
    return out


def printed(
    picture: NDArray[np.float32],
    covers: NDArray[np.float32],
    inks: NDArray[np.float32],
    paper: NDArray[np.float32],
) -> NDArray[np.float32]:
    """Inks on paper with a picture's alpha: one ink covers the paper fully, several multiply."""
    out = np.empty_like(picture, order="C")
    planes = (np.ascontiguousarray(picture), np.ascontiguousarray(covers))
    rows.over(_printed, len(out), out, *planes, inks.astype(F), paper.astype(F))
    return out
