"""Open a file of material of any kind."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..core.cache import Cache
from ..core.faults import Missing
from ..core.footage import Footage, StillPicture, stand_in
from ..core.pictures.lookup import LookupTable
from ..core.pictures.picture import Size
from ..core.time.timing import FrameRate
from .colour.cube import read_cube
from .facts import HEAD, Facts, Kind, file_identity, sniff
from .fonts import read_font, shared_font, specimen
from .formats import NUMBER
from .pictures.animations import AnimatedPicture
from .pictures.picture_clip import PictureClip, folder_clip, packed_clip
from .pictures.stills import StillFile, read_still
from .reading import AS_TOLD, Reading

if TYPE_CHECKING:
    from .films.video import VideoFootage


def inspect(
    path: Path, name: str | None = None, reading: Reading = AS_TOLD,
    table: LookupTable | None = None,
) -> tuple[Footage, Facts]:  # fmt: skip
    """The material in a file, and its facts, read in this process.

    Files from outside go through :mod:`.foreign` first.

    Parameters
    ----------
    table : LookupTable, optional
        The table for its colours.
    """
    name = name or path.name
    if NUMBER.search(path.name) and not path.is_file():
        pictures = folder_clip(path, reading).checked()
        return pictures, pictures.facts()
    if not path.is_file():
        raise Missing(f"There is no file {path}.")
    with path.open("rb") as file:
        kind, _ = sniff(file.read(HEAD), name)
    if kind == "still":
        return read_still(path, name, reading, table)
    if kind == "table":
        return read_cube(path, name)
    if kind == "font":
        font, facts = read_font(path, file_identity(path), name)
        return specimen(font), facts
    clip = _clip(kind, path, None, name, reading, table)
    if isinstance(clip, PictureClip):
        clip.checked()
    return clip, clip.facts()


def _clip(
    kind: Kind, path: Path, identity: str | None, name: str | None, reading: Reading,
    table: LookupTable | None,
) -> VideoFootage | PictureClip | AnimatedPicture:  # fmt: skip
    """Footage that moves."""
    if kind == "sequence":
        return packed_clip(path, identity, name or path.name, reading, table)
    if kind == "animation":
        return AnimatedPicture(path, identity, name, reading, table)
    # Decoders take long to load, so they are imported only for video.
    from .films.video import VideoFootage

    return VideoFootage(path, identity, name, reading, table)


def waiting_card(identity: str, facts: Facts) -> Footage:
    """A plain card that shows while a file is being made, with the length of the file."""
    card = stand_in(identity, Size(max(2, round(540 * facts.width / facts.height)), 540))
    rate = FrameRate.of(facts.rate) if facts.rate else None
    return StillPicture(f"waiting:{identity}", card.array, rate, facts.frames)


OPEN_BYTES = 512 << 20
"""Memory for the decoders of open files; the file used longest ago is closed first."""
_open: Cache[tuple[Path, str], Any] = Cache(OPEN_BYTES)


def shared_footage(
    path: Path, identity: str, reading: Reading = AS_TOLD, table: LookupTable | None = None
) -> Footage:
    """An open file of material; all callers share its decoder and frames."""
    key = path, identity + reading.mark()
    held = _open.get(key)
    if held is None:
        held = _opened(path, identity, reading, table)
        _open.put(key, held)
    return held


def _opened(path: Path, identity: str, reading: Reading, table: LookupTable | None) -> Footage:
    if not path.is_file():
        raise Missing(f"The file of a material ({identity[:8]}…) is gone. Bring it in again.")
    with path.open("rb") as file:
        kind, _ = sniff(file.read(HEAD), path.name)
    if kind == "still":
        return StillFile(path, reading, table)
    if kind == "table":
        return read_cube(path, path.name, identity)[0]
    if kind == "font":
        return specimen(shared_font(path, identity))
    return _clip(kind, path, identity, None, reading, table)
