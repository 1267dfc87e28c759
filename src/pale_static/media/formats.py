"""The table of formats that films and pictures are written in."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property, lru_cache
from pathlib import Path
from typing import Any, Literal

from ..core.faults import Fault, Missing
from ..core.kernels.objects import BASELINE, target
from ..core.pictures.picture import Size

Shape = Literal["film", "sequence", "animation", "still", "sheet"]
"""One film file; a numbered file for each frame; an animated picture; one frame; three frames."""
Pixels = Literal["rgb8", "rgba8", "rgba16", "float"]
"""The form of a prepared frame: straight codes of 8 or 16 bits, or a premultiplied picture."""

SHEET_FRAMES = 3


@dataclass(frozen=True)
class Quality:
    """The quality of a lossy picture: numbers of its encoder, and words for some of them.

    ``option`` is the encoder's option; ``better`` says whether larger numbers are better.
    """

    option: str
    least: int
    most: int
    words: Mapping[str, int]
    default: str = "high"
    better: bool = False


@dataclass(frozen=True)
class Format:
    """One format.

    Parameters
    ----------
    container, encoder, planes : str
        FFmpeg's names of the container, the encoder and the pixel format.
    alpha : bool
        Whether clear areas stay clear. Without it they are black.
    bits : int
        Bits of a channel; 16 and 32 of OpenEXR are floating point.
    sound : str
        FFmpeg's name of the sound's encoder; empty if the format holds no sound.
    multiple : (int, int)
        Numbers by which width and height must divide.
    largest : int
        The longest side in pixels.
    lossless : bool
        Whether the written codes can be read back bit for bit.
    quality : Quality, optional
        For lossy formats that have one.
    joined : bool
        Whether films are written in stretches that are joined without encoding again.
    options : mapping
        More options of the encoder.
    copies : str
        FFmpeg's name of the decoder of films whose coded pictures may be copied into this format;
        empty if there is none.
    """

    slug: str
    label: str
    sentence: str
    shape: Shape
    ending: str
    pixels: Pixels
    bits: int
    alpha: bool = False
    lossless: bool = False
    container: str = ""
    encoder: str = ""
    planes: str = ""
    sound: str = ""
    multiple: tuple[int, int] = (1, 1)
    largest: int = 16384
    quality: Quality | None = None
    joined: bool = False
    options: Mapping[str, str] = field(default_factory=dict)
    copies: str = ""

    @property
    def numbered(self) -> bool:
        """Whether it is a file for each frame."""
        return self.shape == "sequence"

    @property
    def files(self) -> str:
        """The media type of its file for downloads."""
        return "application/zip" if self.numbered else _TYPES[self.ending]

    @cached_property
    def there(self) -> bool:
        """Whether this machine has its encoder."""
        return not self.encoder or _encodes(self.encoder)

    def wrong_size(self, size: Size) -> tuple[str, Size] | None:
        """The reason why it cannot hold a size, and the nearest size that it can hold; None if it
        can."""
        across, down = self.multiple
        right = Size(
            min(-(-size.width // across) * across, self.largest // across * across),
            min(-(-size.height // down) * down, self.largest // down * down),
        )
        if right == size:
            return None
        if max(size.width, size.height) > self.largest:
            needs = f"holds at most {self.largest} pixels a side"
        else:
            needs = "needs an even width and height" if down > 1 else "needs an even width"
        return f"{self.label} {needs}, and this is {size.shown}.", right


_TYPES = {
    ".mp4": "video/mp4", ".webm": "video/webm", ".mov": "video/quicktime",
    ".mkv": "video/x-matroska", ".webp": "image/webp", ".apng": "image/apng", ".png": "image/png",
}  # fmt: skip
_X264 = Quality("crf", 0, 51, {"small": 26, "good": 20, "high": 16, "finest": 10})
_VP9 = Quality("crf", 0, 63, {"small": 38, "good": 30, "high": 22, "finest": 12})
_AV1 = Quality("crf", 1, 63, {"small": 40, "good": 30, "high": 22, "finest": 12})
_WEBP = Quality(
    "quality", 0, 100, {"small": 50, "good": 70, "high": 85, "finest": 95}, "good", better=True
)
_VP9_OPTIONS = {
    "deadline": "good", "cpu-used": "5", "row-mt": "1", "tile-columns": "2", "threads": "2",
    "auto-alt-ref": "0",
}  # fmt: skip
_AV1_OPTIONS = {"preset": "9", "svtav1-params": "lp=2"}
_EVEN = (2, 2)

FORMATS = (
    Format(
        "mp4", "H.264 MP4", "Plays everywhere. No alpha.", "film", ".mp4", "rgb8", 8,
        container="mp4", encoder="libx264", planes="yuv420p", sound="aac", multiple=_EVEN,
        quality=_X264, joined=True, options={"preset": "veryfast", "threads": "4"},
    ),
    Format(
        "webm", "VP9 WebM", "Small files for web pages. No alpha.", "film", ".webm", "rgb8", 8,
        container="webm", encoder="libvpx-vp9", planes="yuv420p", sound="libopus", multiple=_EVEN,
        quality=_VP9, joined=True, options=_VP9_OPTIONS, copies="vp9",
    ),
    Format(
        "webm-alpha", "VP9 WebM with alpha", "For web pages, over any background.", "film",
        ".webm", "rgba8", 8, alpha=True, container="webm", encoder="libvpx-vp9", planes="yuva420p",
        sound="libopus", multiple=_EVEN, quality=_VP9, joined=True, options=_VP9_OPTIONS,
    ),
    Format(
        "av1", "AV1 MP4", "The smallest files, slow to write. No alpha.", "film", ".mp4", "rgb8",
        8, container="mp4", encoder="libsvtav1", planes="yuv420p", sound="aac", multiple=_EVEN,
        quality=_AV1, joined=True, options=_AV1_OPTIONS,
    ),
    Format(
        "av1-webm", "AV1 WebM", "The smallest files for web pages, slow to write. No alpha.",
        "film", ".webm", "rgb8", 8, container="webm", encoder="libsvtav1", planes="yuv420p",
        sound="libopus", multiple=_EVEN, quality=_AV1, joined=True, options=_AV1_OPTIONS,
    ),
    Format(
        "prores-hq", "ProRes 422 HQ MOV", "For other edit systems, 10 bits. No alpha.", "film",
        ".mov", "rgba16", 10, container="mov", encoder="prores_ks", planes="yuv422p10le",
        sound="pcm_s24le", multiple=(2, 1), joined=True, options={"profile": "3", "threads": "4"},
        copies="prores",
    ),
    Format(
        "prores-4444", "ProRes 4444 MOV", "For other edit systems, 10 bits with alpha.", "film",
        ".mov", "rgba16", 10, alpha=True, container="mov", encoder="prores_ks",
        planes="yuva444p10le", sound="pcm_s24le", joined=True,
        options={"profile": "4", "alpha_bits": "16", "threads": "4"}, copies="prores",
    ),
    Format(
        "ffv1", "FFV1 MKV, 8 bits", "Lossless film with alpha, 8 bits. Large files.", "film",
        ".mkv", "rgba8", 8, alpha=True, lossless=True, container="matroska", encoder="ffv1",
        planes="bgra", sound="flac", joined=True,
        options={"level": "3", "slices": "4", "slicecrc": "1", "threads": "4"},
    ),
    Format(
        "ffv1-16", "FFV1 MKV, 16 bits", "Lossless film with alpha, 16 bits. The largest files.",
        "film", ".mkv", "rgba16", 16, alpha=True, lossless=True, container="matroska",
        encoder="ffv1", planes="gbrap16le", sound="flac", joined=True,
        options={"level": "3", "slices": "4", "slicecrc": "1", "threads": "4"},
    ),
    Format(
        "png", "PNG pictures, 16 bits", "A picture a frame, with alpha.", "sequence", ".png",
        "rgba16", 16, alpha=True, lossless=True,
    ),
    Format(
        "png-8", "PNG pictures, 8 bits", "A picture a frame, with alpha; half the size of 16 bits.",
        "sequence", ".png", "rgba8", 8, alpha=True, lossless=True,
    ),
    Format(
        "tiff", "TIFF pictures, 16 bits", "A picture a frame, with alpha.", "sequence", ".tif",
        "rgba16", 16, alpha=True, lossless=True,
    ),
    Format(
        "exr", "OpenEXR pictures, half", "Linear light of any brightness, with premultiplied alpha.",
        "sequence", ".exr", "float", 16, alpha=True,
    ),
    Format(
        "exr-32", "OpenEXR pictures, float", "Linear light of any brightness, with premultiplied "
                                             "alpha, in full precision.",
        "sequence", ".exr", "float", 32, alpha=True,
    ),
    Format(
        "webp", "Animated WebP", "A preview with alpha that plays in pages and messages.",
        "animation", ".webp", "rgba8", 8, alpha=True, container="webp", encoder="libwebp_anim",
        planes="bgra", quality=_WEBP, largest=16383, options={"loop": "0"},
    ),
    Format(
        "apng", "Animated PNG", "A lossless preview with alpha. Large files.", "animation",
        ".apng", "rgba8", 8, alpha=True, lossless=True, container="apng", encoder="apng",
        planes="rgba", options={"plays": "0"},
    ),
    Format(
        "still", "This frame, PNG", "One frame as a picture, 16 bits with alpha.", "still", ".png",
        "rgba16", 16, alpha=True, lossless=True,
    ),
    Format(
        "sheet", "Contact sheet, PNG", "Start, middle and end side by side.", "sheet", ".png",
        "rgba8", 8, alpha=True, lossless=True,
    ),
)  # fmt: skip
"""All formats. A file name alone means the first format with its ending."""

_BY_SLUG = {one.slug: one for one in FORMATS}
NUMBER = re.compile(r"%0?\d*d")
"""The pattern of the number in the name of a sequence."""


def format_of(slug: str) -> Format:
    """A format by its slug.

    Raises
    ------
    Missing
        If there is none of that name.
    """
    if slug not in _BY_SLUG:
        raise Missing(f"There is no format “{slug}”. There are: {', '.join(_BY_SLUG)}.")
    return _BY_SLUG[slug]


def format_for(path: Path, slug: str | None = None) -> Format:
    """The format that a file name means, or the one with a slug if the name suits it.

    Raises
    ------
    Fault
        If no format has such a name.
    """
    ending, numbered = path.suffix.lower(), bool(NUMBER.search(path.name))
    ending = ".tif" if ending == ".tiff" else ending
    named = [one for one in FORMATS if one.ending == ending and one.numbered == numbered]
    named = [one for one in named if one.shape not in ("still", "sheet") or slug]
    if slug is not None:
        one = format_of(slug)
        if one not in named:
            example = f"frames_%04d{one.ending}" if one.numbered else f"out{one.ending}"
            raise Fault(f"“{path.name}” is not a name for {one.label}. Name it {example}.")
        return one
    if not named:
        endings = dict.fromkeys(f"out{one.ending}" for one in FORMATS if one.encoder)
        pictures = dict.fromkeys(f"frames_%04d{one.ending}" for one in FORMATS if one.numbered)
        raise Fault(
            f"“{path.name}” does not say what to write. Name it {', '.join(endings)} for a "
            f"video, or {', '.join(pictures)} for a sequence of pictures."
        )
    return named[0]


@dataclass(frozen=True)
class Encoding:
    """A format with its choices: a quality, or a bit rate in kbit/s in its place; and whether
    unchanged parts of the source are copied.

    Raises
    ------
    Fault
        If the format does not have a choice.
    """

    format: Format
    quality: int | None = None
    bit_rate: int | None = None
    copy: bool = False

    def __post_init__(self) -> None:
        form, given = self.format, self.format.quality
        if not form.there:
            raise Fault(
                f"{form.label} needs an encoder that is not on this machine. Choose another."
            )
        if self.copy and not form.copies:
            raise Fault(
                f"Parts of the source cannot be copied into {form.label}. Choose ProRes or VP9."
            )
        if given is None and (self.quality is not None or self.bit_rate is not None):
            raise Fault(f"{form.label} has no quality to choose.")
        if self.quality is not None and self.bit_rate is not None:
            raise Fault("Choose a quality or a bit rate, not both.")
        if given and self.quality is not None and not given.least <= self.quality <= given.most:
            raise Fault(
                f"The quality of {form.label} lies between {given.least} and {given.most}. "
                f"Got {self.quality}."
            )
        if self.bit_rate is not None and (not form.sound or not 50 <= self.bit_rate <= 1_000_000):
            raise Fault(
                f"The bit rate of {form.label} lies between 50 and 1000000 kbit/s. "
                f"Got {self.bit_rate}."
                if form.sound
                else f"{form.label} has no bit rate to choose."
            )

    @property
    def options(self) -> dict[str, str]:
        """Options of the encoder."""
        options = dict(self.format.options)
        if self.format.encoder == "libx264" and target()[0] == BASELINE:
            # With AVX-512, x264 writes other bytes at each run for some widths (measured at 960
            # pixels; its option "mbtree" causes it). With AVX2 it writes the same each time.
            options["x264-params"] = "asm=avx2"
        given = self.format.quality
        if given and self.bit_rate is None:
            number = given.words[given.default] if self.quality is None else self.quality
            options[given.option] = str(number)
            if self.format.encoder == "libvpx-vp9":
                options["b"] = "0"
        return options

    def told(self) -> list[Any]:
        """Its name in a key."""
        return [self.format.slug, self.quality, self.bit_rate, self.copy]


def parse_quality(form: Format, text: str | int | None) -> int | None:
    """A quality from one of the format's words, or from a number.

    Raises
    ------
    Fault
    """
    if text is None or text == "":
        return None
    given = form.quality
    if given is None:
        raise Fault(f"{form.label} has no quality to choose.")
    if isinstance(text, str) and text in given.words:
        return given.words[text]
    try:
        return int(text)
    except ValueError:
        words = ", ".join(given.words)
        raise Fault(
            f"A quality is one of {words}, or a number from {given.least} to {given.most}. "
            f"Got “{text}”."
        ) from None


@lru_cache
def _encodes(name: str) -> bool:
    import av  # slow to load, and tables are read without it

    try:
        av.Codec(name, "w")
    except (av.codec.codec.UnknownCodecError, ValueError):
        return False
    return True
