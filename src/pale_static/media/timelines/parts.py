"""OpenTimelineIO files, read within limits, and the fields of single parts of a timeline."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping, Sequence
from fractions import Fraction
from pathlib import PurePosixPath
from typing import Any
from urllib.parse import unquote

import numpy as np
import opentimelineio as otio

from ...core.faults import TooLarge, Unreadable
from ...core.time.timing import FrameRate
from .writing import KEY

MOST_TEXT = 32 << 20
MOST_NESTED = 500


def read_otio(data: bytes, name: str) -> otio.schema.Timeline:
    """A timeline from the bytes of an ``.otio`` file.

    Raises
    ------
    Unreadable, TooLarge
    """
    if len(data) > MOST_TEXT:
        raise TooLarge(f"{name} is larger than {MOST_TEXT >> 20} MB, more than an edit can need.")
    if _depth(data) > MOST_NESTED:
        raise Unreadable(f"{name} nests its parts more than {MOST_NESTED} deep.")
    try:
        found = otio.adapters.read_from_string(data.decode("utf-8"), "otio_json")
    except UnicodeDecodeError:
        raise Unreadable(
            f"{name} is not OpenTimelineIO: it holds bytes that are not text."
        ) from None
    except Exception as fault:
        raise Unreadable(f"{name} cannot be read as OpenTimelineIO: {_said(fault)}.") from fault
    return timeline_of(found, name)


_TEXT = re.compile(rb'"(?:[^"\\]|\\.)*"', re.DOTALL)


def _depth(data: bytes) -> int:
    """The depth of nested lists and objects. The library's reader has no limit and would crash."""
    marks = np.frombuffer(_TEXT.sub(b"", data), np.uint8)
    steps = np.isin(marks, (0x5B, 0x7B)).astype(np.int32) - np.isin(marks, (0x5D, 0x7D))
    return int(steps.cumsum().max(initial=0))


def timeline_of(found: Any, name: str) -> otio.schema.Timeline:
    """The first timeline among the objects of a file."""
    if isinstance(found, otio.schema.SerializableCollection):
        found = next(iter(one for one in found if isinstance(one, otio.schema.Timeline)), None)
    if isinstance(found, otio.schema.Timeline):
        return found
    raise Unreadable(f"{name} holds no timeline. Export the edit as a timeline.")


def _said(fault: Exception) -> str:
    return (str(fault).splitlines() or [type(fault).__name__])[0][:200].rstrip(".")


def stem(name: str) -> str:
    """A file's name without folder and ending, in small letters."""
    return PurePosixPath(name.replace("\\", "/")).stem.lower()


def own_metadata(thing: Any) -> Mapping[str, Any]:
    """Our metadata of a part; empty if there is none, or something else has our name."""
    kept = _as_plain(thing.metadata.get(KEY))
    return kept if isinstance(kept, Mapping) else {}


def part_of(kept: Mapping[str, Any], name: str) -> dict[str, Any]:
    """An object in our metadata by its name; empty if it is missing or not an object."""
    value = kept.get(name)
    return dict(value) if isinstance(value, Mapping) else {}


def _as_plain(value: Any) -> Any:
    """Metadata as plain dictionaries and lists; the library's own objects are left out."""
    if isinstance(value, str | int | float | bool) or value is None:
        return value
    if isinstance(value, Mapping) or hasattr(value, "keys"):
        return {str(name): _as_plain(value[name]) for name in value}
    if isinstance(value, Sequence) or type(value).__name__ == "AnyVector":
        return [_as_plain(one) for one in value]
    return None


def exact_seconds(value: Any) -> Fraction | None:
    """Exact seconds from our own text; None if it holds none."""
    try:
        return None if value is None else Fraction(str(value))
    except (ValueError, ZeroDivisionError):
        return None


def duration_of(child: Any) -> otio.opentime.RationalTime:
    """The length of a part in seconds.

    Raises
    ------
    Unreadable
        If neither it nor its media say so.
    """
    try:
        return child.duration()
    except Exception as fault:
        name = child.name or "A piece"
        raise Unreadable(f"{name} has no length, and neither do its media.") from fault


def flattened(child: otio.core.Composition) -> otio.schema.Track:
    """A nested stack or track as one track, cut to its used range."""
    copy = child.deepcopy()
    span = copy.source_range
    copy.source_range = None
    if isinstance(copy, otio.schema.Stack):
        tracks = []
        while len(copy):
            one = copy.pop(0)
            if not isinstance(one, otio.schema.Track):
                alone = otio.schema.Track()
                alone.append(one)
                one = alone
            tracks.append(one)
        copy = otio.algorithms.flatten_stack(tracks)
    return otio.algorithms.track_trimmed_to_range(copy, span) if span is not None else copy


def rate_of(timeline: otio.schema.Timeline) -> str:
    """The rate of a timeline: its own, else that of its first piece."""
    times: list[Callable[[], Any]] = [lambda: timeline.global_start_time]
    times += [lambda one=one: one.source_range.duration for one in timeline.find_clips()]  # type: ignore[misc]
    for time in times:
        try:
            rate = time().rate
        except AttributeError:
            continue
        if math.isfinite(rate) and 1 <= rate <= 1000:
            return str(nearest_rate(rate))
    return "25"


def nearest_rate(rate: float) -> FrameRate:
    """The exact rate that a decimal number means."""
    return FrameRate.of(Fraction(rate).limit_denominator(1001))


def media_stem(clip: otio.schema.Clip) -> str:
    """The name of a clip's media file, as :func:`stem` gives it; the clip's own name if there is no
    file."""
    reference = clip.media_reference
    url = getattr(reference, "target_url", "") or ""
    return stem(unquote(url)) or stem(clip.name or "")
