"""Write a film as short files that are joined at the end. A stopped render continues, and finished
stretches are not made again."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import av
from numpy.typing import NDArray

from ...core.faults import Fault
from ...core.pictures.picture import Size
from ...core.sound import Mixed, samples_of
from ...core.time.timing import FrameRate
from ..formats import Encoding
from ..kept_files import KeptFiles
from ..runs import STRETCH
from ..sound import SoundTrack, in_blocks
from .film_writer import FilmWriter, no_room, opened

MOST_KEPT = 4 << 30
"""Bytes of stretches that are kept for later renders; the ones used longest ago are deleted
first."""

KeyOf = Callable[[int, int], str]
"""Names the content of a stretch of frames by its first frame and their count."""
Copy = Callable[[int, int, Path], bool]
"""Writes a stretch to a file by copying its source; returns whether that was possible."""


def sizes_of(file: Path) -> tuple[Size, int]:
    """The picture size and the number of frames of a film, without decoding it.

    Raises
    ------
    Fault
        If it cannot be read.
    """
    try:
        with av.open(str(file)) as film:
            stream = film.streams.video[0]
            size = Size(stream.width, stream.height)
            return size, sum(1 for packet in film.demux(stream) if packet.size)
    except (av.FFmpegError, OSError, ValueError, IndexError) as fault:
        raise Fault(f"A stretch came as a file that cannot be read: {fault}.") from fault


class SegmentedFilm:
    """A film written in stretches (short files) that are joined without encoding again.

    Parameters
    ----------
    path : Path
        The film.
    total : int
        Frames of the film.
    key_of : function
        Names the content of a stretch.
    sound : function, optional
        Gives the samples of the film's sound, from a first one on.
    copy : function, optional
        Copies a stretch that equals its source.
    """

    def __init__(
        self, path: Path, encoding: Encoding, size: Size, rate: FrameRate, total: int,
        stretches: KeptFiles, key_of: KeyOf, stretch: int = STRETCH, sound: Mixed | None = None,
        copy: Copy | None = None,
    ) -> None:  # fmt: skip
        self._copy = copy
        self.path, self._encoding, self._sound = path, encoding, sound
        self._size, self._rate, self._total, self._stretch = size, rate, total, stretch
        self._stretches, self._key_of = stretches, key_of
        self._files: dict[int, Path] = {}
        self._writer: FilmWriter | None = None

    def _file(self, first: int) -> Path:
        if first not in self._files:
            key = self._key_of(first, min(self._stretch, self._total - first))
            self._files[first] = self._stretches.path(key, self._encoding.format.ending)
        return self._files[first]

    def wanted(self) -> Iterator[tuple[int, int]]:
        """The stretches that are not complete, in order: the first frame and the count of each."""
        for first in range(0, self._total, self._stretch):
            path, count = self._file(first), min(self._stretch, self._total - first)
            if self._stretches.used(path):
                continue
            if self._copy is None or not self._copy(first, count, path):
                yield first, count

    def missing(self) -> Iterator[int]:
        """The numbers of frames that are in no complete stretch, in order."""
        for first, count in self.wanted():
            yield from range(first, first + count)

    def take(self, first: int, count: int, file: Path) -> None:
        """Take a finished stretch from a file, which is moved.

        Raises
        ------
        Fault
            If the file is not a film of this size with that number of frames.
        """
        told = sizes_of(file)
        if told != (self._size, count):
            size, frames = told
            raise Fault(
                f"A stretch of {count} frames, {self._size.shown}, came as {frames} frames, "
                f"{size.shown}."
            )
        file.replace(self._file(first))

    def put(self, index: int, pixels: NDArray[Any]) -> None:
        """Take a prepared frame; frames of a stretch come in order."""
        within = index % self._stretch
        if self._writer is None:
            self._writer = FilmWriter(
                self._file(index - within), self._encoding, self._size, self._rate
            )
        self._writer.put(within, pixels)
        if within + 1 == self._stretch or index + 1 == self._total:
            self._writer.finish()
            self._writer = None

    def finish(self) -> list[Path]:
        """Join the stretches, and keep them for later renders within the limit."""
        part = self.path.with_name(f".{self.path.name}.part")
        try:
            self._join(part)
            part.replace(self.path)
        except OSError as fault:
            part.unlink(missing_ok=True)
            raise no_room(self.path, fault) from fault
        self._stretches.trim()
        return [self.path]

    def _join(self, part: Path) -> None:
        form = self._encoding.format
        with opened(part, form) as film:
            out, track = None, None
            for first in range(0, self._total, self._stretch):
                with av.open(str(self._file(first))) as stretch:
                    stream = stretch.streams.video[0]
                    if out is None:
                        # Packets are copied, so the encoder is not needed.
                        out = film.add_stream_from_template(stream, opaque=True)
                        out.metadata.update(stream.metadata)
                        if self._sound is not None:
                            total = samples_of(self._total, self._rate.exact)
                            track = SoundTrack(film, in_blocks(self._sound), total, form.sound)
                    assert stream.time_base is not None
                    frame = 1 / self._rate.exact / stream.time_base
                    packets = [one for one in stretch.demux(stream) if one.dts is not None]
                    if first == 0:
                        early = packets[0].dts or 0
                    for number, packet in enumerate(packets, first):
                        # Computed from the frame's number, because the clocks of some containers
                        # are coarse.
                        shown = round((packet.pts or 0) / frame)
                        packet.pts = round((first + shown) * frame)
                        # All stretches use one frame of reordering; otherwise a short last stretch,
                        # which reorders less, would begin later.
                        packet.dts = min(early + round(number * frame), packet.pts)
                        packet.stream = out
                        if track is not None:
                            track.write(samples_of(number, self._rate.exact))
                        film.mux(packet)
            if track is not None:
                track.finish()

    def abandon(self) -> None:
        """Remove the stretch that is being written; earlier ones stay."""
        if self._writer is not None:
            self._writer.abandon()
            self._writer = None
