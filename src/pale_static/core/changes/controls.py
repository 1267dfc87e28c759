"""Controls of the faceplate: exposing, linking, changing and removing them."""

from __future__ import annotations

from typing import Any

from ..document import Control, Effect
from ..documents.checking import follows
from ..faults import Clash, Fault, Missing
from ..time.timing import FrameRate, Moment
from ..values.params import Choice, EaseCurve, FontName, Number, Param, Toggle
from ..values.value import Formula, Keys, Link, value_of_link
from .models import (
    AddControl,
    Drive,
    Expose,
    ExposeBackwards,
    RemoveControl,
    SetControl,
    SetWords,
    Unlink,
)
from .places import lane_of, slug_of, step_of, title_of, with_step
from .values import current_of, param_of, with_value, words_of

START = Moment(0, 1, FrameRate.of(25))


def _control(effect: Effect, slug: str) -> Control:
    control = effect.control(slug)
    if control is None:
        raise Missing(f"There is no control “{slug}” any more.", slug)
    return control


def expose(effect: Effect, change: Expose) -> tuple[Effect, str]:
    """The effect with a control that drives a value."""
    step = step_of(effect, change.lane, change.step)
    param = param_of(step, change.value_name)
    value = current_of(step, param)
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
    changed = with_step(effect, change.lane, with_value(step, param, link))
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


def add_control(effect: Effect, change: AddControl) -> tuple[Effect, str]:
    """The effect with a control that drives nothing yet."""
    if change.type == "choice" and not change.options:
        raise Fault("A choice needs a word at least.", change.label)
    fresh: dict[str, dict[str, Any]] = {
        "toggle": {"default": False},
        "choice": {"default": next(iter(change.options), ""), "options": change.options},
        "angle": {"default": 0, "slider": (-180, 180), "unit": "°"},
        "whole": {"default": 1, "slider": (0, 10)},
        "number": {"default": 0.5},
    }
    slug = slug_of(change.label, [control.slug for control in effect.controls])
    control = Control.model_validate(
        {"slug": slug, "label": change.label, "type": change.type, "hidden": change.hidden}
        | fresh[change.type]
    )
    changed = effect.model_copy(update={"controls": (*effect.controls, control)})
    return changed, f"{change.label} added"


def fitted(share: float, value: float, slider: tuple[float, float]) -> tuple[float, float]:
    """The widest range within a slider that gives a value at a share of its way.

    The range runs upwards. It is flat, with both ends at the value, if the value lies at an end of the
    slider and the share does not.
    """
    low, high = min(slider[0], value), max(slider[1], value)
    ways = []
    if share > 0:
        ways.append((value - low) / share)
    if share < 1:
        ways.append((high - value) / (1 - share))
    way = min(ways)
    return value - way * share, value + way * (1 - share)


def _link(control: Control, param: Param, value: Any) -> Link | None:
    """A link that lets a control drive a value without changing it; None if their types do not fit.

    Driven by a curve, the value starts where it is and moves to the far end of its slider.
    """
    known, setting, slug = control.param(), control.default, control.slug
    same = known.type == param.type
    if isinstance(param, Number) and isinstance(known, EaseCurve):
        low, high = param.slider
        return Link(control=slug, range=(value, high if value - low <= high - value else low))
    if isinstance(param, Number) and isinstance(known, Number):
        bottom, top = known.slider
        share = (setting - bottom) / (top - bottom) if top > bottom else 0.0
        return Link(control=slug, range=fitted(share, value, param.slider))
    if isinstance(known, Toggle):
        table: dict[str, Any] = {"false": value, "true": value}
        if isinstance(param, Toggle):
            if value == setting:
                return Link(control=slug)
            table = {"false": True, "true": False}
        return Link(control=slug, table=table)
    if isinstance(known, Choice):
        if isinstance(param, Choice) and known.options == param.options and value == setting:
            return Link(control=slug)
        return Link(control=slug, table=dict.fromkeys(known.options, value))
    return Link(control=slug) if same else None


def drive(effect: Effect, change: Drive) -> tuple[Effect, str]:
    """The effect with a value that follows a control, and gives what it gave before.

    A control of another type than a number, a toggle or a choice takes the value as its setting if
    it drives nothing yet; else the value takes the control's.
    """
    step = step_of(effect, change.lane, change.step)
    param, control = param_of(step, change.value_name), _control(effect, change.control)
    value = current_of(step, param)
    who = f"{title_of(step)}: {param.title}"
    if isinstance(value, Link):
        value = _released(effect, value, param)
    if isinstance(value, Keys | Formula):
        what = "moves through keys" if isinstance(value, Keys) else "follows a formula"
        raise Fault(f"{who} {what}. Make it a plain value first.", param.name)
    if param.type in ("asset", "table"):
        raise Fault(f"{who} cannot follow a control.", param.name)
    link = _link(control, param, value)
    if link is None:
        raise Fault(
            f"{who} is a {param.type}. “{control.label}” is a {control.type} and cannot drive it.",
            param.name,
        )
    changed = with_step(effect, change.lane, with_value(step, param, link))
    if not (link.range or link.table or drives(effect, control.slug)):
        changed = _with_control(changed, control.model_copy(update={"default": value}))
    return changed, f"{who} by “{control.label}”"


def unlink(effect: Effect, change: Unlink) -> tuple[Effect, str]:
    """The effect with a value taken off its control; the value in force stays."""
    step = step_of(effect, change.lane, change.step)
    param = param_of(step, change.value_name)
    link = current_of(step, param)
    if not isinstance(link, Link):
        raise Fault(f"{title_of(step)}: {param.title} follows no control.", param.name)
    value = _released(effect, link, param)
    changed = with_step(effect, change.lane, with_value(step, param, value))
    label = _control(effect, link.control).label
    return changed, f"{title_of(step)}: {param.title} unlinked from “{label}”"


def _released(effect: Effect, link: Link, param: Param) -> Any:
    """The value that a link gives at its control's default; keys if the control is a curve."""
    control = _control(effect, link.control)
    known = control.param()
    if isinstance(known, EaseCurve):
        low, high = link.range or (0.0, 1.0)
        ends = [{"time": 0, "value": low, "ease": control.default}, {"time": 1, "value": high}]
        return Keys.model_validate({"keys": ends})
    setting = known.check(control.default, control.label)
    value = value_of_link(link, known, setting, param, START)
    return round(value) if getattr(param, "whole", False) else value


def _with_control(effect: Effect, control: Control) -> Effect:
    """The effect with a control replaced."""
    controls = (control if old.slug == control.slug else old for old in effect.controls)
    return effect.model_copy(update={"controls": tuple(controls)})


def _known(effect: Effect, slug: str) -> bool:
    """Whether anything in an effect names a control by its slug."""
    way = effect.backwards
    plays = isinstance(way, Link) and way.control == slug
    return plays or bool(drives(effect, slug)) or any(slug in one.when for one in effect.controls)


CLEARED = ("allowed", "good", "edge")
WORDS = {"when": "when it is shown", "good": "good zone", "allowed": "allowed range"}


def set_control(effect: Effect, change: SetControl) -> tuple[Effect, str]:
    """The effect with a control changed, or moved on the faceplate."""
    control = _control(effect, change.slug)
    given = change.model_dump(exclude={"do", "slug", "at"}, exclude_unset=True)
    update = {name: value for name, value in given.items() if value is not None or name in CLEARED}
    new = Control.model_validate(control.model_dump() | update)
    changed = _with_control(effect, new)
    if change.label and not _known(effect, new.slug):
        # The slug follows the name.
        others = [old for old in effect.controls if old.slug != new.slug]
        own = new.model_copy(update={"slug": slug_of(change.label, [o.slug for o in others])})
        controls = [own if old.slug == new.slug else old for old in changed.controls]
        new, changed = own, changed.model_copy(update={"controls": tuple(controls)})
    if change.at is not None:
        controls = [old for old in changed.controls if old.slug != new.slug]
        controls.insert(min(max(change.at, 0), len(controls)), new)
        changed = changed.model_copy(update={"controls": tuple(controls)})
    said = [_said(name, value) for name, value in update.items()] or ["moved"]
    return changed, f"Control “{control.label}”: {', '.join(said)}"


def _said(name: str, value: Any) -> str:
    """The sentence part with which History names a changed field of a control."""
    if name == "hidden":
        return "hidden from the editor" if value else "shown to the editor"
    words = WORDS.get(name, name)
    if value is None or value == "":
        return f"{words} removed"
    if name in ("when", "edge"):
        return f"{words} changed"
    return f"{words} {words_of(value)}"


def set_words(effect: Effect, change: SetWords) -> tuple[Effect, str]:
    """The effect with other words for a choice; what follows it keeps its values."""
    control = _control(effect, change.slug)
    if control.type != "choice":
        raise Fault(f"“{control.label}” is not a choice, so it has no words.", change.slug)
    words = [one.word for one in change.words]
    for word in words:
        if words.count(word) > 1:
            raise Fault(f"“{control.label}” has the word “{word}” twice.", change.slug)
    was = {one.word: one.of or control.default for one in change.words}
    for word, old in was.items():
        if old not in control.options:
            raise Missing(f"“{control.label}” has no word “{old}” for “{word}”.", change.slug)
    now = {old: word for word, old in reversed(was.items())}
    changed = effect
    for lane, identifier, name in drives(effect, change.slug):
        step = step_of(changed, lane, identifier)
        param = param_of(step, name)
        link = current_of(step, param)
        if not isinstance(link, Link):
            continue
        # A word without a value in a table that was written by hand stays without one.
        values = {one: one for one in control.options} if link.table is None else link.table
        table = {word: values[old] for word, old in was.items() if old in values}
        same = link.table is None and all(word == old for word, old in was.items())
        if not same:
            link = Link(control=change.slug, table=table)
        changed = with_step(changed, lane, with_value(step, param, link))
    for other in effect.controls:
        if change.slug in other.when:
            kept = tuple(now[one] for one in other.when[change.slug] if one in now)
            when = {slug: settings for slug, settings in other.when.items() if slug != change.slug}
            if kept:
                when[change.slug] = kept
            changed = _with_control(changed, other.model_copy(update={"when": when}))
    default = now.get(control.default, words[0])
    update = {"options": tuple(words), "default": default}
    changed = _with_control(changed, control.model_copy(update=update))
    return changed, f"Control “{control.label}”: {', '.join(words)}"


def drives(effect: Effect, slug: str) -> list[tuple[str, str, str]]:
    """Lane, step and name of every value that a control drives, by a link or a formula."""
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
    return f"{lane_of(effect, lane).name} · {title_of(meant)}: {param_of(meant, value).title}"


def remove_control(effect: Effect, change: RemoveControl) -> tuple[Effect, str]:
    """The effect without a control; the values that it drove stay as they are."""
    control = _control(effect, change.slug)
    changed = effect
    if isinstance(effect.backwards, Link) and effect.backwards.control == change.slug:
        changed = changed.model_copy(update={"backwards": control.default})
    for lane, identifier, name in drives(effect, change.slug):
        step = step_of(changed, lane, identifier)
        param = param_of(step, name)
        link = current_of(step, param)
        if isinstance(link, Formula):
            raise Clash(
                f"{title_of(step)}: {param.title} reads “{control.label}” in its formula. "
                "Change the formula first.",
                name,
            )
        value = _released(effect, link, param)
        changed = with_step(changed, lane, with_value(step, param, value))
    for other in effect.controls:
        if change.slug in other.when:
            when = {slug: one for slug, one in other.when.items() if slug != change.slug}
            changed = _with_control(changed, other.model_copy(update={"when": when}))
    controls = tuple(old for old in changed.controls if old.slug != change.slug)
    return changed.model_copy(update={"controls": controls}), f"Control “{control.label}” removed"
