"""Centre lines of a view: crosses over circles, axes of what is turned or drilled (ISO 128-2, type 04.1)."""

from __future__ import annotations

import math
from collections.abc import Iterable

from ..inspect.prove_sketch import ShownFace
from ..solid.frame import dot
from .looks import Drawn
from .paper import XY, Ink

OVER = 2.5  # mm of the paper that they run on
FULL = math.radians(350)


def centre_lines(view: Drawn, every: Iterable[ShownFace], k: float) -> Ink:
    """In mm of the paper from where the part's origin lies in the view."""
    ink = Ink()
    told: set[tuple[float, ...]] = set()
    widest: dict[tuple[float, float], float] = {}
    for c in (*view.seen, *view.cut, *view.hidden):
        if c.kind == "circle":
            at = (round(c.at["c"][0], 3), round(c.at["c"][1], 3))
            widest[at] = max(widest.get(at, 0.0), c.r)
    for (x, y), r in widest.items():
        long = r * k + OVER
        ink.line("CENTRE", (x * k - long, y * k), (x * k + long, y * k))
        ink.line("CENTRE", (x * k, y * k - long), (x * k, y * k + long))
    axes: dict[tuple[float, ...], tuple[XY, list[float], float]] = {}
    for f in every:
        s = f.surface
        if s.kind not in ("cylinder", "cone") or not view.look.level(s.direction):
            continue
        way = view.look.flat(s.direction)
        if way[0] < -1e-9 or (abs(way[0]) < 1e-9 and way[1] < 0):
            way = (-way[0], -way[1])
        at = view.look.flat(s.at)
        off = at[1] * way[0] - at[0] * way[1]
        deep = dot(s.at, view.look.towards)
        if view.look.cut is not None and abs(deep - view.look.cut) > s.radius:
            continue  # it is not cut
        key = (round(way[0], 6), round(off, 3), round(deep, 3))
        ends = [x * way[0] + y * way[1] for c in f.curves for p in (c.start, c.end) for x, y in [view.look.flat(p)]]
        _, known, sweep = axes.get(key, (way, [], 0.0))
        axes[key] = (way, [*known, *ends], sweep + s.sweep)
    for (_, off, _), (way, ends, sweep) in axes.items():
        if sweep < FULL or not ends:
            continue
        low, high = min(ends) * k - OVER, max(ends) * k + OVER
        line = (round(way[0], 5), round(off, 3), round(low, 2), round(high, 2))
        if line in told:
            continue
        told.add(line)
        x, y = -off * way[1] * k, off * way[0] * k
        ink.line("CENTRE", (x + low * way[0], y + low * way[1]), (x + high * way[0], y + high * way[1]))
    return ink
