"""Screens and dithers: dots whose area is the tone, thresholds, and carried-on errors."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from . import rows
from .rows import compiled

F = np.float32
_ONE, _ZERO, _HALF = F(1), F(0), F(0.5)
DOTS = ("round", "ellipse", "square", "line", "cross")
TILE = 256
"""Places along a side of the threshold tile of one dot."""
_FINE = 4
"""Samples across and down in each pixel."""


@lru_cache(maxsize=16)
def tile(dot: str) -> NDArray[np.float32]:
    """(TILE, TILE) thresholds of one cell, each value equally often, so that area is tone."""
    at = (np.arange(TILE) + 0.5) / TILE - 0.5
    u, v = np.meshgrid(at, at)
    turn = 2 * np.pi
    height = {
        "round": np.cos(turn * u) + np.cos(turn * v),
        "ellipse": np.cos(turn * u) + 0.6 * np.cos(turn * v),
        "square": -np.maximum(np.abs(u), np.abs(v)) - 1e-3 * (np.abs(u) + np.abs(v)),
        "line": -np.abs(v) - 1e-6 * np.abs(u),
        "cross": -np.minimum(np.abs(u), np.abs(v)) - 1e-3 * (np.abs(u) + np.abs(v)),
    }[dot]
    order = np.argsort(-height.ravel(), kind="stable")
    out = np.empty(TILE * TILE, F)
    out[order] = (np.arange(TILE * TILE) + 0.5) / (TILE * TILE)
    return out.reshape(TILE, TILE)


@compiled("out2 in2 in2 exact_in1 f")
def _screened(first, last, out, tone, cell, n, soft):
    ox, oy, c, s, unit = n[0], n[1], n[2], n[3], n[4]
    step = 1.0 / _FINE
    slope = _ONE / max(soft, F(1e-4))
    share = F(1.0 / (_FINE * _FINE))
    for y in range(first, last):
        for x in range(out.shape[1]):
            t = tone[y, x]
            if t <= _ZERO or t >= _ONE:
                out[y, x] = _ZERO if t <= _ZERO else _ONE
                continue
            total = _ZERO
            for j in range(_FINE):
                for i in range(_FINE):
                    # Each sample in a row and a column of its own, so that upright lines and
                    # flat ones are measured by sixteenths too.
                    dx = x + (i + (j + 0.5) * step) * step - ox
                    dy = y + (j + (i + 0.5) * step) * step - oy
                    u, v = (dx * c + dy * s) * unit, (dy * c - dx * s) * unit
                    u -= np.floor(u)
                    v -= np.floor(v)
                    m = cell[np.int64(v * TILE) & (TILE - 1), np.int64(u * TILE) & (TILE - 1)]
                    total += min(max((t - m) * slope + _HALF, _ZERO), _ONE)
            out[y, x] = total * share


def screened(
    tone: NDArray[np.float32],
    dot: str,
    size: float,
    turn: tuple[float, float],
    centre: tuple[float, float],
    softness: float,
) -> NDArray[np.float32]:
    """How much of each pixel is inked, for a tone 0..1; dots of one size, ``size`` pixels apart.

    A flat tone inks that share of the area (Murray & Davies 1936: what a dot's area stands for).
    """
    out = np.empty_like(tone, order="C")
    numbers = np.array([*centre, *turn, 1 / size], np.float64)
    held = np.ascontiguousarray(tone)
    rows.over(_screened, len(out), out, held, tile(dot), numbers, F(softness), least=4)
    return out


@compiled("out3 in3 in2 i i f b")
def _ordered(first, last, out, picture, matrix, cell, count, steps, alpha_too):
    high, wide = matrix.shape
    for y in range(first, last):
        for x in range(out.shape[1]):
            bias = matrix[(y // cell) % high, (x // cell) % wide]
            for c in range(count):
                v = picture[y, x, c] * steps
                low = np.floor(v)
                out[y, x, c] = (low + (_ONE if v - low > bias else _ZERO)) / steps


def ordered(
    picture: NDArray[np.float32], matrix: NDArray[np.float32], cell: int, levels: int
) -> NDArray[np.float32]:
    """Straight values (H, W, C) to a few levels, up where they pass the matrix's threshold."""
    out = np.empty_like(picture, order="C")
    held = np.ascontiguousarray(picture)
    arguments = (matrix, cell, picture.shape[2], F(levels - 1), False)
    rows.over(_ordered, len(out), out, held, *arguments)
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
    """Floyd & Steinberg 1976 in serial order: each pixel's error is carried on to four others."""
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
