"""Arranged keys give the intended movement."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_static.core import Fault, FrameRate, Moment
from pale_static.core.time.easing import Bezier, Ease, Named, ease_at
from pale_static.core.values.key_arrangement import (
    backwards,
    copied,
    distributed,
    moved,
    reversed_keys,
    scaled,
    turned,
)
from pale_static.core.values.params import Number
from pale_static.core.values.value import Keys, key_seconds, value_of_keys

PARAM = Number(name="amount", allowed=(-1000, 1000))
LONG = Moment(0, 101, FrameRate.of(25))
"""Four seconds from the first frame to the last."""

EASES: list[Ease] = [
    "linear", "hold", "jump", Bezier(bezier=(0.2, 1.4, 0.7, -0.3)),
    Named(into="sine"), Named(out="bounce"), Named(into="expo", out="back"), Named(out="elastic"),
]  # fmt: skip


def keys(*rows: tuple[str, float, float] | tuple[str, float, float, Ease]) -> Keys:
    return Keys.model_validate(
        {
            "keys": [
                {"anchor": row[0], "time": row[1], "value": row[2]}
                | ({"ease": row[3]} if len(row) == 4 else {})
                for row in rows
            ]
        }
    )


def seconds(found: Keys, moment: Moment = LONG) -> list[float]:
    return [round(key_seconds(key, moment), 6) for key in found.keys]


def value(found: Keys, frame: int, moment: Moment = LONG) -> float:
    return float(value_of_keys(found, PARAM, moment.at(frame)))


@pytest.mark.parametrize("ease", EASES, ids=str)
def test_an_ease_turned_twice_is_itself_and_runs_the_other_way(ease: Ease) -> None:
    turned_ease = backwards(ease)
    assert backwards(turned_ease) == ease
    for t in (0.1, 0.25, 0.5, 0.77, 0.9):
        assert ease_at(turned_ease, t) == pytest.approx(1 - ease_at(ease, 1 - t), abs=1e-9)


@given(st.data())
def test_reversed_keys_play_the_movement_backwards(data: st.DataObject) -> None:
    times = data.draw(st.lists(st.integers(1, 99), min_size=1, max_size=5, unique=True))
    rows = [("start", 0.0, 3.0, data.draw(st.sampled_from(EASES)))]
    for time in sorted(times):
        anchor = data.draw(st.sampled_from(["share", "start", "end"]))
        at = {"share": time / 100, "start": time / 25, "end": 4 - time / 25}[anchor]
        rows.append((anchor, at, float(time * 7 % 13), data.draw(st.sampled_from(EASES))))
    found = keys(*rows)
    for frame in range(101):
        there = value(reversed_keys(found), 100 - frame)
        assert there == pytest.approx(value(found, frame), abs=1e-6)


def test_what_was_anchored_to_the_start_is_anchored_to_the_end() -> None:
    found = reversed_keys(keys(("start", 0, 0), ("start", 0.08, 1), ("share", 1, 0)))
    assert [(key.anchor, key.time) for key in found.keys] == [
        ("share", 0), ("end", 0.08), ("end", 0),
    ]  # fmt: skip


def test_keys_are_moved_as_one_and_stop_at_the_ends_together() -> None:
    found = keys(("start", 1, 0), ("share", 0.5, 1), ("end", 1, 2))
    assert seconds(moved(found, 0.5, LONG)) == [1.5, 2.5, 3.5]
    assert seconds(moved(found, 9, LONG)) == [2, 3, 4]
    assert seconds(moved(found, -9, LONG)) == [0, 1, 2]
    assert [key.anchor for key in moved(found, 0.5, LONG).keys] == ["start", "share", "end"]


def test_a_key_moved_past_another_changes_places_with_it() -> None:
    found = moved(keys(("start", 1, 10), ("start", 2, 20)), 1.5, LONG, [0])
    assert [(key.time, key.value) for key in found.keys] == [(2, 20), (2.5, 10)]


def test_copied_keys_keep_their_distances_and_take_the_place_of_what_is_there() -> None:
    found = keys(("start", 0, 0), ("start", 0.08, 1), ("start", 0.16, 0), ("start", 2, 5))
    twice = copied(found, 2, LONG, [0, 1, 2])
    assert seconds(twice) == [0, 0.08, 0.16, 2, 2.08, 2.16]
    assert [key.value for key in twice.keys] == [0, 1, 0, 0, 1, 0]
    with pytest.raises(Fault, match="past the effect's 4 s"):
        copied(found, 3.9, LONG, [0, 1, 2])


def test_keys_are_scaled_in_time_about_a_moment() -> None:
    found = keys(("start", 1, 0), ("start", 1.5, 1), ("start", 2, 2))
    assert seconds(scaled(found, 2, LONG)) == [1, 2, 3]
    assert seconds(scaled(found, 0.5, LONG, about=2)) == [1.5, 1.75, 2]
    with pytest.raises(Fault, match=r"key 3 would lie at 5 s, outside the effect's 4 s"):
        scaled(found, 4, LONG)
    with pytest.raises(Fault, match="above 0"):
        scaled(found, 0, LONG)


def test_distributed_keys_lie_at_even_distances() -> None:
    found = keys(("start", 0, 0), ("start", 0.1, 1), ("share", 0.2, 2), ("end", 0, 3))
    assert seconds(distributed(found, LONG)) == [0, 1.333333, 2.666667, 4]
    assert seconds(distributed(found, LONG, [0, 1])) == seconds(found)


def test_a_few_neighbouring_keys_are_turned_in_place() -> None:
    found = keys(("start", 0, 5), ("start", 1, 1, "hold"), ("start", 1.5, 2), ("start", 3, 3))
    there = turned(found, LONG, [1, 2, 3])
    assert seconds(there) == [0, 1, 2.5, 3]
    assert [key.value for key in there.keys] == [5, 3, 2, 1]
    assert there.keys[2].ease == "jump"
    with pytest.raises(Fault, match="neighbouring"):
        turned(found, LONG, [0, 2])
    with pytest.raises(Fault, match="no key 9"):
        moved(found, 1, LONG, [8])


@pytest.mark.parametrize(("rate", "frames"), [(25, 2), (50, 4), (24, 2), (60, 5)])
def test_a_burst_of_eight_hundredths_lasts_as_long_at_any_rate(rate: int, frames: int) -> None:
    found = keys(("start", 0, 1, "hold"), ("start", 0.08, 0, "hold"), ("end", 0, 0))
    moment = Moment(0, rate * 3, FrameRate.of(rate))
    shown = [value(found, frame, moment) for frame in range(rate * 3)]
    assert shown[:frames] == [1] * frames
    assert not any(shown[frames:])


def test_keys_all_at_one_place_change_over_there_at_once() -> None:
    found = keys(("share", 0.5, 1), ("share", 0.5, 2), ("share", 0.5, 3))
    assert [value(found, frame) for frame in (0, 49, 50, 51, 100)] == [1, 1, 3, 3, 3]
    assert value(found, 0, Moment(0, 1, FrameRate.of(25))) == 1
