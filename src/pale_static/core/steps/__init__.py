"""The catalogue of steps: one module per family."""

# The order of these lines is the catalogue's.
# isort: off
from . import sources
from . import patterns
from . import noise
from . import textures
from . import flares
from . import title
from . import tone
from . import grade
from . import blur
from . import defocus
from . import mattes
from . import space
from . import waves
from . import light
from . import shade
from . import surface
from . import printing
from . import combine
from . import time

# isort: on
from .declare import MIX, Call, InputKind, StepKind, step_kind, step_kinds
from .macro import MACRO, kind_of, underscored

__all__ = [
    "MACRO",
    "MIX",
    "Call",
    "InputKind",
    "StepKind",
    "blur",
    "combine",
    "defocus",
    "flares",
    "grade",
    "kind_of",
    "light",
    "mattes",
    "noise",
    "patterns",
    "printing",
    "shade",
    "sources",
    "space",
    "step_kind",
    "step_kinds",
    "surface",
    "textures",
    "time",
    "title",
    "tone",
    "underscored",
    "waves",
]
