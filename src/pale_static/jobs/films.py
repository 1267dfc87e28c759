"""All frames of an effect from a file, written as a film or as pictures, without a library."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..core.engine import Engine
from ..core.timing import Moment
from ..media.sequences import Ready, open_writer, readier, room_for
from . import crew
from .files import Job, prepare


@dataclass(frozen=True)
class FileFilm:
    """All frames of an effect from a file, as ``render`` was asked for them."""

    given: dict[str, Any]
    out: Path

    def maker(self) -> crew.Maker:
        return _Making(self)


class _Making:
    """Makes the frames of a film, and keeps what the file unpacked to for as long as it does."""

    def __init__(self, film: FileFilm) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.job = prepare(Path(self.folder.name), film.given)
        self.engine, self.ready = Engine(crew.CACHE_BYTES), readier(film.out)

    def __call__(self, index: int) -> Ready:
        job = self.job
        evaluation = self.engine.evaluate(
            job.effect, Moment(index, job.length, job.rate), job.size,
            settings=job.settings, materials=job.materials, passing=True,
        )  # fmt: skip
        return self.ready(evaluation.picture)


Track = Callable[..., Iterable[tuple[int, Ready]]]
"""Passes frames on and shows how far they are: ``track(frames, total, description=name)``."""


def write_film(
    given: dict[str, Any], out: Path, workers: int | None, track: Track
) -> tuple[Path, Job]:
    """Write all frames to a video or a sequence; nothing under its name where it does not end."""
    with tempfile.TemporaryDirectory() as folder:
        job = prepare(Path(folder), given)
    writer, film = open_writer(out, job.size, job.rate), FileFilm(given, out)
    count = crew.workers_for(job.length, job.size, workers)
    try:
        made = crew.frames(film, range(job.length), count, room=room_for(out, job.size))
        for index, ready in track(made, job.length, description=job.effect.name):
            writer.put(index, ready)
        written = writer.finish()
    except BaseException:
        writer.abandon()
        raise
    return written[0], job
