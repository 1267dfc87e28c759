"""Effect documents: valid ones are read, others refused with a place and a reason."""

from __future__ import annotations

import contextlib
import copy
import json
import random
from typing import Any

import jsonschema
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_static.core import Effect, Engine, Fault, Size, read_effect
from pale_static.core.document import effect_schema
from pale_static.core.documents.checking import findings
from pale_static.core.documents.graph import cycle_of
from pale_static.core.kernels.filters.blending import MODES
from pale_static.demo.content import ember_fray, quiet_luma

from .documents import at, chain, wipe

SCHEMA = jsonschema.Draft202012Validator(effect_schema())


@pytest.mark.parametrize("plain", [ember_fray(), quiet_luma(), wipe().to_json()])
def test_shipped_documents_are_valid_by_the_published_schema(plain: dict[str, Any]) -> None:
    SCHEMA.validate(plain)
    effect = read_effect(plain)
    SCHEMA.validate(effect.to_json())
    assert read_effect(effect.to_json()) == effect
    assert not findings(effect)


def broken(change: Any) -> dict[str, Any]:
    plain = copy.deepcopy(ember_fray())
    change(plain)
    return plain


def step(plain: dict[str, Any], lane: str, name: str) -> dict[str, Any]:
    lanes = {one["id"]: one for one in plain["lanes"]}
    return next(one for one in lanes[lane]["steps"] if one["id"] == name)


BROKEN = {
    "an unknown step": (
        lambda p: step(p, "fray", "noise").update(kind="sparkle"), "no step of the kind “sparkle”",
    ),
    "an unknown field": (lambda p: p.update(colour="red"), "has a field “colour”"),
    "an unknown value": (
        lambda p: step(p, "fray", "levels")["values"].update(shine=1), "no value “shine”",
    ),
    "a number out of range": (
        lambda p: step(p, "fray", "noise")["values"].update(octaves=99),
        r"octaves lies between 1 and 10\. It got 99",
    ),
    "a key out of range": (
        lambda p: step(p, "out", "luma-wipe")["values"]["progress"]["keys"][1].update(value=2),
        r"progress lies between 0 and 1\. It got 2",
    ),
    "an input from nowhere": (
        lambda p: step(p, "out", "luma-wipe")["inputs"]["matte"].update(lane="mist"),
        "reads “mist” as its matte",
    ),
    "a control that is not there": (
        lambda p: step(p, "fray", "noise")["values"].update(cells={"control": "gone"}),
        "the control “gone”, which does not exist",
    ),
    "a source in the middle": (
        lambda p: p["lanes"][3]["steps"].append({"id": "f", "kind": "flat"}),
        "starts a lane",
    ),
    "two steps of one name": (
        lambda p: p["lanes"][3]["steps"].append({"id": "noise", "kind": "invert"}),
        "share the name “noise”",
    ),
    "a loop": (
        lambda p: step(p, "fray", "blend")["inputs"]["over"].update(lane="out"),
        r"A loop: .*Fray · blend",
    ),
    "a wrong format": (lambda p: p.update(format="other@1"), "format"),
    "no lanes": (lambda p: p.update(lanes=[]), "lanes"),
    "NaN": (lambda p: step(p, "fray", "noise")["values"].update(cells=float("nan")), "needs a number"),
    "a choice that is none": (
        lambda p: step(p, "direction", "ramp")["values"].update(shape="wavy"), "is one of: linear",
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", BROKEN)
def test_a_broken_document_is_refused_with_place_and_reason(name: str) -> None:
    change, said = BROKEN[name]
    with pytest.raises(Fault, match=said) as caught:
        read_effect(broken(change))
    assert caught.value.where


@pytest.mark.parametrize("raw", [b"", b"not json", b"[1]", b'"text"', b"\xff\xfe", b"null"])
def test_what_is_no_document_is_refused_in_words(raw: bytes) -> None:
    with pytest.raises(Fault, match="not an effect document"):
        read_effect(raw)


def test_what_is_open_in_a_draft_is_told_and_not_refused() -> None:
    plain = ember_fray()
    del plain["lanes"][4]["steps"][1]["inputs"]["matte"]
    found = findings(read_effect(plain))
    assert [one.open for one in found] == [True]
    assert "needs a source for “matte”" in found[0].sentence


def test_a_loop_is_found_and_named_in_order() -> None:
    reads = {("a", "1"): [("b", "1")], ("b", "1"): [("c", "1")], ("c", "1"): [("a", "1")]}
    loop = cycle_of(reads)
    assert loop is not None
    assert loop[0] == loop[-1]
    assert cycle_of({("a", "1"): [("b", "1")], ("b", "1"): []}) is None


unit = st.floats(0, 1)
SOURCES = st.one_of(
    st.fixed_dictionaries(
        {"kind": st.just("noise"), "values": st.fixed_dictionaries({}, optional={
            "cells": st.floats(0.01, 500), "stretch_x": st.floats(0.01, 1000),
            "stretch_y": st.floats(0.01, 1000), "octaves": st.integers(1, 10),
            "roughness": st.floats(0, 2), "lacunarity": st.floats(1, 8),
            "angle": st.floats(-36000, 36000), "phase": st.floats(-10000, 10000),
            "speed": st.floats(-100, 100), "hardness": st.floats(0, 100),
            "white_share": st.floats(-10, 10), "even_out": st.booleans(),
            "seed": st.integers(0, 2**31 - 1),
        })}
    ),
    st.fixed_dictionaries(
        {"kind": st.just("ramp"), "values": st.fixed_dictionaries({}, optional={
            "shape": st.sampled_from(["linear", "radial"]), "start": st.tuples(unit, unit),
            "end": st.tuples(unit, unit), "beyond": st.sampled_from(["clamp", "repeat", "mirror"]),
            "stops": st.lists(st.tuples(unit, st.sampled_from(["#000000", "#FF800040", "#FFFFFF00"])), min_size=1, max_size=4),
        })}
    ),
    st.just({"kind": "flat", "values": {"colour": "#40208060"}}),
)  # fmt: skip
FILTERS = st.one_of(
    st.fixed_dictionaries(
        {"kind": st.just("levels"), "values": st.fixed_dictionaries({}, optional={
            "black_in": st.floats(-10, 10), "white_in": st.floats(-10, 10),
            "gamma": st.floats(0.01, 100), "black_out": st.floats(-10, 10), "white_out": st.floats(-10, 10),
            "channels": st.sampled_from(["together", "red"]),
        }), "mix": unit}
    ),
    st.fixed_dictionaries(
        {"kind": st.just("threshold"), "values": st.fixed_dictionaries(
            {"level": st.floats(-1, 2), "softness": st.floats(0, 4)})}
    ),
    st.just({"kind": "invert"}),
    st.fixed_dictionaries(
        {"kind": st.just("blur"), "values": st.fixed_dictionaries(
            {"size": st.floats(0, 100), "outside": st.sampled_from(["clear", "clamp", "mirror", "repeat"])})}
    ),
    st.fixed_dictionaries(
        {"kind": st.just("blend"), "values": st.fixed_dictionaries(
            {"mode": st.sampled_from(MODES), "opacity": unit}),
         "inputs": st.just({"over": {"lane": "other"}, "matte": {"lane": "other", "channel": "red"}})}
    ),
    st.fixed_dictionaries(
        {"kind": st.just("luma-wipe"), "values": st.fixed_dictionaries(
            {"progress": unit, "softness": st.floats(0, 4), "rim_width": st.floats(0, 2),
             "rim_softness": st.floats(0, 2), "invert": st.booleans()}),
         "inputs": st.just({"incoming": {"lane": "other"}, "matte": {"lane": "other"}})}
    ),
    st.fixed_dictionaries(
        {"kind": st.just("dissolve"), "values": st.fixed_dictionaries(
            {"progress": unit, "style": st.sampled_from(["plain", "additive", "film-like"])}),
         "inputs": st.just({"incoming": {"lane": "other"}})}
    ),
)  # fmt: skip


def lane(name: str, steps: list[dict[str, Any]]) -> dict[str, Any]:
    return {"id": name, "name": name, "steps": [{"id": f"s{k}"} | s for k, s in enumerate(steps)]}


EFFECTS = st.builds(
    lambda one, two, tail: {
        "name": "Any",
        "kind": "texture",
        "lanes": [lane("other", [two]), lane("out", [one, *tail])],
    },
    SOURCES,
    SOURCES,
    st.lists(FILTERS, max_size=5),
)


@given(EFFECTS, st.integers(0, 24), st.sampled_from([(1, 1), (7, 3), (33, 20)]))
def test_any_valid_document_evaluates_finite_and_the_same_twice(
    plain: dict[str, Any], frame: int, size: tuple[int, int]
) -> None:
    SCHEMA.validate(json.loads(json.dumps(plain)))
    effect = read_effect(plain)
    one = Engine().evaluate(effect, at(frame, 25), Size(*size)).plane
    assert np.isfinite(one).all()
    two = Engine(0).evaluate(read_effect(effect.to_json()), at(frame, 25), Size(*size)).plane
    assert one.tobytes() == two.tobytes()


@given(st.randoms(use_true_random=False))
def test_any_mutated_document_is_refused_with_a_reason_or_evaluates(rng: random.Random) -> None:
    plain = copy.deepcopy(ember_fray())
    nodes: list[tuple[Any, Any]] = []

    def walk(node: Any) -> None:
        items = node.items() if isinstance(node, dict) else enumerate(node)
        for key, value in items:
            nodes.append((node, key))
            if isinstance(value, (dict, list)):
                walk(value)

    walk(plain)
    holder, key = rng.choice(nodes)
    match rng.randrange(4):
        case 0:
            del holder[key]
        case 1:
            holder[key] = rng.choice([None, -1, 1e300, "x", [], {}, True, "out", [0.5, 0.5]])
        case 2 if isinstance(holder, dict):
            holder["extra"] = holder[key]
        case _:
            other, name = rng.choice(nodes)
            holder[key] = (
                copy.deepcopy(other[name])
                if name in (other if isinstance(other, dict) else range(len(other)))
                else 0
            )
    found = None
    with contextlib.suppress(Fault):  # any other exception fails the test
        found = Engine(1 << 20).evaluate(read_effect(plain), at(9, 20), Size(16, 9)).plane
    assert found is None or np.isfinite(found).all()


def test_a_digest_changes_with_the_content_only() -> None:
    assert chain({"kind": "noise"}).digest() == chain({"kind": "noise", "values": {}}).digest()
    assert (
        chain({"kind": "noise"}).digest()
        != chain({"kind": "noise", "values": {"seed": 2}}).digest()
    )
    assert isinstance(Effect.model_json_schema(), dict)
