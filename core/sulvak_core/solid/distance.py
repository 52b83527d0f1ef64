"""Measuring between things of a solid: shortest ways, angles, what stands behind a place on a face."""

from __future__ import annotations

import math
from dataclasses import dataclass

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.gp import gp_Dir, gp_Lin, gp_Pnt
from OCP.IntCurvesFace import IntCurvesFace_ShapeIntersector

from .frame import XYZ, cross, dot, plus, scaled, unit
from .measure import curve, face_area, surface
from .shapes import KernelError, Shape, edges

PARALLEL = 1e-9  # sine of the angle up to which directions count as parallel
TOUCH = 1e-6  # mm


@dataclass(frozen=True)
class Trait:
    """What of a thing can be measured against others.

    ``kind``: "point" (``at``), "line" (through ``at`` along ``way``: an edge, or an axis), "plane" (through ``at`` with
    the normal ``way``) or "free" for everything else. ``radius``: of a round thing, mm, else 0.
    """

    kind: str
    at: XYZ = (0.0, 0.0, 0.0)
    way: XYZ = (0.0, 0.0, 0.0)
    radius: float = 0.0


def point_shape(at: XYZ) -> Shape:
    return BRepBuilderAPI_MakeVertex(gp_Pnt(*at)).Vertex()


def face_trait(face: Shape) -> Trait:
    s = surface(face)
    if s.kind == "plane":
        return Trait("plane", s.at, s.direction)
    if s.kind in ("cylinder", "cone"):
        return Trait("line", s.at, s.direction, s.radius if s.kind == "cylinder" else 0.0)
    return Trait("free")


def edge_trait(edge: Shape) -> Trait:
    c = curve(edge)
    if c.kind == "line":
        return Trait("line", c.start, c.direction)
    if c.kind == "circle":
        return Trait("line", c.at, c.direction, c.radius)
    return Trait("free")


def shortest(a: Shape, b: Shape) -> tuple[float, XYZ, XYZ]:
    """The shortest way between two shapes: its length in mm and its ends on each."""
    found = BRepExtrema_DistShapeShape(a, b)
    if not found.IsDone() or not found.NbSolution():
        raise KernelError("No distance can be found between these.", "extrema")
    p, q = found.PointOnShape1(1), found.PointOnShape2(1)
    return float(found.Value()), (p.X(), p.Y(), p.Z()), (q.X(), q.Y(), q.Z())


def angle(a: Trait, b: Trait) -> float | None:
    """The angle in degrees, 0 to 90, between lines and planes; None where one has no direction."""
    if a.kind not in ("line", "plane") or b.kind not in ("line", "plane"):
        return None
    across, along = math.sqrt(dot(c := cross(a.way, b.way), c)), abs(dot(a.way, b.way))
    between = math.degrees(math.atan2(across, along))
    return 90.0 - between if a.kind != b.kind else between


def parallel(a: Trait, b: Trait) -> bool:
    """Whether lines and planes run alongside each other."""
    if a.kind not in ("line", "plane") or b.kind not in ("line", "plane"):
        return False
    if a.kind != b.kind:
        return abs(dot(a.way, b.way)) <= PARALLEL
    c = cross(a.way, b.way)
    return math.sqrt(dot(c, c)) <= PARALLEL


def apart(a: Trait, b: Trait) -> tuple[float, XYZ, XYZ] | None:
    """The distance (mm) of points, lines without end and planes that run alongside each other, with a place on each;
    None where they do not."""
    if "free" in (a.kind, b.kind):
        return None
    if a.kind != "point" and b.kind != "point" and not parallel(a, b):
        return None
    if b.kind == "point" and a.kind != "point":
        found = apart(b, a)
        return found and (found[0], found[2], found[1])
    d = plus(b.at, scaled(a.at, -1.0))
    if b.kind == "plane":
        h = dot(d, b.way)
        return abs(h), a.at, plus(a.at, scaled(b.way, h))
    if a.kind == "plane":
        h = dot(d, a.way)
        return abs(h), plus(b.at, scaled(a.way, -h)), b.at
    foot = plus(b.at, scaled(b.way, -dot(d, b.way))) if b.kind == "line" else b.at
    gap = plus(foot, scaled(a.at, -1.0))
    return math.sqrt(dot(gap, gap)), a.at, foot


def wall_behind(solid: Shape, face: Shape, at: XYZ) -> tuple[float, XYZ, XYZ] | None:
    """How thick the material is behind a place on a flat face or a cylinder: its thickness in mm and where the straight
    way through it begins and ends."""
    s = surface(face)
    if s.kind == "plane":
        out = s.direction
        at = plus(at, scaled(out, -dot(plus(at, scaled(s.at, -1.0)), out)))
    elif s.kind == "cylinder":
        d = plus(at, scaled(s.at, -1.0))
        along = scaled(s.direction, dot(d, s.direction))
        out = unit(plus(d, scaled(along, -1.0)))
        at = plus(plus(s.at, along), scaled(out, s.radius))
        out = scaled(out, -1.0) if s.hollow else out
    else:
        return None
    ray = IntCurvesFace_ShapeIntersector()
    ray.Load(solid, 1e-7)
    ray.Perform(gp_Lin(gp_Pnt(*at), gp_Dir(*scaled(out, -1.0))), TOUCH, 1e9)
    ways = [float(ray.WParameter(i)) for i in range(1, ray.NbPnt() + 1)]
    ways = [w for w in ways if w > TOUCH]
    return (min(ways), at, plus(at, scaled(out, -min(ways)))) if ways else None


def around(face: Shape) -> float:
    """The length of all edges around a face, mm."""
    return sum(curve(e).length for e in edges(face))


__all__ = [
    "Trait",
    "angle",
    "apart",
    "around",
    "edge_trait",
    "face_area",
    "face_trait",
    "parallel",
    "point_shape",
    "shortest",
    "wall_behind",
]
