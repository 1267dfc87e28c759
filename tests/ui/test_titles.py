"""Titles, fonts and colour decisions through the interface."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from pale_static.core.lettering import shipped

from ..server import Server
from .conftest import visit
from .test_whole_job import add_step, search, value


def drawn(page: Page, draft: str) -> float:
    """The sum of the title's alpha over the frame."""
    return float(
        page.evaluate(
            """async (draft) => {
              const head = await (await fetch(`/api/effects/${draft}`)).json();
              const path = `/api/effects/${draft}/${head.revision}/frame.png`;
              const blob = await (await fetch(`${path}?width=160&height=90`)).blob();
              const picture = await createImageBitmap(blob);
              const canvas = new OffscreenCanvas(160, 90).getContext("2d");
              canvas.drawImage(picture, 0, 0);
              const bytes = canvas.getImageData(0, 0, 160, 90).data;
              let total = 0;
              for (let k = 3; k < bytes.length; k += 4) total += bytes[k];
              return total / 255;
            }""",
            draft,
        )
    )


def test_a_title_is_set_in_a_font_of_ones_own(page: Page, server: Server, tmp_path: Path) -> None:
    path = tmp_path / "depot-hand.ttf"
    path.write_bytes(shipped("Caveat", "bold").data)
    visit(page, "/materials")
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Bring in files").click()
    chooser.value.set_files(path)
    expect(page.get_by_text(re.compile(r"font · Caveat Bold · \d+ glyphs"))).to_be_visible()

    visit(page, "/bench")
    page.get_by_role("button", name="New title").click()
    card = page.locator("article[aria-label='Title in Lettering']")
    expect(card).to_be_visible()
    draft = page.url.rsplit("/", 1)[1]
    before = drawn(page, draft)
    assert before > 100
    # The text is a control from the start: it is changed on the faceplate.
    page.get_by_role("tab", name=re.compile("Faceplate 1")).click()
    text = page.get_by_role("tabpanel").get_by_label("Text", exact=True)
    text.fill("Last tram\nto the depot")
    text.blur()
    card.locator(".StepCard-stepName").click()
    font = value(page, "font").locator(".ant-select")  # type: ignore[attr-defined]
    font.click()
    page.locator(".ant-select-dropdown:visible .ant-select-item-option").get_by_text(
        "depot-hand"
    ).click()
    expect(font).to_contain_text("depot-hand")
    after = drawn(page, draft)
    assert after > 20
    assert after != before

    # The card names the missing character, and everything else works on.
    text.fill("Tram 漢")
    text.blur()
    expect(card.get_by_text(re.compile("has no “漢”"))).to_be_visible()
    text.fill("Tram")
    text.blur()
    expect(card.get_by_text(re.compile("has no"))).to_be_hidden()


def test_a_cdl_file_is_read_into_a_balance_and_saved_again(
    page: Page, server: Server, tmp_path: Path
) -> None:
    path = tmp_path / "dusk.cc"
    path.write_text(
        "<ColorCorrection id='d'><SOPNode><Slope>1.3 1 0.7</Slope></SOPNode></ColorCorrection>"
    )
    visit(page, "/bench")
    page.get_by_role("button", name="New look").click()
    add_step(page, "Out", "grade", "Balance")
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Read .cdl or .cc").click()
    chooser.value.set_files(path)
    field = value(page, "slope_blue").locator("input.NumberField-numberField")  # type: ignore[attr-defined]
    expect(field).to_have_value("0.7")
    page.get_by_role("tab", name="History").click()
    expect(page.get_by_text("Balance: from dusk.cc")).to_be_visible()
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save .cc").click()
    assert "<Slope>1.3 1 0.7</Slope>" in Path(saved.value.path()).read_text()

    path.write_text("no colours here")
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Read .cdl or .cc").click()
    chooser.value.set_files(path)
    expect(page.get_by_text("dusk.cc is not a CDL file: it is not XML.")).to_be_visible()


def test_a_choice_of_pictures_offers_one_more_at_a_time(page: Page, server: Server) -> None:
    visit(page, "/bench")
    page.get_by_role("button", name="New transition").click()
    page.get_by_role("region", name="Lane Out").get_by_role("button", name="Add a step").click()
    search(page, "choose")
    card = page.locator("article[aria-label='Choose in Out']")
    expect(card.get_by_role("button", name=re.compile("^second:"))).to_be_visible()
    expect(card.get_by_role("button", name=re.compile("^third:"))).to_be_hidden()
    card.get_by_role("button", name=re.compile("^second:")).click()
    page.locator(".InputPicker-inputPicker .InputPicker-choice").filter(has_text="To, Slot").click()
    expect(card.get_by_role("button", name="second: To")).to_be_visible()
    expect(card.get_by_role("button", name=re.compile("^third:"))).to_be_visible()
