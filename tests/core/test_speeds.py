"""Moving speeds: the distance is their integral, for every way of moving."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any

import numpy as np
import pytest

from pale_static.core import Effect, Engine, FrameRate, Moment, Size, read_effect
from pale_static.core.engine.plan import make_plan
from pale_static.core.steps import step_kind, step_kinds
from pale_static.core.values.integral import mean_so_far
from pale_static.core.values.params import FROM_THE_START

from .documents import chain, forward

SIZE = Size(16, 9)
LENGTH = 51  # two seconds from the first frame to the last, at 25 a second


def led(
    effect: Effect, frame: int, name: str = "speed", rate: str = "25", length: int = LENGTH
) -> float:
    """The distance of the first step's speed at a frame."""
    moment = Moment(frame, length, FrameRate.of(rate))
    node = make_plan(effect, moment, SIZE).nodes[0]
    return float(node.values[name]) * moment.seconds


def noise(speed: Any, **more: Any) -> Effect:
    return chain({"kind": "noise", "values": {"speed": speed}}, **more)


def test_a_linear_fall_leads_half_as_far_as_its_first_speed_and_never_back() -> None:
    effect = noise(forward(0.5, 0))
    # The closed form: v·t − v·t²/(2·T), which is v·T/2 at the end.
    places = [led(effect, frame) for frame in range(LENGTH)]
    for frame, place in enumerate(places):
        seconds = frame / 25
        assert place == pytest.approx(0.5 * seconds - 0.5 * seconds**2 / 4, abs=1e-9)
    assert places[-1] == pytest.approx(0.5 * 2 / 2, abs=1e-9)
    assert all(b >= a for a, b in pairwise(places))


def test_the_same_second_is_led_as_far_at_any_rate() -> None:
    ease = {"into": "expo", "out": "bounce"}
    effect = noise({"keys": [{"time": 0, "value": 2, "ease": ease}, {"time": 1, "value": -1}]})
    assert led(effect, 25) == pytest.approx(led(effect, 50, rate="50", length=101), abs=1e-9)


def test_held_keys_and_jumps_are_exact() -> None:
    keys = [
        {"time": time, "value": value, "ease": "hold"}
        for time, value in ((0, 3), (0.3, 0), (0.7, 1))
    ]
    effect = noise({"keys": keys})
    assert led(effect, 10) == pytest.approx(3 * 0.4, abs=1e-9)
    assert led(effect, 25) == pytest.approx(3 * 0.6, abs=1e-9)
    assert led(effect, 50) == pytest.approx(3 * 0.6 + 1 * 0.6, abs=1e-9)


def test_a_formula_is_integrated_too() -> None:
    effect = noise({"formula": "sin(3 * seconds)"})
    for frame in (1, 13, 50):
        expected = (1 - math.cos(3 * frame / 25)) / 3
        assert led(effect, frame) == pytest.approx(expected, abs=1e-7)


def test_a_constant_speed_and_a_control_stay_what_they_are() -> None:
    control = {"slug": "pace", "label": "Pace", "type": "number", "default": 0.8, "slider": [0, 3]}
    for effect in (noise(0.8), noise({"control": "pace"}, controls=[control])):
        assert led(effect, 40) == 0.8 * (40 / 25)


def test_a_control_that_leads_along_an_ease_is_integrated() -> None:
    control = {"slug": "pace", "label": "Pace", "type": "ease", "default": "linear"}
    effect = noise({"control": "pace", "range": [2, 0]}, controls=[control])
    assert led(effect, 50) == pytest.approx(2 * 2 / 2, abs=1e-9)


def test_a_macro_whose_control_moves_is_integrated() -> None:
    control = {"slug": "pace", "label": "Pace", "type": "number", "default": 0.8, "slider": [0, 3]}
    inner = noise({"control": "pace"}, controls=[control])
    macro = {"slug": "inner", "version": 1, "effect": inner.to_json()}
    outer = chain({"kind": "macro", "macro": macro, "values": {"pace": forward(1, 0)}})
    assert led(outer, 50) == pytest.approx(1 * 2 / 2, abs=1e-9)


def test_other_values_read_the_speed_of_the_moment() -> None:
    effect = chain({"kind": "noise", "values": {
        "speed": forward(0.5, 0), "cells": {"formula": "4 + 2 * out.s0.speed"}}})  # fmt: skip
    node = make_plan(effect, Moment(25, LENGTH, FrameRate.of(25)), SIZE).nodes[0]
    assert node.values["cells"] == pytest.approx(4.5)


def test_every_value_of_so_much_a_second_adds_up() -> None:
    found = {
        (kind.kind, param.name)
        for kind in step_kinds()
        for param in kind.params
        if str(getattr(param, "unit", "")).endswith("/s")
    }
    adding = {
        (kind.kind, param.name)
        for kind in step_kinds()
        for param in kind.params
        if getattr(param, "adds_up", False)
    }
    assert found == adding
    assert all(kind.get("moving_speed") for kind in step_kinds() if (kind.kind, "speed") in adding)


MOVING = [(kind.kind, param.name) for kind in step_kinds() for param in kind.params
          if getattr(param, "adds_up", False)]  # fmt: skip


@pytest.mark.parametrize(("kind", "name"), MOVING)
def test_how_a_moving_speed_counts_changes_the_picture(kind: str, name: str) -> None:
    speed = {"keys": [{"time": 0, "value": 40}, {"time": 1, "value": 0}]}
    pictures = []
    for how in ("adds up", FROM_THE_START):
        lines = {"lines": 10} if kind == "raster-lines" else {}
        own = {"id": "s", "kind": kind, "values": {name: speed, "moving_speed": how, **lines}}
        source = [] if step_kind(kind).main is None else [{"id": "f", "kind": "noise"}]
        lane = {"id": "out", "name": "Out", "steps": [*source, own]}
        effect = read_effect({"name": "S", "kind": "texture", "lanes": [lane]})
        pictures.append(
            Engine().evaluate(effect, Moment(33, LENGTH, FrameRate.of(25)), Size(96, 54)).picture
        )
    assert np.abs(pictures[0] - pictures[1]).max() > 0.01


@pytest.mark.parametrize("seconds", [0.0, 0.3, -2.0, 40.0])
def test_the_mean_of_a_straight_line_is_halfway(seconds: float) -> None:
    assert mean_so_far(lambda t: 3 - 2 * t, seconds) == pytest.approx(3 - seconds, abs=1e-9)
