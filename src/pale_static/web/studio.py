"""Objects that the endpoints share: the library, the engine, and the newest request of each
stream."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache
from secrets import token_hex
from threading import Lock
from typing import Any, cast

from cachetools import LRUCache
from flask import current_app

from ..core.cache import Budget, Cache
from ..core.document import Effect
from ..core.documents.checking import read_effect
from ..core.documents.fingerprint import fingerprints
from ..core.documents.graph import Place
from ..core.engine import Engine
from ..core.footage import Filling
from ..core.frames.edit import EditSource
from ..core.frames.effect import EffectSource
from ..core.pictures.picture import Size
from ..core.reel import Reel, read_reel
from ..jobs.shelf import Shelf
from ..media.decoding import decode_with
from ..media.program import program
from ..store import Library, drafts, screen_copies
from ..store.drafts import Draft
from ..store.library import ScreenLibrary
from .request_order import Turns


class Newest:
    """Tracks the newest request of each stream; older ones need no computing."""

    def __init__(self) -> None:
        self._last: dict[str, int] = {}
        self._lock = Lock()

    def ticket(self, stream: str) -> Callable[[], bool]:
        """Become the newest request of a stream; the function says whether a newer one has come."""
        if not stream:
            return lambda: False
        with self._lock:
            mine = self._last[stream] = self._last.get(stream, 0) + 1
            if len(self._last) > 1000:
                self._last.pop(next(iter(self._last)))
        return lambda: self._last.get(stream, mine) != mine


ENCODED_SHARE = 16
GAPS_SHARE = 6
PLAYERS = 8
"""Threads that compute runs of frames."""


class Studio:
    """One library with one engine, for as long as the server runs."""

    def __init__(self, library: Library, cache_bytes: int) -> None:
        self.library = library
        self.shelf = Shelf(library)
        self.screen = ScreenLibrary(library.folder)
        self.screen_shelf = Shelf(self.screen)
        # One budget. A part of it is for encoded pictures, which are small and often wanted again,
        # and one for the gaps that results of many sizes leave between them in memory.
        # Results, decoded frames, stills and states share the rest.
        encoded = cache_bytes // ENCODED_SHARE
        room = Budget(cache_bytes - encoded - cache_bytes // GAPS_SHARE)
        decode_with(room)
        self.engine = Engine(room)
        self.newest = Newest()
        # Distinguishes this run of the server from others at the same address.
        self.began = token_hex(6)
        self.turns = Turns(2)
        self.players = ThreadPoolExecutor(PLAYERS, thread_name_prefix="player")
        self.large = Turns(1)
        # Encoded pictures, by tag.
        self.shown: Cache[str, bytes] = Cache(encoded)
        self.frames = library.frames
        # Revisions never change, so each one is read and checked once.
        self.effect_at = lru_cache(256)(self._effect_at)
        self._since: LRUCache[int, dict[Place, tuple[str, int]]] = LRUCache(256)
        self._since_lock = Lock()
        self._reels: LRUCache[tuple[int, int, str], Reel] = LRUCache(96)
        self._reels_lock = Lock()

    def library_for(self, shown: Size | None) -> Library:
        """The library for pictures of a size on the screen.

        Films are then shown from their copies for the screen, if the picture has no more lines. For
        exact pictures (None) they are read themselves.
        """
        if shown is None:
            return self.library
        lines = screen_copies.settings(self.library.db).lines
        return self.screen if min(shown.width, shown.height) <= lines else self.library

    def source(
        self, effect: Effect, length: int, settings: Mapping[str, Any] | None = None,
        slots: Mapping[str, Filling] | None = None, shown: Size | None = None,
    ) -> EffectSource:  # fmt: skip
        """The frames of an effect on its stand-ins, or on other clips; see :meth:`library_for`."""
        return EffectSource(
            effect=effect, frames=length, settings=settings or {},
            materials=self.library_for(shown).materials_for(effect, slots),
            states=self.engine.states, program=program,
        )  # fmt: skip

    def edit(self, reel: Reel, shown: Size | None = None) -> EditSource:
        """The frames of an edit; see :meth:`library_for`."""
        shelf = self.shelf if self.library_for(shown) is self.library else self.screen_shelf
        return EditSource(
            reel=reel, shelf=shelf, sounds=self.shelf.sound,
            states=self.engine.states, program=program,
        )  # fmt: skip

    def _effect_at(self, draft: int, revision: int) -> Effect:
        return read_effect(drafts.revision(self.library.db, draft, revision).document)

    def since(self, draft: Draft, effect: Effect) -> dict[Place, int]:
        """For each step of a draft, the revision since which its pictures are the same.

        It is a part of pictures' addresses, so a change keeps the addresses of all other steps'
        pictures.
        """
        head = draft.head.id
        with self._since_lock:
            held = self._since.get(head)
            before = self._since.get(draft.head.parent or 0, {})
        if held is None:
            held = {}
            for place, mark in fingerprints(effect).items():
                known, revision = before.get(place, ("", head))
                held[place] = mark, revision if known == mark else head
            with self._since_lock:
                self._since[head] = held
        return {place: revision for place, (_, revision) in held.items()}

    def tried_on(self, draft: int, revision: int, change: str = "") -> Reel | None:
        """A revision of an edit with a change on trial, given as JSON; None if the revision is not
        in memory."""
        with self._reels_lock:
            return self._reels.get((draft, revision, change))

    def reel_at(self, draft: int, revision: int) -> Reel:
        """A revision of an edit."""
        held = self.tried_on(draft, revision)
        if held is None:
            held = read_reel(drafts.revision(self.library.db, draft, revision).document)
            self.keep_reel(draft, revision, held)
        return held

    def keep_reel(self, draft: int, revision: int, reel: Reel, change: str = "") -> None:
        """Keep a revision in memory, so that it is not read again; or one with a change on
        trial."""
        with self._reels_lock:
            self._reels[draft, revision, change] = reel

    def reel_of(self, draft: Draft) -> Reel:
        """An edit at its current revision."""
        return self.reel_at(draft.id, draft.head.id)


def studio() -> Studio:
    """The studio of the running application."""
    return cast(Studio, current_app.extensions["studio"])
