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


_WHOLE = 4294967296.0
"""A cell in the units that places are counted in: 32 bits, so that they repeat by themselves."""


@compiled("out2 in2 in1 exact_in1 f")
def _screened(first, last, out, tone, cell, n, soft):
    ox, oy, c, s, unit = n[0], n[1], n[2], n[3], n[4]
    slope = _ONE / max(soft, F(1e-4))
    count = _FINE * _FINE
    share = F(1.0 / count)
    wide = out.shape[1]
    us, vs = np.empty(wide, np.uint32), np.empty(wide, np.uint32)
    line = np.empty(wide, F)
    total = np.empty(wide, F)
    for y in range(first, last):
        for x in range(wide):
            dx, dy = x - ox, y - oy
            u, v = (dx * c + dy * s) * unit, (dy * c - dx * s) * unit
            us[x] = np.uint32(np.int64((u - np.floor(u)) * _WHOLE))
            vs[x] = np.uint32(np.int64((v - np.floor(v)) * _WHOLE))
            line[x] = tone[y, x] * slope + _HALF
            total[x] = _ZERO
        for j in range(_FINE):
            for i in range(_FINE):
                # Each sample in a row and a column of its own, so that upright lines and flat
                # ones are measured by sixteenths too.
                dx, dy = (i + (j + 0.5) / _FINE) / _FINE, (j + (i + 0.5) / _FINE) / _FINE
                u, v = (dx * c + dy * s) * unit, (dy * c - dx * s) * unit
                du = np.uint32(np.int64((u - np.floor(u)) * _WHOLE))
                dv = np.uint32(np.int64((v - np.floor(v)) * _WHOLE))
                for x in range(wide):
                    row = np.int64(np.uint32(vs[x] + dv) >> np.uint32(24))
                    column = np.int64(np.uint32(us[x] + du) >> np.uint32(24))
                    at = (row * 256 + column) & 65535
                    total[x] += min(max(line[x] - cell[at] * slope, _ZERO), _ONE)
        for x in range(wide):
            t = tone[y, x]
            made = total[x] * share
            out[y, x] = _ZERO if t <= _ZERO else (_ONE if t >= _ONE else made)


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
    rows.over(_screened, len(out), out, held, tile(dot).ravel(), numbers, F(softness), least=4)
    return out


@compiled("out3 in3 in2 f")
def _ordered(first, last, out, picture, matrix, steps):
    high, wide = matrix.shape
    for y in range(first, last):
        for x in range(out.shape[1]):
            bias = matrix[y % high, x % wide]
            for c in range(out.shape[2]):
                v = picture[y, x, c] * steps
                low = np.floor(v)
                out[y, x, c] = (low + (_ONE if v - low > bias else _ZERO)) / steps


def ordered(
    picture: NDArray[np.float32], matrix: NDArray[np.float32], levels: int
) -> NDArray[np.float32]:
    """Straight values (H, W, C) to a few levels, up where they pass the matrix's threshold."""
    out = np.empty_like(picture, order="C")
    held = np.ascontiguousarray(picture)
    rows.over(_ordered, len(out), out, held, matrix, F(levels - 1))
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


@compiled("out3 in3 in3 f f")
def _grained(first, last, out, picture, noise, amount, middle):
    planes = noise.shape[2]
    for y in range(first, last):
        for x in range(out.shape[1]):
            r, g, b, alpha = picture[y, x, 0], picture[y, x, 1], picture[y, x, 2], picture[y, x, 3]
            luma = F(0.2126) * r + F(0.7152) * g + F(0.0722) * b
            luma = min(max(luma / alpha, _ZERO), _ONE) if alpha > _ZERO else _ZERO
            weight = amount * alpha * (_ONE - middle * (_ONE - F(4) * luma * (_ONE - luma)))
            for c in range(3):
                out[y, x, c] = picture[y, x, c] + weight * noise[y, x, c if planes == 3 else 0]
            out[y, x, 3] = alpha


def grained(
    picture: NDArray[np.float32], noise: NDArray[np.float32], amount: float, middle: float
) -> NDArray[np.float32]:
    """A picture with noise (H, W, 1 or 3) added, weighed by alpha and by nearness to mid grey."""
    out = np.empty_like(picture, order="C")
    planes = (np.ascontiguousarray(picture), np.ascontiguousarray(noise))
    rows.over(_grained, len(out), out, *planes, F(amount), F(middle))
    return out


@compiled("out3 in3 i")
def _tones(first, last, out, picture, how):
    for y in range(first, last):
        for x in range(picture.shape[1]):
            alpha = picture[y, x, 3]
            scale = _ONE / alpha if alpha > _ZERO else _ZERO
            r = _ONE - min(max(picture[y, x, 0] * scale, _ZERO), _ONE)
            g = _ONE - min(max(picture[y, x, 1] * scale, _ZERO), _ONE)
            b = _ONE - min(max(picture[y, x, 2] * scale, _ZERO), _ONE)
            if how == 0:
                out[0, y, x] = F(0.2126) * r + F(0.7152) * g + F(0.0722) * b
            elif how == 1:
                dark = F(0.2126) * r + F(0.7152) * g + F(0.0722) * b
                out[0, y, x] = dark
                out[1, y, x] = max(F(2) * dark - _ONE, _ZERO)
            else:
                black = min(r, min(g, b))
                rest = _ONE / max(_ONE - black, F(1e-6))
                out[0, y, x] = (r - black) * rest
                out[1, y, x] = (g - black) * rest
                out[2, y, x] = (b - black) * rest
                out[3, y, x] = black


def tones(picture: NDArray[np.float32], inks: int) -> NDArray[np.float32]:
    """(inks, H, W): how much of each ink a picture asks for: its darkness; with two, twice the
    dark half of it too; with four, cyan, magenta and yellow without the black they share."""
    out = np.empty((inks, *picture.shape[:2]), F)
    how = {1: 0, 2: 1, 4: 2}[inks]
    rows.over(_tones, picture.shape[0], out, np.ascontiguousarray(picture), how)
    return out


@compiled("out3 in3 in3 in2 in1")
def _printed(first, last, out, picture, covers, inks, paper):
    count = len(inks)
    for y in range(first, last):
        for x in range(out.shape[1]):
            alpha = picture[y, x, 3]
            for c in range(3):
                left = paper[c]
                if count == 1:
                    left += covers[0, y, x] * (inks[0, c] - left)
                else:
                    for k in range(count):
                        left *= _ONE - covers[k, y, x] * (_ONE - inks[k, c])
                out[y, x, c] = left * alpha
            out[y, x, 3] = alpha


def printed(
    picture: NDArray[np.float32],
    covers: NDArray[np.float32],
    inks: NDArray[np.float32],
    paper: NDArray[np.float32],
) -> NDArray[np.float32]:
    """Inks on paper with a picture's alpha: one covers it whole, more let each other through."""
    out = np.empty_like(picture, order="C")
    planes = (np.ascontiguousarray(picture), np.ascontiguousarray(covers))
    rows.over(_printed, len(out), out, *planes, inks.astype(F), paper.astype(F))
    return out
