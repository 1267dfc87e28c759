"""Convert between video frames and arrays of straight pixels."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

from ...core.kernels.colour import yuv


@dataclass(frozen=True)
class Coding:
    """The layout of luma and chroma in a pixel format: bits, shifts across and down, alpha."""

    bits: int
    shifts: tuple[int, int]
    alpha: bool


_SHIFTS = {"420": (1, 1), "422": (1, 0), "444": (0, 0), "440": (0, 1)}


@lru_cache
def coding_of(name: str) -> Coding | None:
    """The layout of a planar luma and chroma format by FFmpeg's name; None for another kind."""
    start = next((one for one in ("yuva", "yuvj", "yuv") if name.startswith(one)), None)
    if start is None or name[len(start) : len(start) + 4][3:] not in ("p",):
        return None
    shifts = _SHIFTS.get(name[len(start) : len(start) + 3])
    depth = name[len(start) + 4 :].removesuffix("le")
    if shifts is None or not (depth == "" or depth.isdigit()):
        return None
    return Coding(int(depth or 8), shifts, start == "yuva")


def _plane(plane: Any, deep: bool) -> NDArray[Any]:
    """A view of a frame's plane; rows keep their padding."""
    flat = np.frombuffer(plane, np.uint16 if deep else np.uint8)
    return flat.reshape(plane.height, -1)


def pixels_of(frame: av.VideoFrame, matrix: yuv.Matrix, full: bool) -> NDArray[Any]:
    """A frame as straight pixels, (H, W, 3 or 4), 8 or 16 bits.

    Parameters
    ----------
    matrix, full
        The weights of luma, and whether codes use their full range; for formats with luma and
        chroma.
    """
    coding = coding_of(frame.format.name)
    if coding is None:
        return _packed(frame)
    deep = coding.bits > 8
    luma, blue, red, *rest = (_plane(plane, deep) for plane in frame.planes)
    kind = np.uint16 if deep else np.uint8
    out = np.empty((frame.height, frame.width, 4 if coding.alpha else 3), kind)
    yuv.to_rgb(luma, blue, red, out, matrix, coding.bits, full, coding.shifts)
    if rest:
        alpha = rest[0][:, : frame.width]
        if deep:
            most = (1 << coding.bits) - 1
            alpha = ((alpha.astype(np.uint32) * 65535 + most // 2) // most).astype(np.uint16)
        out[..., 3] = alpha
    return out


def _packed(frame: av.VideoFrame) -> NDArray[Any]:
    """A frame of any other pixel format, through FFmpeg's own conversion."""
    deep = any(part.bits > 8 for part in frame.format.components)
    alpha = any(part.is_alpha for part in frame.format.components)
    form = ("rgba64le" if alpha else "rgb48le") if deep else "rgba" if alpha else "rgb24"
    array = frame.reformat(format=form).to_ndarray()
    return array if array.dtype == np.uint8 else array.view(np.uint16)


def frame_of(pixels: NDArray[Any], planes: str) -> av.VideoFrame:
    """Straight pixels (H, W, 3 or 4) of 8 or 16 bits as a frame of a pixel format.

    Luma and chroma are Rec. 709, video range.
    """
    high, wide = pixels.shape[:2]
    frame = av.VideoFrame(wide, high, planes)
    coding = coding_of(planes)
    if coding is None:
        _fill(frame, pixels, planes)
        return frame
    deep = coding.bits > 8
    luma, blue, red, *rest = (_plane(plane, deep) for plane in frame.planes)
    yuv.to_planes(pixels, luma, blue, red, coding.bits, coding.shifts)
    if rest:
        alpha = pixels[..., 3]
        if deep:
            most = (1 << coding.bits) - 1
            alpha = ((alpha.astype(np.uint32) * most + 32767) // 65535).astype(np.uint16)
        rest[0][:, :wide] = alpha
    return frame


_ORDER = {"rgba": (0, 1, 2, 3), "bgra": (2, 1, 0, 3), "rgb24": (0, 1, 2)}


def _fill(frame: av.VideoFrame, pixels: NDArray[Any], planes: str) -> None:
    """Fill a frame that holds red, green and blue."""
    wide = frame.width
    if planes == "gbrap16le":
        for plane, channel in zip(frame.planes, (1, 2, 0, 3), strict=True):
            _plane(plane, True)[:, :wide] = pixels[..., channel]
        return
    order = _ORDER[planes]
    rows = _plane(frame.planes[0], False)[:, : wide * len(order)]
    laid = rows.reshape(len(rows), wide, len(order)) if rows.flags.c_contiguous else None
    if laid is None:
        rows[...] = pixels[..., order].reshape(len(rows), -1)
    else:
        for k, channel in enumerate(order):
            laid[..., k] = pixels[..., channel]
