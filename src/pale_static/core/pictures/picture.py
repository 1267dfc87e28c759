"""Pictures and mattes: the inputs and results of every step.

A *picture* is a float32 array (H, W, 4), premultiplied RGBA, display-referred (sRGB / Rec. 709
encoded), nominally 0..1 and not clamped between steps. A *matte* is a float32 array (H, W).
"""

from __future__ import annotations

from dataclasses import dataclass
from math import floor
from typing import Any, Literal, get_args

import cv2
import numpy as np
from numpy.typing import NDArray

from ..faults import Fault, TooLarge
from ..kernels.colour import convert
from .borders import BORDERS, Outside

Plane = NDArray[np.float32]
"""A picture (H, W, 4) or a matte (H, W)."""
Eight = NDArray[np.uint8]
"""An opaque picture in the bits of its file, 8-bit RGB (H, W, 3); it is widened when something
needs floats."""

Channel = Literal["luminance", "alpha", "red", "green", "blue"]
Fit = Literal["cover", "contain", "stretch", "actual"]

CENTRE = (0.5, 0.5)
LARGEST_SIDE = 16384
LARGEST_AREA = 8192 * 8192 // 2


@dataclass(frozen=True)
class Size:
    """Width and height of a frame in pixels.

    Raises
    ------
    TooLarge
        If a side is over 16,384 or the frame holds over 33.5 million pixels.
    """

    width: int
    height: int

    def __post_init__(self) -> None:
        if self.width < 1 or self.height < 1:
            raise Fault(f"A frame is at least 1×1. Got {self.width}×{self.height}.")
        if max(self.width, self.height) > LARGEST_SIDE or self.width * self.height > LARGEST_AREA:
            raise TooLarge(
                f"A frame of {self.width}×{self.height} is too large. A frame has at most "
                f"{LARGEST_SIDE} pixels a side and {LARGEST_AREA / 1e6:.0f} million in all. "
                "Choose a smaller size."
            )

    def __str__(self) -> str:
        return f"{self.width}x{self.height}"

    @property
    def shown(self) -> str:
        """The size as text for people: ``960×540``."""
        return f"{self.width}×{self.height}"

    @classmethod
    def parse(cls, text: str) -> Size:
        """Read ``960x540``."""
        width, mark, height = text.lower().replace("×", "x").partition("x")
        if not mark or not width.strip().isdigit() or not height.strip().isdigit():
            raise Fault(f"A size is written 960x540. Got “{text[:40]}”.")
        return cls(int(width), int(height))


def opaque(picture: Plane) -> bool:
    """Whether a picture is opaque everywhere."""
    return convert.opaque(picture)


def is_matte(plane: Plane) -> bool:
    """Whether this is a matte rather than a picture."""
    return plane.ndim == 2


def box_of(wanted: NDArray[np.bool_], margin: int = 0) -> tuple[slice, slice] | None:
    """The rows and columns that hold all wanted pixels, with a margin; None if there are none."""
    lines = np.flatnonzero(wanted.any(1)), np.flatnonzero(wanted.any(0))
    if not len(lines[0]):
        return None
    rows, columns = (
        slice(max(0, int(line[0]) - margin), int(line[-1]) + margin + 1) for line in lines
    )
    return rows, columns


def flat(size: Size, colour: tuple[float, float, float, float]) -> Plane:
    """A picture of one premultiplied colour."""
    return convert.filled(size.height, size.width, colour)


def as_picture(plane: Plane | Eight) -> Plane:
    """A picture: a matte becomes opaque grey, 8 bits become floats, a picture stays."""
    held: Any = plane
    if held.dtype == np.uint8:
        return convert.widen(held)
    return convert.grey(held) if held.ndim == 2 else held


def as_matte(plane: Plane, channel: Channel = "luminance", invert: bool = False) -> Plane:
    """A matte: of a picture one channel; a matte stays; inverted on request.

    Luminance is that of the premultiplied colour, so clear parts count as black.
    """
    if plane.ndim == 2:
        return np.float32(1) - plane if invert else plane
    return convert.channel(plane, get_args(Channel).index(channel), invert)


def from_pixels(pixels: NDArray[Any]) -> Plane:
    """Turn straight 8- or 16-bit RGB or RGBA, (H, W, 3 or 4), into a picture. Float pixels are a picture already and are returned unchanged."""
    if pixels.dtype == np.float32:
        return pixels
    return convert.widen(np.ascontiguousarray(pixels))


def to_pixels(plane: Plane, bits: Literal[8, 16] = 8, dither: bool = False) -> NDArray[np.generic]:
    """A picture to straight RGBA (H, W, 4), rounded, 8 or 16 bits a channel.

    ``dither`` spreads the rounding of 8 bits by an ordered 8×8 matrix, for smooth gradients.
    """
    return convert.narrow(as_picture(plane), bits, dither)


def _boxes(source: Size, frame: Size, rule: Fit) -> tuple[int, int]:
    """The size a source is scaled to before it is centred in the frame."""
    if rule == "stretch":
        return frame.width, frame.height
    if rule == "actual":
        return source.width, source.height
    across, down = frame.width / source.width, frame.height / source.height
    factor = max(across, down) if rule == "cover" else min(across, down)
    return max(1, round(source.width * factor)), max(1, round(source.height * factor))


def fit(
    pixels: NDArray[Any],
    frame: Size,
    rule: Fit,
    outside: Outside = "clear",
    focus: tuple[float, float] = CENTRE,
    full: Size | None = None,
) -> Plane:
    """Straight pixels (H, W, 3 or 4), or a picture, as a picture of the frame's size.

    ``cover`` fills the frame and crops, ``contain`` shows everything and leaves clear bars,
    ``stretch`` changes the shape, ``actual`` keeps pixels. ``focus`` is a point of the picture in
    0..1 that comes as near to the middle of the frame as possible. If the picture does not fill the
    frame, ``outside`` names the border rule for the area around it. Pixels of a smaller copy lie
    where those of the ``full`` size would lie. Opaque 8-bit
    pixels are scaled in 8 bits (half a code value of rounding), others in float, premultiplied,
    so that no dark rim appears.
    """
    kept = fit_eight(pixels, frame, rule, outside, focus, full)
    if kept is not None:
        return from_pixels(kept)
    cut, target = _placed(pixels, frame, rule, focus, full)
    picture = from_pixels(cut)
    if target != cut.shape[1::-1]:
        how = cv2.INTER_AREA if target[0] < cut.shape[1] else cv2.INTER_LINEAR
        picture = np.asarray(cv2.resize(picture, target, interpolation=how), np.float32)
    return _centred(picture, frame, outside)


def _centred(picture: Any, frame: Size, outside: Outside) -> Any:
    """A picture in the middle of the frame, with clear or repeated pixels around it."""
    high, wide = picture.shape[:2]
    if (wide, high) == (frame.width, frame.height):
        return picture
    left, top = (frame.width - wide) // 2, (frame.height - high) // 2
    right, bottom = frame.width - wide - left, frame.height - high - top
    return cv2.copyMakeBorder(picture, top, bottom, left, right, BORDERS[outside])


def fit_eight(
    pixels: NDArray[Any],
    frame: Size,
    rule: Fit,
    outside: Outside = "clear",
    focus: tuple[float, float] = CENTRE,
    full: Size | None = None,
) -> Eight | None:
    """:func:`fit` kept in 8 bits; None if that is impossible: with alpha, more bits or clear
    bars."""
    if pixels.dtype != np.uint8 or pixels.shape[2] != 3:
        return None
    if pixels.shape[1::-1] == (frame.width, frame.height):
        return pixels
    cut, target = _placed(pixels, frame, rule, focus, full)
    if target != (frame.width, frame.height) and outside == "clear":
        return None
    wide, high = target
    if 2 <= wide <= cut.shape[1] and 2 <= high <= cut.shape[0]:
        return _centred(convert.reduce(cut, high, wide), frame, outside)
    scaled = cv2.resize(cut, target, interpolation=cv2.INTER_LINEAR)
    return np.asarray(_centred(scaled, frame, outside), np.uint8)


def _placed(
    pixels: NDArray[Any], frame: Size, rule: Fit, focus: tuple[float, float], full: Size | None
) -> tuple[NDArray[Any], tuple[int, int]]:
    """The part of the pixels that the frame shows, and the size it is scaled to there.

    Pixels are cropped before they are scaled, so that nothing outside the frame is resampled.
    """
    height, width = pixels.shape[:2]
    wide, high = _boxes(full or Size(width, height), frame, rule)
    x0, x1 = _window(width, wide, frame.width, focus[0])
    y0, y1 = _window(height, high, frame.height, focus[1])
    return pixels[y0:y1, x0:x1], (min(wide, frame.width), min(high, frame.height))


def _window(source: int, scaled: int, frame: int, focus: float) -> tuple[int, int]:
    """The run of source pixels that the frame shows along one axis, after scaling."""
    if scaled <= frame:
        return 0, source
    shown = max(1, round(frame * source / scaled))
    # About the focus, and (source − shown) / 2 about the middle.
    start = min(max(floor(focus * source - shown / 2), 0), source - shown)
    return start, start + shown
