"""Light onto film: spots of light added up, and scene light developed to 8 bits with grain."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..rows import compiled, inlined

F = np.float32
_ONE, _ZERO, _HALF = F(1), F(0), F(0.5)


@compiled("out3 in1 in1 f f f i i i")
def _spot(first, last, light, colour, table, cx, cy, scale, top, left, right):
    steps = F(len(table) - 1)
    for row in range(first, last):
        y = top + row
        dy = F(y) + _HALF - cy
        for x in range(left, right):
            dx = F(x) + _HALF - cx
            place = min((dx * dx + dy * dy) * scale, steps)
            fall = table[np.uint32(np.int32(place))]
            light[y, x, 0] += fall * colour[0]
            light[y, x, 1] += fall * colour[1]
            light[y, x, 2] += fall * colour[2]


def add_spot(
    light: NDArray[np.float32],
    centre: tuple[float, float],
    radius: float,
    reach: float,
    colour: Sequence[float],
    table: NDArray[np.float32],
) -> None:
    """Add a round light to (H, W, 3) linear light, in place.

    Parameters
    ----------
    centre, radius : float
        In pixels.
    reach : float
        How many radii the light reaches.
    table : (N,) float32
        Fall-off over the square of distance, 0 to ``reach`` squared, in radii.
    """
    height, width = light.shape[:2]
    cx, cy = centre
    far = radius * reach
    top, bottom = max(0, int(cy - far)), min(height, int(cy + far) + 1)
    left, right = max(0, int(cx - far)), min(width, int(cx + far) + 1)
    if top >= bottom or left >= right:
        return
    scale = F((len(table) - 1) / (far * far))
    numbers = (F(cx), F(cy), scale, top, left, right)
    rows.over(_spot, bottom - top, light, np.array(colour, F), table, *numbers)


@compiled("in3 byte_out3 in1 in2 f f f")
def _develop(first, last, light, out, curve, speckle, vignette, grain, reach):
    height, wide = out.shape[0], out.shape[1]
    steps = F(len(curve) - 1)
    half_wide, half_high = F(wide) * _HALF, F(height) * _HALF
    for y in range(first, last):
        dy = (F(y) + _HALF - half_high) / half_wide
        for x in range(wide):
            dx = (F(x) + _HALF - half_wide) / half_wide
            fall = _ONE - vignette * min(dx * dx + dy * dy, F(1.5))
            green = _ZERO
            values = (_ZERO, _ZERO, _ZERO)
            for c in range(3):
                exposed = np.sqrt(max(light[y, x, c] * fall, _ZERO)) * steps / reach
                value = curve[np.uint32(np.int32(min(exposed, steps)))]
                if c == 0:
                    values = (value, _ZERO, _ZERO)
                elif c == 1:
                    values = (values[0], value, _ZERO)
                    green = value
                else:
                    values = (values[0], values[1], value)
            add = speckle[y, x] * grain * (F(0.35) + F(2.6) * green * (_ONE - green))
            out[y, x, 0] = np.uint8(min(max(values[0] + add, _ZERO), _ONE) * F(255) + _HALF)
            out[y, x, 1] = np.uint8(min(max(values[1] + add, _ZERO), _ONE) * F(255) + _HALF)
            out[y, x, 2] = np.uint8(min(max(values[2] + add, _ZERO), _ONE) * F(255) + _HALF)


def develop(
    light: NDArray[np.float32],
    curve: NDArray[np.float32],
    speckle: NDArray[np.float32],
    vignette: float,
    grain: float,
    reach: float,
) -> NDArray[np.uint8]:
    """(H, W, 3) linear light to 8 bits: lens fall-off, a curve over √light, and grain.

    ``curve`` gives code values (0..1) for √light from 0 to ``reach``; ``speckle`` is (H, W).
    """
    out = np.empty(light.shape, np.uint8)
    numbers = (F(vignette), F(grain), F(reach))
    rows.over(_develop, len(out), light, out, curve, np.ascontiguousarray(speckle), *numbers)
    return out


@inlined("void(f4[:,:,::1],i8,i8,f4,Array(f4,1,'C',readonly=True),b1)")
def _lay(light, y, x, amount, colour, add):
    """Lay a colour over one pixel with this much coverage, or add its light."""
    for c in range(3):
        below = light[y, x, c]
        light[y, x, c] = below + amount * (colour[c] if add else colour[c] - below)


@compiled("out3 in1 f f f f f f f i i i", finite=True)
def _box(
    first,
    last,
    light,
    colour,
    cx,
    cy,
    half_wide,
    half_high,
    corner,
    edge,
    opacity,
    top,
    left,
    right,
):
    for row in range(first, last):
        y = top + row
        dy = abs(F(y) + _HALF - cy) - half_high + corner
        for x in range(left, right):
            dx = abs(F(x) + _HALF - cx) - half_wide + corner
            out_x, out_y = max(dx, _ZERO), max(dy, _ZERO)
            far = np.sqrt(out_x * out_x + out_y * out_y) + min(max(dx, dy), _ZERO) - corner
            amount = min(max(_HALF - far / edge, _ZERO), _ONE) * opacity
            if amount > _ZERO:
                _lay(light, y, x, amount, colour, False)


@compiled("out3 in1 f f f f f f b i i i", finite=True)
def _disc(first, last, light, colour, cx, cy, radius, edge, opacity, rim, add, top, left, right):
    size = max(radius, _ONE)
    for row in range(first, last):
        y = top + row
        dy = F(y) + _HALF - cy
        for x in range(left, right):
            dx = F(x) + _HALF - cx
            far = np.sqrt(dx * dx + dy * dy)
            amount = min(max(_HALF - (far - radius) / edge, _ZERO), _ONE) * opacity
            if amount > _ZERO:
                place = min(far / size, _ONE)
                third = place * place * place
                _lay(light, y, x, amount * (_ONE + rim * third * third), colour, add)


@compiled("out3 in1 f f f f f f f b i i i", finite=True)
def _line(first, last, light, colour, ax, ay, bx, by, half, wide, opacity, add, top, left, right):
    along_x, along_y = bx - ax, by - ay
    length = max(along_x * along_x + along_y * along_y, F(1e-6))
    for row in range(first, last):
        y = top + row
        py = F(y) + _HALF - ay
        for x in range(left, right):
            px = F(x) + _HALF - ax
            t = min(max((px * along_x + py * along_y) / length, _ZERO), _ONE)
            dx, dy = px - t * along_x, py - t * along_y
            far = np.sqrt(dx * dx + dy * dy)
            amount = min(max(half + _HALF - far, _ZERO), _ONE) * opacity
            if add and wide > _ZERO:
                off = max(far - half, _ZERO) / wide
                if off < F(4):
                    amount += F(0.35) * np.exp(-off * off)
            if amount > _ZERO:
                _lay(light, y, x, amount, colour, add)


Window = tuple[int, int, int, int]
"""Top, bottom, left and right of the pixels that a shape may touch."""


def window(light: NDArray[np.float32], x0: float, y0: float, x1: float, y1: float) -> Window | None:
    """The pixels between two corners, held to the frame; None where there are none."""
    height, width = light.shape[:2]
    left, top = max(0, int(np.floor(x0))), max(0, int(np.floor(y0)))
    right, bottom = min(width, int(np.ceil(x1)) + 1), min(height, int(np.ceil(y1)) + 1)
    return (top, bottom, left, right) if left < right and top < bottom else None


def add_shape(
    kind: str,
    light: NDArray[np.float32],
    within: Window | None,
    colour: Sequence[float],
    numbers: Sequence[float],
    *flags: bool,
) -> None:
    """Lay an anti-aliased box, disc or line over (H, W, 3) linear light, in place.

    Parameters
    ----------
    within : Window
        The pixels that it may touch; None for none.
    numbers : sequence of float
        In pixels, as the kernel of that kind takes them.
    flags : bool
        Whether it adds its light, for discs and lines.
    """
    if within is None:
        return
    top, bottom, left, right = within
    run = {"box": _box, "disc": _disc, "line": _line}[kind]
    values = [F(number) for number in numbers]
    rows.over(run, bottom - top, light, np.array(colour, F), *values, *flags, top, left, right)
