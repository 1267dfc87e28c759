"""Values, keys and inputs: setting and arranging them."""

from __future__ import annotations

from typing import Any

from ..document import Effect, Step
from ..faults import Clash, Fault, Missing
from ..steps import MIX, kind_of
from ..time.timing import FrameRate, Moment
from ..values import key_arrangement
from ..values.params import Param
from ..values.value import Formula, Keys, Link, read_value
from .models import ArrangeKeys, SetInput, SetValue
from .places import lane_of, step_of, title_of, with_step


def param_of(step: Step, name: str) -> Param:
    """The parameter of a step by its name."""
    param = MIX if name == "mix" else kind_of(step).get(name)
    if param is None:
        raise Missing(f"{title_of(step)} has no value “{name}”.", name)
    return param


def current_of(step: Step, param: Param) -> Any:
    """What a parameter of a step is set to."""
    return step.mix if param is MIX else step.values.get(param.name, param.default)


def with_value(step: Step, param: Param, value: Any) -> Step:
    """A step with a parameter set; None restores the default."""
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
    param = param_of(step, change.value_name)
    if change.keep_control and isinstance(step.values.get(param.name), Link):
        raise Clash(
            f"{title_of(step)}: {param.title} follows a control. Take the control away first, or "
            "set it there.",
            param.name,
        )
    value = read_value(change.value)
    before = words_of(current_of(step, param))
    changed = with_step(effect, change.lane, with_value(step, param, value))
    after = "default" if value is None else words_of(value)
    return changed, f"{title_of(step)}: {param.title} {before} → {after}"


def arrange_keys(effect: Effect, change: ArrangeKeys) -> tuple[Effect, str]:
    """The effect with keys of a value arranged; see :mod:`keying`."""
    step = step_of(effect, change.lane, change.step)
    param = param_of(step, change.value_name)
    keys = current_of(step, param)
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
    changed = with_step(effect, change.lane, with_value(step, param, arranged))
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
