"""Back up a data folder to one file, also while a server uses it, and restore it."""

from __future__ import annotations

import json
import shutil
import sqlite3
import tempfile
import zipfile
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from .. import __version__
from ..core.faults import Clash, Missing, NoRoom
from ..media.backup_file import ABOUT, DATABASE, FORMAT
from ..media.foreign.reading import read_backup
from ..store import Library
from ..store.folder_lock import FolderLock


@dataclass(frozen=True)
class Copied:
    """The contents of a backup."""

    files: int
    bytes: int


def backup(folder: Path, out: Path) -> Copied:
    """Write a data folder to one file: the database as of one moment, and all materials.

    Finished films are left out: they can be rendered again. Files of materials never change, so the
    files that the database names are copied while new ones may come in.

    Raises
    ------
    Missing
        If there is no data folder.
    Clash
        If the file is there already.
    NoRoom
        If it could not be written; no partial file is left.
    """
    if not (folder / DATABASE).is_file():
        raise Missing(f"There is no data of Pale Static in {folder}.")
    if out.exists():
        raise Clash(f"{out} is there already. Choose another name for the backup.")
    part = out.with_name(f".{out.name}.part")
    try:
        with tempfile.TemporaryDirectory(dir=out.parent, prefix=".backup-") as scratch:
            copy = Path(scratch) / DATABASE
            with (
                closing(sqlite3.connect(folder / DATABASE)) as live,
                closing(sqlite3.connect(copy)) as still,
            ):
                live.backup(still)
                names = still.execute(
                    "SELECT id || extension FROM material WHERE made IS NULL ORDER BY 1"
                ).fetchall()
            media = [folder / "media" / name for (name,) in names]
            there = [file for file in media if file.is_file()]
            with zipfile.ZipFile(part, "w", zipfile.ZIP_STORED, allowZip64=True) as packed:
                packed.writestr(ABOUT, json.dumps({"format": FORMAT, "program": __version__}))
                packed.write(copy, DATABASE, zipfile.ZIP_DEFLATED)
                for file in there:
                    packed.write(file, f"media/{file.name}")
            part.replace(out)
    except (OSError, sqlite3.Error) as fault:
        raise NoRoom(f"{out} could not be written: {fault}. No partial file is left.") from fault
    finally:
        part.unlink(missing_ok=True)
    return Copied(len(there), out.stat().st_size)


def restore(file: Path, folder: Path) -> Copied:
    """Fill an empty data folder from a backup.

    Everything is written beside the folder first, so that the folder is complete or untouched.

    Raises
    ------
    Clash
        If the folder holds data already.
    Unreadable
        If the file is not a backup, or is damaged.
    """
    if (folder / DATABASE).exists():
        raise Clash(f"{folder} holds data already. Restore into a folder that is new or empty.")
    folder.parent.mkdir(parents=True, exist_ok=True)
    part = Path(tempfile.mkdtemp(dir=folder.parent, prefix=f".{folder.name}-"))
    try:
        files = read_backup(file, part)
        FolderLock(folder)
        Library(part).db.close()  # brings it up to this version
        # The database comes last: without it the folder counts as empty.
        for one in sorted(part.iterdir(), key=lambda one: one.name == DATABASE):
            target = folder / one.name
            if target.is_dir():
                shutil.rmtree(target)
            one.replace(target)
    except (OSError, sqlite3.Error) as fault:
        raise NoRoom(f"{folder} could not be filled: {fault}.") from fault
    finally:
        shutil.rmtree(part, ignore_errors=True)
    return Copied(files, file.stat().st_size)
