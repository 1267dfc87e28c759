"""The one door for foreign files: each function reads a file in a process of its own.

Every function raises :class:`Unreadable` or :class:`TooLarge` with a sentence that names the file.
"""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ...core.timing import FrameRate
from ..facts import Facts
from ..reading import AS_TOLD, Reading
from .messages import Message
from .readers import read_apart

if TYPE_CHECKING:
    from ...core.part import Collection
    from ..cdl import Grade
    from ..edit_media import Media
    from ..packages import Package
    from ..timelines_in import Arrival


def facts_of(
    path: Path, name: str | None = None, reading: Reading = AS_TOLD, table: Path | None = None
) -> Facts:
    """What a file of material is: a film, a sequence, a still, a font or a lookup table.

    Parameters
    ----------
    path : Path
        The file, or a name with ``%04d`` or the like for numbered pictures.
    table : Path, optional
        A ``.cube`` file that its colours go through.
    """
    given = {
        "path": str(path), "reading": reading.model_dump(mode="json"),
        "table": str(table) if table else None,
    }  # fmt: skip
    answer = read_apart("facts", name or path.name, given, size=_size(path))
    return Facts.model_validate({key: answer.plain[key] for key in Facts.model_fields})


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
        The materials that it may find its media among.
    rate : FrameRate, optional
        For an edit list, which does not state its own.
    """
    from ...core.reel import read_reel
    from ..timelines_in import Arrival

    given = {
        "rate": str(rate) if rate else None,
        "media": {key: _plain_media(one) for key, one in media.items()},
    }  # fmt: skip
    answer = read_apart("timeline", name, given, [data])
    plain = answer.plain
    return Arrival(read_reel(plain["reel"]), tuple(plain["notes"]), tuple(plain["missing"]))


def _plain_media(media: Media) -> dict[str, Any]:
    size = [media.size.width, media.size.height] if media.size else None
    return {
        "id": media.id, "name": media.name, "file": media.file, "sound": media.sound, "size": size,
        "seconds": None if media.seconds is None else str(media.seconds),
        "rate": str(media.rate) if media.rate else None,
        "start": None if media.start is None else str(media.start),
    }  # fmt: skip


def media_from(plain: Mapping[str, Any]) -> Media:
    """The media that :func:`read_arrival` sent as plain JSON."""
    from ...core.picture import Size
    from ..edit_media import Media

    def exact(name: str) -> Fraction | None:
        return None if plain[name] is None else Fraction(plain[name])

    return Media(
        plain["id"], plain["name"], plain["file"], exact("seconds"),
        FrameRate.of(plain["rate"]) if plain["rate"] else None,
        Size(*plain["size"]) if plain["size"] else None, plain["sound"], exact("start"),
    )  # fmt: skip


def read_package(data: bytes, name: str = "The file") -> Package:
    """A macro's package, with its document, pictures and fonts checked."""
    from ...core.macro import read_macro, read_settings
    from ..packages import Package

    answer = read_apart("package", name, {}, [data])
    macro = read_macro(answer.plain["macro"])
    settings = read_settings(answer.plain["settings"], macro.effect)
    preview, assets = _assets(answer)
    return Package(macro, assets, preview, settings)


def read_parts(data: bytes, name: str = "The file") -> tuple[Collection, Mapping[str, bytes]]:
    """A collection of parts and its files, checked."""
    from ...core.part import read_collection

    answer = read_apart("parts", name, {}, [data])
    return read_collection(answer.plain["collection"]), _assets(answer)[1]


def _assets(answer: Message) -> tuple[bytes | None, dict[str, bytes]]:
    """The preview and the assets that came behind an answer."""
    blobs = list(answer.blobs)
    preview = blobs.pop(0) if answer.plain.get("preview") else None
    return preview, dict(zip(answer.plain["assets"], blobs, strict=True))


def read_grade(data: bytes, name: str) -> Grade:
    """The first correction in an ASC CDL file."""
    from ..cdl import Grade

    plain = read_apart("grade", name, {}, [data]).plain
    return Grade(plain["values"], plain["name"], plain["count"])


def read_backup(path: Path, folder: Path) -> int:
    """Unpack a backup into a folder and check its database.

    Returns
    -------
    int
        How many files it holds besides the database.
    """
    given = {"path": str(path), "folder": str(folder)}
    answer = read_apart("backup", path.name, given, size=_size(path))
    return int(answer.plain["files"])
