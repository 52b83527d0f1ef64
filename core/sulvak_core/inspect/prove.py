"""Proving callouts: each linked size is measured on the faces of the finished solid, never read from the input."""

from __future__ import annotations

import math
from dataclasses import asdict, dataclass
from typing import Any

from ..part.document import Callout
from ..part.units import number
from ..rebuild.engine import Build
from ..rebuild.pointing import Pointing
from ..sheet.notation import Requirement, parse
from ..sketch.model import FIXED_REFS, X_AXIS, Arc, Circle, Dimension, Line, Sketch, points_of
from ..solid.frame import XYZ, Frame, dot, plus, scaled, unit
from ..solid.measure import Surface, curve, inside, neighbours, surface
from ..solid.shapes import Shape, Solid, edges, faces
from ..steps.extrude_step import ExtrudeStep
from ..steps.registry import Document
from ..steps.sketch_step import SketchStep
from .prove_steps import Unmeasurable, measure

EXACT = 1e-6  # mm or degrees: what a size without a tolerance must agree to
SQUARE = 1e-9


@dataclass
class Verdict:
    """``state``: note, open (nothing uses it), used (used, but nothing to measure yet), proven, out, reference."""

    callout: str
    number: int
    state: str
    said: str
    measured: float | None = None
    nominal: float | None = None
    lower: float = 0.0
    upper: float = 0.0
    count: int | None = None


@dataclass
class _Face:
    solid: Solid
    shape: Shape
    surface: Surface
    tags: frozenset[str]


class Prover:
    def __init__(self, document: Document, build: Build) -> None:
        self.document, self.build = document, build
        self.solids = [b.solid for b in build.state.bodies]
        self.faces = [_Face(s, f, surface(f), s.face_tags(f)) for s in self.solids for f in faces(s.shape)]
        self.done = {r.id for r in build.reports if r.state == "ok"}

    def verdict(self, callout: Callout) -> Verdict:
        r = parse(callout.text, self.document.unit)
        v = Verdict(callout.id, callout.number, "open", "not used yet", None, r.nominal, r.lower, r.upper)
        if r.kind == "note" or r.nominal is None:
            v.state, v.said = "note", "a note"
            return v
        if callout.link is None:
            return v
        v.state = "used"
        n = self.document.position(callout.link.step)
        try:
            measured, count, extra = self._measure(callout, r)
        except Unmeasurable as reason:
            v.said = f"used in {n}; {reason}"
            return v
        v.measured, v.count = measured, count
        return self._judge(v, r, extra)

    def _judge(self, v: Verdict, r: Requirement, extra: list[str]) -> Verdict:
        assert v.measured is not None and r.nominal is not None
        off = v.measured - r.nominal
        fits = r.lower - EXACT <= off <= r.upper + EXACT
        shown = number(v.measured, 3 if abs(off) < EXACT or r.toleranced else 4)
        if r.reference:
            v.state, v.said = "reference", f"measures {shown}"
        elif fits and (v.count is None or v.count == r.count) and not extra:
            v.state, v.said = "proven", f"proven {shown}"
        else:
            wrong = [*extra]
            if not fits:
                wrong.insert(0, f"measures {shown}")
            if v.count is not None and v.count != r.count:
                wrong.append(f"{v.count} found, {r.count} asked")
            v.state, v.said = "out", "; ".join(wrong)
        return v

    def _measure(self, callout: Callout, r: Requirement) -> tuple[float, int | None, list[str]]:
        link = callout.link
        assert link is not None
        step = self.document.step(link.step)
        if isinstance(step, ExtrudeStep):
            return self._depth(step, r)
        if step is None:
            raise Unmeasurable("its step is gone")
        if not isinstance(step, SketchStep):
            if step.id not in self.done:
                raise Unmeasurable("its step is not built")
            pointing = Pointing(self.document, self.build.state, {}, {}, self.build.frames)
            return measure(step, link.field, r, self.solids, pointing)
        d = next((d for d in step.sketch.dimensions if d.id == link.field), None)
        extrudes = [s for s in self.document.steps if isinstance(s, ExtrudeStep) and s.id in self.done]
        users = [s for s in extrudes if s.sketch == step.id]
        if d is None or not users or step.id not in self.build.frames:
            raise Unmeasurable("no solid is made from it yet")
        sketch = self.build.sketches.get(step.id, step.sketch)
        work = _SketchSize(self, sketch, self.build.frames[step.id], [u.id for u in users])
        if d.kind in ("radius", "diameter"):
            return work.round(d, r)
        if d.kind == "angle":
            return work.angle(d, r), None, []
        return work.distance(d), None, []

    def _depth(self, step: ExtrudeStep, r: Requirement) -> tuple[float, int | None, list[str]]:
        if step.id not in self.done or step.sketch not in self.build.frames:
            raise Unmeasurable("its step is not built")
        n = self.build.frames[step.sketch].normal
        caps = {}
        for end in ("start", "end"):
            tag = f"{step.id}/{end}"
            for f in self.faces:
                if tag in f.tags and f.surface.kind == "plane":
                    caps[end] = dot(f.surface.at, n)
        if len(caps) == 2:
            return abs(caps["end"] - caps["start"]), None, []
        walls = [f for f in self.faces if any(t.startswith(f"{step.id}/side/") for t in f.tags)]
        if not walls:
            raise Unmeasurable("nothing of its walls is left on the part")
        return _reach(walls, n), None, []


def _reach(walls: list[_Face], n: XYZ) -> float:
    """How far faces reach along ``n``, by the ends of their edges."""
    at: list[float] = []
    for f in walls:
        for e in edges(f.shape):
            c = curve(e)
            at += [dot(c.start, n), dot(c.end, n)]
    return max(at) - min(at)


class _SketchSize:
    """A sketch's dimension found again on the solid its extrusions made."""

    def __init__(self, prover: Prover, sketch: Sketch, frame: Frame, users: list[str]) -> None:
        self.prover, self.sketch, self.frame, self.users = prover, sketch, frame, users

    def of(self, entity: str) -> list[_Face]:
        tags = {f"{u}/side/{entity}" for u in self.users}
        return [f for f in self.prover.faces if f.tags & tags]

    # -- distances -------------------------------------------------------------------------------

    def distance(self, d: Dimension) -> float:
        ends, (du, dv) = self._ends(d)
        u = unit(self.frame.direction(du, dv))
        one, two = (self._locate(ref, u) for ref in ends)
        return abs(two - one)

    def _ends(self, d: Dimension) -> tuple[tuple[str, str], tuple[float, float]]:
        lines = [r for r in d.refs if r in ("x", "y") or isinstance(self.sketch.entity(r), Line)]
        if len(d.refs) == 1:
            line = self.sketch.entity(d.refs[0])
            if not isinstance(line, Line):
                raise Unmeasurable("it does not measure a line")
            ends, way = (f"{line.id}.p", f"{line.id}.q"), (line.q[0] - line.p[0], line.q[1] - line.p[1])
        else:
            ends = (d.refs[0], d.refs[1])
            if lines:
                way = self._across(lines[0])
            else:
                (ax, ay), (bx, by) = self._at(ends[0]), self._at(ends[1])
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

    def _at(self, ref: str) -> tuple[float, float]:
        for e in self.sketch.entities:
            found = points_of(e).get(ref)
            if found is not None:
                return found
        return 0.0, 0.0

    def _locate(self, ref: str, u: XYZ) -> float:
        """Where ``ref`` shows on the solid, along the unit direction ``u``."""
        if ref in FIXED_REFS:
            return dot(self.frame.origin, u)  # a datum is where it is
        entity = self.sketch.entity(ref.split(".")[0])
        if isinstance(entity, Circle | Arc) and ref.endswith(".c"):
            here = self._round_faces(ref)
            if here:
                return dot(here[0].surface.at, u)
        touching = [ref] if isinstance(self.sketch.entity(ref), Line) else self._touching(ref)
        for name in touching:
            for f in self.of(name):
                if f.surface.kind == "plane" and abs(abs(dot(f.surface.direction, u)) - 1) < SQUARE:
                    return dot(f.surface.at, u)
        for name in touching:
            foot = self._foot(name, u)
            if foot is not None:
                return foot
        corner = self._corner(set(touching))
        if corner is not None:
            return dot(corner, u)
        raise Unmeasurable("no face of the part shows one of its ends")

    def _foot(self, name: str, u: XYZ) -> float | None:
        """Where an inclined wall stands in the sketch's plane: its size is meant there."""
        n, at = self.frame.normal, dot(self.frame.origin, self.frame.normal)
        for f in self.of(name):
            for e in edges(f.shape):
                c = curve(e)
                in_plane = abs(dot(c.start, n) - at) < EXACT / 10 and abs(dot(c.end, n) - at) < EXACT / 10
                if c.kind == "line" and in_plane and abs(dot(c.direction, u)) < SQUARE:
                    return dot(c.start, u)
        return None

    def _round_faces(self, ref: str) -> list[_Face]:
        """Cylinders about a centre: its own entity's, or those of entities concentric with it."""
        at = self._at(ref)
        names = [
            e.id
            for e in self.sketch.entities
            if isinstance(e, Circle | Arc) and not e.construction and math.dist(e.c, at) < 1e-7
        ]
        return [f for n in names for f in self.of(n) if f.surface.kind == "cylinder"]

    def _touching(self, ref: str) -> list[str]:
        """Entities with an end at the same place as ``ref``."""
        at = self._at(ref)
        return [
            e.id
            for e in self.sketch.entities
            if not e.construction
            and any(math.dist(p, at) < 1e-7 for k, p in points_of(e).items() if not k.endswith(".c"))
        ]

    def _corner(self, names: set[str]) -> XYZ | None:
        """A corner edge of the solid, square to the sketch, between walls from two of these entities."""
        tags = {n: {f"{u}/side/{n}" for u in self.users} for n in names}
        n = self.frame.normal
        for solid in self.prover.solids:
            every = faces(solid.shape)
            for edge, sides in neighbours(solid):
                hit = {name for i in sides for name, t in tags.items() if solid.face_tags(every[i]) & t}
                c = curve(edge)
                if len(hit) >= 2 and c.kind == "line" and abs(abs(dot(c.direction, n)) - 1) < SQUARE:
                    return c.start
        return None

    # -- rounds and angles -----------------------------------------------------------------------

    def round(self, d: Dimension, r: Requirement) -> tuple[float, int | None, list[str]]:
        mine = [f for f in self.of(d.refs[0]) if f.surface.kind == "cylinder"]
        if not mine:
            raise Unmeasurable("nothing of its wall is left on the part")
        radius = mine[0].surface.radius
        kind = type(self.sketch.entity(d.refs[0]))
        alike = [
            f
            for e in self.sketch.entities
            if isinstance(e, kind) and not e.construction
            for f in self.of(e.id)
            if f.surface.kind == "cylinder" and abs(f.surface.radius - radius) < EXACT
        ]
        places = self._axes(alike)
        extra: list[str] = []
        for group in places:
            extra += [w for w in self._ends_of(group, r) if w not in extra]
        return (radius if r.kind == "radius" else 2 * radius), len(places), extra

    def _axes(self, found: list[_Face]) -> list[list[_Face]]:
        """Faces sorted by the axis they lie about."""
        groups: list[tuple[XYZ, list[_Face]]] = []
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

    def _ends_of(self, group: list[_Face], r: Requirement) -> list[str]:
        """What is wrong with a hole's depth, if the callout gives one."""
        if not r.through and r.depth is None:
            return []
        n = self.frame.normal
        f = group[0]
        if not f.surface.hollow:
            return ["it is not a hole"]
        deep = _reach(group, n)
        if r.depth is not None:
            return [] if abs(deep - r.depth) <= EXACT else [f"{number(deep)} mm deep, {number(r.depth)} asked"]
        at = [dot(p, n) for g in group for e in edges(g.shape) for c in [curve(e)] for p in (c.start, c.end)]
        axis = plus(f.surface.at, scaled(n, -dot(f.surface.at, n)))
        for end in (min(at) - 1e-4, max(at) + 1e-4):
            if any(inside(s.shape, plus(axis, scaled(n, end))) for s in self.prover.solids):
                return ["it does not go through"]
        return []

    def angle(self, d: Dimension, r: Requirement) -> float:
        normals = []
        for ref in d.refs:
            planes = [f.surface.direction for f in self.of(ref) if f.surface.kind == "plane"]
            if not planes and ref in ("x", "y"):
                planes = [self.frame.direction(*self._across(ref))]
            if not planes:
                raise Unmeasurable("no face of the part shows one of its lines")
            normals.append(planes[0])
        turned = math.degrees(math.acos(max(-1.0, min(1.0, dot(normals[0], normals[1])))))
        nominal = r.nominal or 0.0
        return min((turned, 180.0 - turned), key=lambda a: abs(a - nominal))


def prove(document: Document, build: Build) -> list[dict[str, Any]]:
    """A verdict for every callout, in balloon order."""
    prover = Prover(document, build)
    return [asdict(prover.verdict(c)) for c in sorted(document.callouts, key=lambda c: c.number)]
