"""Macros on the shelf: published versions, which never change."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import lru_cache

from ..core.built_in import PREFIX, built_in_effect
from ..core.changes import slug_of
from ..core.documents.macro import Macro, identity_of
from ..core.faults import Clash, Missing
from ..core.migrations import upgraded
from .database import Database


@dataclass(frozen=True)
class Shelved:
    """A macro on the shelf with its newest version."""

    slug: str
    uses: int
    versions: tuple[int, ...]
    newest: Macro


def listed(db: Database) -> list[Shelved]:
    """All macros, newest published first."""
    with db.read() as connection:
        rows = connection.execute(
            "SELECT slug, max(published) AS latest FROM macro_version GROUP BY slug"
            " ORDER BY latest DESC, slug"
        ).fetchall()
    return [get(db, row["slug"]) for row in rows]


def get(db: Database, slug: str) -> Shelved:
    """A macro by its slug.

    Raises
    ------
    Missing
    """
    with db.read() as connection:
        head = connection.execute("SELECT uses FROM macro WHERE slug = ?", (slug,)).fetchone()
        rows = connection.execute(
            "SELECT version FROM macro_version WHERE slug = ? ORDER BY version DESC", (slug,)
        ).fetchall()
    if head is None or not rows:
        raise Missing(f"There is no macro “{slug}” on the shelf.")
    versions = tuple(row["version"] for row in rows)
    return Shelved(slug, head["uses"], versions, version(db, slug, versions[0]))


def version(db: Database, slug: str, number: int) -> Macro:
    """One published version, or a built-in effect."""
    if slug.startswith(PREFIX):
        return Macro(version=number, effect=built_in_effect(slug, number))
    with db.read() as connection:
        row = connection.execute(
            "SELECT document FROM macro_version WHERE slug = ? AND version = ?", (slug, number)
        ).fetchone()
    if row is None:
        raise Missing(
            f"Version {number} of “{slug}” is not on the shelf. Bring the macro in again."
        )
    return _macro(row["document"])


@lru_cache(256)
def _macro(text: str) -> Macro:
    # A published version never changes, so its text is enough as a cache key.
    return Macro.model_validate(upgraded("macro", json.loads(text)))


def identity(db: Database, slug: str) -> str:
    """The identity of a macro, shared by all its versions and unique to it."""
    return identity_of(version(db, slug, get(db, slug).versions[-1]))


def preview(db: Database, slug: str, number: int) -> bytes | None:
    """The moving preview of a version, as animated WebP."""
    with db.read() as connection:
        row = connection.execute(
            "SELECT preview FROM macro_version WHERE slug = ? AND version = ?", (slug, number)
        ).fetchone()
    return None if row is None else row["preview"]


def set_preview(db: Database, slug: str, number: int, shown: bytes) -> None:
    """Give a version its moving preview."""
    with db.write() as connection:
        connection.execute(
            "UPDATE macro_version SET preview = ? WHERE slug = ? AND version = ?",
            (shown, slug, number),
        )


def without_preview(db: Database) -> list[tuple[str, int]]:
    """Slugs and versions that have no moving preview yet."""
    with db.read() as connection:
        rows = connection.execute(
            "SELECT slug, version FROM macro_version WHERE preview IS NULL ORDER BY published"
        ).fetchall()
    return [(row["slug"], row["version"]) for row in rows]


def new_slug(db: Database, name: str) -> str:
    """A slug for a macro that is not on the shelf yet."""
    with db.read() as connection:
        taken = [row["slug"] for row in connection.execute("SELECT slug FROM macro")]
    return slug_of(name, taken)


def shelve(db: Database, slug: str, macro: Macro, preview: bytes | None) -> Shelved:
    """Put a version on the shelf.

    Raises
    ------
    Clash
        If that version exists already with other content.
    """
    text = json.dumps(macro.to_json(), ensure_ascii=False, sort_keys=True)
    with db.write(durable=True) as connection:
        there = connection.execute(
            "SELECT document FROM macro_version WHERE slug = ? AND version = ?",
            (slug, macro.version),
        ).fetchone()
        if there is not None and _macro(there["document"]) != macro:
            raise Clash(
                f"Version {macro.version} of “{macro.effect.name}” is on the shelf already, "
                "with other content. Published versions never change."
            )
        if there is None:
            connection.execute(
                "INSERT INTO macro (slug, name, kind) VALUES (?, ?, ?)"
                " ON CONFLICT (slug) DO UPDATE SET name = excluded.name",
                (slug, macro.effect.name, macro.effect.kind),
            )
            connection.execute(
                "INSERT INTO macro_version (slug, version, document, preview, published)"
                " VALUES (?, ?, ?, ?, ?)",
                (slug, macro.version, text, preview, macro.published),
            )
    return get(db, slug)


def used(db: Database, slug: str) -> None:
    """Count one more use."""
    with db.write() as connection:
        connection.execute("UPDATE macro SET uses = uses + 1 WHERE slug = ?", (slug,))
