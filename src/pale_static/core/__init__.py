"""The job itself: documents, steps and the engine. No files, no database, no interface."""

from .checking import read_effect
from .document import Effect
from .engine import Engine, Evaluation
from .faults import Fault
from .footage import Footage, Materials, StillPicture
from .picture import Size, to_pixels
from .timing import FrameRate, Moment

__all__ = [
    "Effect", "Engine", "Evaluation", "Fault", "Footage", "FrameRate", "Materials", "Moment",
    "Size", "StillPicture", "read_effect", "to_pixels",
]  # fmt: skip
