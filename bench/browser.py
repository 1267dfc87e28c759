"""The interface as a person uses it: open the Bench, move a slider, see the picture."""

from __future__ import annotations

import os
import re
import subprocess
import tempfile
import time
import urllib.request
from contextlib import suppress
from pathlib import Path
from typing import Any

import numpy as np
from playwright.sync_api import Page, Playwright, sync_playwright

from tests.chromium import CHROMIUM, FLAGS

from .films import family
from .measure import Row, multiple
from .server import ask, serving

HEAVIEST = (("ember-fray", "fray.noise", "roughness"), ("soot-lift", "smoke.noise", "stretch x"))
"""The demo's macros whose first steps take longest: a step and a value of each."""
MOVES = 40
OPENINGS = 3
"""How often each macro is opened, each time in a new browser."""
SHOWN = "544x306"
"""The size that the Bench's monitor shows in this window."""
LIMIT = 60_000
"""Milliseconds that a slow machine may take for anything."""
BEFORE = 15, 122_700
"""Requests and bytes for a change of one value, when each small picture came alone."""
MARKS = """() => Object.fromEntries(
  performance.getEntriesByType('mark').reverse().map(mark => [mark.name, mark.startTime]))"""
DRAWN = "() => document.querySelector('[data-testid=screen]')?.dataset.pixels"
SHARP = "shown => window.drawn.some(([, size]) => size === shown)"
WATCH = """() => {
  const canvas = document.querySelector('[data-testid=screen]');
  window.drawn = [];
  new MutationObserver(() => window.drawn.push([performance.now(), canvas.dataset.pixels]))
    .observe(canvas, {attributes: true, attributeFilter: ['data-pixels', 'data-drawn']});
  new PerformanceObserver(list => window.blocks.push(...list.getEntries().map(e => e.duration)))
    .observe({type: 'longtask'});
  window.blocks = [];
}"""


def _spent(pids: list[int]) -> float:
    """Seconds of processor time that these processes have used."""
    ticks = 0
    for pid in pids:
        with suppress(OSError):
            told = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
            ticks += int(told[11]) + int(told[12])
    return ticks / os.sysconf("SC_CLK_TCK")


def _at_rest(pid: int) -> None:
    """Wait until a browser has done nothing for a second: its page is there, on any machine."""
    quiet, before = 0, _spent(family(pid))
    while quiet < 4:
        time.sleep(0.25)
        now = _spent(family(pid))
        quiet = quiet + 1 if now - before <= 0.02 else 0
        before = now


def _opened(playwright: Playwright, address: str, opened: int) -> dict[str, float]:
    """Milliseconds from asking for the Bench to its lanes, and to its first picture.

    The browser has an empty profile and no debugger, like a person's: an attached debugger makes it
    parse every script again in the main thread. The page's marks (User Timing) are read afterwards.
    """
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as profile:
        chromium = subprocess.Popen(
            [CHROMIUM, *FLAGS, f"--user-data-dir={profile}", "--window-size=1280,900",
             "--remote-debugging-port=0", "about:blank"],
            stderr=subprocess.PIPE, text=True,
        )  # fmt: skip
        try:
            assert chromium.stderr
            port = next(
                found[1] for line in chromium.stderr
                if (found := re.search(r"DevTools listening on ws://127\.0\.0\.1:(\d+)/", line))
            )  # fmt: skip
            door = f"http://127.0.0.1:{port}"
            _at_rest(chromium.pid)
            asked = f"{door}/json/new?{address}bench/{opened}"
            urllib.request.urlopen(urllib.request.Request(asked, method="PUT")).close()
            _at_rest(chromium.pid)
            browser = playwright.chromium.connect_over_cdp(door)
            page = next(one for one in browser.contexts[0].pages if "/bench/" in one.url)
            page.wait_for_function(
                "() => performance.getEntriesByName('picture').length", timeout=LIMIT
            )
            found = page.evaluate(MARKS)
            browser.close()
        finally:
            chromium.terminate()
            chromium.wait(10)
    return {name: float(found[name]) for name in ("lanes", "picture")}


def _moved(page: Page, place: str, value: str) -> tuple[list[float], list[float], float]:
    """Milliseconds from each move to any new picture, and to the sharp one; the longest block."""
    page.locator(f"[data-place='{place}'] .StepCard-stepName").click()
    page.wait_for_timeout(2500)
    page.evaluate(WATCH)
    slider = page.get_by_label(f"{value}, slider")
    box = slider.bounding_box()
    assert box
    page.mouse.move(box["x"] + 4, box["y"] + 5)
    page.mouse.down()
    first, sharp = [], []
    for move in range(MOVES):
        page.evaluate("() => { window.drawn.length = 0; window.began = performance.now(); }")
        page.mouse.move(box["x"] + 5 + (move * 7) % (box["width"] - 10), box["y"] + 5)
        page.wait_for_function(SHARP, arg=SHOWN, timeout=LIMIT)
        told = page.evaluate("() => window.drawn.map(([at, size]) => [at - window.began, size])")
        first.append(told[0][0])
        sharp.append(next(at for at, size in told if size == SHOWN))
    page.mouse.up()
    blocks = page.evaluate("() => window.blocks")
    return first, sharp, max(blocks, default=0.0)


def _draft(address: str, macro: str) -> int:
    """The number of a new draft of a macro."""
    return int(ask(address, "/effects", {"macro": macro, "version": 1})["id"])


def _many(address: str) -> int:
    """The number of a new draft of forty steps in eight lanes."""
    changes: list[Any] = []
    for lane in range(7):
        changes.append({"do": "add-lane", "name": f"L{lane}"})
        kinds = ("noise", "levels", "invert", "threshold", "feather")
        changes += [{"do": "add-step", "lane": f"l{lane}", "kind": kind} for kind in kinds]
    changes += [{"do": "add-step", "lane": "out", "kind": kind} for kind in ("levels",) * 4]
    draft = ask(address, "/effects", {"kind": "look", "name": "Many"})
    body = {"base": draft["revision"], "change": {"do": "several", "changes": changes}}
    return int(ask(address, f"/effects/{draft['id']}/changes", body)["id"])


def _crowded(playwright: Playwright, address: str) -> Row:
    """Forty steps in eight lanes: scrolled, one selected, its slider moved, another dragged."""
    browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.goto(f"{address}bench/{_many(address)}")
    page.wait_for_function(DRAWN)
    page.wait_for_timeout(3000)
    page.evaluate(WATCH)
    page.mouse.move(300, 400)
    for by in ((60, 0),) * 30 + ((0, 60),) * 20:
        page.mouse.wheel(*by)
        page.wait_for_timeout(30)
    page.locator("[data-place='l6.levels'] .StepCard-stepName").click()
    page.wait_for_timeout(1000)
    slider = (
        page.locator(".StepCard-step.selected [data-value='gamma']").get_by_role("slider").first
    )
    box = slider.bounding_box()
    assert box
    page.mouse.move(box["x"] + 4, box["y"] + 5)
    page.mouse.down()
    for move in range(30):
        page.mouse.move(box["x"] + 5 + (move * 7) % (box["width"] - 10), box["y"] + 5)
        page.wait_for_timeout(40)
    page.mouse.up()
    page.wait_for_timeout(1000)
    box = page.locator("[data-place='l5.invert'] .StepCard-stepName").bounding_box()
    assert box
    page.mouse.move(box["x"] + 20, box["y"] + 8)
    page.mouse.down()
    for move in range(30):
        page.mouse.move(box["x"] + 20 - 10 * move, box["y"] + 8 + 4 * move)
        page.wait_for_timeout(40)
    page.keyboard.press("Escape")
    page.mouse.up()
    page.wait_for_timeout(500)
    block = max(page.evaluate("() => window.blocks"), default=0.0)
    browser.close()
    return Row("longest block, 40 steps in 8 lanes: scroll, select, slide, drag", block, "", None,
               None, "100 ms", "50 ms", block <= 100)  # fmt: skip


def _opening(playwright: Playwright, address: str, drafts: list[int]) -> Row:
    found = [
        _opened(playwright, address, draft) for _ in range(OPENINGS) for draft in drafts
    ]  # fmt: skip
    pictures = [one["picture"] for one in found]
    middle = float(np.median(pictures))
    lanes = float(np.median([one["lanes"] for one in found]))
    return Row(
        "the Bench opened, to its lanes and first picture", middle,
        f"lanes {lanes:.0f} ms; longest of {len(found)}", max(pictures), None,
        "1500 ms", "800 ms", middle <= 1500,
    )  # fmt: skip


def _sliding(playwright: Playwright, address: str, drafts: list[int]) -> list[Row]:
    first: list[float] = []
    sharp: list[float] = []
    block = 0.0
    browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
    for draft, (_, place, value) in zip(drafts, HEAVIEST, strict=True):
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{address}bench/{draft}")
        page.wait_for_function(DRAWN)
        page.get_by_role("slider", name="Playhead").focus()
        for _ in range(2):
            page.keyboard.press("Shift+ArrowRight")
        found = _moved(page, place, value)
        first += found[0]
        sharp += found[1]
        block = max(block, found[2])
        page.close()
    browser.close()
    middle, late = float(np.median(first)), float(np.percentile(first, 95))
    return [
        Row(
            "slider to new picture on screen, 95th percentile", late,
            f"median {middle:.0f} ms; sharp at the 95th", float(np.percentile(sharp, 95)), None,
            "80 ms", "50 ms", late <= 80,
        ),
        Row("longest block of the page while a slider moves", block, "", None, None, "100 ms",
            "50 ms", block <= 100),
    ]  # fmt: skip


def _forty(address: str) -> tuple[int, str]:
    """The number of a new draft of forty steps that all take part: six lanes bend the picture."""
    changes: list[Any] = []
    for lane in range(6):
        changes.append({"do": "add-lane", "name": f"L{lane}"})
        kinds = ("noise", "levels", "invert", "feather", "levels")
        changes += [{"do": "add-step", "lane": f"l{lane}", "kind": kind} for kind in kinds]
    kinds = ("displace",) * 6 + ("levels", "blur", "saturation")
    changes += [{"do": "add-step", "lane": "out", "kind": kind} for kind in kinds]
    draft = ask(address, "/effects", {"kind": "look", "name": "Forty"})
    path = f"/effects/{draft['id']}/changes"

    def change(view: Any, several: list[Any]) -> Any:
        body = {"base": view["revision"], "change": {"do": "several", "changes": several}}
        return ask(address, path, body)

    draft = change(draft, changes)
    bent = [step for step in draft["effect"]["lanes"][-1]["steps"] if step["kind"] == "displace"]
    maps = [
        {"do": "set-input", "lane": "out", "step": step["id"], "input_name": "map",
         "input": {"lane": f"l{lane}"}}
        for lane, step in enumerate(bent)
    ]  # fmt: skip
    return int(change(draft, maps)["id"]), "l0.levels"


def traffic() -> list[Row]:
    """Requests and bytes for one value that a slider changes, in an effect of forty steps."""
    with serving() as address, sync_playwright() as playwright:
        draft, place = _forty(address)
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{address}bench/{draft}")
        page.wait_for_function(DRAWN)
        page.locator(f"[data-place='{place}'] .StepCard-stepName").click()
        page.wait_for_timeout(4000)
        watch = page.context.new_cdp_session(page)
        watch.send("Network.enable")
        asked: list[str] = []
        came: list[int] = []
        watch.on("Network.requestWillBeSent", lambda told: asked.append(told["request"]["url"]))
        # A streamed answer tells its length piece by piece.
        watch.on(
            "Network.dataReceived",
            lambda told: came.append(told["encodedDataLength"] or told["dataLength"]),
        )
        slider = page.locator(".StepCard-step.selected [data-value='gamma']").get_by_role("slider")
        box = slider.first.bounding_box()
        assert box
        page.mouse.move(box["x"] + box["width"] * 0.6, box["y"] + box["height"] / 2)
        page.mouse.down()
        page.wait_for_timeout(900)
        page.mouse.up()
        page.wait_for_timeout(5000)
        browser.close()
    beside = "when each picture came alone"
    return [
        multiple("requests for a change of one value among forty steps", len(asked), beside,
                 BEFORE[0], len(asked) / BEFORE[0], 0.5, 0.25, ""),
        multiple("bytes for that change", sum(came) / 1000, beside, BEFORE[1] / 1000,
                 sum(came) / BEFORE[1], 0.5, 0.25, "kB"),
    ]  # fmt: skip


def slider() -> list[Row]:
    """The heaviest demo macros on the Bench: their first steps' sliders, held."""
    with serving() as address, sync_playwright() as playwright:
        return _sliding(playwright, address, [_draft(address, macro) for macro, _, _ in HEAVIEST])


def interface() -> list[Row]:
    """The heaviest demo macros on the Bench, opened; and many cards."""
    with serving() as address, sync_playwright() as playwright:
        drafts = [_draft(address, macro) for macro, _, _ in HEAVIEST]
        return [_crowded(playwright, address), _opening(playwright, address, drafts)]


ROWS = (slider, traffic, interface)
