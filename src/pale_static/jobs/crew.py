"""A crew of processes that compute the frames of a film side by side; frames come back in order."""

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
from ..media.decoding import decode_with
from ..processes import pool
from .memory import keep_memory

CHUNK = 4
"""Frames in a row for one process, so that a clip is decoded forwards without seeking."""
CACHE_BYTES = 192 << 20
"""Cache of each process of a crew; for a film only results that stand still are kept."""
DECODED_BYTES = 96 << 20
"""Decoded frames that each process keeps; a film reads forwards."""
MOST_BYTES = 1536 << 20
"""Memory that all processes of a render may use together, including the one that writes the
film."""
OWN_BYTES, PICTURES = 280 << 20, 5
"""Memory of a process by itself, and the number of pictures of the film's size that it holds
(measured)."""
CORES_EACH = 4
"""Cores that the kernels of one process keep busy; with fewer cores a second process gains
nothing."""

Maker = Callable[[int], Any]


class Film(Protocol):
    """The work of a crew. It is sent to other processes, so it holds names and numbers only."""

    def maker(self) -> Maker:
        """Open the source, and return the function from frame number to finished frame."""


@dataclass(frozen=True)
class _Told:
    """A fault sent between processes."""

    kind: type[Fault]
    sentence: str
    where: str | None


@dataclass(frozen=True)
class _Laid:
    """A frame in memory that both processes share, instead of one sent through a pipe."""

    start: int
    shape: tuple[int, ...]
    dtype: str

    def seen(self, shared: NDArray[np.uint8]) -> NDArray[Any]:
        """The frame in shared memory; valid until its place is used again."""
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
    """The number of processes that compute a film on this machine, limited by cores and memory.

    One process computes each frame on several cores and encodes meanwhile; on two cores that
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
    """Finished frames in order, with their numbers. A frame is valid until the next one is
    requested.

    Parameters
    ----------
    workers : int
        Processes; 1 computes in this process, with all cores inside each frame.
    threads : int, optional
        Cores for each frame; by default each process of a crew has its share of all.
    always : bool
        Start a process even for one worker; for measuring.
    room : int
        Bytes of a finished frame, if all are arrays of one size. Such frames are passed in shared
        memory, without a copy.

    Raises
    ------
    Fault
        If a process failed, with its sentence.
    """
    if workers <= 1 and not always:
        make: Maker | None = None
        for index in indices:
            make = make or film.maker()
            yield index, make(index)
        return
    share = threads or max(1, cores() // workers)
    left = iter(indices)
    # Take chunks one by one: the list of wanted frames may take long to make.
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
