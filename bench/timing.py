"""Taking times."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable


def median(work: Callable[[], object], times: int = 7) -> float:
    """Median seconds of a call, after one that does not count."""
    work()
    return statistics.median(samples(work, times))


def samples(work: Callable[[], object], times: int) -> list[float]:
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return taken


def ratio(ours: Callable[[], object], theirs: Callable[[], object], times: int) -> tuple[float, float, float]:
    """Median of ours by theirs, and both medians. Taken in turns so that what else the machine does hits both,
    three calls at a turn so that neither begins with the other's data in the processor's caches."""
    pairs = [(median(ours, 3), median(theirs, 3)) for _ in range(times)]
    mine, other = (statistics.median(p[i] for p in pairs) for i in (0, 1))
    return statistics.median(a / b for a, b in pairs), mine, other


def p95(taken: list[float]) -> float:
    return sorted(taken)[int(0.95 * (len(taken) - 1))]
