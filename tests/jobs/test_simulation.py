"""The simulation of a cluster against sums that can be done by hand."""

from __future__ import annotations

from dataclasses import replace

import pytest

from bench.simulation import Costs, best_stretch, simulated

ALONE = Costs(opening=2, handing=0.5, frame=0.1, taking=0, joining=0, media=0, sent=0, network=1e9)
FRAMES = 1000


def test_one_worker_takes_the_sum_of_its_work() -> None:
    # 2 s to open, 1,000 frames of 0.1 s, and 9 hand-overs of 0.5 s between ten stretches.
    assert simulated(ALONE, 1, FRAMES).seconds == pytest.approx(2 + 100 + 4.5)


def test_as_many_workers_as_stretches_take_the_time_of_one_stretch() -> None:
    assert simulated(ALONE, 10, FRAMES).seconds == pytest.approx(2 + 10)
    # More workers than stretches gain nothing, until stretches are shorter.
    assert simulated(ALONE, 1000, FRAMES).seconds == pytest.approx(12)
    assert simulated(ALONE, 100, FRAMES, 10).seconds == pytest.approx(2 + 1)


def test_workers_on_one_machine_share_its_cores() -> None:
    # Four workers on a machine that keeps two at full speed: each computes half as fast.
    shared = simulated(replace(ALONE, handing=0), 4, FRAMES, 250, cores=2)
    assert shared.seconds == pytest.approx(2 + 2 * 250 * 0.1)
    # Two of three stretches are made side by side at 0.75 each, then the last one alone at 1.
    last = simulated(replace(ALONE, handing=0), 2, 300, 100, cores=1.5)
    assert last.seconds == pytest.approx(2 + 10 / 0.75 + 10)


def test_a_render_is_never_faster_than_its_connection_carries_it() -> None:
    # 1,000 frames of 1 MB in and 1 MB out over 10 MB a second need 200 s.
    slow = replace(ALONE, media=1e6, sent=1e6, network=1e7)
    for workers in (10, 100, 1000):
        found = simulated(slow, workers, FRAMES, 10)
        assert found.seconds >= 200
        assert found.network <= 1
    assert simulated(slow, 100, FRAMES, 10).seconds < 215


def test_taking_and_joining_are_done_one_by_one() -> None:
    taking = replace(ALONE, taking=1.0, joining=0.01)
    # 100 stretches of ten frames, one second each, then 10 s of joining.
    assert simulated(taking, 1000, FRAMES, 10).seconds == pytest.approx(2 + 1 + 100 + 10)


def test_short_stretches_pay_for_many_workers_and_long_ones_for_few() -> None:
    assert best_stretch(ALONE, 1, 15_000) > best_stretch(ALONE, 1000, 15_000)
