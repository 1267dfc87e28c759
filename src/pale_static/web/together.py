"""Several answers in one: a page asks for all small pictures that it needs now in one request."""

from __future__ import annotations

import json
import struct
from collections.abc import Iterator
from io import BytesIO
from typing import Annotated, Any
from urllib.parse import unquote_to_bytes

from flask import Blueprint, Flask, Response, current_app, request
from pydantic import Field

from .endpoint import Wire, endpoint

views = Blueprint("together", __name__)

MOST = 16
LONGEST = 32_768
"""Characters of an address; one may carry a change on trial."""
TOO_LARGE = "Answers of this kind come alone, not together with others."


class Together(Wire):
    """Addresses under /api, each with its choices."""

    paths: list[Annotated[str, Field(max_length=LONGEST, pattern=r"^/api/")]] = Field(
        min_length=1, max_length=MOST
    )


@endpoint(views, "POST", "/together", body=Together, gives="application/octet-stream")
def together(body: Together) -> Response:
    """The answers to several GET requests as one stream, in order, each as soon as it is there.

    Each answer is two pieces after their lengths (4 bytes, the highest first): its status and type
    as JSON, then its body.
    """
    app: Flask = current_app._get_current_object()  # type: ignore[attr-defined]
    environ = dict(request.environ)

    def answers() -> Iterator[bytes]:
        for path in body.paths:
            answer = _answer(app, environ, path)
            head = json.dumps({"status": answer.status_code, "type": answer.mimetype}).encode()
            for piece in (head, answer.get_data()):
                yield struct.pack(">I", len(piece)) + piece

    return Response(answers(), mimetype="application/octet-stream")


def _answer(app: Flask, outer: dict[str, Any], path: str) -> Response:
    """The answer of the application to a GET request that comes inside another request."""
    address, _, choices = path.partition("?")
    inside = {
        name: value for name, value in outer.items()
        if name not in ("HTTP_IF_NONE_MATCH", "HTTP_ACCEPT_ENCODING", "werkzeug.request")
    } | {
        "REQUEST_METHOD": "GET", "QUERY_STRING": choices, "CONTENT_LENGTH": "0", "CONTENT_TYPE": "",
        # PEP 3333: the bytes of the address as Latin-1.
        "PATH_INFO": unquote_to_bytes(address).decode("latin-1"),
        "wsgi.input": BytesIO(),
    }  # fmt: skip
    with app.request_context(inside):
        answer = app.full_dispatch_request()
        if answer.is_streamed or answer.direct_passthrough:
            answer.close()
            return Response(TOO_LARGE, 422, mimetype="text/plain")
        return answer
