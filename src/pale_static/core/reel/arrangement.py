"""What all changes of an edit go by: exact times, names, and putting things back in place."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from fractions import Fraction
from typing import Any

from ..faults import Fault, Missing
from .document import Item, Look, Model, Reel, Row, Shot, Source
from .picture import uses_of

_TIMES = ("start", "length", "gap", "begin", "fade_in", "fade_out")


def updated(model: Any, update: dict[str, Any]) -> Any:
    """A model with some fields changed, checked again."""
    return type(model).model_validate(model.model_dump() | update)


def told_of(reel: Reel, change: Model, *leave: str) -> dict[str, Any]:
    """What a change says, its frames as exact seconds."""
    update = change.model_dump(exclude={"do", *leave}, exclude_none=True)
    rate = reel.frame_rate.exact
    return update | {name: update[name] / rate for name in _TIMES if name in update}


def names_of(reel: Reel) -> list[str]:
    """Every name that is taken."""
    uses = [name for name, _ in uses_of(reel)]
    return [*(shot.id for shot in reel.shots), *reel.items, *uses]


def with_item(reel: Reel, item: Item) -> Reel:
    """The edit with an item in place of the one of its name."""
    return with_rows(
        reel,
        [[item if other.id == item.id else other for other in row.items] for row in reel.rows],
    )


def with_rows(reel: Reel, rows: Iterable[Iterable[Item]]) -> Reel:
    """The edit with these items on its rows, in order of time; empty rows on top go."""
    ordered = [tuple(sorted(row, key=lambda item: item.at)) for row in rows]
    while ordered and not ordered[-1]:
        ordered.pop()
    made = tuple(Row(id=f"row-{k + 1}", items=items) for k, items in enumerate(ordered))
    return reel.model_copy(update={"rows": made})


def with_looks(reel: Reel, one: Shot | Item, looks: Sequence[Look]) -> Reel:
    """The edit with another stack of looks on a shot or an item."""
    new = updated(one, {"looks": tuple(looks)})
    if isinstance(new, Item):
        return with_item(reel, new)
    shots = tuple(new if shot.id == new.id else shot for shot in reel.shots)
    return reel.model_copy(update={"shots": shots})


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
