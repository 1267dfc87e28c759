"""Values of an effect at a moment: constants, keys, links and formulas resolved."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from ..document import Effect, Lane, Step
from ..documents.graph import place_named
from ..faults import Fault, Missing
from ..pictures.picture import Size
from ..steps import MIX, kind_of
from ..time.timing import FrameRate, Moment
from ..values.formula import evaluate, slug_matches, spelled
from ..values.integral import mean_so_far
from ..values.params import EaseCurve, Param, Toggle
from ..values.value import Formula, Keys, Link, placed, value_of_keys, value_of_link

BACKWARDS = Toggle(name="backwards", label="play backwards")


class Resolver:
    """Values of an effect at a moment, with its controls set.

    Raises
    ------
    Fault
        If a setting is out of range, or names a control that does not exist.
    """

    def __init__(
        self, effect: Effect, size: Size, settings: Mapping[str, Any] | None = None
    ) -> None:
        self.effect = effect
        self.size = size
        self.controls: dict[str, tuple[Param, Any]] = {}
        self.computing: dict[tuple[str, str], str] = {}
        self.looked: dict[tuple[str, str, str, Moment], Any] = {}
        given = settings or {}
        for control in effect.controls:
            param = control.param()
            raw = given.get(control.slug, control.default)
            self.controls[control.slug] = (param, param.check(raw, f"“{control.label}”"))
        for slug in given:
            if slug not in self.controls:
                there = ", ".join(self.controls) or "none"
                raise Missing(f"The macro has no control “{slug}”. It has: {there}.", slug)

    def resolve(self, raw: Any, param: Param, moment: Moment, who: str, place: str = "") -> Any:
        """A value's constant at a moment, checked against the parameter.

        Faults name ``who``; ``place`` is the step's own name, which is unique.
        """
        name = f"{who}: {param.title}"
        if isinstance(raw, Keys):
            raw = value_of_keys(raw, param, moment)
        elif isinstance(raw, Link):
            if raw.control not in self.controls:
                raise Missing(
                    f"{name} follows the control “{raw.control}”, which does not exist.", who
                )
            control, setting = self.control_at(raw.control, moment)
            raw = value_of_link(raw, control, setting, param, moment)
        elif isinstance(raw, Formula):
            raw = self.compute(raw, moment, name, (place or who, param.name))
        if getattr(param, "whole", False) and isinstance(raw, float):
            raw = round(raw)
        return param.check(raw, name)

    def moves(self, raw: Any) -> bool:
        """Whether a value may change over time."""
        if isinstance(raw, Link):
            return raw.control in self.controls and self.control_moves(raw.control)
        return isinstance(raw, Keys | Formula)

    def control_moves(self, slug: str) -> bool:
        """Whether a control leads a value along an ease, or moves by itself."""
        return isinstance(self.controls[slug][0], EaseCurve)

    def so_far(self, raw: Any, param: Param, moment: Moment, who: str, place: str) -> Any:
        """The mean of a value that adds up, from the first frame to a moment."""
        if not self.moves(raw):
            return self.resolve(raw, param, moment, who, place)
        rate = float(moment.rate.exact)

        def at(seconds: float) -> float:
            now = replace(moment, frame=seconds * rate)  # type: ignore[arg-type]
            return float(self.resolve(raw, param, now, who, place))

        cuts = [time for time, _ in placed(raw, moment)[0]] if isinstance(raw, Keys) else []
        return param.check(mean_so_far(at, moment.seconds, cuts), f"{who}: {param.title}")

    def control_at(self, slug: str, moment: Moment) -> tuple[Param, Any]:
        """A control, and its setting at a moment."""
        return self.controls[slug]

    def runs_backwards(self) -> bool:
        """Whether the effect plays backwards; this value never moves."""
        start = Moment(0, 1, FrameRate.of(25))
        return bool(self.resolve(self.effect.backwards, BACKWARDS, start, self.effect.name))

    def compute(self, formula: Formula, moment: Moment, name: str, place: tuple[str, str]) -> float:
        """The result of a formula; the values that it reads are resolved at the same moment."""
        if place in self.computing:
            names = list(self.computing.values())[list(self.computing).index(place) :]
            told = " → ".join([*names, names[0]])
            raise Fault(f"A loop of formulas: {told}. Change one of them.", name)
        self.computing[place] = name
        try:
            return evaluate(
                formula.formula, moment, (self.size.width, self.size.height),
                lambda dotted: self.look(dotted, moment),
            )  # fmt: skip
        except Fault as fault:
            known = fault.where is not None
            raise type(fault)(
                fault.sentence if known else f"{name}: {fault.sentence}", fault.where or name
            ) from None
        finally:
            del self.computing[place]

    def look(self, dotted: str, moment: Moment) -> Any:
        """A control, or another step's value, by the name a formula has for it."""
        parts = dotted.split(".")
        if parts[0] == "control":
            for slug in self.controls:
                if slug_matches(parts[1], slug):
                    return self.control_at(slug, moment)[1]
            raise Missing(f"there is no control “{parts[1]}”.")
        lane, step = self._place(parts[0], parts[1], dotted)
        kind = kind_of(step)
        for param in (MIX, *kind.params):
            if param.name == parts[2]:
                # Formulas may read a value many times; it is resolved once.
                key = (lane.id, step.id, param.name, moment)
                if key not in self.looked:
                    raw = step.mix if param is MIX else step.values.get(param.name, param.default)
                    who, place = f"{lane.name} · {step.name or kind.label}", f"{lane.id}.{step.id}"
                    self.looked[key] = self.resolve(raw, param, moment, who, place)
                return self.looked[key]
        there = ", ".join(param.name for param in kind.params)
        raise Missing(f"there is no value {dotted}. That step has: {there}.")

    def _place(self, lane_name: str, step_name: str, dotted: str) -> tuple[Lane, Step]:
        """The step that a formula names: by its identifier, or else by its name on screen."""
        place = place_named(self.effect, lane_name, step_name)
        if place is not None:
            return place
        lanes = [lane for lane in self.effect.lanes if slug_matches(lane_name, lane.id)]
        lanes += [lane for lane in self.effect.lanes if spelled(lane.name) == lane_name.lower()]
        if lanes:
            there = ", ".join(spelled(step.id) for step in lanes[0].every)
            raise Missing(f"there is no value {dotted}. “{lanes[0].name}” has the steps: {there}.")
        there = ", ".join(spelled(lane.name) for lane in self.effect.lanes)
        raise Missing(f"there is no value {dotted}. The lanes are: {there}.")


def runs_backwards(effect: Effect, settings: Mapping[str, Any] | None = None) -> bool:
    """Whether an effect plays backwards with these settings."""
    return Resolver(effect, Size(1, 1), settings).runs_backwards()
