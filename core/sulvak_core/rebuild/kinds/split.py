"""Bodies parted: what goes in, and the work on the part."""

from __future__ import annotations

from ...steps.kinds.split import SplitStep
from .. import bodies
from ..context import Context, Report
from ..inputs import content, drawn_key, frame_key
from ..tooling import StepFailure


def work(run: Context, step: SplitStep, report: Report) -> None:
    if step.by == "sketch":
        if step.outline is None:
            raise StepFailure("Choose the sketch whose outline parts the bodies.", pick="outline")
        _, sketch, frame = run.source(step.outline)
        own = content(run, step) | {"frame": frame_key(frame), "sketch": drawn_key(run, sketch)}
        run.kept(own, report, lambda: bodies.split_along(step, frame, sketch, run.state))
        return
    if step.by == "face":
        if step.face is None:
            raise StepFailure("Choose the face that parts the bodies.", pick="face")
        face = run.pointing().face(step.face)[1]
        run.kept(content(run, step), report, lambda: bodies.split_at(step, face, run.state))
        return
    if step.plane is None:
        raise StepFailure("Choose the plane that parts the bodies.", pick="plane")
    plane = run.pointing().frame(step.plane, "splitting plane")
    own = content(run, step) | {"plane": frame_key(plane)}
    run.kept(own, report, lambda: bodies.split_bodies(step, plane, run.state))
