"""Gradient noise against Perlin's reference algorithm."""

from __future__ import annotations

from collections.abc import Callable

import noise as reference_package
import numpy as np
import pytest
from scipy.spatial import cKDTree

from pale_static.core import Engine, Size
from pale_static.core.kernels.texture import lattice, noise
from pale_static.core.steps.noise import axes, weights

from ..core.documents import at, chain


def perlin_2002(
    x: float, y: float, z: float, perm: list[int],
    doubled: Callable[[int, float, float, float], float] | None = None,
) -> float:  # fmt: skip
    """Improved noise, written from Perlin's 2002 description."""

    def fade(t: float) -> float:
        return t * t * t * (t * (t * 6 - 15) + 10)

    def grad(h: int, x: float, y: float, z: float) -> float:
        h &= 15
        if doubled and h > 11:
            return doubled(h, x, y, z)
        u = x if h < 8 else y
        v = y if h < 4 else x if h in (12, 14) else z
        return (u if not h & 1 else -u) + (v if not h & 2 else -v)

    def lerp(t: float, a: float, b: float) -> float:
        return a + t * (b - a)

    ix, iy, iz = (int(np.floor(v)) & 255 for v in (x, y, z))
    x, y, z = (v - np.floor(v) for v in (x, y, z))
    u, v, w = fade(x), fade(y), fade(z)
    a, b = perm[ix] + iy, perm[ix + 1] + iy
    aa, ab, ba, bb = perm[a] + iz, perm[a + 1] + iz, perm[b] + iz, perm[b + 1] + iz
    return lerp(
        w,
        lerp(v, lerp(u, grad(perm[aa], x, y, z), grad(perm[ba], x - 1, y, z)),
             lerp(u, grad(perm[ab], x, y - 1, z), grad(perm[bb], x - 1, y - 1, z))),
        lerp(v, lerp(u, grad(perm[aa + 1], x, y, z - 1), grad(perm[ba + 1], x - 1, y, z - 1)),
             lerp(u, grad(perm[ab + 1], x, y - 1, z - 1), grad(perm[bb + 1], x - 1, y - 1, z - 1))),
    )  # fmt: skip


def raw(size: Size, z: float = 0.37, **values: object) -> np.ndarray:
    settings = {
        "cells": 5.0, "stretch_x": 1.0, "stretch_y": 1.0, "octaves": 1, "roughness": 0.5,
        "lacunarity": 2.0, "angle": 0.0, "offset": (0.0, 0.0), "seed": 3,
    } | values  # fmt: skip
    how = {name: settings.pop(name) for name in ("basis", "fold", "twist") if name in settings}
    return lattice.octaves(
        size.height, size.width, axes(settings, size, z), weights(settings),
        int(settings["seed"]), raw=True, **how,  # type: ignore[call-overload, arg-type]
    )  # fmt: skip


@pytest.mark.parametrize("angle", [0.0, 33.0, 90.0, 180.0, -20.0])
def test_the_same_table_gives_perlins_values(angle: float) -> None:
    size = Size(37, 23)
    found = raw(size, angle=angle)
    perm = list(noise.permutation(3)) + list(noise.permutation(3))
    turn = np.radians(angle)
    for y in range(0, 23, 3):
        for x in range(0, 37, 4):
            px, py = (x + 0.5 - 18.5) * 5 / 23, (y + 0.5 - 11.5) * 5 / 23
            nx = px * np.cos(turn) + py * np.sin(turn)
            ny = py * np.cos(turn) - px * np.sin(turn)
            assert found[y, x] == pytest.approx(perlin_2002(nx, ny, 0.37, perm), abs=1e-5)


# The package "noise" stores its gradients; for the four hashes that Perlin's function doubles, it
# doubles others (read off its values). All else is the same function.
PACKAGE_LAST = {12: (1, 0, -1), 13: (-1, 0, -1), 14: (0, -1, 1), 15: (0, 1, 1)}


def test_the_package_noise_knows_the_same_function() -> None:
    table = reference_table() * 2

    def theirs(h: int, x: float, y: float, z: float) -> float:
        gx, gy, gz = PACKAGE_LAST[h & 15]
        return gx * x + gy * y + gz * z

    for x, y, z in np.random.default_rng(2).uniform(0, 20, (200, 3)):
        found = reference_package.pnoise3(x, y, z)
        assert perlin_2002(x, y, z, table, theirs) == pytest.approx(found, abs=1e-5)


def reference_table() -> list[int]:
    """Perlin's published permutation, 2002."""
    return [
        151,160,137,91,90,15,131,13,201,95,96,53,194,233,7,225,140,36,103,30,69,142,8,99,37,240,21,
        10,23,190,6,148,247,120,234,75,0,26,197,62,94,252,219,203,117,35,11,32,57,177,33,88,237,149,
        56,87,174,20,125,136,171,168,68,175,74,165,71,134,139,48,27,166,77,146,158,231,83,111,229,
        122,60,211,133,230,220,105,92,41,55,46,245,40,244,102,143,54,65,25,63,161,1,216,80,73,209,
        76,132,187,208,89,18,169,200,196,135,130,116,188,159,86,164,100,109,198,173,186,3,64,52,217,
        226,250,124,123,5,202,38,147,118,126,255,82,85,212,207,206,59,227,47,16,58,17,182,189,28,42,
        223,183,170,213,119,248,152,2,44,154,163,70,221,153,101,155,167,43,172,9,129,22,39,253,19,98,
        108,110,79,113,224,232,178,185,112,104,218,246,97,228,251,34,242,193,238,210,144,12,191,179,
        162,241,81,51,145,235,249,14,239,107,49,192,214,31,181,199,106,157,184,84,204,176,115,121,50,
        45,127,4,150,254,138,236,205,93,222,114,67,29,24,72,243,141,128,195,78,66,215,61,156,180,
    ]  # fmt: skip


@pytest.mark.parametrize("octaves", [1, 4, 7])
@pytest.mark.parametrize("stretch", [(1.0, 1.0), (30.0, 0.5), (0.05, 40.0)])
def test_the_row_path_equals_the_direct_path(octaves: int, stretch: tuple[float, float]) -> None:
    size = Size(160, 90)
    shared = {"octaves": octaves, "stretch_x": stretch[0], "stretch_y": stretch[1], "cells": 9.0}
    rows = raw(size, **shared)
    direct = raw(size, angle=1e-9, **shared)
    assert np.abs(rows - direct).max() < 2e-5


def test_it_is_zero_at_lattice_points_and_stays_in_range() -> None:
    perm = noise.permutation(5)
    for x in range(-3, 4):
        for y in range(-3, 4):
            assert noise.point(x, y, 2, perm) == 0
    many = raw(Size(400, 400), cells=90.0)
    assert np.abs(many).max() <= noise.REACH
    assert np.abs(many).max() > 0.7


def test_first_and_second_derivatives_are_continuous_across_cells() -> None:
    perm = noise.permutation(7)
    h = 1e-3

    def value(x: float) -> float:
        return float(noise.point(x, 0.3, 0.6, perm))

    for edge in (1.0, 2.0, 3.0):

        def slope(x: float) -> float:
            return (value(x + h) - value(x - h)) / (2 * h)

        def bend(x: float) -> float:
            return (value(x + h) - 2 * value(x) + value(x - h)) / h**2

        assert slope(edge - 2 * h) == pytest.approx(slope(edge + 2 * h), abs=0.005)
        # A cubic fade, whose second derivative jumps, is off by some units here.
        assert bend(edge - 2 * h) == pytest.approx(bend(edge + 2 * h), abs=0.5)


def test_seeds_give_other_noise_and_the_same_seed_the_same() -> None:
    size = Size(64, 36)
    assert (raw(size, seed=1) == raw(size, seed=1)).all()
    assert np.abs(raw(size, seed=1) - raw(size, seed=2)).max() > 0.2
    assert sorted(noise.permutation(9)[:256]) == list(range(256))


def test_contrast_is_about_middle_grey_then_brightness_then_a_clamp() -> None:
    engine, size = Engine(), Size(80, 45)
    plain = engine.evaluate(chain({"kind": "noise"}), at(), size).plane
    shaped = engine.evaluate(
        chain({"kind": "noise", "values": {"hardness": 5, "white_share": 0.52}}), at(), size
    ).plane
    assert np.allclose(shaped, np.clip((plain - 0.5) * 5 + 0.6, 0, 1), atol=1e-5)


@pytest.mark.parametrize(
    "values",
    [
        {},
        {"cells": 3, "octaves": 2},
        {"cells": 14, "stretch_x": 4, "angle": 20},
        {"cells": 45, "octaves": 2},
    ],
)
def test_evened_out_noise_covers_v_of_the_frame_below_v(values: dict[str, object]) -> None:
    engine, size = Engine(), Size(480, 270)
    effect = chain({"kind": "noise", "values": {"even_out": True, "speed": 0.31} | values})
    levels = np.linspace(0.05, 0.95, 19)
    # The definition: the share of pixels below v is v, here at each of 20 evolutions.
    for k in range(20):
        plane = engine.evaluate(effect, at(k * 7, 200), size).plane
        below = (plane[..., None] < levels).mean((0, 1))
        assert np.abs(below - levels).max() < 0.01


def places(size: Size, cells: float = 5.0) -> tuple[np.ndarray, np.ndarray]:
    """The places of pixel centres on the lattice of :func:`raw`."""
    y, x = np.mgrid[0 : size.height, 0 : size.width]
    scale = cells / size.height
    return (x + 0.5 - size.width / 2) * scale, (y + 0.5 - size.height / 2) * scale


def points_about(seed: int, z: float, reach: int) -> tuple[np.ndarray, np.ndarray]:
    """Every feature point within a reach of the middle, and its shade."""
    perm = noise.permutation(seed)
    x, y, shade = lattice.feature_points(perm, z)
    i, j = (part.ravel() for part in np.mgrid[-reach:reach, -reach:reach])
    at = perm[(perm[i & 255] + j) & 255]
    return np.stack([i + x[at], j + y[at]], -1), shade[at]


@pytest.mark.parametrize("cells", [2.5, 7.0, 40.0])
@pytest.mark.parametrize("z", [0.0, 0.37, -3.4, 81.2])
def test_cells_are_the_nearest_and_second_nearest_points(cells: float, z: float) -> None:
    size = Size(90, 50)
    # Worley 1996. Source: scipy.spatial.cKDTree on the same feature points.
    points, shades = points_about(3, z, int(2 * cells) + 4)
    far, which = cKDTree(points).query(np.stack(places(size, cells), -1), k=2)
    nearest, second = far[..., 0], far[..., 1]
    shared = {"z": z, "cells": cells}
    distance = raw(size, basis="cell distance", **shared)
    border = raw(size, basis="cell border", **shared)
    flat = raw(size, basis="cell flat", **shared)
    assert np.abs((distance + 1) / 2 - np.minimum(nearest, 1)).max() < 1e-5
    assert np.abs((border + 1) / 2 - np.minimum(second - nearest, 1)).max() < 1e-5
    inside = second - nearest > 2.5 * cells / 50  # edges share a pixel between two cells
    assert np.abs((flat + 1) / 2 - shades[which[..., 0]])[inside].max(initial=0) < 1e-5
    between = np.sort(shades[which], -1)
    assert ((flat + 1) / 2 >= between[..., 0] - 1e-5).all()
    assert ((flat + 1) / 2 <= between[..., 1] + 1e-5).all()


def test_the_points_circle_within_their_cells_and_never_jump() -> None:
    perm = noise.permutation(9)
    moments = np.stack([lattice.feature_points(perm, z)[:2] for z in np.linspace(0, 9, 400)])
    assert (np.hypot(*(moments - 0.5).transpose(1, 0, 2)) <= 0.5).all()
    assert np.abs(np.diff(moments, axis=0)).max() < 0.5 * 3 * 9 / 399 * 1.01


def test_flat_cells_have_smooth_edges() -> None:
    large, small = (
        (raw(size, basis="cell flat", cells=6.0, angle=20.0) + 1) / 2
        for size in (Size(960, 540), Size(160, 90))
    )
    reduced = large.reshape(90, 6, 160, 6).mean((1, 3))
    assert np.abs(reduced - small).max() < 0.2  # pixels in which three cells meet
    assert np.abs(reduced - small).mean() < 0.002


def test_value_noise_is_its_definition() -> None:
    size, perm = Size(33, 21), noise.permutation(3)
    found = raw(size, z=2.37, basis="value")
    x, y = places(size)

    def fade(t: np.ndarray) -> np.ndarray:
        return t * t * t * (t * (t * 6 - 15) + 10)

    total = np.zeros(found.shape)
    ix, iy = np.floor(x).astype(int), np.floor(y).astype(int)
    for i in range(2):
        for j in range(2):
            for k in range(2):
                at = perm[(perm[(ix + i) & 255] + iy + j) & 255]
                value = perm[(at + 2 + k) & 255] / 127.5 - 1
                share = 1.0
                for part, corner in ((x - ix, i), (y - iy, j), (np.full_like(x, 0.37), k)):
                    share = share * (fade(part) if corner else 1 - fade(part))
                total += share * value
    assert np.abs(found - total).max() < 1e-5


@pytest.mark.parametrize("octaves", [1, 3])
def test_folds_turn_each_octave(octaves: int) -> None:
    size = Size(64, 36)
    weight = 0.5 ** np.arange(octaves) / (0.5 ** np.arange(octaves)).sum()
    alone = []
    for o in range(octaves):
        settings = {
            "cells": 5.0, "stretch_x": 1.0, "stretch_y": 1.0, "octaves": octaves, "roughness": 0.5,
            "lacunarity": 2.0, "angle": 0.0, "offset": (0.0, 0.0),
        }  # fmt: skip
        place = axes(settings, size, 0.37)[o : o + 1]
        alone.append(lattice.octaves(36, 64, place, np.ones(1, np.float32), 3, raw=True))
    for fold, turned in (("billow", lambda n: 2 * abs(n) - 1), ("ridge", lambda n: 1 - 2 * abs(n))):
        expected = sum(w * turned(n) for w, n in zip(weight, alone, strict=True))
        found = raw(size, octaves=octaves, fold=fold)
        assert np.abs(found - expected).max() < 1e-5


@pytest.mark.parametrize("angle", [0.0, 25.0])
def test_twist_carries_every_octave_off_alike(angle: float) -> None:
    size, perm = Size(30, 18), noise.permutation(3)
    found = raw(size, twist=0.8, octaves=2, angle=angle)
    warp = [raw(size, seed=3 + 101 + k, angle=angle) for k in range(2)]
    settings = {
        "cells": 5.0, "stretch_x": 1.0, "stretch_y": 1.0, "octaves": 2, "roughness": 0.5,
        "lacunarity": 2.0, "angle": angle, "offset": (0.0, 0.0),
    }  # fmt: skip
    place = axes(settings, size, 0.37)
    y, x = np.mgrid[0:18, 0:30]
    expected = np.zeros(found.shape)
    for o, (fine, weight) in enumerate(((1, 2 / 3), (2, 1 / 3))):
        a = place[o]
        u = a[0] + a[1] * x + a[2] * y + 0.8 * fine * warp[0]
        v = a[3] + a[4] * x + a[5] * y + 0.8 * fine * warp[1]
        each = [noise.point(p, q, a[6], perm) for p, q in zip(u.ravel(), v.ravel(), strict=True)]
        expected += weight * np.reshape(each, found.shape)
    assert np.abs(found - expected).max() < 2e-5


@pytest.mark.parametrize("how", [{"fold": "ridge"}, {"twist": 1.2}, {"basis": "cell border"}])
def test_evened_out_noise_of_every_making_covers_as_much_as_its_grey_says(how: dict) -> None:
    values = {"even_out": True, "cells": 6, "octaves": 3, **how}
    effect = chain({"kind": "noise", "values": values})
    found = Engine().evaluate(effect, at(), Size(640, 360)).plane
    for grey in (0.1, 0.3, 0.5, 0.7, 0.9):
        assert (found < grey).mean() == pytest.approx(grey, abs=0.012)
