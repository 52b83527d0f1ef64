"""Where datum steps put their planes, axes and points."""

from __future__ import annotations

import math

from ..solid.frame import XYZ, Frame, cross, dot, on_plane, plus, scaled, unit
from ..solid.measure import Surface
from ..solid.place import turned
from ..steps.kinds.datum import NEEDED, DatumStep
from .resolve import Axis
from .tooling import StepFailure


def plane_of(
    step: DatumStep, plane: Frame | None, other: Frame | None, axis: Axis | None, distance: float, angle: float
) -> Frame:
    """The plane a datum step makes. Raises StepFailure for what is not chosen or cannot be."""
    if plane is None:
        raise StepFailure("Choose the plane this datum is made from: a datum plane, or a flat face.", pick="plane")
    if step.form == "offset":
        return Frame(plus(plane.origin, scaled(plane.normal, distance)), plane.x, plane.y)
    if step.form == "angled":
        if axis is None:
            raise StepFailure("Choose the axis to turn about: a straight edge, or an axis.", pick="axis")
        if abs(dot(axis.direction, plane.normal)) > 1e-9:
            raise StepFailure("The axis has to run alongside the plane that is turned about it. Choose another.")
        about = turned(axis.at, axis.direction, angle)
        n = unit(about.direction(plane.normal))
        return on_plane(about.point(_foot(axis.at, plane)), n)
    if other is None:
        raise StepFailure("Choose the second plane.", pick="plane")
    return _middle(plane, other)


def counted(step: DatumStep) -> None:
    """Raises StepFailure unless a datum step has as many points as its form takes."""
    need = NEEDED.get(step.form, 0)
    if need and len(step.corners) != need:
        words = {1: "one point", 2: "two points", 3: "three points"}[need]
        raise StepFailure(
            f"This datum takes {words}: press corners of the part, or rims of holes for their middles.", pick="corners"
        )


def through(corners: list[XYZ]) -> Frame:
    """The plane through three places. Raises StepFailure when they lie in one line."""
    a, b, c = corners
    n = cross(plus(b, scaled(a, -1.0)), plus(c, scaled(a, -1.0)))
    size = math.sqrt(dot(n, n))
    if size < 1e-9 * max(1.0, math.dist(a, b) * math.dist(a, c)):
        raise StepFailure("These three points lie in one line, so no one plane goes through them. Press another.")
    return on_plane(a, scaled(n, 1 / size))


def touching(plane: Frame, face: Surface, far: bool) -> Frame:
    """The plane alongside ``plane`` that touches a cylinder. Raises StepFailure for other faces, or when the
    cylinder does not lie alongside."""
    if face.kind != "cylinder":
        raise StepFailure("A plane touches a round face: press the wall of a cylinder.", pick="face")
    if abs(dot(face.direction, plane.normal)) > 1e-9:
        raise StepFailure("The round face has to run alongside the plane. Press another, or take another plane.")
    reach = -face.radius if far else face.radius
    off = dot(plus(face.at, scaled(plane.origin, -1.0)), plane.normal) + reach
    return Frame(plus(plane.origin, scaled(plane.normal, off)), plane.x, plane.y)


def _foot(at: XYZ, plane: Frame) -> XYZ:
    """The place in a plane square under a point."""
    off = dot(plus(at, scaled(plane.origin, -1.0)), plane.normal)
    return plus(at, scaled(plane.normal, -off))


def _middle(one: Frame, two: Frame) -> Frame:
    n, m = one.normal, two.normal
    if dot(n, m) < 0:
        m = scaled(m, -1.0)
    if abs(dot(n, m)) > 1 - 1e-12:
        gap = dot(plus(two.origin, scaled(one.origin, -1.0)), n)
        return Frame(plus(one.origin, scaled(n, gap / 2)), one.x, one.y)
    line = crossing(one, two)
    return on_plane(line.at, unit(plus(n, m)))


def crossing(one: Frame, two: Frame) -> Axis:
    """The line in which two planes cross. Raises StepFailure when they run alongside each other."""
    n, m = one.normal, two.normal
    along = cross(n, m)
    size = math.sqrt(dot(along, along))
    if size < 1e-9:
        raise StepFailure("These planes run alongside each other and never cross. Choose others.", pick="plane")
    a, b = dot(one.origin, n), dot(two.origin, m)
    c = dot(n, m)
    k = 1 - c * c
    at = plus(scaled(n, (a - b * c) / k), scaled(m, (b - a * c) / k))
    return Axis(at, scaled(along, 1 / size))


def joining(one: XYZ, two: XYZ) -> Axis:
    """The line through two places. Raises StepFailure when they are one."""
    way = plus(two, scaled(one, -1.0))
    if math.dist(one, two) < 1e-6:
        raise StepFailure("These two points lie in one place, so no axis goes through them. Press another.")
    return Axis(one, unit(way))


def meeting(axis: Axis, plane: Frame) -> XYZ:
    """Where an axis goes through a plane. Raises StepFailure when it runs alongside."""
    down = dot(axis.direction, plane.normal)
    if abs(down) < 1e-9:
        raise StepFailure("The axis runs alongside the plane and never goes through it. Choose others.", pick="plane")
    off = dot(plus(plane.origin, scaled(axis.at, -1.0)), plane.normal)
    return plus(axis.at, scaled(axis.direction, off / down))
