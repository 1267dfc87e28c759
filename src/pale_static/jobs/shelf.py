"""The materials and macros that edits and effects use: from a library, from files, or from both."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path

from ..core.built_in import PREFIX, built_in_effect
from ..core.document import Effect
from ..core.faults import Fault, Missing, Unreadable
from ..core.footage import Filling, Footage, Materials, stand_in
from ..core.reel import Reel, materials_of, seconds_of
from ..core.sound import Sound
from ..media.facts import HEAD, Facts, sniff
from ..media.foreign.reading import facts_of
from ..media.opening import inspect
from ..media.sound import SoundFile, shared_sound
from ..media.timelines.named_media import Media, media_of
from ..store import Library, macros, materials
from .effect_files import is_package, open_effect

MOST_FILES = 5000


@dataclass(frozen=True)
class FileMaterial:
    """A material in a file, without a library."""

    path: Path
    footage: Footage
    facts: Facts


@dataclass(frozen=True)
class Shelf:
    """Materials and macros by the names that documents give them; each is opened once.

    Files come before the library. A material that neither has shows as a plain card.

    Parameters
    ----------
    library : Library, optional
        Without it only files and built-in transitions are found.
    """

    library: Library | None = None
    files: dict[str, FileMaterial] = field(default_factory=dict)
    media: dict[str, Media] = field(default_factory=dict)
    """Files as edit lists name them."""
    effects: dict[tuple[str, int], Effect] = field(default_factory=dict)
    brought: dict[tuple[str, int], Materials] = field(default_factory=dict)
    """Pictures and fonts of macros from files."""
    packages: dict[tuple[str, int], Path] = field(default_factory=dict)
    """The files of these macros that are packages."""

    def bring(self, path: str | Path, known: bool = False) -> str:
        """Open a file of material.

        Parameters
        ----------
        known : bool
            Whether the file was read before. Else it is read first in a process of its own.

        Returns
        -------
        str
            Its name in documents.
        """
        path = Path(path)
        if not known:
            facts_of(path)
        footage, facts = inspect(path)
        name = footage.identity
        self.files[name] = FileMaterial(path, footage, facts)
        self.media[name] = replace(
            media_of(name, path.stem, path.suffix, facts), file=str(path.resolve())
        )
        return name

    def bring_macro(self, text: str, folder: Path, known: bool = False) -> tuple[str, int]:
        """The slug and version of a macro from the text that a person wrote.

        Parameters
        ----------
        text : str
            A package, a document, a macro of the library, ``dissolve`` or ``wipe``.
        folder : Path
            The folder into which a package is unpacked.

        Raises
        ------
        Missing
        """
        if text.startswith(PREFIX) or text in ("dissolve", "wipe"):
            return f"{PREFIX}{text.removeprefix(PREFIX)}", 1
        path = Path(text)
        if path.is_file():
            pinned = (path.stem.lower()[:60] or "macro", 1)
            self.effects[pinned], self.brought[pinned] = open_effect(path, folder, known)
            if is_package(path):
                self.packages[pinned] = path
            return pinned
        if self.library is not None:
            return text, self.newest(text)
        raise Missing(
            f"There is no file {text}. Name a .palemacro file, or a macro on the shelf of --data."
        )

    def footage(self, identity: str) -> Footage:
        """A material; a plain card if nobody has brought it in.

        Raises
        ------
        Missing, Unreadable
            If the file of a material of the library is gone or damaged.
        """
        if identity in self.files:
            return self.files[identity].footage
        if self.library is None or not self.library.has(identity):
            return stand_in(identity)
        return self.library.footage(identity)

    def effect(self, macro: str, version: int) -> Effect:
        """A published version of a macro, or a built-in transition.

        Raises
        ------
        Missing
        """
        pinned = (macro, version)
        if pinned not in self.effects:
            self.effects[pinned] = self._opened(macro, version)
        return self.effects[pinned]

    def _opened(self, macro: str, version: int) -> Effect:
        if macro.startswith(PREFIX):
            return built_in_effect(macro, version)
        if self.library is not None:
            return macros.version(self.library.db, macro, version).effect
        raise Missing(
            f"Version {version} of “{macro}” was not found. Name it with --macro or --data."
        )

    def materials(self, effect: Effect, slots: Mapping[str, Filling]) -> Materials:
        """The materials of an effect: those given, else its stand-ins."""
        for pinned, brought in self.brought.items():
            if self.effects[pinned] is effect:
                return replace(brought, slots=dict(slots))
        return (
            Materials(slots)
            if self.library is None
            else self.library.materials_for(effect, slots, in_edit=True)
        )

    def sound(self, identity: str) -> Sound | None:
        """The sound of a material; None if it has none, is missing, or cannot be read."""
        try:
            return self.read_sound(identity)
        except (Missing, Unreadable):
            return None

    def read_sound(self, identity: str) -> SoundFile | None:
        """The sound of a material; None if it has none.

        Raises
        ------
        Missing, Unreadable
        """
        if identity in self.files:
            file = self.files[identity]
            return shared_sound(file.path, identity) if file.facts.may_sound else None
        return None if self.library is None else self.library.sound(identity)

    def peaks(self, identity: str) -> bytes:
        """The loudness of a material of the library, fifty times a second; see
        :meth:`Library.peaks`."""
        return b"" if self.library is None else self.library.peaks(identity)

    def newest(self, macro: str) -> int:
        """The newest version of a macro in the library.

        Raises
        ------
        Missing
        """
        if self.library is None:
            raise Missing(f"“{macro}” was not found. Name it with --macro or --data.")
        return macros.get(self.library.db, macro).versions[0]

    def lasts(self, reel: Reel) -> dict[str, Fraction | None]:
        """The exact length of each material of an edit in seconds; None for stills. Missing
        materials are left out."""
        known: dict[str, Fraction | None] = {}
        for name in materials_of(reel):
            if name in self.files:
                known[name] = seconds_of(self.files[name].footage)
            elif self.library is not None and self.library.has(name):
                with suppress(Missing):
                    known[name] = seconds_of(self.library.footage(name))
        return known


def media_files(folders: Iterable[Path]) -> Iterator[Path]:
    """Files of material in folders and below them."""
    count = 0
    for folder in folders:
        for path in sorted(folder.rglob("*")):
            count += 1
            if count > MOST_FILES:
                raise Fault(
                    f"There are more than {MOST_FILES} files in these folders. Name others."
                )
            if path.is_file() and _is_material(path):
                yield path


def _is_material(path: Path) -> bool:
    try:
        with path.open("rb") as file:
            return sniff(file.read(HEAD), path.name)[0] in ("video", "still", "animation")
    except (Fault, OSError):
        return False


def library_media(library: Library) -> dict[str, Media]:
    """The materials of a library, by the names in edit lists."""
    return {
        one.id: media_of(one.id, one.name, one.extension, one.facts)
        for one in materials.listed(library.db)
    }
