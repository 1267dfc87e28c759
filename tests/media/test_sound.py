"""Sound in real files: decoded exactly to the sample, written beside pictures, in sync with
them."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest

from pale_static.core import FrameRate, Size
from pale_static.core.faults import Unreadable
from pale_static.core.sound import SOUND_RATE
from pale_static.media.films.stretches import SegmentedFilm
from pale_static.media.formats import Encoding, format_of
from pale_static.media.kept_files import KeptFiles
from pale_static.media.sound import CHUNK, PEAKS, SoundFile, SoundTrack, shared_sound

from ..conftest import write_clip

RATE = FrameRate.of(25)


def write_sound(path: Path, samples: Any, rate: int = SOUND_RATE, codec: str = "pcm_s16le") -> Path:
    """Samples (n,) or (n, 2) as the sound of a Matroska file, written by PyAV."""
    stereo = samples.ndim == 2
    planes = samples.T if stereo else samples[None]
    layout = "stereo" if stereo else "mono"
    with av.open(str(path), "w", format="matroska") as file:
        stream: Any = file.add_stream(codec, rate=rate, layout=layout)
        for first in range(0, planes.shape[1], 1024):
            piece = np.ascontiguousarray(planes[:, first : first + 1024].astype(np.float32))
            frame = av.AudioFrame.from_ndarray(piece, format="fltp", layout=layout)
            frame.sample_rate, frame.pts = rate, first
            frame.time_base = Fraction(1, rate)
            for packet in stream.encode(frame):
                file.mux(packet)
        for packet in stream.encode(None):
            file.mux(packet)
    return path


def test_samples_are_where_they_are_in_the_file(tmp_path: Path) -> None:
    count = CHUNK + SOUND_RATE
    line = np.random.default_rng(1).uniform(-0.5, 0.5, (count, 2))
    sound = SoundFile(write_sound(tmp_path / "a.mkv", line))
    assert abs(sound.length - count) <= SOUND_RATE // 500
    # Source: PyAV's PCM is exact to 16 bits. Also across the border of two chunks.
    for first in (0, 12_345, CHUNK - 500):
        found = sound.samples(first, 1000)
        np.testing.assert_allclose(found, line[first : first + 1000], atol=1 / 32767)
    assert not sound.samples(-500, 400).any()
    assert not sound.samples(count + 9600, 100).any()


def test_mono_is_heard_on_both_sides_alike_and_as_loud(tmp_path: Path) -> None:
    line = 0.4 * np.sin(np.arange(SOUND_RATE) / 10)
    found = SoundFile(write_sound(tmp_path / "m.mkv", line)).samples(1000, 4000)
    np.testing.assert_array_equal(found[:, 0], found[:, 1])
    np.testing.assert_allclose(found[:, 0], line[1000:5000], atol=1 / 32767)


def test_another_sample_rate_keeps_time_and_pitch(tmp_path: Path) -> None:
    line = np.repeat(0.4 * np.sin(2 * np.pi * 440 * np.arange(3 * 44100) / 44100)[:, None], 2, 1)
    sound = SoundFile(write_sound(tmp_path / "b.mkv", line, rate=44100))
    found = sound.samples(SOUND_RATE, SOUND_RATE)[:, 0]
    assert np.abs(np.fft.rfft(found)).argmax() == 440
    assert abs(sound.length - 3 * SOUND_RATE) <= SOUND_RATE // 100


def test_peaks_say_how_loud_each_fiftieth_is(tmp_path: Path) -> None:
    line = np.zeros((2 * SOUND_RATE, 2))
    line[SOUND_RATE : SOUND_RATE + 100] = 0.8
    peaks = SoundFile(write_sound(tmp_path / "p.mkv", line)).peaks()
    assert len(peaks) == 2 * PEAKS
    assert peaks[PEAKS] == pytest.approx(204, abs=1)
    assert max(peaks[:PEAKS]) == 0


def test_a_film_may_have_no_sound_and_a_broken_file_is_refused(tmp_path: Path) -> None:
    clip = write_clip(tmp_path / "plain.mp4")
    assert shared_sound(clip, "plain") is None
    broken = tmp_path / "broken.mp4"
    broken.write_bytes(b"nothing of the kind")
    with pytest.raises(Unreadable, match=r"The sound of broken\.mp4 cannot be read"):
        shared_sound(broken, "broken")
    # When the file is complete again, it is read.
    write_sound(tmp_path / "whole.mkv", np.full((9000, 2), 0.25)).replace(broken)
    assert shared_sound(broken, "broken") is not None


def test_damage_is_silent_and_told_and_the_rest_is_heard(tmp_path: Path) -> None:
    noise = np.random.default_rng(1).uniform(-0.5, 0.5, (96_000, 2))
    path = write_sound(tmp_path / "d.mkv", noise, codec="flac")
    whole = SoundFile(path)
    before = whole.samples(0, 96_000)
    assert not whole.damaged
    data = bytearray(path.read_bytes())
    middle = len(data) // 2
    data[middle : middle + 200] = bytes(200)
    path.write_bytes(data)
    hurt = SoundFile(path)
    found = hurt.samples(0, 96_000)
    assert hurt.damaged
    lost = np.flatnonzero((found == 0).all(1))
    assert 1000 < len(lost) < 10_000
    kept = np.setdiff1d(np.arange(96_000), lost)
    np.testing.assert_array_equal(found[kept], before[kept])


def test_a_film_that_was_cut_off_is_told(tmp_path: Path) -> None:
    path = tmp_path / "c.mp4"
    with av.open(str(path), "w", format="mp4", options={"movflags": "faststart"}) as film:
        track = SoundTrack(film, clicks, 5 * SOUND_RATE)
        track.finish()
    assert SoundFile(path).peaks()[4 * PEAKS] > 100
    path.write_bytes(path.read_bytes()[: path.stat().st_size * 4 // 5])
    short = SoundFile(path)
    peaks = short.peaks()
    assert (peaks[PEAKS] > 100, peaks[4 * PEAKS]) == (True, 0)
    assert short.damaged


def clicks(first: int, count: int) -> Any:
    """A click at the beginning of every second."""
    at = np.arange(first, first + count)
    line = np.where(at % SOUND_RATE < 48, 0.9, 0.0) * np.where(at % 2, 1, -1)
    return np.repeat(line[:, None], 2, 1).astype(np.float32)


def flashes(n: int) -> Any:
    """White at the beginning of every second, else black."""
    return np.full((36, 64, 3), 255 if n % 25 == 0 else 0, np.uint8)


def read(path: Path) -> tuple[list[float], Any, list[float]]:
    """Times of white frames, decoded samples, and times of all frames, by PyAV."""
    white, times, sound = [], [], []
    with av.open(str(path)) as film:
        for frame in film.decode(video=0):
            assert frame.time is not None
            times.append(frame.time)
            if frame.to_ndarray(format="gray").mean() > 128:
                white.append(frame.time)
    with av.open(str(path)) as film:
        for piece in film.decode(audio=0):
            assert piece.time is not None
            sound.append((piece.time, piece.to_ndarray()))
    count = max(round(time * SOUND_RATE) + planes.shape[1] for time, planes in sound)
    line = np.zeros(count)
    for time, planes in sound:
        at = round(time * SOUND_RATE)
        if at >= 0:
            line[at : at + planes.shape[1]] = planes[0]
    return white, line, times


@pytest.mark.parametrize("stretch", [250, 40])
def test_a_click_and_a_flash_are_at_one_moment_in_a_film(tmp_path: Path, stretch: int) -> None:
    path, total = tmp_path / "film.mp4", 110
    writer = SegmentedFilm(
        path, Encoding(format_of("mp4")), Size(64, 36), RATE, total, KeptFiles(tmp_path / "kept", 1 << 30),
        lambda first, count: f"{first}-{count}", stretch, sound=clicks,
    )  # fmt: skip
    for n in writer.missing():
        writer.put(n, flashes(n))
    writer.finish()
    white, line, times = read(path)
    assert len(times) == total
    assert white == pytest.approx([0, 1, 2, 3, 4], abs=0.001)
    loud = np.flatnonzero(np.abs(line) > 0.3)
    starts = loud[np.insert(np.diff(loud) > SOUND_RATE // 10, 0, True)] / SOUND_RATE
    # Within half a frame of each other: 20 ms.
    np.testing.assert_allclose(starts, white, atol=0.02)
    # Picture and sound have the same length, to within a frame of the encoder (1,024 samples).
    assert abs(len(line) - round(total / 25 * SOUND_RATE)) <= 1024
