"""Prepares a worker: ``dask worker … --preload pale_static.jobs.cluster.preload``.

Kernels are compiled before the worker offers itself, and its connections take nothing but this
product's task (:mod:`.only_tasks`).
"""

from __future__ import annotations

from typing import Any

from ..compiling import compile_all
from .task import prepared


def dask_setup(worker: Any) -> None:
    """Called by Dask before the worker connects."""
    compile_all()
    prepared()
