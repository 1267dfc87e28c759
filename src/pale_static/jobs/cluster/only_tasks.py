"""A worker that unpickles nothing but this product's own task.

Dask sends functions and arguments pickled, and a pickle may name any function of any module. A
worker with :func:`take_only_tasks` resolves the few names that are listed here and refuses all
others, so nobody who reaches the scheduler can run anything else on it. Dask itself has no such
switch.
"""

from __future__ import annotations

import io
import pickle
from collections.abc import Iterable
from typing import Any

TAKEN = frozenset({
    # Dask's own: a task, and a plugin that every scheduler gives its workers.
    ("dask._task_spec", "Task"),
    ("distributed.shuffle._worker_plugin", "ShuffleWorkerPlugin"),
    ("pale_static.jobs.cluster.task", "introduce"),
    ("pale_static.jobs.cluster.task", "make_stretches"),
})  # fmt: skip
"""The modules and names that a pickle may name."""


class OnlyTasks(pickle.Unpickler):
    """Reads pickles that name nothing but what is listed.

    References
    ----------
    Python's documentation of :mod:`pickle`, "Restricting Globals".
    """

    def find_class(self, module: str, name: str) -> Any:
        """A listed name; called by Python for each name in a pickle."""
        if (module, name) not in TAKEN:
            raise pickle.UnpicklingError(f"This worker runs nothing but its own task, not {name}.")
        return super().find_class(module, name)


def loads(data: bytes | memoryview, *, buffers: Iterable[Any] = ()) -> Any:
    """The object of a pickle; see :class:`OnlyTasks`."""
    return OnlyTasks(io.BytesIO(data), buffers=buffers).load()


def take_only_tasks() -> None:
    """From now on this process unpickles only what is listed."""
    from distributed.protocol import pickle as dask_pickle

    dask_pickle.loads = loads
