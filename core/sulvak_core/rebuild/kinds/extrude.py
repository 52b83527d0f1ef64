"""Extrusions and cuts: what goes in, and the work on the part."""

from __future__ import annotations

from ...solid.measure import surface
from ...steps.kinds.extrude import ExtrudeStep, ToFace
from .. import extrude as extruding
from ..context import Context, Report
from ..inputs import angle_of, content, drawn_key, frame_key, length_of
from ..tooling import StepFailure, Tooling


def work(run: Context, step: ExtrudeStep, report: Report) -> None:
    source, sketch, frame = run.source(step.sketch)
    extent = step.extent
    depth = length_of(run, extent.depth) if hasattr(extent, "depth") else None
    back = length_of(run, extent.back) if hasattr(extent, "back") else 0.0
    if (depth is not None and depth <= 0) or back < 0:
        raise StepFailure("A depth is more than zero; to go the other way, turn it round.", field="depth")
    wall = length_of(run, step.wall) if step.wall else None
    if wall is not None and wall <= 0:
        raise StepFailure("A wall's thickness is more than zero.", field="wall")
    taper = angle_of(run, step.taper)
    if abs(taper) > 89:
        raise StepFailure("A taper is less than 89°.", field="taper")
    reached = surface(run.pointing().face(extent.face)[1]) if isinstance(extent, ToFace) else None
    offset = length_of(run, extent.offset) if isinstance(extent, ToFace) else 0.0
    inputs = extruding.Inputs(
        frame,
        lambda: run.profile(step.sketch, sketch),
        sketch,
        run.on_face(source),
        depth,
        back,
        offset,
        taper,
        wall,
        reached,
        extruding.leaning(run.pointing().axis(step.along).direction, frame) if step.along else None,
    )
    before = run.state
    run.tooling[step.id] = Tooling(
        step.operation, step.bodies, lambda p, s: extruding.again(step, inputs, before, p, s)
    )
    own = content(run, step) | {
        "frame": frame_key(frame),
        "on_face": inputs.on_face,
        "way": inputs.way,
        "sketch": drawn_key(run, sketch),
    }
    run.kept(own, report, lambda: extruding.extrude(step, inputs, run.state))
