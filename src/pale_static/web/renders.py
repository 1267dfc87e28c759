"""What Renders calls: the queue, progress as it happens, files."""

from __future__ import annotations

import io
import json
import time
import zipfile
from collections.abc import Iterator
from typing import Literal

from flask import Blueprint, Response, send_file
from pydantic import Field

from ..core.faults import Fault, Missing
from ..core.reel import read_reel
from ..store import drafts, renders
from ..store.renders import Render
from .endpoint import Wire, endpoint
from .reel import reel_of
from .studio import studio

views = Blueprint("renders", __name__)
LOOK_EVERY = 0.3
KEEP_ALIVE = 10.0


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


def _view(render: Render) -> RenderView:
    library = studio().library
    document = drafts.revision(library.db, render.reel, render.revision).document
    reel, left = read_reel(document), None
    if render.state == "running" and render.speed > 0:
        left = round((render.total - render.done) / render.speed, 1)
    return RenderView(
        id=render.id, reel=render.reel, revision=render.revision, name=reel.name,
        form=render.form, width=reel.width, height=reel.height, first=render.first,
        total=render.total, done=render.done, state=render.state, message=render.message, speed=round(render.speed, 2),
        seconds_left=left, asked=render.asked, ended=render.ended,
    )  # fmt: skip


def _listed() -> RenderList:
    return RenderList(renders=[_view(render) for render in renders.listed(studio().library.db)])


@endpoint(views, "GET", "/renders", answer=RenderList)
def list_renders() -> RenderList:
    """All renders, newest first."""
    return _listed()


@endpoint(views, "POST", "/renders", body=AskRender, answer=RenderView)
def ask_render(body: AskRender) -> RenderView:
    """Queue a render of a reel as it stands."""
    db = studio().library.db
    draft = drafts.get(db, "reel", body.reel)
    reel = reel_of(draft)
    if not reel.shots:
        raise Fault("The reel is empty. Put a shot on it first.")
    if body.form == "mp4" and (reel.width % 2 or reel.height % 2):
        raise Fault(
            f"H.264 video needs an even width and height, and the reel is {reel.width}×"
            f"{reel.height}. Change its size, or render PNGs."
        )
    first = min(body.first, reel.length - 1)
    total = min(body.frames or reel.length, reel.length - first)
    return _view(renders.ask(db, draft.id, draft.head.id, body.form, first, total))


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
    name = f"{drafts.revision(library.db, render.reel, render.revision).document['name']}"
    if path.is_file():
        return send_file(path, "video/mp4", as_attachment=True, download_name=f"{name}.mp4")
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as file:
        for picture in sorted(path.glob("*.png")):
            file.write(picture, picture.name)
    packed.seek(0)
    return send_file(packed, "application/zip", as_attachment=True, download_name=f"{name}.zip")


@endpoint(views, "GET", "/events", gives="text/event-stream")
def events() -> Response:
    """Server-sent events: the list of renders, whenever it changes."""
    desk = studio()

    def stream() -> Iterator[str]:
        last, spoken = None, time.monotonic()
        while True:
            text = json.dumps(_all(desk_renders()))
            if text != last:
                last, spoken = text, time.monotonic()
                yield f"event: renders\ndata: {text}\n\n"
            elif time.monotonic() - spoken > KEEP_ALIVE:
                spoken = time.monotonic()
                yield ": still here\n\n"
            time.sleep(LOOK_EVERY)

    def desk_renders() -> list[Render]:
        return renders.listed(desk.library.db)

    from flask import stream_with_context

    def _all(found: list[Render]) -> dict[str, object]:
        return {"renders": [_view(render).model_dump(mode="json") for render in found]}

    return Response(stream_with_context(stream()), mimetype="text/event-stream")
