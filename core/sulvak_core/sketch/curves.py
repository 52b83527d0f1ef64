"""Curves: where they meet, where a place stands on one, pieces of them.

Lines, arcs and circles are worked out here in closed form, ellipses and splines by ``free_curves``.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass, replace

import numpy as np

from . import free_curves
from .free_curves import Bent
from .lettering import Span, characters, outlines
from .model import XY, Arc, Circle, Ellipse, Line, Spline, Text, sweep_of

Curve = Line | Arc | Circle
AnyCurve = Curve | Bent


@dataclass(frozen=True)
class Piece:
    """Part of a sketch entity between two nodes, in the direction it is walked.

    ``start``/``end`` in mm. For arcs and circles ``centre``, ``radius`` and the signed ``sweep``
    in radians (positive counter-clockwise) are given; for lines ``radius`` is 0. A piece of an ellipse has
    its half ``axes`` and sweeps in eccentric anomaly; one of a spline or a letter is cubic Béziers, ``spans``.
    ``stroke``: the character of a text, from 1, and the stroke of it (``c2k7``).
    """

    entity: str
    start: XY
    end: XY
    centre: XY = (0.0, 0.0)
    radius: float = 0.0
    sweep: float = 0.0
    axes: tuple[XY, XY] | None = None
    spans: tuple[Span, ...] = ()
    stroke: str = ""

    @property
    def origin(self) -> str:
        """What a wall on this piece is known by: the entity, and of a text the letter and its stroke."""
        return f"{self.entity}{self.stroke}"

    @property
    def straight(self) -> bool:
        return not (self.radius or self.axes or self.spans)

    def reversed(self) -> Piece:
        back = tuple((d, c, b, a) for a, b, c, d in reversed(self.spans))
        return Piece(
            self.entity, self.end, self.start, self.centre, self.radius, -self.sweep, self.axes, back, self.stroke
        )

    def between(self, start: XY, end: XY) -> Piece:
        """The same piece with its ends put to places they stand at but for rounding."""
        if start == self.start and end == self.end:
            return self
        spans = self.spans
        if spans:
            spans = ((start, *spans[0][1:]), *spans[1:])
            spans = (*spans[:-1], (*spans[-1][:3], end))
        return replace(self, start=start, end=end, spans=spans)

    def _frame(self) -> tuple[tuple[XY, XY], float]:
        """Half axes, and the angle at the start."""
        axes = self.axes or ((self.radius, 0.0), (0.0, self.radius))
        return axes, free_curves.anomaly(self.centre, axes, self.start)

    def at(self, t: float) -> XY:
        """The place at ``t`` (0 … 1) of the piece."""
        if self.straight:
            return (
                self.start[0] + t * (self.end[0] - self.start[0]),
                self.start[1] + t * (self.end[1] - self.start[1]),
            )
        if self.spans:
            i = min(int(t * len(self.spans)), len(self.spans) - 1)
            u = t * len(self.spans) - i
            b = self.spans[i]
            k = ((1 - u) ** 3, 3 * (1 - u) ** 2 * u, 3 * (1 - u) * u * u, u**3)
            return sum(w * p[0] for w, p in zip(k, b, strict=True)), sum(w * p[1] for w, p in zip(k, b, strict=True))
        (d, e), begun = self._frame()
        cos, sin = math.cos(begun + t * self.sweep), math.sin(begun + t * self.sweep)
        return self.centre[0] + cos * d[0] + sin * e[0], self.centre[1] + cos * d[1] + sin * e[1]

    def middle(self) -> XY:
        return self.at(0.5)

    def walk(self) -> list[XY]:
        """Places along it from its start to its end, near enough for a look at what lies inside."""
        if self.straight:
            return [self.start, self.end]
        count = 24 * len(self.spans) if self.spans else max(2, math.ceil(abs(self.sweep) / (math.pi / 96)))
        return [self.start, *(self.at(i / count) for i in range(1, count)), self.end]

    def area(self) -> float:
        """Its share of the enclosed area, ½∮(x dy − y dx), in mm²."""
        (x0, y0), (x1, y1) = self.start, self.end
        if self.straight:
            return (x0 * y1 - x1 * y0) / 2
        if self.spans:
            return free_curves.span_area(self.spans)
        (dx, dy), (ex, ey) = self.axes or ((self.radius, 0.0), (0.0, self.radius))
        cx, cy = self.centre
        return ((dx * ey - dy * ex) * self.sweep + cx * (y1 - y0) - cy * (x1 - x0)) / 2

    def heading(self) -> tuple[float, float]:
        """Direction in which it leaves its start, in radians, and its curvature there (left positive)."""
        if self.straight:
            return math.atan2(self.end[1] - self.start[1], self.end[0] - self.start[0]), 0.0
        if self.radius:
            way = 1.0 if self.sweep > 0 else -1.0
            radial = math.atan2(self.start[1] - self.centre[1], self.start[0] - self.centre[0])
            return radial + way * math.pi / 2, way / self.radius
        (vx, vy), (ax, ay) = self._starting()
        return math.atan2(vy, vx), (vx * ay - vy * ax) / max(math.hypot(vx, vy) ** 3, 1e-300)

    def _starting(self) -> tuple[XY, XY]:
        """First and second derivative at the start of a piece of an ellipse or spline."""
        if self.spans:
            a, b, c, d = self.spans[0]
            if math.dist(a, b) < 1e-12:
                b = c if math.dist(a, c) > 1e-12 else d
            v = (3 * (b[0] - a[0]), 3 * (b[1] - a[1]))
            return v, (6 * (c[0] - 2 * b[0] + a[0]), 6 * (c[1] - 2 * b[1] + a[1]))
        (d, e), begun = self._frame()
        cos, sin, way = math.cos(begun), math.sin(begun), math.copysign(1.0, self.sweep)
        speed = (way * (cos * e[0] - sin * d[0]), way * (cos * e[1] - sin * d[1]))
        return speed, (-cos * d[0] - sin * e[0], -cos * d[1] - sin * e[1])


def position(c: AnyCurve, t: float) -> XY:
    """The place at parameter ``t`` (0…1) of a curve, as ``parameter`` counts."""
    if isinstance(c, Bent):
        x, y = free_curves.path(c).at(np.array([t]))[0]
        return float(x), float(y)
    if isinstance(c, Line):
        return c.p[0] + t * (c.q[0] - c.p[0]), c.p[1] + t * (c.q[1] - c.p[1])
    start, sweep = (0.0, 2 * math.pi) if isinstance(c, Circle) else sweep_of(c)
    return c.c[0] + c.r * math.cos(start + t * sweep), c.c[1] + c.r * math.sin(start + t * sweep)


def box(c: AnyCurve, pad: float) -> tuple[float, float, float, float]:
    """Least x, y and most x, y of a curve, ``pad`` mm wider."""
    if isinstance(c, Bent):
        return free_curves.box(c, pad)
    if isinstance(c, Line):
        xs, ys = (c.p[0], c.q[0]), (c.p[1], c.q[1])
        return min(xs) - pad, min(ys) - pad, max(xs) + pad, max(ys) + pad
    return c.c[0] - c.r - pad, c.c[1] - c.r - pad, c.c[0] + c.r + pad, c.c[1] + c.r + pad


def ends(c: AnyCurve) -> list[XY]:
    """Where a curve starts and ends; nothing for one that closes on itself."""
    if isinstance(c, Spline):
        return [c.points[0], c.points[-1]]
    return [] if isinstance(c, Circle | Ellipse) else [c.p, c.q]


def meet(a: AnyCurve, b: AnyCurve, tolerance: float) -> list[XY]:
    """Where two curves cross or touch, and ends of one on the other, in mm."""
    return [at for at, _, _ in meet_along(a, b, tolerance)]


def meet_along(a: AnyCurve, b: AnyCurve, tolerance: float) -> list[tuple[XY, float, float]]:
    """The same, with where each place stands on either curve (see ``parameter``)."""
    found: list[XY] = [*ends(a), *ends(b)]
    if isinstance(a, Bent) or isinstance(b, Bent):
        found += free_curves.meet(a, b, tolerance)
    elif isinstance(a, Line) and isinstance(b, Line):
        found += _line_line(a, b)
    elif isinstance(a, Line):
        found += _line_circle(a, b)  # type: ignore[arg-type]
    elif isinstance(b, Line):
        found += _line_circle(b, a)
    else:
        found += _circle_circle(a, b, tolerance)
    on_both = []
    for p in found:
        if (one := parameter(a, p, tolerance)) is not None and (two := parameter(b, p, tolerance)) is not None:
            on_both.append((p, one, two))
    return on_both


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


def parameter(c: AnyCurve, at: XY, tolerance: float) -> float | None:
    """Where ``at`` stands on a curve: 0…1 along a line or arc, 0…1 round a circle; None if it is not on it."""
    if isinstance(c, Bent):
        return free_curves.parameter(c, at, tolerance)
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


def pieces(c: AnyCurve, ts: list[float], tolerance: float) -> list[Piece]:
    """A curve cut at the parameters ``ts``."""
    if isinstance(c, Bent):
        return _bent_pieces(c, ts, tolerance)
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
        ring = _ring(ts, slack)
        return [
            Piece(c.id, place(s), place(t) if t < 1 or len(ring) > 2 else place(s), c.c, c.r, (t - s) * sweep)
            for s, t in itertools.pairwise(ring)
        ]
    marks = _spaced([0.0, *ts, 1.0], slack)
    at = [place(t) for t in marks]
    at[0], at[-1] = c.p, c.q
    return [Piece(c.id, at[i], at[i + 1], c.c, c.r, (marks[i + 1] - marks[i]) * sweep) for i in range(len(marks) - 1)]


def letters(text: Text) -> list[Piece]:
    """The outlines of a text: straight strokes, and curves that run smoothly from corner to corner."""
    found: list[Piece] = []
    strokes: dict[int, int] = {}
    for loop, letter in zip(outlines(text.text, text.p, text.q), characters(text.text), strict=True):
        runs: list[list[Span]] = []
        for span in loop:
            if runs and not _is_straight(span) and not _is_straight(runs[-1][-1]) and _goes_on(runs[-1][-1], span):
                runs[-1].append(span)
            else:
                runs.append([span])
        for run in runs:
            start, end = run[0][0], run[-1][3]
            strokes[letter] = strokes.get(letter, 0) + 1
            spans = () if _is_straight(run[0]) else tuple(run)
            found.append(Piece(text.id, start, end, spans=spans, stroke=f"c{letter}k{strokes[letter]}"))
    return found


def _is_straight(span: Span) -> bool:
    (ax, ay), b, c, (dx, dy) = span
    size = math.hypot(dx - ax, dy - ay)
    return all(abs((dx - ax) * (y - ay) - (dy - ay) * (x - ax)) <= 1e-9 * size * size for x, y in (b, c))


def _goes_on(one: Span, other: Span) -> bool:
    """Whether a curve leaves a joint in the direction in which it came."""
    ux, uy = one[3][0] - one[2][0], one[3][1] - one[2][1]
    vx, vy = other[1][0] - other[0][0], other[1][1] - other[0][1]
    return ux * vx + uy * vy > 0.9999 * math.hypot(ux, uy) * math.hypot(vx, vy)


def _bent_pieces(c: Bent, ts: list[float], tolerance: float) -> list[Piece]:
    whole = free_curves.path(c)
    _, walked = whole.samples()
    slack = tolerance / max(float(np.hypot(*np.diff(walked, axis=0).T).sum()), 1e-300)
    if isinstance(c, Ellipse):
        marks = _ring(ts, slack)
    else:
        marks = _spaced([0.0, *ts, 1.0], slack)
    at = [position(c, t % 1.0 if isinstance(c, Ellipse) else t) for t in marks]
    found = []
    line = free_curves.spans(c) if isinstance(c, Spline) else []
    for i, (t, u) in enumerate(itertools.pairwise(marks)):
        if isinstance(c, Spline):
            spans = tuple(free_curves.cut(line, t, u))
            found.append(Piece(c.id, at[i], at[i + 1], spans=spans).between(at[i], at[i + 1]))
        else:
            sweep = 2 * math.pi if isinstance(c, Ellipse) else free_curves.sweep_on(c)[1]
            found.append(Piece(c.id, at[i], at[i + 1], c.c, 0.0, (u - t) * sweep, free_curves.half_axes(c)))
    return found


def _ring(ts: list[float], slack: float) -> list[float]:
    """Marks round a closed curve, the first once more a whole turn on."""
    marks = _spaced(ts, slack) if ts else [0.0]
    if len(marks) > 1 and marks[0] + 1 - marks[-1] < slack:
        marks.pop()
    return [*marks, marks[0] + 1.0]


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
