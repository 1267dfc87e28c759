"""Edits: functions from effect to effect."""

from __future__ import annotations

import contextlib
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from pale_static.core import Effect, Engine, Fault, Size, read_effect
from pale_static.core.changes import Change, apply, drives, new_effect
from pale_static.core.documents.checking import findings
from pale_static.core.documents.macro import (
    faceplate_changes,
    publish,
    read_macro,
    settings_for,
)
from pale_static.core.faults import Clash, Missing
from pale_static.core.proof.curves import moving

from .documents import RATE, at

READ: TypeAdapter[Any] = TypeAdapter(Change)


LEVELS = {"lane": "fray", "step": "levels"}


def do(effect: Effect, **change: Any) -> Effect:
    return apply(effect, READ.validate_python(change))[0]


def words(effect: Effect, **change: Any) -> str:
    return apply(effect, READ.validate_python(change))[1]


def built() -> Effect:
    """An empty transition with noise, levels and a luma wipe, added like in the interface."""
    effect = new_effect("transition", "Fray")
    effect = do(effect, do="add-lane", name="Fray")
    effect = do(effect, do="add-step", lane="fray", kind="noise")
    effect = do(effect, do="add-step", lane="fray", kind="levels")
    return do(effect, do="add-step", lane="out", kind="luma-wipe")


def test_a_new_transition_is_whole_and_shows_its_first_clip() -> None:
    effect = new_effect("transition", "New")
    assert not findings(effect)
    assert [lane.id for lane in effect.lanes] == ["from", "to", "out"]
    for kind in ("look", "title", "texture"):
        assert not findings(new_effect(kind, "New"))  # type: ignore[arg-type]


def test_a_new_step_takes_what_feeds_nothing_yet_before_what_does() -> None:
    effect = new_effect("transition", "Doors")
    for name, kind in (("Leaves", "ramp"), ("Wear", "noise")):
        effect = do(effect, do="add-lane", name=name)
        effect = do(effect, do="add-step", lane=name.lower(), kind=kind)
    # The noise is nearer and a matte, but it bends the ramp already.
    effect = do(effect, do="add-step", lane="leaves", kind="displace")
    assert effect.lanes[2].steps[1].inputs["map"].lane == "wear"
    effect = do(effect, do="add-step", lane="out", kind="luma-wipe")
    assert effect.lanes[-1].steps[-1].inputs["matte"].lane == "leaves"


def test_a_new_blend_lays_the_waiting_clip_through_the_waiting_matte() -> None:
    effect = do(new_effect("transition", "Iris"), do="add-lane", name="Iris")
    effect = do(effect, do="add-step", lane="iris", kind="shape")
    blend = do(effect, do="add-step", lane="out", kind="blend").lanes[-1].steps[-1]
    assert {name: one.lane for name, one in blend.inputs.items()} == {"over": "to", "matte": "iris"}
    # A matte gets a matte on top; of two unused ones neither is preferred.
    effect = do(effect, do="add-lane", name="Wear")
    effect = do(effect, do="add-step", lane="wear", kind="noise")
    blend = do(effect, do="add-step", lane="wear", kind="blend").lanes[3].steps[-1]
    assert {name: one.lane for name, one in blend.inputs.items()} == {"over": "iris"}
    blend = do(effect, do="add-step", lane="out", kind="blend").lanes[-1].steps[-1]
    assert {name: one.lane for name, one in blend.inputs.items()} == {"over": "to"}


def test_a_new_step_finds_its_inputs() -> None:
    effect = built()
    wipe = effect.lanes[-1].steps[-1]
    assert wipe.inputs["incoming"].lane == "to"
    assert wipe.inputs["matte"].lane == "fray"
    assert not findings(effect)
    # It moves from start to end at once, so that it works before anything is set.
    assert [line.value for line in moving(effect, 50, RATE)] == ["progress"]
    assert moving(effect, 50, RATE)[0].samples[50] == pytest.approx(0.5, abs=0.01)


def test_a_lane_without_a_name_is_called_after_its_first_step() -> None:
    effect = do(new_effect("texture", "T"), do="add-lane")
    effect = do(do(effect, do="add-step", lane="lane", kind="noise"), do="add-lane")
    effect = do(effect, do="add-step", lane="lane-2", kind="noise")
    assert [lane.name for lane in effect.lanes] == ["Noise", "Noise 2", "Out"]
    on = do(do(effect, do="add-lane"), do="add-step", lane="lane-3", kind="continue-from")
    assert [lane.name for lane in on.lanes] == ["Noise", "Noise 2", "Noise 3", "Out"]
    # A blend takes the other lane, left or right, never one that reads it.
    effect = do(effect, do="add-step", lane="lane", kind="blend")
    assert effect.lanes[0].steps[1].inputs["over"].lane == "lane-2"
    effect = do(effect, do="add-step", lane="lane-2", kind="blend")
    assert effect.lanes[1].steps[1].inputs == {}


def test_a_source_without_a_lane_starts_one_of_its_own_before_the_output() -> None:
    effect = do(built(), do="add-step", kind="beads")
    assert [lane.id for lane in effect.lanes] == ["from", "to", "fray", "lane", "out"]
    assert [(lane.name, len(lane.steps)) for lane in effect.lanes[-2:]] == [
        ("Beads", 1),
        ("Out", 2),
    ]
    again = do(effect, do="add-step", kind="beads")
    assert again.lanes[-2].name == "Beads 2"


def test_a_step_that_makes_no_sense_is_refused_with_a_reason() -> None:
    effect = built()
    with pytest.raises(Fault, match="starts a lane"):
        do(effect, do="add-step", lane="out", kind="noise")
    with pytest.raises(Fault, match="needs a picture to work on"):
        do(effect, do="move-steps", steps=[LEVELS], to="fray", at=0)
    blended = do(effect, do="add-step", lane="fray", kind="blend")
    with pytest.raises(Fault, match="loop"):
        do(
            blended,
            do="set-input",
            lane="fray",
            step="blend",
            input_name="over",
            input={"lane": "out"},
        )
    with pytest.raises(Missing, match="any more"):
        do(effect, do="remove-steps", steps=[{"lane": "fray", "step": "gone"}])


def test_a_value_out_of_range_is_refused_and_nothing_changes() -> None:
    effect = built()
    before = effect.to_json()
    with pytest.raises(Fault, match="cells lies between"):
        do(effect, do="set-value", lane="fray", step="noise", value_name="cells", value=0)
    assert effect.to_json() == before


def test_history_words_say_what_was_done() -> None:
    effect = built()
    said = words(effect, do="set-value", lane="fray", step="noise", value_name="cells", value=12)
    assert said == "Noise: cells 8 → 12"
    assert (
        words(effect, do="turn-steps", steps=[{"lane": "fray", "step": "noise"}], on=False)
        == "Noise off"
    )
    assert words(effect, do="set-head", seconds=1) == "Length: 2 s → 1 s"


def test_removing_a_lane_takes_away_what_read_it() -> None:
    effect = do(built(), do="remove-lane", lane="fray")
    assert "matte" not in effect.lanes[-1].steps[-1].inputs
    assert [one.open for one in findings(effect)] == [True]
    with pytest.raises(Fault, match="cannot go"):
        do(effect, do="remove-lane", lane="out")


def test_moving_a_step_keeps_what_reads_it() -> None:
    effect = do(built(), do="set-input", lane="out", step="luma-wipe", input_name="matte",
                input={"lane": "fray", "step": "levels"})  # fmt: skip
    effect = do(effect, do="add-lane", name="Other")
    effect = do(effect, do="add-step", lane="other", kind="ramp")
    effect = do(effect, do="move-steps", steps=[LEVELS], to="other", at=1)
    source = effect.lanes[-1].steps[-1].inputs["matte"]
    assert (source.lane, source.step) == ("other", "levels")


def test_exposing_makes_a_control_with_what_the_value_is_now() -> None:
    effect = do(built(), do="set-value", lane="fray", step="noise", value_name="cells", value=6)
    effect = do(effect, do="expose", lane="fray", step="noise", value_name="cells")
    control = effect.controls[0]
    assert (control.slug, control.type, control.default, control.unit) == (
        "cells",
        "number",
        6,
        "cells",
    )
    assert drives(effect, "cells") == [("fray", "noise", "cells")]
    with pytest.raises(Clash):
        do(effect, do="expose", lane="fray", step="noise", value_name="cells")
    sealed = do(effect, do="remove-control", slug="cells")
    assert sealed.lanes[2].steps[0].values["cells"] == 6
    assert not sealed.controls


def test_exposing_a_move_from_start_to_end_exposes_its_curve() -> None:
    effect = do(built(), do="expose", lane="out", step="luma-wipe", value_name="progress")
    assert effect.controls[0].type == "ease"
    found = Engine().evaluate(effect, at(49), Size(8, 8), settings={"curve": {"into": "expo"}})
    assert found.plane.shape == (8, 8, 4)
    sealed = do(effect, do="remove-control", slug="curve")
    assert len(sealed.lanes[-1].steps[-1].values["progress"].keys) == 2
    keyed = do(built(), do="set-value", lane="out", step="luma-wipe", value_name="progress",
               value={"keys": [{"time": 0, "value": 0}, {"time": 0.5, "value": 1}, {"time": 1, "value": 1}]})  # fmt: skip
    with pytest.raises(Fault, match="keys of its own"):
        do(keyed, do="expose", lane="out", step="luma-wipe", value_name="progress")


def test_one_control_drives_many_values() -> None:
    effect = do(
        built(), do="expose", lane="out", step="luma-wipe", value_name="softness", label="Amount"
    )
    effect = do(effect, do="set-value", lane="fray", step="levels", value_name="gamma",
                value={"control": "amount", "range": [3, 1]})  # fmt: skip
    assert len(drives(effect, "amount")) == 2
    assert not findings(effect)


def test_controls_are_renamed_reordered_and_checked() -> None:
    effect = built()
    for name in ("softness", "rim_width"):
        effect = do(effect, do="expose", lane="out", step="luma-wipe", value_name=name)
    effect = do(effect, do="set-control", slug="rim-width", label="Rim", at=0, default=0.2)
    assert [control.label for control in effect.controls] == ["Rim", "Softness"]
    with pytest.raises(Fault, match="lies between"):
        do(effect, do="set-control", slug="softness", default=99)


def test_publishing_asks_for_a_whole_effect_and_controls_that_drive_something() -> None:
    with pytest.raises(Fault, match="needs a source"):
        publish(do(built(), do="remove-lane", lane="fray"), 1)
    effect = do(built(), do="expose", lane="out", step="luma-wipe", value_name="softness")
    macro = publish(effect, 1, author="A")
    assert read_macro(macro.to_json()) == macro
    idle = do(
        effect, do="set-value", lane="out", step="luma-wipe", value_name="softness", value=0.1
    )
    with pytest.raises(Fault, match="drives nothing"):
        publish(idle, 1)


def test_an_update_says_what_changed_and_keeps_what_was_set() -> None:
    old = do(built(), do="expose", lane="out", step="luma-wipe", value_name="softness")
    new = do(old, do="expose", lane="out", step="luma-wipe", value_name="rim_width")
    new = do(new, do="set-control", slug="softness", default=0.3)
    said = faceplate_changes(old, new)
    assert "Adds “Rim width”." in said
    assert any("starts at 0.3" in one for one in said)
    assert faceplate_changes(new, old)[-1] == "Drops “Rim width”."
    assert settings_for(old, {"softness": 0.2, "rim-width": 0.1}) == {"softness": 0.2}


def test_a_change_that_no_document_takes_is_refused_in_words() -> None:
    effect = built()
    with pytest.raises(Fault, match=r"seconds: it must be more than 0\. It got −1"):
        do(effect, do="set-head", seconds=-1)
    with pytest.raises(Fault, match="not valid at"):
        do(
            effect,
            do="set-value",
            lane="fray",
            step="noise",
            value_name="cells",
            value={"keys": []},
        )
    with pytest.raises(Fault, match="does not know"):
        do(effect, do="set-value", lane="fray", step="noise", value_name="cells",
           value={"control": "x", "shine": 1})  # fmt: skip


EDITS = st.lists(
    st.one_of(
        st.builds(lambda kind, lane: {"do": "add-step", "lane": lane, "kind": kind},
                  st.sampled_from(["noise", "ramp", "levels", "blur", "blend", "luma-wipe", "choose", "channel"]),
                  st.sampled_from(["from", "lane", "lane-2", "out"])),
        st.just({"do": "add-lane"}),
        st.builds(lambda lane: {"do": "remove-lane", "lane": lane}, st.sampled_from(["to", "lane", "out"])),
        st.builds(lambda a, b, at: {"do": "move-steps", "steps": [{"lane": a, "step": "levels"}], "to": b, "at": at},
                  st.sampled_from(["lane", "out"]), st.sampled_from(["lane", "lane-2"]), st.integers(0, 3)),
        st.builds(lambda lane, step: {"do": "remove-steps", "steps": [{"lane": lane, "step": step}]},
                  st.sampled_from(["lane", "out"]), st.sampled_from(["noise", "continue-from", "blend"])),
        st.builds(lambda v: {"do": "set-value", "lane": "out", "step": "luma-wipe", "value_name": "softness", "value": v},
                  st.sampled_from([0, 0.5, 9, "x", None, {"keys": [{"time": 0, "value": 1}]}, {"formula": "progress"}])),
        st.just({"do": "expose", "lane": "out", "step": "luma-wipe", "value_name": "softness"}),
        st.just({"do": "remove-control", "slug": "softness"}),
        st.builds(lambda to: {"do": "set-input", "lane": "lane", "step": "blend", "input_name": "over", "input": {"lane": to}},
                  st.sampled_from(["out", "lane", "lane-2", "to"])),
    ),
    max_size=14,
)  # fmt: skip


@given(EDITS)
def test_whatever_is_done_the_document_stays_one_that_reads_back(
    changes: list[dict[str, Any]],
) -> None:
    effect = new_effect("transition", "Any")
    for change in changes:
        with contextlib.suppress(Fault):
            effect = do(effect, **change)
        assert read_effect(effect.to_json()) == effect
    if not findings(effect):
        assert Engine(1 << 20).evaluate(effect, at(7), Size(8, 8)).picture.shape == (8, 8, 4)


def test_a_value_that_follows_a_control_is_kept_where_that_is_asked_for() -> None:
    effect = do(built(), do="expose", lane="fray", step="noise", value_name="cells")
    change = {"do": "set-value", "lane": "fray", "step": "noise", "value_name": "cells", "value": 6}
    with pytest.raises(Fault, match=r"cells follows a control\. Take the control away first"):
        do(effect, **change, keep_control=True)
    assert do(effect, **change).lane("fray").steps[0].values["cells"] == 6  # type: ignore[union-attr]


def test_nothing_is_accepted_that_could_not_be_read_again() -> None:
    # By definition: the limit of the format, also in its schema in docs/formats.
    for change, most in (
        ({"do": "add-slot", "kind": "matte", "name": "Shape"}, 32),
        ({"do": "add-lane", "name": "Lane"}, 200),
    ):
        effect, chosen = new_effect("look", "Full"), TypeAdapter(Change).validate_python(change)
        for _ in range(most - len(effect.lanes if change["do"] == "add-lane" else effect.slots)):
            effect, _said = apply(effect, chosen)
        with pytest.raises(Fault, match=f"has {most + 1} entries, and {most} are allowed"):
            apply(effect, chosen)
        assert read_effect(effect.to_json()) == effect
