"""When things go wrong: the server gone and back, two windows, failing steps, odd input."""

from __future__ import annotations

import re
import sqlite3
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from ..server import Server
from .bench_parts import build, more, open_draft, step
from .conftest import answers
from .test_bench_more import kept
from .test_places import now
from .test_whole_job import set_number, value


@pytest.fixture
def draft(server: Server) -> Any:
    return build(server, "look", "Trouble", step("out", "blur", size=2), step("out", "posterise"))


def test_a_change_waits_while_another_program_holds_the_database(
    page: Page, server: Server
) -> None:
    draft = build(server, "look", "Held", step("out", "blur", size=3))
    open_draft(page, draft)
    page.locator("[data-place='out.blur'] .StepCard-stepName").click()
    with sqlite3.connect(server.folder / "pale-static.sqlite", isolation_level=None) as other:
        other.execute("BEGIN IMMEDIATE")
        field = value(page, "size").locator("input.NumberField-numberField")  # type: ignore[attr-defined]
        field.fill("7")
        field.press("Enter")
        waits = "Another program is using the data folder; 1 change waits and nothing is lost"
        expect(page.get_by_text(waits)).to_be_visible()
        assert now(server, draft)["effect"]["lanes"][-1]["steps"][1]["values"]["size"] == 3
        other.execute("ROLLBACK")
    answers(page, f"/api/effects/{draft['id']}", "d.effect.lanes.at(-1).steps[1].values.size === 7")
    expect(page.get_by_text(re.compile(r"saved \d"))).to_be_visible()


def test_changes_wait_while_the_server_is_gone_and_none_is_lost(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    page.locator("[data-place='out.blur'] .StepCard-stepName").click()
    away: list[Any] = []
    page.route("**/changes", lambda route: (away.append(route), route.abort("connectionrefused")))
    set_number(page, "size", "3")
    expect(
        page.get_by_text(re.compile("does not answer; 1 change waits and nothing is lost"))
    ).to_be_visible()
    page.locator("[data-place='out.blur'] .StepCard-stepOn").click()
    expect(page.get_by_text(re.compile("2 changes wait"))).to_be_visible()
    assert now(server, draft)["revision"] == draft["revision"]
    page.unroute("**/changes")
    kept(
        page,
        draft,
        "d.effect.lanes.at(-1).steps[1].values.size === 3 && !d.effect.lanes.at(-1).steps[1].on",
    )
    expect(page.get_by_text(re.compile("saved \\d"))).to_be_visible()


def test_an_edit_whose_answer_is_lost_is_made_once(page: Page, server: Server, draft: Any) -> None:
    open_draft(page, draft)
    page.locator("[data-place='out.blur'] .StepCard-stepName").click()
    lost: list[int] = []

    def lose(route: Any) -> None:
        # The server makes the change, but its answer is lost.
        if not lost:
            lost.append(route.fetch().status)
            return route.abort("connectionreset")
        return route.continue_()

    page.route("**/changes", lose)
    set_number(page, "size", "3")
    expect(page.get_by_text(re.compile("saved \\d"))).to_be_visible()
    kept(page, draft, "d.effect.lanes.at(-1).steps[1].values.size === 3")
    expect(page.get_by_text(re.compile("change waits"))).to_be_hidden()
    expect(page.get_by_text(re.compile("another window"))).to_be_hidden()
    history = server.ask("GET", f"/effects/{draft['id']}/history")["revisions"]
    assert lost == [200]
    assert [one["words"] for one in history].count("Blur: size 2 → 3") == 1


def test_the_later_of_two_windows_is_told_and_may_keep_a_copy(
    page: Page, browser: Browser, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    page.locator("[data-place='out.blur'] .StepCard-stepName").click()
    more(server, draft, {"do": "set-value", "lane": "out", "step": "posterise",
                         "value_name": "tone_gap", "value": 0.3})  # fmt: skip
    set_number(page, "size", "6")
    expect(page.get_by_text(re.compile("changed in another window meanwhile"))).to_be_visible()
    steps = now(server, draft)["effect"]["lanes"][-1]["steps"]
    assert (steps[1]["values"]["size"], steps[2]["values"]["tone_gap"]) == (2, 0.3)
    page.get_by_role("button", name="Keep mine as a copy").click()
    expect(page.get_by_role("button", name="Trouble (my copy)")).to_be_visible()
    number = int(page.url.rsplit("/", 1)[1])
    mine = server.ask("GET", f"/effects/{number}")["effect"]["lanes"][-1]["steps"]
    assert mine[1]["values"]["size"] == 6
    assert "tone_gap" not in mine[2]["values"]


def test_a_failing_step_says_why_and_those_above_it_still_show(
    page: Page, server: Server, draft: Any
) -> None:
    bad = {"formula": "0.5 + 0 / (frame - 10)"}
    more(server, draft, {"do": "set-value", "lane": "out", "step": "posterise",
                         "value_name": "mix", "value": bad})  # fmt: skip
    open_draft(page, draft)
    playhead = page.get_by_role("slider", name="Playhead")
    playhead.focus()
    page.keyboard.press("Shift+ArrowRight")
    card = page.locator("[data-place='out.posterise']")
    expect(
        card.get_by_text(re.compile("Out · Posterise.*divides by zero at frame 10"))
    ).to_be_visible()
    expect(page.locator(".Monitor-monitor .fault")).to_contain_text("divides by zero at frame 10")
    expect(page.locator("[data-place='out.blur'] canvas")).to_be_visible()
    expect(page.locator("[data-place='out.blur'] .fault")).to_have_count(0)
    page.keyboard.press("ArrowRight")
    expect(card.locator(".fault")).to_have_count(0)


def test_huge_text_is_refused_in_words(page: Page, server: Server) -> None:
    draft = build(server, "title", "Huge")
    open_draft(page, draft)
    page.get_by_role("tab", name=re.compile("Faceplate")).click()
    field = page.locator("[data-control='text'] textarea")
    field.fill("lantern " * 2000)
    field.blur()
    expect(page.get_by_text(re.compile("holds 2000 characters at most"))).to_be_visible()
    assert now(server, draft)["revision"] == draft["revision"]


def test_a_folder_dropped_on_materials_is_told_and_nothing_breaks(page: Page) -> None:
    page.goto("/materials")
    expect(page.get_by_label("Name of Headlamp")).to_be_visible()
    page.evaluate(
        """() => {
          // What a browser gives for a folder: a file without a type that cannot be read.
          const folder = new File([], 'footage', {type: ''});
          const data = new DataTransfer();
          data.items.add(folder);
          const page = document.querySelector('main.page');
          for (const kind of ['dragover', 'drop'])
            page.dispatchEvent(new DragEvent(kind, {dataTransfer: data, bubbles: true, cancelable: true}));
        }"""
    )
    expect(page.get_by_text(re.compile("footage"))).to_be_visible()
    expect(page.get_by_label("Name of Headlamp")).to_be_visible()


def test_what_was_done_is_undone_and_redone_after_a_reload(
    page: Page, server: Server, draft: Any
) -> None:
    open_draft(page, draft)
    page.locator("[data-place='out.blur'] .StepCard-stepName").click()
    set_number(page, "size", "4")
    kept(page, draft, "d.effect.lanes.at(-1).steps[1].values.size === 4")
    page.reload()
    page.get_by_role("button", name="Undo").click()
    kept(page, draft, "d.effect.lanes.at(-1).steps[1].values.size === 2")
    page.get_by_role("button", name="Redo").click()
    kept(page, draft, "d.effect.lanes.at(-1).steps[1].values.size === 4")
    expect(value(page, "size").locator("input.NumberField-numberField")).to_have_value("4")  # type: ignore[attr-defined]
