"""Fillings of slots, as the engine sees them: footage, stills and other effects; no files."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import cached_property, lru_cache
from math import floor
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from .document import Effect, digest_of
from .lettering import Font
from .pictures.picture import Size
from .time.timing import FrameRate, exact_seconds

Pixels = NDArray[Any]


class Footage(Protocol):
    """A clip or a still. ``identity`` names its content; ``rate`` is None for a still. ``size`` is
    its full size; the pixels may be those of a smaller copy."""

    @property
    def identity(self) -> str: ...

    @property
    def size(self) -> Size: ...

    @property
    def rate(self) -> FrameRate | None: ...

    @property
    def length(self) -> int: ...

    def pixels(self, index: int) -> Pixels:
        """Frame ``index``: straight 8- or 16-bit RGB or RGBA, (H, W, 3 or 4); or a picture,
        float32 (H, W, 4), which keeps values outside 0..1."""


def frame_at(footage: Footage, seconds: Fraction) -> int:
    """The frame shown at a time; before the start and past the end, the edge frame holds."""
    if footage.rate is None:
        return 0
    return min(max(floor(seconds * footage.rate.exact), 0), footage.length - 1)


def frozen_at(footage: Footage, seconds: float, start: Fraction = Fraction(0)) -> int:
    """The frame that a person means by a time typed or taken from the screen.

    A time within a hundredth of a frame before a frame means that frame: 0.167 s is frame 5 at
    29.97 frames a second, though frame 5 begins at 0.16683 s.

    Parameters
    ----------
    start : Fraction
        Where the footage begins, in seconds of it.
    """
    if footage.rate is None:
        return 0
    near = Fraction(1, 100) / footage.rate.exact
    return frame_at(footage, exact_seconds(seconds) + start + near)


@dataclass(frozen=True)
class StillPicture:
    """One picture held in memory."""

    identity: str
    array: Pixels
    rate: FrameRate | None = None
    length: int = 1

    @property
    def size(self) -> Size:
        return Size(self.array.shape[1], self.array.shape[0])

    @property
    def nbytes(self) -> int:
        return int(self.array.nbytes)

    def pixels(self, index: int) -> Pixels:
        return self.array


@dataclass(frozen=True)
class Cut:
    """Footage that starts at another time, and runs at another speed.

    Parameters
    ----------
    start : Fraction
        The second of the footage that frame 0 shows.
    speed : Fraction
        Seconds of the footage in a second; below 0 it runs backwards, at 0 it stands still.
    blended : bool
        Whether a time between two frames shows a mix of both, and not the earlier one.
    """

    whole: Footage
    start: Fraction
    speed: Fraction = Fraction(1)
    blended: bool = False

    @property
    def identity(self) -> str:
        played = f"×{self.speed}" if self.speed != 1 else ""
        return f"{self.whole.identity}@{self.start}{played}{' blended' if self.blended else ''}"

    def between(self, seconds: Fraction) -> tuple[int, int, float]:
        """The frame shown at a time in seconds, the frame after it, and the weight of the later one."""
        time = self.start + seconds * self.speed
        index = frame_at(self, time)
        if not self.blended or self.rate is None:
            return index, index, 0.0
        past = time * self.rate.exact - index
        later = min(index + 1, self.length - 1)
        return index, later, float(past) if 0 < past < 1 and later > index else 0.0

    @property
    def size(self) -> Size:
        return self.whole.size

    @property
    def rate(self) -> FrameRate | None:
        return self.whole.rate

    @property
    def length(self) -> int:
        return self.whole.length

    def pixels(self, index: int) -> Pixels:
        return self.whole.pixels(index)


@dataclass(frozen=True)
class Nested:
    """Another effect at its own moment, in place of footage.

    Parameters
    ----------
    name : str
        Its name in faults, such as ``Relay Fault on Depot hall``; empty if people do not know of
        it.
    use : str
        A name for this use of it. Faults carry the name, so that the caller can leave the use out.
    length : int
        Its frames, at the rate of the effect that shows it.
    first : int
        Its frame at frame 0 of the effect that shows it. Its first and last frame hold before and
        after it, as with a clip.
    """

    name: str
    effect: Effect
    length: int
    settings: Mapping[str, Any] = field(default_factory=dict)
    materials: Materials = field(default_factory=lambda: Materials())
    first: int = 0
    use: str = ""

    @cached_property
    def identity(self) -> str:
        """Names its content."""
        settings = sorted((slug, repr(value)) for slug, value in self.settings.items())
        told = [self.effect.digest(), self.length, self.first, settings, self.materials.identities]
        return f"nested:{digest_of(told)}"

    def frame_at(self, frame: int) -> int:
        """Its frame at a frame of the effect that shows it."""
        return min(max(frame + self.first, 0), self.length - 1)


@dataclass(frozen=True)
class Sequence:
    """Several fillings in a row in place of footage: at each frame, the one shown, and its frame.

    ``told`` gives a text that names everything it shows.
    """

    told: Callable[[], str]
    at: Callable[[int], tuple[Filling, int]]

    @property
    def identity(self) -> str:
        """Names its content."""
        return self.told()


@dataclass(frozen=True)
class Wired:
    """The result of a step of the surrounding effect, in place of footage.

    ``at`` gives the step for a frame, as the planner of that effect knows it.
    """

    name: str
    at: Callable[[int], Any]

    @property
    def identity(self) -> str:
        """A name for it. The surrounding effect names its content."""
        return f"wired:{self.name}"


Filling = Footage | Nested | Sequence | Wired
"""What fills a slot."""


def shown_at(filling: Filling, frame: int) -> tuple[Footage | Nested | Wired, int]:
    """The footage or effect that a filling shows at a frame, and the number of its own frame."""
    while isinstance(filling, Sequence):
        filling, frame = filling.at(frame)
    return filling, frame


def held_at(filling: Filling, frame: int) -> Sequence:
    """A filling that shows one of its frames all the time."""
    return Sequence(lambda: f"{filling.identity}!{frame}", lambda _: (filling, frame))


@dataclass(frozen=True)
class Materials:
    """The fillings of an effect's slots, and the pictures and fonts that its steps name."""

    slots: Mapping[str, Filling] = field(default_factory=dict)
    assets: Mapping[str, Footage] = field(default_factory=dict)
    fonts: Mapping[str, Font] = field(default_factory=dict)

    @property
    def identities(self) -> list[list[tuple[str, str]]]:
        """The names of all materials, and names of their content."""
        return [named(self.slots), named(self.assets), named(self.fonts)]

    def crossed(self) -> Materials:
        """Materials with the two clips of a transition swapped."""
        first, second = (self.slots.get(name) or stand_in(name) for name in ("from", "to"))
        return replace(self, slots={**self.slots, "from": second, "to": first})


def named(of: Mapping[str, Any]) -> list[tuple[str, str]]:
    """The names of materials, and the names of their content."""
    return [(name, one.identity) for name, one in sorted(of.items())]


STAND_IN = Size(960, 540)


@lru_cache(maxsize=16)
def stand_in(name: str, size: Size = STAND_IN) -> StillPicture:
    """A plain card that stands in for a slot's material.

    Two tones and a diagonal, different for every name, so that a transition between two empty
    slots can be seen.
    """
    tone = sum(name.encode()) * 37 % 97 / 97
    y, x = np.mgrid[0 : size.height, 0 : size.width].astype(np.float32)
    across, down = x / size.height, y / size.height
    stripe = ((across + (down if tone < 0.5 else -down)) * 6 % 1) < 0.5
    level = 0.25 + 0.4 * tone + 0.06 * stripe + 0.1 * (1 - down)
    tint = np.array([1.0, 0.97 - 0.12 * tone, 0.88 + 0.12 * tone], np.float32)
    grey = np.clip(level[..., None] * tint, 0, 1)
    return StillPicture(f"stand-in:{name}:{size}", (grey * 255 + 0.5).astype(np.uint8))
