"""Promises of every transition: exact ends, and a weight that never falls."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_static.core import (
    Effect,
    Engine,
    Materials,
    Size,
    StillPicture,
    read_effect,
    to_pixels,
)
from pale_static.core.engine.plan import make_plan
from pale_static.core.frames.effect import EffectSource
from pale_static.core.proof import coverage_curve, jumps
from pale_static.demo.content import ember_fray, quiet_luma
from pale_static.demo.shelf import SHELF

from .documents import RATE, SIZE, at, wipe

RNG = np.random.default_rng(3)
CLIPS = Materials(
    {
        "from": StillPicture("a", RNG.integers(0, 256, (54, 96, 3), dtype=np.uint8)),
        "to": StillPicture("b", RNG.integers(0, 256, (54, 96, 3), dtype=np.uint8)),
    }
)
DISSOLVES = [
    {
        "kind": "dissolve",
        "values": {"style": style, "progress": {"keys": [{"time": 0, "value": 0}, {"time": 1, "value": 1}]}},
        "inputs": {"incoming": {"lane": "to"}},
    }
    for style in ("plain", "additive", "film-like")
]  # fmt: skip
EFFECTS = {
    "wipe": wipe(),
    **{f"dissolve {d['values']['style']}": wipe(d) for d in DISSOLVES},  # type: ignore[index]
    "Ember Fray": read_effect(ember_fray()),
    "Quiet Luma": read_effect(quiet_luma()),
}


def ends(size: Size) -> tuple[np.ndarray, np.ndarray]:
    engine = Engine()
    return tuple(  # type: ignore[return-value]
        engine.evaluate(EFFECTS["wipe"], at(), size, step=(slot, "slot"), materials=CLIPS).plane
        for slot in ("from", "to")
    )


@pytest.mark.parametrize("name", EFFECTS)
@pytest.mark.parametrize("length", [2, 6, 25, 100])
@pytest.mark.parametrize("size", [SIZE, Size(54, 96), Size(60, 60)])
def test_a_transition_begins_and_ends_on_its_clips_to_the_last_bit(
    name: str, length: int, size: Size
) -> None:
    engine = Engine()
    first, second = ends(size)
    found = [
        engine.evaluate(EFFECTS[name], at(n, length), size, materials=CLIPS).picture
        for n in (0, length - 1)
    ]
    assert (found[0] == first).all()
    assert (found[1] == second).all()
    if length > 2:
        middle = engine.evaluate(EFFECTS[name], at(length // 2, length), size, materials=CLIPS)
        assert not (middle.picture == first).all()
        assert not (middle.picture == second).all()


@given(
    st.floats(0, 2), st.booleans(), st.lists(st.floats(0, 1), min_size=5, max_size=9),
    st.floats(0, 0.5),
)  # fmt: skip
def test_the_weight_never_falls_as_progress_grows(
    softness: float, invert: bool, places: list[float], matte_level: float
) -> None:
    matte = [
        {"kind": "noise", "values": {"hardness": 3}},
        {"kind": "levels", "values": {"black_in": matte_level}},
    ]
    effect = wipe(matte=matte)
    black_white = Materials(
        {
            "from": StillPicture("k", np.zeros((4, 4, 3), np.uint8)),
            "to": StillPicture("w", np.full((4, 4, 3), 255, np.uint8)),
        }
    )
    last = np.zeros((9, 16), np.float32)
    for place in sorted([0.0, *places, 1.0]):
        plain = effect.to_json()
        plain["lanes"][-1]["steps"][-1]["values"] = {
            "progress": place, "softness": softness, "invert": invert,
        }  # fmt: skip
        weight = (
            Engine(0)
            .evaluate(Effect.model_validate(plain), at(), Size(16, 9), materials=black_white)
            .picture[..., 0]
        )
        assert (weight >= last - 1e-6).all()
        last = weight
    assert (last == 1).all()


def test_an_evened_out_wipe_uncovers_at_a_steady_rate() -> None:
    effect = wipe(matte=[{"kind": "noise", "values": {"even_out": True, "cells": 9}}])
    plain = effect.to_json()
    plain["lanes"][-1]["steps"][-1]["values"]["softness"] = 0
    shares = coverage_curve(Engine(), source(Effect.model_validate(plain), 101), points=11)
    assert shares == pytest.approx(np.linspace(0, 1, 11), abs=0.02)


def source(effect: Effect, length: int) -> EffectSource:
    return EffectSource(effect=effect, frames=length, given_rate=RATE, materials=CLIPS)


@pytest.mark.parametrize("length", [6, 25])
def test_shipped_transitions_begin_and_end_on_their_clips(length: int) -> None:
    shipped = [read_effect(make()) for make in SHELF]
    transitions = [effect for effect in shipped if effect.kind == "transition"]
    assert len(transitions) >= 10
    for effect in transitions:
        assert jumps(Engine(), source(effect, length)) == [], effect.name


def test_a_transition_that_jumps_is_told_of_at_each_end() -> None:
    plain = wipe().to_json()
    plain["lanes"][-1]["steps"].append(
        {"id": "late", "kind": "levels", "values": {"white_out": 0.8}}
    )
    told = jumps(Engine(), source(Effect.model_validate(plain), 25))
    assert [sentence.split(" clip")[0] for sentence in told] == [
        "The first frame differs from the first", "The last frame differs from the second",
    ]  # fmt: skip
    plain["lanes"][-1]["steps"][-1]["mix"] = {
        "keys": [{"time": time, "value": value} for time, value in ((0, 0), (0.5, 1), (1, 0))]
    }
    assert not jumps(Engine(), source(Effect.model_validate(plain), 25))


def test_quiet_lumas_toggles_decide_what_changes_first() -> None:
    halves = np.zeros((54, 96, 3), np.uint8)
    halves[:, 48:] = 250
    clips = Materials(
        {
            "from": StillPicture("h", halves),
            "to": StillPicture("g", np.full((54, 96, 3), 128, np.uint8)),
        }
    )
    effect = EFFECTS["Quiet Luma"]

    def gone(**settings: object) -> list[bool]:
        plane = (
            Engine().evaluate(effect, at(12, 25), SIZE, settings=settings, materials=clips).picture
        )
        return [bool(abs(plane[27, x, 0] - 128 / 255) < 0.02) for x in (10, 85)]

    straight = {"curve": "linear", "softness": 0.1}
    assert gone(**straight) == [True, False]
    assert gone(**straight, **{"bright-first": True}) == [False, True]
    # By the second clip, which is flat: both halves change together.
    both = gone(**straight, **{"second-clip": True})
    assert both[0] == both[1]


@pytest.mark.parametrize("name", EFFECTS)
def test_what_is_only_looked_at_in_8_bits_is_within_a_code_value(name: str) -> None:
    for frame in (0, 3, 12, 17, 24):
        plan = make_plan(EFFECTS[name], at(frame, 25), SIZE, materials=CLIPS)
        full = to_pixels(Engine().compute(plan).picture).astype(int)
        eight = to_pixels(Engine().compute(plan, eight=True).picture).astype(int)
        assert np.abs(full - eight).max() <= 1
