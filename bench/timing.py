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


def p95(taken: list[float]) -> float:
    return sorted(taken)[int(0.95 * (len(taken) - 1))]
