"""Steps, faces and bodies repeated or mirrored: what goes in, and the work on the part."""

from __future__ import annotations

from ...solid.place import Placing
from ...solid.shapes import Shape, Solid
from ...steps.kinds.pattern import PatternStep
from .. import pattern as repeating
from ..context import Context, Report
from ..inputs import angle_of, axis_key, content, frame_key, length_of, whole_of
from ..state import State
from ..tooling import StepFailure, Tooling


def work(run: Context, step: PatternStep, report: Report) -> None:
    pointing = run.pointing()
    rows = step.form == "linear"
    layout = repeating.Layout(
        pointing.axis(step.along) if step.along and step.form != "mirror" else None,
        whole_of(run, step.count, "count"),
        length_of(run, step.spacing),
        pointing.axis(step.second) if step.second and rows else None,
        whole_of(run, step.second_count, "second_count"),
        length_of(run, step.second_spacing),
        angle_of(run, step.angle),
        pointing.frame(step.plane, "mirror plane") if step.plane and step.form == "mirror" else None,
    )
    for ident in step.of:
        n = run.document.position(ident)
        if run.broken.get(ident):
            raise StepFailure(f"Step {n} is {run.broken[ident]}, so it cannot be repeated; put that right first.")
        if ident not in run.tooling:
            raise StepFailure(
                f"Step {n} treats what is there and cannot be repeated by itself; repeat what it was done to, or the "
                "body.",
                pick="steps",
            )
    tooling = {i: run.tooling[i] for i in step.of}
    own = content(run, step) | {
        "along": axis_key(layout.along),
        "second": axis_key(layout.second),
        "plane": frame_key(layout.plane),
        "of": step.of,
    }

    def make(placing: Placing | None, state: State | None) -> list[Solid]:
        made: list[Solid] = []
        for ident in step.of:
            for _, place in repeating.copies(step, layout):
                made += tooling[ident].make(place.then(placing) if placing else place, state)
        return made

    faces: dict[int, list[Shape]] = {}
    for body, face in pointing.faces(step.faces):
        faces.setdefault(body, []).append(face)
    operations = {tooling[i].operation for i in step.of}
    if len(operations) == 1 and not step.bodies and not faces:
        run.tooling[step.id] = Tooling(operations.pop(), None, make)
    run.kept(own, report, lambda: repeating.pattern(step, layout, tooling, faces, run.state))
