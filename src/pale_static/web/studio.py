"""What the views share: the library, the engine, and which requests are the newest."""

from __future__ import annotations

import json
from collections import OrderedDict
from collections.abc import Callable
from functools import lru_cache
from threading import Lock
from typing import cast

from flask import Response, current_app, request

from ..core.checking import read_effect
from ..core.document import Effect
from ..core.engine import Engine
from ..core.engine.plan import Plan
from ..core.faults import Cancelled, Missing
from ..core.picture import to_pixels
from ..core.reel import Reel, check_reel
from ..media.stills import encode_jpeg, encode_png
from ..store import Library, drafts
from .turns import GLANCED_AT, WAITED_FOR, Turns


class Newest:
    """For each stream of requests, only the newest is worth computing."""

    def __init__(self) -> None:
        self._last: dict[str, int] = {}
        self._lock = Lock()

    def ticket(self, stream: str) -> Callable[[], bool]:
        """Take the newest place in a stream; the function tells when it has been lost."""
        if not stream:
            return lambda: False
        with self._lock:
            mine = self._last[stream] = self._last.get(stream, 0) + 1
            if len(self._last) > 1000:
                self._last.pop(next(iter(self._last)))
        return lambda: self._last.get(stream, mine) != mine


class Shown:
    """Encoded pictures by tag, least recently used out first."""

    def __init__(self, limit: int) -> None:
        self.limit = limit
        self._bytes = 0
        self._kept: OrderedDict[str, bytes] = OrderedDict()
        self._lock = Lock()

    def get(self, tag: str) -> bytes | None:
        with self._lock:
            if tag in self._kept:
                self._kept.move_to_end(tag)
            return self._kept.get(tag)

    def put(self, tag: str, data: bytes) -> None:
        with self._lock:
            if tag in self._kept:
                return
            self._kept[tag] = data
            self._bytes += len(data)
            while self._bytes > self.limit:
                self._bytes -= len(self._kept.popitem(last=False)[1])


PASSING = "X-Passing"
"""A request's header: the frame is one of a film that plays."""


class Studio:
    """One library with one engine, for as long as the server runs."""

    def __init__(self, library: Library, cache_bytes: int) -> None:
        self.library = library
        self.engine = Engine(cache_bytes)
        self.newest = Newest()
        self.turns = Turns(2)
        self.shown = Shown(64 << 20)
        # Revisions never change, so each is read and checked once.
        self.effect_at = lru_cache(256)(self._effect_at)
        self.reel_at = lru_cache(64)(self._reel_at)

    def _effect_at(self, draft: int, revision: int) -> Effect:
        return read_effect(drafts.revision(self.library.db, draft, revision).document)

    def _reel_at(self, draft: int, revision: int) -> Reel:
        document = drafts.revision(self.library.db, draft, revision).document
        return check_reel(Reel.model_validate(document))


def studio() -> Studio:
    """The studio of the application that is serving."""
    return cast(Studio, current_app.extensions["studio"])


LARGE = 100_000
"""Pixels from which on a picture is what people look at, and not one of many small ones."""


def _gone() -> Callable[[], bool]:
    """Tells whether who asked has hung up, where the server can tell."""
    found = request.environ.get("waitress.client_disconnected")
    return cast(Callable[[], bool], found) if callable(found) else lambda: False


def picture_response(
    plan: Plan, form: str, stream: str = "", keep: bool = True, rank: int | None = None
) -> Response:
    """The picture of a plan as JPEG (for looking) or PNG (exact), named by its content hash.

    A browser that has the picture already is told so before anything is computed, and what was
    encoded a moment ago is not encoded again.
    """
    if form not in ("jpg", "png"):
        raise Missing(f"Frames come as .jpg or .png, not as .{form}.")
    desk = studio()
    tag = f"{plan.key}.{form}"
    if request.if_none_match.contains(tag):
        return _kept(Response(status=304), tag, keep)
    overtaken, gone = desk.newest.ticket(stream), _gone()
    if rank is None:
        rank = WAITED_FOR if plan.size.width * plan.size.height >= LARGE else GLANCED_AT

    def lost() -> bool:
        return overtaken() or gone()

    data, ms = desk.shown.get(tag), 0.0
    if data is None:
        try:
            with desk.turns.turn(rank, lost):
                found = desk.engine.compute(
                    plan, lost, eight=form == "jpg", passing=PASSING in request.headers
                )
        except Cancelled:
            return Response(status=204)
        if lost():
            return Response(status=204)
        ms = found.ms
        if form == "png":
            data = encode_png(to_pixels(found.picture))
        else:
            data = encode_jpeg(found.held)
        desk.shown.put(tag, data)
    answer = Response(data, mimetype="image/png" if form == "png" else "image/jpeg")
    answer.headers["X-Cost"] = json.dumps({"ms": round(ms, 2)})
    return _kept(answer, tag, keep)


def _kept(answer: Response, tag: str, keep: bool) -> Response:
    answer.set_etag(tag)
    if keep:
        answer.headers["Cache-Control"] = "private, max-age=31536000, immutable"
    else:
        answer.headers["Cache-Control"] = "no-store"
    return answer
