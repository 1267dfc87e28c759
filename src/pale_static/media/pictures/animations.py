"""Animated WebP as footage, read with Pillow: FFmpeg cannot read it."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from threading import Lock
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.faults import Unreadable
from ...core.pictures.lookup import LookupTable
from ...core.pictures.picture import Size
from ...core.time.timing import FrameRate
from ..decoding import pixel_cache
from ..facts import Facts, file_identity
from ..reading import AS_TOLD, Reading, shown


class AnimatedPicture:
    """Frames of an animated WebP at a constant rate: that of its mean duration."""

    nbytes = 1 << 20

    def __init__(
        self, path: Path, identity: str | None = None, name: str | None = None,
        reading: Reading = AS_TOLD, table: LookupTable | None = None,
    ) -> None:  # fmt: skip
        from PIL import Image  # takes long to load

        self.identity = (identity or file_identity(path)) + reading.mark()
        self.name, self._reading, self._table = name or path.name, reading, table
        self._lock, self._cache = Lock(), pixel_cache()
        try:
            self._image = Image.open(path)
            self.length = int(getattr(self._image, "n_frames", 1))
            self.size = Size(self._image.width, self._image.height)
            durations = [self._duration(n) for n in range(self.length)]
        except (OSError, ValueError, EOFError, SyntaxError) as fault:
            raise Unreadable(f"{self.name} is damaged and cannot be read.") from fault
        self.varying = len(set(durations)) > 2
        mean = Fraction(sum(durations), 1000 * self.length) or Fraction(1, 25)
        self.rate = FrameRate.of((1 / mean).limit_denominator(1001))

    def _duration(self, index: int) -> int:
        self._image.seek(index)
        self._image.load()
        return int(self._image.info.get("duration", 40))

    def pixels(self, index: int) -> NDArray[Any]:
        """A frame: straight 8-bit RGBA, or a float picture if ``reading`` changes colours."""
        index = min(max(index, 0), self.length - 1)
        with self._lock:
            held = self._cache.get(index)
            if held is None:
                try:
                    self._image.seek(index)
                    straight = np.array(self._image.convert("RGBA"))
                    held = shown(straight, "sRGB", self._reading, self._table)
                except (OSError, ValueError, EOFError) as fault:
                    raise Unreadable(f"{self.name} is damaged at frame {index}.") from fault
                self._cache.put(index, held)
        return held

    def facts(self) -> Facts:
        """The facts of the file."""
        problems = ("Varying frame rate: shown at its average.",) if self.varying else ()
        return Facts(
            kind="video", width=self.size.width, height=self.size.height, rate=str(self.rate),
            frames=self.length, seconds=float(self.length / self.rate.exact), alpha=True,
            coding="animated WebP", problems=problems,
        )  # fmt: skip

    def close(self) -> None:
        """Close the file."""
        with self._lock:
            self._image.close()
            self._cache.clear()
