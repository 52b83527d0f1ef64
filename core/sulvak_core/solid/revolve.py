"""Solids turned about an axis."""

from __future__ import annotations

import math

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepPrimAPI import BRepPrimAPI_MakeRevol
from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt

from .frame import XYZ, Frame
from .measure import Curve, curve, surface
from .prism import FaceMaker, RegionLike
from .shapes import KernelError, Shape, ShapeMap, Solid, Tags, checked, faces, listed


def revolve(frame: Frame, region: RegionLike, at: XYZ, axis: XYZ, degrees: float, step: str) -> Solid:
    """The solid a region sweeps when it is turned by ``degrees`` (right-handed, up to 360) about an axis.

    Faces are tagged ``step/side/entity``; where it is no full turn ``step/start`` and ``step/end`` are its two ends.
    """
    maker = FaceMaker(frame)
    face = maker.face(region)
    whole = degrees >= 360 - 1e-9
    turn = gp_Ax1(gp_Pnt(*at), gp_Dir(*axis))
    sweep = BRepPrimAPI_MakeRevol(face, turn) if whole else BRepPrimAPI_MakeRevol(face, turn, math.radians(degrees))
    if not sweep.IsDone():
        raise KernelError("The profile could not be revolved; check that it does not cross the axis.")
    return named(sweep, maker.made, whole, step)


def _swept_by(face: Shape, c: Curve) -> bool:
    """Whether a flat face holds a straight edge: both its ends lie on the face or its border."""
    if c.kind != "line" or surface(face).kind != "plane":
        return False
    return all(
        BRepExtrema_DistShapeShape(face, BRepBuilderAPI_MakeVertex(gp_Pnt(*at)).Vertex()).Value() < 1e-7
        for at in (c.start, c.end)
    )


def named(sweep: BRepPrimAPI_MakeRevol, made: list[tuple[Shape, str]], whole: bool, step: str) -> Solid:
    """A swept solid with its faces named after the edges that swept them."""
    tags: ShapeMap[Tags] = ShapeMap()
    for edge, entity in made:
        for side in listed(sweep.Generated(edge)):
            tags.put(side, (tags.get(side) or frozenset()) | {f"{step}/side/{entity}"})
    if not whole:
        tags.put(sweep.FirstShape(), frozenset({f"{step}/start"}))
        tags.put(sweep.LastShape(), frozenset({f"{step}/end"}))
    solid = Solid(sweep.Shape(), tags)
    if solid.volume() < 0:
        solid = Solid(solid.shape.Reversed(), tags)
    # of flat rings, which edges square to the axis sweep, the kernel tells no origin: they are known by their place
    told = {t.split("/")[2] for _, mine in tags.items() for t in mine if "/side/" in t}
    silent = [(curve(edge), entity) for edge, entity in made if entity not in told]
    for i, f in enumerate(faces(solid.shape)):
        if not tags.get(f):
            origin = next((entity for c, entity in silent if _swept_by(f, c)), f"n{i}")
            tags.put(f, frozenset({f"{step}/side/{origin}"}))
    return checked(solid, "revolving")
