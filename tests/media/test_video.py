"""Video in and out, with real files."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from skimage.metrics import peak_signal_noise_ratio, structural_similarity

from pale_static.core import Fault, FrameRate, Size, to_pixels
from pale_static.core.faults import Missing, Unreadable
from pale_static.core.pictures.picture import from_pixels
from pale_static.demo.clips import CLIPS
from pale_static.media.films.film_writer import write_clip as write_film
from pale_static.media.films.video import VideoFootage
from pale_static.media.foreign.reading import open_footage
from pale_static.media.formats import Encoding, format_for, format_of, parse_quality
from pale_static.media.writing import Behind, open_writer, ready

from ..conftest import write_clip

MP4 = Encoding(format_of("mp4"), parse_quality(format_of("mp4"), "finest"))


def grey(footage: VideoFootage, index: int) -> float:
    return float(footage.pixels(index)[60:, :, 0].mean())


def test_every_frame_is_found_by_number_in_any_order(tmp_path: Path) -> None:
    clip = VideoFootage(write_clip(tmp_path / "clip.mp4", frames=25))
    assert clip.length == 25
    for index in (13, 2, 24, 3, 4, 5, 0, 23, 11):
        assert grey(clip, index) == pytest.approx(40 + 8 * index % 200, abs=2.5)
    assert grey(clip, 99) == grey(clip, 24)
    assert grey(clip, -5) == grey(clip, 0)


def test_a_film_round_trips_with_its_rate_size_tags_and_picture(tmp_path: Path) -> None:
    path = tmp_path / "out.mp4"
    frames = [CLIPS[2].frame(k * 20, 0.25) for k in range(5)]
    write_film(path, MP4, FrameRate.of("29.97"), frames)
    with av.open(str(path)) as container:
        stream = container.streams.video[0]
        assert stream.average_rate == Fraction(30000, 1001)
        assert (stream.width, stream.height, stream.frames) == (320, 180, 5)
        context = stream.codec_context
        # ITU-T H.273: 1 is Rec. 709.
        assert (context.colorspace, context.color_primaries, context.color_trc) == (1, 1, 1)
    clip = VideoFootage(path)
    assert clip.facts().rate == "30000/1001"
    for n, pixels in enumerate(frames):
        back = clip.pixels(n)
        # Source: scikit-image. On luminance (Rec. 709), because 4:2:0 halves the colour resolution;
        # common practice takes 38 dB as hard to tell from the original.
        weights = np.array([0.2126, 0.7152, 0.0722])
        assert peak_signal_noise_ratio(pixels @ weights, back @ weights, data_range=255) > 38
        assert structural_similarity(pixels, back, channel_axis=2) > 0.95


def test_rotation_is_honoured(tmp_path: Path) -> None:
    path = write_clip(tmp_path / "clip.mp4", frames=3)
    turned = tmp_path / "turned.mp4"
    with av.open(str(path)) as source, av.open(str(turned), "w") as target:
        stream = source.streams.video[0]
        out = target.add_stream_from_template(stream)
        matrix = getattr(out, "set_display_rotation", None)
        if matrix is None:
            out.metadata["rotate"] = "90"
        else:
            matrix(90)
        for packet in source.demux(stream):
            if packet.dts is not None:
                packet.stream = out
                target.mux(packet)
    with av.open(str(turned)) as container:
        rotation = next(container.decode(video=0)).rotation
    if rotation == 0:
        pytest.skip("this build cannot write a rotation tag")
    clip = VideoFootage(turned)
    assert clip.size == Size(90, 160)


def test_a_varying_rate_is_resolved_to_a_constant_one(tmp_path: Path) -> None:
    path = tmp_path / "varying.mkv"
    times = [0, 40, 80, 120, 320, 360, 400, 440, 480, 520, 560]
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=25)
        stream.width, stream.height, stream.pix_fmt = 64, 36, "yuv420p"
        stream.codec_context.time_base = Fraction(1, 1000)
        for k, time in enumerate(times):
            frame = av.VideoFrame.from_ndarray(np.full((36, 64, 3), 20 * k, np.uint8), "rgb24")
            frame.pts, frame.time_base = time, Fraction(1, 1000)
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    clip = VideoFootage(path)
    assert clip.varying
    assert "Varying frame rate" in clip.facts().problems[0]
    rate = float(clip.rate)
    for n in range(clip.length):
        # Frame n is the file's frame at n/rate seconds.
        shown = max(k for k, time in enumerate(times) if time <= n / rate * 1000 + 1)
        assert clip.pixels(n).mean() == pytest.approx(20 * shown, abs=6)


def test_png_sequences_are_16_bit_and_exact(tmp_path: Path) -> None:
    rng = np.random.default_rng(1)
    pixels = rng.integers(0, 65536, (9, 16, 4), dtype=np.uint16)
    pixels[..., 3] = np.maximum(pixels[..., 3], 20000)
    png = format_for(Path("f_%03d.png"))
    writer = open_writer(tmp_path / "f_%03d.png", Encoding(png), Size(16, 9), FrameRate.of(25), 8)
    writer.put(7, ready(from_pixels(pixels), png))
    assert [path.name for path in writer.finish()] == ["f_007.png"]
    back = open_footage(tmp_path / "f_007.png").pixels(0)
    assert back.dtype == np.uint16
    assert np.abs(back.astype(int) - to_pixels(from_pixels(pixels), 16)).max() == 0


def test_what_cannot_be_written_is_refused(tmp_path: Path) -> None:
    with pytest.raises(Fault, match="even width and height"):
        open_writer(tmp_path / "out.mp4", MP4, Size(321, 180), FrameRate.of(25), 5)
    with pytest.raises(Fault, match="does not say what to write"):
        format_for(Path("out.gif"))


def test_a_failed_film_leaves_nothing_behind(tmp_path: Path) -> None:
    writer = open_writer(tmp_path / "out.mp4", MP4, Size(32, 18), FrameRate.of(25), 5)
    behind = Behind(writer, MP4.format)
    behind.put(0, np.zeros((18, 32, 3), np.uint8))
    with pytest.raises(RuntimeError), behind:
        raise RuntimeError
    assert not list(tmp_path.iterdir())


def test_broken_video_is_told_in_words(tmp_path: Path) -> None:
    text = tmp_path / "notes.mp4"
    text.write_text("This is no film.")
    with pytest.raises(Unreadable, match="neither a picture, a video, a font nor a lookup table"):
        open_footage(text)
    empty = tmp_path / "empty.mp4"
    empty.write_bytes(b"")
    with pytest.raises(Unreadable, match="is empty"):
        open_footage(empty)
    with pytest.raises(Missing):
        open_footage(tmp_path / "gone.mp4")
    whole = write_clip(tmp_path / "clip.mp4").read_bytes()
    cut = tmp_path / "cut.mp4"
    cut.write_bytes(whole[: len(whole) // 3])
    with pytest.raises(Unreadable):
        open_footage(cut)


def test_a_video_of_no_length_is_told_in_words(tmp_path: Path) -> None:
    path = tmp_path / "none.mkv"
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=25)
        stream.width, stream.height, stream.pix_fmt = 64, 36, "yuv420p"
        container.start_encoding()
    with pytest.raises(Unreadable, match=r"zero|cannot be read"):
        open_footage(path)
