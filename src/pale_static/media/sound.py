"""Sound in and out: samples of any file by number, and sound written into films."""

from __future__ import annotations

import io
import wave
from collections.abc import Iterator
from fractions import Fraction
from functools import lru_cache
from pathlib import Path
from threading import Lock
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

from ..core.faults import Unreadable
from ..core.sound import SOUND_RATE, Mixed, Samples
from .decoding import pixel_cache

CHUNK = 10 * SOUND_RATE
"""Samples that are decoded at once."""
LEAD = Fraction(1, 4)
"""Seconds decoded before the wanted samples, because decoders start with silence."""
JUMP = SOUND_RATE // 100
"""Samples by which times in a file may be rounded; a larger difference means missing sound."""
PEAKS = 50
"""Peaks a second."""
LOSSY_BIT_RATE = 192_000
SAMPLE_FORMATS = {"aac": "fltp", "libopus": "flt", "flac": "s32", "pcm_s24le": "s32"}
"""The sample format of each encoder."""
ANY_BLOCK = 1024
MOST_24 = (1 << 23) - 1
MOST_SECONDS = 6 * 3600


def opened(path: Path) -> Any:
    """An open container; the caller closes it.

    Raises
    ------
    Unreadable
    """
    try:
        return av.open(str(path))
    except (av.FFmpegError, OSError, ValueError) as fault:
        raise Unreadable(f"The sound of {path.name} cannot be read.") from fault


class SoundFile:
    """The sound of a file as 48 kHz stereo. Mono is the same on both sides. Safe from several
    threads.

    Parts that cannot be decoded are silent; ``damaged`` becomes true when one is found.

    Raises
    ------
    Unreadable
        If the file cannot be read. Use :func:`shared_sound` for a file that may have no sound.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self.damaged = False
        self._lock = Lock()
        self._chunks = pixel_cache()
        with opened(path) as container:
            stream = container.streams.audio[0]
            layout = getattr(stream.codec_context, "layout", None)
            self._mono = layout is not None and layout.nb_channels == 1
            self._told = stream.duration and stream.time_base and stream.duration * stream.time_base
            seconds = self._told or Fraction(container.duration or 0, av.time_base)
            self.length = round(min(seconds, MOST_SECONDS) * SOUND_RATE)

    def samples(self, first: int, count: int) -> Samples:
        """Samples from ``first`` on, (count, 2), float32; silence outside the file."""
        out = np.zeros((count, 2), np.float32)
        a, b = max(first, 0), min(first + count, self.length)
        for number in range(a // CHUNK, -(-b // CHUNK) if b > a else a // CHUNK):
            chunk, start = self._chunk(number), number * CHUNK
            low, high = max(a, start), min(b, start + CHUNK)
            out[low - first : high - first] = chunk[low - start : high - start]
        return out

    def _chunk(self, number: int) -> NDArray[Any]:
        held = self._chunks.get(number)
        if held is None:
            with self._lock:
                held = self._decoded(number * CHUNK)
            self._chunks.put(number, held)
        return held

    def _decoded(self, first: int) -> Samples:
        """The chunk that begins at a sample, with silence where the file has no sound."""
        out = np.zeros((CHUNK, 2), np.float32)
        try:
            with opened(self.path) as container:
                stream = container.streams.audio[0]
                if first:
                    wanted = Fraction(first, SOUND_RATE) - LEAD
                    container.seek(int(wanted * av.time_base), backward=True)
                end = 0
                for at, planes in self._pieces(container, stream):
                    if at >= first + CHUNK:
                        break
                    _lay(out, planes, at, first)
                    end = at + planes.shape[1]
                if self._told and end < min(self.length, first + CHUNK) - SOUND_RATE // 4:
                    self.damaged = True
        except (av.FFmpegError, OSError, Unreadable):
            self.damaged = True
        return out

    def _pieces(self, container: Any, stream: Any) -> Iterator[tuple[int, NDArray[Any]]]:
        """Resampled pieces (channels, n) of a stream, each with its first sample's number."""
        layout = "mono" if self._mono else "stereo"
        resampler, at, due = None, 0, 0
        for frame in self._frames(container, stream):
            if frame.pts is None:
                continue
            start = round(frame.pts * frame.time_base * SOUND_RATE)
            if resampler is None or abs(start - due) > JUMP:
                # A gap in the stream: later samples keep their own time.
                for planes in _resampled(resampler, None):
                    yield at, planes
                    at += planes.shape[1]
                resampler = av.AudioResampler(format="fltp", layout=layout, rate=SOUND_RATE)
                at = start
            due = start + frame.samples * SOUND_RATE // frame.sample_rate
            for planes in _resampled(resampler, frame):
                yield at, planes
                at += planes.shape[1]
        for planes in _resampled(resampler, None):
            yield at, planes

    def _frames(self, container: Any, stream: Any) -> Iterator[Any]:
        """The frames of a stream, without those that are damaged."""
        for packet in container.demux(stream):
            try:
                yield from packet.decode()
            except av.error.InvalidDataError:
                self.damaged = True

    def peaks(self) -> bytes:
        """The loudest sample of every fiftieth of a second, 0 to 255."""
        step = SOUND_RATE // PEAKS
        found = []
        for first in range(0, self.length, CHUNK):
            loud = np.abs(self.samples(first, CHUNK)).max(1).reshape(-1, step).max(1)
            found.append(np.round(np.clip(loud, 0, 1) * 255).astype(np.uint8))
        whole = np.concatenate(found) if found else np.zeros(0, np.uint8)
        return whole[: -(-self.length // step)].tobytes()


def _resampled(resampler: Any, frame: Any) -> list[NDArray[Any]]:
    """Resampled pieces (channels, n) of a frame; with None the rest at the end."""
    return [made.to_ndarray() for made in resampler.resample(frame)] if resampler else []


def _lay(out: Samples, planes: NDArray[Any], at: int, first: int) -> None:
    """Put decoded samples (channels, n) at their place."""
    low, high = max(at, first), min(at + planes.shape[1], first + len(out))
    if low < high:
        out[low - first : high - first] = planes[:, low - at : high - at].T


@lru_cache(maxsize=256)
def shared_sound(path: Path, identity: str) -> SoundFile | None:
    """The sound of a file, opened once for all callers; None for a file without sound.

    Raises
    ------
    Unreadable
        A fault is not cached: if the file comes back, it is read again.
    """
    with opened(path) as container:
        if not container.streams.audio:
            return None
    return SoundFile(path)


@lru_cache(maxsize=256)
def peaks_of(path: Path, identity: str) -> bytes:
    """The peaks of a file; empty for one without sound."""
    sound = shared_sound(path, identity)
    return sound.peaks() if sound else b""


def wav(samples: Samples) -> bytes:
    """Samples as a WAV file of 16 bits."""
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(2)
        file.setsampwidth(2)
        file.setframerate(SOUND_RATE)
        file.writeframes(np.round(np.clip(samples, -1, 1) * 32767).astype("<i2").tobytes())
    return out.getvalue()


class SoundTrack:
    """Writes sound into a film beside its pictures.

    Parameters
    ----------
    encoder : str
        FFmpeg's name of an encoder: ``aac``, ``libopus``, ``flac`` or ``pcm_s24le``.
    """

    def __init__(self, container: Any, mixed: Mixed, total: int, encoder: str = "aac") -> None:
        self._container, self._mixed, self.total = container, mixed, total
        self._stream = container.add_stream(encoder, rate=SOUND_RATE, layout="stereo")
        if encoder in ("aac", "libopus"):
            self._stream.bit_rate = LOSSY_BIT_RATE
        context = self._stream.codec_context
        context.format = SAMPLE_FORMATS[encoder]
        self._deep = SAMPLE_FORMATS[encoder] == "s32"
        context.open()
        self._block = context.frame_size or ANY_BLOCK
        self._at = 0

    def write(self, upto: int) -> None:
        """Write all sound before a sample, so that pictures and sound are interleaved."""
        while self._at < min(upto, self.total):
            count = min(self._block, self.total - self._at)
            samples = self._mixed(self._at, count)
            frame = self._frame(samples)
            frame.sample_rate, frame.pts = SOUND_RATE, self._at
            frame.time_base = Fraction(1, SOUND_RATE)
            self._mux(frame)
            self._at += count

    def _frame(self, samples: Samples) -> Any:
        if self._deep:
            # 24 bits in the upper part of 32, as these encoders expect.
            codes = np.round(np.clip(samples, -1, 1) * MOST_24).astype(np.int32) << 8
            return av.AudioFrame.from_ndarray(codes.reshape(1, -1), format="s32", layout="stereo")
        planar = self._stream.codec_context.format.name == "fltp"
        laid = np.ascontiguousarray(samples.T) if planar else samples.reshape(1, -1)
        form = "fltp" if planar else "flt"
        return av.AudioFrame.from_ndarray(laid, format=form, layout="stereo")

    def finish(self) -> None:
        """Write the rest."""
        self.write(self.total)
        self._mux(None)

    def _mux(self, frame: Any) -> None:
        for packet in self._stream.encode(frame):
            self._container.mux(packet)


def in_blocks(mixed: Mixed, block: int = SOUND_RATE) -> Mixed:
    """A function that mixes a second of samples at a time, and returns smaller pieces in order."""
    held: list[tuple[int, Samples]] = []

    def piece(first: int, count: int) -> Samples:
        if not held or not held[0][0] <= first < held[0][0] + len(held[0][1]):
            held[:] = [(first, mixed(first, max(block, count)))]
        start, samples = held[0]
        part = samples[first - start : first - start + count]
        if len(part) < count:
            part = np.concatenate([part, mixed(first + len(part), count - len(part))])
        return part

    return piece
