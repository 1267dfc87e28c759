"""A simulation of a render on a cluster: discrete events, from measured costs.

The model: a worker is given a stretch, fetches the media that it has not yet, makes
and encodes the frames, and sends the stretch. The machine that renders has one network connection, which
all transfers share equally, takes stretches one at a time, and joins them at the end.
"""

from __future__ import annotations

import heapq
from dataclasses import dataclass
from math import inf


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
    """A resource that the work on it shares equally: a connection, or the cores of a machine.

    Parameters
    ----------
    rate : float
        What it does in a second.
    most : float
        What it does of one piece of work in a second, however little there is.
    """

    def __init__(self, rate: float, most: float = inf) -> None:
        self.rate, self.most, self.now, self.used = rate, most, 0.0, 0.0
        self.left: dict[int, float] = {}

    @property
    def each(self) -> float:
        """What it does of each piece in a second now."""
        return min(self.most, self.rate / len(self.left))

    def advance(self, now: float) -> None:
        """Work until a time."""
        if self.left:
            done = (now - self.now) * self.each
            self.left = {who: max(0.0, left - done) for who, left in self.left.items()}
            self.used += now - self.now
        self.now = now

    def next_end(self) -> tuple[float, int]:
        """The time at which the next piece is done, and whose it is."""
        if not self.left:
            return inf, -1
        who = min(self.left, key=self.left.__getitem__)
        return self.now + self.left[who] / self.each, who


def simulated(
    costs: Costs, workers: int, frames: int, stretch: int = 100, cores: float = inf
) -> Outcome:
    """A render of ``frames`` frames in stretches.

    Parameters
    ----------
    cores : float
        How many workers a machine keeps at full speed, if all are on one; by default each worker
        has a machine of its own.
    """
    whole, rest = divmod(frames, stretch)
    waiting = [stretch] * whole + ([rest] if rest else [])
    waiting.reverse()
    stretches, taken, taken_until, now, computing = len(waiting), 0, 0.0, 0.0, 0.0
    link, machine = _Shared(costs.network), _Shared(cores, 1.0)
    free = [(costs.opening, who) for who in range(min(workers, stretches))]
    count: dict[int, int] = {}
    fetched: set[int] = set()
    while taken < stretches:
        (sent, sender), (made, maker) = link.next_end(), machine.next_end()
        begins = free[0][0] if free and waiting else inf
        before, now = now, min(sent, made, begins)
        computing += (now - before) * len(machine.left)
        link.advance(now)
        machine.advance(now)
        if now == made:
            del machine.left[maker]
            link.left[maker] = count[maker] * costs.sent
        elif now == sent:
            del link.left[sender]
            if sender not in fetched:
                fetched.add(sender)
                machine.left[sender] = count[sender] * costs.frame
                continue
            fetched.discard(sender)
            taken_until = max(taken_until, now) + costs.taking
            taken += 1
            heapq.heappush(free, (now + costs.handing, sender))
        else:
            _, who = heapq.heappop(free)
            count[who] = waiting.pop()
            link.left[who] = count[who] * costs.media
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
