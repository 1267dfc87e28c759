"""More of the Bench: lanes, cards, stops, stages, keys on the strip, two windows."""

from __future__ import annotations

import re
from typing import Any

from playwright.sync_api import Browser, Page, expect

from ..server import Server
from .bench_parts import build, open_draft, step
from .conftest import answers
from .test_places import changed, now, open_bench
from .test_whole_job import menu, set_number, value


def kept(page: Page, draft: Any, test: str) -> None:
    """Wait until the server's draft passes a test in JavaScript."""
    answers(page, f"/api/effects/{draft['id']}", test)


def away(page: Page) -> None:
    page.locator("body").click(position={"x": 700, "y": 20})


def test_lanes_are_named_folded_moved_and_removed(page: Page, server: Server) -> None:
    draft = open_bench(page, server)
    page.get_by_role("heading", name="Fray").dblclick()
    page.get_by_label("Name of the lane").fill("Burn")
    page.get_by_label("Name of the lane").press("Enter")
    expect(page.get_by_role("region", name="Lane Burn")).to_be_visible()
    page.get_by_role("button", name="Lane Burn: more").click()
    page.get_by_role("menuitem", name="Move left").click()
    kept(page, draft, "d.effect.lanes.map(l => l.id).join() === 'from,to,fray,direction,out'")
    page.get_by_role("button", name="Lane Burn: more").click()
    page.get_by_role("menuitem", name="Fold").click()
    page.get_by_role("button", name="Unfold lane Burn").click()
    expect(page.get_by_role("region", name="Lane Burn")).to_be_visible()
    page.get_by_role("button", name="Unfold lane From").click()
    expect(page.locator("article[aria-label='Slot in From']")).to_be_visible()
    page.get_by_role("button", name="Lane Out: more").click()
    expect(page.get_by_role("menuitem", name="Remove lane")).to_be_hidden()


def test_a_stand_in_is_chosen_and_shown(page: Page, server: Server) -> None:
    draft = open_bench(page, server)
    before = changed(page, 0)
    page.get_by_role("button", name="Unfold lane From").click()
    page.locator("[data-place='from.slot'] .StepCard-stepName").click()
    page.get_by_label("Stand-in for From").click(force=True)
    page.locator(".ant-select-item-option").filter(has_text="Route map").click()
    changed(page, before)
    ids = {one["name"]: one["id"] for one in server.ask("GET", "/materials")["materials"]}
    assert now(server, draft)["effect"]["slots"][0]["stand_in"] == ids["Route map"]
    page.get_by_label("Help for the slot From").fill("The clip that goes.")
    page.get_by_label("Name of the slot From").fill("Going")
    page.get_by_label("Name of the slot From").press("Enter")
    kept(
        page,
        draft,
        "d.effect.slots[0].name === 'Going' && d.effect.slots[0].help === 'The clip that goes.'",
    )
    assert now(server, draft)["effect"]["slots"][0]["stand_in"] == ids["Route map"]


def test_steps_move_between_lanes_and_down_and_are_removed(page: Page, server: Server) -> None:
    draft = open_bench(page, server)
    card = page.locator("[data-place='fray.levels'] .StepCard-stepHead")
    menu(page, card, "Move up")
    kept(page, draft, "d.effect.lanes[3].steps.map(s => s.id).join() === 'noise,levels,blend'")
    card.get_by_role("button", name=re.compile("more")).click()
    page.get_by_role("menuitem", name="Move to lane").hover()
    page.get_by_role("menuitem", name="Direction").click()
    kept(page, draft, "d.effect.lanes[2].steps.map(s => s.id).join() === 'ramp,levels'")
    menu(page, page.locator("[data-place='direction.levels'] .StepCard-stepHead"), "Remove")
    kept(page, draft, "d.effect.lanes[2].steps.length === 1")
    menu(page, page.locator("[data-place='fray.blend'] .StepCard-stepHead"), "Add a step below")
    dialog = page.get_by_role("dialog", name="Add a step")
    dialog.get_by_role("combobox").fill("negative")
    dialog.get_by_role("option").first.click()
    kept(page, draft, "d.effect.lanes[3].steps.map(s => s.id).join() === 'noise,blend,invert'")


def test_colour_stops_are_added_changed_and_removed(page: Page, server: Server) -> None:
    draft = open_bench(page, server)
    page.locator("[data-place='direction.ramp'] .StepCard-stepName").click()
    stops = value(page, "stops")
    stops.get_by_role("button", name="Add a stop").click()  # type: ignore[attr-defined]
    kept(page, draft, "d.effect.lanes[2].steps[0].values.stops?.length === 3")
    place = page.get_by_label("stops: place of stop 2")
    place.fill("0.25")
    place.press("Enter")
    kept(page, draft, "d.effect.lanes[2].steps[0].values.stops[1][0] === 0.25")
    page.get_by_role("button", name="Remove stop 2").click()
    kept(page, draft, "d.effect.lanes[2].steps[0].values.stops.length === 2")


def test_a_matte_is_taken_by_another_channel_and_inverted(page: Page, server: Server) -> None:
    draft = open_bench(page, server)
    page.get_by_role("slider", name="Playhead").focus()
    page.keyboard.press("Shift+ArrowRight")
    before = changed(page, 0)
    page.locator("[data-place='out.luma-wipe']").get_by_role(
        "button", name=re.compile("matte")
    ).click()
    page.get_by_role("switch", name="Inverted").click()
    changed(page, before)
    kept(page, draft, "d.effect.lanes[4].steps[1].inputs.matte.invert === true")
    page.get_by_label("Channel").click(force=True)
    page.locator(".ant-select-item-option").filter(has_text="red").click()
    kept(page, draft, "d.effect.lanes[4].steps[1].inputs.matte.channel === 'red'")
    page.keyboard.press("Escape")
    expect(page.get_by_text("matte: Fray, red, inverted")).to_be_visible()


def test_a_stage_is_kept_by_its_key_and_named(page: Page, server: Server) -> None:
    open_bench(page, server)
    page.locator("[data-place='fray.noise'] .StepCard-stepName").click()
    set_number(page, "octaves", "4")
    away(page)
    page.keyboard.press("Control+s")
    page.get_by_label("Name of the state").fill("rough cut")
    page.get_by_role("button", name="Save it").click()
    row = page.get_by_role("button", name=re.compile("rough cut"))
    expect(row).to_be_visible()
    set_number(page, "octaves", "5")
    expect(row).to_contain_text("go back to this")
    row.click()
    expect(value(page, "octaves").locator("input.NumberField-numberField")).to_have_value("4")  # type: ignore[attr-defined]


def test_keys_on_the_strip_go_to_keys_frames_and_ends(page: Page, server: Server) -> None:
    open_bench(page, server)
    playhead = page.get_by_role("slider", name="Playhead")
    away(page)
    for key, frame in (
        ("ArrowRight", "1"), ("Shift+ArrowRight", "11"), ("ArrowLeft", "10"),
        ("Control+ArrowRight", "37"), ("Control+ArrowLeft", "9"), ("Control+ArrowLeft", "0"), ("End", "49"), ("Home", "0"),
    ):  # fmt: skip
        page.keyboard.press(key)
        expect(playhead).to_have_attribute("aria-valuenow", frame)
    box = playhead.bounding_box()
    assert box
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + 10)
    expect(playhead).to_have_attribute("aria-valuenow", re.compile("24|25"))


def test_a_key_is_dragged_on_its_curve_and_eased(page: Page, server: Server) -> None:
    draft = open_bench(page, server)
    page.get_by_role("option", name=re.compile("progress")).click()
    page.get_by_label("Curve of Luma wipe: progress").scroll_into_view_if_needed()
    key = page.locator(".MovesPlot-plot .MovesPlot-key").nth(1)
    box = key.bounding_box()
    assert box
    page.mouse.move(box["x"] + 5, box["y"] + 5)
    page.mouse.down()
    page.mouse.move(box["x"] - 120, box["y"] + 5, steps=6)
    page.mouse.up()
    kept(page, draft, "d.effect.lanes[4].steps[1].values.progress.keys[1].time < 0.8")
    page.get_by_role("button", name=re.compile("^Key 1: ease")).click()
    for name, number in (
        ("x of the first handle", "0.1"), ("y of the first handle", "0.2"),
        ("x of the second handle", "0.3"), ("y of the second handle", "1"),
    ):  # fmt: skip
        field = page.get_by_label(name, exact=True)
        field.fill(number)
        field.press("Enter")
        expect(field).to_have_value(number)
    kept(
        page, draft,
        "d.effect.lanes[4].steps[1].values.progress.keys[0].ease?.bezier?.join() === "
        "'0.1,0.2,0.3,1'",
    )  # fmt: skip
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Remove key 2").click()
    kept(page, draft, "d.effect.lanes[4].steps[1].values.progress.keys.length === 1")


def test_values_move_stop_reset_and_follow_a_control(page: Page, server: Server) -> None:
    draft = open_bench(page, server)
    page.locator("[data-place='fray.levels'] .StepCard-stepName").click()
    levels = "d.effect.lanes[3].steps[2].values"
    menu(page, value(page, "gamma"), "Move from start to end")
    kept(page, draft, f"{levels}.gamma.keys.length === 2")
    menu(page, value(page, "gamma"), "Stop moving")
    kept(page, draft, f"typeof {levels}.gamma === 'number'")
    menu(page, value(page, "black_in"), "Back to default")
    kept(page, draft, f"!('black_in' in {levels})")
    value(page, "black_out").get_by_role("button", name=re.compile("more")).click()  # type: ignore[attr-defined]
    page.get_by_role("menuitem", name="Drive by control").hover()
    page.get_by_role("menuitem", name="Softness").click()
    kept(page, draft, f"{levels}.black_out.control === 'softness'")
    driven = now(server, draft)["drives"]["softness"]
    assert [one["words"] for one in driven] == [
        "Fray · Levels: black out", "Out · Luma wipe: softness",
    ]  # fmt: skip
    menu(page, value(page, "black_out"), "Unlink from “Softness”")
    kept(page, draft, f"typeof {levels}.black_out === 'number'")


def test_numbers_take_arithmetic(page: Page, server: Server) -> None:
    draft = open_bench(page, server, "ember-fray")
    page.locator("[data-place='fray.noise'] .StepCard-stepName").click()
    field = value(page, "cells").locator("input.NumberField-numberField")  # type: ignore[attr-defined]
    # frontend/src/controls/number.test.ts holds the arithmetic; here, that the value goes in.
    for typed, found in (("3*2", 6.0), ("*2", 12.0)):
        field.fill(typed)
        field.press("Enter")
        kept(page, draft, f"Math.abs(d.effect.controls[1].default - {found}) < 1e-9")


def test_two_windows_on_one_effect_do_not_overwrite_each_other(
    page: Page, browser: Browser, server: Server
) -> None:
    draft = open_bench(page, server)
    page.locator("[data-place='fray.noise'] .StepCard-stepName").click()
    change = {"do": "set-value", "lane": "fray", "step": "noise", "value_name": "seed", "value": 77}
    server.ask(
        "POST",
        f"/effects/{draft['id']}/changes",
        {"base": now(server, draft)["revision"], "change": change},
    )
    set_number(page, "octaves", "2")
    expect(page.get_by_text(re.compile("changed in another window meanwhile"))).to_be_visible()
    expect(value(page, "seed").locator("input.NumberField-numberField")).to_have_value("77")  # type: ignore[attr-defined]
    noise = now(server, draft)["effect"]["lanes"][3]["steps"][0]["values"]
    assert (noise["seed"], noise["octaves"]) == (77, 6)


def test_a_draft_is_removed_and_put_back(page: Page, server: Server) -> None:
    server.ask("POST", "/effects", {"kind": "texture", "name": "Throwaway"})
    page.goto("/bench")
    card = page.locator("article").filter(has_text="Throwaway")
    card.get_by_role("button", name="Remove Throwaway").click()
    expect(card).to_be_hidden()
    page.get_by_text("Put it back").click()
    expect(card).to_be_visible()


def test_the_list_of_keys_opens_and_text_fields_keep_theirs(page: Page, server: Server) -> None:
    open_bench(page, server)
    away(page)
    page.keyboard.press("?")
    expect(page.get_by_role("dialog").get_by_text("play backwards")).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("heading", name="Fray").dblclick()
    field = page.get_by_label("Name of the lane")
    field.fill("")
    field.press_sequentially("o/e ,.j")
    expect(field).to_have_value("o/e ,.j")
    expect(page.get_by_role("dialog", name="Add a step")).to_be_hidden()


def test_publishing_says_where_a_transition_jumps(page: Page, server: Server) -> None:
    draft = build(server, "transition", "Jumpy", step("out", "levels", white_out=0.7))
    open_draft(page, draft)
    page.get_by_role("button", name="Publish version 1").click()
    dialog = page.get_by_role("dialog", name="Publish version 1")
    for words in ("The first frame differs from the first clip", "The last frame differs from"):
        expect(dialog.get_by_text(words)).to_be_visible()
    # It is reported, but it may be intended.
    expect(dialog.get_by_role("button", name="Publish version 1")).to_be_enabled()
    name = dialog.get_by_label("Name", exact=True)
    usual = name.input_value()
    name.fill("  ")
    expect(dialog.get_by_text("A macro needs a name")).to_be_visible()
    expect(dialog.get_by_role("button", name="Publish version 1")).to_be_disabled()
    name.fill(usual)
