"""Text set in a font: glyphs and their places, converted from em units to pixels."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import uharfbuzz as hb
from bidi import algorithm as bidi

from ..faults import Missing, TooLarge
from .faces import Face, Font, opened

MOST_GLYPHS = 4000


@dataclass(frozen=True)
class Setting:
    """How text is set; lengths in pixels.

    Parameters
    ----------
    size : float
        The em in pixels: the type size.
    tracking : float
        Extra space after each letter.
    spacing : float
        Line distance, as a multiple of the font's own.
    align : {"left", "centre", "right"}
    wrap : float
        Width at which lines are broken; 0 breaks lines only at line ends of the text.
    """

    size: float
    tracking: float = 0.0
    spacing: float = 1.0
    align: str = "left"
    wrap: float = 0.0


@dataclass(frozen=True)
class Glyph:
    """A glyph at its place: pixels right and down of the first baseline's anchor.

    ``letter``, ``word`` and ``line`` count in reading order; marks share their letter's number.
    """

    number: int
    x: float
    y: float
    letter: int
    word: int
    line: int
    advance: float = 0.0
    """The distance to the next glyph, in pixels."""


@dataclass(frozen=True)
class Layout:
    """Set text. ``middle`` is the distance of the block's optical centre below the first
    baseline."""

    glyphs: tuple[Glyph, ...]
    widths: tuple[float, ...]
    middle: float
    letters: int
    words: int

    def units(self, by: str) -> tuple[list[int], int]:
        """The number of each glyph's letter, word or line, and the count of them."""
        count = {"letter": self.letters, "word": self.words, "line": len(self.widths)}[by]
        return [getattr(glyph, by) for glyph in self.glyphs], count


@dataclass(frozen=True)
class _Shaped:
    """A glyph from the shaper: its em units, and the character that it comes from."""

    number: int
    advance: int
    dx: int
    dy: int
    at: int


def _levels(text: str) -> list[int]:
    """The embedding level of each character (Unicode Standard Annex 9); even reads to the right."""
    base = bidi.get_base_level(text)
    storage = bidi.get_empty_storage()
    storage["base_level"], storage["base_dir"] = base, ("L", "R")[base]
    bidi.get_embedding_levels(text, storage)
    for index, char in enumerate(storage["chars"]):
        char["index"] = index  # the library drops some characters
        char["type"] = char["type"] or "L"  # not assigned yet
    bidi.explicit_embed_and_overrides(storage, False)
    bidi.resolve_weak_types(storage, False)
    bidi.resolve_neutral_types(storage, False)
    bidi.resolve_implicit_levels(storage, False)
    levels = [base] * len(text)
    for char in storage["chars"]:
        levels[char["index"]] = char["level"]
    # Rule L1: white space at the end of a line has the paragraph's level.
    for index in range(len(text) - 1, -1, -1):
        if not text[index].isspace():
            break
        levels[index] = base
    return levels


def _runs(levels: Sequence[int]) -> list[tuple[int, int, int]]:
    """Stretches of one level as (first, last, level), from left to right: rule L2."""
    runs: list[tuple[int, int, int]] = []
    for index, level in enumerate(levels):
        if runs and runs[-1][2] == level:
            runs[-1] = (runs[-1][0], index + 1, level)
        else:
            runs.append((index, index + 1, level))
    for level in range(max(levels, default=0), 0, -1):
        k = 0
        while k < len(runs):
            end = k
            while end < len(runs) and runs[end][2] >= level:
                end += 1
            runs[k:end] = runs[k:end][::-1]
            k = end + 1
    return runs


def _shape(face: Face, text: str, levels: Sequence[int], ligatures: bool) -> list[_Shaped]:
    """A line as glyphs from left to right."""
    glyphs: list[_Shaped] = []
    for first, last, level in _runs(levels):
        buffer = hb.Buffer()
        # The whole line is context, so that letters join correctly across the ends of a run.
        buffer.add_codepoints([ord(char) for char in text], first, last - first)
        buffer.guess_segment_properties()
        buffer.direction = "rtl" if level % 2 else "ltr"
        hb.shape(face.shaper, buffer, {"liga": ligatures, "clig": ligatures, "kern": True})
        for info, place in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            if info.codepoint == 0:
                _refuse(face.font, text[info.cluster])
            glyphs.append(
                _Shaped(
                    info.codepoint, place.x_advance, place.x_offset, place.y_offset, info.cluster
                )
            )
    return glyphs


def _refuse(font: Font, char: str) -> None:
    name = unicodedata.name(char, "").capitalize()
    said = f", {name}" if name else ""
    raise Missing(
        f"The font {font.name} has no “{char}” (U+{ord(char):04X}{said}). "
        "Choose a font that has it, or other text.",
        "text",
    )


def _pieces(text: str) -> list[str]:
    """The pieces between which a line may break: words with the space after them, and wide
    characters."""
    lines: list[str] = []
    for part in re.findall(r"\s*\S+\s*", text):
        start = 0
        for k in range(1, len(part)):
            wide = unicodedata.east_asian_width(part[k]) in "WF"
            if wide and unicodedata.category(part[k])[0] == "L":
                lines.append(part[start:k])
                start = k
        lines.append(part[start:])
    return lines


@lru_cache(maxsize=64)
def _broken(font: Font, weight: str, text: str, wrap: float, tracking: float) -> tuple[str, ...]:
    """The lines of the text. ``wrap`` and ``tracking`` are in em, so that lines break at the same
    places at every size."""
    lines: list[str] = []
    for paragraph in text.split("\n"):
        if wrap <= 0:
            lines.append(paragraph)
            continue
        line = ""
        for piece in _pieces(paragraph):
            if line and _width(font, weight, (line + piece).rstrip(), tracking) > wrap:
                lines.append(line.rstrip())
                line = piece.lstrip()
            else:
                line += piece
        lines.append(line.rstrip())
    return tuple(lines)


def _width(font: Font, weight: str, line: str, tracking: float) -> float:
    shaped = _line(font, weight, line, tracking == 0)
    letters = len({one.at for one in shaped})
    width = sum(one.advance for one in shaped) / _em(font, weight)
    return width + tracking * max(0, letters - 1)


@lru_cache(maxsize=512)
def _line(font: Font, weight: str, line: str, ligatures: bool) -> tuple[_Shaped, ...]:
    with opened(font, weight) as face:
        return tuple(_shape(face, line, _levels(line), ligatures))


def _em(font: Font, weight: str) -> int:
    with opened(font, weight) as face:
        return face.em


@lru_cache(maxsize=64)
def _measures(font: Font, weight: str) -> tuple[float, float]:
    """Line distance and height of capitals, in em."""
    with opened(font, weight) as face:
        extents: Any = face.shaper.get_font_extents("ltr")
        line = (extents.ascender - extents.descender + extents.line_gap) / face.em
        capital = face.shaper.get_metric_position_with_fallback(hb.OTMetricsTag.CAP_HEIGHT)
        return line, capital / face.em


def lay_out(font: Font, weight: str, text: str, setting: Setting) -> Layout:
    """Text set in a font: kerned, with ligatures, in both reading directions, wrapped.

    Lines lie below each other from the first baseline, aligned on the anchor. Text with extra
    tracking has no ligatures.

    Raises
    ------
    Missing
        If the font lacks a character; it names the character.
    TooLarge
        For more than 4,000 glyphs.

    References
    ----------
    Shaping by HarfBuzz. Unicode Standard Annex 9, *Unicode Bidirectional Algorithm*.
    """
    text = text.encode("utf-16", "surrogatepass").decode("utf-16", "replace")
    text = unicodedata.normalize("NFC", text.replace("\r\n", "\n").expandtabs(4))
    size = setting.size
    per_em = max(size, 1e-6)
    tracked = setting.tracking / per_em
    lines = _broken(font, weight, text, round(setting.wrap / per_em, 6), round(tracked, 6))
    leading, capital = _measures(font, weight)
    em = _em(font, weight)
    glyphs: list[Glyph] = []
    widths: list[float] = []
    letter = word = 0
    for number, line in enumerate(lines):
        shaped = _line(font, weight, line, tracked == 0)
        if len(glyphs) + len(shaped) > MOST_GLYPHS:
            raise TooLarge(f"A title holds {MOST_GLYPHS} glyphs at most. Take shorter text.")
        inked = sorted({one.at for one in shaped if not line[one.at].isspace()})
        letters = {at: letter + k for k, at in enumerate(inked)}
        words = {m.start(): k for k, m in enumerate(re.finditer(r"\S+", line))}
        starts = sorted(words)
        letter += len(inked)
        pen, placed = 0.0, []
        for k, one in enumerate(shaped):
            at = one.at
            if at in letters:
                within = sum(start <= at for start in starts) - 1
                x = pen + one.dx * size / em
                y = number * leading * size * setting.spacing - one.dy * size / em
                placed.append(
                    (one.number, x, y, letters[at], word + within, one.advance * size / em)
                )
            pen += one.advance * size / em
            if k + 1 < len(shaped) and shaped[k + 1].at != at:
                pen += setting.tracking
        word += len(starts)
        back = {"left": 0.0, "centre": pen / 2, "right": pen}[setting.align]
        widths.append(pen)
        glyphs += [
            Glyph(n, x - back, y, own, of, number, wide) for n, x, y, own, of, wide in placed
        ]
    below = (len(lines) - 1) * leading * size * setting.spacing
    middle = (below - capital * size) / 2
    return Layout(tuple(glyphs), tuple(widths), middle, letter, word)
