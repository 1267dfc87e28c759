"""Lookup tables of colour: one curve a channel, or a cube of colours."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..kernels.colour import lookup as kernel
from .picture import Plane


@dataclass(frozen=True, eq=False)
class LookupTable:
    """Colours by colours.

    Parameters
    ----------
    table : (N, 3) float32 for one curve a channel; (N, N, N, 3) for a cube, red changing slowest
    low, high : the input values of the first and the last entry, for red, green and blue
    """

    table: NDArray[np.float32]
    low: tuple[float, float, float] = (0.0, 0.0, 0.0)
    high: tuple[float, float, float] = (1.0, 1.0, 1.0)

    @property
    def is_cube(self) -> bool:
        return self.table.ndim == 4

    def apply(self, picture: Plane) -> Plane:
        """Look up a picture by its straight colours, clamped to the ends of the table.

        Curves are interpolated between two entries, cubes between the four corners of the
        tetrahedron that a colour lies in.
        """
        return kernel.looked_up(picture, self.table, self.low, self.high)
