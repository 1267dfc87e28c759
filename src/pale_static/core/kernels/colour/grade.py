"""Colour point by point: steps, solarising, matrices, the CDL, keys."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..rows import compiled
from .alpha import THIN
from .luminance import BLUE, GREEN, RED, WEIGHTS
from .power import power

F = np.float32
_ONE, _ZERO, _HALF, _TWO, _THREE = F(1), F(0), F(0.5), F(2), F(3)

POSTERISE, SOLARISE = 0, 1


@compiled("out2 in2 i f f")
def _bent_matte(first, last, out, matte, how, a, b):
    for y in range(first, last):
        for x in range(out.shape[1]):
            v = matte[y, x]
            if how == 0:
                out[y, x] = np.floor(v / a + _HALF) * a
            else:
                t = min(max((v - a + _HALF * b) / b, _ZERO), _ONE)
                t = t * t * (_THREE - _TWO * t)
                out[y, x] = v + t * (_ONE - _TWO * v)


@compiled("out3 in3 i f f")
def _bent(first, last, out, picture, how, a, b):
    for y in range(first, last):
        for x in range(out.shape[1]):
            alpha = picture[y, x, 3]
            scale = _ONE / alpha if alpha > THIN else _ZERO
            out[y, x, 3] = alpha
            for c in range(3):
                v = picture[y, x, c] * scale
                if how == 0:
                    # A colour that misses a half step only by rounding counts as the half step.
                    made = np.floor(v / a + F(0.50001)) * a
                else:
                    t = min(max((v - a + _HALF * b) / b, _ZERO), _ONE)
                    t = t * t * (_THREE - _TWO * t)
                    made = v + t * (_ONE - _TWO * v)
                out[y, x, c] = made * alpha


def bent(plane: NDArray[np.float32], how: int, first: float, second: float) -> NDArray[np.float32]:
    """Straight values posterised to a step, or solarised above a level over a softness."""
    out = np.empty_like(plane, order="C")
    run = _bent if plane.ndim == 3 else _bent_matte
    rows.over(run, len(out), out, np.ascontiguousarray(plane), how, F(first), F(second))
    return out


@compiled("out3 in3 in2", finite=True)
def _matrix(first, last, out, picture, m):
    # Read from the table first: as far as the compiler knows, the output may overlap it.
    rr, rg, rb = m[0, 0], m[0, 1], m[0, 2]
    gr, gg, gb = m[1, 0], m[1, 1], m[1, 2]
    br, bg, bb = m[2, 0], m[2, 1], m[2, 2]
    for y in range(first, last):
        for x in range(out.shape[1]):
            r, g, b = picture[y, x, 0], picture[y, x, 1], picture[y, x, 2]
            out[y, x, 0] = rr * r + rg * g + rb * b
            out[y, x, 1] = gr * r + gg * g + gb * b
            out[y, x, 2] = br * r + bg * g + bb * b
            out[y, x, 3] = picture[y, x, 3]


def matrix(picture: NDArray[np.float32], by: NDArray[np.float64]) -> NDArray[np.float32]:
    """Red, green and blue through a 3×3 matrix; premultiplied as they are."""
    out = np.empty_like(picture, order="C")
    rows.over(_matrix, len(out), out, np.ascontiguousarray(picture), by.astype(F))
    return out


@compiled("out3 in3 in2 f")
def _cdl(first, last, out, picture, table, saturation):
    wide = out.shape[1]
    line = np.empty(3 * wide, F)
    bend = np.empty(3 * wide, F)
    for x in range(wide):
        for c in range(3):
            bend[3 * x + c] = table[2, c]
    bent_at_all = table[2, 0] != _ONE or table[2, 1] != _ONE or table[2, 2] != _ONE
    for y in range(first, last):
        for x in range(wide):
            alpha = picture[y, x, 3]
            scale = _ONE / alpha if alpha > THIN else _ZERO
            for c in range(3):
                v = picture[y, x, c] * scale * table[0, c] + table[1, c]
                line[3 * x + c] = min(max(v, _ZERO), _ONE)
        if bent_at_all:
            for k in range(3 * wide):
                line[k] = power(line[k], bend[k])
        for x in range(wide):
            alpha = picture[y, x, 3]
            r, g, b = line[3 * x], line[3 * x + 1], line[3 * x + 2]
            grey = RED * r + GREEN * g + BLUE * b
            out[y, x, 0] = min(max(grey + saturation * (r - grey), _ZERO), _ONE) * alpha
            out[y, x, 1] = min(max(grey + saturation * (g - grey), _ZERO), _ONE) * alpha
            out[y, x, 2] = min(max(grey + saturation * (b - grey), _ZERO), _ONE) * alpha
            out[y, x, 3] = alpha


def cdl(
    picture: NDArray[np.float32],
    slope: tuple[float, float, float],
    offset: tuple[float, float, float],
    exponent: tuple[float, float, float],
    saturation: float,
) -> NDArray[np.float32]:
    """clamp(in·slope + offset)^power, then saturation about Rec. 709 luminance, clamped.

    References
    ----------
    ASC Color Decision List 1.2, order of operations.
    """
    out = np.empty_like(picture, order="C")
    table = np.array([slope, offset, exponent], F)
    rows.over(_cdl, len(out), out, np.ascontiguousarray(picture), table, F(saturation))
    return out


@compiled("out2 in3 f f f f", finite=True)
def _key(first, last, out, picture, cb, cr, tolerance, softness):
    for y in range(first, last):
        for x in range(out.shape[1]):
            alpha = picture[y, x, 3]
            scale = _ONE / alpha if alpha > THIN else _ZERO
            r, g, b = picture[y, x, 0] * scale, picture[y, x, 1] * scale, picture[y, x, 2] * scale
            luma = RED * r + GREEN * g + BLUE * b
            u = (b - luma) * F(1 / 1.8556) - cb
            v = (r - luma) * F(1 / 1.5748) - cr
            far = np.sqrt(u * u + v * v)
            t = min(max((far - tolerance) / softness, _ZERO), _ONE)
            out[y, x] = t * t * (_THREE - _TWO * t)


def key(
    picture: NDArray[np.float32],
    colour: tuple[float, float, float],
    tolerance: float,
    softness: float,
) -> NDArray[np.float32]:
    """0 where a picture's chroma is that of a colour, 1 where it is further than both numbers.

    The plane is Rec. 709 Cb, Cr (item 3.3), each within ±0.5.
    """
    r, _, b = colour
    luma = float(np.dot(WEIGHTS, colour))
    cb, cr = (b - luma) / 1.8556, (r - luma) / 1.5748
    out = np.empty(picture.shape[:2], F)
    numbers = (F(cb), F(cr), F(tolerance), F(max(softness, 1e-6)))
    rows.over(_key, len(out), out, np.ascontiguousarray(picture), *numbers)
    return out


@compiled("out3 in3 in2 in1 in1", finite=True)
def _keyed(first, last, out, picture, matte, chroma, along):
    for y in range(first, last):
        for x in range(out.shape[1]):
            r, g, b = picture[y, x, 0], picture[y, x, 1], picture[y, x, 2]
            cast = max(r * chroma[0] + g * chroma[1] + b * chroma[2], _ZERO)
            share = matte[y, x]
            out[y, x, 0] = (r - cast * along[0]) * share
            out[y, x, 1] = (g - cast * along[1]) * share
            out[y, x, 2] = (b - cast * along[2]) * share
            out[y, x, 3] = picture[y, x, 3] * share


def keyed(
    picture: NDArray[np.float32],
    matte: NDArray[np.float32],
    colour: tuple[float, float, float],
    spill: float,
) -> NDArray[np.float32]:
    """A picture weighted by a matte, less a share of its chroma along a colour's own."""
    red, green, blue = colour
    luma = float(np.dot(WEIGHTS, colour))
    own = np.array([red - luma, green - luma, blue - luma])
    size = float(np.sqrt(own @ own))
    along = own / size if size > 1e-3 else np.zeros(3)
    # The amount of chroma along it, computed directly from red, green and blue.
    chroma = along - np.array(WEIGHTS) * along.sum()
    out = np.empty_like(picture, order="C")
    planes = (np.ascontiguousarray(picture), np.ascontiguousarray(matte))
    rows.over(_keyed, len(out), out, *planes, chroma.astype(F), (spill * along).astype(F))
    return out
