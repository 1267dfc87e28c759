"""What a worker runs: it makes stretches of a film and sends them. Nothing else is run there."""

from __future__ import annotations

import os
import tempfile
import threading
import time
from base64 import b85decode, b85encode
from collections.abc import Callable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass, field
from hashlib import blake2b
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ... import __version__
from ...core.faults import Fault, Malformed, NoRoom
from ...core.kernels.rows import cores
from ...media.formats import format_of
from ...media.program import program, rounding
from .. import crew
from ..films import Film, maker_of, stretch_of
from .fetching import (
    Expired,
    FetchedFiles,
    NotWanted,
    Refused,
    Unreachable,
    Way,
    own_folder,
)
from .grants import Grant
from .opened import NotHere, OpenedFilm
from .sealed import unpacked_film

TOLD_EVERY = 0.5
"""Seconds between two messages on what a task is doing."""
FOLDER, MOST_MB = "PALE_STATIC_WORKER_FOLDER", "PALE_STATIC_WORKER_MB"
"""Environment variables: the folder for fetched files, and its bound."""

Outcome = Literal[
    "done", "again", "unwanted", "no room", "unreachable", "other program", "failed"
]  # fmt: skip
"""How a task ended. ``again``: its permission had expired. After ``no room`` and ``unreachable`` this
worker gets no task for a while, after ``other program`` never again."""


class Work(BaseModel):
    """One task: a film, and the stretches of it to make, in order."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    film: str
    """The film's packed document, in base 85 (:rfc:`1924`'s letters)."""
    stretches: Annotated[tuple[tuple[int, int], ...], Field(min_length=1, max_length=10_000)]
    grant: Grant

    @classmethod
    def of(cls, film: bytes, stretches: Sequence[tuple[int, int]], grant: Grant) -> Work:
        """A task with a film's packed document."""
        return cls(film=b85encode(film).decode(), stretches=tuple(stretches), grant=grant)


@dataclass
class _Here:
    """What this worker keeps from one task to the next."""

    files: FetchedFiles
    lock: Any
    films: dict[str, tuple[OpenedFilm, crew.Maker]] = field(default_factory=dict)
    way: Way | None = None
    each: Callable[[int], None] = lambda _: None


_here: _Here | None = None
_one = threading.Lock()
"""One task at a time: each uses all cores."""


def prepare() -> None:
    """Set this process up as a worker: its folder and its settings.

    Raises
    ------
    OSError
        If the folder cannot be written.
    """
    global _here
    if _here is None:
        home = os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache"
        base = Path(os.environ.get(FOLDER) or Path(home) / "pale-static" / "worker")
        most = os.environ.get(MOST_MB, "")
        folder, lock = own_folder(base)
        crew.as_for_films()
        room = (int(most) if most.isdecimal() else 20_000) * 1_000_000
        _here = _Here(FetchedFiles(folder, room), lock)


def introduce() -> dict[str, Any]:
    """What the sender must know of this worker before it gets a task."""
    return {
        "program": program(), "rounding": rounding(), "version": __version__, "cores": cores(),
        "prepared": _here is not None, "process": os.getpid(),
    }  # fmt: skip


def make_stretches(work: str) -> dict[str, Any]:
    """Make stretches of a film and send them.

    Parameters
    ----------
    work : str
        The task, as the JSON of :class:`Work`. It is checked here as any document from outside.

    Returns
    -------
    dict
        ``outcome`` (see :data:`Outcome`), ``sentence``, ``frames`` made, ``seconds``, ``fetched``
        bytes.
    """
    if _here is None:
        return _said("failed", "The worker was not prepared.")
    with _one:
        return _outcome(work, _here)


def _outcome(work: str, here: _Here) -> dict[str, Any]:
    began, before = time.perf_counter(), here.files.bytes
    told = _Telling(lambda: here.files.bytes - before)
    outcome: Outcome = "done"
    sentence = ""
    try:
        _make(work, here, told)
    except Expired as fault:
        outcome, sentence = "again", str(fault)
    except NotWanted as fault:
        outcome, sentence = "unwanted", str(fault)
    except NoRoom as fault:
        outcome, sentence = "no room", fault.sentence
    except _OtherProgram as fault:
        outcome, sentence = "other program", str(fault)
    except Fault as fault:
        outcome, sentence = "failed", fault.sentence
    except Unreachable as fault:
        outcome, sentence = "unreachable", f"It cannot reach this machine at {fault}."
    except (Refused, NotHere) as fault:
        outcome, sentence = "failed", str(fault)
    except Exception as fault:  # whatever it is, the sender hears of it and asks another worker
        outcome, sentence = "failed", f"{type(fault).__name__}: {fault}"
    finally:
        told.end()
    return _said(outcome, sentence, told.frames, time.perf_counter() - began,
                 here.files.bytes - before)  # fmt: skip


def _said(
    outcome: Outcome, sentence: str = "", frames: int = 0, seconds: float = 0.0, fetched: int = 0
) -> dict[str, Any]:
    return {"outcome": outcome, "sentence": sentence[:600], "frames": frames, "seconds": seconds,
            "fetched": fetched}  # fmt: skip


class _OtherProgram(Exception):
    """This worker's program would give other bytes."""


class _Telling:
    """Tells the sender, twice a second, what the task is doing; also while one frame takes long."""

    def __init__(self, fetched: Callable[[], int]) -> None:
        self.frames, self._fetched = 0, fetched
        self.stopped: Exception | None = None
        self._now: dict[str, Any] = {"doing": "opening"}
        self._ended = threading.Event()
        self._thread: threading.Thread | None = None

    def begin(self, way: Way, worker: str) -> None:
        """Begin to tell."""

        def tell() -> None:
            while not self._ended.is_set():
                try:
                    way.tell(
                        worker=worker, frames=self.frames, fetched=self._fetched(), **self._now
                    )
                except (NotWanted, Expired) as fault:
                    self.stopped = fault
                    return
                except (Unreachable, Refused):
                    pass  # Sending the stretch will show whether the sender is gone.
                self._ended.wait(TOLD_EVERY)

        self._thread = threading.Thread(target=tell, daemon=True)
        self._thread.start()

    def says(self, **now: Any) -> None:
        """What the task is doing now.

        Raises
        ------
        NotWanted, Expired
            If the sender has said so meanwhile.
        """
        if self.stopped is not None:
            raise self.stopped
        self._now = now

    def end(self) -> None:
        """Tell no more."""
        self._ended.set()


def _make(text: str, here: _Here, told: _Telling) -> None:
    try:
        work = Work.model_validate_json(text)
        packed = b85decode(work.film)
    except (ValidationError, ValueError) as fault:
        raise Malformed("The task cannot be read.") from fault
    worker, tls = _worker(), None
    if worker is not None:
        tls = worker.security.get_connection_args("worker").get("ssl_context")
    if work.grant.address.startswith("https") and tls is None:
        raise Refused("The film's server wants an encrypted connection, and this worker has none.")
    way = Way(work.grant, tls)
    told.begin(way, worker.address if worker is not None else "")
    film, make = _opened(packed, here, way, told)
    with tempfile.TemporaryDirectory() as folder, ThreadPoolExecutor(1) as sender:
        sending: Future[None] | None = None
        for first, count in work.stretches:
            if not 0 <= first < first + count <= film.source.length:
                raise Malformed(f"The film has no frames {first} to {first + count - 1}.")
            file = _made(film, make, (first, count), Path(folder), told)
            if sending is not None:
                sending.result()
            sending = sender.submit(_send, way, first, count, file)
        if sending is not None:
            told.says(doing="sending")
            sending.result()


def _worker() -> Any:
    """The Dask worker that runs this; None outside of one."""
    from distributed import get_worker

    with suppress(ValueError):
        return get_worker()
    return None


def _opened(packed: bytes, here: _Here, way: Way, told: _Telling) -> tuple[Film, crew.Maker]:
    """A film and the function that makes its frames; the last films stay open."""
    digest = blake2b(packed, digest_size=16).hexdigest()
    here.way, here.each = way, lambda size: told.says(doing="fetching", bytes=size)
    here.files.begin(digest)
    if digest not in here.films:
        sealed = unpacked_film(packed)
        if sealed.program != program():
            raise _OtherProgram("This worker runs another program.")
        form = format_of(sealed.form)
        if not (form.joined or form.numbered):
            raise Malformed(f"{form.label} is not made in stretches.")

        def fetch(key: str) -> Path:
            if key not in sealed.sizes or here.way is None:
                raise NotHere("The film's document names a file that it does not have.")
            return here.files.get(key, sealed.sizes[key], here.way, here.each)

        opened = OpenedFilm(sealed, fetch)
        here.films.clear()
        here.films[digest] = opened, maker_of(opened.film.source, form, sealed.layers)
    opened, make = here.films[digest]
    return opened.film, make


def _made(
    film: Film, make: crew.Maker, stretch: tuple[int, int], folder: Path, told: _Telling
) -> Path:
    """Make a stretch, and tell its progress."""
    before, (first, count) = told.frames, stretch

    def each(done: int) -> None:
        told.frames = before + done
        told.says(doing="making", first=first, count=count, done=done)

    told.says(doing="making", first=first, count=count, done=0)
    return stretch_of(film, make, first, count, folder, each)


def _send(way: Way, first: int, count: int, file: Path) -> None:
    way.send(first, count, file)
    file.unlink()


__all__ = ["Outcome", "Work", "introduce", "make_stretches", "prepare"]
