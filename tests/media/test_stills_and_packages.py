"""Stills of every kind, and untrusted macro packages."""

from __future__ import annotations

import io
import json
import struct
import zipfile
import zlib
from pathlib import Path

import cv2
import numpy as np
import pytest
import tifffile
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from pale_static.core import Fault, read_effect
from pale_static.core.documents.macro import publish
from pale_static.core.faults import TooLarge, Unreadable
from pale_static.core.kernels import rows
from pale_static.demo.content import ember_fray
from pale_static.media.foreign.reading import read_package
from pale_static.media.opening import inspect
from pale_static.media.packages import Package, write_package
from pale_static.media.pictures.stills import encode_jpeg, encode_png

RNG = np.random.default_rng(4)


@pytest.mark.parametrize(
    ("name", "alpha"),
    [("a.png", False), ("a.png", True), ("a.webp", True), ("a.tif", True), ("a.jpg", False)],
)
def test_8_bit_stills_are_read_as_they_are(tmp_path: Path, name: str, alpha: bool) -> None:
    pixels = RNG.integers(0, 256, (12, 20, 4 if alpha else 3), dtype=np.uint8)
    if alpha:
        pixels[..., 3] |= 1
    options = {"lossless": True, "exact": True} if name.endswith("webp") else {"quality": 95}
    if name.endswith("tif"):
        options = {}
    Image.fromarray(pixels).save(tmp_path / name, **options)
    footage, facts = inspect(tmp_path / name)
    assert (facts.kind, facts.width, facts.height, facts.alpha) == ("still", 20, 12, alpha)
    if name != "a.jpg":
        assert (footage.pixels(0) == pixels).all()


@pytest.mark.parametrize("suffix", ["png", "tif"])
def test_16_bit_stills_keep_their_depth(tmp_path: Path, suffix: str) -> None:
    pixels = RNG.integers(0, 65536, (12, 20, 3), dtype=np.uint16)
    path = tmp_path / f"deep.{suffix}"
    if suffix == "png":
        path.write_bytes(encode_png(pixels))
    else:
        tifffile.imwrite(path, pixels)
    footage, facts = inspect(path)
    assert facts.bits == 16
    assert (footage.pixels(0) == pixels).all()


def test_a_photo_is_turned_upright(tmp_path: Path) -> None:
    exif = Image.Exif()
    exif[274] = 6  # EXIF orientation: the camera was turned
    Image.new("RGB", (20, 10)).save(tmp_path / "a.jpg", exif=exif)
    assert inspect(tmp_path / "a.jpg")[1].width == 10


def test_one_pixel_is_taken_with_a_warning(tmp_path: Path) -> None:
    Image.new("RGB", (1, 1)).save(tmp_path / "dot.png")
    assert "Very small" in inspect(tmp_path / "dot.png")[1].problems[0]


def test_a_huge_picture_is_refused_before_its_pixels_are_read(tmp_path: Path) -> None:
    def chunk(kind: bytes, data: bytes) -> bytes:
        return (
            struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
        )

    head = struct.pack(">IIBBBBB", 12000, 12000, 8, 2, 0, 0, 0)
    path = tmp_path / "huge.png"
    path.write_bytes(
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", b"x") + chunk(b"IEND", b"")
    )
    with pytest.raises(TooLarge, match=r"huge.png has 12000×12000 pixels.*smaller copy"):
        inspect(path)
    wide = np.zeros((4, 12000, 3), np.uint8)
    Image.fromarray(wide).save(tmp_path / "wide.png")
    assert inspect(tmp_path / "wide.png")[1].width == 12000


def test_a_damaged_still_is_told_in_words(tmp_path: Path) -> None:
    path = tmp_path / "bad.png"
    path.write_bytes(b"\x89PNG\r\n\x1a\n" + bytes(50))
    with pytest.raises(Unreadable, match=r"bad.png is damaged"):
        inspect(path)


def test_what_is_shown_lies_over_a_weave() -> None:
    picture = np.zeros((16, 16, 4), np.float32)
    picture[:, 8:] = 1
    back = np.asarray(Image.open(io.BytesIO(encode_jpeg(picture, 100))))
    assert back[:, 9:].min() > 240
    assert set(np.unique(back[:8, :7, 0] // 8)) <= {13, 14, 15}


def package(**assets: bytes) -> Package:
    return Package(publish(read_effect(ember_fray()), 3, author="Maker"), assets)


def packed(**files: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for name, data in files.items():
            file.writestr(name, data)
    return out.getvalue()


MACRO = json.dumps(package().macro.to_json()).encode()


@pytest.mark.parametrize("shape", [(540, 960, 3), (541, 963, 3), (700, 900), (33, 4000, 3)])
def test_a_jpeg_encoded_in_bands_is_the_same_picture(
    shape: tuple[int, ...], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(rows, "cores", lambda: 2)
    made = np.random.default_rng(5).integers(0, 256, (*(s // 8 + 1 for s in shape[:2]), *shape[2:]))
    pixels = np.kron(made, np.ones((8, 8, *(1,) * (len(shape) - 2))))[: shape[0], : shape[1]]
    pixels = pixels.astype(np.uint8)
    if len(shape) == 2:
        data = encode_jpeg(pixels.astype(np.float32) / np.float32(255))
    else:
        data = encode_jpeg(pixels)
    # Source: Pillow's decoder, on the picture encoded by OpenCV in one piece.
    whole = cv2.imencode(
        ".jpg", pixels[..., ::-1] if len(shape) == 3 else pixels, [cv2.IMWRITE_JPEG_QUALITY, 88]
    )[1].tobytes()
    found, expected = (np.asarray(Image.open(io.BytesIO(one))) for one in (data, whole))
    assert np.array_equal(found, expected)
    assert b"\xff\xdd" in data


def test_a_package_reads_back_as_it_was_written() -> None:
    logo = encode_png(np.full((4, 4, 3), 9, np.uint8))
    written = write_package(package(**{"logo.png": logo}))
    assert written == write_package(package(**{"logo.png": logo}))
    found = read_package(written)
    assert found.macro == package().macro
    assert found.assets == {"logo.png": logo}


def with_path(name: str) -> bytes:
    return packed(**{"macro.json": MACRO, name: b"x"})


def swollen() -> bytes:
    """A zip that says it unpacks to 4 GB."""
    data = bytearray(packed(**{"macro.json": MACRO, "preview.webp": bytes(1 << 20)}))
    size = struct.pack("<I", 0xFFFFFFF0)
    at = data.rfind(b"PK\x01\x02")
    data[at + 24 : at + 28] = size
    return bytes(data)


BAD = {
    "a path climbing out": (lambda: with_path("../../evil.sh"), "does not belong in a macro"),
    "an absolute path": (lambda: with_path("/etc/passwd"), "does not belong in a macro"),
    "a path climbing out of assets": (lambda: with_path("assets/../../x"), "does not belong in a macro"),
    "a program": (lambda: with_path("run.py"), "does not belong in a macro"),
    "4 GB in a small file": (swollen, "would unpack to more than"),
    "a bomb": (lambda: packed(**{"macro.json": MACRO, "preview.webp": bytes(300 << 20)}), "would unpack to more than"),
    "no macro in it": (lambda: packed(**{"preview.webp": b"x"}), "no macro.json"),
    "nonsense in macro.json": (lambda: packed(**{"macro.json": b"{]"}), "not JSON"),
    "another document": (lambda: packed(**{"macro.json": b"[]"}), "is not a macro"),
    "a field it does not know": (
        lambda: packed(**{"macro.json": json.dumps(json.loads(MACRO) | {"x": 1}).encode()}), "does not know",
    ),
    "an asset that is no picture": (
        lambda: packed(**{"macro.json": MACRO, "assets/a.png": b"#!/bin/sh"}), "neither a picture, a video, a font nor",
    ),
    "no zip at all": (lambda: b"hello", "not a .palemacro package"),
    "nothing": (lambda: b"", "not a .palemacro package"),
    "too many files": (
        lambda: packed(**{"macro.json": MACRO} | {f"assets/{k}.png": b"x" for k in range(300)}), "200 at most",
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", BAD)
def test_a_bad_package_is_refused_in_words(name: str) -> None:
    made, said = BAD[name]
    with pytest.raises(Fault, match=said):
        read_package(made(), "gift.palemacro")


GOOD = write_package(package())


@given(st.integers(0, len(GOOD) - 1), st.binary(min_size=1, max_size=4))
def test_a_damaged_package_reads_as_it_was_or_is_refused(at: int, junk: bytes) -> None:
    data = GOOD[:at] + junk + GOOD[at + len(junk) :]
    try:
        read_package(data)
    except Fault as fault:
        assert fault.sentence.endswith(".")  # noqa: PT017
