"""Letters on faces: what goes in, and the work on the part."""

from __future__ import annotations

from ...part.errors import Offers
from ...solid.place import Placing, placed
from ...solid.shapes import Solid
from ...steps.kinds.text import TextStep
from .. import text as lettering
from ..context import Context, Report
from ..inputs import angle_of, content, length_of
from ..state import State
from ..tooling import Done, StepFailure, Tooling, used


def work(run: Context, step: TextStep, report: Report) -> None:
    if step.face is None:
        raise StepFailure("Press the face the text stands on.", pick="face")
    height, depth, x, y = (length_of(run, text) for text in (step.height, step.depth, step.x, step.y))
    sizes = lettering.Sizes(height, depth, x, y, angle_of(run, step.angle))
    body, face = run.pointing().face(step.face)
    on = [run.state.bodies[body]]
    operation = "cut" if step.operation == "engrave" else "add"

    def make(placing: Placing | None, state: State | None) -> list[Solid]:
        made = lettering.tools(step, sizes, face)
        return [placed(m, placing) for m in made] if placing else made

    def work() -> Done:
        beside = StepFailure(
            "Letters lie beside the material here: the middle of the face may be a hole. Move the text, make it "
            "smaller, or press another face.",
            field="x",
        )

        def missed() -> Offers:
            raise beside

        done = used(step.id, operation, run.state, on, make(None, None), missed)
        if len(done.state.bodies) > len(run.state.bodies):  # raised letters that stand on nothing
            raise beside
        return done

    run.tooling[step.id] = Tooling(operation, [on[0].id], make)
    run.kept(content(run, step), report, work)
