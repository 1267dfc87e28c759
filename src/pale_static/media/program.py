"""The name of the program that computes and encodes pictures."""

from __future__ import annotations

import re
from functools import cache
from hashlib import blake2b
from importlib.metadata import version
from pathlib import Path

import cv2

from ..core.kernels.objects import target

PACKAGE = Path(__file__).parents[1]
FOLDERS = ("core", "media")
"""Folders and modules whose sources compute or encode pictures."""
LIBRARIES = ("numpy", "numba", "opencv-python-headless", "pillow", "av", "openexr", "tifffile",
             "freetype-py", "uharfbuzz")  # fmt: skip
"""Libraries whose versions affect pixels or bytes."""


@cache
def program() -> str:
    """A hash of the sources, the libraries and the processor's abilities that affect the bytes of
    pictures and films.

    Another program may give other pixels, so it is a part of every key that outlives a process.
    """
    return digest_of_sources(PACKAGE)


@cache
def rounding() -> str:
    """The abilities of this machine that decide the last bit of a pixel, as one text.

    Two machines with one text compute the same bits. Kernels are compiled for one processor where
    that is possible; filters of OpenCV choose their code when they run. With AVX2 and without
    AVX-512, every step gave the same bits (measured), so both count as one.
    """
    processor, features = target()
    # A question mark follows an ability that OpenCV was built for and does not use here.
    abilities = {one.strip("*") for one in cv2.getCPUFeaturesLine().split()}
    opencv = "AVX2" if "AVX2" in abilities else " ".join(sorted(abilities))
    filters = cv2.ipp.getIppVersion() if cv2.ipp.useIPP() else "own"
    if re.search(r"AVX2|AVX-512", filters):
        filters = "AVX2"
    return f"kernels {processor} {features}; OpenCV {opencv}, filters {filters}"


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
    digest.update(rounding().encode())
    return digest.hexdigest()
