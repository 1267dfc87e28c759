"""How cost grows: with pixels, steps in a chain, lanes, length, and the frame of a trail."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass, replace
from typing import Any

import numpy as np

from pale_static.core import (
    Effect,
    Engine,
    FrameRate,
    Materials,
    Moment,
    Size,
    StillPicture,
    read_effect,
)
from pale_static.core.engine.plan import make_plan
from pale_static.core.frames.edit import EditSource
from pale_static.core.reel import read_reel
from pale_static.demo.content import ember_fray
from pale_static.jobs.shelf import Shelf

from .measure import once

RATE = FrameRate.of(25)
SMALL = Size(960, 540)


@dataclass(frozen=True)
class Growth:
    """One row: the cost at three sizes, and its growth for each doubling."""

    what: str
    sizes: tuple[int, ...]
    ms: tuple[float, ...]
    exponent: float
    stolen: float | None = None

    def plain(self) -> dict[str, object]:
        return asdict(self)


def _grown(what: str, sizes: tuple[int, ...], works: list[Callable[[], object]]) -> Growth:
    for work in works:
        work()
    # Alternating, so that a busy machine slows all in the same way.
    runs = [[once(work) for work in works] for _ in range(7)]
    ms = tuple(float(np.median([run[k] for run in runs])) for k in range(len(works)))
    exponent = float(np.log(ms[-1] / ms[0]) / np.log(sizes[-1] / sizes[0]))
    return Growth(what, sizes, ms, exponent)


def _cold(effect: Effect, size: Size, length: int = 50) -> Callable[[], object]:
    rng = np.random.default_rng(1)
    pixels = rng.integers(0, 256, (size.height, size.width, 3), dtype=np.uint8)
    clips = Materials({slot.id: StillPicture(slot.id, pixels) for slot in effect.slots})

    def work() -> object:
        plan = make_plan(effect, Moment(length // 2, length, RATE), size, materials=clips)
        return Engine(0).compute(plan, passing=True)

    return work


def pixels() -> Growth:
    """Ember Fray at 540, 1080 and 2160 lines; sizes in thousands of pixels."""
    effect = read_effect(ember_fray())
    frames = [Size(960, 540), Size(1920, 1080), Size(3840, 2160)]
    sizes = tuple(size.width * size.height // 1000 for size in frames)
    return _grown("thousand pixels (Ember Fray)", sizes, [_cold(effect, size) for size in frames])


def _look(lanes: list[dict[str, Any]]) -> Effect:
    slots = [{"id": "clip", "name": "Clip"}]
    return read_effect({"name": "Growth", "kind": "look", "slots": slots, "lanes": lanes})


def steps() -> Growth:
    """A chain of levels on a clip: 4, 16 and 64 of them."""
    works = []
    for count in (4, 16, 64):
        chain: list[dict[str, Any]] = [{"id": "clip", "kind": "slot"}]
        chain += [
            {"id": f"s{k}", "kind": "levels", "values": {"white_in": 0.9 + k / 1000}}
            for k in range(count)
        ]
        works.append(_cold(_look([{"id": "out", "name": "Out", "steps": chain}]), SMALL))
    return _grown("steps in a chain", (4, 16, 64), works)


def lanes() -> Growth:
    """Lanes of noise, each blended over the one before: 2, 8 and 32 of them."""
    works = []
    for count in (2, 8, 32):
        found: list[dict[str, Any]] = []
        for k in range(count):
            own = [{"id": "n", "kind": "noise", "values": {"seed": k + 1, "octaves": 2}}]
            if k:
                over = {"over": {"lane": f"l{k - 1}"}}
                own.append({"id": "b", "kind": "blend", "inputs": over, "values": {"opacity": 0.5}})
            found.append({"id": f"l{k}", "name": f"Lane {k}", "steps": own})
        works.append(_cold(_look(found), SMALL))
    return _grown("lanes", (2, 8, 32), works)


def length() -> Growth:
    """One frame in the middle of an effect of 25, 250 and 2500 frames."""
    effect = read_effect(ember_fray())
    works = [_cold(effect, SMALL, frames) for frames in (25, 250, 2500)]
    return _grown("frames of length, for one frame", (25, 250, 2500), works)


def trail() -> Growth:
    """The next frame of a trail while it plays, at frames 10, 100 and 1000: planned and computed."""
    effect = _look([{"id": "out", "name": "Out", "steps": [
        {"id": "n", "kind": "noise", "values": {"speed": 1.0}},
        {"id": "t", "kind": "trail", "values": {"grow": 0.02}},
    ]}])  # fmt: skip
    size, frames = Size(320, 180), (10, 100, 1000)
    works = []
    for frame in frames:
        engine = Engine()
        engine.evaluate(effect, Moment(frame, 2000, RATE), size)
        at = iter(range(frame + 1, 2000))

        def work(engine: Engine = engine, at: Iterator[int] = at) -> object:
            return engine.evaluate(effect, Moment(next(at), 2000, RATE), size)

        works.append(work)
    return _grown("frame of a trail, the next one", frames, works)


def names() -> Growth:
    """Naming all stretches of a shot under a trail: 100, 200 and 400 frames."""
    shelf = Shelf()
    shelf.effects["trail", 1] = _trailing()
    works = []
    for frames in (100, 200, 400):
        look = {"id": "l", "macro": "trail", "version": 1}
        shot = {"id": "a", "material": "a", "name": "A", "length": f"{frames}/25", "looks": [look]}
        source = EditSource(reel=read_reel({"name": "Names", "shots": [shot]}), shelf=shelf)

        def work(source: EditSource = source, frames: int = frames) -> object:
            again = replace(source)  # a fresh engine, with empty caches
            return [again.stretch_name(first, 100, []) for first in range(0, frames, 100)]

        works.append(work)
    return _grown("frames of a trail, named for a render", (100, 200, 400), works)


def trails() -> Growth:
    """The next frame of one, two and four trails in a row, with a cache that holds none of them."""
    works = []
    for count in (1, 2, 4):
        effect = _trailing(count)
        engine = Engine(1 << 20)
        at = iter(range(2000))

        def work(
            effect: Effect = effect, engine: Engine = engine, at: Iterator[int] = at
        ) -> object:
            moment = Moment(next(at), 2000, RATE)
            return engine.evaluate(effect, moment, Size(320, 180), passing=True)

        works.append(work)
    return _grown("trails in a row, their next frame", (1, 2, 4), works)


def _trailing(count: int = 1) -> Effect:
    trails = [
        {"id": f"t{k}", "kind": "trail", "values": {"grow": 0.02, "keep": 0.9 - k / 100}}
        for k in range(count)
    ]
    return _look([{"id": "out", "name": "Out", "steps": [{"id": "c", "kind": "slot"}, *trails]}])


ROWS = (pixels, steps, lanes, length, trail, names, trails)
