"""Colour: transfer curves, luminance, and colours as people write them."""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import NDArray

from ..faults import Fault
from ..kernels.colour import luminance

LUMINANCE = luminance.WEIGHTS
"""Rec. 709 weights of red, green and blue."""

Colour = tuple[float, float, float, float]

_HEX = re.compile(r"#([0-9a-fA-F]{6})([0-9a-fA-F]{2})?")


def to_linear(encoded: NDArray[np.floating]) -> NDArray[np.float64]:
    """Display-referred sRGB to linear light.

    Parameters
    ----------
    encoded : array of any shape
        sRGB-encoded values, nominally 0..1. Negative values mirror the curve.

    Returns
    -------
    float64 array of the same shape, linear light.

    References
    ----------
    IEC 61966-2-1:1999, section 5.2.
    """
    size = np.abs(np.asarray(encoded, np.float64))
    linear = np.where(size <= 0.04045, size / 12.92, ((size + 0.055) / 1.055) ** 2.4)
    return np.copysign(linear, encoded)


def to_encoded(linear: NDArray[np.floating]) -> NDArray[np.float64]:
    """Linear light to display-referred sRGB: the inverse of :func:`to_linear`."""
    size = np.abs(np.asarray(linear, np.float64))
    encoded = np.where(size <= 0.0031308, size * 12.92, 1.055 * size ** (1 / 2.4) - 0.055)
    return np.copysign(encoded, linear)


def parse_colour(text: str) -> Colour:
    """``#RRGGBB`` or ``#RRGGBBAA`` to straight red, green, blue, alpha in 0..1.

    Raises
    ------
    Fault
        If the text does not have that form.
    """
    match = _HEX.fullmatch(text)
    if not match:
        raise Fault(f"A colour is written #RRGGBB or #RRGGBBAA. Got “{text[:40]}”.")
    digits = match[1] + (match[2] or "ff")
    red, green, blue, alpha = (int(digits[k : k + 2], 16) / 255 for k in (0, 2, 4, 6))
    return red, green, blue, alpha


def format_colour(colour: Colour) -> str:
    """Straight red, green, blue, alpha in 0..1 to ``#RRGGBB``, with alpha only where below 1."""
    parts = [min(255, max(0, int(part * 255 + 0.5))) for part in colour]
    text = "#" + "".join(f"{part:02X}" for part in parts[:3])
    return text if parts[3] == 255 else f"{text}{parts[3]:02X}"


def premultiplied(colour: Colour) -> Colour:
    """A straight colour as pictures hold it: multiplied by its alpha."""
    red, green, blue, alpha = colour
    return red * alpha, green * alpha, blue * alpha, alpha
