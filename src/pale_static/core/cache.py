"""Caches with a limit in bytes; the least recently used entry is dropped first."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass
from itertools import count
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


class Budget:
    """A limit in bytes that several caches share. The least recently used entry of all is dropped.

    Parameters
    ----------
    limit : int
        Bytes to hold at most; what is larger than that by itself is not kept at all.
    """

    def __init__(self, limit: int) -> None:
        self.limit = limit
        self.held: LRUCache[tuple[int, Any], Any] = LRUCache(limit, _size)
        self.lock = Lock()
        self._owners = count()

    def give_up(self, size: int) -> None:
        """Lower the limit, because something outside holds these bytes."""
        with self.lock:
            self.limit -= size
            kept = dict(self.held)
            self.held = LRUCache(self.limit, _size)
            for name, value in kept.items():
                if _size(value) <= self.limit:
                    self.held[name] = value

    def owner(self) -> int:
        """A number for one more cache that shares this limit."""
        return next(self._owners)


class Cache(Generic[K, V]):
    """Arrays or bytes by key. Safe to use from several threads.

    Parameters
    ----------
    room : int or Budget
        Bytes of its own, or those that it shares with others.
    """

    def __init__(self, room: int | Budget) -> None:
        self._room = room if isinstance(room, Budget) else Budget(room)
        self._own = self._room.owner()
        self._hits = 0
        self._misses = 0

    def get(self, key: K) -> V | None:
        """The value of a key, now the most recently used; None if it is not held."""
        with self._room.lock:
            value: V | None = self._room.held.get((self._own, key))
            if value is None:
                self._misses += 1
            else:
                self._hits += 1
            return value

    def __contains__(self, key: K) -> bool:
        with self._room.lock:
            return (self._own, key) in self._room.held

    def put(self, key: K, value: V) -> None:
        """Keep a value, and drop the least recently used ones above the limit."""
        room, name = self._room, (self._own, key)
        with room.lock:
            if name not in room.held and _size(value) <= room.limit:
                room.held[name] = value

    def clear(self) -> None:
        """Drop everything that this cache holds."""
        with self._room.lock:
            for name in [name for name in self._room.held if name[0] == self._own]:
                del self._room.held[name]

    def filling(self) -> Filling:
        """Counts of this cache, and the bytes of all that share its room, for showing."""
        room = self._room
        with room.lock:
            own = sum(owner == self._own for owner, _ in room.held)
            return Filling(own, int(room.held.currsize), room.limit, self._hits, self._misses)
