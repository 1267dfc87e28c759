"""What the Bench calls: drafts, edits, frames of them, history, publishing."""

from __future__ import annotations

from typing import Any, Literal

from flask import Blueprint, Response
from pydantic import Field

from ..core.checking import findings, read_effect
from ..core.document import Effect
from ..core.edits import Edit, apply, drives, new_effect
from ..core.moves import moving
from ..core.picture import Size
from ..core.proof import coverage_curve
from ..core.steps import MIX, step_kinds
from ..core.timing import FrameRate, Moment
from ..jobs.publishing import copy_for_bench, publish_draft
from ..jobs.screening import effect_plan
from ..store import drafts, macros, materials
from ..store.drafts import Draft
from .endpoint import Wire, endpoint
from .studio import picture_response, studio
from .turns import OFFERED

views = Blueprint("bench", __name__)
RATE = FrameRate.of(25)


class ValueKind(Wire):
    """A value of a step, as its declaration has it."""

    name: str
    label: str
    type: str
    default: Any
    help: str
    moves: bool
    slider: tuple[float, float] | None = None
    allowed: tuple[float | None, float | None] | None = None
    unit: str = ""
    whole: bool = False
    lines: bool = False
    options: list[str] = Field(default_factory=list)


class TapKindView(Wire):
    name: str
    takes: str
    help: str
    optional: bool


class StepKindView(Wire):
    """A kind of step, as its declaration has it."""

    kind: str
    label: str
    family: str
    sentence: str
    words: list[str]
    main: str | None
    gives: str
    taps: list[TapKindView]
    values: list[ValueKind]
    source: str
    definition: str


class StepKinds(Wire):
    """The catalogue of steps, and the value that every step with an input has."""

    kinds: list[StepKindView]
    mix: ValueKind


class FindingView(Wire):
    sentence: str
    where: str
    open: bool


class Driven(Wire):
    lane: str
    step: str
    value: str


class DraftView(Wire):
    """A draft as it stands."""

    id: int
    revision: int
    effect: Effect
    frames: int
    words: str
    saved: str
    undo: bool
    redo: bool
    macro: str | None
    next_version: int
    findings: list[FindingView]
    drives: dict[str, list[Driven]]


class DraftCard(Wire):
    id: int
    revision: int
    name: str
    kind: str
    words: str
    saved: str
    frames: int
    macro: str | None


class DraftCards(Wire):
    drafts: list[DraftCard]


class NewDraft(Wire):
    """An empty effect of a kind, or a copy of a published version."""

    kind: Literal["transition", "look", "title", "texture"] = "transition"
    name: str = Field(default="Untitled", min_length=1, max_length=120)
    macro: str | None = None
    version: int = 1


class EditBody(Wire):
    """An edit on top of a revision."""

    base: int
    edit: Edit


class FrameQuery(Wire):
    """Which frame, how large, and which step's result."""

    frame: int = Field(default=0, ge=-100000, le=10**6)
    length: int = Field(default=50, ge=1, le=10**6)
    width: int = Field(default=960, ge=1, le=16384)
    height: int = Field(default=540, ge=1, le=16384)
    stage: str = Field(default="", max_length=100)
    stream: str = Field(default="", max_length=100)

    @property
    def moment(self) -> Moment:
        return Moment(self.frame, self.length, RATE)

    @property
    def size(self) -> Size:
        return Size(self.width, self.height)

    def place(self) -> tuple[str, str] | None:
        if not self.stage:
            return None
        lane, _, step = self.stage.partition(".")
        return lane, step


class Live(FrameQuery):
    """A frame of the draft with an edit that is only tried; ``added`` as stage is a new step."""

    base: int
    edit: Edit


class CoverageQuery(Wire):
    length: int = Field(default=50, ge=1, le=10**6)
    points: int = Field(default=11, ge=2, le=101)


class Coverage(Wire):
    shares: list[float]


class KeyPlace(Wire):
    """A key where it falls in an effect of this length."""

    share: float
    value: Any
    words: str


class Curve(Wire):
    """A value that moves: what it is at evenly spaced moments, and its keys."""

    lane: str
    step: str
    value: str
    label: str
    samples: list[float]
    keys: list[KeyPlace]
    squeezed: bool


class Curves(Wire):
    curves: list[Curve]


class StepCost(Wire):
    lane: str
    step: str
    ms: float
    bytes: int


class Costs(Wire):
    steps: list[StepCost]
    cache_bytes: int
    cache_limit: int


class RevisionView(Wire):
    id: int
    words: str
    stage: str | None
    made: str
    head: bool


class History(Wire):
    revisions: list[RevisionView]


class GoTo(Wire):
    revision: int


class Stage(Wire):
    name: str = Field(min_length=1, max_length=120)


class PublishBody(Wire):
    base: int
    author: str = Field(default="", max_length=120)
    changes: str = Field(default="", max_length=2000)
    licence: str = Field(default="", max_length=120)


class Published(Wire):
    slug: str
    version: int


def effect_of(draft: Draft) -> Effect:
    """The effect of a draft's head."""
    return read_effect(draft.head.document)


def _view(draft: Draft) -> DraftView:
    effect = effect_of(draft)
    db = studio().library.db
    return DraftView(
        id=draft.id,
        revision=draft.head.id,
        effect=effect,
        frames=RATE.frames(effect.seconds),
        words=draft.head.words,
        saved=draft.head.made,
        undo=draft.undo,
        redo=draft.redo,
        macro=draft.macro,
        next_version=macros.get(db, draft.macro).versions[0] + 1 if draft.macro else 1,
        findings=[
            FindingView(sentence=f.sentence, where=f.where, open=f.open) for f in findings(effect)
        ],
        drives={
            control.slug: [
                Driven(lane=lane, step=step, value=value)
                for lane, step, value in drives(effect, control.slug)
            ]
            for control in effect.controls
        },
    )


@endpoint(views, "GET", "/steps", answer=StepKinds)
def steps() -> StepKinds:
    """All step kinds."""
    return StepKinds.model_validate(
        {"kinds": [kind.describe() for kind in step_kinds()], "mix": MIX.describe()}
    )


@endpoint(views, "GET", "/effects", answer=DraftCards)
def list_effects() -> DraftCards:
    """All drafts, last worked on first."""
    return _cards()


def _cards() -> DraftCards:
    cards = []
    for draft in drafts.listed(studio().library.db, "effect"):
        document = draft.head.document
        cards.append(
            DraftCard(
                id=draft.id,
                revision=draft.head.id,
                name=document["name"],
                kind=document["kind"],
                words=draft.head.words,
                saved=draft.head.made,
                frames=RATE.frames(document.get("seconds", 2.0)),
                macro=draft.macro,
            )
        )
    return DraftCards(drafts=cards)


@endpoint(views, "POST", "/effects", body=NewDraft, answer=DraftView)
def start_effect(body: NewDraft) -> DraftView:
    """A new draft."""
    library = studio().library
    if body.macro:
        return _view(copy_for_bench(library, body.macro, body.version))
    effect = new_effect(body.kind, body.name)
    clips = [m.id for m in materials.listed(library.db) if m.facts.kind == "video"]
    slots = tuple(
        slot.model_copy(update={"stand_in": clips[k % len(clips)]}) if clips else slot
        for k, slot in enumerate(effect.slots)
    )
    effect = effect.model_copy(update={"slots": slots})
    words = f"New {body.kind}"
    return _view(drafts.start(library.db, "effect", effect.to_json(), words))


@endpoint(views, "GET", "/effects/<int:number>", answer=DraftView)
def get_effect(number: int) -> DraftView:
    """A draft as it stands."""
    return _view(drafts.get(studio().library.db, "effect", number))


@endpoint(views, "DELETE", "/effects/<int:number>", answer=DraftCards)
def remove_effect(number: int) -> DraftCards:
    """Take a draft off the list."""
    drafts.remove(studio().library.db, "effect", number)
    return _cards()


@endpoint(views, "POST", "/effects/<int:number>/restore", answer=DraftCards)
def restore_effect(number: int) -> DraftCards:
    """Put a removed draft back."""
    drafts.remove(studio().library.db, "effect", number, removed=False)
    return _cards()


@endpoint(views, "POST", "/effects/<int:number>/edits", body=EditBody, answer=DraftView)
def change_effect(number: int, body: EditBody) -> DraftView:
    """Make an edit."""
    db = studio().library.db
    draft = drafts.get(db, "effect", number)
    effect, words = apply(effect_of(draft), body.edit)
    return _view(drafts.record(db, draft, body.base, words, effect.to_json()))


@endpoint(views, "POST", "/effects/<int:number>/undo", answer=DraftView)
def undo_effect(number: int) -> DraftView:
    """One edit back."""
    return _view(drafts.undo(studio().library.db, "effect", number))


@endpoint(views, "POST", "/effects/<int:number>/redo", answer=DraftView)
def redo_effect(number: int) -> DraftView:
    """One edit on."""
    return _view(drafts.redo(studio().library.db, "effect", number))


@endpoint(views, "POST", "/effects/<int:number>/go", body=GoTo, answer=DraftView)
def go_effect(number: int, body: GoTo) -> DraftView:
    """Back to an earlier revision, as a new edit."""
    db = studio().library.db
    draft = drafts.get(db, "effect", number)
    found = drafts.revision(db, number, body.revision)
    words = f"Back to “{found.stage or found.words}”"
    return _view(drafts.record(db, draft, draft.head.id, words, found.document))


@endpoint(views, "GET", "/effects/<int:number>/history", answer=History)
def effect_history(number: int) -> History:
    """Every accepted edit in words, newest first."""
    return _history(number)


def _history(number: int) -> History:
    db = studio().library.db
    head = drafts.get(db, "effect", number).head.id
    return History(
        revisions=[
            RevisionView(id=r.id, words=r.words, stage=r.stage, made=r.made, head=r.id == head)
            for r in drafts.history(db, number)
        ]
    )


@endpoint(views, "POST", "/effects/<int:number>/stages", body=Stage, answer=History)
def keep_stage(number: int, body: Stage) -> History:
    """Name the effect as it stands, so that it is found again."""
    db = studio().library.db
    drafts.keep_stage(db, number, drafts.get(db, "effect", number).head.id, body.name)
    return _history(number)


@endpoint(
    views, "GET", "/effects/<int:number>/<int:revision>/frame.<form>",
    query=FrameQuery, gives="image/jpeg",
)  # fmt: skip
def effect_frame(number: int, revision: int, form: str, query: FrameQuery) -> Response:
    """A frame of a revision, or of one of its steps; .jpg for looking, .png exact."""
    library = studio().library
    effect = studio().effect_at(number, revision)
    plan = effect_plan(library, effect, query.moment, query.size, query.place())
    return picture_response(plan, form, query.stream)


@endpoint(views, "POST", "/effects/<int:number>/live", body=Live, gives="image/jpeg")
def effect_live(number: int, body: Live) -> Response:
    """A frame with an edit that is tried and not kept; only the newest of a stream is computed."""
    library = studio().library
    before = studio().effect_at(number, body.base)
    effect, _ = apply(before, body.edit)
    place = body.place()
    if body.stage == "added":
        known = {(lane.id, step.id) for lane in before.lanes for step in lane.steps}
        place = next(
            (lane.id, step.id)
            for lane in effect.lanes
            for step in lane.steps
            if (lane.id, step.id) not in known
        )
    plan = effect_plan(library, effect, body.moment, body.size, place)
    rank = OFFERED if body.stage == "added" else None
    return picture_response(plan, "jpg", body.stream, keep=False, rank=rank)


@endpoint(
    views, "GET", "/effects/<int:number>/<int:revision>/coverage",
    query=CoverageQuery, answer=Coverage,
)  # fmt: skip
def effect_coverage(number: int, revision: int, query: CoverageQuery) -> Coverage:
    """How much of the new picture shows, over the effect's life."""
    desk = studio()
    effect = desk.effect_at(number, revision)
    shares = coverage_curve(
        desk.engine, effect, query.length, RATE,
        points=query.points, materials=desk.library.materials_for(effect),
    )  # fmt: skip
    return Coverage(shares=[round(share, 5) for share in shares])


@endpoint(
    views, "GET", "/effects/<int:number>/<int:revision>/curves",
    query=CoverageQuery, answer=Curves,
)  # fmt: skip
def effect_curves(number: int, revision: int, query: CoverageQuery) -> Curves:
    """Every number that moves, over the effect's life."""
    effect = studio().effect_at(number, revision)
    found = []
    for line in moving(effect, query.length, RATE, query.points):
        keys = [KeyPlace(share=s, value=key.value, words=key.words()) for s, key in line.keys]
        found.append(
            Curve(
                lane=line.lane, step=line.step, value=line.value, label=line.label,
                samples=line.samples, keys=keys, squeezed=line.squeezed,
            )
        )  # fmt: skip
    return Curves(curves=found)


@endpoint(
    views, "GET", "/effects/<int:number>/<int:revision>/costs", query=FrameQuery, answer=Costs
)
def effect_costs(number: int, revision: int, query: FrameQuery) -> Costs:
    """What each step took when it was last computed at this frame and size."""
    desk = studio()
    effect = desk.effect_at(number, revision)
    plan = effect_plan(desk.library, effect, query.moment, query.size, query.place())
    filling = desk.engine.cache.filling()
    found = desk.engine.measured(plan)
    return Costs(
        steps=[
            StepCost(lane=p[0], step=p[1], ms=round(cost.ms, 2), bytes=cost.bytes)
            for p, cost in found.items()
        ],
        cache_bytes=filling.bytes,
        cache_limit=filling.limit,
    )


@endpoint(views, "POST", "/effects/<int:number>/publish", body=PublishBody, answer=Published)
def publish_effect(number: int, body: PublishBody) -> Published:
    """Publish the draft as the next version of its macro."""
    desk = studio()
    draft = drafts.get(desk.library.db, "effect", number)
    effect = desk.effect_at(number, body.base)
    shelved = publish_draft(
        desk.library, desk.engine, draft, effect,
        author=body.author, changes=body.changes, licence=body.licence,
    )  # fmt: skip
    return Published(slug=shelved.slug, version=shelved.versions[0])
