"""Settings for decoded pixels: the memory for them, and the number of decoding threads."""

from __future__ import annotations

from typing import Any

from numpy.typing import NDArray

from ..core.cache import Budget, Cache

_room = Budget(512 << 20)
_threads = 0


def decode_with(room: Budget, threads: int = 0) -> None:
    """Set the memory for pixels of files that this process opens from now on, and the threads that
    decode each file; 0 leaves that to the decoder."""
    global _room, _threads
    _room, _threads = room, threads


def threads() -> int:
    """The number of threads that decode a file; 0 if the decoder decides."""
    return _threads


def pixel_cache() -> Cache[int, NDArray[Any]]:
    """A cache for one file's frames, within the memory that all files share."""
    return Cache(_room)
