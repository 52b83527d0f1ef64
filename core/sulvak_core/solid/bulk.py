"""Volume, centre and inertia of solids, summed over their faces by the divergence theorem.

For a face with outward normal n and places x from one point: ∫ dV = ⅓ ∮ x·n dA, ∫ xᵢ dV = ¼ ∮ xᵢ (x·n) dA,
∫ xᵢxⱼ dV = ⅕ ∮ xᵢxⱼ (x·n) dA. On a plane x·n is one number, and what is left are moments of a plane region: line
integrals around it by Green's theorem, taken with Gauss-Legendre points on each edge. The kernel's own quick
integration misses those by up to a half where edges are ellipses or splines, and its adaptive one takes a third of a
second a face. Faces that are not flat are the kernel's: quick where its volume agrees with the adaptive one, which is
fast for volumes alone.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepGProp import BRepGProp
from OCP.GeomAbs import GeomAbs_BSplineCurve, GeomAbs_Circle, GeomAbs_Ellipse, GeomAbs_Line, GeomAbs_Plane
from OCP.gp import gp_Pnt, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_REVERSED, TopAbs_VERTEX
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS

from .convex import edges_of
from .frame import XYZ, Frame, on_plane
from .measure import area, box, surface
from .shapes import KernelError, Shape, Solid, compound, faces

Array = NDArray[np.float64]
Moments = tuple[float, Array, Array]
NODES, WEIGHTS = np.polynomial.legendre.leggauss(16)
AGREE = 1e-10


@dataclass(frozen=True)
class Bulk:
    """Volume in mm³, surface in mm², centre in mm, inertia matrix about the centre in mm⁵ (times density)."""

    volume: float
    area: float
    centre: XYZ
    inertia: tuple[XYZ, XYZ, XYZ]


def bulk(solid: Solid) -> Bulk:
    """Volume, surface, centre and inertia of a solid; where its edges are bent its surface to some 1e-5."""
    volume, centre, inertia = moments(solid.shape)
    rows = tuple((float(r[0]), float(r[1]), float(r[2])) for r in inertia)
    return Bulk(volume, area(solid), centre, rows)  # type: ignore[arg-type]


def moments(shape: Shape) -> tuple[float, XYZ, Array]:
    """Volume in mm³, centre in mm, and the inertia matrix about the centre (3 × 3, mm⁵, times density)."""
    lo, hi = (np.array(corner) for corner in box(shape))
    size = float((hi - lo).max())
    for share in ((0.0, 0.0, 0.0), (0.37, 0.61, 0.83), (-0.71, 0.29, 0.53)):
        q = lo + np.array(share) * (hi - lo) if any(share) else np.zeros(3)
        found = _about(shape, q, size)
        if found is not None:
            break
    else:
        raise KernelError("The mass of this body cannot be worked out; move it a little.", "moments")
    mass, first, second = found
    centre = first / mass
    about = second - mass * np.outer(centre, centre)
    inertia = np.trace(about) * np.eye(3) - about
    at = centre + q
    return mass, (float(at[0]), float(at[1]), float(at[2])), inertia


def _about(shape: Shape, q: Array, size: float) -> Moments | None:
    """Volume, first and second moments about a point. None when a round face's share of the volume vanishes there:
    the kernel then gives no moments of it."""
    mass, first, second = 0.0, np.zeros(3), np.zeros((3, 3))
    for face in faces(shape):
        flat = BRepAdaptor_Surface(face).GetType() == GeomAbs_Plane
        m, f, s = _flat(face, q) if flat else _curved(face, q)
        if not flat and abs(m) <= 1e-12 * size**3:
            return None
        mass, first, second = mass + m, first + f, second + s
    return mass, first, second


def _flat(face: Shape, q: Array) -> Moments:
    s = surface(face)
    frame = on_plane(s.at, s.direction)
    total, one, two = _region(face, frame)
    o = np.array(frame.origin) - q
    axes = np.array([frame.x, frame.y])  # 2 × 3
    height = float(o @ np.array(frame.normal))
    first = total * o + one @ axes
    mixed = np.outer(o, one @ axes)
    second = total * np.outer(o, o) + mixed + mixed.T + axes.T @ two @ axes
    return height * total / 3, height * first / 4, height * second / 5


def _region(face: Shape, frame: Frame) -> tuple[float, Array, Array]:
    """Area, first (2) and second (2 × 2) moments of a flat face in its frame's coordinates."""
    o, x, y = np.array(frame.origin), np.array(frame.x), np.array(frame.y)
    total, one, two = 0.0, np.zeros(2), np.zeros((2, 2))
    for edge in edges_of(face):
        sign = -1.0 if edge.Orientation() == TopAbs_REVERSED else 1.0
        a = BRepAdaptor_Curve(edge)
        at, way = gp_Pnt(), gp_Vec()
        for low, high in _spans(a):
            half = (high - low) / 2
            places, slopes = [], []
            for node in NODES:
                a.D1(low + half * (1 + node), at, way)
                places.append((at.X(), at.Y(), at.Z()))
                slopes.append((way.X(), way.Y(), way.Z()))
            d = np.array(places) - o
            u, v = d @ x, d @ y
            dv = sign * half * WEIGHTS * (np.array(slopes) @ y)
            total += float(u @ dv)
            one += ((u * u / 2) @ dv, (u * v) @ dv)
            uv = float((u * u * v / 2) @ dv)
            two += ((float((u**3 / 3) @ dv), uv), (uv, float((u * v * v) @ dv)))
    return (total, one, two) if total > 0 else (-total, -one, -two)


def _spans(a: BRepAdaptor_Curve) -> list[tuple[float, float]]:
    """Pieces of an edge's parameters on which sixteen points are exact, or as good as."""
    first, last = a.FirstParameter(), a.LastParameter()
    kind = a.GetType()
    if kind == GeomAbs_Line:
        return [(first, last)]
    if kind == GeomAbs_BSplineCurve:
        curve = a.BSpline()
        knots = [curve.Knot(i) for i in range(1, curve.NbKnots() + 1)]
        marks = [first, *(k for k in knots if first < k < last), last]
    elif kind in (GeomAbs_Circle, GeomAbs_Ellipse):
        count = max(1, math.ceil((last - first) / (math.pi / 4)))
        marks = [first + (last - first) * k / count for k in range(count + 1)]
    else:
        marks = [first + (last - first) * k / 32 for k in range(33)]
    return list(itertools.pairwise(marks))


def _curved(face: Shape, q: Array) -> Moments:
    """A face that is not flat, by the kernel. It takes all about the mean of a shape's corners, so a corner is put
    beside the face that brings the mean to ``q``."""
    beside = q.copy()
    walk = TopExp_Explorer(face, TopAbs_VERTEX)
    while walk.More():
        p = BRep_Tool.Pnt_s(TopoDS.Vertex(walk.Current()))
        beside += q - np.array([p.X(), p.Y(), p.Z()])
        walk.Next()
    balanced = compound([face, BRepBuilderAPI_MakeVertex(gp_Pnt(*(float(v) for v in beside))).Vertex()])
    quick, volume = GProp_GProps(), GProp_GProps()
    BRepGProp.VolumeProperties_s(balanced, quick)
    BRepGProp.VolumePropertiesGK_s(balanced, volume, 1e-8, False, True, False, False, False)
    if abs(quick.Mass() - volume.Mass()) > AGREE * abs(volume.Mass()):
        quick = GProp_GProps()
        BRepGProp.VolumePropertiesGK_s(balanced, quick, 1e-8, False, True, True, True, False)
    mass = float(quick.Mass())
    c, m = quick.CentreOfMass(), quick.MatrixOfInertia()
    centre = np.array([c.X(), c.Y(), c.Z()]) - q
    inertia = np.array([[m.Value(i, j) for j in (1, 2, 3)] for i in (1, 2, 3)])
    about = np.trace(inertia) / 2 * np.eye(3) - inertia
    return mass, mass * centre, about + mass * np.outer(centre, centre)
