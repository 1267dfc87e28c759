"""From a draft to the shelf, and from the shelf to a file and back."""

from __future__ import annotations

import io
from collections.abc import Mapping
from secrets import token_hex
from typing import Literal

from PIL import Image

from ..core.changes import slug_of
from ..core.document import Effect
from ..core.documents.macro import Macro, identity_of, publish, without_stand_ins
from ..core.engine import Engine
from ..core.faults import Clash
from ..core.frames.effect import EffectSource
from ..core.kernels.colour import convert
from ..core.pictures.picture import Size
from ..core.time.timing import FrameRate
from ..media.foreign.reading import read_package
from ..media.packages import Package, write_package
from ..media.program import program
from ..store import Library, drafts, kept_settings, macros
from ..store.database import now
from ..store.drafts import Draft
from ..store.macros import Shelved

PREVIEW = Size(320, 180)
PREVIEW_FRAMES = 20


def preview(engine: Engine, source: EffectSource, size: Size = PREVIEW) -> bytes:
    """A short loop of the effect, as animated WebP."""
    effect, last = source.effect, source.length - 1
    frames = []
    for k in range(PREVIEW_FRAMES):
        frame = source.at(round(k * last / (PREVIEW_FRAMES - 1)), size)
        result = engine.compute(frame.plan, passing=True)
        frames.append(Image.fromarray(convert.show(result.picture)))
    out = io.BytesIO()
    hold = [400, *[max(20, round(effect.seconds * 1000 / PREVIEW_FRAMES))] * (len(frames) - 2), 600]
    frames[0].save(
        out, "WEBP", save_all=True, append_images=frames[1:], duration=hold, loop=0, quality=70,
        method=2,
    )  # fmt: skip
    return out.getvalue()


def _source(library: Library, engine: Engine, effect: Effect) -> EffectSource:
    """The frames of an effect on its stand-ins, at 25 frames a second."""
    return EffectSource(
        effect=effect, given_rate=FrameRate.of(25), materials=library.materials_for(effect),
        states=engine.states, program=program,
    )  # fmt: skip


def publish_draft(
    library: Library, engine: Engine | None, draft: Draft, effect: Effect, **about: str
) -> Shelved:
    """Publish a draft as the next version of its macro, or as version 1 of a new one.

    Without an engine it has no moving preview yet; see :func:`add_preview`.
    """
    slug = draft.macro or macros.new_slug(library.db, effect.name)
    number = macros.get(library.db, slug).versions[0] + 1 if draft.macro else 1
    identity = macros.identity(library.db, slug) if draft.macro else token_hex(16)
    macro = publish(effect, number, published=now(), identity=identity, **about)
    shown = preview(engine, _source(library, engine, effect)) if engine else None
    shelved = macros.shelve(library.db, slug, macro, shown)
    drafts.belongs_to(library.db, draft.id, slug)
    return shelved


def add_preview(library: Library, engine: Engine, slug: str, number: int) -> None:
    """Make the moving preview of a version."""
    effect = macros.version(library.db, slug, number).effect
    shown = preview(engine, _source(library, engine, effect))
    macros.set_preview(library.db, slug, number, shown)


def packed(library: Library, slug: str, number: int) -> bytes:
    """A published version as a ``.palemacro`` file, without stand-ins."""
    macro = macros.version(library.db, slug, number)
    effect, identity = without_stand_ins(macro.effect), macros.identity(library.db, slug)
    package = Package(
        macro.model_copy(update={"effect": effect, "identity": identity}),
        library.package_files(effect),
        macros.preview(library.db, slug, number),
        tuple(kept_settings.listed(library.db, slug)),
    )
    return write_package(package)


Decision = Literal["", "both", "mine"]
"""The choice if another macro has the incoming one's name: not decided yet, keep both, or take it
as the next version of the macro on the shelf."""


def unpack(
    library: Library, engine: Engine, data: bytes, name: str, decision: Decision = ""
) -> tuple[Shelved, str]:
    """Bring a ``.palemacro`` file in, and return a sentence about it.

    Its identity decides of which macro it is a version, whatever their names are.

    Raises
    ------
    Clash
        If another macro has its name and no choice is made yet; ``where`` is "macro" then.
    """
    package = read_package(data, name)
    macro, db = package.macro, library.db
    title = f"{macro.effect.name}, version {macro.version},"
    there = {shelved.slug: shelved for shelved in macros.listed(db)}
    for known in there.values():
        if macro.version in known.versions and _same(library, known, macro):
            kept_settings.bring_in(db, known.slug, package.settings)
            return known, f"{title} is on the shelf already."
    slug, macro = _place(library, macro, there, decision)
    library.bring_in_assets(package.assets)
    shown = package.preview or preview(engine, _source(library, engine, macro.effect))
    shelved = macros.shelve(db, slug, macro, shown)
    kept_settings.bring_in(db, slug, package.settings)
    controls = len(macro.effect.faceplate)
    return shelved, (
        f"{macro.effect.name}, version {macro.version}, is on the shelf: a {macro.effect.kind} "
        f"with {controls} control{'s' if controls != 1 else ''}."
    )


def _place(
    library: Library, macro: Macro, there: Mapping[str, Shelved], decision: Decision
) -> tuple[str, Macro]:
    """The slug under which a macro comes in, and the macro to keep there."""
    identities = {slug: macros.identity(library.db, slug) for slug in there}
    own = identity_of(macro)
    same = next((slug for slug, identity in identities.items() if identity == own), None)
    if same is not None:
        return same, macro
    slug = slug_of(macro.effect.name, ())
    if slug not in there:
        return slug, macro
    if decision == "both":
        return slug_of(macro.effect.name, there), macro
    if decision == "mine":
        number = max(macro.version, there[slug].versions[0] + 1)
        return slug, macro.model_copy(update={"version": number, "identity": identities[slug]})
    maker = f", by {macro.author}," if macro.author else ""
    raise Clash(
        f"A different macro on the shelf is called “{macro.effect.name}”. Keep both, or make the "
        f"one in the file{maker} version {there[slug].versions[0] + 1} of yours.",
        "macro",
    )


def _same(library: Library, known: Shelved, macro: Macro) -> bool:
    """Whether a macro on the shelf has this exact version."""
    there = macros.version(library.db, known.slug, macro.version)
    return without_stand_ins(there.effect) == macro.effect


def copy_for_bench(library: Library, slug: str, number: int) -> Draft:
    """A draft that starts from a published version, for the macro's next one."""
    macro = macros.version(library.db, slug, number)
    for draft in drafts.listed(library.db, "effect"):
        if draft.macro == slug and draft.head.document == macro.effect.to_json():
            return draft
    words = f"Opened from version {number}"
    return drafts.start(library.db, "effect", macro.effect.to_json(), words, slug)


__all__ = ["Clash", "Macro", "copy_for_bench", "packed", "preview", "publish_draft", "unpack"]
