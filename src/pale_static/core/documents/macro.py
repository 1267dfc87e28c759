"""Macros: published effects with a version, and what changed between two of them."""

from __future__ import annotations

import json
from collections.abc import Mapping
from hashlib import blake2b
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ..document import Effect
from ..faults import Fault
from ..migrations import upgraded
from ..values.params import tidy
from .checking import follows, model_fault, require


class Macro(BaseModel):
    """A published version of an effect. It never changes afterwards."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    format: Literal["pale-static/macro@2"] = "pale-static/macro@2"
    version: Annotated[int, Field(ge=1, le=100000)]
    author: Annotated[str, Field(max_length=120)] = ""
    changes: Annotated[str, Field(max_length=2000)] = ""
    licence: Annotated[str, Field(max_length=120)] = ""
    needs_product: Annotated[str, Field(pattern=r"^\d+\.\d+\.\d+$")] = "0.1.0"
    published: Annotated[str, Field(max_length=40)] = ""
    identity: Annotated[str, Field(pattern=r"^([0-9a-f]{32})?$")] = ""
    """Made once, when the first version is published: all versions have it, and no other macro.
    Empty for one that version 1 of this format published."""
    effect: Effect

    def to_json(self) -> dict[str, Any]:
        """Plain JSON; the effect as :meth:`Effect.to_json` gives it."""
        plain: dict[str, Any] = {"format": self.format}
        plain |= self.model_dump(mode="json", exclude={"effect"}, exclude_defaults=True)
        return plain | {"effect": self.effect.to_json()}


def without_stand_ins(effect: Effect) -> Effect:
    """The effect without the material its maker built it on."""
    slots = tuple(slot.model_copy(update={"stand_in": None}) for slot in effect.slots)
    return effect.model_copy(update={"slots": slots})


def identity_of(first: Macro) -> str:
    """The identity of a macro, by its first version.

    A macro from before macros had one is known by the content of its first version.
    """
    if first.identity:
        return first.identity
    plain = json.dumps(without_stand_ins(first.effect).to_json(), sort_keys=True)
    return blake2b(plain.encode(), digest_size=16).hexdigest()


class KeptSettings(BaseModel):
    """Settings of a macro's controls, kept under a name."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    name: Annotated[str, Field(min_length=1, max_length=80)]
    settings: Annotated[dict[str, Any], Field(max_length=200)]


class SettingsFile(BaseModel):
    """The kept settings that travel with a macro."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    format: Literal["pale-static/settings@1"] = "pale-static/settings@1"
    sets: Annotated[tuple[KeptSettings, ...], Field(max_length=200)] = ()


def read_settings(raw: Mapping[str, Any], effect: Effect) -> tuple[KeptSettings, ...]:
    """Kept settings from JSON, each without the values that the macro does not take.

    Raises
    ------
    Fault
    """
    try:
        read = SettingsFile.model_validate(raw)
    except ValidationError as fault:
        raise model_fault("file of settings", fault) from None
    sets = (
        one.model_copy(update={"settings": settings_for(effect, one.settings)}) for one in read.sets
    )
    return tuple(one for one in sets if one.settings)


def read_macro(raw: Mapping[str, Any]) -> Macro:
    """A macro from JSON, whole and checked."""
    try:
        macro = Macro.model_validate(upgraded("macro", raw))
    except ValidationError as fault:
        raise model_fault("macro", fault) from None
    require(macro.effect, whole=True)
    return macro


def publish(effect: Effect, version: int, **about: str) -> Macro:
    """The effect as a version of a macro.

    Raises
    ------
    Fault
        If something is still open in the draft, or a control drives nothing.
    """
    require(effect, whole=True)
    shown_by = {slug for control in effect.controls for slug in control.when}
    for control in effect.controls:
        if control.slug not in shown_by and not any(
            follows(value, control.slug)
            for lane in effect.lanes
            for step in lane.every
            for value in [effect.backwards, step.mix, *step.values.values()]
        ):
            raise Fault(
                f"The control “{control.label}” drives nothing. Link a value to it, or remove it.",
                f"controls.{control.slug}",
            )
    return Macro(version=version, effect=effect, **about)


def macro_schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of a macro."""
    schema = Macro.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema"} | schema


def faceplate_changes(old: Effect, new: Effect) -> list[str]:
    """What changes for the editor on the faceplate, one sentence each."""
    said: list[str] = []
    for control in new.faceplate:
        before = old.control(control.slug)
        if before is None or before.hidden:
            said.append(f"Adds “{control.label}”.")
            continue
        if before.type != control.type:
            said.append(f"“{control.label}” is now a {control.type}, was a {before.type}.")
        elif before.default != control.default:
            said.append(
                f"“{control.label}” starts at {_told(control.default)}, was "
                f"{_told(before.default)}."
            )
        if before.label != control.label:
            said.append(f"“{before.label}” is now called “{control.label}”.")
    said += [
        f"Drops “{c.label}”."
        for c in old.faceplate
        if c.slug not in {n.slug for n in new.faceplate}
    ]
    return said or ["The faceplate is the same."]


def settings_for(new: Effect, settings: Mapping[str, Any]) -> dict[str, Any]:
    """The editor's settings that a new version still has."""
    kept = {}
    for slug, value in settings.items():
        control = new.control(slug)
        if control is None:
            continue
        try:
            kept[slug] = control.param().check(value, control.label)
        except Fault:
            continue
    return kept


def _told(value: Any) -> str:
    if isinstance(value, bool):
        return "on" if value else "off"
    return tidy(value) if isinstance(value, (int, float)) else str(value)
