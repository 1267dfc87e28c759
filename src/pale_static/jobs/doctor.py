"""Find problems in a data folder, and repair those that can be repaired."""

from __future__ import annotations

import shutil
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from ..core.document import Effect
from ..core.documents.checking import assets_of, fonts_of, read_effect
from ..core.documents.json_input import parse_json
from ..core.documents.macro import read_macro
from ..core.documents.part import read_part
from ..core.faults import Fault, Missing
from ..core.reel import Reel, materials_of, read_reel, uses_of
from ..media.backup_file import DATABASE
from ..media.facts import file_identity
from ..media.films.screen_copy import copy_format
from ..media.films.stretches import sizes_of
from ..media.foreign.reading import facts_of
from ..store import Library, drafts, macros, materials, renders, screen_copies
from ..store.materials import Material
from .screen_copies import remove, unused


@dataclass(frozen=True)
class Finding:
    """One problem.

    ``mending`` says how it would be repaired; empty if only a person can do that.
    """

    sentence: str
    mending: str = ""
    mend: Callable[[], object] | None = None


def examine(folder: Path) -> Iterator[Finding]:
    """The problems of a data folder, one by one.

    Raises
    ------
    Missing
        If there is no data folder.
    Fault
        If the database cannot be read at all.
    """
    if not (folder / DATABASE).is_file():
        raise Missing(f"There is no data of Pale Static in {folder}.")
    whole = list(_database(folder / DATABASE))
    yield from whole
    if whole:
        return
    library = Library(folder)
    known = list(_materials(library))
    yield from _media(library, known)
    yield from _copies(library, {one.id: one for one in known})
    yield from _documents(library, {one.id for one in known})
    yield from _renders(library)


def _database(path: Path) -> Iterator[Finding]:
    try:
        with closing(sqlite3.connect(path)) as found:
            for (said,) in found.execute("PRAGMA integrity_check(20)"):
                if said != "ok":
                    yield Finding(f"The database is damaged: {said}. Restore a backup.")
            for row in found.execute("PRAGMA foreign_key_check").fetchmany(20):
                yield Finding(f"A row of “{row[0]}” in the database refers to a row that is gone.")
    except sqlite3.DatabaseError as fault:
        yield Finding(f"The database cannot be read: {fault}. Restore a backup.")


def _materials(library: Library) -> Iterator[Material]:
    with library.db.read() as connection:
        ids = [row["id"] for row in connection.execute("SELECT id FROM material")]
    for identity in ids:
        yield materials.get(library.db, identity)


def _media(library: Library, known: list[Material]) -> Iterator[Finding]:
    for one in known:
        path = library.path_of(one)
        if one.made is not None:
            continue
        if not path.is_file():
            yield Finding(
                f"The file of “{one.name}” ({one.id[:8]}…) is gone. Bring it in again: it is "
                f"recognised by its content, and everything that uses it finds it."
            )
        elif not _as_noted(one, path):
            yield Finding(
                f"The file of “{one.name}” does not have the content that was brought in: it is "
                f"damaged.",
                f"set it aside as {path.name}.damaged; bring the file in again",
                lambda path=path: path.replace(path.with_name(path.name + ".damaged")),  # type: ignore[misc]
            )
    names = {library.path_of(one).name for one in known}
    for file in sorted(library.media.iterdir()):
        if file.name.endswith(".damaged") or file.name in names:
            continue
        if file.name.endswith(".part"):
            yield Finding(
                f"{file.name} is left over from an interrupted upload.",
                "remove it", file.unlink,
            )  # fmt: skip
        else:
            yield Finding(
                f"{file.name} is in the media folder, but no material uses it.",
                "put it on the list of materials",
                lambda file=file: _adopted(library, file),  # type: ignore[misc]
            )


def _copies(library: Library, known: dict[str, Material]) -> Iterator[Finding]:
    """Problems of the copies for the screen. All of them can be made again."""
    for one in screen_copies.listed(library.db).values():
        material = known[one.material]
        if one.problem:
            yield Finding(f"There is no copy for the screen of “{material.name}”: {one.problem}")
        if not one.complete:
            continue
        path = library.screen / f"{one.name}{copy_format(material.facts).ending}"
        wrong = "is gone" if not path.is_file() else _wrong(path, material)
        if wrong:
            yield Finding(
                f"The copy for the screen of “{material.name}” {wrong}.",
                "make it again",
                lambda one=one, path=path: _made_again(library, one.material, path),  # type: ignore[misc]
            )
    for file in unused(library):
        yield Finding(
            f"{file.name} is left over from a copy for the screen.",
            "remove it", lambda file=file: remove(file),  # type: ignore[misc]
        )  # fmt: skip


def _wrong(path: Path, material: Material) -> str:
    """What is wrong with the file of a copy; empty if nothing is."""
    try:
        _, frames = sizes_of(path)
    except Fault:
        return "cannot be read"
    return "" if frames == material.facts.frames else "has another number of frames"


def _made_again(library: Library, material: str, path: Path) -> None:
    path.unlink(missing_ok=True)
    screen_copies.forget(library.db, material)


def _as_noted(one: Material, path: Path) -> bool:
    """Whether a file is the one in the database: by its hash, or else by its facts."""
    if file_identity(path) in (one.content, one.id):
        return True
    if one.content is not None:
        return False
    try:
        return facts_of(path, one.name).like(one.facts)
    except Fault:
        return False


def _adopted(library: Library, file: Path) -> None:
    """Bring in a file that is in the folder already, then remove the copy beside it."""
    facts_of(file)
    with file.open("rb") as stream:
        made = library.bring_in(stream, file.name)
    if library.path_of(made) != file:
        file.unlink()


def _documents(library: Library, known: set[str]) -> Iterator[Finding]:
    db = library.db
    with db.read() as connection:
        heads = connection.execute(
            "SELECT draft.id, kind, document FROM draft JOIN revision ON revision.id = head"
        ).fetchall()
        shelf = connection.execute("SELECT slug, version, document FROM macro_version").fetchall()
        kept = connection.execute("SELECT id, name, document FROM part").fetchall()
    for number, kind, text in heads:
        what = f"{'Edit' if kind == 'reel' else 'Draft'} {number}"
        try:
            raw = parse_json(text, what)
            document = read_reel(raw) if kind == "reel" else read_effect(raw)
        except Fault as fault:
            yield Finding(
                f"{what} cannot be read: {fault.sentence}",
                "go back to the last earlier change that can be read",
                lambda number=number, kind=kind: _stepped_back(library, number, kind),  # type: ignore[misc]
            )
            continue
        for name in _used(document) - known:
            yield Finding(
                f"{what}, “{document.name}”, uses a material ({name[:8]}…) that is not here."
            )
        if isinstance(document, Reel):
            for _, use in uses_of(document):
                try:
                    macros.version(db, use.macro, use.version)
                except Fault as fault:
                    yield Finding(f"{what}, “{document.name}”: {fault.sentence}")
    for slug, version, text in shelf:
        try:
            read_macro(parse_json(text, f"Macro {slug}"))
        except Fault as fault:
            yield Finding(f"Version {version} of macro “{slug}” cannot be read: {fault.sentence}")
    for number, name, text in kept:
        try:
            read_part(parse_json(text, f"Part {number}"))
        except Fault as fault:
            yield Finding(f"Part “{name}” cannot be read: {fault.sentence}")


def _used(found: Effect | Reel) -> set[str]:
    if isinstance(found, Reel):
        return materials_of(found)
    stand_ins = {slot.stand_in for slot in found.slots if slot.stand_in}
    return {*assets_of(found), *fonts_of(found), *stand_ins}


def _stepped_back(library: Library, draft: int, kind: str) -> None:
    """Add the newest readable revision as a change of its own."""
    read = read_reel if kind == "reel" else read_effect
    for noted in drafts.history(library.db, draft, 10_000):
        revision = drafts.revision(library.db, draft, noted.id)
        try:
            read(revision.document)
        except Fault:
            continue
        with library.db.write(durable=True) as connection:
            connection.execute("UPDATE draft SET head = ? WHERE id = ?", (noted.id, draft))
        return
    raise Fault(f"No revision of draft {draft} can be read. Restore a backup.")


def _renders(library: Library) -> Iterator[Finding]:
    known = {}
    for one in renders.listed(library.db):
        known[one.id] = one
        if one.state == "done" and not (library.renders / one.file).exists():
            yield Finding(
                f"The film of render {one.id}, “{one.name}”, is gone.",
                "mark it as not rendered",
                lambda one=one: renders.lost(library.db, one.id),  # type: ignore[misc]
            )
    for file in sorted(library.renders.iterdir()):
        if file.name.endswith(".part"):
            yield Finding(f"{file.name} is left over from a render.", "remove it", file.unlink)
        elif file.suffix == ".stretches" and not _goes_on(file, known):
            yield Finding(
                f"{file.name} is left over from a render.", "remove it",
                lambda file=file: shutil.rmtree(file),  # type: ignore[misc]
            )  # fmt: skip


def _goes_on(stretches: Path, known: dict[int, renders.Render]) -> bool:
    number = stretches.stem.removeprefix("render-")
    render = known.get(int(number)) if number.isdecimal() else None
    return render is not None and render.state not in ("done", "cancelled")
