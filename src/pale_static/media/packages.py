"""``.palemacro`` packages: a macro with its pictures and fonts in one zip file."""

from __future__ import annotations

import io
import json
import re
import zipfile
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

from ..core.faults import TooLarge, Unreadable
from ..core.footage import Footage, Materials
from ..core.lettering import Font
from ..core.macro import Macro, read_macro
from .facts import sniff
from .fonts import read_font
from .stills import read_still

MOST_FILES = 200
MOST_PACKED = 256 << 20
MOST_UNPACKED = 512 << 20
MOST_JSON = 4 << 20
MOST_RATIO = 200
_ASSET = re.compile(r"assets/[A-Za-z0-9][A-Za-z0-9._-]{0,119}")
_FIXED = ("macro.json", "preview.webp", "proof.json")
_WHEN = (2000, 1, 1, 0, 0, 0)  # the same macro gives the same bytes


@dataclass(frozen=True)
class Package:
    """A macro, the files it brings by asset name, and its preview."""

    macro: Macro
    assets: Mapping[str, bytes] = field(default_factory=dict)
    preview: bytes | None = None


def write_package(package: Package) -> bytes:
    """The package as the bytes of a ``.palemacro`` file."""
    out = io.BytesIO()
    text = json.dumps(package.macro.to_json(), indent=1, ensure_ascii=False, sort_keys=True)
    entries = {"macro.json": text.encode()}
    if package.preview:
        entries["preview.webp"] = package.preview
    for name, data in sorted(package.assets.items()):
        entries[f"assets/{name}"] = data
    with zipfile.ZipFile(out, "w") as file:
        for name, data in entries.items():
            packed = zipfile.ZIP_DEFLATED if name.endswith(".json") else zipfile.ZIP_STORED
            file.writestr(zipfile.ZipInfo(name, _WHEN), data, packed)
    return out.getvalue()


def read_package(data: bytes, name: str = "The file") -> Package:
    """A package from bytes that may be anything.

    Names, counts, sizes and ratios are bounded before anything is unpacked, each entry is read
    no further than it may be long, and nothing is written or executed.

    Raises
    ------
    Unreadable, TooLarge, Fault
    """
    if len(data) > MOST_PACKED:
        raise TooLarge(f"{name} is larger than {MOST_PACKED >> 20} MB. No macro needs that.")
    try:
        file = zipfile.ZipFile(io.BytesIO(data))
        entries = file.infolist()
    except (zipfile.BadZipFile, ValueError, OSError):
        raise Unreadable(f"{name} is no macro: it is not a .palemacro package.") from None
    if len(entries) > MOST_FILES:
        raise TooLarge(f"{name} holds {len(entries)} files. A macro has {MOST_FILES} at most.")
    total = 0
    for entry in entries:
        if entry.filename not in _FIXED and not _ASSET.fullmatch(entry.filename):
            raise Unreadable(
                f"{name} holds a file named “{entry.filename[:80]}”, which has no place in a macro. "
                "Nothing was brought in."
            )
        total += entry.file_size
        swollen = entry.file_size > MOST_RATIO * max(1, entry.compress_size) + (1 << 20)
        if total > MOST_UNPACKED or swollen:
            raise TooLarge(
                f"{name} would unpack to far more than it may ({MOST_UNPACKED >> 20} MB). "
                "Nothing was brought in."
            )
    names = [entry.filename for entry in entries]
    if len(set(names)) < len(names):
        raise Unreadable(f"{name} holds two files of one name. Nothing was brought in.")
    if "macro.json" not in names:
        raise Unreadable(f"{name} is no macro: it has no macro.json.")
    contents = {entry.filename: _read(file, entry, name) for entry in entries}
    macro = _macro(contents["macro.json"], name)
    assets = {n.removeprefix("assets/"): d for n, d in contents.items() if n.startswith("assets/")}
    for asset, content in assets.items():
        sniff(content[:64], f"{asset} in {name}")
    return Package(macro, assets, contents.get("preview.webp"))


def _read(file: zipfile.ZipFile, entry: zipfile.ZipInfo, name: str) -> bytes:
    limit = MOST_JSON if entry.filename.endswith(".json") else entry.file_size
    if entry.flag_bits & 1:
        raise Unreadable(f"{name} is locked with a password. Macros are not.")
    try:
        with file.open(entry) as stream:
            content = stream.read(limit + 1)
    except (zipfile.BadZipFile, NotImplementedError, OSError, EOFError, ValueError, RuntimeError):
        raise Unreadable(f"{name} is damaged at “{entry.filename}”.") from None
    except Exception as fault:  # zlib raises its own kind
        raise Unreadable(f"{name} is damaged at “{entry.filename}”.") from fault
    if len(content) > limit:
        raise TooLarge(
            f"{name}: “{entry.filename}” is longer than it says. Nothing was brought in."
        )
    return content


def _macro(text: bytes, name: str) -> Macro:
    try:
        raw = json.loads(text)
    except (ValueError, RecursionError):
        raise Unreadable(f"{name}: its macro.json is not JSON.") from None
    if not isinstance(raw, dict):
        raise Unreadable(f"{name}: its macro.json is no macro.")
    return read_macro(raw)


def package_materials(package: Package, folder: Path) -> Materials:
    """The package's pictures and fonts, opened, by the names that its steps give them.

    Pictures are laid down in ``folder`` to be read.
    """
    pictures: dict[str, Footage] = {}
    fonts: dict[str, Font] = {}
    for name, data in package.assets.items():
        path = folder / name
        path.write_bytes(data)
        if sniff(data[:64], name)[0] == "font":
            fonts[name] = fonts[path.stem] = read_font(path, path.stem, name)[0]
        else:
            pictures[name] = pictures[path.stem] = read_still(path)[0]
    return Materials({}, pictures, fonts)
