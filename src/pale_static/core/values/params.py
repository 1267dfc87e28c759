"""Parameters: the types and limits of values of steps and controls.

Every number has a *slider* range and a wider *allowed* range for typed values. A value outside the
allowed range is refused by name, never clamped.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache
from math import inf, isfinite
from typing import TYPE_CHECKING, Any, ClassVar

from ..faults import Fault, OutOfRange
from ..pictures.borders import RULES
from ..pictures.colour import parse_colour
from ..time.easing import Ease

if TYPE_CHECKING:
    from pydantic import TypeAdapter

Constant = Any
"""A plain JSON value: number, true/false, text, point [x, y], or colour stops."""

MOST_TEXT = 2000


def tidy(number: float) -> str:
    """A number as people write it: no trailing zeros, a real minus sign."""
    if number == inf or number == -inf:
        return "no limit"
    whole = number == int(number) and abs(number) < 1e15
    return (f"{int(number):d}" if whole else f"{number:.6g}").replace("-", "−")


@dataclass(frozen=True, kw_only=True)
class Param:
    """The part that all parameters share."""

    type: ClassVar[str] = "any"
    name: str
    default: Constant
    label: str = ""
    help: str = ""
    moves: bool = True
    when: Mapping[str, tuple[Constant, ...]] = field(default_factory=dict)
    """Choices of other values at which this value has an effect; an empty list means any choice
    except 0 and none. The name of an input means that it has a source."""

    @property
    def title(self) -> str:
        """The name on screen."""
        return self.label or self.name.replace("_", " ")

    def check(self, value: Constant, who: str) -> Constant:
        """The value in its standard form; a fault names ``who``, value and limits."""
        raise NotImplementedError

    def between(self, first: Constant, second: Constant, share: float) -> Constant:
        """The value at a share of the way between two; types without values in between hold the
        first."""
        return second if share >= 1 else first

    def describe(self) -> dict[str, Any]:
        """Everything that an interface needs, as plain JSON."""
        return {
            "name": self.name,
            "label": self.title,
            "type": self.type,
            "default": self.default,
            "help": self.help,
            "moves": self.moves,
            "when": {name: list(choices) for name, choices in self.when.items()},
        }


@dataclass(frozen=True, kw_only=True)
class Number(Param):
    """A real number with a unit."""

    type: ClassVar[str] = "number"
    default: float = 0.0
    slider: tuple[float, float] = (0.0, 1.0)
    allowed: tuple[float, float] = (-inf, inf)
    unit: str = ""
    whole: bool = False
    adds_up: bool = False
    """Whether it is an amount per second. If it moves, the step gets its mean so far; the mean
    times the time is the integral."""

    def check(self, value: Constant, who: str) -> float:
        if isinstance(value, bool) or not isinstance(value, (int, float)) or not isfinite(value):
            raise Fault(f"{who} needs a number. It got {_short(value)}.", who)
        low, high = self.allowed
        if not low <= value <= high:
            unit = f" {self.unit}" if self.unit else ""
            raise OutOfRange(
                f"{who} lies between {tidy(low)} and {tidy(high)}{unit}. It got {tidy(value)}.",
                who,
            )
        return round(value) if self.whole else float(value)

    def between(self, first: Constant, second: Constant, share: float) -> float:
        value = first + (second - first) * share
        low, high = self.allowed
        # An ease that overshoots may pass the limit between two keys that keep it.
        value = min(max(value, low), high)
        return round(value) if self.whole else value

    def describe(self) -> dict[str, Any]:
        low, high = self.allowed
        limits = [low if isfinite(low) else None, high if isfinite(high) else None]
        return super().describe() | {
            "slider": list(self.slider),
            "allowed": limits,
            "unit": self.unit,
            "whole": self.whole,
        }


@dataclass(frozen=True, kw_only=True)
class Toggle(Param):
    """On or off."""

    type: ClassVar[str] = "toggle"
    default: bool = False

    def check(self, value: Constant, who: str) -> bool:
        if not isinstance(value, bool):
            raise Fault(f"{who} is on or off. It got {_short(value)}.", who)
        return value


@dataclass(frozen=True, kw_only=True)
class Choice(Param):
    """One of several words."""

    type: ClassVar[str] = "choice"
    options: tuple[str, ...] = ()

    def check(self, value: Constant, who: str) -> str:
        if value not in self.options:
            listed = ", ".join(self.options)
            raise Fault(f"{who} is one of: {listed}. It got {_short(value)}.", who)
        return str(value)

    def describe(self) -> dict[str, Any]:
        return super().describe() | {"options": list(self.options)}


@dataclass(frozen=True, kw_only=True)
class ColourParam(Param):
    """A straight colour, ``#RRGGBB`` or ``#RRGGBBAA``."""

    type: ClassVar[str] = "colour"
    default: str = "#FFFFFF"

    def check(self, value: Constant, who: str) -> str:
        if not isinstance(value, str):
            raise Fault(f"{who} is a colour, written #RRGGBB. It got {_short(value)}.", who)
        try:
            parse_colour(value)
        except Fault as fault:
            raise Fault(f"{who}: {fault.sentence}", who) from None
        return value.upper()

    def between(self, first: Constant, second: Constant, share: float) -> str:
        from ..pictures.colour import format_colour

        one, two = parse_colour(first), parse_colour(second)
        red, green, blue, alpha = (a + (b - a) * share for a, b in zip(one, two, strict=True))
        return format_colour((red, green, blue, alpha))


@dataclass(frozen=True, kw_only=True)
class Point(Param):
    """A position [x, y]: 0..1 of the frame, origin top left, y down."""

    type: ClassVar[str] = "point"
    default: tuple[float, float] = (0.5, 0.5)
    allowed: tuple[float, float] = (-10.0, 10.0)

    def check(self, value: Constant, who: str) -> tuple[float, float]:
        pair = isinstance(value, Sequence) and not isinstance(value, str) and len(value) == 2
        if not pair or not all(_is_number(part) for part in value):
            raise Fault(f"{who} is a point: two numbers, x and y. It got {_short(value)}.", who)
        low, high = self.allowed
        if not all(low <= part <= high for part in value):
            raise OutOfRange(
                f"{who} lies between {tidy(low)} and {tidy(high)} both ways. "
                f"It got {tidy(value[0])}, {tidy(value[1])}.",
                who,
            )
        return float(value[0]), float(value[1])

    def between(self, first: Constant, second: Constant, share: float) -> tuple[float, float]:
        return (
            first[0] + (second[0] - first[0]) * share,
            first[1] + (second[1] - first[1]) * share,
        )


@dataclass(frozen=True, kw_only=True)
class Text(Param):
    """A run of text."""

    type: ClassVar[str] = "text"
    default: str = ""
    moves: bool = False
    lines: bool = False
    """Whether it may run over several lines."""

    def check(self, value: Constant, who: str) -> str:
        if not isinstance(value, str):
            raise Fault(f"{who} is text. It got {_short(value)}.", who)
        if len(value) > MOST_TEXT:
            raise OutOfRange(f"{who} holds {MOST_TEXT} characters at most. It got {len(value)}.")
        return value

    def describe(self) -> dict[str, Any]:
        return super().describe() | {"lines": self.lines}


@dataclass(frozen=True, kw_only=True)
class SlotName(Text):
    """The name of a slot of the effect; of the slots in ``options``, if there are any."""

    type: ClassVar[str] = "slot"
    options: tuple[str, ...] = ()

    def check(self, value: Constant, who: str) -> str:
        name = super().check(value, who)
        if self.options and name not in self.options:
            raise Fault(f"{who} is one of: {', '.join(self.options)}. It got {_short(name)}.", who)
        return name


@dataclass(frozen=True, kw_only=True)
class AssetName(Text):
    """The name of a picture among the materials."""

    type: ClassVar[str] = "asset"


@dataclass(frozen=True, kw_only=True)
class TableName(AssetName):
    """The name of a lookup table among the materials."""

    type: ClassVar[str] = "table"


@dataclass(frozen=True, kw_only=True)
class FontName(Text):
    """The name of a font: a built-in family, or one among the materials."""

    type: ClassVar[str] = "font"
    default: str = "Rubik"

    def describe(self) -> dict[str, Any]:
        from ..lettering import FAMILIES

        return super().describe() | {"options": list(FAMILIES)}


@dataclass(frozen=True, kw_only=True)
class Stops(Param):
    """Colour stops along a ramp: a list of [position 0..1, colour], at least one.

    A stop may have a third part, the ease to the next stop; the default is linear.
    """

    type: ClassVar[str] = "stops"
    default: tuple[tuple[Any, ...], ...] = ((0.0, "#000000"), (1.0, "#FFFFFF"))
    moves: bool = False

    def check(self, value: Constant, who: str) -> tuple[tuple[Any, ...], ...]:
        if not isinstance(value, Sequence) or isinstance(value, str) or not 1 <= len(value) <= 32:
            raise Fault(f"{who} needs 1 to 32 colour stops. It got {_short(value)}.", who)
        colour, checked = ColourParam(name="colour"), []
        for stop in value:
            pair = isinstance(stop, Sequence) and not isinstance(stop, str) and 2 <= len(stop) <= 3
            if not pair or not _is_number(stop[0]):
                raise Fault(f"{who}: a stop is a position and a colour. It got {_short(stop)}.")
            if not 0 <= stop[0] <= 1:
                raise OutOfRange(f"{who}: a stop lies between 0 and 1. It got {tidy(stop[0])}.")
            one: tuple[Any, ...] = (float(stop[0]), colour.check(stop[1], who))
            if len(stop) == 3 and stop[2] != "linear":
                one = (*one, EaseCurve(name="ease").check(stop[2], f"{who}: the ease of a stop"))
            checked.append(one)
        return tuple(sorted(checked, key=lambda stop: stop[0]))


@cache
def _eases() -> TypeAdapter[Ease]:
    """The validator of eases, made once: making it takes much longer than using it."""
    from pydantic import TypeAdapter

    return TypeAdapter(Ease)


@dataclass(frozen=True, kw_only=True)
class EaseCurve(Param):
    """An ease as a control: the value that it drives follows it over the whole effect."""

    type: ClassVar[str] = "ease"
    default: Ease = "linear"
    moves: bool = False

    def check(self, value: Constant, who: str) -> Ease:
        from pydantic import ValidationError

        try:
            return _eases().validate_python(value)
        except ValidationError:
            raise Fault(
                f"{who} is an ease: linear, hold, a family in and out, or a curve. "
                f"It got {_short(value)}.",
                who,
            ) from None

    def describe(self) -> dict[str, Any]:
        ease = self.default
        return super().describe() | {
            "default": ease if isinstance(ease, str) else ease.model_dump(mode="json")
        }


def whole(
    name: str,
    default: int,
    slider: tuple[float, float],
    allowed: tuple[float, float],
    **more: Any,
) -> Number:
    """A whole number."""
    return Number(name=name, default=default, slider=slider, allowed=allowed, whole=True, **more)


FROM_THE_START = "counts from the start"


def moving_speed() -> Choice:
    """The way a moving speed counts. Only documents of earlier versions use the other way."""
    return Choice(
        name="moving_speed", default="adds up", options=("adds up", FROM_THE_START), moves=False,
        help="How a speed that moves counts. It adds up over time. As earlier versions had it, it "
        "counts from the start: the speed of the moment times all the time so far.",
        when={"moving_speed": (FROM_THE_START,)},
    )  # fmt: skip


def seed() -> Number:
    """The seed of steps that use random numbers."""
    return whole(
        "seed",
        1,
        (1, 100),
        (0, 2**31 - 1),
        help="Each number gives another random arrangement.",
        moves=False,
    )


def outside(default: str, help: str = "What lies outside the picture.") -> Choice:
    """The border rule of a step that reads outside its picture."""
    return Choice(name="outside", default=default, options=RULES, help=help, moves=False)


def _is_number(value: Constant) -> bool:
    return isinstance(value, (int, float)) and not isinstance(value, bool) and isfinite(value)


def _short(value: Constant) -> str:
    text = "nothing" if value is None else f"“{value}”" if isinstance(value, str) else str(value)
    return text if len(text) <= 60 else text[:57] + "…"


@dataclass(frozen=True, kw_only=True)
class Described:
    """Named parameters, looked up by name."""

    params: tuple[Param, ...] = field(default_factory=tuple)

    def get(self, name: str) -> Param | None:
        return next((param for param in self.params if param.name == name), None)
