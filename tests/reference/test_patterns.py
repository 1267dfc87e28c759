"""Patterns, shapes and ramps against geometry and SciPy."""

from __future__ import annotations

from math import pi
from typing import Any

import numpy as np
import pytest
from scipy.ndimage import distance_transform_edt

from pale_static.core import Size
from pale_static.core.kernels.texture import shapes
from pale_static.core.steps import Call, step_kind
from pale_static.core.steps.patterns import arrangement, covered

from ..core.documents import at

SMALL = Size(320, 180)


def source(kind: str, within: Size = SMALL, frame: int = 0, **values: Any) -> Any:
    declared = step_kind(kind)
    given = {param.name: param.default for param in declared.params} | values
    checked = {p.name: p.check(given[p.name], p.name) for p in declared.params}
    return declared.compute(Call(checked, within, at(frame)))


@pytest.mark.parametrize("angle", [0, 17, 45, 90])
@pytest.mark.parametrize("white", [0.0, 0.2, 0.5, 0.9, 1.0])
def test_patterns_cover_what_they_are_told(angle: float, white: float) -> None:
    # Large enough that whole cells dominate: within 1 %.
    for softness in (0.0, 0.3):
        found = source(
            "stripes", Size(600, 600), white_share=white, angle=angle, size=4, softness=softness
        )
        assert found.mean() == pytest.approx(white, abs=0.01)
    found = source("checks", Size(600, 600), white_share=white, angle=angle, size=4)
    assert found.mean() == pytest.approx(2 * white * (1 - white), abs=0.01)
    if white <= pi / 4:
        found = source("dots", Size(600, 600), white_share=white, angle=angle, size=4)
        assert found.mean() == pytest.approx(white, abs=0.01)


def test_a_slowly_moving_pattern_does_not_crawl() -> None:
    # In steps of a tenth of a pixel no pixel changes by more than the share of an edge.
    before = source("stripes", size=10, angle=20)
    for k in range(1, 6):
        now = source("stripes", size=10, angle=20, offset=(k * 0.1 / 18, 0))
        assert np.abs(now - before).max() < 0.15
        before = now


def mask(name: str, scale: int, **values: Any) -> np.ndarray:
    return source("shape", Size(160 * scale, 120 * scale), shape=name, **values) > 0.5


@pytest.mark.parametrize(
    ("name", "values"),
    [
        ("rounded box", {"width": 70, "height": 40, "corner": 12, "turn": 25}),
        ("ellipse", {"width": 90, "height": 35, "turn": -40}), ("ellipse", {}),
        ("ellipse", {"width": 100, "height": 4}),
        ("polygon", {"points": 3}), ("polygon", {"points": 7, "turn": 11}),
        ("star", {"points": 5, "inner": 0.4}), ("ring", {"corner": 6}),
        ("line", {"width": 80, "height": 8, "turn": 30}), ("cross", {"inner": 0.3, "turn": 8}),
    ],
)  # fmt: skip
def test_distances_are_those_of_scipy_to_a_pixel(name: str, values: dict[str, Any]) -> None:
    scale = 6
    large = mask(name, scale, **values)
    outside = distance_transform_edt(~large) / scale
    inside = distance_transform_edt(large) / scale
    expected = (outside - inside)[scale // 2 :: scale, scale // 2 :: scale]
    ramp = source("shape", Size(160, 120), shape=name, output="distance", reach=100, **values)
    found = (0.5 - ramp) * 2 * 120
    assert np.abs(found - expected).max() < 1


def test_shapes_have_their_areas() -> None:
    size = Size(400, 400)
    box = source("shape", size, width=50, height=25).mean()
    assert box == pytest.approx(0.125, abs=1e-3)
    assert source("shape", size, shape="ellipse").mean() == pytest.approx(pi * 0.09, abs=1e-3)
    square = source("shape", size, shape="polygon", points=4).mean()
    assert square == pytest.approx(0.18, abs=1e-3)  # half the diagonals' product
    band = source("shape", size, shape="ellipse", output="outline", outline_width=5).mean()
    assert band == pytest.approx(2 * pi * 0.3 * 0.05, abs=1e-3)


def test_a_shape_of_no_size_and_a_huge_one_are_defined() -> None:
    for name in shapes.SHAPES:
        for size in (0, 10000):
            found = source("shape", shape=name, width=size, height=size, softness=3)
            assert np.isfinite(found).all()
            assert 0 <= found.min() <= found.max() <= 1


@pytest.mark.parametrize("cover", [0.0, 0.1, 0.4, 0.8, 0.95])
@pytest.mark.parametrize("rows", [0, 12])
def test_blocks_cover_the_share_they_are_told(cover: float, rows: int) -> None:
    for frame in range(0, 40, 4):
        found = source("blocks", Size(960, 540), frame=frame, density=cover, rows=rows)
        assert found[..., 3].mean() == pytest.approx(cover, abs=0.02)


def test_blocks_are_greys_on_nothing_held_and_the_same_at_any_size() -> None:
    one = source("blocks", Size(640, 360), frame=4, hold=3)
    np.testing.assert_array_equal(one, source("blocks", Size(640, 360), frame=5, hold=3))
    assert np.abs(one - source("blocks", Size(640, 360), frame=6, hold=3)).max() > 0.2
    solid = one[one[..., 3] == 1]
    # Three greys, except at overlapping edges.
    greys = np.abs(solid[:, :1] - (0.25, 0.625, 1.0)).min(1)
    assert (greys < 1e-3).mean() > 0.95
    large = source("blocks", Size(1280, 720), frame=4, hold=3)
    reduced = large.reshape(360, 2, 640, 2, 4).mean((1, 3))
    assert np.abs(reduced - one).mean() < 0.01


def test_the_exact_cover_of_rectangles_is_that_of_a_fine_grid() -> None:
    rects = arrangement(5, 2, 30, (2, 30), (1, 9), 3, 0, 0.5)
    grid = np.zeros((2000, 2000), bool)
    for left, top, right, bottom, _ in rects:
        x0, x1 = (round(np.clip(v, 0, 1) * 2000) for v in (left, right))
        y0, y1 = (round(np.clip(v, 0, 1) * 2000) for v in (top, bottom))
        grid[y0:y1, x0:x1] = True
    assert covered(rects) == pytest.approx(grid.mean(), abs=2e-3)


def test_ramps_turn_and_make_diamonds() -> None:
    size = Size(201, 201)
    centre = (100.5 / 201, 100.5 / 201)
    right = (200.5 / 201, 100.5 / 201)
    angular = source("ramp", size, shape="angular", start=centre, end=right)
    for (y, x), share in {(180, 100): 0.25, (100, 20): 0.5, (20, 100): 0.75}.items():
        assert angular[y, x] == pytest.approx(share, abs=1e-3)
    diamond = source("ramp", size, shape="diamond", start=centre, end=right)
    for y, x in ((100, 150), (150, 100), (125, 125), (75, 125)):
        assert diamond[y, x] == pytest.approx(0.5, abs=1e-3)


def test_stops_are_eased_one_by_one() -> None:
    stops = [[0, "#000000", "hold"], [0.5, "#808080"], [1, "#FFFFFF"]]
    row = source("ramp", Size(200, 3), stops=stops)[1, :, 0]
    assert row[:99].max() == 0
    assert row[100:].min() > 0.49
    assert row[150] == pytest.approx(0.752, abs=0.01)
    with pytest.raises(Exception, match="the ease of a stop is an ease"):
        source("ramp", stops=[[0, "#000000", "wobble"], [1, "#FFFFFF"]])
