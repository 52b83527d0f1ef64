"""Round faces carried on beyond their edges: what they hold, larger or smaller by an offset."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.GeomAbs import GeomAbs_Cone, GeomAbs_Cylinder, GeomAbs_Plane, GeomAbs_Sphere, GeomAbs_Torus
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.TopAbs import TopAbs_REVERSED

from .boolean import combine
from .frame import XYZ, dot, plus, scaled, unit
from .shapes import Shape, ShapeMap, Solid, Tags, faces, lies_on


@dataclass(frozen=True)
class Curved:
    """A round surface. ``at``: a point of the axis (cylinder), the tip (cone) or the centre; ``axis`` a unit vector, of
    a cone away from its tip; ``side`` a unit vector across it, where the surface's seam runs. ``radius`` in mm (of a
    ring to the middle of its tube), ``tube`` that of the tube; ``slope`` half a cone's angle in radians. ``hollow``:
    the material is outside."""

    kind: Literal["cylinder", "cone", "ball", "ring"]
    at: XYZ
    axis: XYZ
    side: XYZ
    radius: float = 0.0
    tube: float = 0.0
    slope: float = 0.0
    hollow: bool = False

    def out(self, p: XYZ) -> XYZ:
        """The unit normal at a place on the surface, away from what it holds."""
        d = plus(p, scaled(self.at, -1.0))
        if self.kind == "ball":
            return unit(d)
        along = dot(d, self.axis)
        across = unit(plus(d, scaled(self.axis, -along)))
        if self.kind == "cylinder":
            return across
        if self.kind == "cone":
            return plus(scaled(across, math.cos(self.slope)), scaled(self.axis, -math.sin(self.slope)))
        return unit(plus(p, scaled(plus(self.at, scaled(across, self.radius)), -1.0)))

    def foot(self, p: XYZ) -> XYZ:
        """The place on the surface that is nearest."""
        d = plus(p, scaled(self.at, -1.0))
        if self.kind == "ball":
            return plus(self.at, scaled(unit(d), self.radius))
        along = dot(d, self.axis)
        off = plus(d, scaled(self.axis, -along))
        across = unit(off)
        if self.kind == "cylinder":
            return plus(plus(self.at, scaled(self.axis, along)), scaled(across, self.radius))
        if self.kind == "cone":
            way = plus(scaled(self.axis, math.cos(self.slope)), scaled(across, math.sin(self.slope)))
            return plus(self.at, scaled(way, dot(d, way)))
        middle = plus(self.at, scaled(across, self.radius))
        return plus(middle, scaled(unit(plus(p, scaled(middle, -1.0))), self.tube))

    def tightest(self, p: XYZ, reach: float) -> float:
        """The least radius of curvature (mm) within ``reach`` of a place on the surface; 0 at a cone's tip."""
        if self.kind in ("cylinder", "ball"):
            return self.radius
        if self.kind == "ring":
            return min(self.tube, abs(self.radius - self.tube)) if self.radius > self.tube else self.tube
        up = math.dist(p, self.at) - reach  # along the wall, towards the tip
        return max(0.0, up * math.tan(self.slope))

    def held(self, size: float, offset: float = 0.0) -> Shape:
        """All within the surface moved out by ``offset`` mm; of endless ones a piece of ``size`` mm to either side."""
        seam = gp_Dir(*self.side)
        if self.kind == "cylinder":
            foot = plus(self.at, scaled(self.axis, -size))
            return BRepPrimAPI_MakeCylinder(_place(foot, self.axis, seam), self.radius + offset, 2 * size).Shape()
        if self.kind == "cone":
            tip = plus(self.at, scaled(self.axis, -offset / math.sin(self.slope)))
            wide = size * math.tan(self.slope)
            return BRepPrimAPI_MakeCone(_place(tip, self.axis, seam), 0.0, wide, size).Shape()
        place = _place(self.at, self.axis, seam)
        if self.kind == "ball":
            return BRepPrimAPI_MakeSphere(place, self.radius + offset).Shape()
        return BRepPrimAPI_MakeTorus(place, self.radius, self.tube + offset).Shape()


def _place(at: XYZ, axis: XYZ, seam: gp_Dir) -> gp_Ax2:
    """Seams run where they did: else faces that lie in one do not join well."""
    return gp_Ax2(gp_Pnt(*at), gp_Dir(*axis), seam)


def curved(face: Shape) -> Curved | None:
    """The round surface a face lies on; None for flat and free ones."""
    a = BRepAdaptor_Surface(face)
    kind = a.GetType()
    if kind not in (GeomAbs_Cylinder, GeomAbs_Cone, GeomAbs_Sphere, GeomAbs_Torus):
        return None
    found = {
        GeomAbs_Cylinder: a.Cylinder,
        GeomAbs_Cone: a.Cone,
        GeomAbs_Sphere: a.Sphere,
        GeomAbs_Torus: a.Torus,
    }[kind]()
    system = found.Position()
    hollow = (face.Orientation() == TopAbs_REVERSED) == system.Direct()
    at, axis, side = (_xyz(v) for v in (system.Location(), system.Direction(), system.XDirection()))
    if kind == GeomAbs_Cylinder:
        return Curved("cylinder", at, axis, side, found.Radius(), hollow=hollow)
    if kind == GeomAbs_Sphere:
        return Curved("ball", at, axis, side, found.Radius(), hollow=hollow)
    if kind == GeomAbs_Torus:
        return Curved("ring", at, axis, side, found.MajorRadius(), found.MinorRadius(), hollow=hollow)
    tip = _xyz(found.Apex())
    middle = a.Value((a.FirstUParameter() + a.LastUParameter()) / 2, (a.FirstVParameter() + a.LastVParameter()) / 2)
    if dot(plus(_xyz(middle), scaled(tip, -1.0)), axis) < 0:
        axis = scaled(axis, -1.0)
    return Curved("cone", tip, axis, side, slope=abs(found.SemiAngle()), hollow=hollow)


def layer(c: Curved, size: float, inner: float, outer: float, step: str) -> Solid:
    """All between the surface moved out by ``inner`` and by ``outer`` mm, its round faces tagged ``step/side/inner``
    and ``outer``."""
    one, two = (_tagged(c.held(size, off), f"{step}/side/{name}") for off, name in ((outer, "outer"), (inner, "inner")))
    [made] = combine("subtract", [one], [two], "text")
    return made


def _tagged(shape: Shape, tag: str) -> Solid:
    tags: ShapeMap[Tags] = ShapeMap()
    for face in faces(shape):
        if lies_on(face).GetType() != GeomAbs_Plane:
            tags.put(face, frozenset({tag}))
    return Solid(shape, tags)


def _xyz(p: gp_Pnt | gp_Dir) -> XYZ:
    return (p.X(), p.Y(), p.Z())
