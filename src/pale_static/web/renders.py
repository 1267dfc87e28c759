"""What Renders calls: the queue, how far each render is, files."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterator
from pathlib import Path
from threading import BoundedSemaphore
from typing import Any, Literal

from flask import Blueprint, Response, request, send_file
from pydantic import Field

from ..core.faults import Busy, Fault, Missing
from ..core.reel.picture import alone
from ..store import drafts, renders
from ..store.renders import Render
from .endpoint import Wire, endpoint
from .studio import studio

views = Blueprint("renders", __name__)


class RenderView(Wire):
    """A render and how far it is."""

    id: int
    reel: int
    revision: int
    name: str
    form: Literal["mp4", "png"]
    width: int
    height: int
    first: int
    total: int
    done: int
    state: str
    message: str
    speed: float
    seconds_left: float | None
    asked: str
    ended: str | None


class RenderList(Wire):
    renders: list[RenderView]


class AskRender(Wire):
    """A reel, from frame ``first`` for ``frames`` frames; all of it by default."""

    reel: int
    form: Literal["mp4", "png"] = "mp4"
    first: int = Field(default=0, ge=0)
    frames: int | None = Field(default=None, ge=1)
    item: str = Field(default="", max_length=80)
    """One item of a row, over nothing, in place of the whole edit; as pictures only."""


def _view(render: Render) -> RenderView:
    left = None
    if render.state == "running" and render.speed > 0:
        left = round((render.total - render.done) / render.speed, 1)
    return RenderView(
        id=render.id, reel=render.reel, revision=render.revision, name=render.name,
        form=render.form, width=render.width, height=render.height, first=render.first,
        total=render.total, done=render.done, state=render.state, message=render.message,
        speed=round(render.speed, 2), seconds_left=left, asked=render.asked, ended=render.ended,
    )  # fmt: skip


def _listed() -> RenderList:
    return RenderList(renders=[_view(render) for render in renders.listed(studio().library.db)])


@endpoint(views, "GET", "/renders", answer=RenderList)
def list_renders() -> Response:
    """All renders, newest first. Who has the list as it stands is told so."""
    answer = Response(mimetype="application/json")
    answer.set_etag(f"{studio().began}.{renders.changes(studio().library.db)}")
    answer.headers["Cache-Control"] = "private, no-cache"
    if not request.if_none_match.contains(answer.get_etag()[0] or ""):
        answer.set_data(_listed().model_dump_json())
    answer.make_conditional(request.environ)
    return answer


@endpoint(views, "POST", "/renders", body=AskRender, answer=RenderView)
def ask_render(body: AskRender) -> RenderView:
    """Queue a render of a reel as it stands."""
    db = studio().library.db
    draft = drafts.get(db, "reel", body.reel)
    reel = studio().reel_of(draft)
    if not reel.length:
        raise Fault("The reel is empty. Put a shot on it first.")
    name = reel.name
    if body.item:
        name = f"{reel.items[body.item][1].name}, {name}" if body.item in reel.items else name
        reel = alone(reel, body.item)
        if body.form == "mp4":
            raise Fault("An MP4 holds no alpha. Render one item over nothing as pictures.")
    if body.form == "mp4" and (reel.width % 2 or reel.height % 2):
        raise Fault(
            f"H.264 video needs an even width and height, and the reel is {reel.width}×"
            f"{reel.height}. Change its size, or render PNGs."
        )
    first = min(body.first, reel.length - 1)
    total = min(body.frames or reel.length, reel.length - first)
    return _view(renders.ask(db, draft, body.form, first, total, name, reel.size, body.item))


@endpoint(views, "POST", "/renders/<int:number>/cancel", answer=RenderList)
def cancel_render(number: int) -> RenderList:
    """Give a render up."""
    renders.cancel(studio().library.db, number)
    return _listed()


@endpoint(views, "POST", "/renders/<int:number>/again", answer=RenderList)
def again_render(number: int) -> RenderList:
    """Queue a render that ended without a file again; a PNG sequence goes on where it stopped."""
    renders.again(studio().library.db, number)
    return _listed()


@endpoint(views, "GET", "/renders/<int:number>/file", gives="application/octet-stream")
def render_file(number: int) -> Response:
    """The finished file: a video, or a zip of pictures."""
    library = studio().library
    render = renders.get(library.db, number)
    path = library.renders / render.file
    if render.state != "done" or not path.exists():
        raise Missing("This render has no file yet, or its file is gone. Render it again.")
    if path.is_file():
        return send_file(path, "video/mp4", as_attachment=True, download_name=f"{render.name}.mp4")
    answer = Response(_zipped(sorted(path.glob("*.png"))), mimetype="application/zip")
    answer.headers.set("Content-Disposition", "attachment", filename=f"{render.name}.zip")
    return answer


MOST_ZIPS = 4
"""How many are sent at once: each holds one of the server's threads until it is taken."""
_zips = BoundedSemaphore(MOST_ZIPS)


def _zipped(files: list[Path]) -> Iterator[bytes]:
    """A zip of files, a piece at a time, so that none of it waits in memory."""
    if not _zips.acquire(blocking=False):
        raise Busy(f"{MOST_ZIPS} sequences are being downloaded already. Wait for one to end.")
    return _zip_pieces(files)


def _zip_pieces(files: list[Path]) -> Iterator[bytes]:
    try:
        out = _Pieces()
        with zipfile.ZipFile(out, "w") as packed:
            for file in files:
                with packed.open(zipfile.ZipInfo.from_file(file, file.name), "w") as entry:
                    entry.write(file.read_bytes())
                yield out.taken()
        yield out.taken()
    finally:
        _zips.release()


class _Pieces(io.RawIOBase):
    """Takes what is written, and hands it on."""

    def __init__(self) -> None:
        self._written = bytearray()

    def writable(self) -> bool:
        return True

    def write(self, piece: Any, /) -> int:
        before = len(self._written)
        self._written += piece
        return len(self._written) - before

    def taken(self) -> bytes:
        piece = bytes(self._written)
        self._written.clear()
        return piece
