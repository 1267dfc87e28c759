"""The one door for foreign files: each function reads a file in a process of its own.

Every function raises :class:`Unreadable` or :class:`TooLarge` with a sentence that names the file.
"""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING

from ...core.time.timing import FrameRate
from ..facts import Facts
from ..reading import AS_TOLD, Reading
from ..timelines.named_media import Media, plain_media
from .messages import Message
from .readers import read_apart

if TYPE_CHECKING:
    from ...core.documents.part import Collection
    from ...core.footage import Footage
    from ..colour.cdl import Grade
    from ..packages import Package
    from ..timelines.reading import Arrival


def facts_of(
    path: Path, name: str | None = None, reading: Reading = AS_TOLD, table: Path | None = None
) -> Facts:
    """The facts of a file of material: a film, a sequence, a still, a font or a lookup table.

    Parameters
    ----------
    path : Path
        The file, or a name with ``%04d`` or the like for numbered pictures.
    table : Path, optional
        A ``.cube`` file for its colours.
    """
    given = {
        "path": str(path), "reading": reading.model_dump(mode="json"),
        "table": str(table) if table else None,
    }  # fmt: skip
    answer = read_apart("facts", name or path.name, given, size=_size(path))
    return Facts.model_validate({key: answer.plain[key] for key in Facts.model_fields})


def open_footage(
    path: str | Path, name: str | None = None, reading: Reading = AS_TOLD, known: bool = False
) -> Footage:
    """A clip or a still from a file, by its content; or numbered pictures by ``name_%04d.png``.

    Parameters
    ----------
    known : bool
        Whether the file was read before. Else it is read first in a process of its own.

    Raises
    ------
    Missing, Unreadable, TooLarge
    """
    if not known:
        facts_of(Path(path), name, reading)
    from ..opening import inspect

    return inspect(Path(path), name, reading)[0]


def _size(path: Path) -> int:
    try:
        return path.stat().st_size
    except OSError:
        return 0


def read_arrival(
    data: bytes, name: str, media: Mapping[str, Media], rate: FrameRate | None = None
) -> Arrival:
    """The edit in an OpenTimelineIO file, an edit list, or a document of ours.

    Parameters
    ----------
    media : mapping
        The materials among which it looks for its media.
    rate : FrameRate, optional
        The frame rate of an edit list, which states none.
    """
    from ...core.reel import read_reel
    from ..timelines.reading import Arrival

    given = {
        "rate": str(rate) if rate else None,
        "media": {key: plain_media(one) for key, one in media.items()},
    }  # fmt: skip
    answer = read_apart("timeline", name, given, [data])
    plain = answer.plain
    return Arrival(read_reel(plain["reel"]), tuple(plain["notes"]), tuple(plain["missing"]))


def read_package(data: bytes, name: str = "The file") -> Package:
    """A macro's package, with its document, pictures and fonts checked."""
    from ...core.documents.macro import read_macro, read_settings
    from ..packages import Package

    answer = read_apart("package", name, {}, [data])
    macro = read_macro(answer.plain["macro"])
    settings = read_settings(answer.plain["settings"], macro.effect)
    preview, assets = _assets(answer)
    return Package(macro, assets, preview, settings)


def read_parts(data: bytes, name: str = "The file") -> tuple[Collection, Mapping[str, bytes]]:
    """A collection of parts and its files, checked."""
    from ...core.documents.part import read_collection

    answer = read_apart("parts", name, {}, [data])
    return read_collection(answer.plain["collection"]), _assets(answer)[1]


def _assets(answer: Message) -> tuple[bytes | None, dict[str, bytes]]:
    """The preview and the assets that follow an answer."""
    blobs = list(answer.blobs)
    preview = blobs.pop(0) if answer.plain.get("preview") else None
    return preview, dict(zip(answer.plain["assets"], blobs, strict=True))


def read_grade(data: bytes, name: str) -> Grade:
    """The first correction in an ASC CDL file."""
    from ..colour.cdl import Grade

    plain = read_apart("grade", name, {}, [data]).plain
    return Grade(plain["values"], plain["name"], plain["count"])


def read_backup(path: Path, folder: Path) -> int:
    """Unpack a backup into a folder and check its database.

    Returns
    -------
    int
        The number of files in it, without the database.
    """
    given = {"path": str(path), "folder": str(folder)}
    answer = read_apart("backup", path.name, given, size=_size(path))
    return int(answer.plain["files"])
