"""What can be done to an effect: each edit a small frozen model, so that it can travel."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Union

from pydantic import BaseModel, ConfigDict, Field

from ..document import Identifier, Name, Note, Tap
from ..part import Part
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


class CopyLane(_Edit):
    """A lane once more, right after itself; what it reads of itself it reads of the copy."""

    do: Literal["copy-lane"] = "copy-lane"
    lane: Identifier


class StepPlace(_Edit):
    """One step of one lane."""

    lane: Identifier
    step: Identifier


Places = Annotated[tuple[StepPlace, ...], Field(min_length=1, max_length=1000)]


class AddStep(_Edit):
    """A new step; inputs are chosen from what is there where that is unambiguous.

    It goes to place ``at`` of the lane, or of the repeat that it is put ``inside``.
    """

    do: Literal["add-step"] = "add-step"
    lane: Identifier
    kind: Identifier
    at: int | None = None
    inside: Identifier | None = None
    values: dict[str, Any] = Field(default_factory=dict)


class MoveStep(_Edit):
    do: Literal["move-step"] = "move-step"
    lane: Identifier
    step: Identifier
    to: Identifier
    at: int


class MoveSteps(_Edit):
    """Several steps, in the order they are in, to place ``at`` of a lane or of a repeat.

    ``at`` counts the steps that stay.
    """

    do: Literal["move-steps"] = "move-steps"
    steps: Places
    to: Identifier
    at: int
    inside: Identifier | None = None


class CopySteps(_Edit):
    """Several steps once more, somewhere; what they read of each other they read of the copies."""

    do: Literal["copy-steps"] = "copy-steps"
    steps: Places
    to: Identifier
    at: int
    inside: Identifier | None = None


class RemoveSteps(_Edit):
    """Without several steps, and without the inputs that read them."""

    do: Literal["remove-steps"] = "remove-steps"
    steps: Places


class TurnSteps(_Edit):
    """Several steps in or out."""

    do: Literal["turn-steps"] = "turn-steps"
    steps: Places
    on: bool


class RepeatSteps(_Edit):
    """Neighbouring steps of a lane, held by a new repeat in their place."""

    do: Literal["repeat-steps"] = "repeat-steps"
    lane: Identifier
    steps: Annotated[tuple[Identifier, ...], Field(min_length=1, max_length=200)]


class ReleaseSteps(_Edit):
    """A repeat's steps in its place, once."""

    do: Literal["release-steps"] = "release-steps"
    lane: Identifier
    step: Identifier


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
    """What stands in for a slot's material while building; its name and its help."""

    do: Literal["set-slot"] = "set-slot"
    slot: Identifier
    stand_in: str | None = None
    name: Name | None = None
    help: str | None = None


class AddSlot(_Edit):
    """A further slot, as a lane of its own."""

    do: Literal["add-slot"] = "add-slot"
    kind: Literal["clip", "matte", "texture"]
    name: Name


class RemoveSlot(_Edit):
    """Without a slot that no step shows any more."""

    do: Literal["remove-slot"] = "remove-slot"
    slot: Identifier


class SetNotes(_Edit):
    """The notes pinned to the effect, lanes and steps."""

    do: Literal["set-notes"] = "set-notes"
    notes: tuple[Note, ...]


class InsertPart(_Edit):
    """A kept part, put in: a run of steps at a place, or lanes before the output.

    ``taps`` says what its open inputs read; one that is left out is chosen later on its card.
    """

    do: Literal["insert-part"] = "insert-part"
    part: Part
    to: Identifier | None = None
    at: int = 0
    inside: Identifier | None = None
    taps: dict[Identifier, Tap] = Field(default_factory=dict, max_length=64)


One = Annotated[
    Union[
        SetHead, AddLane, SetLane, CopyLane, RemoveLane, AddStep, MoveStep, MoveSteps, CopySteps,
        RemoveStep, RemoveSteps, TurnSteps, RepeatSteps, ReleaseSteps, SetStep, SetValue, SetValues,
        ArrangeKeys, SetTap, Expose, ExposeBackwards, SetControl, RemoveControl, SetSlot, AddSlot,
        RemoveSlot, SetNotes, InsertPart,
    ],
    Field(discriminator="do"),
]  # fmt: skip


class Several(_Edit):
    """Edits made as one, with one line in History; all of them happen, or none."""

    do: Literal["several"] = "several"
    edits: Annotated[tuple[One, ...], Field(min_length=1, max_length=400)]
    said: Annotated[str, Field(max_length=200)] = ""


Edit = Annotated[Union[One, Several], Field(discriminator="do")]
