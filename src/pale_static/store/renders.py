"""Renders: queued, running and finished. The table is the queue."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import asdict, dataclass, fields
from typing import Literal

from ..core.faults import Missing
from ..core.pictures.picture import Size
from .database import Database, now
from .drafts import Draft

State = Literal["queued", "running", "done", "failed", "cancelled", "interrupted"]


@dataclass(frozen=True)
class Wanted:
    """A request for a render: the part of the edit, and the format.

    ``form`` is the slug of a format. ``item`` names one item of the edit; empty means the whole
    edit.
    ``clear`` leaves empty areas clear instead of black. ``copy`` copies unchanged parts of the
    source. ``told`` holds the sentences of the check before the render. ``scheduler`` is the
    address of the cluster that makes it; empty for this machine, which with ``or_here`` also makes
    what the cluster cannot.
    """

    form: str
    first: int
    total: int
    item: str = ""
    clear: bool = False
    quality: int | None = None
    bit_rate: int | None = None
    copy: bool = False
    told: tuple[str, ...] = ()
    scheduler: str = ""
    or_here: bool = False


@dataclass(frozen=True)
class Render:
    """One render and its progress."""

    id: int
    reel: int
    revision: int
    wanted: Wanted
    done: int
    state: State
    message: str
    file: str
    speed: float
    worker: int | None
    asked: str
    ended: str | None
    stopped: int
    name: str
    width: int
    height: int
    bytes: int
    content: str


_WANTED = tuple(one.name for one in fields(Wanted))


def _render(row: sqlite3.Row) -> Render:
    columns = {name: row[name] for name in row.keys()}  # noqa: SIM118
    wanted = {name: columns.pop(name) for name in _WANTED}
    wanted |= {name: bool(wanted[name]) for name in ("clear", "copy", "or_here")}
    wanted["told"] = tuple(json.loads(wanted["told"]))
    return Render(wanted=Wanted(**wanted), **columns)


def ask(db: Database, draft: Draft, wanted: Wanted, name: str, size: Size) -> Render:
    """Queue a render of an edit at its current revision."""
    row = asdict(wanted) | {
        "reel": draft.id, "revision": draft.head.id, "asked": now(), "name": name,
        "width": size.width, "height": size.height, "told": json.dumps(wanted.told),
    }  # fmt: skip
    with db.write() as connection:
        made = connection.execute(
            "INSERT INTO render"
            " (reel, revision, form, first, total, state, asked, name, width, height, item, clear,"
            " quality, bit_rate, copy, told, scheduler, or_here) VALUES (:reel, :revision, :form, :first, :total, "
            "'queued',"
            " :asked, :name, :width, :height, :item, :clear, :quality, :bit_rate, :copy, :told,"
            " :scheduler, :or_here)",
            row,
        )
    return get(db, int(made.lastrowid or 0))


def get(db: Database, number: int) -> Render:
    """A render by number.

    Raises
    ------
    Missing
    """
    with db.read() as connection:
        row = connection.execute("SELECT * FROM render WHERE id = ?", (number,)).fetchone()
    if row is None:
        raise Missing(f"There is no render number {number}.")
    return _render(row)


def listed(db: Database) -> list[Render]:
    """All renders, newest first."""
    with db.read() as connection:
        rows = connection.execute("SELECT * FROM render ORDER BY id DESC LIMIT 200").fetchall()
    return [_render(row) for row in rows]


def changes(db: Database) -> int:
    """The number of changes of the list so far."""
    with db.read() as connection:
        (count,) = connection.execute("SELECT count FROM tally WHERE name = 'render'").fetchone()
    return int(count)


def any_queued(db: Database) -> bool:
    """Whether a render waits for a worker."""
    with db.read() as connection:
        row = connection.execute("SELECT 1 FROM render WHERE state = 'queued' LIMIT 1")
        return row.fetchone() is not None


def take(db: Database, worker: int) -> Render | None:
    """Take the oldest queued render for a worker process; None if none waits."""
    with db.write() as connection:
        row = connection.execute(
            "UPDATE render SET state = 'running', worker = ? WHERE id ="
            " (SELECT min(id) FROM render WHERE state = 'queued') RETURNING *",
            (worker,),
        ).fetchone()
    return None if row is None else _render(row)


def progress(db: Database, number: int, worker: int, done: int, speed: float) -> bool:
    """Store the progress of a render; False if the render is no longer wanted."""
    with db.write() as connection:
        row = connection.execute(
            "UPDATE render SET done = ?, speed = ?"
            " WHERE id = ? AND state = 'running' AND worker = ? RETURNING id",
            (done, speed, number, worker),
        ).fetchone()
    return row is not None


def waits(db: Database, number: int, worker: int, sentence: str) -> str | None:
    """Store what a running render waits for; empty if for nothing.

    Returns
    -------
    str or None
        The scheduler that makes it, empty if it shall be made here from now on; None if the render
        is no longer wanted.
    """
    with db.read() as connection:
        row = connection.execute(
            "SELECT scheduler, message FROM render"
            " WHERE id = ? AND state = 'running' AND worker = ?",
            (number, worker),
        ).fetchone()
    if row is None:
        return None
    # A render that goes on here waits for no scheduler, whatever its last note says.
    if row["message"] != sentence and (row["scheduler"] or not sentence):
        with db.write() as connection:
            connection.execute("UPDATE render SET message = ? WHERE id = ?", (sentence, number))
    return str(row["scheduler"])


def here(db: Database, number: int) -> Render:
    """Make a render on this machine; one that ended without a file is queued again."""
    with db.write() as connection:
        connection.execute("UPDATE render SET scheduler = '', message = '' WHERE id = ?", (number,))
    return again(db, number)


def end(
    db: Database, number: int, state: State, message: str = "", file: str = "", size: int = 0,
    content: str = "",
) -> None:  # fmt: skip
    """Mark a running render as ended; if it is done, with its file and the file's size in bytes."""
    with db.write() as connection:
        connection.execute(
            "UPDATE render SET state = ?, message = ?, file = ?, bytes = ?, content = ?,"
            " ended = ?, worker = NULL WHERE id = ? AND state = 'running'",
            (state, message, file, size, content, now(), number),
        )


def alike(db: Database, content: str) -> Render | None:
    """The newest finished render with this content; None if there is none."""
    with db.read() as connection:
        row = connection.execute(
            "SELECT * FROM render WHERE content = ? AND state = 'done' ORDER BY id DESC LIMIT 1",
            (content,),
        ).fetchone()
    return None if row is None else _render(row)


def lost(db: Database, number: int) -> None:
    """Mark a finished render whose film was deleted."""
    with db.write() as connection:
        connection.execute(
            "UPDATE render SET state = 'failed', file = '',"
            " message = 'The film is gone. Render it again.' WHERE id = ? AND state = 'done'",
            (number,),
        )


def cancel(db: Database, number: int) -> Render:
    """Cancel a queued or running render."""
    with db.write() as connection:
        connection.execute(
            "UPDATE render SET state = 'cancelled', ended = ?, message = 'Cancelled.'"
            " WHERE id = ? AND state IN ('queued', 'running')",
            (now(), number),
        )
    return get(db, number)


def again(db: Database, number: int) -> Render:
    """Queue a render again if it ended without a file."""
    with db.write() as connection:
        connection.execute(
            "UPDATE render SET state = 'queued', message = '', done = 0, ended = NULL, stopped = 0"
            " WHERE id = ? AND state IN ('failed', 'cancelled', 'interrupted')",
            (number,),
        )
    return get(db, number)


def interrupted(db: Database) -> int:
    """At start-up: queue renders that were running when the application was killed."""
    with db.write() as connection:
        rows = connection.execute(
            "UPDATE render SET state = 'queued', worker = NULL,"
            " message = 'Interrupted when the application stopped. It continues by itself.'"
            " WHERE state = 'running' RETURNING id"
        ).fetchall()
    return len(rows)


MOST_STOPS = 3
"""The number of times that a render's process may die before the render counts as failed."""
_MEMORY = "usually because memory ran out"


def crashed(db: Database) -> int:
    """The render process died: queue its render again, or mark it as failed after the third time."""
    with db.write() as connection:
        rows = connection.execute(
            "UPDATE render SET stopped = stopped + 1, worker = NULL,"
            " state = iif(stopped + 1 < :most, 'queued', 'failed'),"
            " ended = iif(stopped + 1 < :most, NULL, :now),"
            " message = iif(stopped + 1 < :most, :again, :failed)"
            " WHERE state = 'running' RETURNING id",
            {
                "most": MOST_STOPS, "now": now(),
                "again": f"The render process stopped, {_MEMORY}. The render continues by itself.",
                "failed": f"The render process stopped {MOST_STOPS} times, {_MEMORY}. "
                "Render again at a smaller size.",
            },
        ).fetchall()  # fmt: skip
    return len(rows)
