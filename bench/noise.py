"""Noise against a C library on the same points, and the noise wipe against FFmpeg's dissolve."""

from __future__ import annotations

from fractions import Fraction

import av
import av.filter
import numpy as np
import pyfastnoiselite.pyfastnoiselite as lite

from pale_static.core import (
    Engine,
    FrameRate,
    Materials,
    Moment,
    Size,
    StillPicture,
    read_effect,
)
from pale_static.core.engine.plan import make_plan
from pale_static.core.kernels.texture import lattice as kernel
from pale_static.core.steps.noise import VALUES, axes, weights

from .fade import cross
from .measure import Row, against

FULL = Size(1920, 1080)
WIPE = {
    "name": "Noise wipe",
    "kind": "transition",
    "slots": [{"id": "from", "name": "From"}, {"id": "to", "name": "To"}],
    "lanes": [
        {
            "id": "from",
            "name": "From",
            "steps": [{"id": "s", "kind": "slot", "values": {"slot": "from"}}],
        },
        {
            "id": "to",
            "name": "To",
            "steps": [{"id": "s", "kind": "slot", "values": {"slot": "to"}}],
        },
        {
            "id": "fray",
            "name": "Fray",
            "steps": [{"id": "n", "kind": "noise", "values": {"even_out": True, "speed": 0.2}}],
        },
        {
            "id": "out",
            "name": "Out",
            "steps": [
                {"id": "c", "kind": "continue-from", "inputs": {"from": {"lane": "from"}}},
                {
                    "id": "w",
                    "kind": "luma-wipe",
                    "values": {
                        "progress": 0.5,
                        "softness": 0.1,
                        "rim_width": 0.04,
                        "rim_colour": "#FF8F33",
                    },
                    "inputs": {"incoming": {"lane": "to"}, "matte": {"lane": "fray"}},
                },
            ],
        },
    ],
}
SETTINGS = {param.name: param.default for param in VALUES} | {"cells": 8.0, "octaves": 4}


def gradient_noise() -> list[Row]:
    """4-octave 3-D gradient noise at 1920×1080."""
    place, sums = axes(SETTINGS, FULL, 0.37), weights(SETTINGS)

    def ours() -> object:
        return kernel.octaves(FULL.height, FULL.width, place, sums, 1)

    library = lite.FastNoiseLite(1)
    library.noise_type = lite.NoiseType.NoiseType_Perlin
    library.fractal_type = lite.FractalType.FractalType_FBm
    library.fractal_octaves, library.frequency = 4, 1.0
    y, x = np.mgrid[0 : FULL.height, 0 : FULL.width]
    scale = 8 / FULL.height
    points = np.stack([x.ravel() * scale, y.ravel() * scale, np.full(x.size, 0.37)])
    points = points.astype(np.float32)

    def theirs() -> object:
        return library.gen_from_coords(points)

    return [
        against(
            "4-octave 3-D gradient noise, 1920×1080", ours, "pyfastnoiselite", theirs, 25, 40, 11
        )
    ]


def _graph(one: np.ndarray, two: np.ndarray, frames: int) -> av.filter.Graph:
    """FFmpeg's xfade=dissolve with both clips pushed in."""
    graph = av.filter.Graph()
    shape = {
        "width": FULL.width,
        "height": FULL.height,
        "format": "gbrp",
        "time_base": Fraction(1, 25),
    }
    buffers = [graph.add_buffer(**shape) for _ in range(2)]
    cross(graph, buffers, "dissolve", frames / 25)
    for buffer, pixels in zip(buffers, (one, two), strict=True):
        frame = av.VideoFrame.from_ndarray(pixels, "rgb24").reformat(format="gbrp")
        for n in range(frames + 1):
            frame.pts, frame.time_base = n, Fraction(1, 25)
            buffer.push(frame)
        buffer.push(None)
    return graph


def noise_wipe() -> list[Row]:
    """An evened-out noise wipe with a rim, straight from and to 8-bit pictures."""
    rng = np.random.default_rng(2)
    one, two = rng.integers(0, 256, (2, 1080, 1920, 3), dtype=np.uint8)
    effect = read_effect(WIPE)
    clips = Materials({"from": StillPicture("one", one), "to": StillPicture("two", two)})
    engine = Engine(0)  # nothing is cached: every frame is computed completely
    frame = [0]

    def ours() -> object:
        frame[0] += 1
        moment = Moment(100 + frame[0] % 300, 500, FrameRate.of(25))
        plan = make_plan(effect, moment, FULL, materials=clips)
        return engine.compute(plan, eight=True, passing=True).held

    frames = 40
    graphs: list[av.filter.Graph] = []
    left = [0]

    def theirs() -> object:
        return graphs[-1].pull()

    def fresh() -> object:
        # Only frames are timed, not the set-up of the graph.
        if left[0] <= 1:
            graphs.append(_graph(one, two, frames))
            graphs[-1].pull()
            left[0] = frames - 4
        left[0] -= 1
        return theirs()

    fresh()
    return [
        against(
            "noise wipe of two 1920×1080 pictures, cold",
            ours,
            "FFmpeg xfade=dissolve",
            fresh,
            1.5,
            3,
            31,
        )
    ]


ROWS = (gradient_noise, noise_wipe)
