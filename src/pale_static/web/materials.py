"""Endpoints of Materials: files in, facts, pictures."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, Literal

from flask import Blueprint, Response, request
from pydantic import Field

from ..core.faults import Fault
from ..core.footage import frozen_at
from ..core.pictures.picture import Size
from ..core.reel.picture import shot_effect
from ..core.time.timing import FrameRate
from ..media.facts import Facts
from ..media.films.screen_copy import LINES, MOST_LINES, copied, copy_size
from ..media.reading import Reading
from ..store import drafts, materials, screen_copies
from ..store.materials import Material
from ..store.screen_copies import Copied, CopySettings
from .endpoint import Wire, endpoint
from .pictures import Sight, kept_response, picture_response
from .studio import studio

views = Blueprint("materials", __name__)


class MaterialView(Wire):
    """A material and its uses."""

    id: str
    name: str
    facts: Facts
    reading: Reading
    mark: str
    """It changes when the material is read another way, and is a part of its pictures'
    addresses."""
    added: str
    used_in: list[str]
    made: float | None = None


class MaterialList(Wire):
    materials: list[MaterialView]


class PictureQuery(Wire):
    """A frame of a material, by its number or its time."""

    frame: int = Field(default=0, ge=0)
    seconds: float | None = Field(default=None, ge=0, le=10**6)
    width: int = Field(default=320, ge=1, le=4096)
    height: int = Field(default=180, ge=1, le=4096)
    mark: str = Field(default="", max_length=40)
    """Unused; it makes addresses of pictures differ when the material is read another way."""


class Rename(Wire):
    name: str = Field(min_length=1, max_length=200)


def _used(name: str, texts: list[tuple[str, str]]) -> list[str]:
    return [title for title, text in texts if name in text]


def _listed() -> MaterialList:
    db = studio().library.db
    texts = drafts.texts(db)
    return MaterialList(materials=[_view(m, _used(m.id, texts)) for m in materials.listed(db)])


def _view(material: Material, used: list[str]) -> MaterialView:
    return MaterialView(
        id=material.id,
        name=material.name,
        facts=material.facts,
        reading=material.reading,
        mark=material.reading.mark(),
        added=material.added,
        used_in=used,
        made=material.made,
    )


@endpoint(views, "GET", "/materials", answer=MaterialList)
def list_materials() -> MaterialList:
    """All materials with their facts."""
    return _listed()


class Waiting(Wire):
    """Materials whose files are being made, and their finished shares, 0 to 1; and those that
    monitors show small meanwhile."""

    files: dict[str, float]
    small: list[str]


@endpoint(views, "GET", "/waiting", answer=Waiting)
def waiting() -> Waiting:
    """The materials that are being made."""
    db = studio().library.db
    expected = materials.expected(db)
    small = [one.id for one in expected if screen_copies.of(db, one)]
    return Waiting(files={one.id: one.made or 0.0 for one in expected}, small=small)


@endpoint(views, "POST", "/materials", answer=MaterialView, upload=True)
def bring_material() -> MaterialView:
    """Bring a file in; several numbered pictures come in as one clip."""
    files = request.files.getlist("file")
    if not files:
        raise Fault("There was no file in the request.")
    library = studio().library
    if len(files) > 1:
        named: dict[str, Any] = {one.filename or "unnamed": one.stream for one in files}
        if len(named) < len(files):
            raise Fault("Two of the pictures have the same name.")
        return _view(library.bring_in_sequence(named), [])
    (file,) = files
    material = library.bring_in(file.stream, file.filename or "unnamed")  # type: ignore[arg-type]
    return _view(material, [])


@endpoint(views, "POST", "/materials/<name>/reading", body=Reading, answer=MaterialList)
def read_material(name: str, body: Reading) -> MaterialList:
    """Read a material in another way than its file's tags say."""
    studio().library.read_as(name, body)
    return _listed()


class CopyView(Wire):
    """The copy of a film for the screen: its state, its size, and the finished share of it."""

    state: Literal["made", "being made", "waiting", "off", "not made"]
    width: int
    height: int
    bytes: int
    done: float
    problem: str


class ScreenCopies(Wire):
    """Copies of films for the screen: whether they are made and used, the lines of their shorter
    side, and the copy of each film."""

    on: bool
    lines: int
    bytes: int
    copies: dict[str, CopyView]


class ChangeCopies(Wire):
    """New settings of the copies for the screen."""

    on: bool
    lines: int = Field(default=LINES, ge=90, le=MOST_LINES)


class SwitchCopy(Wire):
    """Whether a film has a copy for the screen."""

    on: bool


def _copies() -> ScreenCopies:
    db = studio().library.db
    setting, known = screen_copies.settings(db), screen_copies.listed(db)
    films = [one for one in materials.listed(db) if copied(one.facts)]
    views = {one.id: _copy(one, known.get(one.id), setting) for one in films}
    return ScreenCopies(
        on=setting.on, lines=setting.lines, bytes=sum(one.bytes for one in views.values()),
        copies=views,
    )  # fmt: skip


def _copy(material: Material, held: Copied | None, setting: CopySettings) -> CopyView:
    lines = setting.lines
    size = copy_size(Size(material.facts.width, material.facts.height), lines)
    state: Any = "waiting"
    current = held is not None and held.name == screen_copies.name_of(material, lines)
    if not setting.on or (held is not None and held.off):
        state = "off"
    elif held is not None and current:
        state = "not made" if held.problem else "made" if held.complete else "being made"
    return CopyView(
        state=state, width=size.width, height=size.height,
        bytes=held.bytes if held and state == "made" else 0,
        done=(held.done or 0.0) if held and state == "being made" else 0.0,
        problem=held.problem if held and state == "not made" else "",
    )  # fmt: skip


@endpoint(views, "GET", "/screen-copies", answer=ScreenCopies)
def list_copies() -> ScreenCopies:
    """The copies of films for the screen, with their settings."""
    return _copies()


@endpoint(views, "POST", "/screen-copies", body=ChangeCopies, answer=ScreenCopies)
def change_copies(body: ChangeCopies) -> ScreenCopies:
    """Make and use copies for the screen, or not, and at which size."""
    library = studio().library
    screen_copies.change(library.db, CopySettings(body.on, body.lines))
    if not body.on:
        for one in screen_copies.listed(library.db).values():
            _drop(one)
    return _copies()


@endpoint(views, "POST", "/materials/<name>/copy", body=SwitchCopy, answer=ScreenCopies)
def switch_copy(name: str, body: SwitchCopy) -> ScreenCopies:
    """Make and use a copy of a film for the screen, or not."""
    db = studio().library.db
    material = materials.get(db, name)
    if not copied(material.facts):
        raise Fault(f"{material.name} is no film, so it needs no copy for the screen.")
    held = screen_copies.listed(db).get(name)
    screen_copies.switch(db, name, body.on)
    if held and not body.on:
        _drop(held)
    return _copies()


def _drop(held: Copied) -> None:
    """Remove the file of a copy, and forget it."""
    library = studio().library
    for file in library.screen.glob(f"{held.name}.*") if held.name else ():
        file.unlink(missing_ok=True)
    screen_copies.forget(library.db, held.material)


@endpoint(views, "DELETE", "/materials/<name>", answer=MaterialList)
def remove_material(name: str) -> MaterialList:
    """Remove a material from the list; edits and effects that use it keep it."""
    materials.remove(studio().library.db, name)
    return _listed()


@endpoint(views, "POST", "/materials/<name>/restore", answer=MaterialList)
def restore_material(name: str) -> MaterialList:
    """Put a removed material back."""
    materials.remove(studio().library.db, name, removed=False)
    return _listed()


@endpoint(views, "POST", "/materials/<name>/name", body=Rename, answer=MaterialList)
def rename_material(name: str, body: Rename) -> MaterialList:
    """Give a material another name."""
    materials.rename(studio().library.db, name, body.name)
    return _listed()


@endpoint(views, "GET", "/materials/<name>/peaks", gives="application/octet-stream")
def material_peaks(name: str) -> Response:
    """The loudness of a material: a byte for every fiftieth of a second; empty without sound."""
    return kept_response(studio().library.peaks(name), "application/octet-stream")


@endpoint(views, "GET", "/materials/<name>/picture.<form>", query=PictureQuery, gives="image/jpeg")
def material_picture(name: str, form: str, query: PictureQuery) -> Response:
    """A frame of a material, uncropped within the size."""
    shown = None if form == "png" else Size(query.width, query.height)
    clip = studio().library_for(shown).footage(name)
    share = min(query.width / clip.size.width, query.height / clip.size.height, 1)
    size = Size(max(1, round(clip.size.width * share)), max(1, round(clip.size.height * share)))
    effect = shot_effect("stretch")
    frame = query.frame if query.seconds is None else frozen_at(clip, query.seconds)
    source = studio().source(effect, frame + 1, slots={"clip": clip})
    rated = replace(source, given_rate=clip.rate or FrameRate.of(25))
    return picture_response(Sight(rated, size), frame, form)
