"""Every format of the table: written, read back with other readers, and compared."""

from __future__ import annotations

import dataclasses
import subprocess
import sys
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import OpenEXR
import pytest
import tifffile
from PIL import Image, ImageCms

from pale_static.core import Fault, FrameRate, Size
from pale_static.core.kernels.colour import yuv
from pale_static.core.pictures.colour import to_linear
from pale_static.core.pictures.picture import from_pixels, to_pixels
from pale_static.core.sound import SOUND_RATE
from pale_static.media.films.film_writer import write_clip
from pale_static.media.films.stretches import SegmentedFilm
from pale_static.media.foreign.reading import open_footage
from pale_static.media.formats import (
    FORMATS,
    Encoding,
    Format,
    format_for,
    format_of,
    parse_quality,
)
from pale_static.media.kept_files import KeptFiles
from pale_static.media.pictures.sequences import GAP
from pale_static.media.writing import Behind, indices_of, open_writer, ready

SIZE, RATE, TOTAL = Size(192, 96), FrameRate.of("29.97"), 13
BARS = ("white", "yellow", "cyan", "green", "magenta", "red", "blue", "black")
# 75 % bars: R'G'B' of 0 and 0.75 (SMPTE ECR 1-1978, from memory), and their 8-bit codes by
# Rec. 709 (ITU-R BT.709-6; common practice, from memory).
RGB = {
    "white": (1, 1, 1), "yellow": (1, 1, 0), "cyan": (0, 1, 1), "green": (0, 1, 0),
    "magenta": (1, 0, 1), "red": (1, 0, 0), "blue": (0, 0, 1), "black": (0, 0, 0),
}  # fmt: skip
CODES = {
    "white": (180, 128, 128), "yellow": (168, 44, 136), "cyan": (145, 147, 44),
    "green": (133, 63, 52), "magenta": (63, 193, 204), "red": (51, 109, 212),
    "blue": (28, 212, 120), "black": (16, 128, 128),
}  # fmt: skip
WIDE = SIZE.width // len(BARS)


def bars(alpha: float = 1.0) -> Any:
    """Colour bars as a premultiplied picture."""
    picture = np.zeros((SIZE.height, SIZE.width, 4), np.float32)
    for k, name in enumerate(BARS):
        picture[:, k * WIDE : (k + 1) * WIDE, :3] = 0.75 * np.array(RGB[name])
    picture[..., :3] *= alpha
    picture[..., 3] = alpha
    return picture


def moving(n: int) -> Any:
    """Noise in an opaque square that moves, over half clear grey."""
    pixels = np.full((SIZE.height, SIZE.width, 4), 0.5, np.float32)
    rng = np.random.default_rng(n)
    left = 10 + 6 * (n % 20)
    pixels[20:60, left : left + 40, :3] = rng.random((40, 40, 3))
    pixels[20:60, left : left + 40, 3] = 1
    return pixels


def hum(first: int, count: int) -> Any:
    """A tone of 440 Hz, at half strength on the right."""
    line = 0.4 * np.sin(2 * np.pi * 440 * (first + np.arange(count)) / SOUND_RATE)
    return np.stack([line, line / 2], 1).astype(np.float32)


def write(folder: Path, form: Format, picture: Any, total: int = TOTAL, **choices: Any) -> Any:
    """Write a film or pictures like a render; returns the files."""
    name = f"f_%02d{form.ending}" if form.numbered else f"out{form.ending}"
    encoding, sound = Encoding(form, **choices), hum if form.sound else None
    writer: Any
    if form.joined:
        writer = SegmentedFilm(
            folder / name, encoding, SIZE, RATE, total, KeptFiles(folder / "kept", 1 << 30),
            lambda first, count: f"{form.slug}-{first}-{count}", stretch=5, sound=sound,
        )  # fmt: skip
    else:
        writer = open_writer(folder / name, encoding, SIZE, RATE, total)
    with Behind(writer, form) as behind:
        for n in indices_of(form, 0, total):
            behind.put(n, ready(picture(n), form))
    return behind.paths


FILMS = [one for one in FORMATS if one.shape == "film"]


@pytest.mark.parametrize("form", FILMS, ids=lambda one: one.slug)
def test_a_film_has_its_frames_rate_size_tags_and_sound(tmp_path: Path, form: Format) -> None:
    (path,) = write(tmp_path, form, moving)
    # Facts as PyAV, which is FFmpeg, reads them.
    with av.open(str(path)) as film:
        video, audio = film.streams.video[0], film.streams.audio[0]
        context = video.codec_context
        assert (context.width, context.height) == (SIZE.width, SIZE.height)
        assert video.average_rate == Fraction(30000, 1001)
        lossless = form.lossless
        # ITU-T H.273: 1 is Rec. 709, 13 the sRGB curve, 0 no matrix; range 1 is video, 2 full.
        tags = (context.color_primaries, context.color_trc, context.colorspace)
        assert tags == ((1, 13, 0) if lossless else (1, 1, 1))
        assert context.color_range == (2 if lossless else 1)
        frames = [(frame.time, frame) for frame in film.decode(video)]
        assert len(frames) == TOTAL
        for n, (time, _) in enumerate(frames):
            assert time == pytest.approx(n / float(RATE), abs=0.0011)
        deepest = max(part.bits for part in frames[0][1].format.components)
        # FFmpeg's decoder reports 12 bits for ProRes 4444 after the first frame.
        assert deepest in ((10, 12) if form.slug == "prores-4444" else (form.bits,))
    with av.open(str(path)) as film:
        wanted = round(TOTAL / float(RATE) * SOUND_RATE)
        resampler = av.AudioResampler(format="fltp", layout="stereo", rate=SOUND_RATE)
        found = [piece.to_ndarray() for one in film.decode(film.streams.audio[0])
                 for piece in resampler.resample(one)]  # fmt: skip
    line = np.concatenate(found, axis=1)
    assert audio.codec_context.name == {"pcm_s24le": "pcm_s24le", "flac": "flac", "aac": "aac",
                                        "libopus": "opus"}[form.sound]  # fmt: skip
    assert abs(line.shape[1] - wanted) <= 1024
    if form.sound in ("pcm_s24le", "flac"):
        assert line.shape[1] == wanted
        np.testing.assert_allclose(line.T, hum(0, wanted), atol=2.0**-23)
    else:
        middle = line[:, 4000:12000]
        assert np.sqrt((middle[0] ** 2).mean()) == pytest.approx(0.4 / np.sqrt(2), rel=0.05)
        assert np.abs(middle[1]).max() == pytest.approx(0.2, rel=0.1)


@pytest.mark.parametrize("form", FILMS, ids=lambda one: one.slug)
def test_colour_bars_survive_a_film_within_one_code_value(tmp_path: Path, form: Format) -> None:
    write(tmp_path, form, lambda n: bars(), total=6)
    with av.open(str(tmp_path / f"out{form.ending}")) as film:
        frame = list(film.decode(video=0))[-1]
    if form.lossless:
        back = open_footage(tmp_path / f"out{form.ending}").pixels(3)
        np.testing.assert_array_equal(back, to_pixels(bars(), form.bits))
        return
    planes = [np.frombuffer(p, np.uint16 if form.bits > 8 else np.uint8).reshape(p.height, -1)
              for p in frame.planes]  # fmt: skip
    depth = frame.format.components[0].bits
    across = [1, *[planes[0].shape[1] // planes[1].shape[1]] * 2]
    for k, name in enumerate(BARS):
        for plane, share, code in zip(planes, across, CODES[name], strict=False):
            middle = plane[:, (k * WIDE + 8) // share : ((k + 1) * WIDE - 8) // share]
            middle = middle[8:-8] / 2 ** (depth - 8)
            assert np.abs(middle - code).max() <= 1, (name, middle.mean(), code)


@pytest.mark.parametrize("form", [one for one in FORMATS if one.alpha and one.encoder],
                         ids=lambda one: one.slug)  # fmt: skip
def test_alpha_survives_and_lossless_films_do_to_the_bit(tmp_path: Path, form: Format) -> None:
    (path,) = write(tmp_path, form, moving)
    if form.slug == "webp":
        # FFmpeg reads no animated WebP: Pillow does.
        film = Image.open(path)
        film.seek(4)
        assert film.n_frames == TOTAL
        back = np.array(film.convert("RGBA"))
    else:
        clip = open_footage(path)
        assert clip.length == TOTAL
        back = clip.pixels(4)
    assert back.shape == (SIZE.height, SIZE.width, 4)
    wanted = to_pixels(moving(4), 16 if back.dtype == np.uint16 else 8)
    if form.lossless:
        np.testing.assert_array_equal(back, wanted)
    else:
        top = np.iinfo(back.dtype).max
        # Within two of 255, except at the border of the square.
        near = np.abs(back[..., 3].astype(float) - wanted[..., 3]) / top * 255 <= 2
        assert near.mean() > 0.98


@pytest.mark.parametrize("slug", ["mp4", "webm", "av1", "prores-hq"])
def test_without_alpha_clear_areas_are_black(tmp_path: Path, slug: str) -> None:
    form = format_of(slug)
    write(tmp_path, form, lambda n: np.zeros((SIZE.height, SIZE.width, 4), np.float32), total=3)
    back = open_footage(tmp_path / f"out{form.ending}").pixels(1)
    assert back.shape[2] == 3
    assert back.max() <= 1


def test_pictures_are_exact_tagged_srgb_and_have_straight_alpha(tmp_path: Path) -> None:
    for slug in ("png", "png-8", "tiff"):
        form = format_of(slug)
        paths = write(tmp_path, form, moving, total=3)
        assert [one.name for one in paths] == [f"f_0{n}{form.ending}" for n in range(3)]
        back = open_footage(paths[2]).pixels(0)
        np.testing.assert_array_equal(back, to_pixels(moving(2), form.bits))
        if form.ending == ".png":
            # Pillow reads the chunk that says sRGB; rendering intent 0.
            assert Image.open(paths[0]).info["srgb"] == 0
        else:
            with tifffile.TiffFile(paths[0]) as file:
                tags = file.pages[0].tags
                assert tags["ExtraSamples"].value == (2,)  # TIFF 6.0: unassociated alpha
                profile = ImageCms.ImageCmsProfile(__import__("io").BytesIO(tags[34675].value))
                assert "sRGB" in ImageCms.getProfileDescription(profile)


@pytest.mark.parametrize("slug", ["exr", "exr-32"])
def test_openexr_is_premultiplied_linear_light_with_its_range(tmp_path: Path, slug: str) -> None:
    form = format_of(slug)
    bright = bars(0.5)
    bright[:, :WIDE, :3] = 2.0  # brighter than white
    (path, *_) = write(tmp_path, form, lambda n: bright, total=1)
    with OpenEXR.File(str(path), header_only=True) as file:
        header = dict(file.header())
    with OpenEXR.File(str(path), separate_channels=True) as file:
        channels = file.channels()
        red, alpha = channels["R"].pixels, channels["A"].pixels
    assert red.dtype == (np.float16 if slug == "exr" else np.float32)
    # ITU-R BT.709-6: red at x 0.64, y 0.33.
    assert tuple(header["chromaticities"])[:2] == pytest.approx((0.64, 0.33))
    assert np.all(alpha == 0.5)
    exact = to_linear(bright[..., 0] / 0.5) * 0.5
    np.testing.assert_allclose(red, exact, rtol=1e-3 if slug == "exr" else 1e-5, atol=1e-6)
    back = open_footage(path).pixels(0)
    np.testing.assert_allclose(back, bright, atol=2e-3 if slug == "exr" else 1e-5)


def test_openexr_holds_several_pictures_as_layers(tmp_path: Path) -> None:
    form = format_of("exr")
    writer = open_writer(
        tmp_path / "f_%d.exr", Encoding(form), SIZE, RATE, 1, layers=("", "fray.noise")
    )
    writer.put(0, np.concatenate([bars(), moving(0)], axis=2))
    (path,) = writer.finish()
    with OpenEXR.File(str(path), separate_channels=True) as file:
        names = set(file.channels())
        noise = file.channels()["fray.noise.R"].pixels
    assert names == {*"RGBA", *(f"fray.noise.{one}" for one in "RGBA")}
    np.testing.assert_allclose(noise[0, 0], to_linear(np.float32(1.0)) * 0.5, rtol=1e-3)


def test_a_still_is_one_frame_and_a_sheet_shows_start_middle_and_end(tmp_path: Path) -> None:
    assert indices_of(format_of("still"), 7, 40) == [7]
    assert indices_of(format_of("sheet"), 0, 101) == [0, 50, 100]
    assert indices_of(format_of("sheet"), 0, 1) == [0, 0, 0]
    (path,) = write(tmp_path, format_of("sheet"), moving)
    back = np.array(Image.open(path))
    assert back.shape == (SIZE.height, 3 * SIZE.width + 2 * GAP, 4)
    for k, n in enumerate((0, 6, 12)):
        left = k * (SIZE.width + GAP)
        np.testing.assert_array_equal(back[:, left : left + SIZE.width], to_pixels(moving(n), 8))


def test_more_quality_makes_larger_files_and_a_bit_rate_is_kept(tmp_path: Path) -> None:
    for slug in ("mp4", "webm", "av1", "webp"):
        form = format_of(slug)
        sizes = []
        for word in ("small", "finest"):
            folder = tmp_path / f"{slug}-{word}"
            folder.mkdir()
            (path,) = write(folder, form, moving, quality=parse_quality(form, word))
            sizes.append(path.stat().st_size)
        assert sizes[0] < sizes[1], slug
    (path,) = write(tmp_path, format_of("mp4"), moving, total=60, bit_rate=600)
    video = path.stat().st_size - 192_000 / 8 * 60 / float(RATE)
    assert video * 8 / (60 / float(RATE)) / 1000 == pytest.approx(600, rel=0.4)


def test_a_name_says_the_format_and_what_does_not_fit_is_refused() -> None:
    assert format_for(Path("a.mp4")).slug == "mp4"
    assert format_for(Path("a.webm"), "webm-alpha").slug == "webm-alpha"
    assert format_for(Path("f_%04d.tiff")).slug == "tiff"
    assert format_for(Path("f_%04d.PNG")).slug == "png"
    for name, slug, said in (
        ("a.mov", "mp4", "“a.mov” is not a name for H.264 MP4. Name it out.mp4."),
        ("a.png", None, "“a.png” does not say what to write."),
        ("a.mp4", "gif", "There is no format “gif”. There are: mp4,"),
    ):
        with pytest.raises(Fault, match=said.replace(".", r"\.")):
            format_for(Path(name), slug)
    mp4, ffv1 = format_of("mp4"), format_of("ffv1")
    with pytest.raises(Fault, match=r"between 0 and 51\. Got 99"):
        Encoding(mp4, 99)
    with pytest.raises(Fault, match="has no quality"):
        Encoding(ffv1, 3)
    with pytest.raises(Fault, match="not both"):
        Encoding(mp4, 3, 500)
    with pytest.raises(Fault, match="Got “fine”"):
        parse_quality(mp4, "fine")
    assert mp4.wrong_size(Size(191, 96)) == (
        "H.264 MP4 needs an even width and height, and this is 191×96.", Size(192, 96)
    )  # fmt: skip
    assert ffv1.wrong_size(Size(191, 95)) is None


def test_luma_and_chroma_follow_the_published_equations() -> None:
    pixels = np.ascontiguousarray(to_pixels(bars(), 8)[..., :3])
    high, wide = pixels.shape[:2]
    luma = np.empty((high, wide), np.uint8)
    blue, red = (np.empty((high // 2, wide // 2), np.uint8) for _ in "ab")
    yuv.to_planes(pixels, luma, blue, red, 8, (1, 1))
    for k, name in enumerate(BARS):
        at = k * WIDE + WIDE // 2
        assert np.abs(np.array([luma[9, at], blue[9, at // 2], red[9, at // 2]], int)
                      - CODES[name]).max() <= 1  # fmt: skip
    for matrix, bits, full in (
        (yuv.REC_709, 8, False), (yuv.REC_601, 8, True), (yuv.REC_2020, 10, False),
    ):  # fmt: skip
        kind = np.uint8 if bits == 8 else np.uint16
        rng = np.random.default_rng(bits)
        given = rng.integers(0, np.iinfo(kind).max + 1, (6, 8, 3)).astype(kind)
        planes = [np.empty((6, 8), kind) for _ in "yuv"]
        yuv.to_planes(given, *planes, bits, (0, 0), matrix, full)
        black, span, middle, chroma = yuv.levels(bits, full)
        r, g, b = np.moveaxis(given / np.iinfo(kind).max, 2, 0)
        kr, kb = matrix
        y = kr * r + (1 - kr - kb) * g + kb * b
        exact = (
            black + span * y,
            middle + chroma * (b - y) / (2 * (1 - kb)),
            middle + chroma * (r - y) / (2 * (1 - kr)),
        )
        for plane, value in zip(planes, exact, strict=True):
            limit = np.clip(value, 0, (1 << bits) - 1)
            assert np.abs(plane - limit).max() <= 0.51
        back = np.empty((6, 8, 3), kind)
        yuv.to_rgb(*planes, back, matrix, bits, full, (0, 0))
        step = np.iinfo(kind).max / span
        assert np.abs(back.astype(float) - given).max() <= 1.6 * step + 1


def test_chroma_between_its_samples_is_interpolated_where_it_is_sited() -> None:
    # H.264, figure 6-1: samples stand at even columns, and half way between two rows.
    ramp = np.arange(8, dtype=np.uint8) * 20
    blue = np.full((4, 8), 128, np.uint8)
    red = np.repeat(ramp[None], 4, 0) + 40
    luma = np.full((8, 16), 120, np.uint8)
    out = np.empty((8, 16, 3), np.uint8)
    yuv.to_rgb(luma, blue, red, out, yuv.REC_709, 8, False, (1, 1))
    step = np.diff(out[4, 4:10, 0].astype(int))
    # 20 codes of chroma over two pixels, times 1.7927 (Rec. 709, red from its difference).
    assert np.abs(step - 17.9).max() <= 1


def test_a_picture_that_is_not_premultiplied_right_stays_in_bounds() -> None:
    odd = np.array([[[2.0, -1.0, 0.5, 0.0], [np.nan, 1.0, 0.2, 1.0]]], np.float32)
    assert ready(np.repeat(odd, 2, 0), format_of("mp4")).shape == (2, 2, 3)
    assert ready(from_pixels(np.zeros((2, 2, 3), np.uint8)), format_of("png")).shape == (2, 2, 4)


def test_what_stood_there_stays_until_the_new_file_is_whole(tmp_path: Path) -> None:
    path, form = tmp_path / "out.mp4", format_of("mp4")
    path.write_bytes(b"an earlier film")
    writer = open_writer(path, Encoding(form), SIZE, RATE, 3)
    writer.put(0, ready(bars(), form))
    assert path.read_bytes() == b"an earlier film"
    writer.abandon()
    assert path.read_bytes() == b"an earlier film"
    writer = open_writer(path, Encoding(form), SIZE, RATE, 3)
    writer.put(0, ready(bars(), form))
    assert writer.finish() == [path]
    assert open_footage(path).length == 1


def test_an_encoder_that_is_not_there_is_told() -> None:
    gone = dataclasses.replace(format_of("av1"), encoder="no-such-encoder")
    assert not gone.there
    with pytest.raises(Fault, match="AV1 MP4 needs an encoder that is not on this machine"):
        Encoding(gone)


def test_a_disk_that_fills_up_leaves_no_half_film(tmp_path: Path) -> None:
    """In a separate process, which may write at most 20 kB to a file."""
    code = f"""
import resource, signal, sys
from pathlib import Path
import numpy as np
from pale_static.core import Fault, FrameRate
from pale_static.media.films.film_writer import write_clip
from pale_static.media.formats import Encoding, format_of
signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
resource.setrlimit(resource.RLIMIT_FSIZE, (20_000, 20_000))
rng = np.random.default_rng(1)
frames = (rng.integers(0, 256, (96, 192, 3)).astype(np.uint8) for _ in range(40))
try:
    write_clip(Path({str(tmp_path / "full.mp4")!r}), Encoding(format_of("mp4")),
               FrameRate.of(25), frames)
except Fault as fault:
    print(fault.sentence)
"""
    told = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert "full.mp4 could not be written: File too large. Make room" in told.stdout
    assert not list(tmp_path.iterdir())


def test_the_same_frames_give_the_same_film_each_time(tmp_path: Path) -> None:
    # x264 with AVX-512 fails this: at this width its bytes differ from run to run.
    chance = np.random.default_rng(5)
    wide = chance.integers(0, 255, (34, 60, 3), np.uint8)
    frames = [
        np.clip(
            np.kron(np.roll(wide, n, 1), np.ones((16, 16, 1), np.uint8))[:540].astype(np.int16)
            + chance.integers(-6, 7, (540, 960, 3)), 0, 255,
        ).astype(np.uint8)
        for n in range(40)
    ]  # fmt: skip
    path, encoding = tmp_path / "film.mp4", Encoding(format_of("mp4"), 26)
    films = {write_clip(path, encoding, FrameRate.of(25), frames).read_bytes() for _ in range(5)}
    assert len(films) == 1
