"""Print and screen: dots, dithers, scan lines, misregistered inks, worn tape, grain."""

from __future__ import annotations

from functools import lru_cache
from math import cos, pi, radians, sin
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from ..kernels.colour import convert, tone
from ..kernels.filters import shift, soften
from ..kernels.texture import dots, mosaic, screens
from ..kernels.texture.noise import permutation
from ..pictures.colour import LUMINANCE, parse_colour
from ..pictures.picture import Plane, Size, as_picture, opaque
from ..pictures.softening import gaussian
from ..values.params import (
    Choice,
    ColourParam,
    Number,
    Point,
    Toggle,
    moving_speed,
    seed,
    whole,
)
from .declare import Call, step
from .placing import forward, reading

CELL = Number(
    name="cell", default=1.5, slider=(0.3, 10), allowed=(0.05, 100), unit="%h",
    help="Distance from one dot to the next.",
)  # fmt: skip
CMYK_INKS = ("#00A3DD", "#E0218A", "#FFE600", "#1A1A1A")
CMYK_ANGLES = (15.0, 75.0, 0.0, 45.0)
"""Cyan, magenta, yellow, black: common practice."""


_GRAIN = np.array([0.49868, 0.22831, 0.02191], np.float32)
_GRAIN /= _GRAIN[0] + 2 * _GRAIN[1:].sum()
"""One side of a Gaussian of 0.8 pixels of the grid: a grain is larger than one pixel."""
_LUMINANCE = np.array(LUMINANCE, np.float32)


def _straight(picture: Plane) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    alpha = picture[..., 3:]
    colour = np.divide(
        picture[..., :3], alpha, out=np.zeros_like(picture[..., :3]), where=alpha > 0
    )
    return colour, alpha


def _screen(call: Call, angle: float) -> dots.Screen:
    size = call.size
    cell = max(call.values["cell"] / 100 * size.height, 1.0)
    turn = radians((angle + call.values["angle"]) % 360)
    return (size.width / 2, size.height / 2, cos(turn), sin(turn), 1 / cell)


def _colour(text: str) -> NDArray[np.float32]:
    return np.array(parse_colour(text)[:3], np.float32)


@step(
    "halftone",
    label="Halftone",
    family="Print and screen",
    sentence="Prints the picture in dots, in one, two or four inks.",
    words=("dots", "newspaper", "comic", "cmyk", "screen print", "stencil print", "raster"),
    main="either",
    params=(
        CELL,
        Number(name="angle", default=45.0, slider=(-90, 90), allowed=(-36000, 36000), unit="°",
               help="Angle of the dot rows; four inks keep their usual angles to it."),
        Choice(name="dot", default="round", options=dots.DOTS, moves=False),
        Choice(name="inks", default="mono", options=("mono", "two inks", "cmyk"), moves=False),
        ColourParam(name="ink", default="#1D2321"),
        ColourParam(name="second_ink", default="#C2452D", help="Prints the bright half.", when={"inks": ("two inks",)}),
        ColourParam(name="paper", default="#F4F0E4"),
        Number(name="softness", default=0.0, slider=(0, 0.5), allowed=(0, 2),
               help="Softness of the dots' borders."),
    ),
    source="Murray & Davies 1936; usual screen angles (common practice)",
)  # fmt: skip
def halftone(call: Call) -> Plane:
    """Ink where the tone passes the threshold of its place in a cell; 16 samples a pixel.

    The thresholds of a cell are ranked, each equally often, so a flat tone t inks t of the area,
    even if dots overlap. Mono: tone 1 − Y, Rec. 709. Two inks: the first prints the dark
    half (2·(1 − Y) − 1), the second all of 1 − Y from a screen 30° further. CMYK: cyan 1 − R …
    with black the least of them taken out, at 15, 75, 0 and 45° from the angle less 45°.

    Returns
    -------
    (H, W, 4) picture, with the alpha of the input.
    """
    v, main = call.values, as_picture(call.main)
    inks: list[tuple[str, float]] = {
        "mono": [(v["ink"], 0.0)],
        "two inks": [(v["second_ink"], 30.0), (v["ink"], 0.0)],
        "cmyk": [(ink, angle - 45) for ink, angle in zip(CMYK_INKS, CMYK_ANGLES, strict=True)],
    }[v["inks"]]
    colours = np.stack([_colour(ink) for ink, _ in inks])
    turned = [_screen(call, angle) for _, angle in inks]
    return dots.halftoned(main, v["dot"], turned, v["softness"], colours, _colour(v["paper"]))


@step(
    "line-screen",
    label="Line screen",
    family="Print and screen",
    sentence="Draws the picture in lines that swell with its darkness.",
    words=("engraving", "banknote", "etching", "hatching", "lines"),
    main="either",
    params=(
        CELL,
        Number(name="angle", default=20.0, slider=(-90, 90), allowed=(-36000, 36000), unit="°"),
        Toggle(name="crossed", default=False, help="Adds a second set of lines in the dark half."),
        ColourParam(name="ink", default="#1D2321"),
        ColourParam(name="paper", default="#F4F0E4"),
    ),
)  # fmt: skip
def line_screen(call: Call) -> Plane:
    """In every cell a line as wide as the tone; with *crossed* the dark half prints lines across.

    Returns
    -------
    (H, W, 4) picture, with the alpha of the input.
    """
    v, main = call.values, as_picture(call.main)
    ink, paper = _colour(v["ink"])[None], _colour(v["paper"])
    if not v["crossed"]:
        return dots.halftoned(main, "line", [_screen(call, 0.0)], 0.0, ink, paper)
    # Two overlapping sets leave (1 − a)(1 − b) of the paper: b prints on the paper that a leaves.
    colour, alpha = _straight(main)
    luma = np.clip(colour, 0, 1) @ _LUMINANCE
    dark = 1 - np.where(alpha[..., 0] > 0, luma, np.float32(0))
    first = np.minimum(dark, np.float32(0.5))
    second = 1 - (1 - dark) / np.maximum(1 - first, np.float32(1e-6))
    one, two = (
        dots.screened(tone, "line", _screen(call, angle))
        for tone, angle in ((first, 0.0), (second, 90.0))
    )
    return dots.printed(main, (1 - (1 - one) * (1 - two))[None], ink, paper)


_MATRICES = ("2", "4", "8", "16")


@step(
    "dither",
    label="Dither",
    family="Print and screen",
    sentence="A few colours only, mixed by fine patterns.",
    words=("bayer", "floyd steinberg", "blue noise", "1 bit", "game", "gif", "retro"),
    main="either",
    gives="same",
    params=(
        Choice(name="method", default="ordered", options=("ordered", "blue noise", "diffusion"),
               moves=False),
        Choice(name="matrix", default="4", options=_MATRICES, moves=False,
               help="Side of the ordered pattern, in pixels.",
               when={"method": ("ordered",)}),
        whole("levels", 2, (2, 16), (2, 256), help="Number of tones left in each colour."),
        Number(name="pixel", default=0.4, slider=(0.1, 4), allowed=(0.01, 50), unit="%h",
               help="Size of the pixels."),
        Toggle(name="grey", default=False, moves=False, help="Uses greys instead of colours."),
    ),
    source="Bayer 1973; Ulichney 1993; Floyd & Steinberg 1976",
)  # fmt: skip
def dither(call: Call) -> Plane:
    """Each value goes to the level below or above it, so that the mean of an area is kept.

    Ordered: up if the remainder exceeds Bayer's matrix. Blue noise: the same with a
    void-and-cluster pattern. Diffusion: the error goes on to four neighbours. It works in pixels of
    the given size, each the mean of its area; alpha stays.

    Returns
    -------
    (H, W, 4) picture or (H, W) matte, like the input.

    References
    ----------
    Bayer 1973; Ulichney 1993, void and cluster; Floyd & Steinberg 1976.
    """
    v, size, main = call.values, call.size, call.main
    lines = min(max(1, round(100 / v["pixel"])), size.height)
    columns = max(1, min(size.width, round(lines * size.width / size.height)))
    whole = False
    if main.ndim == 2:
        reduced: Any = cv2.resize(main, (columns, lines), interpolation=cv2.INTER_AREA)
        small = reduced[..., None]
    else:
        # The mean colour of the area of a pixel, weighted by alpha.
        small = convert.reduce_picture(main, lines, columns)
        whole = bool(small[..., 3].min() > 1 - 1e-6)  # as far as the mean shows
        if not whole:
            small = small / np.maximum(small[..., 3:], np.float32(1e-6))
        if v["grey"]:
            small[..., :3] = (small[..., :3] @ _LUMINANCE)[..., None]
    levels = int(v["levels"])
    if v["method"] == "diffusion":
        small = np.clip(small, 0, 1)
        made = small.copy()
        for c in range(min(3, small.shape[2])):
            made[..., c] = screens.diffused(small[..., c], levels)
    else:
        matrix = screens.blue() if v["method"] == "blue noise" else screens.bayer(int(v["matrix"]))
        made = screens.ordered(small, matrix, levels)
    y = np.minimum(((np.arange(size.height) + 0.5) * lines / size.height).astype(int), lines - 1)
    x = np.minimum(((np.arange(size.width) + 0.5) * columns / size.width).astype(int), columns - 1)
    if main.ndim == 2:
        return mosaic.spread(made[..., 0], y, x)
    if whole:
        return mosaic.spread(made, y, x)  # opaque pixels stay at the highest level
    return mosaic.spread_under(made, y, x, main)


@step(
    "raster-lines",
    label="Raster lines",
    family="Print and screen",
    sentence="Scan lines of a tube, rolling and flickering.",
    words=("scan lines", "crt", "monitor", "interlace", "television", "tv"),
    main="picture",
    params=(
        Number(name="lines", default=180.0, slider=(20, 540), allowed=(1, 10000),
               help="Number of lines from top to bottom."),
        Number(name="depth", default=0.4, slider=(0, 1), allowed=(0, 1), help="How dark it is between the lines."),
        Number(name="roll", default=0.0, slider=(-2, 2), allowed=(-100, 100), unit="lines/s",
               adds_up=True, help="How fast they move down."),
        moving_speed(),
        Number(name="flicker", default=0.0, slider=(0, 0.5), allowed=(0, 1)),
        seed(),
    ),
    reads=lambda call: (
        call.moment.seconds if call.values["roll"] else 0,
        call.moment.frame if call.values["flicker"] else 0,
    ),
)  # fmt: skip
def raster_lines(call: Call) -> Plane:
    """in · (1 − depth·(½ + ½·cos 2π(y·lines − roll·t))) · (1 − flicker·chance), averaged over rows.

    Where lines are finer than rows their mean is left, so nothing beats against the rows.

    Returns
    -------
    (H, W, 4) picture; alpha stays.
    """
    v, size = call.values, call.size
    place = (np.arange(size.height) + 0.5) / size.height * v["lines"]
    place -= v["roll"] * call.moment.seconds
    # The mean of a cosine over one row.
    width = pi * v["lines"] / size.height
    calm = sin(width) / width if width < pi else 0.0
    shade = 1 - v["depth"] * (0.5 + 0.5 * calm * np.cos(2 * pi * place))
    if v["flicker"] > 0:
        table = permutation((int(v["seed"]) * 7919 + call.moment.frame) & 0x7FFFFFFF)
        shade *= 1 - v["flicker"] * float(table[0]) / 255
    return tone.shaded(call.main, shade)


@step(
    "misregister",
    label="Misregister",
    family="Print and screen",
    sentence="Printing inks that miss each other a little.",
    words=("offset print", "shift", "stencil print", "comic", "cheap print", "registration"),
    main="picture",
    params=(
        *(
            Point(name=name, default=default, allowed=(-100, 100),
                  help="Shift of this ink, in % of the frame's height.")
            for name, default in (
                ("cyan", (0.4, 0.0)), ("magenta", (-0.3, 0.2)), ("yellow", (0.0, -0.3)),
            )
        ),
    ),
)  # fmt: skip
def misregister(call: Call) -> Plane:
    """Red, green and blue, the complements of cyan, magenta and yellow, each read at a shift.

    Returns
    -------
    (H, W, 4) picture; alpha is the largest of the three.
    """
    size = call.size
    matrices = []
    for name in ("cyan", "magenta", "yellow"):
        x, y = call.values[name]
        matrices.append(reading(forward(size, shift=(x / 100 * size.height / size.width, y / 100))))
    return shift.apart(call.main, matrices, "clamp", "full" if opaque(call.main) else "largest")


def _bleeding(picture: Plane, bleed: float) -> NDArray[np.float32]:
    """Colours softened by a standard deviation and shifted right by the same distance, (H, W,
    3)."""
    high, wide = picture.shape[:2]
    # A blur this wide is computed on fewer pixels.
    factor = max(1, int(bleed / 1.5))
    small = picture
    if factor > 1:
        size = (max(1, round(high / factor)), max(1, round(wide / factor)))
        small = convert.reduce_picture(picture, *size)
    soft = gaussian(np.ascontiguousarray(small[..., :3]), bleed / factor, "clamp", 0.0)
    # The shift, and the enlargement, in one reading.
    across, down = soft.shape[1] / wide, soft.shape[0] / high
    matrix = np.array([
        [across, 0, (0.5 - bleed) * across - 0.5], [0, down, 0.5 * down - 0.5]
    ])  # fmt: skip
    turned: Any = cv2.warpAffine(
        soft, matrix, (wide, high), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REPLICATE,
    )  # fmt: skip
    return np.asarray(turned, np.float32)


@step(
    "tape-wear",
    label="Tape wear",
    family="Print and screen",
    sentence="A worn video tape: bleeding colour, dropouts, a torn band at the foot.",
    words=("worn home video", "video", "analogue", "old tape", "retro", "tracking"),
    main="picture",
    params=(
        Number(name="bleed", default=1.5, slider=(0, 6), allowed=(0, 100), unit="%h",
               help="How far colours bleed to the right."),
        Number(name="dropouts", default=6.0, slider=(0, 40), allowed=(0, 1000),
               help="White streaks in a frame, on average."),
        Number(name="band", default=6.0, slider=(0, 20), allowed=(0, 100), unit="%h",
               help="Height of the torn band at the foot, where the heads change over."),
        Number(name="tear", default=8.0, slider=(0, 40), allowed=(0, 200), unit="%w",
               help="How far the band is pulled aside."),
        Number(name="jitter", default=0.15, slider=(0, 2), allowed=(0, 50), unit="%w",
               help="How far each line shifts sideways at random."),
        seed(),
    ),
    reads=lambda call: call.moment.frame,
)  # fmt: skip
def tape_wear(call: Call) -> Plane:
    """Chroma is blurred and shifted right, lines are shifted at random, the bottom is torn, and
    white streaks fade out to the right. Each frame differs, by the seed.

    Returns
    -------
    (H, W, 4) picture; alpha stays.
    """
    v, size = call.values, call.size
    chance = np.random.Generator(np.random.PCG64([int(v["seed"]), call.moment.frame & 0xFFFFFFFF]))
    # Lines of a standard tape, so that random shifts are the same at any frame size.
    lines = 288
    wobble = gaussian(chance.normal(0, 1, (lines, 1)).astype(np.float32), 1.0)[:, 0] * 2
    tear = chance.normal(0.6, 0.4, lines)
    starts = chance.random((64, 3))
    line = np.minimum((np.arange(size.height) + 0.5) / size.height * lines, lines - 1).astype(int)
    from_foot = 1 - (np.arange(size.height) + 0.5) / size.height
    depth = np.clip(1 - from_foot / max(v["band"] / 100, 1e-6), 0, 1)
    shifts = wobble[line] * v["jitter"] / 100 + tear[line] * depth**2 * v["tear"] / 100
    out = shift.along(call.main, (shifts * size.width).astype(np.float32))
    bleed = v["bleed"] / 100 * size.height
    if bleed > 0.05:
        out = shift.bled(out, _bleeding(out, bleed))
    count = chance.poisson(v["dropouts"])
    # Places after the first 64 are drawn later, so that with fewer streaks the first ones stay in
    # place.
    starts = np.concatenate([starts, chance.random((max(0, count - len(starts)), 3))])
    for top, left, long in starts[:count]:
        y0 = int(top * size.height)
        y1 = max(y0 + 1, int((top + 1 / lines) * size.height))
        x0 = int(left * size.width)
        x1 = min(size.width, x0 + max(1, int((0.02 + 0.15 * long) * size.width)))
        fade = np.linspace(0.9, 0, x1 - x0, dtype=np.float32)[None, :, None]
        part = out[y0:y1, x0:x1, :3]
        part += fade * (out[y0:y1, x0:x1, 3:] - part)
    return np.asarray(out)


@step(
    "grain",
    label="Grain",
    family="Print and screen",
    sentence="Film grain, most in the middle tones.",
    words=("film", "noise", "texture", "analogue", "iso"),
    main="picture",
    params=(
        Number(name="amount", default=0.08, slider=(0, 0.4), allowed=(0, 5)),
        Number(name="size", default=0.15, slider=(0.05, 1), allowed=(0.01, 20), unit="%h"),
        Number(name="middle", default=0.8, slider=(0, 1), allowed=(0, 1),
               help="How much the grain keeps to the middle tones; 0 is the same everywhere."),
        Number(name="colour", default=0.25, slider=(0, 1), allowed=(0, 1),
               help="Share of the grain that differs between red, green and blue."),
        Toggle(name="still", default=False, moves=False, help="Keeps the same grain in every frame."),
        seed(),
    ),
    reads=lambda call: 0 if call.values["still"] else call.moment.frame,
)  # fmt: skip
def grain(call: Call) -> Plane:
    """in + amount · n · (1 − middle·(1 − 4Y(1 − Y))), n of unit variance, new in each frame.

    n is white noise softened to the size and scaled to unit variance; a share of it is independent
    for each colour.

    Returns
    -------
    (H, W, 4) picture; alpha stays and weighs the grain.
    """
    v, size = call.values, call.size
    if v["amount"] <= 0:
        return call.main
    frame = 0 if v["still"] else call.moment.frame
    # Drawn on a grid as fine as the grain, so that it looks the same at any frame size.
    lines = int(np.clip(50 / v["size"], 2, 4 * size.height))
    columns = max(2, round(lines * size.width / size.height))
    grid = (lines, columns, 4 if v["colour"] > 0 else 1)
    n = _grains(grid, size, int(v["seed"]) * 7919 + frame * 104729)
    scale = _unit_grain(lines, columns, size)
    return screens.grained(call.main, n, scale, v["amount"], v["middle"], v["colour"])


def _grains(grid: tuple[int, int, int], size: Size, number: int) -> NDArray[np.float32]:
    raw = screens.chance(*grid, number)
    soft = soften.separable(raw, _GRAIN, _GRAIN)
    if grid[:2] != (size.height, size.width):
        how = cv2.INTER_AREA if grid[0] > size.height else cv2.INTER_CUBIC
        soft = np.asarray(cv2.resize(soft, (size.width, size.height), interpolation=how))
    return soft.reshape(size.height, size.width, grid[2])


@lru_cache(maxsize=64)
def _unit_grain(lines: int, columns: int, size: Size) -> float:
    """The factor that brings softened and scaled grain back to unit variance."""
    return 1 / max(float(_grains((lines, columns, 1), size, 1).std()), 1e-6)
