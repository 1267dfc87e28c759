"""Small effect documents that tests build on."""

from __future__ import annotations

from math import isfinite
from random import Random
from typing import Any

from pale_static.core import Effect, FrameRate, Moment, Size, read_effect
from pale_static.core.steps import StepKind, step_kind, step_kinds
from pale_static.core.values.params import (
    Choice,
    ColourParam,
    Number,
    Param,
    Point,
    Stops,
    Toggle,
)

RATE = FrameRate.of(25)
SIZE = Size(96, 54)


def at(frame: int = 0, length: int = 50) -> Moment:
    return Moment(frame, length, RATE)


def chain(*steps: dict[str, Any], **more: Any) -> Effect:
    """A texture of one lane."""
    numbered = [{"id": f"s{k}"} | step for k, step in enumerate(steps)]
    lane = {"id": "out", "name": "Out", "steps": numbered}
    return read_effect({"name": "Chain", "kind": "texture", "lanes": [lane]} | more)


def forward(first: float = 0, last: float = 1, **more: Any) -> dict[str, Any]:
    return {"keys": [{"time": 0, "value": first} | more, {"time": 1, "value": last}]}


def wipe(step: dict[str, Any] | None = None, matte: list[dict[str, Any]] | None = None) -> Effect:
    """A transition: noise, or another matte, and one combining step."""
    tail = {
        "kind": "luma-wipe",
        "values": {"progress": forward()},
        "inputs": {"incoming": {"lane": "to"}, "matte": {"lane": "matte"}},
    }
    steps = matte or [{"kind": "noise", "values": {"even_out": True, "cells": 6}}]
    return read_effect(
        {
            "name": "Wipe",
            "kind": "transition",
            "slots": [{"id": "from", "name": "From"}, {"id": "to", "name": "To"}],
            "lanes": [
                {"id": "from", "name": "From", "steps": [slot("from")]},
                {"id": "to", "name": "To", "steps": [slot("to")]},
                {
                    "id": "matte",
                    "name": "Matte",
                    "steps": [{"id": f"m{k}"} | s for k, s in enumerate(steps)],
                },
                {
                    "id": "out",
                    "name": "Out",
                    "steps": [
                        {"id": "a", "kind": "continue-from", "inputs": {"from": {"lane": "from"}}},
                        {"id": "wipe"} | (step or tail),
                    ],
                },
            ],
        }
    )


def slot(name: str) -> dict[str, Any]:
    return {"id": "slot", "kind": "slot", "values": {"slot": name}}


def some_value(chance: Random, param: Param, extreme: bool = False) -> Any:
    """A plausible value; with ``extreme`` also the ends of the allowed range."""
    if isinstance(param, Number):
        low, high = param.slider
        if extreme and chance.random() < 0.5:
            ends = [end for end in (*param.allowed, *param.slider) if isfinite(end)]
            return chance.choice(ends)
        value = chance.uniform(low, high)
        return round(value) if param.whole else round(value, 4)
    if isinstance(param, Toggle):
        return chance.random() < 0.5
    if isinstance(param, Choice):
        return chance.choice(param.options)
    if isinstance(param, ColourParam):
        return f"#{chance.randrange(1 << 24):06X}" + chance.choice(["", "80", "00"])
    if isinstance(param, Point):
        return [round(chance.uniform(-0.2, 1.2), 3), round(chance.uniform(-0.2, 1.2), 3)]
    if isinstance(param, Stops):
        return [[round(chance.random(), 2), f"#{chance.randrange(1 << 24):06X}"] for _ in range(3)]
    return param.default


KINDS = [kind for kind in step_kinds() if kind.kind not in ("slot", "still", "continue-from")]


def some_step(chance: Random, kind: StepKind, name: str, lanes: list[str], extreme: bool) -> Any:
    values = {}
    for param in kind.params:
        if chance.random() < 0.5:
            continue
        values[param.name] = some_value(chance, param, extreme)
        if param.moves and isinstance(param, Number) and chance.random() < 0.3:
            other = some_value(chance, param, extreme)
            values[param.name] = forward(values[param.name], other)
    inputs = {
        source.name: {
            "lane": chance.choice(lanes),
            "channel": chance.choice(["luminance", "alpha", "red"]),
            "invert": chance.random() < 0.3,
            "offset": chance.choice([0, 0, 0, -2, 3]),
        }
        for source in kind.inputs
    }
    mix = 1.0 if kind.main is None else chance.choice([1.0, 1.0, 0.4])
    return {"id": name, "kind": kind.kind, "values": values, "inputs": inputs, "mix": mix}


def some_effect(seed: int, extreme: bool = False, kinds: list[StepKind] | None = None) -> Effect:
    """A random valid effect: lanes with any source that read any earlier lane."""
    chance = Random(seed)
    chosen = kinds or KINDS
    sources = [kind for kind in chosen if kind.main is None] or [step_kind("noise")]
    filters = [kind for kind in chosen if kind.main is not None]
    lanes: list[dict[str, Any]] = [
        {"id": "clip", "name": "Clip", "steps": [slot("clip")]},
    ]
    for number in range(chance.randint(1, 3)):
        there = [lane["id"] for lane in lanes]
        steps = [some_step(chance, chance.choice(sources), "s", there, extreme)]
        if chance.random() < 0.4:
            steps = [{"id": "s", "kind": "continue-from", "inputs": {"from": {"lane": "clip"}}}]
        for k in range(chance.randint(1, 4) if filters else 0):
            steps.append(some_step(chance, chance.choice(filters), f"f{k}", there, extreme))
        lanes.append({"id": f"l{number}", "name": f"Lane {number}", "steps": steps})
    return read_effect(
        {
            "name": f"Random {seed}",
            "kind": "look",
            "backwards": chance.random() < 0.2,
            "slots": [{"id": "clip", "name": "Clip"}],
            "lanes": lanes,
        }
    )
