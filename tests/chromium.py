"""Debian's Chromium, which tests and benchmarks drive."""

from __future__ import annotations

from pathlib import Path

CHROMIUM = next(
    (path for path in ("/usr/bin/chromium-headless-shell", "/usr/bin/chromium") if Path(path).exists()),
    "/usr/bin/chromium",
)  # fmt: skip
"""Where it is: without what draws its windows, where that is installed."""
FLAGS = [
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-background-networking",
    "--no-first-run",
]  # fmt: skip
