"""Run the application: find a free port, start a worker beside it, and end cleanly."""

from __future__ import annotations

import os
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterable
from dataclasses import replace
from pathlib import Path
from typing import Any

from .core.engine.evaluate import DEFAULT_CACHE
from .core.kernels import rows
from .jobs.cluster.address import parsed
from .jobs.compiling import all_compiled
from .jobs.memory import keep_memory
from .media.foreign import readers
from .store import Library, cluster, materials, renders, screen_copies
from .store.database import insist
from .store.folder_lock import FolderLock
from .store.library import MOST_FRAMES
from .web import create_app
from .web.door import door_for
from .web.listening import free_socket, server_on, shown

QUIET, BREATH = 2.0, 0.3
"""Seconds without a request until background work begins, and until it continues."""
POLLED = {"/api/waiting", "/api/screen-copies", "/api/renders", "/api/cluster"}
"""What open pages look at again and again: nobody waits for it, and it takes no time."""
LOOK_FOR_FILMS = 2.0
"""Seconds between two looks for films that have no copy for the screen."""


class Quiet:
    """Passes requests on, and knows for how long none has come or been under way.

    What nobody waits for yet is done in between, so that it takes nothing from what somebody does.
    """

    def __init__(self, app: Callable[..., Iterable[bytes]]) -> None:
        self._app = app
        self._under_way = 0
        self._last = time.monotonic()
        self._lock = threading.Lock()

    def __call__(self, environ: Any, start: Any) -> Iterable[bytes]:
        if environ.get("PATH_INFO") in POLLED:
            return self._app(environ, start)
        with self._lock:
            self._under_way += 1
        try:
            return self._app(environ, start)
        finally:
            with self._lock:
                self._under_way -= 1
                self._last = time.monotonic()

    def lasts(self, seconds: float) -> bool:
        """Whether no request has come for a number of seconds."""
        with self._lock:
            return not self._under_way and time.monotonic() - self._last >= seconds

    def wait(self, seconds: float) -> None:
        """Wait until no request has come for a number of seconds."""
        while not self.lasts(seconds):
            time.sleep(0.05)


class Beside:
    """A process beside the server, which ends with the server."""

    def __init__(self, module: str, *words: str) -> None:
        self._command = [sys.executable, "-m", f"pale_static.{module}", *words, str(os.getpid())]
        self._process: subprocess.Popen[bytes] | None = None

    def run(self) -> None:
        """Start it, and wait for its end."""
        self._process = subprocess.Popen(self._command)
        self._process.wait()

    def start(self) -> None:
        """Start it without waiting."""
        threading.Thread(target=self.run, daemon=True).start()

    def stop(self) -> None:
        if self._process is not None:
            self._process.terminate()


class Worker:
    """The render worker's process, started again should it die.

    It is started when there is something to render, when somebody looks at the cluster, or at the
    first quiet moment before.
    """

    def __init__(self, folder: Path, quiet: Quiet) -> None:
        self.folder = folder
        self._quiet = quiet
        self._ending = threading.Event()
        self._process = Beside("jobs.worker", str(folder))
        self._thread = threading.Thread(target=self._keep, daemon=True)

    def start(self) -> None:
        self._thread.start()

    def _keep(self) -> None:
        db = Library(self.folder).db
        while not (self._quiet.lasts(QUIET) or renders.any_queued(db) or cluster.looked_at(db)):
            if self._ending.wait(0.2):
                return
        while not self._ending.is_set():
            self._process.run()
            if not self._ending.is_set():
                insist(lambda: renders.crashed(db))
                time.sleep(1)

    def stop(self) -> None:
        self._ending.set()
        self._process.stop()


class Copies:
    """The process that makes copies of films for the screen, while there are some to make."""

    def __init__(self, folder: Path, quiet: Quiet) -> None:
        self._folder, self._quiet = folder, quiet
        self._ending = threading.Event()
        self._process = Beside("jobs.screen_copies", str(folder))

    def start(self) -> None:
        threading.Thread(target=self._keep, daemon=True).start()

    def _keep(self) -> None:
        db = Library(self._folder).db
        while not self._ending.wait(LOOK_FOR_FILMS):
            if self._quiet.lasts(QUIET) and screen_copies.wanted(db):
                self._process.run()

    def stop(self) -> None:
        self._ending.set()
        self._process.stop()


def serve(
    folder: Path,
    host: str = "127.0.0.1",
    port: int = 8710,
    *,
    demo: bool = False,
    cache_bytes: int = DEFAULT_CACHE,
    frame_bytes: int = MOST_FRAMES,
    scheduler: str | None = None,
    said: Callable[[str], None] = print,
) -> None:
    """Serve a data folder until interrupted.

    With ``demo`` an empty folder is filled: macros and an edit at once, the footage while the
    application is running. New renders go to a ``scheduler``, if one is given.
    """
    keep_memory()
    lock = FolderLock(folder.resolve())
    listening = free_socket(host, port)
    library = Library(folder)
    library.frame_bytes = frame_bytes
    library.clear_leftovers()
    renders.interrupted(library.db)
    if scheduler is not None:
        setting = cluster.settings(library.db)
        cluster.change(library.db, replace(setting, address=parsed(scheduler), used=True))
    if demo:
        from .demo.fill import begin

        begin(library)
    actual = listening.getsockname()[1]
    if port and actual != port:
        said(f"Port {port} is taken; using {actual}.")
    door, named = door_for(host, library.folder)
    address = f"http://{shown(named)}:{actual}/" + (f"?key={door.key}" if door.key else "")
    lock.say(address.partition("?")[0])
    quiet = Quiet(create_app(library, door, cache_bytes))
    server = server_on(listening, quiet)
    worker = Worker(library.folder, quiet)
    worker.start()
    copies = Copies(library.folder, quiet)
    copies.start()
    painter = Beside("demo.fill", str(library.folder))
    if demo and materials.expected(library.db):
        painter.start()
    compiler = Beside("jobs.compiling")

    def ready() -> None:
        """Load what people will need next, while nobody waits for anything.

        The first picture loads the few kernels that it needs; here come the others, and the
        process that reads foreign files.
        """
        if not all_compiled():
            compiler.run()
        quiet.wait(QUIET)
        rows.ready_all(lambda: quiet.wait(BREATH))
        library.complete_facts(lambda: quiet.wait(BREATH))
        readers.warm()

    threading.Thread(target=ready, daemon=True).start()
    said(f"Pale Static is at {address} (data in {library.folder}). Ctrl+C ends it.")
    if door.key:
        said(
            "Warning: other machines on the network can reach it. Anyone with this address can "
            "see and change everything, and the connection is not encrypted. Give the address "
            "only to people you trust."
        )
    try:
        server.run()
    finally:
        for one in (worker, copies, painter, compiler):
            one.stop()
