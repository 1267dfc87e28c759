"""Films of a library's edits: complete, right, and made again only where something has changed."""

from __future__ import annotations

import os
from dataclasses import replace
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest

from pale_static.core import Engine, Size, read_effect
from pale_static.core.frames.edit import EditSource
from pale_static.core.frames.effect import EffectSource
from pale_static.core.reel import Reel
from pale_static.jobs import worker
from pale_static.jobs.publishing import publish_draft
from pale_static.jobs.shelf import Shelf
from pale_static.media import program as programs
from pale_static.store import Library, drafts, materials, renders
from pale_static.store.renders import Render, Wanted

from ..conftest import write_clip

LONG = 250


@pytest.fixture
def reel(library: Library, tmp_path: Path) -> Reel:
    """One long shot under a look that is not on the shelf."""
    with write_clip(tmp_path / "long.mp4", frames=LONG + 20, size=Size(64, 36)).open("rb") as file:
        clip = library.bring_in(file, "long.mp4")
    return Reel.model_validate(
        {"name": "Night", "width": 64, "height": 36,
         "shots": [{"id": "a", "material": clip.id, "name": "Long", "length": f"{LONG}/25",
                    "looks": [{"id": "l", "macro": "gone", "version": 1}]}]}
    )  # fmt: skip


def rendered(library: Library, reel: Reel, **wanted: Any) -> tuple[Render, Path]:
    """A render of an edit, by the worker's own function."""
    draft = drafts.start(library.db, "reel", reel.to_json(), "Begun")
    asked = replace(Wanted("ffv1", 0, reel.length), **wanted)
    renders.ask(library.db, draft, asked, reel.name, reel.size)
    taken = renders.take(library.db, os.getpid())
    assert taken is not None
    worker.run(library, taken)
    done = renders.get(library.db, taken.id)
    assert done.state == "done", done.message
    return done, library.renders / done.file


def greys(path: Path) -> list[int]:
    """The grey of every frame, below its marker bar."""
    with av.open(str(path)) as film:
        return [int(frame.to_ndarray(format="gray")[30, 30]) for frame in film.decode(video=0)]


def test_a_film_without_a_missing_macro_shows_every_frame_once(
    library: Library, reel: Reel
) -> None:
    _, path = rendered(library, reel)
    found = greys(path)
    assert len(found) == LONG
    # The clip's frame n is grey 40 + 8·n, modulo 200.
    for n in range(0, LONG, 7):
        assert abs(found[n] - (40 + 8 * n % 200)) <= 4, n
    # A change under the missing macro is in the next film.
    moved = reel.model_copy(
        update={"shots": (reel.shots[0].model_copy(update={"start": reel.shots[0].start + 1}),)}
    )
    _, again = rendered(library, moved)
    assert abs(greys(again)[3] - (40 + 8 * 28 % 200)) <= 4


def test_another_program_makes_every_stretch_again(
    library: Library, reel: Reel, monkeypatch: pytest.MonkeyPatch
) -> None:
    made: list[int] = []
    write = worker.write

    def counted(film: Any, **more: Any) -> Any:
        track = more.pop("track")

        def tracked(frames: Any, total: int, description: str) -> Any:
            for index, pixels in track(frames, total, description=description):
                made.append(index)
                yield index, pixels

        return write(film, track=tracked, **more)

    monkeypatch.setattr(worker, "write", counted)
    rendered(library, reel)
    assert len(made) == LONG
    rendered(library, reel)
    assert len(made) == LONG  # the same stretches, joined again
    monkeypatch.setattr(worker, "program", lambda: "another")
    rendered(library, reel)
    assert len(made) == 2 * LONG


def test_the_name_of_the_program_follows_its_sources(tmp_path: Path) -> None:
    for folder in programs.FOLDERS:
        (tmp_path / folder / "kernels").mkdir(parents=True)
        (tmp_path / folder / "kernels" / "tone.py").write_text("GAIN = 1\n")
    before = programs.digest_of_sources(tmp_path)
    assert programs.digest_of_sources(tmp_path) == before
    (tmp_path / "core/kernels/tone.py").write_text("GAIN = 2\n")
    assert programs.digest_of_sources(tmp_path) != before


def test_an_empty_slot_that_falls_back_shows_the_clip_itself(
    library: Library, tmp_path: Path
) -> None:
    for name, hue in (("own", 0), ("makers", 2)):
        with write_clip(tmp_path / f"{name}.mp4", frames=20, hue=hue).open("rb") as file:
            library.bring_in(file, f"{name}.mp4")
    own, makers = (
        next(one.id for one in materials.listed(library.db) if one.name == name)
        for name in ("own", "makers")
    )
    back = {"id": "back", "name": "Back", "kind": "texture", "stand_in": makers, "fallback": "clip"}
    plain = {
        "name": "Back", "kind": "look", "slots": [{"id": "clip", "name": "Clip"}, back],
        "lanes": [{"id": "out", "name": "Out", "steps": [
            {"id": "s", "kind": "slot", "values": {"slot": "back"}}]}],
    }  # fmt: skip
    effect = read_effect(plain)
    draft = drafts.start(library.db, "effect", effect.to_json(), "Begun")
    shelved = publish_draft(library, None, draft, effect)
    look = {"id": "l", "macro": shelved.slug, "version": 1}
    shot = {"id": "a", "material": own, "name": "A", "length": "20/25", "looks": [look]}
    reel = Reel.model_validate({"name": "R", "width": 160, "height": 90, "shots": [shot]})

    def shown(one: Reel) -> Any:
        source = EditSource(reel=one, shelf=Shelf(library))
        return Engine().compute(source.at(7, Size(160, 90)).plan).picture

    without = reel.model_copy(update={"shots": (reel.shots[0].model_copy(update={"looks": ()}),)})
    np.testing.assert_array_equal(shown(reel), shown(without))
    # A filled slot shows its filling; while the macro is built, the maker's stand-in.
    filled = reel.shots[0].looks[0].model_copy(update={"slots": {"back": makers}})
    full = reel.shots[0].model_copy(update={"looks": (filled,)})
    assert np.abs(shown(reel.model_copy(update={"shots": (full,)})) - shown(reel)).max() > 0.3
    bench = EffectSource(effect=effect, materials=library.materials_for(effect))
    assert (
        np.abs(Engine().compute(bench.at(7, Size(160, 90)).plan).picture - shown(reel)).max() > 0.3
    )
