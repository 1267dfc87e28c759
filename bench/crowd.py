"""Many at once: idle connections, polling pages, and edits of thousands of shots."""

from __future__ import annotations

import socket
import tempfile
import threading
import time
import urllib.request
from fractions import Fraction
from itertools import count
from pathlib import Path
from statistics import median

from pale_static.core.reel import Join, Reel, Shot, layout_of
from pale_static.demo.fill import fill
from pale_static.store import Library, drafts, macros, materials
from pale_static.web import create_app

from .measure import Row, once, within
from .server import ask, fetched, serving

PAGES, IDLE = 100, 500
EACH = 3.0
"""Seconds between two polls of a page, as on Renders while nothing runs."""
SHOTS, JOINS = 2000, 800


def crowded_server() -> list[Row]:
    """A cold frame while a hundred pages poll the renders and 500 connections are idle."""
    with serving() as address:
        draft = ask(address, "/effects", {"macro": "ember-fray", "version": 1})
        numbers = count()

        def frame() -> None:
            size = f"width={640 + next(numbers) % 400}&height=360"
            fetched(
                f"{address}api/effects/{draft['id']}/{draft['revision']}/frame.jpg?frame=9&{size}"
            )

        host, port = address.removeprefix("http://").rstrip("/").split(":")
        ended = threading.Event()

        def page(late: float) -> None:
            tag = ""
            ended.wait(late)
            while not ended.is_set():
                asked = urllib.request.Request(
                    f"{address}api/renders", headers={"If-None-Match": tag} if tag else {}
                )
                try:
                    with urllib.request.urlopen(asked) as answer:
                        tag = answer.headers["ETag"]
                except OSError:
                    pass  # the list is unchanged, or the server has ended
                ended.wait(EACH)

        def timed() -> float:
            frame()
            found = []
            for _ in range(15):
                found.append(once(frame))
                time.sleep(0.1)
            return median(found)

        first = timed()
        pages = [
            threading.Thread(target=page, args=(EACH * k / PAGES,), daemon=True)
            for k in range(PAGES)
        ]
        for thread in pages:
            thread.start()
        open_now = [socket.create_connection((host, int(port))) for _ in range(IDLE)]
        time.sleep(EACH)
        mine = timed()
        ended.set()
        for one in open_now:
            one.close()
        time.sleep(EACH)
        # Before and after, so that a busy machine slows both.
        other = (first + timed()) / 2
        ratio = other / mine
        return [
            Row(
                f"a cold frame beside {PAGES} listening pages and {IDLE} idle connections", mine,
                "the same frame alone", other, ratio, "100 ms more", "10 ms more",
                mine <= other + 100,
            )
        ]  # fmt: skip


def long_edit() -> list[Row]:
    """An edit of 2,000 shots and 800 joins: a change, and finding a late frame."""
    with tempfile.TemporaryDirectory() as folder:
        library = Library(Path(folder))
        fill(library, scale=0.125)
        clips = [one.id for one in materials.listed(library.db) if one.facts.kind == "video"]
        slugs = [
            one.slug for one in macros.listed(library.db) if one.newest.effect.kind == "transition"
        ]
        reel = Reel(
            name="Long",
            shots=tuple(
                Shot(id=f"s{k}", material=clips[k % len(clips)], name=f"Shot {k}",
                     start=Fraction(1), length=Fraction(2))
                for k in range(SHOTS)
            ),
            joins=tuple(
                Join(id=f"j{k}", left=f"s{2 * k}", right=f"s{2 * k + 1}", macro=slugs[k % len(slugs)], version=1,
                     length=Fraction(1))
                for k in range(JOINS)
            ),
        )  # fmt: skip
        draft = drafts.start(library.db, "reel", reel.to_json(), "New")
        client = create_app(library).test_client()
        lengths = count()
        base = [draft.head.id]

        def change() -> None:
            answer = client.post(
                f"/api/reels/{draft.id}/changes", headers={"Host": "localhost"},
                json={"base": base[0], "change": {
                    "do": "set-join", "join": "j700", "length": 10 + next(lengths) % 20}},
            )  # fmt: skip
            base[0] = answer.get_json()["revision"]

        frames = count()

        def find() -> None:
            for _ in range(100):
                late = reel.length - 1 - next(frames) % 20_000
                layout_of(reel).join_at(late)
                layout_of(reel).shot_at(late)

        found = within("100 late frames found in that edit", find, 500, 50)
        return [
            within(f"a change of an edit of {SHOTS} shots and {JOINS} joins", change, 100, 50),
            found,
        ]


ROWS = (crowded_server, long_edit)
