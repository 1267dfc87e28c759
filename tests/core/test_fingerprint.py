"""Fingerprints of steps: if they stay the same after a change, the pictures do too."""

from __future__ import annotations

from random import Random
from typing import Any

from pydantic import TypeAdapter

from pale_static.core import Fault
from pale_static.core.changes import Change, apply
from pale_static.core.document import Effect
from pale_static.core.documents.fingerprint import fingerprints
from pale_static.core.documents.graph import Graph
from pale_static.core.engine.plan import make_plan
from pale_static.core.steps import kind_of

from .documents import at, some_value, wipe
from .test_random_documents import CLIP, SMALL, rich

CHANGE: TypeAdapter[Change] = TypeAdapter(Change)


def after(effect: Effect, **change: Any) -> Effect:
    return apply(effect, CHANGE.validate_python(change))[0]


def differing(one: Effect, other: Effect) -> set[str]:
    before, now = fingerprints(one), fingerprints(other)
    return {".".join(place) for place in now if before.get(place) != now[place]}


def some_changes(chance: Random, effect: Effect) -> list[dict[str, Any]]:
    lane = chance.choice(effect.lanes)
    step = chance.choice(list(lane.every))
    place = {"lane": lane.id, "step": step.id}
    changes: list[dict[str, Any]] = [
        {"do": "name-step", **place, "name": "Renamed"},
        {"do": "set-lane", "lane": lane.id, "name": f"Lane {chance.random()}"},
        {"do": "turn-steps", "steps": [place], "on": False},
        {"do": "set-head", "backwards": True},
        {"do": "set-control", "slug": "push", "default": 0.7},
        {"do": "remove-steps", "steps": [place]},
    ]
    if kind_of(step).params:
        param = chance.choice(kind_of(step).params)
        value = some_value(chance, param)
        changes.append({"do": "set-value", **place, "value_name": param.name, "value": value})
    return changes


def test_a_step_with_the_same_fingerprint_is_planned_the_same_after_any_change() -> None:
    # Source: the planner, whose keys name the pixels of every node.
    stayed = moved = 0
    for seed in range(0, 2000, 60):
        chance, effect = Random(seed), rich(seed)
        for change in some_changes(chance, effect):
            try:
                other = after(effect, **change)
            except Fault:
                continue
            before, now = fingerprints(effect), fingerprints(other)
            both = sorted(before.keys() & now.keys())
            for place in chance.sample(both, min(3, len(both))):
                if before[place] != now[place]:
                    moved += 1
                    continue
                stayed += 1
                frame = chance.randrange(25)
                plans = [
                    make_plan(one, at(frame, 25), SMALL, step=place, materials=CLIP)
                    for one in (effect, other)
                ]
                assert plans[0].key == plans[1].key, (seed, change, place)
    assert min(stayed, moved) > 60


def test_a_value_changes_its_step_and_those_that_read_it() -> None:
    effect = wipe(matte=[{"kind": "noise"}, {"kind": "blur"}])
    blur = after(effect, do="set-value", lane="matte", step="m1", value_name="size", value=3)
    assert differing(effect, blur) == {"matte.m1", "out.wipe"}
    readers = {
        ".".join(place)
        for place in Graph(effect).stands
        if ("matte", "m0") in Graph(effect).reached(place)
    }
    noise = after(effect, do="set-value", lane="matte", step="m0", value_name="cells", value=3)
    assert differing(effect, noise) == readers


def test_a_formula_follows_what_sets_the_value_that_it_reads() -> None:
    effect = wipe(matte=[{"kind": "noise"}, {"kind": "blur"}])
    effect = after(effect, do="expose", lane="out", step="wipe", value_name="softness")
    far = {"formula": "out.wipe.softness * 9"}
    effect = after(effect, do="set-value", lane="matte", step="m1", value_name="size", value=far)
    moved = after(effect, do="set-control", slug=effect.controls[-1].slug, default=0.3)
    assert differing(effect, moved) == {"matte.m1", "out.wipe"}


def test_names_notes_and_help_change_no_fingerprint() -> None:
    effect = wipe(matte=[{"kind": "noise"}])
    expose = {"do": "expose", "lane": "matte", "step": "m0", "value_name": "cells"}
    exposed = after(effect, **expose)
    assert differing(effect, exposed) == {"matte.m0", "out.wipe"}
    control = exposed.controls[-1].slug
    for change in (
        {"do": "name-step", "lane": "matte", "step": "m0", "name": "Clouds"},
        {"do": "set-head", "name": "Another", "sentence": "It wipes."},
        {"do": "set-control", "slug": control, "label": "Fineness", "help": "More is finer."},
        {"do": "set-notes", "notes": [{"text": "Feed it with clouds."}]},
    ):
        assert differing(exposed, after(exposed, **change)) == set(), change
