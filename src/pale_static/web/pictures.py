"""Answers with pictures: one frame, several side by side, or a run of frames for playing."""

from __future__ import annotations

import json
import struct
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future
from contextlib import ExitStack, nullcontext
from dataclasses import dataclass
from hashlib import blake2b
from itertools import islice
from threading import BoundedSemaphore
from typing import Any
from urllib.parse import quote

from flask import Blueprint, Response, request
from pydantic import Field, create_model

from ..core.documents.graph import Place
from ..core.engine.evaluate import Evaluation
from ..core.faults import Cancelled, Fault, Missing
from ..core.frames.source import FrameSource, PlannedFrame
from ..core.giving_up import given_up_when
from ..core.pictures.picture import Size, to_pixels
from ..media.pictures.stills import encode_jpeg, encode_png, seen, side_by_side
from .endpoint import Wire, endpoint
from .request_order import AHEAD, GLANCED_AT, WAITED_FOR, gone
from .studio import Studio, studio

LARGE = 100_000
"""Pictures with at least this many pixels count as the main picture, not as one of many small
ones."""
HUGE = 2560 * 1440
"""Pixels above which frames are computed one at a time."""
LONGEST_RUN = 100
SIDE_BY_SIDE = 2
"""Frames of a run that are computed at the same time: one decodes while the other one computes."""
FAULTY = 1 << 31
"""Marks the length of a sentence in a run, where the length of a picture would stand."""


@dataclass(frozen=True)
class Sight:
    """Pictures of a frame source as a page wants them.

    Parameters
    ----------
    step : (lane, step), optional
        The step whose result is shown; the output by default.
    without : sequence of str
        Uses of macros that are left out.
    costs : bool
        Whether the cost of each step comes with the picture.
    """

    source: FrameSource
    size: Size
    step: Place | None = None
    without: Sequence[str] = ()
    costs: bool = False

    def name(self, frame: int) -> str:
        """Names the picture of a frame: two pictures with one name have the same pixels."""
        return self.source.picture_name(frame, self.size, step=self.step, without=self.without)

    @property
    def pixels(self) -> int:
        return self.size.width * self.size.height

    def computed(
        self, desk: Studio, frame: int, rank: int, lost: Callable[[], bool], form: str,
        passing: bool,
    ) -> tuple[Evaluation, tuple[Fault, ...]]:  # fmt: skip
        """The result for a frame, and the faults of macros that were left out."""

        def compute(planned: PlannedFrame) -> tuple[Evaluation, tuple[Fault, ...]]:
            # Each huge one needs some hundred megabytes while it is computed.
            alone = desk.large.turn(GLANCED_AT, lost) if self.pixels > HUGE else nullcontext()
            with alone, desk.turns.turn(rank, lost):
                made = desk.engine.compute(planned.plan, lost, eight=form == "jpg", passing=passing)
            return made, planned.faults

        return self.source.computed(frame, compute, self.size, step=self.step, without=self.without)


def picture_response(
    sight: Sight, frame: int, form: str, stream: str = "", keep: bool = True,
    rank: int | None = None,
) -> Response:  # fmt: skip
    """The picture of a frame as JPEG (for looking) or PNG (exact); see :func:`strip_response`."""
    return strip_response(sight, (frame,), form, stream, keep, rank)


def strip_response(
    sight: Sight, frames: Sequence[int], form: str, stream: str = "", keep: bool = True,
    rank: int | None = None,
) -> Response:  # fmt: skip
    """Pictures of one size side by side, with the name of what goes into them as the tag.

    The browser asks each time whether its picture is still right, because an address names a draft
    and a revision, and another library may be served there. If it is right, nothing is planned. A
    picture that was encoded a moment ago is not encoded again. A header names macros that were left
    out of it, and the reasons; such a picture is not kept.

    Parameters
    ----------
    keep : bool
        Whether the picture may be wanted again. A change on trial is not.
    """
    if form not in ("jpg", "png"):
        raise Missing(f"Frames come as .jpg or .png, not as .{form}.")
    desk = studio()
    names = "-".join(sight.name(frame) for frame in frames) if keep else ""
    name = names if len(frames) == 1 else blake2b(names.encode(), digest_size=16).hexdigest()
    tag = f"{name}.{form}"
    if keep and request.if_none_match.contains(tag):
        return kept_for_the_browser(Response(status=304), tag)
    overtaken, hung_up = desk.newest.ticket(stream), gone()
    if rank is None:
        rank = WAITED_FOR if sight.pixels >= LARGE else GLANCED_AT

    def lost() -> bool:
        return overtaken() or hung_up()

    data, ms, faults = (desk.shown.get(tag) if keep else None), 0.0, list[Fault]()
    if data is None and keep and len(frames) == 1 and form == "jpg" and not sight.costs:
        data = desk.frames.get(name, KEPT_ENDING)
    if data is None:
        pictures: list[Any] = []
        try:
            for frame in frames:
                evaluation, left_out = sight.computed(desk, frame, rank, lost, form, False)
                ms += evaluation.ms
                faults += left_out
                png = form == "png"
                pictures.append(to_pixels(evaluation.picture) if png else seen(evaluation.held))
        except Cancelled:
            return Response(status=204)
        if lost():
            return Response(status=204)
        strip = side_by_side(pictures)
        data = encode_png(strip) if form == "png" else encode_jpeg(strip)
        if keep and not faults:
            desk.shown.put(tag, data)
    answer = Response(data, mimetype="image/png" if form == "png" else "image/jpeg")
    answer.headers["X-Cost"] = json.dumps(
        {"ms": round(ms, 2), "steps": _costs(desk, sight, frames)}
    )
    if faults:
        answer.headers["X-Fault"] = quote(" ".join(fault.sentence for fault in faults))
    return kept_for_the_browser(answer, "" if faults or not keep else tag)


def _costs(desk: Studio, sight: Sight, frames: Sequence[int]) -> list[tuple[str, float, int]]:
    """Each step that a picture needs, its milliseconds when it was last computed, and the bytes of
    its result."""
    if not sight.costs:
        return []
    planned = sight.source.at(frames[0], sight.size, step=sight.step, without=sight.without)
    costs = desk.engine.measured(planned.plan).items()
    return [(".".join(place), round(cost.ms, 2), cost.bytes) for place, cost in costs]


KEPT_ENDING = ".jpg"


class Run(Wire):
    """A run of frames: how many, and in which direction.

    ``keep`` stores the pictures on the disk.
    """

    count: int = Field(default=12, ge=1, le=LONGEST_RUN)
    by: int = Field(default=1, ge=-1, le=1)
    keep: bool = False


def run_response(sight: Sight, first: int, run: Run) -> Response:
    """A run of frames as one stream, each sent as soon as it is there.

    Each picture is a JPEG after its length: 4 bytes, the highest first. After a fault comes the
    length of its sentence, with the highest bit set, and the sentence in UTF-8; the run ends there.
    """
    desk, hung_up = studio(), gone()
    closed: list[bool] = []

    def lost() -> bool:
        return bool(closed) or hung_up()

    def one(frame: int) -> bytes:
        with given_up_when(lost):
            return _picture(desk, sight, frame, run.keep, WAITED_FOR, lost)

    def stream() -> Iterator[bytes]:
        waiting: deque[Future[bytes]] = deque()
        wanted = iter(range(first, first + run.by * run.count, run.by) if run.by else (first,))
        try:
            while True:
                while len(waiting) < SIDE_BY_SIDE and (frame := next(wanted, None)) is not None:
                    waiting.append(desk.players.submit(one, frame))
                if not waiting:
                    return
                picture = waiting.popleft().result()
                yield struct.pack(">I", len(picture)) + picture
        except Cancelled:
            return
        except Fault as fault:
            told = fault.sentence.encode()
            yield struct.pack(">I", FAULTY | len(told)) + told
        finally:
            closed.append(True)
            for each in waiting:
                each.cancel()

    return Response(stream(), mimetype="application/octet-stream")


def _picture(
    desk: Studio, sight: Sight, frame: int, keep: bool, rank: int, lost: Callable[[], bool]
) -> bytes:
    """The JPEG of a frame of a run: from memory, from the disk, or computed."""
    name = sight.name(frame)
    data = desk.shown.get(f"{name}.jpg")
    if data is not None and not keep:
        return data
    data = desk.frames.get(name, KEPT_ENDING) or data
    if data is None:
        evaluation, faults = sight.computed(desk, frame, rank, lost, "jpg", True)
        data = encode_jpeg(seen(evaluation.held))
        if faults:
            return data
        desk.shown.put(f"{name}.jpg", data)
    if keep:
        desk.frames.put(name, KEPT_ENDING, data)
    return data


MOST_AHEAD = 6
"""The most pages for which frames are computed ahead at once: each takes one of the server's threads."""
_ahead = BoundedSemaphore(MOST_AHEAD)


class Ahead(Wire):
    """Frames that may be wanted soon: at most how many are computed."""

    most: int = Field(default=1_000_000, ge=0)


def ahead_response(sight: Sight, first: int, most: int) -> Response:
    """Compute the frames from one on, then those before it, and keep them on the disk.

    The answer is the number of each frame, in 4 bytes, as soon as its picture is kept: first all
    that were kept before. It ends when all are there, when half of the folder is new, or when the
    page closes the request.
    """
    desk, hung_up = studio(), gone()
    closed: list[bool] = []
    place = ExitStack()
    if _ahead.acquire(blocking=False):
        place.callback(_ahead.release)
    else:
        most = 0

    def lost() -> bool:
        return bool(closed) or hung_up()

    def numbers() -> Iterator[bytes]:
        kept = desk.frames.names(KEPT_ENDING)
        length = sight.source.length
        there = {frame for frame in range(length) if kept and sight.name(frame) in kept}
        yield b"".join(struct.pack(">I", frame) for frame in sorted(there))
        left = (
            frame for frame in (*range(first, length), *range(min(first, length)))
            if frame not in there
        )  # fmt: skip
        room = desk.frames.most // 2
        try:
            for frame in islice(left, most):
                with given_up_when(lost):
                    data = _picture(desk, sight, frame, True, AHEAD, lost)
                room -= len(data)
                if room < 0 or not desk.frames.has(sight.name(frame), KEPT_ENDING):
                    return
                yield struct.pack(">I", frame)
        except (Cancelled, Fault):
            return  # whoever looks at that frame is told
        finally:
            closed.append(True)
            place.close()

    answer = Response(numbers(), mimetype="application/octet-stream")
    # An answer that nobody reads is closed too.
    answer.call_on_close(place.close)
    return answer


def serve_frames(
    views: Blueprint, path: str, name: str, query: type[Wire], sight: Callable[..., Sight],
    still: Callable[..., Response],
) -> None:  # fmt: skip
    """Declare the endpoints that show frames: one frame, a run of them, and all ahead of one.

    Parameters
    ----------
    path : str
        The address of what is shown.
    name : str
        A name for the operations.
    query : type
        The model of the choices in an address, with the number of the ``frame``.
    sight : function
        Gives the pictures for the parts of an address and its choices.
    still : function
        Answers with one frame; like ``sight``, with the ``form`` of the picture.
    """
    run_query: Any = create_model(f"{query.__name__}Run", __base__=(query, Run))
    ahead_query: Any = create_model(f"{query.__name__}Ahead", __base__=(query, Ahead))

    def frame(form: str, **given: Any) -> Response:
        return still(form=form, **given)

    def run(query: Any, **given: Any) -> Response:
        return run_response(sight(query=query, **given), query.frame, query)

    def ahead(query: Any, **given: Any) -> Response:
        return ahead_response(sight(query=query, **given), query.frame, query.most)

    frame.__doc__ = still.__doc__
    run.__doc__ = "A run of frames in one answer: the length of each picture, then its JPEG."
    ahead.__doc__ = "The numbers of frames that are kept on the disk, while they are computed."
    for function, rest, asked, gives in (
        (frame, "frame.<form>", query, "image/jpeg"),
        (run, "frames", run_query, "application/octet-stream"),
        (ahead, "ahead", ahead_query, "application/octet-stream"),
    ):
        function.__name__ = f"{name}_{function.__name__}"
        declare: Any = endpoint(views, "GET", f"{path}/{rest}", query=asked, gives=gives)
        declare(function)


def kept_for_the_browser(answer: Response, tag: str) -> Response:
    """An answer that the browser may keep until its tag changes; without a tag it keeps nothing."""
    if tag:
        answer.set_etag(tag)
    answer.headers["Cache-Control"] = "private, no-cache" if tag else "no-store"
    return answer


def kept_response(data: bytes, mimetype: str) -> Response:
    """An answer that the browser may keep until its tag changes."""
    tag = blake2b(data, digest_size=12).hexdigest()
    answer = kept_for_the_browser(Response(data, mimetype=mimetype), tag)
    answer.make_conditional(request.environ)
    return answer
