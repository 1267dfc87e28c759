"""Values: the setting of a parameter, and its value at a moment.

A value is a constant, *keys* that move it, a *link* to one of the effect's controls, or a
*formula*.
"""

from __future__ import annotations

from collections.abc import Mapping
from itertools import pairwise
from typing import Annotated, Any, Literal, Union

from pydantic import BaseModel, ConfigDict, Field

from ..faults import Fault
from ..time.easing import Ease, ease_at
from ..time.timing import Moment
from .params import EaseCurve, Number, Param

NEAR = 1e-9
"""The largest distance in seconds between a moment and a key that coincide."""
Anchor = Literal["share", "start", "end"]


class _Model(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Key(_Model):
    """A value at a time, and the ease to the next key.

    ``time`` is a share of the length (anchor *share*), seconds after the first frame (*start*),
    or seconds before the last frame (*end*).
    """

    anchor: Anchor = "share"
    time: Annotated[float, Field(ge=0, le=86400)]
    value: Any
    ease: Ease = "linear"

    def words(self) -> str:
        """The time as shown on screen."""
        if self.anchor == "share":
            return f"{self.time * 100:.4g} %"
        sign = "+" if self.anchor == "start" else "−"
        return f"{self.anchor} {sign} {self.time:.4g} s"


class Keys(_Model):
    """A value that moves through keys; it holds before the first and after the last key."""

    keys: Annotated[tuple[Key, ...], Field(min_length=1, max_length=2000)]


class Link(_Model):
    """A value driven by one of the effect's controls.

    With ``range`` the control's place in its slider range, after an ease, maps to the two values;
    an inverted range runs the other way. A toggle gives the first value when off, the second when
    on. With ``table`` a choice or toggle picks a value. Without both, the control's own value is
    used. An *ease* control needs a range: the value goes through it over the length of the effect,
    along that ease.
    """

    control: Annotated[str, Field(max_length=80)]
    range: tuple[float, float] | None = None
    ease: Ease = "linear"
    table: dict[str, Any] | None = None


class Formula(_Model):
    """A value computed from time, other values and controls; see :mod:`formula`."""

    formula: Annotated[str, Field(max_length=200_000)]


Value = Union[Keys, Link, Formula, Any]


def read_value(raw: Any) -> Value:
    """A raw JSON value as constant, keys, link or formula."""
    if isinstance(raw, Mapping):
        if "keys" in raw:
            return Keys.model_validate(raw)
        if "control" in raw:
            return Link.model_validate(raw)
        if "formula" in raw:
            return Formula.model_validate(raw)
    return raw


def key_seconds(key: Key, moment: Moment) -> float:
    """The time of a key in seconds from the first frame, in an effect of this length."""
    span = moment.span
    if key.anchor == "share":
        return key.time * span
    return key.time if key.anchor == "start" else span - key.time


def placed(keys: Keys, moment: Moment) -> tuple[list[tuple[float, Key]], bool]:
    """Keys with their seconds, in time order, and whether any were squeezed.

    Keys keep their order in the document. If anchored keys would cross in a short effect, or pass
    its ends, they are squeezed together in order, never reordered.
    """
    span = moment.span
    times = [key_seconds(key, moment) for key in keys.keys]
    wanted = list(times)
    for k, time in enumerate(times):
        times[k] = max(0.0, time, times[k - 1] if k else 0.0)
    for k in range(len(times) - 2, -1, -1):
        if keys.keys[k + 1].anchor == "end" and times[k] > wanted[k + 1]:
            # A key anchored to the end stays in place: keys before it move up.
            times[k + 1] = max(wanted[k + 1], 0.0)
            times[k] = min(times[k], times[k + 1])
    times = [min(time, span) for time in times]
    squeezed = any(abs(a - b) > 1e-9 for a, b in zip(times, wanted, strict=True))
    return list(zip(times, keys.keys, strict=True)), squeezed


def value_of_keys(keys: Keys, param: Param, moment: Moment) -> Any:
    """The result of keys at a moment."""
    line, _ = placed(keys, moment)
    now = moment.seconds
    if moment.length == 1:
        return line[0][1].value  # an effect of one frame has progress 0
    if now <= line[0][0]:
        # Of several keys at one time the last one counts.
        for (_, key), (later, _) in zip(
            line, [*line[1:], (float("inf"), line[-1][1])], strict=True
        ):
            if later > now:
                return key.value
    for (start, key), (end, following) in pairwise(line):
        if start - NEAR <= now < end - NEAR:
            # Exactly on a key in spite of rounding: an ease may jump at a key.
            past = now - start if now - start > NEAR else 0.0
            share = ease_at(key.ease, past / (end - start))
            return param.between(key.value, following.value, share)
    return line[-1][1].value


def value_of_link(link: Link, control: Param, setting: Any, param: Param, moment: Moment) -> Any:
    """The result of a link, for a control and its setting."""
    if link.table is not None:
        picked = str(setting).lower() if isinstance(setting, bool) else str(setting)
        if picked not in link.table:
            raise Fault(
                f"The control “{control.title}” is set to {picked}, and {param.title} has no "
                f"value for that choice. Set one in the control's table.",
                param.name,
            )
        return link.table[picked]
    if isinstance(control, EaseCurve):
        low, high = link.range or (0.0, 1.0)
        return low + (high - low) * ease_at(setting, moment.progress)
    if link.range is not None and isinstance(setting, bool):
        return link.range[setting]
    if link.range is not None and isinstance(control, Number):
        bottom, top = control.slider
        share = (setting - bottom) / (top - bottom) if top > bottom else 0.0
        # Outside the slider's range the line continues straight, so no setting is lost.
        eased = ease_at(link.ease, share) if 0 <= share <= 1 else share
        low, high = link.range
        return low + (high - low) * eased
    return setting
