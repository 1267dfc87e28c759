"""Changes: functions from effect to effect. Undo is keeping the old one.

:func:`apply` gives the effect after a change and says in words what was done.
"""

from __future__ import annotations

from collections.abc import Callable

from pydantic import ValidationError

from ..document import Effect
from ..documents.checking import model_fault, require
from . import controls, macros, parts, runs, structure, values
from .controls import drives, value_words
from .models import Change, SetValue, Several
from .parts import keep_part
from .places import slug_of
from .structure import new_effect


def apply(effect: Effect, change: Change) -> tuple[Effect, str]:
    """The effect after a change, and the change in words.

    Raises
    ------
    Fault
        If the change names something that is not there, or would leave a document that is
        wrong; the effect given is untouched.
    """
    try:
        changed, words = _applied(effect, change)
        # Every piece is valid, but there may be more of them than a document may hold.
        Effect.model_validate(changed.to_json())
    except ValidationError as fault:
        raise model_fault("effect", fault) from None
    return require(changed), words


def _applied(effect: Effect, change: Change) -> tuple[Effect, str]:
    if not isinstance(change, Several):
        return _DO[change.do](effect, change)
    said = []
    for one in change.changes:
        effect, words = _DO[one.do](effect, one)
        said.append(words)
    more = f" and {len(said) - 1} more" if len(said) > 1 else ""
    return effect, change.said or f"{said[0]}{more}"


_DO: dict[str, Callable[..., tuple[Effect, str]]] = {
    "set-head": structure.set_head,
    "add-lane": structure.add_lane,
    "set-lane": structure.set_lane,
    "copy-lane": structure.copy_lane,
    "remove-lane": structure.remove_lane,
    "add-step": structure.add_step,
    "set-macro": macros.set_macro,
    "open-macro": macros.open_macro,
    "move-steps": runs.move_steps,
    "copy-steps": runs.copy_steps,
    "remove-steps": runs.remove_steps,
    "turn-steps": runs.turn_steps,
    "repeat-steps": runs.repeat_steps,
    "release-steps": runs.release_steps,
    "name-step": structure.name_step,
    "set-value": values.set_value,
    "arrange-keys": values.arrange_keys,
    "set-input": values.set_input,
    "expose": controls.expose,
    "expose-backwards": controls.expose_backwards,
    "add-control": controls.add_control,
    "drive": controls.drive,
    "unlink": controls.unlink,
    "set-control": controls.set_control,
    "set-words": controls.set_words,
    "remove-control": controls.remove_control,
    "set-slot": structure.set_slot,
    "add-slot": structure.add_slot,
    "remove-slot": structure.remove_slot,
    "set-notes": structure.set_notes,
    "insert-part": parts.insert_part,
}

__all__ = [
    "Change",
    "SetValue",
    "apply",
    "drives",
    "keep_part",
    "new_effect",
    "slug_of",
    "value_words",
]
