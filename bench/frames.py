"""Frames of the demo's macros: cold, and computed before."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from itertools import count
from pathlib import Path

import numpy as np

from pale_static.core import (
    Engine,
    FrameRate,
    Materials,
    Moment,
    Size,
    StillPicture,
    read_effect,
)
from pale_static.core.built_in.making import Document
from pale_static.core.engine.plan import make_plan
from pale_static.core.steps import noise
from pale_static.demo.clips import CLIPS
from pale_static.demo.content import ember_fray
from pale_static.demo.shelf import SHELF
from pale_static.jobs.memory import keep_memory
from pale_static.media.pictures.stills import encode_jpeg, encode_png
from pale_static.store import Library, drafts
from pale_static.web import create_app

from .measure import Row, multiple, times, within

RATE = FrameRate.of(25)

SEEN = Size(544, 306)
"""The size that the Bench's monitor shows in a window of 1280×800."""
MOST, MEDIAN = 8.0, 4.0
FEEDBACK = {"Platform Glare": 60.0, "Platform Shades": 60.0}
"""Macros whose frames each need the frame before: the monitor shows a coarse picture first."""


def _cold(document: Document, clips: Materials) -> Callable[[], object]:
    """The next frame of a macro at each call, planned and computed with empty caches, as JPEG."""
    effect = read_effect(document)
    length = RATE.frames(effect.seconds)
    frames = count(length // 2)

    def work() -> object:
        noise._distribution.cache_clear()
        moment = Moment(next(frames) % length, length, RATE)
        plan = make_plan(effect, moment, SEEN, materials=clips)
        return encode_jpeg(Engine().compute(plan, eight=True).held)

    return work


def _cold_rows(rounds: int) -> list[Row]:
    keep_memory()  # like in the server
    one, two = (StillPicture(name, CLIPS[k].frame(40)) for k, name in enumerate(("one", "two")))
    clips = Materials({"from": one, "to": two, "clip": two})
    rows = []
    for document in (make() for make in SHELF):
        name = str(document["name"])
        most = FEEDBACK.get(name, MOST)
        rows.append(
            times(
                f"{name}, one cold frame at {SEEN}, and JPEG",
                _cold(document, clips),
                most,
                5,
                rounds=rounds,
            )
        )
    middle = sorted(rows, key=lambda row: row.ratio or 0)[len(rows) // 2]
    return [
        multiple(f"the median of {len(rows)} macros, {middle.work.partition(',')[0]}", middle.ours,
                 middle.reference, middle.theirs or 0, middle.ratio or 0, MEDIAN, 2.5),
        *rows,
    ]  # fmt: skip


def cold_frames() -> list[Row]:
    """A frame of each demo macro at the size the Bench shows, and its JPEG; clips are decoded."""
    return _cold_rows(9)


def slowest_frames() -> list[Row]:
    """The median of those frames, and the slowest one without feedback."""
    middle, *rows = _cold_rows(5)
    plain = [row for row in rows if row.work.partition(",")[0] not in FEEDBACK]
    return [middle, max(plain, key=lambda row: row.ratio or 0)]


def cached_frame() -> list[Row]:
    """A frame already computed, from the request to its bytes."""
    with tempfile.TemporaryDirectory() as folder:
        library = Library(Path(folder))
        card = np.full((720, 1280, 3), 90, np.uint8)
        path = Path(folder) / "card.png"
        path.write_bytes(encode_png(card))
        with path.open("rb") as file:
            identity = library.bring_in(file, "card.png").id
        effect = read_effect(ember_fray(identity, identity))
        draft = drafts.start(library.db, "effect", effect.to_json(), "New")
        client = create_app(library).test_client()
        address = f"/api/effects/{draft.id}/{draft.head.id}/frame.jpg?frame=20&length=50&width=960&height=540"

        def ours() -> object:
            return client.get(address, headers={"Host": "localhost"}).get_data()

        return [within("a frame already computed, request to bytes", ours, 8, 3, 41)]


ROWS = (cold_frames, cached_frame)
