"""The demo's textures that loop without a seam over their length."""

from __future__ import annotations

from ..core.built_in.making import (
    Document,
    begin,
    by,
    colour,
    lane,
    number,
    overlay,
    reads,
    seed,
    step,
)

_ROUND = "frame / length"
"""The share of its loop at which a texture is: the frame after the last equals the first."""


def _float(turns: str, margin: float) -> Document:
    """A horizontal drift with a whole number of rounds over the length."""
    return {"formula": f"100 * (width / height + {margin}) * ({turns}) * rate / length"}


def rail_dust() -> Document:
    """Dust and hairs that float through the light."""
    return overlay(
        "texture", "Rail Dust", "Dust and hairs that float past, near and far; loops.",
        ["dust", "film", "overlay", "loop"], 6.0,
        [
            lane("Far", step("dirt", form="dust", stay="still", density=by("density"),
                             size_from=0.3, size_to=1.1, drift=_float("1", 0.2), angle=0,
                             seed=by("seed")), step("blur", size=0.1)),
            lane("Near", step("dirt", form="dust", stay="still", density=by("density", 0, 24),
                              size_from=1.5, size_to=4, drift=_float("2", 0.2), angle=0,
                              seed=by("seed")), step("blur", size=0.75)),
            lane("Hairs", step("dirt", form="hairs", stay="still", density=5, size_to=2.4,
                               drift=_float("1", 0.7), angle=180, seed=by("seed")),
                 step("blur", size=0.12)),
            lane("All", begin("far"), {"id": "near", **step("blend", {"over": reads("near")},
                                                            mode="screen", opacity=0.75)},
                 {"id": "hairs", **step("blend", {"over": reads("hairs")}, mode="screen",
                                        opacity=0.7)}),
            lane("Out", step("flat", colour=by("colour")),
                 step("matte-to-alpha", {"matte": reads("all")})),
        ],
        [
            number("density", "Dust", 120, 400, "How much dust there is.", allowed=[0, 3000],
                   slider=[0, 400]),
            colour("colour", "Colour", "#FFF3DE", "Colour of the dust."),
            seed("seed", "Dust seed", 4, "Another number gives other dust."),
        ],
        "Near dust floats by twice while far dust does once, so the loop has no seam.",
    )  # fmt: skip


def old_glass() -> Document:
    """A pane with bubbles, dirt and scratches under a moving light."""
    return overlay(
        "texture", "Old Glass", "An old pane: scratches, dust, and light that wanders; loops.",
        ["glass", "scratches", "overlay", "loop"], 5.0,
        [
            lane("Scratches", step("dirt", form="scratches", stay="still", density=by("scratches"),
                                   seed=by("seed")),
                 step("transform", turn=by("lean"), scale_x=1.7, scale_y=1.7)),
            lane("Hairs", step("dirt", form="hairs", stay="still", density=10, size_to=1.6,
                               seed=by("seed"))),
            lane("Dust", step("dirt", form="dust", stay="still", density=130, size_from=0.25,
                              size_to=1.2, seed=by("seed"))),
            lane("Light", step("caustic", cells=3, focus=0.5, sharpness=0, level=0.5, speed=0,
                               phase={"formula": _ROUND}, seed=by("seed")), step("blur", size=2)),
            lane("Marks", begin("scratches"),
                 {"id": "hairs", **step("blend", {"over": reads("hairs")}, mode="screen",
                                        opacity=0.75)},
                 {"id": "dust", **step("blend", {"over": reads("dust")}, mode="screen",
                                       opacity=0.8)}),
            lane("Caught", begin("marks"), step("blend", {"over": reads("light")}, mode="multiply",
                                                opacity=0.8),
                 {"id": "veil", **step("blend", {"over": reads("light")}, mode="add",
                                       opacity=by("veil", 0, 0.35))}),
            lane("Out", step("flat", colour=by("colour")),
                 step("matte-to-alpha", {"matte": reads("caught")})),
        ],
        [
            number("scratches", "Scratches", 34, 120, "Number of scratches.", allowed=[0, 2000],
                   slider=[0, 120]),
            {"slug": "lean", "label": "Lean", "type": "angle", "default": 18, "slider": [-90, 90],
             "help": "Angle of the scratches."},
            number("veil", "Veil", 0.3, 1, "How milky the pane is.", allowed=[0, 4]),
            colour("colour", "Colour", "#E6F2EE", "Colour of the marks and the dust."),
            seed("seed", "Pane", 6, "Another number is another pane."),
        ],
        "Blend it over a clip with screen or add; the light comes round at the end.",
    )  # fmt: skip


def caustic_pool() -> Document:
    """Light on the floor of a pool."""
    return overlay(
        "texture", "Caustic Pool", "Light that plays on the floor of a pool; loops.",
        ["water", "caustic", "light", "loop"], 6.0,
        [
            lane("Web", step("caustic", cells=by("fineness"), focus=by("depth"),
                             sharpness=by("sharpness"), level=0.3, speed=0,
                             phase={"formula": _ROUND}, twist=by("swirl"), seed=by("seed"))),
            lane("Out", begin("web"), step("tint", stops=[[0, "#063347"], [0.35, "#0E7C8F"],
                                                           [0.75, "#8FE6DE"], [1, "#FFFFFF"]]),
                 step("hue-turn", turn=by("hue"))),
        ],
        [
            number("fineness", "Fineness", 4, 15, "Higher values make finer threads.", unit="cells",
                   slider=[1, 15], allowed=[0.5, 60]),
            number("depth", "Depth", 0.9, 3, "How deep the floor lies.", allowed=[0, 50]),
            number("sharpness", "Sharpness", 0.75, 1, "How thin the threads are.", allowed=[0, 1]),
            number("swirl", "Swirl", 0.8, 6, "How far the web is swirled.", unit="%h",
                   allowed=[0, 100]),
            {"slug": "hue", "label": "Hue", "type": "angle", "default": 0, "slider": [-180, 180],
             "help": "Shifts the hue of the water."},
            seed("seed", "Water", 2, "Another number is another pool."),
        ],
        "It tiles at its borders too.",
    )  # fmt: skip
