"""Fill a library with the demo: footage, macros and an edit.

The library is complete at once, with cards in place of the footage. Separate processes paint the
footage afterwards: first small, as copies for the screen, then at full size, clip by clip. Run as
``python -m pale_static.demo.fill DATA PARENT`` it paints the missing footage, and ends with the
process that started it.
"""

from __future__ import annotations

import os
import sys
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, as_completed
from functools import cache
from hashlib import blake2b
from io import BytesIO
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ..core.documents.checking import read_effect
from ..core.engine import Engine
from ..core.kernels.rows import set_threads
from ..core.pictures.picture import Size
from ..core.time.timing import FrameRate
from ..jobs.publishing import add_preview, publish_draft
from ..media.facts import Facts, file_identity
from ..media.films.film_writer import write_clip
from ..media.films.screen_copy import QUALITY, copy_format
from ..media.formats import Encoding, format_of
from ..media.opening import inspect
from ..media.pictures.stills import encode_png
from ..processes import ends_with_parent, pool
from ..store import Library, drafts, macros, materials, screen_copies
from .clips import CLIPS, Clip, plates
from .edits import last_night, open_day
from .mark import logo
from .shelf import SHELF, Make
from .sound import sound_of

Paint = Callable[[int, str, str], str]
Told = Callable[[str, int, int], None]
MARK = "Lantern Line mark"
TELL_EVERY = 5
"""Frames between two updates of a clip's progress."""
SMALL = 0.25
"""The size of a clip that is seen while it is painted: ten times as fast to paint."""
FIRST = "Headlamp"
"""The first clip of the demo's edits."""


def _even(length: float) -> int:
    return max(2, round(length / 2) * 2)


@cache
def _painter() -> bytes:
    """The sources that paint the demo, as bytes: other sources may paint other pictures."""
    here = Path(__file__).parent
    return b"".join((here / name).read_bytes() for name in ("clips.py", "paint.py", "sound.py"))


def identity(name: str, scale: float, frames: int | None) -> str:
    """The name of a painted material: the same for the same picture."""
    made = _painter() + repr((name, scale, frames)).encode()
    return blake2b(made, digest_size=16).hexdigest()


def _facts(clip: Clip, scale: float, frames: int | None) -> Facts:
    count = min(clip.frames, frames or clip.frames)
    return Facts(
        kind="video", width=_even(clip.width * scale), height=_even(clip.height * scale),
        rate=str(clip.rate), frames=count, seconds=count / clip.rate, coding="h264",
    )  # fmt: skip


def begin(
    library: Library, *, scale: float = 1.0, frames: int | None = None,
    macros: Iterable[Make] = SHELF,
) -> bool:  # fmt: skip
    """Put the macros, the edit and the names of all footage into an empty library.

    Parameters
    ----------
    scale : float
        Size of the footage against 1280×720; tests use less.
    frames : int, optional
        The most frames a clip gets.
    macros : iterable, optional
        Functions that make the shelf's macros; at least those that the edits use.

    Returns
    -------
    Whether it did anything: a library with materials is left alone.
    """
    if materials.listed(library.db):
        return False
    ids = {}
    for clip in CLIPS:
        ids[clip.name] = identity(clip.name, scale, frames)
        materials.expect(library.db, ids[clip.name], clip.name, ".mp4", _facts(clip, scale, frames))
    # Stills are painted at once, under their final names, because macros and edits show them.
    for name, pixels in {MARK: logo(), **plates(scale)}.items():
        ids[name] = library.bring_in(BytesIO(encode_png(pixels, 1)), f"{name}.png").id
    make_effects(library, ids, macros)
    return True


def make_effects(library: Library, ids: dict[str, str], macros: Iterable[Make] = SHELF) -> None:
    """The macros and the edit, with footage by name. Previews follow when the footage is
    painted."""
    documents = [make(*(ids[name] for name in SHELF[make])) for make in macros]
    for document in documents:
        effect = read_effect(document)
        draft = drafts.start(library.db, "effect", effect.to_json(), f"{effect.name} started")
        publish_draft(
            library, None, draft, effect,
            author="Lantern Line demo", changes="First version.", licence="CC0-1.0",
        )  # fmt: skip
        if effect.name == "Ember Fray":
            drafts.start(library.db, "reel", last_night(ids), "Edit started")
    drafts.start(library.db, "reel", open_day(ids), "Edit started")


def finish(library: Library, told: Told | None = None, small: bool = False) -> None:
    """Paint the missing footage, then make the macros' previews with it.

    A clip that was interrupted is painted again; finished clips stay.

    Parameters
    ----------
    small : bool
        Whether somebody looks on: all clips are painted small first, and monitors show those.
    told : function, optional
        Called with a name, the number of finished files, and the number of all files.
    """
    say = told or (lambda name, done, total: None)
    waiting = {one.name: one for one in materials.expected(library.db)}
    total, engine = len(waiting) + 1, Engine()
    say("footage", 0, total)
    # What people see first, and then the longest work, so that all cores finish at about the same
    # time.
    order = sorted(
        (k for k, clip in enumerate(CLIPS) if clip.name in waiting),
        key=lambda k: (CLIPS[k].name != FIRST, -CLIPS[k].width * CLIPS[k].frames * (1 + k % 2)),
    )
    with pool(2) as painters:

        def begun(paint: Paint) -> list[Future[str]]:
            names = [waiting[CLIPS[k].name].id for k in order]
            given = zip(order, names, strict=True)
            return [painters.submit(paint, k, str(library.folder), name) for k, name in given]

        if small:
            begun(paint_small)
        work = begun(paint_clip)
        for done, one in enumerate(as_completed(work), 1):
            say(one.result(), done, total)
            _add_previews(library, engine)
    _add_previews(library, engine)
    say("previews", total, total)


def _arrived(library: Library, material: materials.Material) -> None:
    """Store the facts of an expected material whose file is complete."""
    path = library.path_of(material)
    _, facts = inspect(path, material.name)
    materials.arrived(library.db, material.id, facts, file_identity(path))


def _add_previews(library: Library, engine: Engine) -> None:
    """Make previews of the macros whose footage is complete."""
    missing = {one.id for one in materials.expected(library.db)}
    for slug, version in macros.without_preview(library.db):
        effect = macros.version(library.db, slug, version).effect
        if not missing & {slot.stand_in for slot in effect.slots}:
            add_preview(library, engine, slug, version)


def _painted(clip: Clip, count: int, size: Size) -> Iterator[NDArray[np.uint8]]:
    """A number of frames of a clip, evenly over all of it."""
    for k in range(count):
        source = round(k * (clip.frames - 1) / max(1, count - 1))
        pixels = clip.frame(source, size.width / clip.width)
        if pixels.shape[:2] != (size.height, size.width):
            pixels = np.pad(pixels, ((0, 2), (0, 2), (0, 0)), "edge")
            pixels = np.ascontiguousarray(pixels[: size.height, : size.width])
        yield pixels


def paint_small(index: int, folder: str, identity: str) -> str:
    """Paint one clip small, as the copy for the screen until its file is there; runs in a separate
    process."""
    set_threads(1)
    library, clip = Library(Path(folder)), CLIPS[index]
    material = materials.get(library.db, identity)
    facts = material.facts
    if screen_copies.of(library.db, material):
        return clip.name  # painted before an interruption
    name = screen_copies.name_of(material, screen_copies.settings(library.db).lines)
    form = copy_format(facts)
    path = library.screen / f"{name}{form.ending}"
    size = Size(_even(facts.width * SMALL), _even(facts.height * SMALL))
    frames = _painted(clip, facts.frames, size)
    screen_copies.begun(library.db, identity, name)
    write_clip(path, Encoding(form, QUALITY), FrameRate.of(clip.rate), frames)
    screen_copies.made(library.db, identity, name, path.stat().st_size)
    return clip.name


def paint_clip(index: int, folder: str, identity: str) -> str:
    """Paint one clip into its library; runs in a separate process."""
    set_threads(1)
    library, clip = Library(Path(folder)), CLIPS[index]
    material = materials.get(library.db, identity)
    facts, path = material.facts, library.path_of(material)
    # A short distance between key frames, because people seek in these files.
    samples = sound_of(clip.name, facts.frames / clip.rate)

    def told() -> Iterator[NDArray[np.uint8]]:
        frames = _painted(clip, facts.frames, Size(facts.width, facts.height))
        for k, pixels in enumerate(frames):
            yield pixels
            if k % TELL_EVERY == 0:
                materials.progress(library.db, identity, k / facts.frames)

    write_clip(
        path, Encoding(format_of("mp4"), 16), FrameRate.of(clip.rate), told(),
        sound=lambda first, count: samples[first : first + count], total=facts.frames,
        key_every=10, options={"preset": "ultrafast"},
    )  # fmt: skip
    _arrived(library, material)
    return clip.name


def fill(
    library: Library, *, scale: float = 1.0, frames: int | None = None,
    macros: Iterable[Make] = SHELF, told: Told | None = None,
) -> None:  # fmt: skip
    """Fill a library with the complete demo; see :func:`begin` and :func:`finish`."""
    if begin(library, scale=scale, frames=frames, macros=macros):
        finish(library, told)


def main() -> None:
    """Paint the missing footage of a library; end with the process that started this one."""
    ends_with_parent(int(sys.argv[2]))
    os.nice(5)  # work that people wait for comes first
    finish(Library(Path(sys.argv[1])), small=True)


if __name__ == "__main__":
    main()
