"""Value rows: fine movement, resetting, units, copying, stops, formulas."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from ..server import Server
from .bench_parts import build, grab, middle, more, open_draft, step
from .test_bench_more import kept
from .test_places import now
from .test_whole_job import menu, set_number, value

SIDE = {"do": "add-lane", "name": "Side"}
LAST = "d.effect.lanes.at(-1).steps.at(-1)"


@pytest.fixture
def draft(server: Server) -> Any:
    return build(
        server, "look", "Rows", SIDE, step("side", "ramp"), step("out", "blur"), step("out", "blur")
    )


def test_a_slider_moves_finely_with_shift_and_goes_back_on_a_double_click(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    page.locator("[data-place='out.blur-2'] .StepCard-stepName").click()
    slider = value(page, "size").locator("[type=range]")  # type: ignore[attr-defined]
    box = slider.bounding_box()
    start = 1  # its default, as declared
    thumb = box["x"] + 3 + (box["width"] - 6) * start / 10
    page.mouse.move(thumb, box["y"] + 10)
    page.keyboard.down("Shift")
    page.mouse.down()
    page.mouse.move(thumb + 20, box["y"] + 10, steps=5)
    page.mouse.up()
    page.keyboard.up("Shift")
    # Twenty pixels are a tenth of what they are without Shift.
    fine = start + 20 / (box["width"] - 6) * 10 / 10
    kept(page, draft, f"Math.abs({LAST}.values.size - {fine}) < 0.02")
    slider.dblclick(position={"x": box["width"] - 6, "y": 10})
    kept(page, draft, f"{LAST}.values.size === {start}")
    set_number(page, "size", "7")
    kept(page, draft, f"{LAST}.values.size === 7")
    value(page, "size").locator(".value-label").dblclick()  # type: ignore[attr-defined]
    kept(page, draft, f"!('size' in {LAST}.values)")


def test_units_are_converted(page: Page, server: Server) -> None:
    # frontend/src/controls/number.test.ts holds every unit; here, that the frame's size goes in.
    draft = build(server, "look", "Units", step("out", "blur"), step("out", "slide-rows"))
    open_draft(page, draft)
    for at, kind, name, typed, found in (
        (1, "blur", "size", "54 px", 5.0),  # of 1080 lines
        (2, "slide-rows", "amount", "96 px", 5.0),  # of 1920 columns
    ):
        page.locator(f"[data-place='out.{kind}'] .StepCard-stepName").click()
        set_number(page, name, typed)
        value = f"d.effect.lanes.at(-1).steps[{at}].values.{name}"
        kept(page, draft, f"Math.abs({value} - {found}) < 1e-4")


def test_a_time_in_frames_takes_seconds(page: Page, server: Server) -> None:
    draft = build(server, "look", "Late", {"do": "set-lane", "lane": "clip", "folded": False})
    open_draft(page, draft)
    page.locator("[data-place='clip.slot'] .StepCard-stepName").click()
    set_number(page, "offset", "0.2 s")
    kept(page, draft, "d.effect.lanes[0].steps[0].values.offset === 5")


def test_nonsense_in_a_number_is_told_and_changes_nothing(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    page.locator("[data-place='out.blur'] .StepCard-stepName").click()
    for typed in ("3 apples", "12 frames", "9" * 4000):
        set_number(page, "size", typed)
        told = re.compile(f"“{re.escape(typed[:12])}.* cannot be read as|lies between")
        expect(page.get_by_text(told).last).to_be_visible()
        expect(value(page, "size").locator("input.NumberField-numberField")).to_have_value("1")  # type: ignore[attr-defined]
    assert now(server, draft)["revision"] == draft["revision"]


def test_a_value_is_copied_to_another_row_with_its_movement(
    page: Page, server: Server, draft: Any
) -> None:
    keys = {"keys": [{"time": 0, "value": 1}, {"time": 1, "value": 6}]}
    more(server, draft, {"do": "set-value", "lane": "out", "step": "blur", "value_name": "size",
                         "value": keys})  # fmt: skip
    open_draft(page, draft)
    page.locator("[data-place='out.blur'] .StepCard-stepName").click()
    menu(page, value(page, "size"), "Copy the value")
    page.locator("[data-place='out.blur-2'] .StepCard-stepName").click()
    menu(page, value(page, "size"), "Paste size")
    kept(page, draft, f"{LAST}.values.size?.keys?.length === 2")
    value(page, "outside").get_by_role("button", name=re.compile("more")).click()  # type: ignore[attr-defined]
    expect(page.get_by_role("menuitem", name="Paste size")).to_have_attribute(
        "aria-disabled", "true"
    )


def test_stops_are_dragged_put_and_moved_by_keys_on_their_bar(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    page.locator("[data-place='side.ramp'] .StepCard-stepName").click()
    stops = "d.effect.lanes[1].steps[0].values.stops"
    bar = page.locator(".StopsField-stopsBar")
    grab(page, page.get_by_role("button", name=re.compile("stop 1 at")), middle(bar, 0.25))
    page.mouse.up()
    kept(page, draft, f"{stops}?.[0]?.[0] === 0.25")
    bar.dblclick(position={"x": 100, "y": 6})
    kept(page, draft, f"{stops}.length === 3")
    at, colour = now(server, draft)["effect"]["lanes"][1]["steps"][0]["values"]["stops"][1]
    # Between black at 0.25 and white at 1, as straight as the ramp itself.
    assert int(colour[1:3], 16) == pytest.approx(255 * (at - 0.25) / 0.75, abs=2)
    page.get_by_role("button", name=re.compile("stop 2 at")).press("ArrowRight")
    kept(page, draft, f"Math.abs({stops}[1][0] - {at + 0.01}) < 1e-6")


def test_a_formula_is_checked_while_typed_and_its_names_completed(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    page.locator("[data-place='out.blur-2'] .StepCard-stepName").click()
    menu(page, value(page, "size"), "Formula")
    field = page.get_by_label("size: formula")
    field.fill("wobble")
    expect(
        value(page, "size").get_by_text(re.compile("knows no “wobble” at character 1"))
    ).to_be_visible()  # type: ignore[attr-defined]
    field.fill("1 + out.blur.s")
    page.locator(".ant-select-item-option").filter(has_text="out.blur.size").first.click()
    expect(field).to_have_value("1 + out.blur.size")
    field.fill("1 + out.blur.size + progress")
    field.blur()
    kept(page, draft, f"{LAST}.values.size?.formula === '1 + out.blur.size + progress'")
    expect(value(page, "size").get_by_text("= 2")).to_be_visible()  # type: ignore[attr-defined]
    playhead = page.get_by_role("slider", name="Playhead")
    playhead.focus()
    playhead.press("End")
    expect(value(page, "size").get_by_text("= 3")).to_be_visible()  # type: ignore[attr-defined]


def test_an_ease_is_picked_from_its_little_curve(page: Page, server: Server, draft: Any) -> None:
    keys = {"keys": [{"time": 0, "value": 1}, {"time": 1, "value": 6}]}
    more(server, draft, {"do": "set-value", "lane": "out", "step": "blur", "value_name": "size",
                         "value": keys})  # fmt: skip
    open_draft(page, draft)
    button = page.get_by_role("button", name=re.compile("^Key 1: ease"))
    expect(button).to_have_attribute("aria-label", "Key 1: ease, straight")
    button.click()
    # A square: a row for each way to leave, a column for each way to arrive.
    cells = page.get_by_role("gridcell")
    expect(cells).to_have_count(25)
    option = page.get_by_role("gridcell", name="leaves very soft, arrives straight")
    path = option.locator("path").get_attribute("d") or ""
    assert path.count("L") == 24  # drawn from computed samples, not a stored picture
    option.click()
    kept(page, draft, "d.effect.lanes.at(-1).steps[1].values.size.keys[0].ease?.into === 'quint'")
    expect(button).to_have_attribute(
        "aria-label", "Key 1: ease, leaves very soft, arrives straight"
    )
    # Arrow keys move in it, Enter takes the focused curve.
    expect(option).to_be_focused()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowUp")
    expect(page.get_by_role("gridcell", name="leaves soft, arrives gentle")).to_be_focused()
    page.keyboard.press("Enter")
    kept(page, draft, "d.effect.lanes.at(-1).steps[1].values.size.keys[0].ease?.out === 'sine'")
    # A handle that is dragged makes it a drawn curve; arrows move it too.
    handle = page.get_by_role("slider", name="First handle")
    box = handle.bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + 30, box["y"] - 20, steps=4)
    page.mouse.up()
    kept(
        page, draft, "d.effect.lanes.at(-1).steps[1].values.size.keys[0].ease?.bezier?.length === 4"
    )
    handle.focus()
    before = handle.get_attribute("aria-valuetext")
    page.keyboard.press("ArrowLeft")
    expect(handle).not_to_have_attribute("aria-valuetext", before or "")
    page.get_by_role("button", name="springs", exact=True).click()
    kept(page, draft, "d.effect.lanes.at(-1).steps[1].values.size.keys[0].ease?.out === 'elastic'")
    expect(button).to_have_attribute("aria-label", "Key 1: ease, springs")
    page.get_by_role("button", name="hold", exact=True).click()
    kept(page, draft, "d.effect.lanes.at(-1).steps[1].values.size.keys[0].ease === 'hold'")
    page.get_by_role("gridcell", name="leaves very soft, arrives straight").click()
    kept(page, draft, "d.effect.lanes.at(-1).steps[1].values.size.keys[0].ease?.into === 'quint'")
    page.keyboard.press("Escape")
    curve = page.locator(".KeyTable-keyTable .EaseCurve-easeCurve path").first
    expect(curve).to_have_attribute("d", re.compile("^(?:[^L]*L){24}[^L]*$"))


def test_the_menu_of_a_row_is_worked_by_keys_alone(page: Page, server: Server, draft: Any) -> None:
    set_to = {"do": "set-value", "lane": "out", "step": "blur", "value_name": "size", "value": 4}
    more(server, draft, set_to)
    open_draft(page, draft)
    page.locator("[data-place='out.blur'] .StepCard-stepName").click()
    button = value(page, "size").get_by_role("button", name="size: more")  # type: ignore[attr-defined]
    for _ in range(2):  # the menu is made the first time; after that it exists
        button.press("Enter")
        expect(page.get_by_role("menuitem", name="Key here")).to_be_focused()
        page.keyboard.press("Escape")
        expect(button).to_be_focused()
    button.press("Enter")
    expect(page.get_by_role("menuitem", name="Key here")).to_be_focused()
    page.keyboard.press("ArrowUp")  # from the first to the last
    expect(page.get_by_role("menuitem", name="Back to default")).to_be_focused()
    page.keyboard.press("Enter")
    kept(page, draft, "!('size' in d.effect.lanes.at(-1).steps[1].values)")
    expect(button).to_be_focused()


def test_keys_are_timed_in_any_unit_and_eased_together(
    page: Page, server: Server, draft: Any
) -> None:
    keys = {"keys": [{"anchor": "start", "time": at, "value": at} for at in (0, 0.4, 0.8)]}
    more(server, draft, {"do": "set-value", "lane": "out", "step": "blur", "value_name": "size",
                         "value": keys})  # fmt: skip
    open_draft(page, draft)
    size = "d.effect.lanes.at(-1).steps[1].values.size"
    for typed, seconds in (("10 frames", 0.4), ("12f", 0.48), ("0.6 s", 0.6), ("0:14", 0.56)):
        field = page.get_by_label("Key 2: time")
        field.fill(typed)
        field.press("Enter")
        kept(page, draft, f"Math.abs({size}.keys[1].time - {seconds}) < 1e-6")
    # A new key keeps the distance of the one beside it when the length changes.
    page.get_by_role("slider", name="Playhead").press("End")
    page.get_by_role("button", name="Key here").click()
    kept(page, draft, f"{size}.keys.length === 4 && {size}.keys[3].anchor === 'start'")
    for number in (1, 2, 3):
        page.get_by_label(f"Pick key {number}").check()
    page.get_by_role("button", name=re.compile("^Key 2: ease")).click()
    page.get_by_role("gridcell", name="leaves soft, arrives soft").click()
    kept(page, draft, f"{size}.keys.slice(0, 3).every(one => one.ease?.into === 'cubic')")
    page.keyboard.press("Escape")
    # Space plays, also after a click on a button of the work surface.
    page.get_by_role("button", name="Key here").click()
    kept(page, draft, f"{size}.keys.length === 4")
    page.keyboard.press(" ")
    expect(page.get_by_role("button", name="Stop", exact=True)).to_be_visible()
    page.keyboard.press(" ")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    # A number in focus takes the wheel.
    field = page.get_by_label("Length in frames")
    field.click()
    page.mouse.wheel(0, -100)
    expect(field).to_have_value("51")
    field.blur()
    page.mouse.wheel(0, -100)
    expect(field).to_have_value("51")
