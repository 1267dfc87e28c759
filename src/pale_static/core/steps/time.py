"""Time: steps that read other frames, one or many."""

from __future__ import annotations

from functools import lru_cache
from math import ceil, floor
from typing import Any

import numpy as np

from ..faults import Fault
from ..kernels.colour import tone
from ..kernels.filters import blending, mixing
from ..kernels.texture.noise import permutation
from ..pictures import sampling
from ..pictures.picture import Plane, as_picture, is_matte
from ..values.params import Choice, Number, Point, Text, Toggle, outside, seed, whole
from .declare import Call, InputKind, step
from .placing import placement


@lru_cache(maxsize=256)
def _restarts(text: str, rate: float) -> frozenset[int]:
    frames = {0}
    for part in text.replace(";", ",").split(","):
        if not part.strip():
            continue
        try:
            frames.add(round(float(part) * rate))
        except (ValueError, OverflowError):  # not a number, or infinite
            raise Fault(
                f"Restarts are seconds with commas between, such as “0.5, 1.2”. Got “{text[:40]}”."
            ) from None
    return frozenset(frames)


def _goes_on(call: Call) -> bool:
    frame = call.moment.frame
    return frame > 0 and frame not in _restarts(call.values["restart"], float(call.moment.rate))


@step(
    "trail",
    label="Trail",
    family="Time",
    sentence="Leaves fading, moving traces: the last frame's result is fed back.",
    words=("feedback", "echo", "ghost", "smear", "persistence", "loop"),
    main="picture",
    params=(
        Number(name="keep", default=0.9, slider=(0, 1), allowed=(0, 1),
               help="How much of the trail is left after each frame."),
        Number(name="grow", default=0.0, slider=(-0.1, 0.1), allowed=(-0.9, 10),
               help="How much the trail grows each frame."),
        Number(name="turn", default=0.0, slider=(-10, 10), allowed=(-36000, 36000), unit="°",
               help="How far the trail turns each frame, clockwise."),
        Point(name="shift", default=(0.0, 0.0), help="How far the trail moves each frame, as a "
                                                     "share of the frame."),
        Number(name="contrast", default=1.0, slider=(0, 2), allowed=(0, 10),
               help="Contrast that the trail gets each frame."),
        Number(name="brightness", default=0.0, slider=(-0.2, 0.2), allowed=(-10, 10),
               help="Brightness that is added to the trail each frame."),
        Choice(name="mode", default="lighten", options=blending.MODES, moves=False,
               help="How the new frame is laid over the trail."),
        Text(name="restart", default="", label="restart at",
             help="Times in seconds at which the trail starts again, such as 0.5, 1.2."),
        outside("clear", "What lies outside the trail."),
    ),
    goes_on=_goes_on,
)  # fmt: skip
def trail(call: Call) -> Plane:
    """out(n) = in(n) blended over keep · L(T(out(n − 1))); out = in at the start and at restarts.

    T grows, turns and shifts about the frame's centre; L is contrast about 0.5 and brightness on
    straight colour, clamped to 0..1. The engine starts at the last restart, so a single frame is
    the same as in a full run.

    Returns
    -------
    (H, W, 4) picture.
    """
    if call.previous is None:
        return call.main
    v = call.values
    before = call.previous
    if v["grow"] or v["turn"] or v["shift"] != (0.0, 0.0):
        scale = 1 + v["grow"]
        matrix = placement(call.size, shift=v["shift"], scale=(scale, scale), turn=v["turn"])
        before = sampling.affine(before, matrix, v["outside"])
    if v["contrast"] != 1 or v["brightness"]:
        half = 0.5 / v["contrast"] if v["contrast"] else 0.5
        low = 0.5 - 0.5 * v["contrast"] + v["brightness"]
        curve = (0.5 - half, 0.5 / half, 1.0, low, low + v["contrast"])
        before = tone.levels(before, curve, hold=True)
    return blending.blend(before, call.main, v["mode"], kept=v["keep"])


@lru_cache(maxsize=64)
def _holds(every: int, number: int, upto: int) -> tuple[int, ...]:
    """The first frames of irregular holds, each 1 to 2·every − 1 frames long."""
    table = permutation(number)
    starts, k = [0], 0
    while starts[-1] <= upto:
        chance = (int(table[k % 256]) * 256 + int(table[(k * 7 + 3) % 256])) / 65536
        starts.append(starts[-1] + 1 + int(chance * (2 * every - 1)))
        k += 1
    return tuple(starts)


def _held(call: Call) -> tuple[int, ...]:
    frame, every = call.moment.frame, int(call.values["every"])
    if not call.values["irregular"] or frame < 0:
        return (frame // every * every,)
    # Computed in runs of a thousand frames, so that neighbouring frames share one list.
    starts = _holds(every, int(call.values["seed"]), frame // 1000 * 1000 + 1000)
    return (max(start for start in starts if start <= frame),)


@step(
    "stutter",
    label="Stutter",
    family="Time",
    sentence="Holds the picture for some frames at a time.",
    words=("freeze", "step", "low frame rate", "jerky", "stop motion"),
    main="either",
    gives="same",
    params=(
        whole("every", 3, (1, 25), (1, 100_000), unit="frames", moves=False,
              help="Number of frames that each picture is held."),
        Toggle(name="irregular", default=False, moves=False,
               help="Holds pictures for random lengths, up to nearly twice as long."),
        seed(),
    ),
    frames=_held,
    takes_eight=("main",),
)  # fmt: skip
def stutter(call: Call) -> Plane:
    """out(n) = in(⌊n / every⌋ · every); irregular holds start at frames drawn from the seed.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, as came in; what is held is computed once.
    """
    return call.main


@step(
    "repeat",
    label="Repeat",
    family="Time",
    sentence="Runs the steps it holds over their own result, several times.",
    words=("loop", "again", "iterate", "pass", "growth", "reaction diffusion", "feedback", "times"),
    main="either",
    gives="same",
    params=(
        whole("count", 3, (1, 20), (1, 200), unit="passes", help="How many times the steps run."),
    ),
    holds="count",
    source="a fixed number of passes of a function over its own result",
)
def repeat(call: Call) -> Plane:
    """The result of its last step in the last pass.

    Each pass works on the result of the previous one. In formulas of its steps ``pass`` is 0, 1, 2
    …
    and ``passes`` the count; an input that names the repeat itself reads the pass's input.

    Returns
    -------
    The result of its last step; the input, if it holds none.
    """
    return call.main


_ORDERS = ("copies over the picture", "picture over the copies")
_STRENGTHS = ("each weaker", "all the same")


def _echoes(call: Call) -> list[int]:
    """The frames of an echo from bottom to top."""
    v, frame = call.values, call.moment.frame
    late = [frame - k * int(v["late"]) for k in range(int(v["copies"]) + 1)]
    return late if v["order"] == _ORDERS[0] else late[::-1]


@step(
    "echo",
    label="Echo",
    family="Time",
    sentence="Copies of the picture from some frames earlier, each larger, turned and weaker.",
    words=("copies", "ghost", "delay", "repeat", "tunnel", "clone", "crowd", "trails", "dance"),
    main="picture",
    params=(
        whole("copies", 3, (1, 8), (1, 64), help="Number of copies.", moves=False),
        whole("late", 3, (1, 25), (-10_000, 10_000), unit="frames", moves=False,
              help="Delay from one copy to the next. Negative values run ahead."),
        Number(name="grow", default=0.15, slider=(-0.5, 0.5), allowed=(-0.9, 10),
               help="How much larger each copy is than the one before. 0.15 adds 15 % of the "
                    "picture's size."),
        Number(name="turn", default=0.0, slider=(-45, 45), allowed=(-36000, 36000), unit="°",
               help="Turn from one copy to the next, clockwise."),
        Point(name="shift", default=(0.0, 0.0),
              help="Shift from one copy to the next, as a share of the frame."),
        Number(name="strength", default=0.4, slider=(0, 1), allowed=(0, 1)),
        Choice(name="strengths", default=_STRENGTHS[0], options=_STRENGTHS, moves=False,
               help="Each copy weaker than the one before, or all alike."),
        Choice(name="mode", default="normal", options=blending.MODES, moves=False),
        Choice(name="order", default=_ORDERS[0], options=_ORDERS, moves=False),
        outside("clear", "What lies outside each copy."),
    ),
    frames=_echoes,
    gathers=True,
)  # fmt: skip
def echo(call: Call) -> Plane:
    """Copy k: in(n − k·late), scaled 1 + k·grow, turned k·turn, moved k·shift, at strength^k or
    strength; blended one over the other, the picture itself first or last.

    Times before the first frame show the first frame. An echo below another one also repeats its
    copies.

    Returns
    -------
    (H, W, 4) picture.
    """
    v, (part, count), under = call.values, call.part, call.values["order"] == _ORDERS[1]
    k = count - 1 - part if under else part
    copy = as_picture(call.main)
    if k and (v["grow"] or v["turn"] or v["shift"] != (0.0, 0.0)):
        scale = 1 + k * v["grow"]
        if scale <= 0:
            copy = np.zeros_like(copy)
        else:
            matrix = placement(
                call.size, shift=(v["shift"][0] * k, v["shift"][1] * k), scale=(scale, scale),
                turn=v["turn"] * k,
            )  # fmt: skip
            copy = sampling.affine(copy, matrix, v["outside"])
    flat = v["strengths"] == _STRENGTHS[1]
    strength = 1.0 if k == 0 else v["strength"] if flat else v["strength"] ** k
    if call.previous is None:
        return copy if strength == 1 else np.asarray(copy * np.float32(strength))
    return blending.blend(call.previous, copy, v["mode"], strength)


def _slices(call: Call) -> list[int]:
    reach = call.values["reach"]
    step_by = 1 if reach >= 0 else -1
    return [call.moment.frame - step_by * k for k in range(ceil(abs(reach)) + 1)]


@step(
    "time-slice",
    label="Time slice",
    family="Time",
    sentence="Takes each pixel from another moment: the brighter the map, the later.",
    words=("slit scan", "delay", "time displacement", "rolling shutter", "jelly", "warp time"),
    main="picture",
    inputs=(InputKind("map", "matte", "Black is now, white is the farthest frame."),),
    params=(
        Number(name="reach", default=12.0, slider=(-50, 50), allowed=(-200, 200), unit="frames",
               moves=False, help="Delay where the map is white. Negative values look ahead."),
        Toggle(name="smooth", default=True, moves=False, help="Mixes the two nearest frames."),
    ),
    frames=_slices,
    gathers=True,
)  # fmt: skip
def time_slice(call: Call) -> Plane:
    """out(p) = in(n − map(p)·reach)(p): the nearest frame, or the weighted mean of two.

    Returns
    -------
    (H, W, 4) picture.
    """
    v = call.values
    return mixing.gathered(
        call.previous, as_picture(call.main), call.inputs["map"], abs(v["reach"]), call.part[0],
        v["smooth"],
    )  # fmt: skip


@step(
    "reverse",
    label="Reverse",
    family="Time",
    sentence="Plays what comes in backwards.",
    words=("backwards", "rewind", "mirror time"),
    main="either",
    gives="same",
    params=(),
    frames=lambda call: (call.moment.length - 1 - call.moment.frame,),
    takes_eight=("main",),
)
def reverse(call: Call) -> Plane:
    """out(n) = in(length − 1 − n); (H, W, 4) picture or (H, W) matte, like the input."""
    return call.main


_BETWEEN = ("nearest frame", "blended frames")


def _place(call: Call) -> float:
    v = call.values
    return float(call.moment.frame * v["speed"] + v["shift"])


def _sped(call: Call) -> tuple[int, ...]:
    place = _place(call)
    if call.values["between"] == _BETWEEN[0]:
        return (floor(place + 0.5),)
    low = floor(place)
    return (low, low + 1) if place > low else (low,)


@step(
    "speed",
    label="Speed",
    family="Time",
    sentence="Plays what comes in faster, slower or backwards.",
    words=("slow motion", "fast", "time remap", "ramp", "retime", "quick"),
    main="either",
    gives="same",
    params=(
        Number(name="speed", default=0.5, slider=(-2, 4), allowed=(-100, 100), moves=False,
               help="1 is as fast as it came, 0.5 half as fast, below 0 backwards."),
        Number(name="shift", default=0.0, slider=(-50, 50), allowed=(-100_000, 100_000),
               unit="frames", help="Frames to skip. Move it with keys to change the speed over "
                                   "time."),
        Choice(name="between", default=_BETWEEN[1], options=_BETWEEN, moves=False,
               help="What to show between two frames."),
    ),
    frames=_sped,
    reads=lambda call: _place(call) - floor(_place(call)),
)  # fmt: skip
def speed(call: Call) -> Plane:
    """out(n) = in(n · speed + shift): the nearest frame, or two frames mixed by their distance in
    time.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    if len(call.series) < 2:
        return call.main
    place = _place(call)
    return _mixed(call.series[0], call.series[1], place - floor(place))


def _mixed(one: Any, two: Any, share: float) -> Plane:
    if is_matte(one) != is_matte(two):
        one, two = as_picture(one), as_picture(two)
    return mixing.mix(one, two, share)


def _held_between(call: Call) -> tuple[int, ...]:
    every = int(call.values["every"])
    first = call.moment.frame // every * every
    return (first, first + every) if _crossing(call) > 0 else (first,)


def _crossing(call: Call) -> float:
    """The share of the change from a held frame to the next one."""
    every, blend = int(call.values["every"]), call.values["blend"]
    share = call.moment.frame % every / every
    return max(0.0, (share - (1 - blend)) / blend) if blend > 0 else 0.0


@step(
    "hold-and-blend",
    label="Hold and blend",
    family="Time",
    sentence="Holds a frame for a while, then fades into the next one.",
    words=("freeze", "slide show", "dreamy", "low frame rate", "time lapse", "frame blend"),
    main="either",
    gives="same",
    params=(
        whole("every", 8, (1, 50), (1, 100_000), unit="frames", moves=False,
              help="Frames from one held picture to the next."),
        Number(name="blend", default=0.5, slider=(0, 1), allowed=(0, 1), moves=False,
               help="Share of the time spent fading. 0 only holds, 1 fades all the time."),
    ),
    frames=_held_between,
    reads=lambda call: _crossing(call),
)  # fmt: skip
def hold_and_blend(call: Call) -> Plane:
    """in(a) mixed with in(a + every), a = ⌊n / every⌋ · every, by (share − (1 − blend)) / blend.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.
    """
    if len(call.series) < 2:
        return call.main
    return _mixed(call.series[0], call.series[1], _crossing(call))
