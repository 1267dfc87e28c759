"""Run a kernel over blocks of rows on all cores."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from itertools import pairwise
from threading import RLock, local
from typing import Any, ClassVar

import cv2

from . import objects


class Inner:
    """A function that kernels call, compiled with the first kernel that needs it."""

    def __init__(self, function: Callable[..., Any], signature: str | None, options: Any) -> None:
        self.__name__ = function.__name__
        self.__doc__ = function.__doc__
        self._function, self._signature, self._options = function, signature, options
        self._ready: Callable[..., Any] | None = None

    def ready(self) -> Callable[..., Any]:
        """The compiled function."""
        if self._ready is None:
            numba = objects.compiler()
            settle(self._function)
            wrappers = {"no_cpython_wrapper": True, "no_cfunc_wrapper": True}
            options = {"nogil": True, **wrappers, **self._options}
            given = () if self._signature is None else (self._signature,)
            with objects.unlinked():
                self._ready = numba.njit(*given, **options)(self._function)
        return self._ready

    def __call__(self, *arguments: Any) -> Any:
        raise TypeError(f"{self.__name__} can be called by kernels only.")


def inner(signature: str | None = None, **options: Any) -> Callable[[Callable[..., Any]], Inner]:
    """Declare a function that kernels call; the options are Numba's."""
    return lambda function: Inner(function, signature, options)


def inlined(
    signature: str | None = None, finite: bool = False
) -> Callable[[Callable[..., Any]], Inner]:
    """Declare a function that becomes part of every kernel that calls it, with the kernels' own
    arithmetic; ``finite`` as in :func:`compiled`.

    LLVM inlines it, ten times as fast as Numba's own inlining, which infers the types of every call
    again.
    """
    math = {"contract", "nnan"} if finite else {"contract"}
    return inner(signature, error_model="numpy", forceinline=True, fastmath=math)


def settle(function: Callable[..., Any]) -> None:
    """Compile the inner functions that a function calls: Numba reads them by their names."""
    names = function.__globals__
    for name in function.__code__.co_names:
        value = names.get(name)
        if isinstance(value, Inner):
            names[name] = value.ready()


class Kernel:
    """A kernel that is read from its object file, or compiled, when it is first called.

    Reading all of them takes longer than starting a program that needs a few.

    Raises
    ------
    TypeError
        If an argument does not match the signature.
    """

    waiting: ClassVar[list[Kernel]] = []
    """Kernels that are declared and not ready yet."""
    _lock: ClassVar[RLock] = RLock()

    def __init__(self, function: Callable[..., None], signature: str, finite: bool) -> None:
        self.__name__ = function.__name__
        self._made = function, signature, finite
        self._ready: Callable[..., int] | None = None
        self.waiting.append(self)

    def ready(self) -> Callable[..., int]:
        """The compiled function."""
        if self._ready is None:
            with self._lock:
                if self._ready is None:
                    function, signature, finite = self._made
                    before = partial(settle, function)
                    self._ready = objects.ready(function, signature, finite, before)
                    self.waiting.remove(self)
        return self._ready

    def __call__(self, *arguments: Any) -> None:
        status = (self._ready or self.ready())(*arguments)
        if status:
            raise objects.refusal(status, self.__name__, self._made[1].split(), arguments)


def compiled(signature: str, finite: bool = False) -> Callable[[Callable[..., None]], Kernel]:
    """Declare a kernel for exactly these arguments. It runs without the interpreter lock and is
    kept on disk.

    ``first, last`` come before the named arguments: ``in3`` is a contiguous float32 array of three
    dimensions that is only read, ``out2`` one that may be written; ``byte_``, ``word_``,
    ``index_`` and ``exact_`` before that mean 8 and 16 bits, int32 and float64; ``f``, ``i`` and
    ``b`` are a float32, an int64 and a truth value. ``finite`` promises that no NaN comes in,
    which lets clamps vectorise.
    """
    return lambda function: Kernel(function, signature, finite)


def ready_all(before_each: Callable[[], None] = lambda: None) -> int:
    """Compile or load every kernel that is not ready yet, and return their number."""
    waiting = list(Kernel.waiting)
    for kernel in waiting:
        before_each()
        kernel.ready()
    return len(waiting)


def cores() -> int:
    """The number of cores to use, eight at most; ``PALE_STATIC_CORES`` sets a smaller number."""
    wanted = os.environ.get("PALE_STATIC_CORES", "")
    most = int(wanted) if wanted.isdecimal() else 8
    return max(1, min(8, most, os.cpu_count() or 1))


class _Threads:
    """The threads that share the rows of a picture."""

    def __init__(self) -> None:
        self.count = cores()
        self.pool: ThreadPoolExecutor | None = None

    def set(self, count: int) -> None:
        self.count = count
        self.pool = None

    def get(self) -> ThreadPoolExecutor:
        if self.pool is None:
            self.pool = ThreadPoolExecutor(self.count, thread_name_prefix="rows")
        return self.pool


_threads = _Threads()
cv2.setNumThreads(_threads.count)
_here = local()


def set_threads(count: int) -> None:
    """Set how many threads kernels and OpenCV's filters use from now on; at least one."""
    _threads.set(max(1, count))
    cv2.setNumThreads(max(1, count))


def _shared(work: Callable[[int, int], None], edges: Sequence[int]) -> None:
    """Call ``work(first, last)`` between neighbouring edges, on this thread and on helpers.

    A thread that is done takes the next block, so no core waits while there is work.
    """
    blocks = iter(list(pairwise(edges)))

    def share() -> None:
        for first, last in blocks:
            work(first, last)

    count = min(_threads.count, len(edges) - 1) - 1
    helpers = [_threads.get().submit(share) for _ in range(count)]
    try:
        share()
    finally:
        # A helper that has not started has nothing left to do.
        for helper in helpers:
            if not helper.cancel():
                helper.result()


def over(run: Callable[..., None], height: int, *arguments: Any, least: int = 16) -> None:
    """Call ``run(first, last, *arguments)`` for blocks of rows that cover 0..height."""
    most = max(1, height // least)
    if min(_threads.count, most) == 1 or getattr(_here, "within", False):
        run(0, height, *arguments)
        return
    blocks = min(2 * _threads.count, most)
    edges = [height * k // blocks for k in range(blocks + 1)]
    _shared(lambda first, last: run(first, last, *arguments), edges)


def in_bands(run: Callable[[int, int], None], height: int, each: int) -> None:
    """Call ``run(first, last)`` for bands of ``each`` rows that cover 0..height, on all cores.

    Kernels called from ``run`` stay on its thread.
    """

    def alone(first: int, last: int) -> None:
        _here.within = True
        try:
            run(first, last)
        finally:
            _here.within = False

    _shared(alone, [*range(0, height, each), height])
