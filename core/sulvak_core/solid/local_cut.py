"""Cuts that stay clear of all but one or two flat faces: worked out in a block around each, and put into the whole.

The kernel's boolean looks through and rebuilds the whole solid, so a hole in a part with many faces costs as much as
the part. Where a block around the tool holds nothing of the solid's skin but a piece from the middle of one flat face,
or of two that face away from each other, what the tool leaves there is the same as what it leaves of the block itself.
Several tools may be put in at once, if their blocks are clear of each other; what one leaves of its block serves for
all that are copies of it moved aside. Only faces square to the axes are looked at, so that the block is one along the
axes. Everything else is left to the kernel's boolean of the whole.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence
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
from .joining import may_join
from .place import Placing, moved_by, placed
from .shapes import CopyOf, Shape, ShapeMap, Solid, Tags, edges, faces, lies_on, shells, wires

FEW = 24  # faces up to which the boolean of the whole costs as little as one of a block
EACH = 3  # faces that another tool counts for
SAME = 9  # digits after the point, in mm, in which blocks of copies agree
AROUND = 0.01  # mm of the block beyond the tool
STRAIGHT = 1e-12  # how far a normal may lean from an axis
LOCAL = "local cut"  # origins of the block's own faces begin so

Box = NDArray[np.float64]  # least x, y, z and most x, y, z, in mm
Boxes = NDArray[np.float64]  # one such after the other
NO_BOXES = np.zeros((0, 6))


@dataclass(frozen=True)
class _Pierced:
    """A flat face that a tool goes through: square to an axis, its outside ``way`` (±1) along it, ``at`` mm."""

    face: Shape
    axis: int
    way: int
    at: float

    @property
    def name(self) -> str:
        return f"{LOCAL}/{self.axis}/{self.way}"


@dataclass(frozen=True)
class _Left:
    """What a tool leaves of its block: ``pieces`` of the block's faces by their names, and the faces it makes."""

    pieces: dict[str, list[Shape]]
    fresh: list[Shape]
    cut: Solid


def local_cut(body: Solid, tools: Sequence[Solid], subtract: Callable[[Solid, Solid], list[Solid]]) -> Solid | None:
    """``body`` without ``tools``, by ``subtract`` of a block around each; None where that is not enough, or costs more,
    or where the boolean of the whole would try again to join faces far from the cut."""
    if not tools:
        return None
    skin = faces(body.shape)
    origins = [_from(t) for t in tools]
    size = len(skin) + EACH * (len(tools) - 1)
    if FEW * len({(id(of.solid), of.placing.rows) for of in origins}) >= size or len(shells(body.shape)) != 1:
        return None
    around = np.array([np.ravel(box(t.shape)) for t in tools]) + np.array([-AROUND] * 3 + [AROUND] * 3)
    if not _clear_of_each_other(around):
        return None
    walls = _Skin(skin)
    pierced: list[list[_Pierced]] = []
    for one in around:
        found = walls.pierced(one)
        if found is None:
            return None
        pierced.append(found)
    if not body.joined and may_join(body.shape, skin, ()):
        return None
    blocks = np.array([_block(one, found) for one, found in zip(around, pierced, strict=True)])
    if (blocks[:, 3:] - blocks[:, :3]).min() < AROUND:
        return None
    alike = _alike(origins, blocks)
    if FEW * len(alike) >= size:
        return None
    left: dict[int, _Left] = {}
    for group in alike:
        of_each = _of_copies([tools[k] for k in group], [origins[k] for k in group], blocks[group[0]], subtract)
        if of_each is None:
            return None
        left |= zip(group, of_each, strict=True)
    return _put_in(body, skin, [(pierced[k], left[k]) for k in range(len(tools))])


def _alike(origins: list[CopyOf], blocks: Boxes) -> list[list[int]]:
    """Places in the list of those that are one solid, and copies of it moved aside, block and all: together."""
    groups: dict[object, list[int]] = defaultdict(list)
    for k, (of, block) in enumerate(zip(origins, blocks, strict=True)):
        still = tuple(np.round(block - np.tile(of.placing.by, 2), SAME) + 0.0)
        groups[id(of.solid), of.placing.rows, still].append(k)
    return list(groups.values())


def _from(tool: Solid) -> CopyOf:
    """What a tool is a copy of: itself, if of nothing else."""
    of = tool.copy_of
    return of if of and _still(tool, of) else CopyOf(tool, Placing(), None)


def _still(tool: Solid, of: CopyOf) -> bool:
    """Whether a copy still has the origins it was given."""
    mine, theirs = faces(tool.shape), faces(of.solid.shape)
    return len(mine) == len(theirs) and all(
        tool.face_tags(f) == (of.retag(of.solid.face_tags(g)) if of.retag else of.solid.face_tags(g))
        for f, g in zip(mine, theirs, strict=True)
    )


def _clear_of_each_other(around: Boxes) -> bool:
    """Whether none of the boxes touches another."""
    at = around[np.argsort(around[:, 0])]
    for k in range(1, len(at)):
        one, next_one = at[:-k], at[k:]
        if not (next_one[:, 0] <= one[:, 3]).any():
            return True
        if ((next_one[:, :3] <= one[:, 3:]) & (next_one[:, 3:] >= one[:, :3])).all(axis=1).any():
            return False
    return True


def _block(around: Box, pierced: list[_Pierced]) -> Box:
    """The part of a box around a tool that is material: up to the faces the tool goes through."""
    made = around.copy()
    for p in pierced:
        made[p.axis + (3 if p.way > 0 else 0)] = p.at
    return made


def _of_copies(
    tools: list[Solid], origins: list[CopyOf], block: Box, subtract: Callable[[Solid, Solid], list[Solid]]
) -> list[_Left] | None:
    """What tools that are copies of each other leave each of its block, worked out in that of the first."""
    first, of = tools[0], origins[0]
    if len(tools) == 1:  # under its own names, and where it is
        alone = subtract(_named_block(block), first)
        only = _left(alone[0]) if len(alone) == 1 else None
        return [only] if only else None
    plain = Solid(first.shape, ShapeMap(), first._volume, joined=first.joined)
    for face, original in zip(faces(first.shape), faces(of.solid.shape), strict=True):
        plain.tags.put(face, of.solid.face_tags(original))
    made = subtract(_named_block(block), plain)
    if len(made) != 1:
        return None
    found: list[_Left] = []
    for other in origins:
        by = tuple(a - b for a, b in zip(other.placing.by, of.placing.by, strict=True))
        left = _left(placed(made[0], moved_by(by), _names_of_copy(other)))  # type: ignore[arg-type]
        if left is None:
            return None
        found.append(left)
    return found


def _names_of_copy(of: CopyOf) -> Callable[[Tags], Tags]:
    """The copy's names for what comes of the tool, while the block's own faces keep theirs."""

    def names(tags: Tags) -> Tags:
        own = frozenset(t for t in tags if t.startswith(LOCAL))
        return own | (of.retag(tags - own) if of.retag else tags - own)

    return names


def _near(every: Boxes, around: Box) -> NDArray[np.intp]:
    """Places in the list of boxes that touch a box."""
    return np.flatnonzero(((every[:, :3] <= around[3:]) & (every[:, 3:] >= around[:3])).all(axis=1))


class _Skin:
    """The faces of a solid, with what is asked of them for each tool."""

    def __init__(self, skin: list[Shape]) -> None:
        self.skin, self.boxes = skin, boxes(skin)
        self.flat: dict[int, tuple[_Pierced | None, Boxes]] = {}  # and the boxes of the face's edges

    def pierced(self, around: Box) -> list[_Pierced] | None:
        """The faces that a box goes through the middle of: one, or two that face away from each other along an axis.
        None where there are others, or none."""
        found = []
        for k in map(int, _near(self.boxes, around)):
            if k not in self.flat:
                flat = _flat(self.skin[k])
                self.flat[k] = flat, boxes(edges(self.skin[k])) if flat else NO_BOXES
            flat, rim = self.flat[k]
            if flat is None or len(_near(rim, around)):
                return None
            middle = (around[:3] + around[3:]) / 2
            middle[flat.axis] = flat.at
            if BRepClass_FaceClassifier(flat.face, gp_Pnt(*middle), 1e-9).State() == TopAbs_IN:
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


def _named_block(block: Box) -> Solid:
    """A block whose faces are known by the axis they are square to and their side."""
    low, high = block[:3].tolist(), block[3:].tolist()
    made = BRepPrimAPI_MakeBox(gp_Pnt(*low), gp_Pnt(*high)).Solid()
    tags: ShapeMap[Tags] = ShapeMap()
    for face in faces(made):
        flat = _flat(face)
        assert flat is not None
        tags.put(face, frozenset({flat.name}))
    return Solid(made, tags, joined=True)


def _left(made: Solid) -> _Left | None:
    """What is left of a block, taken apart; None where the tool eats one of the block's faces up."""
    pieces: dict[str, list[Shape]] = defaultdict(list)
    fresh: list[Shape] = []
    for face in faces(made.shape):
        tags = made.face_tags(face)
        mine = [t for t in tags if t.startswith(LOCAL)]
        if not mine:
            fresh.append(face)
        elif len(tags) > 1:
            return None  # a face of the tool fell into one with the block's
        else:
            pieces[mine[0]].append(face)
    return _Left(pieces, fresh, made) if len(pieces) == 6 and fresh else None


def _put_in(body: Solid, skin: list[Shape], cuts: list[tuple[list[_Pierced], _Left]]) -> Solid | None:
    """``body`` with what was cut out of the blocks: the new faces, and their outlines as holes in the pierced faces."""
    tags: ShapeMap[Tags] = ShapeMap()
    mains: dict[int, list[Shape]] = defaultdict(list)  # what is left of a block where a pierced face goes through it
    through: dict[int, _Pierced] = {}
    new: list[Shape] = []
    for pierced, left in cuts:
        names = {p.name: p for p in pierced}
        if any(len(found) != 1 for name, found in left.pieces.items() if name not in names):
            return None
        for name, p in names.items():
            main, *islands = _widest_first(left.pieces[name], p.axis)
            mains[id(p.face)].append(main)
            through[id(p.face)] = p
            for island in islands:
                tags.put(island, body.face_tags(p.face))
            new += islands
        for face in left.fresh:
            tags.put(face, left.cut.face_tags(face))
        new += left.fresh
    builder, shell, solid = BRep_Builder(), TopoDS_Shell(), TopoDS_Solid()
    builder.MakeShell(shell)
    for face in skin:
        after = _holed(face, mains[id(face)]) if id(face) in through else face
        tags.put(after, body.face_tags(face))
        builder.Add(shell, after)
    for face in new:
        builder.Add(shell, face)
    shell.Closed(True)
    builder.MakeSolid(solid)
    builder.Add(solid, shell)
    return Solid(solid, tags, joined=all(left.cut.joined for _, left in cuts))


def _widest_first(pieces: list[Shape], axis: int) -> list[Shape]:
    """Pieces of a block's face, what is left of its rim first: it reaches farther across the axis than any island."""
    if len(pieces) == 1:
        return pieces
    found = boxes(pieces)
    return [pieces[k] for k in np.argsort(-np.delete(found[:, 3:] - found[:, :3], axis, axis=1).min(axis=1))]


def _holed(face: Shape, patterns: list[Shape]) -> Shape:
    """``face`` with the holes of others in the same plane that face the same way."""
    builder = BRep_Builder()
    made = TopoDS.Face(face.Oriented(TopAbs_FORWARD).EmptyCopied())
    for wire in wires(face.Oriented(TopAbs_FORWARD)):
        builder.Add(made, wire)
    mine = lies_on(face).Plane()
    for pattern in patterns:
        there = pattern.Oriented(TopAbs_FORWARD)
        outer = BRepTools.OuterWire_s(TopoDS.Face(there))
        theirs = lies_on(pattern).Plane()
        turned = 1 if mine.Direct() == theirs.Direct() else -1
        same = mine.Axis().Direction().Dot(theirs.Axis().Direction()) * turned > 0
        for wire in wires(there):
            if not wire.IsSame(outer):
                builder.Add(made, wire if same else wire.Reversed())
    return TopoDS.Face(made.Oriented(face.Orientation()))
