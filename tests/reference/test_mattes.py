"""Mattes against SciPy."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import ndimage

from pale_static.core.kernels.filters import morph

from .test_space import RNG, run


def footprint(radius: int, shape: str) -> np.ndarray:
    y, x = np.mgrid[-radius : radius + 1, -radius : radius + 1]
    inside = x * x + y * y <= radius * radius
    return inside if shape == "disc" else np.ones_like(inside)


@pytest.mark.parametrize("shape", ["disc", "square"])
@pytest.mark.parametrize("radius", [1, 2, 3, 7, 20, 60])
@pytest.mark.parametrize("size", [(40, 70), (1, 9), (33, 1), (64, 64)])
def test_whole_radii_are_scipys_grey_morphology(
    shape: str, radius: int, size: tuple[int, int]
) -> None:
    if radius > 4 * max(size):
        pytest.skip("SciPy gives values that are not in the matte there")
    matte = RNG.random(size, np.float32)
    foot = footprint(radius, shape)
    np.testing.assert_array_equal(
        morph.grown(matte, radius, shape), ndimage.grey_dilation(matte, footprint=foot)
    )
    np.testing.assert_array_equal(
        morph.grown(matte, -radius, shape), ndimage.grey_erosion(matte, footprint=foot)
    )


@pytest.mark.parametrize("shape", ["disc", "square"])
def test_a_matte_grows_with_the_amount_and_without_jumps(shape: str) -> None:
    matte = RNG.random((48, 64), np.float32)
    last = morph.grown(matte, -3.0, shape)
    for amount in np.arange(-2.95, 3.0, 0.05):
        now = morph.grown(matte, float(amount), shape)
        assert (now >= last - 1e-6).all()
        assert (now - last).max() < 0.06  # a twentieth of a pixel at the most
        last = now


def test_grown_by_five_percent_all_is_white_and_shrunk_all_is_black() -> None:
    # Like in a smoke dissolve: a noise with a threshold, grown until white, shrunk until black.
    matte = (ndimage.gaussian_filter(RNG.random((90, 160)), 1) > 0.5).astype(np.float32)
    assert run("grow", matte, amount=10).min() == 1
    assert run("grow", matte, amount=-10).max() == 0


def test_feather_is_a_gaussian_and_keeps_to_its_side() -> None:
    step = np.zeros((60, 100), np.float32)
    step[:, 50:] = 1
    across = run("feather", step, size=5)
    expected = ndimage.gaussian_filter1d(step, 3.0, axis=1, mode="nearest")
    np.testing.assert_allclose(across, expected, atol=0.005)
    inside, outside = run("feather", step, size=5, side="inside"), None
    outside = run("feather", step, size=5, side="outside")
    assert inside[:, :50].max() < 0.15
    assert (inside <= across + 1e-6).all()
    assert outside[:, 50:].min() > 0.85
    assert (outside >= across - 1e-6).all()


@pytest.mark.parametrize(
    ("where", "first", "last"), [("across", 45, 54), ("outside", 40, 49), ("inside", 50, 59)]
)
def test_a_rim_lies_where_it_is_asked_for(where: str, first: int, last: int) -> None:
    step = np.zeros((100, 100), np.float32)
    step[:, 50:] = 1
    band = run("rim", step, width=10, side=where)
    np.testing.assert_array_equal(np.flatnonzero(band[50] > 0.5), np.arange(first, last + 1))


def test_mattes_cut_pictures_as_they_are_told() -> None:
    alpha = np.array([0, 0.5, 1], np.float32)
    colour = np.array([0.2, 0.4, 0.8], np.float32)
    picture = np.concatenate([alpha[:, None] * colour, alpha[:, None]], 1)[None]
    matte = np.full((1, 3), 0.25, np.float32)
    for how, expected in (
        ("multiply", alpha * 0.25), ("set", [0.25] * 3), ("limit to", np.minimum(alpha, 0.25)),
        ("cut away", np.minimum(alpha, 0.75)),
    ):  # fmt: skip
        found = run("matte-to-alpha", picture, inputs={"matte": matte}, operation=how)
        np.testing.assert_allclose(found[0, :, 3], expected, atol=1e-6)
        straight = found[0, 1:, :3] / found[0, 1:, 3:]
        np.testing.assert_allclose(straight, [colour, colour], atol=1e-6)


def test_matte_maths_agrees_with_sets_on_hard_mattes() -> None:
    a, b = RNG.random((2, 20, 30)) > 0.5
    ours = (a.astype(np.float32), b.astype(np.float32))
    for how, expected in (
        ("union", a | b), ("intersect", a & b), ("subtract", a & ~b), ("exclusive-or", a ^ b),
    ):  # fmt: skip
        for smooth in (False, True):
            found = run(
                "matte-maths", ours[0], inputs={"other": ours[1]}, operation=how, smooth=smooth
            )
            np.testing.assert_array_equal(found, expected)
