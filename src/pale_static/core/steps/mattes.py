"""Mattes: grown, feathered, rimmed, put together, and put to use."""

from __future__ import annotations

import numpy as np

from ..kernels import mixing, morph
from ..params import Choice, Number, Toggle
from ..picture import Plane
from .blur import gaussian
from .declare import Call, TapKind, step

_WHERE = ("across", "inside", "outside")
_CUTS = ("multiply", "set", "inside", "outside")


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
    words=("soft edge", "blur matte", "smooth"),
    main="matte",
    gives="matte",
    params=(
        Number(name="size", default=1.0, slider=(0, 10), allowed=(0, 100), unit="%h",
               help="Standard deviation of the edge's softness."),
        Choice(name="where", default="across", options=_WHERE, moves=False,
               help="On which side of the old edge the new one lies."),
    ),
)  # fmt: skip
def feather(call: Call) -> Plane:
    """Gaussian g of the matte; inside: max(0, 2g − 1), outside: min(1, 2g); (H, W).

    A straight edge has g = 0.5 where it was, so that is where the softness then ends or begins.
    """
    soft = gaussian(call.main, _length(call, "size"))
    where = call.values["where"]
    if where == "inside":
        return np.asarray(np.maximum(soft * np.float32(2) - np.float32(1), 0))
    if where == "outside":
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
               help="Standard deviation of the band's softness."),
        Choice(name="where", default="across", options=_WHERE, moves=False,
               help="On which side of the edge the band lies."),
    ),
)  # fmt: skip
def rim(call: Call) -> Plane:
    """Grown − shrunk: by half the width each, or by all of it on one side; then softened; (H, W)."""
    width = _length(call, "width")
    where = call.values["where"]
    out = {"across": width / 2, "outside": width, "inside": 0.0}[where]
    into = {"across": width / 2, "outside": 0.0, "inside": width}[where]
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
    taps=(TapKind("matte", "matte", "White stays."),),
    params=(
        Choice(name="how", default="multiply", options=_CUTS, moves=False,
               help="What becomes of the alpha that is there."),
    ),
)  # fmt: skip
def matte_to_alpha(call: Call) -> Plane:
    """α becomes α·m (multiply), m (set), min(α, m) (inside) or min(α, 1 − m) (outside).

    Straight colour stays; where *set* uncovers what was clear there is no colour, so it is black.

    Returns
    -------
    (H, W, 4) picture.
    """
    return mixing.cut_out(call.main, call.taps["matte"], _CUTS.index(call.values["how"]))


@step(
    "matte-maths",
    label="Matte maths",
    family="Mattes",
    sentence="Puts two mattes together: both, either, one without the other.",
    words=("boolean", "union", "intersect", "subtract", "xor", "combine mattes"),
    rowwise=True,
    main="matte",
    gives="matte",
    taps=(TapKind("other", "matte", "The second matte."),),
    params=(
        Choice(name="how", default="union", moves=False,
               options=("union", "intersect", "subtract", "exclusive-or")),
        Toggle(name="smooth", default=False,
               help="Soft edges add up instead of meeting in a crease."),
    ),
)  # fmt: skip
def matte_maths(call: Call) -> Plane:
    """Of a and b: max, min, min(a, 1 − b), |a − b|; smooth: a + b − ab, ab, a(1 − b), a + b − 2ab.

    Returns
    -------
    (H, W) matte.
    """
    a, b, one = call.main, call.taps["other"], np.float32(1)
    how, smooth = call.values["how"], call.values["smooth"]
    if how == "union":
        return np.asarray(a + b - a * b if smooth else np.maximum(a, b))
    if how == "intersect":
        return np.asarray(a * b if smooth else np.minimum(a, b))
    if how == "subtract":
        return np.asarray(a * (one - b) if smooth else np.minimum(a, one - b))
    return np.asarray(a + b - np.float32(2) * a * b if smooth else np.abs(a - b))
