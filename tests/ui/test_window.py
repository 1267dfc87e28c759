"""A window shows the saved state: refused values go back, pictures follow each change."""

from __future__ import annotations

import json
import re
from pathlib import Path

from playwright.sync_api import Browser, Page, Request, Route, expect

from pale_static.media.foreign.reading import read_package
from pale_static.media.packages import Package, write_package

from ..server import Server
from .bench_parts import build, full_ones_late, middle, open_draft, step
from .conftest import SIZE, answers, preview, visit
from .test_whole_job import menu, value


def test_a_slider_goes_back_when_its_value_is_refused(page: Page, server: Server) -> None:
    draft = build(server, "look", "Refused", step("out", "blur", size=2))
    open_draft(page, draft)
    page.locator("[data-place='out.blur'] .StepCard-stepName").click()

    def refuse(route: Route) -> None:
        told = {"title": "The request failed", "status": 422, "detail": "Blur stays as it is."}
        route.fulfill(status=422, content_type="application/problem+json", body=json.dumps(told))

    page.route("**/changes", refuse)
    slider = value(page, "size").locator("[type=range]")  # type: ignore[attr-defined]
    before = slider.input_value()
    slider.click(position={"x": 60, "y": 10})
    expect(page.get_by_text("Blur stays as it is.")).to_be_visible()
    expect(slider).to_have_value(before)


def test_nothing_is_published_after_a_refused_name(page: Page, server: Server) -> None:
    draft = build(server, "texture", "Kept name", step("out", "grain"))
    open_draft(page, draft)
    page.get_by_role("button", name="Publish version 1").click()
    dialog = page.get_by_role("dialog", name="Publish version 1")
    # The fields take at most the lengths in the API's description.
    dialog.get_by_label("What it does").fill("x" * 300)
    assert len(dialog.get_by_label("What it does").input_value()) == 200
    dialog.get_by_label("Name").fill("y" * 300)
    assert len(dialog.get_by_label("Name").input_value()) == 120

    def refuse(route: Route) -> None:
        told = {"title": "The request failed", "status": 422, "detail": "That name is refused."}
        route.fulfill(status=422, content_type="application/problem+json", body=json.dumps(told))

    published: list[str] = []
    page.route("**/changes", refuse)
    page.on("request", lambda one: published.append(one.url) if "publish" in one.url else None)
    dialog.get_by_role("button", name="Publish version 1").click()
    expect(page.get_by_text("That name is refused.")).to_be_visible()
    expect(dialog.get_by_role("button", name="Publish version 1")).to_be_enabled()
    assert not published
    assert server.ask("GET", f"/effects/{draft['id']}")["next_version"] == 1
    assert all(one["name"] != "Kept name" for one in server.ask("GET", "/macros")["macros"])


def test_each_window_has_streams_of_its_own(page: Page, browser: Browser, server: Server) -> None:
    draft = build(server, "look", "Two windows", step("out", "blur", size=2))
    other = browser.new_page(viewport=SIZE, base_url=server.address)
    streams: list[str] = []
    other.goto("/mark.svg")
    try:
        for window in (page, other):
            seen: list[Request] = []
            window.on(
                "request",
                lambda one, to=seen: to.append(one) if one.url.endswith("/live") else None,
            )
            open_draft(window, draft)
            window.locator("[data-place='out.blur'] .StepCard-stepName").click()
            slider = value(window, "size").locator("[type=range]")  # type: ignore[attr-defined]
            with window.expect_request("**/live") as asked:
                window.mouse.move(*middle(slider, 0.3))
                window.mouse.down()
                window.mouse.move(*middle(slider, 0.5), steps=4)
            window.mouse.up()
            streams.append(asked.value.post_data_json["stream"])
    finally:
        other.close()
    assert streams[0] != streams[1]
    assert all(one.startswith("monitor.") for one in streams)


def test_a_stopped_monitor_shows_the_sharp_picture(page: Page, server: Server) -> None:
    preview(page, None)
    draft = build(server, "texture", "Sharp", step("out", "grain"))
    open_draft(page, draft)

    expect(page.get_by_test_id("screen")).to_have_attribute("data-pixels", "960x540")
    page.route("**/frames?*", full_ones_late)
    page.get_by_role("button", name="Play", exact=True).click()
    expect(page.get_by_text(re.compile("half size|quarter size"))).to_be_visible()
    page.unroute("**/frames?*")
    page.get_by_role("button", name="Stop").click()
    expect(page.get_by_test_id("screen")).to_have_attribute("data-pixels", "960x540")


def test_a_change_shows_while_a_loop_plays(page: Page, server: Server) -> None:
    draft = build(server, "texture", "Loop",
                  {"do": "set-value", "lane": "out", "step": "flat", "value_name": "colour", "value": "#FF0000"},
                  {"do": "set-head", "seconds": 0.4})  # fmt: skip
    open_draft(page, draft)
    page.get_by_role("button", name="Play", exact=True).click()
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    page.locator("[data-place='out.flat'] .StepCard-stepName").click()
    menu(page, value(page, "colour"), "Back to default")
    answers(page, f"/api/effects/{draft['id']}", "!('colour' in d.effect.lanes[0].steps[0].values)")
    page.wait_for_function(
        """() => {
          const c = document.querySelector('[data-testid=screen]');
          const [r, , b] = c.getContext('2d').getImageData(c.width / 2, c.height / 2, 1, 1).data;
          return b > 100 && r > 100;
        }""",
        timeout=20_000,
    )
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    page.get_by_role("button", name="Stop").click()


def test_a_macro_of_the_same_name_is_kept_beside_ones_own_if_so_decided(
    page: Page, server: Server, tmp_path: Path
) -> None:
    path = f"{server.address}/api/macros/ember-fray/1/file.palemacro"
    package = read_package(page.request.get(path).body())
    theirs = package.macro.model_copy(
        update={"identity": "e" * 32, "version": 5, "author": "Another maker"}
    )
    effect = theirs.effect.model_copy(update={"sentence": "By another maker."})
    file = tmp_path / "theirs.palemacro"
    file.write_bytes(write_package(Package(theirs.model_copy(update={"effect": effect}))))
    visit(page, "/shelf")
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name=re.compile("Bring in")).click()
    chooser.value.set_files(str(file))
    dialog = page.get_by_role("dialog", name="Another macro has this name")
    expect(dialog.get_by_text(re.compile("by Another maker, version"))).to_be_visible()
    dialog.get_by_role("button", name="Keep both").click()
    answers(page, "/api/macros", "d.macros.some(one => one.slug === 'ember-fray-2')")
    found = {one["slug"]: one["versions"] for one in server.ask("GET", "/macros")["macros"]}
    assert found["ember-fray"] == [1]
    assert found["ember-fray-2"] == [5]


def test_what_an_empty_slot_shows_is_chosen_on_its_card(page: Page, server: Server) -> None:
    draft = build(
        server, "look", "Falls back", {"do": "add-slot", "kind": "texture", "name": "Sky"}
    )
    open_draft(page, draft)
    page.locator("[data-place='sky.slot'] .StepCard-stepName").click()
    page.get_by_label("What Sky shows while it is empty").click()
    page.get_by_title("the clip itself").click()
    answers(page, f"/api/effects/{draft['id']}", "d.effect.slots[1].fallback === 'clip'")
