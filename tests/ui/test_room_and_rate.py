"""The Bench's layout, its frame rate, hidden values without effect, and requests that are given
up."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from ..server import Server
from .bench_parts import build, middle, open_draft, step
from .conftest import still, visit
from .test_bench_more import kept
from .test_places import now


@pytest.fixture
def draft(server: Server) -> Any:
    return build(
        server, "look", "Room", step("out", "colour-split"), step("out", "blur", size=1),
    )  # fmt: skip


def test_a_bare_bench_says_what_to_do_next_until_a_lane_is_open(page: Page, draft: Any) -> None:
    refused: list[str] = []
    page.on("response", lambda one: refused.append(one.url) if one.status >= 400 else None)
    open_draft(page, draft)
    page.get_by_role("button", name="Add a step").first.click()
    expect(page.get_by_role("combobox", name="Search for a step by name or need")).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Add a lane").click()
    page.keyboard.press("Escape")
    expect(page.get_by_text("What you can do next")).to_be_hidden()
    expect(page.get_by_role("region", name=re.compile("^Lane Lane"))).to_be_visible()
    still(page)
    assert refused == []  # an empty lane requests no picture


def test_the_border_between_lanes_and_monitor_is_moved_and_remembered(
    page: Page, draft: Any
) -> None:
    open_draft(page, draft)
    bar = page.get_by_role("separator", name="Border between lanes and monitor")
    usual = int(bar.get_attribute("aria-valuenow") or 0)
    bar.focus()
    page.keyboard.press("ArrowRight")
    expect(bar).to_have_attribute("aria-valuenow", str(usual + 2))
    x, y = middle(bar)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 100, y, steps=4)
    page.mouse.up()
    moved = int(bar.get_attribute("aria-valuenow") or 0)
    assert moved < usual
    left = middle(bar)[0]
    page.reload()
    expect(bar).to_have_attribute("aria-valuenow", str(moved))
    assert abs(middle(bar)[0] - left) < 2
    bar.dblclick()
    expect(bar).to_have_attribute("aria-valuenow", str(usual))


def test_an_effect_is_built_at_the_rate_that_is_chosen(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    page.get_by_role("button", name="Frame rate: 25 fps").click()
    page.get_by_role("menuitem", name="59.94 fps").click()
    kept(page, draft, "d.effect.rate === '60000/1001'")
    expect(page.get_by_role("button", name="Frame rate: 59.94 fps")).to_be_visible()
    # Two seconds are 120 frames now, and the time code counts with dropped numbers.
    expect(page.get_by_label("Length in frames")).to_have_value("120")
    page.get_by_role("slider", name="Playhead").focus()
    page.keyboard.press("End")
    expect(page.get_by_text("frame 119")).to_be_visible()
    expect(page.get_by_text("00:00:01;59")).to_be_visible()
    assert now(server, draft)["frames"] == 120


def test_what_does_nothing_now_is_hidden_and_values_have_units(page: Page, draft: Any) -> None:
    open_draft(page, draft)
    page.locator("[data-place='out.colour-split'] .StepCard-stepName").click()
    row = page.locator("[data-place='out.colour-split'] [data-value='angle']")
    centre = page.locator("[data-place='out.colour-split'] [data-value='centre']")
    expect(centre).to_be_visible()
    expect(row).to_be_hidden()
    page.get_by_label("direction", exact=True).click(force=True)
    page.locator(".ant-select-item-option").filter(has_text=re.compile("^along an angle$")).click()
    expect(centre).to_be_hidden()
    expect(row).to_be_visible()
    page.locator("[data-place='out.blur'] .StepCard-stepName").click()
    unit = page.locator("[data-place='out.blur'] [data-value='size'] .ValueField-unit")
    expect(unit).to_have_text("%h")
    # One hundredth of the frame's height, in pixels of the frame that is shown.
    expect(unit).to_have_attribute("title", re.compile(r"\d+(\.\d+)? px"))


def test_back_on_the_shelf_reads_the_search_again(page: Page) -> None:
    visit(page, "/shelf")
    field = page.get_by_role("searchbox").first
    field.fill("ember")
    expect(page.get_by_text("Ember Fray").first).to_be_visible()
    expect(page).to_have_url(re.compile("ember"))
    page.get_by_role("link", name=re.compile("Ember Fray")).first.click()
    expect(page.get_by_role("button", name="Use on the reel")).to_be_visible()
    page.go_back()
    expect(page.get_by_role("searchbox").first).to_have_value("ember")
    expect(page.get_by_text("Quiet Luma")).to_be_hidden()


def test_every_word_on_screen_is_explained_under_help(page: Page) -> None:
    visit(page, "/shelf")
    page.get_by_role("button", name="? Keys and words").click()
    dialog = page.get_by_role("dialog", name="Help")
    expect(dialog.get_by_text("play, stop")).to_be_visible()
    dialog.get_by_role("tab", name="Words").click()
    dialog.get_by_label("Find a word").fill("handle")
    expect(dialog.get_by_text("which a join can use")).to_be_visible()
    expect(dialog.get_by_text("Another picture that a step reads")).to_be_hidden()
    dialog.get_by_label("Find a word").fill("%h")
    expect(dialog.get_by_text("Percent of the frame's height")).to_be_visible()
    page.keyboard.press("Escape")
    expect(dialog).to_be_hidden()
