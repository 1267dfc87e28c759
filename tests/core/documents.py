"""Small effect documents that tests build on."""

from __future__ import annotations

from typing import Any

from pale_static.core import Effect, FrameRate, Moment, Size, read_effect

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
        "taps": {"incoming": {"lane": "to"}, "matte": {"lane": "matte"}},
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
                        {"id": "a", "kind": "continue-from", "taps": {"from": {"lane": "from"}}},
                        {"id": "wipe"} | (step or tail),
                    ],
                },
            ],
        }
    )


def slot(name: str) -> dict[str, Any]:
    return {"id": "slot", "kind": "slot", "values": {"slot": name}}
