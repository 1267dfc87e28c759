"""Fill a library with the demo: footage, macros and an edit."""

from __future__ import annotations

import io
import tempfile
from collections.abc import Callable, Iterable
from concurrent.futures import ProcessPoolExecutor, as_completed
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import numpy as np

from ..core.checking import read_effect
from ..core.engine import Engine
from ..core.picture import Size, from_pixels
from ..core.timing import FrameRate
from ..jobs.publishing import publish_draft
from ..media.sequences import VideoWriter, Writing
from ..media.stills import encode_png
from ..store import Library, drafts, materials
from .clips import CLIPS, Clip, logo, plates
from .content import ember_fray, last_night, quiet_luma
from .shelf import LOOKS, TRANSITIONS

Told = Callable[[str, int, int], None]


def _even(length: float) -> int:
    return max(2, round(length / 2) * 2)


def paint_clip(index: int, folder: str, scale: float, frames: int | None) -> str:
    """Paint one clip to a video file; run in a process of its own."""
    from ..core.kernels.rows import set_threads

    set_threads(1)
    clip: Clip = CLIPS[index]
    count = min(clip.frames, frames or clip.frames)
    size = Size(_even(clip.width * scale), _even(clip.height * scale))
    path = Path(folder) / f"{clip.name}.mp4"
    # A short distance between key frames: seeking is what these files are for.
    with Writing(VideoWriter(path, size, FrameRate.of(clip.rate), 16, key_every=10)) as writer:
        for k in range(count):
            source = round(k * (clip.frames - 1) / max(1, count - 1))
            pixels = clip.frame(source, scale)
            if pixels.shape[:2] != (size.height, size.width):
                pixels = np.ascontiguousarray(
                    np.pad(pixels, ((0, 2), (0, 2), (0, 0)), "edge")[: size.height, : size.width]
                )
            writer.add(k, from_pixels(pixels))
    return str(path)


def fill(
    library: Library, *, scale: float = 1.0, frames: int | None = None, told: Told | None = None
) -> None:
    """Footage, both macros and the edit; what is there already is left alone.

    Parameters
    ----------
    scale : float
        Size of the footage against 1280×720; tests use less.
    frames : int, optional
        At most so many frames a clip.
    told : function, optional
        Called with a name, how many are done, and of how many.
    """
    if materials.listed(library.db):
        return
    say = told or (lambda name, done, total: None)
    total = len(CLIPS) + 3
    ids: dict[str, str] = {}
    with tempfile.TemporaryDirectory(dir=library.folder) as folder:
        paths = _painted(folder, scale, frames, say, total)
        for clip in CLIPS:
            with paths[clip.name].open("rb") as file:
                ids[clip.name] = library.bring_in(file, f"{clip.name}.mp4").id
    stills: Iterable[tuple[str, Any]] = (
        *plates(scale).items(), ("Lantern Line mark", logo()),
    )  # fmt: skip
    for name, pixels in stills:
        ids[name] = library.bring_in(io.BytesIO(encode_png(pixels, 6)), f"{name}.png").id
    say("macros and edit", total, total)
    make_effects(library, ids)


def make_effects(library: Library, ids: dict[str, str]) -> None:
    """The macros and the edit, with footage by name."""
    engine = Engine()
    made = (
        quiet_luma(ids["Wires at dusk"], ids["Depot hall"]),
        ember_fray(ids["Headlamp"], ids["Wires at dusk"]),
    )

    def shelve(document: dict[str, Any]) -> None:
        effect = read_effect(document)
        draft = drafts.start(library.db, "effect", effect.to_json(), f"{effect.name} begun")
        publish_draft(
            library, engine, draft, effect,
            author="Lantern Line demo", changes="First version.", licence="CC0-1.0",
        )  # fmt: skip

    for document in made:
        shelve(document)
    drafts.start(library.db, "reel", last_night(ids), "Edit begun")
    pairs = (
        ("Street lights", "Route map"), ("Ticket", "Window row"), ("Depot hall", "Headlamp"),
        ("Wires at dusk", "Window row"),
    )  # fmt: skip
    rest = [make(ids[a], ids[b]) for make, (a, b) in zip(TRANSITIONS, pairs, strict=True)]
    clips = (
        "Route map", "Depot hall", "Street lights", "Window row", "Depot hall", "Wires at dusk",
        "Ticket",
    )  # fmt: skip
    rest += [make(ids[name]) for make, name in zip(LOOKS, clips, strict=True)]
    for document in rest:
        shelve(document)


def _painted(
    folder: str, scale: float, frames: int | None, say: Told, total: int
) -> dict[str, Path]:
    paths: dict[str, Path] = {}
    say("footage", 0, total)
    # The longest work first, so that both cores end together.
    order = sorted(range(len(CLIPS)), key=lambda k: -CLIPS[k].width * CLIPS[k].frames * (1 + k % 2))
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        work = {
            pool.submit(paint_clip, index, folder, scale, frames): CLIPS[index].name
            for index in order
        }
        for done in as_completed(work):
            paths[work[done]] = Path(done.result())
            say(work[done], len(paths), total)
    return paths
