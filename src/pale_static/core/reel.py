"""The reel: one edit of shots and joins, and what it shows at every frame."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise
from math import floor
from typing import Annotated, Any, Literal, Union

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from .checking import model_fault
from .document import Identifier, Name
from .edits import slug_of
from .faults import Fault, Missing, OutOfRange
from .footage import Footage
from .picture import Fit, Size
from .timing import FrameRate

Alignment = Literal["before", "across", "after"]


class _Model(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Shot(_Model):
    """A stretch of a material. ``start`` and ``length`` are frames of the reel."""

    id: Identifier
    material: Annotated[str, Field(max_length=200)]
    name: Name
    start: Annotated[int, Field(ge=0, le=10**7)] = 0
    length: Annotated[int, Field(ge=1, le=10**7)]
    fit: Fit = "cover"


class Join(_Model):
    """A transition between a shot and the next, pinned to one version of a macro."""

    id: Identifier
    left: Identifier
    macro: Annotated[str, Field(max_length=80)]
    version: Annotated[int, Field(ge=1)]
    length: Annotated[int, Field(ge=1, le=100000)]
    alignment: Alignment = "across"
    settings: dict[str, Any] = Field(default_factory=dict)
    hold: bool = False


class Reel(_Model):
    """One edit."""

    format: Literal["pale-static/reel@1"] = "pale-static/reel@1"
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

    @property
    def frame_rate(self) -> FrameRate:
        return FrameRate.of(self.rate)

    @property
    def size(self) -> Size:
        return Size(self.width, self.height)

    @property
    def length(self) -> int:
        """Frames from the first shot's first to the last one's last."""
        return sum(shot.length for shot in self.shots)

    def shot_index(self, identifier: str) -> int:
        for index, shot in enumerate(self.shots):
            if shot.id == identifier:
                return index
        raise Missing(f"There is no shot “{identifier}” on the reel.", identifier)

    def begins(self, index: int) -> int:
        """The frame at which shot ``index`` begins."""
        return sum(shot.length for shot in self.shots[:index])


@dataclass(frozen=True)
class Span:
    """Where a join lies: its first frame, the frame after its last, and the cut."""

    first: int
    end: int
    cut: int


def join_span(reel: Reel, join: Join) -> Span:
    """Frames of a join. *Across* puts the odd frame after the cut."""
    cut = reel.begins(reel.shot_index(join.left) + 1)
    before = {"before": join.length, "across": join.length // 2, "after": 0}[join.alignment]
    return Span(cut - before, cut - before + join.length, cut)


def frames_of(footage: Footage, rate: FrameRate) -> int | None:
    """How many frames of the reel a material lasts; None for a still, which lasts for ever."""
    if footage.rate is None:
        return None
    return max(1, floor(Fraction(footage.length) / footage.rate.exact * rate.exact))


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


def handles(reel: Reel, join: Join, lasts: Mapping[str, int | None]) -> Handles:
    """The handles of a join; ``lasts`` gives the frames of each material."""
    index = reel.shot_index(join.left)
    left, right = reel.shots[index], reel.shots[index + 1]
    span = join_span(reel, join)
    whole = lasts.get(left.material)
    spare = None if whole is None else max(0, whole - left.start - left.length)
    endless = right.material in lasts and lasts[right.material] is None
    return Handles(
        max(0, span.end - span.cut), spare, max(0, span.cut - span.first),
        10**7 if endless else right.start,
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
    for join in reel.joins:
        span = join_span(reel, join)
        if span.first <= frame < span.end:
            index = reel.shot_index(join.left)
            left, right = reel.shots[index], reel.shots[index + 1]
            first = span.first - reel.begins(index)
            second = span.first - span.cut
            return ShowJoin(
                join, frame - span.first, left, right,
                Fraction(left.start + first) / rate, Fraction(right.start + second) / rate,
            )  # fmt: skip
    begin = 0
    for shot in reel.shots:
        if frame < begin + shot.length:
            return ShowShot(shot, Fraction(shot.start + frame - begin) / rate)
        begin += shot.length
    raise AssertionError("the reel's length is the sum of its shots'")


def check_reel(reel: Reel) -> Reel:
    """The reel, or a fault for the first thing that cannot be."""
    names = [shot.id for shot in reel.shots]
    if len(set(names)) < len(names):
        raise Fault("Two shots of the reel share a name.", "shots")
    spans: list[tuple[int, int, Join]] = []
    for join in reel.joins:
        index = reel.shot_index(join.left)
        if index + 1 >= len(reel.shots):
            raise Fault(
                f"{reel.shots[index].name} is the last shot: there is no cut after it to join.",
                f"joins.{join.id}",
            )
        span = join_span(reel, join)
        left, right = reel.begins(index), reel.begins(index + 2)
        if span.first < left or span.end > right:
            room = min(span.cut - left, right - span.cut)
            raise OutOfRange(
                f"A join of {join.length} frames does not fit between "
                f"{reel.shots[index].name} and {reel.shots[index + 1].name}: "
                f"there are {span.cut - left} and {right - span.cut} frames. "
                f"Make it {max(1, room)} frames or less, or lengthen the shots.",
                f"joins.{join.id}",
            )
        spans.append((span.first, span.end, join))
    spans.sort(key=lambda item: item[0])
    for one, two in pairwise(spans):
        if two[0] < one[1]:
            raise OutOfRange(
                "Two joins overlap on one shot. Shorten one of them.", f"joins.{two[2].id}"
            )
    return reel


class SetReel(_Model):
    do: Literal["set-reel"] = "set-reel"
    name: Name | None = None
    rate: str | None = None
    width: int | None = None
    height: int | None = None


class AddShot(_Model):
    do: Literal["add-shot"] = "add-shot"
    material: str
    name: Name
    start: int = 0
    length: int
    at: int | None = None


class SetShot(_Model):
    """Trim a shot, slide what it shows, or move it along the row."""

    do: Literal["set-shot"] = "set-shot"
    shot: Identifier
    start: int | None = None
    length: int | None = None
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
    length: int = 25
    alignment: Alignment = "across"


class SetJoin(_Model):
    do: Literal["set-join"] = "set-join"
    join: Identifier
    length: int | None = None
    alignment: Alignment | None = None
    hold: bool | None = None
    version: int | None = None
    settings: dict[str, Any] | None = None


class RemoveJoin(_Model):
    do: Literal["remove-join"] = "remove-join"
    join: Identifier


ReelEdit = Annotated[
    Union[SetReel, AddShot, SetShot, RemoveShot, PlaceJoin, SetJoin, RemoveJoin],
    Field(discriminator="do"),
]


def apply_reel(reel: Reel, edit: ReelEdit) -> tuple[Reel, str]:
    """The reel after an edit, and the edit in words; the reel given is untouched."""
    try:
        changed, words = _DO[edit.do](reel, edit)
    except ValidationError as fault:
        raise model_fault("edit", fault) from None
    return check_reel(changed), words


def _changed(model: Any, edit: _Model, leave: set[str]) -> Any:
    update = edit.model_dump(exclude={"do", *leave}, exclude_none=True)
    return type(model).model_validate(model.model_dump() | update)


def _set_reel(reel: Reel, edit: SetReel) -> tuple[Reel, str]:
    return _changed(reel, edit, set()), "Reel settings changed"


def _add_shot(reel: Reel, edit: AddShot) -> tuple[Reel, str]:
    name = slug_of(edit.name, [shot.id for shot in reel.shots])
    shot = Shot(id=name, **edit.model_dump(exclude={"do", "at"}))
    at = len(reel.shots) if edit.at is None else min(max(edit.at, 0), len(reel.shots))
    shots = (*reel.shots[:at], shot, *reel.shots[at:])
    # A join holds between two neighbours; one that a new shot comes between goes.
    joins = tuple(
        j for j in reel.joins if reel.shot_index(j.left) != at - 1 or at == len(reel.shots)
    )
    return reel.model_copy(update={"shots": shots, "joins": joins}), f"{edit.name} added"


def _set_shot(reel: Reel, edit: SetShot) -> tuple[Reel, str]:
    index = reel.shot_index(edit.shot)
    shot = _changed(reel.shots[index], edit, {"shot", "at"})
    shots = list(reel.shots)
    shots[index] = shot
    joins = reel.joins
    if edit.at is not None:
        shots.pop(index)
        shots.insert(min(max(edit.at, 0), len(shots)), shot)
        follows = {a.id: b.id for a, b in pairwise(reel.shots)}
        now = {a.id: b.id for a, b in pairwise(shots)}
        joins = tuple(j for j in joins if now.get(j.left) == follows.get(j.left))
    changed = reel.model_copy(update={"shots": tuple(shots), "joins": joins})
    return changed, f"{shot.name} {'moved' if edit.at is not None else 'trimmed'}"


def _remove_shot(reel: Reel, edit: RemoveShot) -> tuple[Reel, str]:
    index = reel.shot_index(edit.shot)
    gone = {edit.shot, reel.shots[index - 1].id if index else ""}
    joins = tuple(join for join in reel.joins if join.left not in gone)
    shots = tuple(shot for shot in reel.shots if shot.id != edit.shot)
    changed = reel.model_copy(update={"shots": shots, "joins": joins})
    return changed, f"{reel.shots[index].name} removed"


def _place_join(reel: Reel, edit: PlaceJoin) -> tuple[Reel, str]:
    index = reel.shot_index(edit.left)
    if index + 1 >= len(reel.shots):
        raise Fault(f"{reel.shots[index].name} is the last shot: there is no cut after it.")
    old = next((join for join in reel.joins if join.left == edit.left), None)
    join = Join(
        id=old.id if old else slug_of(f"join-{edit.left}", [j.id for j in reel.joins]),
        **edit.model_dump(exclude={"do"}),
    )
    joins = tuple(other for other in reel.joins if other.left != edit.left)
    names = f"{reel.shots[index].name} and {reel.shots[index + 1].name}"
    return reel.model_copy(update={"joins": (*joins, join)}), f"{edit.macro} between {names}"


def _find_join(reel: Reel, identifier: str) -> Join:
    for join in reel.joins:
        if join.id == identifier:
            return join
    raise Missing(f"There is no join “{identifier}” on the reel any more.", identifier)


def _set_join(reel: Reel, edit: SetJoin) -> tuple[Reel, str]:
    old = _find_join(reel, edit.join)
    new = _changed(old, edit, {"join"})
    joins = tuple(new if join.id == old.id else join for join in reel.joins)
    update = edit.model_dump(exclude={"do", "join"}, exclude_none=True)
    return reel.model_copy(update={"joins": joins}), f"{old.macro}: {', '.join(update)} changed"


def _remove_join(reel: Reel, edit: RemoveJoin) -> tuple[Reel, str]:
    old = _find_join(reel, edit.join)
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
