"""Edges of solids seen square onto a plane, and where a plane cuts faces, as plane curves."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Section
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Ellipse, GeomAbs_Line
from OCP.gp import gp_Ax3, gp_Dir, gp_Pln, gp_Pnt

from .frame import XYZ, Frame, dot, plus, scaled
from .shapes import Shape, edges

XY = tuple[float, float]
NOTHING = 1e-7  # mm: shorter than this an edge is seen end on
SAMPLES = 24  # places that stand for a curve of no simple kind


@dataclass(frozen=True)
class Flat:
    """A plane curve: ``point`` (c), ``line`` (p, q), ``circle`` (c, r), ``arc`` (c, r, p, q counter-clockwise),
    ``ellipse`` (c, m, n), ``ellipse_arc`` (c, m, n, p, q) or ``spline`` (points), in mm."""

    kind: str
    at: dict[str, XY]
    r: float = 0.0
    points: tuple[XY, ...] = ()

    def key(self) -> tuple[Any, ...]:
        """The same for curves in the same place, whichever way they run."""
        places = sorted((round(x, 6) + 0.0, round(y, 6) + 0.0) for x, y in (*self.at.values(), *self.points))
        return (self.kind, round(self.r, 6), *places)


def flat_point(frame: Frame, p: XYZ) -> XY:
    """A point in space dropped square onto a frame's plane, in its coordinates."""
    d = plus(p, scaled(frame.origin, -1.0))
    return dot(d, frame.x), dot(d, frame.y)


def _xyz(p: Any) -> XYZ:
    return (p.X(), p.Y(), p.Z())


def height(edge: Shape, frame: Frame) -> float:
    """How far (mm) an edge stands from a plane at most, by its ends and middle."""
    a = BRepAdaptor_Curve(edge)
    first, last = a.FirstParameter(), a.LastParameter()
    places = [_xyz(a.Value(first + (last - first) * k / 2)) for k in range(3)]
    return max(abs(dot(plus(p, scaled(frame.origin, -1.0)), frame.normal)) for p in places)


def middle(edge: Shape, share: float = 0.5) -> XYZ:
    """The place halfway along an edge's parameter, or another ``share`` of the way."""
    a = BRepAdaptor_Curve(edge)
    return _xyz(a.Value(a.FirstParameter() + share * (a.LastParameter() - a.FirstParameter())))


def projected(edge: Shape, frame: Frame) -> Flat:
    """An edge seen square onto the plane of ``frame``."""
    a = BRepAdaptor_Curve(edge)
    first, last = a.FirstParameter(), a.LastParameter()

    def at(t: float) -> XY:
        return flat_point(frame, _xyz(a.Value(t)))

    kind = a.GetType()
    p, q = at(first), at(last)
    if kind == GeomAbs_Line:
        return _straight(p, q)
    if kind in (GeomAbs_Circle, GeomAbs_Ellipse):
        conic = a.Circle() if kind == GeomAbs_Circle else a.Ellipse()
        place = conic.Position()
        major = conic.Radius() if kind == GeomAbs_Circle else conic.MajorRadius()
        minor = conic.Radius() if kind == GeomAbs_Circle else conic.MinorRadius()
        c = flat_point(frame, _xyz(place.Location()))
        d, e = _across(frame, _xyz(place.XDirection()), major), _across(frame, _xyz(place.YDirection()), minor)
        return _round(c, d, e, p, q, at((first + last) / 2), last - first > 2 * math.pi - 1e-9)
    places = [at(first + (last - first) * k / SAMPLES) for k in range(SAMPLES + 1)]
    return _through(places)


def _across(frame: Frame, way: XYZ, size: float) -> XY:
    return dot(way, frame.x) * size, dot(way, frame.y) * size


def _straight(p: XY, q: XY) -> Flat:
    return Flat("point", {"at": p}) if math.dist(p, q) < NOTHING else Flat("line", {"p": p, "q": q})


def _round(c: XY, d: XY, e: XY, p: XY, q: XY, mid: XY, full: bool) -> Flat:
    """c + cos·d + sin·e seen flat: its own half axes by Rytz's construction."""
    angle = 0.5 * math.atan2(2 * (d[0] * e[0] + d[1] * e[1]), d[0] ** 2 + d[1] ** 2 - e[0] ** 2 - e[1] ** 2)
    cos, sin = math.cos(angle), math.sin(angle)
    m = (cos * d[0] + sin * e[0], cos * d[1] + sin * e[1])
    n = (cos * e[0] - sin * d[0], cos * e[1] - sin * d[1])
    if m[0] * n[1] - m[1] * n[0] < 0:
        n = (-n[0], -n[1])
    a, b = math.hypot(*m), math.hypot(*n)
    if min(a, b) < NOTHING:  # seen edge on
        way = m if a > b else n
        if full:
            return _straight((c[0] - way[0], c[1] - way[1]), (c[0] + way[0], c[1] + way[1]))
        return _straight(*_farthest(p, q, mid, c, way))
    if not full and _clockwise(c, m, n, p, q, mid):
        p, q = q, p
    if abs(a - b) < 1e-9 * a:
        return Flat("circle", {"c": c}, a) if full else Flat("arc", {"c": c, "p": p, "q": q}, a)
    axes = {"c": c, "m": (c[0] + m[0], c[1] + m[1]), "n": (c[0] + n[0], c[1] + n[1])}
    return Flat("ellipse", axes) if full else Flat("ellipse_arc", {**axes, "p": p, "q": q})


def _farthest(p: XY, q: XY, mid: XY, c: XY, way: XY) -> tuple[XY, XY]:
    """The two ends of an arc seen edge on: of its ends and the turning points it passes."""
    size = math.hypot(*way)
    u = (way[0] / size, way[1] / size)

    def along(at: XY) -> float:
        return (at[0] - c[0]) * u[0] + (at[1] - c[1]) * u[1]

    reach = [along(p), along(q)]
    if along(mid) > max(reach):
        reach.append(size)
    if along(mid) < min(reach):
        reach.append(-size)
    lo, hi = min(reach), max(reach)
    return (c[0] + lo * u[0], c[1] + lo * u[1]), (c[0] + hi * u[0], c[1] + hi * u[1])


def _clockwise(c: XY, m: XY, n: XY, p: XY, q: XY, mid: XY) -> bool:
    def angle(at: XY) -> float:
        x, y = at[0] - c[0], at[1] - c[1]
        return math.atan2(
            (x * n[0] + y * n[1]) / (n[0] ** 2 + n[1] ** 2), (x * m[0] + y * m[1]) / (m[0] ** 2 + m[1] ** 2)
        )

    start = angle(p)
    return (angle(mid) - start) % (2 * math.pi) > (angle(q) - start) % (2 * math.pi)


def _through(places: list[XY]) -> Flat:
    kept = [places[0]]
    for at in places[1:]:
        if math.dist(at, kept[-1]) > 1e-5:
            kept.append(at)
    if len(kept) < 3:
        return _straight(places[0], places[-1])
    p, q = kept[0], kept[-1]
    long = math.dist(p, q)
    if long > NOTHING and all(
        abs((q[0] - p[0]) * (y - p[1]) - (q[1] - p[1]) * (x - p[0])) < 1e-7 * long for x, y in kept
    ):
        return _straight(p, q)
    return Flat("spline", {}, 0.0, tuple(kept))


def cut_edges(shape: Shape, frame: Frame) -> list[Shape]:
    """The edges in which the plane of ``frame`` cuts a face or a solid."""
    plane = gp_Pln(gp_Ax3(gp_Pnt(*frame.origin), gp_Dir(*frame.normal), gp_Dir(*frame.x)))
    section = BRepAlgoAPI_Section(shape, plane, False)
    section.Build()
    return edges(section.Shape()) if section.IsDone() else []
