"""An address names a draft of the served library; the tag names the pixels."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from pale_static.store import Library
from pale_static.web import create_app, studio

from .test_api import Api, picture

FRAME = "/effects/{id}/{revision}/frame.png?frame=3&length=50&width=96&height=54"


def flat(folder: Path, colour: str) -> tuple[Api, Any]:
    """A library whose first effect is one flat colour."""
    api = Api(create_app(Library(folder)).test_client())
    draft = api.post("/effects", {"kind": "texture", "name": "One"})
    for change in (
        {"do": "add-lane", "name": "Flat"},
        {"do": "add-step", "lane": "flat", "kind": "flat", "values": {"colour": colour}},
        {"do": "add-step", "lane": "out", "kind": "blend", "at": 1},
        {"do": "set-input", "lane": "out", "step": "blend", "input_name": "over",
         "input": {"lane": "flat"}},
    ):  # fmt: skip
        body = {"base": draft["revision"], "change": change}
        draft = api.post(f"/effects/{draft['id']}/changes", body)
    return api, draft


def test_a_browser_never_shows_the_picture_of_another_library(tmp_path: Path) -> None:
    red, first = flat(tmp_path / "red", "#FF0000")
    blue, second = flat(tmp_path / "blue", "#0000FF")
    address = FRAME.format(**first)
    assert address == FRAME.format(**second)  # the same address, as on the same port
    tag = red.ask("GET", address).headers["ETag"]
    # The browser asks about its picture, which is not from this library.
    held = {"Host": "127.0.0.1:8710", "If-None-Match": tag}
    answer = blue.ask("GET", address, headers=held)
    assert answer.headers["ETag"] != tag
    assert tuple(picture(answer)[0, 0][:3]) == (0, 0, 255)
    red.ask("GET", address, status=304, headers=held)


def test_another_version_of_the_program_is_another_picture(
    tmp_path: Path, monkeypatch: Any
) -> None:
    api, draft = flat(tmp_path / "red", "#FF0000")
    tag = api.ask("GET", FRAME.format(**draft)).headers["ETag"]
    monkeypatch.setattr(studio, "program", lambda: "another")
    held = {"Host": "127.0.0.1:8710", "If-None-Match": tag}
    again = api.ask("GET", FRAME.format(**draft), headers=held)
    assert again.headers["ETag"] != tag
    assert np.array_equal(picture(again)[0, 0][:3], (255, 0, 0))


def test_a_change_that_cannot_be_made_is_told_before_it_is_made(tmp_path: Path) -> None:
    api, draft = flat(tmp_path / "red", "#FF0000")

    def reason(**change: Any) -> Any:
        body = {"base": draft["revision"], "change": change}
        return api.post(f"/effects/{draft['id']}/refusal", body)["reason"]

    assert reason(do="add-step", lane="out", kind="blur") is None
    told = reason(do="add-step", lane="out", kind="noise", at=1)
    assert "starts a lane; it cannot follow another step" in told
    now = api.get(f"/effects/{draft['id']}")
    assert now["revision"] == draft["revision"]  # nothing was changed


def test_an_effect_has_a_working_rate_that_times_and_frames_go_by(tmp_path: Path) -> None:
    api, draft = flat(tmp_path / "red", "#FF0000")
    assert draft["effect"].get("rate", "25") == "25"
    body = {"base": draft["revision"], "change": {"do": "set-head", "rate": "60000/1001"}}
    draft = api.post(f"/effects/{draft['id']}/changes", body)
    assert draft["effect"]["rate"] == "60000/1001"
    # Two seconds are 119.88 frames, rounded to the nearest.
    assert draft["frames"] == 120
    body = {"base": draft["revision"], "change": {"do": "set-head", "rate": "17"}}
    told = api.post(f"/effects/{draft['id']}/changes", body, status=422)["detail"]
    assert "rate" in told
