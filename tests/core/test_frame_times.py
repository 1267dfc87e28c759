"""The frame of a clip that a time means, for every frame of every usual rate."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import numpy as np
import pytest

from pale_static.core import FrameRate, Materials, Moment, Size
from pale_static.core.footage import Cut, frame_at, frozen_at
from pale_static.core.time.timing import exact_seconds

from .documents import chain

# SMPTE ST 12-1 and common practice: the rates of film and television.
RATES = ("24000/1001", "24", "25", "30000/1001", "30", "50", "60000/1001", "60")
LONG = 3000


class Counting:
    """A clip whose frame number is its red, green and blue."""

    identity, size, length = "counting", Size(16, 9), LONG

    def __init__(self, rate: str) -> None:
        self.rate = FrameRate.of(rate)

    def pixels(self, index: int) -> Any:
        colour = (index & 255, index >> 8, 7)
        return np.tile(np.array(colour, np.uint8), (9, 16, 1))


@pytest.mark.parametrize("rate", RATES)
def test_a_frame_is_shown_from_its_exact_time_on(rate: str) -> None:
    clip = Counting(rate)
    for frame in range(LONG):
        start = frame / clip.rate.exact
        assert frame_at(clip, start) == frame
        if frame:
            assert frame_at(clip, start - Fraction(1, 10**9)) == frame - 1


@pytest.mark.parametrize("rate", RATES)
def test_a_time_that_was_typed_or_read_from_the_screen_freezes_its_frame(rate: str) -> None:
    clip = Counting(rate)
    for frame in range(LONG):
        exact = float(frame / clip.rate.exact)
        # As a float, with four decimals, and with three decimals as on the page.
        for typed in (exact, round(exact, 4), round(exact, 3) + 0.0):
            near = abs(Fraction(str(typed)) - frame / clip.rate.exact) * clip.rate.exact
            if near < Fraction(1, 100):
                assert frozen_at(clip, typed) == frame, (frame, typed)
        # A cut of the clip counts from its beginning.
        assert frozen_at(clip, 0.0, Fraction(frame) / clip.rate.exact) == frame


def test_a_time_is_the_fraction_that_its_digits_stand_for() -> None:
    assert exact_seconds(0.12) == Fraction(3, 25)
    assert exact_seconds(1001 / 24000) == Fraction(1001, 24000)


@pytest.mark.parametrize("rate", ["25", "30000/1001"])
def test_a_frozen_slot_shows_the_frame_that_was_asked_for(rate: str) -> None:
    from pale_static.core import Engine

    clip, pace = Counting(rate), FrameRate.of(rate)
    engine = Engine(0)
    for frame in range(0, 300, 7):
        seconds = float(frame / pace.exact)
        effect = chain({"kind": "slot", "values": {"slot": "clip", "hold": seconds}}, kind="look",
                       slots=[{"id": "clip", "name": "Clip"}])  # fmt: skip
        for footage in (clip, Cut(clip, Fraction(0))):
            found = engine.evaluate(
                effect, Moment(11, 50, pace), Size(16, 9), materials=Materials({"clip": footage})
            )
            red, green = (round(float(v) * 255) for v in found.picture[4, 8, :2])
            assert red + 256 * green == frame
