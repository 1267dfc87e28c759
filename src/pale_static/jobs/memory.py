"""What the C library does with memory that pictures have freed."""

from __future__ import annotations

import ctypes


def keep_memory() -> bool:
    """Let the C library keep what pictures have freed, up to 256 MiB; whether it could be told.

    A picture is eight megabytes and more. Given back to the system and asked for again, its pages
    come one by one, and that takes as long as computing it.
    """
    try:
        tell = ctypes.CDLL("libc.so.6").mallopt
    except (OSError, AttributeError):
        return False  # another C library
    # From mallopt(3): blocks of up to 32 MiB out of the heap; when to trim it; one heap for all.
    return all([tell(-3, 32 << 20), tell(-1, 256 << 20), tell(-8, 1)])
