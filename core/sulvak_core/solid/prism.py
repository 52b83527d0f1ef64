"""Solids grown from plane regions."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeVertex,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.Geom import Geom_Circle
from OCP.gp import gp_Ax2, gp_Ax3, gp_Circ, gp_Dir, gp_Pln, gp_Pnt, gp_Vec

from .frame import XYZ, Frame, plus, scaled
from .shapes import KernelError, Shape, ShapeMap, Solid, Tags, checked, faces, listed


class PieceLike(Protocol):
    """A boundary piece: a straight line, or an arc of ``sweep`` radians when ``radius`` is not 0."""

    @property
    def entity(self) -> str: ...
    @property
    def start(self) -> tuple[float, float]: ...
    @property
    def end(self) -> tuple[float, float]: ...
    @property
    def centre(self) -> tuple[float, float]: ...
    @property
    def radius(self) -> float: ...
    @property
    def sweep(self) -> float: ...


class RegionLike(Protocol):
    @property
    def outer(self) -> Sequence[PieceLike]: ...
    @property
    def holes(self) -> Sequence[Sequence[PieceLike]]: ...


def _pnt(p: XYZ) -> gp_Pnt:
    return gp_Pnt(*p)


class _FaceMaker:
    def __init__(self, frame: Frame) -> None:
        self.frame = frame
        self.vertices: dict[tuple[float, float], Shape] = {}
        self.made: list[tuple[Shape, str]] = []

    def vertex(self, at: tuple[float, float]) -> Shape:
        if at not in self.vertices:
            self.vertices[at] = BRepBuilderAPI_MakeVertex(_pnt(self.frame.point(*at))).Vertex()
        return self.vertices[at]

    def edge(self, p: PieceLike) -> Shape:
        start, end = self.vertex(p.start), self.vertex(p.end)
        if not p.radius:
            maker = BRepBuilderAPI_MakeEdge(start, end)
        else:
            # a clockwise arc is a counter-clockwise one about the turned-over normal
            n = self.frame.normal if p.sweep > 0 else scaled(self.frame.normal, -1.0)
            centre = self.frame.point(*p.centre)
            out = self.frame.direction(p.start[0] - p.centre[0], p.start[1] - p.centre[1])
            circle = gp_Circ(gp_Ax2(_pnt(centre), gp_Dir(*n), gp_Dir(*out)), p.radius)
            maker = BRepBuilderAPI_MakeEdge(Geom_Circle(circle), start, end, 0.0, abs(p.sweep))
        if not maker.IsDone():
            raise KernelError("A piece of the profile is too small to build on; mend the sketch.", str(maker.Error()))
        edge = maker.Edge()
        self.made.append((edge, p.entity))
        return edge

    def wire(self, loop: Sequence[PieceLike]) -> Shape:
        maker = BRepBuilderAPI_MakeWire()
        for piece in loop:
            maker.Add(self.edge(piece))
            if not maker.IsDone():
                raise KernelError("The profile does not close; mend the sketch.", str(maker.Error()))
        return maker.Wire()

    def face(self, region: RegionLike) -> Shape:
        f = self.frame
        plane = gp_Pln(gp_Ax3(_pnt(f.origin), gp_Dir(*f.normal), gp_Dir(*f.x)))
        maker = BRepBuilderAPI_MakeFace(plane, self.wire(region.outer), True)
        for hole in region.holes:
            maker.Add(self.wire(hole))
        if not maker.IsDone():
            raise KernelError("The profile makes no face; mend the sketch.", str(maker.Error()))
        return maker.Face()


def prism(frame: Frame, region: RegionLike, start: float, end: float, step: str, check: bool = True) -> Solid:
    """The solid over ``region`` from ``start`` to ``end`` (mm along the frame's normal, start < end).

    Faces are tagged ``step/side/entity``, ``step/start`` (on the sketch's side) and ``step/end``.
    ``check`` only spares a tool whose result is checked anyway.
    """
    n = frame.normal
    base = Frame(plus(frame.origin, scaled(n, start)), frame.x, frame.y)
    maker = _FaceMaker(base)
    face = maker.face(region)
    sweep = BRepPrimAPI_MakePrism(face, gp_Vec(*scaled(n, end - start)))
    if not sweep.IsDone():
        raise KernelError("The profile could not be extruded; check it for crossings.")
    tags: ShapeMap[Tags] = ShapeMap()
    for edge, entity in maker.made:
        for side in listed(sweep.Generated(edge)):
            tags.put(side, (tags.get(side) or frozenset()) | {f"{step}/side/{entity}"})
    tags.put(sweep.FirstShape(), frozenset({f"{step}/start"}))
    tags.put(sweep.LastShape(), frozenset({f"{step}/end"}))
    solid = Solid(sweep.Shape(), tags)
    if solid.volume() < 0:
        solid = Solid(solid.shape.Reversed(), tags)
    for f in faces(solid.shape):
        if not tags.get(f):
            raise KernelError("A face of the extrusion has no origin.", "untagged prism face")
    return checked(solid, "extrusion") if check else solid
