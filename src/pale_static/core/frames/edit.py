"""The frames of an edit, or of a stretch of it."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from ..engine.nodes import Place, Plan
from ..engine.plan import make_plan
from ..faults import Fault, OutOfRange
from ..pictures.picture import Size
from ..reel import Reel, uses_of
from ..reel.picture import BLACK, CLEAR, EditPicture, Shelf
from ..sound import Mixed, SoundOf, has_sound, mix, samples_of
from ..time.timing import FrameRate, Moment
from .names import FillingNames
from .source import FrameSource


@dataclass(frozen=True, kw_only=True)
class EditSource(FrameSource):
    """The frames of an edit, from frame ``first`` of it on.

    Parameters
    ----------
    shelf : Shelf
        Gives the materials and macros of the edit.
    clear : bool
        Whether areas without a shot are clear instead of black.
    first, frames : int
        The stretch of the edit; all of it by default.
    sounds : function, optional
        Gives the sound of a material; None for one without.
    """

    reel: Reel
    shelf: Shelf
    clear: bool = False
    first: int = 0
    frames: int | None = None
    sounds: SoundOf | None = None

    @property
    def name(self) -> str:
        return self.reel.name

    @property
    def size(self) -> Size:
        return self.reel.size

    @property
    def rate(self) -> FrameRate:
        return self.reel.frame_rate

    @property
    def length(self) -> int:
        return self.reel.length - self.first if self.frames is None else self.frames

    @cached_property
    def _pictures(self) -> dict[frozenset[str], EditPicture]:
        return {}

    def picture(self, without: Collection[str] = ()) -> EditPicture:
        """The edit as effects within effects, without some uses of macros."""
        key = frozenset(without)
        if key not in self._pictures:
            ground = CLEAR if self.clear else BLACK
            self._pictures[key] = EditPicture(self.reel, self.shelf, key, ground)
        return self._pictures[key]

    def plan(self, frame: int, size: Size, step: Place | None, without: Collection[str]) -> Plan:
        effect, materials = self.picture(without).at(self.first + frame)
        moment = Moment(0, 1, self.rate)
        return make_plan(
            effect, moment, size, step=step, materials=materials, states=self.states,
            recent=self.recent,
        )  # fmt: skip

    @cached_property
    def missing(self) -> dict[str, Fault]:
        """The uses of macros that are not on the shelf, each with the shelf's fault."""
        gone = {}
        for name, use in uses_of(self.reel):
            try:
                self.shelf.effect(use.macro, use.version)
            except Fault as fault:
                gone[name] = fault
        return gone

    @cached_property
    def _named(self) -> tuple[EditPicture, FillingNames]:
        return self.picture(self.missing), FillingNames()

    def going_in(self, frame: int) -> Any:
        picture, names = self._named
        if not 0 <= frame < self.length:
            raise OutOfRange(
                f"{self.name} has frames 0 to {self.length - 1}, and no frame {frame}."
            )
        return names.of(picture.below(len(self.reel.rows)), self.first + frame)

    def sound(self) -> Mixed | None:
        sounds = self.sounds
        if sounds is None or not has_sound(self.reel, sounds):
            return None
        zero = samples_of(self.first, self.rate.exact)
        return lambda first, count: mix(self.reel, sounds, zero + first, count)
