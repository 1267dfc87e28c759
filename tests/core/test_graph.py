"""Which step reads which, and the kind of each step's result."""

from __future__ import annotations

import pytest

from pale_static.core import Engine, Size
from pale_static.core.built_in import RECIPES, built_in_effect
from pale_static.core.documents.graph import Graph
from pale_static.core.pictures.picture import is_matte

from .documents import at, wipe


@pytest.mark.parametrize("slug", RECIPES)
def test_each_step_gives_the_kind_of_picture_that_the_engine_computes(slug: str) -> None:
    effect, engine = built_in_effect(slug), Engine()
    graph = Graph(effect)
    for place in graph.stands:
        made = engine.evaluate(effect, at(6, 25), Size(32, 18), step=place, passing=True)
        assert graph.gives_matte(place) == is_matte(made.plane), place


def test_the_steps_downstream_come_nearest_first() -> None:
    effect = wipe(matte=[{"kind": "noise"}, {"kind": "blur"}])
    named = [stand.place for stand in Graph(effect).downstream(("matte", "m0"))]
    assert named == [("matte", "m1"), ("out", "wipe")]
    assert not list(Graph(effect).downstream(("out", "wipe")))
