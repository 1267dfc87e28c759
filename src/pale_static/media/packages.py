"""``.palemacro`` and ``.paleparts``: a macro, or parts, with pictures and fonts in one zip file."""

from __future__ import annotations

import io
import json
import re
import zipfile
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ..core.documents.json_input import parse_json
from ..core.documents.macro import KeptSettings, Macro, SettingsFile, read_macro, read_settings
from ..core.documents.part import Collection, read_collection
from ..core.faults import Malformed, TooLarge, Unreadable
from ..core.footage import Footage, Materials
from ..core.lettering import Font
from .colour.cube import read_cube
from .facts import sniff
from .fonts import read_font
from .pictures.stills import read_still

MOST_FILES = 200
MOST_PACKED = 256 << 20
MOST_UNPACKED = 512 << 20
MOST_JSON = 4 << 20
MOST_RATIO = 200
_ASSET = re.compile(r"assets/[A-Za-z0-9][A-Za-z0-9._-]{0,119}")
_WHEN = (2000, 1, 1, 0, 0, 0)  # the same macro gives the same bytes


@dataclass(frozen=True)
class _What:
    """A kind of package: its name, and its files besides assets."""

    one: str
    ending: str
    document: str
    fixed: tuple[str, ...]


MACRO = _What("macro", ".palemacro", "macro.json", (
    "macro.json", "preview.webp", "proof.json", "settings.json",
))  # fmt: skip
PARTS = _What("collection of parts", ".paleparts", "parts.json", ("parts.json",))


@dataclass(frozen=True)
class Package:
    """A macro, its files by asset name, its preview, and its kept settings."""

    macro: Macro
    assets: Mapping[str, bytes] = field(default_factory=dict)
    preview: bytes | None = None
    settings: tuple[KeptSettings, ...] = ()


def write_package(package: Package) -> bytes:
    """The package as the bytes of a ``.palemacro`` file."""
    entries = {"macro.json": _text(package.macro.to_json())}
    if package.preview:
        entries["preview.webp"] = package.preview
    if package.settings:
        sets = SettingsFile(sets=package.settings).model_dump(mode="json")
        entries["settings.json"] = _text(sets)
    return _packed(entries, package.assets)


def write_parts(collection: Collection, assets: Mapping[str, bytes]) -> bytes:
    """A collection and the files its parts need, as the bytes of a ``.paleparts`` file."""
    return _packed({"parts.json": _text(collection.to_json())}, assets)


def _text(plain: Mapping[str, Any]) -> bytes:
    return json.dumps(plain, indent=1, ensure_ascii=False, sort_keys=True).encode()


def _packed(entries: dict[str, bytes], assets: Mapping[str, bytes]) -> bytes:
    out = io.BytesIO()
    for name, data in sorted(assets.items()):
        entries[f"assets/{name}"] = data
    with zipfile.ZipFile(out, "w") as file:
        for name, data in entries.items():
            packed = zipfile.ZIP_DEFLATED if name.endswith(".json") else zipfile.ZIP_STORED
            file.writestr(zipfile.ZipInfo(name, _WHEN), data, packed)
    return out.getvalue()


def unpacked_macro(data: bytes, name: str) -> Package:
    """Read a macro's package from untrusted bytes; for :mod:`.foreign` alone.

    Raises
    ------
    Unreadable, TooLarge, Fault
    """
    contents, assets = _contents(data, name, MACRO)
    macro = read_macro(_plain(contents[MACRO.document], name, MACRO))
    settings: tuple[KeptSettings, ...] = ()
    if "settings.json" in contents:
        settings = read_settings(_plain(contents["settings.json"], name, MACRO), macro.effect)
    return Package(macro, assets, contents.get("preview.webp"), settings)


def unpacked_parts(data: bytes, name: str) -> tuple[Collection, Mapping[str, bytes]]:
    """Read a collection of parts and its files from untrusted bytes; for :mod:`.foreign` alone.

    A collection that needs no files may also be plain JSON.

    Raises
    ------
    Unreadable, TooLarge, Fault
    """
    if not data.startswith(b"PK"):
        if len(data) > MOST_JSON:
            raise TooLarge(f"{name} is larger than {MOST_JSON >> 20} MB. No collection needs that.")
        return read_collection(_plain(data, name, PARTS)), {}
    contents, assets = _contents(data, name, PARTS)
    return read_collection(_plain(contents[PARTS.document], name, PARTS)), assets


def _contents(
    data: bytes, name: str, what: _What
) -> tuple[Mapping[str, bytes], Mapping[str, bytes]]:
    """The contents of a package, and its pictures and fonts by name.

    Names, counts, sizes and ratios are checked before anything is unpacked, each entry is read up
    to its limit, and nothing is written or executed.
    """
    if len(data) > MOST_PACKED:
        raise TooLarge(f"{name} is larger than {MOST_PACKED >> 20} MB. No {what.one} needs that.")
    try:
        file = zipfile.ZipFile(io.BytesIO(data))
        entries = file.infolist()
    except Exception:  # the ZIP reader raises a different exception for each problem
        raise Unreadable(
            f"{name} is not a {what.one}: it is not a {what.ending} package."
        ) from None
    if len(entries) > MOST_FILES:
        raise TooLarge(f"{name} holds {len(entries)} files. A {what.one} has {MOST_FILES} at most.")
    total = 0
    for entry in entries:
        if entry.filename not in what.fixed and not _ASSET.fullmatch(entry.filename):
            raise Unreadable(
                f"{name} holds a file named “{entry.filename[:80]}”, which does not belong in a "
                f"{what.one}. Nothing was brought in."
            )
        total += entry.file_size
        swollen = entry.file_size > MOST_RATIO * max(1, entry.compress_size) + (1 << 20)
        if total > MOST_UNPACKED or swollen:
            raise TooLarge(
                f"{name} would unpack to more than {MOST_UNPACKED >> 20} MB. Nothing was brought "
                f"in."
            )
    names = [entry.filename for entry in entries]
    if len(set(names)) < len(names):
        raise Unreadable(f"{name} holds two files of one name. Nothing was brought in.")
    if what.document not in names:
        raise Unreadable(f"{name} is not a {what.one}: it has no {what.document}.")
    contents = {entry.filename: _read(file, entry, name) for entry in entries}
    assets = {n.removeprefix("assets/"): d for n, d in contents.items() if n.startswith("assets/")}
    for asset, content in assets.items():
        sniff(content[:64], f"{asset} in {name}")
    return contents, assets


def _read(file: zipfile.ZipFile, entry: zipfile.ZipInfo, name: str) -> bytes:
    limit = MOST_JSON if entry.filename.endswith(".json") else entry.file_size
    if entry.flag_bits & 1:
        raise Unreadable(f"{name} is locked with a password. Pale Static never locks files.")
    try:
        with file.open(entry) as stream:
            content = stream.read(limit + 1)
    except (zipfile.BadZipFile, NotImplementedError, OSError, EOFError, ValueError, RuntimeError):
        raise Unreadable(f"{name} is damaged at “{entry.filename}”.") from None
    except Exception as fault:  # zlib raises its own exception
        raise Unreadable(f"{name} is damaged at “{entry.filename}”.") from fault
    if len(content) > limit:
        raise TooLarge(
            f"{name}: “{entry.filename}” is longer than its entry says. Nothing was brought in."
        )
    return content


def _plain(text: bytes, name: str, what: _What) -> dict[str, Any]:
    """A package's document as plain JSON."""
    try:
        raw = parse_json(text, f"its {what.document}")
    except Malformed as fault:
        raise Unreadable(f"{name} is not a {what.one}: {fault.sentence}") from None
    if not isinstance(raw, dict):
        raise Unreadable(f"{name} is not a {what.one}: its {what.document} is not valid.")
    return raw


def package_materials(
    package: Package, folder: Path, check: Callable[[Path, str], object] | None = None
) -> Materials:
    """The package's pictures and fonts, opened, by their names in its steps.

    Parameters
    ----------
    folder : Path
        The folder into which the files are written.
    check : callable, optional
        Called with each file and its name before the file is opened here; raises Unreadable or
        TooLarge. It is required for files that were never read.
    """
    pictures: dict[str, Footage] = {}
    fonts: dict[str, Font] = {}
    for name, data in package.assets.items():
        path = folder / name
        path.write_bytes(data)
        if check is not None:
            check(path, name)
        kind = sniff(data[:64], name)[0]
        if kind == "table":
            pictures[name] = pictures[path.stem] = read_cube(path, name)[0]
        elif kind == "font":
            fonts[name] = fonts[path.stem] = read_font(path, path.stem, name)[0]
        else:
            pictures[name] = pictures[path.stem] = read_still(path)[0]
    return Materials({}, pictures, fonts)
