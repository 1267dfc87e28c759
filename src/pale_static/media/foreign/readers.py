"""Start reader processes and talk to them, from the process that calls them."""

from __future__ import annotations

import gc
import os
import signal
import subprocess
import sys
import threading
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from multiprocessing.connection import Connection
from typing import Any

from ...core import faults
from ...core.faults import Fault, Unreadable
from .messages import MOST_MEMORY, Message, received, send
from .process import LIMITS, answered, limited

MOST_READERS = 2
"""The most readers at one time; further files wait for their turn."""
BYTES_A_SECOND = 20 << 20
"""For each of these many bytes of a file its reader gets one more second."""
PATIENCE = 4
"""A reader is stopped after this many times its processor time has passed."""


class _Gone(Exception):
    """The reader ended before it answered."""


@dataclass(frozen=True)
class Order:
    """A request to a reader.

    Parameters
    ----------
    what : str
        One of the functions in :mod:`.process`.
    given : mapping
        Plain JSON that the function gets.
    data : sequence of bytes
        The contents of files that are not on the disk.
    size : int
        Bytes of the file; a larger file gets more time.
    """

    what: str
    given: Mapping[str, Any]
    data: Sequence[bytes] = ()
    size: int = 0

    @property
    def seconds(self) -> int:
        """Processor time that the reader may take."""
        return LIMITS.seconds + self.size // BYTES_A_SECOND

    @property
    def plain(self) -> dict[str, Any]:
        return {"what": self.what, "given": self.given, "seconds": self.seconds}

    def awaited(self, answers: Connection) -> Message:
        """Wait for the answer.

        Raises
        ------
        _Gone
        """
        if not answers.poll(PATIENCE * self.seconds):
            raise _Gone
        return received(answers)


class _Reader:
    """One process that reads files, one after another."""

    def __init__(self) -> None:
        ours, theirs = os.pipe(), os.pipe()
        self._answers, self._orders = (
            Connection(ours[0], writable=False),
            Connection(theirs[1], readable=False),
        )
        fds = (theirs[0], ours[1])
        command = [sys.executable, "-m", f"{__package__}.process", *map(str, fds), str(os.getpid())]
        try:
            # Libraries print problems of a file on the terminal; the answer says them in words.
            quiet = subprocess.DEVNULL
            self._process = subprocess.Popen(
                command, pass_fds=fds, stdin=quiet, stdout=quiet, stderr=quiet
            )
        finally:
            for fd in fds:
                os.close(fd)

    @property
    def number(self) -> int:
        """The process number."""
        return self._process.pid

    def read(self, order: Order) -> Message:
        """Read a file in this reader.

        Raises
        ------
        _Gone
            If the reader crashed or passed its limits.
        """
        try:
            send(self._orders, order.plain, order.data)
            return order.awaited(self._answers)
        except (OSError, EOFError):
            raise _Gone from None

    def end(self) -> None:
        """End the process."""
        with suppress(OSError):
            self._process.kill()
        self._process.wait()
        self._answers.close()
        self._orders.close()


_idle: list[_Reader] = []
_lock = threading.Lock()
_turns = threading.BoundedSemaphore(MOST_READERS)


def read_apart(
    what: str, name: str, given: Mapping[str, Any], data: Sequence[bytes] = (), size: int = 0
) -> Message:
    """Have a reader read a file; see :class:`Order`.

    Parameters
    ----------
    name : str
        The file's name for people.

    Raises
    ------
    Fault
        The fault of the function; Unreadable if the reader crashed or passed a limit.
    """
    order = Order(what, {**given, "name": name}, data, size)
    try:
        answer = _read_by_fork(order) if _alone() else _read_by_reader(order)
    except _Gone:
        raise Unreadable(
            f"{name} could not be read: its reader stopped, or needed more than "
            f"{LIMITS.memory >> 20} MB of memory or {order.seconds} seconds. The file is damaged, "
            "or too large. Save it again, or bring in another copy."
        ) from None
    plain = answer.plain
    if "fault" in plain:
        kind = getattr(faults, str(plain["fault"]))
        assert issubclass(kind, Fault)
        raise kind(str(plain["sentence"]), plain["where"])
    return answer


def _read_by_reader(order: Order) -> Message:
    with _turns:
        with _lock:
            one = _idle.pop() if _idle else None
        one = one or _Reader()
        try:
            answer = one.read(order)
        except BaseException:
            one.end()
            raise
        # Memory that a reader has freed may not go back to the system, so the next file gets a new
        # reader.
        if answer.plain[MOST_MEMORY] > LIMITS.kept:
            one.end()
        else:
            with _lock:
                _idle.append(one)
        return answer


def warm() -> None:
    """Start a reader, so that the first file does not wait for it."""
    with _turns, _lock:
        if not _idle:
            _idle.append(_Reader())


def _alone() -> bool:
    """Whether this process has only one thread, like a command: then a forked copy of it may
    read."""
    return hasattr(os, "fork") and threading.active_count() == 1


def _read_by_fork(order: Order) -> Message:
    """Read in a forked copy of this process, which starts at once."""
    receive, give = os.pipe()
    child = os.fork()
    if not child:
        try:
            # Objects of the parent must not be collected here: closing a decoder waits for its
            # threads, and a forked process has none of them.
            gc.freeze()
            # The limit of open files counts those of the parent too.
            os.closerange(3, give)
            os.closerange(give + 1, os.sysconf("SC_OPEN_MAX"))
            quiet = os.open(os.devnull, os.O_WRONLY)
            for stream in (1, 2):
                os.dup2(quiet, stream)
            with Connection(give, readable=False) as answers:
                limited(order.seconds)
                send(answers, *answered(order.what, order.given, order.data))
        finally:
            os._exit(0)
    os.close(give)
    with Connection(receive, writable=False) as answers:
        try:
            return order.awaited(answers)
        except (OSError, EOFError):
            raise _Gone from None
        finally:
            with suppress(OSError):
                os.kill(child, signal.SIGKILL)
            os.waitpid(child, 0)
