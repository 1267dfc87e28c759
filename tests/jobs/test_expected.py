"""The expected size of a render is measured on a few frames."""

from __future__ import annotations

from pathlib import Path

import pytest

from pale_static.core.frames.edit import EditSource
from pale_static.core.reel import read_reel
from pale_static.jobs import films
from pale_static.jobs.expected import expected
from pale_static.jobs.shelf import Shelf
from pale_static.media.formats import Encoding, format_of
from pale_static.store import Library, drafts


@pytest.fixture
def edit(demo: Library) -> EditSource:
    reels = [read_reel(one.head.document) for one in drafts.listed(demo.db, "reel")]
    reel = next(one for one in reels if one.name == "Open day")
    return EditSource(reel=reel, shelf=Shelf(demo), first=30, frames=90)


def test_the_expected_size_is_near_the_real_one(edit: EditSource, tmp_path: Path) -> None:
    form = format_of("mp4")
    found = {one.quality: one for one in expected(edit, form, 0, edit.length)}
    assert form.quality
    assert list(found) == list(form.quality.words)
    sizes = [one.bytes for one in found.values()]
    assert sizes == sorted(sizes)
    assert all(one.seconds > 0 for one in found.values())
    films.write(films.Film(edit, Encoding(form, form.quality.words["high"]), tmp_path / "a.mp4"))
    real = (tmp_path / "a.mp4").stat().st_size
    assert real / 2 < found["high"].bytes < real * 2


@pytest.mark.parametrize("slug", ["png-8", "still", "webp", "ffv1"])
def test_every_kind_of_format_is_expected(edit: EditSource, tmp_path: Path, slug: str) -> None:
    form = format_of(slug)
    total = 1 if form.shape == "still" else 8
    found = list(expected(edit, form, 4, total))
    words = list(form.quality.words) if form.quality else [""]
    assert [one.quality for one in found] == words
    source = EditSource(reel=edit.reel, shelf=edit.shelf, first=34, frames=total)
    name = "a-%04d.png" if form.numbered else f"a{form.ending}"
    number = form.quality.words[form.quality.default] if form.quality else None
    paths = films.write(films.Film(source, Encoding(form, number), tmp_path / name))
    real = sum(path.stat().st_size for path in paths)
    chosen = next(
        one for one in found if one.quality in ("", form.quality and form.quality.default)
    )
    assert real / 2 < chosen.bytes < real * 2
