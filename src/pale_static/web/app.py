"""The application: security at the door, views inside, one place for faults."""

from __future__ import annotations

import gzip
import json
import logging
from functools import cache
from pathlib import Path

from flask import Flask, Response, request, send_from_directory
from werkzeug.exceptions import HTTPException
from werkzeug.routing import IntegerConverter

from ..core.engine.evaluate import DEFAULT_CACHE
from ..core.faults import Busy, Cancelled, Clash, Fault, Malformed, Missing, NoRoom, TooLarge
from ..media.pictures.picture_clip import MOST_PICTURES
from ..store import Library
from . import (
    bench,
    cluster,
    grades,
    handing_on,
    materials,
    parts,
    previews,
    reel,
    renders,
    shelf,
    together,
)
from .door import Door
from .endpoint import Problem, openapi
from .studio import Studio

APP = Path(__file__).parent / "app"
MOST_JSON = 8 << 20
_POLICY = (
    "default-src 'self'; img-src 'self' blob: data:; style-src 'self' 'unsafe-inline'; "
    "connect-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)
_STATUS: tuple[tuple[type[Fault], int], ...] = (
    (Malformed, 400), (Missing, 404), (Clash, 409), (TooLarge, 413), (Busy, 503), (NoRoom, 507),
    (Fault, 422),
)  # fmt: skip
log = logging.getLogger(__name__)


ONLY_HERE = Door()


@cache
def _description() -> str:
    return json.dumps(openapi(), ensure_ascii=False)


class Number(IntegerConverter):
    """A number in an address, at most the largest that the database and browsers hold exactly."""

    regex = r"\d{1,15}"


def create_app(library: Library, door: Door = ONLY_HERE, cache_bytes: int = DEFAULT_CACHE) -> Flask:
    """The application over a library."""
    app = Flask(__name__, static_folder=None)
    # A sequence has one form field for each picture.
    app.config["MAX_FORM_PARTS"] = MOST_PICTURES + 10
    app.extensions["studio"] = Studio(library, cache_bytes)
    app.json.sort_keys = False  # type: ignore[attr-defined]
    app.url_map.converters["int"] = Number

    @app.before_request
    def at_the_door() -> Response | None:
        refusal = door.refusal(request)
        if refusal:
            return problem(403, refusal)
        if not request.mimetype.startswith("multipart/"):
            request.max_content_length = MOST_JSON
        return door.handed_over(request)

    @app.after_request
    def on_the_way_out(answer: Response) -> Response:
        answer.headers["X-Content-Type-Options"] = "nosniff"
        answer.headers["Referrer-Policy"] = "no-referrer"
        answer.headers["Content-Security-Policy"] = _POLICY
        answer.headers.setdefault("Cache-Control", "no-store")
        return packed(answer) if request.accept_encodings["gzip"] else answer

    @app.errorhandler(Fault)
    def told(fault: Fault) -> Response:
        status = next(status for kind, status in _STATUS if isinstance(fault, kind))
        return problem(status, fault.sentence, fault.where)

    @app.errorhandler(Cancelled)
    def given_up(_: Cancelled) -> Response:
        return Response(status=204)

    @app.errorhandler(HTTPException)
    def web_fault(fault: HTTPException) -> Response:
        return problem(fault.code or 500, fault.description or fault.name)

    @app.errorhandler(Exception)
    def unexpected(fault: Exception) -> Response:
        log.exception("unexpected fault at %s", request.path)
        return problem(
            500,
            f"An unexpected fault happened ({type(fault).__name__}). "
            "Everything saved before is safe. Try again, and see the server's log.",
        )

    places = (
        bench,
        previews,
        parts,
        grades,
        shelf,
        reel,
        handing_on,
        renders,
        cluster,
        materials,
        together,
    )
    views = [part.views for part in places]
    for part in views:
        app.register_blueprint(part)

    @app.get("/api/openapi.json")
    def description() -> Response:
        """The OpenAPI document of every address under /api."""
        return Response(_description(), mimetype="application/json")

    @app.get("/api/<path:rest>")
    def nothing_there(rest: str) -> Response:
        return problem(404, f"There is nothing at /api/{rest}.")

    @app.get("/")
    @app.get("/<path:rest>")
    def front(rest: str = "") -> Response:
        """Serve the page; every address that is not a file opens one of its places."""
        # Look the name up among the page's files, so that no address becomes a path.
        if rest.startswith("assets/") and rest not in _files():
            _files.cache_clear()  # the page may have been built meanwhile
        if rest in _files():
            answer = send_from_directory(APP, rest)
            if rest.startswith("assets/"):
                answer.headers["Cache-Control"] = "public, max-age=31536000, immutable"
            return answer
        if rest.startswith("assets/"):
            return problem(404, "There is no such file.")
        if "index.html" not in _files():
            _files.cache_clear()
            return problem(503, "The interface is not built yet. Run “make setup”.")
        return send_from_directory(APP, _page(rest))

    return app


def _page(address: str) -> str:
    """The page that makes the first requests of an address early; each of these pages can show any
    place."""
    place, _, opened = address.strip("/").partition("/")
    page = f"{place or 'shelf'}{'-open' if opened else ''}.html"
    return page if page in _files() else "index.html"


@cache
def _files() -> set[str]:
    """Every file of the interface, by its address."""
    return {str(file.relative_to(APP)) for file in APP.rglob("*") if file.is_file()}


LEAST_PACKED = 1500
"""Bytes of JSON that go in one piece over a network; longer answers are compressed."""


def packed(answer: Response) -> Response:
    """A long answer in JSON, compressed. One with a tag stays: its tag names its bytes."""
    if answer.mimetype != "application/json" or answer.is_streamed or answer.get_etag()[0]:
        return answer
    if len(data := answer.get_data()) >= LEAST_PACKED:
        answer.set_data(gzip.compress(data, 5, mtime=0))
        answer.headers["Content-Encoding"] = "gzip"
    answer.vary.add("Accept-Encoding")
    return answer


def problem(status: int, detail: str, where: str | None = None) -> Response:
    """A fault as RFC 9457 problem details."""
    details = Problem(title="The request failed", status=status, detail=detail, where=where)
    return Response(
        json.dumps(details.model_dump(exclude_none=True)), status,
        mimetype="application/problem+json",
    )  # fmt: skip
