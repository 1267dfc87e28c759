"""Copy coded pictures of a source into a film if nothing changes them."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path
from typing import Any

import av

from ...core.pictures.picture import Size
from ...core.time.timing import FrameRate
from ..formats import Format
from .film_writer import opened

_TAGS = {"prores-hq": "apch", "prores-4444": "ap4h"}
"""Codes of the profiles in files. Apple ProRes white paper, table 1."""


def copied(
    source: Path, first: int, count: int, target: Path, form: Format, size: Size, rate: FrameRate
) -> bool:
    """Write a stretch from the coded pictures of a file; False if they do not fit the format.

    They fit if the file has the same codec, size and rate, and the stretch consists of whole groups
    of pictures.

    Parameters
    ----------
    first, count : int
        Frames of the source.
    """
    part = target.with_name(f".{target.name}.part")
    try:
        with av.open(str(source)) as film:
            stream = film.streams.video[0]
            if not _fits(film, stream, form, size, rate):
                return False
            film.seek(0, stream=stream)
            packets = _group(film, stream, first, count)
            if packets is None:
                return False
            with opened(part, form) as out:
                track = out.add_stream_from_template(stream, opaque=True)
                assert stream.time_base is not None
                frame = 1 / rate.exact / stream.time_base
                for number, packet in enumerate(packets):
                    packet.pts = packet.dts = round(number * frame)
                    packet.stream = track
                    out.mux(packet)
        part.replace(target)
    except (av.FFmpegError, OSError, IndexError):
        return False
    finally:
        with suppress(OSError):
            part.unlink(missing_ok=True)
    return True


def _fits(film: Any, stream: Any, form: Format, size: Size, rate: FrameRate) -> bool:
    """Whether a file is coded in the way of the format."""
    context = stream.codec_context
    tag = _TAGS.get(form.slug)
    alike = (
        context.name == form.copies
        and (context.width, context.height) == (size.width, size.height)
        and stream.average_rate == rate.exact
        and stream.sample_aspect_ratio in (None, 0, 1)
        and (context.codec_tag == tag if tag else context.pix_fmt == form.planes)
    )
    if not alike:
        return False
    shown = next(film.decode(stream))
    # Rec. 709 in video range, like the format's tags, or not stated.
    plain = shown.colorspace in (1, 2) and shown.color_range in (0, 1)
    return plain and not getattr(shown, "rotation", 0) and not shown.interlaced_frame


def _group(film: Any, stream: Any, first: int, count: int) -> list[Any] | None:
    """The packets of ``count`` frames; None if they are not whole groups, or some are missing."""
    kept: list[Any] = []
    for number, packet in enumerate(one for one in film.demux(stream) if one.pts is not None):
        if number < first:
            continue
        if number == first + count:
            # Frames after the copied ones must not refer to them, nor the copied ones to later
            # frames.
            return kept if packet.is_keyframe else None
        if number == first and not packet.is_keyframe:
            return None
        kept.append(packet)
    return kept if len(kept) == count else None
