"""Effects within effects: the same steps in one effect give the same pixels."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from pale_static.core import Effect, Engine, Materials, Size, StillPicture
from pale_static.core.engine.plan import MOST_NESTED, make_plan
from pale_static.core.faults import Fault, OutOfRange
from pale_static.core.footage import Nested
from pale_static.core.pictures.picture import as_picture

from .documents import SIZE, at, wipe
from .test_film import CLIPS, look

NOISE = {"kind": "noise", "values": {"speed": 1.0, "cells": 4}}
STEPS: dict[str, list[dict[str, Any]]] = {
    "tone": [{"kind": "levels", "values": {"gamma": 1.7}}, {"kind": "invert", "mix": 0.4}],
    "space": [{"kind": "transform", "values": {"turn": 20, "scale_x": 0.7}}],
    "blur": [{"kind": "blur", "values": {"size": 4}}],
    "trail": [
        {"kind": "transform", "values": {"position": {"keys": [
            {"time": 0, "value": [0.2, 0.5]}, {"time": 1, "value": [0.8, 0.5]}]}}},
        {"kind": "trail", "values": {"keep": 0.8}},
    ],
    "formula": [{"kind": "levels", "values": {"gamma": {"formula": "1 + progress"}}}],
}  # fmt: skip


def flat_and_nested(first: list[Any], second: list[Any]) -> tuple[Effect, Effect, Effect]:
    return look(*first, *second), look(*first, name="Inner"), look(*second, name="Outer")


def shown(effect: Effect, length: int = 25, **more: Any) -> Materials:
    nested = Nested("Inner on Hall", effect, length, materials=CLIPS, **more)
    return Materials({**CLIPS.slots, "clip": nested})


@pytest.mark.parametrize("frame", [0, 7, 24])
@pytest.mark.parametrize("inner", STEPS)
@pytest.mark.parametrize("outer", ["tone", "space", "trail"])
def test_nested_and_flat_are_the_same_to_the_bit(inner: str, outer: str, frame: int) -> None:
    # Source: definition. The same steps in one effect and in two.
    flat, one, two = flat_and_nested(STEPS[inner], STEPS[outer])
    whole = Engine().evaluate(flat, at(frame, 25), SIZE, materials=CLIPS)
    apart = Engine().evaluate(two, at(frame, 25), SIZE, materials=shown(one))
    np.testing.assert_array_equal(apart.plane, whole.plane)


def test_content_keys_compose() -> None:
    """Equal steps have the same key in any place, so they are computed once."""
    flat, one, two = flat_and_nested(STEPS["tone"], STEPS["blur"])
    whole = make_plan(flat, at(5, 25), SIZE, materials=CLIPS)
    apart = make_plan(two, at(5, 25), SIZE, materials=shown(one))
    assert whole.key == apart.key
    assert [node.key for node in whole.nodes] == [node.key for node in apart.nodes]


def test_a_look_stack_under_a_join_equals_its_separate_renders() -> None:
    left, right = look(*STEPS["trail"]), look(*STEPS["space"], *STEPS["tone"])
    join = wipe(matte=[NOISE])
    nested = Materials(
        {
            "from": Nested("Left", left, 40, materials=CLIPS, first=15),
            "to": Nested("Right", right, 30, materials=CLIPS),
        }
    )
    for frame in (0, 9, 24):
        apart = [
            Engine().evaluate(left, at(frame + 15, 40), SIZE, materials=CLIPS).picture,
            Engine().evaluate(right, at(frame, 30), SIZE, materials=CLIPS).picture,
        ]
        given = Materials(
            {
                name: StillPicture(name, plane)
                for name, plane in zip(("from", "to"), apart, strict=True)
            }
        )
        whole = Engine().evaluate(join, at(frame, 25), SIZE, materials=nested).picture
        expected = Engine().evaluate(join, at(frame, 25), SIZE, materials=given).picture
        assert np.abs(whole - expected).max() <= 1e-6
        if frame == 0:
            np.testing.assert_array_equal(whole, apart[0])


def test_pictures_pass_as_floats() -> None:
    """Values above white in a look return in the effect that shows it."""
    bright = look({"kind": "levels", "values": {"white_out": 4}})
    back = look({"kind": "levels", "values": {"white_out": 0.25}})
    found = Engine().evaluate(back, at(0, 25), SIZE, materials=shown(bright)).picture
    plain = Engine().evaluate(look(), at(0, 25), SIZE, materials=CLIPS).picture
    assert np.abs(found - as_picture(plain)).max() <= 1e-6


def test_a_transition_played_backwards_runs_its_nested_clips_forwards() -> None:
    inner = look(*STEPS["formula"])
    fills = Materials({"from": Nested("In", inner, 25, materials=CLIPS), "to": CLIPS.slots["to"]})
    forward, backward = wipe(matte=[NOISE]), wipe(matte=[NOISE])
    backward = backward.model_copy(update={"backwards": True})
    begin = Engine().evaluate(backward, at(0, 25), SIZE, materials=fills).picture
    plain = Engine().evaluate(forward, at(0, 25), SIZE, materials=fills).picture
    np.testing.assert_array_equal(begin, plain)


def test_steps_that_read_other_frames_ask_the_nested_effect_for_them() -> None:
    echo = [{"kind": "stutter", "values": {"every": 5}}]
    flat, one, two = flat_and_nested(STEPS["formula"], echo)
    for frame in (2, 13, 24):
        whole = Engine().evaluate(flat, at(frame, 25), SIZE, materials=CLIPS)
        apart = Engine().evaluate(two, at(frame, 25), SIZE, materials=shown(one))
        np.testing.assert_array_equal(apart.plane, whole.plane)


def test_a_trail_goes_on_from_what_an_earlier_frame_left() -> None:
    _, one, two = flat_and_nested(STEPS["trail"], STEPS["tone"])
    engine = Engine()
    engine.evaluate(two, at(20, 25), SIZE, materials=shown(one))
    plan = make_plan(two, at(21, 25), SIZE, materials=shown(one), states=engine.states)
    assert sum(node.kind.kind == "trail" for node in plan.nodes) == 2
    alone = Engine().evaluate(two, at(21, 25), SIZE, materials=shown(one))
    np.testing.assert_array_equal(engine.compute(plan).plane, alone.plane)


def test_a_fault_names_every_level() -> None:
    broken = look({"kind": "levels", "name": "Fade", "values": {"gamma": {"formula": "0 / frame"}}})
    outer = look(name="Outer")
    middle = Materials({"clip": Nested("Hall", look(), 25, materials=shown(broken))})
    with pytest.raises(Fault, match=r"^Hall · Inner on Hall · Out · Fade: gamma"):
        make_plan(outer, at(0, 25), SIZE, materials=middle)


def test_a_wrong_setting_of_a_nested_effect_names_it() -> None:
    control = {"slug": "gain", "label": "Gain", "type": "number", "default": 1, "allowed": [0, 2]}
    inner = look({"kind": "levels", "values": {"gamma": {"control": "gain"}}}, controls=[control])
    with pytest.raises(OutOfRange, match=r"Inner on Hall: “Gain”"):
        make_plan(look(), at(0, 25), SIZE, materials=shown(inner, settings={"gain": 9}))


def test_depth_is_bounded_and_said() -> None:
    def deep(levels: int) -> Materials:
        materials = CLIPS
        for _ in range(levels):
            materials = (
                shown(look(), 25)
                if materials is CLIPS
                else Materials({"clip": Nested("Again", look(), 25, materials=materials)})
            )
        return materials

    assert make_plan(look(), at(0, 25), SIZE, materials=deep(MOST_NESTED)).nodes
    with pytest.raises(Fault, match=f"nests more than {MOST_NESTED} effects"):
        make_plan(look(), at(0, 25), SIZE, materials=deep(MOST_NESTED + 1))


def test_identity_names_the_content() -> None:
    one = Nested("A", look(*STEPS["tone"]), 25, materials=CLIPS)
    assert one.identity == replace(one, name="B").identity
    others = [
        replace(one, length=26), replace(one, first=1), replace(one, settings={"x": 1}),
        replace(one, materials=Materials()), replace(one, effect=look()),
    ]  # fmt: skip
    assert len({one.identity, *(other.identity for other in others)}) == 6


def test_the_edge_frames_of_a_nested_effect_hold() -> None:
    inner = look(*STEPS["formula"])
    nested = Nested("Short", inner, 5, materials=CLIPS)
    late = Engine().evaluate(
        look(), at(20, 25), Size(32, 18), materials=Materials({"clip": nested})
    )
    last = Engine().evaluate(inner, at(4, 5), Size(32, 18), materials=CLIPS)
    np.testing.assert_array_equal(late.plane, last.plane)
