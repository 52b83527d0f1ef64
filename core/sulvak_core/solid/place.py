"""Solids moved, turned and mirrored."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.gp import gp_Trsf

from .frame import XYZ, Frame, cross, dot, plus, scaled, unit
from .shapes import CopyOf, Shape, ShapeMap, Solid, Tags, faces

Rows = tuple[XYZ, XYZ, XYZ]
SAME: Rows = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))


@dataclass(frozen=True)
class Placing:
    """A motion or a mirroring: a point p goes to ``rows`` · p + ``by`` (mm)."""

    rows: Rows = SAME
    by: XYZ = (0.0, 0.0, 0.0)

    def point(self, p: XYZ) -> XYZ:
        return plus(self.direction(p), self.by)

    def direction(self, d: XYZ) -> XYZ:
        return (dot(self.rows[0], d), dot(self.rows[1], d), dot(self.rows[2], d))

    @property
    def mirrors(self) -> bool:
        return dot(cross(self.rows[0], self.rows[1]), self.rows[2]) < 0

    def frame(self, f: Frame) -> Frame:
        """A plane moved along; of a mirrored one the axes are left-handed, so its normal points the other way."""
        return Frame(self.point(f.origin), self.direction(f.x), self.direction(f.y))

    def then(self, other: Placing) -> Placing:
        columns = [other.direction((r[0], r[1], r[2])) for r in zip(*self.rows, strict=True)]
        rows = tuple(tuple(c[i] for c in columns) for i in range(3))
        return Placing(rows, other.point(self.by))  # type: ignore[arg-type]


def moved_by(by: XYZ) -> Placing:
    return Placing(by=by)


def turned(at: XYZ, axis: XYZ, degrees: float) -> Placing:
    """Right-handed about an axis through ``at`` (Rodrigues' formula)."""
    n, a = unit(axis), math.radians(degrees)
    c, s = math.cos(a), math.sin(a)
    if degrees % 90 == 0:  # exactly, so that quarter turns lose nothing
        c, s = float(round(c)), float(round(s))
    k = 1 - c
    x, y, z = n
    rows: Rows = (
        (c + x * x * k, x * y * k - z * s, x * z * k + y * s),
        (y * x * k + z * s, c + y * y * k, y * z * k - x * s),
        (z * x * k - y * s, z * y * k + x * s, c + z * z * k),
    )
    still = Placing(rows)
    return Placing(rows, plus(at, scaled(still.direction(at), -1.0)))


def mirrored(at: XYZ, normal: XYZ) -> Placing:
    """On the other side of a plane through ``at``."""
    n = unit(normal)
    rows: Rows = tuple(  # type: ignore[assignment]
        tuple((1.0 if i == j else 0.0) - 2 * n[i] * n[j] for j in range(3)) for i in range(3)
    )
    return Placing(rows, scaled(n, 2 * dot(at, n)))


def placed(solid: Solid, placing: Placing, retag: Callable[[Tags], Tags] | None = None) -> Solid:
    """A copy of a solid elsewhere. ``retag`` gives its faces new origins from those they had."""
    t = gp_Trsf()
    (a, b, c), (d, e, f), (g, h, i) = placing.rows
    x, y, z = placing.by
    t.SetValues(a, b, c, x, d, e, f, y, g, h, i, z)
    worker = BRepBuilderAPI_Transform(solid.shape, t, True)
    shape: Shape = worker.Shape()
    tags: ShapeMap[Tags] = ShapeMap()
    for face in faces(solid.shape):
        mine = solid.face_tags(face)
        tags.put(worker.ModifiedShape(face), retag(mine) if retag else mine)
    return Solid(shape, tags, solid.volume(), joined=solid.joined, copy_of=_copied(solid, placing, retag))


def _copied(solid: Solid, placing: Placing, retag: Callable[[Tags], Tags] | None) -> CopyOf:
    """Where a copy of a solid came from: of a copy, what that was a copy of."""
    of = solid.copy_of
    if of is None:
        return CopyOf(solid, placing, retag)
    first = of.retag
    both = (lambda tags: retag(first(tags))) if retag and first else retag or first
    return CopyOf(of.solid, of.placing.then(placing), both)
