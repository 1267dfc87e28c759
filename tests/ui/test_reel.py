"""Any macro on any clip: dropped, set, played and rendered; checked by pixels and samples."""

from __future__ import annotations

import io
import json
import re
import urllib.request
import wave
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from ..server import Server
from .conftest import answers, newest_render, to_place

SIZE = (96, 54)


class Edit:
    """An edit of three shots on the server, and its pixels and samples."""

    def __init__(self, server: Server, page: Page) -> None:
        self.server, self.page = server, page
        ids = {one["name"]: one["id"] for one in server.ask("GET", "/materials")["materials"]}
        self.ids = ids
        view = server.ask("POST", "/reels", {"name": "Any", "width": 320, "height": 180})
        self.number = view["id"]
        for name in ("Depot hall", "Ticket", "Route map"):
            self.change(do="add-shot", material=ids[name], name=name, start=20, length=50)

    def open(self) -> None:
        to_place(self.page, f"/reel/{self.number}")
        shot = self.page.get_by_role("button", name=re.compile("^Shot Depot hall, "))
        expect(shot).to_be_visible()

    @property
    def view(self) -> Any:
        return self.server.ask("GET", f"/reels/{self.number}")

    def change(self, **change: Any) -> Any:
        body = {"base": self.view["revision"], "change": change}
        return self.server.ask("POST", f"/reels/{self.number}/changes", body)

    def until(self, test: str) -> None:
        answers(self.page, f"/api/reels/{self.number}", test)

    def get(self, path: str) -> bytes:
        view = self.view
        address = f"{self.server.address}/api/reels/{self.number}/{view['revision']}/{path}"
        with urllib.request.urlopen(address, timeout=60) as answer:
            return bytes(answer.read())

    def pixels(self, frame: int, size: tuple[int, int] = SIZE) -> Any:
        data = self.get(f"frame.png?frame={frame}&width={size[0]}&height={size[1]}")
        return np.asarray(Image.open(io.BytesIO(data)).convert("RGB")).astype(int)

    def sound(self, frame: int, frames: int) -> Any:
        with wave.open(io.BytesIO(self.get(f"sound.wav?frame={frame}&frames={frames}"))) as file:
            data = file.readframes(file.getnframes())
        return np.frombuffer(data, "<i2").reshape(-1, 2) / 32767

    def tray(self, name: str) -> Any:
        region = self.page.get_by_role("region", name=name)
        expect(region).to_be_visible()
        return region

    def place(self, region: str, macro: str) -> None:
        self.tray(region).get_by_role("button", name=re.compile(f"^{macro}")).click()


@pytest.fixture
def edit(server: Server, page: Page) -> Edit:
    return Edit(server, page)


def apart(one: Any, two: Any) -> float:
    return float(np.abs(one - two).mean())


def test_a_look_is_dropped_on_a_shot_set_switched_off_and_stacked(page: Page, edit: Edit) -> None:
    edit.open()
    plain, other = edit.pixels(20), edit.pixels(70)
    page.get_by_role("button", name="Shot Depot hall").click()
    edit.place("Macros for this shot", "Overprint")
    edit.until("d.shots[0].looks.length === 1")
    face = page.get_by_role("region", name="Faceplate")
    expect(face.get_by_role("heading", name="Overprint")).to_be_visible()
    printed = edit.pixels(20)
    assert apart(printed, plain) > 20
    # It lies on its own shot only.
    assert apart(edit.pixels(70), other) == 0
    # Two inks on cream: the brightest is the paper.
    assert np.percentile(printed[..., 2], 95) < 235
    face.get_by_label("Dots", exact=True).fill("4")
    face.get_by_label("Dots", exact=True).press("Enter")
    edit.until("d.shots[0].looks[0].settings.dots === 4")
    assert apart(edit.pixels(20), printed) > 3
    # A second one lies on top of the first.
    edit.place("Macros for this shot", "Worn Tape")
    edit.until("d.shots[0].looks.length === 2")
    page.get_by_role("button", name="Overprint on Depot hall", exact=True).click()
    face.get_by_role("switch", name=re.compile("Overprint on or off")).click()
    edit.until("!d.shots[0].looks[0].on")
    worn = edit.pixels(20)
    assert 0 < apart(worn, plain) < apart(printed, plain)
    # The look gets its own stretch: before it the shot is plain.
    page.get_by_role("button", name=re.compile("^Worn Tape on Depot hall")).click()
    face.get_by_label("Begins after").fill("30")
    face.get_by_label("Begins after").press("Enter")
    edit.until("d.shots[0].looks[1].begin === 30")
    assert apart(edit.pixels(20), plain) == 0
    assert apart(edit.pixels(40), plain) > 1


def test_a_title_is_typed_placed_and_taken_off(page: Page, edit: Edit) -> None:
    edit.open()
    plain = edit.pixels(40)
    page.get_by_label("Playhead").focus()
    page.get_by_text("Over the shots", exact=True).click()
    edit.place("Clips and overlays", "Late Focus")
    edit.until("d.items.length === 1")
    face = page.get_by_role("region", name="Faceplate")
    text = face.get_by_label("Text", exact=True)
    text.fill("Platform two")
    text.blur()
    edit.until("d.items[0].use.settings.text === 'Platform two'")
    titled = edit.pixels(40)
    # Letters in the title's colour lie over the shot; elsewhere there is only the shot.
    lit = np.abs(titled - plain).max(-1) > 30
    assert 0.02 < lit.mean() < 0.4
    assert apart(titled[:8], plain[:8]) == 0
    # After the title's end there is only the shot.
    item = edit.view["items"][0]
    after = edit.pixels(item["begins"] + item["length"])
    across = face.get_by_label("Down", exact=True)
    across.fill("0.8")
    across.press("Enter")
    edit.until("d.items[0].position[1] === 0.8")
    lower = np.abs(edit.pixels(40) - plain).max(-1) > 30
    rows = np.arange(SIZE[1])
    assert (lower.sum(1) * rows).sum() / lower.sum() > (lit.sum(1) * rows).sum() / lit.sum() + 8
    # Dragging it along its row keeps its length.
    block = page.get_by_role("button", name=re.compile("^Late Focus, Late Focus"))
    box = block.bounding_box()
    assert box
    page.mouse.move(box["x"] + 40, box["y"] + 10)
    page.mouse.down()
    page.mouse.move(box["x"] + 140, box["y"] + 10, steps=6)
    page.mouse.up()
    edit.until("d.items[0].begins > 5 && d.items[0].length === 80")
    page.keyboard.press("Delete")
    edit.until("d.items.length === 0")
    assert apart(edit.pixels(40), plain) == 0
    assert apart(edit.pixels(item["begins"] + item["length"]), after) == 0


def test_a_texture_and_a_look_lie_over_all_below_between_the_marks(page: Page, edit: Edit) -> None:
    edit.open()
    plain = [edit.pixels(frame) for frame in (30, 60, 110)]
    # Marks in and out by typed timecode and by keys.
    goto = page.get_by_label("Go to timecode")
    for code, key, test in (("1:15", "[", "d.mark_in === 40"), ("3:04", "]", "d.mark_out === 80")):
        goto.fill(code)
        goto.press("Enter")
        page.keyboard.press(key)
        edit.until(test)
    page.get_by_text("Over the shots", exact=True).click()
    edit.place("Clips and overlays", "Lamp Dust")
    edit.until("d.items[0] && d.items[0].begins === 40 && d.items[0].length === 40")
    # The page selects the new item once it has the answer.
    edit.tray("Macros for this item")
    page.keyboard.press("Escape")
    edit.place("Clips and overlays", "Bulge Split")
    edit.until("d.items.length === 2 && d.items[1].kind === 'look' && d.items[1].row === 1")
    now = [edit.pixels(frame) for frame in (30, 60, 110)]
    assert apart(now[0], plain[0]) == 0
    assert apart(now[1], plain[1]) > 1
    assert apart(now[2], plain[2]) == 0


def test_joins_go_on_several_cuts_at_once_and_at_free_ends(page: Page, edit: Edit) -> None:
    edit.open()
    first, last = edit.pixels(0), edit.pixels(149)
    page.get_by_role("button", name="Cut between Depot hall and Ticket").click()
    page.get_by_role("button", name="Cut between Ticket and Route map").click(modifiers=["Shift"])
    edit.place("Macros for these 2 cuts", "Inked Ticket")
    edit.until("d.joins.length === 2")
    face = page.get_by_role("region", name="Faceplate")
    expect(face.get_by_text("2 together")).to_be_visible()
    before = edit.view["joins"]
    for slug in edit.view["macros"][0]["controls"]:
        if slug["type"] == "number":
            field = face.get_by_label(slug["label"], exact=True)
            field.fill("3")
            field.press("Enter")
            edit.until(f"d.joins.every(j => j.settings['{slug['slug']}'] === 3)")
            break
    assert [join["macro"] for join in before] == ["inked-ticket"] * 2
    # In from nothing: it begins black and ends with the shot.
    page.get_by_role("button", name="Depot hall, at its beginning").click()
    edit.place("Macros for this cut", "Quiet Luma")
    edit.until("d.joins.some(j => !j.left)")
    page.get_by_role("button", name="Route map, at its end").click()
    edit.place("Macros for this cut", "Fog Bell")
    edit.until("d.joins.some(j => !j.right)")
    assert edit.pixels(0).max() == 0
    assert edit.pixels(149).max() == 0
    assert first.max() > 60
    assert last.max() > 60


def test_the_strip_is_cut_trimmed_rolled_and_copied(page: Page, edit: Edit) -> None:
    edit.open()
    seen = [edit.pixels(frame) for frame in (0, 30, 75, 120)]
    goto = page.get_by_label("Go to timecode")
    goto.fill("1:05")
    goto.press("Enter")
    page.keyboard.press("x")
    edit.until("d.shots.length === 4 && d.shots[1].begins === 30")
    for frame, before in zip((0, 30, 75, 120), seen, strict=True):
        assert apart(edit.pixels(frame), before) == 0
    # Rolling the cut moves it, and nothing else.
    cut = page.get_by_role("button", name="Cut between Depot hall and Ticket").bounding_box()
    assert cut
    page.mouse.move(cut["x"] + 12, cut["y"] + 40)
    page.mouse.down()
    page.mouse.move(cut["x"] + 12 - 40, cut["y"] + 40, steps=5)
    page.mouse.up()
    edit.until("d.shots[2].begins < 50 && d.length === 150")
    assert apart(edit.pixels(75), seen[2]) == 0
    # Trimming with Shift leaves the rest in place, with a gap.
    page.get_by_role("button", name="Shot Route map").click()
    page.get_by_role("button", name="Shot Ticket").click()
    grip = page.locator(".Strip-shot.selected .Strip-grip.Strip-tail").bounding_box()
    assert grip
    page.keyboard.down("Shift")
    page.mouse.move(grip["x"] + 4, grip["y"] + 50)
    page.mouse.down()
    page.mouse.move(grip["x"] + 4 - 60, grip["y"] + 50, steps=5)
    page.mouse.up()
    page.keyboard.up("Shift")
    edit.until("d.shots[3].gap > 5 && d.shots[3].begins === 100")
    gap = edit.view["shots"][3]["gap"]
    assert edit.pixels(100 - gap // 2).max() == 0
    # A copy goes to the playhead, with its looks.
    page.get_by_role("button", name="Shot Ticket").click()
    page.keyboard.press("Control+c")
    page.keyboard.press("End")
    page.keyboard.press("Control+v")
    edit.until("d.shots.length >= 5")
    for _ in range(4):
        page.keyboard.press("Control+z")
        page.wait_for_timeout(50)
    edit.until("d.shots.length === 3 && d.shots.every(s => s.length === 50)")
    # Changes and undo survive a restart of the server.
    edit.server.kill()
    edit.server.start()
    page.reload()
    expect(page.get_by_role("button", name="Redo")).to_be_enabled()
    page.get_by_role("button", name="Redo").click()
    edit.until("d.shots.length === 4")


def test_speed_direction_and_reframing_are_set_on_the_face(page: Page, edit: Edit) -> None:
    edit.open()
    forwards = [edit.pixels(frame) for frame in (0, 49)]
    page.get_by_role("button", name="Shot Depot hall").click()
    face = page.get_by_role("region", name="Shot")
    face.get_by_label("Runs").click(force=True)
    page.locator(".ant-select-item-option").filter(has_text="backwards").click()
    edit.until("d.shots[0].direction === 'backwards'")
    assert apart(edit.pixels(0), forwards[1]) == 0
    assert apart(edit.pixels(49), forwards[0]) == 0
    face.get_by_label("Speed", exact=True).fill("150")
    face.get_by_label("Speed", exact=True).press("Enter")
    edit.until("d.shots[0].speed === 150")
    face.get_by_label("Speed", exact=True).fill("900")
    face.get_by_label("Speed", exact=True).press("Enter")
    expect(page.get_by_text(re.compile("a speed lies between 25 % and 400 %"))).to_be_visible()


def test_sound_is_drawn_heard_cross_faded_and_set(page: Page, edit: Edit) -> None:
    edit.open()
    # The punch is heard where it is seen: a quarter into the clip, at frame 25 of it.
    punch = edit.sound(50, 50)
    loud = np.flatnonzero(np.abs(punch).max(1) > 0.25)
    assert loud[0] / 48000 * 25 == pytest.approx(5, abs=0.5)
    # The drawing swells at that frame of the shot, and is a thin line before it.
    swells = """([e, share]) => { const box = e.ownerSVGElement.viewBox.baseVal;
        return e.isPointInFill(new DOMPoint(share * box.width, box.height / 2 - 3)); }"""
    wave_ = page.get_by_test_id("wave-ticket")
    page.wait_for_function("e => e.getAttribute('d') !== ''", arg=wave_.element_handle())
    frames = [k for k in range(50) if page.evaluate(swells, [wave_.element_handle(), k / 50])]
    assert frames[0] == pytest.approx(5, abs=1)
    page.get_by_role("button", name="Shot Ticket").click()
    face = page.get_by_role("region", name="Shot")
    face.get_by_label("Gain", exact=True).fill("-12")
    face.get_by_label("Gain", exact=True).press("Enter")
    edit.until("d.shots[1].gain === -12")
    # −12 dB is a quarter: 10^(−12/20).
    ratio = np.abs(edit.sound(50, 50)).max() / np.abs(punch).max()
    assert ratio == pytest.approx(10 ** (-12 / 20), rel=0.02)
    face.get_by_role("switch", name="Sound").click()
    edit.until("d.shots[1].mute")
    assert not edit.sound(55, 40).any()


HEARD = """window.AudioContext = class extends AudioContext {
  constructor(options) { super(options); window.heard = this; }
};"""


@pytest.mark.own_page
def test_playing_follows_the_sound(page: Page, edit: Edit) -> None:
    page.add_init_script(HEARD)
    edit.open()
    page.get_by_role("button", name="Play", exact=True).click()
    expect(page.get_by_role("button", name="Stop")).to_be_visible()
    slider = page.get_by_label("Playhead")
    page.wait_for_function(
        "e => Number(e.getAttribute('aria-valuenow')) > 10 && window.heard",
        arg=slider.element_handle(),
    )
    # Even on a busy machine, pictures stay within two frames of the sound.
    drift = page.evaluate(
        """async e => { const ahead = [];
        const watch = new MutationObserver(() => ahead.push(
          Number(e.getAttribute('aria-valuenow')) - window.heard.currentTime * 25));
        watch.observe(e, { attributeFilter: ['aria-valuenow'] });
        const until = window.heard.currentTime + 2;
        while (window.heard.currentTime < until || ahead.length < 10)
          await new Promise(done => setTimeout(done, 50));
        watch.disconnect();
        ahead.sort((a, b) => a - b);
        // Whatever else the machine does may hold up some of them: the middle half counts.
        const some = Math.floor(ahead.length / 4);
        return ahead[ahead.length - 1 - some] - ahead[some]; }""",
        slider.element_handle(),
    )
    assert drift <= 2.5
    page.get_by_role("button", name="Stop").click()
    page.get_by_role("button", name="Sound is on").click()
    expect(page.get_by_role("button", name="Sound is off")).to_be_visible()


def test_before_and_after_are_held_against_each_other(page: Page, edit: Edit) -> None:
    edit.change(do="add-look", shots=["depot-hall"], macro="overprint", version=1)
    edit.open()
    page.get_by_role("button", name="Overprint on Depot hall", exact=True).click()
    page.get_by_role("button", name="Before | after").click()
    line = page.get_by_role("slider", name="Line between before and after")
    expect(line).to_have_attribute("aria-valuenow", "50")
    line.press("ArrowRight")
    expect(line).to_have_attribute("aria-valuenow", "52")
    expect(page.get_by_role("img", name="Before: without what is selected")).to_be_visible()
    page.get_by_role("button", name="Before | after").click()
    with page.expect_response(re.compile(r"frame\.jpg.*without=look-overprint")):
        page.keyboard.down("b")
    expect(page.get_by_text("before", exact=True)).to_be_visible()
    page.keyboard.up("b")
    expect(page.get_by_text("before", exact=True)).to_be_hidden()


def test_a_clip_is_dropped_from_the_tray_and_from_the_desktop(
    page: Page, edit: Edit, tmp_path: Path
) -> None:
    edit.open()
    strip = page.get_by_role("region", name="Strip", exact=True)
    box = strip.bounding_box()
    assert box
    drop = """([dragged, name, bytes, x, y, shift]) => {
      const data = new DataTransfer();
      if (dragged) data.setData('application/x-pale-static-material', dragged);
      else data.items.add(new File([new Uint8Array(bytes)], name, {type: 'image/png'}));
      const at = document.elementFromPoint(x, y);
      for (const kind of ['dragover', 'drop'])
        at.dispatchEvent(new DragEvent(kind, {dataTransfer: data, bubbles: true, cancelable: true,
          clientX: x, clientY: y, shiftKey: shift}));
    }"""
    materials = edit.server.ask("GET", "/materials")["materials"]
    wires = next(one for one in materials if one["name"] == "Wires at dusk")
    scale = float(strip.get_attribute("data-strip") or 1)
    shots = page.get_by_role("button", name="Shot Ticket").bounding_box()
    assert shots
    x, y = box["x"] + 20 + 25 * scale, shots["y"] + 40
    page.evaluate(drop, [json.dumps(wires), "", [], x, y, True])
    # With Shift it goes on a row above the shots there.
    edit.until("d.shots.some(s => s.name === 'Wires at dusk')")
    placed = next(one for one in edit.view["shots"] if one["name"] == "Wires at dusk")
    assert abs(placed["begins"] - 25) <= 2
    png = io.BytesIO()
    Image.new("RGBA", (64, 36), (200, 20, 20, 255)).save(png, "PNG")
    rows = page.locator("[data-rows]").bounding_box()
    assert rows
    x, y = box["x"] + 20 + 60 * scale, rows["y"] + 10
    page.evaluate(drop, ["", "badge.png", list(png.getvalue()), x, y, False])
    edit.until("d.items.length === 1 && d.items[0].name === 'badge'")
    assert edit.pixels(edit.view["items"][0]["begins"] + 2)[27, 48].tolist() == [200, 20, 20]


def test_a_newer_version_is_seen_before_and_after_and_taken_up(page: Page, edit: Edit) -> None:
    server = edit.server
    edit.change(do="add-look", shots=["depot-hall"], macro="bulge-split", version=1,
                settings={"bend": 0.4})  # fmt: skip
    edit.change(do="add-look", shots=["ticket"], macro="bulge-split", version=1,
                settings={"bend": 0.7})  # fmt: skip
    drafts = server.ask("GET", "/effects")["drafts"]
    draft = next(one for one in drafts if one["name"] == "Bulge Split")
    draft = server.ask("GET", f"/effects/{draft['id']}")
    change = {"do": "expose", "lane": "out", "step": "colour-split", "value_name": "angle"}
    draft = server.ask("POST", f"/effects/{draft['id']}/changes",
                       {"base": draft["revision"], "change": change})  # fmt: skip
    server.ask("POST", f"/effects/{draft['id']}/publish", {"base": draft["revision"]})
    edit.open()
    page.get_by_role("button", name="Bulge Split on Depot hall", exact=True).click()
    face = page.get_by_role("region", name="Faceplate")
    face.get_by_role("button", name="See and update").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_text(re.compile("Adds “Angle”"))).to_be_visible()
    expect(dialog.locator(".picture canvas:visible")).to_have_count(6)
    dialog.get_by_role("button", name="Update all 2 in this edit").click()
    edit.until("d.shots.slice(0, 2).every(s => s.looks[0].version === 2)")
    settings = [shot["looks"][0]["settings"] for shot in edit.view["shots"][:2]]
    assert settings == [{"bend": 0.4}, {"bend": 0.7}]
    page.get_by_role("button", name="Undo").click()
    edit.until("d.shots.slice(0, 2).every(s => s.looks[0].version === 1)")


def test_an_edit_with_every_kind_of_macro_is_rendered_with_its_sound(
    page: Page, edit: Edit, tmp_path: Path
) -> None:
    edit.change(do="place-join", cuts=[{"left": "depot-hall"}], macro="ember-fray", version=1,
                length=16)  # fmt: skip
    edit.change(do="add-look", shots=["ticket"], macro="worn-tape", version=1)
    edit.change(do="add-item", name="Card", frame=100, length=50, macro="letter-lamps", version=1)
    edit.change(do="add-item", name="Dust", frame=20, length=30, macro="lamp-dust", version=1)
    edit.open()
    page.get_by_role("button", name="Render", exact=True).click()
    page.get_by_role("dialog").get_by_role("button", name="Start the render").click()
    row = newest_render(page, edit.server)
    expect(row.get_by_role("link", name="Download")).to_be_visible(timeout=120_000)
    with page.expect_download() as download:
        row.get_by_role("link", name="Download").click()
    path = tmp_path / "any.mp4"
    download.value.save_as(path)
    with av.open(str(path)) as film:
        frames = [frame.to_ndarray(format="rgb24") for frame in film.decode(video=0)]
    assert len(frames) == 150
    for frame in (10, 30, 50, 75, 130):
        # Thin coloured borders lose some colour by 4:2:0.
        assert apart(frames[frame], edit.pixels(frame, (320, 180))) < 8, frame
    late = edit.pixels(54, (320, 180))
    assert apart(frames[50], edit.pixels(50, (320, 180))) < apart(frames[50], late) / 2
    with av.open(str(path)) as film:
        sound = np.concatenate([piece.to_ndarray() for piece in film.decode(audio=0)], 1)
    assert abs(sound.shape[1] - 6 * 48000) <= 2048
    expected = edit.sound(50, 50)[:, 0]
    found = sound[0, 96_000 : 96_000 + len(expected)]
    # The loudest moment of the punch is where it is in the mix, within half a frame.
    assert abs(int(np.abs(found).argmax()) - int(np.abs(expected).argmax())) < 960


def test_a_macro_that_fails_is_left_out_and_said(page: Page, edit: Edit) -> None:
    server = edit.server
    plain = edit.pixels(20)
    draft = server.ask("POST", "/effects", {"kind": "look", "name": "Broken"})
    lane = draft["effect"]["lanes"][-1]["id"]
    for change in (
        {"do": "add-step", "lane": lane, "kind": "levels"},
        {"do": "set-value", "lane": lane, "step": "levels", "value_name": "gamma",
         "value": {"formula": "1 / abs(frame - 20)"}},
    ):  # fmt: skip
        draft = server.ask("POST", f"/effects/{draft['id']}/changes",
                           {"base": draft["revision"], "change": change})  # fmt: skip
    server.ask("POST", f"/effects/{draft['id']}/publish", {"base": draft["revision"]})
    edit.change(do="add-look", shots=["depot-hall"], macro="broken", version=1)
    assert apart(edit.pixels(20), plain) == 0
    edit.open()
    goto = page.get_by_label("Go to timecode")
    goto.fill("20")
    goto.press("Enter")
    told = page.get_by_text(re.compile("Broken on Depot hall · .* · Levels: gamma"))
    expect(told.first).to_be_visible()
    # The frame is marked on the ruler.
    expect(page.get_by_role("img", name=re.compile("^At frame 20: Broken on"))).to_be_visible()
    goto.fill("24")
    goto.press("Enter")
    expect(told).to_have_count(0)


def test_settings_are_kept_with_a_name_taken_and_pasted_onto_others(page: Page, edit: Edit) -> None:
    for shot in ("depot-hall", "ticket"):
        edit.change(do="add-look", shots=[shot], macro="worn-tape", version=1)
    edit.open()
    page.get_by_role("button", name="Worn Tape on Depot hall", exact=True).click()
    face = page.get_by_role("region", name="Faceplate")
    wear = face.get_by_label("Wear", exact=True)
    wear.fill("0.9")
    wear.press("Enter")
    edit.until("d.shots[0].looks[0].settings.wear === 0.9")
    face.get_by_role("button", name="save these…").click()
    page.get_by_label("Name of the settings").fill("Worn out")
    page.get_by_role("button", name="Keep them").click()
    expect(face.get_by_role("button", name="Worn out")).to_be_visible()
    face.get_by_role("button", name="Copy the settings").click()
    # On another shot: one click applies the kept settings, another pastes the copied ones.
    page.get_by_role("button", name="Worn Tape on Ticket", exact=True).click()
    expect(wear).to_have_value("0.5")
    face.get_by_role("button", name="Worn out").click()
    edit.until("d.shots[1].looks[0].settings.wear === 0.9")
    face.get_by_role("button", name="Back to default").click()
    edit.until("!('wear' in d.shots[1].looks[0].settings)")
    face.get_by_role("button", name="Paste", exact=True).click()
    edit.until("d.shots[1].looks[0].settings.wear === 0.9")


def test_a_title_is_typed_on_the_strip(page: Page, edit: Edit) -> None:
    edit.change(do="add-item", name="Card", frame=10, length=80, macro="late-focus", version=1)
    edit.open()
    block = page.get_by_role("button", name=re.compile("^Card, Late Focus"))
    block.dblclick()
    field = page.get_by_label("Text of Card")
    field.fill("By pointer")
    field.press("Enter")
    edit.until("d.items[0].use.settings.text === 'By pointer'")
    block.focus()
    block.press("Enter")
    field.fill("By keys")
    field.press("Enter")
    edit.until("d.items[0].use.settings.text === 'By keys'")


def test_a_matte_smaller_than_the_frame_is_told_and_mended(page: Page, edit: Edit) -> None:
    server = edit.server
    draft = server.ask("POST", "/effects", {"kind": "look", "name": "Matted"})
    lane = draft["effect"]["lanes"][-1]["id"]

    def change(**one: Any) -> Any:
        nonlocal draft
        body = {"base": draft["revision"], "change": one}
        draft = server.ask("POST", f"/effects/{draft['id']}/changes", body)

    change(do="add-slot", kind="matte", name="Plate")
    slot = draft["effect"]["slots"][-1]["id"]
    first = draft["effect"]["lanes"][0]["id"] if len(draft["effect"]["lanes"]) > 2 else slot
    plate = next(one["id"] for one in draft["effect"]["lanes"]
                 if one["steps"] and one["steps"][0]["values"].get("slot") == slot)  # fmt: skip
    assert first
    change(do="set-value", lane=plate, step=draft["effect"]["lanes"][[
        one["id"] for one in draft["effect"]["lanes"]].index(plate)]["steps"][0]["id"],
        value_name="fit", value="actual")  # fmt: skip
    change(do="add-step", lane=plate, kind="displace", values={"outside": "mirror"})
    change(do="add-step", lane=lane, kind="matte-to-alpha")
    step = draft["effect"]["lanes"][-1]["steps"][-1]["id"]
    change(do="set-input", lane=lane, step=step, input_name="matte", input={"lane": plate})
    place = next(one for one in draft["effect"]["lanes"] if one["id"] == plate)
    change(do="set-input", lane=plate, step=place["steps"][-1]["id"], input_name="map",
           input={"lane": plate, "step": place["steps"][0]["id"]})  # fmt: skip
    server.ask("POST", f"/effects/{draft['id']}/publish", {"base": draft["revision"]})
    edit.change(do="set-reel", width=1280, height=720)
    edit.change(do="add-look", shots=["depot-hall"], macro="matted", version=1)
    edit.open()
    page.get_by_role("button", name="Matted on Depot hall", exact=True).click()
    face = page.get_by_role("region", name="Faceplate")
    face.get_by_label("Plate", exact=True).click(force=True)
    page.locator(".ant-select-item-option").filter(has_text="Lantern Line mark").click()
    edit.until(f"d.shots[0].looks[0].slots['{slot}']")
    expect(face.get_by_text(re.compile("does not fill the frame"))).to_be_visible()
    ghosted = edit.pixels(20)
    face.get_by_role("button", name="Make it cover the frame").click()
    expect(face.get_by_text(re.compile("does not fill the frame"))).to_be_hidden()
    assert apart(edit.pixels(20), ghosted) > 1
