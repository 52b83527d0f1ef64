"""Whether the material at an edge forms an inside or an outside corner."""

from __future__ import annotations

import math
from collections import OrderedDict
from typing import Any

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_REVERSED

from .frame import XYZ, cross, dot, scaled, unit
from .shapes import Shape, ShapeMap, lies_on

SMOOTH = 1e-6  # sine of the angle under which two faces run on into each other


def corner(edge: Shape, one: Shape, two: Shape) -> str:
    """``outside``, ``inside`` or ``smooth``: how the faces ``one`` and ``two`` of a solid meet in ``edge``.

    With normals n₁, n₂ pointing out of the material and t along the edge as it bounds ``one``, the corner is an
    outside one when (n₁ × n₂) · t is positive.
    """
    _, t, middle = _along(edge, one)
    n1, n2 = _normal(one, edge, middle), _normal(two, edge, middle)
    turn = dot(cross(n1, n2), t)
    if abs(turn) < SMOOTH:
        return "smooth"
    return "outside" if turn > 0 else "inside"


def bend(edge: Shape, one: Shape, two: Shape) -> float:
    """By how much two faces turn where they meet in the middle of an edge, in degrees: 90 at an outside corner of a
    block, −90 in an inside one, 0 where they run on into each other, near 180 at a knife edge."""
    _, t, middle = _along(edge, one)
    n1, n2 = _normal(one, edge, middle), _normal(two, edge, middle)
    return math.degrees(math.atan2(dot(cross(n1, n2), t), dot(n1, n2)))


def into(edge: Shape, face: Shape) -> tuple[XYZ, XYZ]:
    """The middle of an edge of a face (mm), and the unit direction from there into the face, square to the edge."""
    at, t, middle = _along(edge, face)
    return at, cross(_normal(face, edge, middle), t)


def _along(edge: Shape, face: Shape) -> tuple[XYZ, XYZ, float]:
    """The middle of an edge, which way it runs there as it bounds a face, and the parameter of that place."""
    a = BRepAdaptor_Curve(edge)
    middle = (a.FirstParameter() + a.LastParameter()) / 2
    at, along = gp_Pnt(), gp_Vec()
    a.D1(middle, at, along)
    t = unit((along.X(), along.Y(), along.Z()))
    if _bounds(face).get(edge) == TopAbs_REVERSED:  # walked over from its face: as it bounds that
        t = scaled(t, -1.0)
    return (at.X(), at.Y(), at.Z()), t, middle


_bounding: OrderedDict[int, tuple[Shape, ShapeMap[Any]]] = OrderedDict()


def _bounds(face: Shape) -> ShapeMap[Any]:
    """The orientation of each edge of a face in it; of faces asked about lately it is known."""
    known = _bounding.get(hash(face))
    if known is None or not known[0].IsEqual(face):
        found: ShapeMap[Any] = ShapeMap()
        for edge in edges_of(face):
            if found.get(edge) is None:
                found.put(edge, edge.Orientation())
        known = _bounding[hash(face)] = (face, found)
        while len(_bounding) > 500:
            _bounding.popitem(last=False)
    return known[1]


def edges_of(face: Shape) -> list[Shape]:
    """The edges of a face as it is bounded by them, with their orientation in it."""
    from OCP.TopAbs import TopAbs_EDGE
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopoDS import TopoDS

    found = []
    walk = TopExp_Explorer(face, TopAbs_EDGE)
    while walk.More():
        found.append(TopoDS.Edge(walk.Current()))
        walk.Next()
    return found


def _normal(face: Shape, edge: Shape, parameter: float) -> XYZ:
    """The outward normal of a face at a place on its edge."""
    first, last = 0.0, 0.0
    curve = BRep_Tool.CurveOnSurface_s(edge, face, first, last)
    uv = curve.Value(parameter)
    s = lies_on(face)
    at, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    s.D1(uv.X(), uv.Y(), at, du, dv)
    n = cross((du.X(), du.Y(), du.Z()), (dv.X(), dv.Y(), dv.Z()))
    size = math.sqrt(dot(n, n))
    if size < 1e-14:
        return (0.0, 0.0, 0.0)
    return scaled(n, (-1.0 if face.Orientation() == TopAbs_REVERSED else 1.0) / size)
