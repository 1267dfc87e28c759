"""Edges, reliefs, distances and glass: against SciPy, scikit-image, Lambert, Blinn and Snell."""

from __future__ import annotations

from math import asin, atan, cos, degrees, radians, sin, tan
from typing import Any

import numpy as np
import pytest
from scipy import ndimage
from scipy.stats import norm
from skimage.filters import scharr, sobel

from pale_static.core.kernels.texture.relief import refraction
from pale_static.core.steps.surface import signed_distance

from .test_light import card, opaque
from .test_space import RNG, run, smooth

PLAIN = {"strength": 1.0, "threshold": 0.0}


def test_edges_are_scikit_images_up_to_one_scale() -> None:
    matte = smooth()
    for method, reference in (("Sobel", sobel), ("Scharr", scharr)):
        found = run("edges", matte, method=method, thickness=0, **PLAIN)
        expected = reference(matte.astype(float), mode="nearest")
        inside = (slice(2, -2), slice(2, -2))
        ratio = found[inside].sum() / expected[inside].sum()
        np.testing.assert_allclose(found[inside], ratio * expected[inside], atol=1e-4)


def test_a_difference_of_gaussians_is_scipys() -> None:
    matte = RNG.random((120, 200), np.float32)
    found = run("edges", matte, method="difference of Gaussians", thickness=5, **PLAIN)
    one, two = (ndimage.gaussian_filter(matte.astype(float), s, mode="nearest") for s in (3, 4.8))
    # A step of height 1 has a largest difference of Φ(x) − Φ(x / 1.6).
    x = np.linspace(0, 4, 4001)
    scale = 1 / (norm.cdf(x) - norm.cdf(x / 1.6)).max()
    np.testing.assert_allclose(found, np.clip(np.abs(one - two) * scale, 0, 1), atol=0.01)


@pytest.mark.parametrize("method", ["Sobel", "Scharr", "difference of Gaussians"])
@pytest.mark.parametrize("thickness", [1.0, 4.0])
def test_a_step_is_found_as_strong_as_it_is_high(method: str, thickness: float) -> None:
    matte = np.full((100, 160), 0.3, np.float32)
    matte[:, 80:] = 0.7
    found = run("edges", matte, method=method, thickness=thickness, **PLAIN)
    sigma = thickness / 2  # in pixels, at 100 lines

    def soft(deviation: float) -> Any:
        return ndimage.gaussian_filter1d(matte[0].astype(float), deviation, mode="nearest")

    if method == "difference of Gaussians":
        x = np.linspace(0, 4, 4001)
        scale = 1 / (norm.cdf(x) - norm.cdf(x / 1.6)).max()
        expected = np.abs(soft(sigma) - soft(1.6 * sigma)).max() * scale
    else:
        # The steepest slope of a Gaussian edge is 1/(√2π·σ) of its height; a slope over two
        # pixels is that of an edge softened by 1/3 of a square pixel more (SciPy's Gaussian).
        slope = np.abs(soft(sigma)[2:] - soft(sigma)[:-2]).max() / 2
        expected = slope * np.sqrt(2 * np.pi * (sigma**2 + 1 / 3))
    assert found.max() == pytest.approx(expected, abs=1e-3)
    if thickness == 4:
        assert found.max() == pytest.approx(0.4, abs=0.01)
    assert found[:, :50].max() < 1e-3


def lamp_at(azimuth: float, elevation: float) -> Any:
    turn, up = radians(azimuth), radians(elevation)
    return np.array([cos(turn) * cos(up), sin(turn) * cos(up), sin(up)])


@pytest.mark.parametrize("azimuth", [-135.0, 0.0, 60.0])
@pytest.mark.parametrize("elevation", [20.0, 45.0, 80.0])
def test_a_slope_is_shaded_by_lambert_and_as_hillshade_has_it(
    azimuth: float, elevation: float
) -> None:
    # Two planes of known slopes: a roof whose ridge runs from top to bottom.
    x = np.arange(160, dtype=np.float32)
    height = np.tile((0.5 - np.abs(x - 79.5) / 160)[None], (100, 1)).astype(np.float32)
    main = np.full((100, 160, 4), 0.5, np.float32)
    main[..., 3] = 1
    depth = 40.0
    found = run("relief", main, inputs={"surface": height}, azimuth=azimuth, elevation=elevation,
                depth=depth, detail=0)[..., 0]  # fmt: skip
    lamp = lamp_at(azimuth, elevation)
    shades = []
    for rise, column in ((1, 40), (-1, 120)):
        slope = rise * depth / 160
        normal = np.array([-slope, 0, 1]) / np.sqrt(1 + slope * slope)
        lambert = max(float(normal @ lamp), 0.0)
        # Cartography: cos z cos s + sin z sin s cos(azimuth − aspect), z from the zenith.
        aspect = 180.0 if rise > 0 else 0.0
        tilt = abs(degrees(atan(slope)))
        z = 90 - elevation
        hill = cos(radians(z)) * cos(radians(tilt)) + sin(radians(z)) * sin(radians(tilt)) * cos(
            radians(azimuth - aspect)
        )
        assert lambert == pytest.approx(max(hill, 0), abs=1e-6)
        shades.append((found[50, column], lambert))
    (left, one), (right, two) = shades
    assert left * two == pytest.approx(right * one, abs=1e-4)
    # The side that faces the light is lit.
    if azimuth in (-135.0, 0.0):
        assert (left > right) == (azimuth == -135.0)


@pytest.mark.parametrize("level", [0.5, 1.0, 2.0])
@pytest.mark.parametrize("lamp", ["far away", "at a point"])
def test_the_mean_is_that_of_the_picture_times_the_level(level: float, lamp: str) -> None:
    main, surface = opaque(), RNG.random((120, 200), np.float32)
    found = run("relief", main, inputs={"surface": surface}, level=level, lamp=lamp,
                depth=6, tint="#FFC080")  # fmt: skip
    weights = np.array([0.2126, 0.7152, 0.0722])
    assert (found[..., :3] @ weights).mean() == pytest.approx(
        level * (main[..., :3] @ weights).mean(), rel=0.01
    )
    np.testing.assert_array_equal(found[..., 3], main[..., 3])


def test_a_flat_surface_changes_nothing_and_no_shade_falls_below_the_darkest() -> None:
    main = opaque()
    flat = np.full((120, 200), 0.7, np.float32)
    np.testing.assert_allclose(run("relief", main, inputs={"surface": flat}), main, atol=1e-5)
    rough = ndimage.gaussian_filter(RNG.random((120, 200), np.float32), 2)
    grey = np.ones_like(main) * np.float32(0.5)
    shades = run("relief", grey, inputs={"surface": rough}, depth=60, detail=0, darkest=0.4,
                 elevation=90)[..., 0]  # fmt: skip
    # Under vertical light nothing is brighter than flat areas: shades go from darkest to 1.
    assert shades.min() / shades.max() == pytest.approx(0.4, abs=0.02)


@pytest.mark.parametrize("sharpness", [1, 20])
def test_a_sheen_is_blinns(sharpness: int) -> None:
    # A plane of one slope: n·h is constant.
    height = np.tile((np.arange(160) / 160).astype(np.float32), (100, 1))
    main = np.zeros((100, 160, 4), np.float32)
    main[..., 3] = 1
    found = run("relief", main, inputs={"surface": height}, depth=40, detail=0, sheen=0.7,
                sharpness=sharpness, azimuth=180, elevation=50)  # fmt: skip
    normal = np.array([-40 / 160, 0, 1]) / np.hypot(1, 40 / 160)
    half = lamp_at(180, 50) + np.array([0, 0, 1])
    half /= np.linalg.norm(half)
    assert found[50, 80, 0] == pytest.approx(0.7 * float(normal @ half) ** sharpness, rel=1e-3)
    # With light from a low side angle the sheen is weak but not zero.
    low = run("relief", main, inputs={"surface": height}, depth=400, detail=0, sheen=1.0,
              sharpness=sharpness, azimuth=180, elevation=1)[50, 80, 0]  # fmt: skip
    steep = np.array([-400 / 160, 0, 1]) / np.hypot(1, 400 / 160)
    half = lamp_at(180, 1) + np.array([0, 0, 1])
    half /= np.linalg.norm(half)
    assert low == pytest.approx(max(float(steep @ half), 0) ** sharpness, rel=2e-3)


def test_distances_are_scipys_within_half_a_pixel() -> None:
    matte = (ndimage.gaussian_filter(RNG.random((90, 140)), 5) > 0.5).astype(np.float32)
    found = signed_distance(matte)
    inside = ndimage.distance_transform_edt(matte)
    outside = ndimage.distance_transform_edt(1 - matte)
    # To the middle of the nearest pixel of the other kind, and half a pixel to the border.
    np.testing.assert_allclose(found, np.where(matte > 0, 0.5 - inside, outside - 0.5), atol=1e-3)


def test_a_smooth_border_is_measured_between_pixels() -> None:
    y, x = np.mgrid[0:120, 0:160]
    far = np.hypot(x - 80.3, y - 59.6) - 40.37
    found = signed_distance(np.clip(0.5 - far, 0, 1).astype(np.float32))
    assert np.abs(found - far).max() < 1.0
    assert np.abs(found - far)[np.abs(far) < 0.5].max() < 0.05


def test_colours_lie_at_their_distances() -> None:
    stops = ((0.0, "#FF0000"), (1.0, "#0000FF"))
    found = run("distance-colours", card(), inside=5, outside_reach=5, stops=stops, beyond="clamp")
    # The card's right side is at column 90: one half of the way there.
    assert found[50, 89:91, 2].mean() == pytest.approx(0.5, abs=0.02)
    np.testing.assert_allclose(found[50, 86:95, 2], (np.arange(86, 95) + 0.5 - 85) / 10, atol=0.02)
    clear = run("distance-colours", card(), inside=5, outside_reach=5, stops=stops, beyond="clear")
    assert clear[50, 100, 3] == 0
    again = run("distance-colours", card(), inside=5, outside_reach=5, stops=stops, beyond="repeat")
    np.testing.assert_allclose(again[50, 102], again[50, 92], atol=2e-2)
    for empty in (np.zeros((30, 40, 4), np.float32), np.ones((30, 40, 4), np.float32)):
        assert np.isfinite(run("distance-colours", empty, stops=stops)).all()


def test_rays_are_bent_by_snells_law() -> None:
    for index in (1.0, 1.33, 1.5, 2.4):
        ways = refraction("straight", 20.0, 10.0, (index, index, index), 65)
        # A face of slope 10 / 20, at half its height.
        angle = atan(0.5)
        inside = asin(sin(angle) / index)
        assert ways[1, 32] == pytest.approx(5 * tan(angle - inside), abs=1e-9)
    assert np.abs(refraction("round", 20.0, 10.0, (1.0, 1.0, 1.0), 65)[:3]).max() < 1e-12


BARE = {"edge_light": 0.0, "shadow": 0.0, "dispersion": 0.0}


def test_glass_of_index_one_bends_nothing_and_outside_nothing_changes() -> None:
    main = opaque(100, 160)
    np.testing.assert_array_equal(run("glass-pane", main, index=1.0, **BARE), main)
    found = run("glass-pane", main, width=60, height=40, corner=5, **BARE)
    y, x = np.mgrid[0:100, 0:160]
    outside = (np.abs(x - 79.5) > 31) | (np.abs(y - 49.5) > 21)
    np.testing.assert_array_equal(found[outside], main[outside])
    assert np.abs(found - main)[~outside].max() > 0.05
    # Inside the rim the glass is flat, so light passes straight.
    np.testing.assert_allclose(found[45:55, 70:90], main[45:55, 70:90], atol=1e-6)
    for nothing in ({"width": 0.0}, {"height": 0.0}):
        assert run("glass-pane", main, **nothing) is main


def test_a_pane_reads_as_far_inward_as_snell_says() -> None:
    # A picture whose grey is its column, so a read value tells its place.
    main = np.ones((100, 160, 4), np.float32)
    main[..., :3] = (np.arange(160, dtype=np.float32) / 160)[None, :, None]
    found = run("glass-pane", main, width=120, height=90, corner=0, bevel=20, thickness=10,
                profile="straight", index=1.5, **BARE)  # fmt: skip
    left = 80 - 60
    for column in (24, 30, 36):
        d = column + 0.5 - left
        angle = atan(0.5)
        moved = d / 20 * 10 * tan(angle - asin(sin(angle) / 1.5))
        assert found[50, column, 0] * 160 == pytest.approx(column + moved, abs=0.05)


def test_the_rim_shines_on_the_side_that_the_light_comes_from() -> None:
    main = np.zeros((100, 160, 4), np.float32)
    main[..., 3] = 1
    found = run("glass-pane", main, width=120, height=80, light_angle=180, edge_light=1.0, shadow=0)
    left, right, top = found[50, 22, 0], found[50, 137, 0], found[12, 80, 0]
    assert left > 2 * right > 0
    assert top < 0.1 * left


def test_a_pane_larger_than_the_frame_is_straight_glass() -> None:
    main = opaque(60, 80)
    found = run("glass-pane", main, width=1000, height=1000, tint="#808080", **BARE)
    np.testing.assert_allclose(found[..., :3], main[..., :3] * (128 / 255), atol=1e-5)
