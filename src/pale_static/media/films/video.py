"""Video in: exact frames of any file, by number."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import deque
from collections.abc import Iterator
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from threading import Lock
from typing import Any

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from ...core.faults import Missing, Unreadable
from ...core.pictures.lookup import LookupTable
from ...core.pictures.picture import Size
from ...core.time.timing import FrameRate
from ..decoding import pixel_cache, threads
from ..facts import Facts, file_identity
from ..reading import (
    AS_TOLD,
    MATRIX_CODES,
    PRIMARIES_CODES,
    TRANSFER_CODES,
    Colour,
    Reading,
    matrix_of,
    one_field,
    shown,
)
from .planes import coding_of, pixels_of

_DECODER_FRAMES = 12
_DECODER_LEAST = 8 << 20
"""The least bytes that an open file counts for, so that not too many are open at once."""
FULL_RANGE = 2
"""FFmpeg's number for full range."""
ALPHA_DECODERS = {"vp8": "libvpx", "vp9": "libvpx-vp9"}
CHROMA = {(0, 0): "4:4:4", (1, 0): "4:2:2", (1, 1): "4:2:0", (0, 1): "4:4:0"}
KEPT_BEHIND = 3
"""The most frames kept of those decoded on the way to the wanted frame."""


class VideoFootage:
    """Frames of a video file at a constant rate; open until closed. Safe from several threads.

    A file with varying frame rate is resolved to its average rate: frame n is the file's frame at
    n/rate seconds. Rotation, pixel shape and colour tags are honoured, unless ``reading`` replaces
    them.
    """

    def __init__(
        self, path: Path, identity: str | None = None, name: str | None = None,
        reading: Reading = AS_TOLD, table: LookupTable | None = None,
    ) -> None:  # fmt: skip
        self.path, self._reading, self._table = path, reading, table
        self.name = name or path.name
        self.identity = (identity or file_identity(path)) + reading.mark()
        self._lock = Lock()
        self._at: int | None = None
        try:
            self._container = av.open(str(path))
        except FileNotFoundError:
            raise Missing(f"{self.name} is gone from its place. Bring it in again.") from None
        except (av.FFmpegError, OSError, ValueError) as fault:
            raise Unreadable(f"{self.name} cannot be read as a video.") from fault
        if not self._container.streams.video:
            raise Unreadable(f"{self.name} holds no picture, only sound or data.")
        self._stream = self._container.streams.video[0]
        self._stream.thread_type = "AUTO"
        if threads():
            self._stream.codec_context.thread_count = threads()
        self._index()
        # FFmpeg's own decoder of VP8 and VP9 leaves alpha out.
        tags = {name.lower(): value for name, value in self._stream.metadata.items()}
        clear = tags.get("alpha_mode") == "1"
        name = ALPHA_DECODERS.get(self._stream.codec_context.name) if clear else None
        self._decoder: Any = av.CodecContext.create(name, "r") if name else None
        first = self._decoded_at(0)
        self.bits = 16 if _deep(first) else 8
        self.alpha = any(part.is_alpha for part in first.format.components)
        self._told(first)
        pixels = self._pixels(first)
        self._size = Size(pixels.shape[1], pixels.shape[0])
        self._cache = pixel_cache()
        self._keep(0, pixels)

    def _index(self) -> None:
        """Times of all frames, from the packets alone."""
        base = self._stream.time_base
        assert base is not None
        try:
            packets = [
                (packet.pts, packet.is_keyframe)
                for packet in self._container.demux(self._stream)
                if packet.pts is not None and not packet.is_discard
            ]
        except av.FFmpegError as fault:
            raise Unreadable(f"{self.name} is damaged and cannot be read.") from fault
        times = sorted(pts for pts, _ in packets)
        self._keys = sorted(pts for pts, key in packets if key)
        if not times:
            raise Unreadable(f"{self.name} has no frames: its length is zero.")
        self._pts = times
        gaps = {b - a for a, b in pairwise(times)}
        mean = None
        if len(times) > 1 and times[-1] > times[0]:
            mean = Fraction(len(times) - 1) / ((times[-1] - times[0]) * base)
        told = self._stream.average_rate or self._stream.guessed_rate
        # Rounded container clocks make gaps differ by one tick; that does not count as a varying
        # rate.
        self.varying = bool(gaps) and max(gaps) - min(gaps) > max(1, 0.002 / base)
        if told is None or (mean is not None and abs(mean - told) > told / 50):
            told = (mean or Fraction(25)).limit_denominator(1000)
        try:
            self._rate = FrameRate.of(told)
        except Exception:
            self._rate = FrameRate.of(25)
        if self.varying:
            span = (times[-1] - times[0]) * base
            self._length = max(1, round(span * self._rate.exact) + 1)
        else:
            self._length = len(times)

    def _told(self, first: av.VideoFrame) -> None:
        """Store the file's tags of colour and field order."""
        coding = coding_of(first.format.name)
        chroma = "" if coding is None else CHROMA.get(coding.shifts, "")
        full = self._colour_of(first) == "full"
        self.colour = Colour(
            matrix=MATRIX_CODES.get(first.colorspace, "") if coding else "",
            range="full" if full else "video" if first.color_range else "",
            transfer=TRANSFER_CODES.get(first.color_trc, ""),
            primaries=PRIMARIES_CODES.get(first.color_primaries, ""),
            chroma=chroma or ("RGB" if first.format.is_rgb else ""),
        )
        self.interlaced = first.interlaced_frame
        aspect = self._stream.sample_aspect_ratio
        self.pixel_aspect = aspect if aspect and aspect != 1 and 0.1 < aspect < 10 else None

    @property
    def size(self) -> Size:
        return self._size

    @property
    def rate(self) -> FrameRate:
        return self._rate

    @property
    def length(self) -> int:
        return self._length

    def facts(self) -> Facts:
        """The facts of the file."""
        problems = []
        if self.varying:
            problems.append(
                f"Varying frame rate: shown at its average, {float(self._rate):.5g} a second."
            )
        if self._size.width % 2 or self._size.height % 2:
            problems.append("Odd width or height: most video formats need even ones.")
        reading = self._reading
        if self.interlaced:
            problems.append(
                f"Interlaced: its {reading.field} field is shown, with the lines between filled in."
                if reading.field
                else "Interlaced: moving edges show combs. Show one field to avoid them."
            )
        if self.pixel_aspect:
            problems.append(
                f"Its pixels are {float(self.pixel_aspect):.4g} times as wide as high: "
                "it is widened to square ones."
            )
        curve = reading.transfer or self.colour.transfer
        if curve in ("PQ", "HLG"):
            problems.append(
                f"High dynamic range ({curve}): shown as Rec. 709, with 203 cd/m² as white; "
                f"brighter parts are kept above white."
            )
        return Facts(
            kind="video",
            width=self._size.width,
            height=self._size.height,
            rate=str(self._rate),
            frames=self._length,
            seconds=float(self._length / self._rate.exact),
            alpha=self.alpha,
            bits=self.bits,
            coding=self._stream.codec_context.name,
            colour=self.colour,
            interlaced=self.interlaced,
            pixel_aspect=str(self.pixel_aspect or ""),
            sound=self._sound(),
            timecode=self._timecode(),
            problems=tuple(problems),
        )

    def _timecode(self) -> str:
        for tags in (self._stream.metadata, self._container.metadata):
            for name, value in tags.items():
                if name.lower() == "timecode":
                    return value[:16]
        return ""

    def _sound(self) -> str:
        if not self._container.streams.audio:
            return ""
        context = self._container.streams.audio[0].codec_context
        layout = getattr(context, "layout", None)
        if layout is None or not context.sample_rate:
            return ""  # it states no channels, so it has no sound
        count = layout.nb_channels
        channels = {1: "mono", 2: "stereo"}.get(count, f"{count} channels")
        return f"{context.name}, {context.sample_rate / 1000:g} kHz, {channels}"

    def pixels(self, index: int) -> NDArray[Any]:
        """Frame ``index``, straight RGB or RGBA, 8 or 16 bits."""
        with self._lock:
            source = self._source_index(index)
            held = self._cache.get(source)
            if held is not None:
                return held
            pixels = self._pixels(self._decoded_at(source))
            self._keep(source, pixels)
            return pixels

    def _source_index(self, index: int) -> int:
        if not self.varying:
            return min(max(index, 0), len(self._pts) - 1)
        assert self._stream.time_base is not None
        time = self._pts[0] + Fraction(index) / self._rate.exact / self._stream.time_base
        return max(0, bisect_right(self._pts, time) - 1)

    def _decoded_at(self, source: int) -> av.VideoFrame:
        """Decode one frame; continue from the decoder's position if it is just before that
        frame."""
        wanted = self._pts[source]
        at = self._at
        try:
            # Decoding on costs the frames in between; seeking costs those since the last key frame.
            key = bisect_right(self._keys, wanted)
            passed = at is not None and bisect_right(self._keys, self._pts[at]) == key
            behind: deque[av.VideoFrame] = deque(maxlen=KEPT_BEHIND)
            if at is None or source <= at or not passed:
                self._container.seek(wanted, stream=self._stream, backward=True)
                self._frames = self._decoding()
            for frame in self._frames:
                if frame.pts is None:
                    continue
                if frame.pts >= wanted:
                    self._at = source
                    for other in behind:
                        self._keep_passed(other)
                    return frame
                behind.append(frame)
        except (av.FFmpegError, OSError) as fault:
            self._at = None
            raise Unreadable(f"{self.name} is damaged at frame {source}.") from fault
        self._at = None
        raise Unreadable(f"{self.name} ends before frame {source}: the file is incomplete.")

    def _decoding(self) -> Iterator[av.VideoFrame]:
        """Frames from the position after a seek."""
        if self._decoder is None:
            yield from self._container.decode(self._stream)
            return
        self._decoder.flush_buffers()
        for packet in self._container.demux(self._stream):
            yield from self._decoder.decode(packet)

    def _keep_passed(self, frame: av.VideoFrame) -> None:
        """Keep a frame that was decoded on the way: players ask for neighbours out of order."""
        assert frame.pts is not None
        source = bisect_left(self._pts, frame.pts)
        if source not in self._cache:
            self._keep(source, self._pixels(frame))

    def _pixels(self, frame: av.VideoFrame) -> NDArray[Any]:
        reading, colour = self._reading, self._colour_of(frame)
        full = (reading.range or colour) == "full"
        told = MATRIX_CODES.get(frame.colorspace, "")
        array = pixels_of(frame, matrix_of(told, frame.height, reading), full)
        if reading.field:
            array = one_field(array, reading.field)
        if self.pixel_aspect:
            wide = max(1, round(array.shape[1] * self.pixel_aspect))
            array = cv2.resize(array, (wide, len(array)), interpolation=cv2.INTER_LINEAR)
        curve = TRANSFER_CODES.get(frame.color_trc, "")
        array = shown(array, curve, reading, self._table)
        turns = round(-float(getattr(frame, "rotation", 0) or 0) / 90) % 4
        return np.ascontiguousarray(np.rot90(array, -turns)) if turns else array

    @staticmethod
    def _colour_of(frame: av.VideoFrame) -> str:
        """The range of codes in a frame's tags."""
        full = frame.color_range == FULL_RANGE or frame.format.name.startswith("yuvj")
        return "full" if full else "video"

    def _keep(self, source: int, pixels: NDArray[Any]) -> None:
        pixels.setflags(write=False)
        self._cache.put(source, pixels)

    def close(self) -> None:
        """Close the file."""
        with self._lock:
            self._container.close()
            self._cache.clear()

    @property
    def nbytes(self) -> int:
        """About the memory of its decoder: reference frames, and frames that are being decoded."""
        frames = _DECODER_FRAMES * self._size.width * self._size.height * 3 // 2
        return max(_DECODER_LEAST, frames)


def _deep(frame: av.VideoFrame) -> bool:
    return any(part.bits > 8 for part in frame.format.components)
