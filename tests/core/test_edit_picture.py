"""The picture of an edit: looks, joins, rows above, gaps, speeds, read from the pixels."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from pale_static.core import Engine, Materials, Moment, Size, StillPicture, read_effect
from pale_static.core.engine.plan import make_plan
from pale_static.core.faults import Fault
from pale_static.core.reel import Reel, read_reel
from pale_static.core.reel.picture import EditPicture

from .documents import wipe
from .edits import TINY, Counting, Shelf, numbers, pixels
from .test_film import look

HALF = look({"kind": "levels", "values": {"white_out": 0.5}})
TRAIL = look({"kind": "trail", "values": {"keep": 1.0, "mode": "lighten"}})
TITLE = read_effect(
    {
        "name": "Card", "kind": "title",
        "lanes": [{"id": "out", "name": "Out", "steps": [
            {"id": "flat", "kind": "flat", "values": {"colour": "#0000FF"}}]}],
    }
)  # fmt: skip
SHELF = Shelf(
    {"red": Counting("red"), "green": Counting("green", channel=1),
     "still": StillPicture("still", np.full((9, 16, 3), 200, np.uint8))},
    {"half": HALF, "trail": TRAIL, "wipe": wipe(), "card": TITLE},
)  # fmt: skip
USE = {"macro": "half", "version": 1}


def edit(*shots: dict[str, Any], **more: Any) -> Reel:
    made = [
        {"id": f"s{k}", "name": f"S{k}", "material": "red", "length": "20/25"} | shot
        for k, shot in enumerate(shots)
    ]
    return read_reel({"name": "Edit", "width": 16, "height": 16, "shots": made} | more)


def item(name: str = "i", at: str = "0", length: str = "10/25", **more: Any) -> dict[str, Any]:
    return {"id": name, "name": name, "at": at, "length": length} | more


def test_a_gap_is_black_and_opaque() -> None:
    reel = edit({"gap": "5/25", "start": "40/25"}, {"gap": "3/25"})
    assert reel.length == 48
    assert [numbers(reel, frame, SHELF)[0] for frame in (4, 5, 24, 25, 27, 28)] == [
        0, 40, 59, 0, 0, 0]  # fmt: skip
    assert numbers(reel, 30, SHELF)[0] == 2
    assert (pixels(reel, 0, SHELF)[..., 3] == 1).all()


@pytest.mark.parametrize(
    ("more", "expected"),
    [
        ({"speed": "2"}, [40, 42, 78]),
        ({"speed": "1/2"}, [40, 40, 49]),
        ({"direction": "backwards"}, [59, 58, 40]),
        ({"direction": "backwards", "speed": "2"}, [78, 76, 40]),
        ({"direction": "freeze"}, [40, 40, 40]),
    ],
)
def test_speed_direction_and_freeze(more: dict[str, Any], expected: list[int]) -> None:
    reel = edit({"start": "40/25"} | more)
    assert [numbers(reel, frame, SHELF)[0] for frame in (0, 1, 19)] == expected


def test_blended_frames_lie_between_their_neighbours() -> None:
    reel = edit({"start": "40/25", "speed": "1/2", "blended": True})
    found = [pixels(reel, frame, SHELF)[4, 8, 0] * 255 for frame in (0, 1, 2, 3)]
    np.testing.assert_allclose(found, [40, 40.5, 41, 41.5], atol=1e-4)


def test_material_of_another_rate_shows_its_nearest_frame_or_a_blend() -> None:
    shelf = Shelf({"red": Counting("red", pace="10")})
    plain, blended = edit({}), edit({"blended": True})
    assert [numbers(plain, frame, shelf)[0] for frame in range(6)] == [0, 0, 0, 1, 1, 2]
    found = [pixels(blended, frame, shelf)[4, 8, 0] * 255 for frame in range(6)]
    np.testing.assert_allclose(found, [0, 0.4, 0.8, 1.2, 1.6, 2.0], atol=1e-4)


def test_the_focus_stays_in_sight() -> None:
    wide = np.zeros((10, 40, 3), np.uint8)
    wide[:, 30:] = 255
    shelf = Shelf({"red": StillPicture("wide", wide)})
    for focus, expected in ((0.0, 0.0), (0.5, 0.0), (1.0, 1.0)):
        reel = edit({"focus": [focus, 0.5]})
        assert pixels(reel, 0, shelf, size=Size(10, 10))[5, 5, 0] == expected


def test_looks_are_a_stack_with_stretches_and_switches() -> None:
    looks = [
        {"id": "a", **USE}, {"id": "b", **USE, "begin": "5/25", "length": "5/25"},
        {"id": "c", **USE, "on": False},
    ]  # fmt: skip
    reel = edit({"start": "100/25", "looks": looks})
    found = {f: float(pixels(reel, f, SHELF)[4, 8, 0]) * 255 for f in (0, 4, 5, 9, 10, 19)}
    expected = {f: (100 + f) * (0.25 if 5 <= f < 10 else 0.5) for f in found}
    for frame, value in expected.items():
        assert found[frame] == pytest.approx(value, abs=0.02), frame
    assert numbers(reel, 0, SHELF)[0] == 50
    assert float(pixels(reel, 0, SHELF, without=["a"])[4, 8, 0]) * 255 == pytest.approx(
        100, abs=0.02
    )


def test_a_look_runs_on_through_a_join_and_sees_the_whole_of_its_shot() -> None:
    join = {"id": "j", "left": "s0", "right": "s1", "macro": "wipe", "version": 1,
            "length": "10/25"}  # fmt: skip
    trail = [{"id": "t", "macro": "trail", "version": 1}]
    reel = edit(
        {"start": "50/25", "looks": [{"id": "h", **USE}]},
        {"material": "green", "start": "50/25", "looks": trail}, joins=[join],
    )  # fmt: skip
    # The join shows frames 15 to 24; its first is the first shot with its look, its last the other.
    for frame, red in ((14, 32.0), (15, 32.5)):
        assert float(pixels(reel, frame, SHELF)[4, 8, 0]) * 255 == pytest.approx(red, abs=0.02)
    assert numbers(reel, 24, SHELF)[:2] == [0, 54]
    assert numbers(reel, 25, SHELF)[:2] == [0, 55]


def test_a_look_longer_than_its_shot_is_cut_off_with_it() -> None:
    looks = [{"id": "a", **USE, "begin": "15/25", "length": "100"}]
    reel = edit({"start": "100/25", "looks": looks}, {"start": "100/25"})
    assert numbers(reel, 19, SHELF)[0] == 60
    assert numbers(reel, 20, SHELF)[0] == 100


def test_rows_lie_over_the_shots_and_over_each_other() -> None:
    card = item(use={"macro": "card", "version": 1}, opacity=0.5)
    clip = item("c", at="4/25", source={"material": "green", "start": "100/25"})
    rows = [{"id": "row-1", "items": [card]}, {"id": "row-2", "items": [clip]}]
    reel = edit({"start": "50/25"}, rows=rows)
    assert numbers(reel, 0, SHELF) == [25, 0, 128]
    assert numbers(reel, 4, SHELF) == [0, 100, 0]
    assert numbers(reel, 12, SHELF) == [0, 108, 0]
    assert numbers(reel, 14, SHELF) == [64, 0, 0]


def test_an_item_is_placed_scaled_and_blended() -> None:
    still = {"material": "still", "fit": "stretch"}
    placed = item(source=still, position=[0.25, 0.5], scale=0.5)
    reel = edit({"start": "50/25"}, rows=[{"id": "row-1", "items": [placed]}])
    found = np.round(pixels(reel, 0, SHELF, size=Size(32, 18))[9, :, 1] * 255)
    assert (found[2:14] == 200).all()
    assert (found[18:] == 0).all()
    added = item(source=still, mode="add")
    reel = edit({"start": "50/25"}, rows=[{"id": "row-1", "items": [added]}])
    assert numbers(reel, 0, SHELF)[0] == 250


def test_a_look_on_a_row_works_on_all_below_it_for_its_stretch() -> None:
    card = item(use={"macro": "card", "version": 1}, length="20/25", opacity=0.5)
    over = item("l", at="5/25", length="5/25", use=USE)
    rows = [{"id": "row-1", "items": [card]}, {"id": "row-2", "items": [over]}]
    reel = edit({"start": "50/25"}, rows=rows)
    assert numbers(reel, 4, SHELF) == [27, 0, 128]
    assert numbers(reel, 5, SHELF) == [14, 0, 64]
    assert numbers(reel, 10, SHELF) == [30, 0, 128]
    # A trail on a row sees every shot below it, across the cut.
    trail = item("t", length="40/25", use={"macro": "trail", "version": 1})
    reel = edit({"start": "50/25"}, {"material": "green", "start": "10/25"},
                rows=[{"id": "row-1", "items": [trail]}])  # fmt: skip
    assert numbers(reel, 30, SHELF) == [69, 20, 0]


def test_joins_lead_in_from_nothing_and_out_to_nothing() -> None:
    joins = [
        {"id": "in", "right": "s0", "macro": "wipe", "version": 1, "length": "8/25"},
        {"id": "out", "left": "s0", "macro": "wipe", "version": 1, "length": "8/25"},
    ]
    reel = edit({"gap": "4/25", "start": "100/25"}, joins=joins)
    assert numbers(reel, 4, SHELF) == [0, 0, 0]
    assert numbers(reel, 11, SHELF) == [107, 0, 0]
    assert numbers(reel, 16, SHELF) == [112, 0, 0]
    assert numbers(reel, 23, SHELF) == [0, 0, 0]
    # On a row it leads in from the picture below.
    up = item(source={"material": "green", "start": "100/25"}, length="20/25")
    rows = [{"id": "row-1", "items": [up]}]
    joins = [{"id": "in", "right": "i", "macro": "wipe", "version": 1, "length": "8/25"}]
    reel = edit({"start": "50/25"}, rows=rows, joins=joins)
    assert numbers(reel, 0, SHELF) == [50, 0, 0]
    assert numbers(reel, 7, SHELF) == [0, 107, 0]


def test_what_fails_is_named_with_its_use_and_can_be_left_out() -> None:
    broken = look({"kind": "levels", "values": {"gamma": {"formula": "1 / abs(frame - 3)"}}})
    shelf = Shelf(SHELF.clips, {**SHELF.effects, "broken": broken})
    looks = [{"id": "h", **USE}, {"id": "b", "macro": "broken", "version": 1}]
    reel = edit({"start": "50/25", "looks": looks})
    assert numbers(reel, 2, shelf)
    with pytest.raises(Fault, match="Look on S0 · Out · Levels: gamma") as told:
        pixels(reel, 3, shelf)
    assert told.value.use == "b"
    assert [round(float(v) * 255) for v in pixels(reel, 3, shelf, without=["b"])[4, 8, :1]] == [27]
    gone = edit({"looks": [{"id": "g", "macro": "gone", "version": 3}]})
    with pytest.raises(Fault, match="Version 3 of “gone” is not on the shelf") as told:
        pixels(gone, 0, SHELF)
    assert told.value.use == "g"


def test_a_slot_beyond_the_clip_is_filled_by_a_material() -> None:
    plain = {
        "name": "Matted", "kind": "look",
        "slots": [{"id": "clip", "name": "Clip"}, {"id": "plate", "name": "Plate", "kind": "matte"}],
        "lanes": [
            {"id": "plate", "name": "Plate", "steps": [
                {"id": "p", "kind": "slot", "values": {"slot": "plate"}}]},
            {"id": "out", "name": "Out", "steps": [
                {"id": "c", "kind": "slot"},
                {"id": "b", "kind": "blend", "inputs": {"over": {"lane": "plate"}}}]},
        ],
    }  # fmt: skip
    shelf = Shelf(SHELF.clips, {"matted": read_effect(plain)})
    use = {"id": "m", "macro": "matted", "version": 1, "slots": {"plate": "still"}}
    assert numbers(edit({"looks": [use]}), 3, shelf) == [200, 200, 200]


def test_an_edit_costs_no_more_than_the_same_steps_in_one_effect() -> None:
    """Nesting adds no node: a look on a shot has the plan of the same steps in one effect."""
    reel = edit({"looks": [{"id": "h", **USE}]})
    effect, materials = EditPicture(reel, SHELF).at(3)
    nested = make_plan(effect, Moment(0, 1, reel.frame_rate), TINY, materials=materials)
    clips = Materials({"clip": SHELF.clips["red"]})
    flat = make_plan(HALF, Moment(3, 20, reel.frame_rate), TINY, materials=clips)
    assert [n.kind.kind for n in nested.nodes] == [n.kind.kind for n in flat.nodes]
    assert (Engine().compute(nested).picture == Engine().compute(flat).picture).all()
