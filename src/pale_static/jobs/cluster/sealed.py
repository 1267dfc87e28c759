"""A film as one document that other machines can compute from, and the files that it names.

The document holds the edit or the effect, its macros and its settings. Files are named by their
content, so a worker asks for each of them once and checks what it gets.
"""

from __future__ import annotations

import json
import zlib
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ...core.document import Effect
from ...core.documents.checking import assets_of, fonts_of
from ...core.faults import Fault, Malformed, Missing
from ...core.frames.edit import EditSource
from ...core.frames.effect import EffectSource
from ...core.frames.fillings import stand_ins_of
from ...core.reel import Reel, materials_of, uses_of
from ...media.facts import Facts, file_identity
from ...media.pictures.picture_clip import names_of, pack
from ...media.reading import AS_TOLD, Reading
from ...store import materials
from ..effect_files import EffectFile, is_package
from ..films import Film
from ..shelf import Shelf

FORMAT: Literal["pale-static/film@1"] = "pale-static/film@1"
MOST_BYTES = 64 << 20
"""Bytes of an unpacked document."""

Key = Annotated[str, Field(pattern=r"^[0-9a-f]{32}$")]
"""The content hash of a file; see :func:`pale_static.media.facts.file_identity`."""


class _Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class SealedMaterial(_Part):
    """A material: its file, or what shows in its place."""

    file: Key | None = None
    reading: Reading = AS_TOLD
    waiting: Facts | None = None
    """The facts of a material that is still being made; a card shows in its place."""
    gone: str = ""
    """The sentence of the fault that using this material raises."""


class SealedMacro(_Part):
    """A macro of an edit: its document, or the package that brings its pictures and fonts."""

    slug: str
    version: int
    document: dict[str, Any] | None = None
    package: Key | None = None
    brought: bool = False
    """Whether it came from a file, and so has no stand-ins from a library."""


class SealedEdit(_Part):
    """An edit, and the part of it that is rendered."""

    reel: dict[str, Any]
    macros: tuple[SealedMacro, ...]
    clear: bool
    first: int
    frames: int
    library: bool
    """Whether materials and macros come from a library, which fills empty slots."""


class SealedEffect(_Part):
    """An effect with its clips and settings."""

    document: dict[str, Any] | None = None
    package: Key | None = None
    size: str
    rate: str
    frames: int
    settings: dict[str, Any]
    slots: dict[str, str]
    """Names of materials by slot."""


class SealedFilm(_Part):
    """Everything that decides the bytes of a film's stretches."""

    format: Literal["pale-static/film@1"] = FORMAT
    program: str
    form: str
    quality: int | None
    bit_rate: int | None
    layers: tuple[str, ...]
    edit: SealedEdit | None = None
    effect: SealedEffect | None = None
    materials: dict[str, SealedMaterial]
    sizes: dict[Key, int]
    """Bytes of each file."""

    def packed(self) -> bytes:
        """The document as bytes."""
        return zlib.compress(self.model_dump_json(exclude_defaults=True).encode(), 6)


def unpacked_film(data: bytes) -> SealedFilm:
    """Read a document that another machine sent.

    Raises
    ------
    Malformed
    """
    packed = zlib.decompressobj()
    try:
        text = packed.decompress(data, MOST_BYTES)
        if packed.unconsumed_tail or not packed.eof:
            raise Malformed("The document of a film is incomplete or too large.")
        return SealedFilm.model_validate(json.loads(text))
    except (zlib.error, ValueError, ValidationError, RecursionError) as fault:
        raise Malformed("The document of a film cannot be read.") from fault


@dataclass
class Sealing:
    """Collects the files of a film while its document is made."""

    folder: Path
    """A folder for packed sequences; the caller deletes it."""
    files: dict[str, Path] = field(default_factory=dict)
    materials: dict[str, SealedMaterial] = field(default_factory=dict)

    def of(self, film: Film) -> SealedFilm:
        """The document of a film.

        Raises
        ------
        Fault
            If the film cannot be sent, because its recipe is missing.
        """
        source, encoding = film.source, film.encoding
        edit = effect = None
        if isinstance(source, EditSource) and isinstance(source.shelf, Shelf):
            edit = self._edit(source, source.shelf)
        elif isinstance(source, EffectSource) and isinstance(film.recipe, EffectFile):
            effect = self._effect(source, film.recipe)
        else:
            raise Fault(f"{source.name} can only be rendered on this machine.")
        return SealedFilm(
            program=source.program(), form=encoding.format.slug, quality=encoding.quality,
            bit_rate=encoding.bit_rate, layers=film.layers, edit=edit, effect=effect,
            materials=self.materials,
            sizes={key: path.stat().st_size for key, path in self.files.items()},
        )  # fmt: skip

    def _key(self, path: Path, identity: str | None = None) -> str:
        """The name of a file, which is added to the film's files."""
        key = identity or file_identity(path)
        self.files[key] = path
        return key

    def _edit(self, source: EditSource, shelf: Shelf) -> SealedEdit:
        reel = source.reel
        macros = tuple(self._macros(reel, shelf))
        for name in materials_of(reel):
            self._material(name, shelf)
        return SealedEdit(
            reel=reel.to_json(), macros=macros, clear=source.clear, first=source.first,
            frames=source.length, library=shelf.library is not None,
        )  # fmt: skip

    def _macros(self, reel: Reel, shelf: Shelf) -> Iterator[SealedMacro]:
        for slug, version in {(use.macro, use.version): None for _, use in uses_of(reel)}:
            pinned = (slug, version)
            try:
                effect = shelf.effect(slug, version)
            except Fault:
                continue  # It is left out there as it is here.
            if pinned in shelf.packages:
                package = self._key(shelf.packages[pinned])
                yield SealedMacro(slug=slug, version=version, package=package, brought=True)
                continue
            brought = pinned in shelf.brought
            if shelf.library is not None and not brought:
                for name in needed_by(effect):
                    self._material(name, shelf)
            yield SealedMacro(
                slug=slug, version=version, document=effect.to_json(), brought=brought
            )

    def _material(self, name: str, shelf: Shelf) -> None:
        """Add a material of an edit or of a macro."""
        if name in self.materials:
            return
        if name in shelf.files:
            self.materials[name] = SealedMaterial(file=self._key(shelf.files[name].path, name))
            return
        library = shelf.library
        if library is None:
            return  # A plain card shows in its place, there as here.
        try:
            material = materials.get(library.db, name)
        except Missing:
            return
        if material.made is not None:
            self.materials[name] = SealedMaterial(waiting=material.facts)
            return
        path = library.path_of(material)
        if not path.is_file():
            gone = ""
            try:
                library.footage(name)
            except Fault as fault:
                gone = fault.sentence
            self.materials[name] = SealedMaterial(gone=gone or f"{material.name} is gone.")
            return
        self.materials[name] = SealedMaterial(
            file=self._key(path, material.content or name), reading=material.reading
        )
        if material.reading.table:
            self._material(material.reading.table, shelf)

    def _effect(self, source: EffectSource, recipe: EffectFile) -> SealedEffect:
        path = Path(recipe.given["file"])
        package = self._key(path) if is_package(path) else None
        slots = {}
        for slot, file in recipe.filled(source.effect).items():
            clip = self._sequence(Path(file)) if "%" in Path(file).name else Path(file)
            key = self._key(clip)
            slots[slot], self.materials[key] = key, SealedMaterial(file=key)
        return SealedEffect(
            document=None if package else source.effect.to_json(), package=package,
            size=str(source.size), rate=str(source.rate), frames=source.length,
            settings=dict(source.settings), slots=slots,
        )  # fmt: skip

    def _sequence(self, pattern: Path) -> Path:
        """Numbered pictures, packed into one file."""
        if pattern.is_file():
            return pattern
        packed = self.folder / f"{len(self.files)}.frames"
        with packed.open("wb") as out:
            pack({name: pattern.parent / name for name in names_of(pattern)}, out)
        return packed


def needed_by(effect: Effect) -> set[str]:
    """The materials and fonts of a library that an effect may show in an edit."""
    stand_ins = {material for _, material in stand_ins_of(effect, in_edit=True)}
    return {*stand_ins, *assets_of(effect), *fonts_of(effect)}


__all__ = ["FORMAT", "Key", "SealedFilm", "Sealing", "needed_by", "unpacked_film"]
