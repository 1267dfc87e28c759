"""The demo's transitions: ways from one clip to another."""

from __future__ import annotations

from ..core.built_in.making import (
    Document,
    begin,
    by,
    colour,
    effect,
    lane,
    number,
    reads,
    wipe,
)


def fog_bell(first: str | None = None, second: str | None = None) -> Document:
    """A watery noise wipe: the second clip settles as its edge passes."""
    settling = [{"time": 0, "value": 9, "ease": {"out": "quad"}}, {"time": 1, "value": 0}]
    return effect(
        "transition", "Fog Bell", "A watery edge spreads, and what it uncovers settles.",
        ["noise", "water", "soft"], 2.0, [first, second],
        [
            lane(
                "Fog",
                {
                    "kind": "noise",
                    "values": {
                        "cells": by("fineness"), "octaves": 3, "roughness": 0.4, "angle": 0,
                        "speed": by("flow"), "even_out": True, "seed": 7,
                    },
                },
                {"kind": "blur", "values": {"size": by("blur")}},
            ),
            lane(
                "Settling",
                begin("to"),
                {
                    "kind": "displace",
                    "values": {
                        "amount_x": {"keys": settling}, "amount_y": {"keys": settling},
                        "mode": "along the slope", "outside": "mirror",
                    },
                    "inputs": {"map": reads("fog")},
                },
            ),
            lane(
                "Out",
                begin("from"),
                wipe("fog", "settling", softness=0.12, rim_width=0.05,
                      rim_colour=by("rim-colour"), rim_softness=0.14),
            ),
        ],
        [
            number("fineness", "Fineness", 3, 12, "Higher gives a finer fog.", unit="cells", slider=[0.5, 12],
                    allowed=[0.01, 500]),
            number("flow", "Flow", 0.3, 2, "How fast the fog changes.", unit="/s",
                    allowed=[-100, 100]),
            number("blur", "Blur", 0.6, 4, "How soft the fog is.", unit="%h", allowed=[0, 100]),
            colour("rim-colour", "Rim colour", "#BFE3E6", "Colour of the border."),
        ],
        "The displacement ends at nothing, so the last frame is the second clip exactly.",
    )  # fmt: skip


def inked_ticket(first: str | None = None, second: str | None = None) -> Document:
    """A halftone wipe: dots of the second clip grow until they cover."""
    return effect(
        "transition", "Inked Ticket", "Dots of the second clip grow until they cover the first.",
        ["halftone", "dots", "print"], 1.2, [first, second],
        [
            lane("Direction", {"kind": "ramp", "values": {"start": [0, 0], "end": [1, 1]}}),
            lane(
                "Dots",
                {
                    "kind": "dots",
                    "values": {"size": by("dots"), "white_share": 0.78, "softness": 1, "angle": 45},
                },
                {"kind": "levels", "values": {"black_in": 1.0, "white_in": 0.29}},
                {
                    "kind": "blend",
                    "values": {"opacity": by("travel")},
                    "inputs": {"over": reads("direction")},
                },
            ),
            lane("Out", begin("from"), wipe("dots", softness=0.02)),
        ],
        [
            number("dots", "Dots", 6, 20, "Distance from one dot to the next.", unit="%h",
                    slider=[1, 20], allowed=[0.02, 1000]),
            number("travel", "Travel", 0.6, 1, "0 grows everywhere at once, 1 crosses the frame.",
                    slider=[0, 0.95], allowed=[0, 1]),
        ],
        "A dot's own slope decides when each of its pixels changes; the ramp delays whole dots.",
    )  # fmt: skip


def destination_board(first: str | None = None, second: str | None = None) -> Document:
    """A mosaic wipe: cells change over one by one."""
    return effect(
        "transition", "Destination Board", "Cells change over one by one, like a board of flaps.",
        ["mosaic", "cells", "board"], 1.0, [first, second],
        [
            lane("Direction", {"kind": "ramp", "values": {"start": [0, 0.5], "end": [1, 0.5]}}),
            lane(
                "Cells",
                {"kind": "noise",
                 "values": {"cells": 40, "octaves": 2, "even_out": True, "seed": by("order")}},
                {
                    "kind": "blend",
                    "values": {"opacity": by("travel")},
                    "inputs": {"over": reads("direction")},
                },
                {
                    "kind": "pixelate",
                    "values": {"cell": by("cell"), "square": True, "grid": "whole cells"},
                },
            ),
            lane("Out", begin("from"), wipe("cells", softness=by("softness"))),
        ],
        [
            number("cell", "Cell", 0.08, 0.4, "Size of a cell, as a share of the frame's height.",
                    slider=[0.01, 0.4], allowed=[0.0005, 1]),
            number("travel", "Travel", 0.55, 1, "0 is scattered, 1 goes strictly across.",
                    allowed=[0, 1]),
            number("softness", "Softness", 0.04, 0.4, "How gently a cell changes.",
                    allowed=[0, 4]),
            {"slug": "order", "label": "Order", "type": "seed", "default": 4, "slider": [1, 100],
             "help": "Another number gives another order."},
        ],
        "Pixelate gives every cell one grey: the moment at which it changes.",
    )  # fmt: skip


def ring_crossing(first: str | None = None, second: str | None = None) -> Document:
    """Rings of the second clip spread and cross each other until they fill the frame."""

    opening = [
        {"time": 0, "value": 1.03, "ease": {"into": "quad", "out": "sine"}},
        {"time": 0.6, "value": 0.72, "ease": {"into": "sine", "out": "cubic"}},
        {"time": 1, "value": 0},
    ]

    def ring(name: str, wider: float) -> Document:
        # A ring that is k times wider comes from the same field, cut at 1/k of the progress.
        opened = "rings.threshold.level"
        level = f"clamp(1.03 - {wider} * (1.03 - {opened}), 0, 1.03)"
        return lane(
            name,
            begin("field"),
            {"kind": "threshold", "values": {"level": {"formula": level}, "softness": 0.012}},
        )

    return effect(
        "transition", "Ring Crossing", "Rings of the second clip cross each other and close.",
        ["rings", "shapes", "wipe"], 1.6, [first, second],
        [
            lane("Crawl", {"kind": "noise", "values": {
                "cells": 5, "octaves": 2, "speed": 0.2, "seed": 5}}),
            lane(
                "Field",
                {"kind": "ramp", "values": {"shape": "radial", "start": [0.5, 0.5], "end": [0, 0]}},
                {"kind": "invert"},
                {
                    "kind": "displace",
                    "values": {"amount_x": by("wobble"), "amount_y": by("wobble", 0, 21)},
                    "inputs": {"map": reads("crawl")},
                },
            ),
            lane(
                "Rings",
                begin("field"),
                {
                    "kind": "threshold",
                    "values": {
                        "level": {"keys": opening},
                        "softness": 0.012,
                    },
                },
            ),
            ring("Wider", 1.5),
            ring("Widest", 2.5),
            lane(
                "Crossed",
                begin("rings"),
                {"kind": "matte-maths", "id": "once", "values": {"operation": "exclusive-or"},
                 "inputs": {"other": reads("wider")}},
                {"kind": "matte-maths", "id": "twice", "values": {"operation": "exclusive-or"},
                 "inputs": {"other": reads("widest")}},
            ),
            lane(
                "Shade",
                begin("crossed"),
                {"kind": "transform", "values": {"position": [0.508, 0.525]}},
                {"kind": "blur", "values": {"size": 1.4}},
            ),
            lane("Dark", {"kind": "flat", "values": {"colour": "#000000"}}),
            lane(
                "Out",
                begin("from"),
                {"kind": "blend", "id": "shadow", "values": {"opacity": by("shadow")},
                 "inputs": {"over": reads("dark"), "matte": reads("shade")}},
                {"kind": "blend", "id": "cut", "inputs": {"over": reads("to"), "matte": reads("crossed")}},
            ),
        ],
        [
            number("wobble", "Wobble", 4, 12, "How uneven the rings are.", unit="%w",
                   allowed=[0, 100]),
            number("shadow", "Shadow", 0.45, 1, "How dark a shadow the rings throw.",
                   allowed=[0, 1]),
        ],
        "Three discs, one 1.5 and one 2.5 times as wide, taken out of each other: where two lie "
        "over each other the first clip shows again, where all three do the second.",
    )  # fmt: skip
