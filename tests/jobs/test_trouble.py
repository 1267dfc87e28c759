"""A full disk, a busy database, a render that kills its process: the queue continues."""

from __future__ import annotations

import os
import sqlite3
from pathlib import Path
from typing import Any

import pytest

from pale_static.core.faults import NoRoom
from pale_static.core.pictures.picture import Size
from pale_static.jobs import worker
from pale_static.store import Library, drafts, renders
from pale_static.store.database import insist
from pale_static.store.renders import Wanted


@pytest.fixture
def queued(library: Library) -> int:
    """A render in the queue."""
    draft = drafts.start(library.db, "reel", {"name": "R", "shots": [], "joins": []}, "New")
    return renders.ask(library.db, draft, Wanted("png", 0, 10), "Edit", Size(64, 36)).id


def test_what_has_to_be_noted_is_noted_once_there_is_room(library: Library, queued: int) -> None:
    tries = []

    def full_twice() -> str:
        tries.append(1)
        if len(tries) < 3:
            raise NoRoom("Nothing could be saved: database or disk is full.")
        return "noted"

    assert insist(full_twice, wait=0.0) == "noted"
    assert len(tries) == 3


def test_a_database_that_somebody_else_holds_does_not_end_the_worker(
    library: Library, queued: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    ended: list[Any] = []
    real = renders.end

    def busy_once(*words: Any, **more: Any) -> None:
        if not ended:
            ended.append("busy")
            raise sqlite3.OperationalError("database is locked")
        ended.append("noted")
        real(*words, **more)

    monkeypatch.setattr(renders, "end", busy_once)
    monkeypatch.setattr("pale_static.store.database.time.sleep", lambda seconds: None)
    # A render of an empty edit fails, and its end is stored at the second attempt.
    parents = iter([1, 1, 2, 2])
    monkeypatch.setattr(worker.os, "getppid", lambda: next(parents))
    monkeypatch.setattr(worker, "ends_with_parent", lambda parent: None)
    monkeypatch.setattr(worker, "run", lambda *words: (_ for _ in ()).throw(NoRoom("Full.")))
    worker.serve(library.folder, 1)
    assert ended == ["busy", "noted"]
    assert renders.get(library.db, queued).message == "Full."


def test_a_worker_ends_some_time_after_its_last_render_and_leaves_its_memory(
    library: Library, queued: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(worker, "ends_with_parent", lambda parent: None)
    monkeypatch.setattr(worker, "run", lambda *words: (_ for _ in ()).throw(NoRoom("Full.")))
    monkeypatch.setattr(worker, "STAYS", 0.2)
    worker.serve(library.folder, os.getppid())
    assert renders.get(library.db, queued).message == "Full."


def test_a_render_that_stops_its_process_three_times_has_failed_and_the_next_goes_on(
    library: Library, queued: int, tmp_path: Path
) -> None:
    db = library.db
    draft = drafts.get(db, "reel", renders.get(db, queued).reel)
    other = renders.ask(db, draft, Wanted("png", 0, 5), "Edit", Size(64, 36))
    for _ in range(renders.MOST_STOPS - 1):
        assert renders.take(db, os.getpid()).id == queued  # type: ignore[union-attr]
        assert renders.crashed(db) == 1
        assert renders.get(db, queued).state == "queued"
    assert renders.take(db, os.getpid()).id == queued  # type: ignore[union-attr]
    renders.crashed(db)
    found = renders.get(db, queued)
    assert found.state == "failed"
    assert "stopped 3 times, usually because memory ran out" in found.message
    assert renders.take(db, os.getpid()).id == other.id  # type: ignore[union-attr]
    # Requested again it has three attempts again; a stop of the application does not count.
    renders.again(db, queued)
    assert renders.get(db, queued).stopped == 0
    renders.interrupted(db)
    assert renders.get(db, other.id).stopped == 0
