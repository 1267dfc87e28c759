"""Screens and dithers against Murray and Davies, Bayer, Floyd and Steinberg, Pillow."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from PIL import Image
from scipy.ndimage import gaussian_filter

from pale_static.core.kernels.texture import dots, screens

from .test_space import RNG, run


def flat(tone: float, height: int = 400, width: int = 400) -> Any:
    """Opaque grey of a darkness."""
    picture = np.full((height, width, 4), 1 - tone, np.float32)
    picture[..., 3] = 1
    return picture


def inked(picture: Any) -> float:
    """Share of black ink on white paper."""
    return 1 - float(picture[..., 0].mean())


@pytest.mark.parametrize("dot", dots.DOTS)
@pytest.mark.parametrize("angle", [0.0, 15.0, 45.0, 75.0])
def test_a_flat_tone_prints_as_that_much_ink(dot: str, angle: float) -> None:
    # Murray & Davies 1936: area coverage = tone, within 1 %, at 5 % steps, also for overlapping
    # dots.
    for tone in np.arange(0, 1.001, 0.05):
        found = run("halftone", flat(float(tone)), dot=dot, angle=angle, cell=2.5,
                    ink="#000000", paper="#FFFFFF")  # fmt: skip
        assert inked(found) == pytest.approx(tone, abs=0.01)


@pytest.mark.parametrize("tone", [0.1, 0.35, 0.5, 0.8])
def test_lines_and_crossed_lines_print_their_tone(tone: float) -> None:
    for crossed in (False, True):
        found = run("line-screen", flat(tone), cell=3, crossed=crossed, angle=30.0,
                    ink="#000000", paper="#FFFFFF")  # fmt: skip
        assert inked(found) == pytest.approx(tone, abs=0.012)


def test_the_screens_angle_is_where_the_spectrum_peaks() -> None:
    for angle in (0.0, 15.0, 40.0):
        found = run("halftone", flat(0.3), dot="round", angle=angle, cell=4.0)[..., 0]
        power = np.abs(np.fft.fftshift(np.fft.fft2(found - found.mean()))) ** 2
        y, x = np.unravel_index(power.argmax(), power.shape)
        turn = np.degrees(np.arctan2(y - 200, x - 200)) % 90
        assert min(abs(turn - angle), 90 - abs(turn - angle)) < 1.5
        assert np.hypot(y - 200, x - 200) == pytest.approx(400 / 16, rel=0.04)


def test_four_inks_come_near_the_colour_and_stand_at_their_angles() -> None:
    grey = run("halftone", flat(0.5), inks="cmyk", cell=2.0)
    assert np.ptp(grey[..., :3].mean((0, 1))) < 0.05
    white = run("halftone", flat(0.0), inks="cmyk", paper="#FFFFFF")
    assert white[..., :3].min() == 1
    from pale_static.core.steps.printing import CMYK_ANGLES

    assert CMYK_ANGLES == (15.0, 75.0, 0.0, 45.0)  # common practice


def test_halftone_keeps_alpha() -> None:
    thin = flat(0.4, 40, 60) * np.float32(0.5)
    found = run("halftone", thin)
    np.testing.assert_array_equal(found[..., 3], 0.5)
    assert found[..., :3].max() <= 0.5


BAYER_4 = np.array([[0, 8, 2, 10], [12, 4, 14, 6], [3, 11, 1, 9], [15, 7, 13, 5]])


def test_ordered_matrices_are_bayers() -> None:
    # Bayer 1973, the matrix of four (from memory).
    np.testing.assert_array_equal(screens.bayer(4) * 16 - 0.5, BAYER_4)
    for side in (2, 8, 16):
        values = np.sort(screens.bayer(side).ravel() * side * side - 0.5)
        np.testing.assert_allclose(values, np.arange(side * side))


@pytest.mark.parametrize("method", ["ordered", "blue noise", "diffusion"])
@pytest.mark.parametrize("levels", [2, 4])
def test_dithers_keep_the_mean(method: str, levels: int) -> None:
    for tone in (0.1, 0.42, 0.77):
        found = run("dither", flat(tone, 128, 128), method=method, levels=levels, pixel=100 / 128,
                    matrix="16")  # fmt: skip
        assert found[..., 0].mean() == pytest.approx(1 - tone, abs=0.02)
        steps = found[..., 0] * (levels - 1)
        np.testing.assert_allclose(steps, np.rint(steps), atol=1e-5)


def test_error_diffusion_is_pillows() -> None:
    # Pillow's convert("1") is Floyd & Steinberg in serial order, in whole numbers.
    ramp = np.tile(np.linspace(0, 255, 96), (64, 1)).astype(np.uint8)
    theirs = np.asarray(Image.fromarray(ramp).convert("1"))
    ours = screens.diffused(ramp.astype(np.float32) / 255, 2) > 0.5
    # Rounding differs, and errors propagate: the picture as a whole is the same, not each pixel.
    blurred = [gaussian_filter(plane.astype(float), 4) for plane in (theirs, ours)]
    assert np.abs(blurred[0] - blurred[1]).max() < 0.03
    for column in range(0, 96, 12):
        part = slice(column, column + 12)
        assert ours[:, part].mean() == pytest.approx(theirs[:, part].mean(), abs=0.02)


def test_blue_noise_has_no_low_frequencies_and_is_always_the_same() -> None:
    mask = screens.blue()
    np.testing.assert_allclose(np.sort(mask.ravel()), (np.arange(4096) + 0.5) / 4096, atol=1e-6)
    half = (mask < 0.5).astype(float) - 0.5
    power = np.abs(np.fft.fft2(half)) ** 2
    at = np.minimum(np.arange(64), 64 - np.arange(64))
    radius = np.hypot(at[:, None], at[None])
    low, high = power[(radius > 0) & (radius < 8)].mean(), power[radius > 20].mean()
    assert low < 0.05 * high
    screens.blue.cache_clear()
    np.testing.assert_array_equal(screens.blue(), mask)


def test_raster_lines_have_their_depth_and_never_beat() -> None:
    white = flat(0.0, 400, 20)
    found = run("raster-lines", white, lines=20.0, depth=0.6)[:, 5, 0]
    assert found.max() == pytest.approx(1, abs=0.01)
    assert found.min() == pytest.approx(0.4, abs=0.01)
    for lines in (399.0, 401.0, 2000.0):
        fine = run("raster-lines", white, lines=lines, depth=0.6)[:, 5, 0]
        assert fine.mean() == pytest.approx(0.7, abs=0.01)
        assert np.ptp(fine) < 0.25


def test_inks_miss_each_other_by_what_they_are_told() -> None:
    line = np.zeros((100, 200, 4), np.float32)
    line[..., 3] = 1
    line[:, 100, :3] = 1
    found = run("misregister", line, cyan=(5, 0), magenta=(-3, 0), yellow=(0, 0))
    assert [int(found[50, :, c].argmax()) for c in range(3)] == [105, 97, 100]
    still = run("misregister", line, cyan=(0, 0), magenta=(0, 0), yellow=(0, 0))
    np.testing.assert_allclose(still, line, atol=1e-5)


def test_tape_wear_is_new_in_each_frame_and_the_same_on_every_run() -> None:
    picture = RNG.random((90, 160, 4), np.float32)
    picture[..., 3] = 1
    one, two = (run("tape-wear", picture, frame=f) for f in (3, 4))
    np.testing.assert_array_equal(one, run("tape-wear", picture, frame=3))
    assert np.abs(one - two).mean() > 0.01
    off = run("tape-wear", picture, bleed=0.0, dropouts=0.0, band=0.0, jitter=0.0)
    np.testing.assert_allclose(off, picture, atol=1e-5)


@pytest.mark.parametrize("count", [20, 300, 900])
def test_tape_wear_has_as_many_streaks_as_are_asked_for(count: int) -> None:
    black = np.zeros((864, 1536, 4), np.float32)
    black[..., 3] = 1
    seen = []
    for frame in range(4):
        streaks = run(
            "tape-wear", black, frame=frame, bleed=0.0, band=0.0, jitter=0.0, dropouts=count
        )
        # A streak starts with a jump from dark to light, in each of its three rows.
        left = np.diff(streaks[..., 0], axis=1, prepend=0.0)
        seen.append((left > 0.3).sum() / 3)
    # The number is Poisson distributed; overlapping streaks hide some.
    assert count * 0.75 < np.mean(seen) < count * 1.2


def test_grain_has_its_size_keeps_the_mean_and_favours_middle_tones() -> None:
    spread = {}
    for tone in (0.03, 0.5, 0.97):
        found = run("grain", flat(tone), amount=0.1, middle=1.0, colour=0.0)
        assert found[..., 0].mean() == pytest.approx(1 - tone, abs=0.002)
        spread[tone] = float(found[..., 0].std())
    assert spread[0.5] == pytest.approx(0.1, rel=0.02)
    assert max(spread[0.03], spread[0.97]) < 0.03
    grey = run("grain", flat(0.5), colour=0.0)
    assert np.ptp(grey[..., :3], -1).max() < 1e-6
    tinted = run("grain", flat(0.5), colour=1.0)
    assert np.ptp(tinted[..., :3], -1).mean() > 0.05
