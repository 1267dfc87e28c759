"""The border rules, which say what a step reads outside a picture: one table for documents, steps
and OpenCV."""

from __future__ import annotations

from typing import Literal

import cv2

from ..kernels.filters.folding import RULES

Outside = Literal["clear", "clamp", "mirror", "repeat"]
"""Clear, the border pixels held, the reflection, or the picture again."""
BORDERS = dict(
    zip(
        RULES,
        (cv2.BORDER_CONSTANT, cv2.BORDER_REPLICATE, cv2.BORDER_REFLECT, cv2.BORDER_WRAP),
        strict=True,
    )
)
"""OpenCV's constant for each rule."""

__all__ = ["BORDERS", "RULES", "Outside"]
