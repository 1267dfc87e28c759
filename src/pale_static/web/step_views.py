"""Kinds of steps as the page gets them."""

from __future__ import annotations

from typing import Any

from pydantic import Field

from .endpoint import Wire


class ValueKind(Wire):
    """A value of a step, as its declaration has it."""

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
    """A kind of step, as its declaration has it."""

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
    """The catalogue of steps, and the value that every step with an input has."""

    kinds: list[StepKindView]
    mix: ValueKind


class HeldKindView(Wire):
    """A macro that steps of a draft run, and in words what its newest version changes."""

    kind: StepKindView
    slug: str
    version: int
    newest: int
    update: list[str]


class MacroKinds(Wire):
    """The macros of the shelf as kinds of steps, by ``slug@version``."""

    kinds: list[StepKindView]
