"""Revolved bodies and cuts: what goes in, and the work on the part."""

from __future__ import annotations

from ...solid.place import Placing
from ...solid.shapes import Solid
from ...steps.kinds.revolve import RevolveStep
from .. import revolve as revolving
from ..context import Context, Report
from ..inputs import angle_of, axis_key, content, drawn_key, frame_key
from ..state import State
from ..tooling import Tooling


def work(run: Context, step: RevolveStep, report: Report) -> None:
    _, sketch, frame = run.source(step.sketch)
    axis, angle = run.pointing().axis(step.axis), angle_of(run, step.angle)
    region = run.profile(step.sketch, sketch)

    def make(placing: Placing | None, state: State | None) -> list[Solid]:
        return revolving.again(revolving.tools(step, frame, region, axis, angle), placing)

    run.tooling[step.id] = Tooling(step.operation, step.bodies, make)
    own = content(run, step) | {"frame": frame_key(frame), "axis": axis_key(axis), "sketch": drawn_key(run, sketch)}
    run.kept(own, report, lambda: revolving.revolve(step, frame, region, axis, angle, run.state))
