"""Free curves as runs of arcs and lines within a tolerance: what a prismatic part is milled as anyway."""

from __future__ import annotations

import math
from collections.abc import Callable

from .drawing import Shape

XY = tuple[float, float]
DEEPEST = 9  # halvings of one stretch of a curve


def fitted(at: Callable[[float], XY], tolerance: float, layer: str, stretches: int = 4) -> list[Shape]:
    """Arcs (or lines where it is straight) along ``at`` (parameter 0…1), never further off than ``tolerance``.

    Each arc goes through the curve at its ends and its middle; it is halved while a quarter point lies off it.
    """
    found: list[Shape] = []
    for i in range(stretches):
        found += _stretch(at, i / stretches, (i + 1) / stretches, tolerance, layer, DEEPEST)
    return found


def _stretch(at: Callable[[float], XY], a: float, b: float, tolerance: float, layer: str, left: int) -> list[Shape]:
    p, m, q = at(a), at((a + b) / 2), at(b)
    checks = [at(a + k * (b - a)) for k in (0.125, 0.25, 0.375, 0.625, 0.75, 0.875)]
    circle = through(p, m, q)
    if circle is None:
        off = max(_from_line(x, p, q) for x in [m, *checks])
        shape = Shape(layer=layer, kind="line", p=p, q=q)
    else:
        c, r, forward = circle
        off = max(abs(math.dist(c, x) - r) for x in checks)
        start, end = (p, q) if forward else (q, p)
        shape = Shape(layer=layer, kind="arc", c=c, r=r, p=start, q=end)
    if off <= tolerance or left == 0:
        return [shape]
    half = (a + b) / 2
    return _stretch(at, a, half, tolerance, layer, left - 1) + _stretch(at, half, b, tolerance, layer, left - 1)


def through(p: XY, m: XY, q: XY) -> tuple[XY, float, bool] | None:
    """Centre, radius and whether it runs counter-clockwise, of the arc from p over m to q; None if it is straight."""
    ax, ay, bx, by = m[0] - p[0], m[1] - p[1], q[0] - p[0], q[1] - p[1]
    cross = ax * by - ay * bx
    size = math.hypot(bx, by)
    if size == 0 or abs(cross) < 1e-7 * size * size:
        return None
    d = 2 * cross
    a2, b2 = ax * ax + ay * ay, bx * bx + by * by
    ux, uy = (by * a2 - ay * b2) / d, (ax * b2 - bx * a2) / d
    return (p[0] + ux, p[1] + uy), math.hypot(ux, uy), cross > 0


def _from_line(x: XY, p: XY, q: XY) -> float:
    dx, dy = q[0] - p[0], q[1] - p[1]
    n = math.hypot(dx, dy)
    return abs((x[0] - p[0]) * dy - (x[1] - p[1]) * dx) / n if n else math.dist(x, p)
