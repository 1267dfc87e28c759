"""What moves on the screen: a large film scrubbed from its copy, and an edit that is played again."""

from __future__ import annotations

import re
import struct
import urllib.request
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from pale_static.core import Size

from ..conftest import write_clip
from ..server import Server
from .bench_parts import asked_by, until
from .conftest import to_place

MIDDLE = """() => {
  const canvas = document.querySelector('[data-testid=screen]');
  if (!canvas.width) return null;
  const at = [canvas.width >> 1, (canvas.height * 3) >> 2, 1, 1];
  return canvas.getContext('2d').getImageData(...at).data[0];
}"""
WATCH = """() => {
  const canvas = document.querySelector('[data-testid=screen]');
  window.drawn = [];
  window.watching?.disconnect();
  window.watching = new MutationObserver(all => all.forEach(
    () => window.drawn.push(canvas.dataset.pixels)));
  window.watching.observe(canvas, {attributeFilter: ['data-pixels']});
}"""


def grey(frame: int) -> int:
    """The colour of a frame of the test's film."""
    return 40 + 8 * frame % 200


def test_a_large_film_is_scrubbed_from_its_copy(page: Page, server: Server, tmp_path: Path) -> None:
    film = write_clip(tmp_path / "Large.mp4", frames=25, size=Size(3840, 2160))
    sent = page.request.post(
        f"{server.address}/api/materials",
        multipart={
            "file": {"name": film.name, "mimeType": "video/mp4", "buffer": film.read_bytes()}
        },
    )
    one = sent.json()
    view = server.ask("POST", "/reels", {"name": "Large"})
    change = {"do": "add-shot", "material": one["id"], "name": "Large", "start": 0, "length": 25}
    server.ask("POST", f"/reels/{view['id']}/changes", {"base": view["revision"], "change": change})
    to_place(page, "/materials")
    switch = page.get_by_role("switch", name="Copy for the screen of Large")
    expect(switch).to_be_checked()
    until(page, lambda: copy_of(server, one["id"])["state"] == "made", 60)
    assert copy_of(server, one["id"])["bytes"] < film.stat().st_size
    cell = page.locator("label").filter(has=switch)
    expect(cell).to_contain_text("960×540")
    # Off, and on again: it is made again.
    switch.click()
    expect(cell.locator("[data-copy=off]")).to_be_visible()
    switch.click()
    expect(cell.locator("[data-copy=made]")).to_be_visible(timeout=60_000)
    # Monitors do not read the film any more.
    kept = server.folder / "media" / f"{one['id']}.mp4"
    kept.rename(kept.with_suffix(".away"))
    try:
        to_place(page, f"/reel/{view['id']}")
        playhead = page.get_by_role("slider", name="Playhead")
        ruler = playhead.bounding_box()
        assert ruler
        shot = page.get_by_role("button", name=re.compile("^Shot Large, ")).bounding_box()
        assert shot
        page.mouse.move(shot["x"] + 2, ruler["y"] + ruler["height"] / 2)
        page.mouse.down()
        for share in (0.9, 0.15, 0.6, 0.3, 0.75):
            page.mouse.move(shot["x"] + share * shot["width"], ruler["y"] + ruler["height"] / 2)
            frame = int(playhead.get_attribute("aria-valuenow") or 0)
            until(page, lambda: abs((page.evaluate(MIDDLE) or 0) - grey(frame)) <= 3)  # noqa: B023
        page.mouse.up()
    finally:
        kept.with_suffix(".away").rename(kept)


def copy_of(server: Server, material: str) -> Any:
    """What is known about the copy of a film."""
    return server.ask("GET", "/screen-copies")["copies"].get(material, {"state": ""})


def ready(server: Server, view: Any, size: str) -> set[int]:
    """The frames of an edit that are kept on the server's disk, at a size."""
    wide, high = size.split("x")
    address = f"{server.address}/api/reels/{view['id']}/{view['revision']}/ahead"
    with urllib.request.urlopen(f"{address}?frame=0&most=0&width={wide}&height={high}") as answer:
        data = answer.read()
    return set(struct.unpack(f">{len(data) // 4}I", data))


@pytest.mark.own_page
def test_an_edit_is_computed_once_for_playing_it_again_after_a_restart_and_after_a_change(
    page: Page, server: Server
) -> None:
    reels = server.ask("GET", "/reels")["reels"]
    # Other tests may have made edits of this name since.
    number = min(one["id"] for one in reels if one["name"] == "Open day")
    view = server.ask("GET", f"/reels/{number}")
    asked = asked_by(page)

    def play(frames: int) -> set[str]:
        """Play from the first frame on; the sizes of the pictures that reached the screen."""
        page.keyboard.press("Home")
        page.evaluate(WATCH)
        page.get_by_role("button", name="Play", exact=True).click()
        playhead = page.get_by_role("slider", name="Playhead")
        until(page, lambda: int(playhead.get_attribute("aria-valuenow") or 0) >= frames, 60)
        page.get_by_role("button", name="Stop", exact=True).click()
        drawn = page.evaluate("window.drawn")
        assert len(drawn) > 5
        return set(drawn[1:])

    def opened() -> str:
        page.goto(f"{server.address}/reel/{number}")
        page.wait_for_function(
            "() => document.querySelector('[data-testid=screen]')?.dataset.pixels"
        )
        until(page, lambda: any("/ahead?" in one for one in asked))
        found = next(one for one in reversed(asked) if "/ahead?" in one)
        wide, high = re.search(r"width=(\d+)&height=(\d+)", found).groups()  # type: ignore[union-attr]
        return f"{wide}x{high}"

    shown = opened()
    play(40)
    page.keyboard.press("Home")
    # At rest the others follow, and a line over the strip shows which are there.
    until(page, lambda: {*range(60)} <= ready(server, view, shown), 60)
    line = page.get_by_title("Computed already").first
    expect(line).to_be_visible()
    there = ready(server, view, shown)
    assert play(40) == {shown}
    # After a restart nothing is computed anew.
    server.stop()
    server.start()
    assert there <= ready(server, view, shown)
    asked.clear()
    assert opened() == shown
    expect(line).to_be_visible()
    assert play(40) == {shown}
    # A change makes only those frames new that it reaches.
    title = next(
        one["slug"] for one in server.ask("GET", "/macros")["macros"] if one["kind"] == "title"
    )
    change = {"do": "add-item", "name": "Over", "macro": title, "version": 1, "frame": 20, "length": 6}  # fmt: skip
    body = {"base": view["revision"], "change": change}
    changed = server.ask("POST", f"/reels/{number}/changes", body)
    try:
        assert {*range(60)} - ready(server, changed, shown) == {*range(20, 26)}
        asked.clear()
        opened()
        page.keyboard.press("Home")  # frames from the playhead on come first
        until(page, lambda: {*range(60)} <= ready(server, changed, shown), 60)
        assert play(40) == {shown}
    finally:
        server.ask("POST", f"/reels/{number}/undo", {"base": changed["revision"]})
