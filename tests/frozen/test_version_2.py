"""Edits saved by version 2 open unchanged: the same frames of the same clips.

Version 2 itself wrote the samples.
"""

from __future__ import annotations

import json
from pathlib import Path

from pale_static.core.reel import read_reel

from ..core.edits import shown

HERE = Path(__file__).parent / "v2"


def test_the_edit_shows_the_same_frames_of_the_same_clips() -> None:
    reel = read_reel(json.loads((HERE / "reel.json").read_text()))
    expected = json.loads((HERE / "reel-frames.json").read_text())
    assert reel.length == len(expected)
    assert [shown(reel, frame) for frame in range(reel.length)] == expected
    assert [(join.left, join.right) for join in reel.joins] == [("lamp", "hall"), ("map", "lamp-2")]
    assert reel.joins[0].settings == {"softness": 0.3}
    assert reel.joins[1].hold
    assert read_reel(reel.to_json()) == reel
