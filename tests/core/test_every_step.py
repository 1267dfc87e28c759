"""What holds for every step there is: sizes, extremes, odd pictures."""

from __future__ import annotations

from random import Random
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter

from pale_static.core import Engine, Fault, Materials, Size, StillPicture, read_effect
from pale_static.core.steps import StepKind, step_kinds

from .documents import KINDS, at, some_effect, some_step

FULL, HALF = Size(640, 360), Size(320, 180)
BY_NAME = pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.kind)


def calm(size: Size) -> np.ndarray:
    """A clip without detail that half the pixels could not hold."""
    rng = np.random.default_rng(3)
    pixels = gaussian_filter(rng.random((360, 640, 3)), (14, 14, 0))
    pixels = (pixels - pixels.min()) / np.ptp(pixels)
    return (pixels * 255 + 0.5).astype(np.uint8)


CLIP = Materials({"clip": StillPicture("calm", calm(FULL))})

# The documented tolerance: mean difference of the full picture reduced from the half one, at the
# values a step comes with. What is new in every pixel by chance is compared by its mean alone.
TOLERANCE = 0.012
FINE = {
    "noise": 0.03, "stripes": 0.03, "checks": 0.04, "dots": 0.03, "halftone": 0.03,
    "line-screen": 0.03, "grain": 0.06, "dither": 0.04,
}  # fmt: skip
# Patterns finer than the pixels of the half size are taken large enough for it.
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
    """What an effect gives, or the sentence that says why it gives nothing."""
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
    # The page of the guide is written from it: what comes out, or that it is what came in.
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
    # The order that people see: sources, then what is done to them, pictures put together last.
    order = list(dict.fromkeys(kind.family for kind in step_kinds()))
    assert order[0] == "Sources"
    assert order[-2:] == ["Combine", "Time"]


def test_there_are_steps_of_every_family_that_is_built() -> None:
    families = {kind.family for kind in step_kinds()}
    assert families >= {
        "Sources", "Tone and colour", "Blur and sharpen", "Mattes", "Space", "Combine", "Time",
    }  # fmt: skip
