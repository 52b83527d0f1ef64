"""Sizes of sketches, found again on the solid that was made from them."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..part.units import number
from ..sheet.requirement import Requirement
from ..sketch.model import FIXED_REFS, X_AXIS, Arc, Circle, Dimension, Line, Point, Sketch, points_of
from ..solid.frame import XYZ, Frame, cross, dot, plus, scaled, unit
from ..solid.measure import Curve, Surface, curve, inside, neighbours
from ..solid.shapes import Shape, Solid, edges, faces
from .layout import misplaced, row_wrong
from .shown import Measured, Unmeasurable

EXACT = 1e-6  # mm or degrees: what a size without a tolerance must agree to
SQUARE = 1e-9
SHARP = 1e-6  # below this two walls run on side by side and make no corner
NEAR = 1e-3  # mm within which an axis of the part is the one a point of the sketch is meant to be on


@dataclass(eq=False)
class ShownFace:
    """A face of the finished solid with what it lies on and its origins."""

    solid: Solid
    shape: Shape
    surface: Surface
    tags: frozenset[str]

    @cached_property
    def curves(self) -> list[Curve]:
        """What its edges lie on."""
        return [curve(e) for e in edges(self.shape)]


class ShownFaces:
    """The faces of the finished solids, to be found by where they came from."""

    def __init__(self, every: list[ShownFace]) -> None:
        self.every = every
        self.by_tag: dict[str, list[ShownFace]] = {}
        self._by_start: dict[str, list[ShownFace]] = {}  # of a step, and of each role of its faces
        self._by_end: dict[str, list[ShownFace]] = {}  # copies, by what they are copies of
        for f in every:
            for tag in f.tags:
                self.by_tag.setdefault(tag, []).append(f)
                parts = tag.split("/")
                for start in {parts[0], "/".join(parts[:2])}:
                    mine = self._by_start.setdefault(start, [])
                    if not mine or mine[-1] is not f:
                        mine.append(f)
                if len(parts) > 3:
                    self._by_end.setdefault("/".join(parts[-3:]), []).append(f)

    def of(self, tags: list[str]) -> list[ShownFace]:
        """Faces with one of these origins, in the order in which they are on the part."""
        return self._ordered(f for t in tags for f in self.by_tag.get(t, ()))

    def from_step(self, start: str) -> list[ShownFace]:
        """Faces of a step (``s4``), or of a role of it (``s4/side``)."""
        return self._by_start.get(start, [])

    def copies(self, ends: list[str]) -> list[ShownFace]:
        """Faces that are copies of those origins."""
        return self._ordered(f for e in ends for f in self._by_end.get(e, ()))

    def _ordered(self, found: Iterable[ShownFace]) -> list[ShownFace]:
        return sorted({id(f): f for f in found}.values(), key=self._place)

    def _place(self, f: ShownFace) -> int:
        return self._places[id(f)]

    @cached_property
    def _places(self) -> dict[int, int]:
        return {id(f): n for n, f in enumerate(self.every)}


def reach_of(walls: list[ShownFace], n: XYZ) -> float:
    """How far faces reach along ``n``, by the ends of their edges."""
    at = [dot(p, n) for f in walls for c in f.curves for p in (c.start, c.end)]
    return max(at) - min(at)


class SketchSize:
    """A sketch's dimension found again on the solid that the steps ``users`` made of it: extruded, turned, drilled."""

    def __init__(self, shown: ShownFaces, solids: list[Solid], sketch: Sketch, frame: Frame, users: list[str]) -> None:
        self.shown, self.faces, self.solids, self.sketch, self.frame, self.users = (
            shown,
            shown.every,
            solids,
            sketch,
            frame,
            users,
        )
        self.used: list[ShownFace] = []  # the faces that showed the size

    def of(self, entity: str) -> list[ShownFace]:
        return self.shown.of([f"{u}/{role}/{entity}" for u in self.users for role in ("side", "drill")])

    # -- distances -------------------------------------------------------------------------------

    def distance(self, d: Dimension) -> float:
        rounds = [self._round_face(r) for r in d.refs if isinstance(self.sketch.entity(r), Circle | Arc)]
        if len(rounds) == 2 and not d.rim:  # the wall between two circles about one centre
            return abs(rounds[0].surface.radius - rounds[1].surface.radius)
        ends, (du, dv) = self.ends(d)
        u = unit(self.frame.direction(du, dv))
        one, two = (self._locate(ref, u) for ref in ends)
        reach = sum(f.surface.radius for f in rounds)
        apart = abs(two - one) + {"near": -reach, "far": reach, "": 0.0}[d.rim]
        return abs(apart) * (2 if d.across else 1)

    def row(self, d: Dimension, r: Requirement) -> list[str]:
        """What is not as asked of the row that a distance is one space of: how many there are, how long together."""
        if r.total is None:
            return []
        ends, (du, dv) = self.ends(d)
        u, n = unit(self.frame.direction(du, dv)), self.frame.normal
        first = self._round_faces(ends[0])
        if not first:
            raise Unmeasurable("it is a row, and what it runs between is not round")
        across, mine = cross(n, u), first[0].surface
        row = [
            dot(f.surface.at, u)
            for f in self.faces
            if f.surface.kind == "cylinder"
            and f.surface.hollow == mine.hollow
            and abs(f.surface.radius - mine.radius) < EXACT
            and abs(abs(dot(f.surface.direction, n)) - 1) < SQUARE
            and abs(dot(f.surface.at, across) - dot(mine.at, across)) < EXACT
        ]
        return row_wrong(row, r, " mm")

    def arc_length(self, d: Dimension) -> float:
        """How long (mm) the wall of an arc is, by the longest of its round edges."""
        wall = self._round_face(d.refs[0])
        rims = [c for c in wall.curves if c.kind == "circle"]
        if not rims:
            raise Unmeasurable("no round edge of its wall is left on the part")
        return max(c.length for c in rims)

    def _round_face(self, entity: str) -> ShownFace:
        found = [f for f in self.of(entity) if f.surface.kind == "cylinder"]
        if not found:
            raise Unmeasurable("nothing of its wall is left on the part")
        self.used.append(found[0])
        return found[0]

    def ends(self, d: Dimension) -> tuple[tuple[str, str], tuple[float, float]]:
        """What a distance runs between, circles by their centres, and the way it is measured in the sketch. Raises
        Unmeasurable."""
        lines = [r for r in d.refs if r in ("x", "y") or isinstance(self.sketch.entity(r), Line)]
        if len(d.refs) == 1:
            line = self.sketch.entity(d.refs[0])
            if not isinstance(line, Line):
                raise Unmeasurable("it does not measure a line")
            ends, way = (f"{line.id}.p", f"{line.id}.q"), (line.q[0] - line.p[0], line.q[1] - line.p[1])
        else:
            one, two = (f"{r}.c" if isinstance(self.sketch.entity(r), Circle | Arc) else r for r in d.refs)
            ends = (one, two)
            if lines:
                way = self._across(lines[0])
            else:
                (ax, ay), (bx, by) = self.place(ends[0]), self.place(ends[1])
                way = (bx - ax, by - ay)
        if not lines or len(d.refs) == 1:
            way = {"horizontal": (1.0, 0.0), "vertical": (0.0, 1.0)}.get(d.along, way)
        return ends, way

    def _across(self, line: str) -> tuple[float, float]:
        if line in ("x", "y"):
            return (0.0, 1.0) if line == X_AXIS else (1.0, 0.0)
        entity = self.sketch.entity(line)
        assert isinstance(entity, Line)
        return (entity.p[1] - entity.q[1], entity.q[0] - entity.p[0])

    def place(self, ref: str) -> tuple[float, float]:
        """Where a point of the sketch lies, mm; the origin for what is no point."""
        for e in self.sketch.entities:
            found = points_of(e).get(ref)
            if found is not None:
                return found
        return 0.0, 0.0

    def _locate(self, ref: str, u: XYZ) -> float:
        """Where ``ref`` shows on the solid, along the unit direction ``u``."""
        if ref in FIXED_REFS:
            return dot(self.frame.origin, u)  # a datum is where it is
        if not isinstance(self.sketch.entity(ref), Line):
            here = self._round_faces(ref)
            if here:
                self.used.append(here[0])
                return dot(here[0].surface.at, u)
        touching = [ref] if isinstance(self.sketch.entity(ref), Line) else self.touching(ref)
        for name in touching:
            for f in self.of(name):
                if f.surface.kind == "plane" and abs(abs(dot(f.surface.direction, u)) - 1) < SQUARE:
                    self.used.append(f)
                    return dot(f.surface.at, u)
        for name in touching:
            for f in self.of(name):
                if f.surface.kind == "cylinder" and abs(dot(f.surface.direction, u)) < SQUARE:
                    self.used.append(f)
                    return self._flank(f.surface, ref, u)
        for name in touching:
            foot = self._foot(name, u)
            if foot is not None:
                return foot
        centre = self._axis_at(ref)
        if centre is not None:
            return dot(centre, u)
        turned = self._turned_about(ref, u)
        if turned is not None:
            return turned
        corner = self._corner(set(touching)) or self._carried_on(touching)
        if corner is not None:
            return dot(corner, u)
        if not isinstance(self.sketch.entity(ref), Line) and math.hypot(*self.place(ref)) < 1e-7:
            return dot(self.frame.origin, u)  # tied to the origin
        raise Unmeasurable("no face of the part shows one of its ends")

    def _axis_at(self, ref: str) -> XYZ | None:
        """The axis of a round face of the part, whichever step made it, that a point of the sketch lies on."""
        if isinstance(self.sketch.entity(ref), Line):
            return None
        n, here = self.frame.normal, self.frame.point(*self.place(ref))
        for f in self.faces:
            s = f.surface
            if s.kind == "cylinder" and abs(abs(dot(s.direction, n)) - 1) < SQUARE:
                off = plus(s.at, scaled(here, -1.0))
                if math.dist(plus(off, scaled(n, -dot(off, n))), (0.0, 0.0, 0.0)) < NEAR:
                    self.used.append(f)
                    return s.at
        return None

    def _turned_about(self, ref: str, u: XYZ) -> float | None:
        """Where the axis of turned faces stands along ``u``, if a point of the sketch lies on it."""
        if isinstance(self.sketch.entity(ref), Line):
            return None
        here = self.frame.point(*self.place(ref))
        for f in self.shown.from_step(*self.users) if len(self.users) == 1 else ():
            s = f.surface
            if s.kind in ("cylinder", "cone") and abs(dot(s.direction, u)) < SQUARE:
                away = plus(here, scaled(s.at, -1.0))
                if math.dist(plus(away, scaled(s.direction, -dot(away, s.direction))), (0.0, 0.0, 0.0)) < NEAR:
                    self.used.append(f)
                    return dot(s.at, u)
        return None

    def _flank(self, s: Surface, ref: str, u: XYZ) -> float:
        """Where a turned wall stands along ``u``: on the side of its axis that it was drawn on."""
        line = self.sketch.entity(ref)
        x, y = line.p if isinstance(line, Line) else self.place(ref)
        axis = dot(s.at, u)
        return axis + math.copysign(s.radius, dot(self.frame.point(x, y), u) - axis)

    def _foot(self, name: str, u: XYZ) -> float | None:
        """Where an inclined wall stands in the sketch's plane: its size is meant there."""
        n, at = self.frame.normal, dot(self.frame.origin, self.frame.normal)
        for f in self.of(name):
            for c in f.curves:
                in_plane = abs(dot(c.start, n) - at) < EXACT / 10 and abs(dot(c.end, n) - at) < EXACT / 10
                if c.kind == "line" and in_plane and abs(dot(c.direction, u)) < SQUARE:
                    self.used.append(f)
                    return dot(c.start, u)
        return None

    def _round_faces(self, ref: str) -> list[ShownFace]:
        """Cylinders about a place, square to the sketch: of circles and arcs about it, or drilled at it."""
        at = self.place(ref)
        names = [
            (k if k.endswith(".c") else e.id).split(".")[0]
            for e in self.sketch.entities
            for k, p in points_of(e).items()
            if not e.construction and math.dist(p, at) < 1e-7 and (k.endswith(".c") or isinstance(e, Point))
        ]
        names += [ref.replace(".", "")]  # a hole drilled at the end of something
        n = self.frame.normal
        found = [f for name in names for f in self.of(name) if f.surface.kind == "cylinder"]
        return [f for f in found if abs(abs(dot(f.surface.direction, n)) - 1) < SQUARE]

    def touching(self, ref: str) -> list[str]:
        """Entities with an end at the same place as ``ref``, or on which it is tied to lie: a sharp corner that has
        been rounded."""
        at = self.place(ref)
        on = [r for c in self.sketch.constraints if c.kind == "coincident" and ref in c.refs for r in c.refs]
        return [r for r in on if isinstance(self.sketch.entity(r), Line)] + [
            e.id
            for e in self.sketch.entities
            if not e.construction
            and any(math.dist(p, at) < 1e-7 for k, p in points_of(e).items() if not k.endswith(".c"))
        ]

    def _corner(self, names: set[str]) -> XYZ | None:
        """A corner edge of the solid, square to the sketch, between walls from two of these entities."""
        tags = {n: {f"{u}/side/{n}" for u in self.users} for n in names}
        n = self.frame.normal
        for solid in self.solids:
            every = faces(solid.shape)
            for edge, sides in neighbours(solid):
                hit = {name for i in sides for name, t in tags.items() if solid.face_tags(every[i]) & t}
                c = curve(edge)
                if len(hit) >= 2 and c.kind == "line" and abs(abs(dot(c.direction, n)) - 1) < SQUARE:
                    return c.start
        return None

    def _carried_on(self, names: list[str]) -> XYZ | None:
        """The sharp corner that flat walls of two of these entities would make in the sketch's plane, carried on beyond
        what a round or a chamfer has taken of it."""
        n, origin = self.frame.normal, self.frame.origin
        shown = [f for name in dict.fromkeys(names) for f in self.of(name)[:1] if f.surface.kind == "plane"]
        self.used += shown
        walls = [f.surface for f in shown]
        for i, a in enumerate(walls):
            for b in walls[i + 1 :]:
                m = np.array([a.direction, b.direction, n])
                if abs(float(np.linalg.det(m))) > SHARP:
                    x, y, z = np.linalg.solve(m, [dot(a.at, a.direction), dot(b.at, b.direction), dot(origin, n)])
                    return float(x), float(y), float(z)
        return None

    # -- rounds and angles -----------------------------------------------------------------------

    def round(self, d: Dimension, r: Requirement) -> Measured:
        mine = [f for f in self.of(d.refs[0]) if self._radius(f) is not None]
        if not mine:
            raise Unmeasurable("nothing of its wall is left on the part")
        radius = self._radius(mine[0])
        assert radius is not None
        kind = type(self.sketch.entity(d.refs[0]))
        alike = [
            f
            for e in self.sketch.entities
            if isinstance(e, kind) and not e.construction
            for f in self._with_copies(e.id)
            if abs((self._radius(f) or 0.0) - radius) < EXACT
        ]
        self.used += alike
        places = self._axes(alike)
        extra: list[str] = []
        for group in places:
            extra += [w for w in self._ends_of(group, r) if w not in extra]
        extra += misplaced([g[0].surface.at for g in places], self.frame.normal, r)
        walls = sum(self._apart(group) for group in places)  # one drilled through two walls may be counted as two
        return (radius if r.kind == "radius" else 2 * radius), walls if walls == r.count else len(places), extra

    def _with_copies(self, entity: str) -> list[ShownFace]:
        """An entity's faces, and those of its copies in patterns."""
        ends = [f"{u}/{role}/{entity}" for u in self.users for role in ("side", "drill")]
        mine = self.of(entity)
        known = set(map(id, mine))
        return mine + [f for f in self.shown.copies(ends) if id(f) not in known]

    def _radius(self, f: ShownFace) -> float | None:
        """A round wall's radius; of a drafted one where it stands in the sketch's plane. None for what is not round."""
        if f.surface.kind == "cylinder":
            return f.surface.radius
        if f.surface.kind != "cone":
            return None
        n, at = self.frame.normal, dot(self.frame.origin, self.frame.normal)
        rims = [c for c in f.curves if c.kind == "circle"]
        return next((c.radius for c in rims if abs(dot(c.at, n) - at) < EXACT), None)

    def _apart(self, group: list[ShownFace]) -> int:
        """How many stretches along their axis faces about one axis make."""
        n = self.frame.normal
        spans = sorted(
            (min(at), max(at)) for f in group for at in [[dot(p, n) for c in f.curves for p in (c.start, c.end)]]
        )
        count, end = 0, -math.inf
        for lo, hi in spans:
            count += lo > end + EXACT
            end = max(end, hi)
        return count

    def _axes(self, found: list[ShownFace]) -> list[list[ShownFace]]:
        """Faces sorted by the axis they lie about."""
        groups: list[tuple[XYZ, list[ShownFace]]] = []
        n = self.frame.normal
        for f in found:
            at = plus(f.surface.at, scaled(n, -dot(f.surface.at, n)))
            for other, group in groups:
                if math.dist(at, other) < EXACT:
                    group.append(f)
                    break
            else:
                groups.append((at, [f]))
        return [g for _, g in groups]

    def _ends_of(self, group: list[ShownFace], r: Requirement) -> list[str]:
        """What is wrong with a hole's depth, if the callout gives one."""
        if not r.through and r.depth is None:
            return []
        n = self.frame.normal
        f = group[0]
        if not f.surface.hollow:
            return ["it is not a hole"]
        deep = reach_of(group, n)
        if r.depth is not None:
            return [] if abs(deep - r.depth) <= EXACT else [f"{number(deep)} mm deep, {number(r.depth)} asked"]
        at = [dot(p, n) for g in group for c in g.curves for p in (c.start, c.end)]
        axis = plus(f.surface.at, scaled(n, -dot(f.surface.at, n)))
        for end in (min(at) - 1e-4, max(at) + 1e-4):
            if any(inside(s.shape, plus(axis, scaled(n, end))) for s in self.solids):
                return ["it does not go through"]
        return []

    def angle(self, d: Dimension, r: Requirement) -> float:
        normals = []
        for ref in d.refs:
            shown = [f for f in self.of(ref) if f.surface.kind == "plane"]
            self.used += shown[:1]
            planes = [f.surface.direction for f in shown]
            if not planes and ref in ("x", "y"):
                planes = [self.frame.direction(*self._across(ref))]
            line = self.sketch.entity(ref)
            if not planes and isinstance(line, Line):
                planes = [self.frame.direction(*self._shown(line))]
            if not planes:
                raise Unmeasurable("no face of the part shows one of its lines")
            normals.append(planes[0])
        turned = math.degrees(math.acos(max(-1.0, min(1.0, dot(normals[0], normals[1])))))
        nominal = r.nominal or 0.0
        return min((turned, 180.0 - turned), key=lambda a: abs(a - nominal))

    def _shown(self, line: Line) -> tuple[float, float]:
        """Square to a line that itself left no wall, by where its ends show."""
        x, y = self.frame.direction(1.0, 0.0), self.frame.direction(0.0, 1.0)
        ax, ay = self._locate(f"{line.id}.p", x), self._locate(f"{line.id}.p", y)
        bx, by = self._locate(f"{line.id}.q", x), self._locate(f"{line.id}.q", y)
        size = math.hypot(bx - ax, by - ay)
        if size < EXACT:
            raise Unmeasurable("no face of the part shows one of its lines")
        return (ay - by) / size, (bx - ax) / size
