"""The library: the database together with the media files beside it."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager, suppress
from io import BytesIO
from pathlib import Path
from typing import BinaryIO

from ..core.document import Effect
from ..core.documents.checking import assets_of, fonts_of
from ..core.documents.graph import HasLanes
from ..core.faults import Fault, Missing, NoRoom, TooLarge
from ..core.footage import Filling, Footage, Materials
from ..core.frames.fillings import materials_for
from ..core.lettering import Font
from ..core.pictures.lookup import LookupTable
from ..media.colour.cube import TableFile
from ..media.facts import HEAD, file_identity, sniff
from ..media.films.screen_copy import ScreenCopy, copied, copy_format
from ..media.films.stretches import MOST_KEPT
from ..media.fonts import shared_font
from ..media.foreign.reading import facts_of
from ..media.kept_files import KeptFiles
from ..media.opening import shared_footage, waiting_card
from ..media.pictures.picture_clip import numbers_of, pack
from ..media.reading import Reading
from ..media.sound import SoundFile, peaks_of, shared_sound
from . import materials, screen_copies
from .database import Database
from .materials import Material

MOST_UPLOAD = 8 << 30
MOST_FRAMES = 2 << 30
"""Bytes of frames for the screen that a data folder keeps, unless a person chose another bound."""


class Library:
    """A data folder.

    Parameters
    ----------
    folder : Path
        Created if it does not exist. Holds ``pale-static.sqlite``, ``media/`` and ``renders/``;
        and what can be made again: ``screen/`` and ``frames/``.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder.resolve()
        self.db = Database(self.folder / "pale-static.sqlite")
        self.media = self.folder / "media"
        self.renders = self.folder / "renders"
        self.screen = self.folder / "screen"
        for place in (self.media, self.renders, self.screen):
            place.mkdir(exist_ok=True)
        self.frame_bytes = MOST_FRAMES

    @property
    def stretches(self) -> KeptFiles:
        """Stretches of rendered films, kept for later renders."""
        return KeptFiles(self.renders / "stretches", MOST_KEPT)

    @property
    def frames(self) -> KeptFiles:
        """Frames that were shown or computed ahead, as pages show them."""
        return KeptFiles(self.folder / "frames", self.frame_bytes)

    def clear_leftovers(self) -> None:
        """Remove files left by interrupted uploads and renders; call this only when a server
        starts."""
        for folder in (self.media, self.renders, self.stretches.folder, self.frames.folder):
            for part in folder.glob(".*.part"):
                part.unlink(missing_ok=True)
        # An earlier version kept the stretches of each render in a folder of their own.
        for folder in self.renders.glob("*.stretches"):
            shutil.rmtree(folder, ignore_errors=True)

    def path_of(self, material: Material) -> Path:
        """The path of a material's file."""
        return self.media / f"{material.id}{material.extension}"

    def bring_in(self, stream: BinaryIO, name: str) -> Material:
        """Copy a file in, read its facts, and store it; a failure leaves no file behind.

        Raises
        ------
        Unreadable, TooLarge, NoRoom
        """
        name = _plain(name)
        with self._part() as part:
            self._copy(stream, part, name)
            return self._taken(part, name)

    def bring_in_sequence(self, pictures: Mapping[str, BinaryIO]) -> Material:
        """Copy numbered pictures in as one clip; a failure leaves no file behind.

        Raises
        ------
        Unreadable, TooLarge, NoRoom
        """
        named = {_plain(name): stream for name, stream in pictures.items()}
        numbered = list(numbers_of(list(named)).values())
        first, last = Path(numbered[0]).stem, Path(numbered[-1]).stem
        name = first if len(numbered) == 1 else f"{first}–{last[-6:]}"
        size = 0
        for stream in named.values():
            size += stream.seek(0, os.SEEK_END)
            stream.seek(0)
        if size > MOST_UPLOAD:
            raise TooLarge(f"{name} is larger than {MOST_UPLOAD >> 30} GB.")
        with self._part() as part:
            try:
                with part.open("wb") as file:
                    pack(named, file)
                    file.flush()
                    os.fsync(file.fileno())
            except OSError as fault:
                raise no_room(name, fault) from fault
            return self._taken(part, name)

    @contextmanager
    def _part(self) -> Iterator[Path]:
        """A temporary file, deleted unless it becomes a material."""
        part = self.media / f".{os.urandom(8).hex()}.part"
        try:
            yield part
        finally:
            part.unlink(missing_ok=True)

    def _taken(self, part: Path, name: str) -> Material:
        with part.open("rb") as file:
            _, extension = sniff(file.read(HEAD), name)
        facts, identity = facts_of(part, name), file_identity(part)
        part.replace(self.media / f"{identity}{extension}")
        _settle(self.media)
        shown = Path(name).stem if Path(name).suffix else name
        return materials.add(self.db, identity, shown, extension, facts)

    @staticmethod
    def _copy(stream: BinaryIO, path: Path, name: str) -> None:
        size = 0
        try:
            with path.open("wb") as file:
                while piece := stream.read(1 << 20):
                    size += len(piece)
                    if size > MOST_UPLOAD:
                        raise TooLarge(f"{name} is larger than {MOST_UPLOAD >> 30} GB.")
                    file.write(piece)
                file.flush()
                os.fsync(file.fileno())
        except OSError as fault:
            raise no_room(name, fault) from fault

    def has(self, identity: str) -> bool:
        """Whether a material is in the library."""
        with suppress(Missing):
            materials.get(self.db, identity)
            return True
        return False

    def footage(self, identity: str) -> Footage:
        """An open material; all callers share it."""
        material = materials.get(self.db, identity)
        if material.made is not None:
            return waiting_card(material.id, material.facts)
        reading = material.reading
        table = self._table(reading) if reading.table else None
        return shared_footage(self.path_of(material), material.id, reading, table)

    def read_as(self, identity: str, reading: Reading) -> Material:
        """Read a material another way from now on.

        Raises
        ------
        Missing, Unreadable
            If it cannot be read that way; nothing is changed then.
        """
        material = materials.get(self.db, identity)
        if material.made is not None:
            raise Fault(f"{material.name} is still being made. Wait until it is complete.")
        table = None
        if reading.table:
            self._table(reading)
            table = self.path_of(materials.get(self.db, reading.table))
        facts = facts_of(self.path_of(material), material.name, reading, table)
        return materials.read_as(self.db, identity, reading, facts)

    def complete_facts(self, before_each: Callable[[], None] = lambda: None) -> None:
        """Store the facts about films that earlier versions did not store."""
        for one in materials.listed(self.db):
            facts = one.facts
            if facts.may_sound and facts.colour is None and one.made is None:
                before_each()
                with suppress(Fault):
                    self.read_as(one.id, one.reading)

    def _table(self, reading: Reading) -> LookupTable:
        table = self.footage(reading.table)
        if not isinstance(table, TableFile):
            raise Fault(
                "Colours go through a .cube lookup table. The chosen material is of another kind."
            )
        return table.table

    def sound(self, identity: str) -> SoundFile | None:
        """The sound of a material; None if it has none or is still being made.

        Raises
        ------
        Missing, Unreadable
        """
        material = materials.get(self.db, identity)
        if material.made is not None or not material.facts.may_sound:
            return None
        return shared_sound(self.path_of(material), material.id)

    def peaks(self, identity: str) -> bytes:
        """The loudness of a material, fifty times a second, 0 to 255; empty if it has no sound."""
        material = materials.get(self.db, identity)
        if material.made is not None or not material.facts.may_sound:
            return b""
        return peaks_of(self.path_of(material), material.id)

    def materials_for(
        self, effect: Effect, slots: Mapping[str, Filling] | None = None, in_edit: bool = False
    ) -> Materials:
        """Materials for an effect's slots and stills: the given ones, else each slot's stand-in.

        Parameters
        ----------
        in_edit : bool
            Whether an edit uses the effect. Its empty slots then show their fallback, if they have
            one, and not the maker's stand-in.
        """
        return materials_for(effect, slots or {}, in_edit, self.footage, self.font)

    def font(self, identity: str) -> Font:
        """An open font among the materials; all callers share it."""
        material = materials.get(self.db, identity)
        return shared_font(self.path_of(material), material.id)

    def package_files(self, *parts: HasLanes) -> dict[str, bytes]:
        """The files that stills and titles need, by their names in a package."""
        files = {}
        for name in {name for one in parts for name in (*assets_of(one), *fonts_of(one))}:
            material = materials.get(self.db, name)
            files[f"{name}{material.extension}"] = self.path_of(material).read_bytes()
        return files

    def bring_in_assets(self, assets: Mapping[str, bytes]) -> None:
        """Add a package's pictures and fonts to the materials."""
        for name, data in assets.items():
            self.bring_in(BytesIO(data), name)


class ScreenLibrary(Library):
    """A library that shows films from their copies for the screen, where there are some."""

    def footage(self, identity: str) -> Footage:
        material = materials.get(self.db, identity)
        if copied(material.facts) and (name := screen_copies.of(self.db, material)):
            path = self.screen / f"{name}{copy_format(material.facts).ending}"
            if path.is_file():
                return ScreenCopy(name, path, material.facts)
            screen_copies.forget(self.db, identity)
        return super().footage(identity)


def _settle(folder: Path) -> None:
    """Write a folder's entries to the disk, so that they survive a power loss."""
    place = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(place)
    finally:
        os.close(place)


def _plain(name: str) -> str:
    """The name of a file without its folders."""
    return Path(name.replace("\\", "/")).name[:200] or "unnamed"


def no_room(name: str, fault: OSError) -> NoRoom:
    """A fault for a file that could not be copied in."""
    return NoRoom(
        f"{name} could not be copied: {fault.strerror or fault}. Make room on the disk and bring "
        f"it in again."
    )
