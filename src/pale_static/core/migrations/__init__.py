"""Documents of earlier versions, brought to the present one by pure functions.

Every stored document names its format, ``pale-static/NAME@VERSION``. :func:`upgraded` takes plain
JSON of any version to the newest. It leaves malformed parts alone, so that the models refuse them
and name the place.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any

from ..faults import Fault
from .effect_2 import effect_2
from .effect_3 import effect_3
from .macro_2 import macro_2
from .plain import Plain
from .reels import reel_2, reel_3, reel_4

_FORMAT = re.compile(r"pale-static/([a-z]+)@(\d{1,9})")


def upgraded(name: str, raw: Any) -> Any:
    """A document in the newest version of its format.

    Parameters
    ----------
    name : {"effect", "macro", "part", "parts", "reel"}
        The format that is expected.
    raw : plain JSON
        A document without a format counts as one of the newest version.

    Raises
    ------
    Fault
        If a newer program wrote it.
    """
    if not isinstance(raw, Mapping):
        return raw
    plain = dict(raw)
    written = _FORMAT.fullmatch(str(plain.get("format", "")))
    steps = _STEPS[name]
    if written and written[1] == name:
        version = int(written[2])
        if version > len(steps) + 1:
            raise Fault(
                f"A newer version of Pale Static wrote this {name} (format {version}; this "
                f"version reads up to {len(steps) + 1}). Update Pale Static to open it.",
                "format",
            )
        for step in steps[max(version, 1) - 1 :]:
            plain = step(plain)
        plain["format"] = f"pale-static/{name}@{len(steps) + 1}"
    within = _WITHIN.get(name)
    return within(plain) if within else plain


def _macro_within(plain: Plain) -> Plain:
    return plain | {"effect": upgraded("effect", plain.get("effect"))}


def _held_within(plain: Plain) -> Plain:
    """Macros that steps run are documents of their own."""
    lanes = plain.get("lanes")
    if not isinstance(lanes, list) or not all(isinstance(lane, dict) for lane in lanes):
        return plain

    def step(one: Any) -> Any:
        if not isinstance(one, dict):
            return one
        held = one.get("macro")
        if isinstance(held, dict) and isinstance(held.get("effect"), dict):
            one = one | {"macro": held | {"effect": upgraded("effect", held["effect"])}}
        if isinstance(one.get("steps"), list) and one["steps"]:
            one = one | {"steps": [step(inner) for inner in one["steps"]]}
        return one

    if not any(_holds_macro(lane.get("steps")) for lane in lanes):
        return plain
    return plain | {
        "lanes": [
            lane | {"steps": [step(one) for one in lane["steps"]]}
            if isinstance(lane.get("steps"), list)
            else lane
            for lane in lanes
        ]
    }


def _holds_macro(steps: Any) -> bool:
    return isinstance(steps, list) and any(
        isinstance(one, dict) and (one.get("macro") is not None or _holds_macro(one.get("steps")))
        for one in steps
    )


def _parts_within(plain: Plain) -> Plain:
    parts = plain.get("parts")
    if not isinstance(parts, list):
        return plain
    return plain | {"parts": [upgraded("part", part) for part in parts]}


_STEPS: Mapping[str, tuple[Callable[[Plain], Plain], ...]] = {
    "effect": (effect_2, effect_3),
    "part": (effect_2, effect_3),
    "reel": (reel_2, reel_3, reel_4),
    "macro": (macro_2,),
    "parts": (),
}
_WITHIN: Mapping[str, Callable[[Plain], Plain]] = {
    "macro": _macro_within, "parts": _parts_within, "effect": _held_within, "part": _held_within,
}  # fmt: skip

VERSIONS = {name: len(steps) + 1 for name, steps in _STEPS.items()}
"""The newest version of each format."""
