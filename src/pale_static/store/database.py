"""The SQLite file: opening, migrating, and one transaction at a time."""

from __future__ import annotations

import logging
import sqlite3
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import TypeVar

from ..core.faults import Busy, Fault, NoRoom

log = logging.getLogger(__name__)
Done = TypeVar("Done")
WAIT_FOR_OTHERS = 5.0
"""Seconds until a change is refused because another program locks the database."""
TRY_AGAIN = 2.0
"""Seconds between two attempts to store a note."""

MIGRATIONS = (
    """
    CREATE TABLE material (
        id TEXT PRIMARY KEY,
        name TEXT NOT NULL,
        extension TEXT NOT NULL,
        facts TEXT NOT NULL,
        added TEXT NOT NULL,
        removed INTEGER NOT NULL DEFAULT 0
    ) STRICT;
    CREATE TABLE draft (
        id INTEGER PRIMARY KEY,
        kind TEXT NOT NULL CHECK (kind IN ('effect', 'reel')),
        head INTEGER REFERENCES revision (id),
        macro TEXT REFERENCES macro (slug),
        removed INTEGER NOT NULL DEFAULT 0
    ) STRICT;
    CREATE TABLE revision (
        id INTEGER PRIMARY KEY,
        draft INTEGER NOT NULL REFERENCES draft (id),
        parent INTEGER REFERENCES revision (id),
        words TEXT NOT NULL,
        document TEXT NOT NULL,
        stage TEXT,
        made TEXT NOT NULL
    ) STRICT;
    CREATE INDEX revision_of_draft ON revision (draft, parent);
    CREATE TABLE macro (
        slug TEXT PRIMARY KEY,
        name TEXT NOT NULL,
        kind TEXT NOT NULL,
        uses INTEGER NOT NULL DEFAULT 0
    ) STRICT;
    CREATE TABLE macro_version (
        slug TEXT NOT NULL REFERENCES macro (slug),
        version INTEGER NOT NULL,
        document TEXT NOT NULL,
        preview BLOB,
        published TEXT NOT NULL,
        PRIMARY KEY (slug, version)
    ) STRICT;
    CREATE TRIGGER macro_version_stays BEFORE UPDATE OF document ON macro_version
    BEGIN SELECT RAISE(ABORT, 'a published version never changes'); END;
    CREATE TABLE render (
        id INTEGER PRIMARY KEY,
        reel INTEGER NOT NULL REFERENCES draft (id),
        revision INTEGER NOT NULL REFERENCES revision (id),
        form TEXT NOT NULL,
        first INTEGER NOT NULL,
        total INTEGER NOT NULL,
        done INTEGER NOT NULL DEFAULT 0,
        state TEXT NOT NULL,
        message TEXT NOT NULL DEFAULT '',
        file TEXT NOT NULL DEFAULT '',
        speed REAL NOT NULL DEFAULT 0,
        worker INTEGER,
        asked TEXT NOT NULL,
        ended TEXT
    ) STRICT;
    """,
    """
    ALTER TABLE draft ADD COLUMN project TEXT NOT NULL DEFAULT '';
    CREATE TABLE part (
        id INTEGER PRIMARY KEY,
        name TEXT NOT NULL,
        project TEXT NOT NULL DEFAULT '',
        collection TEXT NOT NULL DEFAULT '',
        document TEXT NOT NULL,
        picture BLOB,
        added TEXT NOT NULL,
        removed INTEGER NOT NULL DEFAULT 0
    ) STRICT;
    CREATE INDEX part_by_name ON part (name, collection, project);
    """,
    """
    -- How much of a material's file is there, 0 to 1, while it is being made; null once it is whole.
    ALTER TABLE material ADD COLUMN made REAL;
    """,
    """
    -- How often a render's process has stopped under it.
    ALTER TABLE render ADD COLUMN stopped INTEGER NOT NULL DEFAULT 0;
    """,
    """
    -- What the list of renders shows of an edit, so that no document is read for it.
    ALTER TABLE render ADD COLUMN name TEXT NOT NULL DEFAULT '';
    ALTER TABLE render ADD COLUMN width INTEGER NOT NULL DEFAULT 1280;
    ALTER TABLE render ADD COLUMN height INTEGER NOT NULL DEFAULT 720;
    UPDATE render SET (name, width, height) = (
        SELECT json_extract(document, '$.name'),
               coalesce(json_extract(document, '$.width'), 1280),
               coalesce(json_extract(document, '$.height'), 720)
        FROM revision WHERE revision.id = render.revision
    );
    -- The hash of a file that is not known by it: one that was made here, and named before.
    ALTER TABLE material ADD COLUMN content TEXT;
    -- How often the list has changed, so that a caller who asks again gets a short answer if it has not.
    CREATE TABLE tally (name TEXT PRIMARY KEY, count INTEGER NOT NULL) STRICT, WITHOUT ROWID;
    INSERT INTO tally VALUES ('render', 0);
    CREATE TRIGGER render_asked AFTER INSERT ON render
    BEGIN UPDATE tally SET count = count + 1 WHERE name = 'render'; END;
    CREATE TRIGGER render_changed AFTER UPDATE ON render
    BEGIN UPDATE tally SET count = count + 1 WHERE name = 'render'; END;
    """,
    """
    CREATE TABLE kept_settings (
        slug TEXT NOT NULL REFERENCES macro (slug),
        name TEXT NOT NULL,
        settings TEXT NOT NULL,
        made TEXT NOT NULL,
        PRIMARY KEY (slug, name)
    ) STRICT, WITHOUT ROWID;
    -- The one item of an edit that a render shows, over nothing; empty for the whole edit.
    ALTER TABLE render ADD COLUMN item TEXT NOT NULL DEFAULT '';
    """,
    """
    -- Whether what no shot covers stays clear; and the choices of the format.
    ALTER TABLE render ADD COLUMN clear INTEGER NOT NULL DEFAULT 0;
    ALTER TABLE render ADD COLUMN quality INTEGER;
    ALTER TABLE render ADD COLUMN bit_rate INTEGER;
    ALTER TABLE render ADD COLUMN copy INTEGER NOT NULL DEFAULT 0;
    -- Bytes of the finished file, and what names its content.
    ALTER TABLE render ADD COLUMN bytes INTEGER NOT NULL DEFAULT 0;
    ALTER TABLE render ADD COLUMN content TEXT NOT NULL DEFAULT '';
    -- What did not match when the render was asked for: sentences, as a JSON list.
    ALTER TABLE render ADD COLUMN told TEXT NOT NULL DEFAULT '[]';
    UPDATE render SET clear = 1 WHERE item != '';
    -- How a person wants a file to be read, where it differs from what the file says.
    ALTER TABLE material ADD COLUMN reading TEXT NOT NULL DEFAULT '{}';
    """,
    """
    -- The scheduler whose workers make a render; empty for this machine.
    ALTER TABLE render ADD COLUMN scheduler TEXT NOT NULL DEFAULT '';
    -- Whether this machine makes the rest if those workers cannot.
    ALTER TABLE render ADD COLUMN or_here INTEGER NOT NULL DEFAULT 0;
    -- The one cluster of this library: its settings, when somebody last looked at it (seconds since
    -- 1970), and what the render process then saw of it, as JSON.
    CREATE TABLE cluster (
        one INTEGER PRIMARY KEY CHECK (one = 1),
        address TEXT NOT NULL,
        reach TEXT NOT NULL,
        used INTEGER NOT NULL,
        or_here INTEGER NOT NULL,
        looked REAL NOT NULL,
        seen TEXT NOT NULL
    ) STRICT;
    INSERT INTO cluster VALUES (1, '', '', 0, 0, 0, '{}');
    """,
    """
    -- Copies of films for the screen: whether they are made and used, and lines of their shorter
    -- side; then the copy of each material. done is the finished share, or null once it is whole.
    CREATE TABLE screen (
        one INTEGER PRIMARY KEY CHECK (one = 1),
        copies INTEGER NOT NULL,
        lines INTEGER NOT NULL
    ) STRICT;
    INSERT INTO screen VALUES (1, 1, 540);
    CREATE TABLE screen_copy (
        material TEXT PRIMARY KEY REFERENCES material (id) ON DELETE CASCADE,
        name TEXT NOT NULL,
        done REAL,
        bytes INTEGER NOT NULL DEFAULT 0,
        problem TEXT NOT NULL DEFAULT '',
        off INTEGER NOT NULL DEFAULT 0
    ) STRICT, WITHOUT ROWID;
    """,
)


def now() -> str:
    """The current time in UTC, as stored in the database."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


class Database:
    """One SQLite file; a connection a thread."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._local = threading.local()
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as fault:
            raise NoRoom(
                f"The data folder {path.parent} cannot be made: {fault.strerror}. "
                "Choose another with --data."
            ) from fault
        self._migrate()

    def _connection(self) -> sqlite3.Connection:
        connection: sqlite3.Connection | None = getattr(self._local, "connection", None)
        if connection is None:
            connection = sqlite3.connect(self.path, timeout=WAIT_FOR_OTHERS, isolation_level=None)
            connection.row_factory = sqlite3.Row
            connection.execute("PRAGMA journal_mode = WAL")
            connection.execute("PRAGMA foreign_keys = ON")
            self._local.connection = connection
        return connection

    def _migrate(self) -> None:
        try:
            connection = self._connection()
            (at,) = connection.execute("PRAGMA user_version").fetchone()
            if at > len(MIGRATIONS):
                raise Fault(
                    f"{self.path} was written by a newer version of Pale Static. Use that "
                    f"version, or choose another data folder."
                )
            for number, script in enumerate(MIGRATIONS[at:], at + 1):
                connection.executescript(
                    f"BEGIN IMMEDIATE; {script} PRAGMA user_version = {number}; COMMIT;"
                )
        except sqlite3.DatabaseError as fault:
            raise _told(self.path, fault) from fault

    @contextmanager
    def read(self) -> Iterator[sqlite3.Connection]:
        """A connection that only reads."""
        try:
            yield self._connection()
        except sqlite3.DatabaseError as fault:
            raise _told(self.path, fault) from fault

    @contextmanager
    def write(self, durable: bool = False) -> Iterator[sqlite3.Connection]:
        """A connection in one transaction: all of its changes are made, or none.

        A ``durable`` change is on the disk when this returns, so it survives a power loss. Others
        may be lost in a power loss, but not in a crash.
        """
        connection = self._connection()
        try:
            # From SQLite's documentation of synchronous in WAL mode: FULL syncs at each commit.
            connection.execute(f"PRAGMA synchronous = {'FULL' if durable else 'NORMAL'}")
            connection.execute("BEGIN IMMEDIATE")
            try:
                yield connection
            except BaseException:
                if connection.in_transaction:
                    connection.execute("ROLLBACK")
                raise
            connection.execute("COMMIT")
        except sqlite3.DatabaseError as fault:
            if connection.in_transaction:
                connection.execute("ROLLBACK")
            raise _told(self.path, fault) from fault

    def close(self) -> None:
        """Close this thread's connection."""
        connection = getattr(self._local, "connection", None)
        if connection is not None:
            connection.close()
            self._local.connection = None


def insist(act: Callable[[], Done], wait: float = TRY_AGAIN) -> Done:
    """Write to the database; while the disk is full or the database is busy, wait and try again."""
    while True:
        try:
            return act()
        except (Fault, sqlite3.Error, OSError) as fault:
            log.warning("could not be stored; trying again: %s", fault)
            time.sleep(wait)


def _told(path: Path, fault: sqlite3.DatabaseError) -> Exception:
    said = str(fault)
    if "full" in said or "disk I/O" in said or "readonly" in said:
        return NoRoom(
            f"Nothing could be saved in {path.parent}: {said}. "
            "Make room on the disk and try again. Everything saved before is still there."
        )
    if "not a database" in said or "malformed" in said:
        return Fault(
            f"{path} is damaged ({said}). Put a copy in its place, or use another data folder."
        )
    if "locked" in said or "busy" in said:
        return Busy(
            f"Another program is using {path}, so nothing was changed. Close it; the page tries "
            "again by itself."
        )
    return fault
