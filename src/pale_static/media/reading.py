"""How the codes of a file are read: by the file's colour tags, or by a person's choice."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from ..core.document import digest_of
from ..core.kernels.colour import hdr, yuv
from ..core.pictures.lookup import LookupTable
from ..core.pictures.picture import from_pixels

MatrixName = Literal["Rec. 709", "Rec. 601", "Rec. 2020"]
Transfer = Literal["Rec. 709", "sRGB", "PQ", "HLG"]
FieldName = Literal["upper", "lower"]
AlphaKind = Literal["straight", "premultiplied"]

MATRICES: dict[MatrixName, yuv.Matrix] = {
    "Rec. 709": yuv.REC_709, "Rec. 601": yuv.REC_601, "Rec. 2020": yuv.REC_2020,
}  # fmt: skip

# Code points of ITU-T H.273.
MATRIX_CODES: dict[int, MatrixName] = {
    1: "Rec. 709", 5: "Rec. 601", 6: "Rec. 601", 9: "Rec. 2020", 10: "Rec. 2020",
}  # fmt: skip
TRANSFER_CODES: dict[int, Transfer] = {
    1: "Rec. 709", 6: "Rec. 709", 13: "sRGB", 14: "Rec. 709", 15: "Rec. 709", 16: "PQ", 18: "HLG",
}  # fmt: skip
PRIMARIES_CODES: dict[int, str] = {
    1: "Rec. 709", 5: "Rec. 601 (625)", 6: "Rec. 601 (525)", 9: "Rec. 2020", 11: "P3", 12: "P3",
}  # fmt: skip


class Colour(BaseModel):
    """A file's tags of colour; empty for missing ones.

    ``chroma`` is the chroma subsampling, such as ``4:2:0``.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    matrix: str = ""
    range: Literal["", "video", "full"] = ""
    transfer: str = ""
    primaries: str = ""
    chroma: str = ""


class Reading(BaseModel):
    """A person's choices of how a file is read, in place of its tags; None follows the file.

    ``field`` shows only one field of interlaced video. ``table`` names a lookup table among the
    materials, for the colours. ``layer``
    is a layer of OpenEXR. ``rate`` is the frame rate of a sequence of pictures.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    matrix: MatrixName | None = None
    range: Literal["video", "full"] | None = None
    transfer: Transfer | None = None
    alpha: AlphaKind | None = None
    field: FieldName | None = None
    table: str = Field(default="", max_length=200)
    layer: str = Field(default="", max_length=200)
    rate: str = Field(default="", max_length=20)

    def mark(self) -> str:
        """A key for pictures that are read this way; empty for the default way."""
        return "" if self == AS_TOLD else "+" + digest_of(self.model_dump(mode="json"))


AS_TOLD = Reading()


def matrix_of(told: str, height: int, reading: Reading = AS_TOLD) -> yuv.Matrix:
    """The weights of luma. Untagged video counts as Rec. 709 from 720 lines on, and as Rec. 601
    below (common practice)."""
    name = reading.matrix or told or ("Rec. 709" if height >= 720 else "Rec. 601")
    return MATRICES[name]  # type: ignore[index]


def shown(
    pixels: NDArray[Any], transfer: str, reading: Reading, table: LookupTable | None
) -> NDArray[Any]:
    """Decoded pixels, converted to display-referred Rec. 709.

    Pixels that need no conversion pass through. Others become a premultiplied float picture, which
    keeps values brighter than white.
    """
    chosen = reading.transfer or transfer
    if chosen in ("PQ", "HLG") and pixels.dtype.kind == "u":
        pixels = hdr.to_rec_709(pixels, "PQ" if chosen == "PQ" else "HLG")
    if reading.alpha == "premultiplied" and pixels.shape[2] == 4 and pixels.dtype.kind == "u":
        top = np.float32(np.iinfo(pixels.dtype).max)
        pixels = pixels.astype(np.float32) / top
    if table is not None:
        pixels = table.apply(from_pixels(pixels))
    return pixels


def one_field(pixels: NDArray[Any], field: FieldName) -> NDArray[Any]:
    """A frame of its upper or lower field alone; lines of the other field are the mean of the lines
    above and below."""
    first = 0 if field == "upper" else 1
    high = len(pixels)
    kept = pixels[first::2].astype(np.uint32)
    filled = np.arange(1 - first, high, 2)
    above, below = (np.clip((filled + near - first) // 2, 0, len(kept) - 1) for near in (-1, 1))
    out = pixels.copy()
    out[filled] = (kept[above] + kept[below] + 1) // 2
    return out
