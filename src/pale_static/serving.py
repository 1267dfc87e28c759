"""Run the application: a port that is free, a worker beside it, and a clean end."""

from __future__ import annotations

import ctypes
import os
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

import waitress

from .core.engine.evaluate import DEFAULT_CACHE
from .core.faults import Fault
from .core.kernels import rows
from .jobs.compiling import all_compiled
from .store import Library, materials, renders
from .store.database import insist
from .web import create_app

PORTS_TRIED = 40
THREADS = 16
QUIET, BREATH = 2.0, 0.3
"""Seconds without a request until what nobody waits for begins, and until it goes on."""


def keep_memory() -> bool:
    """Let the C library keep what pictures have freed, up to 256 MiB; whether it could be told.

    A picture is eight megabytes and more. Given back to the system and asked for again, its pages
    come one by one, and that takes as long as computing it.
    """
    try:
        tell = ctypes.CDLL("libc.so.6").mallopt
    except (OSError, AttributeError):
        return False  # another C library
    # From mallopt(3): blocks of up to 32 MiB out of the heap; when to trim it; one heap for all.
    return all([tell(-3, 32 << 20), tell(-1, 256 << 20), tell(-8, 1)])


def free_socket(host: str, port: int) -> socket.socket:
    """A listening socket at a port, or at the next free one after it.

    Raises
    ------
    Fault
        If none of the next forty is free.
    """
    for number in range(port, port + PORTS_TRIED) if port else (0,):
        found = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
        found.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            found.bind((host, number))
            # Two may be bound to one port while neither listens yet: this settles it.
            found.listen(1024)
        except OSError:
            found.close()
            continue
        return found
    raise Fault(
        f"No port from {port} to {port + PORTS_TRIED - 1} is free on {host}. "
        "Choose another with --port."
    )


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
        with self._lock:
            self._under_way += 1
        try:
            return self._app(environ, start)
        finally:
            with self._lock:
                self._under_way -= 1
                self._last = time.monotonic()

    def lasts(self, seconds: float) -> bool:
        """Whether it has been quiet for so long."""
        with self._lock:
            return not self._under_way and time.monotonic() - self._last >= seconds

    def wait(self, seconds: float) -> None:
        """Return once it has been quiet for so long."""
        while not self.lasts(seconds):
            time.sleep(0.05)


class Beside:
    """A process of the application's own beside the server, which ends with it."""

    def __init__(self, module: str, *words: str) -> None:
        self._command = [sys.executable, "-m", f"pale_static.{module}", *words, str(os.getpid())]
        self._process: subprocess.Popen[bytes] | None = None

    def run(self) -> None:
        """Start it, and wait for its end."""
        self._process = subprocess.Popen(self._command)
        self._process.wait()

    def start(self) -> None:
        """Start it, and go on."""
        threading.Thread(target=self.run, daemon=True).start()

    def stop(self) -> None:
        if self._process is not None:
            self._process.terminate()


class Worker:
    """The render worker's process, started again should it die.

    It is started when there is something to render, or at the first quiet moment before.
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
        while not (self._quiet.lasts(QUIET) or renders.any_queued(db)):
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


def serve(
    folder: Path,
    host: str = "127.0.0.1",
    port: int = 8710,
    *,
    demo: bool = False,
    cache_bytes: int = DEFAULT_CACHE,
    said: Callable[[str], None] = print,
) -> None:
    """Serve a data folder until interrupted.

    With ``demo`` an empty folder is filled: macros and an edit at once, the footage while the
    application runs already.
    """
    keep_memory()
    library = Library(folder)
    library.clear_leftovers()
    renders.interrupted(library.db)
    if demo:
        from .demo.fill import begin

        begin(library)
    listening = free_socket(host, port)
    actual = listening.getsockname()[1]
    if port and actual != port:
        said(f"Port {port} is taken; using {actual}.")
    app = create_app(library, () if host == "127.0.0.1" else (host,), cache_bytes)
    quiet = Quiet(app)
    server = waitress.create_server(
        quiet, sockets=[listening], threads=THREADS, ident=None, channel_timeout=600,
        max_request_body_size=9 << 30,
        # Looking ahead on a connection is how the server learns that the other side hung up.
        channel_request_lookahead=1,
    )  # fmt: skip
    worker = Worker(library.folder, quiet)
    worker.start()
    painter = Beside("demo.fill", str(library.folder))
    if demo and materials.expected(library.db):
        painter.start()
    compiler = Beside("jobs.compiling")

    def ready() -> None:
        """The first picture needs a few kernels, and gets them; the others are read afterwards."""
        if not all_compiled():
            compiler.run()
        quiet.wait(QUIET)
        rows.ready_all(lambda: quiet.wait(BREATH))

    threading.Thread(target=ready, daemon=True).start()
    said(f"Pale Static is at http://{host}:{actual}/ (data in {library.folder}). Ctrl+C ends it.")
    try:
        server.run()
    finally:
        for one in (worker, painter, compiler):
            one.stop()
