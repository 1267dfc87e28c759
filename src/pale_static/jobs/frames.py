"""Compute single frames of the effects and edits in a library."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from contextlib import suppress
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any, TypeVar

from numpy.typing import NDArray

from ..core.document import Effect
from ..core.engine import Engine
from ..core.engine.nodes import Place, Plan
from ..core.engine.plan import make_plan
from ..core.engine.states import States
from ..core.faults import Fault, Missing, Unreadable
from ..core.footage import Filling, Footage, Materials, stand_in
from ..core.picture import Size
from ..core.reel import Reel, materials_of, seconds_of
from ..core.reel.picture import BLACK, EditPicture, Shelf
from ..core.sound import Sound
from ..core.timing import Moment
from ..media.formats import Format
from ..media.writing import looked_at_in_8_bits, ready
from ..store import Library, macros, materials

T = TypeVar("T")


def effect_plan(
    library: Library,
    effect: Effect,
    moment: Moment,
    size: Size,
    step: Place | None = None,
    settings: Mapping[str, Any] | None = None,
    slots: Mapping[str, Filling] | None = None,
    states: States | None = None,
) -> Plan:
    """The plan for an effect on its stand-ins, or on other clips; its key names the picture."""
    return make_plan(
        effect, moment, size,
        step=step, settings=settings, materials=library.materials_for(effect, slots),
        states=states,
    )  # fmt: skip


@dataclass(frozen=True)
class LibraryShelf:
    """A library's materials and macros, each read once. What is missing has a stand-in."""

    library: Library
    effects: dict[tuple[str, int], Effect] = field(default_factory=dict)

    def footage(self, identity: str) -> Footage:
        """A material; a quiet card in place of one that is not in the library."""
        try:
            materials.get(self.library.db, identity)
        except Missing:
            return stand_in(identity)
        return self.library.footage(identity)

    def effect(self, macro: str, version: int) -> Effect:
        """A published version of a macro, or a built-in transition."""
        pinned = (macro, version)
        if pinned not in self.effects:
            self.effects[pinned] = macros.version(self.library.db, macro, version).effect
        return self.effects[pinned]

    def sound(self, identity: str) -> Sound | None:
        """The sound of a material; None for one that has none, is gone, or cannot be read."""
        try:
            return self.library.sound(identity)
        except (Missing, Unreadable):
            return None

    def materials(self, effect: Effect, slots: Mapping[str, Filling]) -> Materials:
        """What an effect shows: what is given, else its stand-ins."""
        return self.library.materials_for(effect, slots)


def edit_plan(
    shelf: Shelf,
    reel: Reel,
    frame: int,
    size: Size,
    states: States | None = None,
    without: Collection[str] = (),
    ground: Footage = BLACK,
) -> Plan:
    """The plan for one frame of an edit.

    Parameters
    ----------
    without : collection of str
        Uses of macros that are left out.
    ground : Footage
        What shows where there is no shot.
    """
    effect, materials = EditPicture(reel, shelf, without, ground).at(frame)
    moment = Moment(0, 1, reel.frame_rate)
    return make_plan(effect, moment, size, materials=materials, states=states)


def mended(
    shelf: Shelf,
    reel: Reel,
    frame: int,
    size: Size,
    compute: Callable[[Plan], T],
    states: States | None = None,
    without: Collection[str] = (),
    ground: Footage = BLACK,
) -> tuple[T, tuple[Fault, ...]]:
    """What is computed from the plan of a frame, without the macros that cannot be there.

    A macro that fails on a frame is left out of it, and its fault is told: the rest goes on.

    Raises
    ------
    Fault
        Where it is not a macro's.
    """
    faults: dict[str, Fault] = {}
    while True:
        try:
            plan = edit_plan(shelf, reel, frame, size, states, {*without, *faults}, ground)
            return compute(plan), tuple(faults.values())
        except Fault as fault:
            if not fault.use or fault.use in faults:
                raise
            faults[fault.use] = fault


def made_ready(
    shelf: Shelf, reel: Reel, frame: int, engine: Engine, form: Format, ground: Footage
) -> NDArray[Any]:
    """A frame of an edit as a format takes it; macros that fail are left out of it."""
    eight = looked_at_in_8_bits(form)
    held, _ = mended(
        shelf, reel, frame, reel.size,
        lambda plan: engine.compute(plan, eight=eight, passing=True).held, engine.states, (),
        ground,
    )  # fmt: skip
    return ready(held, form)


def lasts(library: Library, reel: Reel) -> dict[str, Fraction | None]:
    """How many seconds each material of an edit lasts, exactly; None for stills. Those that are
    gone are left out."""
    known: dict[str, Fraction | None] = {}
    for name in materials_of(reel):
        with suppress(Missing):
            known[name] = seconds_of(library.footage(name))
    return known
