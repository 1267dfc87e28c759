"""Kernels against plain NumPy, their reference."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_static.core.kernels.colour import convert, tone
from pale_static.core.kernels.filters import blending, film, mixing
from pale_static.core.kernels.rows import cores, over, set_threads

RNG = np.random.default_rng(9)
SHAPES = [(1, 1), (3, 5), (33, 17), (200, 64)]


def picture(shape: tuple[int, int]) -> np.ndarray:
    alpha = RNG.random((*shape, 1), np.float32)
    alpha[RNG.random((*shape, 1)) < 0.2] = 0
    alpha[RNG.random((*shape, 1)) < 0.2] = 1
    return np.concatenate([RNG.random((*shape, 3), np.float32) * alpha, alpha], -1)


@pytest.mark.parametrize("shape", SHAPES)
def test_channels_and_greys(shape: tuple[int, int]) -> None:
    source = picture(shape)
    planes = [
        source[..., :3] @ np.array([0.2126, 0.7152, 0.0722]),
        *(source[..., k] for k in (3, 0, 1, 2)),
    ]
    for which, expected in enumerate(planes):
        assert np.allclose(convert.channel(source, which, False), expected, atol=1e-6)
        assert np.allclose(convert.channel(source, which, True), 1 - expected, atol=1e-6)
    matte = source[..., 0]
    assert (convert.grey(matte)[..., :3] == matte[..., None]).all()
    assert (convert.grey(matte)[..., 3] == 1).all()


@pytest.mark.parametrize("shape", SHAPES)
def test_what_is_shown_is_the_picture_over_its_weave(shape: tuple[int, int]) -> None:
    source = picture(shape)
    y, x = np.mgrid[: shape[0], : shape[1]]
    weave = np.where((y // 8 + x // 8) % 2, 112, 124)[..., None]
    expected = np.floor(source[..., :3] * 255 + (1 - source[..., 3:]) * weave + 0.5)
    found = convert.show(source)
    assert np.abs(found - expected).max() <= 1
    black = np.floor(source[..., :3] * 255 + 0.5)
    assert np.abs(convert.show(source, cell=0) - black).max() <= 1


@pytest.mark.parametrize("shape", SHAPES)
def test_mixes_and_sums(shape: tuple[int, int]) -> None:
    one, two = picture(shape), picture(shape)
    assert np.allclose(mixing.mix(one, two, 0.3), one + 0.3 * (two - one), atol=1e-6)
    assert np.allclose(mixing.add(one, two), one + two)
    mattes = one[..., 0], two[..., 0]
    assert np.allclose(
        mixing.mix(*mattes, 0.7), mattes[0] + 0.7 * (mattes[1] - mattes[0]), atol=1e-6
    )


@pytest.mark.parametrize("mode", blending.MODES)
def test_mattes_blend_as_opaque_greys_do(mode: str) -> None:
    one, two, mask = RNG.random((3, 20, 30), np.float32)
    for matte in (None, mask):
        expected = blending.blend(convert.grey(one), convert.grey(two), mode, 0.6, matte)
        found = blending.blend(one, two, mode, 0.6, matte)
        assert np.abs(found - expected[..., 0]).max() < 2e-5, mode


@given(
    st.floats(0, 1), st.floats(0, 1), st.floats(0, 0.3), st.floats(0, 0.3), st.floats(0, 1)
)  # fmt: skip
def test_the_wipe_in_8_bits_is_the_wipe(
    p: float, s: float, rim: float, soft: float, alpha: float
) -> None:
    below, above = RNG.integers(0, 256, (2, 9, 13, 3), dtype=np.uint8)
    matte = RNG.random((9, 13), np.float32)
    numbers = (p * (1 + s), s, rim, soft, (0.9 * alpha, 0.4 * alpha, 0.1 * alpha, alpha))
    full = mixing.wipe(convert.widen(below), convert.widen(above), matte, *numbers)
    eight = mixing.wipe_bytes(below, above, matte, *numbers)
    assert np.abs(convert.show(full).astype(int) - eight).max() <= 1


@pytest.mark.parametrize("shape", SHAPES)
def test_colours_come_from_a_table_by_place(shape: tuple[int, int]) -> None:
    place = RNG.random(shape, np.float32) * 1.4 - 0.2
    table = RNG.random((9, 4), np.float32)
    held = np.clip(place, 0, 1)
    for c in range(4):
        expected = np.interp(held, np.linspace(0, 1, 9), table[:, c])
        assert np.allclose(tone.coloured(place, table)[..., c], expected, atol=1e-5)


def test_levels_on_one_channel_leave_the_others() -> None:
    source = picture((12, 12))
    found = tone.levels(source, (0.1, 2.0, 1.0, 0.0, 1.0), channel=1)
    assert np.allclose(found[..., [0, 2, 3]], source[..., [0, 2, 3]], atol=1e-6)


def test_spots_of_light_add_up_and_stay_within_their_reach() -> None:
    light = np.zeros((60, 80, 3), np.float32)
    table = np.linspace(1, 0, 101, dtype=np.float32)
    film.add_spot(light, (40, 30), 5, 2.0, (1.0, 0.5, 0.25), table)
    y, x = np.mgrid[:60, :80] + 0.5
    far = ((x - 40) ** 2 + (y - 30) ** 2) / 100
    assert np.abs(light[..., 0] - np.clip(1 - far, 0, None)).max() < 0.02
    assert np.allclose(light[..., 1], light[..., 0] / 2, atol=1e-6)
    before = light.copy()
    film.add_spot(light, (-500, 30), 5, 2.0, (1, 1, 1), table)
    assert (light == before).all()


def test_rows_are_shared_out_whole_whatever_the_threads() -> None:
    for threads in (1, 2, 5):
        set_threads(threads)
        try:
            for height in (1, 15, 16, 33, 1080):
                seen = np.zeros(height, int)

                def mark(first: int, last: int, seen: np.ndarray = seen) -> None:
                    seen[first:last] += 1

                over(mark, height)
                assert (seen == 1).all()
        finally:
            set_threads(cores())
