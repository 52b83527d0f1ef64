"""Ribs: what goes in, and the work on the part."""

from __future__ import annotations

from dataclasses import replace

from ...part.errors import Change
from ...sketch.curves import Piece
from ...sketch.model import Sketch
from ...sketch.walls import chains, heading, wall_region
from ...solid.boolean import combine
from ...solid.extent import box
from ...solid.frame import Frame, plus, scaled
from ...solid.measure import inside
from ...solid.place import Placing
from ...solid.prism import prism
from ...solid.shapes import Solid
from ...steps.kinds.rib import RibStep
from ..context import Context, Report
from ..extrude import ordered
from ..inputs import content, drawn_key, frame_key, length_of
from ..state import Body, State
from ..tooling import StepFailure, Tooling, targets, used


def work(run: Context, step: RibStep, report: Report) -> None:
    _, sketch, frame = run.source(step.sketch)
    thickness = length_of(run, step.thickness)
    if thickness <= 0:
        raise StepFailure("A rib's thickness is more than zero.", field="thickness")
    before = run.state

    def make(placing: Placing | None, state: State | None) -> list[Solid]:
        there = frame if placing is None else placing.frame(frame)
        return ribs(step, sketch, there, thickness, targets(state or before, step.bodies))

    run.tooling[step.id] = Tooling("add", step.bodies, make)
    own = content(run, step) | {"frame": frame_key(frame), "sketch": drawn_key(run, sketch)}
    on = targets(before, step.bodies)
    run.kept(own, report, lambda: used(step.id, "add", before, on, ribs(step, sketch, frame, thickness, on)))


def ribs(step: RibStep, sketch: Sketch, frame: Frame, thickness: float, bodies: list[Body]) -> list[Solid]:
    """The ribs along a sketch's open chains, up to where they meet ``bodies``. Raises StepFailure."""
    if not bodies:
        raise StepFailure("There is nothing yet for a rib to meet; build the body first.")
    lines = chains(sketch)
    if not lines:
        raise StepFailure("A rib runs along an open line or chain in its sketch; there is none.")
    far = _farther(frame, lines, bodies)
    made = []
    for line in lines:
        whole = _up_to(step, frame, line, _lengthened(line, far), thickness, far, bodies)
        ends = {f"{step.id}/end", *(f"{step.id}/side/{end}" for end in ("tp", "tq"))}
        if ends & _origins(whole):
            _meets_below(step, frame, line, thickness, far, bodies)
            raise StepFailure(
                "The rib runs past the part at an end of its line. End the line where it points at a wall.",
                needs=step.sketch,
            )
        made.append(whole)
    return made


def _up_to(
    step: RibStep, frame: Frame, line: list[Piece], longer: list[Piece], thickness: float, far: float, on: list[Body]
) -> Solid:
    """What the middle of a line lies on of a wall along ``longer``, ``far`` mm deep, that the bodies cut up."""
    start, end = (0.0, far) if step.reverse else (-far, 0.0)
    outline = wall_region(longer, thickness / 2, thickness / 2)
    wall = ordered(step.id, [prism(frame, outline, start, end, step.id)], start, end)
    deep = (1.0 if step.reverse else -1.0) * min(0.01, thickness / 100)
    at = plus(frame.point(*line[len(line) // 2].middle()), scaled(frame.normal, deep))
    for piece in combine("subtract", wall, [b.solid for b in on], "rib"):
        if inside(piece.shape, at):
            return piece
    raise StepFailure("The line of this rib lies inside the part; draw it where there is room.", needs=step.sketch)


def _meets_below(step: RibStep, frame: Frame, line: list[Piece], thickness: float, far: float, on: list[Body]) -> None:
    """Raises StepFailure where a rib no longer than its line meets nothing in its direction."""
    if f"{step.id}/end" in _origins(_up_to(step, frame, line, line, thickness, far, on)):
        turn: Change = {"label": "Turn round", "changes": {"reverse": not step.reverse}}
        raise StepFailure("The rib meets nothing in this direction. Turn it round, or move its line.", offer=turn)


def _origins(solid: Solid) -> set[str]:
    return {tag for _, tags in solid.tags.items() for tag in tags}


def _farther(frame: Frame, lines: list[list[Piece]], bodies: list[Body]) -> float:
    """More mm than from any place of the lines to any of the bodies."""
    places = [corner for b in bodies for corner in box(b.shape)] + [frame.point(*p.start) for c in lines for p in c]
    return 2.0 * sum(max(p[i] for p in places) - min(p[i] for p in places) for i in range(3)) + 1.0


def _lengthened(line: list[Piece], by: float) -> list[Piece]:
    """A chain that runs straight on for ``by`` mm at both ends."""
    first, last = line[0], line[-1]
    (ax, ay), (bx, by_) = heading(first, False), heading(last, True)
    start = (first.start[0] - by * ax, first.start[1] - by * ay)
    end = (last.end[0] + by * bx, last.end[1] + by * by_)
    longer = list(line)
    if first.straight:
        longer[0] = replace(first, start=start)
    else:
        longer.insert(0, Piece(first.entity, start, first.start))
    if last.straight:
        longer[-1] = replace(longer[-1], end=end)
    else:
        longer.append(Piece(last.entity, last.end, end))
    return longer


__all__ = ["ribs", "work"]
