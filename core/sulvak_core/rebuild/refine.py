"""What rounds, chamfers and shells do to the bodies."""

from __future__ import annotations

import math
from collections import defaultdict
from typing import Any

from ..naming import words as face_words
from ..part.units import number, rounded_down, told
from ..solid.blend import Cut, chamfer, fillet, largest, rounded_off
from ..solid.boolean import combine
from ..solid.edge_convexity import into
from ..solid.frame import plus, scaled
from ..solid.measure import neighbours
from ..solid.shapes import KernelError, Shape, ShapeMap, Solid, faces
from ..solid.shell import shell as hollowed
from ..steps.kinds.chamfer import ChamferStep
from ..steps.kinds.fillet import FilletStep
from ..steps.kinds.shell import ShellStep
from . import grips
from .resolve import Pointing
from .state import State
from .tooling import Done, StepFailure, change_told, counted, nth, what_fits, with_solids, works

HANDLES = 8  # radii of one step that can be taken hold of on the part; more would lie on one another

By = dict[int, list[tuple[Shape, float]]]


# -- rounds and chamfers -----------------------------------------------------------------------------


def round_edges(step: FilletStep, radii: list[float], pointing: Pointing, state: State) -> Done:
    """Carry out a rounding; ``radii`` (mm) one for each group. Raises StepFailure with the largest that would do."""
    by: By = defaultdict(list)
    count = 0
    first: dict[int, tuple[int, Shape]] = {}
    for k, (group, radius) in enumerate(zip(step.groups, radii, strict=True)):
        if radius <= 0:
            raise StepFailure("A radius is more than zero.", field=nth("radius", k))
        for body, edge in pointing.edges(group.edges, step.left_out):
            by[body].append((edge, radius))
            first.setdefault(k, (body, edge))
            count += 1
    if not count:
        raise StepFailure("Choose the edges to round: press them, or take a rule.", pick="edges")
    made: dict[int, Solid] = {}
    for body, picks in by.items():
        solid = state.bodies[body].solid
        try:
            made[body] = _rounded(solid, picks, step.id)
        except KernelError as error:
            raise _too_large(solid, picks, step.id, error) from None
    after = with_solids(state, made)
    held = []
    for k, (index, edge) in sorted(first.items())[:HANDLES]:
        name = f"Radius {k + 1}" if len(first) > 1 else "Radius"
        held += grips.radius(f"groups.{k}.radius", name, state.bodies[index].solid, edge, radii[k])
    return Done(after, f"{counted(count, 'edge')} rounded. {change_told(state, after)}", {"grips": held})


def _rounded(solid: Solid, picks: list[tuple[Shape, float]], step: str) -> Solid:
    """Rounds as the kernel makes them, or where they use up a whole face, as it does not."""
    try:
        return fillet(solid, picks, step)
    except KernelError as error:
        try:
            return rounded_off(solid, picks, step)
        except KernelError:
            raise error from None


def _too_large(solid: Solid, picks: list[tuple[Shape, float]], step: str, error: KernelError) -> StepFailure:
    """Says which radius would fit, all of them in the same proportion."""
    most = max(r for _, r in picks)

    def fits(share: float) -> bool:
        return works(lambda: _rounded(solid, [(e, r * share) for e, r in picks], step))

    found = largest(fits, 1.0)
    if found is None:
        return StepFailure(f"{error.sentence} No radius does: these edges meet in a way that cannot be rounded.")
    # three figures, rounded down, so that it does fit; the next may be what just fits
    fitting = rounded_down(found.fits * most)
    just = fitting + 10.0 ** (math.floor(math.log10(fitting)) - 2)
    if found.found and just < most and fits(just / most):
        fitting = just
    return StepFailure(
        f"R{told(most, sign=False)} does not fit here; {what_fits('the largest that does', found, fitting, most, _r)}",
        largest=fitting,
        field="radius",
    )


def _r(radius: float) -> str:
    return f"R{told(radius, sign=False)}"


def _bare(length: float) -> str:
    return told(length, sign=False)


def chamfer_edges(
    step: ChamferStep, first: float, second: float, angle: float, pointing: Pointing, state: State
) -> Done:
    """Carry out a chamfering. Raises StepFailure with the largest that would do."""
    if first <= 0 or (step.form == "two" and second <= 0):
        raise StepFailure("A chamfer's distances are more than zero.", field="first")
    if step.form == "angle" and not 0 < angle < 90:
        raise StepFailure("A chamfer's angle lies between 0° and 90°.", field="angle")
    chosen = pointing.edges(step.edges, step.left_out)
    if not chosen:
        raise StepFailure("Choose the edges to chamfer: press them, or take a rule.", pick="edges")
    by: dict[int, list[Shape]] = defaultdict(list)
    for body, edge in chosen:
        by[body].append(edge)
    made: dict[int, Solid] = {}
    for body, picked in by.items():
        solid = state.bodies[body].solid
        sides = _first_faces(solid, picked, step.swap)

        def work(
            share: float, solid: Solid = solid, picked: list[Shape] = picked, sides: ShapeMap[Shape] = sides
        ) -> Solid:
            other = second * share if step.form == "two" else None
            lean = angle if step.form == "angle" else None
            return chamfer(solid, [Cut(e, first * share, other, lean, sides.get(e)) for e in picked], step.id)

        try:
            made[body] = work(1.0)
        except KernelError as error:
            found = largest(lambda s, work=work: works(lambda: work(s)), 1.0)  # type: ignore[misc]
            if found is None:
                raise StepFailure(error.sentence) from None
            fitting = rounded_down(found.fits * first)
            raise StepFailure(
                f"A chamfer of {_bare(first)} does not fit here; "
                f"{what_fits('the largest that does', found, fitting, first, _bare)}",
                largest=fitting,
                field="first",
            ) from None
    after = with_solids(state, made)
    body, edge = chosen[0]
    where, sides_told = _sides(step, (first, second, angle), state.bodies[body].solid, edge, pointing)
    said = f"{counted(len(chosen), 'edge')} chamfered{where}. {change_told(state, after)}"
    held = [
        grips.grip(path, name, at["at"], at["way"], size)
        for at, path, name, size in zip(
            sides_told, ("first", "second"), ("Distance", "Second distance"), (first, second), strict=False
        )
        if path == "first" or step.form == "two"
    ]
    return Done(after, said, {"sides": sides_told, "grips": held})


def _sides(
    step: ChamferStep, sizes: tuple[float, float, float], solid: Solid, edge: Shape, pointing: Pointing
) -> tuple[str, list[dict[str, Any]]]:
    """Of an edge: which distance lies on which face, in words where they differ, and as lines to be drawn on them from
    the edge (``at``, ``to`` in mm, ``size`` in mm)."""
    first, second, angle = sizes
    both = grips.sides(solid, edge)
    if not both:
        return "", []
    one, two = both[::-1] if step.swap else both
    across = {"equal": first, "two": second, "angle": first * math.tan(math.radians(angle))}[step.form]
    lines = [_line_into(face, edge, size) for face, size in ((one, first), (two, across))]
    if step.form == "equal":
        return "", lines
    names = [face_words.face(solid.face_tags(f), pointing.document.position) for f in (one, two)]
    other = told(second) if step.form == "two" else f"{number(angle, 4)}° from it"
    rest = f", {other} on the {names[1]}" if step.form == "two" else f", {other}"
    return f": {told(first)} on the {names[0]}{rest}", lines


def _line_into(face: Shape, edge: Shape, size: float) -> dict[str, Any]:
    at, way = into(edge, face)
    return {"at": at, "to": plus(at, scaled(way, size)), "way": way, "size": size}


def _first_faces(solid: Solid, picked: list[Shape], swap: bool) -> ShapeMap[Shape]:
    """For each edge the face its first distance lies on: of its two the one whose origin comes first."""
    found: ShapeMap[Shape] = ShapeMap()
    every = faces(solid.shape)
    for edge, sides in neighbours(solid):
        if any(edge.IsSame(p) for p in picked) and len(sides) == 2:
            ordered = sorted(sides, key=lambda i: sorted(solid.face_tags(every[i])))
            found.put(edge, every[ordered[1 if swap else 0]])
    return found


# -- shell -------------------------------------------------------------------------------------------


def shell_body(step: ShellStep, thickness: float, own: list[float], pointing: Pointing, state: State) -> Done:
    """Carry out a shelling. Raises StepFailure with the largest wall that would do."""
    if thickness <= 0 or any(t <= 0 for t in own):
        raise StepFailure("A wall's thickness is more than zero.", field="thickness")
    opened = pointing.faces(step.faces)
    theirs = [(f, t) for group, t in zip(step.own, own, strict=True) for f in pointing.faces(group.faces)]
    bodies = {b for b, _ in opened} | {b for (b, _), _ in theirs}
    if step.body is not None:
        at = next((i for i, b in enumerate(state.bodies) if b.id == step.body), None)
        if at is None:
            raise StepFailure("The body to shell is gone; choose another.", pick="body")
        bodies.add(at)
    if not bodies and len(state.bodies) == 1:
        bodies = {0}
    if len(bodies) != 1:
        raise StepFailure(
            "A shell works on one body; its faces lie on several."
            if bodies
            else "Choose the face to open, or the body to hollow.",
            pick="faces",
        )
    body = bodies.pop()
    solid = state.bodies[body].solid
    walls = [(f, t) for (_, f), t in theirs]

    def work(share: float) -> Solid:
        return _shelled(solid, [f for _, f in opened], thickness * share, [(f, t * share) for f, t in walls], step)

    try:
        made = work(1.0)
    except KernelError as error:
        found = largest(lambda s: works(lambda: work(s)), 1.0)
        if found is None:
            raise StepFailure(error.sentence) from None
        fitting = rounded_down(found.fits * thickness)
        raise StepFailure(
            f"A wall of {_bare(thickness)} does not fit in this body; "
            f"{what_fits('the thickest that does', found, fitting, thickness, _bare)}",
            largest=fitting,
            field="thickness",
        ) from None
    after = with_solids(state, {body: made})
    return Done(after, f"Leaves a wall of {told(thickness)}. {change_told(state, after)}")


def _shelled(
    solid: Solid, opened: list[Shape], thickness: float, own: list[tuple[Shape, float]], step: ShellStep
) -> Solid:
    if step.side == "outside":
        return hollowed(solid, opened, -thickness, [(f, -t) for f, t in own], step.id)
    if step.side == "inside":
        return hollowed(solid, opened, thickness, own, step.id)
    halves = [(f, t / 2) for f, t in own]
    within = hollowed(solid, opened, thickness / 2, halves, step.id)
    around = hollowed(solid, opened, -thickness / 2, [(f, -t) for f, t in halves], step.id)
    made = combine("union", [within], [around], "shell")
    if len(made) != 1:
        raise KernelError("This wall does not fit: its two halves do not meet.")
    return made[0]
