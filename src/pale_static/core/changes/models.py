"""What can be done to an effect: each change a small frozen model, so that it can travel."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Union

from pydantic import BaseModel, ConfigDict, Field

from ..document import HeldMacro, HelpText, Identifier, Input, Name, Note, Sentence
from ..documents.part import Part
from ..values.value import Link


class _Change(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class SetHead(_Change):
    """Name, sentence, tags, length or frame rate of the effect."""

    do: Literal["set-head"] = "set-head"
    name: Name | None = None
    sentence: Sentence | None = None
    tags: tuple[str, ...] | None = None
    seconds: float | None = None
    rate: str | None = None
    backwards: bool | Link | None = None


class AddLane(_Change):
    """A new empty lane before the output."""

    do: Literal["add-lane"] = "add-lane"
    name: Name = "Lane"


class SetLane(_Change):
    """Name or fold a lane, or move it to another place."""

    do: Literal["set-lane"] = "set-lane"
    lane: Identifier
    name: Name | None = None
    folded: bool | None = None
    at: int | None = None


class RemoveLane(_Change):
    do: Literal["remove-lane"] = "remove-lane"
    lane: Identifier


class CopyLane(_Change):
    """Copy a lane to right after it. Inputs within the lane lead to the copy."""

    do: Literal["copy-lane"] = "copy-lane"
    lane: Identifier


class StepPlace(_Change):
    """One step of one lane."""

    lane: Identifier
    step: Identifier


Places = Annotated[tuple[StepPlace, ...], Field(min_length=1, max_length=1000)]


class Pinned(_Change):
    """A version of a macro on the shelf. The library fills in ``held``, the complete macro."""

    slug: Annotated[str, Field(max_length=80)]
    version: Annotated[int, Field(ge=1)]
    held: HeldMacro | None = None


class AddStep(_Change):
    """Add a step. Its inputs are chosen where only one choice makes sense.

    It goes to place ``at`` of the lane, or of the repeat that it is put ``inside``. Without a lane it
    starts one of its own, before the output.
    """

    do: Literal["add-step"] = "add-step"
    lane: Identifier | None = None
    kind: Identifier
    macro: Pinned | None = None
    at: int | None = None
    inside: Identifier | None = None
    values: dict[str, Any] = Field(default_factory=dict)


class MoveSteps(_Change):
    """Move several steps, in their order, to place ``at`` of a lane or of a repeat.

    ``at`` counts the steps that stay.
    """

    do: Literal["move-steps"] = "move-steps"
    steps: Places
    to: Identifier
    at: int
    inside: Identifier | None = None


class CopySteps(_Change):
    """Copy several steps to a place. Inputs among them lead to the copies."""

    do: Literal["copy-steps"] = "copy-steps"
    steps: Places
    to: Identifier
    at: int
    inside: Identifier | None = None


class RemoveSteps(_Change):
    """Remove several steps, and the inputs that read them."""

    do: Literal["remove-steps"] = "remove-steps"
    steps: Places


class TurnSteps(_Change):
    """Turn several steps on or off."""

    do: Literal["turn-steps"] = "turn-steps"
    steps: Places
    on: bool


class RepeatSteps(_Change):
    """Put neighbouring steps of a lane into a new repeat."""

    do: Literal["repeat-steps"] = "repeat-steps"
    lane: Identifier
    steps: Annotated[tuple[Identifier, ...], Field(min_length=1, max_length=200)]


class ReleaseSteps(_Change):
    """Replace a repeat with its steps."""

    do: Literal["release-steps"] = "release-steps"
    lane: Identifier
    step: Identifier


class NameStep(_Change):
    """Another name for a step; without one it is called by its kind."""

    do: Literal["name-step"] = "name-step"
    lane: Identifier
    step: Identifier
    name: str = ""


class SetValue(_Change):
    """A constant, keys, or a link to a control; None goes back to the default.

    With ``keep_control`` a value that follows a control is refused, and keeps following it.
    """

    do: Literal["set-value"] = "set-value"
    lane: Identifier
    step: Identifier
    value_name: str
    value: Any = None
    keep_control: bool = False


class ArrangeKeys(_Change):
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


class SetInput(_Change):
    """Where a step's other input comes from; None takes it away."""

    do: Literal["set-input"] = "set-input"
    lane: Identifier
    step: Identifier
    input_name: str
    input: Input | None = None


class Expose(_Change):
    """Make a control of a value, with what the value is now as its default."""

    do: Literal["expose"] = "expose"
    lane: Identifier
    step: Identifier
    value_name: str
    label: Name | None = None


class ExposeBackwards(_Change):
    """Make a toggle of playing backwards."""

    do: Literal["expose-backwards"] = "expose-backwards"
    label: Name = "Play backwards"


class SetControl(_Change):
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


class RemoveControl(_Change):
    """Seal a control: what it drove keeps the value it has at the control's default."""

    do: Literal["remove-control"] = "remove-control"
    slug: Identifier


class SetSlot(_Change):
    """What stands in for a slot's material while building; its name, its help, and what an edit shows
    where nothing fills it."""

    do: Literal["set-slot"] = "set-slot"
    slot: Identifier
    stand_in: str | None = None
    name: Name | None = None
    help: HelpText | None = None
    fallback: Literal["card", "clip"] | None = None


class AddSlot(_Change):
    """A further slot, as a lane of its own."""

    do: Literal["add-slot"] = "add-slot"
    kind: Literal["clip", "matte", "texture"]
    name: Name


class RemoveSlot(_Change):
    """Remove a slot that no step shows."""

    do: Literal["remove-slot"] = "remove-slot"
    slot: Identifier


class SetNotes(_Change):
    """The notes pinned to the effect, lanes and steps."""

    do: Literal["set-notes"] = "set-notes"
    notes: tuple[Note, ...]


class SetMacro(_Change):
    """Use another version of the macro that a step runs. Settings that it still has are kept."""

    do: Literal["set-macro"] = "set-macro"
    lane: Identifier
    step: Identifier
    macro: Pinned


class OpenMacro(_Change):
    """Put the lanes of a macro in place of the step that runs it, with the same pixels."""

    do: Literal["open-macro"] = "open-macro"
    lane: Identifier
    step: Identifier


class InsertPart(_Change):
    """A kept part, inserted: a run of steps at a place, or lanes before the output.

    ``inputs`` says what its open inputs read; one that is left out is chosen later on its card.
    ``note`` is pinned to the lane that it goes into, or to the first of its own.
    """

    do: Literal["insert-part"] = "insert-part"
    part: Part
    to: Identifier | None = None
    at: int = 0
    inside: Identifier | None = None
    inputs: dict[Identifier, Input] = Field(default_factory=dict, max_length=64)
    note: Annotated[str, Field(max_length=2000)] = ""


One = Annotated[
    Union[
        SetHead, AddLane, SetLane, CopyLane, RemoveLane, AddStep, MoveSteps, CopySteps,
        RemoveSteps, TurnSteps, RepeatSteps, ReleaseSteps, NameStep, SetValue,
        ArrangeKeys, SetInput, SetMacro, OpenMacro, Expose, ExposeBackwards, SetControl, RemoveControl, SetSlot, AddSlot,
        RemoveSlot, SetNotes, InsertPart,
    ],
    Field(discriminator="do"),
]  # fmt: skip


class Several(_Change):
    """Changes made as one, with one line in History; all of them happen, or none."""

    do: Literal["several"] = "several"
    changes: Annotated[tuple[One, ...], Field(min_length=1, max_length=400)]
    said: Annotated[str, Field(max_length=200)] = ""


Change = Annotated[Union[One, Several], Field(discriminator="do")]
