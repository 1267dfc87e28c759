"""Helpers of all changes of an edit: exact times, identifiers, replacing shots, items and uses."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from fractions import Fraction
from typing import Any

from ..faults import Fault, Missing
from .document import Item, Join, Look, MacroUse, Model, Reel, Row, Shot, Source
from .picture import uses_of

_TIMES = ("start", "length", "gap", "begin", "fade_in", "fade_out")


def updated(model: Any, update: dict[str, Any]) -> Any:
    """A model with some fields changed, checked again."""
    return type(model).model_validate(model.model_dump() | update)


def told_of(reel: Reel, change: Model, *leave: str) -> dict[str, Any]:
    """The values of a change, with its frames as exact seconds."""
    update = change.model_dump(exclude={"do", *leave}, exclude_none=True)
    rate = reel.frame_rate.exact
    return update | {name: update[name] / rate for name in _TIMES if name in update}


def names_of(reel: Reel) -> set[str]:
    """Every identifier that is taken."""
    uses = {name for name, _ in uses_of(reel)}
    return uses.union((shot.id for shot in reel.shots), reel.items)


def with_placed(reel: Reel, *changed: Shot | Item) -> Reel:
    """The edit with these shots and items in place of those with the same identifiers."""
    new = {one.id: one for one in changed}
    if any(isinstance(one, Shot) for one in changed):
        shots = tuple(new.get(shot.id, shot) for shot in reel.shots)
        reel = reel.model_copy(update={"shots": shots})
    if any(isinstance(one, Item) for one in changed):
        rows = [[new.get(item.id, item) for item in row.items] for row in reel.rows]
        reel = with_rows(reel, rows)  # type: ignore[arg-type]
    return reel


def with_uses(reel: Reel, uses: Mapping[str, Join | Look | MacroUse]) -> Reel:
    """The edit with these uses of macros in place of those with the same identifiers."""
    joins = tuple(uses.get(join.id, join) for join in reel.joins)
    changed = []
    for one in reel.placed:
        update: dict[str, Any] = {}
        if any(look.id in uses for look in one.looks):
            update["looks"] = tuple(uses.get(look.id, look) for look in one.looks)
        if one.id in uses:
            update["use"] = uses[one.id]
        if update:
            changed.append(one.model_copy(update=update))
    return with_placed(reel.model_copy(update={"joins": joins}), *changed)


def with_rows(reel: Reel, rows: Iterable[Iterable[Item]]) -> Reel:
    """The edit with these items on its rows, in order of time; empty rows on top are removed."""
    ordered = [tuple(sorted(row, key=lambda item: item.at)) for row in rows]
    while ordered and not ordered[-1]:
        ordered.pop()
    made = tuple(Row(id=f"row-{k + 1}", items=items) for k, items in enumerate(ordered))
    return reel.model_copy(update={"rows": made})


def with_looks(one: Shot | Item, looks: Sequence[Look]) -> Any:
    """A shot or an item with another stack of looks."""
    return updated(one, {"looks": tuple(looks)})


def holder_of(reel: Reel, look: str) -> Shot | Item:
    """The shot or the item that a look is on."""
    for one in reel.placed:
        if any(each.id == look for each in one.looks):
            return one
    raise Missing(f"There is no look “{look}” on the reel any more.", look)


def slipped(one: Shot | Item, by: Fraction, head: bool) -> dict[str, Any]:
    """Where a material starts once the head, or the tail, has moved ``by`` seconds of the edit.

    Forwards its start moves with the head, backwards with the tail.
    """
    source = one if isinstance(one, Source) else one.source
    if source is None or source.direction == "freeze":
        return {}
    forwards = source.direction == "forwards"
    if forwards != head:
        return {}
    start = source.start + (by if forwards else -by) * source.speed
    if start < 0:
        spare = source.start / source.speed
        raise Fault(
            f"{one.name} has only {float(spare):.4g} seconds of material before it. Move it less."
        )
    if isinstance(one, Source):
        return {"start": start}
    return {"source": source.model_copy(update={"start": start})}
