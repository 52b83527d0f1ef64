"""Whether bodies leave a mould of two halves: what faces show at sampled places, and which hold the part back."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_Line, GeomAbs_Plane
from OCP.GeomLProp import GeomLProp_SLProps
from OCP.gp import gp_Pnt2d
from OCP.IntTools import IntTools_Context
from OCP.TopAbs import TopAbs_IN, TopAbs_REVERSED

from .frame import XYZ
from .shapes import Shape, edges

ROUND = 24  # places along an edge that is not straight
GRID = 12  # places each way on a face that is not flat
LEVEL = 1e-6  # mm that a place may stand beyond the parting plane
SQUARE = 1e-6  # part of a normal along the pull that still counts as none

Places = NDArray[np.float64]


def outline(face: Shape) -> list[list[XYZ]]:
    """The edges of a face as rows of places in mm, each row from one end of its edge to the other."""
    rows = []
    for edge in edges(face):
        c = BRepAdaptor_Curve(edge)
        count = 2 if c.GetType() == GeomAbs_Line else ROUND + 1
        rows.append([_xyz(c.Value(t)) for t in np.linspace(c.FirstParameter(), c.LastParameter(), count)])
    return rows


def _xyz(p: object) -> XYZ:
    return (p.X(), p.Y(), p.Z())  # type: ignore[attr-defined]


@dataclass(frozen=True)
class Sampled:
    """Places (n × 3, mm) on a face and the outward unit normals there."""

    places: Places
    normals: Places


def sampled(face: Shape) -> Sampled:
    """A face at its edges where it is flat, on a grid inside it where it is not."""
    surface = BRepAdaptor_Surface(face)
    sign = -1.0 if face.Orientation() == TopAbs_REVERSED else 1.0
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    props = GeomLProp_SLProps(surface.Surface().Surface(), 1, 1e-9)
    turn = surface.Trsf()

    def normal(u: float, v: float) -> XYZ | None:
        props.SetParameters(u, v)
        if not props.IsNormalDefined():
            return None
        return _xyz(props.Normal().Transformed(turn))

    if surface.GetType() == GeomAbs_Plane:
        places = np.array([p for row in outline(face) for p in row])
        return Sampled(places, np.tile(sign * np.array(normal(u0, v0)), (len(places), 1)))
    inside = IntTools_Context()
    at: list[XYZ] = []
    normals: list[XYZ] = []
    for u in u0 + (u1 - u0) * (np.arange(GRID) + 0.5) / GRID:
        for v in v0 + (v1 - v0) * (np.arange(GRID) + 0.5) / GRID:
            n = normal(u, v) if inside.StatePointFace(face, gp_Pnt2d(u, v)) == TopAbs_IN else None
            if n is not None:
                at.append(_xyz(surface.Value(u, v)))
                normals.append(n)
    return Sampled(np.array(at).reshape(-1, 3), sign * np.array(normals).reshape(-1, 3))


def locked(found: list[Sampled], pull: XYZ, parting: float) -> list[int]:
    """Which faces hold the part in a mould whose halves part at a height along the unit ``pull`` (mm from the part's
    origin): those that look back against the pull above it, or along it below."""
    way = np.array(pull)
    held = []
    for i, face in enumerate(found):
        height, rise = face.places @ way - parting, face.normals @ way
        if np.any((height > LEVEL) & (rise < -SQUARE)) or np.any((height < -LEVEL) & (rise > SQUARE)):
            held.append(i)
    return held


def heights(face: Shape, at: XYZ, direction: XYZ) -> tuple[float, float]:
    """How far the edges of a face lie from a plane, (least, most) in mm along its unit normal."""
    along = (np.array([p for row in outline(face) for p in row]) - np.array(at)) @ np.array(direction)
    return float(along.min()), float(along.max())
