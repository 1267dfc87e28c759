"""Processes beside another one end with it, for whatever reason it ends."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

CODE = """
import os, sys, time
from pathlib import Path
from pale_static.processes import pool

def told(folder):
    Path(folder, str(os.getpid())).touch()
    time.sleep(60)

if __name__ == "__main__":
    with pool(2) as made:
        list(made.map(told, [sys.argv[1]] * 2))
"""


def _runs(number: int) -> bool:
    try:
        return "Z" not in Path(f"/proc/{number}/stat").read_text().rpartition(")")[2].split()[0]
    except OSError:
        return False


def test_a_pool_ends_when_the_process_that_started_it_is_killed(tmp_path: Path) -> None:
    script, started = tmp_path / "start.py", tmp_path / "started"
    script.write_text(CODE)
    started.mkdir()
    parent = subprocess.Popen([sys.executable, str(script), str(started)])
    deadline = time.monotonic() + 60
    while len(list(started.iterdir())) < 2:
        assert time.monotonic() < deadline
        time.sleep(0.05)
    os.kill(parent.pid, signal.SIGKILL)
    parent.wait()
    numbers = [int(one.name) for one in started.iterdir()]
    while any(_runs(number) for number in numbers):
        assert time.monotonic() < deadline
        time.sleep(0.05)


def test_every_pool_is_started_in_the_one_way() -> None:
    package = Path(__file__).parents[2] / "src" / "pale_static"
    starts = [path.name for path in package.rglob("*.py")
              if "ProcessPoolExecutor(" in path.read_text()]  # fmt: skip
    assert starts == ["processes.py"]
