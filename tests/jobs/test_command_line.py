"""The command line gives the application's pixels exactly."""

from __future__ import annotations

import json
import socket
import subprocess
import sys
from pathlib import Path

import av
import numpy as np
import pytest
from click.testing import CliRunner, Result

from pale_static.cli import main
from pale_static.core import Engine, FrameRate, Materials, Moment, Size, read_effect, to_pixels
from pale_static.core.faults import Fault
from pale_static.demo.content import ember_fray, quiet_luma
from pale_static.jobs.publishing import packed
from pale_static.media.foreign.reading import open_footage
from pale_static.media.pictures.stills import encode_png
from pale_static.store import Library, drafts
from pale_static.web import create_app
from pale_static.web.listening import free_socket

from ..conftest import write_clip


def call(*words: object) -> Result:
    return CliRunner().invoke(main, [str(word) for word in words])


@pytest.fixture
def effect(tmp_path: Path) -> Path:
    path = tmp_path / "ember.json"
    path.write_text(json.dumps(ember_fray()))
    return path


def test_the_same_frame_from_the_api_the_command_line_and_python_is_the_same_to_the_byte(
    demo: Library, tmp_path: Path
) -> None:
    client = create_app(demo).test_client()
    path = "/api/effects/2/2/frame.png?frame=22&length=50&width=320&height=180"
    from_api = client.get(path, headers={"Host": "localhost"}).get_data()

    plain = drafts.revision(demo.db, 2, 2).document
    (tmp_path / "effect.json").write_text(json.dumps(plain))
    stand_ins = {slot["id"]: slot["stand_in"] for slot in plain["slots"]}
    clips = {name: next(demo.media.glob(f"{identity}.*")) for name, identity in stand_ins.items()}
    found = call("frame", tmp_path / "effect.json", "--at", 22, "--length", 50, "--size", "320x180",
                 "--from", clips["from"], "--to", clips["to"], "-o", tmp_path / "out.png")  # fmt: skip
    assert found.exit_code == 0, found.output
    assert (tmp_path / "out.png").read_bytes() == from_api

    slots = {name: open_footage(clip) for name, clip in clips.items()}
    result = Engine().evaluate(
        read_effect(plain), Moment(22, 50, FrameRate.of(25)), Size(320, 180),
        materials=Materials(slots),
    )  # fmt: skip
    assert encode_png(to_pixels(result.picture)) == from_api

    package = tmp_path / "ember.palemacro"
    package.write_bytes(packed(demo, "ember-fray", 1))
    found = call("frame", package, "--at", 22, "--length", 50, "--size", "320x180",
                 "--from", clips["from"], "--to", clips["to"], "-o", tmp_path / "macro.png")  # fmt: skip
    assert (tmp_path / "macro.png").read_bytes() == from_api


def test_a_render_has_as_many_frames_as_were_asked_for(effect: Path, tmp_path: Path) -> None:
    one, two = (write_clip(tmp_path / f"{hue}.mp4", hue=hue) for hue in (0, 2))
    found = call("render", effect, "--size", "64x36", "--length", "12", "--rate", "50", "--from", one,
                 "--to", two, "--set", "softness=0.2", "-o", tmp_path / "out.mp4")  # fmt: skip
    assert found.exit_code == 0, found.output
    with av.open(str(tmp_path / "out.mp4")) as container:
        assert container.streams.video[0].frames == 12
        assert container.streams.video[0].average_rate == 50
    found = call(
        "render", effect, "--size", "32x18", "--length", "0.2s", "-o", tmp_path / "f_%02d.png"
    )
    assert found.exit_code == 0, found.output
    assert sorted(path.name for path in tmp_path.glob("f_*.png")) == [
        f"f_{k:02d}.png" for k in range(5)
    ]


def test_moments_lengths_and_single_steps(effect: Path, tmp_path: Path) -> None:
    out = tmp_path / "a.png"
    for words, said in (
        (["--at", "100%"], "frame 49 of 50"), (["--at", "0.4s"], "frame 10 of 50"),
        (["--at", "7", "--length", "1s"], "frame 7 of 25"),
    ):  # fmt: skip
        assert said in call("frame", effect, *words, "--size", "32x18", "-o", out).output
    call("frame", effect, "--step", "direction.ramp", "--size", "64x36", "-o", out)
    row = open_footage(out).pixels(0)[5, :, 0].astype(int)
    assert (np.diff(row) >= 0).all()
    call(
        "frame",
        effect,
        "--step",
        "direction.ramp",
        "--set",
        "travels=right to left",
        "--size",
        "64x36",
        "-o",
        out,
    )
    assert (np.diff(open_footage(out).pixels(0)[5, :, 0].astype(int)) <= 0).all()


def test_options_by_their_old_names_work_and_say_the_new_one(effect: Path, tmp_path: Path) -> None:
    out = tmp_path / "a.png"
    old = call("frame", effect, "--stage", "direction.ramp", "--size", "64x36", "-o", out)
    assert old.exit_code == 0
    assert "--stage is now called --step" in old.stderr
    plain = ember_fray()
    plain["slots"].append({"id": "dirt", "name": "Dirt", "kind": "matte"})
    effect.write_text(json.dumps(plain))
    write_clip(tmp_path / "dirt.mp4")
    for option in ("--matte", "--slot"):
        given = call("frame", effect, option, f"dirt={tmp_path / 'dirt.mp4'}", "-o", out)
        assert given.exit_code == 0
        assert ("--matte is now called --slot" in given.stderr) == (option == "--matte")
    wrong = call("frame", effect, "--slot", "dirt", "-o", out)
    assert "A slot is written NAME=FILE" in wrong.stderr


def test_help_comes_without_the_engine() -> None:
    code = "import sys, pale_static.cli; print('numpy' in sys.modules, 'numba' in sys.modules)"
    told = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert told.stdout.split() == ["False", "False"]


def test_the_cost_of_every_step_is_told(effect: Path, tmp_path: Path) -> None:
    told = call("frame", effect, "--cost", "--size", "64x36", "-o", tmp_path / "a.png").output
    for place in ("fray.noise", "out.luma-wipe", "from.slot"):
        assert place in told
    assert told.count(" ms ") >= 7


def test_steps_are_listed_and_described() -> None:
    assert "luma-wipe" in call("steps").output
    kinds = {one["kind"]: one for one in json.loads(call("steps", "--json").output)}
    assert set(kinds) >= {
        "slot", "still", "flat", "ramp", "noise", "levels", "threshold", "invert", "blur",
        "luma-wipe", "dissolve", "blend",
    }  # fmt: skip
    for kind in kinds.values():
        assert kind["sentence"].endswith(".")
        assert len(kind["definition"]) > 20
        for value in kind["values"]:
            if value["type"] == "number":
                assert {"slider", "allowed", "unit", "default"} <= set(value)
                low, high = value["slider"]
                assert low <= value["default"] <= high


def test_check_says_whether_a_file_is_whole(effect: Path, tmp_path: Path) -> None:
    assert "Ember Fray is valid" in call("check", effect).output
    plain = quiet_luma()
    del plain["lanes"][3]["steps"][1]["inputs"]["matte"]
    (tmp_path / "open.json").write_text(json.dumps(plain))
    found = call("check", tmp_path / "open.json")
    assert found.exit_code == 1


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["--from", "nowhere.mp4"], "There is no file nowhere.mp4"),
        (["--clip", "x.mp4"], "has no slot “clip”. It has: from, to"),
        (["--set", "softness"], "slug=value"),
        (["--set", "shine=1"], "no control “shine”. It has: softness"),
        (["--set", "softness=9"], "“Softness” lies between 0 and 4. It got 9."),
        (["--set", 'softness="a"'], "needs a number"),
        (["--at", "noon"], "A moment is written"),
        (["--length", "0s"], "A length is written"),
        (["--size", "big"], "A size is written"),
        (["--size", "20000x2"], "at most 16384 pixels a side"),
        (["--rate", "0"], "between 1 and 1000"),
        (["--text", "Hello"], "takes no text"),
        (["--step", "fray.gone"], "“gone”"),
    ],
)
def test_what_cannot_be_done_is_one_plain_sentence(
    effect: Path, tmp_path: Path, words: list[str], said: str
) -> None:
    found = call("frame", effect, *words, "-o", tmp_path / "out.png")
    assert found.exit_code == 1
    assert said in " ".join(found.stderr.split())
    assert not (tmp_path / "out.png").exists()


def test_a_taken_port_leads_to_the_next_one() -> None:
    first = free_socket("127.0.0.1", 18710)
    second = free_socket("127.0.0.1", first.getsockname()[1])
    try:
        assert second.getsockname()[1] > first.getsockname()[1]
    finally:
        first.close()
        second.close()


@pytest.mark.parametrize(
    ("host", "port", "said"),
    [
        ("127.0.0.1", -1, "A port lies between 1 and 65535, and this is -1."),
        ("127.0.0.1", 99999, "A port lies between 1 and 65535, and this is 99999."),
        ("no host", 8710, "is not an address of this machine"),
        ("203.0.113.9", 8710, "has no address “203.0.113.9” to listen at"),
    ],
)
def test_a_port_or_host_that_is_none_is_said(host: str, port: int, said: str) -> None:
    with pytest.raises(Fault, match=said):
        free_socket(host, port)


def test_it_listens_at_an_address_of_ipv6_too() -> None:
    with free_socket("::1", 0) as found:
        assert found.getsockname()[0] == "::1"


def test_sockets_can_be_had_at_any_port() -> None:
    found = free_socket("127.0.0.1", 0)
    assert isinstance(found, socket.socket)
    found.close()
