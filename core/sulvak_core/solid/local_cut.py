"""A cut that stays clear of all but one or two flat faces: worked out in a block around it, and put into the whole.

The kernel's boolean looks through and rebuilds the whole solid, so a hole in a part with many faces costs as much as
the part. Where a block around the tool holds nothing of the solid's skin but a piece from the middle of one flat face,
or of two that face away from each other, what the tool leaves there is the same as what it leaves of the block itself.
Only faces square to the axes are looked at, so that the block is one along the axes. Everything else is left to the
kernel's boolean of the whole.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Builder
from OCP.BRepClass import BRepClass_FaceClassifier
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_Plane
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_FORWARD, TopAbs_IN, TopAbs_REVERSED
from OCP.TopoDS import TopoDS, TopoDS_Shell, TopoDS_Solid

from .extent import box, boxes
from .shapes import Shape, ShapeMap, Solid, Tags, edges, faces, lies_on, shells, wires

FEW = 24  # faces up to which the boolean of the whole costs as little
AROUND = 0.01  # mm of the block beyond the tool
STRAIGHT = 1e-12  # how far a normal may lean from an axis
LOCAL = "local cut"  # origins of the block's own faces begin so

Box = NDArray[np.float64]  # least x, y, z and most x, y, z, in mm


@dataclass(frozen=True)
class _Pierced:
    """A flat face that a tool goes through: square to an axis, its outside ``way`` (±1) along it, ``at`` mm."""

    face: Shape
    axis: int
    way: int
    at: float


def local_cut(body: Solid, tool: Solid, subtract: Callable[[Solid, Solid], list[Solid]]) -> Solid | None:
    """``body`` without ``tool``, by ``subtract`` of a block around the tool; None where that is not enough, or where
    the boolean of the whole would try again to join faces far from the cut."""
    if not body.joined:
        return None
    skin = faces(body.shape)
    if len(skin) <= FEW or len(shells(body.shape)) != 1:
        return None
    around = np.array(box(tool.shape)).ravel() + np.array([-AROUND] * 3 + [AROUND] * 3)
    pierced = _pierced(skin, around)
    if pierced is None:
        return None
    low, high = around[:3].copy(), around[3:].copy()
    for p in pierced:
        (high if p.way > 0 else low)[p.axis] = p.at
    if (high - low).min() < AROUND:
        return None
    cut = subtract(_named_block(low, high), tool)
    return _put_in(body, skin, pierced, cut[0]) if len(cut) == 1 else None


def _near(of: list[Shape], around: Box) -> NDArray[np.intp]:
    """Places in the list of the faces or edges whose boxes touch a box."""
    every = boxes(of)
    return np.flatnonzero(((every[:, :3] <= around[3:]) & (every[:, 3:] >= around[:3])).all(axis=1))


def _pierced(skin: list[Shape], around: Box) -> list[_Pierced] | None:
    """The faces of a solid that a box goes through the middle of: one, or two that face away from each other along an
    axis. None where there are others, or none."""
    found = []
    for k in _near(skin, around):
        flat = _flat(skin[k])
        if flat is None or len(_near(edges(skin[k]), around)):
            return None
        middle = (around[:3] + around[3:]) / 2
        middle[flat.axis] = flat.at
        if BRepClass_FaceClassifier(skin[k], gp_Pnt(*middle), 1e-9).State() == TopAbs_IN:
            found.append(flat)
    if len(found) == 2:
        one, two = found
        away = one.axis == two.axis and one.way == -two.way and (one.at - two.at) * one.way > 0
        return found if away else None
    return found if len(found) == 1 else None


def _flat(face: Shape) -> _Pierced | None:
    """A face that is flat and square to an axis."""
    surface = lies_on(face)
    if surface.GetType() != GeomAbs_Plane:
        return None
    plane = surface.Plane()
    turned = (-1 if face.Orientation() == TopAbs_REVERSED else 1) * (1 if plane.Direct() else -1)
    normal = plane.Axis().Direction()
    along = np.array([normal.X(), normal.Y(), normal.Z()])
    axis = int(np.abs(along).argmax())
    if abs(abs(along[axis]) - 1.0) > STRAIGHT or np.abs(np.delete(along, axis)).max() > STRAIGHT:
        return None
    at = plane.Location()
    return _Pierced(face, axis, turned * (1 if along[axis] > 0 else -1), (at.X(), at.Y(), at.Z())[axis])


def _named_block(low: Box, high: Box) -> Solid:
    """A block whose faces are known by the axis they are square to and their side."""
    made = BRepPrimAPI_MakeBox(gp_Pnt(*low.tolist()), gp_Pnt(*high.tolist())).Solid()
    tags: ShapeMap[Tags] = ShapeMap()
    for face in faces(made):
        flat = _flat(face)
        assert flat is not None
        tags.put(face, frozenset({f"{LOCAL}/{flat.axis}/{flat.way}"}))
    return Solid(made, tags, joined=True)


def _put_in(body: Solid, skin: list[Shape], pierced: list[_Pierced], cut: Solid) -> Solid | None:
    """``body`` with what was cut out of the block: the new faces, and their outlines as holes in the pierced faces."""
    own: dict[str, list[Shape]] = {}
    fresh: list[Shape] = []
    for face in faces(cut.shape):
        mine = {t for t in cut.face_tags(face) if t.startswith(LOCAL)}
        if not mine:
            fresh.append(face)
        elif len(mine) > 1 or mine != cut.face_tags(face):
            return None  # a face of the tool fell into one with the block's
        else:
            own.setdefault(mine.pop(), []).append(face)
    names = {f"{LOCAL}/{p.axis}/{p.way}": p for p in pierced}
    if any(len(found) != 1 for name, found in own.items() if name not in names) or len(own) != 6 or not fresh:
        return None
    tags: ShapeMap[Tags] = ShapeMap()
    after: dict[int, Shape] = {}  # what becomes of the pierced faces
    islands: list[Shape] = []
    for name, p in names.items():
        main, *rest = sorted(own[name], key=lambda f: -_width(f, p.axis))
        holed = _holed(p.face, main)
        after[id(p.face)] = holed
        tags.put(holed, body.face_tags(p.face))
        for island in rest:
            tags.put(island, body.face_tags(p.face))
        islands += rest
    builder, shell, solid = BRep_Builder(), TopoDS_Shell(), TopoDS_Solid()
    builder.MakeShell(shell)
    for face in (*(after.get(id(f), f) for f in skin), *islands, *fresh):
        builder.Add(shell, face)
        if tags.get(face) is None:
            tags.put(face, body.face_tags(face) or cut.face_tags(face))
    shell.Closed(True)
    builder.MakeSolid(solid)
    builder.Add(solid, shell)
    return Solid(solid, tags, joined=cut.joined)


def _width(face: Shape, axis: int) -> float:
    """How far a face reaches across its axis: more than any island in it does."""
    (found,) = boxes([face])
    return float(np.delete(found[3:] - found[:3], axis).min())


def _holed(face: Shape, pattern: Shape) -> Shape:
    """``face`` with the holes of another in the same plane that faces the same way."""
    there = pattern.Oriented(TopAbs_FORWARD)
    outer = BRepTools.OuterWire_s(TopoDS.Face(there))
    one, two = (lies_on(f).Plane() for f in (face, pattern))
    same = one.Axis().Direction().Dot(two.Axis().Direction()) * (1 if one.Direct() == two.Direct() else -1) > 0
    builder = BRep_Builder()
    made = TopoDS.Face(face.Oriented(TopAbs_FORWARD).EmptyCopied())
    for wire in wires(face.Oriented(TopAbs_FORWARD)):
        builder.Add(made, wire)
    for wire in wires(there):
        if not wire.IsSame(outer):
            builder.Add(made, wire if same else wire.Reversed())
    return TopoDS.Face(made.Oriented(face.Orientation()))
