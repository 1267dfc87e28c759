"""Edits through OpenTimelineIO and CMX 3600: our own exactly, others as far as possible."""

from __future__ import annotations

import copy
import json
import random
from collections.abc import Iterator
from contextlib import suppress
from fractions import Fraction
from typing import Any

import numpy as np
import opentimelineio as otio
import pytest

from pale_static.core import Engine, FrameRate, Materials, Moment, Size
from pale_static.core.built_in import DISSOLVE, WIPE, built_in_effect
from pale_static.core.faults import Fault, Missing, TooLarge, Unreadable
from pale_static.core.footage import StillPicture
from pale_static.core.reel import Reel, read_reel
from pale_static.demo.edits import open_day
from pale_static.media.facts import Facts
from pale_static.media.timelines.edl import read_edl, write_edl
from pale_static.media.timelines.named_media import Media, media_of
from pale_static.media.timelines.parts import read_otio
from pale_static.media.timelines.reading import Arrival, Wanted, found_among, from_timeline
from pale_static.media.timelines.writing import marks_csv, timeline_text, to_timeline

RATE = FrameRate.of(25)
MEDIA = {
    name: Media(f"{name}-id", name, f"{name}.mp4", Fraction(8), RATE, Size(1280, 720), True)
    for name in ("hall", "wires", "ticket")
}
BY_ID = {one.id: one for one in MEDIA.values()}


def time(frames: float, rate: float = 25) -> Any:
    return otio.opentime.RationalTime(frames, rate)


def span(first: float, length: float, rate: float = 25) -> Any:
    return otio.opentime.TimeRange(time(first, rate), time(length, rate))


def clip(name: str, first: float = 0, length: float = 50, **more: Any) -> Any:
    reference = otio.schema.ExternalReference(f"file:///Volumes/Night%20tape/{name}.mp4")
    return otio.schema.Clip(name, reference, span(first, length), **more)


def timeline(*tracks: list[Any], audio: tuple[list[Any], ...] = ()) -> Any:
    made = otio.schema.Timeline("From elsewhere", global_start_time=time(0))
    kinds = otio.schema.TrackKind
    for kind, lists in ((kinds.Video, tracks), (kinds.Audio, audio)):
        for number, pieces in enumerate(lists, 1):
            track = otio.schema.Track(f"{kind[0]}{number}", kind=kind)
            track.extend(pieces)
            made.tracks.append(track)
    return made


def brought(made: Any) -> Arrival:
    """Through the text of a file and back."""
    text = otio.adapters.write_to_string(made, "otio_json")
    return from_timeline(read_otio(text.encode(), "edit.otio"), BY_ID)


def rich() -> Reel:
    """An edit with everything that an edit may hold, at times that are not whole frames."""
    return read_reel(
        {
            "format": "pale-static/reel@4", "name": "Rich", "rate": "30000/1001", "width": 640,
            "height": 360, "mark_in": "1/3", "mark_out": "4",
            "shots": [
                {"id": "a", "name": "Hall", "material": "hall-id", "start": "7/13", "gap": "1/7",
                 "length": "22/9", "gain": -3.5, "speed": "3/4", "blended": True,
                 "looks": [{"id": "l1", "macro": "soft-hour", "version": 3,
                            "settings": {"amount": 0.3}, "begin": "1/3", "length": "1"}]},
                {"id": "b", "name": "Wires", "material": "wires-id", "length": "31/15",
                 "direction": "backwards", "mute": True, "focus": [0.2, 0.8]},
                {"id": "c", "name": "Gone", "material": "nowhere", "length": "2",
                 "direction": "freeze", "fit": "contain"},
            ],
            "joins": [
                {"id": "in", "right": "a", "macro": "ember-fray", "version": 1, "length": "1/2"},
                {"id": "ab", "left": "a", "right": "b", "macro": "harbour", "version": 2,
                 "length": "17/25", "alignment": "before", "hold": True, "sound": "cut",
                 "slots": {"dirt": "ticket-id"}, "covering": ["dirt"]},
                {"id": "out", "left": "c", "macro": "quiet-luma", "version": 1, "length": "2/5"},
            ],
            "rows": [
                {"id": "row-1", "items": [
                    {"id": "t", "name": "Title", "at": "1/11", "length": "5/3", "opacity": 0.8,
                     "use": {"macro": "arrivals", "version": 1, "settings": {"text": "Last tram"}},
                     "mode": "screen", "position": [0.3, 0.6], "scale": 1.5}]},
                {"id": "row-2", "items": [
                    {"id": "p", "name": "Inset", "at": "2", "length": "1",
                     "source": {"material": "ticket-id", "start": "1/9", "gain": 2.0},
                     "looks": [{"id": "l2", "macro": "wire-glow", "version": 1, "on": False}]}]},
            ],
            "marks": [{"at": "10/7", "name": "Bell, twice"}],
        }
    )  # fmt: skip


@pytest.mark.parametrize("edit", ["rich", "open day"])
def test_what_comes_back_unchanged_is_the_same_edit_to_the_bit(edit: str) -> None:
    reel = rich() if edit == "rich" else read_reel(_open_day())
    made = to_timeline(reel, BY_ID)
    # OpenTimelineIO's own equality on its own round trip.
    text = timeline_text(made)
    assert otio.adapters.read_from_string(text, "otio_json").is_equivalent_to(made)
    back = from_timeline(read_otio(text.encode(), "x.otio"), BY_ID)
    assert back.reel.to_json() == reel.to_json()
    assert back.notes == ()


def _open_day() -> dict[str, Any]:
    class Names(dict[str, str]):
        def __missing__(self, name: str) -> str:
            return f"{name}-id"

    return dict(open_day(Names()))


def test_what_others_change_is_taken_and_the_rest_stays_exact() -> None:
    reel = rich()
    made = to_timeline(reel, BY_ID)
    shots = [one for one in made.tracks[0] if isinstance(one, otio.schema.Clip)]
    last = shots[2]
    last.source_range = otio.opentime.TimeRange(
        last.source_range.start_time, last.source_range.duration + time(10, 30000 / 1001)
    )
    shots[0].effects.clear()
    back = brought(made).reel
    assert back.shots[1] == reel.shots[1]
    assert back.frames(2) == reel.frames(2) + 10
    assert back.shots[0].looks == ()
    assert back.shots[0].speed == 1
    assert back.rows == reel.rows


def test_a_timeline_says_gaps_speeds_marks_and_transitions_in_the_terms_of_others() -> None:
    reel = rich()
    made = to_timeline(reel, BY_ID)
    track = made.tracks[0]
    kinds = [type(one).__name__ for one in track]
    assert kinds == ["Gap", "Transition", "Clip", "Transition", "Clip", "Clip", "Transition"]
    first = track[2]
    assert first.effects[0].time_scalar == 0.75
    assert track[4].effects[0].time_scalar == -1
    assert isinstance(track[5].effects[0], otio.schema.FreezeFrame)
    assert isinstance(track[5].media_reference, otio.schema.MissingReference)
    join = track[3]
    assert (join.in_offset.value, join.out_offset.value) == (20, 0)
    begin, end = reel.bounds("b")
    assert track.range_of_child(track[4]).start_time.value == begin
    assert track[4].source_range.duration.value == end - begin
    assert made.tracks.markers[0].name == "Bell, twice"
    # Sound is on tracks of its own for other systems: the muted and the frozen shot have none.
    sound = made.audio_tracks()[0]
    assert [one.name for one in sound if isinstance(one, otio.schema.Clip)] == ["Hall"]


def test_an_edit_of_another_system_comes_in() -> None:
    slow = clip("wires", 20, 50, effects=[otio.schema.LinearTimeWarp(time_scalar=0.5)])
    dissolve = otio.schema.Transition("", "SMPTE_Dissolve", time(6), time(6))
    blurred = clip("ticket", 0, 30, effects=[otio.schema.Effect("", "Blur")])
    base = [clip("hall", 10), dissolve, slow, otio.schema.Gap(source_range=span(0, 12)), blurred]
    over = [otio.schema.Gap(source_range=span(0, 25)), clip("hall", 0, 20)]
    music = [clip("song", 0, 100)]
    arrival = brought(timeline(base, over, audio=(music, [clip("hall", 10)])))
    reel = arrival.reel
    assert [reel.bounds(one.id) for one in reel.shots] == [(0, 50), (50, 100), (112, 142)]
    assert [one.material for one in reel.shots] == ["hall-id", "wires-id", "ticket-id"]
    assert (reel.shots[0].start, reel.shots[1].speed) == (Fraction(2, 5), Fraction(1, 2))
    (join,) = reel.joins
    assert (join.macro, join.alignment, join.length) == (DISSOLVE, "across", Fraction(12, 25))
    (item,) = reel.rows[0].items
    assert reel.bounds(item.id) == (25, 45)
    assert (reel.width, reel.height) == (1280, 720)
    assert arrival.missing == ()
    assert arrival.notes == (
        "The effect “Blur” on ticket is unknown here. It was left out.",
        "Sound on A1 was left out (song): in Pale Static sound belongs to its own shot.",
    )


def test_nested_edits_are_laid_flat_and_what_is_unknown_is_told() -> None:
    inner = otio.schema.Stack("Opening", source_range=span(10, 40))
    for pieces in ([clip("hall", 0, 60)], [otio.schema.Gap(source_range=span(0, 30)),
                                           clip("wires", 5, 30)]):  # fmt: skip
        track = otio.schema.Track(kind=otio.schema.TrackKind.Video)
        track.extend(pieces)
        inner.append(track)
    bars = otio.schema.Clip("Bars", otio.schema.GeneratorReference("", "SMPTEBars"), span(0, 25))
    off = clip("ticket", 0, 25)
    off.enabled = False
    arrival = brought(timeline([inner, bars, off, clip("lost", 0, 25)]))
    reel = arrival.reel
    assert [(one.name, reel.bounds(one.id)) for one in reel.shots] == [
        ("hall", (0, 20)), ("wires", (20, 40)), ("lost", (90, 115)),
    ]  # fmt: skip
    assert reel.shots[0].start == Fraction(10, 25)
    assert reel.shots[2].material == "missing:lost.mp4"
    assert arrival.missing == ("lost.mp4",)
    told = " ".join(arrival.notes)
    assert "“Opening” is an edit within the edit" in told
    assert "Bars is a generator “SMPTEBars”, which is unknown here" in told
    assert "ticket is switched off in the file" in told


def test_media_are_found_by_id_then_name_then_length() -> None:
    def media(id: str, name: str, seconds: int) -> Media:
        return Media(id, name, f"{name}.mov", Fraction(seconds))

    there = {"1": media("1", "Hall", 8), "2": media("2", "Take", 4), "3": media("3", "Take", 9)}
    assert found_among(Wanted("x", "", "3"), there) == "3"
    assert found_among(Wanted("x", "C:\\clips\\HALL.MP4"), there) == "1"
    assert found_among(Wanted("Take", "", "", Fraction(9)), there) == "3"
    assert found_among(Wanted("Nothing", "nothing.mov"), there) is None


def test_speeds_that_cannot_be_are_set_to_the_nearest_and_told() -> None:
    fast = clip("hall", 0, 50, effects=[otio.schema.LinearTimeWarp(time_scalar=10)])
    arrival = brought(timeline([fast]))
    assert arrival.reel.shots[0].speed == 4
    assert "runs at 1000 %" in arrival.notes[0]


def test_timecodes_of_sources_count_from_the_first_frame_of_the_media() -> None:
    late = otio.schema.Clip("hall", otio.schema.MissingReference(), span(90_050, 25))
    arrival = brought(timeline([late]))
    assert arrival.reel.shots[0].start == 2
    assert "count from the full hour" in arrival.notes[0]
    facts = Facts(kind="video", width=64, height=36, rate="25", frames=200, timecode="10:00:00:00")
    taped = media_of("t", "hall", ".mov", facts)
    assert taped.start == 36_000
    text = otio.adapters.write_to_string(
        timeline([otio.schema.Clip("hall", otio.schema.MissingReference(), span(900_050, 25))]),
        "otio_json",
    )
    found = from_timeline(read_otio(text.encode(), "x"), {"t": taped})
    assert found.reel.shots[0].start == 2
    assert found.notes == ()


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "cannot be read as OpenTimelineIO"),
        (b"\xff\xfe", "it holds bytes that are not text"),
        (b"{", "cannot be read as OpenTimelineIO"),
        (b'{"OTIO_SCHEMA": "Gap.1", "name": "x"}', "holds no timeline"),
        (b'{"OTIO_SCHEMA": "Timeline.1", "tracks": 3}', "cannot be read as OpenTimelineIO"),
    ],
)
def test_what_is_no_timeline_is_told(data: bytes, said: str) -> None:
    with pytest.raises(Unreadable, match=said):
        read_otio(data, "edit.otio")


def test_times_that_are_no_numbers_depth_and_crowds_are_refused(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    odd = timeline([clip("hall", float("nan"), 20)])
    with pytest.raises(Unreadable, match="A time of hall is not a number"):
        from_timeline(odd, BY_ID)
    short = timeline([clip("hall", 0, -20)])
    with pytest.raises(Unreadable, match="length below zero"):
        from_timeline(short, BY_ID)
    inner: Any = clip("hall")
    for _ in range(30):
        outer = otio.schema.Track()
        outer.append(inner)
        inner = outer
    with pytest.raises(Unreadable, match="nested more than 16 deep"):
        from_timeline(timeline([inner]), BY_ID)
    monkeypatch.setattr("pale_static.media.timelines.reading.MOST_CHILDREN", 50)
    with pytest.raises(TooLarge, match="more than 50 pieces"):
        from_timeline(timeline([clip("hall", 0, 1) for _ in range(60)]), BY_ID)


def test_our_settings_that_were_tampered_with_are_refused() -> None:
    made = json.loads(timeline_text(to_timeline(rich(), BY_ID)))
    text = json.dumps(made).replace('"opacity": 0.8', '"opacity": 80')
    with pytest.raises(Unreadable, match="Title cannot be read: opacity"):
        from_timeline(read_otio(text.encode(), "x.otio"), BY_ID)


# CMX 3600, written from its published columns: event, reel, channels, transition, its frames,
# source in and out, record in and out.
LIST = """TITLE:   LAST NIGHT
FCM: DROP FRAME

001  HALL     V     C        01:00:00;00 01:00:04;00 01:00:00;00 01:00:04;00
* FROM CLIP NAME:  HALL
002  HALL     V     C        01:00:04;00 01:00:04;00 01:00:04;00 01:00:04;00
002  WIRES    V     W001 030 00:10:00;00 00:10:05;00 01:00:04;00 01:00:09;00
* FROM CLIP NAME:  HALL
* TO CLIP NAME:  WIRES
003  WIRES    V     C        00:10:05;00 00:10:05;00 01:00:09;00 01:00:09;00
003  TICKET   V     D    024 00:00:01;00 00:00:04;00 01:00:09;00 01:00:12;00
* FROM CLIP NAME:  WIRES
* TO CLIP NAME:  TICKET
M2   TICKET       015.0                00:00:01;00
004  BL       V     C        00:00:00;00 00:00:02;00 01:00:12;00 01:00:14;00
005  MAP      AA    C        00:00:00;00 00:00:02;00 01:00:12;00 01:00:14;00
006  MAP      B     C        00:00:00;00 00:00:02;00 01:00:14;00 01:00:16;00
"""


def test_a_cmx_list_comes_in_with_wipes_dissolves_speeds_and_drop_frames() -> None:
    arrival = from_timeline(read_edl(LIST.encode(), "night.edl"), BY_ID)
    reel = arrival.reel
    assert (reel.name, reel.rate) == ("LAST NIGHT", "30000/1001")
    # SMPTE ST 12-1: from 01:00:09;00 to 01:00:12;00 drop no number; 01:00:00;00 is frame 107892.
    assert [reel.bounds(one.id) for one in reel.shots] == [
        (0, 120), (120, 270), (270, 360), (420, 480),
    ]  # fmt: skip
    assert [one.material for one in reel.shots][:3] == ["hall-id", "wires-id", "ticket-id"]
    assert [(one.macro, one.alignment) for one in reel.joins] == [
        (WIPE, "after"), (DISSOLVE, "after"),
    ]  # fmt: skip
    assert [round(one.length * reel.frame_rate.exact) for one in reel.joins] == [30, 24]
    assert float(reel.shots[2].speed) == pytest.approx(15 / 29.97, abs=1e-4)
    assert arrival.missing == ("MAP",)


def test_an_edit_makes_the_trip_through_a_list_and_back() -> None:
    plain = {
        "format": "pale-static/reel@4", "name": "Cut 2", "rate": "25",
        "shots": [
            {"id": "a", "name": "hall", "material": "hall-id", "start": "2/5", "length": "3"},
            {"id": "b", "name": "wires", "material": "wires-id", "start": "1", "length": "2",
             "speed": "3/2"},
            {"id": "c", "name": "hall", "material": "hall-id", "gap": "1", "length": "2",
             "direction": "backwards", "start": "1"},
            {"id": "d", "name": "ticket", "material": "ticket-id", "length": "1",
             "direction": "freeze", "start": "4/5"},
        ],
        "joins": [
            {"id": "ab", "left": "a", "right": "b", "macro": WIPE, "version": 1, "length": "16/25"},
            {"id": "cd", "left": "c", "right": "d", "macro": "harbour", "version": 1,
             "length": "2/5", "alignment": "after"},
        ],
    }  # fmt: skip
    reel = read_reel(plain)
    text, notes = write_edl(reel, BY_ID)
    assert notes == ("The macro on one cut is a dissolve in the list.",)
    assert "FCM: NON-DROP FRAME" in text
    back = from_timeline(read_edl(text.encode(), "x.edl", RATE), BY_ID).reel
    for one, two in zip(reel.shots, back.shots, strict=True):
        assert back.bounds(two.id) == reel.bounds(one.id)
        assert (two.material, two.start, two.speed, two.direction) == (
            one.material, one.start, one.speed, one.direction,
        )  # fmt: skip
    assert [(one.length, one.alignment) for one in back.joins] == [
        (one.length, one.alignment) for one in reel.joins
    ]
    assert [one.macro for one in back.joins] == [WIPE, DISSOLVE]


def test_a_list_tells_what_it_cannot_hold() -> None:
    text, notes = write_edl(rich(), BY_ID)
    assert "FCM: DROP FRAME" in text
    assert notes == (
        "The transition out of Gone is a cut in the list.",
        "Macros on 2 cuts are dissolves in the list.",
        "2 items on rows above are not in the list: it has one track.",
        "Looks are not in the list.",
    )


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("TITLE: NOTHING\n", "has no events"),
        ("001 A V C 00:00:00:00 00:00:01:00 00:00:00:00\n",
         "line 1 looks like an event and cannot be read"),
        ("001 A V C 00:00:00:00 00:00:02:00 00:00:00:00 00:00:02:00\n"
         "002 B V C 00:00:00:00 00:00:02:00 00:00:01:00 00:00:03:00\n",
         "line 2, event 002 begins at 00:00:01:00, before the event above it ends"),
        ("001 A V C 00:00:00:00 00:00:01:00 00:00:02:00 00:00:01:00\n",
         "its record out 00:00:01:00 is before its record in"),
        ("001 A V C 00:99:00:00 00:00:01:00 00:00:00:00 00:00:01:99\n", "is not a timecode"),
    ],
)  # fmt: skip
def test_a_list_that_cannot_be_is_refused_with_its_line(text: str, said: str) -> None:
    with pytest.raises(Unreadable, match=said):
        from_timeline(read_edl(text.encode(), "x.edl"), BY_ID)


@pytest.mark.parametrize("slug", [DISSOLVE, WIPE])
def test_plain_transitions_are_exact_at_both_ends(slug: str) -> None:
    rng = np.random.default_rng(1)
    one, two = (rng.integers(0, 256, (9, 16, 3)).astype(np.uint8) for _ in "ab")
    given = Materials({"from": StillPicture("a", one), "to": StillPicture("b", two)})
    for frame, clip in ((0, one), (24, two)):
        moment = Moment(frame, 25, RATE)
        made = Engine().evaluate(built_in_effect(slug), moment, Size(16, 9), materials=given)
        np.testing.assert_array_equal(made.picture[..., :3] * 255, clip.astype(np.float32))
    with pytest.raises(Missing, match="no built-in effect"):
        built_in_effect("built-in:page", 1)


def test_marks_leave_as_a_table() -> None:
    assert marks_csv(rich()).splitlines() == [
        "timecode,frame,seconds,name", '00:00:01;13,43,1.428571,"Bell, twice"'
    ]  # fmt: skip
    assert issubclass(Unreadable, Fault)


ODD: tuple[Any, ...] = (
    None, 0, -1, 1e308, float("nan"), "", [], {}, "x" * 50, True, -5.5, 2**70, [[]],
    {"OTIO_SCHEMA": "Clip.2"}, {"OTIO_SCHEMA": "Nope.9"},
)  # fmt: skip


def places(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Every place in plain JSON."""
    if path:
        yield path
    parts = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(
        value, list
    ) else ()  # fmt: skip
    for name, part in parts:
        yield from places(part, (*path, name))


def test_a_timeline_with_anything_in_it_comes_in_or_is_refused_in_words() -> None:
    whole = json.loads(timeline_text(to_timeline(rich(), BY_ID)))
    spots = list(places(whole))
    for seed in range(400):
        chance = random.Random(seed)
        changed = copy.deepcopy(whole)
        for _ in range(chance.randint(1, 3)):
            path, value = chance.choice(spots), changed
            with suppress(KeyError, IndexError, TypeError):
                for name in path[:-1]:
                    value = value[name]
                value[path[-1]] = chance.choice(ODD)
        text = json.dumps(changed).encode()
        with suppress(Fault):
            assert from_timeline(read_otio(text, "odd.otio"), BY_ID).reel.length >= 0


def test_a_list_with_anything_in_it_comes_in_or_is_refused_in_words() -> None:
    for seed in range(400):
        chance = random.Random(seed)
        data = bytearray(LIST.encode())
        for _ in range(chance.randint(1, 6)):
            at = chance.randrange(len(data))
            some = bytes(
                chance.choice(b"0123456789:; ACDVWM*") for _ in range(chance.randint(0, 3))
            )
            data[at : at + chance.randint(0, 3)] = some
        with suppress(Fault):
            assert from_timeline(read_edl(bytes(data), "odd.edl"), BY_ID).reel.length >= 0


def test_a_file_that_nests_too_deep_never_reaches_the_librarys_reader() -> None:
    # The reader has no limit of its own: a file like this would end the process.
    deep = (
        b'{"OTIO_SCHEMA": "Timeline.1", "metadata": ' + b'{"a":' * 300_000 + b"1" + b"}" * 300_001
    )
    with pytest.raises(Unreadable, match="nests its parts more than 500 deep"):
        read_otio(deep, "deep.otio")
    # An escaped character in a text does not hide the characters after it.
    hidden = deep.replace(b'"metadata": ', b'"name": "one\\ntwo", "metadata": ', 1)
    with pytest.raises(Unreadable, match="nests its parts more than 500 deep"):
        read_otio(hidden, "hidden.otio")
    told = b'{"OTIO_SCHEMA": "Timeline.1", "name": "' + b"[{" * 5000 + b'", "tracks": null}'
    assert read_otio(told, "words.otio").name.startswith("[{")
