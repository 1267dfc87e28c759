"""Attack for a chosen time: ``python -m tests.attack [SECONDS] [SEED]``.

Three fifths of the time it throws broken files, bodies, formulas and addresses at the application;
one fifth, damaged files of every kind at the door for foreign files. In the last fifth it kills a
real server during changes. It prints each seed that finds a problem; the same seed repeats the same
attack.
"""

from __future__ import annotations

import random
import resource
import sys
import tempfile
import time
from collections import Counter
from itertools import count
from pathlib import Path
from typing import Any

from pale_static.demo.fill import fill
from pale_static.store import Library
from pale_static.web import create_app

from ..server import Server
from .foreign import throw_all
from .shots import KINDS, Target
from .test_under_attack import kill_round

MOST_GROWN = 1 << 30
"""The largest growth of memory in bytes."""


def thrown(folder: Path, seconds: float, start: int) -> int:
    """Throw until the time is over; returns the number of seeds that found a problem."""
    library = Library(folder)
    app = create_app(library, cache_bytes=64 << 20)
    target = Target(library, app.test_client())
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    end, found, kinds = time.monotonic() + seconds, 0, Counter[str]()
    for seed in count(start):
        if time.monotonic() > end:
            break
        kind = KINDS[seed % len(KINDS)]
        kinds[kind] += 1
        try:
            target.throw(kind, random.Random(f"{kind} {seed}"))
        except AssertionError as fault:
            found += 1
            print(f"seed {seed} ({kind}): {fault}", flush=True)
    after = target.kept()
    lost = [number for number in target.before if after.get(number) != target.before[number]]
    grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) * 1024
    print(
        f"thrown: {dict(kinds)}; found {found}; drafts changed or lost: {lost}; "
        f"memory grew by {grown / 1e6:.0f} MB"
    )
    return found + len(lost) + (grown > MOST_GROWN)


def damaged(seconds: float, start: int) -> int:
    """Read damaged files of every kind until the time is over; returns the number without a
    sentence."""
    end, found, each = time.monotonic() + seconds, 0, 240
    for first in count(start * each, each):
        if time.monotonic() > end:
            break
        thrown = throw_all(each, first)
        found += len(thrown.found)
        for line in thrown.found:
            print(line, flush=True)
    print(f"damaged files that gave no sentence: {found}")
    return found


def killed(folder: Path, seconds: float, start: int) -> int:
    """Kill a server during changes until the time is over; returns how often something was lost."""
    server = Server(folder)
    first = server.ask("GET", "/effects/1")
    known: dict[str, Any] = {"said": [(first["revision"], first["effect"].get("sentence", ""))]}
    end, lost, kills = time.monotonic() + seconds, 0, 0
    try:
        for seed in count(start):
            if time.monotonic() > end:
                break
            kills += 1
            try:
                kill_round(server, random.Random(seed), known)
            except AssertionError as fault:
                lost += 1
                print(f"seed {seed} (kill): {fault}", flush=True)
    finally:
        server.stop()
    print(
        f"killed {kills} times amid {len(known['said'])} accepted changes; lost something {lost} "
        f"times"
    )
    return lost


def main(seconds: float, start: int) -> int:
    """Attack until the time is over; returns the number of problems."""
    with tempfile.TemporaryDirectory() as folder:
        one, two = Path(folder) / "one", Path(folder) / "two"
        for place in (one, two):
            fill(Library(place), scale=0.125)
        return (
            thrown(one, seconds * 0.6, start)
            + damaged(seconds * 0.2, start)
            + killed(two, seconds * 0.2, start)
        )


if __name__ == "__main__":
    asked = [float(word) for word in sys.argv[1:]]
    seed = int(asked[1]) if len(asked) > 1 else time.time_ns() % 10**9
    print(f"from seed {seed}", flush=True)
    sys.exit(bool(main(asked[0] if asked else 600.0, seed)))
