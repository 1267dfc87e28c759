"""Frame rates, timecode, progress."""

from __future__ import annotations

from fractions import Fraction

import pytest
from opentimelineio.opentime import RationalTime, to_timecode

from pale_static.core import Fault, FrameRate, Moment

DROP = FrameRate.of("29.97")


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


# SMPTE ST 12-1: frames 1799 and 1800 lie at the first dropped labels, 17981 and 17982 at the
# tenth minute, which drops none, and 107892 at one hour.
@pytest.mark.parametrize(
    ("frame", "label"),
    [
        (1799, "00:00:59;29"), (1800, "00:01:00;02"), (17981, "00:09:59;29"),
        (17982, "00:10:00;00"), (107892, "01:00:00;00"),
    ],
)  # fmt: skip
def test_drop_frame_leaves_labels_out_where_the_standard_does(frame: int, label: str) -> None:
    assert DROP.timecode(frame) == label
    assert DROP.frame_of(label) == frame


def test_timecode_agrees_with_opentimelineio_over_a_day() -> None:
    for rate in (DROP, FrameRate.of(25), FrameRate.of("23.976")):
        exact = float(rate.exact)
        for frame in range(0, 24 * 3600 * rate.nominal - 200_000, 99_991):
            # Source: OpenTimelineIO, opentime.to_timecode.
            theirs = to_timecode(RationalTime(frame, exact), exact, drop_frame=rate.drops)
            assert rate.timecode(frame) == theirs


def test_timecode_round_trips_over_a_day() -> None:
    for rate in (DROP, FrameRate.of("59.94"), FrameRate.of(24)):
        day = rate.frame_of("23:59:59" + (";" if rate.drops else ":") + f"{rate.nominal - 1}")
        for frame in [*range(0, day, 9973), day]:
            assert rate.frame_of(rate.timecode(frame)) == frame


@pytest.mark.parametrize("text", ["", "1:2", "00:00:61:00", "00:00:00:25", "00:01:00;00"])
def test_what_is_no_timecode_is_refused(text: str) -> None:
    with pytest.raises(Fault):
        (DROP if ";" in text else FrameRate.of(25)).frame_of(text)


def test_progress_runs_from_0_to_1_and_is_0_for_one_frame() -> None:
    rate = FrameRate.of(25)
    assert [Moment(n, 5, rate).progress for n in range(5)] == [0, 0.25, 0.5, 0.75, 1]
    assert Moment(0, 1, rate).progress == 0
    assert Moment(10, 50, rate).seconds == 0.4
    with pytest.raises(Fault):
        Moment(0, 0, rate)
