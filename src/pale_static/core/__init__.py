"""The job itself: documents, steps and the engine. No files, no database, no interface.

What is named here is read from its module when it is first used, so that a program which needs
little of it starts at once.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .document import Effect
    from .documents.checking import read_effect
    from .engine import Engine, Evaluation
    from .faults import Fault
    from .footage import Footage, Materials, StillPicture
    from .pictures.picture import Size, to_pixels
    from .time.timing import FrameRate, Moment

_MODULES = {
    "Effect": "document", "Engine": "engine", "Evaluation": "engine", "Fault": "faults",
    "Footage": "footage", "FrameRate": "time.timing", "Materials": "footage",
    "Moment": "time.timing", "Size": "pictures.picture", "StillPicture": "footage",
    "read_effect": "documents.checking", "to_pixels": "pictures.picture",
}  # fmt: skip

__all__ = [
    "Effect", "Engine", "Evaluation", "Fault", "Footage", "FrameRate", "Materials", "Moment",
    "Size", "StillPicture", "read_effect", "to_pixels",
]  # fmt: skip


def __getattr__(name: str) -> Any:
    if name not in _MODULES:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    return getattr(import_module(f".{_MODULES[name]}", __name__), name)
