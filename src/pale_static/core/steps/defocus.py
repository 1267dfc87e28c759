"""Blur, continued: a blur of a size per pixel, and a lens out of focus."""

from __future__ import annotations

from functools import lru_cache
from math import ceil, cos, pi, radians
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from ..kernels.filters import glare, mixing, soften
from ..pictures.picture import Plane, is_matte
from ..pictures.softening import gaussian
from ..values.params import Choice, Number, outside, whole
from .declare import Call, InputKind, step
from .light import LINEAR

_SIZES = (0.0, 0.0625, 0.125, 0.25, 0.5, 1.0)


@step(
    "mapped-blur",
    label="Mapped blur",
    family="Blur and sharpen",
    sentence="Softens more where another picture is bright.",
    words=("variable", "depth of field", "focus", "tilt shift", "gradient blur"),
    main="either",
    gives="same",
    inputs=(InputKind("map", "matte", "White softens by the full size, black not at all."),),
    params=(
        Number(name="size", default=3.0, slider=(0, 20), allowed=(0, 100), unit="%h"),
        outside("clamp"),
    ),
)  # fmt: skip
def mapped_blur(call: Call) -> Plane:
    """A Gaussian of standard deviation map · size at each pixel, mixed from six blurred pictures.

    Sizes lie at 0, 1/16, 1/8, 1/4, 1/2 and 1 of the largest; between two of them variances are
    mixed, so there is no seam. Premultiplied, so there is no dark halo.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    sigma = call.values["size"] / 100 * call.size.height
    if sigma < 0.05:
        return call.main
    place = np.clip(call.inputs["map"], 0, 1)

    def soft(k: int) -> Plane:
        return gaussian(call.main, sigma * _SIZES[k], call.values["outside"])

    # Weights over variances: 1 at its own size, falling linearly to 0 at its neighbours'.
    return mixing.layered(soft, [share * share for share in _SIZES], place * place)


_OPENINGS = ("disc", "polygon")
_FINEST = 8.5
"""The largest radius in pixels that is summed at full size; larger ones on fewer pixels."""
_SAMPLES = 8
_SHARES = (0.0, 0.25, 0.5, 0.75, 1.0)


@lru_cache(maxsize=128)
def opening(radius: float, blades: int, turn: float) -> NDArray[np.float32]:
    """The image of a bright point: a disc, or a polygon of the same area from 3 blades, of sum 1.

    The brightness of each pixel is its covered share.
    """
    reach = radius
    if blades:
        # A polygon with the area of the disc has corners outside it.
        reach = radius * np.sqrt(2 * pi / (blades * np.sin(2 * pi / blades)))
    half = max(1, ceil(reach))
    side = 2 * half + 1
    at = (np.arange(side * _SAMPLES) + 0.5) / _SAMPLES - side / 2
    y, x = np.meshgrid(at, at, indexing="ij")
    if blades:
        angle = np.arctan2(y, x) - radians(turn) - pi / 2
        sector = 2 * pi / blades
        off = (angle + sector / 2) % sector - sector / 2
        # Sides lie between corners: the distance to the nearest side's middle.
        covered = np.hypot(x, y) * np.cos(np.abs(off) - sector / 2) <= reach * cos(pi / blades)
    else:
        covered = np.hypot(x, y) <= reach
    shares = covered.reshape(side, _SAMPLES, side, _SAMPLES).mean((1, 3))
    kernel = (shares / shares.sum()).astype(np.float32)
    kernel.setflags(write=False)
    return kernel


def _opened(plane: Any, radius: float, blades: int, turn: float) -> Any:
    """A plane with each point spread over an opening of a radius in pixels; the border is held."""
    if radius < 0.5:
        return plane
    high, wide = plane.shape[:2]
    factor = max(1, ceil(radius / _FINEST))
    small = plane
    if factor > 1:
        size = (max(1, round(wide / factor)), max(1, round(high / factor)))
        small = cv2.resize(plane, size, interpolation=cv2.INTER_AREA)
    soft: Any = soften.opened(small, opening(radius / factor, blades, turn))
    if factor > 1:
        soft = cv2.resize(soft, (wide, high), interpolation=cv2.INTER_LINEAR)
    return soft


@step(
    "defocus",
    label="Defocus",
    family="Blur and sharpen",
    sentence="A lens out of focus: bright points become discs.",
    words=("bokeh", "lens blur", "depth of field", "out of focus", "aperture", "discs", "rack focus"),
    main="either",
    gives="same",
    inputs=(InputKind("map", "matte", "White is fully out of focus, black is sharp.",
                      optional=True),),
    params=(
        Number(name="size", default=3.0, slider=(0, 15), allowed=(0, 100), unit="%h",
               help="Radius of the discs."),
        Choice(name="opening", default="disc", options=_OPENINGS, moves=False,
               help="The shape of the lens's opening."),
        whole("blades", 6, (3, 9), (3, 24), moves=False, when={"opening": ("polygon",)},
              help="Corners of the polygon."),
        Number(name="turn", default=0.0, slider=(-180, 180), allowed=(-36000, 36000), unit="°",
               when={"opening": ("polygon",)}),
        Number(name="highlights", default=0.0, slider=(0, 5), allowed=(0, 100),
               help="Brightens parts that are nearly white first, so that lamps make bright discs."),
        LINEAR,
    ),
    source="convolution with the lens's opening, in linear light",
)  # fmt: skip
def defocus(call: Call) -> Plane:
    """opening ∗ light(in), encoded again. The opening has a sum of 1, so points keep their energy.

    A polygon has the area of the disc of its radius. With a map, the result is mixed from five
    discs with radii from 0 to the full one. Highlights: light · (1 + highlights ·
    smoothstep(0.7, 1, luminance)). Discs over 10 pixels are summed on fewer pixels.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    v, main = call.values, call.main
    radius = v["size"] / 100 * call.size.height
    if radius < 0.5:
        return main
    blades = int(v["blades"]) if v["opening"] == "polygon" else 0
    linear = bool(v["linear_light"]) and not is_matte(main)
    held: Any = main
    if not is_matte(main):
        held = glare.bright(main, 0.0, 0.0, linear, planes=4)
        if v["highlights"] > 0:
            # Over all four channels at once: over three of four NumPy is four times as slow.
            more = glare.bright(main, 0.85, 0.3, linear, planes=4)
            more *= np.float32(v["highlights"])
            more[..., 3] = 0
            held += more
    place = call.inputs.get("map")
    if place is None:
        soft = _opened(held, radius, blades, v["turn"])
    else:
        soft = mixing.layered(
            lambda k: _opened(held, radius * _SHARES[k], blades, v["turn"]), _SHARES,
            np.clip(place, 0, 1),
        )  # fmt: skip
    if is_matte(main):
        return np.asarray(soft)
    return glare.shown(np.ascontiguousarray(soft), linear)
