"""Between the bytes of files and screens, and the engine's pictures and mattes."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..rows import compiled, inlined
from .luminance import BLUE, GREEN, RED

F = np.float32
_EIGHT, _SIXTEEN = F(1 / 255), F(1 / 65535)
_ONE, _ZERO, _HALF = F(1), F(0), F(0.5)


@compiled("byte_in3 out3 in1")
def _widen_8(first, last, pixels, out, table):
    wide, planes = out.shape[1], pixels.shape[2]
    for y in range(first, last):
        if planes == 3:
            for x in range(wide):
                out[y, x, 0] = table[pixels[y, x, 0]]
                out[y, x, 1] = table[pixels[y, x, 1]]
                out[y, x, 2] = table[pixels[y, x, 2]]
                out[y, x, 3] = _ONE
        else:
            for x in range(wide):
                alpha = table[pixels[y, x, 3]]
                out[y, x, 0] = table[pixels[y, x, 0]] * alpha
                out[y, x, 1] = table[pixels[y, x, 1]] * alpha
                out[y, x, 2] = table[pixels[y, x, 2]] * alpha
                out[y, x, 3] = alpha


@compiled("word_in3 out3")
def _widen_16(first, last, pixels, out):
    wide, planes = out.shape[1], pixels.shape[2]
    for y in range(first, last):
        for x in range(wide):
            alpha = F(pixels[y, x, 3]) * _SIXTEEN if planes == 4 else _ONE
            out[y, x, 0] = F(pixels[y, x, 0]) * _SIXTEEN * alpha
            out[y, x, 1] = F(pixels[y, x, 1]) * _SIXTEEN * alpha
            out[y, x, 2] = F(pixels[y, x, 2]) * _SIXTEEN * alpha
            out[y, x, 3] = alpha


_TABLE = (np.arange(256, dtype=np.float64) / 255).astype(F)


def widen(pixels: NDArray[Any]) -> NDArray[np.float32]:
    """Straight 8- or 16-bit RGB or RGBA to a premultiplied float picture."""
    out = np.empty((*pixels.shape[:2], 4), F)
    if pixels.dtype == np.uint8:
        rows.over(_widen_8, len(out), pixels, out, _TABLE)
    else:
        rows.over(_widen_16, len(out), pixels, out)
    return out


@compiled("in3 byte_out3 in2")
def _narrow_8(first, last, picture, out, spread):
    wide = out.shape[1]
    top = F(255)
    for y in range(first, last):
        for x in range(wide):
            alpha = picture[y, x, 3]
            scale = top
            if alpha < _ONE:
                scale = top / alpha if alpha > F(1e-6) else _ZERO
            add = spread[y & 7, x & 7]
            for c in range(3):
                value = min(max(picture[y, x, c] * scale, _ZERO), top)
                out[y, x, c] = np.uint8(value + add)
            out[y, x, 3] = np.uint8(min(max(alpha * top, _ZERO), top) + _HALF)


@compiled("in3 word_out3")
def _narrow_16(first, last, picture, out):
    wide = out.shape[1]
    top = F(65535)
    for y in range(first, last):
        for x in range(wide):
            alpha = picture[y, x, 3]
            scale = top
            if alpha < _ONE:
                scale = top / alpha if alpha > F(1e-6) else _ZERO
            for c in range(3):
                value = min(max(picture[y, x, c] * scale, _ZERO), top)
                out[y, x, c] = np.uint16(value + _HALF)
            out[y, x, 3] = np.uint16(min(max(alpha * top, _ZERO), top) + _HALF)


def _bayer(order: int) -> NDArray[np.float64]:
    """Bayer's (1973) index matrix of side 2**order."""
    matrix = np.zeros((1, 1))
    for _ in range(order):
        matrix = np.block([[4 * matrix, 4 * matrix + 2], [4 * matrix + 3, 4 * matrix + 1]])
    return matrix


_ROUND = np.full((8, 8), 0.5, F)
_SPREAD = ((_bayer(3) + 0.5) / 64).astype(F)


def narrow(picture: NDArray[np.float32], bits: int, dither: bool) -> NDArray[Any]:
    """A premultiplied float picture to straight RGBA, rounded; 8 bits may be dithered."""
    picture = np.ascontiguousarray(picture)
    if bits == 8:
        out = np.empty(picture.shape, np.uint8)
        rows.over(_narrow_8, len(out), picture, out, _SPREAD if dither else _ROUND)
        return out
    deep = np.empty(picture.shape, np.uint16)
    rows.over(_narrow_16, len(deep), picture, deep)
    return deep


@inlined()
def _codes(row, out):
    for n in range(len(row)):
        # Written so that NaN becomes black.
        value = row[n] * F(255)
        value = value if value > _ZERO else _ZERO
        value = value if value < F(255) else F(255)
        out[n] = np.uint8(np.int32(value + _HALF))


# Greys near the middle, on which white and black letters are readable.
_DARK, _LIGHT = F(112), F(124)


@compiled("in2 byte_out2 i")
def _show(first, last, picture, out, cell):
    wide = out.shape[1] // 3
    weave = np.empty((2, wide), F)
    for x in range(wide):
        odd = cell > 0 and x // cell & 1
        weave[0, x], weave[1, x] = (_DARK, _LIGHT) if odd else (_LIGHT, _DARK)
    codes, mixed = np.empty(4 * wide, np.uint8), np.zeros(4 * wide, F)
    pixels = codes.view(np.uint32)
    for y in range(first, last):
        row = picture[y]
        _codes(row, codes)
        least = np.uint32(0xFFFFFFFF)
        for x in range(wide):
            least &= pixels[x]
        if least >> np.uint32(24) != np.uint32(255) and cell > 0:
            # Premultiplied colour over a weave of two greys.
            below = weave[y // cell & 1]
            for x in range(wide):
                alpha = row[4 * x + 3]
                rest = (_ONE - alpha) * below[x] / F(255) if alpha < _ONE else _ZERO
                for c in range(3):
                    mixed[4 * x + c] = row[4 * x + c] + rest
            _codes(mixed, codes)
        for x in range(wide):
            pixel, at = pixels[x], np.uint64(3 * x)
            out[y, at] = np.uint8(pixel)
            out[y, at + np.uint64(1)] = np.uint8(pixel >> np.uint32(8))
            out[y, at + np.uint64(2)] = np.uint8(pixel >> np.uint32(16))


def show(picture: NDArray[np.float32], cell: int = 8) -> NDArray[np.uint8]:
    """A picture as opaque 8-bit RGB; clear areas show a weave of ``cell`` pixels.

    With ``cell`` 0 they are black, as a premultiplied picture has them. A row that is opaque to
    within half a code value counts as opaque.
    """
    out = np.empty((*picture.shape[:2], 3), np.uint8)
    flat = np.ascontiguousarray(picture).reshape(len(out), -1)
    rows.over(_show, len(out), flat, out.reshape(len(out), -1), cell)
    return out


@compiled("in2 index_out1")
def _clear(first, last, picture, out):
    wide = picture.shape[1] // 4
    for y in range(first, last):
        found = np.int32(0)
        for x in range(wide):
            found |= np.int32(1) - np.int32(picture[y, 4 * x + 3] >= _ONE)
        out[y] = found


def opaque(picture: NDArray[np.float32]) -> bool:
    """Whether no pixel's alpha is below 1."""
    out = np.empty(len(picture), np.int32)
    flat = np.ascontiguousarray(picture).reshape(len(picture), -1)
    rows.over(_clear, len(out), flat, out)
    return not out.any()


@compiled("in3 out2 i b")
def _channel(first, last, picture, out, which, invert):
    wide = out.shape[1]
    for y in range(first, last):
        if which == 0:
            for x in range(wide):
                out[y, x] = (
                    RED * picture[y, x, 0] + GREEN * picture[y, x, 1] + BLUE * picture[y, x, 2]
                )
        else:
            plane = 3 if which == 1 else which - 2
            for x in range(wide):
                out[y, x] = picture[y, x, plane]
        if invert:
            for x in range(wide):
                out[y, x] = _ONE - out[y, x]


def channel(picture: NDArray[np.float32], which: int, invert: bool) -> NDArray[np.float32]:
    """Luminance (0), alpha (1), red, green or blue (2..4) of a picture."""
    out = np.empty(picture.shape[:2], F)
    rows.over(_channel, len(out), np.ascontiguousarray(picture), out, which, invert)
    return out


@compiled("in2 out3")
def _grey(first, last, matte, out):
    for y in range(first, last):
        for x in range(out.shape[1]):
            value = matte[y, x]
            out[y, x, 0] = value
            out[y, x, 1] = value
            out[y, x, 2] = value
            out[y, x, 3] = _ONE


def grey(matte: NDArray[np.float32]) -> NDArray[np.float32]:
    """A matte as an opaque grey picture."""
    out = np.empty((*matte.shape, 4), F)
    rows.over(_grey, len(out), np.ascontiguousarray(matte), out)
    return out


@compiled("byte_in2 byte_out3 index_in1 in2 index_in1 in2", finite=True)
def _reduce(first, last, pixels, out, top, weigh_rows, left, weigh_columns):
    wide, long = out.shape[1], pixels.shape[1]
    down, across = weigh_rows.shape[1], weigh_columns.shape[1]
    line = np.empty(long, F)
    for y in range(first, last):
        # Rows first: weights that are the same all along a row leave loops that vectorise.
        row = top[y]
        one, two, w0, w1 = pixels[row], pixels[row + 1], weigh_rows[y, 0], weigh_rows[y, 1]
        for x in range(long):
            line[x] = w0 * F(one[x]) + w1 * F(two[x]) + _HALF  # the half rounds the sum
        for k in range(2, down):
            source, weight = pixels[row + k], weigh_rows[y, k]
            for x in range(long):
                line[x] += weight * F(source[x])
        for x in range(wide):
            at = 3 * left[x]
            w0, w1 = weigh_columns[x, 0], weigh_columns[x, 1]
            red = w0 * line[at] + w1 * line[at + 3]
            green = w0 * line[at + 1] + w1 * line[at + 4]
            blue = w0 * line[at + 2] + w1 * line[at + 5]
            for k in range(2, across):
                weight = weigh_columns[x, k]
                red += weight * line[at + 3 * k]
                green += weight * line[at + 3 * k + 1]
                blue += weight * line[at + 3 * k + 2]
            out[y, x, 0] = np.uint8(np.int32(red))
            out[y, x, 1] = np.uint8(np.int32(green))
            out[y, x, 2] = np.uint8(np.int32(blue))


@compiled("byte_in2 byte_out2 index_in1 in2 index_in1 in2", finite=True)
def _reduce_two(first, last, pixels, out, top, weigh_rows, places, weights):
    # As above, for pixels that cover two rows and two columns only: one colour at a time.
    long = pixels.shape[1]
    line = np.empty(long, F)
    for y in range(first, last):
        row = top[y]
        one, two, w0, w1 = pixels[row], pixels[row + 1], weigh_rows[y, 0], weigh_rows[y, 1]
        for x in range(long):
            line[x] = w0 * F(one[x]) + w1 * F(two[x]) + _HALF
        for n in range(out.shape[1]):
            at = np.uint32(places[n])
            value = weights[0, n] * line[at] + weights[1, n] * line[at + np.uint32(3)]
            out[y, n] = np.uint8(np.int32(value))


@lru_cache(maxsize=64)
def _shares(source: int, target: int) -> tuple[NDArray[Any], NDArray[Any]]:
    """For each target pixel the first source pixel it reads, and the shares of its area.

    All read the same number of pixels, two at least, never past the end; spare ones weigh 0.
    """
    edges = np.arange(target + 1) * (source / target)
    first = np.floor(edges[:-1] + 1e-9).astype(np.int64)
    last = np.ceil(edges[1:] - 1e-9).astype(np.int64)
    inputs = min(source, max(2, int((last - first).max())))
    first = np.minimum(first, source - inputs)
    pixel = first[:, None] + np.arange(inputs)
    cover = np.minimum(pixel + 1, edges[1:, None]) - np.maximum(pixel, edges[:-1, None])
    weights = np.maximum(cover, 0)
    weights /= weights.sum(1, keepdims=True)
    return first.astype(np.int32), weights.astype(F)


def reduce(pixels: NDArray[np.uint8], height: int, width: int) -> NDArray[np.uint8]:
    """Reduce opaque 8-bit RGB by averaging areas: each pixel is the mean of the area that it
    covers."""
    out = np.empty((height, width, 3), np.uint8)
    rows_of, columns_of = _shares(pixels.shape[0], height), _shares(pixels.shape[1], width)
    flat = np.ascontiguousarray(pixels).reshape(len(pixels), -1)
    if rows_of[1].shape[1] == columns_of[1].shape[1] == 2:
        places = (3 * columns_of[0][:, None] + np.arange(3, dtype=np.int32)).ravel()
        weights = np.ascontiguousarray(np.repeat(columns_of[1].T, 3, 1))
        rows.over(_reduce_two, height, flat, out.reshape(height, -1), *rows_of, places, weights)
        return out
    rows.over(_reduce, height, flat, out, *rows_of, *columns_of)
    return out


@compiled("in2 out3 index_in1 in2 index_in1 in2", finite=True)
def _reduce_four(first, last, plane, out, top, weigh_rows, left, weigh_columns):
    long = plane.shape[1]
    down, across = weigh_rows.shape[1], weigh_columns.shape[1]
    line = np.empty(long, F)
    for y in range(first, last):
        row = top[y]
        one, two, w0, w1 = plane[row], plane[row + 1], weigh_rows[y, 0], weigh_rows[y, 1]
        for x in range(long):
            line[x] = w0 * one[x] + w1 * two[x]
        for k in range(2, down):
            source, weight = plane[row + k], weigh_rows[y, k]
            if weight > _ZERO:
                for x in range(long):
                    line[x] += weight * source[x]
        for x in range(out.shape[1]):
            at, w0 = 4 * left[x], weigh_columns[x, 0]
            red, green, blue, alpha = (
                w0 * line[at], w0 * line[at + 1], w0 * line[at + 2], w0 * line[at + 3]
            )  # fmt: skip
            for k in range(1, across):
                weight = weigh_columns[x, k]
                at += 4
                red += weight * line[at]
                green += weight * line[at + 1]
                blue += weight * line[at + 2]
                alpha += weight * line[at + 3]
            out[y, x, 0] = red
            out[y, x, 1] = green
            out[y, x, 2] = blue
            out[y, x, 3] = alpha


def reduce_picture(picture: NDArray[np.float32], height: int, width: int) -> NDArray[np.float32]:
    """Reduce a picture (H, W, 4) by averaging areas: each pixel is the mean of the area that it
    covers."""
    # At least two are read; the same one twice gives the same mean.
    for axis in (0, 1):
        if picture.shape[axis] < 2:
            picture = np.repeat(picture, 2, axis)
    out = np.empty((height, width, 4), F)
    rows_of, columns_of = _shares(picture.shape[0], height), _shares(picture.shape[1], width)
    flat = np.ascontiguousarray(picture).reshape(len(picture), -1)
    rows.over(_reduce_four, height, flat, out, *rows_of, *columns_of)
    return out


@compiled("out3 f f f f")
def _fill(first, last, out, red, green, blue, alpha):
    for y in range(first, last):
        for x in range(out.shape[1]):
            out[y, x, 0] = red
            out[y, x, 1] = green
            out[y, x, 2] = blue
            out[y, x, 3] = alpha


def filled(height: int, width: int, colour: tuple[float, ...]) -> NDArray[np.float32]:
    """A picture of one premultiplied colour."""
    out = np.empty((height, width, 4), F)
    rows.over(_fill, height, out, *(F(c) for c in colour))
    return out
