"""Changes of an edit as models. Times are frames of the edit; the document keeps exact seconds."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Union

from pydantic import Field

from ..document import Identifier, Name
from ..pictures.picture import Fit
from .document import (
    Alignment,
    BlendMode,
    Coordinate,
    Decibels,
    Direction,
    MaterialName,
    Model,
    Share,
    Speed,
)

Frame = Annotated[int, Field(ge=0, le=10**7)]
Frames = Annotated[int, Field(ge=1, le=10**7)]
Shift = Annotated[int, Field(ge=-(10**7), le=10**7)]


class SetReel(Model):
    """Name, rate and size of the edit, and its marks in and out; −1 removes a mark."""

    do: Literal["set-reel"] = "set-reel"
    name: Name | None = None
    rate: str | None = None
    width: int | None = None
    height: int | None = None
    mark_in: Annotated[int, Field(ge=-1, le=10**7)] | None = None
    mark_out: Annotated[int, Field(ge=-1, le=10**7)] | None = None


class AddShot(Model):
    """Put a stretch of a material on the base row.

    ``at`` is its place in the row, by default the last. With ``frame`` it goes to a moment of the
    edit; later shots move along, or with ``over`` the shots there are replaced.
    """

    do: Literal["add-shot"] = "add-shot"
    material: MaterialName
    name: Name
    start: Frame = 0
    length: Frames
    at: int | None = None
    frame: Frame | None = None
    over: bool = False


class SetShot(Model):
    """Change a shot or a clip on a row: trim it, slip its material, move it along its row.

    ``head`` and ``tail`` move its beginning and its end by frames of the edit, and ``slip`` moves
    its material under them. They are exact at any speed and in any direction. With ``ripple`` later
    shots move along with a trim; without it, everything else stays in place.
    """

    do: Literal["set-shot"] = "set-shot"
    shot: Identifier
    name: Name | None = None
    start: Frame | None = None
    length: Frames | None = None
    head: Shift | None = None
    tail: Shift | None = None
    slip: Shift | None = None
    gap: Frame | None = None
    direction: Direction | None = None
    speed: Speed | None = None
    blended: bool | None = None
    fit: Fit | None = None
    focus: tuple[Share, Share] | None = None
    gain: Decibels | None = None
    mute: bool | None = None
    fade_in: Frame | None = None
    fade_out: Frame | None = None
    at: int | None = None
    ripple: bool = True


class RollCut(Model):
    """Move the cut at the end of a shot: one neighbour grows by the frames that the other loses."""

    do: Literal["roll-cut"] = "roll-cut"
    left: Identifier
    by: Shift


class Split(Model):
    """Cut shots and items in two at a frame: all that lie there, or only the named ones."""

    do: Literal["split"] = "split"
    frame: Frame
    only: tuple[Identifier, ...] = ()


class Remove(Model):
    """Remove shots, joins, looks and items. Without ``close`` shots leave a gap."""

    do: Literal["remove"] = "remove"
    names: Annotated[tuple[Identifier, ...], Field(min_length=1, max_length=5000)]
    close: bool = True


class Cut(Model):
    """The place of a join: between two neighbours, or at the free end of one."""

    left: Identifier | None = None
    right: Identifier | None = None


class CopyPlaced(Model):
    """Put copies of shots and items at a frame, with their looks: shots are inserted one after
    another, items keep their distance."""

    do: Literal["copy"] = "copy"
    names: Annotated[tuple[Identifier, ...], Field(min_length=1, max_length=500)]
    frame: Frame


class PlaceJoin(Model):
    """Put a macro on cuts, in place of any join there."""

    do: Literal["place-join"] = "place-join"
    cuts: Annotated[tuple[Cut, ...], Field(min_length=1, max_length=5000)]
    macro: str
    version: int
    length: Frames = 25
    alignment: Alignment = "across"
    settings: dict[str, Any] = Field(default_factory=dict)


class SetJoin(Model):
    """Change the length, place or ends of a join."""

    do: Literal["set-join"] = "set-join"
    join: Identifier
    length: Frames | None = None
    alignment: Alignment | None = None
    hold: bool | None = None
    sound: Literal["cross-fade", "cut"] | None = None


class AddLook(Model):
    """Put a look on shots or items, on top of the looks that they have."""

    do: Literal["add-look"] = "add-look"
    shots: Annotated[tuple[Identifier, ...], Field(min_length=1, max_length=5000)]
    macro: str
    version: int
    settings: dict[str, Any] = Field(default_factory=dict)


class SetLook(Model):
    """Change a look: on or off, its place in the stack, and its stretch.

    ``length`` 0 lets it run to the end.
    """

    do: Literal["set-look"] = "set-look"
    look: Identifier
    on: bool | None = None
    begin: Frame | None = None
    length: Frame | None = None
    at: int | None = None


class AddItem(Model):
    """Put a clip or a macro on a row above: the named row, or else the lowest free one."""

    do: Literal["add-item"] = "add-item"
    name: Name
    frame: Frame
    length: Frames
    material: MaterialName | None = None
    start: Frame = 0
    macro: str | None = None
    version: int = 1
    settings: dict[str, Any] = Field(default_factory=dict)
    row: Annotated[int, Field(ge=0, le=15)] | None = None


class SetItem(Model):
    """Change an item of a row: its time, its position, and its blending."""

    do: Literal["set-item"] = "set-item"
    item: Identifier
    name: Name | None = None
    frame: Frame | None = None
    length: Frames | None = None
    row: Annotated[int, Field(ge=0, le=15)] | None = None
    opacity: Share | None = None
    mode: BlendMode | None = None
    position: tuple[Coordinate, Coordinate] | None = None
    scale: Annotated[float, Field(ge=0, le=20)] | None = None


class SetUse(Model):
    """Change uses of a macro: its controls, the materials in its slots, its version.

    Only controls and slots that change are given; None restores a default. ``each`` holds settings
    of single uses, which override ``settings``.
    """

    do: Literal["set-use"] = "set-use"
    uses: Annotated[tuple[Identifier, ...], Field(min_length=1, max_length=5000)]
    settings: dict[str, Any] | None = None
    each: dict[Identifier, dict[str, Any]] | None = None
    slots: dict[Identifier, MaterialName | None] | None = None
    covering: dict[Identifier, bool] | None = None
    version: int | None = None


class SetMark(Model):
    """Put a named mark at a frame, in place of one there; an empty name removes the mark."""

    do: Literal["set-mark"] = "set-mark"
    frame: Frame
    name: Annotated[str, Field(max_length=120)] = ""


ReelChange = Annotated[
    Union[
        SetReel, AddShot, SetShot, RollCut, Split, Remove, CopyPlaced, PlaceJoin, SetJoin, AddLook, SetLook,
        AddItem, SetItem, SetUse, SetMark,
    ],
    Field(discriminator="do"),
]  # fmt: skip
