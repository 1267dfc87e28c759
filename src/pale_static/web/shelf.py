"""Endpoints of the Shelf: macros, their versions and frames, files in and out."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, request
from pydantic import Field

from ..core.baking import baked_table, wipe_picture
from ..core.built_in import DISSOLVE, RECIPES, VERSION, WIPE, built_in_effect
from ..core.document import Control, Effect, Slot
from ..core.documents.json_input import parse_json
from ..core.documents.macro import KeptSettings, faceplate_changes, settings_for
from ..core.faults import Fault, Missing, TooLarge
from ..core.footage import Filling
from ..core.frames.effect import EffectSource
from ..core.pictures.picture import Size
from ..jobs.publishing import Decision, packed, unpack
from ..media.colour.cube import cube_text
from ..media.packages import MOST_PACKED
from ..media.pictures.sequences import tagged_srgb
from ..media.pictures.stills import encode_png
from ..store import kept_settings, macros
from ..store.macros import Shelved
from .endpoint import Wire, endpoint
from .pictures import Sight, kept_response, picture_response, serve_frames, strip_response
from .previews import FrameQuery, StripQuery
from .request_order import OFFERED
from .studio import studio

views = Blueprint("shelf", __name__)


class MacroCard(Wire):
    """A macro on the shelf, by its newest version."""

    slug: str
    name: str
    kind: str
    sentence: str
    tags: list[str]
    version: int
    versions: list[int]
    published: str
    author: str
    uses: int
    seconds: float
    rate: str
    frames: int
    controls: list[Control]


class MacroCards(Wire):
    macros: list[MacroCard]
    plain: list[MacroCard]
    """Built-in transitions: every edit has them, and they are on no shelf."""
    recipes: list[MacroCard]
    """Small finished effects to start from."""


class VersionView(Wire):
    version: int
    published: str
    author: str
    changes: str
    licence: str
    faceplate_changes: list[str]


class MacroView(Wire):
    """All of a macro: its faceplate, versions and notes."""

    card: MacroCard
    slots: list[Slot]
    notes: list[str]
    versions: list[VersionView]


class SettingsView(Wire):
    """Kept settings of a macro, by name."""

    sets: list[KeptSettings]


class BroughtIn(Wire):
    said: str
    slug: str


class OnClips(Wire):
    """The clips on which a version is shown."""

    clips: str = Field(default="", max_length=4000)
    """A JSON object: materials by slot, instead of stand-ins."""

    def filled(self, shown: Size | None) -> dict[str, Filling]:
        """Materials by slot, for pictures of a size on the screen."""
        library = studio().library_for(shown)
        named = _object(self.clips, "clips").items()
        return {str(slot): library.footage(str(name)) for slot, name in named}


class MacroStripQuery(StripQuery, OnClips):
    """Frames of a version from its first to its last."""


class MacroFrameQuery(FrameQuery, OnClips):
    """A frame of a version with settings of its controls, as a JSON object by slug."""

    settings: str = Field(default="", max_length=20000)

    def parsed(self) -> dict[str, Any]:
        """Settings of controls, by slug."""
        return _object(self.settings, "settings")


def _object(text: str, what: str) -> dict[str, Any]:
    """A JSON object from a query; empty if there is none."""
    read = parse_json(text or "{}", f"What the {what} hold")
    if not isinstance(read, dict):
        raise Fault(f"The {what} are not a JSON object.")
    return read


def card(shelved: Shelved) -> MacroCard:
    """A macro as a card."""
    macro = shelved.newest
    return _card(
        macro.effect, slug=shelved.slug, version=macro.version, versions=list(shelved.versions),
        published=macro.published, author=macro.author, uses=shelved.uses,
    )  # fmt: skip


def _card(effect: Effect, **known: Any) -> MacroCard:
    return MacroCard(
        **known,
        name=effect.name,
        kind=effect.kind,
        sentence=effect.sentence,
        tags=list(effect.tags),
        seconds=effect.seconds,
        rate=effect.rate,
        frames=effect.frames,
        controls=list(effect.faceplate),
    )


def _built_in(*slugs: str) -> list[MacroCard]:
    about = {"version": VERSION, "versions": [VERSION], "published": "", "author": "", "uses": 0}
    return [_card(built_in_effect(slug), slug=slug, **about) for slug in slugs]


@endpoint(views, "GET", "/macros", answer=MacroCards)
def list_macros() -> MacroCards:
    """All macros on the shelf."""
    listed = [card(shelved) for shelved in macros.listed(studio().library.db)]
    return MacroCards(macros=listed, plain=_built_in(DISSOLVE, WIPE), recipes=_built_in(*RECIPES))


@endpoint(views, "GET", "/macros/<slug>", answer=MacroView)
def get_macro(slug: str) -> MacroView:
    """A macro with its versions."""
    db = studio().library.db
    shelved = macros.get(db, slug)
    versions: list[VersionView] = []
    older = None
    for number in reversed(shelved.versions):
        macro = macros.version(db, slug, number)
        changes: list[str] = []
        if older:
            changes = faceplate_changes(older.effect, macro.effect)
        versions.append(
            VersionView(
                version=number,
                published=macro.published,
                author=macro.author,
                changes=macro.changes,
                licence=macro.licence,
                faceplate_changes=changes,
            )
        )
        older = macro
    notes = [note.text for note in shelved.newest.effect.notes]
    return MacroView(
        card=card(shelved),
        slots=list(shelved.newest.effect.slots),
        notes=notes,
        versions=versions[::-1],
    )


def _sight(slug: str, version: int, query: MacroFrameQuery, exact: bool = False) -> Sight:
    effect = macros.version(studio().library.db, slug, version).effect
    shown = None if exact else query.size
    source = studio().source(effect, query.length, query.parsed(), query.filled(shown), shown)
    return Sight(source, query.size)


def _still(slug: str, version: int, form: str, query: MacroFrameQuery) -> Response:
    """A frame of a published version on its stand-ins or other clips, with controls set."""
    sight = _sight(slug, version, query, exact=form == "png")
    return picture_response(sight, query.frame, form, query.stream, keep=not query.stream)


serve_frames(views, "/macros/<slug>/<int:version>", "macro", MacroFrameQuery, _sight, _still)


@endpoint(
    views, "GET", "/macros/<slug>/<int:version>/strip.<form>",
    query=MacroStripQuery, gives="image/jpeg",
)  # fmt: skip
def macro_strip(slug: str, version: int, form: str, query: MacroStripQuery) -> Response:
    """Frames of a published version side by side, on its stand-ins or other clips."""
    effect = macros.version(studio().library.db, slug, version).effect
    slots = query.filled(query.size)
    source = studio().source(effect, query.length, slots=slots, shown=query.size)
    return strip_response(Sight(source, query.size), query.frames, form, rank=OFFERED)


@endpoint(views, "GET", "/macros/<slug>/<int:version>/preview.webp", gives="image/webp")
def macro_preview(slug: str, version: int) -> Response:
    """The moving preview of a version."""
    data = macros.preview(studio().library.db, slug, version)
    if data is None:
        raise Missing(f"Version {version} of “{slug}” has no preview.")
    return kept_response(data, "image/webp")


@endpoint(views, "GET", "/macros/<slug>/<int:version>/file.palemacro", gives="application/zip")
def macro_file(slug: str, version: int) -> Response:
    """A version as a ``.palemacro`` file."""
    answer = Response(packed(studio().library, slug, version), mimetype="application/zip")
    answer.headers["Content-Disposition"] = f'attachment; filename="{slug}-{version}.palemacro"'
    return answer


class BakedQuery(Wire):
    """Settings of the controls, as for a frame, and the size of a wipe picture."""

    settings: str = Field(default="", max_length=20000)
    width: int = Field(default=1920, ge=16, le=4096)
    height: int = Field(default=1080, ge=16, le=4096)

    def source(self, slug: str, version: int) -> EffectSource:
        """The frames of a published version with its controls set."""
        effect = macros.version(studio().library.db, slug, version).effect
        return studio().source(effect, effect.frames, _object(self.settings, "settings"))


@endpoint(
    views, "GET", "/macros/<slug>/<int:version>/wipe.png", query=BakedQuery, gives="image/png"
)
def macro_wipe(slug: str, version: int, query: BakedQuery) -> Response:
    """A transition as one grey picture for other edit systems: dark parts change first."""
    grey = wipe_picture(query.source(slug, version), Size(query.width, query.height))
    return _handed(tagged_srgb(encode_png(grey.repeat(3).reshape(*grey.shape, 3))),
                   "image/png", f"{slug}-{version}-wipe.png")  # fmt: skip


@endpoint(
    views, "GET", "/macros/<slug>/<int:version>/table.cube", query=BakedQuery,
    gives="application/octet-stream",
)  # fmt: skip
def macro_table(slug: str, version: int, query: BakedQuery) -> Response:
    """A look that only changes colours as a lookup table."""
    source = query.source(slug, version)
    text = cube_text(baked_table(source), f"{source.name}, version {version}")
    return _handed(text.encode(), "text/plain", f"{slug}-{version}.cube")


def _handed(data: bytes, kind: str, name: str) -> Response:
    answer = Response(data, mimetype=kind)
    answer.headers.set("Content-Disposition", "attachment", filename=name)
    return answer


@endpoint(views, "GET", "/macros/<slug>/settings", answer=SettingsView)
def list_settings(slug: str) -> SettingsView:
    """The kept settings of a macro."""
    return list_settings_of(slug)


@endpoint(views, "POST", "/macros/<slug>/settings", body=KeptSettings, answer=SettingsView)
def keep_settings(slug: str, body: KeptSettings) -> SettingsView:
    """Keep settings under a name."""
    db = studio().library.db
    taken = settings_for(macros.get(db, slug).newest.effect, body.settings)
    kept_settings.keep(db, slug, body.model_copy(update={"settings": taken}))
    return list_settings_of(slug)


@endpoint(views, "DELETE", "/macros/<slug>/settings/<name>", answer=SettingsView)
def forget_settings(slug: str, name: str) -> SettingsView:
    """Forget kept settings."""
    kept_settings.remove(studio().library.db, slug, name)
    return list_settings_of(slug)


def list_settings_of(slug: str) -> SettingsView:
    """The kept settings of a macro, for the page."""
    return SettingsView(sets=kept_settings.listed(studio().library.db, slug))


class BringIn(Wire):
    """The choice if another macro has the name of the one in the file."""

    decision: Decision = ""


@endpoint(views, "POST", "/macros", body=BringIn, answer=BroughtIn, upload=True)
def bring_macro(body: BringIn) -> BroughtIn:
    """Bring a .palemacro file in."""
    file = request.files.get("file")
    if file is None:
        raise Fault("There was no file in the request.")
    data = file.stream.read(MOST_PACKED + 1)
    if len(data) > MOST_PACKED:
        raise TooLarge(f"{file.filename} is larger than {MOST_PACKED >> 20} MB.")
    desk = studio()
    name = file.filename or "The file"
    shelved, said = unpack(desk.library, desk.engine, data, name, body.decision)
    return BroughtIn(said=said, slug=shelved.slug)
