"""The monitor: views, channels, probe, guides, zoom, shapes and handles, read from its pixels."""

from __future__ import annotations

import io
import re
import urllib.request
from typing import Any

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from pale_static.core import Size
from pale_static.core.steps.placing import forward

from ..server import Server
from .bench_parts import build, grab, middle, open_draft, pixels, step
from .conftest import preview, visit
from .test_bench_more import kept
from .test_places import changed, now
from .test_whole_job import value


@pytest.fixture
def draft(server: Server) -> Any:
    """A look that inverts the clip and softens it."""
    return build(server, "look", "Seen", step("out", "invert"), step("out", "blur", size=3))


def frame(server: Server, draft: Any, **query: Any) -> np.ndarray:
    """The exact frame as the API gives it, RGBA."""
    asked = {"frame": 0, "length": draft["frames"], "width": 320, "height": 180} | query
    text = "&".join(f"{name}={one}" for name, one in asked.items())
    path = f"/api/effects/{draft['id']}/{now(server, draft)['revision']}/frame.png?{text}"
    with urllib.request.urlopen(server.address + path) as answer:
        return np.asarray(Image.open(io.BytesIO(answer.read())).convert("RGBA")).astype(int)


def view(page: Page, name: str) -> None:
    page.get_by_role("tab", name=name).click()
    page.wait_for_function(
        "() => document.querySelector('[data-testid=compared]')?.dataset.ready === 'true'"
    )


def choose(page: Page, label: str, option: str) -> None:
    page.get_by_label(label).click(force=True)
    page.locator(".ant-select-item-option").filter(has_text=re.compile(f"^{option}$")).click()


def test_split_shows_one_picture_left_of_its_line_and_the_other_right(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    view(page, "Split")
    page.wait_for_timeout(300)
    clip = frame(server, draft, step="clip.slot")
    result = frame(server, draft)
    seen = pixels(page)
    assert np.array_equal(seen[:, :150], clip[:, :150])
    assert np.array_equal(seen[:, 170:], result[:, 170:])
    line = page.get_by_role("slider", name="Line between the two pictures")
    grab(page, line, middle(page.get_by_test_id("compared"), 0.2))
    page.mouse.up()
    seen = pixels(page)
    assert np.array_equal(seen[:, 80:], result[:, 80:])
    line.press("ArrowRight")
    expect(line).to_have_attribute("aria-valuenow", "22")
    # Without the selected step.
    page.locator("[data-place='out.blur'] .StepCard-stepName").click()
    choose(page, "Held against", "without this step")
    page.wait_for_timeout(500)
    assert np.array_equal(pixels(page)[:, :60], frame(server, draft, without="out.blur")[:, :60])


def test_the_difference_is_exact_and_says_how_much(page: Page, server: Server, draft: Any) -> None:
    open_draft(page, draft)
    view(page, "Difference")
    choose(page, "Gain of the difference", "2")
    page.wait_for_timeout(400)
    clip, result = frame(server, draft, step="clip.slot"), frame(server, draft)
    wanted = np.minimum(np.abs(clip - result)[..., :3] * 2, 255)
    assert np.array_equal(pixels(page)[..., :3], wanted)
    most = int(np.abs(clip - result).max())
    expect(page.locator(".Against-comparedSaid")).to_contain_text(
        f"largest difference {most} of 255"
    )
    for name in ("invert", "blur"):
        page.locator(f"[data-place='out.{name}'] .StepCard-stepOn").click()
    expect(page.locator(".Against-comparedSaid")).to_have_text("no difference")


def test_two_moments_lie_over_each_other(page: Page, server: Server, draft: Any) -> None:
    open_draft(page, draft)
    view(page, "Two moments")
    playhead = page.get_by_role("slider", name="Playhead")
    playhead.focus()
    playhead.press("End")
    page.wait_for_timeout(600)
    one, two = frame(server, draft), frame(server, draft, frame=49)
    assert np.array_equal(pixels(page), (one + two + 1) // 2)
    page.get_by_role("button", name="Take this frame").click()
    page.wait_for_timeout(600)
    assert np.array_equal(pixels(page), two)


def test_one_channel_is_seen_as_grey(page: Page, server: Server) -> None:
    draft = build(server, "look", "Part", step("out", "colour-split"))
    open_draft(page, draft)
    whole = frame(server, draft)
    for channel, weights in {  # of ITU-R BT.709
        "red": (1, 0, 0, 0), "green": (0, 1, 0, 0), "blue": (0, 0, 1, 0), "alpha": (0, 0, 0, 1),
        "luminance": (0.2126, 0.7152, 0.0722, 0),
    }.items():  # fmt: skip
        choose(page, "What of the colours is shown", channel)
        page.wait_for_function(
            "() => document.querySelector('[data-testid=compared]')?.width === 320"
        )
        page.wait_for_timeout(250)
        assert np.abs(pixels(page)[..., 0] - whole @ np.array(weights)).max() <= 0.51, channel
    # Another effect opens in colour.
    other = build(server, "look", "Next", step("out", "invert"))
    visit(page, f"/bench/{other['id']}")
    expect(page.get_by_role("region", name="Lane Out")).to_contain_text("Invert")
    expect(page.get_by_test_id("compared")).to_be_hidden()


def test_a_value_is_tried_in_the_split_too(page: Page, server: Server, draft: Any) -> None:
    open_draft(page, draft)
    view(page, "Split")
    page.locator("[data-place='out.blur'] .StepCard-stepName").click()
    before = pixels(page)
    slider = value(page, "size").locator("[type=range]")  # type: ignore[attr-defined]
    grab(page, slider, middle(slider, 0.9))
    page.wait_for_timeout(900)
    assert now(server, draft)["revision"] == draft["revision"]
    during = pixels(page)
    assert np.abs(during[:, 200:].astype(int) - before[:, 200:]).max() > 8
    page.mouse.up()


def test_v_goes_through_the_views(page: Page, draft: Any) -> None:
    open_draft(page, draft)
    for name in ("This step", "Split", "Two moments", "Difference", "Result"):
        page.keyboard.press("v")
        expect(page.get_by_role("tab", name=name, exact=True)).to_have_attribute(
            "aria-selected", "true"
        )


def test_the_probe_reads_values_before_and_after_the_step(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    page.locator("[data-place='out.invert'] .StepCard-stepName").click()
    page.get_by_role("button", name="probe").click()
    screen = page.get_by_test_id("screen")
    page.mouse.move(*middle(screen, 0.31, 0.62))
    line = page.get_by_role("status", name="Values under the pointer")
    expect(line).to_contain_text("before")
    page.wait_for_timeout(300)
    words = line.inner_text()
    numbers = [float(one.replace("−", "-")) for one in re.findall(r"−?\d\.\d{3}", words)]
    x, y, before, after = numbers[0], numbers[1], numbers[2:6], numbers[6:10]
    assert np.allclose(np.subtract(1, before[:3]), after[:3], atol=0.002)
    clip = frame(server, draft, step="clip.slot")
    there = clip[int(y * 180), int(x * 320)]
    assert np.allclose(np.array(before) * 255, there, atol=1)


def test_a_colour_is_taken_from_the_monitor(page: Page, server: Server) -> None:
    draft = build(
        server, "texture", "Pick",
        {"do": "set-value", "lane": "out", "step": "flat", "value_name": "colour", "value": "#3366CC"},
        {"do": "add-lane", "name": "Other"}, step("other", "flat"),
    )  # fmt: skip
    open_draft(page, draft)
    page.locator("[data-place='other.flat'] .StepCard-stepName").click()
    page.get_by_role("button", name="colour: take from the monitor").click()
    expect(page.get_by_text("Click where the colour is.")).to_be_visible()
    page.mouse.click(*middle(page.get_by_test_id("screen"), 0.4, 0.4))
    kept(page, draft, "d.effect.lanes[0].steps[0].values.colour === '#3366CC'")
    page.get_by_role("button", name="colour: take from the monitor").click()
    page.keyboard.press("Escape")
    expect(page.get_by_text("Click where the colour is.")).to_be_hidden()


def test_safe_areas_are_where_the_standards_have_them(page: Page, draft: Any) -> None:
    """EBU R 95 and SMPTE ST 2046-1: 93 % and 90 % of the frame, from memory."""
    open_draft(page, draft)
    page.get_by_role("button", name="guides").click()
    page.get_by_role("menuitem", name="Safe areas").click()
    screen = page.get_by_test_id("screen").bounding_box()
    assert screen
    for name, share in (("action", 0.93), ("lettering", 0.9)):
        box = page.locator(f"[data-area={name}]").evaluate(
            "r => { const b = r.getBoundingClientRect(); return [b.x, b.y, b.width, b.height]; }"
        )
        assert box[2] == pytest.approx(screen["width"] * share, abs=2.5)
        assert box[3] == pytest.approx(screen["height"] * share, abs=2.5)
        assert box[0] == pytest.approx(screen["x"] + screen["width"] * (1 - share) / 2, abs=2.5)


def test_looking_closer_keeps_the_point_under_the_pointer(page: Page, draft: Any) -> None:
    open_draft(page, draft)
    screen = page.get_by_test_id("screen")
    fitted = screen.bounding_box()
    assert fitted
    at = middle(screen, 0.25, 0.75)
    page.mouse.move(*at)
    page.mouse.wheel(0, -100)
    page.wait_for_timeout(100)
    page.mouse.wheel(0, -100)
    page.wait_for_timeout(150)
    large = screen.bounding_box()
    assert large
    assert large["width"] == pytest.approx(fitted["width"] * 1.44, rel=0.01)
    assert (at[0] - large["x"]) / large["width"] == pytest.approx(0.25, abs=0.01)
    assert (at[1] - large["y"]) / large["height"] == pytest.approx(0.75, abs=0.01)
    page.mouse.down()
    page.mouse.move(at[0] + 30, at[1] - 20, steps=3)
    page.mouse.up()
    moved = screen.bounding_box()
    assert moved
    assert (moved["x"] - large["x"], moved["y"] - large["y"]) == pytest.approx((30, -20), abs=1)
    page.get_by_role("button", name="Fit the picture").click()
    assert screen.bounding_box() == fitted


def test_other_shapes_and_sizes_of_frame_are_tried(page: Page, draft: Any) -> None:
    preview(page, None)
    open_draft(page, draft)
    canvas = page.get_by_test_id("screen")
    menu = page.get_by_role("button", name="Frame shape and preview size")
    for shape, size in (
        ("9:16", [540, 960]),
        ("1:1", [540, 540]),
        ("4:5", [540, 676]),
        ("16:9", [960, 540]),
    ):
        menu.click()
        page.get_by_role("menuitem", name=f"Shape {shape}").click()
        page.keyboard.press("Escape")
        page.wait_for_function(
            "([w, h]) => { const c = document.querySelector('[data-testid=screen]'); return c.width === w && c.height === h; }",
            arg=size,
        )
        box = canvas.bounding_box()
        assert box
        assert box["width"] / box["height"] == pytest.approx(size[0] / size[1], rel=0.02)
    menu.click()
    field = page.get_by_label("Own shape: width")
    field.fill("21")
    field.press("Enter")
    page.get_by_label("Own shape: height").fill("9")
    page.get_by_label("Own shape: height").press("Enter")
    page.keyboard.press("Escape")
    page.wait_for_function("() => document.querySelector('[data-testid=screen]').width === 1260")
    # At each size, length and frame, every card shows its step's cost.
    costs = page.locator(".StepCard-stepHead .mono")
    steps = costs.count()
    assert steps > 1
    page.get_by_role("button", name="25", exact=True).click()
    page.get_by_role("slider", name="Playhead").press("ArrowRight")
    expect(costs.filter(has_text=re.compile(r"\d"))).to_have_count(steps)


SHAPE = {"do": "add-lane", "name": "Side"}


def test_points_angles_and_boxes_are_taken_hold_of_on_the_picture(
    page: Page, server: Server
) -> None:
    draft = build(server, "look", "Hold", SHAPE, step("side", "shape"), step("out", "twirl"))
    open_draft(page, draft)
    canvas = page.get_by_test_id("screen")
    page.locator("[data-place='side.shape'] .StepCard-stepName").click()
    grab(page, page.get_by_role("slider", name="centre on the picture"), middle(canvas, 0.25, 0.3))
    page.mouse.up()
    kept(page, draft, "Math.abs(d.effect.lanes[1].steps[0].values.centre?.[0] - 0.25) < 0.01")
    centre = now(server, draft)["effect"]["lanes"][1]["steps"][0]["values"]["centre"]
    assert centre == pytest.approx([0.25, 0.3], abs=0.01)
    grab(
        page,
        page.get_by_role("slider", name="Corner of the box on the picture"),
        middle(canvas, 0.35, 0.5),
    )
    page.mouse.up()
    kept(page, draft, "Math.abs(d.effect.lanes[1].steps[0].values.height - 40) < 2")
    values = now(server, draft)["effect"]["lanes"][1]["steps"][0]["values"]
    assert values["width"] == pytest.approx(0.1 * 2 * 100 * 16 / 9, abs=2)
    page.locator("[data-place='out.twirl'] .StepCard-stepName").click()
    handle = page.get_by_role("slider", name="turn on the picture")
    handle.focus()
    before = float(handle.get_attribute("aria-valuenow") or "nan")
    handle.press("Shift+ArrowRight")
    kept(page, draft, f"d.effect.lanes[2].steps[1].values.turn === {before + 15}")
    point = page.get_by_role("slider", name="centre on the picture")
    point.focus()
    point.press("ArrowDown")
    kept(page, draft, "Math.abs(d.effect.lanes[2].steps[1].values.centre[1] - 0.51) < 1e-6")


def test_a_turned_frame_is_scaled_by_its_corner(page: Page, server: Server) -> None:
    how = {"turn": 30, "pivot": [0.25, 0.5], "position": [0.6, 0.5], "scale_x": 0.4, "scale_y": 0.4}
    draft = build(server, "look", "Scale", step("out", "transform", **how))
    open_draft(page, draft)
    page.locator("[data-place='out.transform'] .StepCard-stepName").click()
    corner = page.get_by_role("slider", name="Corner of the box on the picture")
    grab(page, corner, middle(page.get_by_test_id("screen"), 0.7, 0.8))
    page.mouse.up()
    kept(page, draft, "d.effect.lanes[1].steps[1].values.scale_x !== 0.4")
    values = now(server, draft)["effect"]["lanes"][1]["steps"][1]["values"]
    # The step's own map takes the frame's last corner to the place of the drag.
    size = Size(320, 180)
    matrix = forward(
        size, shift=(0.1, 0), scale=(values["scale_x"], values["scale_y"]), turn=30,
        pivot=(0.25, 0.5),
    )  # fmt: skip
    x, y, _ = matrix @ [size.width, size.height, 1]
    assert (x / size.width, y / size.height) == pytest.approx((0.7, 0.8), abs=0.01)


def test_a_corner_of_what_moves_sets_keys_at_the_playhead(page: Page, server: Server) -> None:
    keys = {
        "keys": [
            {"anchor": "share", "time": time, "value": value, "ease": "linear"}
            for time, value in ((0.0, 0.2), (1.0, 0.6))
        ]
    }
    draft = build(server, "look", "Grow", step("out", "transform", scale_x=keys, scale_y=0.5))
    open_draft(page, draft)
    page.locator("[data-place='out.transform'] .StepCard-stepName").click()
    page.get_by_role("slider", name="Playhead").press("End")
    corner = page.get_by_role("slider", name="Corner of the box on the picture")
    # Half of the frame about its middle: 0.6 of its width now.
    expect(corner).to_have_attribute("aria-valuenow", "0.6")
    grab(page, corner, middle(page.get_by_test_id("screen"), 0.9, 0.7))
    page.mouse.up()
    kept(page, draft, "d.effect.lanes[1].steps[1].values.scale_y !== 0.5")
    values = now(server, draft)["effect"]["lanes"][1]["steps"][1]["values"]
    assert values["scale_y"] == pytest.approx(0.4, abs=0.01)
    first, last = values["scale_x"]["keys"]
    assert first["value"] == 0.2
    assert last["value"] == pytest.approx(0.8, abs=0.01)
    page.keyboard.press("Control+z")
    kept(page, draft, "d.effect.lanes[1].steps[1].values.scale_y === 0.5")
    assert now(server, draft)["effect"]["lanes"][1]["steps"][1]["values"]["scale_x"] == keys


@pytest.mark.parametrize(
    ("align", "to", "box"), [("centre", 0.8, 60), ("left", 0.9, 40), ("right", 0.2, 30)]
)
def test_a_text_is_broken_to_the_width_its_side_is_dragged_to(
    page: Page, server: Server, align: str, to: float, box: float
) -> None:
    words = "Last tram leaves the shed at a quarter past one"
    how = {"text": words, "align": align}
    draft = build(server, "texture", "Board", SHAPE, step("side", "title", **how))
    open_draft(page, draft)
    page.locator("[data-place='side.title'] .StepCard-stepName").click()
    black = changed(page, 0)
    page.get_by_role("tab", name="This step").click()
    before = changed(page, black)
    side = page.get_by_role("slider", name="box width on the picture")
    expect(side).to_have_attribute("aria-valuenow", "0")
    grab(page, side.locator(".Handles-holdRing"), middle(page.get_by_test_id("screen"), to, 0.5))
    page.mouse.up()
    kept(page, draft, f"Math.abs(d.effect.lanes[0].steps[0].values.box - {box}) < 1")
    changed(page, before)
    side.press("ArrowRight" if align != "right" else "ArrowLeft")
    kept(page, draft, f"d.effect.lanes[0].steps[0].values.box > {box - 0.3}")


def test_an_angle_turns_with_its_arm(page: Page, server: Server) -> None:
    draft = build(server, "texture", "Turn", SHAPE, step("side", "stripes"))
    open_draft(page, draft)
    page.locator("[data-place='side.stripes'] .StepCard-stepName").click()
    arm = page.get_by_role("slider", name="angle on the picture").locator("rect")
    grab(page, arm, middle(page.get_by_test_id("screen"), 0.5, 0.9))
    page.mouse.up()
    kept(page, draft, "d.effect.lanes[0].steps[0].values.angle === 90")


def test_a_clip_without_cover_shows_its_clear_areas_woven(page: Page, server: Server) -> None:
    draft = build(server, "look", "Woven", step("out", "transform", scale_x=0.5, scale_y=0.5))
    open_draft(page, draft)
    corner = "() => { const d = document.querySelector('[data-testid=screen]').getContext('2d').getImageData(0, 0, 32, 1).data; return [...Array(32).keys()].map(k => d[4 * k]); }"
    changed(page, 0)
    page.wait_for_timeout(500)
    row = page.evaluate(corner)
    # Two pale greys in turn, by cells of eight pixels.
    assert len({round(one / 16) for one in row}) == 2
    assert min(row) > 100
