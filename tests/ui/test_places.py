"""The five places in the browser; results are read from pixels or the API."""

from __future__ import annotations

import re
import time
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from pale_static.media.pictures.stills import encode_png

from ..server import Server
from .conftest import answers, at_first_frame, still, to_place
from .test_whole_job import menu, set_number, value

SUM = """() => {
  const c = document.querySelector('[data-testid=screen]');
  if (!c || !c.width) return 0;
  const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;
  let s = 0;
  for (let i = 0; i < d.length; i += 97) s = (s * 31 + d[i]) % 1000000007;
  return s;
}"""


TONES = """() => {
  const small = new OffscreenCanvas(16, 9).getContext('2d');
  small.imageSmoothingQuality = 'high';
  small.drawImage(document.querySelector('[data-testid=screen]'), 0, 0, 16, 9);
  return [...small.getImageData(0, 0, 16, 9).data];
}"""
"""The monitor's picture in few pixels: it is the same at rest, when there are more pixels."""


def looks_like(page: Page, tones: list[int]) -> None:
    """Wait until the monitor shows a picture of these tones, of any size."""
    page.wait_for_function(f"""tones => {{
      const apart = ({TONES})().map((tone, k) => Math.abs(tone - tones[k]));
      return apart.reduce((sum, one) => sum + one) < 4 * apart.length;
    }}""", arg=tones)  # fmt: skip


def changed(page: Page, before: int) -> int:
    """Wait until the monitor's picture changes; returns its checksum."""
    page.wait_for_function(
        f"before => {{ const s = ({SUM})(); return s && s !== before; }}", arg=before, polling=50
    )
    return int(page.evaluate(SUM))


def settled(page: Page) -> int:
    """The checksum of the monitor's picture after it has not changed for most of a second."""
    last, still = int(page.evaluate(SUM)), 0
    while still < 4:
        page.wait_for_timeout(200)
        now = int(page.evaluate(SUM))
        still = still + 1 if now == last else 0
        last = now
    return last


def open_bench(page: Page, server: Server, macro: str = "ember-fray") -> Any:
    draft = server.ask("POST", "/effects", {"macro": macro, "version": 1})
    at_first_frame(page, draft["id"])
    to_place(page, f"/bench/{draft['id']}")
    expect(page.get_by_role("region", name="Lane Out")).to_be_visible()
    changed(page, 0)
    return draft


def now(server: Server, draft: Any) -> Any:
    return server.ask("GET", f"/effects/{draft['id']}")


def test_every_place_has_its_address_and_reload_comes_back(page: Page) -> None:
    page.goto("/")
    for name in ("Bench", "Reel", "Renders", "Materials", "Shelf"):
        page.get_by_role("link", name=name, exact=True).click()
        expect(page).to_have_url(re.compile(f"/{name.lower()}$"))
        page.reload()
        expect(page.get_by_role("link", name=name, exact=True)).to_have_class(re.compile("active"))
    page.get_by_role("button", name="Pale or dim").click()
    ground = "getComputedStyle(document.body).backgroundColor"
    assert page.evaluate(ground) == "rgb(35, 38, 37)"
    page.reload()
    page.wait_for_function(f"{ground} === 'rgb(35, 38, 37)'")
    page.get_by_role("button", name="Pale or dim").click()


def test_an_effect_opens_at_its_middle_then_where_one_left_it(page: Page, server: Server) -> None:
    draft = server.ask("POST", "/effects", {"macro": "ember-fray", "version": 1})
    page.goto(f"/bench/{draft['id']}")
    playhead = page.get_by_role("slider", name="Playhead")
    # At its first frame a transition shows only the first clip.
    expect(playhead).to_have_attribute("aria-valuenow", "25")
    page.locator("[data-place='out.luma-wipe'] .StepCard-stepName").click()
    page.get_by_text("This step", exact=True).click()
    page.get_by_role("tab", name="Faceplate").click()
    playhead.focus()
    page.keyboard.press("Shift+ArrowLeft")
    leave = [page.reload, lambda: (page.get_by_role("link", name="Shelf", exact=True).click(),
                                   expect(page.get_by_role("heading", name="Shelf")).to_be_visible(),
                                   page.go_back())]  # fmt: skip
    for away in leave:
        away()
        expect(playhead).to_have_attribute("aria-valuenow", "15")
        expect(page.locator(".StepCard-step.selected")).to_have_attribute(
            "data-place", "out.luma-wipe"
        )
        expect(page.get_by_role("tab", name="Faceplate", selected=True)).to_be_visible()
        expect(page.get_by_role("tab", name="This step", selected=True)).to_be_visible()


def test_an_edit_opens_where_one_left_it(page: Page) -> None:
    page.goto("/reel/3")
    page.get_by_role("button", name="Shot Depot hall").click()
    face = page.get_by_role("region", name="Shot", exact=True)
    expect(face).to_contain_text("Depot hall")
    at = page.get_by_label("Go to timecode").input_value()
    assert at != "00:00:00:00"
    page.reload()
    expect(face).to_contain_text("Depot hall")
    expect(page.get_by_label("Go to timecode")).to_have_value(at)


def test_a_slider_is_shown_while_it_moves_and_kept_when_let_go(page: Page, server: Server) -> None:
    draft = open_bench(page, server)
    page.get_by_role("slider", name="Playhead").focus()
    for _ in range(2):
        page.keyboard.press("Shift+ArrowRight")
    before = changed(page, 0)
    page.locator("[data-place='out.luma-wipe'] .StepCard-stepName").click()
    slider = value(page, "rim_softness").locator("[type=range]")  # type: ignore[attr-defined]
    box = slider.bounding_box()
    page.mouse.move(box["x"] + 8, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.8, box["y"] + box["height"] / 2, steps=4)
    changed(page, before)
    assert now(server, draft)["revision"] == draft["revision"]
    page.mouse.up()
    answers(page, f"/api/effects/{draft['id']}", f"d.revision > {draft['revision']}")
    wipe = now(server, draft)["effect"]["lanes"][-1]["steps"][1]
    assert wipe["values"]["rim_softness"] == pytest.approx(0.24, abs=0.03)


def test_undo_and_redo_survive_a_reload_and_history_goes_back(page: Page, server: Server) -> None:
    draft = open_bench(page, server)
    page.locator("[data-place='fray.noise'] .StepCard-stepName").click()
    set_number(page, "octaves", "2")
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    page.reload()
    # The step that was open is open again.
    page.get_by_role("button", name="Undo").click()
    expect(value(page, "octaves").locator("input.NumberField-numberField")).to_have_value("6")  # type: ignore[attr-defined]
    page.locator("body").click(position={"x": 700, "y": 20})
    page.keyboard.press("Control+Shift+z")
    expect(value(page, "octaves").locator("input.NumberField-numberField")).to_have_value("2")  # type: ignore[attr-defined]
    page.get_by_role("tab", name="History").click()
    page.get_by_role("button", name=re.compile("go back to this")).last.click()
    expect(page.get_by_text(re.compile("Back to “"))).to_be_visible()
    noise = now(server, draft)["effect"]["lanes"][3]["steps"][0]
    assert noise["values"]["octaves"] == 6


def test_an_input_is_chosen_by_its_picture_tried_on_hover_and_never_closes_a_loop(
    page: Page, server: Server
) -> None:
    draft = open_bench(page, server)
    page.get_by_role("slider", name="Playhead").focus()
    with page.expect_response(re.compile(r"frame\.jpg\?.*frame=20")):
        for _ in range(2):
            page.keyboard.press("Shift+ArrowRight")
    settled(page)
    plain = page.evaluate(TONES)
    wipe = page.locator("[data-place='out.luma-wipe']")
    wipe.get_by_role("button", name=re.compile("matte")).click()
    dialog = page.get_by_role("dialog")
    # Every step of the effect is listed with its picture.
    expect(dialog.locator(".InputPicker-choice canvas:visible")).to_have_count(8)
    choice = dialog.get_by_role("button", name=re.compile("Direction, Ramp"))
    sharp = page.get_by_test_id("screen").get_attribute("data-pixels")
    choice.hover()
    # A coarse picture may come first.
    page.wait_for_function(f"""([plain, sharp]) => {{
      const apart = ({TONES})().map((tone, k) => Math.abs(tone - plain[k]));
      const {{ pixels }} = document.querySelector('[data-testid=screen]').dataset;
      return pixels === sharp && apart.reduce((sum, one) => sum + one) > 10 * apart.length;
    }}""", arg=[plain, sharp])  # fmt: skip
    tried = page.evaluate(TONES)
    assert now(server, draft)["revision"] == draft["revision"]
    expect(dialog.get_by_role("button", name=re.compile("Out, Luma wipe"))).to_be_disabled()
    choice.click()
    expect(wipe.get_by_text("matte: Direction, luminance")).to_be_visible()
    # Choosing it shows the same picture as hovering.
    looks_like(page, tried)
    source = now(server, draft)["effect"]["lanes"][-1]["steps"][1]["inputs"]["matte"]
    assert (source["lane"], source["step"]) == ("direction", None)


def test_this_step_shows_the_selected_step_on_the_monitor(page: Page, server: Server) -> None:
    open_bench(page, server)
    result = changed(page, 0)
    page.locator("[data-place='direction.ramp'] .StepCard-stepName").click()
    page.get_by_role("tab", name="This step").click()
    changed(page, result)
    levels = page.evaluate(
        """() => { const c = document.querySelector('[data-testid=screen]');
        const g = c.getContext('2d');
        return [0.1, 0.5, 0.9].map(x => g.getImageData(c.width * x, c.height / 2, 1, 1).data[0]); }"""
    )
    assert levels == pytest.approx([25, 128, 230], abs=6)


def test_playing_moves_the_playhead_and_stops(page: Page, server: Server) -> None:
    open_bench(page, server, "quiet-luma")
    playhead = page.get_by_role("slider", name="Playhead")
    page.locator("body").click(position={"x": 700, "y": 20})
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    page.wait_for_function(
        "() => "
        "Number(document.querySelector('[aria-label=Playhead]').getAttribute('aria-valuenow')) > 3"
    )
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    stopped = playhead.get_attribute("aria-valuenow")
    page.wait_for_timeout(300)
    assert playhead.get_attribute("aria-valuenow") == stopped
    page.keyboard.press("End")
    expect(playhead).to_have_attribute("aria-valuenow", "24")


def test_an_end_anchored_key_stays_at_the_end_at_another_length(page: Page, server: Server) -> None:
    draft = open_bench(page, server)
    page.locator("[data-place='out.luma-wipe'] .StepCard-stepName").click()
    page.get_by_role("option", name=re.compile("progress")).click()
    page.get_by_label("Key 2: anchored to").click(force=True)
    page.locator(".ant-select-item-option").filter(has_text="from the end").click()
    answers(
        page, f"/api/effects/{draft['id']}",
        "d.effect.lanes.at(-1).steps[1].values.progress.keys[1].anchor === 'end'",
    )  # fmt: skip
    keys = now(server, draft)["effect"]["lanes"][-1]["steps"][1]["values"]["progress"]["keys"]
    assert (keys[1]["anchor"], keys[1]["time"]) == ("end", 0)
    page.get_by_role("button", name="100", exact=True).click()
    page.get_by_role("slider", name="Playhead").focus()
    page.keyboard.press("End")
    expect(value(page, "progress").locator("input.NumberField-numberField")).to_have_value("1")  # type: ignore[attr-defined]


def test_a_faceplate_is_named_ranged_and_tried(page: Page, server: Server) -> None:
    draft = open_bench(page, server)
    page.get_by_role("tab", name=re.compile("Faceplate")).click()
    page.get_by_label("Name of Softness").fill("Edge")
    page.get_by_label("Name of Softness").press("Enter")
    page.get_by_role("button", name="Edge: all of it").click()
    page.get_by_label("Edge: slider to").fill("0.5")
    page.get_by_label("Edge: slider to").press("Enter")
    answers(page, f"/api/effects/{draft['id']}", "d.effect.controls[0].slider[1] === 0.5")
    page.get_by_role("switch", name="Try it").click()
    expect(page.get_by_label("Name of Edge")).to_be_hidden()
    expect(page.get_by_label("Edge", exact=True)).to_be_visible()


def test_adding_a_step_finds_it_by_need_and_shows_it_applied(page: Page, server: Server) -> None:
    open_bench(page, server)
    page.locator("[data-place='fray.noise'] .StepCard-stepName").click()
    page.locator("body").click(position={"x": 700, "y": 20})
    page.keyboard.press("/")
    dialog = page.get_by_role("dialog", name="Add a step")
    for words, first in (
        ("make it negative", "Invert"),
        ("soften", "Blur"),
        ("silhouette", "Threshold"),
    ):
        dialog.get_by_role("combobox").fill(words)
        expect(dialog.get_by_role("option").first).to_contain_text(first)
    expect(dialog.get_by_role("option").first.locator("canvas")).to_be_visible()
    dialog.get_by_role("combobox").fill("teapot")
    expect(dialog.get_by_text("No step does that.")).to_be_visible()
    page.keyboard.press("Escape")
    expect(dialog).to_be_hidden()


def test_what_is_refused_is_told_and_nothing_changes(page: Page, server: Server) -> None:
    draft = open_bench(page, server)
    page.locator("[data-place='fray.noise'] .StepCard-stepName").click()
    set_number(page, "octaves", "40")
    expect(page.get_by_text("octaves lies between 1 and 10. It got 40.")).to_be_visible()
    expect(value(page, "octaves").locator("input.NumberField-numberField")).to_have_value("6")  # type: ignore[attr-defined]
    set_number(page, "octaves", "lots")
    expect(value(page, "octaves").locator("input.NumberField-numberField")).to_have_value("6")  # type: ignore[attr-defined]
    assert now(server, draft)["revision"] == draft["revision"]


def test_a_step_without_its_input_says_so_and_stops_publishing(page: Page, server: Server) -> None:
    open_bench(page, server)
    page.get_by_role("button", name="Lane Direction: more").click()
    page.get_by_role("menuitem", name="Remove lane").click()
    blend = page.locator("[data-place='fray.blend']")
    expect(blend.get_by_role("button", name=re.compile("over: choose a source"))).to_be_visible()
    page.get_by_role("button", name=re.compile("Publish version")).click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_text("Fray · Blend needs a source for “over”.")).to_be_visible()
    expect(dialog.get_by_role("button", name=re.compile("Publish version"))).to_be_disabled()


def test_materials_are_dropped_in_and_broken_ones_refused(page: Page, tmp_path: Path) -> None:
    Image.fromarray(np.full((30, 40, 3), 90, np.uint8)).save(tmp_path / "card.png")
    (tmp_path / "broken.mp4").write_text("no film")
    page.goto("/materials")
    for name in ("card.png", "broken.mp4"):
        with page.expect_file_chooser() as chooser:
            page.get_by_role("button", name="Bring in files").click()
        chooser.value.set_files(tmp_path / name)
    expect(page.get_by_label("Name of card", exact=True)).to_be_visible()
    expect(
        page.get_by_text("broken.mp4 is neither a picture, a video, a font nor a lookup table.")
    ).to_be_visible()
    row = page.locator("tr").filter(has=page.get_by_label("Name of card", exact=True))
    expect(row).to_contain_text("40×30")
    row.get_by_role("button", name="Remove").click()
    expect(row).to_be_hidden()
    page.get_by_text("Put it back").click()
    expect(row).to_be_visible()


def test_a_macro_is_handed_over_and_brought_in(page: Page, server: Server, tmp_path: Path) -> None:
    page.goto("/shelf/quiet-luma")
    before = changed(page, 0)
    hand_over = page.get_by_role("button", name="Hand over as a file")
    hand_over.click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Macro file (.palemacro)").click()
    path = tmp_path / "quiet.palemacro"
    download.value.save_as(path)
    assert path.read_bytes()[:2] == b"PK"
    # It depends on its clips, which one picture cannot hold.
    hand_over.click()
    page.get_by_role("menuitem", name="Wipe picture for other systems").click()
    expect(
        page.get_by_text("depends on what they show. One picture cannot hold that")
    ).to_be_visible(timeout=60_000)
    page.get_by_role("switch", name="Bright parts first").click()
    changed(page, before)
    page.goto("/shelf")
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Bring in a file").click()
    chooser.value.set_files(path)
    expect(page.get_by_text("Quiet Luma, version 1, is on the shelf already.")).to_be_visible()
    bad = tmp_path / "bad.palemacro"
    bad.write_bytes(encode_png(np.zeros((2, 2, 3), np.uint8)))
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Bring in a file").click()
    chooser.value.set_files(bad)
    expect(page.get_by_text("is not a .palemacro package")).to_be_visible()


def test_the_tray_tries_on_and_a_join_is_stretched_and_mended(page: Page, server: Server) -> None:
    page.goto("/reel/3")
    page.get_by_role("button", name=re.compile("^Ember Fray ·")).click()
    tray = page.get_by_role("region", name="Macros for this cut")
    macro = tray.get_by_role("button", name=re.compile("^Quiet Luma"))
    expect(macro.locator("canvas")).to_be_visible()
    shown, drawn = macro.locator("canvas").element_handle(), "one => one.toDataURL()"
    still = page.evaluate(drawn, shown)
    macro.hover()
    page.wait_for_function(f"([one, still]) => ({drawn})(one) !== still", arg=[shown, still])
    # Dragging the join's edge stretches it around its cut.
    grip = page.locator(".Strip-join.selected .Strip-grip.Strip-tail")
    box = grip.bounding_box()
    assert box
    page.mouse.move(box["x"] + 4, box["y"] + 40)
    page.mouse.down()
    page.mouse.move(box["x"] + 60, box["y"] + 40, steps=5)
    page.mouse.up()
    answers(page, "/api/reels/3", "d.joins[1].end - d.joins[1].first > 44")
    face = page.get_by_role("region", name="Faceplate")
    expect(face.get_by_text("What helps")).to_be_visible()
    face.get_by_role("button", name=re.compile("Shorten to")).click()
    expect(face.get_by_text("What helps")).to_be_hidden()
    assert not server.ask("GET", "/reels/3")["joins"][1]["handles"]["short"]
    face.get_by_label("Softness", exact=True).fill("50")
    face.get_by_label("Softness", exact=True).press("Enter")
    expect(page.get_by_text("“Softness” lies between 0 and 4. It got 50.")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(face.get_by_text("What helps")).to_be_visible()
    page.get_by_role("button", name="Undo").click()


def test_every_control_has_a_name_and_the_keyboard_reaches_them(page: Page) -> None:
    for path in ("/shelf", "/shelf/quiet-luma", "/bench", "/bench/2", "/reel/3", "/materials"):
        page.goto(path)
        page.wait_for_function(
            "() => document.querySelectorAll('main button, main input').length > 4"
        )
        still(page)
        nameless = page.evaluate(
            """() => [...document.querySelectorAll('button, a[href], input, [role=slider], [role=switch]')]
            .filter(e => e.offsetParent && !e.closest('[aria-hidden]') && e.getAttribute('aria-hidden') === null)
            .filter(e => !(e.getAttribute('aria-label') || e.textContent.trim() || e.title
                || e.closest('label')?.textContent.trim()))
            .map(e => e.outerHTML.slice(0, 160))"""
        )
        assert nameless == [], path
        seen = set()
        for _ in range(25):
            page.keyboard.press("Tab")
            focused, outline = page.evaluate(
                """() => { const e = document.activeElement, html = e.outerHTML.slice(0, 160);
                if (e === document.body) return [html, 'at the end'];
                const around = [e, e.parentElement, e.closest('.ant-select, .ant-input-affix-wrapper')];
                return [html, around.filter(Boolean).map(n => { const c = getComputedStyle(n);
                  return [c.outlineStyle, c.boxShadow, c.borderBottomStyle].join(' '); }).join(' ')]; }"""
            )
            seen.add(focused)
            assert set(outline.split()) != {"none"}, (path, focused)
        assert len(seen) > 8, path


def test_menus_work_without_a_mouse(page: Page, server: Server) -> None:
    draft = open_bench(page, server)
    page.locator("[data-place='fray.levels'] .StepCard-stepName").focus()
    page.keyboard.press("Enter")
    menu(page, page.locator("[data-place='fray.levels'] .StepCard-stepHead"), "Turn off")
    expect(page.get_by_text("Levels · off")).to_be_visible()
    page.locator("body").click(position={"x": 700, "y": 20})
    page.keyboard.press("o")
    expect(page.get_by_text("Levels · off")).to_be_hidden()
    # It is shown at once, and saved a moment later.
    answers(page, f"/api/effects/{draft['id']}", "d.effect.lanes[3].steps[2].on === true")


def test_a_formula_sets_a_value_and_says_what_it_comes_to(page: Page, server: Server) -> None:
    draft = open_bench(page, server)
    page.locator("[data-place='fray.levels'] .StepCard-stepName").click()
    menu(page, value(page, "gamma"), "Formula")
    field = page.get_by_label("gamma: formula")
    field.fill("1 + control.softness * 10")
    field.press("Enter")
    expect(value(page, "gamma").get_by_text("= 1.3")).to_be_visible()  # type: ignore[attr-defined]
    field.fill("1 + wobble")
    field.press("Enter")
    told = re.compile("A formula knows no “wobble” at character 5")
    expect(page.get_by_role("region", name="Lane Fray").get_by_text(told)).to_be_visible()
    levels = now(server, draft)["effect"]["lanes"][3]["steps"][2]
    assert levels["values"]["gamma"] == {"formula": "1 + control.softness * 10"}


def test_a_server_that_is_gone_is_told_and_nothing_is_lost(page: Page, server: Server) -> None:
    draft = open_bench(page, server)
    page.locator("[data-place='fray.noise'] .StepCard-stepName").click()
    set_number(page, "octaves", "3")
    answers(page, f"/api/effects/{draft['id']}", f"d.revision > {draft['revision']}")
    server.kill()
    set_number(page, "octaves", "9")
    # Pictures fail as well; what counts is that the change is known to wait.
    told = re.compile(r"Pale Static does not answer; \d changes? waits?")
    expect(page.get_by_text(told)).to_be_visible()
    server.start()
    # The server is back, and the waiting change is saved.
    expect(page.get_by_text(re.compile(r"saved \d"))).to_be_visible(timeout=15_000)
    noise = now(server, draft)["effect"]["lanes"][3]["steps"][0]
    assert noise["values"]["octaves"] == 9
    # The same after leaving the place meanwhile.
    server.kill()
    set_number(page, "octaves", "2")
    expect(page.get_by_text(re.compile("1 change waits"))).to_be_visible()
    page.get_by_role("link", name="Shelf").click()
    expect(page.get_by_role("region", name="Lane Out")).to_be_hidden()
    server.start()
    end = time.monotonic() + 30
    while now(server, draft)["effect"]["lanes"][3]["steps"][0]["values"]["octaves"] != 2:
        assert time.monotonic() < end
        time.sleep(0.1)
