"""Addresses of schedulers, and of this machine as its workers reach it."""

from __future__ import annotations

import socket
from urllib.parse import urlsplit

from ...core.faults import Fault


def parsed(address: str) -> str:
    """A scheduler's address with its scheme.

    Raises
    ------
    Fault
        If it is no address, or is not encrypted although other machines are reached through it.
    """
    text = address.strip()
    if "://" not in text:
        text = f"tcp://{text}"
    parts = urlsplit(text)
    try:
        good = parts.scheme in ("tcp", "tls") and parts.hostname and parts.port
    except ValueError:
        good = False
    if not good or len(text) > 200 or parts.path or parts.query:
        raise Fault(
            f"“{address[:80]}” is not the address of a scheduler. It is written "
            "tcp://127.0.0.1:8786, or tls://name:8786 on another machine."
        )
    if parts.scheme == "tcp" and not is_here(str(parts.hostname)):
        raise Fault(
            f"{parts.hostname} is another machine, and tcp:// sends everything in the clear. "
            f"Start its scheduler with certificates, and write tls://{parts.hostname}:{parts.port}."
        )
    return text


def is_here(host: str) -> bool:
    """Whether an address belongs to this machine: only then can a socket be bound to it."""
    try:
        found = socket.getaddrinfo(host, 0, type=socket.SOCK_DGRAM)
    except OSError:
        return False
    for family, kind, _, _, where in found:
        try:
            with socket.socket(family, kind) as one:
                one.bind((where[0], 0))
        except OSError:
            return False
    return bool(found)


def own_address_towards(address: str) -> str:
    """The address of this machine that reaches a scheduler's machine; nothing is sent."""
    host, port = urlsplit(address).hostname, urlsplit(address).port
    family, kind, _, _, where = socket.getaddrinfo(host, port, type=socket.SOCK_DGRAM)[0]
    with socket.socket(family, kind) as one:
        one.connect(where)
        return str(one.getsockname()[0])
