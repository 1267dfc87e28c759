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
from .core.kernels.colour import convert
from .core.steps import InputKind, StepKind, step_kinds
from .core.values.params import tidy
from .media.formats import FORMATS


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


WHEN: dict[str, str] = {
    "slot": "At the top of the lane that shows the clip the editor drops the macro on.",
    "still": "For a logo, a texture or a plate that always belongs to the macro.",
    "continue-from": "To branch: work on a copy of another lane without changing it.",
    "flat": "For a background, a tint to blend in, or a colour to dissolve through.",
    "ramp": "As the matte of a wipe with a direction, or as a shade over a picture.",
    "stripes": "For blinds, barred wipes and striped grounds.",
    "checks": "For chequered wipes and grounds.",
    "dots": "For dotted grounds, and for wipes that open as holes.",
    "shape": "For an iris, a spotlight, a window, or the base of an emblem.",
    "blocks": "As the map for Displace: it shifts parts of the picture, like broken data.",
    "noise": "As the matte of a wipe, a texture, smoke, dust, or the map of a Displace.",
    "caustic": "For light under water, and as the surface of a Relief that looks moulded or wet.",
    "beads": "For rain on a window: their slope drives a Displace over a defocused clip.",
    "dirt": "For old film, dirty lenses and dusty rooms; blend it over the picture.",
    "flare": "For a lamp that shines into the lens; blend it with add, in linear light.",
    "title": "For text that the editor types, and for the order in which its letters come.",
    "levels": "To set the contrast of a picture, or how hard a matte is.",
    "threshold": "To make a hard matte of a soft one, or to cut a picture to black and white.",
    "invert": "To swap the two sides of a matte, or for a negative.",
    "channel": "To use alpha, luminance or one colour as a matte.",
    "posterise": "For flat areas of colour, as in a printed poster.",
    "solarise": "For a half negative, as of a print exposed twice.",
    "saturation": "To calm a picture under a title, or to make it grey.",
    "hue-turn": "To try other colours of a texture, or to cycle them over time.",
    "balance": "To grade a clip so that it fits the one beside it.",
    "tint": "To give a grey texture colours: embers, night blue, old paper.",
    "lookup-table": "To give clips a look that was graded elsewhere, or a film stock.",
    "key": "To remove a coloured backdrop.",
    "blur": "For depth, glows, soft mattes, and to calm what is not the subject.",
    "streak-blur": "For fast movement to one side, and for anamorphic streaks.",
    "zoom-blur": "For a rush towards the viewer, and for rays of light.",
    "rotary-blur": "For spinning wheels, dizzy moments, and transitions that spin.",
    "mapped-blur": "For a focus that travels, or a miniature look.",
    "guided-blur": "To smooth skin or noise without softening outlines.",
    "defocus": "For lamps that become discs, and for a focus that travels with depth.",
    "sharpen": "After enlarging, or to make texture stand out.",
    "grow": "To close gaps in a matte, or to thin it before a rim.",
    "feather": "To hide where a cut-out meets its background.",
    "rim": "For a glowing or burning edge around a matte.",
    "matte-to-alpha": "To put a picture, or a title, into a shape.",
    "matte-maths": "To join a shape and a texture into one matte.",
    "transform": "To move, enlarge, shake or turn a picture.",
    "corner-pull": "To put a picture on a screen or a wall in the shot.",
    "displace": "For heat, water, glass and glitches.",
    "lens-bend": "For wide lenses, door viewers, and bulging transitions.",
    "colour-split": "For glitches, worn tape and cheap lenses.",
    "pixelate": "To hide a face, or to dissolve through large blocks.",
    "ripple": "For water, and for a shock that runs outward.",
    "twirl": "For whirlpools and dreamy transitions.",
    "polar": "To make rings of stripes, or a small planet of a panorama.",
    "mirror-tiles": "For kaleidoscopes, and to fill the frame around a picture in movement.",
    "slide-rows": "For glitches and blinds that fall out of place.",
    "glow": "For neon, lamps and dreamy pictures.",
    "bloom": "To soften a hard digital picture, like a mist filter.",
    "light-sweep": "For a glint over a title or logo, or a passing headlight.",
    "vignette": "To lead the eye to the middle, or for an old photograph.",
    "shadow": "To lift a title off its background, or to press it in.",
    "edges": "For drawn outlines, cartoons, and as the light of a Glow.",
    "relief": "For metal, plastic, leather and foil: any texture becomes a surface.",
    "distance-colours": "For outlines in several colours, neon tubes, and rings around a shape.",
    "glass-pane": "For windows, lenses and panes that slide over a scene.",
    "halftone": "For newspaper, poster and stencil looks.",
    "line-screen": "For engraved banknotes and etched portraits.",
    "dither": "For old computers and electronic paper.",
    "raster-lines": "For tube televisions and surveillance screens.",
    "misregister": "For cheap prints whose inks do not meet.",
    "tape-wear": "For home video that was played too often.",
    "grain": "To tie an effect to filmed material, and to hide banding.",
    "luma-wipe": "For every transition that a matte drives: the heart of most of them.",
    "dissolve": "For a plain fade, and to mix two stages of a picture.",
    "blend": "To add glows, textures and titles.",
    "choose": "To let the editor pick one of several looks.",
    "echo": "For dancers, crowds out of one person, and tunnels of copies.",
    "time-slice": "For movement that bends: a wave that runs through the picture over time.",
    "reverse": "To play what is above it backwards.",
    "speed": "For slow motion, fast motion, and changes of speed with keys.",
    "hold-and-blend": "For a slow, dreamy sequence of held pictures.",
    "trail": "For light trails, ghosts, tunnels and ink that runs.",
    "stutter": "For a jerky, hand-made look, or to hold a picture.",
    "repeat": "To make kaleidoscopes, broken glass or many copies by running the same steps "
    "again and again.",
}
"""When to use each step, for its page."""


def page(kind: StepKind) -> str:
    """One step's page, as Markdown."""
    takes = {"picture": "a picture", "matte": "a matte", "either": "a picture or a matte"}
    lines = [f"# {kind.label}", "", kind.sentence, "", f"![{kind.label}]({kind.kind}.webp)", ""]
    lines += ["## When to use it", "", WHEN[kind.kind], ""]
    starts = "It starts a lane." if kind.main is None else f"It takes {takes[kind.main]}."
    gives = {"picture": "a picture", "matte": "a matte", "same": "what it takes"}[kind.gives]
    lines += [f"Family: {kind.family}. {starts} It gives {gives}.", ""]
    if kind.inputs:
        lines += ["## Inputs", "", "| input | takes | |", "|---|---|---|"]
        for source in kind.inputs:
            may = " May be left out." if source.optional else ""
            lines.append(
                f"| {source.name.replace('_', ' ')} | {takes[source.takes]} | {source.help}{may} |"
            )
        lines.append("")
    if kind.params:
        lines += ["## Values", "", *_values(kind), ""]
    lines += [f"Search also finds it by: {', '.join(kind.words)}.", ""]
    told = inspect.getdoc(kind.compute) or ""
    lines += ["<details>", "<summary>For developers: what it computes</summary>", ""]
    lines += ["```text", told, "```", ""]
    if kind.source:
        lines += [f"Source: {kind.source}.", ""]
    lines.append("</details>")
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
    texts = {f"{kind.kind}.md": page(kind) for kind in step_kinds()}
    return {"README.md": contents()} | texts


SHOWN = Size(480, 270)
STRONGER: dict[str, dict[str, Any]] = {
    "levels": {"black_in": 0.15, "white_in": 0.7}, "saturation": {"amount": 1.8},
    "hue-turn": {"turn": 90}, "transform": {"turn": -12, "cover": True},
    "corner-pull": {"top_left": [0.1, -0.15], "top_right": [0.85, 0.15], "top": [0.5, 0.2]},
    "displace": {"amount_x": 8, "amount_y": 8}, "colour-split": {"amount": 0.06},
    "pixelate": {"cell": 0.04, "square": True}, "raster-lines": {"lines": 90},
    "grain": {"amount": 0.2}, "blend": {"mode": "screen"}, "dissolve": {"progress": 0.5},
    "choose": {"choice": 2}, "luma-wipe": {"progress": 0.5, "rim_width": 0.05},
    "balance": {"slope_red": 1.3, "power_blue": 1.3}, "trail": {"grow": 0.04, "turn": 3},
    "key": {"colour": "#A04848", "spill": 0}, "halftone": {"cell": 2.2},
    "glow": {"size": 8, "gain": 2, "threshold": 0.5}, "bloom": {"amount": 1},
    "light-sweep": {"progress": 0.45, "tint": "#FFB060", "mode": "normal"},
    "shadow": {"form": "long", "distance": 14, "fade": 0.7}, "relief": {"depth": 8, "sheen": 0.4},
    "distance-colours": {"outside_reach": 6}, "echo": {"copies": 4, "turn": 6},
    "edges": {"strength": 5}, "glass-pane": {"bevel": 12, "thickness": 14},
    "defocus": {"size": 5, "highlights": 2}, "beads": {"density": 1, "size": 4},
    "dirt": {"density": 120}, "flare": {"position": [0.3, 0.35]},
}  # fmt: skip
"""Values that show the effect of a step better than its defaults."""
UNFED = ("defocus", "glass-pane", "light-sweep", "shadow")
"""Steps whose optional inputs are left open in their pictures."""
LETTERED = ("shadow", "distance-colours", "light-sweep")
"""Steps that are shown on a title rather than on a clip."""


def left_open(kind: StepKind, source: InputKind) -> bool:
    """Whether an input has no source in the step's picture."""
    return source.optional and kind.kind in UNFED


def example(kind: StepKind) -> Effect:
    """An example of a step: on a clip, with clouds in its other inputs."""
    inputs = {
        source.name: {"lane": "clouds"} for source in kind.inputs if not left_open(kind, source)
    }
    values = dict(kind.fresh) | STRONGER.get(kind.kind, {})
    step = {"id": "s", "kind": kind.kind, "values": values, "inputs": inputs}
    before: list[dict[str, Any]] = [] if kind.main is None else [{"id": "clip", "kind": "slot"}]
    if kind.main == "matte":
        before.append({"id": "cut", "kind": "threshold"})
    if kind.kind in LETTERED:
        before = [{"id": "title", "kind": "title", "values": {"size": 22, "fill": "#2C5966"}}]
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
    evaluation = Engine().evaluate(example(kind), moment, SHOWN, materials=materials)
    out = io.BytesIO()
    Image.fromarray(convert.show(evaluation.picture)).save(out, "WEBP", quality=75, method=4)
    return out.getvalue()


def formats_page() -> str:
    """The guide's page of formats, made from their table."""
    lines = [
        "# Formats", "",
        "What films and pictures are written in: in the dialog *Render* of the Reel, and by the "
        "name",
        "of the file or `--format` on the command line (`pale-static formats` lists them too).", "",
        "| format | `--format` | file | bits | alpha | sound | quality | |",
        "|---|---|---|---|---|---|---|---|",
    ]  # fmt: skip
    for one in FORMATS:
        name = f"frames_%04d{one.ending}" if one.numbered else f"out{one.ending}"
        words = one.quality.words.items() if one.quality else ()
        quality = ", ".join(f"{word} {number}" for word, number in words)
        if not quality:
            quality = "lossless" if one.lossless else "–"
        sound = SOUNDS.get(one.sound, "–")
        alpha = "straight" if one.alpha and one.pixels != "float" else "–"
        alpha = "premultiplied" if one.pixels == "float" else alpha
        lines.append(
            f"| {one.label} | `{one.slug}` | `{name}` | {one.bits} | {alpha} | {sound} | {quality} "
            f"| {one.sentence} |"
        )
    lines += [
        "",
        "A quality is a word or a number of the encoder; *high* is taken where none is chosen"
        " (*good* for WebP). `--bit-rate` sets kbit/s in its place.",
        "Video is tagged Rec. 709, video range; FFV1 and pictures are sRGB; OpenEXR is linear light"
        " with Rec. 709 primaries. A format whose encoder is not on a machine is not offered there.",
        "",
    ]
    return "\n".join(lines)


SOUNDS = {"aac": "AAC", "libopus": "Opus", "pcm_s24le": "PCM, 24 bits", "flac": "FLAC, 24 bits"}
"""The common names of sound codecs."""


def write(folder: Path) -> None:
    """Write all pages and pictures, and remove those of steps that no longer exist."""
    from .demo.clips import CLIPS

    folder.mkdir(parents=True, exist_ok=True)
    texts = pages()
    hall = next(clip for clip in CLIPS if clip.name == "Depot hall")
    clip = StillPicture("hall", hall.frame(40))
    for kind in step_kinds():
        (folder / f"{kind.kind}.webp").write_bytes(picture(kind, clip))
    for old in folder.iterdir():
        if f"{old.stem}.md" not in texts:
            old.unlink()
    for name, text in texts.items():
        (folder / name).write_text(text, "utf-8")
    (folder.parent / "formats.md").write_text(formats_page(), "utf-8")


if __name__ == "__main__":
    write(Path(sys.argv[1]))
