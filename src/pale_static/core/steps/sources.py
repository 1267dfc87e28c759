"""Sources: where lanes begin."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from math import hypot
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..colour import parse_colour, premultiplied
from ..easing import ease_at
from ..faults import Missing
from ..footage import Footage, Nested, frame_at, frozen_at, stand_in
from ..kernels import tone
from ..params import AssetName, Choice, ColourParam, Number, Point, SlotName, Stops, outside, whole
from ..picture import Plane, fit, fit_eight, flat
from ..timing import exact_seconds, nearest_frame
from .declare import Call, InputKind, step

FIT = Choice(
    name="fit",
    default="cover",
    options=("cover", "contain", "stretch", "actual"),
    help="How a picture of another shape sits in the frame.",
    moves=False,
)
OUTSIDE = outside("clear", "What to show where the picture does not fill the frame.")
SLOT = (
    SlotName(
        name="slot", default="clip", help="The slot of the effect that is shown.", moves=False
    ),
    FIT,
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


def _fitted(pixels: Any, call: Call) -> Any:
    """Pixels fitted to the frame; opaque 8-bit ones stay as they are."""
    how = (call.size, call.values["fit"], call.values["outside"])
    kept = fit_eight(pixels, *how)
    return fit(pixels, *how) if kept is None else kept


def _slot_footage(call: Call) -> Footage:
    name = call.values["slot"]
    filling = call.materials.slots.get(name) or stand_in(name)
    assert not isinstance(filling, Nested)
    return filling


def _slot_shows(call: Call) -> tuple[Nested, int] | None:
    """The effect that fills the slot, where one does, and which of its frames is shown."""
    filling = call.materials.slots.get(call.values["slot"])
    if not isinstance(filling, Nested):
        return None
    rate, hold = call.moment.rate, call.values["hold"]
    if hold >= 0:
        exact = exact_seconds(hold)
        frame = nearest_frame(exact.numerator, exact.denominator, rate.exact)
    else:
        frame = call.running.frame + call.values["offset"]
    return filling, filling.frame_at(frame)


def _slot_frame(call: Call) -> tuple[str, int]:
    footage, moment = _slot_footage(call), call.running
    start = getattr(footage, "start", Fraction(0))
    if call.values["hold"] >= 0:
        return footage.identity, frozen_at(footage, call.values["hold"], start)
    seconds = Fraction(moment.frame + call.values["offset"]) / moment.rate.exact
    return footage.identity, frame_at(footage, seconds + start)


@step(
    "slot",
    label="Slot",
    family="Sources",
    sentence="The clip, text or matte that the editor brings.",
    words=("clip", "footage", "input", "layer"),
    params=SLOT,
    reads=_slot_frame,
    shows=_slot_shows,
)
def slot(call: Call) -> Plane:
    """The slot's material at this moment, fitted to the frame.

    Past either end of the material its edge frame holds. An empty slot shows a stand-in card. An
    effect in place of material is asked for its own frame, at the size of this one.

    Returns
    -------
    (H, W, 4) picture.
    """
    _, index = _slot_frame(call)
    return _fitted(_slot_footage(call).pixels(index), call)


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
        OUTSIDE,
    ),
    reads=lambda call: _asset(call).identity,
)
def still(call: Call) -> Plane:
    """A picture from the library, fitted to the frame; (H, W, 4)."""
    return _fitted(_asset(call).pixels(0), call)


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
    """What its input gives, unchanged."""
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
    words=("gradient", "fade", "direction", "wipe", "circle"),
    # At its plain stops it is grey, and is what people wipe along.
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
    Diamond: t = (|along| + |across|) / |end − start|. Between stops colours are mixed
    premultiplied, by the ease of the stop before.

    Returns
    -------
    (H, W, 4) picture; or (H, W) matte where the stops are black to white and opaque.
    """
    values, size = call.values, call.size
    x0, y0 = values["start"][0] * size.width, values["start"][1] * size.height
    x1, y1 = values["end"][0] * size.width, values["end"][1] * size.height
    # A ramp with both points in one place is a step there; a thousandth of a pixel will do.
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


def stops_table(stops: Sequence[tuple[Any, ...]]) -> NDArray[np.float32]:
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
