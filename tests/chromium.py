"""Debian's Chromium, which tests and benchmarks drive."""

from __future__ import annotations

CHROMIUM = "/usr/bin/chromium"
FLAGS = [
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-background-networking",
    "--no-first-run",
]  # fmt: skip
