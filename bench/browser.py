"""The interface as a person meets it: a slider moved, and the new picture on the screen."""

from __future__ import annotations

import re
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, sync_playwright

from pale_static.demo.fill import fill
from pale_static.store import Library

from .measure import Row

FLAGS = [
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-background-networking",
    "--no-first-run",
]  # fmt: skip
HEAVIEST = (("ember-fray", "fray.noise", "roughness"), ("soot-lift", "smoke.noise", "stretch x"))
"""Macros of the demo that take longest from their first step on: a step and a value of each."""
MOVES = 40
WATCH = """() => {
  const canvas = document.querySelector('[data-testid=screen]');
  window.drawn = [];
  new MutationObserver(() => window.drawn.push([performance.now(), canvas.dataset.pixels]))
    .observe(canvas, {attributes: true, attributeFilter: ['data-pixels', 'data-drawn']});
  new PerformanceObserver(list => window.blocks.push(...list.getEntries().map(e => e.duration)))
    .observe({type: 'longtask'});
  window.blocks = [];
}"""


def _opened(page: Page, address: str) -> float:
    """Milliseconds from asking for the Bench to its lanes and its first picture."""
    page.goto("about:blank")
    page.goto(address, wait_until="commit")
    page.wait_for_function(
        "() => document.querySelector('.lane.out .step')"
        " && document.querySelector('[data-testid=screen]')?.dataset.pixels"
    )
    return float(page.evaluate("performance.now()"))


def _moved(page: Page, place: str, value: str) -> tuple[list[float], list[float], float]:
    """Milliseconds from each move to any new picture, and to the sharp one; the longest block."""
    page.locator(f"[data-place='{place}'] .step-name").click()
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
        page.wait_for_function("() => window.drawn.some(([, size]) => size === '960x540')")
        told = page.evaluate("() => window.drawn.map(([at, size]) => [at - window.began, size])")
        first.append(told[0][0])
        sharp.append(next(at for at, size in told if size == "960x540"))
    page.mouse.up()
    blocks = page.evaluate("() => window.blocks")
    return first, sharp, max(blocks, default=0.0)


def slider() -> list[Row]:
    """A slider of the heaviest demo macro's first step, at 960×540."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        fill(Library(folder), scale=1.0, frames=50)
        server = subprocess.Popen(
            [sys.executable, "-m", "pale_static", "serve", "--data", name, "--port", "18900"],
            stderr=subprocess.PIPE, text=True,
        )  # fmt: skip
        try:
            assert server.stderr
            address = next(
                found[0] for line in server.stderr if (found := re.search(r"http://\S+/", line))
            )
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(
                    executable_path="/usr/bin/chromium", args=FLAGS
                )
                first: list[float] = []
                sharp: list[float] = []
                opened: list[float] = []
                block = 0.0
                for macro, place, value in HEAVIEST:
                    page = browser.new_page(viewport={"width": 1280, "height": 800})
                    made = page.request.post(
                        f"{address}api/effects", data={"macro": macro, "version": 1}
                    )
                    opened.append(_opened(page, f"{address}bench/{made.json()['id']}"))
                    page.get_by_role("slider", name="Playhead").focus()
                    for _ in range(2):
                        page.keyboard.press("Shift+ArrowRight")
                    found = _moved(page, place, value)
                    first += found[0]
                    sharp += found[1]
                    block = max(block, found[2])
                    page.close()
                browser.close()
        finally:
            server.terminate()
            server.wait(10)
    middle, late = float(np.median(first)), float(np.percentile(first, 95))
    whole = float(np.percentile(sharp, 95))
    return [
        Row(
            "slider to new picture on screen, 95th percentile", late,
            f"median {middle:.0f} ms; sharp at the 95th", whole, None, "150 ms", "80 ms",
            late <= 150,
        ),
        Row("longest block of the page while a slider moves", block, "", None, None, "100 ms",
            "50 ms", block <= 100),
        Row("the Bench opened, to its lanes and first picture", max(opened), "", None, None,
            "1500 ms", "800 ms", max(opened) <= 1500),
    ]  # fmt: skip


ROWS = (slider,)
