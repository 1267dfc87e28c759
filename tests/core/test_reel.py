"""The reel: spans, handles, and the picture at every frame."""

from __future__ import annotations

from fractions import Fraction
from math import floor
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_static.core.faults import Fault, OutOfRange
from pale_static.core.reel import Join, Reel, Shot, check_reel, handles, join_span, layout_of
from pale_static.core.reel.change_models import SetReel
from pale_static.core.reel.changes import apply_reel
from pale_static.core.time.timing import FrameRate, nearest_frame, whole_frames

from .edits import Shelf, do, pixels, shown


def reel(length: int = 10, alignment: str = "across", **more: Any) -> Reel:
    return Reel.model_validate(
        {
            "name": "Cut",
            "shots": [
                {"id": "a", "material": "A", "name": "A", "start": "5/25", "length": "40/25"},
                {"id": "b", "material": "B", "name": "B", "start": "8/25", "length": "30/25"},
                {"id": "c", "material": "C", "name": "C", "start": "0/25", "length": "20/25"},
            ],
            "joins": [
                {
                    "id": "j",
                    "left": "a",
                    "right": "b",
                    "macro": "m",
                    "version": 1,
                    "length": f"{length}/25",
                    "alignment": alignment,
                }
            ],
        }
        | more
    )


@pytest.mark.parametrize(
    ("alignment", "length", "first", "end"),
    [("before", 10, 30, 40), ("across", 10, 35, 45), ("after", 10, 40, 50), ("across", 7, 37, 44)],
)
def test_a_join_lies_before_across_or_after_its_cut(
    alignment: str, length: int, first: int, end: int
) -> None:
    found = reel(length, alignment)
    span = join_span(found, found.joins[0])
    assert (span.first, span.end, span.cut) == (first, end, 40)


def test_handles_are_the_frames_beyond_the_cut() -> None:
    found = reel(20)
    # A lasts 50 frames and is shown from 5 to 45, so 5 are spare; B starts at 8.
    held = handles(
        found, found.joins[0], {"A": Fraction(2), "B": Fraction(60, 25), "C": Fraction(20, 25)}
    )
    assert (held.left_needs, held.left_spare, held.right_needs, held.right_spare) == (10, 5, 10, 8)
    assert held.short
    assert not handles(reel(8), reel(8).joins[0], {"A": Fraction(2), "B": Fraction(60, 25)}).short
    still = handles(found, found.joins[0], {"A": None, "B": None})
    assert not still.short


def test_every_frame_shows_a_shot_or_a_join_in_order() -> None:
    found = reel(10)
    assert shown(found, 34) == ["a", "39/25"]
    # In the join the first shot continues without a jump, and the second leads in to its own start.
    assert shown(found, 35) == ["j", 0, "a", "8/5", "b", "3/25"]
    assert shown(found, 44)[:2] == ["j", 9]
    assert shown(found, 45) == ["b", "13/25"]
    assert [shown(found, n)[0] for n in range(found.length)].count("j") == 10
    for wrong in (-1, 90):
        with pytest.raises(OutOfRange):
            pixels(found, wrong, Shelf())


def test_what_does_not_fit_is_refused_with_a_way_out() -> None:
    with pytest.raises(OutOfRange, match="Make it 30 frames or less"):
        check_reel(reel(200))
    with pytest.raises(Fault, match="are not neighbours"):
        do(reel(), do="place-join", cuts=[{"left": "a", "right": "c"}], macro="m", version=1)
    both = do(
        reel(20, "after"), do="place-join", cuts=[{"left": "b"}], macro="m", version=1, length=8
    )
    with pytest.raises(OutOfRange, match="overlap"):
        do(both, do="set-join", join="join-b", length=20, alignment="before")


def test_changes_of_shots_keep_joins_between_the_same_neighbours() -> None:
    found = do(reel(), do="set-shot", shot="a", length=44)
    assert found.length == 94
    assert join_span(found, found.joins[0]).cut == 44
    assert not do(found, do="set-shot", shot="c", at=1).joins
    assert not do(found, do="remove", names=["b"]).joins
    assert do(found, do="remove", names=["c"]).joins
    added = do(found, do="add-shot", material="D", name="New one", length=9, at=1)
    assert [shot.id for shot in added.shots] == ["a", "new-one", "b", "c"]
    assert not added.joins
    assert do(found, do="add-shot", material="D", name="New", length=9).joins


def test_placing_a_macro_replaces_the_one_on_that_cut() -> None:
    found = do(reel(), do="place-join", cuts=[{"left": "a"}], macro="other", version=2, length=6)
    assert [(join.macro, join.id) for join in found.joins] == [("other", "j")]
    assert not do(found, do="remove", names=["j"]).joins


def test_the_rate_is_kept_exact_and_nonsense_is_refused() -> None:
    assert do(reel(), do="set-reel", rate="29.97").rate == "30000/1001"
    with pytest.raises(Fault, match="frame rate"):
        do(reel(), do="set-reel", rate="fast")


def test_a_copy_of_an_edit_works_out_its_own_times() -> None:
    first = reel(8)
    longer = first.model_copy(
        update={"shots": tuple(s.model_copy(update={"length": s.length * 2}) for s in first.shots)}
    )
    assert longer.length == 2 * first.length
    changed, _ = apply_reel(first, SetReel(rate="50"))
    assert changed.length == 2 * first.length


@given(
    st.fractions(0, 10_000, max_denominator=100_000),
    st.sampled_from(["23.976", "24", "25", "29.97", "30", "50", "59.94", "60"]),
)
def test_frames_of_a_time_are_what_fractions_give(seconds: Fraction, rate: str) -> None:
    exact = FrameRate.of(rate).exact
    assert nearest_frame(seconds.numerator, seconds.denominator, exact) == floor(
        seconds * exact + Fraction(1, 2)
    )
    assert whole_frames(seconds, exact) == floor(seconds * exact)


def test_a_frame_is_found_among_thousands_of_shots_as_by_looking_at_each() -> None:
    shots = tuple(
        Shot(
            id=f"s{k}", material="A", name=f"S{k}", start=Fraction(1), length=Fraction(2 + k % 3, 2)
        )
        for k in range(400)
    )
    joins = tuple(
        Join(
            id=f"j{k}", left=f"s{2 * k}", right=f"s{2 * k + 1}", macro="m", version=1,
            length=Fraction(k % 5 + 1, 25),
        )
        for k in range(150)
    )  # fmt: skip
    edit = check_reel(Reel(name="Long", shots=shots, joins=joins[::-1]))
    layout = layout_of(edit)
    spans = [(join_span(edit, join), join) for join in joins]
    for frame in range(0, edit.length, 7):
        here = [join for span, join in spans if span.first <= frame < span.end]
        laid = layout.join_at(frame)
        assert (laid.join if laid else None) == (here[0] if here else None)
        assert layout.shot_at(frame) == max(
            k for k in range(len(shots)) if edit.begin_frames[k] <= frame
        )
