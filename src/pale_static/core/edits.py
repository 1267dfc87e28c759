"""Edits: functions from effect to effect. Undo is keeping the old one.

Every edit is a small frozen model, so that it can travel; :func:`apply` gives the new effect and
says in words what was done.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator
from itertools import count
from typing import Annotated, Any, Literal, Union

from pydantic import BaseModel, ConfigDict, Field

from .checking import require
from .document import Control, Effect, Identifier, Kind, Lane, Name, Note, Slot, Step, Tap
from .faults import Clash, Fault, Missing
from .params import EaseCurve, Number, Param
from .steps import MIX, StepKind, step_kind
from .values import Formula, Keys, Link, read_value


class _Edit(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class SetHead(_Edit):
    """Name, sentence, tags or length of the effect."""

    do: Literal["set-head"] = "set-head"
    name: Name | None = None
    sentence: str | None = None
    tags: tuple[str, ...] | None = None
    seconds: float | None = None


class AddLane(_Edit):
    """A new empty lane before the output."""

    do: Literal["add-lane"] = "add-lane"
    name: Name = "Lane"


class SetLane(_Edit):
    """Name or fold a lane, or move it to another place."""

    do: Literal["set-lane"] = "set-lane"
    lane: Identifier
    name: Name | None = None
    folded: bool | None = None
    at: int | None = None


class RemoveLane(_Edit):
    do: Literal["remove-lane"] = "remove-lane"
    lane: Identifier


class AddStep(_Edit):
    """A new step; inputs are chosen from what is there where that is unambiguous."""

    do: Literal["add-step"] = "add-step"
    lane: Identifier
    kind: Identifier
    at: int | None = None
    values: dict[str, Any] = Field(default_factory=dict)


class MoveStep(_Edit):
    do: Literal["move-step"] = "move-step"
    lane: Identifier
    step: Identifier
    to: Identifier
    at: int


class RemoveStep(_Edit):
    do: Literal["remove-step"] = "remove-step"
    lane: Identifier
    step: Identifier


class SetStep(_Edit):
    """Name a step, or take it in and out."""

    do: Literal["set-step"] = "set-step"
    lane: Identifier
    step: Identifier
    name: str | None = None
    on: bool | None = None


class SetValue(_Edit):
    """A constant, keys, or a link to a control; None goes back to the default."""

    do: Literal["set-value"] = "set-value"
    lane: Identifier
    step: Identifier
    value_name: str
    value: Any = None


class SetTap(_Edit):
    """Where a step's other input comes from; None takes it away."""

    do: Literal["set-tap"] = "set-tap"
    lane: Identifier
    step: Identifier
    tap_name: str
    tap: Tap | None = None


class Expose(_Edit):
    """Make a control of a value, with what the value is now as its default."""

    do: Literal["expose"] = "expose"
    lane: Identifier
    step: Identifier
    value_name: str
    label: Name | None = None


class SetControl(_Edit):
    """Change a control as the editor will see it, or its place on the faceplate."""

    do: Literal["set-control"] = "set-control"
    slug: Identifier
    label: Name | None = None
    help: str | None = None
    group: str | None = None
    default: Any = None
    slider: tuple[float, float] | None = None
    allowed: tuple[float, float] | None = None
    at: int | None = None


class RemoveControl(_Edit):
    """Seal a control: what it drove keeps the value it has at the control's default."""

    do: Literal["remove-control"] = "remove-control"
    slug: Identifier


class SetSlot(_Edit):
    """What stands in for a slot's material while building."""

    do: Literal["set-slot"] = "set-slot"
    slot: Identifier
    stand_in: str | None = None


class SetNotes(_Edit):
    """The notes pinned to the effect, lanes and steps."""

    do: Literal["set-notes"] = "set-notes"
    notes: tuple[Note, ...]


Edit = Annotated[
    Union[
        SetHead, AddLane, SetLane, RemoveLane, AddStep, MoveStep, RemoveStep, SetStep, SetValue,
        SetTap, Expose, SetControl, RemoveControl, SetSlot, SetNotes,
    ],
    Field(discriminator="do"),
]  # fmt: skip


def slug_of(text: str, taken: Iterable[str]) -> str:
    """A short identifier from a name, unlike those taken."""
    base = re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-")[:40] or "x"
    used, slug, number = set(taken), base, 1
    while slug in used:
        number += 1
        slug = f"{base}-{number}"
    return slug


def new_effect(kind: Kind, name: str) -> Effect:
    """An empty effect of a kind, with its slots as lanes and an output to build on."""
    clip = "clip" if kind in ("look", "title") else None
    slots: list[Slot] = []
    if kind == "transition":
        slots = [
            Slot(id="from", name="From", help="The first clip."),
            Slot(id="to", name="To", help="The second clip."),
        ]
    elif clip:
        slots = [Slot(id="clip", name="Clip", help="The clip it works on.")]
    lanes = [
        Lane(
            id=slot.id,
            name=slot.name,
            folded=True,
            steps=(Step(id="slot", kind="slot", values={"slot": slot.id}),),
        )
        for slot in slots
    ]
    first = Step(id="continue-from", kind="continue-from", taps={"from": Tap(lane="from")})
    if kind in ("look", "title"):
        first = first.model_copy(update={"taps": {"from": Tap(lane="clip")}})
    if kind == "texture":
        first = Step(id="flat", kind="flat", values={"colour": "#000000"})
    lanes.append(Lane(id="out", name="Out", steps=(first,)))
    return Effect(name=name, kind=kind, slots=tuple(slots), lanes=tuple(lanes))


def apply(effect: Effect, edit: Edit) -> tuple[Effect, str]:
    """The effect after an edit, and the edit in words.

    Raises
    ------
    Fault
        Where the edit names something that is not there, or would leave a document that is
        wrong; the effect given is untouched.
    """
    changed, words = _DO[edit.do](effect, edit)
    return require(changed), words


def _lane(effect: Effect, identifier: str) -> Lane:
    lane = effect.lane(identifier)
    if lane is None:
        raise Missing(f"There is no lane “{identifier}” any more.", identifier)
    return lane


def _step(effect: Effect, lane: str, identifier: str) -> Step:
    for step in _lane(effect, lane).steps:
        if step.id == identifier:
            return step
    raise Missing(f"There is no step “{identifier}” in “{lane}” any more.", lane)


def _with_lane(effect: Effect, lane: Lane) -> Effect:
    lanes = tuple(lane if old.id == lane.id else old for old in effect.lanes)
    return effect.model_copy(update={"lanes": lanes})


def _with_step(effect: Effect, lane: str, step: Step) -> Effect:
    found = _lane(effect, lane)
    steps = tuple(step if old.id == step.id else old for old in found.steps)
    return _with_lane(effect, found.model_copy(update={"steps": steps}))


def title_of(step: Step) -> str:
    """A step's name on screen."""
    return step.name or step_kind(step.kind).label


def _set_head(effect: Effect, edit: SetHead) -> tuple[Effect, str]:
    update = edit.model_dump(exclude={"do"}, exclude_none=True)
    changed = Effect.model_validate(effect.to_json() | update)
    if "seconds" in update:
        return changed, f"Length: {effect.seconds:g} s → {changed.seconds:g} s"
    if "name" in update:
        return changed, f"Named {changed.name}"
    return changed, "Description changed"


def _add_lane(effect: Effect, edit: AddLane) -> tuple[Effect, str]:
    lane = Lane(id=slug_of(edit.name, [lane.id for lane in effect.lanes]), name=edit.name)
    lanes = (*effect.lanes[:-1], lane, effect.lanes[-1])
    return effect.model_copy(update={"lanes": lanes}), f"Lane {edit.name} added"


def _set_lane(effect: Effect, edit: SetLane) -> tuple[Effect, str]:
    lane = _lane(effect, edit.lane)
    update = edit.model_dump(include={"name", "folded"}, exclude_none=True)
    changed = _with_lane(effect, lane.model_copy(update=update))
    if edit.at is not None:
        if lane.id == effect.lanes[-1].id:
            raise Fault(f"“{lane.name}” gives the picture; it stays at the right.", lane.id)
        rest = [other for other in changed.lanes if other.id != lane.id]
        at = min(max(edit.at, 0), len(rest) - 1)
        rest.insert(at, next(other for other in changed.lanes if other.id == lane.id))
        return changed.model_copy(update={"lanes": tuple(rest)}), f"Lane {lane.name} moved"
    if edit.name is not None:
        return changed, f"Lane {lane.name} named {edit.name}"
    return changed, f"Lane {lane.name} {'folded' if edit.folded else 'unfolded'}"


def _remove_lane(effect: Effect, edit: RemoveLane) -> tuple[Effect, str]:
    lane = _lane(effect, edit.lane)
    if lane.id == effect.lanes[-1].id:
        raise Fault(f"“{lane.name}” gives the picture; it cannot go.", lane.id)
    lanes = tuple(
        old.model_copy(update={"steps": tuple(_untapped(s, lane.id) for s in old.steps)})
        for old in effect.lanes
        if old.id != lane.id
    )
    notes = tuple(note for note in effect.notes if note.lane != lane.id)
    changed = effect.model_copy(update={"lanes": lanes, "notes": notes})
    return changed, f"Lane {lane.name} removed"


def _untapped(step: Step, lane: str, other: str | None = None) -> Step:
    """The step without inputs from a lane, or from one step of it."""
    taps = {
        name: tap
        for name, tap in step.taps.items()
        if tap.lane != lane or (other is not None and tap.step != other)
    }
    return step if len(taps) == len(step.taps) else step.model_copy(update={"taps": taps})


def gives_matte(effect: Effect, lane: Lane, depth: int = 0) -> bool:
    """Whether a lane ends in a matte, as far as its declarations tell."""
    for step in reversed(lane.steps):
        kind = step_kind(step.kind)
        if kind.gives != "same":
            # A ramp at its plain stops is grey, and is what people wipe along.
            return kind.gives == "matte" or (step.kind == "ramp" and "stops" not in step.values)
        if kind.main is None:
            tap = step.taps.get("from")
            other = effect.lane(tap.lane) if tap else None
            return other is not None and depth < 20 and gives_matte(effect, other, depth + 1)
    return False


def _reads(effect: Effect, lane: Lane) -> set[str]:
    """Every lane that this one takes in, directly or by others."""
    found: set[str] = set()
    waiting = [lane]
    while waiting:
        for step in waiting.pop().steps:
            for tap in step.taps.values():
                other = effect.lane(tap.lane)
                if other is not None and other.id not in found:
                    found.add(other.id)
                    waiting.append(other)
    return found


def _guess_taps(effect: Effect, lane: Lane, kind: StepKind) -> dict[str, Tap]:
    """Inputs for a new step: the incoming clip, and the nearest other lane, a matte for a matte.

    Only lanes that do not take this one in are considered, so nothing is guessed into a circle.
    """
    index = [other.id for other in effect.lanes].index(lane.id)
    free = [
        other
        for other in effect.lanes
        if other.steps and other.id != lane.id and lane.id not in _reads(effect, other)
    ]
    # The output is what others go into, not what they are made of.
    free = [other for other in free if other.id != effect.lanes[-1].id]
    order = [other.id for other in effect.lanes]
    before = sorted(free, key=lambda other: -abs(order.index(other.id) - index))
    taps: dict[str, Tap] = {}
    for tap in kind.taps:
        if tap.optional:
            continue
        slots = [o for o in before if o.steps[0].kind == "slot"]
        rest = [o for o in before if o not in slots]
        mattes = [o for o in rest if gives_matte(effect, o)]
        if tap.name == "incoming":
            pick = [o for o in slots if o.id == "to"] or slots
        elif tap.takes == "matte":
            pick = mattes or rest or slots[:1]
        else:
            pick = rest or slots[:1]
        if pick:
            taps[tap.name] = Tap(lane=pick[-1].id)
    return taps


def _add_step(effect: Effect, edit: AddStep) -> tuple[Effect, str]:
    lane, kind = _lane(effect, edit.lane), step_kind(edit.kind)
    at = len(lane.steps) if edit.at is None else min(max(edit.at, 0), len(lane.steps))
    if kind.main is None and at > 0:
        raise Fault(
            f"{kind.label} starts a lane; it cannot follow another step. Add a lane for it.",
            lane.id,
        )
    if at == 0 and lane.steps and step_kind(lane.steps[0].kind).main is None:
        raise Fault(f"“{lane.name}” starts with {title_of(lane.steps[0])}; put it below.", lane.id)
    step = Step(
        id=slug_of(kind.kind, [old.id for old in lane.steps]),
        kind=kind.kind,
        values=dict(kind.fresh) | edit.values,
        taps=_guess_taps(effect, lane, kind),
    )
    steps = (*lane.steps[:at], step, *lane.steps[at:])
    name = lane.name
    if not lane.steps and re.fullmatch(r"Lane( \d+)?", name):
        # A lane without a name of its own is called after what it starts with.
        taken = {other.name for other in effect.lanes}
        name = next(n for n in _numbered(kind.label) if n not in taken)
    changed = lane.model_copy(update={"steps": steps, "name": name})
    return _with_lane(effect, changed), f"{kind.label} added"


def _numbered(name: str) -> Iterator[str]:
    """A name, and then it with 2, 3, … after it."""
    yield name
    for number in count(2):
        yield f"{name} {number}"


def _move_step(effect: Effect, edit: MoveStep) -> tuple[Effect, str]:
    step, source, target = (
        _step(effect, edit.lane, edit.step),
        _lane(effect, edit.lane),
        _lane(effect, edit.to),
    )
    rest = tuple(old for old in source.steps if old.id != step.id)
    changed = _with_lane(effect, source.model_copy(update={"steps": rest}))
    into = list(_lane(changed, target.id).steps)
    identifier = step.id if source.id == target.id else slug_of(step.id, [s.id for s in into])
    at = min(max(edit.at, 0), len(into))
    into.insert(at, step.model_copy(update={"id": identifier}))
    if step_kind(into[0].kind).main is not None:
        raise Fault(f"{title_of(into[0])} cannot come first in “{target.name}”.", target.id)
    moved = target.model_copy(update={"steps": tuple(into)})
    changed = _with_lane(changed, moved)
    if (source.id, step.id) != (target.id, identifier):
        lanes = tuple(
            lane.model_copy(
                update={"steps": tuple(_retapped(s, edit, identifier) for s in lane.steps)}
            )
            for lane in changed.lanes
        )
        changed = changed.model_copy(update={"lanes": lanes})
    return changed, f"{title_of(step)} moved"


def _retapped(step: Step, edit: MoveStep, identifier: str) -> Step:
    taps = {
        name: tap.model_copy(update={"lane": edit.to, "step": identifier})
        if (tap.lane, tap.step) == (edit.lane, edit.step)
        else tap
        for name, tap in step.taps.items()
    }
    return step.model_copy(update={"taps": taps})


def _remove_step(effect: Effect, edit: RemoveStep) -> tuple[Effect, str]:
    step, lane = _step(effect, edit.lane, edit.step), _lane(effect, edit.lane)
    rest = tuple(old for old in lane.steps if old.id != step.id)
    changed = _with_lane(effect, lane.model_copy(update={"steps": rest}))
    lanes = tuple(
        old.model_copy(update={"steps": tuple(_untapped(s, lane.id, step.id) for s in old.steps)})
        for old in changed.lanes
    )
    return changed.model_copy(update={"lanes": lanes}), f"{title_of(step)} removed"


def _set_step(effect: Effect, edit: SetStep) -> tuple[Effect, str]:
    step = _step(effect, edit.lane, edit.step)
    update = edit.model_dump(include={"name", "on"}, exclude_none=True)
    changed = _with_step(effect, edit.lane, step.model_copy(update=update))
    if edit.on is not None:
        return changed, f"{title_of(step)} {'on' if edit.on else 'off'}"
    return changed, f"{title_of(step)} named {edit.name or step_kind(step.kind).label}"


def _param(step: Step, name: str) -> Param:
    param = MIX if name == "mix" else step_kind(step.kind).get(name)
    if param is None:
        raise Missing(f"{title_of(step)} has no value “{name}”.", name)
    return param


def _current(step: Step, param: Param) -> Any:
    return step.mix if param is MIX else step.values.get(param.name, param.default)


def _put(step: Step, param: Param, value: Any) -> Step:
    if param is MIX:
        return step.model_copy(update={"mix": 1.0 if value is None else value})
    values = {name: old for name, old in step.values.items() if name != param.name}
    if value is not None:
        values[param.name] = value
    return step.model_copy(update={"values": values})


def words_of(value: Any) -> str:
    """A value as History says it."""
    if isinstance(value, Keys):
        return f"{len(value.keys)} key{'s' if len(value.keys) > 1 else ''}"
    if isinstance(value, Link):
        return f"control {value.control}"
    if isinstance(value, Formula):
        return f"ƒ {value.formula[:40]}"
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, (int, float)):
        return f"{value:.4g}"
    if isinstance(value, (list, tuple)):
        return ", ".join(words_of(part) for part in value)
    return str(value)[:40]


def _set_value(effect: Effect, edit: SetValue) -> tuple[Effect, str]:
    step = _step(effect, edit.lane, edit.step)
    param = _param(step, edit.value_name)
    value = read_value(edit.value)
    before = words_of(_current(step, param))
    changed = _with_step(effect, edit.lane, _put(step, param, value))
    after = "default" if value is None else words_of(value)
    return changed, f"{title_of(step)}: {param.title} {before} → {after}"


def _set_tap(effect: Effect, edit: SetTap) -> tuple[Effect, str]:
    step = _step(effect, edit.lane, edit.step)
    if step_kind(step.kind).tap(edit.tap_name) is None:
        raise Missing(f"{title_of(step)} has no input “{edit.tap_name}”.", edit.tap_name)
    taps = {name: tap for name, tap in step.taps.items() if name != edit.tap_name}
    said = "nothing"
    if edit.tap is not None:
        taps[edit.tap_name] = edit.tap
        said = _lane(effect, edit.tap.lane).name
    changed = _with_step(effect, edit.lane, step.model_copy(update={"taps": taps}))
    return changed, f"{title_of(step)}: {edit.tap_name} from {said}"


def _expose(effect: Effect, edit: Expose) -> tuple[Effect, str]:
    step = _step(effect, edit.lane, edit.step)
    param = _param(step, edit.value_name)
    value = _current(step, param)
    label = edit.label or param.title[:1].upper() + param.title[1:]
    slug = slug_of(label, [control.slug for control in effect.controls])
    if isinstance(value, Link):
        raise Clash(f"{title_of(step)}: {param.title} is exposed already.", edit.value_name)
    if isinstance(value, Formula):
        raise Fault(
            f"{title_of(step)}: {param.title} follows a formula. Expose a value that the formula "
            "reads, or let it read a control.",
            edit.value_name,
        )
    if param.type in ("slot", "asset", "stops"):
        raise Fault(f"{title_of(step)}: {param.title} cannot be exposed.", edit.value_name)
    if isinstance(value, Keys):
        ends = value.keys
        whole = [(key.anchor, key.time) for key in ends] == [("share", 0), ("share", 1)]
        if not whole or not isinstance(param, Number):
            raise Fault(
                f"{title_of(step)}: {param.title} moves through keys of its own. Only a move "
                "from the start to the end, with two keys, becomes a control: its curve.",
                edit.value_name,
            )
        ease = ends[0].ease
        plain = ease if isinstance(ease, str) else ease.model_dump(mode="json")
        label = edit.label or "Curve"
        slug = slug_of(label, [control.slug for control in effect.controls])
        control = Control(slug=slug, label=label, type="ease", default=plain, help=param.help)
        link = Link(control=slug, range=(ends[0].value, ends[1].value))
    else:
        control = _control_for(param, slug, label, value)
        link = Link(control=slug)
    changed = _with_step(effect, edit.lane, _put(step, param, link))
    changed = changed.model_copy(update={"controls": (*effect.controls, control)})
    return changed, f"{label} exposed"


def _control_for(param: Param, slug: str, label: str, value: Any) -> Control:
    kind: str = "whole" if getattr(param, "whole", False) else param.type
    more: dict[str, Any] = {}
    if isinstance(param, Number):
        low, high = param.allowed
        more = {"slider": param.slider, "unit": param.unit}
        if low > float("-inf") and high < float("inf"):
            more["allowed"] = param.allowed
        if param.name == "seed":
            kind = "seed"
    elif param.type == "choice":
        more = {"options": param.describe()["options"]}
    return Control.model_validate(
        {"slug": slug, "label": label, "type": kind, "default": value, "help": param.help} | more
    )


def _set_control(effect: Effect, edit: SetControl) -> tuple[Effect, str]:
    control = effect.control(edit.slug)
    if control is None:
        raise Missing(f"There is no control “{edit.slug}” any more.", edit.slug)
    update = edit.model_dump(exclude={"do", "slug", "at"}, exclude_none=True)
    new = Control.model_validate(control.model_dump() | update)
    controls = [new if old.slug == edit.slug else old for old in effect.controls]
    if edit.at is not None:
        controls.remove(new)
        controls.insert(min(max(edit.at, 0), len(controls)), new)
    what = ", ".join(update) or "place"
    return (
        effect.model_copy(update={"controls": tuple(controls)}),
        f"Control {control.label}: {what} changed",
    )


def drives(effect: Effect, slug: str) -> list[tuple[str, str, str]]:
    """Lane, step and name of every value a control drives."""
    return [
        (lane.id, step.id, name)
        for lane in effect.lanes
        for step in lane.steps
        for name, value in [("mix", step.mix), *step.values.items()]
        if isinstance(value, Link) and value.control == slug
    ]


def _remove_control(effect: Effect, edit: RemoveControl) -> tuple[Effect, str]:
    from .timing import FrameRate, Moment
    from .values import value_of_link

    control = effect.control(edit.slug)
    if control is None:
        raise Missing(f"There is no control “{edit.slug}” any more.", edit.slug)
    known = control.param()
    setting = known.check(control.default, control.label)
    start = Moment(0, 1, FrameRate.of(25))
    changed = effect
    for lane, identifier, name in drives(effect, edit.slug):
        step = _step(changed, lane, identifier)
        param = _param(step, name)
        link = _current(step, param)
        if isinstance(known, EaseCurve):
            low, high = link.range or (0.0, 1.0)
            value: Any = Keys.model_validate(
                {
                    "keys": [
                        {"time": 0, "value": low, "ease": control.default},
                        {"time": 1, "value": high},
                    ]
                }
            )
        else:
            value = value_of_link(link, known, setting, param, start)
        changed = _with_step(changed, lane, _put(step, param, value))
    controls = tuple(old for old in effect.controls if old.slug != edit.slug)
    return changed.model_copy(update={"controls": controls}), f"{control.label} sealed"


def _set_slot(effect: Effect, edit: SetSlot) -> tuple[Effect, str]:
    slot = effect.slot(edit.slot)
    if slot is None:
        raise Missing(f"There is no slot “{edit.slot}”.", edit.slot)
    new = slot.model_copy(update={"stand_in": edit.stand_in})
    slots = tuple(new if old.id == slot.id else old for old in effect.slots)
    return effect.model_copy(update={"slots": slots}), f"Stand-in for {slot.name} chosen"


def _set_notes(effect: Effect, edit: SetNotes) -> tuple[Effect, str]:
    return effect.model_copy(update={"notes": edit.notes}), "Notes changed"


_DO: dict[str, Callable[..., tuple[Effect, str]]] = {
    "set-head": _set_head,
    "add-lane": _add_lane,
    "set-lane": _set_lane,
    "remove-lane": _remove_lane,
    "add-step": _add_step,
    "move-step": _move_step,
    "remove-step": _remove_step,
    "set-step": _set_step,
    "set-value": _set_value,
    "set-tap": _set_tap,
    "expose": _expose,
    "set-control": _set_control,
    "remove-control": _remove_control,
    "set-slot": _set_slot,
    "set-notes": _set_notes,
}
