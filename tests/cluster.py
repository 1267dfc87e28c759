"""A real scheduler and real workers, as Dask's own commands start them."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Sequence
from pathlib import Path

DASK = Path(sys.executable).with_name("dask")


def free_port() -> int:
    """A port that nothing listens at."""
    with socket.socket() as one:
        one.bind(("127.0.0.1", 0))
        return int(one.getsockname()[1])


class RealCluster:
    """A scheduler and workers on this machine. Use it in a ``with`` block.

    Parameters
    ----------
    given : sequence of str
        Options for the scheduler and the workers, such as certificates.
    """

    def __init__(
        self, folder: Path, workers: int, given: Sequence[str] = (), scheme: str = "tcp",
        environment: dict[str, str] | None = None,
    ) -> None:  # fmt: skip
        self.folder, self.given, self.scheme = folder, list(given), scheme
        self.environment = environment or {}
        self.port = free_port()
        self.processes: list[subprocess.Popen[bytes]] = []
        self.scheduler: subprocess.Popen[bytes] | None = None
        self.start_scheduler()
        self.workers = [self.start_worker(f"w{number}") for number in range(workers)]

    @property
    def address(self) -> str:
        """The scheduler's address."""
        return f"{self.scheme}://127.0.0.1:{self.port}"

    def start_scheduler(self) -> None:
        """Start the scheduler, again at the same port after a kill."""
        self.scheduler = self._run(
            "scheduler", "--host", f"{self.scheme}://127.0.0.1", "--port", str(self.port),
            "--no-dashboard", log="scheduler",
        )  # fmt: skip

    def start_worker(self, name: str, **environment: str) -> subprocess.Popen[bytes]:
        """Start a worker with a folder of its own."""
        return self._run(
            "worker", self.address, "--nthreads", "1", "--no-nanny", "--no-dashboard", "--name",
            name, "--preload", "pale_static.jobs.cluster.preload", "--death-timeout", "60",
            "--local-directory", str(self.folder / "scratch"), log=name,
            PALE_STATIC_WORKER_FOLDER=str(self.folder / name), **environment,
        )  # fmt: skip

    def _run(self, *words: str, log: str, **environment: str) -> subprocess.Popen[bytes]:
        with (self.folder / f"{log}.log").open("ab") as out:
            process = subprocess.Popen(
                [str(DASK), *words, *self.given], stdout=out, stderr=subprocess.STDOUT,
                env=os.environ | self.environment | environment,
            )  # fmt: skip
        self.processes.append(process)
        return process

    def log(self, name: str) -> str:
        """What a process has printed."""
        return (self.folder / f"{name}.log").read_text()

    def wait_for(self, text: str, name: str, seconds: float = 60) -> None:
        """Wait until a process has printed something."""
        end = time.monotonic() + seconds
        while text not in self.log(name):
            assert time.monotonic() < end, self.log(name)
            time.sleep(0.05)

    def __enter__(self) -> RealCluster:
        return self

    def __exit__(self, *_: object) -> None:
        for process in self.processes:
            if process.poll() is None:
                process.send_signal(signal.SIGCONT)
                process.kill()
        for process in self.processes:
            process.wait()
