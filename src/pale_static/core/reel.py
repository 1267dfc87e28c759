"""The reel: one edit of shots and joins, and what it shows at every frame.

Times are exact seconds, so that another frame rate changes no shot; frames are counted from them.
"""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property
from itertools import pairwise
from typing import Annotated, Any, Literal, Self, Union

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

from .changes import slug_of
from .checking import model_fault
from .document import Identifier, Name
from .faults import Fault, Missing, OutOfRange
from .footage import Footage
from .migrations import upgraded
from .picture import Fit, Size
from .timing import FrameRate, nearest_frame, whole_frames

Alignment = Literal["before", "across", "after"]


class _Model(BaseModel):
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


class Shot(_Model):
    """A stretch of a material: from ``start``, seconds of the material, for ``length`` seconds."""

    id: Identifier
    material: Annotated[str, Field(max_length=200)]
    name: Name
    start: Seconds = Fraction(0)
    length: Seconds
    fit: Fit = "cover"


class Join(_Model):
    """A transition between a shot and the next, pinned to one version of a macro."""

    id: Identifier
    left: Identifier
    macro: Annotated[str, Field(max_length=80)]
    version: Annotated[int, Field(ge=1)]
    length: Seconds
    alignment: Alignment = "across"
    settings: dict[str, Any] = Field(default_factory=dict)
    hold: bool = False


class Reel(_Model):
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


class SetReel(_Model):
    do: Literal["set-reel"] = "set-reel"
    name: Name | None = None
    rate: str | None = None
    width: int | None = None
    height: int | None = None


Frame = Annotated[int, Field(ge=0, le=10**7)]
Frames = Annotated[int, Field(ge=1, le=10**7)]


class AddShot(_Model):
    """Put a stretch of a material on the reel. Times are frames of the edit."""

    do: Literal["add-shot"] = "add-shot"
    material: str
    name: Name
    start: Frame = 0
    length: Frames
    at: int | None = None


class SetShot(_Model):
    """Trim a shot, slide what it shows, or move it along the row. Times are frames of the edit."""

    do: Literal["set-shot"] = "set-shot"
    shot: Identifier
    start: Frame | None = None
    length: Frames | None = None
    fit: Fit | None = None
    at: int | None = None


class RemoveShot(_Model):
    do: Literal["remove-shot"] = "remove-shot"
    shot: Identifier


class PlaceJoin(_Model):
    """Put a macro on the cut after a shot, in place of what is there."""

    do: Literal["place-join"] = "place-join"
    left: Identifier
    macro: str
    version: int
    length: Frames = 25
    alignment: Alignment = "across"


class SetJoin(_Model):
    """Change a join; ``settings`` holds only the controls that change, None for their default."""

    do: Literal["set-join"] = "set-join"
    join: Identifier
    length: Frames | None = None
    alignment: Alignment | None = None
    hold: bool | None = None
    version: int | None = None
    settings: dict[str, Any] | None = None


class RemoveJoin(_Model):
    do: Literal["remove-join"] = "remove-join"
    join: Identifier


ReelChange = Annotated[
    Union[SetReel, AddShot, SetShot, RemoveShot, PlaceJoin, SetJoin, RemoveJoin],
    Field(discriminator="do"),
]


def apply_reel(reel: Reel, change: ReelChange) -> tuple[Reel, str]:
    """The reel after a change, and the change in words; the reel given is untouched."""
    try:
        changed, words = _DO[change.do](reel, change)
    except ValidationError as fault:
        raise model_fault("edit", fault) from None
    return check_reel(changed), words


def _changed(model: Any, update: dict[str, Any]) -> Any:
    return type(model).model_validate(model.model_dump() | update)


def _told(reel: Reel, change: _Model, *leave: str) -> dict[str, Any]:
    """What a change says, its frames as exact seconds."""
    update = change.model_dump(exclude={"do", *leave}, exclude_none=True)
    rate = reel.frame_rate.exact
    times = {name: update[name] / rate for name in ("start", "length") if name in update}
    return update | times


def _set_reel(reel: Reel, change: SetReel) -> tuple[Reel, str]:
    return _changed(reel, _told(reel, change)), "Edit settings changed"


def _add_shot(reel: Reel, change: AddShot) -> tuple[Reel, str]:
    name = slug_of(change.name, [shot.id for shot in reel.shots])
    shot = Shot(id=name, **_told(reel, change, "at"))
    at = len(reel.shots) if change.at is None else min(max(change.at, 0), len(reel.shots))
    shots = (*reel.shots[:at], shot, *reel.shots[at:])
    # A join holds between two neighbours; one that a new shot comes between goes.
    joins = tuple(
        j for j in reel.joins if reel.shot_index(j.left) != at - 1 or at == len(reel.shots)
    )
    return reel.model_copy(update={"shots": shots, "joins": joins}), f"{change.name} added"


def _set_shot(reel: Reel, change: SetShot) -> tuple[Reel, str]:
    index = reel.shot_index(change.shot)
    shot = _changed(reel.shots[index], _told(reel, change, "shot", "at"))
    shots = list(reel.shots)
    shots[index] = shot
    joins = reel.joins
    if change.at is not None:
        shots.pop(index)
        shots.insert(min(max(change.at, 0), len(shots)), shot)
        follows = {a.id: b.id for a, b in pairwise(reel.shots)}
        now = {a.id: b.id for a, b in pairwise(shots)}
        joins = tuple(j for j in joins if now.get(j.left) == follows.get(j.left))
    changed = reel.model_copy(update={"shots": tuple(shots), "joins": joins})
    return changed, f"{shot.name} {'moved' if change.at is not None else 'trimmed'}"


def _remove_shot(reel: Reel, change: RemoveShot) -> tuple[Reel, str]:
    index = reel.shot_index(change.shot)
    gone = {change.shot, reel.shots[index - 1].id if index else ""}
    joins = tuple(join for join in reel.joins if join.left not in gone)
    shots = tuple(shot for shot in reel.shots if shot.id != change.shot)
    changed = reel.model_copy(update={"shots": shots, "joins": joins})
    return changed, f"{reel.shots[index].name} removed"


def _place_join(reel: Reel, change: PlaceJoin) -> tuple[Reel, str]:
    index = reel.shot_index(change.left)
    if index + 1 >= len(reel.shots):
        raise Fault(f"{reel.shots[index].name} is the last shot: there is no cut after it.")
    old = next((join for join in reel.joins if join.left == change.left), None)
    join = Join(
        id=old.id if old else slug_of(f"join-{change.left}", [j.id for j in reel.joins]),
        **_told(reel, change),
    )
    joins = tuple(other for other in reel.joins if other.left != change.left)
    names = f"{reel.shots[index].name} and {reel.shots[index + 1].name}"
    return reel.model_copy(update={"joins": (*joins, join)}), f"{change.macro} between {names}"


def _find_join(reel: Reel, identifier: str) -> Join:
    for join in reel.joins:
        if join.id == identifier:
            return join
    raise Missing(f"There is no join “{identifier}” on the reel any more.", identifier)


def _set_join(reel: Reel, change: SetJoin) -> tuple[Reel, str]:
    old = _find_join(reel, change.join)
    update = _told(reel, change, "join", "settings")
    settings = change.settings or {}
    kept = {**old.settings, **settings}
    update["settings"] = {slug: value for slug, value in kept.items() if value is not None}
    new = _changed(old, update)
    joins = tuple(new if join.id == old.id else join for join in reel.joins)
    told = [name for name in ("length", "alignment", "hold", "version") if name in update]
    return reel.model_copy(update={"joins": joins}), (
        f"{old.macro}: {', '.join([*told, *settings])} changed"
    )


def _remove_join(reel: Reel, change: RemoveJoin) -> tuple[Reel, str]:
    old = _find_join(reel, change.join)
    joins = tuple(join for join in reel.joins if join.id != old.id)
    return reel.model_copy(update={"joins": joins}), f"{old.macro} removed"


_DO: dict[str, Callable[..., tuple[Reel, str]]] = {
    "set-reel": _set_reel,
    "add-shot": _add_shot,
    "set-shot": _set_shot,
    "remove-shot": _remove_shot,
    "place-join": _place_join,
    "set-join": _set_join,
    "remove-join": _remove_join,
}


def reel_schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of a reel."""
    schema = Reel.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema"} | schema
