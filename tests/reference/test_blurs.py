"""The blurs against SciPy and scikit-image."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import ndimage
from skimage.filters import unsharp_mask

from pale_static.core.pictures.softening import gaussian

from .test_space import RNG, picture, run, smooth


def impulse(height: int = 161, width: int = 241) -> np.ndarray:
    point = np.zeros((height, width), np.float32)
    point[height // 2, width // 2] = 1
    return point


@pytest.mark.parametrize(("across", "down"), [(2.0, 0.0), (0.0, 3.0), (1.5, 6.0), (14.0, 3.0)])
def test_a_blur_apart_is_scipys_in_each_direction(across: float, down: float) -> None:
    point = impulse()
    found = run(
        "blur", point, size=across / 1.61, vertical_size=down / 1.61, separate_vertical_size=True
    )
    expected = ndimage.gaussian_filter(point.astype(float), (down, across), truncate=5)
    assert np.abs(found - expected).max() < 0.005 * expected.max()
    assert found.sum() == pytest.approx(1, abs=2e-3)


@pytest.mark.parametrize(
    ("rule", "mode"),
    [("clamp", "nearest"), ("clear", "constant"), ("mirror", "reflect"), ("repeat", "wrap")],
)
@pytest.mark.parametrize("shape", [(1, 4), (2, 2), (3, 33), (8, 1, 3), (17, 9, 4), (61, 90, 3)])
def test_large_blurs_know_what_lies_outside_at_any_size(
    rule: str, mode: str, shape: tuple[int, ...]
) -> None:
    plane = np.random.default_rng(3).random(shape, np.float32)
    for across, down in ((5.0, 5.0), (9.0, 2.0), (0.5, 20.0), (60.0, 60.0)):
        sigmas = (down, across, *(0,) * (len(shape) - 2))
        expected = ndimage.gaussian_filter(plane.astype(float), sigmas, mode=mode, truncate=7)
        assert np.abs(gaussian(plane, across, rule, down) - expected).max() < 1e-3


def test_a_draft_has_the_variance_of_the_gaussian() -> None:
    point = impulse()
    for sigma in (4.0, 5.0, 12.0):
        found = run("blur", point, size=sigma / 1.61, quality="draft")
        _, x = np.mgrid[0:161, 0:241]
        # Boxes are whole pixels wide.
        assert (found * (x - 120) ** 2).sum() == pytest.approx(sigma**2, rel=0.1)
        full = run("blur", point, size=sigma / 1.61)
        assert np.abs(found - full).max() < 0.12 * full.max()


@pytest.mark.parametrize("length", [3.0, 10.0, 37.0])
def test_a_streak_is_the_mean_along_its_line(length: float) -> None:
    matte = smooth()
    found = run("streak-blur", matte, length=length / 1.2, outside="clamp")
    fine = np.arange(-0.5, 0.5, 1 / 512) * length
    x = np.arange(60, 140)
    shifted = [
        ndimage.map_coordinates(matte.astype(float), [np.full(80, 60.0), x + s], order=1)
        for s in fine
    ]
    np.testing.assert_allclose(found[60, 60:140], np.mean(shifted, 0), atol=4e-3)
    upright = run("streak-blur", matte, length=length / 1.2, angle=90)
    turned = run("streak-blur", np.ascontiguousarray(matte.T), length=length / 2.0)
    np.testing.assert_allclose(upright[40:80, 40:160], turned.T[40:80, 40:160], atol=1e-4)


def test_a_zoom_leaves_rays_and_a_spin_leaves_rings() -> None:
    y, x = np.mgrid[0:200, 0:200].astype(np.float32)
    angle, radius = np.arctan2(y - 99.5, x - 99.5), np.hypot(y - 99.5, x - 99.5)
    rays = (0.5 + 0.4 * np.sin(6 * angle)).astype(np.float32)
    rings = (0.5 + 0.4 * np.sin(radius / 6)).astype(np.float32)
    inside = (radius > 30) & (radius < 80)
    assert np.abs(run("zoom-blur", rays, amount=0.3) - rays)[inside].max() < 0.02
    assert np.abs(run("rotary-blur", rings, turn=30) - rings)[inside].max() < 0.02
    assert np.abs(run("zoom-blur", rings, amount=0.5) - 0.5)[inside].mean() < 0.12
    # A sixth of a turn is a whole period of the rays.
    assert np.abs(run("rotary-blur", rays, turn=60) - 0.5)[inside].max() < 0.02


def test_a_map_of_one_grey_is_a_gaussian_of_its_share() -> None:
    matte = picture(80, 120)
    for grey, tolerance in ((0.0, 1e-6), (0.5, 1e-5), (1.0, 1e-5)):
        source = np.full((80, 120), grey, np.float32)
        found = run("mapped-blur", matte, inputs={"map": source}, size=5)
        np.testing.assert_allclose(found, run("blur", matte, size=5 * grey), atol=tolerance)
    # Between two blurred pictures the variance is right.
    point = impulse()
    source = np.full(point.shape, 0.7, np.float32)
    found = run("mapped-blur", point, inputs={"map": source}, size=5)
    _, x = np.mgrid[0:161, 0:241]
    assert (found * (x - 120) ** 2).sum() == pytest.approx((0.7 * 5 * 1.61) ** 2, rel=0.02)


def test_a_map_makes_no_dark_halo() -> None:
    alpha = np.zeros((80, 120, 1), np.float32)
    alpha[:, 60:] = 1
    red = np.concatenate([alpha, alpha * 0, alpha * 0, alpha], -1)
    ramp = np.tile(np.linspace(0, 1, 120, dtype=np.float32), (80, 1))
    found = run("mapped-blur", red, inputs={"map": ramp}, size=5)
    np.testing.assert_allclose(found[..., 0], found[..., 3], atol=1e-6)


def test_a_guided_blur_softens_within_and_keeps_the_guides_edges() -> None:
    step = np.zeros((60, 100), np.float32)
    step[:, 50:] = 1
    noisy = np.clip(0.25 + 0.5 * step + RNG.normal(0, 0.08, step.shape), 0, 1).astype(np.float32)
    found = run("guided-blur", noisy, inputs={"guide": step}, size=6)
    assert found[20:40, 10:40].std() < 0.02
    assert found[30, 47] < 0.35
    assert found[30, 52] > 0.65
    # With a guide without edges it is a plain blur.
    flat = np.full_like(step, 0.5)
    plain = run("guided-blur", noisy, inputs={"guide": flat}, size=6)
    np.testing.assert_allclose(plain, run("blur", noisy, size=6), atol=2e-3)


def test_a_guided_blur_is_the_direct_joint_bilateral() -> None:
    # Petschnigg et al. 2004, written out at a few pixels.
    main, guide = RNG.random((2, 41, 41)).astype(np.float32)
    guide = ndimage.gaussian_filter(guide, 3)
    guide = ((guide - guide.min()) / np.ptp(guide)).astype(np.float32)
    sigma, spread = 3.0, 0.02**0.4
    found = run(
        "guided-blur", main, inputs={"guide": guide}, size=sigma / 0.41, edge_sensitivity=0.4
    )
    y, x = np.mgrid[0:41, 0:41]
    for py, px in ((20, 20), (15, 25), (25, 14)):
        weight = np.exp(-((y - py) ** 2 + (x - px) ** 2) / (2 * sigma**2))
        weight *= np.exp(-((guide - guide[py, px]) ** 2) / (2 * spread**2))
        assert found[py, px] == pytest.approx((weight * main).sum() / weight.sum(), abs=0.01)


def test_sharpening_is_skimages_unsharp_mask() -> None:
    matte = smooth()
    found = run("sharpen", matte, amount=1.5, size=2.5)
    theirs = unsharp_mask(matte.astype(float), radius=3.0, amount=1.5, preserve_range=True)
    np.testing.assert_allclose(found[15:-15, 15:-15], theirs[15:-15, 15:-15], atol=2e-3)
    still = run("sharpen", matte, amount=1.5, size=2.5, threshold=1.0)
    np.testing.assert_allclose(still, matte, atol=1e-6)
