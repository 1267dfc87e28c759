"""Broken files of every kind that is read, thrown at the one door for foreign files."""

from __future__ import annotations

import io
import json
import random
import tempfile
import zipfile
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
import opentimelineio as otio
from PIL import Image

from pale_static.core import FrameRate
from pale_static.core.built_in import DISSOLVE, built_in_effect
from pale_static.core.changes import keep_part
from pale_static.core.documents.macro import Macro
from pale_static.core.documents.part import Collection
from pale_static.core.faults import Fault
from pale_static.core.lettering import FAMILIES, shipped
from pale_static.media.films.film_writer import write_clip
from pale_static.media.foreign import readers
from pale_static.media.foreign import reading as foreign
from pale_static.media.foreign.messages import MOST_MEMORY
from pale_static.media.formats import Encoding, Format, format_of
from pale_static.media.packages import Package, write_package, write_parts

from .shots import mutated


def _pictures() -> Iterator[tuple[str, bytes]]:
    picture = Image.radial_gradient("L").convert("RGB").resize((40, 30))
    for form, ending in (("PNG", "png"), ("JPEG", "jpg"), ("WEBP", "webp"), ("TIFF", "tif")):
        data = io.BytesIO()
        picture.save(data, form)
        yield f"a.{ending}", data.getvalue()
    for form, ending in (("PNG", "moving.png"), ("WEBP", "moving.webp")):
        data = io.BytesIO()
        others = [picture.rotate(40 * k) for k in range(1, 4)]
        picture.save(data, form, save_all=True, append_images=others, duration=40)
        yield f"a-{ending}", data.getvalue()


EXR_FORMS = ("RLE", "ZIP", "ZIPS", "PIZ", "DWAA", "DWAB")


def _exr(folder: Path) -> Iterator[tuple[str, bytes]]:
    ramp = np.linspace(0, 1, 48 * 27, dtype=np.float32).reshape(27, 48)
    for form in EXR_FORMS:
        path = folder / "a.exr"
        header = {"compression": getattr(OpenEXR, f"{form}_COMPRESSION"),
                  "type": OpenEXR.scanlineimage}  # fmt: skip
        channels = {name: ramp.astype(np.float16) for name in ("R", "G", "B", "A", "deep.Y")}
        OpenEXR.File(header, channels).write(str(path))
        yield f"a-{form.lower()}.exr", path.read_bytes()


def _films(folder: Path) -> Iterator[tuple[str, bytes]]:
    def frames(form: Format) -> Iterator[Any]:
        for n in range(8):
            yield np.full((36, 64, 4 if form.pixels == "rgba8" else 3), 20 * n, np.uint8)

    wave = np.zeros((16_000, 2), np.float32)
    for slug in ("mp4", "webm", "ffv1"):
        form = format_of(slug)
        path = folder / f"a{form.ending}"
        write_clip(path, Encoding(form), FrameRate.of(25), frames(form),
                   sound=lambda first, count: wave[first : first + count], total=8)  # fmt: skip
        yield path.name, path.read_bytes()


def _timelines() -> Iterator[tuple[str, bytes]]:
    made = otio.schema.Timeline("Night")
    track = otio.schema.Track("V1", kind=otio.schema.TrackKind.Video)
    time = otio.opentime.RationalTime
    for k in range(4):
        span = otio.opentime.TimeRange(time(4, 25), time(50, 25))
        media = otio.schema.ExternalReference(f"clip{k}.mp4", span)
        track.append(otio.schema.Clip(f"clip{k}", media, span))
    track.insert(1, otio.schema.Transition("d", "SMPTE_Dissolve", time(5, 25), time(5, 25)))
    track.append(otio.schema.Gap(duration=time(25, 25)))
    made.tracks.append(track)
    yield "a.otio", otio.adapters.write_to_string(made, "otio_json").encode()
    yield (
        "a.edl",
        b"""TITLE: NIGHT
001  HALL     V     C        00:00:00:00 00:00:01:00 01:00:00:00 01:00:01:00
* FROM CLIP NAME: hall
002  WIRES    V     D    010 00:00:00:10 00:00:01:10 01:00:01:00 01:00:02:00
M2   WIRES    012.5          00:00:00:10
""",
    )
    shots = [{"id": "a", "material": "m", "name": "A", "length": "2"}]
    yield "a.json", json.dumps({"name": "E", "rate": "25", "shots": shots}).encode()


def _packages(png: bytes) -> Iterator[tuple[str, bytes]]:
    effect = built_in_effect(DISSOLVE)
    shown = effect.model_copy(update={"name": "Shown"})
    part = keep_part(effect, "Part", lanes=[effect.lanes[0].id])
    yield "a.palemacro", write_package(Package(Macro(version=1, effect=shown), {"a.png": png}, png))
    yield "a.paleparts", write_parts(Collection(name="Parts", parts=(part,)), {"a.png": png})
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as file:
        for k in range(3):
            file.writestr(f"p_{k}.png", png)
    yield "a.frames", packed.getvalue()


def samples() -> dict[str, bytes]:
    """One good file of each kind, by name."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        pictures = dict(_pictures())
        found = {**pictures, **dict(_exr(folder)), **dict(_films(folder)), **dict(_timelines()),
                 **dict(_packages(pictures["a.png"]))}  # fmt: skip
    found["a.ttf"] = shipped(next(iter(FAMILIES)), "regular").data
    found["a.cube"] = b"TITLE x\nLUT_3D_SIZE 2\n" + b"0.1 0.5 1\n" * 8
    found["a.cc"] = b"<ColorCorrection><SOPNode><Slope>1 1 1</Slope></SOPNode></ColorCorrection>"
    return found


def read(name: str, data: bytes, folder: Path) -> Any:
    """Read a file of any kind through the door."""
    ending = name.rpartition(".")[2]
    by_bytes: dict[str, Callable[..., Any]] = {
        "palemacro": foreign.read_package, "paleparts": foreign.read_parts, "cc": foreign.read_grade,
    }  # fmt: skip
    if ending in ("otio", "edl", "json"):
        return foreign.read_arrival(data, name, {})
    if ending in by_bytes:
        return by_bytes[ending](data, name)
    path = folder / name
    path.write_bytes(data)
    return foreign.facts_of(path, name)


@dataclass
class Thrown:
    """The results of many broken files."""

    taken: Counter[str] = field(default_factory=Counter)
    refused: Counter[str] = field(default_factory=Counter)
    crashed: Counter[str] = field(default_factory=Counter)
    most_memory: int = 0
    found: list[str] = field(default_factory=list)

    def throw(self, name: str, data: bytes, folder: Path, seed: int) -> None:
        """Throw one file: it is accepted, or refused with a sentence."""
        try:
            read(name, data, folder)
            self.taken[name] += 1
        except Fault as fault:
            self.refused[name] += 1
            if "its reader stopped" in fault.sentence:
                self.crashed[name] += 1
            if len(fault.sentence) < 12 or not fault.sentence.endswith((".", "?", "!")):
                self.found.append(f"{name} {seed}: no sentence: {fault.sentence!r}")
        except Exception as fault:
            self.found.append(f"{name} {seed}: {type(fault).__name__}: {fault}")


def throw_all(count: int, start: int = 0) -> Thrown:
    """Throw broken files of every kind in turn."""
    thrown, good = Thrown(), samples()
    names = list(good)
    real = readers._read_by_reader

    def watched(order: readers.Order) -> Any:
        answer = real(order)
        thrown.most_memory = max(thrown.most_memory, answer.plain[MOST_MEMORY])
        return answer

    readers._read_by_reader = watched
    try:
        with tempfile.TemporaryDirectory() as folder:
            for seed in range(start, start + count):
                name = names[seed % len(names)]
                data = mutated(good[name], random.Random(f"foreign {seed}"))
                thrown.throw(name, data, Path(folder), seed)
    finally:
        readers._read_by_reader = real
    return thrown
