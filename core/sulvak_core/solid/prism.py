"""Solids grown from plane regions."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Protocol

from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeVertex,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.collections import Array1_double, Array1_gp_Pnt, Array1_int
from OCP.Geom import Geom_BSplineCurve, Geom_Circle, Geom_Ellipse
from OCP.gp import gp_Ax2, gp_Ax3, gp_Circ, gp_Dir, gp_Elips, gp_Pln, gp_Pnt, gp_Vec

from .frame import XYZ, Frame, plus, scaled
from .place import moved_by, placed
from .shapes import KernelError, Shape, ShapeMap, Solid, Tags, checked, faces, listed

ALIKE = 11  # digits after the point, in mm and rad, in which what is alike agrees


class PieceLike(Protocol):
    """A boundary piece: a straight line, or an arc of ``sweep`` radians when ``radius`` is not 0.

    With half ``axes`` it is part of an ellipse, with ``spans`` a run of cubic Béziers.
    """

    @property
    def origin(self) -> str: ...
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
    @property
    def axes(self) -> tuple[tuple[float, float], tuple[float, float]] | None: ...
    @property
    def spans(self) -> Sequence[Sequence[tuple[float, float]]]: ...


class RegionLike(Protocol):
    @property
    def outer(self) -> Sequence[PieceLike]: ...
    @property
    def holes(self) -> Sequence[Sequence[PieceLike]]: ...


def _pnt(p: XYZ) -> gp_Pnt:
    return gp_Pnt(*p)


def _bspline(spans: list[list[XYZ]]) -> Geom_BSplineCurve:
    """Cubic Béziers end to end as one curve; knots that are not needed are taken out, so that it is as smooth
    as what it was drawn from."""
    poles = Array1_gp_Pnt(1, 3 * len(spans) + 1)
    poles.SetValue(1, _pnt(spans[0][0]))
    for i, span in enumerate(spans):
        for k in (1, 2, 3):
            poles.SetValue(3 * i + k + 1, _pnt(span[k]))
    knots, times = Array1_double(1, len(spans) + 1), Array1_int(1, len(spans) + 1)
    at, long = 0.0, 1.0
    for i in range(len(spans) + 1):
        knots.SetValue(i + 1, at)
        times.SetValue(i + 1, 4 if i in (0, len(spans)) else 3)
        if i < len(spans):
            # each span as long in parameter as makes the speed go on evenly from the one before
            if i:
                long *= max(math.dist(*spans[i][:2]), 1e-9) / max(math.dist(*spans[i - 1][2:]), 1e-9)
            at += long
    curve = Geom_BSplineCurve(poles, knots, times, 3)
    for i in range(len(spans), 1, -1):
        if not curve.RemoveKnot(i, 1, 1e-8):
            curve.RemoveKnot(i, 2, 1e-8)
    return curve


class FaceMaker:
    """Wires and faces of a sketch in a plane of space; ``made`` lists every edge with the origin of its piece."""

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
        if p.spans:
            curve = _bspline([[self.frame.point(*at) for at in span] for span in p.spans])
            maker = BRepBuilderAPI_MakeEdge(curve, start, end, curve.FirstParameter(), curve.LastParameter())
        elif p.axes:
            maker = self._elliptical(p, start, end)
        elif not p.radius:
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
        self.made.append((edge, p.origin))
        return edge

    def _elliptical(self, p: PieceLike, start: Shape, end: Shape) -> BRepBuilderAPI_MakeEdge:
        assert p.axes
        (dx, dy), (ex, ey) = p.axes
        if math.hypot(ex, ey) > math.hypot(dx, dy):  # the kernel wants the longer one first
            dx, dy, ex, ey = ex, ey, -dx, -dy
        if p.sweep < 0:
            ex, ey = -ex, -ey
        n = self.frame.normal if p.sweep > 0 else scaled(self.frame.normal, -1.0)
        place = gp_Ax2(_pnt(self.frame.point(*p.centre)), gp_Dir(*n), gp_Dir(*self.frame.direction(dx, dy)))
        ellipse = Geom_Ellipse(gp_Elips(place, math.hypot(dx, dy), math.hypot(ex, ey)))
        x, y = p.start[0] - p.centre[0], p.start[1] - p.centre[1]
        first = math.atan2((x * ex + y * ey) / (ex * ex + ey * ey), (x * dx + y * dy) / (dx * dx + dy * dy))
        return BRepBuilderAPI_MakeEdge(ellipse, start, end, first, first + abs(p.sweep))

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


def prisms(
    frame: Frame,
    regions: Sequence[RegionLike],
    start: float,
    end: float,
    step: str,
    check: bool = True,
    way: XYZ | None = None,
) -> list[Solid]:
    """``prism`` over each of several regions. Of those that are the same but for where they lie the first is made, the
    others are copies of it."""
    made: list[Solid] = []
    first: dict[object, tuple[RegionLike, Solid]] = {}
    for region in regions:
        key = _likeness(region)
        if key not in first:
            first[key] = region, prism(frame, region, start, end, step, check, way)
            made.append(first[key][1])
            continue
        other, solid = first[key]
        (ax, ay), (bx, by) = other.outer[0].start, region.outer[0].start
        made.append(placed(solid, moved_by(frame.direction(bx - ax, by - ay)), _of_entities(step, other, region)))
    return made


def _likeness(region: RegionLike) -> object:
    """Equal for regions that are the same, piece for piece in order, but for where they lie, and for nothing else."""
    x, y = region.outer[0].start

    def near(*values: float) -> tuple[float, ...]:
        return tuple(round(v, ALIKE) + 0.0 for v in values)

    def from_start(at: tuple[float, float]) -> tuple[float, ...]:
        return near(at[0] - x, at[1] - y)

    def piece(p: PieceLike) -> object:
        spans = tuple(from_start(at) for span in p.spans for at in span)
        axes = near(*p.axes[0], *p.axes[1]) if p.axes else ()
        curved = (from_start(p.centre), *near(p.radius, p.sweep)) if p.radius or axes else ()
        return from_start(p.start), from_start(p.end), curved, axes, spans

    loops = [tuple(map(piece, loop)) for loop in (region.outer, *region.holes)]
    return tuple(loops), _shared([p.origin for loop in (region.outer, *region.holes) for p in loop])


def _shared(names: list[str]) -> tuple[int, ...]:
    """Which of a list of names are the same: for each, where it comes first."""
    first: dict[str, int] = {}
    return tuple(first.setdefault(n, k) for k, n in enumerate(names))


def _of_entities(step: str, one: RegionLike, other: RegionLike) -> Callable[[Tags], Tags]:
    """The names of a prism's sides for those of a prism over another region like it."""
    theirs, mine = ([p.origin for loop in (r.outer, *r.holes) for p in loop] for r in (one, other))
    names = {f"{step}/side/{a}": f"{step}/side/{b}" for a, b in zip(theirs, mine, strict=True)}

    def renamed(tags: Tags) -> Tags:
        return frozenset(names.get(t, t) for t in tags)

    return renamed


def prism(
    frame: Frame,
    region: RegionLike,
    start: float,
    end: float,
    step: str,
    check: bool = True,
    way: XYZ | None = None,
) -> Solid:
    """The solid over ``region`` from ``start`` to ``end`` (mm along the frame's normal, start < end).

    Faces are tagged ``step/side/entity``, ``step/start`` (on the sketch's side) and ``step/end``.
    ``way``: the direction it leans in, as long as makes 1 mm along the normal. ``check`` only spares a tool whose
    result is checked anyway.
    """
    n = way or frame.normal
    base = Frame(plus(frame.origin, scaled(n, start)), frame.x, frame.y)
    maker = FaceMaker(base)
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
    if check and solid.volume() < 0:
        solid = Solid(solid.shape.Reversed(), tags)
    for f in faces(solid.shape):
        if not tags.get(f):
            raise KernelError("A face of the extrusion has no origin.", "untagged prism face")
    return checked(solid, "extrusion") if check else solid
