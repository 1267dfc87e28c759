"""The render worker: a process of its own that takes renders from the library's queue.

Run as ``python -m pale_static.jobs.worker DATA``. It ends with its parent, so a killed server
leaves nothing running. The interrupted render continues at the next start.
"""

from __future__ import annotations

import os
import shutil
import sys
import time
from collections.abc import Iterable, Iterator
from contextlib import AbstractContextManager, nullcontext, suppress
from dataclasses import dataclass, field
from functools import cached_property, partial
from math import floor, inf
from pathlib import Path
from typing import Any

from ..core.faults import Fault
from ..core.frames.edit import EditSource
from ..core.reel import Reel, read_reel
from ..core.reel.layout import untouched
from ..core.reel.picture import alone
from ..media.films.copying import copied
from ..media.formats import Encoding, format_of
from ..media.pictures.sequences import names_in
from ..media.program import program
from ..media.reading import AS_TOLD
from ..processes import ends_with_parent
from ..store import Library, cluster, drafts, materials, renders
from ..store.database import insist
from ..store.renders import Render, Wanted
from .cluster.carrier import Seen
from .cluster.watching import ClusterWatch
from .crew import as_for_films
from .films import Carrier, Film, write
from .shelf import Shelf

IDLE = 0.25
STAYS = 10.0
"""Seconds that a worker stays after its last render: the next one begins at once until then."""
TOLD_EVERY = 0.2


class Stopped(Exception):
    """The render is no longer wanted."""


@dataclass(frozen=True)
class LibraryEdit:
    """A recipe that opens the frames of a render of a library's edit. It can be sent to another
    process."""

    folder: Path
    reel: int
    revision: int
    wanted: Wanted

    def open(self, known: bool = True) -> EditSource:
        """The source of the wanted frames, counted from the first of them."""
        return self.source(Library(self.folder))

    def source(self, library: Library) -> EditSource:
        """The same source, from an open library."""
        wanted, shelf = self.wanted, Shelf(library)
        reel = read_reel(drafts.revision(library.db, self.reel, self.revision).document)
        return EditSource(
            reel=alone(reel, wanted.item) if wanted.item else reel, shelf=shelf,
            clear=wanted.clear, first=wanted.first, frames=wanted.total, sounds=shelf.sound,
            program=program,
        )  # fmt: skip


@dataclass
class Pace:
    """How fast a render is, here and on a cluster together."""

    began: float = field(default_factory=time.monotonic)
    made: int = 0

    @property
    def speed(self) -> float:
        """Frames a second since the beginning."""
        return self.made / max(time.monotonic() - self.began, 1e-6)


@dataclass(frozen=True)
class Rendering:
    """One render, from the stretches of earlier renders to the finished file."""

    library: Library
    render: Render
    watch: ClusterWatch
    pace: Pace = field(default_factory=Pace)

    @cached_property
    def film(self) -> Film:
        render, wanted = self.render, self.render.wanted
        form = format_of(wanted.form)
        encoding = Encoding(form, wanted.quality, wanted.bit_rate, wanted.copy)
        recipe = LibraryEdit(self.library.folder, render.reel, render.revision, wanted)
        return Film(
            recipe.source(self.library), encoding,
            self.out / f"frame_%05d{form.ending}" if form.numbered else self.out,
            recipe=recipe, stretches=self.library.stretches,
            copy=self._copied if encoding.copy else None,
        )  # fmt: skip

    @property
    def reel(self) -> Reel:
        """The edit, or the one item of it that is rendered."""
        source = self.film.source
        assert isinstance(source, EditSource)
        return source.reel

    @cached_property
    def out(self) -> Path:
        """The finished file, or the folder of its pictures."""
        form, name = format_of(self.render.wanted.form), f"render-{self.render.id}"
        return self.library.renders / (name if form.numbered else f"{name}{form.ending}")

    def run(self) -> None:
        """Render to the end, or until it is cancelled; the progress is stored meanwhile."""
        form, total = self.film.form, self.render.wanted.total
        content = "" if form.joined else self.film.content(0, total)
        if not content or not self._taken_over(content):
            if form.numbered:
                self.out.mkdir(exist_ok=True)
            with self._carrier() as carrier:
                write(self.film, track=self._tracked, carrier=carrier)
            self._tell(total, self.pace.speed)
        files = names_in(self.out) if form.numbered else [self.out]
        size = sum(one.stat().st_size for one in files)
        renders.end(
            self.library.db, self.render.id, "done", file=self.out.name, size=size, content=content
        )

    def _taken_over(self, content: str) -> bool:
        """Whether an earlier render made the same film; its files are then linked here."""
        before = renders.alike(self.library.db, content)
        source = self.library.renders / before.file if before else None
        if source is None or not source.exists():
            return False
        if source != self.out:
            try:
                if self.film.form.numbered:
                    shutil.rmtree(self.out, ignore_errors=True)
                    shutil.copytree(source, self.out, copy_function=os.link)
                else:
                    self.out.unlink(missing_ok=True)
                    os.link(source, self.out)
            except OSError:
                return False
        return True

    def _tracked(
        self, frames: Iterable[tuple[int, Any]], total: int, description: str
    ) -> Iterator[tuple[int, Any]]:
        """Pass frames on, and store the render's progress."""
        pace, told = self.pace, 0.0
        for index, pixels in frames:
            yield index, pixels
            pace.made += 1
            if not told and pixels is not None and self.render.wanted.scheduler:
                # It goes on here, so it waits for no cluster any more.
                renders.waits(self.library.db, self.render.id, os.getpid(), "")
            # The watcher of a cluster tells its progress, and knows of unfinished stretches.
            if pixels is not None and time.monotonic() - told > TOLD_EVERY:
                told = time.monotonic()
                self._tell(min(index + 1, total), pace.speed)

    def _carrier(self) -> AbstractContextManager[Carrier | None]:
        """The cluster that the render goes to; None for this machine."""
        wanted = self.render.wanted
        if not wanted.scheduler:
            return nullcontext()
        return self.watch.carrier(wanted.scheduler, self._goes_on_there, wanted.or_here)

    def _goes_on_there(self, seen: Seen) -> bool:
        """Store the progress of a render on a cluster; whether it still goes there."""
        db, number, worker = self.library.db, self.render.id, os.getpid()
        scheduler = renders.waits(db, number, worker, seen.sentence)
        if scheduler is None:
            raise Stopped
        self._tell(seen.frames, seen.speed)
        return bool(scheduler)

    def _tell(self, done: int, speed: float) -> None:
        if not renders.progress(self.library.db, self.render.id, os.getpid(), done, speed):
            raise Stopped

    def _copied(self, first: int, count: int, target: Path) -> bool:
        """Copy a stretch that shows one clip unchanged."""
        reel, begin = self.reel, self.render.wanted.first + first
        shown = untouched(reel, begin, begin + count)
        if shown is None:
            return False
        material = materials.get(self.library.db, shown.material)
        if material.made is not None or material.reading != AS_TOLD:
            return False
        rate = reel.frame_rate
        at = floor(shown.start * rate.exact) + begin - reel.bounds(shown.id)[0]
        path = self.library.path_of(material)
        return copied(path, at, count, target, self.film.form, reel.size, rate)


def serve(folder: Path, parent: int) -> None:
    """Take renders for as long as the parent process lives.

    Some seconds after its last render it ends. The server then starts a new one, which holds none
    of the memory that renders leave in a process.
    """
    ends_with_parent(parent)
    as_for_films()
    library = Library(folder)
    watch = ClusterWatch(library)
    watch.start()
    ended = inf
    while os.getppid() == parent:
        render = insist(lambda: renders.take(library.db, os.getpid()))
        if render is None:
            # What it knows about a cluster that somebody looks at would go with it.
            if time.monotonic() - ended > STAYS and not cluster.looked_at(library.db):
                return
            time.sleep(IDLE)
            continue
        with suppress(Stopped):
            _run_told(library, render, watch)
        ended = time.monotonic()


def _run_told(library: Library, render: Render, watch: ClusterWatch) -> None:
    """Run a render; a fault is stored with it."""
    try:
        run(library, render, watch)
    except Stopped:
        raise
    except Exception as fault:
        said = (
            fault.sentence if isinstance(fault, Fault)
            else f"The render stopped at an unexpected fault: {type(fault).__name__}: {fault}"
        )  # fmt: skip
        insist(partial(renders.end, library.db, render.id, "failed", said))


def run(library: Library, render: Render, watch: ClusterWatch | None = None) -> None:
    """Render to the end, or until it is cancelled."""
    Rendering(library, render, watch or ClusterWatch(library)).run()


if __name__ == "__main__":
    serve(Path(sys.argv[1]), int(sys.argv[2]))
