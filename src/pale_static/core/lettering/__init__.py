"""Lettering: text set in a font, as positioned glyphs, and their ink as pixels.

Three parts: :mod:`faces` opens fonts, :mod:`layout` sets text (shaping, both reading directions,
wrapping), :mod:`ink` fills pixels with it.
"""

from .faces import FAMILIES, Font, shipped, told
from .ink import nearest_unit, outlined, painted
from .layout import Layout, Setting, lay_out

__all__ = [
    "FAMILIES",
    "Font",
    "Layout",
    "Setting",
    "lay_out",
    "nearest_unit",
    "outlined",
    "painted",
    "shipped",
    "told",
]
