"""Closed regions of a sketch, found by themselves; islands become holes.

The lines, arcs and circles that are not construction are cut where they meet; the pieces form a
plane graph whose faces are the regions (half-edges sorted by angle at every node; de Berg et al.,
*Computational Geometry*, 3rd ed., chapter 2). Loose tails bound nothing.
"""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from dataclasses import dataclass, field

from .model import Arc, Circle, Line, Model, Sketch, extent, sweep_of

XY = tuple[float, float]

SAME_PLACE = 5e-8  # mm; the kernel takes points within 1e-7 for one


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


@dataclass
class Region:
    """A closed region: its outer loop (counter-clockwise), its holes (clockwise), area in mm², nesting depth."""

    outer: list[Piece]
    holes: list[list[Piece]] = field(default_factory=list)
    area: float = 0.0
    depth: int = 0

    @property
    def around(self) -> list[str]:
        """Ids of the entities of the outer loop, sorted: what names the region."""
        return sorted({p.entity for p in self.outer})

    def inside(self) -> XY:
        """A point well inside the region."""
        return _inside_point(self)


class RegionPick(Model):
    """A region as a designer chose it: what runs around it, and a point inside for telling twins apart."""

    around: list[str]
    at: tuple[float, float]


@dataclass
class Profile:
    regions: list[Region]
    open_ends: list[XY]  # places where a chain ends without closing

    def default(self) -> list[Region]:
        """What a drafter means by a profile: material outside, islands left out, islands in islands again material."""
        return [r for r in self.regions if r.depth % 2 == 0]

    def chosen(self, picks: list[RegionPick]) -> list[Region | None]:
        """The region each pick means now, None where it is gone."""
        return [self._find(p) for p in picks]

    def _find(self, pick: RegionPick) -> Region | None:
        wanted = set(pick.around)
        best, score = None, (0.0, 0.0)
        for region in self.regions:
            mine = set(region.around)
            alike = len(mine & wanted) / len(mine | wanted)
            x, y = region.inside()
            near = 1.0 / (1.0 + math.hypot(x - pick.at[0], y - pick.at[1]))
            if alike >= 0.5 and (round(alike, 6), near) > score:
                best, score = region, (round(alike, 6), near)
        return best


def profile(sketch: Sketch) -> Profile:
    """All regions of a sketch, the largest first, and the open ends of chains."""
    tolerance = min(max(1e-9 * extent(sketch), 1e-10), SAME_PLACE)
    pieces = _cut(sketch, tolerance)
    nodes = _Nodes(tolerance)
    edges = [(nodes.index(p.start), nodes.index(p.end), p) for p in pieces]
    edges = [(i, j, _snapped(p, nodes.at[i], nodes.at[j])) for i, j, p in edges]
    edges, open_ends = _prune(edges, nodes)
    loops = _faces(edges)
    return Profile(_nest(loops), open_ends)


def _snapped(p: Piece, start: XY, end: XY) -> Piece:
    return Piece(p.entity, start, end, p.centre, p.radius, p.sweep)


class _Nodes:
    """Places merged within a tolerance, by a grid of cells."""

    def __init__(self, tolerance: float) -> None:
        self.cell = tolerance * 4
        self.tolerance = tolerance
        self.at: list[XY] = []
        self.grid: dict[tuple[int, int], list[int]] = defaultdict(list)

    def index(self, p: XY) -> int:
        i, j = math.floor(p[0] / self.cell), math.floor(p[1] / self.cell)
        for a in (i - 1, i, i + 1):
            for b in (j - 1, j, j + 1):
                for k in self.grid.get((a, b), ()):
                    if math.hypot(self.at[k][0] - p[0], self.at[k][1] - p[1]) <= self.tolerance:
                        return k
        self.at.append(p)
        self.grid[(i, j)].append(len(self.at) - 1)
        return len(self.at) - 1


def _prune(edges: list[tuple[int, int, Piece]], nodes: _Nodes) -> tuple[list[tuple[int, int, Piece]], list[XY]]:
    degree: dict[int, int] = defaultdict(int)
    for i, j, _ in edges:
        degree[i] += 1
        degree[j] += 1
    ends = [nodes.at[k] for k, n in degree.items() if n == 1]
    while True:
        keep = [e for e in edges if degree[e[0]] > 1 and degree[e[1]] > 1]
        if len(keep) == len(edges):
            return keep, ends
        for e in edges:
            if degree[e[0]] <= 1 or degree[e[1]] <= 1:
                degree[e[0]] -= 1
                degree[e[1]] -= 1
        edges = keep


def _faces(edges: list[tuple[int, int, Piece]]) -> list[list[Piece]]:
    """Loops of the plane graph, each walked with its face on the left."""
    half = []  # (from, to, piece); 2k and 2k+1 are twins
    for i, j, p in edges:
        half += [(i, j, p), (j, i, p.reversed())]
    leaving: dict[int, list[int]] = defaultdict(list)
    for k, (i, _, _) in enumerate(half):
        leaving[i].append(k)
    after: dict[int, int] = {}
    for around in leaving.values():

        def turn(k: int) -> tuple[float, float]:
            angle, bend = half[k][2].heading()
            angle %= 2 * math.pi
            if angle > 2 * math.pi - 1e-9:
                angle = 0.0
            return round(angle, 9), bend

        around.sort(key=turn)
        for n, k in enumerate(around):
            after[k ^ 1] = around[n - 1]  # arriving against k: leave by the next one clockwise
    seen: set[int] = set()
    loops = []
    for k in range(len(half)):
        loop = []
        while k not in seen:
            seen.add(k)
            loop.append(half[k][2])
            k = after[k]
        if loop:
            loops.append(loop)
    return loops


def _nest(loops: list[list[Piece]]) -> list[Region]:
    areas = [sum(p.area() for p in loop) for loop in loops]
    regions = [Region(loop, [], area) for loop, area in zip(loops, areas, strict=True) if area > 1e-14]
    regions.sort(key=lambda r: (r.area, r.around))
    for loop, area in zip(loops, areas, strict=True):
        if area >= -1e-14:
            continue
        # the far side of a connected piece of drawing: a hole of the smallest region around it
        edges = {(p.entity, *sorted((p.start, p.end))) for p in loop}
        for region in regions:
            if region.area <= -area + 1e-14:
                continue
            if any((p.entity, *sorted((p.start, p.end))) in edges for p in region.outer):
                continue
            if _contains(region.outer, loop[0].middle()):
                region.holes.append(loop)
                break
    for region in regions:
        x, y = region.outer[0].middle()
        region.depth = sum(
            1
            for other in regions
            if other is not region and any(_contains_hole(h, (x, y), region) for h in other.holes)
        )
        region.area += sum(sum(p.area() for p in hole) for hole in region.holes)
    regions.sort(key=lambda r: (-r.area, r.around))
    return regions


def _contains_hole(hole: list[Piece], at: XY, region: Region) -> bool:
    mine = {(p.entity, *sorted((p.start, p.end))) for p in region.outer}
    if any((p.entity, *sorted((p.start, p.end))) in mine for p in hole):
        return True
    return _contains([p.reversed() for p in reversed(hole)], at)


def _contains(loop: list[Piece], at: XY) -> bool:
    """Whether ``at`` lies inside a counter-clockwise loop, by the winding angle of its pieces."""
    x, y = at
    total = 0.0
    for p in loop:
        steps = 1 if not p.radius else max(2, math.ceil(abs(p.sweep) / (math.pi / 8)))
        last = p.start
        a0 = math.atan2(p.start[1] - p.centre[1], p.start[0] - p.centre[0])
        inside = bool(p.radius) and math.hypot(x - p.centre[0], y - p.centre[1]) < p.radius
        for s in range(1, steps + 1):
            if not p.radius:
                now = p.end
            else:
                a = a0 + p.sweep * s / steps
                now = (p.centre[0] + p.radius * math.cos(a), p.centre[1] + p.radius * math.sin(a))
            u, v = (last[0] - x, last[1] - y), (now[0] - x, now[1] - y)
            turned = math.atan2(u[0] * v[1] - u[1] * v[0], u[0] * v[0] + u[1] * v[1])
            # between chord and arc the chord's winding is wrong: put it right
            if p.radius and inside and turned * p.sweep < 0:
                turned += math.copysign(2 * math.pi, p.sweep)
            total += turned
            last = now
    return total > math.pi


def _inside_point(region: Region) -> XY:
    tried: list[tuple[float, XY]] = []
    loops = [region.outer, *region.holes]
    size = math.sqrt(max(sum(p.area() for p in region.outer), 1e-12))
    for p in region.outer:
        x, y = p.middle()
        half = Piece(p.entity, (x, y), p.end, p.centre, p.radius, p.sweep / 2)
        angle, _ = half.heading()
        for depth in (0.3, 0.1, 0.02, 0.001):
            at = (x - math.sin(angle) * depth * size, y + math.cos(angle) * depth * size)
            clear = _contains(region.outer, at) and not any(
                _contains([q.reversed() for q in reversed(h)], at) for h in region.holes
            )
            if clear:
                room = min(_distance(q, at) for loop in loops for q in loop)
                tried.append((room, at))
    return max(tried)[1] if tried else region.outer[0].middle()


def _distance(p: Piece, at: XY) -> float:
    if p.radius:
        return abs(math.hypot(at[0] - p.centre[0], at[1] - p.centre[1]) - p.radius)
    dx, dy = p.end[0] - p.start[0], p.end[1] - p.start[1]
    t = ((at[0] - p.start[0]) * dx + (at[1] - p.start[1]) * dy) / max(dx * dx + dy * dy, 1e-300)
    t = min(1.0, max(0.0, t))
    return math.hypot(at[0] - p.start[0] - t * dx, at[1] - p.start[1] - t * dy)


# -- cutting where curves meet ---------------------------------------------------------------

Curve = Line | Arc | Circle


def _cut(sketch: Sketch, tolerance: float) -> list[Piece]:
    curves = [e for e in sketch.entities if isinstance(e, Line | Arc | Circle) and not e.construction]
    boxes = [_box(c, tolerance) for c in curves]
    cuts: list[set[float]] = [set() for _ in curves]
    order = sorted(range(len(curves)), key=lambda i: boxes[i][0])
    active: list[int] = []
    for i in order:
        active = [j for j in active if boxes[j][2] >= boxes[i][0]]
        for j in active:
            if boxes[j][1] <= boxes[i][3] and boxes[i][1] <= boxes[j][3]:
                for at in _meet(curves[i], curves[j], tolerance):
                    for k in (i, j):
                        t = _parameter(curves[k], at, tolerance)
                        if t is not None:
                            cuts[k].add(t)
        active.append(i)
    pieces: list[Piece] = []
    for curve, ts in zip(curves, cuts, strict=True):
        pieces += _pieces(curve, sorted(ts), tolerance)
    return pieces


def _box(c: Curve, pad: float) -> tuple[float, float, float, float]:
    if isinstance(c, Line):
        xs, ys = (c.p[0], c.q[0]), (c.p[1], c.q[1])
        return min(xs) - pad, min(ys) - pad, max(xs) + pad, max(ys) + pad
    return c.c[0] - c.r - pad, c.c[1] - c.r - pad, c.c[0] + c.r + pad, c.c[1] + c.r + pad


def _meet(a: Curve, b: Curve, tolerance: float) -> list[XY]:
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
    return [p for p in found if _parameter(a, p, tolerance) is not None and _parameter(b, p, tolerance) is not None]


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


def _parameter(c: Curve, at: XY, tolerance: float) -> float | None:
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


def _pieces(c: Curve, ts: list[float], tolerance: float) -> list[Piece]:
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
