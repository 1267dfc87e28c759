"""Pace: an edit played in the browser, frames at random, and what a long day leaves in memory."""

from __future__ import annotations

import random
import tempfile
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from itertools import pairwise
from pathlib import Path
from statistics import median
from typing import Any

import av
import numpy as np
from playwright.sync_api import Page, sync_playwright

from pale_static.jobs.screen_copies import make_all
from pale_static.jobs.worker import STAYS
from pale_static.store import Library, materials, screen_copies
from tests.chromium import CHROMIUM, FLAGS

from .films import MIB, family, held
from .measure import Row, multiple, once, scale
from .server import LARGE, ask, fetched, served, started, whole_demo

SHOWN = "width=672&height=378"
"""The size that the Reel's monitor shows in a window of 1280×800."""
DRAWN = """() => {
  const canvas = document.querySelector('[data-testid=screen]');
  window.drawn = [];
  window.watching?.disconnect();
  window.watching = new MutationObserver(records => records.forEach(
    () => window.drawn.push([performance.now(), canvas.dataset.pixels])));
  window.watching.observe(canvas, {attributes: true, attributeFilter: ['data-pixels']});
}"""
HALF = 378 // 2
HEARD = """window.AudioContext = class extends AudioContext {
  constructor(options) { super(options); window.heard = this; }
};
const start = AudioBufferSourceNode.prototype.start;
AudioBufferSourceNode.prototype.start = function (when, offset) {
  // The time of the card's clock at which the sound begins that is played first.
  window.began ??= when - (offset ?? 0);
  return start.call(this, when, offset);
};"""
APART = """() => {
  const canvas = document.querySelector('[data-testid=screen]');
  const at = [canvas.width >> 1, canvas.height >> 1, 1, 1];
  window.apart = [];
  window.began = undefined;
  new MutationObserver(() => {
    const { heard, began } = window;
    if (!heard || began === undefined) return;
    const seen = (canvas.getContext('2d').getImageData(...at).data[0] - 40) / 8;
    const frame = (heard.currentTime - began - (heard.outputLatency || 0)) * 25;
    if (frame >= 0) window.apart.push(((frame - seen + 12) % 25 + 25) % 25 - 12);
  }).observe(canvas, { attributeFilter: ['data-pixels'] });
}"""
"""Frames between what is heard and the start of the picture that is drawn; the grey of a picture tells
its number."""
LISTENED = 60
"""Seconds of a film with sound that are played."""
PAGES = 10
BUSY = 120.0
"""Seconds for which pages are busy; memory stops to grow much earlier."""
BEFORE = 28.0
"""A random 1280×720 frame on the Reel took this many times the reference before films had copies."""


def _reel(address: str, name: str) -> Any:
    return next(one for one in ask(address, "/reels", method="GET")["reels"] if one["name"] == name)


def _played(page: Page, seconds: float) -> tuple[float, float, float, Counter[str]]:
    """Frames a second that reach the screen, the share of at least half the shown size, the longest
    wait in milliseconds, and the sizes."""
    page.evaluate(DRAWN)
    page.get_by_role("button", name="Play", exact=True).click()
    page.wait_for_timeout(seconds * 1000)
    page.get_by_role("button", name="Stop", exact=True).click()
    drawn = page.evaluate("() => window.drawn")[1:]
    times = [at for at, _ in drawn]
    gaps = [after - at for at, after in pairwise(times)]
    sizes = Counter(size for _, size in drawn)
    sharp = sum(n for size, n in sizes.items() if int(size.partition("x")[2]) >= HALF)
    rate = 1000 * len(gaps) / (times[-1] - times[0])
    return rate, sharp / len(drawn), max(gaps), sizes


def _told(work: str, found: tuple[float, float, float, Counter[str]], least: float, part: float) -> list[Row]:  # fmt: skip
    rate, sharp, gap, sizes = found
    common = ", ".join(f"{n}× {size}" for size, n in sizes.most_common(3))
    beside = f"{common}; longest wait {gap:.0f} ms"
    return [
        Row(f"“Open day” played, {work}", rate, beside, None, None, f"{least:g} a second", "25",
            rate >= least - 0.2, "frames/s"),
        Row(f"“Open day” played, {work}: frames at half the shown size or more", 100 * sharp, "",
            None, None, f"{100 * part:g} %", "100 %", sharp >= part, "%"),
    ]  # fmt: skip


def played() -> list[Row]:
    """An edit with looks, joins and titles, played: the first time, again, and after a restart."""
    return _played_after((("first time", "second time"), ("after a restart",)))


def played_once() -> list[Row]:
    """That edit, played the first time."""
    return _played_after((("first time",),))


def _played_after(starts: tuple[tuple[str, ...], ...]) -> list[Row]:
    """The edit played after each start of the server."""
    rows = []
    with whole_demo() as folder, sync_playwright() as playwright:
        for seen in starts:
            with served(folder) as address:
                reel = _reel(address, "Open day")
                browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                page.goto(f"{address}reel/{reel['id']}")
                page.wait_for_function(
                    "() => document.querySelector('[data-testid=screen]')?.dataset.pixels"
                )
                for work in seen:
                    page.keyboard.press("Home")
                    first = work == "first time"
                    found = _played(page, 29.5)
                    rows += _told(work, found, 20 if first else 25, 0.9 if first else 1.0)
                browser.close()
    return rows


def _write_heard(path: Path) -> None:
    """A film with sound whose grey tells the number of its frame, modulo 25."""
    with av.open(str(path), "w") as file:
        film: Any = file.add_stream("libx264", rate=25)
        film.width, film.height, film.pix_fmt = 640, 360, "yuv420p"
        track: Any = file.add_stream("aac", rate=48_000, layout="stereo")
        for number in range((LISTENED + 2) * 25):
            grey = np.full((360, 640, 3), 40 + 8 * (number % 25), np.uint8)
            file.mux(film.encode(av.VideoFrame.from_ndarray(grey)))
            tone = 0.1 * np.sin(np.arange(1920) * (2 * np.pi * 440 / 48_000))
            samples = np.tile(tone.astype(np.float32), (2, 1))
            sound = av.AudioFrame.from_ndarray(samples, "fltp", "stereo")
            sound.sample_rate = 48_000
            file.mux(track.encode(sound))
        file.mux(film.encode())
        file.mux(track.encode())


def heard() -> Row:
    """How far pictures are from the sound, over a minute of playing."""
    with tempfile.TemporaryDirectory() as name, sync_playwright() as playwright:
        folder = Path(name)
        library = Library(folder / "data")
        _write_heard(folder / "heard.mp4")
        with (folder / "heard.mp4").open("rb") as file:
            library.bring_in(file, "heard.mp4")
        make_all(library)
        library.db.close()
        with served(folder / "data") as address:
            reel, _ = _clip(address, "heard", LISTENED * 25 + 12)
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.add_init_script(HEARD)
            page.goto(f"{address}reel/{reel['id']}")
            page.wait_for_function(
                "() => document.querySelector('[data-testid=screen]')?.dataset.pixels"
            )
            page.evaluate(APART)
            page.get_by_role("button", name="Play", exact=True).click()
            page.wait_for_timeout(LISTENED * 1000)
            page.get_by_role("button", name="Stop", exact=True).click()
            apart = page.evaluate("() => window.apart")
            browser.close()
    most = float(np.percentile(np.abs(apart), 95))
    beside = f"{len(apart)} pictures, median {median(apart):.2f}, most {max(map(abs, apart)):.2f}"
    return Row(
        f"sound and picture over {LISTENED} s, 95th percentile", most, beside, None, None,
        "half a frame", "", most <= 0.5, "frames",
    )  # fmt: skip


def jumps() -> Row:
    """How soon a coarse picture is there after a jump in an effect with feedback."""
    took: list[float] = []
    with whole_demo() as folder, served(folder) as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        for slug in ("platform-shades", "platform-glare"):
            draft = ask(address, "/effects", {"macro": slug, "version": 1})
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(f"{address}bench/{draft['id']}")
            page.wait_for_function(
                "() => document.querySelector('[data-testid=screen]')?.dataset.pixels"
            )
            box = page.get_by_role("slider", name="Playhead").bounding_box()
            assert box
            for share in (0.9, 0.4, 0.75, 0.3, 0.97, 0.6):
                page.wait_for_timeout(4000)
                page.evaluate(DRAWN)
                page.evaluate("""() => addEventListener('pointerdown',
                    () => { window.pressed = performance.now(); window.drawn = []; },
                    { once: true, capture: true })""")
                page.mouse.click(box["x"] + share * box["width"], box["y"] + box["height"] / 2)
                page.wait_for_function("() => window.drawn.length")
                took.append(page.evaluate("() => window.drawn[0][0] - window.pressed"))
            page.close()
        browser.close()
    return Row(
        "a jump in Platform Shades and Platform Glare, to a coarse picture, median", median(took),
        f"longest {max(took):.0f}", None, None, "100 ms", "", median(took) <= 100,
    )  # fmt: skip


def _random(address: str, reel: Any, frames: list[int]) -> float:
    """The median milliseconds of cold frames of an edit, at the size that its monitor shows."""
    path = f"{address}api/reels/{reel['id']}/{reel['revision']}/frame.jpg"
    return median(once(lambda: fetched(f"{path}?frame={k}&{SHOWN}")) for k in frames)  # noqa: B023


def _clip(address: str, name: str, most: int = 90) -> tuple[Any, int]:
    """An edit that shows one clip, and its length: at most a number of frames."""
    clip = next(one for one in ask(address, "/materials", method="GET")["materials"]
                if one["name"] == name)  # fmt: skip
    view = ask(address, "/reels", {"name": name})
    length = min(most, clip["facts"]["frames"])
    change = {"do": "add-shot", "material": clip["id"], "name": name, "start": 0, "length": length}
    return ask(address, f"/reels/{view['id']}/changes", {"base": view["revision"], "change": change}), length  # fmt: skip


def at_random() -> list[Row]:
    """Cold frames at random: of a clip of 3840×2160 against one of 1280×720, and of an edit."""
    chance = random.Random(3)
    with whole_demo() as folder, served(folder) as address:
        ours: dict[str, float] = {}
        for name in ("Depot hall", LARGE):
            reel, length = _clip(address, name)
            fetched(f"{address}api/reels/{reel['id']}/{reel['revision']}/frame.jpg?frame=0&{SHOWN}")
            ours[name] = _random(address, reel, chance.sample(range(1, length), 40))
        work = scale()
        yardstick = median(once(work) for _ in range(15))
        small, large = ours["Depot hall"], ours[LARGE]
    return [
        multiple("a random frame of a 3840×2160 clip on the Reel", large, "of a 1280×720 clip", small,
                 large / small, 1.5, 1.0),
        multiple("a random frame of a 1280×720 clip on the Reel", small, "NumPy", yardstick,
                 small / yardstick, round(BEFORE / 3, 1), round(BEFORE / 5, 1)),
    ]  # fmt: skip


def copies() -> Row:
    """The size of a copy for the screen against its original of 3840×2160."""
    with whole_demo() as folder:
        library = Library(folder)
        one = next(one for one in materials.listed(library.db) if one.name == LARGE)
        original = library.path_of(one).stat().st_size
        copy = screen_copies.listed(library.db)[one.id].bytes
    mbits = original * 8 / (one.facts.seconds or 1) / 1e6
    return multiple(
        f"a copy for the screen of a film of 3840×2160, {mbits:.0f} Mbit/s", copy / MIB,
        "the film", original / MIB, copy / original, 0.333, 0.1, "MiB",
    )  # fmt: skip


def _page(address: str, drafts: list[Any], reels: list[Any], until: float, seed: int) -> None:
    """What a busy page asks for, as fast as it comes."""
    chance = random.Random(seed)
    while time.monotonic() < until:
        reel, draft = chance.choice(reels), chance.choice(drafts)
        path = f"{address}api/reels/{reel['id']}/{reel['revision']}/"
        fetched(f"{path}frame.jpg?frame={chance.randrange(reel['length'])}&{SHOWN}")
        fetched(f"{path}frame.jpg?frame={chance.randrange(reel['length'])}&width=960&height=540")
        step = chance.choice([*draft["since"]])
        path = f"{address}api/effects/{draft['id']}/{draft['revision']}/frame.jpg"
        moment = f"?frame={chance.randrange(50)}&length=50"
        fetched(f"{path}{moment}&width=544&height=306")
        fetched(f"{path}{moment}&width=256&height=144&step={step}")


def _worker_pid(server: int) -> int | None:
    """The process beside a server that renders."""
    for pid in family(server):
        with suppress(OSError):
            if b"jobs.worker" in Path(f"/proc/{pid}/cmdline").read_bytes():
                return pid
    return None


def memory() -> list[Row]:
    """What a server holds after ten busy pages with a 3840×2160 clip, and a worker that is done."""
    with whole_demo() as folder, started(folder) as (address, server):
        reels = [_clip(address, LARGE)[0], *ask(address, "/reels", method="GET")["reels"]]
        reels = [ask(address, f"/reels/{one['id']}", method="GET") for one in reels]
        drafts = [
            ask(address, "/effects", {"macro": macro["slug"], "version": 1})
            for macro in ask(address, "/macros", method="GET")["macros"][:12]
        ]
        until = time.monotonic() + BUSY
        with ThreadPoolExecutor(PAGES) as pages:
            work = [
                pages.submit(_page, address, drafts, reels, until, seed) for seed in range(PAGES)
            ]
            for one in work:
                one.result()
        long = held([server]) / MIB
        reel = reels[0]
        ask(address, "/renders", {"reel": reel["id"]})
        while any(
            one["state"] in ("queued", "running")
            for one in ask(address, "/renders", method="GET")["renders"]
        ):
            time.sleep(1)
        time.sleep(STAYS + 5)
        worker = _worker_pid(server)
        idle = held([worker]) / MIB if worker else 0.0
    return [
        Row(f"a server's memory after {PAGES} pages were busy for {BUSY:.0f} s, budget 1,024 MiB", long,
            "", None, None, "1,424 MiB", "1,274 MiB", long <= 1424, "MiB"),
        Row("a worker's memory after a render", idle, "", None, None, "200 MiB", "", idle <= 200,
            "MiB"),
    ]  # fmt: skip


ROWS = (played, heard, jumps, at_random, copies, memory)
