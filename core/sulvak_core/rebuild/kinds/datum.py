"""Datum planes, axes and points: what goes in, and the work on the part."""

from __future__ import annotations

from ...solid.frame import XYZ, Frame, plus, scaled
from ...solid.measure import surface
from ...steps.kinds.datum import AXES, NEEDED, POINTS, DatumStep
from .. import datums
from ..context import Context, Report
from ..inputs import angle_of, length_of
from ..resolve import Axis
from ..tooling import StepFailure


def work(run: Context, step: DatumStep, report: Report) -> None:
    if step.form in POINTS:
        at = run.guides.points[step.id] = _point_of(run, step)
        report.extra = {"point": at}
    elif step.form in AXES:
        found = run.guides.axes[step.id] = _axis_of(run, step)
        report.extra = {"axis": {"at": found.at, "direction": found.direction}}
    else:
        made = run.guides.planes[step.id] = _plane_of(run, step)
        report.frame = {"origin": made.origin, "x": made.x, "y": made.y, "normal": made.normal}


def _points_of(run: Context, step: DatumStep) -> list[XYZ]:
    """Where the points a datum is made from are; none are looked for where its form takes none."""
    datums.counted(step)
    return [run.pointing().point(c) for c in step.corners] if step.form in NEEDED else []


def _plane_of(run: Context, step: DatumStep) -> Frame:
    pointing = run.pointing()
    points = _points_of(run, step)
    if step.form == "points":
        return datums.through(points)
    plane = pointing.frame(step.plane) if step.plane else None
    if step.form == "tangent":
        if plane is None or step.face is None:
            raise StepFailure("Choose a plane, and the round face to touch.", pick="face" if plane else "plane")
        return datums.touching(plane, surface(pointing.face(step.face)[1]), step.reverse)
    if step.form == "alongside" and plane is not None:
        return Frame(points[0], plane.x, plane.y)
    other = pointing.frame(step.other) if step.other else None
    axis = pointing.axis(step.axis) if step.axis else None
    return datums.plane_of(step, plane, other, axis, length_of(run, step.distance), angle_of(run, step.angle))


def _axis_of(run: Context, step: DatumStep) -> Axis:
    pointing = run.pointing()
    points = _points_of(run, step)
    if step.form == "axis":
        if step.axis is None:
            raise StepFailure("Choose what the axis runs along: a straight or round edge, or a face.", pick="axis")
        return pointing.axis(step.axis)
    if step.form == "joining":
        return datums.joining(*points)
    if step.plane is None:
        raise StepFailure("Choose the plane: a flat face, or a datum plane.", pick="plane")
    plane = pointing.frame(step.plane)
    if step.form == "square":
        return Axis(points[0], plane.normal)
    if step.other is None:
        raise StepFailure("Choose the other plane that crosses the first in the axis.", pick="other")
    return datums.crossing(plane, pointing.frame(step.other))


def _point_of(run: Context, step: DatumStep) -> XYZ:
    pointing = run.pointing()
    points = _points_of(run, step)
    if step.form == "point":
        return points[0]
    if step.form == "between":
        return scaled(plus(*points), 0.5)
    if step.axis is None:
        raise StepFailure("Choose a round edge or an axis: press it on the part.", pick="axis")
    if step.form == "centre":
        return pointing.centre(step.axis)
    if step.plane is None:
        raise StepFailure("Choose the plane the axis goes through.", pick="plane")
    return datums.meeting(pointing.axis(step.axis), pointing.frame(step.plane))
