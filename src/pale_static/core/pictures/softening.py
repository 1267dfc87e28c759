"""Gaussians of any size, and quick approximations: one way to soften pictures and mattes."""

from __future__ import annotations

from functools import lru_cache
from math import ceil, sqrt
from typing import Any

import cv2
import numpy as np

from ..kernels.filters import soften
from .borders import BORDERS
from .picture import Plane

_DIRECT, _HALVED = 4.0, 8.0
"""The largest standard deviation, in pixels, that is filtered directly: on the full picture, and on a
halved one."""


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
    """The number of halvings along a blur's axis, and the variance that they add."""
    factor, spent = 1, 0.0
    while sigma / factor > (_DIRECT if factor == 1 else _HALVED):
        # The smoothing, and the mean of two pixels, in pixels of the full picture.
        spent += (soften.SMOOTHING**2 + 0.25) * factor**2
        factor *= 2
    if factor > 1:
        spent += (2 * factor**2 + 1) / 12  # linear interpolation, averaged over its phases
    return factor, spent


def gaussian(
    plane: Plane, sigma: float, rule: str = "clamp", sigma_y: float | None = None
) -> Plane:
    """Gaussian blur by standard deviations in pixels, in a time that does not depend on them.

    A large blur is computed on a smaller picture: the picture is smoothed and halved until the
    remaining blur is small, and enlarged again by linear interpolation. Smoothing, halving and
    interpolating are blurs too. Their variances are subtracted, so the result is the wanted
    Gaussian within 0.5 % of its peak. Each axis is reduced by itself.
    """
    sigmas = [s if s >= 0.05 else 0.0 for s in (sigma, sigma if sigma_y is None else sigma_y)]
    if not any(sigmas):
        return plane
    (fx, spent_x), (fy, spent_y) = (_halvings(s) for s in sigmas)
    height, width = plane.shape[:2]
    # Halving handles held edges and clear borders itself.
    # Mirrored or repeated pixels are needed as far as the blur reaches.
    reduced = max(fx, fy) > 1
    clear = rule == "clear" and reduced
    left, top = 0, 0
    small: Any = plane
    if rule != "clamp" and not clear:
        left, top = ceil(4 * sigmas[0]), ceil(4 * sigmas[1])
        small = padded(plane, top, top, left, left, BORDERS[rule])
    beside, above = float(left), float(top)
    factor = 2
    while factor <= max(fx, fy):
        across, down = factor <= fx, factor <= fy
        small = soften.halved(small, across, down, clear)
        beside = beside / 2 + soften.MARGIN if across else beside
        above = above / 2 + soften.MARGIN if down else above
        factor *= 2
    rest = [
        sqrt(max(s * s - spent, 0.0)) / f
        for s, spent, f in zip(sigmas, (spent_x, spent_y), (fx, fy), strict=True)
    ]
    if clear:
        left, top = ceil(4 * rest[0]), ceil(4 * rest[1])
        small = padded(small, top, top, left, left, BORDERS[rule])
        beside, above = beside + left, above + top
    blurred = _filtered(small, *rest)
    if reduced:
        return soften.enlarged(blurred, (height, width), (fx, fy), (beside, above))
    return np.ascontiguousarray(blurred[top : top + height, left : left + width])


def boxes(plane: Plane, across: float, down: float, rule: str) -> Plane:
    """Three box blurs with a Gaussian's variance: an approximation within a few percent.

    References
    ----------
    Kovesi 2010, *Fast Almost-Gaussian Filtering*, for the widths.
    """
    out: Any = plane
    pads = [ceil(2 * s) + 2 for s in (across, down)]
    out = padded(plane, pads[1], pads[1], pads[0], pads[0], BORDERS[rule])
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


def padded(plane: Plane, top: int, bottom: int, left: int, right: int, mode: int) -> Plane:
    """A plane with any number of pixels added on each side, by an OpenCV border rule."""
    out = plane
    while top or bottom or left or right:
        height, width = out.shape[:2]
        up, down = min(top, height), min(bottom, height)
        back, on = min(left, width), min(right, width)
        filled = cv2.copyMakeBorder(out, up, down, back, on, mode, value=(0, 0, 0, 0))
        out = np.asarray(filled, np.float32)
        top, bottom, left, right = top - up, bottom - down, left - back, right - on
    return out
