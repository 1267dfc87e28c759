"""The workers of a Dask scheduler: who is there, who fits, and what each of them does."""

from __future__ import annotations

import socket
import ssl
import time
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from typing import Any, Literal
from urllib.parse import urlsplit

from ... import __version__
from ...core.faults import Fault
from ...media.program import program, rounding
from . import task
from .address import own_address_towards, parsed

HUNG = 10.0
"""Seconds without a sign of life after which a worker counts as silent."""
ANSWERING = 2.0
"""Seconds until a machine that does not answer counts as gone."""
CONNECTING = 5.0
"""Seconds to wait for a scheduler."""
LOOK_EVERY = 1.0
"""Seconds between two looks at the list of workers."""
BARRED_FOR = 60.0
"""Seconds until a worker gets a task again after it had no room, or could not reach this machine."""

State = Literal["looking", "ready", "working", "silent", "refused"]


class NotThere(Fault):
    """The scheduler cannot be used at the moment."""


@dataclass
class Member:
    """One worker process.

    Parameters
    ----------
    address : str
        Its address, as Dask names it.
    seen : float
        The scheduler's time of its last sign of life. Only changes of it count, because clocks of
        machines differ.
    """

    address: str
    name: str
    state: State = "looking"
    sentence: str = ""
    seen: float = 0.0
    changed: float = 0.0
    asked: Any = None
    """The answer to the introduction that is awaited."""
    barred_until: float = 0.0
    doing: str = ""
    frames: int = 0
    """Frames finished for this film."""
    seconds: float = 0.0
    """Seconds of its tasks that are over."""
    speed: float = 0.0
    """Frames a second, over all of its tasks for this film."""
    fetched: int = 0
    """Bytes of files that it fetched in those tasks."""
    made_now: int = 0
    fetched_now: int = 0
    """Frames and bytes of its present task."""

    def begin_film(self) -> None:
        """Count for a new film."""
        self.frames = self.fetched = self.made_now = self.fetched_now = 0
        self.seconds = self.speed = self.barred_until = 0.0
        self.doing = ""

    def end_task(self, seconds: float) -> None:
        """Its present task is over."""
        self.frames, self.made_now = self.frames + self.made_now, 0
        self.fetched, self.fetched_now = self.fetched + self.fetched_now, 0
        self.seconds += seconds
        self.doing = ""
        if self.state == "working":
            self.state = "ready"

    @property
    def fits(self) -> bool:
        """Whether it may get a task."""
        return self.state in ("ready", "working") and time.monotonic() >= self.barred_until


class Cluster:
    """A scheduler and its workers, as this process sees them.

    Parameters
    ----------
    address : str
        The scheduler, ``tcp://host:port`` or ``tls://host:port``.
    reach : str
        ``host`` or ``host:port`` of this machine at which workers fetch files; by default the
        address that reaches the scheduler, and any free port.

    Raises
    ------
    Fault
        If Dask is not installed, or the address is not valid.
    """

    def __init__(self, address: str, reach: str = "") -> None:
        self.address = parsed(address)
        self.reach = reach
        self.members: dict[str, Member] = {}
        self._client: Any = None
        self._looked = 0.0
        try:
            from distributed.security import Security
        except ImportError:
            raise Fault(
                "Rendering on other machines needs Dask. Install it beside Pale Static: "
                "pip install 'pale-static[cluster]'."
            ) from None
        self._security = Security() if self.encrypted else None

    @property
    def encrypted(self) -> bool:
        """Whether connections are encrypted."""
        return self.address.startswith("tls")

    @property
    def client(self) -> Any:
        """Dask's client.

        Raises
        ------
        NotThere
            If the scheduler does not answer, or is of another version.
        """
        if self._client is not None and self._client.status != "running":
            self.close()
        if self._client is None:
            self._client = self._connected()
        return self._client

    @property
    def lost(self) -> bool:
        """Whether a connection was made, and is broken now."""
        return self._client is not None and self._client.status != "running"

    def _connected(self) -> Any:
        import distributed

        place = urlsplit(self.address)
        try:
            # Dask goes on trying for seconds where nothing listens.
            socket.create_connection((place.hostname, place.port), ANSWERING).close()
            client = distributed.Client(
                self.address, timeout=CONNECTING, set_as_default=False, security=self._security,
                name="pale-static",
            )  # fmt: skip
        except Exception as fault:  # Dask raises a different exception for each problem
            raise NotThere(self._silence(fault)) from fault
        try:
            there = client.get_versions()["scheduler"]["packages"]["distributed"]
        except Exception as fault:
            _closed(client)
            raise NotThere(self._silence(fault)) from fault
        if there != distributed.__version__:
            _closed(client)
            raise NotThere(
                f"The scheduler at {self.address} runs Dask {there}, and this machine "
                f"{distributed.__version__}. Install one version on all machines."
            )
        return client

    def _silence(self, fault: Exception) -> str:
        if self.encrypted and isinstance(fault, (TypeError, ssl.SSLError)):
            return (
                f"No certificate is set up for {self.address}: {fault}. The guide's page on many "
                "machines says how to make one."
            )
        return f"There is no scheduler at {self.address}, or it does not answer."

    def close(self) -> None:
        """Close the connection."""
        client, self._client = self._client, None
        if client is not None:
            _closed(client)
        for member in self.members.values():
            member.asked = None
            if member.state != "refused":
                member.state, member.doing = "silent", ""

    def look(self) -> list[Member]:
        """The workers now; those that left are missing. A new one is asked to introduce itself.

        Raises
        ------
        NotThere
        """
        client, now = self.client, time.monotonic()
        if now - self._looked >= LOOK_EVERY:
            self._looked = now
            try:
                info = client.scheduler_info(n_workers=-1)["workers"]
            except Exception as fault:  # Dask raises a different exception for each problem
                self.close()
                raise NotThere(self._silence(fault)) from fault
            for gone in self.members.keys() - info.keys():
                del self.members[gone]
            for address, told in info.items():
                self._see(address, told, now)
        for member in self.members.values():
            self._introduced(member)
        return list(self.members.values())

    def _see(self, address: str, told: Any, now: float) -> None:
        member = self.members.get(address)
        if member is None:
            name = told.get("name") or address
            shown = str(name) if name != address else address.partition("://")[2]
            member = self.members[address] = Member(address, shown, changed=now)
        if told.get("last_seen") != member.seen:
            member.seen, member.changed = told.get("last_seen"), now
            if member.state == "silent":
                member.state, member.sentence = "looking", ""
        elif now - member.changed > HUNG and member.state in ("ready", "working", "looking"):
            member.state, member.asked = "silent", None
            member.sentence = f"It has not answered for {HUNG:.0f} seconds."
        if member.state == "looking" and member.asked is None:
            member.asked = self.client.submit(
                task.introduce, workers=[address], allow_other_workers=False, pure=False
            )

    @staticmethod
    def _introduced(member: Member) -> None:
        """Read a worker's introduction, if it has come."""
        asked = member.asked
        if asked is None or not asked.done():
            return
        member.asked = None
        if asked.status != "finished":
            member.state = "refused"
            member.sentence = f"Pale Static {__version__} is not installed there."
            return
        told = asked.result()
        member.state, member.sentence = "refused", ""
        if not told["prepared"]:
            member.sentence = "It was started without “--preload pale_static.jobs.cluster.preload”."
        elif told["rounding"] != rounding():
            member.sentence = (
                f"Its processor would give other bits: it has {told['rounding']}, and this "
                f"machine {rounding()}."
            )
        elif told["program"] != program():
            member.sentence = (
                f"It runs another program ({told['program']}, version {told['version']}) than this "
                f"machine ({program()}, version {__version__}). Install the same version there, "
                "and start it again."
            )
        else:
            member.state = "ready"

    def rested(self) -> list[Member]:
        """The workers after a film: none of them works."""
        for member in self.members.values():
            member.doing = ""
        return list(self.members.values())

    def fit(self) -> Iterator[Member]:
        """Workers that may get tasks."""
        return (member for member in self.members.values() if member.fits)

    def server_tls(self) -> ssl.SSLContext | None:
        """TLS for this machine's file server, with Dask's certificates; None without encryption."""
        if self._security is None:
            return None
        context = self._security.get_listen_args("client").get("ssl_context")
        if not isinstance(context, ssl.SSLContext):
            raise Fault(
                f"No certificate is set up for {self.address}. The guide's page on many machines "
                "says how to make one."
            )
        return context

    def own_place(self) -> tuple[str, int]:
        """The address and the port of this machine's own server."""
        if self.reach:
            host, _, port = self.reach.rpartition(":")
            if not host:
                return self.reach, 0
            if port.isdecimal() and int(port) < 65536:
                return host.strip("[]"), int(port)
            raise Fault(f"“{self.reach[:80]}” is written host or host:port.")
        return own_address_towards(self.address), 0


def _closed(client: Any) -> None:
    with suppress(Exception):  # a connection that is broken already
        client.close(timeout=2)


__all__ = ["Cluster", "Member", "NotThere"]
