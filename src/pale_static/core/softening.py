"""Gaussians of any size, and their drafts: the one way in which pictures and mattes are softened."""

from __future__ import annotations

from functools import lru_cache
from math import ceil, sqrt
from typing import Any

import cv2
import numpy as np

from .kernels import soften
from .outside import BORDERS
from .picture import Plane

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
        small = padded(plane, top, bottom, left, right, BORDERS[rule])
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
    """A plane with so many pixels more on each side, by an OpenCV border rule, however many."""
    out = plane
    while top or bottom or left or right:
        height, width = out.shape[:2]
        up, down = min(top, height), min(bottom, height)
        back, on = min(left, width), min(right, width)
        filled = cv2.copyMakeBorder(out, up, down, back, on, mode, value=(0, 0, 0, 0))
        out = np.asarray(filled, np.float32)
        top, bottom, left, right = top - up, bottom - down, left - back, right - on
    return out
