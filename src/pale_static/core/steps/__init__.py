"""The catalogue of steps: one module per family."""

# The order of these lines is the catalogue's.
# isort: off
from . import sources
from . import patterns
from . import noise
from . import title
from . import tone
from . import grade
from . import blur
from . import mattes
from . import space
from . import waves
from . import print
from . import combine
from . import time

# isort: on
from .declare import MIX, Call, StepKind, TapKind, step_kind, step_kinds

__all__ = [
    "MIX",
    "Call",
    "StepKind",
    "TapKind",
    "blur",
    "combine",
    "grade",
    "mattes",
    "noise",
    "patterns",
    "print",
    "sources",
    "space",
    "step_kind",
    "step_kinds",
    "time",
    "title",
    "tone",
    "waves",
]
