"""Lookup tables: read and applied like in colour-science, refused with a sentence."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import colour
import numpy as np
import pytest

from pale_static.core import Engine, Fault, Materials, Moment, Size, StillPicture
from pale_static.core.pictures.lookup import LookupTable
from pale_static.media.colour.cube import parse_cube
from pale_static.media.opening import inspect
from pale_static.store import Library

from ..core.documents import RATE
from ..core.test_film import look

RNG = np.random.default_rng(5)


def cube_file(path: Path, side: int = 9, gamma: float = 1.4) -> Path:
    """A cube that swaps and bends colours, written by colour-science."""
    table = colour.LUT3D.linear_table(side) ** gamma
    table = 0.7 * table[..., [1, 2, 0]] + 0.3 * table
    colour.write_LUT(colour.LUT3D(table, "Evening"), str(path))
    return path


def curve_file(path: Path, side: int = 33) -> Path:
    x = np.linspace(0, 1, side)
    table = np.stack([x**0.5, x, x**2], -1)
    lines = ["# curves", 'TITLE "Curves"', f"LUT_1D_SIZE {side}", "DOMAIN_MIN -0.2 0 0",
             "DOMAIN_MAX 1.2 1 2", ""]  # fmt: skip
    lines += [" ".join(f"{value:.6f}" for value in row) for row in table]
    path.write_text("\n".join(lines) + "\n")
    return path


def picture(height: int = 40, width: int = 60) -> Any:
    out = RNG.random((height, width, 4), np.float32)
    out[..., :3] = out[..., :3] * 1.3 - 0.15
    out[..., :3] *= out[..., 3:]
    return out


def test_a_cube_is_what_colour_science_reads_and_applies(tmp_path: Path) -> None:
    path = cube_file(tmp_path / "evening.cube")
    table = parse_cube(path.read_text(), path.name)
    other = colour.read_LUT(str(path))
    np.testing.assert_allclose(table.table, other.table, atol=1e-6)
    colours = RNG.random((30, 40, 3))
    main = np.dstack([colours, np.ones((30, 40))]).astype(np.float32)
    expected = colour.algebra.table_interpolation_tetrahedral(colours, other.table)
    np.testing.assert_allclose(table.apply(main)[..., :3], expected, atol=1e-5)


def test_curves_over_a_range_of_their_own_are_colour_sciences(tmp_path: Path) -> None:
    path = curve_file(tmp_path / "curves.cube")
    table = parse_cube(path.read_text(), path.name)
    assert (table.low, table.high) == ((-0.2, 0, 0), (1.2, 1, 2))
    other = colour.read_LUT(str(path))
    colours = RNG.random((30, 40, 3)) * [1.4, 1, 2] - [0.2, 0, 0]
    main = np.dstack([colours, np.ones((30, 40))]).astype(np.float32)
    np.testing.assert_allclose(table.apply(main)[..., :3], other.apply(colours), atol=1e-4)


@pytest.mark.parametrize("side", [2, 17, 33])
def test_an_identity_changes_nothing_and_alpha_stays(side: int) -> None:
    line = np.linspace(0, 1, side, dtype=np.float32)
    cube = np.stack(np.meshgrid(line, line, line, indexing="ij"), -1)
    main = picture()
    held = np.clip(main[..., :3], 0, main[..., 3:])
    for table in (cube, np.stack([line] * 3, -1)):
        found = LookupTable(np.ascontiguousarray(table)).apply(main)
        np.testing.assert_allclose(found[..., :3], held, atol=2e-6)
        np.testing.assert_array_equal(found[..., 3], main[..., 3])


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("LUT_3D_SIZE 2\n0 0 0\n1 1 1\n", "should hold 8 colours for its size of 2. It holds 2."),
        ("0 0 0\n1 1 1\n", "does not say its size"),
        ("LUT_1D_SIZE 2\n0 0 0\n1 nan 1\n", "line 3 holds a value that is not a number"),
        ("LUT_1D_SIZE 2\n0 0 0\nnan 1 1\n", "line 3 holds a value that is not a number"),
        ("LUT_1D_SIZE 2\nLUT_3D_SIZE 2\n", "line 2: a file holds one table"),
        ("LUT_1D_SIZE 2\n0 0 0\n1 1\n", "line 3: a colour is three numbers"),
        ("LUT_1D_SIZE 2\n0 0 0\n1 one 1\n", "is not a colour"),
        ("LUT_3D_SIZE 4000\n", "a whole number from 2 to 129"),
        (
            "LUT_1D_SIZE 2\nDOMAIN_MIN 1 1 1\nDOMAIN_MAX 0 1 1\n0 0 0\n1 1 1\n",
            "larger than DOMAIN_MIN",
        ),
        ("LUT_1D_SIZE 2\nDOMAIN_MIN 1 1\n0 0 0\n1 1 1\n", "too many or too few"),
    ],
)
def test_a_table_with_faults_is_refused_with_its_place(text: str, said: str) -> None:
    with pytest.raises(Fault, match=said) as told:
        parse_cube(text, "night.cube")
    assert told.value.sentence.startswith("night.cube")
    assert told.value.sentence.endswith(".")


def test_a_table_is_material_that_a_step_looks_up(library: Library, tmp_path: Path) -> None:
    path = cube_file(tmp_path / "evening.cube")
    with path.open("rb") as file:
        material = library.bring_in(file, "evening.cube")
    assert material.facts.kind == "table"
    assert material.facts.coding == "cube of 9"
    card = library.footage(material.id).pixels(0)
    assert card.dtype == np.uint8
    assert len(np.unique(card)) > 30
    step = {"kind": "lookup-table", "values": {"table": material.id}}
    clip = StillPicture("clip", RNG.integers(0, 256, (54, 96, 3), np.uint8))
    effect = look(step)
    given = library.materials_for(effect, {"clip": clip})
    shown = Engine().evaluate(effect, Moment(0, 10, RATE), Size(96, 54), materials=given).picture
    table = inspect(path)[0].table  # type: ignore[attr-defined]
    plain = Engine().evaluate(look(), Moment(0, 10, RATE), Size(96, 54), materials=given).picture
    np.testing.assert_array_equal(shown, table.apply(plain))
    # It is sent in a package, and named if it is missing.
    assert [name for name in library.package_files(effect) if name.endswith(".cube")]
    with pytest.raises(Fault, match=r"lookup table .* is not in the library"):
        Engine().evaluate(
            effect, Moment(0, 10, RATE), Size(96, 54), materials=Materials({"clip": clip})
        )
