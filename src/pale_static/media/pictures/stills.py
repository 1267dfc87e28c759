"""Stills in and out."""

from __future__ import annotations

import hashlib
import io
import os
import warnings
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from ...core.faults import NoRoom, TooLarge, Unreadable
from ...core.footage import StillPicture
from ...core.kernels import rows
from ...core.kernels.colour import convert
from ...core.pictures.lookup import LookupTable
from ...core.pictures.picture import LARGEST_AREA, LARGEST_SIDE, Eight, Plane, Size, to_pixels
from ..decoding import pixel_cache
from ..facts import Facts
from ..reading import AS_TOLD, Reading, shown
from .exr import MAGIC, read_exr

if TYPE_CHECKING:
    from PIL import Image


def _bounded(width: int, height: int, name: str) -> None:
    if max(width, height) > LARGEST_SIDE or width * height > LARGEST_AREA:
        raise TooLarge(
            f"{name} has {width}×{height} pixels. The limit is {LARGEST_SIDE} a side and "
            f"{LARGEST_AREA / 1e6:.0f} million in all. Bring in a smaller copy."
        )


def read_still(
    path: Path, name: str | None = None, reading: Reading = AS_TOLD,
    table: LookupTable | None = None,
) -> tuple[StillPicture, Facts]:  # fmt: skip
    """Read a PNG, JPEG, WebP or TIFF of 8 or 16 bits, turned upright, or an OpenEXR picture.

    Raises
    ------
    Unreadable, TooLarge
    """
    data = path.read_bytes()
    pixels, facts = decode_still(data, name or path.name, reading, table)
    identity = hashlib.blake2b(data, digest_size=16).hexdigest() + reading.mark()
    return StillPicture(identity, pixels), facts


def decode_still(
    data: bytes, name: str, reading: Reading = AS_TOLD, table: LookupTable | None = None
) -> tuple[NDArray[Any], Facts]:
    """The pixels of a still and its facts; see :func:`read_still`."""
    if data[:4] == MAGIC:
        pixels, facts = _deep_still(data, name, reading)
    else:
        pixels, facts = _still(data, name)
    if facts.premultiplied and reading.alpha is None:
        reading = reading.model_copy(update={"alpha": "premultiplied"})
    return shown(pixels, "sRGB", reading, table), facts


def still_facts(data: bytes, name: str) -> Size | None:
    """The size of a still from its head alone; None for OpenEXR, which is read as a whole.

    Raises
    ------
    Unreadable
    """
    if data[:4] == MAGIC:
        return None
    from PIL import Image

    try:
        with Image.open(io.BytesIO(data)) as image:
            return Size(image.width, image.height)
    except Exception as fault:
        raise _damaged(name) from fault


def _damaged(name: str) -> Unreadable:
    return Unreadable(
        f"{name} is damaged and cannot be read. Save it again, and bring it in again."
    )


def _still(data: bytes, name: str) -> tuple[NDArray[Any], Facts]:
    from PIL import Image  # slow to load, and only stills need it

    Image.MAX_IMAGE_PIXELS = None  # our own limit is checked before pixels are read
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            image = Image.open(io.BytesIO(data))
            _bounded(image.width, image.height, name)
            pixels = _pixels(image, data)
    except TooLarge:
        raise
    except Exception as fault:
        raise _damaged(name) from fault
    problems = []
    alpha = pixels.shape[2] == 4
    if min(pixels.shape[:2]) < 16:
        problems.append("Very small: it will be enlarged and look soft or blocky.")
    facts = Facts(
        kind="still",
        width=pixels.shape[1],
        height=pixels.shape[0],
        alpha=alpha,
        bits=8 * pixels.dtype.itemsize,
        coding=image.format or "",
        premultiplied=alpha and pixels.dtype == np.uint16 and _associated(image),
        problems=tuple(problems),
    )
    return pixels, facts


def _associated(image: Image.Image) -> bool:
    """Whether a TIFF says that its colour is premultiplied. TIFF 6.0, ExtraSamples."""
    tags: Any = getattr(image, "tag_v2", None) or {}
    return tags.get(338) in (1, (1,))


def _deep_still(data: bytes, name: str, reading: Reading) -> tuple[NDArray[Any], Facts]:
    """An OpenEXR still, which keeps its range. Its library reads named files only."""
    # A file in memory disappears with this process, even if a broken file makes it crash.
    with open(os.memfd_create("still"), "wb") as file:
        file.write(data)
        file.flush()
        path = Path(f"/proc/self/fd/{file.fileno()}")
        read = read_exr(path, name, _bounded, reading.layer, reading.alpha == "straight")
    picture = read.picture
    alpha = bool((picture[..., 3] != 1).any())
    facts = Facts(
        kind="still", width=picture.shape[1], height=picture.shape[0], alpha=alpha, bits=read.bits,
        coding="OpenEXR", layers=tuple(one for one in read.layers if one), premultiplied=alpha,
    )  # fmt: skip
    return picture, facts


class StillFile:
    """A still on disk. Its pixels are cached with those of all files, and read again when
    needed."""

    rate = None
    length = 1
    nbytes = 4096

    def __init__(
        self, path: Path, reading: Reading = AS_TOLD, table: LookupTable | None = None
    ) -> None:
        self._again = partial(read_still, path, None, reading, table)
        still, _ = self._again()
        self.identity, self.size = still.identity, still.size
        self._cache = pixel_cache()
        self._cache.put(0, still.array)

    def pixels(self, index: int) -> NDArray[Any]:
        """Straight 8- or 16-bit RGB or RGBA, (H, W, 3 or 4); or a float picture."""
        held = self._cache.get(0)
        if held is None:
            held = self._again()[0].array
            self._cache.put(0, held)
        return held


def _pixels(image: Image.Image, data: bytes) -> NDArray[Any]:
    """Straight RGB or RGBA; deep pictures keep their 16 bits."""
    from PIL import ImageOps

    if image.format in ("PNG", "TIFF"):
        raw = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
        if raw is not None and raw.dtype == np.uint16:
            if raw.ndim == 2:
                return np.repeat(raw[..., None], 3, 2)
            order = [2, 1, 0, 3][: raw.shape[2]] if raw.shape[2] > 2 else [0, 0, 0]
            return np.ascontiguousarray(raw[..., order])
    upright = ImageOps.exif_transpose(image) or image
    clear = upright.mode in ("RGBA", "LA", "PA") or "transparency" in upright.info
    return np.array(upright.convert("RGBA" if clear else "RGB"))


def encode_png(pixels: NDArray[Any], level: int = 1) -> bytes:
    """Straight RGBA or RGB, 8 or 16 bits, as PNG; an opaque picture is stored without alpha."""
    top = np.iinfo(pixels.dtype).max
    if pixels.shape[2] == 4 and (pixels[..., 3] == top).all():
        pixels = pixels[..., :3]
    order = [2, 1, 0, 3][: pixels.shape[2]]
    ok, data = cv2.imencode(
        ".png", np.ascontiguousarray(pixels[..., order]), [cv2.IMWRITE_PNG_COMPRESSION, level]
    )
    assert ok
    return data.tobytes()


def write_png(path: str | Path, picture: Plane, bits: Literal[8, 16] = 8) -> None:
    """Write a picture as PNG, straight alpha, 8 or 16 bits."""
    write_file(Path(path), encode_png(to_pixels(picture, bits)))


def seen(plane: Plane | Eight) -> Any:
    """Convert a picture, a matte or 8-bit RGB to 8 bits for the screen: RGB, or (H, W) grey.

    Clear areas show a pattern of greys.
    """
    held: Any = plane
    if held.dtype == np.uint8:
        return held
    if held.ndim == 2:
        return (np.clip(held, 0, 1) * np.float32(255) + np.float32(0.5)).astype(np.uint8)
    return convert.show(held)


def side_by_side(pictures: list[Any]) -> Any:
    """Join pictures of one height in a row. Grey ones become RGB if any of them has colour."""
    if len(pictures) == 1:
        return pictures[0]
    deep = max(picture.ndim for picture in pictures)
    alike = [
        np.repeat(picture[..., None], 3, 2) if picture.ndim < deep else picture
        for picture in pictures
    ]
    return np.hstack(alike)


def encode_jpeg(plane: Plane | Eight, quality: int = 88) -> bytes:
    """Encode a picture as JPEG, as :func:`seen` shows it."""
    pixels = seen(plane)
    # One band for each core, in whole blocks of 16 lines; a restart interval is at most 65,535.
    each = -(-len(pixels) // (16 * rows.cores())) * 16
    blocks = (each // 8) * -(-pixels.shape[1] // 8)
    if pixels.size < _WORTH_SHARING or each >= len(pixels) or blocks > 0xFFFF:
        return _jpeg(pixels, quality)
    parts: dict[int, bytes] = {}

    def encode(first: int, last: int) -> None:
        parts[first] = _jpeg(pixels[first:last], quality)

    rows.in_bands(encode, len(pixels), each)
    return _joined([parts[first] for first in sorted(parts)], len(pixels), each)


_WORTH_SHARING = 300_000
"""Bytes from which a picture is encoded on several cores."""


def _jpeg(pixels: Any, quality: int) -> bytes:
    if pixels.ndim == 3:
        pixels = cv2.cvtColor(pixels, cv2.COLOR_RGB2BGR)
    ok, data = cv2.imencode(".jpg", pixels, [cv2.IMWRITE_JPEG_QUALITY, quality])
    assert ok
    return data.tobytes()


def _joined(parts: list[bytes], height: int, each: int) -> bytes:
    """One JPEG of several that lie below each other, with a restart between them.

    Parameters
    ----------
    parts : of ``each`` lines, the last one of the remaining lines; all written with the same tables

    References
    ----------
    ITU-T T.81, B.2.2 (frame), B.2.4.4 (restart interval), E.1.4 (restarts). At a restart the coder
    starts again, as at the beginning of a file.
    """
    first, out, scans = parts[0], bytearray(), []
    for part in parts:
        at = 2
        while part[at + 1] != 0xDA:  # start of scan
            at += 2 + int.from_bytes(part[at + 2 : at + 4], "big")
        scans.append((at, at + 2 + int.from_bytes(part[at + 2 : at + 4], "big")))
    frame = 2
    while first[frame + 1] != 0xC0:  # baseline frame
        frame += 2 + int.from_bytes(first[frame + 2 : frame + 4], "big")
    width = int.from_bytes(first[frame + 7 : frame + 9], "big")
    across, down = first[frame + 11] >> 4, first[frame + 11] & 15
    units = -(-width // (8 * across)) * (each // (8 * down))
    out += first[: scans[0][0]]
    out[frame + 5 : frame + 7] = height.to_bytes(2, "big")
    out += b"\xff\xdd\x00\x04" + units.to_bytes(2, "big")
    out += first[scans[0][0] : scans[0][1]]
    for k, (part, (_, begin)) in enumerate(zip(parts, scans, strict=True)):
        if k:
            out += bytes([0xFF, 0xD0 + (k - 1) % 8])
        out += part[begin:-2]
    return bytes(out + b"\xff\xd9")


def write_file(path: Path, data: bytes) -> None:
    """Write a file completely or not at all: first to another name beside it."""
    part = path.with_name(path.name + ".part")
    try:
        part.write_bytes(data)
        part.replace(path)
    except OSError as fault:
        part.unlink(missing_ok=True)
        raise NoRoom(
            f"{path.name} could not be written: {fault.strerror or fault}. "
            "Make room on the disk and try again."
        ) from fault
