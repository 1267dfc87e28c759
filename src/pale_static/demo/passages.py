"""The demo's transitions, continued: glass, harbour, headlight and a dead signal."""

from __future__ import annotations

from ..core.built_in.making import (
    Document,
    angle,
    begin,
    by,
    colour,
    effect,
    lane,
    number,
    reads,
    seed,
    step,
    toggle,
    wipe,
)


def _keys(*at: tuple[float, object], ease: str = "sine") -> Document:
    """A value that goes softly from one time to the next."""
    keys = [
        {"time": time, "value": value, "ease": {"into": ease, "out": ease}} for time, value in at
    ]
    keys[-1].pop("ease")
    return {"keys": keys}


def found_and_restored(first: str | None = None, second: str | None = None) -> Document:
    """A pane opens over the first picture, a second pops in, the scenes cross, a mark slides."""
    pane: Document = {
        "corner": 6, "bevel": 7, "thickness": by("thickness"), "index": by("index"),
        "dispersion": 0.12, "light_angle": by("light"), "edge_light": by("edge"),
        "frost": by("frost"), "shadow": 0.35,
    }  # fmt: skip
    popped = {
        "keys": [
            {"time": 0.1, "value": 0, "ease": {"out": "back"}},
            {"time": 0.417, "value": 34},
            {"time": 0.78, "value": 34, "ease": {"into": "cubic"}},
            {"time": 0.94, "value": 0},
        ]
    }
    return effect(
        "transition", "Found and Restored",
        "A pane of glass opens, a second pops in, and behind them the scene is restored.",
        ["glass", "morph", "refraction", "before and after"], 2.4, [first, second],
        [
            lane("Scene", begin("from"), step(
                "dissolve", {"incoming": reads("to")},
                progress=_keys((0, 0), (0.417, 0), (0.75, 1), (1, 1)))),
            lane("Mark", step("shape", shape="ring", width=5, height=5, corner=0.5,
                              centre=_keys((0, [0.3, 0.86]), (0.42, [0.3, 0.86]),
                                           (0.75, [0.7, 0.86]), (1, [0.7, 0.86])),
                              softness=0.2)),
            lane("Line", step("shape", shape="line", width=72, height=0.35, centre=[0.5, 0.86])),
            lane("Marked", begin("mark"), step("matte-maths", {"other": reads("line")},
                                               operation="union")),
            lane("Ink", step("flat", colour=by("mark")),
                 step("matte-to-alpha", {"matte": reads("marked")})),
            lane(
                "Out",
                begin("scene"),
                {"id": "large", **step(
                    "glass-pane", **pane, centre=[0.44, 0.47],
                    width=_keys((0, 0), (0.25, 92), (0.8, 92), (0.96, 0)),
                    height=_keys((0, 0), (0.25, 57), (0.8, 57), (0.96, 0)))},
                {"id": "small", **step(
                    "glass-pane", **pane, centre=[0.68, 0.6], width=popped, height=popped)},
                step("blend", {"over": reads("ink")},
                     opacity=_keys((0, 0), (0.3, 0), (0.42, 0.9), (0.75, 0.9), (0.88, 0), (1, 0))),
            ),
        ],
        [
            number("index", "Refraction", 1.5, 2.5, "1 bends nothing, water 1.33, glass 1.5.",
                   slider=[1, 2.5], allowed=[1, 5]),
            number("thickness", "Thickness", 9, 30, "Thicker glass bends the picture more.", unit="%h",
                   allowed=[0, 500]),
            number("frost", "Frost", 0, 6, "How milky the glass is.", unit="%h", allowed=[0, 100]),
            number("edge", "Edge light", 0.9, 3, "Strength of the light along the rim.",
                   allowed=[0, 100]),
            angle("light", "Light from", -120, "The side the light comes from."),
            colour("mark", "Mark", "#FFF7E6", "Colour of the mark that slides along."),
        ],
        "Made for two plates that line up: hold one against the other with Before and after. At 60 "
        "frames the second pane settles at 25 and the scenes cross from 25 to 45.",
    )  # fmt: skip


def harbour(first: str | None = None, second: str | None = None) -> Document:
    """A watery noise wipe with a coloured soft border."""
    return effect(
        "transition", "Harbour", "Water rises through the picture with a soft coloured border.",
        ["water", "noise", "soft", "border"], 2.0, [first, second],
        [
            lane(
                "Water",
                step("noise", cells=by("fineness"), octaves=by("octaves"), roughness=0.45,
                     stretch_x=2.2, angle=by("angle"), speed=by("flow"), twist=0.25,
                     hardness=by("hardness"), even_out=True, seed=by("seed")),
                step("blur", size=by("blur")),
            ),
            lane("Web", step("caustic", cells=5, focus=0.7, level=0.35, sharpness=0.3, speed=0.2)),
            lane("Bent", begin("water"), step("displace", {"map": reads("web")}, amount_x=1.6,
                                              amount_y=1.2, mode="along the slope",
                                              outside="mirror")),
            lane("Out", begin("from"), wipe(
                "bent", softness=0.2, rim_width=by("border", 0, 0.3), rim_colour=by("colour"),
                rim_softness=0.22, invert=by("invert"))),
        ],
        [
            number("fineness", "Fineness", 2.6, 12, "Higher values make smaller waves.", unit="cells",
                   slider=[0.5, 12], allowed=[0.01, 500]),
            {"slug": "octaves", "label": "Octaves", "type": "whole", "default": 3, "slider": [1, 8],
             "allowed": [1, 10], "help": "More give finer detail."},
            number("hardness", "Hardness", 1, 3, "Below 1 the water comes in little by little, "
                                                 "above 1 "
                   "all at once.", allowed=[0, 100], slider=[0.3, 3]),
            number("flow", "Flow", 0.35, 2, "How fast the water changes.", unit="/s",
                   allowed=[-100, 100]),
            angle("angle", "Direction", -12, "Direction of the waves."),
            number("border", "Border", 0.2, 1, "Width of the coloured border.", allowed=[0, 1]),
            colour("colour", "Border colour", "#7FD3D0", "Colour of the border."),
            number("blur", "Blur", 0.8, 4, "How soft the water is.", unit="%h", allowed=[0, 100]),
            toggle("invert", "The other way", False, "Changes bright waves first."),
            seed("seed", "Water", 11, "Another number gives other waves."),
        ],
        "The border enters and leaves completely: the ends are the clips themselves.",
    )  # fmt: skip


def headlight_cut(first: str | None = None, second: str | None = None) -> Document:
    """A sweep of light that hides the cut."""
    forward = {"keys": [{"time": 0, "value": 0, "ease": {"into": "sine", "out": "sine"}},
                        {"time": 1, "value": 1}]}  # fmt: skip
    return effect(
        "transition", "Headlight Cut", "A headlight sweeps across the frame and reveals the next "
                                       "clip.",
        ["light sweep", "wipe", "lamp", "fast"], 0.9, [first, second],
        [
            lane("Way", step("ramp", start=[-0.1, 0.5], end=[1.1, 0.5])),
            lane("Out", begin("from"),
                 {"kind": "luma-wipe", "inputs": {"incoming": reads("to"), "matte": reads("way")},
                  "values": {"progress": forward, "softness": 0.08}},
                 {"id": "beam", **step("light-sweep", progress=forward, width=by("width"), angle=0,
                                       intensity=by("strength"), tint=by("colour"), falloff="sharp",
                                       softness=1, mode="add", keep_to_alpha=False)},
                 {"id": "core", **step("light-sweep", progress=forward, width=by("width", 2, 40),
                                       angle=0, intensity=by("strength"), tint="#FFFFFF",
                                       softness=1, mode="add", keep_to_alpha=False)}),
        ],
        [
            number("width", "Width", 80, 250, "Width of the beam.", unit="%h",
                   slider=[20, 250], allowed=[1, 1000]),
            number("strength", "Strength", 1.2, 3, "How bright it is.", allowed=[0, 10]),
            colour("colour", "Colour", "#FFD596", "Colour of the beam's edge."),
        ],
        "The cut lies under the brightest part. At both ends the beam is wholly outside.",
    )  # fmt: skip


def dead_signal(first: str | None = None, second: str | None = None) -> Document:
    """A glitch that hides the cut: blocks change to the next clip between hits."""
    hit = "clamp(1 - abs(progress - 0.5) / 0.5)"
    beat = f"({hit}) * (0.35 + 0.65 * dice(frame + control.seed * 31)) * step(0.001, {hit})"
    return effect(
        "transition", "Dead Signal", "The signal breaks up, and comes back as the next clip.",
        ["glitch", "digital", "broken", "hit"], 0.7, [first, second],
        [
            lane("Blocks", step("blocks", hold=1, density=0.6, levels=6, height_from=1, height_to=9,
                                width_from=4, width_to=50, seed=by("seed"))),
            lane("Cells", step("noise", basis="cell flat", cells=9, stretch_x=3, octaves=1,
                               seed=by("seed"))),
            lane("Scene", begin("from"),
                 {"kind": "luma-wipe", "inputs": {"incoming": reads("to"), "matte": reads("cells")},
                  "values": {"softness": 0, "progress": {"keys": [
                      {"time": 0, "value": 0}, {"time": 0.3, "value": 0.02},
                      {"time": 0.7, "value": 0.98}, {"time": 1, "value": 1}]}}}),
            lane(
                "Out",
                begin("scene"),
                step("displace", {"map": reads("blocks")},
                     amount_x={"formula": f"{beat} * control.strength"},
                     amount_y={"formula": f"{beat} * control.strength * 0.25"}, outside="mirror"),
                step("slide-rows", amount={"formula": f"{beat} * control.strength * 0.4"}, share=0.4,
                     hold=1),
                step("colour-split", amount={"formula": f"{beat} * control.strength * 0.004"},
                     direction="along an angle"),
                {**step("posterise", tone_gap={"formula": f"0.001 + {hit} * control.crush * 0.22"}),
                 "mix": {"formula": f"clamp({hit} * 12)"}},
                {"id": "lines", "kind": "raster-lines",
                 "values": {"lines": 180, "depth": {"formula": f"{hit} * 0.5"}}},
            ),
        ],
        [
            number("strength", "Strength", 18, 50, "How far the blocks push.", unit="%w",
                   allowed=[0, 200]),
            number("crush", "Crush", 0.6, 1, "How few tones are left at the strongest moment.",
                   allowed=[0, 4]),
            seed("seed", "Fault", 3, "Another number breaks it elsewhere."),
        ],
        "At both ends the hits are at nothing, so the clips are untouched.",
    )  # fmt: skip
