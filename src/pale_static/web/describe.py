"""Write the files that are generated from the models: the OpenAPI document and the JSON Schemas.

Run as ``python -m pale_static.web.describe FRONTEND_FOLDER FORMATS_FOLDER``.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

from ..core.document import effect_schema
from ..core.documents.macro import macro_schema
from ..core.documents.part import collection_schema
from ..core.reel import reel_schema
from ..core.steps import step_kinds
from . import app as app
from .endpoint import openapi


def text_of(document: dict[str, Any] | list[dict[str, Any]]) -> str:
    """The text of a document in a file."""
    return json.dumps(document, indent=2, ensure_ascii=False) + "\n"


def catalogue() -> list[dict[str, Any]]:
    """The catalogue that the search for a step uses, for tests of the page."""
    return [
        {
            "id": kind.kind,
            "label": kind.label,
            "family": kind.family,
            "sentence": kind.sentence,
            "words": list(kind.words),
            "choices": kind.choices,
        }
        for kind in step_kinds()
    ]


def limits() -> dict[str, Any]:
    """The largest lengths of text fields of each model, for the fields of the page."""
    found: dict[str, Any] = {}
    for model, schema in sorted(openapi()["components"]["schemas"].items()):
        for name, field in schema.get("properties", {}).items():
            ways = [field, *field.get("anyOf", [])]
            most = next((way["maxLength"] for way in ways if "maxLength" in way), None)
            if most is not None:
                found.setdefault(model, {})[name] = most
    return found


FOR_THE_PAGE = ("openapi.json", "catalogue.json", "limits.json")


def files() -> dict[str, str]:
    """File names and contents, the front end's files first."""
    return {
        "openapi.json": text_of(openapi()),
        "catalogue.json": text_of(catalogue()),
        "limits.json": text_of(limits()),
        "effect.schema.json": text_of(effect_schema()),
        "macro.schema.json": text_of(macro_schema()),
        "parts.schema.json": text_of(collection_schema()),
        "reel.schema.json": text_of(reel_schema()),
    }


if __name__ == "__main__":
    front, formats = Path(sys.argv[1]), Path(sys.argv[2])
    for name, text in files().items():
        folder = front if name in FOR_THE_PAGE else formats
        (folder / name).write_text(text)
