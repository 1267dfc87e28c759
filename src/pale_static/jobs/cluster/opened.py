"""The frames of a film whose document and files came from another machine."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ...core.built_in import PREFIX, built_in_effect
from ...core.document import Effect
from ...core.documents.checking import read_effect
from ...core.faults import Fault, Malformed, Missing, Unreadable
from ...core.footage import Filling, Footage, Materials, stand_in
from ...core.frames.edit import EditSource
from ...core.frames.effect import EffectSource
from ...core.frames.fillings import materials_for
from ...core.frames.source import FrameSource
from ...core.lettering import Font
from ...core.pictures.picture import Size
from ...core.reel import read_reel
from ...core.time.timing import FrameRate
from ...media.colour.cube import TableFile
from ...media.fonts import shared_font
from ...media.formats import Encoding, format_of
from ...media.opening import shared_footage, waiting_card
from ...media.packages import package_materials, unpacked_macro
from ...media.program import program
from ...media.reading import Reading
from ..films import Film
from .sealed import SealedEdit, SealedEffect, SealedFilm

if TYPE_CHECKING:
    from collections.abc import Iterator

Fetch = Callable[[str], Path]
"""Gives a file by its key, and fetches it first if it is not here."""


class NotHere(Exception):
    """A file could not be fetched or opened, so the film cannot be made here.

    It is no :class:`Fault`: a fault of a macro leaves the macro out of the picture, and the film
    would be wrong.
    """


@contextmanager
def _whole(name: str) -> Iterator[None]:
    """Opening a fetched file: it was read before it was sent, so it must open here too."""
    try:
        yield
    except (Missing, Unreadable, OSError) as fault:
        raise NotHere(f"{name} cannot be opened: {fault}") from fault


@dataclass(frozen=True)
class FetchedMaterials:
    """The materials of a film by the names in its documents. A file is fetched when it is needed."""

    film: SealedFilm
    fetch: Fetch

    def footage(self, name: str) -> Footage:
        """A material; a plain card if the sender has none of that name.

        Raises
        ------
        Missing
            If the material is gone at the sender too.
        NotHere
        """
        material = self.film.materials.get(name)
        if material is None:
            return stand_in(name)
        if material.waiting is not None:
            return waiting_card(name, material.waiting)
        if material.file is None:
            raise Missing(material.gone or "A material is gone.")
        path, reading = self.fetch(material.file), material.reading
        with _whole(name):
            return shared_footage(path, material.file, reading, self._table(reading))

    def _table(self, reading: Reading) -> Any:
        if not reading.table:
            return None
        table = self.footage(reading.table)
        if not isinstance(table, TableFile):
            raise NotHere("The lookup table of a material is of another kind.")
        return table.table

    def font(self, name: str) -> Font:
        """A font."""
        material = self.film.materials.get(name)
        if material is None or material.file is None:
            raise Missing("A font is gone. Bring it in again.")
        path = self.fetch(material.file)
        with _whole(name):
            return shared_font(path, material.file)


@dataclass(frozen=True)
class FetchedShelf:
    """The materials and macros of an edit."""

    edit: SealedEdit
    held: FetchedMaterials
    folder: Path
    """A folder for the files of packages."""
    opened: dict[tuple[str, int], Effect] = field(default_factory=dict)
    brought: dict[tuple[str, int], Materials] = field(default_factory=dict)

    def footage(self, identity: str) -> Footage:
        return self.held.footage(identity)

    def effect(self, macro: str, version: int) -> Effect:
        """A macro of the edit.

        Raises
        ------
        Missing
            If the sender has it neither.
        """
        pinned = (macro, version)
        if pinned not in self.opened:
            self.opened[pinned] = self._effect(*pinned)
        return self.opened[pinned]

    def _effect(self, macro: str, version: int) -> Effect:
        for one in self.edit.macros:
            if (one.slug, one.version) == (macro, version):
                effect, brought = opened_effect(
                    one.document, one.package, self.held.fetch, self.folder
                )
                if one.brought:
                    self.brought[macro, version] = brought
                return effect
        if macro.startswith(PREFIX):
            return built_in_effect(macro, version)
        raise Missing(f"Version {version} of “{macro}” was not found.")

    def materials(self, effect: Effect, slots: Mapping[str, Filling]) -> Materials:
        for pinned, brought in self.brought.items():
            if self.opened[pinned] is effect:
                return replace(brought, slots=dict(slots))
        if not self.edit.library:
            return Materials(dict(slots))
        return materials_for(effect, slots, True, self.held.footage, self.held.font)


def opened_effect(
    document: Mapping[str, Any] | None, package: str | None, fetch: Fetch, folder: Path
) -> tuple[Effect, Materials]:
    """An effect from its document or its package, with the package's pictures and fonts."""
    if package is None:
        if document is None:
            raise Malformed("The document of a film holds a macro without an effect.")
        return read_effect(dict(document)), Materials()
    path, into = fetch(package), folder / package
    into.mkdir(exist_ok=True)
    with _whole(package):
        unpacked = unpacked_macro(path.read_bytes(), package)
        return unpacked.macro.effect, package_materials(unpacked, into)


@dataclass(frozen=True)
class OpenedFilm:
    """A film that another machine sent, ready to be computed here.

    Parameters
    ----------
    fetch : function
        Gives a file by its key.

    Raises
    ------
    Fault
        If the document is not valid.
    """

    sealed: SealedFilm
    fetch: Fetch

    @cached_property
    def film(self) -> Film:
        """The film. Its file name is that of one stretch, which the caller replaces."""
        sealed, form = self.sealed, format_of(self.sealed.form)
        encoding = Encoding(form, sealed.quality, sealed.bit_rate)
        return Film(self._source(), encoding, Path(f"stretch{form.ending}"), layers=sealed.layers)

    def _source(self) -> FrameSource:
        sealed = self.sealed
        folder = tempfile.TemporaryDirectory()
        held = FetchedMaterials(sealed, self.fetch)
        if sealed.edit is not None:
            edit = sealed.edit
            return EditSource(
                reel=read_reel(edit.reel), shelf=FetchedShelf(edit, held, Path(folder.name)),
                clear=edit.clear, first=edit.first, frames=edit.frames, program=program,
                held=folder,
            )  # fmt: skip
        if sealed.effect is not None:
            return self._effect(sealed.effect, held, folder)
        raise Fault("The document of a film holds neither an edit nor an effect.")

    def _effect(
        self, one: SealedEffect, held: FetchedMaterials, folder: tempfile.TemporaryDirectory[str]
    ) -> EffectSource:
        effect, brought = opened_effect(one.document, one.package, self.fetch, Path(folder.name))
        slots = {slot: held.footage(name) for slot, name in one.slots.items()}
        return EffectSource(
            effect=effect, full=Size.parse(one.size), given_rate=FrameRate.of(one.rate),
            frames=one.frames, settings=one.settings, materials=replace(brought, slots=slots),
            program=program, held=folder,
        )  # fmt: skip


__all__ = ["Fetch", "NotHere", "OpenedFilm"]
