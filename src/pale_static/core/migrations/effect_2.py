"""The migration of effects and parts from version 1 to 2: plainer names of values and choices."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from typing import Any

from .plain import Plain

_DOTTED = re.compile(r"(?<![\w.])(\w+)\.(\w+)\.(\w+)(?![\w.])")

_EVOLVE = "_".join(("evolve", "rate"))
_POSITION, _VALUE = (f"{word}_step" for word in ("position", "value"))
_SPIN = "-".join(("spin", "blur"))
"""The old names are joined from pieces, so that a text search for one of them finds only code that
still uses it."""

_OUTSIDE = {"edges": "outside"}
_VALUES: dict[str, dict[str, str]] = {
    "blocks": {"cover": "density"},
    "blur": _OUTSIDE | {"apart": "separate_vertical_size", "size_y": "vertical_size"},
    "channel": {"give": "output", "take": "channel"},
    "checks": {"duty": "white_share"},
    "choose": {"take": "choice"},
    "colour-split": _OUTSIDE | {"way": "direction"},
    "corner-pull": _OUTSIDE,
    "displace": _OUTSIDE,
    "dither": {"by": "method"},
    "dots": {"duty": "white_share"},
    "feather": {"where": "side"},
    "key": {"result": "output"},
    "lens-bend": _OUTSIDE,
    "levels": {"on": "channels"},
    "mapped-blur": _OUTSIDE,
    "matte-maths": {"how": "operation"},
    "matte-to-alpha": {"how": "operation"},
    "noise": {"evolution": "phase", _EVOLVE: "speed", "contrast": "hardness"},
    "pixelate": {_POSITION: "cell", "place": "grid"},
    "polar": _OUTSIDE | {"way": "direction"},
    "posterise": {_VALUE: "tone_gap"},
    "rim": {"where": "side"},
    "ripple": _OUTSIDE,
    "shape": {"give": "output"},
    "slide-rows": _OUTSIDE,
    "slot": _OUTSIDE,
    _SPIN: _OUTSIDE,
    "still": _OUTSIDE,
    "streak-blur": _OUTSIDE,
    "stripes": {"duty": "white_share"},
    "threshold": {"by": "measured_by"},
    "title": {"give": "output"},
    "trail": _OUTSIDE | {"gain": "contrast", "lift": "brightness"},
    "transform": _OUTSIDE,
    "twirl": _OUTSIDE,
    "zoom-blur": _OUTSIDE,
}
"""New names of values, by the kind of step in version 1."""
_CHOICES: dict[tuple[str, str], dict[str, str]] = {
    ("matte-to-alpha", "how"): {"inside": "limit to", "outside": "cut away"},
    ("pixelate", "place"): {
        "round": "half cells at the borders", "floor": "whole cells", "centre": "about the middle",
    },
}  # fmt: skip
_KINDS = {_SPIN: "rotary-blur"}
_SHOWN = {"grow": "grow_shrink", "tint": "tint_by_brightness"}
"""Labels of version 1, as formulas write them, that differ from the kind's own name."""


def effect_2(plain: Plain) -> Plain:
    """An effect, or a part, of version 1 with the names of version 2."""
    return plain | _lanes_2(plain)


def _lanes_2(plain: Plain) -> Plain:
    """Lanes of version 2, with the controls they need, from an effect or a part of version 1."""
    lanes = plain.get("lanes")
    if not isinstance(lanes, list) or not all(isinstance(lane, dict) for lane in lanes):
        return {}
    names = _Names(lanes)
    controls = plain.get("controls")
    options = {
        str(control.get("slug")): control.get("options")
        for control in (controls if isinstance(controls, list) else [])
        if isinstance(control, dict)
    }
    helpers: list[Plain] = []
    moved: dict[tuple[str, str], str] = {}
    done = []
    for lane in lanes:
        steps = lane.get("steps")
        if not isinstance(steps, list):
            done.append(lane)
            continue
        new = [_step_2(step, options) for step in steps]
        for step in [step for step in new if isinstance(step, dict)]:
            if step.get("kind") == "noise" and isinstance(step.get("values"), dict):
                new = _noise_2(lane, step, new, helpers, moved)
        done.append(lane | {"steps": new})
    for step in _steps_of(done):
        for source in _inputs_of(step):
            place = (str(source.get("lane")), str(source.get("step")))
            if place in moved:
                source["step"] = moved[place]
        for holder, key in _formulas(step):
            holder[key] = _DOTTED.sub(names.meant, holder[key])
    return {"lanes": [*helpers, *done]}


def _step_2(step: Any, options: Mapping[Any, Any]) -> Any:
    """A step, and the steps that it holds, with new names."""
    if not isinstance(step, dict):
        return step
    kind, plain = step.get("kind"), dict(step)
    if "taps" in plain and "inputs" not in plain:
        plain["inputs"] = plain.pop("taps")
    if isinstance(plain.get("steps"), list):
        plain["steps"] = [_step_2(held, options) for held in plain["steps"]]
    if not isinstance(kind, str):
        return plain
    plain["kind"] = _KINDS.get(kind, kind)
    values, renamed = plain.get("values"), _VALUES.get(kind, {})
    if isinstance(values, dict):
        plain["values"] = {
            renamed.get(name, name): _choice_2(value, _CHOICES.get((kind, name)), options)
            for name, value in values.items()
        }
    # Formulas are changed in place later, so each step needs a copy of its own.
    return _copied(plain)


def _copied(plain: Any) -> Any:
    if isinstance(plain, dict):
        return {name: _copied(value) for name, value in plain.items()}
    return [_copied(one) for one in plain] if isinstance(plain, list) else plain


def _choice_2(value: Any, renamed: Mapping[str, str] | None, options: Mapping[Any, Any]) -> Any:
    """A choice by its new name, for constants, keys and links alike."""
    if renamed is None:
        return value

    def new(choice: Any) -> Any:
        return renamed.get(choice, choice) if isinstance(choice, str) else choice

    if isinstance(value, dict) and isinstance(value.get("keys"), list):
        keys = [
            key | {"value": new(key.get("value"))} if isinstance(key, dict) else key
            for key in value["keys"]
        ]
        return value | {"keys": keys}
    if isinstance(value, dict) and "control" in value:
        table = value.get("table")
        if isinstance(table, dict):
            return value | {"table": {name: new(choice) for name, choice in table.items()}}
        # The control keeps its words; a table maps them to the new names.
        words = options.get(str(value["control"]))
        if isinstance(words, list) and all(isinstance(word, str) for word in words):
            return value | {"table": {word: new(word) for word in words}}
        return value
    return new(value)


class _Names:
    """The value that a formula of version 1 means by ``lane.step.value``."""

    def __init__(self, lanes: list[Plain]) -> None:
        self.lanes = [
            (str(lane.get("id")), str(lane.get("name")), list(_steps_of([lane]))) for lane in lanes
        ]

    def step(self, lane_name: str, step_name: str) -> Plain | None:
        """A step by its identifier, or else by its name on screen."""
        lanes = [one for one in self.lanes if lane_name in (one[0], one[0].replace("-", "_"))]
        lanes += [one for one in self.lanes if _spelled(one[1]) == lane_name.lower()]
        for _, _, steps in lanes:
            for step in steps:
                name = str(step.get("id"))
                if step_name in (name, name.replace("-", "_")):
                    return step
            for step in steps:
                kind = str(step.get("kind"))
                shown = _spelled(str(step.get("name") or _SHOWN.get(kind, kind)))
                if shown == step_name.lower():
                    return step
        return None

    def meant(self, found: re.Match[str]) -> str:
        """A dotted name as version 2 writes it."""
        lane, name, value = found.groups()
        step = self.step(lane, name)
        if step is None or lane == "control":
            return found[0]
        kind = str(step.get("kind"))
        if kind in _KINDS and not step.get("name"):
            name = str(step.get("id")).replace("-", "_")
        if (kind, value) == ("noise", "brightness"):
            return f"(({lane}.{name}.white_share - 0.5) * {lane}.{name}.hardness)"
        return f"{lane}.{name}.{_VALUES.get(kind, {}).get(value, value)}"


def _spelled(shown: str) -> str:
    return re.sub(r"\W+", "_", shown.lower()).strip("_")


def _steps_of(lanes: list[Plain]) -> Iterator[Plain]:
    """All steps of lanes, including steps that others hold."""
    waiting = [lane.get("steps") for lane in reversed(lanes)]
    while waiting:
        steps = waiting.pop()
        for step in steps if isinstance(steps, list) else []:
            if isinstance(step, dict):
                yield step
                waiting.append(step.get("steps"))


def _inputs_of(step: Plain) -> list[Plain]:
    """The inputs of a step, as plain JSON."""
    inputs = step.get("inputs")
    return [one for one in (inputs if isinstance(inputs, dict) else {}).values()
            if isinstance(one, dict)]  # fmt: skip


def _formulas(step: Plain) -> Iterator[tuple[Plain, str]]:
    """The places of a step's formulas: a value as plain JSON, and ``"formula"``."""
    values = step.get("values")
    for value in [step.get("mix"), *(values.values() if isinstance(values, dict) else ())]:
        if isinstance(value, dict) and isinstance(value.get("formula"), str):
            yield value, "formula"


_FURTHEST = 10.0
"""The largest distance of a share of white from 0."""


def _noise_2(
    lane: Plain,
    noise: Plain,
    steps: list[Any],
    helpers: list[Plain],
    moved: dict[tuple[str, str], str],
) -> list[Any]:
    """The lane's steps; a noise has a share of white in place of brightness.

    Version 1 gave 0.5 + contrast·(v − 0.5) + brightness, version 2 gives
    0.5 + hardness·(v − 1 + white share): the share is 0.5 + brightness / contrast.
    """
    values = noise["values"]
    if "brightness" not in values:
        return steps
    contrast, bright = values.get("hardness", 1.0), values.pop("brightness")
    if _number(bright) and bright == 0:
        return steps
    if not _number(contrast):
        place = f"{_spelled(str(lane.get('id')))}.{_spelled(str(noise.get('id')))}"
        read = _readable(bright, place, helpers)
        share = f"clamp(0.5 + {read} / max({place}.hardness, 0.000001), -10, 10)"
        values["white_share"] = {"formula": share}
        return steps
    if contrast * (_FURTHEST - 0.5) < 0.5 + contrast / 2:
        # Its contrast is so low that no share of white moves it far enough: it is nearly one grey.
        return _greyed(lane, noise, contrast, bright, steps, moved)
    values["white_share"] = _affine(bright, 1 / contrast, 0.5)
    return steps


def _number(value: Any) -> bool:
    return isinstance(value, (int, float)) and not isinstance(value, bool)


def _affine(value: Any, scale: float, shift: float) -> Any:
    """A value of any kind times a number plus another number, clamped to the allowed range."""

    def at(number: Any) -> Any:
        if not _number(number):
            return number
        return min(max(shift + scale * number, -_FURTHEST), _FURTHEST)

    if not isinstance(value, dict):
        return at(value)
    if isinstance(value.get("keys"), list):
        keys = [
            key | {"value": at(key.get("value"))} if isinstance(key, dict) else key
            for key in value["keys"]
        ]
        return value | {"keys": keys}
    if isinstance(value.get("range"), list):
        return value | {"range": [at(end) for end in value["range"]]}
    if isinstance(value.get("table"), dict):
        return value | {"table": {name: at(number) for name, number in value["table"].items()}}
    text = value.get("formula") or f"control.{_spelled(str(value.get('control')))}"
    return {"formula": f"clamp({shift!r} + {scale!r} * ({text}), -10, 10)"}


def _readable(value: Any, place: str, helpers: list[Plain]) -> str:
    """A value as part of a formula. A value with keys or a range goes into a lane of its own."""
    if _number(value):
        return f"({value!r})"
    if isinstance(value, dict) and isinstance(value.get("formula"), str):
        return f"({value['formula']})"
    if isinstance(value, dict) and "control" in value and not {"range", "table"} & value.keys():
        return f"control.{_spelled(str(value['control']))}"
    name = f"brightness-{len(helpers) + 1}"
    helpers.append(
        {
            "id": name,
            "name": f"Brightness of {place}"[:120],
            "folded": True,
            "steps": [
                {"id": "flat", "kind": "flat"},
                {"id": "levels", "kind": "levels", "values": {"black_out": value}},
            ],
        }
    )
    return f"{name.replace('-', '_')}.levels.black_out"


def _greyed(
    lane: Plain,
    noise: Plain,
    contrast: float,
    bright: Any,
    steps: list[Any],
    moved: dict[tuple[str, str], str],
) -> list[Any]:
    """A noise of almost no contrast, with Levels below it that give it its grey."""
    noise["values"].pop("hardness", None)
    taken = {str(step.get("id")) for step in steps if isinstance(step, dict)}
    name = next(n for n in ("levels", *(f"levels-{k}" for k in range(2, 2000))) if n not in taken)
    values = {
        end: _affine(bright, 1.0, 0.5 + side * contrast / 2)
        for end, side in (("black_out", -1), ("white_out", 1))
    }
    moved[str(lane.get("id")), str(noise.get("id"))] = name
    at = steps.index(noise) + 1
    return [*steps[:at], {"id": name, "kind": "levels", "values": values}, *steps[at:]]
