"""Soft glow and edge stylise (W01), from start to finish like a new user."""

from __future__ import annotations

import re

import numpy as np
from playwright.sync_api import Page, expect

from ..server import Server
from .conftest import visit
from .test_bench_more import kept
from .test_monitor import frame
from .test_places import TONES, changed, looks_like, settled
from .test_sheet import pick
from .test_whole_job import add_step, menu, search, set_number, value

OUT = "d.effect.lanes.at(-1).steps"


def test_modes_are_compared_by_opacities_one_adopted_the_stage_kept_and_gone_on_from(
    page: Page, server: Server
) -> None:
    visit(page, "/bench")
    page.get_by_role("button", name="New look").click()
    expect(page.get_by_role("region", name="Lane Out")).to_be_visible()
    draft = {"id": int(page.url.rsplit("/", 1)[1]), "frames": 50}

    # A blurred copy of the clip, in a lane of its own.
    page.get_by_role("button", name="Add a lane").first.click()
    search(page, "continue from")
    page.get_by_role("button", name=re.compile("^from:")).first.click()
    page.get_by_role("dialog").get_by_role("button", name=re.compile("^Clip, Slot")).click()
    add_step(page, "Clip 2", "soft blur", "Blur")
    set_number(page, "size", "1.5")

    # Blended over its original: a sheet of modes and strengths.
    add_step(page, "Out", "blend", "Blend")
    menu(page, value(page, "opacity"), "Show on a sheet")
    for name, text in (("from", "0.3"), ("to", "0.7")):
        field = page.get_by_label(f"Across: {name}", exact=True)
        field.fill(text)
        field.press("Enter")
    pick(page, "Down", "mode")
    expect(page.get_by_text("35 pictures at frame 25")).to_be_visible(timeout=60_000)
    page.get_by_role("button", name="Pin this sheet").click()
    cell = page.get_by_role("button", name="opacity 0.5, mode darken").first
    before, revision = settled(page), server.ask("GET", f"/effects/{draft['id']}")["revision"]
    cell.hover()
    changed(page, before)
    settled(page)
    tried = page.evaluate(TONES)
    assert server.ask("GET", f"/effects/{draft['id']}")["revision"] == revision
    cell.click()
    kept(
        page, draft, f"{OUT}.at(-1).values.mode === 'darken' && {OUT}.at(-1).values.opacity === 0.5"
    )
    # Adopting a picture gives the same result as pointing at it showed.
    page.mouse.move(900, 20)
    looks_like(page, tried)
    soft = frame(server, draft)

    # A stage is kept before further changes.
    page.get_by_role("button", name="Save a named state").click()
    page.get_by_label("Name of the state").fill("darkened, before it is crisp")
    page.get_by_role("button", name="Save it").click()
    expect(page.get_by_text("darkened, before it is crisp")).to_be_visible()

    # A second pass pushes the picture away from the blur, by a tenth: it gets sharper.
    out = page.get_by_role("region", name="Lane Out")
    out.get_by_role("button", name="Add a step").click()
    search(page, "blend")
    expect(page.locator("[data-place='out.blend-2'].selected")).to_be_visible()
    value(page, "mode").get_by_role("combobox").fill("push")  # type: ignore[attr-defined]
    page.locator(".ant-select-item-option").filter(has_text="push away").click()
    set_number(page, "opacity", "0.1")
    kept(
        page,
        draft,
        f"{OUT}.at(-1).values.mode === 'push away' && {OUT}.at(-1).values.opacity === 0.1",
    )
    crisp = frame(server, draft)
    blurred = frame(server, draft, step=f"{lane_of(server, draft)}.blur")
    # a + 0.1 (a − b), the formula of push away; rounded to 8 bits twice.
    wanted = np.clip(soft + 0.1 * (soft - blurred), 0, 255)
    assert np.abs(crisp - wanted)[..., :3].max() <= 1.6

    # One click goes back to the stage, and continuing from it loses nothing.
    page.get_by_role("tab", name="History").click()
    page.get_by_role("button", name=re.compile("darkened, before it is crisp")).first.click()
    kept(page, draft, f"{OUT}.length === 2")
    assert np.array_equal(frame(server, draft), soft)
    page.get_by_role("button", name="Undo").click()
    kept(page, draft, f"{OUT}.length === 3")


def lane_of(server: Server, draft: dict[str, int]) -> str:
    lanes = server.ask("GET", f"/effects/{draft['id']}")["effect"]["lanes"]
    return str(next(one["id"] for one in lanes if any(s["kind"] == "blur" for s in one["steps"])))
