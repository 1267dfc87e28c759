"""The cluster that renders may go to: its settings, and what was last seen of it."""

from __future__ import annotations

import json
import time
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from .database import Database

LOOKING = 10.0
"""Seconds for which somebody who looked at the cluster counts as looking."""


@dataclass(frozen=True)
class ClusterSettings:
    """Settings of the cluster.

    Parameters
    ----------
    address : str
        The scheduler; empty if none is set.
    reach : str
        Where workers reach this machine; empty to find it out.
    used : bool
        Whether new renders go there.
    or_here : bool
        Whether this machine makes the rest of a render that the cluster cannot make.
    """

    address: str = ""
    reach: str = ""
    used: bool = False
    or_here: bool = False


def settings(db: Database) -> ClusterSettings:
    """The settings."""
    with db.read() as connection:
        row = connection.execute("SELECT address, reach, used, or_here FROM cluster").fetchone()
    return ClusterSettings(row["address"], row["reach"], bool(row["used"]), bool(row["or_here"]))


def change(db: Database, new: ClusterSettings) -> None:
    """Store new settings. What was seen of another scheduler is forgotten."""
    with db.write() as connection:
        connection.execute(
            "UPDATE cluster SET seen = iif(address = :address, seen, '{}'), address = :address,"
            " reach = :reach, used = :used, or_here = :or_here",
            {"address": new.address, "reach": new.reach, "used": int(new.used),
             "or_here": int(new.or_here)},
        )  # fmt: skip


def look(db: Database) -> dict[str, Any]:
    """What was last seen of the cluster; the render process looks again while somebody does."""
    with db.write() as connection:
        row = connection.execute("UPDATE cluster SET looked = ? RETURNING seen", (time.time(),))
        (seen,) = row.fetchone()
    found: dict[str, Any] = json.loads(seen)
    return found


def looked_at(db: Database) -> bool:
    """Whether somebody is looking at the cluster now; False if none is set."""
    with db.read() as connection:
        row = connection.execute("SELECT looked FROM cluster WHERE address != ''").fetchone()
    return row is not None and 0 <= time.time() - row["looked"] < LOOKING


def say(db: Database, seen: Mapping[str, Any]) -> None:
    """Store what is seen of the cluster."""
    with db.write() as connection:
        connection.execute("UPDATE cluster SET seen = ?", (json.dumps(seen),))
