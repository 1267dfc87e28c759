"""Measuring: alternate two pieces of work, so that a busy machine slows both."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict, dataclass
from statistics import median
from time import perf_counter

Work = Callable[[], object]


@dataclass(frozen=True)
class Row:
    """One line of the table. Times in milliseconds unless ``unit`` says otherwise; ``ratio`` is the reference's over ours."""

    work: str
    ours: float
    reference: str
    theirs: float | None
    ratio: float | None
    wanted: str
    aim: str
    met: bool
    unit: str = "ms"

    def plain(self) -> dict[str, object]:
        return asdict(self)


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
    import numpy as np

    rng = np.random.default_rng(1)
    block = rng.random((540, 960, 4), dtype=np.float32)

    def scale() -> object:
        return np.sqrt(block) * block + block

    mine, other, ratio = alternate(ours, scale, rounds)
    return Row(
        work, mine, "√x·x + x in NumPy on 960×540×4", other, ratio, f"{most:g} ms", f"{aim:g} ms",
        mine <= most,
    )  # fmt: skip
