"""Placements of a picture as affine maps, and the size at which it covers the frame."""

from __future__ import annotations

from itertools import product
from math import cos, radians, sin, tan

import numpy as np
from numpy.typing import NDArray

from ..pictures.picture import Size

Matrix = NDArray[np.float64]

_BACK = np.array([[1.0, 0.0, -0.5], [0.0, 1.0, -0.5], [0.0, 0.0, 1.0]])
_ON = np.array([[1.0, 0.0, 0.5], [0.0, 1.0, 0.5], [0.0, 0.0, 1.0]])


def _turn(degrees: float) -> Matrix:
    # Right angles stay exact.
    c, s = (round(part, 15) for part in (cos(radians(degrees % 360)), sin(radians(degrees % 360))))
    return np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])


def _move(x: float, y: float) -> Matrix:
    return np.array([[1.0, 0.0, x], [0.0, 1.0, y], [0.0, 0.0, 1.0]])


def forward(
    size: Size,
    *,
    shift: tuple[float, float] = (0.0, 0.0),
    scale: tuple[float, float] = (1.0, 1.0),
    turn: float = 0.0,
    pivot: tuple[float, float] = (0.5, 0.5),
    skew: float = 0.0,
) -> Matrix:
    """From places in a picture to places in the frame, both in pixels from the top left corner.

    Scaled, skewed along x by an angle, turned clockwise, all about the pivot, then shifted.

    Parameters
    ----------
    shift, pivot : (x, y)
        In frame widths and heights.
    turn, skew : float
        Degrees; a turn is a true turn at any frame shape.

    Returns
    -------
    (3, 3) float64
    """
    px, py = pivot[0] * size.width, pivot[1] * size.height
    slant = np.array([[1.0, -tan(radians(skew)), 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]])
    stretch = np.diag([scale[0], scale[1], 1.0])
    to = _move(px + shift[0] * size.width, py + shift[1] * size.height)
    return np.asarray(to @ _turn(turn) @ slant @ stretch @ _move(-px, -py))


def reading(matrix: Matrix) -> Matrix:
    """From a forward map to the (2, 3) one that :func:`sampling.affine` takes.

    A map that flattens the picture to a line or a point reads nothing: every place lies far
    outside.
    """
    if abs(np.linalg.det(matrix)) < 1e-12:
        return np.array([[0.0, 0.0, -1e6], [0.0, 0.0, -1e6]])
    return np.asarray((_BACK @ np.linalg.inv(matrix) @ _ON)[:2])


def placement(size: Size, **how: object) -> Matrix:
    """:func:`reading` of :func:`forward`."""
    return reading(forward(size, **how))  # type: ignore[arg-type]


def cover(matrix: Matrix, size: Size) -> float:
    """The smallest scale of the frame's content, applied before a map, that leaves no clear corner.

    For a 16:9 frame turned 20° this is cos 20° + 16/9·sin 20° = 1.548 (geometry), and slightly more
    for few pixels: every pixel's centre must read at or inside the outermost centres, so that no
    clear border mixes in. The content is scaled about its centre; a frame it can never cover
    (flattened by the map) gives 1.
    """
    if abs(np.linalg.det(matrix)) < 1e-12:
        return 1.0
    ends = ((0.5, length - 0.5) for length in (size.width, size.height))
    corners = np.array([(x, y, 1.0) for x, y in product(*ends)])
    seen = (np.linalg.inv(matrix) @ corners.T)[:2].T
    middle = np.array([size.width / 2, size.height / 2])
    reach = np.abs(seen - middle) / np.maximum(middle - 0.5, 0.5)
    return float(max(1.0, reach.max()))
