"""Formulas: arithmetic over time, values and controls, and nothing else."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_static.core import Engine, Fault, Size, read_effect
from pale_static.core.changes import SetValue, apply
from pale_static.core.documents.checking import findings
from pale_static.core.engine.plan import make_plan
from pale_static.core.proof.curves import moving
from pale_static.core.values.formula import MOST_CHARACTERS, dice, drift, evaluate, parse

from .documents import RATE, SIZE, at, chain


def value(text: str, frame: int = 10, length: int = 51, **others: Any) -> float:
    return evaluate(
        text, at(frame, length), (1920, 1080), lambda name: others[name.replace(".", "_")]
    )


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("1.15 * 2", 2.3), ("progress", 0.2), ("frame + length", 61), ("seconds * rate", 10),
        ("width / height", 16 / 9), ("sin(progress * 3.14159)", math.sin(0.2 * 3.14159)),
        ("sin(pi / 6)", 0.5), ("4 * atan(1) - pi", 0),
        ("clamp(5)", 1), ("clamp(-1, 2, 3)", 2), ("mix(2, 4, 0.25)", 2.5),
        ("smoothstep(0, 1, 0.5)", 0.5), ("step(0.5, 0.4)", 0), ("step(0.5, 0.5)", 1),
        ("3 if progress > 0.1 else 4", 3), ("min(1, 2) + max(3, 4)", 5), ("2 ** 3 % 5", 3),
        ("control.amount * 2", 14),
    ],
)  # fmt: skip
def test_arithmetic_and_names(text: str, expected: float) -> None:
    assert value(text, control_amount=7) == pytest.approx(expected)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("1 +", "unexpected text at character"), ("", "cannot be read"), ("1 +* 2", "near"),
        ("speed * 2", "knows no “speed” at character 1"),
        ("__import__('os').system('ls')", "formula"),
        ("(1).__class__", "knows no"), ("control.__class__", "knows no"),
        ("a.b.__class__", "knows no"), ("progress.real", "knows no"),
        ("[x for x in (1,)]", "arithmetic only"), ("lambda: 1", "arithmetic only"),
        ("{1: 2}", "arithmetic only"), ("'a' * 9", "numbers only"), ("f'{progress}'", "arithmetic only"),
        ("open(1)", "no function “open”"), ("sin.__call__(1)", "no function"), ("exec(1)", "no function"),
        ("sin(x=1)", "no function"), ("(y := 3)", "arithmetic only"),
        ("1" + "+1" * MOST_CHARACTERS, "characters at most"),
    ],
)  # fmt: skip
def test_what_is_no_arithmetic_is_refused_with_its_place(text: str, said: str) -> None:
    with pytest.raises(Fault, match=said.replace("(", r"\(")):
        parse(text)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("1 / (frame - 10)", "divides by zero at frame 10"),
        ("1e300 * 1e300", "no finite number"),
        ("sqrt(-1)", "cannot be computed"),
        ("log(0)", "cannot be computed"),
        ("9 ** 9 ** 9", "cannot be computed"),
        ("exp(1e6)", "cannot be computed"),
        ("sin(1, 2)", "cannot be computed"),
    ],
)
def test_what_cannot_be_computed_says_at_which_frame(text: str, said: str) -> None:
    with pytest.raises(Fault, match=said):
        value(text)


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("4000000**40 > 0", 1), ("round(1.25, -99999999)", 0), ("round(2.675, 99)", 2.675),
        ("floor(1e300) * 0", 0), ("7 // 2", 3), ("-7 % 3", 2), ("not 0", 1), ("True + 1", 2),
        ("round(0.5) + round(1.5)", 2),
    ],
)  # fmt: skip
def test_formulas_work_on_floats_which_take_a_bounded_time(text: str, expected: float) -> None:
    assert value(text) == pytest.approx(expected)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("4000000**4000000 > 0", "cannot be computed"), ("1<<10000", "arithmetic only"),
        ("7 & 3", "arithmetic only"), ("~1", "arithmetic only"), ("1 is 1", "arithmetic only"),
        ("a" + ".a" * 990, "knows no"), ("-" * 1999 + "1", "cannot be"),
    ],
)  # fmt: skip
def test_what_would_take_forever_or_too_deep_is_a_sentence(text: str, said: str) -> None:
    with pytest.raises(Fault, match=said):
        value(text)


@given(st.text(max_size=60))
def test_any_text_is_refused_or_a_number(text: str) -> None:
    try:
        found = value(text, control_x=1)
    except (Fault, KeyError):
        return
    assert math.isfinite(found)


def test_chance_is_the_same_every_time_and_wanders_smoothly() -> None:
    assert dice(4) == dice(4)
    assert len({dice(seed) for seed in range(200)}) > 190
    assert 0.4 < sum(dice(seed) for seed in range(400)) / 400 < 0.6
    line = [drift(3, 2.0, n / 100) for n in range(1000)]
    assert max(map(abs, line)) <= 1
    assert max(line) - min(line) > 0.5
    assert max(abs(a - b) for a, b in pairwise(line)) < 0.1
    assert line != [drift(4, 2.0, n / 100) for n in range(1000)]


def effect(formula: str, other: Any = 0.5) -> Any:
    return chain(
        {"kind": "noise"},
        {"kind": "levels", "values": {"gamma": {"formula": formula}, "white_in": other}},
        controls=[{"slug": "push", "label": "Push", "type": "number", "default": 2}],
    )


def test_two_steps_of_one_name_make_no_loop() -> None:
    clouds = {"kind": "noise", "name": "Clouds"}
    document = chain(
        clouds,
        {"kind": "levels", "name": "Clouds", "values": {"gamma": {"formula": "out.s2.gamma + 1"}}},
        {"kind": "levels", "name": "Clouds", "values": {"gamma": {"formula": "out.s3.gamma + 1"}}},
        {"kind": "levels", "name": "Clouds", "values": {"gamma": 1.5}},
    )
    plan = make_plan(document, at(), SIZE)
    assert plan.nodes[1].values["gamma"] == 3.5


def test_a_value_that_formulas_read_over_and_over_is_resolved_once() -> None:
    # Each reads the previous one twice: without a memory, 30 of them would take 2³⁰ readings.
    steps: list[Any] = [{"kind": "noise"}, {"kind": "levels", "values": {"gamma": 1.0}}]
    for k in range(1, 31):
        reads = f"(out.s{k}.gamma + out.s{k}.gamma) / 2"
        steps.append({"kind": "levels", "values": {"gamma": {"formula": reads}}})
    nodes = make_plan(chain(*steps), at(), SIZE).nodes
    assert nodes[-1].values["gamma"] == 1.0


def test_a_formula_reads_controls_and_other_values() -> None:
    plain = Engine().evaluate(
        chain({"kind": "noise"}, {"kind": "levels", "values": {"gamma": 2.5, "white_in": 0.5}}),
        at(),
        SIZE,
    )
    found = Engine().evaluate(effect("control.push + out.s1.white_in"), at(), SIZE)
    assert (found.plane == plain.plane).all()
    other = Engine().evaluate(effect("control.push"), at(), SIZE, settings={"push": 3.0})
    assert not (other.plane == plain.plane).all()


def test_a_loop_of_formulas_is_found_when_saved_and_named() -> None:
    with pytest.raises(
        Fault, match=r"A loop of formulas: Out · levels: gamma → Out · levels: white_in"
    ):
        effect("out.s1.white_in", {"formula": "out.s1.gamma * 2"})
    with pytest.raises(Fault, match="loop of formulas"):
        effect("out.s1.gamma + 1")


def test_faults_of_a_formula_name_lane_step_and_value() -> None:
    with pytest.raises(
        Fault, match=r"Out · levels?: gamma: A formula knows no “wobble”|Out · Levels: gamma"
    ):
        effect("wobble")
    with pytest.raises(
        Fault, match=r"Out · Levels: gamma lies between 0\.01 and 100\. It got 1000"
    ):
        Engine().evaluate(effect("1000"), at(), SIZE)
    with pytest.raises(Fault, match="Out · Levels: gamma: The formula divides by zero at frame 3"):
        Engine().evaluate(effect("1 / (frame - 3)"), at(3), SIZE)
    assert Engine().evaluate(effect("1 / (frame - 3)"), at(4), SIZE).plane.shape == (54, 96)
    with pytest.raises(Fault, match="is not a number, so no formula"):
        chain({"kind": "flat", "values": {"colour": {"formula": "1"}}})


def test_a_formula_that_does_not_move_is_computed_once() -> None:
    engine = Engine()
    still = effect("control.push * 1.5")
    engine.evaluate(still, at(1), SIZE)
    assert all(cost.cached for cost in engine.evaluate(still, at(2), SIZE).costs)
    moves = effect("1 + progress")
    engine.evaluate(moves, at(1), SIZE)
    assert not all(cost.cached for cost in engine.evaluate(moves, at(2), SIZE).costs)


def test_a_formula_has_a_curve_and_words_in_history() -> None:
    line = moving(effect("1 + progress"), 50, RATE)[0]
    assert line.label == "Levels: gamma"
    assert line.samples[0] == 1
    assert line.samples[-1] == pytest.approx(2)
    change = SetValue(lane="out", step="s1", value_name="gamma", value={"formula": "2 + 1"})
    changed, words = apply(effect("1"), change)
    assert words == "Levels: gamma ƒ 1 → ƒ 2 + 1"
    assert not findings(changed)
    assert read_effect(changed.to_json()) == changed
    assert Engine().evaluate(changed, at(), Size(4, 4)).plane.shape == (4, 4)


def test_a_formula_finds_a_lane_by_the_name_it_is_shown_under() -> None:
    levels = {"id": "levels", "kind": "levels", "values": {"white_out": 0.25}}
    lanes = [
        {"id": "noise-2", "name": "Lit rim", "steps": [{"id": "n", "kind": "flat"}, levels]},
        {"id": "out", "name": "Out", "steps": [{"id": "f", "kind": "flat", "values": {"colour": "#FFFFFF"}}, {
            "id": "l", "kind": "levels", "values": {"white_out": {"formula": "2 * lit_rim.levels.white_out"}}}]},
    ]  # fmt: skip
    effect = read_effect({"name": "Named", "kind": "texture", "lanes": lanes})
    assert Engine().evaluate(effect, at(), SIZE).picture[0, 0, 0] == pytest.approx(0.5)
    for text, said in (
        ("dim_rim.levels.white_out", "The lanes are: lit_rim, out"),
        ("lit_rim.blur.size", "“Lit rim” has the steps: n, levels"),
        ("noise_2.levels.size", "That step has: black_in"),
    ):
        lanes[1]["steps"][1]["values"]["white_out"] = {"formula": text}
        wrong = read_effect({"name": "Named", "kind": "texture", "lanes": lanes})
        with pytest.raises(Fault, match=said):
            Engine().evaluate(wrong, at(), SIZE)


def test_the_curve_of_a_formula_that_counts_frames_counts_the_effects_own() -> None:
    burst = {"white_out": {"formula": "clamp(1 - abs(frame - 12) / 3)"}}
    effect = chain({"kind": "flat"}, {"kind": "levels", "values": burst})
    samples = moving(effect, 50, RATE, 50)[0].samples
    assert samples[12] == 1
    assert [round(value, 3) for value in samples[9:16]] == [0, 0.333, 0.667, 1, 0.667, 0.333, 0]


def test_what_is_no_number_is_told_in_runs() -> None:
    effect = read_effect(
        {
            "kind": "look", "name": "Bands",
            "lanes": [{"id": "out", "name": "Out", "steps": [
                {"id": "a", "kind": "flat", "values": {"colour": {"keys": [
                    {"time": 0, "value": "#000000", "ease": "linear"}, {"time": 1, "value": "#FFFFFF"},
                ]}}},
                {"id": "b", "kind": "invert", "on": False},
            ]}],
        }
    )  # fmt: skip
    (line,) = moving(effect, 50, RATE, 5)
    assert line.part == "band"
    # Five samples of a grey that goes evenly from black to white; each reaches halfway to the next.
    assert [value for _, _, value in line.runs] == [
        "#000000", "#404040", "#808080", "#BFBFBF", "#FFFFFF",
    ]  # fmt: skip
    assert [start for start, _, _ in line.runs] == [0, 0.125, 0.375, 0.625, 0.875]
    assert line.runs[-1][1] == 1
