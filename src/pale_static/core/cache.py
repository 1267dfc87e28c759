"""What is kept by key, least recently used first out, bounded in bytes."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass
from threading import Lock
from typing import Any, Generic, TypeVar

from cachetools import LRUCache

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


@dataclass(frozen=True)
class Filling:
    """What a cache holds and how it has served."""

    count: int
    bytes: int
    limit: int
    hits: int
    misses: int


def _size(value: Any) -> int:
    return len(value) if isinstance(value, bytes) else int(value.nbytes)


class Cache(Generic[K, V]):
    """Arrays or bytes by key. Safe to use from several threads.

    Parameters
    ----------
    limit : int
        Bytes to hold at most; what is larger than that by itself is not kept at all.
    """

    def __init__(self, limit: int) -> None:
        self._kept: LRUCache[K, V] = LRUCache(limit, _size)
        self._hits = 0
        self._misses = 0
        self._lock = Lock()

    def get(self, key: K) -> V | None:
        """What has that key, now the most recently used; None where it is not held."""
        with self._lock:
            value = self._kept.get(key)
            if value is None:
                self._misses += 1
            else:
                self._hits += 1
            return value

    def __contains__(self, key: K) -> bool:
        with self._lock:
            return key in self._kept

    def put(self, key: K, value: V) -> None:
        """Keep something, and let go of the least recently used past the limit."""
        with self._lock:
            if key not in self._kept and _size(value) <= self._kept.maxsize:
                self._kept[key] = value

    def filling(self) -> Filling:
        """Counts, for showing."""
        with self._lock:
            kept = self._kept
            return Filling(
                len(kept), int(kept.currsize), int(kept.maxsize), self._hits, self._misses
            )
