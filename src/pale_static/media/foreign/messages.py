"""Messages between a reader and the process that calls it: plain JSON, followed by bytes."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from multiprocessing.connection import Connection
from typing import Any

MOST_MEMORY = "most memory"
"""The field with the most memory that a reader has used."""


@dataclass(frozen=True)
class Message:
    """Plain JSON, and the bytes that follow it."""

    plain: Any
    blobs: tuple[bytes, ...] = ()


def send(connection: Connection, plain: Any, blobs: Sequence[bytes] = ()) -> None:
    """Send a message."""
    head = {"plain": plain, "blobs": len(blobs)}
    connection.send_bytes(json.dumps(head).encode())
    for one in blobs:
        connection.send_bytes(one)


def received(connection: Connection) -> Message:
    """The next message.

    Raises
    ------
    EOFError, OSError
        If the other process has ended.
    """
    head = json.loads(connection.recv_bytes())
    blobs = tuple(connection.recv_bytes() for _ in range(head["blobs"]))
    return Message(head["plain"], blobs)
