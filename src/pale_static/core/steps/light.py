"""Light and surface: light that spreads, crosses and falls off, and the shadows it leaves."""

from __future__ import annotations

from collections.abc import Sequence
from math import ceil, cos, hypot, log2, radians, sin, sqrt
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from ..kernels.filters import blending, glare, mixing
from ..pictures.colour import parse_colour, premultiplied, to_linear
from ..pictures.picture import Plane, flat
from ..pictures.softening import gaussian
from ..values.params import Choice, ColourParam, Number, Toggle, whole
from .declare import FORWARD, Call, InputKind, step

LINEAR = Toggle(
    name="linear_light", default=True, moves=False,
    help="Adds light the way a camera records it. Off adds display values and looks flatter.",
)  # fmt: skip
TINT = ColourParam(name="tint", default="#FFFFFF", help="Colour of the light.")
_SHAPES = ("round", "star", "along an angle")
_OUTPUTS = ("over the picture", "light alone")
PROGRESS = Number(
    name="progress", default=0.5, slider=(0, 1), allowed=(0, 1),
    help="At 0 the band has not entered the frame, at 1 it has left it.",
)  # fmt: skip


def straight(text: str) -> NDArray[np.float32]:
    """A colour as straight red, green and blue."""
    return np.array(parse_colour(text)[:3], np.float32)


def _canvas(width: int, height: int) -> int:
    """The side of a square in which a frame can be turned by any angle."""
    return ceil(hypot(width, height)) + 4


def _streaked(colours: Any, sigma: float, angle: float) -> Any:
    """Colours smeared along an angle by a standard deviation in pixels."""
    high, wide = colours.shape[:2]
    if angle % 180 == 0:
        return gaussian(colours, sigma, "clear", 0.0)
    if angle % 180 == 90:
        return gaussian(colours, 0.0, "clear", sigma)
    # The picture is turned so that the streak lies along the rows, smeared, and turned back.
    side = _canvas(wide, high)
    c, s = cos(radians(angle)), sin(radians(angle))
    half = (side - 1) / 2
    there = np.array([
        [c, -s, (wide - 1) / 2 - c * half + s * half],
        [s, c, (high - 1) / 2 - s * half - c * half],
    ])  # fmt: skip
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    turned: Any = cv2.warpAffine(colours, there, (side, side), flags=flags)
    soft = gaussian(np.ascontiguousarray(turned), sigma, "clear", 0.0)
    back = np.array([
        [c, s, half - c * (wide - 1) / 2 - s * (high - 1) / 2],
        [-s, c, half + s * (wide - 1) / 2 - c * (high - 1) / 2],
    ])  # fmt: skip
    return cv2.warpAffine(soft, back, (wide, high), flags=flags)


def spread(
    colours: NDArray[np.float32],
    sigmas: Sequence[float],
    shape: str = "round",
    angle: float = 0.0,
    rays: int = 2,
) -> NDArray[np.float32]:
    """The mean of colours softened by several standard deviations, in pixels, on a small grid.

    The area outside the frame is clear. Each deviation is computed on a picture as small as it
    allows; the result of a large one is added to that of the next smaller one and enlarged with it.
    (H / f, W / f, 3), f as the
    smallest allows; enlarging to the frame is part of the softening.
    """
    high, wide = colours.shape[:2]
    turns = [angle + 180 * k / rays for k in range(rays)] if shape == "star" else [angle]
    ordered = sorted(sigmas)
    factors = [2 ** max(0, int(log2(max(sigma, 1e-6) / 2))) for sigma in ordered]
    planes: list[Any] = []
    before = 1
    small: Any = colours
    for factor in factors:
        if factor > before:
            size = (max(1, round(wide / factor)), max(1, round(high / factor)))
            small, before = cv2.resize(small, size, interpolation=cv2.INTER_AREA), factor
        planes.append(small)
    total: Any = None
    for k in reversed(range(len(ordered))):
        # A cell's mean, and each enlargement, contribute some of the variance.
        hops = {1, *factors[: k + 1]} - {1}
        taken = sum(f * f / 6 for f in hops) + (factors[k] ** 2 / 12 if hops else 0.0)
        rest = sqrt(max(ordered[k] ** 2 - taken, 0.0)) / factors[k]
        size = planes[k].shape[1::-1]
        if total is not None and total.shape[1::-1] != size:
            total = cv2.resize(total, size, interpolation=cv2.INTER_LINEAR)
        if shape == "round":
            soft: Any = gaussian(planes[k], rest, "clear")
            total = soft if total is None else mixing.add(total, soft)
            continue
        for turn in turns:
            soft = _streaked(planes[k], rest, turn)
            total = soft if total is None else mixing.add(total, soft)
    return np.asarray(total * np.float32(1 / (len(sigmas) * len(turns))), np.float32)


def light_of(text: str, linear: bool) -> NDArray[np.float32]:
    """A colour as straight red, green and blue, in linear light on request."""
    colour = straight(text)
    return np.asarray(to_linear(colour), np.float32) if linear else colour


def _glowing(
    call: Call, sizes: Sequence[float], threshold: float, gain: float, *, softness: float = 0.2,
    saturation: float = 1.0, shape: str = "round", angle: float = 0.0, rays: int = 2,
    keeps: bool = False, alone: bool = False,
) -> Plane:  # fmt: skip
    """Bright parts of a picture, softened by sizes in % of the frame's height and added to it."""
    main, linear = call.main, bool(call.values["linear_light"])
    source = glare.bright(main, threshold, softness, linear)
    soft = spread(source, [size / 100 * call.size.height for size in sizes], shape, angle, rays)
    share = gain / (1 + gain)
    factors = light_of(call.values["tint"], linear) * np.float32(share if keeps else gain)
    shed: Any = glare.tinted(soft, saturation, factors)
    if shed.shape != source.shape:
        shed = cv2.resize(shed, source.shape[1::-1], interpolation=cv2.INTER_LINEAR)
    if alone:
        return glare.lit(np.zeros_like(main), shed, linear)
    return glare.lit(main, shed, linear, source if keeps else None, share)


@step(
    "glow",
    label="Glow",
    family="Light and surface",
    sentence="Bright parts shine over what is around them.",
    words=("shine", "neon", "halo", "light", "sparkle", "star", "dreamy", "lamp", "anamorphic"),
    main="picture",
    params=(
        Number(name="threshold", default=0.6, slider=(0, 1), allowed=(0, 10),
               help="Only parts brighter than this glow."),
        Number(name="softness", default=0.2, slider=(0, 1), allowed=(0, 10),
               help="Width of the soft change around the threshold."),
        Number(name="size", default=4.0, slider=(0.1, 20), allowed=(0, 100), unit="%h",
               help="How far the light reaches (standard deviation of the largest size)."),
        whole("sizes", 3, (1, 6), (1, 8), moves=False,
              help="Number of blurred copies that are added up, each half as large as the one "
                   "before. "
                   "More copies give a brighter core."),
        Number(name="gain", default=1.0, slider=(0, 4), allowed=(0, 100), help="Strength of the light."),
        TINT,
        Number(name="saturation", default=1.0, slider=(0, 3), allowed=(0, 10),
               help="Below 1 the light gets greyer, above 1 more colourful."),
        Choice(name="shape", default="round", options=_SHAPES, moves=False),
        Number(name="angle", default=0.0, slider=(-180, 180), allowed=(-36000, 36000), unit="°",
               when={"shape": ("star", "along an angle")}),
        whole("rays", 2, (2, 4), (2, 8), moves=False, when={"shape": ("star",)},
              help="Number of lines through each bright point. Each line makes two rays."),
        LINEAR,
        Toggle(name="keep_energy", default=False, moves=False,
               help="Keeps the total light the same: what spreads is taken from where it came from."),
        Choice(name="output", default="over the picture", options=_OUTPUTS, moves=False),
    ),
)  # fmt: skip
def glow(call: Call) -> Plane:
    """in + gain · tint · mean of Gaussians of b; b is the part of the picture that passes the
    threshold.

    Sizes are size, size / 2, size / 4 … Along an angle, and for each line of a star, the Gaussian
    lies along a line. Keeping energy: in − s·b + s·(mean of Gaussians of b), s = gain / (1 + gain),
    so that the sum of light stays, except for light that leaves the frame. In linear light (IEC
    61966-2-1), for the picture over black.

    Returns
    -------
    (H, W, 4) picture. In clear areas it is as opaque as its brightest channel.
    """
    v = call.values
    if v["gain"] <= 0 and v["output"] == _OUTPUTS[0]:
        return call.main
    return _glowing(
        call, [v["size"] / 2**k for k in range(int(v["sizes"]))], v["threshold"], v["gain"],
        softness=v["softness"], saturation=v["saturation"], shape=v["shape"], angle=v["angle"],
        rays=int(v["rays"]), keeps=v["keep_energy"], alone=v["output"] != _OUTPUTS[0],
    )  # fmt: skip


@step(
    "bloom",
    label="Bloom",
    family="Light and surface",
    sentence="A soft veil of light around bright parts, like a mist filter on the lens.",
    words=("glow", "haze", "dreamy", "soft light", "mist", "diffusion", "halation"),
    main="picture",
    params=(
        Number(name="amount", default=0.4, slider=(0, 1), allowed=(0, 20),
               help="How much of the light spreads."),
        Number(name="reach", default=12.0, slider=(1, 40), allowed=(0, 100), unit="%h",
               help="How far it reaches."),
        Number(name="threshold", default=0.3, slider=(0, 1), allowed=(0, 10),
               help="Only what is brighter than this spreads."),
        TINT,
        LINEAR,
    ),
)  # fmt: skip
def bloom(call: Call) -> Plane:
    """A round :func:`glow` of five sizes that keeps energy: the light it adds is taken from its place.

    Returns
    -------
    (H, W, 4) picture.
    """
    v = call.values
    if v["amount"] <= 0:
        return call.main
    sizes = [v["reach"] / 2**k for k in range(5)]
    return _glowing(call, sizes, v["threshold"], v["amount"], softness=0.4, keeps=True)


_FALLOFFS = ("even", "smooth", "sharp")


@step(
    "light-sweep",
    label="Light sweep",
    family="Light and surface",
    sentence="A band of light crosses the picture.",
    words=("shine", "glint", "gleam", "sheen", "logo shine", "light band", "reflection", "sweep"),
    main="picture",
    inputs=(
        InputKind("limit", "matte", "Where it is white the light falls.", optional=True),
        InputKind("surface", "matte", "A height picture. The band bends over its bright parts.", optional=True),
    ),
    params=(
        PROGRESS,
        Number(name="width", default=20.0, slider=(1, 100), allowed=(0.01, 1000), unit="%h"),
        Number(name="softness", default=0.8, slider=(0, 1), allowed=(0, 1),
               help="Share of the band that fades towards its sides."),
        Choice(name="falloff", default="smooth", options=_FALLOFFS, moves=False,
               help="How the band fades: evenly, smoothly, or fast with a thin core."),
        Number(name="angle", default=20.0, slider=(-180, 180), allowed=(-36000, 36000), unit="°",
               help="The direction in which it crosses."),
        Number(name="intensity", default=1.0, slider=(0, 2), allowed=(0, 10)),
        TINT,
        Choice(name="mode", default="add", options=blending.MODES, moves=False,
               help="How the light is laid over the picture."),
        Toggle(name="keep_to_alpha", default=True,
               help="Light falls only where the picture is opaque: on letters, not around them."),
        Number(name="second", default=0.0, slider=(0, 1), allowed=(0, 1), label="second band",
               help="Strength of a thinner band that follows the first."),
        Number(name="gap", default=5.0, slider=(0, 50), allowed=(0, 1000), unit="%h",
               help="Distance between the two bands.", when={"second": ()}),
        Number(name="second_width", default=0.25, slider=(0.05, 1), allowed=(0.01, 1),
               help="Width of the second band, as a share of the first.", when={"second": ()}),
        Number(name="bend", default=10.0, slider=(-50, 50), allowed=(-500, 500), unit="%h",
               help="How far white parts of the surface shift the band.", when={"surface": (True,)}),
        Number(name="detail", default=0.6, slider=(0, 5), allowed=(0, 100), unit="%h",
               help="Smooths the surface.", when={"surface": (True,)}),
    ),
    fresh={"progress": FORWARD},
)  # fmt: skip
def light_sweep(call: Call) -> Plane:
    """in with the tint blended over it at weight intensity · w(d) · limit · alpha.

    d is the distance from the band's middle along the angle, less bend · surface. With half width
    R and softness s: u = clamp((1 − |d| / R) / s), and w = u, u²(3 − 2u) or u². At progress 0 the
    middle lies so far in front of the frame that w is 0 everywhere, also with the second band and
    the bend; at 1 it lies as far behind. *Add* adds more than the tint above intensity 1; the
    weight of other modes stops at 1.

    Returns
    -------
    (H, W, 4) picture.
    """
    v, size, main = call.values, call.size, call.main
    unit = size.height / 100
    turn = radians(v["angle"] % 360)
    dx, dy = cos(turn), sin(turn)
    half = v["width"] / 2 * unit
    thin = half * v["second_width"]
    surface, behind = call.inputs.get("surface"), 0.0
    bend = 0.0 if surface is None else v["bend"] * unit
    if v["second"] > 0:
        behind = half + v["gap"] * unit + thin
    if surface is not None:
        surface = gaussian(surface, v["detail"] * unit)
    # From the frame's middle to its farthest corner along the angle, plus half a pixel.
    reach = (abs(dx) * size.width + abs(dy) * size.height) / 2 + 0.5
    first = -reach - half - abs(bend)
    last = reach + max(half, behind + thin) + abs(bend)
    middle = first + v["progress"] * (last - first)
    start = middle + dx * size.width / 2 + dy * size.height / 2
    soft = 1 / max(v["softness"], 1e-3)
    weight: Any = glare.band(
        size.height, size.width,
        (start, dx, dy, 1 / half, soft, float(_FALLOFFS.index(v["falloff"])),
         -behind, 1 / thin, v["second"], -bend, v["intensity"]),
        surface, call.inputs.get("limit"), main if v["keep_to_alpha"] else None,
    )  # fmt: skip
    tint = straight(v["tint"])
    if v["mode"] == "add":
        return glare.lit_by(main, weight, tint)
    above = flat(size, premultiplied((float(tint[0]), float(tint[1]), float(tint[2]), 1.0)))
    return blending.blend(main, above, v["mode"], 1.0, np.minimum(weight, np.float32(1)))
