"""One server for each data folder: a lock that ends with its process."""

from __future__ import annotations

import fcntl
import os
from pathlib import Path

from ..core.faults import Clash, NoRoom

NAME = "in-use"


class FolderLock:
    """A lock that lasts until the process ends.

    The kernel releases it when the process ends for any reason (flock(2)), so a crash leaves
    nothing to clean up.

    Raises
    ------
    Clash
        If another process has the lock; the sentence names that process.
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
                f"{folder} is in use by {holder}. Use that server, or choose another folder with "
                f"--data."
            ) from None
        self.say("")

    def say(self, address: str) -> None:
        """Write into the lock which process has it, for other processes."""
        at = f" at {address}" if address else ""
        self._file.truncate(0)
        self._file.write(f"Pale Static (process {os.getpid()}){at}")
        self._file.flush()
