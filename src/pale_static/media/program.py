"""The name of the program that computes and encodes pictures."""

from __future__ import annotations

from functools import cache
from hashlib import blake2b
from importlib.metadata import version
from pathlib import Path

PACKAGE = Path(__file__).parents[1]
FOLDERS = ("core", "media")
"""Folders and modules whose sources compute or encode pictures."""
LIBRARIES = ("numpy", "numba", "opencv-python-headless", "pillow", "av", "openexr", "tifffile",
             "freetype-py", "uharfbuzz")  # fmt: skip
"""Libraries whose versions affect pixels or bytes."""


@cache
def program() -> str:
    """A hash of the sources and libraries that affect the bytes of pictures and films.

    Another program may give other pixels, so it is a part of every key that outlives a process.
    """
    return digest_of_sources(PACKAGE)


def digest_of_sources(package: Path) -> str:
    """The hash for a copy of this package in another folder."""
    digest = blake2b(digest_size=6)
    for folder in FOLDERS:
        for path in sorted((package / folder).rglob("*")):
            if path.is_file() and path.suffix not in (".pyc", ".md"):
                digest.update(f"{path.relative_to(package)}\0".encode())
                digest.update(path.read_bytes())
    for name in LIBRARIES:
        digest.update(f"{name} {version(name)}\0".encode())
    return digest.hexdigest()
