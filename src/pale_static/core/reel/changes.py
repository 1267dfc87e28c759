"""Changes of an edit: one function from edit to edit for each kind of change."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

from pydantic import ValidationError

from ..documents.checking import model_fault
from . import cutting, shots, uses
from .arrangement import told_of, updated
from .change_models import ReelChange, SetMark, SetReel
from .document import Join, Mark, Reel
from .layout import check_reel, neighbour


def apply_reel(reel: Reel, change: ReelChange) -> tuple[Reel, str]:
    """The edit after a change, and the change in words; the given edit is untouched."""
    try:
        changed, words = _DO[change.do](reel, change)
        whole = check_reel(_without_lost_joins(changed))
        # Every piece is valid, but there may be more of them than a document may hold.
        Reel.model_validate(whole.to_json())
        return whole, words
    except ValidationError as fault:
        raise model_fault("edit", fault) from None


def _without_lost_joins(reel: Reel) -> Reel:
    """Drop joins whose shots are gone or are no longer neighbours."""
    names = {shot.id for shot in reel.shots} | reel.items.keys()

    def holds(join: Join) -> bool:
        there = all(name in names for name in (join.left, join.right) if name)
        if not there or join.left is None or join.right is None:
            return there
        return neighbour(reel, join.left) == join.right

    joins = tuple(join for join in reel.joins if holds(join))
    return reel if len(joins) == len(reel.joins) else reel.model_copy(update={"joins": joins})


def _set_reel(reel: Reel, change: SetReel) -> tuple[Reel, str]:
    update = told_of(reel, change, "mark_in", "mark_out")
    rate = reel.frame_rate.exact
    marks = {"mark_in": change.mark_in, "mark_out": change.mark_out}
    for name, frame in marks.items():
        if frame is not None:
            update[name] = None if frame < 0 else Fraction(frame) / rate
    changed = updated(reel, update)
    first, last = changed.mark_in, changed.mark_out
    if first is not None and last is not None and first >= last:
        # The newer mark stays.
        older = "mark_out" if change.mark_in is not None else "mark_in"
        changed = changed.model_copy(update={older: None})
    return changed, "Marks changed" if update.keys() <= marks.keys() else "Edit settings changed"


def _set_mark(reel: Reel, change: SetMark) -> tuple[Reel, str]:
    at = Fraction(change.frame) / reel.frame_rate.exact
    marks = [mark for mark in reel.marks if mark.at != at]
    if change.name:
        marks.append(Mark(at=at, name=change.name))
    marks.sort(key=lambda mark: mark.at)
    words = f"Mark “{change.name}”" if change.name else "Mark removed"
    return reel.model_copy(update={"marks": tuple(marks)}), words


_DO: dict[str, Callable[..., tuple[Reel, str]]] = {
    "set-reel": _set_reel,
    "set-mark": _set_mark,
    "add-shot": shots.add_shot,
    "set-shot": shots.set_shot,
    "roll-cut": shots.roll_cut,
    "add-item": shots.add_item,
    "set-item": shots.set_item,
    "copy": shots.copy,
    "split": cutting.split,
    "remove": cutting.remove,
    "place-join": uses.place_join,
    "set-join": uses.set_join,
    "add-look": uses.add_look,
    "set-look": uses.set_look,
    "set-use": uses.set_use,
}
