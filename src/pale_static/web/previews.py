"""Endpoints for pictures and figures of a draft: frames, values under the pointer, curves,
coverage."""

from __future__ import annotations

from typing import Any, get_args

from flask import Blueprint, Response
from pydantic import Field, TypeAdapter

from ..core.changes import Change, apply
from ..core.changes.models import StepPlace, TurnSteps
from ..core.changes.places import step_of
from ..core.document import Effect
from ..core.documents.graph import Place
from ..core.faults import Malformed
from ..core.pictures.picture import Size
from ..core.proof import coverage_curve, jumps
from ..core.proof.curves import moving
from ..core.steps import kind_of
from ..core.time.easing import Family, Named, ease_at
from .endpoint import Wire, endpoint, tried_change
from .macro_steps import filled
from .pictures import Sight, picture_response, serve_frames, strip_response
from .request_order import OFFERED
from .studio import studio

views = Blueprint("previews", __name__)

_CHANGE: TypeAdapter[Change] = TypeAdapter(Change)


class FrameQuery(Wire):
    """A frame, its size, the step whose result is shown, and whether costs come with it."""

    frame: int = Field(default=0, ge=-100000, le=10**6)
    length: int = Field(default=50, ge=1, le=10**6)
    width: int = Field(default=960, ge=1, le=16384)
    height: int = Field(default=540, ge=1, le=16384)
    step: str = Field(default="", max_length=120)
    without: str = Field(default="", max_length=100)
    stream: str = Field(default="", max_length=100)
    costs: bool = False
    rough: bool = False
    """Whether feedback steps see only the last few frames, for a picture at once."""

    def sight(self, effect: Effect, exact: bool = False) -> Sight:
        """The pictures of an effect, or of one of its steps."""
        source = studio().source(effect, self.length, shown=None if exact else self.size)
        return Sight(
            source.roughly() if self.rough else source, self.size, self.place(), costs=self.costs
        )

    @property
    def size(self) -> Size:
        return Size(self.width, self.height)

    def place(self) -> tuple[str, str] | None:
        """The step whose result is shown; None for the output."""
        return _place(self.step)

    def seen(self, effect: Effect) -> Effect:
        """The effect without the step that is to be left out."""
        left_out = _place(self.without)
        if left_out is None:
            return effect
        place = StepPlace(lane=left_out[0], step=left_out[1])
        return apply(effect, TurnSteps(steps=(place,), on=False))[0]


ADDED = "added"
"""Stands for the step that the tried change adds."""


def _steps(effect: Effect) -> list[tuple[str, str]]:
    return [(lane.id, step.id) for lane in effect.lanes for step in lane.every]


def _place(name: str) -> tuple[str, str] | None:
    if not name:
        return None
    lane, mark, step = name.partition(".")
    if not (mark and lane and step):
        raise Malformed(f"A step is named lane.step. Got “{name}”.")
    return lane, step


class Live(FrameQuery):
    """A frame of the draft with a change on trial."""

    base: int
    change: Change


class TryOnQuery(FrameQuery):
    """A frame with a change on trial, in JSON; ``added`` as the step means the step that the change
    adds."""

    change: str = Field(max_length=100_000)


class StripQuery(Wire):
    """A number of frames, evenly from an effect's first to its last, and their size."""

    length: int = Field(default=50, ge=1, le=10**6)
    width: int = Field(default=128, ge=1, le=1024)
    height: int = Field(default=72, ge=1, le=1024)
    places: int = Field(default=11, ge=2, le=25)

    @property
    def size(self) -> Size:
        return Size(self.width, self.height)

    @property
    def frames(self) -> list[int]:
        """Frames evenly from the first to the last."""
        last, gaps = self.length - 1, self.places - 1
        return [(2 * k * last + gaps) // (2 * gaps) for k in range(self.places)]


class ProbeQuery(FrameQuery):
    """A point of a frame: 0..1 of its width and height."""

    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)


class Probe(Wire):
    """Premultiplied values under the pointer, one for a matte and four for a picture.

    ``before`` is what came into the step that is looked at; None where it starts a lane.
    """

    result: list[float]
    step: list[float] | None = None
    before: list[float] | None = None


class CoverageQuery(Wire):
    length: int = Field(default=50, ge=1, le=10**6)
    points: int = Field(default=11, ge=2, le=101)


class Coverage(Wire):
    shares: list[float]
    jumps: list[str]
    """Sentences on jumps: a first frame that is not the first clip, or a last frame that is not the
    second."""


class KeyPlace(Wire):
    """A key at its place in an effect of this length."""

    share: float
    value: Any
    words: str


class Run(Wire):
    """A value that stays the same from one share of the effect to another."""

    start: float
    end: float
    value: Any


class Curve(Wire):
    """A value that moves: samples at even distances, and its keys.

    ``part`` is x or y for a point, and "band" for a value that is not a number: its ``runs`` then
    hold the value over time.
    """

    lane: str
    step: str
    value: str
    label: str
    samples: list[float]
    keys: list[KeyPlace]
    squeezed: bool
    part: str
    runs: list[Run]


class EaseShape(Wire):
    """A named ease, sampled evenly from 0 to 1; an empty name means no family."""

    into: str
    out: str
    samples: list[float]


class EaseShapes(Wire):
    eases: list[EaseShape]


class Curves(Wire):
    curves: list[Curve]


def _sight(number: int, revision: int, query: FrameQuery, exact: bool = False) -> Sight:
    return query.sight(query.seen(studio().effect_at(number, revision)), exact)


def _still(number: int, revision: int, form: str, query: FrameQuery) -> Response:
    """A frame of a revision, or of one of its steps: .jpg for the screen, .png exact."""
    sight = _sight(number, revision, query, exact=form == "png")
    return picture_response(sight, query.frame, form, query.stream)


serve_frames(
    views, "/effects/<int:number>/<int:revision>", "effect", FrameQuery, _sight, _still
)  # fmt: skip


@endpoint(
    views, "GET", "/effects/<int:number>/<int:revision>/strip.<form>",
    query=StripQuery, gives="image/jpeg",
)  # fmt: skip
def effect_strip(number: int, revision: int, form: str, query: StripQuery) -> Response:
    """Frames of an effect from its first to its last, side by side in one picture."""
    desk = studio()
    effect = desk.effect_at(number, revision)
    source = desk.source(effect, query.length, shown=query.size)
    return strip_response(Sight(source, query.size), query.frames, form)


@endpoint(
    views, "GET", "/effects/<int:number>/<int:revision>/probe", query=ProbeQuery, answer=Probe
)
def effect_probe(number: int, revision: int, query: ProbeQuery) -> Probe:
    """Values at one point: of the output, and before and after a step."""
    desk = studio()
    effect = desk.effect_at(number, revision)
    column = min(int(query.x * query.width), query.width - 1)
    row = min(int(query.y * query.height), query.height - 1)

    def at(place: Place | None, seen: Effect = effect) -> list[float]:
        frame = desk.source(seen, query.length).at(query.frame, query.size, step=place)
        plane = desk.engine.compute(frame.plan).plane
        return [round(float(value), 6) for value in plane[row, column].reshape(-1)]

    place = query.place()
    if place is None:
        return Probe(result=at(None))
    turned = place[1].partition("@")[0]
    before = None
    if kind_of(step_of(effect, place[0], turned)).main is not None:
        off = TurnSteps(steps=(StepPlace(lane=place[0], step=turned),), on=False)
        before = at(place, apply(effect, off)[0])
    return Probe(result=at(None), step=at(place), before=before)


@endpoint(views, "POST", "/effects/<int:number>/live", body=Live, gives="image/jpeg")
def effect_live(number: int, body: Live) -> Response:
    """A frame with a change on trial; of a stream only the newest frame is computed."""
    effect, _ = apply(studio().effect_at(number, body.base), filled(body.change))
    return picture_response(body.sight(effect), body.frame, "jpg", body.stream, keep=False)


@endpoint(
    views, "GET", "/effects/<int:number>/<int:revision>/try-on.jpg",
    query=TryOnQuery, gives="image/jpeg",
)  # fmt: skip
def effect_try_on(number: int, revision: int, query: TryOnQuery) -> Response:
    """A frame of a revision with a change on trial; it is computed when nothing else is waiting."""
    before = studio().effect_at(number, revision)
    effect, _ = apply(before, filled(tried_change(_CHANGE, query.change)))
    if query.step == ADDED:
        there = _steps(before)
        added = next((".".join(one) for one in _steps(effect) if one not in there), "")
        query = query.model_copy(update={"step": added})
    return picture_response(query.sight(effect), query.frame, "jpg", query.stream, rank=OFFERED)


@endpoint(
    views, "GET", "/effects/<int:number>/<int:revision>/coverage",
    query=CoverageQuery, answer=Coverage,
)  # fmt: skip
def effect_coverage(number: int, revision: int, query: CoverageQuery) -> Coverage:
    """The share of the new picture that shows, over the length of the effect."""
    desk = studio()
    source = desk.source(desk.effect_at(number, revision), query.length)
    shares = coverage_curve(desk.engine, source, points=query.points)
    return Coverage(shares=[round(share, 5) for share in shares], jumps=jumps(desk.engine, source))


@endpoint(
    views, "GET", "/effects/<int:number>/<int:revision>/curves",
    query=CoverageQuery, answer=Curves,
)  # fmt: skip
def effect_curves(number: int, revision: int, query: CoverageQuery) -> Curves:
    """All moving values, over the length of the effect."""
    effect = studio().effect_at(number, revision)
    moves = []
    for line in moving(effect, query.length, effect.frame_rate, query.points):
        keys = [KeyPlace(share=s, value=key.value, words=key.words()) for s, key in line.keys]
        moves.append(
            Curve(
                lane=line.lane, step=line.step, value=line.value, label=line.label,
                samples=line.samples, keys=keys, squeezed=line.squeezed, part=line.part,
                runs=[Run(start=a, end=b, value=value) for a, b, value in line.runs],
            )
        )  # fmt: skip
    return Curves(curves=moves)


EASE_POINTS = 25


@endpoint(views, "GET", "/eases", answer=EaseShapes)
def ease_shapes() -> EaseShapes:
    """The curve of every pair of ease families, for drawing."""
    names = ("", *get_args(Family))
    shares = [k / (EASE_POINTS - 1) for k in range(EASE_POINTS)]
    return EaseShapes(
        eases=[
            EaseShape(
                into=into, out=out,
                samples=[
                    round(ease_at(Named.model_validate({"into": into or None, "out": out or None}), t), 4)
                    for t in shares
                ],
            )
            for into in names
            for out in names
        ]
    )  # fmt: skip
