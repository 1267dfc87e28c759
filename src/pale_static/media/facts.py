"""Facts about a file of material."""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import Literal

from pydantic import BaseModel, ConfigDict

from ..core.faults import Unreadable
from .reading import Colour

Kind = Literal["video", "still", "font", "table", "sequence", "animation"]
"""Kinds of files, recognised by their first bytes. Sequences and animations count as videos."""
HEAD = 256
"""The number of first bytes that show the kind of a file."""


class Facts(BaseModel):
    """What people want to know about a material before they use it."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    kind: Kind
    width: int = 0
    height: int = 0
    rate: str | None = None
    frames: int = 1
    seconds: float = 0.0
    alpha: bool = False
    bits: int = 8
    coding: str = ""
    glyphs: int = 0
    colour: Colour | None = None
    interlaced: bool = False
    pixel_aspect: str = ""
    layers: tuple[str, ...] = ()
    sound: str = ""
    """The codec, rate and channels of its sound; empty if it has none."""
    timecode: str = ""
    """The timecode of its first frame, if the file has one."""
    premultiplied: bool = False
    """Whether the file says that its colour is weighted by alpha."""
    pictures: int = 0
    """The number of files of a sequence."""
    problems: tuple[str, ...] = ()

    @property
    def may_sound(self) -> bool:
        """Whether files of its kind can hold sound."""
        return self.kind == "video" and not self.pictures and "animated" not in self.coding

    def like(self, other: Facts) -> bool:
        """Whether both may describe one file. Facts that an earlier version did not store are not
        compared."""
        names = ("kind", "width", "height", "rate", "frames", "alpha", "bits", "coding", "glyphs")
        return all(getattr(self, name) == getattr(other, name) for name in names)


_VIDEO: Kind = "video"
_SEQUENCE: Kind = "sequence"
_ANIMATION: Kind = "animation"
_STILL: Kind = "still"
_FONT: Kind = "font"
_TABLE: Kind = "table"
_TABLE_WORDS = (b"TITLE", b"LUT_1D_SIZE", b"LUT_3D_SIZE", b"DOMAIN_MIN", b"LUT_3D_INPUT_RANGE")


def sniff(head: bytes, name: str) -> tuple[Kind, str]:
    """The kind and extension of a file by its first bytes; its name does not matter.

    Raises
    ------
    Unreadable
        If it cannot be brought in.
    """
    if head[:8] == b"\x89PNG\r\n\x1a\n":
        # An animated PNG has a chunk for that before its pixels.
        moves = b"acTL" in head.partition(b"IDAT")[0]
        return (_VIDEO, ".apng") if moves else (_STILL, ".png")
    if head[:3] == b"\xff\xd8\xff":
        return _STILL, ".jpg"
    if head[:4] == b"RIFF" and head[8:12] == b"WEBP":
        # RFC 9649: the second lowest bit of an extended file's flags says that it moves.
        moves = head[12:16] == b"VP8X" and bool(head[20] & 2)
        return (_ANIMATION if moves else _STILL), ".webp"
    if head[:4] in (b"II*\x00", b"MM\x00*"):
        return _STILL, ".tif"
    if head[:4] == b"\x76\x2f\x31\x01":
        return _STILL, ".exr"
    if head[4:8] == b"ftyp":
        return _VIDEO, ".mov" if head[8:10] == b"qt" else ".mp4"
    if head[4:8] in (b"moov", b"mdat", b"wide", b"free"):
        return _VIDEO, ".mov"
    if head[:4] == b"\x1aE\xdf\xa3":
        return _VIDEO, ".webm" if b"webm" in head[:64] else ".mkv"
    if head[:4] == b"PK\x03\x04":
        return _SEQUENCE, ".frames"
    if head[:4] in (b"\0\1\0\0", b"true"):
        return _FONT, ".ttf"
    if head[:4] == b"OTTO":
        return _FONT, ".otf"
    if head[:4] in (b"wOFF", b"wOF2"):
        raise Unreadable(f"{name} is a font packed for the web. Bring in its TTF or OTF.")
    words = head.removeprefix(b"\xef\xbb\xbf").split()
    if words and b"\0" not in head and (words[0] in _TABLE_WORDS or name.lower().endswith(".cube")):
        return _TABLE, ".cube"
    what = "is empty" if not head else "is neither a picture, a video, a font nor a lookup table"
    raise Unreadable(
        f"{name} {what}. Bring in MP4, MOV, WebM or MKV video, PNG, JPEG, WebP, TIFF or "
        "OpenEXR stills, TTF or OTF fonts, or .cube lookup tables."
    )


def file_identity(path: Path) -> str:
    """A content hash of a file, read in pieces."""
    digest = hashlib.blake2b(digest_size=16)
    with path.open("rb") as file:
        while piece := file.read(1 << 20):
            digest.update(piece)
    return digest.hexdigest()
