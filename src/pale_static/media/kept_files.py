"""Files that are kept for later, in a folder with a bound."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path


class KeptFiles:
    """A folder of files, each named by its content. The ones used longest ago are deleted first.

    Parameters
    ----------
    most : int
        Bytes that :meth:`trim` leaves.
    """

    def __init__(self, folder: Path, most: int) -> None:
        self.folder, self._most = folder, most
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
            if size <= (self._most if most is None else most):
                return
            if path not in but:
                path.unlink(missing_ok=True)
                size -= stat.st_size
