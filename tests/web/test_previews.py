"""Pictures and parts of drafts, over the API."""

from __future__ import annotations

import io
import json
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

import numpy as np
import pytest

from pale_static.media.foreign.reading import read_parts
from pale_static.store import Library, materials
from pale_static.web import create_app

from .test_api import Api, api, picture

__all__ = ["api"]


@pytest.fixture
def draft(api: Api) -> Any:
    return api.post("/effects", {"macro": "ember-fray", "version": 1})


def frame(api: Api, draft: Any, **query: Any) -> np.ndarray:
    asked = {"frame": 25, "length": 50, "width": 96, "height": 54} | query
    text = "&".join(f"{name}={value}" for name, value in asked.items())
    return picture(api.ask("GET", f"/effects/{draft['id']}/{draft['revision']}/frame.png?{text}"))


def changed(api: Api, draft: Any, change: Any) -> Any:
    return api.post(
        f"/effects/{draft['id']}/changes", {"base": draft["revision"], "change": change}
    )


def test_a_picture_without_a_step_is_the_picture_with_it_off(api: Api, draft: Any) -> None:
    without = frame(api, draft, without="out.luma-wipe")
    off = changed(
        api,
        draft,
        {"do": "turn-steps", "steps": [{"lane": "out", "step": "luma-wipe"}], "on": False},
    )
    assert np.array_equal(without, frame(api, off))
    assert not np.array_equal(without, frame(api, draft))


def test_the_probe_reads_what_the_picture_shows(api: Api, draft: Any) -> None:
    shown = frame(api, draft)
    for x, y in ((0.0, 0.0), (0.5, 0.5), (1.0, 1.0), (0.31, 0.77)):
        asked = f"frame=25&length=50&width=96&height=54&x={x}&y={y}&step=out.luma-wipe"
        found = api.get(f"/effects/{draft['id']}/{draft['revision']}/probe?{asked}")
        column, row = min(int(x * 96), 95), min(int(y * 54), 53)
        there = [round(min(max(v, 0), 1) * 255) for v in found["result"]]
        assert np.abs(np.subtract(there[:3], shown[row, column][:3].astype(int))).max() <= 1
        assert found["step"] == found["result"]
        without = frame(api, draft, without="out.luma-wipe")[row, column][:3].astype(int)
        assert np.abs(np.round(np.array(found["before"][:3]) * 255) - without).max() <= 1
    start = api.get(
        f"/effects/{draft['id']}/{draft['revision']}/probe?{asked[:-19]}&step=fray.noise"
    )
    assert start["before"] is None
    gone = f"{asked[:-19]}&step=fray.gone"
    told = api.get(f"/effects/{draft['id']}/{draft['revision']}/probe?{gone}", status=404)
    assert "no step “gone”" in told["detail"]
    assert len(start["step"]) == 1  # a matte


def test_eases_are_drawn_as_they_are_computed(api: Api) -> None:
    """Penner's sine and quad at the quarter, from memory."""
    shapes = {(one["into"], one["out"]): one["samples"] for one in api.get("/eases")["eases"]}
    assert shapes["", ""][6] == 0.25
    assert shapes["quad", ""][6] == 0.0625
    assert shapes["", "quad"][6] == 0.4375
    assert all(one[0] == 0 and one[-1] == 1 for one in shapes.values())


def test_a_copy_is_kept_of_what_could_not_be_saved_any_more(api: Api, draft: Any) -> None:
    mine = {"do": "set-value", "lane": "fray", "step": "noise", "value_name": "seed", "value": 5}
    theirs = mine | {"value": 9}
    changed(api, draft, theirs)
    told = api.post(
        f"/effects/{draft['id']}/changes", {"base": draft["revision"], "change": mine}, status=409
    )
    assert told["where"] == "revision"
    copy = api.post(f"/effects/{draft['id']}/copy", {"base": draft["revision"], "change": mine})
    assert copy["id"] != draft["id"]
    assert copy["effect"]["name"] == "Ember Fray (my copy)"
    assert copy["effect"]["lanes"][3]["steps"][0]["values"]["seed"] == 5


def keep(api: Api, draft: Any, status: int = 200, **more: Any) -> Any:
    steps = [{"lane": "fray", "step": name} for name in ("levels",)]
    body = {"draft": draft["id"], "base": draft["revision"], "steps": steps, "name": "Cut"}
    return api.post("/parts", body | more, status)


def test_parts_are_kept_named_moved_removed_and_put_back(api: Api, draft: Any) -> None:
    one = keep(api, draft, tags=["edge"], collection="Edges", notes="Needs a matte.")
    assert (one["steps"], one["starts"], one["project"]) == (1, False, "")
    assert picture(api.ask("GET", f"/parts/{one['id']}/picture.jpg")).shape[:2] == (180, 320)
    told = keep(api, draft, status=409, collection="Edges")
    assert told["where"] == "name"
    assert "called “Cut”" in told["detail"]
    keep(api, draft, collection="Other")  # the same name in another collection is not a clash
    two = keep(api, draft, collection="Edges", replace=True)
    ids = [part["id"] for part in api.get("/parts")["parts"]]
    assert one["id"] not in ids
    assert two["id"] in ids
    about = {"name": "Cut hard", "tags": ["a"], "collection": "Other", "project": "Tram"}
    found = api.post(f"/parts/{two['id']}", about)["parts"]
    assert [part["project"] for part in found if part["part"]["name"] == "Cut hard"] == ["Tram"]
    api.ask("DELETE", f"/parts/{two['id']}")
    assert two["id"] not in [part["id"] for part in api.get("/parts")["parts"]]
    back = api.post(f"/parts/{two['id']}/restore")["parts"]
    assert two["id"] in [part["id"] for part in back]
    api.post("/parts/999", about, status=404)


def test_a_collections_file_has_its_name(api: Api, draft: Any) -> None:
    for collection, file in (
        ("Night/windows: a", "Night%20windows%20a"), ("Straße 夜", "Stra%C3%9Fe%20%E5%A4%9C"),
        ("", "parts"),
    ):  # fmt: skip
        keep(api, draft, name=f"In {collection}", collection=collection)
        answer = api.ask("GET", f"/parts/file.paleparts?{urlencode({'name': collection})}")
        told = answer.headers["Content-Disposition"]
        assert told.endswith(f"filename*=UTF-8''{file}.paleparts")
        assert told.isascii()


def test_a_collection_is_one_file_and_never_overwrites_silently(api: Api, draft: Any) -> None:
    keep(api, draft, name="Cut", collection="Edges")
    keep(api, draft, name="Mine", collection="Edges", project="Tram")
    data = api.ask("GET", "/parts/file.paleparts?name=Edges").get_data()
    assert [part.name for part in read_parts(data)[0].parts] == ["Cut"]
    data = api.ask("GET", "/parts/file.paleparts?name=Edges&project=Tram").get_data()
    assert [part.name for part in read_parts(data)[0].parts] == ["Cut", "Mine"]
    api.ask("GET", "/parts/file.paleparts?name=Gone", status=404)

    arrival = api.upload("/parts/read", "edges.paleparts", data)
    assert [one["here"] for one in arrival["parts"]] == ["the same", "nothing"]
    # Another part with the same name: nothing happens before the person decides.
    other = changed(
        api, draft,
        {"do": "set-value", "lane": "fray", "step": "levels", "value_name": "gamma", "value": 2},
    )  # fmt: skip
    keep(api, other, name="Cut", collection="Edges", replace=True)
    arrival = api.upload("/parts/read", "edges.paleparts", data)
    assert [one["here"] for one in arrival["parts"]] == ["another", "nothing"]

    def take_in(status: int = 200, **decisions: str) -> Any:
        about = {"decisions": decisions}
        return api.upload("/parts/take-in", "edges.paleparts", data, status, about)

    told = take_in(409)
    assert "another part called “Cut”" in told["detail"]
    names = [part["part"]["name"] for part in api.get("/parts")["parts"]]
    assert names == ["Cut", "Mine"]

    def gammas() -> list[Any]:
        return [
            (one["part"]["name"], one["part"]["lanes"][0]["steps"][0]["values"].get("gamma"))
            for one in api.get("/parts")["parts"]
            if one["part"]["name"].startswith("Cut")
        ]

    take_in(Cut="skip")
    assert gammas() == [("Cut", 2)]
    taken = take_in(Cut="both")
    assert "“Cut (2)” came in." in taken["said"]
    assert [name for name, _ in gammas()] == ["Cut", "Cut (2)"]
    assert gammas()[1][1] != 2
    take_in(Cut="replace")
    assert gammas()[0][1] != 2


def test_parts_travel_with_the_pictures_they_show(
    api: Api, demo: Library, draft: Any, tmp_path: Path
) -> None:
    still = next(one for one in materials.listed(demo.db) if one.facts.kind == "still")
    lane = {"do": "add-lane", "name": "Card"}
    with_lane = changed(api, draft, lane)
    card = next(one["id"] for one in with_lane["effect"]["lanes"] if one["name"] == "Card")
    made = changed(
        api, with_lane,
        {"do": "add-step", "lane": card, "kind": "still", "values": {"asset": still.id}},
    )  # fmt: skip
    body = {"draft": draft["id"], "base": made["revision"], "lanes": [card], "name": "Card"}
    api.post("/parts", body | {"collection": "Cards"})
    data = api.ask("GET", "/parts/file.paleparts?name=Cards").get_data()
    assert list(read_parts(data)[1]) == [f"{still.id}{still.extension}"]
    # In another library the picture comes in with the part, not when the file is read.
    other = Library(tmp_path / "other")
    there = Api(create_app(other).test_client())
    there.upload("/parts/read", "cards.paleparts", data)
    assert materials.listed(other.db) == []
    there.upload("/parts/take-in", "cards.paleparts", data, about={"decisions": {}})
    assert [one.id for one in materials.listed(other.db)] == [still.id]
    # Pictures of a part that is left out stay out too.
    third = Library(tmp_path / "third")
    there = Api(create_app(third).test_client())
    plain = {"format": "pale-static/parts@1", "name": "Cards", "parts": [
        {"format": "pale-static/part@1", "name": "Card", "kind": "lanes", "lanes": [
            {"id": "card", "name": "Card", "steps": [{"id": "n", "kind": "noise"}]}]}]}  # fmt: skip
    mine = json.dumps(plain).encode()
    there.upload("/parts/take-in", "mine.paleparts", mine, about={"decisions": {}})
    there.upload("/parts/take-in", "cards.paleparts", data, about={"decisions": {"Card": "skip"}})
    assert materials.listed(third.db) == []


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"\x00\xff", "is not JSON"),
        (b"[1]", "not valid"),
        (b"PK" + b"x" * 60, "not a .paleparts package"),
        (b'{"format": "pale-static/parts@1", "name": "x", "parts": []}', "not valid at parts"),
        (
            b"PK\3\4" + b"\0" * 26 + b"PK\1\2\x54\0\x54" + b"\0" * 39 + b"PK\5\6\0\0\0\0\1\0\1\0"
            b"\x2e\0\0\0\x1e\0\0\0\0\0",
            "not a .paleparts package",
        ),
        (b"[" * 100_000, "nests deeper than 160 levels"),
    ],
)
def test_a_file_that_is_no_collection_is_refused_in_words(api: Api, data: bytes, said: str) -> None:
    assert said in api.upload("/parts/read", "x.paleparts", data, status=422)["detail"]
    assert api.get("/parts")["parts"] == []


def test_an_effect_starts_from_a_part_and_belongs_to_a_project(api: Api, draft: Any) -> None:
    run = keep(api, draft, name="Cut")
    made = api.post("/effects", {"kind": "look", "part": run["id"], "project": "Tram"})
    assert [step["kind"] for step in made["effect"]["lanes"][-1]["steps"]] == [
        "continue-from",
        "levels",
    ]
    assert made["project"] == "Tram"
    start = keep(api, draft, name="Cloud", steps=[{"lane": "fray", "step": "noise"}])
    made = api.post("/effects", {"kind": "look", "part": start["id"]})
    assert [lane["name"] for lane in made["effect"]["lanes"]] == ["Clip", "Cloud", "Out"]
    assert made["effect"]["lanes"][1]["steps"][0]["kind"] == "noise"
    lanes = keep(api, draft, name="Both", steps=[], lanes=["direction", "fray"])
    made = api.post("/effects", {"kind": "texture", "part": lanes["id"]})
    assert [lane["id"] for lane in made["effect"]["lanes"]] == ["direction", "fray", "out"]
    moved = api.post(f"/effects/{made['id']}/project", {"project": " Depot "})
    assert moved["project"] == "Depot"
    cards = {one["id"]: one["project"] for one in api.get("/effects")["drafts"]}
    assert cards[made["id"]] == "Depot"


def test_a_small_matte_is_told_on_its_card_with_the_change_that_mends_it(api: Api) -> None:
    from PIL import Image

    out = io.BytesIO()
    Image.new("L", (300, 300), 200).save(out, "PNG")
    small = api.upload("/materials", "small.png", out.getvalue())["id"]
    draft = api.post("/effects", {"kind": "look", "name": "Wet"})
    for change in (
        {"do": "add-slot", "kind": "matte", "name": "Glass"},
        {"do": "set-slot", "slot": "glass", "stand_in": small},
        {"do": "set-value", "lane": "glass", "step": "slot", "value_name": "fit", "value": "actual"},
        {"do": "add-step", "lane": "out", "kind": "displace", "values": {"outside": "mirror"}},
        {"do": "set-input", "lane": "out", "step": "displace", "input_name": "map", "input": {"lane": "glass"}},
    ):  # fmt: skip
        draft = changed(api, draft, change)
    (hint,) = draft["hints"]
    assert hint["where"] == "glass.slot"
    assert "300×300" in hint["sentence"]
    assert changed(api, draft, hint["fix"])["hints"] == []


def test_a_slot_goes_only_when_nothing_shows_it(api: Api) -> None:
    draft = api.post("/effects", {"kind": "look", "name": "Wet"})
    draft = changed(api, draft, {"do": "add-slot", "kind": "texture", "name": "Dirt"})
    body = {"base": draft["revision"], "change": {"do": "remove-slot", "slot": "dirt"}}
    told = api.post(f"/effects/{draft['id']}/changes", body, status=422)
    assert "is shown by Slot in “Dirt”" in told["detail"]
    both = {"do": "several", "changes": [{"do": "remove-lane", "lane": "dirt"}, body["change"]]}
    assert [one["id"] for one in changed(api, draft, both)["effect"]["slots"]] == ["clip"]


def test_the_strip_is_its_frames_side_by_side(api: Api, draft: Any) -> None:
    asked = "length=50&places=5&width=96&height=54"
    strip = picture(api.ask("GET", f"/effects/{draft['id']}/{draft['revision']}/strip.png?{asked}"))
    frames = [frame(api, draft, frame=n) for n in (0, 12, 25, 37, 49)]
    assert np.array_equal(strip[..., :3], np.hstack(frames)[..., :3])


def test_pictures_keep_their_address_through_changes_that_leave_them_alone(
    api: Api, draft: Any
) -> None:
    first = draft["revision"]
    assert set(draft["since"].values()) == {first}
    named = changed(api, draft, {"do": "set-lane", "lane": "out", "name": "Result"})
    assert named["revision"] > first
    assert named["since"] == draft["since"]
    values = {"lane": "fray", "step": "levels", "value_name": "gamma", "value": 1.4}
    moved = changed(api, named, {"do": "set-value", **values})
    now = {place for place, since in moved["since"].items() if since == moved["revision"]}
    assert now == {"fray.levels", "out.luma-wipe"}
    assert np.array_equal(
        frame(api, moved, step="fray.noise"), frame(api, draft, step="fray.noise")
    )
    # Undone, everything is at its earlier address again.
    undone = api.post(f"/effects/{draft['id']}/undo", {"base": moved["revision"]})
    assert undone["since"] == draft["since"]
