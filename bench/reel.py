"""The Reel: the cost of nesting, a stack of looks, macros on trial, and the strip."""

from __future__ import annotations

import json
import statistics
import time
from typing import Any
from urllib.parse import quote

from playwright.sync_api import sync_playwright

from pale_static.core import (
    Engine,
    FrameRate,
    Materials,
    Moment,
    Size,
    StillPicture,
    read_effect,
)
from pale_static.core.engine.plan import make_plan
from pale_static.core.footage import Nested
from pale_static.demo.looks import bulge_split, overprint, rain_streaks, worn_tape
from pale_static.media.pictures.stills import encode_jpeg
from tests.chromium import CHROMIUM, FLAGS

from .measure import Row, against, within
from .server import ask, fetched, serving

SIZE = Size(960, 540)
STACK = (bulge_split, worn_tape, rain_streaks, overprint)
SHOTS, MANY = 200, 2000


def _clip() -> StillPicture:
    import numpy as np

    rng = np.random.default_rng(7)
    blocks = rng.integers(0, 256, (27, 48, 3), np.uint8)
    return StillPicture("blocks", np.kron(blocks, np.ones((20, 20, 1), np.uint8)))


def nesting() -> list[Row]:
    """The same steps in effects within effects, and in one effect."""
    clip = {"id": "clip", "name": "Clip", "steps": [{"id": "c", "kind": "slot"}]}
    tones = [
        {"kind": "levels", "values": {"gamma": {"formula": "1 + progress"}}},
        {"kind": "blur", "values": {"size": {"formula": "1 + progress"}}},
        {"kind": "saturation", "values": {"amount": {"formula": "1 + progress"}}},
        {"kind": "transform", "values": {"turn": {"formula": "20 * progress"}}},
    ]  # fmt: skip

    def look(*steps: dict[str, Any]) -> Any:
        numbered = [{"id": f"s{k}", **step} for k, step in enumerate(steps)]
        out = {"id": "out", "name": "Out", "steps": [clip["steps"][0], *numbered]}
        slots = [{"id": "clip", "name": "Clip"}]
        return read_effect({"name": "L", "kind": "look", "slots": slots, "lanes": [out]})

    flat, engines = look(*tones), [Engine(64 << 20), Engine(64 << 20)]
    materials = [Materials({"clip": _clip()})]
    for step in tones[:-1]:
        nested = Nested("Look", look(step), 250, materials=materials[-1])
        materials.append(Materials({"clip": nested}))
    frames = [iter(range(1, 240)), iter(range(1, 240))]
    rate = FrameRate.of(25)

    def run(which: int, effect: Any, given: Materials) -> None:
        moment = Moment(next(frames[which]), 250, rate)
        engines[which].compute(make_plan(effect, moment, SIZE, materials=given), passing=True)

    row = against(
        "four looks nested, against the same steps in one effect",
        lambda: run(0, look(tones[-1]), materials[-1]),
        "one effect", lambda: run(1, flat, materials[0]), 1 / 1.05, 1.0, 100,
    )  # fmt: skip
    stack: list[Materials] = [Materials({"clip": _clip()})]
    for make in STACK[:-1]:
        nested = Nested("Look", read_effect(make()), 250, materials=stack[-1])
        stack.append(Materials({"clip": nested}))
    top, engine, moments = read_effect(STACK[-1]()), Engine(), iter(range(1, 240))

    def stacked() -> bytes:
        moment = Moment(next(moments), 250, rate)
        plan = make_plan(top, moment, SIZE, materials=stack[-1])
        return encode_jpeg(engine.compute(plan, eight=True, passing=True).held)

    return [row, within("a stack of four looks at 960×540, one cold frame", stacked, 160, 100, 30)]


def _edit(address: str, shots: int) -> Any:
    clips = [one["id"] for one in ask(address, "/materials", method="GET")["materials"]
             if one["facts"]["kind"] == "video"]  # fmt: skip
    view = ask(address, "/reels", {"name": "Long"})
    for k in range(shots):
        change = {"do": "add-shot", "material": clips[k % len(clips)], "name": f"Shot {k}",
                  "start": 20, "length": 40}  # fmt: skip
        view = ask(address, f"/reels/{view['id']}/changes",
                    {"base": view["revision"], "change": change})  # fmt: skip
    return view


def _changed(address: str, view: Any, **change: Any) -> Any:
    body = {"base": view["revision"], "change": change}
    return ask(address, f"/reels/{view['id']}/changes", body)


def _tray(address: str) -> Row:
    """All pictures of the tray at a cut: twelve, of the shelf's macros."""
    view = _edit(address, 2)
    macros = [one["slug"] for one in ask(address, "/macros", method="GET")["macros"]
              if one["kind"] == "transition"]  # fmt: skip
    left, right = (shot["id"] for shot in view["shots"])
    began = time.perf_counter()
    for k in range(12):
        change = {"do": "place-join", "cuts": [{"left": left, "right": right}], "length": 30,
                  "macro": macros[k % len(macros)], "version": 1,
                  "settings": {}, "alignment": "across"}  # fmt: skip
        frame = 38 + k % 5
        path = f"try-on.jpg?change={quote(json.dumps(change))}&frame={frame}&width=256&height=144"
        fetched(f"{address}api/reels/{view['id']}/{view['revision']}/{path}")
    spent = (time.perf_counter() - began) * 1000
    return Row("macros tried on at a cut, all twelve pictures", spent, "", None, None, "2,000 ms",
               "1,000 ms", spent <= 2000)  # fmt: skip


WATCH = """() => { window.blocks = [];
  new PerformanceObserver(list => window.blocks.push(...list.getEntries().map(e => e.duration)))
    .observe({type: 'longtask'}); }"""


def _strip(address: str) -> Row:
    """The longest block while a shot's end is dragged on a strip of 200 shots and 100 macros."""
    view = _edit(address, SHOTS)
    shots = [shot["id"] for shot in view["shots"]]
    view = _changed(address, view, do="add-look", shots=shots[::4], macro="worn-tape", version=1)
    cuts = [{"left": a, "right": b} for a, b in zip(shots[::4], shots[1::4], strict=False)]
    view = _changed(address, view, do="place-join", cuts=cuts, macro="quiet-luma", version=1,
                    length=10)  # fmt: skip
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{address}reel/{view['id']}")
        for _ in range(6):
            page.get_by_role("button", name="Look closer").click()
        page.get_by_role("button", name="Shot Shot 2,").click()
        page.wait_for_timeout(3000)
        grip = page.locator(".Strip-shot.selected .Strip-grip.Strip-tail").bounding_box()
        assert grip
        page.evaluate(WATCH)
        x, y = grip["x"] + 4, grip["y"] + 40
        page.mouse.move(x, y)
        page.mouse.down()
        for k in range(60):
            page.mouse.move(x - k, y)
            page.wait_for_timeout(16)
        page.mouse.up()
        page.wait_for_timeout(800)
        block = max([0.0, *page.evaluate("window.blocks")])
        browser.close()
    return Row(f"longest block while a shot is trimmed among {SHOTS}", block, "", None, None,
               "50 ms", "20 ms", block <= 50)  # fmt: skip


SCROLL = """async () => {
  const strip = document.querySelector('.Strip-strip'), times = [];
  const next = () => new Promise(requestAnimationFrame);
  await next();
  for (let frame = 0; frame <= 120; frame++) { strip.scrollLeft += 40; times.push(await next()); }
  return times.slice(1).map((time, k) => time - times[k]);
}"""


def _scrolled(address: str) -> Row:
    """Frames a second while a strip of two thousand shots is scrolled, and how many come late."""
    view = _edit(address, 2)
    while len(view["shots"]) < MANY:
        shots = [shot["id"] for shot in view["shots"]][: min(500, MANY - len(view["shots"]))]
        view = _changed(address, view, do="copy", names=shots, frame=view["length"])
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{address}reel/{view['id']}")
        for _ in range(10):
            page.get_by_role("button", name="Look closer").click()
        page.wait_for_timeout(3000)
        intervals = page.evaluate(SCROLL)
        drawn = page.locator(".Strip-shot").count()
        browser.close()
    rate = 1000 * len(intervals) / sum(intervals)
    typical = 1000 / statistics.median(intervals)
    late = sum(each > 25 for each in intervals)
    beside = (
        f"{drawn} shots drawn, {late} of {len(intervals)} frames late, {typical:.0f} by the median"
    )
    return Row(f"scrolling a strip of {MANY} shots", rate, beside, None, None,
               "60 a second, by the median", "none late", typical >= 59.5, "frames/s")  # fmt: skip


def under_the_hand() -> list[Row]:
    """The tray and the strip, in the browser."""
    with serving() as address:
        return [_tray(address), _strip(address), _scrolled(address)]


ROWS = (nesting, under_the_hand)
