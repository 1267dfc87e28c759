"""Tone and colour."""

from __future__ import annotations

from typing import get_args

from ..kernels.colour import tone as kernel
from ..pictures.picture import Channel, Plane, as_matte, as_picture
from ..values.params import Choice, Number
from .declare import Call, step

_CHANNELS = ("together", "red", "green", "blue")


@step(
    "levels",
    label="Levels",
    family="Tone and colour",
    sentence="Sets black, white and middle: more contrast, or less.",
    words=("contrast", "brightness", "darken", "brighten", "dim", "exposure", "gamma", "curves", "clip", "flash", "strobe", "flicker", "pulse", "fade to black",
           "day for night"),
    rowwise=True,
    main="either",
    gives="same",
    params=(
        Number(name="black_in", default=0.0, slider=(0, 1), allowed=(-10, 10),
               help="What becomes black."),
        Number(name="white_in", default=1.0, slider=(0, 1), allowed=(-10, 10),
               help="What becomes white."),
        Number(name="gamma", default=1.0, slider=(0.1, 4), allowed=(0.01, 100),
               help="Above 1 lightens the middle."),
        Number(name="black_out", default=0.0, slider=(0, 1), allowed=(-10, 10),
               help="What black becomes."),
        Number(name="white_out", default=1.0, slider=(0, 1), allowed=(-10, 10),
               help="What white becomes."),
        Choice(name="channels", default="together", options=_CHANNELS, moves=False,
               help="The channels that change."),
    ),
)  # fmt: skip
def levels(call: Call) -> Plane:
    """out = black out + t^(1/gamma)·(white out − black out), t = (in − black in)/(white in − black in).

    On straight colour; alpha stays. If gamma is not 1, t is clamped at 0. With black in = white in
    the slope is that of a step a thousandth wide. Common practice.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    v = call.values
    span = v["white_in"] - v["black_in"]
    if abs(span) < 1e-3:
        span = -1e-3 if span < 0 else 1e-3
    curve = (v["black_in"], 1 / span, 1 / v["gamma"], v["black_out"], v["white_out"])
    return kernel.levels(call.main, curve, _CHANNELS.index(v["channels"]) - 1)


@step(
    "threshold",
    label="Threshold",
    family="Tone and colour",
    sentence="White above a level, black below, with a soft edge between.",
    words=("cut", "silhouette", "matte", "binary", "hard"),
    rowwise=True,
    main="either",
    gives="matte",
    params=(
        Number(name="level", default=0.5, slider=(0, 1), allowed=(-1, 2)),
        Number(name="softness", default=0.02, slider=(0, 0.5), allowed=(0, 4)),
        Choice(name="measured_by", default="luminance", options=get_args(Channel), moves=False,
               help="What is compared with the level."),
    ),
)  # fmt: skip
def threshold(call: Call) -> Plane:
    """Smoothstep over ``softness``, centred on ``level``; exact white at 0, exact black above 1.

    Returns
    -------
    (H, W) matte, 0..1.
    """
    v = call.values
    matte = as_matte(call.main, v["measured_by"])
    level, softness = v["level"], v["softness"]
    if level <= 0 or level > 1:
        # The ends are exact at any softness: all white, or all black.
        level, softness = (-1e9, 0.0) if level <= 0 else (1e9, 0.0)
    return kernel.threshold(matte, level, softness)


@step(
    "invert",
    label="Invert",
    family="Tone and colour",
    sentence="Black becomes white, white becomes black.",
    words=("negative", "reverse", "opposite", "x-ray"),
    rowwise=True,
    main="either",
    gives="same",
)
def invert(call: Call) -> Plane:
    """1 − straight colour under the same alpha; 1 − value for a matte."""
    return kernel.invert(call.main)


_TAKEN = (*get_args(Channel), "white", "black")
_SWAPPED = ("red", "green", "blue", "alpha")


@step(
    "channel",
    label="Channel",
    family="Tone and colour",
    sentence="Makes a matte from one channel, or swaps channels.",
    words=("matte", "luminance", "alpha", "grey", "brightness", "separate", "swap", "shuffle"),
    rowwise=True,
    main="either",
    gives="matte",
    matte_when=lambda values: values.get("output", "matte") == "matte",
    params=(
        Choice(name="output", default="matte", options=("matte", "picture"), moves=False,
               help="One channel as a matte, or a picture with its channels swapped."),
        Choice(name="channel", default="luminance", options=get_args(Channel), moves=False,
               help="The channel that becomes the matte.", when={"output": ("matte",)}),
        *(
            Choice(name=name, default=name, options=_TAKEN, moves=False,
                   help=f"What becomes the {name} of the picture.", when={"output": ("picture",)})
            for name in _SWAPPED
        ),
    ),
)  # fmt: skip
def channel(call: Call) -> Plane:
    """One channel as a matte, or a picture whose channels are taken from chosen channels.

    Luminance has Rec. 709 weights. A matte is of the premultiplied picture, so clear parts are
    black; a picture is made of straight colours, under its new alpha.

    Returns
    -------
    (H, W) matte, so that later steps work on one channel instead of four; or (H, W, 4).
    """
    v = call.values
    if v["output"] == "matte":
        return as_matte(call.main, v["channel"])
    taken = tuple(_TAKEN.index(v[name]) for name in _SWAPPED)
    return kernel.swapped(as_picture(call.main), taken)
