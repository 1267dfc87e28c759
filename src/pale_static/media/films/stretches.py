"""Write a film as short files that are joined at the end. A stopped render continues, and finished
stretches are not made again."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any

import av
from numpy.typing import NDArray

from ...core.pictures.picture import Size
from ...core.sound import Mixed, samples_of
from ...core.time.timing import FrameRate
from ..formats import Encoding
from ..sound import SoundTrack, in_blocks
from .film_writer import FilmWriter, no_room

STRETCH = 100
"""Frames in one short file. A render that is killed loses at most this many."""
MOST_KEPT = 4 << 30
"""Bytes of stretches that are kept for later renders; the ones used longest ago are deleted
first."""

KeyOf = Callable[[int, int], str]
"""Names the content of a stretch of frames by its first frame and their count."""
Copy = Callable[[int, int, Path], bool]
"""Writes a stretch to a file by copying its source; returns whether that was possible."""


class Stretches:
    """A folder of stretches, each named by its content."""

    def __init__(self, folder: Path, most: int = MOST_KEPT) -> None:
        self.folder, self._most = folder, most
        folder.mkdir(exist_ok=True)

    def path(self, key: str, ending: str) -> Path:
        """The path of a stretch, whether it exists or not."""
        return self.folder / f"{key}{ending}"

    def used(self, path: Path) -> bool:
        """Whether a stretch exists; if so, it counts as just used."""
        try:
            os.utime(path)
        except OSError:
            return False
        return True

    @property
    def size(self) -> int:
        """Bytes in the folder."""
        return sum(stat.st_size for _, stat in self._files())

    def _files(self) -> list[tuple[Path, os.stat_result]]:
        files = []
        for path in self.folder.iterdir():
            try:
                files.append((path, path.stat()))
            except OSError:
                continue  # another process has removed it
        return files

    def trim(self, most: int | None = None, but: Sequence[Path] = ()) -> None:
        """Remove the stretches used longest ago until the rest fits."""
        files = sorted(self._files(), key=lambda one: one[1].st_mtime)
        size = sum(stat.st_size for _, stat in files)
        for path, stat in files:
            if size <= (self._most if most is None else most):
                return
            if path not in but:
                path.unlink(missing_ok=True)
                size -= stat.st_size


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
        stretches: Stretches, key_of: KeyOf, stretch: int = STRETCH, sound: Mixed | None = None,
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

    def missing(self) -> Iterator[int]:
        """The numbers of frames that are in no complete stretch, in order."""
        for first in range(0, self._total, self._stretch):
            path, count = self._file(first), min(self._stretch, self._total - first)
            if self._stretches.used(path):
                continue
            if self._copy is None or not self._copy(first, count, path):
                yield from range(first, first + count)

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
        with av.open(str(part), "w", format=form.container) as film:
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
