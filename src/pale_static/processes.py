"""Processes beside this one, which end when the process that started them ends."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from typing import Any

WATCH = 0.25
"""Seconds between two checks of the parent process."""


def ends_with_parent(parent: int) -> None:
    """End this process as soon as the process that started it has ended for any reason.

    Parameters
    ----------
    parent : int
        The number of the process that started this one.
    """
    threading.Thread(target=_watch, args=(parent,), daemon=True).start()


def _watch(parent: int) -> None:
    while os.getppid() == parent:
        time.sleep(WATCH)
    os._exit(0)


def pool(
    count: int | None = None, begin: Callable[..., None] | None = None, *given: Any
) -> ProcessPoolExecutor:
    """A pool of processes, each of which ends with this one.

    Parameters
    ----------
    count : int, optional
        How many processes; as many as the machine has cores by default.
    begin : function, optional
        A function that each process calls first, with ``given``.
    """
    return ProcessPoolExecutor(count, get_context("spawn"), _begin, (os.getpid(), begin, given))


def _begin(parent: int, begin: Callable[..., None] | None, given: tuple[Any, ...]) -> None:
    ends_with_parent(parent)
    if begin is not None:
        begin(*given)
