"""Changes of where macros are used: joins, looks, and what each is set to."""

from __future__ import annotations

from typing import Any

from ..changes import slug_of
from ..faults import Missing
from .arrangement import holder_of, names_of, told_of, updated, with_item, with_looks
from .change_models import AddLook, PlaceJoin, SetJoin, SetLook, SetUse
from .document import Join, Look, Reel
from .layout import check_reel, neighbour
from .picture import uses_of


def place_join(reel: Reel, change: PlaceJoin) -> tuple[Reel, str]:
    """Put a macro on cuts."""
    told = told_of(reel, change, "cuts")
    joins = list(reel.joins)
    for cut in change.cuts:
        left, right = cut.left, cut.right
        if left and not right and neighbour(reel, left):
            right = neighbour(reel, left)
        old = next((j for j in joins if (j.left, j.right) == (left, right)), None)
        if old:
            joins.remove(old)
        taken = [*names_of(reel), *(join.id for join in joins)]
        name = old.id if old else slug_of(f"join-{left or right}", taken)
        joins.append(Join(id=name, left=left, right=right, **told))
        check_reel(reel.model_copy(update={"joins": (joins[-1],)}))
    words = f"{change.macro} on {len(change.cuts)} cuts"
    if len(change.cuts) == 1:
        names = [reel.named(name).name for name in (joins[-1].left, joins[-1].right) if name]
        words = f"{change.macro} {'between' if len(names) == 2 else 'on'} {' and '.join(names)}"
    return reel.model_copy(update={"joins": tuple(joins)}), words


def set_join(reel: Reel, change: SetJoin) -> tuple[Reel, str]:
    """Change how a join lies."""
    old = next((join for join in reel.joins if join.id == change.join), None)
    if old is None:
        raise Missing(f"There is no join “{change.join}” on the reel any more.", change.join)
    update = told_of(reel, change, "join")
    new = updated(old, update)
    joins = tuple(new if join.id == old.id else join for join in reel.joins)
    return reel.model_copy(update={"joins": joins}), f"{old.macro}: {', '.join(update)} changed"


def add_look(reel: Reel, change: AddLook) -> tuple[Reel, str]:
    """Put a look on shots or items."""
    told = told_of(reel, change, "shots")
    for name in change.shots:
        one = reel.named(name)
        look = Look(id=slug_of(f"look-{change.macro}", names_of(reel)), **told)
        reel = with_looks(reel, one, (*one.looks, look))
    where = (
        reel.named(change.shots[0]).name if len(change.shots) == 1 else f"{len(change.shots)} shots"
    )
    return reel, f"{change.macro} on {where}"


def set_look(reel: Reel, change: SetLook) -> tuple[Reel, str]:
    """Change a look of a stack."""
    one = holder_of(reel, change.look)
    looks = list(one.looks)
    index = next(k for k, look in enumerate(looks) if look.id == change.look)
    update = told_of(reel, change, "look", "at")
    if change.length == 0:
        update["length"] = None
    looks[index] = updated(looks[index], update)
    if change.at is not None:
        look = looks.pop(index)
        looks.insert(min(max(change.at, 0), len(looks)), look)
    return with_looks(
        reel, one, looks
    ), f"{looks[0 if len(looks) == 1 else min(index, len(looks) - 1)].macro} changed"


def set_use(reel: Reel, change: SetUse) -> tuple[Reel, str]:
    """Change what uses of a macro are set to."""
    used = dict(uses_of(reel))
    told: list[str] = []
    for name in change.uses:
        old = used.get(name)
        if old is None:
            raise Missing(f"There is no macro “{name}” on the reel any more.", name)
        update: dict[str, Any] = {"settings": _merged(old.settings, change.settings)}
        update["slots"] = _merged(old.slots, change.slots)
        if change.covering:
            covers = {**dict.fromkeys(old.covering, True), **change.covering}
            update["covering"] = tuple(slot for slot, on in covers.items() if on)
        if change.version is not None:
            update["version"] = change.version
        reel = _with_use(reel, name, updated(old, update))
        told.append(old.macro)
    parts = [
        *(["version"] if change.version else []),
        *(change.settings or {}),
        *(change.slots or {}),
        *(change.covering or {}),
    ]
    return reel, f"{told[0]}: {', '.join(parts)} changed"


def _merged(old: dict[str, Any], new: dict[str, Any] | None) -> dict[str, Any]:
    return {name: value for name, value in {**old, **(new or {})}.items() if value is not None}


def _with_use(reel: Reel, name: str, use: Any) -> Reel:
    if isinstance(use, Join):
        joins = tuple(use if join.id == name else join for join in reel.joins)
        return reel.model_copy(update={"joins": joins})
    if isinstance(use, Look):
        one = holder_of(reel, name)
        return with_looks(reel, one, [use if look.id == name else look for look in one.looks])
    return with_item(reel, reel.items[name][1].model_copy(update={"use": use}))
