"""Frame sources: their plans, macros that they leave out, and names of stretches."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from pale_static.core import Effect, Engine, FrameRate, Materials, Size, StillPicture
from pale_static.core.faults import Fault, NoRoom
from pale_static.core.frames import edit as edits
from pale_static.core.frames.edit import EditSource
from pale_static.core.frames.effect import EffectSource
from pale_static.core.frames.names import feeds_back
from pale_static.core.frames.source import RECENT
from pale_static.core.reel import Reel

from .documents import chain
from .edits import TINY, Shelf, do


class Watched:
    """A clip of noise that notes which frames are read."""

    identity, rate, length, size = "watched", FrameRate.of(25), 60, Size(32, 18)

    def __init__(self) -> None:
        self.asked: set[int] = set()

    def pixels(self, index: int) -> Any:
        self.asked.add(index)
        return np.random.default_rng(index).integers(0, 256, (18, 32, 3), np.uint8)


def look(*steps: dict[str, Any], name: str = "Look") -> Effect:
    named = [{"id": f"s{k}"} | step for k, step in enumerate(({"kind": "slot"}, *steps))]
    return Effect.model_validate(
        {"name": name, "kind": "look", "slots": [{"id": "clip", "name": "Clip"}],
         "controls": [{"slug": "gain", "label": "Gain", "type": "number", "default": 1}],
         "lanes": [{"id": "out", "name": "Out", "steps": named}]}
    )  # fmt: skip


GAIN = {"kind": "levels", "values": {"white_out": {"control": "gain"}}}
TRAIL = {"kind": "trail", "values": {"keep": 0.9}}
FADE = Effect.model_validate(
    {"name": "Fade", "kind": "transition",
     "slots": [{"id": "from", "name": "From"}, {"id": "to", "name": "To"}],
     "lanes": [
         {"id": "to", "name": "To", "steps": [{"id": "t", "kind": "slot", "values": {"slot": "to"}}]},
         {"id": "out", "name": "Out", "steps": [
             {"id": "f", "kind": "slot", "values": {"slot": "from"}},
             {"id": "b", "kind": "blend", "values": {"opacity": {"formula": "progress"}},
              "inputs": {"over": {"lane": "to"}}}]}]}
)  # fmt: skip
MACROS = {"gain": look(GAIN), "trail": look(TRAIL), "fade": FADE}
SHELF = Shelf(effects=MACROS)


def reel(looks: dict[str, str] | None = None, **more: Any) -> Reel:
    """Three shots of 40 frames; looks by the shot that they lie on."""
    shots = [
        {"id": name, "material": f"clip-{name}", "name": name.upper(), "start": 1, "length": "40/25",
         "looks": [{"id": f"l{name}", "macro": looks[name], "version": 1}] if name in (looks or {}) else []}
        for name in "abc"
    ]  # fmt: skip
    return Reel.model_validate({"name": "R", "width": 32, "height": 18, "shots": shots} | more)


def source(one: Reel, shelf: Shelf = SHELF) -> EditSource:
    return EditSource(reel=one, shelf=shelf)


def picture(one: EditSource, frame: int) -> Any:
    return Engine().compute(one.at(frame).plan).picture


def test_stretches_without_a_missing_macro_have_names_of_their_own() -> None:
    lost = reel({"a": "gone", "b": "gone", "c": "gone"})
    names = [source(lost).stretch_name(first, 40, []) for first in (0, 40, 80)]
    assert len(set(names)) == 3
    # A shot under the missing macro changes: the name of its stretch changes too, and no other.
    moved = do(lost, do="set-shot", shot="b", slip=5)
    assert picture(source(lost), 50)[0, 0, 0] != picture(source(moved), 50)[0, 0, 0]
    now = [source(moved).stretch_name(first, 40, []) for first in (0, 40, 80)]
    assert [a == b for a, b in zip(names, now, strict=True)] == [True, False, True]
    # The name changes too when the macro is brought in.
    found = [source(lost, Shelf(effects={"gone": look(GAIN)})).stretch_name(first, 40, [])
             for first in (0, 40, 80)]  # fmt: skip
    assert not set(found) & set(names)


def test_a_missing_macro_that_feeds_later_frames_changes_their_names() -> None:
    over = {"rows": [{"id": "r", "items": [
        {"id": "i", "name": "Trail", "at": "20/25", "length": "90/25",
         "use": {"macro": "trail", "version": 1}}]}]}  # fmt: skip
    lost = reel({"a": "gone"}, **over)
    before = source(lost).stretch_name(60, 20, [])
    after = source(lost, Shelf(effects={**MACROS, "gone": look(GAIN)})).stretch_name(60, 20, [])
    assert before != after


def test_the_name_of_a_stretch_holds_its_program_and_how_it_is_written() -> None:
    one = EditSource(reel=reel(), shelf=SHELF, program=lambda: "one")
    two = EditSource(reel=reel(), shelf=SHELF, program=lambda: "two")
    assert one.stretch_name(0, 40, ["mp4"]) != two.stretch_name(0, 40, ["mp4"])
    assert one.stretch_name(0, 40, ["mp4"]) != one.stretch_name(0, 40, ["mkv"])
    assert one.at(3).key != two.at(3).key


JOIN = {"joins": [{"id": "j", "left": "a", "right": "b", "macro": "fade", "version": 1,
                   "length": "20/25"}]}  # fmt: skip
TITLED = {"rows": [{"id": "r", "items": [
    {"id": "i", "name": "Over", "at": "10/25", "length": "80/25", "opacity": 0.5,
     "source": {"material": "over", "start": 0}}]}]}  # fmt: skip
EDITS = {
    "looks": reel({"a": "gain", "b": "trail"}),
    "joined": reel({"a": "trail", "b": "gain"}, **JOIN),
    "rows": reel({"b": "gain"}, **TITLED),
}
CHANGES = {
    "slip": {"do": "set-shot", "shot": "b", "slip": 3},
    "speed": {"do": "set-shot", "shot": "b", "speed": 50},
    "setting": {"do": "set-use", "uses": ["la", "lb"], "settings": {"gain": 0.5}},
    "opacity": {"do": "set-item", "item": "i", "opacity": 0.25},
    "gone": {"do": "remove", "names": ["lb"]},
    "longer": {"do": "set-join", "join": "j", "length": 12},
}


@pytest.mark.parametrize("which", EDITS)
def test_frames_of_one_name_have_the_same_pixels(which: str) -> None:
    before = EDITS[which]
    kept = changed_frames = 0
    for change in CHANGES.values():
        try:
            after = do(before, **change)
        except (Fault, ValueError, KeyError):
            continue  # this edit has no such thing
        one, two = source(before), source(after)
        for frame in range(0, min(one.length, two.length), 3):
            same = one.going_in(frame) == two.going_in(frame)
            equal = (picture(one, frame) == picture(two, frame)).all()
            assert equal or not same, (change, frame)
            kept += same
            changed_frames += not equal
    # The names are not digests of the whole edit: unchanged stretches keep their names.
    assert kept > 20
    assert changed_frames > 20


def test_nothing_is_planned_for_a_name(monkeypatch: pytest.MonkeyPatch) -> None:
    def refuse(*_: Any, **__: Any) -> Any:
        raise AssertionError("planned")

    monkeypatch.setattr(edits, "make_plan", refuse)
    monkeypatch.setattr("pale_static.core.frames.effect.make_plan", refuse)
    assert source(EDITS["joined"]).stretch_name(0, 100, [])
    trail = EffectSource(effect=look(TRAIL), frames=400)
    assert trail.stretch_name(300, 100, []) != trail.stretch_name(200, 100, [])


def test_two_feedback_steps_go_on_from_their_own_last_frames() -> None:
    dot = {"kind": "shape"}
    turning = {"kind": "trail", "values": {"keep": 0.8, "turn": 3}}
    effect = chain(dot, TRAIL, turning)
    engine = Engine(1 << 20)  # an eighth of it is less than one state of this size
    size = Size(320, 180)
    frames = EffectSource(effect=effect, frames=60, given_rate=FrameRate.of(25),
                          states=engine.states)  # fmt: skip
    for frame in range(20):
        found = engine.compute(frames.at(frame, size).plan, passing=True)
        trails = [cost for cost in found.costs if cost.place[1] in ("s1", "s2") and not cost.cached]
        assert len(trails) == 2, frame
    alone = Engine().compute(frames.on(None).at(19, size).plan).picture
    np.testing.assert_array_equal(found.picture, alone)


def test_a_lack_of_memory_leaves_no_macro_out() -> None:
    def full(_: Any) -> None:
        fault = NoRoom("More memory is needed than there is.")
        fault.use = "la"
        raise fault

    with pytest.raises(NoRoom):
        source(EDITS["looks"]).computed(3, full, TINY)


def test_a_macro_that_fails_when_computed_is_left_out_and_named() -> None:
    engine, calls = Engine(), []

    def compute(frame: Any) -> Any:
        calls.append(frame)
        if len(calls) == 1:
            fault = Fault("Gain cannot be computed.")
            fault.use = "la"
            raise fault
        return frame, engine.compute(frame.plan).picture

    frame, shown = source(EDITS["looks"]).computed(3, compute)
    assert [fault.use for fault in frame.faults] == ["la"]
    np.testing.assert_array_equal(shown, picture(source(reel()), 3))


def test_a_rough_frame_sees_few_frames_and_changes_none_of_the_exact_ones() -> None:
    clip, small, engine = Watched(), Size(32, 18), Engine()
    turn = {"kind": "trail", "values": {"keep": 0.95, "turn": 4}}
    exact = EffectSource(
        effect=look(turn), frames=60, materials=Materials({"clip": clip}), states=engine.states
    )
    # A frame so near the start that it sees all of it, on a clip that stands still.
    still = StillPicture("still", clip.pixels(3))
    near = replace(exact, materials=Materials({"clip": still}))
    first, second = (
        engine.compute(one.at(RECENT - 1, small).plan).plane for one in (near, near.roughly())
    )
    assert np.array_equal(first, second)
    # A late one needs few passes and one frame of the clip, under a name of its own.
    clip.asked.clear()
    rough = exact.roughly()
    plan = rough.at(50, small).plan
    assert len(plan.nodes) <= 2 * RECENT + 2
    assert rough.picture_name(50, small) != exact.picture_name(50, small)
    engine.compute(plan)
    assert clip.asked == {50}
    wanted = Engine().compute(replace(exact, states=None).at(50, small).plan)
    assert np.array_equal(engine.compute(exact.at(50, small).plan).plane, wanted.plane)


def test_an_effect_says_whether_its_frames_continue_from_each_other() -> None:
    assert feeds_back(look(TRAIL))
    assert not feeds_back(look(GAIN))
    off = look(TRAIL | {"on": False})
    assert not feeds_back(off)
    macro = {"slug": "trail", "version": 1, "effect": look(TRAIL).to_json()}
    assert feeds_back(look({"kind": "macro", "macro": macro}))
