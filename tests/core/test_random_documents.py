"""Two thousand random documents, with every kind of setting of a value, and filled repeats."""

from __future__ import annotations

import json
from collections import Counter
from random import Random
from typing import Any

import numpy as np
import pytest
from pydantic import TypeAdapter

from pale_static.core import Engine, Fault, Materials, Size, StillPicture, read_effect
from pale_static.core.changes import Change, apply
from pale_static.core.document import Effect
from pale_static.core.documents.checking import findings
from pale_static.core.documents.graph import Graph
from pale_static.core.engine.plan import make_plan
from pale_static.core.engine.states import States
from pale_static.core.steps import step_kind
from pale_static.core.values.params import Choice, Number, Param, Toggle

from .documents import KINDS, at, some_effect, some_step, some_value

COUNT, PARTS = 2000, 8
"""Documents, and parts that processes of a test run share."""
SMALL = Size(32, 18)
CLIP = Materials(
    {"clip": StillPicture("c", np.random.default_rng(1).integers(0, 256, (18, 32, 3), np.uint8))}
)
EASES: list[Any] = [
    "linear", "hold", "jump", {"out": "sine", "into": "bounce"}, {"bezier": [0.3, 0.1, 0.6, 1.2]},
]  # fmt: skip
CONTROLS: list[dict[str, Any]] = [
    {"slug": "push", "label": "Push", "type": "number", "default": 0.4},
    {"slug": "way", "label": "Way", "type": "choice", "default": "two", "options": ["one", "two"]},
    {"slug": "more", "label": "More", "type": "toggle", "default": True},
    {
        "slug": "curve",
        "label": "Curve",
        "type": "ease",
        "default": {"out": "cubic", "into": "sine"},
    },
]
FORMULAS = (
    "progress", "sin(frame / 7) * 0.5 + 0.5", "control.push * 2 if control.more else 1 / (1 + "
                                              "seconds)",
    "drift(3, 2)", "(pass + 1) / passes", "smoothstep(0, length, frame) * rate / 60", "l0.s.mix",
)  # fmt: skip
CHANGE: TypeAdapter[Change] = TypeAdapter(Change)
USED: Counter[str] = Counter()


def driven(chance: Random, param: Param) -> Any:
    """A moving value, or one that something else sets."""
    way = chance.choice(("keys", "formula", "control", "range", "table", "ease"))
    if isinstance(param, Number):
        low, high = param.slider
        if way == "keys":
            USED["anchored keys"] += 1
            return {"keys": [
                {"anchor": anchor, "time": round(chance.uniform(0, 0.6), 3),
                 "value": some_value(chance, param), "ease": chance.choice(EASES)}
                for anchor in ("start", chance.choice(("share", "start")), "end")
            ]}  # fmt: skip
        if way == "formula":
            USED["formulas"] += 1
            return {"formula": f"clamp({chance.choice(FORMULAS)}, {low}, {high})"}
        if way == "table":
            USED["tables"] += 1
            return {"control": "way", "table": {"one": low, "two": high}}
        USED["links"] += 1
        control = {"ease": "curve", "control": "more"}.get(way, "push")
        ends = chance.sample((low, high), 2)
        return {"control": control, "range": ends, "ease": chance.choice(EASES)}
    if isinstance(param, Toggle):
        return {"control": "more"}
    if isinstance(param, Choice):
        USED["tables"] += 1
        options = [chance.choice(param.options) for _ in range(2)]
        return {"control": "way", "table": dict(zip(("one", "two"), options, strict=True))}
    return some_value(chance, param)


def with_drives(chance: Random, step: dict[str, Any]) -> dict[str, Any]:
    for param in step_kind(step["kind"]).params:
        if param.moves and chance.random() < 0.35:
            step.setdefault("values", {})[param.name] = driven(chance, param)
    return step


def rich(seed: int) -> Effect:
    """A valid effect with controls, links, formulas, anchored keys and filled repeats."""
    chance = Random(seed)
    plain = some_effect(seed).to_json()
    plain["controls"] = CONTROLS
    # A pass gives the kind of picture that it takes: only steps like that may stand in a repeat.
    filters = [
        kind for kind in KINDS if kind.main == "either" and kind.gives == "same" and not kind.holds
    ]
    lanes = plain["lanes"]
    for number, lane in enumerate(lanes[1:]):
        there = [one["id"] for one in lanes[: number + 1]]
        for step in lane["steps"]:
            with_drives(chance, step)
        if chance.random() < 0.4:
            held = [
                with_drives(
                    chance, some_step(chance, chance.choice(filters), f"h{k}", there, False)
                )
                for k in range(chance.randint(1, 3))
            ]
            USED["filled repeats"] += 1
            values = {"count": chance.randint(1, 4)}
            lane["steps"].append({"id": "r", "kind": "repeat", "values": values, "steps": held})
    return read_effect(plain)


@pytest.mark.parametrize("part", range(PARTS))
def test_two_thousand_documents_are_whole_and_planned_the_same_every_time(part: int) -> None:
    USED.clear()
    for seed in range(part, COUNT, PARTS):
        effect = rich(seed)
        assert [one for one in findings(effect) if not one.open] == [], seed
        # Written and read again it is the same document.
        text = json.dumps(effect.to_json())
        again = read_effect(json.loads(text))
        assert again == effect
        assert json.dumps(again.to_json()) == text
        # It has a plan at any frame, and always the same one.
        for frame in (0, 11):
            plan = make_plan(effect, at(frame, 25), SMALL, materials=CLIP)
            other = make_plan(again, at(frame, 25), SMALL, materials=CLIP, states=States(0))
            assert plan.key == other.key
            for index, node in enumerate(plan.nodes):
                assert all(source < index for source in node.sources)
        # The plan holds only steps that the graph knows.
        reached = Graph(effect).reached((effect.lanes[-1].id, effect.lanes[-1].steps[-1].id))
        holders = {(lane.id, one.id) for lane in effect.lanes for one in lane.steps if one.steps}
        assert {node.place for node in plan.nodes} <= reached | holders
    for what in ("anchored keys", "formulas", "tables", "links", "filled repeats"):
        assert USED[what] > COUNT / PARTS / 4, (what, USED)


def test_random_documents_give_finite_pictures_alike_in_a_film_and_alone() -> None:
    for seed in range(0, COUNT, 50):
        effect, engine = rich(seed), Engine(1 << 20)
        for frame in (10, 11, 12):
            film = engine.evaluate(effect, at(frame, 25), SMALL, materials=CLIP, passing=True)
            assert np.isfinite(film.plane).all(), seed
        alone = Engine().evaluate(effect, at(12, 25), SMALL, materials=CLIP)
        assert alone.key == film.key
        np.testing.assert_allclose(film.plane, alone.plane, atol=2e-6, err_msg=str(seed))


def test_changes_of_random_documents_leave_whole_documents() -> None:
    for seed in range(0, COUNT, 20):
        chance, effect = Random(seed), rich(seed)
        lane = chance.choice(effect.lanes[1:])
        place = {"lane": lane.id, "step": chance.choice(lane.steps[1:]).id}
        for change in (
            {"do": "name-step", **place, "name": "Renamed"},
            {"do": "turn-steps", "steps": [place], "on": False},
            {"do": "add-lane", "name": "More"},
            {"do": "remove-steps", "steps": [place]},
        ):
            try:
                effect, words = apply(effect, CHANGE.validate_python(change))
            except Fault:  # steps that a formula or an input needs are not removed
                continue
            assert words
            assert read_effect(effect.to_json()) == effect
            assert [one.sentence for one in findings(effect) if not one.open] == []
