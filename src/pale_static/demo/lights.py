"""The demo's looks of light and time."""

from __future__ import annotations

from ..core.built_in.making import (
    Document,
    angle,
    begin,
    by,
    clip_lane,
    colour,
    effect,
    lane,
    number,
    overlay,
    reads,
    seed,
    step,
    toggle,
)


def soft_hour(clip: str | None = None) -> Document:
    """A blurred copy darkened over its original, then pushed away from it."""
    return effect(
        "look", "Soft Hour", "Evening light: soft shadows, crisp edges, a warm tint and grain.",
        ["glow", "soft", "film", "warm"], 3.0, [clip],
        [
            lane("Soft", begin("clip"), step("blur", size=by("softness"))),
            lane(
                "Out",
                begin("clip"),
                step("blend", {"over": reads("soft")}, mode="darken", opacity=by("darken")),
                {"id": "push", **step("blend", {"over": reads("soft")}, mode="push away",
                                      opacity=by("crisp"))},
                step("bloom", amount=by("haze"), reach=14, threshold=0.45, tint="#FFE4C4"),
                {**step("tint", stops=[[0, "#1B2230"], [0.45, "#8A6A55"], [1, "#FFF1DA"]]),
                 "mix": by("warmth")},
                step("grain", amount=by("grain"), size=0.16),
            ),
        ],
        [
            number("softness", "Softness", 2.5, 8, "How soft the copy is.", unit="%h",
                   allowed=[0, 100]),
            number("darken", "Darken", 0.5, 1, "How much of the soft copy is laid over: 0.3 to 0.7.",
                   allowed=[0, 1]),
            number("crisp", "Crispness", 0.1, 0.4, "How far edges are pushed away from the soft "
                                                   "copy.",
                   allowed=[0, 1]),
            number("haze", "Haze", 0.35, 1, "A veil around lights.", allowed=[0, 20]),
            number("warmth", "Warmth", 0.25, 1, "How much it is tinted like evening light.",
                   allowed=[0, 1]),
            number("grain", "Grain", 0.02, 0.3, "Film grain.", allowed=[0, 5]),
        ],
        "Darken first, then push away: the second pass gives back the edges that the first took.",
    )  # fmt: skip


def wire_glow(clip: str | None = None) -> Document:
    """Outlines that glow, added back to the picture."""
    return effect(
        "look", "Wire Glow", "Every outline glows like a wire, over a dimmed picture.",
        ["outline", "neon", "glow", "edges"], 2.0, [clip],
        [
            lane(
                "Wires",
                begin("clip"),
                step("edges", method="Scharr", channels="luminance", thickness=by("thickness"),
                     strength=by("detail", 1, 12), threshold=0.04),
                step("tint", stops=[[0, "#000000"], [0.5, "#0E7E96"], [1, "#E8FDFF"]]),
                {**step("hue-turn", turn=by("hue"))},
                step("glow", threshold=0.08, softness=0.2, size=by("reach"), sizes=3,
                     gain=by("glow"), saturation=1.3),
            ),
            lane(
                "Out",
                begin("clip"),
                step("saturation", amount=0.55),
                step("levels", white_out=by("picture"), gamma=0.9),
                step("blend", {"over": reads("wires")}, mode="add"),
            ),
        ],
        [
            number("glow", "Glow", 1.4, 6, "Strength of the glow.", allowed=[0, 100]),
            number("reach", "Reach", 3, 15, "How far the glow reaches.", unit="%h",
                   allowed=[0, 100]),
            number("thickness", "Thickness", 0.35, 2, "Thickness of the wires.", unit="%h",
                   allowed=[0, 50]),
            number("detail", "Detail", 0.4, 1, "Higher values find weaker outlines."),
            number("picture", "Picture", 0.45, 1, "How bright the picture behind the wires stays.",
                   allowed=[0, 1]),
            angle("hue", "Hue", 0, "Shifts the hue of the wires. 0 is blue."),
        ],
        "The wires are found by brightness, so colour noise does not glow.",
    )  # fmt: skip


def _shades(glare: bool, clip: str | None) -> Document:
    """Silhouettes with trails that change in each frame, and bloom, over any background."""
    pick: Document = {
        "slug": "pick",
        "label": "Silhouette",
        "type": "choice",
        "default": "dark parts",
        "options": ["dark parts", "bright parts", "a colour"],
        "help": "Which part of the picture becomes the silhouette.",
    }
    number_of = {"control": "pick", "table": {"dark parts": 1, "bright parts": 2, "a colour": 3}}
    picture = (
        lane("Face", begin("clip"), step("solarise", level=by("level"), softness=0.1),
             step("saturation", amount=1.7), step("hue-turn", turn=by("hue")))
        if glare
        else lane("Face", step("flat", colour=by("colour")))
    )  # fmt: skip
    own = (
        [angle("hue", "Hue", 150, "Shifts the hue of the figures.")]
        if glare
        else [colour("colour", "Colour", "#141A26", "Colour of the figures.")]
    )
    document = effect(
        "look", "Platform Glare" if glare else "Platform Shades",
        "Solarised figures that drag their trails along." if glare
        else "Silhouettes that drag their trails, before a glowing sky.",
        ["silhouette", "trail", "solarised" if glare else "shadow", "music"], 3.0, [clip],
        [
            lane("Dark", begin("clip"), step("threshold", level=by("level"), softness=0.12),
                 step("invert")),
            lane("Bright", begin("clip"), step("threshold", level=by("level"), softness=0.12)),
            lane("Coloured", begin("clip"), step("key", colour=by("key"), tolerance=by("tolerance"),
                                                 output="matte"), step("invert")),
            lane("Matte", begin("dark"), step(
                "choose", {"second": reads("bright"), "third": reads("coloured")},
                choice=number_of)),
            picture,
            lane(
                "Figures",
                begin("face"),
                step("matte-to-alpha", {"matte": reads("matte")}),
                step("trail", keep=by("trail", 0.5, 0.97), grow=by("grow"), mode="normal",
                     contrast=1.02, brightness=0.006),
            ),
            lane(
                "Sky",
                begin("behind"),
                step("blur", size=0.8),
                {**step("tint", stops=[[0, "#2B1B3D"], [0.5, "#D9603B"], [1, "#FFE9B0"]]),
                 "mix": by("sky")},
            ),
            lane(
                "Out",
                begin("sky"),
                step("blend", {"over": reads("figures")}),
                step("bloom", amount=by("bloom"), reach=16, threshold=0.5, tint="#FFD9A8"),
            ),
        ],
        [
            pick,
            number("level", "Level", 0.24, 1, "The brightness at which silhouettes begin.",
                   allowed=[0, 1.5]),
            {"slug": "key", "label": "Key colour", "type": "colour", "default": "#3C6E9E",
             "help": "The colour to pick when the silhouette is a colour."},
            number("tolerance", "Tolerance", 0.15, 1, "How far from the key colour still counts.",
                   allowed=[0, 2]),
            *own,
            number("trail", "Trail", 0.7, 1, "How long the trails last."),
            number("grow", "Growth", 0.012, 0.08, "How much trails grow each frame.",
                   slider=[-0.05, 0.08], allowed=[-0.9, 10]),
            number("sky", "Sky", 0.85, 1, "How much the background is tinted like an evening sky.",
                   allowed=[0, 1]),
            number("bloom", "Bloom", 0.6, 2, "How much the bright sky glows over the figures.",
                   allowed=[0, 20]),
        ],
        "Fill the slot Background with any clip; without one the sky is the clip itself, blurred.",
    )  # fmt: skip
    document["slots"].append({
        "id": "behind", "name": "Background", "kind": "texture", "stand_in": clip,
        "fallback": "clip",
        "help": "What lies behind the figures.",
    })  # fmt: skip
    document["lanes"].insert(1, clip_lane("behind", "Background"))
    return document


def platform_shades(clip: str | None = None) -> Document:
    """Silhouettes with trails before a glowing sky."""
    return _shades(False, clip)


def platform_glare(clip: str | None = None) -> Document:
    """The solarised sister of Platform Shades."""
    return _shades(True, clip)


def late_trams(clip: str | None = None) -> Document:
    """Copies that are 3, 6 and 9 frames late, each larger, weaker and turned further; one control
    drives all."""
    return effect(
        "look", "Late Trams", "Late copies of the picture, each larger, weaker and more turned.",
        ["echo", "copies", "dance", "music"], 2.0, [clip],
        [
            lane(
                "Out",
                begin("clip"),
                step("echo", copies=by("copies"), late=3, grow=by("echo", 0, 0.3),
                     turn=by("echo", 0, 14), strength=by("echo", 0, 0.8), mode=by("mode"),
                     outside="mirror"),
            )
        ],
        [
            number("echo", "Echo", 0.5, 1, "Growth, turn and strength of the copies together: at "
                                           "0.5 "
                   "they are 1.15, 1.30, 1.45 as large, at strength 0.4.", allowed=[0, 1]),
            {"slug": "copies", "label": "Copies", "type": "whole", "default": 3, "slider": [1, 8],
             "allowed": [1, 64], "help": "Number of copies, each three frames later."},
            {"slug": "mode", "label": "Blend mode", "type": "choice", "default": "lighten",
             "options": ["lighten", "normal", "screen", "difference"],
             "help": "How copies are laid over the picture."},
        ],
        "Put it on twice: the second echoes the first one's copies too.",
    )  # fmt: skip


def embossed_pass(clip: str | None = None) -> Document:
    """One picture lit as if another were pressed into it."""
    document = effect(
        "look", "Embossed Pass", "The clip looks like stamped tin: another picture stands out of "
                                 "it.",
        ["emboss", "relief", "metal", "stamp"], 2.0, [clip],
        [
            lane("Own", step("noise", cells=9, octaves=5, fold="ridge")),
            lane("Surface", begin("stamp"),
                 step("choose", {"second": reads("own")},
                      choice={"control": "grain", "table": {"true": 2, "false": 1}})),
            lane(
                "Out",
                begin("clip"),
                step("relief", {"surface": reads("surface")}, azimuth=by("azimuth"),
                     elevation=by("elevation"), depth=by("depth"), detail=by("detail"),
                     level=by("level"), darkest=0.08, sheen=by("sheen"), sharpness=40),
            ),
        ],
        [
            angle("azimuth", "Light from", -135, "Where the light stands; −135 is the top left."),
            number("elevation", "Elevation", 40, 90, "How high the light stands.", unit="°",
                   allowed=[0, 90]),
            number("depth", "Depth", 7, 25, "How far bright parts stand out.", unit="%h",
                   slider=[-25, 25], allowed=[-500, 500]),
            number("detail", "Detail", 0.45, 4, "More leaves out finer detail.", unit="%h",
                   allowed=[0, 100]),
            number("level", "Level", 1, 3, "Mean brightness against the clip: 1 keeps it.",
                   allowed=[0, 100]),
            number("sheen", "Sheen", 0.35, 2, "Strength of highlights.", allowed=[0, 20]),
            toggle("grain", "Hammered", False, "Presses a hammered texture instead of the picture."),
        ],
        "At level 1 the mean brightness stays what it was, whatever the light does.",
    )  # fmt: skip
    document["slots"].append({
        "id": "stamp", "name": "Stamp", "kind": "texture", "stand_in": clip,
        "help": "The picture that is pressed in. The clip itself works too.",
    })  # fmt: skip
    document["lanes"].insert(1, clip_lane("stamp", "Stamp"))
    return document


def _frost(clip: bool) -> list[Document]:
    """Passes of the difference of two blurs, with high contrast: stripes and spots grow."""
    fine, coarse = 10 / 10.8, (20**2 - 10**2) ** 0.5 / 10.8
    source = begin("clip") if clip else begin("seeds")
    return [
        lane(
            "Growth",
            source,
            *([step("channel", output="matte", channel="luminance")] if clip else []),
            {
                "id": "grow", "kind": "repeat", "values": {"count": by("passes")},
                "steps": [
                    {"id": "fine", **step("blur", size=by("spacing", 0, 4 * fine),
                                          outside="mirror")},
                    # The remaining picture is weak compared with the difference.
                    {"id": "flat", **step("levels", black_out=0.45, white_out=0.55)},
                    {"id": "apart", **step("sharpen", amount=50,
                                           size=by("spacing", 0, 4 * coarse))},
                    {"id": "hard", **step("threshold", level=by("balance"), softness=0.2)},
                ],
            },
        ),
        lane("Crystal", begin("growth"), step("feather", size=0.25)),
    ]  # fmt: skip


_FROST_CONTROLS = [
    {"slug": "passes", "label": "Passes", "type": "whole", "default": 8, "slider": [1, 14],
     "allowed": [1, 60], "help": "Number of growth passes. You can view each pass on the Bench."},
    number("spacing", "Spacing", 0.15, 1, "Distance of the stripes: 0.25 is 65 pixels at 1080 "
                                          "lines, for blurs of "
           "10 and 20."),
    number("balance", "Balance", 0.5, 1, "Below 0.5 the pattern covers more, above 0.5 less.",
           slider=[0.3, 0.7], allowed=[0, 1]),
]  # fmt: skip


def frost_garden(clip: str | None = None) -> Document:
    """The clip's bright parts grow into stripes and spots of frost."""
    return effect(
        "look", "Frost Garden", "Frost grows out of the picture's own lights and edges.",
        ["growth", "pattern", "frost", "organic"], 3.0, [clip],
        [
            *_frost(True),
            lane("Ice", begin("crystal"),
                 step("tint", stops=[[0, "#0A1B2A"], [0.5, "#5FA7C7"], [1, "#F2FCFF"]])),
            lane(
                "Out",
                begin("clip"),
                step("blend", {"over": reads("ice"), "matte": reads("crystal")},
                     mode="screen", opacity=by("strength")),
                step("relief", {"surface": reads("crystal")}, depth=by("strength", 0, 1.6),
                     detail=0.2, sheen=0.25),
            ),
        ],
        [
            *_FROST_CONTROLS,
            number("strength", "Strength", 0.5, 1, "How much of the frost is seen.",
                   allowed=[0, 1]),
        ],
        "The passes are a Repeat: choose one on its card to see how the pattern grows.",
    )  # fmt: skip


def headlight_pass(clip: str | None = None) -> Document:
    """A sweep of light that bends over the bright parts of a clip."""
    return effect(
        "look", "Headlight Pass", "A headlight passes over the picture and bends over its forms.",
        ["light sweep", "glint", "lamp"], 1.6, [clip],
        [
            lane("Out", begin("clip"), step(
                "light-sweep", {"surface": reads("clip")},
                progress={"keys": [{"time": 0, "value": 0, "ease": {"into": "sine", "out": "sine"}},
                                   {"time": 1, "value": 1}]},
                width=by("width"), angle=by("angle"), intensity=by("strength"),
                tint=by("colour"), mode="soft light", bend=by("bend"), detail=2.5, second=0.6,
                gap=6, softness=1))
        ],
        [
            colour("colour", "Colour", "#FFF1CF", "Colour of the light."),
            number("strength", "Strength", 1, 1, "How strong the light is.", allowed=[0, 10]),
            number("width", "Width", 55, 150, "Width of the band.", unit="%h", allowed=[0.01, 1000]),
            angle("angle", "Direction", 18, "The direction in which it passes."),
            number("bend", "Bend", 22, 60, "How far bright parts bend the light.", unit="%h",
                   slider=[-60, 60], allowed=[-500, 500]),
        ],
        "Before the first and after the last frame the light is wholly outside.",
    )  # fmt: skip


def frost_pane() -> Document:
    """The growth pattern as a texture by itself."""
    return overlay(
        "texture", "Frost Pane", "A pattern that grows by itself: stripes and spots of ice.",
        ["growth", "pattern", "organic", "stripes"], 4.0,
        [
            lane("Seeds", step("noise", cells=70, octaves=2, seed=by("seed"))),
            *_frost(False),
            lane("Out", begin("crystal"),
                 step("tint", stops=[[0, "#0A1B2A00"], [0.5, "#7FC0DA99"], [1, "#F2FCFF"]])),
        ],
        [*_FROST_CONTROLS, seed("seed", "Seeds", 3, "Another number grows another pattern.")],
        "It lies over anything: between the ice it is clear.",
    )  # fmt: skip
