"""Blur and sharpen."""

from __future__ import annotations

from collections.abc import Callable
from math import ceil, cos, hypot, log1p, log2, radians, sin
from typing import Any

import cv2
import numpy as np

from ..kernels.filters import guide as kernel
from ..kernels.filters import soften
from ..pictures import sampling
from ..pictures.borders import BORDERS
from ..pictures.picture import Plane, opaque
from ..pictures.softening import boxes, gaussian, padded
from ..values.params import Choice, Number, Point, Toggle, outside, whole
from .declare import Call, InputKind, step
from .placing import Matrix, forward, reading

OUTSIDE = outside("clamp")
SIZE = Number(
    name="size", default=1.0, slider=(0, 10), allowed=(0, 100), unit="%h",
    help="How far it softens (standard deviation).",
)  # fmt: skip


@step(
    "blur",
    label="Blur",
    family="Blur and sharpen",
    sentence="Softens everything evenly.",
    words=("soft", "gaussian", "defocus", "smooth"),
    main="either",
    gives="same",
    params=(
        SIZE,
        Toggle(name="separate_vertical_size", default=False, moves=False,
               help="Gives the vertical direction a size of its own."),
        Number(name="vertical_size", default=1.0, slider=(0, 10), allowed=(0, 100), unit="%h",
               help="Standard deviation from top to bottom.",
               when={"separate_vertical_size": (True,)}),
        Choice(name="quality", default="full", options=("full", "draft"), moves=False,
               help="Draft is faster: three box blurs."),
        OUTSIDE,
    ),
    source="Gaussian; scipy.ndimage.gaussian_filter as the reference",
)  # fmt: skip
def blur(call: Call) -> Plane:
    """Gaussian by standard deviation in % of the frame's height, on premultiplied colour.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input; within 0.5 % of the true Gaussian, or, as a
    draft, three box blurs with its variance.
    """
    v = call.values
    across = v["size"] / 100 * call.size.height
    down = v["vertical_size"] / 100 * call.size.height if v["separate_vertical_size"] else across
    if v["quality"] == "draft" and max(across, down) > 0.5:
        return boxes(call.main, across, down, v["outside"])
    return gaussian(call.main, across, v["outside"], down)


def _swept(call: Call, pixels: float, matrix_at: Callable[[float], Matrix]) -> Plane:
    """The mean of a picture under maps from share −½ to ½ of a movement.

    Two maps of one movement, one after the other, are again a map of the movement. So the mean of
    2n maps is the mean of n and of those n moved on, and the work is one resampling for each
    doubling.
    """
    if pixels < 0.25:
        return call.main
    # Each reading mixes two pixels each way, so readings may lie more than a pixel apart at the
    # fastest place.
    doublings = max(1, ceil(log2(pixels / 1.6 + 1)))
    count = 1 << doublings
    out = call.main
    for k in range(doublings):
        share = (1 << k) / count / 2
        ahead: Any = sampling.affine(out, reading(matrix_at(share)), call.values["outside"])
        behind: Any = sampling.affine(out, reading(matrix_at(-share)), call.values["outside"])
        out = np.asarray(cv2.addWeighted(ahead, 0.5, behind, 0.5, 0, dst=ahead), np.float32)
    return out


@step(
    "streak-blur",
    label="Streak blur",
    family="Blur and sharpen",
    sentence="Smears the picture along a line.",
    words=("motion blur", "directional", "speed", "smear"),
    main="either",
    gives="same",
    params=(
        Number(name="length", default=5.0, slider=(0, 50), allowed=(0, 500), unit="%h"),
        Number(name="angle", default=0.0, slider=(-180, 180), allowed=(-36000, 36000), unit="°"),
        OUTSIDE,
    ),
)  # fmt: skip
def streak_blur(call: Call) -> Plane:
    """The mean along a line through each pixel, of a length and at an angle clockwise from the
    right.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    v, size = call.values, call.size
    length = v["length"] / 100 * size.height
    turn = radians(v["angle"])
    if v["angle"] % 90 == 0 and 0.25 <= length <= _STRAIGHT:
        return _straight(call.main, length, v["angle"] % 180 == 90, v["outside"])

    def at(share: float) -> Matrix:
        x, y = length * share * cos(turn), length * share * sin(turn)
        return forward(size, shift=(x / size.width, y / size.height))

    return _swept(call, length, at)


@step(
    "zoom-blur",
    label="Zoom blur",
    family="Blur and sharpen",
    sentence="Smears the picture away from a point.",
    words=("radial", "rush", "speed", "warp", "explosion"),
    main="either",
    gives="same",
    params=(
        Number(name="amount", default=0.2, slider=(0, 1), allowed=(0, 10),
               help="How much larger the largest copy is than the smallest."),
        Point(name="centre", default=(0.5, 0.5)),
        OUTSIDE,
    ),
)  # fmt: skip
def zoom_blur(call: Call) -> Plane:
    """The mean over scales from (1 + amount)^−½ to (1 + amount)^½ about the centre.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    v, size = call.values, call.size

    def at(share: float) -> Matrix:
        k = (1 + v["amount"]) ** share
        return forward(size, scale=(k, k), pivot=v["centre"])

    return _swept(call, log1p(v["amount"]) * hypot(size.width, size.height) / 2, at)


@step(
    "rotary-blur",
    label="Rotary blur",
    family="Blur and sharpen",
    sentence="Smears the picture around a point.",
    words=("rotate", "radial", "wheel", "whirl"),
    main="either",
    gives="same",
    params=(
        Number(name="turn", default=10.0, slider=(0, 90), allowed=(0, 360), unit="°"),
        Point(name="centre", default=(0.5, 0.5)),
        OUTSIDE,
    ),
)  # fmt: skip
def rotary_blur(call: Call) -> Plane:
    """The mean over turns from −½ to ½ of the turn about the centre.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    v, size = call.values, call.size

    def at(share: float) -> Matrix:
        return forward(size, turn=v["turn"] * share, pivot=v["centre"])

    return _swept(call, radians(v["turn"]) * hypot(size.width, size.height) / 2, at)


_STRAIGHT = 400.0
"""The longest streak along an axis, in pixels, that is summed directly."""


def _straight(plane: Plane, length: float, upright: bool, rule: str) -> Plane:
    """The mean along a row or a column: a box whose two end pixels count by their covered part."""
    reach = ceil((length - 1) / 2) if length > 1 else 1
    if length <= 1:
        # Shorter than a pixel: values interpolated between neighbours on either side.
        weights = (1 - length / 4, 0.0, length / 8)
    else:
        weights = (1 / length, 1 / length, (length - (2 * reach - 1)) / 2 / length)
    across, down = (0, reach) if upright else (reach, 0)
    held = rule == "clamp"
    wider = plane if held else padded(plane, down, down, across, across, BORDERS[rule])
    blurred = soften.boxed(wider, reach, weights, upright)
    if held:
        return blurred
    height, width = plane.shape[:2]
    return np.ascontiguousarray(blurred[down : down + height, across : across + width])


_GREYS = 9


@step(
    "guided-blur",
    label="Guided blur",
    family="Blur and sharpen",
    sentence="Softens, but keeps the edges of another picture.",
    words=("bilateral", "edge keeping", "water paint", "smooth skin", "painterly", "oil paint", "surface"),
    main="either",
    gives="same",
    inputs=(InputKind("guide", "matte", "Where its greys change, the softening stops."),),
    params=(
        Number(name="size", default=2.0, slider=(0, 10), allowed=(0, 50), unit="%h"),
        Number(name="edge_sensitivity", default=0.7, slider=(0, 1), allowed=(0, 1),
               help="Higher keeps finer edges."),
        whole("passes", 1, (1, 4), (1, 20), moves=False),
    ),
)  # fmt: skip
def guided_blur(call: Call) -> Plane:
    """Joint bilateral: Σ G(|p − q|)·R(g(p) − g(q))·in(q) / Σ G·R, g the guide's greys.

    R is a Gaussian of standard deviation 0.02^sensitivity. Both sums are computed for nine greys
    and mixed between them by the guide, then divided (Durand & Dorsey's piecewise-linear form).

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.

    References
    ----------
    Durand & Dorsey 2002, *Fast Bilateral Filtering for the Display of High-Dynamic-Range Images*.
    Petschnigg et al. 2004, for the joint form.
    """
    v = call.values
    sigma = v["size"] / 100 * call.size.height
    if sigma < 0.05:
        return call.main
    guide = np.clip(call.inputs["guide"], 0, 1)
    spread = max(0.02 ** v["edge_sensitivity"], 1 / (_GREYS - 1) * 0.6)
    # A blur this wide leaves no finer detail, so the sums are made on a smaller grid.
    factor = max(1, int(sigma / 2))
    high, wide = guide.shape
    size = (max(1, round(wide / factor)), max(1, round(high / factor)))
    coarse: Any = guide
    if factor > 1:
        coarse = cv2.resize(guide, size, interpolation=cv2.INTER_AREA)
    out = call.main
    for _ in range(int(v["passes"])):
        small: Any = out
        if factor > 1:
            small = cv2.resize(out, size, interpolation=cv2.INTER_AREA)
        held = small if small.ndim == 3 else small[..., None]
        # The alpha of an opaque picture follows from its weights.
        planes = 3 if held.shape[2] == 4 and opaque(held) else held.shape[2]
        sums = kernel.weighed(held[..., :planes], coarse, _GREYS, spread)
        made = kernel.read(gaussian(sums, sigma / factor), guide, planes, _GREYS)
        out = made if out.ndim == 3 else made[..., 0]
    return np.ascontiguousarray(out)


@step(
    "sharpen",
    label="Sharpen",
    family="Blur and sharpen",
    sentence="Brings out detail.",
    words=("unsharp", "crisp", "clarity", "local contrast"),
    main="either",
    gives="same",
    params=(
        Number(name="amount", default=0.5, slider=(0, 3), allowed=(0, 50)),
        Number(name="size", default=0.3, slider=(0.05, 5), allowed=(0, 100), unit="%h"),
        Number(name="threshold", default=0.0, slider=(0, 0.2), allowed=(0, 2),
               help="Leaves differences smaller than this alone."),
    ),
)  # fmt: skip
def sharpen(call: Call) -> Plane:
    """in + amount·s(in − Gaussian), where s subtracts the threshold from the size of a difference;
    alpha stays.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    v = call.values
    soft = gaussian(call.main, v["size"] / 100 * call.size.height)
    return soften.sharpened(call.main, soft, v["amount"], v["threshold"])
