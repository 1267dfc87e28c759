"""Space, further: ripples, twirls, circles, tiles and bands that slide."""

from __future__ import annotations

from math import radians

import numpy as np
from numpy.typing import NDArray

from ..kernels.filters import shift, space
from ..kernels.texture.noise import permutation
from ..pictures import sampling
from ..pictures.picture import Plane
from ..values.params import Choice, Number, Point, outside, seed, whole
from .declare import Call, step
from .placing import forward, reading
from .space import CENTRE, OUTSIDE_HOLDS, centre_of, length_of


@step(
    "ripple",
    label="Ripple",
    family="Space",
    sentence="Rings that run outward through the picture.",
    words=("water", "waves", "drop", "pond", "wobble", "shockwave"),
    main="either",
    gives="same",
    params=(
        Number(name="amount", default=1.0, slider=(0, 10), allowed=(-100, 100), unit="%h"),
        Number(name="wavelength", default=12.0, slider=(1, 50), allowed=(0.1, 1000), unit="%h"),
        Number(name="phase", default=0.0, slider=(0, 4), allowed=(-10000, 10000), unit="turns",
               help="Moves the rings outward by a wavelength a turn."),
        CENTRE,
        OUTSIDE_HOLDS,
    ),
)  # fmt: skip
def ripple(call: Call) -> Plane:
    """out(c + d) = in(c + d + d/|d| · amount · sin 2π(|d| / wavelength − phase)).

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    amount, wave = length_of(call, "amount"), length_of(call, "wavelength")
    if not amount:
        return call.main
    size = call.size
    numbers = (*centre_of(call), amount, wave, call.values["phase"])
    return sampling.mapped(
        call.main,
        space.ripple(size.height, size.width, *numbers),
        call.values["outside"],
        finite=True,
    )


@step(
    "twirl",
    label="Twirl",
    family="Space",
    sentence="Winds the picture up about a point.",
    words=("swirl", "spiral", "vortex", "spin"),
    main="either",
    gives="same",
    params=(
        Number(name="turn", default=90.0, slider=(-720, 720), allowed=(-36000, 36000), unit="°",
               help="At the centre, clockwise."),
        Number(name="radius", default=50.0, slider=(1, 150), allowed=(0.1, 1000), unit="%h"),
        CENTRE,
        OUTSIDE_HOLDS,
    ),
)  # fmt: skip
def twirl(call: Call) -> Plane:
    """A turn of turn · (1 − r/radius)² about the centre, and none outside the radius.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    size, v = call.size, call.values
    if not v["turn"]:
        return call.main
    numbers = (*centre_of(call), length_of(call, "radius"), radians(v["turn"]))
    return sampling.mapped(
        call.main, space.twirl(size.height, size.width, *numbers), v["outside"], finite=True
    )


@step(
    "polar",
    label="Polar",
    family="Space",
    sentence="Rolls the picture up into a circle, or unrolls one.",
    words=("circle", "planet", "tunnel", "unroll", "radial"),
    main="either",
    gives="same",
    params=(
        Choice(name="direction", default="roll up", options=("roll up", "unroll"), moves=False),
        Number(name="turn", default=0.0, slider=(-180, 180), allowed=(-36000, 36000), unit="°"),
        outside("repeat"),
    ),
)  # fmt: skip
def polar(call: Call) -> Plane:
    """Rolled up, the picture's x is the angle (clockwise from the right) and its y the radius, up
    to half the frame's diagonal; unrolled, the other way.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    size, v = call.size, call.values
    places = space.polar(size.height, size.width, v["direction"] == "unroll", v["turn"] / 360)
    return sampling.mapped(call.main, places, v["outside"], finite=True)


@step(
    "mirror-tiles",
    label="Mirror tiles",
    family="Space",
    sentence="Repeats the picture in tiles, each the mirror image of the next.",
    words=("repeat", "kaleidoscope", "pattern", "seamless", "tile"),
    main="either",
    gives="same",
    params=(
        Number(name="across", default=2.0, slider=(1, 10), allowed=(0.1, 100)),
        Number(name="down", default=2.0, slider=(1, 10), allowed=(0.1, 100)),
        Point(name="shift", default=(0.0, 0.0), help="Moves the tiles, as a share of the frame."),
        Number(name="turn", default=0.0, slider=(-180, 180), allowed=(-36000, 36000), unit="°"),
    ),
)  # fmt: skip
def mirror_tiles(call: Call) -> Plane:
    """Copies of the picture across and down, mirrored at every edge, about the frame's centre.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    v = call.values
    scale = (1 / v["across"], 1 / v["down"])
    matrix = forward(call.size, shift=v["shift"], scale=scale, turn=v["turn"])
    return sampling.affine(call.main, reading(matrix), "mirror")


def slide_offsets(bands: int, share: float, number: int, arrangement: int) -> NDArray[np.float64]:
    """The offset of each band, −1..1: random for a share of them, 0 for the others."""
    table = permutation((number * 7919 + arrangement * 104729) & 0x7FFFFFFF)
    chance = table[np.arange(bands) % 256].astype(np.float64) / 255
    far = table[(np.arange(bands) * 3 + 101) % 256].astype(np.float64) / 127.5 - 1
    return np.where(chance < share, far, 0.0)


@step(
    "slide-rows",
    label="Slide rows",
    family="Space",
    sentence="Slides bands of the picture sideways, by chance.",
    words=("glitch", "tear", "interlace", "broken signal", "shift rows", "jitter"),
    main="either",
    gives="same",
    params=(
        Number(name="amount", default=10.0, slider=(0, 50), allowed=(-500, 500), unit="%w",
               help="How far the furthest band moves."),
        Number(name="band", default=5.0, slider=(0.2, 50), allowed=(0.05, 1000), unit="%h",
               help="Height of a band."),
        Number(name="share", default=0.5, slider=(0, 1), allowed=(0, 1),
               help="Share of the bands that move."),
        whole("hold", 2, (1, 25), (1, 100000), unit="frames", moves=False,
              help="Frames until the next arrangement."),
        outside("repeat", "What comes in from the side."),
        seed(),
    ),
    reads=lambda call: call.moment.frame // int(call.values["hold"]),
)  # fmt: skip
def slide_rows(call: Call) -> Plane:
    """Band k of arrangement ⌊frame / hold⌋ is shifted by amount · offset(seed, arrangement, k).

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    v, size = call.values, call.size
    reach = v["amount"] / 100 * size.width
    if not reach:
        return call.main
    place = (np.arange(size.height) + 0.5) / size.height * 100 / v["band"]
    band = np.floor(place).astype(np.int64)
    offsets = slide_offsets(
        int(band[-1]) + 1, v["share"], int(v["seed"]), call.moment.frame // int(v["hold"])
    )
    shifts = (offsets[band] * reach).astype(np.float32)
    return shift.along(call.main, shifts, v["outside"])
