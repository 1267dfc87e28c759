"""The engine: no work twice, always the same pixels, costs and faults reported."""

from __future__ import annotations

import subprocess
import sys
import threading
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_static.core import Effect, Engine, Fault, Moment, Size, read_effect
from pale_static.core.cache import Cache
from pale_static.core.engine.plan import make_plan
from pale_static.core.faults import Cancelled, Missing
from pale_static.core.kernels.rows import cores, set_threads

from .documents import RATE, SIZE, at, chain, forward, wipe


def computed(engine: Engine, effect: Effect, moment: Moment, **more: Any) -> list[str]:
    found = engine.evaluate(effect, moment, SIZE, **more)
    return [".".join(cost.place) for cost in found.costs if not cost.cached]


def test_a_step_that_does_not_move_is_computed_once_for_all_frames() -> None:
    engine = Engine()
    effect = wipe(matte=[{"kind": "noise"}, {"kind": "blur"}])
    assert sorted(computed(engine, effect, at(10))) == [
        "from.slot", "matte.m0", "matte.m1", "out.a", "out.wipe", "to.slot",
    ]  # fmt: skip
    assert computed(engine, effect, at(11)) == ["out.wipe"]
    assert computed(engine, effect, at(11)) == []


def test_an_evolving_noise_is_computed_again_for_each_frame() -> None:
    engine = Engine()
    effect = wipe(matte=[{"kind": "noise", "values": {"speed": 1}}])
    computed(engine, effect, at(10))
    assert computed(engine, effect, at(11)) == ["matte.m0", "out.wipe"]


def test_changing_a_late_step_recomputes_only_what_follows_it() -> None:
    steps = [{"kind": "noise"}] + [
        {"kind": "levels", "values": {"gamma": 1 + k / 100}} for k in range(15)
    ]
    engine = Engine()
    assert len(computed(engine, chain(*steps), at())) == 16
    steps[13] = {"kind": "levels", "values": {"gamma": 3}}
    assert computed(engine, chain(*steps), at()) == ["out.s13", "out.s14", "out.s15"]


def test_what_is_not_needed_is_not_computed() -> None:
    engine = Engine()
    effect = wipe()
    assert computed(engine, effect, at(0)) == ["from.slot", "out.a", "out.wipe"]
    assert computed(engine, effect, at(49)) == ["to.slot", "out.wipe"]
    assert computed(Engine(), effect, at(20), step=("matte", "m0")) == ["matte.m0"]


def test_a_step_switched_off_or_mixed_to_nothing_is_passed_by() -> None:
    noise, invert = {"kind": "noise"}, {"kind": "invert"}
    plain = Engine().evaluate(chain(noise), at(), SIZE)
    assert (
        Engine().evaluate(chain(noise, invert | {"on": False}), at(), SIZE).plane == plain.plane
    ).all()
    assert Engine().evaluate(chain(noise, invert | {"mix": 0.0}), at(), SIZE).key == plain.key
    half = Engine().evaluate(chain(noise, invert | {"mix": 0.5}), at(), SIZE).plane
    assert np.allclose(half, 0.5)


def test_a_tap_may_look_at_another_frame() -> None:
    lane = {
        "id": "n",
        "name": "N",
        "steps": [{"id": "n", "kind": "noise", "values": {"speed": 1}}],
    }
    out = {
        "id": "out",
        "name": "Out",
        "steps": [
            {"id": "c", "kind": "continue-from", "inputs": {"from": {"lane": "n", "offset": 5}}}
        ],
    }
    effect = read_effect({"name": "E", "kind": "texture", "lanes": [lane, out]})
    engine = Engine()
    later = engine.evaluate(effect, at(15), SIZE, step=("n", "n")).plane
    assert (engine.evaluate(effect, at(10), SIZE).plane == later).all()


@given(st.permutations(list(range(0, 50, 7))), st.sampled_from([0, 1 << 18, 1 << 30]))
def test_any_order_any_cache_any_threads_give_the_same_pixels(order: list[int], cache: int) -> None:
    effect = wipe(
        matte=[
            {"kind": "noise", "values": {"even_out": True, "speed": 0.5}},
            {"kind": "blur"},
        ]
    )
    size = Size(64, 36)
    expected = {n: Engine(0).evaluate(effect, at(n), size).picture.tobytes() for n in order[:3]}
    engine = Engine(cache)
    for threads in (1, 2):
        set_threads(threads)
        try:
            for n in order:
                found = engine.evaluate(effect, at(n), size).picture.tobytes()
                assert expected.get(n, found) == found
        finally:
            set_threads(cores())


def test_two_requests_at_once_compute_a_step_once() -> None:
    engine = Engine()
    effect = chain({"kind": "noise", "values": {"angle": 20, "octaves": 8}}, {"kind": "blur"})
    found: list[list[str]] = []
    gate = threading.Barrier(4)

    def ask() -> None:
        gate.wait()
        costs = engine.evaluate(effect, at(), Size(640, 360)).costs
        found.append([cost.place[1] for cost in costs if not cost.cached and cost.ms > 0])

    threads = [threading.Thread(target=ask) for _ in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(step for one in found for step in one) == ["s0", "s1"]


def test_the_cache_keeps_to_its_bound_and_lets_the_oldest_go() -> None:
    cache = Cache(3 * 400)
    planes = {bytes([k]): np.full((10, 10), k, np.float32) for k in range(4)}
    for key in (b"\x00", b"\x01", b"\x02"):
        cache.put(key, planes[key])
    assert cache.get(b"\x00") is not None
    cache.put(b"\x03", planes[b"\x03"])
    assert cache.get(b"\x01") is None
    assert cache.get(b"\x00") is not None
    assert cache.filling().bytes <= 1200
    cache.put(b"big", np.zeros((100, 100), np.float32))
    assert cache.get(b"big") is None


def test_results_that_are_shared_cannot_be_written_to() -> None:
    plane = Engine().evaluate(chain({"kind": "noise"}), at(), SIZE).plane
    with pytest.raises(ValueError, match="read-only"):
        plane[0, 0] = 1


def test_work_is_given_up_between_steps() -> None:
    steps = [{"kind": "noise"}] + [{"kind": "invert"}] * 5
    asked = []

    def cancelled() -> bool:
        asked.append(1)
        return len(asked) > 2

    engine, plan = Engine(), make_plan(chain(*steps), at(), SIZE)
    with pytest.raises(Cancelled):
        engine.compute(plan, cancelled)
    assert engine.cache.filling().count == 2


def test_lettering_is_given_up_between_letters() -> None:
    asked = []

    def cancelled() -> bool:
        asked.append(1)
        return len(asked) > 4

    title = {"kind": "title", "values": {"text": "Lantern Line", "size": 40}}
    plan = make_plan(chain(title), at(), SIZE)
    with pytest.raises(Cancelled):
        Engine().compute(plan, cancelled)
    # Called once for the step, then for each letter: it stopped at the fourth letter.
    assert len(asked) == 5


def test_planning_is_given_up_too() -> None:
    steps = [{"kind": "noise"}] + [{"kind": "invert"}] * 50
    with pytest.raises(Cancelled):
        Engine().evaluate(chain(*steps), at(), SIZE, cancelled=lambda: True)


def test_costs_are_told_for_every_step_and_remembered() -> None:
    engine = Engine()
    effect = chain({"kind": "noise"}, {"kind": "blur"})
    found = engine.evaluate(effect, at(), SIZE)
    assert [cost.place[1] for cost in found.costs] == ["s0", "s1"]
    assert all(cost.bytes == 96 * 54 * 4 and cost.ms > 0 for cost in found.costs)
    assert found.ms == pytest.approx(sum(cost.ms for cost in found.costs))
    measured = engine.measured(make_plan(effect, at(), SIZE))
    assert set(measured) == {("out", "s0"), ("out", "s1")}


def test_a_chain_of_a_thousand_steps_is_planned_without_running_out_of_stack() -> None:
    steps = [{"kind": "flat"}] + [{"kind": "invert"}] * 999
    found = Engine(1 << 16).evaluate(chain(*steps), at(), Size(4, 4))
    assert found.plane.shape == (4, 4, 4)


def test_faults_name_lane_step_and_value() -> None:
    effect = read_effect(
        {
            "name": "E",
            "kind": "texture",
            "controls": [{"slug": "size", "label": "Size", "type": "number", "default": 1}],
            "lanes": [
                {
                    "id": "out",
                    "name": "Out",
                    "steps": [
                        {"id": "n", "kind": "noise"},
                        {
                            "id": "b",
                            "kind": "blur",
                            "values": {"size": {"control": "size", "range": [0, 200]}},
                        },
                    ],
                }
            ],
        }
    )
    with pytest.raises(Fault, match=r"Out · Blur: size lies between 0 and 100 %h\. It got 200\."):
        Engine().evaluate(effect, at(), SIZE)
    with pytest.raises(Missing, match="no control “nope”"):
        Engine().evaluate(effect, at(), SIZE, settings={"nope": 1})
    with pytest.raises(Missing, match="lane “x”"):
        Engine().evaluate(effect, at(), SIZE, step=("x", "y"))
    still = chain({"kind": "still", "values": {"asset": "gone"}})
    with pytest.raises(Missing, match="“gone” is not in the library"):
        Engine().evaluate(still, at(), SIZE)


def test_half_size_is_the_full_size_reduced() -> None:
    # Tolerance: noise is sampled, not averaged, so its finest octaves differ by up to 3 %.
    effect = wipe(
        matte=[
            {"kind": "noise", "values": {"octaves": 2, "cells": 4}},
            {"kind": "blur", "values": {"size": 3}},
        ]
    )
    full = Engine().evaluate(effect, at(25), Size(640, 360), step=("matte", "m1")).plane
    half = Engine().evaluate(effect, at(25), Size(320, 180), step=("matte", "m1")).plane
    reduced = full.reshape(180, 2, 320, 2).mean((1, 3))
    assert np.abs(reduced - half).max() < 0.03


def test_progress_keys_move_with_the_length() -> None:
    effect = chain({"kind": "noise"}, {"kind": "levels", "values": {"white_out": forward(0, 1)}})
    for length in (5, 101):
        middle = Engine().evaluate(effect, at((length - 1) // 2, length), SIZE).plane
        plain = Engine().evaluate(chain({"kind": "noise"}), at(), SIZE).plane
        assert np.allclose(middle, plain * 0.5, atol=1e-6)
    assert RATE.frames(2) == 50


def test_no_formula_waits_for_a_compiler() -> None:
    program = (
        "import sys\n"
        "from pale_static.core import Moment, FrameRate\n"
        "from pale_static.core.values.formula import evaluate\n"
        "moment = Moment(7, 50, FrameRate.of(25))\n"
        "assert abs(evaluate('drift(3, 2) + dice(4)', moment, (64, 36), None)) < 2\n"
        "assert 'numba' not in sys.modules"
    )
    subprocess.run([sys.executable, "-c", program], check=True)


def test_kernels_are_read_when_they_are_first_called() -> None:
    program = (
        "from pale_static.core import *\n"
        "from pale_static.core.kernels.rows import Kernel, ready_all\n"
        "before = len(Kernel.waiting)\n"
        "effect = "
        "read_effect({'kind': 'texture', 'name': 'N', 'lanes': [{'id': 'out', 'name': 'Out',"
        " 'steps': [{'id': 'a', 'kind': 'noise'}]}]})\n"
        "Engine().evaluate(effect, Moment(0, 1, FrameRate.of(25)), Size(64, 36))\n"
        "after = len(Kernel.waiting)\n"
        "print(before, before - after, ready_all() - after, len(Kernel.waiting))"
    )
    done = subprocess.run(
        [sys.executable, "-c", program], capture_output=True, text=True, check=True
    )
    before, used, left_out, waiting = map(int, done.stdout.split())
    assert before > 60
    assert 0 < used < 10
    assert (left_out, waiting) == (0, 0)
