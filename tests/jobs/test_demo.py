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
from pale_static.demo.fill import begin, finish
from pale_static.demo.sheet import MACROS
from pale_static.demo.shelf import STAPLES
from pale_static.media.opening import inspect
from pale_static.store import Library, drafts, macros, materials
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
