"""Kept settings: named sets of settings of a macro's controls, stored with the macro."""

from __future__ import annotations

import json
from collections.abc import Iterable

from ..core.documents.macro import KeptSettings
from .database import Database, now


def listed(db: Database, slug: str) -> list[KeptSettings]:
    """The kept settings of a macro, in the order in which they were kept."""
    with db.read() as connection:
        rows = connection.execute(
            "SELECT name, settings FROM kept_settings WHERE slug = ? ORDER BY made, name", (slug,)
        ).fetchall()
    return [KeptSettings(name=row["name"], settings=json.loads(row["settings"])) for row in rows]


def keep(db: Database, slug: str, kept: KeptSettings) -> None:
    """Keep settings under a name; they replace settings with that name."""
    text = json.dumps(kept.settings, ensure_ascii=False, sort_keys=True)
    with db.write() as connection:
        connection.execute(
            "INSERT INTO kept_settings (slug, name, settings, made) VALUES (?, ?, ?, ?)"
            " ON CONFLICT (slug, name) DO UPDATE SET settings = excluded.settings",
            (slug, kept.name, text, now()),
        )


def remove(db: Database, slug: str, name: str) -> None:
    """Delete kept settings."""
    with db.write() as connection:
        connection.execute("DELETE FROM kept_settings WHERE slug = ? AND name = ?", (slug, name))


def bring_in(db: Database, slug: str, sets: Iterable[KeptSettings]) -> int:
    """Keep settings whose names are free; returns their number."""
    taken = {one.name for one in listed(db, slug)}
    fresh = [one for one in sets if one.name not in taken]
    for one in fresh:
        keep(db, slug, one)
    return len(fresh)
