"""``python -m pale_static.demo.sheet FILE.png FOLDER``: start, middle and end of every demo macro.

All macros on one sheet, and each one in its own file in the folder, named after the macro.
"""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from ..core import Engine, FrameRate, Materials, Moment, Size, StillPicture, read_effect
from ..core.changes import slug_of
from ..core.document import Effect
from ..core.kernels.colour import convert
from ..core.kernels.filters import blending
from ..core.lettering import Setting, lay_out, outlined, shipped
from ..core.pictures.picture import fit
from . import pages
from .clips import CLIPS
from .shelf import SHELF

Stills = dict[str, StillPicture]
WIDE, TALL = Size(272, 153), Size(86, 153)
GAP, HEAD = 6, 24
PAPER, INK = 246, 30
# Landscape on the first pair, portrait on the second, whose pictures suit that shape.
PAIRS = (("Depot hall", "Street lights"), ("Window row", "Wires at dusk"))


def shots(effect: Effect, clips: Stills, size: Size) -> list[NDArray[np.uint8]]:
    """A macro's first, middle and last frame, for the sheet."""
    rate = FrameRate.of(25)
    length = rate.frames(effect.seconds)
    # Computed at twice the size and reduced, so that fine detail looks as in a large picture.
    large = Size(size.width * 2, size.height * 2)
    tiles = []
    for frame in (0, length // 2, length - 1):
        result = Engine().evaluate(
            effect, Moment(frame, length, rate), large, materials=Materials(clips)
        )
        picture = result.picture
        if effect.kind in ("title", "texture"):
            # Titles and textures are shown over a clip, slightly darkened.
            below = fit(clips["clip"].pixels(0), large, "cover") * np.float32(0.6)
            below[..., 3] = 1
            picture = blending.blend(below, picture, "normal")
        shown = Image.fromarray(convert.show(picture))
        tiles.append(np.asarray(shown.resize((size.width, size.height), Image.Resampling.BOX)))
    return tiles


def _label(text: str, width: int) -> NDArray[np.uint8]:
    font = shipped("Rubik", "regular")
    ink = outlined(
        font, "regular", lay_out(font, "regular", text, Setting(14)), 14, (2, 17), (HEAD, width)
    )
    grey = (PAPER + (INK - PAPER) * ink).astype(np.uint8)
    return np.repeat(grey[..., None], 3, 2)


def _clips(pair: tuple[str, str]) -> Stills:
    one, two = (
        StillPicture(name, next(clip for clip in CLIPS if clip.name == name).frame(40))
        for name in pair
    )
    return {"from": one, "to": two, "clip": one, "stamp": two, "behind": two}


MACROS = tuple(SHELF)
"""Functions that make the documents of the demo's macros."""


def strip(effect: Effect, clips: list[Stills]) -> NDArray[np.uint8]:
    """A macro's six pictures side by side."""
    tiles = [
        tile
        for given, size in zip(clips, (WIDE, TALL), strict=True)
        for tile in shots(effect, given, size)
    ]
    gap = np.full((WIDE.height, GAP, 3), PAPER, np.uint8)
    return np.hstack([part for tile in tiles for part in (tile, gap)])


def sheet(strips: dict[str, NDArray[np.uint8]]) -> NDArray[np.uint8]:
    """All macros, two across, each with its name."""
    blocks = [np.vstack([_label(name, row.shape[1]), row]) for name, row in strips.items()]
    if len(blocks) % 2:
        blocks.append(np.full_like(blocks[0], PAPER))
    lines = [np.hstack(blocks[k : k + 2]) for k in range(0, len(blocks), 2)]
    return np.pad(np.vstack(lines), ((0, 8), (8, 2), (0, 0)), constant_values=PAPER)


def main(file: Path, folder: Path) -> None:
    """Write the sheet and the strips."""
    clips = [_clips(pair) for pair in PAIRS]
    strips = {}
    effects = [read_effect(make()) for make in MACROS]
    pages.write(effects, folder)
    for effect in effects:
        strips[f"{effect.name} · {effect.kind}"] = made = strip(effect, clips)
        name = slug_of(effect.name, ())
        Image.fromarray(made[:, :-GAP]).save(folder / f"{name}.webp", quality=80, method=6)
    # The sheet has its own palette of colours, because it is shown small.
    Image.fromarray(sheet(strips)).quantize(256).save(file, optimize=True)


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
