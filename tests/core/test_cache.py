"""Caches that share a budget of bytes, and cancelled work."""

from __future__ import annotations

import threading

import numpy as np
import pytest

from pale_static.core.cache import Budget, Cache
from pale_static.core.faults import Cancelled
from pale_static.core.giving_up import check, given_up_when


def test_caches_that_share_a_budget_hold_no_more_than_it_together() -> None:
    room = Budget(1000)
    one, two = Cache[int, bytes](room), Cache[int, bytes](room)
    for k in range(10):
        one.put(k, bytes(100))
    two.put(0, bytes(300))
    assert two.get(0) is not None
    # The entry used longest ago is gone, whichever cache held it.
    assert [k for k in range(10) if k in one] == [3, 4, 5, 6, 7, 8, 9]
    assert one.filling().bytes == two.filling().bytes == 1000
    assert one.filling().count == 7
    one.clear()
    assert two.filling().bytes == 300


def test_one_key_of_two_caches_is_two_things() -> None:
    room = Budget(1000)
    one, two = Cache[str, bytes](room), Cache[str, bytes](room)
    one.put("a", b"one")
    assert two.get("a") is None
    two.put("a", b"two")
    assert (one.get("a"), two.get("a")) == (b"one", b"two")


def test_what_is_larger_than_the_budget_is_not_kept() -> None:
    cache = Cache[str, np.ndarray](100)
    cache.put("a", np.zeros(200, np.uint8))
    assert cache.get("a") is None


def test_a_budget_that_gives_up_bytes_lets_go_of_what_is_over() -> None:
    room = Budget(1000)
    cache = Cache[int, bytes](room)
    for k in range(10):
        cache.put(k, bytes(100))
    room.give_up(500)
    assert [k for k in range(10) if k in cache] == [5, 6, 7, 8, 9]
    cache.put(10, bytes(100))
    assert cache.filling().bytes == 500


def test_work_is_given_up_once_nobody_waits_in_its_own_thread_alone() -> None:
    check()
    asked = []

    def lost() -> bool:
        asked.append(1)
        return len(asked) > 2

    with given_up_when(lost):
        check()
        check()
        other = []

        def beside() -> None:
            check()
            other.append("went on")

        thread = threading.Thread(target=beside)
        thread.start()
        thread.join()
        assert other == ["went on"]
        # A nested block keeps its own condition.
        with given_up_when(None), pytest.raises(Cancelled):
            check()
    check()
