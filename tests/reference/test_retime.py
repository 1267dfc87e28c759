"""Steps that read other frames: against explicit composition and definitions."""

from __future__ import annotations

import tracemalloc
from typing import Any

import numpy as np
import pytest
from scipy.special import j1

from pale_static.core import Engine, Materials, Moment, Size, read_effect
from pale_static.core.kernels.filters import blending
from pale_static.core.steps.defocus import opening

from ..core.documents import RATE, at
from ..core.edits import Counting
from ..core.test_film import look
from .test_space import RNG, picture, run

SIZE = Size(96, 54)
CLIP = Materials({"clip": Counting("clip", 200, size=SIZE)})


def frame(effect: Any, number: int, length: int = 100, materials: Materials = CLIP) -> Any:
    moment = Moment(number, length, RATE)
    return Engine().evaluate(effect, moment, SIZE, materials=materials).picture


def grey(plane: Any) -> float:
    """The frame of a counting clip, mixed or not."""
    assert np.ptp(plane[..., 0]) < 1e-6
    return float(plane[0, 0, 0] * 255)


class Moving(Counting):
    """A square that moves to the right on clear ground."""

    def pixels(self, index: int) -> Any:
        out = np.zeros((self.size.height, self.size.width, 4), np.uint8)
        out[20:30, 5 + index : 15 + index] = 200, 120, 60, 255
        return out


def test_echoes_are_the_copies_that_one_would_lay_down_by_hand() -> None:
    clip = Materials({"clip": Moving("square", 60, size=SIZE)})
    found = frame(look({"kind": "echo", "values": {"turn": 5.0}}), 20, materials=clip)
    # 3, 6 and 9 frames late, 1.15, 1.30 and 1.45 as large, at 0.4, 0.16 and 0.064 (common practice).
    out = frame(look(), 20, materials=clip)
    for late, scale, strength, turn in (
        (3, 1.15, 0.4, 5), (6, 1.3, 0.16, 10), (9, 1.45, 0.064, 15),
    ):  # fmt: skip
        copy = look({"kind": "transform", "values": {
            "scale_x": scale, "scale_y": scale, "turn": float(turn)}})  # fmt: skip
        out = blending.blend(out, frame(copy, 20 - late, materials=clip), "normal", strength)
    np.testing.assert_allclose(found, out, atol=1e-6)


@pytest.mark.parametrize("strengths", ["each weaker", "all the same"])
def test_copies_lie_over_or_under_the_picture(strengths: str) -> None:
    clip = Materials({"clip": Moving("square", 60, size=SIZE)})
    values = {"copies": 2, "late": 4, "grow": 0.0, "strength": 0.25, "strengths": strengths}
    under = values | {"order": "picture over the copies"}
    shown, now = (frame(look(*steps), 20, materials=clip) for steps in (
        [{"kind": "echo", "values": under}], []))  # fmt: skip
    solid = now[..., 3] == 1
    np.testing.assert_allclose(shown[solid], now[solid], atol=1e-6)
    # The second copy alone lies eight frames back.
    weak = 0.25 if strengths == "all the same" else 0.0625
    assert shown[25, 5 + 12, 3] == pytest.approx(weak, abs=1e-6)
    # A clip that covers the frame hides copies below it; copies above it mix in.
    assert grey(frame(look({"kind": "echo", "values": under}), 20)) == pytest.approx(20)
    over = 20 + 0.25 * (16 - 20)
    over += weak * (12 - over)
    found = frame(look({"kind": "echo", "values": values}), 20)
    assert grey(found) == pytest.approx(over, abs=1e-3)


def test_an_echo_of_a_single_frame_and_of_an_echo() -> None:
    still = Materials({"clip": Counting("one", 1, size=SIZE)})
    found = frame(look({"kind": "echo", "values": {"copies": 64, "outside": "clamp"}}), 30,
                  materials=still)  # fmt: skip
    assert np.isfinite(found).all()
    once = {"kind": "echo", "values": {"copies": 1, "late": 3, "grow": 0.0, "mode": "add",
                                       "strength": 1.0}}  # fmt: skip
    # (1 + z³)² = 1 + 2z³ + z⁶: an echo below another one also repeats its copies.
    assert grey(frame(look(once, once), 20)) == pytest.approx(20 + 2 * 17 + 14, abs=1e-3)


def test_echoes_are_the_same_at_any_frame_and_weigh_against_the_picture() -> None:
    effect = look({"kind": "echo", "values": {"copies": 5}, "mix": 0.5})
    engine = Engine()
    run_of = [engine.evaluate(effect, at(k), SIZE, materials=CLIP).picture for k in range(12)]
    np.testing.assert_array_equal(frame(effect, 11, 50), run_of[11])
    whole = frame(look({"kind": "echo", "values": {"copies": 5}}), 11, 50)
    np.testing.assert_allclose(run_of[11], (whole + frame(look(), 11, 50)) / 2, atol=1e-6)


def test_many_copies_are_not_held_all_at_once() -> None:
    size = Size(640, 360)
    clip = Materials({"clip": Counting("large", 200, size=size)})
    one = size.width * size.height * 16

    def most(step: Any) -> int:
        tracemalloc.start()
        Engine(8 * one).evaluate(look(step), Moment(100, 200, RATE), size, materials=clip)
        traced = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        return traced

    for step in (
        {"kind": "echo", "values": {"copies": 64, "late": 1}},
        {"kind": "time-slice", "values": {"reach": 64.0}, "inputs": {"map": {"lane": "clip"}}},
    ):
        # The cache's eight pictures and a few at work: 64 would be far more. Measured twice,
        # because a thread from an earlier test may take memory too.
        assert min(most(step), most(step)) < 20 * one


def test_a_time_slice_shows_the_frame_that_its_matte_says() -> None:
    for share, expected in ((0.0, 40), (0.5, 34), (1.0, 28), (0.625, 32.5)):
        code = round(share * 255)
        flat = {"id": "f", "kind": "flat", "values": {"colour": f"#{code:02X}{code:02X}{code:02X}"}}
        clip = {"id": "c", "kind": "slot"}
        slices = {
            "id": "s", "kind": "time-slice", "values": {"reach": 12.0},
            "inputs": {"map": {"lane": "m"}},
        }  # fmt: skip
        effect = read_effect({
            "name": "Slices", "kind": "look", "slots": [{"id": "clip", "name": "Clip"}],
            "lanes": [{"id": "m", "name": "M", "steps": [flat]},
                      {"id": "out", "name": "Out", "steps": [clip, slices]}],
        })  # fmt: skip
        assert grey(frame(effect, 40)) == pytest.approx(expected, abs=0.03)


def test_reverse_speed_and_holds_show_the_frames_that_they_say() -> None:
    assert grey(frame(look({"kind": "reverse"}), 10, 50)) == pytest.approx(39)
    half = {"kind": "speed", "values": {"speed": 0.5, "shift": 0.0}}
    for number, expected in ((10, 5), (11, 5.5), (0, 0)):
        assert grey(frame(look(half), number)) == pytest.approx(expected, abs=1e-3)
    nearest = {"kind": "speed", "values": {"speed": 0.5, "between": "nearest frame"}}
    assert grey(frame(look(nearest), 11)) == pytest.approx(6)
    back = {"kind": "speed", "values": {"speed": -1.0, "shift": 60.0}}
    assert grey(frame(look(back), 25)) == pytest.approx(35)
    held = {"kind": "hold-and-blend", "values": {"every": 8, "blend": 0.5}}
    for number, expected in ((16, 16), (19, 16), (20, 16), (22, 20), (23, 22)):
        assert grey(frame(look(held), number)) == pytest.approx(expected, abs=1e-3)
    still = {"kind": "hold-and-blend", "values": {"every": 8, "blend": 0.0}}
    assert {grey(frame(look(still), n)) for n in range(16, 24)} == {grey(frame(look(), 16))}


def test_a_point_out_of_focus_is_a_disc_with_its_energy() -> None:
    point = np.zeros((101, 101, 4), np.float32)
    point[50, 50] = 1
    found = run("defocus", point, size=7.9, linear_light=False)[..., 0]
    assert found.sum() == pytest.approx(1, abs=2e-3)
    y, x = np.mgrid[-50:51, -50:51]
    inside = np.hypot(x, y) < 7.4
    np.testing.assert_allclose(found[inside], 1 / (np.pi * 7.979**2), rtol=0.03)
    assert np.abs(found[np.hypot(x, y) > 9]).max() < 1e-6
    # In linear light the sum of light is kept (IEC 61966-2-1).
    lit = run("defocus", point, size=7.9)[..., 0].astype(float)
    linear = np.where(lit <= 0.04045, lit / 12.92, ((lit + 0.055) / 1.055) ** 2.4)
    assert linear.sum() == pytest.approx(1, abs=3e-3)


def test_the_disc_has_the_transform_of_a_round_opening() -> None:
    # Airy: the amplitude 2·J₁(u) / u, u = 2πrν, is first 0 at u = 3.8317.
    radius = 8.0
    kernel = opening(radius, 0, 0.0)
    padded = np.zeros((512, 512))
    padded[: len(kernel), : len(kernel)] = kernel
    size = np.abs(np.fft.fft2(padded))[0, :64]
    u = 2 * np.pi * radius * np.arange(64) / 512
    expected = np.abs(np.where(u > 0, 2 * j1(u) / np.where(u > 0, u, 1), 1))
    np.testing.assert_allclose(size, expected, atol=5e-3)
    assert u[size[:50].argmin()] == pytest.approx(3.8317, abs=0.1)


@pytest.mark.parametrize("blades", [0, 3, 6])
def test_running_sums_are_the_convolution_with_the_opening(blades: int) -> None:
    from scipy.ndimage import convolve

    main = picture(60, 90)
    main[..., 3] = 1
    chosen = "polygon" if blades else "disc"
    found = run("defocus", main, size=10, opening=chosen, blades=blades or 6, turn=20,
                linear_light=False)[..., 1]  # fmt: skip
    kernel = opening(6.0, blades, 20.0 if blades else 0.0)
    expected = convolve(main[..., 1].astype(float), kernel, mode="nearest")
    # Each row of the opening is one run of even weight, so slanted sides are slightly steeper.
    assert np.abs(found - expected).max() < 0.02
    areas = [(opening(20.0, n, 0.0) > 0.5 * opening(20.0, n, 0.0).max()).sum() for n in (0, blades)]
    assert areas[0] == pytest.approx(areas[1], rel=0.02)


def test_a_map_decides_how_far_out_of_focus_it_is() -> None:
    main = picture(60, 90)
    for share in (0.0, 0.5, 1.0):
        place = np.full((60, 90), share, np.float32)
        found = run("defocus", main, inputs={"map": place}, size=6)
        np.testing.assert_allclose(found, run("defocus", main, size=6 * share), atol=1e-5)
    lamps = RNG.random((60, 90, 4), np.float32)
    lamps[..., 3] = 1
    brighter = run("defocus", lamps, size=6, highlights=4)
    assert brighter[..., :3].mean() > run("defocus", lamps, size=6)[..., :3].mean() * 1.05
