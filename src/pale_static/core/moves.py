"""What moves in an effect: its curves over the effect's life."""

from __future__ import annotations

from dataclasses import dataclass

from .document import Effect
from .engine.plan import Resolver
from .faults import Fault
from .params import Number
from .picture import Size
from .steps import MIX, step_kind
from .timing import FrameRate, Moment
from .values import Formula, Key, Keys, Link, placed


@dataclass(frozen=True)
class Line:
    """One moving number: samples from the first frame to the last, and its keys by share."""

    lane: str
    step: str
    value: str
    label: str
    samples: list[float]
    keys: list[tuple[float, Key]]
    squeezed: bool


def moving(effect: Effect, length: int, rate: FrameRate, points: int = 101) -> list[Line]:
    """Every number of the effect that moves, in document order.

    Parameters
    ----------
    length : int
        Frames of the effect that is asked about.
    points : int
        How many samples, first and last frame included.
    """
    found: list[Line] = []
    moments = [_between(k / (points - 1), length, rate) for k in range(points)]
    # A formula may count frames, so it is asked at whole ones.
    frames = [Moment(round(k / (points - 1) * (length - 1)), length, rate) for k in range(points)]
    resolver = Resolver(effect, SHOWN)
    for lane in effect.lanes:
        for step in lane.every:
            kind = step_kind(step.kind)
            for name, value in [("mix", step.mix), *step.values.items()]:
                param = MIX if name == "mix" else kind.get(name)
                if not isinstance(param, Number) or not _moves(effect, value):
                    continue
                who = f"{lane.name} · {step.name or kind.label}"
                try:
                    samples = [
                        float(resolver.resolve(value, param, moment, who))
                        for moment in (frames if isinstance(value, Formula) else moments)
                    ]
                except Fault:
                    continue  # its card says what is wrong with it
                keys: list[tuple[float, Key]] = []
                squeezed = False
                if isinstance(value, Keys):
                    span = max(Moment(0, length, rate).span, 1e-9)
                    line, squeezed = placed(value, Moment(0, length, rate))
                    keys = [(time / span, key) for time, key in line]
                label = f"{step.name or kind.label}: {param.title}"
                found.append(Line(lane.id, step.id, name, label, samples, keys, squeezed))
    return found


SHOWN = Size(1920, 1080)
"""The frame that formulas see where only curves are asked for."""


def _moves(effect: Effect, value: object) -> bool:
    if isinstance(value, Link):
        control = effect.control(value.control)
        return control is not None and control.type == "ease"
    return isinstance(value, (Keys, Formula))


def _between(share: float, length: int, rate: FrameRate) -> Moment:
    """The moment at a share of the effect, to a sixteenth of a frame where the rate allows."""
    fine = 16 if rate.exact * 16 <= 1000 else 1
    whole = (length - 1) * fine + 1
    return Moment(round(share * (whole - 1)), whole, FrameRate(rate.exact * fine))
