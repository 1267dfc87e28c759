"""The wheel holds the page: the application runs from it without the checkout."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
import sysconfig
import urllib.request
import venv
import zipfile
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
PAGE = ROOT / "src/pale_static/web/app/index.html"


@pytest.mark.skipif(not PAGE.exists(), reason="the page is not built")
def test_the_demo_is_served_from_a_wheel_in_an_empty_environment(tmp_path: Path) -> None:
    subprocess.run(
        [sys.executable, "-m", "pip", "wheel", "--quiet", "--no-deps", "--no-build-isolation", "--wheel-dir",
         str(tmp_path), str(ROOT)],
        check=True, capture_output=True,
    )  # fmt: skip
    wheel = next(tmp_path.glob("pale_static-*.whl"))
    names = zipfile.ZipFile(wheel).namelist()
    assert {"pale_static/web/app/index.html", "pale_static/py.typed"} <= set(names)
    assert any(name.startswith("pale_static/core/lettering/fonts/") for name in names)
    assert not any("test" in name or name.endswith(".nbi") for name in names)
    # A separate environment that finds the dependencies here, but not the checkout.
    empty = tmp_path / "empty"
    venv.create(empty, with_pip=False)
    python = empty / "bin/python"
    site = empty / f"lib/python{sysconfig.get_python_version()}/site-packages"
    zipfile.ZipFile(wheel).extractall(site)
    # The kernels are the same, so they are not compiled again.
    kept = "pale_static/core/kernels/__pycache__"
    shutil.copytree(ROOT / "src" / kept, site / kept)
    # Only a plain path, so that the checkout's own entries are not followed.
    (site / "dependencies.pth").write_text(sysconfig.get_path("purelib") + "\n")
    plain = {name: value for name, value in os.environ.items() if name != "PYTHONPATH"}
    where = subprocess.run(
        [python, "-c", "import pale_static; print(pale_static.__file__)"],
        check=True, capture_output=True, text=True, env=plain, cwd=tmp_path,
    ).stdout  # fmt: skip
    assert where.startswith(str(site))
    server = subprocess.Popen(
        [python, "-m", "pale_static", "serve", "--demo", "--data", str(tmp_path / "data"),
         "--port", "0"],
        stderr=subprocess.PIPE, text=True, env=plain, cwd=tmp_path, start_new_session=True,
    )  # fmt: skip
    try:
        assert server.stderr
        found = next(
            line for line in (re.search(r"http://\S+/", text) for text in server.stderr) if line
        )
        with urllib.request.urlopen(found[0], timeout=30) as answer:
            assert b'id="root"' in answer.read()
        with urllib.request.urlopen(f"{found[0]}api/macros", timeout=30) as answer:
            assert answer.read().count(b'"slug"') >= 13
    finally:
        server.terminate()
        server.wait(20)
