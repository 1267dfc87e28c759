"""Values, inputs and controls: setting, linking, exposing, sealing."""

from __future__ import annotations

from typing import Any

from ..document import Control, Effect, Step
from ..documents.checking import follows
from ..faults import Clash, Fault, Missing
from ..steps import MIX, kind_of
from ..time.timing import FrameRate, Moment
from ..values import key_arrangement
from ..values.params import EaseCurve, FontName, Number, Param
from ..values.value import Formula, Keys, Link, read_value, value_of_link
from .models import (
    ArrangeKeys,
    Expose,
    ExposeBackwards,
    RemoveControl,
    SetControl,
    SetInput,
    SetValue,
)
from .places import lane_of, slug_of, step_of, title_of, with_step


def _param(step: Step, name: str) -> Param:
    param = MIX if name == "mix" else kind_of(step).get(name)
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


def set_value(effect: Effect, change: SetValue) -> tuple[Effect, str]:
    """The effect with another value, or the default."""
    step = step_of(effect, change.lane, change.step)
    param = _param(step, change.value_name)
    if change.keep_control and isinstance(step.values.get(param.name), Link):
        raise Clash(
            f"{title_of(step)}: {param.title} follows a control. Take the control away first, or "
            "set it there.",
            param.name,
        )
    value = read_value(change.value)
    before = words_of(_current(step, param))
    changed = with_step(effect, change.lane, _put(step, param, value))
    after = "default" if value is None else words_of(value)
    return changed, f"{title_of(step)}: {param.title} {before} → {after}"


def arrange_keys(effect: Effect, change: ArrangeKeys) -> tuple[Effect, str]:
    """The effect with keys of a value arranged; see :mod:`keying`."""
    step = step_of(effect, change.lane, change.step)
    param = _param(step, change.value_name)
    keys = _current(step, param)
    if not isinstance(keys, Keys):
        raise Fault(f"{title_of(step)}: {param.title} has no keys.", change.value_name)
    moment = Moment(0, change.frames, FrameRate.of(change.rate))
    if change.how == "move":
        arranged = key_arrangement.moved(keys, change.by, moment, change.keys)
    elif change.how == "copy":
        arranged = key_arrangement.copied(keys, change.by, moment, change.keys)
    elif change.how == "scale":
        arranged = key_arrangement.scaled(keys, change.by, moment, change.keys)
    elif change.how == "distribute":
        arranged = key_arrangement.distributed(keys, moment, change.keys)
    elif change.keys is None:
        arranged = key_arrangement.reversed_keys(keys)
    else:
        arranged = key_arrangement.turned(keys, moment, change.keys)
    said = {
        "move": f"moved by {change.by:.3g} s", "copy": f"copied to {change.by:.3g} s",
        "scale": f"scaled in time by {change.by:.3g}", "distribute": "distributed",
        "reverse": "reversed",
    }  # fmt: skip
    changed = with_step(effect, change.lane, _put(step, param, arranged))
    return changed, f"{title_of(step)}: {param.title}, keys {said[change.how]}"


def set_input(effect: Effect, change: SetInput) -> tuple[Effect, str]:
    """The effect with another source for an input, or without the input."""
    step = step_of(effect, change.lane, change.step)
    if kind_of(step).input(change.input_name) is None:
        raise Missing(f"{title_of(step)} has no input “{change.input_name}”.", change.input_name)
    inputs = {name: source for name, source in step.inputs.items() if name != change.input_name}
    said = "nothing"
    if change.input is not None:
        inputs[change.input_name] = change.input
        said = lane_of(effect, change.input.lane).name
    changed = with_step(effect, change.lane, step.model_copy(update={"inputs": inputs}))
    return changed, f"{title_of(step)}: {change.input_name.replace('_', ' ')} from {said}"


def expose(effect: Effect, change: Expose) -> tuple[Effect, str]:
    """The effect with a control that drives a value."""
    step = step_of(effect, change.lane, change.step)
    param = _param(step, change.value_name)
    value = _current(step, param)
    label = change.label or param.title[:1].upper() + param.title[1:]
    slug = slug_of(label, [control.slug for control in effect.controls])
    if isinstance(value, Link):
        raise Clash(f"{title_of(step)}: {param.title} is exposed already.", change.value_name)
    if isinstance(value, Formula):
        raise Fault(
            f"{title_of(step)}: {param.title} follows a formula. Expose a value that the formula "
            "reads, or let it read a control.",
            change.value_name,
        )
    if param.type == "asset":
        raise Fault(f"{title_of(step)}: {param.title} cannot be exposed.", change.value_name)
    if isinstance(param, FontName) and value not in param.describe()["options"]:
        raise Fault(
            f"{title_of(step)}: a font of your own cannot be exposed. Choose one of the built-in "
            "families first.",
            change.value_name,
        )
    if isinstance(value, Keys):
        ends = value.keys
        whole = [(key.anchor, key.time) for key in ends] == [("share", 0), ("share", 1)]
        if not whole or not isinstance(param, Number):
            raise Fault(
                f"{title_of(step)}: {param.title} moves through keys of its own. Only a move "
                "from the start to the end, with two keys, becomes a control: its curve.",
                change.value_name,
            )
        ease = ends[0].ease
        plain = ease if isinstance(ease, str) else ease.model_dump(mode="json")
        label = change.label or "Curve"
        slug = slug_of(label, [control.slug for control in effect.controls])
        control = Control(slug=slug, label=label, type="ease", default=plain, help=param.help)
        link = Link(control=slug, range=(ends[0].value, ends[1].value))
    else:
        slots = tuple(slot.id for slot in effect.slots)
        control = _control_for(param, slug, label, value, slots)
        link = Link(control=slug)
    changed = with_step(effect, change.lane, _put(step, param, link))
    changed = changed.model_copy(update={"controls": (*effect.controls, control)})
    return changed, f"{label} exposed"


def _control_for(
    param: Param, slug: str, label: str, value: Any, slots: tuple[str, ...]
) -> Control:
    kind: str = "whole" if getattr(param, "whole", False) else param.type
    more: dict[str, Any] = {}
    if isinstance(param, Number):
        low, high = param.allowed
        more = {"slider": param.slider, "unit": param.unit}
        if low > float("-inf") and high < float("inf"):
            more["allowed"] = param.allowed
        if param.name == "seed":
            kind = "seed"
        elif param.unit == "°":
            kind = "angle"
    elif param.type == "slot":
        more = {"options": slots}
    elif param.type in ("choice", "font"):
        kind, more = "choice", {"options": param.describe()["options"]}
    return Control.model_validate(
        {"slug": slug, "label": label, "type": kind, "default": value, "help": param.help} | more
    )


def expose_backwards(effect: Effect, change: ExposeBackwards) -> tuple[Effect, str]:
    """The effect with a toggle for the editor that plays it backwards."""
    if isinstance(effect.backwards, Link):
        raise Clash("Playing backwards is exposed already.", "backwards")
    slug = slug_of(change.label, [control.slug for control in effect.controls])
    control = Control(slug=slug, label=change.label, type="toggle", default=effect.backwards)
    update = {"backwards": Link(control=slug), "controls": (*effect.controls, control)}
    return effect.model_copy(update=update), f"{change.label} exposed"


def set_control(effect: Effect, change: SetControl) -> tuple[Effect, str]:
    """The effect with a control changed, or moved on the faceplate."""
    control = effect.control(change.slug)
    if control is None:
        raise Missing(f"There is no control “{change.slug}” any more.", change.slug)
    update = change.model_dump(exclude={"do", "slug", "at"}, exclude_none=True)
    new = Control.model_validate(control.model_dump() | update)
    controls = [new if old.slug == change.slug else old for old in effect.controls]
    if change.at is not None:
        controls.remove(new)
        controls.insert(min(max(change.at, 0), len(controls)), new)
    what = ", ".join(update) or "place"
    return (
        effect.model_copy(update={"controls": tuple(controls)}),
        f"Control {control.label}: {what} changed",
    )


def drives(effect: Effect, slug: str) -> list[tuple[str, str, str]]:
    """Lane, step and name of every value that follows a control, by a link or a formula."""
    return [
        (lane.id, step.id, name)
        for lane in effect.lanes
        for step in lane.every
        for name, value in [("mix", step.mix), *step.values.items()]
        if follows(value, slug)
    ]


def value_words(effect: Effect, lane: str, step: str, value: str) -> str:
    """A value by the names on screen: "Fray · Levels: gamma"."""
    meant = step_of(effect, lane, step)
    return f"{lane_of(effect, lane).name} · {title_of(meant)}: {_param(meant, value).title}"


def remove_control(effect: Effect, change: RemoveControl) -> tuple[Effect, str]:
    """The effect without a control; the values that it drove stay as they are."""
    control = effect.control(change.slug)
    if control is None:
        raise Missing(f"There is no control “{change.slug}” any more.", change.slug)
    known = control.param()
    setting = known.check(control.default, control.label)
    start = Moment(0, 1, FrameRate.of(25))
    changed = effect
    if isinstance(effect.backwards, Link) and effect.backwards.control == change.slug:
        changed = changed.model_copy(update={"backwards": setting})
    for lane, identifier, name in drives(effect, change.slug):
        step = step_of(changed, lane, identifier)
        param = _param(step, name)
        link = _current(step, param)
        if isinstance(link, Formula):
            raise Clash(
                f"{title_of(step)}: {param.title} reads “{control.label}” in its formula. "
                "Change the formula first.",
                name,
            )
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
        changed = with_step(changed, lane, _put(step, param, value))
    controls = tuple(old for old in effect.controls if old.slug != change.slug)
    return changed.model_copy(update={"controls": controls}), f"{control.label} sealed"
