"""The render worker: a process of its own that takes renders from the library's queue.

Run as ``python -m pale_static.jobs.worker DATA``. It ends when its parent does, so a killed
server leaves nothing running; what it was at goes on at the next start.
"""

from __future__ import annotations

import os
import shutil
import sys
import threading
import time
from collections.abc import Iterable
from contextlib import suppress
from dataclasses import dataclass
from functools import partial
from math import floor
from pathlib import Path

from .. import __version__
from ..core.document import digest_of
from ..core.engine import Engine
from ..core.faults import Fault
from ..core.reel import Reel, read_reel
from ..core.reel.layout import untouched
from ..core.reel.picture import BLACK, CLEAR, alone
from ..core.sound import Samples, has_sound, mix, samples_of
from ..media.copying import copied
from ..media.formats import Encoding, format_of
from ..media.reading import AS_TOLD
from ..media.segments import SegmentedFilm
from ..media.sequences import PictureSequence, names_in
from ..media.sound import Mixed
from ..media.writing import Behind, Writer, indices_of, open_writer, room_for
from ..store import Library, drafts, materials, renders
from ..store.database import insist
from ..store.renders import Render, Wanted
from .crew import CACHE_BYTES, Maker, as_for_films, end_with, frames, workers_for
from .frames import LibraryShelf, edit_plan, made_ready

IDLE = 0.25
TOLD_EVERY = 0.2


class Stopped(Exception):
    """The render is no longer wanted."""


@dataclass(frozen=True)
class ReelFilm:
    """The frames of a render, counted from its first."""

    folder: Path
    reel: int
    revision: int
    wanted: Wanted

    def maker(self) -> Maker:
        shelf, engine = LibraryShelf(Library(self.folder)), Engine(CACHE_BYTES)
        reel = reel_of(shelf.library, self.reel, self.revision, self.wanted.item)
        form = format_of(self.wanted.form)
        ground = CLEAR if self.wanted.clear else BLACK

        def make(index: int) -> object:
            return made_ready(shelf, reel, self.wanted.first + index, engine, form, ground)

        return make


def reel_of(library: Library, reel: int, revision: int, item: str = "") -> Reel:
    """An edit as it was when its render was asked for; or one item of it."""
    whole = read_reel(drafts.revision(library.db, reel, revision).document)
    return alone(whole, item) if item else whole


class Rendering:
    """One render, from what is there already to the finished file."""

    def __init__(self, library: Library, render: Render) -> None:
        self.library, self.render, wanted = library, render, render.wanted
        self.shelf = LibraryShelf(library)
        self.reel = reel_of(library, render.reel, render.revision, wanted.item)
        self.form = format_of(wanted.form)
        self.encoding = Encoding(self.form, wanted.quality, wanted.bit_rate, wanted.copy)
        self.film = ReelFilm(library.folder, render.reel, render.revision, wanted)
        name = f"render-{render.id}"
        self.out = library.renders / (name if self.form.numbered else f"{name}{self.form.ending}")

    def content(self, first: int, count: int) -> str:
        """Names what a stretch of the film shows, and how it is written."""
        ground = CLEAR if self.render.wanted.clear else BLACK
        keys = [
            self._key(self.render.wanted.first + index, ground)
            for index in range(first, first + count)
        ]
        size = [self.reel.width, self.reel.height, self.reel.rate]
        return digest_of([__version__, self.encoding.told(), size, keys])

    def _key(self, frame: int, ground: object) -> str:
        try:
            return edit_plan(self.shelf, self.reel, frame, self.reel.size, ground=ground).key  # type: ignore[arg-type]
        except Fault as fault:
            return f"{fault.use}: {fault.sentence}"

    def run(self) -> None:
        """Render to the end, or until it is cancelled; progress is noted as it goes."""
        content = "" if self.form.joined else self.content(0, self.render.wanted.total)
        if not content or not self._taken_over(content):
            self._write()
        size = sum(one.stat().st_size for one in self._files())
        renders.end(
            self.library.db, self.render.id, "done", file=self.out.name, size=size, content=content
        )

    def _files(self) -> list[Path]:
        return names_in(self.out) if self.form.numbered else [self.out]

    def _taken_over(self, content: str) -> bool:
        """Whether an earlier render has made the same already; its files then stand here too."""
        before = renders.alike(self.library.db, content)
        source = self.library.renders / before.file if before else None
        if source is None or not source.exists():
            return False
        if source != self.out:
            try:
                if self.form.numbered:
                    shutil.rmtree(self.out, ignore_errors=True)
                    shutil.copytree(source, self.out, copy_function=os.link)
                else:
                    self.out.unlink(missing_ok=True)
                    os.link(source, self.out)
            except OSError:
                return False
        return True

    def _write(self) -> None:
        wanted, size = self.render.wanted, self.reel.size
        writer, missing = self._writer()
        count = workers_for(size)
        room = room_for(self.form, size)
        began, told, made = time.monotonic(), 0.0, 0
        with Behind(writer, self.form, kept=count == 1) as behind:
            for index, pixels in frames(self.film, missing, count, room=room):
                behind.put(index, pixels)
                made += 1
                now = time.monotonic()
                if now - told > TOLD_EVERY:
                    told = now
                    self._tell(min(index + 1, wanted.total), made / max(now - began, 1e-6))
            behind.settle()
            self._tell(wanted.total, made / max(time.monotonic() - began, 1e-6))

    def _tell(self, done: int, speed: float) -> None:
        if not renders.progress(self.library.db, self.render.id, os.getpid(), done, speed):
            raise Stopped

    def _writer(self) -> tuple[Writer, Iterable[int]]:
        """What takes the frames, and which of them no earlier render has left."""
        form, total = self.form, self.render.wanted.total
        reel, rate = self.reel, self.reel.frame_rate
        sound = self._sound() if form.sound else None
        if form.joined:
            film = SegmentedFilm(
                self.out, self.encoding, reel.size, rate, total, self.library.stretches,
                self.content, sound=sound, copy=self._copied if self.encoding.copy else None,
            )  # fmt: skip
            return film, film.missing()
        if form.numbered:
            self.out.mkdir(exist_ok=True)
            pattern = self.out / f"frame_%05d{form.ending}"
            pictures = PictureSequence(pattern, form, total)
            return pictures, pictures.missing()
        return open_writer(self.out, self.encoding, reel.size, rate, total), indices_of(
            form, 0, total
        )

    def _copied(self, first: int, count: int, target: Path) -> bool:
        """Copy a stretch that shows nothing but one clip as it is."""
        begin = self.render.wanted.first + first
        shown = untouched(self.reel, begin, begin + count)
        if shown is None:
            return False
        material = materials.get(self.library.db, shown.material)
        if material.made is not None or material.reading != AS_TOLD:
            return False
        at = floor(shown.start * self.reel.frame_rate.exact) + begin - self.reel.bounds(shown.id)[0]
        path, rate = self.library.path_of(material), self.reel.frame_rate
        return copied(path, at, count, target, self.form, self.reel.size, rate)

    def _sound(self) -> Mixed | None:
        if not has_sound(self.reel, self.shelf.sound):
            return None
        zero = samples_of(self.render.wanted.first, self.reel.frame_rate.exact)

        def samples(first: int, count: int) -> Samples:
            return mix(self.reel, self.shelf.sound, zero + first, count)

        return samples


def serve(folder: Path, parent: int) -> None:
    """Take renders for as long as the parent process lives."""
    threading.Thread(target=end_with, args=(parent,), daemon=True).start()
    as_for_films()
    library = Library(folder)
    while os.getppid() == parent:
        render = insist(lambda: renders.take(library.db, os.getpid()))
        if render is None:
            time.sleep(IDLE)
            continue
        with suppress(Stopped):
            _run_told(library, render)


def _run_told(library: Library, render: Render) -> None:
    """Run a render; what goes wrong is noted with it."""
    try:
        run(library, render)
    except Stopped:
        raise
    except Exception as fault:
        said = (
            fault.sentence if isinstance(fault, Fault)
            else f"The render stopped at an unexpected fault: {type(fault).__name__}: {fault}"
        )  # fmt: skip
        insist(partial(renders.end, library.db, render.id, "failed", said))


def run(library: Library, render: Render) -> None:
    """Render to the end, or until it is cancelled."""
    Rendering(library, render).run()


if __name__ == "__main__":
    serve(Path(sys.argv[1]), int(sys.argv[2]))
