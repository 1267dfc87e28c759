"""What the views share: the library, the engine, and which requests are the newest."""

from __future__ import annotations

import json
from collections.abc import Callable
from threading import Lock
from typing import Any, cast

from flask import Response, current_app, request

from ..core.engine import Engine, Evaluation
from ..core.engine.plan import Plan
from ..core.faults import Cancelled
from ..core.picture import to_pixels
from ..media.stills import encode_jpeg, encode_png, over_weave
from ..store import Library


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


class Studio:
    """One library with one engine, for as long as the server runs."""

    def __init__(self, library: Library, cache_bytes: int) -> None:
        self.library = library
        self.engine = Engine(cache_bytes)
        self.newest = Newest()


def studio() -> Studio:
    """The studio of the application that is serving."""
    return cast(Studio, current_app.extensions["studio"])


SUPERSEDED = Response(status=204)


def picture_response(plan: Plan, form: str, stream: str = "", keep: bool = True) -> Response:
    """The picture of a plan as JPEG (for looking) or PNG (exact), named by its content hash.

    A browser that has the picture already is told so before anything is computed.
    """
    desk = studio()
    tag = f"{plan.key}.{form}"
    if request.if_none_match.contains(tag):
        return _kept(Response(status=304), tag, keep)
    lost = desk.newest.ticket(stream)
    try:
        found = desk.engine.compute(plan, lost)
    except Cancelled:
        return Response(status=204)
    if lost():
        return Response(status=204)
    return _kept(encoded(found, form), tag, keep)


def encoded(found: Evaluation, form: str) -> Response:
    """An evaluation as the bytes of a picture file, with what it cost."""
    if form == "png":
        data, kind = encode_png(to_pixels(found.picture)), "image/png"
    else:
        pixels: Any = to_pixels(found.picture)
        data, kind = encode_jpeg(over_weave(pixels)), "image/jpeg"
    answer = Response(data, mimetype=kind)
    answer.headers["X-Cost"] = json.dumps({"ms": round(found.ms, 2)})
    return answer


def _kept(answer: Response, tag: str, keep: bool) -> Response:
    answer.set_etag(tag)
    if keep:
        answer.headers["Cache-Control"] = "private, max-age=31536000, immutable"
    else:
        answer.headers["Cache-Control"] = "no-store"
    return answer
