"""Whether faces or edges that came of a boolean fall into one with what lies beside them."""

from __future__ import annotations

from collections.abc import Sequence

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.collections import IndexedDataMap_TopoDS_Shape_List_TopoDS_Shape_TopTools_ShapeMapHasher as ShapesOf
from OCP.GeomAbs import (
    GeomAbs_Circle,
    GeomAbs_Cone,
    GeomAbs_Cylinder,
    GeomAbs_Line,
    GeomAbs_Plane,
    GeomAbs_Sphere,
    GeomAbs_Torus,
)
from OCP.gp import gp_Lin
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_VERTEX
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS

from .shapes import Shape, edges, lies_on, listed, vertices

ELEMENTARY = (GeomAbs_Plane, GeomAbs_Cylinder, GeomAbs_Cone, GeomAbs_Sphere, GeomAbs_Torus)
# wider than the kernel's own when it joins, so that what it would join is never taken for apart
ALONG = 1e-8  # rad
NEAR = 1e-5  # mm


def may_join(shape: Shape, fresh: Sequence[Shape], trimmed: Sequence[Shape]) -> bool:
    """Whether any of the ``fresh`` faces of a shape may be one with a neighbour, or an edge of theirs, or of the
    ``trimmed`` ones, with the next edge. In doubt yes; no is certain, as long as nothing else of the shape can be
    joined."""
    sides, ends = ShapesOf(), ShapesOf()
    TopExp.MapShapesAndUniqueAncestors_s(shape, TopAbs_EDGE, TopAbs_FACE, sides)
    TopExp.MapShapesAndUniqueAncestors_s(shape, TopAbs_VERTEX, TopAbs_EDGE, ends)
    for face in fresh:
        for edge in edges(face):
            if not sides.Contains(edge):
                continue  # it is no part of what came out
            beside = listed(sides.FindFromKey(edge))
            if any(not other.IsSame(face) and _one_surface(face, other) for other in beside):
                return True
    for vertex in (v for face in (*fresh, *trimmed) for v in vertices(face)):
        if ends.Contains(vertex):
            meeting = ends.FindFromKey(vertex)
            if meeting.Extent() == 2 and _one_curve(*listed(meeting)):
                return True
    return False


def _one_surface(one: Shape, two: Shape) -> bool:
    a, b = lies_on(one), lies_on(two)
    if a.GetType() not in ELEMENTARY or b.GetType() not in ELEMENTARY:
        return True
    if a.GetType() != b.GetType():
        return False
    if a.GetType() == GeomAbs_Plane:
        p, q = a.Plane(), b.Plane()
        return bool(p.Axis().IsParallel(q.Axis(), ALONG)) and float(p.Distance(q.Location())) < NEAR
    if a.GetType() == GeomAbs_Cylinder:
        c, d = a.Cylinder(), b.Cylinder()
        beside = gp_Lin(c.Axis()).Distance(d.Location())
        return abs(c.Radius() - d.Radius()) < NEAR and bool(c.Axis().IsParallel(d.Axis(), ALONG)) and beside < NEAR
    return True


def _one_curve(one: Shape, two: Shape) -> bool:
    a, b = BRepAdaptor_Curve(TopoDS.Edge(one)), BRepAdaptor_Curve(TopoDS.Edge(two))
    if {a.GetType(), b.GetType()} == {GeomAbs_Line, GeomAbs_Circle}:
        return False
    if a.GetType() == b.GetType() == GeomAbs_Line:
        return bool(a.Line().Direction().IsParallel(b.Line().Direction(), ALONG))
    return True
