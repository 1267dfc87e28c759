"""Between RGB pixels and the luma and chroma planes of video."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..rows import compiled, inlined

F = np.float32
_HALF = F(0.5)


@inlined()
def _chroma(plane, y, high, shift_x, shift_y, row, out):
    """One row of chroma at the size of the picture: left sited, centred vertically."""
    wide = len(out)
    few = (wide + shift_x) >> shift_x
    if shift_y:
        at = y >> 1
        other = min(max(at + (1 if y & 1 else -1), 0), high - 1)
        near, far = plane[at], plane[other]
        for x in range(few):
            row[x] = F(0.75) * F(near[x]) + F(0.25) * F(far[x])
    else:
        near = plane[y]
        for x in range(few):
            row[x] = F(near[x])
    if shift_x:
        row[few] = row[few - 1]
        for x in range(few - 1):
            out[2 * x] = row[x]
            out[2 * x + 1] = _HALF * (row[x] + row[x + 1])
        out[2 * few - 2] = row[few - 1]
        if 2 * few - 1 < wide:
            out[2 * few - 1] = row[few - 1]
    else:
        for x in range(wide):
            out[x] = row[x]


@inlined()
def _code(value, top):
    """A value as the nearest code, 0 to ``top``."""
    value = value + _HALF
    value = value if value > F(0) else F(0)
    return np.int32(value if value < top else top)


# The step from pixel to pixel is a constant in these two: the compiler then vectorises them.
@inlined()
def _lay(r, g, b, out, each):
    for x in range(len(r)):
        at = np.uint64(each) * np.uint64(x)
        out[at], out[at + np.uint64(1)], out[at + np.uint64(2)] = r[x], g[x], b[x]


@inlined()
def _take(row, r, g, b, each):
    for x in range(len(r)):
        at = np.uint64(each) * np.uint64(x)
        r[x], g[x], b[x] = row[at], row[at + np.uint64(1)], row[at + np.uint64(2)]


@inlined()
def _to_rgb(first, last, luma, blue, red, out, each, table, shift_x, shift_y):
    wide = out.shape[1] // each
    high = (out.shape[0] + shift_y) >> shift_y
    row, u, v = np.empty(wide + 2, F), np.empty(wide, F), np.empty(wide, F)
    grey = np.empty(wide, F)
    r, g, b = np.empty(wide, np.int32), np.empty(wide, np.int32), np.empty(wide, np.int32)
    scale, black, top = table[0], table[1], table[6]
    red_v, green_u, green_v, blue_u = table[2], table[3], table[4], table[5]
    middle = table[7]
    for y in range(first, last):
        _chroma(blue, y, high, shift_x, shift_y, row, u)
        _chroma(red, y, high, shift_x, shift_y, row, v)
        greys, pixels = luma[y], out[y]
        # A loop for each channel: with fewer arrays in each, the compiler vectorises them.
        for x in range(wide):
            grey[x] = (F(greys[x]) - black) * scale
        for x in range(wide):
            r[x] = _code(grey[x] + red_v * (v[x] - middle), top)
        for x in range(wide):
            g[x] = _code(grey[x] + green_u * (u[x] - middle) + green_v * (v[x] - middle), top)
        for x in range(wide):
            b[x] = _code(grey[x] + blue_u * (u[x] - middle), top)
        if each == 3:
            _lay(r, g, b, pixels, 3)
        else:
            _lay(r, g, b, pixels, 4)


@compiled("byte_in2 byte_in2 byte_in2 byte_out2 i in1 i i")
def _to_rgb_8(first, last, luma, blue, red, out, each, table, shift_x, shift_y):
    _to_rgb(first, last, luma, blue, red, out, each, table, shift_x, shift_y)


@compiled("word_in2 word_in2 word_in2 word_out2 i in1 i i")
def _to_rgb_16(first, last, luma, blue, red, out, each, table, shift_x, shift_y):
    _to_rgb(first, last, luma, blue, red, out, each, table, shift_x, shift_y)


@inlined()
def _to_planes(first, last, pixels, each, luma, blue, red, table, shift_x, shift_y):
    wide = pixels.shape[1] // each
    few = wide >> shift_x
    r, g, b = np.empty(wide, F), np.empty(wide, F), np.empty(wide, F)
    u, v = np.empty(wide + 1, F), np.empty(wide + 1, F)
    top, black, middle = table[9], table[10], table[11]
    y_r, y_g, y_b = table[0], table[1], table[2]
    u_r, u_g, u_b = table[3], table[4], table[5]
    v_r, v_g, v_b = table[6], table[7], table[8]
    for block in range(first, last):
        begin = block << shift_y
        for y in range(begin, begin + 1 + shift_y):
            row, codes = pixels[y], luma[y]
            if each == 3:
                _take(row, r, g, b, 3)
            else:
                _take(row, r, g, b, 4)
            for x in range(wide):
                codes[x] = _code(black + y_r * r[x] + y_g * g[x] + y_b * b[x], top)
            if y == begin:
                for x in range(wide):
                    u[x] = u_r * r[x] + u_g * g[x] + u_b * b[x]
                for x in range(wide):
                    v[x] = v_r * r[x] + v_g * g[x] + v_b * b[x]
            else:
                for x in range(wide):
                    u[x] = _HALF * (u[x] + (u_r * r[x] + u_g * g[x] + u_b * b[x]))
                for x in range(wide):
                    v[x] = _HALF * (v[x] + (v_r * r[x] + v_g * g[x] + v_b * b[x]))
        if shift_x:
            # Left sited: each sample stands at an even pixel, and takes half of it.
            _halved(u, few, middle, top, blue[block])
            _halved(v, few, middle, top, red[block])
        else:
            u_codes, v_codes = blue[block], red[block]
            for x in range(wide):
                u_codes[x] = _code(middle + u[x], top)
                v_codes[x] = _code(middle + v[x], top)


@inlined()
def _halved(row, few, middle, top, out):
    for x in range(few):
        at = np.uint64(2) * np.uint64(x)
        before = row[at - np.uint64(1)] if x else row[0]
        out[x] = _code(middle + _HALF * row[at] + F(0.25) * (before + row[at + np.uint64(1)]), top)


@compiled("byte_in2 i byte_out2 byte_out2 byte_out2 in1 i i")
def _to_planes_8(first, last, pixels, each, luma, blue, red, table, shift_x, shift_y):
    _to_planes(first, last, pixels, each, luma, blue, red, table, shift_x, shift_y)


@compiled("word_in2 i word_out2 word_out2 word_out2 in1 i i")
def _to_planes_16(first, last, pixels, each, luma, blue, red, table, shift_x, shift_y):
    _to_planes(first, last, pixels, each, luma, blue, red, table, shift_x, shift_y)


Matrix = tuple[float, float]
"""The weights of red and blue in luma."""
REC_709: Matrix = (0.2126, 0.0722)
REC_601: Matrix = (0.299, 0.114)
REC_2020: Matrix = (0.2627, 0.0593)


def levels(bits: int, full: bool) -> tuple[float, float, float, float]:
    """Codes of video: black, white minus black, the middle of chroma, and its whole span.

    References
    ----------
    ITU-R BT.709-6, item 5.2 (16 to 235 and 16 to 240, times 2ⁿ⁻⁸); ITU-T H.273, full range.
    """
    unit, top = float(1 << (bits - 8)), float((1 << bits) - 1)
    if full:
        return 0.0, top, float(1 << (bits - 1)), top
    return 16 * unit, 219 * unit, 128 * unit, 224 * unit


def to_rgb(
    luma: NDArray[Any], blue: NDArray[Any], red: NDArray[Any], out: NDArray[Any],
    matrix: Matrix, bits: int, full: bool, shifts: tuple[int, int],
) -> None:  # fmt: skip
    """Fill RGB pixels from the planes of a frame; chroma between its samples is interpolated.

    Parameters
    ----------
    luma, blue, red : (H, ≥ W), (H', ≥ W'), (H', ≥ W') uint8, or uint16 with ``bits`` in use
        Rows may be longer than the picture.
    out : (H, W, 3 or 4), uint8 or uint16
        Filled with codes of its own depth. A fourth channel stays as it is.
    shifts : (across, down)
        1 where chroma has half as many samples.

    References
    ----------
    ITU-R BT.709-6, BT.601-7, BT.2020-2: luma and colour-difference equations.
    """
    kr, kb = matrix
    kg = 1 - kr - kb
    black, span, middle, chroma = levels(bits, full)
    top = 255.0 if out.dtype == np.uint8 else 65535.0
    each = top / chroma
    table = np.array(
        [
            top / span, black,
            2 * (1 - kr) * each, -2 * kb * (1 - kb) / kg * each,
            -2 * kr * (1 - kr) / kg * each, 2 * (1 - kb) * each,
            top, middle,
        ], F,
    )  # fmt: skip
    kernel = _to_rgb_8 if out.dtype == np.uint8 else _to_rgb_16
    flat, each = out.reshape(len(out), -1), out.shape[2]
    rows.over(kernel, len(out), luma, blue, red, flat, each, table, *shifts)


def to_planes(
    pixels: NDArray[Any], luma: NDArray[Any], blue: NDArray[Any], red: NDArray[Any],
    bits: int, shifts: tuple[int, int], matrix: Matrix = REC_709, full: bool = False,
) -> None:  # fmt: skip
    """Fill the planes of a frame from straight RGB or RGBA pixels, 8 or 16 bits; the inverse of
    :func:`to_rgb`. Rows of the planes may be longer than the picture.

    Size divides by 2 along an axis with half the chroma.
    """
    kr, kb = matrix
    kg = 1 - kr - kb
    black, span, middle, chroma = levels(bits, full)
    one = 1 / (255.0 if pixels.dtype == np.uint8 else 65535.0)
    y, c = span * one, chroma * one
    table = np.array(
        [
            kr * y, kg * y, kb * y,
            -kr / (2 * (1 - kb)) * c, -kg / (2 * (1 - kb)) * c, 0.5 * c,
            0.5 * c, -kg / (2 * (1 - kr)) * c, -kb / (2 * (1 - kr)) * c,
            (1 << bits) - 1, black, middle,
        ], F,
    )  # fmt: skip
    kernel = _to_planes_8 if pixels.dtype == np.uint8 else _to_planes_16
    flat = np.ascontiguousarray(pixels).reshape(len(pixels), -1)
    each, high = pixels.shape[2], len(pixels) >> shifts[1]
    rows.over(kernel, high, flat, each, luma, blue, red, table, *shifts)
