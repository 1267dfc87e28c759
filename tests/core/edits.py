"""Edits of numbered clips: the pixels tell which frames they show."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import numpy as np
from pydantic import TypeAdapter

from pale_static.core import Effect, Engine, FrameRate, Materials, Size
from pale_static.core.faults import Missing
from pale_static.core.footage import Filling, Footage, Nested
from pale_static.core.frames.edit import EditSource
from pale_static.core.reel import Reel, Shot, layout_of
from pale_static.core.reel.change_models import ReelChange
from pale_static.core.reel.changes import apply_reel
from pale_static.core.reel.document import Item
from pale_static.core.reel.picture import BLACK, EditPicture

READ: TypeAdapter[Any] = TypeAdapter(ReelChange)
TINY = Size(16, 9)


@dataclass(frozen=True)
class Counting:
    """A clip whose frame n is grey n, in a colour channel of its own."""

    identity: str
    length: int = 200
    pace: str = "25"
    size: Size = TINY
    channel: int = 0

    @property
    def rate(self) -> FrameRate:
        return FrameRate.of(self.pace)

    def pixels(self, index: int) -> Any:
        pixels = np.zeros((self.size.height, self.size.width, 3), np.uint8)
        pixels[..., self.channel] = index
        return pixels


@dataclass(frozen=True)
class Shelf:
    """Materials and macros for an edit, by name."""

    clips: Mapping[str, Footage] = field(default_factory=dict)
    effects: Mapping[str, Effect] = field(default_factory=dict)

    def footage(self, identity: str) -> Footage:
        return self.clips.get(identity) or Counting(identity)

    def effect(self, macro: str, version: int) -> Effect:
        if macro not in self.effects:
            raise Missing(f"Version {version} of “{macro}” is not on the shelf.")
        return self.effects[macro]

    def materials(self, effect: Effect, slots: Mapping[str, Filling]) -> Materials:
        return Materials(slots)


def pixels(reel: Reel, frame: int, shelf: Shelf, without: Any = (), size: Size = TINY) -> Any:
    """The picture of an edit at a frame."""
    source = EditSource(reel=reel, shelf=shelf)
    return Engine().compute(source.plan(frame, size, None, without)).picture


def numbers(reel: Reel, frame: int, shelf: Shelf) -> list[int]:
    """The numbers of the shown frames, by channel, from the middle pixel."""
    return [round(float(v) * 255) for v in pixels(reel, frame, shelf)[4, 8, :3]]


def source_seconds(reel: Reel, one: Shot | Item, frame: int) -> Fraction:
    """The time in its material that a shot shows at a frame of the edit."""
    nested = EditPicture(reel, Shelf()).seen(one)
    assert isinstance(nested, Nested)
    cut: Any = nested.materials.slots["clip"]
    return cut.start + nested.frame_at(frame) / reel.frame_rate.exact * cut.speed  # type: ignore[no-any-return]


def shown(reel: Reel, frame: int) -> list[Any]:
    """The content of the base row at a frame: a shot and its time; or a join, its frame, and both
    shots with their times at its first frame."""
    layout = layout_of(reel)
    laid = layout.join_at(frame)
    if laid is None:
        index = layout.shot_at(frame)
        if index is None:
            return ["gap"]
        return [reel.shots[index].id, str(source_seconds(reel, reel.shots[index], frame))]
    told: list[Any] = [laid.join.id, frame - laid.span.first]
    for name in (laid.join.left, laid.join.right):
        if name:
            told += [name, str(source_seconds(reel, reel.named(name), laid.span.first))]
    return told


def do(reel: Reel, **change: Any) -> Reel:
    """The edit after a change."""
    return apply_reel(reel, READ.validate_python(change))[0]


__all__ = ["BLACK", "Counting", "Shelf", "do", "numbers", "pixels", "shown", "source_seconds"]
