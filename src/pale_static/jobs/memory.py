"""Set how the C library treats memory that pictures have freed."""

from __future__ import annotations

import ctypes


def keep_memory() -> bool:
    """Let the C library keep up to 256 MiB of freed memory; returns whether that worked.

    A picture takes eight megabytes or more. If its memory goes back to the system and is allocated
    again, the system adds it page by page, which takes as long as computing the picture.
    """
    try:
        tell = ctypes.CDLL("libc.so.6").mallopt
    except (OSError, AttributeError):
        return False  # another C library
    # From mallopt(3): blocks of up to 32 MiB out of the heap; when to trim it; one heap for all.
    return all([tell(-3, 32 << 20), tell(-1, 256 << 20), tell(-8, 1)])
