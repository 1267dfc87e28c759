"""Lookup tables as ``.cube`` files (*Cube LUT Specification 1.0*, 2013)."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from ...core.faults import TooLarge, Unreadable
from ...core.pictures.lookup import LookupTable
from ...core.pictures.picture import Size, from_pixels, to_pixels
from ...core.time.timing import FrameRate
from ..facts import Facts, file_identity

MOST_CURVE, MOST_CUBE = 65536, 129
MOST_BYTES = 128 << 20
_CARD = Size(320, 180)


@dataclass(frozen=True, eq=False)
class TableFile:
    """A lookup table as material. Its picture shows a ramp of colours through the table."""

    identity: str
    table: LookupTable

    @property
    def size(self) -> Size:
        return _CARD

    @property
    def rate(self) -> FrameRate | None:
        return None

    @property
    def length(self) -> int:
        return 1

    @property
    def nbytes(self) -> int:
        return self.table.table.nbytes

    def pixels(self, index: int) -> Any:
        x = np.linspace(0, 6, _CARD.width)
        hue = [np.clip(np.abs((x - shift) % 6 - 3) - 1, 0, 1) for shift in (0, 2, 4)]
        y = np.linspace(0, 1, _CARD.height)[:, None]
        colours = np.stack([y * 2 * h + (1 - h) * np.clip(2 * y - 1, 0, 1) for h in hue], -1)
        colours[_CARD.height // 2 :] = np.linspace(0, 1, _CARD.width)[None, :, None]
        pixels = (np.clip(colours, 0, 1) * 255).astype(np.uint8)
        return to_pixels(self.table.apply(from_pixels(pixels)))[..., :3]


def _is_number(word: str) -> bool:
    """Whether a word is a number, also nan or inf."""
    try:
        float(word)
    except ValueError:
        return False
    return True


def _numbers(words: list[str], name: str, line: int) -> list[float]:
    try:
        values = [float(word) for word in words]
    except ValueError:
        raise Unreadable(
            f"{name}, line {line}: “{' '.join(words)[:40]}” is not a colour."
        ) from None
    if not np.isfinite(values).all():
        raise Unreadable(f"{name}, line {line} holds a value that is not a number.")
    return values


def parse_cube(text: str, name: str) -> LookupTable:
    """The table that a ``.cube`` file holds.

    Raises
    ------
    Unreadable
        If its sizes, counts or numbers are wrong; it names the line.
    TooLarge
    """
    side, cube = 0, False
    low, high = [0.0, 0.0, 0.0], [1.0, 1.0, 1.0]
    colours: list[list[float]] = []
    for number, raw in enumerate(text.lstrip("\ufeff").splitlines(), 1):
        words = raw.split("#")[0].split()
        if not words or words[0] == "TITLE":
            continue
        key = words[0]
        if key in ("LUT_1D_SIZE", "LUT_3D_SIZE"):
            cube = key == "LUT_3D_SIZE"
            most = MOST_CUBE if cube else MOST_CURVE
            if side:
                raise Unreadable(
                    f"{name}, line {number}: a file holds one table. This is a second."
                )
            if len(words) != 2 or not words[1].isdigit() or not 2 <= int(words[1]) <= most:
                raise Unreadable(
                    f"{name}, line {number}: {key} is a whole number from 2 to {most}."
                )
            side = int(words[1])
        elif key in ("DOMAIN_MIN", "DOMAIN_MAX", "LUT_1D_INPUT_RANGE", "LUT_3D_INPUT_RANGE"):
            values = _numbers(words[1:], name, number)
            if len(values) != (3 if key.startswith("DOMAIN") else 2):
                raise Unreadable(f"{name}, line {number}: {key} has too many or too few numbers.")
            if key == "DOMAIN_MIN":
                low = values
            elif key == "DOMAIN_MAX":
                high = values
            else:
                low, high = [values[0]] * 3, [values[1]] * 3
        elif key[0].isalpha() and not _is_number(key):
            continue  # a keyword of a later version
        else:
            values = _numbers(words, name, number)
            if len(values) != 3:
                raise Unreadable(f"{name}, line {number}: a colour is three numbers.")
            colours.append(values)
            if len(colours) > max(MOST_CUBE**3, MOST_CURVE):
                raise TooLarge(f"{name} holds more colours than a table can have.")
    if not side:
        raise Unreadable(f"{name} does not say its size: LUT_1D_SIZE or LUT_3D_SIZE is missing.")
    wanted = side**3 if cube else side
    if len(colours) != wanted:
        raise Unreadable(
            f"{name} should hold {wanted} colours for its size of {side}. It holds {len(colours)}."
        )
    if any(b <= a for a, b in zip(low, high, strict=True)):
        raise Unreadable(f"{name}: DOMAIN_MAX must be larger than DOMAIN_MIN.")
    table = np.array(colours, np.float32)
    if cube:
        # In the file red changes fastest.
        table = np.ascontiguousarray(table.reshape(side, side, side, 3).transpose(2, 1, 0, 3))
    return LookupTable(table, (low[0], low[1], low[2]), (high[0], high[1], high[2]))


def read_cube(path: Path, name: str, identity: str | None = None) -> tuple[TableFile, Facts]:
    """A lookup table from a file, and its facts.

    Raises
    ------
    Unreadable, TooLarge
    """
    if path.stat().st_size > MOST_BYTES:
        raise TooLarge(f"{name} is larger than {MOST_BYTES >> 20} MB, more than a table can need.")
    try:
        text = path.read_text("utf-8")
    except UnicodeDecodeError:
        raise Unreadable(
            f"{name} is not a lookup table: it holds bytes that are not text."
        ) from None
    table = parse_cube(text, name)
    side = len(table.table)
    coding = f"cube of {side}" if table.is_cube else f"curves of {side}"
    facts = Facts(kind="table", width=_CARD.width, height=_CARD.height, coding=coding)
    return TableFile(identity or file_identity(path), table), facts


def cube_text(table: LookupTable, title: str) -> str:
    """A cube of colours as the text of a ``.cube`` file; red changes fastest, as the format asks."""
    side = len(table.table)
    plain = title.replace('"', "'")
    lines = [f'TITLE "{plain}"', f"LUT_3D_SIZE {side}"]
    laid = table.table.transpose(2, 1, 0, 3).reshape(-1, 3)
    lines += [f"{r:.6f} {g:.6f} {b:.6f}" for r, g, b in laid]
    return "\n".join(lines) + "\n"
