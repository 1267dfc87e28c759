"""The demo's titles, continued: letters that arrive, shine, flap, print, glow, roll and break
up."""

from __future__ import annotations

from ..core.built_in.making import (
    NOTHING,
    Document,
    begin,
    by,
    colour,
    fades,
    lane,
    lettering,
    number,
    overlay,
    reads,
    seed,
    step,
    text_controls,
    there_and_back,
)


def _arrival(away: float, there: float) -> Document:
    """A value that goes from start to end once, over slightly more than a second."""
    return {
        "keys": [
            {"anchor": "start", "time": 0, "value": away, "ease": {"into": "sine", "out": "sine"}},
            {"anchor": "start", "time": 1.4, "value": there},
        ]
    }


def arrivals() -> Document:
    """A moving soft matte uncovers the text; a shrunk copy of it drives a blur; a flare follows
    it."""
    across = {"kind": "ramp", "values": {"start": [1, 0.5], "end": [0, 0.5]}}
    return overlay(
        "title", "Arrivals", "Letters appear soft behind a passing light, and sharpen after it.",
        ["title", "reveal", "blur", "flare"], 3.4,
        [
            NOTHING,
            lane("Text", lettering(font="Oswald")),
            lane("Edge", across, step("threshold", level=_arrival(1.15, -0.15), softness=0.2)),
            lane("Settled", begin("edge"), step("grow", amount=by("behind", 0, -10)),
                 step("feather", size=2)),
            lane("Light", step(
                "flare", position={"keys": [
                    {"anchor": "start", "time": 0, "value": [-0.12, 0.5],
                     "ease": {"into": "sine", "out": "sine"}},
                    {"anchor": "start", "time": 1.4, "value": [1.12, 0.5]}]},
                colour=by("glow"), streak=0.9, streak_length=70, halo=0.18, ring=0.05, core=1.4,
                ghosts=0.12, intensity={"keys": [
                    {"anchor": "start", "time": 0, "value": 0},
                    {"anchor": "start", "time": 0.25, "value": 1},
                    {"anchor": "start", "time": 1.15, "value": 1},
                    {"anchor": "start", "time": 1.4, "value": 0}]})),
            lane(
                "Out",
                begin("text"),
                step("mapped-blur", {"map": reads("settled", invert=True)}, size=by("blur"),
                     outside="clear"),
                step("matte-to-alpha", {"matte": reads("edge")}),
                fades(),
                step("blend", {"over": reads("light")}, mode="screen"),
            ),
        ],
        [
            *text_controls("Platform two", 14, "#F4EFDF", [0.5, 0.5]),
            number("blur", "Blur", 1.85, 8, "How soft letters are at first: 1.85 is 20 pixels at "
                                            "1080 "
                   "lines.", unit="%h", allowed=[0, 100]),
            number("behind", "Delay", 0.4, 1, "Delay until letters are sharp: 0.4 is 43 pixels "
                                              "behind the "
                   "edge at 1080 lines."),
            colour("glow", "Light", "#FFD9A0", "Colour of the light that passes."),
        ],
        "The light needs a second and a half, at any length; the title fades at the end.",
    )  # fmt: skip


def passing_headlight() -> Document:
    """A sweep over letters that bends on their edges."""
    return overlay(
        "title", "Passing Headlight", "A light sweeps over the letters and bends on their edges.",
        ["title", "light sweep", "glint", "logo"], 3.0,
        [
            NOTHING,
            lane("Text", lettering()),
            lane("Form", begin("text"), step("channel", output="matte", channel="alpha"),
                 step("feather", size=by("edge"))),
            lane(
                "Out",
                begin("text"),
                step("relief", {"surface": reads("form")}, depth=1.6, detail=0.2, elevation=55,
                     darkest=0.45),
                step("light-sweep", {"surface": reads("form")},
                     progress={"keys": [
                         {"time": 0.12, "value": 0, "ease": {"into": "sine", "out": "sine"}},
                         {"time": 0.88, "value": 1}]},
                     width=by("width"), angle=by("angle"), tint=by("light"), second=0.7, gap=4,
                     bend=by("bend"), detail=0.5, softness=0.9, intensity=1.1, mode="add"),
                step("glow", threshold=0.86, size=3, gain=by("glow"), sizes=3),
                fades(),
            ),
        ],
        [
            *text_controls("Last tram", 18, "#8C7A5E", [0.5, 0.5]),
            colour("light", "Light", "#FFF3D6", "Colour of the light."),
            number("width", "Width", 20, 80, "Width of the band.", unit="%h", allowed=[0.01, 1000]),
            {"slug": "angle", "label": "Direction", "type": "angle", "default": 22,
             "slider": [-90, 90], "help": "The direction in which it passes."},
            number("bend", "Bend", 14, 60, "How far the edges of letters bend the light.", unit="%h",
                   slider=[-60, 60], allowed=[-500, 500]),
            number("edge", "Edge", 0.7, 3, "How round the letters are.", unit="%h",
                   allowed=[0, 100]),
            number("glow", "Glow", 0.7, 3, "How much the light glows around the letters.",
                   allowed=[0, 100]),
        ],
        "The light falls on the letters alone; around them stays clear.",
    )  # fmt: skip


def flap_board() -> Document:
    """Letters fall into place one by one on dark plates."""
    return overlay(
        "title", "Flap Board", "Letters fall into place by chance, like flaps on a departure board.",
        ["title", "letters", "board", "station"], 3.2,
        [
            NOTHING,
            lane("Plates", lettering(
                font="Oswald", fill="#00000000", outline=3.2, outline_colour=by("plate"),
                text=by("text")), step("shadow", distance=0.6, size=0.6, opacity=0.5)),
            lane("Text", lettering(
                font="Oswald", move_by="letter", move_order="by chance", overlap=by("overlap"),
                arrival=there_and_back(0, 1, "linear", "linear"), arrive="bounces",
                from_shift=[0, -0.55], from_opacity=0, tracking=0.6)),
            lane(
                "Out",
                begin("plates"),
                step("blend", {"over": reads("text")}),
                fades(),
            ),
        ],
        [
            *text_controls("DEPOT 21:47", 16, "#F6D98A", [0.5, 0.5]),
            colour("plate", "Plates", "#15181B", "Colour behind the letters."),
            number("overlap", "Together", 0.75, 1, "0 is one letter after the other, 1 all at once.",
                   allowed=[0, 1]),
        ],
        "Each letter comes at a moment of its own, the same every time.",
    )  # fmt: skip


def ticket_print() -> Document:
    """A title in halftone ink, printed slightly out of register on paper cut around the letters."""
    return overlay(
        "title", "Ticket Print",
        "Letters printed on paper: ink in dots, a little out of register.",
        ["title", "print", "halftone", "stamp", "paper"], 2.6,
        [
            NOTHING,
            lane("Text", lettering(
                font="Zilla Slab", fill="#FFFFFF", move_by="line",
                arrival=there_and_back(0, 1, "quint", "quad"), arrive="very soft",
                from_scale=1.5, from_shift=[0, 0], from_turn=-4)),
            lane("Letters", begin("text"), step("channel", output="matte", channel="alpha")),
            lane("Cut", begin("letters"), step("grow", amount=by("border")),
                 step("threshold", level=0.35, softness=0.5)),
            lane("Paper", step("flat", colour=by("paper")),
                 step("matte-to-alpha", {"matte": reads("cut")}),
                 step("shadow", distance=0.5, size=0.5, opacity=0.4, angle=60)),
            lane("Worn", step("noise", cells=46, octaves=4, hardness=3, white_share=by("wear", 1.0, 0.4),
                              seed=by("seed"))),
            lane("Inked", begin("letters"),
                 {"id": "eaten", **step("matte-maths", {"other": reads("worn")},
                                        operation="intersect")}),
            lane("Tone", step("ramp", start=[0, 0.2], end=[0, 0.8])),
            lane(
                "Ink",
                begin("tone"),
                step("levels", black_out=by("ink-tone", 0.0, 0.5), white_out=0.4),
                step("halftone", cell=by("dots"), ink=by("colour"), paper=by("paper"), angle=38),
                step("misregister", cyan=[0.14, 0], magenta=[-0.12, 0.08], yellow=[0, -0.1]),
                step("matte-to-alpha", {"matte": reads("inked")}),
            ),
            lane("Out", begin("paper"), step("blend", {"over": reads("ink")}), fades()),
        ],
        [
            *text_controls("One way\nLantern Line", 15, "#A3261B", [0.5, 0.5]),
            colour("paper", "Paper", "#F3E7CB", "Colour of the paper."),
            number("border", "Border", 1.8, 6, "How far the paper reaches beyond the letters.",
                   unit="%h", allowed=[0, 10]),
            number("dots", "Dots", 0.9, 3, "Size of the printing dots.", unit="%h",
                   slider=[0.3, 3], allowed=[0.05, 50]),
            number("ink-tone", "Lightness", 0.2, 1, "How light the print is.", allowed=[0, 1]),
            number("wear", "Wear", 0.35, 1, "How much ink is missing.", allowed=[0, 1]),
            seed("seed", "Wear pattern", 4, "Another number wears it elsewhere."),
        ],
        "The paper is cut around the letters, so the title can be read over any clip.",
    )  # fmt: skip


def neon_stop() -> Document:
    """A tube of light along the letters, that flickers when it is switched on."""
    flicker = (
        "clamp(smoothstep(0.05, 0.25, seconds) * (0.35 + 0.65 * step(0.35, "
        "dice(floor(seconds * 14)))) + smoothstep(0.7, 0.9, seconds))"
    )
    steady = f"({flicker}) * (1 - control.flicker * 0.35 * abs(drift(4, 9)))"
    return overlay(
        "title", "Neon Stop", "A neon sign that flickers on and hums.",
        ["title", "neon", "glow", "sign"], 3.0,
        [
            NOTHING,
            lane("Letters", lettering(fill="#FFFFFF", weight="regular", tracking=0.8)),
            lane(
                "Tube",
                begin("letters"),
                step("distance-colours", inside=by("tube", 0, 1.2), outside_reach=0.35,
                     softness=0.12, beyond="clear",
                     stops=[[0, "#00000000"], [0.35, "#FFFFFF00"], [0.6, "#FFFFFF"],
                            [1, "#FFFFFF"]]),
            ),
            lane("Colour", step("flat", colour=by("colour")),
                 step("matte-to-alpha", {"matte": reads("tube", channel="alpha")})),
            lane("Off", begin("colour"), step("levels", white_out=0.28),
                 step("shadow", distance=1.2, size=0.8, opacity=0.6, angle=70)),
            lane(
                "Lit",
                begin("colour"),
                step("glow", threshold=0.02, softness=0.02, size=by("reach"), sizes=4,
                     gain={"formula": f"control.strength * ({steady})"}, tint="#FFFFFF"),
                {"id": "core", "kind": "blend",
                 "inputs": {"over": reads("tube")},
                 "values": {"mode": "add", "opacity": {"formula": f"0.55 * ({steady})"}}},
            ),
            lane(
                "Out",
                begin("off"),
                {"id": "on", "kind": "blend", "inputs": {"over": reads("lit")},
                 "values": {"opacity": {"formula": f"clamp({steady})"}}},
                fades(),
            ),
        ],
        [
            *text_controls("Night Café", 20, "#FF3D6E", [0.5, 0.5]),
            number("tube", "Tube", 0.55, 1, "Thickness of the tube."),
            number("strength", "Glow", 1.8, 6, "Strength of the glow.", allowed=[0, 100]),
            number("reach", "Reach", 7, 25, "How far the glow reaches.", unit="%h",
                   allowed=[0, 100]),
            number("flicker", "Flicker", 0.4, 1, "How much the light flickers after it is on.",
                   allowed=[0, 2]),
        ],
        "It flickers on in the first second, and stays on.",
    )  # fmt: skip


def chalk() -> Document:
    """Rough letters drawn with chalk, line by line."""
    return overlay(
        "title", "Chalk", "Letters drawn with chalk, with rough edges and a dusty face.",
        ["title", "hand made", "rough", "board"], 3.0,
        [
            lane("Text", lettering(font="Zilla Slab", fill=by("colour"))),
            lane("Tooth", step("noise", cells=110, octaves=3, hardness=1.6, white_share=0.78, seed=by("seed"))),
            lane("Strokes", step("noise", cells=60, stretch_x=7, stretch_y=0.7, octaves=3, angle=-24,
                                 hardness=2.6, white_share=by("cover", 0.35, 0.95),
                                 seed=by("seed"))),
            lane("Order", lettering(font="Zilla Slab", output="order ramp", order_by="letter")),
            lane("Nearby", step("ramp", start=[0, 0.5], end=[1, 0.5])),
            lane("Way", begin("order"), step("blend", {"over": reads("nearby")}, opacity=0.12)),
            lane("Drawn", begin("way"), step("threshold", level=there_and_back(-0.1, 1.1, "sine", "sine"),
                                             softness=0.06), step("invert")),
            lane(
                "Out",
                begin("text"),
                step("displace", {"map": reads("tooth")}, amount_x=by("rough", 0, 1),
                     amount_y=by("rough", 0, 1.6), outside="clear"),
                step("matte-to-alpha", {"matte": reads("strokes")}),
                {"id": "grains", **step("matte-to-alpha", {"matte": reads("tooth")})},
                {"id": "drawn", **step("matte-to-alpha", {"matte": reads("drawn")})},
            ),
        ],
        [
            *text_controls("Today: open day", 16, "#FFFDF4", [0.5, 0.5]),
            number("rough", "Roughness", 0.6, 2, "How rough the edges are.", allowed=[0, 20]),
            number("cover", "Pressure", 0.6, 1, "How much chalk lies on the board."),
            seed("seed", "Hand", 2, "Another number draws it differently."),
        ],
        "It is drawn letter by letter, and wiped off the same way.",
    )  # fmt: skip


def destination_roll() -> Document:
    """Lines that roll into a window one after the other."""
    return overlay(
        "title", "Destination Roll", "Lines roll up into place, as on a tram's destination blind.",
        ["title", "lines", "roll", "tram"], 3.4,
        [
            lane("Text", lettering(
                font="Oswald", move_by="line", overlap=by("overlap"),
                arrival=there_and_back(0, 1, "linear", "linear"), arrive="soft",
                from_shift=[0, 0.8], from_opacity=0, from_blur=by("blur"))),
            lane("Rest", lettering(font="Oswald", fill="#FFFFFF"),
                 step("channel", output="matte", channel="alpha"), step("grow", amount=4, shape="square"),
                 step("feather", size=0.35)),
            lane(
                "Out",
                begin("text"),
                step("matte-to-alpha", {"matte": reads("rest")}),
                step("shadow", distance=0.5, size=0.5, opacity=0.5),
            ),
        ],
        [
            *text_controls("Depot hall\nMuseum\nLast stop", 13, "#FFE9A8", [0.5, 0.5]),
            number("overlap", "Together", 0.35, 1, "0 is one line after the other, 1 all at once.",
                   allowed=[0, 1]),
            number("blur", "Blur", 0.8, 4, "How soft lines are while they roll.", unit="%h",
                   allowed=[0, 100]),
        ],
        "Each line is seen only in its own window.",
    )  # fmt: skip


def bad_track() -> Document:
    """Letters broken up by a signal that fails, some frames at a time."""
    place = "clamp(progress, 0, 0.9999) * control.hits"
    far = f"abs(fmod({place}, 1) - 0.5) * (length - 1) / control.hits"
    hit = f"clamp(1 - {far} / 3)"
    return overlay(
        "title", "Bad Track", "Letters that break into blocks for a few frames, several times.",
        ["title", "glitch", "digital", "hit"], 2.4,
        [
            NOTHING,
            lane("Text", lettering()),
            lane("Faults", step("blocks", hold=1, density=0.55, height_from=0.3, height_to=3,
                                seed=by("seed"))),
            lane(
                "Out",
                begin("text"),
                step("displace", {"map": reads("faults")},
                     amount_x={"formula": f"{hit} * control.strength"},
                     amount_y={"formula": f"{hit} * control.strength * 0.2"}, outside="clear"),
                step("slide-rows", amount={"formula": f"{hit} * control.strength * 0.25"},
                     share=0.5, hold=1),
                step("colour-split", amount={"formula": f"{hit} * control.strength * 0.004 + 0.0015"},
                     direction="along an angle", outside="clear"),
                fades(),
            ),
        ],
        [
            *text_controls("No signal", 20, "#F2F7F5", [0.5, 0.5]),
            {"slug": "hits", "label": "Hits", "type": "whole", "default": 3, "slider": [1, 8],
             "allowed": [1, 60], "help": "How many times it breaks up."},
            number("strength", "Strength", 16, 40, "How far the blocks push.", unit="%w",
                   allowed=[0, 200]),
            seed("seed", "Fault", 6, "Another number breaks it elsewhere."),
        ],
        "Each hit takes three frames up and three back, at any length.",
    )  # fmt: skip
