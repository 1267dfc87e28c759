"""Noise on a lattice at any position: turned, twisted, folded, and of every basis."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..rows import compiled, inner
from . import noise
from .noise import _GX, _GY, _GZ, F, _fade, _finish, permutation

_ONE, _TWO, _HALF, _ZERO = F(1), F(2), F(0.5), F(0)
_FAR = F(64)

Basis = Literal["gradient", "value", "cell distance", "cell border", "cell flat"]
Fold = Literal["none", "billow", "ridge"]
BASES: tuple[Basis, ...] = ("gradient", "value", "cell distance", "cell border", "cell flat")
FOLDS: tuple[Fold, ...] = ("none", "billow", "ridge")
_GRADIENT, _VALUE, _DISTANCE, _BORDER, _FLAT = range(5)
_BILLOW, _RIDGE = 1, 2

_IN1 = "Array(f4,1,'C',readonly=True)"
_INDEX1 = "Array(i4,1,'C',readonly=True)"
_HASHED = "Array(f4,2,'C',readonly=True)"
_ROW = f"u8,u8,i8,i8,f4[::1],f4[::1],{_HASHED},{_INDEX1}"


@inner(
    f"void({_ROW},f4[::1])", error_model="numpy",
    fastmath={"contract", "nnan"},
)  # fmt: skip
def _gradient(at, count, ix, iy, fx, fy, hashed, perm, out):
    """The pixels of a row, from ``at`` on, that lie in one cell: Perlin's improved noise.

    ``hashed`` holds, for each of the 256 hashes of a column and row, the gradient there with the
    two lattice planes about z folded together: x, y, and what z adds.
    """
    a = perm[ix & 255] + iy
    b = perm[(ix + 1) & 255] + iy
    p, q = perm[a & 255], perm[(a + 1) & 255]
    r, s = perm[b & 255], perm[(b + 1) & 255]
    px, py, pz = hashed[0, p], hashed[1, p], hashed[2, p]
    qx, qy, qz = hashed[0, q], hashed[1, q], hashed[2, q]
    rx, ry, rz = hashed[0, r], hashed[1, r], hashed[2, r]
    sx, sy, sz = hashed[0, s], hashed[1, s], hashed[2, s]
    for n in range(count):
        x = at + n
        dx, dy = fx[x], fy[x]
        u, v = _fade(dx), _fade(dy)
        left = px * dx + py * dy + pz
        left += v * (qx * dx + qy * (dy - _ONE) + qz - left)
        right = rx * (dx - _ONE) + ry * dy + rz
        right += v * (sx * (dx - _ONE) + sy * (dy - _ONE) + sz - right)
        out[x] = left + u * (right - left)


@inner(
    f"void({_ROW},f4[::1])", error_model="numpy",
    fastmath={"contract", "nnan"},
)  # fmt: skip
def _value(at, count, ix, iy, fx, fy, hashed, perm, out):
    """Pixels of a row in one cell: values at its corners, mixed by the fade."""
    a = perm[ix & 255] + iy
    b = perm[(ix + 1) & 255] + iy
    p, q = hashed[0, perm[a & 255]], hashed[0, perm[(a + 1) & 255]]
    r, s = hashed[0, perm[b & 255]], hashed[0, perm[(b + 1) & 255]]
    for n in range(count):
        x = at + n
        u, v = _fade(fx[x]), _fade(fy[x])
        left = p + v * (q - p)
        right = r + v * (s - r)
        out[x] = left + u * (right - left)


@inner(
    f"void({_ROW},f4[::1],f4[::1],i8)", error_model="numpy",
    fastmath={"contract", "nnan"},
)  # fmt: skip
def _cells(at, count, ix, iy, fx, fy, hashed, perm, nearest, second, wanted):
    """Pixels of a row in one cell: squared distance to the nearest feature point and the next.

    Every feature point lies in its own cell, so a point two cells away is at least one cell plus
    the distance to this cell's edge away. Cells that far are searched only if the distance found so
    far is larger.
    """
    for n in range(count):
        x = at + n
        nearest[x] = _FAR
        second[x] = _FAR
    for i in range(-1, 2):
        column = perm[(ix + i) & 255] + iy
        for j in range(-1, 2):
            key = perm[(column + j) & 255]
            px, py = hashed[0, key] + F(i), hashed[1, key] + F(j)
            for n in range(count):
                x = at + n
                dx, dy = px - fx[x], py - fy[x]
                far = dx * dx + dy * dy
                second[x] = min(second[x], max(nearest[x], far))
                nearest[x] = min(nearest[x], far)
    for n in range(count):
        x = at + n
        edge = _ONE + min(min(fx[x], _ONE - fx[x]), min(fy[x], _ONE - fy[x]))
        counts = second[x] if wanted == _BORDER else nearest[x]
        if counts <= edge * edge:
            continue
        for i in range(-2, 3):
            column = perm[(ix + i) & 255] + iy
            for j in range(-2, 3):
                if abs(i) < 2 and abs(j) < 2:
                    continue
                key = perm[(column + j) & 255]
                dx, dy = hashed[0, key] + F(i) - fx[x], hashed[1, key] + F(j) - fy[x]
                far = dx * dx + dy * dy
                second[x] = min(second[x], max(nearest[x], far))
                nearest[x] = min(nearest[x], far)


@inner(
    f"void({_ROW},f4[::1],f4[::1],f4[::1],i4[::1],i4[::1],i4[::1],f4[::1],f4[:,::1])",
    error_model="numpy", fastmath={"contract", "nnan"},
)  # fmt: skip
def _flat(
    at, count, ix, iy, fx, fy, hashed, perm, far, nearest, second, far_bits, nearest_bits, second_bits, pixel,
    points,
):  # fmt: skip
    """Pixels of a row in one cell: the shade of the nearest point's cell, its edges smooth.

    The last five bits of the squared distance (of 23) hold the number of the point, so the smallest
    distance carries its point's number. On an edge both cells share the pixel by its distance to
    the
    line halfway between their points; ``pixel`` holds how x and y move per pixel.
    """
    for n in range(count):
        x = at + n
        nearest[x] = _FAR
        second[x] = _FAR
    # First the cells around; then the next ring, if a pixel may have a nearer point there.
    for ring in range(1, 3):
        for i in range(-ring, ring + 1):
            column = perm[(ix + i) & 255] + iy
            for j in range(-ring, ring + 1):
                if ring == 2 and abs(i) < 2 and abs(j) < 2:
                    continue
                key = perm[(column + j) & 255]
                which = np.int32((i + 2) * 5 + j + 2)
                px, py = hashed[0, key] + F(i), hashed[1, key] + F(j)
                points[0, which], points[1, which], points[2, which] = px, py, hashed[2, key]
                for n in range(count):
                    x = at + n
                    dx, dy = px - fx[x], py - fy[x]
                    far[x] = dx * dx + dy * dy
                for n in range(count):
                    x = at + n
                    bits = (far_bits[x] & np.int32(-32)) | which
                    second_bits[x] = min(second_bits[x], max(nearest_bits[x], bits))
                    nearest_bits[x] = min(nearest_bits[x], bits)
        beyond = False
        for n in range(count):
            x = at + n
            edge = _ONE + min(min(fx[x], _ONE - fx[x]), min(fy[x], _ONE - fy[x]))
            beyond = beyond or nearest[x] > edge * edge
        if not beyond:
            break
    # Points that share an edge are less than 2.3 cells apart; nearer to a point than that there is
    # no edge.
    near = F(4.6) * (abs(pixel[0]) + abs(pixel[1]) + abs(pixel[2]) + abs(pixel[3]))
    for n in range(count):
        x = at + n
        one, two = nearest_bits[x] & 31, second_bits[x] & 31
        shade = points[2, one]
        apart = second[x] - nearest[x]
        if apart < near:
            nx, ny = points[0, two] - points[0, one], points[1, two] - points[1, one]
            along, down = nx * pixel[0] + ny * pixel[2], nx * pixel[1] + ny * pixel[3]
            # Both the distance to the line and the pixel's width along its normal, times |n|.
            width = _TWO * np.sqrt(along * along + down * down) + F(1e-20)
            share = min(_HALF + apart / width, _ONE)
            shade = points[2, two] + share * (shade - points[2, two])
        far[x] = shade


@compiled(
    "out2 exact_in2 in1 exact_in1 in3 index_in1 in2 in2 in2 f f i i i",
    finite=True,
)
def _anywhere(
    first, last, out, place, weight, bent, hashed, perm, warp_x, warp_y, curve, gain, lift, mode,
    basis, fold,
):  # fmt: skip
    """Rows of noise: for the run of a row through a cell, the corners are looked up once."""
    wide = out.shape[1]
    line = np.empty(wide, F)
    spot = np.empty(wide, np.int32)
    ix, iy = np.empty(wide, np.int32), np.empty(wide, np.int32)
    fx, fy = np.empty(wide, F), np.empty(wide, F)
    one, two, three = np.zeros(wide, F), np.zeros(wide, F), np.zeros(wide, F)
    far_bits, nearest_bits, second_bits = (
        one.view(np.int32), two.view(np.int32), three.view(np.int32)
    )  # fmt: skip
    points, pixel = np.empty((3, 25), F), np.empty(4, F)
    for y in range(first, last):
        line[:] = _ZERO
        for o in range(len(weight)):
            across, right = place[o, 0] + place[o, 2] * y, place[o, 1]
            down, below = place[o, 3] + place[o, 5] * y, place[o, 4]
            if bent[o] == 0:
                for x in range(wide):
                    at_x, at_y = across + right * x, down + below * x
                    cu, cv = np.floor(at_x), np.floor(at_y)
                    fx[x], fy[x] = F(at_x - cu), F(at_y - cv)
                    ix[x], iy[x] = np.int32(cu), np.int32(cv)
            else:
                for x in range(wide):
                    at_x = across + right * x + bent[o] * warp_x[y, x]
                    at_y = down + below * x + bent[o] * warp_y[y, x]
                    cu, cv = np.floor(at_x), np.floor(at_y)
                    fx[x], fy[x] = F(at_x - cu), F(at_y - cv)
                    ix[x], iy[x] = np.int32(cu), np.int32(cv)
            pixel[0], pixel[1] = F(place[o, 1]), F(place[o, 2])
            pixel[2], pixel[3] = F(place[o, 4]), F(place[o, 5])
            start = 0
            while start < wide:
                stop = start + 1
                while stop < wide and ix[stop] == ix[start] and iy[stop] == iy[start]:
                    stop += 1
                at, count = np.uint64(start), np.uint64(stop - start)
                column, row = np.int64(ix[start]), np.int64(iy[start])
                if basis == _GRADIENT:
                    _gradient(at, count, column, row, fx, fy, hashed[o], perm, one)
                elif basis == _VALUE:
                    _value(at, count, column, row, fx, fy, hashed[o], perm, one)
                elif basis == _FLAT:
                    _flat(
                        at, count, column, row, fx, fy, hashed[o], perm, one, two, three, far_bits,
                        nearest_bits, second_bits, pixel, points,
                    )  # fmt: skip
                else:
                    _cells(at, count, column, row, fx, fy, hashed[o], perm, one, two, basis)
                start = stop
            if basis == _DISTANCE:
                for x in range(wide):
                    one[x] = min(np.sqrt(one[x]), _ONE) * _TWO - _ONE
            elif basis == _BORDER:
                for x in range(wide):
                    one[x] = min(np.sqrt(two[x]) - np.sqrt(one[x]), _ONE) * _TWO - _ONE
            elif basis == _FLAT:
                for x in range(wide):
                    one[x] = one[x] * _TWO - _ONE
            share = weight[o]
            if fold == _BILLOW:
                for x in range(wide):
                    line[x] += share * (_TWO * abs(one[x]) - _ONE)
            elif fold == _RIDGE:
                for x in range(wide):
                    line[x] += share * (_ONE - _TWO * abs(one[x]))
            else:
                for x in range(wide):
                    line[x] += share * one[x]
        _finish(out[y], line, spot, curve, gain, lift, mode)


def feature_points(perm: NDArray[np.int32], z: float) -> NDArray[np.float32]:
    """For each of the 256 kinds of cell: the place of its point in the cell at a moment, and its
    shade.

    Points circle in their cell's inscribed disc, each at its own radius, rate and phase, so that
    cells flow into each other as z grows and never jump.

    Returns
    -------
    (3, 256): x and y, 0..1, and the shade, 0..1.
    """
    one, two, three, four = (perm[(np.arange(256) + k) & 255] for k in (0, 71, 137, 197))
    radius = 0.5 * np.sqrt((one + 0.5) / 256)
    rate = (1 + 2 * three / 255) * np.where(four & 1, 1, -1)
    angle = 2 * np.pi * two / 256 + rate * z
    x, y = 0.5 + radius * np.cos(angle), 0.5 + radius * np.sin(angle)
    return np.stack([x, y, perm[(four + 29) & 255] / 255]).astype(F)


def _hashed(perm: NDArray[np.int32], z: float, basis: int) -> NDArray[np.float32]:
    """Tables that the pixels of a cell look up by its hash; z is included already."""
    deep = np.floor(z)
    part = F(z - deep)
    at = np.arange(256) + int(deep)
    near, far = perm[at & 255], perm[(at + 1) & 255]
    w = part * part * part * (part * (part * F(6) - F(15)) + F(10))
    if basis == _GRADIENT:
        near, far = near & 15, far & 15
        return np.stack([
            (1 - w) * _GX[near] + w * _GX[far],
            (1 - w) * _GY[near] + w * _GY[far],
            (1 - w) * _GZ[near] * part + w * _GZ[far] * (part - 1),
        ]).astype(F)  # fmt: skip
    if basis == _VALUE:
        mixed = ((1 - w) * near + w * far) / 127.5 - 1
        return np.stack([mixed, mixed, mixed]).astype(F)
    return feature_points(perm, z)


def octaves(
    height: int,
    width: int,
    axes: NDArray[np.float64],
    weights: NDArray[np.float32],
    seed: int,
    table: NDArray[np.float32] | None = None,
    raw: bool = False,
    gain: float = 1.0,
    lift: float = 0.0,
    basis: Basis = "gradient",
    fold: Fold = "none",
    twist: float = 0.0,
) -> NDArray[np.float32]:
    """Noise of any basis summed over octaves, at every pixel of a frame.

    Parameters
    ----------
    height, width, axes, weights, seed, table, raw, gain, lift
        See :func:`kernels.noise.straight`; the lattice may lie at any angle.
    basis
        *gradient*: Perlin 2002. *value*: a random value at each lattice point, mixed by the same
        fade. *cell distance*: 2·F1 − 1, *cell border*: 2·(F2 − F1) − 1, both held to ±1, and
        *cell flat*: the shade of the nearest point's cell; Worley 1996, in two dimensions, the
        points moving with z.
    fold
        Each octave n as it is, 2·|n| − 1 (billow) or 1 − 2·|n| (ridge).
    twist : float
        How far positions are shifted, in cells of the first octave, by a second and a third
        gradient noise of the same size.

    References
    ----------
    Perlin, *Improving Noise*, SIGGRAPH 2002. Worley, *A Cellular Texture Basis Function*,
    SIGGRAPH 1996. Ebert et al., *Texturing & Modeling*, for sums, folds and twists.
    """
    kind, folded = BASES.index(basis), FOLDS.index(fold)
    plain = kind == _GRADIENT and folded == 0 and twist == 0
    # Rows walk their cells from left to right; for a mirrored lattice the direction is reversed.
    if plain and not (np.any(axes[:, 2]) or np.any(axes[:, 4]) or np.any(axes[:, 1] <= 0)):
        return noise.straight(height, width, axes, weights, seed, table, raw, gain, lift)
    perm = permutation(seed)
    warp_x = warp_y = np.zeros((1, 1), F)
    bent = np.zeros(len(weights))
    if twist:
        fields = [
            octaves(height, width, axes[:1], np.ones(1, F), (seed + 101 + k) & 0x7FFFFFFF, raw=True)
            for k in range(2)
        ]
        warp_x, warp_y = fields
        # The first octave's lattice spacing, in that of each octave.
        spans = np.hypot(axes[:, 1], axes[:, 2])
        bent = twist * spans / spans[0]
    hashed = np.stack([_hashed(perm, z, kind) for z in axes[:, 6]])
    out = np.empty((height, width), F)
    mode = noise._RAW if raw else noise._PLAIN if table is None else noise._EVEN
    curve = np.zeros((2, 1), F) if table is None else noise._pieces(table, gain, lift)
    rows.over(
        _anywhere, height, out, np.ascontiguousarray(axes), weights, bent, hashed, perm,
        warp_x, warp_y, curve, F(gain), F(lift), mode, kind, folded, least=4,
    )  # fmt: skip
    return out
