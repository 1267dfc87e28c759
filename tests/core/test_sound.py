"""The sound of an edit: levels, cross-fades and speeds, exact to the sample."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np
import pytest

from pale_static.core.reel import read_reel
from pale_static.core.sound import SOUND_RATE, Samples, has_sound, mix, samples_of

FRAME = SOUND_RATE // 25


@dataclass(frozen=True)
class Line:
    """A computed sound: sample n is ``of(n)`` on both sides."""

    of: Any
    length: int = 20 * SOUND_RATE

    def samples(self, first: int, count: int) -> Samples:
        at = np.arange(first, first + count)
        inside = (at >= 0) & (at < self.length)
        return np.repeat((self.of(at) * inside)[:, None], 2, 1).astype(np.float32)


FLAT = Line(lambda n: np.full(len(n), 0.5))
COUNTED = Line(lambda n: n / 1e6)
SOUNDS = {"flat": FLAT, "counted": COUNTED, "other": FLAT}


def edit(*shots: dict[str, Any], **more: Any) -> Any:
    made = [
        {"id": f"s{k}", "name": f"S{k}", "material": "flat", "length": "50/25"} | shot
        for k, shot in enumerate(shots)
    ]
    return read_reel({"name": "Edit", "shots": made} | more)


def heard(reel: Any, first: int = 0, count: int | None = None) -> Samples:
    whole = samples_of(reel.length, reel.frame_rate.exact)
    return mix(reel, SOUNDS.get, first, whole if count is None else count)


def test_a_shot_is_heard_at_its_gain_and_not_when_it_is_muted() -> None:
    # Source: common practice. A gain of −6.02 dB halves the level.
    for gain, level in ((0, 0.5), (-6.0206, 0.25), (6.0206, 1.0)):
        found = heard(edit({"gain": gain}))
        assert found[SOUND_RATE] == pytest.approx(level, abs=1e-4)
    assert not heard(edit({"mute": True})).any()
    assert not heard(edit({"direction": "freeze"})).any()
    assert not heard(edit({"material": "silent"})).any()
    assert not has_sound(edit({"material": "silent"}), SOUNDS.get)
    assert has_sound(edit({}), SOUNDS.get)


def test_what_is_too_loud_is_held_to_what_a_file_can_hold() -> None:
    assert heard(edit({"gain": 12})).max() == 1


def test_a_shot_begins_at_its_sample_to_the_sample() -> None:
    reel = edit({"material": "counted", "start": "10/25", "gap": "4/25"})
    found = heard(reel)
    assert not found[: 4 * FRAME].any()
    at = 4 * FRAME + SOUND_RATE
    assert found[at, 0] == pytest.approx((10 * FRAME + SOUND_RATE) / 1e6, abs=1e-7)


def test_a_cross_fade_keeps_the_power() -> None:
    join = {"id": "j", "left": "s0", "right": "s1", "macro": "m", "version": 1,
            "length": "20/25"}  # fmt: skip
    sides = []
    for quiet in ("s0", "s1"):
        shots = [{"mute": quiet == "s0"}, {"mute": quiet == "s1", "start": "25/25"}]
        sides.append(heard(edit(*shots, joins=[join]))[:, 0] / 0.5)
    inside = slice(40 * FRAME, 60 * FRAME)
    # Source: definition. Equal power: cos² + sin² = 1.
    np.testing.assert_allclose(sides[0][inside] ** 2 + sides[1][inside] ** 2, 1, atol=1e-5)
    middle = 50 * FRAME
    assert sides[0][middle] == pytest.approx(np.sqrt(0.5), abs=1e-3)
    assert (np.diff(sides[0][inside]) >= 0).all()
    cut = heard(edit({}, {"mute": True, "start": "25/25"}, joins=[join | {"sound": "cut"}]))
    assert cut[50 * FRAME - 1, 0] == 0.5
    assert cut[50 * FRAME, 0] == 0


def test_sound_comes_and_goes_softly_beside_a_gap_and_hard_at_a_cut() -> None:
    reel = edit({"gap": "5/25"}, {"material": "other"})
    found = heard(reel)[:, 0]
    edge = 5 * FRAME
    assert found[edge] < 0.01
    assert found[edge + SOUND_RATE // 50] == pytest.approx(0.5, abs=1e-3)
    assert (found[55 * FRAME - 10 : 55 * FRAME + 10] == 0.5).all()
    faded = heard(edit({"fade_in": "25/25", "fade_out": "25/25"}))[:, 0]
    assert faded[SOUND_RATE // 2] == pytest.approx(0.5 * np.sin(np.pi / 4), abs=1e-3)
    assert faded[-SOUND_RATE // 2] == pytest.approx(0.5 * np.cos(np.pi / 4), abs=1e-3)


@pytest.mark.parametrize("speed", ["1/2", "2", "7/5"])
def test_another_speed_moves_the_pitch_by_as_much(speed: str) -> None:
    tone = Line(lambda n: 0.5 * np.sin(2 * np.pi * 1000 * n / SOUND_RATE))
    reel = edit({"material": "tone", "speed": speed})
    found = mix(reel, {"tone": tone}.get, 4800, SOUND_RATE)[:, 0]
    # Source: definition of the Fourier transform; the peak of one second lies at whole hertz.
    spectrum = np.abs(np.fft.rfft(found * np.hanning(len(found))))
    assert spectrum.argmax() == round(1000 * Fraction(speed))
    assert np.sqrt((found**2).mean()) == pytest.approx(0.5 / np.sqrt(2), rel=2e-3)


def test_played_fast_nothing_folds_back_from_above_the_half_rate() -> None:
    high = Line(lambda n: 0.5 * np.sin(2 * np.pi * 17_000 * n / SOUND_RATE))
    found = mix(edit({"material": "high", "speed": "2"}), {"high": high}.get, 4800, 9600)
    assert np.sqrt((found**2).mean()) < 0.005


def test_backwards_is_the_mirror_of_forwards() -> None:
    forwards = heard(edit({"material": "counted", "start": "10/25"}))
    backwards = heard(edit({"material": "counted", "start": "10/25", "direction": "backwards"}))
    inner = slice(2000, -2000)
    np.testing.assert_allclose(backwards[::-1][inner], forwards[inner], atol=1e-6)


def test_any_piece_is_the_same_as_the_whole() -> None:
    reel = edit(
        {"material": "counted", "speed": "3/2"},
        {"start": "25/25", "direction": "backwards"},
        joins=[{"id": "j", "left": "s0", "right": "s1", "macro": "m", "version": 1,
                "length": "10/25"}],
    )  # fmt: skip
    whole = heard(reel)
    for first, count in ((0, 1000), (77_777, 5000), (90_001, 30_000)):
        piece = heard(reel, first, count)
        np.testing.assert_allclose(piece, whole[first : first + count], atol=2e-6)


def test_material_shorter_than_its_shot_is_silent_past_its_end() -> None:
    short = Line(lambda n: np.full(len(n), 0.5), length=SOUND_RATE)
    found = mix(edit({"material": "short"}), {"short": short}.get, 0, 2 * SOUND_RATE)[:, 0]
    assert found[SOUND_RATE - 1] == 0.5
    assert not found[SOUND_RATE:].any()


def test_samples_of_frames_are_exact_at_any_rate() -> None:
    # Source: common practice. 1001 frames at 29.97 are 33.4 s: 1,603,201.6 samples.
    assert samples_of(1001, Fraction(30000, 1001)) == round(1001 * 1001 / 30000 * 48000)
    assert samples_of(30000, Fraction(30000, 1001)) == 1001 * 48000
