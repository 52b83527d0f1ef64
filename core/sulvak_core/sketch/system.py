"""A sketch put into equations: what each constraint and each driving dimension asks for."""

from __future__ import annotations

import math

import numpy as np

from ..part.errors import Refusal
from . import rows as R
from . import touching
from .copies import copy_rows
from .model import (
    ORIGIN,
    X_AXIS,
    Y_AXIS,
    Arc,
    Circle,
    Constraint,
    Dimension,
    points_of,
)
from .variables import GROUND, Pair, System, Variables


class Builder(Variables):
    """Turns a sketch into a System."""

    def build(self) -> System:
        copy_rows(self)
        for constraint in self.sketch.constraints:
            self.constrain(constraint)
        for dimension in self.sketch.dimensions:
            if dimension.driving:
                self.dimension(dimension, self.values[dimension.id])
        return System(self.size, np.array(self.data), self.point, self.radius, self.lines, self.rows, self.ellipse)

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
        elif len(points) == 1 and len(others) == 1 and others[0] in self.ellipse:
            self.on_ellipse(self.point[points[0]], others[0], c.id)
        else:
            raise self._refuse(c, "a point and another point, a line, a circle or an ellipse")

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
        centres = [self.centre(r) for r in refs]
        if len(centres) != 2 or not all(r in self.point for r in centres):
            raise self._refuse(c, "two of circles, arcs, ellipses and texts")
        self.same_point(self.point[centres[0]], self.point[centres[1]], c.id)

    def _tangent(self, c: Constraint, refs: list[str]) -> None:
        bent = [r for r in refs if r in self.ellipse or r in self.splines]
        if len(refs) == 2 and bent:
            self._tangent_bent(c, bent, [r for r in refs if r not in bent])
            return
        if len(refs) != 2 or not any(r in self.radius for r in refs):
            raise self._refuse(c, "a circle or arc, and a line or another circle or arc")
        line = next((r for r in refs if self._is_line(r)), None)
        shared = self.on.get(refs[0], set()) & self.on.get(refs[1], set())
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

    def _tangent_bent(self, c: Constraint, bent: list[str], others: list[str]) -> None:
        touching.tangent(self, c, bent, others)

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
        (ax, ay), (bx, by) = (self.at(e) for e in self.lines[axis])
        size = math.hypot(bx - ax, by - ay) or 1.0
        nx, ny = -(by - ay) / size, (bx - ax) / size
        off = 2 * self.side(a, axis)
        x, y = self.at(a)
        image = (x - off * nx, y - off * ny)
        return 1 if math.dist(image, self.at(p)) <= math.dist(image, self.at(q)) else -1

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
        width = self.new(self._width(c, *curves[0]))
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
            (cx, cy), (sx, sy), (ex, ey) = self.at(centre), self.at(start), self.at(end)
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
        if d.across:
            v /= self._both_sides(d, lines)
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

    def _both_sides(self, d: Dimension, lines: list[str]) -> float:
        """How often the distance from a centre line is counted: once for each side."""
        if not lines:
            raise Refusal("A width across needs a centre line and what lies on one side of it.", refs=list(d.refs))
        return 2.0

    def angle_branch(self, d: Dimension) -> int:
        return d.branch or (1 if self.angle(d.refs[0], d.refs[1]) >= 0 else -1)

    def _arc_of(self, d: Dimension) -> tuple[Pair, Pair, Pair]:
        """Start, end and centre of the arc whose length is given."""
        if len(d.refs) != 1 or f"{d.refs[0]}.q" not in self.point or d.refs[0] not in self.radius:
            raise Refusal("An arc length needs one arc; pick that.", refs=list(d.refs))
        p, q, c = (self.point[f"{d.refs[0]}.{k}"] for k in "pqc")
        return p, q, c

    def _sweep(self, p: Pair, q: Pair, c: Pair) -> float:
        (px, py), (qx, qy), (cx, cy) = self.at(p), self.at(q), self.at(c)
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
            return abs(self.side(points[0], lines[0])) * self.size * (2 if d.across else 1)
        (ax, ay), (bx, by) = self.at(points[0]), self.at(points[1])
        dx, dy = abs(bx - ax) * self.size, abs(by - ay) * self.size
        return {"shortest": math.hypot(dx, dy), "horizontal": dx, "vertical": dy}[d.along]
