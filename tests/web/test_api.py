"""The API over a real library: security, faults in words, frames by content."""

from __future__ import annotations

import io
import json
import re
import subprocess
import threading
import zipfile
from pathlib import Path
from typing import Any
from urllib.parse import quote, urlencode

import numpy as np
import pytest
from flask.testing import FlaskClient
from PIL import Image

from pale_static.core import read_effect
from pale_static.core.documents.macro import publish
from pale_static.core.faults import Busy
from pale_static.media.foreign.reading import read_package
from pale_static.media.packages import Package, write_package
from pale_static.media.pictures.stills import encode_png
from pale_static.store import Library, drafts, macros, renders
from pale_static.web import create_app
from pale_static.web import renders as sent
from pale_static.web.describe import FOR_THE_PAGE, files

ROOT = Path(__file__).parents[2]
HOST = {"Host": "127.0.0.1:8710"}


class Api:
    """Calls the application like a browser on the same machine."""

    def __init__(self, client: FlaskClient) -> None:
        self.client = client

    def ask(self, method: str, path: str, body: Any = None, status: int = 200, **more: Any) -> Any:
        more.setdefault("headers", HOST)
        answer = self.client.open(f"/api{path}", method=method, json=body, **more)
        assert answer.status_code == status, answer.get_data(as_text=True)[:500]
        return answer

    def get(self, path: str, status: int = 200) -> Any:
        return self.ask("GET", path, status=status).get_json()

    def post(self, path: str, body: Any = None, status: int = 200) -> Any:
        return self.ask("POST", path, body if body is not None else {}, status).get_json()

    def upload(
        self, path: str, name: str, data: bytes, status: int = 200, about: Any = None
    ) -> Any:
        form: dict[str, Any] = {"file": (io.BytesIO(data), name)}
        if about is not None:
            form["about"] = json.dumps(about)
        more = {"data": form, "content_type": "multipart/form-data"}
        return self.ask("POST", path, status=status, **more).get_json()


@pytest.fixture
def api(demo: Library) -> Api:
    app = create_app(demo, cache_bytes=64 << 20)
    app.testing = False
    return Api(app.test_client())


def picture(answer: Any) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(answer.get_data())))


def test_generated_files_are_not_stale() -> None:
    for name, text in files().items():
        folder = ROOT / "frontend" if name in FOR_THE_PAGE else ROOT / "docs" / "formats"
        assert (folder / name).read_text() == text, f"run “make api”: {name} is stale"


def test_the_description_is_served_and_names_every_address(api: Api) -> None:
    told = api.get("/openapi.json")
    assert told == json.loads((ROOT / "frontend/openapi.json").read_text())
    served = {
        (re.sub(r"<(?:\w+:)?(\w+)>", r"{\1}", rule.rule), method.lower())
        for rule in api.client.application.url_map.iter_rules()
        for method in rule.methods or ()
        if rule.rule.startswith("/api/") and method in ("GET", "POST", "DELETE")
    }
    named = {(path, method) for path, one in told["paths"].items() for method in one}
    assert served - named == {("/api/openapi.json", "get"), ("/api/{rest}", "get")}
    assert named <= served


def test_the_types_of_the_front_end_are_not_stale(tmp_path: Path) -> None:
    frontend = ROOT / "frontend"
    out = tmp_path / "schema.d.ts"
    subprocess.run(
        ["npx", "openapi-typescript", "openapi.json", "--default-non-nullable", "false", "-o", str(out)],
        cwd=frontend, check=True, capture_output=True,
    )  # fmt: skip
    assert out.read_text() == (frontend / "src/api/schema.d.ts").read_text(), "run “make api”"


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({"Host": "127.0.0.1:8710"}, 200),
        ({"Host": "localhost:9999"}, 200),
        ({"Host": "[::1]:8710"}, 200),
        ({"Host": "evil.example"}, 403),
        ({"Host": "[::1"}, 403),
        ({"Host": ""}, 403),
        ({"Host": "127.0.0.1.evil.example"}, 403),
        ({"Host": "127.0.0.1:8710", "Origin": "http://evil.example"}, 403),
        ({"Host": "127.0.0.1:8710", "Origin": "http://127.0.0.1:8710"}, 200),
        ({"Host": "127.0.0.1:8710", "Origin": "http://127.0.0.1:1"}, 403),
        ({"Host": "127.0.0.1:8710", "Sec-Fetch-Site": "cross-site"}, 403),
        ({"Host": "127.0.0.1:8710", "Origin": "null"}, 403),
        ({"Host": "127.0.0.1:8710", "Origin": "http://[::1"}, 403),
    ],
)
def test_only_this_machine_and_this_page_are_served(
    api: Api, headers: dict[str, str], status: int
) -> None:
    found = api.ask("POST", "/effects", {"kind": "look"}, status, headers=headers)
    assert found.headers["X-Content-Type-Options"] == "nosniff"
    assert "default-src 'self'" in found.headers["Content-Security-Policy"]


DEEP: Any = "down"
for _ in range(500):
    DEEP = [DEEP]


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "said"),
    [
        ("GET", "/nothing", None, 404, "nothing at"),
        ("GET", "/effects/999", None, 404, "no effect number 999"),
        ("GET", "/effects/abc", None, 404, ""),
        ("GET", "/macros/gone", None, 404, "no macro “gone”"),
        ("GET", "/renders/9/file", None, 404, "no render number"),
        ("GET", "/materials/gone/picture.jpg", None, 404, "Bring it in again"),
        ("GET", "/effects/2/2/frame.gif", None, 404, "not as .gif"),
        ("GET", "/effects/2/2/frame.jpg?width=0", None, 422, "width"),
        ("GET", "/effects/2/2/frame.jpg?width=16384&height=16384", None, 413, "smaller size"),
        ("GET", "/effects/2/2/frame.jpg?shade=1", None, 422, "“shade”, which it does not know"),
        ("GET", "/effects/2/2/frame.jpg?step=x.y", None, 404, "no lane “x”"),
        ("GET", "/macros/ember-fray/1/frame.jpg?settings=x", None, 400, "not JSON"),
        ("GET", "/macros/ember-fray/1/frame.jpg?settings=[]", None, 422, "not a JSON object"),
        ("GET", "/macros/ember-fray/1/frame.jpg?settings=%7B%22softness%22%3A9%7D", None, 422,
         "“Softness” lies between 0 and 4. It got 9."),
        ("POST", "/effects", {"kind": "song"}, 422, "kind"),
        ("POST", "/effects", {"kind": "look", "x": 1}, 422, "does not know"),
        ("POST", "/effects/2/changes", {"base": 2, "change": {"do": "dance"}}, 422, "There is no change called “dance”"),
        ("POST", "/effects/2/changes", {"base": 1, "change": {"do": "add-lane"}}, 409, "another window"),
        ("POST", "/effects/2/changes", {"base": 2, "change": {"do": "set-value", "lane": "fray",
         "step": "noise", "value_name": "octaves", "value": 99}}, 422, "octaves lies between 1 and 10"),
        ("POST", "/effects/2/changes", {"base": 2, "change": {"do": "set-input", "lane": "fray",
         "step": "blend", "input_name": "over", "input": {"lane": "out"}}}, 422, "loop"),
        ("POST", "/materials", {}, 422, "no file in the request"),
        ("GET", "/../../etc/passwd", None, 404, ""),
        ("GET", "/effects/2/2/frame.jpg?without=zz", None, 400, "A step is named lane.step"),
        ("GET", f"/effects/{2**63}", None, 404, ""),
        ("GET", f"/effects/{'9' * 4000}", None, 404, ""),
        ("GET", f"/{'a' * 300}", None, 404, "nothing at"),
        ("POST", "/reels", {"rate": "1e9"}, 422, "frame rate"),
        ("POST", "/reels", {"rate": "0/0"}, 422, "frame rate"),
        ("POST", "/reels", {"rate": "9" * 4000}, 422, "frame rate"),
        ("POST", "/parts", {"draft": 2**63, "name": "x"}, 400, "the number 9223372036854775808"),
        ("POST", "/effects/2/changes", {"base": 10**4000, "change": {"do": "add-lane"}}, 400,
         "(4001 digits)"),
        ("POST", "/effects", {"name": "\ud800"}, 400, "half of a character"),
        ("POST", "/effects/2/changes", {"base": 2, "change": {"do": "set-value", "lane": "fray",
         "step": "noise", "value_name": "octaves", "value": DEEP}}, 400, "deeper than 160 levels"),
        ("POST", "/effects", DEEP, 400, "deeper than 160 levels"),
        ("GET", f"/macros/ember-fray/1/frame.jpg?settings={'[' * 500}{']' * 500}", None, 400,
         "deeper than 160 levels"),
    ],
)  # fmt: skip
def test_faults_are_problem_details_with_a_plain_sentence(
    api: Api, method: str, path: str, body: Any, status: int, said: str
) -> None:
    found = api.ask(method, path, body, status)
    assert found.mimetype == "application/problem+json"
    problem = found.get_json()
    assert problem["status"] == status
    assert said in problem["detail"]


@pytest.mark.parametrize("text", ["hello", "{", "[1,", "\xff"])
def test_a_body_that_is_no_json_makes_nothing(api: Api, demo: Library, text: str) -> None:
    before = len(drafts.listed(demo.db, "reel"))
    answer = api.client.post(
        "/api/reels", data=text, content_type="application/json", headers={"Host": "localhost"}
    )
    assert answer.status_code == 400
    assert answer.get_json()["detail"] == "The request is not JSON."
    assert len(drafts.listed(demo.db, "reel")) == before


def test_what_is_not_there_and_what_is_outside_are_answered_alike(api: Api) -> None:
    host = {"Host": "localhost"}
    nowhere = api.client.get("/no-such-place", headers=host)
    for path in ("/..%2f..%2fetc/passwd", "/%2e%2e/%2e%2e/etc/passwd", "/" + "a" * 300, "/x%00y"):
        answer = api.client.get(path, headers=host)
        assert (answer.status_code, answer.get_data()) == (200, nowhere.get_data())
    assert api.client.get("/assets/none.js", headers=host).status_code == 404
    assert api.client.get("/assets/..%2f..%2fapp.py", headers=host).status_code == 404


def test_no_path_from_outside_reaches_the_file_system(api: Api) -> None:
    client = api.client
    for path in (
        "/assets/../../cli.py",
        "/..%2f..%2fcli.py",
        "/assets/%2e%2e/%2e%2e/app.py",
        "/app.py",
    ):
        answer = client.get(path, headers={"Host": "localhost"})
        assert b"import" not in answer.get_data()


def test_a_browser_asks_each_time_whether_it_has_the_right_picture(api: Api) -> None:
    path = "/effects/2/2/frame.jpg?frame=20&length=50&width=160&height=90"
    first = api.ask("GET", path)
    assert first.headers["Cache-Control"] == "private, no-cache"
    tag = first.headers["ETag"]
    headers = {"Host": "127.0.0.1", "If-None-Match": tag}
    assert api.ask("GET", path, status=304, headers=headers).get_data() == b""
    # The same progress at another length is another moment, so the name differs.
    other = api.ask("GET", path.replace("frame=20", "frame=21"))
    assert other.headers["ETag"] != tag


def test_a_draft_is_built_edited_undone_and_published(api: Api) -> None:
    draft = api.post("/effects", {"kind": "transition", "name": "Fray"})
    number = draft["id"]

    def change(**change: Any) -> Any:
        nonlocal draft
        draft = api.post(
            f"/effects/{number}/changes", {"base": draft["revision"], "change": change}
        )
        return draft

    change(do="add-lane", name="Fray")
    change(do="add-step", lane="fray", kind="noise")
    change(do="add-step", lane="out", kind="luma-wipe")
    assert draft["findings"] == []
    change(do="expose", lane="out", step="luma-wipe", value_name="softness")
    assert draft["drives"] == {
        "softness": [
            {
                "lane": "out",
                "step": "luma-wipe",
                "value": "softness",
                "words": "Out · Luma wipe: softness",
            }
        ]
    }
    undone = api.post(f"/effects/{number}/undo", {"base": draft["revision"]})
    assert (undone["effect"]["controls"], undone["redo"]) == ([], True)
    draft = api.post(f"/effects/{number}/redo", {"base": undone["revision"]})
    history = api.get(f"/effects/{number}/history")["revisions"]
    assert [one["words"] for one in history][:2] == ["Softness exposed", "Luma wipe added"]
    api.post(f"/effects/{number}/stages", {"name": "before colour"})
    back = api.post(f"/effects/{number}/go", {"revision": history[-1]["id"]})
    assert len(back["effect"]["lanes"]) == 3
    draft = api.post(f"/effects/{number}/undo", {"base": back["revision"]})
    curves = api.get(f"/effects/{number}/{draft['revision']}/curves?length=25")["curves"]
    assert [one["label"] for one in curves] == ["Luma wipe: progress"]
    coverage = api.get(f"/effects/{number}/{draft['revision']}/coverage?length=25")["shares"]
    assert coverage[0] == 0
    assert coverage[-1] == 1
    published = api.post(f"/effects/{number}/publish", {"base": draft["revision"], "author": "M"})
    assert published == {"slug": "fray", "version": 1}
    change(do="set-control", slug="softness", default=0.4)
    again = api.post(
        f"/effects/{number}/publish", {"base": draft["revision"], "changes": "Softer."}
    )
    assert again["version"] == 2
    versions = api.get("/macros/fray")["versions"]
    assert versions[0]["faceplate_changes"] == ["“Softness” starts at 0.4, was 0.1."]
    copy = api.post("/effects", {"macro": "fray", "version": 1})
    assert copy["next_version"] == 3


def test_what_is_tried_is_not_kept_and_only_the_newest_is_computed(api: Api) -> None:
    body = {
        "base": 2, "frame": 24, "length": 50, "width": 96, "height": 54, "stream": "monitor",
        "change": {"do": "set-control", "slug": "rim-colour", "default": "#0000FF"},
    }  # fmt: skip
    tried = picture(api.ask("POST", "/effects/2/live", body)).astype(int)
    kept = picture(api.ask("GET", "/effects/2/2/frame.jpg?frame=24&length=50&width=96&height=54"))
    blue = (tried[..., 2] > tried[..., 0] + 60).sum()
    assert blue > (kept[..., 2].astype(int) > kept[..., 0].astype(int) + 60).sum() + 20
    assert api.get("/effects/2")["revision"] == 2
    lost = api.client.application.extensions["studio"].newest
    old = lost.ticket("monitor")
    new = lost.ticket("monitor")
    assert old()
    assert not new()


def test_a_new_step_is_tried_where_it_would_stand(api: Api) -> None:
    query = {
        "frame": 10, "length": 50, "width": 32, "height": 18, "step": "added",
        "change": json.dumps({"do": "add-step", "lane": "fray", "kind": "invert", "at": 1}),
    }  # fmt: skip
    tried = picture(api.ask("GET", f"/effects/2/2/try-on.jpg?{urlencode(query)}")).astype(int)
    plain = picture(
        api.ask(
            "GET", "/effects/2/2/frame.jpg?frame=10&length=50&width=32&height=18&step=fray.noise"
        )
    )
    assert np.abs(255 - tried - plain).mean() < 8
    # A change that adds no step shows the result; one that cannot be read is refused with a
    # sentence.
    query["change"] = json.dumps({"do": "set-lane", "lane": "fray", "name": "Frayed"})
    shown = api.ask("GET", f"/effects/2/2/try-on.jpg?{urlencode(query)}").get_data()
    same = "/effects/2/2/frame.jpg?frame=10&length=50&width=32&height=18"
    assert shown == api.ask("GET", same).get_data()
    query["change"] = "{"
    refused = api.ask("GET", f"/effects/2/2/try-on.jpg?{urlencode(query)}", status=400)
    assert "The change" in refused.get_json()["detail"]


def test_materials_come_in_and_bad_ones_are_refused(api: Api) -> None:
    good = api.upload("/materials", "mark.png", encode_png(np.full((20, 30, 4), 99, np.uint8)))
    assert (good["name"], good["facts"]["alpha"]) == ("mark", True)
    said = api.upload("/materials", "film.mp4", b"just text", status=422)["detail"]
    assert "film.mp4 is neither a picture, a video, a font nor a lookup table" in said
    listed = api.get("/materials")["materials"]
    used = {one["name"]: one["used_in"] for one in listed}
    edits = ["Open day", "Last night, cut 1"]
    assert used["Headlamp"] == [*edits, "Destination Board", "Ember Fray"]
    left = api.ask("DELETE", f"/materials/{good['id']}").get_json()["materials"]
    assert good["id"] not in [one["id"] for one in left]
    assert picture(api.ask("GET", f"/materials/{good['id']}/picture.jpg")).shape == (20, 30, 3)


def test_a_macro_leaves_as_a_file_and_comes_back(api: Api, library: Library) -> None:
    data = api.ask("GET", "/macros/ember-fray/1/file.palemacro").get_data()
    assert b"stand_in" not in data
    again = api.upload("/macros", "ember.palemacro", data)
    assert "on the shelf already" in again["said"]
    other = Api(create_app(library).test_client())
    came = other.upload("/macros", "ember.palemacro", data)
    assert came == {
        "said": "Ember Fray, version 1, is on the shelf: a transition with 4 controls.",
        "slug": "ember-fray",
    }
    assert (
        other.ask("GET", "/macros/ember-fray/1/frame.jpg?width=64&height=36&frame=20").status_code
        == 200
    )
    assert other.ask("GET", "/macros/ember-fray/1/preview.webp").mimetype == "image/webp"
    bad = other.upload("/macros", "x.palemacro", b"PK nonsense", status=422)
    assert "not a .palemacro package" in bad["detail"]


def test_a_reel_is_edited_and_shows_what_lies_where(api: Api) -> None:
    view = api.get("/reels/3")
    assert view["length"] == 222
    assert [join["macro"] for join in view["joins"]] == ["quiet-luma", "ember-fray"]
    assert [macro["name"] for macro in view["macros"]] == ["Ember Fray", "Quiet Luma"]
    assert not view["joins"][0]["handles"]["short"]

    def change(status: int = 200, **change: Any) -> Any:
        nonlocal view
        found = api.post("/reels/3/changes", {"base": view["revision"], "change": change}, status)
        view = found if status == 200 else view
        return found

    use = {"do": "set-use", "uses": ["join-headlamp"]}
    said = change(422, **use, settings={"softness": 99})["detail"]
    assert said == "“Softness” lies between 0 and 4. It got 99."
    change(do="set-join", join="join-headlamp", length=60)
    assert view["joins"][0]["handles"]["short"]
    warned = api.get("/reels/3/preflight")["findings"]
    short = next(one for one in warned if "needs 30 frames after the cut" in one["sentence"])
    # The remedy is a change that corrects it.
    change(**short["remedies"][0])
    assert short not in api.get("/reels/3/preflight")["findings"]
    change(do="set-join", join="join-headlamp", length=20)
    change(**use, settings={"bright-first": True})
    live = {
        "base": view["revision"],
        "change": {"do": "set-shot", "shot": "headlamp", "length": 80},
        "frame": 3,
    }
    assert api.ask("POST", "/reels/3/live", live).mimetype == "image/jpeg"
    tried = {"do": "place-join", "cuts": [{"left": "depot-hall"}], "macro": "quiet-luma",
             "version": 1, "length": 12}  # fmt: skip
    path = f"/reels/3/{view['revision']}/try-on.jpg?change={quote(json.dumps(tried))}&frame=120"
    assert api.ask("GET", path).mimetype == "image/jpeg"
    api.ask("GET", path.replace("place-join", "dance"), status=422)
    # Each change names the controls that it changes; the others keep what they had.
    change(**use, settings={"softness": 0.3})
    assert view["joins"][0]["settings"] == {"bright-first": True, "softness": 0.3}
    change(**use, settings={"bright-first": None})
    assert view["joins"][0]["settings"] == {"softness": 0.3}
    undone = view
    for _ in range(5):
        undone = api.post("/reels/3/undo", {"base": undone["revision"]})
    assert undone["joins"][0]["end"] - undone["joins"][0]["first"] == 60
    empty = api.post("/reels", {"name": "Empty", "rate": "29.97"})
    assert empty["rate"] == "30000/1001"
    assert "empty" in api.post("/renders", {"reel": empty["id"]}, 422)["detail"]


def test_updating_a_pinned_macro_says_what_changes_and_keeps_what_was_set(api: Api) -> None:
    view = api.get("/reels/3")
    set_one = {"do": "set-use", "uses": ["join-depot-hall"], "settings": {"softness": 0.2}}
    view = api.post("/reels/3/changes", {"base": view["revision"], "change": set_one})
    draft = api.get("/effects/2")
    change = {"do": "expose", "lane": "out", "step": "luma-wipe", "value_name": "rim_softness"}
    draft = api.post("/effects/2/changes", {"base": draft["revision"], "change": change})
    api.post("/effects/2/publish", {"base": draft["revision"]})
    macro = next(one for one in api.get("/reels/3")["macros"] if one["macro"] == "ember-fray")
    assert (macro["version"], macro["newest"], macro["update"]) == (1, 2, ["Adds “Rim softness”."])
    update = {"do": "set-use", "uses": ["join-depot-hall"], "version": 2}
    after = api.post("/reels/3/changes", {"base": view["revision"], "change": update})
    placed = after["joins"]
    found = next(one for one in placed if one["id"] == "join-depot-hall")
    assert (found["version"], found["settings"]) == (2, {"softness": 0.2})


def test_a_look_does_not_go_on_a_cut(api: Api, demo: Library) -> None:
    draft = api.post("/effects", {"kind": "look", "name": "Tone"})
    api.post(f"/effects/{draft['id']}/publish", {"base": draft["revision"]})
    view = api.get("/reels/3")
    place = {"do": "place-join", "cuts": [{"left": "headlamp"}], "macro": "tone", "version": 1}
    said = api.post("/reels/3/changes", {"base": view["revision"], "change": place}, 422)["detail"]
    assert "Only a transition goes on a cut" in said
    assert drafts.get(demo.db, "reel", 3).head.id == view["revision"]


def luminance(colour: str) -> float:
    """Relative luminance after WCAG 2.2."""
    parts = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    linear = [p / 12.92 if p <= 0.04045 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def test_every_text_colour_reaches_aa_on_every_ground() -> None:
    source = (ROOT / "frontend/src/theme/palette.ts").read_text()
    for block in (source.split("  pale: {")[1], source.split("  dim: {")[1]):
        tokens = dict(re.findall(r'(\w+): "(#\w+)"', block.split("  },")[0]))
        assert len(tokens) > 12
        for text in ("ink", "soft", "petrol", "plum", "moss", "amber", "brick"):
            for ground in ("paper", "sheet", "out"):
                pair = sorted(luminance(tokens[name].upper()) for name in (text, ground))
                # WCAG 2.2, success criterion 1.4.3.
                assert (pair[1] + 0.05) / (pair[0] + 0.05) >= 4.5, (text, ground)


def test_a_cdl_file_goes_into_a_balance_step_and_out_again(api: Api) -> None:
    text = (
        "<ColorCorrection id='a'><SOPNode><Slope>1.2 1 0.8</Slope></SOPNode>"
        "<SatNode><Saturation>0.5</Saturation></SatNode></ColorCorrection>"
    )
    sent = {"file": (io.BytesIO(text.encode()), "dusk.cc")}
    answer = api.client.post("/api/grades", data=sent, headers={"Host": "localhost"})
    values = answer.get_json()["values"]
    assert values == {
        "slope_red": 1.2, "slope_green": 1.0, "slope_blue": 0.8, "saturation": 0.5
    }  # fmt: skip
    draft = api.post("/effects", {"kind": "look", "name": "Graded"})

    def change(**what: Any) -> Any:
        return api.post(
            f"/effects/{draft['id']}/changes", {"base": draft["revision"], "change": what}
        )

    draft = change(do="add-step", lane="out", kind="balance")
    place = {"do": "set-value", "lane": "out", "step": "balance", "keep_control": True}
    each = [place | {"value_name": name, "value": value} for name, value in values.items()]
    draft = change(do="several", changes=each, said="Balance: from dusk.cc")
    assert draft["effect"]["lanes"][-1]["steps"][-1]["values"] == values
    history = api.get(f"/effects/{draft['id']}/history")
    assert history["revisions"][0]["words"] == "Balance: from dusk.cc"
    path = f"/api/effects/{draft['id']}/{draft['revision']}/grade.cc?step=out.balance"
    written = api.client.get(path, headers={"Host": "localhost"})
    assert b"<Slope>1.2 1 0.8</Slope>" in written.get_data()
    assert "balance.cc" in written.headers["Content-Disposition"]


def test_a_sequence_is_sent_a_picture_at_a_time_and_is_a_zip(api: Api, demo: Library) -> None:
    draft = drafts.listed(demo.db, "reel")[0]
    asked = api.post("/renders", {"reel": draft.id, "form": "png", "frames": 3})
    folder = demo.renders / f"render-{asked['id']}"
    folder.mkdir()
    rng = np.random.default_rng(1)
    pictures = {f"frame_{n:05d}.png": rng.bytes(5000 + n) for n in range(3)}
    for name, data in pictures.items():
        (folder / name).write_bytes(data)
    renders.take(demo.db, 1)
    renders.end(demo.db, asked["id"], "done", file=folder.name)
    path = f"/api/renders/{asked['id']}/file"
    with api.client.get(path, headers=HOST, buffered=False) as answer:
        pieces = list(answer.response)
    # One piece for each picture, and the zip's list of them; no piece holds everything.
    assert len(pieces) == 4
    assert max(map(len, pieces)) < 6000
    with zipfile.ZipFile(io.BytesIO(b"".join(pieces))) as found:  # type: ignore[arg-type]
        assert found.testzip() is None
        assert {name: found.read(name) for name in found.namelist()} == pictures


def test_an_undo_at_the_address_of_another_kind_changes_nothing(api: Api) -> None:
    reel = api.get("/reels/3")
    for act in ("undo", "redo"):
        told = api.post(f"/effects/3/{act}", {"base": reel["revision"]}, 404)
        assert "There is no effect number 3" in told["detail"]
    assert api.get("/reels/3") == reel
    assert "no effect number 3" in api.post("/effects/3/project", {"project": "x"}, 404)["detail"]


def test_asking_for_the_head_of_a_sequence_holds_no_download(api: Api, demo: Library) -> None:
    draft = drafts.listed(demo.db, "reel")[0]
    asked = api.post("/renders", {"reel": draft.id, "form": "png", "frames": 1})
    folder = demo.renders / f"render-{asked['id']}"
    folder.mkdir()
    (folder / "frame_00000.png").write_bytes(b"picture")
    renders.take(demo.db, 1)
    renders.end(demo.db, asked["id"], "done", file=folder.name)
    for _ in range(2 * sent.MOST_ZIPS):
        with api.client.head(f"/api/renders/{asked['id']}/file", headers=HOST) as answer:
            assert answer.status_code == 200
    with api.client.get(f"/api/renders/{asked['id']}/file", headers=HOST) as answer:
        data = answer.get_data()
    assert zipfile.ZipFile(io.BytesIO(data)).namelist() == ["frame_00000.png"]


def test_a_package_of_the_same_name_by_someone_else_is_no_version_of_ones_own(
    api: Api, demo: Library
) -> None:
    mine = api.get("/macros/ember-fray")["card"]
    package = read_package(api.ask("GET", "/macros/ember-fray/1/file.palemacro").get_data())
    assert re.fullmatch("[0-9a-f]{32}", package.macro.identity)
    # The next version, by the same maker, is a version of the same macro.
    effect = package.macro.effect.model_copy(update={"sentence": "Another one."})
    theirs = package.macro.model_copy(
        update={"effect": effect, "identity": "0" * 32, "version": 7, "author": "Somebody"}
    )
    data = write_package(Package(theirs))
    told = api.upload("/macros", "ember.palemacro", data, status=409)
    assert told["where"] == "macro"
    assert told["detail"] == (
        "A different macro on the shelf is called “Ember Fray”. Keep both, or make the one in the "
        "file, by Somebody, version 2 of yours."
    )
    assert api.get("/macros/ember-fray")["card"]["versions"] == mine["versions"]
    both = api.upload("/macros", "ember.palemacro", data, about={"decision": "both"})
    assert both["slug"] == "ember-fray-2"
    assert api.get("/macros/ember-fray")["card"]["versions"] == mine["versions"]
    # A later version of the other maker's macro goes to that macro, by its identity.
    later = theirs.model_copy(update={"version": 8, "changes": "Later."})
    assert (
        api.upload("/macros", "e.palemacro", write_package(Package(later)))["slug"]
        == "ember-fray-2"
    )
    own = package.macro.model_copy(update={"version": 2, "effect": effect})
    assert api.upload("/macros", "e.palemacro", write_package(Package(own)))["slug"] == "ember-fray"
    third = theirs.model_copy(update={"identity": "1" * 32, "version": 1})
    taken = api.upload(
        "/macros", "e.palemacro", write_package(Package(third)), about={"decision": "mine"}
    )
    assert taken["slug"] == "ember-fray"
    assert api.get("/macros/ember-fray")["card"]["versions"] == [3, 2, 1]
    assert macros.version(demo.db, "ember-fray", 3).identity == package.macro.identity


def test_no_more_sequences_are_sent_at_once_than_threads_allow(
    api: Api, demo: Library, monkeypatch: pytest.MonkeyPatch
) -> None:
    waiting = [sent._zipped([]) for _ in range(sent.MOST_ZIPS)]
    with pytest.raises(Busy, match="downloaded already"):
        sent._zipped([])
    for one in waiting:
        one.close()
    sent._zipped([]).close()


def test_huge_frames_are_computed_one_at_a_time(api: Api) -> None:
    """Two requests at once: while one frame is computed, the other request waits."""
    desk = api.client.application.extensions["studio"]
    at_once: list[int] = []
    real, now = desk.engine.compute, []

    def compute(*words: Any, **more: Any) -> Any:
        now.append(1)
        at_once.append(len(now))
        try:
            return real(*words, **more)
        finally:
            now.pop()

    desk.engine.compute = compute
    draft = api.get("/effects/2")
    path = f"/effects/2/{draft['revision']}/frame.jpg?frame={{}}&width=2600&height=1500"
    threads = [threading.Thread(target=api.ask, args=("GET", path.format(n))) for n in range(3)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert at_once == [1, 1, 1]


def test_edits_come_in_after_a_look_and_leave_as_they_came(api: Api) -> None:
    before = len(api.get("/reels")["reels"])
    handed = api.ask("GET", "/reels/3/edit.otio").get_data()
    looked = api.upload("/reels/arrivals", "night.otio", handed)
    assert (looked["reel"], looked["shots"], looked["notes"], looked["missing"]) == (
        None,
        3,
        [],
        [],
    )
    assert len(api.get("/reels")["reels"]) == before
    kept = api.upload("/reels/arrivals", "night.otio", handed, about={"keep": True})
    ours, theirs = api.get("/reels/3"), api.get(f"/reels/{kept['reel']}")
    for name in ("shots", "joins", "items", "macros", "length", "rate"):
        assert theirs[name] == ours[name], name
    listed = api.ask("GET", "/reels/3/edit.edl").get_data()
    assert listed.startswith(b"TITLE: Last night, cut 1\nFCM: NON-DROP FRAME\n")
    # The losses of each kind of file are reported before.
    lost = api.get("/reels/3/handing-on")["lost"]
    assert (lost["otio"], lost["csv"]) == ([], [])
    assert "Macros on 2 cuts are dissolves in the list." in lost["edl"]
    again = api.upload("/reels/arrivals", "night.edl", listed, about={"rate": "25"})
    assert (again["shots"], again["joins"], again["missing"]) == (3, 2, [])
    made = api.upload("/reels/arrivals", "night.edl", listed, about={"keep": True})["reel"]
    # A list brings plain dissolves; they show, and can get a macro.
    view = api.get(f"/reels/{made}")
    assert {one["macro"] for one in view["joins"]} == {"built-in:dissolve"}
    assert [one["name"] for one in view["macros"]] == ["Dissolve"]
    frame = api.ask(
        "GET", f"/reels/{made}/{view['revision']}/frame.jpg?frame=75&width=64&height=36"
    )
    assert picture(frame).shape == (36, 64, 3)
    said = api.upload("/reels/arrivals", "x.otio", b"no", status=422)["detail"]
    assert "cannot be read as OpenTimelineIO" in said


def test_formats_are_told_and_what_does_not_fit_is_refused(api: Api) -> None:
    formats = {one["slug"]: one for one in api.get("/formats")["formats"]}
    assert formats["mp4"]["quality"]["words"]["finest"] == 10
    assert formats["exr"]["alpha"]
    assert formats["ffv1"]["quality"] is None
    told = api.post("/renders", {"reel": 3, "form": "gif"}, status=404)
    assert "There is no format “gif”" in told["detail"]
    for body, said in (
        ({"form": "mp4", "clear": True}, "H.264 MP4 holds no alpha"),
        ({"form": "mp4", "quality": "superb"}, "A quality is one of"),
        ({"form": "mp4", "quality": 12, "bit_rate": 900}, "not both"),
        ({"form": "ffv1", "bit_rate": 900}, "has no quality to choose"),
    ):
        told = api.post("/renders", {"reel": 3, **body}, status=422)
        assert said in told["detail"], body


def test_a_material_is_read_another_way_and_its_pictures_change(api: Api) -> None:
    one = next(m for m in api.get("/materials")["materials"] if m["name"] == "Ticket")
    assert one["facts"]["colour"]["matrix"] == "Rec. 709"
    before = picture(api.ask("GET", f"/materials/{one['id']}/picture.jpg")).astype(int)
    listed = api.post(f"/materials/{one['id']}/reading", {"range": "full"})["materials"]
    mine = next(m for m in listed if m["id"] == one["id"])
    assert mine["reading"]["range"] == "full"
    assert mine["mark"]
    after = picture(api.ask("GET", f"/materials/{one['id']}/picture.jpg")).astype(int)
    assert np.abs(after - before).mean() > 3
    api.post(f"/materials/{one['id']}/reading", {})
    back = picture(api.ask("GET", f"/materials/{one['id']}/picture.jpg")).astype(int)
    np.testing.assert_array_equal(back, before)


def test_a_transition_leaves_as_a_wipe_picture_and_a_look_of_colours_as_a_table(
    api: Api, demo: Library
) -> None:
    path = "/macros/inked-ticket/1/wipe.png?width=160&height=90"
    answer = api.ask("GET", path)
    assert "inked-ticket-1-wipe.png" in answer.headers["Content-Disposition"]
    image = Image.open(io.BytesIO(answer.get_data()))
    assert image.size == (160, 90)
    assert image.info["srgb"] == 0
    told = api.get("/macros/ember-fray/1/table.cube", status=422)["detail"]
    assert "Only a look gives a lookup table" in told
    steps = [{"id": "c", "kind": "slot"},
             {"id": "b", "kind": "balance", "values": {"saturation": 0.5}}]  # fmt: skip
    lanes = [{"id": "out", "name": "Out", "steps": steps}]
    slots = [{"id": "clip", "name": "Clip"}]
    dusk = read_effect({"name": "Dusk", "kind": "look", "slots": slots, "lanes": lanes})
    macros.shelve(demo.db, "dusk", publish(dusk, 1), None)
    text = api.ask("GET", "/macros/dusk/1/table.cube").get_data(as_text=True)
    assert text.startswith('TITLE "Dusk, version 1"\nLUT_3D_SIZE 33\n')
    # ASC CDL 1.2: saturation about Rec. 709 luma; pure red at half of it.
    red = [float(part) for part in text.splitlines()[2 + 32].split()]
    assert red == pytest.approx([0.5 + 0.5 * 0.2126, 0.5 * 0.2126, 0.5 * 0.2126], abs=1e-3)


def test_plain_transitions_go_on_a_cut_without_a_shelf(api: Api) -> None:
    plain = api.get("/macros")["plain"]
    assert [(one["slug"], one["kind"]) for one in plain] == [
        ("built-in:dissolve", "transition"), ("built-in:wipe", "transition"),
    ]  # fmt: skip
    assert not [one for one in api.get("/macros")["macros"] if ":" in one["slug"]]
    view = api.get("/reels/3")
    change = {"do": "place-join", "cuts": [{"left": view["shots"][0]["id"]}],
              "macro": "built-in:wipe", "version": 1, "length": 20, "settings": {"softness": 0.3}}  # fmt: skip
    after = api.post("/reels/3/changes", {"base": view["revision"], "change": change})
    join = next(one for one in after["joins"] if one["macro"] == "built-in:wipe")
    assert join["settings"] == {"softness": 0.3}
    change["settings"] = {"softness": 7}
    base = {"base": after["revision"], "change": change}
    assert "Softness" in api.post("/reels/3/changes", base, status=422)["detail"]
