"""Materials: files brought in, named by content hash."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from ..core.faults import Missing
from ..media.facts import Facts
from .database import Database, now


@dataclass(frozen=True)
class Material:
    """A file of footage or a still."""

    id: str
    name: str
    extension: str
    facts: Facts
    added: str


def _material(row: sqlite3.Row) -> Material:
    facts = Facts.model_validate_json(row["facts"])
    return Material(row["id"], row["name"], row["extension"], facts, row["added"])


def add(db: Database, identity: str, name: str, extension: str, facts: Facts) -> Material:
    """Note a file down; the same content twice is one material."""
    with db.write() as connection:
        connection.execute(
            "INSERT INTO material (id, name, extension, facts, added) VALUES (?, ?, ?, ?, ?)"
            " ON CONFLICT (id) DO UPDATE SET removed = 0",
            (identity, name, extension, facts.model_dump_json(), now()),
        )
    return get(db, identity)


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
    """All materials, in the order they came."""
    with db.read() as connection:
        rows = connection.execute(
            "SELECT * FROM material WHERE removed = 0 ORDER BY added, rowid"
        ).fetchall()
    return [_material(row) for row in rows]


def remove(db: Database, identity: str, removed: bool = True) -> None:
    """Take a material off the list, or put it back; the file stays, for what uses it."""
    with db.write() as connection:
        connection.execute("UPDATE material SET removed = ? WHERE id = ?", (int(removed), identity))


def rename(db: Database, identity: str, name: str) -> Material:
    """Give a material another name."""
    with db.write() as connection:
        connection.execute("UPDATE material SET name = ? WHERE id = ?", (name, identity))
    return get(db, identity)
