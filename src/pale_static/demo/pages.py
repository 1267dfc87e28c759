"""The guide's pages of macros without a page written by hand, and the list of all macros."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

from ..core.changes import slug_of
from ..core.document import Effect, Lane
from ..core.steps import step_kind

BY_WHOM = "<!-- Written from the macro by “make guide”. -->"
_HEAD = """# How the shipped macros are built

Open a copy of any on the Bench (*Shelf*, the macro, *Open a copy on the bench*) and follow its page
along. All of them at their start, middle and end, in both shapes of frame:

![All shipped macros](../../screenshots/macros.png)

| | |
|---|---|
"""


def _steps(lane: Lane) -> str:
    """A lane as a sentence: its steps in order, with their other inputs."""
    told = []
    for step in lane.steps:
        name = f"*{step_kind(step.kind).label}*"
        read = [source.lane for source in step.inputs.values()]
        if read:
            name += f" (reads {', '.join(read)})"
        if step.steps:
            held = ", ".join(step_kind(inner.kind).label for inner in step.steps)
            name += f" of {held}"
        told.append(name)
    return ", ".join(told)


def _lines(effect: Effect, name: str) -> Iterator[str]:
    yield f"# {effect.name}"
    yield ""
    yield effect.sentence
    yield ""
    yield f"![Start, middle and end, in landscape and in portrait]({name}.webp)"
    yield ""
    for note in effect.notes:
        yield note.text
        yield ""
    yield "| lane | steps |"
    yield "|---|---|"
    for lane in effect.lanes:
        yield f"| {lane.name} | {_steps(lane)} |"
    yield ""
    yield "| control | |"
    yield "|---|---|"
    for control in effect.faceplate:
        yield f"| {control.label} | {control.help} |"
    yield ""
    yield "[All macros](README.md)"
    yield ""
    yield BY_WHOM


def write(effects: Sequence[Effect], folder: Path) -> None:
    """Write the pages of these macros, and their list."""
    rows = []
    for effect in effects:
        name = slug_of(effect.name, ())
        page = folder / f"{name}.md"
        rows.append(f"| [{effect.name}]({name}.md) | {effect.sentence} |")
        if not page.exists() or BY_WHOM in page.read_text("utf-8"):
            page.write_text("\n".join(_lines(effect, name)) + "\n", "utf-8")
    (folder / "README.md").write_text(_HEAD + "\n".join(rows) + "\n", "utf-8")
