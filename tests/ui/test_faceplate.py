"""A faceplate made by hand: own words, hidden numbers, groups, advice, and what an editor sees."""

from __future__ import annotations

import re
from typing import Any

from playwright.sync_api import Locator, Page, expect

from ..server import Server
from .bench_parts import build, open_draft, step, until
from .conftest import to_place
from .test_places import TONES, looks_like, now, settled


def wiped(server: Server, name: str) -> Any:
    """A transition with a noise, levels and a luma wipe, as one draft."""
    return build(
        server, "transition", name,
        {"do": "add-lane", "name": "Fray"}, step("fray", "noise", cells=6),
        step("fray", "levels"), step("out", "luma-wipe"),
    )  # fmt: skip


def new_control(page: Page, kind: str, name: str) -> None:
    """Add a control and name it; the keys go on from its name."""
    page.get_by_role("button", name="Add a control").click()
    page.get_by_role("menuitem", name=kind, exact=True).click()
    field = page.get_by_label(re.compile("^Name of (Amount|Switch|Choice|Number)$"))
    field.fill(name)
    field.press("Enter")
    expect(page.get_by_label(f"Name of {name}")).to_be_visible()


def drive(page: Page, label: str, words: str) -> None:
    field = page.get_by_label(f"{label}: drive one more value")
    field.click()
    field.fill(words)
    expect(page.locator(".ant-select-item-option", has_text=words).first).to_be_visible()
    field.press("Enter")


def put(field: Locator, text: str) -> None:
    field.fill(text)
    field.press("Enter")


def test_a_choice_with_words_of_ones_own_sets_three_values(page: Page, server: Server) -> None:
    draft = wiped(server, "Weather")
    open_draft(page, draft)
    plain = page.evaluate(TONES)
    page.get_by_role("tab", name="Faceplate").click()
    # One key gives the drawer the place of the lanes.
    page.keyboard.press("d")
    expect(page.get_by_role("region", name="Lane Out")).to_be_hidden()
    new_control(page, "A choice with words of its own", "Weather")
    page.get_by_role("button", name="Weather: all of it").click()
    put(page.get_by_label("Weather: word 1"), "Calm")
    put(page.get_by_label("Weather: word 2"), "Storm")
    for words in ("Fray · Noise: cells", "Fray · Noise: octaves", "Out · Luma wipe: softness"):
        drive(page, "Weather", words)
        expect(page.get_by_role("button", name=f"Unlink {words}")).to_be_visible()
    looks_like(page, plain)  # driving a value changes nothing
    put(page.get_by_label("Fray · Noise: cells where Storm", exact=True), "24")
    put(page.get_by_label("Fray · Noise: octaves where Storm", exact=True), "2")
    put(page.get_by_label("Out · Luma wipe: softness where Storm", exact=True), "0.4")
    until(
        page, lambda: link(server, draft, "out", "luma-wipe", "softness")["table"]["Storm"] == 0.4
    )
    assert link(server, draft, "fray", "noise", "cells")["table"] == {"Calm": 6, "Storm": 24}
    # Each word shows its picture.
    page.locator("figcaption", has_text="Storm").scroll_into_view_if_needed()
    expect(page.get_by_role("img", name="Weather Storm")).to_be_visible()
    # A renamed word keeps its values; a new one gets those of the default.
    put(page.get_by_label("Weather: word 2"), "Gale")
    page.get_by_role("button", name="Add a word").click()
    until(page, lambda: [*link(server, draft, "fray", "noise", "cells")["table"]]
          == ["Calm", "Gale", "New word"])  # fmt: skip
    assert link(server, draft, "fray", "noise", "cells")["table"]["Gale"] == 24
    page.get_by_role("button", name="Unlink Fray · Noise: octaves").click()
    until(page, lambda: link(server, draft, "fray", "noise", "octaves") == values(server, draft, "fray", "noise")["octaves"])  # fmt: skip
    assert not isinstance(link(server, draft, "fray", "noise", "octaves"), dict)
    # The words of a driven value lead to its step.
    page.get_by_role("button", name="Fray · Noise: cells", exact=True).click()
    expect(page.locator("[data-place='fray.noise']")).to_be_visible()


def values(server: Server, draft: Any, lane: str, name: str) -> Any:
    lanes = now(server, draft)["effect"]["lanes"]
    steps = next(one["steps"] for one in lanes if one["id"] == lane)
    return next(one for one in steps if one["id"] == name)["values"]


def link(server: Server, draft: Any, lane: str, name: str, value: str) -> Any:
    return values(server, draft, lane, name)[value]


def test_groups_hidden_numbers_and_advice_reach_the_editor(page: Page, server: Server) -> None:
    draft = wiped(server, "Advised")
    open_draft(page, draft)
    page.get_by_role("tab", name="Faceplate").click()
    page.keyboard.press("d")
    new_control(page, "A toggle", "Rough")
    new_control(page, "A number", "Wear")
    page.get_by_role("button", name="Wear: all of it").click()
    drive(page, "Wear", "Fray · Noise: cells")
    expect(page.get_by_role("button", name="Unlink Fray · Noise: cells")).to_be_visible()
    # The picture at both ends of the slider.
    page.get_by_text("at its end", exact=True).scroll_into_view_if_needed()
    expect(page.get_by_role("img", name="Wear at its end")).to_be_visible()
    put(page.get_by_label("Help for Wear"), "More of it wears the edge.")
    page.get_by_label("Group of Wear").fill("Edge")
    page.get_by_label("Group of Wear").press("Enter")
    expect(page.get_by_role("region", name="Edge")).to_be_visible()
    page.get_by_role("switch", name="Wear: good zone").click()
    put(page.get_by_label("Wear: good to"), "0.6")
    page.get_by_role("switch", name="Wear: edge").click()
    put(page.get_by_label("Wear: edge at"), "0.8")
    put(page.get_by_label("Wear: reason of the edge"), "Above 0.8 the outline shows.")
    page.get_by_role("switch", name="Wear: limit what may be typed").click()
    page.get_by_role("button", name="Wear shown for Rough: on").click()
    new_control(page, "A hidden number", "Base")
    page.get_by_role("button", name="Base: all of it").click()
    drive(page, "Base", "Out · Luma wipe: softness")
    new_control(page, "A number", "Last")
    page.get_by_role("button", name="Last: all of it").click()
    drive(page, "Last", "Fray · Levels: gamma")
    expect(page.get_by_role("button", name="Unlink Fray · Levels: gamma")).to_be_visible()
    # Order by keys, and by the menu.
    page.get_by_label("Name of Last").press("Alt+ArrowUp")
    until(page, lambda: order(server, draft)[-2:] == ["last", "base"])
    assert now(server, draft)["effect"]["controls"][1]["edge"]["reason"] == (
        "Above 0.8 the outline shows."
    )
    # The editor's view here is the editor's own.
    page.get_by_label("Try it").click()
    expect(page.locator("[data-control='base']")).to_have_count(0)
    expect(page.locator("[data-control='wear']")).to_have_count(0)
    revision = now(server, draft)["revision"]
    page.get_by_role("switch", name="Rough", exact=True).click()
    expect(page.get_by_text("Good from 0.333 to 0.6.")).to_be_visible()
    # A trial leaves the draft as it is.
    page.get_by_role("slider", name="Playhead").focus()
    for _ in range(2):
        page.keyboard.press("Shift+ArrowRight")
    settled(page)
    plain = page.evaluate(TONES)
    put(page.get_by_label("Wear", exact=True), "1")
    page.wait_for_function(
        f"plain => ({TONES})().some((one, k) => Math.abs(one - plain[k]) > 6)", arg=plain
    )
    expect(page.get_by_role("button", name="Make these the defaults")).to_be_visible()
    assert now(server, draft)["revision"] == revision
    page.get_by_label("Try it").click()
    looks_like(page, plain)
    server.ask("POST", f"/effects/{draft['id']}/publish",
               {"base": now(server, draft)["revision"]})  # fmt: skip
    to_place(page, "/shelf/advised")
    expect(page.locator("[data-control]")).to_have_count(2)
    page.get_by_role("switch", name="Rough", exact=True).click()
    group = page.locator("details", has_text="Edge")
    field = group.get_by_label("Wear", exact=True)
    put(field, "0.9")
    expect(group.get_by_text("Above 0.8 the outline shows.")).to_be_visible()
    group.get_by_role("button", name="Wear: back to its default").click()
    expect(group.get_by_text("Above 0.8 the outline shows.")).to_be_hidden()
    page.get_by_role("switch", name="Rough", exact=True).click()
    expect(page.locator("[data-control='wear']")).to_have_count(0)


def order(server: Server, draft: Any) -> list[str]:
    return [one["slug"] for one in now(server, draft)["effect"]["controls"]]
