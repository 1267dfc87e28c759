"""Plain transitions that every edit knows without a shelf: what edit lists call by name."""

from __future__ import annotations

from typing import Any


def _slot(name: str) -> dict[str, Any]:
    return {"id": "clip", "kind": "slot", "values": {"slot": name}}


def _transition(
    name: str, sentence: str, step: dict[str, Any], controls: list[Any], *lanes: dict[str, Any]
) -> dict[str, Any]:
    return {
        "name": name,
        "sentence": sentence,
        "kind": "transition",
        "seconds": 1.0,
        "slots": [{"id": "from", "name": "From"}, {"id": "to", "name": "To"}],
        "controls": controls,
        "lanes": [
            {"id": "to", "name": "To", "steps": [_slot("to")]},
            *lanes,
            {"id": "out", "name": "Out", "steps": [_slot("from"), step]},
        ],
    }


_PROGRESS = {"formula": "progress"}
_MIX = {
    "id": "mix", "kind": "blend", "values": {"opacity": _PROGRESS},
    "inputs": {"over": {"lane": "to"}},
}  # fmt: skip
_RAMP = {
    "id": "ramp", "name": "Ramp",
    "steps": [{"id": "ramp", "kind": "ramp"}],
}  # fmt: skip
_EDGE = {
    "id": "edge", "kind": "luma-wipe",
    "values": {"progress": _PROGRESS, "softness": {"control": "softness"}},
    "inputs": {"incoming": {"lane": "to"}, "matte": {"lane": "ramp"}},
}  # fmt: skip
_SOFTNESS = {
    "slug": "softness", "label": "Softness", "type": "number", "default": 0.02,
    "slider": [0, 0.5], "allowed": [0, 1], "help": "More makes the edge wider and softer.",
}  # fmt: skip
DISSOLVE = _transition("Dissolve", "One clip fades into the other.", _MIX, [])
WIPE = _transition(
    "Wipe", "An edge crosses the frame from left to right.", _EDGE, [_SOFTNESS], _RAMP
)
