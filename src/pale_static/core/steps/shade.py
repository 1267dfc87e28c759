"""Light and surface, continued: light that falls off, and shadows."""

from __future__ import annotations

from math import cos, hypot, radians, sin, sqrt
from typing import Any

import cv2
import numpy as np

from ..kernels.colour import tone
from ..kernels.filters import blending, glare
from ..pictures import sampling
from ..pictures.colour import parse_colour, premultiplied
from ..pictures.picture import Plane, Size, as_matte
from ..pictures.softening import gaussian
from ..values.params import Choice, ColourParam, Number, Point, Toggle
from .declare import Call, InputKind, step
from .light import straight
from .placing import forward, reading


@step(
    "vignette",
    label="Vignette",
    family="Light and surface",
    sentence="Darkens the picture towards its corners.",
    words=("corners", "darken", "edges", "lens", "spotlight", "old photo"),
    main="picture",
    params=(
        Number(name="amount", default=0.6, slider=(0, 1), allowed=(0, 1)),
        Number(name="size", default=1.1, slider=(0.2, 2), allowed=(0.01, 10),
               help="Distance at which it is strongest. 1 is the corners."),
        Number(name="softness", default=0.8, slider=(0, 2), allowed=(0, 10),
               help="Width of the change, in the same unit as the size."),
        Number(name="roundness", default=0.3, slider=(0, 1), allowed=(0, 1),
               help="0 follows the shape of the frame, 1 is a circle."),
        Point(name="centre", default=(0.5, 0.5)),
        ColourParam(name="colour", default="#000000"),
    ),
)  # fmt: skip
def vignette(call: Call) -> Plane:
    """in + w·(colour − in), w = amount · smoothstep(size − softness, size, r); alpha stays.

    r is 1 in the corners of a centred frame: the distance from the centre over axes that run from
    √2 times half the sides (roundness 0) to half the diagonal (1).

    Returns
    -------
    (H, W, 4) picture.
    """
    v, size = call.values, call.size
    diagonal = hypot(size.width, size.height) / 2
    across, down = (
        side / sqrt(2) + v["roundness"] * (diagonal - side / sqrt(2))
        for side in (size.width, size.height)
    )
    x = (np.arange(size.width) + 0.5 - v["centre"][0] * size.width) / across
    y = (np.arange(size.height) + 0.5 - v["centre"][1] * size.height) / down
    r = np.hypot(x.astype(np.float32)[None], y.astype(np.float32)[:, None])
    weight = tone.threshold(r, v["size"] - v["softness"] / 2, v["softness"])
    weight *= np.float32(v["amount"])
    return glare.toward(call.main, weight, straight(v["colour"]))


_KINDS = ("soft", "long", "inner")


def moved(matte: Plane, x: float, y: float, size: Size) -> Plane:
    """A matte shifted by pixels, with 0 outside its border."""
    matrix = reading(forward(size, shift=(x / size.width, y / size.height)))
    return sampling.affine(matte, matrix, "clear")


def _trailing(matte: Any, dx: float, dy: float, length: float, fade: float, size: Size) -> Any:
    """The largest value of a matte shifted by 0 up to a length, minus a fade that grows with the
    shift.

    Each round shifts the result by the distance covered so far, and by one more pixel along the
    longer axis.
    """
    pixel = 1 / max(abs(dx), abs(dy))
    out, come = matte, 0.0
    while come < length:
        far = min(come + pixel, length - come)
        on = moved(out, dx * far, dy * far, size)
        if fade:
            on = on - np.float32(fade * far / length)
        out, come = cv2.max(out, on), come + far
    return out


@step(
    "shadow",
    label="Shadow",
    family="Light and surface",
    sentence="Gives the picture a shadow: soft, long, or inside its shape.",
    words=("drop shadow", "long shadow", "inner shadow", "depth", "cut out", "paper"),
    main="picture",
    inputs=(InputKind("shape", "matte", "The shape that throws the shadow. Without it, the "
                                        "picture's alpha.",
                      optional=True),),
    params=(
        Choice(name="form", default="soft", options=_KINDS, moves=False,
               help="Soft lies behind the picture, long stretches to one side, inner lies inside "
                    "the shape."),
        Number(name="distance", default=2.5, slider=(0, 50), allowed=(0, 500), unit="%h",
               help="Distance from the picture, or length of a long shadow."),
        Number(name="angle", default=45.0, slider=(-180, 180), allowed=(-36000, 36000), unit="°",
               help="Direction in which the shadow falls."),
        Number(name="size", default=1.0, slider=(0, 10), allowed=(0, 100), unit="%h",
               help="Softness (standard deviation)."),
        Number(name="fade", default=0.0, slider=(0, 1), allowed=(0, 1), when={"form": ("long",)},
               help="How much a long shadow fades towards its end."),
        ColourParam(name="colour", default="#000000"),
        Number(name="opacity", default=0.6, slider=(0, 1), allowed=(0, 1)),
        Toggle(name="alone", default=False, moves=False, help="Shows the shadow without the "
                                                              "picture."),
    ),
)  # fmt: skip
def shadow(call: Call) -> Plane:
    """The colour under the picture, with the alpha of G(S) · opacity; S is its shape, moved.

    Soft: moved by the distance along the angle. Long: the largest of S moved by 0 up to the
    distance, minus fade · share of the distance. Inner: over the picture and within its shape, 1 −
    S moved.

    Returns
    -------
    (H, W, 4) picture.
    """
    v, size, main = call.values, call.size, call.main
    unit = size.height / 100
    shape: Any = call.inputs.get("shape")
    if shape is None:
        shape = as_matte(main, "alpha")
    shape = np.clip(shape, 0, 1)
    turn, length = radians(v["angle"] % 360), v["distance"] * unit
    dx, dy = cos(turn), sin(turn)
    if v["form"] == "long":
        fallen = _trailing(shape, dx, dy, length, v["fade"], size) if length > 0 else shape
    else:
        fallen = moved(shape, dx * length, dy * length, size)
    if v["form"] == "inner":
        fallen = (1 - fallen).astype(np.float32)
    fallen = gaussian(fallen, v["size"] * unit, "clamp" if v["form"] == "inner" else "clear")
    weight = fallen * np.float32(v["opacity"])
    colour = np.array(premultiplied(parse_colour(v["colour"])), np.float32)
    if v["form"] == "inner":
        laid = glare.laid_under(np.zeros_like(main), weight * shape, colour)
        return laid if v["alone"] else blending.blend(main, laid, "normal", operator="atop")
    return glare.laid_under(np.zeros_like(main) if v["alone"] else main, weight, colour)
