"""What the Reel calls: changes of an edit, its frames, macros tried on."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from fractions import Fraction
from typing import Any

from flask import Blueprint, Response
from pydantic import Field

from ..core.document import Control
from ..core.faults import Fault
from ..core.macro import faceplate_changes, kept_settings
from ..core.picture import Fit, Size
from ..core.reel import Alignment, Reel, handles, read_reel
from ..core.reel_changes import PlaceJoin, ReelChange, SetJoin, apply_reel
from ..core.timing import nearest_frame, whole_frames
from ..jobs.frames import join_plan, lasts, reel_plan, try_on
from ..jobs.preflight import preflight
from ..store import drafts, macros
from ..store.database import Database
from ..store.drafts import Draft
from .endpoint import Wire, endpoint
from .studio import picture_response, studio

views = Blueprint("reel", __name__)


class HandlesView(Wire):
    left_needs: int
    left_spare: int | None
    right_needs: int
    right_spare: int
    short: bool


class JoinView(Wire):
    """A join where it lies, with its faceplate. Times are frames of the edit."""

    id: str
    left: str
    macro: str
    alignment: Alignment
    hold: bool
    settings: dict[str, Any]
    first: int
    end: int
    cut: int
    name: str
    sentence: str
    version: int
    newest: int
    update: list[str]
    controls: list[Control]
    handles: HandlesView
    problem: str | None


class ShotView(Wire):
    """A shot. Times are frames of the edit: where it begins, how long it is, where it starts in
    its material, and how long that lasts."""

    id: str
    name: str
    material: str
    fit: Fit
    begins: int
    length: int
    start: int
    lasts: int | None


class ReelView(Wire):
    """An edit as it stands, with everything laid out in its frames."""

    id: int
    revision: int
    name: str
    rate: str
    width: int
    height: int
    length: int
    shots: list[ShotView]
    joins: list[JoinView]
    words: str
    saved: str
    undo: bool
    redo: bool


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


class ReelLive(ReelFrameQuery):
    base: int
    change: ReelChange


class TryOnQuery(Wire):
    """Frame ``frame`` of a macro as it would be on the cut after shot ``left``."""

    left: str
    macro: str
    version: int
    length: int = Field(default=25, ge=1, le=100000)
    frame: int = Field(default=0, ge=0)
    width: int = Field(default=160, ge=1, le=1920)
    height: int = Field(default=90, ge=1, le=1080)


class PreflightQuery(Wire):
    form: str = "mp4"


class Preflight(Wire):
    sentences: list[str]


@dataclass
class _Placed:
    """What the joins of one macro version share."""

    name: str
    newest: int
    sentence: str = ""
    controls: list[Control] = field(default_factory=list)
    update: list[str] = field(default_factory=list)
    problem: str | None = None


def _placed(db: Database, slug: str, version: int) -> _Placed:
    try:
        shelved = macros.get(db, slug)
        effect = macros.version(db, slug, version).effect
    except Fault as missing:
        return _Placed(slug, version, problem=missing.sentence)
    newest = shelved.versions[0]
    update = faceplate_changes(effect, shelved.newest.effect) if newest > version else []
    return _Placed(effect.name, newest, effect.sentence, list(effect.controls), update)


def _view(draft: Draft) -> ReelView:
    library = studio().library
    reel = studio().reel_of(draft)
    known = lasts(library, reel)
    joins = []
    placed: dict[tuple[str, int], _Placed] = {}
    for join in reel.joins:
        span, hold = reel.spans[join.id], handles(reel, join, known)
        pinned = (join.macro, join.version)
        macro = placed.get(pinned) or placed.setdefault(pinned, _placed(library.db, *pinned))
        joins.append(
            JoinView(
                id=join.id, left=join.left, macro=join.macro, alignment=join.alignment,
                hold=join.hold, settings=join.settings, first=span.first, end=span.end, cut=span.cut,
                name=macro.name, sentence=macro.sentence, version=join.version,
                newest=macro.newest, update=macro.update, controls=macro.controls,
                problem=macro.problem,
                handles=HandlesView(
                    left_needs=hold.left_needs, left_spare=hold.left_spare,
                    right_needs=hold.right_needs, right_spare=hold.right_spare, short=hold.short,
                ),
            )
        )  # fmt: skip
    return ReelView(
        id=draft.id,
        revision=draft.head.id,
        name=reel.name,
        rate=reel.rate,
        width=reel.width,
        height=reel.height,
        length=reel.length,
        shots=_shot_views(reel, known),
        joins=joins,
        words=draft.head.words,
        saved=draft.head.made,
        undo=draft.undo,
        redo=draft.redo,
    )


def _shot_views(reel: Reel, known: Mapping[str, Fraction | None]) -> list[ShotView]:
    rate = reel.frame_rate.exact
    lasts = {
        name: None if seconds is None else max(1, whole_frames(seconds, rate))
        for name, seconds in known.items()
    }
    return [
        ShotView(
            id=shot.id, name=shot.name, material=shot.material, fit=shot.fit,
            begins=reel.begins(index), length=reel.frames(index),
            start=nearest_frame(shot.start.numerator, shot.start.denominator, rate), lasts=lasts[shot.material],
        )
        for index, shot in enumerate(reel.shots)
    ]  # fmt: skip


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
    """A new, empty reel."""
    reel = read_reel(body.model_dump())
    return _view(drafts.start(studio().library.db, "reel", reel.to_json(), "New edit"))


@endpoint(views, "GET", "/reels/<int:number>", answer=ReelView)
def get_reel(number: int) -> ReelView:
    """A reel as it stands."""
    return _view(drafts.get(studio().library.db, "reel", number))


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
    if isinstance(change, PlaceJoin):
        macros.used(db, change.macro)
    return _view(recorded)


def _checked(reel: Reel, change: ReelChange) -> ReelChange:
    """Settings against the macro's controls; an update keeps what the new version still takes."""
    db = studio().library.db
    if isinstance(change, PlaceJoin):
        macro = macros.version(db, change.macro, change.version)
        if macro.effect.kind != "transition":
            raise Fault(
                f"{macro.effect.name} is a {macro.effect.kind}. Only a transition goes on a cut."
            )
    if isinstance(change, SetJoin):
        join = next((join for join in reel.joins if join.id == change.join), None)
        if join is None:
            return change
        effect = macros.version(db, join.macro, change.version or join.version).effect
        if change.settings is not None:
            for slug, value in change.settings.items():
                control = effect.control(slug)
                if control is None:
                    raise Fault(f"{effect.name} has no control “{slug}”.", slug)
                if value is not None:
                    control.param().check(value, f"“{control.label}”")
        elif change.version:
            # What the new version no longer takes goes back to its default.
            kept = dict.fromkeys(join.settings) | kept_settings(effect, join.settings)
            return change.model_copy(update={"settings": kept})
    return change


@endpoint(views, "POST", "/reels/<int:number>/undo", answer=ReelView)
def undo_reel(number: int) -> ReelView:
    """One change back."""
    return _view(drafts.undo(studio().library.db, "reel", number))


@endpoint(views, "POST", "/reels/<int:number>/redo", answer=ReelView)
def redo_reel(number: int) -> ReelView:
    """One change forward."""
    return _view(drafts.redo(studio().library.db, "reel", number))


@endpoint(
    views, "GET", "/reels/<int:number>/<int:revision>/frame.<form>",
    query=ReelFrameQuery, gives="image/jpeg",
)  # fmt: skip
def reel_frame(number: int, revision: int, form: str, query: ReelFrameQuery) -> Response:
    """A frame of a revision of the edit."""
    library = studio().library
    reel = studio().reel_at(number, revision)
    plan = reel_plan(
        library, reel, query.frame, Size(query.width, query.height), states=studio().engine.states
    )
    return picture_response(plan, form, query.stream)


@endpoint(views, "POST", "/reels/<int:number>/live", body=ReelLive, gives="image/jpeg")
def reel_live(number: int, body: ReelLive) -> Response:
    """A frame with a change that is tried and not kept."""
    library = studio().library
    reel = studio().reel_at(number, body.base)
    changed, _ = apply_reel(reel, _checked(reel, body.change))
    frame = min(body.frame, changed.length - 1)
    plan = reel_plan(
        library, changed, frame, Size(body.width, body.height), states=studio().engine.states
    )
    return picture_response(plan, "jpg", body.stream, keep=False)


@endpoint(
    views, "GET", "/reels/<int:number>/<int:revision>/try-on.jpg",
    query=TryOnQuery, gives="image/jpeg",
)  # fmt: skip
def reel_try_on(number: int, revision: int, query: TryOnQuery) -> Response:
    """A frame of a macro on this cut with this footage, without placing it."""
    library = studio().library
    reel = studio().reel_at(number, revision)
    show = try_on(reel, query.left, query.macro, query.version, query.length)
    show = replace(show, frame=min(query.frame, reel.frame_rate.frames(show.join.length) - 1))
    plan = join_plan(library, reel, show, Size(query.width, query.height))
    return picture_response(plan, "jpg")


@endpoint(views, "GET", "/reels/<int:number>/preflight", query=PreflightQuery, answer=Preflight)
def reel_preflight(number: int, query: PreflightQuery) -> Preflight:
    """What does not match, before a render starts."""
    library = studio().library
    reel = studio().reel_of(drafts.get(library.db, "reel", number))
    return Preflight(sentences=preflight(library, reel, query.form))
