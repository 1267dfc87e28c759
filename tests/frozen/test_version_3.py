"""Edits saved by version 3 open with the same pixels, also with shared identifiers.

Version 3 itself wrote the samples.
"""

from __future__ import annotations

import json
from pathlib import Path

from pale_static.core.reel import read_reel, uses_of

from ..core.edits import numbers
from ..core.test_edit_picture import SHELF

HERE = Path(__file__).parent / "v3"


def test_every_frame_has_the_same_pixels_and_each_use_its_own_identifier() -> None:
    reel = read_reel(json.loads((HERE / "reel.json").read_text()))
    expected = json.loads((HERE / "reel-frames.json").read_text())
    assert [numbers(reel, frame, SHELF) for frame in range(reel.length)] == expected
    assert [name for name, _ in uses_of(reel)] == [
        "join-lamp", "join-lamp-2", "join-hall", "join-hall-2", "look"]  # fmt: skip
    assert read_reel(reel.to_json()) == reel
