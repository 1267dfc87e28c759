"""The Lantern Line's footage, painted frame by frame."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from math import cos, pi, sin

import numpy as np
from numpy.typing import NDArray

from .paint import Canvas, Light, clouds, light

Frame = NDArray[np.uint8]
LAMP = light("#FFD9A0")
WINDOW = light("#FFE9B8", 0.95)
RED, TEAL, OCHRE = light("#A3382C"), light("#2F6E73"), light("#B08A35")


def _tram(
    c: Canvas, x: float, y: float, s: float, body: Light, windows: int, lit: float = 1.0
) -> None:
    """Paint a tram from the side, by the middle of its body and its height ``s``."""
    wide = s * (0.55 * windows + 0.5)
    c.box(x, y + 0.66 * s, wide * 0.98, 0.16 * s, light("#15120F"), soft=0.02 * s)
    c.box(x, y, wide, s * 1.15, body, corner=0.09 * s)
    c.box(x, y - 0.52 * s, wide * 0.97, 0.14 * s, tuple(0.55 * v for v in body), corner=0.04 * s)
    c.box(x, y + 0.17 * s, wide, 0.075 * s, light("#D9D2BE"))
    for k in range(windows):
        at = x + (k - (windows - 1) / 2) * 0.55 * s
        c.box(at, y - 0.15 * s, 0.43 * s, 0.46 * s, light("#20160F"), corner=0.04 * s)
        glass = tuple(v * lit * (0.9 + 0.1 * sin(k * 2.3)) for v in WINDOW)
        c.box(at, y - 0.15 * s, 0.385 * s, 0.41 * s, glass, corner=0.03 * s)
        c.box(at, y + 0.0 * s, 0.385 * s, 0.09 * s, tuple(0.5 * v for v in glass))
    c.glow(x, y - 0.1 * s, 0.55 * s, LAMP, 0.06 * lit)


def headlamp(t: float, c: Canvas) -> None:
    """A headlamp coming out of the dark."""
    c.sky(
        [
            (-0.5, light("#05070D")),
            (0.02, light("#121A2A")),
            (0.06, light("#0B0E15")),
            (0.5, light("#07080B")),
        ]
    )
    near = 0.055 + 0.3 * t**2.2
    y = 0.03 + 0.16 * t**2.2
    for side in (-1, 1):
        for k in range(9):
            depth = (k + 1 - (t * 1.6) % 1) / 9
            gain = 1 / (0.12 + depth) - 0.85
            if gain > 0:
                x, high = side * 0.1 * (1 + gain), -0.05 - 0.075 * gain
                c.line(x, high, x, 0.05 + 0.1 * gain, 0.0022 * (1 + gain), light("#0A0C10"))
                c.glow(x, high, 0.008 + 0.007 * gain, LAMP, 1.1)
                c.glow(x * 1.05, 0.08 + 0.12 * gain, 0.02 * gain, LAMP, 0.03)
    for gauge in (-1.0, 1.0):
        c.line(gauge * 0.012, 0.045, gauge * 0.34, 0.52, 0.005, light("#3E4654"), 0.8)
        c.line(gauge * 0.012, 0.045, gauge * 0.34, 0.52, 0.0022, light("#FFD9A0"), 0.25 + 0.5 * t)
    c.box(0, y - 0.25 * near, near * 1.5, near * 1.55, light("#15171C"), corner=0.18 * near)
    c.box(0, y - 0.42 * near, near * 1.22, near * 0.62, light("#20150C"), corner=0.06 * near)
    for k in range(3):
        c.box(
            (k - 1) * 0.4 * near,
            y - 0.42 * near,
            near * 0.35,
            near * 0.5,
            WINDOW,
            corner=0.03 * near,
        )
    c.box(0, y + 0.1 * near, near * 1.5, near * 0.16, light("#7E2B22"))
    c.box(0, y - 0.86 * near, near * 0.6, near * 0.16, light("#F2E3B0", 0.8), corner=0.02 * near)
    lamp = y + 0.24 * near
    for k in range(5):
        c.glow(0, 0.1 + 0.09 * k, 0.03 + 0.05 * k, LAMP, 0.035 * (0.4 + 0.5 * t))
    c.disc(0, lamp, 0.11 * near, light("#FFF6E0", 6), soft=0.01)
    c.glow(0, lamp, 0.22 * near, LAMP, 2.0)
    c.glow(0, lamp, 0.12 + 0.2 * t * t, LAMP, 0.3 - 0.12 * t)
    c.line(
        -0.5 * near - 0.2 * t,
        lamp,
        0.5 * near + 0.2 * t,
        lamp,
        0.002,
        LAMP,
        0.5,
        add=True,
        spread=0.006,
    )
    mist = clouds(c.height, c.width, 5, 4, 11, round(t * 24) / 40)
    c.shade(0.72 + 0.56 * mist)


def wires(t: float, c: Canvas) -> None:
    """Overhead wires against dusk, with poles passing."""
    c.sky(
        [
            (-0.5, light("#24365E")), (-0.15, light("#55608A")), (0.12, light("#B98A86")),
            (0.3, light("#EBB489")), (0.42, light("#F4CFA0")), (0.5, light("#D99E78")),
        ]
    )  # fmt: skip
    haze = clouds(c.height, c.width, 2.5, 4, 5, round(t * 20) / 60)
    band = np.exp(-(((np.arange(c.height) / c.height - 0.62) / 0.16) ** 2)).astype(np.float32)
    streak = np.clip((haze - 0.5) * 3, 0, 1) * band[:, None]
    c.cover(slice(0, c.height), slice(0, c.width), streak * 0.5, light("#F6D2B4"))
    c.glow(0.3 - 0.1 * t, 0.36, 0.16, light("#FFC98A"), 0.5)
    for k in range(26):
        x = (k * 0.137 - 0.12 * t + 1.1) % 2.4 - 1.2
        high = 0.05 + 0.07 * abs(sin(k * 1.7)) + 0.03 * sin(k * 0.6)
        c.box(x, 0.5 - high / 2, 0.11, high, light("#2A2A3A"))
        if k % 3 == 0:
            c.box(x - 0.02, 0.5 - high * 0.55, 0.012, 0.014, LAMP, opacity=0.8)
    dark = light("#14151E")
    for row in range(5):
        drop, base = 0.055 + 0.02 * row, -0.33 + 0.11 * row
        shift = t * (0.5 + 0.11 * row) + row * 0.31
        span = 0.95 + 0.08 * row

        def sag(
            x: NDArray[np.float32],
            d: float = drop,
            b: float = base,
            o: float = shift,
            w: float = span,
        ) -> NDArray[np.float32]:
            place = ((x + o) / w) % 1
            return (b + 0.05 * x + d * 4 * place * (1 - place)).astype(np.float32)

        c.wire(sag, 0.0026 + 0.0006 * row, dark, 0.95)
    for k in range(-1, 3):
        x = k * 0.95 - (t * 0.9) % 0.95 + 0.1
        c.line(x, -0.47, x, 0.55, 0.017, dark)
        c.line(x - 0.2, -0.36, x + 0.2, -0.33, 0.009, dark)
        c.line(x - 0.15, -0.24, x + 0.15, -0.215, 0.007, dark)
        for side in (-1, 1):
            c.disc(x + side * 0.17, -0.35 + 0.012 * side, 0.009, dark)
    c.light *= np.float32(0.9)


def depot(t: float, c: Canvas) -> None:
    """The depot hall with its row of lamps, tracking sideways."""
    c.sky(
        [
            (-0.5, light("#1E2622")),
            (-0.1, light("#38443E")),
            (0.22, light("#4A544B")),
            (0.26, light("#2B2A26")),
            (0.5, light("#171613")),
        ]
    )
    c.shade(0.75 + 0.5 * clouds(c.height, c.width, 4, 5, 21))
    pan = 0.22 * (t - 0.5)
    for k in range(-5, 6):
        far = k * 0.24 - 0.3 * pan
        c.line(far * 0.55, -0.08, far * 2.3, -0.56, 0.006, light("#141A17"), 0.85)
    for row in range(3):
        high = -0.11 - 0.13 * row

        def beam(x: NDArray[np.float32], at: float = high) -> NDArray[np.float32]:
            return (at + 0.012 * np.cos(x * 2)).astype(np.float32)

        c.wire(beam, 0.004 + 0.002 * row, light("#161C19"), 0.8)
    for k in range(-3, 4):
        x = k * 0.46 - 0.6 * pan
        c.box(x, 0.06, 0.02, 0.36, light("#20261F"))
        c.box(x + 0.012, 0.06, 0.004, 0.36, light("#59614F"), opacity=0.6)
    _tram(c, 0.66 - 0.95 * pan, 0.155, 0.1, OCHRE, 6, 0.85)
    _tram(c, 0.16 - 1.15 * pan, 0.165, 0.135, TEAL, 5, 0.95)
    _tram(c, -0.48 - 1.45 * pan, 0.18, 0.19, RED, 4)
    y = np.arange(c.height)[:, None]
    floor = np.clip((y / c.height - 0.79) * 8, 0, 1).astype(np.float32)
    mirrored = c.light[::-1][int(c.height * 0.08) :][: c.height]
    mirrored = np.vstack([mirrored, mirrored[-1:].repeat(c.height - len(mirrored), 0)])
    turned = np.roll(mirrored, int(c.height * 0.66), 0)
    ripple = clouds(c.height, c.width, 14, 3, 8)
    c.light += (floor * (0.08 + 0.16 * ripple))[..., None] * turned
    for rail in range(4):
        c.line(-1.1, 0.34 + 0.05 * rail, 1.1, 0.31 + 0.06 * rail, 0.0035, light("#7B786A"), 0.5)
    for k in range(-4, 5):
        gap = 0.27 * k - 0.75 * pan
        high = -0.27 - 0.012 * (k % 2)
        c.line(gap, -0.5, gap, high - 0.01, 0.002, light("#0E110F"))
        flicker = 1.0 if k != 1 else 0.75 + 0.25 * sin(t * 40) * sin(t * 17)
        c.box(gap, high - 0.004, 0.05, 0.012, light("#101411"), corner=0.004)
        c.disc(gap, high + 0.008, 0.016, light("#FFF3D6", 3 * flicker), soft=0.006)
        c.glow(gap, high + 0.01, 0.045, LAMP, 0.55 * flicker)
        c.glow(gap, 0.3, 0.1, LAMP, 0.025 * flicker)


def ticket(t: float, c: Canvas) -> None:
    """A ticket being punched."""
    wood = clouds(c.height, c.width, 3, 5, 31)
    c.light[:] = (0.35 + 0.75 * wood)[..., None] * np.asarray(light("#5A4634"), np.float32)
    shake: float = sum(float(0.006 * np.exp(-(((t - at) / 0.02) ** 2))) for at in (0.25, 0.5, 0.75))
    x, y = -0.03 + 0.05 * t, 0.01 + shake
    c.box(x + 0.012, y + 0.02, 1.22, 0.62, light("#0C0907"), soft=0.05, opacity=0.75)
    c.box(x, y, 1.2, 0.6, light("#E6D9B4"), corner=0.02)
    paper = clouds(c.height, c.width, 20, 5, 32)
    grey = (np.clip(paper, 0.2, 0.8) - 0.5) * 0.35 + 1
    left, top = c.px(x - 0.6, y - 0.3)
    right, bottom = c.px(x + 0.6, y + 0.3)
    window = (slice(int(top), int(bottom)), slice(int(left), int(right)))
    c.light[window] *= grey[window][..., None]
    ink, red = light("#2B2A33"), light("#9C3026")
    c.box(x, y - 0.215, 1.1, 0.1, ink, corner=0.006)
    for k, wide in enumerate((0.05, 0.03, 0.06, 0.035, 0.05, 0.02, 0.055, 0.03, 0.045, 0.06)):
        c.box(x - 0.46 + 0.075 * k, y - 0.215, wide, 0.05, light("#E6D9B4"))
    for row in range(7):
        for k in range(9):
            wide = 0.028 + 0.024 * abs(sin(row * 3.1 + k * 1.7))
            c.box(x - 0.5 + 0.068 * k, y - 0.11 + 0.045 * row, wide, 0.012, ink, opacity=0.82)
    c.box(x + 0.4, y + 0.19, 0.3, 0.13, red, corner=0.01)
    c.box(x + 0.4, y + 0.19, 0.27, 0.1, light("#E6D9B4"), corner=0.008)
    for k in range(5):
        c.box(x + 0.3 + 0.05 * k, y + 0.19, 0.024, 0.055, red)
    for k in range(24):
        c.box(x - 0.55 + 0.048 * k, y + 0.275, 0.008 + 0.014 * (k % 3 == 0), 0.03, ink)
    spots = ((0.25, 0.26, -0.06), (0.5, 0.42, -0.06), (0.75, 0.34, 0.045))
    for at, dx, dy in spots:
        if t >= at:
            c.disc(x + dx + 0.003, y + dy + 0.004, 0.034, light("#8F8364"), soft=0.008)
            c.disc(x + dx, y + dy, 0.031, light("#171009"), soft=0.003)
        near = min(1.0, abs(t - at) / 0.1)
        if near < 1:
            lift = 0.5 * near**0.7
            c.disc(
                x + dx + 0.02,
                y + dy + 0.03 - 0.5 * lift,
                0.09,
                light("#060504"),
                soft=0.06,
                opacity=0.6,
            )
            c.box(x + dx, y + dy - 0.3 - lift, 0.12, 0.56, light("#3B3E42"), corner=0.03)
            c.box(
                x + dx - 0.03,
                y + dy - 0.3 - lift,
                0.02,
                0.54,
                light("#A9AFB3"),
                opacity=0.7,
                soft=0.012,
            )
            c.disc(x + dx, y + dy - lift, 0.062, light("#2A2C30"), soft=0.004)
            c.disc(x + dx, y + dy - lift, 0.034, light("#0B0B0C"), soft=0.004)
    y_, x_ = np.ogrid[0 : c.height, 0 : c.width]
    far = np.hypot(x_ / c.height - 0.45, y_ / c.height - 0.2)
    c.shade((0.35 + 1.15 * np.exp(-((far / 0.75) ** 2))).astype(np.float32))


_STOPS = (
    (-0.66, 0.24),
    (-0.48, 0.24),
    (-0.32, 0.08),
    (-0.12, 0.08),
    (0.06, -0.1),
    (0.26, -0.1),
    (0.44, 0.08),
    (0.64, 0.08),
    (0.72, -0.16),
)
_BRANCH = ((-0.32, 0.08), (-0.2, -0.16), (0.02, -0.28), (0.3, -0.28))


def _trace(
    c: Canvas, points: tuple[tuple[float, float], ...], share: float, colour: Light
) -> tuple[float, float]:
    """Draw a lit line along points up to now; returns the place of its head."""
    lengths = [float(np.hypot(b[0] - a[0], b[1] - a[1])) for a, b in pairwise(points)]
    rest, head = share * sum(lengths), points[0]
    for (a, b), length in zip(pairwise(points), lengths, strict=True):
        if rest <= 0:
            break
        part = min(1.0, rest / length)
        head = (a[0] + (b[0] - a[0]) * part, a[1] + (b[1] - a[1]) * part)
        c.line(*a, *head, 0.011, colour, add=True, spread=0.02)
        rest -= length
    return head


def route_map(t: float, c: Canvas) -> None:
    """A lit route map drawing itself."""
    c.light[:] = light("#10161A")
    c.shade(0.7 + 0.6 * clouds(c.height, c.width, 6, 4, 41))
    for k in range(-12, 13):
        c.line(k * 0.09, -0.5, k * 0.09 + 0.1, 0.5, 0.0012, light("#2A363C"), 0.5)
        c.line(-1, k * 0.09, 1, k * 0.09 + 0.03, 0.0012, light("#2A363C"), 0.5)
    for k in range(30):
        x, y = 0.9 * sin(k * 12.9), 0.42 * sin(k * 7.3 + 1)
        c.box(x, y, 0.05 + 0.03 * abs(sin(k)), 0.035, light("#172026"), opacity=0.8)
    c.wire(lambda x: 0.34 + 0.06 * np.sin(x * 3.1 + 0.4), 0.05, light("#16303C"), 0.9)
    drawn = min(1.0, t * 1.25) ** 0.9
    amber, teal = light("#FFB84D", 1.3), light("#4FD0C8", 0.9)
    if t > 0.3:
        _trace(c, _BRANCH, min(1.0, (t - 0.3) * 1.8), teal)
    head = _trace(c, _STOPS, drawn, amber)
    total = np.cumsum(
        [0.0] + [float(np.hypot(b[0] - a[0], b[1] - a[1])) for a, b in pairwise(_STOPS)]
    )
    for (x, y), at in zip(_STOPS, total / total[-1], strict=True):
        c.disc(x, y, 0.021, light("#0B0F12"), soft=0.002)
        if drawn >= at:
            age = (drawn - at) * 6
            c.disc(x, y, 0.014, light("#FFF1CF", 1.6), soft=0.003)
            c.glow(x, y, 0.03, amber, 0.5 + 1.6 * np.exp(-age * 3))
            c.box(x + 0.07, y - 0.045, 0.1, 0.009, light("#D8D2BF"), opacity=min(1, age))
            c.box(x + 0.055, y - 0.028, 0.07, 0.006, light("#8C897C"), opacity=min(1, age))
        else:
            c.disc(x, y, 0.01, light("#39444A"), soft=0.003)
    c.glow(*head, 0.045, amber, 1.4)
    c.disc(*head, 0.012, light("#FFFFFF", 3), soft=0.004)


def street_lights(t: float, c: Canvas) -> None:
    """Street lights drifting out of focus."""
    c.sky([(-0.5, light("#0A0D18")), (0.1, light("#161B2E")), (0.5, light("#0B0B12"))])
    blur = 0.006 + 0.062 * (0.5 - 0.5 * cos(pi * min(1.0, t * 1.15)))
    reach = c.width / c.height / 2 + 0.15
    tones = (
        LAMP,
        light("#FF9E57"),
        light("#FF5A4A"),
        light("#8FD8FF"),
        light("#FFE7C2"),
        light("#7CE0A8"),
    )
    for k in range(46):
        depth = 0.35 + 0.65 * ((k * 0.618) % 1)
        x = ((k * 0.381 + t * 0.1 * depth + 0.03 * sin(t * 2 + k)) % 1) * 2 * reach - reach
        y = -0.34 + 0.62 * ((k * 0.723) % 1) ** 1.3 + 0.01 * sin(t * 3 + k * 1.3)
        radius = blur * (0.55 + 0.75 * depth)
        gain = 0.9 * min(14.0, (0.02 / radius) ** 1.5) * (0.5 + depth)
        colour = tones[k % len(tones)]
        c.disc(
            x,
            y,
            radius,
            tuple(gain * v for v in colour),
            soft=0.003 + radius * 0.06,
            add=True,
            rim=0.5,
        )
        c.glow(x, y, radius * 1.3, colour, 0.05 * gain)
        if y < 0.2:
            c.disc(
                x,
                0.62 - 0.7 * y,
                radius * 0.8,
                tuple(0.12 * gain * v for v in colour),
                soft=radius,
                add=True,
            )
    c.glow(0.1, 0.5, 0.35, light("#33405F"), 0.25)


def windows(t: float, c: Canvas) -> None:
    """The tram's window row passing, close by."""
    c.sky([(-0.5, light("#0C1016")), (0.5, light("#06070A"))])
    x0 = 1.5 - 3.4 * t
    c.box(0, 0.02, 4, 0.86, light("#7C2A22"))
    c.shade(0.85 + 0.3 * clouds(c.height, c.width, 3, 3, 51))
    c.box(0, -0.41, 4, 0.05, light("#3A1512"))
    c.box(0, 0.3, 4, 0.035, light("#D6CCB0"))
    c.box(0, 0.345, 4, 0.006, light("#D6CCB0"))
    for k in range(-4, 9):
        x = x0 + (k - 2) * 0.5
        if abs(x) > 1.4:
            continue
        c.box(x, -0.09, 0.43, 0.5, light("#2A1512"), corner=0.045)
        c.box(x, -0.09, 0.395, 0.465, light("#FFDFA6", 0.62), corner=0.035)
        c.box(x, -0.26, 0.36, 0.05, light("#FFF1D0", 1.3), soft=0.03)
        kind = k % 4
        if kind in (0, 2, 3):
            at = x + (-0.06 if kind == 0 else 0.07)
            c.disc(at, -0.02, 0.055, light("#2B1B14"), soft=0.006)
            c.box(at, 0.11, 0.17, 0.16, light("#241812"), corner=0.06)
            if kind == 3:
                c.box(at, -0.075, 0.14, 0.02, light("#2B1B14"))
                c.box(at, -0.095, 0.085, 0.045, light("#2B1B14"), corner=0.01)
        c.box(x, 0.125, 0.395, 0.03, light("#4A2A1C"))
        c.line(x - 0.14, 0.1, x - 0.02, -0.3, 0.02, light("#FFFFFF"), 0.07)
        c.glow(x, -0.1, 0.26, LAMP, 0.1)
    for k in range(5):
        at = ((k * 0.53 + t * 1.9) % 2.6) - 1.3
        c.line(at, -0.5, at - 0.06, 0.5, 0.05, light("#FFE9C8"), 0.05, add=True, spread=0.04)
    c.box(0, 0.49, 4, 0.1, light("#0A0A0B"))


def plate(restored: bool, c: Canvas) -> None:
    """The same tram as found and as restored: two plates that line up to the pixel."""
    if restored:
        c.sky(
            [
                (-0.5, light("#9FB4BE")),
                (0.15, light("#DDE2DA")),
                (0.27, light("#C9C6B4")),
                (0.3, light("#8B8775")),
                (0.5, light("#6E6A5A")),
            ]
        )
    else:
        c.sky(
            [
                (-0.5, light("#6F7674")),
                (0.15, light("#9A9C92")),
                (0.27, light("#7E8168")),
                (0.3, light("#4E5138")),
                (0.5, light("#3C3E2C")),
            ]
        )
    body = RED if restored else light("#6B4A3A")
    _tram(c, 0.0, 0.08, 0.32, body, 4, 0.8 if restored else 0.05)
    for k in (-1, 1):
        c.disc(k * 0.25, 0.31, 0.06, light("#1B1A18"), soft=0.003)
        c.disc(k * 0.25, 0.31, 0.028, light("#77746A" if restored else "#4A3527"), soft=0.003)
    c.line(-0.9, 0.372, 0.9, 0.372, 0.012, light("#5B5A55" if restored else "#4B3B2D"))
    if restored:
        c.box(0.0, 0.205, 0.5, 0.03, light("#E3C36B"), corner=0.004)
        c.line(-0.35, -0.19, 0.35, -0.19, 0.004, light("#F3E6B8"), 0.7)
    else:
        rust = np.clip((clouds(c.height, c.width, 9, 6, 61) - 0.52) * 5, 0, 1)
        rows, columns = np.ogrid[0 : c.height, 0 : c.width]
        across = np.abs(columns - c.width / 2) < 0.425 * c.height
        rust *= across & (rows > 0.395 * c.height) & (rows < 0.765 * c.height)
        c.cover(slice(0, c.height), slice(0, c.width), rust * 0.65, light("#5A3A22"))
        for k in range(60):
            x = 0.9 * sin(k * 5.1)
            c.line(
                x,
                0.5,
                x + 0.03 * sin(k),
                0.33 - 0.05 * abs(sin(k * 1.9)),
                0.004,
                light("#5C6A35"),
                0.9,
            )


@dataclass(frozen=True)
class Clip:
    """One piece of demo footage."""

    name: str
    paint: Callable[[float, Canvas], None]
    width: int = 1280
    height: int = 720
    rate: int = 25
    frames: int = 100
    seed: int = 1

    def frame(self, index: int, scale: float = 1.0) -> Frame:
        """Frame ``index``, (H, W, 3) 8-bit, at a share of the full size."""
        canvas = Canvas(round(self.width * scale), round(self.height * scale))
        self.paint(index / max(1, self.frames - 1), canvas)
        return canvas.finish(self.seed * 10007 + index)


CLIPS = (
    Clip("Headlamp", headlamp, seed=1),
    Clip("Wires at dusk", wires, seed=2),
    Clip("Depot hall", depot, seed=3),
    Clip("Ticket", ticket, seed=4),
    Clip("Route map", route_map, seed=5),
    Clip("Street lights", street_lights, seed=6),
    Clip("Window row", windows, rate=30, frames=120, seed=7),
    Clip("Street lights, upright", street_lights, 720, 1280, seed=8),
)


def plates(scale: float = 1.0) -> dict[str, Frame]:
    """The two plates that line up."""
    made = {}
    for name, restored in (("Tram as found", False), ("Tram restored", True)):
        canvas = Canvas(round(1280 * scale), round(720 * scale))
        plate(restored, canvas)
        made[name] = canvas.finish(90 + restored)
    return made
