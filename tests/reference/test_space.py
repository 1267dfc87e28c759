"""Space against SciPy, OpenCV and geometry."""

from __future__ import annotations

from math import cos, hypot, radians, sin
from typing import Any

import cv2
import numba
import numpy as np
import pytest
from scipy.ndimage import map_coordinates

from pale_static.core import Engine, Materials, Moment, Size, StillPicture
from pale_static.core.kernels.filters import space
from pale_static.core.pictures import sampling
from pale_static.core.pictures.borders import RULES
from pale_static.core.steps import Call, step_kind
from pale_static.core.steps.placing import cover, forward, placement, reading
from pale_static.core.steps.space import GRIDS, _cells, spectrum
from pale_static.core.steps.waves import slide_offsets

from ..core.documents import RATE, at
from ..core.test_film import look

RNG = np.random.default_rng(7)
MODES = {"clear": "grid-constant", "clamp": "nearest", "mirror": "reflect", "repeat": "grid-wrap"}


def from_python(part: Any) -> Any:
    """A kernels' function, made callable from Python."""
    compiled = part.ready() if hasattr(part, "ready") else part  # or compiled with a kernel
    return numba.njit(lambda *arguments: compiled(*arguments))


def run(kind: str, main: Any, frame: int = 0, inputs: Any = None, **values: Any) -> Any:
    declared = step_kind(kind)
    given = {param.name: param.default for param in declared.params} | values
    assert len(given) == len(declared.params), values
    size = Size(main.shape[1], main.shape[0])
    return declared.compute(Call(given, size, at(frame), inputs=inputs or {}, arriving=main))


def picture(height: int = 54, width: int = 96) -> Any:
    return RNG.random((height, width, 4), np.float32)


def smooth(height: int = 120, width: int = 200) -> Any:
    """A matte without fine detail, so that sampling loses nothing."""
    y, x = np.mgrid[0:height, 0:width]
    return (0.5 + 0.25 * np.sin(x / 19) + 0.25 * np.cos(y / 13 + x / 31)).astype(np.float32)


@pytest.mark.parametrize("outside", RULES)
@pytest.mark.parametrize("reach", [1.0, 4.0])
def test_reading_between_and_beyond_pixels_is_scipys(outside: str, reach: float) -> None:
    matte = RNG.random((54, 96), np.float32)
    y, x = np.mgrid[0:54, 0:96]
    matrix = np.array([[0.9, 0.2, -3.3], [-0.15, 1.1, 4.7]]) * reach
    px = matrix[0, 0] * x + matrix[0, 1] * y + matrix[0, 2]
    py = matrix[1, 0] * x + matrix[1, 1] * y + matrix[1, 2]
    expected = map_coordinates(matte.astype(float), [py, px], order=1, mode=MODES[outside])
    # Places are held in float32: a ten-thousandth of a pixel, on noise.
    assert np.abs(sampling.affine(matte, matrix, outside) - expected).max() < 3e-4
    places = np.stack([px, py], -1).astype(np.float32)
    assert np.abs(sampling.mapped(matte, places, outside) - expected).max() < 3e-4
    full = np.repeat(matte[..., None], 4, 2)
    assert np.abs(sampling.mapped(full, places, outside)[..., 2] - expected).max() < 3e-4


def test_places_that_are_no_numbers_read_nothing_and_harm_nothing() -> None:
    places = np.zeros((4, 5, 2), np.float32)
    places[0, 0], places[1, 1], places[2, 2] = np.nan, np.inf, 1e30
    for outside in RULES:
        found = sampling.mapped(np.ones((4, 5, 4), np.float32), places, outside)
        assert np.isfinite(found).all()
    assert (sampling.mapped(np.ones((4, 5), np.float32), places, "clear")[0, 0]) == 0


def test_a_turn_is_clockwise_and_a_shift_goes_right_and_down() -> None:
    dot = np.zeros((101, 201), np.float32)
    dot[50, 150] = 1  # half a frame height right of the centre
    down = run("transform", dot, turn=90)
    assert np.unravel_index(down.argmax(), down.shape) == (100, 100)
    moved = run("transform", dot, position=(0.5 - 50 / 201, 0.5 + 10 / 101))
    assert np.unravel_index(moved.argmax(), moved.shape) == (60, 100)


def test_transforms_that_follow_one_another_resample_once() -> None:
    pixels = RNG.integers(0, 256, (54, 96, 3), np.uint8)
    clips = Materials({"clip": StillPicture("noise", pixels)})
    size, moment = Size(96, 54), Moment(0, 10, RATE)
    there = {"kind": "transform", "values": {"turn": 37, "scale_x": 1.3, "outside": "mirror"}}
    back = {"kind": "transform", "values": {"scale_x": 1 / 1.3, "outside": "mirror"}}
    again = {"kind": "transform", "values": {"turn": -37, "outside": "mirror"}}
    plain = Engine().evaluate(look(), moment, size, materials=clips).picture
    # Scaled, then turned; so first turned back, then scaled back.
    found = Engine().evaluate(look(there, again, back), moment, size, materials=clips).picture
    assert np.abs(found - plain).max() < 1e-3
    other = {"kind": "transform", "values": {"turn": -37, "outside": "clear"}}
    mixed = Engine().evaluate(look(there, other, back), moment, size, materials=clips).picture
    assert np.abs(mixed - plain).max() > 0.1


@pytest.mark.parametrize(("width", "height"), [(1600, 900), (900, 1600), (1000, 1000), (1680, 720)])
@pytest.mark.parametrize("turn", [0.0, 3, 7, 20, 45, -77, 90, 133])
def test_cover_is_the_least_scale_without_a_clear_corner(
    width: int, height: int, turn: float
) -> None:
    size = Size(width // 2, height // 2)
    k = cover(forward(size, turn=turn), size)
    white = np.ones((size.height, size.width), np.float32)
    for nearest in (False, True):
        for factor, clear in ((1.0, False), (0.99, True)):
            matrix = forward(size, turn=turn) @ forward(size, scale=(k * factor, k * factor))
            seen = sampling.affine(white, reading(matrix), "clear", nearest)
            assert bool((seen < 0.999).any()) == clear
    if (width, turn) == (1600, 20):
        # Geometry; common practice rounds it up to 1.6.
        whole = cos(radians(20)) + 16 / 9 * sin(radians(20))
        assert k == pytest.approx(whole, abs=1e-3)
        large = Size(7680, 4320)
        assert cover(forward(large, turn=turn), large) == pytest.approx(whole, abs=1e-4)
        assert k == pytest.approx(1.548, abs=1e-3)


def test_a_picture_scaled_to_nothing_is_clear() -> None:
    assert run("transform", picture(), scale_x=0.0).max() == 0
    assert run("transform", picture(), scale_x=0.0, cover=True).max() == 0


def test_moved_corners_alone_are_a_bilinear_map() -> None:
    matte = smooth()
    corners = {"top_left": (0.1, -0.1), "top_right": (0.9, 0.2), "bottom_right": (1.1, 0.95)}
    found = run("corner-pull", matte, **corners)
    p = np.array([(0.1, -0.1), (0.9, 0.2), (1.1, 0.95), (0, 1)])
    for u, v in ((0.3, 0.5), (0.7, 0.6), (0.5, 0.8)):
        x, y = ((1 - v) * ((1 - u) * p[0] + u * p[1]) + v * ((1 - u) * p[3] + u * p[2])) * (
            200,
            120,
        ) - 0.5
        seen = map_coordinates(found.astype(float), [[y], [x]], order=1)[0]
        there = map_coordinates(matte.astype(float), [[v * 120 - 0.5], [u * 200 - 0.5]], order=1)[0]
        assert seen == pytest.approx(there, abs=0.01)


def test_pulling_the_top_edge_up_stretches_towards_it_and_leaves_the_bottom() -> None:
    matte = smooth()
    found = run("corner-pull", matte, top_left=(0, -0.5), top_right=(1, -0.5), outside="clamp")
    np.testing.assert_allclose(found[-1], matte[-1], atol=0.02)
    y = np.arange(120)
    source = (1 - (1 - (y + 0.5) / 120) / 1.5) * 120 - 0.5
    places = [source, np.full(120, 100.0)]
    expected = map_coordinates(matte.astype(float), places, order=1, mode="nearest")
    np.testing.assert_allclose(found[:, 100], expected, atol=0.01)


def test_a_pulled_edge_middle_passes_through_where_it_was_put() -> None:
    white = np.ones((120, 200), np.float32)
    found = run("corner-pull", white, top=(0.5, 0.3))
    assert found[int(0.25 * 120), 100] == 0
    assert found[int(0.36 * 120), 100] == 1
    assert found[2, 3] > 0.5


@pytest.mark.parametrize("mode", ["along axes", "from the centre"])
def test_displacement_reads_where_the_map_says(mode: str) -> None:
    main = smooth()
    for grey, shift in ((0.5, 0), (1.0, 0.5), (0.0, -0.5)):
        source = np.full(main.shape, grey, np.float32)
        found = run("displace", main, inputs={"map": source}, amount_x=10, amount_y=20, mode=mode)
        y, x = np.mgrid[0:120, 0:200].astype(float)
        if mode == "along axes":
            px, py = x + shift * 20, y + shift * 24
        else:
            dx, dy = x - 99.5, y - 59.5
            r = np.hypot(dx, dy)
            px, py = x + dx / r * shift * 20, y + dy / r * shift * 24
        expected = map_coordinates(main.astype(float), [py, px], order=1, mode="nearest")
        np.testing.assert_allclose(found, expected, atol=2e-4)


def test_two_maps_shift_across_and_down_apart_and_a_slope_pushes_along_itself() -> None:
    main = smooth()
    one, half = np.ones_like(main), np.full_like(main, 0.5)
    found = run("displace", main, inputs={"map": one, "map_y": half}, amount_x=10, amount_y=50)
    np.testing.assert_allclose(found[:, :180], main[:, 10:190], atol=1e-4)
    ramp = np.tile(np.linspace(0, 1, 200, dtype=np.float32), (120, 1))
    found = run("displace", main, inputs={"map": ramp}, mode="along the slope", amount_x=10)
    # The gradient is (1/199) a pixel, so 1.2/199 for each percent of 120 lines; of 20 pixels.
    x = np.arange(200) + 1.2 / 199 * 20
    expected = map_coordinates(main.astype(float), [np.full(200, 60.0), x], order=1, mode="nearest")
    np.testing.assert_allclose(found[60, 1:-1], expected[1:-1], atol=1e-4)


@pytest.mark.parametrize(("k1", "k2"), [(0.3, 0.0), (-0.2, 0.0), (0.1, 0.2)])
def test_lens_bend_is_opencvs_radial_model(k1: float, k2: float) -> None:
    main, size = smooth(), Size(200, 120)
    found = run("lens-bend", main, bend=k1, bend_further=k2, fill=False, outside="clamp")
    # cv2.projectPoints with a focal length of half the diagonal and only k1, k2.
    focal = hypot(size.width, size.height) / 2
    camera = np.array([[focal, 0, 99.5], [0, focal, 59.5], [0, 0, 1]])
    y, x = np.mgrid[0:120, 0:200].astype(float)
    rays = np.stack([(x - 99.5) / focal, (y - 59.5) / focal, np.ones_like(x)], -1).reshape(-1, 3)
    zero = np.zeros(3)
    seen, _ = cv2.projectPoints(rays, zero, zero, camera, np.array([k1, k2, 0, 0.0]))
    px, py = seen.reshape(120, 200, 2)[..., 0], seen.reshape(120, 200, 2)[..., 1]
    expected = map_coordinates(main.astype(float), [py, px], order=1, mode="nearest")
    np.testing.assert_allclose(found, expected, atol=2e-4)


@pytest.mark.parametrize("bend", [-0.8, -0.1, 0.05, 0.5, 2.0])
@pytest.mark.parametrize("size", [(120, 200), (200, 120), (90, 90)])
def test_a_filled_lens_leaves_no_clear_pixel(bend: float, size: tuple[int, int]) -> None:
    white = np.ones(size, np.float32)
    assert run("lens-bend", white, bend=bend, outside="clear").min() > 0.999
    if bend > 0:
        assert run("lens-bend", white, bend=bend, fill=False, outside="clear").min() == 0


@pytest.mark.parametrize("samples", [3, 4, 7, 16])
@pytest.mark.parametrize("direction", ["radial", "along an angle"])
def test_a_split_leaves_neutral_areas_neutral(samples: int, direction: str) -> None:
    assert spectrum(samples).sum(0) == pytest.approx(np.ones(3))
    grey = np.full((40, 60, 4), 0.5, np.float32)
    grey[..., 3] = 1
    found = run("colour-split", grey, amount=0.5, samples=samples, direction=direction)
    np.testing.assert_allclose(found, grey, atol=1e-6)


def test_a_split_moves_red_and_blue_apart_by_the_amount_of_half_the_width() -> None:
    line = np.zeros((41, 201, 4), np.float32)
    line[:, 100] = 1
    found = run("colour-split", line, amount=0.1, direction="along an angle", angle=0)
    places = [int(found[20, :, c].argmax()) for c in range(3)]
    # Half of 201 pixels times 0.1: red to the left, blue to the right.
    assert places == [90, 100, 110]
    off = run("colour-split", line, amount=0.0)
    assert off is line


def test_ten_cells_make_nine_whole_columns_and_two_halves() -> None:
    # Common practice (eight-bit looks): 0.1 with rounding, the same at any frame size.
    for width in (100, 960, 1280, 1920):
        columns, reads = _cells(width, 0.1, GRIDS[0])
        counts = np.bincount(columns)
        assert len(counts) == 11
        assert set(counts[1:-1]) == {width // 10}
        assert counts[0] == counts[-1] == width // 20
        assert reads == pytest.approx(np.arange(11) / 10)
    ramp = np.tile(np.arange(100, dtype=np.float32), (100, 1))
    found = run("pixelate", ramp)
    assert list(np.unique(found)) == [0, 10, 20, 30, 40, 50, 60, 70, 80, 90, 99]
    floors = run("pixelate", ramp, grid=GRIDS[1])
    assert list(np.unique(floors)) == list(range(0, 100, 10))
    assert set(np.unique(run("pixelate", ramp, grid=GRIDS[2]))) == set(range(5, 100, 10))


def test_averaged_cells_hold_the_mean_of_what_they_cover() -> None:
    main = picture(60, 90)
    found = run("pixelate", main, cell=0.25, square=True, grid=GRIDS[1],
                sampling="average")  # fmt: skip
    np.testing.assert_allclose(found[0, 0], main[:15, :15].mean((0, 1)), atol=1e-5)
    assert found.mean() == pytest.approx(main.mean(), rel=1e-5)


def test_rings_push_by_the_amount_and_a_twirl_keeps_its_outside() -> None:
    x = np.arange(200)
    ramp = np.tile(x.astype(np.float32), (120, 1))
    found = run("ripple", ramp, amount=5, wavelength=25, phase=0.0)
    # 6 pixels at most; to the right of the centre the push is along x.
    r = x[120:] - 99.5
    expected = x[120:] + 6 * np.sin(2 * np.pi * np.hypot(r, 0.5) / 30) * r / np.hypot(r, 0.5)
    np.testing.assert_allclose(found[60, 120:190], expected[:70], atol=0.01)
    main = smooth()
    wound = run("twirl", main, turn=200, radius=40)
    np.testing.assert_array_equal(wound[:, :45], main[:, :45])
    assert np.abs(wound - main).max() > 0.1


def test_what_is_rolled_up_unrolls_again() -> None:
    y, x = np.mgrid[0:180, 0:320]
    main = (0.5 + 0.3 * np.sin(x / 320 * 4 * np.pi) * np.cos(y / 40)).astype(np.float32)
    rolled = run("polar", main)
    back = run("polar", rolled, direction="unroll", outside="clamp")
    # The middle of the radius: inside the frame all round, and not at the crowded centre.
    assert np.abs(back[30:80] - main[30:80]).max() < 0.06


def test_mirrored_tiles_meet_without_a_seam() -> None:
    main = picture(60, 80)
    tiles = run("mirror-tiles", main, across=2, down=2)
    whole = run("mirror-tiles", main, across=1, down=1)
    np.testing.assert_allclose(whole, main, atol=1e-5)
    # Two by two about the centre: the whole picture in the middle, mirror images around it.
    np.testing.assert_allclose(tiles[:, 19], tiles[:, 20], atol=1e-5)
    np.testing.assert_allclose(tiles[14], tiles[15], atol=1e-5)


def test_rows_slide_by_seed_and_arrangement_alone() -> None:
    main = picture(80, 120)
    frames = [run("slide-rows", main, frame=f, hold=3, band=10, share=1.0) for f in range(6)]
    np.testing.assert_array_equal(frames[0], frames[2])
    assert np.abs(frames[2] - frames[3]).max() > 0
    offsets = slide_offsets(10, 1.0, 1, 0)
    row = np.arange(120, dtype=np.float32)
    shift = offsets[3] * 12
    expected = np.interp(
        (row - shift) % 120, np.arange(121), np.append(main[27, :, 1], main[27, 0, 1])
    )
    np.testing.assert_allclose(frames[0][27, :, 1], expected, atol=2e-3)
    moved = np.mean([np.abs(slide_offsets(200, 0.3, k, 0)) > 0 for k in range(20)])
    assert moved == pytest.approx(0.3, abs=0.04)
    assert placement(Size(10, 10)).shape == (2, 3)


def test_a_patch_read_between_places_is_the_patch_also_at_the_border() -> None:
    # Bent strongly at the top left: each place, mapped by the patch, comes back to its pixel.
    points = np.array(
        [(0.1, 0.12), (0.35, 0.0), (1, 0), (1, 0.5), (1, 1), (0.5, 1), (0, 1), (0.0, 0.3)]
    )
    places, side = space.pulled(96, 160, points), from_python(space._side)
    for y, x in ((0, 20), (3, 90), (8, 15), (15, 1), (40, 8), (50, 80), (95, 159), (60, 2)):
        u, v = (places[y, x] + 0.5) / (160, 96)
        if places[y, x, 0] < -1e5:
            continue
        x_at = side(u, v, *points[:, 0])[0] * 160 - 0.5
        y_at = side(u, v, *points[:, 1])[0] * 96 - 0.5
        assert (x_at, y_at) == pytest.approx((x, y), abs=0.1)
