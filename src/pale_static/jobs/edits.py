"""Edits from files: read, given macros, rendered or handed on, without a library."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path
from typing import Any

from numpy.typing import NDArray

from ..core.built_in import PREFIX, built_in_effect
from ..core.document import Effect
from ..core.engine import Engine
from ..core.faults import Fault, Missing, Unreadable
from ..core.footage import Filling, Footage, Materials, stand_in
from ..core.json_input import parse_json
from ..core.reel import Reel, layout_of, read_reel
from ..core.reel.change_models import AddLook, PlaceJoin
from ..core.reel.changes import apply_reel
from ..core.reel.picture import BLACK, CLEAR
from ..core.sound import Samples, Sound, has_sound, mix
from ..core.timing import FrameRate
from ..media.edl import read_edl, write_edl
from ..media.facts import HEAD, Facts, sniff
from ..media.formats import Encoding, Format, format_for, format_of
from ..media.opening import inspect_file
from ..media.otio_parts import read_otio
from ..media.sound import Mixed, shared_sound
from ..media.timelines import Media, marks_csv, media_of, timeline_text, to_timeline
from ..media.timelines_in import Arrival, found_among, from_timeline
from ..media.writing import Behind, indices_of, open_writer, room_for
from ..store import Library, macros
from . import crew
from .files import open_file, parse_setting
from .films import Track
from .frames import made_ready

ENDINGS = (".otio", ".edl", ".json", ".csv")
"""What an edit is handed on as, but for films and pictures."""
MOST_FILES = 5000
ON = ("all-cuts", "all-shots")


def read_edit(
    data: bytes, name: str, media: Mapping[str, Media], rate: FrameRate | None = None
) -> Arrival:
    """An edit from the bytes of an OpenTimelineIO file, an edit list, or a document of ours.

    Parameters
    ----------
    rate : FrameRate, optional
        For an edit list, which does not say its own.

    Raises
    ------
    Unreadable, TooLarge
    """
    if name.lower().endswith(".edl"):
        return from_timeline(read_edl(data, name, rate), media)
    if name.lower().endswith(".json"):
        return Arrival(read_reel(parse_json(data.decode("utf-8", "replace"), name)), (), ())
    return from_timeline(read_otio(data, name), media)


def handed_on(reel: Reel, media: Mapping[str, Media], ending: str) -> tuple[str, tuple[str, ...]]:
    """An edit as the text of a file, and what that file cannot hold.

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
        import json

        return json.dumps(reel.to_json(), indent=1, ensure_ascii=False), ()
    return timeline_text(to_timeline(reel, media)), ()


def library_media(library: Library) -> dict[str, Media]:
    """The materials of a library as an edit list names them."""
    from ..store import materials

    return {
        one.id: media_of(one.id, one.name, one.extension, one.facts)
        for one in materials.listed(library.db)
    }


@dataclass
class FileShelf:
    """Materials and macros from files, by the names that an edit gives them."""

    footages: dict[str, Footage] = field(default_factory=dict)
    media: dict[str, Media] = field(default_factory=dict)
    paths: dict[str, Path] = field(default_factory=dict)
    facts: dict[str, Facts] = field(default_factory=dict)
    effects: dict[tuple[str, int], Effect] = field(default_factory=dict)
    brought: dict[str, Materials] = field(default_factory=dict)
    library: Library | None = None

    def bring(self, path: str | Path) -> str:
        """Open a file of material; the name that an edit calls it by."""
        path = Path(path)
        footage, facts = inspect_file(path)
        name = footage.identity
        self.footages[name], self.facts[name], self.paths[name] = footage, facts, path
        self.media[name] = replace(
            media_of(name, path.stem, path.suffix, facts), file=str(path.resolve())
        )
        return name

    def bring_macro(self, text: str, folder: Path) -> tuple[str, int]:
        """A macro from a package, a document or the shelf of a data folder: slug and version.

        Raises
        ------
        Missing
        """
        if text.startswith(PREFIX) or text in ("dissolve", "wipe"):
            return f"{PREFIX}{text.removeprefix(PREFIX)}", 1
        path = Path(text)
        if path.is_file():
            opened = open_file(path, folder)
            effect = opened.effect
            slug = path.stem.lower()[:60] or "macro"
            self.effects[slug, 1] = effect
            self.brought[slug] = opened.brought
            return slug, 1
        if self.library is not None:
            return text, macros.get(self.library.db, text).versions[0]
        raise Missing(
            f"There is no file {text}. Name a .palemacro file, or a macro on the shelf of --data."
        )

    def footage(self, identity: str) -> Footage:
        """A material; a quiet card in place of one that is not there."""
        return self.footages.get(identity) or stand_in(identity)

    def effect(self, macro: str, version: int) -> Effect:
        """A macro."""
        if macro.startswith(PREFIX):
            return built_in_effect(macro, version)
        if (macro, version) in self.effects:
            return self.effects[macro, version]
        if self.library is not None:
            return macros.version(self.library.db, macro, version).effect
        raise Missing(
            f"Version {version} of “{macro}” is not here. Give it with --macro or --data."
        )

    def materials(self, effect: Effect, slots: Mapping[str, Filling]) -> Materials:
        """What an effect shows: what is given, else its stand-ins."""
        for (slug, _), own in self.effects.items():
            if own is effect:
                return replace(self.brought[slug], slots=dict(slots))
        if self.library is not None:
            return self.library.materials_for(effect, slots)
        return Materials(slots)

    def sound(self, identity: str) -> Sound | None:
        """The sound of a material; None for one without."""
        facts = self.facts.get(identity)
        if facts is None or not facts.may_sound:
            return None
        try:
            return shared_sound(self.paths[identity], identity)
        except Unreadable:
            return None


def media_files(folders: Iterable[Path]) -> Iterator[Path]:
    """Files of material in folders and below them."""
    count = 0
    for folder in folders:
        for path in sorted(folder.rglob("*")):
            count += 1
            if count > MOST_FILES:
                raise Fault(
                    f"There are more than {MOST_FILES} files in these folders. Name others."
                )
            if path.is_file() and _is_material(path):
                yield path


def _is_material(path: Path) -> bool:
    try:
        with path.open("rb") as file:
            return sniff(file.read(HEAD), path.name)[0] in ("video", "still", "animation")
    except (Fault, OSError):
        return False


@dataclass
class EditJob:
    """An edit from a file, and all that it is made of."""

    reel: Reel
    shelf: FileShelf
    notes: tuple[str, ...]
    missing: tuple[str, ...]


def prepare_edit(given: Mapping[str, Any], folder: Path) -> EditJob:
    """Read an edit, find its media, and put macros on it.

    Parameters
    ----------
    given : mapping
        ``file``, ``media`` (folders), ``data``, ``rate``, ``macro``, ``on``, ``settings``.
    folder : Path
        Where packages unpack to.
    """
    file = Path(given["file"])
    if not file.is_file():
        raise Missing(f"There is no file {file}.")
    data = file.read_bytes()
    rate = FrameRate.of(given["rate"]) if given.get("rate") else None
    shelf = FileShelf()
    if given.get("data"):
        shelf.library = Library(Path(given["data"]))
    # What the list names is opened, and nothing else of what lies in the folders.
    folders = [file.parent, *(Path(one) for one in given.get("media") or ())]
    wanted = _wanted(read_edit(data, file.name, {}, rate))
    for path in media_files(folders):
        if path.stem.lower() in wanted:
            shelf.bring(path)
    arrival = read_edit(data, file.name, shelf.media, rate)
    reel = arrival.reel
    if given.get("macro"):
        reel = with_macro(reel, shelf, given["macro"], given.get("on") or ON[0],
                          given.get("settings") or (), folder)  # fmt: skip
    return EditJob(reel, shelf, arrival.notes, arrival.missing)


def _wanted(arrival: Arrival) -> set[str]:
    """The names of all media that an edit asks for, without their endings."""
    named = [*arrival.missing, *(shot.name for shot in arrival.reel.placed)]
    return {Path(name.replace("\\", "/")).stem.lower() for name in named}


def with_macro(
    reel: Reel, shelf: FileShelf, macro: str, on: str, settings: Sequence[str], folder: Path
) -> Reel:
    """The edit with a macro on all its cuts, on one of them, or on all its shots.

    Raises
    ------
    Fault
        Where the macro is of another kind, or the place is not there.
    """
    slug, version = shelf.bring_macro(macro, folder)
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
    """A macro on one cut; where its own length does not fit, the longest that does."""
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


@dataclass(frozen=True)
class EditFilm:
    """The frames of an edit from a file, for a process of its own."""

    given: Mapping[str, Any]
    slug: str

    def maker(self) -> crew.Maker:
        return _Making(self)


class _Making:
    """Makes frames, and keeps what packages unpacked to for as long as it does."""

    def __init__(self, film: EditFilm) -> None:
        self.folder = tempfile.TemporaryDirectory()
        job = prepare_edit(film.given, Path(self.folder.name))
        shown = _Shown(job.reel, job.shelf, format_of(film.slug), bool(film.given["clear"]))
        self.made = shown.maker()

    def __call__(self, index: int) -> NDArray[Any]:
        made: NDArray[Any] = self.made(index)
        return made


@dataclass(frozen=True)
class _Shown:
    """The frames of an edit that is open already."""

    reel: Reel
    shelf: FileShelf
    form: Format
    clear: bool
    engine: Engine = field(default_factory=lambda: Engine(crew.CACHE_BYTES))

    def maker(self) -> crew.Maker:
        ground = CLEAR if self.clear else BLACK
        return lambda index: made_ready(
            self.shelf, self.reel, index, self.engine, self.form, ground
        )


def render_edit(
    reel: Reel, shelf: FileShelf, out: str | Path, encoding: Encoding | None = None, *,
    clear: bool = False, at: int = 0, track: Track | None = None,
    film: crew.Film | None = None, workers: int = 1,
) -> Path:  # fmt: skip
    """Render an edit with its sound; what is written goes by the name of the file.

    Parameters
    ----------
    clear : bool
        Leave what nothing covers clear instead of black, in formats with alpha.
    at : int
        The frame of a still.
    track : function, optional
        Passes frames on and shows how far they are.
    film : Film, optional
        The same frames for several processes.

    Returns
    -------
    Path
        The film, or the first of its pictures.

    Raises
    ------
    Fault
        Where the edit is empty, or does not fit the format.
    """
    if not reel.length:
        raise Fault("The edit is empty: none of its pieces could be read.")
    crew.as_for_films()
    out = Path(out)
    encoding = encoding or Encoding(format_for(out))
    form = encoding.format
    sound = _sound(reel, shelf) if form.sound else None
    writer = open_writer(out, encoding, reel.size, reel.frame_rate, reel.length, sound)
    still = form.shape == "still"
    indices = [min(at, reel.length - 1)] if still else indices_of(form, 0, reel.length)
    behind = Behind(writer, form, kept=workers == 1)
    with behind:
        made = crew.frames(
            film or _Shown(reel, shelf, form, clear), indices, workers,
            room=room_for(form, reel.size),
        )  # fmt: skip
        if track is not None:
            made = iter(track(made, len(indices), description=reel.name))
        for index, pixels in made:
            behind.put(index, pixels)
    return behind.paths[0]


def write_edit(
    given: Mapping[str, Any], out: Path, encoding: Encoding, track: Track, at: int = 0,
    workers: int | None = None,
) -> tuple[Path, EditJob]:  # fmt: skip
    """Render an edit from a file; see :func:`prepare_edit` and :func:`render_edit`."""
    with tempfile.TemporaryDirectory() as folder:
        job = prepare_edit(given, Path(folder))
        count = crew.workers_for(job.reel.size, workers)
        film = EditFilm(given, encoding.format.slug) if count > 1 else None
        made = render_edit(
            job.reel, job.shelf, out, encoding, clear=bool(given.get("clear")), at=at,
            track=track, film=film, workers=count,
        )  # fmt: skip
    return made, job


def _sound(reel: Reel, shelf: FileShelf) -> Mixed | None:
    if not has_sound(reel, shelf.sound):
        return None

    def samples(first: int, count: int) -> Samples:
        return mix(reel, shelf.sound, first, count)

    return samples


def mismatches(job: EditJob) -> Iterator[str]:
    """What is wrong with an edit from a file, in a sentence each."""
    yield from job.notes
    for name in job.missing:
        yield f"{name} was not found: a plain card stands in its place. Name its folder with --media."
    layout = layout_of(job.reel)
    for join in job.reel.joins:
        try:
            job.shelf.effect(join.macro, join.version)
        except Fault as fault:
            yield f"{fault.sentence} The cut at frame {layout.spans[join.id].cut} stays a cut."


__all__ = [
    "ENDINGS", "EditJob", "FileShelf", "found_among", "handed_on", "library_media", "mismatches",
    "prepare_edit", "read_edit", "render_edit", "with_macro", "write_edit",
]  # fmt: skip
