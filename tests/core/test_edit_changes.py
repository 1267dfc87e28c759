"""Changes of an edit: times stay exact, and agree with OpenTimelineIO's ranges."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import opentimelineio as otio
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from pale_static.core.faults import Fault, Missing
from pale_static.core.reel import Reel, read_reel
from pale_static.core.reel.change_models import ReelChange
from pale_static.core.reel.changes import apply_reel

from .edits import Counting, Shelf, do, numbers, shown, source_seconds

RATE = 25
SHELF = Shelf({"r": Counting("r")})


def edit(*lengths: int, starts: int = 20, **more: Any) -> Reel:
    shots = [
        {"id": f"s{k}", "name": f"S{k}", "material": "r", "start": f"{starts}/25",
         "length": f"{length}/25"}
        for k, length in enumerate(lengths)
    ]  # fmt: skip
    return read_reel({"name": "Edit", "width": 16, "height": 16, "shots": shots} | more)


def ranges(reel: Reel) -> list[tuple[str, Any]]:
    """Each shot's range of its material, as an OpenTimelineIO range."""

    def time(seconds: Fraction) -> Any:
        return otio.opentime.RationalTime(float(seconds * RATE), RATE)

    return [
        (shot.id, otio.opentime.TimeRange(time(shot.start), time(shot.length)))
        for shot in reel.shots
    ]


def test_a_split_leaves_every_frame_as_it_was() -> None:
    looks = [{"id": "h", "macro": "m", "version": 1, "begin": "2/25", "length": "12/25"}]
    reel = edit(20, 30)
    reel = reel.model_copy(update={"shots": (reel.shots[0], reel.shots[1])})
    before = [numbers(reel, frame, SHELF)[0] for frame in range(50)]
    after = do(reel, do="split", frame=32)
    assert [shot.id for shot in after.shots] == ["s0", "s1", "s1-2"]
    assert [numbers(after, frame, SHELF)[0] for frame in range(50)] == before
    # Source: OpenTimelineIO, ranges that follow each other.
    made = dict(ranges(after))
    assert made["s1"].end_time_exclusive() == made["s1-2"].start_time
    with pytest.raises(Fault, match="There is nothing to split at the playhead"):
        do(reel, do="split", frame=20)
    with_looks = read_reel(
        edit(20).to_json() | {"shots": [edit(20).to_json()["shots"][0] | {"looks": looks}]}
    )
    first, second = do(with_looks, do="split", frame=10).shots
    assert (first.looks[0].begin, first.looks[0].length) == (Fraction(2, 25), Fraction(12, 25))
    assert (second.looks[0].begin, second.looks[0].length) == (0, Fraction(4, 25))
    assert first.looks[0].id != second.looks[0].id
    # A look that has ended before the cut leaves nothing after it, like one with half a frame left.
    for frame, left in ((13, 1), (14, 0), (15, 0)):
        _, second = do(with_looks, do="split", frame=frame).shots
        assert len(second.looks) == left, frame


@pytest.mark.parametrize("more", [{}, {"speed": "2"}, {"direction": "backwards"}])
def test_a_split_of_a_fast_or_backward_shot_leaves_every_frame_too(more: dict[str, Any]) -> None:
    plain = edit(20).to_json()
    plain["shots"][0] |= more
    reel = read_reel(plain)
    before = [numbers(reel, frame, SHELF)[0] for frame in range(20)]
    after = do(reel, do="split", frame=7)
    assert [numbers(after, frame, SHELF)[0] for frame in range(20)] == before


def test_a_roll_moves_the_cut_and_nothing_else() -> None:
    reel = edit(20, 30, 10)
    after = do(reel, do="roll-cut", left="s0", by=4)
    assert [after.frames(k) for k in range(3)] == [24, 26, 10]
    assert after.shots[1].start == Fraction(24, 25)
    before = [numbers(reel, frame, SHELF)[0] for frame in range(60)]
    rolled = [numbers(after, frame, SHELF)[0] for frame in range(60)]
    assert [frame for frame in range(60) if before[frame] != rolled[frame]] == [20, 21, 22, 23]
    # Source: OpenTimelineIO. The second range starts later by four, and ends where it did.
    one, two = ranges(reel)[1][1], ranges(after)[1][1]
    four = otio.opentime.RationalTime(4, RATE)
    assert two.start_time == one.start_time + four
    assert two.end_time_exclusive() == one.end_time_exclusive()
    with pytest.raises(Fault, match="no frame left"):
        do(reel, do="roll-cut", left="s0", by=30)
    with pytest.raises(Fault, match=r"only 0\.8 seconds of material before it"):
        do(edit(40, 30), do="roll-cut", left="s0", by=-25)


def test_a_trim_ripples_or_leaves_the_rest_in_place() -> None:
    reel = edit(20, 30, 10)
    rippled = do(reel, do="set-shot", shot="s1", length=12)
    assert [rippled.begins(k) for k in range(3)] == [0, 20, 32]
    held = do(reel, do="set-shot", shot="s1", length=12, ripple=False)
    assert [held.begins(k) for k in range(3)] == [0, 20, 50]
    head = do(reel, do="set-shot", shot="s1", start=25, length=25, ripple=False)
    assert [head.begins(k) for k in range(3)] == [0, 25, 50]
    assert numbers(head, 25, SHELF) == numbers(reel, 25, SHELF)
    with pytest.raises(Fault, match="S2 is in the way"):
        do(reel, do="set-shot", shot="s1", length=31, ripple=False)
    with pytest.raises(Fault, match="the shot before it is in the way"):
        do(reel, do="set-shot", shot="s1", start=10, length=40, ripple=False)


@pytest.mark.parametrize("direction", ["forwards", "backwards"])
@pytest.mark.parametrize("speed", ["1", "2", "2/3"])
def test_ends_that_move_leave_what_each_frame_shows(direction: str, speed: str) -> None:
    plain = edit(20, 30, 10).to_json()
    plain["shots"][1] |= {"direction": direction, "speed": speed, "start": "50/25"}
    clip = {"material": "r", "start": "50/25", "direction": direction, "speed": speed}
    item = {"id": "i", "name": "I", "at": "20/25", "length": "30/25", "source": clip}
    reel = read_reel(plain | {"rows": [{"id": "row-1", "items": [item]}]})
    shot = [source_seconds(reel, reel.shots[1], frame) for frame in range(20, 50)]
    for name in ("s1", "i"):
        head = do(reel, do="set-shot", shot=name, head=7, ripple=False)
        assert head.bounds(name) == (27, 50)
        assert [source_seconds(head, head.named(name), f) for f in range(27, 50)] == shot[7:]
        tail = do(reel, do="set-shot", shot=name, tail=-9, ripple=False)
        assert [source_seconds(tail, tail.named(name), f) for f in range(20, 41)] == shot[:21]
        slip = do(reel, do="set-shot", shot=name, slip=5)
        assert [source_seconds(slip, slip.named(name), f) for f in range(25, 50)] == shot[:25]
        back = do(do(head, do="set-shot", shot=name, head=-7, ripple=False), do="set-shot",
                  shot=name, tail=0)  # fmt: skip
        assert back == reel
    typed = do(reel, do="set-shot", shot="s1", length=21)
    assert [source_seconds(typed, typed.shots[1], f) for f in range(20, 41)] == shot[:21]
    with pytest.raises(Fault, match="S1 would have no frame left"):
        do(reel, do="set-shot", shot="s1", head=30)


def test_identifiers_are_used_once() -> None:
    plain = edit(20, 20).to_json()
    look = {"macro": "m", "version": 1, "id": "x"}
    join = {"left": "s0", "right": "s1", "macro": "m", "version": 1, "length": "2/25"}
    plain["shots"][0] |= {"looks": [look]}
    for name in ("x", "s0"):
        with pytest.raises(Fault, match=f"“{name}” of a join is used twice"):
            read_reel(plain | {"joins": [join | {"id": name}]})


def test_removing_closes_the_gap_or_leaves_it() -> None:
    reel = edit(20, 30, 10)
    assert do(reel, do="remove", names=["s1"]).length == 30
    left = do(reel, do="remove", names=["s1"], close=False)
    assert left.begins(1) == 50
    assert shown(left, 30) == ["gap"]
    with pytest.raises(Missing, match="no “gone”"):
        do(reel, do="remove", names=["gone"])


def test_a_clip_is_inserted_or_laid_over_what_is_there() -> None:
    reel = edit(20, 30)
    put = {"do": "add-shot", "material": "n", "name": "New", "length": 6, "frame": 25}
    inserted = do(reel, **put)
    assert [(s.id, inserted.begins(k), inserted.frames(k)) for k, s in enumerate(inserted.shots)] == [
        ("s0", 0, 20), ("s1", 20, 5), ("new", 25, 6), ("s1-2", 31, 25)]  # fmt: skip
    over = do(reel, **put, over=True)
    assert over.length == 50
    assert [(s.id, over.begins(k), over.frames(k)) for k, s in enumerate(over.shots)] == [
        ("s0", 0, 20), ("s1", 20, 5), ("new", 25, 6), ("s1-3", 31, 19)]  # fmt: skip
    assert numbers(over, 31, SHELF) == numbers(reel, 31, SHELF)
    late = do(reel, **{**put, "frame": 60})
    assert (late.begins(2), late.shots[2].gap) == (60, Fraction(10, 25))
    within = do(do(late, **{**put, "frame": 52, "over": True}), do="set-reel", name="X")
    assert [within.begins(k) for k in range(4)] == [0, 20, 52, 60]


def test_items_take_the_lowest_free_row_and_empty_rows_go() -> None:
    reel = edit(50)
    put = {"do": "add-item", "name": "Card", "macro": "m", "version": 1}
    reel = do(reel, **put, frame=0, length=20)
    reel = do(reel, **put, frame=10, length=20)
    reel = do(reel, **put, frame=30, length=5)
    assert [[item.id for item in row.items] for row in reel.rows] == [
        ["card", "card-3"],
        ["card-2"],
    ]
    with pytest.raises(Fault, match="overlap on one row"):
        do(reel, do="set-item", item="card-3", frame=19)
    moved = do(reel, do="set-item", item="card-2", frame=36, row=0)
    assert [[item.id for item in row.items] for row in moved.rows] == [["card", "card-3", "card-2"]]
    assert not do(moved, do="remove", names=["card", "card-2", "card-3"]).rows


def test_settings_are_changed_one_by_one_and_on_several_at_once() -> None:
    reel = edit(20, 20, 20)
    reel = do(reel, do="add-look", shots=["s0", "s1"], macro="m", version=1, settings={"a": 1})
    first, second = (reel.shots[k].looks[0].id for k in (0, 1))
    reel = do(reel, do="set-use", uses=[first, second], settings={"b": 2})
    reel = do(reel, do="set-use", uses=[second], settings={"a": None}, version=2)
    assert reel.shots[0].looks[0].settings == {"a": 1, "b": 2}
    assert reel.shots[1].looks[0].settings == {"b": 2}
    assert reel.shots[1].looks[0].version == 2
    each = {first: {"a": 5}, second: {"b": None}}
    apart = do(reel, do="set-use", uses=[first, second], version=3, settings={"a": 4}, each=each)
    assert [shot.looks[0].settings for shot in apart.shots[:2]] == [{"a": 5, "b": 2}, {"a": 4}]
    reel = do(reel, do="set-look", look=first, on=False, begin=3, length=4)
    assert (reel.shots[0].looks[0].on, reel.shots[0].looks[0].length) == (False, Fraction(4, 25))
    assert do(reel, do="set-look", look=first, length=0).shots[0].looks[0].length is None


def test_a_macro_goes_on_several_cuts_at_once() -> None:
    reel = do(edit(20, 20, 20), do="place-join", macro="m", version=1, length=6,
              cuts=[{"left": "s0"}, {"left": "s1"}, {"right": "s0"}, {"left": "s2"}])  # fmt: skip
    assert [(join.left, join.right) for join in reel.joins] == [
        ("s0", "s1"), ("s1", "s2"), (None, "s0"), ("s2", None)]  # fmt: skip
    assert not do(reel, do="remove", names=["s1"]).joins[0].left


def test_marks_are_named_and_the_newer_end_counts() -> None:
    reel = do(edit(50), do="set-mark", frame=12, name="Bell")
    assert [(mark.at, mark.name) for mark in reel.marks] == [(Fraction(12, 25), "Bell")]
    assert not do(reel, do="set-mark", frame=12).marks
    reel = do(do(reel, do="set-reel", mark_in=10), do="set-reel", mark_out=30)
    assert (reel.mark_in, reel.mark_out) == (Fraction(10, 25), Fraction(30, 25))
    assert do(reel, do="set-reel", mark_in=40).mark_out is None
    assert do(reel, do="set-reel", mark_in=-1).mark_in is None


CHANGES: TypeAdapter[Any] = TypeAdapter(ReelChange)


@st.composite
def some_change(draw: st.DrawFn) -> dict[str, Any]:
    shot = f"s{draw(st.integers(0, 3))}"
    small = st.integers(0, 60)
    kind = draw(
        st.sampled_from(["trim", "tail", "roll", "split", "remove", "insert", "over", "move"])
    )
    return {
        "trim": lambda: {"do": "set-shot", "shot": shot, "start": draw(small),
                         "length": draw(st.integers(1, 60)), "ripple": draw(st.booleans())},
        "tail": lambda: {"do": "set-shot", "shot": shot, "length": draw(st.integers(1, 60)),
                         "ripple": draw(st.booleans())},
        "roll": lambda: {"do": "roll-cut", "left": shot, "by": draw(st.integers(-30, 30))},
        "split": lambda: {"do": "split", "frame": draw(st.integers(0, 150))},
        "remove": lambda: {"do": "remove", "names": [shot], "close": draw(st.booleans())},
        "insert": lambda: {"do": "add-shot", "material": "n", "name": "N", "frame": draw(small),
                           "length": draw(st.integers(1, 30))},
        "over": lambda: {"do": "add-shot", "material": "n", "name": "N", "frame": draw(small),
                         "length": draw(st.integers(1, 30)), "over": True},
        "move": lambda: {"do": "set-shot", "shot": shot, "at": draw(st.integers(0, 4))},
    }[kind]()  # fmt: skip


@given(st.lists(some_change(), min_size=1, max_size=12))
def test_any_series_of_changes_keeps_times_exact(changes: list[dict[str, Any]]) -> None:
    reel = edit(20, 30, 25, 40)
    states = [reel]
    for change in changes:
        try:
            states.append(apply_reel(states[-1], CHANGES.validate_python(change))[0])
        except Fault:
            continue  # refused: the edit is unchanged
    for state in states:
        # Whole frames stay whole frames: no time drifts by a fraction.
        for shot in state.shots:
            assert all((t * RATE).denominator == 1 for t in (shot.start, shot.length, shot.gap))
            assert shot.length > 0
        # Source: OpenTimelineIO. Ranges laid end to end, with gaps between them.
        track = otio.schema.Track()
        for shot, (_, ranged) in zip(state.shots, ranges(state), strict=True):
            if shot.gap:
                gap = otio.opentime.RationalTime(float(shot.gap * RATE), RATE)
                track.append(otio.schema.Gap(duration=gap))
            track.append(otio.schema.Clip(shot.id, source_range=ranged))
        clips = [child for child in track if isinstance(child, otio.schema.Clip)]
        for index, clip in enumerate(clips):
            placed = clip.range_in_parent()
            assert placed.start_time.value == state.begins(index)
            assert placed.duration.value == state.frames(index)
        # A saved edit opens unchanged, so undo restores exactly this.
        assert read_reel(state.to_json()) == state


def test_no_edit_is_accepted_that_could_not_be_read_again() -> None:
    # By definition: the format's limit of marks, also in its schema in docs/formats.
    marks = [{"at": f"{k}/25", "name": "Bell"} for k in range(1000)]
    edit = read_reel({"format": "pale-static/reel@4", "name": "Full", "marks": marks})
    mark = {"do": "set-mark", "frame": 1000, "name": "Bell"}
    with pytest.raises(Fault, match="has 1001 entries, and 1000 are allowed"):
        apply_reel(edit, TypeAdapter(ReelChange).validate_python(mark))
