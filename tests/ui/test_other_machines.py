"""Renders on other machines, as people see and set them."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from ..cluster import RealCluster, free_port
from ..server import Server, shrink
from .conftest import visit

pytest.importorskip("distributed")


def test_a_render_waits_for_its_scheduler_goes_on_here_and_is_made_by_workers(
    page: Page, server: Server, tmp_path: Path
) -> None:
    shrink(server)
    visit(page, "/renders")
    where = page.get_by_role("region", name="Where renders are made")
    where.get_by_text("Other machines").click()
    use = where.get_by_role("button", name="Use this scheduler")
    where.get_by_label("Scheduler").fill("tcp://example.org:8786")
    use.click()
    expect(where.get_by_text(re.compile("is another machine, and tcp://"))).to_be_visible()
    nowhere = f"tcp://127.0.0.1:{free_port()}"
    where.get_by_label("Scheduler").fill(nowhere)
    use.click()
    expect(where.get_by_text(f"There is no scheduler at {nowhere}")).to_be_visible()
    try:
        waiting = server.ask("POST", "/renders", {"reel": 3, "form": "png-8", "frames": 8})
        row = page.locator(f"[data-render='{waiting['id']}']")
        expect(row.get_by_text(re.compile("no scheduler .* The render waits"))).to_be_visible()
        row.get_by_role("button", name="Go on here").click()
        expect(row).to_have_attribute("data-state", "done")
        expect(row.get_by_text("The render waits")).to_be_hidden()
        with RealCluster(tmp_path, 1) as real:
            where.get_by_label("Scheduler").fill(real.address)
            use.click()
            worker = where.locator("[data-worker='w0']")
            expect(worker).to_have_attribute("data-state", "ready")
            # A film is made there, and its worker counts the frames.
            made = server.ask("POST", "/renders", {"reel": 3, "form": "ffv1", "frames": 120})
            assert made["scheduler"] == real.address
            row = page.locator(f"[data-render='{made['id']}']")
            expect(row).to_have_attribute("data-state", "done", timeout=60_000)
            expect(worker.get_by_role("cell", name="120", exact=True)).to_be_visible()
            # A picture in one piece is made here.
            still = server.ask("POST", "/renders", {"reel": 3, "form": "still"})
            assert still["scheduler"] == ""
    finally:
        server.ask("POST", "/cluster", {"address": "", "used": False})
