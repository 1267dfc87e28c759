"""Two pictures into one: mixes and wipes."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..rows import compiled, inner

F = np.float32
_ONE, _ZERO, _HALF, _TWO = F(1), F(0), F(0.5), F(2)
# A softness below this is a step: its slope would not fit into a float32.
_LEAST = F(1e-6)


@compiled("out2 in2 in2 f")
def _mix(first, last, out, below, above, weight):
    for y in range(first, last):
        for x in range(out.shape[1]):
            out[y, x] = below[y, x] + weight * (above[y, x] - below[y, x])


@compiled("out3 in3 in3 in2 f f b", finite=True)
def _gathered(first, last, out, before, frame, place, reach, k, smooth):
    begun = before.shape[0] == out.shape[0]
    for y in range(first, last):
        for x in range(out.shape[1]):
            at = min(max(place[y, x], _ZERO), _ONE) * reach
            at = at if smooth else np.floor(at + _HALF)
            w = max(_ONE - abs(at - k), _ZERO)
            for c in range(4):
                value = w * frame[y, x, c]
                out[y, x, c] = before[y, x, c] + value if begun else value


_NOTHING = np.zeros((0, 0, 4), F)


def gathered(
    before: NDArray[np.float32] | None,
    frame: NDArray[np.float32],
    place: NDArray[np.float32],
    reach: float,
    k: int,
    smooth: bool,
) -> NDArray[np.float32]:
    """The sum so far plus frame ``k``, weighted by how near place · reach is to it."""
    out = np.empty_like(frame, order="C")
    rows.over(
        _gathered, len(out), out, _NOTHING if before is None else before,
        np.ascontiguousarray(frame), np.ascontiguousarray(place), F(reach), F(k), smooth,
    )  # fmt: skip
    return out


@compiled("out2 in2 in2 i f f f", finite=True)
def _layered(first, last, out, layer, place, planes, before, own, after):
    wide = place.shape[1]
    up = _ONE / (own - before) if own > before else _ZERO
    down = _ONE / (after - own) if after > own else _ZERO
    for y in range(first, last):
        for x in range(wide):
            at = place[y, x]
            w = _ONE + (at - own) * up if at < own else _ONE - (at - own) * down
            w = max(w, _ZERO)
            for c in range(planes):
                out[y, x * planes + c] += w * layer[y, x * planes + c]


def layered(
    layers: Callable[[int], NDArray[np.float32]], at: Sequence[float], place: NDArray[np.float32]
) -> NDArray[np.float32]:
    """Mix layers: each pixel comes from the two layers whose places lie on either side of its own.

    Parameters
    ----------
    layers : function of a layer's number; not called for those that no pixel needs
    at : the layers' places, ascending; every place lies between the first and the last
    """
    low, high = float(place.min()), float(place.max())
    out: NDArray[np.float32] | None = None
    for k, own in enumerate(at):
        before, after = at[max(k - 1, 0)], at[min(k + 1, len(at) - 1)]
        if (own > high and before >= high) or (own < low and after <= low):
            continue
        layer = np.ascontiguousarray(layers(k))
        if out is None:
            out = np.zeros_like(layer)
        planes = 1 if layer.ndim == 2 else layer.shape[2]
        rows.over(
            _layered, len(out), _lines(out), _lines(layer), np.ascontiguousarray(place), planes,
            F(before), F(own), F(after),
        )  # fmt: skip
    assert out is not None
    return out


@compiled("out2 in2 in2")
def _add(first, last, out, below, above):
    for y in range(first, last):
        for x in range(out.shape[1]):
            out[y, x] = below[y, x] + above[y, x]


def _lines(plane: NDArray[np.float32]) -> NDArray[np.float32]:
    """A picture or matte as contiguous rows of numbers, without a copy if possible."""
    return np.ascontiguousarray(plane).reshape(len(plane), -1)


def mix(
    below: NDArray[np.float32], above: NDArray[np.float32], weight: float
) -> NDArray[np.float32]:
    """below + weight·(above − below), for two pictures or two mattes."""
    out = np.empty_like(below, order="C")
    rows.over(_mix, len(out), _lines(out), _lines(below), _lines(above), F(weight))
    return out


def add(below: NDArray[np.float32], above: NDArray[np.float32]) -> NDArray[np.float32]:
    """The sum of two pictures or two mattes."""
    out = np.empty_like(below, order="C")
    rows.over(_add, len(out), _lines(out), _lines(below), _lines(above))
    return out


@compiled("out3 in2 i f")
def _gather(first, last, out, plane, channel, weight):
    for y in range(first, last):
        for x in range(out.shape[1]):
            out[y, x, channel] += weight * plane[y, x]


def gather(
    out: NDArray[np.float32], plane: NDArray[np.float32], channel: int, weight: float
) -> None:
    """Add a weighted plane to one channel of a picture, in place."""
    rows.over(_gather, len(out), out, np.ascontiguousarray(plane), channel, F(weight))


@inner(
    "void(f4[::1],f4[::1],Array(f4,1,'C',readonly=True),f4,f4,f4,f4)",
    error_model="numpy", fastmath={"contract", "nnan"},
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


@compiled("out3 in3 in2 i", finite=True)
def _cut_out(first, last, out, picture, matte, how):
    for y in range(first, last):
        for x in range(out.shape[1]):
            alpha, wanted = picture[y, x, 3], matte[y, x]
            if how == 0:
                scale = wanted
                wanted = alpha * wanted
            else:
                if how == 3:
                    wanted = F(1) - wanted
                if how > 1:
                    wanted = min(alpha, wanted)
                scale = wanted / max(alpha, F(1e-12)) if alpha > F(0) else F(0)
            for c in range(3):
                out[y, x, c] = picture[y, x, c] * scale
            out[y, x, 3] = wanted


def cut_out(
    picture: NDArray[np.float32], matte: NDArray[np.float32], how: int
) -> NDArray[np.float32]:
    """A picture's alpha times a matte (0), set to it (1), at most it (2), at most 1 − it (3)."""
    out = np.empty_like(picture, order="C")
    planes = (np.ascontiguousarray(picture), np.ascontiguousarray(matte))
    rows.over(_cut_out, len(out), out, *planes, how)
    return out


@compiled("out3 in2 in2 in1 in1", finite=True)
def _inked(first, last, out, fill, rim, colour, around):
    for y in range(first, last):
        for x in range(out.shape[1]):
            a = fill[y, x]
            b = max(rim[y, x] - a, F(0))
            for c in range(4):
                out[y, x, c] = a * colour[c] + b * around[c]


def inked(
    fill: NDArray[np.float32], rim: NDArray[np.float32] | None,
    colours: tuple[NDArray[np.float32], NDArray[np.float32]],
) -> NDArray[np.float32]:  # fmt: skip
    """A picture (H, W, 4) of a filled shape and the rim around it.

    ``fill`` and ``rim`` are (H, W) covers, 0..1; the colours are premultiplied. The rim lies around
    the filled shape, not under it: a clear fill shows the background.
    """
    out = np.empty((*fill.shape, 4), F)
    rows.over(_inked, len(out), out, fill, fill if rim is None else rim, *colours)
    return out
