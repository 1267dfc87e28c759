"""Copies of films for the screen: which are made, and the settings."""

from __future__ import annotations

from dataclasses import dataclass

from ..media.films.screen_copy import copied, copy_name
from . import materials
from .database import Database
from .materials import Material


@dataclass(frozen=True)
class CopySettings:
    """Settings of copies: whether they are made and used, and lines of their shorter side."""

    on: bool
    lines: int


@dataclass(frozen=True)
class Copied:
    """The copy of a material.

    Parameters
    ----------
    name : str
        Names its content; the file's name without its ending.
    done : float, optional
        The finished share while it is being made; None when it is complete.
    bytes : int
        Bytes of the file.
    problem : str
        Why it could not be made.
    off : bool
        Whether a person wants none of this material.
    """

    material: str
    name: str
    done: float | None
    bytes: int
    problem: str
    off: bool

    @property
    def complete(self) -> bool:
        return self.done is None and not self.problem and not self.off


def settings(db: Database) -> CopySettings:
    """The settings."""
    with db.read() as connection:
        row = connection.execute("SELECT copies, lines FROM screen").fetchone()
    return CopySettings(bool(row["copies"]), row["lines"])


def change(db: Database, new: CopySettings) -> None:
    """Store new settings. What could not be made is tried again."""
    with db.write() as connection:
        connection.execute("UPDATE screen SET copies = ?, lines = ?", (int(new.on), new.lines))
        connection.execute("UPDATE screen_copy SET problem = ''")


def listed(db: Database) -> dict[str, Copied]:
    """All copies, by material."""
    with db.read() as connection:
        rows = connection.execute("SELECT * FROM screen_copy").fetchall()
    return {
        row["material"]: Copied(
            row["material"], row["name"], row["done"], row["bytes"], row["problem"],
            bool(row["off"]),
        )
        for row in rows
    }  # fmt: skip


def name_of(material: Material, lines: int) -> str:
    """The name of a material's copy as it should be now."""
    return copy_name(material.content or material.id, material.reading, lines)


def of(db: Database, material: Material) -> str | None:
    """The name of the complete copy of a material as it is read now; None if there is none."""
    with db.read() as connection:
        row = connection.execute(
            "SELECT name, lines FROM screen_copy JOIN screen WHERE material = ? AND copies"
            " AND done IS NULL AND problem = '' AND NOT off",
            (material.id,),
        ).fetchone()
    return row["name"] if row and row["name"] == name_of(material, row["lines"]) else None


def wanted(db: Database) -> list[Material]:
    """Materials whose copies are still to be made, those brought in last first; none while a file
    is being made."""
    setting = settings(db)
    if not setting.on or materials.expected(db):
        return []
    known = listed(db)
    return [one for one in reversed(materials.listed(db)) if _lacks(one, known, setting.lines)]


def _lacks(material: Material, known: dict[str, Copied], lines: int) -> bool:
    if not copied(material.facts):
        return False
    held = known.get(material.id)
    if held is None:
        return True
    if held.off:
        return False
    return held.name != name_of(material, lines) or not (held.problem or held.complete)


def begun(db: Database, material: str, name: str, done: float = 0.0) -> None:
    """Store how much of a copy is made, 0 to 1."""
    with db.write() as connection:
        connection.execute(
            "INSERT INTO screen_copy (material, name, done) VALUES (?1, ?2, ?3)"
            " ON CONFLICT (material) DO UPDATE SET name = ?2, done = ?3, bytes = 0, problem = ''",
            (material, name, done),
        )


def made(db: Database, material: str, name: str, size: int) -> None:
    """Mark a copy as complete."""
    with db.write() as connection:
        connection.execute(
            "UPDATE screen_copy SET done = NULL, bytes = ? WHERE material = ? AND name = ?",
            (size, material, name),
        )


def failed(db: Database, material: str, name: str, problem: str) -> None:
    """Store why a copy could not be made."""
    with db.write() as connection:
        connection.execute(
            "UPDATE screen_copy SET problem = ?, done = 0 WHERE material = ? AND name = ?",
            (problem, material, name),
        )


def switch(db: Database, material: str, on: bool) -> None:
    """Make and use a copy of a material, or not. Switched on again, it is tried again."""
    with db.write() as connection:
        connection.execute(
            "INSERT INTO screen_copy (material, name, done, off) VALUES (?1, '', 0, ?2)"
            " ON CONFLICT (material) DO UPDATE SET off = ?2, problem = '',"
            " name = iif(?2, '', name), done = iif(?2, 0, done)",
            (material, int(not on)),
        )


def forget(db: Database, material: str) -> None:
    """Forget a copy whose file is gone; it is made again."""
    with db.write() as connection:
        connection.execute("DELETE FROM screen_copy WHERE material = ? AND NOT off", (material,))


def still_wanted(db: Database, material: Material, name: str) -> bool:
    """Whether the copy under way is still the wanted one: a material may be removed, or read
    another way, while it is copied."""
    setting, held = settings(db), listed(db).get(material.id)
    if not setting.on or held is None or held.off:
        return False
    with db.read() as connection:
        row = connection.execute(
            "SELECT removed FROM material WHERE id = ?", (material.id,)
        ).fetchone()
    return not row["removed"] and name_of(materials.get(db, material.id), setting.lines) == name
