"""Whole films: two processes against one, and the memory a long render holds."""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from pathlib import Path
from statistics import median

from pale_static.core import FrameRate, Size
from pale_static.demo.clips import CLIPS
from pale_static.demo.content import ember_fray
from pale_static.jobs import crew
from pale_static.jobs.effect_files import EffectFile
from pale_static.jobs.films import FilmFrames
from pale_static.media.films.film_writer import write_clip
from pale_static.media.formats import Encoding, format_of
from pale_static.media.pictures.stills import write_file
from pale_static.media.writing import room_for

from .measure import Row, once

MIB = 1 << 20


def _clips(folder: Path, frames: int) -> tuple[Path, Path]:
    paths = []
    for k in (0, 1):
        path = folder / f"clip{k}.mp4"
        pictures = (CLIPS[k].frame(n * 3) for n in range(frames))
        write_clip(path, Encoding(format_of("mp4"), 16), FrameRate.of(25), pictures)
        paths.append(path)
    return paths[0], paths[1]


def _given(folder: Path, size: str, length: int) -> dict[str, object]:
    import json

    file = folder / "ember.json"
    write_file(file, json.dumps(ember_fray()).encode())
    first, second = _clips(folder, 24)
    return {
        "file": file, "size": size, "length": str(length), "rate": "25", "first": str(first),
        "second": str(second), "clip": None, "mattes": (), "slots": (), "text": None, "settings": (),
    }  # fmt: skip


def workers() -> list[Row]:
    """A render of Ember Fray at 1280×720 by two processes against one, each on one core."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        film = FilmFrames(EffectFile(_given(folder, "1280x720", 120)), "mp4")
        room = room_for(format_of("mp4"), Size(1280, 720))

        def timed(count: int) -> float:
            # Measured from the first chunk on, without the start of the processes.
            frames = crew.frames(film, range(120), count, 1, always=True, room=room)
            for _ in range(2 * crew.CHUNK * 2):
                next(frames)
            return once(lambda: sum(1 for _ in frames))

        pairs = [(timed(2), timed(1)) for _ in range(3)]
    ratio = median(one / two for two, one in pairs)
    return [
        Row(
            "render with 2 workers, 104 frames 1280×720", median(two for two, _ in pairs),
            "with 1 worker", median(one for _, one in pairs), ratio, "1.7× faster", "1.9×",
            ratio >= 1.7,
        )
    ]  # fmt: skip


def family(root: int) -> list[int]:
    """A process and all its descendants."""
    parents = {}
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            try:
                after = (entry / "stat").read_text().rpartition(")")[2].split()
            except OSError:
                continue
            parents[int(entry.name)] = int(after[1])
    found = [root]
    for one in found:
        found += [child for child, parent in parents.items() if parent == one]
    return found


def held(pids: list[int]) -> int:
    """Bytes of memory of these processes; shared pages count once."""
    total = 0
    for pid in pids:
        try:
            text = Path(f"/proc/{pid}/smaps_rollup").read_text()
        except OSError:
            continue
        total += sum(int(line.split()[1]) for line in text.splitlines() if line.startswith("Pss:"))
    return total * 1024


def peak(given: dict[str, object], folder: Path, length: int) -> int:
    """The most memory of a render at 1920×1080, over all its processes."""
    command = [
        sys.executable, "-m", "pale_static", "render", str(given["file"]), "--size", "1920x1080",
        "--length", str(length), "--from", str(given["first"]), "--to", str(given["second"]),
        "-o", str(folder / "film.mp4"),
    ]  # fmt: skip
    return peak_of(command)


def peak_of(command: list[str]) -> int:
    """The most memory of a command, over all its processes."""
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    most = 0
    while process.poll() is None:
        most = max(most, held(family(process.pid)))
        time.sleep(0.1)
    assert process.returncode == 0
    return most


def memory() -> list[Row]:
    """The most memory of a render at two lengths, and the extrapolation to ten minutes."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        given = _given(folder, "1920x1080", 50)
        short, long = (peak(given, folder, length) / MIB for length in (60, 240))
    growth = max(0.0, (long - short) / 180)
    ten_minutes = long + growth * (15_000 - 240)
    # The film does not stay in memory if the growth is no more than the noise of measuring.
    steady = growth < 0.5
    return [
        Row(
            f"memory of a 1920×1080 render, 240 frames (grows {growth:.2f} MiB a frame)", long,
            "60 frames", short, long / short, "1536 MiB", "819 MiB",
            long <= 1536 and (steady or ten_minutes <= 1536), unit="MiB",
        )
    ]  # fmt: skip


ROWS = (workers, memory)
