"""Rounding and chamfering edges of tagged solids."""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from typing import NamedTuple

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.GC import GC_MakeArcOfCircle
from OCP.GeomAbs import GeomAbs_Cylinder, GeomAbs_Sphere, GeomAbs_Torus
from OCP.gp import gp_Pnt, gp_Vec

from .boolean import combine
from .edge_convexity import corner
from .frame import XYZ, dot, plus, scaled, unit
from .history import carried, corner_names, edge_names, named_rest
from .measure import curve, neighbours, surface
from .shapes import KernelError, Shape, ShapeMap, Solid, checked, faces, lies_on, vertices

CLOSE = 4e-3  # of a size: how near to the largest one that fits is near enough
# seconds of tries, of this thread's own work: what else the machine does changes no answer; what is found until then is
# told as what it is
PATIENCE = 3.0


@dataclass(frozen=True)
class Cut:
    """What a chamfer takes off at an edge: ``first`` mm on the face ``on``, and ``second`` mm on the other, or an
    ``angle`` (degrees) measured from the face ``on``."""

    edge: Shape
    first: float
    second: float | None = None
    angle: float | None = None
    on: Shape | None = None


def fillet(solid: Solid, picks: list[tuple[Shape, float]], step: str) -> Solid:
    """A solid with edges rounded, each by its radius (mm) and along with what runs on smoothly from it.

    New faces are tagged ``step/round/<name of the edge>``. Raises KernelError naming what did not work.
    """
    worker = BRepFilletAPI_MakeFillet(solid.shape)
    for edge, radius in picks:
        if not worker.Contour(edge):
            worker.Add(radius, edge)
    if not worker.NbContours():
        raise KernelError("None of these edges can be rounded.")
    try:
        worker.Build()
    except Exception as error:
        raise KernelError("This radius does not fit here.", f"fillet: {error}") from None
    if not worker.IsDone() or worker.NbFaultyContours():
        raise KernelError("This radius does not fit here.", f"{worker.NbFaultyContours()} faulty contours")
    return _named(worker, solid, step, "round")


def rounded_off(solid: Solid, picks: list[tuple[Shape, float]], step: str) -> Solid:
    """Rounds that use up the whole of a face, which the kernel does not make: a bar's end rounded by half its width.

    Done one edge after the other by taking away (outside corners) or filling in (inside ones) what lies between the
    corner and the round, over straight edges between flat faces that end square to them. Raises KernelError where edges
    are others, or where the volume is not that of such rounds.
    """
    at = _straight(solid, [edge for edge, _ in picks])
    names = edge_names(solid)
    made, wanted = solid, solid.volume()
    for (edge, radius), here in zip(picks, at, strict=True):
        half = here.angle / 2
        back = radius / math.tan(half)
        reach = [plus(here.start, scaled(way, back)) for way in here.along]
        middle = scaled(unit(plus(*here.along)), radius / math.sin(half) - radius)
        arc = GC_MakeArcOfCircle(*(gp_Pnt(*p) for p in (reach[0], plus(here.start, middle), reach[1]))).Value()
        tag = f"{step}/round/{names.get(edge) or 'h0'}"
        tool = _over(here, [here.start, *reach], BRepBuilderAPI_MakeEdge(arc).Edge(), tag)
        found = combine("subtract" if here.outside else "union", [made], [tool], "rounding")
        area = radius**2 * (1 / math.tan(half) - (math.pi / 2 - half))
        wanted += (-1 if here.outside else 1) * area * here.length
        if len(found) != 1:
            raise KernelError("This takes the body apart; make it smaller.", f"{len(found)} solids")
        made = found[0]
    if abs(made.volume() - wanted) > 1e-9 * solid.volume():
        raise KernelError("This radius does not fit here.", "rounds overlap")
    return made


@dataclass(frozen=True)
class _Straight:
    """A straight edge of ``length`` mm from ``start`` in the direction ``way``. The two flat faces beside it run
    ``along`` away from it, ``angle`` apart; ``outside``: the material lies between them."""

    start: XYZ
    way: XYZ
    length: float
    along: tuple[XYZ, XYZ]
    angle: float
    outside: bool


def _straight(solid: Solid, picked: list[Shape]) -> list[_Straight]:
    """The edges as straight corners. Raises KernelError for one that is none, or does not end square."""
    sides: ShapeMap[list[int]] = ShapeMap()
    around: ShapeMap[list[int]] = ShapeMap()
    for edge, beside in neighbours(solid):
        sides.put(edge, beside)
        for vertex in vertices(edge):
            around.put(vertex, [*(around.get(vertex) or []), *beside])
    every = faces(solid.shape)
    found = []
    for edge in picked:
        line, beside = curve(edge), sides.get(edge) or []
        planes = [surface(every[i]) for i in beside]
        if line.kind != "line" or len(planes) != 2 or any(p.kind != "plane" for p in planes):
            raise KernelError("This radius does not fit here.", "an edge that is not straight between flat faces")
        ends = {i for v in vertices(edge) for i in around.get(v) or []} - set(beside)
        if any(
            (s := surface(every[i])).kind != "plane" or abs(dot(s.direction, line.direction)) < 1 - 1e-9 for i in ends
        ):
            raise KernelError("This radius does not fit here.", "an edge that does not end square")
        turn = corner(edge, every[beside[0]], every[beside[1]])
        if turn == "smooth":
            raise KernelError("This radius does not fit here.", "a smooth edge")
        n1, n2 = planes[0].direction, planes[1].direction
        out = turn == "outside"
        # along each face away from the corner: against the other face's normal where the material lies between them
        ways = tuple(
            unit(scaled(plus(b, scaled(a, -dot(a, b))), -1.0 if out else 1.0)) for a, b in ((n1, n2), (n2, n1))
        )
        opening = math.acos(max(-1.0, min(1.0, dot(*ways))))
        found.append(_Straight(line.start, line.direction, line.length, ways, opening, out))  # type: ignore[arg-type]
    return found


def _over(at: _Straight, corners: list[XYZ], blunt: Shape, tag: str) -> Solid:
    """The prism along an edge over a section from its corner along both faces to ``blunt``, which gives the face that
    stays."""
    first, one, two = (gp_Pnt(*p) for p in corners)
    sides = [BRepBuilderAPI_MakeEdge(a, b).Edge() for a, b in ((first, one), (two, first))]
    loop = BRepBuilderAPI_MakeWire(sides[0], blunt, sides[1])
    face = BRepBuilderAPI_MakeFace(loop.Wire(), True).Face()
    sweep = BRepPrimAPI_MakePrism(face, gp_Vec(*scaled(at.way, at.length)))
    tags: ShapeMap[frozenset[str]] = ShapeMap()
    for side in faces(sweep.Shape()):
        if surface(side).kind == "cylinder":
            tags.put(side, frozenset({tag}))
    prism = Solid(sweep.Shape(), tags)
    return prism if prism.volume() > 0 else Solid(prism.shape.Reversed(), tags)


def chamfer(solid: Solid, picks: list[Cut], step: str) -> Solid:
    """A solid with edges chamfered. New faces are tagged ``step/chamfer/<name of the edge>``."""
    worker = BRepFilletAPI_MakeChamfer(solid.shape)
    sides: ShapeMap[list[int]] = ShapeMap()
    for edge, at in neighbours(solid):
        sides.put(edge, at)
    every = faces(solid.shape)
    for pick in picks:
        if worker.Contour(pick.edge):
            continue
        on = pick.on or every[(sides.get(pick.edge) or [0])[0]]
        if pick.angle is not None:
            worker.AddDA(pick.first, math.radians(pick.angle), pick.edge, on)
        elif pick.second is not None:
            worker.Add(pick.first, pick.second, pick.edge, on)
        else:
            worker.Add(pick.first, pick.edge)
    if not worker.NbContours():
        raise KernelError("None of these edges can be chamfered.")
    try:
        worker.Build()
    except Exception as error:
        raise KernelError("This chamfer does not fit here.", f"chamfer: {error}") from None
    if not worker.IsDone():
        raise KernelError("This chamfer does not fit here.", "chamfer not done")
    return _named(worker, solid, step, "chamfer")


def _named(worker: BRepFilletAPI_MakeFillet | BRepFilletAPI_MakeChamfer, solid: Solid, step: str, role: str) -> Solid:
    along, at = edge_names(solid), corner_names(solid)

    def name(part: Shape) -> str:
        edge = along.get(part)
        return f"{step}/{role}/{edge}" if edge else f"{step}/corner/{at.get(part) or 'h0'}"

    found = carried(worker, solid, worker.Shape(), name)
    if len(found) != 1:
        raise KernelError("This takes the body apart; make it smaller.", f"{len(found)} solids")
    made = found[0]
    named_rest(made, lambda n: f"{step}/corner/n{n}")
    return checked(Solid(made.shape, made.tags), "chamfer" if role == "chamfer" else "rounding")


def tangent_run(solid: Solid, start: Shape) -> list[Shape]:
    """The edges that run on smoothly from one, itself among them."""
    worker = BRepFilletAPI_MakeFillet(solid.shape)
    worker.Add(1e-3, start)
    if not worker.NbContours():
        return [start]
    return [worker.Edge(1, i) for i in range(1, worker.NbEdges(1) + 1)]


_only_tried: ContextVar[bool] = ContextVar("only_tried", default=False)


@contextmanager
def only_tried() -> Iterator[None]:
    """What does not fit is told at once, without looking for what would: for sizes that are only tried."""
    token = _only_tried.set(True)
    try:
        yield
    finally:
        _only_tried.reset(token)


class Fitting(NamedTuple):
    """What was found of the sizes below one that does not fit."""

    fits: float
    fails: float  # the least one known not to fit
    found: bool  # whether they lie so near each other that the first is as good as the largest


def largest(fits: Callable[[float], bool], asked: float) -> Fitting | None:
    """The largest value below ``asked`` that works, to some thousandths; None if nothing down to a five-thousandth of
    it does. First in quarters, since what is far too large takes the kernel longest; where the tries together take
    longer than ``PATIENCE`` it is not looked for to the end, which what comes back says. Raises KernelError at once
    where nothing is to be looked for (``only_tried``)."""
    if _only_tried.get():
        raise KernelError("This size does not fit here.")
    until = time.thread_time() + PATIENCE
    high, low = asked, asked / 4
    while not fits(low):
        high, low = low, low / 4
        if low < asked * 2e-4 or time.thread_time() > until:
            return None
    while high - low > CLOSE * low and time.thread_time() < until:
        middle = (low + high) / 2
        if fits(middle):
            low = middle
        else:
            high = middle
    return Fitting(low, high, high - low <= CLOSE * low)


def blend_radius(face: Shape) -> float | None:
    """The radius (mm) of a rolling-ball round: of a cylinder, a sphere, or the tube of a torus; None for others."""
    a = lies_on(face)
    kind = a.GetType()
    if kind == GeomAbs_Cylinder:
        return float(a.Cylinder().Radius())
    if kind == GeomAbs_Torus:
        return float(a.Torus().MinorRadius())
    return float(a.Sphere().Radius()) if kind == GeomAbs_Sphere else None
