"""More of the editor's side: shelf, strip, shots, alignment, rendering."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from ..server import Server
from .conftest import answers, newest_render, visit

DROP = """([name, bytes, type]) => {
  const data = new DataTransfer();
  data.items.add(new File([new Uint8Array(bytes)], name, {type}));
  const page = document.querySelector('main.page');
  for (const kind of ['dragover', 'drop'])
    page.dispatchEvent(new DragEvent(kind, {dataTransfer: data, bubbles: true, cancelable: true}));
}"""


@pytest.fixture
def reel(server: Server) -> Any:
    """A new edit of two shots."""
    ids = {one["name"]: one["id"] for one in server.ask("GET", "/materials")["materials"]}
    view = server.ask("POST", "/reels", {"name": "Two", "width": 320, "height": 180})
    for name in ("Headlamp", "Ticket"):
        change = {"do": "add-shot", "material": ids[name], "name": name, "start": 10, "length": 60}
        view = server.ask(
            "POST", f"/reels/{view['id']}/changes", {"base": view["revision"], "change": change}
        )
    return view


def until(page: Page, reel: Any, test: str) -> None:
    answers(page, f"/api/reels/{reel['id']}", test.replace("v.", "d."))


def drag(page: Page, target: Any, by: float) -> None:
    box = target.bounding_box()
    page.mouse.move(box["x"] + 4, box["y"] + 60)
    page.mouse.down()
    page.mouse.move(box["x"] + 4 + by, box["y"] + 60, steps=5)
    page.mouse.up()


def test_the_shelf_is_searched_filtered_and_sorted(page: Page) -> None:
    visit(page, "/shelf")
    cards = page.locator("article.card b")
    expect(cards.first).to_be_visible()
    page.get_by_label("Search the shelf").fill("grain of the noise")
    expect(cards).to_have_text(["Ember Fray"])
    page.get_by_label("Search the shelf").fill("everyday")
    expect(cards).to_have_text(["Quiet Luma"])
    # A tag shows all macros with that tag.
    page.get_by_label("Search the shelf").fill("")
    page.locator("article.card", has_text="Quiet Luma").get_by_role(
        "button", name="everyday"
    ).click()
    expect(page.get_by_label("Search the shelf")).to_have_value("everyday")
    expect(page.locator("article.card", has_text="Worn Tape")).to_be_hidden()
    page.get_by_label("Search the shelf").fill("teapot")
    expect(page.get_by_text("No macro matches.")).to_be_visible()
    page.get_by_label("Search the shelf").fill("")
    page.get_by_label("Order").click(force=True)
    page.locator(".ant-select-item-option").filter(has_text="by name").click()
    names = cards.all_inner_texts()
    assert names == sorted(names)
    page.get_by_label("Kind").click(force=True)
    page.locator(".ant-select-item-option").filter(has_text="texture").click()
    expect(cards.filter(has_text="Ember Fray")).to_be_hidden()


def test_a_card_plays_while_hovered(page: Page) -> None:
    visit(page, "/shelf")
    card = page.locator("article.card").filter(has_text="Quiet Luma")
    card.scroll_into_view_if_needed()
    expect(card.locator("canvas")).to_be_visible()
    expect(card.locator("img.Shelf-playing")).to_be_hidden()
    card.get_by_role("link").hover()
    expect(card.locator("img.Shelf-playing")).to_be_visible()
    natural = "e => e.complete && e.naturalWidth"
    page.wait_for_function(f"() => ({natural})(document.querySelector('img.Shelf-playing'))")


def test_a_file_is_dropped_anywhere_on_materials(page: Page) -> None:
    visit(page, "/materials")
    expect(page.get_by_role("heading", name="Materials")).to_be_visible()
    page.evaluate(DROP, ["junk.png", [1, 2, 3], "image/png"])
    expect(
        page.get_by_text("junk.png is neither a picture, a video, a font nor a lookup table.")
    ).to_be_visible()


def test_a_material_is_renamed(page: Page, server: Server) -> None:
    visit(page, "/materials")
    page.get_by_label("Name of Lantern Line mark").fill("The mark")
    page.get_by_label("Name of Lantern Line mark").press("Enter")
    expect(page.get_by_label("Name of The mark")).to_be_visible()
    assert "The mark" in [one["name"] for one in server.ask("GET", "/materials")["materials"]]
    page.get_by_label("Name of The mark").fill("Lantern Line mark")
    page.get_by_label("Name of The mark").press("Enter")


def test_shots_are_trimmed_moved_fitted_and_taken_off(page: Page, reel: Any) -> None:
    visit(page, f"/reel/{reel['id']}")
    shot = page.get_by_role("button", name=re.compile("Shot Headlamp"))
    shot.click(position={"x": 60, "y": 60})
    drag(page, page.locator(".Strip-shot.selected .Strip-grip.Strip-tail"), -80)
    until(page, reel, "d.shots[0].length < 60")
    drag(page, page.locator(".Strip-shot.selected .Strip-grip.Strip-head"), 60)
    until(page, reel, "d.shots[0].start > 10")
    face = page.get_by_role("region", name="Shot")
    face.get_by_label("Length", exact=True).fill("40")
    face.get_by_label("Length", exact=True).press("Enter")
    until(page, reel, "d.shots[0].length === 40")
    face.get_by_label("Fit").click(force=True)
    page.locator(".ant-select-item-option").filter(has_text="show all of it").click()
    until(page, reel, "d.shots[0].fit === 'contain'")
    face.get_by_role("button", name="Move right").click()
    until(page, reel, "d.shots[1].name === 'Headlamp'")
    face.get_by_role("button", name="Take off the strip").click()
    until(page, reel, "d.shots.length === 1")
    page.get_by_role("button", name="Undo").click()
    until(page, reel, "d.shots.length === 2")
    page.keyboard.press("Control+Shift+z")
    until(page, reel, "d.shots.length === 1")


def test_a_join_is_aligned_and_its_settings_shown_while_they_move(
    page: Page, server: Server, reel: Any
) -> None:
    visit(page, f"/reel/{reel['id']}?use=ember-fray")
    tray = page.get_by_role("region", name="Macros for this cut")
    tray.get_by_role("button", name=re.compile("^Ember Fray")).click()
    until(page, reel, "d.joins.length === 1")
    # Both shots have handles, so the macro gets a length that fits them.
    placed = server.ask("GET", f"/reels/{reel['id']}")["joins"][0]
    assert not placed["handles"]["short"]
    face = page.get_by_role("region", name="Faceplate")
    face.get_by_label("Placed").click(force=True)
    page.locator(".ant-select-item-option").filter(has_text="before the cut").click()
    until(page, reel, "d.joins[0].end === v.joins[0].cut")
    face.get_by_label("Travels").click(force=True)
    page.locator(".ant-select-item-option").filter(has_text="upward").click()
    until(page, reel, "d.joins[0].settings.travels === 'upward'")
    page.get_by_role("button", name="Play this join").click()
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    page.get_by_role("button", name="Stop").click()
    face.get_by_role("button", name="Remove the macro").click()
    until(page, reel, "d.joins.length === 0")


@pytest.mark.parametrize(
    ("slug", "label", "typed", "tray", "made"),
    [
        ("quiet-luma", None, "", "Macros for this cut", "d.joins.length === 1"),
        ("relay-fault", "Hits", "7", "Macros for this shot", "d.shots[0].looks[0].settings.hits "
                                                             "=== 7"),
        ("letter-lamps", "Text", "Depot", "Clips and overlays", "d.items[0].use.settings.text "
                                                                "=== 'Depot'"),
        ("lamp-dust", "Drift", "0.5", "Clips and overlays", "d.items[0].use.settings.drift === 0.5"),
    ],
)  # fmt: skip
def test_a_macro_of_each_kind_comes_from_the_shelf_as_it_was_set(
    page: Page, reel: Any, slug: str, label: str | None, typed: str, tray: str, made: str
) -> None:
    visit(page, f"/shelf/{slug}")
    if label:
        page.get_by_label(label, exact=True).last.fill(typed)
        page.get_by_label(label, exact=True).last.press("Tab")
    page.get_by_role("button", name="Use on the reel").click()
    expect(page.get_by_role("heading", name="On which edit?")).to_be_visible()
    page.locator(f"a[href^='/reel/{reel['id']}?']").click()
    # It is the first in the tray, and a suitable place is selected.
    first = page.get_by_role("region", name=tray).locator(".Tray-trayGrid button").first
    first.click()
    until(page, reel, made)


def test_what_does_not_match_is_said_before_a_render(page: Page, server: Server, reel: Any) -> None:
    ids = {one["name"]: one["id"] for one in server.ask("GET", "/materials")["materials"]}
    change = {
        "do": "add-shot",
        "material": ids["Street lights, upright"],
        "name": "Upright",
        "length": 30,
    }
    small = {"do": "set-reel", "width": 320, "height": 180}
    for one in (change, small):
        base = server.ask("GET", f"/reels/{reel['id']}")["revision"]
        server.ask("POST", f"/reels/{reel['id']}/changes", {"base": base, "change": one})
    visit(page, f"/reel/{reel['id']}")
    page.get_by_role("button", name="Render", exact=True).click()
    dialog = page.get_by_role("dialog")
    expect(
        dialog.get_by_text(re.compile("The edit has another shape than Upright"))
    ).to_be_visible()
    dialog.get_by_label("Format").click(force=True)
    page.locator(".ant-select-item-option").filter(has_text="PNG pictures, 16 bits").click()
    dialog.get_by_role("button", name="Start the render").click()
    row = newest_render(page, server)
    expect(row).to_contain_text(re.compile("PNG pictures, 16 bits · .*150 frames"))
    row.get_by_role("button", name="Cancel").click()
    expect(row.get_by_text("Cancelled.")).to_be_visible()
    row.get_by_role("button", name="Render again").click()
    expect(row.get_by_role("link", name="Download")).to_be_visible(timeout=90_000)
    with page.expect_download() as download:
        row.get_by_role("link", name="Download").click()
    assert download.value.suggested_filename == "Two.zip"


def test_a_new_edit_takes_its_rate_and_size(page: Page, server: Server) -> None:
    visit(page, "/reel")
    page.get_by_role("button", name="New edit").click()
    expect(page.get_by_text("Put a shot on the strip to begin.")).to_be_visible()
    number = int(page.url.rsplit("/", 1)[1])
    page.get_by_label("Name of the edit").fill("Open day")
    page.get_by_label("Name of the edit").press("Enter")
    page.get_by_label("Frames a second").click(force=True)
    page.locator(".ant-select-item-option").filter(has_text="29.97").click()
    expect(page.get_by_text("29.97 fps").first).to_be_visible()
    found = server.ask("GET", f"/reels/{number}")
    assert (found["name"], found["rate"]) == ("Open day", "30000/1001")
    page.get_by_label("Frame width").fill("2")
    page.get_by_label("Frame width").press("Enter")
    expect(
        page.get_by_text("The edit is not valid at width: it must be at least 16. It got 2.")
    ).to_be_visible()


def test_changes_of_an_edit_wait_for_a_server_that_is_gone(
    page: Page, server: Server, reel: Any
) -> None:
    visit(page, f"/reel/{reel['id']}")
    name = page.get_by_label("Name of the edit")
    expect(name).to_have_value("Two")
    server.kill()
    name.fill("Three")
    name.press("Enter")
    expect(page.get_by_text(re.compile("does not answer; 1 change waits"))).to_be_visible()
    width = page.get_by_label("Frame width")
    width.fill("480")
    width.press("Enter")
    expect(page.get_by_text(re.compile("2 changes wait"))).to_be_visible()
    server.start()
    expect(page.get_by_text(re.compile("does not answer"))).to_be_hidden()
    expect(page.get_by_text("saving…")).to_be_hidden()
    kept = server.ask("GET", f"/reels/{reel['id']}")
    assert (kept["name"], kept["width"]) == ("Three", 480)
