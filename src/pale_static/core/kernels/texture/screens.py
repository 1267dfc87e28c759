"""Dithers, by thresholds or by error diffusion, and grain."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..colour.luminance import BLUE, GREEN, RED
from ..rows import compiled

F = np.float32
_ONE, _ZERO = F(1), F(0)


@compiled("out2 in2 in2 f", finite=True)
def _ordered(first, last, out, plane, bias, steps):
    step, high = _ONE / steps, len(bias)
    for y in range(first, last):
        row = y % high
        for x in range(out.shape[1]):
            v = min(max(plane[y, x], _ZERO), _ONE) * steps
            low = np.floor(v)
            out[y, x] = (low + (_ONE if v - low > bias[row, x] else _ZERO)) * step


def ordered(
    picture: NDArray[np.float32], matrix: NDArray[np.float32], levels: int
) -> NDArray[np.float32]:
    """Reduce straight values (H, W, C), clamped to 0..1, to a few levels; a value above the
    matrix's threshold goes up."""
    out = np.empty_like(picture, order="C")
    high, wide, planes = picture.shape
    # The matrix across the whole picture, repeated for each channel.
    across = np.tile(matrix, (1, -(-wide // matrix.shape[1])))[:, :wide]
    bias = np.repeat(across, planes, 1)
    flat = (high, wide * planes)
    held = np.ascontiguousarray(picture).reshape(flat)
    rows.over(_ordered, high, out.reshape(flat), held, bias, F(levels - 1))
    return out


@compiled("exact_out2 f")
def _diffuse(first, last, plane, steps):
    high, wide = plane.shape
    for y in range(high):
        for x in range(wide):
            old = plane[y, x]
            new = min(max(np.floor(old * steps + 0.5), 0.0), float(steps)) / steps
            plane[y, x] = new
            error = old - new
            if x + 1 < wide:
                plane[y, x + 1] += error * 7 / 16
            if y + 1 < high:
                if x:
                    plane[y + 1, x - 1] += error * 3 / 16
                plane[y + 1, x] += error * 5 / 16
                if x + 1 < wide:
                    plane[y + 1, x + 1] += error * 1 / 16


def diffused(plane: NDArray[np.float32], levels: int) -> NDArray[np.float32]:
    """Floyd & Steinberg 1976 in serial order: each pixel's error goes on to four others."""
    out = plane.astype(np.float64)
    _diffuse(0, 1, out, F(levels - 1))
    return np.asarray(out, F)


@lru_cache(maxsize=8)
def bayer(order: int) -> NDArray[np.float32]:
    """Bayer's (1973) ordered matrix of a side 2, 4, 8 or 16, as thresholds in 0..1."""
    matrix = np.zeros((1, 1))
    while len(matrix) < order:
        matrix = np.block([[4 * matrix, 4 * matrix + 2], [4 * matrix + 3, 4 * matrix + 1]])
    return np.asarray((matrix + 0.5) / matrix.size, F)


SIDE = 64
_SIGMA = 1.5


@lru_cache(maxsize=1)
def blue() -> NDArray[np.float32]:
    """Blue noise by void and cluster, (SIDE, SIDE) thresholds in 0..1; always the same.

    References
    ----------
    Ulichney 1993, *The void-and-cluster method for dither array generation*.
    """
    at = np.minimum(np.arange(SIDE), SIDE - np.arange(SIDE))
    bump = np.exp(-(at[:, None] ** 2 + at[None] ** 2) / (2 * _SIGMA**2))
    rng = np.random.default_rng(1)
    ones = np.zeros((SIDE, SIDE), bool)
    ones.flat[rng.choice(SIDE * SIDE, SIDE * SIDE // 10, replace=False)] = True

    def energy(of: NDArray[np.bool_]) -> NDArray[np.float64]:
        return np.asarray(np.fft.ifft2(np.fft.fft2(of) * np.fft.fft2(bump)).real)

    def moved(place: int) -> NDArray[np.float64]:
        return np.roll(bump, divmod(place, SIDE), (0, 1))

    field = energy(ones)
    while True:
        tightest = int(np.where(ones, field, -np.inf).argmax())
        ones.flat[tightest] = False
        field -= moved(tightest)
        widest = int(np.where(ones, np.inf, field).argmin())
        ones.flat[widest] = True
        field += moved(widest)
        if widest == tightest:
            break
    rank = np.empty(SIDE * SIDE)
    count = int(ones.sum())
    first, left = ones.copy(), field.copy()
    for n in range(count - 1, -1, -1):
        place = int(np.where(first, left, -np.inf).argmax())
        first.flat[place] = False
        left -= moved(place)
        rank[place] = n
    for n in range(count, SIDE * SIDE):
        place = int(np.where(ones, np.inf, field).argmin())
        ones.flat[place] = True
        field += moved(place)
        rank[place] = n
    return np.asarray((rank.reshape(SIDE, SIDE) + 0.5) / (SIDE * SIDE), F)


@compiled("out2 i", finite=True)
def _chance(first, last, out, seed):
    key = np.uint32(seed)
    for y in range(first, last):
        row = np.uint32(y) * np.uint32(0x9E3779B1) + key
        for x in range(out.shape[1]):
            h = np.uint32(np.uint32(np.int32(x)) * np.uint32(0x85EBCA77) + row)
            h = np.uint32((h ^ (h >> np.uint32(16))) * np.uint32(0x7FEB352D))
            h = np.uint32((h ^ (h >> np.uint32(15))) * np.uint32(0x846CA68B))
            h ^= h >> np.uint32(16)
            # The sum of four bytes is nearly normally distributed.
            low = np.int32(h & np.uint32(0xFF)) + np.int32((h >> np.uint32(8)) & np.uint32(0xFF))
            high = np.int32((h >> np.uint32(16)) & np.uint32(0xFF)) + np.int32(h >> np.uint32(24))
            out[y, x] = F(low + high - np.int32(510)) * F(1 / 147.79716)


def chance(height: int, width: int, planes: int, seed: int) -> NDArray[np.float32]:
    """(H, W, planes) of independent numbers of mean 0 and unit variance; the same seed gives the
    same numbers."""
    out = np.empty((height, width * planes), F)
    rows.over(_chance, height, out, seed & 0xFFFFFFFF)
    return out.reshape(height, width, planes)


@compiled("out3 in3 in3 f f f f", finite=True)
def _grained(first, last, out, picture, noise, scale, amount, middle, colour):
    planes = noise.shape[2]
    for y in range(first, last):
        for x in range(out.shape[1]):
            r, g, b, alpha = picture[y, x, 0], picture[y, x, 1], picture[y, x, 2], picture[y, x, 3]
            luma = RED * r + GREEN * g + BLUE * b
            luma = min(max(luma / max(alpha, F(1e-6)), _ZERO), _ONE)
            weight = amount * scale * alpha * (_ONE - middle * (_ONE - F(4) * luma * (_ONE - luma)))
            shared = noise[y, x, 0]
            if planes == 4:
                for c in range(3):
                    n = shared + colour * (noise[y, x, c + 1] - shared)
                    out[y, x, c] = picture[y, x, c] + weight * n
            else:
                for c in range(3):
                    out[y, x, c] = picture[y, x, c] + weight * shared
            out[y, x, 3] = alpha


def grained(
    picture: NDArray[np.float32], noise: NDArray[np.float32], scale: float, amount: float,
    middle: float, colour: float,
) -> NDArray[np.float32]:  # fmt: skip
    """A picture with noise added, weighted by alpha and by nearness to mid grey.

    ``noise`` (H, W, 1 or 4) is multiplied by ``scale``; of four planes the first is added to all
    colours, and each of the others to one colour, by the share ``colour``.
    """
    out = np.empty_like(picture, order="C")
    planes = (np.ascontiguousarray(picture), np.ascontiguousarray(noise))
    rows.over(_grained, len(out), out, *planes, F(scale), F(amount), F(middle), F(colour))
    return out
