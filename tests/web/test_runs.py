"""Runs of frames for playing, and frames that are kept on the disk."""

from __future__ import annotations

import struct
from pathlib import Path
from threading import BoundedSemaphore
from typing import Any

import pytest

from pale_static.core.faults import Fault
from pale_static.core.frames.edit import EditSource
from pale_static.media.kept_files import KeptFiles
from pale_static.media.runs import runs_of
from pale_static.store import Library
from pale_static.web import create_app

from .test_api import Api

EDIT = "/reels/2"
SIZE = "width=96&height=54"


def opened(library: Library) -> Api:
    app = create_app(library, cache_bytes=64 << 20)
    app.testing = False
    return Api(app.test_client())


@pytest.fixture
def api(demo: Library) -> Api:
    return opened(demo)


def edit_of(api: Api) -> dict[str, Any]:
    number = next(one["id"] for one in api.get("/reels")["reels"] if one["name"] == "Open day")
    found: dict[str, Any] = api.get(f"/reels/{number}")
    return found


def records(data: bytes) -> tuple[list[bytes], str]:
    """The pictures of a run, and the sentence of a fault at its end."""
    pictures, told = [], ""
    while data:
        (length,) = struct.unpack(">I", data[:4])
        end = 4 + length % (1 << 31)
        if length >> 31:
            told = data[4:end].decode()
        else:
            pictures.append(data[4:end])
        data = data[end:]
    return pictures, told


def run(api: Api, view: dict[str, Any], **given: Any) -> tuple[list[bytes], str]:
    asked = "&".join(f"{name}={value}" for name, value in given.items())
    base = f"/reels/{view['id']}/{view['revision']}"
    return records(api.ask("GET", f"{base}/frames?{SIZE}&{asked}").get_data())


def ahead(api: Api, base: str, **given: Any) -> list[int]:
    """The frames that are kept, then those that are computed."""
    asked = "&".join(f"{name}={value}" for name, value in {"frame": 0, "most": 0, **given}.items())
    data = api.ask("GET", f"{base}/ahead?{SIZE}&{asked}").get_data()
    return list(struct.unpack(f">{len(data) // 4}I", data))


def ready(api: Api, view: dict[str, Any], **given: Any) -> list[tuple[int, int]]:
    frames = ahead(api, f"/reels/{view['id']}/{view['revision']}", **given)
    return list(runs_of(frames, len(frames)))


def test_pictures_of_a_run_are_those_of_single_frames(demo: Library, tmp_path: Path) -> None:
    api = opened(demo)
    view = edit_of(api)
    pictures, told = run(api, view, frame=40, count=14)
    assert (len(pictures), told) == (14, "")
    # In another process nothing is computed yet; joins, looks and titles pass by here.
    other = opened(Library(demo.folder))
    base = f"/reels/{view['id']}/{view['revision']}/frame.jpg?{SIZE}&frame="
    for frame in (40, 44, 49, 53):
        assert other.ask("GET", f"{base}{frame}").get_data() == pictures[frame - 40]
    assert run(api, view, frame=53, count=14, by=-1)[0] == pictures[::-1]


def test_frames_on_the_disk_are_ready_after_a_restart_and_a_change_spares_the_others(
    demo: Library,
) -> None:
    api = opened(demo)
    view = edit_of(api)
    assert ready(api, view) == []
    pictures, _ = run(api, view, frame=0, count=30, keep="true")
    run(api, view, frame=36, count=2)  # played at a smaller size, say: not kept
    # Other frames of the edit may show the same picture.
    assert ready(api, view)[0] == (0, 30)
    again = opened(Library(demo.folder))
    assert ready(again, view)[0] == (0, 30)
    # What is on the disk is not computed again, not even planned.
    with pytest.MonkeyPatch.context() as patch:
        patch.delattr(EditSource, "plan")
        assert run(again, view, frame=0, count=30, keep="true")[0] == pictures
        single = f"/reels/{view['id']}/{view['revision']}/frame.jpg?{SIZE}&frame=7"
        assert again.ask("GET", single).get_data() == pictures[7]
    # A title that stands over frames 10 to 15 makes those new, and leaves the others.
    title = next(one["slug"] for one in again.get("/macros")["macros"] if one["kind"] == "title")
    change = {"do": "add-item", "name": "Over", "macro": title,
              "version": 1, "frame": 10, "length": 6}  # fmt: skip
    body = {"base": view["revision"], "change": change}
    changed = again.post(f"/reels/{view['id']}/changes", body)
    assert ready(again, changed)[:2] == [(0, 10), (16, 14)]
    fresh, _ = run(again, changed, frame=8, count=10)
    assert fresh[:2] == pictures[8:10]
    assert fresh[8:] == pictures[16:18]
    assert fresh[3] != pictures[11]


def test_effects_and_macros_are_played_in_runs_too(api: Api) -> None:
    draft = api.post("/effects", {"macro": "ember-fray", "version": 1})
    for base in (f"/effects/{draft['id']}/{draft['revision']}", "/macros/ember-fray/1"):
        asked = f"{SIZE}&length=20&frame=5&count=3&keep=true"
        pictures, _ = records(api.ask("GET", f"{base}/frames?{asked}").get_data())
        single = api.ask("GET", f"{base}/frame.jpg?{SIZE}&length=20&frame=6").get_data()
        assert pictures[1] == single
        assert ahead(api, base, length=20) == [5, 6, 7]
        assert ahead(api, base, length=21) == []


def test_frames_ahead_are_computed_after_those_that_are_kept(
    api: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    view = edit_of(api)
    base = f"/reels/{view['id']}/{view['revision']}"
    run(api, view, frame=50, count=2, keep="true")
    last = view["length"] - 1
    # From the playhead on, then from the start: what is kept comes first.
    told = ahead(api, base, frame=last - 1, most=4)
    kept = told[:-4]
    assert {50, 51} <= set(kept)
    assert told[-4:] == [last - 1, last, 0, 1]
    assert set(ahead(api, base)) >= {*told}

    def fails(*_: Any, **__: Any) -> Any:
        raise Fault("The clip is gone.")

    # A fault is told to whoever looks at that frame.
    monkeypatch.setattr(EditSource, "plan", fails)
    assert 300 not in ahead(api, base, frame=300, most=4)


def test_only_for_a_few_pages_frames_are_computed_ahead_at_once(
    api: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    base = f"/reels/{edit_of(api)['id']}/{edit_of(api)['revision']}"
    monkeypatch.setattr("pale_static.web.pictures._ahead", BoundedSemaphore(1))
    before = ahead(api, base)
    held = api.ask("GET", f"{base}/ahead?{SIZE}&frame=0&most=9")
    # A second page is told what is there, and nothing is computed for it.
    assert ahead(api, base, frame=400, most=9) == before
    held.close()
    assert len(ahead(api, base, frame=400, most=2)) == len(before) + 2


def test_a_fault_ends_a_run_with_its_sentence(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    view = edit_of(api)
    pictures, told = run(api, view, frame=view["length"] - 2, count=5)
    assert len(pictures) == 2
    assert told == f"Open day has frames 0 to {view['length'] - 1}, and no frame {view['length']}."

    def fails(*_: Any, **__: Any) -> Any:
        raise Fault("The clip is gone.")

    monkeypatch.setattr(EditSource, "plan", fails)
    assert run(api, view, frame=3, count=5) == ([], "The clip is gone.")


def test_a_full_disk_stops_keeping_and_nothing_else(
    api: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(*_: Any) -> None:
        raise OSError(28, "No space left on device")

    view = edit_of(api)
    monkeypatch.setattr(Path, "write_bytes", full)
    pictures, told = run(api, view, frame=0, count=4, keep="true")
    assert (len(pictures), told, ready(api, view)) == (4, "", [])
    assert ready(api, view, most=500) == []


def test_kept_files_stay_within_their_bound(tmp_path: Path) -> None:
    kept = KeptFiles(tmp_path / "frames", 10_000)
    for number in range(60):
        kept.put(f"{number:02}", ".jpg", bytes(400))
    assert kept.size <= 10_000
    names = kept.names(".jpg")
    assert {f"{number:02}" for number in range(40, 60)} <= names
    assert kept.get("59", ".jpg") == bytes(400)
    assert kept.get("00", ".jpg") is None
    assert not list(kept.folder.glob("*.part"))
