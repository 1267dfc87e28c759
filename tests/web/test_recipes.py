"""Recipes: shown on any clips, started as a draft, and put into an empty lane."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np

from pale_static.store import Library
from pale_static.web import create_app

from .test_api import Api, api, picture

__all__ = ["api"]

ASKED = "length=40&places=5&width=96&height=54"


def videos(api: Api) -> list[str]:
    return [
        one["id"] for one in api.get("/materials")["materials"] if one["facts"]["kind"] == "video"
    ]


def test_a_recipe_moves_on_the_clips_that_are_chosen(api: Api) -> None:
    first, second, third = videos(api)[:3]
    at = "/macros/built-in:noise-wipe/1"

    def on(path: str, **clips: str) -> np.ndarray:
        return picture(api.ask("GET", f"{at}/{path}&clips={json.dumps(clips)}"))[..., :3]

    strip = on(f"strip.png?{ASKED}", **{"from": first, "to": second})
    frames = [on(f"frame.png?frame={n}&length=40&width=96&height=54", **{"from": first, "to": second})
              for n in (0, 10, 20, 29, 39)]  # fmt: skip
    assert np.array_equal(strip, np.hstack(frames))
    other = on(f"strip.png?{ASKED}", **{"from": first, "to": third})
    # Another second clip leaves the first frame, and changes the last.
    assert np.array_equal(other[:, :96], strip[:, :96])
    assert not np.array_equal(other[:, -96:], strip[:, -96:])


def test_a_recipe_begins_a_draft_of_its_own_on_the_clips(api: Api) -> None:
    first, second = videos(api)[:2]
    body: dict[str, Any] = {"macro": "built-in:smoke-away", "clips": {"from": second, "to": first}}
    draft = api.post("/effects", body)
    effect = draft["effect"]
    assert (effect["name"], draft["words"]) == ("Smoke away", "Started from the recipe Smoke away")
    assert {slot["id"]: slot["stand_in"] for slot in effect["slots"]} == body["clips"]
    assert [lane["name"] for lane in effect["lanes"]][2:] == ["Smoke", "Draught", "Carried", "Out"]
    # It is published as a new macro, and a second start makes another draft.
    assert draft["macro"] is None
    assert api.post("/effects", body)["id"] != draft["id"]
    told = api.post("/effects", {"macro": "built-in:page"}, status=404)["detail"]
    assert told == "There is no built-in effect “built-in:page”, version 1."
    api.post("/effects", body | {"clips": {"from": "0" * 32}}, status=404)


def test_an_empty_library_has_recipes_too(tmp_path: Path) -> None:
    api = Api(create_app(Library(tmp_path / "empty")).test_client())
    cards = api.get("/macros")["recipes"]
    assert len(cards) > 20
    assert {card["kind"] for card in cards} == {"transition", "look", "title", "texture"}
    frame = picture(api.ask("GET", f"/macros/{cards[0]['slug']}/1/frame.png?width=96&height=54"))
    assert frame.shape[:2] == (54, 96)


def test_a_texture_starts_an_empty_lane_as_plain_steps(api: Api) -> None:
    recipes = {one["part"]["name"]: one for one in api.get("/parts")["recipes"]}
    clouds = recipes["Slow clouds"]
    assert clouds["recipe"]
    assert clouds["starts"]
    assert picture(api.ask("GET", clouds["picture"].removeprefix("/api"))).std() > 5
    draft = api.post("/effects", {"kind": "look", "name": "Overcast"})
    put = {"do": "several", "changes": [
        {"do": "add-lane", "name": "Sky"},
        {"do": "insert-part", "part": clouds["part"], "to": "sky", "at": 0, "note": clouds["note"]},
    ]}  # fmt: skip
    after = api.post(f"/effects/{draft['id']}/changes", {"base": draft["revision"], "change": put})
    sky = next(lane for lane in after["effect"]["lanes"] if lane["id"] == "sky")
    assert [step["kind"] for step in sky["steps"]] == ["noise", "tint"]
    note = after["effect"]["notes"][-1]
    assert note["lane"] == "sky"
    assert "White share says how cloudy it is" in note["text"]
