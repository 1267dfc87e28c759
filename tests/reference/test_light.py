"""Glows, sweeps and shadows: against SciPy, energy and formulas."""

from __future__ import annotations

from math import cos, hypot, radians, sin
from typing import Any

import colour
import numpy as np
import pytest
from scipy import ndimage

from pale_static.core.kernels.filters import glare
from pale_static.core.steps.light import spread

from .test_space import RNG, picture, run, smooth


def opaque(height: int = 120, width: int = 200) -> Any:
    out = picture(height, width)
    out[..., 3] = 1
    return out


def lamp(height: int = 180, width: int = 240) -> Any:
    """A bright disc in the dark."""
    y, x = np.mgrid[0:height, 0:width]
    out = np.zeros((height, width, 4), np.float32)
    out[..., :3] = np.clip(8.5 - np.hypot(x - width / 2, y - height / 2), 0, 1)[..., None]
    out[..., 3] = 1
    return out


def light(plane: Any) -> Any:
    """IEC 61966-2-1 as colour-science has it."""
    return colour.models.eotf_sRGB(np.asarray(plane, np.float64))


def test_light_and_code_are_srgbs_curves_within_a_millionth() -> None:
    values = np.linspace(0, 1.99, 160 * 90).astype(np.float32)
    plane = np.zeros((90, 160, 4), np.float32)
    plane[..., 0] = values.reshape(90, 160)
    plane[..., 3] = 1
    # Source: IEC 61966-2-1 as colour-science has it.
    codes = colour.models.eotf_inverse_sRGB(plane[..., 0].astype(np.float64))
    assert np.abs(glare.shown(plane, True)[..., 0] - codes).max() < 1e-6
    lights = light(plane[..., 0])
    found = glare.bright(plane, 0.0, 0.0, True)[..., 0]
    assert np.abs(found - lights)[plane[..., 0] <= 1].max() < 1e-6
    assert (np.abs(found - lights) / np.maximum(lights, 1)).max() < 2e-6
    # A value outside the range makes its row use the formula itself; below 0 the curve is mirrored.
    plane[40, 7, 0] = 5.0
    far = glare.shown(plane, True)[40, :, 0]
    assert far[7] == pytest.approx(float(colour.models.eotf_inverse_sRGB(5.0)), rel=2e-6)
    assert np.abs(np.delete(far - codes[40], 7)).max() < 4e-6
    assert np.array_equal(glare.shown(-plane, True)[..., 0], -glare.shown(plane, True)[..., 0])


@pytest.mark.parametrize("sigma", [2.0, 4.0, 9.0, 21.0])
def test_light_spreads_as_scipys_gaussian_with_nothing_beyond_the_frame(sigma: float) -> None:
    source = lamp()[..., :3]
    found = run("glow", lamp(), threshold=0.0, softness=0.0, size=sigma / 1.8, sizes=1,
                linear_light=False, output="light alone")[..., :3]  # fmt: skip
    expected = ndimage.gaussian_filter(
        source.astype(float), (sigma, sigma, 0), mode="constant", truncate=5
    )
    assert np.abs(found - expected).max() < 0.03 * expected.max()


def test_sizes_are_the_mean_of_gaussians_half_as_large_each() -> None:
    source = lamp()[..., :3]
    small = spread(source, [16.0, 8.0, 4.0])
    expected = np.mean([
        ndimage.gaussian_filter(source.astype(float), (s, s, 0), mode="constant", truncate=5)
        for s in (16.0, 8.0, 4.0)
    ], 0)  # fmt: skip
    reduced = expected.reshape(90, 2, 120, 2, 3).mean((1, 3))
    assert small.shape == reduced.shape
    assert np.abs(small - reduced).max() < 0.03 * reduced.max()


@pytest.mark.parametrize("shape", ["round", "star", "along an angle"])
@pytest.mark.parametrize("gain", [0.5, 2.0])
def test_a_glow_that_keeps_energy_keeps_the_sum_of_light(shape: str, gain: float) -> None:
    before = lamp()
    after = run("glow", before, threshold=0.3, size=5, gain=gain, shape=shape, angle=30,
                rays=3, keep_energy=True)  # fmt: skip
    assert light(after[..., :3]).sum() == pytest.approx(light(before[..., :3]).sum(), rel=0.01)
    assert np.abs(after - before).max() > 0.1


def test_a_glow_adds_light_in_linear_light() -> None:
    main = lamp()
    shed = run("glow", main, threshold=0.2, size=6, output="light alone")
    found = run("glow", main, threshold=0.2, size=6)
    expected = colour.models.eotf_inverse_sRGB(light(main[..., :3]) + light(shed[..., :3]))
    np.testing.assert_allclose(found[..., :3], expected, atol=2e-5)


def test_a_star_shines_along_its_lines() -> None:
    # The star's reach from the lamp, along its lines and between them.
    found = run("glow", lamp(), threshold=0.3, size=16, sizes=2, shape="star", rays=2, angle=20,
                output="light alone")[..., 0]  # fmt: skip
    along, between = (
        found[int(90 + 60 * sin(radians(turn))), int(120 + 60 * cos(radians(turn)))]
        for turn in (20, 65)
    )
    assert along > 0.03
    assert along > 20 * between
    # Two lines lie at right angles.
    other = found[int(90 + 60 * sin(radians(110))), int(120 + 60 * cos(radians(110)))]
    assert other == pytest.approx(along, rel=0.1)


def test_a_bloom_keeps_energy_and_veils_the_dark() -> None:
    before = lamp()
    after = run("bloom", before, amount=0.5, threshold=0.2, reach=6)
    assert light(after[..., :3]).sum() == pytest.approx(light(before[..., :3]).sum(), rel=0.01)
    assert after[90, 140, 0] > 0.02 > before[90, 140, 0]


def test_light_over_nothing_looks_the_same_over_black() -> None:
    title = lamp()
    title[..., 3] = title[..., 0]
    found = run("glow", title, size=5, gain=2)
    solid = title.copy()
    solid[..., 3] = 1
    over_black = run("glow", solid, size=5, gain=2)
    np.testing.assert_allclose(found[..., :3], over_black[..., :3], atol=1e-6)
    # As a straight picture it holds no colour above 1 in clear areas.
    assert (found[..., 3] >= np.minimum(found[..., :3].max(-1), 1) - 1e-6).all()


def test_a_sweep_is_wholly_outside_at_both_ends_at_any_angle_shape_and_softness() -> None:
    chance = np.random.default_rng(11)
    sizes = [(54, 96), (96, 54), (60, 60), (40, 93)]
    for k in range(200):
        main = opaque(*sizes[k % 4])
        values = {
            "angle": chance.uniform(-180, 180), "width": chance.uniform(0.5, 150),
            "softness": chance.uniform(0, 1), "second": float(k % 2), "gap": chance.uniform(0, 60),
            "second_width": chance.uniform(0.05, 1), "bend": chance.uniform(-60, 60),
            "falloff": ("even", "smooth", "sharp")[k % 3],
            "mode": ("add", "screen", "normal", "soft light")[k % 4], "intensity": 2.0,
        }  # fmt: skip
        inputs = {"surface": smooth(*main.shape[:2])} if k % 5 < 3 else {}
        for progress in (0.0, 1.0):
            found = run("light-sweep", main, progress=progress, inputs=inputs, **values)
            assert np.abs(found - main).max() <= 1e-6, values


def test_a_sweep_has_its_profile_across_the_frame() -> None:
    main = np.zeros((100, 160, 4), np.float32)
    main[..., 3] = 1
    found = run("light-sweep", main, progress=0.5, angle=30, width=40, softness=0.5,
                falloff="smooth")[..., 0]  # fmt: skip
    y, x = np.mgrid[0:100, 0:160] + 0.5
    # Halfway, the middle of the band lies on the middle of the frame.
    d = (x - 80) * cos(radians(30)) + (y - 50) * sin(radians(30))
    u = np.clip((1 - np.abs(d) / 20) / 0.5, 0, 1)
    np.testing.assert_allclose(found, u * u * (3 - 2 * u), atol=1e-4)


def test_a_sweep_keeps_to_the_picture_and_to_its_limit() -> None:
    main = np.zeros((90, 160, 4), np.float32)
    main[30:60, 40:120] = 0.5, 0.5, 0.5, 1
    values = {"progress": 0.5, "width": 100.0, "angle": 0.0}
    found = run("light-sweep", main, **values)
    assert np.abs(found - main)[main[..., 3] == 0].max() == 0
    assert found[45, 80, 0] > 0.9
    limit = np.zeros((90, 160), np.float32)
    limit[:, 80:] = 1
    found = run("light-sweep", main, inputs={"limit": limit}, **values)
    assert np.abs(found - main)[:, :80].max() == 0
    assert found[45, 84, 0] > 0.9


def test_a_sweep_reaches_what_stands_out_earlier() -> None:
    main = np.zeros((100, 200, 4), np.float32)
    main[..., 3] = 1
    surface = np.zeros((100, 200), np.float32)
    surface[50:] = 1
    found = run("light-sweep", main, progress=0.5, angle=0, width=10, bend=20, detail=0,
                inputs={"surface": surface})[..., 0]  # fmt: skip
    low, raised = (found[row].argmax() for row in (10, 90))
    # The band bends by 20 % of the height, forward where it stands out.
    assert raised - low == pytest.approx(20, abs=1)


def test_a_vignette_leaves_the_middle_and_darkens_the_corners() -> None:
    main = opaque(90, 160)
    found = run("vignette", main, amount=0.8, size=1.0, softness=0.5, roundness=0.0)
    np.testing.assert_array_equal(found[40:50, 70:90], main[40:50, 70:90])
    np.testing.assert_allclose(found[0, 0, :3], main[0, 0, :3] * 0.2, atol=0.02)
    round_one = run("vignette", main, amount=0.8, size=1.0, softness=0.5, roundness=1.0)
    # A circle of half the diagonal: darker at the sides than at the top, by their distance.
    r = np.array([hypot(45, 0), hypot(80, 0)]) / hypot(80, 45)
    t = np.clip((r - 0.5) / 0.5, 0, 1)
    expected = 1 - 0.8 * t * t * (3 - 2 * t)
    shades = [round_one[0, 80, 0] / main[0, 80, 0], round_one[45, 0, 0] / main[45, 0, 0]]
    np.testing.assert_allclose(shades, expected, atol=0.02)


def card(height: int = 100, width: int = 160) -> Any:
    out = np.zeros((height, width, 4), np.float32)
    out[40:60, 60:90] = 0.8, 0.4, 0.2, 1
    return out


def test_a_soft_shadow_is_the_shape_moved_and_softened_under_the_picture() -> None:
    found = run("shadow", card(), distance=10, angle=0, size=2, opacity=0.5, alone=True)
    moved = np.zeros((100, 160))
    moved[40:60, 70:100] = 1
    expected = 0.5 * ndimage.gaussian_filter(moved, 2, mode="constant")
    np.testing.assert_allclose(found[..., 3], expected, atol=3e-3)
    over = run("shadow", card(), distance=10, angle=0, size=2, opacity=0.5)
    np.testing.assert_allclose(over[40:60, 60:90], card()[40:60, 60:90], atol=1e-6)


def test_a_long_shadow_is_all_places_on_its_way() -> None:
    found = run("shadow", card(), form="long", distance=30, angle=45, size=0, opacity=1, alone=True)
    shape = card()[..., 3]
    expected = np.max([ndimage.shift(shape, (s * 0.5**0.5, s * 0.5**0.5), order=1)
                       for s in np.linspace(0, 30, 121)], 0)  # fmt: skip
    assert np.abs(found[..., 3] - expected).mean() < 0.004
    faded = run("shadow", card(), form="long", distance=30, angle=90, fade=1, size=0, opacity=1,
                alone=True)[..., 3]  # fmt: skip
    # Straight down under the card it fades by the same amount on every row.
    np.testing.assert_allclose(faded[60:89, 75], 1 - np.arange(1, 30) / 30, atol=0.02)


def test_an_inner_shadow_stays_inside() -> None:
    found = run("shadow", card(), form="inner", distance=4, angle=0, size=1, opacity=1)
    outside = card()[..., 3] == 0
    assert np.abs(found[outside]).max() < 1e-6
    # It lies along the side that faces the light.
    assert found[50, 61, 0] < 0.1
    assert found[50, 80, 0] == pytest.approx(0.8, abs=1e-3)


def test_a_step_that_does_nothing_gives_the_same_bits() -> None:
    main = RNG.random((40, 60, 4), np.float32)
    for kind, values in (("glow", {"gain": 0.0}), ("bloom", {"amount": 0.0})):
        assert run(kind, main, **values) is main
