"""The reel: one edit of shots, joins, looks and rows above, and its picture at every frame."""

from .document import Item, Join, Look, MacroUse, Mark, Reel, Row, Shot, Source, reel_schema
from .layout import (
    Handles,
    Span,
    check_reel,
    handles,
    join_span,
    layout_of,
    read_reel,
    seconds_of,
)
from .picture import materials_of, uses_of

__all__ = [
    "Handles", "Item", "Join", "Look", "MacroUse", "Mark", "Reel", "Row", "Shot", "Source", "Span",
    "check_reel", "handles", "join_span", "layout_of", "materials_of", "read_reel", "reel_schema", "seconds_of", "uses_of",
]  # fmt: skip
