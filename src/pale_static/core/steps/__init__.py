"""The catalogue of steps: one module per family."""

from . import (
    blur,
    combine,
    grade,
    mattes,
    noise,
    patterns,
    print,
    sources,
    space,
    time,
    title,
    tone,
)  # isort: skip  (the catalogue's order)
from .declare import MIX, Call, StepKind, TapKind, step_kind, step_kinds

__all__ = [
    "MIX", "Call", "StepKind", "TapKind", "blur", "combine", "grade", "mattes", "noise", "patterns", "print", "sources", "space", "step_kind",
    "step_kinds", "time", "title", "tone",
]  # fmt: skip
