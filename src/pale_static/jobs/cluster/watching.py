"""What the render process sees of the library's cluster, for the page."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any

from ...core.faults import Fault
from ...store import Library, cluster
from .carrier import ClusterCarrier, GoOnHere, Seen
from .membership import Cluster, Member

log = logging.getLogger(__name__)
SAID_EVERY = 0.4
"""Seconds between two notes of what is seen."""


@dataclass
class ClusterWatch:
    """Connects to the library's cluster while it is used or looked at."""

    library: Library
    cluster: Cluster | None = None
    _lock: threading.Lock = field(default_factory=threading.Lock)
    """A render has the connection for itself."""
    _said: float = 0.0
    _seen: dict[str, Any] = field(default_factory=dict)

    def start(self) -> None:
        """Look at the cluster, in a thread, while somebody wants to see it and no render does."""
        threading.Thread(target=self._look_often, daemon=True).start()

    @contextmanager
    def carrier(
        self, address: str, goes_on: Callable[[Seen], bool], or_here: bool
    ) -> Iterator[ClusterCarrier]:
        """What carries a render to a cluster.

        Parameters
        ----------
        goes_on : function
            Called often; whether the render still goes to the cluster.
        """

        def watch(seen: Seen) -> None:
            now = time.monotonic()
            if now - self._said >= SAID_EVERY:
                self._said = now
                if not goes_on(seen):
                    raise GoOnHere
                self._say(seen.sentence, seen.members)

        with self._lock:
            yield ClusterCarrier(self._of(address), watch, or_here)
            self._say("", self._of(address).rested())

    def _look_often(self) -> None:
        while True:
            with self._lock:
                try:
                    self._look()
                except Exception:  # looking goes on, whatever is wrong with the cluster
                    log.exception("the cluster could not be looked at")
            time.sleep(SAID_EVERY)

    def _look(self) -> None:
        db = self.library.db
        settings = cluster.settings(db)
        if not cluster.looked_at(db):
            return self.close()
        try:
            return self._say("", self._of(settings.address).look())
        except Fault as fault:
            return self._say(fault.sentence, [])

    def close(self) -> None:
        """Close the connection."""
        if self.cluster is not None:
            self.cluster.close()
            self.cluster = None

    def _of(self, address: str) -> Cluster:
        reach = cluster.settings(self.library.db).reach
        held = self.cluster
        if held is None or (held.address, held.reach) != (address, reach):
            self.close()
            self.cluster = Cluster(address, reach)
        assert self.cluster is not None
        return self.cluster

    def _say(self, sentence: str, members: list[Member]) -> None:
        workers = [
            {
                "name": one.name, "address": one.address, "state": one.state,
                "sentence": one.sentence, "doing": one.doing, "speed": round(one.speed, 2),
                "frames": one.frames + one.made_now, "fetched": one.fetched + one.fetched_now,
            }
            for one in sorted(members, key=lambda one: one.name)
        ]  # fmt: skip
        seen = {"sentence": sentence, "workers": workers}
        if seen != self._seen:
            cluster.say(self.library.db, seen)
            self._seen = seen
