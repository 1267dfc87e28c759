"""Light that spreads over a picture: the bright parts, and light added to the picture.

A premultiplied picture counts as it looks over black. On request, light is added in linear light.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..colour.luminance import BLUE, GREEN, RED
from ..colour.power import codes, lights
from ..rows import compiled

F = np.float32
_ONE, _ZERO = F(1), F(0)


@compiled("out3 in3 f f b", finite=True)
def _bright(first, last, out, picture, low, slope, linear):
    wide, planes = out.shape[1], out.shape[2]
    red, green, blue = np.empty(wide, F), np.empty(wide, F), np.empty(wide, F)
    share = np.empty(wide, F)
    for y in range(first, last):
        for x in range(wide):
            red[x], green[x], blue[x] = picture[y, x, 0], picture[y, x, 1], picture[y, x, 2]
        # Thresholds are in display values, as people see them.
        some = 0
        for x in range(wide):
            luma = RED * red[x] + GREEN * green[x] + BLUE * blue[x]
            share[x] = (luma - low) * slope
            some |= luma > low
        if planes == 4:
            for x in range(wide):
                out[y, x, 3] = picture[y, x, 3]
        if not some:
            # Nothing in this row is bright: most rows of a title, many of a dark picture.
            for x in range(wide):
                out[y, x, 0], out[y, x, 1], out[y, x, 2] = _ZERO, _ZERO, _ZERO
            continue
        if linear:
            lights(red)
            lights(green)
            lights(blue)
        for x in range(wide):
            t = min(max(share[x], _ZERO), _ONE)
            share[x] = t * t * (F(3) - F(2) * t)
        for x in range(wide):
            t = share[x]
            out[y, x, 0] = max(red[x], _ZERO) * t
            out[y, x, 1] = max(green[x], _ZERO) * t
            out[y, x, 2] = max(blue[x], _ZERO) * t


def bright(
    picture: NDArray[np.float32], threshold: float, softness: float, linear: bool, planes: int = 3
) -> NDArray[np.float32]:
    """The colours brighter than a threshold, (H, W, 3), or with the picture's alpha as a fourth
    channel.

    Smoothstep over ``softness`` centred on the threshold, by Rec. 709 luminance of display values;
    everything at a threshold of 0 without softness.
    """
    out = np.empty((*picture.shape[:2], planes), F)
    span = max(softness, 1e-4)
    low = threshold - span / 2 if softness > 0 or threshold > 0 else -1.0
    rows.over(_bright, len(out), out, np.ascontiguousarray(picture), F(low), F(1 / span), linear)
    return out


@compiled("out3 in3 in3 in3 f b", finite=True)
def _lit(first, last, out, picture, shed, taken, share, linear):
    wide = out.shape[1]
    red, green, blue = np.empty(wide, F), np.empty(wide, F), np.empty(wide, F)
    holds = taken.shape[0] == out.shape[0]
    for y in range(first, last):
        some = 0
        for x in range(wide):
            some |= max(max(shed[y, x, 0], shed[y, x, 1]), shed[y, x, 2]) > F(1e-9)
        if not some and not holds:
            for x in range(wide):
                for c in range(4):
                    out[y, x, c] = picture[y, x, c]
            continue
        for x in range(wide):
            red[x], green[x], blue[x] = picture[y, x, 0], picture[y, x, 1], picture[y, x, 2]
        if linear:
            lights(red)
            lights(green)
            lights(blue)
        for x in range(wide):
            red[x] += shed[y, x, 0]
            green[x] += shed[y, x, 1]
            blue[x] += shed[y, x, 2]
        if holds:
            for x in range(wide):
                red[x] -= share * taken[y, x, 0]
                green[x] -= share * taken[y, x, 1]
                blue[x] -= share * taken[y, x, 2]
        if linear:
            codes(red)
            codes(green)
            codes(blue)
        for x in range(wide):
            alpha = picture[y, x, 3]
            # Light over a clear area covers as much as it shows over black.
            most = min(max(red[x], max(green[x], blue[x])), _ONE)
            out[y, x, 0], out[y, x, 1], out[y, x, 2] = red[x], green[x], blue[x]
            out[y, x, 3] = max(alpha, most) if alpha < _ONE else alpha


_NONE = np.zeros((0, 0, 3), F)


def lit(
    picture: NDArray[np.float32],
    shed: NDArray[np.float32],
    linear: bool,
    taken: NDArray[np.float32] | None = None,
    share: float = 0.0,
) -> NDArray[np.float32]:
    """A picture with light (H, W, 3) added, minus a share of the bright parts that the light came
    from.

    In clear areas the result is as opaque as its brightest channel, so that it looks the same over
    black.
    """
    out = np.empty_like(picture, order="C")
    rows.over(
        _lit, len(out), out, np.ascontiguousarray(picture), np.ascontiguousarray(shed),
        _NONE if taken is None else taken, F(share), linear,
    )  # fmt: skip
    return out


@compiled("out2 in2 b", finite=True)
def _shown(first, last, out, picture, linear):
    wide = out.shape[1] // 4
    for y in range(first, last):
        made = out[y]
        for k in range(4 * wide):
            made[k] = picture[y, k]
        if linear:
            codes(made)
        for x in range(wide):
            out[y, 4 * x + 3] = picture[y, 4 * x + 3]


def shown(picture: NDArray[np.float32], linear: bool) -> NDArray[np.float32]:
    """Light over black with its alpha, (H, W, 4), as display values."""
    out = np.empty_like(picture, order="C")
    flat = picture.reshape(len(picture), -1)
    rows.over(_shown, len(out), out.reshape(len(out), -1), flat, linear)
    return out


@compiled("out3 in3 in2 in1", finite=True)
def _lit_by(first, last, out, picture, weight, colour):
    for y in range(first, last):
        for x in range(out.shape[1]):
            w = weight[y, x]
            r = picture[y, x, 0] + w * colour[0]
            g = picture[y, x, 1] + w * colour[1]
            b = picture[y, x, 2] + w * colour[2]
            alpha = picture[y, x, 3]
            most = min(max(r, max(g, b)), _ONE)
            out[y, x, 0], out[y, x, 1], out[y, x, 2] = r, g, b
            out[y, x, 3] = max(alpha, most) if w > _ZERO else alpha


def lit_by(
    picture: NDArray[np.float32], weight: NDArray[np.float32], colour: NDArray[np.float32]
) -> NDArray[np.float32]:
    """A picture with a colour added by a weight at each pixel, in display values; see :func:`lit`."""
    out = np.empty_like(picture, order="C")
    rows.over(
        _lit_by, len(out), out, np.ascontiguousarray(picture), np.ascontiguousarray(weight), colour
    )
    return out


@compiled("out3 in3 f in1", finite=True)
def _tinted(first, last, out, colours, saturation, factors):
    for y in range(first, last):
        for x in range(out.shape[1]):
            r, g, b = colours[y, x, 0], colours[y, x, 1], colours[y, x, 2]
            luma = RED * r + GREEN * g + BLUE * b
            out[y, x, 0] = max(luma + saturation * (r - luma), _ZERO) * factors[0]
            out[y, x, 1] = max(luma + saturation * (g - luma), _ZERO) * factors[1]
            out[y, x, 2] = max(luma + saturation * (b - luma), _ZERO) * factors[2]


def tinted(
    colours: NDArray[np.float32], saturation: float, factors: NDArray[np.float32]
) -> NDArray[np.float32]:
    """Colours (H, W, 3) with their saturation scaled, clamped at 0, times a factor for each
    channel."""
    out = np.empty_like(colours, order="C")
    rows.over(_tinted, len(out), out, np.ascontiguousarray(colours), F(saturation), factors)
    return out


@compiled("out2 in2 in2 in3 in1", finite=True)
def _band(first, last, out, height, limit, shape, n):
    """``n``: place of the band, direction x and y, half width, 1 / soft share of it, falloff,
    second band's place and half width and strength, how far the height moves it, intensity."""
    wide = out.shape[1]
    lifts = height.shape[0] == out.shape[0]
    limited, shaped = limit.shape[0] == out.shape[0], shape.shape[0] == out.shape[0]
    for y in range(first, last):
        start = n[2] * (F(y) + F(0.5)) - n[0]
        for x in range(wide):
            out[y, x] = start + n[1] * (F(np.int32(x)) + F(0.5))
        if lifts:
            for x in range(wide):
                out[y, x] += n[9] * min(max(height[y, x], _ZERO), _ONE)
        for x in range(wide):
            d = out[y, x]
            u = min(max((_ONE - abs(d) * n[3]) * n[4], _ZERO), _ONE)
            v = min(max((_ONE - abs(d - n[6]) * n[7]) * n[4], _ZERO), _ONE)
            if n[5] == _ONE:
                u, v = u * u * (F(3) - F(2) * u), v * v * (F(3) - F(2) * v)
            elif n[5] > _ONE:
                u, v = u * u, v * v
            out[y, x] = max(u, n[8] * v) * n[10]
        if limited:
            for x in range(wide):
                out[y, x] *= min(max(limit[y, x], _ZERO), _ONE)
        if shaped:
            for x in range(wide):
                out[y, x] *= shape[y, x, 3]


def band(
    height: int,
    width: int,
    numbers: tuple[float, ...],
    lift: NDArray[np.float32] | None,
    limit: NDArray[np.float32] | None,
    shape: NDArray[np.float32] | None,
) -> NDArray[np.float32]:
    """The weight of a soft band across the frame, and of a second one beside it, (H, W).

    Parameters
    ----------
    lift : (H, W) heights that move it
    limit : (H, W) where it falls
    shape : (H, W, 4) a picture whose alpha limits it too
    """
    out = np.empty((height, width), F)
    none = np.zeros((0, 0), F)
    given = [none if part is None else np.ascontiguousarray(part) for part in (lift, limit)]
    picture = _NONE if shape is None else np.ascontiguousarray(shape)
    rows.over(_band, height, out, *given, picture, np.array(numbers, F))
    return out


@compiled("out3 in3 in2 in1", finite=True)
def _laid_under(first, last, out, picture, weight, colour):
    for y in range(first, last):
        for x in range(out.shape[1]):
            w = weight[y, x] * (_ONE - picture[y, x, 3])
            for c in range(4):
                out[y, x, c] = picture[y, x, c] + w * colour[c]


def laid_under(
    picture: NDArray[np.float32], weight: NDArray[np.float32], colour: NDArray[np.float32]
) -> NDArray[np.float32]:
    """A picture over a premultiplied colour, which is weighted at each pixel."""
    out = np.empty_like(picture, order="C")
    rows.over(
        _laid_under, len(out), out, np.ascontiguousarray(picture), np.ascontiguousarray(weight),
        colour,
    )  # fmt: skip
    return out


@compiled("out3 in3 in2 in1", finite=True)
def _shaded(first, last, out, picture, weight, colour):
    for y in range(first, last):
        for x in range(out.shape[1]):
            w = weight[y, x]
            alpha = picture[y, x, 3]
            for c in range(3):
                out[y, x, c] = picture[y, x, c] + w * (colour[c] * alpha - picture[y, x, c])
            out[y, x, 3] = alpha


def toward(
    picture: NDArray[np.float32], weight: NDArray[np.float32], colour: NDArray[np.float32]
) -> NDArray[np.float32]:
    """A picture mixed towards a straight colour by a weight per pixel; alpha stays."""
    out = np.empty_like(picture, order="C")
    rows.over(
        _shaded, len(out), out, np.ascontiguousarray(picture), np.ascontiguousarray(weight), colour
    )
    return out


@compiled("out3 in2 f i i", finite=True)
def _darkened(first, last, out, shade, strength, top, left):
    for y in range(first, last):
        row = out[top + y]
        for x in range(shade.shape[1]):
            keeps = _ONE - strength * shade[y, x]
            at = np.uint64(left + x)
            row[at, 0] *= keeps
            row[at, 1] *= keeps
            row[at, 2] *= keeps


def darken(
    out: NDArray[np.float32], shade: NDArray[np.float32], strength: float, start: tuple[int, int]
) -> None:
    """Darken a part of a picture, in place, by a matte that begins at a row and a column."""
    rows.over(_darkened, len(shade), out, np.ascontiguousarray(shade), F(strength), *start)
