"""Recipes: small finished effects to start from, with notes that explain each lane."""

from __future__ import annotations

from .making import (
    NOTHING,
    Document,
    begin,
    by,
    effect,
    fades,
    lane,
    lettering,
    moving,
    overlay,
    reads,
    step,
    text_controls,
    there_and_back,
    wipe,
)

_STILL = "The first and the last frame are the plain clips."


def _noted(document: Document, notes: dict[str, str]) -> Document:
    """With a note at each lane that is named, besides the one at the whole effect."""
    return document | {
        "notes": [*document["notes"], *({"lane": at, "text": text} for at, text in notes.items())]
    }


def _transition(
    name: str, sentence: str, tags: str, seconds: float, lanes: list[Document], note: str,
    notes: dict[str, str],
) -> Document:  # fmt: skip
    made = effect("transition", name, sentence, tags.split(", "), seconds, [], lanes, [], note)
    return _noted(made, notes)


def _look(
    name: str, sentence: str, tags: str, lanes: list[Document], note: str, notes: dict[str, str]
) -> Document:
    return _noted(effect("look", name, sentence, tags.split(", "), 2.0, [], lanes, [], note), notes)


def _over(
    kind: str, name: str, sentence: str, tags: str, lanes: list[Document],
    controls: list[Document], note: str, notes: dict[str, str],
) -> Document:  # fmt: skip
    made = overlay(kind, name, sentence, tags.split(", "), 3.0, lanes, controls, note)
    return _noted(made, notes)


NOISE_WIPE = _transition(
    "Noise wipe", "Noise eats the first clip away, with a warm rim.", "burn, organic, wipe", 1.6,
    [
        lane("Noise", step("noise", cells=5, octaves=5, speed=0.15, even_out=True, seed=4)),
        lane("Out", begin("from"), wipe("noise", softness=0.03, rim_width=0.03,
                                        rim_colour="#FF9A3C", rim_softness=0.06)),
    ],
    "A luma wipe shows the second clip where the matte is darker than its progress.",
    {
        "noise": "Even out gives every grey the same share of the frame, so the wipe uncovers the "
        "picture at a steady rate. Fewer cells make larger pieces.",
        "out": "Rim width and rim colour draw the border. " + _STILL,
    },
)  # fmt: skip

BRIGHTNESS_WIPE = _transition(
    "Brightness wipe", "Dark parts of the first clip change first, bright parts last.",
    "luma, everyday, wipe", 1.2,
    [
        lane("Brightness", begin("from"), step("channel", output="matte"), step("blur", size=0.6)),
        lane("Out", begin("from"),
             wipe("brightness", softness=0.25, progress=moving(0, 1, {"into": "cubic", "out": "cubic"}))),
    ],
    "The clip is its own matte. Choose To in place of From to let the next clip decide.",
    {
        "brightness": "The blur removes grain from the matte, so the edge does not flicker.",
        "out": "More softness makes it a dissolve, less a stencil. Invert lets bright parts go "
               "first.",
    },
)  # fmt: skip

DOTS = _transition(
    "Dots that grow", "Dots of the second clip grow until they touch.", "halftone, print, wipe", 1.2,
    [
        lane("Way", step("ramp", start=[0, 0.2], end=[1, 0.8])),
        lane("Dots", step("dots", size=6, white_share=0.78, softness=1, angle=45),
             step("levels", black_in=1, white_in=0.29),
             step("blend", {"over": reads("way")}, opacity=0.6)),
        lane("Out", begin("from"), wipe("dots", softness=0.02)),
    ],
    "Each dot is a small hill of grey: the wipe climbs it, so the dot grows.",
    {
        "way": "The ramp says where the dots begin. Move its start and end to change the direction.",
        "dots": "Levels turns the dots dark in the middle. The share of the ramp sets how much "
        "earlier one side begins.",
    },
)  # fmt: skip

CELLS = _transition(
    "Cells that flip", "Square cells change over one by one.", "mosaic, board, pixels, wipe", 1.0,
    [
        lane("Cells", step("noise", cells=24, octaves=1, even_out=True, seed=9),
             step("pixelate", cell=0.1, square=True, grid="whole cells")),
        lane("Out", begin("from"), wipe("cells", softness=0.03)),
    ],
    "Each cell has one grey, which says when it changes: dark cells first.",
    {"cells": "Pixelate gives each cell the grey of its middle. Another seed gives another order."},
)  # fmt: skip

RINGS = _transition(
    "Crossing rings", "Rings of both clips spread from the middle and cross.", "circles, wipe", 1.4,
    [
        lane("Outward", step("ramp", shape="radial", start=[0.5, 0.5], end=[0.5, 1.5])),
        lane("Rings", step("ramp", shape="radial", start=[0.5, 0.5], end=[0.5, 0.68], beyond="mirror"),
             step("blend", {"over": reads("outward")}, opacity=0.45)),
        lane("Crawl", step("noise", cells=4, octaves=2, speed=0.2)),
        lane("Bent", begin("rings"), step("displace", {"map": reads("crawl")}, amount_x=2.5,
                                          amount_y=2.5, outside="clamp")),
        lane("Out", begin("from"), wipe("bent", softness=0.02)),
    ],
    "A ramp that goes back and forth makes rings; a plain one decides which ring opens first.",
    {
        "outward": "Its share in the blend: 0 opens all rings at once, 1 is a plain circle.",
        "rings": "“Beyond” is set to mirror: after its end, the ramp runs backwards.",
        "crawl": "A slow noise bends the rings, so they look drawn by hand.",
    },
)  # fmt: skip

LIQUID = _transition(
    "Liquid edges", "A soft, coloured border flows through the picture.", "water, soft, wipe", 1.8,
    [
        lane("Water", step("noise", cells=3, octaves=2, speed=0.35, twist=0.3, even_out=True, seed=6),
             step("blur", size=0.8)),
        lane("Settling", begin("to"),
             step("displace", {"map": reads("water")}, amount_x=moving(8, 0, {"out": "quad"}),
                  amount_y=moving(8, 0, {"out": "quad"}), mode="along the slope", outside="mirror")),
        lane("Out", begin("from"), wipe("water", "settling", softness=0.1, rim_width=0.04,
                                        rim_colour="#BFE9EC", rim_softness=0.14)),
    ],
    "The same noise uncovers the second clip and bends it.",
    {
        "water": "Twist bends the noise by a second noise: that makes it look liquid.",
        "settling": "The bend goes down to nothing, so the last frame is the plain clip.",
    },
)  # fmt: skip

_HIT = "clamp(1 - abs(progress - 0.5) * clamp(length / 7, 2, 1000))"
SIGNAL_HIT = _transition(
    "Signal hit", "Blocks push the picture aside for a few frames and hide the cut.",
    "glitch, digital, hit", 0.8,
    [
        lane("Cut", begin("from"), step("dissolve", {"incoming": reads("to")},
                                        progress={"formula": "step(0.5, progress)"})),
        lane("Blocks", step("blocks", hold=1, density=0.5)),
        lane("Out", begin("cut"),
             step("displace", {"map": reads("blocks")}, amount_x={"formula": f"16 * {_HIT}"},
                  amount_y={"formula": f"5 * {_HIT}"}, outside="mirror"),
             step("colour-split", amount={"formula": f"0.05 * {_HIT}"},
                  direction="along an angle")),
    ],
    "The hit rises in the seven frames before the cut and falls in the seven after it. A short "
    "effect "
    "has a shorter hit.",
    {
        "cut": "A hard cut in the middle. The hit hides it.",
        "blocks": "New blocks in every frame: hold 2 is calmer.",
        "out": "Along x and y, not from the centre: a signal fails in lines. " + _STILL,
    },
)  # fmt: skip

SMOKE = _transition(
    "Smoke away", "The first clip goes up in smoke.", "dissolve, carried off, wipe", 2.0,
    [
        lane("Smoke", step("noise", cells=8, stretch_x=2, octaves=3, speed=0.3, even_out=True, seed=3)),
        lane("Draught", step("noise", cells=5, stretch_x=1.5, octaves=3, speed=0.4, seed=11)),
        lane("Carried", begin("from"),
             step("displace", {"map": reads("draught")}, amount_x={"formula": "6 * progress"},
                  amount_y={"formula": "24 * progress"}, zero_level=0.3, outside="mirror")),
        lane("Out", begin("carried"), wipe("smoke", softness=0.3)),
    ],
    "Two noises: one decides what goes when, the other carries it off.",
    {
        "smoke": "Stretched sideways, as smoke lies in still air.",
        "draught": "It has another seed than the lane Smoke, so the two patterns are different.",
        "carried": "A zero level below the middle moves nearly all of it upward.",
    },
)  # fmt: skip

SOFT_GLOW = _look(
    "Soft glow", "Bright parts glow, dark parts stay.", "light, dreamy, bloom",
    [
        lane("Soft", begin("clip"), step("blur", size=2.2)),
        lane("Out", begin("clip"), step("blend", {"over": reads("soft")}, mode="screen", opacity=0.6),
             step("levels", gamma=0.85)),
    ],
    "A blurred copy over its own original. Try lighten, soft light and darken in its place.",
    {
        "soft": "The size of the blur is the reach of the glow.",
        "out": "Screen brightens, so Levels takes the middle tones back down.",
    },
)  # fmt: skip

WORN_TAPE = _look(
    "Worn tape", "Colours bleed and lines tear, as on a tape that was played too often.",
    "analogue, retro, old video",
    [
        lane("Out", begin("clip"), step("colour-split", amount=0.012, direction="along an angle"),
             step("tape-wear", bleed=1.6, dropouts=7, tear=8, jitter=0.15),
             step("raster-lines", lines=240, depth=0.25), step("saturation", amount=0.85)),
    ],
    "The steps follow the damage: first the colours, then the lines, then the strength of the "
    "colours.",
    {"out": "The split is along the lines only. 0.03 is subtle, 0.5 to 1 is a badly worn tape."},
)  # fmt: skip

TWO_INKS = _look(
    "Two inks", "Printed in two inks that do not quite meet.", "print, halftone, poster",
    [
        lane("Out", begin("clip"), step("levels", black_in=0.02, white_in=0.75),
             step("halftone", inks="two inks", cell=1.2, ink="#21405C", second_ink="#D4572F",
                  paper="#F3EEDE", angle=20),
             step("misregister", cyan=[0.2, 0.1], magenta=[-0.2, 0.1], yellow=[0, -0.15])),
    ],
    "Ink darkens a picture, so Levels opens it first.",
    {"out": "The area of a dot equals the tone. Smaller cells are finer print."},
)  # fmt: skip

LARGE_PIXELS = _look(
    "Large pixels", "Large blocks in few colours, like an early video game.", "eight bit, mosaic, retro",
    [
        lane("Out", begin("clip"), step("pixelate", cell=0.03, square=True, sampling="average"),
             step("posterise", tone_gap=0.12)),
    ],
    "Blocks come before tones. In the other order the edges would keep mixed tones.",
    {"out": "Cell is a share of the frame, so it looks the same at any size."},
)  # fmt: skip

RUNNING_PAINT = _look(
    "Running paint", "The picture runs along streaks, like water paint.", "painterly, rain, streaks",
    [
        lane("Streaks", step("noise", cells=9, stretch_x=0.5, stretch_y=30, octaves=4, hardness=5,
                             speed=0.12),
             step("transform", turn=-20, cover=True, outside="mirror")),
        lane("Out", begin("clip"), step("guided-blur", {"guide": reads("streaks")}, size=2.2,
                                        edge_sensitivity=0.9)),
    ],
    "A blur that stops at the edges of another picture: here, of streaks.",
    {
        "streaks": "Stretched 0.5 by 30, the noise runs in lines. Cover enlarges what is turned "
                   "until "
        "no corner is clear.",
    },
)  # fmt: skip

LATE_COPIES = _look(
    "Late copies", "Copies of the clip follow it, each later and larger.", "echo, time, music video",
    [
        lane("Out", begin("clip"), step("echo", copies=3, late=3, grow=0.15, turn=4, strength=0.4)),
    ],
    "Each copy is 3 frames later and 0.15 larger than the one before.",
    {"out": "It needs footage that moves. More copies take longer: the card says how long."},
)  # fmt: skip

LETTERS = _over(
    "title", "Letter by letter", "Letters drop into place one after the other.", "type, letters, drop",
    [
        lane("Out", lettering(move_by="letter", overlap=0.6, arrive="soft", from_shift=[0, -0.6],
                              from_opacity=0, from_blur=1.2,
                              arrival=there_and_back(0, 1, "linear", "linear"))),
    ],
    text_controls("Last tram 23:40", 14, "#FFF4DC", [0.5, 0.5]),
    "Arrival goes from 0 to 1 near the start, and back before the end, at any length.",
    {"out": "Overlap 0 is strictly one after the other. Move by word or by line for longer texts."},
)  # fmt: skip

NEON = _over(
    "title", "Tube of light", "A glowing tube along the letters.", "neon, sign, glow",
    [
        NOTHING,
        lane("Letters", lettering(weight="regular", tracking=0.8, fill="#FFFFFF")),
        lane("Tube", begin("letters"),
             step("distance-colours", inside=0.5, outside_reach=0.3, softness=0.12, beyond="clear",
                  stops=[[0, "#00000000"], [0.35, "#FFFFFF00"], [0.6, "#FFFFFF"], [1, "#FFFFFF"]])),
        lane("Colour", step("flat", colour=by("colour")),
             step("matte-to-alpha", {"matte": reads("tube", channel="alpha")})),
        lane("Out", begin("colour"), step("glow", threshold=0.02, softness=0.02, size=5, sizes=4, gain=1.8,
                                          tint="#FFFFFF"),
             step("blend", {"over": reads("tube")}, mode="add", opacity=0.5), fades()),
    ],
    text_controls("Night Café", 20, "#39D0C0", [0.5, 0.5]),
    "Distance colours gives each point a colour by its distance from the edge of the letters. "
    "The tube "
    "is the white line in it.",
    {
        "nothing": "Clear all over: the title fades in from it, and out to it.",
        "tube": "Inside sets how thick the tube is.",
        "colour": "It follows the control Colour.",
        "out": "The white tube is added at the end: a lamp is white at its core.",
    },
)  # fmt: skip

LIGHT_OVER = _over(
    "title", "Light over letters", "A band of light passes over the letters.", "light sweep, shine, logo",
    [
        NOTHING,
        lane("Out", lettering(weight="bold"),
             step("light-sweep", progress=moving(0, 1, {"into": "sine", "out": "sine"}), width=26,
                  angle=20, softness=0.7, intensity=0.8, tint="#FFF1C9", mode="add"), fades()),
    ],
    text_controls("Open day", 18, "#C9985A", [0.5, 0.5]),
    "At progress 0 and 1 the light is completely outside the frame, at any angle.",
    {
        "nothing": "Clear all over: the title fades in from it, and out to it.",
        "out": "It stays on the letters because the sweep keeps to the picture's alpha.",
    },
)  # fmt: skip

DUST = _over(
    "texture", "Drifting dust", "Specks of dust drift through the air.", "particles, film, air",
    [
        lane("Out", step("dirt", density=120, size_from=0.5, size_to=3, stay="still", drift=4),
             step("blur", size=0.15), step("tint", stops=[[0, "#FFF3DC00"], [1, "#FFF3DC"]])),
    ],
    [],
    "Clear where there is nothing: lay it over a clip.",
    {
        "out": "Still, so that each speck only drifts. The blur takes it out of focus. Tint makes "
        "black clear.",
    },
)  # fmt: skip

POOL = _over(
    "texture", "Light on water", "The web of light on the floor of a pool.", "caustic, sea, summer",
    [
        lane("Out", step("caustic", cells=4, speed=0.25),
             step("tint", stops=[[0, "#04343F"], [0.5, "#1B8A93"], [1, "#F2FFF8"]])),
    ],
    [],
    "The light is bent by a moving surface, so it gathers in lines.",
    {"out": "Without Tint you can use it as a map for Displace: the clip then looks like it is "
            "under water."},
)  # fmt: skip

CLOUDS = _over(
    "texture", "Slow clouds", "Clouds that change without moving on.", "fog, sky, smoke",
    [
        lane("Out", step("noise", cells=3, stretch_x=1.6, octaves=6, speed=0.12, hardness=1.6,
                         white_share=0.45),
             step("tint", stops=[[0, "#27303A"], [1, "#D9DEE0"]])),
    ],
    [],
    "White share says how cloudy it is, hardness how sharp the clouds' edges are.",
    {"out": "More octaves add finer detail. Speed is how fast the clouds change."},
)  # fmt: skip

SCRATCHES = _over(
    "texture", "Film scratches", "Thin upright scratches that come and go.", "old film, worn, dirt",
    [
        lane("Out", step("dirt", form="scratches", density=16, life=3, size_to=4),
             step("tint", stops=[[0, "#FFFFFF00"], [1, "#FFFFFF"]])),
    ],
    [],
    "Clear between the scratches: lay it over a clip.",
    {"out": "Life says for how many frames a scratch stays in one place."},
)  # fmt: skip

BRUSHED = _over(
    "texture", "Brushed metal", "Fine streaks along the frame.", "steel, hair, streaks",
    [
        lane("Out", step("noise", cells=60, stretch_x=40, octaves=3, hardness=0.8),
             step("tint", stops=[[0, "#565B60"], [0.5, "#9AA0A5"], [1, "#E4E7E9"]])),
    ],
    [],
    "Noise that is stretched far in one direction runs in streaks.",
    {"out": "Stretch x sets how long the streaks are. As a surface for Relief it looks like metal."},
)  # fmt: skip

RECIPES = (
    NOISE_WIPE, BRIGHTNESS_WIPE, DOTS, CELLS, RINGS, LIQUID, SIGNAL_HIT, SMOKE,
    SOFT_GLOW, WORN_TAPE, TWO_INKS, LARGE_PIXELS, RUNNING_PAINT, LATE_COPIES,
    LETTERS, NEON, LIGHT_OVER, DUST, POOL, CLOUDS, SCRATCHES, BRUSHED,
)  # fmt: skip
"""In the order in which they are offered."""
