"""Watch half an hour of work on the real server: ``python -m tests.attack.soak [MINUTES]``.

Plays, changes and renders in a loop. At the end, memory, threads and open files of the server and
its worker must not be higher than after the first third.
"""

from __future__ import annotations

import random
import sys
import tempfile
import time
import urllib.request
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from pale_static.demo.fill import fill
from pale_static.store import Library

from ..server import Server

EACH = 15.0
"""Seconds between two measurements."""
SLACK = 1.1
"""The growth after the first third that counts as none, because the allocator keeps some memory."""


@dataclass
class Look:
    """Memory, threads and files of a server and its worker at a moment."""

    minute: float
    megabytes: float
    worker: float
    threads: int
    files: int
    frames: int

    def __str__(self) -> str:
        return (
            f"minute {self.minute:5.1f}: server {self.megabytes:7.1f} MB, {self.threads} threads, "
            f"{self.files} files; worker {self.worker:7.1f} MB; {self.frames} frames"
        )


def held(pid: int) -> tuple[float, int]:
    """Megabytes in memory, and threads, of a process."""
    told = dict(
        line.split(":", 1) for line in Path(f"/proc/{pid}/status").read_text().splitlines() if ":" in line
    )  # fmt: skip
    return int(told.get("VmRSS", "0 kB").split()[0]) / 1000, int(told.get("Threads", "0"))


def megabytes(pid: int) -> float:
    """The memory of a process; 0 if it has ended."""
    with suppress(FileNotFoundError, ProcessLookupError):
        return held(pid)[0]
    return 0.0


def below(pid: int) -> list[int]:
    """All descendants of a process."""
    found = []
    with suppress(FileNotFoundError):  # processes and threads may end meanwhile
        for thread in Path(f"/proc/{pid}/task").iterdir():  # each thread has its own children
            for child in (thread / "children").read_text().split():
                found += [int(child), *below(int(child))]
    return found


class Editor:
    """A person who plays, drags, changes and renders without a pause."""

    def __init__(self, server: Server) -> None:
        self.server = server
        self.effects = [one["id"] for one in server.ask("GET", "/effects")["drafts"]]
        self.macros = [one["slug"] for one in server.ask("GET", "/macros")["macros"]]
        self.reel = server.ask("GET", "/reels")["reels"][0]["id"]
        self.frames = 0
        self.rng = random.Random(1)

    def picture(self, path: str) -> None:
        with urllib.request.urlopen(f"{self.server.address}/api{path}", timeout=60) as answer:
            answer.read()
        self.frames += 1

    def once(self) -> None:
        rng, ask = self.rng, self.server.ask
        draft = ask("GET", f"/effects/{rng.choice(self.effects)}")
        size = rng.choice(("width=960&height=540", "width=480&height=270", "width=1280&height=720"))
        for frame in range(12):
            self.picture(
                f"/effects/{draft['id']}/{draft['revision']}/frame.jpg?frame={frame}&length=40&{size}"
            )
        ask("GET", f"/effects/{draft['id']}/{draft['revision']}/curves?length=40")
        change = {"do": "set-head", "seconds": rng.randrange(20, 60) / 25}
        changed = ask(
            "POST", f"/effects/{draft['id']}/changes", {"base": draft["revision"], "change": change}
        )
        ask("POST", f"/effects/{draft['id']}/undo", {"base": changed["revision"]})
        view = ask("GET", f"/reels/{self.reel}")
        start = rng.randrange(max(1, view["length"] - 12))
        for frame in range(start, start + 12):
            self.picture(
                f"/reels/{self.reel}/{view['revision']}/frame.jpg?frame={frame}&width=960&height=540"
            )
        self.picture(f"/macros/{rng.choice(self.macros)}/1/frame.jpg?frame=9&width=480&height=270")
        ask("GET", f"/effects/{draft['id']}/history")
        renders = ask("GET", "/renders")["renders"]
        if not any(one["state"] in ("queued", "running") for one in renders):
            ask(
                "POST",
                "/renders",
                {"reel": self.reel, "frames": 40, "form": rng.choice(("mp4", "png"))},
            )


def main(minutes: float) -> int:
    """Work for a time; returns 1 if anything has grown."""
    with tempfile.TemporaryDirectory() as folder:
        fill(Library(Path(folder)), scale=0.5)
        server = Server(Path(folder))
        looks: list[Look] = []
        try:
            editor, began = Editor(server), time.monotonic()
            while (spent := time.monotonic() - began) < minutes * 60:
                editor.once()
                if not looks or spent / 60 - looks[-1].minute > EACH / 60:
                    pid = server.process.pid
                    memory, threads = held(pid)
                    files = len(list(Path(f"/proc/{pid}/fd").iterdir()))
                    worker = max(map(megabytes, below(pid)), default=0.0)
                    looks.append(Look(spent / 60, memory, worker, threads, files, editor.frames))
                    print(looks[-1], flush=True)
        finally:
            server.stop()
        third = [one for one in looks if one.minute <= minutes / 3]
        last = looks[-max(1, len(looks) // 10) :]
        grown = 0
        for name in ("megabytes", "worker", "threads", "files"):
            before = max(getattr(one, name) for one in third)
            after = min(getattr(one, name) for one in last)
            if after > before * SLACK:
                grown += 1
                print(f"GREW: {name} from {before:.0f} to {after:.0f}")
        print("nothing has grown" if not grown else f"{grown} grew")
        return int(grown > 0)


if __name__ == "__main__":
    sys.exit(main(float(sys.argv[1]) if len(sys.argv) > 1 else 30.0))
