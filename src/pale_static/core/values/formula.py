"""Formulas: Python arithmetic over time, other values and controls, and nothing else."""

from __future__ import annotations

import ast
import math
import operator
import re
from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import Any

from simpleeval import InvalidExpression, SimpleEval

from ..faults import Fault
from ..kernels.texture import noise
from ..time.timing import Moment

MOST_CHARACTERS = 2000
NAMES = (
    "progress", "frame", "seconds", "length", "rate", "width", "height", "pass", "passes",
    "pi",
)  # fmt: skip
_PASS = re.compile(r"(?<![\w.])pass(?!\w)")

Look = Callable[[str], Any]
"""Gives the value of ``lane.step.value`` or ``control.slug``."""


def clamp(value: float, low: float = 0.0, high: float = 1.0) -> float:
    """The value clamped between two limits."""
    return min(max(value, low), high)


def mix(first: float, second: float, share: float) -> float:
    """The value at a share of the way from one to another."""
    return first + (second - first) * share


def smoothstep(low: float, high: float, value: float) -> float:
    """0 below ``low``, 1 above ``high``, and 3t² − 2t³ between."""
    if high == low:
        return 1.0 if value >= high else 0.0
    t = clamp((value - low) / (high - low))
    return t * t * (3 - 2 * t)


def step(edge: float, value: float) -> float:
    """0 below an edge, 1 from it on."""
    return 1.0 if value >= edge else 0.0


def dice(seed: float) -> float:
    """A number between 0 and 1 that is always the same for a seed."""
    table = noise.permutation(int(seed) & 0x7FFFFFFF)
    return (int(table[0]) * 256 + int(table[1])) / 65536


def drift(seed: float, speed: float, seconds: float) -> float:
    """A smooth random value between −1 and 1 with ``speed`` changes a second, always the same for a
    seed."""
    table = noise.permutation(int(seed) & 0x7FFFFFFF)
    return clamp(1.6 * noise.point(seconds * speed + 0.5, 0.37, 0.71, table), -1.0, 1.0)


_MATH = (
    "sin", "cos", "tan", "asin", "acos", "atan", "atan2", "sqrt", "exp", "log", "log2", "log10",
    "floor", "ceil", "trunc", "fmod", "hypot", "degrees", "radians", "pow", "fabs",
)  # fmt: skip


def rounded(value: float, digits: float = 0.0) -> float:
    """The value rounded to a number of decimals, −15 to 15; halves go to the even neighbour."""
    return round(float(value), int(clamp(digits, -15, 15)))


# Whole numbers in Python have no size limit; only floats take a bounded time.
_WHOLE: dict[str, Callable[[float], float]] = {
    "floor": lambda value: float(math.floor(value)),
    "ceil": lambda value: float(math.ceil(value)),
    "trunc": lambda value: float(math.trunc(value)),
}
_FUNCTIONS: dict[str, Callable[..., Any]] = {name: getattr(math, name) for name in _MATH} | {
    "abs": abs, "min": min, "max": max, "round": rounded, "clamp": clamp, "mix": mix,
    "smoothstep": smoothstep, "step": step, "dice": dice, **_WHOLE,
}  # fmt: skip
_TOLD = {
    "drift": "smooth chance", "dice": "sudden chance", "clamp": "limits", "mix": "between two",
    "smoothstep": "soft step", "step": "hard step",
}  # fmt: skip
_THERE = ", ".join(f"{name} ({words})" for name, words in _TOLD.items())
_PLAIN = _FUNCTIONS.keys() - _TOLD.keys()
_OPERATORS: dict[type[ast.AST], Callable[..., Any]] = {
    ast.Add: operator.add, ast.Sub: operator.sub, ast.Mult: operator.mul,
    ast.Div: operator.truediv, ast.FloorDiv: operator.floordiv, ast.Mod: operator.mod,
    ast.Pow: math.pow, ast.USub: operator.neg, ast.UAdd: operator.pos, ast.Not: operator.not_,
    ast.Eq: operator.eq, ast.NotEq: operator.ne, ast.Lt: operator.lt, ast.LtE: operator.le,
    ast.Gt: operator.gt, ast.GtE: operator.ge,
}  # fmt: skip
_ALLOWED = (
    ast.Expression, ast.BinOp, ast.UnaryOp, ast.BoolOp, ast.Compare, ast.IfExp, ast.Call, ast.Name,
    ast.Attribute, ast.Constant, ast.boolop, ast.expr_context, *_OPERATORS,
)  # fmt: skip


def _dotted(node: ast.expr) -> str | None:
    """``a.b.c`` as text; None for anything else."""
    parts: list[str] = []
    while isinstance(node, ast.Attribute):
        parts.append(node.attr)
        node = node.value
    if not isinstance(node, ast.Name):
        return None
    return ".".join([node.id, *reversed(parts)])


def _at(text: str, column: int) -> str:
    shown = text[max(0, column - 12) : column + 12]
    return f"at character {column + 1}, near “{shown}”"


@lru_cache(maxsize=2048)
def parse(text: str) -> tuple[ast.expr, tuple[str, ...]]:
    """A formula's tree, and the other values and controls it reads.

    Raises
    ------
    Fault
        If the text is not arithmetic or tries to use anything else, with the place in the text.
    """
    if len(text) > MOST_CHARACTERS:
        raise Fault(f"A formula has {MOST_CHARACTERS} characters at most. This has {len(text)}.")
    try:
        # “pass” is a word of Python's own; it stands under another of the same length.
        tree = ast.parse(_PASS.sub("pas_", text.strip()) or "?", mode="eval")
    except (SyntaxError, ValueError, RecursionError, MemoryError) as fault:
        # If the text ends too early, Python gives no place, or one before the first.
        position = getattr(fault, "offset", None) or len(text) + 1
        column = min(position, len(text)) - 1
        raise Fault(f"The formula cannot be read: unexpected text {_at(text, column)}.") from None
    reads: list[str] = []
    called = {id(node.func) for node in ast.walk(tree) if isinstance(node, ast.Call)}
    inner = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Attribute)}
    for node in ast.walk(tree):
        place = _at(text, getattr(node, "col_offset", 0))
        if not isinstance(node, _ALLOWED):
            raise Fault(f"A formula is arithmetic only; unexpected text {place}.")
        if isinstance(node, ast.Constant) and not isinstance(node.value, (int, float, bool)):
            raise Fault(f"A formula works on numbers only; there is other text {place}.")
        if isinstance(node, ast.Call):
            name = _dotted(node.func)
            if node.keywords or name not in (*_FUNCTIONS, "drift"):
                raise Fault(
                    f"A formula has no function “{name or '?'}” {place}. There are {_THERE}, "
                    f"{', '.join(sorted(_PLAIN))}."
                )
        elif isinstance(node, (ast.Name, ast.Attribute)):
            if id(node) in called or id(node) in inner:
                continue
            name = _dotted(node)
            if name in NAMES or name == "pas_":
                continue
            parts = (name or "").split(".")
            if any(part.startswith("_") for part in parts) or not (
                len(parts) == 3 or (len(parts) == 2 and parts[0] == "control")
            ):
                there = ", ".join(NAMES)
                raise Fault(
                    f"A formula knows no “{name or '?'}” {place}. It knows {there}, other values "
                    f"as "
                    "lane.step.value, and controls as control.name."
                )
            reads.append(str(name))
    return tree.body, tuple(dict.fromkeys(reads))


class _Reader(SimpleEval):  # type: ignore[misc]
    """Arithmetic in which dotted names are looked up as one name, and no attribute is ever read."""

    def __init__(self, names: Mapping[str, Any], functions: Mapping[str, Any], look: Look) -> None:
        super().__init__(operators=_OPERATORS, names=dict(names), functions=dict(functions))
        self.look = look

    def _eval_constant(self, node: ast.Constant) -> float:
        return float(node.value)  # type: ignore[arg-type]

    def _eval_attribute(self, node: ast.Attribute) -> Any:
        return self.look(str(_dotted(node)))


def evaluate(text: str, moment: Moment, size: tuple[int, int], look: Look) -> float:
    """The result of a formula at a moment.

    Parameters
    ----------
    size : (width, height)
        Of the frame, in pixels.
    look : function
        Gives other values and controls by their dotted names, in the units the interface shows.

    Raises
    ------
    Fault
        If it cannot be computed or is not a finite number.
    """
    tree, _ = parse(text)
    names = {
        "progress": moment.progress, "frame": float(moment.frame), "seconds": moment.seconds,
        "length": float(moment.length), "rate": float(moment.rate), "width": float(size[0]),
        "height": float(size[1]), "pas_": float(moment.turn), "passes": float(moment.turns),
        "pi": math.pi,
    }  # fmt: skip
    functions = _FUNCTIONS | {"drift": lambda seed, speed=1.0: drift(seed, speed, moment.seconds)}
    try:
        result = _Reader(names, functions, look).eval(text, previously_parsed=tree)
    except Fault:
        raise
    except ZeroDivisionError:
        raise Fault(f"The formula divides by zero at frame {moment.frame}.") from None
    except (
        ArithmeticError, ValueError, TypeError, InvalidExpression, MemoryError, RecursionError,
    ) as fault:  # fmt: skip
        raise Fault(f"The formula cannot be computed at frame {moment.frame}: {fault}.") from None
    if isinstance(result, bool) or not isinstance(result, (int, float)):
        result = float(result) if isinstance(result, bool) else math.nan
    if not math.isfinite(result):
        raise Fault(f"The formula gives no finite number at frame {moment.frame}.")
    return float(result)


def spelled(shown: str) -> str:
    """A name on screen as a formula writes it: "Lit rim" becomes lit_rim."""
    return re.sub(r"\W+", "_", shown.lower()).strip("_")


def slug_matches(written: str, identifier: str) -> bool:
    """Whether a name in a formula means this identifier: hyphens are written as underscores."""
    return written == identifier or written == identifier.replace("-", "_")
