"""What is wrong with an effect document, and what a draft may leave open for now."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from ..document import Control, Effect, Step, held_effects
from ..faults import Fault, Missing
from ..lettering import FAMILIES
from ..migrations import upgraded
from ..steps import MIX, kind_of
from ..values.formula import parse, slug_matches
from ..values.params import AssetName, FontName, Number, Param, Text, tidy
from ..values.value import Formula, Keys, Link
from .graph import Graph, HasLanes, Stand, cycle_of
from .json_input import parse_json

MOST_BYTES = 4 << 20


@dataclass(frozen=True)
class Finding:
    """One problem: a sentence, a place, and whether a draft may be saved with it."""

    sentence: str
    where: str
    open: bool = False


def read_effect(raw: str | bytes | Mapping[str, Any]) -> Effect:
    """An effect from JSON, checked.

    Raises
    ------
    Fault
        If the document is not valid, with place and reason. Choices that are still open in a draft
        pass.
    """
    if isinstance(raw, (str, bytes)):
        if len(raw) > MOST_BYTES:
            raise Fault(f"An effect document has at most {MOST_BYTES >> 20} MB.")
        raw = parse_json(raw, "This is not an effect document: it")
    if not isinstance(raw, Mapping):
        raise Fault("This is not an effect document: it is not a JSON object.")
    try:
        effect = Effect.model_validate(upgraded("effect", raw))
    except ValidationError as fault:
        raise model_fault("effect document", fault) from None
    for finding in findings(effect):
        if not finding.open:
            raise Fault(finding.sentence, finding.where)
    return effect


_LIMITS = {
    "greater_than_equal": ("at least", "ge"),
    "greater_than": ("more than", "gt"),
    "less_than_equal": ("at most", "le"),
    "less_than": ("less than", "lt"),
}


def model_fault(what: str, fault: ValidationError) -> Fault:
    """The first problem that a model found, as a sentence with its place."""
    first = fault.errors()[0]
    place = ".".join(str(part) for part in first["loc"]) or "top level"
    kind, said = first["type"], first["msg"]
    if kind == "extra_forbidden":
        reason = f"it has a field “{first['loc'][-1]}”, which it does not know"
    elif kind == "missing":
        reason = f"the field “{first['loc'][-1]}” is missing"
    elif kind == "too_long":
        counts = first["ctx"]
        reason = f"it has {counts['actual_length']} entries, and {counts['max_length']} are allowed"
    elif kind == "union_tag_invalid":
        return Fault(f"There is no change called “{first['ctx']['tag']}”.", place)
    elif kind in _LIMITS:
        words, name = _LIMITS[kind]
        given = first["input"]
        got = f". It got {tidy(given)}" if isinstance(given, (int, float)) else ""
        reason = f"it must be {words} {tidy(first['ctx'][name])}{got}"
    else:
        reason = f"{said[0].lower()}{said[1:]}"
    return Fault(f"The {what} is not valid at {place}: {reason}.", place)


def follows(value: Any, slug: str) -> bool:
    """Whether a value is driven by a control: linked to it, or by a formula that reads it."""
    if isinstance(value, Link):
        return value.control == slug
    return isinstance(value, Formula) and any(
        name.startswith("control.") and slug_matches(name[8:], slug)
        for name in parse(value.formula)[1]
    )


def findings(effect: Effect) -> list[Finding]:
    """Everything that is wrong or still open, in document order."""
    return [
        *_names(effect),
        *_controls(effect),
        *_steps(effect),
        *_loops(effect),
        *_formula_loops(effect),
    ]


def require(effect: Effect, whole: bool = False) -> Effect:
    """The effect; a fault for its first problem. With ``whole`` an open choice is a problem too."""
    for finding in findings(effect):
        if whole or not finding.open:
            raise Fault(finding.sentence, finding.where)
    return effect


def _names(effect: Effect) -> Iterator[Finding]:
    groups = [
        ("lanes", [lane.id for lane in effect.lanes]),
        ("slots", [slot.id for slot in effect.slots]),
        ("controls", [control.slug for control in effect.controls]),
        *((lane.id, [step.id for step in lane.every]) for lane in effect.lanes),
    ]
    for where, names in groups:
        for name in sorted({name for name in names if names.count(name) > 1}):
            yield Finding(f"Two of the {where} share the name “{name}”.", f"{where}.{name}")


def _controls(effect: Effect) -> Iterator[Finding]:
    way = effect.backwards
    if isinstance(way, Link):
        control = effect.control(way.control)
        if control is None or control.type != "toggle":
            yield Finding(
                f"Playing backwards follows the control “{way.control}”, which is missing or not "
                f"a toggle.",
                "backwards",
            )
    for control in effect.controls:
        try:
            control.param().check(control.default, f"The default of “{control.label}”")
        except Fault as fault:
            yield Finding(fault.sentence, f"controls.{control.slug}")
        low, high = control.slider
        if control.type in ("number", "whole") and low >= high:
            yield Finding(
                f"The slider of “{control.label}” runs from {low} to {high}. Its first end must "
                f"be the smaller one.",
                f"controls.{control.slug}",
            )
        yield from _advice(effect, control)


NUMBERS = ("number", "whole", "angle")


def _advice(effect: Effect, control: Control) -> Iterator[Finding]:
    """Problems of when a control is shown, and of what its maker advises."""
    where, name = f"controls.{control.slug}", f"“{control.label}”"
    for slug, settings in control.when.items():
        other = effect.control(slug)
        if other is None or other.type not in ("toggle", "choice") or slug == control.slug:
            yield Finding(
                f"{name} is shown only for some settings of “{slug}”, which is not another toggle or "
                "choice.",
                where,
            )
            continue
        if other.hidden:
            yield Finding(
                f"{name} is shown only for some settings of “{other.label}”, which the editor does "
                "not see. Show that one too.",
                where,
            )
        for setting in settings:
            try:
                other.param().check(setting, f"{name} is shown for a setting of “{other.label}”")
            except Fault as fault:
                yield Finding(fault.sentence, where)
    if (control.good or control.edge) and control.type not in NUMBERS:
        yield Finding(f"{name} is not a number, so it has no good zone and no edge.", where)
    if control.good and control.good[0] >= control.good[1]:
        yield Finding(
            f"The good zone of {name} runs from {tidy(control.good[0])} to {tidy(control.good[1])}. "
            "Its first end must be the smaller one.",
            where,
        )
    if control.edge and control.edge.below is None and control.edge.above is None:
        yield Finding(f"The edge of {name} needs a number: below it, or above it.", where)


def _steps(effect: Effect) -> Iterator[Finding]:
    graph = Graph(effect)
    for lane in effect.lanes:
        if not lane.steps:
            yield Finding(f"The lane “{lane.name}” has no steps yet.", lane.id, open=True)
        for stand in graph.in_lane(lane.id):
            step, where = stand.step, f"{lane.id}.{stand.step.id}"
            try:
                kind = kind_of(step)
            except Missing as fault:
                yield Finding(f"{lane.name}: {fault.sentence}", where)
                continue
            who = f"{lane.name} · {step.name or kind.label}"
            if kind.runs is not None:
                yield from _inside(kind.runs, who, where)
            wrong = kind.misplaced(first=stand.above is None, who=who)
            if wrong:
                yield Finding(wrong.sentence, where, wrong.open)
            if kind.holds:
                yield from _held(graph, stand, who, where)
            elif step.steps:
                yield Finding(f"{who} cannot hold other steps.", where)
            yield from _values(effect, step, who, where)
            for name in step.values:
                if kind.get(name) is None:
                    yield Finding(f"{who} has no value “{name}”.", f"{where}.{name}")
            for name in step.inputs:
                if kind.input(name) is None:
                    yield Finding(f"{who} has no input “{name}”.", f"{where}.{name}")
            for source in kind.inputs:
                if source.name not in step.inputs and not source.optional:
                    yield Finding(
                        f"{who} needs a source for “{source.title}”. Choose one on its card.",
                        f"{where}.{source.name}",
                        open=True,
                    )
            if step.kind == "slot":
                name = step.values.get("slot", "clip")
                if isinstance(name, str) and effect.slot(name) is None:
                    yield Finding(f"{who} shows the slot “{name}”, which does not exist.", where)


MOST_HELD = 12
"""How deep macros may run each other as steps."""


def _inside(effect: Effect, who: str, where: str) -> Iterator[Finding]:
    """The problems of a macro that a step runs."""
    if _depth(effect) > MOST_HELD:
        yield Finding(
            f"{who} runs macros one in another, more than {MOST_HELD} deep. Open one of them up.",
            where,
        )
        return
    for finding in findings(effect):
        yield Finding(f"{who}: {finding.sentence}", where)
        return


def _depth(effect: Effect) -> int:
    """The number of macros nested in each other, this effect included."""
    held = [step.macro.effect for lane in effect.lanes for step in lane.every if step.macro]
    return 1 + max(map(_depth, held), default=0)


def _held(graph: Graph, stand: Stand, who: str, where: str) -> Iterator[Finding]:
    """Problems of the steps that a step holds: none may hold others or change the kind of
    picture."""
    steps = stand.step.steps
    if any(_holds(held) for held in steps):
        yield Finding(f"{who} holds another repeat. Multiply their counts instead.", where)
        return
    if not steps or stand.holder is not None:
        return  # a repeat in a repeat: the finding is at the outer one
    entry = graph.entry(stand)
    if entry is None:
        return
    before = graph.gives_matte((stand.lane.id, entry.id))
    if before != graph.gives_matte(stand.place):
        given, made = ("a matte", "a picture") if before else ("a picture", "a matte")
        yield Finding(
            f"{who}: a pass takes {given} and gives {made}, so the next pass cannot start from it. "
            "Move the step that changes it out of the repeat.",
            where,
        )


def _holds(step: Step) -> bool:
    try:
        return bool(kind_of(step).holds)
    except Missing:
        return False  # the finding is at the step


def _values(effect: Effect, step: Step, who: str, where: str) -> Iterator[Finding]:
    kind = kind_of(step)
    named: list[tuple[Param, Any]] = [(MIX, step.mix)]
    for name, value in step.values.items():
        param = kind.get(name)
        if param is not None:
            named.append((param, value))
    for param, value in named:
        place = f"{where}.{param.name}"
        if isinstance(value, Link):
            if effect.control(value.control) is None:
                yield Finding(
                    f"{who}: {param.title} follows the control “{value.control}”, which does not "
                    f"exist.",
                    place,
                )
            continue
        if isinstance(value, Formula):
            yield from _formula(value, param, who, place)
            continue
        constants = [key.value for key in value.keys] if isinstance(value, Keys) else [value]
        if isinstance(value, Keys) and not param.moves:
            yield Finding(f"{who}: {param.title} cannot move.", place)
        for constant in constants:
            try:
                param.check(constant, f"{who}: {param.title}")
            except Fault as fault:
                yield Finding(fault.sentence, place)
                break


def _formula(value: Formula, param: Param, who: str, place: str) -> Iterator[Finding]:
    """The problems of one formula by itself."""
    if not isinstance(param, Number):
        yield Finding(f"{who}: {param.title} is not a number, so no formula can set it.", place)
        return
    try:
        parse(value.formula)
    except Fault as fault:
        yield Finding(f"{who}: {param.title}: {fault.sentence}", place)


def _formula_loops(effect: Effect) -> Iterator[Finding]:
    """Formulas that read each other in a loop, found when saved, and named."""
    reads: dict[tuple[str, str], list[tuple[str, str]]] = {}
    names: dict[tuple[str, str], str] = {}
    known: dict[str, tuple[str, str]] = {}
    for lane in effect.lanes:
        for step in lane.every:
            for name, value in [("mix", step.mix), *step.values.items()]:
                place = (f"{lane.id}.{step.id}", name)
                known[f"{lane.id}.{step.id}.{name}".replace("-", "_")] = place
                names[place] = f"{lane.name} · {step.name or step.kind}: {name}"
                reads[place] = []
                if isinstance(value, Formula):
                    with suppress(Fault):
                        reads[place] = [("?", dotted) for dotted in parse(value.formula)[1]]
    for place, found in reads.items():
        dotted = [known.get(name.replace("-", "_")) for _, name in found]
        reads[place] = [other for other in dotted if other is not None]
    loop = cycle_of(reads)
    if loop:
        told = " → ".join(names[place] for place in loop)
        yield Finding(f"A loop of formulas: {told}. Change one of them.", ".".join(loop[0]))


def _loops(effect: Effect) -> Iterator[Finding]:
    """Inputs that name something missing, and steps that read their own result."""
    graph = Graph(effect)
    names = {
        place: f"{stand.lane.name} · {stand.step.name or stand.step.kind}"
        for place, stand in graph.stands.items()
    }
    for place, stand in graph.stands.items():
        for name, given in stand.step.inputs.items():
            if graph.resolve(stand, given) is not None:
                continue
            where, other = f"{place[0]}.{place[1]}.{name}", graph.lanes.get(given.lane)
            if other is not None and not other.steps and given.step is None:
                sentence = f"{names[place]} reads the lane “{other.name}”, which is empty."
                yield Finding(sentence, where, open=True)
                continue
            told = f"{given.lane}.{given.step}" if given.step else given.lane
            yield Finding(
                f"{names[place]} reads “{told}” as its {name}, which does not exist.", where
            )
    loop = graph.cycle()
    if loop:
        told = " → ".join(names[place] for place in loop)
        yield Finding(f"A loop: {told}. Choose another source for one of them.", ".".join(loop[0]))


def assets_of(of: HasLanes) -> list[str]:
    """Names of the library's pictures that steps show."""
    return _named(of, AssetName)


def fonts_of(of: HasLanes) -> list[str]:
    """Names of the library's fonts that titles are set in."""
    return [name for name in _named(of, FontName) if name not in FAMILIES]


def _named(of: HasLanes, kind: type[Text]) -> list[str]:
    lanes = [*of.lanes, *(lane for effect in held_effects(of.lanes) for lane in effect.lanes)]
    unread = [
        step.values.get(param.name)
        for lane in lanes
        for step in lane.every
        for param in kind_of(step).params
        if isinstance(param, kind)
    ]
    return sorted({name for name in unread if isinstance(name, str) and name})
