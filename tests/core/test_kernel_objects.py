"""Kernels in machine code: they refuse wrong arguments, and load without the compiler."""

from __future__ import annotations

import os
import platform
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from pale_static.core.kernels import objects
from pale_static.core.kernels.rows import compiled, inner, settle

F = np.float32


@inner("f4(f4)", error_model="numpy")
def _twice(value):
    return value + value


@compiled("out2 in2 word_in1 i f b")
def _sum(first, last, out, one, extra, whole, part, doubled):
    line = np.empty(out.shape[1], F)
    for y in range(first, last):
        for x in range(out.shape[1]):
            line[x] = one[y, x] + F(extra[x]) + F(whole) + part
        for x in range(out.shape[1]):
            out[y, x] = _twice(line[x]) if doubled else line[x]


ONE = np.arange(12, dtype=F).reshape(3, 4)
EXTRA = np.array([1, 2, 3, 4], np.uint16)


@pytest.fixture(autouse=True)
def kept_apart(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Object files of these tests are in a separate folder."""
    monkeypatch.setattr(objects, "FOLDER", str(tmp_path / "kernels"))
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "home"))
    return tmp_path


def test_a_kernel_computes_the_rows_it_is_given_and_no_others() -> None:
    out = np.zeros_like(ONE)
    _sum(1, 3, out, ONE, EXTRA, np.int64(10), F(0.5), np.True_)
    assert np.array_equal(out[1:], 2 * (ONE + EXTRA + 10.5)[1:])
    assert not out[0].any()
    # Empty planes and empty row ranges are allowed.
    empty = np.zeros((0, 0), F)
    _sum(0, 0, empty, empty, EXTRA[:0], 0, 0, False)


@pytest.mark.skipif(platform.machine() not in ("x86_64", "AMD64"), reason="a switch of x86")
def test_numbers_that_have_faded_out_are_nothing_within_a_kernel_alone() -> None:
    faded = np.full((3, 4), 1e-40, F)
    out = np.ones_like(faded)
    _sum(0, 3, out, faded, np.zeros(4, np.uint16), 0, F(0), False)
    assert not out.any()
    assert (faded + F(0)).all(), "elsewhere they are what they were"


@pytest.mark.parametrize(
    ("place", "wrong", "said"),
    [
        (0, ONE.astype(np.float64), "wanted out2, got float64"),
        (0, np.zeros((4, 3), F).T, r"\(3, 4\), not contiguous"),
        (0, np.frombuffer(ONE.tobytes(), F).reshape(3, 4), "argument 0: wanted out2"),
        (1, ONE[None], r"wanted in2, got float32 \(1, 3, 4\)"),
        (1, ONE.tolist(), "wanted in2, got list"),
        (1, None, "wanted in2, got NoneType"),
        (2, EXTRA.astype(np.int16), "wanted word_in1, got int16"),
    ],
)
def test_a_kernel_writes_to_no_wrong_array(place: int, wrong: object, said: str) -> None:
    given: list[object] = [np.zeros_like(ONE), ONE, EXTRA, 1, 1.0, False]
    given[place] = wrong
    with pytest.raises(TypeError, match=said):
        _sum(0, 3, *given)


def test_a_kernel_refuses_what_is_no_number_and_too_few_arguments() -> None:
    out = np.zeros_like(ONE)
    with pytest.raises(TypeError, match="str"):
        _sum(0, 3, out, ONE, EXTRA, "1", 1.0, False)
    with pytest.raises(TypeError):
        _sum(0, 3, out, ONE, EXTRA, 1, None, False)
    with pytest.raises(TypeError, match="takes 8 arguments, got 4"):
        _sum(0, 3, out, ONE)
    assert not out.any()


def ready(function: object) -> bool:
    """Make a kernel ready again; returns whether Numba was needed."""
    made = list[bool]()
    source = function._made[0]  # type: ignore[attr-defined]

    def before() -> None:
        made.append(True)
        settle(source)

    objects.ready(source, *function._made[1:], before)  # type: ignore[attr-defined]
    return bool(made)


def test_a_kernel_is_compiled_once_and_again_where_its_file_is_damaged(kept_apart: Path) -> None:
    assert ready(_sum)
    (file,) = (kept_apart / "kernels").glob("*.o")
    assert not ready(_sum)
    whole = file.read_bytes()
    for broken in (whole[: len(whole) // 2], b"", whole[:-1] + bytes([whole[-1] ^ 1])):
        file.write_bytes(broken)
        assert ready(_sum)
        assert not ready(_sum)


def test_another_machine_has_files_of_its_own(
    kept_apart: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert ready(_sum)
    monkeypatch.setattr(objects, "_machine_mark", lambda: "other")
    assert ready(_sum)
    assert len(list((kept_apart / "kernels").glob("*.o"))) == 2
    monkeypatch.undo()
    monkeypatch.setattr(objects, "FOLDER", str(kept_apart / "kernels"))
    assert not ready(_sum)


def test_where_the_source_lies_may_be_closed_to_writing(
    kept_apart: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (kept_apart / "file").touch()
    monkeypatch.setattr(objects, "FOLDER", str(kept_apart / "file" / "no-folder"))
    assert ready(_sum)
    assert len(list((kept_apart / "home/pale-static/kernels").glob("*.o"))) == 1
    assert not ready(_sum)
    monkeypatch.setenv("XDG_CACHE_HOME", str(kept_apart / "file"))
    assert ready(_sum)


def test_another_version_of_a_source_takes_the_place_of_the_earlier_file(tmp_path: Path) -> None:
    program = tmp_path / "kernel_of_today.py"
    text = (
        "import sys\nsys.path[:0] = [{path!r}]\n"
        "from pale_static.core.kernels import objects\nobjects.FOLDER = {folder!r}\n"
        "from pale_static.core.kernels.rows import compiled\nimport numpy as np\n"
        "{compiled}\ndef run(first, last, out):\n    out[0] = {value}\n"
        "out = np.zeros(1, np.float32)\nrun(0, 1, out)\nprint(out[0], 'numba' in sys.modules)\n"
    )
    folder = tmp_path / "kept"

    def run(value: int) -> str:
        program.write_text(
            text.format(path=str(tmp_path), folder=str(folder), value=value, compiled="@compiled('out1')")
        )  # fmt: skip
        command = [sys.executable, "-c", "import kernel_of_today"]
        environment = {**os.environ, "PYTHONPATH": str(tmp_path), "PYTHONDONTWRITEBYTECODE": "1"}
        done = subprocess.run(
            command, env=environment, capture_output=True, text=True, check=True, cwd=tmp_path
        )
        return done.stdout.strip()

    assert run(1) == "1.0 True"
    assert run(1) == "1.0 False"
    assert run(2) == "2.0 True"
    assert len(list(folder.glob("*.o"))) == 1


def test_no_program_loads_the_compiler_for_kernels_that_are_kept() -> None:
    program = (
        "import sys\n"
        "from pale_static.core.kernels.filters import blending\n"
        "import numpy as np\n"
        "a = np.ones((4, 4, 4), np.float32)\n"
        "blending.blend(a, a, 'multiply')\n"
        "print('numba' in sys.modules, 'llvmlite' in sys.modules)\n"
    )
    # The first one may have to compile them.
    for _ in range(2):
        done = subprocess.run(
            [sys.executable, "-c", program], check=True, capture_output=True, text=True
        )
    assert done.stdout.split() == ["False", "True"]
