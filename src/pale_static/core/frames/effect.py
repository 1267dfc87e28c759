"""The frames of one effect on the clips that fill its slots."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

from ..document import Effect
from ..engine.nodes import Place, Plan
from ..engine.plan import NO_MATERIALS, make_plan
from ..footage import Materials, held_at
from ..pictures.picture import Size
from ..time.timing import FrameRate, Moment
from .source import FrameSource

SIZE = Size(960, 540)


@dataclass(frozen=True, kw_only=True)
class EffectSource(FrameSource):
    """The frames of an effect.

    Parameters
    ----------
    frames : int, optional
        Its length; by default its own length at its own rate.
    given_rate : FrameRate, optional
        Its rate; the effect's own by default.
    settings : mapping
        Settings of its controls, by slug; their defaults otherwise.
    """

    effect: Effect
    full: Size = SIZE
    frames: int | None = None
    given_rate: FrameRate | None = None
    settings: Mapping[str, Any] = field(default_factory=dict)
    materials: Materials = NO_MATERIALS

    @property
    def name(self) -> str:
        return self.effect.name

    @property
    def size(self) -> Size:
        return self.full

    @property
    def rate(self) -> FrameRate:
        return self.given_rate or self.effect.frame_rate

    @property
    def length(self) -> int:
        return self.rate.frames(self.effect.seconds) if self.frames is None else self.frames

    def plan(self, frame: int, size: Size, step: Place | None, without: Collection[str]) -> Plan:
        materials = self.materials
        if self.recent is not None:
            # Decoding the clips at each frame that a feedback step sees would take most of the time.
            slots = {name: held_at(one, frame) for name, one in materials.slots.items()}
            materials = replace(materials, slots=slots)
        return make_plan(
            self.effect, Moment(frame, self.length, self.rate), size, step=step,
            settings=self.settings, materials=materials, states=self.states,
            recent=self.recent,
        )  # fmt: skip

    @cached_property
    def _told(self) -> list[Any]:
        settings = sorted((slug, repr(value)) for slug, value in self.settings.items())
        rate = str(self.rate)
        return [self.effect.digest(), settings, self.length, rate, self.materials.identities]

    def going_in(self, frame: int) -> Any:
        return [frame, self._told]
