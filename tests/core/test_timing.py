"""Frame rates, time codes, progress."""

from __future__ import annotations

import json
from fractions import Fraction
from pathlib import Path

import pytest
from opentimelineio.opentime import RationalTime, to_timecode

from pale_static.core import Fault, FrameRate, Moment


@pytest.mark.parametrize(
    ("text", "exact"),
    [
        ("25", Fraction(25)), ("23.976", Fraction(24000, 1001)), (29.97, Fraction(30000, 1001)),
        ("30000/1001", Fraction(30000, 1001)), ("59.94", Fraction(60000, 1001)), (50, Fraction(50)),
        ("12.5", Fraction(25, 2)),
    ],
)  # fmt: skip
def test_a_rate_is_read_as_an_exact_fraction(text: object, exact: Fraction) -> None:
    assert FrameRate.of(text).exact == exact  # type: ignore[arg-type]


@pytest.mark.parametrize("text", ["fast", "0", "1/0", "5000"])
def test_what_is_no_rate_is_refused(text: str) -> None:
    with pytest.raises(Fault):
        FrameRate.of(text)


def labels() -> list[dict[str, object]]:
    """Frames with their time codes, by OpenTimelineIO's opentime.to_timecode."""
    found: list[dict[str, object]] = []
    for name in ("23.976", "24", "25", "29.97", "30", "50", "59.94", "60"):
        rate = FrameRate.of(name)
        drops = name in ("29.97", "59.94")
        whole = round(float(rate.exact))
        # Around the skipped labels (SMPTE ST 12-1, 5.2.2), then over a day.
        frames = {k * whole * 60 + d for k in (1, 2, 9, 10, 11, 20) for d in range(-19, 5)}
        frames |= set(range(0, 23 * 3600 * whole, 349_991))
        for frame in sorted(frames):
            exact = float(rate.exact)
            text = to_timecode(RationalTime(frame, exact), exact, drop_frame=drops)
            found.append({"rate": str(rate.exact), "frame": frame, "text": text})
    return found


def test_what_the_page_is_tested_against_is_what_the_library_says() -> None:
    # frontend/src/player/timecode.test.ts reads the same file.
    held = json.loads((Path(__file__).parents[1] / "timecodes.json").read_text())
    assert held == labels()


def test_progress_runs_from_0_to_1_and_is_0_for_one_frame() -> None:
    rate = FrameRate.of(25)
    assert [Moment(n, 5, rate).progress for n in range(5)] == [0, 0.25, 0.5, 0.75, 1]
    assert Moment(0, 1, rate).progress == 0
    assert Moment(10, 50, rate).seconds == 0.4
    with pytest.raises(Fault):
        Moment(0, 0, rate)
