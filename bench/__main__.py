"""``python -m bench [group …]``: measure, print each row at once, write bench/results.json."""

from __future__ import annotations

import json
import os
import platform
import sys
import traceback
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

from . import (
    browser,
    cluster,
    crowd,
    films,
    frames,
    growth,
    noise,
    pace,
    reel,
    renders,
    starting,
    steps,
)
from .growth import Growth
from .measure import CALM, Row, calmly

QUICK = (
    frames.slowest_frames, pace.played_once, pace.at_random, pace.copies, browser.slider,
    browser.traffic, renders.start_of_a_film,
)  # fmt: skip
"""The figures that matter, in three minutes."""
GROUPS = {
    "quick": QUICK,
    "starting": starting.ROWS, "noise": noise.ROWS, "frames": frames.ROWS, "films": films.ROWS, "renders": renders.ROWS, "cluster": cluster.ROWS,
    "pace": pace.ROWS,
    "browser": browser.ROWS, "reel": reel.ROWS, "crowd": crowd.ROWS, "steps": steps.ROWS, "choices": steps.CHOICES, "growth": growth.ROWS,
}  # fmt: skip
CHROMIUM = (
    "Chromium is missing: these rows measure the page in it. Run “make test” once, or install it."
)


def _told(row: Row | Growth) -> str:
    """A row as two lines of text: the work and its time, then the reference."""
    if isinstance(row, Growth):
        sizes = " / ".join(str(size) for size in row.sizes)
        times = " / ".join(f"{ms:.1f}" for ms in row.ms)
        return f"  with {row.what} {sizes}\n      {times} ms: to the power of {row.exponent:.2f}"
    met = "yes" if row.met else "NO "
    stolen = "" if (row.stolen or 0.0) < 0.005 else f"; {row.stolen:.0%} of the processor stolen"
    if (row.stolen or 0.0) > CALM:
        stolen += ", too much: measure again"
    beside = f"; {row.reference}" if row.reference else ""
    if row.theirs is not None:
        beside += f" {row.theirs:.1f} {row.unit}"
    ratio = "" if row.ratio is None else f", {row.ratio:.2f}×"
    return (
        f"{met} {row.work}: {row.ours:.1f} {row.unit}\n"
        f"      wanted {row.wanted}, aim {row.aim}{beside}{ratio}{stolen}"
    )


def _measured(make: Callable[[], Any]) -> Iterator[Row | Growth]:
    """The rows of a function that measures. It gives rows, or more functions that do."""
    found, stolen = calmly(make)
    for one in found if isinstance(found, list) else [found]:
        if callable(one):
            yield from _measured(one)
        else:
            yield replace(one, stolen=stolen)


def main() -> None:
    """Run the rows of the named groups, or of all groups."""
    wanted = sys.argv[1:] or [name for name in GROUPS if name != "quick"]
    unknown = [name for name in wanted if name not in GROUPS]
    if unknown:
        sys.exit(f"There is no group “{unknown[0]}”. There are: {', '.join(GROUPS)}.")
    rows: list[Row] = []
    grown: list[Growth] = []
    failed: dict[str, str] = {}
    for make in (make for name in wanted for make in GROUPS[name]):
        print(f"… {make.__name__.replace('_', ' ')}", flush=True)
        try:
            for row in _measured(make):
                print(_told(row), flush=True)
                if isinstance(row, Growth):
                    grown.append(row)
                else:
                    rows.append(row)
        except Exception as fault:
            # Report a row that fails, and still measure the others.
            missing = isinstance(fault, FileNotFoundError) and "chromium" in str(fault).lower()
            failed[make.__name__] = (
                CHROMIUM if missing else "".join(traceback.format_exception_only(fault)).strip()
            )
            print(f"NO  {make.__name__} could not be measured. {failed[make.__name__]}", flush=True)
    report = {
        "machine": {"processor": platform.processor(), "cores": os.cpu_count()},
        "rows": [row.plain() for row in rows],
        "growth": [one.plain() for one in grown],
        "failed": failed,
    }
    path = Path(__file__).parent / "results.json"
    path.write_text(json.dumps(report, indent=1) + "\n")
    missed = [row.work for row in rows if not row.met]
    print(f"{len(rows) - len(missed)} of {len(rows)} rows met. Written to {path}.")
    for work in (*missed, *failed):
        print(f"NO  {work}")


if __name__ == "__main__":
    main()
