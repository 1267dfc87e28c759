"""Blend modes and *over* against W3C, Pillow, FFmpeg, and Porter and Duff."""

from __future__ import annotations

from fractions import Fraction

import av
import av.filter
import colour
import numpy as np
import pytest
from PIL import Image, ImageChops

from pale_static.core.kernels.filters import blending
from pale_static.core.pictures.picture import from_pixels, to_pixels

RNG = np.random.default_rng(11)


def opaque(n: int = 60) -> np.ndarray:
    pixels = RNG.integers(0, 256, (n, n, 3), dtype=np.uint8)
    edges = np.array([0, 1, 127, 128, 254, 255], np.uint8)
    pixels[:6, :6] = np.stack(np.meshgrid(edges, edges), -1)[..., [0, 1, 0]]
    return pixels


def w3c(mode: str, b: float, s: float) -> float:
    """B(cb, cs), written out from W3C Compositing and Blending Level 1, section 10.1."""
    match mode:
        case "multiply":
            return b * s
        case "screen":
            return b + s - b * s
        case "overlay":
            return w3c("hard light", s, b)
        case "darken":
            return min(b, s)
        case "lighten":
            return max(b, s)
        case "colour dodge":
            return 0 if b == 0 else 1 if s == 1 else min(1, b / (1 - s))
        case "colour burn":
            return 1 if b == 1 else 0 if s == 0 else 1 - min(1, (1 - b) / s)
        case "hard light":
            return w3c("multiply", b, 2 * s) if s <= 0.5 else w3c("screen", b, 2 * s - 1)
        case "soft light":
            if s <= 0.5:
                return b - (1 - 2 * s) * b * (1 - b)
            d = ((16 * b - 12) * b + 4) * b if b <= 0.25 else b**0.5
            return b + (2 * s - 1) * (d - b)
        case "difference":
            return abs(b - s)
        case "exclusion":
            return b + s - 2 * b * s
        # The rest are common practice, not W3C's.
        case "add":
            return b + s
        case "subtract":
            return max(0, b - s)
        case "divide":
            return min(1, b / s) if s else float(b > 0)
        case "linear burn":
            return max(0, b + s - 1)
        case "vivid light":
            if s <= 0.5:
                return w3c("colour burn", b, 2 * s)
            return w3c("colour dodge", b, 2 * s - 1)
        case "pin light":
            return min(b, 2 * s) if s <= 0.5 else max(b, 2 * s - 1)
        case "hard mix":
            return float(w3c("vivid light", b, s) >= 0.5)
        case "push away":
            return 2 * b - s
    return s


def lum(c: np.ndarray) -> float:
    return float(c @ (0.3, 0.59, 0.11))


def set_lum(c: np.ndarray, level: float) -> np.ndarray:
    c = c + (level - lum(c))
    mean, low, high = lum(c), c.min(), c.max()
    if low < 0:
        c = mean + (c - mean) * mean / (mean - low)
    if high > 1:
        c = mean + (c - mean) * (1 - mean) / (high - mean)
    return c


def set_sat(c: np.ndarray, span: float) -> np.ndarray:
    return (c - c.min()) * span / (c.max() - c.min()) if c.max() > c.min() else c * 0


def w3c_whole(mode: str, b: np.ndarray, s: np.ndarray) -> np.ndarray:
    """The four modes of section 10.2, which use all channels."""
    span = {"b": b.max() - b.min(), "s": s.max() - s.min()}
    return {
        "hue": lambda: set_lum(set_sat(s, span["b"]), lum(b)),
        "saturation": lambda: set_lum(set_sat(b, span["s"]), lum(b)),
        "colour": lambda: set_lum(s, lum(b)),
        "luminosity": lambda: set_lum(b, lum(s)),
    }[mode]()


@pytest.mark.parametrize("mode", blending.MODES)
@pytest.mark.parametrize("alpha", [False, True])
def test_every_mode_follows_the_w3c_formula(mode: str, alpha: bool) -> None:
    count = 40
    colours = RNG.random((2, count, 3))
    colours[:, :8] = RNG.integers(0, 2, (2, 8, 3))
    alphas = RNG.random((2, count)) if alpha else np.ones((2, count))
    planes = [
        np.concatenate([c * a[:, None], a[:, None]], 1).astype(np.float32)[None]
        for c, a in zip(colours, alphas, strict=True)
    ]
    found = blending.blend(planes[0], planes[1], mode, 0.8)[0]
    for k in range(count):
        cb, cs = colours[0, k], colours[1, k]
        ab, aa = alphas[0, k], alphas[1, k] * 0.8
        if mode in ("hue", "saturation", "colour", "luminosity"):
            mixed = w3c_whole(mode, cb, cs)
        else:
            mixed = np.array([w3c(mode, b, s) for b, s in zip(cb, cs, strict=True)])
        # Section 9.1.4: Cs = (1 − αb)·Cs + αb·B(Cb, Cs), then composited over.
        source = (1 - ab) * cs + ab * mixed
        expected = aa * source + (1 - aa) * ab * cb
        assert found[k, :3] == pytest.approx(expected, abs=2e-5)
        assert found[k, 3] == pytest.approx(aa + ab * (1 - aa), abs=1e-6)


@pytest.mark.parametrize(
    ("mode", "theirs"),
    [
        ("multiply", ImageChops.multiply), ("screen", ImageChops.screen),
        ("darken", ImageChops.darker), ("lighten", ImageChops.lighter),
        ("difference", ImageChops.difference), ("overlay", ImageChops.overlay),
        ("hard light", ImageChops.hard_light), ("add", ImageChops.add),
        ("subtract", ImageChops.subtract),
    ],
)  # fmt: skip
def test_modes_agree_with_pillow(mode: str, theirs: object) -> None:
    below, above = opaque(), opaque()
    found = to_pixels(blending.blend(from_pixels(below), from_pixels(above), mode))[..., :3]
    expected = np.asarray(theirs(Image.fromarray(below), Image.fromarray(above)))  # type: ignore[operator]
    # Pillow computes in 8-bit whole numbers and truncates: up to two code values.
    assert np.abs(found.astype(int) - expected).max() <= 2


@pytest.mark.parametrize(
    ("mode", "theirs"),
    [("multiply", "multiply"), ("screen", "screen"), ("darken", "darken"), ("lighten", "lighten"),
     ("difference", "difference"), ("exclusion", "exclusion"), ("add", "addition")],
)  # fmt: skip
def test_modes_agree_with_ffmpeg(mode: str, theirs: str) -> None:
    below, above = opaque(64), opaque(64)
    graph = av.filter.Graph()
    shape = {"width": 64, "height": 64, "format": "gbrp", "time_base": Fraction(1, 25)}
    inputs = [graph.add_buffer(**shape) for _ in range(2)]
    blend = graph.add("blend", f"all_mode={theirs}")
    sink = graph.add("buffersink")
    # FFmpeg's first input is the top layer.
    inputs[0].link_to(blend, 0, 0)
    inputs[1].link_to(blend, 0, 1)
    blend.link_to(sink)
    graph.configure()
    for target, pixels in zip(inputs, (above, below), strict=True):
        frame = av.VideoFrame.from_ndarray(pixels, "rgb24").reformat(format="gbrp")
        frame.pts, frame.time_base = 0, Fraction(1, 25)
        target.push(frame)
    expected = graph.pull().reformat(format="rgb24").to_ndarray()
    found = to_pixels(blending.blend(from_pixels(below), from_pixels(above), mode))[..., :3]
    assert np.abs(found.astype(int) - expected).max() <= 2


def test_over_is_porter_and_duffs_in_the_four_quadrants() -> None:
    # Porter & Duff 1984: over has the coefficients 1 and 1 − αa.
    below = np.zeros((2, 2, 4), np.float32)
    above = np.zeros((2, 2, 4), np.float32)
    below[:, 1] = (0.2, 0.4, 0.6, 1)
    above[1] = (0.5, 0.25, 0, 0.5)
    found = blending.blend(below, above, "normal")
    assert (found[0, 0] == 0).all()
    assert found[0, 1] == pytest.approx((0.2, 0.4, 0.6, 1))
    assert found[1, 0] == pytest.approx((0.5, 0.25, 0, 0.5))
    assert found[1, 1] == pytest.approx((0.6, 0.45, 0.3, 1))


# Porter & Duff 1984, the table of coefficients Fa and Fb, as functions of αa and αb.
COEFFICIENTS = {
    "clear": (lambda a, b: 0, lambda a, b: 0),
    "replace": (lambda a, b: 1, lambda a, b: 0),
    "keep": (lambda a, b: 0, lambda a, b: 1),
    "over": (lambda a, b: 1, lambda a, b: 1 - a),
    "under": (lambda a, b: 1 - b, lambda a, b: 1),
    "in": (lambda a, b: b, lambda a, b: 0),
    "below in": (lambda a, b: 0, lambda a, b: a),
    "out": (lambda a, b: 1 - b, lambda a, b: 0),
    "below out": (lambda a, b: 0, lambda a, b: 1 - a),
    "atop": (lambda a, b: b, lambda a, b: 1 - a),
    "below atop": (lambda a, b: 1 - b, lambda a, b: a),
    "xor": (lambda a, b: 1 - b, lambda a, b: 1 - a),
    "plus": (lambda a, b: 1, lambda a, b: 1),
}


@pytest.mark.parametrize("operator", blending.OPERATORS)
def test_operators_have_porter_and_duffs_coefficients(operator: str) -> None:
    alpha = RNG.random((2, 6, 6, 1), np.float32)
    alpha[:, :2] = np.array([0, 1, 0, 1, 0, 1], np.float32).reshape(1, 1, 6, 1)
    alpha[1, 1] = 1 - alpha[1, 1]
    above, below = np.concatenate([RNG.random((2, 6, 6, 3), np.float32) * alpha, alpha], -1)
    fa, fb = COEFFICIENTS[operator]
    aa, ab = above[..., 3:], below[..., 3:]
    expected = fa(aa, ab) * above + fb(aa, ab) * below
    found = blending.blend(below, above, "normal", operator=operator)
    np.testing.assert_allclose(found, expected, atol=1e-6)


def test_light_and_code_values_are_those_of_srgb() -> None:
    # IEC 61966-2-1 through colour-science.
    codes = np.linspace(0, 1, 501, dtype=np.float32)
    picture = np.ones((1, 501, 4), np.float32)
    picture[0, :, 0] = picture[0, :, 1] = picture[0, :, 2] = codes
    light = blending.linear(picture)
    np.testing.assert_allclose(light[0, :, 0], colour.models.eotf_sRGB(codes), atol=2e-6)
    np.testing.assert_allclose(blending.encoded(light), picture, atol=4e-6)
    half = picture * np.float32(0.5)
    np.testing.assert_allclose(blending.linear(half)[..., :3], light[..., :3] * 0.5, atol=2e-6)


def test_push_away_leads_away_from_what_is_laid_over() -> None:
    # Common practice (an unsharp-like mix): out = a + k·(a − b).
    below, above = np.full((2, 2, 4), 0.6, np.float32), np.full((2, 2, 4), 0.4, np.float32)
    below[..., 3] = above[..., 3] = 1
    assert blending.blend(below, above, "push away", 0.1)[0, 0, 0] == pytest.approx(0.62)


def test_over_is_associative() -> None:
    planes = []
    for _ in range(3):
        alpha = RNG.random((20, 20, 1), np.float32)
        planes.append(np.concatenate([RNG.random((20, 20, 3), np.float32) * alpha, alpha], -1))
    a, b, c = planes
    left = blending.blend(blending.blend(c, b, "normal"), a, "normal")
    right = blending.blend(c, blending.blend(b, a, "normal"), "normal")
    assert np.abs(left - right).max() < 1e-6


def test_a_matte_and_opacity_weigh_what_is_laid_over() -> None:
    below, above = np.zeros((4, 4, 4), np.float32), np.ones((4, 4, 4), np.float32)
    below[..., 3] = 1
    matte = np.linspace(0, 1, 16, dtype=np.float32).reshape(4, 4)
    found = blending.blend(below, above, "normal", 0.5, matte)
    assert np.allclose(found[..., 0], matte * 0.5)
