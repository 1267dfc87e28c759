"""Changes of an edit: each a small frozen model, and a function from edit to edit."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise
from typing import Annotated, Any, Literal, Union

from pydantic import Field, ValidationError

from .changes import slug_of
from .checking import model_fault
from .document import Identifier, Name
from .faults import Fault, Missing
from .picture import Fit
from .reel import Alignment, Join, Model, Reel, Shot, check_reel


class SetReel(Model):
    do: Literal["set-reel"] = "set-reel"
    name: Name | None = None
    rate: str | None = None
    width: int | None = None
    height: int | None = None


Frame = Annotated[int, Field(ge=0, le=10**7)]
Frames = Annotated[int, Field(ge=1, le=10**7)]


class AddShot(Model):
    """Put a stretch of a material on the reel. Times are frames of the edit."""

    do: Literal["add-shot"] = "add-shot"
    material: str
    name: Name
    start: Frame = 0
    length: Frames
    at: int | None = None


class SetShot(Model):
    """Trim a shot, slide what it shows, or move it along the row. Times are frames of the edit."""

    do: Literal["set-shot"] = "set-shot"
    shot: Identifier
    start: Frame | None = None
    length: Frames | None = None
    fit: Fit | None = None
    at: int | None = None


class RemoveShot(Model):
    do: Literal["remove-shot"] = "remove-shot"
    shot: Identifier


class PlaceJoin(Model):
    """Put a macro on the cut after a shot, in place of what is there."""

    do: Literal["place-join"] = "place-join"
    left: Identifier
    macro: str
    version: int
    length: Frames = 25
    alignment: Alignment = "across"


class SetJoin(Model):
    """Change a join; ``settings`` holds only the controls that change, None for their default."""

    do: Literal["set-join"] = "set-join"
    join: Identifier
    length: Frames | None = None
    alignment: Alignment | None = None
    hold: bool | None = None
    version: int | None = None
    settings: dict[str, Any] | None = None


class RemoveJoin(Model):
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


def _told(reel: Reel, change: Model, *leave: str) -> dict[str, Any]:
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
