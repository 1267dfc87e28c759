"""The tasks of a film, and the tasks that workers have."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from ...core.faults import Fault
from ...core.frames.source import FrameSource

RUN_UP = 0.25
"""The largest share of a task's frames that its run-up may have; else two tasks become one."""


@dataclass
class Task:
    """A run of stretches for one worker, in order."""

    stretches: list[tuple[int, int]]
    tried: dict[str, str] = field(default_factory=dict)
    """Workers that could not do it, each with the reason."""
    renewals: int = 0
    doubled: bool = False
    """Whether a second worker does the same, because the first one is slow."""

    @property
    def frames(self) -> int:
        """The number of its frames."""
        return sum(count for _, count in self.stretches)

    @property
    def name(self) -> str:
        """The task for people."""
        first, (last, count) = self.stretches[0][0], self.stretches[-1]
        return f"Frames {first} to {last + count - 1}"


@dataclass
class Flight:
    """A task that one worker has."""

    task: Task
    stretches: frozenset[tuple[int, int]]
    future: Any
    worker: str
    began: float
    frames: int = 0
    """Frames of it that are made."""
    sent: set[int] = field(default_factory=set)
    """First frames of the stretches that came from it."""

    @property
    def sent_frames(self) -> int:
        """The number of frames in those stretches."""
        return sum(count for first, count in self.stretches if first in self.sent)


def tasks_of(source: FrameSource, wanted: list[tuple[int, int]]) -> list[Task]:
    """Stretches as tasks. A task begins where little must be computed first.

    A feedback step needs its earlier frames. Where a new task would need more of them than a
    quarter of the frames of the task before it, that task goes on instead.
    """
    tasks: list[Task] = []
    for first, count in wanted:
        last = tasks[-1] if tasks else None
        follows = last is not None and sum(last.stretches[-1]) == first
        if last is not None and follows and _run_up(source, first) > RUN_UP * last.frames:
            last.stretches.append((first, count))
        else:
            tasks.append(Task([(first, count)]))
    return tasks


def _run_up(source: FrameSource, frame: int) -> int:
    """Earlier frames that must be computed before a frame; 0 if its plan fails."""
    try:
        return source.on(None).at(frame).plan.run_up
    except Fault:
        return 0
