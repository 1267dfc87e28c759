"""Prepares a worker: ``dask worker … --no-nanny --preload pale_static.jobs.cluster.preload``.

Kernels are compiled before the worker offers itself, and it takes nothing but this product's task.
"""

from __future__ import annotations

from typing import Any

from ..compiling import compile_all
from .only_tasks import take_only_tasks
from .task import prepare


def dask_setup(worker: Any) -> None:
    """Called by Dask before the worker connects."""
    compile_all()
    # A process that guards the worker would run what others send it, so it is not accepted.
    if worker.nanny is None:
        take_only_tasks()
        prepare()
