"""Kept settings: they belong to their macro, and its package holds them."""

from __future__ import annotations

import json
import zipfile
from io import BytesIO
from pathlib import Path

import pytest

from pale_static.core import Engine, Fault, read_effect
from pale_static.core.documents.macro import KeptSettings, read_settings
from pale_static.demo.content import ember_fray
from pale_static.jobs.publishing import packed, publish_draft, unpack
from pale_static.media.foreign.reading import read_package
from pale_static.store import Library, drafts, kept_settings

GENTLE = KeptSettings(name="Gentle", settings={"softness": 0.3})
STORM = KeptSettings(name="Storm", settings={"softness": 0.01, "grain": 12})


@pytest.fixture
def shelved(library: Library) -> Library:
    effect = read_effect(ember_fray())
    draft = drafts.start(library.db, "effect", effect.to_json(), "Begun")
    publish_draft(library, None, draft, effect)
    return library


def test_settings_are_kept_replaced_and_forgotten(shelved: Library) -> None:
    for one in (GENTLE, STORM):
        kept_settings.keep(shelved.db, "ember-fray", one)
    assert kept_settings.listed(shelved.db, "ember-fray") == [GENTLE, STORM]
    softer = GENTLE.model_copy(update={"settings": {"softness": 0.5}})
    kept_settings.keep(shelved.db, "ember-fray", softer)
    assert kept_settings.listed(shelved.db, "ember-fray") == [softer, STORM]
    kept_settings.remove(shelved.db, "ember-fray", "Gentle")
    assert [one.name for one in kept_settings.listed(shelved.db, "ember-fray")] == ["Storm"]
    assert kept_settings.listed(shelved.db, "other") == []


def test_they_travel_in_the_package_and_take_no_name_that_is_taken(
    shelved: Library, tmp_path: Path
) -> None:
    for one in (GENTLE, STORM):
        kept_settings.keep(shelved.db, "ember-fray", one)
    data = packed(shelved, "ember-fray", 1)
    assert read_package(data).settings == (GENTLE, STORM)
    other = Library(tmp_path / "other")
    unpack(other, Engine(), data, "ember.palemacro")
    assert kept_settings.listed(other.db, "ember-fray") == [GENTLE, STORM]
    mine = GENTLE.model_copy(update={"settings": {"softness": 0.9}})
    kept_settings.keep(other.db, "ember-fray", mine)
    unpack(other, Engine(), data, "ember.palemacro")
    assert kept_settings.listed(other.db, "ember-fray") == [mine, STORM]


def test_what_a_macro_does_not_take_is_left_out_and_nonsense_refused() -> None:
    effect = read_effect(ember_fray())
    raw = {"sets": [
        {"name": "Odd", "settings": {"softness": 99, "gone": 1, "grain": 4}},
        {"name": "Nothing", "settings": {"gone": 1}},
    ]}  # fmt: skip
    assert read_settings(raw, effect) == (KeptSettings(name="Odd", settings={"grain": 4}),)
    with pytest.raises(Fault, match="file of settings is not valid"):
        read_settings({"sets": [{"name": "", "settings": {}}]}, effect)


def test_a_damaged_file_of_settings_brings_nothing_in(shelved: Library) -> None:
    kept_settings.keep(shelved.db, "ember-fray", GENTLE)
    data = packed(shelved, "ember-fray", 1)
    out = BytesIO()
    with zipfile.ZipFile(BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        for name in old.namelist():
            wrong = json.dumps({"sets": 7}) if name == "settings.json" else old.read(name)
            new.writestr(name, wrong)
    with pytest.raises(Fault, match="file of settings is not valid at sets"):
        read_package(out.getvalue())
