"""The demo's looks, which work on one clip."""

from __future__ import annotations

from ..core.built_in.making import (
    Document,
    begin,
    by,
    colour,
    effect,
    lane,
    moving,
    number,
    reads,
)


def relay_fault(clip: str | None = None) -> Document:
    """A glitch hit: blocks push the picture aside for a few frames, several times."""
    # Distance in frames from the middle of the nearest hit: three frames up, three back.
    place = "clamp((progress - 0.5) / control.spread + 0.5, 0, 0.9999) * control.hits"
    far = f"abs(fmod({place}, 1) - 0.5) * control.spread * (length - 1) / control.hits"
    hit = f"clamp(1 - {far} / 3)"
    return effect(
        "look", "Relay Fault", "A signal that breaks into blocks for a few frames, several times.",
        ["glitch", "digital", "hit"], 1.2, [clip],
        [
            lane("Faults", {"kind": "blocks", "values": {"hold": 1, "density": 0.5}}),
            lane(
                "Out",
                begin("clip"),
                {
                    "kind": "displace",
                    "values": {
                        "amount_x": {"formula": f"{hit} * control.strength"},
                        "amount_y": {"formula": f"{hit} * control.strength * 0.35"},
                        "outside": "mirror",
                    },
                    "inputs": {"map": reads("faults")},
                },
                {
                    "kind": "colour-split",
                    "values": {
                        "amount": {"formula": f"{hit} * control.strength * 0.003"},
                        "direction": "along an angle",
                    },
                },
            ),
        ],
        [
            {"slug": "hits", "label": "Hits", "type": "whole", "default": 3, "slider": [1, 8],
             "allowed": [1, 60], "help": "How many times the picture breaks up."},
            number("spread", "Spread", 0.8, 1, "Share of the length that the hits are spread over.",
                    allowed=[0.05, 1]),
            number("strength", "Strength", 14, 40,
                    "How far the blocks push. Above 30 their outlines show.", unit="%w",
                    allowed=[0, 200]),
        ],
        "Each hit rises over three frames and falls over three, at any length.",
    )  # fmt: skip


def bulge_split(clip: str | None = None) -> Document:
    """A bent lens whose colours come apart towards the corners."""
    return effect(
        "look", "Bulge Split", "A poor lens: it bulges, and colours split towards the corners.",
        ["lens", "colour split", "subtle"], 2.0, [clip],
        [
            lane(
                "Out",
                begin("clip"),
                {"kind": "lens-bend", "values": {"bend": by("bend")}},
                {"kind": "colour-split", "values": {"amount": by("split")}},
            )
        ],
        [
            number("bend", "Bend", 0.15, 1, "Above 0 bulges out, below 0 draws in.",
                    slider=[-0.3, 1], allowed=[-5, 5]),
            number("split", "Split", 0.03, 0.2, "How far colours split: 0.03 is subtle, above "
                                                "0.05 strong.",
                    allowed=[0, 1]),
        ],
        "The lens fills the frame again by itself, so no clear corner shows.",
    )  # fmt: skip


def worn_tape(clip: str | None = None) -> Document:
    """The tape variant: colours split along the lines, bleeding, and torn at the bottom."""
    return effect(
        "look", "Worn Tape", "A tape that was played too often.",
        ["tape", "analogue", "retro"], 2.0, [clip],
        [
            lane(
                "Out",
                begin("clip"),
                {
                    "kind": "colour-split",
                    "values": {"amount": by("split"), "direction": "along an angle"},
                },
                {
                    "kind": "tape-wear",
                    "values": {
                        "bleed": by("wear", 0.3, 3), "dropouts": by("wear", 0, 14),
                        "tear": by("wear", 2, 16), "jitter": by("wear", 0.02, 0.3),
                    },
                },
                {"kind": "raster-lines", "values": {"lines": 240, "depth": by("line-depth")}},
                {"kind": "saturation", "values": {"amount": by("wear", 1.1, 0.75)}},
            )
        ],
        [
            number("wear", "Wear", 0.5, 1, "How worn the tape is: bleed, dropouts, tear and "
                                           "fading together."),
            number("split", "Split", 0.012, 0.1, "How far red, green and blue shift apart sideways.",
                    allowed=[0, 1]),
            number("line-depth", "Line depth", 0.25, 1, "How dark it is between the scan lines.",
                    allowed=[0, 1]),
        ],
        "One control drives bleed, dropouts, tear, jitter and fading, each through its own range.",
    )  # fmt: skip


def eight_lamp(clip: str | None = None) -> Document:
    """Large blocks and few tones, over a wash of the clip's own colours."""
    return effect(
        "look", "Eight Lamp", "Large blocks and a handful of colours.",
        ["eight bit", "pixels", "game"], 2.0, [clip],
        [
            lane("Wash", begin("clip"), {"kind": "blur", "values": {"size": 12}},
                  {"kind": "saturation", "values": {"amount": 1.4}}),
            lane(
                "Out",
                begin("clip"),
                {
                    "kind": "pixelate",
                    "values": {
                        "cell": by("cell"), "square": True, "sampling": "average",
                    },
                },
                {"kind": "posterise", "values": {"tone_gap": by("tone-gap")}},
                {
                    "kind": "blend",
                    "values": {
                        "mode": "soft light",
                        "opacity": {"control": "wash", "table": {"true": 0.8, "false": 0}},
                    },
                    "inputs": {"over": reads("wash")},
                },
            ),
        ],
        [
            number("cell", "Cell", 0.02, 0.2, "Size of the blocks, as a share of the frame's "
                                              "height.",
                    slider=[0.005, 0.2], allowed=[0.0005, 1]),
            number("tone-gap", "Tone gap", 0.1, 0.5, "Distance between neighbouring tones.",
                    slider=[0.02, 0.5], allowed=[0.001, 10]),
            {"slug": "wash", "label": "Colour wash", "type": "toggle", "default": False,
             "help": "Adds the clip's own colours, heavily blurred."},
        ],
        "Cell and tone gap at 0.1 give the coarsest look.",
    )  # fmt: skip


def rain_streaks(clip: str | None = None) -> Document:
    """Water paint: the picture runs along slanting streaks."""
    return effect(
        "look", "Rain Streaks", "The picture runs like water paint along slanting streaks.",
        ["painterly", "rain", "water"], 2.0, [clip],
        [
            lane(
                "Streaks",
                {
                    "kind": "noise",
                    "values": {
                        "cells": 9, "stretch_x": 0.5, "stretch_y": 30, "octaves": 4,
                        "hardness": 5, "speed": by("flow"),
                    },
                },
                {"kind": "streak-blur", "values": {"length": 3, "angle": 90}},
                {
                    "kind": "transform",
                    "values": {"turn": by("slant"), "cover": True, "outside": "mirror"},
                },
            ),
            lane(
                "Out",
                begin("clip"),
                {
                    "kind": "guided-blur",
                    "values": {"size": by("strength"), "edge_sensitivity": 0.9},
                    "inputs": {"guide": reads("streaks")},
                },
            ),
        ],
        [
            number("strength", "Strength", 2.2, 8, "How far the paint runs.", unit="%h",
                    allowed=[0, 50]),
            {"slug": "slant", "label": "Slant", "type": "angle", "default": -20,
             "slider": [-60, 60], "help": "Angle of the streaks; they always cover the frame."},
            number("flow", "Flow", 0.15, 1, "How fast the streaks change.", unit="/s",
                    allowed=[-100, 100]),
        ],
        "The streaks are turned and enlarged until they show no clear corner.",
    )  # fmt: skip


def overprint(clip: str | None = None) -> Document:
    """Two inks on cream paper, out of register."""
    return effect(
        "look", "Overprint", "Printed in two inks that do not quite meet.",
        ["print", "halftone", "two inks"], 2.0, [clip],
        [
            lane(
                "Out",
                begin("clip"),
                {"kind": "levels", "values": {"black_in": 0.02, "white_in": 0.72}},
                {
                    "kind": "halftone",
                    "values": {
                        "inks": "two inks", "cell": by("dots"), "ink": by("dark-ink"),
                        "second_ink": by("bright-ink"), "paper": by("paper"), "angle": 20,
                    },
                },
                {
                    "kind": "misregister",
                    "values": {"cyan": [0.25, 0.1], "magenta": [-0.2, 0.15], "yellow": [0, -0.2]},
                    "mix": by("misregistration"),
                },
            )
        ],
        [
            number("dots", "Dots", 1.2, 5, "Distance from one dot to the next.", unit="%h",
                    slider=[0.4, 5], allowed=[0.05, 100]),
            colour("dark-ink", "Dark ink", "#1F3B57", "Prints the shadows."),
            colour("bright-ink", "Bright ink", "#D9532C", "Prints everything else."),
            colour("paper", "Paper", "#F4EFDF", "What shows between the dots."),
            number("misregistration", "Misregistration", 0.7, 1, "How far apart the two inks are "
                                                                 "printed.", allowed=[0, 1]),
        ],
        "Levels before the dots opens the shadows: ink closes them again.",
    )  # fmt: skip


def soot_lift(clip: str | None = None) -> Document:
    """Smoke eats the picture and carries it upward; played backwards it brings the picture in."""
    document = effect(
        "look", "Soot Lift", "Smoke dissolves the picture and carries it off, or brings it.",
        ["smoke", "dissolve", "title", "reveal"], 2.4, [clip],
        [
            lane(
                "Smoke",
                {
                    "kind": "noise",
                    "values": {
                        "cells": by("fineness"), "stretch_x": 2.4, "octaves": 2, "hardness": 5,
                        "speed": 0.3, "seed": by("seed"),
                    },
                },
                {"kind": "threshold", "values": {"level": moving(-0.2, 1.2), "softness": 0.35}},
                {"kind": "grow", "values": {"amount": moving(5, -5)}},
                {"kind": "feather", "values": {"size": by("softness")}},
            ),
            lane("Draught", {"kind": "noise", "values": {
                "cells": 6, "stretch_x": 1.5, "octaves": 3, "speed": 0.5, "seed": 11}}),
            lane(
                "Out",
                begin("clip"),
                {"kind": "matte-to-alpha", "inputs": {"matte": reads("smoke")}},
                {
                    "id": "carried",
                    "kind": "displace",
                    "values": {
                        "amount_x": {"formula": "control.drift * progress"},
                        "amount_y": {"formula": "control.drift * 3 * progress"},
                        # Below the middle, so that everything moves up.
                        "zero_level": 0.3, "outside": "clear",
                    },
                    "mix": 0.85,
                    "inputs": {"map": reads("draught")},
                },
                {
                    "id": "straightened",
                    "kind": "displace",
                    "values": {
                        "amount_x": {"formula": "-control.drift * 0.6 * progress"},
                        "amount_y": {"formula": "control.drift * progress"},
                        "outside": "clear",
                    },
                    "inputs": {"map": reads("smoke", step="noise")},
                },
            ),
        ],
        [
            number("fineness", "Fineness", 9, 30, "Higher gives finer smoke.", unit="cells", slider=[2, 30],
                   allowed=[0.01, 500]),
            number("drift", "Drift", 6, 20, "How far the smoke carries the picture.", unit="%w",
                   allowed=[0, 100]),
            number("softness", "Softness", 1.4, 4, "How soft the borders of the smoke are.", unit="%h",
                   allowed=[0, 100]),
            {"slug": "seed", "label": "Smoke", "type": "seed", "default": 3, "slider": [1, 100],
             "help": "Another number gives other smoke."},
            {"slug": "reveal", "label": "Reveal", "type": "toggle", "default": False,
             "help": "Plays it backwards: smoke brings the picture."},
        ],
        "The matte is grown until it is all white at the start and shrunk until nothing is left, "
        "so any clip or title goes wholly, at any length.",
    )  # fmt: skip
    return document | {"backwards": {"control": "reveal"}}
