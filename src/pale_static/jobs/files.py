"""Effects and macros from files: read, set and rendered without a library."""

from __future__ import annotations

import re
import tempfile
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from ..core.checking import read_effect
from ..core.document import Effect
from ..core.engine import Engine, Evaluation
from ..core.faults import Fault, Malformed, Missing
from ..core.footage import Footage, Materials
from ..core.json_input import parse_json
from ..core.picture import Size, to_pixels
from ..core.timing import FrameRate, Moment
from ..media.opening import open_footage
from ..media.packages import package_materials, read_package
from ..media.stills import encode_png, write_file


@dataclass(frozen=True)
class Opened:
    """An effect from a file, and the pictures and fonts that came with it."""

    effect: Effect
    brought: Materials


def open_file(path: Path, folder: Path) -> Opened:
    """An effect document or a ``.palemacro``, by its content."""
    if not path.is_file():
        raise Missing(f"There is no file {path}.")
    data = path.read_bytes()
    if data[:2] == b"PK":
        package = read_package(data, path.name)
        return Opened(package.macro.effect, package_materials(package, folder))
    return Opened(read_effect(data), Materials())


def parse_length(text: str | None, rate: FrameRate, effect: Effect) -> int:
    """``2s`` or ``50`` (frames); the effect's own length by default."""
    if text is None:
        return rate.frames(effect.seconds)
    match = re.fullmatch(r"(\d+(?:\.\d+)?)(s?)", text.strip())
    if not match or float(match[1]) <= 0 or (not match[2] and "." in match[1]):
        raise Fault(f"A length is written 2s, or 50 for frames. Got “{text}”.")
    return rate.frames(float(match[1])) if match[2] else int(match[1])


def parse_at(text: str, length: int, rate: FrameRate) -> int:
    """``50%``, ``1.2s`` or ``12`` (frame)."""
    match = re.fullmatch(r"(-?\d+(?:\.\d+)?)(%|s?)", text.strip())
    if not match:
        raise Fault(f"A moment is written 50%, 1.2s, or 12 for a frame. Got “{text}”.")
    number = float(match[1])
    if match[2] == "%":
        return round(number / 100 * (length - 1))
    return round(number * float(rate)) if match[2] else round(number)


def parse_setting(text: str, effect: Effect) -> tuple[str, Any]:
    """``slug=value``; the value as JSON where it is, else as text."""
    slug, mark, raw = text.partition("=")
    if not mark:
        raise Fault(f"A setting is written slug=value. Got “{text}”.")
    control = effect.control(slug)
    if control is None:
        there = ", ".join(c.slug for c in effect.controls) or "none"
        raise Missing(f"{effect.name} has no control “{slug}”. It has: {there}.")
    if control.type in ("text", "colour", "choice"):
        return slug, raw
    try:
        return slug, parse_json(raw, f"The value of {slug}")
    except Malformed:
        return slug, raw


def place_of(text: str | None) -> tuple[str, str] | None:
    """``lane.step`` as a place; None for the output."""
    lane, _, name = (text or "").partition(".")
    return (lane, name) if text else None


@dataclass(frozen=True)
class Job:
    """Everything ``frame`` and ``render`` need."""

    effect: Effect
    size: Size
    rate: FrameRate
    length: int
    settings: dict[str, Any]
    materials: Materials


def prepare(folder: Path, given: dict[str, Any]) -> Job:
    """Read the options into what the engine takes."""
    opened = open_file(given["file"], folder)
    effect = opened.effect
    rate = FrameRate.of(given["rate"]) if given["rate"] else effect.frame_rate
    slots: dict[str, Footage] = {}
    named = [("from", given["first"]), ("to", given["second"]), ("clip", given["clip"])]
    for text in (*given["slots"], *given["mattes"]):
        name, mark, path = text.partition("=")
        if not mark:
            raise Fault(f"A slot is written NAME=FILE. Got “{text}”.")
        named.append((name, path))
    for name, path in named:
        if path is None:
            continue
        if effect.slot(name) is None:
            there = ", ".join(slot.id for slot in effect.slots) or "none"
            raise Missing(f"{effect.name} has no slot “{name}”. It has: {there}.")
        slots[name] = open_footage(path)
    settings = dict(parse_setting(text, effect) for text in given["settings"])
    if given["text"] is not None:
        control = next((c for c in effect.controls if c.type == "text"), None)
        if control is None:
            raise Missing(f"{effect.name} takes no text.")
        settings[control.slug] = given["text"]
    return Job(
        effect, Size.parse(given["size"]), rate, parse_length(given["length"], rate, effect),
        settings, replace(opened.brought, slots=slots),
    )  # fmt: skip


def write_frame(
    given: dict[str, Any], out: Path, at: str, step: str | None
) -> tuple[Moment, Evaluation]:
    """Write one frame as PNG.

    Parameters
    ----------
    given : options as the command line has them
    at : ``50%``, ``1.2s`` or a frame
    step : ``lane.step``, or None for the output
    """
    if out.suffix != ".png":
        raise Fault(f"A frame is written as PNG. Name it out.png, not {out.name}.")
    with tempfile.TemporaryDirectory() as folder:
        job = prepare(Path(folder), given)
        moment = Moment(parse_at(at, job.length, job.rate), job.length, job.rate)
        evaluation = Engine().evaluate(
            job.effect, moment, job.size, step=place_of(step),
            settings=job.settings, materials=job.materials,
        )  # fmt: skip
        write_file(out, encode_png(to_pixels(evaluation.picture)))
    return moment, evaluation
