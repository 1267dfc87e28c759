"""A worker's side of a film's server: fetch files once, and send finished stretches."""

from __future__ import annotations

import fcntl
import json
import shutil
import ssl
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from http.client import HTTPException
from pathlib import Path
from typing import IO, Any

from pydantic import ValidationError

from ...core.faults import NoRoom
from ...media.facts import file_identity
from ...media.kept_files import KeptFiles
from .grants import Grant

PIECE = 1 << 20
TRIES = 5
"""How often a fetch is continued after its connection was cut."""
WAIT = 30.0
"""Seconds without a byte after which a connection counts as cut."""
SPARE = 64 << 20
"""Bytes that stay free on the disk."""


class NotWanted(Exception):
    """The sender does not want this stretch any more."""


class Expired(Exception):
    """The permission has expired; a new one is needed."""


class Unreachable(Exception):
    """The sender's machine does not answer, or its answer was cut."""


class Refused(Exception):
    """The sender refused a stretch, or does not have a file that was asked for."""


@dataclass
class Way:
    """The connection to the server of a film. Each message renews its permission.

    Parameters
    ----------
    tls : ssl.SSLContext, optional
        For encrypted connections.
    """

    grant: Grant
    tls: ssl.SSLContext | None = None

    def _ask(self, method: str, path: str, body: Any = None, **headers: str) -> Any:
        grant = self.grant
        request = urllib.request.Request(
            f"{grant.address}/{grant.task}/{path}?{grant.query}", body, headers, method=method
        )
        # No proxy stands between a worker and the machine that sent the film.
        handlers: list[Any] = [urllib.request.ProxyHandler({})]
        if self.tls is not None:
            handlers.append(urllib.request.HTTPSHandler(context=self.tls))
        try:
            return urllib.request.build_opener(*handlers).open(request, timeout=WAIT)
        except urllib.error.HTTPError as answer:
            with answer:
                said = answer.read(400).decode(errors="replace")
            if answer.code == 401:
                raise Expired(said) from None
            if answer.code == 410:
                raise NotWanted(said) from None
            raise Refused(said) from None
        except (OSError, HTTPException) as fault:
            raise Unreachable(f"{grant.address}: {_reason(fault)}") from fault

    def tell(self, **told: Any) -> None:
        """Send what this task is doing."""
        body = json.dumps(told).encode()
        answer = self._ask("POST", "told", body, **{"Content-Type": "application/json"})
        with answer, suppress(OSError, HTTPException, ValidationError):
            renewed = Grant.model_validate_json(answer.read(4096))
            if (renewed.address, renewed.task) == (self.grant.address, self.grant.task):
                self.grant = renewed

    def send(self, first: int, count: int, file: Path) -> None:
        """Send a finished stretch.

        Raises
        ------
        Unreachable, Refused, Expired, NotWanted
        """
        # A long body would be sent in vain if the permission did not hold.
        self.tell()
        key, size = file_identity(file), file.stat().st_size
        for turn in range(TRIES):
            try:
                with file.open("rb") as body:
                    self._ask(
                        "PUT", f"stretches/{first}-{count}/{key}", body,
                        **{"Content-Length": str(size)},
                    ).close()  # fmt: skip
                return
            except Unreachable:
                if turn + 1 == TRIES:
                    raise
                time.sleep(0.2 * 2**turn)

    def read(self, key: str, first: int) -> tuple[IO[bytes], bool]:
        """A file from a byte on, and whether the answer begins there."""
        headers = {"Range": f"bytes={first}-"} if first else {}
        answer = self._ask("GET", f"files/{key}", **headers)
        return answer, answer.status == 206


def _reason(fault: Exception) -> str:
    reason = getattr(fault, "reason", None) or getattr(fault, "strerror", None)
    return str(reason or fault or type(fault).__name__)


@dataclass
class FetchedFiles:
    """A folder of fetched files, each named by its content; only this process uses it.

    Parameters
    ----------
    most : int
        Bytes that the folder may hold. Files used longest ago are deleted first, but none of the
        film that is being made.
    """

    folder: Path
    most: int
    bytes: int = 0
    """Bytes fetched so far."""
    _used: dict[str, set[Path]] = field(default_factory=dict)
    _film: str = ""

    def begin(self, film: str) -> None:
        """From now on files belong to this film."""
        if film != self._film:
            self._used = {film: self._used.get(film, set())}
            self._film = film

    def get(self, key: str, size: int, way: Way, each: Callable[[int], None]) -> Path:
        """A file by its key; fetched first if it is not here.

        Parameters
        ----------
        size : int
            Its bytes, as the film's document says.
        each : function
            Called with the bytes that are here so far.

        Raises
        ------
        NoRoom
            If the disk or the folder's bound does not hold it.
        Unreachable, Refused, Expired, NotWanted
        """
        kept = KeptFiles(self.folder, self.most)
        path = kept.path(key, "")
        self._used.setdefault(self._film, set()).add(path)
        if kept.used(path):
            return path
        self._room(kept, key, size)
        part = self.folder / f".{key}.part"
        try:
            self._fetch(part, key, size, way, each)
        except OSError as fault:
            part.unlink(missing_ok=True)
            raise NoRoom(
                f"A file could not be stored in {self.folder}: {fault.strerror}."
            ) from fault
        part.replace(path)
        return path

    def _room(self, kept: KeptFiles, key: str, size: int) -> None:
        used = self._used.get(self._film, set())
        kept.trim(max(0, self.most - size), [*used])
        free = shutil.disk_usage(self.folder).free
        if free < size + SPARE or kept.size + size > self.most:
            raise NoRoom(
                f"There is no room for a file of {size / 1e6:.0f} MB in {self.folder}: "
                f"{free / 1e6:.0f} MB of the disk are free, and the folder may hold "
                f"{self.most / 1e6:.0f} MB."
            )

    def _fetch(
        self, part: Path, key: str, size: int, way: Way, each: Callable[[int], None]
    ) -> None:
        cuts = wrong = 0
        while True:
            have = part.stat().st_size if part.exists() else 0
            if have > size:
                part.unlink()
                have = 0
            if have < size or not part.exists():
                try:
                    self._go_on(part, key, have, size, way, each)
                except Unreachable:
                    cuts += 1
                    if cuts == TRIES:
                        raise
                    time.sleep(0.2 * 2**cuts)
                continue
            if file_identity(part) == key:
                return
            part.unlink()
            wrong += 1
            if wrong == 2:
                raise Refused("A file came with other content than its name says, twice.")

    def _go_on(
        self, part: Path, key: str, have: int, size: int, way: Way, each: Callable[[int], None]
    ) -> None:
        answer, continues = way.read(key, have)
        with answer, part.open("ab" if continues else "wb") as file:
            here = have if continues else 0
            while True:
                try:
                    piece = answer.read(PIECE)
                except (OSError, HTTPException) as fault:
                    raise Unreachable(f"{way.grant.address}: {_reason(fault)}") from fault
                if not piece:
                    break
                if here + len(piece) > size:
                    raise Refused("A file came longer than the film's document says.")
                file.write(piece)
                here += len(piece)
                self.bytes += len(piece)
                each(here)
        if here < size:
            raise Unreachable(f"{way.grant.address}: the answer ended early")


def own_folder(base: Path) -> tuple[Path, Any]:
    """A folder for this process alone, and its lock: the first one that no other process uses.

    Files that an earlier process fetched into it are used again.
    """
    base.mkdir(parents=True, exist_ok=True)
    number = 0
    while True:
        folder = base / str(number)
        folder.mkdir(exist_ok=True)
        lock = (base / f"{number}.lock").open("w")
        with suppress(BlockingIOError):
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            for part in folder.glob(".*.part"):
                part.unlink(missing_ok=True)
            return folder, lock
        lock.close()
        number += 1


__all__ = [
    "Expired", "FetchedFiles", "NotWanted", "Refused", "Unreachable", "Way", "own_folder",
]  # fmt: skip
