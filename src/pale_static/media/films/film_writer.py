"""Films out: one file with pictures, and sound beside them."""

from __future__ import annotations

import os
from collections.abc import Callable
from contextlib import suppress
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

from ...core.faults import Fault, NoRoom
from ...core.pictures.picture import Size
from ...core.sound import Mixed, samples_of
from ...core.time.timing import FrameRate
from ..formats import Encoding, Format
from ..sound import SoundTrack, in_blocks
from .planes import coding_of, frame_of

KEY_EVERY = 50
"""Frames from one key frame to the next."""
# Otherwise the AV1 encoder prints its settings on standard error; 1 means errors only.
os.environ.setdefault("SVT_LOG", "1")
_REC_709, _SRGB, _RGB, _VIDEO, _FULL = 1, 13, 0, 1, 2
"""Code points of ITU-T H.273, and the two ranges as FFmpeg counts them."""


def opened(path: Path, form: Format) -> Any:
    """A container for writing. Two films of the same pictures have the same bytes: FFmpeg adds no
    version and no random names to them."""
    return av.open(str(path), "w", format=form.container, options={"fflags": "bitexact"})


class FilmWriter:
    """Writes a film frame by frame. Its name appears only when the film is complete.

    Parameters
    ----------
    sound : function, optional
        Gives samples of the film's sound, from a first one on.
    total : int
        Frames of the film, needed if it has sound.
    key_every : int
        Frames from one key frame to the next.
    options : dict, optional
        Options of the encoder in place of the format's.
    """

    def __init__(
        self, path: Path, encoding: Encoding, size: Size, rate: FrameRate, *,
        sound: Mixed | None = None, total: int = 0, key_every: int = KEY_EVERY,
        options: dict[str, str] | None = None,
    ) -> None:  # fmt: skip
        form = encoding.format
        wrong = form.wrong_size(size)
        if wrong:
            raise Fault(f"{wrong[0]} Choose {wrong[1].shown}, or another format.")
        self.final, self.form = path, form
        self.part = path.with_name(f".{path.name}.part")
        self._rate, self._track = rate, None
        try:
            self._container = opened(self.part, form)
        except OSError as fault:
            raise no_room(path, fault) from fault
        self._stream = self._opened(encoding, size, key_every, options or {})
        if sound is not None and form.sound:
            total_samples = samples_of(total, rate.exact)
            self._track = SoundTrack(self._container, in_blocks(sound), total_samples, form.sound)

    def _opened(
        self, encoding: Encoding, size: Size, key_every: int, options: dict[str, str]
    ) -> Any:
        form, rate = self.form, self._rate
        options = {**encoding.options, **options}
        # The muxer's options are taken at opening; these are its own.
        names: tuple[str, ...] = ("loop", "plays")
        muxing = {name: options.pop(name) for name in names if name in options}
        self._container.options.update(muxing)
        stream: Any = self._container.add_stream(form.encoder, rate=rate.exact)
        stream.width, stream.height = size.width, size.height
        stream.pix_fmt = form.planes
        stream.time_base = Fraction(1) / rate.exact
        stream.options = options
        context = stream.codec_context
        if form.encoder in ("prores_ks", "ffv1", "apng"):
            context.gop_size = 1
        else:
            context.gop_size = key_every
        if encoding.bit_rate is not None:
            stream.bit_rate = encoding.bit_rate * 1000
        luma = coding_of(form.planes) is not None
        context.color_primaries = _REC_709
        context.color_trc = _REC_709 if luma else _SRGB
        context.colorspace = _REC_709 if luma else _RGB
        context.color_range = _VIDEO if luma else _FULL
        if form.alpha and form.container == "webm":
            stream.metadata["alpha_mode"] = "1"
        return stream

    def put(self, index: int, pixels: NDArray[Any]) -> None:
        """Write a prepared frame; frames come in order."""
        frame = frame_of(pixels, self.form.planes)
        if coding_of(self.form.planes) is not None:
            frame.colorspace, frame.color_range = _REC_709, _VIDEO
        frame.pts = index
        frame.time_base = Fraction(1) / self._rate.exact
        self._written(lambda: self._put(index, frame))

    def _put(self, index: int, frame: av.VideoFrame) -> None:
        if self._track is not None:
            self._track.write(samples_of(index, self._rate.exact))
        self._mux(frame)

    def _mux(self, frame: av.VideoFrame | None) -> None:
        for packet in self._stream.encode(frame):
            self._container.mux(packet)

    def _written(self, write: Callable[[], None]) -> None:
        """Write; if that fails, remove the unfinished file and raise a fault."""
        try:
            write()
        except OSError as fault:
            self.abandon()
            raise no_room(self.final, fault) from fault

    def finish(self) -> list[Path]:
        """Write the remaining frames, and give the film its name."""
        self._written(self._end)
        return [self.final]

    def _end(self) -> None:
        self._mux(None)
        if self._track is not None:
            self._track.finish()
        self._container.close()
        self.part.replace(self.final)

    def abandon(self) -> None:
        """Remove the unfinished file."""
        with suppress(OSError):
            self._container.close()
        self.part.unlink(missing_ok=True)


def no_room(path: Path, fault: OSError) -> NoRoom:
    """A fault for a file that could not be written."""
    return NoRoom(
        f"{path.name} could not be written: {fault.strerror or fault}. "
        "Make room on the disk, or choose another folder, and render again."
    )


def write_clip(
    path: Path, encoding: Encoding, rate: FrameRate, frames: Any, **choices: Any
) -> Path:
    """Write pixels (H, W, 3 or 4) as a film, one after another.

    Parameters
    ----------
    frames : iterable of arrays
        In the form that the format takes, all of one size.
    choices
        As for :class:`FilmWriter`.
    """
    writer: FilmWriter | None = None
    try:
        for index, pixels in enumerate(frames):
            if writer is None:
                size = Size(pixels.shape[1], pixels.shape[0])
                writer = FilmWriter(path, encoding, size, rate, **choices)
            writer.put(index, np.ascontiguousarray(pixels))
        if writer is None:
            raise Fault(f"There is no frame to write to {path.name}.")
        writer.finish()
    except BaseException:
        if writer is not None:
            writer.abandon()
        raise
    return path
