"""Effects within effects: nested effects and macros are planned into the same list of nodes."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from ..document import Effect
from ..faults import Fault
from ..footage import Materials, Nested, Wired
from ..steps import StepKind, kind_of, step_kind, underscored
from ..steps.macro import main_slot
from ..time.timing import Moment
from ..values.params import Param
from .nodes import Place, Shared
from .planner import SERIES, DocumentPlanner, Need, Ref

MOST_NESTED = 64
"""How deep effects may show each other."""


@dataclass(frozen=True)
class Shower:
    """The step that shows a nested effect."""

    planner: Planner
    ref: Ref
    shown: Nested

    @property
    def within(self) -> str:
        """The beginning of fault sentences: the effects from the outermost to this one."""
        name = self.shown.name
        return self.planner.within + (f"{name} · " if name else "")

    @property
    def use(self) -> str:
        return self.shown.use or self.planner.scope.use

    @property
    def where(self) -> str:
        return self.planner.where(self.ref)

    @property
    def place(self) -> Place:
        return self.planner.place(self.ref)


class Planner(DocumentPlanner):
    """Plans an effect, and the effects and macros that it shows, into one list of nodes."""

    def __init__(
        self,
        effect: Effect,
        moment: Moment,
        settings: Mapping[str, Any] | None,
        materials: Materials,
        shared: Shared,
        shower: Shower | None = None,
    ) -> None:
        self.shower = shower
        self.depth: int = shower.planner.depth + 1 if shower else 0
        self.children: dict[Any, Planner] = {}
        self.valued: dict[Ref, Mapping[str, Any]] = {}
        within, use = (shower.within, shower.use) if shower else ("", "")
        super().__init__(
            effect, moment, settings, materials, shared, within, use, shower is not None
        )

    def place(self, ref: Ref) -> Place:
        return self.shower.place if self.shower else super().place(ref)

    def deeper(self, ref: Ref, name: str) -> None:
        """Refuse to nest one more effect when there are too many."""
        if self.depth >= MOST_NESTED:
            raise Fault(
                f"{self.who(ref)} shows {name}. That nests more than {MOST_NESTED} effects in "
                f"each other. Take some of them off.",
                self.where(ref),
            )

    def macro(self, ref: Ref, kind: StepKind) -> Ref:
        """The reference under which the planner keeps the result of the macro that a step runs."""
        result: Ref = (ref[0], (*ref[1], -1), ref[2])
        if result not in self.elsewhere:
            assert kind.runs is not None
            self.deeper(ref, kind.label)
            planner = self.children.get(ref[:2])
            if planner is None:
                planner = self.children[ref[:2]] = _macro_planner(self, ref, kind.runs)
            self.elsewhere[result] = planner.output(ref[2])
        return result

    def values_at(self, ref: Ref) -> Mapping[str, Any]:
        """The values of a step that runs a macro."""
        held = self.valued.get(ref)
        if held is None:
            step, moment = self.step(ref), self.moment_of(ref)
            kind, who, place = kind_of(step), self.who(ref), self.where(ref)
            held = self.valued[ref] = {
                param.name: self.resolve(
                    step.values.get(param.name, param.default), param, moment, who, place
                )
                for param in kind.params
            }
        return held

    def wired(self, ref: Ref, slot: str, frame: int) -> Need:
        """The step that fills a slot of the macro which a step runs, at a frame."""
        at: Ref = (ref[0], ref[1], frame)
        source = self.step(ref).inputs.get(underscored(slot))
        target = self.named_by(source, at) if source else self.above(at)
        assert target is not None
        return self, target

    def nested(self, ref: Ref, shown: Nested | Wired, frame: int) -> Ref:
        """The reference under which the planner keeps the result of the effect that a step
        shows."""
        result: Ref = (ref[0], (*ref[1], -1), ref[2])
        if isinstance(shown, Wired):
            self.elsewhere[result] = shown.at(frame)
        elif result not in self.elsewhere:
            self.deeper(ref, shown.name)
            planner = self.children.get(id(shown))
            if planner is None:
                shower = Shower(self, ref, shown)
                moment = Moment(0, shown.length, self.moment.rate)
                with self.blamed(shown), self.told_within(shown, ref):
                    planner = Planner(
                        shown.effect, moment, shown.settings, shown.materials, self.shared, shower
                    )
                self.children[id(shown)] = planner
            self.elsewhere[result] = planner.output(frame)
        return result

    @contextmanager
    def told_within(self, shown: Nested, ref: Ref) -> Iterator[None]:
        """Name a nested effect in the faults of its settings."""
        try:
            yield
        except Fault as fault:
            name = f"{self.within}{shown.name}".removesuffix(" · ")
            raise fault.told_of(name, self.where(ref)) from None

    @contextmanager
    def blamed(self, shown: Nested) -> Iterator[None]:
        """Inside the block a fault gets the name of the use of an effect that it happens in: the
        innermost named one."""
        try:
            yield
        except Fault as fault:
            fault.use = fault.use or shown.use
            raise

    def run_macro(self, ref: Ref, kind: StepKind, mix: float) -> tuple[Any, ...]:
        """Plan a step that runs a macro: its result is the macro's result."""
        inputs = self.step(ref).inputs
        for input_kind in kind.inputs:
            if input_kind.name not in inputs and not input_kind.optional:
                raise self.open_input(ref, input_kind.name, input_kind.title)
        result, above = self.macro(ref, kind), self.above(ref)
        if mix == 1 or above is None:
            return kind, None, 0.0, [("main", result, None)], self.own(result)
        wanted = [("main", above, None), (SERIES, result, None)]
        return step_kind("repeat"), {}, mix, wanted, self.own(above, result)


class _MacroPlanner(Planner):
    """Plans a macro that a step runs. Its controls are the step's values, which may move."""

    def control_moves(self, slug: str) -> bool:
        assert self.shower is not None
        outer = self.shower.planner
        raw = outer.step(self.shower.ref).values.get(underscored(slug))
        return super().control_moves(slug) or outer.moves(raw)

    def control_at(self, slug: str, moment: Moment) -> tuple[Param, Any]:
        assert self.shower is not None
        backwards = getattr(self, "backwards", False)
        frame = moment.length - 1 - moment.frame if backwards else moment.frame
        lane, path, _ = self.shower.ref
        values = self.shower.planner.values_at((lane, path, frame))
        param, setting = self.controls[slug]
        return param, values.get(underscored(slug), setting)

    def around(self, frame: int) -> bytes:
        assert self.shower is not None
        lane, path, _ = self.shower.ref
        return self.shower.planner.line((lane, path, frame))


def _macro_planner(outer: Planner, ref: Ref, effect: Effect) -> Planner:
    """The planner of the macro that a step of ``outer`` runs."""
    main, inputs = main_slot(effect), outer.step(ref).inputs
    slots = {
        slot.id: Wired(slot.id, lambda frame, slot=slot: outer.wired(ref, slot.id, frame))  # type: ignore[misc]
        for slot in effect.slots
        if slot.id == main or underscored(slot.id) in inputs
    }
    given = outer.materials
    materials = Materials(slots, given.assets, given.fonts)
    name = outer.who(ref).removeprefix(outer.within)
    shower = Shower(outer, ref, Nested(name, effect, outer.moment.length))
    moment = outer.moment.at(0)
    return _MacroPlanner(effect, moment, None, materials, outer.shared, shower)
