"""Write frames in any format: prepare them, and encode them while the next frames are computed."""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from ..core.kernels.colour import convert
from ..core.kernels.rows import cores
from ..core.pictures.picture import Eight, Plane, Size, as_picture, to_pixels
from ..core.sound import Mixed
from ..core.time.timing import FrameRate
from .films.film_writer import FilmWriter
from .formats import SHEET_FRAMES, Encoding, Format
from .pictures.sequences import PictureFile, PictureSequence

AHEAD = 3
"""Frames that may wait for the encoder."""


class Writer(Protocol):
    """Takes prepared frames. The final name exists only when the file is complete."""

    def put(self, index: int, pixels: NDArray[Any]) -> None: ...

    def finish(self) -> list[Path]: ...

    def abandon(self) -> None: ...


def open_writer(
    path: Path, encoding: Encoding, size: Size, rate: FrameRate, total: int,
    sound: Mixed | None = None, layers: Sequence[str] = ("",),
) -> Writer:  # fmt: skip
    """A writer of a format.

    Raises
    ------
    Fault
        If the format cannot hold the size.
    """
    form = encoding.format
    if form.numbered:
        return PictureSequence(path, form, size, total, layers)
    if form.encoder:
        return FilmWriter(path, encoding, size, rate, sound=sound, total=total)
    return PictureFile(path, form)


def indices_of(form: Format, first: int, total: int) -> list[int]:
    """The frames that a format shows of a stretch: all, its first, or three of them."""
    if form.shape == "still":
        return [first]
    if form.shape == "sheet":
        last = total - 1
        return [first + last * k // (SHEET_FRAMES - 1) for k in range(SHEET_FRAMES)]
    return list(range(first, first + total))


def ready(held: Plane | Eight, form: Format) -> NDArray[Any]:
    """A result of the engine in the form that a format takes: straight codes, or a picture.

    Without alpha, clear areas become black.
    """
    if form.pixels == "rgb8":
        if held.dtype == np.uint8:
            return np.asarray(held)
        return convert.show(as_picture(held), cell=0)
    picture = as_picture(held)
    if form.pixels == "float":
        return picture
    if not form.alpha:
        picture = picture.copy()
        picture[..., 3] = 1
    return to_pixels(picture, 16 if form.pixels == "rgba16" else 8)


def looked_at_in_8_bits(form: Format) -> bool:
    """Whether the engine may compute straight to 8 bits, to within one code value."""
    return form.pixels == "rgb8" and not form.lossless


def room_for(form: Format, size: Size, layers: int = 1) -> int:
    """Bytes of a prepared frame."""
    each = {"rgb8": 3, "rgba8": 4, "rgba16": 8, "float": 16}[form.pixels]
    return each * layers * size.width * size.height


class Behind:
    """Encodes frames in its own threads while the next frames are computed.

    Use it in a ``with`` block: at its end the file is finished, or removed after an error.

    Parameters
    ----------
    kept : bool
        Whether the given pixels stay unchanged; otherwise they are copied.
    """

    def __init__(self, writer: Writer, form: Format, kept: bool = True) -> None:
        self.writer, self._kept = writer, kept
        threads = cores() if form.numbered else 1
        self._pool = ThreadPoolExecutor(threads, thread_name_prefix="encode")
        self._waiting: deque[Future[None]] = deque()
        self._ahead = AHEAD + threads - 1
        self.paths: list[Path] = []

    def put(self, index: int, pixels: NDArray[Any]) -> None:
        """Add a frame. A fault of an earlier frame is raised here."""
        while len(self._waiting) >= self._ahead:
            self._waiting.popleft().result()
        held = pixels if self._kept else pixels.copy()
        self._waiting.append(self._pool.submit(self.writer.put, index, held))

    def settle(self) -> None:
        """Wait until all added frames are encoded."""
        while self._waiting:
            self._waiting.popleft().result()

    def __enter__(self) -> Behind:
        return self

    def __exit__(self, kind: type[BaseException] | None, *_: object) -> None:
        try:
            if kind is None:
                self.settle()
                self.paths = self.writer.finish()
        except BaseException:
            self._let_go()
            raise
        if kind is not None:
            self._let_go()
        self._pool.shutdown()

    def _let_go(self) -> None:
        self._pool.shutdown(cancel_futures=True)
        self.writer.abandon()
