"""Parts through the interface (W09): kept, found, inserted, handed over, brought in."""

from __future__ import annotations

import json
import re
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from ..server import Server
from .bench_parts import build, more, open_draft, step
from .test_bench_more import kept
from .test_editor_more import DROP
from .test_monitor import frame
from .test_places import now
from .test_whole_job import menu

LAST = "d.effect.lanes.at(-1)"


@pytest.fixture
def draft(server: Server) -> Any:
    return build(
        server, "look", "Keep",
        {"do": "add-lane", "name": "Dirt"},
        step("dirt", "noise", cells=7, seed=3),
        step("out", "blur", size=2),
        step("out", "posterise"),
        step("out", "blend", mode="screen", opacity=0.6),
    )  # fmt: skip


def keep(page: Page, name: str, collection: str = "", project: str = "") -> None:
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name of the part").fill(name)
    if collection:
        dialog.get_by_label("Collection of the part").fill(collection)
    if project:
        dialog.get_by_role("radio", name="for the project").check()
        dialog.get_by_label("Project", exact=True).fill(project)
    dialog.get_by_role("button", name="Keep it").click()
    expect(dialog).to_be_hidden()


def clear(server: Server) -> None:
    for one in server.ask("GET", "/parts")["parts"]:
        server.ask("DELETE", f"/parts/{one['id']}")


def test_steps_are_kept_and_come_back_exactly_with_the_input_chosen_by_picture(
    page: Page, server: Server, draft: Any
) -> None:
    clear(server)
    open_draft(page, draft)
    page.locator("[data-place='out.posterise'] .StepCard-stepName").click()
    page.locator("[data-place='out.blend'] .StepCard-stepName").click(modifiers=["ControlOrMeta"])
    page.get_by_role("button", name="Keep as a part").click()
    long = "Posterised and screened over with dirt, for signs and tickets of the last night"
    keep(page, long, collection="Print")
    part = server.ask("GET", "/parts")["parts"][0]
    assert (part["part"]["name"], part["collection"], part["project"]) == (long, "Print", "")
    assert [one["name"] for one in part["part"]["inputs"]] == ["Dirt"]
    whole = frame(server, draft)
    # The control goes with the steps, and comes back with the part.
    page.get_by_role("toolbar", name="Picked steps").get_by_role("button", name="Remove").click()
    kept(page, draft, f"{LAST}.steps.length === 2")
    assert not np.array_equal(frame(server, draft), whole)
    menu(page, page.locator("[data-place='out.blur'] .StepCard-stepHead"), "Insert a part below…")
    drawer = page.get_by_role("dialog")
    drawer.get_by_label("Search the parts").fill("signs print")
    expect(drawer.locator(".InputPicker-choice canvas")).to_be_visible()
    drawer.get_by_role("button", name=re.compile("Posterised")).click()
    expect(drawer.get_by_text("needs its inputs")).to_be_visible()
    # The lane with that name is the likely source; another one is one click away.
    chosen = drawer.get_by_role("button", name="Dirt, Noise")
    expect(chosen).to_have_attribute("aria-pressed", "true")
    drawer.get_by_role("button", name="Clip, Slot").click()
    expect(chosen).to_have_attribute("aria-pressed", "false")
    chosen.click()
    drawer.get_by_role("button", name="Put it in", exact=True).click()
    kept(page, draft, f"{LAST}.steps.length === 4")
    after = now(server, draft)["effect"]["lanes"][-1]["steps"]
    before = draft["effect"]["lanes"][-1]["steps"]
    after[-1]["inputs"]["over"]["step"] = before[-1]["inputs"]["over"]["step"]
    assert after == before
    assert np.array_equal(frame(server, draft), whole)


def test_an_input_left_open_is_asked_for_on_the_card(
    page: Page, server: Server, draft: Any
) -> None:
    clear(server)
    open_draft(page, draft)
    menu(page, page.locator("[data-place='out.blend'] .StepCard-stepHead"), "Keep as a part…")
    keep(page, "Screen over")
    page.get_by_role("heading", name="Dirt").dblclick()
    page.get_by_label("Name of the lane").fill("Grime")
    page.keyboard.press("Enter")
    menu(page, page.locator("[data-place='out.blend'] .StepCard-stepHead"), "Insert a part below…")
    page.get_by_role("button", name=re.compile("Screen over")).click()
    page.get_by_role("button", name="Put it in, 1 left open").click()
    card = page.locator("[data-place='out.blend-2']")
    expect(card.get_by_text("over: choose a source")).to_be_visible()
    # The lanes above still show their results.
    expect(page.locator("[data-place='out.blend'] canvas")).to_be_visible()


def test_a_name_that_is_taken_is_told_and_replaced_only_when_asked(
    page: Page, server: Server, draft: Any
) -> None:
    clear(server)
    open_draft(page, draft)
    menu(page, page.locator("[data-place='out.blur'] .StepCard-stepHead"), "Keep as a part…")
    keep(page, "Veil", collection="Soft")
    menu(page, page.locator("[data-place='out.posterise'] .StepCard-stepHead"), "Keep as a part…")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name of the part").fill("Veil")
    dialog.get_by_label("Collection of the part").fill("Soft")
    dialog.get_by_role("button", name="Keep it").click()
    expect(dialog.get_by_text("There is a part called “Veil”")).to_be_visible()
    assert server.ask("GET", "/parts")["parts"][0]["part"]["lanes"][0]["steps"][0]["kind"] == "blur"
    dialog.get_by_role("button", name="Replace that one").click()
    expect(dialog).to_be_hidden()
    parts = server.ask("GET", "/parts")["parts"]
    assert [one["part"]["lanes"][0]["steps"][0]["kind"] for one in parts] == ["posterise"]


def test_a_part_of_a_project_is_offered_there_alone(page: Page, server: Server, draft: Any) -> None:
    clear(server)
    open_draft(page, draft)
    menu(page, page.locator("[data-place='out.blur'] .StepCard-stepHead"), "Keep as a part…")
    keep(page, "Tram veil", project="Tram nights")
    assert now(server, draft)["project"] == "Tram nights"
    menu(
        page,
        page.get_by_role("region", name="Lane Out").locator(".LaneColumn-laneHead"),
        "Insert a part…",
    )
    expect(page.get_by_role("button", name=re.compile("Tram veil"))).to_be_visible()
    page.keyboard.press("Escape")
    other = build(server, "look", "Elsewhere", step("out", "invert"))
    open_draft(page, other)
    menu(
        page,
        page.get_by_role("region", name="Lane Out").locator(".LaneColumn-laneHead"),
        "Insert a part…",
    )
    expect(page.get_by_text("Nothing is kept yet.")).to_be_visible()


def test_lanes_are_kept_and_a_collection_travels_as_a_file(
    page: Page, server: Server, draft: Any, tmp_path: Path
) -> None:
    clear(server)
    open_draft(page, draft)
    menu(
        page,
        page.get_by_role("region", name="Lane Dirt").locator(".LaneColumn-laneHead"),
        "Keep as a part…",
    )
    keep(page, "Dirt", collection="Grounds")
    page.get_by_role("link", name="See it on the Shelf").click()
    section = page.get_by_role("region", name="Grounds")
    expect(section.get_by_text("1 lane, 1 step")).to_be_visible()
    # The search text is in the address.
    page.get_by_label("Kind").click(force=True)
    page.locator(".ant-select-item-option").filter(has_text="transition").click()
    expect(section).to_be_hidden()
    page.get_by_label("Kind").click(force=True)
    page.locator(".ant-select-item-option").filter(has_text="kept parts").click()
    page.get_by_label("Search the shelf").fill("dirt")
    page.reload()
    expect(section.get_by_text("1 lane, 1 step")).to_be_visible()
    expect(page.get_by_label("Search the shelf")).to_have_value("dirt")
    page.get_by_label("Search the shelf").fill("")
    with page.expect_download() as download:
        section.get_by_role("link", name="Hand over as a file").click()
    assert download.value.suggested_filename == "Grounds.paleparts"
    path = tmp_path / "grounds.paleparts"
    download.value.save_as(path)
    with zipfile.ZipFile(path) as file:
        assert json.loads(file.read("parts.json"))["format"] == "pale-static/parts@1"
    page.evaluate(DROP, ["grounds.paleparts", list(path.read_bytes()), "application/json"])
    same = page.get_by_role("dialog", name="Take in “Grounds”")
    expect(same.get_by_text("there is nothing to take in")).to_be_visible()
    same.get_by_role("button", name="Close").last.click()
    expect(same).to_be_hidden()
    # Renamed, tagged and moved here; removed and put back.
    page.get_by_role("button", name="Dirt: more").click()
    page.get_by_role("menuitem", name="Rename, tag or move").click()
    page.get_by_label("Name of the part").fill("Grime")
    page.get_by_label("Tags of the part").fill("grain")
    page.keyboard.press("Enter")
    page.get_by_role("dialog").get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("article", name="Part Grime")).to_be_visible()
    page.get_by_role("button", name="Grime: more").click()
    page.get_by_role("menuitem", name="Remove").click()
    expect(page.get_by_role("article", name="Part Grime")).to_be_hidden()
    page.get_by_role("button", name="Put it back").click()
    expect(page.get_by_role("article", name="Part Grime")).to_be_visible()
    # The file brings Dirt; another Dirt that exists meanwhile is not replaced.
    other = more(server, draft, {"do": "set-value", "lane": "dirt", "step": "noise",
                                 "value_name": "cells", "value": 30})  # fmt: skip
    server.ask("POST", "/parts", {"draft": draft["id"], "base": other["revision"],
                                  "lanes": ["dirt"], "name": "Dirt", "collection": "Grounds"})  # fmt: skip
    page.evaluate(DROP, ["grounds.paleparts", list(path.read_bytes()), "application/json"])
    dialog = page.get_by_role("dialog", name="Take in “Grounds”")
    expect(dialog.get_by_text("you have a different part of this name")).to_be_visible()
    expect(dialog.get_by_role("button", name="1 still to decide")).to_be_disabled()
    dialog.get_by_text("keep both").click()
    dialog.get_by_role("button", name="Take it in").click()
    expect(page.get_by_role("article", name="Part Dirt (2)")).to_be_visible()
    cells = {
        one["part"]["name"]: one["part"]["lanes"][0]["steps"][0]["values"]["cells"]
        for one in server.ask("GET", "/parts")["parts"]
    }
    assert cells == {"Dirt": 30, "Dirt (2)": 7, "Grime": 7}


def test_the_bench_starts_from_a_macro_a_part_or_a_kind(
    page: Page, server: Server, draft: Any
) -> None:
    clear(server)
    server.ask("POST", "/parts", {"draft": draft["id"], "base": draft["revision"], "name": "Soft steps",
                                  "steps": [{"lane": "out", "step": "blur"}]})  # fmt: skip
    page.goto("/bench")
    page.get_by_label("What should it do?").fill("quiet")
    page.get_by_role("button", name=re.compile("^Quiet Luma")).click()
    expect(page.get_by_role("region", name="Lane Out")).to_be_visible()
    page.goto("/bench")
    page.get_by_text("Parts", exact=True).click()
    page.get_by_role("button", name=re.compile("^Soft steps")).click()
    expect(page.locator("article[aria-label='Blur in Out']")).to_be_visible()
    expect(page.get_by_role("button", name="Soft steps")).to_be_visible()


def test_the_bench_starts_from_a_recipe_on_clips_of_ones_own(page: Page, server: Server) -> None:
    page.goto("/bench")
    page.get_by_label("Second clip").click(force=True)
    page.locator(".ant-select-item-option").filter(has_text="Depot hall").click()
    card = page.get_by_role("button", name=re.compile("^Noise wipe"))
    with page.expect_response(lambda one: "/strip.jpg" in one.url) as strip:
        card.hover()
    assert strip.value.status == 200
    # Moving recipes have a label, and a search finds recipes by their purpose.
    expect(card.locator("[style*='animation']")).to_be_visible()
    page.get_by_label("What should it do?").fill("burning away")
    expect(card).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Two inks"))).to_be_hidden()
    card.click()
    expect(page.get_by_text("Even out gives every grey the same share")).to_be_visible()
    expect(page.get_by_text("A luma wipe shows the second clip")).to_be_visible()
    number = page.url.rpartition("/")[2]
    slots = {
        one["id"]: one["stand_in"]
        for one in server.ask("GET", f"/effects/{number}")["effect"]["slots"]
    }
    names = {one["id"]: one["name"] for one in server.ask("GET", "/materials")["materials"]}
    assert [names[slots[slot]] for slot in ("from", "to")] == ["Headlamp", "Depot hall"]
    # An empty lane offers recipes too.
    page.get_by_role("button", name="Add a lane").first.click()
    page.get_by_role("option", name=re.compile("Slow clouds")).click()
    expect(page.locator("article[aria-label^='Tint by brightness in']")).to_be_visible()
    expect(page.get_by_text("White share says how cloudy it is")).to_be_visible()
    # Going back restores the search.
    page.go_back()
    expect(page.get_by_label("What should it do?")).to_have_value("burning away")
    expect(card).to_be_visible()


def test_an_effect_is_named_described_and_put_in_a_project(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    page.get_by_role("button", name="Keep", exact=True).first.click()
    page.get_by_label("Name of the effect").fill("Veil of the last night")
    page.get_by_label("What it does").fill("Softens what goes by.")
    page.get_by_label("Tags of the effect").fill("soft")
    page.keyboard.press("Enter")
    page.get_by_label("Project of the effect").fill("Tram nights")
    page.get_by_role("dialog").get_by_role("button", name="Keep", exact=True).click()
    kept(
        page,
        draft,
        "d.effect.name === 'Veil of the last night' && d.effect.tags[0] === 'soft' && d.project "
        "=== 'Tram nights'",
    )
    page.goto("/bench")
    page.get_by_label("Project").click(force=True)
    page.locator(".ant-select-item-option").filter(has_text="Tram nights").click()
    expect(page.locator("article").filter(has_text="Veil of the last night")).to_be_visible()
