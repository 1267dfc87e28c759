"""Macros as plain data that other systems take: a wipe picture, a lookup table."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from .engine import Engine
from .faults import Fault
from .footage import Footage, StillPicture
from .frames.effect import EffectSource
from .pictures.lookup import LookupTable
from .pictures.picture import Size
from .time.timing import FrameRate

STEPS = 128
"""Moments at which the transition is measured for its wipe picture; between them it is
interpolated."""
BACKWARDS = 0.04
"""How far a weight may fall again: rounding, and noise that crawls a little."""
AGREES, SHARE = 0.12, 0.8
"""How closely a mix by the picture must match the transition, and in what share of the frame."""
CUBE_SIDE = 33
_CLIPS = ("from", "to")


def wipe_picture(source: EffectSource, size: Size) -> NDArray[np.uint16]:
    """A transition that only moves forwards as one grey picture: dark parts change first.

    Returns
    -------
    (H, W) uint16
        The progress at which half of the second clip shows, 0 to 65535.

    Raises
    ------
    Fault
        If one picture cannot hold what the transition does.
    """
    effect = source.effect
    if effect.kind != "transition":
        raise Fault(f"{effect.name} is a {effect.kind}. Only a transition gives a wipe picture.")
    # A small picture shows quickly whether one picture can hold the transition at all.
    small = _Weights(source, Size(max(16, round(LOOKED * size.width / size.height)), LOOKED))
    small.check()
    _crossing(small, COARSE)
    large = _Weights(source, size, both=small.added > ADDS)
    return np.round(_crossing(large, 1) * 65535).astype(np.uint16)


LOOKED, COARSE = 180, 4
"""Lines of the small picture, and steps between two of its moments."""
ADDS = 1e-3
"""If a transition adds less light than this, white over black is enough for its wipe picture."""


def _crossing(weight: _Weights, each: int) -> NDArray[np.float32]:
    """The progress at which each pixel shows half of the second clip, measured at every ``each``-th
    step."""
    before = weight.at(0)
    waiting = before < 0.5
    crossing = waiting.astype(np.float32)
    least = before[::5, ::5]
    for step in range(each, STEPS + 1, each):
        now = weight.at(step)
        if float(np.quantile(least - now[::5, ::5], 0.995)) > BACKWARDS:
            raise Fault(
                f"{weight.effect.name} shows the first clip again after the second: a wipe "
                f"picture can "
                "only move forwards."
            )
        passed = np.flatnonzero(waiting & (now >= 0.5))
        one, two = before.ravel()[passed], now.ravel()[passed]
        share = (0.5 - one) / np.maximum(two - one, 1e-6)
        crossing.ravel()[passed] = (step - each + each * np.clip(share, 0, 1)) / STEPS
        waiting.ravel()[passed] = False
        before, least = now, np.maximum(least, now[::5, ::5])
    return crossing


class _Weights:
    """How much of the second clip a transition shows at each pixel."""

    def __init__(self, source: EffectSource, size: Size, both: bool = True) -> None:
        self.effect, self.size, self.both = source.effect, size, both
        self.added = 0.0
        # Room for what does not move, at full HD.
        self.engine = Engine(160 << 20)
        rate = Fraction(STEPS) / Fraction(source.effect.seconds).limit_denominator(1000)
        self.source = replace(
            source, full=size, frames=STEPS + 1, states=self.engine.states,
            given_rate=FrameRate(min(max(rate, Fraction(1)), Fraction(1000))),
        )  # fmt: skip

    def picture(self, step: int, first: Footage, second: Footage) -> NDArray[np.float32]:
        held = self.source.materials
        slots = {**held.slots, "from": first, "to": second}
        shown = replace(self.source, materials=replace(held, slots=slots))
        return self.engine.compute(shown.at(step).plan, passing=True).picture

    def at(self, step: int) -> NDArray[np.float32]:
        """The weight, (H, W): white over black, minus half of the light that the transition adds.

        That light shows with black over white; its maximum so far is kept.
        """
        one = self.picture(step, _BLACK, _WHITE)[..., 1]
        if not self.both:
            return np.ascontiguousarray(one)
        added = one + self.picture(step, _WHITE, _BLACK)[..., 1]
        added -= 1
        self.added = max(self.added, float(np.abs(added).max()))
        added /= -2
        added += one
        return added

    def check(self) -> None:
        """Compare the transition of two busy pictures with their mix by the weights."""
        high, wide = self.size.height, self.size.width
        rng = np.random.default_rng(7)
        blocks = rng.integers(30, 226, (2, -(-high // 8), -(-wide // 8), 3)).astype(np.uint8)
        clips = [
            np.ascontiguousarray(one.repeat(8, 0).repeat(8, 1)[:high, :wide]) for one in blocks
        ]
        first, second = (StillPicture(f"busy{k}", one) for k, one in enumerate(clips))
        step = STEPS // 2
        weight = self.at(step)[..., None]
        one, two = (clip.astype(np.float32) / 255 for clip in clips)
        mixed = one * (1 - weight) + two * weight
        off = np.abs(self.picture(step, first, second)[..., :3] - mixed).max(2)
        if float((off < AGREES).mean()) < SHARE:
            raise Fault(
                f"{self.effect.name} moves or changes the clips, or depends on what they show. "
                f"One picture cannot hold that."
            )


_BLACK = StillPicture("all black", np.zeros((4, 4, 3), np.uint8))
_WHITE = StillPicture("all white", np.full((4, 4, 3), 255, np.uint8))


def baked_table(source: EffectSource, side: int = CUBE_SIDE) -> LookupTable:
    """A look that only changes colours as a cube of colours.

    Raises
    ------
    Fault
        If its result depends on more than the colour of each pixel.
    """
    effect = source.effect
    if effect.kind != "look":
        raise Fault(f"{effect.name} is a {effect.kind}. Only a look gives a lookup table.")
    axis = np.linspace(0, 1, side, dtype=np.float32)
    colours = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), -1).reshape(
        side, side * side, 3
    )
    made = _graded(source, colours, 0)
    table = LookupTable(np.ascontiguousarray(made[..., :3].reshape(side, side, side, 3)))
    # Other colours beside each other, at a size at which blurs, cells and grain are seen.
    noise = np.random.default_rng(1).random((*CHECKED, 3), np.float32)
    for frame in range(0, 25, 3):
        off = np.abs(_graded(source, noise, frame) - table.apply(_opaque(noise)))
        if float(np.quantile(off, 0.99)) > 0.03:
            raise Fault(
                f"{effect.name} depends on more than the colour of each pixel, or moves. A "
                f"lookup table cannot hold that."
            )
    return table


CHECKED = (360, 640)


def _opaque(colours: NDArray[np.float32]) -> NDArray[np.float32]:
    picture = np.ones((*colours.shape[:2], 4), np.float32)
    picture[..., :3] = colours
    return picture


def _graded(source: EffectSource, colours: NDArray[np.float32], frame: int) -> NDArray[np.float32]:
    """A look on colours, (H, W, 3), as a picture."""
    high, wide = colours.shape[:2]
    clip = StillPicture(f"colours:{high}:{wide}", _opaque(colours))
    materials = replace(source.materials, slots={**source.materials.slots, "clip": clip})
    shown = replace(
        source, full=Size(wide, high), frames=25, given_rate=FrameRate.of(25), materials=materials
    )
    return Engine(64 << 20).compute(shown.at(frame).plan).picture
