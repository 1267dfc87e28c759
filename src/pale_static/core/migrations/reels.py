"""Migrations of edits, from each version to the next: 1 to 4."""

from __future__ import annotations

from copy import deepcopy
from fractions import Fraction
from itertools import pairwise
from typing import Any

from .plain import Plain


def reel_2(plain: Plain) -> Plain:
    """Times were frames of the edit; they are exact seconds now."""
    try:
        rate = Fraction(str(plain.get("rate", "25")))
    except (ValueError, ZeroDivisionError):
        return plain
    if rate <= 0:
        return plain

    def timed(one: Any, names: tuple[str, ...]) -> Any:
        if not isinstance(one, dict):
            return one
        times = {name: one[name] for name in names if isinstance(one.get(name), int)}
        return one | {name: str(Fraction(frames) / rate) for name, frames in times.items()}

    lists = {"shots": ("start", "length"), "joins": ("length",)}
    return plain | {
        name: [timed(one, times) for one in plain[name]]
        for name, times in lists.items()
        if isinstance(plain.get(name), list)
    }


def reel_3(plain: Plain) -> Plain:
    """A join lay after its left shot; now it names both."""
    shots, joins = plain.get("shots"), plain.get("joins")
    if not isinstance(shots, list) or not isinstance(joins, list):
        return plain
    names = [shot.get("id") if isinstance(shot, dict) else None for shot in shots]
    after = {str(left): right for left, right in pairwise(names)}
    return plain | {
        "joins": [
            join | {"right": after[str(join["left"])]}
            if isinstance(join, dict) and str(join.get("left")) in after
            else join
            for join in joins
        ]
    }


def reel_4(plain: Plain) -> Plain:
    """Joins and looks could share an identifier; now each has one of its own."""

    def listed(raw: Any, name: str) -> list[Plain]:
        found = raw.get(name) if isinstance(raw, dict) else None
        return [one for one in found if isinstance(one, dict)] if isinstance(found, list) else []

    plain = deepcopy(plain)
    placed = [
        *listed(plain, "shots"),
        *(i for row in listed(plain, "rows") for i in listed(row, "items")),
    ]
    taken = {str(one.get("id")) for one in placed}
    for use in (
        *listed(plain, "joins"),
        *(look for one in placed for look in listed(one, "looks")),
    ):
        if isinstance(use.get("id"), str):
            old, number = use["id"], 1
            while use["id"] in taken:
                number += 1
                use["id"] = f"{old}-{number}"
            taken.add(use["id"])
    return plain
