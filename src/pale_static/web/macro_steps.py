"""Macros as steps of effects: fill them in from the shelf, and describe them to the page."""

from __future__ import annotations

from ..core.changes import Change
from ..core.changes.models import AddStep, Pinned, SetMacro, Several
from ..core.document import Effect, HeldMacro, Step
from ..core.documents.macro import faceplate_changes
from ..core.faults import Missing
from ..core.steps.declare import StepKind
from ..core.steps.macro import kind_of, macro_kind
from ..store import macros
from .step_views import HeldKindView, StepKindView
from .studio import studio


def filled(change: Change) -> Change:
    """A change with its macros filled in from the shelf."""
    if isinstance(change, Several):
        return change.model_copy(update={"changes": tuple(filled(one) for one in change.changes)})
    if not isinstance(change, AddStep | SetMacro) or change.macro is None:
        return change
    return change.model_copy(update={"macro": _whole(change.macro)})


def _whole(pinned: Pinned) -> Pinned:
    effect = studio().shelf.effect(pinned.slug, pinned.version)
    held = HeldMacro(slug=pinned.slug, version=pinned.version, effect=effect)
    return pinned.model_copy(update={"held": held})


def key_of(slug: str, version: int) -> str:
    """The name of a macro's version among the kinds of steps."""
    return f"{slug}@{version}"


def held_views(effect: Effect) -> list[HeldKindView]:
    """Every version of a macro that steps of a draft run."""
    steps = {
        key_of(step.macro.slug, step.macro.version): step
        for lane in effect.lanes
        for step in lane.every
        if step.macro is not None
    }
    return [_view(name, step) for name, step in sorted(steps.items())]


def _view(name: str, step: Step) -> HeldKindView:
    held = step.macro
    assert held is not None
    newest, update = held.version, list[str]()
    try:
        shelved = macros.get(studio().library.db, held.slug)
        newest = max(newest, shelved.versions[0])
        if newest > held.version:
            update = faceplate_changes(held.effect, shelved.newest.effect)
    except Missing:
        pass  # The macro is no longer on the shelf; the effect holds all of it.
    return HeldKindView(
        kind=_kind(kind_of(step), name), slug=held.slug, version=held.version,
        newest=newest, update=update,
    )  # fmt: skip


def _kind(kind: StepKind, name: str) -> StepKindView:
    return StepKindView.model_validate(kind.describe() | {"kind": name})


def shelf_kinds() -> list[StepKindView]:
    """The newest version of every macro on the shelf, as a kind of step."""
    found = []
    for shelved in macros.listed(studio().library.db):
        version = shelved.versions[0]
        held = HeldMacro(slug=shelved.slug, version=version, effect=shelved.newest.effect)
        found.append(_kind(macro_kind(held), key_of(shelved.slug, version)))
    return found
