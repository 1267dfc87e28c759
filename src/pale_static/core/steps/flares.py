"""Sources, continued: a lamp that shines into the lens."""

from __future__ import annotations

from math import cos, radians, sin

import numpy as np

from ..kernels.filters import glare
from ..kernels.texture import surfaces
from ..pictures.colour import to_linear
from ..pictures.picture import Plane
from ..values.params import ColourParam, Number, Point, seed, whole
from .declare import Call, step
from .light import light_of
from .textures import chance_of


@step(
    "flare",
    label="Flare",
    family="Sources",
    sentence="A lamp that shines into the lens: halo, ring, streak and ghosts.",
    words=("lens flare", "sun", "lamp", "anamorphic", "ghosts", "sparkle", "star", "light", "light leak"),
    params=(
        Point(name="position", default=(0.3, 0.3), help="Where the lamp is."),
        Number(name="intensity", default=1.0, slider=(0, 3), allowed=(0, 100)),
        ColourParam(name="colour", default="#FFE6C0"),
        Number(name="core", default=2.0, slider=(0.1, 10), allowed=(0.01, 200), unit="%h",
               help="Size of the bright middle."),
        Number(name="halo", default=0.25, slider=(0, 1), allowed=(0, 20)),
        Number(name="halo_size", default=45.0, slider=(1, 150), allowed=(0.1, 1000), unit="%h",
               when={"halo": ()}),
        Number(name="streak", default=0.6, slider=(0, 3), allowed=(0, 50),
               help="Strength of the line of light through the lamp."),
        Number(name="streak_length", default=80.0, slider=(1, 200), allowed=(0.1, 2000), unit="%h",
               when={"streak": ()}),
        Number(name="streak_angle", default=0.0, slider=(-90, 90), allowed=(-36000, 36000), unit="°",
               when={"streak": ()}),
        Number(name="ring", default=0.15, slider=(0, 1), allowed=(0, 20)),
        Number(name="ring_size", default=28.0, slider=(1, 100), allowed=(0.1, 1000), unit="%h",
               when={"ring": ()}),
        Number(name="ghosts", default=0.25, slider=(0, 1), allowed=(0, 20),
               help="Strength of the spots on the line through the middle of the frame."),
        whole("ghost_count", 6, (0, 16), (0, 64), when={"ghosts": ()}),
        seed(),
    ),
    source="common practice: reflections between lenses lie on the line through the middle",
)  # fmt: skip
def flare(call: Call) -> Plane:
    """intensity · (core + halo + ring + streak + ghosts) in linear light, encoded; on clear ground.

    Strengths are display values, made linear. With r the distance from the lamp: core (1 + (r/size)²)⁻², halo (1 − r/size)², ring a band
    about its size, streak (1 − |along|/length)³ over its thickness. Ghost k lies at
    middle + tₖ · (middle − lamp), each with its own t, size and tint from the seed. Blend it with
    *add* in linear light.

    Returns
    -------
    (H, W, 4) picture, as opaque as its brightest channel.
    """
    v, size = call.values, call.size
    unit = size.height / 100
    x, y = v["position"][0] * size.width, v["position"][1] * size.height
    colour = light_of(v["colour"], True) * np.float32(v["intensity"])
    turn = radians(v["streak_angle"] % 360)
    # Strengths are in display values, so they match what people see.
    looks = {
        name: float(to_linear(np.array(v[name]))) for name in ("halo", "ring", "streak", "ghosts")
    }
    numbers = (
        x, y, 1 / (v["core"] * unit), looks["halo"], 1 / (v["halo_size"] * unit), looks["ring"],
        v["ring_size"] * unit, 1 / max(v["ring_size"] * unit * 0.12, 1.0), looks["streak"],
        1 / (v["streak_length"] * unit), 1 / max(v["core"] * unit * 0.12, 0.6), cos(turn), sin(turn),
    )  # fmt: skip
    warm, cold = np.array([1.0, 0.75, 0.55]), np.array([0.6, 0.8, 1.0])
    colours = np.stack([colour, colour * warm, colour * cold])
    chance = chance_of(int(v["seed"]), 3)
    spots = []
    for _ in range(int(v["ghost_count"]) if v["ghosts"] > 0 else 0):
        t, big, strong, hue = chance.random(4)
        away = 2.4 * t - 0.9
        mx, my = size.width / 2, size.height / 2
        tint = warm + (cold - warm) * hue
        radius = max((1.5 + 9 * big**2) * unit, 1.0)
        strength = looks["ghosts"] * (0.3 + 0.7 * strong)
        spots.append(
            (mx + away * (mx - x), my + away * (my - y), radius, strength, *(colour * tint))
        )
    table = np.array(spots, np.float32).reshape(-1, 7)
    shed = surfaces.flare(size.height, size.width, numbers, colours, table)
    return glare.lit(np.zeros((size.height, size.width, 4), np.float32), shed, True)
