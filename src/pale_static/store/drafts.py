"""Drafts: effects and reels being worked on, with every accepted change as a revision."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass
from typing import Any, Literal

from ..core.faults import Clash, Missing
from .database import Database, now

Kind = Literal["effect", "reel"]


@dataclass(frozen=True)
class Revision:
    """One accepted change and the document after it."""

    id: int
    draft: int
    parent: int | None
    words: str
    stage: str | None
    made: str
    document: dict[str, Any]


@dataclass(frozen=True)
class Draft:
    """A draft at its current revision."""

    id: int
    kind: Kind
    macro: str | None
    head: Revision
    undo: bool
    redo: bool
    project: str = ""


def _revision(row: sqlite3.Row) -> Revision:
    return Revision(
        row["id"], row["draft"], row["parent"], row["words"], row["stage"], row["made"],
        json.loads(row["document"]),
    )  # fmt: skip


def _insert(
    connection: sqlite3.Connection,
    draft: int,
    parent: int | None,
    words: str,
    document: dict[str, Any],
) -> int:
    text = json.dumps(document, ensure_ascii=False)
    row = connection.execute(
        "INSERT INTO revision (draft, parent, words, document, made) VALUES (?, ?, ?, ?, ?)",
        (draft, parent, words, text, now()),
    )
    connection.execute("UPDATE draft SET head = ? WHERE id = ?", (row.lastrowid, draft))
    return int(row.lastrowid or 0)


def start(
    db: Database, kind: Kind, document: dict[str, Any], words: str, macro: str | None = None
) -> Draft:
    """Create a draft with its first revision."""
    with db.write() as connection:
        row = connection.execute("INSERT INTO draft (kind, macro) VALUES (?, ?)", (kind, macro))
        draft = int(row.lastrowid or 0)
        _insert(connection, draft, None, words, document)
    return get(db, kind, draft)


def get(db: Database, kind: Kind, draft: int) -> Draft:
    """A draft at its current revision.

    Raises
    ------
    Missing
    """
    with db.read() as connection:
        row = connection.execute(
            "SELECT * FROM draft WHERE id = ? AND kind = ? AND removed = 0", (draft, kind)
        ).fetchone()
        if row is None:
            raise _missing(kind, draft)
        head = connection.execute("SELECT * FROM revision WHERE id = ?", (row["head"],)).fetchone()
        after = connection.execute(
            "SELECT 1 FROM revision WHERE draft = ? AND parent = ? LIMIT 1", (draft, row["head"])
        ).fetchone()
    return Draft(
        row["id"], kind, row["macro"], _revision(head), head["parent"] is not None,
        after is not None, row["project"],
    )  # fmt: skip


def listed(db: Database, kind: Kind) -> list[Draft]:
    """All drafts of a kind, the most recently changed first."""
    with db.read() as connection:
        rows = connection.execute(
            "SELECT id FROM draft WHERE kind = ? AND removed = 0 ORDER BY head DESC", (kind,)
        ).fetchall()
    return [get(db, kind, row["id"]) for row in rows]


def based_on(db: Database, draft: Draft, base: int) -> int:
    """The revision ``base``; the newest one if ``base`` is not of this draft."""
    with db.read() as connection:
        known = connection.execute(
            "SELECT 1 FROM revision WHERE id = ? AND draft = ?", (base, draft.id)
        ).fetchone()
    return base if known else draft.head.id


def record(db: Database, draft: Draft, base: int, words: str, document: dict[str, Any]) -> Draft:
    """Add a revision after ``base``, which must still be the head.

    A second call with the same change, after a lost answer, changes nothing and gives the same
    result.

    Raises
    ------
    Clash
        If the draft was changed elsewhere meanwhile; nothing is written.
    """
    with db.write() as connection:
        head, parent, there = connection.execute(
            "SELECT head, revision.parent, revision.document FROM draft"
            " JOIN revision ON revision.id = head WHERE draft.id = ? AND removed = 0",
            (draft.id,),
        ).fetchone()
        if parent == base and json.loads(there) == document:
            return get(db, draft.kind, draft.id)
        if head != base:
            raise _changed_elsewhere(draft.kind)
        _insert(connection, draft.id, base, words, document)
    return get(db, draft.kind, draft.id)


def undo(db: Database, kind: Kind, draft: int, base: int) -> Draft:
    """Move the draft to the revision before ``base``; ``base`` stays in the history.

    A second call, after a lost answer, changes nothing more.

    Raises
    ------
    Missing
    Clash
        If the draft was changed elsewhere meanwhile.
    """
    return _moved(
        db, kind, draft, base,
        "SELECT coalesce(parent, id) FROM revision WHERE id = ? AND draft = ?",
    )  # fmt: skip


def redo(db: Database, kind: Kind, draft: int, base: int) -> Draft:
    """Move the draft to the newest revision that was made from ``base``; see :func:`undo`."""
    return _moved(
        db, kind, draft, base,
        "SELECT coalesce((SELECT max(id) FROM revision AS later WHERE later.parent = "
        "revision.id), id)"
        " FROM revision WHERE id = ? AND draft = ?",
    )  # fmt: skip


def _moved(db: Database, kind: Kind, draft: int, base: int, to: str) -> Draft:
    """Make another revision the head of a draft: the one that ``to`` finds for ``base``."""
    with db.write() as connection:
        row = connection.execute(
            "SELECT head FROM draft WHERE id = ? AND kind = ? AND removed = 0", (draft, kind)
        ).fetchone()
        found = connection.execute(to, (base, draft)).fetchone()
        if row is None or found is None:
            raise _missing(kind, draft)
        target = found[0]
        if row["head"] not in (base, target):
            raise _changed_elsewhere(kind)
        connection.execute("UPDATE draft SET head = ? WHERE id = ?", (target, draft))
    return get(db, kind, draft)


def _missing(kind: Kind, draft: int) -> Missing:
    return Missing(f"There is no {kind} number {draft}. It may have been removed.")


def _changed_elsewhere(kind: Kind) -> Clash:
    return Clash(
        f"This {kind} was changed in another window meanwhile. You now see its present state; "
        f"make your change again.",
        "revision",
    )


def revision(db: Database, draft: int, number: int) -> Revision:
    """One revision of a draft."""
    with db.read() as connection:
        row = connection.execute(
            "SELECT * FROM revision WHERE id = ? AND draft = ?", (number, draft)
        ).fetchone()
    if row is None:
        raise Missing(f"There is no revision {number} of this draft.")
    return _revision(row)


@dataclass(frozen=True)
class Noted:
    """A revision as History lists it, without its document."""

    id: int
    words: str
    stage: str | None
    made: str


def history(db: Database, draft: int, limit: int = 200) -> list[Noted]:
    """The revisions that lead to the head, newest first."""
    with db.read() as connection:
        rows = connection.execute(
            "WITH RECURSIVE line (id) AS ("
            " SELECT head FROM draft WHERE id = ?1"
            " UNION ALL SELECT parent FROM revision JOIN line USING (id) WHERE parent IS NOT NULL"
            ") SELECT id, words, stage, made FROM line JOIN revision USING (id)"
            " ORDER BY id DESC LIMIT ?2",
            (draft, limit),
        ).fetchall()
    return [Noted(*row) for row in rows]


def texts(db: Database) -> list[tuple[str, str]]:
    """The name and the document, as text, of every draft at its current revision, to find uses of a
    file."""
    with db.read() as connection:
        return connection.execute(
            "SELECT json_extract(document, '$.name'), document FROM draft"
            " JOIN revision ON revision.id = head WHERE removed = 0 ORDER BY kind DESC, head DESC"
        ).fetchall()


def keep_stage(db: Database, draft: int, number: int, name: str) -> None:
    """Name a revision, so that a person can find it again."""
    with db.write() as connection:
        connection.execute(
            "UPDATE revision SET stage = ? WHERE id = ? AND draft = ?", (name, number, draft)
        )


def set_project(db: Database, draft: int, project: str) -> None:
    """Put an effect into a project; an empty name removes it from its project."""
    with db.write() as connection:
        connection.execute(
            "UPDATE draft SET project = ? WHERE id = ? AND kind = 'effect'", (project, draft)
        )


def belongs_to(db: Database, draft: int, macro: str) -> None:
    """Link a draft to a macro: publishing the draft makes the macro's next version."""
    with db.write() as connection:
        connection.execute("UPDATE draft SET macro = ? WHERE id = ?", (macro, draft))


def remove(db: Database, kind: Kind, draft: int, removed: bool = True) -> None:
    """Remove a draft from the list, or put it back; nothing is deleted."""
    with db.write() as connection:
        connection.execute(
            "UPDATE draft SET removed = ? WHERE id = ? AND kind = ?", (int(removed), draft, kind)
        )
