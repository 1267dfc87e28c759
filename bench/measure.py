"""Measuring: alternate two pieces of work, so that a busy machine slows both."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from statistics import median
from time import perf_counter
from typing import TypeVar

import numpy as np

Work = Callable[[], object]


@dataclass(frozen=True)
class Row:
    """One line of the table. Times in milliseconds unless ``unit`` says otherwise; ``ratio`` compares
    both, the way that ``wanted`` says."""

    work: str
    ours: float
    reference: str
    theirs: float | None
    ratio: float | None
    wanted: str
    aim: str
    met: bool
    unit: str = "ms"
    stolen: float | None = None
    """The share of the processor's time that other machines on the same host took meanwhile."""

    def plain(self) -> dict[str, object]:
        return asdict(self)


CALM = 0.1
"""A figure counts if at most this share of the processor's time was stolen."""
TRIES = 3
_Found = TypeVar("_Found")


def _clock() -> tuple[int, int]:
    """Stolen time and all time of the processor since it started, in ticks."""
    try:
        first = Path("/proc/stat").read_text().partition("\n")[0]
    except OSError:
        return 0, 0  # a system that does not tell
    ticks = [int(word) for word in first.split()[1:9]]
    return ticks[7], sum(ticks)


def calmly(measure: Callable[[], _Found]) -> tuple[_Found, float]:
    """What a measurement finds, and the share of the processor's time that was stolen meanwhile.

    It is measured again while too much is stolen, and the calmest attempt counts.
    """
    found: list[tuple[float, _Found]] = []
    for _ in range(TRIES):
        stolen, whole = _clock()
        got = measure()
        after = _clock()
        found.append(((after[0] - stolen) / max(1, after[1] - whole), got))
        if found[-1][0] <= CALM:
            break
    share, got = min(found, key=lambda one: one[0])
    return got, share


SCALE = "√x·x + x in NumPy on 960×540×4"


def scale() -> Work:
    """A fixed piece of plain NumPy, to compare times with."""
    block = np.random.default_rng(1).random((540, 960, 4), dtype=np.float32)
    return lambda: np.sqrt(block) * block + block


def once(work: Work) -> float:
    start = perf_counter()
    work()
    return (perf_counter() - start) * 1000


def alternate(ours: Work, theirs: Work, rounds: int) -> tuple[float, float, float]:
    """Median time of each, and the median of the ratios of neighbouring runs."""
    ours()
    theirs()
    pairs = [(once(ours), once(theirs)) for _ in range(rounds)]
    ratio = median(two / one for one, two in pairs)
    return median(one for one, _ in pairs), median(two for _, two in pairs), ratio


def against(
    work: str, ours: Work, reference: str, theirs: Work, least: float, aim: float, rounds: int = 15
) -> Row:
    """A row that asks for a ratio."""
    mine, other, ratio = alternate(ours, theirs, rounds)
    return Row(
        work, mine, reference, other, ratio, f"{least:g}× faster", f"{aim:g}×", ratio >= least
    )


def within(work: str, ours: Work, most: float, aim: float, rounds: int = 15) -> Row:
    """A row that asks for a time, with a fixed piece of plain NumPy beside it for scale."""
    mine, other, ratio = alternate(ours, scale(), rounds)
    return Row(work, mine, SCALE, other, ratio, f"{most:g} ms", f"{aim:g} ms", mine <= most)


def times(
    work: str, ours: Work, most: float, aim: float, theirs: Work | None = None,
    reference: str = SCALE, rounds: int = 15,
) -> Row:  # fmt: skip
    """A row that asks for a multiple of a reference's time, plain NumPy's by default.

    Its ratio is ours over the reference.
    """
    mine, other, ratio = alternate(ours, theirs or scale(), rounds)
    return multiple(work, mine, reference, other, 1 / ratio, most, aim)


def multiple(
    work: str, ours: float, reference: str, theirs: float, ratio: float, most: float, aim: float,
    unit: str = "ms",
) -> Row:  # fmt: skip
    """A row for a figure that may be at most a multiple of a reference."""
    return Row(work, ours, reference, theirs, ratio, f"at most {most:g}×", f"{aim:g}×",
               ratio <= most, unit)  # fmt: skip
