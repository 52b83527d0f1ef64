"""Silhouettes: where a curved face turns away from whoever looks square onto a plane.

On cylinders, cones, spheres and tori seen along their axis or square to it these are exact: the face is cut by the
plane the outline lies in. On any other surface the kernel's outline algorithm (HLRBRep, OpenCASCADE) walks along it.
"""

from __future__ import annotations

import math
from typing import Any

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.BRepLib import BRepLib
from OCP.GeomAbs import GeomAbs_Cone, GeomAbs_Cylinder, GeomAbs_Plane, GeomAbs_Sphere, GeomAbs_Torus
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Vec
from OCP.HLRAlgo import HLRAlgo_Projector
from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_HLRToShape

from .frame import XYZ, Frame, cross, dot, on_plane, plus, scaled, unit
from .project import cut_edges, middle, projected
from .shapes import Shape, edges, lies_on

ALONG = 1e-9  # two unit vectors run alongside when the sine between them is less


def silhouettes(face: Shape, frame: Frame) -> list[Shape]:
    """The edges, in space, in which ``face`` turns away from the plane of ``frame``; none on flat faces, on walls
    seen end on, and on faces that are seen from one side alone."""
    surface = lies_on(face)
    kind = surface.GetType()
    if kind == GeomAbs_Plane:
        return []
    if kind == GeomAbs_Cylinder:
        axis = surface.Cylinder().Axis()
        across = _across(frame.normal, _xyz(axis.Direction()))
        return [] if across is None else cut_edges(face, on_plane(_xyz(axis.Location()), across))
    if kind == GeomAbs_Sphere:
        return cut_edges(face, on_plane(_xyz(surface.Sphere().Location()), frame.normal))
    if kind == GeomAbs_Cone:
        return _cone(face, surface.Cone(), frame)
    if kind == GeomAbs_Torus:
        axis = surface.Torus().Axis()
        along = _xyz(axis.Direction())
        if _sine(along, frame.normal) < ALONG:
            return cut_edges(face, on_plane(_xyz(axis.Location()), along))
        if abs(dot(along, frame.normal)) < ALONG:
            round_ends = cut_edges(face, on_plane(_xyz(axis.Location()), frame.normal))
            return [*round_ends, *(e for e in _walked(face, frame) if projected(e, frame).kind == "line")]
    return _walked(face, frame)


def _xyz(p: Any) -> XYZ:
    return (p.X(), p.Y(), p.Z())


def _sine(a: XYZ, b: XYZ) -> float:
    c = cross(a, b)
    return math.sqrt(dot(c, c))


def _across(way: XYZ, axis: XYZ) -> XYZ | None:
    """What of ``way`` stands square to an axis; None when it runs along it."""
    off = plus(way, scaled(axis, -dot(way, axis)))
    return None if math.sqrt(dot(off, off)) < ALONG else unit(off)


def _cone(face: Shape, cone: Any, frame: Frame) -> list[Shape]:
    """The generators at which the normal, cos a · (cos u X + sin u Y) - sin a · Z, stands square to the view."""
    place, lean = cone.Position(), cone.SemiAngle()
    x, y, z = (_xyz(d) for d in (place.XDirection(), place.YDirection(), place.Direction()))
    a, b = dot(frame.normal, x), dot(frame.normal, y)
    size = math.hypot(a, b)
    if size < ALONG:
        return []
    turn = math.tan(lean) * dot(frame.normal, z) / size
    if abs(turn) > 1 - ALONG:
        return []  # seen into, or from the tip: no outline of its own
    found: list[Shape] = []
    apex = _xyz(cone.Apex())
    for u in (math.atan2(b, a) + math.acos(turn), math.atan2(b, a) - math.acos(turn)):
        out = plus(scaled(x, math.cos(u)), scaled(y, math.sin(u)))
        along = unit(plus(scaled(out, math.sin(lean)), scaled(z, math.cos(lean))))
        for edge in cut_edges(face, on_plane(apex, unit(cross(out, z)))):
            off = plus(middle(edge), scaled(apex, -1.0))
            if _sine(unit(off), along) < 1e-6:  # not the generator across the axis
                found.append(edge)
    return found


def _walked(face: Shape, frame: Frame) -> list[Shape]:
    algo = HLRBRep_Algo()
    algo.Add(face, 0)
    n, x = frame.normal, frame.x
    algo.Projector(HLRAlgo_Projector(gp_Ax2(gp_Pnt(*frame.origin), gp_Dir(*n), gp_Dir(*x))))
    algo.Update()
    algo.Hide()
    made = HLRBRep_HLRToShape(algo)
    outline = made.OutLineVCompound3d()
    found: list[Shape] = [e for e in edges(face) if _turns_on_seam(face, e, n)]
    if outline is not None and not outline.IsNull():
        BRepLib.BuildCurves3d_s(outline)
        found.extend(edges(outline))
    return found


def _turns_on_seam(face: Shape, edge: Shape, way: XYZ) -> bool:
    """Whether the face turns away just along its own seam, which the outline algorithm leaves out."""
    if not BRep_Tool.IsClosed_s(edge, face) or BRep_Tool.Degenerated_s(edge):
        return False
    along, surface = BRepAdaptor_Curve2d(edge, face), BRepAdaptor_Surface(face)
    first, last = along.FirstParameter(), along.LastParameter()
    for k in range(5):
        uv = along.Value(first + (last - first) * (k + 0.5) / 5)
        p, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
        surface.D1(uv.X(), uv.Y(), p, du, dv)
        n = cross(_xyz(du), _xyz(dv))
        if abs(dot(n, way)) > 1e-7 * math.sqrt(dot(n, n)):
            return False
    return True
