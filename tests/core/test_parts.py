"""Parts: kept, inserted again, and never changed silently."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from pale_static.core import Effect, Engine, Size, read_effect
from pale_static.core.changes import apply, keep_part
from pale_static.core.changes.models import AddLane, CopyLane, InsertPart, StepPlace
from pale_static.core.documents.part import read_collection, read_part
from pale_static.core.faults import Fault

from .documents import SIZE, at
from .test_repeat_and_runs import TWO, places

LIT = {
    "name": "Lit",
    "kind": "look",
    "slots": [{"id": "clip", "name": "Clip"}, {"id": "dirt", "name": "Dirt", "kind": "texture"}],
    "controls": [
        {"slug": "amount", "label": "Amount", "type": "number", "default": 0.3, "help": "How much."}
    ],
    "lanes": [
        {"id": "clip", "name": "Clip", "steps": [{"id": "slot", "kind": "slot"}]},
        {
            "id": "grain", "name": "Grain",
            "steps": [
                {"id": "noise", "kind": "noise", "values": {"cells": 9, "seed": 4}},
                {"id": "dirt", "kind": "blend", "inputs": {"over": {"lane": "clip", "step": "slot"}},
                 "values": {"opacity": {"control": "amount"}}},
            ],
        },
        {
            "id": "out", "name": "Out",
            "steps": [
                {"id": "continue-from", "kind": "continue-from", "inputs": {"from": {"lane": "clip"}}},
                {"id": "blur", "kind": "blur", "values": {"size": 2}},
                {"id": "again", "kind": "repeat", "values": {"count": 2},
                 "steps": [{"id": "sharp", "kind": "sharpen",
                            "values": {"amount": {"formula": "out.blur.size * control.amount"}}}]},
                {"id": "over", "kind": "blend",
                 "inputs": {"over": {"lane": "grain", "channel": "red", "invert": True}},
                 "values": {"mode": "screen", "opacity": {"control": "amount"}}},
            ],
        },
    ],
}  # fmt: skip


def picture(effect: Effect, step: tuple[str, str] | None = None) -> Any:
    return Engine().evaluate(effect, at(), SIZE, step=step).plane


def test_a_run_comes_back_exactly_as_kept() -> None:
    effect = read_effect(LIT)
    part = keep_part(effect, "Soft over", steps=places("blur", "again", "over"))
    assert (part.kind, part.starts, [one.name for one in part.inputs]) == ("run", False, ["Grain"])
    assert part.controls == effect.controls
    # As JSON it is read back unchanged.
    assert read_part(part.to_json()) == part
    source = effect.lanes[2].steps
    bare = effect.model_copy(
        update={
            "lanes": (*effect.lanes[:2], effect.lanes[2].model_copy(update={"steps": source[:1]}))
        }
    )
    change = InsertPart(part=part, to="out", at=1, inputs={"input-1": {"lane": "grain"}})  # type: ignore[dict-item]
    again, words = apply(bare, change)
    assert words == "Part Soft over inserted"
    assert again == effect
    assert np.array_equal(picture(again), picture(effect))


def test_beside_itself_it_gets_free_names_and_its_formulas_read_itself() -> None:
    effect = read_effect(LIT)
    part = keep_part(effect, "Soft over", steps=places("blur", "again", "over"))
    change = InsertPart(part=part, to="out", at=4, inputs={"input-1": {"lane": "grain"}})  # type: ignore[dict-item]
    twice, _ = apply(effect, change)
    steps = twice.lanes[2].steps
    assert [step.id for step in steps[4:]] == ["blur-2", "again-2", "over-2"]
    assert steps[5].steps[0].values["amount"].formula == "out.blur_2.size * control.amount"
    assert (steps[6].inputs["over"].channel, steps[6].inputs["over"].invert) == ("red", True)
    # An equal control is shared; a different one gets its own name.
    assert len(twice.controls) == 1
    other = effect.model_copy(
        update={"controls": (effect.controls[0].model_copy(update={"default": 0.9}),)}
    )
    changed, _ = apply(other, change)
    assert [control.slug for control in changed.controls] == ["amount", "amount-2"]
    new = changed.lanes[2].steps
    assert new[6].values["opacity"].control == "amount-2"
    assert new[5].steps[0].values["amount"].formula == "out.blur_2.size * control.amount_2"
    assert new[2].steps[0].values["amount"].formula == "out.blur.size * control.amount"


def test_an_input_that_is_not_chosen_stays_open_on_its_card() -> None:
    effect = read_effect(LIT)
    part = keep_part(effect, "Over", steps=places("over"))
    changed, _ = apply(effect, InsertPart(part=part, to="out", at=9))
    assert changed.lanes[2].steps[-1].inputs == {}


def test_a_lane_without_a_name_is_called_after_the_part_that_starts_it() -> None:
    effect = read_effect(LIT)
    part = keep_part(effect, "Slow grain", steps=[StepPlace(lane="grain", step="noise")])
    names = []
    for wanted in ("", "", "Mine"):
        effect, _ = apply(effect, AddLane(name=wanted) if wanted else AddLane())
        effect, _ = apply(effect, InsertPart(part=part, to=effect.lanes[-2].id))
        names.append(effect.lanes[-2].name)
    assert names == ["Slow grain", "Slow grain 2", "Mine"]
    # A number that belongs to a name stays; a number of a copy counts on.
    for lane, wanted in (("Slow grain 2", "Slow grain 3"), ("Platform 9", "Platform 9 2")):
        if all(one.name != lane for one in effect.lanes):
            effect, _ = apply(effect, AddLane(name=lane))
        source = next(one.id for one in effect.lanes if one.name == lane)
        effect, _ = apply(effect, CopyLane(lane=source))
        assert wanted in [one.name for one in effect.lanes]


def test_lanes_come_back_with_their_slots() -> None:
    effect = read_effect(LIT)
    part = keep_part(effect, "All of it", lanes=["clip", "grain"])
    assert part.inputs == ()
    assert [slot.id for slot in part.slots] == ["clip"]
    empty = read_effect(
        {"name": "E", "kind": "texture", "lanes": [{"id": "out", "name": "Out", "steps": [
            {"id": "flat", "kind": "flat"}]}]}
    )  # fmt: skip
    changed, _ = apply(empty, InsertPart(part=part))
    assert [lane.id for lane in changed.lanes] == ["clip", "grain", "out"]
    assert changed.slots == part.slots
    assert changed.lanes[1].steps[1].inputs["over"].lane == "clip"
    assert np.array_equal(picture(changed, ("grain", "dirt")), picture(effect, ("grain", "dirt")))
    twice, _ = apply(changed, InsertPart(part=part))
    assert [lane.id for lane in twice.lanes] == ["clip", "grain", "clip-2", "grain-2", "out"]
    assert twice.lanes[3].steps[1].inputs["over"].lane == "clip-2"
    assert len({lane.name for lane in twice.lanes}) == 5


@pytest.mark.parametrize(
    ("asked", "said"),
    [
        ({"steps": [StepPlace(lane="grain", step="dirt"), StepPlace(lane="out", step="blur")]}, "several lanes"),
        ({"steps": places("again")}, "reads out.blur.size, which is not among"),
        ({}, "Choose the steps"),
        ({"steps": places("gone")}, "no step “gone”"),
        ({"lanes": ["gone"]}, "no lane “gone”"),
    ],
)  # fmt: skip
def test_what_cannot_be_kept_is_said(asked: dict[str, Any], said: str) -> None:
    with pytest.raises(Fault, match=said):
        keep_part(read_effect(LIT), "Part", **asked)


def test_a_run_that_starts_nothing_cannot_begin_a_lane() -> None:
    part = keep_part(read_effect(TWO), "One", steps=places("one"))
    with pytest.raises(Fault, match="needs a picture to work on"):
        apply(read_effect(LIT), InsertPart(part=part, to="grain", at=0))


@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        ({"format": "pale-static/part@9"}, "A newer version of Pale Static wrote this part"),
        ({"run": True}, "does not know"),
        ({"lanes": []}, "not valid at parts.0.lanes"),
        ({"lanes": [{"id": "run", "name": "R", "steps": [{"id": "a", "kind": "warp-drive"}]}]}, "no step of the kind"),
        ({"lanes": [{"id": "run", "name": "R", "steps": [{"id": "a", "kind": "blend",
          "inputs": {"over": {"lane": "elsewhere"}}}]}]}, "reads “elsewhere”, which is not in it"),
        ({"lanes": [{"id": "a", "name": "A"}, {"id": "b", "name": "B"}]}, "but has several lanes"),
    ],
)  # fmt: skip
def test_a_file_of_parts_may_be_anything(wrong: dict[str, Any], said: str) -> None:
    part = keep_part(read_effect(TWO), "One", steps=places("one")).to_json()
    with pytest.raises(Fault, match=said):
        read_collection({"name": "C", "parts": [part | wrong]})


def test_a_part_works_at_any_size() -> None:
    effect = read_effect(LIT)
    part = keep_part(effect, "Grain", lanes=["clip", "grain"])
    changed, _ = apply(effect, InsertPart(part=part))
    size = Size(40, 90)
    one, two = (
        Engine().evaluate(changed, at(), size, step=(lane, "dirt")).plane
        for lane in ("grain", "grain-2")
    )
    assert np.array_equal(one, two)
