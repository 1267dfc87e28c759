"""Read JSON from outside, with limits on depth and numbers."""

from __future__ import annotations

import json
from math import isfinite
from typing import Any

from ..faults import Malformed

DEEPEST = 160
"""Levels of lists and objects in each other. Our own documents have about ten, and twelve more for
each macro within another."""
_LARGEST = 2**53
"""Whole numbers above this do not survive a browser, which holds numbers as doubles."""


def parse_json(text: str | bytes, what: str) -> Any:
    """Read a JSON value that can be stored and sent on.

    Parameters
    ----------
    what : str
        A name for the text that begins a sentence: "The request".

    Raises
    ------
    Malformed
        If it is not JSON, nests deeper than 160 levels, or holds a number or a character that
        cannot be kept (RFC 8259, sections 6 and 8, leaves both to the reader).
    """
    try:
        value = json.loads(text, parse_int=_whole, parse_constant=_refused)
    except RecursionError:
        raise Malformed(f"{what} nests deeper than {DEEPEST} levels.") from None
    except _Unkept as fault:
        raise Malformed(f"{what} holds {fault}, which cannot be kept.") from None
    except ValueError:
        raise Malformed(f"{what} is not JSON.") from None
    check_plain(value, what)
    return value


class _Unkept(ValueError):
    """A number that JSON can write and we do not keep."""


def _whole(digits: str) -> int:
    # Counted first: Python itself needs long for a number of many digits.
    if len(digits) > 17 or abs(int(digits)) > _LARGEST:
        shown = digits if len(digits) <= 24 else f"{digits[:20]}… ({len(digits)} digits)"
        raise _Unkept(f"the number {shown}")
    return int(digits)


def _refused(name: str) -> float:
    raise _Unkept(name)


def check_plain(value: Any, what: str) -> None:
    """Refuse values that nest too deep, and text and numbers that cannot be stored.

    Raises
    ------
    Malformed
    """
    below: list[tuple[Any, int]] = [(value, 1)]
    while below:
        one, depth = below.pop()
        if isinstance(one, str):
            if not one.isascii() and any("\ud800" <= letter <= "\udfff" for letter in one):
                raise Malformed(f"{what} holds half of a character (a lone surrogate).")
        elif isinstance(one, float):
            if not isfinite(one):
                raise Malformed(f"{what} holds a number that is not finite.")
        elif isinstance(one, (list, dict)):
            if depth > DEEPEST:
                raise Malformed(f"{what} nests deeper than {DEEPEST} levels.")
            inner = [*one.keys(), *one.values()] if isinstance(one, dict) else one
            below += [(item, depth + 1) for item in inner]
