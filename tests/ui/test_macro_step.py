"""A macro as a step on the Bench: find it, wire it, set it, update it, open it up with the same
pixels."""

from __future__ import annotations

import io
import re
import urllib.request
from typing import Any

import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from ..server import Server
from .conftest import answers, visit


def pixels(server: Server, number: int, frame: int) -> Any:
    view = server.ask("GET", f"/effects/{number}")
    address = (
        f"{server.address}/api/effects/{number}/{view['revision']}/frame.png"
        f"?frame={frame}&length=50&width=96&height=54"
    )
    with urllib.request.urlopen(address, timeout=60) as answer:
        return np.asarray(Image.open(io.BytesIO(answer.read()))).astype(int)


def new_effect(server: Server, kind: str, name: str) -> Any:
    return server.ask("POST", "/effects", {"kind": kind, "name": name})


def add(page: Page, lane: str, macro: str) -> None:
    region = page.get_by_role("region", name=f"Lane {lane}", exact=True)
    region.get_by_role("button", name="Add a step /").click()
    dialog = page.get_by_role("dialog", name="Add a step")
    dialog.get_by_role("combobox").fill(macro)
    option = dialog.get_by_role("option", name=re.compile(f"^{macro}"))
    expect(option.locator("canvas")).to_be_visible()
    option.click()


def test_a_look_is_added_as_a_step_set_and_opened_up(page: Page, server: Server) -> None:
    draft = new_effect(server, "look", "Double print")
    number, plain = draft["id"], pixels(server, draft["id"], 20)
    path = f"/api/effects/{number}"
    visit(page, f"/bench/{number}")
    lane = draft["effect"]["lanes"][-1]["name"]
    add(page, lane, "Overprint")
    answers(page, path, "d.effect.lanes.at(-1).steps.at(-1).macro.slug === 'overprint'")
    card = page.get_by_role("article", name=f"Overprint in {lane}")
    expect(card.get_by_text("version 1")).to_be_visible()
    dots = card.get_by_label("Dots", exact=True)
    dots.fill("4")
    dots.press("Enter")
    answers(page, path, "d.effect.lanes.at(-1).steps.at(-1).values.dots === 4")
    printed = pixels(server, number, 20)
    assert np.abs(printed - plain).mean() > 15
    # Its cost is the cost of all its steps.
    expect(card.locator(".StepCard-stepHead .mono")).to_have_text(re.compile(r"\d"))
    card.get_by_role("button", name="Overprint: more").click()
    page.get_by_role("menuitem", name="Open it up into its lanes").click()
    answers(page, path, "d.effect.lanes.every(l => l.steps.every(s => !s.macro))")
    assert (pixels(server, number, 20) == printed).all()
    page.keyboard.press("Control+z")
    answers(page, path, "d.effect.lanes.at(-1).steps.at(-1).macro")


def test_a_transition_holds_a_transition_and_takes_up_a_newer_version(
    page: Page, server: Server
) -> None:
    draft = new_effect(server, "transition", "Crossing twice")
    number, path = draft["id"], f"/api/effects/{draft['id']}"
    visit(page, f"/bench/{number}")
    lane = draft["effect"]["lanes"][-1]["name"]
    first, last = pixels(server, number, 0), pixels(server, number, 49)
    add(page, lane, "Fog Bell")
    answers(page, path, "d.effect.lanes.at(-1).steps.at(-1).inputs.to.lane === 'to'")
    assert (pixels(server, number, 0) == first).all()
    assert np.abs(pixels(server, number, 25) - first).mean() > 5
    assert last.shape == first.shape
    # The card offers a newer version, which keeps the settings.
    drafts = server.ask("GET", "/effects")["drafts"]
    fog = next(one for one in drafts if one["name"] == "Fog Bell")
    bell = server.ask("GET", f"/effects/{fog['id']}")
    change = {"do": "expose", "lane": "out", "step": "luma-wipe", "value_name": "softness"}
    bell = server.ask("POST", f"/effects/{fog['id']}/changes",
                      {"base": bell["revision"], "change": change})  # fmt: skip
    server.ask("POST", f"/effects/{fog['id']}/publish", {"base": bell["revision"]})
    page.reload()
    card = page.get_by_role("article", name=f"Fog Bell in {lane}")
    card.get_by_role("button", name="Update to version 2").click()
    answers(page, path, "d.effect.lanes.at(-1).steps.at(-1).macro.version === 2")
    expect(card.get_by_text("Softness").first).to_be_visible()
