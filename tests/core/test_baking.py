"""Macros as plain data: a wipe picture that gives the same wipe, a table that gives the same colours."""

from __future__ import annotations

from typing import Any

import colour
import numpy as np
import pytest

from pale_static.core import (
    Effect,
    Engine,
    Fault,
    FrameRate,
    Materials,
    Moment,
    Size,
    StillPicture,
    baking,
    read_effect,
)
from pale_static.core.baking import baked_table, wipe_picture
from pale_static.core.built_in import DISSOLVE, WIPE, built_in_effect
from pale_static.core.frames.effect import EffectSource
from pale_static.media.colour.cube import cube_text, parse_cube

SIZE = Size(160, 90)
RATE = FrameRate.of(25)


def look(*steps: dict[str, Any]) -> Effect:
    lanes = [{"id": "out", "name": "Out", "steps": [{"id": "c", "kind": "slot"}, *steps]}]
    slots = [{"id": "clip", "name": "Clip"}]
    return read_effect({"name": "Grade", "kind": "look", "slots": slots, "lanes": lanes})


def test_the_picture_of_a_straight_wipe_is_a_ramp() -> None:
    picture = wipe_picture(EffectSource(effect=built_in_effect(WIPE)), SIZE) / 65535
    # By definition: a linear wipe across the width changes each column at its own share of time.
    ramp = (np.arange(SIZE.width) + 0.5) / SIZE.width
    assert np.abs(picture[40] - ramp).max() < 0.02
    assert np.ptp(picture, axis=0).max() < 1e-3


def test_the_picture_gives_the_same_wipe_in_any_system() -> None:
    noise = {"id": "fray", "name": "Fray", "steps": [
        {"id": "n", "kind": "noise", "values": {"even_out": True}}]}  # fmt: skip
    document = built_in_effect(WIPE).to_json()
    document["lanes"][1] = noise
    document["lanes"][2]["steps"][1]["inputs"]["matte"] = {"lane": "fray"}
    effect = read_effect(document)
    picture = wipe_picture(EffectSource(effect=effect), SIZE) / 65535
    given = Materials({"from": StillPicture("a", np.zeros((90, 160, 3), np.uint8)),
                       "to": StillPicture("b", np.full((90, 160, 3), 255, np.uint8))})  # fmt: skip
    for frame in (10, 25, 40):
        ours = Engine().evaluate(effect, Moment(frame, 51, RATE), SIZE, materials=given).picture
        # The result in another system: the second clip where the picture is darker than p.
        theirs = picture < frame / 50
        assert ((ours[..., 0] > 0.5) == theirs).mean() > 0.985


def test_a_transition_that_adds_no_light_is_computed_in_one_order(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    effect = built_in_effect(WIPE)
    once = wipe_picture(EffectSource(effect=effect), SIZE)
    monkeypatch.setattr(baking, "ADDS", -1.0)
    # By definition: without added light, the shares of the two clips add up to 1.
    assert np.abs(once.astype(int) - wipe_picture(EffectSource(effect=effect), SIZE)).max() <= 2


def test_what_one_picture_cannot_say_is_refused() -> None:
    with pytest.raises(Fault, match="Only a transition gives a wipe picture"):
        wipe_picture(EffectSource(effect=look()), SIZE)
    back = built_in_effect(DISSOLVE).to_json()
    mix = {"id": "mix", "kind": "blend", "inputs": {"over": {"lane": "to"}},
           "values": {"opacity": {"formula": "clamp(4 * progress * (1 - progress) , 0, 1)"}}}  # fmt: skip
    back["lanes"][-1]["steps"][1] = mix
    with pytest.raises(Fault, match="shows the first clip again"):
        wipe_picture(EffectSource(effect=read_effect(back)), SIZE)
    moved = built_in_effect(WIPE).to_json()
    turn = {"id": "t", "kind": "transform", "values": {"turn": 40}}
    moved["lanes"][-1]["steps"].append(turn)
    with pytest.raises(Fault, match="moves or changes the clips"):
        wipe_picture(EffectSource(effect=read_effect(moved)), SIZE)


def test_a_look_of_colours_becomes_a_table_that_gives_the_same_colours() -> None:
    graded = look(
        {"id": "b", "kind": "balance", "values": {"saturation": 0.7}},
        {"id": "l", "kind": "levels", "values": {"black_in": 0.1}},
    )
    text = cube_text(baked_table(EffectSource(effect=graded)), "Night")
    table = parse_cube(text, "night.cube")
    noise = np.random.default_rng(3).random((90, 160, 4), np.float32)
    noise[..., 3] = 1
    given = Materials({"clip": StillPicture("n", noise)})
    ours = Engine().evaluate(graded, Moment(0, 25, RATE), SIZE, materials=given).picture
    np.testing.assert_allclose(table.apply(noise), ours, atol=0.012)
    # Source: colour-science reads the same colours from the file.
    import tempfile
    from pathlib import Path

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "night.cube"
        path.write_text(text)
        read = colour.io.read_LUT_IridasCube(str(path))
    np.testing.assert_allclose(
        read.apply(noise[:9, :16, :3], interpolator=colour.algebra.table_interpolation_tetrahedral),
        table.apply(noise)[:9, :16, :3],
        atol=1e-4,
    )


@pytest.mark.parametrize(
    "step",
    [
        {"id": "b", "kind": "blur"},
        {"id": "v", "kind": "vignette", "values": {"amount": 1.0}},
        {"id": "p", "kind": "pixelate"},
    ],
)
def test_a_look_of_more_than_colours_gives_no_table(step: dict[str, Any]) -> None:
    with pytest.raises(Fault, match="depends on more than the colour of each pixel"):
        baked_table(EffectSource(effect=look(step)))
