"""Measuring solids: mass properties, what surface a face lies on, boxes."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GeomAbs import (
    GeomAbs_Circle,
    GeomAbs_Cone,
    GeomAbs_Cylinder,
    GeomAbs_Line,
    GeomAbs_Plane,
    GeomAbs_Sphere,
    GeomAbs_Torus,
)
from OCP.gp import gp_Ax3, gp_Dir, gp_Pnt, gp_Trsf
from OCP.TopAbs import TopAbs_IN, TopAbs_REVERSED
from OCP.TopLoc import TopLoc_Location

from .extent import box as box
from .face_sums import face_sums
from .frame import XYZ, Frame, dot, plus, scaled
from .shapes import Shape, Solid, edges, faces, vertices


@dataclass(frozen=True)
class Surface:
    """What a face lies on. ``kind`` plane: ``at`` a point, ``direction`` the outward normal.
    cylinder, cone: ``at`` a point of the axis, ``direction`` the axis, ``radius`` in mm;
    ``hollow`` when the material is outside (a hole's wall), ``sweep`` the angle it covers in radians."""

    kind: str
    at: XYZ = (0.0, 0.0, 0.0)
    direction: XYZ = (0.0, 0.0, 1.0)
    radius: float = 0.0
    hollow: bool = False
    sweep: float = 0.0
    form: str = ""  # of others: sphere or torus, with the radius of the ball or of the tube


def _xyz(p: Any) -> XYZ:
    return (p.X(), p.Y(), p.Z())


def face_area(shape: Shape) -> float:
    """Area in mm² of a face, or of all faces of a shape."""
    return math.fsum(face_sums(f).area for f in faces(shape))


def face_centre(face: Shape) -> XYZ:
    """The centre of gravity of a face."""
    sums = face_sums(face)
    x, y, z = (float(v) / sums.area for v in sums.first)
    return (x, y, z)


def surface(face: Shape) -> Surface:
    """The surface a face lies on, with its material side."""
    a = BRepAdaptor_Surface(face)
    turned = face.Orientation() == TopAbs_REVERSED
    kind = a.GetType()
    if kind == GeomAbs_Plane:
        plane = a.Plane()
        n = _xyz(plane.Axis().Direction())
        direct = plane.Position().Direct()
        return Surface("plane", _xyz(plane.Location()), scaled(n, -1.0) if turned == direct else n)
    if kind in (GeomAbs_Cylinder, GeomAbs_Cone):
        round_ = a.Cylinder() if kind == GeomAbs_Cylinder else a.Cone()
        radius = round_.Radius() if kind == GeomAbs_Cylinder else round_.RefRadius()
        direct = round_.Position().Direct()
        return Surface(
            "cylinder" if kind == GeomAbs_Cylinder else "cone",
            _xyz(round_.Axis().Location()),
            _xyz(round_.Axis().Direction()),
            radius,
            turned == direct,
            a.LastUParameter() - a.FirstUParameter(),
        )
    if kind == GeomAbs_Sphere:
        return Surface("other", radius=a.Sphere().Radius(), form="sphere")
    return Surface("other", radius=a.Torus().MinorRadius(), form="torus") if kind == GeomAbs_Torus else Surface("other")


@dataclass(frozen=True)
class Curve:
    """What an edge is: a ``line`` with its direction, a ``circle`` with centre, axis and radius, or ``other``."""

    kind: str
    length: float
    start: XYZ
    end: XYZ
    at: XYZ = (0.0, 0.0, 0.0)
    direction: XYZ = (0.0, 0.0, 1.0)
    radius: float = 0.0


def curve(edge: Shape) -> Curve:
    a = BRepAdaptor_Curve(edge)
    first, last = a.FirstParameter(), a.LastParameter()
    start, end = _xyz(a.Value(first)), _xyz(a.Value(last))
    kind = a.GetType()
    if kind == GeomAbs_Line:
        line = a.Line()
        return Curve("line", last - first, start, end, _xyz(line.Location()), _xyz(line.Direction()))
    if kind == GeomAbs_Circle:
        c = a.Circle()
        axis = c.Axis()
        return Curve(
            "circle", c.Radius() * (last - first), start, end, _xyz(axis.Location()), _xyz(axis.Direction()), c.Radius()
        )
    return Curve("other", float(GCPnts_AbscissaPoint.Length_s(a)), start, end)


def points(shape: Shape) -> list[XYZ]:
    """The corners of a shape."""
    return [_xyz(BRep_Tool.Pnt_s(v)) for v in vertices(shape)]


def reach(shape: Shape, direction: XYZ) -> tuple[float, float]:
    """How far a shape reaches along a unit direction, (least, most) in mm; a bound, not tight on curved shapes."""
    lo, hi = box(shape)
    least = sum(min(lo[i] * direction[i], hi[i] * direction[i]) for i in range(3))
    most = sum(max(lo[i] * direction[i], hi[i] * direction[i]) for i in range(3))
    return least, most


def extent_on(face: Shape, frame: Frame) -> tuple[tuple[float, float], tuple[float, float]]:
    """Opposite corners of the box around a face in a plane's own axes, mm."""
    move = gp_Trsf()
    move.SetTransformation(gp_Ax3(gp_Pnt(*frame.origin), gp_Dir(*frame.normal), gp_Dir(*frame.x)))
    lo, hi = box(face.Moved(TopLoc_Location(move)))
    return lo[:2], hi[:2]


def middle(face: Shape) -> XYZ:
    """The place in the middle of a face's own two parameters."""
    a = BRepAdaptor_Surface(face)
    u, v = (a.FirstUParameter() + a.LastUParameter()) / 2, (a.FirstVParameter() + a.LastVParameter()) / 2
    return _xyz(a.Value(u, v))


def inside(shape: Shape, at: XYZ) -> bool:
    """Whether a point lies inside a solid."""
    return bool(BRepClass3d_SolidClassifier(shape, gp_Pnt(*at), 1e-7).State() == TopAbs_IN)


def on_face(face: Shape, count: int, seed: int = 5) -> list[tuple[XYZ, XYZ]]:
    """About ``count`` places on a face, inside its edges, with the normals there that point out of the material."""
    from random import Random

    from OCP.BRepClass import BRepClass_FaceClassifier
    from OCP.BRepLProp import BRepLProp_SLProps
    from OCP.gp import gp_Pnt2d

    a = BRepAdaptor_Surface(face)
    (u0, u1), (v0, v1) = (a.FirstUParameter(), a.LastUParameter()), (a.FirstVParameter(), a.LastVParameter())
    rnd = Random(seed)
    sign = -1.0 if face.Orientation() == TopAbs_REVERSED else 1.0
    found: list[tuple[XYZ, XYZ]] = []
    for _ in range(6 * count):
        u, v = rnd.uniform(u0, u1), rnd.uniform(v0, v1)
        if BRepClass_FaceClassifier(face, gp_Pnt2d(u, v), 1e-9).State() != TopAbs_IN:
            continue
        here = BRepLProp_SLProps(a, u, v, 1, 1e-9)
        if here.IsNormalDefined():
            found.append((_xyz(here.Value()), scaled(_xyz(here.Normal()), sign)))
        if len(found) >= count:
            break
    return found


def neighbours(solid: Solid) -> list[tuple[Shape, list[int]]]:
    """Every edge of a solid with the indices of the faces it lies between; looked for once."""
    if solid._sides is None:
        solid._sides = _sides(solid)
    return solid._sides


def _sides(solid: Solid) -> list[tuple[Shape, list[int]]]:
    from .shapes import ShapeMap, faces

    at: ShapeMap[list[int]] = ShapeMap()
    order: list[Shape] = []
    for i, face in enumerate(faces(solid.shape)):
        for edge in edges(face):
            known = at.get(edge)
            if known is None:
                at.put(edge, [i])
                order.append(edge)
            else:
                known.append(i)
    return [(e, at.get(e) or []) for e in order]


def off_axis(p: XYZ, s: Surface) -> float:
    """How far (mm) a point is from the axis of a round surface."""
    away = plus(p, scaled(s.at, -1.0))
    off = plus(away, scaled(s.direction, -dot(away, s.direction)))
    return math.sqrt(dot(off, off))


def one_axis(a: Surface, b: Surface) -> bool:
    """Whether two round surfaces lie about one axis, to a millionth of a mm."""
    return abs(abs(dot(a.direction, b.direction)) - 1) < 1e-9 and off_axis(b.at, a) < 1e-6


def full_turn(s: Surface) -> bool:
    return s.sweep > 2 * math.pi - 1e-9
