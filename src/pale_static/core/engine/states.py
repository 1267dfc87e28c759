"""Results of feedback steps, so that the next frame continues from them."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Collection
from dataclasses import dataclass
from threading import Lock

from ..pictures.picture import Plane


@dataclass(frozen=True)
class State:
    """The result of a feedback step at one frame, with its content hash."""

    key: bytes
    plane: Plane


class States:
    """Results of feedback steps by line and frame. Safe to use from several threads.

    A line is one step of one document with all that it reads. Of each line that a plan uses the
    newest result is kept, however large it is. Earlier ones are thinned out evenly, so that a jump
    back replays only a stretch of the frames.

    Parameters
    ----------
    limit : int
        Bytes to hold at most, apart from those newest results.
    """

    def __init__(self, limit: int) -> None:
        self.limit = limit
        # The line that was used longest ago comes first; within a line, the oldest result.
        self._lines: OrderedDict[bytes, OrderedDict[int, State]] = OrderedDict()
        self._bytes = 0
        self._lock = Lock()

    def at(self, line: bytes, frame: int) -> State | None:
        """The result of a line at a frame; None if it is not held."""
        with self._lock:
            held = self._lines.get(line)
            return None if held is None else held.get(frame)

    def note(
        self, line: bytes, frame: int, key: bytes, plane: Plane, used: Collection[bytes] = ()
    ) -> None:
        """Keep a result, and drop others past the limit.

        Parameters
        ----------
        used : collection of bytes
            All lines of the plan that the result belongs to.
        """
        with self._lock:
            held = self._lines.setdefault(line, OrderedDict())
            self._lines.move_to_end(line)
            if frame not in held:
                self._bytes += plane.nbytes
                held[frame] = State(key, plane)
            held.move_to_end(frame)
            while self._bytes > self.limit and self._drop({line, *used}):
                pass

    def _drop(self, used: set[bytes]) -> bool:
        """Drop one result: from the line used longest ago that the plan does not use, else from the
        longest line."""
        line = next((one for one in self._lines if one not in used), None)
        if line is not None:
            self._remove(line, next(iter(self._lines[line])))
            return True
        line = max(self._lines, key=lambda one: len(self._lines[one]))
        held = self._lines[line]
        if len(held) < 2:
            return False
        self._remove(line, _least_missed(held, next(reversed(held))))
        return True

    def _remove(self, line: bytes, frame: int) -> None:
        self._bytes -= self._lines[line].pop(frame).plane.nbytes
        if not self._lines[line]:
            del self._lines[line]


def _least_missed(held: Collection[int], newest: int) -> int:
    """The frame whose loss leaves the smallest gap; never the newest result."""
    order = sorted(held)
    gaps = {
        at: order[min(k + 1, len(order) - 1)] - order[max(k - 1, 0)]
        for k, at in enumerate(order)
        if at != newest
    }
    return min(gaps, key=lambda at: (gaps[at], at))
