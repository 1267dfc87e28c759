"""The effect document: lanes of steps, slots, controls and notes, as frozen models."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Iterator
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, field_validator

from .faults import Fault
from .pictures.picture import Channel, Fit
from .time.easing import Ease
from .time.timing import FrameRate
from .values.params import (
    Choice,
    ColourParam,
    EaseCurve,
    Number,
    Param,
    Point,
    SlotName,
    Stops,
    Text,
    Toggle,
)
from .values.value import Link, Value, read_value

Identifier = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,47}$")]
Name = Annotated[str, Field(min_length=1, max_length=120)]
Sentence = Annotated[str, Field(max_length=200)]
HelpText = Annotated[str, Field(max_length=400)]
Kind = Literal["transition", "look", "title", "texture"]
ControlType = Literal[
    "number",
    "whole",
    "angle",
    "toggle",
    "choice",
    "colour",
    "point",
    "text",
    "seed",
    "ease",
    "stops",
    "slot",
]


class _Model(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Input(_Model):
    """A named reference to another lane's end, or to one of its steps."""

    lane: Identifier
    step: Identifier | None = None
    channel: Channel = "luminance"
    invert: bool = False
    offset: Annotated[int, Field(ge=-10000, le=10000)] = 0


class Step(_Model):
    """One step of a lane: a kind, its values, and where its other inputs come from.

    A step of the kind ``macro`` runs a published macro, whose controls are its values and whose
    slots are its inputs.

    A repeat holds ``steps`` of its own. Their identifiers are unique in the lane, so a lane and a
    step name any step of the effect.
    """

    id: Identifier
    kind: Identifier
    macro: HeldMacro | None = None
    name: Annotated[str, Field(max_length=120)] = ""
    on: bool = True
    mix: Any = 1.0
    values: dict[str, Any] = Field(default_factory=dict, max_length=64)
    inputs: dict[str, Input] = Field(default_factory=dict, max_length=16)
    steps: Annotated[tuple[Step, ...], Field(max_length=200)] = ()

    @field_validator("mix", mode="after")
    @classmethod
    def _read_mix(cls, raw: Any) -> Value:
        return read_value(raw)

    @field_validator("values", mode="after")
    @classmethod
    def _read_values(cls, raw: dict[str, Any]) -> dict[str, Value]:
        return {name: read_value(value) for name, value in raw.items()}


class Lane(_Model):
    """Steps from top to bottom, each taking what the one before it gives."""

    id: Identifier
    name: Name
    steps: Annotated[tuple[Step, ...], Field(max_length=1000)] = ()
    folded: bool = False

    @property
    def every(self) -> Iterator[Step]:
        """All steps from top to bottom, those of a repeat right after it."""
        for step in self.steps:
            yield step
            yield from step.steps


class Slot(_Model):
    """A place for material; the editor or the edit fills it."""

    id: Identifier
    name: Name
    kind: Literal["clip", "text", "matte", "texture"] = "clip"
    help: HelpText = ""
    fit: Fit = "cover"
    fallback: Literal["card", "clip"] = "card"
    """What an edit shows if nothing fills the slot: a plain card, or the clip itself."""
    stand_in: Annotated[str, Field(max_length=200)] | None = None


class Edge(_Model):
    """Settings at which a weakness begins to show, and which one. It is not a limit."""

    below: float | None = None
    above: float | None = None
    reason: Annotated[str, Field(min_length=1, max_length=200)]


class Control(_Model):
    """One control of the macro's faceplate.

    A ``hidden`` one drives values, and the editor does not see it. One with ``when`` is shown only
    while each of those toggles and choices has one of the settings that it names. ``good`` is the
    part of the slider that the maker recommends.
    """

    slug: Identifier
    label: Name
    type: ControlType
    default: Any
    group: Annotated[str, Field(max_length=80)] = ""
    slider: tuple[float, float] = (0.0, 1.0)
    allowed: tuple[float, float] | None = None
    unit: Annotated[str, Field(max_length=20)] = ""
    options: tuple[str, ...] = ()
    help: HelpText = ""
    hidden: bool = False
    when: dict[Identifier, tuple[bool | str, ...]] = Field(default_factory=dict, max_length=8)
    good: tuple[float, float] | None = None
    edge: Edge | None = None

    def param(self) -> Param:
        """The parameter this control is, which checks its settings."""
        shared: dict[str, Any] = {"name": self.slug, "label": self.label, "help": self.help}
        if self.type in ("number", "whole", "angle", "seed"):
            return Number(
                **shared,
                default=self.default,
                slider=self.slider,
                allowed=self.allowed or (float("-inf"), float("inf")),
                unit="°" if self.type == "angle" else self.unit,
                whole=self.type in ("whole", "seed"),
            )
        if self.type == "choice":
            return Choice(**shared, default=self.default, options=self.options)
        if self.type == "slot":
            return SlotName(**shared, default=self.default, options=self.options)
        made: dict[str, type[Param]] = {
            "toggle": Toggle,
            "colour": ColourParam,
            "point": Point,
            "text": Text,
            "ease": EaseCurve,
            "stops": Stops,
        }
        default = self.default
        if self.type == "ease":
            default = EaseCurve(name=self.slug).check(default, self.label)
        return made[self.type](**shared, default=default)


class Note(_Model):
    """Text pinned to the effect, a lane or a step."""

    text: Annotated[str, Field(min_length=1, max_length=2000)]
    lane: Identifier | None = None
    step: Identifier | None = None


def _working_rate(rate: str) -> str:
    try:
        exact = FrameRate.of(rate)
    except Fault as fault:
        raise ValueError(fault.sentence) from None
    if not 23 <= exact.exact <= 60:
        raise ValueError(f"An effect is built at 23.976 to 60 frames a second, not at {rate}.")
    return str(exact)


WorkingRate = Annotated[str, Field(max_length=20), AfterValidator(_working_rate)]
"""The frame rate at which an effect is built, as FrameRate writes it."""


class Effect(_Model):
    """A whole effect. The last lane gives its picture.

    ``seconds`` and ``rate`` are its length and its frame rate while it is built; an edit gives it
    others.

    Played ``backwards``, frame n is what frame N − 1 − n would be; footage in its slots still runs
    forwards, and a transition's two clips change places, so that it still leads from the first to
    the second.
    """

    format: Literal["pale-static/effect@3"] = "pale-static/effect@3"
    name: Name
    kind: Kind
    sentence: Sentence = ""
    tags: Annotated[tuple[Annotated[str, Field(max_length=40)], ...], Field(max_length=24)] = ()
    seconds: Annotated[float, Field(gt=0, le=3600)] = 2.0
    rate: WorkingRate = "25"
    backwards: bool | Link = False
    slots: Annotated[tuple[Slot, ...], Field(max_length=32)] = ()
    lanes: Annotated[tuple[Lane, ...], Field(min_length=1, max_length=200)]
    controls: Annotated[tuple[Control, ...], Field(max_length=200)] = ()
    notes: Annotated[tuple[Note, ...], Field(max_length=500)] = ()

    @property
    def frame_rate(self) -> FrameRate:
        """The frame rate at which it is built."""
        return FrameRate.of(self.rate)

    @property
    def frames(self) -> int:
        """Its length in frames, at the rate at which it is built."""
        return self.frame_rate.frames(self.seconds)

    def lane(self, identifier: str) -> Lane | None:
        return next((lane for lane in self.lanes if lane.id == identifier), None)

    def slot(self, identifier: str) -> Slot | None:
        return next((slot for slot in self.slots if slot.id == identifier), None)

    @property
    def faceplate(self) -> tuple[Control, ...]:
        """The controls that an editor sees."""
        return tuple(control for control in self.controls if not control.hidden)

    def control(self, slug: str) -> Control | None:
        return next((control for control in self.controls if control.slug == slug), None)

    def to_json(self) -> dict[str, Any]:
        """Plain JSON without fields that have their default."""
        plain: dict[str, Any] = {"format": self.format}
        plain |= self.model_dump(mode="json", exclude_defaults=True)
        return plain

    def digest(self) -> str:
        """A content hash: two effects with the same hash give the same pictures."""
        return digest_of(self.to_json())


class HeldMacro(_Model):
    """A published version of a macro that an effect uses as a step. The effect holds all of it, so
    it opens without the library, and nobody can change it."""

    slug: Annotated[str, Field(max_length=80)]
    version: Annotated[int, Field(ge=1, le=100000)]
    effect: Effect


Step.model_rebuild()
Lane.model_rebuild()
Effect.model_rebuild()


def held_effects(lanes: Iterable[Lane]) -> Iterator[Effect]:
    """The effects of all macros that steps run, and of those that they run in turn."""
    for lane in lanes:
        for step in lane.every:
            if step.macro is not None:
                yield step.macro.effect
                yield from held_effects(step.macro.effect.lanes)


def digest_of(plain: Any) -> str:
    """A short content hash of plain JSON."""
    text = json.dumps(plain, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return hashlib.blake2b(text.encode(), digest_size=12).hexdigest()


def effect_schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of an effect document."""
    schema = Effect.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema"} | schema


__all__ = [
    "Control",
    "Ease",
    "Edge",
    "Effect",
    "HeldMacro",
    "Input",
    "Lane",
    "Note",
    "Slot",
    "Step",
    "digest_of",
    "effect_schema",
]  # fmt: skip
