"""Tone and colour, continued: colour as a whole."""

from __future__ import annotations

from math import cos, radians, sin

import numpy as np

from ..faults import Missing
from ..kernels.colour import grade, tone
from ..pictures.colour import LUMINANCE, parse_colour
from ..pictures.lookup import LookupTable
from ..pictures.picture import Plane
from ..values.params import Choice, ColourParam, Number, Stops, TableName
from .declare import Call, step
from .sources import stops_table

_LUMINANCE = np.array(LUMINANCE)


@step(
    "posterise",
    label="Posterise",
    family="Tone and colour",
    sentence="Rounds tones to a few greys or colours.",
    words=("8 bit", "levels", "banding", "quantise", "flat colours", "retro"),
    rowwise=True,
    main="either",
    gives="same",
    params=(
        Number(name="tone_gap", default=0.1, slider=(0.01, 1), allowed=(0.001, 10),
               help="Distance between neighbouring tones: 0.1 leaves eleven."),
    ),
)  # fmt: skip
def posterise(call: Call) -> Plane:
    """out = round(in / gap) · gap, of straight colour, halves upward; alpha stays.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    return grade.bent(call.main, grade.POSTERISE, call.values["tone_gap"], 0.0)


@step(
    "solarise",
    label="Solarise",
    family="Tone and colour",
    sentence="Inverts what is brighter than a level.",
    words=("darkroom", "psychedelic", "invert highlights"),
    rowwise=True,
    main="either",
    gives="same",
    params=(
        Number(name="level", default=0.5, slider=(0, 1), allowed=(-1, 2)),
        Number(name="softness", default=0.1, slider=(0, 0.5), allowed=(0, 4)),
    ),
)  # fmt: skip
def solarise(call: Call) -> Plane:
    """out = v + w·(1 − 2v), w a smoothstep over the softness about the level; straight colour.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    v = call.values
    return grade.bent(call.main, grade.SOLARISE, v["level"], max(v["softness"], 1e-6))


@step(
    "saturation",
    label="Saturation",
    family="Tone and colour",
    sentence="More colour, or less, down to grey.",
    words=("vivid", "grey", "desaturate", "black and white", "colourful"),
    rowwise=True,
    main="picture",
    params=(
        Number(name="amount", default=1.0, slider=(0, 2), allowed=(-10, 10),
               help="0 is grey, 1 changes nothing, above 1 gives more colour."),
    ),
)  # fmt: skip
def saturation(call: Call) -> Plane:
    """out = Y + amount·(in − Y), with Rec. 709 luminance Y; (H, W, 4)."""
    return grade.matrix(call.main, saturation_matrix(call.values["amount"]))


def saturation_matrix(amount: float) -> np.ndarray:
    """(3, 3): the matrix of saturation for red, green and blue."""
    return np.asarray(amount * np.eye(3) + (1 - amount) * np.tile(_LUMINANCE, (3, 1)))


@step(
    "hue-turn",
    label="Hue turn",
    family="Tone and colour",
    sentence="Turns every colour around the wheel.",
    words=("colour shift", "rotate hue", "rainbow"),
    rowwise=True,
    main="picture",
    params=(
        Number(name="turn", default=0.0, slider=(-180, 180), allowed=(-36000, 36000), unit="°"),
    ),
)  # fmt: skip
def hue_turn(call: Call) -> Plane:
    """A turn of the plane of Cb and Cr (Rec. 709): luminance and greys stay.

    Returns
    -------
    (H, W, 4) picture.

    References
    ----------
    Rec. ITU-R BT.709-6, items 3.2 and 3.3.
    """
    return grade.matrix(call.main, hue_matrix(call.values["turn"]))


def hue_matrix(turn: float) -> np.ndarray:
    """(3, 3): the matrix of a turn of the chroma plane for red, green and blue."""
    to = np.stack(
        [
            _LUMINANCE,
            (np.array([0, 0, 1]) - _LUMINANCE) / 1.8556,
            (np.array([1, 0, 0]) - _LUMINANCE) / 1.5748,
        ]
    )
    c, s = cos(radians(turn % 360)), sin(radians(turn % 360))
    return np.asarray(np.linalg.inv(to) @ np.array([[1, 0, 0], [0, c, -s], [0, s, c]]) @ to)


def _triple(
    name: str, default: float, slider: tuple[float, float], help: str
) -> tuple[Number, ...]:
    return tuple(
        Number(name=f"{name}_{colour}", default=default, slider=slider,
               allowed=(0, 100) if name != "offset" else (-10, 10), help=help)
        for colour in ("red", "green", "blue")
    )  # fmt: skip


@step(
    "balance",
    label="Balance",
    family="Tone and colour",
    sentence="Slope, offset and power of each colour, and saturation.",
    words=(
        "grade",
        "cdl",
        "lift gamma gain",
        "colour correction",
        "warm",
        "cool",
        "exposure",
        "teal and orange",
    ),
    rowwise=True,
    main="picture",
    params=(
        *_triple("slope", 1.0, (0, 2), "Multiplies."),
        *_triple("offset", 0.0, (-0.5, 0.5), "Adds."),
        *_triple("power", 1.0, (0.2, 4), "Bends; above 1 darkens the middle."),
        Number(name="saturation", default=1.0, slider=(0, 2), allowed=(0, 10)),
    ),
    source="ASC Color Decision List 1.2",
)
def balance(call: Call) -> Plane:
    """out = clamp(in·slope + offset)^power, then saturation about Rec. 709 luminance.

    On straight colour, clamped to 0..1 as in the standard; alpha stays.

    Returns
    -------
    (H, W, 4) picture.

    References
    ----------
    ASC Color Decision List (ASC CDL) 1.2, order of operations.
    """
    v = call.values
    slope, offset, power = (
        (v[f"{name}_red"], v[f"{name}_green"], v[f"{name}_blue"])
        for name in ("slope", "offset", "power")
    )
    return grade.cdl(call.main, slope, offset, power, v["saturation"])


@step(
    "tint",
    label="Tint by brightness",
    family="Tone and colour",
    sentence="Colours for dark, middle and bright, from a ramp of stops.",
    words=("duotone", "tritone", "gradient map", "colour map", "sepia", "two tone", "colourise",
           "colour wash", "teal and orange", "night vision", "infrared", "gold"),
    rowwise=True,
    main="either",
    params=(
        Stops(name="stops", default=((0.0, "#1B1530"), (0.5, "#B0563F"), (1.0, "#FFE9B8")),
              help="Two stops for two tones, three for three."),
    ),
)  # fmt: skip
def tint(call: Call) -> Plane:
    """Colour stops over Rec. 709 luminance of straight colour; alpha is multiplied by the stop's
    alpha.

    Returns
    -------
    (H, W, 4) picture.
    """
    main, table = call.main, stops_table(call.values["stops"])
    if main.ndim == 2:
        return tone.coloured(main, table)
    return tone.recoloured(main, table)


@step(
    "key",
    label="Key",
    family="Tone and colour",
    sentence="Removes one colour, whatever its brightness.",
    words=("chroma key", "green screen", "blue screen", "colour matte", "remove background"),
    rowwise=True,
    main="picture",
    gives="same",
    params=(
        ColourParam(name="colour", default="#1FA34A", help="The colour that goes."),
        Number(name="tolerance", default=0.12, slider=(0, 0.5), allowed=(0, 2),
               help="How far from the colour a pixel may be and still go."),
        Number(name="softness", default=0.08, slider=(0, 0.5), allowed=(0, 2)),
        Number(name="spill", default=0.5, slider=(0, 1), allowed=(0, 1),
               help="How much of the colour's cast is removed from what stays.",
               when={"output": ("alpha",)}),
        Choice(name="output", default="alpha", options=("alpha", "matte"), moves=False,
               help="The picture cut out, or the matte alone."),
    ),
)  # fmt: skip
def key(call: Call) -> Plane:
    """A matte by the distance from a colour in the plane of Rec. 709 Cb and Cr.

    0 within the tolerance, 1 beyond tolerance + softness, a smoothstep between. As *alpha* the
    picture is multiplied by it, and *spill* removes chroma along the colour's own from the rest.

    Returns
    -------
    (H, W, 4) picture, or (H, W) matte if that is the chosen result.
    """
    v = call.values
    red, green, blue, _ = parse_colour(v["colour"])
    matte = grade.key(call.main, (red, green, blue), v["tolerance"], v["softness"])
    if v["output"] == "matte":
        return matte
    return grade.keyed(call.main, matte, (red, green, blue), v["spill"])


@step(
    "lookup-table",
    label="Lookup table",
    family="Tone and colour",
    sentence="Changes the colours by a .cube file.",
    words=("lut", "cube", "film look", "print film", "colour transform"),
    main="picture",
    params=(
        TableName(name="table", default="", moves=False,
                  help="A .cube file from Materials. Without one the picture stays as it is."),
    ),
    source="Cube LUT Specification 1.0 (2013); tetrahedral interpolation (Sakamoto & Itooka 1981)",
)  # fmt: skip
def lookup_table(call: Call) -> Plane:
    """table(straight colour), times alpha; colours outside the table's range are clamped to it.

    Curves (1-D) are linear between entries; cubes (3-D) are mixed from the four corners of the
    tetrahedron that a colour lies in.

    Returns
    -------
    (H, W, 4) picture; alpha stays.

    Raises
    ------
    Missing
        If the table is not in the library.
    """
    name = call.values["table"]
    if not name:
        return call.main
    found = getattr(call.materials.assets.get(name), "table", None)
    if not isinstance(found, LookupTable):
        raise Missing(
            f"The lookup table “{name}” is not in the library. Bring the .cube file in, or choose "
            "another."
        )
    return found.apply(call.main)
