"""Title: lettering, or the order in which its letters, words or lines are read."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import groupby
from math import radians
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .. import lettering
from ..faults import Missing
from ..kernels.filters import mixing
from ..lettering import FAMILIES, ORDERS, PATHS, Font, Setting
from ..pictures.colour import parse_colour, premultiplied
from ..pictures.picture import Plane, box_of
from ..time.easing import Ease, Named, ease_at
from ..values.params import Choice, ColourParam, FontName, Number, Point, Text, Toggle, seed
from .declare import Call, step

_WEIGHTS = ("regular", "bold")
_UNITS = ("letter", "word", "line")
_SEEN = {"output": ("picture",)}
_MOVES = {"move_by": _UNITS, **_SEEN}
EASES: dict[str, Ease] = {
    "even": "linear", "soft": Named(out="cubic"), "very soft": Named(out="quint"),
    "past and back": Named(out="back"), "springs": Named(out="elastic"),
    "bounces": Named(out="bounce"),
}  # fmt: skip
"""Eases with which a piece of a title arrives."""


_FRAME_SHARE = 0.94
"""The widest text without a box that is not shrunk, as a share of the frame's width."""


def font_of(call: Call) -> Font:
    """The font that a title names: a built-in family, or one from the library.

    Raises
    ------
    Missing
    """
    name, weight = call.values["font"], call.values["weight"]
    if name in FAMILIES:
        return lettering.shipped(name, weight)
    brought = call.materials.fonts.get(name)
    if brought is None:
        raise Missing(
            f"The font “{name}” is not in the library. Bring it in under Materials, or choose "
            f"one of: {', '.join(FAMILIES)}.",
            "font",
        )
    return brought


@step(
    "title",
    label="Title",
    family="Sources",
    sentence="Text set in a font, or the order its letters are read in.",
    words=("text", "type", "typewriter", "lettering", "caption", "words", "credit", "typography", "letters"),
    matte_when=lambda values: values.get("output") == "order ramp",
    params=(
        Text(name="text", default="Lantern Line", lines=True),
        Choice(name="output", default="picture", options=("picture", "order ramp"), moves=False,
               help="The letters, or a matte for wipes: each letter, word or line is one grey, "
                    "from black to white in reading order. A wipe along it goes letter by letter."),
        FontName(name="font", default="Rubik", help="A built-in family, or a font from Materials."),
        Choice(name="weight", default="bold", options=_WEIGHTS, moves=False),
        Number(name="size", default=12.0, slider=(1, 40), allowed=(0, 400), unit="%h",
               help="Type size (the em)."),
        Number(name="tracking", default=0.0, slider=(-2, 10), allowed=(-50, 200), unit="%h",
               help="Extra space after each letter."),
        Number(name="line_spacing", default=1.0, slider=(0.5, 2), allowed=(0, 10),
               help="Distance between lines; 1 is the font's own."),
        Choice(name="align", default="centre", options=("left", "centre", "right"), moves=False),
        Number(name="box", default=0.0, slider=(0, 100), allowed=(0, 1000), unit="%w",
               label="box width", help="Wraps the text to this width; 0 keeps the text's own lines."),
        Toggle(name="shrink", default=False, label="shrink to fit",
               help="Makes the type smaller where a word or a line is wider than the box; "
                    "without a "
                    "box, than the frame.", when={"path": ("straight",)}),
        Point(name="position", default=(0.5, 0.5), help="Where the anchor of the text lies."),
        Choice(name="anchor", default="centre", options=("centre", "baseline"), moves=False,
               help="What lies at the position: the middle of the text, or its first baseline.",
               when={"path": ("straight",)}),
        ColourParam(name="fill", default="#FFFFFF", when=_SEEN),
        Number(name="outline", default=0.0, slider=(0, 3), allowed=(0, 100), unit="%h",
               help="Width of an outline around the letters.", when=_SEEN),
        ColourParam(name="outline_colour", default="#000000", when={"outline": (), **_SEEN}),
        Number(name="second_outline", default=0.0, slider=(0, 5), allowed=(0, 100), unit="%h",
               help="Width of a second outline around the first.", when=_SEEN),
        ColourParam(name="second_outline_colour", default="#FFFFFF", when={"second_outline": (), **_SEEN}),
        Choice(name="path", default="straight", options=PATHS, moves=False,
               help="The line that the text stands on."),
        Number(name="path_size", default=30.0, slider=(-100, 100), allowed=(-10_000, 10_000),
               unit="%h", when={"path": PATHS[1:]},
               help="Radius of the arc or circle, or height of the wave. Negative values bend "
                    "the other way."),
        Number(name="wave_length", default=60.0, slider=(5, 200), allowed=(0.1, 10_000), unit="%h",
               when={"path": ("wave",)}),
        Number(name="path_start", default=-90.0, slider=(-180, 180), allowed=(-36000, 36000),
               unit="°", when={"path": ("circle", "wave")},
               help="Where on the circle the text stands, or where in the wave it begins."),
        Choice(name="move_by", default="nothing", options=("nothing", *_UNITS), moves=False,
               help="What moves: letters, words or lines."),
        Number(name="arrival", default=1.0, slider=(0, 1), allowed=(0, 1), when=_MOVES,
               help="At 0 no piece has come in, at 1 all are in place."),
        Choice(name="move_order", default="reading", options=ORDERS, moves=False, when=_MOVES,
               label="order"),
        Number(name="overlap", default=0.6, slider=(0, 1), allowed=(0, 1), when=_MOVES,
               help="0 is one after the other, 1 all at once."),
        Choice(name="arrive", default="soft", options=tuple(EASES), moves=False, when=_MOVES,
               help="How each piece comes to rest."),
        Point(name="from_shift", default=(0.0, 0.6), allowed=(-100, 100), when=_MOVES,
              help="Where each piece comes from, right and down. 1 is the type size."),
        Number(name="from_scale", default=1.0, slider=(0, 4), allowed=(0, 100), when=_MOVES),
        Number(name="from_turn", default=0.0, slider=(-180, 180), allowed=(-36000, 36000),
               unit="°", when=_MOVES),
        Number(name="from_blur", default=0.0, slider=(0, 10), allowed=(0, 100), unit="%h",
               when=_MOVES),
        Number(name="from_opacity", default=0.0, slider=(0, 1), allowed=(0, 1), when=_MOVES),
        Number(name="from_tint", default=0.0, slider=(0, 1), allowed=(0, 1), when=_MOVES,
               help="How much of the second colour each piece starts with."),
        ColourParam(name="from_colour", default="#FF8A3C", when={"from_tint": (), **_MOVES}),
        Choice(name="order_by", default="letter", options=_UNITS, moves=False,
               help="What comes in order: letters, words or lines.", when={"output": ("order ramp",)}),
        Toggle(name="shuffle", default=False, help="Counts in a random order.",
               when={"output": ("order ramp",)}),
        seed(),
    ),
    source="Unicode Standard Annex 9, Unicode Bidirectional Algorithm",
)  # fmt: skip
def title(call: Call) -> Plane:
    """Text with kerning and ligatures, in both reading directions, wrapped to a box.

    Sizes are em sizes. The anchor is the first baseline, or the middle between the height of
    the first line's capitals and the last line's baseline. Letters cover pixels exactly (to
    1/256), at any fraction of a pixel, so that they glide. The outline lies around the letters.
    On a path each glyph stands on the line at the middle of its width. Moved by letters, words or
    lines, piece k has arrived by e(clamp((arrival − r·(1 − d)) / d)), with r its place in the
    order, d = 1 / (1 + (n − 1)(1 − overlap)) and e its ease. Its shift, scale, turn (about its
    middle), blur, opacity and colour go by that share from the start values to none. When all
    pieces have arrived, the result is plain text.
    With *shrink to fit* the em is chosen so that the widest word or line is as wide as the box, or
    as 94 % of the frame.
    In an *order ramp* of n letters (words, lines) the k-th has the grey k / (n − 1), in reading
    order or shuffled. Each pixel has the grey of the nearest one, so a wipe cuts no letter.

    Returns
    -------
    (H, W, 4) picture, or (H, W) matte.

    Raises
    ------
    Missing
        If the font lacks a character; it names the character.
    """
    v, size = call.values, call.size
    shape, unit = (size.height, size.width), size.height / 100
    if not v["text"].strip() or v["size"] == 0:
        return np.zeros(shape if v["output"] == "order ramp" else (*shape, 4), np.float32)
    font, weight, em = font_of(call), v["weight"], v["size"] * unit
    setting = Setting(
        em, v["tracking"] * unit, v["line_spacing"], v["align"], v["box"] * size.width / 100
    )
    layout = lettering.lay_out(font, weight, v["text"], setting)
    upright = v["path"] == "straight"
    room = setting.wrap or _FRAME_SHARE * size.width
    if v["shrink"] and upright and max(layout.widths) > room:
        share = room / max(layout.widths)
        em *= share
        setting = replace(setting, size=em, tracking=setting.tracking * share)
        layout = lettering.lay_out(font, weight, v["text"], setting)
    x, y = v["position"][0] * size.width, v["position"][1] * size.height
    at = (x, y - layout.middle if v["anchor"] == "centre" and upright else y)
    units = () if v["move_by"] == "nothing" else layout.units(v["move_by"])[0]
    text = _Text(font, weight, layout, em, at, shape, _path(v, layout, at, unit), units)
    if v["output"] == "order ramp":
        greys = _greys(layout.units(v["order_by"])[1], v["shuffle"], v["seed"])
        pieces = None if upright else text.pieces([None] * len(layout.glyphs), 0.0)
        return lettering.nearest_unit(
            font, weight, layout, em, at, shape, greys, v["order_by"], pieces
        )
    around = v["outline"] * unit
    further = around + v["second_outline"] * unit
    colours = [_colour(v[name]) for name in ("fill", "outline_colour", "second_outline_colour")]
    poses, shares = _poses(v, layout, em, unit)
    if upright and all(pose is None for pose in poses):
        fill = lettering.outlined(font, weight, layout, em, at, shape)
        rim = (
            lettering.outlined(font, weight, layout, em, at, shape, around) if around > 0 else None
        )
        out = mixing.inked(fill, rim, (colours[0], colours[1]))
        if further > around:
            outer = lettering.outlined(font, weight, layout, em, at, shape, further)
            out += (outer - (fill if rim is None else rim))[..., None] * colours[2]
        return out
    tint = (v["from_tint"], _colour(v["from_colour"]), shares)
    layers = [(further, around, colours[2]), (around, 0.0, colours[1]), (0.0, None, colours[0])]
    out = np.zeros((*shape, 4), np.float32)
    for outer, inner, colour in layers:
        if inner is None or outer > inner:
            text.lay(out, poses, outer, inner, colour, tint)
    return out


@dataclass(frozen=True)
class _Text:
    """Text whose pieces may be moved away from their places in plain text."""

    font: Font
    weight: str
    layout: lettering.Layout
    em: float
    at: tuple[float, float]
    shape: tuple[int, int]
    paths: list[Any]
    """The place of each glyph on a path; None in plain text."""
    units: Sequence[int] = ()
    """The piece of each glyph, if pieces move."""

    def pieces(self, poses: Sequence[lettering.Pose | None], around: float) -> Iterator[Any]:
        """Each moved glyph: its number, its place in the frame, its cover."""
        matrices = []
        for k, pose in enumerate(poses):
            own = self.paths[k]
            if pose is not None:
                moved = lettering.posed_matrix(pose, self.centres[k])
                own = moved if own is None else moved @ own
            matrices.append(own)
        return lettering.posed(
            self.font, self.weight, self.layout, self.em, self.at, self.shape, matrices, poses,
            around,
        )  # fmt: skip

    @cached_property
    def centres(self) -> list[tuple[float, float]]:
        """The middle of each glyph's piece at rest: half its width across, a third of the em up."""
        centres = []
        for glyph, path in zip(self.layout.glyphs, self.paths, strict=True):
            x = self.at[0] + glyph.x + glyph.advance / 2
            y = self.at[1] + glyph.y - self.em * 0.35
            if path is not None:
                x, y = (float(part) for part in (path @ np.array([x, y, 1]))[:2])
            centres.append((x, y))
        if not self.units or not centres:
            return centres
        units = np.array(self.units)
        count = np.bincount(units)
        means = [np.bincount(units, side) / np.maximum(count, 1) for side in np.array(centres).T]
        return [(float(means[0][unit]), float(means[1][unit])) for unit in units]

    def lay(
        self, out: NDArray[np.float32], poses: Sequence[lettering.Pose | None], outer: float,
        inner: float | None, colour: NDArray[np.float32], tint: tuple[float, Any, Sequence[float]],
    ) -> None:  # fmt: skip
        """Lay the text, or the area between two of its outlines, over a picture, in place."""
        amount, other, shares = tint
        rest = [pose is None and path is None for pose, path in zip(poses, self.paths, strict=True)]
        if any(rest):
            where = (self.font, self.weight, self.layout, self.em, self.at, self.shape)
            cover = lettering.outlined(*where, outer, rest)
            if inner is not None:
                cover -= lettering.outlined(*where, inner, rest)
            # Only the inked part: most of a title's frame is clear.
            box = box_of(cover > 0)
            if box is not None:
                _over(out[box], cover[box], colour)
        within = {} if inner is None else {k: p for k, *p in self.pieces(poses, inner)}
        for _, part in groupby(self.pieces(poses, outer), lambda one: self._piece(one[0])):
            # Glyphs of one piece join without a seam, like at rest.
            cover = np.zeros(self.shape, np.float32)
            for glyph, rows, columns, ink in part:
                if glyph in within:
                    ink = _without(ink, (rows, columns), *within[glyph])
                cover[rows, columns] += ink
                share = amount * (1 - shares[glyph])
            box = box_of(cover > 0)
            if box is not None:
                shade = colour + np.float32(share) * (other - colour)
                _over(out[box], np.minimum(cover[box], _opacity(poses[glyph])), shade)

    def _piece(self, glyph: int) -> int:
        """The piece of a glyph; all glyphs are one piece if pieces do not move."""
        return self.units[glyph] if self.units else 0


def _opacity(pose: lettering.Pose | None) -> float:
    """The largest opacity of a piece."""
    return 1.0 if pose is None else pose.opacity


def _without(cover: Any, at: tuple[slice, slice], rows: slice, columns: slice, less: Any) -> Any:
    """A cover minus another one inside it."""
    out = cover.copy()
    top, left = rows.start - at[0].start, columns.start - at[1].start
    part = out[top : top + less.shape[0], left : left + less.shape[1]]
    np.maximum(part - less, 0, out=part)
    return out


def _over(picture: Any, cover: Any, colour: NDArray[np.float32]) -> None:
    laid = cover[..., None] * colour
    picture *= 1 - laid[..., 3:]
    picture += laid


def _path(v: Any, layout: lettering.Layout, at: tuple[float, float], unit: float) -> list[Any]:
    reach = v["path_size"] * unit
    if v["path"] == "straight" or abs(reach) < 1e-3:
        return [None] * len(layout.glyphs)
    advance = [glyph.advance for glyph in layout.glyphs]
    how = (v["path"], reach, v["wave_length"] * unit, v["path_start"])
    return list(lettering.path_matrices(layout, at, advance, *how))


def _poses(
    v: Any, layout: lettering.Layout, em: float, unit: float
) -> tuple[list[lettering.Pose | None], list[float]]:
    """The pose of each glyph (None at rest), and its share of the arrival."""
    glyphs = len(layout.glyphs)
    if v["move_by"] == "nothing" or v["arrival"] >= 1:
        return [None] * glyphs, [1.0] * glyphs
    units, count = layout.units(v["move_by"])
    order = lettering.ranks(count, v["move_order"], v["seed"])
    ease, shift = EASES[v["arrive"]], v["from_shift"]
    poses: list[lettering.Pose | None] = []
    shares = []
    for unit_of in units:
        come = lettering.arrived(v["arrival"], order[unit_of], count, v["overlap"])
        e = ease_at(ease, come)
        left = 1 - e
        poses.append(None if come >= 1 else lettering.Pose(
            (shift[0] * em * left, shift[1] * em * left),
            max(1 + (v["from_scale"] - 1) * left, 0.0), radians(v["from_turn"]) * left,
            max(v["from_blur"] * unit * left, 0.0),
            min(max(v["from_opacity"] + (1 - v["from_opacity"]) * e, 0.0), 1.0),
        ))  # fmt: skip
        shares.append(min(max(e, 0.0), 1.0))
    return poses, shares


def _colour(text: Any) -> NDArray[np.float32]:
    return np.array(premultiplied(parse_colour(text)), np.float32)


def _greys(count: int, shuffled: bool, seed: int) -> NDArray[np.float32]:
    order = np.arange(count)
    if shuffled:
        order = np.argsort(np.random.Generator(np.random.PCG64(seed)).random(count))
    return order.astype(np.float32) / np.float32(max(1, count - 1))
