"""Every step against a general-purpose library doing the same work, at two sizes."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import partial
from typing import Any

import cv2
import numpy as np
import pyfastnoiselite.pyfastnoiselite as lite
import skimage.transform
from PIL import Image, ImageDraw, ImageFont

from pale_static.core import FrameRate, Materials, Moment, Size, StillPicture
from pale_static.core.faults import Fault
from pale_static.core.lettering import shipped
from pale_static.core.pictures.picture import from_pixels
from pale_static.core.steps import Call, StepKind, step_kind, step_kinds
from pale_static.core.values.params import Choice
from pale_static.demo.clips import CLIPS

from . import light_steps
from .measure import Row, Work, alternate, once, times

SIZES = (Size(960, 540), Size(1920, 1080))
SLOWEST = 1.2
"""The limit of a step's time, as a multiple of its reference's."""
CHOSEN = 10.0
"""The same for the slowest of a step's choices, which may do more than its reference."""
_HALF = np.float32(0.5)
_MOMENT = Moment(12, 25, FrameRate.of(25))


class World:
    """The inputs of steps at one size: two pictures, two mattes, and an 8-bit still."""

    def __init__(self, size: Size) -> None:
        self.size, self.shape = size, (size.height, size.width)
        self.still = CLIPS[0].frame(60)
        frames = [
            cv2.resize(CLIPS[k].frame(40), (size.width, size.height), interpolation=cv2.INTER_AREA)
            for k in (0, 1)
        ]
        self.one, self.two = (from_pixels(np.asarray(frame)) for frame in frames)
        self.eight = frames[0]
        rng = np.random.default_rng(1)
        small = rng.random((9, 16), np.float32)
        self.matte: Any = np.clip(
            cv2.resize(small, (size.width, size.height), interpolation=cv2.INTER_CUBIC), 0, 1
        )
        self.other: Any = np.ascontiguousarray(self.matte[::-1])
        y, x = np.mgrid[0 : size.height, 0 : size.width].astype(np.float32)
        self.x, self.y = x, y
        self.unit = size.height / 100

    def call(self, kind: str, values: dict[str, Any], matte: bool) -> Call:
        told = step_kind(kind)
        inputs: dict[str, Any] = {}
        for source in told.inputs:
            if not source.optional:
                inputs[source.name] = self.other if source.takes == "matte" or matte else self.two
        main = self.matte if told.main == "matte" or matte else self.one
        defaults = {param.name: param.default for param in told.params} | dict(told.fresh)
        return Call(
            values=defaults | values, size=self.size, moment=_MOMENT, inputs=inputs,
            arriving=None if told.main is None else main,
            materials=Materials({"clip": StillPicture("still", self.still)},
                                {"still": StillPicture("still", self.still)}),
            previous=self.two if kind == "trail" else None, series=(main, self.two),
        )  # fmt: skip


def _once(kind: StepKind, call: Call) -> Any:
    """The work of a step for one frame, with all frames that it gathers."""
    if not kind.gathers:
        return kind.compute(call)
    frames = kind.frames(call) if kind.frames else ()
    out = None
    for k in range(len(frames)):
        out = kind.compute(replace(call, previous=out, part=(k, len(frames))))
    return out


def _gauss(plane: Any, sigma: float) -> Any:
    return cv2.GaussianBlur(plane, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE)


def _affine(plane: Any, matrix: Any) -> Any:
    high, wide = plane.shape[:2]
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    return cv2.warpAffine(plane, matrix, (wide, high), flags=flags, borderMode=cv2.BORDER_REPLICATE)


def _shifted(w: World, shifts: list[tuple[float, float]]) -> Any:
    planes = cv2.split(w.one)
    made = [
        _affine(planes[c], np.array([[1, 0, dx], [0, 1, dy]], np.float64))
        for c, (dx, dy) in enumerate(shifts)
    ]
    return cv2.merge([*made, planes[3]])


def _remap(w: World, x: Any, y: Any) -> Any:
    return cv2.remap(w.one, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)


def _polar_blur(w: World, kernel: tuple[int, int]) -> Any:
    wide, high = w.size.width, w.size.height
    centre, reach = (wide / 2, high / 2), float(np.hypot(wide, high) / 2)
    flags = cv2.INTER_LINEAR | cv2.WARP_FILL_OUTLIERS
    # As many angles as pixels around the border, so that the outer parts keep their detail.
    size = (int(reach), int(2 * np.pi * reach))
    turned = cv2.warpPolar(w.one, size, centre, reach, flags)
    soft = cv2.blur(turned, kernel)
    back = flags | cv2.WARP_INVERSE_MAP
    return cv2.warpPolar(soft, (wide, high), centre, reach, back)


def _noise(w: World, cellular: bool) -> Work:
    library = lite.FastNoiseLite(1)
    library.frequency = 1.0
    points = [w.x.ravel() * 8 / w.size.height, w.y.ravel() * 8 / w.size.height]
    if cellular:
        library.noise_type = lite.NoiseType.NoiseType_Cellular
    else:
        library.noise_type = lite.NoiseType.NoiseType_Perlin
        library.fractal_type = lite.FractalType.FractalType_FBm
        library.fractal_octaves = 4
        points.append(np.full(w.x.size, 0.37))
    at = np.stack(points).astype(np.float32)
    return lambda: library.gen_from_coords(at)


def _lettered(w: World) -> Any:
    import io

    font = ImageFont.truetype(io.BytesIO(shipped("Rubik", "bold").data), 0.12 * w.size.height)

    def draw() -> Any:
        picture = Image.new("RGBA", (w.size.width, w.size.height))
        at = (w.size.width / 2, w.size.height / 2)
        ImageDraw.Draw(picture).text(at, "Lantern Line", "#FFFFFF", font, anchor="mm")
        return from_pixels(np.asarray(picture))

    return draw


def _blocks(w: World) -> Any:
    rng = np.random.default_rng(3)
    spots = rng.random((60, 4))

    def draw() -> Any:
        picture = np.zeros((*w.shape, 4), np.float32)
        for x, y, wide, high in spots:
            left, top = int(x * w.size.width), int(y * w.size.height)
            to = (left + int(wide * 0.3 * w.size.width), top + int(high * 0.06 * w.size.height))
            cv2.rectangle(picture, (left, top), to, (x, x, x, 1.0), -1)
        return picture

    return draw


def _luma(picture: Any) -> Any:
    return cv2.transform(picture, np.array([[0.2126, 0.7152, 0.0722, 0]]))


def _supersampled(w: World, inks: int) -> Any:
    """A dot screen by 16 samples a pixel: thresholds looked up in a small tile."""
    at = (np.arange(64) + 0.5) / 64
    height = np.cos(2 * np.pi * at)[None] + np.cos(2 * np.pi * at)[:, None]
    tile = np.argsort(np.argsort(-height.ravel())).reshape(64, 64).astype(np.float32) / 4096
    cell, c, s = 1.5 * w.unit, np.float32(np.cos(0.8)), np.float32(np.sin(0.8))

    def draw() -> Any:
        cover = np.zeros(w.shape, np.float32)
        tone = 1 - _luma(w.one)
        for _ in range(inks):
            for j in range(4):
                for i in range(4):
                    x, y = w.x + i / 4, w.y + j / 4
                    u = ((x * c + y * s) / cell % 1 * 64).astype(np.int32)
                    v = ((y * c - x * s) / cell % 1 * 64).astype(np.int32)
                    cover += tile[v, u] < tone
        return w.one * (1 - cover[..., None] / 16)

    return draw


def _mapped_blur(w: World) -> Any:
    place = np.linspace(0, 1, 6)
    out = np.zeros_like(w.one)
    for k, share in enumerate(place):
        soft = _gauss(w.one, 3 * w.unit * share) if share else w.one
        out += soft * np.interp(w.other, place, np.eye(6)[k]).astype(np.float32)[..., None]
    return out


def _wear(w: World) -> Any:
    shift = (np.sin(w.y[:, :1] * 0.7) * 3).astype(np.float32)
    moved = _remap(w, w.x + shift, w.y)
    soft = _gauss(moved, 1.5 * w.unit)
    luma = np.array([0.2126, 0.7152, 0.0722], np.float32)
    change = (moved[..., :3] - soft[..., :3]) @ luma
    return np.dstack([soft[..., :3] + change[..., None], moved[..., 3]])


def _ring(w: World, radius: float) -> Any:
    side = 2 * max(1, round(radius)) + 1
    return cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side))


_GREY = np.array([[0.2126, 0.7152, 0.0722]] * 3)


def _matrix(amount: float) -> Any:
    out = np.eye(4)
    out[:3, :3] = _GREY + amount * (np.eye(3) - _GREY)
    return out


def _wave(w: World, period: float) -> Any:
    return 0.5 + 0.5 * np.sign(np.sin((w.x * 0.9 + w.y * 0.4) * (2 * np.pi / period)))


def _pattern(w: World, both: bool) -> Any:
    period = 5 * w.unit
    u, v = np.sin(w.x * (2 * np.pi / period)), np.sin(w.y * (2 * np.pi / period))
    return np.clip((u * v if both else u + v) * period / 4 + 0.5, 0, 1)


def _pulled(w: World) -> Any:
    """Four corners pulled: the inverse of a bilinear patch in closed form, then read."""
    p, q, r, t = (np.array(at, np.float32) for at in ((0.06, 0.08), (1, 0), (0.96, 0.9), (0, 1)))
    x, y = (w.x + _HALF) / w.size.width - p[0], (w.y + _HALF) / w.size.height - p[1]
    e, f, g = q - p, t - p, p - q + r - t
    k2 = g[0] * f[1] - g[1] * f[0]
    k1 = e[0] * f[1] - e[1] * f[0] + x * g[1] - y * g[0]
    k0 = x * e[1] - y * e[0]
    root = np.sqrt(np.maximum(k1 * k1 - 4 * k0 * k2, 0))
    v = -2 * k0 / (k1 + root)
    u = (x - f[0] * v) / (e[0] + g[0] * v)
    return _remap(w, u * w.size.width - _HALF, v * w.size.height - _HALF)


def _lens(w: World) -> Any:
    wide, high = w.size.width, w.size.height
    camera = np.array([[wide, 0, wide / 2], [0, wide, high / 2], [0, 0, 1]], np.float64)
    bend = np.array([0.2, 0, 0, 0, 0])

    def work() -> Any:
        maps = cv2.initUndistortRectifyMap(
            camera, bend, np.eye(3), camera, (wide, high), cv2.CV_32FC1
        )
        return _remap(w, *maps)

    return work


def _ripples(w: World) -> Any:
    dx, dy = w.x - w.size.width / 2, w.y - w.size.height / 2
    far = np.hypot(dx, dy) + np.float32(1e-6)
    push = w.unit * np.sin(far * np.float32(2 * np.pi / (12 * w.unit))) / far
    return _remap(w, w.x + dx * push, w.y + dy * push)


def _pixels(w: World) -> Any:
    small = cv2.resize(w.one, (18, 10), interpolation=cv2.INTER_NEAREST)
    return cv2.resize(small, (w.size.width, w.size.height), interpolation=cv2.INTER_NEAREST)


def _slid(w: World) -> Any:
    out = np.empty_like(w.one)
    for k in range(24):
        top, end = k * len(out) // 24, (k + 1) * len(out) // 24
        out[top:end] = np.roll(w.one[top:end], k * 7, 1)
    return out


def _keyed(w: World) -> Any:
    plane = cv2.cvtColor(w.one[..., :3], cv2.COLOR_RGB2YCrCb)
    far = np.hypot(plane[..., 1] - 0.4, plane[..., 2] - 0.6)
    alpha = np.clip((far - 0.1) * 5, 0, 1)
    return w.one * alpha[..., None]


def _over(w: World, opacity: float) -> Any:
    part = w.two * np.float32(opacity)
    return part + w.one * (1 - part[..., 3:])


def _wiped(w: World) -> Any:
    weight = np.clip((np.float32(0.6) - w.other) / np.float32(0.2), 0, 1)[..., None]
    return w.one + (w.two - w.one) * weight


def _grains(w: World) -> Any:
    rng = np.random.default_rng(4)
    noise = rng.standard_normal((*w.shape, 3), np.float32)
    return np.dstack([w.one[..., :3] + np.float32(0.08) * _gauss(noise, 0.8), w.one[..., 3]])


def _tinted(w: World) -> Any:
    grey = _luma(w.one)
    at = [0, 0.5, 1]
    return np.dstack([np.interp(grey, at, t).astype(np.float32)
                      for t in ([0.1, 0.7, 1], [0.1, 0.3, 0.9], [0.2, 0.2, 0.7])] + [w.one[..., 3]])  # fmt: skip


def _rimmed(w: World) -> Any:
    inside = (w.matte > 0.5).astype(np.uint8)
    far = cv2.distanceTransform(inside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return np.clip(far / (w.unit * 1.0), 0, 1) * (far < 2 * w.unit)


def _ordered(w: World) -> Any:
    small = cv2.resize(w.one, (444, 250), interpolation=cv2.INTER_AREA)
    bayer = np.tile(np.arange(16, dtype=np.float32).reshape(4, 4) / 16, (63, 111))[:250, :444]
    made = (small > bayer[..., None]).astype(np.float32)
    return cv2.resize(made, (w.size.width, w.size.height), interpolation=cv2.INTER_NEAREST)


def _scaled(w: World) -> Any:
    size = (w.size.width, w.size.height)
    shrink = size[0] < w.still.shape[1]
    how = cv2.INTER_AREA if shrink else cv2.INTER_LINEAR
    return cv2.resize(w.still, size, interpolation=how)


def _soft_shape(w: World) -> Any:
    wide, high = w.size.width, w.size.height
    disc = np.zeros(w.shape, np.float32)
    cv2.ellipse(disc, (wide // 2, high // 2), (wide // 5, high // 5), 0, 0, 360, 1.0, -1)
    disc = _gauss(disc, 1.0)
    return disc[..., None] * np.ones(4, np.float32)


def _leveled(w: World) -> Any:
    colour = np.clip((w.one[..., :3] - 0.1) / np.float32(0.8), 0, 1) ** np.float32(0.8)
    return np.dstack([colour, w.one[..., 3]])


def _balanced(w: World) -> Any:
    colour = np.clip(w.one[..., :3] * np.float32([1.3, 1, 0.9]) + np.float32(0.02), 0, 1)
    colour = colour ** np.float32([1, 1.1, 1.3])
    grey = (colour @ np.float32([0.2126, 0.7152, 0.0722]))[..., None]
    return np.dstack([grey + np.float32(0.8) * (colour - grey), w.one[..., 3]])


Entry = tuple[dict[str, Any], str, Callable[[World], Any], bool]


def _now(work: Callable[[World], Any]) -> Callable[[World], Any]:
    """The work of each frame, for a reference that prepares something first."""
    return lambda w: lambda: work(w)


def _entry(
    reference: str, work: Callable[[World], Any], prepared: bool = False, matte: bool = False,
    **values: Any,
) -> Entry:  # fmt: skip
    return values, reference, work if prepared else _now(work), matte


_LENGTH = 5
ENTRIES: dict[str, Entry] = {
    "slot": _entry("cv2.resize", _scaled),
    "still": _entry("cv2.resize", _scaled, asset="still"),
    "continue-from": _entry("numpy copy", lambda w: w.two.copy()),
    "flat": _entry("numpy.full", lambda w: np.full((*w.shape, 4), [0.5, 0.5, 0.5, 1], np.float32)),
    "ramp": _entry("NumPy", lambda w: np.clip(w.x / w.size.width, 0, 1)),
    "noise": _entry("pyfastnoiselite, 4 octaves", lambda w: _noise(w, False), True),
    "title": _entry("Pillow", _lettered, True),
    "stripes": _entry("NumPy", lambda w: _wave(w, 5 * w.unit)),
    "checks": _entry("NumPy", lambda w: _pattern(w, True)),
    "dots": _entry("NumPy", lambda w: _pattern(w, False)),
    "shape": _entry("cv2.ellipse + GaussianBlur", _soft_shape),
    "blocks": _entry("cv2.rectangle", _blocks, True, hold=1),
    "levels": _entry("NumPy", _leveled, black_in=0.1, white_in=0.9, gamma=1.25),
    "threshold": _entry("cv2.transform + threshold",
                        lambda w: cv2.threshold(_luma(w.one), 0.5, 1, cv2.THRESH_BINARY)),
    "invert": _entry("NumPy", lambda w: np.dstack([w.one[..., 3:] - w.one[..., :3], w.one[..., 3:]])),
    "channel": _entry("cv2.transform", lambda w: _luma(w.one)),
    "posterise": _entry("NumPy", lambda w: np.rint(w.one * 10) / 10, tone_gap=0.1),
    "solarise": _entry("NumPy", lambda w: np.where(w.one > _HALF, 1 - w.one, w.one)),
    "saturation": _entry("cv2.transform", lambda w: cv2.transform(w.one, _matrix(1.4)), amount=1.4),
    "hue-turn": _entry("cv2.transform", lambda w: cv2.transform(w.one, _matrix(-0.4)), turn=40),
    "balance": _entry("NumPy", _balanced, slope_red=1.3, power_blue=1.3, saturation=0.8),
    "tint": _entry("numpy.interp", _tinted),
    "lookup-table": _entry("numpy copy", lambda w: w.one.copy()),
    "key": _entry("cv2.cvtColor + NumPy", _keyed),
    "blur": _entry("cv2.GaussianBlur", lambda w: _gauss(w.one, w.unit)),
    "streak-blur": _entry("cv2.filter2D", lambda w: cv2.filter2D(
        w.one, -1, np.eye(int(_LENGTH * w.unit * 0.7) | 1, dtype=np.float32)), angle=45.0),
    "zoom-blur": _entry("cv2.warpPolar + blur", lambda w: _polar_blur(w, (int(9 * w.unit), 1))),
    "rotary-blur": _entry("cv2.warpPolar + blur", lambda w: _polar_blur(w, (1, int(16 * w.unit)))),
    "mapped-blur": _entry("six cv2.GaussianBlur", _mapped_blur),
    "guided-blur": _entry("cv2.bilateralFilter", lambda w: cv2.bilateralFilter(
        np.ascontiguousarray(w.one[..., :3]), int(4 * w.unit), 0.1, 2 * w.unit)),
    "sharpen": _entry("cv2.GaussianBlur + addWeighted", lambda w: cv2.addWeighted(
        w.one, 1.5, _gauss(w.one, 0.3 * w.unit), -0.5, 0)),
    "grow": _entry("cv2.dilate", lambda w: cv2.dilate(w.matte, _ring(w, w.unit)), amount=1.0),
    "feather": _entry("cv2.GaussianBlur", lambda w: _gauss(w.matte, w.unit)),
    "rim": _entry("cv2.distanceTransform", _rimmed),
    "matte-to-alpha": _entry("NumPy", lambda w: w.one * w.other[..., None]),
    "matte-maths": _entry("numpy.maximum", lambda w: np.maximum(w.matte, w.other)),
    "transform": _entry("cv2.warpAffine", lambda w: _affine(
        w.one, np.array([[0.9, 0.2, 9], [-0.2, 0.9, 7]])), scale_x=1.1, scale_y=1.1, turn=12),
    "corner-pull": _entry("NumPy + cv2.remap", _pulled, top_left=[0.06, 0.08],
                          bottom_right=[0.96, 0.9]),
    "displace": _entry("NumPy + cv2.remap", lambda w: _remap(
        w, w.x + (w.other - _HALF) * np.float32(20), w.y + (w.other - _HALF) * np.float32(20))),
    "lens-bend": _entry("cv2.initUndistortRectifyMap + remap", _lens, True),
    "colour-split": _entry("three cv2.warpAffine", lambda w: _shifted(w, [(9, 0), (0, 0), (-9, 0)])),
    "pixelate": _entry("cv2.resize twice", _pixels),
    "ripple": _entry("NumPy + cv2.remap", _ripples),
    "twirl": _entry("skimage.transform.swirl", lambda w: skimage.transform.swirl(
        w.one, strength=2, radius=w.size.height / 2)),
    "polar": _entry("cv2.warpPolar", lambda w: cv2.warpPolar(
        w.one, (w.size.width, w.size.height), (w.size.width / 2, w.size.height / 2),
        float(np.hypot(*w.shape) / 2), cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP)),
    "mirror-tiles": _entry("NumPy + cv2.remap", lambda w: _remap(
        w, abs((w.x * 3) % (2 * w.size.width) - w.size.width),
        abs((w.y * 3) % (2 * w.size.height) - w.size.height))),
    "slide-rows": _entry("numpy.roll", _slid),
    "halftone": _entry("NumPy, 16 samples", lambda w: _supersampled(w, 1), True),
    "line-screen": _entry("NumPy, 16 samples", lambda w: _supersampled(w, 1), True),
    "dither": _entry("cv2.resize + NumPy", _ordered),
    "raster-lines": _entry("NumPy", lambda w: w.one * (0.8 + 0.2 * np.cos(w.y[:, :1, None]))),
    "misregister": _entry("three cv2.warpAffine", lambda w: _shifted(
        w, [(2.5, 0.3), (-1.6, 1.2), (0, -1.7)])),
    "tape-wear": _entry("cv2.remap + GaussianBlur", _wear),
    "grain": _entry("NumPy", _grains),
    "blend": _entry("NumPy", lambda w: _over(w, 0.6), opacity=0.6),
    "luma-wipe": _entry("NumPy", _wiped, progress=0.5, softness=0.2),
    "dissolve": _entry("cv2.addWeighted", lambda w: cv2.addWeighted(w.one, 0.4, w.two, 0.6, 0),
                       progress=0.6),
    "choose": _entry("numpy copy", lambda w: w.one.copy()),
    "trail": _entry("cv2.addWeighted", lambda w: cv2.addWeighted(
        w.one, 1, _affine(w.two, np.eye(2, 3)), 0.9, 0)),
    "stutter": _entry("numpy copy", lambda w: w.one.copy()),
}  # fmt: skip
ENTRIES |= light_steps.entries(_entry)
MORE: dict[str, tuple[str, Entry]] = {
    "noise, cells": ("noise", _entry("pyfastnoiselite, cellular", lambda w: _noise(w, True), True,
                                     basis="cell distance", octaves=1)),
    "noise, turned": ("noise", _entry("pyfastnoiselite, 4 octaves", lambda w: _noise(w, False), True,
                                      angle=30.0)),
    "blend, multiply": ("blend", _entry("numpy.multiply", lambda w: np.dstack(
        [w.one[..., :3] * w.two[..., :3], w.one[..., 3]]), mode="multiply")),
    "streak-blur, level": ("streak-blur", _entry("cv2.blur", lambda w: cv2.blur(
        w.one, (int(_LENGTH * w.unit), 1), borderType=cv2.BORDER_REPLICATE))),
}  # fmt: skip
"""Steps that do very different work at other values."""


def _rows() -> Iterator[Row]:
    worlds = [World(size) for size in SIZES]
    # The time of a repeat is that of its steps.
    kinds = [kind.kind for kind in step_kinds() if kind.kind != "repeat"]
    named = [(kind, kind, ENTRIES[kind]) for kind in kinds]
    named += [(name, kind, entry) for name, (kind, entry) in MORE.items()]
    for name, kind, (values, reference, prepare, matte) in named:
        for w in worlds:
            call, told = w.call(kind, values, matte), step_kind(kind)
            mine, other, ratio = alternate(
                lambda told=told, call=call: _once(told, call), prepare(w), 7
            )  # type: ignore[misc]
            yield Row(
                f"{name}, {w.size}", mine, reference, other, ratio,
                f"at most {SLOWEST:g}× its time", "", ratio >= 1 / SLOWEST,
            )  # fmt: skip


def steps() -> list[Row]:
    """Every step of the catalogue at both sizes."""
    return list(_rows())


def _choices(told: StepKind, values: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """The values of a step with each choice that it has, one at a time."""
    yield values
    for param in told.params:
        if isinstance(param, Choice):
            yield from (values | {param.name: option} for option in param.options)


def _words(values: dict[str, Any], entry: dict[str, Any]) -> str:
    return ", ".join(f"{k} {v}" for k, v in values.items() if entry.get(k) != v) or "as it is"


def choices() -> list[Work]:
    """The slowest choice of each step at 960×540, against the reference of the step."""
    w = World(SIZES[0])

    def slowest(kind: str) -> Row:
        told = step_kind(kind)
        values, reference, prepare, matte = ENTRIES[kind]
        calls = {}
        for tried in _choices(told, values):
            call = w.call(kind, tried, matte)
            try:
                _once(told, call)
            except Fault:
                continue  # a choice that needs a file
            work = partial(_once, told, call)
            calls[_words(tried, values)] = call, min(once(work) for _ in range(3))
        words = max(calls, key=lambda name: calls[name][1])
        call = calls[words][0]
        return times(f"{kind}, {words}", lambda: _once(told, call), CHOSEN, SLOWEST, prepare(w),
                     reference, 7)  # fmt: skip

    return [partial(slowest, kind) for kind in ENTRIES]


ROWS = (steps,)
CHOICES = (choices,)
