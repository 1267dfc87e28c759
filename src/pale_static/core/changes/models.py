"""Changes to an effect, each a small frozen model that can be sent and stored."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Union

from pydantic import BaseModel, ConfigDict, Field

from ..document import Edge, HeldMacro, HelpText, Identifier, Input, Name, Note, Sentence
from ..documents.part import Part
from ..values.value import Link


class _Change(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class SetHead(_Change):
    """Change the name, sentence, tags, length or frame rate of the effect."""

    do: Literal["set-head"] = "set-head"
    name: Name | None = None
    sentence: Sentence | None = None
    tags: tuple[str, ...] | None = None
    seconds: float | None = None
    rate: str | None = None
    backwards: bool | Link | None = None


class AddLane(_Change):
    """Add an empty lane before the output."""

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
    """Name a version of a macro on the shelf. The library fills in ``held``, the complete macro."""

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
    """Give a step a name; without one it has the name of its kind."""

    do: Literal["name-step"] = "name-step"
    lane: Identifier
    step: Identifier
    name: str = ""


class SetValue(_Change):
    """Set a value to a constant, keys or a link to a control; None restores the default.

    With ``keep_control`` a value that follows a control keeps following it, and the change is
    refused.
    """

    do: Literal["set-value"] = "set-value"
    lane: Identifier
    step: Identifier
    value_name: str
    value: Any = None
    keep_control: bool = False


class ArrangeKeys(_Change):
    """Move, copy, reverse, scale in time or distribute keys of one value.

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
    """Choose the source of a step's input; None removes it."""

    do: Literal["set-input"] = "set-input"
    lane: Identifier
    step: Identifier
    input_name: str
    input: Input | None = None


class Expose(_Change):
    """Make a control of a value. The present value becomes its default."""

    do: Literal["expose"] = "expose"
    lane: Identifier
    step: Identifier
    value_name: str
    label: Name | None = None


class ExposeBackwards(_Change):
    """Make a toggle that plays the effect backwards."""

    do: Literal["expose-backwards"] = "expose-backwards"
    label: Name = "Play backwards"


class AddControl(_Change):
    """Add a control that drives nothing yet.

    A choice has words of its own. A hidden control is a value that several others follow.
    """

    do: Literal["add-control"] = "add-control"
    label: Name
    type: Literal["number", "whole", "angle", "toggle", "choice"] = "number"
    options: tuple[Name, ...] = ()
    hidden: bool = False


class Drive(_Change):
    """Let a control drive a value. The range is fitted so that the picture stays as it is.

    Driven by a curve, the value moves from what it is to the far end of its slider.
    """

    do: Literal["drive"] = "drive"
    lane: Identifier
    step: Identifier
    value_name: str
    control: Identifier


class Unlink(_Change):
    """Take a value off its control. The value in force stays."""

    do: Literal["unlink"] = "unlink"
    lane: Identifier
    step: Identifier
    value_name: str


class SetControl(_Change):
    """Change how the editor sees a control, or move it on the faceplate.

    None removes ``allowed``, ``good`` and ``edge``; for other fields it changes nothing.
    """

    do: Literal["set-control"] = "set-control"
    slug: Identifier
    label: Name | None = None
    help: str | None = None
    group: str | None = None
    default: Any = None
    slider: tuple[float, float] | None = None
    allowed: tuple[float, float] | None = None
    unit: str | None = None
    hidden: bool | None = None
    when: dict[Identifier, tuple[bool | str, ...]] | None = None
    good: tuple[float, float] | None = None
    edge: Edge | None = None
    at: int | None = None


class Word(_Change):
    """A word of a choice, and the word or option that it replaces; None for a new one."""

    word: Name
    of: str | None = None


class SetWords(_Change):
    """Replace the words of a choice: rename, leave out, add and reorder.

    Values that follow it keep what they have for each word. A new word gets what the default has.
    """

    do: Literal["set-words"] = "set-words"
    slug: Identifier
    words: Annotated[tuple[Word, ...], Field(min_length=1, max_length=64)]


class RemoveControl(_Change):
    """Remove a control. The values that it drove keep what its default gives them."""

    do: Literal["remove-control"] = "remove-control"
    slug: Identifier


class SetSlot(_Change):
    """Change a slot: its stand-in while building, its name, its help, and what an edit shows if
    nothing fills it."""

    do: Literal["set-slot"] = "set-slot"
    slot: Identifier
    stand_in: str | None = None
    name: Name | None = None
    help: HelpText | None = None
    fallback: Literal["card", "clip"] | None = None


class AddSlot(_Change):
    """Add a slot, with a lane that shows it."""

    do: Literal["add-slot"] = "add-slot"
    kind: Literal["clip", "matte", "texture"]
    name: Name


class RemoveSlot(_Change):
    """Remove a slot that no step shows."""

    do: Literal["remove-slot"] = "remove-slot"
    slot: Identifier


class SetNotes(_Change):
    """Replace the notes pinned to the effect, lanes and steps."""

    do: Literal["set-notes"] = "set-notes"
    notes: tuple[Note, ...]


class SetMacro(_Change):
    """Use another version of the macro that a step runs. Settings that the new version has are
    kept."""

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
    """Insert a kept part: a run of steps at a place, or lanes before the output.

    ``inputs`` names the sources of its open inputs; a source left out is chosen later on the card.
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
        ArrangeKeys, SetInput, SetMacro, OpenMacro, Expose, ExposeBackwards, AddControl, Drive,
        Unlink, SetControl, SetWords, RemoveControl, SetSlot, AddSlot,
        RemoveSlot, SetNotes, InsertPart,
    ],
    Field(discriminator="do"),
]  # fmt: skip


class Several(_Change):
    """Make several changes as one, with one line in History. Either all are made or none."""

    do: Literal["several"] = "several"
    changes: Annotated[tuple[One, ...], Field(min_length=1, max_length=400)]
    said: Annotated[str, Field(max_length=200)] = ""


Change = Annotated[Union[One, Several], Field(discriminator="do")]
