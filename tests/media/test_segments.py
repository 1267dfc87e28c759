"""A film written in stretches: its result, and the continuation of a stopped render."""

from __future__ import annotations

import os
from pathlib import Path

import av
import numpy as np
import pytest

from pale_static.core import FrameRate, Size
from pale_static.media.films.stretches import SegmentedFilm
from pale_static.media.formats import Encoding, format_of
from pale_static.media.kept_files import KeptFiles

SIZE = Size(64, 48)
RATE = FrameRate.of("29.97")


def grey(n: int) -> np.ndarray:
    return np.full((SIZE.height, SIZE.width, 3), 20 + 9 * n, np.uint8)


def writer(path: Path, total: int, content: str = "a", form: str = "mp4") -> SegmentedFilm:
    return SegmentedFilm(
        path, Encoding(format_of(form)), SIZE, RATE, total, KeptFiles(path.parent / "kept", 1 << 30),
        lambda first, count: f"{content}-{first}-{count}", stretch=5,
    )  # fmt: skip


@pytest.mark.parametrize("total", [1, 4, 5, 6, 10, 17])
def test_the_film_has_every_frame_once_at_its_time(tmp_path: Path, total: int) -> None:
    film = writer(tmp_path / "film.mp4", total)
    for n in range(total):
        film.put(n, grey(n))
    assert film.finish() == [tmp_path / "film.mp4"]
    with av.open(str(tmp_path / "film.mp4")) as found:
        stream = found.streams.video[0]
        frames = list(found.decode(stream))
        # Facts as PyAV, which is FFmpeg, reads them.
        assert len(frames) == total
        assert stream.average_rate == RATE.exact
        for n, frame in enumerate(frames):
            assert abs(float(frame.time) - n / float(RATE)) < 1e-4
            assert abs(int(frame.to_ndarray(format="gray").mean()) - (20 + 9 * n)) <= 3
    with av.open(str(tmp_path / "film.mp4")) as found:
        times = [packet.dts for packet in found.demux(video=0) if packet.dts is not None]
        assert times == sorted(set(times))
    assert sorted(one.name for one in tmp_path.iterdir()) == ["film.mp4", "kept"]


def test_a_stopped_film_goes_on_after_its_last_whole_stretch(tmp_path: Path) -> None:
    path = tmp_path / "film.mp4"
    film = writer(path, 17)
    assert list(film.missing()) == list(range(17))
    for n in range(13):
        film.put(n, grey(n))
    film.abandon()
    assert not path.exists()
    before = {one: one.read_bytes() for one in (tmp_path / "kept").iterdir()}
    film = writer(path, 17)
    assert list(film.missing()) == list(range(10, 17))
    for n in film.missing():
        film.put(n, grey(n))
    assert {one: one.read_bytes() for one in before} == before
    film.finish()
    with av.open(str(path)) as found:
        seen = [frame.to_ndarray(format="gray").mean() for frame in found.decode(video=0)]
    assert np.allclose(seen, [20 + 9 * n for n in range(17)], atol=3)


def test_what_has_not_changed_is_not_made_again_and_what_has_is(tmp_path: Path) -> None:
    first = writer(tmp_path / "one.mp4", 12)
    for n in first.missing():
        first.put(n, grey(n))
    first.finish()
    again = writer(tmp_path / "two.mp4", 12)
    assert list(again.missing()) == []
    again.finish()
    assert (tmp_path / "two.mp4").read_bytes() == (tmp_path / "one.mp4").read_bytes()
    assert list(writer(tmp_path / "three.mp4", 12, "b").missing()) == list(range(12))


def test_kept_stretches_are_bounded_and_those_used_longest_ago_go(tmp_path: Path) -> None:
    kept = KeptFiles(tmp_path / "kept", most=250)
    paths = [kept.path(name, ".mp4") for name in "abc"]
    for age, path in enumerate(paths):
        path.write_bytes(bytes(100))
        os.utime(path, (1000 + age, 1000 + age))
    assert kept.used(paths[0])
    assert not kept.used(kept.path("d", ".mp4"))
    assert kept.size == 300
    kept.trim()
    assert [path.exists() for path in paths] == [True, False, True]
    kept.trim(0)
    assert kept.size == 0
