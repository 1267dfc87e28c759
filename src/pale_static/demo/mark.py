"""Draw the Lantern Line's mark."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def logo() -> NDArray[np.uint8]:
    """The Lantern Line's mark, 320×320 with alpha."""
    side = 320
    y, x = (np.mgrid[0 : side * 4, 0 : side * 4] + 0.5) / (4 * side) - 0.5
    ring = (np.hypot(x, y) < 0.47) & (np.hypot(x, y) > 0.41)
    hood = (np.abs(x) < 0.17 - 0.5 * np.maximum(-0.13 - y, 0)) & (y > -0.3) & (y < -0.13)
    body = (np.abs(x) < 0.14 + 0.18 * (0.18 - y) * 0.5) & (y >= -0.1) & (y < 0.18)
    foot = (np.abs(x) < 0.17) & (y >= 0.2) & (y < 0.26)
    handle = (np.abs(np.hypot(x, y + 0.3) - 0.07) < 0.018) & (y < -0.28)
    flame = ((x / 0.045) ** 2 + ((y - 0.06) / 0.085) ** 2) < 1
    ink = np.array([0.09, 0.35, 0.42])
    lamp = np.array([1.0, 0.78, 0.38])
    picture = np.zeros((4 * side, 4 * side, 4))
    for mask, colour in ((ring | hood | foot | handle, ink), (body, lamp), (flame & body, ink)):
        picture[mask] = [*colour, 1.0]
    small = picture.reshape(side, 4, side, 4, 4)
    alpha = small[..., 3:].mean((1, 3))
    colour = (small[..., :3] * small[..., 3:]).mean((1, 3)) / np.maximum(alpha, 1e-6)
    return (np.concatenate([colour, alpha], -1) * 255 + 0.5).astype(np.uint8)
