"""The one writer of films and pictures: from a frame source to finished files.

Frames are computed in this process, or by a crew of processes (:mod:`.crew`), and encoded behind it.
"""

from __future__ import annotations

import shutil
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from ..core.engine import Engine
from ..core.faults import Fault
from ..core.frames.source import FrameSource
from ..media.films.film_writer import no_room
from ..media.films.stretches import MOST_KEPT, Copy, SegmentedFilm
from ..media.formats import Encoding, Format, format_for, format_of
from ..media.kept_files import KeptFiles
from ..media.pictures.sequences import PictureSequence, pack_pictures
from ..media.writing import (
    Behind,
    Writer,
    indices_of,
    looked_at_in_8_bits,
    open_writer,
    ready,
    room_for,
)
from . import crew
from .effect_files import place_of

Track = Callable[..., Iterable[tuple[int, Any]]]
"""Passes frames on and shows the progress: ``track(frames, total, description=name)``."""


class SplitWriter(Writer, Protocol):
    """A writer of stretches that may be made elsewhere."""

    def wanted(self) -> Iterator[tuple[int, int]]:
        """The stretches to make, in order: the first frame and the count of each."""

    def missing(self) -> Iterable[int]:
        """The frames of the stretches to make."""

    def take(self, first: int, count: int, file: Path) -> None:
        """Take a finished stretch from a file, which is moved."""


class Recipe(Protocol):
    """A way to open a frame source. It is sent to other processes, so it holds names and numbers
    only."""

    def open(self, known: bool = False) -> FrameSource:
        """The frame source; ``known`` says that another process has read its files already."""


@dataclass(frozen=True)
class FilmFrames:
    """Frames in the form that a format takes, for a process of a crew.

    Parameters
    ----------
    form : str
        The slug of the format.
    layers : sequence of str
        Steps, ``lane.step``, whose results lie beside the picture in OpenEXR files.
    """

    recipe: Recipe
    form: str
    layers: tuple[str, ...] = ()

    def maker(self) -> crew.Maker:
        return maker_of(self.recipe.open(known=True), format_of(self.form), self.layers)


@dataclass(frozen=True)
class _OpenFrames:
    """Frames of a source that is open in this process."""

    source: FrameSource
    form: Format
    layers: tuple[str, ...]

    def maker(self) -> crew.Maker:
        return maker_of(self.source, self.form, self.layers)


def maker_of(source: FrameSource, form: Format, layers: tuple[str, ...] = ()) -> crew.Maker:
    """A function that makes frame n of a source in the form that a format takes."""
    engine = Engine(crew.CACHE_BYTES)
    source, eight = source.on(engine.states), looked_at_in_8_bits(form)
    # With layers, results of steps are needed too, so they are kept.
    passing = not layers

    def picture(index: int, step: str) -> NDArray[Any]:
        return source.computed(
            index,
            lambda frame: ready(
                engine.compute(frame.plan, eight=eight, passing=passing).held, form
            ),
            step=place_of(step),
        )

    def make(index: int) -> NDArray[Any]:
        pictures = [picture(index, step) for step in ("", *layers)]
        return pictures[0] if len(pictures) == 1 else np.concatenate(pictures, axis=2)

    return make


@dataclass(frozen=True)
class Film:
    """A film, or pictures, to write.

    Parameters
    ----------
    recipe : Recipe, optional
        Opens the same frames in other processes; without it this process computes all of them.
    layers : sequence of str
        Steps whose results go into OpenEXR files as layers.
    at : int
        The frame that a still shows.
    stretches : KeptFiles, optional
        Stretches of earlier films, which this film reuses; it adds its own. A sequence of pictures
        then reuses the pictures in its folder.
    copy : function, optional
        Copies a stretch that equals its source.
    """

    source: FrameSource
    encoding: Encoding
    out: Path
    recipe: Recipe | None = None
    layers: tuple[str, ...] = ()
    at: int = 0
    stretches: KeptFiles | None = None
    copy: Copy | None = None

    @classmethod
    def by_name(cls, source: FrameSource, out: str | Path, **more: Any) -> Film:
        """A film in the format that its file name gives, at the format's own quality."""
        return cls(source, Encoding(format_for(Path(out))), Path(out), **more)

    @property
    def form(self) -> Format:
        return self.encoding.format

    def content(self, first: int, count: int) -> str:
        """Names the bytes of a stretch."""
        size, rate = self.source.size, str(self.source.rate)
        written = [self.encoding.told(), [size.width, size.height, rate], list(self.layers)]
        return self.source.stretch_name(first, count, written)


class Carrier(Protocol):
    """Other machines that make the stretches of a film."""

    def carry(self, film: Film, writer: SplitWriter) -> Iterator[tuple[int, Any]]:
        """Have the wanted stretches made, and give them to the writer.

        It ends early if the rest shall be made here. For each finished frame it gives the number
        of frames finished before, and None, so that :data:`Track` shows the progress.
        """


def write(
    film: Film, workers: int | None = None, track: Track | None = None,
    carrier: Carrier | None = None,
) -> list[Path]:  # fmt: skip
    """Write a film or pictures. The final name appears only when the file is complete.

    Parameters
    ----------
    workers : int, optional
        Processes that compute frames; by default as many as the machine's cores keep busy.
    track : function, optional
        Passes frames on and shows the progress.
    carrier : Carrier, optional
        Other machines that make its stretches. A format that is written in one piece is made here.

    Returns
    -------
    list of Path
        The film, or its pictures in order.

    Raises
    ------
    Fault
        If there is nothing to write, something cannot be computed, or the format does not fit.
    """
    source, form = film.source, film.form
    if not source.length:
        raise Fault("The edit is empty: none of its pieces could be read.")
    if film.layers and form.ending != ".exr":
        raise Fault(f"Only OpenEXR pictures hold layers. {form.label} does not: leave --layer out.")
    crew.as_for_films()
    if not (form.joined or form.numbered):
        first = min(film.at, source.length - 1) if form.shape == "still" else 0
        indices = indices_of(form, first, source.length)
        sound = source.sound() if form.sound else None
        writer = open_writer(film.out, film.encoding, source.size, source.rate, len(indices), sound)
        return _computed(film, writer, indices, len(indices), workers, track)
    with _stretches(film) as kept:
        split = _split(film, kept)
        if carrier is not None:
            made: Iterable[tuple[int, Any]] = carrier.carry(film, split)
            if track is not None:
                made = track(made, source.length, description=source.name)
            try:
                for _ in made:
                    pass
            except BaseException:
                split.abandon()
                raise
        # Nothing is missing here if other machines made all of it.
        return _computed(film, split, split.missing(), source.length, workers, track)


def _computed(
    film: Film, writer: Writer, frames: Iterable[int], total: int, workers: int | None,
    track: Track | None,
) -> list[Path]:  # fmt: skip
    """Compute frames on this machine and write them; the finished files."""
    source, form = film.source, film.form
    count = 1 if film.recipe is None else crew.workers_for(source.size, workers)
    way: crew.Film = _OpenFrames(source, form, film.layers)
    if count > 1 and film.recipe is not None:
        way = FilmFrames(film.recipe, form.slug, film.layers)
    room = room_for(form, source.size, 1 + len(film.layers))
    with Behind(writer, form, kept=count == 1) as behind:
        made: Iterable[tuple[int, Any]] = crew.frames(way, frames, count, room=room)
        if track is not None:
            made = track(made, total, description=source.name)
        for index, pixels in made:
            behind.put(index, pixels)
    return behind.paths


def stretch_of(
    film: Film, make: crew.Maker, first: int, count: int, folder: Path, each: Callable[[int], None]
) -> Path:
    """Make one stretch of a film, as :meth:`SplitWriter.take` takes it.

    Parameters
    ----------
    folder : Path
        A folder for its files.
    each : function
        Called with the number of finished frames.
    """
    source, form = film.source, film.form
    name = f"{first}-%09d{form.ending}" if form.numbered else f"{first}{form.ending}"
    writer = open_writer(folder / name, film.encoding, source.size, source.rate, count,
                         layers=("", *film.layers))  # fmt: skip
    with Behind(writer, form) as behind:
        for within in range(count):
            behind.put(within, make(first + within))
            each(within + 1)
    if not form.numbered:
        return behind.paths[0]
    packed = folder / f"{first}.pictures"
    pack_pictures(behind.paths, packed)
    for path in behind.paths:
        path.unlink()
    return packed


@contextmanager
def _stretches(film: Film) -> Iterator[KeptFiles]:
    """The folder of a film's stretches: the given one, or one beside the film until it is done."""
    if film.stretches is not None or not film.form.joined:
        yield film.stretches or KeptFiles(film.out.parent, MOST_KEPT)
        return
    folder = film.out.with_name(f".{film.out.name}.stretches")
    try:
        kept = KeptFiles(folder, MOST_KEPT)
    except OSError as fault:
        raise no_room(film.out, fault) from fault
    try:
        yield kept
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _split(film: Film, kept: KeptFiles) -> SplitWriter:
    """The writer of a film in stretches, or of numbered pictures."""
    source, form, layers = film.source, film.form, ("", *film.layers)
    if form.numbered:
        goes_on = film.stretches is not None
        return PictureSequence(film.out, form, source.size, source.length, layers, goes_on)
    return SegmentedFilm(
        film.out, film.encoding, source.size, source.rate, source.length, kept, film.content,
        sound=source.sound() if form.sound else None, copy=film.copy,
    )  # fmt: skip
