"""The one writer of films and pictures: from a frame source to finished files.

Frames are computed in this process, or by a crew of processes (:mod:`.crew`), and encoded behind it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from ..core.engine import Engine
from ..core.faults import Fault
from ..core.frames.source import FrameSource
from ..media.films.stretches import Copy, SegmentedFilm, Stretches
from ..media.formats import Encoding, Format, format_for, format_of
from ..media.pictures.sequences import PictureSequence
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
    stretches : Stretches, optional
        Stretches of earlier films, which this film reuses; it adds its own. A sequence of pictures
        reuses the pictures in its folder.
    copy : function, optional
        Copies a stretch that equals its source.
    """

    source: FrameSource
    encoding: Encoding
    out: Path
    recipe: Recipe | None = None
    layers: tuple[str, ...] = ()
    at: int = 0
    stretches: Stretches | None = None
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


def write(film: Film, workers: int | None = None, track: Track | None = None) -> list[Path]:
    """Write a film or pictures. The final name appears only when the file is complete.

    Parameters
    ----------
    workers : int, optional
        Processes that compute frames; by default as many as the machine's cores keep busy.
    track : function, optional
        Passes frames on and shows the progress.

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
    writer, missing, total = _writer(film)
    count = 1 if film.recipe is None else crew.workers_for(source.size, workers)
    frames: crew.Film = _OpenFrames(source, form, film.layers)
    if count > 1 and film.recipe is not None:
        frames = FilmFrames(film.recipe, form.slug, film.layers)
    room = room_for(form, source.size, 1 + len(film.layers))
    with Behind(writer, form, kept=count == 1) as behind:
        made: Iterable[tuple[int, Any]] = crew.frames(frames, missing, count, room=room)
        if track is not None:
            made = track(made, total, description=source.name)
        for index, pixels in made:
            behind.put(index, pixels)
    return behind.paths


def _writer(film: Film) -> tuple[Writer, Iterable[int], int]:
    """The writer of a film, the frames that it still needs, and the number of all frames."""
    source, form, kept = film.source, film.form, film.stretches
    size, rate, total = source.size, source.rate, source.length
    sound = source.sound() if form.sound else None
    if kept is not None and form.joined:
        joined = SegmentedFilm(
            film.out, film.encoding, size, rate, total, kept, film.content, sound=sound,
            copy=film.copy,
        )  # fmt: skip
        return joined, joined.missing(), total
    layers = ("", *film.layers)
    if kept is not None and form.numbered:
        pictures = PictureSequence(film.out, form, total, layers)
        return pictures, pictures.missing(), total
    first = min(film.at, total - 1) if form.shape == "still" else 0
    indices = indices_of(form, first, total)
    writer = open_writer(film.out, film.encoding, size, rate, total, sound, layers)
    return writer, indices, len(indices)
