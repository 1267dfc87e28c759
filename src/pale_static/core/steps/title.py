"""Title: lettering, or the order in which its letters, words or lines are read."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from .. import lettering
from ..colour import parse_colour, premultiplied
from ..faults import Missing
from ..lettering import FAMILIES, Font, Setting
from ..params import Choice, ColourParam, FontName, Number, Point, Text, Toggle, seed
from ..picture import Plane
from .declare import Call, step

_WEIGHTS = ("regular", "bold")


def font_of(call: Call) -> Font:
    """The font a title names: a built-in family, or one from the library.

    Raises
    ------
    Missing
    """
    name, weight = call.values["font"], call.values["weight"]
    if name in FAMILIES:
        return lettering.shipped(name, weight)
    brought = call.materials.fonts.get(name)
    if brought is None:
        raise Missing(
            f"The font “{name}” is not in the library. Bring it in under Materials, or choose "
            f"one of: {', '.join(FAMILIES)}.",
            "font",
        )
    return brought


@step(
    "title",
    label="Title",
    family="Sources",
    sentence="Text set in a font, or the order its letters are read in.",
    words=("text", "type", "typewriter", "lettering", "caption", "words", "credit", "typography", "letters"),
    matte_when=lambda values: values.get("output") == "order ramp",
    params=(
        Text(name="text", default="Lantern Line", lines=True),
        Choice(name="output", default="picture", options=("picture", "order ramp"), moves=False,
               help="The letters, or a matte for wipes: each letter, word or line is one grey, "
                    "from black to white in reading order. A wipe along it goes letter by letter."),
        FontName(name="font", default="Rubik", help="A built-in family, or a font from Materials."),
        Choice(name="weight", default="bold", options=_WEIGHTS, moves=False),
        Number(name="size", default=12.0, slider=(1, 40), allowed=(0, 400), unit="%h",
               help="Type size (the em)."),
        Number(name="tracking", default=0.0, slider=(-2, 10), allowed=(-50, 200), unit="%h",
               help="Extra space after each letter."),
        Number(name="line_spacing", default=1.0, slider=(0.5, 2), allowed=(0, 10),
               help="Distance between lines; 1 is the font's own."),
        Choice(name="align", default="centre", options=("left", "centre", "right"), moves=False),
        Number(name="box", default=0.0, slider=(0, 100), allowed=(0, 1000), unit="%w",
               label="box width", help="Wraps the text to this width; 0 keeps the text's own lines."),
        Point(name="position", default=(0.5, 0.5), help="Where the anchor of the text lies."),
        Choice(name="anchor", default="centre", options=("centre", "baseline"), moves=False,
               help="What lies at the position: the middle of the text, or its first baseline."),
        ColourParam(name="fill", default="#FFFFFF"),
        Number(name="outline", default=0.0, slider=(0, 3), allowed=(0, 100), unit="%h",
               help="Width of an outline around the letters."),
        ColourParam(name="outline_colour", default="#000000", when={"outline": ()}),
        Choice(name="order_by", default="letter", options=("letter", "word", "line"), moves=False,
               help="What comes in order: letters, words or lines.", when={"output": ("order ramp",)}),
        Toggle(name="shuffle", default=False, help="Counts in a random order.",
               when={"output": ("order ramp",)}),
        seed(),
    ),
    source="Unicode Standard Annex 9, Unicode Bidirectional Algorithm",
)  # fmt: skip
def title(call: Call) -> Plane:
    """Text with kerning and ligatures, in both reading directions, wrapped to a box.

    Sizes are of the em. The anchor is the first baseline, or the middle between the height of
    the first line's capitals and the last line's baseline. Letters cover pixels exactly (to
    1/256), at any fraction of a pixel, so that they glide. The outline lies around the letters.
    In an *order ramp* of n letters (words, lines) the k-th holds k / (n − 1), in the order of
    reading or shuffled; each pixel has the grey of the nearest, so a wipe cuts no letter.

    Returns
    -------
    (H, W, 4) picture, or (H, W) matte.

    Raises
    ------
    Missing
        Where the font lacks a character, naming it.
    """
    v, size = call.values, call.size
    shape, unit = (size.height, size.width), size.height / 100
    if not v["text"].strip() or v["size"] == 0:
        return np.zeros(shape if v["output"] == "order ramp" else (*shape, 4), np.float32)
    font, weight, em = font_of(call), v["weight"], v["size"] * unit
    setting = Setting(
        em, v["tracking"] * unit, v["line_spacing"], v["align"], v["box"] * size.width / 100
    )
    layout = lettering.lay_out(font, weight, v["text"], setting)
    x, y = v["position"][0] * size.width, v["position"][1] * size.height
    at = (x, y - layout.middle if v["anchor"] == "centre" else y)
    if v["output"] == "order ramp":
        greys = _greys(layout.units(v["order_by"])[1], v["shuffle"], v["seed"])
        return lettering.nearest_unit(font, weight, layout, em, at, shape, greys, v["order_by"])
    fill = lettering.outlined(font, weight, layout, em, at, shape)
    around = v["outline"] * unit
    rim = lettering.outlined(font, weight, layout, em, at, shape, around) if around > 0 else None
    return lettering.painted(fill, rim, (_colour(v["fill"]), _colour(v["outline_colour"])))


def _colour(text: Any) -> NDArray[np.float32]:
    return np.array(premultiplied(parse_colour(text)), np.float32)


def _greys(count: int, shuffled: bool, seed: int) -> NDArray[np.float32]:
    order = np.arange(count)
    if shuffled:
        order = np.argsort(np.random.Generator(np.random.PCG64(seed)).random(count))
    return order.astype(np.float32) / np.float32(max(1, count - 1))
