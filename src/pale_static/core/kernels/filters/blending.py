"""Blend modes and operators: one picture laid over another."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..colour.alpha import THIN
from ..colour.power import code, light
from ..rows import compiled, inlined, inner

F = np.float32
_ONE, _ZERO, _HALF, _TWO, _QUARTER = F(1), F(0), F(0.5), F(2), F(0.25)
# What an un-premultiplied colour may miss black or white by.
_BLACK, _WHITE = F(1e-6), F(1 - 1e-6)
_FOUR, _TWELVE, _SIXTEEN = F(4), F(12), F(16)
_RED, _GREEN, _BLUE = F(0.3), F(0.59), F(0.11)  # W3C Compositing 1, section 10.2: Lum()

MODES = (
    "normal", "multiply", "screen", "overlay", "darken", "lighten", "colour dodge", "colour burn",
    "hard light", "soft light", "difference", "exclusion", "hue", "saturation", "colour",
    "luminosity", "add", "subtract", "divide", "linear burn", "vivid light", "pin light",
    "hard mix", "push away",
)  # fmt: skip
"""The sixteen modes of W3C Compositing and Blending Level 1, sections 10.1 and 10.2, and eight
more that are common practice."""
OPERATORS = {
    "over": (1, 0, 1, -1), "under": (1, -1, 1, 0), "in": (0, 1, 0, 0), "below in": (0, 0, 0, 1),
    "out": (1, -1, 0, 0), "below out": (0, 0, 1, -1), "atop": (0, 1, 1, -1),
    "below atop": (1, -1, 0, 1), "xor": (1, -1, 1, -1), "plus": (1, 0, 1, 0),
    "replace": (1, 0, 0, 0), "keep": (0, 0, 1, 0), "clear": (0, 0, 0, 0),
}  # fmt: skip
"""Porter & Duff's operators as a0, a1, b0, b1: the result is (a0 + a1·αb)·S + (b0 + b1·αs)·B."""


@inlined("f4(i8,f4,f4)", finite=True)
def _separable(mode, b, s):
    """B(cb, cs) of one channel; W3C Compositing and Blending Level 1, section 10.1."""
    if mode == 1:
        return b * s
    if mode == 2:
        return b + s - b * s
    if mode == 3 or mode == 8:
        top = s if mode == 8 else b
        under = b if mode == 8 else s
        low = under * _TWO * top
        high = _TWO * top - _ONE
        high = under + high - under * high
        return low if top <= _HALF else high
    if mode == 4:
        return min(b, s)
    if mode == 5:
        return max(b, s)
    if mode == 6:
        made = min(_ONE, b / (_ONE - s)) if s < _WHITE else _ONE
        return made if b > _BLACK else _ZERO
    if mode == 7:
        made = _ONE - min(_ONE, (_ONE - b) / s) if s > _BLACK else _ZERO
        return made if b < _WHITE else _ONE
    if mode == 9:
        low = b - (_ONE - _TWO * s) * b * (_ONE - b)
        d = ((_SIXTEEN * b - _TWELVE) * b + _FOUR) * b if b <= _QUARTER else np.sqrt(b)
        high = b + (_TWO * s - _ONE) * (d - b)
        return low if s <= _HALF else high
    if mode == 10:
        return abs(b - s)
    if mode == 11:
        return b + s - _TWO * b * s
    if mode == 16:
        return b + s
    if mode == 17:
        return max(b - s, _ZERO)
    if mode == 18:
        return min(b / s, _ONE) if s > _ZERO else (_ONE if b > _ZERO else _ZERO)
    if mode == 19:
        return max(b + s - _ONE, _ZERO)
    if mode == 20 or mode == 22:
        t = _TWO * s
        low = _ONE - min(_ONE, (_ONE - b) / t) if t > _BLACK else _ZERO
        low = low if b < _WHITE else _ONE
        u = _TWO - t
        high = min(_ONE, b / u) if u > _BLACK else _ONE
        high = high if b > _BLACK else _ZERO
        made = low if s <= _HALF else high
        if mode == 20:
            return made
        return _ONE if made >= _HALF else _ZERO
    if mode == 21:
        return min(b, _TWO * s) if s <= _HALF else max(b, _TWO * s - _ONE)
    if mode == 23:
        return _TWO * b - s
    return s


@inner("UniTuple(f4,3)(f4,f4,f4,f4)")
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


@inner("UniTuple(f4,3)(f4,f4,f4,f4)")
def _with_sat(r, g, b, sat):
    """SetSat: the channels stretched so that their span is ``sat`` and their least is 0."""
    low, high = min(r, min(g, b)), max(r, max(g, b))
    if high <= low:
        return _ZERO, _ZERO, _ZERO
    f = sat / (high - low)
    return (r - low) * f, (g - low) * f, (b - low) * f


@inner("UniTuple(f4,3)(i8,f4,f4,f4,f4,f4,f4)")
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


OFTEN = (0, 1, 2, 3, 4, 5, 9, 10, 16, 23)
"""Modes with a kernel of their own, in which the mode is a constant. The other modes share one
kernel."""


def _pictures(fixed: int) -> Callable[..., None]:
    """The kernel of one mode, or with −1 that of any."""

    @compiled("out3 in3 in3 in2 i f in1 f", finite=True)
    def run(first, last, out, below, above, matte, asked, opacity, weights, kept):
        mode = asked if fixed < 0 else fixed
        wide = out.shape[1]
        masked = matte.shape[0] == out.shape[0]
        a0, a1, b0, b1 = weights[0], weights[1], weights[2], weights[3]
        plain = kept == _ONE and a0 == _ONE and a1 == _ZERO and b0 == _ONE and b1 == -_ONE
        each = np.empty(wide, F)
        for y in range(first, last):
            for x in range(wide):
                each[x] = opacity
            if masked:
                for x in range(wide):
                    each[x] *= matte[y, x]
            if plain and fixed > 0:
                clear = 0
                for x in range(wide):
                    clear |= (below[y, x, 3] != _ONE) | (above[y, x, 3] != _ONE)
                if not clear:
                    # Colours under full alpha: the same sums without the divisions.
                    for x in range(wide):
                        k = each[x]
                        fb = _ONE - k
                        r = _separable(fixed, below[y, x, 0], above[y, x, 0])
                        g = _separable(fixed, below[y, x, 1], above[y, x, 1])
                        b = _separable(fixed, below[y, x, 2], above[y, x, 2])
                        out[y, x, 0] = fb * below[y, x, 0] + k * r
                        out[y, x, 1] = fb * below[y, x, 1] + k * g
                        out[y, x, 2] = fb * below[y, x, 2] + k * b
                        out[y, x, 3] = k + fb
                    continue
            for x in range(wide):
                k = each[x]
                ab, aa = below[y, x, 3] * kept, above[y, x, 3] * k
                fa, fb = a0 + a1 * ab, b0 + b1 * aa
                free, both = (_ONE - ab) * k * fa, aa * ab * fa
                fb *= kept
                if mode == 0:
                    for c in range(4):
                        out[y, x, c] = above[y, x, c] * k * fa + fb * below[y, x, c]
                    continue
                ib = _ONE / below[y, x, 3] if ab > THIN else _ZERO
                ia = k / aa if aa > THIN else _ZERO
                br, bg, bb = below[y, x, 0] * ib, below[y, x, 1] * ib, below[y, x, 2] * ib
                sr, sg, sb = above[y, x, 0] * ia, above[y, x, 1] * ia, above[y, x, 2] * ia
                if fixed < 0 and 12 <= mode < 16:
                    r, g, b = _whole(mode, br, bg, bb, sr, sg, sb)
                else:
                    r = _separable(mode, br, sr)
                    g = _separable(mode, bg, sg)
                    b = _separable(mode, bb, sb)
                out[y, x, 0] = free * above[y, x, 0] + fb * below[y, x, 0] + both * r
                out[y, x, 1] = free * above[y, x, 1] + fb * below[y, x, 1] + both * g
                out[y, x, 2] = free * above[y, x, 2] + fb * below[y, x, 2] + both * b
                out[y, x, 3] = fa * aa + fb * below[y, x, 3]

    return run


@cache
def _compiled(fixed: int) -> Callable[..., None]:
    return _pictures(fixed)


def _kernel(mode: int) -> Callable[..., None]:
    return _compiled(mode if mode in OFTEN else -1)


def compile_mode(mode: int) -> None:
    """Compile the kernel of a mode, or with −1 of those that share one."""
    _compiled(mode)


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
            if mode < 12 or mode > 15:
                mixed = _separable(mode, b, s)
            else:
                # Greys have no hue and no saturation: only *luminosity* changes them.
                mixed = s if mode == 15 else b
            out[y, x] = b + k * (mixed - b)


_NO_MATTE = np.zeros((0, 0), F)


def blend(
    below: NDArray[np.float32],
    above: NDArray[np.float32],
    mode: str,
    opacity: float = 1.0,
    matte: NDArray[np.float32] | None = None,
    operator: str = "over",
    kept: float = 1.0,
) -> NDArray[np.float32]:
    """``above`` blended over ``below``: premultiplied pictures (H, W, 4), or mattes as greys.

    co = Fa·(αs·k·(1 − αb)·Cs + αs·k·αb·B(Cb, Cs)) + Fb·αb·Cb, with k = opacity times matte and
    Fa, Fb those of the operator; *over* has Fa = 1 and Fb = 1 − αs·k. ``kept`` is the share of
    ``below`` that counts: its colour and alpha are multiplied by it (not for mattes).

    References
    ----------
    W3C Compositing and Blending Level 1, sections 5.8, 9.1.4 and 10. Porter & Duff,
    *Compositing Digital Images*, SIGGRAPH 1984.
    """
    out = np.empty_like(below, order="C")
    below, above = np.ascontiguousarray(below), np.ascontiguousarray(above)
    mask = _NO_MATTE if matte is None else np.ascontiguousarray(matte)
    number = MODES.index(mode)
    if below.ndim == 2:
        assert kept == 1
        rows.over(_blend_mattes, len(out), out, below, above, mask, number, F(opacity))
        return out
    weights = np.array(OPERATORS[operator], F)
    numbers = (number, F(opacity), weights, F(kept))
    rows.over(_kernel(number), len(out), out, below, above, mask, *numbers)
    return out


@compiled("out3 in3 b")
def _transferred(first, last, out, picture, encode):
    wide = out.shape[1]
    line = np.empty(3 * wide, F)
    for y in range(first, last):
        for x in range(wide):
            alpha = picture[y, x, 3]
            scale = _ONE / alpha if alpha > THIN else _ZERO
            for c in range(3):
                line[3 * x + c] = picture[y, x, c] * scale
        if encode:
            for k in range(3 * wide):
                line[k] = code(line[k])
        else:
            for k in range(3 * wide):
                line[k] = light(line[k])
        for x in range(wide):
            alpha = picture[y, x, 3]
            out[y, x, 3] = alpha
            for c in range(3):
                out[y, x, c] = line[3 * x + c] * alpha


def linear(picture: NDArray[np.float32]) -> NDArray[np.float32]:
    """A picture with its straight colour in linear light, premultiplied."""
    out = np.empty_like(picture, order="C")
    rows.over(_transferred, len(out), out, np.ascontiguousarray(picture), False)
    return out


def encoded(picture: NDArray[np.float32]) -> NDArray[np.float32]:
    """The inverse of :func:`linear`."""
    out = np.empty_like(picture, order="C")
    rows.over(_transferred, len(out), out, np.ascontiguousarray(picture), True)
    return out
