"""Movement in the browser: arranging keys, reversing effects, controls that drive values."""

from __future__ import annotations

import io
import re
import time
from typing import Any

import numpy as np
from PIL import Image
from playwright.sync_api import Page, Route, expect

from ..server import Server
from .bench_parts import full_ones_late, shown_size
from .conftest import answers, preview, visit
from .test_bench_more import kept
from .test_editor_more import drag
from .test_places import changed, now, open_bench, settled
from .test_whole_job import menu, value

PROGRESS = "d.effect.lanes[4].steps[1].values.progress"


def progress(server: Server, draft: Any) -> list[tuple[Any, ...]]:
    keys = now(server, draft)["effect"]["lanes"][4]["steps"][1]["values"]["progress"]["keys"]
    return [(key["anchor"], round(key["time"], 3), key["value"]) for key in keys]


def test_keys_are_reversed_scaled_copied_and_spread_by_buttons(page: Page, server: Server) -> None:
    draft = open_bench(page, server)
    page.get_by_role("option", name=re.compile("progress")).click()
    arrange = page.get_by_role("group", name="Arrange keys")
    arrange.get_by_role("button", name="Half as far apart").click()
    kept(page, draft, f"{PROGRESS}.keys[1].time === 0.5")
    arrange.get_by_role("button", name="One frame later").click()
    kept(page, draft, f"{PROGRESS}.keys[0].time > 0")
    assert progress(server, draft) == [("share", 0.02, 0), ("share", 0.52, 1)]
    page.get_by_label("Pick key 1").check()
    page.get_by_role("slider", name="Playhead").focus()
    page.keyboard.press("End")
    arrange.get_by_role("button", name="Copies that begin").click()
    kept(page, draft, f"{PROGRESS}.keys.length === 3")
    assert progress(server, draft)[-1] == ("share", 1, 0)
    arrange.get_by_role("button", name="Space them evenly").click()
    kept(page, draft, f"Math.abs({PROGRESS}.keys[1].time - 0.51) < 0.01")
    arrange.get_by_role("button", name="Reverse the order of the keys").click()
    kept(page, draft, f"{PROGRESS}.keys[0].time === 0")
    assert [row[2] for row in progress(server, draft)] == [0, 1, 0]
    page.get_by_role("button", name="Undo").click()
    kept(page, draft, f"{PROGRESS}.keys[0].time > 0")


def test_an_effect_plays_backwards_and_the_editor_may_be_given_that(
    page: Page, server: Server
) -> None:
    draft = open_bench(page, server)
    page.get_by_role("slider", name="Playhead").focus()
    page.keyboard.press("Shift+ArrowRight")
    before = settled(page)
    page.get_by_role("switch", name="Play backwards").click()
    changed(page, before)
    kept(page, draft, "d.effect.backwards === true")
    page.get_by_role("tab", name="Faceplate").click()
    page.get_by_role("button", name="Add a control").click()
    page.get_by_role("menuitem", name="Let the editor play it backwards").click()
    kept(page, draft, "d.effect.controls.at(-1).label === 'Play backwards'")
    assert now(server, draft)["effect"]["backwards"]["control"] == "play-backwards"
    expect(page.get_by_text("which way it plays")).to_be_visible()
    control = page.locator("[data-control='play-backwards']").get_by_role("switch")
    expect(control).to_be_checked()
    control.click()
    kept(page, draft, "d.effect.controls.at(-1).default === false")
    assert settled(page) == before


def test_a_toggle_picks_between_two_values_and_a_control_drives_through_a_range(
    page: Page, server: Server
) -> None:
    draft = open_bench(page, server)
    page.locator("[data-place='out.luma-wipe'] .StepCard-stepName").click()
    menu(page, value(page, "invert"), "Expose")
    kept(page, draft, "d.drives.invert?.length === 1")
    row = value(page, "rim_softness")
    row.get_by_role("button", name=re.compile("more")).click()  # type: ignore[attr-defined]
    page.get_by_role("menuitem", name="Drive by control").hover()
    page.get_by_role("menuitem", name="Invert").click()
    field = page.get_by_label("rim softness where on", exact=True)
    field.fill("0.3")
    field.press("Enter")
    step = "d.effect.lanes[4].steps[1].values"
    kept(page, draft, f"{step}.rim_softness.table?.true === 0.3")
    assert now(server, draft)["drives"]["invert"][1]["value"] == "rim_softness"

    page.locator("[data-place='fray.levels'] .StepCard-stepName").click()
    row = value(page, "gamma")
    row.get_by_role("button", name=re.compile("more")).click()  # type: ignore[attr-defined]
    page.get_by_role("menuitem", name="Drive by control").hover()
    page.get_by_role("menuitem", name="Softness").click()
    low = page.get_by_label("gamma: from", exact=True)
    low.fill("2")
    low.press("Enter")
    levels = "d.effect.lanes[3].steps[2].values"
    kept(page, draft, f"{levels}.gamma.range?.[0] === 2")
    expect(page.get_by_text(re.compile(r"saved \d"))).to_be_visible()
    page.get_by_role("button", name=re.compile("gamma: along: ease")).click()
    page.get_by_role("gridcell", name="leaves gentle, arrives soft").click()
    kept(page, draft, f"{levels}.gamma.ease?.into === 'sine'")


FLASH = {
    "keys": [
        {"time": 0, "value": 0, "ease": "hold"},
        {"anchor": "end", "time": 0.2, "value": 1, "ease": "hold"},
        {"anchor": "end", "time": 0.12, "value": 0},
    ]
}
"""White for two frames at 25 a second, a fifth of a second before the end."""


def whites(server: Server, reel: int) -> tuple[int, list[int]]:
    """The length of the reel's first join, and the frames of it that are white, from its end."""
    import urllib.request

    view = server.ask("GET", f"/reels/{reel}")
    join = view["joins"][0]
    found = []
    for frame in range(join["first"], join["end"]):
        path = f"/api/reels/{reel}/{view['revision']}/frame.png?frame={frame}&width=64&height=36"
        with urllib.request.urlopen(server.address + path) as answer:
            pixels = np.asarray(Image.open(io.BytesIO(answer.read())))
        if pixels[..., :3].min() == 255:
            found.append(join["end"] - 1 - frame)
    return join["end"] - join["first"], found


def test_an_end_anchored_key_stays_at_the_end_when_a_join_is_dragged_longer(
    page: Page, server: Server
) -> None:
    draft = server.ask("POST", "/effects", {"kind": "transition", "name": "Late flash"})
    for change in (
        {"do": "add-lane", "name": "White"},
        {"do": "add-step", "lane": "white", "kind": "flat", "values": {"colour": "#FFFFFF"}},
        {"do": "add-step", "lane": "out", "kind": "blend"},
        {"do": "set-input", "lane": "out", "step": "blend", "input_name": "over",
         "input": {"lane": "white"}},
        {"do": "set-value", "lane": "out", "step": "blend", "value_name": "opacity",
         "value": FLASH},
    ):  # fmt: skip
        draft = server.ask(
            "POST", f"/effects/{draft['id']}/changes", {"base": draft["revision"], "change": change}
        )
    server.ask("POST", f"/effects/{draft['id']}/publish", {"base": draft["revision"]})
    ids = {one["name"]: one["id"] for one in server.ask("GET", "/materials")["materials"]}
    view = server.ask("POST", "/reels", {"name": "Late", "width": 320, "height": 180})
    for name in ("Headlamp", "Ticket"):
        change = {"do": "add-shot", "material": ids[name], "name": name, "start": 20, "length": 60}
        view = server.ask(
            "POST", f"/reels/{view['id']}/changes", {"base": view["revision"], "change": change}
        )
    visit(page, f"/reel/{view['id']}?use=late-flash")
    tray = page.get_by_role("region", name="Macros for this cut")
    tray.get_by_role("button", name=re.compile("^Late flash")).click()
    answers(page, f"/api/reels/{view['id']}", "d.joins.length")
    short, white = whites(server, view["id"])
    assert white == [5, 4]
    drag(page, page.locator(".Strip-join .Strip-grip.Strip-tail"), 60)
    answers(page, f"/api/reels/{view['id']}", f"d.joins[0].end - d.joins[0].first > {short}")
    longer, white = whites(server, view["id"])
    assert longer > short
    assert white == [5, 4]


def test_while_a_slider_moves_a_coarse_picture_comes_first_and_then_the_sharp_one(
    page: Page, server: Server
) -> None:
    preview(page, None)  # a small picture is sharp at once
    open_bench(page, server)
    full = "() => document.querySelector('[data-testid=screen]').dataset.pixels === '960x540'"
    page.wait_for_function(full)

    def slowly(route: Route) -> None:
        time.sleep(0.12)  # as long as a heavy effect
        route.continue_()

    page.route("**/live", slowly)
    page.locator("[data-place='fray.noise'] .StepCard-stepName").click()
    page.evaluate(
        """() => {
          window.seen = [];
          const canvas = document.querySelector('[data-testid=screen]');
          new MutationObserver(() => window.seen.push(canvas.dataset.pixels))
            .observe(canvas, {attributes: true, attributeFilter: ['data-pixels']});
        }"""
    )
    slider = page.get_by_label("roughness, slider")
    box = slider.bounding_box()
    assert box
    page.mouse.move(box["x"] + 5, box["y"] + 5)
    page.mouse.down()
    for step in range(8):
        page.mouse.move(box["x"] + 6 + 3 * step, box["y"] + 5)
        page.wait_for_timeout(60)
    # The coarse picture is half as wide as the monitor, or a quarter on a slow machine.
    sharp = shown_size(page)
    wide = int(sharp.split("x")[0])
    page.wait_for_function(
        f"() => window.seen.some(size => [{wide // 2}, {wide // 4}].includes(parseInt(size)))"
    )
    # With the pointer at rest and the button down, the sharp picture follows.
    page.wait_for_function(f"() => window.seen.at(-1) === '{sharp}'")
    screen = page.get_by_test_id("screen")
    assert screen.evaluate("c => `${c.width}x${c.height}`") == sharp
    # What was on trial is what is saved: no picture comes for it again.
    seen = page.evaluate("window.seen.length")
    page.mouse.up()
    expect(page.get_by_role("status").filter(has_text="saved")).to_be_visible()
    page.wait_for_timeout(700)
    assert page.evaluate("window.seen.length") == seen, str(page.evaluate("window.seen.slice(-4)"))
    # Enlarged, the picture has all pixels.
    page.get_by_role("button", name="Larger").click()
    page.wait_for_function("() => window.seen.at(-1) === '960x540'")


def test_quality_drops_before_rhythm_does(page: Page, server: Server) -> None:
    preview(page, None)  # small pictures are never too slow
    open_bench(page, server)

    page.route("**/frames?*", full_ones_late)
    page.get_by_role("button", name="Play", exact=True).click()
    expect(page.get_by_text(re.compile("half size|quarter size"))).to_be_visible()
    page.get_by_role("button", name="Stop").click()
