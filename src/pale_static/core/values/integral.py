"""The integral of a moving value: the distance covered at that speed up to a moment."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from itertools import pairwise

import numpy as np

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(4)
GRID = 0.125
"""Seconds between two cuts of the integral, so that neighbouring frames agree."""
MOST_PIECES = 2000


def mean_so_far(
    value: Callable[[float], float], seconds: float, cuts: Iterable[float] = ()
) -> float:
    """The mean of a value from second 0 to a moment; the value itself at second 0.

    The mean times the seconds is the integral, by Gauss-Legendre quadrature of four nodes on each
    piece between the cuts: exact for straight lines, and for cubic ones.

    Parameters
    ----------
    value : function
        The value at a second.
    cuts : iterable of float
        Seconds at which the value may have a corner or jump.

    References
    ----------
    Abramowitz and Stegun, Handbook of Mathematical Functions, 25.4.29 and 25.4.30.
    """
    if seconds == 0:
        return value(0.0)
    low, high = min(0.0, seconds), max(0.0, seconds)
    step = max(GRID, (high - low) / MOST_PIECES)
    grid = np.arange(np.ceil(low / step), np.floor(high / step) + 1) * step
    inside = [cut for cut in cuts if low < cut < high]
    ends = np.unique(np.concatenate([[low, high], grid[(grid > low) & (grid < high)], inside]))
    total = 0.0
    for start, end in pairwise(ends.tolist()):
        middle, half = (start + end) / 2, (end - start) / 2
        total += half * sum(
            weight * value(middle + half * float(node))
            for node, weight in zip(_NODES, _WEIGHTS, strict=True)
        )
    return float(total / (high - low))
