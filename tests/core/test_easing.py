"""Eases against CSS Easing Functions Level 1 and Penner's equations."""

from __future__ import annotations

from typing import get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from pale_static.core.time.easing import Bezier, Family, Named, bezier_at, ease_at

FAMILIES = get_args(Family)
unit = st.floats(0, 1)


@given(unit, unit, st.floats(-2, 3), unit, st.floats(-2, 3))
def test_bezier_solver_agrees_with_a_root_finder(
    x: float, x1: float, y1: float, x2: float, y2: float
) -> None:
    # CSS Easing Level 1, section 2.3: x(t) is solved for t, then y(t). SciPy's brentq solves it.
    def along(t: float, a: float, b: float) -> float:
        return 3 * (1 - t) ** 2 * t * a + 3 * (1 - t) * t * t * b + t**3

    t = brentq(lambda t: along(t, x1, x2) - x, 0, 1, xtol=1e-15) if 0 < x < 1 else x
    if abs(along(t + 1e-7, x1, x2) - along(t - 1e-7, x1, x2)) < 1e-12:
        return  # the curve is vertical there: y is not a function of x at this precision
    assert bezier_at(x, x1, y1, x2, y2) == pytest.approx(along(t, y1, y2), abs=2e-6)


def test_known_css_values() -> None:
    # CSS "ease" is cubic-bezier(0.25, 0.1, 0.25, 1); its value at one half is 0.8024 (from memory).
    assert bezier_at(0.5, 0.25, 0.1, 0.25, 1) == pytest.approx(0.8024, abs=1e-4)
    assert bezier_at(0.5, 0.42, 0, 0.58, 1) == pytest.approx(0.5, abs=1e-9)


# Penner's equations at one quarter, going in (from memory, worked out by hand).
@pytest.mark.parametrize(
    ("family", "value"),
    [
        ("quad", 0.0625), ("cubic", 0.015625), ("quart", 0.00390625), ("quint", 0.0009765625),
        ("sine", 0.0761204675), ("expo", 0.0055242717), ("circ", 0.0317541634),
        ("back", -0.0641365625), ("bounce", 0.02734375), ("elastic", -0.0055242717),
    ],
)  # fmt: skip
def test_families_going_in(family: Family, value: float) -> None:
    assert ease_at(Named(into=family), 0.25) == pytest.approx(value, abs=1e-9)


@pytest.mark.parametrize("family", FAMILIES)
def test_coming_out_mirrors_going_in(family: Family) -> None:
    for k in range(1, 40):
        t = k / 40
        into, out = Named(into=family), Named(out=family)
        assert ease_at(out, t) == pytest.approx(1 - ease_at(into, 1 - t), abs=1e-12)
        both = Named(into=family, out=family)
        assert ease_at(both, t) == pytest.approx(1 - ease_at(both, 1 - t), abs=1e-9)


@pytest.mark.parametrize(
    "ease",
    [
        "linear",
        "hold",
        Bezier(bezier=(0.3, -1, 0.1, 2)),
        *(Named(into=f) for f in FAMILIES),
        *(Named(into="expo", out=f) for f in FAMILIES),
    ],
)
def test_ends_are_exact(ease: object) -> None:
    assert ease_at(ease, 0) == 0  # type: ignore[arg-type]
    assert ease_at(ease, 1) == 1  # type: ignore[arg-type]
    assert ease_at(ease, -0.5) == 0  # type: ignore[arg-type]
    assert ease_at(ease, 1.5) == 1  # type: ignore[arg-type]
