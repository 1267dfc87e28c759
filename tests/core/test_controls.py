"""Controls of the faceplate: links keep the picture, own words, hidden numbers, advice."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_static.core import Effect, Engine, Fault, Size
from pale_static.core.changes.controls import fitted
from pale_static.core.document import HeldMacro
from pale_static.core.documents.checking import findings
from pale_static.core.documents.macro import faceplate_changes, publish
from pale_static.core.steps.macro import macro_kind

from .documents import at
from .test_changes import built, do, words

NOISE = {"lane": "fray", "step": "noise"}
WIPE = {"lane": "out", "step": "luma-wipe"}


def pixels(effect: Effect, **settings: Any) -> Any:
    return Engine().evaluate(effect, at(20), Size(64, 36), settings=settings).plane


@given(st.floats(-0.5, 1.5), st.floats(-3, 3), st.tuples(st.floats(-2, 0), st.floats(0.01, 2)))
def test_a_fitted_range_gives_the_value_and_stays_in_the_slider(
    share: float, value: float, slider: tuple[float, float]
) -> None:
    low, high = fitted(share, value, slider)
    assert low + (high - low) * share == pytest.approx(value, abs=1e-9)
    assert high >= low
    if 0 <= share <= 1:
        assert min(slider[0], value) - 1e-9 <= low
        assert high <= max(slider[1], value) + 1e-9
        # As wide as it can be: one end lies at an end of the slider.
        ends = (low - min(slider[0], value), max(slider[1], value) - high)
        assert min(map(abs, ends)) < 1e-9


def test_driving_and_unlinking_keep_the_picture() -> None:
    effect = do(built(), do="set-value", **NOISE, value_name="cells", value=6)
    effect = do(effect, do="add-control", label="Amount", type="number")
    before = pixels(effect)
    driven = do(effect, do="drive", **NOISE, value_name="cells", control="amount")
    driven = do(driven, do="drive", **WIPE, value_name="softness", control="amount")
    assert np.array_equal(pixels(driven), before)
    assert not np.array_equal(pixels(driven, amount=0.9), before)
    moved = do(driven, do="set-control", slug="amount", default=0.8)
    after = pixels(moved)
    free = do(moved, do="unlink", **NOISE, value_name="cells")
    free = do(free, do="unlink", **WIPE, value_name="softness")
    assert np.array_equal(pixels(free), after)
    assert free.controls
    assert free.lane("fray").steps[0].values["cells"] != 0.8


def test_a_value_that_moves_is_not_driven() -> None:
    effect = do(built(), do="add-control", label="Amount")
    with pytest.raises(Fault, match="moves through keys"):
        do(effect, do="drive", **WIPE, value_name="progress", control="amount")
    effect = do(effect, do="set-value", **NOISE, value_name="cells", value={"formula": "4 + 2"})
    with pytest.raises(Fault, match="follows a formula"):
        do(effect, do="drive", **NOISE, value_name="cells", control="amount")
    with pytest.raises(Fault, match="follows no control"):
        do(effect, do="unlink", **NOISE, value_name="cells")


def test_a_toggle_and_a_choice_of_ones_own_set_several_values() -> None:
    effect = do(built(), do="add-control", label="Weather", type="choice",
                options=["Calm", "Storm"])  # fmt: skip
    before = pixels(effect)
    for place, name in ((NOISE, "cells"), (NOISE, "octaves"), (WIPE, "softness")):
        effect = do(effect, do="drive", **place, value_name=name, control="weather")
    assert np.array_equal(pixels(effect), before)
    assert np.array_equal(pixels(effect, weather="Storm"), before)
    link = effect.lane("fray").steps[0].values["cells"]  # type: ignore[union-attr]
    table = link.table | {"Storm": 20}
    effect = do(effect, do="set-value", **NOISE, value_name="cells",
                value={"control": "weather", "table": table})  # fmt: skip
    assert not np.array_equal(pixels(effect, weather="Storm"), before)
    renamed = do(effect, do="set-words", slug="weather",
                 words=[{"word": "Gale", "of": "Storm"}, {"word": "Calm", "of": "Calm"},
                        {"word": "Fog"}])  # fmt: skip
    assert np.array_equal(pixels(renamed, weather="Gale"), pixels(effect, weather="Storm"))
    # A new word has what the default has; the default stays the same word.
    assert np.array_equal(pixels(renamed, weather="Fog"), before)
    assert renamed.controls[0].default == "Calm"
    with pytest.raises(Fault, match="twice"):
        do(effect, do="set-words", slug="weather", words=[{"word": "A"}, {"word": "A"}])
    with pytest.raises(Fault, match="has no word “Rain”"):
        do(effect, do="set-words", slug="weather", words=[{"word": "A", "of": "Rain"}])
    with pytest.raises(Fault, match="A choice needs a word"):
        do(effect, do="add-control", label="Empty", type="choice")


def test_a_word_without_a_value_stays_without_one() -> None:
    effect = do(built(), do="add-control", label="Weather", type="choice",
                options=["Calm", "Storm"])  # fmt: skip
    link = {"control": "weather", "table": {"Calm": 6}}
    effect = do(effect, do="set-value", **NOISE, value_name="cells", value=link)
    words_now = [{"word": "Gale", "of": "Storm"}, {"word": "Still", "of": "Calm"}]
    renamed = do(effect, do="set-words", slug="weather", words=words_now)
    assert renamed.lane("fray").steps[0].values["cells"].table == {"Still": 6}  # type: ignore[union-attr]
    with pytest.raises(Fault, match="set to Gale, and cells has no value"):
        pixels(renamed, weather="Gale")


def test_a_choice_is_shortened_to_some_options_with_other_words() -> None:
    effect = do(built(), do="expose", **NOISE, value_name="basis")
    control = effect.controls[0]
    first, second = control.options[:2]
    short = do(effect, do="set-words", slug=control.slug,
               words=[{"word": "Plain", "of": control.default}, {"word": "Other", "of": second}])  # fmt: skip
    assert short.controls[0].options == ("Plain", "Other")
    assert np.array_equal(pixels(short), pixels(effect))
    assert np.array_equal(
        pixels(short, **{control.slug: "Other"}), pixels(effect, **{control.slug: second})
    )
    assert first in control.options


def test_a_toggle_drives_a_toggle_the_other_way_round() -> None:
    effect = do(built(), do="add-control", label="Storm", type="toggle")
    effect = do(effect, do="set-value", **NOISE, value_name="even_out", value=True)
    driven = do(effect, do="drive", **NOISE, value_name="even_out", control="storm")
    assert np.array_equal(pixels(driven), pixels(effect))
    assert not np.array_equal(pixels(driven, storm=True), pixels(effect))


def test_a_hidden_number_drives_values_and_is_not_on_the_faceplate() -> None:
    effect = do(built(), do="add-control", label="Base", type="number", hidden=True)
    effect = do(effect, do="drive", **NOISE, value_name="cells", control="base")
    macro = publish(effect, 1)
    assert not macro.effect.faceplate
    assert faceplate_changes(built(), effect) == ["The faceplate is the same."]
    shown = do(effect, do="set-control", slug="base", hidden=False)
    assert faceplate_changes(effect, shown) == ["Adds “Base”."]
    assert faceplate_changes(shown, effect) == ["Drops “Base”."]
    # As a step it has no value for it, and gives the same picture.
    held = HeldMacro(slug="base", version=1, effect=effect)
    assert macro_kind(held).get("base") is None
    assert macro_kind(HeldMacro(slug="base", version=1, effect=shown)).get("base")


def test_a_control_is_shown_when_another_one_says_so() -> None:
    effect = do(
        built(), do="add-control", label="Weather", type="choice", options=["Calm", "Storm"]
    )
    effect = do(effect, do="expose", **NOISE, value_name="cells")
    effect = do(effect, do="set-control", slug="cells", when={"weather": ["Storm"]})
    assert publish(effect, 1)  # a choice that only shows others may be published
    kind = macro_kind(HeldMacro(slug="fray", version=1, effect=effect))
    assert kind.get("cells").when == {"weather": ("Storm",)}  # type: ignore[union-attr]
    renamed = do(effect, do="set-words", slug="weather",
                 words=[{"word": "Gale", "of": "Storm"}, {"word": "Calm", "of": "Calm"}])  # fmt: skip
    assert renamed.controls[1].when == {"weather": ("Gale",)}
    assert not do(effect, do="remove-control", slug="weather").controls[0].when
    with pytest.raises(Fault, match="not another toggle or choice"):
        do(effect, do="set-control", slug="weather", when={"cells": ["Storm"]})
    with pytest.raises(Fault, match="Show that one too"):
        do(effect, do="set-control", slug="weather", hidden=True)
    with pytest.raises(Fault, match="is one of: Calm, Storm"):
        do(effect, do="set-control", slug="cells", when={"weather": ["Hail"]})


def test_a_control_carries_what_its_maker_knows() -> None:
    effect = do(built(), do="expose", **NOISE, value_name="cells")
    effect = do(effect, do="set-control", slug="cells", good=[2, 12],
                edge={"above": 30, "reason": "Above 30 cells the clips cannot be seen."})  # fmt: skip
    control = effect.controls[0]
    assert control.good == (2, 12)
    assert control.edge
    # It is not a limit.
    assert not findings(do(effect, do="set-control", slug="cells", default=40))
    cleared = do(effect, do="set-control", slug="cells", good=None, edge=None, allowed=None)
    assert cleared.controls[0].good is None
    assert cleared.controls[0].edge is None
    with pytest.raises(Fault, match="smaller one"):
        do(effect, do="set-control", slug="cells", good=[3, 2])
    with pytest.raises(Fault, match="needs a number"):
        do(effect, do="set-control", slug="cells", edge={"reason": "Too much."})
    toggle = do(effect, do="add-control", label="Storm", type="toggle")
    with pytest.raises(Fault, match="no good zone and no edge"):
        do(toggle, do="set-control", slug="storm", good=[0, 1])


def test_the_slug_of_a_control_follows_its_name_until_something_knows_it() -> None:
    effect = do(built(), do="add-control", label="Amount")
    effect = do(effect, do="set-control", slug="amount", label="Wear")
    assert effect.controls[0].slug == "wear"
    effect = do(effect, do="drive", **NOISE, value_name="cells", control="wear")
    effect = do(effect, do="set-control", slug="wear", label="Damage", at=0)
    assert (effect.controls[0].slug, effect.controls[0].label) == ("wear", "Damage")


def test_history_says_what_changed_about_a_control() -> None:
    effect = do(built(), do="expose", **NOISE, value_name="cells")
    said = words(effect, do="set-control", slug="cells", label="Pieces", slider=[2, 30])
    assert said == "Control “Cells”: label Pieces, slider 2, 30"
    assert words(effect, do="set-control", slug="cells", group="Shape") == (
        "Control “Cells”: group Shape"
    )
    assert words(effect, do="set-control", slug="cells", hidden=True) == (
        "Control “Cells”: hidden from the editor"
    )
    assert words(effect, do="remove-control", slug="cells") == "Control “Cells” removed"
