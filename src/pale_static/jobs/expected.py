"""What a render will take: the size of its file and its time, for each quality, from a few frames."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import av

from ..core.frames.source import FrameSource
from ..media.films.film_writer import KEY_EVERY
from ..media.formats import Encoding, Format
from ..media.writing import indices_of, open_writer
from .films import maker_of

PLACES, EACH = 12, 3
LEAST, LONG = 4, 1.5
"""A slow encoder writes at least this many places, and no more after this many seconds."""
"""Places of the film that are tried, and neighbouring frames at each."""
ENCODED_BESIDE = 0.5
"""The share of the encoder's time by which a render takes longer than computing its frames: it
encodes while it computes, on the same cores (measured on two)."""
SOUND_BYTES: Mapping[str, int] = {
    "aac": 16_000, "libopus": 12_000, "pcm_s24le": 288_000, "flac": 150_000,
}  # fmt: skip
"""Bytes of a second of stereo sound at 48 kHz, about, by FFmpeg's name of its encoder."""


@dataclass(frozen=True)
class Expected:
    """What a render takes.

    Parameters
    ----------
    quality : str
        A word for a quality of the format; empty for a format without one.
    bytes : int
        Bytes of the file, or of all pictures together.
    seconds : float
        Seconds on this machine.
    """

    quality: str
    bytes: int
    seconds: float


def expected(source: FrameSource, form: Format, first: int, total: int) -> Iterator[Expected]:
    """What frames ``first`` to ``first + total - 1`` of a source take in a format, by quality.

    A few frames are computed and written in each quality. Sizes of key frames and of others are
    counted apart. Films whose parts differ much take more or less than this.
    """
    every = indices_of(form, first, total)
    places = [every[len(every) * (2 * k + 1) // (2 * PLACES)] for k in range(PLACES)]
    runs = [
        [index for index in range(place, place + EACH) if index <= every[-1]]
        for place in dict.fromkeys(places)
    ]
    make = maker_of(source, form)
    frames: list[list[Any]] = []
    times: list[float] = []
    for run in runs:
        frames.append([])
        for index in run:
            began = time.perf_counter()
            frames[-1].append(make(index).copy())
            # The first frame of a run opens its clips and seeks in them.
            if len(frames[-1]) > 1 or len(run) == 1:
                times.append(time.perf_counter() - began)
    computed = sum(times) / len(times)
    sound = source.sound() is not None and form.sound
    heard = SOUND_BYTES.get(form.sound, 0) * len(every) / float(source.rate.exact) if sound else 0
    words = list(form.quality.words.items()) if form.quality else [("", None)]
    for word, number in words:
        encoding = Encoding(form, number)
        with tempfile.TemporaryDirectory() as folder:
            key, other, spent = _written(Path(folder), encoding, source, frames)
        keys = -(-len(every) // KEY_EVERY)
        size = keys * key + (len(every) - keys) * other
        seconds = len(every) * (computed + ENCODED_BESIDE * spent)
        yield Expected(word, round(size + heard), seconds)


def _written(
    folder: Path, encoding: Encoding, source: FrameSource, runs: list[list[Any]]
) -> tuple[float, float, float]:
    """Bytes of a key frame and of another frame, and the seconds that one takes to encode."""
    keys: list[int] = []
    others: list[int] = []
    spent, count, form = 0.0, 0, encoding.format
    # Places that lie apart come first.
    order = [run for first in range(LEAST) for run in runs[first::LEAST]]
    for number, frames in enumerate(order):
        if number >= LEAST and spent > LONG:
            break
        count += len(frames)
        name = f"{number}-%09d{form.ending}" if form.numbered else f"{number}{form.ending}"
        began = time.perf_counter()
        writer = open_writer(folder / name, encoding, source.size, source.rate, len(frames))
        for index, pixels in enumerate(frames):
            writer.put(index, pixels)
        files = writer.finish()
        spent += time.perf_counter() - began
        if form.shape == "film":
            with av.open(str(files[0])) as film:
                for packet in film.demux(video=0):
                    if not packet.size:
                        continue  # the end of the stream
                    (keys if packet.is_keyframe else others).append(packet.size)
        else:
            whole = sum(file.stat().st_size for file in files)
            others += [whole // len(frames)] * len(frames)
    key, other = (sum(sizes) / max(1, len(sizes)) for sizes in (keys, others))
    if not keys or not others:  # every frame is like the others
        key = other = key or other
    return key, other, spent / count
