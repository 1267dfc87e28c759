"""A data folder is checked, repaired, backed up to one file and restored from it."""

from __future__ import annotations

import json
import sqlite3
import zipfile
from pathlib import Path

import pytest
from click.testing import CliRunner, Result

from pale_static.cli import main
from pale_static.core.faults import Clash, Unreadable
from pale_static.jobs.backup import backup, restore
from pale_static.jobs.doctor import examine
from pale_static.store import Library, drafts, macros, materials, renders
from pale_static.store.database import MIGRATIONS, Database
from pale_static.store.folder_lock import FolderLock

from ..conftest import write_clip


def run(*words: object) -> Result:
    return CliRunner().invoke(main, [str(word) for word in words])


def said(folder: Path) -> list[str]:
    return [finding.sentence for finding in examine(folder)]


def test_the_demo_is_whole(demo: Library) -> None:
    assert said(demo.folder) == []
    assert run("doctor", "--data", demo.folder).output == f"{demo.folder} is whole.\n"


def test_each_fault_is_told_and_what_can_be_mended_is(demo: Library, tmp_path: Path) -> None:
    listed = materials.listed(demo.db)
    gone, damaged = [one for one in listed if one.facts.kind == "video"][:2]
    demo.path_of(gone).unlink()
    with demo.path_of(damaged).open("r+b") as file:
        file.seek(2000)
        file.write(b"\0" * 500)
    (demo.media / ".0123.part").write_bytes(b"x")
    stray = write_clip(demo.media / "stray.mp4", 4)
    (demo.renders / ".render-9.mp4.part").write_bytes(b"x")
    (demo.renders / "render-9.stretches").mkdir()
    draft = drafts.listed(demo.db, "effect")[0]
    before = draft.head.document
    with demo.db.write() as connection:
        number = connection.execute(
            "INSERT INTO revision (draft, parent, words, document, made) VALUES (?, ?, '', ?, '')",
            (draft.id, draft.head.id, json.dumps({"kind": "song"})),
        ).lastrowid
        connection.execute("UPDATE draft SET head = ? WHERE id = ?", (number, draft.id))
    found = "\n".join(said(demo.folder))
    for words in (
        f"The file of “{gone.name}”", f"“{damaged.name}” does not have the content that was brought in",
        ".0123.part is left over", "stray.mp4 is in the media folder", ".render-9.mp4.part is left",
        "render-9.stretches is left", f"Draft {draft.id} cannot be read",
    ):  # fmt: skip
        assert words in found
    told = run("doctor", "--data", demo.folder)
    assert told.exit_code == 1
    assert "--mend" in told.output
    mended = run("doctor", "--mend", "--data", demo.folder)
    assert "Could not be mended" not in mended.output
    # The earlier document is back, the stray file is a material; two files need a person.
    assert drafts.get(demo.db, "effect", draft.id).head.document == before
    assert not stray.exists()
    assert any(one.name == "stray" for one in materials.listed(demo.db))
    left = said(demo.folder)
    assert sorted("gone" in one for one in left) == [True, True]


def test_a_damaged_database_is_told(demo: Library, tmp_path: Path) -> None:
    demo.db.close()
    path = demo.folder / "pale-static.sqlite"
    data = bytearray(path.read_bytes())
    data[4096 * 3 : 4096 * 4] = b"\xff" * 4096
    path.write_bytes(data)
    assert "Restore a backup" in "\n".join(said(demo.folder))


def test_a_backup_holds_everything_as_of_one_moment(demo: Library, tmp_path: Path) -> None:
    file, copy = tmp_path / "all.zip", tmp_path / "copy"
    backup(demo.folder, file)
    # Later changes are not in the backup.
    drafts.start(demo.db, "effect", {"name": "Later"}, "New")
    assert run("restore", file, "--data", copy).exit_code == 0
    there = Library(copy)
    assert [one.id for one in materials.listed(there.db)] == [
        one.id for one in materials.listed(demo.db)
    ]
    assert {one.slug for one in macros.listed(there.db)} == {
        one.slug for one in macros.listed(demo.db)
    }
    assert len(drafts.listed(there.db, "effect")) == len(drafts.listed(demo.db, "effect")) - 1
    assert said(copy) == []
    for one in materials.listed(there.db):
        assert there.path_of(one).read_bytes() == demo.path_of(one).read_bytes()
    with pytest.raises(Clash, match="there already"):
        backup(demo.folder, file)
    with pytest.raises(Clash, match="holds data already"):
        restore(file, copy)


def test_what_is_no_backup_leaves_nothing(demo: Library, tmp_path: Path) -> None:
    file = tmp_path / "all.zip"
    backup(demo.folder, file)
    whole = file.read_bytes()
    for name, data in {
        "cut.zip": whole[: len(whole) // 2], "text.zip": b"hello", "empty.zip": b"",
        "flipped.zip": whole[:3000] + b"\0" * 3000 + whole[6000:],
    }.items():  # fmt: skip
        (tmp_path / name).write_bytes(data)
        with pytest.raises(Unreadable, match=name):
            restore(tmp_path / name, tmp_path / "there")
        assert not (tmp_path / "there" / "pale-static.sqlite").exists()
    leading = tmp_path / "leading.zip"
    with zipfile.ZipFile(file) as old, zipfile.ZipFile(leading, "w") as new:
        for entry in old.infolist():
            new.writestr(entry.filename, old.read(entry))
        new.writestr("../../outside.txt", "x")
    restore(leading, tmp_path / "there")
    assert not (tmp_path / "outside.txt").exists()
    assert not (tmp_path.parent / "outside.txt").exists()


def test_a_folder_is_held_by_one(tmp_path: Path) -> None:
    first = FolderLock(tmp_path / "data")
    first.say("http://127.0.0.1:9/")
    with pytest.raises(
        Clash, match=r"in use by Pale Static \(process \d+\) at http://127.0.0.1:9/"
    ):
        FolderLock(tmp_path / "data")
    told = run("serve", "--data", tmp_path / "data", "--port", 0)
    assert told.exit_code == 1
    assert "in use by" in told.output
    assert "in use by" in run("doctor", "--mend", "--data", tmp_path / "data").output


def test_what_was_published_and_brought_in_is_synced_to_the_disk(library: Library) -> None:
    levels = []
    with library.db.write() as connection:
        connection.set_trace_callback(lambda text: levels.append(text))
    with library.db.write(durable=True):
        pass
    with library.db.write():
        pass
    asked = [text.split()[-1] for text in levels if "synchronous" in text]
    assert asked == ["FULL", "NORMAL"]


def test_version_4_of_the_database_gets_names_for_its_renders(
    demo: Library, tmp_path: Path
) -> None:
    """A database of the earlier program: its list of renders stays the same."""
    path = tmp_path / "old.sqlite"
    with sqlite3.connect(path) as old:
        for number, script in enumerate(MIGRATIONS[:4], 1):
            old.executescript(f"{script} PRAGMA user_version = {number};")
        document = json.dumps({"name": "Night", "width": 640, "height": 360})
        old.execute("INSERT INTO draft (id, kind) VALUES (1, 'reel')")
        old.execute(
            "INSERT INTO revision (id, draft, words, document, made) VALUES (1, 1, 'New', ?, '')",
            (document,),
        )
        old.execute(
            "INSERT INTO render (reel, revision, form, first, total, state, asked)"
            " VALUES (1, 1, 'mp4', 0, 10, 'done', '')"
        )
    db = Database(path)
    (found,) = renders.listed(db)
    assert (found.name, found.width, found.height) == ("Night", 640, 360)
    assert renders.changes(db) == 0
    renders.lost(db, found.id)
    assert renders.changes(db) == 1
