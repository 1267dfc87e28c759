"""Every place: nothing cut off at any width, no serious fault by axe, everything by keyboard."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from pale_static.media.pictures.stills import encode_png

from ..server import Server
from .bench_parts import build, open_draft
from .conftest import still, visit
from .test_places import open_bench

AXE = Path(__file__).parents[2] / "frontend" / "node_modules" / "axe-core" / "axe.min.js"

FAULTS = """async ([within, rules]) => {
  for (let k = 0; k < 2; k++) await new Promise(requestAnimationFrame);
  const fading = document.getAnimations().filter(one => one instanceof CSSTransition);
  await Promise.allSettled(fading.map(one => one.finished));
  const found = await axe.run(within, {resultTypes: ['violations'], ...(rules && {runOnly: rules})});
  return found.violations
    .filter(one => ['serious', 'critical'].includes(one.impact))
    .map(one => `${one.id}: ${one.nodes.map(n => n.target.join(' ') + ' ' + n.html.slice(0, 160)).slice(0, 4).join(' | ')}`);
}"""

OVERFLOW = """() => {
  const out = [];
  const wide = document.documentElement.clientWidth, high = document.documentElement.clientHeight;
  if (document.documentElement.scrollWidth > wide + 1) out.push('the page scrolls sideways');
  for (const one of document.querySelectorAll('button, h1, h2, input, select, [role=tab], .input, .StepCard-summary, .stat > *')) {
    const box = one.getBoundingClientRect();
    if (!box.width || !box.height || getComputedStyle(one).visibility === 'hidden') continue;
    if (one.closest('.Lanes-laneRow, .visually-hidden, .Strip-strip, .strip-scroll, .ant-select, .TopBar-openHead .name')) continue;
    if (box.left < -1 || box.right > wide + 1) out.push(`${one.tagName}.${one.className} ${one.innerText || one.ariaLabel} lies ${Math.round(box.right - wide)} px outside`);
  }
  // Text that is wider than its button, and not meant to be shortened.
  for (const one of document.querySelectorAll('.ant-btn, [role=tab], .transport > *, .stat button')) {
    if (one.scrollWidth > one.clientWidth + 2 && one.clientWidth) out.push(`${one.className} ${one.innerText} is cut off`);
  }
  // Rows under the monitor do not lie over each other.
  const rows = [...document.querySelectorAll('.Bench-watch > *, .Bench-watch .Filmstrip-filmstrip > *')].map(r => [r.className, r.getBoundingClientRect()]);
  for (const [a, one] of rows) for (const [b, two] of rows)
    if (a !== b && one.top < two.top && one.bottom > two.top + 2 && one.bottom < two.bottom) out.push(`${a} lies over ${b}`);
  return out;
}"""

SIZES = [(1024, 700), (1280, 800), (1920, 1080), (2560, 1440)]


@pytest.mark.own_page
def test_axe_finds_no_serious_fault_in_any_place(page: Page, server: Server) -> None:
    found: list[str] = []
    room = page.get_by_role("button", name="Pale or dim")

    def check(place: str, within: str = "html", *rules: str) -> None:
        faults = page.evaluate(FAULTS, [within, rules or None])
        found.extend(f"{place}: {fault}" for fault in faults)

    def check_both(place: str, within: str = "html") -> None:
        """Check the page in the pale and the dim theme; they differ only in colours."""
        check(place, within)
        room.click()
        expect(room).to_have_text("Pale")
        check(f"{place}, dim", within, "color-contrast")
        room.click()

    page.add_init_script(path=AXE)
    places = [
        ("/shelf", "Shelf"), ("/shelf/ember-fray", "Ember Fray"), ("/bench", "Start an effect"),
        ("/reel", "Reel"), ("/renders", "Renders"), ("/materials", "Materials"),
    ]  # fmt: skip
    for path, there in places:
        visit(page, path)
        expect(page.get_by_text(there).first).to_be_visible()
        still(page)
        check_both(path)
    visit(page, "/reel/3")
    expect(page.get_by_role("region", name="Strip")).to_be_visible()
    page.locator(".Strip-join, .Strip-cut").first.click()
    expect(page.get_by_role("region", name="Faceplate")).to_be_visible()
    check_both("reel")
    open_bench(page, server)
    page.locator("[data-place='out.luma-wipe'] .StepCard-stepName").click()
    check_both("bench, moves")
    # Another tab or view changes only its own part of the page.
    for tab in ("Faceplate", "Sheet", "History"):
        page.get_by_role("tab", name=re.compile(tab)).click()
        expect(page.get_by_role("tab", name=re.compile(tab), selected=True)).to_be_visible()
        check_both(f"bench, {tab}", ".Drawer-drawer")
    page.get_by_role("tab", name="Split").click()
    expect(page.get_by_test_id("compared")).to_be_visible()
    check_both("bench, split", ".Bench-watch")
    room.click()
    for theme in ("dim", "pale"):
        page.keyboard.press("/")
        expect(page.get_by_role("dialog", name="Add a step")).to_be_visible()
        check(f"add a step, {theme}")
        page.keyboard.press("Escape")
        matte = page.locator("[data-place='out.luma-wipe']").get_by_role(
            "button", name=re.compile("matte")
        )
        matte.click()
        expect(page.locator(".InputPicker-choice").first).to_be_visible()
        check(f"input picker, {theme}")
        page.keyboard.press("Escape")
        if theme == "dim":
            room.click()
    assert not found, "\n".join(found)


def test_nothing_is_cut_off_or_lies_over_anything(page: Page, server: Server) -> None:
    faults: list[str] = []

    def check(place: str) -> None:
        for wide, high in SIZES:
            page.set_viewport_size({"width": wide, "height": high})
            page.wait_for_timeout(100)
            faults.extend(f"{place}, {wide}×{high}: {one}" for one in page.evaluate(OVERFLOW))

    for path in ("/shelf", "/shelf/ember-fray", "/bench", "/reel", "/renders", "/materials"):
        visit(page, path)
        still(page)
        check(path)
    open_bench(page, server)
    page.locator("[data-place='out.luma-wipe'] .StepCard-stepName").click()
    for tab in ("Moves", "Faceplate", "Sheet", "History"):
        page.get_by_role("tab", name=re.compile(tab)).click()
        check(tab)
    for view in ("This step", "Split", "Difference"):
        page.get_by_role("tab", name=view, exact=True).click()
        page.wait_for_timeout(250)
        check(view)
    page.goto("/reel/3")
    expect(page.get_by_role("region", name="Strip")).to_be_visible()
    page.wait_for_timeout(400)
    # Opened directly, it has the styles that it shares with the Bench.
    assert page.evaluate("getComputedStyle(document.querySelector('.stat')).display") == "flex"
    check("reel")
    assert faults == []


def test_nothing_jumps_while_pictures_come(page: Page, server: Server) -> None:
    draft = open_bench(page, server)
    page.goto("about:blank")
    page.goto(f"/bench/{draft['id']}")
    places = "() => [...document.querySelectorAll('.StepCard-step, .screen, .Filmstrip-stripFrames, .Drawer-drawer')].map(one => { const b = one.getBoundingClientRect(); return [b.x, b.y, b.width, b.height].map(Math.round).join(); })"
    page.wait_for_selector(".StepCard-step")
    first: Any = page.evaluate(places)
    page.wait_for_timeout(1500)
    assert page.evaluate(places) == first


def test_the_whole_bench_is_reached_by_the_tab_key_with_focus_in_sight(
    page: Page, server: Server
) -> None:
    open_bench(page, server)
    page.locator("body").click(position={"x": 80, "y": 20})
    seen: set[str] = set()
    hidden: list[str] = []
    for _ in range(160):
        page.keyboard.press("Tab")
        name, visible = page.evaluate(
            """() => {
              const one = document.activeElement;
              const box = one.getBoundingClientRect();
              const style = getComputedStyle(one);
              const shown = style.outlineStyle !== 'none' || style.boxShadow !== 'none' || style.borderBottomStyle === 'solid'
                || one.matches('input, svg *, .ant-switch, .ant-select *');
              return [one.ariaLabel || one.innerText || one.tagName, one === document.body || (box.width > 0 && shown)];
            }"""
        )
        seen.add(str(name).split("\\n")[0])
        if not visible:
            hidden.append(str(name))
    assert not hidden
    for wanted in (
        "Save a named state",
        "Noise",
        "Luma wipe: more",
        "Playhead",
        "Play",
        "Result",
        "Split",
    ):
        assert any(wanted in one for one in seen), (wanted, sorted(seen))


CUT = """async places => {
  const found = {};
  for (const place of places) {
    const card = document.querySelector(`[data-place='${place}']`), out = new Set();
    card.querySelector('.StepCard-stepName').click();
    for (let k = 0; k < 9 && !card.classList.contains('selected'); k++) await new Promise(requestAnimationFrame);
    await new Promise(queueMicrotask);
    if (!card.classList.contains('selected')) out.add('is not selected');
    const box = card.getBoundingClientRect();
    for (const one of card.querySelectorAll('button, input, .value-label, .ant-select-content, .ValueRow-valueRow > *')) {
      const own = one.getBoundingClientRect(), name = one.innerText || one.ariaLabel || one.className;
      if (!own.width) continue;
      if (own.left < box.left - 1 || own.right > box.right + 1) out.add(`${name} lies outside`);
      if (!one.closest('.FormulaField-formula') && one.type !== 'range' && one.scrollWidth > one.clientWidth + 1) out.add(`${name} is cut off`);
    }
    found[place] = [...out];
  }
  return found;
}"""


def test_no_card_cuts_anything_off(page: Page, server: Server) -> None:
    places, changes = [], []
    for kind in server.ask("GET", "/steps")["kinds"]:
        if kind["kind"] in ("slot", "repeat"):
            continue
        lane = "out"
        if kind["main"] is None:
            lane = f"only-{kind['kind']}"
            changes.append({"do": "add-lane", "name": f"Only {kind['kind']}"})
        at = {"at": 1} if kind["main"] else {}
        changes.append({"do": "add-step", "lane": lane, "kind": kind["kind"], **at})
        places.append(f"{lane}.{kind['kind']}")
    draft = build(server, "look", "Every kind", *changes)
    # The content of the pictures does not matter here, and there are many.
    grey = encode_png(np.full((9, 16, 3), 128, np.uint8))
    page.route("**/frame.jpg*step=*", lambda route: route.fulfill(body=grey))
    open_draft(page, draft)
    found = page.evaluate(CUT, places)
    assert len(found) > 50
    assert {place: cut for place, cut in found.items() if cut} == {}
