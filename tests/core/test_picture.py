"""Pictures in and out of 8 and 16 bits, channels, and how a picture fits a frame."""

from __future__ import annotations

from typing import Any

import colour
import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_static.core import Fault, Size, to_pixels
from pale_static.core.faults import TooLarge
from pale_static.core.kernels.colour import convert
from pale_static.core.pictures.borders import Outside
from pale_static.core.pictures.colour import format_colour, parse_colour, to_encoded, to_linear
from pale_static.core.pictures.picture import as_matte, fit, from_pixels


def test_transfer_round_trips_and_agrees_with_colour_science() -> None:
    values = np.linspace(0, 1, 4001)
    assert np.abs(to_encoded(to_linear(values)) - values).max() <= 1e-6
    # Source: colour-science, IEC 61966-2-1.
    assert np.abs(to_linear(values) - colour.models.eotf_sRGB(values)).max() < 1e-7
    assert to_linear(np.array([0.5]))[0] == pytest.approx(0.21404114, abs=1e-7)


def test_luminance_is_weighted_after_rec_709() -> None:
    # Rec. ITU-R BT.709-6, item 3.2.
    picture = np.zeros((1, 3, 4), np.float32)
    picture[0, [0, 1, 2], [0, 1, 2]] = 1
    assert as_matte(picture)[0] == pytest.approx([0.2126, 0.7152, 0.0722], abs=1e-6)


@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
def test_pixels_round_trip_exactly(kind: type) -> None:
    rng = np.random.default_rng(1)
    top = np.iinfo(kind).max
    pixels = rng.integers(0, top + 1, (31, 17, 4), dtype=kind)
    pixels[..., 3] = np.maximum(pixels[..., 3], top // 4)
    back = to_pixels(from_pixels(pixels), 8 if kind is np.uint8 else 16)
    assert np.abs(back.astype(int) - pixels).max() <= (0 if kind is np.uint8 else 1)
    opaque = from_pixels(pixels[..., :3])
    assert (opaque[..., 3] == 1).all()
    assert (to_pixels(opaque, 8 if kind is np.uint8 else 16)[..., :3] == pixels[..., :3]).all()


def test_output_is_rounded_and_dithering_keeps_the_mean() -> None:
    flat = np.full((64, 64, 4), 100.4 / 255, np.float32)
    flat[..., 3] = 1
    assert (to_pixels(flat)[..., 0] == 100).all()
    flat[..., :3] = 100.6 / 255
    assert (to_pixels(flat)[..., 0] == 101).all()
    assert to_pixels(flat, dither=True)[..., 0].mean() == pytest.approx(100.6, abs=0.02)


def test_a_picture_fits_by_its_rule() -> None:
    pixels = np.zeros((50, 100, 3), np.uint8)
    pixels[:, :50] = 200
    cover = fit(pixels, Size(60, 60), "cover")
    assert cover.shape == (60, 60, 4)
    assert (cover[..., 3] == 1).all()
    contain = fit(pixels, Size(60, 60), "contain")
    assert (contain[:14, :, 3] == 0).all()
    assert (contain[16:44, :, 3] == 1).all()
    stretch = fit(pixels, Size(20, 80), "stretch")
    assert stretch[:, :9, 0].min() > 0.7
    actual = fit(pixels, Size(200, 100), "actual")
    assert actual[..., 3].sum() == 50 * 100
    assert (fit(pixels, Size(100, 50), "cover") == from_pixels(pixels)).all()


def test_scaling_alpha_leaves_no_dark_rim() -> None:
    pixels = np.zeros((40, 40, 4), np.uint8)
    pixels[:, 20:] = 255
    small = to_pixels(fit(pixels, Size(9, 9), "stretch"))
    half = small[4][(small[4, :, 3] > 8) & (small[4, :, 3] < 250)]
    assert len(half)
    assert (half[:, :3] > 250).all()


@given(
    st.integers(1, 40),
    st.integers(1, 40),
    st.integers(1, 40),
    st.integers(1, 40),
    st.sampled_from(["cover", "contain", "stretch", "actual"]),
)
def test_any_shape_fits_any_frame(w: int, h: int, fw: int, fh: int, rule: str) -> None:
    out = fit(np.full((h, w, 3), 128, np.uint8), Size(fw, fh), rule)  # type: ignore[arg-type]
    assert out.shape == (fh, fw, 4)
    if rule in ("cover", "stretch"):
        assert np.allclose(out[..., 0], 128 / 255, atol=1e-3)


def test_sizes_and_colours_are_refused_in_words() -> None:
    with pytest.raises(TooLarge, match="Choose a smaller size"):
        Size(12000, 12000)
    with pytest.raises(Fault, match="960x540"):
        Size.parse("wide")
    with pytest.raises(Fault, match="#RRGGBB"):
        parse_colour("orange")
    assert format_colour(parse_colour("#FF8F3380")) == "#FF8F3380"


def test_making_smaller_averages_areas_as_opencv_does() -> None:
    pixels = np.random.default_rng(2).integers(0, 256, (90, 160, 3), dtype=np.uint8)
    for width, height in ((120, 67), (80, 45), (160, 30), (53, 90), (2, 2), (37, 11)):
        # Source: OpenCV, INTER_AREA.
        expected = cv2.resize(pixels, (width, height), interpolation=cv2.INTER_AREA).astype(int)
        found = convert.reduce(pixels, height, width).astype(int)
        assert np.abs(found - expected).max() <= 1


@pytest.mark.parametrize("outside", ["clear", "clamp", "mirror", "repeat"])
def test_what_lies_around_a_smaller_picture(outside: Outside) -> None:
    pixels = np.random.default_rng(1).integers(0, 256, (6, 8, 3)).astype(np.uint8)
    found = to_pixels(fit(pixels, Size(14, 10), "actual", outside))
    # Source: numpy.pad.
    modes: dict[str, Any] = {"clamp": "edge", "mirror": "symmetric", "repeat": "wrap"}
    if outside == "clear":
        assert not found[0].any()
        assert (found[2:8, 3:11, :3] == pixels).all()
    else:
        expected = np.pad(pixels, ((2, 2), (3, 3), (0, 0)), mode=modes[outside])
        assert (found[..., :3] == expected).all()
        assert (found[..., 3] == 255).all()
    # In a much larger frame the picture repeats many times.
    assert fit(pixels[:1, :1], Size(9, 7), "actual", outside).shape == (7, 9, 4)
