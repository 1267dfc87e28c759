"""Macros as steps: another version, and opening one up into its lanes."""

from __future__ import annotations

import re
from typing import Any

from ..document import Control, Effect, HeldMacro, Input, Lane, Step
from ..faults import Fault, Missing
from ..steps import kind_of, underscored
from ..steps.macro import main_slot
from ..time.timing import FrameRate, Moment
from ..values.formula import slug_matches, spelled
from ..values.params import Param
from ..values.value import Formula, Keys, Link, value_of_link
from .models import OpenMacro, Pinned, SetMacro
from .places import (
    lane_of,
    retold,
    slug_of,
    step_of,
    title_of,
    with_inputs,
    with_step,
    with_steps,
)


def held(pinned: Pinned) -> HeldMacro:
    """The macro that a change names, whole.

    Raises
    ------
    Missing
        If the library has not filled it in.
    """
    if pinned.held is None:
        raise Missing(f"Version {pinned.version} of “{pinned.slug}” is not on the shelf.")
    return pinned.held


def set_macro(effect: Effect, change: SetMacro) -> tuple[Effect, str]:
    """The effect with another version of a macro; values and inputs that it no longer has are
    dropped."""
    old = step_of(effect, change.lane, change.step)
    if old.macro is None:
        raise Fault(f"{title_of(old)} is not a macro, so it has no versions.")
    new = old.model_copy(update={"macro": held(change.macro)})
    kind = kind_of(new)
    values = {}
    for name, value in old.values.items():
        param = kind.get(name)
        if param is None:
            continue
        if not isinstance(value, Keys | Link | Formula):
            try:
                param.check(value, param.title)
            except Fault:
                continue
        values[name] = value
    inputs = {name: source for name, source in old.inputs.items() if kind.input(name)}
    new = new.model_copy(update={"values": values, "inputs": inputs})
    return with_step(effect, change.lane, new), f"{title_of(old)}: version {change.macro.version}"


def open_macro(effect: Effect, change: OpenMacro) -> tuple[Effect, str]:
    """The effect with a macro's own lanes in place of the step that runs it. The pixels stay the
    same.

    Raises
    ------
    Fault
        If lanes could not give the same pixels. The sentence says what to set first.
    """
    lane, step = lane_of(effect, change.lane), step_of(effect, change.lane, change.step)
    if step.macro is None:
        raise Fault(f"{title_of(step)} is not a macro, so it cannot be opened up.")
    places = [one.id for one in lane.steps]
    if step.id not in places:
        raise Fault(f"{title_of(step)} is inside a repeat. Move it out to open it up.")
    if not step.on or step.mix != 1:
        raise Fault(
            f"{title_of(step)} is off or weighted. Turn it on and set its weight to 1 first."
        )
    opening = _Opening(effect, lane, step, step.macro)
    return opening.done(), f"{title_of(step)} opened up"


class _Opening:
    """One macro that is being opened up."""

    def __init__(self, effect: Effect, lane: Lane, step: Step, macro: HeldMacro) -> None:
        self.effect, self.lane, self.step, self.inner = effect, lane, step, macro.effect
        self.at = [one.id for one in lane.steps].index(step.id)
        self.taken = [one.id for one in effect.lanes]
        self.helpers: list[Lane] = []
        self.values = {c.slug: self._value(c) for c in self.inner.controls}
        self.ids = {one.id: self._free(one.id) for one in self.inner.lanes}
        self.before = self._free(f"{lane.id}-before") if self.at else None
        self._still()

    def _free(self, name: str) -> str:
        self.taken.append(slug_of(name, self.taken))
        return self.taken[-1]

    def _value(self, control: Control) -> Any:
        return self.step.values.get(underscored(control.slug), control.default)

    def _still(self) -> None:
        """Refuse a macro whose way of playing lanes cannot repeat."""
        back = self.inner.backwards
        if isinstance(back, Link):
            back = self.values.get(back.control, False)
        if back:
            raise Fault(
                f"{title_of(self.step)} plays backwards. Lanes cannot play backwards by "
                f"themselves, so it stays a macro."
            )
        for lane in self.inner.lanes:
            for step in lane.every:
                if step.kind == "slot" and step.values.get("hold", -1) != -1:
                    raise Fault(
                        f"{title_of(self.step)} freezes a clip inside. Lanes cannot do that by "
                        f"themselves, so it stays a macro."
                    )

    def done(self) -> Effect:
        """The effect with the lanes in place."""
        new = [self._lane(lane) for lane in self.inner.lanes]
        lanes: list[Lane] = []
        for lane in self.effect.lanes:
            if lane.id != self.lane.id:
                lanes.append(lane)
                continue
            if self.before:
                head = lane.model_copy(
                    update={"id": self.before, "name": f"{lane.name}, before"[:120],
                            "steps": lane.steps[: self.at]}
                )  # fmt: skip
                lanes.append(head)
            lanes += [*self.helpers, *new]
            last = Input(lane=self.ids[self.inner.lanes[-1].id])
            start = Step(
                id=self.step.id, kind="continue-from", name=self.step.name, inputs={"from": last}
            )
            lanes.append(lane.model_copy(update={"steps": (start, *lane.steps[self.at + 1 :])}))
        changed = self.effect.model_copy(update={"lanes": tuple(lanes)})
        return self._reread(changed)

    def _reread(self, changed: Effect) -> Effect:
        """Make inputs and formulas read the steps above the macro at their new places."""
        if self.before is None:
            return changed
        moved = {step.id for top in self.lane.steps[: self.at] for step in (top, *top.steps)}
        before = self.before

        def read(source: Input) -> Input:
            if source.lane == self.lane.id and source.step in moved:
                return source.model_copy(update={"lane": before})
            return source

        def told(dotted: str) -> str:
            parts = dotted.split(".")
            if slug_matches(parts[0], self.lane.id) and any(
                slug_matches(parts[1], m) for m in moved
            ):
                return f"{spelled(before)}.{parts[1]}.{parts[2]}"
            return dotted

        return with_steps(changed, lambda _, step: retold(with_inputs(step, read), told))

    def _lane(self, lane: Lane) -> Lane:
        names = {one.name for one in self.effect.lanes}
        name = lane.name if lane.name not in names else f"{lane.name} ({title_of(self.step)})"[:120]
        steps = tuple(self._step(step) for step in lane.steps)
        return lane.model_copy(update={"id": self.ids[lane.id], "name": name, "steps": steps})

    def _step(self, step: Step) -> Step:
        if step.kind == "slot":
            return self._wired(step)
        inside = tuple(self._step(one) for one in step.steps)
        inputs = {
            name: source.model_copy(update={"lane": self.ids.get(source.lane, source.lane)})
            for name, source in step.inputs.items()
        }
        kind = kind_of(step)
        values = {
            name: self._taken_over(value, kind.get(name)) for name, value in step.values.items()
        }
        mix = self._taken_over(step.mix, None)
        changed = step.model_copy(
            update={"values": values, "mix": mix, "inputs": inputs, "steps": inside}
        )
        return retold(changed, self._renamed)

    def _wired(self, step: Step) -> Step:
        """The source that fills a slot, in place of the slot itself."""
        slot = str(step.values.get("slot", "clip"))
        offset = step.values.get("offset", 0)
        if slot == main_slot(self.inner) and self.at:
            source: Input | None = Input(lane=str(self.before))
        else:
            source = self.step.inputs.get(underscored(slot))
        if source is None:
            stand = {"slot": slot}
            return Step(id=step.id, kind="slot", values=stand)
        source = source.model_copy(update={"offset": source.offset + int(offset)})
        return Step(id=step.id, kind="continue-from", name=step.name, inputs={"from": source})

    def _taken_over(self, value: Any, param: Param | None) -> Any:
        """A value of a step in the macro, written without the macro's controls."""
        if isinstance(value, Formula):
            return value.model_copy(update={"formula": self._formula(value.formula)})
        if not isinstance(value, Link):
            return value
        control = self.inner.control(value.control)
        if control is None:
            return value
        given = self.values[control.slug]
        if isinstance(given, Link) and _plain(given) and self._alike(given, control):
            return value.model_copy(update={"control": given.control})
        if not isinstance(given, Keys | Link | Formula):
            return self._settled(value, control, given, param)
        if _plain(value):
            return given
        if value.range is not None and value.ease == "linear" and control.type in _NUMBERS:
            low, high = value.range
            bottom, top = control.slider
            scale = (high - low) / (top - bottom)
            return Formula(
                formula=f"{low!r} + ({self._readable(control)} - {bottom!r}) * {scale!r}"
            )
        raise self._stuck(control)

    def _alike(self, given: Link, control: Control) -> bool:
        """Whether a control outside can replace one inside in every link: same type, same range."""
        outer = self.effect.control(given.control)
        return outer is not None and (outer.type, outer.slider) == (control.type, control.slider)

    def _settled(self, link: Link, control: Control, given: Any, param: Param | None) -> Any:
        if control.type == "ease":
            raise self._stuck(control)
        start = Moment(0, 1, FrameRate.of(25))
        stand_in = param or control.param()
        return value_of_link(link, control.param(), given, stand_in, start)

    def _formula(self, text: str) -> str:
        def put(found: re.Match[str]) -> str:
            for control in self.inner.controls:
                if slug_matches(found[1], control.slug):
                    return self._readable(control)
            return found[0]

        return re.sub(r"(?<![\w.])control\.(\w+)", put, text)

    def _readable(self, control: Control) -> str:
        """The setting of a control, as part of a formula."""
        given = self.values[control.slug]
        if isinstance(given, bool):
            return "1" if given else "0"
        if isinstance(given, int | float):
            return f"({given!r})"
        if isinstance(given, Formula):
            return f"({given.formula})"
        if isinstance(given, Link) and _plain(given):
            return f"control.{underscored(given.control)}"
        if control.type in _NUMBERS:
            return self._kept(control, given)
        raise self._stuck(control)

    def _kept(self, control: Control, given: Any) -> str:
        """Keep a moving number where formulas can read it: in a lane of its own."""
        name = f"{self.step.id}-{control.slug}"[:40]
        there = next((one for one in self.helpers if one.name == control.label), None)
        if there is None:
            values = {"black_out": given}
            there = Lane(
                id=self._free(name), name=control.label, folded=True,
                steps=(Step(id="flat", kind="flat"), Step(id="levels", kind="levels", values=values)),
            )  # fmt: skip
            self.helpers.append(there)
        return f"{underscored(there.id)}.levels.black_out"

    def _renamed(self, dotted: str) -> str:
        parts = dotted.split(".")
        for old, new in self.ids.items():
            if slug_matches(parts[0], old) or spelled(self._name(old)) == parts[0].lower():
                return f"{spelled(new)}.{parts[1]}.{parts[2]}"
        return dotted

    def _name(self, lane: str) -> str:
        found = self.inner.lane(lane)
        return found.name if found else lane

    def _stuck(self, control: Control) -> Fault:
        return Fault(
            f"{title_of(self.step)}: “{control.label}” moves or follows a control in a way that "
            f"lanes cannot repeat. Set it to a plain value, then open the macro up."
        )


_NUMBERS = ("number", "whole", "angle", "seed")


def _plain(link: Link) -> bool:
    """Whether a link passes its control's setting on unchanged."""
    return link.range is None and link.table is None
