"""The order of computing: pictures that people wait for first, and nothing for clients that
left."""

from __future__ import annotations

import threading
import time

import pytest

from pale_static.core.faults import Cancelled
from pale_static.serving import Quiet
from pale_static.web.request_order import GLANCED_AT, OFFERED, WAITED_FOR, Turns


def never() -> bool:
    return False


def test_the_most_urgent_goes_first_and_what_is_waited_for_does_not_wait() -> None:
    turns, order, go = Turns(1), [], threading.Event()

    def work(rank: int, name: str) -> None:
        with turns.turn(rank, never):
            order.append(name)

    def hold() -> None:
        with turns.turn(GLANCED_AT, never):
            order.append("first")
            go.wait(5)

    threads = [threading.Thread(target=hold)]
    threads[0].start()
    while not order:
        time.sleep(0.001)
    for rank, name in ((OFFERED, "offer"), (GLANCED_AT, "card"), (GLANCED_AT, "next card")):
        threads.append(threading.Thread(target=work, args=(rank, name)))
        threads[-1].start()
        while len(turns._waiting) < len(threads) - 1:
            time.sleep(0.001)
    work(WAITED_FOR, "monitor")
    go.set()
    for thread in threads:
        thread.join(5)
    assert order == ["first", "monitor", "card", "next card", "offer"]


def test_who_has_left_gives_the_turn_up() -> None:
    turns = Turns(1)
    with turns.turn(GLANCED_AT, never), pytest.raises(Cancelled), turns.turn(OFFERED, lambda: True):
        pass
    with turns.turn(GLANCED_AT, never):
        pass  # nothing is left behind


def test_what_is_glanced_at_begins_after_what_is_waited_for_but_does_not_starve() -> None:
    order: list[str] = []
    turns = Turns(2, patience=0.3)

    def card() -> None:
        with turns.turn(GLANCED_AT, lambda: False):
            order.append("card")

    with turns.turn(WAITED_FOR, lambda: False):
        thread = threading.Thread(target=card)
        thread.start()
        thread.join(0.1)
        order.append("monitor")
    thread.join(5)
    assert order == ["monitor", "card"]
    # A monitor that is always busy does not keep cards waiting for ever.
    with turns.turn(WAITED_FOR, lambda: False):
        thread = threading.Thread(target=card)
        thread.start()
        thread.join(5)
        order.append("monitor")
    assert order == ["monitor", "card", "card", "monitor"]


def test_a_few_monitors_are_computed_at_once_and_the_others_wait_for_them() -> None:
    turns, inside, most, go = Turns(1, urgent=2), [0], [0], threading.Event()

    def monitor() -> None:
        with turns.turn(WAITED_FOR, never):
            inside[0] += 1
            most[0] = max(most[0], inside[0])
            go.wait(5)
            inside[0] -= 1

    threads = [threading.Thread(target=monitor) for _ in range(5)]
    for thread in threads:
        thread.start()
    while inside[0] < 2:
        time.sleep(0.001)
    with pytest.raises(Cancelled), turns.turn(WAITED_FOR, lambda: True):
        pass
    go.set()
    for thread in threads:
        thread.join(5)
    assert (most[0], inside[0]) == (2, 0)


def test_a_page_that_looks_again_and_again_does_not_keep_background_work_waiting() -> None:
    quiet = Quiet(lambda environ, start: [b""])
    quiet({"PATH_INFO": "/api/effects/1/2/frame.jpg"}, None)
    assert not quiet.lasts(0.1)
    end = time.monotonic() + 5
    while not quiet.lasts(0.1):
        quiet({"PATH_INFO": "/api/screen-copies"}, None)
        assert time.monotonic() < end
