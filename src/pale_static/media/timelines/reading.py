"""Edits from OpenTimelineIO: our own exactly, those of other systems as far as possible."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import PurePosixPath
from typing import Any, TypeVar
from urllib.parse import unquote

import opentimelineio as otio
from pydantic import BaseModel, ValidationError

from ...core.built_in import DISSOLVE, VERSION, WIPE
from ...core.changes import slug_of
from ...core.faults import Fault, TooLarge, Unreadable
from ...core.reel import Item, Join, Look, Mark, Reel, Row, Shot, check_reel
from ...core.reel.document import FASTEST, SLOWEST
from ...core.time.timing import FrameRate, nearest_frame
from .named_media import Media
from .parts import (
    duration_of,
    exact_seconds,
    flattened,
    media_stem,
    nearest_rate,
    own_metadata,
    part_of,
    rate_of,
    stem,
)
from .writing import GENERATOR

MOST_CHILDREN = 20_000
DEEPEST = 16
MOST_ROWS = 16
_Model = TypeVar("_Model", bound=BaseModel)


@dataclass(frozen=True)
class Wanted:
    """A piece of media that an edit list names."""

    name: str
    file: str
    id: str = ""
    seconds: Fraction | None = None


@dataclass(frozen=True)
class Arrival:
    """An edit that was read, sentences on everything changed or left out, and missing media."""

    reel: Reel
    notes: tuple[str, ...]
    missing: tuple[str, ...]


def found_among(wanted: Wanted, media: Mapping[str, Media]) -> str | None:
    """The material that a name means: found by its id, its name, then its length."""
    if wanted.id in media:
        return wanted.id
    stems = {stem(wanted.file), stem(wanted.name)} - {""}
    named = [one for one in media.values() if {stem(one.file), stem(one.name)} & stems]
    if len(named) > 1 and wanted.seconds is not None:
        near = [one for one in named if one.seconds is not None
                and abs(one.seconds - wanted.seconds) < Fraction(1, 10)]  # fmt: skip
        named = near or named
    return named[0].id if named else None


def from_timeline(timeline: otio.schema.Timeline, media: Mapping[str, Media]) -> Arrival:
    """The edit of a timeline.

    Parameters
    ----------
    media : mapping
        The materials among which it looks for its media.

    Raises
    ------
    Fault
        If a time is no number, or there is more than an edit can hold.
    """
    return _Reading(timeline, media).arrival()


@dataclass
class _Piece:
    """A clip on a track, with the frames it covers."""

    clip: otio.schema.Clip
    begin: int
    end: int


@dataclass
class _Lane:
    """The contents of a track: pieces in order, and transitions by the piece before them."""

    name: str
    pieces: list[_Piece] = field(default_factory=list)
    joins: list[tuple[int, otio.schema.Transition]] = field(default_factory=list)


class _Reading:
    """Reads one timeline."""

    def __init__(self, timeline: otio.schema.Timeline, media: Mapping[str, Media]) -> None:
        self.timeline, self.media = timeline, media
        self.notes: list[str] = []
        self.missing: dict[str, None] = {}
        self.taken: set[str] = set()
        self.count = 0
        self.kept = part_of(own_metadata(timeline), "edit")
        self.rate = FrameRate.of(self.kept.get("rate") or rate_of(timeline))

    def note(self, sentence: str) -> None:
        if sentence not in self.notes:
            self.notes.append(sentence)

    def arrival(self) -> Arrival:
        video = [self.lane(one) for one in self.timeline.video_tracks()]
        video = [one for one in video if one.pieces] or [_Lane("Shots")]
        base, *above = video
        shots = self.shots(base)
        rows = self.rows(above)
        self.sounds(base)
        plain = {**self.kept, "format": Reel.model_fields["format"].default}
        plain.setdefault("name", (self.timeline.name or "Edit")[:120])
        plain["rate"] = str(self.rate)
        if "width" not in plain:
            sizes = [one.size for one in self.media.values() if one.size
                     and any(shot.material == one.id for shot in shots)]  # fmt: skip
            if sizes:
                largest = max(sizes, key=lambda size: size.width * size.height)
                plain |= {"width": largest.width // 2 * 2, "height": largest.height // 2 * 2}
        plain |= {"shots": shots, "rows": rows, "marks": self.marks()}
        reel = self._model(Reel, plain, "The edit")
        reel = self.with_joins(reel, [(base, [shot.id for shot in shots]), *(
            (lane, [item.id for item in row.items]) for lane, row in zip(above, rows, strict=False)
        )])  # fmt: skip
        return Arrival(check_reel(reel), tuple(self.notes), tuple(self.missing))

    # Times.

    def seconds(self, time: otio.opentime.RationalTime, what: str) -> Fraction:
        """An exact time."""
        if not math.isfinite(time.value) or not math.isfinite(time.rate) or time.rate <= 0:
            raise Unreadable(
                f"A time of {what} is not a number. Correct it in the system that made the edit."
            )
        rate = nearest_rate(time.rate).exact if 1 <= time.rate <= 1000 else Fraction(time.rate)
        return Fraction(time.value).limit_denominator(10**6) / rate

    def frames(self, time: otio.opentime.RationalTime, what: str) -> int:
        """The nearest frame of the edit."""
        return self.frame(self.seconds(time, what))

    def frame(self, exact: Fraction) -> int:
        """The frame of the edit nearest to a time."""
        return nearest_frame(exact.numerator, exact.denominator, self.rate.exact)

    # Structure.

    def lane(self, track: otio.schema.Track) -> _Lane:
        lane = _Lane(track.name or "a track")
        at = Fraction(0)
        for child in self.flat(track, 0):
            self.count += 1
            if self.count > MOST_CHILDREN:
                raise TooLarge(f"This edit list holds more than {MOST_CHILDREN} pieces.")
            what = child.name or f"piece {self.count} of {lane.name}"
            if isinstance(child, otio.schema.Transition):
                lane.joins.append((len(lane.pieces), child))
                continue
            begin = self.frame(at)
            length = self.seconds(duration_of(child), what)
            if length < 0:
                raise Unreadable(
                    f"{what} has a length below zero. Correct it in the system that made the edit."
                )
            at += length
            end = self.frame(at)
            if isinstance(child, otio.schema.Clip) and end > begin:
                if not child.enabled:
                    self.note(f"{what} is switched off in the file, and was left out.")
                else:
                    lane.pieces.append(_Piece(child, begin, end))
        return lane

    def flat(self, track: otio.core.Composition, depth: int) -> Iterator[Any]:
        """The pieces of a track, with nested stacks flattened."""
        if depth > DEEPEST:
            raise Unreadable(f"This edit list is nested more than {DEEPEST} deep.")
        for child in track:
            if isinstance(child, otio.schema.Track | otio.schema.Stack):
                self.note(
                    f"“{child.name or 'A nested edit'}” is an edit within the edit. Its pieces "
                    f"are on the track now; of overlapping pieces only the topmost."
                )
                yield from self.flat(flattened(child), depth + 1)
            else:
                yield child

    # Shots and items.

    def shots(self, lane: _Lane) -> list[Shot]:
        shots: list[Shot] = []
        exact, at = Fraction(0), 0
        for piece in lane.pieces:
            kept = self.kept_of(piece.clip, "shot")
            source = self.source(piece, kept)
            if source is None:
                continue
            gap, length = (
                exact_seconds(kept.get("gap")) or Fraction(0),
                exact_seconds(kept.get("length")),
            )
            rate = self.rate.exact
            # Our own times are kept if they give the same frames as the list.
            begin = max(at, self.frame(exact + gap)) if gap else at
            after = exact + gap + (length or 0)
            end = max(begin + 1, self.frame(after))
            if length is None or (begin, end) != (piece.begin, piece.end):
                gap = max(Fraction(0), piece.begin / rate - exact)
                length = piece.end / rate - exact - gap
                after = exact + gap + length
            exact, at = after, piece.end
            plain = {**kept, **source, "gap": gap, "length": length,
                     "id": self.name(kept.get("id") or piece.clip.name),
                     "name": piece.clip.name or "Shot", "looks": self.looks(piece.clip)}  # fmt: skip
            shots.append(self._model(Shot, plain, piece.clip.name or "A shot"))
        return shots

    def rows(self, lanes: Sequence[_Lane]) -> list[Row]:
        rows: list[Row] = []
        for lane in lanes:
            if len(rows) == MOST_ROWS:
                self.note(
                    f"There are more than {MOST_ROWS} tracks above the first. The rest was left "
                    f"out."
                )
                break
            items = [made for piece in lane.pieces if (made := self.item(piece)) is not None]
            name = self.name(lane.name if lane.name else f"row-{len(rows) + 1}", "row")
            rows.append(self._model(Row, {"id": name, "items": items}, lane.name))
        return rows

    def item(self, piece: _Piece) -> Item | None:
        kept = self.kept_of(piece.clip, "item")
        rate = self.rate.exact
        at, length = exact_seconds(kept.get("at")), exact_seconds(kept.get("length"))
        begin, end = piece.begin, piece.end
        # Our own times are kept if they give the same frames as the list.
        if (
            at is None
            or length is None
            or (self.frame(at), self.frame(at + length)) != (begin, end)
        ):
            at, length = begin / rate, (end - begin) / rate
        plain: dict[str, Any] = {
            **kept, "at": at, "length": length, "name": piece.clip.name or "Clip",
            "id": self.name(kept.get("id") or piece.clip.name), "looks": self.looks(piece.clip),
        }  # fmt: skip
        if "use" not in kept:
            own = part_of(kept, "source")
            source = self.source(piece, own)
            if source is None:
                return None
            plain["source"] = {**own, **source}
        return self._model(Item, plain, piece.clip.name or "A clip")

    def source(self, piece: _Piece, kept: Mapping[str, Any]) -> dict[str, Any] | None:
        """The source of a clip: material, start and speed; None for a clip without media."""
        clip, reference = piece.clip, piece.clip.media_reference
        what = clip.name or "A clip"
        if isinstance(reference, otio.schema.GeneratorReference):
            kind = reference.generator_kind
            if kind != GENERATOR:
                self.note(
                    f"{what} is a generator “{kind}”, which is unknown here. It was left out."
                )
                return None
        wanted = self.wanted(clip, reference)
        material = found_among(wanted, self.media)
        if material is None:
            material = wanted.id or f"missing:{wanted.file or wanted.name}"[:200]
            self.missing[wanted.file or wanted.name] = None
        start = exact_seconds(kept.get("start", "0")) or Fraction(0)
        if clip.source_range is not None:
            seen = self.seconds(clip.source_range.start_time, what)
            origin = reference.available_range.start_time if (
                reference is not None and reference.available_range is not None
            ) else None  # fmt: skip
            # Source timecodes count from the first frame of the media.
            if origin is not None:
                seen -= self.seconds(origin, what)
            else:
                seen = self.from_first_frame(seen, material, what)
            if abs(seen - start) > Fraction(1, 10**5):
                start = max(Fraction(0), seen)
        return {"material": material, "start": start, **self.pace(clip, kept, what)}

    def from_first_frame(self, seen: Fraction, material: str, what: str) -> Fraction:
        """A source timecode as seconds from the first frame of its media."""
        media = self.media.get(material)
        if media is None or media.seconds is None or seen < media.seconds:
            return seen
        if media.start is not None and seen >= media.start:
            return seen - media.start
        hours = seen // 3600 * 3600
        if seen - hours < media.seconds:
            self.note(
                f"The source times of {what} are after the end of its media, which has no "
                f"timecode, so they count from the full hour."
            )
            return seen - hours
        return seen

    def wanted(self, clip: otio.schema.Clip, reference: Any) -> Wanted:
        file, own = "", ""
        seconds = None
        if reference is not None:
            own = str(own_metadata(reference).get("id", ""))
            if isinstance(reference, otio.schema.ExternalReference):
                file = PurePosixPath(unquote(reference.target_url or "").replace("\\", "/")).name
            elif isinstance(reference, otio.schema.ImageSequenceReference):
                file = f"{reference.name_prefix}{reference.name_suffix}"
            if reference.available_range is not None:
                seconds = self.seconds(reference.available_range.duration, clip.name)
        name = (reference.name if reference is not None else "") or clip.name or "Clip"
        return Wanted(name, file, own, seconds)

    def pace(self, clip: otio.schema.Clip, kept: Mapping[str, Any], what: str) -> dict[str, Any]:
        """Speed and direction from a clip's effects; other effects become notes."""
        direction, speed = "forwards", Fraction(1)
        for effect in clip.effects:
            if isinstance(effect, otio.schema.FreezeFrame):
                direction = "freeze"
            elif isinstance(effect, otio.schema.LinearTimeWarp):
                told = effect.time_scalar
                if not math.isfinite(told):
                    raise Unreadable(f"The speed of {what} is not a number.")
                if told == 0:
                    direction = "freeze"
                    continue
                direction = "backwards" if told < 0 else "forwards"
                own = exact_seconds(kept.get("speed"))
                wanted = Fraction(abs(told)).limit_denominator(10_000)
                speed = own if own is not None and float(own) == abs(told) else wanted
                if not SLOWEST <= speed <= FASTEST:
                    self.note(
                        f"{what} runs at {float(speed) * 100:.4g} %. It was set to the nearest "
                        f"possible speed, 25 % to 400 %."
                    )
                    speed = min(max(speed, SLOWEST), FASTEST)
            elif "look" not in own_metadata(effect):
                name = effect.effect_name or effect.name or type(effect).__name__
                self.note(f"The effect “{name}” on {what} is unknown here. It was left out.")
        if direction == "freeze" and kept.get("direction") == "freeze":
            speed = exact_seconds(kept.get("speed")) or speed
        return {"direction": direction, "speed": speed}

    def looks(self, clip: otio.schema.Clip) -> list[Look]:
        looks = []
        for effect in clip.effects:
            kept = own_metadata(effect).get("look")
            if isinstance(kept, Mapping):
                plain = {**kept, "id": self.name(str(kept.get("id") or "look"))}
                looks.append(self._model(Look, plain, f"A look on {clip.name}"))
        return looks

    # Joins, sound, marks.

    def with_joins(self, reel: Reel, lanes: Sequence[tuple[_Lane, list[str]]]) -> Reel:
        """The edit with its transitions, as far as there is room for them."""
        for lane, names in lanes:
            # A piece that was left out has no name; its transitions are left out too.
            if len(names) != len(lane.pieces):
                if lane.joins:
                    self.note(f"Transitions on {lane.name} were left out beside missing pieces.")
                continue
            for index, made in lane.joins:
                join = self.join(lane, names, index, made)
                if join is None:
                    continue
                try:
                    reel = check_reel(reel.model_copy(update={"joins": (*reel.joins, join)}))
                except Fault as fault:
                    self.note(
                        f"The transition “{made.name or index}” was left out: {fault.sentence}"
                    )
        return reel

    def join(
        self, lane: _Lane, names: list[str], index: int, made: otio.schema.Transition
    ) -> Join | None:
        rate = self.rate.exact
        what = made.name or "A transition"
        pieces = lane.pieces
        before, after = (self.frames(one, what) for one in (made.in_offset, made.out_offset))
        left = names[index - 1] if index else None
        right = names[index] if index < len(names) else None
        touching = left and right and pieces[index - 1].end == pieces[index].begin
        own = part_of(own_metadata(made), "join")
        if not touching:
            # It leads in or out: our own files say which; in others the side decides.
            leads_in = own.get("left") is None if own else bool(right) and after >= before
            left, right = (None, right) if leads_in and right else (left, None)
        length = before + after
        if (left is None and right is None) or length < 1:
            return None
        exact = exact_seconds(own.get("length"))
        if exact is None or self.rate.frames(exact) != length:
            exact = length / rate
        alignment = own.get("alignment", "across")
        if left and right:
            seen = {"before": (length, 0), "across": (length // 2, length - length // 2),
                    "after": (0, length)}  # fmt: skip
            if seen.get(alignment) != (before, after):
                near = min(seen, key=lambda one: abs(seen[one][0] - before))
                if seen[near] != (before, after):
                    self.note(
                        f"{what} lay {before} frames before its cut and {after} after. It is "
                        f"{near} the cut now."
                    )
                alignment = near
        if not own:
            wipe = "wipe" in (made.transition_type or "").lower() or "wipe" in what.lower()
            own = {"macro": WIPE if wipe else DISSOLVE, "version": VERSION}
            if made.transition_type == "Custom_Transition" and not wipe:
                self.note(f"The transition “{what}” is unknown here. It is a dissolve now.")
        plain = {**own, "id": self.name(own.get("id") or "join"), "left": left, "right": right,
                 "length": exact, "alignment": alignment}  # fmt: skip
        return self._model(Join, plain, what)

    def sounds(self, base: _Lane) -> None:
        """Note the sound that is left out: in our edits sound belongs to its own shot."""
        for track in self.timeline.audio_tracks():
            if own_metadata(track).get("follows"):
                continue
            lane = self.lane(track)
            under = {(media_stem(one.clip), one.begin, one.end) for one in base.pieces}
            apart = [one for one in lane.pieces
                     if (media_stem(one.clip), one.begin, one.end) not in under]  # fmt: skip
            if apart:
                names = ", ".join(sorted({one.clip.name or "sound" for one in apart})[:4])
                self.note(
                    f"Sound on {lane.name} was left out ({names}): in Pale Static sound belongs "
                    f"to its own shot."
                )

    def marks(self) -> list[Mark]:
        marks = []
        for marker in self.timeline.tracks.markers:
            at = self.seconds(marker.marked_range.start_time, marker.name or "a mark")
            own = exact_seconds(own_metadata(marker).get("at"))
            if own is not None and self.frame(own) == self.frame(at):
                at = own
            if at >= 0:
                marks.append(Mark(at=at, name=(marker.name or "Mark")[:120]))
        return marks

    # Ours.

    def kept_of(self, clip: otio.schema.Clip, kind: str) -> dict[str, Any]:
        return part_of(own_metadata(clip), kind)

    def name(self, wanted: Any, fallback: str = "shot") -> str:
        """An identifier that is not taken."""
        text = str(wanted or fallback)
        made = text if _IDENTIFIER.fullmatch(text) and text not in self.taken else slug_of(
            text or fallback, self.taken
        )  # fmt: skip
        self.taken.add(made)
        return made

    def _model(self, model: type[_Model], plain: Mapping[str, Any], what: str) -> _Model:
        try:
            return model.model_validate(plain)
        except ValidationError as fault:
            first = fault.errors()[0]
            raise Unreadable(
                f"{what} cannot be read: {'.'.join(map(str, first['loc']))} {first['msg']}. "
                "Correct it in the system that made the edit."
            ) from fault


_IDENTIFIER = re.compile(r"[a-z0-9][a-z0-9-]{0,47}")
