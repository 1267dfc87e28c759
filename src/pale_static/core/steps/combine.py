"""Combine: two pictures into one."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from ..faults import Missing
from ..kernels.filters import blending, mixing
from ..pictures.colour import parse_colour, premultiplied
from ..pictures.picture import Eight, Plane, as_picture, is_matte
from ..values.params import Choice, ColourParam, Number, Toggle, whole
from .declare import FORWARD, Call, InputKind, step

PROGRESS = Number(
    name="progress",
    default=0.5,
    slider=(0, 1),
    allowed=(0, 1),
    help="0 shows only the lane's picture, 1 only the incoming one.",
)
INCOMING = InputKind("incoming", "picture", "The picture that takes over.")


def _ends(values: Mapping[str, Any]) -> set[str]:
    """At either end of the progress only one of the two pictures is needed."""
    if values["progress"] <= 0:
        return {"main"}
    return {"incoming"} if values["progress"] >= 1 else {"main", "incoming", "matte"}


@step(
    "luma-wipe",
    label="Luma wipe",
    family="Combine",
    sentence="A matte decides when each pixel changes over, dark first.",
    words=("transition", "reveal", "burn", "dissolve"),
    rowwise=True,
    main="picture",
    inputs=(INCOMING, InputKind("matte", "matte", "Dark places change first, bright ones last.")),
    params=(
        PROGRESS,
        Number(name="softness", default=0.1, slider=(0, 0.5), allowed=(0, 4),
               help="Width of the soft border, in greys of the matte."),
        Toggle(name="invert", default=False, help="Changes bright places first."),
        Number(name="rim_width", default=0.0, slider=(0, 0.3), allowed=(0, 2),
               help="Width of a coloured band along the border, in greys of the matte."),
        ColourParam(name="rim_colour", default="#FFFFFF", when={"rim_width": ()}),
        Number(name="rim_softness", default=0.05, slider=(0, 0.3), allowed=(0, 2),
               when={"rim_width": ()}),
    ),
    fresh={"progress": FORWARD},
    needs=_ends,
    takes_eight=("main", "incoming"),
    gives_eight=True,
)  # fmt: skip
def luma_wipe(call: Call) -> Plane | Eight:
    """out = main + w·(incoming − main), w = clamp((e − m)/s), m the matte clamped to 0..1.

    The edge e = p·(1 + s) runs from 0 to 1 + s; with softness s = 0, w = 1 where m < p. With a
    rim of half width h and softness r, e = p·(1 + s + 2(h + r)) − (h + r), so that the band
    enters and leaves completely; the band is 1 within h of the edge's middle and falls by a
    smoothstep over r. At p = 0 the result is the main input and at p = 1 the incoming one, to
    the last bit; w never falls as p grows.

    Returns
    -------
    (H, W, 4) picture.
    """
    v = call.values
    p, s = v["progress"], v["softness"]
    if p <= 0:
        return call.main
    if p >= 1:
        return call.inputs["incoming"]
    matte = call.inputs["matte"]
    if v["invert"]:
        matte = np.float32(1) - matte
    rim = v["rim_width"]
    reach = rim / 2 + v["rim_softness"] if rim > 0 else 0.0
    edge = p * (1 + s + 2 * reach) - reach
    colour = premultiplied(parse_colour(v["rim_colour"]))
    below, above = call.main, call.inputs["incoming"]
    numbers = (edge, s, rim, v["rim_softness"], colour)
    if call.eight and below.dtype == above.dtype == np.uint8:
        return mixing.wipe_bytes(below, above, matte, *numbers)
    return mixing.wipe(as_picture(below), as_picture(above), matte, *numbers)


@step(
    "dissolve",
    label="Dissolve",
    family="Combine",
    sentence="One picture fades into another.",
    words=("crossfade", "fade", "mix", "transition"),
    rowwise=True,
    main="picture",
    inputs=(INCOMING,),
    params=(
        PROGRESS,
        Choice(name="style", default="plain", options=("plain", "additive", "film-like"),
               help="A plain mix, both added in the middle, or a mix of light as on film.", moves=False),
    ),
    fresh={"progress": FORWARD},
    needs=lambda values: _ends(values) - {"matte"},
    takes_eight=("main", "incoming"),
)  # fmt: skip
def dissolve(call: Call) -> Plane:
    """Plain: a + p·(b − a). Additive: a·min(1, 2 − 2p) + b·min(1, 2p). Film-like: the plain mix
    of linear light (IEC 61966-2-1), encoded again. Exact at p = 0 and p = 1.

    Returns
    -------
    (H, W, 4) picture.
    """
    p = call.values["progress"]
    if p <= 0:
        return call.main
    incoming = call.inputs["incoming"]
    if p >= 1:
        return incoming
    style, main, incoming = call.values["style"], as_picture(call.main), as_picture(incoming)
    if style == "plain":
        return mixing.mix(main, incoming, p)
    if style == "additive":
        one, two = np.float32(min(1.0, 2 - 2 * p)), np.float32(min(1.0, 2 * p))
        out = mixing.add(main * one, incoming * two)
        out[..., 3] = np.minimum(out[..., 3], np.float32(1))
        return out
    light = mixing.mix(blending.linear(main), blending.linear(incoming), p)
    return blending.encoded(light)


@step(
    "blend",
    label="Blend",
    family="Combine",
    sentence="Lays another picture over this one, by any blend mode.",
    words=(
        "overlay", "add", "subtract", "divide", "multiply", "screen", "composite", "layer", "over", "darken", "lighten",
        "difference", "soft light", "hard light", "hard mix", "pin light", "dodge", "burn",
    ),
    rowwise=True,
    main="either",
    gives="same",
    inputs=(
        InputKind("over", "either", "The picture laid over."),
        InputKind("matte", "matte", "Where it is laid; everywhere if empty.", optional=True),
    ),
    params=(
        Choice(name="mode", default="normal", options=blending.MODES),
        Number(name="opacity", default=1.0, slider=(0, 1), allowed=(0, 1)),
        Choice(name="operator", default="over", options=tuple(blending.OPERATORS), moves=False,
               help="Which parts stay where the two pictures overlap, and where they do not."),
        Toggle(name="linear_light", default=False, moves=False,
               help="Blends as real light does: brighter where bright parts overlap."),
    ),
    needs=lambda values: (
        {"main"} if values["opacity"] <= 0 and values["operator"] == "over" else
        {"main", "over", "matte"}
    ),
    source="W3C Compositing and Blending Level 1; Porter & Duff 1984",
)  # fmt: skip
def blend(call: Call) -> Plane:
    """co = αs·(1 − αb)·Cs + (1 − αs)·αb·Cb + αs·αb·B(Cb, Cs); αo = αs + αb·(1 − αs).

    αs is the alpha of the upper picture times opacity and matte; B is the blend mode. This is
    *over*; other operators weigh the two pictures by their own factors of alpha. Two mattes give a
    matte,
    blended as opaque greys. *Push away* has B = 2·Cb − Cs: at opacity k the result is
    Cb + k·(Cb − Cs).

    Returns
    -------
    (H, W, 4) picture, or (H, W) matte where both inputs are mattes.

    References
    ----------
    W3C Compositing and Blending Level 1, sections 5.8, 9.1.4 and 10. Porter & Duff 1984.
    """
    v, below = call.values, call.main
    if "over" not in call.inputs:
        return below  # at opacity 0 the upper picture is not computed
    over = call.inputs["over"]
    if is_matte(below) != is_matte(over):
        below, over = as_picture(below), as_picture(over)
    matte = call.inputs.get("matte")
    if not is_matte(below) or v["operator"] != "over" or v["linear_light"]:
        below, over = as_picture(below), as_picture(over)
    if v["linear_light"]:
        below, over = blending.linear(below), blending.linear(over)
    out = blending.blend(below, over, v["mode"], v["opacity"], matte, v["operator"])
    return blending.encoded(out) if v["linear_light"] else out


CHOICES = ("second", "third", "fourth", "fifth", "sixth", "seventh", "eighth")


def _taken(values: Mapping[str, Any]) -> str:
    return ("main", *CHOICES)[values["choice"] - 1]


@step(
    "choose",
    label="Choose",
    family="Combine",
    sentence="One of several pictures, by a number, a toggle or a choice.",
    words=("switch", "either", "pick", "toggle", "variant"),
    main="either",
    gives="same",
    inputs=tuple(
        InputKind(name, "either", f"The picture for {k}.", optional=True)
        for k, name in enumerate(CHOICES, 2)
    ),
    params=(
        whole("choice", 1, (1, 4), (1, len(CHOICES) + 1),
              help="1 is the lane's own picture, 2 the second, and so on."),
    ),
    needs=lambda values: {_taken(values)},
    takes_eight=("main", *CHOICES),
)  # fmt: skip
def choose(call: Call) -> Plane:
    """The lane's own picture, or one of up to seven others; only the one taken is computed.

    A toggle or a choice takes part through a control link: its range or table gives the number.

    Raises
    ------
    Missing
        If the one taken has no source.
    """
    name = _taken(call.values)
    if name == "main":
        return call.main
    if name not in call.inputs:
        raise Missing(
            f"It takes picture {call.values['choice']}, but “{name}” has no source. Choose a "
            f"source on its card, or take another picture."
        )
    return call.inputs[name]
