"""The reference for renders: two films through FFmpeg's ``xfade=fade``, in a process of its own.

``python -m bench.fade A B OUT FORMAT`` decodes, mixes and encodes with the settings of a format of
the table.
"""

from __future__ import annotations

import sys
from fractions import Fraction
from typing import Any

import av
import av.filter

from pale_static.media.formats import Encoding, format_of


def cross(graph: av.filter.Graph, buffers: list[Any], transition: str, seconds: float) -> None:
    """Connect two sources of a graph to FFmpeg's ``xfade``, and configure the graph."""
    fade: Any = graph.add("xfade", f"transition={transition}:duration={seconds}:offset=0")
    for k, buffer in enumerate(buffers):
        rate = graph.add("fps", "25")
        buffer.link_to(rate)
        rate.link_to(fade, 0, k)
    fade.link_to(graph.add("buffersink"))
    graph.configure()


def run(first: str, second: str, out: str, slug: str) -> int:
    """Run the fade; returns the number of written frames."""
    form = format_of(slug)
    films = [av.open(path) for path in (first, second)]
    streams = [film.streams.video[0] for film in films]
    for stream in streams:
        stream.thread_type = "AUTO"
    graph = av.filter.Graph()
    buffers = [graph.add_buffer(template=stream, time_base=stream.time_base) for stream in streams]
    cross(graph, buffers, "fade", 2)
    made = av.open(out, "w", format=form.container)
    stream: Any = made.add_stream(form.encoder, rate=25)
    stream.width, stream.height = streams[0].width, streams[0].height
    stream.pix_fmt, stream.time_base = form.planes, Fraction(1, 25)
    stream.options = Encoding(form).options
    stream.codec_context.gop_size = 1 if form.lossless else 50
    frames = [film.decode(video=0) for film in films]
    left, count = {0, 1}, 0
    while True:
        for k in sorted(left):
            frame = next(frames[k], None)
            buffers[k].push(frame)
            if frame is None:
                left.discard(k)
        while True:
            try:
                mixed: Any = graph.pull()
            except (av.error.BlockingIOError, av.error.EOFError):
                break
            mixed.pts, mixed.time_base, mixed.pict_type = count, Fraction(1, 25), 0
            made.mux(stream.encode(mixed))
            count += 1
        if not left:
            break
    made.mux(stream.encode(None))
    made.close()
    return count


if __name__ == "__main__":
    run(*sys.argv[1:])
