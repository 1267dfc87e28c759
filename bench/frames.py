"""Frames of the demo's macros: cold, and computed before."""

from __future__ import annotations

import tempfile
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
from pale_static.core.engine.plan import make_plan
from pale_static.core.steps import noise
from pale_static.demo.clips import CLIPS
from pale_static.demo.content import ember_fray
from pale_static.demo.shelf import SHELF
from pale_static.jobs.memory import keep_memory
from pale_static.media.pictures.stills import encode_jpeg, encode_png
from pale_static.store import Library, drafts
from pale_static.web import create_app

from .measure import Row, within

RATE = FrameRate.of(25)
SMALL = Size(960, 540)

HEAVY = {"Wet Pane": 120, "Frost Garden": 120, "Frost Pane": 120}
"""Macros with a higher limit, in ms: many drops and a defocus; many passes."""


def cold_frames() -> list[Row]:
    """A frame of each demo macro with empty caches, and its JPEG; clips are decoded."""
    keep_memory()  # like in the server
    clips = Materials(
        {
            "from": StillPicture("one", CLIPS[0].frame(60)),
            "to": StillPicture("two", CLIPS[1].frame(40)),
            "clip": StillPicture("two", CLIPS[1].frame(40)),
        }
    )
    rows = []
    for document in (make() for make in SHELF):
        effect = read_effect(document)
        length = RATE.frames(effect.seconds)

        def ours(effect: object = effect, length: int = length) -> object:
            noise._distribution.cache_clear()
            moment = Moment(length // 2, length, RATE)
            plan = make_plan(effect, moment, SMALL, materials=clips)  # type: ignore[arg-type]
            return encode_jpeg(Engine().compute(plan, eight=True).held)

        most = HEAVY.get(effect.name, 40)
        rows.append(within(f"{effect.name}, one cold frame at 960×540, and JPEG", ours, most, 20))
    return rows


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
