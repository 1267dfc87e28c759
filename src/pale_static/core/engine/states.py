"""What steps that go on from their own last result gave, so that the next frame starts there."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from threading import Lock

from ..picture import Plane


@dataclass(frozen=True)
class State:
    """The result of a feedback step at one frame, with its content hash."""

    key: bytes
    plane: Plane


class States:
    """Results of feedback steps by line and frame. Safe to use from several threads.

    A line is one step of one document with all that it reads. Of each line the latest result is
    held, however large it is; earlier ones are thinned out evenly, so that a jump back replays
    only a stretch of the frames.

    Parameters
    ----------
    limit : int
        Bytes to hold at most, apart from the latest result.
    """

    def __init__(self, limit: int) -> None:
        self.limit = limit
        self._lines: OrderedDict[bytes, dict[int, State]] = OrderedDict()
        self._bytes = 0
        self._lock = Lock()

    def at(self, line: bytes, frame: int) -> State | None:
        """What the step of a line gave at a frame; None where it is not held."""
        with self._lock:
            return self._lines.get(line, {}).get(frame)

    def note(self, line: bytes, frame: int, key: bytes, plane: Plane) -> None:
        """Hold a result, and let go of others past the limit."""
        with self._lock:
            held = self._lines.setdefault(line, {})
            self._lines.move_to_end(line)
            if frame not in held:
                self._bytes += plane.nbytes
                held[frame] = State(key, plane)
            while self._bytes > self.limit and self._drop(line, frame):
                pass

    def _drop(self, line: bytes, frame: int) -> bool:
        """Let go of one result: of the line used longest ago, else where the gap stays smallest."""
        oldest = next(iter(self._lines))
        held = self._lines[oldest]
        if oldest != line:
            gone = next(iter(held))
        else:
            order = sorted(held)
            gaps = {
                at: order[min(k + 1, len(order) - 1)] - order[max(k - 1, 0)]
                for k, at in enumerate(order)
                if at != frame
            }
            if not gaps:
                return False
            gone = min(gaps, key=lambda at: (gaps[at], at))
        self._bytes -= held.pop(gone).plane.nbytes
        if not held:
            del self._lines[oldest]
        return True
