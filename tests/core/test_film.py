"""Films: passing frames, trails, effects played backwards, shared work in passes."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from pale_static.core import (
    Effect,
    Engine,
    FrameRate,
    Materials,
    Size,
    StillPicture,
    read_effect,
)
from pale_static.core.engine import passes
from pale_static.core.engine.plan import make_plan
from pale_static.core.engine.states import States
from pale_static.core.kernels.colour import tone
from pale_static.core.kernels.rows import cores, set_threads

from .documents import SIZE, at, chain, forward, some_effect, wipe

CLIPS = Materials(
    {
        name: StillPicture(name, np.random.default_rng(k).integers(0, 256, (90, 160, 3), np.uint8))
        for k, name in enumerate(("from", "to", "clip"))
    }
)
TONES = [
    {"kind": "levels", "values": {"gamma": 1.4, "black_in": 0.1}},
    {"kind": "invert", "mix": 0.7},
    {"kind": "threshold", "values": {"softness": 0.4}, "mix": 0.6},
    {"kind": "blend", "values": {"mode": "soft light"}, "inputs": {"over": {"lane": "clip"}}},
    {"kind": "levels", "values": {"channels": "red", "white_out": 0.4}},
]


def look(*steps: dict[str, Any], **more: Any) -> Effect:
    """A look on a clip, with the clip also in a lane of its own."""
    clip = {"id": "c", "kind": "slot"}
    numbered = [{"id": f"s{k}"} | step for k, step in enumerate(steps)]
    lanes = [
        {"id": "clip", "name": "Clip", "steps": [clip]},
        {"id": "out", "name": "Out", "steps": [clip, *numbered]},
    ]
    slots = [{"id": "clip", "name": "Clip"}]
    return read_effect({"name": "Look", "kind": "look", "slots": slots, "lanes": lanes} | more)


@pytest.fixture(autouse=True)
def small_bands(monkeypatch: pytest.MonkeyPatch) -> None:
    """Bands of few rows, so that even a small frame has many of them."""
    monkeypatch.setattr(passes, "BAND_BYTES", 7 * 16 * SIZE.width)


@pytest.mark.parametrize("threads", [1, 2])
def test_neighbours_in_one_pass_give_the_pixels_of_step_by_step(threads: int) -> None:
    set_threads(threads)
    try:
        plan = make_plan(look(*TONES), at(), SIZE, materials=CLIPS)
        plain = Engine(0).compute(plan)
        passing = Engine(0).compute(plan, passing=True)
    finally:
        set_threads(cores())
    assert np.abs(plain.plane - passing.plane).max() <= 1e-6
    told = {cost.place: cost for cost in passing.costs}
    assert {".".join(place) for place in told} >= {f"out.s{k}" for k in range(5)}
    assert all(told["out", f"s{k}"].bytes == 0 for k in range(4))
    assert all(cost.ms >= 0 for cost in passing.costs)


def test_what_another_step_reads_too_stays_apart() -> None:
    branch = {"kind": "blend", "inputs": {"over": {"lane": "out", "step": "s0"}}}
    plan = make_plan(look(TONES[0], TONES[1], branch), at(), SIZE, materials=CLIPS)
    nodes = list(plan.nodes)
    found = passes.group(nodes, range(len(nodes)), lambda node: False)
    joined = [[nodes[k].place[1] for k in one.nodes] for one in found.values()]
    assert joined == [["s1", "s2"]]


def test_a_fault_inside_a_pass_names_its_step_and_harms_nothing(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    effect, engine = look(*TONES), Engine()
    whole = engine.evaluate(effect, at(4), SIZE, materials=CLIPS, passing=True).plane
    with monkeypatch.context() as broken:

        def full(*_: Any) -> None:
            raise MemoryError

        broken.setattr(tone, "threshold", full)
        with pytest.raises(Exception, match=r"Out · Threshold does not fit into memory"):
            engine.evaluate(effect, at(4), SIZE, materials=CLIPS, passing=True)
    again = engine.evaluate(effect, at(4), SIZE, materials=CLIPS, passing=True).plane
    np.testing.assert_array_equal(again, whole)


def test_of_a_film_that_passes_only_what_stands_still_is_kept() -> None:
    effect = wipe(matte=[{"kind": "noise"}, {"kind": "blur"}])
    engine = Engine()
    for frame in (10, 11, 12):
        found = engine.evaluate(effect, at(frame), SIZE, materials=CLIPS, passing=True)
    fresh = [".".join(cost.place) for cost in found.costs if not cost.cached]
    assert fresh == ["out.wipe"]
    # Two slots, noise and its blur, but no frame of the film.
    assert engine.cache.filling().count <= 5


@settings(max_examples=40, deadline=None)
@given(seed=st.integers(0, 10**6), order=st.permutations(list(range(4))))
def test_any_document_gives_the_same_pixels_however_it_is_asked(
    seed: int, order: list[int]
) -> None:
    effect = some_effect(seed)
    frames = [0, 4, 9, 2]
    plain = [Engine(0).evaluate(effect, at(f, 10), SIZE, materials=CLIPS).plane for f in frames]
    cached, passing = Engine(), Engine(1 << 20)
    for turn in (1, 2):
        set_threads(turn)
        for k in order:
            moment = at(frames[k], 10)
            one = cached.evaluate(effect, moment, SIZE, materials=CLIPS).plane
            two = passing.evaluate(effect, moment, SIZE, materials=CLIPS, passing=True).plane
            np.testing.assert_array_equal(one, plain[k])
            np.testing.assert_allclose(two, plain[k], atol=1e-6)
    set_threads(cores())
    assert np.isfinite(plain).all()


TRAIL = {
    "kind": "trail",
    "values": {
        "keep": 0.8,
        "grow": 0.05,
        "turn": 6,
        "shift": [0.01, 0],
        "contrast": 1.1,
        "brightness": -0.01,
    },
}
DOT = {
    "kind": "ramp",
    "values": {"shape": "radial", "start": forward(0.2, 0.8), "stops": [[0, "#FFF"], [1, "#000"]]},
}


def spot(*more: dict[str, Any], **kwargs: Any) -> Effect:
    wide = {"kind": "noise", "values": {"cells": 4, "speed": 2}}
    return chain(wide, {"kind": "threshold"}, *more, **kwargs)


def test_one_frame_of_a_trail_alone_is_that_frame_of_a_full_run() -> None:
    effect = spot(TRAIL)
    engine = Engine()
    run = [engine.evaluate(effect, at(frame), SIZE).plane for frame in range(20)]
    for frame in (19, 7, 0):
        np.testing.assert_array_equal(Engine(0).evaluate(effect, at(frame), SIZE).plane, run[frame])
        fresh = Engine().evaluate(effect, at(frame), SIZE, passing=True).plane
        np.testing.assert_allclose(fresh, run[frame], atol=1e-6)


def test_a_trail_goes_on_from_the_states_that_are_kept() -> None:
    effect = spot(TRAIL)
    for passing in (False, True):
        engine = Engine()
        engine.evaluate(effect, at(15), SIZE, passing=passing)
        found = engine.evaluate(effect, at(16), SIZE, passing=passing)
        fresh = [cost.place[1] for cost in found.costs if not cost.cached]
        assert fresh.count("s2") == 1


def test_a_frame_of_a_trail_costs_the_same_at_any_frame() -> None:
    # Even an engine that keeps no results holds the latest state, so one frame follows another.
    effect, engine = spot(TRAIL), Engine(0)
    steps = []
    for frame in range(120):
        found = engine.evaluate(effect, at(frame, 120), SIZE)
        steps.append(sum(not cost.cached for cost in found.costs))
    assert set(steps[1:]) == {steps[1]}
    plain = Engine().evaluate(effect, at(119, 120), SIZE)
    assert found.key == plain.key
    np.testing.assert_array_equal(found.plane, plain.plane)


def test_what_a_trail_left_is_used_only_where_nothing_it_hangs_on_has_changed() -> None:
    engine = Engine()
    engine.evaluate(spot(TRAIL), at(15), SIZE)
    other = {"kind": "noise", "values": {"cells": 5, "speed": 2}}
    for effect, size in (
        (chain(other, {"kind": "threshold"}, TRAIL), SIZE),
        (spot(TRAIL), Size(80, 46)),
        (spot({**TRAIL, "values": TRAIL["values"] | {"keep": 0.5}}), SIZE),
    ):
        found = engine.evaluate(effect, at(16), size)
        np.testing.assert_array_equal(found.plane, Engine().evaluate(effect, at(16), size).plane)
    # A step after the trail changes nothing that the trail reads, so the trail continues.
    found = engine.evaluate(spot(TRAIL, {"kind": "invert"}), at(16), SIZE)
    assert sum(cost.place[1] == "s2" and not cost.cached for cost in found.costs) == 1


def test_states_are_thinned_out_evenly_and_the_latest_stays() -> None:
    plane = np.zeros((10, 10), np.float32)
    states = States(20 * plane.nbytes)
    for frame in range(400):
        states.note(b"one", frame, str(frame).encode(), plane)
    held = [frame for frame in range(400) if states.at(b"one", frame)]
    assert len(held) == 20
    assert held[-1] == 399
    assert max(after - before for before, after in pairwise(held)) <= 64
    small = States(1)
    for frame in (3, 4):
        small.note(b"one", frame, b"", plane)
    assert small.at(b"one", 4)
    assert not small.at(b"one", 3)
    # A plan that uses both lines keeps the newest of each; one that uses "two" alone does not.
    small.note(b"two", 9, b"", plane, (b"one", b"two"))
    assert small.at(b"one", 4)
    assert small.at(b"two", 9)
    small.note(b"two", 10, b"", plane)
    assert not small.at(b"one", 4)
    assert not small.at(b"two", 9)


def test_a_trail_starts_again_at_its_restarts() -> None:
    without, effect = spot(), spot(TRAIL | {"values": {"restart": "0.4, 0.6"}})
    for frame in (0, 10, 15):
        alone = Engine().evaluate(without, at(frame), SIZE).picture
        np.testing.assert_array_equal(Engine().evaluate(effect, at(frame), SIZE).picture, alone)
    found = Engine().evaluate(effect, at(12), SIZE)
    assert sum(cost.place[1] == "s2" for cost in found.costs) == 3  # frames 10, 11, 12
    for text in ("soon", "inf", "nan", "0.5, 1e400"):
        with pytest.raises(Exception, match="Trail: Restarts are seconds"):
            Engine().evaluate(spot(TRAIL | {"values": {"restart": text}}), at(3), SIZE)


def test_a_kept_spot_fades_by_the_share_that_is_kept() -> None:
    # One frame of white, then nothing: frame n holds keep^n of it.
    white = {"kind": "flat", "values": {"colour": "#FFFFFF"}, "mix": 1}
    clear = {"kind": "levels", "values": {"white_out": {"keys": [
        {"time": 0, "value": 1, "ease": "hold"},
        {"anchor": "start", "time": 0.04, "value": 0, "ease": "hold"},
    ]}}}  # fmt: skip
    trail = {"kind": "trail", "values": {"keep": 0.9}}
    for frame in range(6):
        found = Engine().evaluate(chain(white, clear, trail), at(frame), SIZE).picture
        assert found[20, 30, 0] == pytest.approx(0.9**frame, abs=1e-5)


def test_a_stutter_holds_and_computes_what_it_holds_once() -> None:
    engine = Engine()
    effect = spot({"kind": "stutter", "values": {"every": 4}})
    free = [Engine().evaluate(spot(), at(frame), SIZE).plane for frame in range(12)]
    for frame in range(12):
        found = engine.evaluate(effect, at(frame), SIZE)
        np.testing.assert_array_equal(found.plane, free[frame // 4 * 4])
        if frame % 4:
            assert all(cost.cached for cost in found.costs)


def test_an_irregular_stutter_holds_for_lengths_by_chance_up_to_nearly_twice() -> None:
    effect = spot({"kind": "stutter", "values": {"every": 5, "irregular": True, "seed": 3}})
    keys = [make_plan(effect, at(frame, 400), SIZE).key for frame in range(400)]
    starts = [0] + [k for k in range(1, 400) if keys[k] != keys[k - 1]]
    holds = np.diff(starts)
    assert holds.min() >= 1
    assert holds.max() <= 9
    assert 4 <= holds.mean() <= 6
    assert len(set(holds)) > 4


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10**6))
def test_played_backwards_any_effect_gives_its_frames_in_reverse(seed: int) -> None:
    effect = some_effect(seed).model_copy(update={"backwards": False})
    turned = effect.model_copy(update={"backwards": True})
    for frame in (0, 3, 11):
        one = Engine().evaluate(effect, at(frame, 12), SIZE, materials=CLIPS).plane
        two = Engine().evaluate(turned, at(11 - frame, 12), SIZE, materials=CLIPS).plane
        np.testing.assert_array_equal(one, two)


def test_a_transition_played_backwards_still_leads_from_the_first_clip_to_the_second() -> None:
    effect = wipe().model_copy(update={"backwards": True})
    plain = wipe()
    ends = {}
    for name in ("from", "to"):
        place = (name, "slot")
        ends[name] = Engine().evaluate(plain, at(), SIZE, step=place, materials=CLIPS).picture
    first = Engine().evaluate(effect, at(0), SIZE, materials=CLIPS).picture
    last = Engine().evaluate(effect, at(49), SIZE, materials=CLIPS).picture
    np.testing.assert_array_equal(first, ends["from"])
    np.testing.assert_array_equal(last, ends["to"])
    # The places uncovered last forwards are uncovered first backwards.
    swapped = Materials({"from": CLIPS.slots["to"], "to": CLIPS.slots["from"]})
    middle = Engine().evaluate(effect, at(20), SIZE, materials=CLIPS).picture
    mirror = Engine().evaluate(plain, at(29), SIZE, materials=swapped).picture
    np.testing.assert_array_equal(middle, mirror)


class _Counting:
    """Footage whose every frame is its number as a grey."""

    identity, size, length = "counting", Size(16, 9), 200
    rate = FrameRate.of(25)

    def pixels(self, index: int) -> Any:
        return np.full((9, 16, 3), index, np.uint8)


def test_footage_runs_forwards_in_an_effect_played_backwards() -> None:
    effect = look(backwards=True)
    running = Materials({"clip": _Counting()})
    for frame in (0, 7, 49):
        found = Engine().evaluate(effect, at(frame), Size(16, 9), materials=running)
        assert round(float(found.picture[0, 0, 0]) * 255) == frame


def test_a_toggle_lets_the_editor_play_it_backwards() -> None:
    control = {"slug": "way", "label": "Play backwards", "type": "toggle", "default": False}
    effect = look(
        {"kind": "levels", "values": {"white_out": forward()}},
        controls=[control], backwards={"control": "way"},
    )  # fmt: skip
    bright = [
        Engine()
        .evaluate(effect, at(0), SIZE, settings=given, materials=CLIPS)
        .picture[..., :3]
        .max()
        for given in ({}, {"way": True})
    ]
    assert bright[0] == 0
    assert bright[1] > 0.5
    with pytest.raises(Exception, match="the control “gone”, which is missing or not a toggle"):
        look(backwards={"control": "gone"})
