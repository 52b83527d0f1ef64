"""What the revolve step does to the bodies."""

from __future__ import annotations

from ..sketch.profiles import Profile
from ..solid.frame import Frame, cross, dot, plus, scaled
from ..solid.place import Placing, placed, turned
from ..solid.revolve import revolve as swept
from ..solid.shapes import Solid
from ..steps.kinds.revolve import RevolveStep
from .extrude import regions_for
from .resolve import Axis
from .state import State
from .tooling import Done, StepFailure, targets, used

IN_PLANE = 1e-7  # mm, and sine of an angle


def tools(step: RevolveStep, frame: Frame, profile: Profile, axis: Axis, degrees: float) -> list[Solid]:
    """The solids the regions sweep. Raises StepFailure when the axis lies off the sketch's plane or crosses them."""
    off = dot(plus(axis.at, scaled(frame.origin, -1.0)), frame.normal)
    if abs(dot(axis.direction, frame.normal)) > IN_PLANE or abs(off) > IN_PLANE:
        raise StepFailure("The axis has to lie in the sketch's plane. Pick a line of the sketch, or one of its axes.")
    if not 0 < degrees <= 360 + 1e-9:
        raise StepFailure("An angle of revolution is more than 0° and at most 360°.", field="angle")
    across = cross(frame.normal, axis.direction)
    regions = regions_for(step.regions, profile)
    for region in regions:
        sides = [dot(plus(frame.point(*at), scaled(axis.at, -1.0)), across) for at in _outline(region.outer)]
        if min(sides) < -IN_PLANE and max(sides) > IN_PLANE:
            raise StepFailure("The profile crosses the axis; keep it to one side.", field="axis")
    direction = scaled(axis.direction, -1.0) if step.reverse else axis.direction
    made = [swept(frame, r, axis.at, direction, degrees, step.id) for r in regions]
    if step.symmetric and degrees < 360 - 1e-9:
        made = [placed(m, turned(axis.at, direction, -degrees / 2)) for m in made]
    return made


def _outline(loop: object) -> list[tuple[float, float]]:
    import math

    found: list[tuple[float, float]] = []
    for p in loop:  # type: ignore[attr-defined]
        found += [p.start, p.end]
        for span in p.spans:
            found += list(span)
        if p.radius:
            first = math.atan2(p.start[1] - p.centre[1], p.start[0] - p.centre[0])
            steps = [first + p.sweep * k / 16 for k in range(1, 16)]
            found += [(p.centre[0] + p.radius * math.cos(a), p.centre[1] + p.radius * math.sin(a)) for a in steps]
    return found


def revolve(step: RevolveStep, frame: Frame, profile: Profile, axis: Axis, degrees: float, state: State) -> Done:
    """Carry out a revolve. Raises StepFailure."""
    on = targets(state, step.bodies)
    made = tools(step, frame, profile, axis, degrees)
    return used(step.id, step.operation, state, on, made)


def again(made: list[Solid], placing: Placing | None) -> list[Solid]:
    """The step's tools for a pattern."""
    return [placed(m, placing) for m in made] if placing else made
