"""Objects that the endpoints share: the library, the engine, and the newest request of each
stream."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from contextlib import nullcontext
from functools import lru_cache
from hashlib import blake2b
from secrets import token_hex
from threading import Lock
from typing import Any, cast

from cachetools import LRUCache
from flask import Response, current_app, request

from ..core.cache import Budget, Cache
from ..core.document import Effect
from ..core.documents.checking import read_effect
from ..core.documents.fingerprint import fingerprints
from ..core.documents.graph import Place
from ..core.engine import Engine
from ..core.faults import Cancelled, Missing
from ..core.footage import Filling
from ..core.frames.edit import EditSource
from ..core.frames.effect import EffectSource
from ..core.frames.source import PlannedFrame
from ..core.pictures.picture import to_pixels
from ..core.reel import Reel, read_reel
from ..jobs.shelf import Shelf
from ..media.decoding import decode_with
from ..media.pictures.stills import encode_jpeg, encode_png, seen, side_by_side
from ..media.program import program
from ..store import Library, drafts
from ..store.drafts import Draft
from .request_order import GLANCED_AT, WAITED_FOR, Turns, gone


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


PASSING = "X-Passing"
"""A request's header: the frame belongs to a film that is playing."""


ENCODED_SHARE = 16


class Studio:
    """One library with one engine, for as long as the server runs."""

    def __init__(self, library: Library, cache_bytes: int) -> None:
        self.library = library
        self.shelf = Shelf(library)
        # One budget. A part of it is for encoded pictures, which are small and often wanted again.
        # Results, decoded frames, stills and states share the rest.
        encoded = cache_bytes // ENCODED_SHARE
        room = Budget(cache_bytes - encoded)
        decode_with(room)
        self.engine = Engine(room)
        self.newest = Newest()
        # Distinguishes this run of the server from others at the same address.
        self.began = token_hex(6)
        self.turns = Turns(2)
        self.large = Turns(1)
        # Encoded pictures, by tag.
        self.shown: Cache[str, bytes] = Cache(encoded)
        # Revisions never change, so each one is read and checked once.
        self.effect_at = lru_cache(256)(self._effect_at)
        self._since: LRUCache[int, dict[Place, tuple[str, int]]] = LRUCache(256)
        self._since_lock = Lock()
        self._reels: LRUCache[tuple[int, int, str], Reel] = LRUCache(96)
        self._reels_lock = Lock()

    def source(
        self, effect: Effect, length: int, settings: Mapping[str, Any] | None = None,
        slots: Mapping[str, Filling] | None = None,
    ) -> EffectSource:  # fmt: skip
        """The frames of an effect on its stand-ins, or on other clips."""
        return EffectSource(
            effect=effect, frames=length, settings=settings or {},
            materials=self.library.materials_for(effect, slots), states=self.engine.states,
            program=program,
        )  # fmt: skip

    def edit(self, reel: Reel) -> EditSource:
        """The frames of an edit."""
        return EditSource(
            reel=reel, shelf=self.shelf, sounds=self.shelf.sound, states=self.engine.states,
            program=program,
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


LARGE = 100_000
"""Pictures with at least this many pixels count as the main picture, not as one of many small
ones."""


HUGE = 2560 * 1440
"""Pixels above which frames are computed one at a time."""


def picture_response(
    frame: PlannedFrame, form: str, stream: str = "", keep: bool = True, rank: int | None = None
) -> Response:
    """The picture of a frame as JPEG (for looking) or PNG (exact); see :func:`strip_response`."""
    return strip_response((frame,), form, stream, keep, rank)


def strip_response(
    frames: Sequence[PlannedFrame], form: str, stream: str = "", keep: bool = True,
    rank: int | None = None,
) -> Response:  # fmt: skip
    """Pictures of one size side by side, with their content as the tag.

    The browser asks each time whether its picture is still right, because an address names a draft
    and a revision, and another library may be served there. If it is right, nothing is computed. A
    picture that was encoded a moment ago is not encoded again.
    """
    if form not in ("jpg", "png"):
        raise Missing(f"Frames come as .jpg or .png, not as .{form}.")
    desk = studio()
    keys = "-".join(frame.key for frame in frames)
    name = keys if len(frames) == 1 else blake2b(keys.encode(), digest_size=16).hexdigest()
    tag = f"{name}.{form}"
    if request.if_none_match.contains(tag):
        return _kept(Response(status=304), tag, keep)
    overtaken, hung_up = desk.newest.ticket(stream), gone()
    pixels = frames[0].size.width * frames[0].size.height
    if rank is None:
        rank = WAITED_FOR if pixels >= LARGE else GLANCED_AT

    def lost() -> bool:
        return overtaken() or hung_up()

    data, ms = desk.shown.get(tag), 0.0
    if data is None:
        pictures: list[Any] = []
        try:
            for frame in frames:
                # Each one needs some hundred megabytes while it is computed.
                alone = desk.large.turn(GLANCED_AT, lost) if pixels > HUGE else nullcontext()
                with alone, desk.turns.turn(rank, lost):
                    evaluation = desk.engine.compute(
                        frame.plan, lost, eight=form == "jpg", passing=PASSING in request.headers
                    )
                ms += evaluation.ms
                png = form == "png"
                pictures.append(to_pixels(evaluation.picture) if png else seen(evaluation.held))
        except Cancelled:
            return Response(status=204)
        if lost():
            return Response(status=204)
        strip = side_by_side(pictures)
        data = encode_png(strip) if form == "png" else encode_jpeg(strip)
        desk.shown.put(tag, data)
    answer = Response(data, mimetype="image/png" if form == "png" else "image/jpeg")
    answer.headers["X-Cost"] = json.dumps({"ms": round(ms, 2)})
    return _kept(answer, tag, keep)


def _kept(answer: Response, tag: str, keep: bool) -> Response:
    answer.set_etag(tag)
    answer.headers["Cache-Control"] = "private, no-cache" if keep else "no-store"
    return answer


def kept_response(data: bytes, mimetype: str) -> Response:
    """An answer that the browser may keep until its tag changes."""
    answer = _kept(
        Response(data, mimetype=mimetype), blake2b(data, digest_size=12).hexdigest(), True
    )
    answer.make_conditional(request.environ)
    return answer
