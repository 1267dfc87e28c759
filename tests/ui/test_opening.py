"""How a place opens: all requests are sent at once and only once, and something is visible from the
start."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from ..server import Server
from .bench_parts import asked_by, until
from .test_places import open_bench

FRONT = Path(__file__).parents[2] / "frontend"
WITHIN = re.compile(r"<((?:Input|Radio|Modal|Select|Dropdown|Checkbox)\.\w+)")
ASKED = """() => performance.getEntriesByType('resource')
  .map(one => one.name.replace(location.origin, ''))"""


@pytest.fixture(autouse=True)
def loaded_again(page: Page) -> None:
    """Each test loads the application itself."""
    page.goto("/mark.svg")


def test_the_bench_asks_for_all_its_scripts_at_once(page: Page, server: Server) -> None:
    draft = server.ask("POST", "/effects", {"macro": "ember-fray", "version": 1})
    page.goto(f"/bench/{draft['id']}")
    listed = set(re.findall(r'(?:href|src)="(/[^"]+\.js)"', page.request.get(page.url).text()))
    expect(page.locator(".LaneColumn-lane.LaneColumn-out .StepCard-step").first).to_be_visible()
    loaded = {path for path in page.evaluate(ASKED) if path.endswith(".js")}
    assert loaded
    assert loaded <= listed


def test_every_place_asks_for_its_scripts_at_once(page: Page) -> None:
    for place in ("/", "/shelf", "/bench", "/reel", "/renders", "/materials"):
        page.goto(place)
        listed = set(re.findall(r'(?:href|src)="(/[^"]+\.js)"', page.request.get(page.url).text()))
        expect(page.locator("main h1").first).to_be_visible()
        loaded = {path for path in page.evaluate(ASKED) if path.endswith(".js")}
        assert loaded, place
        assert loaded <= listed, place


def test_the_draft_the_steps_and_the_first_picture_are_asked_for_once(
    page: Page, server: Server
) -> None:
    asked = asked_by(page)
    draft = open_bench(page, server)
    until(page, lambda: any("frame.jpg?frame=0" in one and "step=" in one for one in asked))
    frame = f"/api/effects/{draft['id']}/{draft['revision']}/frame.jpg?frame=0"
    firsts = [path for path in asked if path.startswith(frame) and "width=960" in path]
    assert len(firsts) == 1
    assert asked.count(f"/api/effects/{draft['id']}") == 1
    assert asked.count("/api/steps") == 1
    assert asked.index(firsts[0]) < asked.index(
        next(path for path in asked if path.startswith(frame) and "step=" in path)
    )


def test_a_change_asks_only_for_the_pictures_that_it_changes(page: Page, server: Server) -> None:
    asked = asked_by(page)
    open_bench(page, server)
    expect(page.locator("[data-place='fray.levels'] canvas")).to_be_visible()
    strip = page.get_by_role("img", name="Frames from the first to the last")
    expect(strip.locator("canvas")).to_be_visible()

    def came(words: str) -> None:
        until(page, lambda: any(words in one for one in asked))

    came("coverage")
    # At rest the full picture comes, which is there when a person enlarges it.
    came("width=960")
    asked.clear()
    page.get_by_role("heading", name="Fray").dblclick()
    page.get_by_label("Name of the lane").fill("Burn")
    page.get_by_label("Name of the lane").press("Enter")
    # Curves are requested together with the pictures.
    came("curves")
    assert [path for path in asked if ".jpg" in path] == []
    page.get_by_role("switch", name="Levels on").click()
    for words in ("strip.jpg", "step=fray.levels", "step=out.luma-wipe"):
        came(words)
    seen = [path for path in asked if ".jpg" in path]
    assert sum("strip.jpg" in path for path in seen) == 1
    assert {path.partition("step=")[2] for path in seen} == {"", "fray.levels", "out.luma-wipe"}


def test_the_page_says_whose_it_is_in_its_theme_before_any_script_has_come(page: Page) -> None:
    page.evaluate("""() => localStorage.setItem(
      'pale-static-theme', JSON.stringify({state: {name: 'dim'}, version: 0}))""")
    page.route("**/assets/*.js", lambda route: None)
    page.goto("/shelf", wait_until="commit")
    expect(page.get_by_text("Pale Static")).to_be_visible()
    expect(page.locator("html")).to_have_attribute("data-theme", "dim")
    expect(page.locator("body")).to_have_css("background-color", "rgb(35, 38, 37)")
    page.unroute_all(behavior="ignoreErrors")


def test_a_place_whose_scripts_cannot_be_had_says_so(page: Page) -> None:
    page.goto("/shelf")
    expect(page.locator("main h1")).to_be_visible()
    page.route("**/assets/Materials-*.js", lambda route: route.abort())
    page.get_by_role("link", name="Materials").click()
    expect(page.get_by_role("alert")).to_contain_text("This place could not be loaded")
    page.unroute_all()
    page.get_by_role("button", name="Load the page again").click()
    expect(page.get_by_role("heading", name="Materials")).to_be_visible()


def test_a_remembered_theme_that_is_nonsense_is_pale(page: Page) -> None:
    page.evaluate("localStorage.setItem('pale-static-theme', '{}')")
    page.goto("/shelf")
    expect(page.locator("html")).to_have_attribute("data-theme", "pale")


def test_an_address_that_is_no_place_leads_to_the_shelf(page: Page) -> None:
    for address in ("/nowhere", "/nowhere/at/all", "/"):
        page.goto(address)
        expect(page).to_have_url(re.compile("/shelf$"))


def test_every_component_that_is_used_has_its_styles_made() -> None:
    names = re.compile(r'import (?:type )?\{([^}]*)\} from "antd"')

    def used(text: str) -> set[str]:
        found = {
            name.split(" as ")[0].strip()
            for group in names.findall(text)
            for name in group.split(",")
            if name.strip() and not name.strip().startswith("type ")
        }
        return {name for name in found if name[0].isupper()}

    shown = set[str]()
    for file in (FRONT / "src").rglob("*.tsx"):
        shown |= used(file.read_text())
    assert len(shown) > 10
    # Of nested components, these are made too.
    within = {
        found
        for file in (FRONT / "src").rglob("*.tsx")
        for found in WITHIN.findall(file.read_text())
    }
    assert within <= {"Input.TextArea", "Radio.Group", "Radio.Button"}
    made = set(re.findall(r'^  "(\w+)",$', (FRONT / "sheet.tsx").read_text(), re.M))
    assert shown - made - {"ConfigProvider"} == set()
