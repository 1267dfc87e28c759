"""What can be done to an effect: each edit a small frozen model, so that it can travel."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Union

from pydantic import BaseModel, ConfigDict, Field

from ..document import Identifier, Name, Note, Tap
from ..values import Link


class _Edit(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class SetHead(_Edit):
    """Name, sentence, tags or length of the effect."""

    do: Literal["set-head"] = "set-head"
    name: Name | None = None
    sentence: str | None = None
    tags: tuple[str, ...] | None = None
    seconds: float | None = None
    backwards: bool | Link | None = None


class AddLane(_Edit):
    """A new empty lane before the output."""

    do: Literal["add-lane"] = "add-lane"
    name: Name = "Lane"


class SetLane(_Edit):
    """Name or fold a lane, or move it to another place."""

    do: Literal["set-lane"] = "set-lane"
    lane: Identifier
    name: Name | None = None
    folded: bool | None = None
    at: int | None = None


class RemoveLane(_Edit):
    do: Literal["remove-lane"] = "remove-lane"
    lane: Identifier


class AddStep(_Edit):
    """A new step; inputs are chosen from what is there where that is unambiguous."""

    do: Literal["add-step"] = "add-step"
    lane: Identifier
    kind: Identifier
    at: int | None = None
    values: dict[str, Any] = Field(default_factory=dict)


class MoveStep(_Edit):
    do: Literal["move-step"] = "move-step"
    lane: Identifier
    step: Identifier
    to: Identifier
    at: int


class RemoveStep(_Edit):
    do: Literal["remove-step"] = "remove-step"
    lane: Identifier
    step: Identifier


class SetStep(_Edit):
    """Name a step, or take it in and out."""

    do: Literal["set-step"] = "set-step"
    lane: Identifier
    step: Identifier
    name: str | None = None
    on: bool | None = None


class SetValue(_Edit):
    """A constant, keys, or a link to a control; None goes back to the default."""

    do: Literal["set-value"] = "set-value"
    lane: Identifier
    step: Identifier
    value_name: str
    value: Any = None


class SetValues(_Edit):
    """Several values of a step at once, as one edit; ``said`` says where they come from."""

    do: Literal["set-values"] = "set-values"
    lane: Identifier
    step: Identifier
    values: Annotated[dict[str, Any], Field(min_length=1, max_length=100)]
    said: Annotated[str, Field(max_length=200)] = ""


class ArrangeKeys(_Edit):
    """Keys of one value moved, copied, reversed, scaled in time or distributed.

    ``keys`` are their places, all by default; ``by`` is seconds for *move* and *copy* (to), a
    factor for *scale*; ``frames`` and ``rate`` say how long the effect is on screen.
    """

    do: Literal["arrange-keys"] = "arrange-keys"
    lane: Identifier
    step: Identifier
    value_name: str
    how: Literal["move", "copy", "reverse", "scale", "distribute"]
    keys: tuple[int, ...] | None = None
    by: float = 0.0
    frames: Annotated[int, Field(ge=1, le=1_000_000)]
    rate: str = "25"


class SetTap(_Edit):
    """Where a step's other input comes from; None takes it away."""

    do: Literal["set-tap"] = "set-tap"
    lane: Identifier
    step: Identifier
    tap_name: str
    tap: Tap | None = None


class Expose(_Edit):
    """Make a control of a value, with what the value is now as its default."""

    do: Literal["expose"] = "expose"
    lane: Identifier
    step: Identifier
    value_name: str
    label: Name | None = None


class ExposeBackwards(_Edit):
    """Make a toggle of playing backwards."""

    do: Literal["expose-backwards"] = "expose-backwards"
    label: Name = "Play backwards"


class SetControl(_Edit):
    """Change a control as the editor will see it, or its place on the faceplate."""

    do: Literal["set-control"] = "set-control"
    slug: Identifier
    label: Name | None = None
    help: str | None = None
    group: str | None = None
    default: Any = None
    slider: tuple[float, float] | None = None
    allowed: tuple[float, float] | None = None
    at: int | None = None


class RemoveControl(_Edit):
    """Seal a control: what it drove keeps the value it has at the control's default."""

    do: Literal["remove-control"] = "remove-control"
    slug: Identifier


class SetSlot(_Edit):
    """What stands in for a slot's material while building."""

    do: Literal["set-slot"] = "set-slot"
    slot: Identifier
    stand_in: str | None = None


class SetNotes(_Edit):
    """The notes pinned to the effect, lanes and steps."""

    do: Literal["set-notes"] = "set-notes"
    notes: tuple[Note, ...]


Edit = Annotated[
    Union[
        SetHead, AddLane, SetLane, RemoveLane, AddStep, MoveStep, RemoveStep, SetStep, SetValue,
        SetValues, ArrangeKeys, SetTap, Expose, ExposeBackwards, SetControl, RemoveControl, SetSlot, SetNotes,
    ],
    Field(discriminator="do"),
]  # fmt: skip
