"""The real server on the small demo, and Debian's Chromium."""

from __future__ import annotations

import json
import shutil
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import (
    Browser,
    BrowserContext,
    Page,
    ViewportSize,
    expect,
    sync_playwright,
)

from ..chromium import CHROMIUM, FLAGS
from ..server import Server

# What is claimed has to come true, not within five seconds on a busy machine.
expect.set_options(timeout=20_000)
# The browser fills a hidden window of its own for each page, which takes as long as the Bench
# itself. A second list of features replaces Playwright's, so what matters of that is repeated.
OFF = (
    "WebUIOmniboxPopup", "WebUIOmniboxAimPopup", "WebUIOmniboxFullPopup", "PreloadTopChromeWebUI",
    "SpareRendererForSitePerProcess", "AimEnabled", "AvoidUnnecessaryBeforeUnloadCheckSync",
    "DestroyProfileOnBrowserClose", "HttpsUpgrades", "MediaRouter", "OptimizationHints",
    "PaintHolding", "PreconnectToSearch",
)  # fmt: skip
TESTED = [*FLAGS, f"--disable-features={','.join(OFF)}"]


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=TESTED)
        yield browser
        browser.close()


@pytest.fixture(scope="module")
def server(demo_folder: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    folder = tmp_path_factory.mktemp("ui") / "data"
    shutil.copytree(demo_folder, folder)
    running = Server(folder)
    yield running
    running.stop()


@pytest.fixture(scope="module")
def contexts(browser: Browser) -> Iterator[dict[str, BrowserContext]]:
    """One context for each address, so that the application's scripts are read only once."""
    made: dict[str, BrowserContext] = {}
    yield made
    for context in made.values():
        context.close()


SIZE: ViewportSize = {"width": 1280, "height": 800}


@pytest.fixture
def page(
    request: pytest.FixtureRequest,
    browser: Browser,
    server: Server,
    contexts: dict[str, BrowserContext],
) -> Iterator[Page]:
    """A page, with nothing remembered, that fails the test at any fault in the browser.

    The tests of a module share one, which has the scripts compiled already. A test that adds
    scripts of its own, or leaves the page amid trouble, is marked ``own_page``.
    """
    if server.address not in contexts:
        contexts[server.address] = browser.new_context(
            viewport=SIZE, base_url=server.address, accept_downloads=True, reduced_motion="reduce"
        )
    context = contexts[server.address]
    own = request.node.get_closest_marker("own_page") is not None
    page = context.new_page() if own or not context.pages else context.pages[0]
    page.bring_to_front()  # a page behind another draws one frame a second
    page.unroute_all(behavior="ignoreErrors")
    page.goto("/mark.svg")
    page.evaluate("localStorage.clear(); sessionStorage.clear()")
    preview(page, 180)
    page.set_viewport_size(SIZE)
    page.mouse.move(0, 0)
    page.set_default_timeout(30_000)
    faults: list[str] = []

    def note(fault: object) -> None:
        faults.append(str(fault))

    page.on("pageerror", note)
    failed = request.session.testsfailed
    yield page
    if own or faults or request.session.testsfailed > failed:
        page.close()
    else:
        page.remove_listener("pageerror", note)
    assert not faults


def at_first_frame(page: Page, number: int) -> None:
    """Let a draft open at its first frame, as if it had been left there."""
    page.evaluate("id => sessionStorage.setItem(`bench-${id}`, '{\"frame\": 0}')", number)


def preview(page: Page, lines: int | None) -> None:
    """Let the Bench compute pictures of this height; of None, of the height that it begins with."""
    state = json.dumps({"state": {"lines": lines} if lines else {}, "version": 0})
    page.evaluate("state => { localStorage['pale-static-bench'] = state; }", state)


def visit(page: Page, path: str) -> None:
    """Go to a place within the application, as its links do: nothing is loaded anew."""
    if page.locator("header.top-bar nav").count() == 0:
        page.goto(path)
    else:
        page.evaluate(
            "path => { history.pushState(null, '', path); dispatchEvent(new PopStateEvent('popstate')); }",
            path,
        )


def answers(page: Page, path: str, test: str, seconds: float = 30) -> None:
    """Wait until what the server answers as ``d`` passes a test in the page's language.

    A promise given to ``wait_for_function`` passes at once, whatever it comes to; so the page is
    asked again and again.
    """
    asked = f"async path => {{ const d = await (await fetch(path)).json(); try {{ return Boolean({test}); }} catch {{ return false; }} }}"
    end = time.monotonic() + seconds
    while not page.evaluate(asked, path):
        if time.monotonic() > end:
            found = page.evaluate("async path => (await fetch(path)).text()", path)
            raise AssertionError(f"never so: {test}\n{found[:4000]}")
        page.wait_for_timeout(50)
