"""Moves: all curves, keys picked by a box, nudged, snapped, anchored and moved together."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect

from ..server import Server
from .bench_parts import build, more, open_draft, step
from .test_bench_more import kept
from .test_places import now

BLUR = "d.effect.lanes.at(-1).steps[1]"


def keys(*pairs: tuple[float, Any], **more: Any) -> dict[str, Any]:
    return {"keys": [{"time": time, "value": value} | more for time, value in pairs]}


@pytest.fixture
def draft(server: Server) -> Any:
    """Two numbers and a point that move."""
    return build(
        server, "look", "Moves",
        step("out", "blur", size=keys((0, 0), (0.5, 4), (1, 2))),
        step("out", "twirl", turn=keys((0, 0), (0.5, 90)), centre=keys((0, [0.5, 0.5]), (1, [0.2, 0.9]))),
    )  # fmt: skip


def key(page: Page, name: str) -> Locator:
    return page.locator(f".MovesPlot-plot [data-key='{name}']")


def centre(of: Locator) -> tuple[float, float]:
    box = of.locator("path").bounding_box()
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def all_together(page: Page) -> Locator:
    page.get_by_role("option", name="All together").click()
    plot = page.get_by_label("Curves of all that moves")
    plot.scroll_into_view_if_needed()
    return plot


def test_all_curves_are_seen_together_or_one_alone(page: Page, draft: Any) -> None:
    open_draft(page, draft)
    all_together(page)
    expect(page.locator(".MovesPlot-plot polyline.Moves-curve")).to_have_count(
        4
    )  # size, turn, centre x and y
    page.get_by_role("option", name=re.compile("Twirl: centre y")).click()
    expect(page.locator(".MovesPlot-plot polyline.Moves-curve")).to_have_count(1)
    expect(page.get_by_label("Curve of Twirl: centre y")).to_be_visible()
    field = page.get_by_label("Key 2: value")
    expect(field).to_have_value("0.9")
    field.fill("0.7")
    field.press("Enter")
    kept(
        page,
        draft,
        "d.effect.lanes.at(-1).steps[2].values.centre.keys[1].value.join() === '0.2,0.7'",
    )


def test_keys_of_several_values_are_boxed_and_moved_together(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    plot = all_together(page)
    x, _ = centre(key(page, "out.blur.size#1"))
    box = plot.bounding_box()
    assert box
    page.mouse.move(x - 12, box["y"] + 3)
    page.mouse.down()
    page.mouse.move(x + 12, box["y"] + box["height"] - 3, steps=5)
    page.mouse.up()
    bar = page.get_by_role("toolbar", name="Picked keys")
    expect(bar).to_contain_text("2 picked")
    # One frame later by keyboard, both keys as one change.
    plot.focus()
    page.keyboard.press("ArrowRight")
    kept(page, draft, f"Math.abs({BLUR}.values.size.keys[1].time - {0.5 + 1 / 49:.5f}) < 1e-4")
    steps = now(server, draft)["effect"]["lanes"][-1]["steps"]
    assert steps[2]["values"]["turn"]["keys"][1]["time"] == pytest.approx(0.5 + 1 / 49, abs=1e-4)
    assert now(server, draft)["words"] == "2 keys moved"


def test_a_dragged_key_snaps_to_keys_of_others_and_to_frames(
    page: Page, server: Server, draft: Any
) -> None:
    more(server, draft, {"do": "set-value", "lane": "out", "step": "twirl", "value_name": "turn",
                         "value": keys((0, 0), (0.7, 90))})  # fmt: skip
    open_draft(page, draft)
    plot = all_together(page)
    target, y = centre(key(page, "out.twirl.turn#1"))
    x, y = centre(key(page, "out.blur.size#1"))
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(target - 4, y, steps=8)
    page.mouse.up()
    kept(page, draft, f"{BLUR}.values.size.keys[1].time === 0.7")
    # With Alt it snaps only to frames. (On its own curve, because the two keys overlap now.)
    page.get_by_role("option", name=re.compile("Blur: size")).click()
    plot = page.get_by_label("Curve of Blur: size")
    plot.scroll_into_view_if_needed()
    box = plot.bounding_box()
    assert box
    while abs(x - target) > 2:  # drawn where it is now
        page.wait_for_timeout(50)
        x, y = centre(key(page, "out.blur.size#1"))
    width = box["width"] * (400 - 24) / 400
    page.keyboard.down("Alt")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + width * 2.2 / 49, y, steps=6)
    page.mouse.up()
    page.keyboard.up("Alt")
    kept(page, draft, f"{BLUR}.values.size.keys[1].time > 0.71")
    time = now(server, draft)["effect"]["lanes"][-1]["steps"][1]["values"]["size"]["keys"][1][
        "time"
    ]
    assert time * 49 == pytest.approx(round(time * 49), abs=1e-3)


def test_anchors_are_seen_and_switched_and_keys_removed(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    page.get_by_role("option", name=re.compile("Blur: size")).click()
    last = key(page, "out.blur.size#2")
    last.scroll_into_view_if_needed()
    x, y = centre(last)
    square = last.locator("path").get_attribute("d")
    page.mouse.click(x, y)
    page.get_by_label("Anchor the picked keys").click(force=True)
    page.locator(".ant-select-item-option").filter(has_text="the end").click()
    kept(page, draft, f"{BLUR}.values.size.keys[2].anchor === 'end'")
    expect(last).to_have_attribute("data-anchor", "end")
    assert last.locator("path").get_attribute("d") != square
    # It stays at the last frame at any length.
    page.get_by_role("button", name="100", exact=True).click()
    expect(last).to_have_attribute("data-anchor", "end")
    page.mouse.click(*centre(key(page, "out.blur.size#1")))
    page.keyboard.press("Delete")
    kept(page, draft, f"{BLUR}.values.size.keys.length === 2")


def test_a_key_rises_with_its_curve_and_the_monitor_shows_it_meanwhile(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    page.get_by_role("option", name=re.compile("Blur: size")).click()
    one = key(page, "out.blur.size#2")
    one.scroll_into_view_if_needed()
    x, y = centre(one)
    page.mouse.move(x, y)
    page.mouse.down()
    with page.expect_request("**/live"):
        page.mouse.move(x, y - 30, steps=6)
    assert now(server, draft)["revision"] == draft["revision"]
    page.mouse.up()
    kept(page, draft, f"{BLUR}.values.size.keys[2].value > 2.3")


def test_the_length_is_typed_as_timecode_and_a_range_is_looped(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    field = page.get_by_label("Length as timecode")
    field.fill("3:10")
    field.press("Enter")
    kept(page, draft, "d.frames === 85")
    field.fill("soup")
    field.press("Enter")
    expect(field).to_have_value("00:00:03:10")
    length = page.get_by_label("Length in frames")
    length.fill("1.6 s")
    length.press("Enter")
    kept(page, draft, "d.frames === 40")
    playhead = page.get_by_role("slider", name="Playhead")
    playhead.focus()
    page.keyboard.press("Shift+ArrowRight")
    page.get_by_role("button", name="Loop from here").click()
    playhead.focus()
    for _ in range(4):
        page.keyboard.press("ArrowRight")
    page.get_by_role("button", name="Loop to here").click()
    expect(page.get_by_text("10–14 ×")).to_be_visible()
    page.get_by_role("button", name="Play", exact=True).click()
    seen: set[int] = set()
    for _ in range(30):
        seen.add(int(playhead.get_attribute("aria-valuenow") or -1))
        page.wait_for_timeout(50)
    page.get_by_role("button", name="Stop", exact=True).click()
    assert seen <= {10, 11, 12, 13, 14}
    assert len(seen) > 2


def test_a_colour_and_a_choice_that_move_are_seen_as_bands(page: Page, server: Server) -> None:
    draft = build(
        server, "look", "Bands",
        step("out", "halftone", ink=keys((0, "#000000"), (1, "#FF0000"))),
        step("out", "blur", size=keys((0, 0), (1, 2))),
        step("out", "transform", cover=keys((0, False), (0.6, True))),
    )  # fmt: skip
    open_draft(page, draft)
    all_together(page)
    expect(page.locator(".MovesPlot-plot polyline.Moves-curve")).to_have_count(1)
    band = page.locator(".MovesPlot-plot .Band-band[data-curve='out.halftone.ink.band']")
    expect(
        page.locator(".MovesPlot-plot .Band-band[data-curve='out.transform.cover.band']")
    ).to_contain_text("off")
    shades = band.locator("rect.Band-shade").evaluate_all(
        "all => all.map(a => a.getAttribute('fill'))"
    )
    assert (shades[0], shades[-1]) == ("#000000", "#FF0000")
    assert len(shades) > 50
    # Its keys can be dragged like those of any curve.
    mark = key(page, "out.halftone.ink#0")
    x, y = centre(mark)
    page.mouse.move(x, y)
    page.mouse.down()
    end = band.locator("rect.Band-outline").bounding_box()
    assert end
    page.mouse.move(end["x"] + end["width"] / 2, y, steps=6)
    page.mouse.up()
    kept(
        page, draft,
        "Math.abs(d.effect.lanes.at(-1).steps[1].values.ink.keys[0].time - 0.5) < 0.02",
    )  # fmt: skip
    expect(page.get_by_role("option", name=re.compile("Halftone: ink"))).to_contain_text("#")
