"""Pictures out: one file for each frame, one frame, or a few side by side."""

from __future__ import annotations

import io
import os
import struct
import zipfile
import zlib
from collections.abc import Iterator, Sequence
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.faults import Fault
from ...core.pictures.picture import Size
from ..formats import Format
from ..runs import runs_of
from .exr import exr_bytes
from .stills import encode_png, still_facts, write_file

AT_ONCE = 25
"""Pictures that another machine sends together."""
GAP = 8
"""Pixels between the pictures of a contact sheet."""


def encode_picture(pixels: NDArray[Any], form: Format, layers: Sequence[str] = ("",)) -> bytes:
    """A prepared frame as the bytes of its file.

    Parameters
    ----------
    layers : sequence of str
        OpenEXR only: names of the pictures along the channels.
    """
    if form.ending == ".exr":
        return exr_bytes(pixels, layers, half=form.bits == 16)
    if form.ending == ".tif":
        return _tiff(pixels)
    return tagged_srgb(encode_png(pixels))


def tagged_srgb(png: bytes) -> bytes:
    """A PNG with the tag for sRGB.

    References
    ----------
    W3C Portable Network Graphics, 11.3.2.5 sRGB; rendering intent 0 is perceptual.
    """
    chunk = b"sRGB" + b"\0"
    head = 8 + 25  # the signature, and the header chunk
    told = struct.pack(">I", 1) + chunk + struct.pack(">I", zlib.crc32(chunk))
    return png[:head] + told + png[head:]


def _tiff(pixels: NDArray[Any]) -> bytes:
    import tifffile  # slow to load, and rarely needed

    out = io.BytesIO()
    tifffile.imwrite(
        out, pixels, photometric="rgb", compression="zlib", predictor=True, metadata=None,
        extrasamples=["unassalpha"] if pixels.shape[2] == 4 else None,
        extratags=[(34675, "B", len(_profile()), _profile(), True)],
    )  # fmt: skip
    return out.getvalue()


@lru_cache
def _profile() -> bytes:
    """An ICC profile of sRGB."""
    from PIL import ImageCms

    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()


class PictureSequence:
    """A file for each frame, numbered from 0; several frames may be written at once.

    Parameters
    ----------
    pattern : Path
        A name that holds ``%04d`` or the like.
    size : Size
        Pixels of each picture.
    total : int
        The number of all frames.
    goes_on : bool
        Whether pictures that exist are kept, as an earlier run wrote them.
    """

    def __init__(
        self, pattern: Path, form: Format, size: Size, total: int, layers: Sequence[str] = ("",),
        goes_on: bool = False,
    ) -> None:  # fmt: skip
        self.pattern, self.form, self.size, self.total = pattern, form, size, total
        self.layers = layers
        here = range(total) if goes_on else ()
        self._written = {index for index in here if self.path(index).exists()}

    def missing(self) -> list[int]:
        """Frames that have no file yet."""
        return [index for index in range(self.total) if index not in self._written]

    def wanted(self) -> Iterator[tuple[int, int]]:
        """Runs of missing frames: the first frame and the count of each."""
        return runs_of(self.missing(), AT_ONCE)

    def path(self, index: int) -> Path:
        """The file of a frame."""
        return self.pattern.with_name(self.pattern.name % index)

    def put(self, index: int, pixels: NDArray[Any]) -> None:
        path = self.path(index)
        write_file(path, encode_picture(pixels, self.form, self.layers))
        self._written.add(index)

    def take(self, first: int, count: int, file: Path) -> None:
        """Take finished pictures from a file of :func:`pack_pictures`.

        Raises
        ------
        Fault
            If it does not hold that number of pictures of this size.
        """
        try:
            with zipfile.ZipFile(file) as packed:
                entries = packed.infolist()
                if len(entries) != count or any(one.compress_type for one in entries):
                    raise Fault(f"{count} pictures came as {len(entries)} files.")
                for index, entry in enumerate(entries, first):
                    self._take(index, packed.read(entry))
        except zipfile.BadZipFile as fault:
            raise Fault(f"{count} pictures came as a file that cannot be read.") from fault

    def _take(self, index: int, data: bytes) -> None:
        size = still_facts(data, f"Frame {index}")
        if size not in (None, self.size):
            raise Fault(f"Frame {index}, {self.size.shown}, came as {size and size.shown}.")
        write_file(self.path(index), data)
        self._written.add(index)

    def finish(self) -> list[Path]:
        return [self.path(index) for index in sorted(self._written)]

    def abandon(self) -> None:
        """Keep the frames written so far: they are complete, and a later run continues from
        them."""


def pack_pictures(files: Sequence[Path], out: Path) -> None:
    """Write pictures into one file, in order, as they are."""
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as packed:
        for number, file in enumerate(files):
            packed.write(file, str(number))


class PictureFile:
    """One picture of one frame, or of several side by side."""

    def __init__(self, path: Path, form: Format) -> None:
        self.path, self.form = path, form
        self._pictures: list[NDArray[Any]] = []

    def put(self, index: int, pixels: NDArray[Any]) -> None:
        self._pictures.append(pixels)

    def finish(self) -> list[Path]:
        write_file(self.path, encode_picture(beside(self._pictures), self.form))
        return [self.path]

    def abandon(self) -> None:
        """Do nothing: no file is written before the end."""


def beside(pictures: Sequence[NDArray[Any]]) -> NDArray[Any]:
    """Pictures of one size side by side, with clear gaps."""
    if len(pictures) == 1:
        return pictures[0]
    gap = np.zeros((len(pictures[0]), GAP, pictures[0].shape[2]), pictures[0].dtype)
    parts = [part for one in pictures for part in (gap, one)][1:]
    return np.concatenate(parts, axis=1)


def names_in(folder: Path) -> list[Path]:
    """The finished files in the folder of a sequence, in order."""
    with os.scandir(folder) as entries:
        names = [one.name for one in entries if not one.name.endswith(".part")]
    return [folder / name for name in sorted(names)]
