"""Shared by tests of the Bench: an effect to build on, gestures, and pixels."""

from __future__ import annotations

import re
import time
from base64 import b64decode
from collections.abc import Callable
from typing import Any

import numpy as np
from playwright.sync_api import Locator, Page, Request, Route, expect

from ..server import Server
from .conftest import at_first_frame, to_place
from .test_places import changed

PIXELS = """id => {
  const c = document.querySelector(`[data-testid=${id}]`);
  const d = c.getContext('2d').getImageData(0, 0, c.width, c.height);
  let text = '';
  for (let k = 0; k < d.data.length; k += 32768)
    text += String.fromCharCode(...d.data.subarray(k, k + 32768));
  return [c.width, c.height, btoa(text)];
}"""


def pixels(page: Page, name: str = "compared") -> np.ndarray:
    """The pixels of a canvas, (H, W, 4)."""
    width, height, data = page.evaluate(PIXELS, name)
    return np.frombuffer(b64decode(data), np.uint8).reshape(height, width, 4)


def shown_size(page: Page) -> str:
    """The size of the pictures that the monitor asks for first, such as 544x306."""
    asked = page.evaluate("() => localStorage.getItem('pale-static-preview')")
    found = re.fullmatch(r"width=(\d+)&height=(\d+)", asked)
    assert found
    return f"{found[1]}x{found[2]}"


def asked_by(page: Page) -> list[str]:
    """The addresses that a page asks for from now on, alone or together with others."""
    asked: list[str] = []

    def note(request: Request) -> None:
        together = request.url.endswith("/api/together")
        found = request.post_data_json["paths"] if together else [request.url]
        asked.extend(
            address.replace(re.match(r"(https?://[^/]+)?", address)[0], "") for address in found
        )

    page.on("request", note)
    return asked


def until(page: Page, met: Callable[[], bool], seconds: float = 20.0) -> None:
    """Wait while the page works, until something is so."""
    end = time.monotonic() + seconds
    while not met():
        assert time.monotonic() < end
        page.wait_for_timeout(100)


def full_ones_late(route: Route) -> None:
    """Answer runs of frames as big as the monitor shows them far too late."""
    asked = re.search(r"width=(\d+).*count=(\d+)", route.request.url)
    assert asked
    if int(asked[1]) > 400:
        time.sleep(0.15 * int(asked[2]))
    route.continue_()


def build(server: Server, kind: str, name: str, *changes: Any) -> Any:
    """A draft of a kind after some edits, made over the API in one change."""
    draft = server.ask("POST", "/effects", {"kind": kind, "name": name})
    if not changes:
        return draft
    return more(server, draft, {"do": "several", "changes": changes, "said": "Built"})


def more(server: Server, draft: Any, change: Any) -> Any:
    now = server.ask("GET", f"/effects/{draft['id']}")
    return server.ask(
        "POST", f"/effects/{draft['id']}/changes", {"base": now["revision"], "change": change}
    )


def step(lane: str, kind: str, **values: Any) -> Any:
    return {"do": "add-step", "lane": lane, "kind": kind, "values": values}


def open_draft(page: Page, draft: Any) -> None:
    """The Bench on a draft, at its first frame."""
    at_first_frame(page, draft["id"])
    to_place(page, f"/bench/{draft['id']}")
    expect(page.get_by_role("region", name="Lane Out")).to_be_visible()
    changed(page, 0)


def grab(page: Page, from_: Locator, to: tuple[float, float], steps: int = 8) -> None:
    """Press on something and move it to a place of the page, without releasing it."""
    from_.scroll_into_view_if_needed()
    box = from_.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 4, y + 8, steps=3)
    page.mouse.move(*to, steps=steps)


def middle(of: Locator, across: float = 0.5, down: float = 0.5) -> tuple[float, float]:
    box = of.bounding_box()
    assert box
    return box["x"] + box["width"] * across, box["y"] + box["height"] * down


def ids(draft: Any, lane: str) -> list[str]:
    found = next(one for one in draft["effect"]["lanes"] if one["id"] == lane)
    return [one["id"] for one in found["steps"]]
