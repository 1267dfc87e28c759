"""A crew of processes that compute the frames of a film side by side, handed on in order."""

from __future__ import annotations

import os
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import Future
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from itertools import islice
from multiprocessing.sharedctypes import RawArray
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from ..core.cache import Budget
from ..core.faults import Fault
from ..core.kernels.rows import cores, set_threads
from ..core.pictures.picture import Size
from ..media.kept import decode_with
from ..processes import pool
from .memory import keep_memory

CHUNK = 4
"""Frames in a row for one process, so that a clip is decoded forwards and not by leaps."""
CACHE_BYTES = 192 << 20
"""What each process of a crew keeps: of a film that goes by, only what stands still is kept."""
DECODED_BYTES = 96 << 20
"""Decoded frames that each process keeps: a film reads forwards."""
MOST_BYTES = 1536 << 20
"""What all processes of a render may hold together, the one that writes the film among them."""
OWN_BYTES, PICTURES = 280 << 20, 5
"""What a process holds by itself, and how many pictures of the film's size (measured)."""
CORES_EACH = 4
"""Cores that the kernels of one process keep busy; a second process gains nothing below that."""

Maker = Callable[[int], Any]


class Film(Protocol):
    """What a crew computes. It travels to other processes, so it holds names and numbers only."""

    def maker(self) -> Maker:
        """Open what is needed, and give the function from frame number to finished frame."""


@dataclass(frozen=True)
class _Told:
    """A fault on its way between processes."""

    kind: type[Fault]
    sentence: str
    where: str | None


@dataclass(frozen=True)
class _Laid:
    """A frame that lies in the memory both processes see, instead of travelling through a pipe."""

    start: int
    shape: tuple[int, ...]
    dtype: str

    def seen(self, shared: NDArray[np.uint8]) -> NDArray[Any]:
        """The frame where it lies: good until its place is used again."""
        size = int(np.prod(self.shape)) * np.dtype(self.dtype).itemsize
        return shared[self.start : self.start + size].view(self.dtype).reshape(self.shape)


_make: Maker | None = None
_fault: _Told | None = None
_shared: NDArray[np.uint8] = np.empty(0, np.uint8)
_room = 0


def as_for_films(threads: int = 0) -> None:
    """Set this process up for films, with small caches: each frame is used once."""
    keep_memory()
    decode_with(Budget(DECODED_BYTES), threads)


def _begin(film: Film, threads: int, shared: Any, room: int) -> None:
    global _make, _fault, _shared, _room
    if room:
        _shared, _room = np.frombuffer(shared, np.uint8), room
    set_threads(threads)
    as_for_films(threads)
    try:
        _make = film.maker()
    except Fault as fault:
        _fault = _Told(type(fault), fault.sentence, fault.where)


def _laid(frame: Any, place: int) -> Any:
    """Copy a frame into its place in shared memory, if it is an array that fits."""
    if not isinstance(frame, np.ndarray) or frame.nbytes > _room:
        return frame
    laid = _Laid(place * _room, frame.shape, frame.dtype.str)
    laid.seen(_shared)[...] = frame
    return laid


def _chunk(indices: Sequence[int], place: int) -> list[Any] | _Told:
    if _fault is not None:
        return _fault
    assert _make is not None
    try:
        return [_laid(_make(index), place + k) for k, index in enumerate(indices)]
    except Fault as fault:
        return _Told(type(fault), fault.sentence, fault.where)


def workers_for(size: Size, wanted: int | None = None) -> int:
    """How many processes compute a film on this machine: what its cores feed, within the memory.

    One process computes each frame on several cores and encodes behind it; on two cores that was
    measured faster than two processes.
    """
    if wanted is not None:
        return wanted
    each = OWN_BYTES + PICTURES * 16 * size.width * size.height
    return max(1, min((os.cpu_count() or 1) // CORES_EACH, MOST_BYTES // each - 1))


def frames(
    film: Film,
    indices: Iterable[int],
    workers: int,
    threads: int | None = None,
    always: bool = False,
    room: int = 0,
) -> Iterator[tuple[int, Any]]:
    """Finished frames in order, with their numbers. A frame is good until the next is asked for.

    Parameters
    ----------
    workers : int
        Processes; 1 computes in this process, with all cores inside each frame.
    threads : int, optional
        Cores for each frame; by default each process of a crew has its share of all.
    always : bool
        Start a process even for one worker; for measuring.
    room : int
        Bytes of a finished frame, where all are arrays of one size: such frames are handed over
        in shared memory, without a copy.

    Raises
    ------
    Fault
        What went wrong, as the process it happened in told it.
    """
    if workers <= 1 and not always:
        make: Maker | None = None
        for index in indices:
            make = make or film.maker()
            yield index, make(index)
        return
    share = threads or max(1, cores() // workers)
    left = iter(indices)
    # Take chunks one by one: finding out which frames are wanted may take long.
    chunks = iter(lambda: list(islice(left, CHUNK)), [])
    # Two chunks a process are under way, so finished chunks never pile up.
    most = 2 * workers
    ring = RawArray("B", most * CHUNK * room) if room else None
    shared = np.frombuffer(ring, np.uint8) if ring is not None else _shared
    crew = pool(workers, _begin, film, share, ring, room)
    try:
        ahead: deque[tuple[Sequence[int], Future[Any]]] = deque()
        for number, chunk in enumerate(chunks):
            # Submit the next chunk only once the chunk that used its memory before is written.
            ahead.append((chunk, crew.submit(_chunk, chunk, number % most * CHUNK)))
            if len(ahead) < most:
                continue
            yield from _finished(*ahead.popleft(), shared)
        while ahead:
            yield from _finished(*ahead.popleft(), shared)
    except BrokenProcessPool:
        raise Fault(
            "A render process stopped, usually because memory ran out. "
            "Render again with fewer workers, or at a smaller size."
        ) from None
    finally:
        crew.shutdown(wait=True, cancel_futures=True)


def _finished(
    chunk: Sequence[int], work: Future[Any], shared: NDArray[np.uint8]
) -> Iterator[tuple[int, Any]]:
    done = work.result()
    if isinstance(done, _Told):
        raise done.kind(done.sentence, done.where)
    for index, frame in zip(chunk, done, strict=True):
        yield index, frame.seen(shared) if isinstance(frame, _Laid) else frame
