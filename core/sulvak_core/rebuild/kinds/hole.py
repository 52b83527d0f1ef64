"""Holes: what goes in, and the work on the part."""

from __future__ import annotations

from ...solid.place import Placing
from ...solid.shapes import Solid
from ...steps.kinds.hole import HoleStep
from .. import hole as drilling
from ..context import Context, Report
from ..inputs import angle_of, content, frame_key, length_of
from ..state import State
from ..tooling import StepFailure, Tooling, targets


def work(run: Context, step: HoleStep, report: Report) -> None:
    _, sketch, frame = run.source(step.sketch)
    if drilling.size_of(step) is None and length_of(run, step.diameter) <= 0:
        raise StepFailure("A diameter is more than zero.", field="diameter")
    if step.end == "blind" and length_of(run, step.depth) <= 0:
        raise StepFailure("A depth is more than zero; to go the other way, turn it round.", field="depth")
    sizes = drilling.Sizes(
        length_of(run, step.diameter),
        length_of(run, step.depth),
        angle_of(run, step.tip_angle),
        length_of(run, step.bore_diameter),
        length_of(run, step.bore_depth),
        length_of(run, step.sink_diameter),
        angle_of(run, step.sink_angle),
        length_of(run, step.thread_depth) if step.thread_depth and step.form == "tapped" else None,
    )
    before = run.state

    def make(placing: Placing | None, state: State | None) -> list[Solid]:
        if state is None or placing is None or placing.mirrors:
            return drilling.again(drilling.tools(step, sizes, frame, sketch, targets(before, step.bodies)), placing)
        here = {b.id for b in state.bodies}
        on = [b for b in state.bodies if step.bodies is None or b.id in set(step.bodies) & here]
        return drilling.tools(step, sizes, placing.frame(frame), sketch, on)

    run.tooling[step.id] = Tooling("cut", step.bodies, make)
    own = content(run, step) | {"frame": frame_key(frame), "places": drilling.places(step, sketch)}
    run.kept(own, report, lambda: drilling.hole(step, sizes, frame, sketch, run.state))
