"""High dynamic range video as display-referred pictures."""

from __future__ import annotations

from functools import lru_cache
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from .. import rows
from ..rows import compiled
from .power import code, power

F = np.float32
_ONE, _ZERO = F(1), F(0)

REFERENCE_WHITE = 203.0
"""cd/m² that become display white (1.0). ITU-R BT.2408-7, table 1."""
HLG_PEAK = 1000.0
"""cd/m² of the display that HLG is shown on here; its system gamma is then 1.2. BT.2100-2."""
_TO_709 = (
    (1.660491, -0.587641, -0.072850),
    (-0.124550, 1.132900, -0.008349),
    (-0.018151, -0.100579, 1.118730),
)
"""Linear Rec. 2020 colours to Rec. 709. ITU-R BT.2087-0, annex 2, inverted."""


def pq_light(signal: NDArray[Any]) -> NDArray[np.float64]:
    """PQ signal 0..1 to cd/m². SMPTE ST 2084; ITU-R BT.2100-2, table 4."""
    m1, m2 = 2610 / 16384, 2523 / 4096 * 128
    c1, c2, c3 = 3424 / 4096, 2413 / 4096 * 32, 2392 / 4096 * 32
    root = np.asarray(signal, np.float64) ** (1 / m2)
    return np.asarray(10000 * (np.maximum(root - c1, 0) / (c2 - c3 * root)) ** (1 / m1))


def hlg_scene(signal: NDArray[Any]) -> NDArray[np.float64]:
    """HLG signal 0..1 to scene light 0..1. ITU-R BT.2100-2, table 5."""
    a, b, c = 0.17883277, 0.28466892, 0.55991073
    held = np.asarray(signal, np.float64)
    return np.where(held <= 0.5, held**2 / 3, (np.exp((held - c) / a) + b) / 12)


@compiled("word_in3 out3 in1 in2 f f b")
def _shown(first, last, pixels, out, light, matrix, white, gamma, scene):
    wide, planes = out.shape[1], pixels.shape[2]
    for y in range(first, last):
        for x in range(wide):
            r, g, b = light[pixels[y, x, 0]], light[pixels[y, x, 1]], light[pixels[y, x, 2]]
            if scene:
                luminance = F(0.2627) * r + F(0.6780) * g + F(0.0593) * b
                scale = white * power(luminance, gamma)
                r, g, b = r * scale, g * scale, b * scale
            alpha = F(pixels[y, x, 3]) * F(1 / 65535) if planes == 4 else _ONE
            for c in range(3):
                value = matrix[c, 0] * r + matrix[c, 1] * g + matrix[c, 2] * b
                out[y, x, c] = code(value) * alpha
            out[y, x, 3] = alpha


@lru_cache
def _table(curve: str) -> NDArray[np.float32]:
    signal = np.arange(65536) / 65535
    light = pq_light(signal) / REFERENCE_WHITE if curve == "PQ" else hlg_scene(signal)
    return light.astype(F)


def to_rec_709(pixels: NDArray[Any], curve: Literal["PQ", "HLG"]) -> NDArray[np.float32]:
    """Straight PQ or HLG codes of Rec. 2020 as a premultiplied picture, (H, W, 4).

    Reference white (203 cd/m²) becomes 1, and brighter values lie above 1; colours outside Rec. 709
    have negative components. Nothing is clipped.

    Parameters
    ----------
    pixels : (H, W, 3 or 4), uint8 or uint16

    References
    ----------
    ITU-R BT.2100-2 for the curves and the display of HLG; BT.2408-7 for reference white;
    BT.2087-0 for the primaries.
    """
    if pixels.dtype == np.uint8:
        pixels = pixels.astype(np.uint16) * np.uint16(257)
    out = np.empty((*pixels.shape[:2], 4), F)
    matrix = np.array(_TO_709, F)
    white = F(HLG_PEAK / REFERENCE_WHITE)
    rows.over(
        _shown, len(out), np.ascontiguousarray(pixels), out, _table(curve), matrix, white, F(0.2),
        curve == "HLG",
    )  # fmt: skip
    return out
