"""Macros as steps: their values move, their inputs are wired, and opening up changes no pixel."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from pale_static.core import Effect, Engine, Materials, read_effect
from pale_static.core.changes import apply
from pale_static.core.changes.models import (
    AddStep,
    Expose,
    OpenMacro,
    Pinned,
    SetInput,
    SetMacro,
    SetValue,
)
from pale_static.core.document import HeldMacro, Input
from pale_static.core.documents.checking import assets_of, findings
from pale_static.core.documents.macro import publish
from pale_static.core.engine.plan import make_plan
from pale_static.core.faults import Fault, OutOfRange
from pale_static.demo.content import ember_fray, quiet_luma
from pale_static.demo.looks import bulge_split, relay_fault, soot_lift
from pale_static.demo.titles import late_focus, letter_lamps
from pale_static.demo.transitions import ring_crossing
from pale_static.media.foreign.reading import read_package
from pale_static.media.packages import Package, write_package

from .documents import SIZE, at
from .test_film import CLIPS, look

FRAMES = (0, 6, 24, 49)


def held(document: dict[str, Any], version: int = 1) -> HeldMacro:
    effect = read_effect(document)
    return HeldMacro(slug=effect.name.lower().replace(" ", "-"), version=version, effect=effect)


def pinned(document: dict[str, Any], version: int = 1) -> Pinned:
    macro = held(document, version)
    return Pinned(slug=macro.slug, version=version, held=macro)


def added(effect: Effect, document: dict[str, Any], lane: str = "out", **more: Any) -> Effect:
    return apply(effect, AddStep(lane=lane, kind="macro", macro=pinned(document), **more))[0]


def shows(effect: Effect, frame: int, materials: Materials = CLIPS, **more: Any) -> Any:
    return Engine().evaluate(effect, at(frame), SIZE, materials=materials, **more).picture


def same(one: Effect, two: Effect, **more: Any) -> None:
    for frame in FRAMES:
        np.testing.assert_array_equal(shows(one, frame, **more), shows(two, frame, **more))


def opened(effect: Effect, step: str, lane: str = "out") -> Effect:
    changed = apply(effect, OpenMacro(lane=lane, step=step))[0]
    assert all(one.macro is None or one.id != step for ln in changed.lanes for one in ln.every)
    return changed


def test_a_macro_alone_is_the_macro() -> None:
    effect = added(look(), bulge_split())
    inner = read_effect(bulge_split())
    same(effect, inner)
    assert effect.lanes[1].steps[-1].id == "bulge-split"
    kinds = [node.kind.kind for node in make_plan(effect, at(3), SIZE, materials=CLIPS).nodes]
    flat = [node.kind.kind for node in make_plan(inner, at(3), SIZE, materials=CLIPS).nodes]
    assert sorted(kinds) == sorted(flat)


@pytest.mark.parametrize("make", [bulge_split, relay_fault, soot_lift])
def test_a_look_between_steps_opens_up_to_the_same_pixels(make: Any) -> None:
    effect = added(look({"kind": "invert"}), make())
    effect = apply(effect, AddStep(lane="out", kind="levels", values={"gamma": 1.4}))[0]
    step = effect.lanes[1].steps[2].id
    same(effect, opened(effect, step))


def transition(**more: Any) -> Effect:
    return read_effect(quiet_luma() | more)


def test_a_transition_inside_a_transition_opens_up_to_the_same_pixels() -> None:
    effect = added(transition(), ring_crossing())
    outer = effect.lanes[-1]
    step = outer.steps[-1]
    assert step.inputs["to"].lane == "to"
    plain = transition()
    assert np.abs(shows(effect, 24) - shows(plain, 24)).max() > 0.1
    same(effect, opened(effect, step.id, outer.id))


def test_a_look_inside_a_title_opens_up_to_the_same_pixels() -> None:
    effect = added(read_effect(letter_lamps()), relay_fault())
    step = effect.lanes[-1].steps[-1].id
    lit = shows(effect, 24)
    assert lit[..., 3].max() > 0.5
    assert lit[..., 3].min() == 0
    same(effect, opened(effect, step))


def test_a_title_starts_a_lane_and_opens_up() -> None:
    base = look()
    lane = {"id": "words", "name": "Words", "steps": []}
    blend = {"id": "b", "kind": "blend", "inputs": {"over": {"lane": "words"}}}
    plain = base.to_json()
    plain["lanes"] = [lane, plain["lanes"][0], plain["lanes"][1]]
    plain["lanes"][2]["steps"].append(blend)
    effect = added(read_effect(plain), late_focus(), lane="words", values={"text": "Two"})
    same(effect, opened(effect, "late-focus", "words"))


MOVING = {"keys": [{"time": 0, "value": 0.02}, {"time": 1, "value": 0.18}]}


def test_values_move_take_formulas_and_are_exposed_again() -> None:
    effect = added(look(), bulge_split())
    place = {"lane": "out", "step": "bulge-split"}
    still = shows(effect, 24)
    moving = apply(effect, SetValue(**place, value_name="split", value=MOVING))[0]
    assert np.abs(shows(moving, 24) - still).max() > 0.01
    constant = apply(effect, SetValue(**place, value_name="split", value=0.1))[0]
    # In the middle of the keys the result is that of the value there.
    half = at(0, 3)
    one = Engine().evaluate(moving, half.at(1), SIZE, materials=CLIPS).picture
    two = Engine().evaluate(constant, half.at(1), SIZE, materials=CLIPS).picture
    np.testing.assert_allclose(one, two, atol=1e-6)
    formula = apply(
        effect, SetValue(**place, value_name="bend", value={"formula": "0.3 * progress"})
    )[0]
    same(formula, opened(formula, "bulge-split"))
    same(moving, opened(moving, "bulge-split"))
    exposed = apply(effect, Expose(**place, value_name="split"))[0]
    slug = exposed.controls[0].slug
    assert np.abs(shows(exposed, 24, settings={slug: 0.2}) - still).max() > 0.01
    same(exposed, opened(exposed, "bulge-split"), settings={slug: 0.15})
    with pytest.raises(OutOfRange, match=r"Bulge Split: Split|Bulge Split: split"):
        shows(apply(effect, SetValue(**place, value_name="split", value={"formula": "7"}))[0], 0)


def test_a_control_that_drives_others_through_ranges_opens_up_while_it_moves() -> None:
    inner = look(
        {"kind": "levels", "values": {"gamma": {"control": "amount", "range": [1, 3]}}},
        {"kind": "blur", "values": {"size": {"formula": "control.amount * 2"}}},
        controls=[{"slug": "amount", "label": "Amount", "type": "number", "default": 0.5}],
    ).to_json()  # fmt: skip
    effect = added(look(), inner | {"name": "Soft"})
    place = {"lane": "out", "step": "soft"}
    moving = {"keys": [{"time": 0, "value": 0.1}, {"time": 1, "value": 0.9}]}
    effect = apply(effect, SetValue(**place, value_name="amount", value=moving))[0]
    for frame in FRAMES:
        one, two = shows(effect, frame), shows(opened(effect, "soft"), frame)
        # A range as a formula rounds in its last digit.
        np.testing.assert_allclose(one, two, atol=2e-6)


def test_a_trail_within_goes_on_from_what_was_left_and_follows_its_values() -> None:
    inner = look(
        {"kind": "transform", "values": {"turn": {"formula": "progress * 90"}}},
        {"kind": "trail", "values": {"keep": {"control": "keep"}}},
        controls=[{"slug": "keep", "label": "Keep", "type": "number", "default": 0.8}],
    ).to_json()  # fmt: skip
    effect = added(look(), inner | {"name": "Traces"})
    effect = apply(
        effect, SetValue(lane="out", step="traces", value_name="keep", value={"keys": [
            {"time": 0, "value": 0.9}, {"time": 1, "value": 0.2}]})
    )[0]  # fmt: skip
    engine = Engine()
    engine.evaluate(effect, at(20), SIZE, materials=CLIPS)
    later = engine.evaluate(effect, at(21), SIZE, materials=CLIPS).picture
    np.testing.assert_array_equal(later, shows(effect, 21))
    for frame in (0, 12):
        np.testing.assert_allclose(
            shows(effect, frame), shows(opened(effect, "traces"), frame), atol=1e-6
        )


def test_its_weight_is_taken_against_what_came_in() -> None:
    effect = added(look(), bulge_split())
    place = {"lane": "out", "step": "bulge-split"}
    half = apply(effect, SetValue(**place, value_name="mix", value=0.5))[0]
    expected = (
        shows(effect, 24) + Engine().evaluate(look(), at(24), SIZE, materials=CLIPS).picture
    ) / 2
    np.testing.assert_allclose(shows(half, 24), expected, atol=1e-6)
    with pytest.raises(Fault, match="set its weight to 1 first"):
        opened(half, "bulge-split")


def test_an_input_with_an_offset_and_a_repeat_around_it() -> None:
    effect = added(transition(), ember_fray())
    lane, step = effect.lanes[-1].id, effect.lanes[-1].steps[-1].id
    late = apply(
        effect, SetInput(lane=lane, step=step, input_name="to", input=Input(lane="to", offset=3))
    )[0]
    assert make_plan(late, at(20), SIZE, materials=CLIPS).nodes
    same(late, opened(late, step, lane))
    plain = look().to_json()
    bulge = {"id": "b", "kind": "macro", "macro": held(bulge_split()).model_dump(mode="json")}
    plain["lanes"][1]["steps"].append(
        {"id": "again", "kind": "repeat", "values": {"count": 2}, "steps": [bulge]}
    )
    twice = added(added(look(), bulge_split()), bulge_split())
    same(read_effect(plain), twice)
    with pytest.raises(Fault, match="inside a repeat"):
        opened(read_effect(plain), "b")


def test_a_newer_version_keeps_what_it_still_takes() -> None:
    effect = added(look(), bulge_split(), values={"bend": 0.4, "split": 0.1})
    newer = bulge_split()
    newer["controls"] = [newer["controls"][0]]
    newer["lanes"][1]["steps"][2]["values"]["amount"] = 0.02
    changed, words = apply(effect, SetMacro(lane="out", step="bulge-split", macro=pinned(newer, 2)))
    step = changed.lanes[1].steps[-1]
    assert words == "Bulge Split: version 2"
    assert step.values == {"bend": 0.4}
    assert step.macro is not None
    assert step.macro.version == 2


def test_what_is_wrong_is_named_and_depth_is_bounded() -> None:
    effect = added(transition(), ring_crossing())
    lane, step = effect.lanes[-1].id, effect.lanes[-1].steps[-1].id
    unwired = apply(effect, SetInput(lane=lane, step=step, input_name="to", input=None))[0]
    told = [found.sentence for found in findings(unwired)]
    assert any("Ring Crossing needs a source for “to”" in one for one in told)
    with pytest.raises(Fault, match="Ring Crossing needs a source for “to”"):
        shows(unwired, 10)
    with pytest.raises(Fault, match="has no value “wobble”"):
        added(look(), bulge_split(), values={"wobble": 1})
    with pytest.raises(Fault, match="is not on the shelf"):
        apply(look(), AddStep(lane="out", kind="macro", macro=Pinned(slug="gone", version=3)))
    document = bulge_split()
    for depth in range(12):
        document = added(look(name=f"Deep {depth}"), document).to_json()
    with pytest.raises(Fault, match="macros one in another, more than 12 deep"):
        added(look(), document)


def test_its_pictures_travel_with_the_effect() -> None:
    inner = look().to_json()
    inner["lanes"].insert(0, {"id": "logo", "name": "Logo", "steps": [
        {"id": "still", "kind": "still", "values": {"asset": "abc"}}]})  # fmt: skip
    assert assets_of(added(look(), inner | {"name": "Logo"})) == ["abc"]


def test_a_saved_effect_opens_again_with_its_macros() -> None:
    effect = added(look(), bulge_split(), values={"bend": 0.4})
    assert read_effect(effect.to_json()) == effect
    assert effect.digest() == read_effect(effect.to_json()).digest()


INVERT = look({"kind": "invert"}, name="Invert").to_json()


@pytest.mark.parametrize("count", [100, 301])
def test_a_long_chain_of_macros_is_planned(count: int) -> None:
    inner = held(INVERT)
    steps = [
        {"id": f"m{k}", "kind": "macro", "macro": inner.model_dump(mode="json")}
        for k in range(count)
    ]
    document = look().to_json()
    document["lanes"][-1]["steps"] += steps
    chain = Effect.model_validate(document)
    # An odd number of inversions is one, to within rounding.
    expected = shows(look() if count % 2 == 0 else read_effect(INVERT), 10)
    np.testing.assert_allclose(shows(chain, 10), expected, atol=1e-4)


def test_the_deepest_macro_that_is_taken_is_planned_published_and_read_again() -> None:
    document = INVERT
    for depth in range(12):
        deep = added(look(name=f"Deep {depth}"), document)
        for _ in range(3):
            deep = added(deep, INVERT)
        document = deep.to_json()
    assert np.isfinite(shows(deep, 10)).all()
    package = write_package(Package(publish(deep, 1)))
    assert read_package(package).macro.effect == deep
