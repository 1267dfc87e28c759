"""Decoded pixels: how much of them is kept, and by how many threads they are decoded."""

from __future__ import annotations

from typing import Any

from numpy.typing import NDArray

from ..core.cache import Budget, Cache

_room = Budget(512 << 20)
_threads = 0


def decode_with(room: Budget, threads: int = 0) -> None:
    """Which bytes hold the pixels of files opened from now on in this process, and how many
    threads decode each; 0 leaves that to the decoder."""
    global _room, _threads
    _room, _threads = room, threads


def threads() -> int:
    """How many threads decode a file; 0 where the decoder decides."""
    return _threads


def pixel_cache() -> Cache[int, NDArray[Any]]:
    """A cache for one file's frames, in the bytes that all files share."""
    return Cache(_room)
