"""What a library's effects and reels show: one frame at a time."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from fractions import Fraction
from typing import Any

from ..core.document import Effect
from ..core.engine.nodes import Place, Plan
from ..core.engine.plan import make_plan
from ..core.engine.resolve import runs_backwards
from ..core.engine.states import States
from ..core.faults import OutOfRange
from ..core.footage import Cut, Footage
from ..core.macro import Macro
from ..core.picture import Size
from ..core.reel import Join, Reel, Shot, ShowJoin, join_span, seconds_of, shown
from ..core.timing import Moment
from ..store import Library, macros


def effect_plan(
    library: Library,
    effect: Effect,
    moment: Moment,
    size: Size,
    step: Place | None = None,
    settings: Mapping[str, Any] | None = None,
    slots: dict[str, Footage] | None = None,
    states: States | None = None,
) -> Plan:
    """The plan for an effect on its stand-ins, or on other clips; its key names the picture."""
    return make_plan(
        effect, moment, size,
        step=step, settings=settings, materials=library.materials_for(effect, slots),
        states=states,
    )  # fmt: skip


_SHOT = Effect.model_validate(
    {
        "name": "Shot",
        "kind": "look",
        "slots": [{"id": "clip", "name": "Clip"}],
        "lanes": [{"id": "out", "name": "Out", "steps": [{"id": "clip", "kind": "slot"}]}],
    }
)
"""A shot alone, as the smallest effect: so one engine, one cache and one fit rule serve both."""


def shot_effect(fit: str) -> Effect:
    """The effect that shows one clip, fitted so."""
    if fit == "cover":
        return _SHOT
    step = _SHOT.lanes[0].steps[0].model_copy(update={"values": {"fit": fit}})
    lane = _SHOT.lanes[0].model_copy(update={"steps": (step,)})
    return _SHOT.model_copy(update={"lanes": (lane,)})


def reel_plan(
    library: Library,
    reel: Reel,
    frame: int,
    size: Size,
    macro_of: Callable[[str, int], Macro] | None = None,
    states: States | None = None,
) -> Plan:
    """The plan for one frame of a reel."""
    show = shown(reel, frame)
    rate = reel.frame_rate
    if isinstance(show, ShowJoin):
        return join_plan(library, reel, show, size, macro_of, states)
    clip = Cut(library.footage(show.shot.material), show.seconds)
    effect = shot_effect(show.shot.fit)
    materials = library.materials_for(effect, {"clip": clip})
    return make_plan(effect, Moment(0, 1, rate), size, materials=materials)


def join_plan(
    library: Library,
    reel: Reel,
    show: ShowJoin,
    size: Size,
    macro_of: Callable[[str, int], Macro] | None = None,
    states: States | None = None,
) -> Plan:
    """The plan for one frame of a join."""
    macro = (macro_of or (lambda slug, number: macros.version(library.db, slug, number)))(
        show.join.macro, show.join.version
    )
    slots: dict[str, Footage] = {
        "from": Cut(library.footage(show.left.material), show.left_start),
        "to": Cut(library.footage(show.right.material), show.right_start),
    }
    effect = macro.effect
    rate = reel.frame_rate
    moment = Moment(show.frame, rate.frames(show.join.length), rate)
    ends = (show.left, show.right)
    if runs_backwards(effect, show.join.settings):
        # Its clips change places, and each keeps the fit of its shot.
        ends = (show.right, show.left)
    return make_plan(
        _with_fits(effect, *ends), moment, size,
        settings=show.join.settings, materials=library.materials_for(effect, slots), states=states,
    )  # fmt: skip


def _with_fits(effect: Effect, left: Shot, right: Shot) -> Effect:
    """The transition with its slots fitted as the shots around it are, so that nothing jumps."""
    fits = {"from": left.fit, "to": right.fit}
    if set(fits.values()) == {"cover"}:
        return effect
    lanes = tuple(
        lane.model_copy(
            update={
                "steps": tuple(
                    step.model_copy(
                        update={"values": step.values | {"fit": fits[step.values["slot"]]}}
                    )
                    if step.kind == "slot" and step.values.get("slot") in fits
                    else step
                    for step in lane.steps
                )
            }
        )
        for lane in effect.lanes
    )
    return effect.model_copy(update={"lanes": lanes})


def lasts(library: Library, reel: Reel) -> dict[str, Fraction | None]:
    """How many seconds each material of an edit lasts, exactly; None for stills."""
    return {
        name: seconds_of(library.footage(name)) for name in {shot.material for shot in reel.shots}
    }


def try_on(reel: Reel, left: str, macro: str, version: int, length: int) -> ShowJoin:
    """Frame 0 of a macro as it would be on the cut after a shot, across it."""
    index = reel.shot_index(left)
    if index + 1 >= len(reel.shots):
        raise OutOfRange(f"{reel.shots[index].name} is the last shot: there is no cut after it.")
    one, two = reel.shots[index], reel.shots[index + 1]
    join = Join(
        id="try-on", left=left, macro=macro, version=version,
        length=min(Fraction(length) / reel.frame_rate.exact, 2 * one.length, 2 * two.length),
    )  # fmt: skip
    trial = reel.model_copy(update={"joins": (join,)})
    return shown(trial, join_span(trial, join).first)  # type: ignore[return-value]
