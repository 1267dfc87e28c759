"""CMX 3600 edit lists, in and out.

OpenTimelineIO's own adapter for them drops speed notes, misses overlapping events, and cannot write
wipes or all forms of dissolves. So this module reads the columns, and the rest goes through a
timeline like every other edit.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

import opentimelineio as otio

from ...core.built_in import DISSOLVE, WIPE
from ...core.faults import TooLarge, Unreadable
from ...core.reel import Join, Reel, Shot, layout_of
from ...core.time.timing import FrameRate
from .named_media import Media
from .writing import KEY, timecode

MOST_TEXT = 8 << 20
_EVENT = re.compile(
    r"(\d{1,6})\s+(\S+)\s+(\S+)\s+(C|D|W\d{1,3}|K\w*)(?:\s+(\d{1,4}))?"
    r"((?:\s+\d\d:\d\d:\d\d[:;.,]\d\d){4})\s*"
)
_SPEED = re.compile(r"M2\s+(\S+)\s+(-?\d+(?:\.\d+)?)\s+(\d\d:\d\d:\d\d[:;.,]\d\d)\s*")
_COMMENT = re.compile(r"\*\s*([A-Z ]+?)\s*:\s*(.*)")
_BLACK = {"BL", "BLACK"}
OURS = "PALE STATIC JOIN"
REEL_LENGTH = 8


@dataclass
class _Event:
    """One event: a line for the picture, with the notes after it."""

    line: int
    number: str
    reel: str
    kind: str
    frames: int
    source: tuple[str, str]
    record: tuple[str, str]
    notes: dict[str, str] = field(default_factory=dict)
    speed: float | None = None


def read_edl(data: bytes, name: str, rate: FrameRate | None = None) -> otio.schema.Timeline:
    """The timeline of an edit list: one track, cuts, dissolves and wipes.

    Parameters
    ----------
    rate : FrameRate, optional
        Frames a second, which a list does not state; guessed by default.

    Raises
    ------
    Unreadable, TooLarge
        If it cannot be read; it names the line.

    References
    ----------
    CMX 3600 edit list, its published columns: event, reel, channels, transition and its frames,
    source in and out, record in and out.
    """
    if len(data) > MOST_TEXT:
        raise TooLarge(f"{name} is larger than {MOST_TEXT >> 20} MB, more than a list can need.")
    text = data.decode("utf-8", "replace")
    title, drop, events = _parsed(text, name)
    if not events:
        raise Unreadable(f"{name} has no events: a line with a number, a reel and four timecodes.")
    rate = rate or _guessed(events, drop)
    return _Built(name, title, rate, events).timeline()


def _parsed(text: str, name: str) -> tuple[str, bool, list[_Event]]:
    title, drop, events = "", False, []
    for number, raw in enumerate(text.splitlines(), 1):
        line = raw.strip()
        if line.startswith("TITLE:"):
            title = line.removeprefix("TITLE:").strip()
        elif line.startswith("FCM:"):
            drop = line.removeprefix("FCM:").strip().startswith("DROP")
        elif match := _EVENT.fullmatch(line):
            if "V" in match[3].upper() or match[3].upper() == "B":
                times = match[6].split()
                events.append(_Event(
                    number, match[1], match[2], match[4], int(match[5] or 0),
                    (times[0], times[1]), (times[2], times[3]),
                ))  # fmt: skip
        elif events and (match := _SPEED.fullmatch(line)):
            events[-1].speed = float(match[2])
        elif events and (match := _COMMENT.fullmatch(line)):
            events[-1].notes.setdefault(match[1], match[2].strip())
        elif re.match(r"\d{3,6}\s", line):
            raise Unreadable(
                f"{name}, line {number} looks like an event and cannot be read: “{line[:60]}”."
            )
    return title, drop, events


def _guessed(events: list[_Event], drop: bool) -> FrameRate:
    """A rate that fits the timecodes: 29.97 for drop-frame, else by the highest frame number."""
    if drop or any(";" in time for one in events for time in (*one.source, *one.record)):
        return FrameRate.of("29.97")
    most = max(int(time[-2:]) for one in events for time in (*one.source, *one.record))
    return FrameRate.of(60 if most >= 30 else 30 if most >= 25 else 25)


class _Built:
    """Builds the timeline of a list."""

    def __init__(self, name: str, title: str, rate: FrameRate, events: list[_Event]) -> None:
        self.name, self.title, self.events = name, title, events
        self.rate, self.exact = float(rate), rate
        self.near = otio.opentime.RationalTime.nearest_smpte_timecode_rate(self.rate)

    def timeline(self) -> otio.schema.Timeline:
        timeline = otio.schema.Timeline(self.title or self.name.rpartition(".")[0] or "Edit")
        track = otio.schema.Track("V", kind=otio.schema.TrackKind.Video)
        timeline.tracks.append(track)
        timeline.global_start_time = self.time(0)
        at: int | None = None
        for event, after in zip(self.events, [*self.events[1:], None], strict=True):
            begin, end = (self.frame(time, event) for time in event.record)
            if at is None:
                at = begin
            if end < begin:
                raise Unreadable(
                    f"{self._where(event)}: its record out {event.record[1]} is before its "
                    f"record in {event.record[0]}."
                )
            if begin < at:
                raise Unreadable(
                    f"{self._where(event)} begins at {event.record[0]}, before the event above it "
                    "ends. Correct one of the two."
                )
            if begin > at:
                track.append(otio.schema.Gap(source_range=self.span(0, begin - at)))
            at = end
            if end == begin:
                continue  # it only names the source of a transition
            if event.kind != "C":
                before = self._before(event)
                if before and len(track) and isinstance(track[-1], otio.schema.Clip):
                    out = track[-1]
                    length = round(out.source_range.duration.value) + before
                    out.source_range = otio.opentime.TimeRange(
                        out.source_range.start_time, self.time(length)
                    )
                track.append(self.transition(event))
                begin += before
            clip = self.clip(event, end - begin, begin - self.frame(event.record[0], event))
            # The name of the outgoing clip, if present, is with the event after it.
            if after is not None and after.record[0] == after.record[1]:
                clip.name = after.notes.get("FROM CLIP NAME") or clip.name
            track.append(clip)
        return timeline

    def _where(self, event: _Event) -> str:
        return f"{self.name}, line {event.line}, event {event.number}"

    def time(self, frames: int) -> otio.opentime.RationalTime:
        return otio.opentime.RationalTime(frames, self.rate)

    def span(self, first: int, length: int) -> otio.opentime.TimeRange:
        return otio.opentime.TimeRange(self.time(first), self.time(length))

    def frame(self, text: str, event: _Event) -> int:
        plain = text[:-3] + (";" if text[-3] in ";," else ":") + text[-2:]
        try:
            time: float = otio.opentime.from_timecode(plain, self.near).value
        except ValueError as fault:
            raise Unreadable(f"{self._where(event)}: “{text}” is not a timecode.") from fault
        return round(time)

    def transition(self, event: _Event) -> otio.schema.Transition:
        kinds = otio.schema.TransitionTypes
        wipe = event.kind.startswith("W")
        before = self._before(event)
        return otio.schema.Transition(
            name="", transition_type="SMPTE_Wipe" if wipe else kinds.SMPTE_Dissolve,
            in_offset=self.time(before), out_offset=self.time(max(1, event.frames) - before),
        )  # fmt: skip

    @staticmethod
    def _before(event: _Event) -> int:
        """Frames of a transition before its cut; only our own lists state them."""
        told = event.notes.get(OURS, "").split()
        before = int(told[1]) if len(told) == 2 and told[1].isdigit() else 0
        return min(before, event.frames)

    def clip(self, event: _Event, length: int, late: int) -> otio.core.Item:
        if event.reel.upper() in _BLACK:
            return otio.schema.Gap(source_range=self.span(0, length))
        pace = 1.0 if event.speed is None else event.speed / self.rate
        first = round(self.frame(event.source[0], event) + late * pace)
        if pace < 0:
            # A list names the frame that is shown first; our sources begin at their earliest frame.
            first = max(0, round(first + (length - 1) * pace))
        incoming = event.kind != "C"
        name = (event.notes.get("TO CLIP NAME") if incoming else None) or event.notes.get(
            "FROM CLIP NAME"
        )
        file = event.notes.get("SOURCE FILE", "")
        reference: otio.core.MediaReference = (
            otio.schema.ExternalReference(target_url=file) if file
            else otio.schema.MissingReference()
        )  # fmt: skip
        reference.name = name or event.reel
        clip = otio.schema.Clip(name or event.reel, reference, self.span(first, length))
        clip.metadata[KEY] = {"reel": event.reel}
        if event.speed is not None:
            if event.speed == 0:
                clip.effects.append(otio.schema.FreezeFrame())
            else:
                clip.effects.append(otio.schema.LinearTimeWarp(time_scalar=round(pace, 6)))
        return clip


def write_edl(reel: Reel, media: Mapping[str, Media]) -> tuple[str, tuple[str, ...]]:
    """The base row of an edit as a list, and a sentence on each thing that the list cannot hold.

    A dissolve begins where its event is recorded: an incoming shot begins there, and its source
    begins earlier by the same time.
    """
    return _Listed(reel, media).text()


class _Listed:
    """Writes a list."""

    def __init__(self, reel: Reel, media: Mapping[str, Media]) -> None:
        self.reel, self.media = reel, media
        self.layout, self.rate = layout_of(reel), reel.frame_rate
        self.near = otio.opentime.RationalTime.nearest_smpte_timecode_rate(float(self.rate))
        self.notes: list[str] = []
        self.lines: list[str] = []
        self.number = 0
        self.reels: dict[str, str] = {}

    def text(self) -> tuple[str, tuple[str, ...]]:
        drop = self.rate.exact.denominator == 1001 and round(self.near) in (30, 60)
        self.lines = [f"TITLE: {self.reel.name}", f"FCM: {'' if drop else 'NON-'}DROP FRAME", ""]
        at = 0
        for shot in self.reel.shots:
            begin, end = self.reel.bounds(shot.id)
            joins = self.layout.joins_of.get(shot.id, (None, None))
            before, after = joins
            first = before.span.first if before and before.join.left else begin
            last = after.span.first if after and after.join.right else end
            if first > at:
                self._black(at, first)
            self._shot(shot, begin, max(first, at), last, before.join if before else None)
            if after and after.join.right is None:
                self.notes.append(f"The transition out of {shot.name} is a cut in the list.")
            at = last
        macros = sum(join.macro not in (DISSOLVE, WIPE) for join in self.reel.joins if join.right)
        if macros:
            self.notes.append(
                f"Macros on {macros} cuts are dissolves in the list."
                if macros > 1
                else "The macro on one cut is a dissolve in the list."
            )
        above = sum(len(row.items) for row in self.reel.rows)
        if above:
            told = f"{above} items on rows above are" if above > 1 else "The item on a row above is"
            self.notes.append(f"{told} not in the list: it has one track.")
        if any(shot.looks for shot in self.reel.shots):
            self.notes.append("Looks are not in the list.")
        return "\n".join(self.lines) + "\n", tuple(self.notes)

    def _black(self, begin: int, end: int) -> None:
        self.number += 1
        self._event("BL", "C", 0, (0, end - begin), (begin, end))

    def _shot(self, shot: Shot, begin: int, first: int, last: int, join: Join | None) -> None:
        rate = self.rate.exact
        pace = -shot.speed if shot.direction == "backwards" else shot.speed
        start = shot.start * rate
        if shot.direction == "backwards":
            start += (self.reel.bounds(shot.id)[1] - begin - 1) * shot.speed
        source = round(start + (first - begin) * (pace if shot.direction != "freeze" else 0))
        taken = round((last - first) * abs(pace)) if shot.direction != "freeze" else last - first
        source = max(0, source)
        self.number += 1
        reel, name = self._reel(shot), shot.name
        joined = join is not None and join.left is not None
        kind, frames = "C", 0
        if join is not None:
            span = self.layout.spans[join.id]
            kind, frames = ("W001" if join.macro == WIPE else "D"), span.length
            if joined:
                left = self.reel.named(join.left or "")
                assert isinstance(left, Shot)
                zero = (source, source), (first, first)
                self._event(self._reel(left), "C", 0, *zero)
                self.lines.append(f"* FROM CLIP NAME: {left.name}")
            else:
                self._event("BL", "C", 0, (0, 0), (first, first))
        self._event(reel, kind, frames, (source, source + taken), (first, last))
        self.lines.append(f"* {'TO' if join else 'FROM'} CLIP NAME: {name}")
        media = self.media.get(shot.material)
        if media is not None:
            self.lines.append(f"* SOURCE FILE: {media.file}")
        if join is not None:
            self.lines.append(f"* EFFECT NAME: {join.macro.upper()}")
            if joined and join.alignment != "after":
                self.lines.append(f"* {OURS}: {join.alignment.upper()} {begin - first}")
        if shot.direction == "freeze" or pace != 1:
            told = 0.0 if shot.direction == "freeze" else float(pace * rate)
            self.lines.append(f"M2   {reel:<8} {told:09.4f}   {self._code(source)}")

    def _event(
        self, reel: str, kind: str, frames: int, source: tuple[int, int], record: tuple[int, int]
    ) -> None:
        length = f"{frames:03d}" if frames else "   "
        times = " ".join(self._code(one) for one in (*source, *record))
        self.lines.append(f"{self.number:03d}  {reel:<8} V     {kind:<4} {length} {times}")

    def _code(self, frame: int) -> str:
        return timecode(otio.opentime.RationalTime(frame, float(self.rate)), self.rate)

    def _reel(self, shot: Shot) -> str:
        """A short name for a material, always the same and unique."""
        if shot.material not in self.reels:
            media = self.media.get(shot.material)
            plain = re.sub(r"[^A-Z0-9]", "", (media.name if media else shot.name).upper())
            base = plain[:REEL_LENGTH] or "REEL"
            made, number = base, 1
            while made in self.reels.values() or made in _BLACK:
                number += 1
                made = f"{base[: REEL_LENGTH - len(str(number))]}{number}"
            self.reels[shot.material] = made
        return self.reels[shot.material]
