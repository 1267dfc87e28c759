"""Tone and colour against colour-science, Pillow and standards."""

from __future__ import annotations

import colour
import numpy as np
import pytest
from PIL import Image, ImageOps

from pale_static.core.kernels.colour import tone
from pale_static.core.kernels.colour.power import code, light, power
from pale_static.core.steps.grade import hue_matrix, saturation_matrix

from .test_space import RNG, from_python, run


def opaque(height: int = 40, width: int = 60) -> np.ndarray:
    picture = RNG.random((height, width, 4), np.float32)
    picture[..., 3] = 1
    return picture


def half(picture: np.ndarray) -> np.ndarray:
    """The same straight colour at half the alpha."""
    return picture * np.float32(0.5)


STEPS = {
    "posterise": {"tone_gap": 0.2}, "solarise": {"level": 0.4}, "saturation": {"amount": 0.3},
    "hue-turn": {"turn": 70}, "tint": {}, "levels": {"gamma": 1.7, "black_in": 0.1},
    "balance": {"slope_red": 1.2, "offset_blue": -0.05, "power_green": 1.4, "saturation": 0.8},
}  # fmt: skip


@pytest.mark.parametrize("kind", STEPS)
def test_colour_steps_work_on_straight_colour(kind: str) -> None:
    picture = opaque()
    full, thin = run(kind, picture, **STEPS[kind]), run(kind, half(picture), **STEPS[kind])
    np.testing.assert_allclose(thin, half(full), atol=2e-5)
    clear = np.zeros((3, 3, 4), np.float32)
    np.testing.assert_array_equal(run(kind, clear, **STEPS[kind]), clear)


def test_powers_are_numpys_and_srgbs() -> None:
    powers, lights, codes = map(from_python, (power, light, code))
    x = np.linspace(0, 4, 4001, dtype=np.float32)
    for exponent in (0.1, 1 / 2.4, 0.5, 1.0, 2.2, 7.5):
        found = np.array([powers(v, np.float32(exponent)) for v in x])
        np.testing.assert_allclose(found, x.astype(float) ** exponent, rtol=2e-6, atol=1e-7)
    # IEC 61966-2-1 through colour-science.
    v = x[:1001] / 4 * 4
    np.testing.assert_allclose([lights(c) for c in v], colour.models.eotf_sRGB(v), atol=3e-6)
    np.testing.assert_allclose([codes(c) for c in v], colour.models.eotf_inverse_sRGB(v), atol=3e-6)


def test_value_steps_round_halves_upward_and_agree_with_pillow() -> None:
    # Common practice: 0.1 leaves eleven values.
    ramp = np.linspace(0, 1, 1001, dtype=np.float32)[None]
    found = run("posterise", ramp)
    np.testing.assert_allclose(np.unique(found.round(5)), np.arange(11) / 10, atol=1e-6)
    assert run("posterise", np.array([[0.05]], np.float32))[0, 0] == pytest.approx(0.1)
    # Pillow cuts to 2 bits: four values at equal distances, by the floor of them.
    grey = Image.fromarray(np.arange(256, dtype=np.uint8)[None])
    levels = np.unique(np.asarray(ImageOps.posterize(grey, 2)) // 64)
    ours = np.unique(run("posterise", np.asarray(grey, np.float32) / 255, tone_gap=1 / 3).round(4))
    assert len(ours) == len(levels) == 4


def test_solarising_without_softness_is_pillows() -> None:
    pixels = RNG.integers(0, 256, (30, 30), dtype=np.uint8)
    theirs = np.asarray(ImageOps.solarize(Image.fromarray(pixels), 128))
    ours = run("solarise", pixels.astype(np.float32) / 255, level=127.5 / 255, softness=0.0)
    assert np.abs(np.rint(ours * 255) - theirs).max() == 0


def test_saturation_and_hue_keep_rec_709_luminance_and_greys() -> None:
    weights = np.array([0.2126, 0.7152, 0.0722])  # Rec. ITU-R BT.709-6, item 3.2
    for matrix in (saturation_matrix(0.3), saturation_matrix(2), hue_matrix(33), hue_matrix(200)):
        np.testing.assert_allclose(weights @ matrix, weights, atol=1e-12)
        np.testing.assert_allclose(matrix @ np.ones(3), np.ones(3), atol=1e-12)
    np.testing.assert_allclose(hue_matrix(120) @ hue_matrix(240), np.eye(3), atol=1e-12)
    grey = run("saturation", opaque(), amount=0)
    np.testing.assert_allclose(grey[..., 0], grey[..., 2], atol=1e-6)


def test_balance_follows_the_cdls_order_and_clamps() -> None:
    # ASC CDL 1.2, written out: slope, offset, clamp, power, then saturation, clamp.
    picture = opaque()
    slope, offset, exponent, saturation = (1.3, 0.9, 1.0), (0.05, -0.1, 0.0), (0.8, 1.5, 1.0), 1.4
    names = ("red", "green", "blue")
    values = {f"slope_{n}": v for n, v in zip(names, slope, strict=True)}
    values |= {f"offset_{n}": v for n, v in zip(names, offset, strict=True)}
    values |= {f"power_{n}": v for n, v in zip(names, exponent, strict=True)}
    found = run("balance", picture, **values, saturation=saturation)
    x = np.clip(picture[..., :3].astype(float) * slope + offset, 0, 1) ** exponent
    grey = (x @ (0.2126, 0.7152, 0.0722))[..., None]
    np.testing.assert_allclose(
        found[..., :3], np.clip(grey + saturation * (x - grey), 0, 1), atol=5e-6
    )
    np.testing.assert_allclose(run("balance", picture), picture, atol=1e-6)


def test_two_tone_tint_mixes_by_luminance() -> None:
    picture = opaque()
    found = run("tint", picture, stops=((0.0, "#200040"), (1.0, "#FFE080")))
    luma = (picture[..., :3] @ (0.2126, 0.7152, 0.0722))[..., None]
    dark, bright = np.array([0x20, 0, 0x40]) / 255, np.array([0xFF, 0xE0, 0x80]) / 255
    np.testing.assert_allclose(found[..., :3], dark + luma * (bright - dark), atol=1e-4)


def test_a_key_takes_its_colour_at_any_brightness_and_leaves_others() -> None:
    green = np.array([0x1F, 0xA3, 0x4A]) / 255
    picture = np.ones((1, 4, 4), np.float32)
    picture[0, 0, :3], picture[0, 1, :3] = green, green * 0.9 + 0.05
    picture[0, 2, :3], picture[0, 3, :3] = (0.8, 0.5, 0.4), (0.5, 0.5, 0.5)
    matte = run("key", picture, output="matte")
    assert matte[0] == pytest.approx([0, 0, 1, 1], abs=1e-3)
    cut = run("key", picture)
    assert cut[0, :2].max() == pytest.approx(0, abs=1e-3)
    np.testing.assert_allclose(cut[0, 2:, 3], 1, atol=1e-3)


def test_the_keys_distance_is_one_in_rec_709_cb_and_cr() -> None:
    # Rec. ITU-R BT.709-6 through colour-science.
    picture = opaque(6, 9)
    weights = colour.WEIGHTS_YCBCR["ITU-R BT.709"]
    told = {"in_legal": False, "out_legal": False, "K": weights}
    plane = colour.RGB_to_YCbCr(picture[..., :3].astype(float), **told)[..., 1:]
    middle = colour.RGB_to_YCbCr(np.array([0x40, 0x80, 0xC0]) / 255, **told)[1:]
    far = np.hypot(*np.moveaxis(plane - middle, -1, 0))
    t = np.clip((far - 0.05) / 0.4, 0, 1)
    found = run("key", picture, colour="#4080C0", tolerance=0.05, softness=0.4, output="matte")
    np.testing.assert_allclose(found, t * t * (3 - 2 * t), atol=1e-5)


def test_spill_takes_the_keys_cast_off_what_stays() -> None:
    picture = np.ones((1, 2, 4), np.float32)
    # A grey with a cast from the green behind it, and a warm colour without that cast.
    picture[0, :, :3] = (0.5, 0.62, 0.53), (0.8, 0.5, 0.4)
    kept = run("key", picture, tolerance=0.01, softness=0.01, spill=0.0)
    np.testing.assert_allclose(kept, picture, atol=1e-6)
    clean = run("key", picture, tolerance=0.01, softness=0.01, spill=1.0)
    assert np.ptp(clean[0, 0, :3]) < 0.3 * np.ptp(picture[0, 0, :3])
    np.testing.assert_allclose(clean[0, 1], picture[0, 1], atol=1e-6)


def test_a_value_that_is_no_number_is_looked_up_within_the_table() -> None:
    picture = np.full((4, 9, 4), np.nan, np.float32)
    picture[..., 3] = 1
    table = np.linspace(0, 1, 257, dtype=np.float32)[:, None].repeat(4, 1)
    for found in (tone.recoloured(picture, table), tone.coloured(picture[..., 0], table)):
        assert found.shape == (4, 9, 4)
