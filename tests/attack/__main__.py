"""Throw at the application for as long as one likes: ``python -m tests.attack [SECONDS] [SEED]``.

A seed that finds something is printed; the same seed throws the same again.
"""

from __future__ import annotations

import random
import sys
import tempfile
import time
from collections import Counter
from itertools import count
from pathlib import Path

from pale_static.demo.fill import fill
from pale_static.store import Library
from pale_static.web import create_app

from .shots import KINDS, Target


def main(seconds: float, start: int) -> int:
    """Throw until the time is over; the number of seeds that found something."""
    with tempfile.TemporaryDirectory() as folder:
        library = Library(Path(folder))
        fill(library, scale=0.25)
        app = create_app(library, cache_bytes=64 << 20)
        target = Target(library, app.test_client())
        end, found, thrown = time.monotonic() + seconds, 0, Counter[str]()
        for seed in count(start):
            if time.monotonic() > end:
                break
            kind = KINDS[seed % len(KINDS)]
            thrown[kind] += 1
            try:
                target.throw(kind, random.Random(f"{kind} {seed}"))
            except AssertionError as fault:
                found += 1
                print(f"seed {seed} ({kind}): {fault}", flush=True)
        after = target.kept()
        lost = [number for number in target.before if after.get(number) != target.before[number]]
        print(f"thrown: {dict(thrown)}; found {found}; drafts changed or lost: {lost}")
        return found + len(lost)


if __name__ == "__main__":
    asked = [float(word) for word in sys.argv[1:]]
    seed = int(asked[1]) if len(asked) > 1 else time.time_ns() % 10**9
    print(f"from seed {seed}", flush=True)
    sys.exit(bool(main(asked[0] if asked else 600.0, seed)))
