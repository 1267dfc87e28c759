"""The reel: one edit of shots and joins, and what it shows at every frame.

Times are exact seconds, so that another frame rate changes no shot; frames are counted from them.
"""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property
from itertools import pairwise
from typing import Annotated, Any, Literal, Self

from pydantic import (
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    PlainSerializer,
    ValidationError,
    WithJsonSchema,
    field_validator,
)

from .checking import model_fault
from .document import Identifier, Name
from .faults import Fault, Missing, OutOfRange
from .footage import Footage
from .migrations import upgraded
from .picture import Fit, Size
from .timing import FrameRate, nearest_frame, whole_frames

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


class Shot(Model):
    """A stretch of a material: from ``start``, seconds of the material, for ``length`` seconds."""

    id: Identifier
    material: Annotated[str, Field(max_length=200)]
    name: Name
    start: Seconds = Fraction(0)
    length: Seconds
    fit: Fit = "cover"


class Join(Model):
    """A transition between a shot and the next, pinned to one version of a macro."""

    id: Identifier
    left: Identifier
    macro: Annotated[str, Field(max_length=80)]
    version: Annotated[int, Field(ge=1)]
    length: Seconds
    alignment: Alignment = "across"
    settings: dict[str, Any] = Field(default_factory=dict)
    hold: bool = False


class Reel(Model):
    """One edit."""

    format: Literal["pale-static/reel@2"] = "pale-static/reel@2"
    name: Name
    rate: str = "25"
    width: Annotated[int, Field(ge=16, le=8192)] = 1280
    height: Annotated[int, Field(ge=16, le=8192)] = 720
    shots: Annotated[tuple[Shot, ...], Field(max_length=5000)] = ()
    joins: Annotated[tuple[Join, ...], Field(max_length=5000)] = ()

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
    def starts(self) -> tuple[int, ...]:
        """The frame at which each shot begins, and the one after the last shot."""
        rate, frames = self.frame_rate.exact, [0]
        # Seconds so far as top ÷ bottom.
        top, bottom = 0, 1
        for shot in self.shots:
            length = shot.length
            if length.denominator == bottom:
                top += length.numerator
            else:
                exact = Fraction(top, bottom) + length
                top, bottom = exact.numerator, exact.denominator
            # The nearest frame; a shot that is shorter than a frame still shows one.
            frames.append(max(frames[-1] + 1, nearest_frame(top, bottom, rate)))
        return tuple(frames)

    @property
    def length(self) -> int:
        """Frames from the first shot's first to the last one's last."""
        return self.starts[-1]

    @cached_property
    def _index(self) -> Mapping[str, int]:
        return {shot.id: index for index, shot in enumerate(self.shots)}

    @cached_property
    def laid(self) -> tuple[Laid, ...]:
        """All joins with the frames they cover, in order of time."""
        placed = [Laid(join_span(self, join), join) for join in self.joins]
        return tuple(sorted(placed, key=lambda laid: laid.span.first))

    @cached_property
    def spans(self) -> Mapping[str, Span]:
        """The frames that each join covers, by its id."""
        return {laid.join.id: laid.span for laid in self.laid}

    @cached_property
    def _firsts(self) -> tuple[int, ...]:
        return tuple(laid.span.first for laid in self.laid)

    def join_at(self, frame: int) -> Laid | None:
        """The join that shows at a frame. Joins never overlap."""
        at = bisect_right(self._firsts, frame) - 1
        return self.laid[at] if at >= 0 and frame < self.laid[at].span.end else None

    def shot_index(self, identifier: str) -> int:
        index = self._index.get(identifier)
        if index is None:
            raise Missing(f"There is no shot “{identifier}” on the reel.", identifier)
        return index

    def begins(self, index: int) -> int:
        """The frame at which shot ``index`` begins."""
        return self.starts[index]

    def frames(self, index: int) -> int:
        """How many frames shot ``index`` has."""
        return self.starts[index + 1] - self.starts[index]

    def to_json(self) -> dict[str, Any]:
        """Plain JSON, leaving out what is at its default."""
        return {"format": self.format} | self.model_dump(mode="json", exclude_defaults=True)


def read_reel(raw: Any) -> Reel:
    """An edit from JSON of any version, checked.

    Raises
    ------
    Fault
    """
    try:
        return check_reel(Reel.model_validate(upgraded("reel", raw)))
    except ValidationError as fault:
        raise model_fault("edit", fault) from None


@dataclass(frozen=True)
class Span:
    """Where a join lies: its first frame, the frame after its last, and the cut."""

    first: int
    end: int
    cut: int

    @property
    def length(self) -> int:
        """How many frames it has."""
        return self.end - self.first


@dataclass(frozen=True)
class Laid:
    """A join and the frames it covers."""

    span: Span
    join: Join


def join_span(reel: Reel, join: Join) -> Span:
    """Frames of a join. *Across* puts the odd frame after the cut."""
    cut = reel.begins(reel.shot_index(join.left) + 1)
    length = reel.frame_rate.frames(join.length)
    before = {"before": length, "across": length // 2, "after": 0}[join.alignment]
    return Span(cut - before, cut - before + length, cut)


def seconds_of(footage: Footage) -> Fraction | None:
    """How long a material lasts, exactly; None for a still, which lasts for ever."""
    return None if footage.rate is None else Fraction(footage.length) / footage.rate.exact


@dataclass(frozen=True)
class Handles:
    """What a join needs beyond the cut, and what the shots have to spare there.

    ``None`` to spare means no limit, as with a still.
    """

    left_needs: int
    left_spare: int | None
    right_needs: int
    right_spare: int

    @property
    def short(self) -> bool:
        """Whether either shot has too few frames."""
        left = self.left_spare is not None and self.left_needs > self.left_spare
        return left or self.right_needs > self.right_spare


def handles(reel: Reel, join: Join, lasts: Mapping[str, Fraction | None]) -> Handles:
    """The handles of a join; ``lasts`` gives the seconds of each material."""
    index = reel.shot_index(join.left)
    left, right = reel.shots[index], reel.shots[index + 1]
    span, rate = reel.spans[join.id], reel.frame_rate.exact
    whole = lasts.get(left.material)
    beyond = None if whole is None else whole_frames(whole - left.start, rate) - reel.frames(index)
    endless = right.material in lasts and lasts[right.material] is None
    return Handles(
        max(0, span.end - span.cut), None if beyond is None else max(0, beyond),
        max(0, span.cut - span.first), 10**7 if endless else whole_frames(right.start, rate),
    )  # fmt: skip


@dataclass(frozen=True)
class ShowShot:
    """A frame of a shot alone, at this time in its material."""

    shot: Shot
    seconds: Fraction


@dataclass(frozen=True)
class ShowJoin:
    """Frame ``frame`` of a join; the times are those of its two shots at the join's frame 0."""

    join: Join
    frame: int
    left: Shot
    right: Shot
    left_start: Fraction
    right_start: Fraction


def shown(reel: Reel, frame: int) -> ShowShot | ShowJoin:
    """What the reel shows at a frame.

    Raises
    ------
    OutOfRange
        Before the first or after the last frame.
    """
    if not 0 <= frame < reel.length:
        raise OutOfRange(f"{reel.name} has frames 0 to {reel.length - 1}. Asked for {frame}.")
    rate = reel.frame_rate.exact
    laid = reel.join_at(frame)
    if laid is not None:
        span, join = laid.span, laid.join
        index = reel.shot_index(join.left)
        left, right = reel.shots[index], reel.shots[index + 1]
        first = span.first - reel.begins(index)
        second = span.first - span.cut
        return ShowJoin(
            join, frame - span.first, left, right,
            left.start + first / rate, right.start + second / rate,
        )  # fmt: skip
    index = bisect_right(reel.starts, frame) - 1
    shot = reel.shots[index]
    return ShowShot(shot, shot.start + (frame - reel.begins(index)) / rate)


def check_reel(reel: Reel) -> Reel:
    """The reel, or a fault for the first thing that cannot be."""
    if len({shot.id for shot in reel.shots}) < len(reel.shots):
        raise Fault("Two shots of the reel share a name.", "shots")
    for join in reel.joins:
        index = reel.shot_index(join.left)
        if index + 1 >= len(reel.shots):
            raise Fault(
                f"{reel.shots[index].name} is the last shot: there is no cut after it to join.",
                f"joins.{join.id}",
            )
    for laid in reel.laid:
        span, join = laid.span, laid.join
        index = reel.shot_index(join.left)
        left, right = reel.begins(index), reel.begins(index + 2)
        if span.first < left or span.end > right:
            room = min(span.cut - left, right - span.cut)
            raise OutOfRange(
                f"A join of {span.length} frames does not fit between "
                f"{reel.shots[index].name} and {reel.shots[index + 1].name}: "
                f"there are {span.cut - left} and {right - span.cut} frames. "
                f"Make it {max(1, room)} frames or less, or lengthen the shots.",
                f"joins.{join.id}",
            )
    for one, two in pairwise(reel.laid):
        if two.span.first < one.span.end:
            raise OutOfRange(
                "Two joins overlap on one shot. Shorten one of them.", f"joins.{two.join.id}"
            )
    return reel


def reel_schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of a reel."""
    schema = Reel.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema"} | schema
