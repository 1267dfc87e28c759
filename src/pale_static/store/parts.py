"""Parts: steps kept for use again, for one project or for all, in collections."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass

from ..core.documents.part import Part, read_part
from ..core.faults import Clash, Missing
from .database import Database, now


@dataclass(frozen=True)
class KeptPart:
    """A part on the shelf. An empty ``project`` means all projects."""

    id: int
    project: str
    collection: str
    added: str
    part: Part


def _kept(row: sqlite3.Row) -> KeptPart:
    part = read_part(json.loads(row["document"]))
    return KeptPart(row["id"], row["project"], row["collection"], row["added"], part)


def listed(db: Database) -> list[KeptPart]:
    """All parts, by collection and name."""
    with db.read() as connection:
        rows = connection.execute(
            "SELECT * FROM part WHERE removed = 0 ORDER BY collection, name COLLATE NOCASE, id"
        ).fetchall()
    return [_kept(row) for row in rows]


def get(db: Database, number: int) -> KeptPart:
    """One part.

    Raises
    ------
    Missing
    """
    with db.read() as connection:
        row = connection.execute(
            "SELECT * FROM part WHERE id = ? AND removed = 0", (number,)
        ).fetchone()
    if row is None:
        raise Missing(f"There is no part number {number}. It may have been removed.")
    return _kept(row)


def picture(db: Database, number: int) -> bytes | None:
    """A part's picture from when it was kept, as JPEG."""
    with db.read() as connection:
        row = connection.execute("SELECT picture FROM part WHERE id = ?", (number,)).fetchone()
    return None if row is None else row["picture"]


def named(db: Database, name: str, collection: str, project: str) -> KeptPart | None:
    """The part of that name in a collection; None if there is none."""
    with db.read() as connection:
        number = _named(connection, name, collection, project)
    return None if number is None else get(db, number)


def _named(connection: sqlite3.Connection, name: str, collection: str, project: str) -> int | None:
    """The number of the part of that name in a collection; None if there is none."""
    row = connection.execute(
        "SELECT id FROM part WHERE name = ? AND collection = ? AND project = ? AND removed = 0",
        (name, collection, project),
    ).fetchone()
    return None if row is None else int(row["id"])


def add(
    db: Database,
    part: Part,
    *,
    project: str = "",
    collection: str = "",
    image: bytes | None = None,
    replace: bool = False,
) -> KeptPart:
    """Keep a part.

    Raises
    ------
    Clash
        If another part in that collection has its name, unless ``replace`` is set.
    """
    text = json.dumps(part.to_json(), ensure_ascii=False)
    with db.write() as connection:
        old = _named(connection, part.name, collection, project)
        if old is not None and not replace:
            where = f"in the collection “{collection}”" if collection else "among the parts"
            raise Clash(
                f"There is a part called “{part.name}” {where} already. Give this one another "
                f"name, or replace the other one.",
                "name",
            )
        if old is not None:
            connection.execute("UPDATE part SET removed = 1 WHERE id = ?", (old,))
        row = connection.execute(
            "INSERT INTO part (name, project, collection, document, picture, added)"
            " VALUES (?, ?, ?, ?, ?, ?)",
            (part.name, project, collection, text, image, now()),
        )
        number = int(row.lastrowid or 0)
    return get(db, number)


def change(db: Database, number: int, part: Part, project: str, collection: str) -> KeptPart:
    """Change the name, notes, tags or place of a part.

    Raises
    ------
    Clash
        If another part there has its name.
    """
    with db.write() as connection:
        if _named(connection, part.name, collection, project) not in (None, number):
            raise Clash(f"There is already a part called “{part.name}” in that collection.", "name")
        connection.execute(
            "UPDATE part SET name = ?, project = ?, collection = ?, document = ? WHERE id = ?",
            (
                part.name, project, collection,
                json.dumps(part.to_json(), ensure_ascii=False), number,
            ),
        )  # fmt: skip
    return get(db, number)


def remove(db: Database, number: int, removed: bool = True) -> None:
    """Remove a part from the list, or put it back; nothing is deleted.

    Raises
    ------
    Clash
        If another part has its name meanwhile.
    """
    with db.write() as connection:
        if not removed:
            row = connection.execute(
                "SELECT 1 FROM part AS old JOIN part AS new USING (name, collection, project)"
                " WHERE old.id = ? AND new.id <> old.id AND new.removed = 0",
                (number,),
            ).fetchone()
            if row is not None:
                raise Clash("Another part has that name now. Rename the other part first.", "name")
        connection.execute("UPDATE part SET removed = ? WHERE id = ?", (int(removed), number))
