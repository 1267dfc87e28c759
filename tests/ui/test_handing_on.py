"""Formats in and out, driven in the page: a render is downloaded, edits and files come in."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import av
import numpy as np
import opentimelineio as otio
import pytest
from PIL import Image
from playwright.sync_api import Page, Route, expect

from pale_static.media.formats import FORMATS
from pale_static.media.pictures.stills import encode_png
from pale_static.web.shelf import BakedQuery

from ..server import Server
from .conftest import answers, visit

SIZE = (64, 36)


@pytest.fixture(scope="module")
def edit(server: Server) -> Any:
    """An edit of six frames."""
    ids = {one["name"]: one["id"] for one in server.ask("GET", "/materials")["materials"]}
    view = server.ask("POST", "/reels", {"name": "Short", "width": SIZE[0], "height": SIZE[1]})
    change = {
        "do": "add-shot",
        "material": ids["Headlamp"],
        "name": "Lamp",
        "start": 10,
        "length": 6,
    }
    return server.ask("POST", f"/reels/{view['id']}/changes",
                      {"base": view["revision"], "change": change})  # fmt: skip


def test_any_format_is_chosen_and_a_render_is_downloaded(
    page: Page, server: Server, edit: Any, tmp_path: Path
) -> None:
    page.goto(f"/reel/{edit['id']}")
    page.get_by_role("button", name="Render", exact=True).click()
    dialog = page.get_by_role("dialog")
    copies = dialog.get_by_label("Copy parts of clips that nothing changes")
    known = len(server.ask("GET", "/renders")["renders"])
    copying = next(form for form in FORMATS if form.copies)
    for form in (copying, FORMATS[-1], FORMATS[0]):
        dialog.get_by_role("combobox", name="Format").fill(form.label)
        page.locator(".ant-select-item-option").get_by_text(form.label, exact=True).click()
        expect(copies).to_be_visible() if form.copies else expect(copies).to_be_hidden()
    dialog.get_by_role("button", name="Start the render").click()
    expect(page.locator("article.Renders-render")).to_have_count(known + 1)
    row = page.locator("article.Renders-render").first
    expect(row).to_contain_text(FORMATS[0].label)
    link = row.get_by_role("link", name="Download")
    expect(link).to_be_visible(timeout=60_000)
    with page.expect_download() as download:
        link.click()
    assert download.value.suggested_filename == f"Short{FORMATS[0].ending}"
    download.value.save_as(tmp_path / "short.mp4")
    with av.open(str(tmp_path / "short.mp4")) as film:
        assert len(list(film.decode(video=0))) == 6


@pytest.mark.own_page
def test_a_render_just_asked_for_is_listed_however_lately_the_list_was_read(
    page: Page, server: Server, edit: Any
) -> None:
    page.goto(f"/reel/{edit['id']}")
    # A page that is not visible does not poll.
    page.evaluate(
        "Object.defineProperty(document, 'visibilityState', {get: () => 'hidden'});"
        "document.dispatchEvent(new Event('visibilitychange'))"
    )
    for _ in range(2):
        visit(page, "/renders")
        expect(page.get_by_role("heading", name="Renders")).to_be_visible()
        known = len(server.ask("GET", "/renders")["renders"])
        expect(page.locator("article.Renders-render")).to_have_count(known)
        visit(page, f"/reel/{edit['id']}")
        page.get_by_role("button", name="Render", exact=True).click()
        page.get_by_role("button", name="Start the render").click()
        expect(page.get_by_role("heading", name="Renders")).to_be_visible()
        expect(page.locator("article.Renders-render")).to_have_count(known + 1)


def test_a_render_that_has_not_changed_is_there_at_once_and_plays(
    page: Page, server: Server, edit: Any
) -> None:
    for _ in range(2):
        made = server.ask("POST", "/renders", {"reel": edit["id"], "form": "webm", "quality": "small",
                                               "told": ["Lamp is short."]})  # fmt: skip
        done = server.until(made["id"], "done")
    assert done["speed"] == 0
    page.goto("/renders")
    row = page.locator(f"[data-render='{made['id']}']")
    expect(row).to_contain_text("Done: nothing had changed.")
    row.get_by_text("1 note from the check before it").click()
    expect(row.get_by_text("Lamp is short.")).to_be_visible()
    row.get_by_role("button", name="Show the film").click()
    film = row.locator("video")
    expect(film).to_be_visible()
    page.wait_for_function("document.querySelector('video').videoWidth === 64")
    page.get_by_role("button", name="Empty them").click()
    expect(page.get_by_text("finished stretches are kept")).to_be_hidden()


def test_numbered_pictures_come_in_as_one_clip_and_are_read_another_way(page: Page) -> None:
    page.goto("/materials")
    files: list[Any] = [
        {"name": f"fog_{n:03d}.png", "mimeType": "image/png",
         "buffer": encode_png(np.full((36, 64, 4), (40 * n, 90, 90, 128), np.uint8))}
        for n in (1, 2, 4)
    ]  # fmt: skip
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Bring in files").click()
    chooser.value.set_files(files)
    row = page.get_by_role("row").filter(has_text="PNG sequence")
    expect(row).to_contain_text("3 pictures")
    expect(row).to_contain_text("Picture 3 is missing: the previous picture stands still there.")
    expect(row).to_contain_text("25 fps")
    expect(row).to_contain_text("straight alpha")
    row.get_by_role("button", name="Read as…").click()
    dialog = page.get_by_role("dialog")
    for label, choice in (("Alpha", "premultiplied"), ("Frames a second", "12")):
        dialog.get_by_label(label).press("ArrowDown")
        page.locator(".ant-select-item-option").get_by_text(choice, exact=True).click()
    dialog.get_by_role("button", name="Read it this way").click()
    expect(row).to_contain_text("12 fps")
    expect(row).to_contain_text("premultiplied alpha · set here")


def test_an_edit_of_another_system_is_looked_at_then_kept(
    page: Page, server: Server, edit: Any, tmp_path: Path
) -> None:
    # Losses in a list are shown before it is handed on.
    page.goto("/reel/3")
    page.get_by_role("button", name="Hand on").click()
    expect(page.get_by_text(re.compile("dissolves? in the list"))).to_be_visible()
    page.goto(f"/reel/{edit['id']}")
    page.get_by_role("button", name="Hand on").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Shots and cuts (EDL, CMX 3600)").click()
    path = tmp_path / download.value.suggested_filename
    assert path.name == "Short.edl"
    download.value.save_as(path)
    path.write_text(
        path.read_text().replace("* SOURCE FILE: Headlamp.mp4", "* SOURCE FILE: lost_roll.mp4")
        .replace("CLIP NAME: Lamp", "CLIP NAME: lost roll")
    )  # fmt: skip
    page.goto("/reel")
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Bring in an edit").click()
    chooser.value.set_files(path)
    dialog = page.get_by_role("dialog")
    expect(
        dialog.get_by_text("One file is not among your materials: lost_roll.mp4")
    ).to_be_visible()
    data = server.folder / "media"
    clip = next(data.glob("*.mp4")).read_bytes()
    with page.expect_file_chooser() as chooser:
        dialog.get_by_role("button", name="Bring in the missing files").click()
    found: Any = {"name": "lost_roll.mp4", "mimeType": "video/mp4", "buffer": clip + bytes(8)}
    chooser.value.set_files(found)
    expect(dialog.get_by_text("Everything in it is known here.")).to_be_visible()
    dialog.get_by_role("button", name="Bring it in").click()
    page.wait_for_url("**/reel/*")
    number = int(page.url.rsplit("/", 1)[1])
    answers(page, f"/api/reels/{number}", "d.shots.length === 1 && !d.shots[0].missing")


def test_an_edit_leaves_as_a_timeline_and_a_table_of_marks(
    page: Page, server: Server, edit: Any, tmp_path: Path
) -> None:
    base = server.ask("GET", f"/reels/{edit['id']}")["revision"]
    change = {"do": "set-mark", "frame": 3, "name": "Bell"}
    server.ask("POST", f"/reels/{edit['id']}/changes", {"base": base, "change": change})
    page.goto(f"/reel/{edit['id']}")
    for name, file in (("Whole edit", "Short.otio"), ("Marks", "Short.csv")):
        page.get_by_role("button", name="Hand on").click()
        with page.expect_download() as download:
            page.get_by_role("link", name=name).click()
        assert download.value.suggested_filename == file
        download.value.save_as(tmp_path / file)
    # Source: OpenTimelineIO's own reader.
    timeline = otio.adapters.read_from_file(str(tmp_path / "Short.otio"))
    assert [clip.name for clip in timeline.video_tracks()[0].find_clips()] == ["Lamp"]
    assert timeline.tracks.markers[0].name == "Bell"
    assert (tmp_path / "Short.csv").read_text().splitlines()[1] == "00:00:00:03,3,0.120000,Bell"


def small(route: Route) -> None:
    """Request a smaller wipe picture than the page, which sends no size."""
    assert "width=" not in route.request.url
    sign = "&" if "?" in route.request.url else "?"
    route.continue_(url=f"{route.request.url}{sign}width=320&height=180")


def test_a_transition_leaves_the_shelf_as_a_wipe_picture(page: Page, tmp_path: Path) -> None:
    page.route("**/wipe.png*", small)
    visit(page, "/shelf/inked-ticket")
    page.get_by_role("button", name="Hand over as a file").click()
    with page.expect_download(timeout=90_000) as download:
        page.get_by_role("menuitem", name="Wipe picture for other systems").click()
    assert download.value.suggested_filename == "inked-ticket-1-wipe.png"
    download.value.save_as(tmp_path / "wipe.png")
    with Image.open(tmp_path / "wipe.png") as image:
        assert image.size == (320, 180)
    assert (BakedQuery().width, BakedQuery().height) == (1920, 1080)
