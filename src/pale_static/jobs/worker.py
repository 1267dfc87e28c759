"""The render worker: a process of its own that takes renders from the library's queue.

Run as ``python -m pale_static.jobs.worker DATA``. It ends when its parent does, so a killed
server leaves nothing running; what it was at goes on at the next start.
"""

from __future__ import annotations

import os
import sys
import threading
import time
from pathlib import Path

from ..core.engine import Engine
from ..core.faults import Fault
from ..core.reel import Reel, check_reel
from ..media.sequences import PngSequence, open_writer
from ..store import Library, drafts, renders
from ..store.renders import Render
from .screening import reel_plan

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


def run(library: Library, engine: Engine, render: Render) -> None:
    """Render to the end, or until it is cancelled; progress is noted as it goes."""
    document = drafts.revision(library.db, render.reel, render.revision).document
    reel = check_reel(Reel.model_validate(document))
    path = target(library, render)
    writer = open_writer(path, reel.size, reel.frame_rate)
    began, told, made = time.monotonic(), 0.0, 0
    try:
        for index in range(render.total):
            if isinstance(writer, PngSequence) and writer.path(index).exists():
                writer.written.append(writer.path(index))  # whole from an earlier run
                continue
            plan = reel_plan(library, reel, render.first + index, reel.size)
            writer.add(index, engine.compute(plan).picture)
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


def _end_with(parent: int) -> None:
    """A killed server cannot tell its worker; so the worker looks."""
    while os.getppid() == parent:
        time.sleep(IDLE)
    os._exit(0)


def serve(folder: Path, parent: int) -> None:
    """Take renders for as long as the parent process lives."""
    threading.Thread(target=_end_with, args=(parent,), daemon=True).start()
    library, engine = Library(folder), Engine()
    while os.getppid() == parent:
        render = renders.take(library.db, os.getpid())
        if render is None:
            time.sleep(IDLE)
            continue
        try:
            run(library, engine, render)
        except Stopped:
            continue
        except Fault as fault:
            renders.end(library.db, render.id, "failed", fault.sentence)
        except Exception as fault:
            renders.end(
                library.db, render.id, "failed",
                f"The render stopped at an unexpected fault: {type(fault).__name__}: {fault}",
            )  # fmt: skip


if __name__ == "__main__":
    serve(Path(sys.argv[1]), int(sys.argv[2]))
