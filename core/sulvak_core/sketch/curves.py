"""Lines, arcs and circles as curves: where they meet, where a place stands on one, pieces of them."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

from .model import XY, Arc, Circle, Line, sweep_of

Curve = Line | Arc | Circle


@dataclass(frozen=True)
class Piece:
    """Part of a sketch entity between two nodes, in the direction it is walked.

    ``start``/``end`` in mm. For arcs and circles ``centre``, ``radius`` and the signed ``sweep``
    in radians (positive counter-clockwise) are given; for lines ``radius`` is 0.
    """

    entity: str
    start: XY
    end: XY
    centre: XY = (0.0, 0.0)
    radius: float = 0.0
    sweep: float = 0.0

    def reversed(self) -> Piece:
        return Piece(self.entity, self.end, self.start, self.centre, self.radius, -self.sweep)

    def middle(self) -> XY:
        if not self.radius:
            return ((self.start[0] + self.end[0]) / 2, (self.start[1] + self.end[1]) / 2)
        a = math.atan2(self.start[1] - self.centre[1], self.start[0] - self.centre[0]) + self.sweep / 2
        return (self.centre[0] + self.radius * math.cos(a), self.centre[1] + self.radius * math.sin(a))

    def area(self) -> float:
        """Its share of the enclosed area, ½∮(x dy − y dx), in mm²."""
        (x0, y0), (x1, y1) = self.start, self.end
        if not self.radius:
            return (x0 * y1 - x1 * y0) / 2
        cx, cy = self.centre
        return (self.radius**2 * self.sweep + cx * (y1 - y0) - cy * (x1 - x0)) / 2

    def heading(self) -> tuple[float, float]:
        """Direction in which it leaves its start, in radians, and its curvature there (left positive)."""
        if not self.radius:
            return math.atan2(self.end[1] - self.start[1], self.end[0] - self.start[0]), 0.0
        way = 1.0 if self.sweep > 0 else -1.0
        radial = math.atan2(self.start[1] - self.centre[1], self.start[0] - self.centre[0])
        return radial + way * math.pi / 2, way / self.radius


def position(c: Curve, t: float) -> XY:
    """The place at parameter ``t`` (0…1) of a curve, as ``parameter`` counts."""
    if isinstance(c, Line):
        return c.p[0] + t * (c.q[0] - c.p[0]), c.p[1] + t * (c.q[1] - c.p[1])
    start, sweep = (0.0, 2 * math.pi) if isinstance(c, Circle) else sweep_of(c)
    return c.c[0] + c.r * math.cos(start + t * sweep), c.c[1] + c.r * math.sin(start + t * sweep)


def box(c: Curve, pad: float) -> tuple[float, float, float, float]:
    """Least x, y and most x, y of a curve, ``pad`` mm wider."""
    if isinstance(c, Line):
        xs, ys = (c.p[0], c.q[0]), (c.p[1], c.q[1])
        return min(xs) - pad, min(ys) - pad, max(xs) + pad, max(ys) + pad
    return c.c[0] - c.r - pad, c.c[1] - c.r - pad, c.c[0] + c.r + pad, c.c[1] + c.r + pad


def meet(a: Curve, b: Curve, tolerance: float) -> list[XY]:
    """Where two curves cross or touch, and ends of one on the other, in mm."""
    found: list[XY] = []
    for c in (a, b):
        if not isinstance(c, Circle):
            found += [c.p, c.q]
    if isinstance(a, Line) and isinstance(b, Line):
        found += _line_line(a, b)
    elif isinstance(a, Line):
        found += _line_circle(a, b)  # type: ignore[arg-type]
    elif isinstance(b, Line):
        found += _line_circle(b, a)
    else:
        found += _circle_circle(a, b, tolerance)
    return [p for p in found if parameter(a, p, tolerance) is not None and parameter(b, p, tolerance) is not None]


def _line_line(a: Line, b: Line) -> list[XY]:
    ux, uy, vx, vy = a.q[0] - a.p[0], a.q[1] - a.p[1], b.q[0] - b.p[0], b.q[1] - b.p[1]
    cross = ux * vy - uy * vx
    if abs(cross) <= 1e-12 * math.hypot(ux, uy) * math.hypot(vx, vy):
        return []
    t = ((b.p[0] - a.p[0]) * vy - (b.p[1] - a.p[1]) * vx) / cross
    return [(a.p[0] + t * ux, a.p[1] + t * uy)]


def _line_circle(a: Line, b: Arc | Circle) -> list[XY]:
    dx, dy = a.q[0] - a.p[0], a.q[1] - a.p[1]
    size = math.hypot(dx, dy)
    if size == 0:
        return []
    ux, uy = dx / size, dy / size
    along = (b.c[0] - a.p[0]) * ux + (b.c[1] - a.p[1]) * uy
    fx, fy = a.p[0] + along * ux, a.p[1] + along * uy
    off = math.hypot(fx - b.c[0], fy - b.c[1])
    if abs(off - b.r) < 1e-9 * b.r:
        return [(fx, fy)]
    if off > b.r:
        return []
    half = math.sqrt(b.r * b.r - off * off)
    return [(fx + half * ux, fy + half * uy), (fx - half * ux, fy - half * uy)]


def _circle_circle(a: Arc | Circle, b: Arc | Circle, tolerance: float) -> list[XY]:
    dx, dy = b.c[0] - a.c[0], b.c[1] - a.c[1]
    d = math.hypot(dx, dy)
    if d < tolerance or d > a.r + b.r + tolerance or d < abs(a.r - b.r) - tolerance:
        return []
    along = (d * d + a.r * a.r - b.r * b.r) / (2 * d)
    h2 = a.r * a.r - along * along
    fx, fy = a.c[0] + along * dx / d, a.c[1] + along * dy / d
    if h2 <= (1e-9 * a.r) ** 2 or abs(d - a.r - b.r) < tolerance or abs(d - abs(a.r - b.r)) < tolerance:
        return [(a.c[0] + math.copysign(a.r, along) * dx / d, a.c[1] + math.copysign(a.r, along) * dy / d)]
    h = math.sqrt(h2)
    return [(fx - h * dy / d, fy + h * dx / d), (fx + h * dy / d, fy - h * dx / d)]


def parameter(c: Curve, at: XY, tolerance: float) -> float | None:
    """Where ``at`` stands on a curve: 0…1 along a line or arc, 0…1 round a circle; None if it is not on it."""
    if isinstance(c, Line):
        dx, dy = c.q[0] - c.p[0], c.q[1] - c.p[1]
        size = math.hypot(dx, dy)
        if size <= tolerance:
            return None
        along = ((at[0] - c.p[0]) * dx + (at[1] - c.p[1]) * dy) / size
        if abs((at[1] - c.p[1]) * dx - (at[0] - c.p[0]) * dy) / size > tolerance:
            return None
        return min(1.0, max(0.0, along / size)) if -tolerance <= along <= size + tolerance else None
    if abs(math.hypot(at[0] - c.c[0], at[1] - c.c[1]) - c.r) > tolerance:
        return None
    angle = math.atan2(at[1] - c.c[1], at[0] - c.c[0])
    if isinstance(c, Circle):
        return (angle / (2 * math.pi)) % 1.0
    start, sweep = sweep_of(c)
    turned = (angle - start) % (2 * math.pi)
    slack = tolerance / c.r
    if turned > 2 * math.pi - slack:
        turned = 0.0
    return min(1.0, turned / sweep) if turned <= sweep + slack else None


def pieces(c: Curve, ts: list[float], tolerance: float) -> list[Piece]:
    """A curve cut at the parameters ``ts``."""
    if isinstance(c, Line):
        size = math.hypot(c.q[0] - c.p[0], c.q[1] - c.p[1])
        if size <= tolerance:
            return []
        marks = _spaced([0.0, *ts, 1.0], tolerance / size)
        at = [(c.p[0] + t * (c.q[0] - c.p[0]), c.p[1] + t * (c.q[1] - c.p[1])) for t in marks]
        at[0], at[-1] = c.p, c.q
        return [Piece(c.id, p, q) for p, q in itertools.pairwise(at)]
    start, sweep = (0.0, 2 * math.pi) if isinstance(c, Circle) else sweep_of(c)

    def place(t: float) -> XY:
        return (c.c[0] + c.r * math.cos(start + t * sweep), c.c[1] + c.r * math.sin(start + t * sweep))

    slack = tolerance / (c.r * sweep)
    if isinstance(c, Circle):
        marks = _spaced(ts, slack) if ts else [0.0]
        if len(marks) > 1 and marks[0] + 1 - marks[-1] < slack:
            marks.pop()
        ring = [*marks, marks[0] + 1.0]
        return [
            Piece(c.id, place(s), place(t) if t < 1 or len(marks) > 1 else place(s), c.c, c.r, (t - s) * sweep)
            for s, t in itertools.pairwise(ring)
        ]
    marks = _spaced([0.0, *ts, 1.0], slack)
    at = [place(t) for t in marks]
    at[0], at[-1] = c.p, c.q
    return [Piece(c.id, at[i], at[i + 1], c.c, c.r, (marks[i + 1] - marks[i]) * sweep) for i in range(len(marks) - 1)]


def _spaced(marks: list[float], slack: float) -> list[float]:
    """Sorted marks with those closer than ``slack`` made one; the first and last stay."""
    marks = sorted(marks)
    kept = [marks[0]]
    for t in marks[1:]:
        if t - kept[-1] > slack:
            kept.append(t)
    if len(marks) > 1 and kept[-1] != marks[-1]:
        kept[-1] = marks[-1]
    return kept
