"""Light and surface, continued: edges, reliefs, distances and glass."""

from __future__ import annotations

from math import ceil, cos, floor, log, pi, radians, sin, sqrt
from statistics import NormalDist
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from ..kernels.colour import tone
from ..kernels.filters import glare
from ..kernels.texture import relief as kernel
from ..kernels.texture import shapes
from ..pictures.picture import Plane, Size, as_matte, box_of, is_matte
from ..pictures.softening import gaussian
from ..values.params import Choice, ColourParam, Number, Point, Stops
from .declare import Call, InputKind, step
from .light import TINT, straight
from .shade import moved
from .sources import stops_table

_EDGES = ("Sobel", "Scharr", "difference of Gaussians")
_WEIGHTS = {"Sobel": (1 / 8, 2 / 8), "Scharr": (3 / 32, 10 / 32)}
_WIDER = 1.6
"""Ratio of the two Gaussians at which their difference is closest to the Laplacian."""
_NORMAL = NormalDist()


def edge_strength(plane: Plane, sigma: float, method: str) -> Plane:
    """The strength of a matte's edges: about the height of the step at each edge; (H, W)."""
    if method == _EDGES[2]:
        sigma = max(sigma, 0.5)
        fine = gaussian(plane, sigma)
        coarse = gaussian(plane, sigma * _WIDER)
        # A step of height 1 has its largest difference here, on either side.
        at = sqrt(2 * log(_WIDER) / (1 - 1 / _WIDER**2))
        peak = _NORMAL.cdf(at) - _NORMAL.cdf(at / _WIDER)
        return np.asarray(np.abs(fine - coarse) * np.float32(1 / peak))
    soft = gaussian(plane, sigma)
    scale = sqrt(2 * pi * (sigma * sigma + 1 / 3))
    corner, middle = _WEIGHTS[method]
    return kernel.slope(soft, corner * scale, middle * scale)


@step(
    "edges",
    label="Edges",
    family="Light and surface",
    sentence="Finds the outlines in a picture: bright lines on black.",
    words=("outline", "contour", "cartoon", "sketch", "line drawing", "find edges", "neon", "ink"),
    main="either",
    matte_when=lambda values: values.get("channels", "luminance") == "luminance",
    params=(
        Choice(name="method", default="Sobel", options=_EDGES, moves=False,
               help="Scharr is the most even in all directions. A difference of Gaussians gives "
                    "two "
                    "lines, one to each side of an edge."),
        Choice(name="channels", default="luminance", options=("luminance", "colour"), moves=False,
               help="One matte of the brightness, or the edges of each colour."),
        Number(name="thickness", default=0.25, slider=(0, 3), allowed=(0, 50), unit="%h",
               help="Thickness of the lines. Thicker lines leave out fine detail."),
        Number(name="strength", default=2.0, slider=(0, 10), allowed=(0, 1000)),
        Number(name="threshold", default=0.05, slider=(0, 0.5), allowed=(0, 10),
               help="Edges weaker than this stay black."),
    ),
    source="Sobel & Feldman 1968; Scharr 2000; Marr & Hildreth 1980",
)  # fmt: skip
def edges(call: Call) -> Plane:
    """clamp(strength · max(e − threshold, 0)), e the strength of the edge at each pixel.

    Sobel and Scharr: |∇(G ∗ in)| times √2π·σ, σ half the thickness, so that e is about the height
    of the step at an edge, at any size. Difference of Gaussians: |G(σ) − G(1.6σ)|, scaled the
    same.

    Returns
    -------
    (H, W) matte of the luminance; or (H, W, 4) picture of each colour, with the alpha of the input.
    """
    v, main = call.values, call.main
    sigma = v["thickness"] / 2 / 100 * call.size.height

    def found(plane: Any) -> Any:
        strong = edge_strength(plane, sigma, v["method"])
        return np.clip((strong - np.float32(v["threshold"])) * np.float32(v["strength"]), 0, 1)

    if v["channels"] == "luminance" or is_matte(main):
        return np.asarray(found(as_matte(main)))
    planes = [found(np.ascontiguousarray(main[..., c])) for c in range(3)]
    alpha = main[..., 3]
    return np.dstack([*(plane * alpha for plane in planes), alpha])


_LAMPS = ("far away", "at a point")


@step(
    "relief",
    label="Relief",
    family="Light and surface",
    sentence="Lights the picture as if another picture were its surface.",
    words=("emboss", "bump", "surface", "3d", "plastic", "foil", "metal", "chrome", "leather", "engrave", "texture",
           "hillshade", "bevel"),
    main="picture",
    inputs=(InputKind("surface", "matte", "Heights: white stands out, black lies deep."),),
    params=(
        Choice(name="lamp", default="far away", options=_LAMPS, moves=False),
        Number(name="azimuth", default=-135.0, slider=(-180, 180), allowed=(-36000, 36000), unit="°",
               when={"lamp": ("far away",)},
               help="Where the light stands, clockwise from the right; −135 is the top left."),
        Number(name="elevation", default=45.0, slider=(0, 90), allowed=(0, 90), unit="°",
               when={"lamp": ("far away",)}, help="Height of the light above the picture. Low "
                                                  "light shows more relief."),
        Point(name="lamp_place", default=(0.3, 0.2), when={"lamp": ("at a point",)}),
        Number(name="lamp_distance", default=40.0, slider=(1, 200), allowed=(0.1, 10000), unit="%h",
               when={"lamp": ("at a point",)}, help="Distance of the lamp from the picture."),
        Number(name="depth", default=3.0, slider=(0, 20), allowed=(-500, 500), unit="%h",
               help="How far white stands out over black. Negative values press it in."),
        Number(name="detail", default=0.3, slider=(0, 5), allowed=(0, 100), unit="%h",
               help="Smooths the surface. Higher values leave out fine detail."),
        Number(name="level", default=1.0, slider=(0, 3), allowed=(0, 100),
               help="Mean brightness against the plain picture: 1 keeps it, 2 doubles it."),
        Number(name="darkest", default=0.0, slider=(0, 1), allowed=(0, 1),
               help="No shade gets darker than this."),
        Number(name="sheen", default=0.0, slider=(0, 2), allowed=(0, 20),
               help="Strength of highlights, as on plastic or foil."),
        Number(name="sharpness", default=60.0, slider=(1, 200), allowed=(1, 5000),
               help="Higher values make highlights smaller.", when={"sheen": ()}),
        TINT,
    ),
    source="Lambert 1760; Blinn 1977; hillshade as in map-making",
)  # fmt: skip
def relief(call: Call) -> Plane:
    """in · tint · k · max(n·l, darkest) + sheen · tint · (n·h)^sharpness.

    The surface, smoothed by a Gaussian, is a height field: n = (−∂z/∂x, −∂z/∂y, 1) normalised, in
    pixels; l points to the lamp, h half-way between it and the eye (Blinn). k makes the mean
    luminance of the shaded picture equal to that of the plain one times the level. Alpha stays.

    Returns
    -------
    (H, W, 4) picture.
    """
    v, size = call.values, call.size
    unit = size.height / 100
    height = gaussian(call.inputs["surface"], v["detail"] * unit)
    near = v["lamp"] == _LAMPS[1]
    if near:
        x, y = v["lamp_place"]
        lamp = (x * size.width - 0.5, y * size.height - 0.5, v["lamp_distance"] * unit)
    else:
        turn, up = radians(v["azimuth"] % 360), radians(v["elevation"])
        lamp = (cos(turn) * cos(up), sin(turn) * cos(up), sin(up))
    return kernel.relief(
        call.main, height, v["depth"] * unit, lamp, near, v["darkest"], v["level"],
        straight(v["tint"]), v["sheen"], v["sharpness"],
    )  # fmt: skip


def signed_distance(matte: Plane) -> NDArray[np.float32]:
    """Distance in pixels to the places at which a matte passes one half, negative inside; (H, W).

    Exact Euclidean distances between pixels; on the border itself, computed from the covered share.
    If nothing is inside, the frame's size; if everything is, minus that.
    """
    inside = (matte >= 0.5).astype(np.uint8)
    far = np.float32(sum(matte.shape))
    if not inside.any():
        return np.full(matte.shape, far, np.float32)
    if inside.all():
        return np.full(matte.shape, -far, np.float32)
    within: Any = cv2.distanceTransform(inside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    beyond: Any = cv2.distanceTransform(1 - inside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    # Squares of distances are whole numbers, so their roots do not depend on how the work was
    # divided.
    within, beyond = (np.sqrt(np.rint(side * side)) for side in (within, beyond))
    half = np.float32(0.5)
    found = np.where(inside > 0, half - within, beyond - half)
    border = (matte > 0) & (matte < 1) & (np.abs(found) < 1)
    return np.where(border, half - matte, found).astype(np.float32)


_BEYOND = ("clamp", "clear", "repeat", "mirror")


@step(
    "distance-colours",
    label="Distance colours",
    family="Light and surface",
    sentence="Colours by the distance to a shape's border: outlines, bevels and rings.",
    words=("outline", "stroke", "neon", "bevel", "rings", "contour lines", "sticker", "gradient",
           "signed distance"),
    main="either",
    params=(
        Choice(name="measured_by", default="alpha", options=("alpha", "luminance"), moves=False,
               help="Which channel of the picture is the shape."),
        Number(name="inside", default=0.0, slider=(0, 20), allowed=(0, 1000), unit="%h",
               help="How far inside the border the first stop lies."),
        Number(name="outside_reach", default=2.0, slider=(0, 20), allowed=(0, 1000), unit="%h",
               label="outside", help="How far outside the border the last stop lies."),
        Stops(name="stops", default=((0.0, "#FFFFFF"), (0.5, "#FF7A3A"), (1.0, "#7B3A6300")),
              help="Colours from inside to outside."),
        Choice(name="beyond", default="clear", options=_BEYOND, moves=False,
               help="What lies past the last stop: its colour, nothing, or the stops again."),
        Number(name="shift", default=0.0, slider=(-1, 1), allowed=(-1000, 1000),
               help="Moves the colours outward. 1 is the width of the whole band."),
        Number(name="softness", default=0.0, slider=(0, 5), allowed=(0, 100), unit="%h",
               help="Rounds the shape before it is measured."),
    ),
    source="Euclidean distance transform; scipy.ndimage.distance_transform_edt as the reference",
)  # fmt: skip
def distance_colours(call: Call) -> Plane:
    """stops((d + inside) / (inside + outside) − shift), d the distance to the border, < 0 inside.

    The border is where the shape's cover is one half. Inside the first stop its colour continues.

    Returns
    -------
    (H, W, 4) picture.
    """
    v, main = call.values, call.main
    unit = call.size.height / 100
    shape = as_matte(main, v["measured_by"]) if not is_matte(main) else main
    shape = gaussian(shape, v["softness"] * unit)
    width = max((v["inside"] + v["outside_reach"]) * unit, 1.0)
    if v["beyond"] != "clear":
        return _coloured(shape, v, unit, width)
    # The area farther from the shape than the last stop is clear and needs no distances.
    reach = ceil(v["outside_reach"] * unit + abs(v["shift"]) * width) + 3
    reach = min(reach, sum(shape.shape))
    out = np.zeros((*shape.shape, 4), np.float32)
    box = box_of(shape >= 0.5, reach)
    if box is None:
        return out
    out[box] = _coloured(np.ascontiguousarray(shape[box]), v, unit, width)
    return out


def _coloured(shape: Plane, v: Any, unit: float, width: float) -> Plane:
    d = signed_distance(shape)
    place = (d + np.float32(v["inside"] * unit)) * np.float32(1 / width) - np.float32(v["shift"])
    if v["beyond"] in ("repeat", "mirror"):
        turned = place - np.floor(place)
        if v["beyond"] == "mirror":
            turned = 1 - np.abs(1 - (place - 2 * np.floor(place / 2)))
        return tone.coloured(np.ascontiguousarray(turned, np.float32), stops_table(v["stops"]))
    out = tone.coloured(np.clip(place, 0, 1), stops_table(v["stops"]))
    if v["beyond"] == "clear":
        # Half a pixel to either side of the end, so that it is smooth.
        out *= np.clip((1 - place) * np.float32(width) + np.float32(0.5), 0, 1)[..., None]
    return out


_OWN_BOX = {"shape": (False,)}


@step(
    "glass-pane",
    label="Glass pane",
    family="Light and surface",
    sentence="A pane of glass over the picture, with a bent rim that catches the light.",
    words=("glass", "refraction", "lens", "frosted glass", "window", "magnifier", "bubble", "morph",
           "crystal"),
    main="picture",
    inputs=(
        InputKind("shape", "matte", "The shape of the pane. Without it, a rounded box.", optional=True),
        InputKind("behind", "picture", "The picture behind the pane. Without it, the lane's "
                                       "picture.",
                  optional=True),
    ),
    params=(
        Point(name="centre", default=(0.5, 0.5), when=_OWN_BOX),
        Number(name="width", default=80.0, slider=(0, 200), allowed=(0, 10000), unit="%h", when=_OWN_BOX),
        Number(name="height", default=50.0, slider=(0, 200), allowed=(0, 10000), unit="%h", when=_OWN_BOX),
        Number(name="corner", default=10.0, slider=(0, 50), allowed=(0, 1000), unit="%h", when=_OWN_BOX),
        Number(name="turn", default=0.0, slider=(-180, 180), allowed=(-36000, 36000), unit="°", when=_OWN_BOX),
        Number(name="bevel", default=6.0, slider=(0, 30), allowed=(0, 500), unit="%h",
               help="Width of the curved rim."),
        Choice(name="profile", default="round", options=kernel.PROFILES, moves=False,
               help="The rim's curve: a quarter circle, a straight slope, or a flat dome."),
        Number(name="index", default=1.5, slider=(1, 2.5), allowed=(1, 5),
               help="Index of refraction: 1 bends nothing, water 1.33, glass 1.5, diamond 2.4."),
        Number(name="thickness", default=6.0, slider=(0, 30), allowed=(0, 500), unit="%h",
               help="Thickness of the glass. Thicker glass bends the picture more."),
        Number(name="dispersion", default=0.1, slider=(0, 1), allowed=(0, 2),
               help="How far red and blue come apart along the rim."),
        Number(name="edge_light", default=0.8, slider=(0, 3), allowed=(0, 100),
               help="Strength of the light along the rim."),
        Number(name="light_angle", default=-120.0, slider=(-180, 180), allowed=(-36000, 36000),
               unit="°", help="The side the light comes from.", when={"edge_light": ()}),
        ColourParam(name="light_colour", default="#FFFFFF", when={"edge_light": ()}),
        Number(name="frost", default=0.0, slider=(0, 10), allowed=(0, 100), unit="%h",
               help="Blurs what is behind the pane, like frosted glass."),
        ColourParam(name="tint", default="#FFFFFF", help="Colour of the glass."),
        Number(name="shadow", default=0.3, slider=(0, 1), allowed=(0, 1),
               help="Strength of the shadow around it."),
    ),
    source="Snell's law of refraction",
)  # fmt: skip
def glass_pane(call: Call) -> Plane:
    """in(p + h · tan(θ − arcsin(sin θ / index)) · inward) on the pane, in elsewhere.

    h is the height of the glass over the picture and θ the slope of its face at that place: with t
    = distance from the border / bevel up to 1, round h = √(1 − (1 − t)²), straight t, lens
    t(2 − t), times the thickness. Light falls straight down. The indices of red and blue lie
    dispersion · (index − 1) / 2 below and above. The rim that faces the light shines by
    (1 − cos θ) times the squared cosine between the two directions.

    Returns
    -------
    (H, W, 4) picture.
    """
    v, size, main = call.values, call.size, call.main
    unit = size.height / 100
    bevel, spread = max(v["bevel"] * unit, 1e-3), v["dispersion"] * (v["index"] - 1) / 2
    # One more pixel on each side, for the slope at the border.
    if "shape" in call.inputs:
        distance = signed_distance(np.clip(call.inputs["shape"], 0, 1))
        box = box_of(distance < 0.5, 1)
        if box is None or not (distance < 0).any():
            return main
        bowed = gaussian(distance, min(bevel / 6, 4.0))[box]
        distance = distance[box]
    else:
        half = (v["width"] / 2 * unit, v["height"] / 2 * unit)
        centre = (v["centre"][0] * size.width, v["centre"][1] * size.height)
        turn = radians(v["turn"] % 360)
        c, s = cos(turn), sin(turn)
        reach = (abs(c) * half[0] + abs(s) * half[1] + 2, abs(s) * half[0] + abs(c) * half[1] + 2)
        box = _around(centre, reach, size)
        if min(half) <= 0 or box is None:
            return main
        distance = bowed = shapes.distance(
            box[0].stop - box[0].start, box[1].stop - box[1].start, "rounded box",
            (centre[0] - box[1].start, centre[1] - box[0].start), (c, s), half,
            v["corner"] * unit, np.zeros((1, 2)),
        )  # fmt: skip
    light = radians(v["light_angle"] % 360)
    toward = (cos(light), sin(light))
    indices = (max(v["index"] - spread, 1.0), v["index"], v["index"] + spread)
    ways = kernel.refraction(v["profile"], bevel, v["thickness"] * unit, indices, 513)
    out = main.copy()
    if v["shadow"] > 0:
        _shade(out, distance, box, toward, max(bevel * 0.5, 1.0), v["shadow"], size)
    through = gaussian(call.inputs.get("behind", main), v["frost"] * unit)
    shine = straight(v["light_colour"]) * np.float32(v["edge_light"])
    kernel.pane(out, through, box, distance, bowed, ways, bevel, toward, straight(v["tint"]), shine)
    return out


def _around(
    centre: tuple[float, float], reach: tuple[float, float], size: Size
) -> tuple[slice, slice] | None:
    """The rows and columns of a frame within a reach of a centre; None if there are none."""
    sides = [
        (max(0, floor(at - far)), min(side, ceil(at + far)))
        for at, far, side in zip(centre, reach, (size.width, size.height), strict=True)
    ]
    if any(first >= last for first, last in sides):
        return None
    return slice(*sides[1]), slice(*sides[0])


def _shade(
    out: Plane, distance: Plane, box: tuple[slice, slice], toward: tuple[float, float],
    away: float, strength: float, size: Size,
) -> None:  # fmt: skip
    """Darken a picture in place by the soft shadow of a pane, which falls away from the light."""
    far = ceil(5 * away) + 2
    rows, columns = (
        slice(max(0, part.start - far), min(side, part.stop + far))
        for part, side in zip(box, (size.height, size.width), strict=True)
    )
    part = Size(columns.stop - columns.start, rows.stop - rows.start)
    cover = np.zeros((part.height, part.width), np.float32)
    y, x = box[0].start - rows.start, box[1].start - columns.start
    within = np.clip(0.5 - distance, 0, 1)
    cover[y : y + within.shape[0], x : x + within.shape[1]] = within
    fallen = gaussian(moved(cover, -toward[0] * away, -toward[1] * away, part), away)
    glare.darken(out, fallen, strength, (rows.start, columns.start))
