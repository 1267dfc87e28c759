"""The migration of effects and parts from version 2 to 3: how a speed that moves counts."""

from __future__ import annotations

from typing import Any

from .plain import Plain

_SPEEDS = {
    "noise": ("speed",), "caustic": ("speed",), "beads": ("slow_speed", "fast_speed"),
    "dirt": ("drift",), "raster-lines": ("roll",),
}  # fmt: skip
"""Values that are amounts per second, by kind of step."""
_KEPT = {"moving_speed": "counts from the start"}
"""The rule of version 2: the speed of the moment, times the whole time so far."""


def effect_3(plain: Plain) -> Plain:
    """A speed that moves now adds up over time. Steps from version 2 keep counting as before."""
    moving = {
        f"{control['slug']}"
        for control in _objects(plain.get("controls"))
        if control.get("type") == "ease" and "slug" in control
    }
    return _kept(plain, moving)


def _kept(plain: Plain, moving: set[str]) -> Plain:
    """A document whose moving speeds keep counting as before."""
    lanes = plain.get("lanes")
    if not isinstance(lanes, list):
        return plain
    return plain | {
        "lanes": [
            lane | {"steps": [_step(one, moving) for one in lane["steps"]]}
            if isinstance(lane, dict) and isinstance(lane.get("steps"), list)
            else lane
            for lane in lanes
        ]
    }


def _step(step: Any, moving: set[str]) -> Any:
    if not isinstance(step, dict):
        return step
    values = step.get("values")
    values = values if isinstance(values, dict) else {}
    if any(_moves(values.get(name), moving) for name in _SPEEDS.get(str(step.get("kind")), ())):
        step = step | {"values": values | _KEPT}
    held = step.get("macro")
    if isinstance(held, dict) and isinstance(held.get("effect"), dict):
        # The controls of a macro are values of the step that runs it, and may move there.
        inner = {name.replace("_", "-") for name, value in values.items() if _moves(value, moving)}
        inner |= {name for name, value in values.items() if _moves(value, moving)}
        if inner:
            step = step | {"macro": held | {"effect": _kept(held["effect"], inner)}}
    if isinstance(step.get("steps"), list):
        step = step | {"steps": [_step(one, moving) for one in step["steps"]]}
    return step


def _moves(value: Any, moving: set[str]) -> bool:
    if not isinstance(value, dict):
        return False
    return "keys" in value or "formula" in value or value.get("control") in moving


def _objects(raw: Any) -> list[Plain]:
    return [one for one in raw if isinstance(one, dict)] if isinstance(raw, list) else []
