"""Pictures out: H.264 MP4 and PNG sequences, frame by frame."""

from __future__ import annotations

import re
from collections.abc import Callable
from contextlib import suppress
from fractions import Fraction
from pathlib import Path
from types import TracebackType
from typing import Any, Protocol

import av
import numpy as np
from numpy.typing import NDArray

from ..core.faults import Fault, NoRoom
from ..core.kernels import convert
from ..core.picture import Plane, Size, to_pixels
from ..core.timing import FrameRate
from .stills import encode_png, write_file

_NUMBER = re.compile(r"%0?(\d*)d")


Ready = Any
"""A frame as its format takes it: encoded PNG, or the planes of a video frame."""


class Writer(Protocol):
    """Takes frames in order; nothing stands under the final name before it is finished."""

    def put(self, index: int, ready: Ready) -> None: ...

    def add(self, index: int, picture: Plane) -> None: ...

    def finish(self) -> list[Path]: ...

    def abandon(self) -> None: ...


def open_writer(path: Path, size: Size, rate: FrameRate) -> Writer:
    """A writer by the name: ``out.mp4``, or ``frames_%04d.png``.

    Raises
    ------
    Fault
        For a name that is neither, or a size the format cannot hold.
    """
    if path.suffix == ".mp4":
        return VideoWriter(path, size, rate)
    if path.suffix == ".png" and _NUMBER.search(path.name):
        return PngSequence(path)
    raise Fault(
        f"Cannot tell from “{path.name}” what to write. Name it out.mp4 for a video or "
        "frames_%04d.png for a sequence of pictures."
    )


def ready_png(picture: Plane) -> bytes:
    """A picture as a 16-bit PNG with alpha."""
    return encode_png(to_pixels(picture, 16))


def ready_video(picture: Plane) -> Ready:
    """A picture as 4:2:0 planes, Rec. 709, video range: (3H/2, W) uint8.

    Video has no alpha: clear areas are black, which is what the premultiplied picture shows.
    """
    return _planes(convert.show(picture, cell=0)).to_ndarray()


def _planes(pixels: NDArray[np.uint8]) -> av.VideoFrame:
    """8-bit RGB as a 4:2:0 frame, Rec. 709, video range."""
    frame = av.VideoFrame.from_ndarray(pixels, "rgb24")
    return frame.reformat(format="yuv420p", dst_colorspace="ITU709", dst_color_range="MPEG")


def readier(path: Path) -> Callable[[Plane], Ready]:
    """What makes a picture ready for a file of this name; it may run in another process."""
    return ready_png if path.suffix == ".png" else ready_video


def room_for(path: Path, size: Size) -> int:
    """Bytes of a ready frame for a file of this name; 0 where each has a length of its own."""
    return 0 if path.suffix == ".png" else size.width * size.height * 3 // 2


class PngSequence:
    """16-bit PNGs with alpha, one a frame, numbered from 0.

    Parameters
    ----------
    total : int
        Frames in all, for one that goes on from an earlier run.
    """

    def __init__(self, pattern: Path, total: int = 0) -> None:
        self.pattern = pattern
        self.total = total
        self.written: list[Path] = []

    def missing(self) -> list[int]:
        """Frames that are not there yet; those that are count as written."""
        here = {index for index in range(self.total) if self.path(index).exists()}
        self.written = [self.path(index) for index in sorted(here)]
        return [index for index in range(self.total) if index not in here]

    def path(self, index: int) -> Path:
        return self.pattern.with_name(self.pattern.name % index)

    def put(self, index: int, ready: Ready) -> None:
        path = self.path(index)
        write_file(path, ready)
        self.written.append(path)

    def add(self, index: int, picture: Plane) -> None:
        self.put(index, ready_png(picture))

    def finish(self) -> list[Path]:
        return self.written

    def abandon(self) -> None:
        """Frames written so far stay: they are whole, and a later run goes on from them."""


class VideoWriter:
    """H.264 in MP4: 4:2:0, Rec. 709 tagged, 8 bits, near-transparent quality, opaque."""

    def __init__(
        self, path: Path, size: Size, rate: FrameRate, quality: int = 10, key_every: int = 50,
        preset: str = "veryfast",
    ) -> None:  # fmt: skip
        if size.width % 2 or size.height % 2:
            raise Fault(
                f"H.264 video needs an even width and height. {size.width}×{size.height} is not: "
                f"choose {size.width // 2 * 2}×{size.height // 2 * 2}, or write PNGs."
            )
        self.final = path
        self.part = path.with_name(f".{path.name}.part")
        try:
            self._container = av.open(str(self.part), "w", format="mp4")
            self._stream: Any = self._container.add_stream("libx264", rate=rate.exact)
        except OSError as fault:
            raise no_room(path, fault) from fault
        stream = self._stream
        stream.width, stream.height = size.width, size.height
        stream.pix_fmt = "yuv420p"
        stream.time_base = Fraction(1) / rate.exact
        stream.options = {
            "crf": str(quality),
            "preset": preset,
            "threads": "2",
            "g": str(key_every),
        }
        context = stream.codec_context
        # ITU-T H.273 code points: 1 is Rec. 709 for matrix, primaries and transfer.
        context.colorspace = context.color_primaries = context.color_trc = 1
        context.color_range = 1

    def put(self, index: int, ready: Ready) -> None:
        self._take(index, av.VideoFrame.from_ndarray(ready, "yuv420p"))

    def add_pixels(self, index: int, pixels: NDArray[np.uint8]) -> None:
        """Write a frame that is 8-bit RGB already, (H, W, 3)."""
        self._take(index, _planes(pixels))

    def _take(self, index: int, frame: av.VideoFrame) -> None:
        frame.colorspace, frame.color_range = 1, 1
        frame.pts = index
        self._mux(frame)

    def add(self, index: int, picture: Plane) -> None:
        self.put(index, ready_video(picture))

    def _mux(self, frame: av.VideoFrame | None) -> None:
        try:
            for packet in self._stream.encode(frame):
                self._container.mux(packet)
        except OSError as fault:
            self.abandon()
            raise no_room(self.final, fault) from fault

    def finish(self) -> list[Path]:
        self._mux(None)
        try:
            self._container.close()
            self.part.replace(self.final)
        except OSError as fault:
            self.part.unlink(missing_ok=True)
            raise no_room(self.final, fault) from fault
        return [self.final]

    def abandon(self) -> None:
        with suppress(OSError):
            self._container.close()
        self.part.unlink(missing_ok=True)


def no_room(path: Path, fault: OSError) -> NoRoom:
    """A fault for a file that could not be written."""
    return NoRoom(
        f"{path.name} could not be written: {fault.strerror or fault}. "
        "Make room on the disk, or choose another folder, and render again."
    )


class Writing:
    """A writer in a ``with``: finished at the end, abandoned on a fault."""

    def __init__(self, writer: Writer) -> None:
        self.writer = writer

    def __enter__(self) -> Writer:
        return self.writer

    def __exit__(
        self, kind: type[BaseException] | None, _: BaseException | None, __: TracebackType | None
    ) -> None:
        if kind is None:
            self.writer.finish()
        else:
            self.writer.abandon()
