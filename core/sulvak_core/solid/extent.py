"""The box around a shape, to the last digit: from its edges, and from faces that bulge beyond them.

A point of a face farthest along an axis lies on the face's edges, or where the normal runs along that axis. On planes,
cylinders, cones and other ruled surfaces a straight line of the surface leads from there to an edge; on spheres and
tori such places are known; only on free forms are they searched for, which takes the kernel a thousand times as long.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepClass import BRepClass_FaceClassifier
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import (
    GeomAbs_Circle,
    GeomAbs_Cone,
    GeomAbs_Cylinder,
    GeomAbs_Ellipse,
    GeomAbs_Line,
    GeomAbs_Plane,
    GeomAbs_Sphere,
    GeomAbs_SurfaceOfExtrusion,
    GeomAbs_Torus,
)
from OCP.gp import gp_Pnt2d
from OCP.TopAbs import TopAbs_IN, TopAbs_ON

from .frame import XYZ
from .shapes import Remembered, Shape, edges, faces, lies_on

Places = NDArray[np.float64]
RULED = (GeomAbs_Plane, GeomAbs_Cylinder, GeomAbs_Cone, GeomAbs_SurfaceOfExtrusion)
NEAR = 1e-9
_known: Remembered[Places] = Remembered(20_000)  # of edges: steps leave most of a part's edges as they are
_faces: Remembered[Places] = Remembered(20_000)


def box(shape: Shape) -> tuple[XYZ, XYZ]:
    """Opposite corners of the box around a shape, mm."""
    skin = faces(shape)
    known = [_faces.find(f, ()) for f in skin]
    if skin and 2 * sum(k is None for k in known) < len(skin):
        found = [k if k is not None else _faces.put(f, (), _corners(f)) for f, k in zip(skin, known, strict=True)]
        every = np.array(found).reshape(-1, 3)
    else:  # of mostly new faces: each edge once
        every = np.concatenate([_of_edges(shape), *(p for f in skin for p in _bulge(f))])
    if not len(every):
        every = _searched(shape)
    low, high = every.min(axis=0), every.max(axis=0)
    return (float(low[0]), float(low[1]), float(low[2])), (float(high[0]), float(high[1]), float(high[2]))


def boxes(of: list[Shape]) -> Places:
    """The boxes around faces or edges, one after the other: least x, y, z and most x, y, z, in mm."""
    found = [_faces.get(s, (), lambda s=s: _corners(s)) for s in of]  # type: ignore[misc]
    return np.array(found).reshape(-1, 6)


def _corners(shape: Shape) -> Places:
    found = [_of_edges(shape), *(p for f in faces(shape) for p in _bulge(f))]
    every = np.concatenate(found)
    if not len(every):
        every = _searched(shape)
    return np.concatenate([every.min(axis=0), every.max(axis=0)])


def _of_edges(shape: Shape) -> Places:
    found = [_known.get(e, (), lambda e=e: _edge(e)) for e in edges(shape) if not BRep_Tool.Degenerated_s(e)]  # type: ignore[misc]
    return np.concatenate(found) if found else np.zeros((0, 3))


def _xyz(p: object) -> XYZ:
    return (p.X(), p.Y(), p.Z())  # type: ignore[attr-defined]


def _searched(shape: Shape) -> Places:
    """The corners of the box as the kernel finds it by searching."""
    found = Bnd_Box()
    BRepBndLib.AddOptimal_s(shape, found, False, False)
    found.SetGap(0.0)
    return np.array([_xyz(found.CornerMin()), _xyz(found.CornerMax())])


def _edge(edge: Shape) -> Places:
    """Places on an edge among which are those farthest along each axis."""
    c = BRepAdaptor_Curve(edge)
    first, last = c.FirstParameter(), c.LastParameter()
    kind = c.GetType()
    places = [_xyz(c.Value(first)), _xyz(c.Value(last))]
    if kind == GeomAbs_Line:
        return np.array(places)
    if kind not in (GeomAbs_Circle, GeomAbs_Ellipse):
        return np.concatenate([np.array(places), _searched(edge)])
    conic = c.Circle() if kind == GeomAbs_Circle else c.Ellipse()
    radii = (conic.Radius(),) * 2 if kind == GeomAbs_Circle else (conic.MajorRadius(), conic.MinorRadius())
    x, y = _xyz(conic.XAxis().Direction()), _xyz(conic.YAxis().Direction())
    for i in range(3):
        top = math.atan2(radii[1] * y[i], radii[0] * x[i])
        for t in (top, top + math.pi):
            t = first + (t - first) % (2 * math.pi)
            if t <= last:
                places.append(_xyz(c.Value(t)))
    return np.array(places)


def _bulge(face: Shape) -> list[Places]:
    """Places inside a face that may lie farther out than its edges."""
    surface = lies_on(face)
    kind = surface.GetType()
    if kind in RULED:
        return []
    if kind == GeomAbs_Sphere:
        lies: Any = surface.Sphere()
        radius = lies.Radius()
        poles = [s * radius * e for e in np.eye(3) for s in (1.0, -1.0)]
    elif kind == GeomAbs_Torus:
        lies = surface.Torus()
        radius = lies.MinorRadius()
        poles = _torus(np.array(_xyz(lies.Axis().Direction())), lies.MajorRadius(), radius)
    else:
        return [_searched(face)]
    axes = lies.Position()
    frame = np.array([_xyz(d) for d in (axes.XDirection(), axes.YDirection(), axes.Direction())])
    centre = np.array(_xyz(lies.Location()))
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    within = BRepClass_FaceClassifier()
    found = []
    for p in poles:
        x, y, z = (float(c) for c in frame @ p)
        away = math.hypot(x, y)
        u = _after(math.atan2(y, x), u0) if away > NEAR * radius else (u0 + u1) / 2
        if kind == GeomAbs_Sphere:
            v = math.asin(max(-1.0, min(1.0, z / radius)))
        else:
            v = _after(math.atan2(z, away - lies.MajorRadius()), v0)
        if u > u1 + NEAR or not v0 - NEAR <= v <= v1 + NEAR:
            continue
        within.Perform(face, gp_Pnt2d(u, v), NEAR)
        if within.State() in (TopAbs_IN, TopAbs_ON):
            found.append((centre + p).reshape(1, 3))
    return found


def _after(angle: float, start: float) -> float:
    """An angle turned on by whole turns until it comes after another, by no more than one."""
    return start + (angle - start + NEAR) % (2 * math.pi) - NEAR


def _torus(a: Places, major: float, minor: float) -> list[Places]:
    """Where the normal of a torus about the direction ``a`` runs along an axis of space, from its centre."""
    found = []
    for e in np.eye(3):
        flat = e - (e @ a) * a
        size = float(np.linalg.norm(flat))
        if size < 1e-9:  # square to the ring: a whole circle, all of which lies in the face if it meets no edge
            flat = np.cross(a, np.eye(3)[int(np.argmin(np.abs(a)))])
            size = float(np.linalg.norm(flat))
        for side in (1.0, -1.0):
            for up in (1.0, -1.0):
                found.append(side * major * flat / size + up * minor * e)
    return found
