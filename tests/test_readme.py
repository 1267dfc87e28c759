"""The README's commands and examples work exactly as written."""

from __future__ import annotations

import json
import re
import subprocess
import sys
from pathlib import Path

import av
from click.testing import CliRunner
from PIL import Image

from pale_static.cli import main
from pale_static.demo.content import ember_fray

from .conftest import write_clip

ROOT = Path(__file__).parents[1]
README = (ROOT / "README.md").read_text()


def test_the_python_example_runs(tmp_path: Path) -> None:
    code = re.search(r"```python\n(from pale_static import core.*?)```", README, re.DOTALL)
    assert code
    (tmp_path / "ember-fray.json").write_text(json.dumps(ember_fray()))
    write_clip(tmp_path / "a.mp4", frames=30, hue=0)
    write_clip(tmp_path / "b.mp4", frames=30, hue=2)
    subprocess.run([sys.executable, "-c", code[1]], cwd=tmp_path, check=True)
    assert Image.open(tmp_path / "frame.png").size == (1280, 720)


def test_the_example_step_is_the_real_one() -> None:
    code = re.search(r"```python\n(@step\(.*?)```", README, re.DOTALL)
    assert code
    assert code[1] in (ROOT / "src/pale_static/core/steps/tone.py").read_text()


def test_every_command_and_option_named_exists() -> None:
    lines = re.findall(r"^    pale-static (\w+) ?(.*)$", README, re.MULTILINE)
    assert {name for name, _ in lines} == set(main.commands)
    for name, rest in lines:
        told = CliRunner().invoke(main, [name, "--help"]).output
        for option in re.findall(r"(?<!\S)--?[a-z]+", rest):
            assert option in told, (name, option)


def test_every_link_leads_somewhere() -> None:
    pages = [ROOT / "README.md", *(ROOT / "docs").rglob("*.md")]
    for page in pages:
        for link in re.findall(r"\]\(([^)#]+)\)", page.read_text()):
            if not link.startswith("http"):
                assert (page.parent / link).exists(), (page.name, link)


def test_every_screenshot_is_shown() -> None:
    shots = sorted(path.name for path in (ROOT / "docs/screenshots").glob("*.png"))
    assert 0 < len(shots) < 20
    assert all(name in README for name in shots)


def test_every_shipped_macro_has_a_page_that_knows_its_controls() -> None:
    from pale_static.core import read_effect
    from pale_static.core.changes import slug_of
    from pale_static.demo.sheet import MACROS

    folder = ROOT / "docs/guide/macros"
    listed = (folder / "README.md").read_text("utf-8")
    effects = [read_effect(make()) for make in MACROS]
    slugs = {slug_of(effect.name, ()) for effect in effects}
    assert {path.stem for path in folder.glob("*.md")} == slugs | {"README"}
    assert {path.stem for path in folder.glob("*.webp")} == slugs
    for effect in effects:
        slug = slug_of(effect.name, ())
        page = (folder / f"{slug}.md").read_text("utf-8")
        assert f"| [{effect.name}]({slug}.md) | {effect.sentence} |" in listed
        assert f"# {effect.name}\n\n{effect.sentence}\n" in page
        for control in effect.controls:
            assert f"| {control.label} | {control.help} |" in page, effect.name


def test_the_guides_pages_of_steps_are_not_stale() -> None:
    from pale_static.guide import pages

    folder = ROOT / "docs/guide/steps"
    found = {path.name: path.read_text("utf-8") for path in folder.glob("*.md")}
    assert found == pages(), "run make guide"
    pictures = {path.stem for path in folder.glob("*.webp")}
    assert pictures == {Path(name).stem for name in found if name != "README.md"}


def test_the_guides_page_of_formats_is_not_stale() -> None:
    from pale_static.guide import formats_page

    found = (ROOT / "docs/guide/formats.md").read_text("utf-8")
    assert found == formats_page(), "run make guide"


def test_the_edit_in_python_runs(tmp_path: Path) -> None:
    code = re.search(r"```python\n(from pale_static.core.frames.*?)```", README, re.DOTALL)
    assert code
    write_clip(tmp_path / "a.mp4", frames=30, hue=0)
    write_clip(tmp_path / "b.mp4", frames=30, hue=2)
    subprocess.run([sys.executable, "-c", code[1]], cwd=tmp_path, check=True)
    with av.open(str(tmp_path / "film.mp4")) as film:
        assert film.streams.video[0].frames == 50
