"""Two pictures into one: mixes, wipes and the blend modes."""

from __future__ import annotations

import numba
import numpy as np
from numpy.typing import NDArray

from . import rows
from .rows import compiled

F = np.float32
_ONE, _ZERO, _HALF, _TWO, _QUARTER = F(1), F(0), F(0.5), F(2), F(0.25)
# A softness below this is a step: its slope would pass what a float32 holds.
_LEAST = F(1e-6)
_FOUR, _TWELVE, _SIXTEEN = F(4), F(12), F(16)
_RED, _GREEN, _BLUE = F(0.3), F(0.59), F(0.11)  # W3C Compositing 1, section 10.2: Lum()


@compiled("out2 in2 in2 f")
def _mix(first, last, out, below, above, weight):
    for y in range(first, last):
        for x in range(out.shape[1]):
            out[y, x] = below[y, x] + weight * (above[y, x] - below[y, x])


@compiled("out2 in2 in2")
def _add(first, last, out, below, above):
    for y in range(first, last):
        for x in range(out.shape[1]):
            out[y, x] = below[y, x] + above[y, x]


def _lines(plane: NDArray[np.float32]) -> NDArray[np.float32]:
    """A picture or matte as contiguous rows of numbers, without copying where it can be."""
    return np.ascontiguousarray(plane).reshape(len(plane), -1)


def mix(
    below: NDArray[np.float32], above: NDArray[np.float32], weight: float
) -> NDArray[np.float32]:
    """below + weight·(above − below), two pictures or two mattes alike."""
    out = np.empty_like(below, order="C")
    rows.over(_mix, len(out), _lines(out), _lines(below), _lines(above), F(weight))
    return out


def add(below: NDArray[np.float32], above: NDArray[np.float32]) -> NDArray[np.float32]:
    """The sum of two pictures or two mattes."""
    out = np.empty_like(below, order="C")
    rows.over(_add, len(out), _lines(out), _lines(below), _lines(above))
    return out


@numba.njit(
    "void(f4[::1],f4[::1],Array(f4,1,'C',readonly=True),f4,f4,f4,f4)",
    cache=True, nogil=True, error_model="numpy", fastmath={"contract", "nnan"},
)  # fmt: skip
def _edge_line(weight, band, line, edge, softness, rim, rim_soft):
    """One row of the wipe's weight, and of its rim's."""
    slope = _ONE / softness if softness > _LEAST else _ZERO
    middle = edge - _HALF * softness
    half = _HALF * rim
    fall = _ONE / rim_soft if rim_soft > _LEAST else _ZERO
    wide = len(weight)
    if softness > _LEAST:
        for x in range(wide):
            m = min(max(line[x], _ZERO), _ONE)
            weight[x] = min(max((edge - m) * slope, _ZERO), _ONE)
    else:
        for x in range(wide):
            weight[x] = _ONE if min(max(line[x], _ZERO), _ONE) < edge else _ZERO
    if rim > _ZERO:
        for x in range(wide):
            far = abs(middle - min(max(line[x], _ZERO), _ONE)) - half
            if fall > _ZERO:
                t = min(max(_ONE - far * fall, _ZERO), _ONE)
                band[x] = t * t * (F(3) - _TWO * t)
            else:
                band[x] = _ONE if far < _ZERO else _ZERO


@compiled("out3 in3 in3 in2 f f f f in1", finite=True)
def _wipe(first, last, out, below, above, matte, edge, softness, rim, rim_soft, colour):
    wide = out.shape[1]
    weight = np.empty(wide, F)
    band = np.zeros(wide, F)
    for y in range(first, last):
        _edge_line(weight, band, matte[y], edge, softness, rim, rim_soft)
        for x in range(wide):
            w = weight[x]
            r = band[x]
            keep = _ONE - r * colour[3]
            for c in range(4):
                value = below[y, x, c] + w * (above[y, x, c] - below[y, x, c])
                out[y, x, c] = value * keep + colour[c] * r


@compiled("byte_out2 byte_in2 byte_in2 in2 f f f f in1", finite=True)
def _wipe_bytes(first, last, out, below, above, matte, edge, softness, rim, rim_soft, colour):
    # In code values, three a pixel side by side.
    wide = matte.shape[1]
    weight = np.empty(wide, F)
    band = np.zeros(wide, F)
    top = F(255)
    red, green, blue, alpha = colour[0], colour[1], colour[2], colour[3]
    for y in range(first, last):
        _edge_line(weight, band, matte[y], edge, softness, rim, rim_soft)
        one, two, made = below[y], above[y], out[y]
        if rim <= _ZERO:
            for x in range(wide):
                w = weight[x]
                for c in range(3):
                    a = F(one[3 * x + c])
                    made[3 * x + c] = np.uint8(np.int32(a + w * (F(two[3 * x + c]) - a) + _HALF))
            continue
        for x in range(wide):
            w = weight[x]
            r = band[x] * top
            keep = _ONE - band[x] * alpha
            # Within 0 and 255 without a clamp: the rim's colour is no more than its alpha.
            # Written out: three lines of one shape vectorise, a loop over colours does not.
            a, b, c = F(one[3 * x]), F(one[3 * x + 1]), F(one[3 * x + 2])
            a = (a + w * (F(two[3 * x]) - a)) * keep + r * red
            b = (b + w * (F(two[3 * x + 1]) - b)) * keep + r * green
            c = (c + w * (F(two[3 * x + 2]) - c)) * keep + r * blue
            made[3 * x] = np.uint8(np.int32(a + _HALF))
            made[3 * x + 1] = np.uint8(np.int32(b + _HALF))
            made[3 * x + 2] = np.uint8(np.int32(c + _HALF))


def wipe_bytes(
    below: NDArray[np.uint8],
    above: NDArray[np.uint8],
    matte: NDArray[np.float32],
    edge: float,
    softness: float,
    rim: float,
    rim_soft: float,
    colour: tuple[float, float, float, float],
) -> NDArray[np.uint8]:
    """:func:`wipe` straight from and to opaque 8-bit pictures (H, W, 3)."""
    out = np.empty(below.shape, np.uint8)
    numbers = (F(edge), F(softness), F(rim), F(rim_soft), np.array(colour, F))
    planes = (plane.reshape(len(plane), -1) for plane in (out, below, above))
    rows.over(_wipe_bytes, len(out), *planes, np.ascontiguousarray(matte), *numbers)
    return out


def wipe(
    below: NDArray[np.float32],
    above: NDArray[np.float32],
    matte: NDArray[np.float32],
    edge: float,
    softness: float,
    rim: float,
    rim_soft: float,
    colour: tuple[float, float, float, float],
) -> NDArray[np.float32]:
    """The luma wipe at one position of its edge; see the step *Luma wipe* for the formula."""
    out = np.empty_like(below, order="C")
    arrays = (np.ascontiguousarray(plane) for plane in (below, above, matte))
    numbers = (F(edge), F(softness), F(rim), F(rim_soft), np.array(colour, F))
    rows.over(_wipe, len(out), out, *arrays, *numbers)
    return out


MODES = (
    "normal", "multiply", "screen", "overlay", "darken", "lighten", "colour dodge", "colour burn",
    "hard light", "soft light", "difference", "exclusion", "hue", "saturation", "colour",
    "luminosity",
)  # fmt: skip
"""The sixteen modes of W3C Compositing and Blending Level 1, sections 10.1 and 10.2."""


@numba.njit("f4(i8,f4,f4)", cache=True, nogil=True)
def _separable(mode, b, s):
    """B(cb, cs) of one channel; W3C Compositing and Blending Level 1, section 10.1."""
    if mode == 1:
        return b * s
    if mode == 2:
        return b + s - b * s
    if mode == 3 or mode == 8:
        top, under = (s, b) if mode == 8 else (b, s)
        if top <= _HALF:
            return under * _TWO * top
        top = _TWO * top - _ONE
        return under + top - under * top
    if mode == 4:
        return min(b, s)
    if mode == 5:
        return max(b, s)
    if mode == 6:
        if b <= _ZERO:
            return _ZERO
        return _ONE if s >= _ONE else min(_ONE, b / (_ONE - s))
    if mode == 7:
        if b >= _ONE:
            return _ONE
        return _ZERO if s <= _ZERO else _ONE - min(_ONE, (_ONE - b) / s)
    if mode == 9:
        if s <= _HALF:
            return b - (_ONE - _TWO * s) * b * (_ONE - b)
        if b <= _QUARTER:
            d = ((_SIXTEEN * b - _TWELVE) * b + _FOUR) * b
        else:
            d = np.sqrt(b)
        return b + (_TWO * s - _ONE) * (d - b)
    if mode == 10:
        return abs(b - s)
    if mode == 11:
        return b + s - _TWO * b * s
    return s


@numba.njit("UniTuple(f4,3)(f4,f4,f4,f4)", cache=True, nogil=True)
def _with_lum(r, g, b, lum):
    """SetLum with ClipColor; W3C Compositing and Blending Level 1, section 10.2."""
    shift = lum - (_RED * r + _GREEN * g + _BLUE * b)
    r, g, b = r + shift, g + shift, b + shift
    mean = _RED * r + _GREEN * g + _BLUE * b
    low, high = min(r, min(g, b)), max(r, max(g, b))
    if low < _ZERO and mean > low:
        f = mean / (mean - low)
        r, g, b = mean + (r - mean) * f, mean + (g - mean) * f, mean + (b - mean) * f
    if high > _ONE and high > mean:
        f = (_ONE - mean) / (high - mean)
        r, g, b = mean + (r - mean) * f, mean + (g - mean) * f, mean + (b - mean) * f
    return r, g, b


@numba.njit("UniTuple(f4,3)(f4,f4,f4,f4)", cache=True, nogil=True)
def _with_sat(r, g, b, sat):
    """SetSat: the channels stretched so that their span is ``sat`` and their least is 0."""
    low, high = min(r, min(g, b)), max(r, max(g, b))
    if high <= low:
        return _ZERO, _ZERO, _ZERO
    f = sat / (high - low)
    return (r - low) * f, (g - low) * f, (b - low) * f


@numba.njit("UniTuple(f4,3)(i8,f4,f4,f4,f4,f4,f4)", cache=True, nogil=True)
def _whole(mode, br, bg, bb, sr, sg, sb):
    """B(Cb, Cs) of the modes that look at all three channels."""
    below = _RED * br + _GREEN * bg + _BLUE * bb
    above = _RED * sr + _GREEN * sg + _BLUE * sb
    if mode == 12:
        r, g, b = _with_sat(sr, sg, sb, max(br, max(bg, bb)) - min(br, min(bg, bb)))
        return _with_lum(r, g, b, below)
    if mode == 13:
        r, g, b = _with_sat(br, bg, bb, max(sr, max(sg, sb)) - min(sr, min(sg, sb)))
        return _with_lum(r, g, b, below)
    if mode == 14:
        return _with_lum(sr, sg, sb, below)
    return _with_lum(br, bg, bb, above)


@compiled("out3 in3 in3 in2 i f")
def _blend(first, last, out, below, above, matte, mode, opacity):
    wide = out.shape[1]
    masked = matte.shape[0] == out.shape[0]
    for y in range(first, last):
        for x in range(wide):
            k = opacity
            if masked:
                k *= matte[y, x]
            ab, aa = below[y, x, 3], above[y, x, 3] * k
            rest = _ONE - aa
            if mode == 0 or ab <= _ZERO or aa <= _ZERO:
                for c in range(4):
                    out[y, x, c] = above[y, x, c] * k + rest * below[y, x, c]
                continue
            ib, ia = _ONE / ab, k / aa
            br, bg, bb = below[y, x, 0] * ib, below[y, x, 1] * ib, below[y, x, 2] * ib
            sr, sg, sb = above[y, x, 0] * ia, above[y, x, 1] * ia, above[y, x, 2] * ia
            if mode < 12:
                r = _separable(mode, br, sr)
                g = _separable(mode, bg, sg)
                b = _separable(mode, bb, sb)
            else:
                r, g, b = _whole(mode, br, bg, bb, sr, sg, sb)
            both, only = aa * ab, (_ONE - ab) * k
            out[y, x, 0] = only * above[y, x, 0] + rest * below[y, x, 0] + both * r
            out[y, x, 1] = only * above[y, x, 1] + rest * below[y, x, 1] + both * g
            out[y, x, 2] = only * above[y, x, 2] + rest * below[y, x, 2] + both * b
            out[y, x, 3] = aa + rest * ab


@compiled("out2 in2 in2 in2 i f")
def _blend_mattes(first, last, out, below, above, matte, mode, opacity):
    masked = matte.shape[0] == out.shape[0]
    for y in range(first, last):
        if mode == 0 and not masked:
            for x in range(out.shape[1]):
                out[y, x] = below[y, x] + opacity * (above[y, x] - below[y, x])
            continue
        for x in range(out.shape[1]):
            k = opacity
            if masked:
                k *= matte[y, x]
            b, s = below[y, x], above[y, x]
            if mode < 12:
                mixed = _separable(mode, b, s)
            else:
                # Greys have no hue and no saturation: only luminosity brings anything over.
                mixed = s if mode == 15 else b
            out[y, x] = b + k * (mixed - b)


_NO_MATTE = np.zeros((0, 0), F)


def blend(
    below: NDArray[np.float32],
    above: NDArray[np.float32],
    mode: str,
    opacity: float = 1.0,
    matte: NDArray[np.float32] | None = None,
) -> NDArray[np.float32]:
    """``above`` blended over ``below``: premultiplied pictures (H, W, 4), or mattes as greys.

    co = αs·k·(1 − αb)·Cs + (1 − αs·k)·αb·Cb + αs·k·αb·B(Cb, Cs), with k = opacity times matte.

    References
    ----------
    W3C Compositing and Blending Level 1, sections 5.8, 9.1.4 and 10.
    """
    out = np.empty_like(below, order="C")
    below, above = np.ascontiguousarray(below), np.ascontiguousarray(above)
    mask = _NO_MATTE if matte is None else np.ascontiguousarray(matte)
    run = _blend if below.ndim == 3 else _blend_mattes
    rows.over(run, len(out), out, below, above, mask, MODES.index(mode), F(opacity))
    return out
