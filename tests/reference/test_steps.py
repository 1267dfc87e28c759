"""Tone, blur and ramps against references outside the project."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import ndimage
from skimage.filters import gaussian as skimage_gaussian

from pale_static.core import Engine, Materials, Size, StillPicture, read_effect
from pale_static.core.faults import Missing
from pale_static.core.kernels.filters import mixing
from pale_static.core.pictures.colour import to_encoded, to_linear
from pale_static.core.pictures.softening import gaussian

from ..core.documents import SIZE, at, chain, slot

RNG = np.random.default_rng(5)
MODES = {"clamp": "nearest", "mirror": "reflect", "repeat": "wrap", "clear": "constant"}


@pytest.mark.parametrize("sigma", [0.6, 2.0, 9.0, 10.5, 23.0, 60.0])
@pytest.mark.parametrize("outside", MODES)
def test_blur_is_the_true_gaussian_within_half_a_percent(sigma: float, outside: str) -> None:
    matte = (RNG.random((130, 170)) > 0.5).astype(np.float32)
    matte[40:90, 60:110] = 1
    # Source: scipy.ndimage.gaussian_filter.
    expected = ndimage.gaussian_filter(
        matte.astype(np.float64), sigma, mode=MODES[outside], truncate=6
    )
    assert np.abs(gaussian(matte, sigma, outside) - expected).max() < 0.005


@pytest.mark.parametrize("sigma", [3.0, 15.0])
def test_the_impulse_response_has_the_right_variance(sigma: float) -> None:
    matte = np.zeros((201, 201), np.float32)
    matte[100, 100] = 1
    found = gaussian(matte, sigma).astype(np.float64)
    x = np.arange(201) - 100
    assert found.sum() == pytest.approx(1, abs=2e-3)
    assert (found.sum(0) * x * x).sum() / found.sum() == pytest.approx(sigma**2, rel=0.01)
    # Source: skimage.filters.gaussian.
    assert np.abs(found - skimage_gaussian(matte, sigma, truncate=6)).max() < found.max() * 0.005


def test_blur_treats_picture_channels_alike_and_leaves_no_dark_halo() -> None:
    picture = np.zeros((60, 60, 4), np.float32)
    picture[20:40, 20:40] = (1, 0.5, 0.25, 1)
    found = gaussian(picture, 4.0)
    lit = found[..., 3] > 0.01
    straight = found[lit][:, :3] / found[lit][:, 3:]
    assert np.abs(straight - (1, 0.5, 0.25)).max() < 1e-3


def test_levels_are_the_common_formula() -> None:
    # Common practice: out = low + t^(1/gamma)·(high − low), t = (in − black)/(white − black).
    values = {"black_in": 0.1, "white_in": 0.8, "gamma": 1.7, "black_out": 0.2, "white_out": 0.9}
    engine = Engine()
    noise = {"kind": "noise", "values": {"hardness": 3}}
    plain = engine.evaluate(chain(noise), at(), SIZE).plane.astype(np.float64)
    found = engine.evaluate(chain(noise, {"kind": "levels", "values": values}), at(), SIZE).plane
    t = np.maximum((plain - 0.1) / 0.7, 0) ** (1 / 1.7)
    assert np.allclose(found, 0.2 + t * 0.7, atol=1e-5)


def test_levels_work_on_straight_colour_under_alpha() -> None:
    engine = Engine()
    found = engine.evaluate(
        chain(
            {"kind": "flat", "values": {"colour": "#80402080"}},
            {"kind": "levels", "values": {"white_in": 0.5, "channels": "red"}},
        ),
        at(), SIZE,
    ).plane[0, 0]  # fmt: skip
    alpha = 128 / 255
    assert found == pytest.approx(
        (128 / 255 * 2 * alpha, 64 / 255 * alpha, 32 / 255 * alpha, alpha), abs=1e-6
    )


def test_threshold_is_a_smoothstep_and_exact_at_its_ends() -> None:
    engine = Engine()
    ramp = {"kind": "ramp"}

    def cut(level: float, softness: float) -> np.ndarray:
        step = {"kind": "threshold", "values": {"level": level, "softness": softness}}
        return engine.evaluate(chain(ramp, step), at(), SIZE).plane

    x = (np.arange(SIZE.width) + 0.5) / SIZE.width
    t = np.clip((x - 0.3) / 0.4, 0, 1)
    assert np.allclose(cut(0.5, 0.4)[3], t * t * (3 - 2 * t), atol=1e-5)
    assert (cut(0, 0.4) == 1).all()
    assert (cut(1.01, 0.4) == 0).all()
    hard = cut(0.5, 0)
    assert set(np.unique(hard)) == {0, 1}


def test_invert_turns_colour_and_keeps_alpha() -> None:
    engine = Engine()
    steps = [{"kind": "flat", "values": {"colour": "#FF800080"}}, {"kind": "invert"}]
    found = engine.evaluate(chain(*steps), at(), SIZE).plane[0, 0]
    alpha = 128 / 255
    assert found == pytest.approx((0, alpha * 127 / 255, alpha, alpha), abs=1e-6)


@pytest.mark.parametrize("shape", ["linear", "radial"])
def test_a_ramp_is_the_distance_along_it_in_pixels(shape: str) -> None:
    values = {"shape": shape, "start": [0.25, 0.5], "end": [0.75, 0.75], "beyond": "clamp"}
    found = Engine().evaluate(chain({"kind": "ramp", "values": values}), at(), SIZE).plane
    y, x = np.mgrid[0 : SIZE.height, 0 : SIZE.width] + 0.5
    a = np.array([0.25 * SIZE.width, 0.5 * SIZE.height])
    b = np.array([0.75 * SIZE.width, 0.75 * SIZE.height])
    length = np.hypot(*(b - a))
    if shape == "linear":
        t = ((x - a[0]) * (b - a)[0] + (y - a[1]) * (b - a)[1]) / length**2
    else:
        t = np.hypot(x - a[0], y - a[1]) / length
    assert np.allclose(found, np.clip(t, 0, 1), atol=1e-5)


def test_a_ramp_repeats_mirrors_and_takes_coloured_stops() -> None:
    def ramp(**values: object) -> np.ndarray:
        return Engine().evaluate(chain({"kind": "ramp", "values": values}), at(), SIZE).plane

    ends = {"start": [0.0, 0.5], "end": [0.25, 0.5]}
    x = (np.arange(SIZE.width) + 0.5) / SIZE.width * 4
    assert np.allclose(ramp(beyond="repeat", **ends)[0], x % 1, atol=1e-5)
    assert np.allclose(ramp(beyond="mirror", **ends)[0], np.abs((x + 1) % 2 - 1), atol=1e-5)
    coloured = ramp(stops=[[0, "#FF0000"], [0.5, "#00FF00"], [1, "#0000FF"]])
    assert coloured.shape == (SIZE.height, SIZE.width, 4)
    assert coloured[0, SIZE.width // 2, 1] == pytest.approx(1, abs=0.03)


def test_a_film_like_dissolve_mixes_linear_light() -> None:
    steps = [
        {"kind": "flat", "values": {"colour": "#204060"}},
        {"kind": "dissolve", "values": {"progress": 0.3, "style": "film-like"}, "inputs": {"incoming": {"lane": "other"}}},
    ]  # fmt: skip
    flat = {"id": "f", "kind": "flat", "values": {"colour": "#C0A010"}}
    lanes = [{"id": "other", "name": "Other", "steps": [flat]}]
    lanes.append(
        {"id": "out", "name": "Out", "steps": [{"id": f"s{k}"} | s for k, s in enumerate(steps)]}
    )
    effect = read_effect({"name": "Film", "kind": "texture", "lanes": lanes})
    found = Engine().evaluate(effect, at(), Size(4, 4)).plane[0, 0, :3]
    one, two = (np.array(c) / 255 for c in ((0x20, 0x40, 0x60), (0xC0, 0xA0, 0x10)))
    assert found == pytest.approx(to_encoded(to_linear(one) * 0.7 + to_linear(two) * 0.3), abs=1e-5)


def numpy_wipe(a, b, m, edge, s, rim, rim_soft, colour):  # type: ignore[no-untyped-def]
    """The wipe in plain NumPy: the kernel's reference."""
    m = np.clip(m, 0, 1)
    w = np.clip((edge - m) / s, 0, 1) if s else (m < edge).astype(float)
    out = a + w[..., None] * (b - a)
    if rim:
        t = np.clip(1 - (np.abs(edge - s / 2 - m) - rim / 2) / rim_soft, 0, 1)
        band = (t * t * (3 - 2 * t))[..., None]
        out = out * (1 - band * colour[3]) + np.array(colour) * band
    return out


@pytest.mark.parametrize("s", [0.0, 0.1, 2.0])
@pytest.mark.parametrize("rim", [0.0, 0.08])
def test_the_wipe_kernel_keeps_to_its_definition(s: float, rim: float) -> None:
    a, b = RNG.random((2, 30, 40, 4), np.float32)
    m = RNG.random((30, 40), np.float32) * 1.2 - 0.1
    for p in (0.1, 0.5, 0.9):
        numbers = (p * (1 + s), s, rim, 0.05, (0.5, 0.25, 0.1, 0.5))
        found = mixing.wipe(a, b, m, *numbers)
        assert np.abs(found - numpy_wipe(a, b, m, *numbers)).max() < 2e-4


def test_channels_are_swapped_as_plain_indexing_does() -> None:
    pixels = RNG.integers(0, 256, (20, 30, 4)).astype(np.uint8)
    pixels[..., 3] |= 1  # nothing completely clear, because its colour would be lost
    materials = Materials({"clip": StillPicture("swap", pixels)})
    values = {
        "output": "picture", "red": "blue", "green": "alpha", "blue": "white", "alpha": "luminance",
    }  # fmt: skip
    effect = chain(slot("clip"), {"kind": "channel", "values": values}, kind="look",
                   slots=[{"id": "clip", "name": "Clip"}])  # fmt: skip
    found = Engine().evaluate(effect, at(), Size(30, 20), materials=materials).picture
    straight = pixels / 255
    # Rec. ITU-R BT.709-6, item 3.2.
    alpha = straight[..., :3] @ [0.2126, 0.7152, 0.0722]
    expected = np.stack([straight[..., 2], straight[..., 3], np.ones_like(alpha), alpha], -1)
    expected[..., :3] *= alpha[..., None]
    assert np.abs(found - expected).max() < 2e-6


@pytest.mark.parametrize("take", [1, 2, 3])
def test_choose_gives_the_one_that_is_asked_for_and_computes_no_other(take: int) -> None:
    colours = ("#FF0000", "#00FF00", "#0000FF")
    lanes = [
        {
            "id": f"c{k}",
            "name": f"C{k}",
            "steps": [{"id": "f", "kind": "flat", "values": {"colour": c}}],
        }
        for k, c in enumerate(colours)
    ]
    choose = {"id": "x", "kind": "choose", "values": {"choice": take},
              "inputs": {"second": {"lane": "c1"}, "third": {"lane": "c2"}}}  # fmt: skip
    first = {"id": "a", "kind": "continue-from", "inputs": {"from": {"lane": "c0"}}}
    lanes.append({"id": "out", "name": "Out", "steps": [first, choose]})
    effect = read_effect({"name": "Choose", "kind": "texture", "lanes": lanes})
    result = Engine().evaluate(effect, at(), SIZE)
    assert tuple(result.picture[0, 0, :3]) == tuple(float(k == take - 1) for k in range(3))
    computed = {str(cost.place) for cost in result.costs}
    assert sum(f"c{k}" in place for k in range(3) for place in computed) == 1


def test_choosing_what_has_no_source_says_so() -> None:
    effect = chain({"kind": "flat"}, {"kind": "choose", "values": {"choice": 4}})
    with pytest.raises(Missing, match="picture 4, but “fourth” has no source"):
        Engine().evaluate(effect, at(), SIZE)


def test_a_toggle_picks_one_of_two_numbers() -> None:
    flat = {"kind": "flat", "values": {"colour": "#FFFFFF"}}
    levels = {"kind": "levels", "values": {"white_out": {"control": "dark", "range": [1, 0.25]}}}
    control = {"slug": "dark", "label": "Dark", "type": "toggle", "default": False}
    effect = chain(flat, levels, controls=[control])
    light, dark = (
        Engine().evaluate(effect, at(), SIZE, settings={"dark": on}).picture[0, 0, 0]
        for on in (False, True)
    )
    assert (light, dark) == (1, 0.25)
