"""A simulation of a render on a cluster: discrete events, from measured costs.

The model: a worker is given a stretch, fetches the media that it has not yet, makes
and encodes the frames, and sends the stretch. The machine that renders has one network connection, which
all transfers share equally, takes stretches one at a time, and joins them at the end.
"""

from __future__ import annotations

import heapq
from dataclasses import dataclass


@dataclass(frozen=True)
class Costs:
    """What one render costs, in seconds and bytes.

    Parameters
    ----------
    opening : float
        Seconds until a worker makes the first frame of its first stretch: open the film, load
        kernels, seek.
    handing : float
        Seconds from the end of a stretch to the beginning of the worker's next one.
    frame : float
        Seconds to make and encode a frame on one machine alone.
    taking, joining : float
        Seconds of the rendering machine to take a stretch, and to join a frame at the end.
    media, sent : float
        Bytes of media behind one frame, and of one encoded frame.
    network : float
        Bytes a second of the rendering machine's connection.
    """

    opening: float
    handing: float
    frame: float
    taking: float
    joining: float
    media: float
    sent: float
    network: float


@dataclass(frozen=True)
class Outcome:
    """What a simulated render took."""

    seconds: float
    computing: float
    """Share of the workers' time in which they made frames."""
    network: float
    """Share of the time in which the connection was in use."""


class _Shared:
    """A connection that its transfers share equally."""

    def __init__(self, rate: float) -> None:
        self.rate, self.now, self.used = rate, 0.0, 0.0
        self.left: dict[int, float] = {}

    def advance(self, now: float) -> None:
        if self.left:
            each = (now - self.now) * self.rate / len(self.left)
            self.left = {who: size - each for who, size in self.left.items()}
            self.used += now - self.now
        self.now = now

    def next_end(self) -> tuple[float, int] | None:
        if not self.left:
            return None
        who = min(self.left, key=self.left.__getitem__)
        return self.now + max(0.0, self.left[who]) * len(self.left) / self.rate, who


def simulated(
    costs: Costs, workers: int, frames: int, stretch: int = 100, cores: float | None = None
) -> Outcome:
    """A render of ``frames`` frames in stretches.

    Parameters
    ----------
    cores : float, optional
        Machines' worth of computing that all workers share, for workers on one machine; by default
        each worker has a machine of its own.
    """
    whole, rest = divmod(frames, stretch)
    waiting = [stretch] * whole + ([rest] if rest else [])
    stretches = len(waiting)
    pace = 1.0 if cores is None else max(1.0, workers / cores)
    link, computing, taken_until, taken = _Shared(costs.network), 0.0, 0.0, 0
    events: list[tuple[float, int, str, int]] = [
        (costs.opening * pace, who, "free", 0) for who in range(min(workers, stretches))
    ]
    heapq.heapify(events)
    doing: dict[int, tuple[str, int]] = {}
    now = 0.0
    while taken < stretches:
        ending = link.next_end()
        if ending is not None and (not events or ending[0] <= events[0][0]):
            now, who = ending
            link.advance(now)
            del link.left[who]
            what, count = doing.pop(who)
            if what == "fetch":
                heapq.heappush(events, (now + count * costs.frame * pace, who, "made", count))
                computing += count * costs.frame * pace
            else:
                taken_until = max(taken_until, now) + costs.taking
                taken += 1
                heapq.heappush(events, (now + costs.handing, who, "free", 0))
            continue
        now, who, what, count = heapq.heappop(events)
        link.advance(now)
        if what == "free" and waiting:
            count = waiting.pop(0)
            doing[who] = ("fetch", count)
            link.left[who] = count * costs.media
        elif what == "made":
            doing[who] = ("send", count)
            link.left[who] = count * costs.sent
    end = max(now, taken_until) + frames * costs.joining
    return Outcome(end, computing / (end * min(workers, stretches)), link.used / end)


def best_stretch(costs: Costs, workers: int, frames: int) -> int:
    """The length of a stretch with which a render ends first."""
    tried = (10, 25, 50, 100, 200, 400, 800)
    return min(tried, key=lambda one: simulated(costs, workers, frames, one).seconds)


def table(costs: Costs, frames: int) -> list[tuple[int, Outcome, int]]:
    """Workers, the outcome with stretches of 100 frames, and the best stretch."""
    return [
        (workers, simulated(costs, workers, frames), best_stretch(costs, workers, frames))
        for workers in (1, 3, 10, 30, 100, 300, 1000)
    ]


__all__ = ["Costs", "Outcome", "best_stretch", "simulated", "table"]
