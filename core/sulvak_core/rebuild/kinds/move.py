"""Bodies moved: what goes in, and the work on the part."""

from __future__ import annotations

from ...solid.place import moved_by, turned
from ...steps.kinds.move import MoveStep
from .. import bodies
from ..context import Context, Report
from ..inputs import angle_of, axis_key, content, length_of


def work(run: Context, step: MoveStep, report: Report) -> None:
    axis = run.pointing().axis(step.axis) if step.axis else None
    by = (length_of(run, step.x), length_of(run, step.y), length_of(run, step.z))
    placing = moved_by(by)
    if axis is not None:
        placing = turned(axis.at, axis.direction, angle_of(run, step.angle)).then(placing)
    own = content(run, step) | {"axis": axis_key(axis)}
    run.kept(own, report, lambda: bodies.move_bodies(step, placing, run.state))
