"""Renders that copy unchanged parts of the source: the same bytes, and only if they fit."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest

from pale_static.core import Fault, FrameRate, Size
from pale_static.core.reel import read_reel
from pale_static.core.reel.layout import untouched
from pale_static.jobs import worker
from pale_static.media.films.film_writer import write_clip
from pale_static.media.foreign.reading import open_footage
from pale_static.media.formats import Encoding, format_of
from pale_static.media.reading import Reading
from pale_static.store import Library, drafts, renders
from pale_static.store.renders import Wanted

RATE = FrameRate.of(25)
FRAMES = 230
SIZE = Size(64, 48)


def drawn(form: str) -> Iterator[np.ndarray]:
    """Noise that differs in each frame, so that encoding it again changes it."""
    deep = form.startswith("prores")
    rng = np.random.default_rng(1)
    for _ in range(FRAMES):
        pixels = rng.integers(0, 256, (SIZE.height, SIZE.width, 3)).astype(np.uint8)
        yield pixels.astype(np.uint16) * 257 if deep else pixels


def stocked(library: Library, folder: Path, form: str) -> str:
    one = format_of(form)
    path = write_clip(folder / f"clip{one.ending}", Encoding(one), RATE, drawn(form))
    with path.open("rb") as file:
        return library.bring_in(file, path.name).id


def render(library: Library, plain: dict[str, Any], **wanted: Any) -> Path:
    """Render an edit like the worker; returns the file."""
    reel = read_reel({"name": "E", "rate": "25", "width": 64, "height": 48, **plain})
    draft = drafts.start(library.db, "reel", reel.to_json(), "New")
    asked = Wanted(first=0, total=reel.length, **wanted)
    renders.ask(library.db, draft, asked, "E", reel.size)
    taken = renders.take(library.db, os.getpid())
    assert taken is not None
    worker.run(library, taken)
    done = renders.get(library.db, taken.id)
    assert done.state == "done"
    return library.renders / done.file


def packets(path: Path) -> list[bytes]:
    with av.open(str(path)) as film:
        return [bytes(one) for one in film.demux(video=0) if one.size]


def edit(material: str, start: str = "0") -> dict[str, Any]:
    return {"shots": [{"id": "a", "name": "Clip", "material": material, "start": start,
                       "length": "8"}]}  # fmt: skip


@pytest.mark.parametrize("form", ["prores-hq", "webm"])
def test_whole_groups_are_copied_to_the_byte_when_asked(
    library: Library, tmp_path: Path, form: str
) -> None:
    material = stocked(library, tmp_path, form)
    source = packets(library.path_of(materials_get(library, material)))
    made = packets(render(library, edit(material), form=form, copy=True))
    assert len(made) == 200
    assert made == source[:200]
    plain = packets(render(library, edit(material), form=form))
    assert plain != made
    # The same pictures, frame by frame.
    film = open_footage(next(library.renders.glob(f"render-1{format_of(form).ending}")))
    clip = library.footage(material)
    assert film.length == 200
    for n in (0, 99, 100, 199):
        np.testing.assert_array_equal(film.pixels(n), clip.pixels(n))


def materials_get(library: Library, name: str) -> Any:
    from pale_static.store import materials

    return materials.get(library.db, name)


def test_what_does_not_begin_with_a_group_is_encoded_again(
    library: Library, tmp_path: Path
) -> None:
    material = stocked(library, tmp_path, "webm")
    source = packets(library.path_of(materials_get(library, material)))
    made = packets(render(library, edit(material, "2/5"), form="webm", copy=True))
    assert len(made) == 200
    assert not set(made) & set(source)


def test_only_stretches_that_nothing_changes_are_copied(library: Library, tmp_path: Path) -> None:
    material = stocked(library, tmp_path, "prores-hq")
    source = packets(library.path_of(materials_get(library, material)))
    # A dissolve from frame 120 to 140 lies in the second stretch of a hundred frames.
    plain = edit(material) | {"shots": [
        {"id": "a", "name": "One", "material": material, "length": "26/5"},
        {"id": "b", "name": "Two", "material": material, "start": "2", "length": "3"},
    ], "joins": [{"id": "j", "left": "a", "right": "b", "macro": "built-in:dissolve",
                  "version": 1, "length": "4/5"}]}  # fmt: skip
    made = packets(render(library, plain, form="prores-hq", copy=True))
    assert made[:100] == source[:100]
    assert not set(made[120:139]) & set(source)
    # A person chose another reading of its codes, so nothing is unchanged.
    library.read_as(material, Reading(range="full"))
    again = packets(render(library, edit(material), form="prores-hq", copy=True))
    assert not set(again) & set(source)


def test_what_is_untouched_is_told_by_the_edit() -> None:
    plain: dict[str, Any] = {
        "format": "pale-static/reel@4", "name": "E", "rate": "25",
        "shots": [
            {"id": "a", "name": "A", "material": "m", "gap": "1", "length": "4",
             "looks": [{"id": "l", "macro": "x", "version": 1, "begin": "2", "length": "1"}]},
            {"id": "b", "name": "B", "material": "m", "length": "2", "speed": "1/2"},
        ],
        "rows": [{"id": "r", "items": [
            {"id": "t", "name": "T", "at": "4", "length": "1/5",
             "use": {"macro": "x", "version": 1}}]}],
    }  # fmt: skip
    reel = read_reel(plain)
    found = {frame: bool(untouched(reel, frame, frame + 1)) for frame in
             (0, 24, 25, 74, 75, 99, 100, 104, 105, 124, 125, 170)}  # fmt: skip
    assert found == {0: False, 24: False, 25: True, 74: True, 75: False, 99: False, 100: False,
                     104: False, 105: True, 124: True, 125: False, 170: False}  # fmt: skip
    assert untouched(reel, 105, 126) is None


def test_formats_into_which_nothing_can_be_copied_say_so() -> None:
    with pytest.raises(Fault, match="Parts of the source cannot be copied into H"):
        Encoding(format_of("mp4"), copy=True)
