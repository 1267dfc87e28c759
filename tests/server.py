"""The real server as a process of its own, and a small film to render on it."""

from __future__ import annotations

import json
import os
import re
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any

# A range of ports for each process of a test run, so that a restarted server finds its port free.
PORT = 18800 + 100 * int(os.environ.get("PYTEST_XDIST_WORKER", "gw0").removeprefix("gw"))


class Server:
    """``pale-static serve`` on a data folder."""

    def __init__(self, folder: Path, *options: str) -> None:
        self.folder, self.options = folder, options
        self.start()

    def start(self) -> None:
        command = [
            sys.executable,
            "-m",
            "pale_static",
            "serve",
            "--data",
            str(self.folder),
            "--port",
            str(PORT),
            *self.options,
        ]
        self.process = subprocess.Popen(
            command, stderr=subprocess.PIPE, text=True, start_new_session=True
        )
        assert self.process.stderr
        for line in self.process.stderr:
            found = re.search(r"http://\S+", line)
            if found:
                self.address = found[0].rstrip("/")
                return
        raise AssertionError("the server did not start")

    def ask(self, method: str, path: str, body: Any = None) -> Any:
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(
            f"{self.address}/api{path}", data, {"Content-Type": "application/json"}, method=method
        )
        try:
            with urllib.request.urlopen(request, timeout=60) as answer:
                return json.loads(answer.read())
        except urllib.error.HTTPError as fault:
            fault.add_note(fault.read().decode())
            raise

    def until(self, number: int, *states: str, seconds: float = 90) -> Any:
        """Wait until a render is in one of these states."""
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline:
            found = next(r for r in self.ask("GET", "/renders")["renders"] if r["id"] == number)
            if found["state"] in states:
                return found
            time.sleep(0.1)
        raise AssertionError(f"render {number} is {found['state']}: {found['message']}")

    def kill(self) -> None:
        os.kill(self.process.pid, signal.SIGKILL)
        self.process.wait()

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait(10)


def shrink(server: Server, size: tuple[int, int] = (160, 90)) -> None:
    view = server.ask("GET", "/reels/3")
    change = {"do": "set-reel", "width": size[0], "height": size[1]}
    server.ask("POST", "/reels/3/changes", {"base": view["revision"], "change": change})
