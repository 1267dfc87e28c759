"""The order of requests: pictures that a person waits for are computed before previews."""

from __future__ import annotations

import heapq
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from itertools import count
from threading import Condition
from time import monotonic
from typing import cast

from flask import request

from ..core.faults import Cancelled

WAITED_FOR, GLANCED_AT, OFFERED, AHEAD = range(4)
"""The monitor; pictures on cards; previews of possible changes; frames ahead of the playhead."""


def gone() -> Callable[[], bool]:
    """A function that says whether the client has hung up, if the server can find out."""
    disconnected = request.environ.get("waitress.client_disconnected")
    return cast(Callable[[], bool], disconnected) if callable(disconnected) else lambda: False


class Turns:
    """Lets a few computations run at once, the most urgent first. The monitor's waits only for
    other monitors'.

    Each computation already uses all cores for its kernels, so several at once only slow each other
    down.
    Less urgent ones do not begin beside urgent ones, but after ``patience`` seconds they begin in
    any case. Those ahead of the playhead always wait.
    """

    def __init__(self, most: int, patience: float = 0.4, urgent: int = 3) -> None:
        self._free = most
        # Each one holds tens of megabytes while it is computed.
        self._urgent_free = urgent
        self._patience = patience
        self._urgent = 0
        self._order = count()
        self._waiting: list[tuple[int, int]] = []
        self._changed = Condition()

    @contextmanager
    def turn(self, rank: int, lost: Callable[[], bool]) -> Iterator[None]:
        """Wait for a turn.

        Raises
        ------
        Cancelled
            If nobody wants the result any more.
        """
        if rank == WAITED_FOR:
            with self._changed:
                self._urgent += 1
            begun = False
            try:
                with self._changed:
                    while not self._urgent_free:
                        self._changed.wait(0.1)
                        if lost():
                            raise Cancelled
                    self._urgent_free -= 1
                    begun = True
                yield
            finally:
                with self._changed:
                    self._urgent -= 1
                    self._urgent_free += begun
                    self._changed.notify_all()
            return
        asked = monotonic()
        mine = (rank, next(self._order))
        with self._changed:
            heapq.heappush(self._waiting, mine)
            try:
                while not (
                    self._free
                    and self._waiting[0] == mine
                    and (
                        not self._urgent or (rank != AHEAD and monotonic() - asked > self._patience)
                    )
                ):
                    self._changed.wait(0.1)
                    if lost():
                        raise Cancelled
                self._free -= 1
            finally:
                self._waiting.remove(mine)
                heapq.heapify(self._waiting)
                self._changed.notify_all()
        try:
            yield
        finally:
            with self._changed:
                self._free += 1
                self._changed.notify_all()
