"""Real parts for all tests: a library on disk, footage in real files, one small demo."""

from __future__ import annotations

import os

# Two processes test side by side; with all cores each, they and their servers would slow each
# other down. Set before anything computes, and inherited by every process that a test starts.
os.environ.setdefault("PALE_STATIC_CORES", "1")

import fcntl
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, settings

from pale_static.core import FrameRate, Size
from pale_static.media.films.film_writer import write_clip as write_film
from pale_static.media.formats import Encoding, format_of
from pale_static.media.sound import Mixed
from pale_static.store import Library

settings.register_profile(
    "default", deadline=None, max_examples=40, suppress_health_check=list(HealthCheck),
    derandomize=True,
)  # fmt: skip
# "make fuzz" explores; all else tries the same examples each time.
settings.register_profile("explore", parent=settings.get_profile("default"), max_examples=1000,
                          derandomize=False)  # fmt: skip
settings.load_profile(os.environ.get("EXAMPLES", "default"))


SMALL = Size(160, 90)
WITHOUT_DEMO = "test_random_documents.py"


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """The longest tests come first, so that both processes end together."""
    order = ("ui", "jobs")

    def rank(item: pytest.Item) -> tuple[int, bool]:
        folder = item.path.parent.name
        place = order.index(folder) if folder in order else len(order)
        # Tests that read the whole demo run before others fill it.
        return place, item.path.name != "test_everywhere.py"

    items.sort(key=rank)
    # While one process fills the demo, the other one runs tests without the demo.
    first = items[0].path if items else None
    items.sort(key=lambda item: (item.path != first, item.path.name != WITHOUT_DEMO))


def write_clip(
    path: Path, frames: int = 20, size: Size = SMALL, rate: str = "25", hue: int = 0,
    sound: Mixed | None = None,
) -> Path:  # fmt: skip
    """A video whose frame n is flat grey 40 + 8·n, with a marker bar of its own colour."""

    def drawn() -> Iterator[np.ndarray]:
        for n in range(frames):
            pixels = np.full((size.height, size.width, 3), 40 + 8 * n % 200, np.uint8)
            pixels[: size.height // 4, :, hue] = 200
            yield pixels

    encoding = Encoding(format_of("mp4"), 4)
    return write_film(path, encoding, FrameRate.of(rate), drawn(), sound=sound, total=frames)


@pytest.fixture
def library(tmp_path: Path) -> Library:
    return Library(tmp_path / "data")


@pytest.fixture(scope="session")
def demo_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo at a quarter of its size, filled once for all processes of a test run."""
    from pale_static.demo.fill import fill
    from pale_static.demo.shelf import STAPLES

    base = tmp_path_factory.getbasetemp()
    if "PYTEST_XDIST_WORKER" in os.environ:
        base = base.parent
    folder, done = base / "demo-data", base / "demo-is-there"
    with (base / "demo-lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not done.exists():
            fill(Library(folder), scale=0.25, macros=STAPLES)
            done.touch()
    return folder


@pytest.fixture
def demo(demo_folder: Path, tmp_path: Path) -> Library:
    """A copy of the demo that a test may change."""
    import shutil

    shutil.copytree(demo_folder, tmp_path / "demo")
    return Library(tmp_path / "demo")
