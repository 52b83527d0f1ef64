"""Rounding and chamfering edges of tagged solids."""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from dataclasses import dataclass

from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer, BRepFilletAPI_MakeFillet
from OCP.GeomAbs import GeomAbs_Cylinder, GeomAbs_Sphere, GeomAbs_Torus

from .history import carried, corner_names, edge_names, named_rest
from .measure import neighbours
from .shapes import KernelError, Shape, ShapeMap, Solid, checked, faces

CLOSE = 4e-3  # of a size: how near to the largest one that fits is near enough
PATIENCE = 3.0  # seconds


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


def largest(fits: Callable[[float], bool], asked: float) -> float | None:
    """The largest value below ``asked`` that works, to some thousandths; None if nothing down to a five-thousandth of
    it does. First in quarters, since what is far too large takes the kernel longest; where a try takes long it is not
    looked for to the end."""
    until = time.monotonic() + PATIENCE
    high, low = asked, asked / 4
    while not fits(low):
        high, low = low, low / 4
        if low < asked * 2e-4 or time.monotonic() > until:
            return None
    while high - low > CLOSE * low and time.monotonic() < until:
        middle = (low + high) / 2
        if fits(middle):
            low = middle
        else:
            high = middle
    return low


def blend_radius(face: Shape) -> float | None:
    """The radius (mm) of a rolling-ball round: of a cylinder, a sphere, or the tube of a torus; None for others."""
    a = BRepAdaptor_Surface(face)
    kind = a.GetType()
    if kind == GeomAbs_Cylinder:
        return float(a.Cylinder().Radius())
    if kind == GeomAbs_Torus:
        return float(a.Torus().MinorRadius())
    return float(a.Sphere().Radius()) if kind == GeomAbs_Sphere else None
