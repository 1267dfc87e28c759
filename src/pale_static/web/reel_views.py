"""An edit for the page: everything laid out in frames, every macro with its faceplate."""

from __future__ import annotations

from fractions import Fraction
from typing import Any, Literal

from ..core.built_in import PREFIX
from ..core.document import Control, Effect, Kind, Slot
from ..core.documents.macro import faceplate_changes
from ..core.faults import Fault
from ..core.pictures.picture import Fit
from ..core.proof.ghosts import ghosts
from ..core.reel import Join, Look, Reel, handles, layout_of, uses_of
from ..core.reel.document import Alignment, Direction, Item, MacroUse, Shot, Source
from ..core.reel.layout import look_span, spare_frames
from ..core.time.timing import nearest_frame, whole_frames
from ..jobs.shelf import Shelf
from ..store import macros
from ..store.drafts import Draft
from .endpoint import Wire
from .studio import studio


class SlotView(Wire):
    """A slot of a macro that the editor fills, in addition to the clips under the macro."""

    id: str
    name: str
    kind: str
    help: str


class PinnedView(Wire):
    """One version of a macro that the edit uses. ``update`` says what a newer version changes."""

    macro: str
    version: int
    newest: int
    name: str
    kind: Kind
    sentence: str
    seconds: float
    controls: list[Control]
    slots: list[SlotView]
    update: list[str]
    problem: str | None


class NoteView(Wire):
    """A problem of the material in a slot."""

    slot: str
    sentence: str


class UseView(Wire):
    """A use of a macro: its place and its settings."""

    id: str
    macro: str
    version: int
    settings: dict[str, Any]
    slots: dict[str, str]
    notes: list[NoteView]


class LookView(UseView):
    """A look on a shot: from frame ``first`` of the edit up to ``end``; without ``length`` it lasts
    to the end of the shot."""

    on: bool
    begin: int
    length: int | None
    first: int
    end: int


class HandlesView(Wire):
    """Frames that a join needs beyond its cut, and frames that it has. None means no limit."""

    left_needs: int
    left_spare: int | None
    right_needs: int
    right_spare: int | None
    short: bool


class JoinView(UseView):
    """A join with its frames."""

    left: str | None
    right: str | None
    alignment: Alignment
    hold: bool
    sound: Literal["cross-fade", "cut"]
    first: int
    end: int
    cut: int
    handles: HandlesView


class SourceView(Wire):
    """A stretch of a material. Times are frames of the edit; ``speed`` is in percent."""

    material: str
    missing: bool
    sound: bool
    start: int
    lasts: int | None
    direction: Direction
    speed: float
    blended: bool
    fit: Fit
    focus: tuple[float, float]
    gain: float
    mute: bool
    fade_in: int
    fade_out: int
    spare_before: int | None
    spare_after: int | None


class ShotView(SourceView):
    """A shot: from frame ``begins`` for ``length`` frames, after ``gap`` frames of black."""

    id: str
    name: str
    begins: int
    length: int
    gap: int
    looks: list[LookView]


class ItemView(Wire):
    """An item of a row above."""

    id: str
    name: str
    row: int
    begins: int
    length: int
    kind: Literal["clip", "title", "texture", "look", "transition"]
    source: SourceView | None
    use: UseView | None
    opacity: float
    mode: str
    position: tuple[float, float]
    scale: float
    looks: list[LookView]


class MarkView(Wire):
    frame: int
    name: str


class ReelView(Wire):
    """An edit at its current revision, with everything laid out in frames."""

    id: int
    revision: int
    name: str
    rate: str
    width: int
    height: int
    length: int
    shots: list[ShotView]
    joins: list[JoinView]
    rows: int
    items: list[ItemView]
    macros: list[PinnedView]
    marks: list[MarkView]
    mark_in: int | None
    mark_out: int | None
    words: str
    saved: str
    undo: bool
    redo: bool


LAID_ON = {"transition": {"from", "to"}, "look": {"clip"}, "title": {"clip"}, "texture": set()}
"""The slots that the edit itself fills, by kind of macro."""


def free_slots(effect: Effect) -> list[Slot]:
    """The slots of a macro that the editor fills."""
    taken = LAID_ON[effect.kind]
    return [slot for slot in effect.slots if slot.id not in taken and slot.kind != "text"]


class _Views:
    """Makes the views of one edit."""

    def __init__(self, shelf: Shelf, reel: Reel) -> None:
        self.shelf, self.reel = shelf, reel
        self.lasts = shelf.lasts(reel)
        self.layout = layout_of(reel)
        self.heard = {name for name in self.lasts if shelf.sound(name) is not None}

    def frame(self, at: Fraction) -> int:
        return nearest_frame(at.numerator, at.denominator, self.reel.frame_rate.exact)

    def use(self, identifier: str, use: MacroUse) -> dict[str, Any]:
        return {
            "id": identifier, "macro": use.macro, "version": use.version,
            "settings": use.settings, "slots": use.slots, "notes": self.notes(use),
        }  # fmt: skip

    def notes(self, use: MacroUse) -> list[NoteView]:
        """The problems of materials in its slots."""
        if not use.slots:
            return []
        try:
            effect = self.shelf.effect(use.macro, use.version)
        except Fault:
            return []
        sizes = {
            slot: self.shelf.footage(name).size
            for slot, name in use.slots.items()
            if slot not in use.covering
        }
        slot_of = {
            (lane.id, step.id): str(step.values.get("slot", "clip"))
            for lane in effect.lanes
            for step in lane.steps[:1]
        }
        return [
            NoteView(slot=slot_of[ghost.lane, ghost.step], sentence=ghost.sentence)
            for ghost in ghosts(effect, sizes, self.reel.size)
        ]

    def look(self, one: Shot | Item, look: Look) -> LookView:
        first, last = look_span(self.reel, one, look)
        last = min(last, self.layout.seen(one.id)[1])
        return LookView(
            **self.use(look.id, look), on=look.on, begin=self.frame(look.begin),
            length=None if look.length is None else self.frame(look.length), first=first, end=last,
        )  # fmt: skip

    def source(self, one: Shot | Item, source: Source) -> dict[str, Any]:
        seconds, rate = self.lasts.get(source.material), self.reel.frame_rate.exact
        before, after = spare_frames(self.reel, one, self.lasts)
        return {
            "material": source.material, "missing": source.material not in self.lasts,
            "sound": source.material in self.heard,
            "start": self.frame(source.start),
            "lasts": None if seconds is None else max(1, whole_frames(seconds, rate)),
            "direction": source.direction, "speed": round(float(source.speed * 100), 4),
            "blended": source.blended, "fit": source.fit, "focus": source.focus,
            "gain": source.gain, "mute": source.mute,
            "fade_in": self.frame(source.fade_in), "fade_out": self.frame(source.fade_out),
            "spare_before": before, "spare_after": after,
        }  # fmt: skip

    def shot(self, shot: Shot) -> ShotView:
        begin, end = self.reel.bounds(shot.id)
        return ShotView(
            **self.source(shot, shot), id=shot.id, name=shot.name, begins=begin,
            length=end - begin, gap=self.frame(shot.gap),
            looks=[self.look(shot, look) for look in shot.looks],
        )  # fmt: skip

    def item(self, item: Item, row: int) -> ItemView:
        begin, end = self.reel.bounds(item.id)
        kind: Any = "clip"
        if item.use:
            try:
                kind = self.shelf.effect(item.use.macro, item.use.version).kind
            except Fault:
                kind = "title"
        return ItemView(
            id=item.id, name=item.name, row=row, begins=begin, length=end - begin, kind=kind,
            source=SourceView(**self.source(item, item.source)) if item.source else None,
            use=UseView(**self.use(item.id, item.use)) if item.use else None,
            opacity=item.opacity, mode=item.mode, position=item.position, scale=item.scale,
            looks=[self.look(item, look) for look in item.looks],
        )  # fmt: skip

    def join(self, join: Join) -> JoinView:
        span, hold = self.layout.spans[join.id], handles(self.reel, join, self.lasts)
        return JoinView(
            **self.use(join.id, join), left=join.left, right=join.right,
            alignment=join.alignment, hold=join.hold, sound=join.sound,
            first=span.first, end=span.end, cut=span.cut,
            handles=HandlesView(
                left_needs=hold.left_needs, left_spare=hold.left_spare,
                right_needs=hold.right_needs, right_spare=hold.right_spare, short=hold.short,
            ),
        )  # fmt: skip

    def pinned(self) -> list[PinnedView]:
        uses = {(use.macro, use.version) for _, use in uses_of(self.reel)}
        return [self._pinned(slug, version) for slug, version in sorted(uses)]

    def _pinned(self, slug: str, version: int) -> PinnedView:
        newest: tuple[int, ...] = ()
        latest: Effect | None = None
        try:
            if not slug.startswith(PREFIX):
                shelved = macros.get(studio().library.db, slug)
                newest, latest = shelved.versions, shelved.newest.effect
            effect = self.shelf.effect(slug, version)
        except Fault as missing:
            return PinnedView(
                macro=slug, version=version, newest=max(newest, default=version), name=slug,
                kind="look", sentence="", seconds=1, controls=[], slots=[], update=[],
                problem=f"{missing.sentence} The package is called {slug}-{version}.palemacro. The "
                "edit goes on without it.",
            )  # fmt: skip
        update = faceplate_changes(effect, latest) if latest and newest[0] > version else []
        slots = [
            SlotView(id=slot.id, name=slot.name, kind=slot.kind, help=slot.help)
            for slot in free_slots(effect)
        ]
        return PinnedView(
            macro=slug, version=version, newest=max(newest, default=version), name=effect.name, kind=effect.kind,
            sentence=effect.sentence, seconds=effect.seconds, controls=list(effect.faceplate),
            slots=slots, update=update, problem=None,
        )  # fmt: skip


def reel_view(draft: Draft) -> ReelView:
    """An edit at its current revision."""
    reel = studio().reel_of(draft)
    views = _Views(studio().shelf, reel)
    return ReelView(
        id=draft.id, revision=draft.head.id, name=reel.name, rate=reel.rate,
        width=reel.width, height=reel.height, length=reel.length,
        shots=[views.shot(shot) for shot in reel.shots],
        joins=[views.join(join) for join in reel.joins],
        rows=len(reel.rows),
        items=[views.item(item, k) for k, row in enumerate(reel.rows) for item in row.items],
        macros=views.pinned(),
        marks=[MarkView(frame=views.frame(mark.at), name=mark.name) for mark in reel.marks],
        mark_in=None if reel.mark_in is None else views.frame(reel.mark_in),
        mark_out=None if reel.mark_out is None else views.frame(reel.mark_out),
        words=draft.head.words, saved=draft.head.made, undo=draft.undo, redo=draft.redo,
    )  # fmt: skip
