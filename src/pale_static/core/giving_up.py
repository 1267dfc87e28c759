"""Giving up what nobody waits for any more, from wherever the work happens to be."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

from .faults import Cancelled

_lost: ContextVar[Callable[[], bool] | None] = ContextVar("lost", default=None)


@contextmanager
def given_up_when(lost: Callable[[], bool] | None) -> Iterator[None]:
    """Within, long work in this thread is given up once ``lost`` says so.

    None leaves it as it is.
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
    """Called every few milliseconds of long work.

    Raises
    ------
    Cancelled
        If nobody waits for it any more.
    """
    lost = _lost.get()
    if lost is not None and lost():
        raise Cancelled
