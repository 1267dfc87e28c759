"""Mattes: grow, feather, rim, combine and apply them."""

from __future__ import annotations

import numpy as np

from ..kernels.filters import mixing, morph
from ..pictures.picture import Plane
from ..pictures.softening import gaussian
from ..values.params import Choice, Number, Toggle
from .declare import Call, InputKind, step

_SIDES = ("across", "inside", "outside")
_CUTS = ("multiply", "set", "limit to", "cut away")


def _length(call: Call, name: str) -> float:
    return float(call.values[name]) / 100 * call.size.height


@step(
    "grow",
    label="Grow / shrink",
    family="Mattes",
    sentence="Makes the white of a matte thicker, or thinner.",
    words=("dilate", "erode", "choke", "spread", "expand", "thicken", "morphology"),
    main="matte",
    gives="matte",
    params=(
        Number(name="amount", default=1.0, slider=(-5, 5), allowed=(-10, 10), unit="%h",
               help="Above 0 grows, below 0 shrinks."),
        Choice(name="shape", default="disc", options=("disc", "square"), moves=False),
    ),
    source="grey morphology; scipy.ndimage.grey_dilation as the reference",
)  # fmt: skip
def grow(call: Call) -> Plane:
    """The largest value within a disc or square (the smallest, below 0); (H, W).

    Fractions of a pixel are interpolated between whole radii, so a keyed amount moves smoothly.
    """
    return morph.grown(call.main, _length(call, "amount"), call.values["shape"])


@step(
    "feather",
    label="Feather",
    family="Mattes",
    sentence="Softens a matte's edge.",
    words=("soft edge", "blur matte", "smooth", "ink bleed"),
    main="matte",
    gives="matte",
    params=(
        Number(name="size", default=1.0, slider=(0, 10), allowed=(0, 100), unit="%h",
               help="Softness of the border (standard deviation)."),
        Choice(name="side", default="across", options=_SIDES, moves=False,
               help="The side of the old border on which the soft one lies."),
    ),
)  # fmt: skip
def feather(call: Call) -> Plane:
    """Gaussian g of the matte; inside: max(0, 2g − 1), outside: min(1, 2g); (H, W).

    On the old edge g = 0.5, so the softness ends or begins there.
    """
    soft = gaussian(call.main, _length(call, "size"))
    side = call.values["side"]
    if side == "inside":
        return np.asarray(np.maximum(soft * np.float32(2) - np.float32(1), 0))
    if side == "outside":
        return np.asarray(np.minimum(soft * np.float32(2), 1))
    return soft


@step(
    "rim",
    label="Rim",
    family="Mattes",
    sentence="A band along a matte's edge.",
    words=("outline", "stroke", "border", "edge", "contour"),
    main="matte",
    gives="matte",
    params=(
        Number(name="width", default=1.0, slider=(0, 5), allowed=(0, 10), unit="%h"),
        Number(name="softness", default=0.0, slider=(0, 3), allowed=(0, 100), unit="%h",
               help="Softness of the band (standard deviation)."),
        Choice(name="side", default="across", options=_SIDES, moves=False,
               help="The side of the border on which the band lies."),
    ),
)  # fmt: skip
def rim(call: Call) -> Plane:
    """Grown − shrunk, by half the width each or by the whole width on one side, then softened; (H,
    W)."""
    width = _length(call, "width")
    side = call.values["side"]
    out = {"across": width / 2, "outside": width, "inside": 0.0}[side]
    into = {"across": width / 2, "outside": 0.0, "inside": width}[side]
    matte = call.main
    band = morph.grown(matte, out, "disc") - morph.grown(matte, -into, "disc")
    return gaussian(np.asarray(band), _length(call, "softness"))


@step(
    "matte-to-alpha",
    label="Matte to alpha",
    family="Mattes",
    sentence="Cuts the picture out by a matte.",
    words=("mask", "cut out", "hold out", "alpha", "transparency", "stencil"),
    rowwise=True,
    main="picture",
    inputs=(InputKind("matte", "matte", "White stays."),),
    params=(
        Choice(name="operation", default="multiply", options=_CUTS, moves=False,
               help="How the matte changes the picture's alpha."),
    ),
)  # fmt: skip
def matte_to_alpha(call: Call) -> Plane:
    """α becomes α·m (multiply), m (set), min(α, m) (limit to) or min(α, 1 − m) (cut away).

    Straight colour stays; areas that were clear and that *set* uncovers are black.

    Returns
    -------
    (H, W, 4) picture.
    """
    return mixing.cut_out(call.main, call.inputs["matte"], _CUTS.index(call.values["operation"]))


@step(
    "matte-maths",
    label="Matte maths",
    family="Mattes",
    sentence="Joins two mattes: both, either, or one without the other.",
    words=("boolean", "union", "intersect", "subtract", "xor", "combine mattes"),
    rowwise=True,
    main="matte",
    gives="matte",
    inputs=(InputKind("other", "matte", "The second matte."),),
    params=(
        Choice(name="operation", default="union", moves=False,
               options=("union", "intersect", "subtract", "exclusive-or")),
        Toggle(name="smooth", default=False,
               help="Joins soft borders without a crease."),
    ),
)  # fmt: skip
def matte_maths(call: Call) -> Plane:
    """Of a and b: max, min, min(a, 1 − b), |a − b|; smooth: a + b − ab, ab, a(1 − b), a + b − 2ab.

    Returns
    -------
    (H, W) matte.
    """
    a, b, one = call.main, call.inputs["other"], np.float32(1)
    operation, smooth = call.values["operation"], call.values["smooth"]
    if operation == "union":
        return np.asarray(a + b - a * b if smooth else np.maximum(a, b))
    if operation == "intersect":
        return np.asarray(a * b if smooth else np.minimum(a, b))
    if operation == "subtract":
        return np.asarray(a * (one - b) if smooth else np.minimum(a, one - b))
    return np.asarray(a + b - np.float32(2) * a * b if smooth else np.abs(a - b))
