"""A published macro as one step: its controls are values, its slots are inputs."""

from __future__ import annotations

from dataclasses import replace
from typing import cast

from ..document import Control, Effect, HeldMacro, Slot, Step
from ..faults import Missing
from ..values.params import Param
from .declare import Family, InputKind, StepKind, step_kind

MACRO = "macro"
FAMILY: Family = "Macros"
MAIN = {"transition": "from", "look": "clip", "title": "clip", "texture": ""}
"""For each kind of macro, the slot that takes the picture from the step above."""


def kind_of(of: Step) -> StepKind:
    """The kind of a step; for one that runs a macro, with the macro's values and inputs.

    Raises
    ------
    Missing
        If there is none.
    """
    if of.macro is None:
        if of.kind == MACRO:
            raise Missing("This step holds no macro. Remove it, and add the macro again.")
        return step_kind(of.kind)
    held = of.macro.__dict__.get("kind")
    if held is None:
        held = of.macro.__dict__["kind"] = macro_kind(of.macro)
    return cast(StepKind, held)


def underscored(slug: str) -> str:
    """A slug with underscores in place of hyphens, like the names of values."""
    return slug.replace("-", "_")


def main_slot(effect: Effect) -> str | None:
    """The slot that takes the picture from the step above; None for a macro that is a source."""
    name = MAIN[effect.kind]
    return name if effect.slot(name) else None


def macro_kind(held: HeldMacro) -> StepKind:
    """The step kind of a macro."""
    effect = held.effect
    main = main_slot(effect)
    return StepKind(
        MACRO,
        label=effect.name,
        family=FAMILY,
        sentence=effect.sentence or f"The {effect.kind} {effect.name}.",
        words=effect.tags,
        main=None if main is None else "picture",
        inputs=tuple(
            _input(slot) for slot in effect.slots if slot.id != main and slot.kind != "text"
        ),
        params=tuple(_param(control) for control in effect.faceplate),
        runs=effect,
    )


def _input(slot: Slot) -> InputKind:
    return InputKind(underscored(slot.id), "picture", slot.help, optional=slot.kind != "clip")


def _param(control: Control) -> Param:
    param = control.param()
    when = {underscored(slug): some for slug, some in control.when.items()}
    return replace(param, name=underscored(param.name), label=param.title, when=when)
