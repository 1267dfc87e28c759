"""Endpoints of parts: keep and find them, write and read collections."""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import cache
from pathlib import PurePath
from typing import Literal
from urllib.parse import quote

from flask import Blueprint, Response, request
from pydantic import Field

from ..core.built_in import RECIPES, VERSION, built_in_effect
from ..core.changes import keep_part
from ..core.changes.models import StepPlace
from ..core.documents.checking import assets_of, fonts_of
from ..core.documents.part import Collection, Part
from ..core.faults import Clash, Fault, Missing
from ..core.pictures.picture import Size
from ..media.foreign.reading import read_parts
from ..media.packages import MOST_PACKED, write_parts
from ..media.pictures.stills import encode_jpeg
from ..store import parts
from ..store.parts import KeptPart
from .endpoint import Wire, endpoint
from .pictures import kept_response
from .studio import studio

views = Blueprint("parts", __name__)
PICTURE = Size(320, 180)


class PartView(Wire):
    """A kept part."""

    id: int
    project: str
    collection: str
    added: str
    steps: int
    starts: bool
    part: Part
    picture: str
    """The address of its picture."""
    recipe: bool = False
    note: str = ""
    """The note that a recipe pins to its lane; empty for a kept part."""


class PartList(Wire):
    parts: list[PartView]
    recipes: list[PartView]
    """Recipes that can start an empty lane."""


class KeepPart(Wire):
    """Steps of one lane, or whole lanes, of a draft to keep."""

    draft: int
    base: int
    steps: list[StepPlace] = Field(default_factory=list, max_length=1000)
    lanes: list[str] = Field(default_factory=list, max_length=200)
    name: str = Field(min_length=1, max_length=120)
    notes: str = Field(default="", max_length=2000)
    tags: list[str] = Field(default_factory=list, max_length=24)
    collection: str = Field(default="", max_length=120)
    project: str = Field(default="", max_length=120)
    replace: bool = False
    frame: int = Field(default=0, ge=0, le=10**6)
    length: int = Field(default=50, ge=1, le=10**6)


class AboutPart(Wire):
    """The name and the place of a part."""

    name: str = Field(min_length=1, max_length=120)
    notes: str = Field(default="", max_length=2000)
    tags: list[str] = Field(default_factory=list, max_length=24)
    collection: str = Field(default="", max_length=120)
    project: str = Field(default="", max_length=120)


class Newcomer(Wire):
    """A part in a file, and the part here with the same name."""

    name: str
    steps: int
    here: Literal["nothing", "the same", "another"]


class Arrival(Wire):
    """A file of parts that was read but not yet brought in."""

    collection: Collection
    parts: list[Newcomer]


class TakeIn(Wire):
    """What to do with each part whose name is taken here."""

    decisions: dict[str, Literal["skip", "replace", "both"]] = Field(default_factory=dict)


class TakenIn(PartList):
    said: list[str]


def _view(kept: KeptPart) -> PartView:
    return PartView(
        id=kept.id, project=kept.project, collection=kept.collection, added=kept.added,
        steps=sum(1 for lane in kept.part.lanes for _ in lane.every),
        starts=kept.part.starts, part=kept.part, picture=f"/api/parts/{kept.id}/picture.jpg",
    )  # fmt: skip


@cache
def _recipes() -> list[PartView]:
    found: list[PartView] = []
    for slug in RECIPES:
        effect = built_in_effect(slug)
        if effect.kind != "texture" or len(effect.lanes) > 1:
            continue
        steps = [StepPlace(lane="out", step=step.id) for step in effect.lanes[0].steps]
        part = keep_part(effect, effect.name, steps=steps, notes=effect.sentence, tags=effect.tags)
        kept = KeptPart(-1 - len(found), "", "Recipes", "", part)
        frame, length = effect.frames // 2, effect.frames
        picture = (
            f"/api/macros/{slug}/{VERSION}/frame.jpg?frame={frame}&length={length}"
            f"&width={PICTURE.width}&height={PICTURE.height}"
        )
        note = "\n".join(one.text for one in effect.notes)
        own = {"picture": picture, "recipe": True, "note": note}
        found.append(_view(kept).model_copy(update=own))
    return found


def _all() -> PartList:
    kept = [_view(one) for one in parts.listed(studio().library.db)]
    return PartList(parts=kept, recipes=_recipes())


@endpoint(views, "GET", "/parts", answer=PartList)
def list_parts() -> PartList:
    """All parts, by collection and name."""
    return _all()


@endpoint(views, "POST", "/parts", body=KeepPart, answer=PartView)
def keep(body: KeepPart) -> PartView:
    """Keep steps or lanes of a draft."""
    desk = studio()
    effect = desk.effect_at(body.draft, body.base)
    part = keep_part(
        effect, body.name.strip(), steps=body.steps, lanes=body.lanes, notes=body.notes,
        tags=body.tags,
    )  # fmt: skip
    place = None
    if body.steps:
        last = part.lanes[0].steps[-1].id
        place = (body.steps[0].lane, last)
    elif body.lanes:
        end = effect.lane(body.lanes[-1])
        place = (end.id, end.steps[-1].id) if end and end.steps else None
    image = None
    try:
        source = desk.source(effect, body.length)
        frame = source.at(min(body.frame, body.length - 1), PICTURE, step=place)
        image = encode_jpeg(desk.engine.compute(frame.plan, eight=True).held)
    except Fault:
        pass  # a part with open inputs has no picture
    return _view(
        parts.add(
            desk.library.db, part, project=body.project.strip(),
            collection=body.collection.strip(), image=image, replace=body.replace,
        )
    )  # fmt: skip


@endpoint(views, "GET", "/parts/<int:number>/picture.jpg", gives="image/jpeg")
def part_picture(number: int) -> Response:
    """The picture of a part from when it was kept."""
    image = parts.picture(studio().library.db, number)
    return Response(status=204) if image is None else kept_response(image, "image/jpeg")


@endpoint(views, "POST", "/parts/<int:number>", body=AboutPart, answer=PartList)
def describe_part(number: int, body: AboutPart) -> PartList:
    """Change the name, notes, tags, collection or project of a part."""
    db = studio().library.db
    kept = parts.get(db, number)
    about = {"name": body.name.strip(), "notes": body.notes, "tags": tuple(body.tags)}
    part = Part.model_validate(kept.part.model_dump() | about)
    parts.change(db, number, part, body.project.strip(), body.collection.strip())
    return _all()


@endpoint(views, "DELETE", "/parts/<int:number>", answer=PartList)
def remove_part(number: int) -> PartList:
    """Remove a part from the list."""
    parts.remove(studio().library.db, number)
    return _all()


@endpoint(views, "POST", "/parts/<int:number>/restore", answer=PartList)
def restore_part(number: int) -> PartList:
    """Put a removed part back."""
    parts.remove(studio().library.db, number, removed=False)
    return _all()


class CollectionQuery(Wire):
    name: str = Field(default="", max_length=120)
    project: str = Field(default="", max_length=120)


@endpoint(
    views, "GET", "/parts/file.paleparts", query=CollectionQuery,
    gives="application/vnd.pale-static.parts+zip",
)  # fmt: skip
def hand_over(query: CollectionQuery) -> Response:
    """A collection as one file, with the pictures and fonts it needs."""
    library = studio().library
    found = [
        kept.part
        for kept in parts.listed(library.db)
        if kept.collection == query.name and (not kept.project or kept.project == query.project)
    ]
    if not found:
        raise Missing(f"There is no collection called “{query.name}”.")
    collection = Collection(name=query.name or "Parts", parts=tuple(found))
    data = write_parts(collection, library.package_files(*found))
    answer = Response(data, mimetype="application/vnd.pale-static.parts+zip")
    # RFC 6266: an ASCII name for old clients, and the whole name.
    name = _file_name(query.name)
    plain = name.encode("ascii", "replace").decode().replace("?", "_")
    answer.headers.set(
        "Content-Disposition", "attachment", filename=plain,
        **{"filename*": f"UTF-8''{quote(name)}"},
    )  # fmt: skip
    return answer


def _file_name(collection: str) -> str:
    """The file name of a collection: its name without characters that file systems refuse."""
    words = re.sub(r'[\x00-\x1f<>:"/\\|?*]', " ", collection).split()
    name = " ".join(words).strip(".")
    return f"{name or 'parts'}.paleparts"


@endpoint(views, "POST", "/parts/read", upload=True, answer=Arrival)
def read_file() -> Arrival:
    """Read a file of parts without bringing it in."""
    collection, _ = _sent()
    return Arrival(
        collection=collection,
        parts=[
            Newcomer(
                name=part.name,
                steps=sum(1 for lane in part.lanes for _ in lane.every),
                here=_here(part, collection.name),
            )
            for part in collection.parts
        ],
    )


def _sent() -> tuple[Collection, Mapping[str, bytes]]:
    file = request.files.get("file")
    if file is None:
        raise Fault("Choose a .paleparts file to bring in.")
    return read_parts(file.stream.read(MOST_PACKED + 1), file.filename or "The file")


def _here(part: Part, collection: str) -> Literal["nothing", "the same", "another"]:
    old = parts.named(studio().library.db, part.name, collection, "")
    if old is None:
        return "nothing"
    return "the same" if old.part == part else "another"


@endpoint(views, "POST", "/parts/take-in", body=TakeIn, upload=True, answer=TakenIn)
def take_in(body: TakeIn) -> TakenIn:
    """Bring in a file of parts. For each clash of names the person's choice counts."""
    library = studio().library
    db = library.db
    collection, assets = _sent()
    here = {part.name: _here(part, collection.name) for part in collection.parts}
    for name, what in here.items():
        if what == "another" and name not in body.decisions:
            raise Clash(
                f"There is another part called “{name}” in “{collection.name}”. Say whether to "
                "skip it, replace yours, or keep both.",
                name,
            )
    said = []
    for part in collection.parts:
        decision = body.decisions.get(part.name, "skip")
        if here[part.name] == "the same" or (here[part.name] == "another" and decision == "skip"):
            why = "you have the same part" if here[part.name] == "the same" else "yours is kept"
            said.append(f"“{part.name}” was left out: {why}.")
            continue
        new = part
        if here[part.name] == "another" and decision == "both":
            new = part.model_copy(update={"name": _free(part.name, collection.name)})
        # Only files that this part shows, named after their names in its steps.
        needed = {*assets_of(new), *fonts_of(new)}
        library.bring_in_assets({n: d for n, d in assets.items() if PurePath(n).stem in needed})
        parts.add(db, new, collection=collection.name, replace=decision == "replace")
        said.append(f"“{new.name}” came in.")
    return TakenIn(**dict(_all()), said=said)


def _free(name: str, collection: str) -> str:
    db, number = studio().library.db, 2
    while parts.named(db, f"{name[:112]} ({number})", collection, "") is not None:
        number += 1
    return f"{name[:112]} ({number})"
