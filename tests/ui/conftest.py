"""The real server on the small demo, and Debian's Chromium."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, sync_playwright

from ..jobs.test_server import Server

FLAGS = [
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-background-networking",
    "--no-first-run",
]  # fmt: skip


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield browser
        browser.close()


@pytest.fixture(scope="module")
def server(demo_folder: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    folder = tmp_path_factory.mktemp("ui") / "data"
    shutil.copytree(demo_folder, folder)
    running = Server(folder)
    yield running
    running.stop()


@pytest.fixture
def page(browser: Browser, server: Server) -> Iterator[Page]:
    """A page that fails the test at any fault in the browser."""
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, base_url=server.address, accept_downloads=True,
        reduced_motion="reduce",
    )  # fmt: skip
    found = context.new_page()
    found.set_default_timeout(30_000)
    faults: list[str] = []
    found.on("pageerror", lambda fault: faults.append(str(fault)))
    yield found
    context.close()
    assert not faults
