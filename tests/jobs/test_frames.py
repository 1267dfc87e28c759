"""Frames of a library's effects and edits, and the check before a render."""

from __future__ import annotations

import os
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest

from pale_static.core import Engine, FrameRate, Size, read_effect
from pale_static.core.engine.nodes import Plan
from pale_static.core.frames.edit import EditSource
from pale_static.core.pictures.picture import fit
from pale_static.core.reel import Reel
from pale_static.core.reel.changes import apply_reel
from pale_static.core.sound import SOUND_RATE
from pale_static.demo.content import ember_fray
from pale_static.jobs.crew import workers_for
from pale_static.jobs.preflight import Mismatch
from pale_static.jobs.preflight import preflight as mismatches
from pale_static.jobs.publishing import copy_for_bench, packed, publish_draft, unpack
from pale_static.jobs.shelf import Shelf
from pale_static.media.foreign.reading import read_package
from pale_static.media.formats import format_of
from pale_static.media.pictures.stills import encode_png
from pale_static.store import Library, drafts, macros, materials

from ..conftest import write_clip
from ..core.edits import shown

SIZE = Size(160, 90)


@pytest.fixture
def stocked(library: Library, tmp_path: Path) -> Library:
    """Two clips, a still, and Ember Fray on the shelf."""
    for name, hue in (("one", 0), ("two", 2)):
        with write_clip(tmp_path / f"{name}.mp4", frames=40, hue=hue).open("rb") as file:
            library.bring_in(file, f"{name}.mp4")
    card = tmp_path / "card.png"
    card.write_bytes(encode_png(np.full((90, 160, 3), 120, np.uint8)))
    with card.open("rb") as file:
        library.bring_in(file, "card.png")
    effect = read_effect(ember_fray())
    draft = drafts.start(library.db, "effect", effect.to_json(), "Begun")
    publish_draft(library, Engine(), draft, effect, author="Maker")
    return library


def cut(library: Library, **more: Any) -> Reel:
    ids = {one.name: one.id for one in materials.listed(library.db)}
    return Reel.model_validate(
        {
            "name": "Cut", "width": 160, "height": 90,
            "shots": [
                {"id": "a", "material": ids["one"], "name": "One", "start": "4/25", "length": "26/25"},
                {"id": "b", "material": ids["two"], "name": "Two", "start": "8/25", "length": "26/25"},
                {"id": "c", "material": ids["card"], "name": "Card", "length": "10/25"},
            ],
            "joins": [{"id": "j", "left": "a", "right": "b", "macro": "ember-fray", "version": 1, "length": "10/25"}],
        }
        | more
    )  # fmt: skip


def source(library: Library, reel: Reel) -> EditSource:
    return EditSource(reel=reel, shelf=Shelf(library))


def reel_plan(library: Library, reel: Reel, frame: int, size: Size) -> Plan:
    return source(library, reel).at(frame, size).plan


def findings(library: Library, reel: Reel, form: str = "mp4") -> list[Mismatch]:
    return mismatches(Shelf(library), reel, format_of(form))


def preflight(library: Library, reel: Reel, form: str) -> list[str]:
    return [found.sentence for found in findings(library, reel, form)]


def test_every_frame_outside_joins_is_its_shots_frame(stocked: Library) -> None:
    reel, engine = cut(stocked), Engine()
    for frame in (0, 7, 20, 31, 51, 55, 61):
        name, seconds = shown(reel, frame)
        clip = stocked.footage(reel.named(name).material)  # type: ignore[union-attr]
        index = 0 if clip.rate is None else int(Fraction(seconds) * 25)
        expected = fit(clip.pixels(index), SIZE, "cover")
        assert (engine.compute(reel_plan(stocked, reel, frame, SIZE)).picture == expected).all()


def test_a_join_begins_and_ends_on_the_running_shots(stocked: Library) -> None:
    reel, engine = cut(stocked), Engine()
    first, last = 21, 30
    one, two = (stocked.footage(reel.shots[k].material) for k in (0, 1))
    at_first = engine.compute(reel_plan(stocked, reel, first, SIZE)).picture
    assert (at_first == fit(one.pixels(4 + first), SIZE, "cover")).all()
    at_last = engine.compute(reel_plan(stocked, reel, last, SIZE)).picture
    assert (at_last == fit(two.pixels(8 + last - 26), SIZE, "cover")).all()
    middle = engine.compute(reel_plan(stocked, reel, 26, SIZE)).picture
    assert np.abs(middle - at_first).max() > 0.1


def test_a_shot_shown_whole_stays_so_within_its_join(stocked: Library) -> None:
    reel = cut(stocked, width=90, height=160)
    shots = tuple(shot.model_copy(update={"fit": "contain"}) for shot in reel.shots)
    reel = reel.model_copy(update={"shots": shots})
    tall = Size(90, 160)
    before = Engine().compute(reel_plan(stocked, reel, 20, tall)).picture
    within = Engine().compute(reel_plan(stocked, reel, 21, tall)).picture
    assert (before[..., 3] == within[..., 3]).all()
    assert before[0, 0, 3] == 0


def test_a_join_that_plays_backwards_keeps_each_shots_fit(stocked: Library) -> None:
    effect = read_effect(ember_fray() | {"name": "Back", "backwards": True})
    draft = drafts.start(stocked.db, "effect", effect.to_json(), "Begun")
    publish_draft(stocked, Engine(), draft, effect)
    join = {"id": "j", "left": "a", "right": "b", "macro": "back", "version": 1, "length": "10/25"}
    reel = cut(stocked, width=90, height=160, joins=[join])
    fits = {"a": "contain", "b": "cover"}
    shots = tuple(
        shot.model_copy(update={"fit": fits.get(shot.id, "cover")}) for shot in reel.shots
    )
    reel = reel.model_copy(update={"shots": shots})
    tall = Size(90, 160)
    before, first, last, after = (
        Engine().compute(reel_plan(stocked, reel, frame, tall)).picture
        for frame in (20, 21, 30, 31)
    )
    assert before[0, 0, 3] == 0
    np.testing.assert_array_equal(before[..., 3], first[..., 3])
    np.testing.assert_array_equal(last[..., 3], after[..., 3])


def test_a_render_takes_no_more_processes_than_its_memory_allows(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(os, "cpu_count", lambda: 16)
    assert workers_for(Size(640, 360)) == 4
    assert workers_for(Size(1920, 1080)) == 2
    assert workers_for(Size(1280, 720)) == 3
    assert workers_for(Size(7680, 4320)) == 1
    assert workers_for(Size(7680, 4320), 5) == 5
    monkeypatch.setattr(os, "cpu_count", lambda: 2)
    assert workers_for(Size(640, 360)) == 1


def test_footage_at_another_rate_keeps_its_speed(library: Library, tmp_path: Path) -> None:
    with write_clip(tmp_path / "slow.mp4", frames=20, rate="10").open("rb") as file:
        slow = library.bring_in(file, "slow.mp4")
    reel = Reel.model_validate(
        {"name": "R", "width": 160, "height": 90, "rate": "25",
         "shots": [{"id": "a", "material": slow.id, "name": "A", "length": 2}]}
    )  # fmt: skip
    assert Shelf(library).lasts(reel) == {slow.id: 2}
    engine, clip = Engine(), library.footage(slow.id)
    for frame in (0, 2, 3, 24, 25, 49):
        expected = fit(clip.pixels(int(Fraction(frame, 25) * 10)), SIZE, "cover")
        assert (engine.compute(reel_plan(library, reel, frame, SIZE)).picture == expected).all()


def test_preflight_names_every_mismatch_with_its_remedy(stocked: Library, tmp_path: Path) -> None:
    assert preflight(stocked, cut(stocked), "mp4") == []
    assert "empty" in preflight(stocked, cut(stocked, shots=[], joins=[]), "mp4")[0]
    said = preflight(stocked, cut(stocked, width=161), "mp4")
    assert "even width and height" in said[0]
    assert not any(
        "even width" in one for one in preflight(stocked, cut(stocked, width=161), "png")
    )
    with write_clip(tmp_path / "tall.mp4", size=Size(90, 160), rate="50").open("rb") as file:
        tall = stocked.bring_in(file, "tall.mp4")
    shots = [{"id": "t", "material": tall.id, "name": "Tall", "start": "4/25", "length": "30/25"}]
    said = preflight(stocked, cut(stocked, shots=shots, joins=[]), "mp4")
    assert any("Tall ends 24 frames early" in one for one in said)
    assert any("50 frames a second in an edit of 25" in one for one in said)
    assert any("another shape" in one for one in said)
    # Equal mismatches of several shots are one sentence, and are corrected together.
    shots += [shots[0] | {"id": "u"}, shots[0] | {"id": "v", "name": "Spire"}]
    several = findings(stocked, cut(stocked, shots=shots, joins=[]))
    rates = [one for one in several if "frames a second" in one.sentence]
    assert [one.sentence for one in rates] == [
        "Frames of Tall (2 shots) and Spire will be doubled or left out: 50 frames a second in an "
        "edit of 25."
    ]
    assert [one.shot for one in rates[0].remedies] == ["t", "u", "v"]
    long = [
        {
            "id": "j",
            "left": "a",
            "right": "b",
            "macro": "ember-fray",
            "version": 1,
            "length": "30/25",
        }
    ]
    assert any(
        "needs 15 frames after" in one
        for one in preflight(stocked, cut(stocked, joins=long), "mp4")
    )
    held = [long[0] | {"hold": True}]
    assert preflight(stocked, cut(stocked, joins=held), "mp4") == []
    gone = [long[0] | {"macro": "gone", "length": "4/25"}]
    assert any(
        "not on the shelf" in one for one in preflight(stocked, cut(stocked, joins=gone), "mp4")
    )


def test_a_join_short_of_handles_holds_the_edge_frame(stocked: Library) -> None:
    reel = cut(
        stocked,
        joins=[
            {
                "id": "j",
                "left": "a",
                "right": "b",
                "macro": "ember-fray",
                "version": 1,
                "length": "40/25",
            }
        ],
    )
    one = stocked.footage(reel.shots[0].material)
    engine = Engine()
    # The join needs twenty frames after the cut from One, which has ten, so its last frame holds.
    plan = reel_plan(stocked, reel, 6, SIZE)
    assert (engine.compute(plan).picture == fit(one.pixels(10), SIZE, "cover")).all()
    for frame in range(6, 46, 5):
        assert np.isfinite(engine.compute(reel_plan(stocked, reel, frame, SIZE)).picture).all()


def test_a_macro_travels_with_its_pictures(stocked: Library, tmp_path: Path) -> None:
    ids = {one.name: one.id for one in materials.listed(stocked.db)}
    plain = ember_fray(ids["one"], ids["two"])
    still = {"id": "still", "kind": "still", "values": {"asset": ids["card"]}}
    plain["lanes"].insert(2, {"id": "card", "name": "Card", "steps": [still]})
    effect = read_effect(plain | {"name": "With a card"})
    draft = drafts.start(stocked.db, "effect", effect.to_json(), "Begun")
    publish_draft(stocked, Engine(), draft, effect)
    data = packed(stocked, "with-a-card", 1)
    assert list(read_package(data).assets) == [f"{ids['card']}.png"]
    other = Library(tmp_path / "other")
    shelved, said = unpack(other, Engine(), data, "card.palemacro")
    assert "With a card, version 1, is on the shelf" in said
    assert [one.id for one in materials.listed(other.db)] == [ids["card"]]
    assert all(slot.stand_in is None for slot in shelved.newest.effect.slots)
    assert macros.preview(other.db, shelved.slug, 1)


def test_another_macro_of_the_same_name_comes_in_beside_it(stocked: Library) -> None:
    other = read_effect(ember_fray() | {"sentence": "Another one."})
    draft = drafts.start(stocked.db, "effect", other.to_json(), "Begun")
    mine = publish_draft(stocked, Engine(), draft, other)
    assert mine.slug == "ember-fray-2"
    data = packed(stocked, "ember-fray-2", 1)
    again, said = unpack(stocked, Engine(), data, "x.palemacro")
    assert again.slug == "ember-fray-2"
    assert "on the shelf already" in said
    assert len(macros.listed(stocked.db)) == 2


def test_opening_a_copy_twice_opens_the_same_draft(stocked: Library) -> None:
    first = copy_for_bench(stocked, "ember-fray", 1)
    assert copy_for_bench(stocked, "ember-fray", 1).id == first.id
    assert first.macro == "ember-fray"
    assert FrameRate.of(25).frames(first.head.document.get("seconds", 2.0)) == 50


def test_a_film_says_what_it_leaves_out_and_what_is_clear(stocked: Library, tmp_path: Path) -> None:
    clear = np.zeros((90, 160, 4), np.uint8)
    (tmp_path / "clear.png").write_bytes(encode_png(clear))
    with (tmp_path / "clear.png").open("rb") as file:
        logo = stocked.bring_in(file, "clear.png")
    shots = [{"id": "l", "material": logo.id, "name": "Logo", "length": 1}]
    told = preflight(stocked, cut(stocked, shots=shots, joins=[]), "mp4")
    assert any("Clear parts of Logo" in one for one in told)


def test_a_film_says_whose_sound_is_damaged(stocked: Library, tmp_path: Path) -> None:
    wave = 0.4 * np.sin(np.arange(4 * SOUND_RATE) / 20)
    tone = np.repeat(wave[:, None], 2, 1).astype(np.float32)
    path = write_clip(
        tmp_path / "heard.mp4", frames=100, sound=lambda first, count: tone[first : first + count]
    )
    with path.open("rb") as file:
        heard = stocked.bring_in(file, "heard.mp4")
    shots = [{"id": "h", "material": heard.id, "name": "Heard", "length": 3}]
    reel = cut(stocked, shots=shots, joins=[])
    assert not [one for one in preflight(stocked, reel, "mp4") if "sound" in one]
    assert "PNG pictures, 16 bits holds no sound" in " ".join(preflight(stocked, reel, "png"))
    # Some packets of its sound are damaged.
    with av.open(str(path)) as film:
        packets = [(one.pos, one.size) for one in film.demux(audio=0) if one.size]
    data = bytearray(path.read_bytes())
    for start, size in packets[40:60]:
        data[start : start + size] = b"\xff" * size
    hurt = tmp_path / "hurt.mp4"
    hurt.write_bytes(data)
    with hurt.open("rb") as file:
        short = stocked.bring_in(file, "hurt.mp4")
    shots = [{"id": "h", "material": short.id, "name": "Hurt", "length": 1}]
    told = preflight(stocked, cut(stocked, shots=shots, joins=[]), "mp4")
    assert (
        "The sound of Hurt is damaged: parts of it will be silent. Bring the file in again, "
        in (" ".join(told))
    )
    muted = cut(stocked, shots=[shots[0] | {"mute": True}], joins=[])
    assert not [one for one in preflight(stocked, muted, "mp4") if "sound" in one]


def test_what_is_missing_has_a_stand_in_and_a_remedy(stocked: Library) -> None:
    reel = cut(stocked, joins=[])
    gone = reel.shots[0].model_copy(update={"material": "0" * 32})
    reel = reel.model_copy(update={"shots": (gone, *reel.shots[1:])})
    found = next(
        one for one in findings(stocked, reel) if "is gone, so a plain card" in one.sentence
    )
    mended_edit, _ = apply_reel(reel, found.remedies[0])
    assert [shot.id for shot in mended_edit.shots] == ["b", "c"]
    # A plain card shows in its place meanwhile.
    assert np.isfinite(Engine().compute(reel_plan(stocked, reel, 3, SIZE)).picture).all()
    look = {"id": "l", "macro": "gone", "version": 4}
    shots = tuple(
        shot.model_validate(shot.model_dump() | {"looks": [look]}) if shot.id == "b" else shot
        for shot in cut(stocked).shots
    )
    missing = cut(stocked, joins=[]).model_copy(update={"shots": shots})
    frame = source(stocked, missing).at(30, SIZE)
    assert [fault.use for fault in frame.faults] == ["l"]
    picture = Engine().compute(frame.plan).picture
    plain = Engine().compute(reel_plan(stocked, cut(stocked, joins=[]), 30, SIZE)).picture
    np.testing.assert_array_equal(picture, plain)
