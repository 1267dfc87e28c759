"""OpenEXR stills: linear light with any range, as display-referred pictures."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.colour import to_encoded
from ..core.faults import Unreadable
from ..core.picture import Plane

MAGIC = b"\x76\x2f\x31\x01"
"""The first bytes of an OpenEXR file, after its file layout."""


def read_exr(path: Path, name: str, bounded: Callable[[int, int, str], None]) -> tuple[Plane, int]:
    """A picture (H, W, 4), premultiplied, sRGB-encoded, nothing clipped; and its bits a channel.

    The file holds linear light with premultiplied (associated) alpha. Colour is encoded straight,
    then weighted by alpha again. Without colour channels, luminance ``Y`` is grey.

    Parameters
    ----------
    bounded : function
        Raises where a size is too large; called before a pixel is read.

    Raises
    ------
    Unreadable

    References
    ----------
    OpenEXR, Technical Introduction: "The EXR file format uses premultiplied color".
    """
    import OpenEXR  # it takes a while to load, and few need it

    try:
        with OpenEXR.File(str(path), header_only=True) as head:
            low, high = head.header()["dataWindow"]
            bounded(int(high[0] - low[0] + 1), int(high[1] - low[1] + 1), name)
        with OpenEXR.File(str(path), separate_channels=True) as file:
            channels = {key: np.asarray(one.pixels) for key, one in file.channels().items()}
    except (RuntimeError, ValueError, KeyError, TypeError, OSError, MemoryError) as fault:
        raise Unreadable(f"{name} is damaged and cannot be read as OpenEXR.") from fault
    return _picture(channels, name)


def _picture(channels: dict[str, NDArray[Any]], name: str) -> tuple[Plane, int]:
    colour = [channels.get(key) for key in "RGB"]
    if all(one is None for one in colour):
        colour = [channels.get("Y")] * 3
    there = [one for one in colour if one is not None]
    if not there:
        raise Unreadable(f"{name} has no channels called R, G and B, nor one called Y.")
    shape = there[0].shape
    if any(one.shape != shape for one in there):
        raise Unreadable(f"{name} has channels of different sizes, which are not read.")
    alpha = channels.get("A")
    picture = np.empty((*shape, 4), np.float32)
    picture[..., 3] = 1 if alpha is None else np.nan_to_num(alpha)
    weight = np.where(picture[..., 3] > 0, picture[..., 3], 1).astype(np.float64)
    for k, one in enumerate(colour):
        linear = np.zeros(shape) if one is None else np.nan_to_num(one.astype(np.float64))
        picture[..., k] = to_encoded(linear / weight) * weight
    return picture, 8 * there[0].dtype.itemsize
