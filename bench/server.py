"""A real server on a port of its own, with demo data, for rows that ask it."""

from __future__ import annotations

import json
import os
import re
import shutil
import subprocess
import sys
import tempfile
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from pale_static.core import FrameRate
from pale_static.demo.clips import CLIPS
from pale_static.demo.fill import fill, identity
from pale_static.jobs.screen_copies import make_all
from pale_static.media.films.film_writer import write_clip
from pale_static.media.formats import Encoding, format_of
from pale_static.store import Library

DATA = Path(__file__).parent / "data"
"""Where the whole demo is kept between runs: its footage takes minutes to paint."""
LARGE = "Large"
"""The name of a 3840×2160 clip that is brought into that demo."""
PORT = 18900


@contextmanager
def started(folder: Path) -> Iterator[tuple[str, int]]:
    """The address of a newly started application on a library, and its process."""
    server = subprocess.Popen(
        [sys.executable, "-m", "pale_static", "serve", "--data", str(folder), "--port", str(PORT)],
        stderr=subprocess.PIPE, text=True,
    )  # fmt: skip
    try:
        assert server.stderr
        told = next(found for line in server.stderr if (found := re.search(r"http://\S+/", line)))
        yield told[0], server.pid
    finally:
        server.terminate()
        server.wait(10)


@contextmanager
def served(folder: Path) -> Iterator[str]:
    """The address of a newly started application on a library."""
    with started(folder) as (address, _):
        yield address


@contextmanager
def serving() -> Iterator[str]:
    """The address of a newly started application with the whole demo."""
    with whole_demo() as folder, served(folder) as address:
        yield address


@contextmanager
def whole_demo() -> Iterator[Path]:
    """A library with the whole demo, a 3840×2160 clip, and copies for the screen of all films.

    It is made in the first run and kept. What a row changes in it is lost.
    """
    kept = DATA / identity("bench", 1.0, None)
    if not kept.exists():
        print("… painting the demo's footage (once, some minutes)", flush=True)
        shutil.rmtree(DATA, ignore_errors=True)
        made = DATA / "unfinished"
        library = Library(made)
        fill(library)
        large = made / "large.mp4"
        _write_large(large)
        with large.open("rb") as file:
            library.bring_in(file, f"{LARGE}.mp4")
        large.unlink()
        make_all(library)
        made.rename(kept)
    with tempfile.TemporaryDirectory(dir=DATA, ignore_cleanup_errors=True) as name:
        folder = Path(name) / "library"
        # Files of media never change, so links to them do; the database is copied.
        shutil.copytree(kept, folder, copy_function=_link_or_copy)
        yield folder


def _link_or_copy(source: str, target: str) -> None:
    if "sqlite" in Path(source).name:
        shutil.copy2(source, target)
    else:
        os.link(source, target)


def _write_large(path: Path) -> None:
    """Footage of 3840×2160 with fine grain, in H.264 of 50 Mbit/s."""
    grain = np.random.default_rng(5).integers(-16, 17, (2200, 3900, 1), np.int16)

    def frames() -> Iterator[Any]:
        for k in range(100):
            wide = cv2.resize(CLIPS[0].frame(k), (3840, 2160), interpolation=cv2.INTER_LINEAR)
            y, x = k * 13 % 40, k * 29 % 60
            yield np.clip(wide + grain[y : y + 2160, x : x + 3840], 0, 255).astype(np.uint8)

    encoding = Encoding(format_of("mp4"), bit_rate=50_000)
    write_clip(path, encoding, FrameRate.of(25), frames(), key_every=100)


def ask(address: str, path: str, body: Any = None, method: str = "POST") -> Any:
    """The answer of the server's interface, as an object."""
    data = None if body is None else json.dumps(body).encode()
    headers = {"Content-Type": "application/json"}
    asked = urllib.request.Request(f"{address}api{path}", data, headers, method=method)
    with urllib.request.urlopen(asked, timeout=120) as answer:
        return json.load(answer)


def fetched(url: str) -> bytes:
    """The bytes at an address."""
    with urllib.request.urlopen(url, timeout=120) as answer:
        return bytes(answer.read())
