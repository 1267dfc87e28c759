"""Edits from files: rendered, checked and converted on the command line."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from click.testing import CliRunner
from PIL import Image

from pale_static.cli import main
from pale_static.core.sound import SOUND_RATE
from pale_static.demo.content import ember_fray
from pale_static.media.foreign.reading import open_footage

from ..conftest import write_clip

LIST = """TITLE: NIGHT
001  HALL     V     C        00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00
* FROM CLIP NAME: hall
002  WIRES    V     C        00:00:00:10 00:00:01:10 01:00:01:00 01:00:02:00
* FROM CLIP NAME: wires
003  GONE     V     C        00:00:00:00 00:00:00:20 01:00:02:00 01:00:02:20
* FROM CLIP NAME: gone
"""


def call(*words: Any, fails: bool = False) -> Any:
    result = CliRunner().invoke(main, [str(word) for word in words])
    assert (result.exit_code != 0) == fails, result.output
    return result


def hum(first: int, count: int) -> Any:
    line = 0.4 * np.sin(2 * np.pi * 440 * (first + np.arange(count)) / SOUND_RATE)
    return np.repeat(line[:, None], 2, 1).astype(np.float32)


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("edit")
    (folder / "footage").mkdir()
    write_clip(folder / "footage/hall.mp4", frames=60, hue=0, sound=hum)
    write_clip(folder / "footage/wires.mp4", frames=60, hue=2)
    (folder / "night.edl").write_text(LIST)
    (folder / "ember.json").write_text(json.dumps(ember_fray()))
    return folder


def test_a_whole_edit_is_rendered_with_a_macro_on_all_cuts(folder: Path) -> None:
    out = folder / "film.mp4"
    told = call("edit", folder / "night.edl", "--macro", folder / "ember.json", "--on", "all-cuts",
                "--set", "softness=0.1", "-o", out)  # fmt: skip
    assert "gone was not found, so a plain card shows in its place" in told.stderr
    with av.open(str(out)) as film:
        assert film.streams.video[0].frames == 70
        assert len(film.streams.audio) == 1
    plain = folder / "plain.mp4"
    call("edit", folder / "night.edl", "-o", plain)
    ours, cut = open_footage(out), open_footage(plain)
    # Away from the cuts both are the clip; at a cut the macro shows.
    assert np.abs(ours.pixels(3).astype(int) - cut.pixels(3)).mean() < 2
    assert np.abs(ours.pixels(25).astype(int) - cut.pixels(25)).mean() > 4


def test_lossless_frames_are_those_of_a_single_frame_to_the_bit(folder: Path) -> None:
    macro = ("--macro", folder / "ember.json", "--on", "cut:1")
    call("edit", folder / "night.edl", *macro, "-o", folder / "film.mkv")
    call("edit", folder / "night.edl", *macro, "--at", "25", "-o", folder / "one.png")
    film = open_footage(folder / "film.mkv").pixels(25)[..., :3]
    one = open_footage(folder / "one.png").pixels(0)
    # The film has 8 bits, the frame 16.
    assert np.abs(film.astype(int) - np.round(one[..., :3] / 257)).max() == 0


def test_an_edit_is_checked_and_converted(folder: Path) -> None:
    told = call("edit", folder / "night.edl", "--check").output
    assert "NIGHT: 3 shots, 0 joins, 70 frames at 25 a second" in told
    call("edit", folder / "night.edl", "--macro", "dissolve", "-o", folder / "n.otio")
    told = call("edit", folder / "n.otio", "--check").output
    assert "3 shots, 2 joins, 70 frames" in told
    call("edit", folder / "n.otio", "-o", folder / "back.edl")
    text = (folder / "back.edl").read_text()
    assert "* EFFECT NAME: BUILT-IN:DISSOLVE" in text
    call("edit", folder / "n.otio", "-o", folder / "n.json")
    assert json.loads((folder / "n.json").read_text())["name"] == "NIGHT"
    call("edit", folder / "n.json", "-o", folder / "sheet.png", "--format", "sheet")
    assert Image.open(folder / "sheet.png").width == 3 * 160 + 16


def test_a_look_goes_on_all_shots(folder: Path) -> None:
    look = {
        "name": "Grey", "kind": "look", "slots": [{"id": "clip", "name": "Clip"}],
        "lanes": [{"id": "out", "name": "Out", "steps": [
            {"id": "c", "kind": "slot"},
            {"id": "s", "kind": "saturation", "values": {"amount": 0}}]}],
    }  # fmt: skip
    (folder / "grey.json").write_text(json.dumps(look))
    call("edit", folder / "night.edl", "--macro", folder / "grey.json", "--on", "all-shots",
         "--at", "3", "-o", folder / "grey.png")  # fmt: skip
    pixels = open_footage(folder / "grey.png").pixels(0)[5, 5, :3].astype(int)
    assert np.ptp(pixels) <= 257


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (("-o", "out.gif"), "“out.gif” does not say what to write"),
        ((), "Name the file to write with -o"),
        (("--macro", "nowhere", "--check"), "There is no file nowhere"),
        (("--macro", "dissolve", "--on", "cut:9", "--check"), "This edit has cuts 1 to 2"),
        (("--macro", "dissolve", "--on", "all", "--check"), "A macro goes on all-cuts"),
        (("--macro", "dissolve", "--on", "all-shots", "--check"), "Only a look goes on shots"),
        (("-o", "x.mp4", "--quality", "superb"), "A quality is one of small, good, high, finest"),
        (("-o", "no/where/x.mp4"), "x.mp4 could not be written: No such file or directory"),
    ],
)
def test_what_cannot_be_is_told(folder: Path, words: tuple[str, ...], said: str) -> None:
    told = call("edit", folder / "night.edl", *words, fails=True)
    assert said in told.stderr
    assert not list(folder.glob("*.part"))


def test_an_effect_is_rendered_with_a_layer_for_a_step(folder: Path, tmp_path: Path) -> None:
    import OpenEXR

    clips = ("--from", folder / "footage/hall.mp4", "--to", folder / "footage/wires.mp4")
    effect = json.loads((folder / "ember.json").read_text())
    lane = next(one for one in effect["lanes"] if any(s["kind"] == "noise" for s in one["steps"]))
    layer = f"{lane['id']}.{next(s['id'] for s in lane['steps'] if s['kind'] == 'noise')}"
    call("render", folder / "ember.json", "--length", "3", "--size", "64x36", *clips,
         "--layer", layer, "-o", tmp_path / "f_%02d.exr")  # fmt: skip
    with OpenEXR.File(str(tmp_path / "f_01.exr"), separate_channels=True) as file:
        assert f"{layer}.R" in file.channels()
    refused = call("render", folder / "ember.json", *clips, "--layer", layer, "-o",
                   tmp_path / "f.mp4", fails=True)  # fmt: skip
    assert "Only OpenEXR pictures hold layers" in refused.stderr
    listed = call("formats").output
    assert "prores-4444" in listed
