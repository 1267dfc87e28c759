"""Attacks on the application: broken files, bodies, formulas and addresses, by seed."""

from __future__ import annotations

import io
import json
import random
import time
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from flask.testing import FlaskClient
from PIL import Image

from pale_static.core.lettering import FAMILIES, shipped
from pale_static.store import Library, drafts, macros, materials

SLOWEST = 10.0
"""The longest time of an answer in seconds."""


def mutated(data: bytes, rng: random.Random) -> bytes:
    """A file with parts flipped, cut, doubled, filled or replaced by other numbers."""
    found = bytearray(data)
    for _ in range(rng.choice((1, 1, 2, 5, 20))):
        if not found:
            break
        at = rng.randrange(len(found))
        how = rng.randrange(7)
        if how == 0:
            found[at] ^= 1 << rng.randrange(8)
        elif how == 1:
            del found[at:]
        elif how == 2:
            found[at : at + rng.randrange(1, 64)] = b""
        elif how == 3:
            found[at:at] = rng.randbytes(rng.randrange(1, 64))
        elif how == 4:
            size = rng.choice((1, 2, 4, 8))
            number = rng.choice((0, 1, -1, 2 ** (8 * size - 1) - 1, rng.getrandbits(8 * size - 1)))
            found[at : at + size] = number.to_bytes(
                size, rng.choice(("big", "little")), signed=True
            )
        elif how == 5:
            found[at : at + rng.randrange(1, 256)] = bytes(rng.randrange(1, 256))
        else:
            piece = found[at : at + rng.randrange(1, 512)]
            found[at:at] = piece * rng.randrange(1, 8)
    # Headers describe a file; most problems begin there.
    if rng.random() < 0.4 and len(found) > 64:
        head = mutated(bytes(found[:64]), rng) if rng.random() < 0.5 else bytes(found[:64])
        found[:64] = head
    return bytes(found)


WORDS = ("", "x", "out", "a" * 5000, "\ud800", "\0", "é" * 300, "../..", "NaN", "1e999", "null")


def value(rng: random.Random, depth: int = 0) -> Any:
    """Any JSON value, plausible or not."""
    how = rng.randrange(10 if depth < 4 else 7)
    if how == 0:
        return rng.choice((None, True, False))
    if how == 1:
        return rng.choice((0, -1, 1, 2**31, 2**53 + 1, 2**63, -(2**64), 10**40, rng.randrange(100)))
    if how == 2:
        return rng.choice((0.5, -1e-300, 1e308, -0.0, rng.random()))
    if how in (3, 4, 5, 6):
        return rng.choice(WORDS)
    if how == 7:
        return [value(rng, depth + 1) for _ in range(rng.randrange(4))]
    if how == 8:
        return {str(rng.choice(WORDS)): value(rng, depth + 1) for _ in range(rng.randrange(4))}
    deep: Any = []
    for _ in range(rng.choice((10, 70, 500, 5000))):
        deep = [deep] if rng.random() < 0.5 else {"a": deep}
    return deep


def spoiled(body: Any, rng: random.Random) -> Any:
    """A body with one of its values replaced, left out or added to."""
    if isinstance(body, dict) and body and rng.random() < 0.85:
        name = rng.choice(list(body))
        if rng.random() < 0.15:
            return {key: one for key, one in body.items() if key != name}
        if rng.random() < 0.1:
            return body | {str(rng.choice(WORDS)): value(rng)}
        return body | {name: spoiled(body[name], rng)}
    if isinstance(body, list) and body and rng.random() < 0.7:
        at = rng.randrange(len(body))
        return [spoiled(one, rng) if k == at else one for k, one in enumerate(body)]
    return value(rng)


def text_of(body: Any, rng: random.Random) -> bytes:
    """The text of a body; sometimes not JSON."""
    how = rng.random()
    if how < 0.05:
        return rng.choice(
            (b"", b"{", b"hello", b"\xff\xfe", b"[" * 100_000, b"9" * 5000, b'"\\ud800"')
        )
    try:
        written = json.dumps(body).encode()
    except (ValueError, RecursionError):
        written = b"[" * 3000 + b"]" * 3000
    return mutated(written, rng) if how < 0.15 else written


ATOMS = (
    "progress", "frame", "seconds", "length", "width", "height", "pass", "1", "0", "-1", "0.5", "1e308",
    "9" * 400, "control.softness", "out.blur.size", "a.b.c", "x", "()", "[]", "'x'", "True", "None",
    "__import__", "progress.real", ".".join(["a"] * 400),
)  # fmt: skip
CALLS = ("sin", "min", "max", "clamp", "mix", "step", "round", "floor", "sqrt", "dice", "drift", "abs",
         "smoothstep", "exec", "open", "pow", "getattr")  # fmt: skip
SIGNS = (
    "+",
    "-",
    "*",
    "/",
    "**",
    "%",
    "//",
    "<",
    ">",
    "==",
    "<<",
    ">>",
    " if ",
    " and ",
    " or ",
    ",",
    "@",
)
WORST = (
    "4000000**4000000>0", "round(1,-99999999)", "1<<10000", "9**9**9**9", "(" * 500, "-" * 3000 + "1",
    "+".join(["1"] * 5000), "min(" + ",".join(["1"] * 5000) + ")", "lambda: 1", "[1]*10**9",
    "(1).__class__", "'a'*10**9", "1 if 1 else " * 400 + "1", "0.0/0.0", "1e308*1e308", "10**400",
)  # fmt: skip


def formula(rng: random.Random, depth: int = 0) -> str:
    """A formula, sometimes a valid one."""
    if depth == 0 and rng.random() < 0.2:
        return rng.choice(WORST)
    how = rng.random()
    if how < 0.3 or depth > 5:
        return rng.choice(ATOMS)
    if how < 0.6:
        return f"{formula(rng, depth + 1)}{rng.choice(SIGNS)}{formula(rng, depth + 1)}"
    if how < 0.8:
        inner = ",".join(formula(rng, depth + 1) for _ in range(rng.randrange(4)))
        return f"{rng.choice(CALLS)}({inner})"
    return f"({formula(rng, depth + 1)})"


PARTS = (
    "..", ".", "%2e%2e", "..%2f", "%2f", "etc", "passwd", "%00", "a" * 300, "9" * 4000, "-1", "api", "assets",
    "index.html", "effects", "1", "2", str(2**63), "frame.jpg", "materials", "picture.jpg", "renders", "file",
    "~", "\\", "..\\..", "%ff", "é", "media", "pale-static.sqlite",
)  # fmt: skip
QUERIES = ("", "?width=999999", "?without=zz", "?step=a", "?frame=1e9", "?settings=[[[[", "?x=1&x=2", "?" + "a" * 5000,
           "?length=-1", "?clips=" + "%5B" * 500, "?stream=%00")  # fmt: skip


def address(rng: random.Random) -> str:
    """A hostile path, and a query."""
    made = "/".join(rng.choice(PARTS) for _ in range(rng.randrange(1, 6)))
    return f"/{'api/' if rng.random() < 0.5 else ''}{made}{rng.choice(QUERIES)}"


@dataclass
class Target:
    """An application over a library, and the known contents of that."""

    library: Library
    client: FlaskClient

    def __post_init__(self) -> None:
        db = self.library.db
        self.files = dict(self._files())
        self.effects = [draft.id for draft in drafts.listed(db, "effect")]
        (self.reel, *_) = [draft.id for draft in drafts.listed(db, "reel")]
        self.before = self.kept()
        # The first draft is the target; it may change.
        del self.before[self.effects[0]]

    def kept(self) -> dict[int, Any]:
        """Documents that must stay unchanged, by draft."""
        db = self.library.db
        return {draft.id: draft.head.document for draft in drafts.listed(db, "effect")}

    def _files(self) -> Iterator[tuple[str, bytes]]:
        for form, name in (
            ("PNG", "a.png"),
            ("JPEG", "a.jpg"),
            ("WEBP", "a.webp"),
            ("TIFF", "a.tif"),
        ):
            data = io.BytesIO()
            Image.radial_gradient("L").convert("RGB").resize((40, 30)).save(data, form)
            yield name, data.getvalue()
        font = shipped(FAMILIES and next(iter(FAMILIES)), "regular").data
        yield "a.ttf", font
        video = next(one for one in materials.listed(self.library.db) if one.facts.kind == "video")
        yield "a.mp4", self.library.path_of(video).read_bytes()
        slug = macros.listed(self.library.db)[0].slug
        yield "a.palemacro", self._get(f"/api/macros/{slug}/1/file.palemacro")
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w") as file:
            file.writestr("parts.json", "{}")
        yield "a.paleparts", packed.getvalue()
        yield "a.cc", b"<ColorCorrection><SOPNode><Slope>1 1 1</Slope></SOPNode></ColorCorrection>"

    def _get(self, path: str) -> bytes:
        return bytes(self.client.get(path, headers=HOST).get_data())

    def bodies(self) -> list[tuple[str, Any]]:
        """Valid requests, to be spoiled."""
        effect, reel = self.effects[0], self.reel
        head = drafts.get(self.library.db, "effect", effect)
        film = drafts.get(self.library.db, "reel", reel)
        lane = head.head.document["lanes"][-1]
        place = {"lane": lane["id"], "step": lane["steps"][-1]["id"]}
        sized = {"frame": 3, "length": 20, "width": 64, "height": 36}
        change = {"do": "set-value", **place, "value_name": "mix", "value": 0.5}
        shot = film.head.document["shots"][0]["id"]
        return [
            ("/effects", {"kind": "look", "name": "Thrown at"}),
            (f"/effects/{effect}/live", {"base": head.head.id, "change": change, **sized}),
            (f"/effects/{effect}/refusal", {"base": head.head.id, "change": change}),
            (f"/effects/{effect}/live", {"base": head.head.id, **sized, "change": {
                "do": "set-value", **place, "value_name": "mix",
                "value": {"keys": [{"time": 0, "value": 0.2}, {"time": 1, "value": 0.9, "ease": "hold"}]}}}),
            (f"/effects/{effect}/copy", {"base": head.head.id, "change": None}),
            (f"/effects/{effect}/stages", {"name": "Stage"}),
            (f"/effects/{effect}/go", {"revision": head.head.id}),
            ("/reels", {"name": "Thrown at", "rate": "25", "width": 640, "height": 360}),
            (f"/reels/{reel}/live", {"base": film.head.id, "change": {"do": "set-shot", "shot": shot, "length": 30},
                                     "frame": 2, "width": 64, "height": 36}),
            ("/parts", {"draft": effect, "base": head.head.id, "steps": [place], "name": "Part", "replace": True}),
            ("/renders", {"reel": 10**6, "form": "mp4"}),
            (f"/effects/{effect}/publish", {"base": 10**9, "author": "x"}),
        ]  # fmt: skip

    def throw(self, kind: str, rng: random.Random) -> str:
        """One shot of a kind; it must be answered in time and without a 500."""
        began = time.monotonic()
        told, status = getattr(self, f"_{kind}")(rng)
        spent = time.monotonic() - began
        assert status < 500 or status in (503, 507), f"{status} for {told}"
        assert spent < SLOWEST, f"{spent:.1f} s for {told}"
        return str(told)

    def _file(self, rng: random.Random) -> tuple[str, int]:
        name = rng.choice(list(self.files))
        data = mutated(self.files[name], rng)
        path = {"palemacro": "/macros", "paleparts": "/parts/read", "cc": "/grades"}.get(
            name.rpartition(".")[2], "/materials"
        )
        form = {
            "file": (
                io.BytesIO(data),
                rng.choice((name, f"../{name}", "x" * 400 + name, name + "\0")),
            )
        }
        answer = self.client.post(
            f"/api{path}", data=form, content_type="multipart/form-data", headers=HOST
        )
        if answer.status_code == 200 and path == "/materials":
            made = answer.get_json()["id"]
            shown = self.client.get(
                f"/api/materials/{made}/picture.jpg?width=64&height=36", headers=HOST
            )
            assert shown.status_code < 500, f"{shown.status_code} for the picture of {name}"
            if name == "a.ttf":
                return f"file {name} drawn", self._drawn(made)
        return f"file {name} at {path}", answer.status_code

    def _drawn(self, font: str) -> int:
        """Draw a title in a font that was accepted."""
        made = self.client.post(
            "/api/effects", json={"kind": "title", "name": "T"}, headers=HOST
        ).get_json()
        values = {"font": font, "text": "Lantern Ag 09", "size": 30, "outline": 1}
        place = {"do": "set-value", "lane": "lettering", "step": "title"}
        each = [place | {"value_name": name, "value": value} for name, value in values.items()]
        change = {"do": "several", "changes": each}
        body = {
            "base": made["revision"],
            "change": change,
            "width": 320,
            "height": 180,
            "length": 2,
        }
        return self.client.post(
            f"/api/effects/{made['id']}/live", json=body, headers=HOST
        ).status_code

    def _body(self, rng: random.Random) -> tuple[str, int]:
        path, body = rng.choice(self.bodies())
        text = text_of(spoiled(body, rng), rng)
        answer = self.client.post(
            f"/api{path}", data=text, content_type="application/json", headers=HOST
        )
        return f"{path} {text[:300]!r}: {answer.get_data()[:300]!r}", answer.status_code

    def _formula(self, rng: random.Random) -> tuple[str, int]:
        text = formula(rng)
        effect = self.effects[0]
        head = drafts.get(self.library.db, "effect", effect).head
        lane = head.document["lanes"][-1]
        change = {"do": "set-value", "lane": lane["id"], "step": lane["steps"][-1]["id"],
                  "value_name": "mix", "value": {"formula": text}}  # fmt: skip
        sized = {"frame": 3, "length": 20, "width": 64, "height": 36}
        path = f"/api/effects/{effect}"
        if rng.random() < 0.5:
            body = {"base": head.id, "change": change, **sized}
            answer = self.client.post(f"{path}/live", json=body, headers=HOST)
        else:
            tried = f"{path}/{head.id}/try-on.jpg"
            query = {"change": json.dumps(change), **sized}
            answer = self.client.get(tried, query_string=query, headers=HOST)
        return f"formula {text[:200]!r}: {answer.get_data()[:200]!r}", answer.status_code

    def _address(self, rng: random.Random) -> tuple[str, int]:
        path = address(rng)
        headers = dict(HOST)
        if rng.random() < 0.3:
            headers[rng.choice(("Origin", "Host", "If-None-Match", "Sec-Fetch-Site", "Content-Type", "Range"))] = (
                rng.choice(("", "x", "null", "http://evil.example", "http://[::1", "a" * 3000, "[::1", "bytes=9-1"))
            )  # fmt: skip
        method: Callable[..., Any] = rng.choice(
            (self.client.get, self.client.post, self.client.delete)
        )
        answer = method(path, headers=headers)
        text = answer.get_data()
        assert b"root:" not in text, path
        assert b"SQLite format" not in text, path
        return f"{path[:200]} {headers}", answer.status_code


HOST = {"Host": "127.0.0.1:8710"}
KINDS = ("file", "body", "formula", "address")
