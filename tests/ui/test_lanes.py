"""Lanes and cards: dragging, picking, repeating, notes, and lines to the steps that they read."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from ..server import Server
from .bench_parts import asked_by, build, grab, ids, middle, more, open_draft, step, until
from .test_bench_more import kept
from .test_places import now
from .test_whole_job import menu


@pytest.fixture
def draft(server: Server) -> Any:
    """A look: blur and invert in the output, noise and levels beside it, blended over."""
    return build(
        server, "look", "Lanes",
        step("out", "blur"),
        step("out", "invert"),
        {"do": "add-lane", "name": "Side"},
        step("side", "noise"),
        step("side", "levels"),
        step("out", "blend", mode="screen"),
    )  # fmt: skip


def card(page: Page, name: str) -> Any:
    return page.locator(f"[data-place='{name}']")


def test_a_new_step_comes_into_sight_with_its_values(page: Page, server: Server) -> None:
    draft = build(server, "look", "Long", *(step("out", "invert") for _ in range(5)))
    open_draft(page, draft)
    page.keyboard.press("/")
    page.get_by_role("combobox", name="Search for a step").fill("vignette")
    page.keyboard.press("Enter")
    values = page.locator("[data-place='out.vignette'] [data-value]")
    expect(values.first).to_be_in_viewport()
    expect(values.last).to_be_in_viewport()


def test_a_card_is_dragged_within_its_lane(page: Page, server: Server, draft: Any) -> None:
    open_draft(page, draft)
    grab(
        page,
        card(page, "out.invert").locator(".StepCard-stepName"),
        middle(card(page, "out.blur"), 0.5, 0.02),
    )
    page.mouse.up()
    kept(
        page,
        draft,
        "d.effect.lanes.at(-1).steps.map(s => s.id).join() === 'continue-from,invert,blur,blend'",
    )
    expect(page.locator(".DragGround-carried")).to_be_hidden()


def test_a_card_is_dragged_to_another_lane_and_what_read_it_still_does(
    page: Page, server: Server, draft: Any
) -> None:
    more(server, draft, {"do": "set-input", "lane": "out", "step": "blend", "input_name": "over",
                         "input": {"lane": "out", "step": "blur"}})  # fmt: skip
    open_draft(page, draft)
    grab(
        page,
        card(page, "out.blur").locator(".StepCard-stepName"),
        middle(card(page, "side.levels"), 0.5, 0.98),
    )
    page.mouse.up()
    kept(page, draft, "d.effect.lanes[1].steps.map(s => s.id).join() === 'noise,levels,blur'")
    source = now(server, draft)["effect"]["lanes"][2]["steps"][2]["inputs"]["over"]
    assert (source["lane"], source["step"]) == ("side", "blur")


def test_a_drop_that_makes_no_sense_is_refused_while_dragging_with_the_reason(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    # A source cannot follow another step.
    grab(
        page,
        card(page, "side.noise").locator(".StepCard-stepName"),
        middle(card(page, "out.blur"), 0.5, 0.05),
    )
    expect(page.locator(".DragGround-carried")).to_contain_text(
        "starts a lane; it cannot follow another step"
    )
    page.mouse.up()
    # An input of the blend cannot move below the blend that reads it.
    more(server, draft, {"do": "set-input", "lane": "out", "step": "blend", "input_name": "over",
                         "input": {"lane": "out", "step": "invert"}})  # fmt: skip
    page.reload()
    grab(
        page,
        card(page, "out.invert").locator(".StepCard-stepName"),
        middle(page.locator(".LaneColumn-lane.LaneColumn-out .StepCard-addHere"), 0.5, 0.9),
    )
    expect(page.locator(".DragGround-carried")).to_contain_text(
        "A loop: Out · blend → Out · invert → Out · blend"
    )
    page.mouse.up()
    assert ids(now(server, draft), "out") == ["continue-from", "blur", "invert", "blend"]


def test_several_cards_are_picked_without_a_pointer(page: Page, draft: Any) -> None:
    open_draft(page, draft)
    bar = page.get_by_role("toolbar", name="Picked steps")
    card(page, "out.blur").locator(".StepCard-stepName").press("Enter")
    card(page, "out.blend").locator(".StepCard-stepName").press("Shift+Enter")
    expect(bar).to_contain_text("3 steps")
    card(page, "out.invert").locator(".StepCard-stepName").press("Control+Enter")
    expect(bar).to_contain_text("2 steps")


def test_a_lane_says_whose_steps_these_are_while_they_scroll(page: Page, draft: Any) -> None:
    open_draft(page, draft)
    page.set_viewport_size({"width": 1280, "height": 500})
    head = page.locator(".LaneColumn-lane.LaneColumn-out .LaneColumn-laneHead h2")
    before = head.bounding_box()
    card(page, "out.blend").scroll_into_view_if_needed()
    page.locator(".LaneColumn-lane.LaneColumn-out").evaluate("lane => lane.scrollTo(0, 1000)")
    assert page.locator(".LaneColumn-lane.LaneColumn-out").evaluate("lane => lane.scrollTop") > 100
    after = head.bounding_box()
    assert before
    assert after
    assert abs(after["y"] - before["y"]) < 8


def test_several_cards_are_picked_and_handled_at_once(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    card(page, "out.blur").locator(".StepCard-stepName").click()
    card(page, "out.invert").locator(".StepCard-stepName").click(modifiers=["ControlOrMeta"])
    bar = page.get_by_role("toolbar", name="Picked steps")
    expect(bar).to_contain_text("2 steps")
    bar.get_by_role("button", name="Off", exact=True).click()
    kept(page, draft, "d.effect.lanes.at(-1).steps.filter(s => !s.on).length === 2")
    bar.get_by_role("button", name="On", exact=True).click()
    kept(page, draft, "d.effect.lanes.at(-1).steps.every(s => s.on)")
    bar.get_by_role("button", name="Duplicate").click()
    kept(
        page,
        draft,
        "d.effect.lanes.at(-1).steps.map(s => s.id).join() === "
        "'continue-from,blur,invert,blur-2,invert-2,blend'",
    )
    # Dragged together, in their order.
    grab(
        page,
        card(page, "out.invert").locator(".StepCard-stepName"),
        middle(page.locator(".LaneColumn-lane.LaneColumn-out .StepCard-addHere"), 0.5, 0.9),
    )
    expect(page.locator(".DragGround-carried")).to_contain_text("2 steps")
    page.mouse.up()
    kept(
        page,
        draft,
        "d.effect.lanes.at(-1).steps.map(s => s.id).join() === "
        "'continue-from,blur-2,invert-2,blend,blur,invert'",
    )
    bar.get_by_role("button", name="Remove").click()
    kept(page, draft, "d.effect.lanes.at(-1).steps.length === 4")
    expect(bar).to_be_hidden()
    page.get_by_role("button", name="Undo").click()
    kept(page, draft, "d.effect.lanes.at(-1).steps.length === 6")
    # Shift picks a run; Delete removes it.
    card(page, "out.blur-2").locator(".StepCard-stepName").click()
    card(page, "out.blend").locator(".StepCard-stepName").click(modifiers=["Shift"])
    expect(bar).to_contain_text("3 steps")
    page.keyboard.press("Delete")
    kept(
        page,
        draft,
        "d.effect.lanes.at(-1).steps.map(s => s.id).join() === 'continue-from,blur,invert'",
    )


def test_a_lane_is_dragged_copied_and_a_slot_comes_and_goes(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    menu(
        page,
        page.get_by_role("region", name="Lane Side").locator(".LaneColumn-laneHead"),
        "Duplicate",
    )
    kept(page, draft, "d.effect.lanes.map(l => l.name).join() === 'Clip,Side,Side 2,Out'")
    grab(
        page,
        page.get_by_role("heading", name="Side 2"),
        middle(page.get_by_role("region", name="Lane Side", exact=True), 0.05, 0.3),
    )
    page.mouse.up()
    kept(page, draft, "d.effect.lanes.map(l => l.name).join() === 'Clip,Side 2,Side,Out'")
    page.get_by_role("button", name="Add a slot or a part").click()
    page.get_by_role("menuitem", name="A slot for a matte").click()
    kept(page, draft, "d.effect.slots.map(s => s.kind).join() === 'clip,matte'")
    menu(
        page,
        page.get_by_role("region", name="Lane Matte").locator(".LaneColumn-laneHead"),
        "Remove lane and slot",
    )
    kept(page, draft, "d.effect.slots.length === 1 && d.effect.lanes.length === 4")


def test_hovering_a_card_draws_lines_to_what_it_reads_and_feeds(page: Page, draft: Any) -> None:
    open_draft(page, draft)
    card(page, "out.blend").locator(".StepCard-stepHead").hover()
    lines = page.locator(".HoverLines-hoverLines path")
    expect(lines).to_have_count(2)  # the step above, and Side
    assert {line.get_attribute("data-to") for line in lines.all()} == {"out.invert", "side.levels"}
    card(page, "side.levels").locator(".StepCard-stepHead").hover()
    expect(page.locator(".HoverLines-hoverLines .HoverLines-feedsLine")).to_have_attribute(
        "data-to", "out.blend"
    )
    page.mouse.move(900, 20)
    expect(lines).to_have_count(0)


def test_cards_move_by_the_keyboard_alone(page: Page, draft: Any) -> None:
    open_draft(page, draft)
    card(page, "out.invert").locator(".StepCard-stepName").focus()
    page.keyboard.press("Alt+ArrowUp")
    kept(
        page,
        draft,
        "d.effect.lanes.at(-1).steps.map(s => s.id).join() === 'continue-from,invert,blur,blend'",
    )
    # The page may show the new order a moment after the server has it.
    page.wait_for_function(
        """() => [...document.querySelectorAll('[data-place^="out."]')]
             .map(one => one.dataset.place).join().startsWith('out.continue-from,out.invert')"""
    )
    card(page, "out.invert").locator(".StepCard-stepName").focus()
    page.keyboard.press("Alt+ArrowDown")
    kept(
        page,
        draft,
        "d.effect.lanes.at(-1).steps.map(s => s.id).join() === 'continue-from,blur,invert,blend'",
    )


def test_steps_are_repeated_and_every_pass_is_looked_at(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    card(page, "out.blur").locator(".StepCard-stepName").click()
    card(page, "out.invert").locator(".StepCard-stepName").click(modifiers=["ControlOrMeta"])
    page.get_by_role("button", name="Repeat together").click()
    kept(
        page,
        draft,
        "d.effect.lanes.at(-1).steps.map(s => s.id).join() === 'continue-from,repeat,blend'",
    )
    held = page.get_by_role("group", name="What Repeat repeats")
    expect(held.locator("article")).to_have_count(2)
    asked = asked_by(page)
    held.locator(".Passes-passPicker label").first.click()
    until(page, lambda: any("step=out.blur%400" in one for one in asked))
    # One step is added by "Add a step", another by dragging, and a value sets the count.
    held.get_by_role("button", name="Add a step to repeat").click()
    dialog = page.get_by_role("dialog", name="Add a step")
    dialog.get_by_role("combobox").fill("posterise")
    dialog.get_by_role("combobox").press("Enter")
    kept(
        page,
        draft,
        "d.effect.lanes.at(-1).steps[1].steps.map(s => s.kind).join() === 'blur,invert,posterise'",
    )
    grab(
        page,
        card(page, "out.posterise").locator(".StepCard-stepName").first,
        middle(
            page.locator(
                ".LaneColumn-lane.LaneColumn-out > .DragGround-gap.DragGround-end .StepCard-addHere"
            ),
            0.5,
            0.9,
        ),
    )
    page.mouse.up()
    kept(page, draft, "d.effect.lanes.at(-1).steps.at(-1).kind === 'posterise'")
    card(page, "out.repeat").locator(".StepCard-stepName").first.click()
    field = card(page, "out.repeat").locator("[data-value='count'] input.NumberField-numberField")
    field.fill("12")
    field.press("Enter")
    expect(held.get_by_text("of 12")).to_be_visible()
    menu(
        page,
        card(page, "out.repeat").locator(".StepCard-stepHead").first,
        "Take the repeat away, keep its steps",
    )
    kept(
        page,
        draft,
        "d.effect.lanes.at(-1).steps.map(s => s.id).join() === "
        "'continue-from,blur,invert,blend,posterise'",
    )


def test_inside_a_repeat_a_tap_offers_what_comes_into_the_pass(
    page: Page, server: Server, draft: Any
) -> None:
    more(server, draft, {"do": "repeat-steps", "lane": "out", "steps": ["blur", "invert", "blend"]})
    open_draft(page, draft)
    card(page, "out.blend").get_by_role("button", name=re.compile("^over")).click()
    page.get_by_role("button", name=re.compile("what comes into the pass")).click()
    kept(page, draft, "d.effect.lanes.at(-1).steps[1].steps[2].inputs.over.step === 'repeat'")


def test_notes_are_written_on_the_effect_a_lane_and_a_step(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    card(page, "out.blur").locator(".StepCard-stepName").click()
    page.locator(".LaneColumn-lane.LaneColumn-out .LaneColumn-feeds").click()
    page.keyboard.press("n")
    page.get_by_label("Note", exact=True).fill("Not too soft:\nhalf a percent.")
    page.get_by_role("button", name="Pin it").click()
    expect(card(page, "out.blur").get_by_text("half a percent")).to_be_visible()
    menu(
        page,
        page.get_by_role("region", name="Lane Side").locator(".LaneColumn-laneHead"),
        "Write a note",
    )
    page.get_by_label("Note", exact=True).fill("The dirt.")
    page.keyboard.press("Control+Enter")
    note = page.get_by_role("region", name="Lane Side").get_by_text("The dirt.")
    expect(note).to_be_visible()
    found = now(server, draft)["effect"]["notes"]
    assert [(one.get("lane"), one.get("step")) for one in found] == [
        ("out", "blur"),
        ("side", None),
    ]
    note.click()
    page.get_by_label("Note", exact=True).fill("")
    page.get_by_role("button", name="Take it away").click()
    expect(note).to_be_hidden()


def test_a_tap_may_come_from_another_frame(page: Page, server: Server, draft: Any) -> None:
    open_draft(page, draft)
    card(page, "out.blend").get_by_role("button", name=re.compile("^over")).click()
    field = page.get_by_label("Frames later")
    field.fill("-6")
    field.press("Enter")
    kept(page, draft, "d.effect.lanes.at(-1).steps.at(-1).inputs.over.offset === -6")
    page.keyboard.press("Escape")
    expect(card(page, "out.blend").get_by_text("over: Side, 6 frames earlier")).to_be_visible()


def test_a_loop_is_shown_but_not_offered_and_named(page: Page, draft: Any) -> None:
    open_draft(page, draft)
    card(page, "out.blend").get_by_role("button", name=re.compile("^over")).click()
    own = page.get_by_role("dialog").get_by_role("button", name=re.compile("Out, Blend"))
    expect(own).to_be_disabled()
    expect(own).to_contain_text("A step cannot read itself: that would make a loop.")


def test_a_step_is_found_by_need(page: Page, draft: Any) -> None:
    open_draft(page, draft)
    page.locator(".LaneColumn-lane.LaneColumn-out .StepCard-addHere").click()
    dialog = page.get_by_role("dialog", name="Add a step")
    expect(dialog.locator(".AddStep-family").first).to_be_visible()
    for need, found in (
        ("make edges glow", "Edges"), ("8 bit", "Pixelate"), ("worn home video", "Tape wear"),
        ("soft shadow", "Shadow"), ("swirl", "Twirl"),
    ):  # fmt: skip
        dialog.get_by_role("combobox").fill(need)
        expect(dialog.locator(".AddStep-family", has_text="Mattes")).to_have_count(0)
        assert found in dialog.locator("[role=option] b").all_inner_texts()[:3], need
        # Every row shows the step applied at this place.
        expect(dialog.locator("[role=option]").first.locator("canvas")).to_be_visible()
    # A choice of a value finds the step, and is set.
    dialog.get_by_role("combobox").fill("multiply")
    expect(dialog.get_by_role("option").first).to_contain_text("Blend multiply")
    page.keyboard.press("Enter")
    kept(page, draft, "d.effect.lanes.at(-1).steps.at(-1).values.mode === 'multiply'")


def test_what_starts_a_lane_is_found_from_anywhere(page: Page, draft: Any) -> None:
    open_draft(page, draft)
    page.locator(".LaneColumn-lane.LaneColumn-out .StepCard-addHere").click()
    dialog = page.get_by_role("dialog", name="Add a step")
    dialog.get_by_role("combobox").fill("wet windwo")
    expect(dialog.get_by_text("Starts a lane of its own")).to_be_visible()
    beads = dialog.get_by_role("option", name=re.compile("^Beads"))
    expect(beads.locator("canvas")).to_be_visible()
    beads.click()
    expect(page.locator("article[aria-label='Beads in Beads']")).to_be_visible()
    # It was one change: a single undo removes step and lane.
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_role("region", name="Lane Beads")).to_have_count(0)
    # At the start of a lane, steps that need a picture are shown but cannot be taken.
    page.get_by_role("button", name="Add a lane").first.click()
    dialog.get_by_role("combobox").fill("glow")
    expect(dialog.get_by_text("Works on a picture: start the lane first")).to_be_visible()
    glow = dialog.get_by_role("option", name=re.compile("^Glow"))
    expect(glow).to_have_attribute("aria-disabled", "true")
    glow.click(force=True)
    expect(dialog).to_be_visible()


def test_forty_steps_in_eight_lanes_stay_smooth(page: Page, server: Server) -> None:
    changes: list[Any] = []
    for lane in range(7):
        changes.append({"do": "add-lane", "name": f"L{lane}"})
        changes += [step(f"l{lane}", "noise", seed=lane)]
        changes += [step(f"l{lane}", "levels") for _ in range(4)]
    changes += [step("out", "levels") for _ in range(5)]
    draft = build(server, "texture", "Many", *changes)
    asked = asked_by(page)
    open_draft(page, draft)
    page.wait_for_timeout(800)
    pictures = {url for url in asked if "step=" in url}
    # Only visible pictures are computed: three of the eight columns, and the output.
    assert 4 <= len(pictures) < 30
    expect(page.get_by_role("region", name="Lane Out")).to_be_in_viewport()
    page.locator(".Lanes-laneRow").evaluate("row => row.scrollTo(900, 0)")
    expect(page.get_by_role("region", name="Lane L5")).to_be_in_viewport()
    expect(page.get_by_role("region", name="Lane Out")).to_be_in_viewport()
    page.get_by_role("region", name="Lane L5").locator(".StepCard-stepName").nth(1).click()
    page.wait_for_timeout(1500)
    # Pointing at cards draws lines, and sends no request.
    asked.clear()
    for card in page.get_by_role("region", name="Lane L5").locator(".StepCard-stepHead").all()[:2]:
        card.hover()
    expect(page.locator(".HoverLines-hoverLines path").first).to_be_visible()
    page.wait_for_timeout(300)
    assert [url for url in asked if "frame." in url] == []


def test_a_step_is_given_a_name_however_long(page: Page, server: Server, draft: Any) -> None:
    open_draft(page, draft)
    menu(page, card(page, "out.blur").locator(".StepCard-stepHead"), "Name it")
    long = "Very long name of a soft veil that is cut off nowhere else"
    page.get_by_label("Name of the step").fill(long)
    page.get_by_role("button", name="Name it").click()
    expect(card(page, "out.blur").locator(".StepCard-stepName")).to_contain_text("Very long name")
    kept(page, draft, f"d.effect.lanes.at(-1).steps[1].name === {long!r}")
