"""Keys, anchors and control links."""

from __future__ import annotations

import pytest

from pale_static.core import Fault, FrameRate, Moment
from pale_static.core.values.params import (
    Choice,
    ColourParam,
    EaseCurve,
    Number,
    OutOfRange,
    Toggle,
)
from pale_static.core.values.value import Keys, Link, placed, value_of_keys, value_of_link

UNIT = Number(name="amount", allowed=(0, 1))


def keys(*each: tuple[str, float, float]) -> Keys:
    return Keys.model_validate({"keys": [{"anchor": a, "time": t, "value": v} for a, t, v in each]})


def at(frame: int, length: int, rate: object = 25) -> Moment:
    return Moment(frame, length, FrameRate.of(rate))  # type: ignore[arg-type]


def test_a_value_holds_before_its_first_key_and_after_its_last() -> None:
    line = keys(("share", 0.25, 0.2), ("share", 0.75, 0.8))
    found = [value_of_keys(line, UNIT, at(n, 101)) for n in (0, 25, 50, 75, 100)]
    assert found == pytest.approx([0.2, 0.2, 0.5, 0.8, 0.8])


def test_a_start_anchored_burst_keeps_its_frames_whatever_the_length_and_rate() -> None:
    burst = Keys.model_validate(
        {
            "keys": [
                {"anchor": "start", "time": 0, "value": 1, "ease": "hold"},
                {"anchor": "start", "time": 0.08, "value": 0},
            ]
        }
    )
    for rate, frames in ((25, 2), (50, 4)):
        for length in (10, 100):
            lit = [value_of_keys(burst, UNIT, at(n, length, rate)) for n in range(10)]
            assert lit == [1.0] * frames + [0.0] * (10 - frames)


def test_an_end_anchored_key_stays_at_the_end() -> None:
    line = keys(("share", 0, 0), ("end", 0.2, 0), ("end", 0, 1))
    for length in (20, 80):
        assert value_of_keys(line, UNIT, at(length - 1, length)) == 1
        assert value_of_keys(line, UNIT, at(length - 1 - 5, length)) == 0


def test_keys_that_would_cross_are_squeezed_in_order_and_it_is_said() -> None:
    line = keys(("start", 0, 0), ("start", 0.4, 1), ("end", 0.4, 1), ("end", 0, 0))
    times, squeezed = placed(line, at(0, 100))
    assert not squeezed
    assert [t for t, _ in times] == pytest.approx([0, 0.4, 3.56, 3.96])
    times, squeezed = placed(line, at(0, 13))  # 0.48 s long
    assert squeezed
    found = [t for t, _ in times]
    assert found == sorted(found)
    assert found[0] == 0
    assert found[-1] == pytest.approx(0.48)


def test_one_frame_shows_what_the_start_shows() -> None:
    assert value_of_keys(keys(("share", 0, 0.3), ("share", 1, 1)), UNIT, at(0, 1)) == 0.3


def test_of_two_keys_at_one_time_the_later_one_stands() -> None:
    line = keys(("share", 0.5, 0.2), ("share", 0.5, 0.9))
    assert [value_of_keys(line, UNIT, at(n, 5)) for n in range(5)] == [0.2, 0.2, 0.9, 0.9, 0.9]


def test_an_overshooting_ease_stays_within_the_allowed_range() -> None:
    line = Keys.model_validate(
        {"keys": [{"time": 0, "value": 0, "ease": {"out": "back"}}, {"time": 1, "value": 1}]}
    )
    found = [value_of_keys(line, UNIT, at(n, 50)) for n in range(50)]
    assert max(found) == 1
    wide = Number(name="free")
    assert max(value_of_keys(line, wide, at(n, 50)) for n in range(50)) > 1.05


def test_colours_mix_between_keys() -> None:
    line = Keys.model_validate(
        {"keys": [{"time": 0, "value": "#000000"}, {"time": 1, "value": "#FF8000"}]}
    )
    assert value_of_keys(line, ColourParam(name="c"), at(1, 3)) == "#804000"


def test_a_link_runs_through_its_own_range_and_may_be_inverted() -> None:
    control = Number(name="c", slider=(0, 10))
    link = Link(control="c", range=(1.0, 0.0))
    assert value_of_link(link, control, 2.5, UNIT, at(0, 2)) == pytest.approx(0.75)
    assert value_of_link(link, control, 12.0, Number(name="x"), at(0, 2)) == pytest.approx(-0.2)


def test_a_toggle_and_a_choice_pick_values_from_a_table() -> None:
    link = Link(control="c", table={"true": 3, "false": 1})
    assert value_of_link(link, Toggle(name="c"), True, UNIT, at(0, 2)) == 3
    pick = Link(control="c", table={"up": [0, 1]})
    way = Choice(name="c", default="up", options=("up", "down"))
    assert value_of_link(pick, way, "up", UNIT, at(0, 2)) == [0, 1]
    with pytest.raises(Fault, match="no value for that"):
        value_of_link(pick, way, "down", UNIT, at(0, 2))


def test_an_ease_control_drives_a_value_over_the_whole_length() -> None:
    link = Link(control="c", range=(2.0, 4.0))
    found = [value_of_link(link, EaseCurve(name="c"), "linear", UNIT, at(n, 5)) for n in range(5)]
    assert found == [2, 2.5, 3, 3.5, 4]


def test_a_number_outside_its_allowed_range_names_control_value_and_limits() -> None:
    with pytest.raises(OutOfRange, match=r"Blocks: count lies between 1 and 64. It got 0\."):
        Number(name="count", allowed=(1, 64)).check(0, "Blocks: count")
    for wrong in (True, "3", None, float("nan"), float("inf")):
        with pytest.raises(Fault):
            UNIT.check(wrong, "Amount")
