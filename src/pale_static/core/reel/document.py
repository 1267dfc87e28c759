"""The document of an edit: shots, joins, looks, and items on rows above.

Times are exact seconds, so that another frame rate changes no shot; frames are counted from them.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from fractions import Fraction
from functools import cached_property
from typing import Annotated, Any, Literal, Self

from pydantic import (
    AfterValidator,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    PlainSerializer,
    WithJsonSchema,
    field_validator,
    model_validator,
)

from ..document import Identifier, Name, digest_of
from ..faults import Fault, Missing
from ..kernels.filters.blending import MODES
from ..pictures.picture import Fit, Size
from ..time.timing import FrameRate, nearest_frame

Alignment = Literal["before", "across", "after"]


class Model(BaseModel):
    """Frozen, and without unknown fields."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


_EXACT = re.compile(r"\d{1,20}(/\d{1,20})?")
MOST_SECONDS = 10**6
"""The longest time in an edit."""


def _seconds(value: Any) -> Fraction:
    """Exact seconds from ``"14/25"``, a whole number or a fraction."""
    if isinstance(value, bool) or not isinstance(value, (int, str, Fraction)):
        raise ValueError("a time is exact seconds, written as 3 or 14/25")
    try:
        if isinstance(value, str) and not _EXACT.fullmatch(value):
            raise ValueError(value)
        exact = Fraction(value)
    except (ValueError, ZeroDivisionError):
        raise ValueError("a time is exact seconds, written as 3 or 14/25") from None
    if not 0 <= exact <= MOST_SECONDS:
        raise ValueError(f"a time lies between 0 and {MOST_SECONDS} seconds")
    return exact


Seconds = Annotated[
    Fraction,
    BeforeValidator(_seconds),
    PlainSerializer(str, return_type=str),
    WithJsonSchema({"type": "string", "pattern": r"^\d+(/[1-9]\d*)?$", "title": "Exact seconds"}),
]
"""Exact seconds, written as a whole number or a fraction, such as ``14/25``."""


SLOWEST, FASTEST = Fraction(1, 4), Fraction(4)


def _speed(value: Any) -> Fraction:
    exact = _seconds(value)
    if not SLOWEST <= exact <= FASTEST:
        raise ValueError(f"a speed lies between 25 % and 400 %, and this is {float(exact):.4g}")
    return exact


Speed = Annotated[
    Fraction,
    BeforeValidator(_speed),
    PlainSerializer(str, return_type=str),
    WithJsonSchema({"type": "string", "pattern": r"^\d+(/[1-9]\d*)?$", "title": "Exact speed"}),
]
"""Seconds of a material in a second of the edit, from 1/4 to 4."""


def _mode(mode: str) -> str:
    if mode not in MODES:
        raise ValueError(f"there is no blend mode “{mode}”")
    return mode


BlendMode = Annotated[
    str, AfterValidator(_mode), WithJsonSchema({"type": "string", "enum": list(MODES)})
]
MaterialName = Annotated[str, Field(max_length=200)]
Coordinate = Annotated[float, Field(ge=-10, le=10)]
Direction = Literal["forwards", "backwards", "freeze"]
Share = Annotated[float, Field(ge=0, le=1)]
Decibels = Annotated[float, Field(ge=-60, le=12)]


class Source(Model):
    """A stretch of a material: from ``start``, seconds of it, in a direction at a speed.

    Played backwards it begins at the place where it would end forwards. Frozen, it shows ``start``.
    ``blended`` mixes neighbouring frames at times between them. ``focus`` is the point of a larger
    picture that stays in the frame. ``gain`` is in decibels.
    """

    material: MaterialName
    start: Seconds = Fraction(0)
    direction: Direction = "forwards"
    speed: Speed = Fraction(1)
    blended: bool = False
    fit: Fit = "cover"
    focus: tuple[Share, Share] = (0.5, 0.5)
    gain: Decibels = 0.0
    mute: bool = False
    fade_in: Seconds = Fraction(0)
    fade_out: Seconds = Fraction(0)

    def taken(self, length: Fraction) -> Fraction:
        """Seconds of the material that a stretch of the edit uses."""
        return Fraction(0) if self.direction == "freeze" else length * self.speed


Fillings = Annotated[dict[Identifier, MaterialName], Field(max_length=32)]
"""Materials, by the slots that they fill."""


class MacroUse(Model):
    """A pinned version of a macro, settings of its controls, and materials for its slots.

    Materials of the slots in ``covering`` are scaled to cover the frame, whatever the macro's own
    fit is.
    """

    macro: Annotated[str, Field(max_length=80)]
    version: Annotated[int, Field(ge=1)]
    settings: dict[str, Any] = Field(default_factory=dict)
    slots: Fillings = Field(default_factory=dict)
    covering: Annotated[tuple[Identifier, ...], Field(max_length=32)] = ()


class Look(MacroUse):
    """A look on a shot: over its whole length, or from ``begin`` on for ``length`` seconds."""

    id: Identifier
    on: bool = True
    begin: Seconds = Fraction(0)
    length: Seconds | None = None


Looks = Annotated[tuple[Look, ...], Field(max_length=24)]


class Shot(Source):
    """A material on the base row, after ``gap`` seconds of black."""

    id: Identifier
    name: Name
    gap: Seconds = Fraction(0)
    length: Seconds
    looks: Looks = ()


class Join(MacroUse):
    """A transition between two neighbours, or at a free end: in from nothing, or out to nothing.

    ``left`` and ``right`` name shots, or items of a row. Without a left one it leads in, without a
    right one it leads out.
    """

    id: Identifier
    left: Identifier | None = None
    right: Identifier | None = None
    length: Seconds
    alignment: Alignment = "across"
    hold: bool = False
    sound: Literal["cross-fade", "cut"] = "cross-fade"


class Item(Model):
    """An item on a row above the shots: a clip or a still, a title, a texture, or a look.

    A ``source`` or a ``use`` of a macro. ``position`` is the place of its middle, in 0..1 of the
    frame. A look works on everything below it, weighted by its opacity.
    """

    id: Identifier
    name: Name
    at: Seconds
    length: Seconds
    source: Source | None = None
    use: MacroUse | None = None
    opacity: Share = 1.0
    mode: BlendMode = "normal"
    position: tuple[Coordinate, Coordinate] = (0.5, 0.5)
    scale: Annotated[float, Field(ge=0, le=20)] = 1.0
    looks: Looks = ()

    @model_validator(mode="after")
    def _one(self) -> Self:
        if (self.source is None) == (self.use is None):
            raise ValueError("it must show either a material or a macro")
        return self


class Row(Model):
    """A row above the shots: its items from first to last. Higher rows lie on top."""

    id: Identifier
    items: Annotated[tuple[Item, ...], Field(max_length=2000)] = ()


class Mark(Model):
    """A named moment of the edit."""

    at: Seconds
    name: Name


class Reel(Model):
    """One edit."""

    format: Literal["pale-static/reel@4"] = "pale-static/reel@4"
    name: Name
    rate: str = "25"
    width: Annotated[int, Field(ge=16, le=8192)] = 1280
    height: Annotated[int, Field(ge=16, le=8192)] = 720
    shots: Annotated[tuple[Shot, ...], Field(max_length=5000)] = ()
    joins: Annotated[tuple[Join, ...], Field(max_length=10000)] = ()
    rows: Annotated[tuple[Row, ...], Field(max_length=16)] = ()
    marks: Annotated[tuple[Mark, ...], Field(max_length=1000)] = ()
    mark_in: Seconds | None = None
    mark_out: Seconds | None = None

    @field_validator("rate")
    @classmethod
    def _exact(cls, rate: str) -> str:
        try:
            return str(FrameRate.of(rate))
        except Fault as fault:
            raise ValueError(fault.sentence) from None

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """A copy with some fields changed. Cached results of the old fields are dropped."""
        copy = super().model_copy(update=update, deep=deep)
        for name in copy.__dict__.keys() - type(self).model_fields.keys():
            del copy.__dict__[name]
        return copy

    @cached_property
    def frame_rate(self) -> FrameRate:
        return FrameRate.of(self.rate)

    @property
    def size(self) -> Size:
        return Size(self.width, self.height)

    @cached_property
    def _bounds(self) -> tuple[tuple[int, int], ...]:
        """The first frame of each shot, and the one after its last."""
        rate, bounds, end = self.frame_rate.exact, [], 0
        # Seconds so far as top ÷ bottom in whole numbers: fractions take ten times as long.
        top, bottom = 0, 1
        for shot in self.shots:
            begin = end
            if shot.gap:
                top, bottom = _sum(top, bottom, shot.gap)
                begin = max(end, nearest_frame(top, bottom, rate))
            top, bottom = _sum(top, bottom, shot.length)
            # The nearest frame; a shot that is shorter than a frame still shows one.
            end = max(begin + 1, nearest_frame(top, bottom, rate))
            bounds.append((begin, end))
        return tuple(bounds)

    @cached_property
    def begin_frames(self) -> tuple[int, ...]:
        """The frame at which each shot begins."""
        return tuple(begin for begin, _ in self._bounds)

    @cached_property
    def length(self) -> int:
        """The number of frames up to the last one that shows something."""
        shots = self._bounds[-1][1] if self._bounds else 0
        return max([shots, *(end for _, end in self._item_bounds.values())])

    @cached_property
    def _index(self) -> Mapping[str, int]:
        return {shot.id: index for index, shot in enumerate(self.shots)}

    @cached_property
    def items(self) -> Mapping[str, tuple[Row, Item]]:
        """The items of all rows, by their names, with their rows."""
        return {item.id: (row, item) for row in self.rows for item in row.items}

    @property
    def placed(self) -> Sequence[Shot | Item]:
        """All shots, then the items of all rows."""
        return [*self.shots, *(item for _, item in self.items.values())]

    @cached_property
    def _item_bounds(self) -> Mapping[str, tuple[int, int]]:
        rate = self.frame_rate.exact

        def frame(at: Fraction) -> int:
            return nearest_frame(at.numerator, at.denominator, rate)

        return {
            name: (frame(item.at), max(frame(item.at) + 1, frame(item.at + item.length)))
            for name, (_, item) in self.items.items()
        }

    def bounds(self, identifier: str) -> tuple[int, int]:
        """The first frame of a shot or an item, and the one after its last.

        Raises
        ------
        Missing
        """
        held = self._item_bounds.get(identifier)
        return held or self._bounds[self.shot_index(identifier)]

    def shot_index(self, identifier: str) -> int:
        index = self._index.get(identifier)
        if index is None:
            raise Missing(f"There is no shot “{identifier}” on the reel.", identifier)
        return index

    def named(self, identifier: str) -> Shot | Item:
        """A shot or an item.

        Raises
        ------
        Missing
        """
        if identifier in self.items:
            return self.items[identifier][1]
        return self.shots[self.shot_index(identifier)]

    def begins(self, index: int) -> int:
        """The frame of the edit at which shot ``index`` begins."""
        return self._bounds[index][0]

    def frames(self, index: int) -> int:
        """The number of frames of shot ``index``."""
        begin, end = self._bounds[index]
        return end - begin

    @cached_property
    def digest(self) -> str:
        """A content hash."""
        return digest_of(self.to_json())

    def to_json(self) -> dict[str, Any]:
        """Plain JSON without fields that have their default."""
        return {"format": self.format} | self.model_dump(mode="json", exclude_defaults=True)


def _sum(top: int, bottom: int, more: Fraction) -> tuple[int, int]:
    if more.denominator == bottom:
        return top + more.numerator, bottom
    exact = Fraction(top, bottom) + more
    return exact.numerator, exact.denominator


def reel_schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of a reel."""
    schema = Reel.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema"} | schema
