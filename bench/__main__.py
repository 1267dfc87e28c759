"""``python -m bench``: print the table and write bench/results.json."""

from __future__ import annotations

import json
import os
import platform
from pathlib import Path

from rich.console import Console
from rich.table import Table

from . import frames, noise
from .measure import Row


def main() -> None:
    """Run all rows."""
    console = Console(width=150)
    rows: list[Row] = []
    for make in (*noise.ROWS, *frames.ROWS):
        with console.status(f"Measuring {make.__name__.replace('_', ' ')}…"):
            rows += make()
    table = Table(title="Pale Static, medians; ratios of runs side by side")
    for heading in ("Work", "Ours", "Reference", "Theirs", "Ratio", "Wanted", "Aim", "Met"):
        table.add_column(
            heading, justify="right" if heading in ("Ours", "Theirs", "Ratio") else "left"
        )
    for row in rows:
        table.add_row(
            row.work, f"{row.ours:.1f} ms", row.reference,
            "" if row.theirs is None else f"{row.theirs:.1f} ms",
            "" if row.ratio is None else f"{row.ratio:.2f}×", row.wanted, row.aim,
            "yes" if row.met else "NO",
        )  # fmt: skip
    console.print(table)
    report = {
        "machine": {"processor": platform.processor(), "cores": os.cpu_count()},
        "rows": [row.plain() for row in rows],
    }
    path = Path(__file__).parent / "results.json"
    path.write_text(json.dumps(report, indent=1) + "\n")
    console.print(f"Written to {path}.")


if __name__ == "__main__":
    main()
