"""The demo's first two macros, as documents."""

from __future__ import annotations

from typing import Any

from ..core.built_in.making import clip_lane, reads, slots

_WAYS = ("left to right", "right to left", "downward", "upward")
_STARTS = ([0, 0.5], [1, 0.5], [0.5, 0], [0.5, 1])


def ember_fray(first: str | None = None, second: str | None = None) -> dict[str, Any]:
    """A noise wipe with a warm rim that travels across the frame."""
    ends = (_STARTS[1], _STARTS[0], _STARTS[3], _STARTS[2])
    return {
        "format": "pale-static/effect@3",
        "name": "Ember Fray",
        "kind": "transition",
        "sentence": "Noise burns across the first clip with a warm rim.",
        "tags": ["noise", "burn", "organic"],
        "seconds": 2.0,
        "slots": slots(first, second),
        "lanes": [
            clip_lane("from", "From"),
            clip_lane("to", "To"),
            {
                "id": "direction",
                "name": "Direction",
                "steps": [
                    {
                        "id": "ramp",
                        "kind": "ramp",
                        "values": {
                            "start": {
                                "control": "travels",
                                "table": dict(zip(_WAYS, _STARTS, strict=True)),
                            },
                            "end": {
                                "control": "travels",
                                "table": dict(zip(_WAYS, ends, strict=True)),
                            },
                        },
                    }
                ],
            },
            {
                "id": "fray",
                "name": "Fray",
                "steps": [
                    {
                        "id": "noise",
                        "kind": "noise",
                        "values": {
                            "cells": {"control": "grain"},
                            "octaves": 6,
                            "roughness": 0.52,
                            "speed": 0.18,
                            "even_out": True,
                            "seed": 12,
                        },
                    },
                    {
                        "id": "blend",
                        "kind": "blend",
                        "values": {"opacity": 0.45},
                        "inputs": {"over": reads("direction")},
                    },
                    {
                        "id": "levels",
                        "kind": "levels",
                        "values": {
                            "black_in": {"formula": "0.05 + 0.06 * smoothstep(0, 1, progress)"},
                            "white_in": 0.92,
                        },
                    },
                ],
            },
            {
                "id": "out",
                "name": "Out",
                "steps": [
                    {
                        "id": "continue-from",
                        "kind": "continue-from",
                        "inputs": {"from": reads("from")},
                    },
                    {
                        "id": "luma-wipe",
                        "kind": "luma-wipe",
                        "values": {
                            "progress": {
                                "keys": [
                                    {
                                        "time": 0,
                                        "value": 0,
                                        "ease": {"into": "sine", "out": "sine"},
                                    },
                                    {"time": 1, "value": 1},
                                ]
                            },
                            "softness": {"control": "softness"},
                            "rim_width": {
                                "keys": [
                                    {"anchor": "start", "time": 0, "value": 0},
                                    {
                                        "anchor": "start",
                                        "time": 0.36,
                                        "value": 0.05,
                                        "ease": {"into": "sine", "out": "quad"},
                                    },
                                    {
                                        "anchor": "end",
                                        "time": 0.48,
                                        "value": 0.03,
                                        "ease": {"into": "quad", "out": None},
                                    },
                                    {"anchor": "end", "time": 0, "value": 0},
                                ]
                            },
                            "rim_colour": {"control": "rim-colour"},
                            "rim_softness": 0.055,
                        },
                        "inputs": {"incoming": reads("to"), "matte": reads("fray")},
                    },
                ],
            },
        ],
        "controls": [
            {
                "slug": "softness",
                "label": "Softness",
                "type": "number",
                "default": 0.03,
                "slider": [0, 0.3],
                "allowed": [0, 4],
                "help": "How gently one clip gives way to the other.",
            },
            {
                "slug": "grain",
                "label": "Grain of the noise",
                "type": "number",
                "default": 5,
                "slider": [1, 20],
                "allowed": [0.01, 500],
                "unit": "cells",
                "help": "More is finer.",
            },
            {
                "slug": "rim-colour",
                "label": "Rim colour",
                "type": "colour",
                "default": "#FF8F33",
                "help": "The colour of the burning edge.",
            },
            {
                "slug": "travels",
                "label": "Travels",
                "type": "choice",
                "default": "left to right",
                "options": list(_WAYS),
                "help": "Which way it eats across the frame.",
            },
        ],
        "notes": [
            {"text": "The blend with Direction decides how strictly it travels.", "lane": "fray"}
        ],
    }


def quiet_luma(first: str | None = None, second: str | None = None) -> dict[str, Any]:
    """The everyday luma wipe: the clip's own brightness decides."""
    return {
        "format": "pale-static/effect@3",
        "name": "Quiet Luma",
        "kind": "transition",
        "sentence": "The clip's own brightness decides what changes first.",
        "tags": ["luma", "everyday", "soft"],
        "seconds": 1.0,
        "slots": slots(first, second),
        "lanes": [
            clip_lane("from", "From"),
            clip_lane("to", "To"),
            {
                "id": "brightness",
                "name": "Brightness",
                "steps": [
                    {
                        "id": "continue-from",
                        "kind": "continue-from",
                        "inputs": {"from": reads("from")},
                    },
                    {
                        "id": "choose",
                        "kind": "choose",
                        "values": {"choice": {"control": "second-clip", "range": [1, 2]}},
                        "inputs": {"second": reads("to")},
                    },
                    {"id": "channel", "kind": "channel"},
                    {"id": "blur", "kind": "blur", "values": {"size": 0.35}},
                    {"id": "levels", "kind": "levels", "values": {"gamma": 1.5}},
                ],
            },
            {
                "id": "out",
                "name": "Out",
                "steps": [
                    {
                        "id": "continue-from",
                        "kind": "continue-from",
                        "inputs": {"from": reads("from")},
                    },
                    {
                        "id": "luma-wipe",
                        "kind": "luma-wipe",
                        "values": {
                            "progress": {"control": "curve", "range": [0, 1]},
                            "softness": {"control": "softness"},
                            "invert": {"control": "bright-first"},
                        },
                        "inputs": {"incoming": reads("to"), "matte": reads("brightness")},
                    },
                ],
            },
        ],
        "controls": [
            {
                "slug": "bright-first",
                "label": "Bright parts first",
                "type": "toggle",
                "default": False,
                "help": "Off: dark parts change first, bright parts last.",
            },
            {
                "slug": "second-clip",
                "label": "By the second clip",
                "type": "toggle",
                "default": False,
                "help": "Whose brightness decides: the second clip's instead of the first's.",
            },
            {
                "slug": "curve",
                "label": "Curve",
                "type": "ease",
                "default": {"into": "expo", "out": "expo"},
                "help": "How it speeds up and slows down.",
            },
            {
                "slug": "softness",
                "label": "Softness",
                "type": "number",
                "default": 0.2,
                "slider": [0, 0.6],
                "allowed": [0, 4],
                "help": "How gently each part changes over.",
            },
        ],
        "notes": [
            {
                "text": "Channel makes a matte first: what follows works on one channel, not four.",
                "lane": "brightness",
            }
        ],
    }
