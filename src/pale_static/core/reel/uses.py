"""Changes of uses of macros: joins, looks, and their settings."""

from __future__ import annotations

from typing import Any

from ..changes import slug_of
from ..faults import Missing
from .arrangement import (
    holder_of,
    names_of,
    told_of,
    updated,
    with_looks,
    with_placed,
    with_uses,
)
from .change_models import AddLook, PlaceJoin, SetJoin, SetLook, SetUse
from .document import Join, Look, MacroUse, Reel
from .layout import check_reel, neighbour
from .picture import uses_of


def place_join(reel: Reel, change: PlaceJoin) -> tuple[Reel, str]:
    """Put a macro on cuts."""
    told = told_of(reel, change, "cuts")
    joins = {(join.left, join.right): join for join in reel.joins}
    taken = names_of(reel)
    placed: dict[tuple[str | None, str | None], Join] = {}
    for cut in change.cuts:
        left, right = cut.left, cut.right
        if left and not right:
            right = neighbour(reel, left)
        old = joins.pop((left, right), None)
        name = old.id if old else slug_of(f"join-{left or right}", taken)
        taken.add(name)
        placed[left, right] = joins[left, right] = Join(id=name, left=left, right=right, **told)
    # Check the new joins first, then whether the joins beside them still fit.
    check_reel(reel.model_copy(update={"joins": tuple(placed.values())}))
    words = f"{change.macro} on {len(change.cuts)} cuts"
    if len(change.cuts) == 1:
        names = [reel.named(name).name for name in next(iter(placed)) if name]
        words = f"{change.macro} {'between' if len(names) == 2 else 'on'} {' and '.join(names)}"
    return reel.model_copy(update={"joins": tuple(joins.values())}), words


def set_join(reel: Reel, change: SetJoin) -> tuple[Reel, str]:
    """Change the length, place or ends of a join."""
    old = next((join for join in reel.joins if join.id == change.join), None)
    if old is None:
        raise Missing(f"There is no join “{change.join}” on the reel any more.", change.join)
    update = told_of(reel, change, "join")
    new = updated(old, update)
    return with_uses(reel, {new.id: new}), f"{old.macro}: {', '.join(update)} changed"


def add_look(reel: Reel, change: AddLook) -> tuple[Reel, str]:
    """Put a look on shots or items."""
    told = told_of(reel, change, "shots")
    taken = names_of(reel)
    changed = []
    for name in dict.fromkeys(change.shots):
        one = reel.named(name)
        look = Look(id=slug_of(f"look-{change.macro}-{one.id}", taken), **told)
        taken.add(look.id)
        changed.append(with_looks(one, (*one.looks, look)))
    reel = with_placed(reel, *changed)
    where = (
        reel.named(change.shots[0]).name if len(change.shots) == 1 else f"{len(change.shots)} shots"
    )
    return reel, f"{change.macro} on {where}"


def set_look(reel: Reel, change: SetLook) -> tuple[Reel, str]:
    """Change a look of a stack."""
    one = holder_of(reel, change.look)
    looks = list(one.looks)
    index = next(k for k, look in enumerate(looks) if look.id == change.look)
    macro = looks[index].macro
    update = told_of(reel, change, "look", "at")
    if change.length == 0:
        update["length"] = None
    looks[index] = updated(looks[index], update)
    if change.at is not None:
        look = looks.pop(index)
        looks.insert(min(max(change.at, 0), len(looks)), look)
    return with_placed(reel, with_looks(one, looks)), f"{macro} changed"


def set_use(reel: Reel, change: SetUse) -> tuple[Reel, str]:
    """Change settings of uses of a macro."""
    used = dict(uses_of(reel))
    new: dict[str, Join | Look | MacroUse] = {}
    for name in change.uses:
        old = used.get(name)
        if old is None:
            raise Missing(f"There is no macro “{name}” on the reel any more.", name)
        settings = (change.settings or {}) | (change.each or {}).get(name, {})
        update: dict[str, Any] = {"settings": _merged(old.settings, settings)}
        update["slots"] = _merged(old.slots, change.slots)
        if change.covering:
            covers = {**dict.fromkeys(old.covering, True), **change.covering}
            update["covering"] = tuple(slot for slot, on in covers.items() if on)
        if change.version is not None:
            update["version"] = change.version
        new[name] = updated(old, update)
    parts = [
        *(["version"] if change.version else []),
        *(change.settings or {}),
        *(change.slots or {}),
        *(change.covering or {}),
    ]
    return with_uses(reel, new), f"{new[change.uses[0]].macro}: {', '.join(parts)} changed"


def _merged(old: dict[str, Any], new: dict[str, Any] | None) -> dict[str, Any]:
    return {name: value for name, value in {**old, **(new or {})}.items() if value is not None}
