"""The catalogue of steps: one module per family."""

from . import sources, patterns, noise, tone, grade, blur, mattes, space, print, combine, time  # isort: skip  (the catalogue's order)
from .declare import MIX, Call, StepKind, TapKind, step_kind, step_kinds

__all__ = [
    "MIX", "Call", "StepKind", "TapKind", "blur", "combine", "grade", "mattes", "noise", "patterns", "print", "sources", "space", "step_kind",
    "step_kinds", "time", "tone",
]  # fmt: skip
