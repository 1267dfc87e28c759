"""Make the copies of films for the screen, in turn, while nothing else is done.

Run as ``python -m pale_static.jobs.screen_copies DATA PARENT`` it makes all that are wanted, and
ends with the process that started it. A copy that was interrupted goes on where it stopped.
"""

from __future__ import annotations

import os
import shutil
import sys
import time
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

import numpy as np

from ..core.faults import Fault, NoRoom
from ..core.footage import Footage, Materials
from ..core.frames.effect import EffectSource
from ..core.kernels.rows import set_threads
from ..core.reel.picture import shot_effect
from ..core.time.timing import FrameRate
from ..media.films.screen_copy import OPAQUE, QUALITY, copy_format, copy_size
from ..media.films.stretches import MOST_KEPT
from ..media.formats import Encoding
from ..media.kept_files import KeptFiles
from ..media.program import program
from ..processes import ends_with_parent
from ..store import Library, materials, screen_copies
from ..store.materials import Material
from .films import Film, write

LEAST_ROOM = 1 << 30
"""Bytes that stay free on the disk: with less, no copy is begun."""
LOOK_EVERY = 0.5
"""Seconds between two looks at whether the copy is still wanted."""
TRY_AGAIN = 60.0
"""Seconds after which copies go on that a full disk has stopped."""
TOO_BRIGHT = (
    "It may be brighter than white or finer than a copy can hold, so monitors read the file itself."
)


class _Dropped(Exception):
    """The copy under way is not wanted any more."""


def make_all(library: Library) -> None:
    """Make all wanted copies, one after another.

    Raises
    ------
    NoRoom
        If the disk is full. The copies that are made stay.
    """
    while waiting := screen_copies.wanted(library.db):
        make(library, waiting[0])
    clean(library)


def make(library: Library, material: Material) -> None:
    """Make the copy of one material.

    Raises
    ------
    NoRoom
        If the disk is full.
    """
    lines = screen_copies.settings(library.db).lines
    name = screen_copies.name_of(material, lines)
    screen_copies.begun(library.db, material.id, name)
    form = copy_format(material.facts)
    path = library.screen / f"{name}{form.ending}"
    stretches = library.screen / f".{name}.stretches"
    try:
        if shutil.disk_usage(library.screen).free < LEAST_ROOM:
            raise NoRoom(
                "There is less than 1 GB of room on the disk, so no copy for the screen is made. "
                "Make room; the copies then go on by themselves."
            )
        clip = library.footage(material.id)
        if np.issubdtype(clip.pixels(0).dtype, np.floating):
            screen_copies.failed(library.db, material.id, name, TOO_BRIGHT)
            return
        encoding = Encoding(form, QUALITY if form is OPAQUE else None)
        kept = KeptFiles(stretches, MOST_KEPT)
        film = Film(_frames(clip, lines), encoding, path, stretches=kept)
        write(film, 1, _progress(library, material, name))
    except _Dropped:
        shutil.rmtree(stretches, ignore_errors=True)
        return
    except NoRoom as fault:
        screen_copies.failed(library.db, material.id, name, fault.sentence)
        raise
    except Fault as fault:
        told = fault.sentence.replace(library.path_of(material).name, material.name)
        screen_copies.failed(library.db, material.id, name, told)
        return
    shutil.rmtree(stretches, ignore_errors=True)
    screen_copies.made(library.db, material.id, name, path.stat().st_size)


def _frames(clip: Footage, lines: int) -> EffectSource:
    """The frames of a clip at the size of its copy."""
    return EffectSource(
        effect=shot_effect("stretch"), full=copy_size(clip.size, lines), frames=clip.length,
        given_rate=clip.rate or FrameRate.of(25), materials=Materials({"clip": clip}),
        program=program,
    )  # fmt: skip


def _progress(library: Library, material: Material, name: str) -> Any:
    def track(
        frames: Iterable[tuple[int, Any]], total: int, description: str
    ) -> Iterator[tuple[int, Any]]:
        looked = 0.0
        for index, pixels in frames:
            yield index, pixels
            if time.monotonic() - looked < LOOK_EVERY:
                continue
            looked = time.monotonic()
            if not screen_copies.still_wanted(library.db, material, name):
                raise _Dropped
            screen_copies.begun(library.db, material.id, name, (index + 1) / total)

    return track


def clean(library: Library) -> None:
    """Remove the files of copies that nothing uses any more."""
    for file in unused(library):
        remove(file)


def unused(library: Library) -> list[Path]:
    """Files of copies that nothing uses: of removed materials, or of other settings."""
    listed = screen_copies.listed(library.db).values()
    films = {material.id for material in materials.listed(library.db)}
    used = {one.name for one in listed if not one.off and one.material in films}
    return [
        file
        for file in sorted(library.screen.iterdir())
        if file.name.removeprefix(".").partition(".")[0] not in used
    ]


def remove(file: Path) -> None:
    """Remove a file, or a folder of stretches."""
    if file.is_dir():
        shutil.rmtree(file, ignore_errors=True)
    else:
        file.unlink(missing_ok=True)


def main() -> None:
    """Make the wanted copies of a library; end with the process that started this one."""
    ends_with_parent(int(sys.argv[2]))
    os.nice(15)  # everything that people wait for comes first
    set_threads(1)
    library = Library(Path(sys.argv[1]))
    try:
        make_all(library)
    except NoRoom:
        time.sleep(TRY_AGAIN)
        screen_copies.change(library.db, screen_copies.settings(library.db))


if __name__ == "__main__":
    main()
