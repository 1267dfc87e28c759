"""Write a film as short files, joined at the end, so that a stopped render can go on."""

from __future__ import annotations

import shutil
from pathlib import Path

import av

from ..core.picture import Plane, Size
from ..core.sound import samples_of
from ..core.timing import FrameRate
from .sequences import Ready, VideoWriter, no_room, ready_video
from .sound import Mixed, SoundTrack, in_blocks

STRETCH = 250
"""Frames in one short file. A render that is killed loses at most this many."""


class SegmentedVideo:
    """H.264 in MP4, written in stretches (short files) that are joined without encoding again.

    Parameters
    ----------
    path : Path
        The film. Its stretches lie beside it, in a folder of their own, until it is whole.
    total : int
        Frames of the film.
    sound : function, optional
        Gives the samples of the film's sound, from a first one on.
    """

    def __init__(
        self, path: Path, size: Size, rate: FrameRate, total: int, stretch: int = STRETCH,
        sound: Mixed | None = None,
    ) -> None:  # fmt: skip
        self._sound = sound
        self.path, self.folder = path, folder_of(path)
        self._size, self._rate, self._total, self._stretch = size, rate, total, stretch
        self._writer: VideoWriter | None = None
        try:
            self.folder.mkdir(exist_ok=True)
            for part in self.folder.glob(".*.part"):
                part.unlink()
        except OSError as fault:
            raise no_room(path, fault) from fault

    def _file(self, first: int) -> Path:
        return self.folder / f"{first:08d}.mp4"

    def missing(self) -> list[int]:
        """Frames that no whole stretch holds yet."""
        whole = {
            first for first in range(0, self._total, self._stretch) if self._file(first).exists()
        }
        return [n for n in range(self._total) if n - n % self._stretch not in whole]

    def put(self, index: int, ready: Ready) -> None:
        """Take a frame; those of a stretch come in order."""
        within = index % self._stretch
        if self._writer is None:
            self._writer = VideoWriter(self._file(index - within), self._size, self._rate)
        self._writer.put(within, ready)
        if within + 1 == self._stretch or index + 1 == self._total:
            self._writer.finish()
            self._writer = None

    def add(self, index: int, picture: Plane) -> None:
        self.put(index, ready_video(picture))

    def finish(self) -> list[Path]:
        """Join the stretches, and remove them."""
        part = self.path.with_name(f".{self.path.name}.part")
        try:
            self._join(part)
            part.replace(self.path)
        except OSError as fault:
            part.unlink(missing_ok=True)
            raise no_room(self.path, fault) from fault
        shutil.rmtree(self.folder, ignore_errors=True)
        return [self.path]

    def _join(self, part: Path) -> None:
        with av.open(str(part), "w", format="mp4") as film:
            out, track = None, None
            for first in range(0, self._total, self._stretch):
                with av.open(str(self._file(first))) as stretch:
                    stream = stretch.streams.video[0]
                    if out is None:
                        out = film.add_stream_from_template(stream)
                        if self._sound is not None:
                            total = samples_of(self._total, self._rate.exact)
                            track = SoundTrack(film, in_blocks(self._sound), total)
                    assert stream.time_base is not None
                    frame = 1 / self._rate.exact / stream.time_base
                    packets = [one for one in stretch.demux(stream) if one.dts is not None]
                    if first == 0:
                        early = packets[0].dts or 0
                    for number, packet in enumerate(packets, first):
                        packet.pts = (packet.pts or 0) + round(first * frame)
                        # One frame apart throughout: a short last stretch reorders less than the
                        # others, and would begin later than they do.
                        packet.dts = early + round(number * frame)
                        packet.stream = out
                        if track is not None:
                            track.write(samples_of(number, self._rate.exact))
                        film.mux(packet)
            if track is not None:
                track.finish()

    def abandon(self) -> None:
        """Let go of the stretch that was being written; those before it stay."""
        if self._writer is not None:
            self._writer.abandon()
            self._writer = None


def folder_of(path: Path) -> Path:
    """Where the stretches of a film lie while it is written."""
    return path.with_suffix(".stretches")
