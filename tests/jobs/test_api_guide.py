"""The guide's calls from other programs, exactly as its page shows them, against the real server."""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
from pathlib import Path

import av
from PIL import Image

from ..server import Server, shrink

PAGE = Path(__file__).parents[2] / "docs/guide/api.md"


def test_the_calls_of_the_guide_give_what_they_say(demo_folder: Path, tmp_path: Path) -> None:
    shutil.copytree(demo_folder, tmp_path / "data")
    server = Server(tmp_path / "data")
    try:
        shrink(server)
        blocks = re.findall(r"^```python\n(.*?)^```", PAGE.read_text(), re.DOTALL | re.MULTILINE)
        assert len(blocks) == 4
        program = "".join(blocks).replace("http://127.0.0.1:8710", server.address)
        done = subprocess.run(
            [sys.executable, "-c", program], cwd=tmp_path, capture_output=True, text=True
        )
        assert done.returncode == 0, done.stderr
        assert "done" in done.stdout
        item = server.ask("GET", "/reels/3")["items"][-1]
        assert item["use"]["settings"]["text"] == "Last tram 21:47"
    finally:
        server.stop()
    assert Image.open(tmp_path / "frame.png").size == (960, 540)
    with av.open(tmp_path / "film.mp4") as film:
        assert sum(1 for _ in film.decode(video=0)) == 20
