"""Results by content hash, least recently used first out, bounded in bytes."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from threading import Lock

from ..picture import Plane


@dataclass(frozen=True)
class Filling:
    """What a cache holds and how it has served."""

    count: int
    bytes: int
    limit: int
    hits: int
    misses: int


class Cache:
    """Planes by key. Safe to use from several threads.

    Parameters
    ----------
    limit : int
        Bytes to hold at most; a plane larger than that is not kept at all.
    """

    def __init__(self, limit: int) -> None:
        self.limit = limit
        self._planes: OrderedDict[bytes, Plane] = OrderedDict()
        self._bytes = 0
        self._hits = 0
        self._misses = 0
        self._lock = Lock()

    def get(self, key: bytes) -> Plane | None:
        """The plane of that key, now the most recently used; None where it is not held."""
        with self._lock:
            plane = self._planes.get(key)
            if plane is None:
                self._misses += 1
                return None
            self._hits += 1
            self._planes.move_to_end(key)
            return plane

    def put(self, key: bytes, plane: Plane) -> None:
        """Keep a plane, and let go of the least recently used past the limit."""
        plane.setflags(write=False)
        with self._lock:
            if key in self._planes or plane.nbytes > self.limit:
                return
            self._planes[key] = plane
            self._bytes += plane.nbytes
            while self._bytes > self.limit:
                _, old = self._planes.popitem(last=False)
                self._bytes -= old.nbytes

    def filling(self) -> Filling:
        """Counts, for showing."""
        with self._lock:
            return Filling(len(self._planes), self._bytes, self.limit, self._hits, self._misses)
