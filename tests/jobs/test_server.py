"""The real server and its worker as processes: renders, cancelling, killed processes."""

from __future__ import annotations

import json
import shutil
import subprocess
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import av
import numpy as np
import pytest
from PIL import Image

from pale_static.serving import Quiet

from ..server import Server, shrink


@pytest.fixture
def server(demo_folder: Path, tmp_path: Path) -> Iterator[Server]:
    shutil.copytree(demo_folder, tmp_path / "data")
    running = Server(tmp_path / "data")
    yield running
    running.stop()


def test_a_render_runs_beside_the_server_and_gives_every_frame(server: Server) -> None:
    shrink(server)
    made = server.ask("POST", "/renders", {"reel": 3})
    done = server.until(made["id"], "done")
    assert done["done"] == done["total"] == 222
    with av.open(str(server.folder / "renders" / f"render-{made['id']}.mp4")) as container:
        assert container.streams.video[0].frames == 222
        assert container.streams.video[0].average_rate == 25
    with urllib.request.urlopen(f"{server.address}/api/renders/{made['id']}/file") as answer:
        assert "Last night, cut 1.mp4" in answer.headers["Content-Disposition"].replace(
            "%20", " "
        ).replace("%2C", ",")


def test_a_render_can_be_cancelled_and_asked_for_again(server: Server) -> None:
    shrink(server, (640, 360))
    made = server.ask("POST", "/renders", {"reel": 3, "form": "png"})
    server.until(made["id"], "running")
    server.ask("POST", f"/renders/{made['id']}/cancel")
    assert server.until(made["id"], "cancelled")["message"] == "Cancelled."
    server.ask("POST", f"/renders/{made['id']}/again")
    server.until(made["id"], "running")
    server.ask("POST", f"/renders/{made['id']}/cancel")


def test_a_missing_file_fails_the_render_in_words(server: Server) -> None:
    shrink(server)
    for path in (server.folder / "media").glob("*.mp4"):
        path.rename(path.with_suffix(".gone"))
    # The server has its files open already; the worker starts again without open files.
    made = server.ask("POST", "/renders", {"reel": 3})
    found = server.until(made["id"], "failed")
    assert "is gone. Bring it in again." in found["message"]


def test_killing_the_server_in_a_render_and_amid_edits_loses_nothing_accepted(
    server: Server,
) -> None:
    shrink(server, (640, 360))
    made = server.ask("POST", "/renders", {"reel": 3, "form": "png"})
    server.until(made["id"], "running")
    view = server.ask("GET", "/reels/3")
    for width in range(320, 352, 2):
        change = {"do": "set-reel", "width": width, "height": 180}
        view = server.ask("POST", "/reels/3/changes", {"base": view["revision"], "change": change})
    pictures = server.folder / "renders" / f"render-{made['id']}"
    deadline = time.monotonic() + 60
    while len(list(pictures.glob("*.png"))) < 4 and time.monotonic() < deadline:
        time.sleep(0.1)
    server.kill()
    before = {path.name: path.stat().st_mtime_ns for path in pictures.glob("*.png")}
    assert len(before) >= 4
    server.start()
    again = server.ask("GET", "/reels/3")
    assert (again["revision"], again["width"]) == (view["revision"], 350)
    found = server.until(made["id"], "running", "done")
    assert "Interrupted" in found["message"]
    # It continues where it stopped: complete pictures are not made again.
    deadline = time.monotonic() + 60
    while len(list(pictures.glob("*.png"))) <= len(before) + 2 and time.monotonic() < deadline:
        time.sleep(0.1)
    assert len(list(pictures.glob("*.png"))) > len(before)
    for name, made_at in sorted(before.items())[:-1]:
        assert (pictures / name).stat().st_mtime_ns == made_at
    server.ask("POST", f"/renders/{made['id']}/cancel")


def test_the_worker_does_not_outlive_a_killed_server(server: Server) -> None:
    def workers() -> list[str]:
        return subprocess.run(
            ["ps", "--no-headers", "-o", "pid", "--ppid", str(server.process.pid)],
            capture_output=True, text=True, check=False,
        ).stdout.split()  # fmt: skip

    deadline = time.monotonic() + 15
    while not (children := workers()):  # it starts in the first quiet moment
        assert time.monotonic() < deadline
        time.sleep(0.2)
    server.kill()
    deadline = time.monotonic() + 15
    while time.monotonic() < deadline and any(Path(f"/proc/{pid}").exists() for pid in children):
        time.sleep(0.2)
    assert not any(Path(f"/proc/{pid}").exists() for pid in children)
    server.start()


def test_progress_is_told_to_who_looks_again_and_a_list_as_it_was_costs_nothing(
    server: Server,
) -> None:
    shrink(server)
    made = server.ask("POST", "/renders", {"reel": 3, "frames": 30})
    seen, tag, same = set(), "", 0
    deadline = time.monotonic() + 60
    while "done" not in seen and time.monotonic() < deadline:
        asked = urllib.request.Request(
            f"{server.address}/api/renders", headers={"If-None-Match": tag} if tag else {}
        )
        try:
            with urllib.request.urlopen(asked, timeout=30) as answer:
                tag = answer.headers["ETag"]
                found = json.loads(answer.read())["renders"]
                seen |= {one["state"] for one in found if one["id"] == made["id"]}
        except urllib.error.HTTPError as fault:
            same += fault.code == 304 and fault.read() == b""
        time.sleep(0.02)
    assert "done" in seen
    assert same > 0


def test_quiet_is_when_nothing_has_come_for_a_while_nor_is_under_way() -> None:
    seen: list[bool] = []
    quiet = Quiet(lambda environ, start: seen.append(quiet.lasts(0.0)) or [b"done"])
    assert quiet.lasts(0.0)
    assert not quiet.lasts(60.0)
    assert list(quiet({}, None)) == [b"done"]
    assert seen == [False]
    quiet.wait(0.0)
    assert quiet.lasts(0.0)


def test_one_item_is_rendered_over_nothing_with_its_alpha(server: Server) -> None:
    view = server.ask("GET", "/reels/3")
    change = {"do": "add-item", "name": "Card", "frame": 20, "length": 12, "macro": "late-focus",
              "version": 1, "settings": {"size": 30}}  # fmt: skip
    view = server.ask("POST", "/reels/3/changes", {"base": view["revision"], "change": change})
    shrink(server)
    item = view["items"][0]["id"]
    made = server.ask("POST", "/renders", {"reel": 3, "form": "png", "item": item})
    assert (made["total"], made["name"]) == (12, "Card, Last night, cut 1")
    server.until(made["id"], "done")
    pictures = sorted((server.folder / "renders" / f"render-{made['id']}").glob("*.png"))
    assert len(pictures) == 12
    middle = np.asarray(Image.open(pictures[6]))
    assert middle.shape[2] == 4
    assert middle[..., 3].min() == 0
    assert middle[..., 3].max() > 0
