"""The demo opens before its footage is painted, and continues after an interruption."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest

from pale_static.core import Size
from pale_static.demo.clips import CLIPS
from pale_static.demo.fill import FIRST, begin, finish, paint_clip, paint_small
from pale_static.demo.sheet import MACROS
from pale_static.demo.shelf import STAPLES
from pale_static.jobs.screen_copies import make, unused
from pale_static.media.opening import inspect
from pale_static.store import Library, drafts, macros, materials, screen_copies
from pale_static.web import create_app

from ..web.test_api import Api, picture


@pytest.fixture
def begun(tmp_path: Path) -> Library:
    library = Library(tmp_path / "data")
    assert begin(library, scale=0.05, frames=6)
    return library


def test_all_is_listed_at_once_with_cards_in_place_of_footage(begun: Library) -> None:
    api = Api(create_app(begun).test_client())
    waiting = api.get("/waiting")["files"]
    # All except the stills, which are painted at once.
    assert len(waiting) == len(materials.listed(begun.db)) - 3 > 6
    assert len(api.get("/macros")["macros"]) == len(MACROS)
    reel = drafts.listed(begun.db, "reel")[-1]
    address = f"/reels/{reel.id}/{reel.head.id}/frame.png?frame=0&width=96&height=54"
    card = picture(api.ask("GET", address))
    assert np.ptp(card.astype(int)) > 20  # a card with a pattern, and no fault
    # Existing files are left alone.
    assert not begin(begun)


def test_painting_that_was_killed_goes_on_and_keeps_what_was_done(tmp_path: Path) -> None:
    begun = Library(tmp_path / "data")
    assert begin(begun, scale=0.05, frames=6, macros=STAPLES)
    command = [sys.executable, "-m", "pale_static.demo.fill", str(begun.folder), str(os.getpid())]
    painter = subprocess.Popen(command, start_new_session=True)
    total = len(materials.expected(begun.db))
    while len(materials.expected(begun.db)) > total - 4:
        assert painter.poll() is None
        time.sleep(0.05)
    os.killpg(painter.pid, signal.SIGKILL)
    painter.wait()
    there = {one.id: begun.path_of(one) for one in materials.listed(begun.db) if one.made is None}
    written = {name: path.stat().st_mtime_ns for name, path in there.items()}
    assert len(written) >= 3
    finish(begun)
    assert materials.expected(begun.db) == []
    for name, path in there.items():
        assert path.stat().st_mtime_ns == written[name]
    for one in materials.listed(begun.db):
        assert inspect(begun.path_of(one), one.name)[1] == one.facts
    # Previews need footage; all of them exist now.
    assert macros.without_preview(begun.db) == []
    assert Size(64, 36) == Size(*(getattr(materials.listed(begun.db)[0].facts, side)
                                  for side in ("width", "height")))  # fmt: skip


def test_a_clip_is_seen_small_while_it_is_painted(tmp_path: Path) -> None:
    begun = Library(tmp_path / "data")
    assert begin(begun, scale=0.2, frames=6, macros=STAPLES)
    api = Api(create_app(begun).test_client())
    index = next(k for k, clip in enumerate(CLIPS) if clip.name == FIRST)
    one = next(one for one in materials.expected(begun.db) if one.name == FIRST)
    monitor = f"/materials/{one.id}/picture.jpg?frame=5&width=64&height=36"

    def shown() -> np.ndarray:
        return picture(api.ask("GET", monitor)).astype(float)

    card = shown()
    paint_small(index, str(begun.folder), one.id)
    assert api.get("/waiting")["small"] == [one.id]
    small = shown()
    expected = CLIPS[index].frame(CLIPS[index].frames - 1, 0.05).astype(float)
    assert np.abs(small - expected).mean() < 4 < np.abs(card - expected).mean()
    assert len(begun.footage(one.id).pixels(0)) == 540  # renders keep the card
    paint_clip(index, str(begun.folder), one.id)
    assert api.get("/waiting")["small"] == []
    assert np.abs(shown() - expected).mean() < 4
    # It is no copy of the file: that one replaces it.
    painted = next(begun.screen.iterdir())
    arrived = materials.get(begun.db, one.id)
    assert screen_copies.of(begun.db, arrived) is None
    make(begun, arrived)
    assert unused(begun) == [painted]
