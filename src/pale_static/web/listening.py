"""The web server: its port, and its limits for idle or slow connections."""

from __future__ import annotations

import resource
import socket
import time
from collections.abc import Callable, Iterable
from typing import Any

import waitress
from waitress.channel import HTTPChannel

from ..core.faults import Fault

PORTS_TRIED = 40
THREADS = 16
MOST_CONNECTIONS = 2000
IDLE = 60
"""Seconds after which a connection is closed if it sends no request or takes no answer."""
SLOWEST = 2000
"""The lowest rate of a request after its tenth second, in bytes a second."""
PATIENCE = 10

Application = Callable[..., Iterable[bytes]]


def free_socket(host: str, port: int) -> socket.socket:
    """A listening socket at a port, or at the next free one after it.

    Raises
    ------
    Fault
        If the port or the host is not valid, or none of the next forty ports is free.
    """
    if not 0 <= port <= 65535:
        raise Fault(f"A port lies between 1 and 65535, and this is {port}.")
    try:
        family, kind, _, _, where = socket.getaddrinfo(
            host, port, type=socket.SOCK_STREAM, flags=socket.AI_PASSIVE
        )[0]
    except OSError as fault:
        raise Fault(f"“{host}” is not an address of this machine: {fault.strerror}.") from None
    last = min(port + PORTS_TRIED - 1, 65535)
    for number in range(port, last + 1) if port else (0,):
        listening = socket.socket(family, kind)
        listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listening.bind((where[0], number, *where[2:]))
            # Two sockets may be bound to one port until one of them listens, so listen at once.
            listening.listen(1024)
        except OSError as fault:
            listening.close()
            if fault.errno in _NOT_OURS:
                raise Fault(f"This machine has no address “{host}” to listen at.") from None
            continue
        return listening
    raise Fault(f"No port from {port} to {last} is free on {host}. Choose another with --port.")


_NOT_OURS = (99, 49)
"""EADDRNOTAVAIL on Linux and on macOS."""


class _Channel(HTTPChannel):  # type: ignore[misc]
    """A connection that measures how fast its current request arrives."""

    began = 0.0
    brought = 0

    def received(self, data: bytes) -> bool:
        if self.request is None:
            self.began, self.brought = time.time(), 0
        self.brought += len(data)
        return bool(super().received(data))

    def stalls(self, now: float) -> bool:
        """Whether the request arrives too slowly, or the client does not read the answer."""
        if self.request is not None:
            waited = now - self.began
            return waited > PATIENCE and self.brought < SLOWEST * (waited - PATIENCE)
        return bool(self.total_outbufs_len) and self.last_activity < now - IDLE


def server_on(listening: socket.socket, application: Application) -> Any:
    """A Waitress server that takes many connections and closes those that stall."""
    _allow_files(MOST_CONNECTIONS + 500)
    server = waitress.create_server(
        application, sockets=[listening], threads=THREADS, ident=None, channel_timeout=IDLE,
        cleanup_interval=5, connection_limit=MOST_CONNECTIONS, asyncore_use_poll=True,
        max_request_body_size=9 << 30,
        # The server notices that the client has hung up by reading ahead on its connection.
        channel_request_lookahead=1,
    )  # fmt: skip
    server.channel_class = _Channel
    usual = server.maintenance

    def maintenance(now: float) -> None:
        usual(now)
        for channel in list(server.active_channels.values()):
            if channel.stalls(now):
                channel.will_close = True

    server.maintenance = maintenance
    return server


def _allow_files(wanted: int) -> None:
    """Raise this process's limit of open files to a number, or as near as the system allows."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    most = wanted if hard == resource.RLIM_INFINITY else min(wanted, hard)
    if soft < most:
        resource.setrlimit(resource.RLIMIT_NOFILE, (most, hard))


def shown(host: str) -> str:
    """A host in the form for an address."""
    return f"[{host}]" if ":" in host else host
