"""Files from other programs: colour tags, depths, fields, sequences, HDR, damage."""

from __future__ import annotations

import io
import zipfile
import zlib
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import colour
import numpy as np
import OpenEXR
import pytest
import tifffile
from PIL import Image

from pale_static.core import Fault, FrameRate
from pale_static.core.faults import Missing, TooLarge, Unreadable
from pale_static.core.kernels.colour import hdr
from pale_static.core.pictures.colour import to_linear
from pale_static.media.facts import HEAD, sniff
from pale_static.media.films.film_writer import write_clip as write_film
from pale_static.media.films.video import VideoFootage
from pale_static.media.foreign.reading import facts_of, open_footage
from pale_static.media.formats import Encoding, format_of
from pale_static.media.opening import inspect
from pale_static.media.pictures.picture_clip import gaps_of, numbers_of
from pale_static.media.pictures.stills import encode_png
from pale_static.media.reading import Reading
from pale_static.store import Library

from ..conftest import write_clip

ORANGE = np.array([200, 120, 40], np.uint8)
WEIGHTS = {"bt709": (0.2126, 0.0722), "bt601": (0.299, 0.114), "bt2020": (0.2627, 0.0593)}
CODES = {"bt709": 1, "bt601": 6, "bt2020": 9}  # ITU-T H.273


def codes(rgb: Any, matrix: str, bits: int = 8, full: bool = False) -> tuple[int, int, int]:
    """Y′CbCr of a colour by the equations of ITU-R BT.709, BT.601 and BT.2020."""
    kr, kb = WEIGHTS[matrix]
    r, g, b = np.asarray(rgb, float) / 255
    y = kr * r + (1 - kr - kb) * g + kb * b
    cb, cr = (b - y) / (2 * (1 - kb)), (r - y) / (2 * (1 - kr))
    unit, top = 2 ** (bits - 8), 2**bits - 1
    if full:
        return round(y * top), round(cb * top + 2 ** (bits - 1)), round(cr * top + 2 ** (bits - 1))
    return (
        round((16 + 219 * y) * unit),
        round((128 + 224 * cb) * unit),
        round((128 + 224 * cr) * unit),
    )


def write(
    path: Path, planes: str, values: tuple[int, ...], *, size: tuple[int, int] = (64, 48),
    encoder: str = "ffv1", matrix: int = 2, range_: int = 0, transfer: int = 2, frames: int = 3,
    aspect: Fraction | None = None, options: dict[str, str] | None = None, fields: bool = False,
) -> Path:  # fmt: skip
    """A film of one colour, its planes filled with given codes."""
    with av.open(str(path), "w") as film:
        stream = film.add_stream(encoder, rate=25)
        stream.width, stream.height = size
        stream.pix_fmt = planes
        if aspect:
            stream.sample_aspect_ratio = aspect
        stream.options = options or {}
        context = stream.codec_context
        context.colorspace, context.color_range, context.color_trc = matrix, range_, transfer
        deep = "p1" in planes
        for n in range(frames):
            frame = av.VideoFrame(*size, planes)
            frame.colorspace, frame.color_range = matrix, range_
            for k, (plane, value) in enumerate(zip(frame.planes, values, strict=True)):
                view = np.frombuffer(plane, np.uint16 if deep else np.uint8)
                view[:] = value
                if fields:
                    rows = view.reshape(plane.height, -1)
                    rows[1::2] = value if k else 255 - value
            frame.pts, frame.time_base = n, Fraction(1, 25)
            film.mux(stream.encode(frame))
        film.mux(stream.encode(None))
    return path


@pytest.mark.parametrize("full", [False, True])
@pytest.mark.parametrize("matrix", ["bt709", "bt601", "bt2020"])
@pytest.mark.parametrize(
    ("planes", "bits"),
    [("yuv420p", 8), ("yuv422p", 8), ("yuv444p", 8), ("yuv420p10le", 10), ("yuv422p12le", 12)],
)
def test_matrix_range_depth_and_sampling_are_honoured(
    tmp_path: Path, planes: str, bits: int, matrix: str, full: bool
) -> None:
    path = write(
        tmp_path / "a.mkv", planes, codes(ORANGE, matrix, bits, full), matrix=CODES[matrix],
        range_=2 if full else 1,
    )  # fmt: skip
    clip = VideoFootage(path)
    back = clip.pixels(1)
    assert back.dtype == (np.uint8 if bits == 8 else np.uint16)
    scale = 1 if bits == 8 else 257
    assert np.abs(back[20, 30] / scale - ORANGE).max() <= (1.6 if bits == 8 else 0.5)
    told = clip.facts().colour
    assert told is not None
    assert told.matrix == {"bt709": "Rec. 709", "bt601": "Rec. 601", "bt2020": "Rec. 2020"}[matrix]
    assert told.range == ("full" if full else "video")
    assert told.chroma == f"4:{planes[4]}:{planes[5]}"


def test_what_a_file_does_not_say_is_taken_by_its_height_and_may_be_said(tmp_path: Path) -> None:
    # Common practice: 720 lines and more are Rec. 709, fewer Rec. 601.
    small = write(tmp_path / "s.mkv", "yuv420p", codes(ORANGE, "bt601"))
    large = write(tmp_path / "l.mkv", "yuv420p", codes(ORANGE, "bt709"), size=(64, 720))
    for path in (small, large):
        clip = VideoFootage(path)
        assert np.abs(clip.pixels(0)[9, 9] - ORANGE.astype(int)).max() <= 2
        assert clip.facts().colour.matrix == ""  # type: ignore[union-attr]
    wrong = write(tmp_path / "w.mkv", "yuv420p", codes(ORANGE, "bt709", full=True), matrix=6)
    said = VideoFootage(wrong, reading=Reading(matrix="Rec. 709", range="full"))
    assert np.abs(said.pixels(0)[9, 9] - ORANGE.astype(int)).max() <= 2
    assert said.identity != VideoFootage(wrong).identity


@pytest.mark.parametrize(("curve", "code"), [("PQ", 16), ("HLG", 18)])
def test_hdr_comes_in_through_its_published_curve_and_is_told(
    tmp_path: Path, curve: str, code: int
) -> None:
    values = codes((180, 150, 90), "bt2020", 10)
    path = write(
        tmp_path / "h.mkv", "yuv420p10le", values, matrix=9, range_=1, transfer=code
    )  # fmt: skip
    clip = VideoFootage(path)
    assert f"High dynamic range ({curve})" in " ".join(clip.facts().problems)
    back = clip.pixels(1)
    assert back.dtype == np.float32
    signal = np.array([180, 150, 90]) / 255
    # Source: colour-science, its curves and its matrix between the primaries.
    if curve == "PQ":
        light = colour.models.eotf_ST2084(signal)
    else:
        light = colour.models.eotf_BT2100_HLG(signal, L_B=0, L_W=1000)
    spaces = colour.RGB_COLOURSPACES
    to_709 = colour.matrix_RGB_to_RGB(spaces["ITU-R BT.2020"], spaces["ITU-R BT.709"], None)
    exact = to_709 @ light / 203
    np.testing.assert_allclose(to_linear(back[9, 9, :3]), exact, rtol=0.02, atol=0.02)
    plain = VideoFootage(path, reading=Reading(transfer="Rec. 709"))
    assert plain.pixels(1).dtype == np.uint16


def test_the_curves_of_hdr_are_those_of_the_standards() -> None:
    signal = np.linspace(0, 1, 257)
    np.testing.assert_allclose(hdr.pq_light(signal), colour.models.eotf_ST2084(signal), rtol=1e-9)
    # ITU-R BT.2408: reference white is 58 % of PQ and 75 % of HLG.
    assert hdr.pq_light(np.array([0.58]))[0] == pytest.approx(203, rel=0.01)
    white = np.full((2, 2, 3), round(0.75 * 65535), np.uint16)
    assert hdr.to_rec_709(white, "HLG")[0, 0, 0] == pytest.approx(1, abs=0.01)


def test_pixels_that_are_not_square_are_widened_and_told(tmp_path: Path) -> None:
    # ITU-R BT.601 at 16:9: 64 ÷ 45.
    path = write(
        tmp_path / "p.mp4",
        "yuv420p",
        (100, 128, 128),
        size=(90, 72),
        aspect=Fraction(64, 45),
        encoder="libx264",
    )
    clip = VideoFootage(path)
    assert (clip.size.width, clip.size.height) == (128, 72)
    assert clip.pixels(0).shape == (72, 128, 3)
    assert "1.422 times as wide as high" in " ".join(clip.facts().problems)


def test_interlaced_video_is_told_and_one_field_shown_when_asked(tmp_path: Path) -> None:
    path = write(
        tmp_path / "i.mkv", "yuv420p", (200, 128, 128), fields=True, encoder="libx264",
        options={"flags": "+ildct+ilme", "x264-params": "interlaced=1", "crf": "4"},
    )  # fmt: skip
    clip = VideoFootage(path)
    assert clip.facts().interlaced
    assert "moving edges show combs" in " ".join(clip.facts().problems)
    combed = clip.pixels(1)[:, 20, 1].astype(int)
    assert np.abs(np.diff(combed[10:30])).min() > 60
    for field, level in (("upper", 200), ("lower", 55)):
        shown = VideoFootage(path, reading=Reading(field=field)).pixels(1)[:, 20, 1].astype(int)
        assert np.abs(shown - (level - 16) * 255 / 219).max() < 6


def test_alpha_may_be_said_to_be_premultiplied(tmp_path: Path) -> None:
    pixels = np.full((20, 20, 4), (100, 50, 25, 128), np.uint8)
    (tmp_path / "a.png").write_bytes(encode_png(pixels))
    straight, _ = inspect(tmp_path / "a.png")
    assert straight.pixels(0).dtype == np.uint8
    weighted, _ = inspect(tmp_path / "a.png", reading=Reading(alpha="premultiplied"))
    np.testing.assert_allclose(weighted.pixels(0)[3, 3], np.array([100, 50, 25, 128]) / 255)
    # TIFF 6.0: ExtraSamples 1 is associated alpha, and the file says so itself.
    tifffile.imwrite(tmp_path / "a.tif", pixels, photometric="rgb", extrasamples=["assocalpha"])
    told, _ = inspect(tmp_path / "a.tif")
    assert np.abs(told.pixels(0)[3, 3].astype(int) - (199, 100, 50, 128)).max() <= 1
    deep = pixels.astype(np.uint16) * 257
    tifffile.imwrite(tmp_path / "d.tif", deep, photometric="rgb", extrasamples=["assocalpha"])
    told, facts = inspect(tmp_path / "d.tif")
    assert facts.premultiplied
    np.testing.assert_allclose(told.pixels(0)[3, 3], np.array([100, 50, 25, 128]) / 255, rtol=1e-4)


def test_layers_of_openexr_are_listed_and_chosen(tmp_path: Path) -> None:
    def flat(value: float) -> np.ndarray:
        return np.full((6, 8), value, np.float32)

    channels = {f"{layer}.{c}": flat(value) for layer, value in (("fill", 0.2), ("rim", 0.7))
                for c in "RGB"}  # fmt: skip
    path = tmp_path / "l.exr"
    OpenEXR.File({"type": OpenEXR.scanlineimage}, channels).write(str(path))
    first, facts = inspect(path)
    assert facts.layers == ("fill", "rim")
    assert to_linear(first.pixels(0)[0, 0, 0]) == pytest.approx(0.2, abs=1e-4)
    rim, _ = inspect(path, reading=Reading(layer="rim"))
    assert to_linear(rim.pixels(0)[0, 0, 0]) == pytest.approx(0.7, abs=1e-4)
    half = {name: flat(0.5) for name in "RGBA"}
    OpenEXR.File({"type": OpenEXR.scanlineimage}, half).write(str(tmp_path / "h.exr"))
    for kind, light in ((None, 1.0), ("straight", 0.5)):
        shown, _ = inspect(tmp_path / "h.exr", reading=Reading(alpha=kind))
        assert to_linear(shown.pixels(0)[0, 0, 0] / 0.5) == pytest.approx(light, abs=1e-4)
    with pytest.raises(Unreadable, match=r"has no layer “key”\. It has: fill, rim"):
        inspect(path, reading=Reading(layer="key"))


def pictures(folder: Path, numbers: tuple[int, ...], size: tuple[int, int] = (16, 24)) -> Path:
    for n in numbers:
        pixels = np.full((*size, 3), 10 * n, np.uint8)
        (folder / f"shot_{n:04d}.png").write_bytes(encode_png(pixels))
    return folder / "shot_%04d.png"


def test_numbered_pictures_are_one_clip_and_gaps_are_told(tmp_path: Path) -> None:
    pattern = pictures(tmp_path, (3, 4, 5, 8, 9))
    clip = open_footage(pattern, reading=Reading(rate="24"))
    assert (clip.length, str(clip.rate)) == (7, "24")
    shown = [int(clip.pixels(n)[0, 0, 0]) for n in range(7)]
    assert shown == [30, 40, 50, 50, 50, 80, 90]
    facts = clip.facts()  # type: ignore[attr-defined]
    assert (facts.kind, facts.pictures) == ("video", 5)
    assert facts.problems == (
        "Pictures 6 to 7 are missing: the previous picture stands still there.",
    )
    with pytest.raises(Missing, match="There are no pictures"):
        open_footage(tmp_path / "other_%03d.png")


def test_a_sequence_is_brought_in_as_one_material(library: Library, tmp_path: Path) -> None:
    pictures(tmp_path, (1, 2, 3))
    named: dict[str, Any] = {one.name: one.open("rb") for one in tmp_path.glob("shot_*.png")}
    made = library.bring_in_sequence(named)
    assert (made.facts.frames, made.facts.coding, made.name) == (
        3,
        "PNG sequence",
        "shot_0001–t_0003",
    )
    assert int(library.footage(made.id).pixels(2)[0, 0, 0]) == 30
    library.read_as(made.id, Reading(rate="12"))
    assert str(library.footage(made.id).rate) == "12"
    assert library.sound(made.id) is None


@pytest.mark.parametrize(
    ("names", "said"),
    [
        (("a_1.png", "b_2.png"), "belong to different sequences: a_….png and b_….png"),
        (("a_1.png", "a_01.png"), "have the same number"),
        (("cover.png",), "cover.png has no number at its end"),
        ((), "There are no pictures"),
    ],
)
def test_pictures_that_are_no_sequence_are_told(names: tuple[str, ...], said: str) -> None:
    with pytest.raises(Unreadable, match=said):
        numbers_of(names)
    assert gaps_of([1, 2, 5, 9]) == [(3, 4), (6, 8)]


def test_a_broken_and_an_odd_sized_picture_of_a_sequence_are_named(
    library: Library, tmp_path: Path
) -> None:
    def brought(**changed: bytes) -> dict[str, Any]:
        whole = {f"p_{n}.png": encode_png(np.zeros((8, 8, 3), np.uint8)) for n in (1, 2, 3)}
        whole |= {name.replace("__", "."): data for name, data in changed.items()}
        return {name: io.BytesIO(data) for name, data in whole.items()}

    odd = encode_png(np.zeros((9, 8, 3), np.uint8))
    with pytest.raises(Unreadable, match=r"p_2.png is 8×9, and the pictures before it 8×8"):
        library.bring_in_sequence(brought(p_2__png=odd))
    with pytest.raises(Unreadable, match=r"p_3.png is damaged"):
        library.bring_in_sequence(brought(p_3__png=b"\x89PNG\r\n\x1a\nno more"))
    assert not list(library.media.iterdir())


def test_a_zip_that_lies_about_its_pictures_is_refused(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("pale_static.media.pictures.picture_clip.MOST_PICTURE", 5 << 20)
    with (
        zipfile.ZipFile(tmp_path / "z.frames", "w", zipfile.ZIP_DEFLATED) as packed,
        packed.open("p_1.png", "w", force_zip64=True) as entry,
    ):
        for _ in range(6):
            entry.write(bytes(1 << 20))
    with pytest.raises(TooLarge, match=r"p_1.png in z.frames is larger than 5 MB"):
        inspect(tmp_path / "z.frames")
    (tmp_path / "b.frames").write_bytes(b"PK\x03\x04" + bytes(50))
    with pytest.raises(Unreadable, match="its pictures cannot be listed"):
        open_footage(tmp_path / "b.frames")


def test_a_clip_goes_through_a_lookup_table_of_ones_own(library: Library, tmp_path: Path) -> None:
    lines = ["LUT_1D_SIZE 2", "1 1 1", "0 0 0"]
    table = library.bring_in(io.BytesIO("\n".join(lines).encode()), "negative.cube")
    with write_clip(tmp_path / "a.mp4", frames=3).open("rb") as file:
        clip = library.bring_in(file, "a.mp4")
    before = library.footage(clip.id).pixels(1)[60, 20].astype(int)
    library.read_as(clip.id, Reading(table=table.id))
    after = library.footage(clip.id).pixels(1)[60, 20, :3] * 255
    assert np.abs(before + after - 255).max() < 1
    with pytest.raises(Fault, match="The chosen material is of another kind"):
        library.read_as(clip.id, Reading(table=clip.id))


def test_animated_webp_is_a_clip(tmp_path: Path) -> None:
    frames = [
        Image.fromarray(np.full((16, 16, 4), (40 * n, 0, 0, 255), np.uint8)) for n in range(4)
    ]
    path = tmp_path / "a.webp"
    frames[0].save(path, save_all=True, append_images=frames[1:], duration=100, lossless=True)
    assert sniff(path.read_bytes()[:HEAD], "a.webp") == ("animation", ".webp")
    clip, facts = inspect(path)
    assert (clip.length, str(clip.rate), facts.kind) == (4, "10", "video")
    assert [int(clip.pixels(n)[0, 0, 0]) for n in (3, 0, 2)] == [120, 0, 80]
    weighted = open_footage(path, reading=Reading(alpha="premultiplied"))
    assert weighted.identity != clip.identity
    assert weighted.pixels(3)[0, 0, 0] == pytest.approx(120 / 255)


def test_a_file_cut_off_anywhere_is_told_or_shown_as_far_as_it_goes(tmp_path: Path) -> None:
    whole = write_clip(tmp_path / "clip.mp4", frames=30).read_bytes()
    with av.open(str(tmp_path / "m.mkv"), "w") as film:
        stream = film.add_stream("ffv1", rate=25)
        stream.width, stream.height, stream.pix_fmt = 64, 48, "yuv420p"
        for n in range(20):
            frame = av.VideoFrame(64, 48, "yuv420p")
            frame.pts = n
            film.mux(stream.encode(frame))
        film.mux(stream.encode(None))
    for name, data in (("c.mp4", whole), ("c.mkv", (tmp_path / "m.mkv").read_bytes())):
        for tenth in range(10):
            path = tmp_path / name
            path.write_bytes(data[: len(data) * tenth // 10])
            said = path.name + " ends here."
            try:
                clip = open_footage(path)
                for n in range(clip.length):
                    clip.pixels(n)
            except Unreadable as fault:
                said = fault.sentence
            assert path.name in said
            assert said.endswith(".")


def test_a_rate_that_cannot_be_is_taken_for_another_one(tmp_path: Path) -> None:
    path = tmp_path / "r.mkv"
    with av.open(str(path), "w") as film:
        stream = film.add_stream("ffv1", rate=25)
        stream.width, stream.height, stream.pix_fmt = 32, 16, "yuv420p"
        for _ in range(3):
            frame = av.VideoFrame(32, 16, "yuv420p")
            frame.pts = 0
            film.mux(stream.encode(frame))
        film.mux(stream.encode(None))
    facts = facts_of(path)
    assert float(Fraction(facts.rate or "0")) > 0


def test_sound_may_be_longer_than_the_picture(tmp_path: Path) -> None:
    def hum(first: int, count: int) -> Any:
        return np.full((count, 2), 0.1, np.float32)

    path = tmp_path / "long.mp4"
    write_film(path, Encoding(format_of("mp4")), FrameRate.of(25),
               (np.zeros((36, 64, 3), np.uint8) for _ in range(10)), sound=hum, total=200)  # fmt: skip
    facts = facts_of(path)
    assert facts.frames == 10
    assert facts.sound == "aac, 48 kHz, stereo"


def sides(png: bytearray, side: int) -> None:
    """A PNG with other sides in its header, and the right checksum."""
    png[16:24] = side.to_bytes(4, "big") * 2
    png[29:33] = zlib.crc32(png[12:29]).to_bytes(4, "big")


def test_a_header_that_lies_about_its_size_is_told(tmp_path: Path) -> None:
    data = bytearray(encode_png(np.zeros((16, 16, 3), np.uint8)))
    sides(data, 60_000)
    (tmp_path / "huge.png").write_bytes(data)
    with pytest.raises(TooLarge, match="has 60000×60000 pixels"):
        open_footage(tmp_path / "huge.png")
    sides(data, 64)
    (tmp_path / "odd.png").write_bytes(data)
    with pytest.raises(Unreadable, match=r"odd\.png is damaged"):
        open_footage(tmp_path / "odd.png")
