"""Planes, cylinders, cones, spheres and tori as they are given by their parameters."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_Cone, GeomAbs_Cylinder, GeomAbs_Plane, GeomAbs_Sphere, GeomAbs_Torus
from OCP.gp import gp_Pnt, gp_Vec

Array = NDArray[np.float64]
INNER, FLAT = 24, 4  # orders of the sums over a round and a flat surface's u


def cross(a: Array, b: Array) -> Array:
    """The cross product along the last axis; numpy's own takes ten times as long for few rows."""
    (a0, a1, a2), (b0, b1, b2) = (a[..., 0], a[..., 1], a[..., 2]), (b[..., 0], b[..., 1], b[..., 2])
    return np.stack([a1 * b2 - a2 * b1, a2 * b0 - a0 * b2, a0 * b1 - a1 * b0], axis=-1)


class Elementary:
    """A surface of the kind S(u, v) = O + ρ(v) (cos u X + sin u Y) + ζ(v) Z, in its own axes."""

    inner = INNER
    reach = 0.0  # of the circle a torus turns, 0 for others

    def __init__(self, position: object) -> None:
        axes = position.Location(), position.XDirection(), position.YDirection(), position.Direction()  # type: ignore[attr-defined]
        self.o, self.x, self.y, self.z = (np.array([a.X(), a.Y(), a.Z()]) for a in axes)
        self.right = 1.0 if position.Direct() else -1.0  # type: ignore[attr-defined]

    def profile(self, v: Array) -> tuple[Array, Array, Array, Array]:
        """ρ, ζ and their derivatives."""
        raise NotImplementedError

    def v(self, rho: Array, z: Array) -> Array:
        raise NotImplementedError

    def dv(self, rho: Array, z: Array, drho: Array, dz: Array) -> Array:
        raise NotImplementedError

    def along(self, places: Array, slopes: Array) -> tuple[Array, Array, Array]:
        """u, v and dv of places on it and the speeds with which a curve goes through them."""
        d = places - self.o
        a, b, z = d @ self.x, d @ self.y, d @ self.z
        da, db, dz = slopes @ self.x, slopes @ self.y, slopes @ self.z
        rho = np.hypot(a, b)
        drho = (a * da + b * db) / np.where(rho > 1e-300, rho, 1.0)
        return np.arctan2(b, a), self.v(rho, z), self.dv(rho, z, drho, dz)

    def at(self, u: Array, v: Array) -> tuple[Array, Array]:
        rho, zeta, drho, dzeta = self.profile(v)
        c, s = np.cos(u), np.sin(u)
        out = c[..., None] * self.x + s[..., None] * self.y
        round_ = -s[..., None] * self.x + c[..., None] * self.y
        place = self.o + rho[..., None] * out + zeta[..., None] * self.z
        return place, cross(rho[..., None] * round_, drho[..., None] * out + dzeta[..., None] * self.z)


class Plane(Elementary):
    inner = FLAT

    def __init__(self, a: BRepAdaptor_Surface) -> None:
        super().__init__(a.Plane().Position())

    def along(self, places: Array, slopes: Array) -> tuple[Array, Array, Array]:
        d = places - self.o
        return d @ self.x, d @ self.y, slopes @ self.y

    def at(self, u: Array, v: Array) -> tuple[Array, Array]:
        place = self.o + u[..., None] * self.x + v[..., None] * self.y
        return place, np.broadcast_to(cross(self.x, self.y), place.shape)


class Cylinder(Elementary):
    def __init__(self, a: BRepAdaptor_Surface) -> None:
        super().__init__(a.Cylinder().Position())
        self.r = a.Cylinder().Radius()

    def profile(self, v: Array) -> tuple[Array, Array, Array, Array]:
        return np.full_like(v, self.r), v, np.zeros_like(v), np.ones_like(v)

    def v(self, rho: Array, z: Array) -> Array:
        return z

    def dv(self, rho: Array, z: Array, drho: Array, dz: Array) -> Array:
        return dz


class Cone(Elementary):
    def __init__(self, a: BRepAdaptor_Surface) -> None:
        super().__init__(a.Cone().Position())
        self.r, self.c, self.s = a.Cone().RefRadius(), math.cos(a.Cone().SemiAngle()), math.sin(a.Cone().SemiAngle())

    def profile(self, v: Array) -> tuple[Array, Array, Array, Array]:
        return self.r + v * self.s, v * self.c, np.full_like(v, self.s), np.full_like(v, self.c)

    def v(self, rho: Array, z: Array) -> Array:
        return z / self.c

    def dv(self, rho: Array, z: Array, drho: Array, dz: Array) -> Array:
        return dz / self.c

    def along(self, places: Array, slopes: Array) -> tuple[Array, Array, Array]:
        u, v, dv = super().along(places, slopes)
        # beyond the tip the surface goes on with its directions turned about
        return np.where(self.r + v * self.s < 0, u + math.pi, u), v, dv


class Sphere(Elementary):
    def __init__(self, a: BRepAdaptor_Surface) -> None:
        super().__init__(a.Sphere().Position())
        self.r = a.Sphere().Radius()

    def profile(self, v: Array) -> tuple[Array, Array, Array, Array]:
        c, s = self.r * np.cos(v), self.r * np.sin(v)
        return c, s, -s, c

    def v(self, rho: Array, z: Array) -> Array:
        return np.arctan2(z, rho)

    def dv(self, rho: Array, z: Array, drho: Array, dz: Array) -> Array:
        return (rho * dz - z * drho) / self.r**2


class Torus(Elementary):
    def __init__(self, a: BRepAdaptor_Surface) -> None:
        super().__init__(a.Torus().Position())
        self.big, self.r = a.Torus().MajorRadius(), a.Torus().MinorRadius()

    def profile(self, v: Array) -> tuple[Array, Array, Array, Array]:
        c, s = self.r * np.cos(v), self.r * np.sin(v)
        return self.big + c, s, -s, c

    def v(self, rho: Array, z: Array) -> Array:
        return np.arctan2(z, rho - self.big)

    def dv(self, rho: Array, z: Array, drho: Array, dz: Array) -> Array:
        return ((rho - self.big) * dz - z * drho) / self.r**2


ELEMENTARY = {
    GeomAbs_Plane: Plane,
    GeomAbs_Cylinder: Cylinder,
    GeomAbs_Cone: Cone,
    GeomAbs_Sphere: Sphere,
    GeomAbs_Torus: Torus,
}


def natural(surface: BRepAdaptor_Surface, u: Array, v: Array) -> tuple[Array, Array]:
    """Places (n × 3, mm) of a surface at its parameters, and normals there as the surface itself runs, of any length;
    none where it has none."""
    if (kind := surface.GetType()) in ELEMENTARY:
        places, normals = ELEMENTARY[kind](surface).at(u, v)
        return places, np.array(normals)
    at, one, two = gp_Pnt(), gp_Vec(), gp_Vec()
    found = np.empty((len(u), 3, 3))
    for k, (a, b) in enumerate(zip(u.tolist(), v.tolist(), strict=True)):
        surface.D1(a, b, at, one, two)
        found[k] = [(w.X(), w.Y(), w.Z()) for w in (at, one, two)]
    return found[:, 0], cross(found[:, 1], found[:, 2])
