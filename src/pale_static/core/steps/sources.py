"""Sources: where lanes begin."""

from __future__ import annotations

from fractions import Fraction
from functools import lru_cache
from math import hypot
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..faults import Missing
from ..footage import Cut, Footage, Nested, Wired, frame_at, frozen_at, shown_at, stand_in
from ..kernels.colour import tone
from ..kernels.filters import mixing
from ..pictures.colour import parse_colour, premultiplied
from ..pictures.picture import Plane, as_picture, fit, fit_eight, flat
from ..time.easing import ease_at
from ..time.timing import exact_seconds, nearest_frame
from ..values.params import (
    AssetName,
    Choice,
    ColourParam,
    Number,
    Point,
    SlotName,
    Stops,
    outside,
    whole,
)
from .declare import Call, InputKind, step

FIT = Choice(
    name="fit",
    default="cover",
    options=("cover", "contain", "stretch", "actual"),
    help="How a picture of another shape sits in the frame.",
    moves=False,
)
FOCUS = Point(
    name="focus",
    default=(0.5, 0.5),
    help="The point of a larger picture that stays in sight, as near the middle as can be.",
    moves=False,
    when={"fit": ("cover", "actual")},
)
OUTSIDE = outside("clear", "What to show where the picture does not fill the frame.")
SLOT = (
    SlotName(
        name="slot", default="clip", help="The slot of the effect that is shown.", moves=False
    ),
    FIT,
    FOCUS,
    whole(
        "offset",
        0,
        (-50, 50),
        (-100000, 100000),
        unit="frames",
        help="Skips this many frames of the clip; below 0 it starts later.",
    ),
    Number(
        name="hold",
        default=-1.0,
        slider=(-1, 10),
        allowed=(-1, 86400),
        unit="s",
        help="Freezes the clip at this time; −1 lets it run.",
    ),
    OUTSIDE,
)


def _fitted(footage: Footage, index: int, call: Call) -> Any:
    """A frame of footage fitted to the frame; opaque 8-bit pixels stay as they are."""
    pixels, values = footage.pixels(index), call.values
    how = (call.size, values["fit"], values["outside"], values["focus"], footage.size)
    kept = fit_eight(pixels, *how)
    return fit(pixels, *how) if kept is None else kept


def _slot_filling(call: Call) -> tuple[Footage | Nested | Wired, int]:
    """The filling of the slot at this moment, and the number of its frame."""
    name, hold = call.values["slot"], call.values["hold"]
    filling = call.materials.slots.get(name) or stand_in(name)
    if hold >= 0:
        exact = exact_seconds(hold)
        frame = nearest_frame(exact.numerator, exact.denominator, call.moment.rate.exact)
    else:
        frame = call.running.frame + call.values["offset"]
    return shown_at(filling, frame)


def _slot_shows(call: Call) -> tuple[Nested | Wired, int] | None:
    """The effect that fills the slot, and the number of its frame; None for footage."""
    filling, frame = _slot_filling(call)
    if isinstance(filling, Wired):
        return filling, frame
    return (filling, filling.frame_at(frame)) if isinstance(filling, Nested) else None


def _slot_frame(call: Call) -> tuple[Footage, int, int, float]:
    """The footage, its frame, a second frame to mix with it, and the second one's weight."""
    footage, frame = _slot_filling(call)
    assert not isinstance(footage, Nested | Wired)
    hold = call.values["hold"]
    if isinstance(footage, Cut) and hold < 0:
        return footage, *footage.between(Fraction(frame) / call.moment.rate.exact)
    if hold >= 0:
        index = frozen_at(footage, hold, getattr(footage, "start", Fraction(0)))
    else:
        index = frame_at(footage, Fraction(frame) / call.moment.rate.exact)
    return footage, index, index, 0.0


def _slot_reads(call: Call) -> tuple[str, int, int, float]:
    footage, index, other, weight = _slot_frame(call)
    return footage.identity, index, other, weight


@step(
    "slot",
    label="Slot",
    family="Sources",
    sentence="The clip, text or matte that the editor brings.",
    words=("clip", "footage", "input", "layer"),
    params=SLOT,
    reads=_slot_reads,
    shows=_slot_shows,
)
def slot(call: Call) -> Plane:
    """The slot's material at this moment, fitted to the frame.

    Outside the material its first or last frame holds. An empty slot shows a stand-in card. An
    effect in place of material is computed at its own frame, at the size of this one.

    Returns
    -------
    (H, W, 4) picture.
    """
    footage, index, other, weight = _slot_frame(call)
    picture = _fitted(footage, index, call)
    if not weight:
        return picture
    later = _fitted(footage, other, call)
    return mixing.mix(as_picture(picture), as_picture(later), weight)


def _asset(call: Call) -> Footage:
    name = call.values["asset"]
    if not name:
        return stand_in("still")
    footage = call.materials.assets.get(name)
    if footage is None:
        raise Missing(
            f"The picture “{name}” is not in the library. Bring it in, or choose another."
        )
    return footage


@step(
    "still",
    label="Still",
    family="Sources",
    sentence="A picture from the library.",
    words=("image", "photo", "logo", "texture"),
    params=(
        AssetName(name="asset", default="", help="The picture that is shown.", moves=False),
        FIT,
        FOCUS,
        OUTSIDE,
    ),
    reads=lambda call: _asset(call).identity,
)
def still(call: Call) -> Plane:
    """A picture from the library, fitted to the frame; (H, W, 4)."""
    return _fitted(_asset(call), 0, call)


@step(
    "continue-from",
    label="Continue from",
    family="Sources",
    sentence="Starts a lane with what another lane or step gives.",
    words=("copy", "reuse", "branch", "duplicate"),
    gives="same",
    inputs=(InputKind("from", "either", "The lane or step to go on from."),),
    takes_eight=("from",),
)
def continue_from(call: Call) -> Plane:
    """The result of its input, unchanged."""
    return call.inputs["from"]


@step(
    "flat",
    label="Flat",
    family="Sources",
    sentence="One colour all over.",
    words=("solid", "colour", "background", "plain"),
    params=(ColourParam(name="colour", default="#808080"),),
)
def flat_colour(call: Call) -> Plane:
    """One colour with its alpha; (H, W, 4), premultiplied."""
    return flat(call.size, premultiplied(parse_colour(call.values["colour"])))


_SHAPES = ("linear", "radial", "angular", "diamond")
_BEYOND = ("clamp", "repeat", "mirror")


@step(
    "ramp",
    label="Ramp",
    family="Sources",
    sentence="A smooth change from one point to another.",
    words=("gradient", "fade", "direction", "wipe", "circle", "clock wipe", "sunrise", "sky"),
    # With its default stops it is grey: a ramp to wipe along.
    matte_when=lambda values: "stops" not in values,
    params=(
        Choice(name="shape", default="linear", options=_SHAPES),
        Point(name="start", default=(0.0, 0.5), help="Where the first stop lies."),
        Point(name="end", default=(1.0, 0.5), help="Where the last stop lies."),
        Stops(name="stops", help="Colours along the ramp."),
        Choice(name="beyond", default="clamp", options=_BEYOND, help="What lies past the ends."),
    ),
)
def ramp(call: Call) -> Plane:
    """Colour stops over the position between two points.

    Linear: t = (x − start)·(end − start) / |end − start|², in pixels, so lines of equal t are
    square to the ramp at any frame shape. Radial: t = |x − start| / |end − start|, round at any
    frame shape. Angular: t = the turn about the start, clockwise from the end, of a whole one.
    Diamond: t = (|along| + |across|) / |end − start|. Between stops premultiplied colours are mixed
    by the ease of the earlier stop.

    Returns
    -------
    (H, W, 4) picture; or (H, W) matte if the stops go from black to white and are opaque.
    """
    values, size = call.values, call.size
    x0, y0 = values["start"][0] * size.width, values["start"][1] * size.height
    x1, y1 = values["end"][0] * size.width, values["end"][1] * size.height
    # A ramp with both points in one place is a step there, a thousandth of a pixel long.
    length = max(hypot(x1 - x0, y1 - y0), 1e-3)
    place = tone.ramp(
        size.height,
        size.width,
        _SHAPES.index(values["shape"]),
        (x0, y0),
        ((x1 - x0) / length, (y1 - y0) / length),
        1 / length,
        _BEYOND.index(values["beyond"]),
    )
    if values["stops"] == ((0.0, "#000000"), (1.0, "#FFFFFF")):
        return place
    return tone.coloured(place, stops_table(values["stops"]))


@lru_cache(maxsize=64)
def stops_table(stops: tuple[tuple[Any, ...], ...]) -> NDArray[np.float32]:
    """Colour stops as 1,025 premultiplied colours from place 0 to 1, eased between stops."""
    grid = np.linspace(0, 1, 1025)
    colours = np.array([premultiplied(parse_colour(stop[1])) for stop in stops])
    table = np.empty((len(grid), 4), np.float32)
    table[:] = colours[0]
    for one, two, first, last in zip(stops, stops[1:], colours, colours[1:], strict=False):
        ease: Any = one[2] if len(one) > 2 else "linear"
        inside = (grid >= one[0]) & (grid < two[0]) if two[0] > one[0] else grid < -1
        shares = [ease_at(ease, (at - one[0]) / (two[0] - one[0])) for at in grid[inside]]
        table[inside] = first + np.array(shares).reshape(-1, 1) * (last - first)
        table[grid >= two[0]] = last
    return table
