"""Tools that stop where they meet the part, or a face carried on beyond its edges."""

from __future__ import annotations

import math

from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

from .boolean import combine
from .frame import XYZ, Frame, dot, plus, scaled
from .measure import Surface, box, points, surface
from .shapes import Shape, ShapeMap, Solid, faces
from .surfaces_of_revolution import curved


def _retagged(solid: Solid, step: str) -> Solid:
    """Faces that came from what the tool met are the tool's end."""
    tags: ShapeMap[frozenset[str]] = ShapeMap()
    for face in faces(solid.shape):
        own = frozenset(t for t in solid.face_tags(face) if t.startswith(f"{step}/"))
        tags.put(face, own or frozenset({f"{step}/end"}))
    return Solid(solid.shape, tags, solid._volume)


def first_met(tool: Solid, bodies: list[Solid], frame: Frame, cutting: bool, step: str) -> Solid | None:
    """The part of a long tool from the sketch to where the whole of it first meets (cutting: leaves) the bodies.

    None when some of the tool never meets them.
    """
    at = dot(frame.origin, frame.normal)
    if cutting:
        inside = combine("intersect", bodies, [tool], "cut")
        first = min(inside, key=lambda s: _nearest(s, frame, at), default=None)
        return None if first is None else _retagged(first, step)
    outside = combine("subtract", [tool], bodies, "extrusion")
    own = [s for s in outside if _nearest(s, frame, at) < 1e-7]
    if len(own) != 1 or _farthest(own[0], frame, at) >= _farthest(tool, frame, at) - 1e-7:
        return None
    return _retagged(own[0], step)


def _heights(solid: Solid, frame: Frame, at: float) -> list[float]:
    n = frame.normal
    found = [abs(dot(p, n) - at) for p in points(solid.shape)]
    if not found:
        lo, hi = box(solid.shape)
        found = [abs(dot(lo, n) - at), abs(dot(hi, n) - at)]
    return found


def _nearest(solid: Solid, frame: Frame, at: float) -> float:
    return min(_heights(solid, frame, at))


def _farthest(solid: Solid, frame: Frame, at: float) -> float:
    return max(_heights(solid, frame, at))


def beyond(s: Surface, frame: Frame, offset: float, way: float, size: float) -> Solid:
    """What lies behind a face carried on, as seen along the extrusion: a big block, or the inside of a cylinder
    (its outside when the sketch lies within it, as the block less the cylinder). ``offset`` (mm, along the way) brings
    it nearer."""
    along = scaled(frame.normal, way)
    back = scaled(frame.normal, -offset)
    none: ShapeMap[frozenset[str]] = ShapeMap()
    if s.kind == "plane":
        normal = s.direction if dot(s.direction, along) > 0 else scaled(s.direction, -1.0)
        return Solid(_block(plus(s.at, back), normal, size), none)
    axis = gp_Ax2(gp_Pnt(*plus(plus(s.at, back), scaled(s.direction, -size))), gp_Dir(*s.direction))
    shape = BRepPrimAPI_MakeCylinder(axis, s.radius, 2 * size).Shape()
    made = Solid(shape, none)
    middle = frame.origin
    d = plus(middle, scaled(plus(s.at, back), -1.0))
    off = plus(d, scaled(s.direction, -dot(d, s.direction)))
    if dot(off, off) < s.radius**2:
        whole = Solid(_block(plus(s.at, scaled(s.direction, -size)), s.direction, 2 * size), ShapeMap())
        return combine("subtract", [whole], [made], "extrusion")[0]
    return made


def _block(at: XYZ, normal: XYZ, size: float) -> Shape:
    """A cube of twice ``size`` whose one face lies about ``at``, in the direction of ``normal``."""
    place = gp_Ax2(gp_Pnt(*at), gp_Dir(*normal))
    x, y = place.XDirection(), place.YDirection()
    corner = gp_Pnt(at[0] - size * (x.X() + y.X()), at[1] - size * (x.Y() + y.Y()), at[2] - size * (x.Z() + y.Z()))
    return BRepPrimAPI_MakeBox(
        gp_Ax2(corner, place.Direction(), place.XDirection()), 2 * size, 2 * size, 2 * size
    ).Shape()


def half_space(at: XYZ, way: XYZ, solid: Solid) -> Solid:
    """All that lies on the side of a plane through ``at`` that ``way`` points to, as a block well round a solid.

    Its faces have no origins: what cuts with it names the cut.
    """
    lo, hi = box(solid.shape)
    size = 2.0 + 2 * sum(abs(v) for v in (*lo, *hi, *at))
    middle = scaled(plus(lo, hi), 0.5)
    off = dot(plus(middle, scaled(at, -1.0)), way)
    return Solid(_block(plus(middle, scaled(way, -off)), way, size), ShapeMap())


def block(low: XYZ, high: XYZ) -> Solid:
    """A block along the part's own axes between opposite corners (mm). Its faces have no origins."""
    return Solid(BRepPrimAPI_MakeBox(gp_Pnt(*low), gp_Pnt(*high)).Solid(), ShapeMap())


def bounded(face: Shape, solid: Solid) -> Solid | None:
    """What a face carried on beyond its edges holds: the inside of its cylinder, cone, ball or ring, all that lies
    before a flat one, as a body well round ``solid``. None for faces of other kinds. Its faces have no origins."""
    s = surface(face)
    if s.kind == "plane":
        return half_space(s.at, s.direction, solid)
    c = curved(face)
    if c is None:
        return None
    lo, hi = box(solid.shape)
    size = 2.0 + 2 * sum(abs(v) for v in (*lo, *hi)) + 2 * math.dist(c.at, (0.0, 0.0, 0.0))
    return Solid(c.held(size), ShapeMap())


def only_first(tool: Solid, past: Solid, frame: Frame, step: str) -> Solid | None:
    """The part of a long tool on the sketch's side of what lies ``past`` a face; None when it is not all met."""
    at = dot(frame.origin, frame.normal)
    left = combine("subtract", [tool], [past], "extrusion")
    own = [s for s in left if _nearest(s, frame, at) < 1e-7]
    if len(own) != 1 or _farthest(own[0], frame, at) >= _farthest(tool, frame, at) - 1e-7:
        return None
    return _retagged(own[0], step)
