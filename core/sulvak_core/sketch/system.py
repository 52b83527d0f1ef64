"""A sketch put into equations: variables, rows, remembered branches.

Everything inside is scaled by the sketch's size, so a 2 mm and a 2 m sketch are the same system.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from ..part.errors import Refusal
from . import rows as R
from .bearings import bearings
from .model import (
    ORIGIN,
    X_AXIS,
    Y_AXIS,
    Arc,
    Circle,
    Constraint,
    Dimension,
    Line,
    Point,
    Sketch,
    extent,
    points_of,
)
from .rows import Floats, Row

GROUND, UNIT = 0, 1
INTERNAL = ":"  # owners that start with this are a sketch's own rows (an arc's ends lie on it)

Pair = tuple[int, int]


@dataclass
class System:
    """Variables and rows of a sketch. ``x`` holds the present values, scaled by 1/``size``."""

    size: float
    x: Floats
    point: dict[str, Pair]
    radius: dict[str, int]
    lines: dict[str, tuple[Pair, Pair]]
    rows: list[Row] = field(default_factory=list)

    def place(self, ref: str) -> tuple[float, float]:
        """Present coordinates of a point in mm."""
        ix, iy = self.point[ref]
        return float(self.x[ix]) * self.size, float(self.x[iy]) * self.size


class Builder:
    """Turns a sketch into a System. ``values`` gives the driving dimensions' values (mm or degrees)."""

    def __init__(self, sketch: Sketch, values: Mapping[str, float], size: float | None = None) -> None:
        self.sketch, self.values = sketch, values
        self.size = size or extent(sketch)
        self.data: list[float] = [0.0, 1.0]
        self.point: dict[str, Pair] = {ORIGIN: (GROUND, GROUND)}
        self.radius: dict[str, int] = {}
        self.lines: dict[str, tuple[Pair, Pair]] = {
            X_AXIS: ((GROUND, GROUND), (UNIT, GROUND)),
            Y_AXIS: ((GROUND, GROUND), (GROUND, UNIT)),
        }
        self.rows: list[Row] = [Row(R.LINEAR, (UNIT,), 1.0, INTERNAL, (1.0,))]
        self._allocate()

    def build(self) -> System:
        for constraint in self.sketch.constraints:
            self.constrain(constraint)
        for dimension in self.sketch.dimensions:
            if dimension.driving:
                self.dimension(dimension, self.values[dimension.id])
        return System(self.size, np.array(self.data), self.point, self.radius, self.lines, self.rows)

    # -- variables ---------------------------------------------------------------------------

    def _new(self, mm: float) -> int:
        self.data.append(mm / self.size)
        return len(self.data) - 1

    def _allocate(self) -> None:
        for entity in self.sketch.entities:
            for ref, (x, y) in points_of(entity).items():
                self.point[ref] = (self._new(x), self._new(y))
            if isinstance(entity, Circle | Arc):
                self.radius[entity.id] = self._new(entity.r)
            if isinstance(entity, Line):
                self.lines[entity.id] = (self.point[f"{entity.id}.p"], self.point[f"{entity.id}.q"])
            if isinstance(entity, Arc):
                for end in ("p", "q"):
                    self.on_circle(self.point[f"{entity.id}.{end}"], entity.id, INTERNAL + entity.id)

    @cached_property
    def same_place(self) -> dict[str, str]:
        """Every point's representative among the points tied to the same place."""
        parent = {ref: ref for ref in self.point}

        def find(ref: str) -> str:
            while parent[ref] != ref:
                parent[ref] = parent[parent[ref]]
                ref = parent[ref]
            return ref

        for c in self.sketch.constraints:
            pair = [r if r in self.point else f"{r}.c" for r in c.refs]
            if c.kind in ("coincident", "concentric") and len(pair) == 2 and all(r in self.point for r in pair):
                parent[find(pair[0])] = find(pair[1])
            if c.kind == "offset":
                for old, new in zip(c.refs[::2], c.refs[1::2], strict=False):
                    if old in self.radius and new in self.radius:
                        parent[find(f"{old}.c")] = find(f"{new}.c")
        return {ref: find(ref) for ref in self.point}

    @cached_property
    def _bearings(self) -> dict[str, tuple[str, int]]:
        return bearings(self.sketch)

    @cached_property
    def _on(self) -> dict[str, set[str]]:
        """Places known to lie on each line, circle or arc: its ends and points tied to it."""
        on: dict[str, set[str]] = {X_AXIS: {self.same_place[ORIGIN]}, Y_AXIS: {self.same_place[ORIGIN]}}
        for entity in self.sketch.entities:
            ends = [r for r in points_of(entity) if r.endswith((".p", ".q"))]
            on[entity.id] = {self.same_place[r] for r in ends}
        for c in self.sketch.constraints:
            if c.kind == "coincident" and len(c.refs) == 2:
                for a, b in (c.refs, c.refs[::-1]):
                    if a in self.point and b in on:
                        on[b].add(self.same_place[a])
        return on

    # -- rows --------------------------------------------------------------------------------

    def add(self, kind: str, variables: tuple[int, ...], owner: str, value: float = 0.0, *signs: float) -> None:
        self.rows.append(Row(kind, variables, value, owner, signs))

    def equal(self, i: int, j: int, owner: str) -> None:
        self.add(R.LINEAR, (i, j), owner, 0.0, 1.0, -1.0)

    def same_point(self, a: Pair, b: Pair, owner: str) -> None:
        self.equal(a[0], b[0], owner)
        self.equal(a[1], b[1], owner)

    def on_circle(self, p: Pair, circle: str, owner: str) -> None:
        self.add(R.SPAN, (*p, *self.point[f"{circle}.c"], self.radius[circle], GROUND), owner, 0.0, 1.0, 0.0)

    def off(self, p: Pair, line: str, owner: str, value: float = 0.0, radius: int = GROUND, s: float = 0.0) -> None:
        a, b = self.lines[line]
        self.add(R.OFF, (*p, *a, *b, radius), owner, value, s)

    def turn(self, one: str, two: str, owner: str, value: float, period: float = math.pi) -> None:
        """``period`` π where a line's direction does not matter, 2π where it does."""
        (a, b), (c, d) = self.lines[one], self.lines[two]
        self.add(R.TURN, (*a, *b, *c, *d), owner, value, period)

    # -- where things are now ----------------------------------------------------------------

    def _at(self, p: Pair) -> tuple[float, float]:
        return self.data[p[0]], self.data[p[1]]

    def side(self, p: Pair, line: str) -> float:
        """Signed distance of p from a line, scaled; positive on its left."""
        (ax, ay), (bx, by) = (self._at(e) for e in self.lines[line])
        px, py = self._at(p)
        size = math.hypot(bx - ax, by - ay) or 1.0
        return ((bx - ax) * (py - ay) - (by - ay) * (px - ax)) / size

    def angle(self, one: str, two: str) -> float:
        """Angle from one line's direction to the other's, in (−π, π]."""
        (ax, ay), (bx, by) = (self._at(e) for e in self.lines[one])
        (cx, cy), (dx, dy) = (self._at(e) for e in self.lines[two])
        u, v = (bx - ax, by - ay), (dx - cx, dy - cy)
        return math.atan2(u[0] * v[1] - u[1] * v[0], u[0] * v[0] + u[1] * v[1])

    def measure_off(self, one: str, other: str) -> float:
        """How far, in mm, the start of ``one`` lies from the line ``other``."""
        return abs(self.side(self.lines[one][0], other)) * self.size

    def gap(self, a: Pair, b: Pair) -> float:
        (ax, ay), (bx, by) = self._at(a), self._at(b)
        return math.hypot(bx - ax, by - ay)

    # -- constraints -------------------------------------------------------------------------

    def constrain(self, c: Constraint) -> None:
        getattr(self, f"_{c.kind}")(c, c.refs)

    def _refuse(self, c: Constraint | Dimension, wants: str) -> Refusal:
        return Refusal(f"{c.kind.capitalize()} needs {wants}; pick those.", refs=list(c.refs))

    def _is_line(self, ref: str) -> bool:
        return ref in self.lines

    def _coincident(self, c: Constraint, refs: list[str]) -> None:
        points = [r for r in refs if r in self.point]
        others = [r for r in refs if r not in self.point]
        if len(points) == 2:
            self.same_point(self.point[points[0]], self.point[points[1]], c.id)
        elif len(points) == 1 and len(others) == 1 and self._is_line(others[0]):
            self.off(self.point[points[0]], others[0], c.id)
        elif len(points) == 1 and len(others) == 1 and others[0] in self.radius:
            self.on_circle(self.point[points[0]], others[0], c.id)
        else:
            raise self._refuse(c, "a point and another point, a line or a circle")

    def _level(self, c: Constraint, refs: list[str], axis: int) -> None:
        if len(refs) == 1 and self._is_line(refs[0]) and refs[0] not in (X_AXIS, Y_AXIS):
            a, b = self.lines[refs[0]]
        elif len(refs) == 2 and all(r in self.point for r in refs):
            a, b = self.point[refs[0]], self.point[refs[1]]
        else:
            raise self._refuse(c, "a line or two points")
        self.equal(a[axis], b[axis], c.id)

    def _horizontal(self, c: Constraint, refs: list[str]) -> None:
        self._level(c, refs, 1)

    def _vertical(self, c: Constraint, refs: list[str]) -> None:
        self._level(c, refs, 0)

    def _two_lines(self, c: Constraint | Dimension, refs: list[str]) -> tuple[str, str]:
        if len(refs) != 2 or not all(self._is_line(r) for r in refs):
            raise self._refuse(c, "two lines")
        return refs[0], refs[1]

    def _parallel(self, c: Constraint, refs: list[str]) -> None:
        one, two = self._two_lines(c, refs)
        self.turn(one, two, c.id, 0.0)

    def _perpendicular(self, c: Constraint, refs: list[str]) -> None:
        one, two = self._two_lines(c, refs)
        self.turn(one, two, c.id, math.pi / 2)

    def _collinear(self, c: Constraint, refs: list[str]) -> None:
        one, two = self._two_lines(c, refs)
        if two in (X_AXIS, Y_AXIS):
            one, two = two, one
        for end in self.lines[two]:
            self.off(end, one, c.id)

    def _equal(self, c: Constraint, refs: list[str]) -> None:
        if len(refs) == 2 and all(r in self.radius for r in refs):
            self.equal(self.radius[refs[0]], self.radius[refs[1]], c.id)
        elif len(refs) == 2 and all(self._is_line(r) and r not in (X_AXIS, Y_AXIS) for r in refs):
            (a, b), (p, q) = self.lines[refs[0]], self.lines[refs[1]]
            self.add(R.SAME, (*a, *b, *p, *q), c.id)
        else:
            raise self._refuse(c, "two lines, or two circles or arcs")

    def _concentric(self, c: Constraint, refs: list[str]) -> None:
        centres = [f"{r}.c" if r in self.radius else r for r in refs]
        if len(centres) != 2 or not all(r in self.point for r in centres):
            raise self._refuse(c, "two circles or arcs")
        self.same_point(self.point[centres[0]], self.point[centres[1]], c.id)

    def _tangent(self, c: Constraint, refs: list[str]) -> None:
        if len(refs) != 2 or not any(r in self.radius for r in refs):
            raise self._refuse(c, "a circle or arc, and a line or another circle or arc")
        line = next((r for r in refs if self._is_line(r)), None)
        shared = self._on.get(refs[0], set()) & self._on.get(refs[1], set())
        if line:
            circle = refs[0] if refs[1] == line else refs[1]
            centre = self.point[f"{circle}.c"]
            if shared:  # touching at a known point: the radius there stands square on the line
                a, b = self.lines[line]
                self.add(R.SQUARE, (*self.point[min(shared)], *centre, *a, *b), c.id)
                return
            branch = c.branch or (1 if self.side(centre, line) >= 0 else -1)
            self.off(centre, line, c.id, 0.0, self.radius[circle], float(branch))
            return
        one, two = refs
        if one not in self.radius or two not in self.radius:
            raise self._refuse(c, "a circle or arc, and a line or another circle or arc")
        c1, c2 = self.point[f"{one}.c"], self.point[f"{two}.c"]
        r1, r2 = self.radius[one], self.radius[two]
        if shared:  # centres and the shared point on one line
            self.add(R.OFF, (*c2, *self.point[min(shared)], *c1, GROUND), c.id, 0.0, 0.0)
            return
        between, big, small = self.gap(c1, c2), self.data[r1], self.data[r2]
        inside = c.branch == -1 or (c.branch is None and abs(between - abs(big - small)) < abs(between - big - small))
        if not inside:
            self.add(R.SPAN, (*c1, *c2, r1, r2), c.id, 0.0, 1.0, 1.0)
        elif big >= small:
            self.add(R.SPAN, (*c1, *c2, r1, r2), c.id, 0.0, 1.0, -1.0)
        else:
            self.add(R.SPAN, (*c1, *c2, r1, r2), c.id, 0.0, -1.0, 1.0)

    def _midpoint(self, c: Constraint, refs: list[str]) -> None:
        points = [r for r in refs if r in self.point]
        lines = [r for r in refs if self._is_line(r) and r not in (X_AXIS, Y_AXIS)]
        if len(points) != 1 or len(lines) != 1:
            raise self._refuse(c, "a point and a line")
        p, (a, b) = self.point[points[0]], self.lines[lines[0]]
        for axis in (0, 1):
            self.add(R.LINEAR, (p[axis], a[axis], b[axis]), c.id, 0.0, 2.0, -1.0, -1.0)

    def _symmetric(self, c: Constraint, refs: list[str]) -> None:
        if len(refs) != 3 or not self._is_line(refs[2]):
            raise self._refuse(c, "two alike things and then the line between them")
        one, two, axis = refs
        if one in self.point and two in self.point:
            self._mirror(self.point[one], self.point[two], axis, c.id)
        elif one in self.radius and two in self.radius:
            self._mirror(self.point[f"{one}.c"], self.point[f"{two}.c"], axis, c.id)
            self.equal(self.radius[one], self.radius[two], c.id)
        elif self._is_line(one) and self._is_line(two) and not {one, two} & {X_AXIS, Y_AXIS}:
            (a, b), (p, q) = self.lines[one], self.lines[two]
            if (c.branch or self.mirror_branch(one, two, axis)) == -1:
                p, q = q, p
            self._mirror(a, p, axis, c.id)
            self._mirror(b, q, axis, c.id)
        else:
            raise self._refuse(c, "two alike things and then the line between them")

    def mirror_branch(self, one: str, two: str, axis: str) -> int:
        """1 if the start of line ``one`` is mirrored nearest to the start of line ``two``, −1 if to its end."""
        a, _ = self.lines[one]
        p, q = self.lines[two]
        (ax, ay), (bx, by) = (self._at(e) for e in self.lines[axis])
        size = math.hypot(bx - ax, by - ay) or 1.0
        nx, ny = -(by - ay) / size, (bx - ax) / size
        off = 2 * self.side(a, axis)
        x, y = self._at(a)
        image = (x - off * nx, y - off * ny)
        return 1 if math.dist(image, self._at(p)) <= math.dist(image, self._at(q)) else -1

    def _mirror(self, p: Pair, q: Pair, axis: str, owner: str) -> None:
        a, b = self.lines[axis]
        self.add(R.SQUARE, (*p, *q, *a, *b), owner)
        # p→q is square on the axis above; its middle lies on the axis
        self.add(R.MIDDLE, (*p, *q, *a, *b), owner)

    def _offset(self, c: Constraint, refs: list[str]) -> None:
        pairs = list(zip(refs[::2], refs[1::2], strict=False))
        curves, ends = pairs[: len(c.sides)], pairs[len(c.sides) :]
        kinds = [(a in self.radius and b in self.radius) or (self._is_line(a) and self._is_line(b)) for a, b in curves]
        fit = len(refs) % 2 == 0 and curves and all(kinds) and all(a in self.point and b in self.point for a, b in ends)
        if not fit or any(r in (X_AXIS, Y_AXIS, ORIGIN) for r in refs):
            raise self._refuse(c, "pairs of lines, or of arcs or circles")
        width = self._new(self._width(c, *curves[0]))
        for (old, new), side in zip(curves, c.sides, strict=True):
            if self._is_line(old):
                self.turn(old, new, c.id, 0.0)
                self.off(self.lines[new][0], old, c.id, 0.0, width, float(side))
            else:
                self.same_point(self.point[f"{old}.c"], self.point[f"{new}.c"], c.id)
                self.add(R.LINEAR, (self.radius[new], self.radius[old], width), c.id, 0.0, 1.0, -1.0, float(side))
        for old, new in ends:
            carrier = old.split(".")[0]
            if self._is_line(carrier):
                a, b = self.lines[carrier]
                self.add(R.SQUARE, (*self.point[old], *self.point[new], *a, *b), c.id)
            else:
                centre = self.point[f"{carrier}.c"]
                self.add(R.OFF, (*self.point[new], *centre, *self.point[old], GROUND), c.id, 0.0, 0.0)

    def _width(self, c: Constraint, old: str, new: str) -> float:
        """How far apart the first pair of an offset is now, in mm."""
        if self._is_line(old):
            return c.sides[0] * self.side(self.lines[new][0], old) * self.size
        return c.sides[0] * (self.data[self.radius[old]] - self.data[self.radius[new]]) * self.size

    def _fixed(self, c: Constraint, refs: list[str]) -> None:
        ref = refs[0]
        if len(refs) != 1 or ref in (ORIGIN, X_AXIS, Y_AXIS):
            raise self._refuse(c, "one point, line, circle or arc")
        entity = self.sketch.entity(ref.split(".")[0])
        if isinstance(entity, Arc) and ref == entity.id:
            # an arc's ends lie on it already: holding its centre, its start and one turn holds all
            centre, start, end = (self.point[f"{ref}.{k}"] for k in "cpq")
            for i in (*centre, *start):
                self.add(R.LINEAR, (i,), c.id, self.data[i], 1.0)
            (cx, cy), (sx, sy), (ex, ey) = self._at(centre), self._at(start), self._at(end)
            u, v = (sx - cx, sy - cy), (ex - cx, ey - cy)
            turned = math.atan2(u[0] * v[1] - u[1] * v[0], u[0] * v[0] + u[1] * v[1])
            self.add(R.TURN, (*centre, *start, *centre, *end), c.id, turned, 2 * math.pi)
            return
        refs = [ref] if ref in self.point else list(points_of(entity)) if entity else []
        holds = [i for r in refs for i in self.point[r]]
        if isinstance(entity, Circle) and ref == entity.id:
            holds.append(self.radius[ref])
        for i in holds:
            self.add(R.LINEAR, (i,), c.id, self.data[i], 1.0)

    # -- dimensions --------------------------------------------------------------------------

    def dimension(self, d: Dimension, value: float) -> None:
        """Rows of a driving dimension; ``value`` in mm or degrees."""
        if d.kind == "angle":
            one, two = self._two_lines(d, d.refs)
            turn, branch = math.radians(value), self.angle_branch(d)
            self.turn(one, two, d.id, branch * (math.pi - turn if d.supplement else turn), 2 * math.pi)
            return
        v = value / self.size
        if d.kind in ("radius", "diameter"):
            if len(d.refs) != 1 or d.refs[0] not in self.radius:
                raise self._refuse(d, "one circle or arc")
            self.add(R.LINEAR, (self.radius[d.refs[0]],), d.id, v if d.kind == "radius" else v / 2, 1.0)
            return
        if d.kind == "arc_length":
            p, q, c = self._arc_of(d)
            self.add(R.ALONG, (*p, *q, *c, self.radius[d.refs[0]]), d.id, v, self._sweep(p, q, c))
            return
        if d.rim:
            self._to_rim(d, v)
            return
        if self._between_rounds(d):
            first, other = (self.radius[r] for r in d.refs)
            branch = d.branch or (1 if self.data[other] >= self.data[first] else -1)
            self.add(R.LINEAR, (other, first), d.id, branch * v, 1.0, -1.0)
            return
        points, lines = self.split(d)
        if len(points) == 2:
            a, b = points
            if d.along == "shortest":
                self.add(R.SPAN, (*a, *b, GROUND, GROUND), d.id, v, 0.0, 0.0)
            else:
                axis = 0 if d.along == "horizontal" else 1
                branch = d.branch or (1 if self.data[b[axis]] >= self.data[a[axis]] else -1)
                self.add(R.LINEAR, (b[axis], a[axis]), d.id, branch * v, 1.0, -1.0)
            return
        branch = d.branch or (1 if self.side(points[0], lines[0]) >= 0 else -1)
        self.off(points[0], lines[0], d.id, branch * v)

    def angle_branch(self, d: Dimension) -> int:
        return d.branch or (1 if self.angle(d.refs[0], d.refs[1]) >= 0 else -1)

    def _arc_of(self, d: Dimension) -> tuple[Pair, Pair, Pair]:
        """Start, end and centre of the arc whose length is given."""
        if len(d.refs) != 1 or f"{d.refs[0]}.q" not in self.point or d.refs[0] not in self.radius:
            raise Refusal("An arc length needs one arc; pick that.", refs=list(d.refs))
        p, q, c = (self.point[f"{d.refs[0]}.{k}"] for k in "pqc")
        return p, q, c

    def _sweep(self, p: Pair, q: Pair, c: Pair) -> float:
        (px, py), (qx, qy), (cx, cy) = self._at(p), self._at(q), self._at(c)
        turn = math.atan2(qy - cy, qx - cx) - math.atan2(py - cy, px - cx)
        return turn % (2 * math.pi)

    def rims(self, d: Dimension) -> tuple[list[Pair], list[str], list[int]]:
        """A distance to the side of a circle: its points (centres of circles), its line if any, the radii."""
        rounds = [r for r in d.refs if r in self.radius]
        points = [self.point[f"{r}.c" if r in self.radius else r] for r in d.refs if not self._is_line(r)]
        lines = [r for r in d.refs if self._is_line(r)]
        if not rounds or len(points) + len(lines) != 2 or len(lines) > 1:
            raise self._refuse(d, "a circle or arc, and a point, a line or another circle")
        return points, lines, [self.radius[r] for r in rounds]

    def _to_rim(self, d: Dimension, v: float) -> None:
        points, lines, radii = self.rims(d)
        sign = 1.0 if d.rim == "near" else -1.0  # to the near side the centre is further away, by the radius
        if lines:
            branch = d.branch or (1 if self.side(points[0], lines[0]) >= 0 else -1)
            self.off(points[0], lines[0], d.id, branch * v, radii[0], branch * sign)
            return
        two = radii[1] if len(radii) > 1 else GROUND
        self.add(R.SPAN, (*points[0], *points[1], radii[0], two), d.id, v, sign, sign)

    def _between_rounds(self, d: Dimension) -> bool:
        """Whether a distance is the wall between two circles or arcs about one centre."""
        if len(d.refs) != 2 or not all(r in self.radius for r in d.refs):
            return False
        one, two = (f"{r}.c" for r in d.refs)
        if self.same_place[one] != self.same_place[two]:
            raise Refusal("These circles are not about one centre; make them concentric first.", refs=d.refs)
        return True

    def split(self, d: Dimension) -> tuple[list[Pair], list[str]]:
        """A distance's points and lines: two points, or one point and the line it is measured from."""
        points = [self.point[r] for r in d.refs if r in self.point]
        lines = [r for r in d.refs if self._is_line(r)]
        if len(d.refs) == 1 and len(lines) == 1 and lines[0] not in (X_AXIS, Y_AXIS):
            return list(self.lines[lines[0]]), []
        if len(points) == 2 and not lines:
            return points, []
        if len(points) == 1 and len(lines) == 1:
            return points, lines
        if len(lines) == 2:
            base, other = (lines[1], lines[0]) if lines[1] in (X_AXIS, Y_AXIS) else (lines[0], lines[1])
            turned = abs(math.sin(self.angle(base, other)))
            if turned > 1e-4 and self._bearings[base] != self._bearings[other]:
                raise Refusal("These lines are not parallel; make them parallel first, or give the angle.", refs=d.refs)
            return [self.lines[other][0]], [base]
        raise self._refuse(d, "a line, two points, a point and a line, or two parallel lines")

    def measure(self, d: Dimension) -> float:
        """What a dimension measures now, in mm or degrees, always positive."""
        if d.kind == "angle":
            one, two = self._two_lines(d, d.refs)
            turned = math.degrees(abs(self.angle(one, two)))
            return 180.0 - turned if d.supplement else turned
        if d.kind in ("radius", "diameter"):
            if len(d.refs) != 1 or d.refs[0] not in self.radius:
                raise self._refuse(d, "one circle or arc")
            r = self.data[self.radius[d.refs[0]]] * self.size
            return r if d.kind == "radius" else 2 * r
        if d.kind == "arc_length":
            return self._sweep(*self._arc_of(d)) * self.data[self.radius[d.refs[0]]] * self.size
        if d.rim:
            points, lines, radii = self.rims(d)
            far = abs(self.side(points[0], lines[0])) if lines else self.gap(*points)
            reach = sum(self.data[i] for i in radii)
            return abs(far - reach if d.rim == "near" else far + reach) * self.size
        if self._between_rounds(d):
            inner, outer = (self.data[self.radius[r]] for r in d.refs)
            return abs(outer - inner) * self.size
        points, lines = self.split(d)
        if lines:
            return abs(self.side(points[0], lines[0])) * self.size
        (ax, ay), (bx, by) = self._at(points[0]), self._at(points[1])
        dx, dy = abs(bx - ax) * self.size, abs(by - ay) * self.size
        return {"shortest": math.hypot(dx, dy), "horizontal": dx, "vertical": dy}[d.along]


def with_branches(sketch: Sketch, fresh: set[str]) -> Sketch:
    """``sketch`` with the branches of the constraints and dimensions in ``fresh`` taken from where things are now."""
    b = Builder(sketch, {})
    constraints, dimensions = [], []
    for c in sketch.constraints:
        if c.id in fresh and c.branch is None:
            c = c.model_copy(update={"branch": _branch_now(b, c)})
        constraints.append(c)
    for d in sketch.dimensions:
        if d.id in fresh and d.branch is None:
            d = d.model_copy(update={"branch": _dimension_branch_now(b, d)})
        dimensions.append(d)
    return sketch.model_copy(update={"constraints": constraints, "dimensions": dimensions})


def _branch_now(b: Builder, c: Constraint) -> int | None:
    lines = [r for r in c.refs if r in b.lines]
    if c.kind == "tangent" and len(lines) == 1:
        circle = next((r for r in c.refs if r in b.radius), None)
        return (1 if b.side(b.point[f"{circle}.c"], lines[0]) >= 0 else -1) if circle else None
    if c.kind == "tangent" and len(c.refs) == 2 and all(r in b.radius for r in c.refs):
        one, two = c.refs
        between = b.gap(b.point[f"{one}.c"], b.point[f"{two}.c"])
        r1, r2 = b.data[b.radius[one]], b.data[b.radius[two]]
        return -1 if abs(between - abs(r1 - r2)) < abs(between - r1 - r2) else 1
    if c.kind == "symmetric" and len(c.refs) == 3 and len(lines) == 3:
        return b.mirror_branch(*c.refs)
    return None


def _dimension_branch_now(b: Builder, d: Dimension) -> int | None:
    if d.kind == "angle" and len(d.refs) == 2 and all(r in b.lines for r in d.refs):
        return 1 if b.angle(d.refs[0], d.refs[1]) >= 0 else -1
    if d.kind != "distance":
        return None
    if d.rim:
        points, lines, _ = b.rims(d)
        return (1 if b.side(points[0], lines[0]) >= 0 else -1) if lines else None
    if all(r in b.radius for r in d.refs):
        one, two = (b.data[b.radius[r]] for r in d.refs)
        return 1 if two >= one else -1
    points, lines = b.split(d)
    if lines:
        return 1 if b.side(points[0], lines[0]) >= 0 else -1
    if d.along == "shortest":
        return None
    axis = 0 if d.along == "horizontal" else 1
    return 1 if b.data[points[1][axis]] >= b.data[points[0][axis]] else -1


def geometry(sketch: Sketch, system: System, x: Floats) -> Sketch:
    """``sketch`` with its entities moved to the scaled solution ``x``."""
    s = system.size

    def at(ref: str) -> tuple[float, float]:
        ix, iy = system.point[ref]
        return float(x[ix]) * s, float(x[iy]) * s

    moved: list[Point | Line | Circle | Arc] = []
    for e in sketch.entities:
        if isinstance(e, Point):
            moved.append(e.model_copy(update={"at": at(e.id)}))
        elif isinstance(e, Line):
            moved.append(e.model_copy(update={"p": at(f"{e.id}.p"), "q": at(f"{e.id}.q")}))
        else:
            update: dict[str, object] = {"c": at(f"{e.id}.c"), "r": float(x[system.radius[e.id]]) * s}
            if isinstance(e, Arc):
                update |= {"p": at(f"{e.id}.p"), "q": at(f"{e.id}.q")}
            moved.append(e.model_copy(update=update))
    return sketch.model_copy(update={"entities": moved})
