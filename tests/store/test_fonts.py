"""Custom fonts: brought in under Materials, used by a title, packed with a macro."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from click.testing import CliRunner
from PIL import Image

from pale_static.cli import main
from pale_static.core import Engine, Fault, Size, read_effect
from pale_static.core.lettering import shipped
from pale_static.jobs.publishing import packed, publish_draft, unpack
from pale_static.store import Library, drafts
from pale_static.store.library import fonts_of

from ..core.documents import at

SLAB = shipped("Zilla Slab", "bold").data


def title(font: str) -> dict[str, Any]:
    values = {"text": {"control": "text"}, "font": font, "size": 40}
    return {
        "name": "Own letters",
        "kind": "title",
        "lanes": [
            {"id": "out", "name": "Out", "steps": [{"id": "t", "kind": "title", "values": values}]}
        ],
        "controls": [{"slug": "text", "label": "Text", "type": "text", "default": "Depot"}],
    }


def test_a_macro_carries_its_font_to_another_library(tmp_path: Path) -> None:
    here, there = Library(tmp_path / "here"), Library(tmp_path / "there")
    font = here.bring_in(io.BytesIO(SLAB), "slab.otf")
    assert (font.facts.kind, font.facts.coding) == ("font", "Zilla Slab Bold")
    assert font.facts.glyphs > 500
    effect = read_effect(title(font.id))
    assert fonts_of(effect) == [font.id]

    def shown(library: Library) -> np.ndarray:
        materials = library.materials_for(effect)
        return Engine().evaluate(effect, at(), Size(160, 90), materials=materials).picture

    mine = shown(here)
    shipped_one = read_effect(title("Zilla Slab"))
    assert (mine == Engine().evaluate(shipped_one, at(), Size(160, 90)).picture).all()
    assert mine[..., 3].sum() > 100

    draft = drafts.start(here.db, "effect", effect.to_json(), "New title")
    shelved = publish_draft(here, Engine(), draft, effect, author="Maker")
    package = packed(here, shelved.slug, 1)
    unpack(there, Engine(), package, "own.palemacro")
    assert (shown(there) == mine).all()

    # The command line reads it out of the package, with another text.
    (tmp_path / "own.palemacro").write_bytes(package)
    out = tmp_path / "out.png"
    words = ["frame", tmp_path / "own.palemacro", "--size", "160x90", "--text", "Tram", "-o", out]
    found = CliRunner().invoke(main, [str(word) for word in words])
    assert found.exit_code == 0, found.output
    picture = np.asarray(Image.open(out))
    assert 0 < (picture[..., 3] > 128).sum() != (mine[..., 3] > 0.5).sum()


def test_what_is_no_font_is_refused_in_words(tmp_path: Path) -> None:
    library = Library(tmp_path)
    for data, said in (
        (b"\0\1\0\0" + b"\xff" * 400, "is not a font that can be drawn"),
        (SLAB[:900], "is not a font that can be drawn"),
        (b"wOFF" + SLAB, "packed for the web"),
    ):
        with pytest.raises(Fault, match=said):
            library.bring_in(io.BytesIO(data), "odd.ttf")
    assert not list(library.media.iterdir())
