"""The render worker: a process of its own that takes renders from the library's queue.

Run as ``python -m pale_static.jobs.worker DATA``. It ends when its parent does, so a killed
server leaves nothing running; what it was at goes on at the next start.
"""

from __future__ import annotations

import os
import sys
import threading
import time
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from ..core.engine import Engine
from ..core.faults import Fault
from ..core.reel import Reel, read_reel
from ..core.reel.picture import BLACK, CLEAR, alone
from ..core.sound import has_sound, mix, samples_of
from ..media.segments import SegmentedVideo
from ..media.sequences import PngSequence, Ready, readier, room_for
from ..store import Library, drafts, renders
from ..store.database import insist
from ..store.renders import Render
from .crew import CACHE_BYTES, Maker, end_with, frames, workers_for
from .frames import LibraryShelf, mended

IDLE = 0.25
TOLD_EVERY = 0.2


class Stopped(Exception):
    """The render is no longer wanted."""


def target(library: Library, render: Render) -> Path:
    """Where a render goes: a file, or the pattern of a sequence in a folder of its own."""
    if render.form == "mp4":
        return library.renders / f"render-{render.id}.mp4"
    folder = library.renders / f"render-{render.id}"
    folder.mkdir(exist_ok=True)
    return folder / "frame_%05d.png"


@dataclass(frozen=True)
class ReelFilm:
    """The frames of a render, counted from its first."""

    folder: Path
    reel: int
    revision: int
    first: int
    form: str
    item: str = ""

    def maker(self) -> Maker:
        library, engine = Library(self.folder), Engine(CACHE_BYTES)
        shelf = LibraryShelf(library)
        reel = reel_of(library, self.reel, self.revision, self.item)
        ground = CLEAR if self.item else BLACK
        ready = readier(Path(f"frame.{self.form}"))

        def make(index: int) -> Ready:
            picture, _ = mended(
                shelf, reel, self.first + index, reel.size,
                lambda plan: engine.compute(plan, passing=True).picture, engine.states, (), ground,
            )  # fmt: skip
            return ready(picture)

        return make


def reel_of(library: Library, reel: int, revision: int, item: str = "") -> Reel:
    """An edit as it was when its render was asked for; or one item of it."""
    whole = read_reel(drafts.revision(library.db, reel, revision).document)
    return alone(whole, item) if item else whole


def _writer(
    shelf: LibraryShelf, render: Render, path: Path, reel: Reel
) -> SegmentedVideo | PngSequence:
    """What takes the frames; it knows which of them an earlier run has left."""
    if render.form == "mp4":
        sound = None
        if has_sound(reel, shelf.sound):
            zero = samples_of(render.first, reel.frame_rate.exact)
            sound = lambda first, count: mix(reel, shelf.sound, zero + first, count)  # noqa: E731
        return SegmentedVideo(path, reel.size, reel.frame_rate, render.total, sound=sound)
    return PngSequence(path, render.total)


def run(library: Library, render: Render) -> None:
    """Render to the end, or until it is cancelled; progress is noted as it goes."""
    reel = reel_of(library, render.reel, render.revision, render.item)
    path = target(library, render)
    writer = _writer(LibraryShelf(library), render, path, reel)
    began, told, made = time.monotonic(), 0.0, 0
    film = ReelFilm(
        library.folder, render.reel, render.revision, render.first, render.form, render.item
    )
    try:
        missing = writer.missing()
        count, room = workers_for(len(missing), reel.size), room_for(path, reel.size)
        for index, ready in frames(film, missing, count, room=room):
            writer.put(index, ready)
            made += 1
            now = time.monotonic()
            if now - told > TOLD_EVERY:
                told = now
                speed = made / max(now - began, 1e-6)
                if not renders.progress(library.db, render.id, os.getpid(), index + 1, speed):
                    raise Stopped
        speed = made / max(time.monotonic() - began, 1e-6)
        if not renders.progress(library.db, render.id, os.getpid(), render.total, speed):
            raise Stopped
        writer.finish()
    except BaseException:
        writer.abandon()
        raise
    name = path.name if render.form == "mp4" else path.parent.name
    renders.end(library.db, render.id, "done", file=name)


def serve(folder: Path, parent: int) -> None:
    """Take renders for as long as the parent process lives."""
    threading.Thread(target=end_with, args=(parent,), daemon=True).start()
    library = Library(folder)
    while os.getppid() == parent:
        render = insist(lambda: renders.take(library.db, os.getpid()))
        if render is None:
            time.sleep(IDLE)
            continue
        try:
            run(library, render)
        except Stopped:
            continue
        except Exception as fault:
            said = (
                fault.sentence if isinstance(fault, Fault)
                else f"The render stopped at an unexpected fault: {type(fault).__name__}: {fault}"
            )  # fmt: skip
            insist(partial(renders.end, library.db, render.id, "failed", said))


if __name__ == "__main__":
    serve(Path(sys.argv[1]), int(sys.argv[2]))
