"""Variations: sheets over one value or two, adopted, pinned, stopped; and comparing stages."""

from __future__ import annotations

import re
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Page, Route, expect

from ..server import Server
from .bench_parts import build, open_draft, pixels, step
from .test_bench_more import kept
from .test_monitor import choose, frame, view
from .test_places import now
from .test_whole_job import set_number

LAST = "d.effect.lanes.at(-1).steps.at(-1)"


@pytest.fixture
def draft(server: Server) -> Any:
    """A soft copy blended over the clip."""
    return build(
        server, "look", "Vary",
        {"do": "add-lane", "name": "Soft"},
        {"do": "add-step", "lane": "soft", "kind": "continue-from"},
        {"do": "set-input", "lane": "soft", "step": "continue-from", "input_name": "from", "input": {"lane": "clip"}},
        step("soft", "blur", size=3),
        step("out", "blend", mode="darken"),
    )  # fmt: skip


def pick(page: Page, label: str, words: str) -> None:
    field = page.get_by_label(f"{label}: which value")
    field.fill(words)
    page.locator(".ant-select-item-option").filter(has_text=re.compile(f"^{words}$")).last.click()


def test_a_sheet_is_stopped_gone_on_with_pinned_and_let_go(page: Page, draft: Any) -> None:
    asked: list[Route] = []

    def first_only(route: Route) -> None:
        asked.append(route)
        if len(asked) == 1:
            route.continue_()

    open_draft(page, draft)
    page.get_by_role("tab", name="Sheet").click()
    page.route("**/try-on.jpg*", first_only)
    pick(page, "Across", "opacity")
    expect(page.get_by_text("1 of 5 at frame 0")).to_be_visible()
    page.get_by_role("button", name="Stop", exact=True).click()
    page.unroute("**/try-on.jpg*")
    expect(page.get_by_role("button", name="Go on")).to_be_visible()
    expect(page.locator(".Sheet-sheetPicture canvas:visible")).to_have_count(1)
    page.get_by_role("button", name="Go on").click()
    expect(page.locator(".Sheet-sheetPicture canvas:visible")).to_have_count(5)
    page.get_by_role("button", name="Pin this sheet").click()
    expect(page.locator(".Sheet-sheetPicture canvas:visible")).to_have_count(10)
    page.get_by_role("button", name="Unpin").click()
    expect(page.locator(".Sheet-sheetPicture canvas:visible")).to_have_count(5)


def test_a_whole_number_and_a_moving_value_are_varied_too(page: Page, server: Server) -> None:
    keys = {"keys": [{"time": 0, "value": 0.2}, {"time": 1, "value": 0.8}]}
    draft = build(server, "look", "Vary", step("out", "posterise"), step("out", "invert"))
    draft = server.ask(
        "POST", f"/effects/{draft['id']}/changes",
        {"base": draft["revision"], "change": {"do": "set-value", "lane": "out", "step": "invert",
                                             "value_name": "mix", "value": keys}},
    )  # fmt: skip
    open_draft(page, draft)
    page.get_by_role("tab", name="Sheet").click()
    pick(page, "Across", "mix")
    page.locator(".Sheet-sheetCell").nth(3).click()
    # The key at the playhead takes the value; the others stay.
    kept(page, draft, f"{LAST}.mix.keys[0].value === 0.75 && {LAST}.mix.keys[1].value === 0.8")


def test_two_stages_are_compared_and_one_is_gone_back_to(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    page.locator("[data-place='out.blend'] .StepCard-stepName").click()
    pictures = {}
    for name, opacity in (("faint", "0.2"), ("full", "1")):
        set_number(page, "opacity", opacity)
        kept(page, draft, f"{LAST}.values.opacity === {opacity} || !('opacity' in {LAST}.values)")
        page.get_by_role("button", name="Save a named state").click()
        page.get_by_label("Name of the state").fill(name)
        page.get_by_role("button", name="Save it").click()
        expect(page.get_by_label(f"Select for comparing: {name}")).to_be_visible()
        pictures[name] = frame(server, draft)
    expect(page.locator(".HistoryList-stagePicture canvas:visible")).to_have_count(2)
    set_number(page, "opacity", "0.5")
    page.get_by_label("named states only").check()
    expect(page.locator(".HistoryList-history li")).to_have_count(2)
    page.get_by_label("Select for comparing: faint").check()
    page.get_by_label("Select for comparing: full").check()
    page.get_by_role("button", name="Compare the two on the monitor").click()
    page.wait_for_function(
        "() => document.querySelector('[data-testid=compared]')?.dataset.ready === 'true'"
    )
    page.wait_for_timeout(600)
    seen = pixels(page)
    assert np.array_equal(seen[:, :150], pictures["faint"][:, :150])
    assert np.array_equal(seen[:, 170:], pictures["full"][:, 170:])
    page.get_by_role("tab", name="Result").click()
    page.get_by_role("button", name=re.compile("faint")).last.click()
    kept(page, draft, f"{LAST}.values.opacity === 0.2")
    assert now(server, draft)["words"] == "Back to “faint”"


def test_another_frame_is_held_against_this_one(page: Page, server: Server, draft: Any) -> None:
    open_draft(page, draft)
    view(page, "Split")
    choose(page, "Held against", "frame 0")
    playhead = page.get_by_role("slider", name="Playhead")
    playhead.focus()
    playhead.press("End")
    page.wait_for_timeout(700)
    seen = pixels(page)
    assert np.array_equal(seen[:, :150], frame(server, draft)[:, :150])
    assert np.array_equal(seen[:, 170:], frame(server, draft, frame=49)[:, 170:])
    page.get_by_role("button", name="Take this frame").click()
    expect(page.locator(".Against-comparedSaid")).to_have_text("no difference")
