"""Repeats, and steps moved, copied and removed several at once."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from pale_static.core import Effect, Engine, Size, read_effect
from pale_static.core.changes import apply
from pale_static.core.changes.models import (
    AddStep,
    CopyLane,
    CopySteps,
    MoveSteps,
    ReleaseSteps,
    RemoveSteps,
    RepeatSteps,
    SetLane,
    SetValue,
    Several,
    StepPlace,
    TurnSteps,
)
from pale_static.core.faults import Fault
from pale_static.core.proof.curves import moving

from .documents import RATE, SIZE, at, chain, forward

ADD = {"kind": "levels", "values": {"black_out": 0.0625, "white_out": 1.0625}}
"""Adds a sixteenth: exact in binary, so that passes can be counted."""


def grey(value: float) -> dict[str, Any]:
    level = round(value * 255)
    return {
        "id": "ground",
        "kind": "flat",
        "values": {"colour": f"#{level:02X}{level:02X}{level:02X}"},
    }


def repeat(*steps: dict[str, Any], count: Any = 3, **more: Any) -> dict[str, Any]:
    held = [{"id": f"in{k}"} | step for k, step in enumerate(steps)]
    return {"id": "again", "kind": "repeat", "values": {"count": count}, "steps": held} | more


def level(effect: Effect, frame: int = 0, step: tuple[str, str] | None = None) -> float:
    plane = Engine().evaluate(effect, at(frame), Size(8, 6), step=step).plane
    assert np.ptp(plane[..., 0]) == 0
    return float(plane[0, 0, 0])


def test_a_repeat_runs_its_steps_over_their_own_result() -> None:
    effect = chain(grey(0), repeat(ADD, count=5))
    assert level(effect) == 5 / 16
    effect = chain(grey(0), repeat(ADD, count=5), {"kind": "invert"})
    assert level(effect) == 1 - 5 / 16


def test_every_pass_can_be_looked_at_and_from_outside_the_last_is_meant() -> None:
    effect = chain(grey(0), repeat(ADD, ADD, count=4))
    seen = [level(effect, step=("out", f"in0@{turn}")) for turn in range(4)]
    assert seen == [1 / 16, 3 / 16, 5 / 16, 7 / 16]
    assert level(effect, step=("out", "in0")) == 7 / 16
    assert level(effect, step=("out", "in1@0")) == 2 / 16
    assert level(effect, step=("out", "again")) == 8 / 16


def test_formulas_know_the_pass_and_the_count() -> None:
    step = {
        "kind": "levels",
        "values": {
            "black_out": {"formula": "pass / 16 / passes * 4"},
            "white_out": {"formula": "1 + pass / 16 / passes * 4"},
        },
    }
    assert level(chain(grey(0), repeat(step, count=4))) == (0 + 1 + 2 + 3) / 16


def test_the_count_may_move_and_the_weight_is_against_what_came_in() -> None:
    effect = chain(grey(0), repeat(ADD, count=forward(1, 8)))
    assert (level(effect, 0), level(effect, 49)) == (1 / 16, 8 / 16)
    assert level(chain(grey(0), repeat(ADD, count=8, mix=0.5))) == 0.25
    assert level(chain(grey(0), repeat(count=8))) == 0
    assert level(chain(grey(0), repeat(ADD, count=8, on=False))) == 0


def test_a_tap_that_names_the_repeat_is_what_comes_into_the_pass() -> None:
    back = {
        "kind": "blend",
        "values": {"mode": "difference"},
        "inputs": {"over": {"lane": "out", "step": "again"}},
    }
    # The difference between a pass's result and its input is always the same sixteenth.
    assert level(chain(grey(0), repeat(ADD, back, count=1))) == 1 / 16
    same = {
        "kind": "blend",
        "values": {"mode": "difference"},
        "inputs": {"over": {"lane": "out", "step": "in0"}},
    }
    assert level(chain(grey(0), repeat(ADD, same, count=3))) == 0


def test_repeated_small_blurs_are_one_large_one() -> None:
    """Variances of Gaussians add up (common practice): 4 passes of σ are one of 2σ."""
    noise = {"kind": "noise", "values": {"cells": 6}}
    small = {"kind": "blur", "values": {"size": 1.5, "outside": "mirror"}}
    large = {"kind": "blur", "values": {"size": 3.0, "outside": "mirror"}}
    size = Size(192, 108)
    many = Engine().evaluate(chain(noise, repeat(small, count=4)), at(), size).plane
    once = Engine().evaluate(chain(noise, large), at(), size).plane
    assert np.abs(many - once).max() < 0.01


@pytest.mark.parametrize(
    ("steps", "said"),
    [
        ([grey(0), repeat(repeat(ADD) | {"id": "x", "steps": []})], "another repeat"),
        ([grey(0), repeat({"kind": "flat"})], "starts a lane"),
        ([grey(0), repeat({"kind": "threshold"})], "cannot start from it"),
        ([grey(0), ADD | {"steps": [ADD | {"id": "y"}]}], "cannot hold other steps"),
        ([grey(0), repeat(ADD | {"id": "ground"})], "share the name"),
        (
            [grey(0), repeat({"kind": "blend", "inputs": {"over": {"lane": "out", "step": "in1"}}}, ADD)],
            "A loop",
        ),
    ],
)  # fmt: skip
def test_what_cannot_be_repeated_is_said(steps: list[dict[str, Any]], said: str) -> None:
    with pytest.raises(Fault, match=said):
        chain(*steps)


def test_a_repeat_that_comes_to_too_much_is_refused_by_name() -> None:
    effect = chain(grey(0), repeat(*[ADD] * 30, count=200))
    with pytest.raises(Fault, match="Out · Repeat would run 200 × 30 steps"):
        Engine().evaluate(effect, at(), SIZE)


def places(*names: str, lane: str = "out") -> tuple[StepPlace, ...]:
    return tuple(StepPlace(lane=lane, step=name) for name in names)


def order(effect: Effect, lane: str = "out") -> list[str]:
    found = effect.lane(lane)
    assert found
    return [step.id for step in found.every]


def test_neighbours_are_repeated_and_let_go_again() -> None:
    effect = chain(grey(0), ADD, ADD, {"kind": "invert"})
    changed, words = apply(effect, RepeatSteps(lane="out", steps=("s2", "s1")))
    assert words == "2 steps repeated"
    assert order(changed) == ["ground", "repeat", "s1", "s2", "s3"]
    assert level(changed) == 1 - 6 / 16
    back, _ = apply(changed, ReleaseSteps(lane="out", step="repeat"))
    assert order(back) == order(effect)
    with pytest.raises(Fault, match="Only neighbours"):
        apply(effect, RepeatSteps(lane="out", steps=("s1", "s3")))
    with pytest.raises(Fault, match="starts the lane"):
        apply(effect, RepeatSteps(lane="out", steps=("ground", "s1")))


def test_steps_go_in_and_out_of_a_repeat() -> None:
    effect = chain(grey(0), repeat(ADD, count=2), {"kind": "invert"})
    changed, _ = apply(effect, MoveSteps(steps=places("s2"), to="out", at=9, inside="again"))
    assert order(changed) == ["ground", "again", "in0", "s2"]
    assert level(changed) == 1 - (1 - 1 / 16 + 1 / 16)
    changed, _ = apply(changed, AddStep(lane="out", kind="levels", at=0, inside="again"))
    assert order(changed) == ["ground", "again", "levels", "in0", "s2"]
    changed, _ = apply(changed, MoveSteps(steps=places("in0", "s2"), to="out", at=2))
    assert order(changed) == ["ground", "again", "levels", "in0", "s2"]
    assert [step.id for step in changed.lanes[0].steps] == ["ground", "again", "in0", "s2"]
    for wrong in ("ground", "again"):
        with pytest.raises(Fault):
            apply(effect, MoveSteps(steps=places(wrong), to="out", at=0, inside="again"))


TWO = {
    "name": "Two",
    "kind": "texture",
    "lanes": [
        {"id": "side", "name": "Side", "steps": [grey(0.5), ADD | {"id": "add"}]},
        {
            "id": "out",
            "name": "Out",
            "steps": [
                grey(0) | {"id": "base"},
                {"id": "one", "kind": "levels", "values": {"gamma": 2.0}},
                {
                    "id": "two", "kind": "blend",
                    "values": {"opacity": {"formula": "out.one.gamma / 4"}},
                    "inputs": {"over": {"lane": "side", "step": "add"}},
                },
                {
                    "id": "three", "kind": "blend", "mix": {"formula": "side.add.black_out * 4"},
                    "inputs": {"over": {"lane": "out", "step": "one"}},
                },
            ],
        },
    ],
    "notes": [{"text": "Why so dark", "lane": "out", "step": "one"}],
}  # fmt: skip


def test_what_reads_a_moved_step_still_does_in_taps_formulas_and_notes() -> None:
    effect = read_effect(TWO)
    changed, words = apply(effect, MoveSteps(steps=places("one"), to="side", at=9))
    assert words == "Levels moved"
    out = changed.lanes[1].steps
    assert out[1].values["opacity"].formula == "side.one.gamma / 4"
    assert (out[2].inputs["over"].lane, out[2].inputs["over"].step) == ("side", "one")
    assert changed.notes[0].lane == "side"
    assert [line.samples[0] for line in moving(changed, 10, RATE, 2)] == [0.5, 0.25]


def test_formulas_by_shown_names_outlive_renaming() -> None:
    effect = read_effect(TWO)
    effect, _ = apply(
        effect,
        SetValue(lane="out", step="two", value_name="opacity", value={"formula": "out.levels.gamma / 4"}),
    )  # fmt: skip
    effect, _ = apply(effect, SetLane(lane="out", name="Picture"))
    effect, _ = apply(
        effect,
        SetValue(lane="out", step="two", value_name="opacity", value={"formula": "picture.levels.gamma/4"}),
    )  # fmt: skip
    effect, _ = apply(effect, SetLane(lane="out", name="End"))
    assert effect.lanes[1].steps[2].values["opacity"].formula == "out.one.gamma/4"


def test_copies_read_each_other_and_not_what_they_were_copied_from() -> None:
    effect = read_effect(TWO)
    changed, words = apply(effect, CopySteps(steps=places("one", "two", "three"), to="out", at=9))
    assert words == "3 steps copied"
    steps = {step.id: step for step in changed.lanes[1].steps}
    assert list(steps)[-3:] == ["one-2", "two-2", "three-2"]
    assert steps["two-2"].values["opacity"].formula == "out.one_2.gamma / 4"
    assert steps["two-2"].inputs == steps["two"].inputs
    assert steps["three-2"].inputs["over"].step == "one-2"
    assert steps["three-2"].mix == steps["three"].mix


def test_a_lane_is_copied_with_what_it_reads_of_itself() -> None:
    effect = read_effect(TWO)
    changed, _ = apply(effect, CopyLane(lane="out"))
    assert [lane.id for lane in changed.lanes] == ["side", "out-2", "out"]
    copy = changed.lanes[1]
    assert copy.name == "Out 2"
    assert copy.steps[3].inputs["over"].lane == "out-2"
    assert copy.steps[2].values["opacity"].formula == "out_2.one.gamma / 4"
    assert copy.steps[2].inputs["over"].lane == "side"
    one, two = (
        Engine().evaluate(changed, at(), SIZE, step=(lane, "three")).plane
        for lane in ("out", "out-2")
    )
    assert np.array_equal(one, two)


def test_several_are_removed_and_turned_off_at_once() -> None:
    effect = read_effect(TWO)
    changed, _ = apply(effect, TurnSteps(steps=places("one", "three"), on=False))
    assert [step.on for step in changed.lanes[1].steps] == [True, False, True, False]
    effect, _ = apply(effect, SetValue(lane="out", step="two", value_name="opacity", value=0.5))
    changed, words = apply(effect, RemoveSteps(steps=places("one")))
    assert words == "Levels removed"
    assert changed.notes == ()
    assert changed.lanes[1].steps[2].inputs == {}


def test_changes_made_as_one_happen_all_or_not_at_all() -> None:
    effect = read_effect(TWO)
    good = SetValue(lane="out", step="one", value_name="gamma", value=3)
    bad = SetValue(lane="out", step="one", value_name="gamma", value=-3)
    changed, words = apply(
        effect, Several(changes=(good, TurnSteps(steps=places("one"), on=False)))
    )
    assert words == "Levels: gamma 2 → 3 and 1 more"
    assert not changed.lanes[1].steps[1].on
    assert apply(effect, Several(changes=(good, good), said="Gamma pasted"))[1] == "Gamma pasted"
    with pytest.raises(Fault, match="gamma"):
        apply(effect, Several(changes=(good, bad)))
