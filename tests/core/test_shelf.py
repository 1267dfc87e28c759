"""The shipped macros and recipes: exact ends, valid at any shape and length, no control without
effect."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import numpy as np
import pytest

from pale_static.core import (
    Engine,
    FrameRate,
    Materials,
    Moment,
    Size,
    StillPicture,
    read_effect,
)
from pale_static.core.built_in import RECIPES, built_in_effect
from pale_static.core.document import Control
from pale_static.core.documents.macro import publish
from pale_static.demo.looks import soot_lift
from pale_static.demo.shelf import LOOKS, OVERLAYS, SHELF, TRANSITIONS

SHAPES = [Size(192, 108), Size(108, 192), Size(120, 120)]
LENGTHS = [6, 25, 100]
RECIPE = {effect.name: effect for effect in map(built_in_effect, RECIPES)}
ALL = {make()["name"]: make for make in SHELF} | {n: e.to_json for n, e in RECIPE.items()}


def of_kind(*kinds: str) -> dict[str, Any]:
    return {name: effect.to_json for name, effect in RECIPE.items() if effect.kind in kinds}


ACROSS = {make()["name"]: make for make in TRANSITIONS} | of_kind("transition")
LAID = {make()["name"]: make for make in OVERLAYS} | of_kind("title", "texture")
LOOPS = ("Rail Dust", "Old Glass", "Caustic Pool")
OVER = {make()["name"]: make for make in LOOKS if make is not soot_lift} | of_kind("look")


def clip(seed: int) -> StillPicture:
    blocks = np.random.default_rng(seed).integers(30, 226, (18, 32, 3), np.uint8)
    return StillPicture(f"clip {seed}", np.kron(blocks, np.ones((10, 10, 1), np.uint8)))


CLIPS = Materials({
    "from": clip(1), "to": clip(2), "clip": clip(3), "behind": clip(4), "stamp": clip(5),
    "shape": clip(6),
})  # fmt: skip


def show(effect: Any, frame: int, length: int, size: Size, **more: Any) -> np.ndarray:
    moment = Moment(frame, length, FrameRate.of(25))
    return Engine().evaluate(effect, moment, size, materials=CLIPS, **more).picture


@pytest.mark.parametrize("name", ALL)
def test_what_ships_is_whole_and_can_be_published(name: str) -> None:
    effect = read_effect(ALL[name]())
    assert publish(effect, 1).effect == effect
    assert effect.sentence
    assert effect.notes
    for control in effect.controls:
        assert control.help.endswith(".")


@pytest.mark.parametrize("name", RECIPE)
def test_a_recipe_is_plain_lanes_with_notes_that_say_why(name: str) -> None:
    effect = RECIPE[name]
    # Only controls of every title are exposed; the maker exposes others.
    assert {control.slug for control in effect.controls} <= {"text", "size", "colour", "position"}
    noted = {note.lane for note in effect.notes}
    for lane in effect.lanes:
        bare = [step.kind for step in lane.steps] == ["slot"]
        assert bare or lane.id in noted or len(lane.steps) < 3, lane.name
    assert None in noted
    assert effect.lanes[-1].steps
    assert all(note.text.endswith(".") for note in effect.notes)


@pytest.mark.parametrize("size", SHAPES, ids=str)
@pytest.mark.parametrize("name", ACROSS)
def test_transitions_begin_and_end_on_their_clips_to_the_last_bit(name: str, size: Size) -> None:
    effect = read_effect(ACROSS[name]())
    ends = [show(effect, 0, 25, size, step=(slot, "slot")) for slot in ("from", "to")]
    for length in LENGTHS:
        np.testing.assert_array_equal(show(effect, 0, length, size), ends[0])
        np.testing.assert_array_equal(show(effect, length - 1, length, size), ends[1])
        middle = show(effect, length // 2, length, size)
        assert np.isfinite(middle).all()
        assert np.abs(middle - ends[0]).max() > 0.05
        assert np.abs(middle - ends[1]).max() > 0.05


@pytest.mark.parametrize("size", SHAPES, ids=str)
@pytest.mark.parametrize("name", OVER)
def test_looks_cover_the_frame_at_any_shape_and_length(name: str, size: Size) -> None:
    effect = read_effect(OVER[name]())
    for length in LENGTHS:
        for frame in (0, length // 2, length - 1):
            found = show(effect, frame, length, size)
            assert np.isfinite(found).all()
            assert found[..., 3].min() > 0.999


@pytest.mark.parametrize("size", SHAPES, ids=str)
def test_soot_takes_everything_and_brings_everything(size: Size) -> None:
    effect = read_effect(soot_lift())
    whole = show(effect, 0, 25, size, step=("clip", "slot"))
    for length in LENGTHS:
        for settings in ({}, {"fineness": 2, "softness": 4}, {"fineness": 30, "drift": 20}):
            given = {"settings": settings}
            np.testing.assert_allclose(show(effect, 0, length, size, **given), whole, atol=2e-6)
            assert not show(effect, length - 1, length, size, **given).any()
            middle = show(effect, length // 2, length, size, **given)[..., 3]
            assert 0.05 < middle.mean() < 0.95
            back = {"settings": settings | {"reveal": True}}
            assert not show(effect, 0, length, size, **back).any()
            last = show(effect, length - 1, length, size, **back)
            np.testing.assert_allclose(last, whole, atol=2e-6)


@pytest.mark.parametrize("size", SHAPES, ids=str)
@pytest.mark.parametrize("name", LAID)
def test_titles_come_out_of_nothing_and_go_there_at_any_shape_and_length(
    name: str, size: Size
) -> None:
    effect = read_effect(LAID[name]())
    for length in (6, 60, 250):
        first, middle, last = (show(effect, f, length, size) for f in (0, length // 2, length - 1))
        for found in (first, middle, last):
            assert np.isfinite(found).all()
        if effect.kind == "title" and length > 6:
            assert first[..., 3].max() < 0.02
            assert last[..., 3].max() < 0.02
            assert middle[..., 3].max() > 0.5
            # Letters stay away from the frame's border at any shape.
            assert middle[:2, :, 3].max() < 0.02


@pytest.mark.parametrize("name", LOOPS)
@pytest.mark.parametrize("length", [25, 150])
def test_a_texture_leads_from_its_last_frame_to_its_first(name: str, length: int) -> None:
    effect = read_effect(LAID[name]())
    frames = [show(effect, k, length, SHAPES[0]) for k in (0, 1, length - 1, length)]
    np.testing.assert_allclose(frames[0], frames[3], atol=5e-3)
    steps = [np.abs(a - b).mean() for a, b in pairwise(frames)]
    # From the last frame to the first it changes no more than between neighbours.
    assert steps[2] <= 1.5 * steps[0] + 1e-4
    assert steps[0] > 0


def test_frost_grows_at_the_distance_that_its_two_blurs_let_through() -> None:
    # Two Gaussians of 10 and 20 pixels at 1080 lines pass 2π / √(2 ln(σ₂²/σ₁²) / (σ₂² − σ₁²)) best:
    # 65.4 pixels there, so 6.06 % of the height.
    effect = read_effect(LAID["Frost Pane"]())
    size = Size(480, 480)
    settings = {"spacing": 0.25, "passes": 10}
    where = ("growth", "grow")
    plane = (
        Engine()
        .evaluate(effect, Moment(0, 25, FrameRate.of(25)), size, settings=settings, step=where)
        .plane
    )
    spectrum = np.abs(np.fft.fft2(plane - plane.mean())) ** 2
    y, x = np.meshgrid(np.fft.fftfreq(480), np.fft.fftfreq(480), indexing="ij")
    ring = np.round(np.hypot(x, y) * 480).astype(int)
    power = np.bincount(ring.ravel(), spectrum.ravel())[:200]
    ratio = 10 / 20
    wave = 2 * np.pi / np.sqrt(2 * np.log(1 / ratio**2) / (20**2 - 10**2))
    assert wave == pytest.approx(65.4, abs=0.05)
    assert 480 / power.argmax() == pytest.approx(wave / 1080 * 480, rel=0.15)


def another(control: Control) -> Any:
    """A setting far from a control's default."""
    if control.type in ("number", "angle", "whole"):
        low, high = control.slider
        low = max(low, control.allowed[0]) if control.allowed else low
        return high if control.default < (low + high) / 2 else low
    if control.type == "choice":
        return control.options[-1]
    given: dict[str, Any] = {"text": "Other words", "point": [0.3, 0.3]}
    given |= {"seed": 9, "toggle": not control.default, "colour": "#00FF00", "ease": "hold"}
    return given[control.type]


@pytest.mark.parametrize("name", ALL)
def test_every_control_changes_the_picture(name: str) -> None:
    effect = read_effect(ALL[name]())
    size, frames = SHAPES[0], (3, 5, 9, 12, 15)
    plain = [show(effect, frame, 25, size) for frame in frames]
    choices = {"Tolerance": {"pick": "a colour"}, "Key colour": {"pick": "a colour"}}
    for control in effect.controls:
        other = another(control)
        # A control that has an effect at one choice only is tested there.
        given = choices.get(control.label, {})
        before = [show(effect, f, 25, size, settings=given) for f in frames] if given else plain
        settings = given | {control.slug: other}
        found = [show(effect, f, 25, size, settings=settings) for f in frames]
        change = max(np.abs(a - b).max() for a, b in zip(found, before, strict=True))
        assert change > 0.01, control.label


def test_a_glitch_hit_lasts_as_many_frames_at_any_length_and_leaves_the_rest_alone() -> None:
    effect = read_effect(OVER["Relay Fault"]())
    size = SHAPES[0]
    clean = show(effect, 0, 100, size, step=("clip", "slot"))
    for length in (50, 100):
        still = [
            np.array_equal(show(effect, frame, length, size, settings={"hits": 2}), clean)
            for frame in range(length)
        ]
        # Two hits, each of fewer than three frames on either side of its middle.
        assert 2 * 4 <= still.count(False) <= 2 * 6
        assert still[0]
        assert still[-1]


def test_one_control_of_the_worn_tape_drives_five_values() -> None:
    effect = read_effect(OVER["Worn Tape"]())
    fresh = show(effect, 3, 25, Size(192, 108), settings={"wear": 0})
    worn = show(effect, 3, 25, Size(192, 108), settings={"wear": 1})
    assert np.abs(fresh - worn).mean() > 0.02
