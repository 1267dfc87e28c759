"""Blur and sharpen."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from math import ceil, cos, hypot, log1p, log2, radians, sin, sqrt
from typing import Any

import cv2
import numpy as np

from .. import sampling
from ..kernels import guide as kernel
from ..kernels import soften
from ..outside import BORDERS
from ..params import Choice, Number, Point, Toggle, outside, whole
from ..picture import Plane, opaque
from .declare import Call, InputKind, step
from .placing import Matrix, forward, reading

OUTSIDE = outside("clamp")
_DIRECT, _HALVED = 4.0, 8.0
"""The largest standard deviation, in pixels, that is filtered at full size, and once halved."""
_MARGIN = 8
"""Pixels beside a picture before it is halved: further than its smoothing reaches, and even."""
_SMOOTH = 1.5
"""Standard deviation before each halving, so that nothing finer than the grid is folded in."""


@lru_cache(maxsize=256)
def _kernel(sigma: float) -> Any:
    """The middle and one side of a Gaussian of unit sum."""
    if sigma <= 0:
        return np.ones(1, np.float32)
    kernel = np.exp(-0.5 * (np.arange(ceil(4 * sigma) + 1) / sigma) ** 2)
    return (kernel / (2 * kernel.sum() - kernel[0])).astype(np.float32)


def _filtered(plane: Any, across: float, down: float) -> Any:
    return soften.separable(plane, _kernel(across), _kernel(down))


def _halvings(sigma: float) -> tuple[int, float]:
    """How far a blur may be reduced along its axis, and what variance that takes up."""
    factor, spent = 1, 0.0
    while sigma / factor > (_DIRECT if factor == 1 else _HALVED):
        # The smoothing, and the mean of two pixels, in pixels of the full picture.
        spent += (_SMOOTH**2 + 0.25) * factor**2
        factor *= 2
    if factor > 1:
        spent += (2 * factor**2 + 1) / 12  # linear interpolation, averaged over its phases
    return factor, spent


def gaussian(
    plane: Plane, sigma: float, rule: str = "clamp", sigma_y: float | None = None
) -> Plane:
    """Gaussian blur by standard deviations in pixels, in a time that does not grow with them.

    A large blur is computed on a smaller picture: smoothed and halved until what is left is
    small, then brought back by linear interpolation. Smoothing, halving and interpolating are
    blurs too; their variances are taken off what is left, so the whole is the Gaussian asked
    for, within 0.5 % of its peak. Each axis is reduced by itself.
    """
    sigmas = [s if s >= 0.05 else 0.0 for s in (sigma, sigma if sigma_y is None else sigma_y)]
    if not any(sigmas):
        return plane
    (fx, spent_x), (fy, spent_y) = (_halvings(s) for s in sigmas)
    # A held edge is the same all the way out, so a narrow margin of it does at every size; what
    # is mirrored, repeated or clear has to be there as far as the blur reaches.
    held = rule == "clamp"
    left, top = (0, 0) if held else (ceil(4 * sigmas[0]), ceil(4 * sigmas[1]))
    height, width = plane.shape[:2]
    right, bottom = left + -(width + 2 * left) % fx, top + -(height + 2 * top) % fy
    small: Any = plane
    if left or top or right or bottom:
        small = _padded(plane, top, bottom, left, right, BORDERS[rule])
    at_x, at_y = float(left), float(top)
    factor = 2
    while factor <= max(fx, fy):
        halve_x, halve_y = factor <= fx, factor <= fy
        if held:
            by_x, by_y = _MARGIN * halve_x, _MARGIN * halve_y
            small = cv2.copyMakeBorder(small, by_y, by_y, by_x, by_x, cv2.BORDER_REPLICATE)
            at_x, at_y = at_x + by_x, at_y + by_y
        small = _filtered(small, _SMOOTH * halve_x, _SMOOTH * halve_y)
        half = (small.shape[1] // (1 + halve_x), small.shape[0] // (1 + halve_y))
        small = cv2.resize(small, half, interpolation=cv2.INTER_AREA)
        at_x, at_y = at_x / (1 + halve_x), at_y / (1 + halve_y)
        factor *= 2
    rest = [
        sqrt(max(s * s - spent, 0.0)) / f
        for s, spent, f in zip(sigmas, (spent_x, spent_y), (fx, fy), strict=True)
    ]
    blurred = _filtered(small, *rest)
    if max(fx, fy) > 1:
        size = (small.shape[1] * fx, small.shape[0] * fy)
        blurred = cv2.resize(blurred, size, interpolation=cv2.INTER_LINEAR)
    x, y = round(at_x * fx), round(at_y * fy)
    return np.ascontiguousarray(blurred[y : y + height, x : x + width])


def boxes(plane: Plane, across: float, down: float, rule: str) -> Plane:
    """Three box blurs that have a Gaussian's variance: a draft of it, within a few percent.

    References
    ----------
    Kovesi 2010, *Fast Almost-Gaussian Filtering*, for the widths.
    """
    out: Any = plane
    pads = [ceil(2 * s) + 2 for s in (across, down)]
    out = _padded(plane, pads[1], pads[1], pads[0], pads[0], BORDERS[rule])
    widths = []
    for sigma in (across, down):
        ideal = sqrt(12 * sigma * sigma / 3 + 1)
        low = int(ideal)
        low -= 1 - low % 2
        count = round((12 * sigma * sigma - 3 * low * low - 12 * low - 9) / (-4 * low - 4))
        widths.append([max(1, low) if k < count else low + 2 for k in range(3)])
    for wide, high in zip(*widths, strict=True):
        out = cv2.blur(out, (wide, high), borderType=cv2.BORDER_REPLICATE)
    height, width = plane.shape[:2]
    return np.ascontiguousarray(out[pads[1] : pads[1] + height, pads[0] : pads[0] + width])


def _padded(plane: Plane, top: int, bottom: int, left: int, right: int, mode: int) -> Plane:
    out = plane
    while top or bottom or left or right:
        height, width = out.shape[:2]
        up, down = min(top, height), min(bottom, height)
        back, on = min(left, width), min(right, width)
        filled = cv2.copyMakeBorder(out, up, down, back, on, mode, value=(0, 0, 0, 0))
        out = np.asarray(filled, np.float32)
        top, bottom, left, right = top - up, bottom - down, left - back, right - on
    return out


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
    (H, W, 4) picture or (H, W) matte, as came in; within 0.5 % of the true Gaussian, or as a
    draft three box blurs of its variance.
    """
    v = call.values
    across = v["size"] / 100 * call.size.height
    down = v["vertical_size"] / 100 * call.size.height if v["separate_vertical_size"] else across
    if v["quality"] == "draft" and max(across, down) > 0.5:
        return boxes(call.main, across, down, v["outside"])
    return gaussian(call.main, across, v["outside"], down)


def _swept(call: Call, pixels: float, matrix_at: Callable[[float], Matrix]) -> Plane:
    """The mean of a picture under maps from share −½ to ½ of a movement.

    Maps of one movement follow one another to another of its maps, so the mean of 2n of them is
    that of n, and of n moved on: as many resamplings as doublings, however long it is.
    """
    if pixels < 0.25:
        return call.main
    # Readings mix two pixels each way, so that they need not lie a pixel apart where it moves most.
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
    """The mean along a line of this length through each pixel, at an angle clockwise from the
    right.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, as came in.
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
    (H, W, 4) picture or (H, W) matte, as came in.
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
    (H, W, 4) picture or (H, W) matte, as came in.
    """
    v, size = call.values, call.size

    def at(share: float) -> Matrix:
        return forward(size, turn=v["turn"] * share, pivot=v["centre"])

    return _swept(call, radians(v["turn"]) * hypot(size.width, size.height) / 2, at)


_STRAIGHT = 400.0
"""The longest streak along an axis, in pixels, that is summed directly."""


def _straight(plane: Plane, length: float, upright: bool, rule: str) -> Plane:
    """The mean along a row or a column: a box with its two ends counted by what they cover."""
    reach = ceil((length - 1) / 2) if length > 1 else 1
    if length <= 1:
        # Shorter than a pixel: what is read between neighbours, on either side.
        weights = (1 - length / 4, 0.0, length / 8)
    else:
        weights = (1 / length, 1 / length, (length - (2 * reach - 1)) / 2 / length)
    across, down = (0, reach) if upright else (reach, 0)
    held = rule == "clamp"
    padded = plane if held else _padded(plane, down, down, across, across, BORDERS[rule])
    blurred = soften.boxed(padded, reach, weights, upright)
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
    words=("bilateral", "edge keeping", "water paint", "smooth skin", "painterly", "surface"),
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
    (H, W, 4) picture or (H, W) matte, as came in.

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
    # What is blurred this far holds no finer detail: it is summed up on a smaller grid.
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
        # An opaque picture's alpha is what its weights say.
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
    """in + amount·s(in − Gaussian), s taking the threshold off a difference's size; alpha stays.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, as came in.
    """
    v = call.values
    soft = gaussian(call.main, v["size"] / 100 * call.size.height)
    return soften.sharpened(call.main, soft, v["amount"], v["threshold"])
