"""The frames of joins, the frames in which a shot is seen, and the handles beyond a cut."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property
from itertools import pairwise
from typing import Any

from pydantic import ValidationError

from ..documents.checking import model_fault
from ..faults import Fault, OutOfRange
from ..footage import Footage
from ..migrations import upgraded
from ..time.timing import nearest_frame, whole_frames
from .document import Item, Join, Look, Reel, Shot, Source


@dataclass(frozen=True)
class Span:
    """The place of a join: its first frame, the frame after its last, and the cut."""

    first: int
    end: int
    cut: int

    @property
    def length(self) -> int:
        """Its number of frames."""
        return self.end - self.first


@dataclass(frozen=True)
class Laid:
    """A join and the frames it covers."""

    span: Span
    join: Join


def join_span(reel: Reel, join: Join) -> Span:
    """Frames of a join. *Across* puts the odd frame after the cut; in and out lie in their shot."""
    length = reel.frame_rate.frames(join.length)
    if join.right is None:
        assert join.left is not None
        cut = reel.bounds(join.left)[1]
        return Span(cut - length, cut, cut)
    cut = reel.bounds(join.right)[0]
    if join.left is None:
        return Span(cut, cut + length, cut)
    before = {"before": length, "across": length // 2, "after": 0}[join.alignment]
    return Span(cut - before, cut - before + length, cut)


class Layout:
    """The frames of everything in an edit. Use :func:`layout_of`, which makes one for each edit."""

    def __init__(self, reel: Reel) -> None:
        self.reel = reel

    @cached_property
    def laid(self) -> tuple[Laid, ...]:
        """All joins with the frames they cover, in order of time."""
        placed = [Laid(join_span(self.reel, join), join) for join in self.reel.joins]
        return tuple(sorted(placed, key=lambda laid: laid.span.first))

    @cached_property
    def spans(self) -> Mapping[str, Span]:
        """The frames that each join covers, by its id."""
        return {laid.join.id: laid.span for laid in self.laid}

    @cached_property
    def joins_of(self) -> Mapping[str, tuple[Laid | None, Laid | None]]:
        """The joins at the beginning and at the end of each shot or item that has one."""
        begins = {laid.join.right: laid for laid in self.laid if laid.join.right}
        ends = {laid.join.left: laid for laid in self.laid if laid.join.left}
        names = begins.keys() | ends.keys()
        return {name: (begins.get(name), ends.get(name)) for name in names}

    def seen(self, identifier: str) -> tuple[int, int]:
        """The frames in which a shot or an item is seen, with what joins show of it."""
        begin, end = self.reel.bounds(identifier)
        before, after = self.joins_of.get(identifier, (None, None))
        first = min(begin, before.span.first) if before else begin
        return first, max(end, after.span.end) if after else end

    @cached_property
    def _base(self) -> tuple[tuple[Laid, ...], tuple[int, ...]]:
        shots = {shot.id for shot in self.reel.shots}
        laid = tuple(one for one in self.laid if {one.join.left, one.join.right} & shots)
        return laid, tuple(one.span.first for one in laid)

    @cached_property
    def _rows(self) -> Mapping[str, tuple[tuple[Laid, ...], tuple[int, ...]]]:
        rows = {}
        for row in self.reel.rows:
            items = {item.id for item in row.items}
            laid = tuple(one for one in self.laid if {one.join.left, one.join.right} & items)
            rows[row.id] = (laid, tuple(one.span.first for one in laid))
        return rows

    def join_at(self, frame: int, row: str | None = None) -> Laid | None:
        """The join that shows at a frame, of the base row or of one above. Joins never overlap."""
        laid, firsts = self._base if row is None else self._rows[row]
        at = bisect_right(firsts, frame) - 1
        return laid[at] if at >= 0 and frame < laid[at].span.end else None

    def shot_at(self, frame: int) -> int | None:
        """The number of the shot at a frame of the base row; None in a gap and after the last
        shot."""
        at = bisect_right(self.reel.begin_frames, frame) - 1
        return at if at >= 0 and frame < self.reel.begins(at) + self.reel.frames(at) else None

    def item_at(self, row: str, frame: int) -> Item | None:
        """The item of a row that lies at a frame."""
        items, firsts = self._items[row]
        at = bisect_right(firsts, frame) - 1
        return items[at] if at >= 0 and frame < self.reel.bounds(items[at].id)[1] else None

    @cached_property
    def _items(self) -> Mapping[str, tuple[Sequence[Item], Sequence[int]]]:
        return {
            row.id: (row.items, tuple(self.reel.bounds(item.id)[0] for item in row.items))
            for row in self.reel.rows
        }


def layout_of(reel: Reel) -> Layout:
    """The layout of an edit, computed once for each copy."""
    held = reel.__dict__.get("layout")
    if held is None:
        held = reel.__dict__["layout"] = Layout(reel)
    return held


def untouched(reel: Reel, first: int, end: int) -> Shot | None:
    """The shot that alone fills some frames unchanged: at its own speed, without looks or joins,
    and with nothing above it. None if there is no such shot."""
    layout = layout_of(reel)
    index = layout.shot_at(first)
    if index is None:
        return None
    shot = reel.shots[index]
    plain = shot.direction == "forwards" and shot.speed == 1
    if not plain or end > reel.bounds(shot.id)[1]:
        return None
    if any(laid.span.first < end and first < laid.span.end for laid in layout.laid):
        return None
    for row in reel.rows:
        for item in row.items:
            begin, last = layout.seen(item.id)
            if begin < end and first < last:
                return None
    for look in shot.looks:
        begin, last = look_span(reel, shot, look)
        if look.on and begin < end and first < last:
            return None
    return shot


def seconds_of(footage: Footage) -> Fraction | None:
    """The exact length of a material in seconds; None for a still, which has no end."""
    return None if footage.rate is None else Fraction(footage.length) / footage.rate.exact


ENDLESS = 10**7
"""The length, in frames, of a picture without an end."""


def look_span(reel: Reel, one: Shot | Item, look: Look) -> tuple[int, int]:
    """The first frame of a look in the edit, and the frame after its last. A look of the whole shot
    also covers what joins show of it; one with a length may reach past the end of its shot."""
    first, end = layout_of(reel).seen(one.id)
    rate = reel.frame_rate.exact
    if look.begin or look.length is not None:
        begin = look.begin
        first = reel.bounds(one.id)[0] + nearest_frame(begin.numerator, begin.denominator, rate)
    if look.length is not None:
        length = nearest_frame(look.length.numerator, look.length.denominator, rate)
        end = first + max(1, length)
    return first, end


def spare_frames(
    reel: Reel, one: Shot | Item, lasts: Mapping[str, Fraction | None]
) -> tuple[int | None, int | None]:
    """Frames of the edit that the material of a shot or an item has before and after it.

    None means no limit: of a still, of a macro, and where it is frozen.
    """
    source = one if isinstance(one, Source) else one.source
    whole = lasts.get(source.material) if source else None
    if source is None or whole is None or source.direction == "freeze":
        return None, None
    rate = reel.frame_rate.exact / source.speed
    begin, end = reel.bounds(one.id)
    taken = (end - begin) / rate
    before = max(0, whole_frames(source.start, rate))
    after = max(0, whole_frames(max(Fraction(0), whole - source.start - taken), rate))
    return (after, before) if source.direction == "backwards" else (before, after)


@dataclass(frozen=True)
class Handles:
    """The frames that a join needs beyond the cut, and those that the shots have there.

    ``None`` to spare means no limit, as with a still.
    """

    left_needs: int
    left_spare: int | None
    right_needs: int
    right_spare: int | None

    @property
    def short(self) -> bool:
        """Whether either shot has too few frames."""
        left = self.left_spare is not None and self.left_needs > self.left_spare
        return left or (self.right_spare is not None and self.right_needs > self.right_spare)


def handles(reel: Reel, join: Join, lasts: Mapping[str, Fraction | None]) -> Handles:
    """The handles of a join; ``lasts`` gives the seconds of each material."""
    if join.left is None or join.right is None:
        return Handles(0, None, 0, None)
    span = layout_of(reel).spans[join.id]
    after = spare_frames(reel, reel.named(join.left), lasts)[1]
    before = spare_frames(reel, reel.named(join.right), lasts)[0]
    return Handles(max(0, span.end - span.cut), after, max(0, span.cut - span.first), before)


def read_reel(raw: Any) -> Reel:
    """An edit from JSON of any version, checked.

    Raises
    ------
    Fault
    """
    try:
        return check_reel(Reel.model_validate(upgraded("reel", raw)))
    except ValidationError as fault:
        raise model_fault("edit", fault) from None


def check_reel(reel: Reel) -> Reel:
    """The edit; a fault for its first problem."""
    taken = set()
    for identifier, what in _identifiers(reel):
        if identifier in taken:
            raise Fault(
                f"The identifier “{identifier}” of {what} is used twice in the edit.", "shots"
            )
        taken.add(identifier)
    if len({row.id for row in reel.rows}) < len(reel.rows):
        raise Fault("Two rows of the reel share a name.", "rows")
    for row in reel.rows:
        for one, two in pairwise(row.items):
            if reel.bounds(two.id)[0] < reel.bounds(one.id)[1]:
                raise OutOfRange(
                    f"{one.name} and {two.name} overlap on one row. Move one of them, or put it "
                    "on another row.",
                    f"rows.{row.id}",
                )
    for join in reel.joins:
        _check_place(reel, join)
    for laid in layout_of(reel).laid:
        _check_room(reel, laid)
    ended: dict[str, Laid] = {}
    for laid in layout_of(reel).laid:
        for name in {laid.join.left, laid.join.right} - {None}:
            before = ended.get(str(name))
            if before and laid.span.first < before.span.end:
                raise OutOfRange(
                    "Two transitions overlap on one shot. Shorten one of them.",
                    f"joins.{laid.join.id}",
                )
            ended[str(name)] = laid
    return reel


def _identifiers(reel: Reel) -> Iterator[tuple[str, str]]:
    """Every identifier of an edit, and the thing that it names."""
    placed: list[Shot | Item] = [*reel.shots, *(item for row in reel.rows for item in row.items)]
    for one in placed:
        yield one.id, one.name
        yield from ((look.id, f"a look on {one.name}") for look in one.looks)
    yield from ((join.id, "a join") for join in reel.joins)


def _check_place(reel: Reel, join: Join) -> None:
    """A join needs a shot; if it has two, they must be neighbours."""
    where = f"joins.{join.id}"
    if join.left is None and join.right is None:
        raise Fault("A join needs a shot to lead out of or into.", where)
    for name in (join.left, join.right):
        if name is not None:
            reel.named(name)
    if join.left is None or join.right is None:
        return
    if neighbour(reel, join.left) != join.right:
        raise Fault(
            f"{reel.named(join.left).name} and {reel.named(join.right).name} are not neighbours, "
            f"so there is no cut between them to join.",
            where,
        )


def neighbour(reel: Reel, identifier: str) -> str | None:
    """The shot or item that begins where this one ends; None before a gap, and for the last."""
    if identifier in reel.items:
        row, item = reel.items[identifier]
        at = row.items.index(item) + 1
        after: Sequence[Shot | Item] = row.items[at : at + 1]
    else:
        at = reel.shot_index(identifier) + 1
        after = reel.shots[at : at + 1]
    end = reel.bounds(identifier)[1]
    return after[0].id if after and reel.bounds(after[0].id)[0] == end else None


def _check_room(reel: Reel, laid: Laid) -> None:
    span, join = laid.span, laid.join
    begin = reel.bounds(join.left)[0] if join.left else span.cut
    end = reel.bounds(join.right)[1] if join.right else span.cut
    if span.first >= begin and span.end <= end:
        return
    where = f"joins.{join.id}"
    if join.left and join.right:
        room = min(span.cut - begin, end - span.cut)
        raise OutOfRange(
            f"A join of {span.length} frames does not fit between "
            f"{reel.named(join.left).name} and {reel.named(join.right).name}: "
            f"there are {span.cut - begin} and {end - span.cut} frames. "
            f"Make it {max(1, room)} frames or less, or lengthen the shots.",
            where,
        )
    name = reel.named(join.left or join.right or "").name
    raise OutOfRange(
        f"A join of {span.length} frames does not fit on {name}, which has {end - begin} frames. "
        f"Make it {max(1, end - begin)} frames or less, or lengthen the shot.",
        where,
    )


__all__ = [
    "Handles", "Laid", "Layout", "Span", "check_reel", "handles", "join_span",
    "layout_of", "neighbour", "read_reel", "seconds_of", "spare_frames",
]  # fmt: skip
