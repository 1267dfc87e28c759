"""The demo's material titles: text, or any matte, as enamel, foil and print; and the wet window."""

from __future__ import annotations

from ..core.built_in.making import (
    NOTHING,
    Document,
    angle,
    begin,
    by,
    colour,
    effect,
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
    toggle,
)

_SLOT = [
    {"id": "shape", "name": "Shape", "kind": "matte", "fit": "contain",
     "help": "A matte in place of the text, white where the material is."}
]  # fmt: skip
_BY_MATTE = toggle("by-matte", "From a matte", False,
                   "Takes the matte in the slot Shape in place of the text.")  # fmt: skip


def _fed(**more: object) -> list[Document]:
    """The shape of the material: lettering or a matte."""
    return [
        {"id": "given", "name": "Given", "folded": True, "steps": [
            {"id": "slot", "kind": "slot", "values": {"slot": "shape", "fit": "contain"}}]},
        lane("Lettering", lettering(fill="#FFFFFF", **more), step("channel", output="matte",
                                                                  channel="alpha")),
        lane("Matte", begin("lettering"), step(
            "choose", {"second": reads("given")},
            choice={"control": "by-matte", "table": {"true": 2, "false": 1}})),
    ]  # fmt: skip


def _without_fill(controls: list[Document]) -> list[Document]:
    """The controls of a title whose colour is its material's."""
    return [one for one in controls if one["slug"] != "colour"]


def enamel_sign() -> Document:
    """Glossy moulded plastic: dots bent by a caustic, two reliefs, one for the rim, one for the skin."""
    return overlay(
        "title", "Enamel Sign", "Letters of glossy moulded enamel under a moving light.",
        ["plastic", "glossy", "relief", "material"], 3.0,
        [
            NOTHING,
            *_fed(move_by="letter", arrival=there_and_back(0, 1, "sine", "sine"), arrive="past and back",
                  from_shift=[0, 0.5], from_scale=0.6, overlap=0.8),
            lane("Light web", step("caustic", cells=6, focus=0.6, sharpness=0.2, level=0.4,
                                   speed=by("shimmer")),
                 step("blur", size=0.8)),
            lane("Skin", step("dots", size=by("grain"), white_share=0.45, softness=0.8, angle=30),
                 step("displace", {"map": reads("light-web")}, amount_x=1.6, amount_y=1.6,
                      mode="along the slope", outside="mirror")),
            lane("Rounded", begin("matte"), step("feather", size=0.9)),
            lane(
                "Out",
                step("flat", colour=by("enamel")),
                {"id": "skin", **step("relief", {"surface": reads("skin")}, depth=by("skin", 0, 1.6),
                                      detail=0.25, azimuth=by("light"), elevation=50, sheen=0.25,
                                      sharpness=25, darkest=0.35)},
                {"id": "web", **step("relief", {"surface": reads("light-web")}, depth=2.2,
                                     detail=0.6, azimuth=by("light"), elevation=55, darkest=0.4)},
                {"id": "body", **step("relief", {"surface": reads("rounded")}, depth=by("depth"),
                                      detail=0.35, azimuth=by("light"), elevation=42,
                                      sheen=by("gloss"), sharpness=70, darkest=0.18, level=1.1)},
                step("matte-to-alpha", {"matte": reads("matte")}),
                step("light-sweep", {"surface": reads("rounded")},
                     progress={"keys": [{"time": 0.15, "value": 0}, {"time": 0.75, "value": 1}]},
                     width=14, second=0.5, gap=3, bend=9, detail=0.8, intensity=by("gloss", 0, 1.1),
                     mode="screen"),
                step("shadow", form="soft", distance=1.6, size=0.9, opacity=0.55, angle=60),
                fades(),
            ),
        ],
        [
            *_without_fill(text_controls("Enamel", 15, "#FFFFFF", [0.5, 0.5])),
            _BY_MATTE,
            colour("enamel", "Enamel", "#B3202A", "Colour of the enamel."),
            number("gloss", "Gloss", 0.9, 2, "Strength of highlights.", allowed=[0, 20]),
            number("depth", "Depth", 3.2, 10, "How far the letters stand out.", unit="%h",
                   allowed=[-100, 100]),
            number("grain", "Dots", 1.6, 4, "Size of the dots in the enamel's skin.", unit="%h",
                   slider=[0.4, 4], allowed=[0.02, 100]),
            number("skin", "Skin", 0.22, 1, "How rough the skin is."),
            number("shimmer", "Shimmer", 0.12, 1, "How fast the light on it moves.", unit="/s",
                   allowed=[-100, 100]),
            angle("light", "Light from", -130, "Where the light stands."),
        ],
        "A matte smaller than the frame leaves its border clear: fit it to contain, and the enamel "
        "follows it.",
        _SLOT,
    )  # fmt: skip


def crumpled_foil() -> Document:
    """Crinkled foil: clouds, grunge and scratches as one surface, two reliefs over it."""
    return overlay(
        "title", "Crumpled Foil", "Letters cut from crinkled foil.",
        ["foil", "metal", "crinkle", "material"], 3.0,
        [
            NOTHING,
            *_fed(),
            lane("Rounded", begin("matte"), step("feather", size=0.7)),
            lane("Clouds", step("noise", cells=by("crinkles"), octaves=5, fold="ridge",
                                lacunarity=2.1, roughness=0.5, twist=0.35, hardness=1.6,
                                seed=by("seed"))),
            lane("Grunge", step("noise", basis="cell border", cells=by("crinkles", 0, 36),
                                octaves=2, hardness=2.4, seed=by("seed"))),
            lane("Scratches", step("dirt", form="scratches", stay="still", density=26,
                                   seed=by("seed")),
                 step("transform", turn=24, scale_x=1.5, scale_y=1.5, outside="mirror")),
            lane(
                "Surface",
                begin("clouds"),
                step("blend", {"over": reads("grunge")}, mode="multiply", opacity=0.55),
                {"id": "scratched", **step("blend", {"over": reads("scratches")}, mode="subtract",
                                           opacity=0.5)},
            ),
            lane(
                "Out",
                begin("surface"),
                step("tint", stops=[[0, "#39414A"], [0.5, "#A9B4BD"], [1, "#F6FAFC"]]),
                {**step("tint", stops=[[0, "#3B2A12"], [0.5, "#C2983F"], [1, "#FFF0C2"]]),
                 "id": "gold", "mix": by("gold")},
                {"id": "creases", **step("relief", {"surface": reads("surface")}, depth=by("depth"),
                                         detail=0.18, azimuth=there_and_turn(), elevation=48,
                                         sheen=by("shine"), sharpness=18, darkest=0.12, level=1.25)},
                {"id": "body", **step("relief", {"surface": reads("rounded")}, depth=2.2,
                                      detail=0.3, azimuth=-130, elevation=45, sheen=0.5,
                                      darkest=0.2)},
                step("matte-to-alpha", {"matte": reads("matte")}),
                step("grain", amount=0.04),
                step("shadow", form="soft", distance=1.2, size=0.7, opacity=0.5, angle=60),
                fades(),
            ),
        ],
        [
            *_without_fill(text_controls("Foil", 30, "#FFFFFF", [0.5, 0.5])),
            _BY_MATTE,
            number("gold", "Gold", 0, 1, "0 is silver, 1 is gold.", allowed=[0, 1]),
            number("crinkles", "Crinkles", 0.28, 1, "How fine the foil is crinkled.",
                   slider=[0.05, 1], allowed=[0.01, 1]),
            number("depth", "Depth", 4.5, 15, "How deep the creases are.", unit="%h",
                   allowed=[0, 100]),
            number("shine", "Shine", 0.8, 3, "Strength of highlights.", allowed=[0, 20]),
            seed("seed", "Foil", 5, "Another number crumples it another way."),
        ],
        "The light turns once over the length, so the creases sparkle.",
        _SLOT,
    )  # fmt: skip


def there_and_turn() -> Document:
    """The angle of a light that moves along a half circle over the length."""
    return {"keys": [{"time": 0, "value": -160}, {"time": 1, "value": -20}]}


def wet_pane(clip: str | None = None) -> Document:
    """A wet window: standing, slow and fast drops that refract a defocused clip."""
    beads: Document = {
        "density": by("density"), "size": by("drop-size"), "slow": by("slow"), "fast": by("fast"),
        "fast_speed": by("fall", 20, 110), "slow_speed": by("fall", 2, 14),
        "runner_size": by("drop-size"), "irregularity": 0.8, "seed": by("seed"),
    }  # fmt: skip
    return effect(
        "look", "Wet Pane", "Rain on a window: drops stand, run and join over a soft picture.",
        ["rain", "window", "water", "drops"], 4.0, [clip],
        [
            lane("Height", step("beads", **beads)),
            lane("Where", begin("height"), step("levels", white_in=0.085)),
            lane("Soft", begin("clip"), step("defocus", size=by("blur"), highlights=0.6),
                 step("levels", gamma=1.05, white_out=0.9)),
            lane(
                "Through",
                begin("clip"),
                step("blur", size=0.25),
                {"id": "bent", "kind": "displace",
                 "values": {"amount_x": by("bend", 0, -90), "amount_y": by("bend", 0, -150),
                            "mode": "along the slope", "outside": "mirror"},
                 "inputs": {"map": reads("height")}},
                step("levels", white_out=1.08),
            ),
            lane("Dust", step("dirt", form="dust", stay="still", density=140, size_from=0.1,
                              size_to=0.5, seed=by("seed"))),
            lane(
                "Out",
                begin("soft"),
                step("blend", {"over": reads("through"), "matte": reads("where")}),
                step("relief", {"surface": reads("height")}, depth=7, detail=0.12, elevation=58,
                     darkest=0.45, sheen=0.5, sharpness=90),
                {"id": "dusty", **step("blend", {"over": reads("dust")}, mode="soft light",
                                       opacity=by("dust"))},
            ),
        ],
        [
            number("density", "Drops", 0.9, 2, "Number of standing drops.", allowed=[0, 4]),
            number("drop-size", "Size", 2.4, 8, "Size of the drops.", unit="%h", slider=[0.5, 8],
                   allowed=[0.1, 100]),
            {"slug": "slow", "label": "Slow runners", "type": "whole", "default": 8,
             "slider": [0, 40], "allowed": [0, 400], "help": "Drops that creep down."},
            {"slug": "fast", "label": "Fast runners", "type": "whole", "default": 4,
             "slider": [0, 20], "allowed": [0, 400], "help": "Drops that run down."},
            number("fall", "Speed", 0.45, 1, "How fast they run."),
            number("bend", "Refraction", 0.6, 1, "How much the picture is bent in the drops."),
            number("blur", "Blur", 2.6, 10, "How far the clip is out of focus.", unit="%h",
                   allowed=[0, 100]),
            number("dust", "Dust", 0.25, 1, "Dust that stands on the glass.", allowed=[0, 1]),
            seed("seed", "Rain", 7, "Another number gives other drops."),
        ],
        "Drops are one height field: where they meet they join.",
    )  # fmt: skip
