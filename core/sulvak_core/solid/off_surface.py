"""How far places lie off the surface that a face lies on, in closed form, on which side of it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.GeomAbs import GeomAbs_Cone, GeomAbs_Cylinder, GeomAbs_Plane, GeomAbs_Sphere, GeomAbs_Torus
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_REVERSED

from .shapes import Shape, lies_on

Array = NDArray[np.float64]
Off = Callable[[Array], Array]
PROBE = 1e-3  # mm along the normal, to tell the sides apart


def off_surface(face: Shape) -> Off | None:
    """A function of places (n, 3) to signed distances (n,) in mm from the whole surface, above zero outside the
    material; None for a face that lies on no plane, cylinder, cone, sphere or torus."""
    a = lies_on(face)
    kind = a.GetType()
    if kind == GeomAbs_Plane:
        off = _profile(a.Plane().Position(), lambda rho, z: z)
    elif kind == GeomAbs_Cylinder:
        r = a.Cylinder().Radius()
        off = _profile(a.Cylinder().Position(), lambda rho, z: rho - r)
    elif kind == GeomAbs_Cone:
        cone = a.Cone()
        low, lean = cone.RefRadius(), cone.SemiAngle()
        sin, cos = float(np.sin(lean)), float(np.cos(lean))
        off = _profile(cone.Position(), lambda rho, z: (rho - low) * cos - z * sin)
    elif kind == GeomAbs_Sphere:
        ball = a.Sphere().Radius()
        off = _profile(a.Sphere().Position(), lambda rho, z: np.hypot(rho, z) - ball)
    elif kind == GeomAbs_Torus:
        torus = a.Torus()
        ring, tube = torus.MajorRadius(), torus.MinorRadius()
        off = _profile(torus.Position(), lambda rho, z: np.hypot(rho - ring, z) - tube)
    else:
        return None
    place, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    u0, u1, v0, v1 = a.FirstUParameter(), a.LastUParameter(), a.FirstVParameter(), a.LastVParameter()
    a.D1(_inside(u0, u1), _inside(v0, v1), place, du, dv)
    n = du.Crossed(dv)
    if n.Magnitude() < 1e-12:
        return None
    n.Normalize()
    out = -1.0 if face.Orientation() == TopAbs_REVERSED else 1.0
    probe = np.array([[place.X() + n.X() * PROBE, place.Y() + n.Y() * PROBE, place.Z() + n.Z() * PROBE]])
    sign = out * float(np.sign(off(probe)[0]))
    return lambda places: sign * off(places)


def _inside(low: float, high: float) -> float:
    """A parameter that lies away from the ends, where surfaces may come to a point."""
    if not (abs(low) < 1e50 and abs(high) < 1e50):
        return 0.0
    return low + 0.37 * (high - low)


def _profile(position: Any, off: Callable[[Array, Array], Array]) -> Off:
    """From a distance in the half plane of an axis (``rho`` from it, ``z`` along it) to one in space."""
    o = position.Location()
    d = position.Direction()
    origin, axis = np.array([o.X(), o.Y(), o.Z()]), np.array([d.X(), d.Y(), d.Z()])

    def of(places: Array) -> Array:
        away = places - origin
        z = away @ axis
        return off(np.linalg.norm(away - z[:, None] * axis, axis=1), z)

    return of
