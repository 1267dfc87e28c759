"""The real server on the small demo, and Debian's Chromium."""

from __future__ import annotations

import json
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import (
    Browser,
    BrowserContext,
    Locator,
    Page,
    ViewportSize,
    expect,
    sync_playwright,
)

from ..chromium import CHROMIUM, FLAGS
from ..server import Server

# Claims must come true, but a busy machine may need more than five seconds.
expect.set_options(timeout=20_000)
# The browser fills a hidden window for each page, which takes as long as the Bench itself. A second
# list of features replaces Playwright's, so its important entries are repeated.
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


@pytest.fixture(scope="session")
def server(demo_folder: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """One server for all page tests of a process; each test makes its own drafts and edits."""
    folder = tmp_path_factory.mktemp("ui") / "data"
    shutil.copytree(demo_folder, folder)
    running = Server(folder)
    yield running
    running.stop()


SIZE: ViewportSize = {"width": 1280, "height": 800}
NOWHERE = "/shelf/nowhere"
"""An address without a macro: the page shows one sentence there."""
LINES = 180
"""Lines of the Bench's pictures, unless a test sets others."""


@pytest.fixture(scope="session")
def context(browser: Browser, server: Server) -> Iterator[BrowserContext]:
    """One context, so that the application's scripts are read only once."""
    made = browser.new_context(
        viewport=SIZE, base_url=server.address, accept_downloads=True, reduced_motion="reduce"
    )
    yield made
    made.close()


AS_NEW = """lines => {
  if (!document.querySelector('header.top-bar nav')) return false;
  const of = name => JSON.parse(localStorage.getItem(name) ?? '{}').state ?? {};
  const bench = of('pale-static-bench'), tray = of('pale-static.tray');
  return !document.querySelector('.ant-message-notice')
    && bench.lines === lines && bench.loop !== false && (bench.shape?.name ?? '16:9') === '16:9'
    && !Object.values(bench.guides ?? {}).some(Boolean)
    && (tray.shown ?? 'all') === 'all' && !tray.favourites?.length
    && (of('pale-static-theme').name ?? 'pale') === 'pale' && !localStorage['pale-static-divide'];
}"""
"""Whether the application is open, without a message and with every preference as at first."""


@pytest.fixture
def page(request: pytest.FixtureRequest, context: BrowserContext, server: Server) -> Iterator[Page]:
    """A page without stored preferences, which fails the test at any fault in the browser.

    All tests share one page, which has the application open and goes from place to place like a
    person. It is loaded again after a test that changed a preference. A test that adds its own
    scripts is marked ``own_page``.
    """
    if server.process.poll() is not None:  # a failed test has left it killed
        server.start()
    own = request.node.get_closest_marker("own_page") is not None
    page = context.new_page() if own or not context.pages else context.pages[0]
    page.bring_to_front()  # a page behind another one draws one frame a second
    page.unroute_all(behavior="ignoreErrors")
    if page.evaluate(AS_NEW, LINES):
        visit(page, NOWHERE)
        expect(page.get_by_text("There is no macro")).to_be_visible()
    else:
        page.goto("/mark.svg")
    page.evaluate("localStorage.clear(); sessionStorage.clear()")
    prefer(page, LINES)
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


LOOK = {
    "frame": 0, "length": None, "selected": None, "picked": [], "view": "result",
    "against": "clip", "base": None, "channel": "colour", "other": 0, "range": None, "tab": "moves",
}  # fmt: skip


def at_first_frame(page: Page, number: int) -> None:
    """Let a draft open at its first frame, as after leaving it there."""
    page.evaluate(
        "([id, look]) => sessionStorage.setItem(`bench-${id}`, JSON.stringify(look))",
        [number, LOOK],
    )


def prefer(page: Page, lines: int | None) -> None:
    """Set the height of the Bench's pictures in the browser's memory; None for the default."""
    state = json.dumps({"state": {"lines": lines} if lines else {}, "version": 0})
    page.evaluate("state => { localStorage['pale-static-bench'] = state; }", state)


def preview(page: Page, lines: int | None) -> None:
    """Let the Bench compute pictures with this many lines; None for the default."""
    page.goto("/mark.svg")  # preferences are read when the application loads
    prefer(page, lines)


def visit(page: Page, path: str) -> None:
    """Go to a place by the application's own routing, without loading the page again."""
    if page.locator("header.top-bar nav").count() == 0:
        page.goto(path)
    else:
        page.evaluate(
            "path => "
            "{ history.pushState(null, '', path); dispatchEvent(new PopStateEvent('popstate')); }",
            path,
        )


def to_place(page: Page, path: str) -> None:
    """Go to a place. If the same place is open already, load the page first, so that the test sees
    only the new one."""
    kind = path.split("/")[1]
    if f"/{kind}/" in page.url:
        page.goto(path)
    else:
        visit(page, path)


STILL = """() => new Promise(done => {
  const end = () => { watch.disconnect(); done(); };
  let timer = setTimeout(end, 400);
  setTimeout(end, 10_000);
  const watch = new MutationObserver(() => { clearTimeout(timer); timer = setTimeout(end, 400); });
  watch.observe(document, {subtree: true, childList: true, attributes: true});
})"""


def still(page: Page) -> None:
    """Wait until the page has not changed for 0.4 s; at most ten seconds."""
    page.evaluate(STILL)


def newest_render(page: Page, server: Server) -> Locator:
    """The row of the newest render."""
    expect(page.get_by_role("heading", name="Renders")).to_be_visible()
    number = max(one["id"] for one in server.ask("GET", "/renders")["renders"])
    return page.locator(f"[data-render='{number}']")


def answers(page: Page, path: str, test: str, seconds: float = 30) -> None:
    """Wait until the server's answer, ``d``, passes a test in JavaScript."""
    asked = f"""async ([path, seconds]) => {{
      const end = performance.now() + 1000 * seconds;
      for (;;) {{
        const text = await (await fetch(path)).text(), d = JSON.parse(text);
        try {{ if ({test}) return null; }} catch {{ }}
        if (performance.now() > end) return text;
        await new Promise(done => setTimeout(done, 50));
      }}
    }}"""
    found = page.evaluate(asked, [path, seconds])
    if found is not None:
        raise AssertionError(f"never so: {test}\n{found[:4000]}")
