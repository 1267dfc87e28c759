"""The code of a reader process: its limits, and its functions."""

from __future__ import annotations

import resource
import sys
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from .messages import MOST_MEMORY, received, send

Plain = dict[str, Any]
Read = tuple[Plain, list[bytes]]
"""Plain JSON, and the bytes that follow it."""


@dataclass(frozen=True)
class Limits:
    """The limits of a reader for one file.

    Parameters
    ----------
    memory : int
        Bytes, in addition to what the reader uses before.
    seconds : int
        Of processor time, for a small file.
    files : int
        Open at one time.
    kept : int
        A reader that uses more bytes than this is not used again.
    """

    memory: int = 2560 << 20
    seconds: int = 120
    files: int = 128
    kept: int = 768 << 20


LIMITS = Limits()


def limited(seconds: int = LIMITS.seconds) -> None:
    """Limit this process for the next file."""
    with open("/proc/self/statm") as told:
        held = int(told.read().split()[0]) * resource.getpagesize()
    _lower(resource.RLIMIT_AS, held + LIMITS.memory)
    used = resource.getrusage(resource.RUSAGE_SELF)
    _lower(resource.RLIMIT_CPU, int(used.ru_utime + used.ru_stime) + seconds)
    _lower(resource.RLIMIT_NOFILE, LIMITS.files)
    _lower(resource.RLIMIT_CORE, 0)


def _lower(what: int, limit: int) -> None:
    _, most = resource.getrlimit(what)
    if most != resource.RLIM_INFINITY:
        limit = min(limit, most)
    resource.setrlimit(what, (limit, most))


def answered(what: str, given: Mapping[str, Any], data: Sequence[bytes]) -> Read:
    """The result of a function, or its fault as plain JSON."""
    from ...core.faults import Fault

    try:
        plain, blobs = FUNCTIONS[what](given, data)
    except Fault as fault:
        plain = {
            "fault": type(fault).__name__, "sentence": fault.sentence, "where": fault.where,
        }  # fmt: skip
        blobs = []
    except (Exception, RecursionError, MemoryError) as fault:
        plain = {
            "fault": "Unreadable", "where": None,
            "sentence": f"{given['name']} could not be read: it is damaged, or of a kind that no "
                        f"reader "
            f"here knows ({type(fault).__name__}). Save it again, or bring in another copy.",
        }  # fmt: skip
        blobs = []
    return {**plain, MOST_MEMORY: _most_memory()}, blobs


def _most_memory() -> int:
    """The most bytes of memory that this process has used.

    Not ``ru_maxrss``: a process inherits that from the one that started it (Linux, exec_mmap), and
    a server may use more than a reader ever does.
    """
    with open("/proc/self/status") as told:
        line = next(line for line in told if line.startswith("VmHWM"))
    return int(line.split()[1]) << 10


def _facts(given: Mapping[str, Any], _: Sequence[bytes]) -> Read:
    from ..colour.cube import read_cube
    from ..opening import inspect
    from ..reading import Reading

    table = None
    if given["table"]:
        table = read_cube(Path(given["table"]), Path(given["table"]).name)[0].table
    reading = Reading.model_validate(given["reading"])
    facts = inspect(Path(given["path"]), given["name"], reading, table)[1]
    return facts.model_dump(mode="json"), []


def _timeline(given: Mapping[str, Any], data: Sequence[bytes]) -> Read:
    from ...core.documents.json_input import parse_json
    from ...core.reel import read_reel
    from ...core.time.timing import FrameRate

    name, text = given["name"], data[0]
    if name.lower().endswith(".json"):
        reel = read_reel(parse_json(text.decode("utf-8", "replace"), name))
        return {"reel": reel.to_json(), "notes": [], "missing": []}, []
    from ..timelines.edl import read_edl
    from ..timelines.named_media import media_from
    from ..timelines.parts import read_otio
    from ..timelines.reading import from_timeline

    rate = FrameRate.of(given["rate"]) if given["rate"] else None
    edl = name.lower().endswith(".edl")
    timeline = read_edl(text, name, rate) if edl else read_otio(text, name)
    media = {key: media_from(one) for key, one in given["media"].items()}
    arrival = from_timeline(timeline, media)
    return {
        "reel": arrival.reel.to_json(), "notes": list(arrival.notes),
        "missing": list(arrival.missing),
    }, []  # fmt: skip


def _package(given: Mapping[str, Any], data: Sequence[bytes]) -> Read:
    from ...core.documents.macro import SettingsFile
    from ..packages import unpacked_macro

    package = unpacked_macro(data[0], given["name"])
    plain = {
        "macro": package.macro.to_json(), "assets": list(package.assets),
        "settings": SettingsFile(sets=package.settings).model_dump(mode="json"),
        "preview": package.preview is not None,
    }  # fmt: skip
    before = [] if package.preview is None else [package.preview]
    return plain, [*before, *package.assets.values()]


def _parts(given: Mapping[str, Any], data: Sequence[bytes]) -> Read:
    from ..packages import unpacked_parts

    collection, assets = unpacked_parts(data[0], given["name"])
    return {"collection": collection.to_json(), "assets": list(assets)}, list(assets.values())


def _backup(given: Mapping[str, Any], _: Sequence[bytes]) -> Read:
    from ..backup_file import unpack

    return {"files": unpack(Path(given["path"]), Path(given["folder"]))}, []


def _grade(given: Mapping[str, Any], data: Sequence[bytes]) -> Read:
    from ..colour.cdl import read_cdl

    grade = read_cdl(data[0], given["name"])
    return {"values": dict(grade.values), "name": grade.name, "count": grade.count}, []


FUNCTIONS: Mapping[str, Callable[[Mapping[str, Any], Sequence[bytes]], Read]] = {
    "facts": _facts, "timeline": _timeline, "package": _package, "parts": _parts, "grade": _grade,
    "backup": _backup,
}  # fmt: skip


def serve(orders: Connection, answers: Connection) -> None:
    """Read files until the other process closes the connection."""
    # Libraries that most files need are loaded before memory is limited.
    from ..films import video  # noqa: F401

    while True:
        try:
            order = received(orders)
        except EOFError:
            return
        limited(order.plain["seconds"])
        send(answers, *answered(order.plain["what"], order.plain["given"], order.blobs))


if __name__ == "__main__":
    from ...processes import ends_with_parent

    ends_with_parent(int(sys.argv[3]))
    serve(
        Connection(int(sys.argv[1]), writable=False), Connection(int(sys.argv[2]), readable=False)
    )
