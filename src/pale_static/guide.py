"""The guide's pages of steps, written from their declarations.

``python -m pale_static.guide docs/guide/steps`` writes one page a step and a list of them.
"""

from __future__ import annotations

import inspect
import io
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from PIL import Image

from .core import Engine, FrameRate, Materials, Moment, Size, StillPicture, read_effect
from .core.document import Effect
from .core.kernels import convert
from .core.params import tidy
from .core.steps import StepKind, step_kinds


def _range(low: float | None, high: float | None) -> str:
    if low is None and high is None:
        return "any"
    ends = ("−∞" if low is None else tidy(low), "∞" if high is None else tidy(high))
    return " … ".join(ends)


def _shown(value: Any) -> str:
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, (int, float)):
        return tidy(value)
    if isinstance(value, (list, tuple)):
        return ", ".join(_shown(part) for part in value)
    return str(value) or "–"


def _values(kind: StepKind) -> Iterator[str]:
    yield "| value | default | slider | allowed | unit | |"
    yield "|---|---|---|---|---|---|"
    for param in kind.params:
        told = param.describe()
        slider = allowed = unit = ""
        if told["type"] == "number":
            slider = _range(*told["slider"])
            allowed, unit = _range(*told["allowed"]), told["unit"]
        elif told["type"] in ("choice", "slot"):
            slider = ", ".join(told.get("options", ()))
        help = told["help"] + ("" if told["moves"] else " Does not move.")
        cells = (told["label"], _shown(told["default"]), slider, allowed, unit, help.strip())
        yield "| " + " | ".join(cell.replace("|", "¦") for cell in cells) + " |"


def page(kind: StepKind) -> str:
    """One step's page, as Markdown."""
    takes = {"picture": "a picture", "matte": "a matte", "either": "a picture or a matte"}
    lines = [f"# {kind.label}", "", kind.sentence, "", f"![{kind.label}]({kind.kind}.webp)", ""]
    starts = "It starts a lane." if kind.main is None else f"It takes {takes[kind.main]}."
    gives = {"picture": "a picture", "matte": "a matte", "same": "what it takes"}[kind.gives]
    lines += [f"Family: {kind.family}. {starts} It gives {gives}.", ""]
    if kind.taps:
        lines += ["| input | takes | |", "|---|---|---|"]
        for tap in kind.taps:
            may = " May be left out." if tap.optional else ""
            lines.append(f"| {tap.name.replace('_', ' ')} | {takes[tap.takes]} | {tap.help}{may} |")
        lines.append("")
    if kind.params:
        lines += [*_values(kind), ""]
    lines += ["## What it computes", "", "```text", inspect.getdoc(kind.compute) or "", "```", ""]
    if kind.source:
        lines += [f"Source: {kind.source}.", ""]
    lines.append(f"Found by: {', '.join(kind.words)}.")
    return "\n".join(lines) + "\n"


def contents() -> str:
    """The list of all steps by family, as Markdown."""
    lines = ["# Steps", "", "Written from the declarations of the steps by `make guide`.", ""]
    families = dict.fromkeys(kind.family for kind in step_kinds())
    for family in families:
        lines += [f"## {family}", ""]
        lines += [
            f"- [{kind.label}]({kind.kind}.md): {kind.sentence}"
            for kind in step_kinds()
            if kind.family == family
        ]
        lines.append("")
    return "\n".join(lines).rstrip() + "\n"


def pages() -> dict[str, str]:
    """Every page by its file name."""
    found = {f"{kind.kind}.md": page(kind) for kind in step_kinds()}
    return {"README.md": contents()} | found


SHOWN = Size(480, 270)
STRONGER: dict[str, dict[str, Any]] = {
    "levels": {"black_in": 0.15, "white_in": 0.7}, "saturation": {"amount": 1.8},
    "hue-turn": {"turn": 90}, "transform": {"turn": -12, "cover": True},
    "corner-pull": {"top_left": [0.1, -0.15], "top_right": [0.85, 0.15], "top": [0.5, 0.2]},
    "displace": {"amount_x": 8, "amount_y": 8}, "colour-split": {"amount": 0.06},
    "pixelate": {"position_step": 0.04, "square": True}, "raster-lines": {"lines": 90},
    "grain": {"amount": 0.2}, "blend": {"mode": "screen"}, "dissolve": {"progress": 0.5},
    "choose": {"take": 2}, "luma-wipe": {"progress": 0.5, "rim_width": 0.05},
    "balance": {"slope_red": 1.3, "power_blue": 1.3}, "trail": {"grow": 0.04, "turn": 3},
    "key": {"colour": "#A04848", "spill": 0}, "halftone": {"cell": 2.2},
}  # fmt: skip
"""Values that show better what a step does than those it comes with."""


def example(kind: StepKind) -> Effect:
    """The step at work: on a clip, with clouds in its other inputs."""
    taps = {tap.name: {"lane": "clouds"} for tap in kind.taps}
    values = dict(kind.fresh) | STRONGER.get(kind.kind, {})
    step = {"id": "s", "kind": kind.kind, "values": values, "taps": taps}
    before: list[dict[str, Any]] = [] if kind.main is None else [{"id": "clip", "kind": "slot"}]
    if kind.main == "matte":
        before.append({"id": "cut", "kind": "threshold"})
    return read_effect(
        {
            "name": kind.label,
            "kind": "look",
            "slots": [{"id": "clip", "name": "Clip"}],
            "lanes": [
                {"id": "clouds", "name": "Clouds", "steps": [{"id": "n", "kind": "noise"}]},
                {"id": "out", "name": "Out", "steps": [*before, step]},
            ],
        }
    )


def picture(kind: StepKind, clip: StillPicture) -> bytes:
    """The example at its middle, as WebP."""
    materials = Materials({"clip": clip})
    moment = Moment(12, 25, FrameRate.of(25))
    found = Engine().evaluate(example(kind), moment, SHOWN, materials=materials)
    out = io.BytesIO()
    Image.fromarray(convert.show(found.picture)).save(out, "WEBP", quality=75, method=4)
    return out.getvalue()


def write(folder: Path) -> None:
    """Write all pages and pictures, and take away those of steps that are no more."""
    from .demo.clips import CLIPS

    folder.mkdir(parents=True, exist_ok=True)
    found = pages()
    hall = next(clip for clip in CLIPS if clip.name == "Depot hall")
    clip = StillPicture("hall", hall.frame(40))
    for kind in step_kinds():
        (folder / f"{kind.kind}.webp").write_bytes(picture(kind, clip))
    for old in folder.iterdir():
        if f"{old.stem}.md" not in found:
            old.unlink()
    for name, text in found.items():
        (folder / name).write_text(text, "utf-8")


if __name__ == "__main__":
    write(Path(sys.argv[1]))
