"""Files that are kept for later, in a folder with a bound."""

from __future__ import annotations

import logging
import os
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path

log = logging.getLogger(__name__)
TRIM_AFTER = 50
"""A folder is trimmed after this share of its bound was written, to save listing it each time."""


class KeptFiles:
    """A folder of files, each named by its content. The ones used longest ago are deleted first.

    Parameters
    ----------
    most : int
        Bytes that :meth:`trim` leaves.
    """

    def __init__(self, folder: Path, most: int) -> None:
        self.folder, self.most = folder, most
        self._written = 0
        folder.mkdir(exist_ok=True)

    def path(self, key: str, ending: str) -> Path:
        """The path of a file, whether it exists or not."""
        return self.folder / f"{key}{ending}"

    def used(self, path: Path) -> bool:
        """Whether a file exists; if so, it counts as just used."""
        try:
            os.utime(path)
        except OSError:
            return False
        return True

    def get(self, key: str, ending: str) -> bytes | None:
        """The content of a file, which then counts as just used; None if there is none."""
        path = self.path(key, ending)
        try:
            data = path.read_bytes()
            os.utime(path)
        except OSError:
            return None
        return data

    def put(self, key: str, ending: str, data: bytes) -> None:
        """Keep a file. If the disk has no room, it is not kept: it can be made again."""
        path = self.path(key, ending)
        part = path.with_name(f".{path.name}.{os.urandom(4).hex()}.part")
        try:
            part.write_bytes(data)
            part.replace(path)
            self._written += len(data)
            if self._written * TRIM_AFTER >= self.most:
                self._written = 0
                self.trim()
        except OSError as fault:
            log.warning("%s cannot be kept: %s", path.name, fault.strerror)
            with suppress(OSError):
                part.unlink(missing_ok=True)

    def has(self, key: str, ending: str) -> bool:
        """Whether a file is kept."""
        return self.path(key, ending).exists()

    def names(self, ending: str) -> set[str]:
        """The keys of all files with an ending."""
        listed = os.listdir(self.folder)
        return {name.removesuffix(ending) for name in listed if name.endswith(ending)}

    @property
    def size(self) -> int:
        """Bytes in the folder."""
        return sum(stat.st_size for _, stat in self._files())

    def _files(self) -> list[tuple[Path, os.stat_result]]:
        files = []
        for path in self.folder.iterdir():
            try:
                files.append((path, path.stat()))
            except OSError:
                continue  # another process has removed it
        return files

    def trim(self, most: int | None = None, but: Sequence[Path] = ()) -> None:
        """Remove the files used longest ago until the rest fits."""
        files = sorted(self._files(), key=lambda one: one[1].st_mtime)
        size = sum(stat.st_size for _, stat in files)
        for path, stat in files:
            if size <= (self.most if most is None else most):
                return
            if path not in but:
                path.unlink(missing_ok=True)
                size -= stat.st_size
