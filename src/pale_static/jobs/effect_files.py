"""Effects and macros from files, with the clips and settings that the command line names."""

from __future__ import annotations

import re
import tempfile
from collections.abc import Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from ..core.document import Effect
from ..core.documents.checking import read_effect
from ..core.documents.json_input import parse_json
from ..core.engine import Engine, Evaluation
from ..core.faults import Fault, Malformed, Missing
from ..core.footage import Footage, Materials
from ..core.frames.effect import EffectSource
from ..core.pictures.picture import Size, to_pixels
from ..core.time.timing import FrameRate, Moment
from ..media.foreign.reading import facts_of, open_footage, read_package
from ..media.packages import package_materials, unpacked_macro
from ..media.pictures.stills import encode_png, write_file
from ..media.program import program


def is_package(path: Path) -> bool:
    """Whether a file is a package, and not a document."""
    with path.open("rb") as file:
        return file.read(2) == b"PK"


def open_effect(path: Path, folder: Path, known: bool = False) -> tuple[Effect, Materials]:
    """The effect in a document or a ``.palemacro`` file, with the pictures and fonts in that file.

    Parameters
    ----------
    folder : Path
        The folder into which a package is unpacked.
    known : bool
        Whether the file was read before.
    """
    if not path.is_file():
        raise Missing(f"There is no file {path}.")
    data = path.read_bytes()
    if data[:2] == b"PK":
        package = unpacked_macro(data, path.name) if known else read_package(data, path.name)
        return package.macro.effect, package_materials(package, folder, None if known else facts_of)
    return read_effect(data), Materials()


def parse_length(text: str | None, rate: FrameRate, effect: Effect) -> int:
    """``2s`` or ``50`` (frames); the effect's own length by default."""
    if text is None:
        return rate.frames(effect.seconds)
    match = re.fullmatch(r"(\d+(?:\.\d+)?)(s?)", text.strip())
    if not match or float(match[1]) <= 0 or (not match[2] and "." in match[1]):
        raise Fault(f"A length is written 2s, or 50 for frames, not “{text}”.")
    return rate.frames(float(match[1])) if match[2] else int(match[1])


def parse_at(text: str, length: int, rate: FrameRate) -> int:
    """``50%``, ``1.2s`` or ``12`` (frame)."""
    match = re.fullmatch(r"(-?\d+(?:\.\d+)?)(%|s?)", text.strip())
    if not match:
        raise Fault(f"A moment is written 50%, 1.2s, or 12 for a frame, not “{text}”.")
    number = float(match[1])
    if match[2] == "%":
        return round(number / 100 * (length - 1))
    return round(number * float(rate)) if match[2] else round(number)


def parse_setting(text: str, effect: Effect) -> tuple[str, Any]:
    """``slug=value``; the value is read as JSON if it is JSON, else as text."""
    slug, mark, raw = text.partition("=")
    if not mark:
        raise Fault(f"A setting is written slug=value, not “{text}”.")
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
class EffectFile:
    """A recipe that opens the frames of an effect from a file. It can be sent to another process.

    Parameters
    ----------
    given : mapping
        The options of ``frame`` and ``render``.
    """

    given: Mapping[str, Any]

    def open(self, known: bool = False) -> EffectSource:
        """The frames, with the clips and settings of the options.

        Parameters
        ----------
        known : bool
            Whether the process that sent this has read the files already.

        Raises
        ------
        Fault
            If a file is missing or cannot be read, or an option does not fit the effect.
        """
        folder = tempfile.TemporaryDirectory()
        given = self.given
        effect, brought = open_effect(given["file"], Path(folder.name), known)
        rate = FrameRate.of(given["rate"]) if given["rate"] else effect.frame_rate
        return EffectSource(
            effect=effect, full=Size.parse(given["size"]), given_rate=rate,
            frames=parse_length(given["length"], rate, effect),
            settings=self._settings(effect), materials=replace(brought, slots=self._slots(effect, known)),
            program=program, held=folder,
        )  # fmt: skip

    def _slots(self, effect: Effect, known: bool) -> dict[str, Footage]:
        filled = self.filled(effect)
        if not known:
            # All files are read before the first one is opened here: while this process has no
            # threads, a forked copy of it reads them, and no reader has to start.
            for path in filled.values():
                facts_of(Path(path))
        return {name: open_footage(path, known=True) for name, path in filled.items()}

    def filled(self, effect: Effect) -> dict[str, str]:
        """The files that the options name, by the slots that they fill.

        Raises
        ------
        Missing
            If the effect has no such slot.
        """
        given = self.given
        named = [("from", given["first"]), ("to", given["second"]), ("clip", given["clip"])]
        for text in (*given["slots"], *given["mattes"]):
            name, mark, path = text.partition("=")
            if not mark:
                raise Fault(f"A slot is written NAME=FILE, not “{text}”.")
            named.append((name, path))
        slots: dict[str, str] = {}
        for name, path in named:
            if path is None:
                continue
            if effect.slot(name) is None:
                there = ", ".join(slot.id for slot in effect.slots) or "none"
                raise Missing(f"{effect.name} has no slot “{name}”. It has: {there}.")
            slots[name] = path
        return slots

    def _settings(self, effect: Effect) -> dict[str, Any]:
        settings = dict(parse_setting(text, effect) for text in self.given["settings"])
        if self.given["text"] is not None:
            control = next((c for c in effect.controls if c.type == "text"), None)
            if control is None:
                raise Missing(f"{effect.name} takes no text.")
            settings[control.slug] = self.given["text"]
        return settings


def write_frame(
    given: Mapping[str, Any], out: Path, at: str, step: str | None
) -> tuple[Moment, Evaluation]:
    """Write one frame as PNG.

    Parameters
    ----------
    given : mapping
        The options of ``frame``.
    at : str
        ``50%``, ``1.2s`` or a frame.
    step : str, optional
        ``lane.step``; the output by default.
    """
    if out.suffix != ".png":
        raise Fault(f"A frame is written as PNG. Name it out.png, not {out.name}.")
    source = EffectFile(given).open()
    frame = parse_at(at, source.length, source.rate)
    evaluation = Engine().compute(source.at(frame, step=place_of(step)).plan)
    write_file(out, encode_png(to_pixels(evaluation.picture)))
    return Moment(frame, source.length, source.rate), evaluation
