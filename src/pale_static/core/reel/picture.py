"""The picture of an edit at a frame, as effects within effects.

From the bottom up: the shots, each with its looks; the joins between them; then the rows above, one
by one.
Everything is an effect that shows others, so one planner, one cache and one rule of faults serve the
whole edit. All frames here are frames of the edit.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from functools import lru_cache
from typing import Protocol

import numpy as np

from ..document import Effect
from ..faults import Fault, Missing, OutOfRange
from ..footage import Cut, Filling, Footage, Materials, Nested, Sequence, StillPicture
from .document import Item, Join, Look, MacroUse, Reel, Row, Shot, Source
from .layout import ENDLESS, Laid, layout_of, look_span


class Shelf(Protocol):
    """Where an edit's materials and macros come from."""

    def footage(self, identity: str) -> Footage:
        """A material."""

    def effect(self, macro: str, version: int) -> Effect:
        """A published version of a macro."""

    def materials(self, effect: Effect, slots: Mapping[str, Filling]) -> Materials:
        """The materials for an effect: those given, else its stand-ins."""


BLACK = StillPicture("black", np.zeros((1, 1, 3), np.uint8))
CLEAR = StillPicture("clear", np.zeros((1, 1, 4), np.uint8))
"""The pictures of a gap, and of an empty place on a row."""


@dataclass(frozen=True)
class EditPicture:
    """The picture of an edit.

    Parameters
    ----------
    without : collection of str
        Uses of macros to leave out: names of joins, looks and items. A join is then a plain cut, a
        look is off, an item is missing.
    ground : Footage
        The footage that shows where there is no shot.
    """

    reel: Reel
    shelf: Shelf
    without: Collection[str] = ()
    ground: Footage = BLACK
    _made: dict[str, Nested] = field(default_factory=dict)

    def at(self, frame: int) -> tuple[Effect, Materials]:
        """An effect of one frame that is the whole picture at a frame of the edit.

        Raises
        ------
        OutOfRange
            Before the first or after the last frame.
        """
        reel = self.reel
        if not 0 <= frame < reel.length:
            raise OutOfRange(
                f"{reel.name} has frames 0 to {reel.length - 1}, and no frame {frame}."
            )
        whole = self.below(len(reel.rows))
        shown = Sequence(whole.told, lambda _: (whole, frame))
        return shot_effect("cover"), Materials({"clip": shown})

    def below(self, rows: int) -> Sequence:
        """The shots, and this many of the rows above them."""
        at = self._base if not rows else lambda frame: self._row(rows - 1, frame)
        return Sequence(lambda: f"edit:{self.reel.digest}:{rows}:{sorted(self.without)}", at)

    def _base(self, frame: int) -> tuple[Filling, int]:
        layout = layout_of(self.reel)
        laid = layout.join_at(frame)
        if laid and laid.join.id not in self.without:
            return self.join(laid, self.ground), frame
        index = layout.shot_at(frame)
        return (self.ground, 0) if index is None else (self.seen(self.reel.shots[index]), frame)

    def _row(self, number: int, frame: int) -> tuple[Filling, int]:
        below = self.below(number)
        row = self.reel.rows[number]
        shown = self._on_row(row, frame)
        if shown is None:
            return below, frame
        item, filling = shown
        if item.use and self._effect(item.id, item.use).kind == "look":
            if item.opacity == 1 and item.mode == "normal":
                return filling, frame
            # A look with a weight is laid over its own input.
            return self._laid_over(item, below, filling, placed=False), frame
        return self._laid_over(item, below, filling), frame

    def _on_row(self, row: Row, frame: int) -> tuple[Item, Filling] | None:
        """The picture of a row at a frame, and the item that says how to lay it over the rest."""
        layout = layout_of(self.reel)
        laid = layout.join_at(frame, row.id)
        if laid and laid.join.id not in self.without:
            item = self.reel.named(laid.join.right or laid.join.left or "")
            assert isinstance(item, Item)
            return item, self.join(laid, CLEAR)
        found = layout.item_at(row.id, frame)
        if found is None or found.id in self.without:
            return None
        return found, self.seen(found)

    def _laid_over(self, item: Item, below: Sequence, over: Filling, placed: bool = True) -> Nested:
        effect = over_effect(
            item.mode, item.opacity, item.position if placed else (0.5, 0.5),
            item.scale if placed else 1.0,
        )  # fmt: skip
        fillings = Materials({"below": below, "over": over})
        return Nested("", effect, self.reel.length, materials=fillings)

    def seen(self, one: Shot | Item) -> Filling:
        """A shot or an item with its looks, in the frames of the edit."""
        first, end = layout_of(self.reel).seen(one.id)
        filling: Filling = self._plain(one, first, end)
        for look in one.looks:
            if look.on and look.id not in self.without:
                filling = self._with_look(one, look, filling, first, end)
        return filling

    def _plain(self, one: Shot | Item, first: int, end: int) -> Nested:
        held = self._made.get(one.id)
        if held is None:
            held = self._made[one.id] = self._bare(one, first, end)
        return held

    def _bare(self, one: Shot | Item, first: int, end: int) -> Nested:
        """An item of a row without its looks."""
        source = one if isinstance(one, Source) else one.source
        if source is not None:
            begin, last = self.reel.bounds(one.id)
            clip = self.clip(source, last - begin, first - begin)
            effect = shot_effect(source.fit, source.focus)
            return Nested(
                "", effect, end - first, materials=Materials({"clip": clip}), first=-first
            )
        assert isinstance(one, Item)
        assert one.use is not None
        rows = [row.id for row in self.reel.rows]
        below = self.below(rows.index(self.reel.items[one.id][0].id))
        return self._nested(one.use, one.name, one.id, first, end - first, {"clip": below})

    def clip(self, source: Source, length: int, first: int) -> Cut:
        """A stretch of a material, ``length`` frames long, from its frame ``first`` on."""
        rate = self.reel.frame_rate.exact
        footage = self.shelf.footage(source.material)
        if source.direction == "freeze":
            return Cut(footage, source.start, Fraction(0))
        if source.direction == "backwards":
            speed, begin = -source.speed, source.start + (length - 1) / rate * source.speed
        else:
            speed, begin = source.speed, source.start
        return Cut(footage, begin + first / rate * speed, speed, source.blended)

    def _with_look(
        self, one: Shot | Item, look: Look, filling: Filling, first: int, end: int
    ) -> Filling:
        begin, last = look_span(self.reel, one, look)
        name = f"{self._effect(look.id, look).name} on {one.name}"
        nested = self._nested(look, name, look.id, begin, max(1, last - begin), {"clip": filling})
        if (begin, last) == (first, end):
            return nested

        def at(frame: int) -> tuple[Filling, int]:
            return (nested if begin <= frame < last else filling), frame

        return Sequence(lambda: f"{begin}–{last}:{nested.identity}:{filling.identity}", at)

    def join(self, laid: Laid, nothing: Footage) -> Nested:
        """A join, in the frames of the edit."""
        join, span = laid.join, laid.span
        ends = {
            slot: self.seen(self.reel.named(name)) if name else nothing
            for slot, name in (("from", join.left), ("to", join.right))
        }
        effect = self._effect(join.id, join)
        names = [self.reel.named(name).name for name in (join.left, join.right) if name]
        name = f"{effect.name} {'between' if len(names) == 2 else 'on'} {' and '.join(names)}"
        return self._nested(join, name, join.id, span.first, span.length, ends)

    def _nested(
        self, use: MacroUse, name: str, identifier: str, first: int, length: int,
        fillings: Mapping[str, Filling],
    ) -> Nested:  # fmt: skip
        """A macro whose frame 0 is frame ``first`` of the edit."""
        if identifier in self._made:
            return self._made[identifier]
        effect = self._effect(identifier, use)
        given = {slot.id for slot in effect.slots}
        slots = {slot: self._filled(use, slot) for slot in use.slots}
        shifted = {
            slot: _later(filling, first) for slot, filling in fillings.items() if slot in given
        }
        materials = self.shelf.materials(effect, {**slots, **shifted})
        nested = Nested(name, effect, length, use.settings, materials, -first, identifier)
        self._made[identifier] = nested
        return nested

    def _filled(self, use: MacroUse, slot: str) -> Filling:
        footage = self.shelf.footage(use.slots[slot])
        if slot not in use.covering:
            return footage
        return Nested("", shot_effect("cover"), ENDLESS, materials=Materials({"clip": footage}))

    def _effect(self, identifier: str, use: MacroUse) -> Effect:
        try:
            return self.shelf.effect(use.macro, use.version)
        except Fault as fault:
            fault.use = identifier
            raise


def _later(filling: Filling, first: int) -> Filling:
    """A filling whose frames are counted from another frame."""
    if isinstance(filling, Nested | Sequence):
        return Sequence(
            lambda: f"{filling.identity}+{first}", lambda frame: (filling, frame + first)
        )
    return filling


_SHOT = {
    "name": "Shot",
    "kind": "look",
    "slots": [{"id": "clip", "name": "Clip"}],
    "lanes": [{"id": "out", "name": "Out", "steps": [{"id": "clip", "kind": "slot"}]}],
}


@lru_cache(maxsize=256)
def shot_effect(fit: str, focus: tuple[float, float] = (0.5, 0.5)) -> Effect:
    """An effect that shows one clip, fitted to the frame. Shots are planned and cached like effects."""
    step = {"id": "clip", "kind": "slot", "values": {"fit": fit, "focus": list(focus)}}
    lanes = [{"id": "out", "name": "Out", "steps": [step]}]
    return Effect.model_validate({**_SHOT, "lanes": lanes})


@lru_cache(maxsize=256)
def over_effect(mode: str, opacity: float, position: tuple[float, float], scale: float) -> Effect:
    """The effect that lays one picture over another."""
    moved = {"position": list(position), "scale_x": scale, "scale_y": scale}
    place = [{"id": "placed", "kind": "transform", "values": moved}]
    still = position == (0.5, 0.5) and scale == 1
    blend = {
        "id": "blend", "kind": "blend", "values": {"mode": mode, "opacity": opacity},
        "inputs": {"over": {"lane": "over"}},
    }  # fmt: skip
    slots = {
        name: {"id": name, "kind": "slot", "values": {"slot": name}} for name in ("over", "below")
    }
    return Effect.model_validate(
        {
            "name": "Over",
            "kind": "look",
            "slots": [{"id": "over", "name": "Over"}, {"id": "below", "name": "Below"}],
            "lanes": [
                {"id": "over", "name": "Over", "steps": [slots["over"], *([] if still else place)]},
                {"id": "out", "name": "Out", "steps": [slots["below"], blend]},
            ],
        }
    )


def alone(reel: Reel, item: str) -> Reel:
    """An edit of one item of a row, from its first frame to its last, over nothing.

    Raises
    ------
    Missing
    """
    if item not in reel.items:
        raise Missing(f"There is no “{item}” on a row any more.", item)
    only = reel.items[item][1].model_copy(
        update={"at": Fraction(0), "opacity": 1.0, "mode": "normal"}
    )
    joins = tuple(join for join in reel.joins if {join.left, join.right} <= {item, None})
    rows = (Row(id="row-1", items=(only,)),)
    return reel.model_copy(update={"shots": (), "rows": rows, "joins": joins})


def materials_of(reel: Reel) -> set[str]:
    """The materials of an edit: those of its shots and clips, and those in slots of its macros."""
    sources = [one if isinstance(one, Source) else one.source for one in reel.placed]
    named = {source.material for source in sources if source}
    return named.union(*(use.slots.values() for _, use in uses_of(reel)))


def uses_of(reel: Reel) -> list[tuple[str, Join | Look | MacroUse]]:
    """Every use of a macro in an edit, by the name of the join, look or item."""
    used: list[tuple[str, Join | Look | MacroUse]] = [(join.id, join) for join in reel.joins]
    for one in reel.placed:
        used += [(look.id, look) for look in one.looks]
        if isinstance(one, Item) and one.use:
            used.append((one.id, one.use))
    return used


__all__ = [
    "BLACK",
    "CLEAR",
    "EditPicture",
    "Shelf",
    "materials_of",
    "over_effect",
    "shot_effect",
    "uses_of",
]
