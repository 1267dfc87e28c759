"""Endpoints of Renders: the queue, the progress of each render, files."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterator
from pathlib import Path
from threading import BoundedSemaphore
from typing import Annotated, Any, Literal

from flask import Blueprint, Response, request, send_file
from pydantic import Field

from ..core.faults import Busy, Fault, Missing
from ..core.reel.picture import alone
from ..media.formats import FORMATS, Encoding, Format, format_of, parse_quality
from ..media.pictures.sequences import names_in
from ..store import cluster, drafts, renders
from ..store.renders import Render, Wanted
from .endpoint import Wire, endpoint
from .studio import studio

views = Blueprint("renders", __name__)


class QualityView(Wire):
    """Numbers of a quality, with words for some; ``better`` says whether larger numbers are
    better."""

    least: int
    most: int
    words: dict[str, int]
    default: str
    better: bool


class FormatView(Wire):
    """A format that renders are written in."""

    slug: str
    label: str
    sentence: str
    shape: str
    ending: str
    bits: int
    alpha: bool
    sound: bool
    there: bool
    quality: QualityView | None
    bit_rate: bool
    copies: bool


class FormatList(Wire):
    formats: list[FormatView]


class RenderView(Wire):
    """A render and its progress. ``plays`` says whether a page can play its file."""

    id: int
    reel: int
    revision: int
    name: str
    form: str
    format: str
    plays: Literal["film", "picture", ""]
    width: int
    height: int
    first: int
    total: int
    done: int
    state: str
    message: str
    speed: float
    seconds_left: float | None
    bytes: int
    told: list[str]
    asked: str
    ended: str | None
    scheduler: str
    """The cluster that makes it; empty for this machine."""


class RenderList(Wire):
    renders: list[RenderView]
    kept_bytes: int
    """Stretches that earlier renders keep for later ones."""


class AskRender(Wire):
    """A reel, from frame ``first`` for ``frames`` frames; all of it by default."""

    reel: int
    form: str = Field(default="mp4", max_length=40)
    first: int = Field(default=0, ge=0)
    frames: int | None = Field(default=None, ge=1)
    item: str = Field(default="", max_length=80)
    """One item of a row on clear ground, in place of the whole edit; needs a format with alpha."""
    clear: bool = False
    """Leave empty areas clear; needs a format with alpha."""
    quality: str | int | None = Field(default=None)
    bit_rate: int | None = None
    copy_unchanged: bool = False
    """Copy unchanged parts of the source, if the format allows it."""
    told: list[Annotated[str, Field(max_length=1000)]] = Field(default=[], max_length=200)
    """The sentences of the check before the render, kept with it."""


_PLAYED = {"mp4": "film", "webm": "film", "webm-alpha": "film", "av1": "film", "av1-webm": "film"}


def _view(render: Render) -> RenderView:
    left = None
    if render.state == "running" and render.speed > 0:
        left = round((render.wanted.total - render.done) / render.speed, 1)
    form = format_of(render.wanted.form)
    picture = form.shape in ("animation", "still", "sheet")
    plays: Any = _PLAYED.get(form.slug, "picture" if picture else "")
    return RenderView(
        id=render.id, reel=render.reel, revision=render.revision, name=render.name,
        form=form.slug, format=form.label, plays=plays if render.state == "done" else "",
        width=render.width, height=render.height, first=render.wanted.first,
        total=render.wanted.total, done=render.done, state=render.state, message=render.message,
        speed=round(render.speed, 2), seconds_left=left, bytes=render.bytes,
        told=list(render.wanted.told), asked=render.asked, ended=render.ended,
        scheduler=render.wanted.scheduler,
    )  # fmt: skip


def _listed() -> RenderList:
    library = studio().library
    return RenderList(
        renders=[_view(render) for render in renders.listed(library.db)],
        kept_bytes=library.stretches.size,
    )


@endpoint(views, "GET", "/formats", answer=FormatList)
def list_formats() -> FormatList:
    """The formats that renders are written in."""
    return FormatList(
        formats=[
            FormatView(
                slug=one.slug, label=one.label, sentence=one.sentence, shape=one.shape,
                ending=one.ending, bits=one.bits, alpha=one.alpha, sound=bool(one.sound),
                there=one.there, bit_rate=bool(one.quality and one.sound),
                copies=bool(one.copies),
                quality=QualityView(
                    least=one.quality.least, most=one.quality.most, words=dict(one.quality.words),
                    default=one.quality.default, better=one.quality.better,
                ) if one.quality else None,
            )
            for one in FORMATS
        ]
    )  # fmt: skip


@endpoint(views, "GET", "/renders", answer=RenderList)
def list_renders() -> Response:
    """All renders, newest first; 304 if the caller has the newest list already."""
    answer = Response(mimetype="application/json")
    answer.set_etag(f"{studio().began}.{renders.changes(studio().library.db)}")
    answer.headers["Cache-Control"] = "private, no-cache"
    if not request.if_none_match.contains(answer.get_etag()[0] or ""):
        answer.set_data(_listed().model_dump_json())
    answer.make_conditional(request.environ)
    return answer


@endpoint(views, "POST", "/renders", body=AskRender, answer=RenderView)
def ask_render(body: AskRender) -> RenderView:
    """Queue a render of a reel at its current revision."""
    db = studio().library.db
    draft = drafts.get(db, "reel", body.reel)
    reel = studio().reel_of(draft)
    if not reel.length:
        raise Fault("The reel is empty. Put a shot on it first.")
    name, form = reel.name, format_of(body.form)
    encoding = Encoding(form, parse_quality(form, body.quality), body.bit_rate, body.copy_unchanged)
    if body.item:
        name = f"{reel.items[body.item][1].name}, {name}" if body.item in reel.items else name
        reel = alone(reel, body.item)
    if (body.item or body.clear) and not form.alpha:
        raise Fault(f"{form.label} holds no alpha. Choose a format with alpha for clear areas.")
    wrong = form.wrong_size(reel.size)
    if wrong:
        raise Fault(f"{wrong[0]} Make the edit {wrong[1].shown}, or choose another format.")
    first = min(body.first, reel.length - 1)
    total = 1 if form.shape == "still" else min(body.frames or reel.length, reel.length - first)
    wanted = Wanted(
        form=form.slug, first=first, total=total, item=body.item,
        clear=body.clear or bool(body.item), quality=encoding.quality, bit_rate=body.bit_rate,
        copy=body.copy_unchanged, told=tuple(body.told), **_there(form),
    )  # fmt: skip
    return _view(renders.ask(db, draft, wanted, name, reel.size))


def _there(form: Format) -> dict[str, Any]:
    """Where a new render is made, by the library's setting and the format."""
    setting = cluster.settings(studio().library.db)
    if not (setting.used and setting.address and (form.joined or form.numbered)):
        return {}
    return {"scheduler": setting.address, "or_here": setting.or_here}


@endpoint(views, "POST", "/renders/kept/empty", answer=RenderList)
def empty_kept() -> RenderList:
    """Remove the stretches that renders keep for later renders; finished films stay."""
    studio().library.stretches.trim(0)
    return _listed()


@endpoint(views, "POST", "/renders/<int:number>/cancel", answer=RenderList)
def cancel_render(number: int) -> RenderList:
    """Cancel a render."""
    renders.cancel(studio().library.db, number)
    return _listed()


@endpoint(views, "POST", "/renders/<int:number>/here", answer=RenderList)
def render_here(number: int) -> RenderList:
    """Make a render, or what is left of it, on this machine instead of the cluster."""
    renders.here(studio().library.db, number)
    return _listed()


@endpoint(views, "POST", "/renders/<int:number>/again", answer=RenderList)
def again_render(number: int) -> RenderList:
    """Queue a render again that ended without a file; a PNG sequence continues where it stopped."""
    renders.again(studio().library.db, number)
    return _listed()


def _finished(number: int) -> tuple[Render, Path]:
    library = studio().library
    render = renders.get(library.db, number)
    path = library.renders / render.file
    if render.state != "done" or not path.exists():
        raise Missing("This render has no file yet, or its file is gone. Render it again.")
    return render, path


@endpoint(views, "GET", "/renders/<int:number>/file", gives="application/octet-stream")
def render_file(number: int) -> Response:
    """The finished file: a video or a picture, or a zip of pictures."""
    render, path = _finished(number)
    form = format_of(render.wanted.form)
    if path.is_file():
        name = f"{render.name}{form.ending}"
        return send_file(path, form.files, as_attachment=True, download_name=name)
    answer = _zipped(names_in(path))
    answer.headers.set("Content-Disposition", "attachment", filename=f"{render.name}.zip")
    return answer


@endpoint(views, "GET", "/renders/<int:number>/show", gives="application/octet-stream")
def show_render(number: int) -> Response:
    """The finished file, for playing in a page; requests for parts of it are answered."""
    render, path = _finished(number)
    if not path.is_file():
        raise Missing("A sequence of pictures cannot be played. Download it.")
    return send_file(path, format_of(render.wanted.form).files, conditional=True)


MOST_ZIPS = 4
"""The most downloads at once; each uses one of the server's threads until it is finished."""
_zips = BoundedSemaphore(MOST_ZIPS)


def _zipped(files: list[Path]) -> Response:
    """A zip of files, piece by piece, so that it is never completely in memory."""
    if not _zips.acquire(blocking=False):
        raise Busy(f"{MOST_ZIPS} sequences are being downloaded already. Wait for one to end.")
    answer = Response(_zip_pieces(files), mimetype="application/zip")
    # Every answer is closed, even if nobody reads its body, as for HEAD.
    answer.call_on_close(_zips.release)
    return answer


def _zip_pieces(files: list[Path]) -> Iterator[bytes]:
    out = _Pieces()
    with zipfile.ZipFile(out, "w") as packed:
        for file in files:
            with packed.open(zipfile.ZipInfo.from_file(file, file.name), "w") as entry:
                entry.write(file.read_bytes())
            yield out.taken()
    yield out.taken()


class _Pieces(io.RawIOBase):
    """A file object for writing that passes the bytes on."""

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
