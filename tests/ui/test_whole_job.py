"""The whole job through the interface: from an empty transition to the downloaded film."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, expect
from skimage.metrics import peak_signal_noise_ratio

from pale_static.core import Size, to_pixels
from pale_static.core.pictures.picture import fit
from pale_static.media.films.video import VideoFootage
from pale_static.media.foreign.reading import open_footage

from ..server import Server
from .conftest import answers, newest_render, visit


def add_step(page: Page, lane: str, words: str, name: str) -> None:
    """Add a step at the end of a lane by searching for it, with the keyboard."""
    page.get_by_role("region", name=f"Lane {lane}").get_by_role("button", name="Add a step").click()
    search(page, words)
    expect(page.locator(f"article[aria-label='{name} in {lane}']")).to_be_visible()


def search(page: Page, words: str) -> None:
    dialog = page.get_by_role("dialog", name="Add a step")
    dialog.get_by_role("combobox").fill(words)
    expect(dialog.get_by_role("option").first).to_be_visible()
    dialog.get_by_role("combobox").press("Enter")
    expect(dialog).to_be_hidden()


def value(page: Page, name: str) -> object:
    return page.locator(f".StepCard-step.selected [data-value='{name}']")


def menu(page: Page, row: object, item: str) -> None:
    row.get_by_role("button", name=re.compile("more")).click()  # type: ignore[attr-defined]
    page.get_by_role("menuitem", name=item, exact=True).click()


def set_number(page: Page, name: str, text: str) -> None:
    field = value(page, name).locator("input.NumberField-numberField")  # type: ignore[attr-defined]
    field.fill(text)
    field.press("Enter")


def test_from_an_empty_transition_to_the_film(page: Page, server: Server, tmp_path: Path) -> None:
    # The maker starts with nothing.
    visit(page, "/bench")
    page.get_by_role("button", name="New transition").click()
    expect(page.get_by_role("region", name="Lane Out")).to_be_visible()

    # Noise, then levels, in a lane of their own.
    page.get_by_role("button", name="Add a lane").first.click()
    search(page, "clouds")
    expect(page.locator("article[aria-label='Noise in Noise']")).to_be_visible()
    page.get_by_role("heading", name="Noise").dblclick()
    page.get_by_label("Name of the lane").fill("Smoke")
    page.get_by_label("Name of the lane").press("Enter")
    set_number(page, "cells", "3*2")
    expect(value(page, "cells").locator("input.NumberField-numberField")).to_have_value("6")  # type: ignore[attr-defined]
    value(page, "even_out").get_by_role("switch").click()  # type: ignore[attr-defined]
    add_step(page, "Smoke", "contrast", "Levels")
    set_number(page, "black_in", "0.05")

    # A luma wipe in the output finds the incoming clip and the matte by itself.
    add_step(page, "Out", "luma wipe", "Luma wipe")
    wipe = page.locator("article[aria-label='Luma wipe in Out']")
    expect(wipe.get_by_text("incoming: To")).to_be_visible()
    expect(wipe.get_by_text("matte: Smoke, luminance")).to_be_visible()

    # Progress moves from start to end; a key in the middle, where it is seen at first, holds it back.
    playhead = page.get_by_role("slider", name="Playhead")
    expect(playhead).to_have_attribute("aria-valuenow", "25")
    menu(page, value(page, "progress"), "Key here")
    # There were two keys before; the third is the new one.
    expect(page.get_by_label("Key 3: value")).to_be_visible()
    page.get_by_label("Key 2: value").fill("0.4")
    page.get_by_label("Key 2: value").press("Enter")
    expect(value(page, "progress").locator("input.NumberField-numberField")).to_have_value("0.4")  # type: ignore[attr-defined]

    # Two controls, one by its menu and one by the key E.
    menu(page, value(page, "softness"), "Expose")
    expect(page.get_by_role("tab", name=re.compile("Faceplate 1"))).to_be_visible()
    value(page, "rim_width").locator("[type=range]").focus()  # type: ignore[attr-defined]
    page.keyboard.press("e")
    expect(page.get_by_role("tab", name=re.compile("Faceplate 2"))).to_be_visible()

    page.get_by_role("button", name="Publish version 1").click()
    taken = page.get_by_text("Another macro on the shelf is called")
    page.get_by_label("Name", exact=True).fill("Inked ticket")
    expect(taken).to_be_visible()
    page.get_by_label("Name", exact=True).fill("Test Smoke")
    expect(taken).to_be_hidden()
    page.get_by_label("What it does").fill("Smoke takes the first clip away.")
    page.get_by_role("dialog").get_by_role("button", name="Publish version 1").click()
    expect(page.get_by_text("Version 1 of Test Smoke is on the shelf.")).to_be_visible()

    # The editor finds it on the shelf and takes it to a cut between two real clips.
    visit(page, "/shelf")
    page.get_by_label("Search the shelf").fill("smoke rim width")
    page.get_by_role("link", name="Test Smoke").click()
    expect(page.get_by_text("Smoke takes the first clip away.")).to_be_visible()
    visit(page, "/reel")
    page.get_by_role("button", name="New edit").click()
    tray = page.get_by_role("region", name="Clips and overlays")
    for name in ("Headlamp", "Depot hall"):
        tray.get_by_role("button", name=name, exact=True).click()
        expect(page.get_by_role("button", name=re.compile(f"Shot {name}"))).to_be_visible()
    for label, size in (("Frame width", "320"), ("Frame height", "180")):
        page.get_by_label(label).fill(size)
        page.get_by_label(label).press("Enter")
    expect(page.get_by_text("320×180")).to_be_visible()
    page.get_by_role("button", name="Cut between Headlamp and Depot hall").click()
    page.get_by_role("region", name="Macros for this cut").get_by_role(
        "button", name=re.compile("^Test Smoke")
    ).click()
    face = page.get_by_role("region", name="Faceplate")
    expect(face.get_by_role("heading", name="Test Smoke")).to_be_visible()
    length = face.get_by_label("Length", exact=True)
    length.fill("20")
    length.press("Enter")
    expect(page.get_by_role("button", name=re.compile("Test Smoke · 20 frames"))).to_be_visible()
    softness = face.get_by_label("Softness", exact=True)
    softness.fill("0.25")
    softness.press("Enter")

    # The setting is saved, and shows.
    reel = int(page.url.rsplit("/", 1)[1])
    answers(page, f"/api/reels/{reel}", "d.joins[0].settings.softness === 0.25")
    view = server.ask("GET", f"/reels/{reel}")
    join = view["joins"][0]
    assert (join["macro"], join["version"], join["end"] - join["first"]) == ("test-smoke", 1, 20)

    page.get_by_role("button", name="Render", exact=True).click()
    page.get_by_role("button", name="Start the render").click()
    row = newest_render(page, server)
    with page.expect_download(timeout=90_000) as download:
        row.get_by_role("link", name="Download").click(timeout=90_000)
    film = tmp_path / "film.mp4"
    download.value.save_as(film)

    # The film, decoded: as many frames as the edit, and the join where it belongs.
    made = VideoFootage(film)
    assert made.length == view["length"]
    assert (made.rate.exact, made.size) == (25, Size(320, 180))
    shots = view["shots"]
    clips = {
        one["name"]: open_footage(next((server.folder / "media").glob(f"{one['material']}.*")))
        for one in shots
    }

    def pure(shot: int, frame: int) -> np.ndarray:
        found = shots[shot]
        begins = sum(one["length"] for one in shots[:shot])
        pixels = clips[found["name"]].pixels(found["start"] + frame - begins)
        return to_pixels(fit(pixels, Size(320, 180), "cover"))[..., :3]

    def likeness(frame: int, other: np.ndarray) -> float:
        return float(peak_signal_noise_ratio(other, made.pixels(frame)))

    first, last = join["first"], join["end"] - 1
    codec = 32  # dB: with grain, 4:2:0 and this quality give less at this size
    assert likeness(first - 1, pure(0, first - 1)) > codec
    assert likeness(first, pure(0, first)) > codec
    assert likeness(last, pure(1, last)) > codec
    assert likeness(last + 1, pure(1, last + 1)) > codec
    middle = (first + last) // 2
    assert likeness(middle, pure(0, middle)) < 24
    assert likeness(middle, pure(1, middle)) < 24
