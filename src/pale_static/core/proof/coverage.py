"""How much of the new picture shows, over an effect's life."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from ..document import Effect
from ..engine import Engine
from ..footage import Materials
from ..picture import Plane, Size
from ..timing import Moment

SAMPLE = Size(160, 90)


def share_changed(before: Plane, after: Plane, now: Plane) -> float:
    """The mean share of the way from one picture to another that a third has gone, per pixel.

    Pixels that hardly differ between the two ends say nothing and are left out.
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
    engine: Engine,
    effect: Effect,
    length: int,
    rate: Any,
    *,
    points: int = 11,
    size: Size = SAMPLE,
    settings: Mapping[str, Any] | None = None,
    materials: Materials | None = None,
) -> list[float]:
    """Share of the picture that has changed over at evenly spaced frames, first and last included.

    For a transition, how much of the second clip shows; for anything else, how much of the frame
    is covered (mean alpha).
    """
    frames = [round(k * (length - 1) / max(1, points - 1)) for k in range(points)]
    given = {"settings": settings, "materials": materials or Materials()}
    results: dict[int, float] = {}
    for frame in dict.fromkeys(frames):
        moment = Moment(frame, length, rate)
        now = engine.evaluate(effect, moment, size, **given).picture  # type: ignore[arg-type]
        if effect.kind != "transition":
            results[frame] = float(np.clip(now[..., 3], 0, 1).mean())
            continue
        ends = [
            engine.evaluate(_only(slot), moment, size, **given).picture  # type: ignore[arg-type]
            for slot in ("from", "to")
        ]
        results[frame] = share_changed(ends[0], ends[1], now)
    return [results[frame] for frame in frames]


def jumps(
    engine: Engine,
    effect: Effect,
    length: int,
    rate: Any,
    *,
    size: Size = SAMPLE,
    materials: Materials | None = None,
) -> list[str]:
    """Sentences on where a transition's first frame is not its first clip, or its last frame not the
    second: an editor sees a jump there. Compared in 8 bits, at a small size; empty for other kinds.
    """
    if effect.kind != "transition" or length < 2:
        return []
    sentences = []
    for frame, slot, which, clip in (
        (0, "from", "first", "first"),
        (length - 1, "to", "last", "second"),
    ):
        now, plain = (
            engine.evaluate(
                one, Moment(frame, length, rate), size, materials=materials or Materials()
            ).picture
            for one in (effect, _only(slot))
        )
        off = int(np.rint(255 * np.abs(now - plain).max()))
        if off:
            sentences.append(
                f"The {which} frame differs from the {clip} clip by up to {min(off, 255)} of 255. "
                f"An editor sees a jump there. Show the {clip} clip alone at the {which} frame."
            )
    return sentences


def _only(slot: str) -> Effect:
    """An effect that shows one slot and nothing else."""
    return Effect.model_validate(
        {
            "name": slot,
            "kind": "look",
            "lanes": [
                {
                    "id": "out",
                    "name": "Out",
                    "steps": [{"id": "slot", "kind": "slot", "values": {"slot": slot}}],
                }
            ],
        }
    )
