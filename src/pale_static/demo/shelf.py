"""More of the demo's macros: glitch, print, water and screens."""

from __future__ import annotations

from typing import Any

from .content import FORWARD, _clip, _slots, _tap

Document = dict[str, Any]


def _lane(name: str, *steps: Document) -> Document:
    made = [{"id": step["kind"], **step} for step in steps]
    return {"id": name.lower().replace(" ", "-"), "name": name, "steps": made}


def _number(slug: str, label: str, default: float, high: float, help: str, **more: Any) -> Document:
    return {
        "slug": slug, "label": label, "type": "number", "default": default, "slider": [0, high],
        "help": help, **more,
    }  # fmt: skip


def _colour(slug: str, label: str, default: str, help: str) -> Document:
    return {"slug": slug, "label": label, "type": "colour", "default": default, "help": help}


def _by(control: str, low: float | None = None, high: float | None = None) -> Document:
    return {"control": control} if low is None else {"control": control, "range": [low, high]}


def _effect(
    kind: str, name: str, sentence: str, tags: list[str], seconds: float, clips: list[str | None],
    lanes: list[Document], controls: list[Document], note: str,
) -> Document:  # fmt: skip
    first, second = (*clips, None, None)[:2]
    if kind == "transition":
        slots, sources = _slots(first, second), [_clip("from", "From"), _clip("to", "To")]
    else:
        slots = [{"id": "clip", "name": "Clip", "help": "The clip it works on.", "stand_in": first}]
        sources = [_clip("clip", "Clip")]
    return {
        "format": "pale-static/effect@1", "name": name, "kind": kind, "sentence": sentence,
        "tags": tags, "seconds": seconds, "slots": slots, "lanes": [*sources, *lanes],
        "controls": controls, "notes": [{"text": note}],
    }  # fmt: skip


def _from(lane: str) -> Document:
    return {"kind": "continue-from", "taps": {"from": _tap(lane)}}


def _wipe(matte: str, incoming: str = "to", **values: Any) -> Document:
    taps = {"incoming": _tap(incoming), "matte": _tap(matte)}
    moving = {"progress": {"keys": FORWARD}}
    return {"kind": "luma-wipe", "values": moving | values, "taps": taps}


def relay_fault(clip: str | None = None) -> Document:
    """A glitch hit: blocks push the picture aside for a few frames, several times."""
    # Frames from the middle of the nearest hit; three of them up, three back.
    place = "clamp((progress - 0.5) / control.spread + 0.5, 0, 0.9999) * control.hits"
    far = f"abs(fmod({place}, 1) - 0.5) * control.spread * (length - 1) / control.hits"
    hit = f"clamp(1 - {far} / 3)"
    return _effect(
        "look", "Relay Fault", "A signal that breaks into blocks for a few frames, several times.",
        ["glitch", "digital", "hit"], 1.2, [clip],
        [
            _lane("Faults", {"kind": "blocks", "values": {"hold": 1, "cover": 0.5}}),
            _lane(
                "Out",
                _from("clip"),
                {
                    "kind": "displace",
                    "values": {
                        "amount_x": {"formula": f"{hit} * control.strength"},
                        "amount_y": {"formula": f"{hit} * control.strength * 0.35"},
                        "edges": "mirror",
                    },
                    "taps": {"map": _tap("faults")},
                },
                {
                    "kind": "colour-split",
                    "values": {
                        "amount": {"formula": f"{hit} * control.strength * 0.003"},
                        "way": "along an angle",
                    },
                },
            ),
        ],
        [
            {"slug": "hits", "label": "Hits", "type": "whole", "default": 3, "slider": [1, 8],
             "allowed": [1, 60], "help": "How many times it breaks up."},
            _number("spread", "Spread", 0.8, 1, "Share of the length that the hits lie in.",
                    allowed=[0.05, 1]),
            _number("strength", "Strength", 14, 40,
                    "How far blocks push. Past 30 their own outlines show.", unit="%w",
                    allowed=[0, 200]),
        ],
        "Each hit rises over three frames and falls over three, at any length.",
    )  # fmt: skip


def pinch_split(clip: str | None = None) -> Document:
    """A bent lens whose colours come apart towards the corners."""
    return _effect(
        "look", "Pinch Split", "A poor lens: bent outward, colours apart at the corners.",
        ["lens", "colour split", "subtle"], 2.0, [clip],
        [
            _lane(
                "Out",
                _from("clip"),
                {"kind": "lens-bend", "values": {"bend": _by("bend")}},
                {"kind": "colour-split", "values": {"amount": _by("split")}},
            )
        ],
        [
            _number("bend", "Bend", 0.15, 1, "Above 0 bulges, below 0 draws in.",
                    slider=[-0.3, 1], allowed=[-5, 5]),
            _number("split", "Split", 0.03, 0.2, "0.03 is subtle, 0.05 about the most for that.",
                    allowed=[0, 1]),
        ],
        "The lens fills the frame again by itself, so no clear corner shows.",
    )  # fmt: skip


def worn_reel(clip: str | None = None) -> Document:
    """The tape variant: colours apart along the lines, bleeding, torn at the foot."""
    return _effect(
        "look", "Worn Reel", "A tape that was played too often.",
        ["tape", "analogue", "retro"], 2.0, [clip],
        [
            _lane(
                "Out",
                _from("clip"),
                {
                    "kind": "colour-split",
                    "values": {"amount": _by("split"), "way": "along an angle"},
                },
                {
                    "kind": "tape-wear",
                    "values": {
                        "bleed": _by("wear", 0.3, 3), "dropouts": _by("wear", 0, 14),
                        "tear": _by("wear", 2, 16), "jitter": _by("wear", 0.05, 0.5),
                    },
                },
                {"kind": "raster-lines", "values": {"lines": 240, "depth": _by("lines")}},
                {"kind": "saturation", "values": {"amount": _by("wear", 1.1, 0.75)}},
            )
        ],
        [
            _number("wear", "Wear", 0.5, 1, "Everything that time did to it, at once."),
            _number("split", "Split", 0.012, 0.1, "How far colours lie apart along the lines.",
                    allowed=[0, 1]),
            _number("lines", "Lines", 0.25, 1, "How dark it is between scan lines.",
                    allowed=[0, 1]),
        ],
        "One control drives bleed, dropouts, tear, jitter and fading, each through its own range.",
    )  # fmt: skip


def eight_lamp(clip: str | None = None) -> Document:
    """Large pixels and few values, over a wash of the clip's own colours."""
    return _effect(
        "look", "Eight Lamp", "Large pixels and a handful of colours.",
        ["eight bit", "pixels", "game"], 2.0, [clip],
        [
            _lane("Wash", _from("clip"), {"kind": "blur", "values": {"size": 12}},
                  {"kind": "saturation", "values": {"amount": 1.4}}),
            _lane(
                "Out",
                _from("clip"),
                {
                    "kind": "pixelate",
                    "values": {
                        "position_step": _by("pixels"), "square": True, "sampling": "average",
                    },
                },
                {"kind": "posterise", "values": {"value_step": _by("values")}},
                {
                    "kind": "blend",
                    "values": {
                        "mode": "soft light",
                        "opacity": {"control": "wash", "table": {"true": 0.8, "false": 0}},
                    },
                    "taps": {"over": _tap("wash")},
                },
            ),
        ],
        [
            _number("pixels", "Position step", 0.02, 0.2, "Size of a pixel, of the frame's height.",
                    slider=[0.005, 0.2], allowed=[0.0005, 1]),
            _number("values", "Value step", 0.1, 0.5, "Distance of two values that are left.",
                    slider=[0.02, 0.5], allowed=[0.001, 10]),
            {"slug": "wash", "label": "Colour wash", "type": "toggle", "default": False,
             "help": "Lays the clip's own colours over it, far out of focus."},
        ],
        "Both steps at 0.1 are the practice for the coarsest look.",
    )  # fmt: skip


def rain_streaks(clip: str | None = None) -> Document:
    """Water paint: the picture runs along slanting streaks."""
    return _effect(
        "look", "Rain Streaks", "The picture runs like water paint along slanting streaks.",
        ["painterly", "rain", "water"], 2.0, [clip],
        [
            _lane(
                "Streaks",
                {
                    "kind": "noise",
                    "values": {
                        "cells": 9, "stretch_x": 0.5, "stretch_y": 30, "octaves": 4,
                        "contrast": 5, "evolve_rate": _by("flow"),
                    },
                },
                {"kind": "streak-blur", "values": {"length": 3, "angle": 90}},
                {
                    "kind": "transform",
                    "values": {"turn": _by("slant"), "cover": True, "edges": "mirror"},
                },
            ),
            _lane(
                "Out",
                _from("clip"),
                {
                    "kind": "guided-blur",
                    "values": {"size": _by("strength"), "edge_sensitivity": 0.9},
                    "taps": {"guide": _tap("streaks")},
                },
                {"kind": "sharpen", "values": {"amount": 0.8, "size": 0.4}},
            ),
        ],
        [
            _number("strength", "Strength", 3, 8, "How far the paint runs.", unit="%h",
                    allowed=[0, 50]),
            {"slug": "slant", "label": "Slant", "type": "angle", "default": -20,
             "slider": [-60, 60], "help": "Of the streaks; they always cover the frame."},
            _number("flow", "Flow", 0.15, 1, "How fast the streaks change.", unit="/s",
                    allowed=[-100, 100]),
        ],
        "The streaks are turned and enlarged until they show no clear corner.",
    )  # fmt: skip


def overprint(clip: str | None = None) -> Document:
    """Two inks on cream paper that miss each other."""
    return _effect(
        "look", "Overprint", "Printed in two inks that miss each other a little.",
        ["print", "halftone", "two inks"], 2.0, [clip],
        [
            _lane(
                "Out",
                _from("clip"),
                {"kind": "levels", "values": {"black_in": 0.02, "white_in": 0.75, "gamma": 1.5}},
                {
                    "kind": "halftone",
                    "values": {
                        "inks": "two inks", "cell": _by("dots"), "ink": _by("dark-ink"),
                        "second_ink": _by("bright-ink"), "paper": _by("paper"), "angle": 20,
                    },
                },
                {
                    "kind": "misregister",
                    "values": {"cyan": [0.25, 0.1], "magenta": [-0.2, 0.15], "yellow": [0, -0.2]},
                    "mix": _by("miss"),
                },
                {"kind": "grain", "values": {"amount": 0.03, "still": True, "colour": 0}},
            )
        ],
        [
            _number("dots", "Dots", 1.2, 5, "From one dot to the next.", unit="%h",
                    slider=[0.4, 5], allowed=[0.05, 100]),
            _colour("dark-ink", "Dark ink", "#1F3B57", "Prints the shadows."),
            _colour("bright-ink", "Bright ink", "#D9532C", "Prints everything else."),
            _colour("paper", "Paper", "#F4EFDF", "What shows between the dots."),
            _number("miss", "Miss", 0.7, 1, "How much the inks miss each other.", allowed=[0, 1]),
        ],
        "Levels before the dots opens the shadows: ink closes them again.",
    )  # fmt: skip


def fog_bell(first: str | None = None, second: str | None = None) -> Document:
    """A watery noise wipe: the second clip settles as its edge passes."""
    settling = [{"time": 0, "value": 9, "ease": {"out": "quad"}}, {"time": 1, "value": 0}]
    return _effect(
        "transition", "Fog Bell", "A watery edge spreads, and what it uncovers settles.",
        ["noise", "water", "soft"], 2.0, [first, second],
        [
            _lane(
                "Fog",
                {
                    "kind": "noise",
                    "values": {
                        "cells": _by("scale"), "octaves": 3, "roughness": 0.4, "angle": 0,
                        "evolve_rate": _by("flow"), "even_out": True, "seed": 7,
                    },
                },
                {"kind": "blur", "values": {"size": _by("blur")}},
            ),
            _lane(
                "Settling",
                _from("to"),
                {
                    "kind": "displace",
                    "values": {
                        "amount_x": {"keys": settling}, "amount_y": {"keys": settling},
                        "mode": "along the slope", "edges": "mirror",
                    },
                    "taps": {"map": _tap("fog")},
                },
            ),
            _lane(
                "Out",
                _from("from"),
                _wipe("fog", "settling", softness=0.12, rim_width=0.05,
                      rim_colour=_by("rim-colour"), rim_softness=0.14),
            ),
        ],
        [
            _number("scale", "Scale", 3, 12, "More is finer.", unit="cells", slider=[0.5, 12],
                    allowed=[0.01, 500]),
            _number("flow", "Flow", 0.3, 2, "How fast the fog changes.", unit="/s",
                    allowed=[-100, 100]),
            _number("blur", "Blur", 0.6, 4, "How soft the fog is.", unit="%h", allowed=[0, 100]),
            _colour("rim-colour", "Rim colour", "#BFE3E6", "The colour of the edge."),
        ],
        "The displacement ends at nothing, so the last frame is the second clip exactly.",
    )  # fmt: skip


def inked_ticket(first: str | None = None, second: str | None = None) -> Document:
    """A halftone wipe: dots of the second clip grow until they cover."""
    return _effect(
        "transition", "Inked Ticket", "Dots of the second clip grow until they cover the first.",
        ["halftone", "dots", "print"], 1.2, [first, second],
        [
            _lane("Direction", {"kind": "ramp", "values": {"start": [0, 0], "end": [1, 1]}}),
            _lane(
                "Dots",
                {
                    "kind": "dots",
                    "values": {"size": _by("dots"), "duty": 0.78, "softness": 1, "angle": 45},
                },
                {"kind": "levels", "values": {"black_in": 1.0, "white_in": 0.29}},
                {
                    "kind": "blend",
                    "values": {"opacity": _by("travel")},
                    "taps": {"over": _tap("direction")},
                },
            ),
            _lane("Out", _from("from"), _wipe("dots", softness=0.02)),
        ],
        [
            _number("dots", "Dots", 6, 20, "From one dot to the next.", unit="%h",
                    slider=[1, 20], allowed=[0.02, 1000]),
            _number("travel", "Travel", 0.6, 1, "0 grows everywhere at once, 1 crosses the frame.",
                    slider=[0, 0.95], allowed=[0, 1]),
        ],
        "A dot's own slope decides when each of its pixels changes; the ramp delays whole dots.",
    )  # fmt: skip


def destination_board(first: str | None = None, second: str | None = None) -> Document:
    """A mosaic wipe: cells change over one by one."""
    return _effect(
        "transition", "Destination Board", "Cells change over one by one, like a board of flaps.",
        ["mosaic", "cells", "board"], 1.0, [first, second],
        [
            _lane("Direction", {"kind": "ramp", "values": {"start": [0, 0.5], "end": [1, 0.5]}}),
            _lane(
                "Cells",
                {"kind": "noise",
                 "values": {"cells": 40, "octaves": 2, "even_out": True, "seed": _by("order")}},
                {
                    "kind": "blend",
                    "values": {"opacity": _by("travel")},
                    "taps": {"over": _tap("direction")},
                },
                {
                    "kind": "pixelate",
                    "values": {"position_step": _by("cell"), "square": True, "place": "floor"},
                },
            ),
            _lane("Out", _from("from"), _wipe("cells", softness=_by("softness"))),
        ],
        [
            _number("cell", "Cell", 0.08, 0.4, "Size of a cell, of the frame's height.",
                    slider=[0.01, 0.4], allowed=[0.0005, 1]),
            _number("travel", "Travel", 0.55, 1, "0 is scattered, 1 goes strictly across.",
                    allowed=[0, 1]),
            _number("softness", "Softness", 0.04, 0.4, "How gently a cell changes.",
                    allowed=[0, 4]),
            {"slug": "order", "label": "Order", "type": "seed", "default": 4, "slider": [1, 100],
             "help": "Another number, another order."},
        ],
        "Pixelate gives every cell one grey: the moment at which it changes.",
    )  # fmt: skip


LOOKS = (relay_fault, pinch_split, eight_lamp)
SLOW = (worn_reel, rain_streaks, overprint)
"""Looks whose cold frame takes over 40 ms at 960×540: not on the demo's shelf until it does not."""
TRANSITIONS = (fog_bell, inked_ticket, destination_board)
