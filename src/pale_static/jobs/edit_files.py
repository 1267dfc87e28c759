"""Edits from files: read them, put macros on them, and write them for other systems, without a
library."""

from __future__ import annotations

import json
import tempfile
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any

from ..core.document import Effect
from ..core.faults import Fault, Missing
from ..core.frames.edit import EditSource
from ..core.reel import Reel, layout_of
from ..core.reel.change_models import AddLook, PlaceJoin
from ..core.reel.changes import apply_reel
from ..core.time.timing import FrameRate
from ..media.foreign.reading import facts_of, read_arrival
from ..media.program import program
from ..media.timelines.edl import write_edl
from ..media.timelines.named_media import Media
from ..media.timelines.reading import Arrival
from ..media.timelines.writing import marks_csv, timeline_text, to_timeline
from ..store import Library
from .effect_files import parse_setting
from .shelf import Shelf, media_files

ENDINGS = (".otio", ".edl", ".json", ".csv")
"""The kinds of files that an edit can be exported to, besides films and pictures."""
ON = ("all-cuts", "all-shots")


def handed_on(reel: Reel, media: Mapping[str, Media], ending: str) -> tuple[str, tuple[str, ...]]:
    """An edit as the text of a file, and sentences on everything that the file cannot hold.

    Parameters
    ----------
    ending : str
        One of :data:`ENDINGS`.
    """
    if ending == ".edl":
        return write_edl(reel, media)
    if ending == ".csv":
        return marks_csv(reel), ()
    if ending == ".json":
        return json.dumps(reel.to_json(), indent=1, ensure_ascii=False), ()
    return timeline_text(to_timeline(reel, media)), ()


@dataclass(frozen=True)
class EditFile:
    """A recipe that opens the frames of an edit from a file. It can be sent to another process.

    Parameters
    ----------
    given : mapping
        The options of ``edit``: ``file``, ``media`` (folders), ``data``, ``rate``, ``macro``,
        ``on``, ``settings``, ``clear``.
    """

    given: Mapping[str, Any]

    def open(self, known: bool = False) -> EditSource:
        """The frames of the edit."""
        return self.read(known).source(bool(self.given.get("clear")))

    def read(self, known: bool = False) -> ReadEdit:
        """The edit with its media found and its macros placed.

        Parameters
        ----------
        known : bool
            Whether the process that sent this has read the files already.

        Raises
        ------
        Fault
            If the file is missing or cannot be read, or a macro does not fit its place.
        """
        given, file = self.given, Path(self.given["file"])
        if not file.is_file():
            raise Missing(f"There is no file {file}.")
        data = file.read_bytes()
        rate = FrameRate.of(given["rate"]) if given.get("rate") else None
        shelf = Shelf(Library(Path(given["data"])) if given.get("data") else None)
        # Only files that the edit names are opened, not others in the folders.
        folders = [file.parent, *(Path(one) for one in given.get("media") or ())]
        wanted = _wanted(read_arrival(data, file.name, {}, rate))
        paths = [path for path in media_files(folders) if path.stem.lower() in wanted]
        for path in () if known else paths:
            facts_of(path)  # of all before the first one is opened here, which starts threads
        for path in paths:
            shelf.bring(path, known=True)
        arrival = read_arrival(data, file.name, shelf.media, rate)
        reel, folder = arrival.reel, tempfile.TemporaryDirectory()
        if given.get("macro"):
            reel = with_macro(reel, shelf, given["macro"], given.get("on") or ON[0],
                              given.get("settings") or (), Path(folder.name), known)  # fmt: skip
        return ReadEdit(reel, shelf, arrival.notes, arrival.missing, folder)


@dataclass(frozen=True)
class ReadEdit:
    """An edit from a file with its materials and macros, and sentences about problems in it."""

    reel: Reel
    shelf: Shelf
    notes: tuple[str, ...] = ()
    missing: tuple[str, ...] = ()
    folder: Any = field(default=None, repr=False)
    """The folder into which the package was unpacked. It is deleted together with this object."""

    def source(self, clear: bool = False) -> EditSource:
        """The source of the edit's frames, on a black or a clear ground."""
        return EditSource(
            reel=self.reel, shelf=self.shelf, clear=clear, sounds=self.shelf.sound,
            program=program, held=self.folder,
        )  # fmt: skip

    def mismatches(self) -> Iterator[str]:
        """A sentence on each problem of the edit."""
        yield from self.notes
        for name in self.missing:
            yield (
                f"{name} was not found, so a plain card shows in its place. Name its folder with "
                f"--media."
            )
        layout = layout_of(self.reel)
        for join in self.reel.joins:
            try:
                self.shelf.effect(join.macro, join.version)
            except Fault as fault:
                cut = layout.spans[join.id].cut
                yield f"{fault.sentence} The cut at frame {cut} stays a cut."


def _wanted(arrival: Arrival) -> set[str]:
    """The names of all media that an edit uses, without their endings."""
    named = [*arrival.missing, *(shot.name for shot in arrival.reel.placed)]
    return {Path(name.replace("\\", "/")).stem.lower() for name in named}


def with_macro(
    reel: Reel, shelf: Shelf, macro: str, on: str, settings: Sequence[str], folder: Path,
    known: bool = False,
) -> Reel:  # fmt: skip
    """The edit with a macro on all its cuts, on one of them, or on all its shots.

    Raises
    ------
    Fault
        If the macro is of another kind, or the place does not exist.
    """
    slug, version = shelf.bring_macro(macro, folder, known)
    effect = shelf.effect(slug, version)
    told = dict(parse_setting(text, effect) for text in settings)
    if on == "all-shots":
        if effect.kind != "look":
            raise Fault(f"{effect.name} is a {effect.kind}. Only a look goes on shots.")
        change = AddLook(
            shots=tuple(shot.id for shot in reel.shots), macro=slug, version=version, settings=told
        )
        return apply_reel(reel, change)[0]
    if effect.kind != "transition":
        raise Fault(f"{effect.name} is a {effect.kind}. Only a transition goes on a cut.")
    pairs = [(one.id, two.id) for one, two in zip(reel.shots, reel.shots[1:], strict=False)
             if reel.bounds(one.id)[1] == reel.bounds(two.id)[0]]  # fmt: skip
    if on.startswith("cut:"):
        number = on.removeprefix("cut:")
        if not number.isdigit() or not 1 <= int(number) <= len(pairs):
            raise Fault(f"This edit has cuts 1 to {len(pairs)}. Got “{on}”.")
        pairs = [pairs[int(number) - 1]]
    elif on != "all-cuts":
        raise Fault(f"A macro goes on {', '.join(ON)}, or cut:1 for the first cut. Got “{on}”.")
    for left, right in pairs:
        reel = _joined(reel, left, right, slug, version, told, effect)
    return reel


def _joined(
    reel: Reel, left: str, right: str, slug: str, version: int, told: dict[str, Any],
    effect: Effect,
) -> Reel:  # fmt: skip
    """A macro on one cut, at its own length, or if that does not fit, at the longest length that
    does."""
    old = next((one for one in reel.joins if (one.left, one.right) == (left, right)), None)
    rate = reel.frame_rate
    length = rate.frames(old.length if old else Fraction(effect.seconds).limit_denominator(1000))
    shortest = min(reel.frames(reel.shot_index(one)) for one in (left, right))
    for frames in sorted({length, min(length, shortest // 2), 1}, reverse=True):
        change = PlaceJoin.model_validate({
            "cuts": [{"left": left, "right": right}], "macro": slug, "version": version,
            "settings": told, "length": max(1, frames),
            "alignment": old.alignment if old else "across",
        })  # fmt: skip
        try:
            return apply_reel(reel, change)[0]
        except Fault:
            if frames == 1:
                raise
    return reel
