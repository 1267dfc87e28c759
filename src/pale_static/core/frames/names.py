"""Names of everything that goes into a frame, made from documents alone, without planning.

Two names may differ although the pictures are the same. Two frames with one name always have the
same pixels, if size, rate and program are the same.
"""

from __future__ import annotations

from typing import Any

from ..document import Effect, Step, digest_of
from ..footage import Filling, Nested, named, shown_at
from ..steps import kind_of


class FillingNames:
    """Names the filling of a slot at a frame. Keep one for many frames: it remembers names that
    repeat."""

    def __init__(self) -> None:
        # By identity of the object, which is kept alive beside its name.
        self._effects: dict[int, tuple[Effect, str, bool]] = {}
        self._nested: dict[int, tuple[Nested, Any]] = {}

    def of(self, filling: Filling, frame: int) -> Any:
        """Plain data that names a filling at one of its frames."""
        shown, at = shown_at(filling, frame)
        if not isinstance(shown, Nested):
            return [shown.identity, at]
        told = self._about(shown)
        inner = shown.frame_at(at)
        if not self._effects[id(shown.effect)][2]:
            return [told, inner]
        slots = shown.materials.slots
        return [told, inner, [[slot, self.of(slots[slot], inner)] for slot in sorted(slots)]]

    def _about(self, nested: Nested) -> Any:
        """Names a nested effect. If it reads other frames, the name covers all fillings of its
        slots."""
        digest, momentary = self._effect(nested.effect)
        held = nested.materials
        settings = sorted((slug, repr(value)) for slug, value in nested.settings.items())
        told = [digest, nested.length, settings, named(held.assets), named(held.fonts)]
        if momentary:
            return told
        if id(nested) not in self._nested:
            self._nested[id(nested)] = nested, digest_of([*told, named(held.slots)])
        return self._nested[id(nested)][1]

    def _effect(self, effect: Effect) -> tuple[str, bool]:
        held = self._effects.get(id(effect))
        if held is None:
            held = effect, effect.digest(), not reads_other_frames(effect)
            self._effects[id(effect)] = held
        return held[1], held[2]


def reads_other_frames(effect: Effect) -> bool:
    """Whether a frame of an effect may show other frames of its slots' fillings."""
    return any(_reads_other_frames(step) for lane in effect.lanes for step in lane.every)


def _reads_other_frames(step: Step) -> bool:
    kind = kind_of(step)
    if kind.runs is not None and reads_other_frames(kind.runs):
        return True
    moved = kind.shows is not None and {"offset", "hold"} & step.values.keys()
    late = any(source.offset for source in step.inputs.values())
    return bool(kind.frames or kind.goes_on or moved or late)


def feeds_back(effect: Effect) -> bool:
    """Whether each frame of an effect continues from the frame before it."""
    kinds = [kind_of(step) for lane in effect.lanes for step in lane.every if step.on]
    return any(kind.goes_on or (kind.runs and feeds_back(kind.runs)) for kind in kinds)


__all__ = ["FillingNames", "feeds_back", "reads_other_frames"]
