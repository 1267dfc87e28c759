"""Sources, continued: refracted light, drops on glass, dirt, and a lamp in the lens."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from math import ceil, cos, pi, radians, sin, sqrt
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..kernels.texture import surfaces
from ..pictures.picture import Plane
from ..pictures.softening import gaussian
from ..values.params import Choice, Number, moving_speed, seed, whole
from .declare import Call, step

Floats = NDArray[np.float64]


def chance_of(*numbers: int) -> np.random.Generator:
    """Random numbers that are always the same for these whole numbers."""
    return np.random.Generator(np.random.PCG64([number & 0xFFFFFFFF for number in numbers]))


@lru_cache(maxsize=64)
def _spectrum(cells: float, shape: float, number: int, count: int = 20) -> tuple[Floats, ...]:
    """Waves with whole numbers of periods across and down the frame: those numbers, amplitudes,
    phases, and whole turns in a loop."""
    chance = chance_of(number)
    # From half to twice the number of cells, as many in each octave.
    size = cells * 2 ** chance.uniform(-1.0, 1.0, count)
    angle = np.arange(count) * (pi * (3 - sqrt(5))) + chance.uniform(0, 0.3, count)
    across, down = np.round(size * np.cos(angle) * shape), np.round(size * np.sin(angle))
    down[(across == 0) & (down == 0)] = 1
    true = np.hypot(across / shape, down)
    turns = np.maximum(1, np.round(np.sqrt(true / true.mean()) * 2))
    turns *= np.where(chance.random(count) < 0.5, -1, 1)
    return across, down, 1 / np.maximum(true, 0.5) ** 2, chance.uniform(0, 2 * pi, count), turns


def _surface(call: Call, cells: float, number: int) -> tuple[Any, ...]:
    size = call.size
    across, down, weights, phases, turns = _spectrum(cells, size.width / size.height, number)
    v = call.values
    phase = v["phase"] + v["speed"] * call.moment.seconds
    return across, down, weights, phases + 2 * pi * turns * phase


@step(
    "caustic",
    label="Caustic",
    family="Sources",
    sentence="The web of light on the floor of a pool.",
    words=("water", "pool", "refraction", "underwater", "ripples", "light web", "sea"),
    gives="matte",
    params=(
        Number(name="cells", default=5.0, slider=(1, 20), allowed=(0.5, 60), moves=False,
               help="Number of cells of the web from top to bottom."),
        Number(name="focus", default=0.8, slider=(0, 3), allowed=(0, 50),
               help="Depth of the floor below the surface. Deeper water gives brighter, finer "
                    "threads, "
                    "and then tangled ones."),
        Number(name="sharpness", default=0.8, slider=(0, 1), allowed=(0, 1),
               help="How thin the threads are."),
        Number(name="level", default=0.3, slider=(0, 1), allowed=(0, 100),
               help="Mean brightness."),
        Number(name="phase", default=0.0, slider=(0, 1), allowed=(-1000, 1000),
               help="Position in the movement. At 1 it is back at the beginning."),
        Number(name="speed", default=0.1, slider=(0, 1), allowed=(-100, 100), unit="/s",
               adds_up=True, help="How many times a second the movement repeats."),
        moving_speed(),
        Number(name="twist", default=0.0, slider=(0, 10), allowed=(0, 100), unit="%h",
               help="How far the web is swirled."),
        seed(),
    ),
    reads=lambda call: call.values["speed"] and call.moment.seconds,
    source="Snell's law for small angles; plane waves that fit the frame",
)  # fmt: skip
def caustic(call: Call) -> Plane:
    """level · light that lands in a pixel, from two rays for each pixel, bent by a moving surface
    of water.

    The surface is a sum of twenty plane waves that fit the frame a whole number of times both ways,
    so it tiles; each turns a whole number of times in a round, so it loops. A ray lands at a
    distance of focus · slope: at focus 1 the slopes change by 0.6 from pixel to pixel (root mean
    square). All light is kept, so the mean is the level. Then the result is softened, less with
    more sharpness.

    Returns
    -------
    (H, W) matte; threads may pass 1.
    """
    v, size = call.values, call.size
    number = int(v["seed"])
    across, down, weights, phases = _surface(call, v["cells"], number)
    unit = 2 * pi / np.array([size.width, size.height])
    fx, fy = across * unit[0], down * unit[1]
    shape = (size.height, size.width)
    # Root mean square of the second derivatives, so that focus means the same for all surfaces.
    bend = sqrt(float((weights**2 * (fx**2 + fy**2) ** 2).sum()) / 2) or 1.0
    far = v["focus"] * 0.6 / bend
    # The slope of weight · cos(…) is −frequency · weight · sin(…), and sin a = cos(a − π/2).
    right, below = surfaces.waves(
        across, down, np.stack([-far * weights * fx, -far * weights * fy]), phases - pi / 2, shape
    )
    if v["twist"] > 0:
        # The slope of a second surface, turned by a quarter: it moves light without focusing it.
        across, down, weights, phases = _surface(call, max(v["cells"] / 2.5, 1), number + 1)
        fx, fy = across * unit[0], down * unit[1]
        slope = sqrt(float((weights**2 * (fx**2 + fy**2)).sum()) / 2) or 1.0
        far = v["twist"] / 100 * size.height / slope
        stirred = surfaces.waves(
            across, down, np.stack([far * weights * fy, -far * weights * fx]), phases - pi / 2,
            shape,
        )  # fmt: skip
        right, below = right + stirred[0], below + stirred[1]
    light = surfaces.landed(right, below, v["level"])
    cell = size.height / v["cells"]
    soft = max(0.6, (0.12 * (1 - v["sharpness"]) + 0.006) * cell)
    return gaussian(light, soft, "repeat")


_BEADS = ("height", "matte", "slope")


def _cluster(chance: np.random.Generator, x: Any, y: Any, r: Any, uneven: float) -> Floats:
    """Drops as clusters of three caps, so that their outlines are not round: (N · 3, 5)."""
    groups = [chance.random((len(x), 2)) for _ in range(3)]
    parts = ([group[:, 0] for group in groups], [group[:, 1] for group in groups])
    return np.concatenate(_caps(x, y, r, uneven, parts))


def _caps(x: Any, y: Any, r: Any, uneven: float, chances: Sequence[Sequence[Any]]) -> list[Floats]:
    """Three caps of each drop, (N, 5) each. Each of two smaller ones has three chances: for its
    angle, its distance and its size."""
    caps = [np.stack([x, y, r, r, r * 0.8], -1)]
    for one, two, three in chances:
        angle, far, small = 0.0 + 2 * pi * one, 0.2 + (0.75 - 0.2) * two, 0.4 + (0.75 - 0.4) * three
        dx, dy, small = np.cos(angle) * far * r, np.sin(angle) * far * r, r * small
        caps.append(np.stack([x + dx * uneven, y + dy * uneven, small, small, small * 0.7], -1))
    return caps


@lru_cache(maxsize=32)
def _standing(number: int, density: float, wide: float, uneven: float, most: float) -> Floats:
    """Drops that stand still, on a frame of height 1."""
    chance = chance_of(number, 1)
    # The number that covers about the same share of the frame at any size.
    count = int(density * 260 * wide / (most / 0.03) ** 2)
    x, y = chance.uniform(-0.05, wide + 0.05, count), chance.uniform(-0.05, 1.05, count)
    # Many small drops, few large ones.
    r = most * (0.12 + 0.88 * chance.random(count) ** 3)
    return _cluster(chance, x, y, r, uneven)


@lru_cache(maxsize=1024)
def _runner(number: int, which: int, k: int) -> Floats:
    """Where one running drop starts, its column, pace and size, each in 0..1."""
    return chance_of(number, 7 + which, k).random(4)


@lru_cache(maxsize=1024)
def _way(number: int, which: int, k: int, turn: int, wide: float) -> tuple[float, Floats]:
    """The column of a running drop on its ``turn``-th way down, and how much it sways."""
    chance = chance_of(number, 7 + which, k, turn)
    return chance.uniform(0, wide), chance.uniform(-1, 1, 3)


@lru_cache(maxsize=1024)
def _trail(number: int, which: int, k: int, turn: int, count: int) -> Floats:
    """Random numbers for a number of beads behind a running drop: nine for each."""
    return chance_of(number, 99 + which, k, turn).random(9 * count)


_TAPER = np.array([0, 0.55, 1.0, 1.4, 1.75])
_WIDTHS = np.array([1.0, 0.85, 0.62, 0.42, 0.25])


def _running(
    number: int,
    which: int,
    count: int,
    wide: float,
    seconds: float,
    speed: float,
    most: float,
    uneven: float,
) -> Floats:
    """Running drops on a frame of height 1, each followed by its trail."""
    # It continues below the frame until the last bead of its trail has dried.
    reach = 2.7
    drops = []
    for k in range(round(count * reach / 1.2)):
        along, _, pace, size = _runner(number, which, k)
        r = most * (0.6 + 0.4 * size)
        place = along * reach + seconds * speed * (0.7 + 0.6 * pace)
        turn, head = int(place // reach), place % reach - 0.2
        column, sway = _way(number, which, k, turn, wide)
        # It stops and slips: its place moves in smooth steps.
        slip = head + 0.03 * sin(head * 24 + 6 * column)
        beads = max(0, ceil((slip - 1.8 * r + 0.2) / (0.9 * r)))
        drops.append((r, column, *sway, slip, _trail(number, which, k, turn, beads)))
    if not drops:
        return np.zeros((0, 5))
    each: list[Any] = [np.array(part) for part in list(zip(*drops, strict=True))[:-1]]
    radius, across, one, two, three, front = each
    chances = [drop[-1] for drop in drops]
    counts = np.array([len(one) // 9 for one in chances])

    def at(y: Any, k: Any) -> Any:
        sway = one[k] * np.sin(y * 9) + two[k] * np.sin(y * 23 + 1) + three[k] * np.sin(y * 41)
        return across[k] + radius[k] * sway

    # Beads stay in the trail and dry up.
    chance = np.concatenate(chances)
    owner, place = np.repeat(np.arange(len(radius)), counts), _up(counts)
    begin = 9 * (np.cumsum(counts) - counts)
    apart = -0.2 + 0.9 * radius + 0.2  # rounded as numpy.arange does
    spots = place * apart[owner] - 0.2
    first = begin[owner] + 2 * place
    share = 0.12 + (0.42 - 0.12) * chance[(begin + 2 * counts)[owner] + place]
    age = (front[owner] - spots) / 1.2
    left = share * radius[owner] * np.clip(1.1 - age, 0, 1)
    held = left > 0.02 * radius[owner]
    owner, left, spots, first = owner[held], left[held], spots[held], first[held]
    wet = np.bincount(owner, minlength=len(radius))
    y = spots + (-0.4 + 0.8 * chance[first]) * radius[owner]
    x = at(y, owner) + (-0.4 + 0.8 * chance[first + 1]) * radius[owner] * 0.5
    # Each drop, tapering upwards, then its beads: the order in which heights are summed.
    begin_table = np.cumsum(5 + 3 * wet) - (5 + 3 * wet)
    table = np.empty((int((5 + 3 * wet).sum()), 5))
    lead = front[:, None] - _TAPER * radius[:, None]
    size = radius[:, None] * _WIDTHS
    rows = begin_table[:, None] + np.arange(5)
    columns = at(lead, np.arange(len(radius))[:, None])
    table[rows.ravel()] = np.stack([columns, lead, size, size * 1.15, size * 0.8], -1).reshape(
        -1, 5
    )
    at_row = begin_table[owner] + 5 + _up(wet)
    at_chance = (begin + 3 * counts)[owner] + 2 * _up(wet)
    parts = [chance[at_chance + 2 * group * wet[owner]] for group in range(3)]
    others = [chance[at_chance + 2 * group * wet[owner] + 1] for group in range(3)]
    for k, group in enumerate(_caps(x, y, left, uneven, (parts, others))):
        table[at_row + k * wet[owner]] = group
    return table


def _up(counts: Any) -> Any:
    """0, 1, 2 … up to each count, one after the other."""
    return np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)


@step(
    "beads",
    label="Beads",
    family="Sources",
    sentence="Drops on a window: standing ones, and runners that leave trails.",
    words=("rain", "drops", "water", "wet window", "condensation", "droplets", "sweat"),
    matte_when=lambda values: values.get("output") != "slope",
    params=(
        Choice(name="output", default="height", options=_BEADS, moves=False,
               help="Height is for Relief. Matte shows where drops are. Slope is for Displace: red "
                    "across, green down."),
        Number(name="density", default=0.5, slider=(0, 1), allowed=(0, 4),
               help="Number of standing drops."),
        Number(name="size", default=3.0, slider=(0.5, 10), allowed=(0.5, 100), unit="%h",
               help="Radius of the largest standing drops. Larger drops are fewer."),
        whole("slow", 6, (0, 40), (0, 400), label="slow runners"),
        Number(name="slow_speed", default=6.0, slider=(0, 50), allowed=(0, 1000), unit="%h/s",
               adds_up=True, when={"slow": ()}),
        whole("fast", 3, (0, 20), (0, 400), label="fast runners"),
        Number(name="fast_speed", default=60.0, slider=(0, 200), allowed=(0, 10000), unit="%h/s",
               adds_up=True, when={"fast": ()}),
        moving_speed(),
        Number(name="runner_size", default=2.0, slider=(0.5, 6), allowed=(0.1, 50), unit="%h",
               help="Radius of the runners."),
        Number(name="irregularity", default=0.7, slider=(0, 1), allowed=(0, 1),
               help="How irregular the outlines are."),
        seed(),
    ),
    reads=lambda call: (
        call.moment.seconds
        if (call.values["slow"] and call.values["slow_speed"])
        or (call.values["fast"] and call.values["fast_speed"])
        else 0
    ),
    source="smooth union by a p-norm of height fields",
)  # fmt: skip
def beads(call: Call) -> Plane:
    """Caps hᵢ = tallᵢ·√(1 − (r/Rᵢ)²) combined as (Σ hᵢ³)^⅓, so that drops join smoothly.

    Each drop is a cluster of three caps. Running drops fall at their own pace, stop and slip, and
    leave beads that dry up. A pure function of seed and time. The height is in tenths of the
    frame's height; the matte is the smoothed edge of the height; the slope is 0.5 + half the
    gradient.

    Returns
    -------
    (H, W) matte; or (H, W, 4) picture of the slope.
    """
    v, size = call.values, call.size
    number, wide = int(v["seed"]), size.width / size.height
    seconds, uneven = call.moment.seconds, v["irregularity"]
    tables = [_standing(number, v["density"], wide, uneven, v["size"] / 100)]
    for which, kind in enumerate(("slow", "fast")):
        speed = v[f"{kind}_speed"] / 100
        most = v["runner_size"] / 100
        tables.append(_running(number, which, int(v[kind]), wide, seconds, speed, most, uneven))
    table = np.concatenate(tables) * size.height
    # The height in tenths of the frame's height, so that it uses all greys.
    table[:, 4] *= 10 / size.height
    field = surfaces.drops(size.height, size.width, table)
    if v["output"] == "height":
        return field
    if v["output"] == "matte":
        return np.asarray(np.clip(field * np.float32(12), 0, 1))
    return _sloped(field, size.height / 10)


def _sloped(field: Any, scale: float) -> Plane:
    gy, gx = np.gradient(field * np.float32(scale))
    half = np.float32(0.5)
    full = np.ones_like(field)
    steep = [np.clip(half + half * g, 0, 1) for g in (gx, gy)]
    return np.dstack([*steep, full * half, full]).astype(np.float32)


_DIRT = ("dust", "hairs", "scratches")
_STAYS = ("still", "new each time")


@lru_cache(maxsize=8192)
def _specks(
    kind: str, number: int, turn: int, index: int, low: float, high: float
) -> tuple[tuple[float, float], Floats]:
    """One speck: its place in 0..1 across and down, and its strokes around that place, on a frame
    of height 1."""
    chance = chance_of(number, turn, index, _DIRT.index(kind))
    place = chance.random(2)
    size = low + (high - low) * chance.random() ** 2
    value = 0.4 + 0.6 * chance.random()
    if kind == "dust":
        parts = 1 + int(chance.integers(0, 3))
        strokes = []
        for _ in range(parts):
            x, y, u, w = chance.uniform(-0.5, 0.5, 4) * size
            r = size * chance.uniform(0.15, 0.4)
            strokes.append((x, y, x + u, y + w, r, r * chance.uniform(0.3, 1), value, 0.15 * size))
        return (place[0], place[1]), np.array(strokes)
    if kind == "hairs":
        angle, bend = chance.uniform(0, 2 * pi), chance.uniform(-3, 3, 2)
        x = y = 0.0
        length = size * 6
        strokes = []
        for k in range(10):
            on = angle + bend[0] * (k / 10) + bend[1] * (k / 10) ** 2
            x1, y1 = x + cos(on) * length / 10, y + sin(on) * length / 10
            strokes.append((x, y, x1, y1, 0.001, 0.0008, value, 0.0))
            x, y = x1, y1
        return (place[0], place[1]), np.array(strokes)
    length = 1.4 if chance.random() < 0.5 else chance.uniform(0.1, 0.7)
    lean = chance.uniform(-0.01, 0.01)
    thick = 0.0003 + 0.0009 * chance.random() ** 2 * (size / 0.01)
    stroke = (0.0, -length / 2, lean, length / 2, thick, thick, value * 0.8, 0.0005)
    return (place[0], place[1]), np.array([stroke])


@step(
    "dirt",
    label="Dirt",
    family="Sources",
    sentence="Dust, hairs and scratches, as on old film.",
    words=("dust", "hair", "scratches", "old film", "specks", "grunge", "vintage", "worn", "snow", "confetti"),
    gives="matte",
    params=(
        Choice(name="form", default="dust", options=_DIRT, moves=False),
        Number(name="density", default=40.0, slider=(0, 300), allowed=(0, 5000),
               help="How many there are in a frame."),
        Number(name="size_from", default=0.3, slider=(0.05, 3), allowed=(0.01, 50), unit="%h"),
        Number(name="size_to", default=1.8, slider=(0.05, 5), allowed=(0.01, 50), unit="%h"),
        Choice(name="stay", default="new each time", options=_STAYS, moves=False,
               help="Dirt on a lens stays, dirt on film is new each time."),
        whole("life", 2, (1, 50), (1, 100_000), unit="frames", moves=False,
              help="Frames until each one appears somewhere else.",
              when={"stay": ("new each time",)}),
        Number(name="drift", default=0.0, slider=(0, 50), allowed=(0, 100_000), unit="%h/s",
               adds_up=True, help="How fast they float. What leaves the frame comes back on the "
                                  "other side."),
        Number(name="angle", default=-60.0, slider=(-180, 180), allowed=(-36000, 36000), unit="°",
               help="Direction in which they float.", when={"drift": ()}),
        moving_speed(),
        seed(),
    ),
    reads=lambda call: (
        call.values["stay"] != "still" and call.moment.frame,
        call.values["drift"] and call.moment.seconds,
    ),
)  # fmt: skip
def dirt(call: Call) -> Plane:
    """Random specks: blots of a few strokes, curved hairs, or thin upright scratches.

    Each is replaced every *life* frames, not all at once. Drifting specks leave the frame
    completely on one side and come back on the other. A pure function of seed and frame.

    Returns
    -------
    (H, W) matte, white where dirt lies, 0..1.
    """
    v, size = call.values, call.size
    number, wide = int(v["seed"]), size.width / size.height
    low, high = sorted((v["size_from"] / 100, v["size_to"] / 100))
    kind, life = v["form"], int(v["life"])
    count = int(v["density"])
    first = chance_of(number, 5).integers(0, 1 << 16, count)
    way = v["drift"] / 100 * call.moment.seconds
    turn = radians(v["angle"] % 360)
    margin = 0.1 if kind != "hairs" else 0.35
    born = (
        np.zeros(count, int) if v["stay"] == "still" else (call.moment.frame + first % life) // life
    )
    specks = [_specks(kind, number, int(born[k]), k, low, high) for k in range(count)]
    if not specks:
        return np.zeros((size.height, size.width), np.float32)
    places = np.array([place for place, _ in specks])
    span = np.array([wide + 2 * margin, 1 + 2 * margin])
    at = (places * span + np.array([way * cos(turn), way * sin(turn)])) % span - margin
    table = np.concatenate([strokes for _, strokes in specks])
    at = np.repeat(at, [len(strokes) for _, strokes in specks], 0)
    table[:, 0:2] += at
    table[:, 2:4] += at
    table[:, [0, 1, 2, 3, 4, 5, 7]] *= size.height
    return surfaces.strokes(size.height, size.width, table)
