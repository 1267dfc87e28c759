"""Kernels compile beside the page's build, until the page exists."""

from __future__ import annotations

from pathlib import Path

import pytest

from pale_static.core.kernels import rows
from pale_static.jobs import compiling


def test_compiling_stops_before_the_next_kernel_once_the_file_is_there(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    page, made = tmp_path / "index.html", []

    class Slow:
        def ready(self) -> None:
            made.append(self)
            if len(made) == 2:
                page.touch()

    monkeypatch.setattr(rows.Kernel, "waiting", [Slow() for _ in range(5)])
    monkeypatch.setattr(compiling, "_modules", lambda: ["colour.convert"])
    compiling.compile_until(page)
    assert len(made) == 2
    compiling.compile_until(page)
    assert len(made) == 2
