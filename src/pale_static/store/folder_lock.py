"""One server a data folder: a lock that ends with the process that holds it."""

from __future__ import annotations

import fcntl
import os
from pathlib import Path

from ..core.faults import Clash, NoRoom

NAME = "in-use"


class FolderLock:
    """Held from when it is made until the process ends.

    The kernel lets go of it when the process dies, however it dies (flock(2)), so nothing has to
    be cleared away after a crash.

    Raises
    ------
    Clash
        If another process holds the folder; says which.
    """

    def __init__(self, folder: Path) -> None:
        path = folder / NAME
        try:
            folder.mkdir(parents=True, exist_ok=True)
            self._file = path.open("a+")
        except OSError as fault:
            raise NoRoom(
                f"The data folder {folder} cannot be written: {fault.strerror}. "
                "Choose another with --data."
            ) from fault
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            self._file.seek(0)
            holder = self._file.read().strip() or "another process"
            self._file.close()
            raise Clash(
                f"{folder} is in use by {holder}. Use that one, or choose another folder with "
                "--data."
            ) from None
        self.say("")

    def say(self, address: str) -> None:
        """Note who holds the folder, for whoever finds it held."""
        at = f" at {address}" if address else ""
        self._file.truncate(0)
        self._file.write(f"Pale Static (process {os.getpid()}){at}")
        self._file.flush()
