"""The one door for foreign files: a reader that crashes, grows or hangs gives a sentence."""

from __future__ import annotations

import gc
import io
import os
import subprocess
import sys
import threading
import time
import zipfile
from collections.abc import Mapping, Sequence
from contextlib import ExitStack
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import OpenEXR
import pytest

from pale_static.core import FrameRate, Size
from pale_static.core.faults import Fault, TooLarge, Unreadable
from pale_static.core.sound import SOUND_RATE
from pale_static.media.foreign import process, readers
from pale_static.media.foreign import reading as foreign
from pale_static.media.pictures.stills import encode_png
from pale_static.media.timelines.named_media import Media, media_from, plain_media
from pale_static.store import Library

from ..attack.foreign import samples, throw_all
from ..conftest import write_clip

BOTH = pytest.mark.parametrize("alone", [True, False], ids=["a copy", "a reader"])


@pytest.fixture(autouse=True)
def _several_threads(monkeypatch: pytest.MonkeyPatch, request: pytest.FixtureRequest) -> Any:
    """Readers of their own, like in a server; or forked copies of this process."""
    call = getattr(request.node, "callspec", None)
    alone = bool(call and call.params.get("alone"))
    monkeypatch.setattr(readers, "_alone", lambda: alone)


def evil(what: str) -> Any:
    """A function of the reader that fails."""

    def read(given: Mapping[str, Any], data: Sequence[bytes]) -> Any:
        if what == "crash":
            os.abort()
        if what == "swell":
            held = [np.ones(64 << 20, np.uint8) for _ in range(80)]
            return {"bytes": sum(one.nbytes for one in held)}, []
        if what == "recurse":
            return read(given, data)
        while True:
            pass

    return read


@pytest.mark.parametrize("what", ["crash", "swell", "recurse", "hang"])
def test_what_goes_wrong_in_a_reader_is_a_sentence(
    monkeypatch: pytest.MonkeyPatch, what: str
) -> None:
    # A forked copy of this process has the functions that are set here.
    monkeypatch.setattr(readers, "_alone", lambda: True)
    monkeypatch.setattr(process, "FUNCTIONS", {"facts": evil(what)})
    monkeypatch.setattr(readers, "LIMITS", process.Limits(seconds=1))
    with pytest.raises(Unreadable, match=r"night\.png could not be read: .*bring in another copy"):
        readers.read_apart("facts", "night.png", {})


def test_a_forked_reader_does_not_close_decoders_of_its_parent(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    def collect(given: Mapping[str, Any], data: Sequence[bytes]) -> Any:
        gc.collect()
        return {}, []

    monkeypatch.setattr(readers, "_alone", lambda: True)
    monkeypatch.setattr(process, "FUNCTIONS", {"facts": collect})
    monkeypatch.setattr(readers, "LIMITS", process.Limits(seconds=1))
    opened = av.open(str(write_clip(tmp_path / "a.mp4")))
    opened.streams.video[0].thread_type = "AUTO"
    next(opened.decode(video=0))
    # A cycle that only the garbage collector frees, and the collector of the copy comes first.
    gc.disable()
    try:
        cycle: list[Any] = [opened]
        cycle.append(cycle)
        del opened, cycle
        assert readers.read_apart("facts", "night.png", {}).plain
    finally:
        gc.enable()


def test_a_forked_reader_reads_however_many_files_its_parent_has_open(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setattr(readers, "_alone", lambda: True)
    path = tmp_path / "a.png"
    path.write_bytes(encode_png(np.zeros((4, 6, 3), np.uint8)))
    with ExitStack() as stack:
        for _ in range(2 * process.LIMITS.files):
            stack.enter_context(path.open("rb"))
        assert foreign.facts_of(path).width == 6


def test_a_reader_is_used_again_however_much_memory_its_server_uses(tmp_path: Path) -> None:
    for one in readers._idle:
        one.end()
    readers._idle.clear()
    path = tmp_path / "a.png"
    path.write_bytes(encode_png(np.zeros((4, 6, 3), np.uint8)))
    large = np.ones(process.LIMITS.kept, np.uint8)
    assert foreign.facts_of(path).width == 6
    number = readers._idle[-1].number
    assert foreign.facts_of(path).width == 6
    assert readers._idle[-1].number == number
    assert large.any()


def test_a_reader_that_was_killed_is_followed_by_another(tmp_path: Path) -> None:
    path = tmp_path / "a.png"
    path.write_bytes(encode_png(np.zeros((4, 6, 3), np.uint8)))
    assert foreign.facts_of(path).width == 6
    reader = readers._idle[-1]
    os.kill(reader.number, 9)
    with pytest.raises(Unreadable, match="its reader stopped"):
        foreign.facts_of(path)
    assert foreign.facts_of(path).width == 6
    assert reader not in readers._idle


def test_files_are_read_one_beside_another(tmp_path: Path) -> None:
    path = tmp_path / "a.png"
    path.write_bytes(encode_png(np.zeros((4, 6, 3), np.uint8)))
    found: list[int] = []
    threads = [
        threading.Thread(target=lambda: found.append(foreign.facts_of(path).width))
        for _ in range(8)
    ]
    for one in threads:
        one.start()
    for one in threads:
        one.join()
    assert found == [6] * 8
    assert len(readers._idle) <= readers.MOST_READERS


@BOTH
def test_all_that_is_read_comes_back_as_it_was(tmp_path: Path, alone: bool) -> None:
    good = samples()
    package = foreign.read_package(good["a.palemacro"], "a.palemacro")
    assert package.preview == package.assets["a.png"] == good["a.png"]
    collection, assets = foreign.read_parts(good["a.paleparts"], "a.paleparts")
    assert (collection.name, dict(assets)) == ("Parts", {"a.png": good["a.png"]})
    media = Media("m", "clip0", "clip0.mp4", Fraction(4), FrameRate.of("29.97"), Size(64, 36), True)
    assert media_from(plain_media(media)) == media
    arrival = foreign.read_arrival(good["a.otio"], "a.otio", {"m": media})
    assert arrival.reel.shots[0].material == "m"
    assert arrival.missing == ("clip1.mp4", "clip2.mp4", "clip3.mp4")
    assert foreign.read_grade(good["a.cc"], "a.cc").values["slope_red"] == 1


@BOTH
def test_a_fault_in_a_reader_is_told_as_it_is(tmp_path: Path, alone: bool) -> None:
    path = tmp_path / "words.txt"
    path.write_text("just words")
    with pytest.raises(Unreadable, match="is neither a picture, a video, a font"):
        foreign.facts_of(path)
    with pytest.raises(Fault, match="There is no file"):
        foreign.facts_of(tmp_path / "gone.mp4")


def test_a_picture_that_claims_too_many_channels_is_refused_before_it_is_read(
    tmp_path: Path,
) -> None:
    flat = np.zeros((3000, 3000), np.float16)
    header = {"compression": OpenEXR.DWAB_COMPRESSION, "type": OpenEXR.scanlineimage}
    channels = {f"l{k}.Y": flat for k in range(31)}
    OpenEXR.File(header, channels).write(str(tmp_path / "many.exr"))
    assert (tmp_path / "many.exr").stat().st_size < 1 << 20
    with pytest.raises(TooLarge, match=r"has 31 channels of 3000×3000, which is more than 1024 MB"):
        foreign.facts_of(tmp_path / "many.exr")


def test_broken_files_of_every_kind_are_taken_or_refused_in_a_sentence() -> None:
    thrown = throw_all(480)
    assert thrown.found == []
    assert thrown.taken.total() + thrown.refused.total() == 480
    assert thrown.refused.total() > 240
    assert thrown.most_memory < process.LIMITS.memory


def test_a_film_whose_sound_states_no_channels_comes_in(library: Library, tmp_path: Path) -> None:
    tone = np.zeros((SOUND_RATE, 2), np.float32)
    path = write_clip(tmp_path / "a.mp4", frames=10, sound=lambda first, n: tone[first : first + n])
    data = bytearray(path.read_bytes())
    # The channel count of the sample entry (ISO/IEC 14496-12, AudioSampleEntry), and AAC's own.
    at = data.find(b"mp4a") + 4
    data[at + 16 : at + 18] = b"\0\0"
    config = data.find(b"\x05\x80\x80\x80", at)
    data[config + 5 : config + 7] = b"\0\0"
    made = library.bring_in(io.BytesIO(bytes(data)), "mute.mp4")
    assert made.facts.frames == 10
    library.sound(made.id)
    library.peaks(made.id)


PICTURE = encode_png(np.full((4, 6, 3), 9, np.uint8))


def test_a_sequence_may_have_one_picture(library: Library) -> None:
    made = library.bring_in_sequence({"night_0001.png": io.BytesIO(PICTURE)})
    assert (made.name, made.facts.frames, made.facts.pictures) == ("night_0001", 1, 1)


@pytest.mark.parametrize(
    ("names", "said"),
    [
        (["p_1.png", f"p_{'1' * 150}.png"], "has a number of more than 12 digits"),
        (["", "p_1.png"], "has no number at its end"),
        ([], "There are no pictures"),
    ],
)
def test_odd_names_in_a_sequence_are_refused(library: Library, names: list[str], said: str) -> None:
    with pytest.raises(Unreadable, match=said):
        library.bring_in_sequence({name: io.BytesIO(PICTURE) for name in names})


def test_a_zip_of_a_later_version_is_refused(library: Library) -> None:
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as file:
        file.writestr("p_1.png", PICTURE)
    data = bytearray(packed.getvalue())
    data[data.find(b"PK\x01\x02") + 6] = 255  # version needed to extract: 25.5
    with pytest.raises(Unreadable, match="its pictures cannot be listed"):
        library.bring_in(io.BytesIO(bytes(data)), "late.frames")


CODE = """
import sys, time
from pathlib import Path
from pale_static.media.foreign import readers
readers.warm()
print(readers._idle[0].number, flush=True)
time.sleep(60)
"""


def test_a_reader_ends_with_the_process_that_asked() -> None:
    parent = subprocess.Popen([sys.executable, "-c", CODE], stdout=subprocess.PIPE, text=True)
    assert parent.stdout is not None
    number = int(parent.stdout.readline())
    parent.kill()
    parent.wait()
    deadline = time.monotonic() + 30
    while Path(f"/proc/{number}").exists():
        assert time.monotonic() < deadline
        time.sleep(0.05)
