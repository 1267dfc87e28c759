"""Time: what a frame takes from other frames."""

from __future__ import annotations

from functools import lru_cache

from ..faults import Fault
from ..kernels.colour import tone
from ..kernels.filters import blending
from ..kernels.texture.noise import permutation
from ..pictures import sampling
from ..pictures.picture import Plane
from ..values.params import Choice, Number, Point, Text, Toggle, outside, seed, whole
from .declare import Call, step
from .placing import placement


@lru_cache(maxsize=256)
def _restarts(text: str, rate: float) -> frozenset[int]:
    frames = {0}
    for part in text.replace(";", ",").split(","):
        if not part.strip():
            continue
        try:
            frames.add(round(float(part) * rate))
        except (ValueError, OverflowError):  # no number, or an infinite one
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
        Point(name="shift", default=(0.0, 0.0), help="How far the trail moves each frame, as a share of the frame."),
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

    T grows, turns and shifts about the frame's centre; L is contrast about 0.5 and brightness on straight
    colour, held to 0..1. The engine runs up from the last restart, so any frame alone is what it
    is in a full run.

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
    # Worked out in runs of a thousand frames, so that neighbours share one list.
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
    """What the last of its steps gives in the last pass.

    Each pass works on what the one before gave. In formulas of its steps ``pass`` is 0, 1, 2 …
    and ``passes`` the count; an input of theirs that names the repeat itself is what comes into the
    pass.

    Returns
    -------
    What its last step gives; what came in, where it holds none.
    """
    return call.main
