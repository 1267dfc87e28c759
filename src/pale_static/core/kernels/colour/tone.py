"""Tone curves on pictures and mattes, and ramps."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..rows import compiled, inner
from .alpha import THIN
from .luminance import BLUE, GREEN, RED
from .power import power as powered

F = np.float32
_ONE, _ZERO, _HALF = F(1), F(0), F(0.5)
_LEAST = F(1e-6)  # an alpha below this counts as this
_TURN = F(0.15915494)  # 1/2π


@compiled("out2 in2 f f f f f")
def _levels_matte(first, last, out, matte, black, span, power, low, high):
    bent = power != _ONE
    for y in range(first, last):
        for x in range(out.shape[1]):
            t = (matte[y, x] - black) * span
            out[y, x] = low + (powered(t, power) if bent else t) * (high - low)


@compiled("out3 in3 in2 b")
def _levels(first, last, out, picture, curve, hold):
    """``curve``: per channel black, 1/(white − black), 1/gamma, black out, white out."""
    wide = out.shape[1]
    red, green, blue = np.empty(wide, F), np.empty(wide, F), np.empty(wide, F)
    black0, black1, black2 = curve[0, 0], curve[1, 0], curve[2, 0]
    span0, span1, span2 = curve[0, 1], curve[1, 1], curve[2, 1]
    bend0, bend1, bend2 = curve[0, 2], curve[1, 2], curve[2, 2]
    low0, low1, low2 = curve[0, 3], curve[1, 3], curve[2, 3]
    far0, far1, far2 = curve[0, 4] - low0, curve[1, 4] - low1, curve[2, 4] - low2
    for y in range(first, last):
        for x in range(wide):
            alpha = picture[y, x, 3]
            scale = _ONE / (alpha if alpha > THIN else _ONE)
            red[x] = (picture[y, x, 0] * scale - black0) * span0
            green[x] = (picture[y, x, 1] * scale - black1) * span1
            blue[x] = (picture[y, x, 2] * scale - black2) * span2
        # A row at a time, so that powers run over a flat line.
        if bend0 != _ONE:
            for x in range(wide):
                red[x] = powered(red[x], bend0)
        if bend1 != _ONE:
            for x in range(wide):
                green[x] = powered(green[x], bend1)
        if bend2 != _ONE:
            for x in range(wide):
                blue[x] = powered(blue[x], bend2)
        for x in range(wide):
            alpha = picture[y, x, 3]
            # A clear pixel keeps its colour.
            r = (low0 + red[x] * far0) * alpha if alpha > THIN else picture[y, x, 0]
            g = (low1 + green[x] * far1) * alpha if alpha > THIN else picture[y, x, 1]
            b = (low2 + blue[x] * far2) * alpha if alpha > THIN else picture[y, x, 2]
            out[y, x, 0], out[y, x, 1], out[y, x, 2], out[y, x, 3] = r, g, b, alpha
        if hold:
            for x in range(wide):
                alpha = out[y, x, 3]
                out[y, x, 0] = min(max(out[y, x, 0], _ZERO), alpha)
                out[y, x, 1] = min(max(out[y, x, 1], _ZERO), alpha)
                out[y, x, 2] = min(max(out[y, x, 2], _ZERO), alpha)


def levels(
    plane: NDArray[np.float32],
    curve: tuple[float, float, float, float, float],
    channel: int = -1,
    hold: bool = False,
) -> NDArray[np.float32]:
    """Black in, 1/(white − black), 1/gamma, black out, white out, on all channels or on one.

    With ``hold`` the straight colours of a picture are clamped to 0..1 afterwards.
    """
    out = np.empty_like(plane, order="C")
    source = np.ascontiguousarray(plane)
    if plane.ndim == 2:
        rows.over(_levels_matte, len(out), out, source, *(F(v) for v in curve))
        return out
    table = np.array([(0, 1, 1, 0, 1)] * 3, F)
    table[slice(None) if channel < 0 else channel] = np.array(curve, F)
    rows.over(_levels, len(out), out, source, table, hold)
    return out


@compiled("out2 in2 f f", finite=True)
def _threshold(first, last, out, matte, level, softness):
    for y in range(first, last):
        if softness > F(1e-6):  # below that it is a step
            slope = _ONE / softness
            base = level - _HALF * softness
            for x in range(out.shape[1]):
                t = min(max((matte[y, x] - base) * slope, _ZERO), _ONE)
                out[y, x] = t * t * (F(3) - F(2) * t)
        else:
            for x in range(out.shape[1]):
                out[y, x] = _ONE if matte[y, x] >= level else _ZERO


def threshold(matte: NDArray[np.float32], level: float, softness: float) -> NDArray[np.float32]:
    """Smoothstep of width ``softness`` centred on ``level``; a step where softness is 0."""
    out = np.empty_like(matte, order="C")
    source = np.ascontiguousarray(matte)
    rows.over(_threshold, len(out), out, source, F(level), F(softness))
    return out


@compiled("out3 in3")
def _invert(first, last, out, picture):
    for y in range(first, last):
        for x in range(out.shape[1]):
            alpha = picture[y, x, 3]
            out[y, x, 0] = alpha - picture[y, x, 0]
            out[y, x, 1] = alpha - picture[y, x, 1]
            out[y, x, 2] = alpha - picture[y, x, 2]
            out[y, x, 3] = alpha


def invert(plane: NDArray[np.float32]) -> NDArray[np.float32]:
    """1 − colour under the same alpha; 1 − value for a matte."""
    if plane.ndim == 2:
        return np.asarray(_ONE - plane)
    out = np.empty_like(plane, order="C")
    rows.over(_invert, len(out), out, np.ascontiguousarray(plane))
    return out


@compiled("out3 in3 index_in1")
def _swapped(first, last, out, picture, taken):
    wide = out.shape[1]
    lines = np.empty((7, wide), F)
    lines[5, :] = _ONE
    lines[6, :] = _ZERO
    red, green, blue, cover = taken[0], taken[1], taken[2], taken[3]
    for y in range(first, last):
        for x in range(wide):
            alpha = picture[y, x, 3]
            held = alpha if alpha > F(1e-6) else _ONE
            r, g, b = picture[y, x, 0], picture[y, x, 1], picture[y, x, 2]
            lines[0, x] = (r * RED + g * GREEN + b * BLUE) / held
            lines[1, x] = alpha
            lines[2, x] = r / held
            lines[3, x] = g / held
            lines[4, x] = b / held
        one, two, three, four = lines[red], lines[green], lines[blue], lines[cover]
        for x in range(wide):
            alpha = four[x]
            out[y, x, 0] = one[x] * alpha
            out[y, x, 1] = two[x] * alpha
            out[y, x, 2] = three[x] * alpha
            out[y, x, 3] = alpha


def swapped(picture: NDArray[np.float32], taken: tuple[int, ...]) -> NDArray[np.float32]:
    """A picture made of straight channels of another.

    Parameters
    ----------
    taken : four of 0 to 6
        What becomes red, green, blue and alpha: luminance, alpha, red, green, blue, white, black.
    """
    out = np.empty_like(picture, order="C")
    rows.over(_swapped, len(out), out, np.ascontiguousarray(picture), np.array(taken, np.int32))
    return out


@compiled("out2 i f f f f f i", finite=True)
def _ramp(first, last, out, shape, x0, y0, dx, dy, scale, beyond):
    wide = out.shape[1]
    for y in range(first, last):
        py = F(y) + _HALF - y0
        along, across = py * dy, py * dx
        if shape == 0:
            start, slope = ((_HALF - x0) * dx + along) * scale, dx * scale
            for x in range(wide):
                out[y, x] = F(np.int32(x)) * slope + start
        elif shape == 1:
            for x in range(wide):
                px = F(np.int32(x)) + _HALF - x0
                out[y, x] = np.sqrt(px * px + py * py) * scale
        elif shape == 2:
            for x in range(wide):
                px = F(np.int32(x)) + _HALF - x0
                t = np.arctan2(across - px * dy, px * dx + along) * _TURN
                out[y, x] = t + _ONE if t < _ZERO else t
        else:
            for x in range(wide):
                px = F(np.int32(x)) + _HALF - x0
                out[y, x] = (abs(px * dx + along) + abs(across - px * dy)) * scale
        if beyond == 0:
            for x in range(wide):
                out[y, x] = min(max(out[y, x], _ZERO), _ONE)
        elif beyond == 1:
            for x in range(wide):
                out[y, x] -= np.floor(out[y, x])
        else:
            for x in range(wide):
                t = out[y, x]
                out[y, x] = abs(t - F(2) * np.floor(t * _HALF + _HALF))


def ramp(
    height: int,
    width: int,
    shape: int,
    start: tuple[float, float],
    step: tuple[float, float],
    scale: float,
    beyond: int,
) -> NDArray[np.float32]:
    """The position along a ramp at every pixel centre, 0..1: linear, radial, angular or diamond."""
    out = np.empty((height, width), F)
    numbers = (F(v) for v in (*start, *step, scale))
    rows.over(_ramp, height, out, shape, *numbers, beyond)
    return out


@inner(error_model="numpy", fastmath={"contract", "nnan"})
def _looked_up(row, places, cells, table):
    """A row of colours from a table, by places of 0..1 along it; ``places`` is used up."""
    steps = np.int32(len(table) - 1)
    for x in range(len(places)):
        at = min(max(places[x], _ZERO), _ONE) * F(steps)
        # Clamped at both ends, so that even a NaN is looked up inside the table.
        cells[x] = max(min(np.int32(at), steps - np.int32(1)), np.int32(0))
        places[x] = at - F(cells[x])
    for x in range(len(places)):
        k, t = np.uint64(cells[x]), places[x]
        n = k + np.uint64(1)
        row[x, 0] = table[k, 0] + t * (table[n, 0] - table[k, 0])
        row[x, 1] = table[k, 1] + t * (table[n, 1] - table[k, 1])
        row[x, 2] = table[k, 2] + t * (table[n, 2] - table[k, 2])
        row[x, 3] = table[k, 3] + t * (table[n, 3] - table[k, 3])


@compiled("in2 out3 in2", finite=True)
def _coloured(first, last, place, out, table):
    wide = place.shape[1]
    line, cells = np.empty(wide, F), np.empty(wide, np.int32)
    for y in range(first, last):
        for x in range(wide):
            line[x] = place[y, x]
        _looked_up(out[y], line, cells, table)


def coloured(place: NDArray[np.float32], table: NDArray[np.float32]) -> NDArray[np.float32]:
    """A matte taken through a table of premultiplied colours (steps + 1, 4)."""
    out = np.empty((*place.shape, 4), F)
    source, colours = np.ascontiguousarray(place), np.ascontiguousarray(table)
    rows.over(_coloured, len(place), source, out, colours)
    return out


@compiled("in3 out3 in2", finite=True)
def _recoloured(first, last, picture, out, table):
    wide = out.shape[1]
    line, cells = np.empty(wide, F), np.empty(wide, np.int32)
    for y in range(first, last):
        clear = 0
        for x in range(wide):
            alpha = picture[y, x, 3]
            luma = RED * picture[y, x, 0] + GREEN * picture[y, x, 1] + BLUE * picture[y, x, 2]
            line[x] = luma / max(alpha, _LEAST) if alpha > _ZERO else _ZERO
            clear |= alpha != _ONE
        _looked_up(out[y], line, cells, table)
        if clear:
            for x in range(wide):
                alpha = picture[y, x, 3]
                for c in range(4):
                    out[y, x, c] *= alpha


def recoloured(picture: NDArray[np.float32], table: NDArray[np.float32]) -> NDArray[np.float32]:
    """The luminance of a picture's straight colour taken through a table, under its alpha."""
    out = np.empty_like(picture, order="C")
    rows.over(_recoloured, len(out), np.ascontiguousarray(picture), out, table)
    return out


@compiled("out3 in3 in1", finite=True)
def _shaded(first, last, out, picture, shade):
    for y in range(first, last):
        part = shade[y]
        for x in range(out.shape[1]):
            for c in range(3):
                out[y, x, c] = picture[y, x, c] * part
            out[y, x, 3] = picture[y, x, 3]


def shaded(picture: NDArray[np.float32], shade: NDArray[np.float32]) -> NDArray[np.float32]:
    """The colour of each row times a number for that row; alpha stays."""
    out = np.empty_like(picture, order="C")
    rows.over(_shaded, len(out), out, np.ascontiguousarray(picture), shade.astype(F))
    return out
