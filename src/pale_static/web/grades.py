"""Endpoints of the Balance card: ASC CDL files in and out."""

from __future__ import annotations

from flask import Blueprint, Response, request
from pydantic import Field

from ..core.changes.places import step_of
from ..core.engine.resolve import Resolver
from ..core.faults import Fault
from ..core.steps import kind_of
from ..core.time.timing import Moment
from ..media.colour.cdl import MOST_BYTES, write_cc
from ..media.foreign import reading as foreign
from .endpoint import Wire, endpoint
from .previews import FrameQuery
from .studio import studio

views = Blueprint("grades", __name__)


class GradeView(Wire):
    """A correction as values of the balance step."""

    values: dict[str, float]
    name: str
    count: int = Field(description="The number of corrections in the file; this is the first one.")


@endpoint(views, "POST", "/grades", answer=GradeView, upload=True)
def read_grade() -> GradeView:
    """The values of a .cdl, .ccc or .cc file."""
    file = request.files.get("file")
    if file is None:
        raise Fault("There was no file in the request.")
    name = (file.filename or "The file")[:200]
    grade = foreign.read_grade(file.stream.read(MOST_BYTES + 1), name)
    return GradeView(values=dict(grade.values), name=grade.name, count=grade.count)


@endpoint(
    views, "GET", "/effects/<int:number>/<int:revision>/grade.cc", query=FrameQuery,
    gives="application/xml",
)  # fmt: skip
def write_grade(number: int, revision: int, query: FrameQuery) -> Response:
    """The values of a balance step at a frame, as a .cc file."""
    effect, place = studio().effect_at(number, revision), query.place()
    step = step_of(effect, *(place or ("", "")))
    if step.kind != "balance":
        raise Fault("Only a balance step is saved as a .cc file.")
    resolver = Resolver(effect, query.size)
    moment = Moment(query.frame, query.length, effect.frame_rate)
    values = {
        param.name: resolver.resolve(
            step.values.get(param.name, param.default), param, moment, "Balance"
        )
        for param in kind_of(step).params
    }
    name = "".join(c if c.isalnum() or c in "-_" else "-" for c in effect.name.lower())[:60]
    answer = Response(write_cc(values, name or "balance"), mimetype="application/xml")
    answer.headers["Content-Disposition"] = f'attachment; filename="{step.id}.cc"'
    return answer
