"""The share of the new picture that shows, over the length of an effect."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..document import Effect
from ..engine import Engine
from ..frames.effect import EffectSource
from ..pictures.picture import Plane, Size

SAMPLE = Size(160, 90)


def share_changed(before: Plane, after: Plane, now: Plane) -> float:
    """The mean over pixels of the share of the way from one picture to another at which a third one
    is.

    Pixels that hardly differ between the two are left out.
    """
    way = (after - before)[..., :3].astype(np.float64)
    gone = (now - before)[..., :3].astype(np.float64)
    length = (way * way).sum(-1)
    told = length > 1e-4
    if not told.any():
        return 0.0
    share = (way * gone).sum(-1)[told] / length[told]
    return float(np.clip(share, 0, 1).mean())


def coverage_curve(
    engine: Engine, source: EffectSource, *, points: int = 11, size: Size = SAMPLE
) -> list[float]:
    """The share of the picture that has changed, at evenly spaced frames, first and last included.

    For a transition, the share of the second clip; for other kinds, the covered share of the frame
    (mean alpha).
    """
    last = source.length - 1
    frames = [round(k * last / max(1, points - 1)) for k in range(points)]
    results: dict[int, float] = {}
    for frame in dict.fromkeys(frames):
        now = _picture(engine, source, frame, size)
        if source.effect.kind != "transition":
            results[frame] = float(np.clip(now[..., 3], 0, 1).mean())
            continue
        ends = [_picture(engine, _only(source, slot), frame, size) for slot in ("from", "to")]
        results[frame] = share_changed(ends[0], ends[1], now)
    return [results[frame] for frame in frames]


def jumps(engine: Engine, source: EffectSource, *, size: Size = SAMPLE) -> list[str]:
    """Sentences on where a transition's first frame is not its first clip, or its last frame not the
    second: an editor sees a jump there. Compared in 8 bits, at a small size; empty for other kinds.
    """
    if source.effect.kind != "transition" or source.length < 2:
        return []
    sentences = []
    for frame, slot, which, clip in (
        (0, "from", "first", "first"),
        (source.length - 1, "to", "last", "second"),
    ):
        now, plain = (_picture(engine, one, frame, size) for one in (source, _only(source, slot)))
        off = int(np.rint(255 * np.abs(now - plain).max()))
        if off:
            sentences.append(
                f"The {which} frame differs from the {clip} clip by up to {min(off, 255)} of 255. "
                f"An editor sees a jump there. Show the {clip} clip alone at the {which} frame."
            )
    return sentences


def _picture(engine: Engine, source: EffectSource, frame: int, size: Size) -> Plane:
    return engine.compute(source.at(frame, size).plan).picture


def _only(source: EffectSource, slot: str) -> EffectSource:
    """The source of an effect that shows one slot of the same clips and nothing else."""
    step = {"id": "slot", "kind": "slot", "values": {"slot": slot}}
    lanes = [{"id": "out", "name": "Out", "steps": [step]}]
    effect = Effect.model_validate({"name": slot, "kind": "look", "lanes": lanes})
    return replace(source, effect=effect, frames=source.length, given_rate=source.rate, settings={})
