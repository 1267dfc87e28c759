"""A small painter in linear light, for the demo's footage."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.kernels.filters import film
from ..core.kernels.texture import lattice
from ..core.pictures.colour import to_encoded, to_linear

Array = NDArray[np.float32]
Light = tuple[float, ...]


@lru_cache(maxsize=256)
def light(colour: str, gain: float = 1.0) -> Light:
    """``#RRGGBB`` as linear light."""
    parts = np.array([int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)])
    red, green, blue = (float(part) for part in to_linear(parts) * gain)
    return red, green, blue


@lru_cache(maxsize=32)
def clouds(height: int, width: int, cells: float, octaves: int, seed: int, z: float = 0) -> Array:
    """Soft noise, 0..1, for paper, concrete, mist."""
    axes = np.zeros((octaves, 7))
    for o in range(octaves):
        fine = cells / height * 2**o
        axes[o] = (o * 31.7, fine, 0, o * 12.3, 0, fine, z * 2**o)
    weights = 0.5 ** np.arange(octaves)
    raw = lattice.octaves(
        height, width, axes, (weights / weights.sum()).astype(np.float32), seed, raw=True
    )
    return np.asarray(np.clip(0.5 + raw, 0, 1))


# A table from light to code values over the square root of light: fine steps in the darks, up to 16
# times white.
_STEPS = 8192
_FILM = to_encoded(1 - np.exp(-1.25 * (np.arange(_STEPS + 1) * 4 / _STEPS) ** 2)).astype(np.float32)


# A lamp's fall-off over the square of distance in radii, 0..25.
_GLOW_STEPS = 16384
_FAR = np.arange(_GLOW_STEPS + 1) * 25 / _GLOW_STEPS
_GLOW = ((np.exp(-_FAR) + 0.22 / (1 + _FAR) ** 1.5) * (1 - _FAR / 25)).astype(np.float32)


@lru_cache(maxsize=4)
def _speckles(height: int, width: int) -> Array:
    """One field of grain, larger than the frame; each frame shows another window of it."""
    rng = np.random.default_rng(7)
    return rng.standard_normal((height + 128, width + 128), dtype=np.float32)


@lru_cache(maxsize=2)
def _easel(height: int, width: int) -> Array:
    return np.zeros((height, width, 3), np.float32)


class Canvas:
    """A frame to paint on, filled with a ground; coordinates are in units of its height, with the
    origin at its centre. The next canvas of its size reuses its memory."""

    def __init__(self, width: int, height: int) -> None:
        self.width, self.height = width, height
        # Canvases reuse the same memory: new memory pages cost as much time as painting.
        self.light = _easel(height, width)

    def px(self, x: float, y: float) -> tuple[float, float]:
        return x * self.height + self.width / 2, y * self.height + self.height / 2

    def sky(self, stops: list[tuple[float, Light]]) -> None:
        """A vertical gradient; stops from −0.5 (top) to 0.5."""
        rows = (np.arange(self.height) + 0.5) / self.height - 0.5
        at = [stop for stop, _ in stops]
        column = np.stack([np.interp(rows, at, [c[k] for _, c in stops]) for k in range(3)], -1)
        self.light[:] = column[:, None, :]

    def cover(self, rows: slice, columns: slice, amount: Any, colour: Light) -> None:
        """Lay a colour over a window by its coverage."""
        part = self.light[rows, columns]
        amount = amount.astype(np.float32, copy=False)
        for channel in range(3):
            plane = part[..., channel]
            plane += amount * (np.float32(colour[channel]) - plane)

    def box(
        self, x: float, y: float, wide: float, high: float, colour: Light,
        soft: float = 0.0, opacity: float = 1.0, corner: float = 0.0,
    ) -> None:  # fmt: skip
        """A box by its centre and size, edges anti-aliased or soft, corners round."""
        cx, cy = self.px(x, y)
        hw, hh, r = wide * self.height / 2, high * self.height / 2, corner * self.height
        edge = max(1.0, soft * self.height)
        within = film.window(
            self.light, cx - hw - edge, cy - hh - edge, cx + hw + edge, cy + hh + edge
        )
        film.add_shape("box", self.light, within, colour, (cx, cy, hw, hh, r, edge, opacity))

    def disc(
        self, x: float, y: float, radius: float, colour: Light, soft: float = 0.0,
        opacity: float = 1.0, add: bool = False, rim: float = 0.0,
    ) -> None:  # fmt: skip
        """A disc; ``add`` adds its light, ``rim`` brightens its edge like a blurred lamp's."""
        cx, cy = self.px(x, y)
        r, edge = radius * self.height, max(1.0, soft * self.height)
        far = r + edge
        within = film.window(self.light, cx - far, cy - far, cx + far, cy + far)
        film.add_shape("disc", self.light, within, colour, (cx, cy, r, edge, opacity, rim), add)

    def glow(self, x: float, y: float, radius: float, colour: Light, gain: float = 1.0) -> None:
        """Add light that falls off like a lamp in hazy air: a core and a wide halo."""
        tint = [gain * part for part in colour]
        film.add_spot(self.light, self.px(x, y), radius * self.height, 5.0, tint, _GLOW)

    def wire(
        self, curve: Callable[[Array], Array], thickness: float, colour: Light,
        opacity: float = 1.0,
    ) -> None:  # fmt: skip
        """A thin line y = curve(x) across the frame."""
        x = np.arange(self.width, dtype=np.float32) + np.float32(0.5 - self.width / 2)
        y = curve(x / np.float32(self.height)).astype(np.float32) * self.height + self.height / 2
        half = thickness * self.height / 2
        top, bottom = int(max(0, y.min() - half - 2)), int(min(self.height, y.max() + half + 3))
        if top >= bottom:
            return
        slope = np.hypot(1, np.gradient(y))
        rows = np.arange(top, bottom, dtype=np.float32)[:, None] + np.float32(0.5)
        amount = np.clip(half + 0.5 - np.abs(rows - y) / slope, 0, min(1, 2 * half + 0.3)) * opacity
        self.cover(slice(top, bottom), slice(0, self.width), amount.astype(np.float32), colour)

    def line(
        self, x0: float, y0: float, x1: float, y1: float, thickness: float, colour: Light,
        opacity: float = 1.0, add: bool = False, spread: float = 0.0,
    ) -> None:  # fmt: skip
        """A straight line with round ends; ``spread`` gives it a glow of that radius."""
        ax, ay = self.px(x0, y0)
        bx, by = self.px(x1, y1)
        half, wide = thickness * self.height / 2, spread * self.height
        pad = half + 2 + 3 * wide
        within = film.window(
            self.light, min(ax, bx) - pad, min(ay, by) - pad, max(ax, bx) + pad, max(ay, by) + pad
        )
        numbers = (ax, ay, bx, by, half, wide, opacity)
        film.add_shape("line", self.light, within, colour, numbers, add)

    def shade(self, amount: Array) -> None:
        """Multiply all light by a matte."""
        self.light *= amount[..., None]

    def finish(self, seed: int, grain: float = 0.012, vignette: float = 0.35) -> NDArray[np.uint8]:
        """Apply lens fall-off, a soft shoulder, encoding, and grain by a seed."""
        down, right = np.random.default_rng(seed).integers(0, 128, 2)
        speckle = _speckles(self.height, self.width)[down:, right:][: self.height, : self.width]
        return film.develop(self.light, _FILM, speckle, 0.6 * vignette, grain, 4.0)
