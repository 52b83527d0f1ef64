"""Where on the part a size is shown: between which places and which way, round which axis, between which directions."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations

from ..inspect.measured_callouts import figure_line
from ..inspect.prove import Prover
from ..inspect.prove_sketch import ShownFace, SketchSize
from ..inspect.shown import Unmeasurable
from ..part.callout import Link
from ..rebuild.engine import Build
from ..sketch.model import Arc, Circle, Dimension, Line
from ..solid.frame import XYZ, Frame, cross, dot, plus, scaled, unit
from ..solid.measure import one_axis, points, surface
from ..steps.kinds.sketch import SketchStep
from ..steps.registry import Document, names
from .asked import Asked

LEANING = 0.02  # of its size that the round of a leaning wall may be off where it is looked for
SAME = 1e-5  # mm within which a face is the one that shows a size
AXES: tuple[XYZ, ...] = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))


@dataclass(frozen=True)
class Feature:
    """One end of a size: ``points`` that lie at one place along it (mm); ``proof``: places whose lines show it.
    ``rings``: circles (centre, mm) about ``axis``, any of which shows it where one looks along that."""

    points: tuple[XYZ, ...]
    proof: tuple[XYZ, ...] = ()
    rings: tuple[tuple[XYZ, float], ...] = ()
    axis: XYZ = (0.0, 0.0, 1.0)


@dataclass(frozen=True)
class Linear:
    """A size along ``way`` between two features; ``normal`` of the sketch it was drawn in."""

    way: XYZ
    a: Feature
    b: Feature
    normal: XYZ | None = None


@dataclass(frozen=True)
class Round:
    """A diameter or radius: circles (centre, mm) about ``axis``."""

    axis: XYZ
    rings: tuple[tuple[XYZ, float], ...]


@dataclass(frozen=True)
class Angle:
    """Between two directions from ``apex``, both square to ``normal``; ``spans``: how far each side is drawn on the
    part, mm from the apex (0: not at all)."""

    apex: XYZ
    one: XYZ
    two: XYZ
    normal: XYZ
    spans: tuple[tuple[float, float], tuple[float, float]]


@dataclass(frozen=True)
class Pointer:
    """What no dimension line shows: any of these places is pointed at."""

    points: tuple[XYZ, ...]


Anchor = Linear | Round | Angle | Pointer


class Anchors:
    """Finds where sizes are shown."""

    def __init__(self, document: Document, build: Build, prover: Prover) -> None:
        self.document, self.build, self.prover = document, build, prover

    def of(self, asked: Asked) -> Anchor | None:
        """Where a size is shown; None where nothing of the part is left that could be pointed at."""
        link, r = asked.callout.link, asked.requirement
        step = self.document.step(link.step) if link else None
        if r.kind in ("diameter", "radius", "thread"):
            rings = self._rings(asked.faces, asked.verdict.measured or 0.0)
            if rings is not None:
                return rings
        if link and isinstance(step, SketchStep):
            d = next((d for d in step.sketch.dimensions if d.id == link.field), None)
            found = self._of_sketch(step, d) if d is not None else None
            if found is not None:
                return found
        if r.kind in ("diameter", "radius", "thread"):
            return self._pointer(asked.faces)
        if asked.callout.gauged is not None and r.kind in ("linear", "angle"):
            line = figure_line(self.document, self.build.state, asked.callout.gauged)
            if line is not None and r.kind == "linear" and math.dist(*line) > SAME:
                way = unit(plus(line[1], scaled(line[0], -1.0)))
                return Linear(way, _end(line[0], way, asked.faces), _end(line[1], way, asked.faces))
        if r.kind == "angle" and asked.verdict.measured is not None:
            return self._lean(asked.faces, asked.verdict.measured, link) or self._pointer(asked.faces)
        if r.kind == "linear" and asked.verdict.measured is not None:
            found = self._between(asked.faces, asked.verdict.measured, link)
            if found is not None:
                return found
        return self._pointer(asked.faces)

    # -- sketches --------------------------------------------------------------------------------------------

    def _of_sketch(self, step: SketchStep, d: Dimension) -> Anchor | None:
        frame = self.build.frames.get(step.id)
        if frame is None:
            return None
        sketch = self.build.sketches.get(step.id, step.sketch)
        size = SketchSize(self.prover.shown, self.prover.solids, sketch, frame, self.prover.users.get(step.id, []))
        if d.kind == "angle":
            return self._angle(size, d, frame)
        if d.kind in ("radius", "diameter"):
            e = sketch.entity(d.refs[0])
            if not isinstance(e, Circle | Arc):
                return None
            return Round(frame.normal, ((frame.point(*e.c), e.r),))
        try:
            return self._distance(size, d, frame)
        except Unmeasurable:
            return None

    def _distance(self, size: SketchSize, d: Dimension, frame: Frame) -> Linear:
        rounds = [e for r in d.refs if isinstance(e := size.sketch.entity(r), Circle | Arc)]
        if len(rounds) == 2 and not d.rim:
            one, two = rounds
            turn = _mid_turn(one) if isinstance(one, Arc) else _mid_turn(two) if isinstance(two, Arc) else math.pi / 4
            u = (math.cos(turn), math.sin(turn))
            ends = [frame.point(e.c[0] + e.r * u[0], e.c[1] + e.r * u[1]) for e in (one, two)]
            return Linear(unit(frame.direction(*u)), _spot(ends[0]), _spot(ends[1]), frame.normal)
        (first, second), (du, dv) = size.ends(d)
        way = unit(frame.direction(du, dv))
        a, b = (self._feature(size, ref, frame, way) for ref in (first, second))
        if d.rim:
            sign = math.copysign(1.0, dot(b.points[0], way) - dot(a.points[0], way)) * (1 if d.rim == "near" else -1)
            reach = [_reach(size, r) for r in d.refs] if len(d.refs) == 2 else [0.0, 0.0]
            a, b = _shifted(a, scaled(way, sign * reach[0])), _shifted(b, scaled(way, -sign * reach[1]))
        if d.across:
            half = dot(b.points[0], way) - dot(a.points[0], way)
            first_is_line = isinstance(size.sketch.entity(d.refs[0]), Line) or d.refs[0] in ("x", "y")
            if first_is_line:
                a = _shifted(b, scaled(way, -2 * half))
            else:
                b = _shifted(a, scaled(way, 2 * half))
        return Linear(way, a, b, frame.normal)

    def _feature(self, size: SketchSize, ref: str, frame: Frame, way: XYZ) -> Feature:
        e = size.sketch.entity(ref)
        if isinstance(e, Line):
            ends = (frame.point(*e.p), frame.point(*e.q))
            return Feature(ends, (*ends, _between(*ends)))
        at = frame.point(*size.place(ref))
        for name in size.touching(ref) if ref not in ("x", "y", "origin") else []:
            line = size.sketch.entity(name)
            if isinstance(line, Line):  # the wall that stands at this end, square to the size
                ends = (frame.point(*line.p), frame.point(*line.q))
                if abs(dot(plus(ends[1], scaled(ends[0], -1.0)), way)) < SAME * math.dist(*ends):
                    return Feature(ends, (*ends, _between(*ends)))
        rings: set[float] = set()
        for f in self.prover.faces:
            s = f.surface
            if s.kind in ("cylinder", "cone") and abs(abs(dot(s.direction, frame.normal)) - 1) < 1e-9:
                off = plus(s.at, scaled(at, -1.0))
                if math.dist(plus(off, scaled(frame.normal, -dot(off, frame.normal))), (0.0, 0.0, 0.0)) < SAME:
                    rings |= {round(c.radius, 6) for c in f.curves if c.kind == "circle"}
        if rings:
            return Feature((at,), (), tuple((at, r) for r in sorted(rings)), frame.normal)
        level = dot(at, way)  # a datum, or a place that nothing stands at: by the edges that lie there
        there = tuple(p for f in self.prover.faces for c in f.curves if c.kind == "line"
                      and abs(dot(c.start, way) - level) < SAME and abs(dot(c.end, way) - level) < SAME
                      for p in (c.start, c.end, _between(c.start, c.end)))  # fmt: skip
        return Feature(there, there) if there else _spot(at)

    def _angle(self, size: SketchSize, d: Dimension, frame: Frame) -> Angle | None:
        sides: list[tuple[tuple[float, float], tuple[float, float]]] = []
        for ref in d.refs:
            e = size.sketch.entity(ref)
            if isinstance(e, Line):
                sides.append((e.p, e.q))
            elif ref in ("x", "y"):
                sides.append(((0.0, 0.0), (1.0, 0.0) if ref == "x" else (0.0, 1.0)))
        if len(sides) != 2:
            return None
        apex = _crossing(*sides[0], *sides[1])
        if apex is None:
            return None
        found = []
        for ref, (p, q) in zip(d.refs, sides, strict=True):
            far, near = (q, p) if math.dist(q, apex) >= math.dist(p, apex) else (p, q)
            long = math.dist(far, apex)
            u = ((far[0] - apex[0]) / long, (far[1] - apex[1]) / long)
            side = (far[0] - near[0]) * u[0] + (far[1] - near[1]) * u[1]
            drawn = (0.0, 0.0) if ref in ("x", "y") else (max(0.0, long - side), long)
            found.append((u, drawn))
        (u, su), (v, sv) = found
        value = abs(names(self.document).value(d.expr, "angle"))
        between = math.degrees(math.acos(max(-1.0, min(1.0, u[0] * v[0] + u[1] * v[1]))))
        if abs(between - value) > abs(180 - between - value):
            v, sv = (-v[0], -v[1]), (0.0, 0.0)
        at = frame.point(*apex)
        return Angle(at, unit(frame.direction(*u)), unit(frame.direction(*v)), frame.normal, (su, sv))

    # -- faces -----------------------------------------------------------------------------------------------

    def _rings(self, shown: Iterable[ShownFace], measured: float) -> Round | None:
        rings: dict[tuple[float, ...], tuple[XYZ, float]] = {}
        axis: XYZ | None = None
        for f in shown:
            s = f.surface
            found = [(s.direction, s.at, s.radius)] if s.kind == "cylinder" else []
            if not found and measured:  # the round of a wall that leans
                found = [
                    (c.direction, c.at, c.radius)
                    for c in f.curves
                    if c.kind == "circle"
                    and min(abs(c.radius - measured), abs(2 * c.radius - measured)) < LEANING * measured
                ]
            for way, centre, radius in found:
                if axis is not None and abs(abs(dot(way, axis)) - 1) > 1e-9:
                    continue
                axis = axis or way
                at = plus(centre, scaled(axis, -dot(centre, axis)))
                rings.setdefault((*(round(v, 4) for v in at), round(radius, 4)), (centre, radius))
        if axis is None:
            return None
        meant = [v for v in rings.values() if measured and min(abs(v[1] - measured), abs(2 * v[1] - measured)) < SAME]
        if meant:
            return Round(axis, tuple(meant))
        least = min(r for _, r in rings.values())  # of a counterbored hole the drilled wall is pointed at
        return Round(axis, tuple(v for v in rings.values() if v[1] < least + SAME))

    def _between(self, found: Sequence[ShownFace], value: float, link: Link | None) -> Linear | None:
        flat = [f for f in found if f.surface.kind == "plane"]
        for f, g in combinations(flat, 2):
            n = f.surface.direction
            if abs(abs(dot(n, g.surface.direction)) - 1) < 1e-9:
                apart = dot(plus(g.surface.at, scaled(f.surface.at, -1.0)), n)
                if abs(abs(apart) - value) < SAME:
                    return Linear(n, _of_face(f), _of_face(g))
        for n in self._ways(link):
            at = [(dot(p, n), p) for f in found for c in f.curves for p in (c.start, c.end)]
            if at:
                low, high = min(at)[0], max(at)[0]
                if abs(high - low - value) < SAME:
                    a, b = ([p for v, p in at if abs(v - end) < SAME] for end in (low, high))
                    return Linear(n, Feature(tuple(a), tuple(a)), Feature(tuple(b), tuple(b)))
        turned = [f.surface for f in found if f.surface.kind == "cylinder"]
        for s, t in combinations(turned, 2):
            if one_axis(s, t) and abs(abs(s.radius - t.radius) - value) < SAME:
                way = next(w for w in AXES if abs(dot(w, s.direction)) < 0.9)
                way = unit(plus(way, scaled(s.direction, -dot(way, s.direction))))
                c, d = (_spot(plus(s.at, scaled(way, r))) for r in (s.radius, t.radius))
                return Linear(way, c, d, s.direction)
            away = plus(t.at, scaled(s.at, -1.0))
            off = plus(away, scaled(s.direction, -dot(away, s.direction)))
            if abs(abs(dot(s.direction, t.direction)) - 1) < 1e-9 and abs(math.sqrt(dot(off, off)) - value) < SAME:
                c, d = (Feature((x.at,), (), ((x.at, x.radius),), x.direction) for x in (s, t))
                return Linear(unit(off), c, d, s.direction)
        return None

    def _ways(self, link: Link | None) -> list[XYZ]:
        """Along which a step's size may run: the normal of its sketch, then the part's axes."""
        step = self.document.step(link.step) if link else None
        frame = self.build.frames.get(getattr(step, "sketch", "")) if step is not None else None
        return [*([frame.normal] if frame else []), *AXES]

    def _lean(self, found: Sequence[ShownFace], value: float, link: Link | None) -> Angle | None:
        """Of a wall to one of the part's axes."""
        every = [f for f in (found or self.prover.faces) if f.surface.kind == "plane"]
        for axis in (AXES[2], AXES[0], AXES[1]):
            for f in sorted(every, key=lambda f: -_size(f)):
                n = f.surface.direction
                lean = math.degrees(math.asin(min(1.0, abs(dot(n, axis)))))
                if abs(lean - value) > SAME:
                    continue
                look = unit(cross(n, axis))
                at = points(f.shape)
                if not at or max(abs(v) for v in look) < 1 - 1e-9:
                    continue
                along = unit(plus(axis, scaled(n, -dot(axis, n))))
                low = min(at, key=lambda p: dot(p, along))
                high = max(at, key=lambda p: dot(p, along))
                long = dot(plus(high, scaled(low, -1.0)), along)
                return Angle(low, axis, along, look, ((0.0, 0.0), (0.0, long)))
        return None

    def _pointer(self, found: Sequence[ShownFace]) -> Pointer | None:
        every = [p for f in found for p in (*points(f.shape), *(_ends_between(f)))]
        return Pointer(tuple(every)) if every else None


def _end(at: XYZ, way: XYZ, shown: Sequence[ShownFace]) -> Feature:
    """What stands at an end of a size: one of the faces it was measured between, or the place itself."""
    for f in shown:
        s = f.surface
        if abs(dot(s.at, way) - dot(at, way)) > SAME:
            continue
        if s.kind == "plane" and abs(abs(dot(s.direction, way)) - 1) < 1e-9:
            return _of_face(f)
        if s.kind == "cylinder" and abs(dot(s.direction, way)) < 1e-9:
            return Feature((s.at,), (), ((s.at, s.radius),), s.direction)
    return _spot(at)


def _size(f: ShownFace) -> float:
    at = points(f.shape)
    return max((math.dist(at[0], p) for p in at), default=0.0)


def _ends_between(f: ShownFace) -> list[XYZ]:
    return [_between(c.start, c.end) for c in f.curves if c.kind == "line"]


def _between(a: XYZ, b: XYZ) -> XYZ:
    return scaled(plus(a, b), 0.5)


def _spot(p: XYZ) -> Feature:
    return Feature((p,), (p,))


def _of_face(f: ShownFace) -> Feature:
    at = tuple(points(f.shape)) or tuple(p for c in f.curves for p in (c.start, c.end))
    n = f.surface.direction
    reach = [
        plus(c.at, scaled(w, s * c.radius))
        for c in f.curves
        if c.kind == "circle"
        for w in AXES
        for s in (1, -1)
        if abs(dot(w, n)) < 1e-6
    ]
    every = (*at, *reach, *_ends_between(f)) or (surface(f.shape).at,)
    return Feature(every, every)


def _shifted(f: Feature, by: XYZ) -> Feature:
    points = tuple(plus(p, by) for p in f.points)
    return Feature(points, points)


def _reach(size: SketchSize, ref: str) -> float:
    e = size.sketch.entity(ref)
    return e.r if isinstance(e, Circle | Arc) else 0.0


def _mid_turn(arc: Arc) -> float:
    start = math.atan2(arc.p[1] - arc.c[1], arc.p[0] - arc.c[0])
    end = math.atan2(arc.q[1] - arc.c[1], arc.q[0] - arc.c[0])
    return start + ((end - start) % math.tau) / 2


def _crossing(
    p: tuple[float, float], q: tuple[float, float], r: tuple[float, float], s: tuple[float, float]
) -> tuple[float, float] | None:
    ax, ay, bx, by = q[0] - p[0], q[1] - p[1], s[0] - r[0], s[1] - r[1]
    k = ax * by - ay * bx
    if abs(k) < 1e-12:
        return None
    t = ((r[0] - p[0]) * by - (r[1] - p[1]) * bx) / k
    return p[0] + t * ax, p[1] + t * ay
