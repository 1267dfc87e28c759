"""Sources, continued: patterns, shapes and scattered blocks."""

from __future__ import annotations

from functools import lru_cache
from math import cos, pi, radians, sin

import numpy as np
from numpy.typing import NDArray

from ..kernels.texture import shapes
from ..pictures.picture import Plane
from ..values.params import Choice, Number, Param, Point, seed, whole
from .declare import Call, step


def _pattern_params(white: float, help: str) -> tuple[Param, ...]:
    return (
        Number(name="size", default=10.0, slider=(0.5, 50), allowed=(0.02, 1000), unit="%h",
               help="Distance from one to the next."),
        Number(name="white_share", default=white, slider=(0, 1), allowed=(0, 1), help=help),
        Number(name="angle", default=0.0, slider=(-180, 180), allowed=(-36000, 36000), unit="°"),
        Number(name="softness", default=0.0, slider=(0, 1), allowed=(0, 1),
               help="Softness of the borders, as a share of the size: 0.5 gives waves, 1 an even "
                    "grey."),
        Point(name="offset", default=(0.0, 0.0), allowed=(-1000, 1000), help="Moves the pattern, in steps of its size."),
    )  # fmt: skip


def _turn(degrees: float) -> tuple[float, float]:
    angle = radians(degrees % 360)
    return round(cos(angle), 15), round(sin(angle), 15)


def _patterned(call: Call, kind: str) -> Plane:
    v, size = call.values, call.size
    length = v["size"] / 100 * size.height
    c, s = _turn(v["angle"])
    ou, ov = v["offset"][0] * length, v["offset"][1] * length
    origin = (size.width / 2 + ou * c - ov * s, size.height / 2 + ou * s + ov * c)
    return shapes.pattern(
        size.height, size.width, kind, origin, (c, s), length, v["white_share"], v["softness"]
    )


@step(
    "stripes",
    label="Stripes",
    family="Sources",
    sentence="Even stripes at any angle.",
    words=("lines", "bars", "blinds", "venetian", "slats", "louvre", "curtain", "barn door"),
    gives="matte",
    params=_pattern_params(0.5, "Share of each stripe that is white."),
)
def stripes(call: Call) -> Plane:
    """1 over ``white_share`` of every ``size`` along the angle, averaged over a pixel; (H, W) matte."""
    return _patterned(call, "stripes")


@step(
    "checks",
    label="Checks",
    family="Sources",
    sentence="A chequered pattern.",
    words=("checkerboard", "squares", "chess", "tiles"),
    gives="matte",
    params=_pattern_params(0.5, "How much of each square is white, across and down."),
)
def checks(call: Call) -> Plane:
    """Stripes across exclusive-or stripes along: a + b − 2ab; (H, W) matte."""
    return _patterned(call, "checks")


@step(
    "dots",
    label="Dots",
    family="Sources",
    sentence="Round dots in rows.",
    words=("circles", "polka", "spots", "grid"),
    gives="matte",
    params=_pattern_params(0.3, "Share of the area that the dots cover."),
)
def dots(call: Call) -> Plane:
    """A disc of area white share · size² in every square of ``size``; (H, W) matte.

    Above π/4 dots overlap, and the covered area is less than ``white_share`` by the overlap.
    """
    return _patterned(call, "dots")


def outline(shape: str, half: tuple[float, float], count: int, inner: float) -> NDArray[np.float64]:
    """The corners of a polygon, a star or a cross, in pixels about its centre."""
    a, b = half
    if shape == "cross":
        t = inner
        x = [-t, t, t, 1, 1, t, t, -t, -t, -1, -1, -t]
        y = [-1, -1, -t, -t, t, t, 1, 1, t, t, -t, -t]
        return np.stack([np.array(x) * a, np.array(y) * b], -1)
    points = count if shape == "polygon" else 2 * count
    angles = np.arange(points) * 2 * pi / points - pi / 2
    radius = np.where(np.arange(points) % 2, inner if shape == "star" else 1.0, 1.0)
    return np.stack([np.cos(angles) * radius * a, np.sin(angles) * radius * b], -1)


@step(
    "shape",
    label="Shape",
    family="Sources",
    sentence="A box, circle, polygon, star, ring, line or cross.",
    words=("circle", "iris", "rectangle", "square", "triangle", "hexagon", "mask", "sdf", "rounded corners", "oval", "spotlight"),
    gives="matte",
    params=(
        Choice(name="shape", default="rounded box", options=shapes.SHAPES, moves=False),
        Point(name="centre", default=(0.5, 0.5)),
        Number(name="width", default=60.0, slider=(0, 200), allowed=(0, 10000), unit="%h"),
        Number(name="height", default=60.0, slider=(0, 200), allowed=(0, 10000), unit="%h"),
        Number(name="corner", default=0.0, slider=(0, 30), allowed=(0, 1000), unit="%h",
               help="Radius of the corners; for a ring, half its thickness.",
               when={"shape": ("rounded box", "polygon", "star", "ring", "cross")}),
        Number(name="turn", default=0.0, slider=(-180, 180), allowed=(-36000, 36000), unit="°"),
        whole("points", 5, (3, 12), (3, 100), help="Corners of a polygon, points of a star.",
              when={"shape": ("polygon", "star")}),
        Number(name="inner", default=0.5, slider=(0.05, 1), allowed=(0.01, 1),
               help="Inner radius of a star, or width of a cross's arms, as a share.",
               when={"shape": ("star", "cross")}),
        Number(name="softness", default=0.0, slider=(0, 20), allowed=(0, 1000), unit="%h",
               help="Width of the soft border."),
        Choice(name="output", default="fill", options=("fill", "outline", "distance"), moves=False,
               help="The filled shape, a line along its border, or a ramp of distances to it."),
        Number(name="outline_width", default=1.0, slider=(0, 10), allowed=(0, 1000), unit="%h",
               when={"output": ("outline",)}),
        Number(name="reach", default=50.0, slider=(1, 200), allowed=(0.01, 10000), unit="%h",
               help="Distance over which the ramp runs from white to black.",
               when={"output": ("distance",)}),
    ),
    source="closed forms of signed distances (after Quilez's derivations, from memory)",
)  # fmt: skip
def shape(call: Call) -> Plane:
    """clamp(0.5 − d / edge), d the signed distance in pixels, edge a pixel or the softness.

    The outline has |d| − width/2 in its place; *distance* gives 0.5 − d / (2 · reach), so 0.5
    lies on the edge. Exact for box, ellipse, ring, line, polygon, star and cross; rounded corners
    come from a smaller shape whose edge is moved outward.

    Returns
    -------
    (H, W) matte, 0..1.
    """
    v, size = call.values, call.size
    unit = size.height / 100
    a, b = max(v["width"] / 2 * unit, 1e-3), max(v["height"] / 2 * unit, 1e-3)
    name, corner = v["shape"], v["corner"] * unit
    points = np.zeros((1, 2))
    if name in shapes.OUTLINED:
        corner = min(corner, 0.9 * min(a, b))
        inside = (a - corner, b - corner)
        points = outline(name, inside, int(v["points"]), v["inner"])
    if name == "line":
        # As long as the width and as thick as the height, with round ends.
        a, b = max(a - b, 0.0), b
    place = (v["centre"][0] * size.width, v["centre"][1] * size.height)
    d = shapes.distance(
        size.height, size.width, name, place, _turn(v["turn"]), (a, b), corner, points
    )
    if v["output"] == "distance":
        return shapes.edged(d, 2 * v["reach"] * unit)
    width = v["outline_width"] * unit / 2 if v["output"] == "outline" else -1.0
    return shapes.edged(d, max(1.0, v["softness"] * unit), width)


Rects = tuple[tuple[float, float, float, float, int], ...]
"""Left, top, right, bottom in 0..1 of the frame, and which grey."""


def covered(rects: Rects) -> float:
    """Share of the unit square that rectangles cover together, exactly."""
    inside = [r for r in rects if r[2] > 0 and r[0] < 1 and r[3] > 0 and r[1] < 1]
    if not inside:
        return 0.0
    xs = np.unique(np.clip([e for r in inside for e in (r[0], r[2])] + [0, 1], 0, 1))
    ys = np.unique(np.clip([e for r in inside for e in (r[1], r[3])] + [0, 1], 0, 1))
    sides = np.clip([r[:4] for r in inside], 0, 1)
    x0, x1 = (np.searchsorted(xs, sides[:, k]) for k in (0, 2))
    y0, y1 = (np.searchsorted(ys, sides[:, k]) for k in (1, 3))
    # The number of rectangles over each piece, summed from those that begin and end at its corners.
    change = np.zeros((len(ys), len(xs)), np.int32)
    for rows, columns, by in ((y0, x0, 1), (y0, x1, -1), (y1, x0, -1), (y1, x1, 1)):
        np.add.at(change, (rows, columns), by)
    over = change.cumsum(0).cumsum(1)[:-1, :-1] > 0
    return float((over * np.outer(np.diff(ys), np.diff(xs))).sum())


@lru_cache(maxsize=512)
def arrangement(
    number: int,
    which: int,
    count: int,
    widths: tuple[float, float],
    heights: tuple[float, float],
    levels: int,
    lines: int,
    cover: float,
) -> Rects:
    """The rectangles of one arrangement: drawn at random, then scaled together to cover the
    share."""
    chance = np.random.Generator(np.random.PCG64([number, which & 0xFFFFFFFF]))
    draws = chance.random((count, 5))
    wide = widths[0] + (widths[1] - widths[0]) * draws[:, 0]
    high = heights[0] + (heights[1] - heights[0]) * draws[:, 1]
    x, y = draws[:, 2], draws[:, 3]
    if lines:
        y = (np.floor(y * lines) + 0.5) / lines
    grey = np.minimum((draws[:, 4] * levels).astype(int), levels - 1)

    def at(scale: float) -> Rects:
        w, h = wide * scale / 200, high * scale / 200
        rows = zip(x - w, y - h, x + w, y + h, grey, strict=True)
        return tuple((float(a), float(b), float(c), float(d), int(g)) for a, b, c, d, g in rows)

    if cover <= 0 or not count:
        return ()
    low, high_scale = 0.0, 1.0
    while covered(at(high_scale)) < cover and high_scale < 1e4:
        low, high_scale = high_scale, high_scale * 2
    for _ in range(30):
        middle = (low + high_scale) / 2
        share = covered(at(middle))
        if abs(share - cover) < 2e-3:
            return at(middle)
        low, high_scale = (middle, high_scale) if share < cover else (low, middle)
    return at((low + high_scale) / 2)


def _which(call: Call) -> int:
    return call.moment.frame // int(call.values["hold"])


@step(
    "blocks",
    label="Blocks",
    family="Sources",
    sentence="Scattered flat rectangles in a few greys, on nothing.",
    words=("glitch", "rectangles", "digital noise", "compression", "datamosh", "bars"),
    params=(
        whole("count", 60, (1, 200), (0, 2000)),
        Number(name="width_from", default=2.0, slider=(0.5, 50), allowed=(0.01, 200), unit="%w"),
        Number(name="width_to", default=30.0, slider=(0.5, 100), allowed=(0.01, 200), unit="%w"),
        Number(name="height_from", default=0.4, slider=(0.1, 20), allowed=(0.01, 200), unit="%h"),
        Number(name="height_to", default=6.0, slider=(0.1, 50), allowed=(0.01, 200), unit="%h"),
        whole("levels", 3, (1, 8), (1, 64), help="Number of greys, from white to dark."),
        whole("rows", 0, (0, 60), (0, 1000), help="Snaps the rectangles into this many rows; 0 "
                                                  "scatters them freely."),
        Number(name="density", default=0.4, slider=(0, 0.95), allowed=(0, 0.99),
               help="Share of the frame that the rectangles cover."),
        whole("hold", 2, (1, 25), (1, 100000), unit="frames", moves=False,
              help="Frames until the next arrangement."),
        seed(),
    ),
    reads=_which,
)  # fmt: skip
def blocks(call: Call) -> Plane:
    """Rectangles of the arrangement ⌊frame / hold⌋, later ones over earlier ones.

    Sizes are drawn between the two given ones and then scaled together to cover the wanted share;
    edges are averaged over a pixel. A pure function of seed and arrangement.

    Returns
    -------
    (H, W, 4) picture, clear between the blocks.
    """
    v, size = call.values, call.size
    rects = arrangement(
        int(v["seed"]), _which(call), int(v["count"]), (v["width_from"], v["width_to"]),
        (v["height_from"], v["height_to"]), int(v["levels"]), int(v["rows"]), v["density"],
    )  # fmt: skip
    greys = np.linspace(1, 0.25, int(v["levels"])) if v["levels"] > 1 else np.array([1.0])
    table = np.array(rects, float).reshape(-1, 5)
    table[:, :4] *= (size.width, size.height, size.width, size.height)
    table[:, 4] = greys[table[:, 4].astype(int)]
    return shapes.rectangles(size.height, size.width, table)
