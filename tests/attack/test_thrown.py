"""Broken files, bodies, formulas and addresses: an answer each time, and nothing kept is lost.

How many there are is bounded here; ``make fuzz`` goes on for as long as one likes.
"""

from __future__ import annotations

import random

import pytest

from pale_static.store import Library
from pale_static.web import create_app

from .shots import KINDS, Target

EACH = {"file": 150, "body": 350, "formula": 120, "address": 250}


@pytest.fixture
def target(demo: Library) -> Target:
    app = create_app(demo, cache_bytes=64 << 20)
    app.testing = False
    return Target(demo, app.test_client())


@pytest.mark.parametrize("kind", KINDS)
def test_what_is_thrown_is_answered_and_nothing_is_lost(target: Target, kind: str) -> None:
    for seed in range(EACH[kind]):
        try:
            target.throw(kind, random.Random(f"{kind} {seed}"))
        except AssertionError as fault:
            raise AssertionError(f"seed {kind} {seed}: {fault}") from fault
    after = target.kept()
    assert {number: after[number] for number in target.before} == target.before
