"""Parts: runs of steps, or whole lanes, kept for use again; and collections of them as one file."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ..document import Control, Identifier, Lane, Name, Slot
from ..faults import Fault
from ..migrations import upgraded
from ..steps import kind_of
from .checking import model_fault

RUN = "run"
"""The lane that a part's run of steps is in."""


class _Model(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class OpenInput(_Model):
    """An input that read something outside the part: it is chosen again where the part is inserted.

    Inputs of the part's steps name it as their lane.
    """

    id: Identifier
    name: Name
    takes: Literal["picture", "matte", "either"] = "either"


class Part(_Model):
    """Steps kept for use again: a ``run`` of them, or whole ``lanes``.

    Controls and slots that the steps use are kept with it, so that they come back exactly as kept.
    """

    format: Literal["pale-static/part@3"] = "pale-static/part@3"
    name: Name
    notes: Annotated[str, Field(max_length=2000)] = ""
    tags: Annotated[tuple[Annotated[str, Field(max_length=40)], ...], Field(max_length=24)] = ()
    kind: Literal["run", "lanes"] = "run"
    lanes: Annotated[tuple[Lane, ...], Field(min_length=1, max_length=200)]
    inputs: Annotated[tuple[OpenInput, ...], Field(max_length=64)] = ()
    controls: Annotated[tuple[Control, ...], Field(max_length=200)] = ()
    slots: Annotated[tuple[Slot, ...], Field(max_length=32)] = ()

    @property
    def starts(self) -> bool:
        """Whether a run begins with a source, and so begins a lane."""
        first = self.lanes[0].steps
        return bool(first) and kind_of(first[0]).main is None

    def to_json(self) -> dict[str, Any]:
        """Plain JSON without fields that have their default."""
        plain: dict[str, Any] = {"format": self.format}
        return plain | self.model_dump(mode="json", exclude_defaults=True)


class Collection(_Model):
    """Parts handed over together."""

    format: Literal["pale-static/parts@1"] = "pale-static/parts@1"
    name: Name
    parts: Annotated[tuple[Part, ...], Field(min_length=1, max_length=1000)]

    def to_json(self) -> dict[str, Any]:
        """Plain JSON."""
        parts = [part.to_json() for part in self.parts]
        return {"format": self.format, "name": self.name, "parts": parts}


def read_part(raw: Mapping[str, Any]) -> Part:
    """A part from JSON, checked: the kind of each step exists."""
    try:
        part = Part.model_validate(upgraded("part", raw))
    except ValidationError as fault:
        raise model_fault("part", fault) from None
    _check(part)
    return part


def read_collection(raw: Any) -> Collection:
    """A collection from JSON, checked.

    Raises
    ------
    Fault
    """
    try:
        collection = Collection.model_validate(upgraded("parts", raw))
    except ValidationError as fault:
        raise model_fault("collection of parts", fault) from None
    for part in collection.parts:
        _check(part)
    return collection


def _check(part: Part) -> None:
    inside = {lane.id for lane in part.lanes} | {one.id for one in part.inputs}
    if part.kind == "run" and len(part.lanes) != 1:
        raise Fault(f"The part “{part.name}” is a run of steps, but has several lanes.")
    for lane in part.lanes:
        for step in lane.every:
            kind_of(step)
            for name, source in step.inputs.items():
                if source.lane not in inside:
                    raise Fault(
                        f"The part “{part.name}” is damaged: the input “{name}” of its step "
                        f"“{step.id}” reads “{source.lane}”, which is not in it."
                    )


def collection_schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of a collection of parts."""
    schema = Collection.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema"} | schema
