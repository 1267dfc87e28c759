"""The demo's titles and textures, which lie over clips."""

from __future__ import annotations

from ..core.built_in.making import (
    Document,
    begin,
    by,
    colour,
    lane,
    lettering,
    number,
    overlay,
    reads,
    text_controls,
    there_and_back,
)

CLEAR = {"kind": "flat", "values": {"colour": "#00000000"}}


def late_focus() -> Document:
    """Letters appear soft as a band passes, and sharpen a moment later."""
    across = {"kind": "ramp", "values": {"start": [1, 0.5], "end": [0, 0.5]}}
    return overlay(
        "title", "Late Focus", "Letters appear soft from the left, and sharpen a moment later.",
        ["title", "reveal", "soft"], 3.2,
        [
            lane("Text", lettering()),
            lane("Uncovered", across, {"kind": "threshold", "values": {
                "level": there_and_back(1.25, -0.25, "sine", "quad"), "softness": 0.3}}),
            lane("Settled", across, {"kind": "threshold", "values": {
                "level": there_and_back(1.75, -0.35, "sine", "quad"), "softness": 0.4}}),
            lane(
                "Out",
                begin("text"),
                {"kind": "mapped-blur", "values": {"size": by("softness"), "outside": "clear"},
                 "inputs": {"map": reads("settled", invert=True)}},
                {"kind": "matte-to-alpha", "inputs": {"matte": reads("uncovered")}},
            ),
        ],
        [
            *text_controls("Open day", 13, "#F4EFDF", [0.5, 0.5]),
            number("softness", "Softness", 2.6, 8, "How soft the letters begin.", unit="%h",
                   allowed=[0, 50]),
        ],
        "It leaves as it came. In and out keep their time at any length.",
    )  # fmt: skip


def letter_lamps() -> Document:
    """Letter after letter lights up with a warm rim, and goes out again."""
    return overlay(
        "title", "Letter Lamps", "Letter after letter lights up, like lamps along a line.",
        ["title", "letters", "warm"], 3.0,
        [
            lane("Nothing", CLEAR),
            lane("Lit", {"kind": "flat", "values": {"colour": by("colour")}}),
            lane("Letters", lettering()),
            lane("Order", lettering(output="order ramp", order_by="letter")),
            lane(
                "Out",
                begin("nothing"),
                {
                    "kind": "luma-wipe",
                    "values": {
                        "progress": there_and_back(0, 1, "sine", "sine"), "softness": 0.22,
                        "rim_width": 0.3, "rim_softness": 0.5, "rim_colour": by("glow"),
                    },
                    "inputs": {"incoming": reads("lit"), "matte": reads("order")},
                },
                {"kind": "matte-to-alpha",
                 "inputs": {"matte": reads("letters", channel="alpha")}},
            ),
        ],
        [
            *text_controls("Lantern Line", 9, "#FFF4DC", [0.5, 0.78]),
            colour("glow", "Glow", "#FF9B3D", "Colour in which a letter lights up."),
        ],
        "The order ramp gives every letter a moment of its own.",
    )  # fmt: skip


def lamp_dust() -> Document:
    """Bright specks that drift on clear ground."""
    return overlay(
        "texture", "Lamp Dust", "Bright specks that drift in the light of a lamp.",
        ["dust", "specks", "overlay"], 4.0,
        [
            lane(
                "Specks",
                {"kind": "noise", "values": {
                    "cells": by("fineness"), "octaves": 2, "hardness": 16, "white_share": 0.035,
                    "even_out": True, "speed": by("drift"), "seed": by("seed")}},
                {"kind": "blur", "values": {"size": 0.25}},
            ),
            lane("Where", {"kind": "noise", "values": {
                "cells": 2.5, "hardness": 1.6, "speed": 0.12, "seed": 5}}),
            lane(
                "Out",
                {"kind": "flat", "values": {"colour": by("colour")}},
                {"kind": "matte-to-alpha", "inputs": {"matte": reads("specks")}},
                {"id": "gathered", "kind": "matte-to-alpha", "inputs": {"matte": reads("where")}},
            ),
        ],
        [
            number("fineness", "Fineness", 34, 80, "Higher gives more and finer specks.",
                   unit="cells", slider=[5, 80], allowed=[0.5, 400]),
            number("drift", "Drift", 0.5, 3, "How fast the specks change.", unit="/s",
                   allowed=[-100, 100]),
            colour("colour", "Colour", "#FFD9A0", "Colour of the specks."),
            {"slug": "seed", "label": "Dust", "type": "seed", "default": 8, "slider": [1, 100],
             "help": "Another number gives other specks."},
        ],
        "It is clear between the specks, so it goes over anything.",
    )  # fmt: skip
