"""Split shots and items, and remove things from the edit."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from ..changes import slug_of
from ..faults import Fault, Missing
from ..time.timing import nearest_frame
from .arrangement import names_of, slipped, with_rows
from .change_models import Remove, Split
from .document import Item, Look, Reel, Shot
from .picture import uses_of


def split(reel: Reel, change: Split) -> tuple[Reel, str]:
    """Split the shots and items at a frame."""
    names = [*(shot.id for shot in reel.shots), *reel.items]
    here = [
        name
        for name in change.only or names
        if reel.bounds(name)[0] < change.frame < reel.bounds(name)[1]
    ]
    if not here:
        raise Fault("There is nothing to split at the playhead. Move it onto a shot.")
    told = ", ".join(reel.named(name).name for name in here)
    for name in here:
        reel = cut_in_two(reel, name, change.frame)
    return reel, f"{told} split"


def cut_in_two(reel: Reel, name: str, frame: int) -> Reel:
    """The edit with a shot or an item cut at a frame; the second half gets a name of its own."""
    one = reel.named(name)
    first = Fraction(frame - reel.bounds(name)[0]) / reel.frame_rate.exact
    rest = one.length - first
    # The second half starts later in its material, after the first half's part.
    taken = names_of(reel)
    looks = []
    for look in one.looks:
        if _has_ended(reel, look, first):
            continue
        name_there = slug_of(look.id, taken)
        taken.add(name_there)
        looks.append(look.model_copy(update={"id": name_there} | _later_part(look, first)))
    head = one.model_copy(update={"length": first} | slipped(one, -rest, head=False))
    tail = one.model_copy(
        update={"id": slug_of(one.name, taken), "length": rest, "looks": tuple(looks)}
        | slipped(one, first, head=True)
    )
    joins = tuple(
        join.model_copy(update={"left": tail.id}) if join.left == name else join
        for join in reel.joins
    )
    reel = reel.model_copy(update={"joins": joins})
    if isinstance(head, Item):
        assert isinstance(tail, Item)
        tail = tail.model_copy(update={"at": one.at + first})  # type: ignore[union-attr]
        rows = [
            [part for item in row.items for part in ((head, tail) if item.id == name else (item,))]
            for row in reel.rows
        ]
        return with_rows(reel, rows)
    assert isinstance(tail, Shot)
    halves = (head.model_copy(update={"fade_out": Fraction(0)}),
              tail.model_copy(update={"gap": Fraction(0), "fade_in": Fraction(0)}))  # fmt: skip
    shots = tuple(part for shot in reel.shots for part in (halves if shot.id == name else (shot,)))
    return reel.model_copy(update={"shots": shots})


def _has_ended(reel: Reel, look: Look, by: Fraction) -> bool:
    """Whether a look ends before a time."""
    if look.length is None:
        return False
    left = look.begin + look.length - by
    return nearest_frame(left.numerator, left.denominator, reel.frame_rate.exact) <= 0


def _later_part(look: Look, by: Fraction) -> dict[str, Any]:
    """The stretch of a look as the second half of a cut shot sees it."""
    begin = max(Fraction(0), look.begin - by)
    if look.length is None:
        return {"begin": begin}
    end = max(look.begin + look.length - by, begin + Fraction(1, 1000))
    return {"begin": begin, "length": end - begin}


def remove(reel: Reel, change: Remove) -> tuple[Reel, str]:
    """Remove shots, joins, looks and items."""
    gone = set(change.names)
    unknown = gone - names_of(reel)
    if unknown:
        raise Missing(f"There is no “{sorted(unknown)[0]}” on the reel any more.")
    shots: list[Shot] = []
    gap = Fraction(0)
    for shot in reel.shots:
        if shot.id in gone:
            gap += Fraction(0) if change.close else shot.gap + shot.length
            continue
        shots.append(_without_looks(shot, gone, {"gap": shot.gap + gap} if gap else {}))
        gap = Fraction(0)
    rows = [
        [_without_looks(i, gone, {}) for i in row.items if i.id not in gone] for row in reel.rows
    ]
    joins = tuple(join for join in reel.joins if join.id not in gone)
    changed = with_rows(reel.model_copy(update={"shots": tuple(shots), "joins": joins}), rows)
    told = len(change.names) if len(change.names) > 1 else _title(reel, change.names[0])
    return changed, f"{told} removed"


def _without_looks(one: Any, gone: set[str], update: dict[str, Any]) -> Any:
    looks = tuple(look for look in one.looks if look.id not in gone)
    if len(looks) < len(one.looks):
        update = update | {"looks": looks}
    return one.model_copy(update=update) if update else one


def _title(reel: Reel, name: str) -> str:
    """The name of a shot or an item, or of the macro of a use."""
    use = dict(uses_of(reel)).get(name)
    return use.macro if use and name not in reel.items else reel.named(name).name
