"""Digests that tell which steps give the same pictures in two versions of an effect."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from graphlib import CycleError, TopologicalSorter
from typing import Any

from ..document import Effect, Step, digest_of
from ..faults import Fault
from ..values.formula import parse, slug_matches
from ..values.value import Formula, Link, Value
from .graph import Graph, Place, Stand

_WORDS: Any = {
    "name": True, "sentence": True, "tags": True, "notes": True, "lanes": True, "controls": True,
    "slots": {"__all__": {"name", "help"}},
}  # fmt: skip
"""Parts of an effect that the shared digest leaves out: words for people, which change no picture,
and lanes and controls, which each step adds for itself."""

_CONTROL = "control."


def fingerprints(effect: Effect) -> dict[Place, str]:
    """A digest for each step. If it is equal in two documents, the step gives the same pictures in
    both.

    It covers the step, all that it reads, the controls that set its values, and the effect's slots,
    but no names, help or notes. Two documents that give the same pictures may still have different
    ones.
    """
    plain = effect.model_dump(mode="json", exclude=_WORDS)
    shared = digest_of([plain, _controls(effect, _named(effect.backwards))])
    graph, units = Graph(effect), dict[Place, list[Stand]]()
    for stand in graph.stands.values():
        units.setdefault(_unit(stand), []).append(stand)
    reads = {
        unit: {_unit(graph.stands[other]) for stand in stands for other in graph.reads[stand.place]}
        - {unit}
        for unit, stands in units.items()
    }
    made = dict[Place, str]()
    try:
        order = list(TopologicalSorter(reads).static_order())
    except CycleError:
        return dict.fromkeys(graph.stands, effect.digest())
    for unit in order:
        steps = [stand.step for stand in units[unit]]
        names = {name for step in steps for value in _values(step) for name in _named(value)}
        # A formula may read any value of any step by its name, and that value may be set by others.
        far = [effect.digest()] if any(not name.startswith(_CONTROL) for name in names) else []
        own = [[stand.place, graph.reads[stand.place], _own(stand.step)] for stand in units[unit]]
        others = sorted((other, made[other]) for other in reads[unit])
        made[unit] = digest_of([shared, own, _controls(effect, names), others, far])
    return {place: digest_of([place, made[_unit(stand)]]) for place, stand in graph.stands.items()}


def _unit(stand: Stand) -> Place:
    """The place of a step, or of the repeat that holds it. Each pass continues from the one before,
    so every step in a repeat depends on all of them."""
    return stand.place if stand.holder is None else (stand.lane.id, stand.holder.id)


def _own(step: Step) -> Any:
    return step.model_dump(mode="json", exclude={"name": True, "steps": True})


def _values(step: Step) -> tuple[Value, ...]:
    return (step.mix, *step.values.values())


def _named(value: Value) -> Iterator[str]:
    """Names of the controls and of the other values that set a value."""
    if isinstance(value, Link):
        yield _CONTROL + value.control
    elif isinstance(value, Formula):
        try:
            yield from parse(value.formula)[1]
        except Fault:
            yield ""


ONLY_SEEN = {"label", "group", "help", "unit", "hidden", "when", "good", "edge"}
"""Fields of a control that change no picture."""


def _controls(effect: Effect, names: Iterable[str]) -> Any:
    """The named controls, without what only editors see."""
    slugs = [name.removeprefix(_CONTROL) for name in names]
    return [
        control.model_dump(mode="json", exclude=ONLY_SEEN)
        for control in effect.controls
        if any(slug_matches(slug, control.slug) for slug in slugs)
    ]
