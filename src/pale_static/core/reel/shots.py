"""Changes of shots and items on their rows: add, trim, roll, split and move them."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from ..changes import slug_of
from ..faults import Fault, Missing
from .arrangement import names_of, slipped, told_of, updated, with_placed, with_rows
from .change_models import AddItem, AddShot, CopyPlaced, RollCut, SetItem, SetShot
from .cutting import cut_in_two
from .document import Item, MacroUse, Reel, Shot, Source
from .layout import neighbour


def add_shot(reel: Reel, change: AddShot) -> tuple[Reel, str]:
    """Put a stretch of a material on the base row."""
    told = told_of(reel, change, "at", "frame", "over")
    words = f"{change.name} added"
    at = len(reel.shots) if change.at is None else min(max(change.at, 0), len(reel.shots))
    gap = Fraction(0)
    if change.frame is not None:
        reel, at, gap = _opened(reel, change.frame, change.length if change.over else 0)
    shot = Shot(id=slug_of(change.name, names_of(reel)), gap=gap, **told)
    return reel.model_copy(update={"shots": (*reel.shots[:at], shot, *reel.shots[at:])}), words


def _opened(reel: Reel, frame: int, over: int) -> tuple[Reel, int, Fraction]:
    """The edit with room at a frame: shots are cut there, and shots under the ``over`` frames are
    removed.

    Also gives the new shot's place in the row, and the gap before it.
    """
    rate = reel.frame_rate.exact
    for at in (frame, frame + over) if over else (frame,):
        index = next(
            (k for k in range(len(reel.shots)) if reel.begins(k) < at < reel.bounds(reel.shots[k].id)[1]),
            None,
        )  # fmt: skip
        if index is not None:
            reel = cut_in_two(reel, reel.shots[index].id, at)
    at = next((k for k in range(len(reel.shots)) if reel.begins(k) >= frame), len(reel.shots))
    before = reel.bounds(reel.shots[at - 1].id)[1] if at else 0
    gap = Fraction(max(0, frame - before)) / rate
    shots = list(reel.shots)
    rest = shots[at:]
    if over:
        rest = [shot for shot in rest if reel.begins(reel.shot_index(shot.id)) >= frame + over]
        if rest:
            begins = reel.begins(reel.shot_index(rest[0].id))
            left = Fraction(begins - frame - over) / rate
            rest[0] = rest[0].model_copy(update={"gap": left})
    elif rest:
        # The gap before the next shot now lies before the new one, as far as it reaches.
        begins = reel.begins(at)
        rest[0] = rest[0].model_copy(update={"gap": Fraction(max(0, begins - frame)) / rate})
    return reel.model_copy(update={"shots": tuple(shots[:at] + rest)}), at, gap


def set_shot(reel: Reel, change: SetShot) -> tuple[Reel, str]:
    """Trim, slip, move or change a shot, or a clip on a row."""
    told = told_of(reel, change, "shot", "at", "ripple", "head", "tail", "slip")
    if change.shot in reel.items:
        return _set_clip(reel, change, told)
    index = reel.shot_index(change.shot)
    old = reel.shots[index]
    shot = updated(_trimmed(reel, old, change), told)
    shots = list(reel.shots)
    shots[index] = shot
    if not change.ripple:
        _held_in_place(
            shots, index, old, trimmed_head=bool(change.head) or change.start is not None
        )
    trims = {"start", "length", "head", "tail", "slip"}
    words = "trimmed" if trims & change.model_dump(exclude_none=True).keys() else "changed"
    if change.at is not None:
        shots.pop(index)
        shots.insert(min(max(change.at, 0), len(shots)), shot)
        words = "moved"
    return reel.model_copy(update={"shots": tuple(shots)}), f"{shot.name} {words}"


def _trimmed(reel: Reel, one: Any, change: SetShot) -> Any:
    """A shot or an item with its ends moved. Every remaining frame shows the same as before."""
    rate = reel.frame_rate.exact
    tail = Fraction(change.tail or 0) / rate
    if change.length is not None and change.start is None:
        tail = Fraction(change.length) / rate - one.length
    for by, head in ((Fraction(change.head or 0) / rate, True), (tail, False)):
        length = one.length - by if head else one.length + by
        if length <= 0:
            raise Fault(f"{one.name} would have no frame left. Trim it less.")
        update = {"length": length} | slipped(one, by, head)
        if head and isinstance(one, Item):
            update["at"] = one.at + by
        one = one.model_copy(update=update)
    if change.slip:
        by = -Fraction(change.slip) / rate
        one = one.model_copy(update=slipped(one, by, head=True) | slipped(one, by, head=False))
    return one


def _held_in_place(shots: list[Shot], index: int, old: Shot, trimmed_head: bool) -> None:
    """Make up for a trim with gaps, so that everything else stays where it is."""
    shot = shots[index]
    by = shot.length - old.length
    if trimmed_head:
        gap = shot.gap - by
        if gap < 0:
            raise Fault(
                f"{shot.name} cannot begin earlier: the shot before it is in the way. Trim that "
                "one first, or roll the cut."
            )
        shots[index] = shot.model_copy(update={"gap": gap})
    elif index + 1 < len(shots):
        after = shots[index + 1]
        gap = after.gap - by
        if gap < 0:
            raise Fault(
                f"{shot.name} cannot end later: {after.name} is in the way. Trim that one first, "
                "or roll the cut."
            )
        shots[index + 1] = after.model_copy(update={"gap": gap})


def _set_clip(reel: Reel, change: SetShot, told: dict[str, Any]) -> tuple[Reel, str]:
    """Change a clip on a row. It never moves its neighbours."""
    item = reel.items[change.shot][1]
    if item.source is None:
        raise Fault(f"{item.name} is a macro: it has no material to trim.")
    update: dict[str, Any] = {k: told.pop(k) for k in ("name", "length") if k in told}
    told.pop("gap", None)
    if not change.ripple and change.start is not None and "length" in update:
        update["at"] = item.at + item.length - update["length"]
    item = _trimmed(reel, item, change)
    changed = updated(item, update | {"source": updated(item.source, told)})
    return with_placed(reel, changed), f"{item.name} changed"


def roll_cut(reel: Reel, change: RollCut) -> tuple[Reel, str]:
    """Move a cut between two neighbours."""
    after = neighbour(reel, change.left)
    if after is None:
        raise Fault(f"{reel.named(change.left).name} is the last one, so there is no cut to roll.")
    by = Fraction(change.by) / reel.frame_rate.exact
    left, right = reel.named(change.left), reel.named(after)
    words = f"Cut after {left.name} rolled by {change.by} frames"
    if left.length + by <= 0 or right.length - by <= 0:
        raise Fault(f"{(left if by < 0 else right).name} would have no frame left. Roll it less.")
    longer = left.model_copy(update={"length": left.length + by} | slipped(left, by, head=False))
    shorter = right.model_copy(update={"length": right.length - by} | slipped(right, by, head=True))
    if isinstance(shorter, Item):
        shorter = shorter.model_copy(update={"at": shorter.at + by})
    return with_placed(reel, longer, shorter), words


def copy(reel: Reel, change: CopyPlaced) -> tuple[Reel, str]:
    """Put copies of shots and items at a frame."""
    given = [reel.named(name) for name in change.names]
    items = [one for one in given if isinstance(one, Item)]
    earliest = min((item.at for item in items), default=Fraction(0))
    at = Fraction(change.frame) / reel.frame_rate.exact
    for item in items:
        made = _copied(reel, item).model_copy(update={"at": at + item.at - earliest})
        reel = _on_row(reel, made, None)
    frame = change.frame
    for shot in [one for one in given if isinstance(one, Shot)]:
        reel, place, gap = _opened(reel, frame, 0)
        made = _copied(reel, shot).model_copy(update={"gap": gap})
        reel = reel.model_copy(update={"shots": (*reel.shots[:place], made, *reel.shots[place:])})
        frame = reel.bounds(made.id)[1]
    words = f"{given[0].name} copied" if len(given) == 1 else f"{len(given)} copied"
    return reel, words


def _copied(reel: Reel, one: Any) -> Any:
    """A copy under other names."""
    taken = names_of(reel)
    looks = []
    for look in one.looks:
        looks.append(look.model_copy(update={"id": slug_of(look.id, taken)}))
        taken.add(looks[-1].id)
    return one.model_copy(update={"id": slug_of(one.name, taken), "looks": tuple(looks)})


def add_item(reel: Reel, change: AddItem) -> tuple[Reel, str]:
    """Put a clip or a macro on a row above."""
    rate = reel.frame_rate.exact
    at, length = Fraction(change.frame) / rate, Fraction(change.length) / rate
    source = use = None
    if change.material is not None:
        source = Source(material=change.material, start=Fraction(change.start) / rate)
    if change.macro is not None:
        use = MacroUse(macro=change.macro, version=change.version, settings=change.settings)
    name = slug_of(change.name, names_of(reel))
    item = Item(id=name, name=change.name, at=at, length=length, source=source, use=use)
    return _on_row(reel, item, change.row), f"{change.name} added"


def _on_row(reel: Reel, item: Item, number: int | None) -> Reel:
    """The edit with an item on a row: the named row, or else the lowest free one."""
    rows = [[other for other in row.items if other.id != item.id] for row in reel.rows]

    def free(row: list[Item]) -> bool:
        return all(
            other.at >= item.at + item.length or other.at + other.length <= item.at for other in row
        )

    if number is None:
        number = next((k for k, row in enumerate(rows) if free(row)), len(rows))
    while len(rows) <= number:
        rows.append([])
    rows[number].append(item)
    return with_rows(reel, rows)


def set_item(reel: Reel, change: SetItem) -> tuple[Reel, str]:
    """Move or change an item of a row."""
    if change.item not in reel.items:
        raise Missing(f"There is no “{change.item}” on a row any more.", change.item)
    row, old = reel.items[change.item]
    update = told_of(reel, change, "item", "frame", "row")
    if change.frame is not None:
        update["at"] = Fraction(change.frame) / reel.frame_rate.exact
    new = updated(old, update)
    number = change.row if change.row is not None else reel.rows.index(row)
    return _on_row(
        reel, new, number
    ), f"{new.name} {'moved' if {'at'} & update.keys() else 'changed'}"
