"""The waits before the first picture: a command's help, a frame, the demo."""

from __future__ import annotations

import json
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path
from statistics import median

from .measure import Row, once

COMMAND = (sys.executable, "-m", "pale_static")
SIMPLE = {
    "name": "Simple", "kind": "texture",
    "lanes": [{"id": "out", "name": "Out", "steps": [{"id": "n", "kind": "noise"}]}],
}  # fmt: skip
PYTHON_ALONE = "Python that does nothing"
DEMO_WITHIN = 600.0


def _run(*words: str) -> None:
    subprocess.run([*COMMAND, *words], check=True, stdout=subprocess.DEVNULL)


def _bare() -> None:
    subprocess.run([sys.executable, "-c", "pass"], check=True)


def _commands(work: str, most: float, aim: float, *words: str) -> Row:
    _run(*words)
    pairs = [(once(lambda: _run(*words)), once(_bare)) for _ in range(5)]
    ours, bare = (median(pair[k] for pair in pairs) for k in (0, 1))
    return Row(
        work, ours, PYTHON_ALONE, bare, bare / ours, f"{most:g} ms", f"{aim:g} ms", ours <= most
    )


def commands() -> list[Row]:
    """The command line: its help, and one frame of a simple effect as a file."""
    with tempfile.TemporaryDirectory() as name:
        effect, out = Path(name) / "simple.json", Path(name) / "frame.png"
        effect.write_text(json.dumps(SIMPLE))
        frame = ("frame", str(effect), "--size", "1280x720", "-o", str(out))
        return [
            _commands("pale-static --help", 400, 250, "--help"),
            _commands("pale-static frame, a noise at 1280×720", 1200, 800, *frame),
        ]


def _free_port() -> int:
    with socket.socket() as one:
        one.bind(("127.0.0.1", 0))
        return int(one.getsockname()[1])


def _asked(port: int, path: str) -> bytes:
    with urllib.request.urlopen(f"http://127.0.0.1:{port}{path}", timeout=10) as answer:
        return bytes(answer.read())


def demo() -> list[Row]:
    """The demo in an empty folder: until the Shelf can be opened, and until all footage is
    painted."""
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
        port, start = _free_port(), time.perf_counter()
        server = subprocess.Popen(
            [*COMMAND, "serve", "--demo", "--data", folder, "--port", str(port)],
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        times: list[float] = []
        try:
            while len(times) < 2:
                waited = time.perf_counter() - start
                if waited > DEMO_WITHIN or server.poll() is not None:
                    raise RuntimeError(f"the demo was not whole after {waited:.0f} s")
                try:
                    if not times:
                        _asked(port, "/")
                        json.loads(_asked(port, "/api/macros"))
                    elif json.loads(_asked(port, "/api/waiting"))["files"]:
                        time.sleep(0.5)
                        continue
                except OSError:
                    time.sleep(0.1)
                    continue
                times.append(time.perf_counter() - start)
        finally:
            server.terminate()
            server.wait(10)
    opened, painted = times
    return [
        Row("demo, command to open page (set up before)", opened, "all footage painted", painted,
            painted / opened, "20 s", "5 s", opened <= 20, unit="s"),
        Row("demo, command to all footage painted", painted, "", None, None, "180 s", "120 s",
            painted <= 180, unit="s"),
    ]  # fmt: skip


ROWS = (commands, demo)
