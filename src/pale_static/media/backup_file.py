"""The backup of a data folder: a zip file with its database and its media."""

from __future__ import annotations

import shutil
import sqlite3
import zipfile
from contextlib import closing
from pathlib import Path

from ..core.documents.json_input import parse_json
from ..core.faults import Missing, NoRoom, Unreadable

DATABASE = "pale-static.sqlite"
ABOUT = "backup.json"
FORMAT = "pale-static/backup@1"


def unpack(file: Path, folder: Path) -> int:
    """Unpack a backup into an empty folder, and check its database; for :mod:`.foreign` alone.

    Returns
    -------
    int
        The number of files in it, without the database.

    Raises
    ------
    Missing, Unreadable, NoRoom
    """
    (folder / "media").mkdir()
    try:
        with zipfile.ZipFile(file) as packed:
            about = parse_json(packed.read(ABOUT), f"{file.name}: its description")
            if not isinstance(about, dict) or about.get("format") != FORMAT:
                raise Unreadable(f"{file.name} is not a backup that this version can read.")
            names = [one.filename for one in packed.infolist() if one.filename != ABOUT]
            for name in names:
                # Only the last part of a name counts, so no name leads outside the folder.
                last = Path(name).name
                target = folder / DATABASE if name == DATABASE else folder / "media" / last
                with packed.open(name) as source, target.open("wb") as laid:
                    shutil.copyfileobj(source, laid, 1 << 20)
    except FileNotFoundError:
        raise Missing(f"There is no file {file}.") from None
    except OSError as fault:
        raise NoRoom(f"{folder} could not be filled: {fault}.") from fault
    except Unreadable:
        raise
    except Exception as fault:  # the ZIP reader raises a different exception for each problem
        raise Unreadable(f"{file.name} is not a backup, or is damaged: {fault}.") from fault
    if not (folder / DATABASE).exists():
        raise Unreadable(f"{file.name} is not a backup: it has no database.")
    _check(folder / DATABASE, file.name)
    return len(names) - 1


def _check(database: Path, name: str) -> None:
    try:
        with closing(sqlite3.connect(database)) as found:
            (said,) = found.execute("PRAGMA integrity_check").fetchone()
    except sqlite3.Error as fault:
        said = str(fault)
    if said != "ok":
        raise Unreadable(f"The database in {name} is damaged: {said}.")
