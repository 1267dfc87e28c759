"""OpenEXR stills keep their range, from the file to the picture."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import OpenEXR
import pytest

from pale_static.core import Engine, FrameRate, Materials, Moment, Size, read_effect
from pale_static.core.faults import Unreadable
from pale_static.core.pictures.colour import to_linear
from pale_static.core.pictures.picture import fit
from pale_static.media.opening import inspect
from pale_static.store import Library


def write(path: Path, channels: dict[str, np.ndarray]) -> Path:
    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    with OpenEXR.File(header, channels) as file:
        file.write(str(path))
    return path


def test_linear_light_becomes_encoded_and_nothing_is_clipped(tmp_path: Path) -> None:
    # Source: OpenEXR's own library writes; IEC 61966-2-1 gives 0.735357 for 0.5.
    light = np.zeros((8, 16, 3), np.float32)
    light[..., 0], light[..., 1], light[..., 2] = 0.5, 4.0, -0.1
    footage, facts = inspect(write(tmp_path / "a.exr", {"RGB": light}), "a.exr")
    assert (facts.coding, facts.bits, facts.alpha) == ("OpenEXR", 32, False)
    assert footage.size == Size(16, 8)
    picture = footage.pixels(0)
    assert picture[0, 0, 0] == pytest.approx(0.735357, abs=1e-5)
    np.testing.assert_allclose(to_linear(picture[..., :3]), light, atol=1e-6)


def test_alpha_weighs_the_encoded_colour(tmp_path: Path) -> None:
    half = np.full((4, 4, 4), 0.25, np.float16)
    half[..., 3] = 0.5
    footage, facts = inspect(write(tmp_path / "b.exr", {"RGBA": half}), "b.exr")
    assert (facts.bits, facts.alpha) == (16, True)
    # Straight 0.25 ÷ 0.5 = 0.5 in linear light, encoded, and weighted by 0.5 again.
    assert footage.pixels(0)[0, 0].tolist() == pytest.approx([0.735357 / 2] * 3 + [0.5], abs=1e-4)


def test_one_channel_is_grey(tmp_path: Path) -> None:
    footage, _ = inspect(write(tmp_path / "y.exr", {"Y": np.ones((4, 6), np.float32)}), "y")
    assert (footage.pixels(0) == 1).all()


def test_what_lies_above_white_comes_back_in_an_effect(tmp_path: Path) -> None:
    light = np.full((9, 16, 3), 6.0, np.float32)
    library = Library(tmp_path / "data")
    with write(tmp_path / "bright.exr", {"RGB": light}).open("rb") as file:
        bright = library.bring_in(file, "bright.exr")
    plain = {
        "name": "Down", "kind": "look", "slots": [{"id": "clip", "name": "Clip"}],
        "lanes": [{"id": "out", "name": "Out", "steps": [
            {"id": "c", "kind": "slot"},
            {"id": "l", "kind": "levels", "values": {"white_out": 0.25}}]}],
    }  # fmt: skip
    found = Engine().evaluate(
        read_effect(plain), Moment(0, 1, FrameRate.of(25)), Size(16, 9),
        materials=Materials({"clip": library.footage(bright.id)}),
    ).picture  # fmt: skip
    encoded = 1.055 * 6.0 ** (1 / 2.4) - 0.055
    assert found[4, 8, 0] == pytest.approx(encoded / 4, rel=1e-4)


def test_it_is_scaled_without_clipping(tmp_path: Path) -> None:
    light = np.full((20, 40, 3), 3.0, np.float32)
    footage, _ = inspect(write(tmp_path / "c.exr", {"RGB": light}), "c.exr")
    assert fit(footage.pixels(0), Size(16, 9), "cover").min() > 0.99
    assert fit(footage.pixels(0), Size(16, 9), "cover")[4, 8, 0] > 1.5


def test_a_broken_file_is_refused_in_words(tmp_path: Path) -> None:
    path = write(tmp_path / "d.exr", {"RGB": np.ones((30, 30, 3), np.float32)})
    path.write_bytes(path.read_bytes()[:200])
    with pytest.raises(Unreadable, match=r"d\.exr is damaged"):
        inspect(path, "d.exr")
    depth = write(tmp_path / "z.exr", {"Z": np.ones((4, 4), np.float32)})
    with pytest.raises(Unreadable, match="no channels called R, G and B"):
        inspect(depth, "z.exr")
