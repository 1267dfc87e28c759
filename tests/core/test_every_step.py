"""Claims that hold for every step: sizes, extremes, odd pictures."""

from __future__ import annotations

from dataclasses import dataclass
from random import Random
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter

from pale_static.core import (
    Engine,
    Fault,
    FrameRate,
    Materials,
    Size,
    StillPicture,
    read_effect,
)
from pale_static.core.steps import StepKind, step_kinds
from pale_static.core.values.params import (
    Choice,
    ColourParam,
    Number,
    Param,
    Point,
    Stops,
    Toggle,
)

from .documents import KINDS, RATE, at, some_effect, some_step

FULL, HALF = Size(640, 360), Size(320, 180)
BY_NAME = pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.kind)


def calm(size: Size) -> np.ndarray:
    """A clip without finer detail than half the pixels can hold."""
    rng = np.random.default_rng(3)
    pixels = gaussian_filter(rng.random((360, 640, 3)), (14, 14, 0))
    pixels = (pixels - pixels.min()) / np.ptp(pixels)
    return (pixels * 255 + 0.5).astype(np.uint8)


CLIP = Materials({"clip": StillPicture("calm", calm(FULL))})

# The documented tolerance at a step's start values: the mean difference between the reduced full
# picture and the half-size one. Pictures with random pixels are compared by their mean only.
TOLERANCE = 0.012
FINE = {
    "noise": 0.03, "stripes": 0.03, "checks": 0.04, "dots": 0.03, "halftone": 0.03,
    "line-screen": 0.03, "grain": 0.06, "dither": 0.04,
}  # fmt: skip
# Patterns finer than pixels of the half size are made larger.
COARSE = {"halftone": {"cell": 6}, "line-screen": {"cell": 6}, "dither": {"pixel": 100 / 45}}


def one(kind: StepKind, values: Any = None, frame: int = 12) -> Any:
    """The step on a calm clip, with calm clouds in all its inputs."""
    inputs = {source.name: {"lane": "clouds"} for source in kind.inputs}
    step = {
        "id": "s",
        "kind": kind.kind,
        "values": dict(kind.fresh) | (values or {}),
        "inputs": inputs,
    }
    main = [] if kind.main is None else [{"id": "c", "kind": "slot"}]
    if kind.main == "matte":
        main.append({"id": "t", "kind": "threshold", "values": {"softness": 0.6}})
    clouds = [
        {"id": "n", "kind": "noise", "values": {"cells": 3, "octaves": 2}},
        {"id": "b", "kind": "blur", "values": {"size": 1.5}},
    ]
    return read_effect(
        {
            "name": "One",
            "kind": "look",
            "slots": [{"id": "clip", "name": "Clip"}],
            "lanes": [
                {"id": "clouds", "name": "Clouds", "steps": clouds},
                {"id": "out", "name": "Out", "steps": [*main, step]},
            ],
        }
    )


def result(effect: Any, size: Size, materials: Materials) -> Any:
    """The result of an effect, or the sentence of its fault."""
    try:
        return Engine().evaluate(effect, at(3, 9), size, materials=materials).plane
    except Fault as fault:
        return fault.sentence


@BY_NAME
def test_half_the_size_is_the_full_size_reduced(kind: StepKind) -> None:
    effect = one(kind, COARSE.get(kind.kind))
    full = Engine().evaluate(effect, at(12), FULL, materials=CLIP).picture
    half = Engine().evaluate(effect, at(12), HALF, materials=CLIP).picture
    reduced = full.reshape(180, 2, 320, 2, 4).mean((1, 3))
    assert np.abs(reduced - half).mean() <= FINE.get(kind.kind, TOLERANCE)
    assert reduced.mean() == pytest.approx(half.mean(), abs=0.01)


@BY_NAME
def test_a_step_declares_itself_whole(kind: StepKind) -> None:
    told = kind.describe()
    assert told["label"]
    assert told["sentence"].endswith(".")
    # The guide's page comes from it: the kind of the result, or that it is the input's.
    definition = told["definition"]
    assert len(definition) > 20
    assert kind.main is not None or "(H, W" in definition or kind.kind == "continue-from"
    assert set(kind.takes_eight) <= {"main", *(source.name for source in kind.inputs)}
    for value in told["values"]:
        assert {"name", "label", "type", "default", "help"} <= value.keys()
        if value["type"] == "number":
            low, high = value["allowed"]
            assert low is None or low <= value["slider"][0] <= value["default"]
            assert high is None or high >= value["slider"][1] >= value["default"]
    assert kind.words


@BY_NAME
def test_every_step_gives_a_result_at_its_defaults_at_any_size(kind: StepKind) -> None:
    for size in (Size(1, 1), Size(3, 40), Size(64, 36)):
        found = Engine().evaluate(one(kind), at(3, 9), size, materials=CLIP).plane
        assert np.isfinite(found).all()
        assert found.shape[:2] == (size.height, size.width)


@BY_NAME
@settings(max_examples=12, deadline=None)
@given(seed=st.integers(0, 10**6))
def test_the_ends_of_every_range_give_a_result_or_a_sentence(kind: StepKind, seed: int) -> None:
    chance = Random(seed)
    values = some_step(chance, kind, "s", ["clouds"], extreme=True)["values"]
    for size in (Size(1, 1), Size(3, 40), Size(64, 36)):
        for clip in (np.zeros((5, 7, 4), np.uint8), np.full((3, 3, 3), 255, np.uint8)):
            materials = Materials({"clip": StillPicture(f"clip{clip.shape}", clip)})
            found = result(one(kind, values), size, materials)
            if isinstance(found, str):
                assert found.endswith(".")
                continue
            assert np.isfinite(found).all()
            assert found.shape[:2] == (size.height, size.width)


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 10**6))
def test_effects_at_the_ends_of_their_ranges_evaluate_or_say_why(seed: int) -> None:
    effect = some_effect(seed, extreme=True)
    found = result(effect, Size(48, 27), CLIP)
    assert found.endswith(".") if isinstance(found, str) else np.isfinite(found).all()


def test_the_catalogue_begins_with_what_a_lane_begins_with() -> None:
    # The order on screen: sources first, then steps that change pictures, combining steps last.
    order = list(dict.fromkeys(kind.family for kind in step_kinds()))
    assert order[0] == "Sources"
    assert order[-2:] == ["Combine", "Time"]


def test_there_are_steps_of_every_family_that_is_built() -> None:
    families = {kind.family for kind in step_kinds()}
    assert families >= {
        "Sources", "Tone and colour", "Blur and sharpen", "Mattes", "Space", "Combine", "Time",
    }  # fmt: skip


SMALL = Size(160, 90)


@dataclass(frozen=True)
class Lively:
    """A clip that moves, has clear parts, and differs in every colour and frame."""

    identity: str = "lively"
    size: Size = SMALL
    rate: FrameRate = RATE
    length: int = 60

    def pixels(self, index: int) -> Any:
        rng = np.random.default_rng(9)
        smooth = gaussian_filter(rng.random((90, 160, 3)), (5, 5, 0))
        smooth = np.roll((smooth - smooth.min()) / np.ptp(smooth), 4 * index, 1)
        y, x = np.mgrid[0:90, 0:160]
        alpha = np.clip(np.hypot(x - 60 - index, y - 45) - 24.5, 0, 1)
        return (np.dstack([smooth, alpha]) * 255 + 0.5).astype(np.uint8)


# Values at which a step's other values have an effect.
AWAKE: dict[str, dict[str, Any]] = {
    "slot": {"fit": "actual"},
    "ramp": {"start": [0.3, 0.5], "end": [0.6, 0.5]},
    "title": {"text": "One line too wide\nand two", "size": 24.0, "move_by": "letter", "arrival": 0.5, "from_tint": 0.5,
              "move_order": "by chance"},
    "levels": {"gamma": 1.6},
    "blur": {"vertical_size": 4.0},
    "transform": {"scale_x": 0.7, "scale_y": 0.7, "turn": 20.0},
    "corner-pull": {"top_left": [0.2, 0.2], "bottom_right": [0.8, 0.9]},
    "raster-lines": {"lines": 20.0, "flicker": 0.3, "roll": 1.3},
    "trail": {"grow": -0.05, "keep": 0.8},
    "stutter": {"every": 5, "irregular": True},
    "echo": {"grow": -0.1, "shift": [0.1, 0.0]},
    "speed": {"speed": 0.37},
    "hold-and-blend": {"every": 7},
    "sharpen": {"amount": 3.0, "size": 2.0},
    "blend": {"opacity": 0.5},
    "pixelate": {"cell": 0.23},
    "twirl": {"radius": 150.0, "turn": 140.0},
}  # fmt: skip
# Values that change nothing here, with the reasons.
ASLEEP = {
    ("slot", "slot"): "there is one slot", ("slot", "offset"): "seen by its frame alone",
    ("still", "asset"): "no picture in the library", ("lookup-table", "table"): "no table",
    ("title", "font"): "another family, see the title's tests",
    ("repeat", "count"): "it holds no step here",
}  # fmt: skip
# Integrals of moving speeds: see test_speeds.
ASLEEP |= {(kind.kind, "moving_speed"): "its speed stands still" for kind in KINDS}


def other_values(param: Param) -> list[Any]:
    """Values far from a parameter's default."""
    if isinstance(param, Number):
        low, high = param.slider
        wanted = [low, high, low + 0.37 * (high - low)]
        return [v for v in (round(w) if param.whole else w for w in wanted) if v != param.default]
    if isinstance(param, Toggle):
        return [True, False]
    if isinstance(param, Choice):
        return [option for option in param.options if option != param.default]
    if isinstance(param, ColourParam):
        return ["#30C080"]
    if isinstance(param, Point):
        return [[param.default[0] + 0.21, param.default[1] + 0.13]]
    if isinstance(param, Stops):
        return [[[0, "#102030"], [1, "#F0C040"]]]
    return ["0.2"] if param.type == "text" else []


def awake(kind: StepKind, param: Param, at_hand: dict[str, Any]) -> tuple[dict[str, Any], set[str]]:
    """Values and inputs at which a parameter is shown, by its declaration."""
    values, fed = dict(at_hand), set()
    for name, choices in param.when.items():
        other = kind.get(name)
        if other is None:
            fed |= {name} if choices[0] else set()
            continue
        now = values.get(name, other.default)
        if choices and now not in choices:
            values[name] = choices[0]
        elif not choices and not now:
            assert isinstance(other, Number)
            values[name] = (
                max(1, round(other.slider[1] / 2)) if other.whole else other.slider[1] / 2
            )
        values, more = awake(kind, other, values)
        fed |= more
    return values, fed


def shown(kind: StepKind, values: dict[str, Any], fed: set[str], frame: int) -> Any:
    document = one(kind, values).model_dump(mode="json")
    step = document["lanes"][-1]["steps"][-1]
    for source in kind.inputs:
        # Choose has no other picture here.
        if source.optional and source.name not in fed and kind.kind != "choose":
            step["inputs"].pop(source.name, None)
    clip = Materials({"clip": Lively()})
    return Engine().evaluate(read_effect(document), at(frame), SMALL, materials=clip).picture


@BY_NAME
def test_every_value_that_is_shown_changes_the_picture(kind: StepKind) -> None:
    idle = []
    for param in kind.params:
        if (kind.kind, param.name) in ASLEEP:
            continue
        values, fed = awake(kind, param, AWAKE.get(kind.kind, {}))
        found = 0.0
        for frame in (13, 16, 19):
            plain = shown(kind, values, fed, frame)
            for value in other_values(param):
                try:
                    changed = shown(kind, values | {param.name: value}, fed, frame)
                except Fault:
                    continue
                found = max(found, float(np.abs(changed - plain).max()))
            if found > 1e-3:
                break
        if found <= 1e-3:
            idle.append((param.name, found))
    assert not idle


@BY_NAME
def test_a_value_that_is_hidden_changes_nothing(kind: StepKind) -> None:
    for param in kind.params:
        for name, choices in param.when.items():
            other = kind.get(name)
            if not isinstance(other, Choice | Toggle) or not choices:
                continue
            hidden = next(
                (o for o in (getattr(other, "options", (True, False))) if o not in choices), None
            )
            if hidden is None:
                continue
            values = AWAKE.get(kind.kind, {}) | {name: hidden}
            try:
                plain = shown(kind, values, set(), 13)
                for value in other_values(param)[:2]:
                    changed = shown(kind, values | {param.name: value}, set(), 13)
                    np.testing.assert_allclose(changed, plain, atol=1e-6, err_msg=param.name)
            except Fault:
                continue
