"""Endpoints of the Reel: changes of an edit, its frames, macros on trial."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from flask import Blueprint, Response
from pydantic import Field, TypeAdapter

from ..core.document import Effect
from ..core.documents.macro import settings_for
from ..core.faults import Fault
from ..core.frames.source import FrameSource
from ..core.pictures.picture import Size
from ..core.reel import Reel, read_reel, uses_of
from ..core.reel.change_models import AddItem, AddLook, AddShot, PlaceJoin, ReelChange, SetUse
from ..core.reel.changes import apply_reel
from ..core.sound import mix, samples_of
from ..jobs.expected import expected
from ..jobs.preflight import preflight
from ..media.formats import format_of
from ..media.sound import wav
from ..store import drafts, macros
from .drafts import serve_drafts
from .endpoint import Wire, endpoint, tried_change
from .pictures import Sight, kept_response, picture_response, serve_frames
from .reel_views import ReelView, free_slots, reel_view
from .request_order import WAITED_FOR, gone
from .studio import studio

views = Blueprint("reel", __name__)


class ReelCard(Wire):
    id: int
    revision: int
    name: str
    shots: int
    frames: int
    rate: str
    saved: str


class ReelCards(Wire):
    reels: list[ReelCard]


class NewReel(Wire):
    name: str = Field(default="New edit", min_length=1, max_length=120)
    rate: str = "25"
    width: int = 1280
    height: int = 720


class ReelChangeBody(Wire):
    base: int
    change: ReelChange


class ReelFrameQuery(Wire):
    frame: int = Field(default=0, ge=0)
    width: int = Field(default=960, ge=1, le=8192)
    height: int = Field(default=540, ge=1, le=8192)
    stream: str = Field(default="", max_length=100)
    without: str = Field(default="", max_length=2000)
    """Uses of macros to leave out, separated by commas, to show the picture before them."""
    rough: bool = False
    """Whether feedback steps see only the last few frames, for a picture at once."""


class ReelLive(ReelFrameQuery):
    base: int
    change: ReelChange


class TryOnQuery(Wire):
    """A frame of the edit with a change on trial, in JSON: a macro at the place where it would
    go."""

    change: str = Field(max_length=20_000)
    frame: int = Field(default=0, ge=0)
    width: int = Field(default=160, ge=1, le=1920)
    height: int = Field(default=90, ge=1, le=1080)


class SoundQuery(Wire):
    """A stretch of frames, a minute at most."""

    frame: int = Field(default=0, ge=0, le=10**7)
    frames: int = Field(default=100, ge=1, le=3600)


class PreflightQuery(Wire):
    form: str = Field(default="mp4", max_length=40)


class ExpectedQuery(Wire):
    """A format, and the frames that a render writes; all of them by default."""

    form: str = Field(default="mp4", max_length=40)
    first: int = Field(default=0, ge=0)
    frames: int | None = Field(default=None, ge=1)


class ExpectedView(Wire):
    """What a render takes in one quality: bytes of its file, and seconds on this machine."""

    quality: str
    bytes: int
    seconds: float


class ExpectedList(Wire):
    qualities: list[ExpectedView]


class MismatchView(Wire):
    """A mismatch before a render, and the change that corrects it, with the change's name."""

    sentence: str
    words: str
    remedies: list[ReelChange]


class Preflight(Wire):
    findings: list[MismatchView]


_CHANGE: TypeAdapter[ReelChange] = TypeAdapter(ReelChange)


@endpoint(views, "GET", "/reels", answer=ReelCards)
def list_reels() -> ReelCards:
    """All reels, last worked on first."""
    cards = []
    for draft in drafts.listed(studio().library.db, "reel"):
        reel = studio().reel_of(draft)
        cards.append(
            ReelCard(
                id=draft.id, revision=draft.head.id, name=reel.name, shots=len(reel.shots),
                frames=reel.length, rate=reel.rate, saved=draft.head.made,
            )
        )  # fmt: skip
    return ReelCards(reels=cards)


@endpoint(views, "POST", "/reels", body=NewReel, answer=ReelView)
def start_reel(body: NewReel) -> ReelView:
    """Create an empty reel."""
    reel = read_reel(body.model_dump())
    return reel_view(drafts.start(studio().library.db, "reel", reel.to_json(), "New edit"))


@endpoint(views, "POST", "/reels/<int:number>/changes", body=ReelChangeBody, answer=ReelView)
def change_reel(number: int, body: ReelChangeBody) -> ReelView:
    """Make a change."""
    db = studio().library.db
    draft = drafts.get(db, "reel", number)
    known = drafts.based_on(db, draft, body.base)
    reel = studio().reel_at(number, known)
    change = _checked(reel, body.change)
    changed, words = apply_reel(reel, change)
    recorded = drafts.record(db, draft, body.base, words, changed.to_json())
    studio().keep_reel(number, recorded.head.id, changed)
    if isinstance(change, PlaceJoin | AddLook | AddItem) and change.macro:
        macros.used(db, change.macro)
    return reel_view(recorded)


def _checked(reel: Reel, change: ReelChange) -> ReelChange:
    """Check that macros, settings and materials of a change exist and fit their places."""
    shelf = studio().shelf
    placed = _PLACES.get(type(change))
    if placed and isinstance(change, PlaceJoin | AddLook | AddItem) and change.macro:
        kinds, words = placed
        effect = shelf.effect(change.macro, change.version)
        if effect.kind not in kinds:
            raise Fault(f"{effect.name} is a {effect.kind}. {words}")
        _check_settings(effect, change.settings)
    if isinstance(change, AddShot | AddItem) and change.material:
        studio().library.footage(change.material)
    return _checked_use(reel, change) if isinstance(change, SetUse) else change


def _checked_use(reel: Reel, change: SetUse) -> SetUse:
    shelf = studio().shelf
    used = dict(uses_of(reel))
    each = dict(change.each or {})
    for name in change.uses:
        if name not in used:
            continue  # The change itself reports that it is gone.
        use = used[name]
        effect = shelf.effect(use.macro, change.version or use.version)
        settings = (change.settings or {}) | each.get(name, {})
        _check_settings(effect, settings)
        free = {slot.id for slot in free_slots(effect)}
        for slot, material in (change.slots or {}).items():
            if slot not in free:
                raise Fault(f"{effect.name} has no slot “{slot}” to fill.", slot)
            if material is not None:
                studio().library.footage(material)
        if change.version:
            # Settings that the new version does not have return to their defaults, in each use by
            # itself.
            kept = dict.fromkeys(use.settings) | settings_for(effect, use.settings)
            each[name] = kept | settings
    return change.model_copy(update={"each": each}) if each else change


_PLACES: dict[type[Any], tuple[set[str], str]] = {
    PlaceJoin: ({"transition"}, "Only a transition goes on a cut."),
    AddLook: ({"look"}, "Only a look goes on a shot."),
    AddItem: ({"title", "texture", "look"}, "It goes on a cut. A row takes titles, textures and "
                                            "looks."),
}  # fmt: skip
"""The kind of macro that each change places."""


def _check_settings(effect: Effect, settings: Mapping[str, Any]) -> None:
    for slug, value in settings.items():
        control = effect.control(slug)
        if control is None:
            raise Fault(f"{effect.name} has no control “{slug}”.", slug)
        if value is not None:
            control.param().check(value, f"“{control.label}”")


def _sight_of(
    reel: Reel, query: ReelFrameQuery | TryOnQuery, without: str = "", exact: bool = False
) -> Sight:  # fmt: skip
    """The pictures of an edit, without some uses of macros."""
    left_out, size = [name for name in without.split(",") if name], Size(query.width, query.height)
    source: FrameSource = studio().edit(reel, None if exact else size)
    if isinstance(query, ReelFrameQuery) and query.rough:
        source = source.roughly()
    return Sight(source, size, without=left_out)


def _sight(number: int, revision: int, query: ReelFrameQuery, exact: bool = False) -> Sight:
    return _sight_of(studio().reel_at(number, revision), query, query.without, exact)


def _still(number: int, revision: int, form: str, query: ReelFrameQuery) -> Response:
    """A frame of a revision of the edit."""
    sight = _sight(number, revision, query, exact=form == "png")
    return picture_response(sight, query.frame, form, query.stream)


serve_frames(views, "/reels/<int:number>/<int:revision>", "reel", ReelFrameQuery, _sight, _still)


@endpoint(views, "POST", "/reels/<int:number>/live", body=ReelLive, gives="image/jpeg")
def reel_live(number: int, body: ReelLive) -> Response:
    """A frame with a change on trial."""
    reel = studio().reel_at(number, body.base)
    changed, _ = apply_reel(reel, _checked(reel, body.change))
    frame = min(body.frame, max(0, changed.length - 1))
    return picture_response(_sight_of(changed, body), frame, "jpg", body.stream, keep=False)


@endpoint(
    views, "GET", "/reels/<int:number>/<int:revision>/try-on.jpg",
    query=TryOnQuery, gives="image/jpeg",
)  # fmt: skip
def reel_try_on(number: int, revision: int, query: TryOnQuery) -> Response:
    """A frame of the edit with a macro on trial, without placing it."""
    reel = studio().reel_at(number, revision)
    changed = studio().tried_on(number, revision, query.change)
    if changed is None:
        changed, _ = apply_reel(reel, _checked(reel, tried_change(_CHANGE, query.change)))
        studio().keep_reel(number, revision, changed, query.change)
    frame = min(query.frame, max(0, changed.length - 1))
    return picture_response(_sight_of(changed, query), frame, "jpg")


@endpoint(
    views, "GET", "/reels/<int:number>/<int:revision>/sound.wav",
    query=SoundQuery, gives="audio/wav",
)  # fmt: skip
def reel_sound(number: int, revision: int, query: SoundQuery) -> Response:
    """The sound of a stretch of the edit, as in the film."""
    reel = studio().reel_at(number, revision)
    rate = reel.frame_rate.exact
    first, end = (samples_of(at, rate) for at in (query.frame, query.frame + query.frames))
    return kept_response(wav(mix(reel, studio().shelf.sound, first, end - first)), "audio/wav")


@endpoint(views, "GET", "/reels/<int:number>/preflight", query=PreflightQuery, answer=Preflight)
def reel_preflight(number: int, query: PreflightQuery) -> Preflight:
    """The mismatches of an edit before a render."""
    desk = studio()
    reel = desk.reel_of(drafts.get(desk.library.db, "reel", number))
    return Preflight(
        findings=[
            MismatchView(sentence=one.sentence, words=one.words, remedies=list(one.remedies))
            for one in preflight(desk.shelf, reel, format_of(query.form))
        ]
    )


@endpoint(
    views, "GET", "/reels/<int:number>/<int:revision>/expected",
    query=ExpectedQuery, answer=ExpectedList,
)  # fmt: skip
def reel_expected(number: int, revision: int, query: ExpectedQuery) -> ExpectedList:
    """What a render of the edit takes, for each quality of a format: a few frames are written."""
    source, form = studio().edit(studio().reel_at(number, revision)), format_of(query.form)
    wrong = form.wrong_size(source.size)
    if wrong:
        raise Fault(f"{wrong[0]} Make the edit {wrong[1].shown}, or choose another format.")
    first = min(query.first, max(0, source.length - 1))
    total = min(query.frames or source.length, source.length - first)
    if total <= 0:
        raise Fault("The edit is empty. Put a shot on it first.")
    with studio().turns.turn(WAITED_FOR, gone()):
        found = list(expected(source, form, first, total))
    return ExpectedList(
        qualities=[
            ExpectedView(quality=one.quality, bytes=one.bytes, seconds=round(one.seconds, 1))
            for one in found
        ]
    )


serve_drafts(views, "reel", "/reels", ReelView, reel_view)
