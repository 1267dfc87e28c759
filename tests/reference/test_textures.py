"""Refracted light, drops, dirt and flares: energy, borders, unions and places."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from pale_static.core import Moment, Size
from pale_static.core.kernels.texture import surfaces
from pale_static.core.steps import Call, step_kind

from ..core.documents import RATE

SIZE = Size(192, 108)


def drawn(name: str, frame: int = 0, **values: Any) -> Any:
    kind = step_kind(name)
    given = {param.name: param.default for param in kind.params} | values
    assert len(given) == len(kind.params), values
    return kind.compute(Call(given, SIZE, Moment(frame, 100, RATE)))


def rough_at_the_border(plane: Any) -> tuple[float, float]:
    """Mean difference across the border of tiles, and the largest between neighbours inside."""
    inside = max(np.abs(np.diff(plane, axis=0)).mean(1).max(),
                 np.abs(np.diff(plane, axis=1)).mean(0).max())  # fmt: skip
    across = max(np.abs(plane[0] - plane[-1]).mean(), np.abs(plane[:, 0] - plane[:, -1]).mean())
    return float(across), float(inside)


@pytest.mark.parametrize("twist", [0.0, 4.0])
@pytest.mark.parametrize("focus", [0.0, 0.7, 3.0])
def test_a_caustic_keeps_all_light_and_meets_itself_at_its_borders(
    focus: float, twist: float
) -> None:
    found = drawn("caustic", focus=focus, twist=twist, level=0.3)
    assert found.mean() == pytest.approx(0.3, rel=0.01)
    across, inside = rough_at_the_border(found)
    assert across <= inside + 1e-6
    if focus == 0 and not twist:
        np.testing.assert_allclose(found, 0.3, atol=1e-4)


def test_light_lands_where_rays_of_a_lens_meet() -> None:
    # A surface whose slope focuses all rays of a disc in its middle.
    y, x = np.mgrid[0:64, 0:64].astype(np.float32)
    inside = np.hypot(x - 32, y - 32) < 20
    light = surfaces.landed(np.where(inside, 32 - x, 0), np.where(inside, 32 - y, 0), 1.0)
    assert light.mean() == pytest.approx(1, abs=1e-5)
    near = light[28:37, 28:37].sum()
    assert near == pytest.approx(inside.sum(), rel=0.1)


def test_light_a_hair_before_a_border_stays_in_its_row() -> None:
    for wide in range(2, 400):
        for times in (1, 3, 7, 20):
            right = np.zeros((8, wide), np.float32)
            right[:, 0] = np.nextafter(np.float32(times * wide), np.float32(0))
            light = surfaces.landed(right, np.zeros_like(right), 1.0)
            # All rows are equal, so their light lands equally.
            assert np.abs(light - light[4]).max() < 1e-5, (wide, times)
            assert light.mean() == pytest.approx(1, abs=1e-5), (wide, times)


def test_rays_bend_by_the_slope_of_the_surface() -> None:
    # To first order light is 1 / |1 + focus · bend|: half of it and the whole at small focus.
    weak, weaker = (drawn("caustic", focus=f, level=1.0, sharpness=1) - 1 for f in (0.1, 0.05))
    assert np.corrcoef(weak.ravel(), weaker.ravel())[0, 1] > 0.99
    assert weak.std() / weaker.std() == pytest.approx(2, rel=0.1)


def test_a_caustic_comes_round() -> None:
    begun, ended = drawn("caustic", speed=0), drawn("caustic", phase=1.0, speed=0)
    np.testing.assert_allclose(begun, ended, atol=2e-3)
    assert np.abs(begun - drawn("caustic", phase=0.5, speed=0)).mean() > 0.02
    # At one round in four seconds frame 100 equals frame 0, and continues like its neighbours.
    frames = [drawn("caustic", frame=k, speed=0.25) for k in (0, 1, 99, 100)]
    np.testing.assert_allclose(frames[0], frames[3], atol=2e-3)
    assert np.abs(frames[2] - frames[0]).mean() < 1.5 * np.abs(frames[1] - frames[0]).mean()


def test_drops_that_meet_are_never_lower_than_either() -> None:
    table = np.array([[40.3, 30.0, 12.0, 12.0, 5.0], [55.0, 33.0, 10.0, 14.0, 4.0]])
    one, two, both = (surfaces.drops(60, 100, table[k]) for k in ([0], [1], [0, 1]))
    assert (both >= np.maximum(one, two) - 1e-5).all()
    # A p-norm of two heights: smooth where they meet, and one of them alone elsewhere.
    np.testing.assert_allclose(both, np.cbrt(one**3 + two**3), atol=1e-4)
    alone = (one > 0) & (two == 0)
    np.testing.assert_allclose(both[alone], one[alone], atol=1e-5)
    # A cap: height · √(1 − (r / R)²).
    y, x = np.mgrid[0:60, 0:100] + 0.5
    cap = 5 * np.sqrt(np.clip(1 - ((x - 40.3) ** 2 + (y - 30) ** 2) / 144, 0, 1))
    np.testing.assert_allclose(one, cap, atol=1e-3)


def test_standing_drops_stay_and_runners_fall() -> None:
    still = [drawn("beads", frame=k, slow=0, fast=0) for k in (0, 50)]
    np.testing.assert_array_equal(*still)
    before, after = (drawn("beads", frame=k, density=0.0, slow=0, fast=1, fast_speed=25.0,
                           seed=4) for k in (2, 8))  # fmt: skip
    rows = np.arange(len(before))[:, None]
    lowest = [int((rows * (plane > 0.05)).max()) for plane in (before, after)]
    assert lowest[1] > lowest[0]
    empty = drawn("beads", density=0.0, slow=0, fast=0)
    assert not empty.any()


def test_the_slope_of_drops_is_that_of_their_height() -> None:
    height = drawn("beads", seed=3)
    slope = drawn("beads", output="slope", seed=3)
    gy, gx = np.gradient(height.astype(float) * 10.8)
    np.testing.assert_allclose(slope[..., 0], np.clip(0.5 + gx / 2, 0, 1), atol=1e-5)
    np.testing.assert_allclose(slope[..., 1], np.clip(0.5 + gy / 2, 0, 1), atol=1e-5)
    matte = drawn("beads", output="matte", seed=3)
    assert ((matte > 0) == (height > 0)).all()


def test_dirt_stays_or_is_replaced() -> None:
    for form in ("dust", "hairs", "scratches"):
        still = [drawn("dirt", frame=k, form=form, stay="still") for k in (0, 30)]
        np.testing.assert_array_equal(*still)
        new = [drawn("dirt", frame=k, form=form, life=5) for k in range(6)]
        assert new[0].any()
        # Within five frames all specks are replaced, but not all at once.
        assert 0 < np.abs(new[0] - new[1]).sum() < np.abs(new[0] - new[5]).sum() * 0.9
    few, many = (drawn("dirt", density=n).sum() for n in (10.0, 200.0))
    assert many > 8 * few
    assert not drawn("dirt", density=0.0).any()


def test_dust_that_drifts_moves_by_its_speed() -> None:
    values = {"stay": "still", "drift": 25.0, "angle": 0.0, "density": 1.0, "seed": 2}
    x = np.arange(192)
    middles = []
    for frame in (0, 10):
        dust = drawn("dirt", frame=frame, size_from=4.0, size_to=4.0, **values)
        middles.append((dust.sum(0) * x).sum() / dust.sum())
    # A quarter of the height a second, for 0.4 s.
    assert middles[1] - middles[0] == pytest.approx(0.4 * 0.25 * 108, abs=0.1)


def test_a_flare_is_brightest_at_its_lamp_and_its_ghosts_lie_on_the_line_through_the_middle() -> (
    None
):
    place = (0.2, 0.3)
    lamp = drawn("flare", position=place, ghosts=0.0, streak=0.0)
    y, x = np.unravel_index(lamp[..., 1].argmax(), lamp.shape[:2])
    assert (x + 0.5, y + 0.5) == pytest.approx((0.2 * 192, 0.3 * 108), abs=1)
    both = drawn("flare", position=place, ghosts=1.0, streak=0.0)
    more = both[..., 1] - lamp[..., 1]
    y, x = np.mgrid[0:108, 0:192] + 0.5
    dx, dy = 0.5 * 192 - 0.2 * 192, 0.5 * 108 - 0.3 * 108
    off = ((x - 96) * dy - (y - 54) * dx) / np.hypot(dx, dy)
    # Weighted by their light, ghosts lie evenly around the line.
    assert abs((more * off).sum() / more.sum()) < 1
    assert (more[np.abs(off) > 12] < 1e-5).all()
    assert (both[..., 3] >= np.minimum(both[..., :3].max(-1), 1) - 1e-6).all()
