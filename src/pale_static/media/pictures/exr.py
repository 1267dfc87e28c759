"""OpenEXR pictures: linear light with any range, from and to display-referred pictures."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.faults import TooLarge, Unreadable
from ...core.kernels.filters import blending
from ...core.pictures.colour import to_encoded
from ...core.pictures.picture import Plane

MAGIC = b"\x76\x2f\x31\x01"
"""The first bytes of an OpenEXR file, after its file layout."""
MOST_BYTES = 1 << 30
"""The most bytes of a file's channels, at four bytes a sample."""


@dataclass(frozen=True)
class ExrPicture:
    """A layer of an OpenEXR file: (H, W, 4), premultiplied, sRGB-encoded, nothing clipped."""

    picture: Plane
    bits: int
    layers: tuple[str, ...]
    """The names of all layers of the file; empty for the layer without a name."""


def read_exr(
    path: Path, name: str, bounded: Callable[[int, int, str], None], layer: str = "",
    straight: bool = False,
) -> ExrPicture:  # fmt: skip
    """Read a layer of an OpenEXR file: by default the one without a name, or else the first.

    The file holds linear light with premultiplied (associated) alpha. Colour is encoded straight,
    then weighted by alpha again. Without colour channels, luminance ``Y`` is grey.

    Parameters
    ----------
    bounded : function
        Raises if a size is too large; called before pixels are read.
    straight : bool
        Whether the file's colour is straight, against the format's rule.

    Raises
    ------
    Unreadable

    References
    ----------
    OpenEXR, Technical Introduction: "The EXR file format uses premultiplied color".
    """
    import OpenEXR  # slow to load, and rarely needed

    try:
        with OpenEXR.File(str(path), header_only=True) as head:
            low, high = head.header()["dataWindow"]
            width, height = int(high[0] - low[0] + 1), int(high[1] - low[1] + 1)
            bounded(width, height, name)
            count = len(head.header()["channels"])
        if 4 * count * width * height > MOST_BYTES:
            raise TooLarge(
                f"{name} has {count} channels of {width}×{height}, which is more than "
                f"{MOST_BYTES >> 20} MB. "
                "Save the layers that you need in a file of their own."
            )
        with OpenEXR.File(str(path), separate_channels=True) as file:
            channels = {key: np.asarray(one.pixels) for key, one in file.channels().items()}
    except (RuntimeError, ValueError, KeyError, TypeError, OSError, MemoryError) as fault:
        raise Unreadable(f"{name} is damaged and cannot be read as OpenEXR.") from fault
    layers = _layers(channels)
    if layer and layer not in layers:
        there = ", ".join(one for one in layers if one) or "none"
        raise Unreadable(f"{name} has no layer “{layer}”. It has: {there}.")
    chosen = layer or (layers[0] if layers else "")
    start = f"{chosen}." if chosen else ""
    own = {key.removeprefix(start): one for key, one in channels.items() if key.startswith(start)}
    picture, bits = _picture(own, name, straight)
    return ExrPicture(picture, bits, layers)


def _layers(channels: Iterable[str]) -> tuple[str, ...]:
    """Names of layers with colour or luminance, the one without a name first."""
    named = [key.rpartition(".") for key in channels]
    return tuple(sorted({layer for layer, _, channel in named if channel in ("R", "G", "B", "Y")}))


def _picture(channels: dict[str, NDArray[Any]], name: str, straight: bool) -> tuple[Plane, int]:
    colour = [channels.get(key) for key in "RGB"]
    if all(one is None for one in colour):
        colour = [channels.get("Y")] * 3
    there = [one for one in colour if one is not None]
    if not there:
        raise Unreadable(f"{name} has no channels called R, G and B, nor one called Y.")
    shape = there[0].shape
    if any(one.shape != shape for one in there):
        raise Unreadable(
            f"{name} has channels of different sizes. Save it with channels of one size."
        )
    alpha = channels.get("A")
    picture = np.empty((*shape, 4), np.float32)
    picture[..., 3] = 1 if alpha is None else np.nan_to_num(alpha)
    weight = np.where(picture[..., 3] > 0, picture[..., 3], 1).astype(np.float64)
    for k, one in enumerate(colour):
        linear = np.zeros(shape) if one is None else np.nan_to_num(one.astype(np.float64))
        colour_alone = linear if straight else linear / weight
        picture[..., k] = to_encoded(colour_alone) * (picture[..., 3] if straight else weight)
    return picture, 8 * there[0].dtype.itemsize


REC_709_COLOURS = (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290)
"""x and y of red, green, blue and white. ITU-R BT.709-6, item 1.3 and 1.4."""


def exr_bytes(pictures: NDArray[np.float32], layers: Sequence[str], half: bool) -> bytes:
    """Pictures as one OpenEXR file: linear light, Rec. 709, premultiplied.

    Parameters
    ----------
    pictures : (H, W, 4 times the count of layers) float32
        Premultiplied and display-referred, one after the other along the channels.
    layers : sequence of str
        Their names; programs show the layer without a name first.
    half : bool
        16 bits of floating point instead of 32.
    """
    import OpenEXR

    channels = {}
    for k, layer in enumerate(layers):
        lit = blending.linear(np.ascontiguousarray(pictures[..., 4 * k : 4 * k + 4]))
        kept = lit.astype(np.float16) if half else lit
        for c, name in enumerate("RGBA"):
            full = f"{layer}.{name}" if layer else name
            channels[full] = np.ascontiguousarray(kept[..., c])
    header = {
        "compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage,
        "chromaticities": REC_709_COLOURS,
    }  # fmt: skip
    # The library can only write to a named file.
    handle, name = tempfile.mkstemp(suffix=".exr")
    os.close(handle)
    try:
        OpenEXR.File(header, channels).write(name)
        return Path(name).read_bytes()
    finally:
        Path(name).unlink(missing_ok=True)
