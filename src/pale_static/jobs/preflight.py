"""Check an edit before a render: one sentence for each mismatch, with a change that corrects it."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np

from ..core.faults import Fault, Missing, Unreadable
from ..core.footage import Footage
from ..core.frames.edit import EditSource
from ..core.reel import Join, Reel, handles, layout_of, uses_of
from ..core.reel.change_models import Remove, SetJoin, SetReel, SetShot, SetUse
from ..core.reel.document import Item, Shot, Source
from ..core.sound import has_sound
from ..core.time.timing import whole_frames
from ..media.formats import Format
from .shelf import Shelf

Remedy = SetReel | SetShot | SetJoin | SetUse | Remove


@dataclass(frozen=True)
class Mismatch:
    """A mismatch in one sentence, with the changes that correct it and the label of their button."""

    sentence: str
    words: str = ""
    remedies: tuple[Remedy, ...] = ()


def preflight(shelf: Shelf, reel: Reel, form: Format) -> list[Mismatch]:
    """Every mismatch of size, rate, length, macros and materials."""
    if not reel.length:
        return [Mismatch("The edit is empty. Put a shot on it first.")]
    known = shelf.lasts(reel)
    of_shots = (
        (one.name, found) for one in reel.placed for found in _source(shelf, reel, one, known)
    )
    of_joins = (found for join in reel.joins for found in _handles(reel, join, known))
    others = (_sounds(shelf, reel, form), _macros(shelf, reel), of_joins)
    return [
        *_format(reel, form),
        *_together(of_shots),
        *_together((None, found) for each in others for found in each),
    ]


MOST_NAMES = 5
"""The most names in one sentence."""


def _together(found: Iterable[tuple[str | None, Mismatch]]) -> Iterator[Mismatch]:
    """Merge equal mismatches into one sentence; {} in it stands for the names of the shots."""
    alike: dict[tuple[str, str], tuple[list[str], list[Remedy]]] = {}
    for name, one in found:
        names, remedies = alike.setdefault((one.sentence, one.words), ([], []))
        if name is not None:
            names.append(name)
        remedies.extend(one.remedies)
    for (sentence, words), (names, remedies) in alike.items():
        said = sentence.replace("{}", _listed(names)) if names else sentence
        yield Mismatch(said, words, tuple(remedies))


def _listed(names: Sequence[str]) -> str:
    """A, B (2 shots) and C."""
    each = [name if n == 1 else f"{name} ({n} shots)" for name, n in Counter(names).items()]
    if len(each) > MOST_NAMES:
        each[MOST_NAMES - 1 :] = [f"{len(each) - MOST_NAMES + 1} more"]
    return " and ".join([", ".join(each[:-1]), each[-1]] if len(each) > 1 else each)


def _format(reel: Reel, form: Format) -> Iterator[Mismatch]:
    if not form.there:
        yield Mismatch(f"{form.label} needs an encoder that is not on this machine.")
    wrong = form.wrong_size(reel.size)
    if wrong:
        sentence, right = wrong
        yield Mismatch(
            f"{sentence} Change the size of the edit, or choose another format.",
            f"Make it {right.shown}", (SetReel(width=right.width, height=right.height),),
        )  # fmt: skip


def _source(
    shelf: Shelf, reel: Reel, one: Shot | Item, known: dict[str, Fraction | None]
) -> Iterator[Mismatch]:
    """Mismatches of a shot's or a clip's material with the edit; {} stands for its name."""
    source = one if isinstance(one, Source) else one.source
    if source is None:
        return
    if source.material not in known:
        yield Mismatch(
            "The material of {} is gone, so a plain card shows in its place. Bring the file in "
            "again.",
            "Take it off",
            (Remove(names=(one.id,)),),
        )
        return
    footage = shelf.footage(source.material)
    whole = known[source.material]
    if whole is not None and source.direction != "freeze":
        begin, end = reel.bounds(one.id)
        rate = reel.frame_rate.exact / source.speed
        there = whole_frames(max(Fraction(0), whole - source.start), rate)
        if there < end - begin:
            over = end - begin - there
            whole_shot = SetShot(shot=one.id, length=max(1, there))
            # Played backwards, the end of the material comes first.
            late = SetShot(shot=one.id, head=min(over, end - begin - 1))
            yield Mismatch(
                f"The material of {{}} ends {over} frames early: its last frame will stand still. "
                "Trim the shot to avoid that.",
                f"Trim it to {max(1, there)} frames",
                (late if source.direction == "backwards" else whole_shot,),
            )
    own_rate = footage.rate
    if own_rate is not None and own_rate != reel.frame_rate and not source.blended:
        yield Mismatch(
            f"Frames of {{}} will be doubled or left out: {float(own_rate):.5g} frames a second in "
            f"an edit of {float(reel.frame_rate):.5g}.",
            "Blend frames",
            (SetShot(shot=one.id, blended=True),),
        )
    if not isinstance(one, Shot):
        return
    if has_alpha(footage):
        yield Mismatch(
            "Clear parts of {} will be black in a film, because there is nothing below the "
            "shots. Put it "
            "on a row above, or choose another clip."
        )
    wide = footage.size.width / footage.size.height
    if abs(wide / (reel.width / reel.height) - 1) > 0.02:
        other = "contain" if source.fit == "cover" else "cover"
        yield Mismatch(
            f"The edit has another shape than {{}}, {footage.size.width}×{footage.size.height}: "
            f"fitted by “{source.fit}”.",
            "Show all of it" if other == "contain" else "Let it cover the frame",
            (SetShot(shot=one.id, fit=other),),
        )
    if source.fit == "cover" and footage.size.height < reel.height * 0.75:
        yield Mismatch("The picture of {} will be enlarged: the edit is larger.")


def _sounds(shelf: Shelf, reel: Reel, form: Format) -> Iterator[Mismatch]:
    """Mismatches of sound: sound that is left out or cannot be read."""
    if not form.sound:
        if form.shape in ("sequence", "animation") and has_sound(reel, shelf.sound):
            yield Mismatch(
                f"{form.label} holds no sound, so the sound is left out. Render a film to have it."
            )
        return
    heard: dict[str, list[str]] = {}
    for one in reel.placed:
        source = one if isinstance(one, Source) else one.source
        if source is not None and not source.mute and source.direction != "freeze":
            heard.setdefault(source.material, []).append(one.id)
    for material, names in heard.items():
        name = reel.named(names[0]).name
        try:
            sound = shelf.read_sound(material)
            # Damage shows only when all of it is read; the strip uses the same peaks.
            if sound is None or not (shelf.peaks(material) and sound.damaged):
                continue
            sentence = f"The sound of {name} is damaged: parts of it will be silent."
        except Missing:
            continue
        except Unreadable:
            sentence = f"The sound of {name} cannot be read: it will be silent."
        yield Mismatch(f"{sentence} Bring the file in again, or mute it.")


def has_alpha(footage: Footage) -> bool:
    """Whether a material has clear parts, judged by its first frame."""
    pixels = footage.pixels(0)
    if pixels.shape[2] < 4:
        return False
    top = 1.0 if pixels.dtype.kind == "f" else np.iinfo(pixels.dtype).max
    return bool((pixels[..., 3] < top).any())


def _macros(shelf: Shelf, reel: Reel) -> Iterator[Mismatch]:
    """Missing versions, and macros that cannot be computed at their places."""
    layout = layout_of(reel)
    spans = {name: (span.first, span.end) for name, span in layout.spans.items()}
    for one in reel.placed:
        spans |= {look.id: layout.seen(one.id) for look in one.looks} | {
            one.id: layout.seen(one.id)
        }
    source = EditSource(reel=reel, shelf=shelf)
    computed: set[tuple[Any, ...]] = set()
    for name, use in uses_of(reel):
        try:
            shelf.effect(use.macro, use.version)
        except Fault as fault:
            yield _missing(shelf, name, use.macro, fault.sentence)
            continue
        first, end = spans[name]
        # Equal uses fail in the same way, so with thousands of shots only one of each kind is
        # computed.
        alike = (use.macro, use.version, json.dumps(use.settings, sort_keys=True),
                 *sorted(use.slots.items()), end - first)  # fmt: skip
        if alike in computed:
            continue
        computed.add(alike)
        for frame in sorted({first, (first + end) // 2, end - 1}):
            try:
                faults = source.at(min(frame, reel.length - 1)).faults
            except Fault:
                continue  # not the fault of a macro; the render will report it
            own = next((one for one in faults if one.use == name), None)
            if own is not None:
                yield Mismatch(
                    f"{own.sentence} Frame {frame} is rendered without it.",
                    "Take it off", (Remove(names=(name,)),),
                )  # fmt: skip
                break


def _missing(shelf: Shelf, name: str, slug: str, sentence: str) -> Mismatch:
    try:
        newest = shelf.newest(slug)
    except Missing:
        return Mismatch(
            f"{sentence} The edit goes on without it.", "Take it off", (Remove(names=(name,)),)
        )
    return Mismatch(
        f"{sentence} The edit goes on without it.",
        f"Use version {newest}", (SetUse(uses=(name,), version=newest),),
    )  # fmt: skip


def _handles(reel: Reel, join: Join, known: dict[str, Fraction | None]) -> Iterator[Mismatch]:
    hold = handles(reel, join, known)
    if join.left is None or not hold.short or join.hold:
        return
    left = reel.named(join.left)
    yield Mismatch(
        f"The join after {left.name} needs {hold.left_needs} frames after the cut and "
        f"{hold.right_needs} before it; the shots have {_told(hold.left_spare)} and "
        f"{_told(hold.right_spare)}. The first or last frame will stand still there: shorten or "
        "slide the join to avoid that.",
        "Hold the edge frame",
        (SetJoin(join=join.id, hold=True),),
    )


def _told(spare: int | None) -> str:
    return "enough" if spare is None else str(spare)
