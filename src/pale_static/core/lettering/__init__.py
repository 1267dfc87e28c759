"""Lettering: text set in a font, as positioned glyphs, and their ink as pixels.

Three parts: :mod:`faces` opens fonts, :mod:`layout` sets text (shaping, both reading directions,
wrapping), :mod:`ink` fills pixels with it.
"""

from .faces import FAMILIES, Font, shipped, told
from .ink import nearest_unit, outlined
from .layout import Layout, Setting, lay_out
from .poses import ORDERS, PATHS, REST, Pose, arrived, path_matrices, posed, posed_matrix, ranks

__all__ = [
    "FAMILIES",
    "ORDERS",
    "PATHS",
    "REST",
    "Font",
    "Layout",
    "Pose",
    "Setting",
    "arrived",
    "lay_out",
    "nearest_unit",
    "outlined",
    "path_matrices",
    "posed",
    "posed_matrix",
    "ranks",
    "shipped",
    "told",
]
