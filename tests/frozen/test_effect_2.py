"""Effects saved by version 2 open with the same pixels, also with moving speeds.

Version 2 itself wrote the samples and their frames.
"""

from __future__ import annotations

import hashlib
import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from pale_static.core import Engine, FrameRate, Moment, Size, read_effect
from pale_static.core.pictures.picture import to_pixels

HERE = Path(__file__).parent / "effect2"
FROZEN: dict[str, Any] = json.loads((HERE / "samples.json").read_text())
SIZE, LENGTH, RATE = Size(*FROZEN["size"]), FROZEN["length"], FrameRate.of(25)
SHEET = np.asarray(Image.open(HERE / "frames.png"))


@pytest.mark.parametrize("name", FROZEN["samples"])
def test_every_frame_has_the_same_pixels(name: str) -> None:
    sample = FROZEN["samples"][name]
    effect = read_effect(sample["document"])
    for k, (frame, digest) in enumerate(zip(FROZEN["frames"], sample["hashes"], strict=True)):
        found = Engine().evaluate(effect, Moment(frame, LENGTH, RATE), SIZE).picture
        row = SIZE.height * sample["row"]
        expected = SHEET[row : row + SIZE.height, SIZE.width * k : SIZE.width * (k + 1)]
        assert np.abs(to_pixels(found).astype(int) - expected).max() <= 1, frame
        plain = np.ascontiguousarray(found).tobytes()
        same = hashlib.blake2b(plain, digest_size=12).hexdigest() == digest
        # Bit for bit on the machine that wrote them; another processor may round differently.
        assert same or np.abs(to_pixels(found).astype(int) - expected).mean() < 0.01
    assert read_effect(effect.to_json()) == effect
