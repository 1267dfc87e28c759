"""Bad input gives a sentence with lane, step and value, and everything else works on."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from pale_static.core import Engine, Fault, Moment, Size, read_effect
from pale_static.core.faults import TooLarge

from .documents import RATE, SIZE, at, chain

FLAT = {"kind": "flat", "values": {"colour": "#808080"}}


def levels(formula: str) -> Any:
    return chain(FLAT, {"kind": "levels", "values": {"white_out": {"formula": formula}}})


@pytest.mark.parametrize(
    ("formula", "said"),
    [
        ("1e308 * 10", r"Out · Levels: white out: .*no finite number at frame 7"),
        ("1e308 * 10 - 1e308 * 10", r"Out · Levels: white out: .*no finite number at frame 7"),
        ("1 / (frame - 7)", r"Out · Levels: white out: .*divides by zero at frame 7"),
        ("sqrt(6 - frame)", r"Out · Levels: white out: .*cannot be computed at frame 7"),
        ("10 ** 10 ** 10", r"Out · Levels: white out: .*cannot be computed at frame 7"),
        ("frame * 100", r"Out · Levels: white out lies between −10 and 10\. It got 700"),
    ],
)
def test_a_formula_that_comes_to_nothing_usable_says_where(formula: str, said: str) -> None:
    effect, engine = levels(formula), Engine()
    with pytest.raises(Fault, match=said) as told:
        engine.evaluate(effect, at(7), SIZE)
    assert told.value.where
    # The same engine still computes other frames and steps of the effect.
    assert engine.evaluate(effect, at(7), SIZE, step=("out", "s0")).plane.shape == (54, 96, 4)


def test_a_division_by_zero_at_one_frame_spares_the_others() -> None:
    effect, engine = levels("1 / (frame - 7)"), Engine()
    for frame in (6, 8):
        assert np.isfinite(engine.evaluate(effect, at(frame), SIZE).plane).all()


@pytest.mark.parametrize(
    ("formula", "said"),
    [
        ("progress + " * 1000 + "1", r"2000 characters at most\. This has 11001"),
        ("().__class__", "unexpected text|knows no|arithmetic only"),
        ("progress.__class__", "knows no “progress.__class__”"),
        ("__import__('os')", "no function “__import__”|works on numbers only"),
        ("control.__init__", "knows no “control.__init__”"),
        ("[x for x in (1, 2)]", "arithmetic only"),
        ("(lambda: 1)()", "arithmetic only|no function"),
        ("open('/etc/passwd')", "no function “open”|works on numbers only"),
        ("progress +", r"unexpected text at character 1\d"),
        ("(" * 500 + "1" + ")" * 500, "cannot be read"),
    ],
)
def test_what_is_no_arithmetic_is_refused_when_it_is_saved(formula: str, said: str) -> None:
    with pytest.raises(Fault, match=said) as told:
        levels(formula)
    assert "Out · Levels: white out" in told.value.sentence
    assert len(told.value.sentence) < 400


def test_pass_and_passes_are_known_outside_a_repeat_too() -> None:
    effect = levels("0.2 + pass * 0.5 + passes * 0.3")
    assert Engine().evaluate(effect, at(), SIZE).picture[0, 0, 0] == pytest.approx(
        0.5 * 128 / 255, abs=1e-3
    )


def test_a_chain_of_five_hundred_steps_is_computed() -> None:
    steps = [{"kind": "levels", "values": {"white_out": 1.001}} for _ in range(500)]
    found = Engine().evaluate(chain(FLAT, *steps), at(), SIZE)
    assert found.picture[0, 0, 0] == pytest.approx(128 / 255 * 1.001**500, rel=1e-3)


def test_a_frame_of_sixteen_thousand_pixels_is_refused_with_the_limit() -> None:
    with pytest.raises(TooLarge, match=r"16384×9216 is too large.*34 million"):
        Size(16384, 9216)
    assert Size(16384, 1024).width == 16384


@pytest.mark.parametrize("kind", ["transition", "look", "title", "texture"])
def test_an_effect_of_one_frame_is_its_beginning(kind: str) -> None:
    keys = [{"time": 0, "value": 0.25}, {"anchor": "end", "time": 0, "value": 1}]
    effect = read_effect(
        {
            "name": "Short",
            "kind": kind,
            "lanes": [
                {"id": "out", "name": "Out", "steps": [
                    {"id": "a", "kind": "flat", "values": {"colour": "#FFFFFF"}},
                    {"id": "b", "kind": "levels", "values": {"white_out": {"keys": keys}}},
                ]},
            ],
        }
    )  # fmt: skip
    found = Engine().evaluate(effect, Moment(0, 1, RATE), SIZE).picture
    assert found[0, 0, 0] == pytest.approx(0.25)
    with pytest.raises(Fault, match="at least one frame long"):
        Moment(0, 0, RATE)
