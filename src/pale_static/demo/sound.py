"""The Lantern Line's sound, painted like its footage: rails, hum, bells, a punch.

Everything is float32, (samples, 2), 48,000 a second, and the same on every run.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..core.sound import SOUND_RATE, Samples

Line = NDArray[np.float64]


def _time(seconds: float) -> Line:
    return np.arange(round(seconds * SOUND_RATE)) / SOUND_RATE


def _noise(count: int, seed: int, low: float, high: float) -> Line:
    """Noise between two pitches in Hz, at a level of 1."""
    spectrum = np.fft.rfft(np.random.Generator(np.random.PCG64(seed)).standard_normal(count))
    pitch = np.fft.rfftfreq(count, 1 / SOUND_RATE)
    slope = 1 / np.sqrt(np.maximum(pitch, low))
    edge = np.clip((pitch - low / 2) / (low / 2), 0, 1) * np.clip(
        (high * 1.5 - pitch) / (high / 2), 0, 1
    )
    line = np.fft.irfft(spectrum * slope * edge, count)
    return np.asarray(line / max(1e-9, np.sqrt((line**2).mean())))


def _hum(t: Line, pitch: float, partials: tuple[float, ...]) -> Line:
    total = np.zeros_like(t)
    for number, level in enumerate(partials, 1):
        total += level * np.sin(2 * np.pi * pitch * number * t + number)
    return total


def _struck(t: Line, at: float, pitch: float, ring: float, partials: tuple[float, ...]) -> Line:
    """A struck object at a moment: partials that ring, the higher the shorter."""
    since = np.maximum(t - at, 0)
    total = np.zeros_like(t)
    for number, ratio in enumerate(partials, 1):
        total += np.exp(-since * number / ring) * np.sin(2 * np.pi * pitch * ratio * since) / number
    return total * (t >= at)


def _click(t: Line, at: float, seed: int, ring: float = 0.012) -> Line:
    since = np.maximum(t - at, 0)
    return _noise(len(t), seed, 300, 6000) * np.exp(-since / ring) * (t >= at)


BELL = (1.0, 2.0, 2.4, 3.0, 4.5)


def headlamp(t: Line) -> Line:
    """Rails that ring before the tram comes, and its motor."""
    share = t / t[-1]
    rails = _noise(len(t), 1, 60, 400) * (0.02 + 0.16 * share**2)
    motor = _hum(t, 52, (0.5, 0.3, 0.2, 0.12)) * 0.12 * share**2
    return np.asarray(rails + motor)


def wires(t: Line) -> Line:
    """Wind in the wires."""
    gusts: Line = 0.55 + 0.45 * np.sin(2 * np.pi * t / 2.7 + 1) * np.sin(2 * np.pi * t / 1.9)
    return np.asarray(_noise(len(t), 2, 120, 900) * 0.05 * gusts + _hum(t, 210, (0.012, 0.006)))


def depot(t: Line) -> Line:
    """A humming hall with falling drops."""
    drops = [_struck(t, at, pitch, 0.18, (1.0, 1.5, 2.7)) * 0.09
             for at, pitch in ((0.6, 880), (1.7, 990), (2.2, 820), (3.3, 930))]  # fmt: skip
    still = _hum(t, 50, (0.05, 0.035, 0.01, 0.012)) + _noise(len(t), 3, 80, 300) * 0.02
    return np.asarray(still + np.sum(drops, 0))


def ticket(t: Line) -> Line:
    """Three punches, at the times at which the picture shows them."""
    length = t[-1] + t[1]
    hits = [_click(t, share * length * 0.99, 40 + k) * 0.32
            + _struck(t, share * length * 0.99, 190, 0.05, (1.0, 1.6)) * 0.28
            for k, share in enumerate((0.25, 0.5, 0.75))]  # fmt: skip
    return np.asarray(np.sum(hits, 0) + _noise(len(t), 4, 100, 700) * 0.012)


def route_map(t: Line) -> Line:
    """Bells as the line reaches its stops."""
    bells = [
        _struck(t, at, pitch, 0.9, BELL) * 0.11
        for at, pitch in ((0.3, 523.25), (0.9, 587.33), (1.5, 659.26), (2.1, 783.99), (2.8, 880))
    ]
    return np.asarray(np.sum(bells, 0) + _hum(t, 100, (0.008,)))  # fmt: skip


def street_lights(t: Line) -> Line:
    """Lamps that buzz, not quite together."""
    return (
        _hum(t, 100, (0.04, 0.03, 0.012)) * (0.8 + 0.2 * np.sin(2 * np.pi * 1.3 * t))
        + _hum(t, 101.7, (0.03, 0.015))
        + _noise(len(t), 6, 200, 1200) * 0.008
    )


def windows(t: Line) -> Line:
    """The sound of wheels that pass over rail joints."""
    beats = [_click(t, at + late, 70 + k, 0.03) * 0.3
             for k, at in enumerate(np.arange(0.25, t[-1], 0.82)) for late in (0.0, 0.13)]  # fmt: skip
    return np.asarray(np.sum(beats, 0) + _noise(len(t), 7, 50, 500) * 0.08)


SOUNDS: dict[str, Callable[[Line], Line]] = {
    "Headlamp": headlamp, "Wires at dusk": wires, "Depot hall": depot, "Ticket": ticket,
    "Route map": route_map, "Street lights": street_lights, "Window row": windows,
    "Street lights, upright": street_lights,
}  # fmt: skip


def sound_of(name: str, seconds: float) -> Samples:
    """The sound of a clip: slightly wider than mono, with low pitches in the middle."""
    line = SOUNDS[name](_time(seconds))
    soft = np.minimum(1, np.minimum(np.arange(len(line)), np.arange(len(line))[::-1]) / 480)
    line = line * soft
    late = np.concatenate([np.zeros(24), line[:-24]])
    sides = np.stack([0.8 * line + 0.2 * late, 0.2 * line + 0.8 * late], 1)
    return np.clip(sides, -1, 1).astype(np.float32)
