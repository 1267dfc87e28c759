"""Copies of films for the screen: small, every frame a key frame, never read by renders."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
import pytest
from numpy.typing import NDArray

from pale_static.core.faults import NoRoom
from pale_static.core.pictures.picture import Size, fit_eight
from pale_static.core.time.timing import FrameRate
from pale_static.jobs import films, screen_copies
from pale_static.jobs.doctor import examine
from pale_static.media.films.film_writer import write_clip
from pale_static.media.films.screen_copy import ScreenCopy, copy_size
from pale_static.media.films.video import VideoFootage
from pale_static.media.formats import Encoding, format_of
from pale_static.media.reading import Reading
from pale_static.store import Library, materials
from pale_static.store import screen_copies as stored
from pale_static.store.library import ScreenLibrary
from pale_static.store.materials import Material
from pale_static.web import create_app

from ..web.test_api import HOST, picture


def painted(width: int, height: int, frames: int, alpha: bool = False) -> list[NDArray[Any]]:
    """Soft moving shapes with grain; with alpha, a soft edge that moves."""
    rng = np.random.default_rng(5)
    y, x = np.mgrid[0:height, 0:width].astype(np.float32) / height
    made = []
    for k in range(frames):
        wave = 0.5 + 0.4 * np.sin(9 * x + 5 * y + k / 4)
        colour = np.stack([wave, 1 - wave, 0.5 + 0.3 * np.cos(7 * y - k / 6)], -1)
        codes = 255 * colour + rng.normal(0, 2, colour.shape)
        if alpha:
            edge = np.clip((x - 0.3 - k / 60) * 4, 0, 1)[..., None]
            codes = np.concatenate([codes, 255 * edge], -1)
        made.append(np.clip(codes, 0, 255).round().astype(np.uint8))
    return made


def film(
    path: Path, frames: list[NDArray[Any]], form: str = "mp4", rate: Any = 25
) -> list[NDArray[Any]]:
    write_clip(path, Encoding(format_of(form)), FrameRate.of(rate), iter(frames), key_every=50)
    return frames


def brought(library: Library, path: Path) -> Material:
    with path.open("rb") as file:
        return library.bring_in(file, path.name)


@pytest.fixture
def library(tmp_path: Path) -> Library:
    return Library(tmp_path / "data")


def ssim(one: NDArray[Any], other: NDArray[Any]) -> float:
    """The mean structural similarity of luma (Wang et al. 2004: Gaussian window of 11 pixels with
    σ = 1.5, K1 = 0.01, K2 = 0.03)."""
    weights = np.array([0.2126, 0.7152, 0.0722])
    a, b = one[..., :3] @ weights, other[..., :3] @ weights

    def mean(plane: NDArray[Any]) -> Any:
        return cv2.GaussianBlur(plane, (11, 11), 1.5)

    low, high = (0.01 * 255) ** 2, (0.03 * 255) ** 2
    both = mean(a * b) - mean(a) * mean(b)
    spread = mean(a * a) - mean(a) ** 2 + mean(b * b) - mean(b) ** 2
    found = (2 * mean(a) * mean(b) + low) * (2 * both + high)
    return float(np.mean(found / ((mean(a) ** 2 + mean(b) ** 2 + low) * (spread + high))))


def copy_of(library: Library, material: Material) -> Path:
    (file,) = library.screen.glob(f"{stored.listed(library.db)[material.id].name}.*")
    return file


@pytest.mark.parametrize("rate", [25, "30000/1001", Fraction(50)])
def test_a_copy_shows_the_same_frames_smaller_and_each_is_a_key_frame(
    library: Library, tmp_path: Path, rate: Any
) -> None:
    film(tmp_path / "wide.mp4", painted(1920, 1080, 30), rate=rate)
    material = brought(library, tmp_path / "wide.mp4")
    screen_copies.make_all(library)
    held = stored.listed(library.db)[material.id]
    path = copy_of(library, material)
    assert held.complete
    assert held.bytes == path.stat().st_size
    whole, copy = library.footage(material.id), VideoFootage(path)
    assert (copy.length, copy.rate, copy.size) == (whole.length, whole.rate, Size(960, 540))
    with av.open(str(path)) as opened:
        assert all(packet.is_keyframe for packet in opened.demux(video=0) if packet.size)
    for index in (0, 7, 29):
        small = fit_eight(whole.pixels(index), Size(960, 540), "stretch")
        assert small is not None
        # The structural similarity also tells neighbouring frames apart.
        near = [ssim(small, copy.pixels(k)) for k in (max(0, index - 1), index)]
        assert near[-1] > 0.97
        assert near[-1] > near[0] or index == 0


def test_alpha_is_kept_within_one_code_value(library: Library, tmp_path: Path) -> None:
    film(tmp_path / "clear.mkv", painted(480, 270, 6, alpha=True), "ffv1")
    material = brought(library, tmp_path / "clear.mkv")
    screen_copies.make_all(library)
    whole, copy = library.footage(material.id), VideoFootage(copy_of(library, material))
    assert copy.size == whole.size
    for index in (0, 5):
        one, two = whole.pixels(index).astype(int), copy.pixels(index).astype(int)
        assert np.abs(one[..., 3] - two[..., 3]).max() <= 1
        # The colour of a clear pixel cannot be seen, so weighted colours are compared.
        weighted = [codes[..., :3] * codes[..., 3:] / 255 for codes in (one, two)]
        assert np.abs(weighted[0] - weighted[1]).max() <= 1


def test_a_varying_rate_and_a_film_of_one_frame_are_copied_too(
    library: Library, tmp_path: Path
) -> None:
    varying = tmp_path / "varying.mkv"
    with av.open(str(varying), "w") as out:
        stream: Any = out.add_stream("libx264", rate=25)
        stream.width, stream.height, stream.pix_fmt = 320, 180, "yuv420p"
        stream.codec_context.time_base = Fraction(1, 1000)
        for k, pixels in enumerate(painted(320, 180, 24)):
            frame = av.VideoFrame.from_ndarray(pixels, "rgb24")
            frame.pts, frame.time_base = k * 40 + (k % 3) * 15, Fraction(1, 1000)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    film(tmp_path / "one.mp4", painted(320, 180, 1))
    several = [brought(library, path) for path in (varying, tmp_path / "one.mp4")]
    screen_copies.make_all(library)
    screen = ScreenLibrary(library.folder)
    for material in several:
        whole, shown = library.footage(material.id), screen.footage(material.id)
        assert isinstance(shown, ScreenCopy)
        assert (shown.length, shown.rate) == (whole.length, whole.rate)
        for index in (0, shown.length - 1):
            assert ssim(whole.pixels(index), shown.pixels(index)) > 0.97


@pytest.mark.parametrize(
    ("size", "lines", "copy"),
    [
        (Size(3840, 2160), 540, Size(960, 540)),
        (Size(2160, 3840), 540, Size(540, 960)),
        (Size(4096, 1716), 540, Size(960, 402)),
        (Size(1000, 1000), 540, Size(540, 540)),
        (Size(321, 181), 540, Size(320, 180)),
        (Size(1920, 1080), 270, Size(480, 270)),
    ],
)
def test_a_copy_keeps_the_shape_within_its_lines(size: Size, lines: int, copy: Size) -> None:
    assert copy_size(size, lines) == copy


def test_the_screen_shows_the_copy_and_exact_pictures_and_renders_do_not(
    library: Library, tmp_path: Path
) -> None:
    film(tmp_path / "wide.mp4", painted(1280, 720, 12))
    material = brought(library, tmp_path / "wide.mp4")
    client = create_app(library).test_client()

    def shown(form: str, width: int, height: int) -> Any:
        address = (
            f"/api/materials/{material.id}/picture.{form}?frame=5&width={width}&height={height}"
        )
        return picture(client.get(address, headers=HOST))

    small, large = shown("jpg", 640, 360), shown("jpg", 1280, 720)
    exact = shown("png", 640, 360)
    before = _rendered(library, material, tmp_path / "before.mp4")
    screen_copies.make_all(library)
    assert _rendered(library, material, tmp_path / "after.mp4") == before
    assert np.array_equal(shown("png", 640, 360), exact)
    assert np.array_equal(shown("jpg", 1280, 720), large)
    copied = shown("jpg", 640, 360)
    assert not np.array_equal(copied, small)
    assert ssim(copied.astype(float), small.astype(float)) > 0.97


def _rendered(library: Library, material: Material, out: Path) -> bytes:
    source = screen_copies._frames(library.footage(material.id), 540)
    films.write(films.Film.by_name(source, out))
    return out.read_bytes()


def test_a_copy_lies_where_the_film_would_lie(library: Library, tmp_path: Path) -> None:
    """A white square on black: in each fit its corners are at the same places of the frame."""
    from pale_static.core.pictures.picture import fit

    card = np.zeros((1080, 1920, 3), np.uint8)
    card[400:700, 600:1200] = 255
    film(tmp_path / "square.mp4", [card] * 2)
    material = brought(library, tmp_path / "square.mp4")
    screen_copies.make_all(library)
    whole = library.footage(material.id)
    copy = ScreenLibrary(library.folder).footage(material.id)
    assert copy.pixels(0).shape == (540, 960, 3)
    for rule in ("cover", "contain", "stretch", "actual"):
        for frame in (Size(640, 360), Size(360, 640), Size(500, 500)):
            for focus in ((0.5, 0.5), (0.2, 0.9)):
                one = fit(whole.pixels(0), frame, rule, "clear", focus, whole.size)  # type: ignore[arg-type]
                two = fit(copy.pixels(0), frame, rule, "clear", focus, copy.size)  # type: ignore[arg-type]
                rough = np.abs(one - two)[..., :3].mean()
                assert rough < 0.02, (rule, frame, focus, rough)


def test_a_stopped_copy_goes_on(
    library: Library, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    film(tmp_path / "long.mp4", painted(320, 180, 230))
    material = brought(library, tmp_path / "long.mp4")
    progress = screen_copies._progress

    def killed(*given: Any) -> Any:
        track = progress(*given)

        def passed(frames: Any, total: int, description: str) -> Any:
            for index, pixels in track(frames, total, description):
                if index == 215:
                    raise KeyboardInterrupt
                yield index, pixels

        return passed

    monkeypatch.setattr(screen_copies, "_progress", killed)
    with pytest.raises(KeyboardInterrupt):
        screen_copies.make_all(library)
    assert not stored.listed(library.db)[material.id].complete
    asked: list[int] = []

    def noted(*given: Any) -> Any:
        track = progress(*given)

        def passed(frames: Any, total: int, description: str) -> Any:
            for index, pixels in track(frames, total, description):
                asked.append(index)
                yield index, pixels

        return passed

    monkeypatch.setattr(screen_copies, "_progress", noted)
    screen_copies.make_all(library)
    assert asked == list(range(200, 230))  # two stretches of 100 frames were there
    assert VideoFootage(copy_of(library, material)).length == 230
    assert [file.name for file in library.screen.iterdir()] == [copy_of(library, material).name]


def test_a_film_that_is_removed_or_read_another_way_meanwhile_is_not_copied_on(
    library: Library, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    film(tmp_path / "gone.mp4", painted(320, 180, 20))
    material = brought(library, tmp_path / "gone.mp4")
    monkeypatch.setattr(screen_copies, "LOOK_EVERY", 0.0)
    wanted = stored.still_wanted

    def meanwhile(change: Any) -> None:
        done: list[bool] = []

        def asked(db: Any, one: Material, name: str) -> bool:
            if not done:
                done.append(True)
                change()
            return wanted(db, one, name)

        monkeypatch.setattr(stored, "still_wanted", asked)
        screen_copies.make_all(library)

    meanwhile(lambda: materials.remove(library.db, material.id))
    assert list(library.screen.iterdir()) == []
    materials.remove(library.db, material.id, removed=False)
    meanwhile(lambda: library.read_as(material.id, Reading(range="full")))
    shown = ScreenLibrary(library.folder).footage(material.id)
    assert isinstance(shown, ScreenCopy)
    bright = library.footage(material.id).pixels(3)
    assert np.abs(shown.pixels(3).astype(int) - bright).mean() < 3


def test_what_cannot_be_copied_is_told_and_nothing_else_stops(
    library: Library, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name in ("good", "bad"):
        film(tmp_path / f"{name}.mp4", painted(320, 180, 5 if name == "good" else 6))
    good, bad = (brought(library, tmp_path / f"{name}.mp4") for name in ("good", "bad"))
    whole = library.path_of(bad).read_bytes()
    library.path_of(bad).write_bytes(whole[: len(whole) // 2])
    screen_copies.make_all(library)
    held = stored.listed(library.db)
    assert held[good.id].complete
    assert held[bad.id].problem == "bad cannot be read as a video."
    assert stored.wanted(library.db) == []  # it is not tried again and again
    found = [one.sentence for one in examine(library.folder)]
    assert any(one.startswith("There is no copy for the screen of “bad”") for one in found)
    # Switched on again, it is tried again.
    library.path_of(bad).write_bytes(whole)
    stored.switch(library.db, bad.id, on=True)
    from pale_static.media import opening

    opening._open.clear()
    screen_copies.make_all(library)
    assert stored.listed(library.db)[bad.id].complete


def test_a_full_disk_stops_the_copies_and_keeps_those_that_are_there(
    library: Library, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    film(tmp_path / "one.mp4", painted(320, 180, 5))
    one = brought(library, tmp_path / "one.mp4")
    screen_copies.make_all(library)
    film(tmp_path / "two.mp4", painted(320, 180, 6))
    two = brought(library, tmp_path / "two.mp4")

    def full(*_: Any, **__: Any) -> Any:
        raise NoRoom("The disk is full.")

    with monkeypatch.context() as patch:
        patch.setattr(screen_copies, "write", full)
        with pytest.raises(NoRoom):
            screen_copies.make_all(library)
    held = stored.listed(library.db)
    assert held[one.id].complete
    assert held[two.id].problem == "The disk is full."
    usage = screen_copies.shutil.disk_usage(library.screen)
    with monkeypatch.context() as patch:
        little = replace_free(usage, 100)
        patch.setattr(screen_copies.shutil, "disk_usage", lambda _: little)
        stored.change(library.db, stored.settings(library.db))
        with pytest.raises(NoRoom, match="less than 1 GB"):
            screen_copies.make_all(library)
    stored.change(library.db, stored.settings(library.db))
    screen_copies.make_all(library)
    assert stored.listed(library.db)[two.id].complete


def replace_free(usage: Any, free: int) -> Any:
    return type(usage)(usage.total, usage.used, free)


def test_switched_off_it_takes_no_room_and_the_film_itself_is_shown(
    library: Library, tmp_path: Path
) -> None:
    film(tmp_path / "one.mp4", painted(320, 180, 5))
    material = brought(library, tmp_path / "one.mp4")
    screen_copies.make_all(library)
    client = create_app(library).test_client()

    def post(path: str, body: Any) -> Any:
        answer = client.post(f"/api{path}", json=body, headers=HOST)
        assert answer.status_code == 200, answer.get_data(as_text=True)
        return answer.get_json()

    def state(found: Any) -> str:
        told: str = found["copies"][material.id]["state"]
        return told

    found = client.get("/api/screen-copies", headers=HOST).get_json()
    assert (state(found), found["bytes"]) == ("made", copy_of(library, material).stat().st_size)
    assert state(post(f"/materials/{material.id}/copy", {"on": False})) == "off"
    assert list(library.screen.iterdir()) == []
    assert not isinstance(ScreenLibrary(library.folder).footage(material.id), ScreenCopy)
    screen_copies.make_all(library)
    assert list(library.screen.iterdir()) == []
    assert state(post(f"/materials/{material.id}/copy", {"on": True})) == "waiting"
    screen_copies.make_all(library)
    assert state(post("/screen-copies", {"on": True, "lines": 90})) == "waiting"
    screen_copies.make_all(library)
    assert VideoFootage(copy_of(library, material)).size == Size(160, 90)
    assert state(post("/screen-copies", {"on": False})) == "off"
    assert list(library.screen.iterdir()) == []
    assert stored.wanted(library.db) == []


def test_doctor_finds_copies_that_are_gone_damaged_or_left_over(
    library: Library, tmp_path: Path
) -> None:
    for name in ("one", "two"):
        film(tmp_path / f"{name}.mp4", painted(320, 180, 5 if name == "one" else 6))
    one, two = (brought(library, tmp_path / f"{name}.mp4") for name in ("one", "two"))
    screen_copies.make_all(library)
    copy_of(library, one).unlink()
    copy_of(library, two).write_bytes(b"no film")
    (library.screen / "old-1234.mp4").write_bytes(b"x")
    found = list(examine(library.folder))
    assert sorted(one.sentence for one in found) == [
        "The copy for the screen of “one” is gone.",
        "The copy for the screen of “two” cannot be read.",
        "old-1234.mp4 is left over from a copy for the screen.",
    ]
    for finding in found:
        assert finding.mend
        finding.mend()
    assert list(examine(library.folder)) == []
    assert {material.id for material in stored.wanted(library.db)} == {one.id, two.id}


def test_a_film_brighter_than_white_is_shown_itself(library: Library, tmp_path: Path) -> None:
    film(tmp_path / "one.mp4", painted(320, 180, 3))
    material = brought(library, tmp_path / "one.mp4")
    library.read_as(material.id, Reading(transfer="PQ"))
    screen_copies.make_all(library)
    held = stored.listed(library.db)[material.id]
    assert held.problem == screen_copies.TOO_BRIGHT
    assert stored.wanted(library.db) == []
