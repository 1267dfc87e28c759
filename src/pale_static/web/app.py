"""The application: security at the door, views inside, one place for faults."""

from __future__ import annotations

import json
import logging
from functools import cache
from pathlib import Path
from urllib.parse import urlsplit

from flask import Flask, Response, request, send_from_directory
from werkzeug.exceptions import HTTPException

from ..core.engine.evaluate import DEFAULT_CACHE
from ..core.faults import Cancelled, Clash, Fault, Missing, NoRoom, TooLarge
from ..store import Library
from . import bench, grades, materials, parts, previews, reel, renders, shelf
from .endpoint import Problem
from .studio import Studio

APP = Path(__file__).parent / "app"
MOST_JSON = 8 << 20
_POLICY = (
    "default-src 'self'; img-src 'self' blob: data:; style-src 'self' 'unsafe-inline'; "
    "connect-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)
_STATUS: tuple[tuple[type[Fault], int], ...] = (
    (Missing, 404), (Clash, 409), (TooLarge, 413), (NoRoom, 507), (Fault, 422),
)  # fmt: skip
log = logging.getLogger(__name__)


def create_app(
    library: Library, hosts: tuple[str, ...] = (), cache_bytes: int = DEFAULT_CACHE
) -> Flask:
    """The application over a library.

    Parameters
    ----------
    hosts : tuple of str
        Host names served besides localhost; empty by default.
    """
    app = Flask(__name__, static_folder=None)
    app.extensions["studio"] = Studio(library, cache_bytes)
    app.json.sort_keys = False  # type: ignore[attr-defined]
    allowed = {"127.0.0.1", "localhost", "::1", *hosts}

    @app.before_request
    def at_the_door() -> Response | None:
        if _hostname(request.host) not in allowed:
            return problem(403, "This address is not one that Pale Static serves.")
        origin = request.headers.get("Origin")
        if origin is not None and origin != "null" and urlsplit(origin).netloc != request.host:
            return problem(403, "The request came from another site.")
        crossing = request.headers.get("Sec-Fetch-Site", "same-origin")
        if request.method not in ("GET", "HEAD") and (
            origin == "null" or crossing not in ("same-origin", "none")
        ):
            return problem(403, "The request came from another site.")
        if not request.mimetype.startswith("multipart/"):
            request.max_content_length = MOST_JSON
        return None

    @app.after_request
    def on_the_way_out(answer: Response) -> Response:
        answer.headers["X-Content-Type-Options"] = "nosniff"
        answer.headers["Referrer-Policy"] = "no-referrer"
        answer.headers["Content-Security-Policy"] = _POLICY
        answer.headers.setdefault("Cache-Control", "no-store")
        return answer

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
            f"Something went wrong that should not have ({type(fault).__name__}). "
            "What was saved before is safe. Try again, and see the log where the server runs.",
        )

    views = [
        part.views for part in (bench, previews, parts, grades, shelf, reel, renders, materials)
    ]
    for part in views:
        app.register_blueprint(part)

    @app.get("/api/<path:rest>")
    def nothing_there(rest: str) -> Response:
        return problem(404, f"There is nothing at /api/{rest}.")

    @app.get("/")
    @app.get("/<path:rest>")
    def front(rest: str = "") -> Response:
        """The interface; every address that is no file is one of its places."""
        if rest.startswith("assets/"):
            answer = send_from_directory(APP, rest)
            answer.headers["Cache-Control"] = "public, max-age=31536000, immutable"
            return answer
        if rest and (APP / rest).is_file():
            return send_from_directory(APP, rest)
        if not (APP / "index.html").is_file():
            return problem(503, "The interface is not built yet. Run “make setup”.")
        return send_from_directory(APP, _page(rest))

    return app


def _page(address: str) -> str:
    """The page that asks for what an address needs at once; all of them can show any place."""
    place, _, opened = address.strip("/").partition("/")
    page = f"{place or 'shelf'}{'-open' if opened else ''}.html"
    return page if page in _pages() else "index.html"


@cache
def _pages() -> set[str]:
    return {file.name for file in APP.glob("*.html")}


def _hostname(host: str) -> str | None:
    """The name in a Host header, without its port; None for what is no host."""
    try:
        return urlsplit(f"//{host}").hostname
    except ValueError:
        return None


def problem(status: int, detail: str, where: str | None = None) -> Response:
    """A fault as RFC 9457 problem details."""
    found = Problem(title="It could not be done", status=status, detail=detail, where=where)
    return Response(
        json.dumps(found.model_dump(exclude_none=True)), status,
        mimetype="application/problem+json",
    )  # fmt: skip
