"""Lettering against the fonts' tables, Pillow and Unicode."""

from __future__ import annotations

import io
from typing import Any

import freetype
import numpy as np
import pytest
from bidi.algorithm import get_display
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw, ImageFont
from scipy.ndimage import distance_transform_edt

from pale_static.core import Engine, Materials, Size
from pale_static.core.faults import Missing, TooLarge, Unreadable
from pale_static.core.lettering import (
    FAMILIES,
    Font,
    Setting,
    lay_out,
    nearest_unit,
    outlined,
    shipped,
    told,
)
from pale_static.core.lettering import ink as drawing
from pale_static.core.lettering.layout import _levels, _runs

from ..core.documents import at, chain

RUBIK = shipped("Rubik", "regular")
FRAME = (120, 640)


def ink(font: Font, text: str, size: float, at: tuple[float, float], **more: Any) -> np.ndarray:
    layout = lay_out(font, "regular", text, Setting(size, **more))
    return outlined(font, "regular", layout, size, at, FRAME)


@pytest.mark.parametrize("family", FAMILIES)
def test_plain_text_is_what_pillow_draws_of_the_same_font(family: str) -> None:
    font = shipped(family, "regular")
    # Source: Pillow's own layout and drawing; four times the size, because it snaps edges to
    # pixels.
    other = ImageFont.truetype(io.BytesIO(font.data), 256, layout_engine=ImageFont.Layout.BASIC)
    picture = Image.new("L", (4 * FRAME[1], 4 * FRAME[0]))
    ImageDraw.Draw(picture).text((160, 360), "HOTEL", 255, other, anchor="ls")
    expected = np.asarray(picture.reduce(4)) / 255
    found = ink(font, "HOTEL", 64, (40, 90))
    assert found.sum() == pytest.approx(expected.sum(), rel=0.05)
    width, height = ((expected > 0.5).any(axis).sum() for axis in (0, 1))
    assert abs(int((found > 0.5).any(0).sum()) - int(width)) <= 6
    assert abs(int((found > 0.5).any(1).sum()) - int(height)) <= 2


def test_cover_is_exact_at_any_fraction_of_a_pixel() -> None:
    ground = ink(RUBIK, "I", 80, (100, 100))
    total = ground.sum()
    centre = (ground.sum(0) * np.arange(FRAME[1])).sum() / total
    for shift in (0.25, 0.5, 0.75, 3.125):
        moved = ink(RUBIK, "I", 80, (100 + shift, 100))
        assert moved.sum() == pytest.approx(total, rel=2e-3)
        now = (moved.sum(0) * np.arange(FRAME[1])).sum() / moved.sum()
        assert now - centre == pytest.approx(shift, abs=0.02)


def test_pairs_are_kerned_and_letters_joined() -> None:
    def width(text: str, **more: Any) -> float:
        return lay_out(RUBIK, "regular", text, Setting(100, **more)).widths[0]

    # Common practice: A and V overlap; tracking adds between letters, never after the last.
    assert width("AV") < width("A") + width("V") - 2
    assert width("HIH", tracking=10) == pytest.approx(width("HIH") + 20, abs=0.01)
    slab = shipped("Zilla Slab", "regular")
    joined, apart = (
        lay_out(slab, "regular", "ffi", Setting(100, tracking=t)).letters for t in (0, 1)
    )
    assert (joined, apart) == (1, 3)


@pytest.mark.parametrize(
    "text", ["שלום World 123", "abc אבג def", "مرحبا 2026 (ok)", "one, two", "אב 12,5 גד"]
)
def test_both_reading_directions_lie_as_unicode_says(text: str) -> None:
    # Source: python-bidi's whole algorithm, UAX 9; brackets are mirrored by the font engine.
    shown = "".join(
        text[first:last][::-1] if level % 2 else text[first:last]
        for first, last, level in _runs(_levels(text))
    )
    assert shown.translate(str.maketrans("()", "  ")) == get_display(text).translate(
        str.maketrans("()", "  ")
    )


@settings(max_examples=25, deadline=None)
@given(st.text("abcAV ,.–\n אבג", max_size=60), st.just(0) | st.floats(1, 400))
def test_lines_fit_the_box_and_nothing_is_lost(text: str, wrap: float) -> None:
    layout = lay_out(RUBIK, "regular", text, Setting(40, wrap=wrap))
    assert layout.letters == len([char for char in text if not char.isspace()])
    assert layout.words == len(text.split())
    lines: dict[int, set[int]] = {}
    for glyph in layout.glyphs:
        lines.setdefault(glyph.line, set()).add(glyph.word)
    for line, words in lines.items():
        # Only a single word may be wider than the box.
        assert wrap == 0 or layout.widths[line] <= wrap + 0.01 or len(words) == 1


def test_each_letter_holds_its_place_in_the_order_of_reading() -> None:
    values = {"text": "ABC DE", "output": "order ramp", "size": 30, "weight": "regular"}
    ramp = Engine().evaluate(chain({"kind": "title", "values": values}), at(), Size(320, 180)).plane
    assert ramp.shape == (180, 320)
    shown = sorted(set(np.round(ramp.ravel(), 4)))
    assert shown == pytest.approx([0, 0.25, 0.5, 0.75, 1])
    # Along the middle row greys only rise, because these letters read from left to right.
    assert (np.diff(ramp[90]) >= 0).all()
    by_word = values | {"order_by": "word"}
    words = Engine().evaluate(chain({"kind": "title", "values": by_word}), at(), Size(320, 180))
    assert set(words.plane.ravel()) == {0, 1}
    mixed = values | {"shuffle": True, "seed": 4}
    again = Engine().evaluate(chain({"kind": "title", "values": mixed}), at(), Size(320, 180)).plane
    assert set(np.round(again.ravel(), 4)) == set(np.round(ramp.ravel(), 4))
    assert (again != ramp).any()


def test_a_pixel_has_the_grey_of_the_letter_nearest_to_it() -> None:
    layout = lay_out(RUBIK, "regular", "A B", Setting(40))
    greys = np.array([0.25, 0.75], np.float32)
    found = nearest_unit(RUBIK, "regular", layout, 40, (200, 80), FRAME, greys, "letter")
    inks = [ink(RUBIK, "A", 40, (200, 80)), None]
    both = outlined(RUBIK, "regular", layout, 40, (200, 80), FRAME)
    inks[1] = np.where(inks[0] > 0, 0, both)
    # Source: scipy.ndimage.distance_transform_edt to the ink of either letter.
    far = [distance_transform_edt(one == 0) for one in inks]
    clear = np.abs(far[0] - far[1]) > 2  # the other measures distance to 2 %
    clear &= np.abs(far[0] - far[1]) > 0.05 * np.minimum(*far)
    expected = np.where(far[0] < far[1], 0.25, 0.75)
    assert (found[clear] == expected[clear]).all()


def test_the_outline_lies_around_the_letters_by_its_width() -> None:
    layout = lay_out(RUBIK, "regular", "O", Setting(80))
    fill = outlined(RUBIK, "regular", layout, 80, (200, 95), FRAME)
    rim = outlined(RUBIK, "regular", layout, 80, (200, 95), FRAME, 5)
    far = distance_transform_edt(fill < 0.5)
    assert rim[far < 4].min() > 0.95
    assert rim[far > 6.5].max() < 0.05


def test_what_a_font_lacks_is_named() -> None:
    with pytest.raises(Missing, match=r"The font Rubik has no “漢” \(U\+6F22"):
        lay_out(RUBIK, "regular", "a漢", Setting(40))
    effect = chain({"kind": "title", "values": {"text": "x", "font": "ab12"}})
    with pytest.raises(Missing, match="not in the library"):
        Engine().evaluate(effect, at(), Size(64, 36))
    with pytest.raises(Unreadable, match="cannot be read"):
        told(b"\0\1\0\0 nothing", "bad.ttf")
    with pytest.raises(TooLarge, match="glyphs at most"):
        lay_out(RUBIK, "regular", "a\n" * 4100, Setting(10))
    with pytest.raises(TooLarge, match="larger than can be drawn"):
        outlined(
            RUBIK, "regular", lay_out(RUBIK, "regular", "a", Setting(9000)), 9000, (0, 0), FRAME
        )


def test_a_font_without_a_bold_of_its_own_is_thickened() -> None:
    own = Font("own", "Own", RUBIK.data)
    layout = lay_out(own, "bold", "HELLO", Setting(60))
    thin, thick = (
        outlined(own, weight, layout, 60, (50, 90), FRAME).sum() for weight in ("regular", "bold")
    )
    assert 1.1 < thick / thin < 1.6
    values = {"text": "HELLO", "font": "own", "size": 40}
    found = Engine().evaluate(
        chain({"kind": "title", "values": values}), at(), Size(160, 90),
        materials=Materials(fonts={"own": own}),
    )  # fmt: skip
    assert found.picture[..., 3].max() == 1


@settings(max_examples=20, deadline=None)
@given(st.text(max_size=40))
def test_any_text_is_set_or_refused_by_character(text: str) -> None:
    try:
        layout = lay_out(RUBIK, "regular", text, Setting(20, wrap=200))
    except Missing:
        return
    assert np.isfinite(outlined(RUBIK, "regular", layout, 20, (9, 30), FRAME)).all()


def test_a_font_with_a_damaged_glyph_is_told(monkeypatch: pytest.MonkeyPatch) -> None:
    def damaged(*_: Any) -> Any:
        raise freetype.FT_Exception(0x14)  # invalid outline, as FreeType numbers it

    monkeypatch.setattr(drawing, "_outline", damaged)
    drawing._kept.cache_clear()
    with pytest.raises(Unreadable, match="damaged and cannot be drawn"):
        Engine().evaluate(
            chain({"kind": "title", "values": {"text": "Lantern"}}), at(), Size(64, 36)
        )


WIDE = Size(640, 120)


def titled(frame: Size = WIDE, **values: Any) -> np.ndarray:
    effect = chain({"kind": "title", "values": {"text": "OTTO", "size": 50.0} | values})
    return Engine().evaluate(effect, at(), frame).picture


def middle(alpha: np.ndarray) -> tuple[float, float]:
    y, x = np.mgrid[0 : alpha.shape[0], 0 : alpha.shape[1]]
    return float((x * alpha).sum() / alpha.sum()), float((y * alpha).sum() / alpha.sum())


def test_letters_that_have_all_arrived_are_plain_text() -> None:
    plain = titled()
    for by in ("letter", "word", "line"):
        moved = titled(move_by=by, arrival=1.0, from_scale=3.0, from_turn=50.0, from_blur=4.0)
        np.testing.assert_array_equal(moved, plain)
        assert not titled(move_by=by, arrival=0.0).any()


def test_type_is_shrunk_only_where_a_word_is_wider_than_its_box() -> None:
    upright = Size(90, 160)
    shared: Any = {"text": "Destination", "size": 20.0, "shrink": True}
    wide = titled(upright, **(shared | {"shrink": False}))[..., 3]
    assert wide[:, 0].any(), "at its own size it runs over the border"
    shrunk = titled(upright, **shared)[..., 3]
    columns = np.flatnonzero(shrunk.any(0))
    # Side bearings lie within the line's width, so the ink is a little narrower than the 94 %.
    assert 0.86 * 90 < columns[-1] - columns[0] + 1 <= 0.94 * 90 + 1
    boxed = titled(upright, **shared, box=50.0)[..., 3]
    columns = np.flatnonzero(boxed.any(0))
    assert 0.44 * 90 < columns[-1] - columns[0] + 1 <= 0.5 * 90 + 1
    # It equals type of that size, and text that fits stays unchanged.
    layout = lay_out(shipped("Rubik", "bold"), "bold", "Destination", Setting(20 / 100 * 160))
    size = 20.0 * 0.94 * 90 / max(layout.widths)
    assert np.allclose(
        titled(upright, **(shared | {"shrink": False, "size": size}))[..., 3], shrunk, atol=0.02
    )
    short: Any = {"text": "No", "size": 20.0}
    assert np.array_equal(titled(upright, **short, shrink=True), titled(upright, **short))


def test_one_letter_after_the_other_comes_in_order() -> None:
    # Four letters without overlap: at half the time two have arrived and two have not.
    plain = titled()[..., 3]
    for order, half in (("reading", slice(0, 320)), ("reverse", slice(320, 640))):
        shown = titled(move_by="letter", arrival=0.5, overlap=0.0, move_order=order)[..., 3]
        np.testing.assert_array_equal(shown[:, half], plain[:, half])
        assert shown.sum() == pytest.approx(plain.sum() / 2, rel=0.15)
    outer = titled(move_by="letter", arrival=0.5, overlap=0.0, move_order="from the middle")[..., 3]
    np.testing.assert_allclose(outer[:, 300:340], plain[:, 300:340], atol=1e-2)
    assert outer.sum() < 0.6 * plain.sum()


def test_a_piece_stands_between_where_it_comes_from_and_its_place() -> None:
    plain = titled()[..., 3]
    values = {"move_by": "line", "arrive": "even", "from_opacity": 1.0}
    moved = titled(arrival=0.5, from_shift=[1.0, 0.2], **values)[..., 3]
    x, y = np.subtract(middle(moved), middle(plain))
    # Half of one and 0.2 heights of type of 60 pixels.
    assert (x, y) == pytest.approx((30, 6), abs=0.2)
    assert moved.sum() == pytest.approx(plain.sum(), rel=0.01)
    larger = titled(arrival=0.5, from_shift=[0.0, 0.0], from_scale=2.0, **values)[..., 3]
    assert larger.sum() == pytest.approx(plain.sum() * 1.5**2, rel=0.02)
    faint = titled(arrival=0.25, from_shift=[0.0, 0.0], move_by="line", arrive="even")[..., 3]
    assert faint.sum() == pytest.approx(plain.sum() * 0.25, rel=0.01)
    # A half turn about the middle of the line, with a word that reads the same after it.
    turned = titled(arrival=0.0, from_shift=[0.0, 0.0], from_turn=180.0, **values)[..., 3]
    assert turned.sum() == pytest.approx(plain.sum(), rel=0.01)
    assert middle(turned)[0] == pytest.approx(640 - middle(plain)[0], abs=2)
    soft = titled(arrival=0.0, from_shift=[0.0, 0.0], from_blur=4.0, **values)[..., 3]
    assert soft.sum() == pytest.approx(plain.sum(), rel=0.01)
    assert soft.max() < 0.95


def test_pieces_take_their_colour_from_where_they_come() -> None:
    values = {"move_by": "letter", "overlap": 1.0, "arrive": "even", "from_opacity": 1.0,
              "from_shift": [0.0, 0.0], "from_tint": 1.0, "from_colour": "#000000"}  # fmt: skip
    shown = titled(arrival=0.25, **values)
    solid = shown[..., 3] > 0.999
    np.testing.assert_allclose(shown[solid][:, :3], 0.25, atol=0.01)


def test_text_on_a_circle_lies_at_its_radius() -> None:
    size = Size(400, 400)
    shown = titled(size, text="OOOOOOOOOOOO", size=6.0, path="circle", path_size=35.0,
                   anchor="baseline")[..., 3]  # fmt: skip
    y, x = np.nonzero(shown > 0.5)
    far = np.hypot(x - 199.5, y - 199.5)
    # From the baseline, a little below which round letters hang, to the height of capitals.
    assert 137 <= far.min() <= 141
    assert far.max() == pytest.approx(140 + 0.7 * 24, abs=2)
    # Text around the top.
    angle = np.degrees(np.arctan2(y - 199.5, x - 199.5))
    assert angle.mean() == pytest.approx(-90, abs=1)
    inside = titled(size, text="OOO", size=6.0, path="circle", path_size=-35.0,
                    path_start=90.0)[..., 3]  # fmt: skip
    y, x = np.nonzero(inside > 0.5)
    assert np.hypot(x - 199.5, y - 199.5).max() < 142
    assert y.mean() > 300


def test_an_arc_turns_each_letter_by_its_way_along() -> None:
    size = Size(600, 400)
    shown = titled(size, text="I", size=10.0, path="arc", path_size=50.0, align="left")[..., 3]
    plain = titled(size, text="I", size=10.0, align="left")[..., 3]
    assert shown.sum() == pytest.approx(plain.sum(), rel=0.02)
    # Straight text far along an arc of 200 pixels: a stem 100 pixels on leans by half a radian.
    far = titled(size, text="       I", size=10.0, path="arc", path_size=50.0, align="left")[..., 3]
    y, x = np.nonzero(far > 0.5)
    lean = np.polyfit(y, x, 1)[0]
    place = lay_out(
        shipped("Rubik", "bold"), "bold", "       I", Setting(40.0, align="left")
    ).glyphs[-1]
    expected = (place.x + place.advance / 2) / 200
    assert np.arctan(-lean) == pytest.approx(expected, abs=0.03)


def test_a_second_outline_lies_around_the_first() -> None:
    values = {"outline": 2.0, "second_outline": 4.0, "fill": "#FF0000", "outline_colour": "#00FF00",
              "second_outline_colour": "#0000FF", "text": "I"}  # fmt: skip
    shown = titled(**values)
    row = shown[60]
    red, green, blue = (int((row[:, c] > 0.5).sum()) for c in range(3))
    # 2 % and 4 % of 120 pixels to either side of the stem.
    assert green == pytest.approx(2 * 2.4, abs=1.5)
    assert blue == pytest.approx(2 * 4.8, abs=1.5)
    assert red > 5
    assert shown[..., 3].max() <= 1 + 1e-6
    # The same with moved letters, except for rounding and overlaps.
    moved = titled(**values, move_by="letter", arrival=0.999, arrive="even", from_shift=[0.0, 0.0],
                   from_opacity=1.0)  # fmt: skip
    assert np.abs(moved - shown).mean() < 2e-3


@pytest.mark.parametrize(("text", "right_first"), [("OTTO", False), ("שלום", True), ("سلام", True)])
def test_letters_come_in_the_order_that_their_script_is_read_in(
    text: str, right_first: bool
) -> None:
    plain = titled(text=text, size=40.0)[..., 3]
    shown = titled(text=text, size=40.0, move_by="letter", overlap=0.0, arrival=0.5,
                   from_shift=[0.0, 0.0])[..., 3]  # fmt: skip
    (was, _), (now, _) = middle(plain), middle(shown)
    assert now > was + 5 if right_first else now < was - 5
    # Letters that have arrived lie at their places in the whole word.
    assert (shown <= plain + 0.02).all()


@pytest.mark.parametrize("text", ["سلام", "é̂ñ", "שָׁלוֹם"])
def test_joined_letters_and_marks_keep_their_shapes(text: str) -> None:
    plain = titled(text=text, size=40.0)
    moved = titled(text=text, size=40.0, move_by="line", arrive="even", arrival=0.5,
                   from_opacity=1.0, from_shift=[0.25, 0.0])  # fmt: skip
    # The whole line, 6 pixels to the right: joined like at rest.
    np.testing.assert_allclose(moved[:, 6:], plain[:, :-6], atol=0.02)
    marked = titled(text=text, size=40.0, move_by="letter", arrival=1.0)
    np.testing.assert_array_equal(marked, plain)
