"""Edits: functions from effect to effect. Undo is keeping the old one.

:func:`apply` gives the effect after an edit and says in words what was done.
"""

from __future__ import annotations

from collections.abc import Callable

from pydantic import ValidationError

from ..checking import model_fault, require
from ..document import Effect
from . import structure, values
from .models import Edit, SetValue
from .places import slug_of
from .structure import new_effect
from .values import drives


def apply(effect: Effect, edit: Edit) -> tuple[Effect, str]:
    """The effect after an edit, and the edit in words.

    Raises
    ------
    Fault
        Where the edit names something that is not there, or would leave a document that is
        wrong; the effect given is untouched.
    """
    try:
        changed, words = _DO[edit.do](effect, edit)
    except ValidationError as fault:
        raise model_fault("effect", fault) from None
    return require(changed), words


_DO: dict[str, Callable[..., tuple[Effect, str]]] = {
    "set-head": structure.set_head,
    "add-lane": structure.add_lane,
    "set-lane": structure.set_lane,
    "remove-lane": structure.remove_lane,
    "add-step": structure.add_step,
    "move-step": structure.move_step,
    "remove-step": structure.remove_step,
    "set-step": structure.set_step,
    "set-value": values.set_value,
    "set-values": values.set_values,
    "arrange-keys": values.arrange_keys,
    "set-tap": values.set_tap,
    "expose": values.expose,
    "expose-backwards": values.expose_backwards,
    "set-control": values.set_control,
    "remove-control": values.remove_control,
    "set-slot": structure.set_slot,
    "set-notes": structure.set_notes,
}

__all__ = ["Edit", "SetValue", "apply", "drives", "new_effect", "slug_of"]
