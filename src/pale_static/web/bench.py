"""Endpoints of the Bench: drafts, their changes, history, publishing."""

from __future__ import annotations

from itertools import cycle
from typing import Literal

from flask import Blueprint
from pydantic import Field

from ..core.built_in import PREFIX, built_in_effect
from ..core.changes import Change, SetValue, apply, drives, new_effect, value_words
from ..core.changes.models import AddLane, InsertPart
from ..core.document import Effect
from ..core.documents.checking import assets_of, findings, read_effect
from ..core.documents.graph import Graph
from ..core.documents.part import Part
from ..core.faults import Fault
from ..core.frames.names import feeds_back
from ..core.pictures.picture import Size
from ..core.proof.ghosts import ghosts
from ..core.steps import MIX, step_kinds
from ..core.time.timing import FrameRate
from ..jobs.publishing import copy_for_bench, publish_draft
from ..store import drafts, macros, materials, parts
from ..store.drafts import Draft
from .drafts import serve_drafts
from .endpoint import Wire, endpoint
from .macro_steps import filled, held_views, shelf_kinds
from .step_views import HeldKindView, MacroKinds, StepKinds
from .studio import studio

views = Blueprint("bench", __name__)


class FindingView(Wire):
    sentence: str
    where: str
    open: bool


class HintView(Wire):
    """A possible problem, and the change that corrects it."""

    sentence: str
    where: str
    fix: SetValue
    fix_words: str


class Driven(Wire):
    lane: str
    step: str
    value: str
    words: str


class DraftView(Wire):
    """A draft at its current revision."""

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
    hints: list[HintView]
    reads: dict[str, list[str]]
    held: list[HeldKindView]
    project: str
    feeds_back: bool
    """Whether each frame continues from the frame before it, so that a jump takes long."""
    since: dict[str, int]
    """For each step, the oldest revision in which it gives the same pictures as in this one."""


class DraftCard(Wire):
    id: int
    revision: int
    name: str
    project: str
    kind: str
    words: str
    saved: str
    frames: int
    macro: str | None


class DraftCards(Wire):
    drafts: list[DraftCard]


class NewDraft(Wire):
    """An empty effect of a kind, a copy of a published version, or a recipe on clips."""

    kind: Literal["transition", "look", "title", "texture"] = "transition"
    name: str = Field(default="Untitled", min_length=1, max_length=120)
    macro: str | None = None
    version: int = 1
    part: int | None = None
    project: str = Field(default="", max_length=120)
    clips: dict[str, str] = Field(default_factory=dict, max_length=32)
    """Materials by slot, for a recipe; other slots get the library's clips in turn."""


class Copy(Wire):
    """Changes to a revision that clash with another window's, to keep as a separate draft."""

    base: int
    change: Change | None = None


class Project(Wire):
    project: str = Field(max_length=120)


class ChangeBody(Wire):
    """A change on top of a revision."""

    base: int
    change: Change


class Refusal(Wire):
    """The reason why a change cannot be made; null if it can."""

    reason: str | None


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
        frames=effect.frames,
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
                Driven(
                    lane=lane, step=step, value=value, words=value_words(effect, lane, step, value)
                )
                for lane, step, value in drives(effect, control.slug)
            ]
            for control in effect.controls
        },
        hints=_hints(effect),
        reads={
            ".".join(place): [".".join(source) for source in sources]
            for place, sources in Graph(effect).reads.items()
        },
        held=held_views(effect),
        project=draft.project,
        feeds_back=feeds_back(effect),
        since={
            ".".join(place): revision for place, revision in studio().since(draft, effect).items()
        },
    )


DELIVERY = Size(1920, 1080)
"""The frame size for hints about stand-ins while an effect is built."""


def _hints(effect: Effect) -> list[HintView]:
    """Hints about pictures that do not fill the frame and lead to ghosts."""
    db = studio().library.db
    shown = {slot.id: slot.stand_in for slot in effect.slots if slot.stand_in}
    names = shown | {name: name for name in assets_of(effect)}
    known = {one.id: one.facts for one in materials.listed(db)}
    sizes = {
        name: Size(known[identity].width, known[identity].height)
        for name, identity in names.items()
        if identity in known and known[identity].width
    }
    return [
        HintView(
            sentence=one.sentence,
            where=f"{one.lane}.{one.step}",
            fix=SetValue(lane=one.lane, step=one.step, value_name="fit", value="cover"),
            fix_words="Fit it to cover",
        )
        for one in ghosts(effect, sizes, DELIVERY)
    ]


@endpoint(views, "GET", "/steps", answer=StepKinds)
def steps() -> StepKinds:
    """All step kinds."""
    return StepKinds.model_validate(
        {"kinds": [kind.describe() for kind in step_kinds()], "mix": MIX.describe()}
    )


@endpoint(views, "GET", "/steps/macros", answer=MacroKinds)
def macro_steps() -> MacroKinds:
    """The macros of the shelf, as steps."""
    return MacroKinds(kinds=shelf_kinds())


@endpoint(views, "GET", "/effects", answer=DraftCards)
def list_effects() -> DraftCards:
    """All drafts, the most recently changed first."""
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
                project=draft.project,
                kind=document["kind"],
                words=draft.head.words,
                saved=draft.head.made,
                frames=FrameRate.of(document.get("rate", "25")).frames(
                    document.get("seconds", 2.0)
                ),
                macro=draft.macro,
            )
        )
    return DraftCards(drafts=cards)


@endpoint(views, "POST", "/effects", body=NewDraft, answer=DraftView)
def start_effect(body: NewDraft) -> DraftView:
    """Create a draft."""
    library = studio().library
    if body.macro and not body.macro.startswith(PREFIX):
        return _view(copy_for_bench(library, body.macro, body.version))
    if body.macro:
        effect = built_in_effect(body.macro, body.version)
        words = f"Started from the recipe {effect.name}"
    else:
        effect, words = new_effect(body.kind, body.name), f"New {body.kind}"
    listed = [m.id for m in materials.listed(library.db) if m.facts.kind == "video"]
    given = dict(zip((slot.id for slot in effect.slots), cycle(listed)))
    given |= {slot: materials.get(library.db, name).id for slot, name in body.clips.items()}
    slots = tuple(slot.model_copy(update={"stand_in": given.get(slot.id)}) for slot in effect.slots)
    effect = effect.model_copy(update={"slots": slots})
    if body.part is not None:
        effect, words = _begun_with(effect, parts.get(library.db, body.part).part)
    draft = drafts.start(library.db, "effect", effect.to_json(), words)
    drafts.set_project(library.db, draft.id, body.project)
    return _view(drafts.get(library.db, "effect", draft.id))


def _begun_with(effect: Effect, part: Part) -> tuple[Effect, str]:
    """A new effect with a part: in the output, or as lanes before it."""
    if part.kind == "run" and part.starts:
        effect, _ = apply(effect, AddLane(name=part.name))
        return apply(effect, InsertPart(part=part, to=effect.lanes[-2].id))
    return apply(effect, InsertPart(part=part, to=effect.lanes[-1].id, at=10000))


@endpoint(views, "POST", "/effects/<int:number>/copy", body=Copy, answer=DraftView)
def copy_effect(number: int, body: Copy) -> DraftView:
    """Create a draft from a revision and a change that could not be saved."""
    library = studio().library
    effect = studio().effect_at(number, body.base)
    if body.change is not None:
        effect, _ = apply(effect, filled(body.change))
    effect = effect.model_copy(update={"name": f"{effect.name[:108]} (my copy)"})
    draft = drafts.start(library.db, "effect", effect.to_json(), "Kept as a copy")
    drafts.set_project(library.db, draft.id, drafts.get(library.db, "effect", number).project)
    return _view(drafts.get(library.db, "effect", draft.id))


@endpoint(views, "POST", "/effects/<int:number>/project", body=Project, answer=DraftView)
def set_project(number: int, body: Project) -> DraftView:
    """Set the project of a draft."""
    drafts.set_project(studio().library.db, number, body.project.strip())
    return _view(drafts.get(studio().library.db, "effect", number))


@endpoint(views, "DELETE", "/effects/<int:number>", answer=DraftCards)
def remove_effect(number: int) -> DraftCards:
    """Remove a draft from the list."""
    drafts.remove(studio().library.db, "effect", number)
    return _cards()


@endpoint(views, "POST", "/effects/<int:number>/restore", answer=DraftCards)
def restore_effect(number: int) -> DraftCards:
    """Put a removed draft back."""
    drafts.remove(studio().library.db, "effect", number, removed=False)
    return _cards()


@endpoint(views, "POST", "/effects/<int:number>/changes", body=ChangeBody, answer=DraftView)
def change_effect(number: int, body: ChangeBody) -> DraftView:
    """Make a change."""
    db = studio().library.db
    draft = drafts.get(db, "effect", number)
    effect, words = apply(
        studio().effect_at(number, drafts.based_on(db, draft, body.base)), filled(body.change)
    )
    return _view(drafts.record(db, draft, body.base, words, effect.to_json()))


@endpoint(views, "POST", "/effects/<int:number>/refusal", body=ChangeBody, answer=Refusal)
def refusal(number: int, body: ChangeBody) -> Refusal:
    """Check whether a change could be made, without making it."""
    try:
        apply(studio().effect_at(number, body.base), filled(body.change))
    except Fault as fault:
        return Refusal(reason=fault.sentence)
    return Refusal(reason=None)


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


serve_drafts(views, "effect", "/effects", DraftView, _view)
