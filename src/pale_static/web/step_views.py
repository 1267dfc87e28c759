"""Kinds of steps, in the form for the page."""

from __future__ import annotations

from typing import Any

from pydantic import Field

from .endpoint import Wire


class ValueKind(Wire):
    """A value of a step, from its declaration."""

    name: str
    label: str
    type: str
    default: Any
    help: str
    moves: bool
    when: dict[str, list[Any]] = Field(default_factory=dict)
    slider: tuple[float, float] | None = None
    allowed: tuple[float | None, float | None] | None = None
    unit: str = ""
    whole: bool = False
    lines: bool = False
    options: list[str] = Field(default_factory=list)


class InputKindView(Wire):
    name: str
    takes: str
    help: str
    optional: bool


class StepKindView(Wire):
    """A kind of step, from its declaration."""

    kind: str
    label: str
    family: str
    sentence: str
    words: list[str]
    choices: list[str]
    holds: str
    main: str | None
    gives: str
    inputs: list[InputKindView]
    values: list[ValueKind]
    source: str
    definition: str


class StepKinds(Wire):
    """The catalogue of steps, and the value that all steps with an input share."""

    kinds: list[StepKindView]
    mix: ValueKind


class HeldKindView(Wire):
    """A macro that steps of a draft run, and sentences on the changes in its newest version."""

    kind: StepKindView
    slug: str
    version: int
    newest: int
    update: list[str]


class MacroKinds(Wire):
    """The macros of the shelf as kinds of steps, by ``slug@version``."""

    kinds: list[StepKindView]
