"""From a document, a moment and a size to the steps that have to be computed, in order."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..document import Effect
from ..faults import Missing
from ..footage import Materials
from ..pictures.picture import Size
from ..time.timing import Moment
from .nesting import MOST_NESTED, Planner
from .nodes import Place, Plan, Shared
from .states import States

NO_MATERIALS = Materials()


def make_plan(
    effect: Effect,
    moment: Moment,
    size: Size,
    *,
    step: Place | None = None,
    settings: Mapping[str, Any] | None = None,
    materials: Materials = NO_MATERIALS,
    states: States | None = None,
    recent: int | None = None,
) -> Plan:
    """The steps to compute for the effect's output, or for one of its steps.

    Parameters
    ----------
    step : (lane, step), optional
        The step whose result is wanted; the output by default. A step of a repeat is seen in the
        last
        pass, or in the one its name ends with: ``blur@0`` is the first.
    settings : mapping, optional
        Settings of controls, by slug; their defaults otherwise.
    states : States, optional
        Results of feedback steps at earlier frames. The plan continues from them instead of from
        the first frame. Keys are the same either way.
    recent : int, optional
        Feedback steps start at most this number of frames before the moment, as if that were the
        first frame: a rough picture at once.

    Raises
    ------
    Fault
        If something is missing, out of range or in a loop; it names lane, step and value.
    """
    shared = Shared(size, states, recent)
    planner = Planner(effect, moment, settings, materials, shared)
    index, name = len(effect.lanes) - 1, ""
    if step is not None:
        if step[0] not in planner.lanes:
            raise Missing(f"There is no lane “{step[0]}” in {effect.name}.")
        index, name = planner.lanes[step[0]], step[1]
    name, _, turn = name.partition("@")
    outer, inner = planner.find(index, name or None, effect.name)
    target = planner.last_pass(index, outer, inner, planner.moment.frame)
    if turn and len(target[1]) == 3:
        last = target[1][1]
        asked = int(turn) if turn.isdecimal() and len(turn) < 6 else last
        target = (index, (outer, min(asked, last), target[1][2]), target[2])
    planner.run(target)
    last = planner.done[target]
    return Plan(tuple(shared.nodes[: last + 1]), size)


__all__ = ["MOST_NESTED", "NO_MATERIALS", "make_plan"]
