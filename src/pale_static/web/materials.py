"""Endpoints of Materials: files in, facts, pictures."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from flask import Blueprint, Response, request
from pydantic import Field

from ..core.faults import Fault
from ..core.footage import frozen_at
from ..core.pictures.picture import Size
from ..core.reel.picture import shot_effect
from ..core.time.timing import FrameRate
from ..media.facts import Facts
from ..media.reading import Reading
from ..store import drafts, materials
from ..store.materials import Material
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
    """Materials whose files are being made, and their finished shares, 0 to 1."""

    files: dict[str, float]


@endpoint(views, "GET", "/waiting", answer=Waiting)
def waiting() -> Waiting:
    """The materials that are being made."""
    return Waiting(
        files={one.id: one.made or 0.0 for one in materials.expected(studio().library.db)}
    )


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
    library = studio().library
    clip = library.footage(name)
    share = min(query.width / clip.size.width, query.height / clip.size.height, 1)
    size = Size(max(1, round(clip.size.width * share)), max(1, round(clip.size.height * share)))
    effect = shot_effect("stretch")
    frame = query.frame if query.seconds is None else frozen_at(clip, query.seconds)
    source = studio().source(effect, frame + 1, slots={"clip": clip})
    rated = replace(source, given_rate=clip.rate or FrameRate.of(25))
    return picture_response(Sight(rated, size), frame, form)
