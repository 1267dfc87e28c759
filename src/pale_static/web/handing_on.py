"""Edits in and out of the Reel, in open formats."""

from __future__ import annotations

from flask import Blueprint, Response, request
from pydantic import Field

from ..core.faults import Fault, Missing
from ..core.time.timing import FrameRate
from ..jobs.shelf import library_media
from ..media.foreign.reading import read_arrival
from ..store import drafts
from .endpoint import Wire, endpoint
from .studio import studio

views = Blueprint("handing_on", __name__)
MOST_EDIT = 64 << 20
"""The largest edit in bytes; its reader has a smaller limit for most kinds."""


class ArrivalQuery(Wire):
    """Options for reading an edit; with ``keep`` it becomes a reel."""

    keep: bool = False
    rate: str = Field(default="", max_length=20)


class ArrivalView(Wire):
    """An edit that was read, sentences on everything changed or left out, and missing media."""

    name: str
    rate: str
    shots: int
    joins: int
    frames: int
    notes: list[str]
    missing: list[str]
    reel: int | None
    """The number of the new reel; null until the edit is kept."""


@endpoint(views, "POST", "/reels/arrivals", body=ArrivalQuery, answer=ArrivalView, upload=True)
def bring_reel(body: ArrivalQuery) -> ArrivalView:
    """Read an edit of another system; with ``keep`` store it as a reel."""
    file = request.files.get("file")
    if file is None:
        raise Fault("There was no file in the request.")
    library = studio().library
    name = file.filename or "edit.otio"
    rate = FrameRate.of(body.rate) if body.rate else None
    arrival = read_arrival(file.stream.read(MOST_EDIT), name, library_media(library), rate)
    reel = arrival.reel
    kept = None
    if body.keep:
        kept = drafts.start(library.db, "reel", reel.to_json(), f"Brought in from {name}").id
    return ArrivalView(
        name=reel.name, rate=reel.rate, shots=len(reel.shots), joins=len(reel.joins),
        frames=reel.length, notes=list(arrival.notes), missing=list(arrival.missing), reel=kept,
    )  # fmt: skip


FORMS = ("otio", "edl", "csv")


class Kept(Wire):
    """For each kind of file, sentences on everything of the edit that it cannot hold."""

    lost: dict[str, list[str]]


@endpoint(views, "GET", "/reels/<int:number>/handing-on", answer=Kept)
def what_files_hold(number: int) -> Kept:
    """For each kind of file, the losses when an edit is handed on as that."""
    from ..jobs.edit_files import handed_on

    reel = studio().reel_of(drafts.get(studio().library.db, "reel", number))
    media = library_media(studio().library)
    return Kept(lost={form: list(handed_on(reel, media, f".{form}")[1]) for form in FORMS})


@endpoint(views, "GET", "/reels/<int:number>/edit.<form>", gives="application/octet-stream")
def hand_on_reel(number: int, form: str) -> Response:
    """An edit for other systems: ``otio``, ``edl``, or its marks as ``csv``."""
    from ..jobs.edit_files import handed_on

    if form not in FORMS:
        raise Missing("An edit is handed on as otio, edl, or its marks as csv.")
    library = studio().library
    reel = studio().reel_of(drafts.get(library.db, "reel", number))
    text, _ = handed_on(reel, library_media(library), f".{form}")
    answer = Response(text, mimetype="text/plain; charset=utf-8")
    answer.headers.set("Content-Disposition", "attachment", filename=f"{reel.name}.{form}")
    return answer
