"""The store: drafts with all their revisions, macros that never change, the queue of renders."""

from __future__ import annotations

import os
import signal
import sqlite3
import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest

from pale_static.core import Fault, read_effect
from pale_static.core.changes import keep_part
from pale_static.core.documents.macro import publish
from pale_static.core.faults import Clash, Missing, NoRoom
from pale_static.core.pictures.picture import Size
from pale_static.demo.content import ember_fray
from pale_static.store import Database, Library, drafts, macros, materials, parts, renders
from pale_static.store.database import MIGRATIONS
from pale_static.store.renders import Wanted

from ..conftest import write_clip


def test_every_edit_is_a_revision_and_undo_survives_a_restart(library: Library) -> None:
    draft = drafts.start(library.db, "effect", {"n": 0}, "New")
    for n in (1, 2):
        draft = drafts.record(library.db, draft, draft.head.id, f"Edit {n}", {"n": n})
    drafts.undo(library.db, "effect", draft.id, draft.head.id)
    again = Library(library.folder)
    found = drafts.get(again.db, "effect", draft.id)
    assert (found.head.document, found.undo, found.redo) == ({"n": 1}, True, True)
    for _ in range(2):
        found = drafts.redo(again.db, "effect", draft.id, found.head.id)
        assert found.head.document == {"n": 2}
    for _ in range(5):
        found = drafts.undo(again.db, "effect", draft.id, found.head.id)
    assert (found.head.document, found.undo) == ({"n": 0}, False)


def test_an_undo_whose_answer_was_lost_goes_back_once(library: Library) -> None:
    draft = drafts.start(library.db, "effect", {"n": 0}, "New")
    heads = [draft.head.id]
    for n in (1, 2):
        draft = drafts.record(library.db, draft, draft.head.id, f"Edit {n}", {"n": n})
        heads.append(draft.head.id)
    for _ in range(3):  # repeated, with the same revision
        assert drafts.undo(library.db, "effect", draft.id, heads[2]).head.id == heads[1]
    for _ in range(3):
        assert drafts.redo(library.db, "effect", draft.id, heads[1]).head.id == heads[2]
    with pytest.raises(Clash, match="changed in another window"):
        drafts.undo(library.db, "effect", draft.id, heads[0])
    with pytest.raises(Missing, match="There is no reel number"):
        drafts.undo(library.db, "reel", draft.id, heads[2])
    assert drafts.get(library.db, "effect", draft.id).head.id == heads[2]


def test_an_edit_after_undo_starts_a_new_line_and_loses_nothing(library: Library) -> None:
    draft = drafts.start(library.db, "effect", {"n": 0}, "New")
    old = drafts.record(library.db, draft, draft.head.id, "First try", {"n": 1})
    back = drafts.undo(library.db, "effect", draft.id, old.head.id)
    new = drafts.record(library.db, back, back.head.id, "Second try", {"n": 2})
    assert [r.words for r in drafts.history(library.db, draft.id)] == ["Second try", "New"]
    assert not new.redo
    assert drafts.revision(library.db, draft.id, old.head.id).document == {"n": 1}


def test_two_windows_on_one_draft_do_not_overwrite_each_other(library: Library) -> None:
    draft = drafts.start(library.db, "effect", {"n": 0}, "New")
    drafts.record(library.db, draft, draft.head.id, "One window", {"n": 1})
    with pytest.raises(Clash, match="another window"):
        drafts.record(library.db, draft, draft.head.id, "The other", {"n": 2})
    assert drafts.get(library.db, "effect", draft.id).head.document == {"n": 1}


def test_an_edit_whose_answer_was_lost_is_asked_again_and_made_once(library: Library) -> None:
    draft = drafts.start(library.db, "effect", {"n": 0}, "New")
    made = drafts.record(library.db, draft, draft.head.id, "One", {"n": 1})
    again = drafts.record(library.db, draft, draft.head.id, "One", {"n": 1})
    assert again.head.id == made.head.id
    assert len(drafts.history(library.db, draft.id)) == 2
    # But not if another change came on top.
    drafts.record(library.db, made, made.head.id, "Two", {"n": 2})
    with pytest.raises(Clash):
        drafts.record(library.db, draft, draft.head.id, "One", {"n": 1})


def test_a_removed_draft_can_be_put_back(library: Library) -> None:
    draft = drafts.start(library.db, "reel", {"n": 0}, "New")
    drafts.remove(library.db, "reel", draft.id)
    with pytest.raises(Missing):
        drafts.get(library.db, "reel", draft.id)
    drafts.remove(library.db, "reel", draft.id, removed=False)
    assert drafts.listed(library.db, "reel")[0].id == draft.id


def test_a_published_version_never_changes(library: Library) -> None:
    effect = read_effect(ember_fray())
    macros.shelve(library.db, "ember", publish(effect, 1), None)
    macros.shelve(
        library.db, "ember", publish(effect, 1), None
    )  # the same version again is not a clash
    other = effect.model_copy(update={"sentence": "Other."})
    with pytest.raises(Clash, match="never change"):
        macros.shelve(library.db, "ember", publish(other, 1), None)
    assert macros.shelve(library.db, "ember", publish(other, 2), None).versions == (2, 1)
    assert macros.version(library.db, "ember", 1).effect == effect
    with pytest.raises(sqlite3.IntegrityError), library.db.write() as connection:
        connection.execute("UPDATE macro_version SET document = '{}'")


def test_the_same_file_twice_is_one_material(library: Library, tmp_path: Path) -> None:
    path = write_clip(tmp_path / "clip.mp4")
    for name in ("First.mp4", "../../Second.mp4"):
        with path.open("rb") as file:
            found = library.bring_in(file, name)
    assert found.name == "First"
    assert len(materials.listed(library.db)) == 1
    assert [p.suffix for p in library.media.iterdir()] == [".mp4"]


def test_a_bad_file_leaves_nothing_behind(library: Library, tmp_path: Path) -> None:
    bad = tmp_path / "bad.mp4"
    bad.write_text("no film")
    with bad.open("rb") as file, pytest.raises(Fault, match="neither"):
        library.bring_in(file, "bad.mp4")
    assert not list(library.media.iterdir())
    assert not materials.listed(library.db)


def test_a_full_disk_is_told_and_what_was_saved_stays(library: Library) -> None:
    draft = drafts.start(library.db, "effect", {"n": 0}, "New")
    with library.db.read() as connection:
        (pages,) = connection.execute("PRAGMA page_count").fetchone()
        connection.execute(f"PRAGMA max_page_count = {pages}")
    with pytest.raises(NoRoom, match="Make room on the disk"):
        drafts.record(library.db, draft, draft.head.id, "Large", {"n": "x" * 4_000_000})
    assert drafts.get(Library(library.folder).db, "effect", draft.id).head.document == {"n": 0}


def test_a_damaged_database_is_told_in_words(tmp_path: Path) -> None:
    (tmp_path / "pale-static.sqlite").write_bytes(b"SQLite format 3\x00" + b"junk" * 500)
    with pytest.raises(Fault, match="is damaged"):
        Database(tmp_path / "pale-static.sqlite")


def test_a_database_from_a_newer_version_is_left_alone(library: Library) -> None:
    with library.db.read() as connection:
        connection.execute(f"PRAGMA user_version = {len(MIGRATIONS) + 1}")
    with pytest.raises(Fault, match="newer version"):
        Library(library.folder)


def test_renders_are_taken_in_order_and_only_once(library: Library) -> None:
    draft = drafts.start(library.db, "reel", {"n": 0}, "New")
    ids = [
        renders.ask(library.db, draft, Wanted("mp4", 0, 10), "Edit", Size(64, 36)).id
        for _ in range(2)
    ]
    assert renders.take(library.db, 1).id == ids[0]  # type: ignore[union-attr]
    assert renders.take(library.db, 2).id == ids[1]  # type: ignore[union-attr]
    assert renders.take(library.db, 3) is None
    assert renders.progress(library.db, ids[0], 1, 5, 2.0)
    assert not renders.progress(library.db, ids[0], 99, 6, 2.0)
    renders.cancel(library.db, ids[0])
    assert not renders.progress(library.db, ids[0], 1, 6, 2.0)
    assert renders.again(library.db, ids[0]).state == "queued"
    assert renders.interrupted(library.db) == 1
    assert "Interrupted" in renders.get(library.db, ids[1]).message


KILLED = """
import sys
from pathlib import Path
from pale_static.store import Library, drafts
library = Library(Path(sys.argv[1]))
draft = drafts.start(library.db, "effect", {"n": 0}, "New")
print(draft.id, flush=True)
n = 0
while True:
    n += 1
    draft = drafts.record(library.db, draft, draft.head.id, f"Edit {n}", {"n": n, "pad": "x" * 20000})
    print(n, flush=True)
"""


def test_killing_the_process_loses_at_most_the_edit_in_flight(tmp_path: Path) -> None:
    command = [sys.executable, "-c", KILLED, str(tmp_path)]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert process.stdout
    draft = int(process.stdout.readline())
    last = 0
    deadline = time.monotonic() + 30
    while last < 40 and time.monotonic() < deadline:
        last = int(process.stdout.readline())
    os.kill(process.pid, signal.SIGKILL)
    process.wait()
    acknowledged = [int(line) for line in process.stdout.read().split()] or [last]
    found = drafts.get(Library(tmp_path).db, "effect", draft).head.document["n"]
    assert found in (acknowledged[-1], acknowledged[-1] + 1)
    history = drafts.history(Library(tmp_path).db, draft, 10_000)
    assert [r.words for r in history] == [*(f"Edit {n}" for n in range(found, 0, -1)), "New"]


def test_history_is_listed_without_reading_a_document(library: Library) -> None:
    draft = drafts.start(library.db, "effect", {"n": 0}, "New")
    draft = drafts.record(library.db, draft, draft.head.id, "Edit 1", {"n": 1})
    with library.db.write() as connection:
        connection.execute("UPDATE revision SET document = 'no JSON'")
    assert [one.words for one in drafts.history(library.db, draft.id)] == ["Edit 1", "New"]


def test_renders_are_listed_without_reading_a_document(library: Library) -> None:
    draft = drafts.start(library.db, "reel", {"name": "R"}, "New")
    renders.ask(library.db, draft, Wanted("mp4", 0, 10), "Night", Size(64, 36))
    with library.db.write() as connection:
        connection.execute("UPDATE revision SET document = 'no JSON'")
    assert [one.name for one in renders.listed(library.db)] == ["Night"]


def test_an_upload_under_way_is_left_alone_by_whoever_opens_the_library(library: Library) -> None:
    part = library.media / ".0123abcd.part"
    part.write_bytes(b"half of a file")
    kept = library.stretches.path("whole", ".mp4")
    cut_off = kept.with_name(".half.mp4.part")
    for path in (kept, cut_off):
        path.write_bytes(b"stretch")
    old = library.renders / "render-99.stretches"
    old.mkdir()
    # Like every worker process when a render starts.
    other = Library(library.folder)
    assert part.exists()
    # Only the start of a server clears leftovers, and never files that a render continues from.
    other.clear_leftovers()
    assert [path.exists() for path in (part, kept, cut_off, old)] == [False, True, False, False]


def test_two_windows_cannot_give_one_name_to_two_parts(library: Library) -> None:
    part = keep_part(read_effect(ember_fray()), "Fray", lanes=["fray"])
    clashes: list[str] = []
    ready = threading.Barrier(6)

    def keep() -> None:
        ready.wait()
        try:
            parts.add(library.db, part, collection="Evening")
        except Clash as fault:
            clashes.append(fault.sentence)

    threads = [threading.Thread(target=keep) for _ in range(6)]
    for one in threads:
        one.start()
    for one in threads:
        one.join()
    assert [kept.part.name for kept in parts.listed(library.db)] == ["Fray"]
    assert len(clashes) == 5
