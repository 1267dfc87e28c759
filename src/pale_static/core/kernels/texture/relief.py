"""Surfaces read from heights: shading by a lamp, gloss, and refraction through a pane."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..colour.luminance import BLUE, GREEN, RED
from ..colour.power import power
from ..rows import compiled, inner

F = np.float32
_ONE, _ZERO, _HALF = F(1), F(0), F(0.5)


@compiled("out2 out2 out2 in2 in3 in1", finite=True)
def _shading(first, last, shade, gloss, sums, height, picture, n):
    """``n``: depth; lamp x, y, z (a direction, or a place in pixels); whether it is a place;
    darkest; sheen's sharpness, or 0 for none; the tint."""
    high, wide = height.shape
    lx, ly, lz, darkest, sharp = n[1], n[2], n[3], n[5], n[6]
    steep = -_HALF * n[0]
    gx, gy = np.empty(wide, F), np.empty(wide, F)
    luma = np.empty(wide, F)
    for y in range(first, last):
        above, below, row = height[max(y - 1, 0)], height[min(y + 1, high - 1)], height[y]
        lit = shade[y]
        after = row[2:]
        within = gx[1:]
        for x in range(wide - 2):
            within[x] = steep * (after[x] - row[x])
        gx[0] = steep * (row[min(1, wide - 1)] - row[0])
        gx[wide - 1] = steep * (row[wide - 1] - row[max(wide - 2, 0)])
        for x in range(wide):
            gy[x] = steep * (below[x] - above[x])
        if n[4] > _ZERO:
            ay, depth = ly - F(y), n[0]
            for x in range(wide):
                ax = lx - F(np.int32(x))
                az = lz - depth * row[x]
                size = np.sqrt(
                    (gx[x] * gx[x] + gy[x] * gy[x] + _ONE)
                    * (ax * ax + ay * ay + az * az + F(1e-12))
                )
                lit[x] = (gx[x] * ax + gy[x] * ay + az) / size
        else:
            for x in range(wide):
                size = np.sqrt(gx[x] * gx[x] + gy[x] * gy[x] + _ONE)
                lit[x] = (gx[x] * lx + gy[x] * ly + lz) / size
        if sharp > _ZERO:
            # Blinn's half-way vector between the lamp and the eye, which looks straight down.
            shine = gloss[y]
            if n[4] > _ZERO:
                ay, depth = ly - F(y), n[0]
                for x in range(wide):
                    ax, az = lx - F(np.int32(x)), lz - depth * row[x]
                    hz = az + np.sqrt(ax * ax + ay * ay + az * az + F(1e-12))
                    size = np.sqrt(
                        (gx[x] * gx[x] + gy[x] * gy[x] + _ONE) * (ax * ax + ay * ay + hz * hz)
                    )
                    shine[x] = (gx[x] * ax + gy[x] * ay + hz) / (size + F(1e-12))
            else:
                hz = lz + _ONE
                half = lx * lx + ly * ly + hz * hz
                for x in range(wide):
                    size = np.sqrt((gx[x] * gx[x] + gy[x] * gy[x] + _ONE) * half)
                    shine[x] = (gx[x] * lx + gy[x] * ly + hz) / (size + F(1e-12))
            for x in range(wide):
                shine[x] = shine[x] if lit[x] > _ZERO else _ZERO
            for x in range(wide):
                shine[x] = power(shine[x], sharp)
        for x in range(wide):
            lit[x] = max(lit[x], darkest)
        for x in range(wide):
            luma[x] = RED * picture[y, x, 0] + GREEN * picture[y, x, 1] + BLUE * picture[y, x, 2]
        plain = _sum(luma)
        for x in range(wide):
            luma[x] = n[7] * picture[y, x, 0] + n[8] * picture[y, x, 1] + n[9] * picture[y, x, 2]
        for x in range(wide):
            luma[x] *= lit[x]
        sums[y, 0] = plain
        sums[y, 1] = _sum(luma)


@inner(fastmath={"contract", "nnan"})
def _sum(line):
    """The sum of a line. Eight partial sums let the processor add eight numbers at a time."""
    parts = np.zeros(8, F)
    whole = len(line) // 8
    for k in range(np.uint64(whole)):
        at = line[np.uint64(8) * k :]
        for c in range(np.uint64(8)):
            parts[c] += at[c]
    total = F(0)
    for c in range(8):
        total += parts[c]
    for x in range(8 * whole, len(line)):
        total += line[x]
    return total


@compiled("out3 in3 in2 in2 in1 in1", finite=True)
def _lit(first, last, out, picture, shade, gloss, factors, sheen):
    wide = out.shape[1]
    shines = gloss.shape[0] == out.shape[0]
    red, green, blue = factors[0], factors[1], factors[2]
    one, two, three = sheen[0], sheen[1], sheen[2]
    for y in range(first, last):
        light = shade[y]
        if shines:
            shine = gloss[y]
            for x in range(wide):
                s, alpha = light[x], picture[y, x, 3]
                g = shine[x] * alpha
                out[y, x, 0] = picture[y, x, 0] * red * s + one * g
                out[y, x, 1] = picture[y, x, 1] * green * s + two * g
                out[y, x, 2] = picture[y, x, 2] * blue * s + three * g
                out[y, x, 3] = alpha
            continue
        for x in range(wide):
            s = light[x]
            out[y, x, 0] = picture[y, x, 0] * red * s
            out[y, x, 1] = picture[y, x, 1] * green * s
            out[y, x, 2] = picture[y, x, 2] * blue * s
            out[y, x, 3] = picture[y, x, 3]


def relief(
    picture: NDArray[np.float32],
    height: NDArray[np.float32],
    depth: float,
    lamp: tuple[float, float, float],
    near: bool,
    darkest: float,
    level: float,
    tint: NDArray[np.float32],
    sheen: float,
    sharpness: float,
) -> NDArray[np.float32]:
    """Shade a picture as if a height field lay under it.

    Parameters
    ----------
    height : (H, W), nominally 0..1
    depth : pixels that white stands over black
    lamp : the unit vector towards it (x right, y down, z to the eye), or its place in pixels
    level : mean luminance of the shaded picture over that of the picture
    sheen : strength of the gloss, with its sharpness as Blinn–Phong's exponent
    """
    out = np.empty_like(picture, order="C")
    shape = picture.shape[:2]
    shade, sums = np.empty(shape, F), np.empty((shape[0], 2), F)
    gloss = np.empty(shape if sheen > 0 else (0, 0), F)
    source, held = np.ascontiguousarray(picture), np.ascontiguousarray(height)
    weights = np.array([RED, GREEN, BLUE], F) * tint
    numbers = [depth, *lamp, near, darkest, sharpness if sheen > 0 else 0, *weights]
    rows.over(_shading, len(out), shade, gloss, sums, held, source, np.array(numbers, F))
    plain, shaded = (float(part) for part in sums.sum(0, dtype=np.float64))
    scale = level * plain / shaded if shaded > 1e-9 else 0.0
    rows.over(
        _lit, len(out), out, source, shade, gloss, (tint * scale).astype(F),
        (tint * sheen).astype(F),
    )  # fmt: skip
    return out


@compiled("out2 in2 in2 i", finite=True)
def _slope(first, last, out, plane, weights, give):
    """Gradient by a 3×3 kernel with weights (corner, middle): its size, or its component along x or
    y."""
    high, wide = plane.shape
    corner, middle = weights[0, 0], weights[0, 1]
    for y in range(first, last):
        a, b, c = plane[max(y - 1, 0)], plane[y], plane[min(y + 1, high - 1)]
        for x in range(wide):
            left, right = max(x - 1, 0), min(x + 1, wide - 1)
            gx = corner * (a[right] - a[left] + c[right] - c[left]) + middle * (b[right] - b[left])
            gy = corner * (c[left] - a[left] + c[right] - a[right]) + middle * (c[x] - a[x])
            if give == 0:
                out[y, x] = np.sqrt(gx * gx + gy * gy)
            else:
                out[y, x] = gx if give == 1 else gy


def slope(
    plane: NDArray[np.float32], corner: float, middle: float, give: int = 0
) -> NDArray[np.float32]:
    """The gradient of a matte per pixel, edges held: 0 its size, 1 along x, 2 along y."""
    out = np.empty_like(plane, order="C")
    rows.over(
        _slope, len(out), out, np.ascontiguousarray(plane), np.array([[corner, middle]], F), give
    )
    return out


@inner(error_model="numpy", fastmath={"contract", "nnan"})
def _read(picture, x, y, c):
    """One channel between four pixels; the edge pixels are held outside."""
    high, wide = picture.shape[0], picture.shape[1]
    x, y = min(max(x, _ZERO), F(wide - 1)), min(max(y, _ZERO), F(high - 1))
    i, j = np.int64(x), np.int64(y)
    u, v = x - F(i), y - F(j)
    k, m = min(i + 1, wide - 1), min(j + 1, high - 1)
    top = picture[j, i, c] + u * (picture[j, k, c] - picture[j, i, c])
    foot = picture[m, i, c] + u * (picture[m, k, c] - picture[m, i, c])
    return top + v * (foot - top)


@compiled("out3 in3 in2 in2 in2 in1", finite=True)
def _pane(first, last, out, through, distance, bowed, ways, n):
    """``ways``: how far red, green and blue are moved and how the rim shines, over the bevel;
    ``n``: entries of it per pixel of distance, the direction towards the light, where the pane's
    rows and columns begin, its tint, and the light's colour."""
    high, wide = distance.shape
    most = F(ways.shape[1] - 1)
    left, top = np.int64(n[3]), np.int64(n[4])
    for y in range(first, last):
        up, row, down = bowed[max(y - 1, 0)], bowed[y], bowed[min(y + 1, high - 1)]
        at, source = out[top + y], through[top + y]
        py = F(y) + n[4]
        for x in range(wide):
            d = -distance[y, x]
            if d <= -_HALF:
                continue
            cover = min(d + _HALF, _ONE)
            p = left + x
            place = max(d, _ZERO) * n[0]
            if place >= most:
                at[p, 0] += cover * (source[p, 0] * n[5] - at[p, 0])
                at[p, 1] += cover * (source[p, 1] * n[6] - at[p, 1])
                at[p, 2] += cover * (source[p, 2] * n[7] - at[p, 2])
                at[p, 3] += cover * (source[p, 3] - at[p, 3])
                continue
            px = F(p)
            gx = row[max(x - 1, 0)] - row[min(x + 1, wide - 1)]
            gy = up[x] - down[x]
            scale = _ONE / np.sqrt(gx * gx + gy * gy + F(1e-12))
            gx, gy = gx * scale, gy * scale
            k = np.int64(place)
            f = place - F(k)
            way = ways[0, k] + f * (ways[0, k + 1] - ways[0, k])
            red = _read(through, px + gx * way, py + gy * way, 0) * n[5]
            way = ways[2, k] + f * (ways[2, k + 1] - ways[2, k])
            blue = _read(through, px + gx * way, py + gy * way, 2) * n[7]
            way = ways[1, k] + f * (ways[1, k + 1] - ways[1, k])
            green = _read(through, px + gx * way, py + gy * way, 1) * n[6]
            alpha = _read(through, px + gx * way, py + gy * way, 3)
            # The rim that faces the light shines; the opposite rim shines a little.
            toward = -(gx * n[1] + gy * n[2])
            light = toward * toward * (_ONE if toward > _ZERO else F(0.35))
            light *= ways[3, k] + f * (ways[3, k + 1] - ways[3, k])
            red, green, blue = red + light * n[8], green + light * n[9], blue + light * n[10]
            if light > _ZERO:
                alpha = max(alpha, min(max(red, max(green, blue)), _ONE))
            at[p, 0] += cover * (red - at[p, 0])
            at[p, 1] += cover * (green - at[p, 1])
            at[p, 2] += cover * (blue - at[p, 2])
            at[p, 3] += cover * (alpha - at[p, 3])


PROFILES = ("round", "straight", "lens")


def refraction(
    profile: str, bevel: float, thickness: float, indices: tuple[float, float, float], count: int
) -> NDArray[np.float64]:
    """The inward shift of light that falls straight down, for each index, across the bevel.

    The last row is 1 − cos of the slope. (4, count), from the border to the end of the bevel.

    References
    ----------
    Snell's law: sin θ = index · sin θ′.
    """
    t = np.linspace(0, 1, count)
    if profile == "round":
        # A quarter of a circle; its slope at the very border is held.
        tall = np.sqrt(1 - (1 - t) ** 2)
        slope = (1 - t) / np.maximum(tall, 0.02)
    elif profile == "straight":
        tall, slope = t, np.where(t < 1, 1.0, 0.0)
    else:
        tall, slope = t * (2 - t), 2 * (1 - t)
    angle = np.arctan(slope * thickness / bevel)
    moved = [tall * thickness * np.tan(angle - np.arcsin(np.sin(angle) / n)) for n in indices]
    return np.stack([*moved, 1 - np.cos(angle)])


def pane(
    out: NDArray[np.float32],
    through: NDArray[np.float32],
    box: tuple[slice, slice],
    distance: NDArray[np.float32],
    bowed: NDArray[np.float32],
    ways: NDArray[np.float64],
    bevel: float,
    light: tuple[float, float],
    tint: NDArray[np.float32],
    shine: NDArray[np.float32],
) -> None:
    """Lay a pane over a picture, in place.

    Parameters
    ----------
    through : (H, W, 4) the picture that is seen through it; like ``out``
    box : the rows and columns of the picture that the next two cover
    distance : (h, w) signed distance to its border in pixels, negative inside
    bowed : the same, smoothed: its slope gives the direction of the rim
    ways : see :func:`refraction`
    light : the direction that it comes from
    tint, shine : colour of the glass, and of the light on its rim
    """
    numbers = [(ways.shape[1] - 1) / bevel, *light, box[1].start, box[0].start, *tint, *shine]
    rows.over(
        _pane, len(distance), out, np.ascontiguousarray(through), np.ascontiguousarray(distance),
        np.ascontiguousarray(bowed), ways.astype(F), np.array(numbers, F),
    )  # fmt: skip
