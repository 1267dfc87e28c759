"""Frames in runs of neighbours."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

STRETCH = 100
"""Frames in one stretch of a film. A render that is killed loses at most this many."""


def runs_of(frames: Iterable[int], most: int = STRETCH) -> Iterator[tuple[int, int]]:
    """Frame numbers in order, as runs of neighbours: the first frame and the count of each."""
    first, count = 0, 0
    for frame in frames:
        if count and (frame != first + count or count == most):
            yield first, count
            count = 0
        if not count:
            first = frame
        count += 1
    if count:
        yield first, count
