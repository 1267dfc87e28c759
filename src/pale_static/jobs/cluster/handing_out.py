"""A small server for one film: it gives workers the film's files, and takes finished stretches.

It serves nothing else: files by their content keys, to those who bring a signature for a running
task. It runs as long as the film is being made.
"""

from __future__ import annotations

import hashlib
import json
import re
import shutil
import socket
import ssl
import threading
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, field
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any, BinaryIO, Protocol
from urllib.parse import parse_qs, urlsplit

from ...core.faults import Fault
from .grants import Grant, Signer

PIECE = 1 << 20
MOST_TOLD = 4096
QUIET = 60
"""Seconds without a byte after which a connection is closed."""
_FILE = re.compile(r"/([0-9a-f]{16})/files/([0-9a-f]{32})")
_STRETCH = re.compile(r"/([0-9a-f]{16})/stretches/(\d{1,9})-(\d{1,9})/([0-9a-f]{32})")
_TOLD = re.compile(r"/([0-9a-f]{16})/told")


class Accepted(Protocol):
    """Takes what the tasks of a film send."""

    def take(self, task: str, first: int, count: int, file: Path) -> None:
        """Take a finished stretch.

        Raises
        ------
        Fault
            If it is not what was asked for.
        """

    def told(self, task: str, told: Mapping[str, Any]) -> None:
        """Store what a task says about its progress."""


@dataclass
class HandingOut:
    """The server, in threads of this process. Use it in a ``with`` block.

    Parameters
    ----------
    files : mapping
        The files that may be fetched, by their keys.
    folder : Path
        The folder for stretches that are arriving.
    host : str
        The address of this machine that the workers reach.
    port : int
        0 for any free one.
    tls : ssl.SSLContext, optional
        Encrypts all connections.
    """

    files: Mapping[str, Path]
    folder: Path
    accepted: Accepted
    host: str = "127.0.0.1"
    port: int = 0
    tls: ssl.SSLContext | None = None
    signer: Signer = field(default_factory=Signer)
    tasks: set[str] = field(default_factory=set)
    """Names of the running tasks. A request for any other task is answered with status 410."""
    sent: dict[str, int] = field(default_factory=dict)
    """How often each file was sent."""

    def __enter__(self) -> HandingOut:
        host = self.host

        class Server(ThreadingHTTPServer):
            address_family = socket.AF_INET6 if ":" in host else socket.AF_INET
            daemon_threads = True

        self._server = Server((host, self.port), _handler(self))
        self.port = self._server.server_address[1]
        if self.tls is not None:
            # The handshake is made in the thread of the connection, so no client delays another.
            self._server.socket = self.tls.wrap_socket(
                self._server.socket, server_side=True, do_handshake_on_connect=False
            )
        threading.Thread(target=self._server.serve_forever, args=(0.1,), daemon=True).start()
        return self

    def __exit__(self, *_: object) -> None:
        self.tasks.clear()
        self._server.shutdown()
        self._server.server_close()

    def grant(self, task: str) -> Grant:
        """Begin to serve a task, and give it a signed permission."""
        self.tasks.add(task)
        scheme = "https" if self.tls is not None else "http"
        host = f"[{self.host}]" if ":" in self.host else self.host
        return self.signer.grant(f"{scheme}://{host}:{self.port}", task)


def _handler(out: HandingOut) -> type[BaseHTTPRequestHandler]:
    class Handler(BaseHTTPRequestHandler):
        protocol_version = "HTTP/1.1"
        timeout = QUIET
        server_version, sys_version = "Pale-Static", ""

        def log_message(self, *_: Any) -> None:
            """Write nothing: signatures do not belong in a log."""

        def do_GET(self) -> None:
            found = self._allowed(_FILE)
            if found is None:
                return None
            path = out.files.get(found[2])
            if path is None:
                return self._say(404, "The film has no such file.")
            try:
                with path.open("rb") as file:
                    self._send(file, found[2])
            except OSError as fault:
                self.close_connection = True
                with suppress(OSError):
                    self._say(404, f"The file cannot be read: {fault.strerror}.")
            return None

        def _send(self, file: BinaryIO, key: str) -> None:
            """Send a file from the byte that was asked for."""
            size = file.seek(0, 2)
            asked = re.fullmatch(r"bytes=(\d{1,15})-", self.headers.get("Range", ""))
            first = min(int(asked[1]), size) if asked else 0
            file.seek(first)
            self.send_response(206 if asked else 200)
            self.send_header("Content-Type", "application/octet-stream")
            self.send_header("Content-Length", str(size - first))
            if asked:
                self.send_header("Content-Range", f"bytes {first}-{max(size - 1, 0)}/{size}")
            self.end_headers()
            out.sent[key] = out.sent.get(key, 0) + 1
            shutil.copyfileobj(file, self.wfile, PIECE)

        def do_PUT(self) -> None:
            found = self._allowed(_STRETCH)
            if found is None:
                return
            task, first, count, key = found[1], int(found[2]), int(found[3]), found[4]
            part = out.folder / f".{task}-{first}.part"
            try:
                answer = self._taken(part, task, first, count, key)
            except Fault as fault:
                answer = 422, fault.sentence
            except OSError as fault:
                self.close_connection = True
                answer = 507, f"It could not be stored: {fault.strerror or fault}."
            finally:
                part.unlink(missing_ok=True)
            with suppress(OSError):
                self._say(*answer)

        def _taken(
            self, part: Path, task: str, first: int, count: int, key: str
        ) -> tuple[int, str]:
            """The answer to a stretch, after it was taken."""
            if not self._received(part, key):
                return 400, "The stretch did not arrive whole."
            if task not in out.tasks:
                return 410, "The stretch is not wanted any more."
            out.accepted.take(task, first, count, part)
            return 200, "Taken."

        def _received(self, part: Path, key: str) -> bool:
            """Write the body to a file; whether it is whole, by its hash."""
            left, digest = self._length(), hashlib.blake2b(digest_size=16)
            if left > shutil.disk_usage(out.folder).free:
                self.close_connection = True
                raise OSError(28, "No space left on device")
            with part.open("wb") as file:
                while left > 0:
                    piece = self.rfile.read(min(left, PIECE))
                    if not piece:
                        self.close_connection = True
                        return False
                    file.write(piece)
                    digest.update(piece)
                    left -= len(piece)
            return digest.hexdigest() == key

        def do_POST(self) -> None:
            found = self._allowed(_TOLD)
            if found is None:
                return None
            length = self._length()
            if length > MOST_TOLD:
                self.close_connection = True
                return self._say(413, "The message is too long.")
            try:
                told = json.loads(self.rfile.read(length))
            except (ValueError, RecursionError):
                told = None
            if not isinstance(told, dict):
                return self._say(400, "The message is not valid.")
            out.accepted.told(found[1], told)
            # A task that runs for long gets a new permission each time.
            return self._say(200, out.grant(found[1]).model_dump_json())

        def _length(self) -> int:
            told = self.headers.get("Content-Length", "")
            return int(told) if told.isdecimal() and len(told) < 16 else 0

        def _allowed(self, pattern: re.Pattern[str]) -> re.Match[str] | None:
            """The parts of the address, if it is valid and its signature holds."""
            place = urlsplit(self.path)
            found = pattern.fullmatch(place.path)
            asked = parse_qs(place.query)
            until, signature = (asked.get(name, [""])[0] for name in ("until", "signature"))
            if found is None:
                self.close_connection = True
                self._say(404, "There is nothing here.")
                return None
            refused = out.signer.refusal(found[1], until, signature)
            if refused is None and found[1] not in out.tasks:
                refused = 410, "The stretch is not wanted any more."
            if refused is not None:
                # A body that nobody reads would be taken for the next request.
                self.close_connection = True
                self._say(*refused)
                return None
            return found

        def _say(self, status: int, sentence: str) -> None:
            body = sentence.encode()
            self.send_response(status)
            self.send_header("Content-Type", "text/plain; charset=utf-8")
            self.send_header("Content-Length", str(len(body)))
            if self.close_connection:
                self.send_header("Connection", "close")
            self.end_headers()
            self.wfile.write(body)

    return Handler
