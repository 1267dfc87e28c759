"""``python -m bench``: print the table and write bench/results.json."""

from __future__ import annotations

import json
import os
import platform
from pathlib import Path

from rich.console import Console
from rich.table import Table

from . import browser, films, frames, growth, noise, steps
from .measure import Row


def main() -> None:
    """Run all rows."""
    console = Console(width=150)
    rows: list[Row] = []
    for make in (*noise.ROWS, *frames.ROWS, *films.ROWS, *browser.ROWS, *steps.ROWS):
        with console.status(f"Measuring {make.__name__.replace('_', ' ')}…"):
            rows += make()
    grown = []
    for measure in growth.ROWS:
        with console.status(f"Measuring growth with {measure.__name__}…"):
            grown.append(measure())
    table = Table(title="Pale Static, medians; ratios of runs side by side")
    for heading in ("Work", "Ours", "Reference", "Theirs", "Ratio", "Wanted", "Aim", "Met"):
        table.add_column(
            heading, justify="right" if heading in ("Ours", "Theirs", "Ratio") else "left"
        )
    for row in rows:
        table.add_row(
            row.work, f"{row.ours:.1f} {row.unit}", row.reference,
            "" if row.theirs is None else f"{row.theirs:.1f} {row.unit}",
            "" if row.ratio is None else f"{row.ratio:.2f}×", row.wanted, row.aim,
            "yes" if row.met else "NO",
        )  # fmt: skip
    console.print(table)
    growing = Table(title="Growth: one cold frame, medians; cost goes with size to the power of")
    for heading in ("With", "Sizes", "Milliseconds", "Power"):
        growing.add_column(heading)
    for one in grown:
        growing.add_row(
            one.what, " / ".join(str(size) for size in one.sizes),
            " / ".join(f"{ms:.1f}" for ms in one.ms), f"{one.exponent:.2f}",
        )  # fmt: skip
    console.print(growing)
    report = {
        "machine": {"processor": platform.processor(), "cores": os.cpu_count()},
        "rows": [row.plain() for row in rows],
        "growth": [one.plain() for one in grown],
    }
    path = Path(__file__).parent / "results.json"
    path.write_text(json.dumps(report, indent=1) + "\n")
    console.print(f"Written to {path}.")


if __name__ == "__main__":
    main()
