"""Open a file of material, whatever it is."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..core.cache import Cache
from ..core.faults import Missing
from ..core.footage import Footage, StillPicture, stand_in
from ..core.picture import Size
from ..core.timing import FrameRate
from .cube import read_cube
from .facts import Facts, file_identity, sniff
from .fonts import read_font, shared_font, specimen
from .stills import StillFile, read_still

if TYPE_CHECKING:
    from .video import VideoFootage


def open_footage(path: str | Path, name: str | None = None) -> Footage:
    """A clip or a still from a file, by its content.

    Raises
    ------
    Missing, Unreadable, TooLarge
    """
    return inspect_file(Path(path), name)[0]


def inspect_file(path: Path, name: str | None = None) -> tuple[Footage, Facts]:
    """The material in a file, and what it is."""
    name = name or path.name
    if not path.is_file():
        raise Missing(f"There is no file {path}.")
    with path.open("rb") as file:
        head = file.read(64)
    kind, _ = sniff(head, name)
    if kind == "still":
        return read_still(path, name)
    if kind == "table":
        return read_cube(path, name)
    if kind == "font":
        font, facts = read_font(path, file_identity(path), name)
        return specimen(font), facts
    video = _video()(path, name=name)
    return video, video.facts()


def waiting_card(identity: str, facts: Facts) -> Footage:
    """What stands in for a file that is still being made: a quiet card, as long as the file."""
    card = stand_in(identity, Size(max(2, round(540 * facts.width / facts.height)), 540))
    rate = FrameRate.of(facts.rate) if facts.rate else None
    return StillPicture(f"waiting:{identity}", card.array, rate, facts.frames)


OPEN_BYTES = 512 << 20
"""What the decoders of open files may hold; the file used longest ago is closed first."""
_open: Cache[tuple[Path, str], Any] = Cache(OPEN_BYTES)


def shared_footage(path: Path, identity: str) -> Footage:
    """The same open file for all who ask; its decoder and frames are shared."""
    held = _open.get((path, identity))
    if held is None:
        held = _opened(path, identity)
        _open.put((path, identity), held)
    return held


def _opened(path: Path, identity: str) -> Footage:
    if not path.is_file():
        raise Missing(f"The file of a material ({identity[:8]}…) is gone. Bring it in again.")
    with path.open("rb") as file:
        kind, _ = sniff(file.read(64), path.name)
    if kind == "still":
        return StillFile(path)
    if kind == "table":
        return read_cube(path, path.name, identity)[0]
    if kind == "font":
        return specimen(shared_font(path, identity))
    return _video()(path, identity)


def _video() -> type[VideoFootage]:
    # Decoders take long to load; who opens no video does without.
    from .video import VideoFootage

    return VideoFootage
