"""Whether bodies leave a mould of two halves: what faces show at sampled places, and which hold the part back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_Line, GeomAbs_Plane
from OCP.gp import gp_Pnt2d
from OCP.IntTools import IntTools_Context
from OCP.TopAbs import TopAbs_IN, TopAbs_REVERSED

from .elementary import natural
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
    """Places (n × 3, mm) on a face's surface, the outward unit normals there, and ``within``: whether the k-th of them
    lies in the face. That is asked of few: it costs more than all the rest."""

    places: Places
    normals: Places
    within: Callable[[int], bool]


def sampled(face: Shape) -> Sampled:
    """A face at its edges where it is flat, on a grid over its parameters where it is not."""
    surface = BRepAdaptor_Surface(face)
    sign = -1.0 if face.Orientation() == TopAbs_REVERSED else 1.0
    u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
    flat = surface.GetType() == GeomAbs_Plane
    middle = (np.arange(GRID) + 0.5) / GRID
    u, v = (g.ravel() for g in np.meshgrid(u0 + (u1 - u0) * middle, v0 + (v1 - v0) * middle))
    places, normals = natural(surface, u[:1] if flat else u, v[:1] if flat else v)
    size = np.linalg.norm(normals, axis=1)
    good = size > 0
    normals = sign * normals[good] / size[good, None]
    if flat:
        edges_of_it = np.array([p for row in outline(face) for p in row])
        return Sampled(edges_of_it, np.tile(normals, (len(edges_of_it), 1)), lambda k: True)
    known = IntTools_Context()
    u, v = u[good], v[good]

    def within(k: int) -> bool:
        return bool(known.StatePointFace(face, gp_Pnt2d(float(u[k]), float(v[k]))) == TopAbs_IN)

    return Sampled(places[good], normals, within)


def locked(found: list[Sampled], pull: XYZ, parting: float) -> list[int]:
    """Which faces hold the part in a mould whose halves part at a height along the unit ``pull`` (mm from the part's
    origin): those that look back against the pull above it, or along it below."""
    way = np.array(pull)
    held = []
    for i, face in enumerate(found):
        height, rise = face.places @ way - parting, face.normals @ way
        back = ((height > LEVEL) & (rise < -SQUARE)) | ((height < -LEVEL) & (rise > SQUARE))
        if any(face.within(int(k)) for k in np.flatnonzero(back)):
            held.append(i)
    return held


def span(shape: Shape, way: XYZ) -> tuple[float, float]:
    """How far the edges of a shape reach along a unit direction, (least, most) in mm from the part's origin."""
    along = np.array([p for row in outline(shape) for p in row]) @ np.array(way)
    return float(along.min()), float(along.max())


def heights(face: Shape, at: XYZ, direction: XYZ) -> tuple[float, float]:
    """How far the edges of a face lie from a plane, (least, most) in mm along its unit normal."""
    along = (np.array([p for row in outline(face) for p in row]) - np.array(at)) @ np.array(direction)
    return float(along.min()), float(along.max())
