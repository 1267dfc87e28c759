"""Numbered pictures as one clip."""

from __future__ import annotations

import hashlib
import re
import shutil
import zipfile
from bisect import bisect_right
from collections.abc import Mapping, Sequence
from contextlib import nullcontext
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import Any, BinaryIO, Protocol

from numpy.typing import NDArray

from ...core.faults import Missing, TooLarge, Unreadable
from ...core.pictures.lookup import LookupTable
from ...core.pictures.picture import Size
from ...core.time.timing import FrameRate
from ..decoding import pixel_cache
from ..facts import Facts, file_identity
from ..reading import AS_TOLD, Reading
from .stills import decode_still, still_facts

_NUMBERED = re.compile(r"(.*?)(\d+)(\.\w+)")
MOST_DIGITS = 12
"""Digits of a picture's number."""
MOST_PICTURES = 20_000
MOST_PICTURE = 512 << 20
"""Bytes of one picture."""
DEFAULT_RATE = "25"
_DATE = (1980, 1, 1, 0, 0, 0)


class Files(Protocol):
    """A place that holds pictures."""

    def read(self, name: str) -> bytes: ...


@dataclass(frozen=True)
class Folder:
    """Pictures in a folder."""

    path: Path

    def read(self, name: str) -> bytes:
        try:
            return (self.path / name).read_bytes()
        except OSError as fault:
            raise Missing(
                f"{name} is gone. Put it back, or bring the sequence in again."
            ) from fault


@dataclass(frozen=True)
class Packed:
    """Pictures in a zip file."""

    path: Path

    def read(self, name: str) -> bytes:
        try:
            with zipfile.ZipFile(self.path) as packed:
                return packed.read(name)
        except Exception as fault:  # the ZIP reader raises a different exception for each problem
            raise Unreadable(f"{name} is damaged. Bring the sequence in again.") from fault


def numbers_of(names: Sequence[str]) -> dict[int, str]:
    """Names of pictures, by the numbers at their ends.

    Raises
    ------
    Unreadable
        If they are not the pictures of one sequence.
    """
    numbered: dict[int, str] = {}
    starts = set()
    for name in names:
        match = _NUMBERED.fullmatch(Path(name).name)
        if match is None:
            raise Unreadable(
                f"{name[:80]} has no number at its end, so its place in the sequence is unknown."
            )
        if len(match[2]) > MOST_DIGITS:
            raise Unreadable(f"{name[:80]}… has a number of more than {MOST_DIGITS} digits.")
        starts.add((match[1], match[3].lower()))
        if int(match[2]) in numbered:
            raise Unreadable(f"{name} and {numbered[int(match[2])]} have the same number.")
        numbered[int(match[2])] = name
    if len(starts) > 1:
        (one, ending), (two, other) = sorted(starts)[:2]
        raise Unreadable(
            f"These pictures belong to different sequences: {one}…{ending} and {two}…{other}. "
            "Bring in one sequence at a time."
        )
    if not numbered:
        raise Unreadable("There are no pictures in this sequence.")
    return dict(sorted(numbered.items()))


def gaps_of(numbers: Sequence[int]) -> list[tuple[int, int]]:
    """Runs of missing numbers, as first and last."""
    return [(one + 1, two - 1) for one, two in pairwise(numbers) if two - one > 1]


class PictureClip:
    """Numbered pictures as footage: a frame for each number from the first to the last. For a
    missing picture the previous one stands still.

    Raises
    ------
    Unreadable, TooLarge
    """

    def __init__(
        self, files: Files, names: Sequence[str], identity: str, name: str,
        reading: Reading = AS_TOLD, table: LookupTable | None = None,
    ) -> None:  # fmt: skip
        self._files, self._reading, self._table = files, reading, table
        self._names = numbers_of(names)
        self._numbers = list(self._names)
        first, last = self._numbers[0], self._numbers[-1]
        if last - first >= MOST_PICTURES:
            raise TooLarge(
                f"{name} has numbers from {first} to {last}, more than {MOST_PICTURES} pictures."
            )
        self.identity, self.name = identity + reading.mark(), name
        self.rate = FrameRate.of(reading.rate or DEFAULT_RATE)
        self.length = last - first + 1
        self._cache = pixel_cache()
        shape = self.pixels(0).shape
        self.size = Size(shape[1], shape[0])
        self.nbytes = 1 << 16

    def pixels(self, index: int) -> NDArray[Any]:
        """The picture of a frame."""
        wanted = self._numbers[0] + min(max(index, 0), self.length - 1)
        number = self._numbers[bisect_right(self._numbers, wanted) - 1]
        held = self._cache.get(number)
        if held is None:
            name = self._names[number]
            held, _ = decode_still(self._files.read(name), name, self._reading, self._table)
            if hasattr(self, "size") and held.shape[1::-1] != (self.size.width, self.size.height):
                raise Unreadable(
                    f"{name} is {held.shape[1]}×{held.shape[0]}, and its sequence "
                    f"{self.size.shown}. "
                    "Bring it in again at that size."
                )
            held.setflags(write=False)
            self._cache.put(number, held)
        return held

    def checked(self) -> PictureClip:
        """The clip, after checking the head of each picture.

        Raises
        ------
        Unreadable
            If a picture is broken or has another size; it names the first one.
        """
        for name in self._names.values():
            facts = still_facts(self._files.read(name), name)
            if facts is not None and facts != self.size:
                raise Unreadable(
                    f"{name} is {facts.shown}, and the pictures before it {self.size.shown}: a "
                    f"sequence has "
                    "one size."
                )
        return self

    def facts(self) -> Facts:
        """The facts of the sequence."""
        _, still = decode_still(
            self._files.read(self._names[self._numbers[0]]), self.name, self._reading, self._table
        )
        problems = [
            f"Picture {first} is missing" if first == last else f"Pictures {first} to {last} are "
            "missing"
            for first, last in gaps_of(self._numbers)
        ]  # fmt: skip
        told = [f"{one}: the previous picture stands still there." for one in problems[:8]]
        if len(problems) > 8:
            told.append(f"{len(problems) - 8} more gaps in its numbers.")
        return still.model_copy(
            update={
                "kind": "video", "rate": str(self.rate), "frames": self.length,
                "seconds": float(self.length / self.rate.exact), "pictures": len(self._numbers),
                "coding": f"{still.coding} sequence", "problems": tuple(told),
            }
        )  # fmt: skip

    def close(self) -> None:
        """Close the pictures' files."""
        self._cache.clear()


def packed_clip(
    path: Path, identity: str | None, name: str, reading: Reading = AS_TOLD,
    table: LookupTable | None = None,
) -> PictureClip:  # fmt: skip
    """The sequence in a zip file.

    Raises
    ------
    Unreadable, TooLarge
    """
    try:
        with zipfile.ZipFile(path) as packed:
            entries = [one for one in packed.infolist() if not one.is_dir()]
    except Exception as fault:  # the ZIP reader raises a different exception for each problem
        raise Unreadable(f"{name} is damaged: its pictures cannot be listed.") from fault
    if len(entries) > MOST_PICTURES:
        raise TooLarge(f"{name} holds {len(entries)} files, more than {MOST_PICTURES}.")
    for one in entries:
        if one.file_size > MOST_PICTURE:
            raise TooLarge(f"{one.filename} in {name} is larger than {MOST_PICTURE >> 20} MB.")
    names = [one.filename for one in entries]
    return PictureClip(Packed(path), names, identity or file_identity(path), name, reading, table)


def names_of(pattern: Path) -> list[str]:
    """The files of a name that holds ``%04d`` or the like.

    Raises
    ------
    Missing
        If there is no such file.
    """
    start, _, end = re.sub(r"%0?\d*d", "\0", pattern.name).partition("\0")
    names = [
        one.name for one in pattern.parent.glob("*") if one.name.startswith(start)
        and one.name.endswith(end) and one.name[len(start) : len(one.name) - len(end)].isdigit()
    ]  # fmt: skip
    if not names:
        raise Missing(f"There are no pictures {pattern}.")
    return names


def folder_clip(pattern: Path, reading: Reading = AS_TOLD) -> PictureClip:
    """The sequence of a name that holds ``%04d`` or the like.

    Raises
    ------
    Missing
        If there is no such file.
    """
    names = names_of(pattern)
    digest = hashlib.blake2b(digest_size=16)
    for name in sorted(names):
        digest.update(file_identity(pattern.parent / name).encode())
    return PictureClip(Folder(pattern.parent), names, digest.hexdigest(), pattern.name, reading)


def pack(pictures: Mapping[str, BinaryIO | Path], out: BinaryIO) -> None:
    """Numbered pictures, open or by their paths, as a zip file; the same for the same pictures."""
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as packed:
        for name in numbers_of(list(pictures)).values():
            given = pictures[name]
            picture = given.open("rb") if isinstance(given, Path) else nullcontext(given)
            with (
                packed.open(zipfile.ZipInfo(Path(name).name, _DATE), "w") as entry,
                picture as opened,
            ):
                shutil.copyfileobj(opened, entry)
