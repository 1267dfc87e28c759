"""What fills the slots of an effect, and the pictures and fonts that its steps name."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

from ..document import Effect
from ..documents.checking import assets_of, fonts_of
from ..footage import Filling, Footage, Materials
from ..lettering import Font


def stand_ins_of(effect: Effect, in_edit: bool) -> Iterator[tuple[str, str]]:
    """The slots that show a stand-in while they are empty, each with that material's name.

    Parameters
    ----------
    in_edit : bool
        Whether an edit uses the effect. Its empty slots then show their fallback, if they have
        one, and not the maker's stand-in.
    """
    for slot in effect.slots:
        if slot.stand_in and not (in_edit and slot.fallback != "card"):
            yield slot.id, slot.stand_in


def materials_for(
    effect: Effect, slots: Mapping[str, Filling], in_edit: bool,
    footage: Callable[[str], Footage], font: Callable[[str], Font],
) -> Materials:  # fmt: skip
    """Materials for an effect: the given fillings, else each slot's stand-in.

    Parameters
    ----------
    in_edit : bool
        As for :func:`stand_ins_of`.
    footage, font : function
        Give a material, and a font, by its name.
    """
    given: dict[str, Filling] = dict(slots)
    for name, material in stand_ins_of(effect, in_edit):
        if name not in given:
            given[name] = footage(material)
    assets = {name: footage(name) for name in assets_of(effect)}
    return Materials(given, assets, {name: font(name) for name in fonts_of(effect)})
