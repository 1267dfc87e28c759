"""Stop long work early when nobody waits for its result any more."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

from .faults import Cancelled

_lost: ContextVar[Callable[[], bool] | None] = ContextVar("lost", default=None)


@contextmanager
def given_up_when(lost: Callable[[], bool] | None) -> Iterator[None]:
    """Inside the block, long work in this thread stops as soon as ``lost()`` is true.

    With None nothing changes.
    """
    if lost is None:
        yield
        return
    token = _lost.set(lost)
    try:
        yield
    finally:
        _lost.reset(token)


def check() -> None:
    """Long work calls this every few milliseconds.

    Raises
    ------
    Cancelled
        If nobody waits for the result any more.
    """
    lost = _lost.get()
    if lost is not None and lost():
        raise Cancelled
