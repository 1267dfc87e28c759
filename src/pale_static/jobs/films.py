"""All frames of an effect from a file, written as a film or as pictures, without a library."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.engine import Engine
from ..core.engine.plan import make_plan
from ..core.faults import Fault
from ..core.timing import Moment
from ..media.formats import Encoding, Format
from ..media.writing import (
    Behind,
    indices_of,
    looked_at_in_8_bits,
    open_writer,
    ready,
    room_for,
)
from . import crew
from .files import Job, place_of, prepare


@dataclass(frozen=True)
class FileFilm:
    """All frames of an effect from a file, as ``render`` was asked for them.

    ``layers`` are steps, ``lane.step``, whose results lie beside the picture in OpenEXR files.
    """

    given: dict[str, Any]
    form: Format
    layers: tuple[str, ...] = ()

    def maker(self) -> crew.Maker:
        return _Making(self)


class _Making:
    """Makes the frames of a film, and keeps what the file unpacked to for as long as it does."""

    def __init__(self, film: FileFilm) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.job = prepare(Path(self.folder.name), film.given)
        self.engine, self.film = Engine(crew.CACHE_BYTES), film

    def __call__(self, index: int) -> NDArray[Any]:
        pictures = [self._made(index, step) for step in ("", *self.film.layers)]
        return pictures[0] if len(pictures) == 1 else np.concatenate(pictures, axis=2)

    def _made(self, index: int, step: str) -> NDArray[Any]:
        job, form = self.job, self.film.form
        plan = make_plan(
            job.effect, Moment(index, job.length, job.rate), job.size,
            step=place_of(step), settings=job.settings, materials=job.materials,
            states=self.engine.states,
        )  # fmt: skip
        eight = looked_at_in_8_bits(form)
        # With layers, what lies between the steps is looked at: it is kept.
        passing = not self.film.layers
        return ready(self.engine.compute(plan, eight=eight, passing=passing).held, form)


Track = Callable[..., Iterable[tuple[int, Any]]]
"""Passes frames on and shows how far they are: ``track(frames, total, description=name)``."""


def write_film(
    given: dict[str, Any], out: Path, encoding: Encoding, workers: int | None, track: Track,
    layers: tuple[str, ...] = (),
) -> tuple[Path, Job]:  # fmt: skip
    """Write all frames to a video or a sequence; nothing under its name where it does not end.

    Raises
    ------
    Fault
        Where something is missing, cannot be computed, or does not fit the format.
    """
    crew.as_for_films()
    form = encoding.format
    if layers and form.ending != ".exr":
        raise Fault(f"Only OpenEXR pictures hold layers. {form.label} does not: leave --layer out.")
    with tempfile.TemporaryDirectory() as folder:
        job = prepare(Path(folder), given)
    writer = open_writer(out, encoding, job.size, job.rate, job.length, layers=("", *layers))
    film = FileFilm(given, form, layers)
    count = crew.workers_for(job.size, workers)
    room = room_for(form, job.size, 1 + len(layers))
    behind = Behind(writer, form, kept=count == 1)
    with behind:
        made = crew.frames(film, indices_of(form, 0, job.length), count, room=room)
        for index, pixels in track(made, job.length, description=job.effect.name):
            behind.put(index, pixels)
    return behind.paths[0], job
