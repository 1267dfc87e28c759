"""Letters that move: pieces of text with a pose each, and text along a path."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import ceil, cos, floor, pi, radians, sin
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from ..giving_up import check
from ..pictures.softening import gaussian
from .faces import Font
from .ink import LARGEST, drawn_glyph, placed
from .layout import Layout

Matrix = NDArray[np.float64]
"""(3, 3): from a glyph's place in plain text to its present place, in pixels."""

PATHS = ("straight", "arc", "circle", "wave")
ORDERS = ("reading", "reverse", "from the middle", "by chance")


@dataclass(frozen=True)
class Pose:
    """The pose of a piece of text: moved, scaled and turned about its middle, blurred, faded."""

    shift: tuple[float, float] = (0.0, 0.0)
    scale: float = 1.0
    turn: float = 0.0
    blur: float = 0.0
    opacity: float = 1.0


REST = Pose()


def ranks(count: int, order: str, seed: int) -> list[float]:
    """When each piece begins to arrive, 0 to 1."""
    if count < 2:
        return [0.0] * count
    places = np.arange(count) / (count - 1)
    if order == "reverse":
        places = places[::-1]
    elif order == "from the middle":
        places = np.abs(2 * places - 1)
    elif order == "by chance":
        places = places[np.argsort(np.random.Generator(np.random.PCG64(seed)).random(count))]
    return [float(place) for place in places]


def arrived(progress: float, rank: float, count: int, overlap: float) -> float:
    """How far a piece has arrived, 0..1, at a progress of the whole.

    Each takes 1 / (1 + (count − 1)·(1 − overlap)) of the time. Without overlap they arrive one
    after the other, with full overlap all at once.
    """
    each = 1 / (1 + (count - 1) * (1 - overlap))
    return min(max((progress - rank * (1 - each)) / each, 0.0), 1.0)


def _shifted(x: float, y: float) -> Matrix:
    return np.array([[1, 0, x], [0, 1, y], [0, 0, 1]], np.float64)


def _turned(angle: float, scale: float = 1.0) -> Matrix:
    c, s = cos(angle) * scale, sin(angle) * scale
    return np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]], np.float64)


def along(
    path: str, x: float, reach: float, length: float, start: float
) -> tuple[float, float, float]:
    """The point on a path at a distance x along the straight line, and its turn.

    Parameters
    ----------
    reach : radius of an arc or circle, in pixels (below 0 an arc opens upward); height of a wave
    length : of a wave, in pixels
    start : for a circle, the place of the text's middle in degrees clockwise from the right; for a
    wave, the phase at which it begins

    Returns
    -------
    x, y from the anchor (from the middle of a circle), and the angle in radians, clockwise.
    """
    if path == "arc":
        angle = x / reach
        return reach * sin(angle), reach * (1 - cos(angle)), angle
    if path == "circle":
        # Outside the circle the text reads clockwise; inside (below 0) it reads the other way.
        angle = radians(start) + x / reach
        turn = angle + (pi / 2 if reach > 0 else -pi / 2)
        return abs(reach) * cos(angle), abs(reach) * sin(angle), turn
    turn = 2 * pi / max(length, 1e-6)
    phase = turn * x + radians(start)
    slope = reach * turn * cos(phase)
    return x, reach * sin(phase), float(np.arctan(slope))


def path_matrices(
    layout: Layout, at: tuple[float, float], advance: Sequence[float], path: str, reach: float,
    length: float, start: float,
) -> list[Matrix]:  # fmt: skip
    """Matrices that carry each glyph onto a path by the middle of its width, turned with the
    path."""
    matrices = []
    for glyph, wide in zip(layout.glyphs, advance, strict=True):
        middle = glyph.x + wide / 2
        x, y, angle = along(path, middle, reach, length, start)
        carried = (
            _shifted(at[0] + x, at[1] + y) @ _turned(angle) @ _shifted(-at[0] - middle, -at[1])
        )
        matrices.append(carried)
    return matrices


def posed_matrix(pose: Pose, centre: tuple[float, float]) -> Matrix:
    """A pose about a centre."""
    x, y = centre
    there = _shifted(x + pose.shift[0], y + pose.shift[1])
    return there @ _turned(pose.turn, pose.scale) @ _shifted(-x, -y)


def posed(
    font: Font, weight: str, layout: Layout, size: float, at: tuple[float, float],
    shape: tuple[int, int], matrices: Sequence[Matrix | None], poses: Sequence[Pose | None],
    around: float = 0.0,
) -> Iterator[tuple[int, slice, slice, NDArray[np.float32]]]:  # fmt: skip
    """Every glyph with a pose: its number, its place in the frame, and its cover there.

    Parameters
    ----------
    matrices : for each glyph, from its place in plain text to its present place; None without a
    pose
    """
    high, wide = shape
    for index, glyph in enumerate(layout.glyphs):
        matrix, pose = matrices[index], poses[index] or REST
        if matrix is None or pose.opacity <= 0:
            continue
        check()
        if pose.blur <= 0 and np.allclose(matrix[:2, :2], np.eye(2), atol=1e-9):
            # Moved only: drawn at its place, as sharp as without a pose.
            x, y = at[0] + glyph.x + matrix[0, 2], at[1] + glyph.y + matrix[1, 2]
            found = placed(font, weight, glyph.number, size, (float(x), float(y)), shape, around)
            if found is not None:
                yield index, found[0], found[1], found[2] * np.float32(pose.opacity / 255)
            continue
        scale = float(np.sqrt(abs(np.linalg.det(matrix[:2, :2]))))
        if scale < 1e-4:
            continue
        # Drawn at the size at which it is shown, so that it stays sharp.
        larger = min(max(1.0, scale), LARGEST / max(size + 2 * around, 1e-6))
        drawn = drawn_glyph(font, weight, glyph.number, size * larger, 0, 0, around * larger)
        if drawn is None:
            continue
        left, top, cover = drawn
        sigma = pose.blur / scale * larger
        margin = 2 + ceil(4 * sigma)
        local = np.pad(cover, margin).astype(np.float32) * np.float32(1 / 255)
        if sigma > 0:
            local = gaussian(local, sigma, "clear")
        # From the padded bitmap's pixels to the frame's.
        to = (
            matrix @ _shifted(at[0] + glyph.x, at[1] + glyph.y) @ np.diag([1 / larger, 1 / larger, 1])
            @ _shifted(left - margin + 0.5, top - margin + 0.5)
        )  # fmt: skip
        tall, broad = local.shape
        corners = to @ np.array([
            [-1, broad, -1, broad], [-1, -1, tall, tall], [1, 1, 1, 1]
        ], np.float64)  # fmt: skip
        x0, x1 = floor(corners[0].min()), ceil(corners[0].max()) + 1
        y0, y1 = floor(corners[1].min()), ceil(corners[1].max()) + 1
        rows = slice(max(0, y0), min(high, y1))
        columns = slice(max(0, x0), min(wide, x1))
        if rows.start >= rows.stop or columns.start >= columns.stop:
            continue
        box = (columns.stop - columns.start, rows.stop - rows.start)
        back = np.linalg.inv(to) @ _shifted(columns.start + 0.5, rows.start + 0.5)
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        if scale < 0.5:
            # Many pixels of the bitmap fall into one: they are averaged first.
            factor = max(1, int(1 / scale))
            less = (max(1, round(broad / factor)), max(1, round(tall / factor)))
            local = np.asarray(cv2.resize(local, less, interpolation=cv2.INTER_AREA), np.float32)
            fx, fy = less[0] / broad, less[1] / tall
            back = np.array([[fx, 0, fx / 2 - 0.5], [0, fy, fy / 2 - 0.5], [0, 0, 1]]) @ back
        made: Any = cv2.warpAffine(local, back[:2], box, flags=flags)
        if pose.opacity < 1:
            made = made * np.float32(pose.opacity)
        yield index, rows, columns, made
