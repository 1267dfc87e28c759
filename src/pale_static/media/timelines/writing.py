"""Edits to OpenTimelineIO, for other edit systems and back.

Things that other systems know (shots, gaps, transitions, speeds, marks) are written in the terms of
OpenTimelineIO. Everything else is in the metadata under one name, so that an unchanged file gives
the same edit exactly.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import opentimelineio as otio

from ...core.reel import Item, Join, MacroUse, Mark, Reel, Row, Shot, Source, layout_of
from ...core.time.timing import FrameRate, nearest_frame
from .named_media import Media

KEY = "pale_static"
"""Our name in metadata."""
SHOTS, SOUND = "Shots", "Sound"
GENERATOR = f"{KEY}.macro"


def to_timeline(reel: Reel, media: Mapping[str, Media]) -> otio.schema.Timeline:
    """An edit as a timeline.

    Parameters
    ----------
    media : mapping
        The materials by their ids; others become missing media.
    """
    return _Writing(reel, media).timeline()


class _Writing:
    """Writes one edit."""

    def __init__(self, reel: Reel, media: Mapping[str, Media]) -> None:
        self.reel, self.media = reel, media
        self.rate = float(reel.frame_rate)
        self.layout = layout_of(reel)

    def timeline(self) -> otio.schema.Timeline:
        reel = self.reel
        timeline = otio.schema.Timeline(reel.name, global_start_time=self.time(0))
        kept = reel.model_dump(mode="json", exclude_defaults=True)
        for name in ("shots", "joins", "rows", "marks"):
            kept.pop(name, None)
        timeline.metadata[KEY] = {"format": reel.format, "edit": kept}
        timeline.tracks.append(self.base())
        for row in reel.rows:
            timeline.tracks.append(self.row(row))
        if any(self.heard(shot) for shot in reel.shots):
            timeline.tracks.append(self.sound())
        for mark in reel.marks:
            timeline.tracks.markers.append(self.mark(mark))
        return timeline

    def time(self, frames: int) -> otio.opentime.RationalTime:
        return otio.opentime.RationalTime(frames, self.rate)

    def span(self, first: int, length: int) -> otio.opentime.TimeRange:
        return otio.opentime.TimeRange(self.time(first), self.time(length))

    def base(self) -> otio.schema.Track:
        track = otio.schema.Track(SHOTS, kind=otio.schema.TrackKind.Video)
        at = 0
        for shot in self.reel.shots:
            begin, end = self.reel.bounds(shot.id)
            self._placed(track, shot, at, begin, end, self.clip(shot, shot, end - begin))
            at = end
        return track

    def row(self, row: Row) -> otio.schema.Track:
        track = otio.schema.Track(row.id, kind=otio.schema.TrackKind.Video)
        track.metadata[KEY] = {"row": row.id}
        at = 0
        for item in row.items:
            begin, end = self.reel.bounds(item.id)
            clip = (
                self.clip(item, item.source, end - begin) if item.source is not None
                else self.generated(item, end - begin)
            )  # fmt: skip
            self._placed(track, item, at, begin, end, clip)
            at = end
        return track

    def _placed(
        self, track: otio.schema.Track, one: Shot | Item, at: int, begin: int, end: int,
        clip: otio.schema.Clip,
    ) -> None:  # fmt: skip
        """Append a clip with the gap before it and the transitions around it."""
        if begin > at:
            track.append(otio.schema.Gap(source_range=self.span(0, begin - at)))
        before, after = self.layout.joins_of.get(one.id, (None, None))
        if before is not None:
            span = before.span
            track.append(self.transition(before.join, begin - span.first, span.end - begin))
        track.append(clip)
        if after is not None and after.join.right is None:
            track.append(self.transition(after.join, end - after.span.first, 0))

    def transition(self, join: Join, before: int, after: int) -> otio.schema.Transition:
        made = otio.schema.Transition(
            name=join.id, transition_type=otio.schema.TransitionTypes.SMPTE_Dissolve,
            in_offset=self.time(before), out_offset=self.time(after),
        )  # fmt: skip
        made.metadata[KEY] = {"join": _plain(join)}
        return made

    def clip(self, one: Shot | Item, source: Source, length: int) -> otio.schema.Clip:
        start = otio.opentime.RationalTime(
            float(source.start * self.reel.frame_rate.exact), self.rate
        )
        clip = otio.schema.Clip(
            one.name, self.reference(source.material),
            otio.opentime.TimeRange(start, self.time(length)),
        )  # fmt: skip
        if source.direction == "freeze":
            clip.effects.append(otio.schema.FreezeFrame())
        elif source.direction == "backwards" or source.speed != 1:
            pace = -source.speed if source.direction == "backwards" else source.speed
            clip.effects.append(otio.schema.LinearTimeWarp(time_scalar=float(pace)))
        return self._with_ours(clip, one)

    def generated(self, item: Item, length: int) -> otio.schema.Clip:
        assert item.use is not None
        use = item.use
        reference = otio.schema.GeneratorReference(
            name=use.macro, generator_kind=GENERATOR, available_range=self.span(0, length),
            parameters={"macro": use.macro, "version": use.version, "settings": use.settings},
        )  # fmt: skip
        return self._with_ours(otio.schema.Clip(item.name, reference, self.span(0, length)), item)

    def _with_ours(self, clip: otio.schema.Clip, one: Shot | Item) -> otio.schema.Clip:
        kept = _plain(one)
        kept.pop("looks", None)
        clip.metadata[KEY] = {"shot" if isinstance(one, Shot) else "item": kept}
        for look in one.looks:
            effect = otio.schema.Effect(name=look.macro, effect_name=f"{KEY}.look")
            effect.metadata[KEY] = {"look": _plain(look)}
            clip.effects.append(effect)
        return clip

    def reference(self, material: str) -> otio.core.MediaReference:
        media = self.media.get(material)
        if media is None:
            return otio.schema.MissingReference(name=material, metadata={KEY: {"id": material}})
        reference = otio.schema.ExternalReference(target_url=media.file)
        reference.name = media.name
        reference.metadata[KEY] = {"id": material}
        if media.seconds is not None:
            rate = float(media.rate or self.reel.frame_rate)
            length = otio.opentime.RationalTime(float(media.seconds) * rate, rate)
            zero = otio.opentime.RationalTime(0, rate)
            reference.available_range = otio.opentime.TimeRange(zero, length)
        return reference

    def heard(self, shot: Shot) -> bool:
        media = self.media.get(shot.material)
        return bool(media and media.sound and not shot.mute and shot.direction != "freeze")

    def sound(self) -> otio.schema.Track:
        """A track with the sound of the shots, for systems that keep sound apart. Reading ignores
        it."""
        track = otio.schema.Track(SOUND, kind=otio.schema.TrackKind.Audio)
        track.metadata[KEY] = {"follows": SHOTS}
        at = 0
        for shot in self.reel.shots:
            begin, end = self.reel.bounds(shot.id)
            if not self.heard(shot):
                continue
            if begin > at:
                track.append(otio.schema.Gap(source_range=self.span(0, begin - at)))
            clip = self.clip(shot, shot, end - begin)
            for effect in [one for one in clip.effects if KEY in one.metadata]:
                clip.effects.remove(effect)
            track.append(clip)
            at = end
        return track

    def mark(self, mark: Mark) -> otio.schema.Marker:
        at = nearest_frame(mark.at.numerator, mark.at.denominator, self.reel.frame_rate.exact)
        marker = otio.schema.Marker(mark.name, self.span(at, 0))
        marker.metadata[KEY] = {"at": str(mark.at)}
        return marker


def _plain(model: Shot | Item | Join | MacroUse) -> dict[str, Any]:
    kept: dict[str, Any] = model.model_dump(mode="json", exclude_defaults=True)
    return kept


def timeline_text(timeline: otio.schema.Timeline) -> str:
    """A timeline as the text of an ``.otio`` file."""
    return str(otio.adapters.write_to_string(timeline, "otio_json"))


def marks_csv(reel: Reel) -> str:
    """The marks of an edit as comma-separated values: timecode, seconds, name."""
    import csv
    import io

    rate = reel.frame_rate
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(["timecode", "frame", "seconds", "name"])
    for mark in reel.marks:
        frame = nearest_frame(mark.at.numerator, mark.at.denominator, rate.exact)
        time = otio.opentime.RationalTime(frame, float(rate))
        table.writerow([timecode(time, rate), frame, f"{float(mark.at):.6f}", mark.name])
    return out.getvalue()


def timecode(time: otio.opentime.RationalTime, rate: FrameRate) -> str:
    """SMPTE timecode of a time; drop-frame at 29.97 and 59.94."""
    near = otio.opentime.RationalTime.nearest_smpte_timecode_rate(float(rate))
    return str(otio.opentime.to_timecode(time.rescaled_to(near), near))
