"""A film written in stretches: what comes out, and what a stopped render goes on from."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
import pytest

from pale_static.core import FrameRate, Size
from pale_static.core.picture import from_pixels
from pale_static.media.segments import SegmentedVideo, folder_of

SIZE = Size(64, 48)
RATE = FrameRate.of("29.97")


def grey(n: int) -> np.ndarray:
    return from_pixels(np.full((SIZE.height, SIZE.width, 3), 20 + 9 * n, np.uint8))


def writer(path: Path, total: int) -> SegmentedVideo:
    return SegmentedVideo(path, SIZE, RATE, total, stretch=5)


@pytest.mark.parametrize("total", [1, 4, 5, 6, 10, 17])
def test_the_film_has_every_frame_once_at_its_time(tmp_path: Path, total: int) -> None:
    film = writer(tmp_path / "film.mp4", total)
    for n in range(total):
        film.add(n, grey(n))
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
    assert not folder_of(tmp_path / "film.mp4").exists()
    assert [one.name for one in tmp_path.iterdir()] == ["film.mp4"]


def test_a_stopped_film_goes_on_after_its_last_whole_stretch(tmp_path: Path) -> None:
    path = tmp_path / "film.mp4"
    film = writer(path, 17)
    assert film.missing() == list(range(17))
    for n in range(13):
        film.add(n, grey(n))
    film.abandon()
    assert not path.exists()
    before = {one: one.stat().st_mtime_ns for one in folder_of(path).iterdir()}
    film = writer(path, 17)
    assert film.missing() == list(range(10, 17))
    for n in film.missing():
        film.add(n, grey(n))
    assert {one: one.stat().st_mtime_ns for one in before} == before
    film.finish()
    with av.open(str(path)) as found:
        seen = [frame.to_ndarray(format="gray").mean() for frame in found.decode(video=0)]
    assert np.allclose(seen, [20 + 9 * n for n in range(17)], atol=3)
