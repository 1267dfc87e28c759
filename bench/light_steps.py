"""References for steps of light, surface and time, built from general-purpose libraries."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
from scipy.ndimage import distance_transform_edt
from skimage.filters import sobel

_LUMA = np.float32([0.2126, 0.7152, 0.0722])


def _linear(code: Any) -> Any:
    return np.where(code <= 0.04045, code / 12.92, ((code + 0.055) / 1.055) ** np.float32(2.4))


def _encoded(light: Any) -> Any:
    root = np.maximum(light, 0) ** np.float32(1 / 2.4)
    return np.where(light <= 0.0031308, light * 12.92, 1.055 * root - 0.055)


def _gauss(plane: Any, sigma: float) -> Any:
    return cv2.GaussianBlur(plane, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE)


def _glow(w: Any, sizes: tuple[float, ...]) -> Any:
    light = _linear(w.one[..., :3])
    bright = light * np.clip((w.one[..., :3] @ _LUMA - 0.5) * 5, 0, 1)[..., None]
    spread = sum(_gauss(bright, size * w.unit) for size in sizes) / len(sizes)
    return np.dstack([_encoded(light + spread), w.one[..., 3]])


def _sweep(w: Any) -> Any:
    d = w.x * np.float32(0.94) + w.y * np.float32(0.34) - np.float32(w.size.width / 2)
    u = np.clip((1 - np.abs(d) / (10 * w.unit)) / 0.8, 0, 1)
    band = u * u * (3 - 2 * u) * w.one[..., 3]
    return np.dstack([w.one[..., :3] + band[..., None], w.one[..., 3]])


def _vignette(w: Any) -> Any:
    r = np.hypot(w.x / w.size.width - 0.5, w.y / w.size.height - 0.5) * np.float32(1.4)
    t = np.clip((r - 0.3) / 0.8, 0, 1)
    shade = 1 - np.float32(0.6) * t * t * (3 - 2 * t)
    return np.dstack([w.one[..., :3] * shade[..., None], w.one[..., 3]])


def _shadow(w: Any) -> Any:
    moved = cv2.warpAffine(w.one[..., 3], np.float32([[1, 0, 9], [0, 1, 9]]),
                           (w.size.width, w.size.height))  # fmt: skip
    soft = _gauss(moved, w.unit) * np.float32(0.6)
    return w.one + np.dstack([soft * 0, soft * 0, soft * 0, soft]) * (1 - w.one[..., 3:])


def _relief(w: Any) -> Any:
    height = _gauss(w.other, 0.3 * w.unit) * np.float32(3 * w.unit)
    gx, gy = cv2.Sobel(height, -1, 1, 0, scale=-0.125), cv2.Sobel(height, -1, 0, 1, scale=-0.125)
    shade = (gx * -0.5 + gy * -0.5 + np.float32(0.7)) / np.sqrt(gx * gx + gy * gy + 1)
    shade = np.maximum(shade, 0)
    luma = w.one[..., :3] @ _LUMA
    scale = luma.mean() / (luma * shade).mean()
    return np.dstack([w.one[..., :3] * (shade * scale)[..., None], w.one[..., 3]])


def _coloured(w: Any) -> Any:
    inside = w.matte > 0.5
    d = distance_transform_edt(~inside) - distance_transform_edt(inside)
    place = np.clip(d / (2 * w.unit), 0, 1)
    return np.dstack([np.interp(place, [0, 0.5, 1], t).astype(np.float32)
                      for t in ([1, 1, 0.5], [1, 0.5, 0.2], [1, 0.2, 0.4], [1, 1, 0])])  # fmt: skip


def _pane(w: Any) -> Any:
    dx, dy = (
        np.abs(w.x - w.size.width / 2) - 35 * w.unit,
        np.abs(w.y - w.size.height / 2) - 20 * w.unit,
    )
    d = (
        np.hypot(np.maximum(dx, 0), np.maximum(dy, 0))
        + np.minimum(np.maximum(dx, dy), 0)
        - 5 * w.unit
    )
    t = np.clip(-d / (6 * w.unit), 0, 1)
    height = np.sqrt(1 - (1 - t) ** 2)
    angle = np.arctan((1 - t) / np.maximum(height, 0.02))
    way = height * 6 * w.unit * np.tan(angle - np.arcsin(np.sin(angle) / np.float32(1.5)))
    gy, gx = np.gradient(-d)
    seen = [cv2.remap(np.ascontiguousarray(w.one[..., c]), (w.x + gx * way * k).astype(np.float32),
                      (w.y + gy * way * k).astype(np.float32), cv2.INTER_LINEAR)
            for c, k in ((0, 0.95), (1, 1.0), (2, 1.05))]  # fmt: skip
    cover = np.clip(0.5 - d, 0, 1)[..., None]
    return w.one * (1 - cover) + np.dstack([*seen, w.one[..., 3]]) * cover


def _defocus(w: Any, radius: float) -> Any:
    side = 2 * round(radius) + 1
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side)).astype(np.float32)
    light = cv2.filter2D(_linear(w.one[..., :3]), -1, disc / disc.sum())
    return np.dstack([_encoded(light), w.one[..., 3]])


def _caustic(w: Any) -> Any:
    rng = np.random.default_rng(2)
    right, down = np.zeros(w.shape, np.float32), np.zeros(w.shape, np.float32)
    for kx, ky, phase in rng.uniform(-9, 9, (20, 3)):
        wave = np.sin((w.x * kx + w.y * ky) * np.float32(2 * np.pi / w.size.height) + phase)
        right += np.float32(kx * 0.2) * wave
        down += np.float32(ky * 0.2) * wave
    high, wide = w.shape
    at = ((w.y + down).astype(int) % high) * wide + (w.x + right).astype(int) % wide
    light = np.bincount(at.ravel(), minlength=high * wide).reshape(high, wide)
    return _gauss(light.astype(np.float32), 1.0)


def _drops(w: Any) -> Any:
    rng = np.random.default_rng(3)
    field = np.zeros(w.shape, np.float32)
    for x, y, r in rng.random((600, 3)):
        radius = 0.3 * w.unit + 2.5 * w.unit * r**3
        cx, cy = x * w.size.width, y * w.size.height
        x0, x1 = max(0, int(cx - radius)), min(w.size.width, int(cx + radius) + 1)
        y0, y1 = max(0, int(cy - radius)), min(w.size.height, int(cy + radius) + 1)
        part = (w.x[y0:y1, x0:x1] - cx) ** 2 + (w.y[y0:y1, x0:x1] - cy) ** 2
        cap = np.sqrt(np.maximum(1 - part / radius**2, 0))
        field[y0:y1, x0:x1] = np.cbrt(field[y0:y1, x0:x1] ** 3 + cap**3)
    return field


def _dirt(w: Any) -> Any:
    rng = np.random.default_rng(4)
    out = np.zeros(w.shape, np.float32)
    for x0, y0, dx, dy in rng.random((80, 4)):
        one = (int(x0 * w.size.width), int(y0 * w.size.height))
        two = (one[0] + int(dx * 2 * w.unit), one[1] + int(dy * 2 * w.unit))
        cv2.line(out, one, two, 1.0, max(1, int(0.4 * w.unit)), cv2.LINE_AA)
    return out


def _flare(w: Any) -> Any:
    dx, dy = w.x - w.size.width * np.float32(0.3), w.y - w.size.height * np.float32(0.3)
    r = np.hypot(dx, dy)
    light = (1 + (r / (2 * w.unit)) ** 2) ** -2 + 0.05 * np.maximum(1 - r / (45 * w.unit), 0) ** 2
    light += 0.3 * np.maximum(1 - np.abs(dx) / (80 * w.unit), 0) ** 3 / (1 + dy * dy)
    for k in range(6):
        far = np.hypot(dx - k * 9 * w.unit, dy - k * 9 * w.unit)
        light += 0.05 * np.clip(6 * w.unit - far, 0, 1)
    return _encoded(light[..., None] * np.float32([1, 0.8, 0.5]))


def _copies(w: Any) -> Any:
    out = w.one
    for k in (1, 2, 3):
        scale = 1 + 0.15 * k
        matrix = np.float32([[scale, 0, -0.5 * (scale - 1) * w.size.width],
                             [0, scale, -0.5 * (scale - 1) * w.size.height]])  # fmt: skip
        copy = cv2.warpAffine(w.one, matrix, (w.size.width, w.size.height)) * np.float32(0.4**k)
        out = copy + out * (1 - copy[..., 3:])
    return out


def entries(entry: Callable[..., Any]) -> dict[str, Any]:
    """The reference of each step; see :mod:`.steps`."""
    return {
        "caustic": entry("NumPy, one ray a pixel", _caustic),
        "beads": entry("NumPy", _drops),
        "dirt": entry("cv2.line", _dirt),
        "flare": entry("NumPy", _flare),
        "defocus": entry("cv2.filter2D + NumPy", lambda w: _defocus(w, 3 * w.unit)),
        "glow": entry("three cv2.GaussianBlur + NumPy", lambda w: _glow(w, (4, 2, 1))),
        "bloom": entry("five cv2.GaussianBlur + NumPy", lambda w: _glow(w, (12, 6, 3, 1.5, 0.75))),
        "light-sweep": entry("NumPy", _sweep, progress=0.5),
        "vignette": entry("NumPy", _vignette),
        "shadow": entry("cv2.warpAffine + GaussianBlur", _shadow),
        "edges": entry("skimage.filters.sobel", lambda w: sobel(_gauss(w.one[..., :3] @ _LUMA, 0.7))),
        "relief": entry("cv2.Sobel + NumPy", _relief),
        "distance-colours": entry("scipy distance_transform_edt", _coloured, matte=True),
        "glass-pane": entry("NumPy + three cv2.remap", _pane),
        "echo": entry("three cv2.warpAffine", _copies),
        "time-slice": entry("NumPy, two frames", lambda w: w.one * (1 - w.other[..., None]) + w.two * w.other[..., None], reach=1.0),
        "reverse": entry("numpy copy", lambda w: w.one.copy()),
        "speed": entry("cv2.addWeighted", lambda w: cv2.addWeighted(w.one, 0.5, w.two, 0.5, 0)),
        "hold-and-blend": entry("cv2.addWeighted",
                                lambda w: cv2.addWeighted(w.one, 0.5, w.two, 0.5, 0)),
    }  # fmt: skip
