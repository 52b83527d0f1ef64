"""Rows on mass: what drives it."""

from __future__ import annotations

import time

from sulvak_core.rebuild.engine import build
from sulvak_core.rebuild.state import Cache
from sulvak_core.rebuild.trials import Trials
from sulvak_core.weighing.drivers import driver
from sulvak_core.weighing.sizes import sizes

from .sheet import with_callouts
from .timing import median


def sensitivities() -> str:
    """what 40 sizes of a part of 60 steps bring in mass, by two processes, against one full rebuild | 8× | 4×"""
    document = with_callouts(30)
    mine = [s for s in sizes(document) if s.kind != "number"][:40]
    assert len(document.steps) == 60 and len(mine) == 40
    whole = median(lambda: build(document, Cache()), 3)
    slowest = 0.0
    for k in range(2):  # the shares of two processes, one after the other
        cache = Cache()
        made = build(document, cache)
        trials = Trials(document, made, cache)
        began = time.perf_counter()
        found = [driver(trials, s) for s in mine[k::2]]
        slowest = max(slowest, time.perf_counter() - began)
        assert all(d.state in ("ok", "kink") for d in found)
    return f"{slowest / whole:.1f}× ({slowest:.2f} s / {whole:.2f} s)"


ROWS = [sensitivities]

if __name__ == "__main__":
    for row in ROWS:
        print(row.__doc__, row())
