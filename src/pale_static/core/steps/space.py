"""Space: moving, bending and breaking up the picture."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache
from math import cos, hypot, radians, sin
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from ..kernels.filters import shift, space
from ..kernels.filters.mixing import gather
from ..kernels.texture import mosaic
from ..pictures import sampling
from ..pictures.picture import Plane, Size, opaque
from ..values.params import Choice, Number, Point, Toggle, outside, whole
from .declare import Call, InputKind, step
from .placing import Matrix, cover, forward, reading

OUTSIDE, OUTSIDE_HOLDS = outside("clear"), outside("clamp")
SAMPLING = Choice(
    name="sampling", default="smooth", options=("smooth", "nearest"), moves=False,
    help="Between pixels: mix them, or take the nearest.",
)  # fmt: skip
CENTRE = Point(name="centre", default=(0.5, 0.5))


def centre_of(call: Call) -> tuple[float, float]:
    """The centre as a place among pixels."""
    x, y = call.values["centre"]
    return x * call.size.width - 0.5, y * call.size.height - 0.5


def length_of(call: Call, name: str) -> float:
    """A value in % of the frame's height, in pixels."""
    return float(call.values[name]) / 100 * call.size.height


def _placed(values: Mapping[str, Any], size: Size) -> Matrix:
    """The forward map of one transform, scaled to cover the frame on request."""
    shift = (values["position"][0] - 0.5, values["position"][1] - 0.5)
    matrix = forward(
        size, shift=shift, scale=(values["scale_x"], values["scale_y"]), turn=values["turn"],
        pivot=values["pivot"], skew=values["skew"],
    )  # fmt: skip
    if values["cover"]:
        k = cover(matrix, size)
        matrix = matrix @ forward(size, scale=(k, k))
    return matrix


def _together(above: Mapping[str, Any], values: Mapping[str, Any]) -> Mapping[str, Any] | None:
    if any(above[name] != values[name] for name in ("outside", "sampling")):
        return None
    before = (*above.get("_before", ()), tuple(sorted(above.items())))
    return {**values, "_before": before}


@step(
    "transform",
    label="Transform",
    family="Space",
    sentence="Moves, scales, turns and skews the picture.",
    words=("rotate", "zoom", "shake", "position", "scale", "pan", "resize", "flip", "spin",
           "squeeze", "bounce", "jitter", "sway", "pulse", "slide"),
    main="either",
    gives="same",
    params=(
        Point(name="position", default=(0.5, 0.5), help="Where the middle of the picture goes."),
        Number(name="scale_x", default=1.0, slider=(0, 3), allowed=(-100, 100)),
        Number(name="scale_y", default=1.0, slider=(0, 3), allowed=(-100, 100)),
        Number(name="turn", default=0.0, slider=(-180, 180), allowed=(-36000, 36000), unit="°",
               help="Clockwise."),
        Point(name="pivot", default=(0.5, 0.5), help="The point that stays put."),
        Number(name="skew", default=0.0, slider=(-60, 60), allowed=(-89, 89), unit="°"),
        OUTSIDE,
        Toggle(name="cover", default=False,
               help="Enlarges just enough that no clear corner shows."),
        SAMPLING,
    ),
    merge=_together,
)  # fmt: skip
def transform(call: Call) -> Plane:
    """out(p) = in(M⁻¹ p), M = shift · turn · skew · scale about the pivot; resampled once.

    Neighbouring transforms with the same border rule and sampling become one map and one
    resampling. *Cover* enlarges about the centre by the smallest factor that shows no clear corner:
    cos 20° + 16/9·sin 20° = 1.548 for a 16:9 frame turned by 20° (geometry).

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    v = call.values
    matrix = _placed(v, call.size)
    for before in reversed(v.get("_before", ())):
        matrix = matrix @ _placed(dict(before), call.size)
    if np.allclose(matrix, np.eye(3), atol=1e-9):
        return call.main
    return sampling.affine(call.main, reading(matrix), v["outside"], v["sampling"] == "nearest")


_PLACES = (
    ("top_left", 0.0, 0.0), ("top", 0.5, 0.0), ("top_right", 1.0, 0.0), ("right", 1.0, 0.5),
    ("bottom_right", 1.0, 1.0), ("bottom", 0.5, 1.0), ("bottom_left", 0.0, 1.0),
    ("left", 0.0, 0.5),
)  # fmt: skip


@step(
    "corner-pull",
    label="Corner pull",
    family="Space",
    sentence="Pulls the corners and sides of the picture, as if it were cloth.",
    words=("warp", "pin", "perspective", "stretch", "bend edge", "mesh"),
    main="either",
    gives="same",
    params=(
        *(
            Point(name=name, default=(x, y), help="Where this corner or side middle goes.")
            for name, x, y in _PLACES
        ),
        OUTSIDE,
    ),
)
def corner_pull(call: Call) -> Plane:
    """out(S(u, v)) = in(u, v), S the Coons patch of four edges, each a quadratic through three
    points. Edge middles follow their corners, so moved corners alone give a bilinear map.

    Where the patch folds over itself, one of its layers shows; the area outside it is clear.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.

    References
    ----------
    Coons 1967, *Surfaces for Computer-Aided Design of Space Forms*.
    """
    v = call.values
    points = np.array([v[name] for name, _, _ in _PLACES], np.float64)
    home = np.array([(x, y) for _, x, y in _PLACES])
    if np.allclose(points, home):
        return call.main
    moved = points - home
    for k in (1, 3, 5, 7):
        # A middle's own shift is added to the shift by its two corners.
        moved[k] += (moved[k - 1] + moved[(k + 1) % 8]) / 2
    places = space.pulled(call.size.height, call.size.width, home + moved)
    return sampling.mapped(call.main, places, v["outside"], finite=True)


_MODES = ("along axes", "from the centre", "along the slope")


@step(
    "displace",
    label="Displace",
    family="Space",
    sentence="Shifts each pixel by how bright another picture is there.",
    words=("distort", "warp", "glitch", "heat", "water", "push", "refraction", "torn edge", "heat haze", "shockwave"),
    main="either",
    gives="same",
    inputs=(
        InputKind("map", "matte", "How far each pixel is shifted."),
        InputKind("map_y", "matte", "A second matte for the vertical shift.", optional=True),
    ),
    params=(
        Number(name="amount_x", default=2.0, slider=(-20, 20), allowed=(-500, 500), unit="%w"),
        Number(name="amount_y", default=2.0, slider=(-20, 20), allowed=(-500, 500), unit="%h"),
        Choice(name="mode", default="along axes", options=_MODES, moves=False),
        Number(name="zero_level", default=0.5, slider=(0, 1), allowed=(-10, 10),
               help="The grey that shifts nothing."),
        replace(CENTRE, when={"mode": ("from the centre",)}),
        OUTSIDE_HOLDS,
        SAMPLING,
    ),
)  # fmt: skip
def displace(call: Call) -> Plane:
    """out(x) = in(x + amount · (map(x) − zero)).

    Along axes: right and down. From the centre: outward from it. Along the slope: by the map's
    gradient per percent of the frame's height, at most 1 long, times the amount.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    v, size = call.values, call.size
    one = call.inputs["map"]
    two = call.inputs.get("map_y", one)
    ax, ay = v["amount_x"] / 100 * size.width, v["amount_y"] / 100 * size.height
    if not ax and not ay:
        return call.main
    mode = _MODES.index(v["mode"])
    places = space.displaced(
        one, two, mode, ax, ay, v["zero_level"], *centre_of(call), size.height / 100
    )
    nearest = v["sampling"] == "nearest"
    return sampling.mapped(call.main, places, v["outside"], nearest, finite=True)


@lru_cache(maxsize=256)
def _filling(k1: float, k2: float, size: Size, cx: float, cy: float, unit: float) -> float:
    """The largest zoom, at most 1, at which no place on the frame's border reads outside the
    frame."""
    t = np.linspace(0, 1, 129)
    w, h = size.width - 1, size.height - 1
    x = np.concatenate([t * w, t * w, 0 * t, 0 * t + w])
    y = np.concatenate([0 * t, 0 * t + h, t * h, t * h])
    dx, dy = x - cx, y - cy
    low, high = 0.0, 1.0

    def clear(zoom: float) -> bool:
        a, b = dx * zoom, dy * zoom
        q = (a * a + b * b) * unit * unit
        f = 1 + q * (k1 + q * k2)
        u, v = cx + a * f, cy + b * f
        return bool((u < -0.01).any() or (v < -0.01).any() or (u > w + 0.01).any()
                    or (v > h + 0.01).any())  # fmt: skip

    if not clear(1.0):
        return 1.0
    for _ in range(40):
        middle = (low + high) / 2
        low, high = (low, middle) if clear(middle) else (middle, high)
    return low


@step(
    "lens-bend",
    label="Lens bend",
    family="Space",
    sentence="Bends the picture as a wide lens does, outward or inward.",
    words=("barrel", "pincushion", "fisheye", "distortion", "bulge"),
    main="either",
    gives="same",
    params=(
        Number(name="bend", default=0.2, slider=(-0.3, 1), allowed=(-5, 5),
               help="Above 0 bulges out, below 0 draws in. Far below 0 the corners fold over."),
        Number(name="bend_further", default=0.0, slider=(-0.1, 1), allowed=(-5, 5),
               help="Bends the corners more than the middle."),
        Toggle(name="fill", default=True, help="Enlarges until no clear border shows."),
        CENTRE,
        replace(OUTSIDE, when={"fill": (False,)}),
    ),
)  # fmt: skip
def lens_bend(call: Call) -> Plane:
    """out(c + d) = in(c + d·(1 + k1·r² + k2·r⁴)), r = |d| over half the frame's diagonal.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.

    References
    ----------
    Brown 1966, *Decentering Distortion of Lenses* (the radial terms).
    """
    v, size = call.values, call.size
    if not v["bend"] and not v["bend_further"]:
        return call.main
    unit = 2 / hypot(size.width, size.height)
    cx, cy = centre_of(call)
    zoom = _filling(v["bend"], v["bend_further"], size, cx, cy, unit) if v["fill"] else 1.0
    numbers = (cx, cy, unit, v["bend"], v["bend_further"], zoom)
    places = space.lens(size.height, size.width, *numbers)
    # With *fill*, places that rounding puts slightly outside are held at the border.
    rule = "clamp" if v["fill"] else v["outside"]
    return sampling.mapped(call.main, places, rule, finite=True)


def spectrum(samples: int) -> NDArray[np.float64]:
    """(samples, 3): the weights of red, green and blue of each sample; each column sums to 1."""
    t = np.linspace(-1, 1, samples)
    raw = np.stack([np.clip(-t, 0, 1), np.clip(1 - np.abs(t), 0, 1), np.clip(t, 0, 1)], -1)
    return np.asarray(raw / raw.sum(0))


@step(
    "colour-split",
    label="Colour split",
    family="Space",
    sentence="Pulls red, green and blue apart, as a poor lens or a worn tape does.",
    words=("chromatic aberration", "rgb split", "fringe", "prism", "glitch"),
    main="picture",
    params=(
        Number(name="amount", default=0.03, slider=(0, 0.2), allowed=(0, 1),
               help="As a share of half the frame's width: 0.05 is strong, 0.5 looks like a worn "
                    "tape."),
        Choice(name="direction", default="radial", options=("radial", "along an angle"),
               moves=False, help="Away from a centre, or all to one side."),
        Number(name="angle", default=0.0, slider=(-180, 180), allowed=(-36000, 36000), unit="°",
               when={"direction": ("along an angle",)}),
        whole("samples", 3, (3, 16), (3, 16), moves=False, help="More give a smoother spectrum."),
        replace(CENTRE, when={"direction": ("radial",)}),
        OUTSIDE_HOLDS,
    ),
)  # fmt: skip
def colour_split(call: Call) -> Plane:
    """Σ wᵢ · in(placeᵢ), samples from t = −1 (red) over 0 (green) to 1 (blue).

    Radial: scaled about the centre by 1 + amount·t. Along an angle: shifted by amount·t of half
    the width. The weights of each colour sum to 1, so neutral areas stay neutral.

    Returns
    -------
    (H, W, 4) picture.
    """
    v, size = call.values, call.size
    if v["amount"] <= 0:
        return call.main
    weights = spectrum(int(v["samples"]))
    reach = v["amount"] * 0.5
    turn = radians(v["angle"])
    along = (reach * cos(turn), reach * sin(turn) * size.width / size.height)

    def placed(t: float) -> Matrix:
        k = 1 + v["amount"] * t
        if v["direction"] == "radial":
            return reading(forward(size, scale=(k, k), pivot=v["centre"]))
        return reading(forward(size, shift=(along[0] * t, along[1] * t)))

    full = opaque(call.main) and v["outside"] != "clear"
    if len(weights) == 3:
        # Each colour comes from one sample, so nothing is summed.
        matrices = [placed(t) for t in (-1.0, 0.0, 1.0)]
        return shift.apart(call.main, matrices, v["outside"], "full" if full else "mean")
    planes = cv2.split(call.main)
    out = np.zeros((size.height, size.width, 4), np.float32)
    for t, weight in zip(np.linspace(-1, 1, len(weights)), weights, strict=True):
        matrix = placed(t)
        # Alpha is the mean of all samples; for an opaque picture with held edges it stays.
        parts = [*weight, 0.0 if full else weight.mean()]
        for c, part in enumerate(parts):
            if part > 0:
                seen = sampling.affine(planes[c], matrix, v["outside"])
                gather(out, seen, c, float(part))
    if full:
        out[..., 3] = 1
    return out


GRIDS = ("half cells at the borders", "whole cells", "about the middle")


@lru_cache(maxsize=64)
def _cells(count: int, share: float, grid: str) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """The number of each pixel's cell along an axis, and the place that each cell reads, 0..1."""
    place = (np.arange(count) + 0.5) / count / share
    # A pixel whose centre lies on a boundary, up to rounding, belongs to the cell that begins
    # there.
    index = np.floor(place + (0.5 if grid == GRIDS[0] else 0.0) + 1e-9).astype(np.int64)
    ids, cell = np.unique(index, return_inverse=True)
    reads = (ids + (0.5 if grid == GRIDS[2] else 0.0)) * share
    tables = np.asarray(cell, np.int64), np.asarray(reads, np.float64)
    for one in tables:
        one.setflags(write=False)
    return tables


@step(
    "pixelate",
    label="Pixelate",
    family="Space",
    sentence="Turns the picture into large blocks.",
    words=("mosaic", "8 bit", "blocks", "censor", "low resolution", "retro"),
    main="either",
    gives="same",
    params=(
        Number(name="cell", default=0.1, slider=(0.005, 0.5), allowed=(0.0005, 1),
               help="Size of a block, as a share of the frame."),
        Toggle(name="square", default=False, help="Makes blocks as wide as they are high."),
        Choice(name="grid", default=GRIDS[0], options=GRIDS, moves=False,
               help="Where the blocks lie. Whole cells take the colour at their corner, cells "
                    "about the middle the one in their centre."),
        Choice(name="sampling", default="nearest", options=("nearest", "average"), moves=False),
    ),
)  # fmt: skip
def pixelate(call: Call) -> Plane:
    """out(p) = in(round(p / cell) · cell), p in 0..1 of the frame; or the cell's average.

    With half cells at the borders, a cell of a tenth makes nine whole cells and a half one at each
    end, at any frame size. Whole cells read at their beginning; cells around the frame's middle
    read at their own middle.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    v, size, main = call.values, call.size, call.main
    down = v["cell"]
    across = down * size.height / size.width if v["square"] else down
    columns, reads_x = _cells(size.width, across, v["grid"])
    lines, reads_y = _cells(size.height, down, v["grid"])
    if v["sampling"] == "nearest":
        at_x = np.clip((reads_x * size.width).astype(np.int64), 0, size.width - 1)
        at_y = np.clip((reads_y * size.height).astype(np.int64), 0, size.height - 1)
        small = main[at_y][:, at_x]
    else:
        small = mosaic.cells(main, lines, columns)
    return mosaic.spread(small, lines, columns)
