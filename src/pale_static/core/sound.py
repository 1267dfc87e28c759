"""The sound of an edit: shots at their gain, cross-faded at joins, at any speed.

Sound is float32, (samples, 2), 48,000 samples a second, nominally −1..1.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from .reel import Reel, layout_of
from .reel.document import Item, Shot, Source

SOUND_RATE = 48_000
SOFT_EDGE = Fraction(1, 50)
"""Seconds over which sound fades in and out beside a gap, so that it does not click."""
TAPS = 16
"""Zero crossings of the resampling filter on each side."""

Samples = NDArray[np.float32]


class Sound(Protocol):
    """The sound of a material."""

    @property
    def length(self) -> int:
        """Its number of samples."""

    def samples(self, first: int, count: int) -> Samples:
        """Samples from ``first`` on, (count, 2); silence before its beginning and after its end."""


SoundOf = Callable[[str], "Sound | None"]
Mixed = Callable[[int, int], Samples]
"""The samples of a film's sound, from a first one on: ``mixed(first, count)``."""


def samples_of(frames: int, rate: Fraction) -> int:
    """The sample at which a frame begins."""
    return round(Fraction(frames) / rate * SOUND_RATE)


@dataclass(frozen=True)
class _Part:
    """A stretch of the edit in which one material is heard, in samples of the edit."""

    source: Source
    first: int
    end: int
    zero: int
    """The sample at which the shot itself begins."""
    length: int
    comes: tuple[int, int]
    """The samples over which it fades in; :attr:`goes` are those over which it fades out."""
    goes: tuple[int, int]


def parts(reel: Reel) -> list[_Part]:
    """Everything that is heard, in order of time."""
    found = []
    for one in reel.placed:
        source = one if isinstance(one, Source) else one.source
        if source is None or source.mute or source.direction == "freeze":
            continue
        found.append(_part(reel, one, source))
    return found


def _part(reel: Reel, one: Shot | Item, source: Source) -> _Part:
    rate = reel.frame_rate.exact
    begin, end = reel.bounds(one.id)
    before, after = layout_of(reel).joins_of.get(one.id, (None, None))
    first, last = begin, end
    comes, goes = (begin, begin), (end, end)
    if before and before.join.sound == "cross-fade":
        first, comes = before.span.first, (before.span.first, before.span.end)
    if after and after.join.sound == "cross-fade":
        last, goes = after.span.end, (after.span.first, after.span.end)

    def at(frame: int) -> int:
        return samples_of(frame, rate)

    zero, whole = at(begin), at(end) - at(begin)
    edge_in = max(source.fade_in, SOFT_EDGE if _free(reel, one, 0) else Fraction(0))
    edge_out = max(source.fade_out, SOFT_EDGE if _free(reel, one, 1) else Fraction(0))
    rising, falling = (at(comes[0]), at(comes[1])), (at(goes[0]), at(goes[1]))
    if comes[0] == comes[1]:
        rising = (zero, zero + min(whole, round(edge_in * SOUND_RATE)))
    if goes[0] == goes[1]:
        falling = (zero + whole - min(whole, round(edge_out * SOUND_RATE)), zero + whole)
    return _Part(source, at(first), at(last), zero, whole, rising, falling)


def _free(reel: Reel, one: Shot | Item, side: int) -> bool:
    """Whether nothing lies beside this end of a shot; always so on a row above."""
    if isinstance(one, Item):
        return True
    index = reel.shot_index(one.id)
    if side == 0:
        return index == 0 or one.gap > 0
    return index + 1 == len(reel.shots) or reel.shots[index + 1].gap > 0


def mix(reel: Reel, sound_of: SoundOf, first: int, count: int) -> Samples:
    """The sound of an edit from sample ``first`` on, (count, 2), clamped to −1..1.

    Where two shots cross-fade, their gains are cos and sin of one angle, so that the power stays
    the same: cos² + sin² = 1.
    """
    out = np.zeros((count, 2), np.float32)
    for part in parts(reel):
        a, b = max(first, part.first), min(first + count, part.end)
        sound = sound_of(part.source.material) if a < b else None
        if sound is None:
            continue
        heard = _heard(part, sound, a, b)
        out[a - first : b - first] += heard * _gain(part, np.arange(a, b))[:, None]
    return np.clip(out, -1, 1)


def _gain(part: _Part, at: NDArray[np.int64]) -> Samples:
    """The gain at samples of the edit."""
    gain = np.full(len(at), 10 ** (part.source.gain / 20))
    for (start, end), falls in ((part.comes, False), (part.goes, True)):
        if end > start:
            share = np.clip((at - start + 0.5) / (end - start), 0, 1)
            gain *= np.cos(share * np.pi / 2) if falls else np.sin(share * np.pi / 2)
    return gain.astype(np.float32)


def _heard(part: _Part, sound: Sound, a: int, b: int) -> Samples:
    """The material's sound at samples a to b of the edit, before any gain."""
    source, speed = part.source, part.source.speed
    start = source.start * SOUND_RATE
    if source.direction == "backwards":
        # The last sample comes first: positions are mirrored within the stretch that it uses.
        end = start + part.length * speed
        position = end - (b - part.zero) * speed
        heard = _resampled(sound, position, speed, b - a)
        return np.ascontiguousarray(heard[::-1])
    return _resampled(sound, start + (a - part.zero) * speed, speed, b - a)


def _resampled(sound: Sound, position: Fraction, speed: Fraction, count: int) -> Samples:
    """Samples from a position in the material on, ``speed`` apart.

    A windowed sinc; for faster reading it removes frequencies above half the new rate.
    """
    if speed == 1:
        return sound.samples(round(position), count)
    low = min(1.0, 1 / float(speed))
    reach = int(np.ceil(TAPS / low))
    places = float(position) + np.arange(count) * float(speed)
    whole = np.floor(places).astype(np.int64)
    origin = int(whole[0]) - reach
    held = sound.samples(origin, int(whole[-1]) - int(whole[0]) + 2 * reach + 2)
    out = np.zeros((count, 2))
    for tap in range(-reach + 1, reach + 1):
        away = places - (whole + tap)
        window = np.where(np.abs(away) < reach, 0.5 + 0.5 * np.cos(np.pi * away / reach), 0)
        weight = low * np.sinc(low * away) * window
        out += held[whole + tap - origin] * weight[:, None]
    return out.astype(np.float32)


def has_sound(reel: Reel, sound_of: SoundOf) -> bool:
    """Whether anything is heard."""
    return any(sound_of(part.source.material) is not None for part in parts(reel))
