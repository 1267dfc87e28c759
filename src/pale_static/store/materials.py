"""Materials: files brought in, named by content hash."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from ..core.faults import Missing
from ..media.facts import Facts
from ..media.reading import AS_TOLD, Reading
from .database import Database, now


@dataclass(frozen=True)
class Material:
    """A file of footage or a still."""

    id: str
    name: str
    extension: str
    facts: Facts
    added: str
    made: float | None = None
    """The finished share of its file, 0 to 1, while it is being made; None when it is complete."""
    reading: Reading = AS_TOLD
    """A person's choices of how it is read."""
    content: str | None = None
    """The hash of its file, if that is not the id of the material."""


def _material(row: sqlite3.Row) -> Material:
    facts = Facts.model_validate_json(row["facts"])
    reading = Reading.model_validate_json(row["reading"])
    return Material(
        row["id"], row["name"], row["extension"], facts, row["added"], row["made"], reading,
        row["content"],
    )  # fmt: skip


def add(
    db: Database,
    identity: str,
    name: str,
    extension: str,
    facts: Facts,
    made: float | None = None,
) -> Material:
    """Store a file as a material; a file with the same content is the same material."""
    with db.write(durable=True) as connection:
        connection.execute(
            "INSERT INTO material (id, name, extension, facts, added, made)"
            " VALUES (?, ?, ?, ?, ?, ?)"
            " ON CONFLICT (id) DO UPDATE SET removed = 0",
            (identity, name, extension, facts.model_dump_json(), now(), made),
        )
    return get(db, identity)


def expect(db: Database, identity: str, name: str, extension: str, facts: Facts) -> None:
    """Store the name and facts of a file that is still being made."""
    add(db, identity, name, extension, facts, made=0.0)


def progress(db: Database, identity: str, made: float) -> None:
    """Store the finished share of an expected file, 0 to 1."""
    with db.write() as connection:
        connection.execute("UPDATE material SET made = ? WHERE id = ?", (made, identity))


def arrived(db: Database, identity: str, facts: Facts, content: str) -> None:
    """Mark an expected file as complete, with its facts."""
    with db.write() as connection:
        connection.execute(
            "UPDATE material SET made = NULL, facts = ?, content = ? WHERE id = ?",
            (facts.model_dump_json(), content, identity),
        )


def forget(db: Database, identity: str) -> None:
    """Remove an expected file from the list, because it arrived under another name."""
    with db.write() as connection:
        connection.execute("DELETE FROM material WHERE id = ? AND made IS NOT NULL", (identity,))


def expected(db: Database) -> list[Material]:
    """Materials whose files are still being made."""
    with db.read() as connection:
        rows = connection.execute(
            "SELECT * FROM material WHERE made IS NOT NULL AND removed = 0 ORDER BY rowid"
        ).fetchall()
    return [_material(row) for row in rows]


def get(db: Database, identity: str) -> Material:
    """A material by its content hash.

    Raises
    ------
    Missing
    """
    with db.read() as connection:
        row = connection.execute("SELECT * FROM material WHERE id = ?", (identity,)).fetchone()
    if row is None:
        raise Missing(f"There is no material {identity[:12]} here. Bring it in again.")
    return _material(row)


def listed(db: Database) -> list[Material]:
    """All materials, oldest first."""
    with db.read() as connection:
        rows = connection.execute(
            "SELECT * FROM material WHERE removed = 0 ORDER BY added, rowid"
        ).fetchall()
    return [_material(row) for row in rows]


def remove(db: Database, identity: str, removed: bool = True) -> None:
    """Remove a material from the list, or put it back; the file stays for edits and effects that use it."""
    with db.write() as connection:
        connection.execute("UPDATE material SET removed = ? WHERE id = ?", (int(removed), identity))


def rename(db: Database, identity: str, name: str) -> Material:
    """Give a material another name."""
    with db.write() as connection:
        connection.execute("UPDATE material SET name = ? WHERE id = ?", (name, identity))
    return get(db, identity)


def read_as(db: Database, identity: str, reading: Reading, facts: Facts) -> Material:
    """Store how to read a material, and its facts when it is read that way."""
    with db.write(durable=True) as connection:
        connection.execute(
            "UPDATE material SET reading = ?, facts = ? WHERE id = ?",
            (reading.model_dump_json(exclude_defaults=True), facts.model_dump_json(), identity),
        )
    return get(db, identity)
