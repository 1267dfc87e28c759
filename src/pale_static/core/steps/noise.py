"""Noise: octaves of clouds or cells, stretched, turned, twisted, changing, and evened out."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from math import cos, floor, radians, sin, sqrt
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..kernels.texture import lattice
from ..kernels.texture.noise import LEVELS, REACH
from ..pictures.picture import Plane, Size
from ..time.timing import Moment
from ..values.params import Choice, Number, Point, Toggle, moving_speed, seed, whole
from .declare import Call, step

VALUES = (
    Choice(name="basis", default="gradient", options=lattice.BASES, moves=False,
           help="Soft clouds, blocky clouds, or cells: their distance, their borders or flat "
                "patches."),
    Number(name="cells", default=8.0, slider=(0.5, 60), allowed=(0.01, 500), unit="cells",
           help="Cells across the frame's height: more is finer."),
    Number(name="stretch_x", default=1.0, slider=(0.05, 40), allowed=(0.01, 1000),
           help="How much wider the cells are."),
    Number(name="stretch_y", default=1.0, slider=(0.05, 40), allowed=(0.01, 1000),
           help="How much taller the cells are."),
    whole("octaves", 4, (1, 10), (1, 10), help="Layers of ever finer detail."),
    Number(name="roughness", default=0.5, slider=(0, 1), allowed=(0, 2),
           help="Strength of each layer against the one before."),
    Number(name="lacunarity", default=2.0, slider=(1.5, 4), allowed=(1, 8),
           help="Fineness of each layer against the one before."),
    Choice(name="fold", default="none", options=lattice.FOLDS, moves=False,
           help="Billow: puffs with sharp valleys. Ridge: veins on dark ground."),
    Number(name="angle", default=0.0, slider=(-180, 180), allowed=(-36000, 36000), unit="°",
           help="Turns the noise, clockwise."),
    Point(name="offset", default=(0.0, 0.0), allowed=(-1000, 1000),
          help="Moves the noise, in frame heights."),
    Number(name="phase", default=0.0, slider=(0, 10), allowed=(-10000, 10000),
           help="The point in time at which the noise is shown. Key it to move the noise by hand."),
    Number(name="speed", default=0.0, slider=(0, 3), allowed=(-100, 100), unit="/s", adds_up=True,
           help="How fast the noise changes by itself."),
    moving_speed(),
    Number(name="twist", default=0.0, slider=(0, 2), allowed=(0, 20), unit="cells",
           help="Bends the noise by a second noise, into swirls."),
    Number(name="hardness", default=1.0, slider=(0, 10), allowed=(0, 100),
           help="Contrast: high values leave only black and white."),
    Number(name="white_share", default=0.5, slider=(0, 1), allowed=(-10, 10),
           help="How much of the noise is white. With even out on and great hardness it is the "
                "share of the frame."),
    Toggle(name="even_out", default=False,
           help="Gives every grey the same area, so that a wipe uncovers at a steady rate."),
    seed(),
)  # fmt: skip


def height_of(values: Mapping[str, Any], moment: Moment) -> float:
    """Noise z at a moment: the phase plus the integral of the speed."""
    return float(values["phase"] + values["speed"] * moment.seconds)


def axes(values: Mapping[str, Any], size: Size, z: float) -> NDArray[np.float64]:
    """For each octave, the places of pixel centres in the noise; see
    :func:`kernels.lattice.octaves`.

    The frame's centre is the fixed point of cells, stretch and angle.
    """
    turn = radians(values["angle"] % 360)
    # Right angles stay exact, so that they keep to the fast path where they can.
    c, s = (round(part, 15) for part in (cos(turn), sin(turn)))
    scale = values["cells"] / size.height
    across, down = scale / values["stretch_x"], scale / values["stretch_y"]
    middle_x, middle_y = 0.5 - size.width / 2, 0.5 - size.height / 2
    move_x, move_y = (part * size.height for part in values["offset"])
    px, py = middle_x - move_x, middle_y - move_y
    out = np.empty((int(values["octaves"]), 7))
    fine = 1.0
    for o in range(len(out)):
        fx, fy = across * fine, down * fine
        # Octaves are shifted against each other, so their zeros at lattice points never meet.
        shift = (37.13 * o, 17.71 * o, 9.37 * o)
        out[o] = (
            (px * c + py * s) * fx + shift[0], c * fx, s * fx,
            (py * c - px * s) * fy + shift[1], -s * fy, c * fy,
            z * fine + shift[2],
        )  # fmt: skip
        fine *= values["lacunarity"]
    return out


def weights(values: Mapping[str, Any]) -> NDArray[np.float32]:
    """Amplitude of each octave; they sum to one."""
    each = float(values["roughness"]) ** np.arange(int(values["octaves"]))
    return (each / each.sum()).astype(np.float32)


def _made(values: Mapping[str, Any]) -> dict[str, Any]:
    """The values that define a noise's octaves."""
    return {name: values[name] for name in ("basis", "fold", "twist")}


_SHAPE_OF = (
    "cells", "stretch_x", "stretch_y", "octaves", "roughness", "lacunarity", "angle", "offset",
    "seed", "basis", "fold", "twist",
)  # fmt: skip
KNOT = 1 / 16
"""The distance in z between two measured distributions."""
SAMPLES = 277
"""Lines at which one octave is measured. More octaves use fewer lines, so the work stays about the
same."""


@lru_cache(maxsize=512)
def _distribution(shape: tuple[Any, ...], aspect: float, knot: int) -> NDArray[np.float64]:
    """The cumulative distribution of raw noise over the frame, at one knot of its phase."""
    values = dict(zip(_SHAPE_OF, shape, strict=True))
    # An odd number, so that samples do not align with a lattice.
    lines = int(SAMPLES / sqrt(values["octaves"])) | 1
    size = Size(max(2, round(lines * aspect)), lines)
    raw = lattice.octaves(
        size.height, size.width, axes(values, size, knot * KNOT), weights(values),
        int(values["seed"]), raw=True, **_made(values),
    )  # fmt: skip
    places = (np.clip(raw.ravel(), -REACH, REACH * 0.9999) + REACH) * (LEVELS / (2 * REACH))
    counts = np.bincount(places.astype(np.int32), minlength=LEVELS)
    total = np.concatenate([[0.0], np.cumsum(counts)])
    return np.asarray(total / total[-1])


def even_table(values: Mapping[str, Any], size: Size, z: float) -> NDArray[np.float32]:
    """The table that maps raw noise to its own cumulative share, at this phase.

    The distribution is measured once per noise at knots along z, over the whole frame, and
    interpolated between them: it changes as smoothly as the noise, is the same for all sizes of one
    shape, and frames share the measurements.
    """
    shape = tuple(values[name] for name in _SHAPE_OF)
    aspect = round(size.width / size.height, 3)
    place = z / KNOT
    knot = floor(place)
    table = _distribution(shape, aspect, knot)
    share = place - knot
    if share > 0:
        table = table + share * (_distribution(shape, aspect, knot + 1) - table)
    return table.astype(np.float32)


@step(
    "noise",
    label="Noise",
    family="Sources",
    sentence="Cloudy or cellular grey noise in layers, still or slowly changing.",
    words=(
        "clouds",
        "smoke",
        "fire",
        "lightning",
        "fractal",
        "turbulence",
        "fog",
        "organic",
        "random",
        "cells",
        "cracks",
        "marble",
        "stone",
        "veins",
        "swirls",
    ),
    gives="matte",
    params=VALUES,
    reads=lambda call: height_of(call.values, call.moment),
    source="Perlin 2002, Improving Noise; Worley 1996, A Cellular Texture Basis Function; Ebert et "
    "al., Texturing & Modeling",
)
def noise(call: Call) -> Plane:
    """Noise summed over octaves: Σ roughnessᵒ·fold(n(lacunarityᵒ·p)) / Σ roughnessᵒ.

    p = position in cells, z = phase + speed · seconds. Bases n: *gradient* after
    Perlin 2002 (quintic fade, twelve directions); *value*, random values at lattice points mixed
    by the same fade; *cell distance* F1, *cell border* F2 − F1 and *cell flat* after Worley 1996,
    in two dimensions, with points that circle in their cells as z grows. Folds: n as it is,
    billow 2·|n| − 1, ridge 1 − 2·|n|. *Twist* moves p along two more gradient noises. The sum n
    becomes v = 0.5 + 0.5·n, or with *even out* the share of the frame below it. The result is 0.5 +
    hardness·(v − 1 + white share), clamped to 0..1.

    Returns
    -------
    (H, W) matte, 0..1.

    References
    ----------
    Perlin, *Improving Noise*, SIGGRAPH 2002. Worley, *A Cellular Texture Basis Function*,
    SIGGRAPH 1996. Ebert et al., *Texturing & Modeling*.
    """
    values, size = call.values, call.size
    z = height_of(values, call.moment)
    gain = values["hardness"]
    table = even_table(values, size, z) if values["even_out"] else None
    return lattice.octaves(
        size.height, size.width, axes(values, size, z), weights(values), int(values["seed"]),
        table, gain=gain, lift=0.5 - 0.5 * gain + gain * (values["white_share"] - 0.5), **_made(values),
    )  # fmt: skip
