"""Built-in effects: plain transitions, and recipes that a new effect can start from."""

from __future__ import annotations

from functools import lru_cache

from ..document import Effect
from ..documents.checking import read_effect
from ..faults import Missing
from . import plain
from .making import Document
from .recipes import RECIPES as _RECIPES

PREFIX = "built-in:"
"""No macro on a shelf has a slug like this: slugs hold no colon."""
VERSION = 1


def _slug(document: Document) -> str:
    return PREFIX + document["name"].lower().replace(" ", "-")


DISSOLVE, WIPE = _slug(plain.DISSOLVE), _slug(plain.WIPE)
RECIPES = tuple(_slug(document) for document in _RECIPES)
_DOCUMENTS = {_slug(one): one for one in (plain.DISSOLVE, plain.WIPE, *_RECIPES)}


@lru_cache
def built_in_effect(slug: str, version: int = VERSION) -> Effect:
    """A built-in transition or a recipe.

    Raises
    ------
    Missing
    """
    if slug not in _DOCUMENTS or version != VERSION:
        raise Missing(f"There is no built-in effect “{slug}”, version {version}.")
    return read_effect(_DOCUMENTS[slug])
